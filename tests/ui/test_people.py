"""People in the browser: a profile's ends, its settings, a device's day, and a roll-out whose figures come from devices."""

from __future__ import annotations

import re

from playwright.sync_api import BrowserContext, Page, expect

from tests.support.browser import choose
from tests.support.screens import edit


def _people(page: Page, design: str, panel: str = "") -> None:
    page.goto(f"{design}/people/crew/{panel}")
    expect(page.get_by_role("heading", name="Crew access", level=2)).to_be_visible()


def _says(page: Page, words: str) -> None:
    expect(page.get_by_role("status").filter(has_text=words).first).to_be_visible()


def test_both_ends_of_a_profile_are_compared_and_mended(page: Page, design: str):
    """The gateway expects another proof: the call is foretold to fail, the worklist says it here, and undo mends it."""
    _people(page, design)
    _says(page, "A device at home: Comes up.")
    edit(page, "How a device at home proves itself at Harbour House")
    page.get_by_role("combobox", name="How a device at home proves itself at Harbour House").click()
    page.get_by_role("option", name="EAP", exact=True).click()
    page.get_by_role("button", name="Save", exact=True).click()
    _says(page, "Stops at Auth")
    finding = page.get_by_role("complementary").get_by_role("article").filter(has_text="Crew access").first
    expect(finding).to_be_visible()
    expect(page.get_by_role("navigation", name="Stages of the work").get_by_role("link", name="People")).to_contain_text("4")
    page.get_by_role("button", name="Undo").click()
    _says(page, "A device at home: Comes up.")


def test_settings_are_kept_while_they_are_typed(page: Page, design: str):
    """A wrong prefix is refused beside the form, survives a reload, and is saved once it is right."""
    _people(page, design, "settings")
    page.get_by_role("button", name="Add a test").click()
    page.get_by_role("combobox", name="Test 2 by").click()
    page.get_by_role("option", name="prefix it sits in").click()
    page.get_by_role("textbox", name="Test 2", exact=True).fill("10.64.0.0/33")
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_role("alert")).to_contain_text("the length /33 is out of range")
    page.reload()
    expect(page.get_by_role("textbox", name="Test 2", exact=True)).to_have_value("10.64.0.0/33")
    page.get_by_role("textbox", name="Test 2", exact=True).fill("192.168.1.0/24")
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_role("button", name="Save")).to_be_disabled()
    card = page.get_by_role("article").filter(has_text="Outside looks like inside")
    expect(card).to_be_visible()
    card.get_by_role("button", name="Mend").click()
    page.get_by_role("button", name="Apply these changes").click()
    expect(card).to_be_hidden()
    expect(page.get_by_role("textbox", name="Test 2", exact=True)).to_be_hidden()


def test_a_device_is_followed_through_its_day(page: Page, design: str):
    """A cell of the picture opens its device_trace; a name that nobody knows is said beside the question."""
    _people(page, design, "day")
    page.get_by_role("button", name="Harbour House: servers 10.64.8.0/23, in a hotel, tablet: held on the device").click()
    device_trace = page.get_by_role("region", name="Followed")
    expect(device_trace.get_by_role("status")).to_contain_text("Held on the device")
    expect(device_trace).to_contain_text("nothing but TCP 443 gets out")
    expect(page).to_have_url(re.compile("from=hotel"))
    page.get_by_role("textbox", name="Name or address").fill("the moon")
    expect(page.get_by_role("alert")).to_contain_text("no host of the design is called 'the moon'")
    page.get_by_role("combobox", name="Device").click()
    page.get_by_role("option", name="at home").click()
    page.get_by_role("textbox", name="Name or address").fill("timetable")
    expect(device_trace.get_by_role("status")).to_contain_text("Through the tunnel. Arrives and returns")


def test_a_call_is_rehearsed(page: Page, design: str):
    """At home the device is given an address and a resolver; where only a proxy gets out its call stops, as forecast."""
    _people(page, design, "call")
    call = page.get_by_role("region", name="A call")
    expect(call.get_by_role("status")).to_contain_text("The tunnel came up")
    expect(call.get_by_role("region", name="Gateway of a device at home")).to_contain_text("This end is given 10.64.30.1")
    choose(call, "The device", "behind a proxy")
    expect(call.get_by_role("status")).to_contain_text("only TCP 443 leaves here. The forecast said so.")
    expect(page).to_have_url(re.compile("from=proxy"))


def test_a_device_that_holds_an_old_lease_is_followed_by_its_routes(page: Page, context: BrowserContext, design: str):
    """The pool hands out what the split has; who holds the lease of the revision before goes beside until it is renewed."""
    api = design.replace("/d/", "/api/designs/")
    for revision, prefix in enumerate(("10.64.30.0/24", "10.64.0.0/16")):
        read = context.request.get(api).json()
        (pool,) = [candidate for candidate in read["networks"] if candidate["id"] == "harbour-crew-access"]
        (gateway,) = [candidate for candidate in read["gateways"] if candidate["id"] == "harbour-gateway"]
        operations = [
            {"op": "put-gateway", "object": {**gateway, "inside_address": "10.64.30.1"}},
            {"op": "put-network", "object": {**pool, "dhcp_routes": [f"{prefix} via 10.64.30.1"]}},
        ]
        change = {"base_revision": revision, "note": "Routes of the pool", "operations": operations}
        assert context.request.post(f"{api}/changes", data=change).ok
    _people(page, design, "day")
    page.get_by_role("textbox", name="Name or address").fill("timetable")
    followed = page.get_by_role("region", name="Followed")
    expect(followed).to_contain_text("Until its lease is renewed: the same way.")
    field = page.get_by_role("spinbutton", name="Lease of revision")
    field.fill("1")
    field.press("Enter")
    expect(followed).to_contain_text("The lease doesn't name 10.64.9.20")
    expect(followed.get_by_role("status")).to_contain_text("Through the tunnel. Arrives and returns")


