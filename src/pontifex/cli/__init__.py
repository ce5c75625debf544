"""The command line, for people and for pipelines. A command's module is loaded when it is called."""

from __future__ import annotations

from importlib import import_module
from typing import Final

import typer
from typer._click import Command, Context  # the types that a group of commands speaks in
from typer.core import TyperGroup
from typer.main import get_command

from pontifex.collector import collect_seldom

_COMMANDS: Final = {  # name, and where it is
    "backup": "upkeep:backup_command",
    "check": "check:check_command",
    "cover": "addresses:cover_command",
    "demo": "run:demo_command",
    "designs": "upkeep:designs",
    "dhcp-routes": "route_lists:dhcp_routes",
    "drift": "drift:drift_command",
    "exit": "exit:exit_command",
    "fingerprint": "ipsec:fingerprint_command",
    "form": "form:form_command",
    "free": "addresses:free_command",
    "kinds": "describe:kinds_command",
    "linux-plan": "paths:linux_plan_command",
    "matrix": "paths:matrix_command",
    "negotiate": "ipsec:negotiate_command",
    "openapi": "describe:openapi_command",
    "overhead": "ipsec:overhead_command",
    "overlaps": "addresses:overlaps_command",
    "plan": "plan:plan_command",
    "profile": "profile:profile_command",
    "proposals": "ipsec:proposals_command",
    "rehearse": "rehearse:rehearse_command",
    "render": "render:render_command",
    "restore": "upkeep:restore_command",
    "rollout": "rollout:rollout_command",
    "rotate-master-key": "upkeep:rotate_command",
    "schema": "describe:schema_command",
    "serve": "run:serve_command",
    "sheet": "sheet:sheet_command",
    "split": "route_lists:split_command",
    "sweep": "paths:sweep_command",
    "ticket": "upkeep:ticket_command",
    "trace": "paths:trace_command",
    "yang": "describe:yang_command",
}


class _Commands(TyperGroup):
    """The commands of the table above."""

    def list_commands(self, ctx: Context) -> list[str]:
        """Return the names of all commands."""
        del ctx
        return list(_COMMANDS)

    def get_command(self, ctx: Context, cmd_name: str) -> Command | None:
        """Return a command, its module loaded."""
        del ctx
        if cmd_name not in _COMMANDS:
            return None
        collect_seldom()  # loading its module makes many values, too
        module, _, name = _COMMANDS[cmd_name].partition(":")
        found = getattr(import_module(f"{__name__}.{module}"), name)
        if not isinstance(found, typer.Typer):
            alone = typer.Typer(add_completion=False, pretty_exceptions_show_locals=False)
            alone.command(cmd_name)(found)
            found = alone
        command = get_command(found)
        command.name = cmd_name
        return command


app = typer.Typer(cls=_Commands, no_args_is_help=True, pretty_exceptions_show_locals=False)


@app.callback()
def _design_tunnels() -> None:
    """Design VPN tunnels with both ends in view."""
