"""An independent reader of the files that systemd-networkd reads (systemd.network(5)): what it would enter, as commands."""

from __future__ import annotations

import configparser
from collections.abc import Iterator

_RULE = {
    "Priority": "pref",
    "From": "from",
    "To": "to",
    "IncomingInterface": "iif",
    "IPProtocol": "ipproto",
    "DestinationPort": "dport",
    "FirewallMark": "fwmark",
    "Table": "table",
    "SuppressPrefixLength": "suppress_prefixlength",
}
_ROUTE = {"Gateway": "via", "Metric": "metric", "Table": "table"}


class _AsWritten(configparser.ConfigParser):
    """Keeps the letters of keys as they are."""

    def optionxform(self, optionstr: str) -> str:
        return optionstr


def entered(text: str, verb: str = "add") -> Iterator[str]:
    """Yield what a .network file enters, or with another verb takes out again."""
    device = ""
    for section, fields in _sections(text):
        if section == "Match":
            device = fields["Name"]
        elif section == "Link":
            yield f"ip link set {device} mtu {fields['MTUBytes']}"
        elif section == "Network":
            yield f"ip address {verb} {fields['Address']} dev {device}"
        elif section == "Route":
            kind = fields.get("Type", "")
            words = [f"{word} {fields[key]}" for key, word in _ROUTE.items() if key in fields]
            by = [] if kind == "unreachable" else [f"dev {device}"]
            family = "-6" if ":" in fields["Destination"] else "-4"
            yield " ".join([f"ip {family} route {verb}", *filter(None, [kind]), fields["Destination"], *by, *words])
        elif section == "RoutingPolicyRule":
            family = {"ipv4": "-4", "ipv6": "-6"}[fields["Family"]]
            unknown = fields.keys() - _RULE.keys() - {"Family"}
            assert not unknown, unknown
            yield f"ip {family} rule {verb} " + " ".join(f"{word} {fields[key]}" for key, word in _RULE.items() if key in fields)


def _sections(text: str) -> Iterator[tuple[str, dict[str, str]]]:
    """Yield the sections in their order; several may have one name, which the standard library's reader doesn't allow."""
    for part in text.split("\n["):
        if "]" in part:
            reader = _AsWritten(interpolation=None, strict=True)
            reader.read_string(f"[{part.lstrip('[')}" if not part.startswith("#") else part[part.index("[") :])
            name = reader.sections()[0]
            yield name, dict(reader[name])
