"""Auth, third part: certificates, the chains that lead to what the other end trusts, and whom they speak for (RFC 4945)."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import timedelta
from typing import Final

from pontifex.core.addressing import Address, AddressError, parse_address
from pontifex.core.catalogue import Code
from pontifex.core.certificates import AlternativeName, BrokenChain, Certificate, Chain, NameKind, chain_to
from pontifex.core.kinds import Identity, IdentityType, Side
from pontifex.core.kinds.identity import distinguished
from pontifex.core.matching.row import Judgement, Remedy, Verdict
from pontifex.core.matching.tunnel_ends import TunnelEnds
from pontifex.core.reasons import auth, unknown

# which alternative name an identity must stand in, RFC 4945 section 3.1
_NAME_OF: Final = {
    IdentityType.FQDN: NameKind.DNS,
    IdentityType.RFC822_ADDR: NameKind.EMAIL,
    IdentityType.IPV4_ADDR: NameKind.IP,
    IdentityType.IPV6_ADDR: NameKind.IP,
}
_IDENTITY_OF: Final = {NameKind.DNS: IdentityType.FQDN, NameKind.EMAIL: IdentityType.RFC822_ADDR}


def judge_certificate(ends: TunnelEnds, side: Side) -> Judgement:
    """Follow an end's certificate to the trust anchors of the other, in time and up to the planning horizon."""
    sent, anchors = ends.end(side).certificates, ends.end(side.other).trust_anchors
    if not sent:
        return Judgement(Verdict.UNKNOWN, unknown.CertificateNotKnown(side))
    if not anchors:
        return Judgement(Verdict.UNKNOWN, unknown.TrustNotKnown(side.other))
    chain = chain_to(anchors, sent)
    if isinstance(chain, BrokenChain):
        broken = auth.ChainBroken(side, chain.lacking, chain.fault)
        return Judgement(Verdict.DIFFERS, broken, Code.CERT_ROOT_LACKING, lambda ends: _lacking(ends, side, chain))
    for link in chain.links:
        facts = link.facts
        if ends.today > facts.not_after:
            return Judgement(Verdict.DIFFERS, auth.CertificateExpired(facts.subject, facts.not_after), Code.CERT_NOT_VALID)
        if ends.today < facts.not_before:
            return Judgement(Verdict.DIFFERS, auth.CertificateNotYetValid(facts.subject, facts.not_before), Code.CERT_NOT_VALID)
    identity = ends.end(side).local_identity
    if ends.tunnel.end(side).technology.is_ipsec and identity and not _speaks_for(sent[0], identity):
        names, subject = sent[0].facts.names, sent[0].facts.subject
        for_others = auth.SpeaksForOthers(side, identity, names) if names else auth.SpeaksForSubject(side, identity, subject)
        return Judgement(Verdict.DIFFERS, for_others, Code.CERT_IDENTITY, lambda ends: _identities(ends, side))
    return _expiry(ends, chain)


def _expiry(ends: TunnelEnds, chain: Chain) -> Judgement:
    soonest = min(chain.links, key=lambda link: link.facts.not_after).facts
    if soonest.not_after <= ends.today + timedelta(days=ends.design.planning_horizon_days):
        runs_out = auth.CertificateRunsOut(soonest.subject, soonest.not_after)
        return Judgement(Verdict.DIFFERS_LATER, runs_out, Code.CERT_EXPIRES)
    return Judgement(Verdict.AGREED, auth.ChainHolds(chain.links[-1].facts.subject, soonest.not_after))


def _lacking(ends: TunnelEnds, side: Side, broken: BrokenChain) -> Iterator[Remedy]:
    """Give the other end the lacking authority, where this end has it."""
    end, far = ends.end(side), ends.end(side.other)
    for known in (*end.certificates[1:], *end.trust_anchors):
        anchors = (*far.trust_anchors, known)
        if known.facts.subject == broken.lacking and isinstance(chain_to(anchors, end.certificates), Chain):
            title = f"Let {ends.names[side.other]} trust '{broken.lacking}'"
            yield ends.set_field(side.other, title, trust_anchors=anchors)
            return


def _speaks_for(certificate: Certificate, identity: Identity) -> bool:
    """Whether a certificate holds an identity (RFC 4945 section 3.1); key ids are bound by nothing in it."""
    if identity.type is IdentityType.DER_ASN1_DN:
        return distinguished(identity.value) == certificate.facts.parsed.subject
    kind = _NAME_OF.get(identity.type)
    return kind is None or any(name.kind is kind and _same(name, identity.value) for name in certificate.facts.names)


def _same(name: AlternativeName, value: str) -> bool:
    if name.kind is not NameKind.IP:
        return name.value == value
    try:
        return Address(*parse_address(name.value)) == Address(*parse_address(value))
    except AddressError:
        return False


def _identities(ends: TunnelEnds, side: Side) -> Iterator[Remedy]:
    """Let the end say, and the other expect, what the certificate speaks for."""
    facts = ends.end(side).certificates[0].facts
    found = [(_IDENTITY_OF[name.kind], name.value) for name in facts.names if name.kind in _IDENTITY_OF]
    found += [(IdentityType.DER_ASN1_DN, facts.subject)] if facts.subject else []
    for type_, value in found:
        identity = Identity(type=type_, value=value)
        own, far = ends.end(side).changed(local_identity=identity), ends.end(side.other).changed(remote_identity=identity)
        yield ends.set_facing(f"Let {ends.names[side]} be {identity} at both ends", side, own, far)
