"""The description of the programming interface: for people with a session, from this server alone."""

from __future__ import annotations

from playwright.sync_api import Browser, expect

from tests.support.running import RunningProduct


def test_the_programming_interface_is_described(product: RunningProduct, browser: Browser):
    """From the list of designs one comes to all operations, finds one by a word, and reads what it takes and answers."""
    page = browser.new_page()
    foreign: list[str] = []
    page.on("request", lambda request: None if request.url.startswith(product.base) else foreign.append(request.url))
    page.goto(product.address)
    page.goto(f"{product.base}/")
    page.get_by_role("link", name="Programming interface").click()
    page.get_by_placeholder("Path, word or name of a type").fill("undo")
    page.get_by_role("button", name="POST /api/designs/{design_id}/undo").click()
    expect(page.get_by_role("cell", name="design_id")).to_be_visible()
    expect(page.get_by_role("cell", name="409")).to_be_visible()
    assert not [url for url in foreign if not url.startswith(("data:", "blob:"))]


def test_without_a_session_nothing_is_described(product: RunningProduct, browser: Browser):
    """The page of somebody who isn't signed in says so, and shows nothing."""
    page = browser.new_context().new_page()
    page.goto(f"{product.base}/reference")
    expect(page.get_by_role("heading", name="No session")).to_be_visible()
