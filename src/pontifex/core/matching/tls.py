"""What two ends of a tunnel over TLS must agree on (RFC 8446, RFC 9147)."""

from __future__ import annotations

from collections.abc import Iterable

from pontifex.core.addressing import same_region
from pontifex.core.catalogue import Code
from pontifex.core.kinds import SIDES, DataCipher, Side
from pontifex.core.matching.key import how_keys_differ
from pontifex.core.matching.row import Judgement, Remedy, Verdict
from pontifex.core.matching.tunnel_ends import TunnelEnds, mirrored
from pontifex.core.reasons import auth, child, init, rekey, unknown


def judge_equal(ends: TunnelEnds, field: str, code: Code) -> Judgement:
    """Compare a field that must be the same at both ends."""
    values = {side: getattr(ends.end(side), field) for side in SIDES}
    if None in values.values():
        return Judgement(Verdict.UNKNOWN, unknown.FieldNotKnown(tuple(side for side in SIDES if values[side] is None)))
    texts = [str(getattr(value, "value", value)) for value in values.values()]
    if texts[0] == texts[1]:
        return Judgement(Verdict.AGREED, init.BothHaveValue(texts[0]))
    reason = init.ValuesDiffer(field, texts[0], Side.LEFT, texts[1], Side.RIGHT)
    return Judgement(Verdict.DIFFERS, reason, code, lambda ends: ends.copies(field, field, field))


def settled_cipher(ends: TunnelEnds) -> DataCipher | None:
    """Return the cipher that the waiting end takes: the first of its own that the caller has, too."""
    offered = ends.end(ends.caller).data_ciphers
    return next((cipher for cipher in ends.end(ends.caller.other).data_ciphers if cipher in offered), None)


def judge_cipher(ends: TunnelEnds) -> Judgement:
    """Negotiate the cipher of the data."""
    missing = tuple(side for side in SIDES if not ends.end(side).data_ciphers)
    if missing:
        return Judgement(Verdict.UNKNOWN, unknown.CiphersNotKnown(missing))
    taken = settled_cipher(ends)
    if taken is None:
        return Judgement(
            Verdict.DIFFERS,
            init.NoCipherCommon(),
            Code.TLS_NO_COMMON_CIPHER,
            lambda ends: ends.copies("the data ciphers", "data_ciphers", "data_ciphers"),
        )
    same = ends.left.data_ciphers == ends.right.data_ciphers
    reason = init.CipherTaken(ends.caller.other, taken)
    return Judgement(Verdict.AGREED if same else Verdict.NEGOTIATED, reason, value=taken.value)


def judge_digest(ends: TunnelEnds) -> Judgement:
    """Compare the digest, which matters where the cipher doesn't protect integrity by itself."""
    left, right = ends.left.digest, ends.right.digest
    cipher = settled_cipher(ends)
    if cipher and cipher.combined_mode:
        return Judgement(Verdict.AGREED, init.IntegrityByCipher(cipher))
    if left is None or right is None:
        missing = tuple(side for side in SIDES if ends.end(side).digest is None)
        return Judgement(Verdict.UNKNOWN, unknown.DigestNotKnown(missing))
    if left is right:
        return Judgement(Verdict.AGREED, init.BothHaveValue(left.value))
    return Judgement(
        Verdict.DIFFERS,
        init.DigestsDiffer(left, right),
        Code.TLS_DIGEST_DIFFERS,
        lambda ends: ends.copies("the digest", "digest", "digest"),
    )


def _control_key_copied(ends: TunnelEnds) -> Iterable[Remedy]:
    return ends.copies("the control key", "control_key", "control_key")


def judge_control_key(ends: TunnelEnds) -> Judgement:
    """Compare the extra key of the control channel: both ends have it, or neither."""
    left, right = ends.left.control_key, ends.right.control_key
    if left is None and right is None:
        return Judgement(Verdict.AGREED, auth.NoControlKeys())
    if left is None or right is None:
        alone = auth.ControlKeyAlone(Side.LEFT if left else Side.RIGHT)
        return Judgement(Verdict.DIFFERS, alone, Code.TLS_CONTROL_KEY_ALONE, _control_key_copied)
    if left.fingerprint != right.fingerprint:
        reason = auth.ControlKeysDiffer(how_keys_differ(left, right, Side.LEFT))
        return Judgement(Verdict.DIFFERS, reason, Code.END_KEY_DIFFERS, _control_key_copied)
    return Judgement(Verdict.AGREED, auth.KeysAgreed(left.fingerprint))


def judge_pushed(ends: TunnelEnds) -> Judgement:
    """Compare what the waiting end pushes with the networks that the caller is to reach there."""
    waiting = ends.caller.other
    pushed, wanted = ends.end(waiting).pushed_networks, ends.end(ends.caller).remote_networks
    fields = mirrored(waiting, "pushed_networks", "remote_networks")
    if not pushed:
        return Judgement(Verdict.AGREED, child.NonePushed(waiting))
    if not wanted or same_region(pushed, wanted):
        return Judgement(Verdict.AGREED, child.PushedAgreed(ends.caller))
    reason = child.PushedDiffers(waiting, pushed, wanted)
    return Judgement(Verdict.NARROWED, reason, Code.TLS_PUSHED_DIFFERS, lambda ends: ends.copies("the pushed networks", *fields))


def judge_renegotiation(ends: TunnelEnds) -> Judgement:
    """Say which end renegotiates first; each keeps its own time."""
    times = {side: ends.end(side).renegotiation_s for side in SIDES}
    known = [side for side in SIDES if times[side]]
    if not known:
        return Judgement(Verdict.AGREED, rekey.RenegotiationNotKnown())
    first = min(known, key=lambda side: times[side] or 0)
    return Judgement(Verdict.AGREED, rekey.RenegotiatesFirst(first, times[first] or 0))
