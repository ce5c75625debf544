"""Changes: applied whole or refused whole, undone exactly, and written as fields."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pontifex.core.find import find
from pontifex.core.kinds import ObjectType, Side, Site
from pontifex.core.kinds.member import Member, MemberType
from pontifex.core.model import ChangeRefused, Remove, apply_operations, difference, put
from tests.support.operations import DESIGN, OPERATIONS, put_network


@given(st.lists(OPERATIONS, max_size=6))
def test_undo_is_the_identity(operations):
    """Any change that is accepted is undone by the operations between the states, and redone by those the other way."""
    try:
        after = apply_operations(DESIGN, operations)
    except ChangeRefused as refused:
        places = {problem.index for problem in refused.problems}
    else:
        places = set()
        changed = difference(DESIGN, after)
        back = apply_operations(after, changed.backward)
        again = apply_operations(back, changed.forward)
        assert back.content() == DESIGN.content()
        assert again.content() == after.content()
        assert bool(changed.fields(most=9)) == bool(changed.forward)
    assert places <= set(range(len(operations)))


@pytest.mark.parametrize(
    ("operations", "problem"),
    [
        ([put_network("x", "nowhere")], (0, "site_id", "there is no site 'nowhere'")),
        ([Remove(type=ObjectType.SITE, id="nowhere")], (0, "id", "there is no site 'nowhere' to remove")),
        ([put(Site(id="x", name="ostvik  TERMINAL"))], (0, "name", "another site is called 'Ostvik Terminal' already")),
        ([put_network("x", "ostvik", name="Cameras")], (0, "name", "another network is called 'cameras' already")),
        (
            [put(Site(id="x", name="X")), Remove(type=ObjectType.UPLINK, id="ostvik-dsl")],
            (1, "id", "tunnel 'Harbour–Ostvik' still needs uplink 'ostvik-dsl'"),
        ),
        (
            [put(DESIGN.exits[0].with_valid({"shared_by": (Member(type=MemberType.NETWORK, id=DESIGN.networks[0].id),)}))],
            (0, "shared_by/0", "a network can't stand here"),
        ),
        (
            [put(DESIGN.tunnel_by_id["harbour-ostvik"].with_end(Side.LEFT, uplink_id="corvina-lte"))],
            (0, "left/uplink_id", "uplink 'LTE' belongs to gateway 'corvina-gateway', not to 'harbour-gateway'"),
        ),
        (
            [put(DESIGN.uplink_by_id["ostvik-dsl"].changed(gateway_id="brenna-gateway"))],
            (0, "gateway_id", "tunnel 'Harbour–Ostvik' uses this uplink at gateway 'ostvik-gateway'"),
        ),
    ],
)
def test_a_refused_operation_says_which_field_and_why(operations, problem):
    """A change that can't be is refused whole, with the operation, the field and the reason."""
    with pytest.raises(ChangeRefused) as caught:
        apply_operations(DESIGN, operations)
    (found,) = caught.value.problems
    assert (found.index, found.field, found.reason) == problem


def test_removing_with_what_hangs_on_it():
    """A site goes with its networks, gateways, their uplinks and tunnels; everything else stays."""
    after = apply_operations(DESIGN, [Remove(type=ObjectType.SITE, id="ostvik", cascade=True)])
    assert {tunnel.id for tunnel in DESIGN.tunnels} - {tunnel.id for tunnel in after.tunnels} == {"harbour-ostvik"}
    assert "ostvik" not in {network.site_id for network in after.networks} | {gateway.site_id for gateway in after.gateways}
    assert len(after.uplinks) == len(DESIGN.uplinks) - 1


def test_a_change_is_written_for_a_person():
    """Fields are named by their titles, with both values; a key shows as its fingerprint."""
    tunnel = DESIGN.tunnel_by_id["harbour-brenna"]
    assert tunnel.left.key is not None
    after = apply_operations(DESIGN, [put(tunnel.with_end(Side.RIGHT, key=tunnel.left.key))])
    (change,) = difference(DESIGN, after).fields(most=9)
    assert (change.name, change.field) == ("Harbour–Brenna", "Right end: Pre-shared key")
    assert change.after == f"key {tunnel.left.key.fingerprint} (42 characters)"


@pytest.mark.parametrize(
    ("question", "hits"),
    [
        ("10.64.8.7", ["tarn-berth-system", "harbour-servers"]),
        ("10.64.12.9", ["harbour-voice"]),
        ("10.90.0.1", ["settings"]),
        ("192.0.2.9", ["settings"]),
        ("10.64.0.0/16", ["harbour-crew-access", "harbour-voice"]),
        ("198.51.100.10", ["harbour-fibre"]),
        ("brenna", ["brenna", "brenna-gateway"]),
        ("ostvik.dyn", ["ostvik-dsl"]),
        ("  ", []),
    ],
)
def test_find_or_ask(question, hits):
    """A name finds what is called so, an address who has it, a prefix what it meets."""
    assert [hit.id for hit in find(DESIGN, question, most=2)] == hits


@pytest.mark.parametrize(
    ("question", "words"),
    [
        ("10.65.0.9", "Ostvik Terminal has 10.65.0.0/24 as its own"),
        ("10.64.3.1", "Tarn Port Authority has 10.64.0.0/22 as the far side's"),
        ("10.90.0.0/24", "10.90.0.0/24 is free, within the supernets"),
        ("192.0.2.9", "192.0.2.0/24 is set apart for documentation (RFC 5737)"),
        ("9.9.9.9", "is public space"),
        ("192.168.1.1", "is outside the supernets"),
    ],
)
def test_an_address_says_who_names_it_or_what_space_it_is(question, words):
    """An address is told with the tunnels that name it; one that nobody uses, with the space that it lies in."""
    assert any(words in hit.detail for hit in find(DESIGN, question))
