"""Types of fields that several kinds of object share."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Final

from pydantic import Field, StringConstraints


@dataclass(frozen=True, slots=True)
class Offered:
    """Values of a field that are offered where it is typed; others are allowed as well."""

    values: tuple[str, ...]


def is_set(value: object) -> bool:
    """Whether a field holds anything: neither None nor an empty list."""
    return value is not None and not (isinstance(value, tuple) and not value)


# No control characters: a name is one line on the screen, in the log and in a printed sheet.
ONE_LINE = r"^[^\x00-\x1f\x7f]*$"

ID_FORM: Final = "Lower-case letters, digits and hyphens; unique among objects of its type."
ObjectId = Annotated[
    str,
    StringConstraints(pattern=r"^[a-z0-9]([a-z0-9-]{0,62}[a-z0-9])?$", max_length=64),
    Field(title="Id", description=ID_FORM, examples=["ostvik"]),
]
Name = Annotated[
    str,
    StringConstraints(strip_whitespace=True, min_length=1, max_length=80, pattern=ONE_LINE),
    Field(title="Name", examples=["Ostvik Terminal"]),
]
Remark = Annotated[str, StringConstraints(strip_whitespace=True, max_length=200, pattern=ONE_LINE)]
DnsName = Annotated[
    str,
    StringConstraints(
        pattern=r"^([A-Za-z0-9_]([A-Za-z0-9_-]{0,61}[A-Za-z0-9_])?\.)+[A-Za-z]([A-Za-z0-9-]{0,61}[A-Za-z0-9])?$",
        max_length=253,
    ),
    Field(title="DNS name", examples=["ostvik.dyn.example"]),
]
ALL_BELOW: Final = "*."  # in front of a domain: the domain itself, and all names below it
NameOrDomain = Annotated[
    str,
    StringConstraints(
        pattern=r"^(\*\.)?([A-Za-z0-9_]([A-Za-z0-9_-]{0,61}[A-Za-z0-9_])?\.)+[A-Za-z]([A-Za-z0-9-]{0,61}[A-Za-z0-9])?$",
        max_length=253,
    ),
    Field(title="DNS name or domain", examples=["rota.skerry.example", "*.skerry.example"]),
]
InterfaceName = Annotated[  # IFNAMSIZ of Linux allows 15 characters; other systems allow longer names
    str,
    StringConstraints(pattern=r"^[A-Za-z0-9][A-Za-z0-9._-]*$", min_length=1, max_length=15),
    Field(title="Interface", description="Its name on the device, as commands need it.", examples=["eth0"]),
]
Milliseconds = Annotated[float, Field(ge=0, le=60_000, examples=[40])]
Percent = Annotated[float, Field(ge=0, le=100, examples=[1])]
Rate = Annotated[float, Field(gt=0, le=1_000_000, examples=[500])]
Port = Annotated[int, Field(ge=1, le=65_535, examples=[443])]
