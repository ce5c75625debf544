"""Match: edited in place, keys set and shown once; and every view for everyone."""

from __future__ import annotations

from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.support.browser import tick
from tests.support.running import RunningProduct
from tests.support.screens import edit, sentence

AXE = Path(__file__).parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js"


def test_values_are_edited_in_place(page: Page, design: str):
    """Networks, identities and roles are typed where they stand; what is refused stays, with the reason beside it."""
    page.goto(f"{design}/match/harbour-ostvik")
    edit(page, "Ostvik Terminal's networks at Harbour House")
    field = page.get_by_label("Ostvik Terminal's networks at Harbour House", exact=True)
    field.fill("10.65.0.0/24, 10.65.4.1/23")
    field.press("Enter")
    expect(page.get_by_role("alert")).to_have_text("host bits are set in 10.65.4.1/23; did you mean 10.65.4.0/23?")
    expect(field).to_have_value("10.65.0.0/24, 10.65.4.1/23")
    field.fill("10.65.0.0/24")
    field.press("Enter")
    expect(sentence(page)).to_have_text(
        "Comes up, for less than asked at Child: never passes: 10.65.4.0/23 only at Ostvik Terminal."
    )
    expect(page.locator(".row.narrowed").get_by_role("img", name="narrowed")).to_be_visible()
    edit(page, "Ostvik Terminal's identity at Ostvik Terminal")
    page.get_by_label("Ostvik Terminal's identity at Ostvik Terminal", exact=True).fill("Ostvik.skerry.example")
    page.get_by_role("button", name="Save").click()
    expect(sentence(page)).to_have_text(
        "Stops at Auth: Ostvik Terminal's identities differ in case (Ostvik.skerry.example and ostvik.skerry.example)."
    )
    expect(page.locator(".row.differs").get_by_role("img", name="differs")).to_be_visible()


def test_the_worklist_puts_the_cursor_on_the_spot(page: Page, design: str):
    """A press on a finding goes to its tunnel and field, and the address alone leads there, too."""
    page.goto(f"{design}/survey")
    page.get_by_role("button", name="Keys differ").click()
    expect(page.locator("[data-spot]:focus")).to_contain_text("43 characters")
    page.reload()
    expect(page.locator("[data-spot]:focus")).to_contain_text("43 characters")
    page.keyboard.press("ArrowUp")
    expect(page.locator("[data-spot]:focus")).to_contain_text("fqdn brenna.skerry.example")


def test_a_key_is_set_with_visible_blanks_and_shown_once(page: Page, design: str):
    """A key that is set with a trailing blank shows it; set right it agrees; it is shown once, and then no more."""
    page.goto(f"{design}/match/harbour-ostvik")
    for side, key in (("Harbour House", "Kite-Anchor-7319-Vow"), ("Ostvik Terminal", "Kite-Anchor-7319-Vow ")):
        edit(page, f"Pre-shared key at {side}")
        page.get_by_label("New key").fill(key)
        page.get_by_label("Once more").fill(key.swapcase())
        expect(page.get_by_role("alert")).to_have_text("The two entries differ.")
        expect(page.get_by_role("button", name="Save", exact=True)).to_be_disabled()
        tick(page, "Show what I type")
        expect(page.get_by_text(key.replace(" ", "␣"), exact=True)).to_be_visible()
        page.get_by_role("button", name="Save", exact=True).click()
        expect(page.get_by_label("New key")).to_have_count(0)
    expect(sentence(page)).to_have_text("Stops at Auth: the keys differ only by a trailing blank at Ostvik Terminal.")
    edit(page, "Pre-shared key at Ostvik Terminal")
    page.get_by_role("button", name="Show once").click()
    expect(page.get_by_text("Kite-Anchor-7319-Vow␣")).to_be_visible()
    page.keyboard.press("Escape")
    edit(page, "Pre-shared key at Ostvik Terminal")
    page.get_by_role("button", name="Show once").click()
    expect(page.get_by_role("alert")).to_contain_text("This key was shown on")
    page.get_by_role("button", name="Generate 256 bits").click()
    expect(sentence(page)).to_contain_text("the keys differ (Harbour House's has 20 characters, Ostvik Terminal's 56)")


def test_proposals_are_chosen_from_the_registry(page: Page, design: str):
    """Proposals are edited by transform type; dropping the only common one stops the tunnel at Init, and mending offers it."""
    page.goto(f"{design}/match/harbour-ostvik")
    edit(page, "IKE proposals at Harbour House")
    page.get_by_role("button", name="Drop proposal 1").click()
    page.get_by_role("button", name="Save").click()
    expect(sentence(page)).to_have_text(
        "Stops at Init: no proposal is common to both; the nearest pair has no common encryption, PRF, integrity, key exchange."
    )
    edit(page, "IKE proposals at Harbour House")
    page.get_by_role("button", name="Add a proposal").click()
    for label, choice in (("Encryption", "AES-GCM-16-256"), ("PRF", "PRF SHA2-384"), ("Key exchange", "group 20")):
        page.get_by_role("combobox", name=f"{label} of proposal 2").focus()
        page.keyboard.type(choice)
        expect(page.get_by_role("option", name=choice)).to_be_visible()
        page.keyboard.press("ArrowDown")
        page.keyboard.press("Enter")
        page.keyboard.press("Escape")
    page.get_by_role("button", name="Save").click()
    expect(sentence(page)).to_contain_text("Comes up")


