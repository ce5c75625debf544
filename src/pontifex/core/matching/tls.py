"""What two ends of a tunnel over TLS must agree on (RFC 8446, RFC 9147)."""

from __future__ import annotations

from pontifex.core.addressing import same_region
from pontifex.core.catalogue import Code
from pontifex.core.ipsec.preshared_key import key_difference
from pontifex.core.kinds import SIDES, DataCipher, Side
from pontifex.core.matching.networks import listed
from pontifex.core.matching.row import Judgement, Verdict
from pontifex.core.matching.tunnel_ends import TunnelEnds, mirrored


def judge_equal(pair: TunnelEnds, field: str, code: Code) -> Judgement:
    """Compare a field that must be the same at both ends."""
    values = {side: getattr(pair.end(side), field) for side in SIDES}
    if None in values.values():
        missing = [pair.names[side] for side in SIDES if values[side] is None]
        return Judgement(Verdict.UNKNOWN, f"not known yet at {' and '.join(missing)}")
    texts = [str(getattr(value, "value", value)) for value in values.values()]
    if texts[0] == texts[1]:
        return Judgement(Verdict.AGREED, f"both have {texts[0]}")
    reason = f"{field} {texts[0]} at {pair.names[Side.LEFT]}, {texts[1]} at {pair.names[Side.RIGHT]}"
    remedies = pair.copies(field, field, field)
    return Judgement(Verdict.DIFFERS, reason, code=code, remedies=remedies)


def settled_cipher(pair: TunnelEnds) -> DataCipher | None:
    """Return the cipher that the waiting end takes: the first of its own that the caller has, too."""
    offered = pair.end(pair.caller).data_ciphers
    return next((cipher for cipher in pair.end(pair.caller.other).data_ciphers if cipher in offered), None)


def judge_cipher(pair: TunnelEnds) -> Judgement:
    """Negotiate the cipher of the data."""
    fields = ("data_ciphers", "data_ciphers")
    missing = [pair.names[side] for side in SIDES if not pair.end(side).data_ciphers]
    if missing:
        return Judgement(Verdict.UNKNOWN, f"the ciphers of {' and '.join(missing)} are not known yet")
    taken = settled_cipher(pair)
    if taken is None:
        return Judgement(
            Verdict.DIFFERS, "no cipher is common to both", Code.TLS_NO_COMMON_CIPHER, pair.copies("the data ciphers", *fields)
        )
    same = pair.tunnel.left.data_ciphers == pair.tunnel.right.data_ciphers
    return Judgement(
        Verdict.AGREED if same else Verdict.NEGOTIATED, f"{pair.names[pair.caller.other]} takes {taken.value}", value=taken.value
    )


def judge_digest(pair: TunnelEnds) -> Judgement:
    """Compare the digest, which matters where the cipher doesn't protect integrity by itself."""
    left, right = pair.tunnel.left.digest, pair.tunnel.right.digest
    fields = ("digest", "digest")
    cipher = settled_cipher(pair)
    if cipher and cipher.combined_mode:
        return Judgement(Verdict.AGREED, f"{cipher.value} protects integrity by itself")
    if left is None or right is None:
        missing = [pair.names[side] for side in SIDES if pair.end(side).digest is None]
        return Judgement(Verdict.UNKNOWN, f"the digest of {' and '.join(missing)} is not known yet")
    if left is right:
        return Judgement(Verdict.AGREED, f"both have {left.value}")
    return Judgement(
        Verdict.DIFFERS, f"{left.value} and {right.value}", Code.TLS_DIGEST_DIFFERS, pair.copies("the digest", *fields)
    )


def judge_control_key(pair: TunnelEnds) -> Judgement:
    """Compare the extra key of the control channel: both ends have it, or neither."""
    left, right = pair.tunnel.left.control_key, pair.tunnel.right.control_key
    fields = ("control_key", "control_key")
    if left is None and right is None:
        return Judgement(Verdict.AGREED, "neither end has one")
    if left is None or right is None:
        has = pair.names[Side.LEFT if left else Side.RIGHT]
        reason = f"only {has} has a control key, so it drops every message of the other end in silence"
        return Judgement(Verdict.DIFFERS, reason, Code.TLS_CONTROL_KEY_ALONE, pair.copies("the control key", *fields))
    clause = key_difference(left, right, pair.names[Side.LEFT], pair.names[Side.RIGHT])
    if clause:
        reason = clause.replace("the keys", "the control keys", 1)
        return Judgement(Verdict.DIFFERS, reason, Code.END_KEY_DIFFERS, pair.copies("the control key", *fields))
    return Judgement(Verdict.AGREED, f"both have the key {left.fingerprint}")


def judge_pushed(pair: TunnelEnds) -> Judgement:
    """Compare what the waiting end pushes with the networks that the caller is to reach there."""
    waiting = pair.caller.other
    pushed, wanted = pair.end(waiting).pushed_networks, pair.end(pair.caller).remote_networks
    fields = mirrored(waiting, "pushed_networks", "remote_networks")
    name, far = pair.names[waiting], pair.names[pair.caller]
    if not pushed:
        return Judgement(Verdict.AGREED, f"{name} pushes none; {far} goes by its own list")
    if not wanted or same_region(pushed, wanted):
        return Judgement(Verdict.AGREED, f"{far} is told what it is to reach")
    reason = f"{name} pushes {listed(pushed)}, {far} is to reach {listed(wanted)}"
    return Judgement(Verdict.NARROWED, reason, Code.TLS_PUSHED_DIFFERS, pair.copies("the pushed networks", *fields))


def judge_renegotiation(pair: TunnelEnds) -> Judgement:
    """Say which end renegotiates first; each keeps its own time."""
    times = {side: pair.end(side).renegotiation_s for side in SIDES}
    known = [side for side in SIDES if times[side]]
    if not known:
        reason = "not known; each end keeps its own time, which stops nothing"
    else:
        first = min(known, key=lambda side: times[side] or 0)
        reason = f"each end keeps its own; {pair.names[first]} renegotiates first, after {times[first]} s"
    return Judgement(Verdict.AGREED, reason)
