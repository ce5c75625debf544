"""Random pairs of ends, drawn near to agreeing, of which the caller proves itself by EAP and the other one by a certificate."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from random import Random
from typing import Any, Final

from cryptography import x509

from pontifex.core.kinds import TunnelEnd
from pontifex.core.model import Design
from tests.support.certificates import ISSUING, KEYS, OTHER_ROOT, ROOT, issue
from tests.truth.ends import AGREED, design_of
from tests.truth.tls_ends import account, pem

_NAMES: Final = {"left": "left.skerry.example", "right": "right.skerry.example"}


def _own(side: str, **more: Any) -> Any:
    return issue(side, "Skerry Issuing", KEYS["gate"], KEYS["issuing"], names=[x509.DNSName(_NAMES[side])], **more)


_SHOWN: Final = {
    side: (
        pem(_own(side), ISSUING),
        pem(_own(side, days=-1), ISSUING),
        pem(_own(side, start=10), ISSUING),
        pem(_own("right" if side == "left" else "left"), ISSUING),
        pem(_own(side)),
        pem(issue("foreign", "Tarn Root", KEYS["gate"], KEYS["other"], names=[x509.DNSName(_NAMES[side])])),
    )
    for side in _NAMES
}
_METHODS: Final = ("MD5-Challenge", "EAP-MSCHAP-V2", "EAP-TLS")

_Draw = Callable[[Random], dict[str, Any]]
_LEFT: Final[tuple[_Draw, ...]] = (  # what the caller may have otherwise
    lambda random: {"account": account(random)},
    lambda random: {"eap_method": random.choice([*_METHODS, "EAP-TTLS"])},
    lambda random: {"certificates": random.choice(_SHOWN["left"])},
    lambda random: {"trust_anchors": pem(random.choice([ROOT, OTHER_ROOT, ISSUING]))},
    lambda random: {"local_auth": random.choice(["pre-shared-key", "certificate"])},
    lambda random: {"remote_auth": random.choice(["pre-shared-key", "eap"])},
    lambda _: {"reauthenticate": True},
    lambda _: {"calls_again": False},
    lambda random: {"mobike": True, "fragmentation": random.random() < 0.5},
)
_RIGHT: Final[tuple[_Draw, ...]] = (  # and the one that is called
    lambda random: {"accepted_account": _made(random)},
    lambda random: {"accepted_account": _made(random) | {"enabled": False}},
    lambda random: {"accepted_account": _made(random) | {"kind": "person"}},
    lambda random: {"eap_method": random.choice(_METHODS)},
    lambda random: {"certificates": random.choice(_SHOWN["right"])},
    lambda random: {"trust_anchors": pem(random.choice([ROOT, OTHER_ROOT, ISSUING]))},
    lambda random: {"local_auth": random.choice(["pre-shared-key", "eap"])},
    lambda random: {"remote_auth": random.choice(["pre-shared-key", "certificate"])},
    lambda random: {"role": random.choice(["call", "on-traffic"])},
    lambda _: {"remote_identity": {"type": "fqdn", "value": "elsewhere.skerry.example"}},
    lambda _: {"remote_identity": {"type": "any", "value": ""}},
    lambda _: {"initial_contact": "keeps", "mobike": True},
)


def _made(random: Random) -> dict[str, Any]:
    return account(random) | {"kind": "tunnel", "enabled": True}


def draw_design(random: Random) -> Design:
    """Draw a design with one tunnel whose caller proves itself by EAP."""
    design = design_of(replace(AGREED, right=replace(AGREED.right, role="wait")))
    method = random.choice(_METHODS)
    same = account(random)
    ends: dict[str, dict[str, Any]] = {
        "left": {"local_auth": "eap", "remote_auth": "certificate", "account": same},
        "right": {
            "local_auth": "certificate",
            "remote_auth": "eap",
            "accepted_account": same | {"kind": "tunnel", "enabled": True},
        },
    }
    for side, end in ends.items():
        end |= {"eap_method": method, "certificates": _SHOWN[side][0], "trust_anchors": pem(ROOT)}
    for draw in random.sample(_LEFT, random.choice([0, 0, 1, 1, 2])):
        ends["left"].update(draw(random))
    for draw in random.sample(_RIGHT, random.choice([0, 0, 1, 1, 2])):
        ends["right"].update(draw(random))
    tunnel = design.tunnels[0]
    before = {"left": tunnel.left, "right": tunnel.right}
    left, right = (TunnelEnd.model_validate({**before[side].model_dump(mode="json"), **ends[side]}) for side in before)
    return design.changed(tunnels=(tunnel.changed(left=left, right=right),))
