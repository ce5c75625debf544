"""Templates of one's own: text for the devices that stand at the sites, written by whoever knows them.

They run in a sandbox: what isn't described can't be asked for, and size and depth are bounded. Values come as a design file
has them, so that what a template sees is what the schema of the file describes.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Final

from jinja2 import StrictUndefined, TemplateError, TemplateSyntaxError, UndefinedError
from jinja2.exceptions import SecurityError
from jinja2.sandbox import ImmutableSandboxedEnvironment

from pontifex.core.as_json import json_data
from pontifex.core.handover.renderings.routing_model import routing_model
from pontifex.core.kinds.template import MOST_TEMPLATE
from pontifex.core.model import Design

_MOST_TEXT: Final = 1_000_000
_MOST_TURNS: Final = 100_000


class TemplateRefused(ValueError):
    """A template that can't be rendered; the message says why, and `line` where, from 1."""

    def __init__(self, reason: str, line: int | None) -> None:
        super().__init__(f"line {line}: {reason}" if line else reason)
        self.reason, self.line = reason, line


@dataclass(frozen=True, slots=True, kw_only=True)
class Variable:
    """Something that a template may ask for."""

    name: str
    meaning: str


_VARIABLES: Final = (
    Variable(name="gateway", meaning="The gateway, as a design file has it: name, kind, inside_address, …"),
    Variable(name="site", meaning="Its site: name, organisation, place."),
    Variable(name="networks", meaning="The networks of its site: name, prefix, gateway_address, …"),
    Variable(name="uplinks", meaning="Its uplinks: name, address, dns_name, interface, mtu, …"),
    Variable(
        name="tunnels",
        meaning="Its tunnels, each with name, this (its own end), far (the other end), this_uplink and far_uplink.",
    ),
    Variable(name="routes", meaning="Its routes: prefix, via, tunnel_id, uplink_id, metric."),
    Variable(name="rules", meaning="Its rules, in the order of their positions."),
    Variable(name="filters", meaning="Its filters."),
    Variable(name="translations", meaning="Its translations."),
    Variable(name="interfaces", meaning="Its interfaces by ietf-interfaces."),
)


def template_variables() -> tuple[Variable, ...]:
    """Return what a template may ask for."""
    return _VARIABLES


def render_template(text: str, design: Design, gateway_id: str) -> str:
    """Render a template for a gateway. Raise TemplateRefused, or KeyError for a gateway that isn't there."""
    if len(text) > MOST_TEMPLATE:
        raise TemplateRefused(f"a template has {MOST_TEMPLATE} characters at most", None)
    try:
        template = _Sandbox().from_string(text)
        parts: list[str] = []
        size = 0
        for part in template.generate(**_values(design, gateway_id)):
            size += len(part)
            if size > _MOST_TEXT:
                raise TemplateRefused(f"it writes more than {_MOST_TEXT} characters", None)
            parts.append(part)
    except TemplateSyntaxError as error:
        raise TemplateRefused(error.message or "it can't be read", error.lineno) from None
    except UndefinedError as error:
        raise TemplateRefused(str(error.message), _line(error)) from None
    except SecurityError as error:
        raise TemplateRefused(f"it asks for what a template may not have: {error.message}", _line(error)) from None
    except TemplateError as error:
        raise TemplateRefused(str(error.message), _line(error)) from None
    except RecursionError:
        raise TemplateRefused("it calls itself without end", None) from None
    except (TypeError, ValueError, ArithmeticError, LookupError, MemoryError) as error:
        if isinstance(error, TemplateRefused):
            raise
        raise TemplateRefused(str(error) or type(error).__name__, _line(error)) from None
    return "".join(parts)


def _line(error: BaseException) -> int | None:
    """Return the line of the template in which an error came up."""
    line, trace = None, error.__traceback__
    while trace:
        if trace.tb_frame.f_code.co_filename == "<template>":
            line = trace.tb_lineno
        trace = trace.tb_next
    return line


class _Sandbox(ImmutableSandboxedEnvironment):
    """Without loading of other templates, and with bounded loops."""

    def __init__(self) -> None:
        super().__init__(undefined=StrictUndefined, trim_blocks=True, lstrip_blocks=True, autoescape=False)
        self.globals = {"range": _bounded_range}
        self.intercepted_binops = frozenset({"**", "*", "%"})

    def call_binop(self, context: Any, operator: str, left: Any, right: Any) -> Any:
        """Refuse what grows without bounds: powers, and texts multiplied or filled up."""
        if operator == "**" or not all(isinstance(operand, int | float) for operand in (left, right)):
            raise SecurityError(f"'{operator}' of this isn't allowed here")
        return super().call_binop(context, operator, left, right)


def _bounded_range(*bounds: int) -> range:
    found = range(*bounds)
    if len(found) > _MOST_TURNS:
        raise ValueError(f"a range has {_MOST_TURNS} numbers at most")
    return found


def _values(design: Design, gateway_id: str) -> dict[str, Any]:
    gateway = design.gateway_by_id[gateway_id]
    tunnels = []
    for tunnel, side in design.ends_of_gateway(gateway_id):
        this, far = tunnel.end(side), tunnel.end(side.other)
        uplinks = {"this_uplink": design.uplink_of(this), "far_uplink": design.uplink_of(far)}
        tunnels.append({"id": tunnel.id, "name": tunnel.name, "this": this, "far": far, **uplinks})
    mine = {
        name: [candidate for candidate in getattr(design, name) if candidate.gateway_id == gateway_id]
        for name in ("uplinks", "routes", "filters", "translations")
    }
    rules = sorted((rule for rule in design.rules if rule.gateway_id == gateway_id), key=lambda rule: rule.position)
    found: dict[str, Any] = json_data(
        {
            "gateway": gateway,
            "site": design.site_by_id[gateway.site_id],
            "networks": design.networks_of_site(gateway.site_id),
            "tunnels": tunnels,
            "rules": rules,
            **mine,
        }
    )
    return found | {"interfaces": routing_model(design, gateway_id)["ietf-interfaces:interfaces"]["interface"]}
