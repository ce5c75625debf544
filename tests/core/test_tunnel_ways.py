"""Short cuts of looking where tunnels lead, against the long way."""

from __future__ import annotations

from itertools import permutations
from random import Random

import pytest

from pontifex.core.addressing import Family, Prefix, Selector
from pontifex.core.kinds import SIDES
from pontifex.core.matching.overlapping import shared_networks
from pontifex.core.model import Design, Translate, apply_operations, put
from pontifex.core.routing import Tables
from pontifex.core.routing.tables.chains import Chains
from pontifex.core.routing.trace.carrying import WaysIntoTunnels, swallowed_by
from pontifex.core.space import JoinedSites, meetings
from pontifex.core.space.meeting import crossings_of
from pontifex.demo import demo_design
from tests.truth.any_design import draw_design

DRAWN = 12


@pytest.fixture(scope="module")
def designs() -> list[Design]:
    """The demo, and designs drawn at random."""
    return [demo_design(), *(draw_design(Random(seed), demo_design()) for seed in range(DRAWN))]


def _wide(design: Design, random: Random) -> Design:
    """Return a design in which some ends name wide networks, which may hold the addresses of peers."""
    for tunnel in design.tunnels:
        if random.random() < 0.3:
            length = random.choice((0, 1, 2, 6))
            value = random.getrandbits(32) & ~Family.V4.host_mask(length)
            networks = (Selector.of(Prefix(Family.V4, value, length)),)
            design = apply_operations(design, [put(tunnel.with_end(random.choice(SIDES), remote_networks=networks))])
    return design


def test_no_tunnel_that_swallows_its_own_packets_is_left_out(designs: list[Design]):
    """Whatever comes back into its tunnel is looked at closely; many others aren't."""
    swallowed = passed_by = 0
    for seed, drawn in enumerate(designs):
        design = _wide(drawn, Random(seed))
        tables = Tables(design)
        ways = WaysIntoTunnels(tables)
        for tunnel in design.tunnels:
            for side in SIDES:
                chain = swallowed_by(tables, tunnel, side)
                assert ways.may_swallow(tunnel, side) or not chain, (tunnel.id, side)
                swallowed += bool(chain)
                passed_by += not ways.may_swallow(tunnel, side)
    assert swallowed
    assert passed_by


def test_a_chain_is_the_same_whatever_was_asked_before(designs: list[Design]):
    """The search from a site goes on where it stopped; what it has found doesn't hang on the order of questions."""
    for design in designs:
        asked = Chains(design)
        pairs = list(permutations((site.id for site in design.sites), 2))
        Random(1).shuffle(pairs)
        for here, there in pairs:
            assert asked.chain(here, there) == Chains(design).chain(here, there), (here, there)


def test_ways_between_sites_stay_as_they_are(designs: list[Design]):
    """Several checks are given the same ones: whatever is asked by them, and translated, changes nothing in them."""
    for design in designs:
        crossings, anew = (crossings_of(design, design.tunnels) for _ in range(2))
        meetings(design, crossings)
        joined = JoinedSites(design, crossings)
        translated = joined.after([Translate(object=translation) for translation in design.translations])
        for network in design.networks:
            joined.views(network, network.site_id)
            translated.views(network, network.site_id)
        assert crossings == anew


def test_what_one_tunnel_shares_is_looked_for_by_itself(designs: list[Design]):
    """Asked for one tunnel, what it shares with others at a gateway is what is told of it among all."""
    shared = 0
    for seed, drawn in enumerate(designs):
        design = _wide(drawn, Random(seed))
        for gateway in design.gateways:
            among_all = shared_networks(design, gateway.id)
            for tunnel, _ in design.ends_of_gateway(gateway.id):
                alone = shared_networks(design, gateway.id, wanted=tunnel).get(tunnel.id, [])
                assert alone == among_all.get(tunnel.id, []), (gateway.id, tunnel.id)
                shared += len(alone)
    assert shared
