"""EAP-MSCHAP-V2: MS-CHAP version 2 (RFC 2759) in EAP, by IANA's type 26. Both ends show that they know the password."""

from __future__ import annotations

import hmac
from enum import IntEnum
from typing import Final

from pontifex.core.eap.md5_challenge import why_not
from pontifex.core.eap.method import Judged, PeerProved, Refused
from pontifex.core.eap.ms_chap_v2 import challenge_hash, master_key, password_hash, response, server_proof
from pontifex.core.eap.packet import EapError
from pontifex.core.entropy import Entropy
from pontifex.core.login import Login

_CHALLENGE_OCTETS: Final = 16
_ANSWER_OCTETS: Final = 49  # the peer's challenge, eight zeros, the response, and flags
_HEADER_OCTETS: Final = 4
_REFUSAL: Final = "E=691 R=0"  # RFC 2759 section 6: authentication failure, not to be tried again


class ChapStep(IntEnum):
    """What a packet is (RFC 2759 sections 3 to 6, by the codes of CHAP)."""

    CHALLENGE = 1
    RESPONSE = 2
    SUCCESS = 3
    FAILURE = 4


def _written(step: ChapStep, identifier: int, value: bytes) -> bytes:
    return bytes((step, identifier)) + (_HEADER_OCTETS + len(value)).to_bytes(2) + value


def _read(data: bytes, *, short: bool = False) -> tuple[int, bytes]:
    """Return step and value. An answer to success or failure is `short`: its step alone."""
    if short and len(data) == 1:
        return data[0], b""
    if len(data) < _HEADER_OCTETS or int.from_bytes(data[2:4]) != len(data):
        raise EapError("a packet of EAP-MSCHAP-V2 that isn't whole")
    return data[0], data[_HEADER_OCTETS:]


def _with_name(value: bytes, wanted: int) -> tuple[bytes, str]:
    if len(value) < 1 + wanted or value[0] != wanted:
        raise EapError(f"a value of EAP-MSCHAP-V2 that isn't {wanted} octets long")
    return value[1 : 1 + wanted], value[1 + wanted :].decode(errors="replace")


def _hashed(login: Login) -> bytes:
    """Hash the secret: passwords are text, and what stands in place of one is written as such."""
    return password_hash(login.secret.hex())


class MsChapV2Peer:
    """The end that proves itself, and has the server proved."""

    def __init__(self, login: Login, entropy: Entropy) -> None:
        self._login, self._entropy = login, entropy
        self._expected = b""  # by which the server proves itself
        self._key = b""
        self._ended: Judged = Refused("the server says that it accepts before it has proved itself")

    def answer(self, identifier: int, data: bytes) -> bytes:  # noqa: ARG002 -- one signature for all methods
        """Answer a challenge, or take note of what the server says of the answer."""
        step, value = _read(data)
        if step == ChapStep.CHALLENGE:
            return self._answered(data[1], value)
        if step == ChapStep.SUCCESS:
            return self._proved(value)
        if step == ChapStep.FAILURE:
            self._ended = Refused("the server refuses account or secret")
            return bytes((ChapStep.FAILURE,))
        raise EapError(f"a packet of EAP-MSCHAP-V2 of code {step}")

    def _answered(self, number: int, value: bytes) -> bytes:
        challenge, _ = _with_name(value, _CHALLENGE_OCTETS)
        own = self._entropy(_CHALLENGE_OCTETS)
        hashed, short = _hashed(self._login), challenge_hash(own, challenge, self._login.name)
        answer = response(short, hashed)
        self._expected, self._key = server_proof(hashed, answer, short), master_key(hashed, answer)
        octets = bytes((_ANSWER_OCTETS,)) + own + bytes(8) + answer + bytes(1)
        return _written(ChapStep.RESPONSE, number, octets + self._login.name.encode())

    def _proved(self, value: bytes) -> bytes:
        told = f"S={self._expected.hex().upper()}".encode()
        if not self._expected or not hmac.compare_digest(value[: len(told)], told):
            self._ended = Refused("the server doesn't know the secret")
            return bytes((ChapStep.FAILURE,))
        self._ended = PeerProved(self._key)
        return bytes((ChapStep.SUCCESS,))

    def ended(self) -> Judged:
        """Accept where the server has proved itself."""
        return self._ended


class MsChapV2Server:
    """The end that challenges, and proves itself as well."""

    def __init__(self, login: Login, entropy: Entropy) -> None:
        self._login, self._challenge = login, entropy(_CHALLENGE_OCTETS)
        self._judged: Judged | None = None  # once it was told

    def begin(self, identifier: int) -> bytes:
        """Return the challenge."""
        return _written(ChapStep.CHALLENGE, identifier, bytes((_CHALLENGE_OCTETS,)) + self._challenge)

    def take(self, identifier: int, data: bytes) -> bytes | Judged:
        """Judge the answer, tell what came of it, and end when that was heard."""
        step, value = _read(data, short=self._judged is not None)
        if self._judged is not None:
            accepts = isinstance(self._judged, PeerProved) and step == ChapStep.SUCCESS
            return self._judged if accepts or isinstance(self._judged, Refused) else Refused("the caller doesn't accept this end")
        if step != ChapStep.RESPONSE:
            raise EapError(f"a packet of EAP-MSCHAP-V2 of code {step}, where a response is expected")
        octets, name = _with_name(value, _ANSWER_OCTETS)
        hashed, short = _hashed(self._login), challenge_hash(octets[:_CHALLENGE_OCTETS], self._challenge, name)
        answer = octets[24:48]
        self._judged = why_not(self._login, name)
        if self._judged is None and not hmac.compare_digest(answer, response(short, hashed)):
            self._judged = Refused(f"the secret of '{name}' is another one")
        if self._judged:
            return _written(ChapStep.FAILURE, identifier, f"{_REFUSAL} C={self._challenge.hex().upper()} V=3".encode())
        self._judged = PeerProved(master_key(hashed, answer))
        return _written(ChapStep.SUCCESS, identifier, f"S={server_proof(hashed, answer, short).hex().upper()} M=".encode())
