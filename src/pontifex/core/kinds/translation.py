"""A translation: a gateway shows one side of its tunnels other addresses than the other side uses."""

from __future__ import annotations

from typing import Final, Self

from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from pontifex.core.addressing import Prefix
from pontifex.core.choice import Choice
from pontifex.core.kinds.fields import ObjectId
from pontifex.core.kinds.kind import DesignMember, Group, Kind, ObjectType, Reference


class TranslationKind(Choice):
    """How addresses are translated."""

    ONE_TO_ONE = "one-to-one"  # each address to the one at the same place of the other prefix (RFC 2663 section 4.1.1)
    BEHIND_ONE = "behind-one"  # all to one address, told apart by port (RFC 2663 section 4.1.2)


class TranslatedSide(Choice):
    """Whose addresses a gateway translates."""

    OWN = "own"  # a network on the gateway's side of the tunnel, as the far side sees it
    FAR = "far"  # a network beyond the tunnel, as the gateway's side sees it


class Translation(DesignMember):
    """A gateway shows one side of its tunnels other addresses than the other side uses (RFC 3022)."""

    gateway_id: ObjectId = Field(title="Gateway")
    tunnel_id: ObjectId | None = Field(default=None, title="Tunnel", description="Empty for all tunnels of the gateway.")
    side: TranslatedSide = Field(default=TranslatedSide.OWN, title="Whose addresses")
    kind: TranslationKind = Field(default=TranslationKind.ONE_TO_ONE, title="Kind")
    inside: Prefix = Field(title="Real")
    outside: Prefix = Field(title="Seen as")

    @model_validator(mode="after")
    def _sizes_fit(self) -> Self:
        if self.inside.family is not self.outside.family:
            raise PydanticCustomError("translation", "a translation stays within one address family")
        if self.kind is TranslationKind.ONE_TO_ONE and self.inside.length != self.outside.length:
            sizes = {"inside": str(self.inside), "outside": str(self.outside)}
            raise PydanticCustomError(
                "translation", "one-to-one needs two prefixes of one size, not {inside} and {outside}", sizes
            )
        if self.kind is TranslationKind.BEHIND_ONE and self.outside.length != self.outside.family.bits:
            single = {"outside": str(self.outside), "bits": self.outside.family.bits}
            raise PydanticCustomError("translation", "behind one address needs a single one, a /{bits}, not {outside}", single)
        return self

    def seen(self, address: int) -> int:
        """Return what a real address is seen as; both as unsigned integers."""
        if self.kind is TranslationKind.BEHIND_ONE:
            return self.outside.network
        return address - self.inside.network + self.outside.network


TRANSLATION: Final = Kind(
    ObjectType.TRANSLATION,
    Translation,
    "translations",
    "Translations",
    Group.ADDRESSES,
    refers=(Reference("gateway_id", ObjectType.GATEWAY, is_parent=True), Reference("tunnel_id", ObjectType.TUNNEL)),
    searched=("inside", "outside"),
)
