"""How a flow goes: its hops, how each way ends, and the verdict in one sentence."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.addressing import Address
from pontifex.core.reasons import Reason, Sentence, all_named, paths
from pontifex.core.reasons.paths import Fate
from pontifex.core.routing.tables.tables import Tables
from pontifex.core.routing.trace.decide import Cause


class End(Enum):
    """How a way ends."""

    ARRIVES = "arrives"
    HELD = "held"  # a rule keeps it back rather than let it out unprotected
    LOST = "lost"
    UNPROTECTED = "unprotected"  # it leaves to the Internet, though it is meant for inside
    INTERNET = "internet"  # it leaves to the Internet, where it is meant to go
    UNKNOWN = "unknown"  # it is handed to somebody of whom the design knows no more


@dataclass(frozen=True, slots=True, kw_only=True)
class Hop:
    """One gateway on the way, or the host that the way begins at."""

    gateway_id: Annotated[str, Field(title="Gateway", description="Empty where a host itself decides.")]
    where: Annotated[str, Field(title="Where", examples=["Harbour firewall pair"])]
    decision: Annotated[str, Field(title="What happens", examples=["into Harbour–Ostvik"])]
    by: Annotated[str, Field(title="What decided", examples=["policy of Harbour–Ostvik: 10.65.0.0/24"])]
    tunnel_id: Annotated[str | None, Field(title="Tunnel that it goes into")] = None
    uplink_id: Annotated[str | None, Field(title="Uplink that it leaves by")] = None
    translated: Annotated[str, Field(title="Translation")] = ""
    filtered: Annotated[str, Field(title="Filter", examples=["let through by booking"])] = ""
    marked: Annotated[str, Field(title="Class that it is marked as from here on")] = ""
    inner_mtu: Annotated[int | None, Field(title="Inner MTU from here on, octets")] = None
    stateless: Annotated[bool, Field(title="Keeps no state", description="Each packet is filtered and translated by itself.")] = (
        False
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class FlowPath:
    """A flow in one direction."""

    source: Address
    destination: Address
    hops: tuple[Hop, ...]
    end: End
    tunnels: Annotated[tuple[str, ...], Field(title="Ids of the tunnels on the way")]
    mtu: Annotated[int | None, Field(title="The largest packet that fits all of them, octets")]
    reason: Annotated[str, Field(title="Why it ends so")]
    cause: Annotated[Cause | None, Field(title="What ends it", description="Null where it arrives.")]
    last_network_id: Annotated[str | None, Field(title="Network that it doesn't get out of, or into")]
    last_tunnel_id: Annotated[str | None, Field(title="Tunnel that doesn't take it")]
    last_rule_id: Annotated[str | None, Field(title="Rule that holds it")]


@dataclass(frozen=True, slots=True, kw_only=True)
class Trace:
    """A flow, there and back."""

    verdict: Annotated[Sentence, Field(title="Verdict", examples=["Arrives and returns by Harbour–Ostvik."])]
    forward: FlowPath
    back: Annotated[FlowPath | None, Field(title="The answer", description="Null where nothing arrives that could be answered.")]
    remarks: Annotated[tuple[str, ...], Field(title="What this trace doesn't look at")] = ()


def uses(traced: Trace) -> set[str] | None:
    """Return the ids of all that a trace uses; None where it is dropped on the way, which may be by anything."""
    if End.LOST in (traced.forward.end, traced.back and traced.back.end):
        return None
    hops = [*traced.forward.hops, *(traced.back.hops if traced.back else ())]
    return {id_ for hop in hops for id_ in (hop.gateway_id, hop.tunnel_id, hop.uplink_id) if id_}


_FATES: Final = {
    End.UNPROTECTED: Fate.UNPROTECTED,
    End.HELD: Fate.HELD,
    End.INTERNET: Fate.INTERNET,
    End.UNKNOWN: Fate.NOT_YET,
}


def verdict_of(tables: Tables, forward: FlowPath, back: FlowPath | None) -> Sentence:
    """Return what becomes of a flow and of its answer."""
    return Sentence(_verdict(tables, forward, back))


def _verdict(tables: Tables, forward: FlowPath, back: FlowPath | None) -> Reason:
    if forward.end is not End.ARRIVES or back is None:
        beyond = forward.end is End.UNKNOWN and forward.cause is Cause.NEIGHBOUR
        return paths.Ends(Fate.NOT_FURTHER if beyond else _FATES.get(forward.end, Fate.LOST), forward.reason)
    if back.end is End.UNKNOWN:
        return paths.AnswerNotKnown(_through(tables, forward), back.reason)
    if back.end is not End.ARRIVES:
        return paths.AnswerEnds(_through(tables, forward), _FATES.get(back.end, Fate.LOST), back.reason)
    if forward.tunnels == tuple(reversed(back.tunnels)):
        return paths.ArrivesAndReturns(_through(tables, forward))
    return paths.ReturnsElsewhere(_through(tables, forward), _through(tables, back))


def _through(tables: Tables, way: FlowPath) -> paths.ByTunnels | paths.WithinSite:
    tunnels = tuple(tables.design.tunnel_by_id[id_] for id_ in way.tunnels)
    return paths.ByTunnels(all_named(tunnels)) if tunnels else paths.WithinSite()


def remarks_on(tables: Tables, forward: FlowPath, back: FlowPath | None) -> tuple[str, ...]:
    """Say what isn't modelled and may matter for this flow."""
    found: list[str] = []
    ways = [forward, *([back] if back else [])]
    if any(hop.uplink_id for way in ways for hop in way.hops):
        found.append("what an uplink translates to its outside address, and what happens outside, is not looked at")
    if back and back.end is End.ARRIVES:
        answering = {hop.gateway_id for hop in back.hops}
        gateways = [tables.design.gateway_by_id[hop.gateway_id] for hop in forward.hops if hop.gateway_id]
        alone = [
            gateway.name
            for gateway in gateways
            if gateway.id not in answering and gateway.keeps_state and tables.of(gateway).filters
        ]
        if alone:
            names = " and ".join(dict.fromkeys(alone))
            found.append(
                f"only the first packet and its answer are followed: {names} sees one direction alone, and may drop later ones"
            )
    return tuple(found)
