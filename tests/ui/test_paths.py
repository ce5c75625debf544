"""The Paths view in a real browser: the matrix, both ladders, failures, rules, links, routes and a host that moves."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.support.browser import choose, tick


def _cell(page: Page, name: str):
    return page.get_by_role("button", name=re.compile(f"^{name}"))


def test_a_cell_opens_both_ways(page: Page, design: str):
    """The matrix says what each pair gets; a cell opens both ladders with what decided, and the link keeps the question."""
    page.goto(f"{design}/paths")
    expect(page.get_by_text("of 13 wanted pairs arrive and return")).to_be_visible()
    gates = _cell(page, "Brenna Terminal gate controllers to Basalt booking gate: arrives, no answer, wanted")
    gates.click()
    expect(page.get_by_role("status").filter(has_text="the answer is lost")).to_contain_text("has no route to 10.66.1.0")
    there, back = page.get_by_role("region", name="Forward"), page.get_by_role("region", name="Return")
    expect(there.get_by_role("listitem").first).to_contain_text("Brenna router")
    expect(there).to_contain_text("rule terminal by cable")
    expect(back).to_contain_text("the own route table of booking gate")
    expect(page).to_have_url(re.compile("from=brenna-gate-controllers&to=basalt-booking-gate"))
    page.reload()
    expect(page.get_by_role("region", name="Return")).to_contain_text("Lost")
    gates.focus()
    page.keyboard.press("ArrowLeft")
    page.keyboard.press("Enter")
    expect(page.get_by_role("status").filter(has_text="Arrives and returns")).to_contain_text("Brenna–Basalt cable")


def test_a_flow_is_typed_and_a_wrong_one_refused(page: Page, design: str):
    """Hosts by name, a service and a class; what can't be read is told, and what was typed stays."""
    page.goto(f"{design}/paths")
    flow = page.get_by_role("region", name="One flow")
    flow.get_by_label("From").fill("gate one")
    flow.get_by_label("to", exact=True).fill("10.80.8.9")
    flow.get_by_label("traffic").fill("tcp 8443")
    flow.get_by_label("class").fill("AF41")
    page.keyboard.press("Enter")
    expect(page.get_by_role("region", name="Forward")).to_contain_text("rule gates by radio")
    flow.get_by_label("traffic").fill("tcp 99999")
    page.keyboard.press("Enter")
    expect(flow.get_by_role("alert")).to_contain_text("is no port from 0 to 65535")
    expect(flow.get_by_label("From")).to_have_value("gate one")


def test_a_link_that_is_down_or_slow(page: Page, design: str):
    """Taking the radio link down moves the gates to the cable; a slider beyond its limit does the same, and the link says so."""
    ask = "from=brenna-gate-one&to=10.80.8.9&service=tcp%208443&class=AF41"
    page.goto(f"{design}/paths?{ask}")
    there = page.get_by_role("region", name="Forward")
    expect(there).to_contain_text("into Brenna–Basalt radio")
    choose(page, "Take down", "Brenna–Basalt radio")
    expect(there).to_contain_text("Brenna–Basalt radio is down; rule gates by radio")
    page.get_by_role("button", name="Brenna–Basalt radio down").click()
    expect(there).to_contain_text("into Brenna–Basalt radio")
    page.get_by_role("tab", name="Links and classes").click()
    page.get_by_label("Brenna–Basalt radio: delay, ms, typed").first.fill("80")
    page.keyboard.press("Enter")
    expect(page.get_by_text("Brenna–Basalt radio has delay 80 ms, 60 allowed").first).to_be_visible()
    expect(page.get_by_text("moves away above 60 ms, back below 48").first).to_be_visible()
    page.get_by_label("Harbour firewall pair: fibre: Mbit/s that others use").fill("499")
    page.keyboard.press("Enter")
    expect(page.get_by_text("over capacity")).to_be_visible()
    page.get_by_role("tab", name="Reachability").click()
    expect(there).to_contain_text("into Brenna–Basalt cable")
    expect(page).to_have_url(re.compile("slow=brenna-basalt-radio"))


