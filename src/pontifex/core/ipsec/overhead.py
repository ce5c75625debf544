"""What a tunnel costs: the largest inner packet whose outer packet still fits (RFC 4303, RFC 3948).

The outer packet of ESP in tunnel mode is: outer IP header, UDP header with NAT traversal, SPI and sequence number, IV,
then the inner packet with padding, pad length and next header, and the ICV.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import Final

from pontifex.core.addressing import Family
from pontifex.core.ipsec.proposal import Transform
from pontifex.core.ipsec.registry import RegisteredTransform, registered

IP_HEADER: Final = {Family.V4: 20, Family.V6: 40}  # without options (RFC 791) and extension headers (RFC 8200)
UDP_HEADER: Final = 8  # RFC 3948 section 2.1
_ESP_HEADER: Final = 8  # SPI and sequence number, RFC 4303 section 2; the high half of an ESN is not sent
_ESP_TRAILER: Final = 2  # pad length and next header
_ESP_ALIGNMENT: Final = 4  # RFC 4303 section 2.4
_TCP_HEADER: Final = 20  # without options


class OverheadError(ValueError):
    """A combination that makes no ESP packet; the message says why."""


@dataclass(frozen=True, slots=True)
class Overhead:
    """All lengths in octets."""

    path_mtu: int
    fixed: int  # headers, IV, ICV and trailer
    alignment: int  # inner packet and trailer are padded to a multiple of it
    inner_mtu: int  # the largest inner packet whose outer packet fits the path
    tcp_mss_v4: int
    tcp_mss_v6: int

    def outer_size(self, inner_size: int) -> int:
        """Return the size of the outer packet that carries an inner packet."""
        padded = -(-(inner_size + _ESP_TRAILER) // self.alignment) * self.alignment
        return self.fixed - _ESP_TRAILER + padded


@lru_cache(maxsize=1024)
def overhead(cipher: Transform, integrity: Transform | None, outer: Family, nat_t: bool, path_mtu: int) -> Overhead:
    """Return what ESP in tunnel mode leaves of a path MTU. Raise OverheadError when nothing is left or can't be."""
    encr = _row(cipher)
    icv = _icv_octets(encr, integrity)
    alignment = max(encr.block_octets, _ESP_ALIGNMENT)
    headers = IP_HEADER[outer] + (UDP_HEADER if nat_t else 0) + _ESP_HEADER + encr.iv_octets + icv
    room = (path_mtu - headers) // alignment * alignment
    inner = room - _ESP_TRAILER
    if inner <= IP_HEADER[Family.V6] + _TCP_HEADER:
        raise OverheadError(f"a path MTU of {path_mtu} leaves no room for a packet")
    return Overhead(
        path_mtu=path_mtu,
        fixed=headers + _ESP_TRAILER,
        alignment=alignment,
        inner_mtu=inner,
        tcp_mss_v4=inner - IP_HEADER[Family.V4] - _TCP_HEADER,
        tcp_mss_v6=inner - IP_HEADER[Family.V6] - _TCP_HEADER,
    )


def _icv_octets(encr: RegisteredTransform, integrity: Transform | None) -> int:
    if encr.combined_mode:
        if integrity is not None and not integrity.is_none:
            raise OverheadError(f"{encr.name} protects integrity itself; no INTEG goes with it")
        return encr.icv_octets
    if integrity is None or integrity.is_none:
        raise OverheadError(f"{encr.name} needs an INTEG beside it")
    return _row(integrity).icv_octets


def _row(transform: Transform) -> RegisteredTransform:
    row = registered(transform.type, transform.id)
    assert row is not None  # a Transform is a registered one
    return row
