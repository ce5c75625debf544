"""The worklist and the frame: one decision for several findings, acceptances, going back, folding, deep links."""

from __future__ import annotations

import re

from playwright.sync_api import Browser, Page, Route, expect

from tests.support.browser import choose
from tests.support.running import RunningProduct


def test_several_findings_are_one_decision(page: Page, design: str):
    """Collisions at two places are mended by one change that is shown first; Undo brings both back; History goes back."""
    page.goto(f"{design}/survey/networks")
    work = page.get_by_role("complementary", name="Worklist")
    group = work.get_by_role("article").filter(has_text="Networks collide")
    expect(group).to_contain_text("at 2 places")
    group.get_by_role("button", name="Mend all 2").click()
    together = group.get_by_role("region", name="Mend together")
    expect(together).to_contain_text("2 of 2 are mended by one change")
    together.get_by_role("button", name="Apply these changes").click()
    expect(group).to_have_count(0)
    expect(page.get_by_role("link", name="Revision 1")).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(group).to_be_visible()
    page.get_by_role("link", name="Revision 2").click()
    page.get_by_role("listitem").filter(has_text="Mend 2 × Networks collide").last.get_by_role(
        "button", name="Back to this revision"
    ).click()
    asked = page.get_by_role("dialog", name="Back to revision 1?")
    asked.get_by_role("button", name="Go back").click()
    expect(page.get_by_text("Back to revision 1", exact=True)).to_be_visible()
    expect(work.get_by_text("Networks collide")).to_have_count(0)


def test_what_mends_a_finding_is_asked_for(page: Page, design: str):
    """It is worked out once it is asked for: that it isn't there yet is said, and where nothing mends it, that, too."""
    asked: list[Route] = []

    def hold(route: Route) -> None:
        asked.append(route)

    page.route("**/remedies", hold)
    page.goto(f"{design}/match/harbour-brenna")
    card = page.get_by_role("article").filter(has_text="Keys differ")
    card.get_by_role("button", name="Mend").click()
    panel = card.get_by_role("region", name="Mend")
    expect(panel).to_contain_text("Working it out …")
    expect(panel.get_by_role("button", name="Apply these changes")).to_be_disabled()
    asked[0].fulfill(json=[])
    expect(panel).to_contain_text("No single change to the design mends it.")
    panel.get_by_role("button", name="Cancel").click()
    page.unroute("**/remedies")
    expect(card.get_by_role("button", name="Mend")).to_be_visible()


def test_a_finding_is_accepted_until_a_day_and_taken_back(page: Page, design: str):
    """Accepted with a reason it is no longer open but told apart; filters leave what is asked for."""
    page.goto(f"{design}/match/harbour-tarn")
    work = page.get_by_role("complementary", name="Worklist")
    exposed = work.locator("article.finding").filter(has_text="Weak algorithm offered")
    exposed.get_by_role("button", name="Accept all 2 …").click()
    form = exposed.get_by_role("form", name="Accept")
    expect(form.get_by_role("button", name="Accept all 2")).to_be_disabled()
    form.get_by_label("Reason").fill("Tarn renews its gateway in spring")
    form.get_by_role("button", name="Accept all 2").click()
    expect(exposed).to_have_count(0)
    page.get_by_role("button", name=re.compile("^Accepted: 2")).click()
    expect(work.get_by_text("Tarn renews its gateway in spring").first).to_be_visible()
    work.get_by_role("button", name="Take back").first.click()
    expect(exposed).to_be_visible()
    choose(work, "Severity", "will not work")
    expect(exposed).to_have_count(0)
    expect(work.get_by_text("No common IKE proposal")).to_be_visible()


def test_columns_fold_and_the_view_has_the_room(page: Page, design: str):
    """Both columns fold and stay so; the first key of the page leads past them; the tab names design and view."""
    page.goto(f"{design}/match/harbour-brenna")
    expect(page).to_have_title("Skerry Line · Match")
    page.get_by_role("button", name="Fold the worklist").click()
    page.get_by_role("button", name="Fold the stages").click()
    page.reload()
    expect(page.get_by_role("complementary", name="Worklist")).to_have_count(0)
    assert page.locator("main").evaluate("one => one.clientWidth") > 1190
    page.keyboard.press("Tab")
    expect(page.get_by_role("link", name="To the view")).to_be_focused()
    page.keyboard.press("Enter")
    expect(page.locator("main")).to_be_focused()
    page.get_by_role("button", name="Unfold the worklist").click()
    expect(page.get_by_role("complementary", name="Worklist")).to_be_visible()


def test_a_tunnel_is_renamed_and_a_row_is_one_line(page: Page, design: str):
    """A tunnel gets another name; 25 rows of its comparison are in view, and the strip stays when one scrolls."""
    page.goto(f"{design}/match/harbour-ostvik")
    page.get_by_role("button", name="Rename").click()
    page.get_by_label("Name of the tunnel").fill("Ostvik by cable")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Ostvik by cable")).to_be_visible()
    expect(page.get_by_role("navigation", name="Tunnels").get_by_text("Ostvik by cable")).to_be_visible()
    rows = page.get_by_role("table", name="Both ends").get_by_role("row")
    in_view = [row for row in rows.all() if (box := row.bounding_box()) and box["y"] + box["height"] <= 800]
    assert len(in_view) >= 25
    rows.last.scroll_into_view_if_needed()
    strip = page.locator(".ends").get_by_role("list", name="Forecast")
    assert strip.evaluate("one => one.getBoundingClientRect().top") >= 0


