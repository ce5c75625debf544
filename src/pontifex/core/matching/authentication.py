"""Auth, second part: how each end proves itself, and what the other expects of it (RFC 7296 sections 2.15 and 2.16)."""

from __future__ import annotations

from pontifex.core.catalogue import Code
from pontifex.core.kinds import SIDES, AccountKind, AuthMethod, Side
from pontifex.core.matching.key import how_keys_differ
from pontifex.core.matching.row import Judgement, Remedy, Verdict
from pontifex.core.matching.tunnel_ends import TunnelEnds, mirrored
from pontifex.core.reasons import auth, unknown


def uses(ends: TunnelEnds, method: AuthMethod) -> bool:
    """Whether either end proves itself, or is expected to, by a method."""
    return any(method in (ends.end(side).local_auth, ends.end(side).remote_auth) for side in SIDES)


def judge_method(ends: TunnelEnds, side: Side) -> Judgement:
    """Compare how an end proves itself with the proof that the other expects; the two directions may differ."""
    given, expected = ends.end(side).local_auth, ends.end(side.other).remote_auth
    fields = mirrored(side, "local_auth", "remote_auth")
    if given is None:
        return Judgement(Verdict.UNKNOWN, unknown.ProofNotKnown(side))
    if expected is None:
        return Judgement(Verdict.UNKNOWN, unknown.ExpectedProofNotKnown(side.other))
    if given is not expected:
        reason = auth.ProofsDiffer(side, auth.ProofNamed.of(given), auth.ProofNamed.of(expected))
        return Judgement(
            Verdict.DIFFERS,
            reason,
            Code.AUTH_METHOD_DIFFERS,
            lambda ends: ends.copies(f"how {ends.names[side]} proves itself", *fields),
        )
    if given is AuthMethod.EAP:
        fault = _eap_fault(ends, side)
        if fault:
            return Judgement(
                Verdict.DIFFERS,
                fault,
                Code.AUTH_EAP_MISPLACED,
                lambda ends: (_by_certificate(ends, prover) for prover in (side.other, side)),
            )
    return Judgement(Verdict.AGREED, auth.ProofAgreed(auth.ProofNamed.of(given)))


def _by_certificate(ends: TunnelEnds, side: Side) -> Remedy:
    """Let an end prove itself by a certificate, and the other expect it."""
    own = ends.end(side).changed(local_auth=AuthMethod.CERTIFICATE)
    far = ends.end(side.other).changed(remote_auth=AuthMethod.CERTIFICATE)
    return ends.set_facing(f"Let {ends.names[side]} prove itself by a certificate", side, own, far)


def _eap_fault(ends: TunnelEnds, side: Side) -> auth.OnlyCallersUseEap | auth.EapNeedsCertificate | None:
    """Return why EAP can't work from this side; None when it can."""
    if ends.end(side).role and not ends.calls(side):
        return auth.OnlyCallersUseEap(side)
    method, answer = ends.end(side).eap_method, ends.end(side.other).local_auth
    if answer in (None, AuthMethod.CERTIFICATE) or (method and method.is_mutual and answer is AuthMethod.EAP):
        return None
    return auth.EapNeedsCertificate(side)


def eap_by_certificate(ends: TunnelEnds) -> bool:
    """Whether both ends mean a method of EAP in which the caller shows a certificate, and needs no account."""
    left, right = ends.left.eap_method, ends.right.eap_method
    return left is right and left is not None and left.is_by_certificate


def judge_eap_method(ends: TunnelEnds) -> Judgement:
    """Compare the methods inside EAP."""
    left, right = ends.left.eap_method, ends.right.eap_method
    if left is None or right is None:
        missing = tuple(side for side in SIDES if ends.end(side).eap_method is None)
        return Judgement(Verdict.UNKNOWN, unknown.EapMethodNotKnown(missing))
    if left is right:
        return Judgement(Verdict.AGREED, auth.EapMethodAgreed(left))
    reason = auth.EapMethodsDiffer(left, right)
    return Judgement(
        Verdict.DIFFERS,
        reason,
        Code.AUTH_EAP_METHOD_DIFFERS,
        lambda ends: ends.copies("the EAP method", "eap_method", "eap_method"),
    )


def account_holder(ends: TunnelEnds) -> Side:
    """Return the side that logs in with an account: the caller, or the one that proves itself by EAP."""
    caller = ends.caller
    if ends.end(caller).local_auth is not AuthMethod.EAP and ends.end(caller.other).local_auth is AuthMethod.EAP:
        return caller.other
    return caller


def judge_account(ends: TunnelEnds) -> Judgement:
    """Compare the account that the caller uses with the one that was made for it at the other end."""
    caller = account_holder(ends)
    used, made = ends.end(caller).account, ends.end(caller.other).accepted_account
    if used is None and made is None and ends.technology and ends.technology.traits.logs_in:
        return Judgement(Verdict.AGREED, auth.NoAccounts())
    if used is None or made is None:
        return Judgement(Verdict.UNKNOWN, unknown.AccountNotKnown(caller if used is None else caller.other))

    def changed(ends: TunnelEnds, title: str, **account: object) -> Remedy:
        return ends.set_field(caller.other, title, accepted_account=made.with_valid(account))

    if used.name != made.name:
        return Judgement(
            Verdict.DIFFERS,
            auth.AccountNamesDiffer(caller, used.name, made.name),
            Code.ACCOUNT_NAME_DIFFERS,
            lambda ends: (
                ends.set_field(caller, f"Let {ends.names[caller]} use {made.name}", account=used.changed(name=made.name)),
                changed(ends, f"Name it {used.name}", name=used.name),
            ),
        )
    if not made.enabled:
        return Judgement(
            Verdict.DIFFERS,
            auth.AccountDisabled(made.name, caller.other),
            Code.ACCOUNT_DISABLED,
            lambda ends: [changed(ends, "Enable it", enabled=True)],
        )
    if made.kind is not AccountKind.TUNNEL:
        wrong = auth.AccountOfWrongKind(made.name, caller.other, auth.AccountUse.of(made.kind))
        return Judgement(
            Verdict.DIFFERS,
            wrong,
            Code.ACCOUNT_WRONG_KIND,
            lambda ends: [changed(ends, "Make it one for tunnels", kind=AccountKind.TUNNEL)],
        )
    if used.secret is None or made.secret is None:
        return Judgement(Verdict.UNKNOWN, unknown.AccountSecretNotKnown(caller if used.secret is None else caller.other))
    if used.secret.fingerprint != made.secret.fingerprint:
        differ = auth.SecretsDiffer(made.name, how_keys_differ(used.secret, made.secret, caller))
        return Judgement(
            Verdict.DIFFERS,
            differ,
            Code.ACCOUNT_SECRET_DIFFERS,
            lambda ends: [changed(ends, f"Give {ends.names[caller.other]} {ends.names[caller]}'s secret", secret=used.secret)],
        )
    return Judgement(Verdict.AGREED, auth.AccountAgreed(made.name))
