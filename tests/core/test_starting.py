"""Sites read line by line, in the styles in which people write them, and what is to be done next."""

from __future__ import annotations

from dataclasses import dataclass

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pontifex.core.errors import FieldRefused
from pontifex.core.kinds import AddressKind, NetworkRole, SiteKind
from pontifex.core.model import Design, apply_operations
from pontifex.core.starting import StartText, another_like, next_steps, plan_sites
from pontifex.core.starting.next_steps import NextAction
from pontifex.core.starting.plan import SiteLineState
from pontifex.demo import demo_design

EMPTY = Design(id="line", revision=0, name="New Line", key_salt="00" * 16)


def read(text: str, design: Design = EMPTY, **fields):
    """Return the lines as they were read, and the design with them."""
    plan, operations = plan_sites(design, StartText.model_validate({"text": text, **fields}))
    return plan, apply_operations(design, operations) if operations else design


@dataclass(frozen=True)
class Meant:
    """What somebody means by a line."""

    name: str
    networks: tuple[tuple[str, str], ...]  # what each is called, and its prefix
    kind: AddressKind
    called: bool
    address: str | None
    dns_name: str | None


NAMES = st.sampled_from(["Harbour House", "Ostvik", "MV Aurelia", "Pier 7", "Büro Nord", "site-04", "The Yard (old)"])
LABELS = st.sampled_from(["", "staff", "servers", "voice", "berth office", "cranes"])
PREFIXES = st.integers(0, 255).flatmap(lambda k: st.sampled_from([f"10.{k}.0.0/22", f"10.{k}.4.0/24", f"192.168.{k}.0/26"]))
OUTSIDE = {
    (AddressKind.FIXED_PUBLIC, True): ["{address}", "static {address}", "fixed: {address}", "WAN {address}"],
    (AddressKind.CHANGING_PUBLIC, True): ["{dns_name}", "dynamic {dns_name}", "DSL, {dns_name}", "changing address {dns_name}"],
    (AddressKind.BEHIND_NAT, False): ["behind NAT", "NAT", "behind a router", "natted"],
    (AddressKind.BEHIND_NAT, True): ["NAT with port forwarding, {dns_name}", "port forwarding {dns_name}"],
    (AddressKind.CARRIER_NAT, False): ["LTE", "CGNAT", "carrier-grade NAT", "4G", "satellite"],
}


@st.composite
def meant(draw) -> tuple[Meant, str]:
    """Draw a site with the words for its way to the outside."""
    kind, called = draw(st.sampled_from(list(OUTSIDE)))
    words = draw(st.sampled_from(OUTSIDE[kind, called]))
    address = "198.51.100.7" if "{address}" in words else None
    dns_name = "a7.dyn.example" if "{dns_name}" in words else None
    networks = draw(
        st.lists(st.tuples(LABELS, PREFIXES), min_size=1, max_size=3, unique_by=(lambda drawn: drawn[1], lambda drawn: drawn[0]))
    )
    site = Meant(draw(NAMES), tuple(networks), kind, called, address, dns_name)
    return site, words.format(address=address, dns_name=dns_name)


def lines_of(site: Meant, words: str) -> list[str]:
    """Return the line in each of many styles."""
    before = [f"{label} {prefix}".strip() for label, prefix in site.networks]
    behind = [f"{prefix} {label}".strip() for label, prefix in site.networks]
    bracketed = [f"{prefix} ({label})" if label else prefix for label, prefix in site.networks]
    assigned = [f"{label} = {prefix}" if label else prefix for label, prefix in site.networks]
    return [
        *(f"{site.name}: {', '.join(networks)}, {words}" for networks in (before, behind, bracketed, assigned)),
        f"{site.name}; {'; '.join(behind)}; {words}",
        f"{site.name}\t" + "\t".join(behind) + f"\t{words}",
        f"{site.name} | {' | '.join(before)} | {words}",
        f"- {site.name}: {words}, {', '.join(before)}",
        f"{site.name} - {', '.join(behind)}, {words}",
        f"  {site.name},{','.join(behind)},{words}  ",
        f"{site.name}: LAN {', '.join(behind)}, reached via {words}",
    ]