def test_every_single_failure(page: Page, design: str):
    """The worst failure comes first, what leaks stands out, and a lost pair opens with that failure supposed."""
    page.goto(f"{design}/paths/failures?up=1")
    rows = page.get_by_role("table").get_by_role("row")
    expect(rows.nth(1)).to_contain_text("Harbour firewall pair")
    exit_ = rows.filter(has_text="Dry Dock exit")
    exit_.get_by_role("button").click()
    expect(page.get_by_role("heading", name="What is lost without Dry Dock exit")).to_be_visible()
    page.get_by_role("button", name="Dry Dock: containers → Basalt: booking front").click()
    expect(page.get_by_role("status").filter(has_text="Leaves unprotected")).to_contain_text("yard line")
    expect(page.get_by_role("button", name="Dry Dock exit down")).to_be_visible()


def test_a_rule_is_moved_and_says_before_what_that_changes(page: Page, design: str):
    """By keyboard and by dragging: the preview names the traffic, Esc leaves it, and putting it there is one change."""
    page.goto(f"{design}/paths/rules/brenna-gateway")
    rules = page.get_by_role("listitem").filter(has=page.get_by_role("button", name="Edit"))
    expect(rules).to_have_count(2)
    handle = page.get_by_role("button", name="Move terminal by cable")
    handle.focus()
    page.keyboard.press("Alt+ArrowUp")
    preview = page.get_by_text("What this move changes").locator("..")
    expect(preview).to_contain_text("10.66.1.0/26 to 10.80.8.0/24, class AF41")
    expect(rules.first).to_contain_text("terminal by cable")
    page.keyboard.press("Escape")
    expect(preview).to_be_hidden()
    expect(rules.first).to_contain_text("gates by radio")
    box, target = handle.bounding_box(), rules.first.bounding_box()
    assert box
    assert target
    page.mouse.move(box["x"] + 5, box["y"] + 5)
    page.mouse.down()
    page.mouse.move(box["x"] + 5, target["y"] + 20, steps=8)
    page.mouse.move(box["x"] + 5, target["y"] + 4, steps=4)
    expect(preview).to_contain_text("gates by radio → terminal by cable")
    page.mouse.up()
    page.get_by_role("button", name="Put it here").click()
    expect(preview).to_be_hidden()
    expect(rules.first).to_contain_text("terminal by cable")
    expect(rules.nth(1)).to_contain_text("A rule that never matches")


def test_a_rule_is_made_and_changed_in_a_form(page: Page, design: str):
    """Path, limit and class are picked; what is refused stays beside its field, over closing the form as well."""
    page.goto(f"{design}/paths/rules/brenna-gateway")
    page.get_by_role("button", name="Add rule").click()
    form = page.get_by_role("dialog", name="Add rule")
    expect(form.get_by_role("status")).to_have_text("Still needs: Name")
    form.get_by_label("Name", exact=True).fill("voice by radio")
    for field, chosen in (
        ("From hosts and networks", "gate controllers"),
        ("Classes", "EF"),
        ("Paths", "Brenna–Basalt radio"),
        ("Paths", "Brenna–Basalt cable"),
    ):
        form.get_by_role("combobox", name=f"Add to {field}").fill(chosen)
        page.get_by_role("option", name=chosen, exact=True).click()
    form.get_by_label("Most delay, ms of Brenna–Basalt radio").fill("40")
    choose(form, "On failure", "hold")
    form.get_by_role("textbox", name="Add to To", exact=True).fill("10.80.0.0/33")
    form.get_by_role("button", name="Save").click()
    wrong = "the length /33 is out of range"
    expect(form.get_by_text(wrong)).to_be_visible()
    page.keyboard.press("Escape")
    expect(form).to_be_hidden()
    page.get_by_role("button", name="Add rule").click()
    expect(form.get_by_text(wrong)).to_be_visible()
    form.get_by_role("button", name="Take 10.80.0.0/33 out").click()
    form.get_by_role("button", name="Save").click()
    expect(form).to_be_hidden()
    made = page.get_by_role("listitem").filter(has_text="voice by radio")
    expect(made).to_contain_text("gate controllers → anywhere, class EF")
    expect(made).to_contain_text("Brenna–Basalt radio, else Brenna–Basalt cable; else hold it")
    page.get_by_role("button", name="Edit voice by radio").click()
    form = page.get_by_role("dialog", name="Edit rule: voice by radio")
    expect(form.get_by_label("Order")).to_have_value("30")
    expect(form.get_by_label("Most delay, ms of Brenna–Basalt radio")).to_have_value("40")
    form.get_by_role("button", name="Take EF out").click()
    form.get_by_role("button", name="Save").click()
    expect(made).to_contain_text("gate controllers → anywhere")
    expect(made).not_to_contain_text("class EF")
    expect(page.get_by_role("link", name="Revision 2")).to_be_visible()


