"""What hangs on settings alone: tunnels that are set alike share it.

Such a row is judged once, and such a check made once, for ends without all that is one tunnel's own: names, addresses,
networks, identities, keys and its place in the design. A judge or a check that asks for any of that is broken off, and looks
at each tunnel by itself. So what is shared can't have been made of more than it is found by.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, replace
from datetime import date
from functools import cached_property, lru_cache
from operator import itemgetter
from typing import Final, Generic, NamedTuple, NoReturn, TypeVar

from pontifex.core.addressing import Family
from pontifex.core.frozen_model import FrozenModel
from pontifex.core.ipsec import Agreement, Refusal
from pontifex.core.ipsec.policy import AlgorithmPolicy
from pontifex.core.kinds import SIDES, Gateway, Side, Tunnel, TunnelEnd, Uplink
from pontifex.core.matching.forecast import is_told
from pontifex.core.matching.row import Judgement
from pontifex.core.matching.rows import REACH, ROWS
from pontifex.core.matching.spec import RowSpec
from pontifex.core.matching.tunnel_ends import TunnelEnds
from pontifex.core.model import Design

_M = TypeVar("_M", bound=FrozenModel)
_Values = tuple[object, ...]
_MOST_KEPT: Final = 4096


class _OwnValueError(Exception):
    """A judge has asked for what is one tunnel's own."""


class _SettingsAlone:
    """An object without what is one tunnel's own."""

    def __getattr__(self, name: str) -> NoReturn:
        raise _OwnValueError(name)


class _EndSettings(_SettingsAlone, TunnelEnd, defer_build=True):
    """An end as far as it is settings."""


class _UplinkSettings(_SettingsAlone, Uplink, defer_build=True):
    """An uplink as far as it is settings."""


class _GatewaySettings(_SettingsAlone, Gateway, defer_build=True):
    """A gateway as far as it is settings."""


class _TunnelSettings(_SettingsAlone, Tunnel, defer_build=True):
    """A tunnel of which both ends are known, as far as they are settings."""


class _NoDesign(Design, defer_build=True):
    """No design at all: what a tunnel's place in it is, is its own."""

    def __getattribute__(self, name: str) -> NoReturn:
        raise _OwnValueError(name)


_SET: Final = object()  # stands for a value that is one tunnel's own; that there is none is a setting


class _Settings(Generic[_M]):
    """Which fields of a kind of object are settings: all but its own ones, and of those whether they are set."""

    def __init__(self, kind: type[_M], *own: str) -> None:
        self._kind = kind
        settings = [field for field in kind.model_fields if field not in own]
        self._fields = (*settings, *own)
        self._settings, self._own = itemgetter(*settings), itemgetter(*own)

    def of(self, item: FrozenModel) -> _Values:
        """Return the settings of an object."""
        fields = vars(item)
        return (*self._settings(fields), *[_SET if value else value for value in self._own(fields)])

    def without_own(self, values: _Values) -> _M:
        """Return an object that has these settings, and nothing of its own."""
        known = {field: value for field, value in zip(self._fields, values, strict=True) if value is not _SET}
        return _with_fields(self._kind, known)


def _with_fields(kind: type[_M], fields: Mapping[str, object]) -> _M:
    made = kind.__new__(kind)
    object.__setattr__(made, "__dict__", dict(fields))
    return made


_END: Final = _Settings(
    _EndSettings,
    *("gateway_id", "uplink_id", "peer_address", "interface", "inner_address"),
    *("local_networks", "remote_networks", "pushed_networks", "local_identity", "remote_identity"),
    *("key", "control_key", "key_pair", "peer_public_key", "certificates", "trust_anchors", "account", "accepted_account"),
)
_UPLINK: Final = _Settings(_UplinkSettings, "id", "name", "gateway_id", "address", "dns_name", "interface")
_GATEWAY: Final = _Settings(_GatewaySettings, "id", "name", "site_id", "inside_address", "resolvers")


class PairSettings(NamedTuple):
    """The settings of both ends, their gateways and uplinks; and the little that rows ask of what is their own."""

    ends: tuple[_Values, _Values]
    gateways: tuple[_Values, _Values]
    uplinks: tuple[_Values | None, _Values | None]
    takes_any: tuple[bool, bool]
    uplink_families: tuple[Family | None, Family | None]
    outer_family: Family
    inner_families: frozenset[Family]
    excepted: bool  # that the tunnel has exceptions from the policy
    policy: AlgorithmPolicy
    today: date

    @classmethod
    def of(cls, ends: TunnelEnds) -> PairSettings:
        """Return the settings of a tunnel."""
        left, right = ends.left, ends.right
        here, there = ends.uplink(Side.LEFT), ends.uplink(Side.RIGHT)
        families = ends.uplink_families
        return cls(
            (_END.of(left), _END.of(right)),
            (_GATEWAY.of(ends.gateway(Side.LEFT)), _GATEWAY.of(ends.gateway(Side.RIGHT))),
            (_UPLINK.of(here) if here else None, _UPLINK.of(there) if there else None),
            (ends.takes_any(Side.LEFT), ends.takes_any(Side.RIGHT)),
            (families.get(Side.LEFT), families.get(Side.RIGHT)),
            ends.outer_family,
            ends.inner_families,
            bool(ends.tunnel.exceptions),
            ends.policy,
            ends.today,
        )


