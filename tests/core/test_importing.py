"""Bringing addresses in: every usual form is read, every line is answered for, and twice changes nothing."""

from __future__ import annotations

import ipaddress
import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pontifex.core.importing import LineOutcome, plan_import, read_text
from pontifex.core.importing.masks import mask_length
from pontifex.core.model import Put, apply_operations
from tests.support.designs import bare_demo

DESIGN = bare_demo()


def _plan(text, design=DESIGN, site="ostvik", gateway=""):
    return plan_import(design, *read_text(text), site, gateway)


def _lines(text, **where):
    return [(line.outcome.value, line.became) for line in _plan(text, **where).lines]


def _at_ostvik(what):
    return f"network {what} at Ostvik Terminal"


@pytest.mark.parametrize(
    ("text", "became"),
    [
        ("10.90.4.0/24", _at_ostvik("10.90.4.0/24 10.90.4.0/24")),
        ("kiosks: 10.90.4.0/24", _at_ostvik("kiosks 10.90.4.0/24")),
        ("10.90.4.0 255.255.252.0 kiosks", _at_ostvik("kiosks 10.90.4.0/22")),
        ("network 10.90.4.0 mask 255.255.255.0 (kiosks)", _at_ostvik("kiosks 10.90.4.0/24")),
        ("kiosks 10.90.4.0/255.255.255.128", _at_ostvik("kiosks 10.90.4.0/25")),
        ("permit ip 10.90.4.0 0.0.0.255", _at_ostvik("permit ip 10.90.4.0/24")),
        ("10.90.4.0 wildcard 0.0.3.255", _at_ostvik("10.90.4.0/22 10.90.4.0/22")),
        ("our router is 10.90.4.9/24", _at_ostvik("our router 10.90.4.0/24")),
        ("10.90.4.0-10.90.4.255 kiosks", _at_ostvik("kiosks 10.90.4.0/24")),
        ("from 10.90.4.10 to 10.90.4.60", _at_ostvik("from 10.90.4.0/26")),
        ("fd5c:9a1e:40:7::/64 kiosks", _at_ostvik("kiosks fd5c:9a1e:40:7::/64")),
        ("printer 10.65.0.9", "host printer 10.65.0.9 in ticketing"),
        ("dhcp 10.65.0.100 - 10.65.0.199", "DHCP range 10.65.0.100-10.65.0.199 of ticketing at Ostvik Terminal"),
        ("dhcp 10.65.0.100-199", "DHCP range 10.65.0.100-10.65.0.199 of ticketing at Ostvik Terminal"),
    ],
)
def test_free_text_in_its_usual_forms(text, became):
    """Prefixes, netmasks, wildcard masks, ranges and hosts become what they mean; the words beside them are the name."""
    ((outcome, said),) = _lines(text)
    assert said == became
    assert outcome in ("new", "changes")


@pytest.mark.parametrize(
    ("text", "reason"),
    [
        ("10.90.300.1", "'300' in '10.90.300.1' is more than 255"),
        ("10.90.4.0/33", "the length /33 is out of range; it is 0 to 32"),
        ("10.90.4.60-10.90.4.10", "'10.90.4.60-10.90.4.10' ends before it starts"),
        ("10.90.4.0 0.0.0.0", "'0.0.0.0' may be a netmask or a wildcard mask; write /0 or /32"),
        ("10.90.4.0/255.0.255.0", "'255.0.255.0' is no mask: its ones are not in a row"),
        ("lonely 10.99.0.1", "no network at Ostvik Terminal holds 10.99.0.1; bring the network in first, or write 10.99.0.1/32"),
        ("10.90.4", "this looks like an address and is none"),
    ],
)
def test_what_can_not_be_read_says_why(text, reason):
    """A line that looks like an address and is none is told with the reason, and nothing comes of it."""
    plan = _plan(text)
    assert [(line.outcome, line.detail) for line in plan.lines] == [(LineOutcome.UNREAD, reason)]
    assert not plan.operations


TABLES = [
    "Site;Network;Prefix;VLAN;Router\nOstvik Terminal;kiosks;10.90.4.0/24;12;10.90.4.1\nNew Pier;lan;10.91.0.0/24;;\n",
    "Site\tName\tNetwork address\tNetmask\tVLAN\tGateway\n"
    "ostvik\tkiosks\t10.90.4.0\t255.255.255.0\t12\t10.90.4.1\nNew Pier\tlan\t10.91.0.0\t24\t\t\n",
    "site,name,start,end,vlan,gateway\n"
    "Ostvik Terminal,kiosks,10.90.4.0,10.90.4.255,12,10.90.4.1\nNew Pier,lan,10.91.0.0,10.91.0.255,,\n",
    json.dumps(
        [
            {"site": "Ostvik Terminal", "name": "kiosks", "cidr": "10.90.4.0/24", "vlan": 12, "gateway": "10.90.4.1"},
            {"site": "New Pier", "name": "lan", "cidr": "10.91.0.0/24", "vlan": None},
        ]
    ),
]


