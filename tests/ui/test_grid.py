"""The grids as a spreadsheet: order, filter, ranges; and nothing that is typed in them is ever lost."""

from __future__ import annotations

from playwright.sync_api import BrowserContext, Page, expect

from tests.support.running import RunningProduct


def cell(page: Page, row: str, column: str):
    """The cell of the row that holds a text, under a head."""
    return page.get_by_role("row").filter(has_text=row).first.get_by_role("gridcell").nth(_place(page, column))


def _place(page: Page, column: str) -> int:
    page.get_by_role("columnheader").first.wait_for()
    heads = page.get_by_role("columnheader").all_inner_texts()
    return next(k for k, head in enumerate(heads) if head.strip(" ▴▾\n") == column)


def column(page: Page, head: str) -> list[str]:
    """The texts of a column from the top, without the new row's."""
    at = _place(page, head)
    rows = page.get_by_role("row").filter(has=page.get_by_role("gridcell")).all()
    return [row.get_by_role("gridcell").nth(at).inner_text() for row in rows][:-1]


def test_rows_are_sorted_filtered_and_columns_are_remembered(page: Page, design: str):
    """A head sorts, a text filters; a column that is hidden stays so after a reload."""
    page.goto(f"{design}/survey/networks")
    cell(page, "booking front", "Prefix").wait_for()
    page.get_by_role("columnheader", name="VLAN").get_by_role("button").click()
    vlans = [int(text) for text in column(page, "VLAN") if text]
    assert vlans == sorted(vlans)
    assert len(vlans) > 3
    page.get_by_role("textbox", name="Filter networks").fill("ticketing")
    expect(page.get_by_text("2 of 20")).to_be_visible()
    assert set(column(page, "Name")) == {"ticketing"}
    page.get_by_role("button", name="Columns").click()
    page.get_by_label("Columns that are shown").locator("label").filter(has_text="VLAN").click()
    expect(page.get_by_role("columnheader", name="VLAN")).to_have_count(0)
    page.reload()
    expect(page.get_by_role("columnheader", name="Prefix")).to_be_visible()
    expect(page.get_by_role("columnheader", name="VLAN")).to_have_count(0)


def test_a_range_is_filled_copied_and_pasted_as_one_change(page: Page, design: str):
    """Ctrl-D fills a range with its first row; a copied range is pasted elsewhere; Undo takes each back as one."""
    page.goto(f"{design}/survey/networks")
    cell(page, "booking front", "VLAN").focus()
    page.keyboard.type("77")
    page.keyboard.press("Enter")
    expect(cell(page, "booking front", "VLAN")).to_have_text("77")
    page.keyboard.press("ArrowUp")
    page.keyboard.press("Shift+ArrowDown")
    page.keyboard.press("Shift+ArrowDown")
    page.keyboard.press("Control+d")
    expect(page.get_by_role("link", name="Revision 2")).to_be_visible()
    names = column(page, "Name")
    at = names.index("booking front")
    assert column(page, "VLAN")[at : at + 3] == ["77", "77", "77"]
    page.keyboard.press("Control+c")
    cell(page, "passengers", "VLAN").focus()
    page.keyboard.press("Control+v")
    expect(page.get_by_role("link", name="Revision 3")).to_be_visible()
    expect(cell(page, "passengers", "VLAN")).to_have_text("77")
    page.get_by_role("button", name="Undo").click()
    expect(cell(page, "passengers", "VLAN")).to_have_text("90")


def test_a_refused_name_stays_and_the_rule_is_not_widened(page: Page, design: str):
    """A domain that is refused keeps its text and its reason while one goes on and after a reload, until it is given up."""
    page.goto(f"{design}/paths/tables/rules")
    name = "terminal by cable"
    cell(page, name, "To names").click()
    page.keyboard.press("Enter")
    page.keyboard.type("not a name")
    page.keyboard.press("Enter")
    reason = "To names: is neither a DNS name, such as gate.ostvik.example, nor a domain, such as *.ostvik.example"
    expect(page.get_by_role("alert")).to_have_text(reason)
    cell(page, name, "Order").focus()
    page.keyboard.type("25")
    page.keyboard.press("Enter")
    expect(page.get_by_role("link", name="Revision 1")).to_be_visible()
    page.reload()
    expect(page.get_by_role("alert")).to_have_text(reason)
    expect(cell(page, name, "To names")).to_have_text("not a name")
    expect(cell(page, name, "Order")).to_have_text("25")
    page.get_by_role("button", name="Cancel").click()
    expect(page.get_by_role("alert")).to_have_count(0)
    expect(cell(page, name, "To names")).to_have_text("")
    expect(cell(page, name, "To")).to_have_text("10.80.0.0/20")


