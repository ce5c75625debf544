"""Headless Chromium of Debian's package."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from playwright.sync_api import Browser, Locator, Page, expect, sync_playwright

FLAGS = (
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
)


@contextmanager
def chromium() -> Iterator[Browser]:
    """Give a browser, closed again at the end."""
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=list(FLAGS))
        try:
            yield browser
        finally:
            browser.close()


def choose(within: Page | Locator, label: str, option: str) -> None:
    """Choose one of a list by what it is called: open it, type a part, and press what is offered."""
    box = within.get_by_role("combobox", name=label, exact=True)
    box.click()
    box.fill(option)
    page = within if isinstance(within, Page) else within.page
    page.locator(".el-select-dropdown:visible").get_by_role("option", name=option).first.click()
    expect(page.locator(".el-select-dropdown:visible")).to_have_count(0)


def tick(within: Page | Locator, label: str, *, ticked: bool = True) -> None:
    """Tick one of several, or clear it, by the words beside it: the box itself is drawn and can't be pressed."""
    box = within.get_by_label(label).first
    box.locator("xpath=ancestor::label[1]").click()
    expect(box).to_be_checked(checked=ticked)
