"""Settings of a gateway by a data model of our own, for RESTCONF.

Its YANG text (RFC 7950), its instances as JSON (RFC 7951), and which resource each setting is (RFC 8040 section 3.5.3).
A value is written in the words of the design, as on a sheet; a pre-shared key is there by its fingerprint alone.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from textwrap import wrap
from typing import Any, Final
from urllib.parse import quote, unquote

from pontifex.core.frozen_model import FrozenModel
from pontifex.core.handover.readings.setting import OF_A_GATEWAY, OF_AN_END, POLICIES
from pontifex.core.kinds import Gateway, TunnelEnd

MODULE: Final = "pontifex-gateway"
REVISION: Final = "2026-11-27"
CONTAINER: Final = f"{MODULE}:gateway"


class NoSuchResource(ValueError):
    """What names no setting of the module."""


@dataclass(frozen=True, slots=True)
class _List:
    """A list of the module, by the names of its keys; the leaf where it has a single one."""

    keys: tuple[str, str]
    leaf: str
    description: str


_LISTS: Final = {
    "tunnel-end": _List(("tunnel", "side"), "", "An end of a tunnel at this gateway."),
    "route": _List(
        ("table", "prefix"), "ways", "The ways to a prefix, the preferred one first; the table of a network, or none."
    ),
    "policy": _List(("kind", "id"), "text", "A rule, a filter or a translation, as a sheet words it."),
}


@dataclass(frozen=True, slots=True)
class _Place:
    """Where a setting stands: a leaf of the container, or of an entry of a list."""

    list_: str
    keys: tuple[str, ...]
    leaf: str


def resource_of(path: str) -> str:
    """Return where a setting stands below a datastore. Raise NoSuchResource."""
    place = _place(path)
    entry = f"{place.list_}={','.join(quote(key, safe='') for key in place.keys)}/" if place.list_ else ""
    return f"{CONTAINER}/{entry}{place.leaf}"


def path_of(resource: str, gateway_id: str) -> str:
    """Return which setting of a gateway a resource is. Raise NoSuchResource."""
    head, *parts = resource.split("/")
    if head != CONTAINER or len(parts) not in (1, 2):
        raise NoSuchResource(f"there is no resource '{resource[:80]}'")
    if len(parts) == 1:
        return _path(_Place("", (), parts[0]), gateway_id)
    name, _, keys = parts[0].partition("=")
    return _path(_Place(name, tuple(map(unquote, keys.split(","))), parts[1]), gateway_id)


def body_of(path: str, text: str) -> dict[str, str]:
    """Return a setting as the body of a request that enters it."""
    return {f"{MODULE}:{_place(path).leaf}": text}


def instance_of(settings: Mapping[str, str]) -> dict[str, Any]:
    """Return settings by their paths as an instance of the module."""
    container: dict[str, Any] = {}
    entries: dict[tuple[str, tuple[str, ...]], dict[str, str]] = {}
    for path, text in sorted(settings.items()):
        place = _place(path)
        if not place.list_:
            container[place.leaf] = text
            continue
        key = place.list_, place.keys
        if key not in entries:
            entries[key] = dict(zip(_LISTS[place.list_].keys, place.keys, strict=True))
            container.setdefault(place.list_, []).append(entries[key])
        entries[key][place.leaf] = text
    return {CONTAINER: container}


def settings_of(instance: Mapping[str, Any], gateway_id: str) -> dict[str, str]:
    """Return the settings of an instance by their paths. Raise NoSuchResource for what the module doesn't have."""
    return dict(_settings(instance.get(CONTAINER, {}), gateway_id))


def _settings(container: object, gateway_id: str) -> Iterator[tuple[str, str]]:
    if not isinstance(container, Mapping):
        raise NoSuchResource("the gateway isn't written as an object")
    for name, value in container.items():
        if name not in _LISTS:
            yield _path(_Place("", (), str(name)), gateway_id), str(value)
            continue
        keys = _LISTS[name].keys
        for entry in value if isinstance(value, list) else ():
            if not isinstance(entry, Mapping) or not set(keys) <= entry.keys():
                raise NoSuchResource(f"an entry of '{name}' has no {' and no '.join(keys)}")
            held = tuple(str(entry[key]) for key in keys)
            for leaf in entry.keys() - set(keys):
                yield _path(_Place(name, held, str(leaf)), gateway_id), str(entry[leaf])


