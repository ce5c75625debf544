"""What `ip -j addr`, `ip -j route` and `ip -j rule` print on Linux, about one gateway."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any, Final

from pontifex.core.addressing import Address, AddressError, Family, Prefix, Selector, parse_address, parse_prefix, parse_selector
from pontifex.core.addressing.interface import parse_interface
from pontifex.core.importing.record import (
    InterfaceRecord,
    Passed,
    Read,
    Record,
    RouteRecord,
    RuleRecord,
    SourceLine,
    Unread,
    shortened,
)

_KERNELS_OWN: Final = {0: "local", 32766: "main", 32767: "default"}  # the rules that every table of rules begins with
_NOT_HERE: Final = ("fwmark", "iif", "oif", "iifname", "oifname", "uidrange", "tun_id", "not")


def kind_of(rows: list[Any]) -> str:
    """Return which of the three a list of objects is: "addr", "route" or "rule"; empty when none."""
    first = next((row for row in rows if isinstance(row, dict) and row), {})
    if "addr_info" in first or "ifname" in first:
        return "addr"
    if "priority" in first and ("table" in first or "src" in first):
        return "rule"
    return "route" if "dst" in first and not {"prefix", "name"} & first.keys() else ""


def read_linux(rows: list[Any], kind: str) -> Read:
    """Read what one of the three commands printed."""
    found: Read = []
    reader = {"addr": _addresses, "route": _route, "rule": _rule}[kind]
    for number, row in enumerate(rows, 1):
        if not isinstance(row, dict) or not row:
            continue
        place = SourceLine(number, f"element {number}")
        try:
            place = SourceLine(number, shortened(_text(row, kind)))
            found += [(place, record) for record in reader(row)]
        except AddressError as error:
            found.append((place, Unread(error.reason)))
        except (AttributeError, KeyError, TypeError, ValueError) as error:
            found.append((place, Unread(f"this is not as 'ip -j {kind}' prints it: {error}")))
    return found


def _text(row: Mapping[str, Any], kind: str) -> str:
    if kind == "addr":
        addresses = [
            f"{candidate.get('local')}/{candidate.get('prefixlen')}"
            for candidate in row.get("addr_info", ())
            if isinstance(candidate, dict)
        ]
        return f"{row.get('ifname', '')} {', '.join(addresses)}"
    if kind == "route":
        hop = f" via {row['gateway']}" if "gateway" in row else ""
        return f"{row.get('dst')}{hop} dev {row.get('dev', '')}"
    return f"{row.get('priority')}: from {row.get('src', 'all')} lookup {row.get('table', '')}"


def _addresses(row: Mapping[str, Any]) -> Iterator[Record]:
    device = str(row.get("ifname", ""))
    if "LOOPBACK" in row.get("flags", ()) or device == "lo":
        yield Passed("the loopback interface")
        return
    count = 0
    for told in row.get("addr_info", ()):
        if told.get("scope") in ("link", "host"):
            yield Passed(f"{told['local']} is for the link alone")
        else:
            base, _, vlan = device.partition(".")
            number = int(vlan) if base and vlan.isdigit() and 1 <= int(vlan) <= 4094 else None
            yield InterfaceRecord(parse_interface(f"{told['local']}/{told['prefixlen']}"), device, number)
        count += 1
    if not count:
        yield Passed(f"{device} has no address")


def _route(row: Mapping[str, Any]) -> Iterator[Record]:
    if row.get("type", "unicast") != "unicast":
        yield Passed(f"a route of type {row['type']}")
        return
    if row.get("protocol") == "kernel" and "gateway" not in row:
        yield Passed("connected: it follows from the interface's own address")
        return
    via = Address(*parse_address(str(row["gateway"]))) if "gateway" in row else None
    if via is None and isinstance(row.get("via"), dict):
        via = Address(*parse_address(str(row["via"]["host"])))
    yield RouteRecord(_destination(str(row["dst"]), via), via, str(row.get("dev", "")), int(row.get("metric", 0)))


def _destination(text: str, via: Address | None) -> Prefix:
    if text == "default":
        return Prefix(via.family if via else Family.V4, 0, 0)
    if "/" in text:
        return parse_prefix(text)
    family, value = parse_address(text)
    return Prefix(family, value, family.bits)


def _rule(row: Mapping[str, Any]) -> Iterator[Record]:
    priority, table = int(row["priority"]), str(row.get("table", ""))
    if _KERNELS_OWN.get(priority) == table:
        yield Passed("one of the kernel's own rules")
        return
    unknown = [key for key in _NOT_HERE if key in row]
    if unknown:
        yield Unread(f"it matches by {', '.join(unknown)}, which a rule here can't")
        return
    if not table:
        yield Unread("it looks no table up")
        return
    sources = tuple(filter(None, (_side(row, "src"),)))
    destination = _side(row, "dst")
    ports = [f"{row['ipproto']}"] if "ipproto" in row else []
    ports += [f"port {_ports(row)}"] if "dport" in row or "dport_start" in row else []
    if ports:
        family = (destination or (sources[0] if sources else Prefix(Family.V4, 0, 0))).family
        whole = destination or Prefix(family, 0, 0)
        destinations: tuple[Selector, ...] = (parse_selector(" ".join((str(whole), *ports))),)
    else:
        destinations = (Selector.of(destination),) if destination else ()
    yield RuleRecord(priority, sources, destinations, table)


def _side(row: Mapping[str, Any], key: str) -> Prefix | None:
    text = str(row.get(key, "all"))
    if text == "all":
        return None
    if "/" in text:
        return parse_prefix(text)
    family, value = parse_address(text)
    return parse_prefix(f"{text}/{row.get(f'{key}len', family.bits)}") if value or f"{key}len" in row else None


def _ports(row: Mapping[str, Any]) -> str:
    return str(row["dport"]) if "dport" in row else f"{row['dport_start']}-{row['dport_end']}"
