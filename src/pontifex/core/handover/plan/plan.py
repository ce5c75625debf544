"""A plan: steps in their order, what each must show, and what can't be avoided."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from datetime import date
from functools import reduce
from typing import Annotated, Final

from pydantic import Field

from pontifex.core.addressing import Selector
from pontifex.core.errors import TooLarge
from pontifex.core.handover.plan.entries import ENTERED, entries
from pontifex.core.handover.plan.entry import TOUCHES_OLD, Entry, only_tunnel, written
from pontifex.core.handover.plan.probes import PairProbe, pair_probes, probes
from pontifex.core.handover.plan.search import Made, Order, Search
from pontifex.core.handover.plan.standing import Judge, PairKey, Promise, Standing, StandingChange, pair_words
from pontifex.core.handover.plan.step import SettingChange, Step, TunnelState, renewal_steps, save_step
from pontifex.core.handover.plan.told import does, undo, values
from pontifex.core.handover.readings.setting import intended_of
from pontifex.core.kinds import KINDS, MemberType, ObjectType, Profile, Rule, Tunnel
from pontifex.core.model import Design

# what decides nothing of what works
_PAPER: Final = (
    ObjectType.PROFILE,
    ObjectType.ACCEPTANCE,
    ObjectType.PREFIX_RESERVATION,
    ObjectType.TEMPLATE,
    ObjectType.EXIT,
    ObjectType.CLOUD_NETWORK,
)


OnProgress = Callable[[int, int], None]  # how much is done, of how much


@dataclass(frozen=True, slots=True, kw_only=True)
class Outage:
    """Something that doesn't work for a while, though it works before the change and after it."""

    what: Annotated[str, Field(title="What", examples=["tunnel Harbour–Tarn"])]
    from_step: Annotated[int, Field(title="From step")]
    until_step: Annotated[int, Field(title="Until this step is done")]
    why: Annotated[str, Field(title="Why")]

    @property
    def steps(self) -> int:
        """How many steps it lasts: it begins as one is done, and ends as another is."""
        return max(1, self.until_step - self.from_step)


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangePlan:
    """The way from one state to another."""

    steps: tuple[Step, ...]
    at_first: Annotated[tuple[TunnelState, ...], Field(title="Before the first step: the tunnels that the steps are about")]
    outages: tuple[Outage, ...]
    is_least: Annotated[bool, Field(title="No other order has less of an outage", description="False where not all were tried.")]
    no_return: Annotated[
        int | None, Field(title="Point of no return", description="From this step on the way back touches what was there before.")
    ]
    pairs: Annotated[tuple[PairProbe, ...], Field(title="Tried before the first step and after the last")]
    kept_tunnels: Annotated[int, Field(title="Tunnels that must work all the time")]
    kept_pairs: Annotated[int, Field(title="Wanted pairs that must work all the time")]

    @property
    def proved(self) -> bool:
        """Whether all that works before and after works after each step."""
        return not self.outages


@dataclass
class _States:
    """The states of a plan, by what is entered, each made of the one before it."""

    start: Design
    first: Standing
    judge: Judge
    promise: Promise
    last: tuple[int, Design, Standing]
    tell: Callable[[int], None]
    judged: dict[tuple[int, int], Standing | StandingChange] = field(default_factory=dict)  # by state and last entry

    def broken(self, made: Made) -> int:
        """Return how many tunnels and pairs don't work, though they must."""
        key, state, standing = self.last
        before = made.before.key if made.before else 0
        if key == before:
            now, then = self.after(made.key, made.entry, state, standing)
        else:
            now = reduce(written, made, self.start)
            then = self.judged[made.key, made.entry.place] = self.judge.standing(now)
        self.last = (made.key, now, then)
        self.tell(made.key.bit_count())
        return len(self.promise.broken_tunnels(then)) + len(self.promise.broken_pairs(then))

    def after(self, key: int, entry: Entry, state: Design, standing: Standing) -> tuple[Design, Standing]:
        """Return the state of a key, an entry after the one given, and what works in it."""
        now = written(state, entry)
        found = self.judged.get((key, entry.place))
        if found is None:
            tunnel_id = only_tunnel(entry)
            found = self.judge.change(tunnel_id, (state, now), standing) if tunnel_id else None
            found = self.judged[key, entry.place] = found or self.judge.standing(now)
        return now, found if isinstance(found, Standing) else standing.after(found, now)


