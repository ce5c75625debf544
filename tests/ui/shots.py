"""Take one picture of each main view, from the demo data, for docs/screenshots (`make shots`)."""

from __future__ import annotations

import sys
import tempfile
from pathlib import Path

from playwright.sync_api import Page

from tests.support.browser import chromium
from tests.support.running import RunningProduct

MAIL = """Tarn Port Authority:
berth office  10.90.4.0/24
cranes: 10.90.5.0 255.255.255.128
10.90.4.10 - 10.90.4.60
we also have 10.90.300.1
crane server 10.90.4.7
"""
SIZE = {"width": 1280, "height": 800}
TARGET = Path(__file__).parents[2] / "docs" / "screenshots"


def take_all(page: Page, base: str, target: Path) -> None:
    """Walk through the views as an engineer would and picture each."""
    design = f"{base}/d/skerry-line"

    def shot(name: str, path: str) -> None:
        page.goto(f"{design}/{path}")
        page.get_by_role("complementary", name="Worklist").get_by_text("finding").first.wait_for()
        page.wait_for_timeout(400)
        page.screenshot(path=target / f"{name}.png")

    shot("survey", "survey/networks")
    page.get_by_role("button", name="Paste rows").click()
    rows = ("Ostvik Terminal, kiosks, 10.65.8.0/24", "Dry Dock, slipway, 10.72.4.0/24", "Brenna Terminal, gate, 10.66.1.5/26")
    page.get_by_label("Rows, as").fill("\n".join(("site, network, prefix", *rows)))
    page.get_by_text("host bits are set").wait_for()
    page.screenshot(path=target / "survey-paste.png")
    shot("match-stopped", "match/harbour-brenna?at=right/key")
    page.get_by_role("button", name="Mend").first.click()
    page.get_by_role("button", name="Apply these changes").wait_for()
    page.wait_for_timeout(400)
    page.screenshot(path=target / "mend.png")
    shot("match-read-text", "match/harbour-ostvik")
    page.get_by_role("button", name="IKE proposals at Ostvik Terminal").click()
    page.get_by_role("button", name="Read from text").click()
    page.get_by_label("What the form or the mail says").fill("AES / SHA2-256 / DH group 14, kindly")
    page.get_by_text("which key length has AES?").wait_for()
    page.wait_for_timeout(300)
    page.screenshot(path=target / "match-read-text.png")
    page.keyboard.press("Escape")
    shot("match-ladders", "match/harbour-tarn?at=right/ike_proposals")
    shot("compare-keys", "match/harbour-brenna/keys")
    shot("match-questions", "match/aurelia-corvina")
    page.get_by_text("Not known yet: what to ask").click()
    page.get_by_role("heading", name="What to ask MV Corvina").scroll_into_view_if_needed()
    page.wait_for_timeout(300)
    page.screenshot(path=target / "match-questions.png")
    shot("addresses", "addresses")
    shot("addresses-import", "addresses/import")
    page.get_by_label("Paste a table").fill(MAIL)
    page.get_by_text("is more than 255").wait_for()
    page.screenshot(path=target / "addresses-import.png")
    shot("addresses-renumber", "addresses/renumber/ostvik-ticketing?show=10.65.0.0/20")
    shot("addresses-ways-out", "addresses/out")
    shot("paths", "paths?from=brenna-gate-controllers&to=basalt-booking-gate&service=tcp%208443&class=AF41")
    shot("paths-failures", "paths/failures?up=1")
    shot("paths-rules", "paths/rules/brenna-gateway?move=brenna-terminal-by-cable:0")
    shot("paths-split", "paths/split?router=10.64.30.1")
    shot("paths-tables", "paths/tables/rules?at=brenna-gates-by-radio/paths")
    page.keyboard.press("Enter")
    page.get_by_text("limits in brackets").wait_for()
    page.wait_for_timeout(400)
    page.screenshot(path=target / "paths-tables.png")
    page.goto(base)
    page.get_by_role("button", name="Actions on Skerry Line").click()
    page.get_by_role("menuitem", name="Duplicate …").wait_for()
    page.wait_for_timeout(400)
    page.screenshot(path=target / "designs.png")
    shot("survey", "survey/networks")
    page.get_by_role("button", name="Dark").click()
    shot("match-sound-dark", "match/harbour-ostvik")
    page.get_by_role("button", name="Light").click()


def main() -> None:
    """Start the product on a fresh state and take the pictures."""
    target = Path(sys.argv[1]) if len(sys.argv) > 1 else TARGET
    target.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(prefix="pontifex-shots-") as state, chromium() as browser:
        Path(state).chmod(0o711)
        product = RunningProduct(Path(state))
        product.start()
        try:
            page = browser.new_page(viewport=SIZE)  # type: ignore[arg-type]
            page.goto(product.address)
            take_all(page, product.base, target)
        finally:
            product.stop()


if __name__ == "__main__":
    main()