@given(meant())
def test_a_site_is_read_in_many_styles(drawn):
    """Name, networks with what they are called, and the way to the outside come out as they were meant, or it is a fault."""
    site, words = drawn
    for line in lines_of(site, words):
        plan, design = read(line)
        assert [line.state for line in plan.lines] == [SiteLineState.NEW], (line, plan.lines)
        (made,), (uplink,) = design.sites, design.uplinks
        assert made.name == site.name, line
        assert {str(network.prefix) for network in design.networks} == {prefix for _, prefix in site.networks}, line
        named = {str(network.prefix): network.name for network in design.networks}
        assert all(named[prefix] == label for label, prefix in site.networks if label), (line, named)
        said = (uplink.address_kind, uplink.inbound_ike, str(uplink.address) if uplink.address else None, uplink.dns_name)
        assert said == (site.kind, site.called, site.address, site.dns_name), line
        assert plan.lines[0].left_out == "", line


def test_a_table_is_read_by_its_headings():
    """In whichever order; what a column says that isn't known is told as left out."""
    rows = ("Region;Site;WAN;Networks;Remark", "north;Ostvik;dynamic o.example;10.65.0.0/24 10.65.4.0/23;mooring")
    text = "\n".join((*rows, ";Brenna;nat;10.66.0.0/24;"))
    plan, design = read(text)
    assert [line.state for line in plan.lines] == [SiteLineState.PASSED, SiteLineState.NEW, SiteLineState.NEW]
    assert plan.lines[1].left_out == "mooring"
    assert [(site.name, site.region) for site in design.sites] == [("Brenna", ""), ("Ostvik", "north")]
    assert len(design.networks_of_site("ostvik")) == 2


@pytest.mark.parametrize(
    ("line", "reason"),
    [
        ("Ostvik: 10.65.0.1/24", "host bits are set in 10.65.0.1/24; did you mean 10.65.0.0/24?"),
        ("Ostvik: 10.65.0.0/33", "out of range"),
        (": 10.65.0.0/24", "no name of a site stands in front"),
        ("Ostvik: 10.65.0.0/24, 10.65.0.0/24", "Ostvik has 10.65.0.0/24 already"),
        ("Ostvik: 10.65.0.0/24 staff 10.66.0.0/24", "Part them by commas"),
        ("x" * 90 + ": 10.65.0.0/24", "more than 80 characters"),
        ("y" * 5000, "characters; 4,000 at most"),
    ],
)
def test_a_fault_is_told_at_its_line_and_the_rest_is_taken(line, reason):
    """A line that can't be taken adds nothing, not even its site; the others do."""
    plan, design = read(f"Harbour: 10.64.0.0/22, 198.51.100.1\n{line}\nBrenna: 10.66.0.0/24")
    fault = plan.lines[1]
    assert fault.state is SiteLineState.FAULT
    assert reason in fault.became
    assert plan.faults == 1
    assert [site.name for site in design.sites] == ["Brenna", "Harbour"]


@given(st.text(max_size=300))
def test_no_text_ends_in_an_error(text):
    """Whatever stands there, it is taken or told; what is taken is a design."""
    for written in (text, f"site\tlan\n{text}\tx", f"{text}: 10.1.0.0/24, {text} 10.2.0.0/24"):
        plan, design = read(written)
        assert Design.model_validate(design.model_dump()) == design
        assert len(design.sites) == plan.sites


def test_more_supernets_than_a_design_holds():
    """They are refused at their field."""
    _, design = read("Ostvik: 10.65.0.0/24", supernets=[f"10.{k}.0.0/16" for k in range(60)])
    with pytest.raises(FieldRefused, match="there are 70; 64 at most") as refused:
        read("Brenna: 10.66.0.0/24", design, supernets=[f"172.16.{k}.0/24" for k in range(10)])
    assert refused.value.field == "supernets"


