"""Findings about algorithms, keys and collisions, and the catalogue itself."""

from __future__ import annotations

import re

import pytest

from pontifex.core.addressing import Selector
from pontifex.core.as_json import json_octets
from pontifex.core.catalogue import CATALOGUE, Code, Severity
from pontifex.core.findings import analyse, findings, overlaps
from pontifex.core.ipsec.preshared_key import key_facts
from pontifex.core.kinds import Network, Side
from pontifex.core.model import DesignSettings, apply_operations, put
from pontifex.core.reasons import addresses, tunnels
from pontifex.demo import demo_design
from pontifex.demo.tunnels import KEY_SALT, key_reference
from tests.support.designs import SOUND, TODAY, with_end
from tests.support.ends import proposals
from tests.support.reasons import is_said, like
from tests.support.remedies import remedies


def _add(*networks):
    return apply_operations(demo_design(), [put(Network.model_validate(fields)) for fields in networks])


def _network(id_, site, prefix, **fields):
    return {"id": id_, "site_id": site, "name": id_, "prefix": prefix, **fields}


@pytest.mark.parametrize(
    ("network", "pairs"),
    [
        (_network("x", "ostvik", "10.66.0.0/16"), {("x", "brenna-gate-controllers"), ("x", "brenna-ticketing")}),
        (_network("x", "ostvik", "10.66.0.128/25"), {("brenna-ticketing", "x")}),
        (_network("x", "brenna", "10.66.0.0/16"), set()),
        (_network("x", "brenna", "10.66.0.0/24"), {("brenna-ticketing", "x")}),
        (_network("x", "ostvik", "10.66.0.0/16", zone="guests"), set()),
        (_network("x", "ostvik", "172.22.16.0/24", zone="Aurelia passengers"), {("aurelia-passengers", "x")}),
        (_network("x", "ostvik", "fd5c:9a1e:40::/64"), set()),
    ],
)
def test_overlap_that_matters(network, pairs):
    """Networks collide where they can meet: at other sites of their zone, or twice the same at one site."""
    found = {(overlap.outer_id, overlap.inner_id) for overlap in overlaps(_add(network))}
    assert found - {("aurelia-bridge", "corvina-bridge"), ("harbour-servers", "tarn-berth-system")} == pairs


def test_renumbering_takes_the_selectors_along():
    """Renumbering a network moves its gateway address and the selectors of both ends, into the organisation's space."""
    design = demo_design()
    found = next(finding for finding in findings(design, TODAY) if finding.code == Code.ADDRESS_OVERLAP)
    remedy = next(candidate for candidate in remedies(design, found) if "Aurelia" in candidate.title)
    after = apply_operations(design, remedy.operations)
    network = next(candidate for candidate in after.networks if candidate.id == "aurelia-bridge")
    tunnel = after.tunnel_by_id["harbour-aurelia"]
    assert network.gateway_address is not None
    assert network.prefix.holds(network.gateway_address)
    assert any(supernet.contains(network.prefix) for supernet in after.supernets)
    assert tunnel.right.local_networks == tunnel.left.remote_networks == (Selector.of(network.prefix),)


@pytest.mark.parametrize(
    ("prefix", "fields", "code", "said"),
    [
        (
            "169.254.7.0/24",
            {},
            Code.ADDRESS_SPECIAL_PURPOSE,
            like(addresses.SetApart, block="169.254.0.0/16", use="link-local", reference="RFC 3927"),
        ),
        ("2001:db8:7::/64", {}, Code.ADDRESS_SPECIAL_PURPOSE, like(addresses.SetApart, use="documentation")),
        ("100.70.0.0/16", {}, Code.ADDRESS_SHARED_SPACE, like(addresses.InSharedSpace, block="100.64.0.0/10")),
        ("11.4.0.0/24", {}, Code.ADDRESS_PUBLIC_INSIDE, addresses.PublicInside),
        ("fd00:0:0:7::/64", {}, Code.ADDRESS_PLAIN_GLOBAL_ID, addresses.PlainGlobalId),
        ("fdaa:aaaa:aaaa::/48", {}, Code.ADDRESS_PLAIN_GLOBAL_ID, addresses.PlainGlobalId),
        (
            "10.90.0.0/24",
            {"gateway_address": "10.91.0.1"},
            Code.ADDRESS_GATEWAY_OUTSIDE,
            addresses.GatewayAddressOutside,
        ),
        ("10.90.0.0/24", {"gateway_address": "10.90.0.1"}, None, ""),
        ("fd5c:9a1e:40:7::/64", {}, None, ""),
        ("10.64.99.0/24", {}, None, ""),
    ],
)
def test_space_that_is_set_apart(prefix, fields, code, said):
    """A network in space that is set apart, public or shared is told; private and well-chosen local space is not."""
    design = _add(_network("x", "ostvik", prefix, **fields))
    found = {finding.code: finding for finding in findings(design, TODAY) if finding.where[0].id == "x"}
    assert set(found) == ({code} if code else set())
    if code:
        assert is_said(said, found[code].why.reason)
        for remedy in remedies(design, found[code]):
            assert code not in {finding.code for finding in findings(apply_operations(design, remedy.operations), TODAY)}


