"""Prefixes that people's own routers and phones use at home, likeliest first.

There is no census of homes that one could cite, so no odds are given: only an order, with the reasoning behind each row.
RFC 1918 section 3 gives everybody the same three blocks; makers preset the round ones among their first blocks, and
hardly anybody changes a preset.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from dataclasses import dataclass
from typing import Final

from pontifex.core.addressing.address import Family
from pontifex.core.addressing.prefix import Prefix, parse_prefix


@dataclass(frozen=True, slots=True)
class HomePrefix:
    """A prefix that is usual at home, and why it is thought to be."""

    prefix: Prefix
    reasoning: str


def _home(prefix: str, reasoning: str) -> HomePrefix:
    return HomePrefix(parse_prefix(prefix), reasoning)


HOME_PREFIXES: Final = (
    _home("192.168.1.0/24", "the first round block of RFC 1918's smallest range, the commonest preset of home routers"),
    _home("192.168.0.0/24", "the very first block of that range, a preset nearly as common"),
    _home("10.0.0.0/24", "the very first block of RFC 1918's largest range, preset by cable and fibre routers"),
    _home("192.168.2.0/24", "the next block, preset where a router is meant to stand behind another one"),
    _home("192.168.178.0/24", "a preset of routers that providers hand out"),
    _home("192.168.8.0/24", "a preset of mobile routers"),
    _home("192.168.100.0/24", "a round number within the range; modems answer there, too"),
    _home("192.168.10.0/24", "a round number within the range"),
    _home("10.0.1.0/24", "the next block of the largest range"),
    _home("10.1.1.0/24", "a round number within the largest range"),
    _home("192.168.43.0/24", "given out by telephones that share their connection"),
    _home("172.20.10.0/28", "given out by telephones that share their connection"),
    _home("172.16.0.0/24", "the very first block of RFC 1918's middle range"),
)


_IN_ORDER: Final = sorted(HOME_PREFIXES, key=lambda home: home.prefix)  # none of them holds another
_FIRSTS: Final = [home.prefix.network for home in _IN_ORDER]
_LASTS: Final = [home.prefix.last for home in _IN_ORDER]


def usual_at_home(prefix: Prefix) -> HomePrefix | None:
    """Return the likeliest home prefix that shares addresses with a prefix; None when none does."""
    if prefix.family is not Family.V4:
        return None
    sharing = _IN_ORDER[bisect_left(_LASTS, prefix.network) : bisect_right(_FIRSTS, prefix.last)]
    return min(sharing, key=HOME_PREFIXES.index) if sharing else None
