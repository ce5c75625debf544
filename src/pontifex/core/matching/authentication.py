"""Auth, second part: how each end proves itself, and what the other expects of it (RFC 7296 sections 2.15 and 2.16)."""

from __future__ import annotations

from pontifex.core.catalogue import Code
from pontifex.core.ipsec.preshared_key import key_difference
from pontifex.core.kinds import SIDES, AccountKind, AuthMethod, Side
from pontifex.core.matching.row import Judgement, Remedy, Verdict
from pontifex.core.matching.tunnel_ends import TunnelEnds, mirrored


def uses(pair: TunnelEnds, method: AuthMethod) -> bool:
    """Whether either end proves itself, or is expected to, by a method."""
    return any(method in (pair.end(side).local_auth, pair.end(side).remote_auth) for side in SIDES)


def judge_method(pair: TunnelEnds, side: Side) -> Judgement:
    """Compare how an end proves itself with the proof that the other expects; the two directions may differ."""
    given, expected = pair.end(side).local_auth, pair.end(side.other).remote_auth
    fields = mirrored(side, "local_auth", "remote_auth")
    name, far = pair.names[side], pair.names[side.other]
    if given is None or expected is None:
        who = f"how {name} proves itself" if given is None else f"what proof {far} expects"
        return Judgement(Verdict.UNKNOWN, f"{who} is not known yet")
    if given is not expected:
        reason = f"{name} gives {_proof(given)}, {far} expects {_proof(expected)}"
        return Judgement(Verdict.DIFFERS, reason, Code.AUTH_METHOD_DIFFERS, pair.copies(f"how {name} proves itself", *fields))
    if given is AuthMethod.EAP:
        fault = _eap_fault(pair, side)
        if fault:
            remedies = tuple(_by_certificate(pair, one) for one in (side.other, side))
            return Judgement(Verdict.DIFFERS, fault, Code.AUTH_EAP_MISPLACED, remedies)
    return Judgement(Verdict.AGREED, f"{_proof(given)} is given and expected")


def _proof(method: AuthMethod) -> str:
    return method.label if method is AuthMethod.EAP else f"a {method.label}"


def _by_certificate(pair: TunnelEnds, side: Side) -> Remedy:
    """Let an end prove itself by a certificate, and the other expect it."""
    own = pair.end(side).changed(local_auth=AuthMethod.CERTIFICATE)
    far = pair.end(side.other).changed(remote_auth=AuthMethod.CERTIFICATE)
    return pair.set_facing(f"Let {pair.names[side]} prove itself by a certificate", side, own, far)


def _eap_fault(pair: TunnelEnds, side: Side) -> str:
    """Say why EAP can't work from this side; empty when it can."""
    name, far = pair.names[side], pair.names[side.other]
    if pair.end(side).role and not pair.calls(side):
        return f"only an end that calls can use EAP, and {name} doesn't"
    method, answer = pair.end(side).eap_method, pair.end(side.other).local_auth
    if answer in (None, AuthMethod.CERTIFICATE) or (method and method.is_mutual and answer is AuthMethod.EAP):
        return ""
    return f"with EAP at {name}, {far} must prove itself by a certificate"


def judge_eap_method(pair: TunnelEnds) -> Judgement:
    """Compare the methods inside EAP."""
    left, right = pair.tunnel.left.eap_method, pair.tunnel.right.eap_method
    fields = ("eap_method", "eap_method")
    if left is None or right is None:
        missing = [pair.names[side] for side in SIDES if pair.end(side).eap_method is None]
        return Judgement(Verdict.UNKNOWN, f"the EAP method of {' and '.join(missing)} is not known yet")
    if left is right:
        return Judgement(Verdict.AGREED, f"both have {left.value}")
    return Judgement(
        Verdict.DIFFERS, f"{left.value} and {right.value}", Code.AUTH_EAP_METHOD_DIFFERS, pair.copies("the EAP method", *fields)
    )


def account_holder(pair: TunnelEnds) -> Side:
    """Return the side that logs in with an account: the caller, or the one that proves itself by EAP."""
    caller = pair.caller
    if pair.end(caller).local_auth is not AuthMethod.EAP and pair.end(caller.other).local_auth is AuthMethod.EAP:
        return caller.other
    return caller


def judge_account(pair: TunnelEnds) -> Judgement:
    """Compare the account that the caller uses with the one that was made for it at the other end."""
    caller = account_holder(pair)
    name, far = pair.names[caller], pair.names[caller.other]
    used, made = pair.end(caller).account, pair.end(caller.other).accepted_account
    if used is None and made is None and pair.technology and pair.technology.traits.logs_in:
        return Judgement(Verdict.AGREED, "neither end has one; the certificates alone prove both")
    if used is None or made is None:
        return Judgement(Verdict.UNKNOWN, f"the account at {name if used is None else far} is not known yet")

    def changed(title: str, **account: object) -> tuple[Remedy, ...]:
        return (pair.set_field(caller.other, title, accepted_account=made.with_valid(account)),)

    if used.name != made.name:
        remedy = pair.set_field(caller, f"Let {name} use {made.name}", account=used.changed(name=made.name))
        reason = f"{name} uses the account '{used.name}', {far} has made '{made.name}'"
        return Judgement(
            Verdict.DIFFERS, reason, Code.ACCOUNT_NAME_DIFFERS, (remedy, *changed(f"Name it {used.name}", name=used.name))
        )
    if not made.enabled:
        return Judgement(
            Verdict.DIFFERS,
            f"the account '{made.name}' is disabled at {far}",
            Code.ACCOUNT_DISABLED,
            changed("Enable it", enabled=True),
        )
    if made.kind is not AccountKind.TUNNEL:
        reason = f"the account '{made.name}' at {far} is for {_KINDS[made.kind]}, not for a gateway that calls"
        return Judgement(
            Verdict.DIFFERS, reason, Code.ACCOUNT_WRONG_KIND, changed("Make it one for tunnels", kind=AccountKind.TUNNEL)
        )
    if used.secret is None or made.secret is None:
        return Judgement(Verdict.UNKNOWN, f"the account's secret at {name if used.secret is None else far} is not known yet")
    clause = key_difference(used.secret, made.secret, name, far)
    if clause:
        reason = clause.replace("the keys differ", f"the secrets of '{made.name}' differ", 1)
        return Judgement(
            Verdict.DIFFERS, reason, Code.ACCOUNT_SECRET_DIFFERS, changed(f"Give {far} {name}'s secret", secret=used.secret)
        )
    return Judgement(Verdict.AGREED, f"both have '{made.name}' with the same secret")


_KINDS = {AccountKind.PERSON: "people", AccountKind.ADMINISTRATION: "administering the device", AccountKind.TUNNEL: "tunnels"}
