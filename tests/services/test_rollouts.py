"""Roll-outs in a real database: the signing key outlives the purge, and records go with their design."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor

from sqlalchemy import text

from pontifex.core.people.profile_file import verified
from pontifex.core.people.rollout import RolloutAct
from pontifex.demo import demo_design

LIST = "a,Deck crew,d1,tablet\nb,Deck crew,d2,laptop\nc,Rota clerks,d3,laptop"


def test_the_signing_key_is_not_purged(designs, keys, records, engine):
    """However old it is: a version that is signed later has the same signer."""
    design = designs.add_as("skerry-line", demo_design())
    first = records.rollouts.public_key(design)
    with engine.begin() as connection:
        connection.execute(text("update vault_key set made_at = now() - interval '2 years'"))
    assert keys.purge() == 0
    made = records.rollouts.sign(design, "crew", "", "ann")
    assert verified(records.rollouts.file(design, "crew", made.number), first).version == 1


def test_pages_of_devices_and_what_goes_with_a_design(designs, records, engine):
    """Devices in the order in which they were added, by state; nothing of them is left without their design."""
    design = designs.add_as("skerry-line", demo_design())
    records.rollouts.add(design, LIST, "ann")
    records.rollouts.sign(design, "crew", "", "ann")
    records.rollouts.act(design, "crew", RolloutAct.FIRST, "ann", first=2)
    shown = records.rollouts.shown(design, "crew")
    assert [(device.name, device.state.value) for device in shown.devices] == [
        ("d1", "offered"),
        ("d2", "offered"),
        ("d3", "assigned"),
    ]
    later = records.rollouts.shown(design, "crew", begin=2)
    assert ([device.name for device in later.devices], later.devices_count) == (["d3"], 3)
    with engine.begin() as connection:
        connection.execute(text("delete from design"))
        for table in ("person_device", "profile_version", "profile_rollout", "profile_signer"):
            assert connection.scalar(text(f"select count(*) from {table}")) == 0


def test_two_who_sign_and_add_at_once(designs, records):
    """Each version has a number of its own, and a name that two lists have is one device."""
    design = designs.add_as("skerry-line", demo_design())
    with ThreadPoolExecutor(4) as pool:
        numbers = list(pool.map(lambda _: records.rollouts.sign(design, "crew", "", "ann").number, range(6)))
        added = list(pool.map(lambda _: records.rollouts.add(design, LIST, "ann").added, range(4)))
    assert sorted(numbers) == [1, 2, 3, 4, 5, 6]
    assert sorted(added) == [0, 0, 0, 3]


def test_a_group_is_offered_what_was_signed_for_it(designs, records):
    """A group that the profile names since is offered nothing before a version is signed for it: shown as devices find it."""
    design = designs.add_as("skerry-line", demo_design())
    added = records.rollouts.add(design, f"{LIST}\nd,Kitchen,d4,laptop", "ann")
    tokens = dict(line.split(",") for line in added.tokens.splitlines()[1:])
    records.rollouts.sign(design, "crew", "", "ann")
    records.rollouts.act(design, "crew", RolloutAct.FIRST, "ann", first=2)
    crew = design.profiles[0]
    wider = design.changed(profiles=(crew.changed(groups=(*crew.groups, "Kitchen")),))

    def told() -> dict[str, int | None]:
        return {device.name: device.offered for device in records.rollouts.shown(wider, "crew").devices}

    def found() -> dict[str, int | None]:
        service = records.provisioning
        asked = {name: service.offers(service.device_of(token)) for name, token in tokens.items()}
        return {name: offers[0].version if offers else None for name, offers in asked.items()}

    assert told() == found() == {"d1": 1, "d2": 1, "d3": None, "d4": None}
    records.rollouts.act(wider, "crew", RolloutAct.ALL, "ann")
    assert told() == found() == {"d1": 1, "d2": 1, "d3": 1, "d4": None}
    records.rollouts.act(wider, "crew", RolloutAct.ALL, "ann", version=records.rollouts.sign(wider, "crew", "", "ann").number)
    assert told() == found() == {"d1": 2, "d2": 2, "d3": 2, "d4": 2}
