"""Child: the networks of one end mirrored at the other (traffic selectors, RFC 7296 section 2.9)."""

from __future__ import annotations

from collections.abc import Iterable

from pontifex.core.addressing import Prefix, minimal_cover
from pontifex.core.matching.pair import Pair
from pontifex.core.matching.row import Relation, Remedy, Row, Stage, Verdict
from pontifex.core.model import Side


def networks_row(pair: Pair, side: Side) -> Row:
    """Compare an end's local networks with what the other end has as its remote ones."""
    local, remote = pair.end(side).local_networks, pair.end(side.other).remote_networks
    fields = ("local_networks", "remote_networks") if side is Side.LEFT else ("remote_networks", "local_networks")
    name, far = pair.names[side], pair.names[side.other]

    def row(verdict: Verdict, reason: str, value: str = "", code: str = "", remedies: tuple[Remedy, ...] = ()) -> Row:
        title = f"{name}'s networks"
        return pair.row(
            f"networks-{side.value}", title, Stage.CHILD, Relation.MIRROR, fields, verdict, reason,
            value=value, code=code, remedies=remedies,
        )  # fmt: skip

    if not local or not remote:
        return row(Verdict.UNKNOWN, f"the networks that {name if not local else far} has for {name} are not known yet")
    here, there = minimal_cover(local), minimal_cover(remote)
    if here == there:
        return row(Verdict.AGREED, "both ends have the same networks")
    remedies = pair.copies(f"{name}'s networks", *fields)
    common = minimal_cover(inner for a in here for b in there if (inner := _intersection(a, b)))
    if not common:
        return row(
            Verdict.DIFFERS,
            f"{name} and {far} have no address of {name}'s in common",
            code="child.no-common-network",
            remedies=remedies,
        )
    lost = [f"{_listed(_outside(here, common))} only at {name}"] if _outside(here, common) else []
    lost += [f"{_listed(_outside(there, common))} only at {far}"] if _outside(there, common) else []
    return row(Verdict.NARROWED, f"never passes: {'; '.join(lost)}", _listed(common), "child.networks-narrowed", remedies)


def _intersection(a: Prefix, b: Prefix) -> Prefix | None:
    if a.contains(b):
        return b
    return a if b.contains(a) else None


def _outside(blocks: Iterable[Prefix], covered: tuple[Prefix, ...]) -> list[Prefix]:
    """Return the blocks that are not covered as a whole."""
    return [block for block in blocks if not any(prefix.contains(block) for prefix in covered)]


def _listed(prefixes: Iterable[Prefix]) -> str:
    return ", ".join(map(str, prefixes))
