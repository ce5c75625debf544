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


def add_headers(headers: list[tuple[bytes, bytes]], path: str) -> None:
    """Add the security headers to those of an answer, and what the API doesn't say itself: that it is not to be kept."""
    headers.extend(SECURITY_HEADERS)
    if path.startswith("/api/") and not any(name.lower() == b"cache-control" for name, _ in headers):
        headers.append((b"cache-control", b"no-store"))