def change_plan(
    before: Design,
    after: Design,
    today: date,
    most_judged: int | None = None,
    on_progress: OnProgress = lambda _done, _of: None,
) -> ChangePlan:
    """Return the plan from one state of a design to another: the order in which what works keeps working, or the least outage.

    `on_progress` is told how many entries are in order or put into words, of twice as many as there are. Raise TooLarge
    where more than so many tunnels would be judged on the way, each after every entry.
    """
    before, after = with_lists_spelt_out(before), with_lists_spelt_out(after)
    made = entries(before, after)
    if most_judged is not None and len(made) * len(after.tunnels) > most_judged:
        raise TooLarge(f"{len(made)} entries among {len(after.tunnels)} tunnels; take the change in parts")
    judge = Judge(before.intents, today)
    start = judge.known(with_paper(before, after))
    first = judge.standing(start)
    promise = Promise.of(first, judge.standing(after.changed(intents=before.intents)))
    states = _States(start, first, judge, promise, (0, start, first), lambda done: on_progress(done, 2 * len(made)))
    return _told(states, Search(made, states.broken).order(), after.profiles)


def with_lists_spelt_out(design: Design) -> Design:
    """Return a design whose rules name the prefixes of lists by themselves, as devices hold them: a changed list changes them."""
    rules = tuple(_spelt_out(design, rule) for rule in design.rules)
    return design if rules == design.rules else design.changed(rules=rules)


def _spelt_out(design: Design, rule: Rule) -> Rule:
    """Return a rule without lists. An empty one stays, since a rule without destinations would be about everything."""
    lists = [
        member for member in rule.destination_members if member.type is MemberType.PREFIX_LIST and design.member_prefixes(member)
    ]
    if not lists:
        return rule
    named = (Selector.of(prefix) for member in lists for prefix in design.member_prefixes(member))
    return rule.changed(
        destinations=(*rule.destinations, *named),
        destination_members=tuple(member for member in rule.destination_members if member not in lists),
    )


def with_paper(before: Design, after: Design) -> Design:
    """Return the first state with all that is changed in the design alone, and entered at no device."""
    settings = after.settings.by_field()
    lists = {
        kind.members: tuple(
            sorted(
                {member.id: member for member in (*getattr(before, kind.members), *getattr(after, kind.members))}.values(),
                key=_id,
            )
        )
        for kind in KINDS
        if kind.name not in ENTERED and kind.name is not ObjectType.INTENT
    }
    tunnels = tuple(
        tunnel.changed(name=new.name, exceptions=new.exceptions, standard_id=new.standard_id)
        if (new := after.tunnel_by_id.get(tunnel.id))
        else tunnel
        for tunnel in before.tunnels
    )
    nothing: dict[str, object] = {kind.members: () for kind in KINDS if kind.name in _PAPER}
    return before.with_valid({**settings, **lists, **nothing, "tunnels": tunnels})


def _id(item: object) -> str:
    return str(getattr(item, "id", ""))


@dataclass
class _Lost:
    """What doesn't work after a step, though it must."""

    number: int
    sentences: dict[str, str]  # what is said of each tunnel that is lost, by its id
    pairs: tuple[PairKey, ...]

    def __bool__(self) -> bool:
        return bool(self.sentences or self.pairs)


def _lost(number: int, promise: Promise, standing: Standing) -> _Lost:
    broken = {id_: standing.forecasts.get(id_) for id_ in promise.broken_tunnels(standing)}
    sentences = {id_: str(found.sentence) if found else "It isn't there." for id_, found in broken.items()}
    return _Lost(number, sentences, promise.broken_pairs(standing))


def _told(states: _States, order: Order, profiles: Sequence[Profile]) -> ChangePlan:
    """Put the steps into words, with what each shows, and a save at each gateway once all of it is entered and nothing lost.

    `profiles` are those whose gateways may hold leases: no state of a plan has any.
    """
    steps: list[Step] = []
    found: list[_Lost] = []
    judge, promise = states.judge, states.promise
    state, standing, key = states.start, states.first, 0
    left = Counter(entry.device for entry in order.entries)
    for entry in order.entries:
        key |= 1 << entry.place
        states.tell(len(order.entries) + key.bit_count())
        now, then = states.after(key, entry, state, standing)
        lost = _lost(len(steps) + 1, promise, then)
        steps.append(_step(entry, (state, judge.known(now)), (standing, then), lost))
        found.append(lost)
        steps.extend(renewal_steps(len(steps) + 1, entry, (state, now), profiles))
        state, standing = now, then
        left[entry.device] -= 1
        if not lost:
            for device in [device for device, entries_left in left.items() if not entries_left]:
                del left[device]
                if device.type is ObjectType.GATEWAY:
                    steps.append(save_step(len(steps) + 1, device))
    return ChangePlan(
        steps=tuple(steps),
        at_first=tuple(_at_first(states.start, states.first, steps)),
        outages=tuple(_outages(states.start, state, found, len(steps))),
        is_least=order.is_least,
        no_return=next((step.number for step in steps if step.touches_old), None),
        pairs=pair_probes((judge.known(states.start), judge.known(state)), (states.first, standing)),
        kept_tunnels=len(promise.levels),
        kept_pairs=len(promise.pairs),
    )


