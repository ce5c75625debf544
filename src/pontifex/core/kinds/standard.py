"""A standard: how the tunnels of an organisation are set, decided once."""

from __future__ import annotations

from typing import Annotated, Any, Final

from pydantic import Field, StringConstraints

from pontifex.core.kinds.fields import ONE_LINE, is_set
from pontifex.core.kinds.identity import AuthMethod
from pontifex.core.kinds.kind import DesignMember, Group, Kind, ObjectType
from pontifex.core.kinds.technology import Mode, Technology
from pontifex.core.kinds.tunnel_end import Interval, Lifetime, Proposals, TunnelEnd

IdentityPattern = Annotated[
    str,
    StringConstraints(strip_whitespace=True, min_length=1, max_length=200, pattern=ONE_LINE),
    Field(examples=["{site}.skerry.example"]),
]
USUAL_PATTERN: Final = "{site}.{design}"


class Standard(DesignMember):
    """What the ends of tunnels are set to. A field that is null or empty says nothing, and each tunnel decides."""

    technology: Technology = Field(default=Technology.IPSEC_IKEV2, title="Technology")
    mode: Mode | None = Field(default=None, title="Mode", description="What decides which packets go in.")
    auth: AuthMethod | None = Field(
        default=AuthMethod.PRE_SHARED_KEY, title="Both prove themselves by", description="One method at both ends."
    )
    identity_pattern: IdentityPattern | None = Field(
        default=USUAL_PATTERN,
        title="Identity pattern",
        description="An FQDN for each gateway: {site}, {gateway} and {design} stand for their names, in lower case and hyphens.",
    )
    ike_proposals: Proposals = Field(default=(), title="IKE proposals", description="In order of preference.")
    child_proposals: Proposals = Field(default=(), title="Child SA proposals", description="In order of preference.")
    ike_lifetime_s: Lifetime | None = Field(default=None, title="IKE SA lifetime, s")
    child_lifetime_s: Lifetime | None = Field(default=None, title="Child SA lifetime, s")
    rekey_margin_s: Interval | None = Field(default=None, title="Rekey margin, s", description="Before a lifetime ends.")
    reauthenticate: bool | None = Field(default=None, title="Reauthentication", description="A new IKE SA in place of a rekey.")
    dead_peer_s: Interval | None = Field(default=None, title="Dead-peer check, s", description="0 is off.")
    keepalive_s: Interval | None = Field(default=None, title="Keep-alive, s", description="0 is off.")

    def end_fields(self) -> dict[str, Any]:
        """Return what it sets at an end, by the field of the end; what it says nothing about is left out."""
        said = {field: getattr(self, field) for field in _OF_AN_END}
        said |= {"local_auth": self.auth, "remote_auth": self.auth}
        return {field: value for field, value in said.items() if is_set(value)}

    @property
    def says(self) -> str:
        """What it sets, in one line."""
        mode = f", {self.mode.value} mode" if self.mode else ""
        lists = (("IKE", self.ike_proposals, self.ike_lifetime_s), ("Child SA", self.child_proposals, self.child_lifetime_s))
        parts = [f"{self.technology.label}{mode}"]
        for title, proposals, lifetime_s in lists:
            named = [proposal.label for proposal in proposals] + ([f"{lifetime_s} s"] if lifetime_s else [])
            if named:
                parts.append(f"{title} {', '.join(named)}")
        return "; ".join(parts)


_OF_AN_END: Final = tuple(field for field in Standard.model_fields if field in TunnelEnd.model_fields)

STANDARD: Final = Kind(ObjectType.STANDARD, Standard, "standards", "Standards", Group.MATCH)
