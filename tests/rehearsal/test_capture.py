"""Captures of rehearsals, read by an independent program that decrypts them with their session keys."""

from __future__ import annotations

from dataclasses import replace
from itertools import count
from random import Random
from typing import Any

import pytest

from pontifex.core.rehearsal import NotRehearsed, Rehearsal, rehearse
from tests.support.designs import TODAY
from tests.support.witness import keys_of, read_by_witness
from tests.truth.eap_ends import draw_design
from tests.truth.ends import AGREED, PairData, Proposal, design_of


def _ike(cipher: int, bits: int | None, code: int | None, group: int, prf: int = 5) -> Proposal:
    integrity = (("INTEG", code, None),) if code else ()
    return (("ENCR", cipher, bits), ("PRF", prf, None), *integrity, ("KE", group, None))


def _esp(cipher: int, bits: int | None, code: int | None, group: int, esn: int = 0) -> Proposal:
    integrity = (("INTEG", code, None),) if code else ()
    return (("ENCR", cipher, bits), *integrity, ("KE", group, None), ("ESN", esn, None))


_SUITES: dict[str, tuple[Proposal, Proposal]] = {
    "AES-GCM-16": (_ike(20, 256, None, 31), _esp(20, 256, None, 31)),
    "AES-GCM-8": (_ike(18, 128, None, 19), _esp(18, 128, None, 19)),
    "AES-GCM-12": (_ike(19, 192, None, 20, 6), _esp(19, 192, None, 20)),
    "AES-CCM-16": (_ike(16, 128, None, 21, 7), _esp(20, 128, None, 21)),
    "AES-CCM-8": (_ike(14, 256, None, 32), _esp(12, 256, 14, 32)),
    "AES-CBC with SHA2-256": (_ike(12, 128, 12, 14), _esp(12, 128, 12, 14)),
    "AES-CBC with SHA2-384": (_ike(12, 256, 13, 15, 6), _esp(12, 256, 13, 15)),
    "AES-CBC with SHA2-512": (_ike(12, 256, 14, 28, 7), _esp(12, 192, 14, 28)),
    "3DES with SHA1": (_ike(3, None, 2, 2, 2), _esp(3, None, 2, 2)),
    "AES-CTR in ESP": (_ike(20, 128, None, 5), _esp(13, 128, 12, 5)),
    "no encryption in ESP": (_ike(20, 256, None, 22), _esp(11, None, 12, 22)),
}


def _rehearsed(pair: PairData) -> Rehearsal:
    design = design_of(pair)
    found = rehearse(design, design.tunnels[0], TODAY)
    assert isinstance(found, Rehearsal)
    return found


def _with(left: dict[str, Any], right: dict[str, Any]) -> PairData:
    short: dict[str, Any] = {"ike_lifetime_s": 900, "child_lifetime_s": 400, "margin_s": 60, "dead_peer_s": 300}
    return PairData(replace(AGREED.left, **short, **left), replace(AGREED.right, **short, **right))


@pytest.mark.parametrize("name", _SUITES)
def test_another_program_reads_every_exchange(name, tmp_path):
    """Each message and packet of a rehearsal with rekeys and restarts is well formed and opens by its session keys."""
    ike, child = _SUITES[name]
    both = {"ike": (ike,), "child": (child,)}
    found = _rehearsed(_with(both, both))
    assert found.outcome.up, found.outcome.why
    seen = read_by_witness(found, keys_of(found), tmp_path)
    assert seen.complaints == ()
    assert {34, 35, 36, 37} <= set(seen.exchanges)
    assert (seen.opened, seen.inner) == (seen.sealed, seen.esp)
    assert seen.esp > 10


def test_another_program_reads_what_goes_through_a_nat(tmp_path):
    """At port 4500, with ESP in UDP and keep-alives."""
    hidden = {"address_kind": "behind-nat", "udp_arrives": False}
    found = _rehearsed(_with(hidden, {"role": "wait"}))
    seen = read_by_witness(found, keys_of(found), tmp_path)
    assert seen.complaints == ()
    assert (seen.opened, seen.inner) == (seen.sealed, seen.esp)
    assert seen.esp > 10


@pytest.mark.parametrize("method", ["MD5-Challenge", "EAP-MSCHAP-V2", "EAP-TLS"])
def test_another_program_reads_a_proof_by_eap(method, tmp_path):
    """Each method's rounds within IKE_AUTH, as an independent reader parts them."""
    designs = (draw_design(Random(number)) for number in count())
    found = next(
        candidate
        for candidate in (rehearse(design, design.tunnels[0], TODAY) for design in designs)
        if _is_up_by(candidate, method)
    )
    assert isinstance(found, Rehearsal)
    seen = read_by_witness(found, keys_of(found), tmp_path)
    assert seen.complaints == ()
    assert (seen.opened, seen.inner) == (seen.sealed, seen.esp)
    assert seen.exchanges[35] >= 6


def _is_up_by(found: Rehearsal | NotRehearsed, method: str) -> bool:
    """Whether a tunnel came up after a proof by a method."""
    return (
        isinstance(found, Rehearsal)
        and found.outcome.up
        and any(method in line.text for event in found.messages for line in event.payloads if line.name == "EAP")
    )


def test_another_program_reads_additional_key_exchanges(tmp_path):
    """ML-KEM in IKE_INTERMEDIATE, in fragments: read under the first keys, and what follows under the second."""
    ike = (*_ike(20, 256, None, 31), ("ADDKE1", 36, None))
    child = (*_esp(20, 256, None, 31), ("ADDKE1", 36, None))
    both = {"ike": (ike,), "child": (child,)}
    found = _rehearsed(_with(both, both))
    keys = keys_of(found)
    first = {sa.spi_i: sa for sa in reversed(keys.ike)}
    later = {sa.spi_i: sa for sa in keys.ike}
    opened: set[int] = set()
    for chosen in (first, later):
        seen = read_by_witness(found, replace(keys, ike=tuple(chosen.values())), tmp_path)
        opened |= seen.opened
    assert {43, 44} <= set(seen.exchanges)
    assert seen.sealed <= opened
