"""Hand over in the browser: a plan, a failed check and the way back, a sheet, and a device that differs."""

from __future__ import annotations

import json
import re
from datetime import UTC, datetime, timedelta
from typing import Any

from playwright.sync_api import Browser, Page, Route, expect

RUN = re.compile(r"/api/designs/[^/]+/runs/[^/]+$")


def _held_back(route: Route) -> None:
    """Give no answer; the browser's driver lets the question go on once nobody asks for it any more."""


def _change(page: Page, design: str, seconds: int) -> None:
    """Let both ends of a tunnel check each other otherwise, as somebody else would meanwhile."""
    base, _, id_ = design.rpartition("/d/")
    api = f"{base}/api/designs/{id_}"
    found: dict[str, Any] = page.request.get(api).json()
    tunnel = next(candidate for candidate in found["tunnels"] if candidate["id"] == "harbour-ostvik")
    for side in ("left", "right"):
        tunnel[side]["dead_peer_s"] = seconds
    body = {"base_revision": found["revision"], "note": "Check sooner", "operations": [{"op": "put-tunnel", "object": tunnel}]}
    assert page.request.post(f"{api}/changes", data=body, headers={"Origin": base}).ok


def test_a_plan_is_walked_and_a_failed_check_goes_back(page: Page, design: str):
    """The last change is planned; its steps are ticked; a check fails, and what was entered is taken back step by step."""
    _change(page, design, 45)
    page.goto(f"{design}/handover")
    expect(page.get_by_role("status").filter(has_text="Proved at each of 4 steps")).to_be_visible()
    steps = page.get_by_role("list", name="Steps")
    expect(steps.get_by_text("30 → 45").first).to_be_visible()
    page.get_by_role("button", name="Walk this plan").click()
    expect(page).to_have_url(re.compile("/handover/runs/"))
    pairs = page.get_by_role("region", name="Before and after")
    pairs.get_by_role("button", name=re.compile("^Before and after: ")).click()
    pairs.get_by_role("button", name=re.compile("What was seen before: ping 10.64.8.10 from 10.65.0.10")).click()
    pairs.get_by_role("textbox", name="What was seen").fill("3 packets transmitted, 0 received, 100% packet loss")
    pairs.get_by_role("button", name="Keep").click()
    expect(pairs.get_by_role("status")).to_contain_text("1 result contradicts the trace")
    page.route(RUN, _held_back)
    with page.expect_request(RUN):
        page.get_by_role("button", name="Done, check passes").click()
    expect(page.get_by_role("status").filter(has_text="1 of 4 steps entered")).to_be_visible()
    page.get_by_role("textbox", name="Remark").fill("the disk is full")
    page.unroute(RUN)
    page.get_by_role("button", name="Entered, check fails").click()
    expect(page.get_by_role("status").filter(has_text="stopped by a check")).to_be_visible()
    expect(steps.get_by_text("the disk is full")).to_be_visible()
    page.get_by_role("button", name="Taken back: step 2").click()
    page.get_by_role("button", name="Taken back: step 1").click()
    expect(page.get_by_role("status").filter(has_text="taken back; 0 of 4")).to_be_visible()
    page.get_by_role("tab", name="Runs").click()
    expect(page.get_by_label("Runs").get_by_text("taken back").first).to_be_visible()


def test_a_plan_is_rehearsed_by_its_steps(page: Page, design: str):
    """From the plan to the rehearsal of a tunnel through all its steps, and back."""
    _change(page, design, 45)
    page.goto(f"{design}/handover")
    page.get_by_role("region", name="Plan of a change").get_by_role("link", name="Harbour–Ostvik", exact=True).click()
    expect(page.get_by_text("Every ping passed, and the tunnel is up at the end.")).to_be_visible()
    expect(page).to_have_url(re.compile("plan=0"))
    page.get_by_role("link", name="The plan", exact=True).click()
    expect(page.get_by_role("status").filter(has_text="Proved at each of 4 steps")).to_be_visible()


