"""A misspelt field, or a value of the wrong type, doesn't get past mypy."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path
from zlib import crc32

ROOT = Path(__file__).parents[1]
# each line but the first few must be refused; the comment says why
SAMPLES = """
from pontifex.core.catalogue import Code, Severity
from pontifex.core.findings.finding import Place, remark
from pontifex.core.kinds import Network, ObjectType, Role, Side, Tunnel
from pontifex.core.matching import Remedy, TunnelEnds
from pontifex.core.model import Design
from pontifex.core.reasons.reach import OnlyTcpOut, SwitchedOn
from pontifex.core.routing import Hop


def samples(network: Network, tunnel: Tunnel, ends: TunnelEnds, place: Place, hop: Hop, design: Design) -> None:
    network.changed(prefx=network.prefix)  # misspelt
    network.changed(vlan="40")  # wrong type
    design.changed(tunels=())  # misspelt
    tunnel.with_end(Side.LEFT, rolle=Role.CALL)  # misspelt
    tunnel.with_end(Side.LEFT, role="call")  # wrong type
    ends.set_field(Side.LEFT, "Call", peer_adress="any")  # misspelt
    ends.set_same("Switch on", enabled="yes")  # wrong type
    remark(Code.KEY_WEEK, (place,), "why")  # no such code
    remark("key.weak", (place,), "why")  # a text
    Place(type=ObjectType.TUNNEL, id="t", name="t", feild="left/key")  # misspelt
    Remedy(title="Mend", operation=())  # misspelt
    hop.decison  # misspelt
    OnlyTcpOut(sides=Side.LEFT)  # misspelt
    OnlyTcpOut("left")  # wrong type
    SwitchedOn(3)  # a parameter of a reason that has none
"""
SOUND = """
from pontifex.core.kinds import Network, Role, Side, Tunnel
from pontifex.core.matching import Remedy, TunnelEnds
from pontifex.core.reasons.reach import OnlyTcpOut, SwitchedOn

REASONS = (OnlyTcpOut(Side.LEFT), OnlyTcpOut(side=Side.RIGHT), SwitchedOn())


def sound(network: Network, tunnel: Tunnel, ends: TunnelEnds) -> tuple[Network, Tunnel, Remedy]:
    changed = network.changed(prefix=network.prefix, vlan=40, zone="")
    return changed, tunnel.with_end(Side.LEFT, role=Role.CALL), ends.set_same("On", enabled=True)
"""


def _errors(path: Path) -> list[str]:
    command = [sys.executable, "-m", "mypy", "--config-file", str(ROOT / "pyproject.toml"), str(path)]
    ran = subprocess.run(command, cwd=ROOT, env=os.environ | {"MYPYPATH": "src"}, capture_output=True, text=True, check=False)
    return [line for line in ran.stdout.splitlines() if ": error:" in line]


def test_what_is_misspelt_is_refused(tmp_path):
    plugin = (ROOT / "tools" / "mypy_fields.py").read_bytes()
    samples = tmp_path / f"samples_{crc32(plugin)}.py"  # mypy keeps what it said of a module of this name
    samples.write_text(SAMPLES)
    wrong = {number for number, line in enumerate(SAMPLES.splitlines(), 1) if "  # " in line}
    told = {int(line.split(":")[1]) for line in _errors(samples) if str(samples.name) in line}
    assert told == wrong
    sound = tmp_path / "sound.py"
    sound.write_text(SOUND)
    assert _errors(sound) == []
