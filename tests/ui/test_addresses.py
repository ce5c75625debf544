"""The Addresses view in a real browser: rulers, holding, bringing in, moving and translating."""

from __future__ import annotations

import io
import json
import re

import openpyxl
import pytest
from playwright.sync_api import Page, expect

from tests.support.browser import choose

MAIL = """Tarn Port Authority:
berth office  10.90.4.0/24
cranes: 10.90.5.0 255.255.255.128
10.90.4.10 - 10.90.4.60
we also have 10.90.300.1
crane server 10.90.4.7
"""


def _ruler(page: Page):
    return page.get_by_role("application")


def _lines(page: Page):
    return page.get_by_role("table", name="Addresses in sight")


def _settled(page: Page) -> None:
    """Wait until the ruler shows what collides, with what is free, in its own typeface."""
    expect(page.get_by_placeholder("10.64.0.0/19")).to_be_visible()
    expect(_lines(page)).to_contain_text("spoken for")
    page.evaluate("document.fonts.ready")


def _drag(page: Page, start: float, end: float, y: int) -> None:
    """Drag along the ruler; places are parts of its width."""
    box = _ruler(page).bounding_box()
    assert box
    page.mouse.move(box["x"] + start * box["width"], box["y"] + y)
    page.mouse.down()
    page.mouse.move(box["x"] + (start + end) / 2 * box["width"], box["y"] + y)
    page.mouse.move(box["x"] + end * box["width"], box["y"] + y)
    page.mouse.up()


def test_what_collides_is_in_sight_at_once(page: Page, design: str):
    """The view opens where something collides, says it in words, and says how full each network is."""
    page.goto(f"{design}/addresses")
    expect(page.get_by_placeholder("10.64.0.0/19")).to_be_visible()
    servers = _lines(page).get_by_role("row").filter(has_text="10.64.8.0/23")
    expect(servers).to_contain_text("collides with Tarn Port Authority: berth system; 3 of 510 spoken for")
    expect(page.get_by_role("link", name="Addresses")).to_contain_text("2")


def test_a_block_is_found_by_hand_and_by_keyboard(page: Page, design: str):
    """A click on the ruler chooses a block, arrows go on from it, Enter goes closer, and the link keeps the place."""
    page.goto(f"{design}/addresses")
    _settled(page)
    box = _ruler(page).bounding_box()
    assert box
    page.mouse.click(box["x"] + 30, box["y"] + 62)
    chosen = page.get_by_role("region", name="Chosen on the ruler")
    expect(chosen).to_contain_text("staff10.64.0.0/22")
    page.keyboard.press("ArrowDown")
    expect(chosen).to_contain_text("servers10.64.8.0/23collides")
    page.keyboard.press("Enter")
    expect(page).to_have_url(re.compile(r"show=10\.64\.8\.0"))
    page.reload()
    expect(_lines(page)).to_contain_text("berth system")
    expect(_lines(page)).not_to_contain_text("10.64.30.0/25")
    page.get_by_role("button", name="all IPv4").click()
    _ruler(page).focus()
    page.keyboard.press("Home")
    expect(page.get_by_placeholder("0.0.0.0/0")).to_be_visible()


def test_free_space_is_reserved_by_drawing(page: Page, design: str):
    """A stroke along what is free becomes an aligned prefix, which is reserved for a site and found again by asking."""
    page.goto(f"{design}/addresses")
    _settled(page)
    _drag(page, 0.5, 0.63, 34)
    form = page.get_by_role("form", name="Reserve a prefix")
    expect(form.get_by_label("Reserve", exact=True)).to_have_value("10.64.16.0/22")
    choose(form, "for", "Harbour House")
    expect(form).to_contain_text("Free /22 that keeps the site in one piece")
    form.get_by_label("as", exact=True).fill("more staff")
    form.get_by_role("button", name="Reserve", exact=True).click()
    expect(_lines(page)).to_contain_text("more staff (reserved)")
    page.get_by_role("combobox", name="Find or ask").fill("10.64.17.9")
    expect(page.get_by_role("option", name="more staff")).to_contain_text("reserved for Harbour House")


