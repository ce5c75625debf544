"""Values under prefixes against a look at each of them."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from pontifex.core.addressing import Address, Family, Prefix
from pontifex.core.addressing.home import HOME_PREFIXES, usual_at_home
from pontifex.core.addressing.prefix_map import PrefixMap


@st.composite
def prefixes(draw: st.DrawFn) -> Prefix:
    """A prefix of either family, often around or within others that are drawn."""
    family = draw(st.sampled_from(Family))
    length = draw(st.integers(0, family.bits))
    start = draw(st.sampled_from([0, 0xC0A80000, 0x0A000000, family.last - 0xFFFF]))
    return Prefix(family, (start + draw(st.integers(0, 0xFFFF))) & ~family.host_mask(length) & family.last, length)


@given(st.lists(prefixes(), max_size=12), prefixes())
def test_what_holds_lies_within_or_shares(listed: list[Prefix], asked: Prefix):
    """What is found is what a look at each prefix finds: longest first, by address, and outermost first."""
    placed = PrefixMap.of((prefix, place) for place, prefix in enumerate(listed))
    first = Address(asked.family, asked.network)
    holding = [place for place, prefix in enumerate(listed) if prefix.holds(first)]
    assert list(placed.holding(first)) == sorted(holding, key=lambda place: -listed[place].length)
    within = [place for place, prefix in enumerate(listed) if asked.contains(prefix)]
    assert list(placed.within(asked)) == sorted(within, key=lambda place: listed[place].order)
    sharing = [place for place, prefix in enumerate(listed) if prefix.overlaps(asked)]
    assert sorted(placed.sharing(asked)) == sharing


@given(prefixes())
def test_the_likeliest_home_prefix_is_told(asked: Prefix):
    """Of all home prefixes that share addresses with one, the first of the table."""
    assert usual_at_home(asked) == next((home for home in HOME_PREFIXES if home.prefix.overlaps(asked)), None)