def test_an_account_is_saved_though_one_goes_on_before_the_vault_answers(page: Page, design: str):
    """Save is pressed, the vault takes its time, another tunnel is opened meanwhile: the key is in the design all the same."""
    page.goto(f"{design}/match/harbour-ostvik")
    held: list[Route] = []

    def hold(route: Route) -> None:
        held.append(route)

    page.route("**/keys", hold)
    page.get_by_role("button", name="Pre-shared key at Ostvik Terminal").click()
    page.get_by_role("button", name="Generate 256 bits").click()
    expect(page.get_by_role("button", name="Generate 256 bits")).to_be_disabled()
    page.get_by_role("link", name="Harbour–Brenna").click()
    expect(page.get_by_role("heading", name="Harbour–Brenna")).to_be_visible()
    held[0].continue_()
    expect(page.get_by_role("link", name="Revision 1")).to_be_visible()
    page.get_by_role("link", name="Harbour–Ostvik").click()
    expect(page.locator(".sentence")).to_contain_text("the keys differ")


def test_what_is_typed_in_a_row_stays_open_when_another_is_edited_or_the_page_is_loaded_anew(page: Page, design: str):
    """An identity is typed and not saved: it stands there while another row is edited, and after a reload."""
    page.goto(f"{design}/match/harbour-ostvik")
    label = "Ostvik Terminal's identity at Ostvik Terminal"
    page.get_by_role("button", name=label).click()
    page.get_by_label(label, exact=True).fill("pier.skerry.example")
    page.get_by_role("button", name="Child SA lifetime, s at Harbour House").click()
    expect(page.get_by_label(label, exact=True)).to_have_value("pier.skerry.example")
    page.reload()
    expect(page.get_by_label(label, exact=True)).to_have_value("pier.skerry.example")
    page.get_by_role("button", name="Save").first.click()
    expect(page.get_by_role("button", name=label)).to_contain_text("pier.skerry.example")
    page.reload()
    expect(page.get_by_label(label, exact=True)).to_have_count(0)


def test_a_deep_link_survives_sign_in(browser: Browser, product: RunningProduct):
    """Whoever opens a link without a session comes to it after the printed address has opened one."""
    context = browser.new_context()
    page = context.new_page()
    wanted = f"{product.base}/d/skerry-line/match/harbour-brenna?at=right/key"
    page.goto(wanted)
    expect(page.get_by_role("heading", name="No session")).to_be_visible()
    page.goto(product.address)
    expect(page).to_have_url(wanted)
    expect(page.get_by_role("heading", name="Harbour–Brenna")).to_be_visible()
    page.goto(product.base)
    expect(page.get_by_role("link", name="Programming interface")).to_be_visible()
    context.close()


def test_the_picture_shows_a_neighbourhood_and_all_tunnels_in_groups(page: Page, design: str):
    """A site that is pressed is in focus with what it is joined to; all tunnels stand in groups, found by a site's name."""
    page.goto(f"{design}/survey")
    page.get_by_role("link", name="Look around Basalt").click()
    expect(page.get_by_role("link", name="Basalt–Gneiss: stays down")).to_be_visible()
    expect(page).to_have_url(re.compile("around=basalt"))
    page.get_by_text("All tunnels", exact=True).click()
    overview = page.get_by_role("region", name="All tunnels")
    expect(overview.get_by_role("button", name="Harbour House 1 of 6")).to_be_visible()
    overview.get_by_label("Tunnels or sites named").fill("gneiss")
    expect(overview.get_by_role("status")).to_have_text("1 of 11 tunnels")
    overview.get_by_role("link", name="Basalt–Gneiss").click()
    expect(page.get_by_role("heading", name="Basalt–Gneiss")).to_be_visible()


def test_one_field_of_many_ends_is_set_at_once(page: Page, design: str):
    """The tunnels that a filter leaves get one lifetime at all their ends by one change; a wrong one is refused beside it."""
    page.goto(f"{design}/match/harbour-brenna")
    page.get_by_label("Name holds").fill("Harbour–B")
    page.get_by_role("button", name="Edit several …").click()
    drawer = page.get_by_role("dialog", name="Edit several tunnels")
    choose(drawer, "Field", "Child SA lifetime, s")
    drawer.get_by_role("button", name="Choose all").click()
    expect(drawer.get_by_text("4 of 4 ends are chosen")).to_be_visible()
    value = drawer.get_by_role("textbox", name="Child SA lifetime, s at all chosen ends")
    value.fill("5")
    drawer.get_by_role("button", name="Save").click()
    expect(drawer.get_by_role("alert")).to_contain_text("must be 60 or more")
    expect(value).to_have_value("5")
    value.fill("2700")
    drawer.get_by_role("button", name="Save").click()
    expect(drawer.get_by_text("Set at 4 ends")).to_be_visible()
    expect(drawer.get_by_role("row").filter(has_text="2700")).to_have_count(4)
    expect(page.get_by_role("link", name="Revision 1")).to_be_visible()
