"""The connector by RESTCONF against stand-in gateways over real TLS: each habit, and what a way back leaves."""

from __future__ import annotations

import asyncio
from dataclasses import replace

import pytest

from pontifex.connectors import DeviceChange, DeviceProtocol, DeviceRefused, DeviceSilent, fingerprint_of, opened
from pontifex.core.handover.readings.linux import LinuxNames
from pontifex.standins import GatewayHabit
from tests.support.standins import access_to, served

CHECKS = "tunnel/harbour-ostvik/left/dead_peer_s"
LIFETIME = "tunnel/harbour-ostvik/left/ike_lifetime_s"
ROUTE = "gateway/harbour-gateway/route/10.65.0.0/24"
FIRST = {CHECKS: "30", LIFETIME: "28800", ROUTE: "by tunnel Harbour–Ostvik"}
ID = "harbour-gateway"
NAMES = LinuxNames(ID, {}, {})


@pytest.fixture
def device(tmp_path, request):
    with served(tmp_path, {ID: request.param}, {ID: FIRST}) as servers:
        yield servers.gateways[ID]


def _changes(**values):
    return [DeviceChange(path={"checks": CHECKS, "lifetime": LIFETIME, "route": ROUTE}[k], value=v) for k, v in values.items()]


async def _read_again(access):
    for _ in range(100):
        try:
            async with opened(NAMES, access) as connector:
                return await connector.read()
        except DeviceSilent:
            await asyncio.sleep(0.05)
    raise AssertionError("the device stays away")


async def _entered(access, changes, within_s=30, *, confirm=True, save=False):
    async with opened(NAMES, access) as connector:
        await connector.apply(changes, within_s)
        if confirm:
            await connector.confirm()
        if save:
            await connector.save()
        return await connector.read()


@pytest.mark.anyio
@pytest.mark.parametrize("device", [GatewayHabit.FORGETS, GatewayHabit.SLOW], indirect=True)
async def test_what_is_not_saved_is_gone_after_a_restart(device):
    """What is entered runs; only what was saved outlives the restart."""
    access = access_to(device)
    reading = await _entered(access, _changes(checks="45", route=None))
    assert (reading.running, reading.after_restart) == ({CHECKS: "45", LIFETIME: "28800"}, FIRST)
    async with opened(NAMES, access) as connector:
        with pytest.raises(DeviceSilent):  # it goes down before it answers
            await connector.restart()
    assert (await _read_again(access)).running == FIRST
    await _entered(access, _changes(lifetime="14400"), save=True)
    async with opened(NAMES, access) as connector:
        with pytest.raises(DeviceSilent):
            await connector.restart()
    reading = await _read_again(access)
    assert reading.running == reading.after_restart == {**FIRST, LIFETIME: "14400"}


@pytest.mark.anyio
@pytest.mark.parametrize("device", [GatewayHabit.DROPS], indirect=True)
async def test_a_value_that_is_dropped_is_seen_by_reading_back(device):
    """Of two values at once one isn't taken, without a word; entered by itself it is."""
    access = access_to(device)
    assert (await _entered(access, _changes(checks="45", lifetime="14400"))).running == {**FIRST, LIFETIME: "14400"}
    assert (await _entered(access, _changes(checks="45"))).running[CHECKS] == "45"


@pytest.mark.anyio
@pytest.mark.parametrize("device", [GatewayHabit.CUTS], indirect=True)
async def test_a_connection_that_is_cut_is_taken_up_again_or_the_device_goes_back(device):
    """It runs what was applied; without a word in time it goes back by itself."""
    access = access_to(device)
    async with opened(NAMES, access) as connector:
        with pytest.raises(DeviceSilent):
            await connector.apply(_changes(checks="45"), 30)
    assert (await _read_again(access)).running[CHECKS] == "45"
    device.device.clock = lambda clock=device.device.clock: clock() + 60  # nobody confirmed for a minute
    assert (await _read_again(access)).running == FIRST


@pytest.mark.anyio
@pytest.mark.parametrize("device", [GatewayHabit.REFUSES], indirect=True)
async def test_a_refused_value_leaves_the_device_as_it_was(device):
    """It says why, and nothing of what came with it runs."""
    proposals = DeviceChange(path="tunnel/harbour-ostvik/left/ike_proposals", value="AES-GCM-16-256 · ML-KEM-768")
    async with opened(NAMES, access_to(device)) as connector:
        with pytest.raises(DeviceRefused, match="no key exchange"):
            await connector.try_out([proposals])
        assert await connector.try_out(_changes(checks="45", route=None)) == (
            "PUT pontifex-gateway:gateway/tunnel-end=harbour-ostvik,left/dead-peer-s: 45",
            "DELETE pontifex-gateway:gateway/route=,10.65.0.0%2F24/ways",
        )
        with pytest.raises(DeviceRefused, match="no key exchange"):
            await connector.apply([proposals, *_changes(checks="45")], 30)
        assert (await connector.read()).running == FIRST


@pytest.mark.anyio
@pytest.mark.parametrize("device", [GatewayHabit.FORGETS], indirect=True)
async def test_nothing_is_sent_to_a_device_that_shows_another_certificate(device):
    """Nor is anybody let in with another password; and no secret shows in what is printed."""
    access = access_to(device)
    assert await fingerprint_of(DeviceProtocol.RESTCONF, access.address) == access.fingerprint
    with pytest.raises(DeviceSilent, match="another certificate"):
        async with opened(NAMES, replace(access, fingerprint=f"00:00{access.fingerprint[5:-1]}-")):
            pass
    async with opened(NAMES, replace(access, secret="guessed")) as connector:
        with pytest.raises(DeviceRefused, match="let this user in"):
            await connector.read()
    assert access.secret not in repr(access)
    with pytest.raises(DeviceSilent):
        await fingerprint_of(DeviceProtocol.RESTCONF, "127.0.0.1:9")


@pytest.mark.anyio
@pytest.mark.parametrize("device", [GatewayHabit.FORGETS], indirect=True)
@pytest.mark.parametrize("half", [{"tunnel-end": [{"tunnel": "harbour-ostvik"}]}, {"colour": "red"}, [], {"route": ["x"]}])
async def test_half_an_answer_is_no_reading(device, monkeypatch, half):
    """A device that leaves something out, or says what no module has: nothing of it is taken for what it runs."""
    monkeypatch.setattr("pontifex.standins.restconf.instance_of", lambda _: {"pontifex-gateway:gateway": half})
    async with opened(NAMES, access_to(device)) as connector:
        with pytest.raises(DeviceRefused):
            await connector.read()


def test_what_is_kept_outlives_the_stand_ins(tmp_path):
    """A stand-in that is started again begins with what it had saved."""
    habits = {ID: GatewayHabit.FORGETS}
    with served(tmp_path, habits, {ID: FIRST}) as servers:
        asyncio.run(_entered(access_to(servers.gateways[ID]), _changes(checks="45"), save=True))
    with served(tmp_path, habits, {ID: FIRST}) as servers:
        assert servers.gateways[ID].device.running[CHECKS] == "45"
    (tmp_path / f"{ID}.json").write_text("{cut off")
    with served(tmp_path, habits, {ID: FIRST}) as servers:
        assert servers.gateways[ID].device.running == FIRST
