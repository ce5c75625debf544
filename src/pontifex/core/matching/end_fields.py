"""The fields of an end: what their keeper is asked, and how each is edited."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum
from typing import Any, Final

from pontifex.core.addressing import Selector
from pontifex.core.certificates import Certificate
from pontifex.core.ipsec import Proposal
from pontifex.core.ipsec.preshared_key import KeyFacts
from pontifex.core.kinds import AcceptedAccount, Account, Identity, KeyPair, TunnelEnd, is_set
from pontifex.core.kinds.column import unwrapped


class Editor(Enum):
    """How a field is edited."""

    TEXT = "text"
    NUMBER = "number"
    YES_NO = "yes-no"
    CHOICE = "choice"
    SEVERAL = "several"  # of several choices
    UPLINK = "uplink"
    IDENTITY = "identity"
    NETWORKS = "networks"
    PROPOSALS = "proposals"
    CERTIFICATES = "certificates"
    KEY = "key"
    KEY_PAIR = "key-pair"
    ACCOUNT = "account"


@dataclass(frozen=True, slots=True)
class EndFieldText:
    """What is asked of a field's keeper, and what helps whoever types it.

    Of a secret one's own value is never told along with a question; of some other fields it wouldn't help (`said`).
    """

    question: str
    hint: str = ""
    secret: bool = False
    said: bool = True


@dataclass(frozen=True, slots=True)
class FieldChoice:
    """A value that a field may have."""

    value: str
    label: str


@dataclass(frozen=True, slots=True)
class EndFieldDescription:
    """A field of an end as the interface edits it."""

    field: str
    title: str
    editor: Editor
    hint: str
    question: str
    needed: bool  # it can't be "not known"
    choices: tuple[FieldChoice, ...] = ()


TEXTS: Final = {
    "technology": EndFieldText("What is your end made of: IPsec with IKEv2 or IKEv1, TLS, static peer keys, or a cloud peering?", said=False),
    "enabled": EndFieldText("Is the tunnel switched on at your end?", hint="This tunnel alone. Each gateway has a switch for all of its tunnels, too: Survey, Gateways.", said=False),
    "uplink_id": EndFieldText("Which public address or DNS name does your gateway have, and can it be called there (UDP 500 and 4500)?", said=False),
    "role": EndFieldText("Does your end call, only wait to be called, or call when there is traffic?"),
    "peer_address": EndFieldText("Which address or DNS name have you entered for our gateway?", hint="address, DNS name, or: any"),
    "port": EndFieldText("Which port does your end use?", hint="1 to 65535"),
    "keepalive_s": EndFieldText("How often does your end send keep-alives, in seconds?", hint="seconds; 0 is off"),
    "transport": EndFieldText("UDP or TCP?"),
    "peering_agreed": EndFieldText("Has your side requested the peering, or accepted our request?", hint="This side has requested the peering, or accepted the request."),
    "exchange_mode": EndFieldText("Main or aggressive mode?"),
    "ike_proposals": EndFieldText("Which IKE proposals does your end accept: encryption with key length, PRF, integrity, group?"),
    "data_ciphers": EndFieldText("Which data ciphers does your end accept?"),
    "digest": EndFieldText("Which digest does your end use?"),
    "local_auth": EndFieldText("How does your end prove itself: pre-shared key, certificate, or EAP?"),
    "remote_auth": EndFieldText("What proof does your end expect of ours?"),
    "local_identity": EndFieldText("Which identity does your end send, type and value, letter by letter?", hint="letter by letter, as the device has it"),
    "remote_identity": EndFieldText("Which identity does your end expect of ours, type and value, letter by letter?", hint="letter by letter, as the device has it"),
    "key": EndFieldText("Have you entered the pre-shared key? Please read us its fingerprint by telephone; never send the key with this list.", secret=True),
    "eap_method": EndFieldText("Which EAP method does your end use?"),
    "account": EndFieldText("Which account does your end call with? Its name only; the secret goes by a separate channel.", secret=True),
    "accepted_account": EndFieldText("Which account have you made for our end, and is it enabled? Its name only.", secret=True),
    "certificates": EndFieldText("Please send us your certificate, with those between it and its authority (PEM).", hint="Certificates in PEM, the end's own first. Private keys stay on their device.", said=False),
    "trust_anchors": EndFieldText("Which certification authorities does your end trust? Please send us their certificates (PEM).", hint="Certificates in PEM of the authorities that this end trusts.", said=False),
    "control_key": EndFieldText("Does your end have an extra key for the control channel? Yes or no; the key goes by a separate channel.", secret=True),
    "key_pair": EndFieldText("What is your public key?", secret=True),
    "peer_public_key": EndFieldText("Which public key have you entered for us?", hint="44 characters of base64"),
    "child_proposals": EndFieldText("Which ESP proposals does your end accept: encryption with key length, integrity, group (PFS), ESN?"),
    "local_networks": EndFieldText("Which of your networks are to be reached through the tunnel?", hint="prefixes or ranges, parted by commas; tcp 443 behind one limits it"),
    "remote_networks": EndFieldText("Which of our networks have you entered for the tunnel?", hint="prefixes or ranges, parted by commas; tcp 443 behind one limits it"),
    "pushed_networks": EndFieldText("Which networks does your end push to ours?", hint="prefixes or ranges, parted by commas; tcp 443 behind one limits it"),
    "nat_traversal": EndFieldText("Does your end put ESP in UDP as needed, always, or never?"),
    "fragmentation": EndFieldText("Does your end cut large messages of IKE into pieces of its own?"),
    "mobike": EndFieldText("Does your end go on with the tunnel when an address changes (MOBIKE)?"),
    "initial_contact": EndFieldText("When a caller says that it has no other SA, does your end forget the older ones, or keep them?"),
    "calls_again": EndFieldText("Does your end call again by itself when a call has failed or the tunnel is lost?"),
    "mode": EndFieldText("Do your end's networks decide what goes into the tunnel, or routes to a tunnel interface?"),
    "inner_address": EndFieldText("Which inner address does your tunnel interface have, if it has one?", hint="such as 10.64.255.1/30"),
    "inner_mtu": EndFieldText("Which MTU is your tunnel interface set to?", hint="octets"),
    "tcp_mss": EndFieldText("Which TCP MSS does your end set?", hint="octets"),
    "compression": EndFieldText("Is compression switched on at your end?"),
    "child_lifetime_s": EndFieldText("What is the lifetime of your Child SA, in seconds?", hint="seconds"),
    "child_lifetime_mib": EndFieldText("After how many MiB does your end rekey the Child SA, if it counts them?", hint="MiB"),
    "ike_lifetime_s": EndFieldText("What is the lifetime of your IKE SA, in seconds?", hint="seconds"),
    "rekey_margin_s": EndFieldText("How long before a lifetime ends does your end rekey, in seconds?", hint="seconds"),
    "reauthenticate": EndFieldText("Does your end authenticate anew when the IKE SA's lifetime ends, or rekey in place?"),
    "renegotiation_s": EndFieldText("After how many seconds does your end renegotiate?", hint="seconds"),
    "starts_at_boot": EndFieldText("Does your end call by itself whenever its device has started?"),
    "round_trip_ms": EndFieldText("How long does a round trip through the tunnel take, in milliseconds?", hint="milliseconds, as measured"),
    "dead_peer_s": EndFieldText("How often does your end check that ours is alive, in seconds?", hint="seconds; 0 is off"),
}  # fmt: skip
_EDITORS: Final[dict[Any, Editor]] = {
    int: Editor.NUMBER,
    bool: Editor.YES_NO,
    Identity: Editor.IDENTITY,
    Selector: Editor.NETWORKS,
    Proposal: Editor.PROPOSALS,
    Certificate: Editor.CERTIFICATES,
    KeyFacts: Editor.KEY,
    KeyPair: Editor.KEY_PAIR,
    Account: Editor.ACCOUNT,
    AcceptedAccount: Editor.ACCOUNT,
}


def described_field(field: str) -> EndFieldDescription:
    """Return a field of an end as the interface edits it. Raise KeyError for one that nothing is said of."""
    info, text = TunnelEnd.model_fields[field], TEXTS[field]
    inner, _, many = unwrapped(info)
    return EndFieldDescription(
        field=field,
        title=info.title or field,
        editor=_editor(field, inner, many),
        hint=text.hint,
        question=text.question,
        needed=info.is_required() or (is_set(info.default) and field not in _FORGETTABLE),
        choices=tuple(_choices(inner)),
    )


_FORGETTABLE: Final = ("local_auth", "remote_auth")  # they have a usual value, and may be unknown all the same


def _editor(field: str, inner: Any, many: bool) -> Editor:
    if field == "uplink_id":
        return Editor.UPLINK
    if isinstance(inner, type) and issubclass(inner, Enum):
        return Editor.SEVERAL if many else Editor.CHOICE
    return _EDITORS.get(inner, Editor.TEXT)


def _choices(inner: Any) -> list[FieldChoice]:
    if not (isinstance(inner, type) and issubclass(inner, Enum)):
        return []
    return [FieldChoice(choice.value, _label(choice)) for choice in inner]


def _label(choice: Any) -> str:
    """Return what people call a value; names of algorithms are written as they are."""
    value: str = choice.value
    return str(getattr(choice, "label", value.replace("-", " ") if value.islower() else value))
