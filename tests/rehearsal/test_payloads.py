"""Payloads and messages: written and read again, cut off, and against the octets that RFC 7296 draws."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pontifex.core.addressing import parse_selector
from pontifex.core.ike.message import Header, Message, read_message, write_message
from pontifex.core.ike.payloads import (
    Authentication,
    CertificatePayload,
    CertificateRequest,
    Configuration,
    Delete,
    EapPayload,
    Identification,
    KeyExchangePayload,
    MalformedError,
    Nonce,
    Notify,
    OfferedProposal,
    PayloadType,
    SecurityAssociation,
    TrafficSelectors,
    Unknown,
    VendorId,
    read_payloads,
    write_payloads,
)
from pontifex.core.ike.payloads.configuration import ConfigurationAttribute
from tests.support.two_ends import ESP, IKE

_SELECTORS = ("10.64.0.0/22", "10.64.4.10-10.64.4.60 tcp 443", "2001:db8::/32 udp", "0.0.0.0/0")
octets = st.binary(min_size=1, max_size=40)
payloads = st.one_of(
    st.builds(KeyExchangePayload, st.integers(0, 65535), octets),
    st.builds(Nonce, st.binary(min_size=16, max_size=64)),
    st.builds(Identification, st.sampled_from([PayloadType.IDI, PayloadType.IDR]), st.integers(0, 255), octets),
    st.builds(CertificatePayload, octets),
    st.builds(CertificateRequest, st.lists(st.binary(min_size=20, max_size=20), max_size=3).map(tuple)),
    st.builds(Authentication, st.integers(0, 255), octets),
    st.builds(Notify, st.integers(0, 65535), octets, st.integers(0, 3), st.sampled_from([b"", b"\1\2\3\4"])),
    st.builds(Delete, st.just(3), st.lists(st.binary(min_size=4, max_size=4), min_size=1, max_size=3).map(tuple)),
    st.builds(VendorId, octets),
    st.builds(
        Configuration,
        st.integers(0, 255),
        st.lists(st.builds(ConfigurationAttribute, st.integers(0, 30), st.binary(max_size=18)), max_size=4).map(tuple),
    ),
    st.builds(EapPayload, st.binary(min_size=4, max_size=40)),
    st.builds(
        TrafficSelectors,
        st.sampled_from([PayloadType.TSI, PayloadType.TSR]),
        st.lists(st.sampled_from(_SELECTORS).map(parse_selector), max_size=3).map(tuple),
    ),
    st.builds(Unknown, st.integers(128, 255), octets, st.booleans()),
    st.builds(
        lambda spi, proposals: SecurityAssociation(
            tuple(OfferedProposal(number, 3 if offer is ESP else 1, spi, offer) for number, offer in enumerate(proposals, 1))
        ),
        st.sampled_from([b"", b"\1\2\3\4"]),
        st.lists(st.sampled_from([IKE, ESP]), min_size=1, max_size=3),
    ),
)  # fmt: skip
headers = st.builds(
    Header, st.binary(min_size=8, max_size=8), st.binary(min_size=8, max_size=8), st.integers(34, 44), st.booleans(),
    st.booleans(), st.integers(0, 2**32 - 1),
)  # fmt: skip


@given(headers, st.lists(payloads, max_size=6).map(tuple))
def test_what_is_written_is_read_again(header: Header, found: tuple[Any, ...]):
    """Any message comes back as it was, and each payload says something of itself."""
    assert read_message(write_message(header, found)) == Message(header, found)
    assert all(isinstance(payload.text(), str) for payload in found)


@given(st.lists(payloads, min_size=1, max_size=4), st.data())
def test_octets_that_are_changed_are_read_or_refused(found, data):
    """A change of any octet, or a cut, is read as something else or refused: nothing else comes of it."""
    first, written = write_payloads(found)
    changed = bytearray(written)
    for _ in range(data.draw(st.integers(1, 4))):
        changed[data.draw(st.integers(0, len(changed) - 1))] = data.draw(st.integers(0, 255))
    try:
        read = read_payloads(
            data.draw(st.sampled_from([first, 33, 44, 46, 53])), bytes(changed[: data.draw(st.integers(0, len(changed)))])
        )
    except MalformedError:
        return
    assert all(isinstance(payload.text(), str) for payload in read)


@given(st.binary(max_size=120))
def test_any_octets_are_a_message_or_malformed(made_up):
    """No octets bring the reader down; what it reads it writes again as it was."""
    try:
        message = read_message(made_up)
    except MalformedError:
        return
    assert len(write_message(message.header, message.payloads)) == len(made_up)


def test_a_proposal_is_written_as_the_standard_draws_it():
    """RFC 7296 sections 3.3.1, 3.3.2 and 3.3.5: lengths, numbers, the key length as an attribute of the short form."""
    written = SecurityAssociation((OfferedProposal(1, 1, b"", IKE),)).body()
    assert written.hex(" ") == (
        "00 00 00 24 01 01 00 03 "  # the last proposal, 36 octets, number 1, IKE, no SPI, three transforms
        "03 00 00 0c 01 00 00 14 80 0e 01 00 "  # ENCR 20 with 256 bits
        "03 00 00 08 02 00 00 05 "  # PRF 5
        "00 00 00 08 04 00 00 1f"  # KE 31, the last
    )


def test_a_selector_is_written_as_the_standard_draws_it():
    """RFC 7296 section 3.13.1: type, protocol, length, ports, first and last address."""
    written = TrafficSelectors(PayloadType.TSI, (parse_selector("10.64.4.10-10.64.4.60 tcp 443"),)).body()
    assert written.hex(" ") == "01 00 00 00 07 06 00 10 01 bb 01 bb 0a 40 04 0a 0a 40 04 3c"


def test_a_transform_that_is_not_known_is_left_out_and_a_type_refuses_the_proposal():
    """RFC 7296 section 3.3.6: an unknown transform is skipped; a proposal with an unknown type of transform isn't taken."""
    written = bytearray(SecurityAssociation((OfferedProposal(1, 1, b"", IKE),)).body())
    strange = written.copy()
    strange[26:28] = (9999).to_bytes(2)
    (offered,) = SecurityAssociation.read(bytes(strange)).proposals
    assert (offered.is_known, len(offered.proposal.transforms)) == (True, 2)
    written[24] = 77
    assert not SecurityAssociation.read(bytes(written)).proposals[0].is_known


@pytest.mark.parametrize(
    ("made_up", "said"),
    [
        (b"", "0 octets"),
        (bytes(28), "version 0"),
        (bytes(17) + b"\x20" + bytes(10), "says 0 octets and has 28"),
    ],
)
def test_a_header_that_can_not_be_is_refused(made_up, said):
    """Each refusal says what is wrong."""
    with pytest.raises(MalformedError, match=said):
        read_message(made_up)
