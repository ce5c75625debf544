"""Which networks meet, by which tunnels, and what a translation changes about it."""

from __future__ import annotations

from itertools import product
from random import Random
from typing import Any

import pytest

from pontifex.core.addressing import Family, Prefix, parse_prefix
from pontifex.core.catalogue import Code, Severity
from pontifex.core.findings import findings, overlaps
from pontifex.core.kinds import Gateway, Host, Network, ObjectType, Side, Site, TranslatedSide, Translation, Tunnel
from pontifex.core.model import ChangeRefused, Design, Remove, Translate, apply_operations, put
from pontifex.core.reasons import addresses, all_named
from pontifex.core.space import plan
from pontifex.core.space.meeting import JoinedSites, all_meetings, meetings
from pontifex.core.space.translate import behind_one
from pontifex.demo import demo_design
from tests.support.designs import TODAY, bare_demo
from tests.support.remedies import remedies
from tests.truth.any_design import draw_design

DESIGN = bare_demo()


def _network(id_, site_id, prefix, **fields):
    return put(Network.model_validate({"id": id_, "site_id": site_id, "name": id_, "prefix": prefix, **fields}))


def _pairs(design):
    return {(meeting.outer.id, meeting.inner.id): meeting for meeting in meetings(design)}


def _codes(design):
    return {finding.code for finding in findings(design, TODAY)}


def test_the_chain_of_tunnels_is_told():
    """Two branches meet by their tunnels to the hub, in the order from the one to the other; the finding names them."""
    design = apply_operations(DESIGN, [_network("x", "ostvik", "10.66.0.0/24")])
    found = _pairs(design)["brenna-ticketing", "x"]
    assert found.chain == ("harbour-brenna", "harbour-ostvik")
    assert _pairs(DESIGN)["aurelia-bridge", "corvina-bridge"].chain == ("aurelia-corvina",)
    why = next(
        finding.why.reason
        for finding in findings(design, TODAY)
        if finding.where[0].id == "x" and finding.code == Code.ADDRESS_OVERLAP
    )
    assert isinstance(why, addresses.SamePrefix)
    assert why.meet == addresses.MeetBy(all_named(design.tunnel_by_id[id_] for id_ in found.chain))


def test_sites_that_no_tunnel_joins_do_not_meet_yet():
    """A newcomer's networks collide only once a tunnel leads there; until then it is worth knowing, and not a blocker."""
    newcomer = [put(Site(id="new", name="New Pier")), _network("x", "new", "10.65.0.0/16")]
    design = apply_operations(DESIGN, newcomer)
    found = [overlap for overlap in overlaps(design) if "x" in (overlap.outer_id, overlap.inner_id)]
    assert {(meeting.joined, meeting.chain) for meeting in found} == {(False, ())}
    told = [finding for finding in findings(design, TODAY) if finding.code == Code.ADDRESS_OVERLAP_UNJOINED]
    assert {finding.severity for finding in told} == {Severity.ADVICE}
    assert isinstance(told[0].why.reason, addresses.PrefixContains)
    assert isinstance(told[0].why.reason.meet, addresses.NotJoinedYet)
    after = apply_operations(design, [Remove(type=ObjectType.TUNNEL, id="harbour-ostvik")])
    assert [overlap.joined for overlap in overlaps(after) if "x" in (overlap.outer_id, overlap.inner_id)] == [False, False]


def test_a_partner_is_shown_as_something_else():
    """The translation of a partner's network at our gateway is enough where our own twin is not in the tunnel."""
    found = next(
        finding
        for finding in findings(DESIGN, TODAY)
        if finding.code == Code.ADDRESS_OVERLAP and {place.id for place in finding.where} >= {"tarn-berth-system"}
    )
    remedy = next(candidate for candidate in remedies(DESIGN, found) if candidate.title.startswith("Translate"))
    after = apply_operations(DESIGN, remedy.operations)
    (translation,) = after.translations
    assert (translation.side.value, str(translation.inside), translation.tunnel_id) == ("far", "10.64.8.0/24", "harbour-tarn")
    assert ("harbour-servers", "tarn-berth-system") not in _pairs(after)
    assert not {Code.TRANSLATION_OUTSIDE_TAKEN, Code.TRANSLATION_REAL_SELECTORS} & _codes(after)
    assert after.tunnel_by_id["harbour-tarn"] == DESIGN.tunnel_by_id["harbour-tarn"]


