"""Connecting many sites by a standard: what is made comes up and carries what is wanted, and what isn't says why."""

from __future__ import annotations

from collections import Counter
from uuid import uuid4

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pontifex.core.addressing import Prefix
from pontifex.core.catalogue import Severity
from pontifex.core.connecting import Connect, NotConnectable, Pattern, plan_connections, usual_standard
from pontifex.core.connecting.keys import with_keys
from pontifex.core.connecting.proposed import proposed_values
from pontifex.core.connecting.standards import departures_of_followers, following, restandardised, standard_of
from pontifex.core.findings import analyse
from pontifex.core.ipsec.generated_key import RANDOM_OCTETS, generated_key
from pontifex.core.ipsec.preshared_key import key_facts
from pontifex.core.kinds import SIDES, AddressKind, Identity, IdentityType, KeyPair, Mode, Side
from pontifex.core.matching import StageState
from pontifex.core.model import Design, apply_operations, put
from pontifex.core.model.standards import departures
from pontifex.core.starting import StartText, plan_sites
from pontifex.demo import demo_design
from tests.support.designs import TODAY

SALT = "00" * 16
EMPTY = Design(id="line", revision=0, name="New Line", key_salt=SALT)
NAMELESS = usual_standard(EMPTY).changed(identity_pattern=None)
WAYS_OUT = ("198.51.100.{k}", "site{k}.dyn.example", "LTE", "behind NAT", "NAT with port forwarding, s{k}.example")


def with_sites(*ways_out: str, networks: int = 1) -> Design:
    """Return a design of sites that reach the outside in some ways."""
    lines = []
    for k, way_out in enumerate(ways_out):
        prefixes = ", ".join(f"10.{64 + k}.{n}.0/24" for n in range(networks))
        lines.append(f"Site {k}: {prefixes}, {way_out.format(k=k + 1)}")
    return apply_operations(EMPTY, plan_sites(EMPTY, StartText(text="\n".join(lines)))[1])


def request(design: Design, pattern: Pattern, **fields) -> Connect:
    """Return a request to connect all sites of a design, the first of them as hub."""
    site_ids = [site.id for site in design.sites]
    hub_ids = site_ids[:1] if pattern is Pattern.HUB else []
    asked = {"site_ids": site_ids, "pattern": pattern, "hub_ids": hub_ids, "standard": usual_standard(design)}
    return Connect.model_validate({**asked, **fields})


def connected(design: Design, asked: Connect):
    """Return the plan, and the design with all of it made, each tunnel with a key of its own."""
    plan, operations = plan_connections(design, asked)
    secrets = [generated_key((k + 7).to_bytes(RANDOM_OCTETS)) for k in range(plan.keys)]
    keys = [key_facts(secret, bytes.fromhex(SALT), uuid4(), 256) for secret in secrets]
    return plan, apply_operations(design, with_keys(operations, keys)) if operations else design