def test_a_roll_out_is_followed_and_taken_back(page: Page, design: str):
    """People are pasted with a fault; a version is signed, offered to the first, stopped and taken back."""
    _people(page, design, "rollout")
    expect(page.get_by_role("status").filter(has_text="Nothing is offered yet.")).to_be_visible()
    page.get_by_role("button", name="Add people").click()
    field = page.get_by_role("textbox", name="People and their devices, a line each")
    field.fill("Runa Falk,Deck crew,bridge-1,tablet\nEskil Dahl,Deck crew,bridge-2,toaster\nSiv Moen,Rota clerks,rota-1,laptop")
    page.get_by_role("button", name="Add them").click()
    _says(page, "2 devices added; 1 line not taken")
    expect(page.get_by_text("Line 2: there is no platform 'toaster'")).to_be_visible()
    expect(field).to_have_value("Eskil Dahl,Deck crew,bridge-2,toaster")
    page.get_by_role("textbox", name="What is new in it").fill("the first")
    page.get_by_role("button", name="Sign version 1").click()
    expect(page.get_by_role("list", name="Versions")).to_contain_text("the first")
    page.get_by_role("button", name="Offer it to the first").click()
    _says(page, "Version 1 is offered to the first 2 devices; the others are offered nothing.")
    table = page.get_by_role("table").filter(has_text="bridge-1")
    expect(table).to_contain_text("offered")
    page.get_by_role("button", name="Stop").click()
    _says(page, "Version 1 is offered to nobody more")
    page.get_by_role("button", name="Offer version 1 to all").click()
    _says(page, "Version 1 is offered to all.")
    expect(page.get_by_role("group", name="Devices by state").get_by_role("button", name="2 offered")).to_be_visible()


def test_the_devices_of_the_demo_report_by_themselves(page: Page, product):
    """Eight stand-ins have fetched, applied and dialled; one refuses, and one reports an old version."""
    page.goto(f"{product.base}/d/skerry-line/people/crew/rollout")
    bar = page.get_by_role("group", name="Devices by state")
    expect(bar.get_by_role("button", name="6 active")).to_be_visible()
    bar.get_by_role("button", name="1 refused").click()
    expect(page.get_by_role("table").filter(has_text="corvina-bridge-2")).to_contain_text(
        "proof by certificate needs a newer system"
    )
    page.get_by_role("button", name="What is new", exact=True).click()
    expect(page.get_by_role("list", name="Versions")).to_contain_text("Session limit, s: — → 43200")
    with page.expect_popup() as opened:
        page.get_by_role("link", name="Page to sign").first.click()
    expect(opened.value.get_by_role("heading", name="Crew access, version 2")).to_be_visible()


def test_a_split_is_tried_before_it_is_kept(page: Page, design: str):
    """Another split shows its routes, what it forgets, its octets; what can't be read is told at its field; the link keeps it."""
    _people(page, design, "split")
    expect(page.get_by_role("complementary", name="Worklist")).to_contain_text("The split forgets networks")
    expect(page.get_by_text("Beside the tunnel, though the gateway leads there: Basalt: booking 10.80.0.0/20")).to_be_visible()
    networks = page.get_by_role("textbox", name="Networks", exact=True)
    networks.fill("10.64.0.0/14, 10.70.1.0/27, 10.80.0.0/20")
    expect(page.get_by_text("Nothing that the gateway leads to is forgotten.")).to_be_visible()
    page.get_by_label("Router", exact=True).fill("10.64.30.1")
    octets = page.get_by_text("0e 0a 40 0a 40 1e 01")
    expect(octets).not_to_contain_text("00 0a 40 1e 01 0e 0a 40")
    expect(page.get_by_text("what isn’t listed keeps the default route")).to_be_visible()
    page.get_by_text("Default route inside").click()
    expect(page.get_by_text("00 0a 40 1e 01 0e 0a 40")).to_be_visible()
    expect(page.get_by_text("everything goes through the tunnel")).to_be_visible()
    networks.fill("10.64.0.1/14")
    expect(page.get_by_role("alert")).to_contain_text("host bits are set")
    networks.fill("10.64.0.0/14, 10.70.1.0/27, 10.80.0.0/20")
    expect(page.get_by_role("alert")).to_be_hidden()
    page.get_by_label("Octets of option 121").fill("18 0a 41 00 0a 40 00 01")
    expect(page.get_by_text("10.65.0.0/24 via 10.64.0.1")).to_be_visible()
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_role("complementary", name="Worklist")).not_to_contain_text("The split forgets networks")
    page.get_by_role("button", name="Hand these out").click()
    leases = page.get_by_role("region", name="Leases")
    expect(leases).to_contain_text("let the hosts renew their leases")
    expect(page.get_by_role("link", name="Revision 2")).to_be_visible()


def test_leases_that_a_gateway_takes_keep_the_old_routes(page: Page, design: str):
    """With a block of leases at the gateway, new routes never arrive by themselves: what is to be done is told."""
    _people(page, design, "settings")
    page.get_by_label("Leases that the gateway takes at once").fill("10")
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_role("button", name="Save")).to_be_disabled()
    page.goto(f"{design}/paths/split/crew?router=10.64.30.1")  # where it stood before
    leases = page.get_by_role("region", name="Leases")
    expect(leases).to_contain_text("the gateway takes 10 leases for those who dial in")
    expect(leases).to_contain_text("They never arrive by themselves.")
    expect(leases).to_contain_text("restart what ends the tunnels at the gateway")
