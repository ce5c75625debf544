"""Rehearsals: handshakes and ESP beside the bare cryptography that they need, an idle hour, and a thousand tunnels."""

from __future__ import annotations

import hmac
import os
import statistics
import time
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from datetime import date
from functools import partial

from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.hazmat.primitives.ciphers.aead import AESGCM

from pontifex.collector import collect_seldom
from pontifex.core.entropy import SeededEntropy
from pontifex.core.esp import InboundSa, OutboundSa
from pontifex.core.ike.suite.chosen import suite_of
from pontifex.core.ipsec import Transform, TransformType
from pontifex.core.kinds import SIDES
from pontifex.core.model import Design
from pontifex.core.rehearsal import RehearsalConditions, rehearse
from pontifex.core.rehearsal.own_end import own_ends
from pontifex.core.rehearsal.world import World
from tests.bench.figures import median_s, row
from tests.support.designs import TODAY
from tests.support.two_ends import TwoEnds, proposal
from tests.truth.ends import AGREED, PairData, design_of

_GROUP_20 = proposal(("ENCR", 20, 256), ("PRF", 5, None), ("KE", 20, None))
_FAST: dict[str, tuple[tuple[tuple[str, int, int | None], ...], ...]] = {
    "ike": ((("ENCR", 20, 256), ("PRF", 5, None), ("KE", 31, None)),),
    "child": ((("ENCR", 20, 256), ("KE", 31, None), ("ESN", 0, None)),),
}


def _handshake() -> None:
    ends = TwoEnds.of({"ike_proposals": (_GROUP_20,)}, {"ike_proposals": (_GROUP_20,)})
    ends.dial()
    ends.run(1)
    assert ends.children()[0]


_HASHES = 32  # of SKEYSEED, SK_*, AUTH and KEYMAT, at both ends


def _bare_handshake() -> None:
    """Two key pairs of group 20, the secret at both ends, and the hashes and sealed messages that a handshake has."""
    for _ in range(_HASHES):
        hmac.digest(bytes(32), bytes(300), "sha256")
    for _ in range(2):
        machine = AESGCM(bytes(32))
        machine.decrypt(bytes(12), machine.encrypt(bytes(12), bytes(200), bytes(32)), bytes(32))
    curve = ec.SECP384R1()
    pairs = [ec.derive_private_key(int.from_bytes(os.urandom(47)) + 1, curve) for _ in range(2)]
    for key, other in (pairs, pairs[::-1]):
        numbers = other.public_key().public_numbers()
        key.exchange(ec.ECDH(), ec.EllipticCurvePublicNumbers(numbers.x, numbers.y, curve).public_key())


def _esp_ratio() -> tuple[float, float]:
    """Return the seconds for a packet protected and opened, and for the bare cipher calls."""
    suite = suite_of((Transform(type=TransformType.ENCR, id=20, key_length=256), Transform(type=TransformType.ESN, id=0)))
    assert suite
    keys = SeededEntropy(b"bench")(suite.cipher.key_octets), b""
    out, into = OutboundSa(b"\1\2\3\4", suite, *keys), InboundSa(b"\1\2\3\4", suite, *keys)
    inner, machine = bytes(1400), AESGCM(keys[0][:32])

    def ours() -> None:
        for _ in range(500):
            into.open(out.protect(inner, 4, bytes))

    def bare() -> None:
        for _ in range(500):
            machine.decrypt(bytes(12), machine.encrypt(bytes(12), inner, bytes(8)), bytes(8))

    return median_s(ours, 9) / 500, median_s(bare, 9) / 500


def _design(**right: str) -> Design:
    return design_of(PairData(replace(AGREED.left, **_FAST), replace(AGREED.right, **_FAST, **right)))  # type: ignore[arg-type]


def _through_rekey(seeds: range) -> int:
    """Dial so many tunnels and let time pass until the first rekey of each; return how many were rekeyed at both ends."""
    design = _design()
    rekeyed = 0
    for seed in seeds:
        tunnel = design.tunnels[0]
        octets = str(seed).encode()
        uplinks = {side: uplink for side in SIDES if (uplink := design.uplink_of(tunnel.end(side)))}
        world = World(own_ends(design, tunnel, partial(_day, TODAY), octets), uplinks, octets)
        for side in SIDES:
            world.start(side)
        world.run_until(3600)
        rekeyed += all(gateway.counters.child_rekeys for gateway in world.gateways.values())
    return rekeyed


def _day(today: date, now: float) -> date:
    return today


def _idle_hour_ms() -> float:
    """Return what an hour of a tunnel costs that nobody uses, but for the checks of both ends."""
    ends = TwoEnds.of({"dead_peer_s": 30.0}, {"dead_peer_s": 30.0})
    ends.dial()
    ends.run(10)
    started = time.perf_counter()
    ends.run(3610)
    return (time.perf_counter() - started) * 1000


def rehearsals() -> list[bool]:
    """Measure what rehearsals cost."""
    collect_seldom()  # as the product's own processes do
    _handshake()
    ours, bare = median_s(_handshake, 41), median_s(_bare_handshake, 41)
    esp, cipher = _esp_ratio()
    design = _design(role="wait")
    tunnel = design.tunnels[0]
    dialled = median_s(lambda: rehearse(design, tunnel, TODAY, RehearsalConditions(until_s=0.0)), 41)
    hour = statistics.median(_idle_hour_ms() for _ in range(5))
    started = time.perf_counter()
    with ProcessPoolExecutor(os.cpu_count()) as pool:
        rekeyed = sum(pool.map(_through_rekey, [range(at, at + 50) for at in range(0, 1000, 50)]))
    many = time.perf_counter() - started
    assert rekeyed == 1000
    return [
        row("a handshake of group 20 beside its bare cryptography", f"{ours / bare:.2f} times", "<= 2", ours <= 2 * bare),
        row("rehearsals of group 31 a second and core: dial, ping", f"{1 / dialled:.0f}", ">= 300", dialled <= 1 / 300),
        row("ESP beside the bare cipher calls", f"{esp / cipher:.2f} times", "<= 3", esp <= 3 * cipher),
        row("an hour of one idle tunnel", f"{hour:.0f} ms", "<= 50 ms", hour <= 50),
        row("1,000 tunnels through their first rekey", f"{many:.0f} s", "<= 60 s", many <= 60),
    ]
