"""Clouds in the browser: a peering of two accounts of a stand-in cloud is mended, and read back."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from pontifex.demo.clouds import BOOKING, REPORTING
from pontifex.demo.stand_in_cloud import demo_cloud
from pontifex.standins import ServedCloud


@pytest.fixture
def cloud(tmp_path: Path) -> Iterator[ServedCloud]:
    """The cloud of the demo, of this test's own."""
    served = demo_cloud(tmp_path / "cloud.json", lambda: datetime.now(UTC))
    served.start()
    yield served
    served.stop()


def _reach(page: Page, design: str, cloud: ServedCloud, account: str, token: str) -> None:
    """Say how an account is reached, in the form."""
    page.goto(f"{design}/clouds/accounts")
    page.get_by_role("button", name=f"How {account} is reached").click()
    form = page.get_by_role("form", name=f"How {account} is reached")
    form.get_by_role("textbox", name="Host and port").fill(cloud.address)
    form.get_by_label(f"Token of {account}").fill(token)
    form.get_by_role("button", name="Ask what it shows").click()
    expect(form).to_contain_text(cloud.fingerprint)
    form.get_by_text("The cloud's own certificate has this SHA-256").click()
    form.get_by_role("button", name="Save").click()
    expect(form).to_be_hidden()


def test_a_peering_is_mended_in_the_cloud_and_in_the_design(page: Page, design: str, cloud: ServedCloud):
    """Accepted, active after a while, a route in both tables, told to the design; then the rule that answers need."""
    page.goto(f"{design}/clouds")
    peering = page.get_by_role("region", name="Basalt–Gneiss")
    expect(peering).to_contain_text("read this account first")
    expect(page.get_by_role("status")).to_contain_text(["No account is reached from here yet"])
    for account in (BOOKING, REPORTING):
        _reach(page, design, cloud, account, cloud.tokens[account])
    page.get_by_role("button", name="Read the clouds").click()
    page.get_by_role("tab", name="Peerings").click()
    expect(peering.get_by_role("status")).to_have_text("waits for an answer")
    peering.get_by_role("button", name=f"Accept the request of Basalt network, {REPORTING}").click()
    expect(peering.get_by_role("status")).to_have_text("active")  # the page reads again while the cloud is at it
    for prefix, account in (("10.81.0.0/20", BOOKING), ("10.80.0.0/20", REPORTING)):
        peering.get_by_role("button", name=f"Route {prefix} in the main table, {account}").click()
        expect(peering.get_by_role("button", name=f"Route {prefix}")).to_be_hidden()
    reports = peering.get_by_role("table").last
    expect(reports).to_contain_text("no subnet rule of Gneiss lets the answer out of reporting")
    page.get_by_role("button", name="Take it over").click()
    expect(page.get_by_text("say so in the design")).to_be_hidden()
    card = page.get_by_role("article").filter(has_text="A subnet's rules block the answer")
    card.get_by_role("button", name="Mend").click()
    page.get_by_role("button", name="Apply these changes").click()
    expect(card).to_be_hidden()
    page.get_by_role("tab", name="What differs").click()
    expect(page.get_by_text("1 difference beside the peerings")).to_be_visible()
    page.get_by_role("button", name=f"Add the rule gneiss-reporting-subnet-out, {REPORTING}").click()
    expect(page.get_by_text("0 differences beside the peerings")).to_be_visible()
    page.get_by_role("tab", name="Peerings").click()
    expect(reports).to_contain_text("arrives and returns")
    expect(reports).not_to_contain_text("no answer")


def test_a_token_that_opens_nothing_is_told_and_nothing_is_lost(page: Page, design: str, cloud: ServedCloud):
    """The cloud's own words beside the account; what was read before stays to be seen."""
    _reach(page, design, cloud, BOOKING, cloud.tokens[BOOKING])
    page.get_by_role("button", name=f"Read {BOOKING}").click()
    row = page.get_by_role("row").filter(has_text=BOOKING)
    expect(row).not_to_contain_text("not yet")
    _reach(page, design, cloud, BOOKING, "forged")
    page.get_by_role("button", name=f"Read {BOOKING}").click()
    expect(page.get_by_role("alert")).to_contain_text("doesn't know this token")
    expect(row).not_to_contain_text("not yet")
    expect(page.locator("body")).not_to_contain_text("forged")
    page.goto(f"{design}/clouds")
    expect(page.get_by_role("article", name="Basalt network")).to_contain_text("in the cloud")


def test_cloud_rules_are_edited_in_their_table(page: Page, design: str):
    """A finding about a cloud leads to its table; the stage of the work counts it."""
    page.goto(f"{design}/clouds/tables/cloud_networks")
    grid = page.get_by_role("grid")
    grid.get_by_role("gridcell", name="10.80.0.0/20").dblclick()
    page.keyboard.press("Control+A")
    page.keyboard.type("10.80.0.0/21")
    page.keyboard.press("Enter")
    card = page.get_by_role("article").filter(has_text="A subnet outside the blocks").first
    expect(card).to_contain_text("Basalt network has 10.80.0.0/21 alone")
    expect(page.get_by_role("navigation", name="Stages of the work").get_by_role("link", name="Clouds")).to_contain_text("2")
