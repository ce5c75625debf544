"""What a person sees while a design is examined: the change is there at once, and what is known of it says that it is older."""

from __future__ import annotations

import json

from playwright.sync_api import BrowserContext, Route, expect

from tests.support.running import RunningProduct


def test_a_change_stands_while_it_is_examined(context: BrowserContext, product: RunningProduct):
    """The answer to a change comes without findings; the worklist says that it examines, and shows the fresh ones after."""
    page = context.new_page()

    def without_findings(route: Route) -> None:
        answer = route.fetch()
        body = answer.json()
        route.fulfill(response=answer, body=json.dumps({**body, "analysis": None}))

    held: list[Route] = []
    page.goto(f"{product.base}/d/skerry-line/match/harbour-brenna")
    worklist = page.get_by_role("complementary", name="Worklist")
    expect(worklist.get_by_text("Keys differ", exact=True)).to_be_visible()
    page.route("**/changes", lambda route: without_findings(route) if route.request.method == "POST" else route.continue_())
    page.route("**/analysis", lambda route: held.append(route))  # noqa: PLW0108 -- a method of a list can be no handler
    worklist.get_by_role("button", name="Mend").first.click()
    page.get_by_role("button", name="Apply these changes").click()
    expect(page.get_by_role("link", name="Revision")).to_be_visible()
    expect(worklist.get_by_role("status")).to_contain_text("Examining")
    expect(worklist.get_by_text("Keys differ", exact=True)).to_be_visible()
    page.unroute("**/analysis")
    for route in held:
        route.continue_()
    expect(worklist.get_by_role("status")).to_have_count(0)
    expect(worklist.get_by_text("Keys differ", exact=True)).to_have_count(0)
    page.unroute("**/changes")
    page.get_by_role("button", name="Undo").click()
    expect(worklist.get_by_text("Keys differ", exact=True)).to_be_visible()


def test_no_count_is_told_before_it_is_known(context: BrowserContext, product: RunningProduct):
    """Until the first findings are there the worklist says that it examines, and not that there are none."""
    page = context.new_page()
    page.route("**/analysis", lambda _: None)  # nobody answers
    page.goto(f"{product.base}/d/skerry-line")
    worklist = page.get_by_role("complementary", name="Worklist")
    expect(worklist.get_by_role("status")).to_have_text("Examining …")
    expect(worklist.get_by_role("heading", level=2)).not_to_contain_text("finding")
    page.unroute("**/analysis")
    page.reload()
    expect(worklist.get_by_role("heading", level=2)).to_contain_text("findings")
