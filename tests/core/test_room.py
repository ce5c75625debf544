"""Room: free blocks that keep sites in one piece, and how full everything is, against a brute-force oracle."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from pontifex.core.addressing import Family, Prefix, parse_prefix
from pontifex.core.kinds import Network, PrefixReservation, Site
from pontifex.core.model import DesignSettings, apply_operations, put
from pontifex.core.space import Room, capacity, free_space, usage
from pontifex.core.space.room import around
from tests.support.designs import bare_demo

DESIGN = bare_demo()
BASE = (10 << 24) + (96 << 16)  # a universe of 256 addresses


def _block(length, at):
    return Prefix(Family.V4, BASE + (at >> (32 - length) << (32 - length)), length)


BLOCKS = st.lists(st.builds(_block, st.integers(26, 32), st.integers(0, 255)), max_size=8)


@given(BLOCKS, BLOCKS, st.integers(25, 32))
def test_offers_are_free_aligned_and_complete(mine, others, length):
    """Every offer touches nothing that is used, and as long as any aligned block is free one is offered."""
    universe = put(DesignSettings(name="x", supernets=(Prefix(Family.V4, BASE, 24),)))
    sites = [put(Site(id=id_, name=id_)) for id_ in ("a", "b")]
    networks = [
        put(Network(id=f"{site_id}{k}", site_id=site_id, name=f"n{k}", prefix=block))
        for site_id, blocks in (("a", mine), ("b", others))
        for k, block in enumerate(blocks)
    ]
    design = apply_operations(DESIGN, [universe, *sites, *networks])
    used = {value for block in (*mine, *others) for value in range(block.network, block.last + 1)}
    size = 1 << (32 - length)
    free = {at for at in range(BASE, BASE + 256, size) if not used & set(range(at, at + size))}
    offers = Room(design).offers("a", Family.V4, length, most=300)
    assert {offer.prefix.network for offer in offers} <= free
    assert bool(offers) == bool(free)
    clean = [offer for offer in offers if not offer.foreign]
    for offer in offers:
        assert offer.summary == around([*mine, offer.prefix])
        assert offer.foreign == sum(1 for block in others if block.overlaps(offer.summary))
    assert list(offers[: len(clean)]) == clean
    whole = free_space(design, Family.V4)
    assert {value for one, last in zip(whole.first, whole.last, strict=True) for value in range(one, last + 1)} == set(
        range(BASE, BASE + 256)
    ) - used


def test_the_next_block_keeps_the_site_in_one_piece():
    """Harbour's next /24 lies beside what Harbour has, and not in the middle of another site."""
    best = Room(DESIGN).offers("harbour", Family.V4, 24)[0]
    assert parse_prefix("10.64.0.0/16").contains(best.prefix)
    ostvik = Room(DESIGN).offers("ostvik", Family.V4, 24)[0]
    assert (str(ostvik.prefix), str(ostvik.summary), ostvik.foreign) == ("10.65.1.0/24", "10.65.0.0/21", 0)


def test_what_is_held_is_not_offered():
    """A reservation takes its space out of what is free."""
    reservation = PrefixReservation(id="c", site_id="brenna", name="growth", prefix=parse_prefix("10.65.1.0/24"))
    design = apply_operations(DESIGN, [put(reservation)])
    assert str(Room(design).offers("ostvik", Family.V4, 24)[0].prefix) == "10.65.2.0/24"


def test_usage_says_what_breaks_a_summary():
    """Tarn's network lies within Harbour's summary and is named; shares, free blocks and growth are counted."""
    found = usage(DESIGN)
    harbour = next(site for site in found.sites if site.site_id == "harbour")
    assert (str(harbour.summary), harbour.broken_by, harbour.broken_count) == ("10.64.0.0/19", ("tarn-berth-system",), 1)
    supernet = found.supernets[0]
    assert int(supernet.used) == int(supernet.addresses) - sum(block.count << (32 - block.length) for block in supernet.free)
    grows = {network.network_id: str(network.grows_to) for network in found.networks}
    assert (grows["ostvik-ticketing"], grows["basalt-booking-data"]) == ("10.65.0.0/23", "None")


def test_capacity():
    """Network and broadcast address are no hosts', but in a /31 both are, and in IPv6 all."""
    sizes = [capacity(parse_prefix(text)) for text in ("10.0.0.0/24", "10.0.0.0/30", "10.0.0.0/31", "10.0.0.1/32", "fd00::/64")]
    assert sizes == [254, 2, 2, 1, 1 << 64]