def test_both_are_shown_where_both_are_named():
    """Two networks that both go through the tunnel are both translated, and the tunnel names what is seen."""
    tunnel = DESIGN.tunnel_by_id["harbour-tarn"]
    servers = tuple(network for network in DESIGN.tunnel_by_id["harbour-ostvik"].left.local_networks if "8.0/23" in str(network))
    named = tunnel.with_end(Side.LEFT, local_networks=servers).with_end(Side.RIGHT, remote_networks=servers)
    design = apply_operations(DESIGN, [put(named)])
    found = next(
        finding
        for finding in findings(design, TODAY)
        if finding.code == Code.ADDRESS_OVERLAP and {place.id for place in finding.where} >= {"tarn-berth-system"}
    )
    translated = next(remedy for remedy in remedies(design, found) if remedy.title.startswith("Translate"))
    after = apply_operations(design, translated.operations)
    assert {translation.side.value for translation in after.translations} == {"own", "far"}
    shown = next(str(translation.outside) for translation in after.translations if translation.side.value == "own")
    assert [str(network) for network in after.tunnel_by_id["harbour-tarn"].left.local_networks] == [shown]
    assert [str(network) for network in after.tunnel_by_id["harbour-tarn"].right.remote_networks] == [shown]
    assert ("harbour-servers", "tarn-berth-system") not in _pairs(after)
    own = next(translation for translation in after.translations if translation.side.value == "own")
    real = apply_operations(after, [put(named)])
    told = next(finding for finding in findings(real, TODAY) if finding.code == Code.TRANSLATION_REAL_SELECTORS)
    assert told.where[0].id == own.id
    assert Code.TRANSLATION_REAL_SELECTORS not in _codes(apply_operations(real, remedies(real, told)[0].operations))


def test_hiding_behind_one_address_says_what_stops():
    """Behind one address nothing can be called any more: the plan says what stops, and a finding stays."""
    network = DESIGN.network_by_id["ostvik-cameras"]
    host = {"id": "h", "network_id": network.id, "name": "recorder", "address": "10.65.4.9", "ports": [21, 443]}
    host |= {"dns_name": "recorder.skerry.example"}
    design = apply_operations(DESIGN, [put(Host.model_validate(host))])
    after = apply_operations(design, behind_one(design, network, parse_prefix("10.65.9.9/32")))
    said = plan(after, after.translations[0])
    assert any("recorder (21, 443)" in stop for stop in said.stops)
    assert said.protocols[0].startswith("FTP (recorder)")
    assert said.names[0] == "recorder.skerry.example answers 10.65.4.9; at Harbour House it must answer 10.65.9.9"
    assert ("recorder", "10.65.4.9", "10.65.9.9") in {(row.what, row.real, row.seen) for row in said.table}
    assert {Code.TRANSLATION_HIDES, Code.TRANSLATION_DNS} <= _codes(after)
    assert "10.65.9.9/32" in {str(remote_network) for remote_network in after.tunnel_by_id["harbour-ostvik"].left.remote_networks}


