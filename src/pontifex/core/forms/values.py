"""What the value of a line stands for: addresses, networks, identities, choices and times."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any, Final

from pontifex.core.addressing import Address, AddressError, AddressRange, Family, Prefix, Selector, parse_address, parse_selector
from pontifex.core.addressing.interface import Interface
from pontifex.core.forms.labels import NO, PROOF_WORDS, YES, Asked
from pontifex.core.importing.masks import is_mask, read_block
from pontifex.core.kinds import AuthMethod, ExchangeMode, Identity, IdentityType, Mode, Role, Technology
from pontifex.core.kinds.identity import LONGEST_IDENTITY

_V4: Final = r"\d{1,3}(?:\.\d{1,3}){3}"
_V6: Final = r"(?:[0-9A-Fa-f]{0,4}:){2,7}[0-9A-Fa-f.]{0,15}"
BLOCK: Final = re.compile(
    rf"(?<![\w.:/-])(?P<block>(?:{_V4}|{_V6})(?:/(?:{_V4}|\d{{1,3}})|\s?(?:-|–|to)\s?{_V4})?)"
    rf"(?:\s+(?:(?:net)?mask\s*)?(?P<mask>{_V4})(?![\d./]))?(?![\w/])"
)
DNS: Final = re.compile(r"(?:[A-Za-z0-9_](?:[A-Za-z0-9-]{0,61}[A-Za-z0-9])?\.)+[A-Za-z]{2,63}")
_UNITS: Final = {"s": 1, "m": 60, "h": 3600}
_SECONDS: Final = re.compile(r"(?P<number>\d{1,6})\s*(?P<unit>s|m|h)?(?:ec|ecs|econds?|in|inutes?|ours?)?\b", re.IGNORECASE)


class Unclear(Exception):
    """A value that stands for nothing, or for one of several things."""

    def __init__(self, reason: str, choices: Sequence[str] = ()) -> None:
        super().__init__(reason)
        self.reason, self.choices = reason, tuple(choices)


@dataclass(frozen=True, slots=True)
class Said:
    """A field of an end, with its value and what it means in words; no field where it says nothing for an end."""

    field: str
    value: Any
    meaning: str


def networks_in(text: str) -> Iterator[Selector]:
    """Yield the networks, ranges and hosts in a text. Raise Unclear for one that can't be read."""
    for match in BLOCK.finditer(text):
        mask = match["mask"] if match["mask"] and is_mask(match["mask"]) else ""
        written = re.sub(r"\s?(?:–|to)\s?", "-", match["block"].replace(" - ", "-"))
        try:
            block = read_block(written, mask)
        except AddressError as error:
            raise Unclear(error.reason) from None
        if isinstance(block, Interface):
            raise Unclear(f"host bits are set in {match[0]}; did you mean {block.prefix}?", (str(block.prefix),))
        yield _selector(block)


def _selector(block: Prefix | AddressRange | Address) -> Selector:
    if isinstance(block, Address):
        return Selector.of(Prefix.of_address(block))
    return Selector.of(block) if isinstance(block, Prefix) else parse_selector(str(block))


def address_in(text: str) -> str | None:
    """Return the outside address or DNS name in a text, as an end holds it."""
    match = BLOCK.search(text)
    if match and "/" not in match[0] and "-" not in match[0]:
        try:
            return str(Address(*parse_address(match["block"])))
        except AddressError as error:
            raise Unclear(error.reason) from None
    name = DNS.search(text)
    return name[0].lower() if name else None


def identity_of(text: str) -> Identity:
    """Return an identity by its form (RFC 7296 section 3.5), its value letter by letter. Raise Unclear for none."""
    value = text.strip().strip("\"'")
    kind = re.match(
        r"(?:\(?(?P<kind>fqdn|ip(?:v[46])?|e-?mail|user[\s-]*fqdn|dn|key[\s-]*id)\)?[\s:]+)(?P<rest>\S.*)", value, re.IGNORECASE
    )
    value = kind["rest"] if kind else value
    value = re.sub(r"\s*\((?:fqdn|ip(?:v4)?(?: address)?|e-?mail|dn|key[\s-]*id)\)$", "", value, flags=re.IGNORECASE)
    if not value:
        raise Unclear("no identity stands there")
    if value.lower() in ("any", "%any", "*"):
        return Identity(type=IdentityType.ANY, value="")
    try:
        family, _ = parse_address(value)
    except AddressError:
        if len(value) > LONGEST_IDENTITY:
            raise Unclear(f"an identity has {LONGEST_IDENTITY} characters at most") from None
        return Identity(type=_identity_type(value, (kind["kind"] if kind else "").lower()), value=value)
    return Identity(type=IdentityType.IPV4_ADDR if family is Family.V4 else IdentityType.IPV6_ADDR, value=value)


