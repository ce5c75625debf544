"""Findings about tunnels: what the comparison of the two ends says, and what each end offers by itself."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Sequence
from itertools import chain

from pontifex.core.findings.finding import Finding, Place, finding
from pontifex.core.ipsec import Level, Proposal, Protocol, proposal_faults
from pontifex.core.matching import Remedy, Row, Verdict
from pontifex.core.model import Design, ObjectType, Side, Tunnel, TunnelEnd, put

WEAK_KEY_BITS = 112  # NIST SP 800-57 part 1, section 5.6.3: the least acceptable strength through 2030


def row_findings(tunnel: Tunnel, rows: Sequence[Row]) -> Iterator[Finding]:
    """Yield what the rows say: a finding for each that differs, and one for all that isn't known."""
    for row in rows:
        if row.code:
            ends = (row.left, row.right) if _left_first(row.code, row.key) else (row.right, row.left)
            where = tuple(_place(tunnel, end.side, end.field) for end in ends if end.field != "uplink_id")
            yield finding(row.code, where, f"{tunnel.name}: {row.reason}", row.remedies)
    unknown = [row for row in rows if row.verdict is Verdict.UNKNOWN]
    if unknown:
        where = tuple(_place(tunnel, end.side, end.field) for row in unknown for end in (row.left, row.right))
        titles = ", ".join(row.title for row in unknown)
        yield finding("tunnel.not-known", where, f"{tunnel.name}: {len(unknown)} rows can't be compared ({titles})")


def _left_first(code: str, key: str) -> bool:
    """The cursor goes to the end that is more likely wrong: the far one, but where a row is about the left end."""
    return code.startswith("reach.") or key.endswith("-left")


def _place(tunnel: Tunnel, side: Side, field: str) -> Place:
    return Place.of(type=ObjectType.TUNNEL, id=tunnel.id, name=tunnel.name, field=f"{side.value}/{field}")


_LISTS = ((Protocol.IKE, "ike_proposals", "IKE"), (Protocol.ESP, "child_proposals", "Child SA"))
_CODE_OF_LEVEL = {Level.RETIRED: "crypto.must-not", Level.WEAK: "crypto.weak"}


def algorithm_findings(design: Design, tunnel: Tunnel) -> Iterator[Finding]:
    """Yield a finding for each list of proposals with weak or retired transforms; the remedy drops them."""
    for side in Side:
        for protocol, field, title in _LISTS:
            proposals: tuple[Proposal, ...] = getattr(tunnel.end(side), field)
            names: dict[Level, dict[str, None]] = {level: {} for level in _CODE_OF_LEVEL}  # a dictionary keeps the order
            for transform in chain.from_iterable(proposal.transforms for proposal in proposals):
                if transform.level in names:
                    names[transform.level][transform.label] = None
            for level, code in _CODE_OF_LEVEL.items():
                if names[level]:
                    site = design.site_of(tunnel.end(side)).name
                    why = f"{tunnel.name}: {site}'s {title} proposals hold {', '.join(names[level])}"
                    yield finding(code, (_place(tunnel, side, field),), why, _without(tunnel, side, field, protocol, level))


def _without(tunnel: Tunnel, side: Side, field: str, protocol: Protocol, level: Level) -> tuple[Remedy, ...]:
    """Return the remedy that drops the transforms of a level, if valid proposals remain at that end."""
    kept = []
    for proposal in getattr(tunnel.end(side), field):
        left = Proposal.of(transforms=tuple(t for t in proposal.transforms if t.level is not level))
        if not proposal_faults(left, protocol):
            kept.append(left)
    if not kept:
        return ()
    operations = (put(tunnel.with_end(side, **{field: tuple(kept)})),)
    return (Remedy(title="Drop them; the rest of the list remains", operations=operations),)


def key_findings(design: Design) -> Iterator[Finding]:
    """Yield findings about weak keys, and about keys that serve several tunnels."""
    users: dict[str, list[Tunnel]] = defaultdict(list)
    for tunnel in design.tunnels:
        for fingerprint in {key.fingerprint for end in (tunnel.left, tunnel.right) if (key := end.key)}:
            users[fingerprint].append(tunnel)
        weak = [side for side in Side if _is_weak(tunnel.end(side))]
        if weak:
            key = tunnel.end(weak[0]).key
            assert key is not None  # _is_weak has seen it
            strength = f"about {key.strength_bits} bits; {WEAK_KEY_BITS} is the least"
            why = f"{tunnel.name}: the key {key.fingerprint} has a strength of {strength}"
            yield finding("key.weak", tuple(_place(tunnel, side, "key") for side in weak), why)
    for fingerprint, tunnels in sorted(users.items()):
        if len(tunnels) > 1:
            where = tuple(_place(tunnel, Side.LEFT, "key") for tunnel in tunnels)
            yield finding("key.reused", where, f"the key {fingerprint} serves {', '.join(t.name for t in tunnels)}")


def _is_weak(end: TunnelEnd) -> bool:
    return end.key is not None and end.key.strength_bits < WEAK_KEY_BITS
