"""Devices that are reached from here, in the browser: the demo's planned change is applied to its stand-in gateways."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect


def test_the_planned_change_is_applied_read_back_mended_and_lasts(page: Page, product):
    """The plan is entered over the connection; Ostvik drops a value, takes it the second time, and keeps it."""
    design = f"{product.base}/d/skerry-line"
    page.goto(f"{design}/handover/devices")
    page.get_by_role("button", name="Read all that are reached").click()
    expect(page.get_by_role("status").filter(has_text="5 of 5 read")).to_be_visible(timeout=120_000)
    row = page.get_by_role("row").filter(has_text="Ostvik router")
    expect(row.get_by_text("2 of 21")).to_be_visible()
    worklist = page.get_by_role("complementary", name="Worklist")
    expect(worklist.get_by_role("link", name="Ostvik router: 2 settings")).to_be_visible()
    page.get_by_role("link", name="Harbour firewall pair", exact=True).click()
    page.get_by_role("region", name="Device").get_by_role("link", name="Plan the steps that mend it").click()
    expect(page.get_by_role("status").filter(has_text="Proved at each of 4 steps")).to_be_visible()
    page.get_by_role("button", name="Walk this plan").click()
    state = page.get_by_role("status").filter(has_text="steps entered")
    for step, entered in (("Enter it", 1), ("Save", 2)):
        page.get_by_role("button", name=f"{step} by RESTCONF").click()
        expect(state).to_contain_text(f"{entered} of 4 steps")
    page.get_by_role("button", name="Try it out").click()
    expect(page.get_by_text("PUT pontifex-gateway:gateway/tunnel-end=harbour-ostvik,right/dead-peer-s: 30")).to_be_visible()
    expect(state).to_contain_text("2 of 4 steps")
    page.get_by_role("button", name="Enter it by RESTCONF").click()
    expect(state).to_contain_text("stopped by a check")
    expect(page.get_by_text(re.compile("dead peer s is 120, not 30"))).to_be_visible()
    page.get_by_role("button", name="Enter it again by RESTCONF").click()
    expect(state).to_contain_text("3 of 4 steps")
    page.get_by_role("button", name="Save by RESTCONF").click()
    expect(state).to_contain_text("4 of 4 steps")
    page.goto(f"{design}/handover/devices/ostvik-gateway")
    page.get_by_role("button", name="Restart …").click()
    page.get_by_role("button", name="Restart", exact=True).click()
    expect(page.get_by_role("status").filter(has_text="Restarted, and read again.")).to_be_visible(timeout=120_000)
    expect(page.get_by_text("0 of 21 settings not as intended")).to_be_visible()
    expect(worklist.get_by_text("Devices not as intended")).to_have_count(0)


def test_a_device_is_reached_only_once_it_was_compared(page: Page, product, design: str):
    """Nothing answers, or it wasn't compared: nothing is kept; once it was, the device is read, and its password isn't shown."""
    page.goto(f"{product.base}/d/skerry-line/handover/devices/harbour-gateway")
    shown = page.get_by_role("button", name=re.compile("^Reached by RESTCONF at")).text_content() or ""
    address = shown.split()[4]
    page.goto(f"{design}/handover/devices/harbour-gateway")
    page.get_by_role("button", name="Say how it is reached …").click()
    form = page.get_by_role("form", name="How the device is reached")
    form.get_by_label("Host and port").fill("127.0.0.1:9")
    form.get_by_label("User").fill("stand-in")
    form.get_by_label("Password").fill("a guessed password")
    form.get_by_role("button", name="Ask what it shows").click()
    expect(form.get_by_role("alert")).to_contain_text("Nothing that speaks TLS answers")
    form.get_by_label("Host and port").fill(address)
    form.get_by_role("button", name="Ask what it shows").click()
    expect(form.get_by_role("button", name="Save")).to_be_disabled()
    form.get_by_text("The device's own certificate has this SHA-256").click()
    form.get_by_role("button", name="Save").click()
    page.get_by_role("button", name="Read it now").click()
    expect(page.get_by_role("alert")).to_contain_text("t let this user in")
    page.get_by_role("button", name=re.compile("^Reached by RESTCONF")).click()
    expect(form.get_by_label("Password")).to_have_value("")
    form.get_by_role("button", name="Forget how it is reached").click()
    expect(page.get_by_role("button", name="Say how it is reached …")).to_be_visible()
