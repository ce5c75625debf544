"""Auth, third part: certificates, the chains that lead to what the other end trusts, and whom they speak for (RFC 4945)."""

from __future__ import annotations

from datetime import timedelta
from typing import Final

from pontifex.core.addressing import Address, AddressError, parse_address
from pontifex.core.catalogue import Code
from pontifex.core.certificates import AlternativeName, BrokenChain, Certificate, Chain, NameKind, chain_to
from pontifex.core.kinds import Identity, IdentityType, Side
from pontifex.core.matching.identity import distinguished
from pontifex.core.matching.row import Judgement, Remedy, Verdict
from pontifex.core.matching.tunnel_ends import TunnelEnds, mirrored

# which alternative name an identity must stand in, RFC 4945 section 3.1
_NAME_OF: Final = {
    IdentityType.FQDN: NameKind.DNS,
    IdentityType.RFC822_ADDR: NameKind.EMAIL,
    IdentityType.IPV4_ADDR: NameKind.IP,
    IdentityType.IPV6_ADDR: NameKind.IP,
}
_IDENTITY_OF: Final = {NameKind.DNS: IdentityType.FQDN, NameKind.EMAIL: IdentityType.RFC822_ADDR}


def judge_certificate(pair: TunnelEnds, side: Side) -> Judgement:
    """Follow an end's certificate to the trust anchors of the other, in time and up to the planning horizon."""
    sent, anchors = pair.end(side).certificates, pair.end(side.other).trust_anchors
    mirrored(side, "certificates", "trust_anchors")
    name, far = pair.names[side], pair.names[side.other]
    if not sent or not anchors:
        what = f"{name}'s certificate" if not sent else f"what {far} trusts"
        return Judgement(Verdict.UNKNOWN, f"{what} is not known yet")
    chain = chain_to(anchors, sent)
    if isinstance(chain, BrokenChain):
        return Judgement(
            Verdict.DIFFERS, f"{far} can't trust {name}: {chain.reason}", Code.CERT_ROOT_LACKING, _lacking(pair, side, chain)
        )
    for link in chain.links:
        facts = link.facts
        if not facts.not_before <= pair.today <= facts.not_after:
            when = f"ran out on {facts.not_after}" if pair.today > facts.not_after else f"is not valid before {facts.not_before}"
            reason = f"'{facts.subject}' {when}"
            return Judgement(Verdict.DIFFERS, reason, Code.CERT_NOT_VALID)
    identity = pair.end(side).local_identity
    if pair.tunnel.end(side).technology.is_ipsec and identity and not _speaks_for(sent[0], identity):
        names = ", ".join(map(str, sent[0].facts.names)) or f"subject {sent[0].facts.subject}"
        reason = f"{name} says it is {identity}, but its certificate speaks for {names}"
        return Judgement(Verdict.DIFFERS, reason, Code.CERT_IDENTITY, _identities(pair, side))
    return _expiry(pair, chain)


def _expiry(pair: TunnelEnds, chain: Chain) -> Judgement:
    ends = min(chain.links, key=lambda link: link.facts.not_after).facts
    if ends.not_after <= pair.today + timedelta(days=pair.design.planning_horizon_days):
        return Judgement(Verdict.DIFFERS_LATER, f"'{ends.subject}' runs out on {ends.not_after}", Code.CERT_EXPIRES)
    return Judgement(Verdict.AGREED, f"the chain leads to '{chain.links[-1].facts.subject}', and holds until {ends.not_after}")


def _lacking(pair: TunnelEnds, side: Side, broken: BrokenChain) -> tuple[Remedy, ...]:
    """Give the other end the lacking authority, where this end has it."""
    end, far = pair.end(side), pair.end(side.other)
    for known in (*end.certificates[1:], *end.trust_anchors):
        anchors = (*far.trust_anchors, known)
        if known.facts.subject == broken.lacking and isinstance(chain_to(anchors, end.certificates), Chain):
            title = f"Let {pair.names[side.other]} trust '{broken.lacking}'"
            return (pair.set_field(side.other, title, trust_anchors=anchors),)
    return ()


def _speaks_for(certificate: Certificate, identity: Identity) -> bool:
    """Whether a certificate holds an identity (RFC 4945 section 3.1); key ids are bound by nothing in it."""
    if identity.type is IdentityType.DER_ASN1_DN:
        return distinguished(identity.value) == certificate.facts.parsed.subject
    kind = _NAME_OF.get(identity.type)
    return kind is None or any(one.kind is kind and _same(one, identity.value) for one in certificate.facts.names)


def _same(name: AlternativeName, value: str) -> bool:
    if name.kind is not NameKind.IP:
        return name.value == value
    try:
        return Address(*parse_address(name.value)) == Address(*parse_address(value))
    except AddressError:
        return False


def _identities(pair: TunnelEnds, side: Side) -> tuple[Remedy, ...]:
    """Let the end say, and the other expect, what the certificate speaks for."""
    facts = pair.end(side).certificates[0].facts
    found = [(_IDENTITY_OF[one.kind], one.value) for one in facts.names if one.kind in _IDENTITY_OF]
    found += [(IdentityType.DER_ASN1_DN, facts.subject)] if facts.subject else []
    remedies = []
    for type_, value in found:
        identity = Identity(type=type_, value=value)
        own, far = pair.end(side).changed(local_identity=identity), pair.end(side.other).changed(remote_identity=identity)
        remedies.append(pair.set_facing(f"Let {pair.names[side]} be {identity} at both ends", side, own, far))
    return tuple(remedies)