@pytest.mark.parametrize("text", TABLES, ids=["semicolons", "tabs", "ranges", "json"])
def test_tables_by_their_headings(text):
    """One table in four forms: the same networks come of it, with a site that was not there yet."""
    after = apply_operations(DESIGN, _plan(text, site="").operations)
    kiosks = next(network for network in after.networks if str(network.prefix) == "10.90.4.0/24")
    assert (kiosks.site_id, kiosks.name) == ("ostvik", "kiosks")
    lan = next(network for network in after.networks if str(network.prefix) == "10.91.0.0/24")
    assert after.site_by_id[lan.site_id].name == "New Pier"
    if "start" not in text:
        assert (kiosks.vlan, str(kiosks.gateway_address)) == (12, "10.90.4.1")


def test_a_table_without_headings_is_told_apart_by_its_look():
    """Site, name, address and mask are found by what they look like."""
    text = "Ostvik Terminal,kiosks,10.90.4.0,255.255.255.0\nNew Pier,lan,10.91.0.0/24\n"
    assert [became for _, became in _lines(text, site="")] == [
        _at_ostvik("kiosks 10.90.4.0/24"),
        "network lan 10.91.0.0/24 at New Pier",
    ]


def test_a_known_network_changes_only_in_what_the_line_says():
    """A network of the same prefix keeps its name; one of the same name moves; a line about neither makes a new one."""
    text = "site,network,prefix,vlan\nostvik,tickets,10.65.0.0/24,77\nostvik,cameras,10.65.6.0/23,\n"
    plan = _plan(text)
    assert [line.detail for line in plan.lines] == ["VLAN: 10 → 77", "Prefix: 10.65.4.0/23 → 10.65.6.0/23"]
    after = apply_operations(DESIGN, plan.operations)
    assert after.network_by_id["ostvik-ticketing"].name == "ticketing"
    both = "site,network,prefix\nostvik,cameras,10.65.6.0/23\nostvik,cameras,10.65.4.0/23\n"
    assert [line.outcome for line in _plan(both).lines] == [LineOutcome.NEW, LineOutcome.SAME]


@pytest.mark.parametrize("text", ["10.90.4.0-10.90.4.255 kiosks", "10.90.7.10-10.90.7.60", "10.90.9.9 to 10.90.9.9"])
def test_a_range_brought_in_twice_changes_nothing(text):
    """A range that became a network is that network the second time, and not a DHCP range of it."""
    after = apply_operations(DESIGN, _plan(text).operations)
    assert [line.outcome for line in _plan(text, after).lines] == [LineOutcome.SAME]


def test_a_site_heads_the_lines_below_it():
    """In a mail, a line that ends with a colon says whose networks follow."""
    text = "Tarn Port Authority:\nberth office 10.90.4.0/24\n\nNew Pier:\nlan 10.91.0.0/24\nregards, Tarn\n"
    said = _lines(text, site="")
    assert [became for _, became in said if became] == [
        "network berth office 10.90.4.0/24 at Tarn Port Authority",
        "network lan 10.91.0.0/24 at New Pier",
    ]
    assert said[-1] == ("passed", "")


def test_without_a_site_a_line_asks_for_one():
    """A network of nowhere is not written: the line says what is missing."""
    assert "at which site" in _plan("10.90.4.0/24", site="").lines[0].detail


ADDRESSES = [
    {"ifname": "lo", "flags": ["LOOPBACK"], "addr_info": [{"local": "127.0.0.1", "prefixlen": 8, "scope": "host"}]},
    {"ifname": "wan", "flags": ["UP"], "addr_info": [{"local": "203.0.113.90", "prefixlen": 29, "scope": "global"}]},
    {
        "ifname": "lan.60",
        "flags": ["UP"],
        "addr_info": [
            {"local": "10.66.2.1", "prefixlen": 24, "scope": "global"},
            {"local": "fe80::1", "prefixlen": 64, "scope": "link"},
        ],
    },
]
ROUTES = [
    {"dst": "default", "gateway": "203.0.113.73", "dev": "wan"},
    {"dst": "10.64.0.0/22", "dev": "harbour-brenna", "metric": 5},
    {"dst": "10.66.0.0/24", "dev": "lan", "protocol": "kernel"},
    {"dst": "10.9.9.9", "dev": "tun9"},
]
RULES = [
    {"priority": 0, "src": "all", "table": "local"},
    {"priority": 100, "src": "10.66.1.0", "srclen": 26, "table": "radio link"},
    {"priority": 110, "src": "all", "dst": "10.80.0.0", "dstlen": 20, "ipproto": "tcp", "dport": 443, "table": "77"},
    {"priority": 120, "src": "all", "fwmark": "0x1", "table": "7"},
]


