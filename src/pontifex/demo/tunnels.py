"""Skerry Line: its tunnels, each sound or with one fault planted in it, and their keys."""

from __future__ import annotations

from functools import cache
from typing import Any, Final
from uuid import NAMESPACE_URL, UUID, uuid5

from pontifex.core.ipsec import Protocol
from pontifex.core.ipsec.preshared_key import key_facts
from pontifex.core.ipsec.reading import read_proposals
from pontifex.demo.certificates import AUTHORITY, BASALT, DRY_DOCK
from pontifex.demo.proposals import CBC, ESP_GCM, ESP_GCM_14, GCM, proposals

KEY_SALT: Final = "5ce2b1d94a7f4e0d8c36f1a0927bb845"

# Reference and key of each end; the vault gets the keys, the design only what may be known of them.
DEMO_KEYS: Final = {
    "harbour-ostvik": "mZ2v-Tq8Lw4_rXb7KcNy1sHd6PfGu3Ja9EoBi5Vt0Q",
    "harbour-brenna": "Jw7c_Rk2Xn5-tQz8LvBm4hYd1SgFp6Ua3OeWi9Cr0T",
    "brenna-harbour": "Jw7c_Rk2Xn5-tQz8LvBm4hYd1SgFp6Ua3OeWi9Cr0T ",
    "harbour-aurelia": "Gq4x-Nb9Vd2_wKs7TzLc5jRh8MfPy1Ea6UoXi3Bt0W",
    "harbour-corvina": "Ty6n_Wc3Hs8-pDk5VrMb2xQf9LzGj4Ua7EiOo1Ng0K",
    "harbour-basalt": "Xe9r-Lq5Bz1_nTw8JcKv3mPd7HsFy2Ga4UiOa6Rt0Y",
    "harbour-tarn": "Vb3k_Dn7Mx9-fRs2GwTq6cLz4JhPy8Ea1UoXi5Wt0S",
    "brenna-basalt-cable": "Hs5w-Zc2Pq9_mTx7RvLk4dJb8NgFy1Ua6EoIi3Wt0X",
    "brenna-basalt-radio": "Np8t_Vx4Lb6-jQz3McWs7hKd2RgFy5Ea9UoOi1Ct0B",
}


def key_reference(name: str) -> UUID:
    """Return the vault reference of a key of the demo."""
    return uuid5(NAMESPACE_URL, f"urn:skerry.example:{name}")


_HARBOUR_NETWORKS: Final = ["10.64.0.0/22", "10.64.8.0/23"]


@cache
def _facts(key: str) -> dict[str, Any]:
    facts = key_facts(DEMO_KEYS[key], bytes.fromhex(KEY_SALT), key_reference(key), strength_bits=252)
    return facts.model_dump(mode="json")


def _end(site: str, uplink: str, far: str, key: str, **fields: Any) -> dict[str, Any]:
    return {
        "gateway_id": f"{site}-gateway",
        "uplink_id": f"{site}-{uplink}",
        "local_identity": {"type": "fqdn", "value": f"{site}.skerry.example"},
        "remote_identity": {"type": "fqdn", "value": f"{far}.skerry.example"},
        "key": _facts(key),
        "ike_proposals": proposals(GCM, CBC),
        "child_proposals": proposals(ESP_GCM),
        "ike_lifetime_s": 28_800,
        "child_lifetime_s": 3600,
        "rekey_margin_s": 180,
        "reauthenticate": False,
        "dead_peer_s": 30,
        "mode": "policy",
        **fields,
    }


def _ostvik() -> dict[str, Any]:
    """Tunnel 1: sound, the reference. Ostvik accepts only the second of Harbour's proposals beside the first."""
    theirs = ["10.65.0.0/24", "10.65.4.0/23"]
    return {
        "id": "harbour-ostvik",
        "name": "Harbour–Ostvik",
        "left": _end(
            "harbour", "fibre", "ostvik", "harbour-ostvik",
            role="wait", peer_address="ostvik.dyn.example", local_networks=_HARBOUR_NETWORKS, remote_networks=theirs,
        ),
        "right": _end(
            "ostvik", "dsl", "harbour", "harbour-ostvik",
            role="call", peer_address="198.51.100.10", local_networks=theirs, remote_networks=_HARBOUR_NETWORKS,
            ike_proposals=proposals(GCM), ike_lifetime_s=14_400,
        ),
    }  # fmt: skip


