"""A site that nobody can call, in the browser: what its call is made of, and another one like it."""

from __future__ import annotations

from playwright.sync_api import Page, expect

from tests.support.browser import choose


def test_what_a_call_is_made_of_and_how_long_it_takes(page: Page, design: str):
    """Only the vessel can call, and it waits; the remedy lets it; a round trip that was measured is compared."""
    page.goto(f"{design}/match/harbour-aurelia")
    facts = page.get_by_role("region", name="A call that one end alone can make")
    expect(facts).to_contain_text("Only MV Aurelia can call, over UDP 500 and 4500, and it waits; nobody can call it.")
    page.get_by_role("article").filter(has_text="Both ends wait").get_by_role("button", name="Mend").first.click()
    page.get_by_role("button", name="Apply these changes").click()
    expect(facts).to_contain_text("and does; nobody can call it.")
    expect(facts).to_contain_text("About 152 ms are to be expected")
    field = page.get_by_role("spinbutton", name="Round trip as measured, ms")
    field.fill("400")
    field.press("Enter")
    expect(facts).to_contain_text("It takes 400 ms, and about 152 ms were to be expected: the way is another one.")
    expect(page.get_by_role("article").filter(has_text="It takes longer than it should")).to_be_visible()


def test_an_inner_address_is_taken_by_one_press(page: Page, design: str):
    """The caller of the exit has none; the proposed network is taken, and undo gives it back."""
    page.goto(f"{design}/match/dock-exit")
    facts = page.get_by_role("region", name="A call that one end alone can make")
    facts.get_by_role("button", name="Take 10.95.0.8/30 inside").click()
    expect(facts).to_contain_text("Dry Dock is always 10.95.0.9/30 inside the tunnel")
    page.get_by_role("button", name="Undo").click()
    expect(facts.get_by_role("button", name="Take 10.95.0.8/30 inside")).to_be_visible()


def test_another_one_like_it_is_previewed_before_it_is_made(page: Page, design: str):
    """One end stays, the other stands at another site, by what the tunnel is made of; then it is made as one change."""
    page.goto(f"{design}/match/brenna-basalt-cable?open=another")
    form = page.get_by_role("form", name="Another one like it")
    choose(form, "This end stays", "Basalt")
    choose(form, "The other one at", "Ostvik Terminal")
    form.get_by_role("button", name="Preview it").click()
    connect = page.get_by_role("region", name="Connect sites")
    expect(connect).to_contain_text("As Brenna–Basalt cable, new")
    expect(connect).to_contain_text("Basalt–Ostvik Terminal")
    page.get_by_role("button", name="Make 1 tunnel").click()
    expect(page.get_by_text("Basalt–Ostvik Terminal").first).to_be_visible()