@pytest.mark.parametrize(
    ("printed", "outcomes"),
    [
        (ADDRESSES, ["passed", "new", "new", "passed"]),
        (ROUTES, ["new", "new", "passed", "unread"]),
        (RULES, ["passed", "new", "new", "unread"]),
    ],
    ids=["addr", "route", "rule"],
)
def test_what_linux_prints(printed, outcomes):
    """Addresses, routes and rules of a gateway are taken over; the kernel's own are passed over, what can't be is told."""
    plan = _plan(json.dumps(printed), gateway="brenna-gateway", site="")
    assert [line.outcome.value for line in plan.lines] == outcomes
    after = apply_operations(DESIGN, plan.operations)
    assert not _plan(json.dumps(printed), after, "", "brenna-gateway").operations
    asked = _plan(json.dumps(printed), site="")
    assert {line.detail for line in asked.lines if line.outcome is LineOutcome.UNREAD} >= {"choose the gateway that printed it"}


def test_linux_rules_keep_their_order_ports_and_paths():
    """A rule's priority is its order; its table names an uplink, or is told to be filled in."""
    plan = _plan(json.dumps(RULES), gateway="brenna-gateway")
    after = apply_operations(DESIGN, plan.operations)
    new = [rule for rule in after.rules if rule not in DESIGN.rules]
    first, second = sorted(new, key=lambda rule: rule.position)
    assert (first.position, str(first.sources[0]), first.paths[0].id) == (100, "10.66.1.0/26", "brenna-radio-link")
    assert ([str(destination) for destination in second.destinations], second.paths) == (["10.80.0.0/20 tcp 443"], ())
    assert "table '77' names no tunnel or uplink here" in plan.lines[2].detail


BROKEN = [
    "[",
    '{"networks": 7}',
    '[{"dst": {}}]',
    '[{"ifname": 3, "addr_info": 4}]',
    '{"format": "pontifex-design-1"}',
    "[1, null]",
    "[[]]",
]


@pytest.mark.parametrize("text", BROKEN)
def test_broken_json_never_ends_in_a_trace(text):
    """Whatever is in the brackets, the answer is lines with reasons and no change."""
    assert not _plan(text).operations


WORDS = st.sampled_from(
    [
        "lan",
        "kiosks",
        "Ostvik Terminal:",
        "10.90.4.0/24",
        "10.65.0.7",
        "10.65.0.100-10.65.0.120",
        "255.255.255.0",
        "to",
        "-",
        ",",
        ";",
        "\t",
        "fd5c::/48",
        "10.90.0.1/16",
        "\n",
        "#",
    ]
)


@given(st.lists(WORDS, max_size=24))
def test_importing_twice_changes_nothing(words):
    """Any text that is taken over is there afterwards: the same text changes nothing any more."""
    text = " ".join(words)
    plan = _plan(text)
    after = apply_operations(DESIGN, plan.operations) if plan.operations else DESIGN
    assert not _plan(text, after).operations


@given(st.integers(0, 32))
def test_masks_against_the_standard_library(length):
    """Every netmask and every wildcard mask has the length that the standard library gives it, where it is not in doubt."""
    network = ipaddress.ip_network(f"0.0.0.0/{length}")
    if 0 < length < 32:
        assert mask_length(str(network.netmask)) == mask_length(str(network.hostmask)) == length


@given(st.text(max_size=60))
def test_any_text_is_answered(text):
    """No text breaks the reader, and every line that holds an address is answered for."""
    taken_for, records = read_text(text)
    assert taken_for
    plan_import(DESIGN, taken_for, records, "ostvik")


def test_thousands_of_rows_of_one_name_get_a_number_each():
    """Names never run out: of 1,200 networks of one name at a site each is planned, and no two are called alike."""
    rows = "\n".join(f"lan 10.96.{k // 256}.{k % 256}/32" for k in range(1200))
    plan = _plan(rows)
    assert (
        len(plan.operations)
        == len({operation.object.name for operation in plan.operations if isinstance(operation, Put)})
        == 1200
    )


@pytest.mark.parametrize(
    "text",
    [
        "10.0.0.1" + " " * 100_000 + "x",
        "1" * 5000,
        "::" * 4000,
        '{"networks": [{"prefix": ' + "9" * 5000 + "}]}",
        "10.0.0.1 " + "a" * 9000,
    ],
)
def test_texts_that_are_mostly_one_letter_are_told(text):
    """Whatever a text repeats, each line of it is told, and nothing is planned."""
    plan = _plan(text)
    assert plan.lines
    assert not plan.operations
