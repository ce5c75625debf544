"""Secrets so weak that whoever has what the design knows of them, their fingerprint above all, can guess them."""

from __future__ import annotations

from typing import Final

from pontifex.core.ipsec.preshared_key import KeyFacts
from pontifex.core.kinds import SIDES, Tunnel, TunnelEnd
from pontifex.core.model.design import DesignContent

_KEYS: Final = ("key", "control_key")
_ACCOUNTS: Final = ("account", "accepted_account")


def without_weak_secrets(design: DesignContent) -> DesignContent:
    """Return a design that knows nothing of the secrets which are weaker than its policy asks for."""
    least = design.policy.least_key_bits
    return design.changed(tunnels=tuple(_tunnel_without(tunnel, least) for tunnel in design.tunnels))


def _tunnel_without(tunnel: Tunnel, least_bits: int) -> Tunnel:
    return tunnel.with_valid({side.value: _end_without(tunnel.end(side), least_bits) for side in SIDES})


def _end_without(end: TunnelEnd, least_bits: int) -> TunnelEnd:
    keys = {field: None for field in _KEYS if _is_weak(getattr(end, field), least_bits)}
    accounts = {field: getattr(end, field) for field in _ACCOUNTS}
    forgetful = {
        field: account.with_valid({"secret": None})
        for field, account in accounts.items()
        if account and _is_weak(account.secret, least_bits)
    }
    return end.with_valid({**keys, **forgetful}) if keys or forgetful else end


def _is_weak(secret: KeyFacts | None, least_bits: int) -> bool:
    return secret is not None and secret.strength_bits < least_bits