def test_the_paths_of_a_rule_are_chosen_in_a_form_with_their_limits(page: Page, design: str):
    """A path is added, limited and saved in the form beside the cell; a limit that there isn't is refused, never dropped."""
    page.goto(f"{design}/paths/tables/rules")
    paths = cell(page, "containers leave", "Paths")
    paths.focus()
    page.keyboard.press("Enter")
    form = page.get_by_role("group", name="Members: Paths of containers leave")
    expect(form.get_by_text("limits in brackets")).to_be_visible()
    form.get_by_label("Most delay, ms of Dry Dock exit").fill("60")
    form.get_by_label("Most loss, % of Dry Dock exit").fill("2")
    form.get_by_role("button", name="Save").click()
    expect(paths).to_have_text("Dry Dock exit (delay 60, loss 2)")
    expect(page.get_by_role("link", name="Revision 1")).to_be_visible()
    paths.focus()
    page.keyboard.press("Enter")
    page.get_by_label("Paths of containers leave", exact=False).first.fill("Dry Dock exit (latency 60)")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_have_text("Paths: 'latency' is no limit; there are: delay, jitter, loss")
    expect(page.get_by_role("link", name="Revision 1")).to_be_visible()


def test_a_name_that_nothing_has_is_told(page: Page, product: RunningProduct):
    """In a design without sites, a site's name that is typed is neither swallowed nor taken: it is said what is missing."""
    page.goto(product.base)
    page.get_by_label("Name of the new design").fill("Bare Rock")
    page.get_by_role("button", name="Add design").click()
    page.get_by_role("link", name="grids").click()
    page.get_by_role("link", name="Networks").click()
    page.get_by_role("gridcell", name="+ new").focus()
    page.keyboard.type("Mill")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_have_text("Site: there is no site called 'Mill'")
    expect(page.get_by_role("gridcell", name="Mill")).to_be_visible()


def test_what_is_typed_while_the_server_is_gone_is_written_when_it_is_back(page: Page, design: str):
    """Without an answer the text stays with the reason, over a reload; it is written by one press."""
    page.goto(f"{design}/survey/networks")
    cell(page, "booking front", "VLAN").wait_for()
    page.route("**/changes", lambda route: route.abort())
    cell(page, "booking front", "VLAN").focus()
    page.keyboard.type("41")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert").filter(has_text="VLAN:")).to_contain_text("What you typed is still here")
    page.unroute("**/changes")
    page.reload()
    expect(cell(page, "booking front", "VLAN")).to_have_text("41")
    expect(page.get_by_role("link", name="Revision 0")).to_be_visible()
    page.get_by_role("button", name="Write again").click()
    expect(page.get_by_role("link", name="Revision 1")).to_be_visible()
    expect(page.get_by_role("alert")).to_have_count(0)
    expect(cell(page, "booking front", "VLAN")).to_have_text("41")


def test_a_long_grid_is_printed_whole(context: BrowserContext, page: Page, design: str):
    """On the screen only the rows in sight are drawn; on paper all of them, the last one not cut off."""
    hosts = [{"id": f"h{k}", "name": f"badge {k:03}", "network_id": "harbour-voice"} for k in range(200)]
    operations = [{"op": "put-host", "object": {**host, "address": f"10.64.12.{k + 20}"}} for k, host in enumerate(hosts)]
    change = {"base_revision": 0, "note": "Many badges", "operations": operations}
    written = context.request.post(f"{design.replace('/d/', '/api/designs/')}/changes", data=change)
    assert written.ok, written.text()
    page.goto(f"{design}/survey/hosts")
    rows = page.get_by_role("grid").get_by_role("row").filter(has_text="badge ")
    expect(rows.first).to_be_visible()
    assert rows.count() < 100
    page.emulate_media(media="print")
    expect(rows).to_have_count(200)
    clipped = page.get_by_role("row", name="badge 199").evaluate("""row => {
      const end = row.getBoundingClientRect().bottom + scrollY
      for (let up = row.parentElement; up !== document.documentElement; up = up.parentElement) {
        const {bottom} = up.getBoundingClientRect()
        if (getComputedStyle(up).overflowY !== 'visible' && bottom + scrollY < end - 1) return up.className
      }
      return ''
    }""")
    assert clipped == ""