def _at_first(start: Design, first: Standing, steps: Sequence[Step]) -> Iterator[TunnelState]:
    changed = {state.tunnel_id for step in steps for state in step.expected}
    touched = {step.about.partition("/")[2] for step in steps if step.about.startswith("tunnel/")}
    for id_ in sorted(changed | touched):
        found = first.forecasts.get(id_)
        if found:
            name = start.tunnel_by_id[id_].name
            yield TunnelState(tunnel_id=id_, name=name, state=found.state, sentence=str(found.sentence))


def _step(entry: Entry, states: tuple[Design, Design], standings: tuple[Standing, Standing], lost: _Lost) -> Step:
    before, after = states
    tunnels = (f"tunnel {after.tunnel_by_id[id_].name}" for id_ in lost.sentences if id_ in after.tunnel_by_id)
    down = (*tunnels, *(pair_words(after, key) for key in lost.pairs))
    return Step(
        number=lost.number,
        device=entry.device,
        action=entry.action,
        about=f"{entry.key[0].value}/{entry.key[1]}",
        side=entry.side,
        does=does(entry, before, after),
        values=values(entry, before, after),
        writes=entry.writes,
        settings=tuple(_settings(entry, before, after)),
        expected=tuple(_changed(states, standings)),
        checks=probes(entry, after, standings[1]),
        undo=undo(entry),
        down=down,
        worked_over=_worked_over(entry, before),
        touches_old=entry.action in TOUCHES_OLD,
    )


def _changed(states: tuple[Design, Design], standings: tuple[Standing, Standing]) -> Iterator[TunnelState]:
    """Yield the tunnels of which the forecast isn't what it was."""
    was, is_ = (standing.forecasts for standing in standings)
    for id_, found in is_.items():
        known = was.get(id_)
        if known is not found and (known is None or (known.state, str(known.sentence)) != (found.state, str(found.sentence))):
            name = states[1].tunnel_by_id[id_].name
            yield TunnelState(tunnel_id=id_, name=name, state=found.state, sentence=str(found.sentence))
    for id_ in was.keys() - is_.keys():
        yield TunnelState(tunnel_id=id_, name=states[0].tunnel_by_id[id_].name, state=None, sentence="It isn't there any more.")


def _settings(entry: Entry, before: Design, after: Design) -> Iterator[SettingChange]:
    """Yield what a reading of the device shows otherwise after the step."""
    if entry.device.type is not ObjectType.GATEWAY:
        return
    was, is_ = (
        {setting.path: setting.text for setting in intended_of(state, entry.device.id, entry.key)} for state in (before, after)
    )
    for path in sorted(was.keys() | is_.keys()):
        if was.get(path) != is_.get(path):
            yield SettingChange(path=path, before=was.get(path), after=is_.get(path))


def _worked_over(entry: Entry, before: Design) -> str:
    """Return the tunnel over which a device may be reached, where a step changes its own end of it."""
    tunnel = before.by_type[ObjectType.TUNNEL].get(entry.key[1]) if entry.key[0] is ObjectType.TUNNEL else None
    return tunnel.name if isinstance(tunnel, Tunnel) and entry.action in TOUCHES_OLD else ""


def _outages(start: Design, end: Design, found: Sequence[_Lost], steps: int) -> Iterator[Outage]:
    """Yield what is lost for a while, each run of steps as one."""
    running: dict[str | PairKey, Outage] = {}
    for lost in found:
        told: dict[str | PairKey, tuple[str, str]] = {}
        for tunnel_id, sentence in lost.sentences.items():
            told[tunnel_id] = f"tunnel {_tunnel_name(start, end, tunnel_id)}", sentence
        for key in lost.pairs:
            told[key] = pair_words(end, key), "No way leads there and back."
        for over in [what for what in running if what not in told]:
            yield replace(running.pop(over), until_step=lost.number)
        for begun, (what, why) in told.items():
            running.setdefault(begun, Outage(what=what, from_step=lost.number, until_step=lost.number, why=why))
    yield from (replace(outage, until_step=steps) for outage in running.values())


def _tunnel_name(start: Design, end: Design, id_: str) -> str:
    return (end.tunnel_by_id.get(id_) or start.tunnel_by_id[id_]).name
