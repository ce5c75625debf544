"""Random operations on the demo."""

from __future__ import annotations

from hypothesis import strategies as st

from pontifex.core.addressing import parse_prefix
from pontifex.core.kinds import Network, ObjectType, Site
from pontifex.core.model import DesignSettings, Remove, put
from pontifex.demo import demo_design

DESIGN = demo_design()
IDS = [(type_, id_) for type_, items in DESIGN.by_type.items() if type_ is not ObjectType.SETTINGS for id_ in items]


def put_network(id_, site_id, prefix="10.90.0.0/24", name=None):
    return put(Network(id=id_, site_id=site_id, name=name or id_, prefix=parse_prefix(prefix)))


OPERATIONS = st.one_of(
    st.builds(lambda target, cascade: Remove(type=target[0], id=target[1], cascade=cascade), st.sampled_from(IDS), st.booleans()),
    st.builds(lambda k: put(Site(id=f"new-{k}", name=f"New {k}")), st.integers(0, 3)),
    st.builds(
        put_network, st.sampled_from(["a", "b", "ostvik-ticketing"]), st.sampled_from(["harbour", "ostvik", "new-1", "none"])
    ),
    st.builds(lambda name: put(DesignSettings(name=name)), st.sampled_from(["One", "Two"])),
)