def _identity_type(value: str, kind: str) -> IdentityType:
    if "@" in value:
        return IdentityType.RFC822_ADDR
    if re.match(r"(?:CN|C|O|OU|DC)\s*=", value, re.IGNORECASE):
        return IdentityType.DER_ASN1_DN
    if DNS.fullmatch(value) and "key" not in kind:
        return IdentityType.FQDN
    if "fqdn" in kind:
        return IdentityType.FQDN
    if "key" in kind:
        return IdentityType.KEY_ID
    raise Unclear(f"what kind of identity is {value}?", (f"FQDN {value}", f"key-id {value}"))


def seconds_in(text: str) -> int:
    """Return a time in seconds; none is 0. Raise Unclear where there is no number."""
    if NO.fullmatch(text.strip()):
        return 0
    match = _SECONDS.search(text)
    if not match:
        raise Unclear("how many seconds?")
    return int(match["number"]) * _UNITS[(match["unit"] or "s").lower()]


def yes_or_no(text: str) -> bool:
    """Return whether a value says yes. Raise Unclear for neither."""
    if YES.fullmatch(text.strip()):
        return True
    if NO.fullmatch(text.strip()):
        return False
    raise Unclear("is that a yes or a no?", ("yes", "no"))


def said_of(asked: Asked, text: str) -> Said:
    """Return what a value says of what is the same at both ends, or of the writer's own. Raise Unclear."""
    text = text.strip()
    if asked in _WORDS:
        return _said_by_words(asked, text)
    if asked is Asked.NAT:
        return Said("", None, "whether a NAT stands between follows from the uplinks")
    if asked in (Asked.DEAD_PEER, Asked.KEEPALIVE):
        return _interval(asked, text)
    if asked in _NUMBERS:
        field, title = _NUMBERS[asked]
        number = re.search(r"\d{2,5}", text)
        if not number:
            raise Unclear("which number?")
        return Said(field, int(number[0]), f"{title} {number[0]}")
    field, title = _YES_NO[asked]
    says = yes_or_no(text)
    return Said(field, says, f"{title}: {'yes' if says else 'no'}")


def _interval(asked: Asked, text: str) -> Said:
    field, title = ("dead_peer_s", "dead-peer check") if asked is Asked.DEAD_PEER else ("keepalive_s", "keep-alive")
    if YES.fullmatch(text) and not re.search(r"\d", text):
        return Said("", None, f"{title}: on, without a time")
    seconds = seconds_in(text)
    return Said(field, seconds, f"{title} {f'every {seconds} s' if seconds else 'off'}")


_NUMBERS: Final = {
    Asked.MTU: ("inner_mtu", "inner MTU"),
    Asked.MSS: ("tcp_mss", "TCP MSS"),
    Asked.MARGIN: ("rekey_margin_s", "rekey margin, s"),
}
_YES_NO: Final = {
    Asked.COMPRESSION: ("compression", "compression"),
    Asked.REAUTHENTICATION: ("reauthenticate", "reauthentication"),
    Asked.MOBILITY: ("mobike", "MOBIKE"),
    Asked.FRAGMENTATION: ("fragmentation", "cuts its messages"),
}
_WORDS: Final = {
    Asked.VERSION: (
        (r"ike\s*v?\s*2|v?2(?:\.0)?|ipsec.*ikev2", "technology", Technology.IPSEC_IKEV2),
        (r"ike\s*v?\s*1|v?1(?:\.0)?|ipsec.*ikev1", "technology", Technology.IPSEC_IKEV1),
    ),
    Asked.EXCHANGE: ((r"main", "exchange_mode", ExchangeMode.MAIN), (r"aggressive", "exchange_mode", ExchangeMode.AGGRESSIVE)),
    Asked.MODE: (
        (r"policy", "mode", Mode.POLICY),
        (r"rout", "mode", Mode.ROUTE),
        (r"main", "exchange_mode", ExchangeMode.MAIN),
        (r"aggressive", "exchange_mode", ExchangeMode.AGGRESSIVE),
        (r"tunnel", "", None),
    ),
    Asked.ROLE: (
        (r"(?:respond|answer|passive|wait|you\b|your|customer|remote)", "role", Role.WAIT),
        (r"(?:initiat|active|call|we\b|us\b|our|partner|start)", "role", Role.CALL),
        (r"(?:on[\s-]*(?:demand|traffic)|route)", "role", Role.ON_TRAFFIC),
    ),
    Asked.PROOF: tuple((pattern.pattern, "auth", AuthMethod(value)) for pattern, value in PROOF_WORDS),
}  # fmt: skip


def _said_by_words(asked: Asked, text: str) -> Said:
    found = [(field, value) for pattern, field, value in _WORDS[asked] if re.search(pattern, text, re.IGNORECASE)]
    values = list(dict.fromkeys(found))
    if len(values) != 1:
        raise Unclear(f"what does '{text}' say?" if text else "nothing stands there")
    field, value = values[0]
    return Said(field, value, value.value.replace("-", " ") if value else "the mode of ESP, which is always that of a tunnel")
