"""Which rows each technology has, in the order in which a call meets them."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Final

from pontifex.core.catalogue import Code
from pontifex.core.kinds import AuthMethod, Side, Technology
from pontifex.core.matching.alive import judge_calling_again, judge_dead_peer, judge_keepalive
from pontifex.core.matching.authentication import (
    account_holder,
    eap_by_certificate,
    judge_account,
    judge_eap_method,
    judge_method,
    uses,
)
from pontifex.core.matching.certificate import judge_certificate
from pontifex.core.matching.encapsulation import judge_encapsulation
from pontifex.core.matching.exchange_mode import judge_exchange_mode
from pontifex.core.matching.identity import judge_identity
from pontifex.core.matching.inner import (
    judge_compression,
    judge_inner_mtu,
    judge_inner_network,
    judge_mode,
    judge_tcp_mss,
)
from pontifex.core.matching.key import judge_key
from pontifex.core.matching.message_size import judge_fragmentation
from pontifex.core.matching.mobility import can_move, judge_initial_contact, judge_mobility
from pontifex.core.matching.networks import judge_networks, judge_passing
from pontifex.core.matching.peer_key import judge_public_key, judge_same_key
from pontifex.core.matching.peering import judge_agreement
from pontifex.core.matching.proposals import judge_child, judge_ike
from pontifex.core.matching.reach import judge_peer_address, judge_role
from pontifex.core.matching.rekey import (
    judge_child_rekey,
    judge_lifetime,
    judge_margin,
    judge_phase_lifetime,
    judge_reauthentication,
    judge_volume,
)
from pontifex.core.matching.reversed_call import is_reversed, judge_boot, judge_round_trip
from pontifex.core.matching.row import Relation, Stage
from pontifex.core.matching.spec import RowSpec, both, each
from pontifex.core.matching.technology import judge_switch, judge_technology
from pontifex.core.matching.tls import (
    judge_cipher,
    judge_control_key,
    judge_digest,
    judge_equal,
    judge_pushed,
    judge_renegotiation,
)
from pontifex.core.matching.tunnel_ends import TunnelEnds

_EQUAL, _MIRROR, _NEGOTIATED, _COMPLEMENTARY = Relation


def _by(method: AuthMethod) -> Callable[[TunnelEnds], bool]:
    return lambda ends: uses(ends, method)


def _certified(ends: TunnelEnds, side: Side) -> bool:
    """Whether an end proves itself by a certificate, or is expected to."""
    by_certificate = AuthMethod.CERTIFICATE in (ends.end(side).local_auth, ends.end(side.other).remote_auth)
    if AuthMethod.EAP in (ends.end(side).local_auth, ends.end(side.other).remote_auth):
        by_certificate |= eap_by_certificate(ends)
    return by_certificate or not ends.end(side).technology.is_ipsec


TECHNOLOGY: Final = both("technology", "Technology", Stage.REACH, _EQUAL, "technology", judge_technology)
SWITCH: Final = both("enabled", "Switched on", Stage.REACH, _EQUAL, "enabled", judge_switch)
ROLE: Final = both("role", "Who calls", Stage.REACH, _COMPLEMENTARY, "role", judge_role)
PEERS: Final = each("peer", "Where {this} finds {far}", Stage.REACH, _MIRROR, "peer_address", "uplink_id", judge_peer_address)
KEEPALIVE: Final = both("keepalive", "Keep-alive, s", Stage.REACH, _COMPLEMENTARY, "keepalive_s", judge_keepalive)
PORT: Final = both("port", "Port", Stage.REACH, _EQUAL, "port", partial(judge_equal, field="port", code=Code.REACH_PORT_DIFFERS))
TRANSPORT: Final = both(
    "transport", "Transport", Stage.REACH, _EQUAL, "transport",
    partial(judge_equal, field="transport", code=Code.TLS_TRANSPORT_DIFFERS),
)  # fmt: skip
AGREEMENT: Final = both("peering", "Agreed to", Stage.REACH, _COMPLEMENTARY, "peering_agreed", judge_agreement)

EXCHANGE_MODE: Final = both("exchange-mode", "Exchange mode", Stage.INIT, _EQUAL, "exchange_mode", judge_exchange_mode)
IKE_PROPOSALS: Final = both("ike-proposals", "IKE proposals", Stage.INIT, _NEGOTIATED, "ike_proposals", judge_ike)
DATA_CIPHERS: Final = both("data-ciphers", "Data ciphers", Stage.INIT, _NEGOTIATED, "data_ciphers", judge_cipher)
DIGEST: Final = both("digest", "Digest", Stage.INIT, _EQUAL, "digest", judge_digest)

FRAGMENTATION: Final = both(
    "fragmentation", "Cuts its messages", Stage.AUTH, _COMPLEMENTARY, "fragmentation", judge_fragmentation
)
METHODS: Final = each("auth", "How {this} proves itself", Stage.AUTH, _MIRROR, "local_auth", "remote_auth", judge_method)
IDENTITIES: Final = each(
    "identity", "{this}'s identity", Stage.AUTH, _MIRROR, "local_identity", "remote_identity", judge_identity
)
KEY: Final = both("key", "Pre-shared key", Stage.AUTH, _EQUAL, "key", judge_key, _by(AuthMethod.PRE_SHARED_KEY))
CERTIFICATES: Final = each(
    "certificate",
    "{this}'s certificate",
    Stage.AUTH,
    _COMPLEMENTARY,
    "certificates",
    "trust_anchors",
    judge_certificate,
    _certified,
)
EAP_METHOD: Final = both("eap-method", "EAP method", Stage.AUTH, _EQUAL, "eap_method", judge_eap_method, _by(AuthMethod.EAP))
ACCOUNT: Final = RowSpec(
    "account", "{this}'s account", Stage.AUTH, _MIRROR, "account", "accepted_account", judge_account, account_holder
)
EAP_ACCOUNT: Final = RowSpec(
    "account", "{this}'s account", Stage.AUTH, _MIRROR, "account", "accepted_account", judge_account, account_holder,
    lambda ends: uses(ends, AuthMethod.EAP) and not eap_by_certificate(ends),
)  # fmt: skip
CONTROL_KEY: Final = both("control-key", "Control key", Stage.AUTH, _EQUAL, "control_key", judge_control_key)
KEY_PAIRS: Final = both("key-pairs", "Key pairs", Stage.AUTH, _COMPLEMENTARY, "key_pair", judge_same_key)
PUBLIC_KEYS: Final = each(
    "public-key", "{this}'s public key", Stage.AUTH, _MIRROR, "key_pair", "peer_public_key", judge_public_key
)

CHILD_PROPOSALS: Final = both("child-proposals", "Child SA proposals", Stage.CHILD, _NEGOTIATED, "child_proposals", judge_child)
NETWORKS: Final = each("networks", "{this}'s networks", Stage.CHILD, _MIRROR, "local_networks", "remote_networks", judge_networks)
PASSING: Final = both("passing", "What passes between them", Stage.CHILD, _COMPLEMENTARY, "local_networks", judge_passing)
PUSHED: Final = RowSpec(
    "pushed-networks", "Pushed networks", Stage.CHILD, _MIRROR, "pushed_networks", "remote_networks", judge_pushed,
    lambda ends: ends.caller.other,
)  # fmt: skip
MODE: Final = both("mode", "Mode", Stage.CHILD, _COMPLEMENTARY, "mode", judge_mode)

ENCAPSULATION: Final = both("nat-traversal", "NAT traversal", Stage.TRAFFIC, _COMPLEMENTARY, "nat_traversal", judge_encapsulation)
INNER_ADDRESS: Final = both("inner-address", "Inner address", Stage.TRAFFIC, _COMPLEMENTARY, "inner_address", judge_inner_network)
INNER_MTU: Final = both("inner-mtu", "Inner MTU, octets", Stage.TRAFFIC, _COMPLEMENTARY, "inner_mtu", judge_inner_mtu)
TCP_MSS: Final = both("tcp-mss", "TCP MSS, octets", Stage.TRAFFIC, _COMPLEMENTARY, "tcp_mss", judge_tcp_mss)
COMPRESSION: Final = both("compression", "Compression", Stage.TRAFFIC, _EQUAL, "compression", judge_compression)

CHILD_REKEY: Final = both("child-rekey", "Child SA rekey", Stage.REKEY, _NEGOTIATED, "child_proposals", judge_child_rekey)
CHILD_LIFETIME: Final = both(
    "child-lifetime", "Child SA lifetime, s", Stage.REKEY, _COMPLEMENTARY, "child_lifetime_s",
    partial(judge_lifetime, field="child_lifetime_s"),
)  # fmt: skip
CHILD_VOLUME: Final = both(
    "child-volume", "Child SA lifetime, MiB", Stage.REKEY, _COMPLEMENTARY, "child_lifetime_mib", judge_volume
)
IKE_LIFETIME: Final = both(
    "ike-lifetime", "IKE SA lifetime, s", Stage.REKEY, _COMPLEMENTARY, "ike_lifetime_s",
    partial(judge_lifetime, field="ike_lifetime_s"),
)  # fmt: skip
PHASE_1_LIFETIME: Final = both(
    "ike-lifetime", "IKE SA lifetime, s", Stage.INIT, _NEGOTIATED, "ike_lifetime_s",
    partial(judge_phase_lifetime, field="ike_lifetime_s"),
)  # fmt: skip
PHASE_2_LIFETIME: Final = both(
    "child-lifetime", "Child SA lifetime, s", Stage.CHILD, _NEGOTIATED, "child_lifetime_s",
    partial(judge_phase_lifetime, field="child_lifetime_s"),
)  # fmt: skip
REKEY_MARGIN: Final = both("rekey-margin", "Rekey margin, s", Stage.REKEY, _COMPLEMENTARY, "rekey_margin_s", judge_margin)
REAUTHENTICATION: Final = both(
    "reauthentication", "Reauthentication", Stage.REKEY, _COMPLEMENTARY, "reauthenticate", judge_reauthentication
)
RENEGOTIATION: Final = both(
    "renegotiation", "Renegotiation, s", Stage.REKEY, _COMPLEMENTARY, "renegotiation_s", judge_renegotiation
)
ROUND_TRIP: Final = both(
    "round-trip", "Round trip, ms", Stage.TRAFFIC, _COMPLEMENTARY, "round_trip_ms", judge_round_trip, is_reversed
)
AT_BOOT: Final = both(
    "at-boot", "Starts with its machine", Stage.RESTART, _COMPLEMENTARY, "starts_at_boot", judge_boot, is_reversed
)
MOBIKE: Final = both("mobike", "MOBIKE", Stage.RESTART, _COMPLEMENTARY, "mobike", judge_mobility, can_move)
INITIAL_CONTACT: Final = both(
    "initial-contact", "At first contact", Stage.RESTART, _COMPLEMENTARY, "initial_contact", judge_initial_contact
)
CALLS_AGAIN: Final = both("calls-again", "Calls again", Stage.RESTART, _COMPLEMENTARY, "calls_again", judge_calling_again)
DEAD_PEER: Final = both("dead-peer", "Dead-peer check, s", Stage.RESTART, _COMPLEMENTARY, "dead_peer_s", judge_dead_peer)

# what matters whatever the technology, and all that can be compared where the ends have different ones
REACH: Final = (TECHNOLOGY, SWITCH, ROLE, *PEERS, KEEPALIVE)
_PROOFS: Final = (*METHODS, *IDENTITIES, KEY, *CERTIFICATES, EAP_METHOD, EAP_ACCOUNT)
_NETWORKS: Final = (*NETWORKS, PASSING)
_TRAFFIC: Final = (INNER_ADDRESS, INNER_MTU, TCP_MSS, COMPRESSION, ROUND_TRIP)
_RESTART: Final = (DEAD_PEER, CALLS_AGAIN, INITIAL_CONTACT, MOBIKE)
_IKEV2: Final = (
    *REACH, IKE_PROPOSALS, FRAGMENTATION, *_PROOFS, CHILD_PROPOSALS, *_NETWORKS, MODE, ENCAPSULATION, *_TRAFFIC, CHILD_REKEY,
    CHILD_LIFETIME, CHILD_VOLUME, IKE_LIFETIME, REKEY_MARGIN, REAUTHENTICATION, *_RESTART, AT_BOOT,
)  # fmt: skip
_IKEV1: Final = (
    *REACH, EXCHANGE_MODE, IKE_PROPOSALS, PHASE_1_LIFETIME, *_PROOFS, CHILD_PROPOSALS, *_NETWORKS, MODE, PHASE_2_LIFETIME,
    *_TRAFFIC, DEAD_PEER, AT_BOOT,
)  # fmt: skip
_TLS: Final = (
    *REACH, TRANSPORT, PORT, DATA_CIPHERS, DIGEST, CONTROL_KEY, *CERTIFICATES, ACCOUNT, *_NETWORKS, PUSHED, INNER_ADDRESS,
    COMPRESSION, ROUND_TRIP, RENEGOTIATION, DEAD_PEER, CALLS_AGAIN, AT_BOOT,
)  # fmt: skip
_PEER_KEY: Final = (*REACH, PORT, KEY_PAIRS, *PUBLIC_KEYS, *_NETWORKS, INNER_ADDRESS, ROUND_TRIP, CALLS_AGAIN, AT_BOOT)
_CLOUD_PEERING: Final = (TECHNOLOGY, SWITCH, AGREEMENT)

ROWS: Final[dict[Technology, tuple[RowSpec, ...]]] = {
    Technology.IPSEC_IKEV2: _IKEV2,
    Technology.IPSEC_IKEV1: _IKEV1,
    Technology.TLS: _TLS,
    Technology.PEER_KEY: _PEER_KEY,
    Technology.CLOUD_PEERING: _CLOUD_PEERING,
}
# the fields of an end that each technology compares
FIELDS: Final = {
    technology: frozenset(field for spec in specs for field in (spec.own, spec.far)) for technology, specs in ROWS.items()
}
