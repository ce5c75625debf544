"""Sheets written out: as Markdown, and as a page that prints well and needs nothing from anywhere."""

from __future__ import annotations

from functools import lru_cache

from jinja2 import Environment, PackageLoader, StrictUndefined, select_autoescape

from pontifex.core.handover.sheets.sheet import Sheet


def sheet_markdown(sheet: Sheet) -> str:
    """Return a sheet as Markdown."""
    return page_environment().get_template("sheet.md.jinja").render(sheet=sheet)


def sheet_html(sheet: Sheet) -> str:
    """Return a sheet as a page of HTML."""
    return page_environment().get_template("sheet.html.jinja").render(sheet=sheet)


@lru_cache(maxsize=1)
def page_environment() -> Environment:
    """Return what renders the pages of a hand-over: text is never markup."""
    loader = PackageLoader("pontifex.core.handover.sheets", "templates")
    environment = Environment(
        loader=loader,
        autoescape=select_autoescape(["html.jinja"]),
        undefined=StrictUndefined,
        trim_blocks=True,
        lstrip_blocks=True,
    )
    environment.filters["cell"] = lambda text: str(text).replace("|", "\\|")
    return environment