def _brenna() -> dict[str, Any]:
    """Tunnel 2: the key at Brenna ends with a blank."""
    theirs = ["10.66.0.0/24", "10.66.1.0/26"]
    return {
        "id": "harbour-brenna",
        "name": "Harbour–Brenna",
        "left": _end(
            "harbour", "fibre", "brenna", "harbour-brenna",
            role="call", peer_address="203.0.113.77", local_networks=_HARBOUR_NETWORKS, remote_networks=theirs,
        ),
        "right": _end(
            "brenna", "cable", "harbour", "brenna-harbour",
            role="wait", peer_address="198.51.100.10", local_networks=theirs, remote_networks=_HARBOUR_NETWORKS,
        ),
    }  # fmt: skip


def _aurelia() -> dict[str, Any]:
    """Tunnel 3: both ends wait; the vessel would have to call, since nobody can call it."""
    return {
        "id": "harbour-aurelia",
        "name": "Harbour–Aurelia",
        "left": _end(
            "harbour", "fibre", "aurelia", "harbour-aurelia",
            role="wait", peer_address="any", local_networks=_HARBOUR_NETWORKS, remote_networks=["10.70.1.0/27"],
        ),
        "right": _end(
            "aurelia", "lte", "harbour", "harbour-aurelia",
            role="wait", peer_address="198.51.100.10", local_networks=["10.70.1.0/27"], remote_networks=_HARBOUR_NETWORKS,
        ),
    }  # fmt: skip


def _corvina() -> dict[str, Any]:
    """Tunnel 4: the vessel says Corvina with a capital letter."""
    theirs = ["10.70.1.0/27"]
    return {
        "id": "harbour-corvina",
        "name": "Harbour–Corvina",
        "left": _end(
            "harbour", "fibre", "corvina", "harbour-corvina",
            role="wait", peer_address="any", local_networks=_HARBOUR_NETWORKS, remote_networks=theirs,
        ),
        "right": _end(
            "corvina", "lte", "harbour", "harbour-corvina",
            role="call", peer_address="198.51.100.10", local_networks=theirs, remote_networks=_HARBOUR_NETWORKS,
            local_identity={"type": "fqdn", "value": "Corvina.skerry.example"},
        ),
    }  # fmt: skip


def _basalt() -> dict[str, Any]:
    """Tunnel 5: comes up, and has no common group when the Child SA is rekeyed."""
    theirs = ["10.80.0.0/20"]
    return {
        "id": "harbour-basalt",
        "name": "Harbour–Basalt",
        "left": _end(
            "harbour", "fibre", "basalt", "harbour-basalt",
            role="call", peer_address="192.0.2.130", local_networks=_HARBOUR_NETWORKS, remote_networks=theirs,
            child_proposals=proposals(ESP_GCM_14),
        ),
        "right": _end(
            "basalt", "front-door", "harbour", "harbour-basalt",
            role="call", peer_address="198.51.100.10", local_networks=theirs, remote_networks=_HARBOUR_NETWORKS,
        ),
    }  # fmt: skip


def _brenna_basalt(uplink: str, name: str, inner: int) -> dict[str, Any]:
    """Tunnel 6: one each over the cable and the radio link; a rule of either gateway chooses by class."""
    ours, theirs = ["10.66.0.0/24", "10.66.1.0/26"], ["10.80.0.0/20"]
    key = f"brenna-basalt-{name}"
    shared = {"mode": "route"}
    return {
        "id": key,
        "name": f"Brenna–Basalt {name}",
        "left": _end(
            "brenna", uplink, "basalt", key,
            role="call", peer_address="192.0.2.130", local_networks=ours, remote_networks=theirs,
            inner_address=f"10.95.0.{inner + 1}/30", **shared,
        ),
        "right": _end(
            "basalt", "front-door", "brenna", key,
            role="wait", peer_address="any", local_networks=theirs, remote_networks=ours,
            inner_address=f"10.95.0.{inner + 2}/30", **shared,
        ),
    }  # fmt: skip


