"""The headers that every answer carries, and the methods that change nothing."""

from __future__ import annotations

from typing import Final

SAFE_METHODS: Final = ("GET", "HEAD", "OPTIONS")
SECURITY_HEADERS: Final = [
    (
        b"content-security-policy",
        b"default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; frame-ancestors 'none'; "
        b"base-uri 'none'; form-action 'self'; object-src 'none'",
    ),
    (b"x-content-type-options", b"nosniff"),
    (b"referrer-policy", b"no-referrer"),
]
LINKED_PATHS: Final = ("/partner/", "/key/")  # pages for whoever holds a link
# a form without a script says where it comes from only as far as its page lets it (Fetch, section 3.2)
_WITH_FORM: Final = [(name, b"same-origin" if name == b"referrer-policy" else value) for name, value in SECURITY_HEADERS]


def add_headers(headers: list[tuple[bytes, bytes]], path: str) -> None:
    """Add the security headers to those of an answer, and what the API doesn't say itself: that it is not to be kept."""
    headers.extend(_WITH_FORM if path.startswith(LINKED_PATHS) else SECURITY_HEADERS)
    if path.startswith("/api/") and not any(name.lower() == b"cache-control" for name, _ in headers):
        headers.append((b"cache-control", b"no-store"))
