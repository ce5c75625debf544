"""Take one picture of each main view, from the demo data, for docs/screenshots (`make shots`)."""

from __future__ import annotations

import sys
import tempfile
from pathlib import Path

from playwright.sync_api import Page, ViewportSize

from tests.support.browser import chromium
from tests.support.running import RunningProduct

FORM = """VPN form
Our gateway: 203.0.113.77
Gateway: 198.51.100.10
Phase 1: AES-256, SHA-256, DH group 14, 28,800 s
Phase 2
Encryption: AES-256; Integrity: SHA-256; PFS: 14
Lifetime: 8
DPD: 30 s
Pre-shared key: by phone
"""
SITES = """Harbour House: 10.64.0.0/22 staff, 10.64.8.0/23 servers, 198.51.100.10
Ostvik Terminal: 10.65.0.0/24 ticketing, ostvik.dyn.example
Brenna Terminal: 10.66.0.1/24, behind NAT
MV Aurelia: vessel, 10.70.1.0/27 bridge, LTE
MV Corvina: vessel, 10.70.2.0/27 bridge, LTE, mooring 4
"""
SIZE: ViewportSize = {"width": 1280, "height": 800}
TARGET = Path(__file__).parents[2] / "docs" / "screenshots"


def take_all(page: Page, base: str, target: Path) -> None:
    """Walk through the views as an engineer would and picture each."""
    design = f"{base}/d/skerry-line"

    def shot(name: str, path: str) -> None:
        page.goto(f"{design}/{path}")
        page.get_by_role("complementary", name="Worklist").get_by_text("finding").first.wait_for()
        page.wait_for_load_state("networkidle")
        page.wait_for_timeout(400)
        page.screenshot(path=target / f"{name}.png")

    shot("survey", "survey/networks")
    shot("match-stopped", "match/harbour-brenna?at=right/key")
    shot("match-form", "match/harbour-tarn?open=form")
    page.get_by_role("textbox", name="What the partner has filled in").fill(FORM)
    page.get_by_text("to be settled first").wait_for()
    page.get_by_role("list", name="Line by line").scroll_into_view_if_needed()
    page.wait_for_timeout(300)
    page.screenshot(path=target / "match-form.png")
    shot("match-ladders", "match/harbour-tarn?at=right/ike_proposals")
    shot("addresses", "addresses")
    shot("paths", "paths?from=brenna-gate-controllers&to=basalt-booking-gate&service=tcp%208443&class=AF41")
    shot("paths-failures", "paths/failures?up=1")
    shot("paths-exits", "paths/exits")
    page.get_by_role("button", name="Rehearse", exact=True).click()
    page.get_by_role("region", name="Rehearsed").get_by_text("answered after").first.wait_for()
    page.screenshot(path=target / "paths-exits.png")
    shot("people-day", "people/crew/day?from=home&family=tablet&to=timetable")
    shot("people-rollout", "people/crew/rollout")
    shot("clouds", "clouds")
    shot("rehearse", "rehearse/harbour-brenna")
    page.get_by_role("button", name="AUTHENTICATION_FAILED").first.click()
    page.wait_for_timeout(400)
    page.screenshot(path=target / "rehearse.png")
    shot("handover-sheet", "handover/sheets/harbour-tarn?side=right")
    from_nothing(page, base, target)
    page.goto(base)
    page.get_by_role("button", name="Actions on Skerry Line", exact=True).click()
    page.get_by_role("menuitem", name="Duplicate …").wait_for()
    page.wait_for_timeout(400)
    page.screenshot(path=target / "designs.png")
    shot("survey", "survey/networks")
    page.get_by_role("button", name="Dark").click()
    shot("match-sound-dark", "match/harbour-ostvik")
    page.get_by_role("button", name="Light").click()
    planned(page, base, target)
    read_devices(page, base, target)


def from_nothing(page: Page, base: str, target: Path) -> None:
    """Begin a design of its own: lines of sites, and what connecting them comes down to."""
    page.goto(base)
    page.get_by_label("Name of the new design").fill("Skerry Line North")
    page.get_by_role("button", name="Add design").click()
    page.get_by_role("textbox", name="A line each").fill(SITES)
    page.get_by_text("1 line can’t be taken").wait_for()
    page.wait_for_timeout(300)
    page.screenshot(path=target / "start.png")
    page.get_by_role("textbox", name="A line each").fill(SITES.replace("10.66.0.1/24", "10.66.0.0/24"))
    page.get_by_role("button", name="Add 5 sites").click()
    page.get_by_text("Forecast: comes up").wait_for()
    page.wait_for_timeout(300)
    page.screenshot(path=target / "connect.png")


def planned(page: Page, base: str, target: Path) -> None:
    """Change a copy of the demo, and plan the change: new proposals, and a network that is renumbered."""
    demo = page.request.get(f"{base}/api/designs/skerry-line").json()
    tunnel = next(candidate for candidate in demo["tunnels"] if candidate["id"] == "harbour-ostvik")
    newer = next(candidate for candidate in demo["tunnels"] if candidate["id"] == "harbour-corvina")["right"]["ike_proposals"][:1]
    for side in ("left", "right"):
        tunnel[side]["ike_proposals"] = newer
    operations = [
        {"op": "put-tunnel", "object": tunnel},
        {"op": "renumber-network", "id": "ostvik-cameras", "prefix": "10.65.16.0/23"},
    ]
    exported = page.request.get(f"{base}/api/designs/skerry-line/export").body()
    made = page.request.post(f"{base}/api/designs/import", data=exported, headers={"Content-Type": "application/json"}).json()
    body = {"base_revision": 0, "note": "New proposals, and room for the cameras", "operations": operations}
    page.request.post(f"{base}/api/designs/{made['id']}/changes", data=body, headers={"Origin": base})
    page.goto(f"{base}/d/{made['id']}/handover")
    page.get_by_role("list", name="Steps").wait_for()
    page.get_by_role("complementary", name="Worklist").get_by_text("finding").first.wait_for()
    page.wait_for_timeout(500)
    page.screenshot(path=target / "handover-plan.png")
    page.request.delete(f"{base}/api/designs/{made['id']}", headers={"Origin": base})


def read_devices(page: Page, base: str, target: Path) -> None:
    """Read the stand-in gateways, and enter at one of them what is intended: it drops a value."""
    page.goto(f"{base}/d/skerry-line/handover/devices/ostvik-gateway")
    page.get_by_role("button", name="Read it now").click()
    page.get_by_role("button", name="Enter all 2 as intended").click()
    page.get_by_text("The device didn't take 1 of 2").wait_for()
    page.get_by_role("complementary", name="Worklist").get_by_text("Devices not as intended").wait_for()
    page.wait_for_timeout(400)
    page.screenshot(path=target / "handover-devices.png")


def main() -> None:
    """Start the product on a fresh state and take the pictures."""
    target = Path(sys.argv[1]) if len(sys.argv) > 1 else TARGET
    target.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(prefix="pontifex-shots-") as state, chromium() as browser:
        Path(state).chmod(0o711)
        product = RunningProduct(Path(state))
        product.start()
        try:
            page = browser.new_page(viewport=SIZE)
            page.set_default_timeout(60_000)  # as in the browser tests: the machine may be busy
            page.goto(product.address)
            take_all(page, product.base, target)
        finally:
            product.stop()


if __name__ == "__main__":
    main()
