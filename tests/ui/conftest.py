"""The running product and a real browser."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, expect

from tests.support.browser import chromium
from tests.support.running import RunningProduct

expect.set_options(timeout=60_000)


@pytest.fixture(scope="package")
def product() -> Iterator[RunningProduct]:
    """The product as `make demo` starts it, on a state directory of its own."""
    with tempfile.TemporaryDirectory(prefix="pontifex-ui-") as state:
        Path(state).chmod(0o711)
        running = RunningProduct(Path(state))
        running.start()
        yield running
        running.stop()


@pytest.fixture(scope="package")
def browser() -> Iterator[Browser]:
    """Headless Chromium."""
    with chromium() as opened:
        yield opened


@pytest.fixture
def context(browser: Browser, product: RunningProduct) -> Iterator[BrowserContext]:
    """A fresh browser profile that has opened the printed address; the page's own errors fail the test."""
    opened = browser.new_context(viewport={"width": 1280, "height": 800}, permissions=["clipboard-read", "clipboard-write"])
    opened.set_default_timeout(60_000)
    errors: list[str] = []
    opened.on("weberror", lambda error: errors.append(str(error.error)))
    opened.request.get(product.address)
    yield opened
    opened.close()
    assert not errors


@pytest.fixture
def design(context: BrowserContext, product: RunningProduct) -> str:
    """The address of a copy of the demo that is this test's own."""
    address = f"{product.base}/api/designs/skerry-line/export"
    exported = context.request.get(address, max_retries=2).body()  # a connection kept from before may be closed by now
    headers = {"Content-Type": "application/json"}
    made = context.request.post(f"{product.base}/api/designs/import", data=exported, headers=headers).json()
    return f"{product.base}/d/{made['id']}"


@pytest.fixture
def page(context: BrowserContext) -> Page:
    """A page of that profile."""
    return context.new_page()