def test_a_tunnel_is_taken_down_on_paper_first(page: Page, design: str):
    """What is taken down is chosen; the end that calls goes first, and the address holds the choice."""
    page.goto(f"{design}/handover")
    page.get_by_role("combobox", name="or take down").click()
    page.get_by_role("option", name="tunnel Harbour–Ostvik").click()
    expect(page.get_by_role("heading", name="Take down tunnel Harbour–Ostvik")).to_be_visible()
    expect(page).to_have_url(re.compile("since=tunnel"))
    first = page.get_by_role("list", name="Steps").get_by_role("listitem").first
    expect(first).to_contain_text("Switch off Harbour–Ostvik")
    expect(first).to_contain_text("Ostvik router")


def test_a_sheet_is_read_and_printed(page: Page, design: str):
    """A partner's sheet has what they enter and what is to be asked, and no secret; its page needs nothing else."""
    page.goto(f"{design}/handover/sheets/harbour-tarn?side=right")
    sheet = page.get_by_role("region", name="Sheet")
    expect(sheet.get_by_role("heading", name="Harbour–Tarn: Tarn firewall, Tarn Port Authority")).to_be_visible()
    expect(sheet.get_by_text("3DES · PRF SHA1 · SHA1 · group 2")).to_be_visible()
    with page.expect_popup() as opened:
        sheet.get_by_role("link", name="Page to print").click()
    expect(opened.value.get_by_role("heading", name="What the log must say")).to_be_visible()


def test_a_device_that_differs_is_taken_over(page: Page, design: str):
    """A reading that is cut off stays to be mended; a whole one shows what differs, and the design takes it over."""
    page.goto(f"{design}/handover/devices")
    page.get_by_role("button", name="Paste a reading").click()
    field = page.get_by_role("textbox", name="Reading, as its file has it")
    field.fill('{"gateway_id": "harbour')
    page.get_by_role("button", name="Keep this reading").click()
    expect(page.get_by_role("alert")).to_contain_text("this is no JSON")
    expect(field).to_have_value('{"gateway_id": "harbour')
    reading = {
        "gateway_id": "harbour-gateway",
        "taken_at": (datetime.now(UTC) - timedelta(minutes=1)).isoformat(),
        "source": "pasted",
        "complete": False,
        "running": {"tunnel/harbour-ostvik/left/dead_peer_s": 45},
    }
    field.fill(json.dumps(reading))
    page.get_by_role("button", name="Keep this reading").click()
    expect(page.get_by_role("status").filter(has_text="Kept: the reading of Harbour firewall pair")).to_be_visible()
    page.get_by_label("Devices").get_by_role("link", name="Harbour firewall pair").click()
    device = page.get_by_role("region", name="Device")
    expect(device.get_by_text("Enter 30 at Harbour firewall pair, and save.")).to_be_visible()
    device.get_by_role("link", name="Plan the steps that mend it").click()
    steps = page.get_by_role("list", name="Steps")
    expect(steps.get_by_text("45 → 30")).to_be_visible()
    page.go_back()
    device.get_by_role("button", name="Take over into the design").click()
    expect(device.get_by_text("Everything that was read is as intended.")).to_be_visible()


def test_a_partner_fills_in_their_end_in_another_browser(page: Page, design: str, browser: Browser):
    """The link opens without an account; what comes back is read line by line, and taken over as one change."""
    page.goto(f"{design}/handover/sheets/harbour-tarn?side=right")
    links = page.get_by_role("region", name="Links for the partner")
    links.get_by_role("button", name="Make a link").click()
    made = links.get_by_role("status")
    expect(made).to_contain_text("/partner/")
    address = re.search(r"http://\S+/partner/[\w.-]+", made.inner_text())
    assert address
    partner = browser.new_context(java_script_enabled=False)
    theirs = partner.new_page()
    theirs.goto(address[0])
    expect(theirs.get_by_role("heading", name="Harbour–Tarn: worksheet for Tarn Port Authority")).to_be_visible()
    theirs.get_by_label("Our networks").fill("10.90.4.0/24")
    theirs.get_by_role("button", name="Send").click()
    expect(theirs.get_by_role("status")).to_contain_text("What you send now replaces it")
    links.get_by_role("button", name="Read the answer into Match").click()
    expect(page.get_by_role("textbox", name="What the partner has filled in")).to_have_value("Our networks: 10.90.4.0/24")
    page.get_by_role("button", name="Take over into Tarn Port Authority’s end").click()
    expect(page.get_by_role("textbox", name="What the partner has filled in")).to_have_value("")
    expect(page.get_by_text("10.90.4.0/24").first).to_be_visible()
    links_again = f"{design}/handover/sheets/harbour-tarn?side=right"
    page.goto(links_again)
    page.get_by_role("button", name="Take it back").click()
    expect(page.get_by_role("region", name="Links for the partner").get_by_text("taken back")).to_be_visible()
    theirs.reload()
    expect(theirs.get_by_role("heading", name="This link opens nothing")).to_be_visible()
    partner.close()