def test_a_translation_into_space_in_use_is_a_blocker():
    """What is shown may be nobody else's where it is seen; and a translation of nothing is told."""
    fields = {"id": "t", "gateway_id": "ostvik-gateway", "name": "t", "inside": "10.65.0.0/24", "outside": "10.66.0.0/24"}
    design = apply_operations(DESIGN, [put(Translation.model_validate(fields))])
    assert Code.TRANSLATION_OUTSIDE_TAKEN in _codes(design)
    nothing = apply_operations(
        DESIGN, [put(Translation.model_validate({**fields, "inside": "10.77.0.0/24", "outside": "10.78.0.0/24"}))]
    )
    told = next(finding for finding in findings(nothing, TODAY) if finding.code == Code.TRANSLATION_NAMES_NOTHING)
    assert not apply_operations(nothing, remedies(nothing, told)[0].operations).translations


@pytest.mark.parametrize(
    ("fields", "reason"),
    [
        ({"outside": "10.90.0.0/25"}, "one-to-one needs two prefixes of one size, not 10.65.0.0/24 and 10.90.0.0/25"),
        ({"kind": "behind-one", "outside": "10.90.0.0/24"}, "behind one address needs a single one, a /32, not 10.90.0.0/24"),
        ({"outside": "fd5c:9a1e:40::/120"}, "a translation stays within one address family"),
    ],
)
def test_what_can_be_no_translation_is_refused(fields, reason):
    """Sizes and families must fit, and the reason says which don't."""
    with pytest.raises(ValueError, match=reason.replace(".", r"\.")):
        Translation.model_validate(
            {"id": "t", "gateway_id": "g", "name": "t", "inside": "10.65.0.0/24", "outside": "10.90.0.0/24", **fields}
        )


def test_a_translation_goes_with_its_tunnel():
    """A translation of a tunnel refers to it: the tunnel can't go alone, and takes it along."""
    fields = {"id": "t", "gateway_id": "ostvik-gateway", "name": "t", "tunnel_id": "harbour-ostvik"}
    design = apply_operations(
        DESIGN, [put(Translation.model_validate({**fields, "inside": "10.65.0.0/24", "outside": "10.90.0.0/24"}))]
    )
    with pytest.raises(ChangeRefused, match="translation 't' still needs tunnel 'harbour-ostvik'"):
        apply_operations(design, [Remove(type=ObjectType.TUNNEL, id="harbour-ostvik")])
    assert not apply_operations(design, [Remove(type=ObjectType.TUNNEL, id="harbour-ostvik", cascade=True)]).translations


def _chain_of_sites(hops: int) -> Design:
    """Sites in a row, joined by two tunnels each, of which one shows the lowest block not shown yet as its neighbour."""
    objects: list[Any] = []
    for k in range(hops + 1):
        objects += [Site(id=f"s{k}", name=f"Site {k}"), Gateway(id=f"g{k}", site_id=f"s{k}", name=f"gate {k}")]
    pattern = DESIGN.tunnel_by_id["harbour-ostvik"]
    bare: dict[str, Any] = {"local_networks": (), "remote_networks": (), "uplink_id": None}
    for k in range(hops):
        left, right = (
            end.with_valid({**bare, "gateway_id": f"g{at}"}) for end, at in ((pattern.left, k), (pattern.right, k + 1))
        )
        objects += [Tunnel(id=f"{way}{k}", name=f"{way}{k}", left=left, right=right) for way in ("a", "b")]
        fields = {"id": f"t{k}", "name": f"t{k}", "gateway_id": f"g{k}", "tunnel_id": f"b{k}", "side": "own"}
        inside, outside = (str(Prefix(Family.V4, (10 << 24) + bit, 32 - k)) for bit in (0, 1 << k))
        objects.append(Translation.model_validate({**fields, "inside": inside, "outside": outside}))
    for at, prefix in ((0, "10.0.0.0/32"), (hops, "10.0.0.0/8")):
        objects.append(Network(id=f"n{at}", site_id=f"s{at}", name="net", prefix=parse_prefix(prefix)))
    return apply_operations(Design(id="x", revision=0, name="x", key_salt="0" * 32), [put(item) for item in objects])


