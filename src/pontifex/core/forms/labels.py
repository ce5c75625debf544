"""What the labels of a form ask for, in the words and languages in which forms are written.

The patterns of whole labels are made when the first form is read: making them takes longer than reading many forms.
"""

from __future__ import annotations

import re
from enum import Enum
from functools import cache
from typing import Final


class Asked(Enum):
    """What a line of a form is about, but for algorithms and lifetimes, which the reader of proposals knows."""

    ADDRESS = "address"
    IDENTITY = "identity"
    NETWORKS = "networks"
    VERSION = "version"
    EXCHANGE = "exchange"
    PROOF = "proof"
    SECRET = "secret"  # noqa: S105 -- what a line is about
    DEAD_PEER = "dead-peer"
    KEEPALIVE = "keepalive"
    NAT = "nat"
    MODE = "mode"
    ROLE = "role"
    MTU = "mtu"
    MSS = "mss"
    COMPRESSION = "compression"
    REAUTHENTICATION = "reauthentication"
    MOBILITY = "mobility"
    FRAGMENTATION = "fragmentation"
    MARGIN = "margin"
    REMARK = "remark"


_OF: Final = r"(?:\s*\([^)]*\))?"  # what a label says in brackets
_LABELS: Final = (
    (Asked.SECRET, r"pre-?\s*shared[\s-]*(?:key|secret)|psk|shared\s+secret|pass\s*(?:phrase|word)|secret|kennwort|passwort"
                   r"|(?:gemeinsamer\s+)?schlüssel|mot\s+de\s+passe|clé\s+(?:pré)?partagée|clave(?:\s+precompartida)?|contraseña"),
    (Asked.VERSION, r"ike[\s-]*version|version(?:\s+(?:of\s+)?ike)?|ike\s+protocol|vpn\s+(?:type|protocol)|protocol"),
    (Asked.EXCHANGE, r"(?:phase\s*1\s+|ike\s+)?(?:exchange|negotiation)(?:\s+mode)?|ike\s+mode"),
    (Asked.DEAD_PEER, r"dpd(?:\s+(?:interval|timeout|delay|timer))?|dead[\s-]*peer(?:[\s-]*detection)?(?:\s*\(dpd\))?"
                      r"(?:\s+(?:interval|timeout|delay))?"),
    (Asked.NAT, r"nat(?:[\s-]*t(?:raversal)?)?(?:\s*\(nat-t\))?|nat\s+detection|udp\s+encapsulation"),
    (Asked.KEEPALIVE, r"(?:nat[\s-]*(?:t\s+)?)?keep[\s-]*alives?(?:\s+interval)?"),
    (Asked.MTU, r"(?:tunnel\s+|inner\s+|interface\s+)?mtu"),
    (Asked.MSS, r"(?:tcp[\s-]*)?mss(?:\s+clamp(?:ing)?)?"),
    (Asked.COMPRESSION, r"(?:ip[\s-]*)?comp(?:ression)?|ipcomp|kompression"),
    (Asked.REAUTHENTICATION, r"re[\s-]*authenticat(?:ion|e)|reauth"),
    (Asked.MOBILITY, r"mobike(?:\s+support)?"),
    (Asked.FRAGMENTATION, r"ike(?:v2)?[\s-]*(?:message\s+)?fragmentation"),
    (Asked.MARGIN, r"(?:rekey\s+)?margin(?:\s+time)?"),
    (Asked.ROLE, r"role|initiator|initiation|who\s+(?:calls|initiates)|connection\s+type|(?:tunnel\s+)?initiat(?:ed\s+by|or)"
                 r"|rolle"),
    (Asked.MODE, r"(?:tunnel|vpn|routing)\s+(?:type|mode)|mode|type\s+of\s+(?:tunnel|vpn)|policy\s+or\s+route[\s-]*based"),
    (Asked.IDENTITY, r"(?:ike|phase\s*1|vpn|gateway|peer|local|remote|our|your|my)?[\s-]*(?:ike[\s-]*)?"
                     r"(?:id|identity|identifier|identification)(?:\s+(?:value|payload))?|fqdn|kennung|identifiant|identificador"),
    (Asked.PROOF, r"auth(?:entication)?(?:\s+(?:method|type|mode))?|authentifizierung(?:smethode)?|authentification"
                  r"|méthode\s+d'authentification|(?:método\s+de\s+)?autenticación"),
    (Asked.NETWORKS, r"encryption\s+domains?|(?:(?:protected|private|internal|inside|interesting)\s+)?(?:networks?|subnets?|lans?"
                     r"|hosts?|ip\s+ranges?|prefixes|traffic|addresses)|proxy[\s-]*ids?|traffic\s+selectors?|netze?|netzwerke?"
                     r"|réseaux?|redes?|reti|netwerk(?:en)?"),
    (Asked.ADDRESS, r"(?:vpn\s+|security\s+)?(?:gateway|peer|endpoint|router|firewall|device|public|external|outside|wan"
                    r"|tunnel\s+end(?:point)?)(?:\s+(?:gateway|peer|endpoint|public|external|outside|wan))?"
                    r"(?:\s+(?:ip|ipv4|ipv6|address|ip\s+address|host|fqdn))?"
                    r"|ip(?:\s+address)?|address|gegenstelle|passerelle|adresse(?:\s+ip)?|puerta\s+de\s+enlace|dirección\s+ip"),
    (Asked.REMARK, r"remarks?|comments?|notes?|contact(?:s|\s+\w+)?|e?-?mail|phone|tel(?:ephone|efon)?|company|organi[sz]ation"
                   r"|name"
                   r"|date|ticket|project|owner|department|site|location|country|vendor|model|device\s+model|hostname|bemerkung(?:en)?"
                   r"|ansprechpartner|firma|datum|remarques?|société|observaciones|empresa|fecha|maintenance\s+window"),
)  # fmt: skip
# whose it is, from the writer's view: the writer's own, or that of whoever is written to
_OWN: Final = (
    r"our(?:s|\s+side)?|we|us|local|my|partner(?:'s)?|provider(?:'s)?|supplier(?:'s)?|left|unser(?:e[rsn]?)?|lokale?[rsn]?"
    r"|notre|nos"
)
_FAR: Final = (
    r"your(?:s|\s+side)?|you|remote|peer(?:'s)?|customer(?:'s)?|client(?:'s)?|far|right|ihre?[rsn]?|entfernte?[rsn]?|votre|vos"
)
OWN: Final = re.compile(rf"(?<!\w)(?:{_OWN})(?!\w)", re.IGNORECASE)
FAR: Final = re.compile(rf"(?<!\w)(?:{_FAR})(?!\w)", re.IGNORECASE)
_SIDES: Final = rf"(?:(?:{_OWN}|{_FAR})(?: (?:side|end|site)(?:'s)?)?[ -]{{1,3}})?"
_OF_A_SIDE: Final = rf"(?: (?:of|at|on) (?:the )?(?:{_OWN}|{_FAR})(?: side)?)?"
ALONE: Final = tuple(  # what says something by itself, without a label
    (asked, re.compile(pattern, re.IGNORECASE))
    for asked, pattern in (
        (Asked.EXCHANGE, r"(?:main|aggressive)[ -]mode"),
        (Asked.VERSION, r"ike ?v[12]"),
        (Asked.MODE, r"(?:policy|route|routing)[ -]based(?: vpn| tunnel)?"),
        (Asked.REMARK, r"(?:(?:site[ -]to[ -]site )?(?:ipsec )?vpn|general|networks?|parameters?|contacts?)"
                       r"(?: (?:form|questionnaire|request|parameters?|settings?|data sheet|information))?"
                       r"(?:[ :–-]{1,4}[^\d:]{0,60})?"),
    )
)  # fmt: skip
SEPARATELY: Final = re.compile(
    r"(?:will\s+be\s+|to\s+be\s+)?(?:sent|exchanged|given|agreed|told|shared|provided|by|via|over|per|tbd|t\.b\.d|separate|separately|later|see"
    r"|telefonisch|getrennt|par|por|\*+|\.\.\.|…|-|—|n/a|yes|none)\b.*|[*.…-]*",
    re.IGNORECASE,
)
PROOF_WORDS: Final = (
    (re.compile(r"pre-?\s*shared|psk|shared\s+(?:key|secret)|schlüssel|partagée|precompartida", re.IGNORECASE), "pre-shared-key"),
    (re.compile(r"cert|rsa|ecdsa|x\.?509|pki|zertifikat", re.IGNORECASE), "certificate"),
    (re.compile(r"\beap\b", re.IGNORECASE), "eap"),
)
YES: Final = re.compile(
    r"(?:yes|on|enabled?|true|active|ja|aktiv|oui|activé|sí|si|required|forced?|always|auto(?:matic)?)\b.*", re.IGNORECASE
)
NO: Final = re.compile(r"(?:no|off|disabled?|false|none|nein|inaktiv|non|désactivé|not\s+\w+)\b.*", re.IGNORECASE)


@cache
def labels() -> tuple[tuple[Asked, re.Pattern[str]], ...]:
    """Return what each label asks for, to be held against a whole label."""
    return tuple((asked, re.compile(_whole(pattern), re.IGNORECASE)) for asked, pattern in _LABELS)


@cache
def labels_at_start() -> tuple[tuple[Asked, re.Pattern[str]], ...]:
    """Return what each label asks for, to be held against a line that begins with it."""
    return tuple((asked, re.compile(rf"{_whole(pattern)}(?=\s)", re.IGNORECASE)) for asked, pattern in _LABELS)


def _whole(pattern: str) -> str:
    return rf"(?:the )?{_SIDES}(?:{pattern}){_OF}{_OF_A_SIDE}"