def test_public_space_of_ones_own_is_fine():
    """Public space that the organisation holds, and has among its supernets, may be used inside."""
    design = _add(_network("x", "ostvik", "11.4.0.0/24"))
    supernets = [*design.settings.model_dump()["supernets"], "11.4.0.0/16"]
    own = DesignSettings.model_validate({**design.settings.model_dump(), "supernets": supernets})
    assert Code.ADDRESS_PUBLIC_INSIDE not in {finding.code for finding in findings(apply_operations(design, [put(own)]), TODAY)}


def test_weak_and_retired_algorithms_are_exposures():
    """A list that holds weak or retired transforms is a finding; the remedy keeps what is sound, if anything is."""
    sound = proposals(("ENCR", 20, 256), ("PRF", 5, None), ("KE", 19, None))
    old = proposals(("ENCR", 2, None), ("PRF", 1, None), ("INTEG", 1, None), ("KE", 2, None))
    design = with_end(Side.LEFT, ike_proposals=sound + old)
    found = {finding.code: finding for finding in findings(design, TODAY) if finding.where[0].id == SOUND}
    assert {Code.CRYPTO_MUST_NOT, Code.CRYPTO_WEAK} <= found.keys()
    assert found[Code.CRYPTO_MUST_NOT].severity is Severity.EXPOSURE
    held = found[Code.CRYPTO_MUST_NOT].why.reason
    assert isinstance(held, tunnels.InTunnel)
    assert isinstance(held.reason, tunnels.ProposalsHold)
    assert [transform.transform for transform in held.reason.refused][:2] == ["DES", "PRF MD5"]
    after = apply_operations(design, remedies(design, found[Code.CRYPTO_MUST_NOT])[0].operations)
    assert len(after.tunnel_by_id[SOUND].left.ike_proposals) == 1
    design = with_end(Side.LEFT, ike_proposals=old)
    told = next(
        finding for finding in findings(design, TODAY) if finding.code == Code.CRYPTO_MUST_NOT and finding.where[0].id == SOUND
    )
    assert not remedies(design, told)


def test_weak_and_reused_keys():
    """A weak key is told with its strength, a key of several tunnels with their names; neither shows the key."""
    weak = key_facts("Skerry2019", bytes.fromhex(KEY_SALT), key_reference("weak")).model_dump()
    design = demo_design()
    for tunnel_id in ("harbour-ostvik", "harbour-brenna"):
        for side in Side:
            design = with_end(side, design, tunnel_id, key=weak)
    found = {finding.code: finding.why.reason for finding in findings(design, TODAY)}
    told = found[Code.KEY_WEAK]
    assert isinstance(told, tunnels.InTunnel)
    assert isinstance(told.reason, tunnels.KeyWeak)
    assert 10 <= told.reason.bits < told.reason.least == 112
    assert told.reason.because == tunnels.Because("it is short, it is made of words, it holds a year")
    serves = found[Code.KEY_REUSED]
    assert isinstance(serves, tunnels.KeyReused)
    assert [tunnel.id for tunnel in serves.tunnels] == ["harbour-brenna", "harbour-ostvik"]
    assert "Skerry2019" not in json_octets(analyse(design, TODAY)).decode()


def test_the_catalogue_cites_and_speaks_in_sentences():
    """Each entry has a family, a reference to a standard, and a consequence that is a sentence without shouting."""
    for code, entry in CATALOGUE.items():
        assert re.fullmatch(r"[a-z0-9]+\.[a-z-]+", code)
        assert re.search(r"RFC \d+", entry.reference)
        assert entry.consequence.endswith(".")
        assert "!" not in entry.consequence
