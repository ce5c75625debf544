"""Exits in the browser: who leaves under which address, what leaks, and a setting that didn't take."""

from __future__ import annotations

from playwright.sync_api import BrowserContext, Page, expect

from pontifex.core.design_file import write_design_file
from tests.support.exits import exit_by_ike
from tests.support.running import RunningProduct


def test_a_setting_that_did_not_take_is_found_by_its_outside_address(page: Page, design: str):
    """The worklist tells it; what can't be an address is refused and stays; the right one ends it."""
    page.goto(f"{design}/paths/exits")
    card = page.get_by_role("article", name="Dry Dock's exit")
    row = card.get_by_role("row").filter(has_text="tide log")
    expect(row).to_contain_text("192.0.2.130, by Basalt front door")
    expect(row).to_contain_text("leaks:")
    expect(row).to_contain_text("the setting didn’t take")
    told = page.get_by_role("article").filter(has_text="The exit's setting didn't take")
    expect(told).to_be_visible()
    field = row.get_by_role("textbox", name="tide log seen outside as")
    field.fill("192.0.2.13x")
    field.press("Enter")
    expect(row.get_by_role("alert")).to_contain_text("is not a decimal number")
    expect(field).to_have_value("192.0.2.13x")
    field.fill("203.0.113.201")  # as it was before
    field.press("Enter")
    expect(row.get_by_role("alert")).to_be_hidden()
    field.fill("192.0.2.130")
    field.press("Enter")
    expect(row).to_contain_text("as it should be")
    expect(told).to_be_hidden()


def test_what_is_held_leaks_no_more(page: Page, design: str):
    """The worklist's remedy for the rule shows in the exit's picture."""
    page.goto(f"{design}/paths/exits")
    card = page.get_by_role("article", name="Dry Dock's exit")
    expect(card).to_contain_text("leaks:")
    page.get_by_role("article").filter(has_text="Leaves unprotected on failure").get_by_role("button", name="Mend").click()
    page.get_by_role("button", name="Apply these changes").click()
    expect(card).not_to_contain_text("leaks:")
    expect(card.get_by_role("row").filter(has_text="tide log")).to_contain_text("held")
    expect(card).to_contain_text("Publish 8080, 8090 at exit box, and start exit box anew")


def test_exits_and_lists_of_prefixes_have_tables(page: Page, design: str):
    """Among the tables of Paths: the exit of the demo, and an empty list of lists with its columns."""
    page.goto(f"{design}/paths/tables/exits")
    expect(page.get_by_role("radio", name="Exits 1")).to_be_checked()
    expect(page.get_by_role("grid")).to_contain_text("exit box")
    page.get_by_text("Prefix lists 0").click()
    expect(page.get_by_role("grid")).to_contain_text("As of")


def test_the_outside_address_is_rehearsed(page: Page, context: BrowserContext, product: RunningProduct, design: str):
    """By IKE as over TLS the address changes as foreseen, and returns."""
    made = context.request.post(
        f"{product.base}/api/designs/import",
        data=write_design_file(exit_by_ike()),
        headers={"Content-Type": "application/json"},
    ).json()
    for address in (f"{product.base}/d/{made['id']}", design):
        page.goto(f"{address}/paths/exits")
        page.get_by_role("article", name="Dry Dock's exit").get_by_role("button", name="Rehearse").click()
        seen = page.get_by_role("region", name="Rehearsed").get_by_role("row").filter(has_text="tide log")
        expect(seen).to_contain_text("its provider’s address, by yard line")
        expect(seen).to_contain_text("192.0.2.130, by front door")
        expect(seen).to_contain_text("answered after")
