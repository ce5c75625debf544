"""Rehearse in the browser: what happened, message by message, faults from a menu, and the whole design."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect


def test_a_fault_of_the_design_is_seen_at_its_message(page: Page, design: str):
    """The sentence says where it stopped and that the forecast said so; the message that refuses is opened."""
    page.goto(f"{design}/rehearse/harbour-tarn")
    expect(page.get_by_role("status").filter(has_text="Stopped at Init")).to_contain_text("The forecast said so.")
    messages = page.get_by_role("region", name="Messages between the gateways")
    refusal = messages.get_by_role("button", name=re.compile("NO_PROPOSAL_CHOSEN")).first
    refusal.click()
    expect(refusal).to_have_attribute("aria-expanded", "true")
    expect(messages.get_by_text("NOTIFY").first).to_be_visible()
    expect(page.get_by_role("region", name="Gateway of Tarn Port Authority")).to_contain_text("no Child SA")
    worklist = page.get_by_role("complementary", name="Worklist")
    expect(worklist.get_by_text("No common Child SA proposal")).to_be_visible()
    expect(worklist.get_by_text("Identities differ in case")).to_have_count(0)


def test_a_fault_is_added_and_taken_back(page: Page, design: str):
    """What is let happen stands in the address, so that the state has a link; without it the course is the usual one."""
    page.goto(f"{design}/rehearse/harbour-ostvik")
    expect(page.get_by_role("status").filter(has_text="The tunnel came up")).to_be_visible()
    bar = page.get_by_role("form", name="What is let happen")
    bar.get_by_role("textbox", name="After, such as 30s or 15m").fill("2m")
    bar.get_by_role("combobox", name="What happens").click()
    page.get_by_role("option", name="the gateway restarts", exact=True).click()
    bar.get_by_role("button", name="Add").click()
    expect(page).to_have_url(re.compile("fault=2m(\\+|%20)restart(\\+|%20)left"))
    expect(page.get_by_role("status").filter(has_text="the tunnel is up at the end")).to_be_visible()
    expect(page.get_by_role("group", name="Time").get_by_role("button", name=re.compile("fault"))).to_be_visible()
    page.reload()
    expect(bar.get_by_text("2m: the gateway restarts, left")).to_be_visible()
    bar.get_by_label("Close").click()
    expect(page.get_by_role("status").filter(has_text="The tunnel came up")).to_be_visible()


def test_the_order_of_starting_is_chosen(page: Page, design: str):
    """Steps stand in the address; a restart that nobody saved for leaves nothing, and the sentence says so."""
    page.goto(f"{design}/rehearse/harbour-ostvik?fault=2m+restart+left")
    page.get_by_role("combobox", name="Started").click()
    page.get_by_role("option", name="right, then left; nothing saved").click()
    expect(page).to_have_url(re.compile("step=start(\\+|%20)right&step=start(\\+|%20)left"))
    expect(page.get_by_role("status").filter(has_text="the tunnel is down at the end")).to_be_visible()
    expect(page.get_by_role("region", name="Gateway of Harbour House")).to_contain_text("never saved")


def test_the_scrubber_shows_both_ends_at_a_time(page: Page, design: str):
    """Before the call nothing stands at either end; at the end both have a Child SA. The place has a link."""
    page.goto(f"{design}/rehearse/harbour-ostvik?at=0")
    ends = page.get_by_role("region", name=re.compile("Gateway of"))
    expect(ends.first).to_contain_text("no Child SA")
    page.get_by_role("slider", name="Packet on the time axis").press("End")
    expect(ends.first).to_contain_text("a Child SA stands")
    expect(page).not_to_have_url(re.compile("at=0$"))


def test_a_tunnel_over_tls_is_rehearsed(page: Page, design: str):
    """Its hello, the cipher, and TLS stand in the ladder; its gateways have a connection, and no Child SA."""
    page.goto(f"{design}/rehearse/dock-exit?show=probes")
    probes = page.get_by_role("region", name="Probes before and after")
    outside = probes.get_by_role("row").filter(has_text="Dry Dock: the address seen outside")
    expect(outside).to_contain_text("seen as 192.0.2.129")
    expect(outside).to_contain_text("seen as 192.0.2.130")
    expect(probes.get_by_role("row").filter(has_text="Dry Dock → Basalt: hop by hop")).to_contain_text("10.80.4.10")
    expect(page.get_by_role("status").filter(has_text="The forecast said so")).to_be_visible()
    expect(page.get_by_role("tab", name=re.compile(r"Probes \d+$"))).to_be_visible()
    page.get_by_role("tab", name=re.compile("Messages")).click()
    ladder = page.get_by_label("Messages between the gateways")
    for told in ("hello", "cipher taken", "TLS"):
        expect(ladder.get_by_text(told, exact=True).first).to_be_visible()
    expect(page.get_by_label("Gateway of Dry Dock")).to_contain_text("a connection stands")


def test_a_capture_is_saved(page: Page, design: str):
    """The capture and its session keys come as two files."""
    page.goto(f"{design}/rehearse/harbour-brenna")
    expect(page.get_by_role("status").filter(has_text="Stopped at Auth")).to_be_visible()
    saved: list[str] = []
    page.on("download", lambda download: saved.append(download.suggested_filename))
    with page.expect_download():
        page.get_by_role("button", name="Save capture and keys").click()
    page.wait_for_function("() => true")
    expect(page.get_by_role("button", name="Save capture and keys")).to_be_enabled()
    assert "harbour-brenna.pcapng" in saved


def test_a_peering_is_requested_and_not_accepted(page: Page, design: str):
    """Both accounts' logs, and one sentence; there are no packets to be saved."""
    page.goto(f"{design}/rehearse/basalt-gneiss")
    expect(page.get_by_role("status").filter(has_text="Gneiss never accepts the request")).to_contain_text(
        "The forecast said so."
    )
    expect(page.get_by_role("region", name="Gateway of Gneiss")).to_contain_text("A request of Basalt waits for an answer.")
    expect(page.get_by_role("button", name="Save capture and keys")).to_be_disabled()


def test_the_whole_design_at_once(page: Page, design: str):
    """Every tunnel with its outcome beside the forecast; a tunnel's name leads to its rehearsal."""
    page.goto(f"{design}/rehearse")
    page.get_by_role("button", name="Rehearse all 11").click()
    expect(page.get_by_text("11 of 11 rehearsed; each ended as forecast")).to_be_visible()
    table = page.get_by_label("Forecast and outcome")
    expect(table.get_by_text("Gneiss never accepts the request")).to_be_visible()
    table.get_by_role("link", name="Harbour–Corvina").click()
    expect(page.get_by_role("status").filter(has_text="the identity isn't the expected one")).to_be_visible()
