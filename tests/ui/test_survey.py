"""The survey: grids typed like a spreadsheet, rows pasted, everything by keyboard."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.support.browser import choose


def cell(page: Page, text: str):
    """The cell of the grid that shows a text."""
    return page.get_by_role("gridcell", name=text, exact=True)


def paste(page: Page, text: str) -> None:
    """Paste a text as Ctrl-V does."""
    page.evaluate("text => navigator.clipboard.writeText(text)", text)
    page.keyboard.press("Control+v")


def test_paste_rows_with_one_wrong(page: Page, design: str):
    """Rows pasted from a spreadsheet say what each becomes; the wrong one is mended in place, and then all are taken over."""
    page.goto(f"{design}/survey/networks")
    cell(page, "+ new").focus()
    paste(page, "Ostvik Terminal\tkiosks\t10.65.8.0/24\nSlipway\tyard\t10.73.0.1/24\nOstvik Terminal\tticketing\t10.65.0.0/24\n")
    panel = page.get_by_role("region", name="Paste into Networks")
    expect(panel.get_by_role("listitem")).to_have_count(3)
    expect(panel.get_by_text("host bits are set in 10.73.0.1/24; did you mean 10.73.0.0/24?")).to_be_visible()
    expect(panel.get_by_text("is there already")).to_be_visible()
    take_over = panel.get_by_role("button", name="Take over")
    expect(take_over).to_be_disabled()
    area = panel.get_by_role("textbox")
    area.fill(area.input_value().replace("10.73.0.1", "10.73.0.0"))
    expect(panel.get_by_text("with a new site, Slipway")).to_be_visible()
    expect(take_over).to_have_text("Take over 2 rows")
    take_over.click()
    expect(cell(page, "10.73.0.0/24")).to_be_visible()
    expect(cell(page, "Slipway")).to_be_visible()
    expect(page.get_by_role("link", name="Revision 1")).to_be_visible()


def test_five_megabytes_are_refused_whole(page: Page, design: str):
    """A paste of five megabytes is answered at once with what the limit is; nothing is taken over."""
    page.goto(f"{design}/survey/networks")
    cell(page, "+ new").focus()
    paste(page, "Ostvik Terminal\tkiosks\t10.65.8.0/24\n" * 132_000)
    expect(page.get_by_text("the paste holds 132000 rows; 2000 at most at once. Nothing was taken over")).to_be_visible()
    expect(page.get_by_role("button", name="Take over")).to_be_disabled()


def test_keyboard_only(page: Page, design: str):
    """A row is added, an entry is refused beside its cell and mended, another is left with Esc: without a mouse."""
    page.goto(f"{design}/survey/networks")
    cell(page, "10.64.0.0/22").focus()
    for _ in range(20):
        page.keyboard.press("ArrowDown")
    page.keyboard.press("Home")
    for typed in ("Brenna", "kiosks"):
        page.keyboard.type(typed)
        page.keyboard.press("Enter")
    expect(page.get_by_text("Still needs: Prefix")).to_be_visible()
    page.keyboard.type("10.66.9.1/24")
    page.keyboard.press("Enter")
    refused = page.get_by_role("alert")
    expect(refused).to_have_text("Prefix: host bits are set in 10.66.9.1/24; did you mean 10.66.9.0/24?")
    expect(cell(page, "10.66.9.1/24")).to_be_visible()
    page.keyboard.press("ArrowLeft")
    page.keyboard.type("10.66.9.0/24")
    page.keyboard.press("Enter")
    expect(refused).to_have_count(0)
    expect(page.get_by_role("link", name="Revision 1")).to_be_visible()
    expect(page.locator(".pier", has_text="Brenna Terminal")).to_contain_text("10.66.9.0/24")

    cell(page, "10.66.9.0/24").focus()
    page.keyboard.press("Enter")
    page.keyboard.type("nonsense")
    page.keyboard.press("Escape")
    expect(cell(page, "10.66.9.0/24")).to_be_focused()
    page.keyboard.press("End")
    page.keyboard.press("Enter")
    expect(cell(page, "10.66.9.0/24")).to_have_count(0)
    page.keyboard.press("Control+z")
    expect(cell(page, "10.66.9.0/24")).to_be_visible()


def test_the_collision_is_tied_and_renumbered(page: Page, design: str):
    """The collision is in the picture and the worklist; the cursor goes to its spot; renumbering removes it."""
    page.goto(f"{design}/survey/sites")
    expect(page.get_by_text("10.70.1.0/27 is at both")).to_be_visible()
    page.get_by_role("button", name="Networks collide MV Aurelia").click()
    expect(page.locator("[data-cell]:focus")).to_have_text("10.70.1.0/27")
    page.get_by_role("button", name="Mend").first.click()
    page.get_by_role("button", name="Apply these changes").click()
    expect(page.get_by_text("10.70.1.0/27 is at both")).to_have_count(0)
    expect(cell(page, "10.70.1.32/27")).to_be_visible()
    expect(cell(page, "10.70.1.33")).to_be_visible()


def test_a_new_design_from_nothing(page: Page, product):
    """A new design says what the first step is; a site, a gateway and an uplink are typed; two gateways make a tunnel."""
    page.goto(product.base)
    page.get_by_label("Name of the new design").fill("Årdal Works")
    page.get_by_role("button", name="Add design").click()
    expect(page.get_by_role("heading", name="What is there?")).to_be_visible()
    page.get_by_role("link", name="grids").click()
    expect(page).to_have_url(f"{product.base}/d/ardal-works/survey/sites")
    page.get_by_role("link", name="Networks", exact=False).click()
    page.get_by_role("button", name="Paste rows").click()
    page.get_by_role("textbox", name="Rows, as").fill("Mill, floor, 10.81.0.0/24\nPier, shed, 10.82.0.0/24")
    page.get_by_role("button", name="Take over 2 rows").click()
    page.get_by_role("link", name="Gateways").click()
    page.get_by_role("button", name="Paste rows").click()
    page.get_by_role("textbox", name="Rows, as").fill("Mill, mill router, router\nPier, pier router")
    page.get_by_role("button", name="Take over 2 rows").click()
    page.get_by_role("link", name="Match").click()
    page.get_by_role("button", name="Add tunnel").click()
    choose(page, "Left gateway", "mill router")
    choose(page, "Right gateway", "pier router")
    page.get_by_role("button", name="Add tunnel").click()
    expect(page.locator(".sentence")).to_contain_text("Not known yet at Reach")
    page.get_by_role("link", name="Survey").click()
    expect(page.get_by_role("link", name="Mill–Pier: not known yet")).to_be_visible()


def test_the_designs_own_settings(page: Page, design: str):
    """The supernets are edited in the survey; a wrong one is refused beside the field, and what was typed stays."""
    page.goto(f"{design}/survey/design")
    field = page.get_by_label("Supernets")
    expect(field).to_have_value("10.64.0.0/11, 172.22.0.0/15, fd5c:9a1e:40::/48")
    field.fill("10.64.0.0/11, 172.22.0.0/99")
    field.press("Enter")
    expect(page.get_by_role("alert")).to_have_text("the length /99 is out of range; it is 0 to 32")
    expect(field).to_have_value("10.64.0.0/11, 172.22.0.0/99")
    field.fill("10.64.0.0/11")
    page.get_by_label("Name of the design").fill("Skerry and Sons")
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_role("heading", name="Skerry and Sons")).to_be_visible()


def test_find_or_ask(page: Page, design: str):
    """An address typed into the one field finds the network that holds it and puts the cursor there."""
    page.goto(f"{design}/match/harbour-ostvik")
    page.locator(".ends").wait_for()
    page.keyboard.press("/")
    page.keyboard.type("10.64.9.7")
    expect(page.get_by_text("10.64.8.0/23 holds 10.64.9.7, at Harbour House")).to_be_visible()
    page.keyboard.press("Enter")
    expect(page.locator("[data-cell]:focus")).to_have_text("servers")


def test_export_and_import_through_the_screen(page: Page, design: str, product, tmp_path):
    """Export saves a file that Import reads back; a file with one wrong field is refused with its place."""
    page.goto(f"{design}/survey")
    with page.expect_download() as saved:
        page.get_by_role("link", name="Export").click()
    file = tmp_path / "design.json"
    saved.value.save_as(file)
    page.goto(product.base)
    page.locator("input[type=file]").set_input_files(file)
    expect(page.get_by_role("link", name="Harbour–Ostvik: comes up")).to_be_visible()
    file.write_text(file.read_text().replace('"10.66.1.0/26"', '"10.66.1.0/99"', 1))
    page.goto(product.base)
    page.locator("input[type=file]").set_input_files(file)
    expect(page.get_by_role("alert")).to_contain_text("design.networks[6].prefix the length /99 is out of range; it is 0 to 32")


def test_removing_a_site_takes_what_hangs_on_it_and_undo_brings_all_back(page: Page, design: str):
    """A site goes with its networks, gateway and tunnel in one change that the history names; one undo brings all back."""
    page.goto(f"{design}/survey/sites")
    expect(page.get_by_role("link", name="Harbour–Ostvik: comes up")).to_be_visible()
    page.get_by_role("button", name="Remove Ostvik Terminal").click()
    asked = page.get_by_role("dialog", name="Remove site Ostvik Terminal?")
    expect(asked.get_by_text("tunnel Harbour–Ostvik", exact=True)).to_be_visible()
    expect(page.get_by_role("link", name="Harbour–Ostvik: comes up")).to_be_visible()
    asked.get_by_role("button", name="Remove all of it").click()
    expect(page.get_by_role("link", name="Harbour–Ostvik: comes up")).to_have_count(0)
    expect(page.get_by_role("link", name="Gateways 8")).to_be_visible()
    expect(page.get_by_role("link", name="Networks 18")).to_be_visible()
    page.get_by_role("link", name="Revision 1").click()
    expect(page.get_by_text("Remove site Ostvik Terminal")).to_be_visible()
    expect(page.get_by_role("term").filter(has_text=re.compile("^cameras"))).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_text("undo of 1: Remove site Ostvik Terminal")).to_be_visible()
    page.get_by_role("link", name="Survey").click()
    expect(page.get_by_role("link", name="Harbour–Ostvik: comes up")).to_be_visible()


def test_the_theme_is_kept(page: Page, design: str):
    """Dark is chosen with one press and is still there after a reload; text keeps its contrast in both."""
    page.goto(f"{design}/survey")
    page.get_by_role("button", name="Dark").click()
    background = page.evaluate("getComputedStyle(document.body).backgroundColor")
    assert background == "rgb(20, 27, 27)"
    page.reload()
    expect(page.get_by_role("button", name="Light")).to_be_visible()
    assert page.evaluate("getComputedStyle(document.body).backgroundColor") == background


def test_uplinks_are_typed_like_a_spreadsheet(page: Page, design: str):
    """An uplink that can't be called any more breaks the span of the tunnel that needs it, at once; undo mends it."""
    page.goto(f"{design}/survey/uplinks?at=harbour-fibre/inbound_ike")
    expect(page.locator("[data-cell]:focus")).to_have_text("yes")
    page.keyboard.type("no")
    page.keyboard.press("Enter")
    expect(page.get_by_role("link", name="Harbour–Ostvik: stays down")).to_be_visible()
    expect(page.get_by_role("button", name="Nobody can be called").first).to_be_visible()
    page.keyboard.press("Control+z")
    expect(page.get_by_role("link", name="Harbour–Ostvik: comes up")).to_be_visible()
