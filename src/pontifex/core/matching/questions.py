"""What isn't known yet, as questions that can be sent to whoever runs the other end."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.kinds import SIDES, Side
from pontifex.core.matching.row import Row
from pontifex.core.matching.tunnel_ends import TunnelEnds
from pontifex.core.model.difference import written

_SECRETS: Final = frozenset({"key", "control_key", "account", "accepted_account", "key_pair"})
_QUESTIONS: Final = {  # field of an end, and what its keeper is asked
    "uplink_id": "Which public address or DNS name does your gateway have, and can it be called there (UDP 500 and 4500)?",
    "role": "Does your end call, only wait to be called, or call when there is traffic?",
    "peer_address": "Which address or DNS name have you entered for our gateway?",
    "port": "Which port does your end use?",
    "keepalive_s": "How often does your end send keep-alives, in seconds?",
    "local_auth": "How does your end prove itself: pre-shared key, certificate, or EAP?",
    "remote_auth": "What proof does your end expect of ours?",
    "local_identity": "Which identity does your end send, type and value, letter by letter?",
    "remote_identity": "Which identity does your end expect of ours, type and value, letter by letter?",
    "key": "Have you entered the pre-shared key? Please read us its fingerprint by telephone; never send the key with this list.",
    "eap_method": "Which EAP method does your end use?",
    "account": "Which account does your end call with? Its name only; the secret goes by a separate channel.",
    "accepted_account": "Which account have you made for our end, and is it enabled? Its name only.",
    "certificates": "Please send us your certificate, with those between it and its authority (PEM).",
    "trust_anchors": "Which certification authorities does your end trust? Please send us their certificates (PEM).",
    "ike_proposals": "Which IKE proposals does your end accept: encryption with key length, PRF, integrity, group?",
    "child_proposals": "Which ESP proposals does your end accept: encryption with key length, integrity, group (PFS), ESN?",
    "exchange_mode": "Main or aggressive mode?",
    "ike_lifetime_s": "What is the lifetime of your IKE SA, in seconds?",
    "child_lifetime_s": "What is the lifetime of your Child SA, in seconds?",
    "reauthenticate": "Does your end authenticate anew when the IKE SA's lifetime ends, or rekey in place?",
    "local_networks": "Which of your networks are to be reached through the tunnel?",
    "remote_networks": "Which of our networks have you entered for the tunnel?",
    "mode": "Do your end's networks decide what goes into the tunnel, or routes to a tunnel interface?",
    "inner_address": "Which inner address does your tunnel interface have, if it has one?",
    "inner_mtu": "Which MTU is your tunnel interface set to?",
    "tcp_mss": "Which TCP MSS does your end set?",
    "dead_peer_s": "How often does your end check that ours is alive, in seconds?",
    "transport": "UDP or TCP?",
    "data_ciphers": "Which data ciphers does your end accept?",
    "digest": "Which digest does your end use?",
    "control_key": "Does your end have an extra key for the control channel? Yes or no; the key goes by a separate channel.",
    "pushed_networks": "Which networks does your end push to ours?",
    "peering_agreed": "Has your side requested the peering, or accepted our request?",
    "key_pair": "What is your public key?",
    "peer_public_key": "Which public key have you entered for us?",
}  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Questions:
    """A list of questions for the keeper of each end, ready to be sent; empty when nothing is unknown there."""

    left: Annotated[str, Field(title="For the left end's keeper")]
    right: Annotated[str, Field(title="For the right end's keeper")]


def questions(pair: TunnelEnds, rows: Sequence[Row]) -> Questions:
    """Return what to ask, from the rows that are compared. What stops the comparison comes first; keys are never asked for."""
    texts = {side: _text(pair, rows, side) for side in SIDES}
    return Questions(left=texts[Side.LEFT], right=texts[Side.RIGHT])


def _text(pair: TunnelEnds, rows: Sequence[Row], side: Side) -> str:
    asked: dict[str, str] = {}
    for row in rows:
        mine, theirs = (row.left, row.right) if side is Side.LEFT else (row.right, row.left)
        if mine.field in _QUESTIONS and getattr(pair.end(side), mine.field) in (None, ()):
            asked.setdefault(mine.field, _with_ours(pair, side, _QUESTIONS[mine.field], theirs.field))
    if not asked:
        return ""
    head = [
        f"Tunnel {pair.tunnel.name}: what we need to know of your end ({pair.names[side]})",
        f"Our end is {pair.names[side.other]}.",
        "",
    ]
    return "\n".join([*head, *(f"{number}. {text}" for number, text in enumerate(asked.values(), start=1)), ""])


def _with_ours(pair: TunnelEnds, side: Side, question: str, field: str) -> str:
    """Add what our own end has, where that helps and is no secret."""
    value = getattr(pair.end(side.other), field)
    if field in _SECRETS | {"uplink_id", "certificates", "trust_anchors"} or value in (None, ()):
        return question
    return f"{question} (We have: {written(value)})"
