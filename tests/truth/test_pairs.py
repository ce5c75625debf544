"""The product against the standards' text: random pairs of ends, and the smallest cases of all that ever differed."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import pytest

from tests.truth.ends import AGREED, Networks, PairData
from tests.truth.oracle import foretell
from tests.truth.pairs import difference, judge

SEEDS = range(400)


def test_the_forecast_says_what_the_standards_say():
    """For pairs drawn near to agreeing: who offers, what is chosen, where it stops, what passes, what comes later."""
    ends, differing = judge(SEEDS)
    assert not differing, "\n".join(map(str, differing))
    assert min(ends[stage] for stage in ("up", "reach", "init", "auth", "child")) >= 5  # the draw isn't idle


def _pair(left: dict[str, Any], right: dict[str, Any]) -> PairData:
    return PairData(replace(AGREED.left, **left), replace(AGREED.right, **right))


def _esp(*more: tuple[str, int, int | None], cipher: int = 20) -> tuple[tuple[str, int, int | None], ...]:
    return (("ENCR", cipher, 256 if cipher == 20 else None), *more, ("ESN", 0, None))


def _ike(*more: tuple[str, int, int | None]) -> tuple[tuple[str, int, int | None], ...]:
    return (("ENCR", 20, 256), ("PRF", 5, None), *more)


TCP, UDP = (Networks("10.64.0.0/22", "tcp", "443"),), (Networks("10.65.0.0/24", "udp"),)
V4, V6 = (Networks("10.64.0.0/22"),), (Networks("fd5c:9a1e:40:1::/64"),)
HUB, BRANCH = (Networks("10.0.0.0/8"),), (Networks("10.20.0.0/24"),)
DOUBLE = _ike(("KE", 19, None), ("ADDKE1", 36, None), ("ADDKE2", 36, None))
NO_GROUP = _ike(("KE", 19, None), ("KE", 0, None))
QUANTUM = _esp(("KE", 19, None), ("ADDKE1", 36, None))

# each once differed: what is changed at the left and at the right, and where it stops; None where it comes up and stays
CASES: dict[str, tuple[dict[str, Any], dict[str, Any], str | None]] = {
    "lists of two lengths, the right end rekeys": (
        {"child": (_esp(("KE", 14, None)),), "child_lifetime_s": 7200},
        {"child": (_esp(("KE", 31, None), cipher=28), _esp(("KE", 19, None)))},
        "rekey later",
    ),
    "nobody knows whom to call": ({"address_kind": "carrier-nat", "peer": "any"}, {"peer": "any"}, "reach"),
    "an end whose peer is any doesn't call": ({"peer": "any"}, {}, None),
    "a caller that can't be called is known by its address": ({"udp_arrives": False}, {"role": "wait"}, None),
    "a carrier's address is no address": ({"address_kind": "carrier-nat"}, {"role": "wait"}, "reach"),
    "a side inside the other's network": ({"local": HUB, "remote": BRANCH}, {"local": BRANCH, "remote": HUB}, None),
    "two protocols": ({"local": TCP, "remote": UDP}, {"local": UDP, "remote": TCP}, "child"),
    "two families inside": ({"local": V4, "remote": V6}, {"local": V6, "remote": V4}, "child"),
    "two families outside": ({"address": "2001:db8::10"}, {"peer": "2001:db8::10"}, "reach"),
    "group NONE in an IKE proposal": ({"ike": (NO_GROUP,)}, {}, "init"),
    "one method twice": ({"ike": (DOUBLE,)}, {"ike": (DOUBLE,)}, "init"),
    "additional exchanges of a Child SA": ({"child": (QUANTUM,)}, {}, "rekey later"),
    "case, where the end that expects ignores it": (
        {"ignores_case": True, "remote_id": ("fqdn", "RIGHT.skerry.example")},
        {},
        None,
    ),
    "case, where only the end that sends ignores it": (
        {"remote_id": ("fqdn", "RIGHT.skerry.example")},
        {"ignores_case": True},
        "auth",
    ),
}


@pytest.mark.parametrize("name", CASES)
def test_what_once_differed_agrees(name):
    """Each smallest case of a mended difference stops where the standards say, and the product says the same."""
    left, right, stops = CASES[name]
    pair = _pair(left, right)
    told = foretell(pair)
    assert (told.fails or (f"{told.later} later" if told.later else None)) == stops
    assert difference(pair) == ""
