"""A gateway in open forms: valid by the published modules, without secrets, and by templates that may do no harm."""

from __future__ import annotations

import json
import subprocess
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from typer.testing import CliRunner

from pontifex.cli import app
from pontifex.core.design_file import write_design_file
from pontifex.core.handover.renderings import TemplateRefused, ike_model, render_template, routing_model, template_variables
from pontifex.core.kinds import Technology
from pontifex.core.model import apply_operations
from pontifex.demo import demo_design
from tests.support.drawn import DRAWN, drawn_design
from tests.support.yang import check, data_model

DEMO = demo_design()
MODEL = data_model()
WEB = Path(__file__).parents[2] / "web"


@pytest.mark.parametrize("gateway_id", [gateway.id for gateway in DEMO.gateways])
def test_interfaces_and_routes_are_valid_by_the_published_modules(gateway_id):
    """An independent reader takes what is written for each gateway of the demo; one wrong value is refused by it."""
    found = routing_model(DEMO, gateway_id)
    check(MODEL, found)
    found["ietf-interfaces:interfaces"]["interface"][0]["ietf-ip:ipv4"]["address"] = [{"ip": "10.0.0.1", "prefix-length": 33}]
    with pytest.raises(Exception, match="prefix-length"):
        check(MODEL, found)


@settings(max_examples=10)
@given(*DRAWN)
def test_any_gateway_is_valid(drawn, kinds, down):
    """Whatever routes and networks a design has, no two interfaces or routes are of one name."""
    design = drawn_design(drawn, kinds)
    for gateway in design.gateways:
        check(MODEL, routing_model(design, gateway.id))


def test_the_model_of_ike_has_every_tunnel_and_no_secret():
    """One connection and two entries of the authorization database for each tunnel with IKEv2; no key in it."""
    model = ike_model(DEMO, "harbour-gateway")["ietf-i2nsf-ike:ipsec-ike"]
    mine = [tunnel.id for tunnel in DEMO.tunnels if "harbour-gateway" in (tunnel.left.gateway_id, tunnel.right.gateway_id)]
    ikev2 = [id_ for id_ in mine if DEMO.tunnel_by_id[id_].left.technology is Technology.IPSEC_IKEV2]
    assert [entry["name"] for entry in model["conn-entry"]] == ikev2
    assert len(model["pad"]["pad-entry"]) == 2 * len(ikev2)
    ostvik = next(candidate for candidate in model["conn-entry"] if candidate["name"] == "harbour-ostvik")
    assert ostvik["ike-sa-encr-alg"][0] == {"id": 1, "algorithm-type": 20, "key-length": 256}
    assert ostvik["dh-group"] == 20
    assert "secret" not in json.dumps(model)


def test_a_template_sees_a_gateway_as_a_file_has_it():
    """Loops, conditions and values; what each name stands for is described."""
    lines = (
        "{% for tunnel in tunnels if tunnel.this.role == 'wait' %}",
        "{{ tunnel.name }}: {{ tunnel.this.role }}",
        "{% endfor %}",
    )
    text = "\n".join(lines)
    assert "Harbour–Ostvik: wait" in render_template(text, DEMO, "harbour-gateway").splitlines()
    for variable in template_variables():
        assert render_template(f"{{{{ {variable.name} is defined }}}}", DEMO, "harbour-gateway") == "True"


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("{{ gateway.nothing }}", "line 1"),
        ("one\n{% for %}", "line 2"),
        ("{{ gateway.__class__.__mro__ }}", "line 1"),
        ("{{ ''.__class__ }}", "line 1"),
        ("{% include 'x' %}", "loader"),
        ("{{ 9 ** 9 ** 9 }}", "isn't allowed"),
        ("{{ 'x' * 1000000000 }}", "isn't allowed"),
        ("{% for a in range(1000000) %}x{% endfor %}", "range"),
        ("{% for a in range(99999) %}{% for b in range(99999) %}xxxxxxxxxxxx{% endfor %}{% endfor %}", "characters"),
        ("{% macro m() %}{{ m() }}{% endmacro %}{{ m() }}", "without end"),
        ("{{ 1 / 0 }}", "line 1"),
        ("x" * 100_001, "at most"),
        ("{{ tunnels.append(1) }}", "line 1"),
    ],
)
def test_a_template_can_do_no_harm(text, said):
    """What isn't described, what has no end and what is too large is refused, with its line where there is one."""
    with pytest.raises(TemplateRefused) as caught:
        render_template(text, DEMO, "harbour-gateway")
    assert said in str(caught.value)


def test_the_command_writes_each_form(tmp_path):
    """JSON of both models, and a template; 2 for a gateway that isn't there, or a template that is wrong."""
    file, template = tmp_path / "line.json", tmp_path / "device.txt"
    file.write_text(write_design_file(apply_operations(DEMO, [])))
    template.write_text("{{ gateway.name }}\n")
    run = CliRunner().invoke
    for form, top in (("rfc9061", "ietf-i2nsf-ike:ipsec-ike"), ("ietf-routing", "ietf-interfaces:interfaces")):
        assert top in json.loads(run(app, ["render", str(file), "harbour-gateway", "--as", form]).stdout)
    assert run(app, ["render", str(file), "harbour-gateway", "--as", str(template)]).stdout == "Harbour firewall pair\n"
    files = run(app, ["render", str(file), "dock-gateway", "--as", "linux-files"]).stdout
    assert "==> /etc/systemd/network/60-pontifex-exit0.network <==" in files
    assert run(app, ["render", str(file), "harbour-gateway", "--as", "linux-files"]).exit_code == 2
    template.write_text("{{ nothing }}")
    assert run(app, ["render", str(file), "harbour-gateway", "--as", str(template)]).exit_code == 2
    assert run(app, ["render", str(file), "nowhere"]).exit_code == 2
    loops = "{% for a in range(9999) %}" * 3 + "{% set b = a %}" + "{% endfor %}" * 3
    template.write_text(loops)
    endless = run(app, ["render", str(file), "harbour-gateway", "--as", str(template)])
    assert (endless.exit_code, "takes more than" in endless.output) == (2, True)


def test_findings_are_valid_sarif(tmp_path):
    """The log is what the types of the standard's schema allow, and each result names its rule; a field more is refused."""
    file = tmp_path / "line.json"
    file.write_text(write_design_file(DEMO))
    sarif = json.loads(CliRunner().invoke(app, ["check", str(file), "--format", "sarif"]).stdout)
    (only,) = sarif["runs"]
    rules = only["tool"]["driver"]["rules"]
    assert all(rules[result["ruleIndex"]]["id"] == result["ruleId"] for result in only["results"])
    assert _complaints(tmp_path, sarif) == ""
    only["results"][0]["colour"] = "red"
    assert "colour" in _complaints(tmp_path, sarif)


def _complaints(folder: Path, sarif: dict[str, Any]) -> str:
    """Return what TypeScript says of a log held against the published types of SARIF 2.1.0."""
    sample, modules = folder / "sample.ts", WEB / "node_modules"
    sample.write_text(f"import type {{ Log }} from 'sarif'\nexport const log: Log = {json.dumps(sarif)}\n")
    settings_file = {
        "compilerOptions": {"strict": True, "noEmit": True, "paths": {"sarif": [str(modules / "@types/sarif")]}, "types": []}
    }
    (folder / "tsconfig.json").write_text(json.dumps({**settings_file, "files": ["sample.ts"]}))
    done = subprocess.run([modules / ".bin/tsc", "-p", folder], capture_output=True, text=True, check=False)
    return done.stdout + done.stderr
