"""Two ends of an IKEv2 tunnel as plain data, drawn near to agreeing, and the same as a design of the product."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, fields, replace
from random import Random
from typing import Any, Final

from pontifex.core.ipsec.preshared_key import key_facts
from pontifex.core.kinds import Gateway, Site, Tunnel, Uplink
from pontifex.core.model import Design, apply_operations, put
from pontifex.demo.tunnels import KEY_SALT, key_reference

# IANA "Internet Key Exchange Version 2 (IKEv2) Parameters": transform types
ENCR, PRF, INTEG, KE, ESN = "ENCR", "PRF", "INTEG", "KE", "ESN"
Transform = tuple[str, int, int | None]  # type, number, key length in bits
Proposal = tuple[Transform, ...]
SIDE_NAMES: Final = ("left", "right")


@dataclass(frozen=True)
class Networks:
    """A traffic selector: addresses, and protocol and ports where they are limited."""

    prefix: str
    protocol: str = ""
    port: str = ""

    @property
    def text(self) -> str:
        """As the product reads it."""
        return " ".join(filter(None, (self.prefix, self.protocol, self.port)))


@dataclass(frozen=True)
class EndData:
    """One end, with its gateway and uplink. Every field is known."""

    role: str
    peer: str
    address_kind: str
    address: str | None
    name: str | None
    udp_arrives: bool
    only_tcp_out: bool
    nat_timeout_s: int | None
    ike: tuple[Proposal, ...]
    child: tuple[Proposal, ...]
    local_id: tuple[str, str]
    remote_id: tuple[str, str]
    ignores_case: bool
    key: str
    local: tuple[Networks, ...]
    remote: tuple[Networks, ...]
    ike_lifetime_s: int
    child_lifetime_s: int
    margin_s: int
    keepalive_s: int
    dead_peer_s: int
    reauthenticate: bool
    enabled: bool
    service_on: bool


@dataclass(frozen=True)
class PairData:
    """Both ends."""

    left: EndData
    right: EndData

    def end(self, side: str) -> EndData:
        """The end of a side."""
        return self.left if side == "left" else self.right


_AEAD: Final[Proposal] = ((ENCR, 20, 256), (PRF, 5, None), (KE, 19, None))
_ESP: Final[Proposal] = ((ENCR, 20, 256), (KE, 19, None), (ESN, 0, None))
_COMMON: Final[dict[str, Any]] = {
    "role": "call",
    "address_kind": "fixed-public",
    "name": None,
    "udp_arrives": True,
    "only_tcp_out": False,
    "nat_timeout_s": None,
    "ike": (_AEAD,),
    "child": (_ESP,),
    "ignores_case": False,
    "key": "key one for both ends",
    "ike_lifetime_s": 14_400,
    "child_lifetime_s": 3600,
    "margin_s": 180,
    "keepalive_s": 20,
    "dead_peer_s": 30,
    "reauthenticate": False,
    "enabled": True,
    "service_on": True,
}
_LEFT_ID, _RIGHT_ID = ("fqdn", "left.skerry.example"), ("fqdn", "right.skerry.example")
_LEFT_NET, _RIGHT_NET = Networks("10.64.0.0/22"), Networks("10.65.0.0/24")
AGREED: Final = PairData(
    EndData(
        peer="203.0.113.5", address="198.51.100.10", local_id=_LEFT_ID, remote_id=_RIGHT_ID, local=(_LEFT_NET,),
        remote=(_RIGHT_NET,), **_COMMON,
    ),
    EndData(
        peer="198.51.100.10", address="203.0.113.5", local_id=_RIGHT_ID, remote_id=_LEFT_ID, local=(_RIGHT_NET,),
        remote=(_LEFT_NET,), **_COMMON,
    ),
)  # fmt: skip

_CIPHERS: Final = ((20, 256), (20, 128), (12, 256), (12, 128), (28, None), (3, None), (18, 256))
_COMBINED: Final = frozenset({14, 15, 16, 18, 19, 20, 25, 26, 27, 28})
_GROUPS: Final = (14, 19, 20, 31, 0)
_METHODS: Final = (36, 37, 35, 0)
_ADDRESSES: Final = (
    "198.51.100.10",
    "203.0.113.5",
    "198.51.100.77",
    "2001:db8::10",
    "any",
    "gate.left.example",
    "gate.right.example",
)
_NETWORKS: Final = (
    "10.64.0.0/22", "10.64.0.0/16", "10.65.0.0/24", "10.0.0.0/8", "10.64.2.0/24", "0.0.0.0/0", "fd5c:9a1e:40:1::/64", "::/0",
    "10.99.0.0/24",
)  # fmt: skip
_LIMITS: Final = (("", ""), ("", ""), ("tcp", ""), ("tcp", "443"), ("udp", ""), ("udp", "53"), ("icmp", ""))


def _proposal(random: Random, ike: bool) -> Proposal:
    """Draw a proposal: most are sound, with one or two transforms of a type."""

    def some(choices: tuple[Any, ...], most: int = 2) -> list[Any]:
        return random.sample(choices, min(len(choices), random.choice([1, 1, 1, most])))

    combined = random.random() < 0.6
    ciphers = some(tuple(candidate for candidate in _CIPHERS if (candidate[0] in _COMBINED) == combined))
    found: list[Transform] = [(ENCR, number, bits) for number, bits in ciphers]
    if ike:
        found += [(PRF, number, None) for number in some((5, 6, 7, 2))]
    if combined == (random.random() < 0.05):
        found += [(INTEG, number, None) for number in some((12, 13, 14, 2, 0))]
    if ike or random.random() < 0.8:
        found += [(KE, number, None) for number in some(_GROUPS if random.random() < 0.2 else _GROUPS[:-1], 3)]
    for place in range(1, random.choice([1, 1, 1, 2, 3])):
        found += [(f"ADDKE{place}", number, None) for number in some(_METHODS)]
    if not ike:
        found += [(ESN, number, None) for number in some((0, 1))]
    return tuple(found)


def _proposals(random: Random, ike: bool) -> tuple[Proposal, ...]:
    usual = _AEAD if ike else _ESP
    return tuple(usual if random.random() < 0.3 else _proposal(random, ike) for _ in range(random.choice([1, 1, 2, 3])))


def _networks(random: Random) -> tuple[Networks, ...]:
    return tuple(Networks(random.choice(_NETWORKS), *random.choice(_LIMITS)) for _ in range(random.choice([1, 1, 2])))


def _identity(random: Random) -> tuple[str, str]:
    values = {
        "fqdn": ("left.skerry.example", "Left.skerry.example", "right.skerry.example", "right.skerry.example "),
        "rfc822-addr": ("left@skerry.example", "LEFT@skerry.example"),
        "key-id": ("left", "Left"),
        "ipv4-addr": ("198.51.100.10", "203.0.113.5"),
        "any": ("",),
    }
    kind = random.choice(list(values))
    return kind, random.choice(values[kind])


def _both_ways(pair: PairData, side: str, near: str, far: str, value: object) -> PairData:
    """Give a field of a side and its counterpart at the other end one value."""
    other = "right" if side == "left" else "left"
    return _set(_set(pair, side, near, value), other, far, value)


def _set(pair: PairData, side: str, name: str, value: object) -> PairData:
    changed: dict[str, Any] = {name: value}
    end: dict[str, Any] = {side: replace(pair.end(side), **changed)}
    return replace(pair, **end)


_DRAWN: Final[dict[str, Callable[[Random], object]]] = {  # field of an end: what it may become
    "role": lambda r: r.choice(["call", "wait", "on-traffic"]),
    "peer": lambda r: r.choice(_ADDRESSES),
    "address_kind": lambda r: r.choice(["fixed-public", "changing-public", "behind-nat", "carrier-nat"]),
    "address": lambda r: r.choice([None, "198.51.100.10", "203.0.113.5", "2001:db8::10"]),
    "name": lambda r: r.choice([None, "gate.left.example", "gate.right.example"]),
    "udp_arrives": lambda r: r.random() < 0.5,
    "only_tcp_out": lambda r: r.random() < 0.3,
    "nat_timeout_s": lambda r: r.choice([None, 15, 30, 120]),
    "ike": lambda r: _proposals(r, True),
    "child": lambda r: _proposals(r, False),
    "local_id": lambda r: next(candidate for candidate in iter(lambda: _identity(r), None) if candidate[0] != "any"),
    "remote_id": _identity,
    "ignores_case": lambda r: r.random() < 0.7,
    "key": lambda r: r.choice(["key one for both ends", "key one for both ends ", "another key 77"]),
    "local": _networks,
    "remote": _networks,
    "ike_lifetime_s": lambda r: r.choice([3600, 14_400, 28_800]),
    "child_lifetime_s": lambda r: r.choice([900, 3600, 7200]),
    "margin_s": lambda r: r.choice([0, 60, 180, 900, 4000]),
    "keepalive_s": lambda r: r.choice([0, 10, 20, 60, 300]),
    "dead_peer_s": lambda r: r.choice([0, 30]),
    "reauthenticate": lambda r: r.random() < 0.5,
    "enabled": lambda r: r.random() < 0.5,
    "service_on": lambda r: r.random() < 0.5,
}
_COUNTERPARTS: Final = {
    # the field of the other end that says the same
    "local": "remote",
    "remote": "local",
    "local_id": "remote_id",
    "remote_id": "local_id",
    "ike": "ike",
    "child": "child",
}
_OFTEN: Final = ("ike", "child", "local", "remote", "peer", "address_kind", "udp_arrives", "role")


def draw_pair(random: Random) -> PairData:
    """Draw two ends that agree but for a few changes; some of these are made at both ends."""
    pair = AGREED
    for _ in range(random.choice([0, 1, 2, 2, 3, 3, 4, 5, 6])):
        name = random.choice(_OFTEN) if random.random() < 0.55 else random.choice(list(_DRAWN))
        side = random.choice(SIDE_NAMES)
        value = _DRAWN[name](random)
        if name in _COUNTERPARTS and random.random() < 0.6 and not (name == "remote_id" and value[0] == "any"):  # type: ignore[index]
            pair = _both_ways(pair, side, name, _COUNTERPARTS[name], value)
        else:
            pair = _set(pair, side, name, value)
    return pair


def simpler(pair: PairData) -> list[PairData]:
    """Return pairs that are a step nearer to agreeing: a field as at first, or a list with one entry less."""
    found = []
    for side in SIDE_NAMES:
        for field in fields(EndData):
            value, usual = getattr(pair.end(side), field.name), getattr(AGREED.end(side), field.name)
            if value == usual:
                continue
            found.append(_set(pair, side, field.name, usual))
            if isinstance(value, tuple) and field.name in ("ike", "child", "local", "remote"):
                found += [_set(pair, side, field.name, value[:k] + value[k + 1 :]) for k in range(len(value)) if len(value) > 1]
            if field.name in ("ike", "child"):
                for k, proposal in enumerate(value):
                    for j in range(len(proposal)):
                        shorter = proposal[:j] + proposal[j + 1 :]
                        found.append(_set(pair, side, field.name, (*value[:k], shorter, *value[k + 1 :])))
    return found


def reduced(pair: PairData, differs: Callable[[PairData], bool]) -> PairData:
    """Return the smallest pair, reached step by step, for which something still differs."""
    current = pair
    while True:
        smaller = next((pair_data for pair_data in simpler(current) if differs(pair_data)), None)
        if smaller is None:
            return current
        current = smaller


def describe(pair: PairData) -> str:
    """Write a pair down: only what isn't as in the pair that agrees."""
    return "\n".join(
        f"    {side}.{field.name} = {getattr(pair.end(side), field.name)!r}"
        for side in SIDE_NAMES
        for field in fields(EndData)
        if getattr(pair.end(side), field.name) != getattr(AGREED.end(side), field.name)
    )


