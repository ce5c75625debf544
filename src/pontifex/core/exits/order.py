"""The order in which an exit and what shares its network start, and in which a workload is attached to it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Annotated

from pydantic import Field

from pontifex.core.exits.workloads import ExitTable, ExitWorkload, Hanging
from pontifex.core.kinds import Exit
from pontifex.core.model import Design


@dataclass(frozen=True, slots=True, kw_only=True)
class ExitStep:
    """One thing to be done about an exit, and what shows that it took."""

    what: str
    check: Annotated[str, Field(title="What shows that it took")]


@dataclass(frozen=True, slots=True, kw_only=True)
class ExitOrder:
    """In which order things start, and are changed."""

    starts: Annotated[tuple[str, ...], Field(title="Starts", description="One after the other.")]
    attaching: Annotated[tuple[ExitStep, ...], Field(title="Attaching what shares the network")]
    restarting: Annotated[str, Field(title="What a restart of the exit does")]


def exit_order(design: Design, exit_: Exit, table: ExitTable) -> ExitOrder:
    """Return the order for an exit."""
    owner = design.host_by_id[exit_.host_id].name if exit_.host_id else design.gateway_by_id[exit_.gateway_id].name
    sharing = [workload for workload in table.workloads if workload.how is Hanging.SHARES]
    routed = [workload.name for workload in table.workloads if workload.how is Hanging.ROUTED]
    stop = (
        f"{', '.join(workload.name for workload in sharing)} stop with it, and must be started again after it" if sharing else ""
    )
    goes_on = f"{', '.join(routed)} go on by themselves once it is back" if routed else ""
    return ExitOrder(
        starts=(owner, *(workload.name for workload in sharing)),
        attaching=tuple(_attaching(exit_, table, owner)),
        restarting="; ".join(filter(None, (stop, goes_on))) or "nothing hangs on it",
    )


def _attaching(exit_: Exit, table: ExitTable, owner: str) -> Iterator[ExitStep]:
    """Yield the steps: a port can be published once, so it is taken off each workload before the exit publishes it."""
    sharing = [workload for workload in table.workloads if workload.how is Hanging.SHARES]
    publishing = [workload for workload in sharing if workload.ports]
    for workload in publishing:
        what = f"Take port {_ports([workload])} off {workload.name}"
        yield ExitStep(what=what, check=f"{workload.name} publishes nothing any more")
    if publishing:
        ports = _ports(publishing)
        listens = f"{owner} listens there, and its tunnel is up"
        yield ExitStep(what=f"Publish {ports} at {owner}, and start {owner} anew", check=listens)
    for workload in sharing:
        yield ExitStep(
            what=f"Attach {workload.name} to the network of {owner}, and start it after {owner}",
            check=f"its settings, read back, name {owner} as its network",
        )
        seen = str(workload.outside.address) if workload.outside.address else "the address of the far end's provider"
        yield ExitStep(what=f"Ask from within {workload.name} which address the outside sees", check=f"it sees {seen}")
    for prefix in exit_.reached_from if publishing else ():
        yield ExitStep(what=f"Open {_ports(publishing)} of {owner} from {prefix}", check="each answers")


def _ports(workloads: list[ExitWorkload]) -> str:
    return ", ".join(str(port) for port in sorted({port for workload in workloads for port in workload.ports}))
