"""How a device dials in: its end and the gateway's, when it dials, and what it does with its traffic."""

from __future__ import annotations

from typing import Annotated, Final

from pydantic import Field, StringConstraints, model_validator
from pydantic_core import PydanticCustomError

from pontifex.core.addressing import AddressError, Prefix, Service
from pontifex.core.addressing.prefix import parse_prefix
from pontifex.core.choice import Choice
from pontifex.core.frozen_model import FrozenModel
from pontifex.core.kinds.fields import ALL_BELOW, ONE_LINE, DnsName, NameOrDomain, Port
from pontifex.core.kinds.identity import AuthMethod
from pontifex.core.kinds.tunnel_end import IpsecFields, LinkFields, ProofFields, TlsFields

ApplicationName = Annotated[
    str,
    StringConstraints(strip_whitespace=True, min_length=1, max_length=80, pattern=ONE_LINE),
    Field(title="Application", examples=["Rota"]),
]


class DialInEnd(TlsFields, IpsecFields, ProofFields, LinkFields):
    """What one end of a dialled-in tunnel is set to. It holds no secret: each person and each device has their own."""

    local_auth: AuthMethod | None = Field(default=None, title="Proves itself by")
    remote_auth: AuthMethod | None = Field(default=None, title="Expects proof by")


class DialWhen(Choice):
    """When a device dials."""

    BY_HAND = "by-hand"
    ON_DEMAND = "on-demand"  # a packet or a name wants to go through
    APPLICATIONS = "applications"  # one of those that are named has started
    ALWAYS = "always"


class InsideBy(Choice):
    """By what a device knows that it is inside already."""

    SUFFIX = "suffix"  # the network it is in gave it this DNS suffix (RFC 2132 option 15, RFC 8106)
    PREFIX = "prefix"  # its address lies in it
    PROBE = "probe"  # a host and port that answers inside alone


class InsideTest(FrozenModel):
    """One test of whether a device is inside already."""

    by: InsideBy = Field(title="By")
    value: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=253, pattern=ONE_LINE)] = Field(
        title="Value", examples=["quay.skerry.example", "10.64.0.0/22", "rota.skerry.example:443"]
    )

    @model_validator(mode="after")
    def _value_fits(self) -> InsideTest:
        if self.by is InsideBy.PREFIX:
            try:
                parse_prefix(self.value)
            except AddressError as error:
                raise PydanticCustomError("prefix", "{reason}", {"reason": error.reason}) from None
        if self.by is InsideBy.PROBE and not self.value.rpartition(":")[2].isdigit():
            raise PydanticCustomError("probe", "'{value}' is no host with a port, as in host:443", {"value": self.value})
        return self

    @property
    def prefix(self) -> Prefix:
        """The prefix of a test by prefix."""
        return parse_prefix(self.value)

    @property
    def probed_host(self) -> str:
        """The name or address that a test by probe asks."""
        return self.value.rpartition(":")[0].strip("[]")

    def __str__(self) -> str:
        return f"{self.by.value} {self.value}"


class TrafficWay(Choice):
    """Where a device sends what a rule names."""

    THROUGH = "through"
    BESIDE = "beside"
    BLOCKED = "blocked"


class TrafficRule(FrozenModel):
    """What a device does with some of its traffic; the first rule that names it decides. What isn't said limits nothing."""

    application: ApplicationName | None = Field(default=None, title="Application")
    service: Service | None = Field(default=None, title="Service")
    prefix: Prefix | None = Field(default=None, title="Destination", description="A prefix.")
    domain: NameOrDomain | None = Field(default=None, title="Domain", description="With *. in front all names below it, too.")
    way: TrafficWay = Field(title="Goes")

    def names(self, domain: str) -> bool:
        """Whether a name is the rule's, or lies below it."""
        own, asked = (self.domain or "").lower(), domain.lower().rstrip(".")
        if own.startswith(ALL_BELOW):
            return asked == own.removeprefix(ALL_BELOW) or asked.endswith(own.removeprefix("*"))
        return asked == own

    def __str__(self) -> str:
        parts = (self.application, self.prefix, self.domain, self.service)
        return f"{' '.join(str(part) for part in parts if part is not None) or 'everything'}: {self.way.value}"


ProxyFile = Annotated[  # the function FindProxyForURL, fetched from there
    str, StringConstraints(strip_whitespace=True, pattern=r"^https?://[^\s@]+$", max_length=500)
]


class Proxy(FrozenModel):
    """By which proxy a device fetches pages: a file that says it for each, or one for all but some."""

    file: ProxyFile | None = Field(default=None, title="File", examples=["https://rota.skerry.example/proxy.pac"])
    host: DnsName | None = Field(default=None, title="Host")
    port: Port | None = Field(default=None, title="Port")
    exceptions: tuple[NameOrDomain, ...] = Field(default=(), title="Exceptions", max_length=64)

    @model_validator(mode="after")
    def _one_of_both(self) -> Proxy:
        if (self.file is None) == (self.host is None):
            raise PydanticCustomError("proxy", "a proxy is given by a file, or by host and port")
        if self.host and self.port is None:
            raise PydanticCustomError("proxy", "a proxy's host needs its port")
        return self

    def __str__(self) -> str:
        but = f", but for {', '.join(self.exceptions)}" if self.exceptions else ""
        return f"{self.file or f'{self.host}:{self.port}'}{but}"


GroupName = Annotated[
    str,
    StringConstraints(strip_whitespace=True, min_length=1, max_length=80, pattern=ONE_LINE),
    Field(title="Group", examples=["Deck crew"]),
]
SHORTEST_LIMIT_S: Final = 60
