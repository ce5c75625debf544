"""Findings about what weakens a tunnel that may well come up: keys, certificates, identities, old technologies."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from itertools import chain
from typing import Final

from pontifex.core.addressing import AddressError, Family, Selector, common_region, parse_address, region_without
from pontifex.core.catalogue import Code
from pontifex.core.certificates import Certificate
from pontifex.core.findings.algorithms import end_place
from pontifex.core.findings.finding import Finding, Place, finding
from pontifex.core.ipsec.preshared_key import KeyFacts
from pontifex.core.kinds import (
    SIDES,
    AuthMethod,
    DataCipher,
    Digest,
    ExchangeMode,
    Identity,
    IdentityType,
    ObjectType,
    Side,
    Tunnel,
    TunnelEnd,
)
from pontifex.core.matching import Remedy, TunnelEnds
from pontifex.core.matching.networks import listed
from pontifex.core.matching.rows import FIELDS
from pontifex.core.model import Design

MOST_NAMES: Final = 5  # the places of the finding name them all
_BROKEN_HASHES: Final = frozenset({"md5", "sha1"})  # RFC 6151, RFC 6194
_WEAK_CIPHERS: Final = {DataCipher.TRIPLE_DES_CBC: Code.CRYPTO_WEAK, DataCipher.NULL: Code.CRYPTO_WEAK}
_WEAK_DIGESTS: Final = {Digest.MD5: Code.CRYPTO_MUST_NOT, Digest.SHA1: Code.CRYPTO_WEAK}


def exposure_findings(pair: TunnelEnds) -> Iterator[Finding]:
    """Yield what one tunnel exposes."""
    yield from _weak_keys(pair)
    for side in SIDES:
        end = pair.end(side)
        yield from _addresses_as_names(pair, side)
        if end.remote_identity and end.remote_identity.type is IdentityType.ANY and end.technology.is_ipsec:
            yield _at(pair, side, "remote_identity", Code.AUTH_ANY_IDENTITY, f"{pair.names[side]} accepts any identity")
        if end.eap_method and not end.eap_method.makes_key and AuthMethod.EAP in (end.local_auth, end.remote_auth):
            yield _at(pair, side, "eap_method", Code.AUTH_EAP_WITHOUT_KEY, f"{pair.names[side]} has {end.eap_method.value}")
        for certificate in (*end.certificates, *end.trust_anchors):
            yield from _weak_certificate(pair, side, certificate)
    yield from _old_technology(pair)


def _addresses_as_names(pair: TunnelEnds, side: Side) -> Iterator[Finding]:
    """Find identities of type FQDN that hold an address: a device sends it as a name, and another type is often expected."""
    sent, expected = pair.end(side).local_identity, pair.end(side.other).remote_identity
    for end, field, identity in ((side, "local_identity", sent), (side.other, "remote_identity", expected)):
        if identity is None or identity.type is not IdentityType.FQDN or not pair.end(end).technology.is_ipsec:
            continue
        try:
            family = parse_address(identity.value)[0]
        except AddressError:
            continue
        type_ = IdentityType.IPV4_ADDR if family is Family.V4 else IdentityType.IPV6_ADDR
        better = Identity(type=type_, value=identity.value)
        remedies: tuple[Remedy, ...] = ()
        if sent == expected:
            title = f"Let it be of type {type_.value} at both ends"
            own, far = pair.end(side).changed(local_identity=better), pair.end(side.other).changed(remote_identity=better)
            remedies = (pair.set_facing(title, side, own, far),)
        why = f"{pair.tunnel.name}: {pair.names[end]} has the address {identity.value} as a name ({identity.type.value})"
        yield finding(Code.END_IDENTITY_ADDRESS_AS_NAME, (end_place(pair, end, field),), why, remedies)


def _at(pair: TunnelEnds, side: Side, field: str, code: Code, clause: str) -> Finding:
    return finding(code, (end_place(pair, side, field),), f"{pair.tunnel.name}: {clause}")


def redundant_networks(pair: TunnelEnds) -> Iterator[Finding]:
    """Yield a finding for each list in which one network lies within another."""
    for side in SIDES:
        for field in ("local_networks", "remote_networks"):
            listed: tuple[Selector, ...] = getattr(pair.end(side), field)
            inner = [one for one in listed if any(other is not one and other.contains(one) for other in listed)]
            if len(listed) > 1 and inner:
                why = f"{pair.tunnel.name}: {pair.names[side]} lists {', '.join(map(str, inner))} within another network"
                remedy = pair.set_named(side, "Leave it out", field, common_region(listed, listed))
                yield finding(Code.CHILD_NETWORKS_REDUNDANT, (end_place(pair, side, field),), why, (remedy,))


def networks_inside(pair: TunnelEnds) -> Iterator[Finding]:
    """Yield a finding for each end that has addresses on both sides of the tunnel: the order of policies decides there.

    All traffic for the far side is meant so.
    """
    for side in SIDES:
        end = pair.end(side)
        if any(one.is_all for one in (*end.local_networks, *end.remote_networks)):
            continue
        both = common_region(end.local_networks, end.remote_networks)
        if not both:
            continue
        name, far, inside = pair.names[side], pair.names[side.other], listed(both)
        why = (
            f"{pair.tunnel.name}: {name} has {inside} both as its own and as {far}'s; "
            f"what goes there from {name} enters the tunnel, unless a policy above it says otherwise"
        )
        remedies = []
        for field, other, whose in (("local_networks", "remote_networks", "its own"), ("remote_networks", "local_networks", far)):
            rest = region_without(getattr(end, field), getattr(end, other))
            if common_region(rest, getattr(pair.end(side.other), other)):
                title = f"Take {inside} out of {whose}" if whose == "its own" else f"Take {inside} out of {far}'s"
                facing = pair.end(side.other).with_valid({other: rest})
                remedies.append(pair.set_facing(title, side, end.with_valid({field: rest}), facing))
        yield finding(Code.CHILD_NETWORKS_OVERLAP, (end_place(pair, side, "local_networks"),), why, tuple(remedies))


def keys_of(end: TunnelEnd) -> Iterator[tuple[str, KeyFacts]]:
    """Yield the fields that hold a secret that two ends share, with what is known of it."""
    if end.technology.is_ipsec and end.key:
        yield "key", end.key
    if end.control_key and "control_key" in FIELDS[end.technology]:
        yield "control_key", end.control_key


def _weak_keys(pair: TunnelEnds) -> Iterator[Finding]:
    least = pair.design.policy.least_key_bits
    weak = [(side, field, key) for side in SIDES for field, key in keys_of(pair.end(side)) if key.strength_bits < least]
    if weak:
        key = weak[0][2]
        because = f": {key.weakness}" if key.weakness else ""
        strength = f"a strength of about {key.strength_bits} bits, {least} is the least{because}"
        why = f"{pair.tunnel.name}: the key {key.fingerprint} has {strength}"
        yield finding(Code.KEY_WEAK, tuple(end_place(pair, side, field) for side, field, _ in weak), why)


def _weak_certificate(pair: TunnelEnds, side: Side, certificate: Certificate) -> Iterator[Finding]:
    facts, least = certificate.facts, pair.design.policy.least_bits
    field = "certificates" if certificate in pair.end(side).certificates else "trust_anchors"
    if 0 < facts.strength_bits < least:
        yield _at(pair, side, field, Code.CERT_WEAK, f"'{facts.subject}' has a key of {facts.strength_bits} bits ({facts.key})")
    elif facts.signature_hash in _BROKEN_HASHES and facts.subject != facts.issuer:
        yield _at(pair, side, field, Code.CERT_WEAK, f"'{facts.subject}' is signed with {facts.signature_hash.upper()}")


def _old_technology(pair: TunnelEnds) -> Iterator[Finding]:
    for side in SIDES:
        end, name = pair.end(side), pair.names[side]
        if end.technology.traits.outdated:
            yield _at(pair, side, "technology", Code.IKE1_DEPRECATED, f"{name} speaks IKEv1")
            if end.exchange_mode is ExchangeMode.AGGRESSIVE and AuthMethod.PRE_SHARED_KEY in (end.local_auth, end.remote_auth):
                yield _at(
                    pair, side, "exchange_mode", Code.IKE1_AGGRESSIVE_KEY, f"{name} uses a pre-shared key in aggressive mode"
                )
        elif "data_ciphers" in FIELDS[end.technology]:
            for cipher in end.data_ciphers:
                if cipher in _WEAK_CIPHERS:
                    yield _at(pair, side, "data_ciphers", _WEAK_CIPHERS[cipher], f"{name}'s data ciphers hold {cipher.value}")
            if end.digest in _WEAK_DIGESTS:
                yield _at(pair, side, "digest", _WEAK_DIGESTS[end.digest], f"{name}'s digest is {end.digest.value}")
            if end.compression:
                yield _at(pair, side, "compression", Code.TLS_COMPRESSION, f"{name} compresses")


def reused_keys(design: Design) -> Iterator[Finding]:
    """Yield a finding for each key that serves several tunnels."""
    users: dict[str, list[Tunnel]] = defaultdict(list)
    for tunnel in design.tunnels:
        for fingerprint in {key.fingerprint for _, key in chain(keys_of(tunnel.left), keys_of(tunnel.right))}:
            users[fingerprint].append(tunnel)
    for fingerprint, tunnels in sorted(users.items()):
        if len(tunnels) > 1:
            where = tuple(Place(type=ObjectType.TUNNEL, id=t.id, name=t.name, field="left/key") for t in tunnels)
            names = ", ".join(t.name for t in tunnels[:MOST_NAMES])
            if len(tunnels) > MOST_NAMES:
                names += f" and {len(tunnels) - MOST_NAMES} more"
            yield finding(Code.KEY_REUSED, where, f"the key {fingerprint} serves {names}")