def test_suggestions_are_gone_once_one_is_chosen(page: Page, design: str):
    """On a slow machine too, where the list would come back with the focus; pressed again, the field offers the rest."""
    page.goto(f"{design}/paths/rules/brenna-gateway")
    page.get_by_role("button", name="Add rule").click()
    form = page.get_by_role("dialog", name="Add rule")
    field = form.get_by_role("combobox", name="Add to Classes")
    machine = page.context.new_cdp_session(page)
    machine.send("Emulation.setCPUThrottlingRate", {"rate": 6})
    field.click()
    page.get_by_role("option", name="EF", exact=True).click()
    expect(form.get_by_role("button", name="Take EF out")).to_be_visible()
    form.get_by_label("Name", exact=True).fill("voice by radio")
    expect(page.get_by_role("option")).to_have_count(0)
    machine.send("Emulation.setCPUThrottlingRate", {"rate": 1})
    field.click()
    expect(page.get_by_role("option", name="AF11", exact=True)).to_be_visible()
    expect(page.get_by_role("option", name="EF", exact=True)).to_be_hidden()
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Enter")
    expect(form.get_by_role("button", name="Take DF out")).to_be_visible()
    expect(page.get_by_role("option")).to_have_count(0)


def test_an_intent_names_a_prefix_and_a_domain(page: Page, design: str):
    """A new row waits until both sides say something; a domain that no host is below is told in the worklist."""
    page.goto(f"{design}/paths/tables/intents")
    page.get_by_role("button", name="Add in a form").click()
    form = page.get_by_role("dialog", name="Add intent")
    expect(form.get_by_role("button", name="Save")).to_be_disabled()
    form.get_by_label("Name", exact=True).fill("Updates")
    expect(form.get_by_role("status")).to_have_text("Still needs: From, To")
    form.get_by_role("textbox", name="Add to From prefixes").fill("10.66.0.0/26")
    form.get_by_role("textbox", name="Add to To names").fill("*.gull.example")
    form.get_by_role("textbox", name="Add to To names").press("Enter")
    expect(form.get_by_role("status")).to_have_count(0)
    form.get_by_role("button", name="Save").click()
    expect(form).to_be_hidden()
    worklist = page.get_by_role("complementary", name="Worklist")
    expect(worklist).to_contain_text("Updates names *.gull.example, of which the design holds nothing")