def test_ten_thousand_branches_with_faults():
    """Each fault is told at its line, and all else is offered."""
    rows = [f"Branch {k};10.{k // 256}.{k % 256}.{5 if k % 1000 == 999 else 0}/24;nat" for k in range(10_000)]
    plan, design = read("site;lan;wan\n" + "\n".join(rows))
    assert [line.line for line in plan.lines if line.state is SiteLineState.FAULT] == [k + 2 for k in range(999, 10_000, 1000)]
    assert (plan.sites, len(design.sites), len(design.networks)) == (9990, 9990, 9990)


def test_what_is_there_already_gets_what_is_new():
    """A site of a name that the design has is added to; a line that adds nothing says so."""
    demo = demo_design()
    plan, design = read("Ostvik Terminal: 10.65.8.0/24 kiosks, 198.51.100.9\nBrenna Terminal:", demo)
    assert [line.state for line in plan.lines] == [SiteLineState.ADDS, SiteLineState.FAULT]
    assert len(design.sites) == len(demo.sites)
    assert len(design.uplinks) == len(demo.uplinks)  # it has a way out
    assert "kiosks" in {network.name for network in design.networks_of_site("ostvik")}


def test_what_words_say_of_a_site_and_its_networks():
    """Kinds of sites, and what networks are for."""
    plan, design = read("Basalt: cloud, 10.80.0.0/20 servers, 10.80.8.0/24 transit\nAurelia: vessel, 172.22.16.0/20 passengers")
    assert {site.name: site.kind for site in design.sites} == {"Basalt": SiteKind.CLOUD, "Aurelia": SiteKind.VEHICLE}
    roles = {network.name: network.role for network in design.networks}
    assert roles == {"servers": NetworkRole.SERVER, "transit": NetworkRole.TRANSIT, "passengers": NetworkRole.GUEST}
    assert plan.faults == 0


def test_supernets_are_added_to_those_there_are():
    """They are part of the same change."""
    _, design = read("Ostvik: 10.65.0.0/24", supernets=["10.64.0.0/11"])
    assert [str(supernet) for supernet in design.supernets] == ["10.64.0.0/11"]


def test_what_to_do_next():
    """One thing after the other, and nothing any more when all is there."""
    assert [step.action.value for step in next_steps(EMPTY)] == ["add-sites"]
    _, design = read("Harbour: 10.64.0.0/22, 198.51.100.1\nOstvik:\nBrenna: 10.66.0.0/24, LTE")
    steps = next_steps(design)
    assert [(step.action.value, step.says) for step in steps] == [
        ("add-networks", "Ostvik has no network yet."),
        ("connect-sites", "Brenna, Harbour, Ostvik are joined to no other."),
    ]
    (unnamed,) = [step for step in next_steps(demo_design()) if step.action is NextAction.ADD_INTENTS]
    assert unnamed.says == "Basalt's booking, Dry Dock's yard, Harbour House's voice are reached by nobody: no intent names them."


@pytest.mark.parametrize("site", [site for site in demo_design().sites if site.id != "homes"], ids=lambda site: site.id)
def test_another_site_is_like_the_one_that_is_there(site):
    """Its line is taken without a fault: as many networks of the same sizes and uses, in free space, reached in the same way."""
    design = demo_design()
    line = another_like(design, site.id)
    plan, operations = plan_sites(design, StartText(text=line))
    assert (plan.sites, plan.faults) == (1, 0), line
    after = apply_operations(design, operations)
    (made,) = {site.id for site in after.sites} - {site.id for site in design.sites}
    sizes = [sorted((n.prefix.length, n.role.value) for n in after.networks_of_site(id_)) for id_ in (site.id, made)]
    assert sizes[0] == sizes[1]
    mine = [n.prefix for n in after.networks_of_site(made)]
    assert not any(prefix.overlaps(n.prefix) for prefix in mine for n in design.networks)
    assert len({prefix.network >> 13 for prefix in mine}) <= 1 or site.id == "harbour"  # in one piece: a block of 8,192 addresses
    assert after.site_by_id[made].kind is site.kind
    kinds = [[uplink.address_kind for uplink in after.uplinks_of_site(id_)][:1] for id_ in (site.id, made)]
    assert kinds[0] in ([], kinds[1])
