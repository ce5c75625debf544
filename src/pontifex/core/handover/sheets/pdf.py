"""Pages as PDF, set by Pango; nothing is fetched for it from anywhere."""

from __future__ import annotations

from typing import Final

_PAGE: Final = (
    '@page { size: A4; margin: 16mm; @bottom-right { content: counter(page) " / " counter(pages); font-size: 9px } }'
    " body { max-width: none; padding: 0 }"
)


def pdf_of(html: str) -> bytes:
    """Return a page of ours as PDF, on A4 with its number at the foot."""
    from weasyprint import CSS, HTML
    from weasyprint.urls import URLFetcher

    nothing = URLFetcher(allowed_protocols=(), allow_redirects=False)
    written: bytes = HTML(string=html, url_fetcher=nothing).write_pdf(stylesheets=[CSS(string=_PAGE, url_fetcher=nothing)])
    return written