def test_a_prefix_is_reserved_by_typing(page: Page, design: str):
    """What can't be reserved is refused in the form, with the reason and the text kept; an offer is one press."""
    page.goto(f"{design}/addresses")
    page.get_by_role("button", name="Reserve a prefix").click()
    form = page.get_by_role("form", name="Reserve a prefix")
    form.get_by_label("Reserve", exact=True).fill("10.65.16.1/24")
    choose(form, "for", "Ostvik Terminal")
    form.get_by_role("button", name="Reserve", exact=True).click()
    expect(form.get_by_role("alert")).to_have_text("host bits are set in 10.65.16.1/24; did you mean 10.65.16.0/24?")
    form.get_by_role("button", name="10.65.1.0/24").click()
    form.get_by_role("button", name="Reserve", exact=True).click()
    expect(form).to_have_count(0)
    page.get_by_label("Show a prefix or an address").fill("10.65.0.0/21")
    page.keyboard.press("Enter")
    expect(_lines(page)).to_contain_text("growth (reserved)")
    page.get_by_label("Show a prefix or an address").fill("ten")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_have_text("'ten' is no prefix or address")


def test_a_mail_is_brought_in_and_twice_changes_nothing(page: Page, design: str):
    """Every line of a mail says what it becomes; taken over it is there, and the same mail changes nothing any more."""
    page.goto(f"{design}/addresses/import")
    page.get_by_label("Paste a table").fill(MAIL)
    preview = page.get_by_label("Line by line")
    expect(preview).to_contain_text("network cranes 10.90.5.0/25 at Tarn Port Authority")
    expect(preview).to_contain_text("DHCP range 10.90.4.10-10.90.4.60 of berth office at Tarn Port Authority")
    expect(preview).to_contain_text("'300' in '10.90.300.1' is more than 255")
    expect(page.get_by_text("Taken for free text. 3 new · 1 changes · 1 passed over · 1 not read")).to_be_visible()
    page.get_by_role("button", name="Take over 4 lines").click()
    expect(page.get_by_text("4 lines taken over; Undo takes them back as one.")).to_be_visible()
    expect(page.get_by_role("button", name="Take over 0 lines")).to_be_disabled()
    expect(page.get_by_text("4 is there already")).to_be_visible()
    page.get_by_role("link", name="Revision 1").click()
    expect(page.get_by_text("Import 4 lines from free text")).to_be_visible()


def test_a_spreadsheet_and_linux_output_are_read_from_files(page: Page, design: str):
    """An XLSX file and what `ip -j addr` printed are read from a file; the latter asks which gateway printed it."""
    book = openpyxl.Workbook()
    for row in (["Site", "Network", "Prefix"], ["New Pier", "lan", "10.91.0.0/24"]):
        book.active.append(row)
    content = io.BytesIO()
    book.save(content)
    page.goto(f"{design}/addresses/import")
    files = page.locator("input[type=file]")
    files.set_input_files({"name": "list.xlsx", "mimeType": "application/octet-stream", "buffer": content.getvalue()})
    preview = page.get_by_label("Line by line")
    expect(preview).to_contain_text("network lan 10.91.0.0/24 at New Pier")
    printed = [{"ifname": "lan.60", "addr_info": [{"local": "10.66.2.1", "prefixlen": 24, "scope": "global"}]}]
    files.set_input_files({"name": "brenna.json", "mimeType": "application/json", "buffer": json.dumps(printed).encode()})
    expect(preview).to_contain_text("choose the gateway that printed it")
    choose(page, "Printed by", "Brenna router")
    expect(preview).to_contain_text("network lan.60 10.66.2.0/24 at Brenna Terminal")
    files.set_input_files({"name": "broken.xlsx", "mimeType": "application/octet-stream", "buffer": b"PK"})
    expect(page.get_by_role("alert")).to_contain_text("This is no XLSX file")


