"""A Linux machine by SSH: what it runs is read with `ip -j` and `sysctl`, and what it keeps from files that are ours alone.

Before anything is entered, the machine is given the commands that take it back, and a clock: unless somebody confirms in time
it goes back by itself, with no connection needed. Commands run as root, by `sudo` without a terminal for any other user.
"""

from __future__ import annotations

import json
import shlex
from collections.abc import Sequence
from datetime import UTC, datetime
from typing import Any, Final

import asyncssh

from pontifex.connectors.connector import DeviceChange, DeviceRefused, DeviceSilent
from pontifex.core.addressing import Family, parse_interface
from pontifex.core.addressing.address import parse_address_value
from pontifex.core.handover.readings import Reading
from pontifex.core.handover.readings.linux import (
    FILE_HEAD,
    FORWARDING,
    NETWORK_FOLDER,
    SYSCTL_FILE,
    CantEnter,
    Commands,
    LinuxNames,
    LinuxPolicy,
    MachinePolicy,
    MachineState,
    commands_of,
    kept_files,
    kept_settings,
    policy_settings,
    running_settings,
)

_WITHIN_S: Final = 10.0
_MOST_OCTETS: Final = 8_000_000
_PINGS: Final = 3
_PING_WAIT_S: Final = 2
_STATE: Final = "/run/pontifex"  # the way back, as long as nobody has confirmed
_FAMILIES: Final = {Family.V4: "-4", Family.V6: "-6"}
_PART, _NAME = "\x1e", "\x1f"  # what ends a part of an answer, and the name of a file in it
_LOOK: Final = "\n".join(
    [f"{command}; printf '\\036'" for command in (
        *(f"sysctl -n {key} 2>/dev/null" for key in FORWARDING.values()),
        *(f"ip -j {flag} route show table main" for flag in _FAMILIES.values()),
        "ip -j address",
    )]
    + [f"for file in {SYSCTL_FILE} {NETWORK_FOLDER}/{FILE_HEAD}*.network; do",
       "[ ! -e \"$file\" ] || { printf '%s\\037' \"$file\"; cat \"$file\"; printf '\\036'; }",
       "done"]
)  # fmt: skip
_LIST: Final = "ip -4 rule; ip -6 rule; printf '\\036'; nft list table inet pontifex 2>/dev/null; printf '\\036'"