def _place(path: str) -> _Place:
    kind, id_, *rest = path.split("/")
    if kind == "tunnel" and len(rest) == 2 and rest[1] in OF_AN_END:
        return _Place("tunnel-end", (id_, rest[0]), _identifier(rest[1]))
    if kind == "gateway" and len(rest) == 1 and rest[0] in OF_A_GATEWAY:
        return _Place("", (), _identifier(rest[0]))
    if kind == "gateway" and rest[0] == "route" and len(rest) in (3, 4):
        return _Place("route", ("/".join(rest[1:-2]), "/".join(rest[-2:])), "ways")
    if kind == "gateway" and len(rest) == 2 and rest[0] in POLICIES:
        return _Place("policy", (rest[0], rest[1]), "text")
    raise NoSuchResource(f"'{path[:80]}' is no setting of a gateway")


def _path(place: _Place, gateway_id: str) -> str:
    """Return the path of a setting; what stands at no place that a path leads to is refused."""
    found = {
        "": lambda: f"gateway/{gateway_id}/{_field(place.leaf)}",
        "tunnel-end": lambda: f"tunnel/{'/'.join(place.keys)}/{_field(place.leaf)}",
        "route": lambda: f"gateway/{gateway_id}/route/{'/'.join(filter(None, place.keys))}",
        "policy": lambda: f"gateway/{gateway_id}/{'/'.join(place.keys)}",
    }.get(place.list_)
    if found is None or (place.list_ and len(place.keys) != 2):
        raise NoSuchResource(f"there is no list '{place.list_[:40]}' with such keys")
    path = found()
    if _place(path) != place:
        raise NoSuchResource(f"there is no leaf '{place.leaf[:40]}' there")
    return path


def _identifier(field: str) -> str:
    return field.replace("_", "-")


def _field(leaf: str) -> str:
    return leaf.replace("-", "_")


def module_text() -> str:
    """Return the YANG text of the module."""
    return "\n".join([*_head(), *_indented(_container()), "}", ""])


def _head() -> Iterator[str]:
    yield f"module {MODULE} {{"
    yield "  yang-version 1.1;"
    yield f'  namespace "urn:example:{MODULE}";'
    yield "  prefix pg;"
    yield '  organization "Pontifex";'
    yield "  description"
    yield '    "Settings of a gateway in neutral terms. Each value is written as on a sheet;'
    yield '     a pre-shared key is there by its fingerprint alone.";'
    yield f"  revision {REVISION} {{"
    yield '    description "The first one.";'
    yield "  }"


def _container() -> Iterator[str]:
    yield "container gateway {"
    yield '  description "All that is set at the gateway.";'
    for field in OF_A_GATEWAY:
        yield from _indented(_leaf(_identifier(field), _described(Gateway, field)))
    for name, list_ in _LISTS.items():
        yield f"  list {name} {{"
        yield f'    key "{" ".join(list_.keys)}";'
        yield from _indented(_indented(_description(list_.description)))
        for key in list_.keys:
            yield from _indented(_indented(_leaf(key, f"The {key}.")))
        leaves = (
            [(list_.leaf, "Its value.")]
            if list_.leaf
            else [(_identifier(text), _described(TunnelEnd, text)) for text in OF_AN_END]
        )
        for leaf, description in leaves:
            yield from _indented(_indented(_leaf(leaf, description)))
        yield "  }"
    yield "}"


def _leaf(name: str, description: str) -> Iterator[str]:
    yield f"leaf {name} {{"
    yield "  type string;"
    yield from _indented(_description(description))
    yield "}"


def _description(text: str) -> Iterator[str]:
    first, *others = wrap(text.replace('"', "'"), 90)
    yield "description"
    yield f'  "{first}' + ("" if others else '";')
    for place, line in enumerate(others, 1):
        yield f"   {line}" + ('";' if place == len(others) else "")


def _described(model: type[FrozenModel], field: str) -> str:
    info = model.model_fields[field]
    return f"{info.title}. {info.description or ''}".strip()


def _indented(lines: Iterator[str]) -> Iterator[str]:
    return (f"  {line}" for line in lines)
