"""Init and Child: what lists of proposals, modes of the exchange and ciphers settle on."""

from __future__ import annotations

from pontifex.core.ipsec import TransformType
from pontifex.core.kinds import DataCipher, Digest, ExchangeMode, Side, Tunnel
from pontifex.core.reasons.reason import Named, Reason


class ProposalInvalid(Reason, text="{side}'s proposal {number} is invalid: {faults}"):
    side: Side
    number: int
    faults: tuple[str, ...]


class NoProposalCommon(Reason, text="no proposal is common to both; the nearest pair has no common {unmet}"):
    unmet: tuple[TransformType, ...]


class AfterSecondTry(Reason, text=", after a second try: the caller's first guess is another group"):
    pass


class ByOwnOrder(Reason, text="; if it goes by its own order, {label}"):
    label: str


class WhenTurned(Reason, text="; when {side} calls, {label}"):
    side: Side
    label: str


class ProposalTaken(Reason, text="{caller} offers, {caller:far} takes {label}{second_try}{by_own_order}{turned}"):
    caller: Side
    label: str
    second_try: AfterSecondTry | None
    by_own_order: ByOwnOrder | None
    turned: WhenTurned | None


class FirstThatFits(
    Reason,
    text="{side} doesn't know yet who calls, and takes {other}, which fits first: the IKE SA has {found} instead of {own}",
):
    side: Side
    other: Named[Tunnel]
    found: str
    own: str


class ExchangeModesDiffer(Reason, text="{left} and {right}"):
    left: ExchangeMode
    right: ExchangeMode


class KeyByAddress(Reason, text="{side} takes calls from any address, and in main mode finds a key by the address alone"):
    side: Side


class BothHaveExchangeMode(Reason, text="both have {mode} mode"):
    mode: ExchangeMode


class BothHaveTheSame(Reason, text="both have the same"):
    pass


class ShorterLifetimeTaken(Reason, text="{side} offers the shorter one, {seconds} s, which is taken"):
    side: Side
    seconds: int


class LifetimeRefused(
    Reason, text="{side} offers {offered_s} s, more than the {accepted_s} s of {side:far}, which may refuse it"
):
    side: Side
    offered_s: int
    accepted_s: int


class BothHaveValue(Reason, text="both have {value}"):
    value: str


class ValuesDiffer(Reason, text="{what} {left} at {left_end}, {right} at {right_end}"):
    what: str
    left: str
    left_end: Side
    right: str
    right_end: Side


class NoCipherCommon(Reason, text="no cipher is common to both"):
    pass


class CipherTaken(Reason, text="{side} takes {cipher}"):
    side: Side
    cipher: DataCipher


class IntegrityByCipher(Reason, text="{cipher} protects integrity by itself"):
    cipher: DataCipher


class DigestsDiffer(Reason, text="{left} and {right}"):
    left: Digest
    right: Digest