@pytest.mark.parametrize("theme", ["light", "dark"])
@pytest.mark.parametrize(
    "view",
    [
        "/",
        "survey/uplinks",
        "survey/design",
        "start",
        "connect",
        "standards",
        "match/harbour-tarn",
        "match/harbour-tarn?open=form",
        "match/harbour-ostvik?open=standard",
        "match/harbour-brenna/keys",
        "addresses",
        "addresses/room",
        "addresses/import",
        "addresses/out",
        "addresses/renumber/ostvik-ticketing",
        "addresses/translate/tarn-berth-system",
        "paths?from=brenna-gate-controllers&to=basalt-booking-gate&down=brenna-basalt-radio",
        "paths/failures?up=1",
        "paths/rules/brenna-gateway?move=brenna-terminal-by-cable:0",
        "paths/rules/brenna-gateway?edit=brenna-terminal-by-cable",
        "paths/links?play=brenna-gates-by-radio:brenna-basalt-radio:delay_ms",
        "paths/routes",
        "people/crew",
        "people/crew/settings",
        "people/crew/split?router=10.64.30.1",
        "people/crew/day?from=home&family=tablet&to=timetable",
        "people/crew/rollout",
        "clouds",
        "paths/exits",
        "clouds/accounts",
        "paths/host?host=harbour-rota&network=ostvik-ticketing&address=10.65.0.20",
        "paths/since?since=0",
        "rehearse",
        "rehearse/harbour-brenna",
        "rehearse/harbour-ostvik?fault=60s+restart+left",
        "history",
    ],
)
def test_no_serious_violation(page: Page, design: str, product: RunningProduct, view: str, theme: str):
    """No view has a serious accessibility violation, light or dark."""
    page.goto(product.base if view == "/" else f"{design}/{view}")
    page.evaluate("theme => localStorage.setItem('pontifex-theme', theme)", theme)
    page.reload()
    page.get_by_role("heading").first.wait_for()
    page.wait_for_load_state("networkidle")
    page.evaluate(AXE.read_text())
    page.add_style_tag(content="* { transition: none !important }")  # colours as they come to rest, whatever they begin from
    result = page.evaluate("axe.run()")
    serious = [
        (candidate["id"], [node["html"][:120] for node in candidate["nodes"][:3]])
        for candidate in result["violations"]
        if candidate["impact"] in ("serious", "critical")
    ]
    assert not serious


def test_without_a_session(browser, product: RunningProduct):
    """Whoever hasn't opened the printed address is told to, and sees nothing else."""
    page = browser.new_page()
    page.goto(f"{product.base}/d/skerry-line/survey")
    expect(page.get_by_text("Open the address that the server printed when it started.")).to_be_visible()
    expect(page.get_by_text("Harbour")).to_have_count(0)
    page.close()


def test_narrow_and_enlarged(page: Page, design: str):
    """At 768 px, and at 200 % on a 1280 px screen, the sentence and the rows are there and nothing runs over the edge."""
    for width in (768, 640):
        page.set_viewport_size({"width": width, "height": 800})
        page.goto(f"{design}/match/harbour-brenna")
        expect(sentence(page)).to_be_visible()
        assert page.evaluate("document.documentElement.scrollWidth <= window.innerWidth")


def test_proposals_are_read_from_text(page: Page, design: str):
    """What a partner wrote is shown word by word; what is ambiguous is chosen, and the proposals are taken over."""
    page.goto(f"{design}/match/harbour-ostvik")
    edit(page, "IKE proposals at Ostvik Terminal")
    page.get_by_role("button", name="Read from text").click()
    page.get_by_label("What the form or the mail says").fill("AES / SHA2-256 / DH group 14, kindly")
    words = page.get_by_role("list", name="Word by word")
    expect(words.get_by_role("listitem")).to_have_count(4)
    expect(words.get_by_text("which key length has AES?")).to_be_visible()
    expect(words.get_by_role("listitem").filter(has_text="kindly")).to_contain_text("not understood")
    expect(page.get_by_role("button", name="Take over")).to_be_disabled()
    words.get_by_role("button", name="AES-CBC-256").click()
    page.get_by_role("button", name="Take over 1 proposal").click()
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_role("button", name="IKE proposals at Ostvik Terminal")).to_contain_text("AES-CBC-256")
    expect(sentence(page)).to_contain_text("Comes up")
