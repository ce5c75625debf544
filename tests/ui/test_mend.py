"""The way through the product: see what is wrong, mend it, find it mended after a restart."""

from __future__ import annotations

import signal

import pytest
from playwright.sync_api import BrowserContext, Page, expect

from tests.support.browser import choose
from tests.support.running import RunningProduct
from tests.support.screens import sentence

KEYS_DIFFER = "Stops at Auth: the keys differ only by a trailing blank at Brenna Terminal."
COMES_UP = "Comes up."


def filled(page: Page):
    """The stages of the shown tunnel's strip that hold."""
    return page.locator(".ends").get_by_role("list", name="Forecast").locator("li.holds")


@pytest.fixture
def own_product(tmp_path_factory):
    """A product that this test may stop and start."""
    running = RunningProduct(tmp_path_factory.mktemp("state"))
    running.start()
    yield running
    running.stop()


def test_mend_undo_and_find_it_mended_after_a_restart(own_product: RunningProduct, browser):
    """Tunnel 2 says why it stops; one press mends it; undo brings the fault back; mended it stays after a restart."""
    page = browser.new_page()
    page.goto(own_product.address)
    expect(page.get_by_role("heading", name="Skerry Line")).to_be_visible()
    page.locator(".arc-name", has_text="Harbour–Brenna").click()
    expect(sentence(page)).to_have_text(KEYS_DIFFER)
    expect(filled(page)).to_have_count(2)

    page.get_by_role("button", name="Mend").click()
    expect(page.get_by_text("Harbour–Brenna · Right end: Pre-shared key")).to_be_visible()
    page.get_by_role("button", name="Apply these changes").click()
    expect(sentence(page)).to_contain_text(COMES_UP)
    expect(filled(page)).to_have_count(7)
    expect(page.get_by_role("link", name="Revision 1")).to_be_visible()

    page.get_by_role("button", name="Undo").click()
    expect(sentence(page)).to_have_text(KEYS_DIFFER)
    expect(filled(page)).to_have_count(2)
    page.get_by_role("button", name="Redo").click()
    expect(sentence(page)).to_contain_text(COMES_UP)

    own_product.stop()
    page.get_by_text("not in touch with the server").wait_for()
    own_product.start()
    page.reload()
    expect(sentence(page)).to_contain_text(COMES_UP)
    expect(filled(page)).to_have_count(7)
    page.get_by_role("link", name="Revision 3").click()
    expect(page.get_by_text("redo of 1: Make Brenna Terminal like Harbour House: the key")).to_be_visible()
    page.close()


def test_a_killed_server_leaves_nothing_behind(own_product: RunningProduct):
    """After kill -9 the next start adopts the database that was left running, and Ctrl-C stops it again."""
    process = own_product._process
    assert process is not None
    process.kill()
    process.wait()
    own_product.start()
    assert "Stopped." in own_product.stop(signal.SIGTERM)
    pid_file = own_product.state / "postgresql" / "data" / "postmaster.pid"
    assert not pid_file.exists()


def test_two_browsers_see_each_other_and_collide(context: BrowserContext, page: Page, design: str):
    """What one browser changes shows in the other; a change from an older state is refused, and what was typed stays."""
    other = context.new_page()
    for window in (page, other):
        window.goto(f"{design}/match/harbour-ostvik")
        expect(sentence(window)).to_contain_text(COMES_UP)
    mine = page.get_by_role("button", name="Who calls at Ostvik Terminal")
    other.route("**/api/designs/*", lambda route: route.abort())  # the other browser is cut off from news
    mine.click()
    choose(page, "Who calls at Ostvik Terminal", "wait")
    page.get_by_role("button", name="Save").click()
    expect(sentence(page)).to_contain_text("both ends wait, so nobody calls")

    other.get_by_role("button", name="Where Ostvik Terminal finds Harbour House at Ostvik Terminal").click()
    field = other.get_by_label("Where Ostvik Terminal finds Harbour House at Ostvik Terminal", exact=True)
    field.fill("192.0.2.1")
    other.get_by_role("button", name="Save").click()
    notice = other.get_by_role("alert").filter(has_text="Somebody was quicker")
    expect(notice).to_contain_text("Harbour–Ostvik")
    expect(notice).to_contain_text("call → wait")
    expect(field).to_have_value("192.0.2.1")

    other.unroute("**/api/designs/*")
    expect(sentence(other)).to_contain_text("both ends wait, so nobody calls")
    other.get_by_role("button", name="Save").click()
    expect(sentence(other)).to_contain_text("Stops at Reach")
    expect(page.get_by_role("button", name="at Ostvik Terminal: 192.0.2.1")).to_be_visible()