def test_translations_in_a_row_are_exact_while_they_are_few_and_bounded_beyond():
    """Each hop doubles what is seen, up to a bound; beyond it all that a translation shows is taken for seen, and it ends."""
    few = JoinedSites(_chain_of_sites(4))
    network = next(candidate for candidate in _chain_of_sites(4).networks if candidate.id == "n0")
    assert {site: len(views) for site, views in few.views(network, "s4").items()}["s4"] == 16
    many = _chain_of_sites(20)
    views = JoinedSites(many).views(many.network_by_id["n0"], "s20")
    assert max(map(len, views.values())) <= 64 * 20
    assert [(meeting.outer.id, meeting.inner.id) for meeting in meetings(many)] == [("n20", "n0")]


def test_of_many_networks_of_one_prefix_each_is_told_once():
    """Many branches with one LAN are a collision each, not each with all others; the whole is there where it is asked for."""
    objects: list[Any] = []
    tunnel = DESIGN.tunnel_by_id["harbour-ostvik"]
    for k in range(40):
        objects += [Site(id=f"b{k}", name=f"Branch {k}"), Gateway(id=f"b{k}", site_id=f"b{k}", name=f"branch gate {k}")]
        objects.append(Network(id=f"b{k}", site_id=f"b{k}", name="lan", prefix=parse_prefix("10.90.0.0/24")))
        right = tunnel.right.with_valid({"gateway_id": f"b{k}", "uplink_id": None, "local_networks": ()})
        objects.append(
            Tunnel(id=f"b{k}", name=f"to branch {k}", left=tunnel.left.with_valid({"remote_networks": ()}), right=right)
        )
    design = apply_operations(DESIGN, [put(item) for item in objects])
    mine = [meeting for meeting in meetings(design) if meeting.outer.id.startswith("b") and meeting.inner.id.startswith("b")]
    assert (len(mine), {meeting.outer.id for meeting in mine}) == (39, {"b0"})
    assert len([meeting for meeting in all_meetings(design) if meeting.outer.id[0] == meeting.inner.id[0] == "b"]) >= 40 * 39 // 2


def test_each_of_many_alike_is_told_with_all_that_it_meets_when_it_is_asked_for():
    """The ways to translate one of three alike are against both others, whichever of them the collision is told with."""
    objects = [_network(f"x{k}", site, "10.90.0.0/24") for k, site in enumerate(("ostvik", "brenna", "harbour"))]
    design = apply_operations(DESIGN, objects)
    for k in range(3):
        others = {id_ for meeting in all_meetings(design, f"x{k}") for id_ in (meeting.outer.id, meeting.inner.id)}
        assert others == {"x0", "x1", "x2"}
    assert len([meeting for meeting in meetings(design) if meeting.inner.id.startswith("x")]) == 2


@pytest.mark.parametrize("seed", range(8))
def test_sites_after_a_translation_are_those_of_the_changed_design(seed):
    """Whatever is translated where: what follows from it is what the changed design gives from scratch."""
    random = Random(seed)
    design = draw_design(random, demo_design())
    joined, outside = JoinedSites(design), parse_prefix("198.18.0.0/15")
    narrow = [network for network in design.networks if network.prefix.family is Family.V4 and network.prefix.length >= 15]
    for network in random.sample(narrow, 5):
        tunnel = random.choice(design.tunnels)
        translation = Translation(
            id="drawn",
            name="drawn",
            gateway_id=random.choice((tunnel.left, tunnel.right)).gateway_id,
            tunnel_id=random.choice((tunnel.id, None)),
            side=random.choice(list(TranslatedSide)),
            inside=network.prefix,
            outside=Prefix(Family.V4, outside.network, network.prefix.length),
        )
        after = joined.after([Translate(object=translation)])
        anew = JoinedSites(apply_operations(design, [Translate(object=translation)]))
        for seen, site in product(design.networks, design.sites):
            assert after.views(seen, site.id) == anew.views(seen, site.id)
            assert after.chain(seen.site_id, site.id) == anew.chain(seen.site_id, site.id)
