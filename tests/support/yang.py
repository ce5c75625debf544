"""An independent reader of the standards' data models: the published modules from Debian's packages, by yangson."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any, Final

from yangson import DataModel

_MODULES: Final = (
    ("ietf-interfaces", "2018-02-20", "implement"),
    ("iana-if-type", "2014-05-08", "implement"),
    ("ietf-ip", "2018-02-22", "implement"),
    ("ietf-routing", "2018-03-13", "implement"),
    ("ietf-ipv4-unicast-routing", "2018-03-13", "implement"),
    ("ietf-ipv6-unicast-routing", "2018-03-13", "implement"),
    ("ietf-yang-types", "2013-07-15", "import"),
    ("ietf-inet-types", "2013-07-15", "import"),
)


def data_model(*others: tuple[str, str, str, Path]) -> DataModel:
    """Return the model of interfaces, addresses and routes, and of other modules: name, revision, namespace and folder."""
    modules = [
        {"name": name, "revision": revision, "namespace": _namespace(name), "conformance-type": use}
        for name, revision, use in _MODULES
    ]
    modules += [
        {"name": name, "revision": revision, "namespace": namespace, "conformance-type": "implement"}
        for name, revision, namespace, _ in others
    ]
    library = {"ietf-yang-library:modules-state": {"module-set-id": "1", "module": modules}}
    roots = ("/usr/share/yuma/modules", "/usr/share/yuma/nmda-modules")
    folders = sorted({str(file.parent) for root in roots for file in Path(root).rglob("*.yang")})
    return DataModel(json.dumps(library), [*folders, *(str(folder) for *_, folder in others)])


def _namespace(name: str) -> str:
    return f"urn:ietf:params:xml:ns:yang:{name}"


def check(model: DataModel, instance: dict[str, Any]) -> None:
    """Raise where an instance isn't valid by the published modules."""
    model.from_raw(instance).validate()
