"""What a gateway accepts of those who call it at one place, before it knows who they are."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from copy import copy

from pontifex.core.ipsec import Agreement, Proposal, negotiate
from pontifex.core.kinds import Technology
from pontifex.core.matching.callers import Call
from pontifex.core.matching.proposals import IKE

Asked = tuple[Technology, tuple[Proposal, ...]]  # what a caller offers for the IKE SA, or what it is answered with


class AnsweringCalls:
    """What a gateway accepts of those who call it at one place: it takes the first tunnel that fits an offer."""

    def __init__(self, calls: list[Call]) -> None:
        self.places = {call.tunnel.id: place for place, call in enumerate(calls)}
        self._accepting = [accepted_by(call) for call in calls]
        self._lists = Counter(self._accepting)
        self.offers = Counter(map(asked_by, calls))
        self._first: dict[Asked, int | None] = {}

    def replaced(self, old: Call, new: Call) -> AnsweringCalls:
        """Return the same with a call in place of another one."""
        made = copy(self)
        made._accepting, made._lists, made.offers, made._first = (
            self._accepting.copy(),
            self._lists.copy(),
            self.offers.copy(),
            {},
        )
        made._accepting[self.places[old.tunnel.id]] = accepted_by(new)
        for counted, was, is_ in ((made._lists, accepted_by(old), accepted_by(new)), (made.offers, asked_by(old), asked_by(new))):
            counted[is_] += 1
            counted[was] -= 1
            if not counted[was]:
                del counted[was]
        return made

    @property
    def differ(self) -> bool:
        """Whether not all of them accept the same."""
        return len(self._lists) > 1

    def first(self, asked: Asked) -> int | None:
        """Return the place of the first tunnel that fits an offer; None where none does, or all accept the same."""
        if asked not in self._first:
            self._first[asked] = next(self._fitting(asked), None) if self.differ else None
        return self._first[asked]

    def _fitting(self, asked: Asked) -> Iterator[int]:
        fits = {accepted: _fits(asked, accepted) for accepted in self._lists}
        yield from (place for place, accepted in enumerate(self._accepting) if fits[accepted])


def _fits(asked: Asked, accepted: Asked) -> bool:
    technology, offer = asked
    if accepted[0] is not technology or not offer or not accepted[1]:
        return False
    return isinstance(negotiate(offer, accepted[1], IKE[technology].leave_out), Agreement)


def asked_by(call: Call) -> Asked:
    """Return what a caller offers for the IKE SA."""
    end = call.tunnel.end(call.caller)
    return end.technology, end.ike_proposals


def accepted_by(call: Call) -> Asked:
    """Return what a call is answered with."""
    end = call.tunnel.end(call.answers)
    return end.technology, end.ike_proposals