def _dock_exit() -> dict[str, Any]:
    """Tunnel 8: sound as a tunnel; what falls through beside it is a matter of the dock's rule."""
    inside, everything = ["172.23.0.0/24"], ["0.0.0.0/0"]

    def end(site: str, uplink: str, certificate: str, **fields: Any) -> dict[str, Any]:
        return {
            "gateway_id": f"{site}-gateway",
            "uplink_id": f"{site}-{uplink}",
            "technology": "tls",
            "transport": "tcp",
            "port": 443,
            "mode": "route",
            "local_auth": "certificate",
            "remote_auth": "certificate",
            "certificates": [{"pem": certificate}],
            "trust_anchors": [{"pem": AUTHORITY}],
            "data_ciphers": ["AES-256-GCM"],
            "keepalive_s": 20,
            "dead_peer_s": 60,
            "renegotiation_s": 3600,
            **fields,
        }

    return {
        "id": "dock-exit",
        "name": "Dry Dock exit",
        "left": end(
            "dock", "yard-line", DRY_DOCK,
            role="call", peer_address="192.0.2.130", local_networks=inside, remote_networks=everything, interface="exit0",
        ),
        "right": end(
            "basalt", "front-door", BASALT,
            role="wait", peer_address="any", local_networks=everything, remote_networks=inside,
        ),
    }  # fmt: skip


def _peering() -> dict[str, Any]:
    """Basalt and Gneiss: requested, and never accepted."""
    common = {"technology": "cloud-peering", "local_auth": None, "remote_auth": None}
    return {
        "id": "basalt-gneiss",
        "name": "Basalt–Gneiss",
        "left": {"gateway_id": "basalt-gateway", "peering_agreed": True, **common},
        "right": {"gateway_id": "gneiss-gateway", "peering_agreed": False, **common},
    }


# What Tarn's form says, word for word
_TARN_PHASE_1: Final = "3DES / SHA-1 / DH group 2"
_TARN_PHASE_2: Final = "ESP 3DES / SHA-1, no PFS, no ESN"


def _tarn() -> dict[str, Any]:
    """Tunnel 7: the partner's form asks for what nobody should have any more; 3DES is accepted until spring."""
    theirs, ours = ["10.64.8.0/24"], ["10.64.0.0/22"]
    form = {
        "ike_proposals": [proposal.model_dump(mode="json") for proposal in read_proposals(_TARN_PHASE_1, Protocol.IKE).ike],
        "child_proposals": [proposal.model_dump(mode="json") for proposal in read_proposals(_TARN_PHASE_2, Protocol.ESP).child],
    }
    address = {"type": "ipv4-addr", "value": "203.0.113.140"}
    return {
        "id": "harbour-tarn",
        "name": "Harbour–Tarn",
        "exceptions": [{"type": "ENCR", "id": 3, "until": "2027-03-31", "accepted_by": "Runa Falk, head of networks"}],
        "left": _end(
            "harbour", "fibre", "tarn", "harbour-tarn",
            role="call", peer_address="203.0.113.140", local_networks=ours, remote_networks=theirs, remote_identity=address,
        ),
        "right": _end(
            "tarn", "line", "harbour", "harbour-tarn",
            role="wait", peer_address="198.51.100.10", local_networks=theirs, remote_networks=ours, local_identity=address,
            **form,
        ),
    }  # fmt: skip


def _between_vessels() -> dict[str, Any]:
    """Tunnel 9: planned, and nothing of it known yet but where it is to run."""
    return {
        "id": "aurelia-corvina",
        "name": "Aurelia–Corvina",
        "left": {"gateway_id": "aurelia-gateway", "local_auth": None, "remote_auth": None},
        "right": {"gateway_id": "corvina-gateway", "local_auth": None, "remote_auth": None},
    }


def tunnels() -> list[dict[str, Any]]:
    """Return all tunnels as a design file holds them."""
    by_cable, by_radio = _brenna_basalt("cable", "cable", 0), _brenna_basalt("radio-link", "radio", 4)
    of_clouds = [_basalt(), by_cable, by_radio, _peering(), _dock_exit()]
    return [_ostvik(), _brenna(), _aurelia(), _corvina(), *of_clouds, _tarn(), _between_vessels()]