@given(
    st.lists(st.sampled_from(WAYS_OUT), min_size=2, max_size=6),
    st.sampled_from(Pattern),
    st.sampled_from(Mode),
    st.booleans(),
    st.integers(1, 3),
)
def test_what_is_made_is_green(ways_out, pattern, mode, through_hub, networks):
    """Each tunnel comes up, carries what is wanted, and no pair is left without a tunnel or a reason; nothing is found wrong."""
    if pattern is Pattern.PAIRS and len(ways_out) % 2:
        ways_out = ways_out[1:] + ways_out[:2]
    design = with_sites(*ways_out, networks=networks)
    standard = usual_standard(design).changed(mode=mode)
    inner = "10.200.0.0/24" if mode is Mode.ROUTE else None
    hub = pattern is Pattern.HUB and through_hub
    asked = request(design, pattern, standard=standard, inner_prefix=inner, through_hub=hub)
    plan, made = connected(design, asked)
    sites = len(design.sites)
    pairs = {Pattern.HUB: sites - 1, Pattern.MESH: sites * (sites - 1) // 2, Pattern.PAIRS: sites // 2, Pattern.CHAIN: sites - 1}
    assert len(plan.joined) == pairs[pattern]
    assert plan.made == len(made.tunnels) == sum(line.refused is None for line in plan.joined)
    analysis = analyse(made, TODAY)
    assert {forecast.state for forecast in analysis.forecasts} <= {StageState.HOLDS}
    if not hub or plan.made == len(plan.joined):
        assert [finding for finding in analysis.findings if finding.severity is not Severity.ADVICE] == []
    inner_addresses = [tunnel.end(side).inner_address for tunnel in made.tunnels for side in SIDES]
    if mode is Mode.ROUTE:
        assert len(set(inner_addresses)) == 2 * plan.made
    uses = Counter(key.fingerprint for key in keys_of(made))
    assert len(uses) == plan.keys
    assert set(uses.values()) <= {2}


def keys_of(design: Design):
    """Return the keys of all ends."""
    return [tunnel.end(side).key for tunnel in design.tunnels for side in SIDES]


def test_who_calls_follows_from_who_can_be_called():
    """A hub that can be called waits; one that can't calls the branch that can; where neither can, it is said."""
    design = with_sites("198.51.100.{k}", "LTE", "198.51.100.{k}")
    plan, _ = plan_connections(design, request(design, Pattern.HUB))
    assert [line.calls for line in plan.joined] == ["Site 1", "Site 2"]
    design = with_sites("LTE", "LTE", "site{k}.dyn.example")
    plan, operations = plan_connections(design, request(design, Pattern.HUB))
    first, second = plan.joined
    assert str(first.refused) == "Neither can be called: no uplink of Site 0 or Site 1 lets UDP 500/4500 in."
    assert second.calls == "Site 0"
    assert len([operation for operation in operations if operation.op == "put-tunnel"]) == 1


def test_what_is_joined_already_stays():
    """A pair that has a tunnel is passed over, so that connecting again adds what was added since."""
    design = with_sites("198.51.100.{k}", "LTE")
    _, made = connected(design, request(design, Pattern.HUB))
    plan, operations = plan_connections(made, request(made, Pattern.HUB, standard=made.standards[0]))
    assert str(plan.joined[0].refused) == "They are joined already by Site 0–Site 1."
    assert operations == ()


def test_two_gateways_never_say_one_identity():
    """Neither within a request, nor beside a tunnel that is there."""
    design = with_sites("198.51.100.{k}", "LTE", "LTE")
    same = usual_standard(design).changed(identity_pattern="branch.example")
    plan, operations = plan_connections(design, request(design, Pattern.HUB, standard=same))
    assert len(plan.joined) == 2
    assert all("the same identity, branch.example" in str(line.refused) for line in plan.joined)
    assert operations == ()
    demo = demo_design()
    taken = usual_standard(demo).changed(identity_pattern="harbour.skerry.example")
    asked = Connect(site_ids=("brenna", "ostvik"), pattern=Pattern.PAIRS, standard=taken)
    plan, operations = plan_connections(demo, asked)
    assert "the same identity" in str(plan.joined[0].refused)
    assert operations == ()


def test_what_no_end_can_hold_is_refused_and_the_rest_is_made():
    """Too many networks to be named one by one, and identities that are too long; many sites of nearly one name."""
    many = with_sites("198.51.100.{k}", "LTE", networks=250)
    more = plan_sites(many, StartText(text="\n".join(f"Site 1: 10.99.{k}.0/24" for k in range(10))))[1]
    crowded = apply_operations(many, more)
    plan, _ = plan_connections(crowded, request(crowded, Pattern.PAIRS))
    assert "has 260 networks, and an end names 256 at most" in str(plan.joined[0].refused)
    by_routes = usual_standard(crowded).changed(mode=Mode.ROUTE)
    assert plan_connections(crowded, request(crowded, Pattern.PAIRS, standard=by_routes))[0].made == 1
    design = with_sites("198.51.100.{k}", "LTE")
    long = usual_standard(design).changed(identity_pattern="{site}." + "x" * 190 + "{design}.{design}.{design}.{design}.{design}")
    named = apply_operations(design, [put(design.settings.changed(name="n" * 60))])
    plan, _ = plan_connections(named, request(named, Pattern.PAIRS, standard=long))
    assert "longer than 255 characters" in str(plan.joined[0].refused)
    lines = [f"A branch with a very long name and the number {k}: 10.80.{k}.0/24, LTE" for k in range(150)]
    alike = apply_operations(EMPTY, plan_sites(EMPTY, StartText(text="\n".join(["Hub: 10.64.0.0/22, 198.51.100.1", *lines])))[1])
    plan, _ = plan_connections(alike, request(alike, Pattern.HUB, hub_ids=["hub"]))
    assert len({line.name for line in plan.joined}) == plan.made == 150


@pytest.mark.parametrize(
    ("fields", "field", "reason"),
    [
        ({"pattern": Pattern.HUB, "hub_ids": []}, "hub_ids", "say which site is the hub"),
        ({"pattern": Pattern.HUB, "hub_ids": ["elsewhere"]}, "hub_ids", "a hub is one of the sites"),
        ({"pattern": Pattern.PAIRS}, "site_ids", "pairs take an even number of sites"),
        ({"pattern": Pattern.CHAIN, "site_ids": ["site-0", "gone"]}, "site_ids", "there is no site 'gone'"),
        ({"pattern": Pattern.MESH, "standard": NAMELESS}, "standard", "says nothing of identities"),
        ({"pattern": Pattern.MESH, "inner_prefix": "10.200.0.0/30"}, "inner_prefix", "has room for 2 inner networks"),
    ],
)
def test_what_cant_be_connected_at_all(fields, field, reason):
    """A request that nothing can be made of is refused at its field."""
    design = with_sites("198.51.100.{k}", "198.51.100.{k}", "198.51.100.{k}")
    with pytest.raises(NotConnectable, match=reason) as refused:
        plan_connections(design, request(design, **fields))
    assert refused.value.field == field


def test_inner_addresses_avoid_what_is_taken():
    """Of a prefix, what networks and other tunnels use is passed over."""
    design = with_sites("198.51.100.{k}", "LTE", "LTE")
    route = usual_standard(design).changed(mode=Mode.ROUTE)
    _, made = connected(design, request(design, Pattern.HUB, standard=route, inner_prefix="10.64.0.0/23"))
    inner = [tunnel.left.inner_address.prefix for tunnel in made.tunnels]
    assert not [candidate for candidate in inner if any(candidate.overlaps(network.prefix) for network in made.networks)]
    assert all(Prefix.overlaps(inner[0], prefix) is (prefix == inner[0]) for prefix in inner)


def test_a_changed_standard_changes_who_follows_and_leaves_departures():
    """What somebody decided otherwise stays; all else becomes as the standard says."""
    design = with_sites("198.51.100.{k}", "LTE", "LTE")
    _, made = connected(design, request(design, Pattern.HUB))
    standard, (first, second) = made.standards[0], made.tunnels
    departed = apply_operations(made, [put(first.with_end(Side.LEFT, child_lifetime_s=1800))])
    (departure,) = departures_of_followers(departed, standard)
    assert (departure.tunnel, departure.side, departure.field) == (first.name, Side.LEFT, "child_lifetime_s")
    longer = standard.changed(child_lifetime_s=7200, keepalive_s=25)
    changed = {tunnel.id: tunnel for tunnel in restandardised(departed, longer)}
    assert (changed[first.id].left.child_lifetime_s, changed[first.id].right.child_lifetime_s) == (1800, 7200)
    assert changed[second.id].left.child_lifetime_s == changed[second.id].right.child_lifetime_s == 7200
    assert changed[second.id].left.keepalive_s == 25
    assert changed[second.id].right.keepalive_s == 20  # a caller behind NAT had one of its own before
    after = apply_operations(departed, [put(item) for item in (longer, *changed.values())])
    followed = apply_operations(after, [put(tunnel) for tunnel in following(after, after.tunnels, longer)])
    assert not list(departures_of_followers(followed, longer))


def test_a_changed_pattern_changes_identities_on_both_sides():
    """What an end says and what the far one expects change together; an identity that somebody gave stays."""
    design = with_sites("198.51.100.{k}", "LTE", "LTE")
    _, made = connected(design, request(design, Pattern.HUB))
    own = Identity(type=IdentityType.FQDN, value="boat.example")
    first = made.tunnels[0].with_end(Side.RIGHT, local_identity=own).with_end(Side.LEFT, remote_identity=own)
    departed = apply_operations(made, [put(first)])
    renamed = made.standards[0].changed(identity_pattern="{site}.gate.example")
    changed = {tunnel.id: tunnel for tunnel in restandardised(departed, renamed)}
    after = apply_operations(departed, [put(item) for item in (renamed, *changed.values())])
    assert {str(tunnel.right.local_identity) for tunnel in after.tunnels} == {"fqdn boat.example", "fqdn site-2.gate.example"}
    assert {follower.field for follower in departures_of_followers(after, renamed)} == {"local_identity", "remote_identity"}
    assert {forecast.state for forecast in analyse(after, TODAY).forecasts} == {StageState.HOLDS}


def test_a_standard_is_made_of_a_tunnel_that_works():
    """It says what both ends agree on; the tunnel follows it without a departure, and its pattern makes their identities."""
    design = with_sites("198.51.100.{k}", "LTE")
    _, made = connected(design, request(design, Pattern.HUB))
    tunnel = made.tunnels[0]
    again = standard_of(made, tunnel)
    assert not list(departures(made, again, tunnel))
    assert again.identity_pattern == "{site}.new-line"
    assert again.ike_proposals == made.standards[0].ike_proposals
    ostvik = demo_design().tunnel_by_id["harbour-ostvik"]
    of_ostvik = standard_of(demo_design(), ostvik)
    assert (of_ostvik.ike_lifetime_s, of_ostvik.identity_pattern) == (None, None)  # its ends differ, and follow no pattern
    assert not list(departures(demo_design(), of_ostvik, ostvik))


def test_guests_and_isolated_zones_stay_out():
    """Neither a network of guests nor one of a zone of its own goes into a tunnel, or is wanted anywhere."""
    lines = "Harbour: 10.1.0.0/24, 172.22.16.0/20 guests, 198.51.100.1\nOstvik: 10.2.0.0/24, LTE"
    design = apply_operations(EMPTY, plan_sites(EMPTY, StartText(text=lines))[1])
    _, made = connected(design, request(design, Pattern.PAIRS))
    assert [str(network) for network in made.tunnels[0].left.local_networks] == ["10.1.0.0/24"]
    assert "harbour-guests" not in {member.id for intent in made.intents for member in intent.sources}
    assert analyse(made, TODAY).findings == ()


def test_what_an_uplink_lacks_is_said():
    """A site that could be called, and has neither address nor name, isn't joined by a guess."""
    design = with_sites("dynamic", "LTE")
    assert design.uplinks[0].address_kind is AddressKind.CHANGING_PUBLIC
    plan, _ = plan_connections(design, request(design, Pattern.PAIRS))
    assert "has neither an address nor a name yet" in str(plan.joined[0].refused)


def test_values_follow_from_the_rest_of_the_design():
    """Networks of both sites, where the far end is reached, identities by the standard: each taken over is what was proposed."""
    design = with_sites("198.51.100.{k}", "LTE")
    _, made = connected(design, request(design, Pattern.HUB))
    assert list(proposed_values(made, made.tunnels[0])) == []
    bare = made.tunnels[0].with_end(Side.LEFT, local_networks=(), local_identity=None).with_end(Side.RIGHT, peer_address=None)
    found = {(proposed_value.side, proposed_value.field): proposed_value.text for proposed_value in proposed_values(made, bare)}
    assert found == {
        (Side.LEFT, "local_networks"): "10.64.0.0/24",
        (Side.LEFT, "local_identity"): "site-0.new-line",
        (Side.RIGHT, "peer_address"): "198.51.100.1",
    }
    peers = demo_design().tunnel_by_id["harbour-ostvik"]
    pair = KeyPair(public="hSDwCYkwp1R0i33ctD73Wg2/Og0mOBr066SpjqqbTmo=", reference=None)
    with_pair = peers.with_end(Side.LEFT, key_pair=pair)
    carried = [candidate for candidate in proposed_values(demo_design(), with_pair) if candidate.field == "peer_public_key"]
    assert [(fact.side, fact.text) for fact in carried] == [(Side.RIGHT, pair.public)]