@dataclass(frozen=True, kw_only=True)
class _EndsAlone(TunnelEnds):
    """Two ends without what is their own."""

    settings: PairSettings

    @classmethod
    def of(cls, settings: PairSettings) -> _EndsAlone:
        left, right = map(_END.without_own, settings.ends)
        without: dict[str, object] = {} if settings.excepted else {"exceptions": ()}
        tunnel = _with_fields(_TunnelSettings, {"left": left, "right": right, **without})
        return cls(design=_NoDesign.__new__(_NoDesign), tunnel=tunnel, today=settings.today, settings=settings)

    @cached_property
    def _gateways(self) -> dict[Side, Gateway]:
        return {side: _GATEWAY.without_own(values) for side, values in zip(SIDES, self.settings.gateways, strict=True)}

    @cached_property
    def _uplinks(self) -> dict[Side, Uplink | None]:
        return {
            side: _UPLINK.without_own(values) if values else None
            for side, values in zip(SIDES, self.settings.uplinks, strict=True)
        }

    def takes_any(self, side: Side) -> bool:
        """Whether a side takes any caller: its settings tell."""
        return self.settings.takes_any[SIDES.index(side)]

    @cached_property
    def uplink_families(self) -> dict[Side, Family]:
        return {side: family for side, family in zip(SIDES, self.settings.uplink_families, strict=True) if family}

    @property
    def outer_family(self) -> Family:
        return self.settings.outer_family

    @property
    def inner_families(self) -> frozenset[Family]:
        return self.settings.inner_families

    @property
    def policy(self) -> AlgorithmPolicy:
        return self.settings.policy


class RowJudgement(NamedTuple):
    """A row that may apply to a tunnel; without a judgement, it is to be judged for each tunnel."""

    spec: RowSpec
    judgement: Judgement | None
    this: Side = Side.LEFT  # whose own field it is about
    applies: bool = False  # that it applies is certain, even where there is no judgement

    @property
    def tells(self) -> bool:
        """Whether a forecast or a finding may speak of it."""
        return self.judgement is None or is_told(self.spec.key, self.judgement)


@dataclass(frozen=True, slots=True)
class SharedJudgements:
    """Rows, judged as far as that hangs on settings alone."""

    rows: tuple[RowJudgement, ...]
    settled: dict[str, Agreement | Refusal | None]  # negotiations, by row


Check = Callable[[TunnelEnds], Iterable[object]]  # what looks at two ends, and yields what is to be said of them


class AlikeTunnels:
    """What tunnels with the same settings have in common."""

    def __init__(self, settings: PairSettings) -> None:
        self._ends = _EndsAlone.of(settings)
        self._silent: dict[Check, bool] = {}

    @cached_property
    def judged(self) -> SharedJudgements:
        """Their rows."""
        rows = (_row(spec, self._ends) for spec in _specs(self._ends))
        return SharedJudgements(tuple(row for row in rows if row), self._ends.settled)

    @cached_property
    def telling(self) -> SharedJudgements:
        """Those of their rows that may tell anything."""
        return replace(self.judged, rows=tuple(row for row in self.judged.rows if row.tells))

    def silence(self, check: Check) -> bool:
        """Whether a check says nothing of any of them; where it asks for what is one tunnel's own, it is to look at each."""
        if check not in self._silent:
            self._silent[check] = _says_nothing(check, self._ends)
        return self._silent[check]


def _says_nothing(check: Check, ends: _EndsAlone) -> bool:
    try:
        return not any(True for _ in check(ends))
    except Exception:  # an error of ours is told for the tunnel itself, which is looked at once more
        return False


_of_settings: Final = lru_cache(maxsize=_MOST_KEPT)(AlikeTunnels)


def alike(ends: TunnelEnds) -> AlikeTunnels:
    """Return what a tunnel has in common with all that are set like it, in whatever design."""
    return _of_settings(PairSettings.of(ends))


def nothing_shared(ends: TunnelEnds) -> SharedJudgements:
    """Return the rows that may apply to a tunnel which is compared alone: all are judged for it."""
    return SharedJudgements(tuple(RowJudgement(spec, None) for spec in _specs(ends)), {})


def _specs(ends: TunnelEnds) -> tuple[RowSpec, ...]:
    return ROWS[ends.technology] if ends.technology else REACH


def _row(spec: RowSpec, ends: TunnelEnds) -> RowJudgement | None:
    """Judge a row; None where it doesn't apply."""
    applies = False
    try:
        applies = spec.applies(ends)
        return RowJudgement(spec, spec.judge(ends), spec.about(ends), applies) if applies else None
    except Exception:  # an error of ours is told for the tunnel itself, where it is judged once more
        return RowJudgement(spec, None, applies=applies)
