"""The registry of transforms, proposals, negotiation, and what is known of keys."""

from __future__ import annotations

import re
from itertools import product
from pathlib import Path
from uuid import UUID

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from pontifex.core.ipsec import (
    REGISTRY,
    Agreement,
    Habit,
    Proposal,
    Protocol,
    Refusal,
    Transform,
    TransformType,
    negotiate,
    registered,
    weakest_link,
)
from pontifex.core.ipsec.generated_key import RANDOM_OCTETS, generated_key, is_generated
from pontifex.core.ipsec.preshared_key import KeyDifference, key_difference, key_facts, measured_strength

REFERENCE = UUID(int=1)
SALT = bytes(16)


def _published():
    """Numbers and names of a general-purpose packet analyser's list."""
    fields = {"encr": "ENCR", "prf": "PRF", "integ": "INTEG", "dh": "KE", "esn": "ESN"}
    rows = {}
    for line in (Path(__file__).parents[1] / "data" / "ikev2-values.txt").read_text().splitlines():
        kind, _, rest = line.partition("\tisakmp.tf.id.")
        if kind == "V" and rest:
            field, number, name = rest.split("\t")
            rows[fields[field], int(number)] = name
    return rows


def _letters(name):
    """A name without what the list and IANA write differently."""
    written = name.lower().replace("_", "-")
    for theirs, ianas in {
        "default ": "",
        "alternate ": "",
        " bit modp": "-bit modp",
        "aes-gcm with a ": "encr-aes-gcm-",
        " octet icv": "",
        " with an 8-octet icv": "-8",
        " with a 12-octet icv": "-12",
        " with a 16-octet icv": "-16",
        "undefined - 0": "none",
        "prf-aes128-cbc": "prf-aes128-xcbc",
        "cmac6": "cmac",
    }.items():
        written = written.replace(theirs, ianas)
    return written


ML_KEM = range(35, 38)  # younger than the list


@pytest.mark.parametrize("type_", ["ENCR", "PRF", "INTEG", "KE", "ESN"])
def test_numbers_are_ianas(type_):
    """Every number of the registry carries the name that IANA gave it."""
    ours = {row.id: _letters(row.name) for row in REGISTRY if row.type.value == type_}
    theirs = {id_: _letters(name) for (kind, id_), name in _published().items() if kind == type_}
    assert ours == {id_: theirs.get(id_, f"ml-kem-{512 if id_ == 35 else 256 * (id_ - 33)}") for id_ in ours}
    assert type_ == "KE" or not set(ours) & set(ML_KEM)


def test_additional_key_exchanges_are_those_of_ke():
    """ADDKE1 to ADDKE7 have the methods of KE, under the same numbers and names (RFC 9370 section 2.2)."""
    methods = {(row.id, row.name) for row in REGISTRY if row.type is TransformType.KE}
    additional = [type_ for type_ in TransformType if type_.is_additional]
    assert len(additional) == 7
    for type_ in additional:
        assert {(row.id, row.name) for row in REGISTRY if row.type is type_} == methods


@pytest.mark.parametrize(
    ("type_", "id_", "ike", "esp", "level"),
    [
        ("ENCR", 12, "MUST", "MUST", "current"),
        ("ENCR", 3, "MAY", "SHOULD NOT", "weak"),
        ("ENCR", 2, "MUST NOT", "MUST NOT", "retired"),
        ("ENCR", 7, None, "MUST NOT", "retired"),
        ("ENCR", 11, None, "MUST", "weak"),
        ("PRF", 7, "SHOULD+", None, "current"),
        ("PRF", 2, "MUST-", None, "weak"),
        ("INTEG", 14, "SHOULD", "SHOULD", "current"),
        ("INTEG", 1, "MUST NOT", "MUST NOT", "retired"),
        ("KE", 14, "MUST", None, "current"),
        ("KE", 5, "SHOULD NOT", None, "weak"),
        ("KE", 22, "MUST NOT", None, "retired"),
        ("KE", 31, None, None, "optional"),
    ],
)
def test_levels_are_the_standards(type_, id_, ike, esp, level):
    """Requirement levels are those of RFC 8247 and RFC 8221; the stricter one, and RFC 9395, decide what to make of it."""
    row = registered(TransformType(type_), id_)
    assert row is not None
    assert (row.ike and row.ike.value, row.esp and row.esp.value, row.level.value) == (ike, esp, level)
    assert re.search(r"RFC \d+|FIPS", row.reference)


