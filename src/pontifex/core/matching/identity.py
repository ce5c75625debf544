"""Auth, first half: what each end says it is against what the other expects (RFC 7296 sections 2.15 and 3.5)."""

from __future__ import annotations

import unicodedata

from pontifex.core.matching.pair import Pair
from pontifex.core.matching.row import Relation, Remedy, Row, Stage, Verdict
from pontifex.core.model import Identity, Side


def identity_row(pair: Pair, side: Side) -> Row:
    """Compare the identity that an end sends with the one that the other expects."""
    sent, expected = pair.end(side).local_identity, pair.end(side.other).remote_identity
    fields = ("local_identity", "remote_identity") if side is Side.LEFT else ("remote_identity", "local_identity")
    name = pair.names[side]

    def row(verdict: Verdict, reason: str, code: str = "", remedies: tuple[Remedy, ...] = ()) -> Row:
        title = f"{name}'s identity"
        return pair.row(
            f"identity-{side.value}", title, Stage.AUTH, Relation.MIRROR, fields, verdict, reason, code=code, remedies=remedies
        )

    if sent is None or expected is None:
        who = name if sent is None else pair.names[side.other]
        return row(Verdict.UNKNOWN, f"what {who} {'says' if sent is None else 'expects'} is not known yet")
    if sent == expected and sent.value:
        return row(Verdict.AGREED, "both have the same type and value")
    what = f"{name}'s identity"
    for end, given, reason in (
        (side, sent, f"{name}'s own identity is empty"),
        (side.other, expected, f"{pair.names[side.other]} expects an empty identity"),
    ):
        if not given.value:
            mendable = sent.value or expected.value  # with both empty there is nothing to copy
            remedies = (pair.copy_to(end, what, *fields),) if mendable else ()
            return row(Verdict.DIFFERS, reason, "end.identity-empty", remedies)
    code, clause = _difference(sent, expected)
    return row(Verdict.DIFFERS, f"{name}'s identities differ {clause}", code, pair.copies(what, *fields))


def _difference(sent: Identity, expected: Identity) -> tuple[str, str]:
    """Return the code and how two identities differ, the least visible difference named as such."""
    if sent.type is not expected.type:
        return "end.identity-type", f"in type ({sent.type.value} and {expected.type.value})"
    if sent.value.strip() == expected.value.strip():
        return "end.identity-blank", f"by a blank at the edge ('{sent.value}' and '{expected.value}')"
    if sent.value.casefold() == expected.value.casefold():
        return "end.identity-case", f"in case ({sent.value} and {expected.value})"
    foreign = [letter for letter in sent.value + expected.value if not letter.isascii()]
    if foreign:
        letter = unicodedata.name(foreign[0], "an unnamed character").lower()
        return "end.identity-homograph", f"and one holds a letter from outside ASCII ({letter})"
    return "end.identity-differs", f"({sent.value} and {expected.value})"
