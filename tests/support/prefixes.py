"""Random prefixes."""

from __future__ import annotations

from hypothesis import strategies as st

from pontifex.core.addressing import Family, Prefix

# of one block of 256 addresses, so that many meet
SMALL = st.builds(
    lambda value, length: Prefix(Family.V4, value & 0xFF & ~((1 << (8 - length)) - 1), 24 + length),
    st.integers(0, 255),
    st.integers(0, 8),
)


@st.composite
def prefixes(draw, family=None):
    """A random prefix; short host parts are likely, so that prefixes meet."""
    chosen = family or draw(st.sampled_from(Family))
    length = draw(st.integers(0, chosen.bits))
    value = draw(st.integers(0, chosen.last))
    return Prefix(chosen, value & ~chosen.host_mask(length), length)