def test_no_number_stands_twice():
    """A type and number is one row."""
    assert len({(row.type, row.id) for row in REGISTRY}) == len(REGISTRY)


@pytest.mark.parametrize(
    ("fields", "reason"),
    [
        ({"type": "ENCR", "id": 12}, "ENCR_AES_CBC needs a key length of 128, 192, 256 bits"),
        ({"type": "ENCR", "id": 3, "key_length": 128}, "ENCR_3DES has a fixed key length; leave it out"),
        ({"type": "KE", "id": 999}, "KE 999 is not in the registry of transforms"),
    ],
)
def test_what_is_no_transform(fields, reason):
    """A transform outside the registry, or with a wrong key length, is refused with the reason."""
    with pytest.raises(ValidationError, match=reason):
        Transform.model_validate(fields)


FEW = [
    Transform(type=row.type, id=row.id, key_length=length)
    for row in REGISTRY
    for length in (row.key_lengths[:2] or (None,))
    if row.id in (0, 1, 2, 5, 12, 14, 20) and row.type.value in ("ENCR", "PRF", "INTEG", "KE", "ADDKE1", "ESN")
]
PROPOSALS = st.lists(st.sampled_from(FEW), max_size=6, unique=True).map(lambda ts: Proposal(transforms=tuple(ts)))
LISTS = st.lists(PROPOSALS, min_size=1, max_size=4)


def _options(proposal, type_):
    """The transforms that a proposal allows for a type; no transform is NONE where the type may be left out."""
    held = {t.key for t in proposal.transforms if t.type is type_}
    return held or ({(type_, 0, None)} if type_.value not in ("ENCR", "PRF", "ESN") else set())


def _meets(offered, accepted):
    """By brute force: for each type that either holds, some transform lies in both."""
    return not _unmet(offered, accepted)


def _unmet(offered, accepted):
    """The types that either holds and that have no transform in both."""
    types = {t.type for t in (*offered.transforms, *accepted.transforms)}
    return {type_ for type_ in types if not _options(offered, type_) & _options(accepted, type_)}


@given(LISTS, LISTS)
def test_agreement_exactly_when_some_pair_meets(offer, accept):
    """There is a refusal exactly when no pair of proposals has a common transform of each type that either holds."""
    outcome = negotiate(offer, accept)
    assert isinstance(outcome, Agreement) == any(_meets(a, b) for a, b in product(offer, accept))
    assert type(outcome) is type(negotiate(accept, offer)), "who calls changes what is chosen, never whether"
    assert type(outcome) is type(negotiate(offer, accept, habit=Habit.RESPONDER)), "nor does the habit"


@given(LISTS, LISTS)
def test_what_is_chosen_lies_in_both(offer, accept):
    """The chosen transforms lie in both proposals, one of each type; a refusal is led by the nearest pair."""
    outcome = negotiate(offer, accept)
    if isinstance(outcome, Agreement):
        for transform in outcome.chosen:
            assert transform in offer[outcome.offered].transforms
            assert transform in accept[outcome.accepted].transforms
        assert len({transform.type for transform in outcome.chosen}) == len(outcome.chosen)
        assert not any(_meets(a, b) for a, b in product(offer[: outcome.offered], accept)), "the first that can is taken"
    else:
        unmet = {(at, other): _unmet(a, b) for (at, a), (other, b) in product(enumerate(offer), enumerate(accept))}
        nearest = outcome.nearest
        assert nearest.unmet == tuple(sorted(unmet[nearest.offered, nearest.accepted], key=list(TransformType).index))
        assert len(nearest.unmet) == min(map(len, unmet.values()))


