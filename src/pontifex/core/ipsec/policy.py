"""Algorithm policies: what an organisation accepts of what the standards let it have."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import date
from typing import Annotated, Final

from pydantic import Field, StringConstraints

from pontifex.core.frozen_model import FrozenModel
from pontifex.core.ipsec.proposal import Proposal, Transform
from pontifex.core.ipsec.registry import Level, TransformType, registered

OneLine = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=80, pattern=r"^[^\x00-\x1f\x7f]*$")]
_IdText = Annotated[str, StringConstraints(pattern=r"^[a-z0-9]([a-z0-9-]{0,62}[a-z0-9])?$")]


class TransformCode(FrozenModel):
    """A transform by its numbers, whatever its key length."""

    type: TransformType = Field(title="Transform type", examples=["ENCR"])
    id: int = Field(title="IANA number", ge=0, le=65_535, examples=[3])


class AlgorithmPolicy(FrozenModel):
    """What proposals and keys may hold. Every end is judged against the policy in force in its design."""

    id: _IdText = Field(title="Id", examples=["current-practice"])
    name: OneLine = Field(title="Name", examples=["Current practice"])
    refused_levels: tuple[Level, ...] = Field(
        title="Refused levels", description="By what the standards ask for today (RFC 8247, RFC 8221, RFC 9395).", max_length=4
    )
    least_bits: int = Field(title="Least strength, bits", description="Of any transform that has one.", ge=0, le=512)
    least_key_bits: int = Field(title="Least strength of a pre-shared key, bits", ge=0, le=512)
    forward_secrecy: bool = Field(title="Child SAs need a key exchange of their own")
    longest_ike_lifetime_s: int = Field(title="Longest IKE SA lifetime, s", ge=60, le=86_400 * 30)
    longest_child_lifetime_s: int = Field(title="Longest Child SA lifetime, s", ge=60, le=86_400 * 30)
    permitted: tuple[TransformCode, ...] = Field(default=(), title="Permitted all the same", max_length=64)
    refused: tuple[TransformCode, ...] = Field(default=(), title="Refused all the same", max_length=64)

    def __hash__(self) -> int:
        return hash(self.id)  # one of a design's policies has it

    def accepts_whole(self, proposal: Proposal) -> bool:
        """Whether nothing in a proposal can be objected to, at a glance; False says only that a closer look is needed."""
        strong = not 0 < proposal.least_bits < self.least_bits
        return strong and not self.refused and proposal.levels.isdisjoint(self.refused_levels)

    def objection(self, transform: Transform) -> str | None:
        """Say why this policy refuses a transform, as a clause; None when it doesn't."""
        if transform.is_none or _names(self.permitted, transform):
            return None
        if _names(self.refused, transform):
            return "refused by name"
        if transform.level in self.refused_levels:
            return f"{transform.level.value} by the standards"
        bits = transform.strength_bits
        if 0 < bits < self.least_bits and not transform.type.is_additional:
            return f"{bits} bits, {self.least_bits} is the least"
        return None


def _names(codes: Iterable[TransformCode], transform: Transform) -> bool:
    return any((code.type, code.id) == (transform.type, transform.id) for code in codes)


class AlgorithmException(TransformCode):
    """A transform that is accepted in one tunnel until a day, though the policy refuses it."""

    until: date = Field(title="Until", description="The last day on which it is accepted.", examples=["2027-03-31"])
    accepted_by: OneLine = Field(title="Accepted by", examples=["Runa Falk, network board"])

    @property
    def label(self) -> str:
        """The transform's short name."""
        row = registered(self.type, self.id)
        return row.label if row else f"{self.type.value} {self.id}"

    def __str__(self) -> str:
        return f"{self.label} until {self.until}, accepted by {self.accepted_by}"


def covering(exceptions: Iterable[AlgorithmException], transform: Transform) -> AlgorithmException | None:
    """Return the exception that names a transform, the longest-lived one."""
    found = [exception for exception in exceptions if _names((exception,), transform)]
    return max(found, key=lambda exception: exception.until, default=None)


CURRENT_PRACTICE: Final = AlgorithmPolicy(
    id="current-practice",
    name="Current practice",
    refused_levels=(Level.WEAK, Level.RETIRED),
    least_bits=112,  # NIST SP 800-57 part 1, section 5.6.3: the least acceptable strength through 2030
    least_key_bits=112,
    forward_secrecy=False,
    longest_ike_lifetime_s=86_400,
    longest_child_lifetime_s=28_800,
)
STRICT: Final = AlgorithmPolicy(
    id="strict",
    name="Strict",
    refused_levels=(Level.WEAK, Level.RETIRED),
    least_bits=128,
    least_key_bits=128,
    forward_secrecy=True,
    longest_ike_lifetime_s=28_800,
    longest_child_lifetime_s=3600,
)
OLD_PARTNER: Final = AlgorithmPolicy(
    id="old-partner",
    name="Old partner",
    refused_levels=(Level.RETIRED,),
    least_bits=80,
    least_key_bits=80,
    forward_secrecy=False,
    longest_ike_lifetime_s=86_400,
    longest_child_lifetime_s=86_400,
)
DEFAULT_POLICIES: Final = (CURRENT_PRACTICE, STRICT, OLD_PARTNER)
