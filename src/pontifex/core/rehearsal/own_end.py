"""What one device has of a tunnel: its own end, and nothing of the other. Building it is the only place that sees the design."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, replace
from datetime import date
from typing import Final

from pontifex.core.addressing import Interface, Selector
from pontifex.core.certificates import Certificate
from pontifex.core.eap import is_rehearsed
from pontifex.core.ike.settings import EndSettings, HandedOut, Proof
from pontifex.core.ike.suite.not_rehearsed import why_not_rehearsed
from pontifex.core.ipsec import Protocol
from pontifex.core.kinds import (
    ANY_PEER,
    SIDES,
    AcceptedAccount,
    Account,
    AccountKind,
    AuthMethod,
    Gateway,
    InitialContact,
    NatTraversal,
    Role,
    Side,
    Technology,
    Transport,
    Tunnel,
    TunnelEnd,
)
from pontifex.core.login import Login
from pontifex.core.model import Design
from pontifex.core.peer_keys.settings import PeerKeySettings
from pontifex.core.rehearsal.substitutes import (
    mirrored,
    signing_key,
    somebody,
    substitute_private_key,
    substitute_public_key,
    substitute_secret,
)
from pontifex.core.tls.session import Credentials
from pontifex.core.tls.settings import TlsSettings

Settings = EndSettings | TlsSettings | PeerKeySettings


@dataclass(frozen=True, slots=True)
class OwnEnd:
    """One end as its device has it."""

    name: str
    settings: Settings
    is_on: bool
    role: Role
    peer: str  # "any", a DNS name or an address
    inner_address: Interface | None


@dataclass(frozen=True, slots=True)
class NotRehearsed:
    """Why a tunnel isn't rehearsed: one sentence for each thing that is lacking or not known."""

    reasons: tuple[str, ...]


def own_ends(
    design: Design, tunnel: Tunnel, today: Callable[[float], date], seed: bytes, given: HandedOut | None = None
) -> dict[Side, OwnEnd]:
    """Return what each device has of a tunnel that can be rehearsed; the left one calls for what is `given` to it."""
    known = [certificate for side in SIDES for certificate in (*tunnel.end(side).certificates, *tunnel.end(side).trust_anchors)]
    ends = {side: own_end(design, tunnel.end(side), known, today, seed) for side in SIDES}
    caller, called = ends[Side.LEFT].settings, ends[Side.RIGHT].settings
    if given and isinstance(caller, EndSettings) and isinstance(called, EndSettings):
        anything = (Selector(given.pool.family, 0, given.pool.family.last),)
        person = somebody(seed)  # whom the design doesn't know: its accounts are each person's own
        asking = replace(caller, asks_address=True, local_networks=anything, account=person)
        giving = replace(called, hands_out=given, accepted=person)
        ends = {
            Side.LEFT: replace(ends[Side.LEFT], settings=asking),
            Side.RIGHT: replace(ends[Side.RIGHT], settings=giving),
        }
    return ends


def own_end(design: Design, end: TunnelEnd, known: Iterable[Certificate], today: Callable[[float], date], seed: bytes) -> OwnEnd:
    """Return what the device of an end has. `known` are certificates among which the issuers of its own are looked for."""
    gateway, role = design.gateway_by_id[end.gateway_id], end.role
    assert role  # the comparison knows it
    settings = _SETTINGS[end.technology](gateway, end, tuple(known), today, seed)
    able = not gateway.technologies or end.technology in gateway.technologies
    is_on = end.enabled and gateway.service_on and able
    return OwnEnd(gateway.name, settings, is_on, role, end.peer_address or ANY_PEER, end.inner_address)


def _keepalive_s(end: TunnelEnd) -> int:
    return end.technology.traits.usual_keepalive_s if end.keepalive_s is None else end.keepalive_s


def _redials(end: TunnelEnd) -> bool:
    return end.role is Role.CALL and end.calls_again is not False


def _ike_settings(
    gateway: Gateway, end: TunnelEnd, known: tuple[Certificate, ...], today: Callable[[float], date], seed: bytes
) -> EndSettings:
    assert end.local_auth and end.remote_auth  # noqa: PT018 -- the comparison knows them
    return EndSettings(
        ike_proposals=end.ike_proposals,
        child_proposals=end.child_proposals,
        identity=end.local_identity,
        expected=end.remote_identity,
        folds_case=gateway.folds_case,
        method=end.local_auth,
        expected_method=end.remote_auth,
        proof=_proof(end, known, seed),
        eap_method=end.eap_method,
        account=_login(end.account, seed),
        accepted=_login(end.accepted_account, seed),
        trust_anchors=tuple(mirrored(anchor, known) for anchor in end.trust_anchors),
        local_networks=end.local_networks,
        remote_networks=end.remote_networks,
        most_selectors=gateway.most_selectors,
        redials=_redials(end),
        fragments=end.fragmentation is not False,
        mobike=bool(end.mobike),
        forgets_others=end.initial_contact is not InitialContact.KEEPS,
        ike_lifetime_s=end.ike_lifetime_s or 0,
        child_lifetime_s=end.child_lifetime_s or 0,
        margin_s=end.rekey_margin_s or 0,
        reauthenticate=bool(end.reauthenticate),
        dead_peer_s=end.dead_peer_s or 0,
        keepalive_s=_keepalive_s(end),
        nat_traversal=end.nat_traversal or NatTraversal.AS_NEEDED,
        today=today,
    )


