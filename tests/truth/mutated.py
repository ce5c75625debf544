"""Messages of IKEv2 that are changed at random, before and behind the seal: what a machine makes of them."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from random import Random
from typing import Any, Final

from pontifex.core.addressing import Address, parse_address, parse_prefix
from pontifex.core.entropy import SeededEntropy
from pontifex.core.ike.effects import Effect, Logged, Send
from pontifex.core.ike.endpoint import Endpoint
from pontifex.core.ike.message import HEADER_OCTETS
from pontifex.core.ike.payloads import Notify
from pontifex.core.ike.protection import directions
from pontifex.core.ike.settings import HandedOut, Proof
from pontifex.core.kinds import AuthMethod, EapMethod, Identity, IdentityType
from pontifex.core.login import Login
from tests.support.certificates import GATE, ISSUING, KEYS, ROOT
from tests.support.two_ends import LEFT, RIGHT, TwoEnds, settings

_BY_SEED = 100  # changed messages of one seed
_ASKING = 0.3  # how many callers ask for an address


def _proofs() -> tuple[tuple[dict[str, Any], dict[str, Any]], ...]:
    """How the ends prove themselves: by a key, or the caller by EAP."""
    by_name = Identity(type=IdentityType.FQDN, value="ostvik.skerry.example")
    signs = Proof(key=KEYS["gate"], certificates=(GATE, ISSUING))
    login = Login("branch", b"one secret")
    found: list[tuple[dict[str, Any], dict[str, Any]]] = [({}, {})]
    for method in (EapMethod.MD5_CHALLENGE, EapMethod.MSCHAP_V2, EapMethod.TLS):
        shared = {"eap_method": method, "proof": signs, "trust_anchors": (ROOT,)}
        found.append(
            (
                {
                    "method": AuthMethod.EAP, "expected_method": AuthMethod.CERTIFICATE, "account": login, **shared,
                    "identity": by_name, "expected": by_name,
                },
                {
                    "method": AuthMethod.CERTIFICATE, "expected_method": AuthMethod.EAP, "accepted": login, **shared,
                    "identity": by_name, "expected": by_name,
                },
            )
        )  # fmt: skip
    return tuple(found)


_GIVEN: Final = HandedOut(
    parse_prefix("10.64.0.0/22"), resolvers=(Address(*parse_address("10.65.0.53")),), domains=("skerry.example",)
)


def _standing(random: Random) -> TwoEnds:
    left, right = random.choice(_proofs())
    if random.random() < _ASKING:
        left, right = left | {"asks_address": True}, right | {"hands_out": _GIVEN}
    ends = TwoEnds.of(left, right)
    ends.dial()
    ends.run(random.choice([0.09, 0.13, 0.17, 5]))  # in the midst of IKE_AUTH, or when all stands
    return ends


def _changed(octets: bytes, random: Random) -> bytes:
    """Change, cut or lengthen octets; mostly with a length that fits again, so that it isn't all that is looked at."""
    made = bytearray(octets)
    for _ in range(random.choice([1, 1, 2, 4, 8])):
        at = random.randrange(len(made))
        made[at] = random.choice([0, 255, made[at] ^ 1 << random.randrange(8), random.randrange(256)])
    if random.random() < 0.2:
        made = made[: random.randrange(1, len(made) + 1)] + bytes(random.randrange(12))
    if len(made) >= HEADER_OCTETS and random.random() < 0.7:
        made[24:28] = len(made).to_bytes(4)
    return bytes(made)


def _resealed(ends: TwoEnds, random: Random) -> bytes:
    """Return a message that is changed inside its seal: what only the other end itself could send."""
    sent = random.choice([send for side, send in ends.sent if side == "left" and send.message.header.exchange != 34])
    sa = ends.left.sas[0]
    assert sa.suite and sa.keys  # noqa: PT018 -- it stands
    plain = directions(sa.suite, sa.keys)[0].opened(sent.octets, 0)
    header = sa.header(random.choice([35, 36, 37, 43, 44]), False, ends.right.sas[0].expected_id)  # type: ignore[arg-type]
    assert sa.sending
    first = random.choice([33, 35, 39, 41, 42, 44, 48, sent.message.payloads[0].type])
    return sa.sending.sealed(header, 46, first, b"", _changed(plain, random), ends.left._machine.entropy)


def _outcome(effects: list[Effect]) -> str:
    answers = [effect for effect in effects if isinstance(effect, Send)]
    if not answers:
        return "dropped, with a line in the log" if any(isinstance(effect, Logged) for effect in effects) else "dropped"
    error = next((payload for payload in answers[0].message.payloads if isinstance(payload, Notify) and payload.is_error), None)
    return error.name if error else "answered"


def judge(seeds: Iterable[int]) -> tuple[Counter[str], list[str]]:
    """Return what came of the messages of some seeds; any error of ours is a difference."""
    counts: Counter[str] = Counter()
    wrong: list[str] = []
    for seed in seeds:
        random = Random(seed)
        ends, fresh = _standing(random), Endpoint(settings("right"), SeededEntropy(b"fresh"))
        kept = [sent.octets for _, sent in ends.sent]
        for _ in range(_BY_SEED):
            resealed = random.random() < 0.5 and bool(ends.left.sas) and bool(ends.right.sas)
            octets = _resealed(ends, random) if resealed else _changed(random.choice(kept), random)
            target = ends.right if resealed else random.choice([ends.left, ends.right, fresh])
            source, destination = (RIGHT, LEFT) if target is ends.left else (LEFT, RIGHT)
            try:
                counts[_outcome(target.receive(6.0, octets, source, destination))] += 1
            except Exception as error:
                counts["differ"] += 1
                wrong.append(f"seed {seed}: {type(error).__name__}: {error}: {octets.hex()}")
    return counts, wrong
