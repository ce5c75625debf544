"""Addresses as people and devices write them: with a length, a netmask, a wildcard mask, as a range, or alone."""

from __future__ import annotations

from pontifex.core.addressing import Address, AddressError, AddressRange, Family, Prefix, parse_address, parse_prefix, parse_range
from pontifex.core.addressing.interface import Interface, parse_interface

Block = Prefix | AddressRange | Address | Interface  # an interface where host bits are set


def mask_length(text: str) -> int:
    """Return the length that a netmask such as 255.255.252.0, or a wildcard mask such as 0.0.3.255, stands for.

    Raise AddressError where it is neither, or could be both.
    """
    family, value = parse_address(text)
    if family is not Family.V4:
        raise AddressError(text, "mask", f"'{text}' is no IPv4 mask")
    if value in (0, family.last):
        raise AddressError(text, "mask", f"'{text}' may be a netmask or a wildcard mask; write /0 or /32")
    zeros = family.last ^ value
    if not zeros & (zeros + 1):
        return family.bits - zeros.bit_length()
    if not value & (value + 1):
        return family.bits - value.bit_length()
    raise AddressError(text, "mask", f"'{text}' is no mask: its ones are not in a row")


def is_mask(text: str) -> bool:
    """Whether a text beside an address is meant as a mask."""
    first = text.partition(".")[0]
    return text.count(".") == 3 and first in ("255", "0", "254", "252", "248", "240", "224", "192", "128") and _is_masklike(text)


def _is_masklike(text: str) -> bool:
    try:
        mask_length(text)
    except AddressError:
        return text in ("0.0.0.0", "255.255.255.255")  # noqa: S104 - a mask, not an address to listen on
    return True


def read_block(text: str, mask: str = "") -> Block:
    """Read a prefix, a range, or an address, with a mask beside it or not. Raise AddressError naming the wrong part."""
    address, slash, length = text.partition("/")
    if mask or (slash and "." in length):
        return _with_length(address, mask_length(mask or length))
    if "-" in text:
        return parse_range(text)
    if not slash:
        return Address(*parse_address(text))
    return _with_length(address, None, text)


def _with_length(address: str, length: int | None, text: str = "") -> Block:
    interface = parse_interface(text if length is None else f"{address}/{length}")
    if interface.prefix.network == interface.value:
        return parse_prefix(str(interface.prefix))
    return interface