@given(LISTS, LISTS)
def test_the_responders_habit_is_the_initiators_seen_from_the_other_side(offer, accept):
    """A responder in its own order chooses what it would be given, had it called a responder of the other habit."""
    own = negotiate(offer, accept, habit=Habit.RESPONDER)
    mirrored = negotiate(accept, offer)
    if isinstance(own, Agreement) and isinstance(mirrored, Agreement):
        assert (own.offered, own.accepted, own.chosen) == (mirrored.accepted, mirrored.offered, mirrored.chosen)


@pytest.mark.parametrize(
    ("groups", "habit", "chosen", "extra"),
    [
        ([14, 20], Habit.INITIATOR, 14, False),
        ([14, 20], Habit.RESPONDER, 20, True),
        ([20, 14], Habit.INITIATOR, 20, False),
        ([31, 20], Habit.INITIATOR, 20, True),
    ],
)
def test_a_wrong_first_guess_costs_a_round_trip(groups, habit, chosen, extra):
    """The initiator's public value is for its first group; if another is chosen, it is told and asks again."""
    base = (_t("ENCR", 20, 256), _t("PRF", 5))
    offer = [Proposal(transforms=(*base, *(_t("KE", group) for group in groups)))]
    accept = [Proposal(transforms=(*base, _t("KE", 20), _t("KE", 14)))]
    outcome = negotiate(offer, accept, habit=habit)
    assert isinstance(outcome, Agreement)
    assert (outcome.chosen[-1].id, outcome.extra_round_trip) == (chosen, extra)


def test_none_makes_a_type_optional():
    """An additional key exchange beside NONE is taken where both have it, else left out (RFC 9370 section 2.2.2)."""
    plain = Proposal(transforms=(_t("ENCR", 20, 256), _t("PRF", 5), _t("KE", 31)))
    optional = Proposal(transforms=(*plain.transforms, _t("ADDKE1", 36), _t("ADDKE1", 0)))
    demanded = Proposal(transforms=(*plain.transforms, _t("ADDKE1", 36)))
    assert isinstance(negotiate([demanded], [plain]), Refusal)
    for offer, accept, last in ((optional, plain, "KE"), (optional, demanded, "ADDKE1"), (plain, optional, "KE")):
        outcome = negotiate([offer], [accept])
        assert isinstance(outcome, Agreement)
        assert outcome.chosen[-1].type.value == last


def test_the_weakest_link():
    """The strength of a choice is that of its weakest transform."""
    chosen = (_t("ENCR", 20, 256), _t("PRF", 5), _t("KE", 14), _t("ESN", 1))
    assert weakest_link(chosen) == (112, chosen[2])
    assert weakest_link((_t("ENCR", 2),)) == (56, _t("ENCR", 2))
    assert weakest_link(()) is None


def test_groups_of_a_child_are_left_out_of_ike_auth():
    """A Child SA made in IKE_AUTH doesn't compare groups (RFC 7296 section 1.2)."""
    mine, theirs = ([Proposal(transforms=(_t("ENCR", 20, 256), _t("KE", g), _t("ESN", 1)))] for g in (14, 20))
    assert not isinstance(negotiate(mine, theirs), Agreement)
    assert isinstance(negotiate(mine, theirs, frozenset({TransformType.KE})), Agreement)


def _t(type_, id_, key_length=None):
    return Transform(type=TransformType(type_), id=id_, key_length=key_length)


