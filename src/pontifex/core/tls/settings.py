"""What one end of a tunnel over TLS is configured with."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import date

from pontifex.core.addressing import Region
from pontifex.core.kinds import DataCipher
from pontifex.core.kinds.technology import Digest
from pontifex.core.login import Login
from pontifex.core.tls.session import Credentials


@dataclass(frozen=True, slots=True, kw_only=True)
class TlsSettings:
    """One end as its device has it. Times are in seconds; 0 is off."""

    credentials: Credentials
    data_ciphers: tuple[DataCipher, ...]
    digest: Digest | None
    compresses: bool
    control_key: bytes | None = field(repr=False)
    account: Login | None
    accepted: Login | None
    local_networks: Region
    remote_networks: Region
    port: int
    over_tcp: bool
    redials: bool  # when a connection is lost
    renegotiation_s: float
    dead_peer_s: float
    keepalive_s: float
    today: Callable[[float], date] = field(repr=False)  # the day by the end's own clock
