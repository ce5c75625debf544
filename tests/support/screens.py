"""What tests find on the screens."""

from __future__ import annotations

from playwright.sync_api import Locator, Page


def sentence(page: Page) -> Locator:
    """The forecast's sentence."""
    return page.locator(".sentence")


def edit(page: Page, name: str) -> None:
    """Open the editor of a value."""
    page.get_by_role("button", name=name).click()