def _tls_settings(
    _gateway: Gateway, end: TunnelEnd, known: tuple[Certificate, ...], today: Callable[[float], date], seed: bytes
) -> TlsSettings:
    assert end.port and end.transport and end.certificates  # noqa: PT018 -- the comparison knows them
    return TlsSettings(
        credentials=Credentials(
            signing_key(end.certificates[0]),
            tuple(mirrored(certificate, known) for certificate in end.certificates),
            tuple(mirrored(anchor, known) for anchor in end.trust_anchors),
        ),
        data_ciphers=end.data_ciphers,
        digest=end.digest,
        compresses=bool(end.compression),
        control_key=substitute_secret(end.control_key, seed) if end.control_key else None,
        account=_login(end.account, seed),
        accepted=_login(end.accepted_account, seed),
        local_networks=end.local_networks,
        remote_networks=end.remote_networks,
        port=end.port,
        over_tcp=end.transport is Transport.TCP,
        redials=_redials(end),
        renegotiation_s=end.renegotiation_s or 0,
        dead_peer_s=end.dead_peer_s or 0,
        keepalive_s=_keepalive_s(end),
        today=today,
    )


def _peer_key_settings(
    _gateway: Gateway, end: TunnelEnd, _known: tuple[Certificate, ...], _today: Callable[[float], date], seed: bytes
) -> PeerKeySettings:
    assert end.port and end.key_pair and end.peer_public_key  # noqa: PT018 -- the comparison knows them
    return PeerKeySettings(
        private=substitute_private_key(end.key_pair.public, seed),
        expected=substitute_public_key(end.peer_public_key, seed),
        local_networks=end.local_networks,
        remote_networks=end.remote_networks,
        port=end.port,
        redials=_redials(end),
        keepalive_s=_keepalive_s(end),
    )


_SettingsOf = Callable[[Gateway, TunnelEnd, tuple[Certificate, ...], Callable[[float], date], bytes], Settings]
_SETTINGS: Final[dict[Technology, _SettingsOf]] = {
    Technology.IPSEC_IKEV2: _ike_settings,
    Technology.TLS: _tls_settings,
    Technology.PEER_KEY: _peer_key_settings,
}


def _login(account: Account | AcceptedAccount | None, seed: bytes) -> Login | None:
    if account is None:
        return None
    secret = substitute_secret(account.secret, seed) if account.secret else b""
    may_call = not isinstance(account, AcceptedAccount) or (account.enabled and account.kind is AccountKind.TUNNEL)
    return Login(account.name, secret, may_call)


def _proof(end: TunnelEnd, known: tuple[Certificate, ...], seed: bytes) -> Proof:
    secret = substitute_secret(end.key, seed) if end.key else b""
    if end.certificates and (end.local_auth is AuthMethod.CERTIFICATE or _shows_within_eap(end)):
        sent = tuple(mirrored(certificate, known) for certificate in end.certificates)
        return Proof(secret, signing_key(end.certificates[0]), sent)
    return Proof(secret)


def _shows_within_eap(end: TunnelEnd) -> bool:
    """Whether an end shows its certificates within EAP, at whichever side of it."""
    return AuthMethod.EAP in (end.local_auth, end.remote_auth) and bool(end.eap_method and end.eap_method.is_by_certificate)


def not_rehearsed(tunnel: Tunnel) -> Iterator[str]:
    """Yield why a tunnel can't be rehearsed whatever its values: its technology, its methods, its transforms."""
    for technology in dict.fromkeys(tunnel.end(side).technology for side in SIDES):
        if technology not in _SETTINGS:
            yield f"{technology.label} isn't rehearsed"
    yield from _eap_not_rehearsed(tunnel)
    for side in SIDES:
        for lists, protocol in ((tunnel.end(side).ike_proposals, Protocol.IKE), (tunnel.end(side).child_proposals, Protocol.ESP)):
            for fault in (fault for proposal in lists for fault in proposal.faults(protocol)):
                yield f"no device takes a proposal of the {side.value} end: {fault}"
    proposals = (proposal for side in SIDES for proposal in (*tunnel.end(side).ike_proposals, *tunnel.end(side).child_proposals))
    for transform in dict.fromkeys(transform for proposal in proposals for transform in proposal.transforms):
        why = why_not_rehearsed(transform)
        if why:
            yield f"{transform.label} isn't rehearsed: {why}"


def _eap_not_rehearsed(tunnel: Tunnel) -> Iterator[str]:
    """Yield why a proof by EAP isn't rehearsed: a method that isn't here, or no certificate to prove by in one that is."""
    for side in SIDES:
        end = tunnel.end(side)
        if AuthMethod.EAP not in (end.local_auth, end.remote_auth) or end.eap_method is None:
            continue
        if not is_rehearsed(end.eap_method):
            yield f"{end.eap_method.value} isn't rehearsed"
        elif _shows_within_eap(end) and not end.certificates:
            yield f"the certificate that the {side.value} end shows in {end.eap_method.value} isn't known"