def test_a_template_is_tried_saved_and_kept(page: Page, design: str):
    """A wrong line is named while it is typed; what it becomes stands beside it; it is a part of the design, undone like any."""
    page.goto(f"{design}/handover/templates?gateway=harbour-gateway")
    panel = page.get_by_role("region", name="Templates")
    body = panel.get_by_role("textbox", name="Text of the template")
    body.fill("first line\n{{ gateway.colour }}")
    expect(panel.get_by_role("alert")).to_contain_text("Line 2")
    body.fill("hello {{ gateway.name }}")
    expect(panel.get_by_label("What it becomes")).to_have_text("hello Harbour firewall pair")
    page.reload()
    expect(body).to_have_value("hello {{ gateway.name }}")
    panel.get_by_role("textbox", name="Name").fill("Greeting")
    panel.get_by_role("button", name="Save").click()
    expect(page).to_have_url(re.compile("/handover/templates/greeting"))
    expect(panel.get_by_role("navigation").get_by_text("Greeting")).to_be_visible()
    with page.expect_download() as saved:
        panel.get_by_role("link", name="IPsec (RFC 9061)").click()
    assert saved.value.suggested_filename == "harbour-gateway-rfc9061.json"


def test_a_key_goes_by_a_link_and_a_spoken_code(page: Page, design: str, browser: Browser):
    """The link asks for the code; with it the key is shown once, without a session."""
    base, _, id_ = design.rpartition("/d/")
    api = f"{base}/api/designs/{id_}"
    key = page.request.post(f"{api}/keys", data={"how": "generate"}, headers={"Origin": base}).json()
    found: dict[str, Any] = page.request.get(api).json()
    tunnel = next(candidate for candidate in found["tunnels"] if candidate["id"] == "harbour-ostvik")
    tunnel["left"]["key"] = tunnel["right"]["key"] = key
    body = {"base_revision": found["revision"], "note": "A new key", "operations": [{"op": "put-tunnel", "object": tunnel}]}
    assert page.request.post(f"{api}/changes", data=body, headers={"Origin": base}).ok
    page.goto(f"{design}/handover/sheets/harbour-ostvik")
    region = page.get_by_role("region", name="The key by a separate channel")
    region.get_by_role("button", name="Make a link to the key").click()
    told = region.get_by_role("status")
    expect(told).to_contain_text("/key/")
    address = re.search(r"http://\S+/key/[\w.-]+", told.inner_text())
    code = told.locator("strong").inner_text()
    assert address
    other = browser.new_context(java_script_enabled=False)
    theirs = other.new_page()
    theirs.goto(address[0])
    theirs.get_by_label("Code that you were told on the telephone").fill("wrong")
    theirs.get_by_role("button", name="Show the key").click()
    expect(theirs.get_by_role("alert")).to_contain_text("That is not the code")
    theirs.get_by_label("Code that you were told on the telephone").fill(code.lower())
    theirs.get_by_role("button", name="Show the key").click()
    expect(theirs.get_by_label("Key", exact=True)).to_have_text(re.compile("^[a-z2-7]{56}$"))
    theirs.goto(address[0])
    expect(theirs.get_by_role("heading", name="This link opens nothing")).to_be_visible()
    other.close()