def test_a_quality_is_played_over_time(page: Page, design: str):
    """Up, down and back: it moves at once over the limit, and comes back a minute after it is below the margin."""
    page.goto(f"{design}/paths/links")
    page.get_by_role("button", name="Over time").first.click()
    course = page.get_by_role("region", name="Brenna–Basalt radio: delay over time")
    changes = course.get_by_role("list", name="What is taken").get_by_role("listitem")
    expect(changes).to_have_text(
        [
            re.compile("0 s.*Brenna–Basalt radio"),
            re.compile("31 s.*Brenna–Basalt cable.*delay 60.3 ms, 60 allowed"),
            re.compile("184 s.*Brenna–Basalt radio.*good enough for 60 s"),
        ]
    )
    course.get_by_role("button", name="Play").click()
    expect(course.get_by_role("status")).to_contain_text("90.0 ms")
    course.get_by_role("button", name="Pause").click()
    course.get_by_label("delay of point 3, ms").fill("55")
    course.get_by_label("delay of point 3, ms").press("Enter")
    course.get_by_label("delay of point 4, ms").fill("55")
    course.get_by_label("delay of point 4, ms").press("Enter")
    expect(changes).to_have_text([re.compile("0 s.*Brenna–Basalt radio")])
    page.reload()
    expect(changes).to_have_count(1)
    course.get_by_label("Second of point 2").fill("90")
    course.get_by_label("Second of point 2").press("Enter")
    expect(course.get_by_role("alert")).to_have_text("a point at 40 s can't follow one at 90 s")
    course.get_by_label("delay of point 1, ms").fill("12")
    course.get_by_label("delay of point 1, ms").press("Enter")
    expect(course.get_by_label("Second of point 2")).to_have_value("90")
    course.get_by_role("button", name="As usual").click()
    expect(changes).to_have_count(3)
    course.get_by_role("button", name="Close").click()
    expect(course).to_have_count(0)


def test_routes_that_the_intents_need(page: Page, design: str):
    """What is missing stands out, and one press adds it: the gates get their answers."""
    page.goto(f"{design}/paths/routes")
    missing = page.get_by_role("row").filter(has_text="missing")
    expect(missing).to_have_count(1)
    expect(missing).to_contain_text("subnet booking gate")
    page.get_by_role("button", name="Add what is missing").click()
    expect(missing).to_have_count(0)
    expect(page.get_by_role("complementary", name="Worklist")).not_to_contain_text("No return route")
    page.goto(f"{design}/paths/since?since=0")
    gates = page.get_by_role("row").filter(has_text="Brenna Terminal: gate controllers")
    expect(gates.filter(has_text="arrives, no answer")).to_contain_text("arrives and returns")


def test_commands_for_a_linux_machine(page: Page, design: str):
    """A machine's plan stands there as commands, and so does the way back; a name that is wrong or lacks says so beside it."""
    page.goto(f"{design}/paths/routes")
    commands = page.locator("pre")
    expect(commands).to_contain_text("ip -4 rule add pref 1003 from 172.23.0.0/24")
    tick(page.get_by_role("radiogroup", name="Which commands"), "The way back")
    expect(commands).to_contain_text("ip -4 rule flush protocol 112")
    name = page.get_by_label("Tunnel Dry Dock exit")
    expect(name).to_have_value("exit0")
    name.fill("wan exit")
    page.get_by_role("button", name="Save names").click()
    expect(page.locator("label").filter(has=name).get_by_role("alert")).to_contain_text("is no name of an interface")
    expect(name).to_have_value("wan exit")
    name.fill("")
    page.get_by_role("button", name="Save names").click()
    expect(page.get_by_text("Commands need to know what this interface is called: Dry Dock exit.")).to_be_visible()
    name.fill("wan-exit")
    page.get_by_role("button", name="Save names").click()
    tick(page.get_by_role("radiogroup", name="Which commands"), "Commands")
    expect(commands).to_contain_text("default dev wan-exit metric 1 table 1000")


def test_a_host_is_moved_with_open_eyes(page: Page, design: str):
    """What a host would reach elsewhere is told before it moves."""
    page.goto(f"{design}/paths/host")
    choose(page, "Host to move", "rota 10.64.8.10")
    choose(page, "To network", "Ostvik Terminal: ticketing 10.65.0.0/24")
    page.get_by_label("Address there").fill("10.65.0.20")
    row = page.get_by_role("row").filter(has_text="Harbour House: voice").first
    expect(row).to_contain_text("arrives and returns")
    page.get_by_role("button", name="Move host").click()
    expect(page.get_by_text("Nothing changes for it.")).to_be_visible()