class SshConnector:
    """One Linux machine over an open connection."""

    def __init__(self, connection: asyncssh.SSHClientConnection, user: str, names: LinuxNames) -> None:
        self._connection, self._user, self._names = connection, user, names

    async def read(self) -> Reading:
        """Return what runs in the kernel, and what our files hold; the program that ends the tunnels isn't read."""
        state, files = await self._looked()
        running = running_settings(self._names, state)
        if self._names.policy:
            running |= policy_settings(self._names.policy, *await self._policies(self._names.policy))
        return Reading(
            gateway_id=self._names.gateway_id,
            taken_at=datetime.now(UTC),
            source="SSH",
            complete=False,
            running=running,
            after_restart=kept_settings(self._names, files),
        )

    async def _policies(self, policy: LinuxPolicy) -> tuple[MachinePolicy, MachinePolicy]:
        """Return what the machine would list if all were entered as intended, and what it lists.

        The first is entered in a network of its own, which is gone at once: so both are in the words of the same programs.
        """
        given = "\n".join([*policy.rules, "nft -f - <<'END'", *policy.packets, "END", _LIST]) + "\n"
        wanted = await self._root("unshare --net sh -s", given)
        listed = await self._root("sh -s", _LIST + "\n")
        intends, runs = (MachinePolicy.of(*text.split(_PART)[:2]) for text in (wanted, listed))
        return intends, runs

    async def try_out(self, changes: Sequence[DeviceChange]) -> tuple[str, ...]:
        """Return the commands that would be given."""
        return tuple(line for commands in await self._commands(changes) for line in commands.apply)

    async def _commands(self, changes: Sequence[DeviceChange]) -> list[Commands]:
        runs = running_settings(self._names, await self._state())
        try:
            return [commands_of(self._names, change.path, runs.get(change.path), change.value) for change in changes]
        except (CantEnter, ValueError) as error:
            raise DeviceRefused(str(error)) from None

    async def apply(self, changes: Sequence[DeviceChange], confirm_within_s: int) -> None:
        """Enter changes one after the other; where one isn't taken, those before it are taken back at once."""
        commands = await self._commands(changes)
        back = [line for command in reversed(commands) for line in command.back]
        forth = [line for command in commands for line in command.apply]
        written = "\n".join(["set -e", *forth])
        await self._root(
            f"mkdir -p {_STATE} && cat > {_STATE}/back && touch {_STATE}/waits && "
            f"(setsid sh -c 'sleep {confirm_within_s}; [ ! -e {_STATE}/waits ] || {{ sh {_STATE}/back; rm -f {_STATE}/waits; }}' "
            "</dev/null >/dev/null 2>&1 &)",
            "\n".join(back) + "\n",
        )
        try:
            await self._root("sh -s", written + "\n")
        except DeviceRefused:
            await self._root(f"sh {_STATE}/back; rm -f {_STATE}/waits; true")
            raise

    async def confirm(self) -> None:
        """Let stay what was entered."""
        await self._root(f"rm {_STATE}/waits")

    async def save(self) -> None:
        """Write our files from what runs; those of devices that have nothing any more go."""
        state, old = await self._looked()
        files = kept_files(self._names, state)
        lines = ["set -e"]
        for name, text in files.items():
            quoted, folder = shlex.quote(name), shlex.quote(name.rpartition("/")[0])
            lines += [f"mkdir -p {folder}", f"printf %s {shlex.quote(text)} > {quoted}.new", f"mv {quoted}.new {quoted}"]
        lines += [f"rm -f {shlex.quote(name)}" for name in sorted(old.keys() - files.keys())]
        await self._root("sh -s", "\n".join(lines) + "\n")

    async def restart(self) -> None:
        """Restart the machine."""
        await self._root("systemctl reboot")

    async def ping(self, source: str, destination: str) -> str:
        """Try an address three times, from the machine's own address in the network of `source`."""
        held = [parse_interface(address) for link in (await self._state()).links for address in link.addresses]
        asked = parse_address_value(source)
        own = next((interface for interface in held if interface.prefix.holds(asked)), None)
        if own is None:
            raise DeviceRefused(f"it has no address in the network of {source}")
        to = parse_address_value(destination)
        # it ends with another status where nothing answers, which is an answer, too
        return await self._said(f"ping -n -c {_PINGS} -W {_PING_WAIT_S} -I {own.address} {to} || true")

    async def _state(self) -> MachineState:
        return (await self._looked())[0]

    async def _looked(self) -> tuple[MachineState, dict[str, str]]:
        """Return what runs, and our files by their names; all of it by one command."""
        said = (await self._said(_LOOK)).split(_PART)
        try:
            switches = dict(zip(FORWARDING.values(), (text.strip() for text in said), strict=False))
            at = len(switches)
            routes = {family: _json(said[at + place]) for place, family in enumerate(_FAMILIES)}
            at += len(routes)
            state = MachineState.of(routes, _json(said[at]), switches)
            return state, dict(text.split(_NAME, 1) for text in said[at + 1 : -1])
        except (IndexError, KeyError, TypeError, ValueError):
            raise DeviceRefused("what it says of its routes and interfaces isn't in the form that is expected") from None

    async def _root(self, command: str, given: str = "") -> str:
        whole = f"sh -c {shlex.quote(command)}"
        return await self._said(whole if self._user == "root" else f"sudo -n {whole}", given)

    async def _said(self, command: str, given: str = "") -> str:
        """Return what a command says. Raise DeviceRefused where it fails, DeviceSilent where nothing comes in time."""
        try:
            done = await self._connection.run(command, input=given, timeout=_WITHIN_S)
        except (OSError, asyncssh.Error) as error:
            raise DeviceSilent(
                f"no answer within {_WITHIN_S:g} s" if isinstance(error, TimeoutError) else "the connection broke off"
            ) from None
        said, wrong = str(done.stdout or ""), str(done.stderr or "").strip()
        if done.exit_status != 0:
            raise DeviceRefused(wrong.splitlines()[-1][:200] if wrong else f"a command ended with status {done.exit_status}")
        if len(said) > _MOST_OCTETS:
            raise DeviceRefused("it answers with more than a gateway can hold")
        return said


def _json(text: str) -> Any:
    return json.loads(text) if text.strip() else []