def _key(text: str) -> dict[str, Any]:
    return key_facts(text, bytes.fromhex(KEY_SALT), key_reference("key")).model_dump()


_KEYS: Final[dict[str, dict[str, Any]]] = {}


def design_of(pair: PairData) -> Design:
    """Return the pair as a design with one tunnel."""
    objects: list[Any] = []
    for side in SIDE_NAMES:
        end = pair.end(side)
        objects.append(Site(id=side, name=side.capitalize()))
        gateway = {"id": side, "site_id": side, "name": side, "service_on": end.service_on, "folds_case": end.ignores_case}
        objects.append(Gateway.model_validate(gateway))
        uplink = {
            "id": side, "gateway_id": side, "name": "uplink", "address_kind": end.address_kind, "address": end.address,
            "dns_name": end.name, "inbound_ike": end.udp_arrives, "only_tcp_out": end.only_tcp_out,
            "nat_timeout_s": end.nat_timeout_s,
        }  # fmt: skip
        objects.append(Uplink.model_validate(uplink))
    ends = {side: end_fields(side, pair.end(side)) for side in SIDE_NAMES}
    objects.append(Tunnel.model_validate({"id": "tunnel", "name": "Tunnel", **ends}))
    empty = Design(id="pair", revision=0, name="pair", key_salt=KEY_SALT)
    return apply_operations(empty, [put(item) for item in objects])


def end_fields(side: str, end: EndData) -> dict[str, Any]:
    """Return an end's fields as the model reads them; its gateway and uplink are called by its side."""
    if end.key not in _KEYS:
        _KEYS[end.key] = _key(end.key)
    lists = {
        name: [{"transforms": [{"type": t, "id": i, "key_length": k} for t, i, k in proposal]} for proposal in proposals]
        for name, proposals in (("ike_proposals", end.ike), ("child_proposals", end.child))
    }
    return {
        "gateway_id": side,
        "uplink_id": side,
        "role": end.role,
        "peer_address": end.peer,
        "local_identity": {"type": end.local_id[0], "value": end.local_id[1]},
        "remote_identity": {"type": end.remote_id[0], "value": end.remote_id[1]},
        "key": _KEYS[end.key],
        "local_networks": [networks.text for networks in end.local],
        "remote_networks": [networks.text for networks in end.remote],
        "ike_lifetime_s": end.ike_lifetime_s,
        "child_lifetime_s": end.child_lifetime_s,
        "rekey_margin_s": end.margin_s,
        "keepalive_s": end.keepalive_s,
        "dead_peer_s": end.dead_peer_s,
        "reauthenticate": end.reauthenticate,
        "enabled": end.enabled,
        **lists,
    }