@pytest.mark.parametrize(
    ("transforms", "protocol", "faults"),
    [
        ([_t("ENCR", 20, 256), _t("PRF", 5), _t("KE", 19)], Protocol.IKE, ()),
        ([_t("ENCR", 12, 256), _t("PRF", 5), _t("KE", 19)], Protocol.IKE, ("INTEG is missing",)),
        ([_t("ENCR", 12, 256), _t("INTEG", 12), _t("KE", 19)], Protocol.IKE, ("PRF is missing",)),
        ([_t("ENCR", 20, 256), _t("INTEG", 0), _t("ESN", 0)], Protocol.ESP, ()),
        ([_t("ENCR", 20, 256), _t("PRF", 5), _t("ESN", 0)], Protocol.ESP, ("PRF has no place in it",)),
        (
            [_t("ENCR", 20, 256), _t("INTEG", 12), _t("ESN", 0)],
            Protocol.ESP,
            ("INTEG stands beside a combined-mode cipher, which has its own",),
        ),
        (
            [_t("ENCR", 20, 256), _t("ENCR", 12, 256), _t("INTEG", 12), _t("ESN", 0)],
            Protocol.ESP,
            ("combined-mode ciphers and others share it; they need proposals of their own",),
        ),
        ([], Protocol.ESP, ("ENCR is missing", "ESN is missing")),
    ],
)
def test_what_makes_a_proposal_invalid(transforms, protocol, faults):
    """A proposal says by itself what is wrong with it (RFC 7296 section 3.3)."""
    assert Proposal(transforms=tuple(transforms)).faults(protocol) == faults


@pytest.mark.parametrize(
    ("left", "right", "difference"),
    [
        ("Kite-Anchor-7319", "Kite-Anchor-7319", None),
        ("Kite-Anchor-7319", "Kite-Anchor-7319 ", KeyDifference.EDGES),
        (" Kite-Anchor-7319", "Kite-Anchor-7319", KeyDifference.EDGES),
        ("Kite-Anchor-7319", "Kite-Anchor-7319\r\n", KeyDifference.EDGES),
        ("Kite-Anchor-7319", "kite-anchor-7319", KeyDifference.CASE),
        ("Kite-Anchor-7319", "Kite-Anchor-731", KeyDifference.LENGTH),
        ("Kite-Anchor-7319", "Kite-Anchor-7318", KeyDifference.OTHERWISE),
    ],
)
def test_how_keys_differ(left, right, difference):
    """Two keys are compared without either: the facts alone say how they differ, and hold nothing of them."""
    facts = [key_facts(key, SALT, REFERENCE) for key in (left, right)]
    assert key_difference(facts[0], facts[1]) is difference
    assert "Kite" not in facts[0].model_dump_json()
    assert "kite" not in facts[1].model_dump_json()


@given(st.binary(min_size=RANDOM_OCTETS, max_size=RANDOM_OCTETS))
def test_a_generated_key_is_recognised_and_compared_like_any_other(random):
    """It is known by its check, whatever its case; another character in it makes it a key like any other."""
    key = generated_key(random)
    facts = key_facts(key, SALT, REFERENCE, 256)
    assert is_generated(key)
    assert len(key) == 56
    assert facts.fingerprint == key_facts(key, SALT, REFERENCE).fingerprint
    assert key_difference(facts, key_facts(key.upper(), SALT, REFERENCE)) is KeyDifference.CASE
    assert key_difference(facts, key_facts(f"{key} ", SALT, REFERENCE)) is KeyDifference.EDGES
    other = ("b" if key[0] == "a" else "a") + key[1:]
    assert not is_generated(other)
    assert key_difference(facts, key_facts(other, SALT, REFERENCE)) is KeyDifference.OTHERWISE


def test_a_fingerprint_means_nothing_in_another_design():
    """The same key has another fingerprint under another design's salt."""
    assert key_facts("same", SALT, REFERENCE).fingerprint != key_facts("same", b"x" * 16, REFERENCE).fingerprint


@pytest.mark.parametrize(
    ("key", "least", "most"),
    [("secret", 0, 15), ("Skerry2019", 0, 30), ("aaaaaaaaaaaaaaaa", 0, 25), ("q7VfXw2LkT9sZbNc4RyHd8Me", 112, 160)],
)
def test_strength_is_measured_from_below(key, least, most):
    """Words, years and repeats count for little, random characters for their alphabet."""
    assert least <= measured_strength(key) <= most