def test_renumbering_shows_its_steps_and_is_one_change(page: Page, design: str):
    """The plan says what to do, what clients do and when one is cut off; it is one change, and one undo brings all back."""
    page.goto(f"{design}/addresses?show=10.65.0.0/21")
    _lines(page).get_by_role("button", name="ticketing").click()
    page.get_by_role("button", name="Renumber").click()
    plan = page.get_by_role("region", name="Renumber a network")
    expect(plan.get_by_label("New prefix")).to_have_value("10.65.1.0/24")
    expect(plan).to_contain_text("reservation of ticket printer (02:00:5e:10:00:09) becomes 10.65.1.9")
    expect(plan).to_contain_text("Harbour–Ostvik at Harbour House: add 10.65.1.0/24 to the far side's networks")
    expect(plan).to_contain_text("if you are connected to 10.65.0.1")
    choose(plan, "I am working from", "Ostvik Terminal: ticketing")
    expect(plan).to_contain_text("you sit in ticketing, and your own address changes")
    plan.get_by_label("New prefix").fill("10.65.2.0/25")
    expect(plan.get_by_role("alert")).to_contain_text("a network moves to a prefix of its own size")
    plan.get_by_label("New prefix").fill("10.65.2.0/24")
    expect(plan).to_contain_text("10.65.2.9")
    plan.get_by_role("button", name="Do it as one change").click()
    expect(_lines(page)).to_contain_text("10.65.2.0/24")
    page.get_by_role("link", name="Revision 1").click()
    expect(page.get_by_text("Renumber Ostvik Terminal's ticketing to 10.65.2.0/24")).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    page.get_by_role("link", name="Addresses").click()
    page.get_by_label("Show a prefix or an address").fill("10.65.0.0/21")
    page.keyboard.press("Enter")
    expect(_lines(page)).to_contain_text("10.65.0.0/24")
    expect(_lines(page)).not_to_contain_text("10.65.2.0/24ticketing")


def test_the_cheapest_way_out_leaves_no_collision(page: Page, design: str):
    """What to move, what it costs and what was compared is shown; done as one change nothing collides any more."""
    page.goto(f"{design}/addresses/out")
    out = page.get_by_role("region", name="Resolve collisions")
    expect(out).to_contain_text("Proven:")
    expect(out).to_contain_text("it is Tarn Port Authority's, not ours to move")
    expect(out.get_by_role("row").filter(has_text="berth system")).to_contain_text("1006")
    out.get_by_role("button", name="Do all of it as one change").click()
    expect(out).to_contain_text("Nothing collides: there is nothing to leave.")
    worklist = page.get_by_role("complementary", name="Worklist")
    expect(worklist).not_to_contain_text("Networks collide")


def test_a_partner_is_translated(page: Page, design: str):
    """What each side sees, what to route and what carries addresses inside is told; once done, the collision is gone."""
    page.goto(f"{design}/addresses/translate/tarn-berth-system")
    view = page.get_by_role("region", name="Translate a network")
    expect(view).to_contain_text("Done at Harbour firewall pair, on Harbour–Tarn. Seen by Harbour House.")
    expect(view).to_contain_text("both ends go on naming 10.64.8.0/24; the translation comes after the tunnel")
    expect(view).to_contain_text("SIP names media addresses")
    view.get_by_role("button", name="Do it as one change").click()
    expect(page.get_by_role("complementary", name="Worklist")).not_to_contain_text("berth system 10.64.8.0/24")
    page.get_by_label("Show a prefix or an address").fill("10.64.0.0/20")
    page.keyboard.press("Enter")
    expect(_lines(page)).to_contain_text("berth system of Tarn Port Authority (translated)")
    page.get_by_role("combobox", name="Find or ask").fill("10.64.8.7")
    expect(page.get_by_role("option", name="berth system of Tarn")).to_contain_text("seen as 10.64.4.")


@pytest.mark.parametrize("grid", ["hosts", "rules", "routes"])
def test_what_hangs_on_addresses_is_typed(page: Page, design: str, grid: str):
    """Hosts, routes and rules are typed like networks; a list in a cell is parted by semicolons."""
    typed = {
        "hosts": ["Ostvik Terminal: cameras", "gate camera", "10.65.4.77", "device", "static", "", "", "554; 8554"],
        "routes": ["Harbour firewall pair", "10.65.0.0/16", "", "Harbour–Ostvik"],
        "rules": ["Brenna router", "web alone", "30", "10.66.1.0/26", "10.80.0.0/20 tcp 443", "radio link; cable", "hold"],
    }[grid]
    page.goto(f"{design}/survey/{grid}")
    page.get_by_role("gridcell", name="+ new").click()
    for text in typed:
        if text:
            page.keyboard.type(text)
            page.keyboard.press("Enter")
        else:
            page.keyboard.press("ArrowRight")
    expect(page.get_by_role("status").filter(has_text="saved")).to_be_visible()
    row = page.get_by_role("row").filter(has_text=typed[1])
    expect(row).to_contain_text(typed[-1])
