"""What leaves the product: a file that could give weak keys away, and the person who signs out."""

from __future__ import annotations

import json
import re
from pathlib import Path

from playwright.sync_api import BrowserContext, Locator, Page, expect

from tests.support.running import RunningProduct


def _with_a_weak_key(context: BrowserContext, design: str) -> str:
    """Give an end of a design a key that can be guessed; return its fingerprint."""
    api = design.replace("/d/", "/api/designs/")
    key = context.request.post(f"{api}/keys", data={"how": "set", "secret": "Harbour2024"}).json()
    tunnel = next(candidate for candidate in context.request.get(api).json()["tunnels"] if candidate["id"] == "harbour-ostvik")
    tunnel["left"]["key"] = tunnel["right"]["key"] = key
    change = {"base_revision": 0, "note": "A weak key", "operations": [{"op": "put-tunnel", "object": tunnel}]}
    assert context.request.post(f"{api}/changes", data=change).ok
    return str(key["fingerprint"])


def test_export_asks_where_weak_keys_could_be_guessed(context: BrowserContext, page: Page, design: str):
    """The file is written with or without what gives weak keys away; without weak keys there is no question."""
    fingerprint = _with_a_weak_key(context, design)
    page.goto(f"{design}/match/harbour-ostvik")
    worklist = page.get_by_role("complementary", name="Worklist")
    expect(worklist.get_by_text("Weak key").first).to_be_visible()
    for choice, told in (("Export all", True), ("Leave weak keys out", False)):
        page.get_by_role("link", name="Export", exact=True).click()
        dialog = page.get_by_role("dialog", name="Export a design with weak keys")
        expect(dialog).to_contain_text("1 tunnel has a key so weak that whoever has the file could guess it")
        with page.expect_download() as exported:
            dialog.get_by_text(choice).click()
        text = Path(exported.value.path()).read_text()
        assert (fingerprint in text) is told
        assert json.loads(text)["format"] == "pontifex-design-2"
        expect(dialog).to_be_hidden()


def test_signing_out(context: BrowserContext, page: Page, product: RunningProduct):
    """Signed out, one is told how to come in again, and the address of a design shows nothing of it."""
    page.goto(f"{product.base}/")
    expect(page.get_by_role("link", name="Skerry Line").first).to_be_visible()
    page.get_by_role("button", name="Sign out").click()
    expect(page.get_by_role("status")).to_contain_text("You are signed out")
    expect(page.get_by_role("link", name="Skerry Line")).to_have_count(0)
    page.goto(f"{product.base}/d/skerry-line")
    expect(page.get_by_text("Open the address that the server printed")).to_be_visible()
    page.goto(product.address)
    expect(page.get_by_role("complementary", name="Worklist").get_by_text("finding").first).to_be_visible()
    assert context.cookies()


def test_the_list_tells_what_was_found(page: Page, product: RunningProduct):
    """Which design needs somebody is seen in the list."""
    page.goto(f"{product.base}/d/skerry-line/survey")
    expect(page.get_by_role("complementary", name="Worklist")).to_contain_text("Networks collide")
    page.goto(f"{product.base}/")
    row = page.get_by_role("row").filter(has=page.get_by_text("skerry-line", exact=True))
    expect(row).to_contain_text(re.compile(r"[1-9]\d* blockers?, [1-9]\d* in all"))


def test_designs_are_renamed_duplicated_archived_deleted_and_restored(page: Page, product: RunningProduct):
    """All from the list, by the words of everybody's trade; a delete takes the name, and is taken back."""
    page.goto(f"{product.base}/")
    page.get_by_label("Name of the new design").fill("Quay Works")
    page.get_by_role("button", name="Add design").click()
    expect(page.get_by_role("heading", name="Quay Works")).to_be_visible()
    expect(page.get_by_text("Nothing open here.")).to_be_visible()  # it has been examined
    page.goto(f"{product.base}/")

    def row(name: str) -> Locator:
        return page.get_by_role("row").filter(has=page.get_by_role("link", name=name, exact=True))

    def act(name: str, what: str) -> None:
        row(name).get_by_role("button", name="Actions").click()
        page.get_by_role("menuitem", name=what).click()

    act("Quay Works", "Rename …")
    page.get_by_label("New name").fill("Quay Line")
    page.get_by_role("button", name="Rename", exact=True).click()
    expect(row("Quay Line")).to_contain_text("engineer")
    expect(row("Quay Line")).to_contain_text("at revision 0")
    act("Quay Line", "Duplicate …")
    expect(page.get_by_label("Name of the copy")).to_have_value("Quay Line copy")
    page.get_by_role("button", name="Duplicate", exact=True).click()
    expect(row("Quay Line copy")).to_contain_text("none yet")
    act("Quay Line copy", "Archive")
    expect(row("Quay Line copy")).to_contain_text("archived")
    act("Quay Line copy", "Take out of the archive")
    expect(row("Quay Line copy")).not_to_contain_text("archived")
    act("Quay Line copy", "Delete …")
    delete = page.get_by_role("button", name="Delete", exact=True)
    expect(delete).to_be_disabled()
    page.get_by_label("Name of the design to delete").fill("Quay Line")
    expect(delete).to_be_disabled()
    page.get_by_label("Name of the design to delete").fill("Quay Line copy")
    delete.click()
    expect(row("Quay Line copy")).to_have_count(0)
    page.get_by_role("button", name="Restore Quay Line copy").click()
    expect(row("Quay Line copy")).to_be_visible()
