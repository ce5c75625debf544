"""What is typed or pasted of a probe: answered, not, or not to be told."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pontifex.core.handover.observed import answered

PING = """PING 10.64.8.10 (10.64.8.10) 56(84) bytes of data.
64 bytes from 10.64.8.10: icmp_seq=1 ttl=62 time=11.4 ms

--- 10.64.8.10 ping statistics ---
4 packets transmitted, {received} received, {loss}% packet loss, time 3004ms
"""
TRACE = """traceroute to 10.64.8.10 (10.64.8.10), 30 hops max, 60 byte packets
 1  10.65.0.1  0.412 ms  0.398 ms  0.377 ms
 2  {hop}
"""


@pytest.mark.parametrize(
    ("text", "found"),
    [
        (PING.format(received=4, loss=0), True),
        (PING.format(received=1, loss=75), True),
        (PING.format(received=0, loss=100), False),
        ("Packets: Sent = 4, Received = 0, Lost = 4 (100% loss)", False),
        ("4 packets transmitted, 4 packets received, 0.0% packet loss", True),
        (TRACE.format(hop="10.64.8.10  11.2 ms  11.0 ms  10.9 ms"), True),
        (TRACE.format(hop="* * *"), False),
        ("64 bytes from 10.64.8.10: icmp_seq=1 ttl=62 time=11.4 ms", True),
        ("answered", True),
        ("no answer", False),
        ("No route to host", False),
        ("From 10.65.0.1 icmp_seq=1 Destination Host Unreachable", False),
        ("Request timed out.", False),
        ("ok", True),
        ("yes", True),
        ("no", False),
        ("", None),
        ("hm", None),
        ("first no answer, then it works", None),
    ],
)
def test_what_was_seen(text, found):
    """Sums at the end decide before words; what says both, or neither, is asked about."""
    assert answered(text) is found


@given(st.text(max_size=300))
def test_any_text_has_an_answer_or_none(text):
    """Whatever is pasted, nothing but yes, no and unknown comes of it."""
    assert answered(text) in (True, False, None)


@given(st.integers(0, 9), st.sampled_from(["\n", "\r\n"]))
def test_the_count_decides(received, end):
    """However many came back, one is enough, whatever line ends the text was pasted with."""
    assert answered(PING.format(received=received, loss=0).replace("\n", end)) is (received > 0)
