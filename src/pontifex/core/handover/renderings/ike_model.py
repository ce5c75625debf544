"""A gateway's IPsec by the data model of RFC 9061, its case with IKE, as JSON by RFC 7951.

Written from knowledge of the RFC; it isn't checked against the published module, which no package brings. Algorithms are
the numbers of the IANA registries, as the model has them. No key is in it: the field names the fingerprint.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, Final

from pontifex.core.addressing.selector import ANY_PORT, ANY_PROTOCOL, Selector
from pontifex.core.ipsec import Proposal, TransformType
from pontifex.core.kinds import AuthMethod, Identity, IdentityType, Role, Side, Tunnel, TunnelEnd
from pontifex.core.model import Design

_STARTUP: Final = {Role.CALL: "start", Role.ON_TRAFFIC: "on-demand", Role.WAIT: "add"}
_IDENTITY: Final = {
    IdentityType.FQDN: "fqdn-string",
    IdentityType.RFC822_ADDR: "rfc822-address-string",
    IdentityType.IPV4_ADDR: "ipv4-address",
    IdentityType.IPV6_ADDR: "ipv6-address",
    IdentityType.DER_ASN1_DN: "dnx509",
    IdentityType.KEY_ID: "id-key",
}
_METHOD: Final = {
    AuthMethod.PRE_SHARED_KEY: "pre-shared",
    AuthMethod.CERTIFICATE: "digital-signature",
    AuthMethod.EAP: "eap",
}
_OF_IKE: Final = (TransformType.ENCR, TransformType.INTEG, TransformType.KE)


def ike_model(design: Design, gateway_id: str) -> dict[str, Any]:
    """Return what a gateway has of IKEv2. Raise KeyError for one that isn't there."""
    design.gateway_by_id[gateway_id]  # the caller learns of a gateway that isn't there, and not of an empty one
    ends = [
        (tunnel, side)
        for tunnel, side in design.ends_of_gateway(gateway_id)
        if tunnel.end(side).technology.traits.ike_version == 2
    ]
    return {
        "ietf-i2nsf-ike:ipsec-ike": {
            "pad": {"pad-entry": [entry for tunnel, side in ends for entry in _pad_entries(tunnel, tunnel.end(side))]},
            "conn-entry": [_connection(design, tunnel, side) for tunnel, side in ends],
        }
    }


def _pad_entries(tunnel: Tunnel, end: TunnelEnd) -> Iterator[dict[str, Any]]:
    """Yield who the end is and whom it expects (RFC 9061 section 5.1, the peer authorization database)."""
    for whose, identity, method in (
        ("local", end.local_identity, end.local_auth),
        ("remote", end.remote_identity, end.remote_auth),
    ):
        entry: dict[str, Any] = {"name": f"{tunnel.id}-{whose}", "auth-protocol": "ikev2"}
        entry |= _identity(identity)
        if method:
            entry["peer-authentication"] = {"auth-method": _METHOD[method]}
        yield entry


def _identity(identity: Identity | None) -> dict[str, Any]:
    if identity is None or identity.type not in _IDENTITY:
        return {}
    return {_IDENTITY[identity.type]: identity.value}


def _connection(design: Design, tunnel: Tunnel, side: Side) -> dict[str, Any]:
    end = tunnel.end(side)
    near, far = design.uplink_of(end), design.uplink_of(tunnel.end(side.other))
    found: dict[str, Any] = {
        "name": tunnel.id,
        "autostartup": _STARTUP[end.role] if end.role and end.enabled else "add",
        "version": "ikev2",
        **_ike_algorithms(end),
        "local": {"local-pad-entry-name": f"{tunnel.id}-local"},
        "remote": {"remote-pad-entry-name": f"{tunnel.id}-remote"},
        "spd": {"spd-entry": [_policy(tunnel, end, near and near.address, far and far.address)]},
    }
    if end.ike_lifetime_s:
        found["ike-sa-lifetime-hard"] = {"over-time": end.ike_lifetime_s}
        soft = "reauth-time" if end.reauthenticate else "rekey-time"
        found["ike-sa-lifetime-soft"] = {soft: max(end.ike_lifetime_s - (end.rekey_margin_s or 0), 1)}
    if end.child_lifetime_s:
        lasts = max(end.child_lifetime_s - (end.rekey_margin_s or 0), 1)
        found["child-sa-info"] = {
            "fs-groups": _numbers(end.child_proposals, TransformType.KE),
            "child-sa-lifetime-soft": {"time": lasts, "action": "replace"},
            "child-sa-lifetime-hard": {"time": end.child_lifetime_s},
        }
    return found


def _ike_algorithms(end: TunnelEnd) -> dict[str, Any]:
    encryption, integrity, groups = (_transforms(end.ike_proposals, type_) for type_ in _OF_IKE)
    found: dict[str, Any] = {"ike-sa-encr-alg": _ciphers(encryption)}
    if integrity:
        found["ike-sa-intr-alg"] = list(dict.fromkeys(algorithm.id for algorithm in integrity))
    if groups:
        found["dh-group"] = groups[0].id
    return found


def _policy(tunnel: Tunnel, end: TunnelEnd, near: Any, far: Any) -> dict[str, Any]:
    """Return the entry of the security policy database: the first of the networks, as the model takes one a policy."""
    encryption = _transforms(end.child_proposals, TransformType.ENCR)
    integrity = _numbers(end.child_proposals, TransformType.INTEG)
    algorithms: dict[str, Any] = {"encryption": _ciphers(encryption)}
    if integrity:
        algorithms["integrity"] = integrity
    esn = any(transform.id == 1 for transform in _transforms(end.child_proposals, TransformType.ESN))
    selectors = [(near_one, far_one) for near_one in end.local_networks for far_one in end.remote_networks]
    config = {
        "processing-info": {
            "action": "protect",
            "ipsec-sa-cfg": {
                "ext-seq-num": esn,
                "mode": "tunnel",
                "protocol-parameters": "esp",
                "esp-algorithms": algorithms,
                "tunnel": {name: str(address) for name, address in (("local", near), ("remote", far)) if address},
            },
        }
    }
    if selectors:
        config["traffic-selector"] = _selector(*selectors[0])
    return {"name": f"{tunnel.id}-policy", "ipsec-policy-config": config}


def _selector(local: Selector, remote: Selector) -> dict[str, Any]:
    found: dict[str, Any] = {"local-prefix": str(local).split()[0], "remote-prefix": str(remote).split()[0]}
    low, high = remote.protocols
    found["inner-protocol"] = low if low == high and remote.protocols != ANY_PROTOCOL else "any"
    for name, ports in (("local-ports", local.ports), ("remote-ports", remote.ports)):
        if ports != ANY_PORT:
            found[name] = [{"start": ports[0], "end": ports[1]}]
    return found


def _transforms(proposals: tuple[Proposal, ...], type_: TransformType) -> list[Any]:
    found = (transform for proposal in proposals for transform in proposal.transforms if transform.type is type_)
    return list(dict.fromkeys(found))


def _numbers(proposals: tuple[Proposal, ...], type_: TransformType) -> list[int]:
    return list(dict.fromkeys(transform.id for transform in _transforms(proposals, type_)))


def _ciphers(transforms: list[Any]) -> list[dict[str, Any]]:
    return [
        {"id": place, "algorithm-type": transform.id} | ({"key-length": transform.key_length} if transform.key_length else {})
        for place, transform in enumerate(transforms, start=1)
    ]
