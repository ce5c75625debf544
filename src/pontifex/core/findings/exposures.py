"""Findings about what weakens a tunnel that may well come up: keys, certificates, identities, old technologies."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial
from typing import Final

from pontifex.core.addressing import AddressError, Family, Region, Selector, common_region, parse_address, region_without
from pontifex.core.catalogue import Code
from pontifex.core.certificates import Certificate
from pontifex.core.findings.algorithms import end_place, in_tunnel
from pontifex.core.findings.finding import Place, Remark, remark
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
from pontifex.core.reasons import Named, Reason
from pontifex.core.reasons import tunnels as reasons

_BROKEN_HASHES: Final = frozenset({"md5", "sha1"})  # RFC 6151, RFC 6194
_WEAK_CIPHERS: Final = {DataCipher.TRIPLE_DES_CBC: Code.CRYPTO_WEAK, DataCipher.NULL: Code.CRYPTO_WEAK}
_WEAK_DIGESTS: Final = {Digest.MD5: Code.CRYPTO_MUST_NOT, Digest.SHA1: Code.CRYPTO_WEAK}


def identity_findings(ends: TunnelEnds) -> Iterator[Remark]:
    """Yield what identities expose: ends that accept anybody, and names that are addresses."""
    for side in SIDES:
        end = ends.end(side)
        if not end.technology.is_ipsec:
            continue
        local, remote = end.local_identity, end.remote_identity
        if local and _may_be_address(local):
            yield from _address_as_name(ends, side, "local_identity", local)
        if remote and _may_be_address(remote):
            yield from _address_as_name(ends, side, "remote_identity", remote)
        if remote and remote.type is IdentityType.ANY:
            yield _at(ends, side, "remote_identity", Code.AUTH_ANY_IDENTITY, reasons.AcceptsAny(side))


def _may_be_address(identity: Identity) -> bool:
    """Whether a name begins as no name does but one that is an address."""
    value = identity.value
    return (value[:1].isdigit() or ":" in value) and identity.type is IdentityType.FQDN


def _address_as_name(ends: TunnelEnds, at: Side, field: str, identity: Identity) -> Iterator[Remark]:
    """Find an identity of type FQDN that is an address: a device sends it as a name, and another type is often expected."""
    try:
        family = parse_address(identity.value)[0]
    except AddressError:
        return
    type_ = IdentityType.IPV4_ADDR if family is Family.V4 else IdentityType.IPV6_ADDR
    better, sender = Identity(type=type_, value=identity.value), at if field == "local_identity" else at.other
    alike = ends.end(sender).local_identity == ends.end(sender.other).remote_identity
    remedies = partial(_of_type, ends, sender, better) if alike else None
    why = reasons.AddressAsName(at, identity.value, identity.type)
    yield in_tunnel(ends, Code.END_IDENTITY_ADDRESS_AS_NAME, (end_place(ends, at, field),), why, remedies)


def _of_type(ends: TunnelEnds, side: Side, identity: Identity) -> Iterator[Remedy]:
    own, far = ends.end(side).changed(local_identity=identity), ends.end(side.other).changed(remote_identity=identity)
    yield ends.set_facing(f"Let it be of type {identity.type.value} at both ends", side, own, far)


def certificate_findings(ends: TunnelEnds) -> Iterator[Remark]:
    """Yield certificates that are too weak."""
    for side in SIDES:
        end = ends.end(side)
        for certificate in (*end.certificates, *end.trust_anchors):
            yield from _weak_certificate(ends, side, certificate)


def _at(ends: TunnelEnds, side: Side, field: str, code: Code, reason: Reason) -> Remark:
    return in_tunnel(ends, code, (end_place(ends, side, field),), reason)


def redundant_networks(ends: TunnelEnds) -> Iterator[Remark]:
    """Yield a finding for each list in which one network lies within another."""
    for side in SIDES:
        end = ends.end(side)
        for field, networks in (("local_networks", end.local_networks), ("remote_networks", end.remote_networks)):
            inner = _within_others(networks) if len(networks) > 1 else ()
            if inner:
                why = reasons.NetworksWithin(side, inner)
                without = partial(_without_inner, ends, side, field)
                yield in_tunnel(ends, Code.CHILD_NETWORKS_REDUNDANT, (end_place(ends, side, field),), why, without)


def _within_others(listed: tuple[Selector, ...]) -> tuple[Selector, ...]:
    """Return the selectors that lie within another one of their list."""
    found: list[Selector] = []
    for place, selector in enumerate(listed):
        for at, other in enumerate(listed):
            if at != place and other.contains(selector):
                found.append(selector)
                break
    return tuple(found)


def _without_inner(ends: TunnelEnds, side: Side, field: str) -> Iterator[Remedy]:
    listed: tuple[Selector, ...] = getattr(ends.end(side), field)
    yield ends.set_named(side, "Leave it out", field, common_region(listed, listed))


def networks_inside(ends: TunnelEnds) -> Iterator[Remark]:
    """Yield a finding for each end that has addresses on both sides of the tunnel: the order of policies decides there.

    All traffic for the far side is meant so.
    """
    for side in SIDES:
        end = ends.end(side)
        both = common_region(end.local_networks, end.remote_networks)
        if not both or any(selector.is_all for selector in (*end.local_networks, *end.remote_networks)):
            continue
        place = (end_place(ends, side, "local_networks"),)
        told = reasons.NetworksOnBothSides(side, both)
        yield in_tunnel(ends, Code.CHILD_NETWORKS_OVERLAP, place, told, partial(_at_one_side, ends, side, both))


def _at_one_side(ends: TunnelEnds, side: Side, both: Region) -> Iterator[Remedy]:
    """Yield the changes that leave what is on both sides of a tunnel to one of them, where both ends still share a network."""
    end, far = ends.end(side), ends.end(side.other)
    for field, other, whose in (
        ("local_networks", "remote_networks", "its own"),
        ("remote_networks", "local_networks", f"{ends.names[side.other]}'s"),
    ):
        rest = region_without(getattr(end, field), getattr(end, other))
        if common_region(rest, getattr(far, other)):
            title = f"Take {listed(both)} out of {whose}"
            yield ends.set_facing(title, side, end.with_valid({field: rest}), far.with_valid({other: rest}))


def keys_of(end: TunnelEnd) -> list[tuple[str, KeyFacts]]:
    """Return the fields that hold a secret that two ends share, with what is known of it."""
    key, control_key = end.key, end.control_key
    found = [("key", key)] if key and end.technology.is_ipsec else []
    if control_key and "control_key" in FIELDS[end.technology]:
        found.append(("control_key", control_key))
    return found


def key_findings(ends: TunnelEnds) -> Iterator[Remark]:
    """Yield a finding for a key that is too weak."""
    least = ends.policy.least_key_bits
    weak = [(side, field, key) for side in SIDES for field, key in keys_of(ends.end(side)) if key.strength_bits < least]
    if weak:
        key = weak[0][2]
        because = reasons.Because(key.weakness) if key.weakness else None
        why = reasons.KeyWeak(key.fingerprint, key.strength_bits, least, because)
        yield in_tunnel(ends, Code.KEY_WEAK, tuple(end_place(ends, side, field) for side, field, _ in weak), why)


def _weak_certificate(ends: TunnelEnds, side: Side, certificate: Certificate) -> Iterator[Remark]:
    facts, least = certificate.facts, ends.policy.least_bits
    field = "certificates" if certificate in ends.end(side).certificates else "trust_anchors"
    if 0 < facts.strength_bits < least:
        short = reasons.CertificateKeyWeak(facts.subject, facts.strength_bits, facts.key)
        yield _at(ends, side, field, Code.CERT_WEAK, short)
    elif facts.signature_hash in _BROKEN_HASHES and facts.subject != facts.issuer:
        yield _at(ends, side, field, Code.CERT_WEAK, reasons.SignedWith(facts.subject, facts.signature_hash.upper()))


def technology_findings(ends: TunnelEnds) -> Iterator[Remark]:
    """Yield old technologies, and methods and ciphers that protect too little."""
    for side in SIDES:
        end = ends.end(side)
        if end.eap_method and not end.eap_method.makes_key and AuthMethod.EAP in (end.local_auth, end.remote_auth):
            yield _at(ends, side, "eap_method", Code.AUTH_EAP_WITHOUT_KEY, reasons.HasEapMethod(side, end.eap_method))
        if end.technology.traits.outdated:
            yield _at(ends, side, "technology", Code.IKE1_DEPRECATED, reasons.SpeaksIkev1(side))
            if end.exchange_mode is ExchangeMode.AGGRESSIVE and AuthMethod.PRE_SHARED_KEY in (end.local_auth, end.remote_auth):
                yield _at(ends, side, "exchange_mode", Code.IKE1_AGGRESSIVE_KEY, reasons.KeyInAggressiveMode(side))
        elif "data_ciphers" in FIELDS[end.technology]:
            for cipher in end.data_ciphers:
                if cipher in _WEAK_CIPHERS:
                    yield _at(ends, side, "data_ciphers", _WEAK_CIPHERS[cipher], reasons.CiphersHold(side, cipher))
            if end.digest in _WEAK_DIGESTS:
                yield _at(ends, side, "digest", _WEAK_DIGESTS[end.digest], reasons.HasDigest(side, end.digest))
            if end.compression:
                yield _at(ends, side, "compression", Code.TLS_COMPRESSION, reasons.Compresses(side))


def key_prints(tunnel: Tunnel) -> frozenset[str]:
    """Return the fingerprints of the keys that a tunnel has."""
    return frozenset([key.fingerprint for _, key in (*keys_of(tunnel.left), *keys_of(tunnel.right))])


def reused_key(fingerprint: str, tunnels: tuple[Named[Tunnel], ...]) -> Remark:
    """Return the finding about a key that serves several tunnels."""
    where = tuple(Place(type=ObjectType.TUNNEL, id=tunnel.id, name=tunnel.name, field="left/key") for tunnel in tunnels)
    return remark(Code.KEY_REUSED, where, reasons.KeyReused(fingerprint, tunnels))
