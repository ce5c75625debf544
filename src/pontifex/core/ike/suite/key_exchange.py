"""Key exchange methods: what each end sends, and the secret that both have then.

MODP: RFC 7296 section 3.4 and RFC 6989; ECP: RFC 5903; Brainpool: RFC 6954; Curve25519 and Curve448: RFC 8031; ML-KEM: FIPS 203,
where the initiator's value is an encapsulation key and the responder's a ciphertext.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cache
from typing import Final

from cryptography.hazmat.primitives.asymmetric import ec, mlkem, x448, x25519

from pontifex.core.entropy import Entropy
from pontifex.core.ike.suite.modp_groups import ModpGroup, modp_group


class KeyExchangeError(ValueError):
    """A public value that must be refused; the message says why."""


@dataclass(frozen=True, slots=True)
class Begun:
    """What an initiator sends, and how it comes to the secret by what the responder sends back."""

    public: bytes
    finish: Callable[[bytes], bytes]


@dataclass(frozen=True, slots=True)
class Method:
    """A key exchange method: `answer` returns the responder's public value and the secret, by the initiator's value."""

    begin: Callable[[Entropy], Begun]
    answer: Callable[[bytes, Entropy], tuple[bytes, bytes]]


def _symmetric(begin: Callable[[Entropy], Begun]) -> Method:
    """Return a method where both ends do the same."""

    def answer(public: bytes, entropy: Entropy) -> tuple[bytes, bytes]:
        own = begin(entropy)
        return own.public, own.finish(public)

    return Method(begin, answer)


def _modp(group: ModpGroup) -> Method:
    def begin(entropy: Entropy) -> Begun:
        private = int.from_bytes(entropy(group.private_octets)) | 1 << 8 * group.private_octets - 2

        def finish(theirs: bytes) -> bytes:
            value = int.from_bytes(theirs)
            if len(theirs) != group.octets or not 1 < value < group.prime - 1:  # RFC 6989 section 2.1
                raise KeyExchangeError("the public value isn't of the group")
            if group.order and pow(value, group.order, group.prime) != 1:  # RFC 6989 section 2.2
                raise KeyExchangeError("the public value isn't of the subgroup")
            return pow(value, private, group.prime).to_bytes(group.octets)

        return Begun(pow(group.generator, private, group.prime).to_bytes(group.octets), finish)

    return _symmetric(begin)


def _curve(curve: ec.EllipticCurve) -> Method:
    octets = (curve.key_size + 7) // 8

    def begin(entropy: Entropy) -> Begun:
        scalar = int.from_bytes(entropy(octets)) >> 8 * octets - curve.key_size + 1 | 1
        private = ec.derive_private_key(scalar, curve)
        numbers = private.public_key().public_numbers()

        def finish(theirs: bytes) -> bytes:
            if len(theirs) != 2 * octets:
                raise KeyExchangeError("the public value isn't as long as two coordinates")
            x, y = int.from_bytes(theirs[:octets]), int.from_bytes(theirs[octets:])
            try:
                public = ec.EllipticCurvePublicNumbers(x, y, curve).public_key()
            except ValueError:  # RFC 6989 section 2.3
                raise KeyExchangeError("the public value isn't a point of the curve") from None
            return private.exchange(ec.ECDH(), public)

        return Begun(numbers.x.to_bytes(octets) + numbers.y.to_bytes(octets), finish)

    return _symmetric(begin)


def _montgomery(load: Callable[[bytes], MontgomeryKey], octets: int) -> Method:
    def begin(entropy: Entropy) -> Begun:
        private = load(entropy(octets))

        def finish(theirs: bytes) -> bytes:
            try:  # one of small order gives a secret of zeros, and is refused (RFC 8031 section 3)
                return private.exchange(theirs)
            except ValueError:
                raise KeyExchangeError("the public value isn't one of the curve") from None

        return Begun(private.public, finish)

    return _symmetric(begin)


@dataclass(frozen=True, slots=True)
class MontgomeryKey:
    """A private key of Curve25519 or Curve448: its public value, and how it comes to the secret by another one."""

    public: bytes
    exchange: Callable[[bytes], bytes]


def _of_curve25519(octets: bytes) -> MontgomeryKey:
    key = x25519.X25519PrivateKey.from_private_bytes(octets)
    return MontgomeryKey(
        key.public_key().public_bytes_raw(), lambda theirs: key.exchange(x25519.X25519PublicKey.from_public_bytes(theirs))
    )


def _of_curve448(octets: bytes) -> MontgomeryKey:
    key = x448.X448PrivateKey.from_private_bytes(octets)
    return MontgomeryKey(
        key.public_key().public_bytes_raw(), lambda theirs: key.exchange(x448.X448PublicKey.from_public_bytes(theirs))
    )


def _kem(
    private_key: type[mlkem.MLKEM768PrivateKey] | type[mlkem.MLKEM1024PrivateKey],
    public_key: type[mlkem.MLKEM768PublicKey] | type[mlkem.MLKEM1024PublicKey],
) -> Method:
    def begin(entropy: Entropy) -> Begun:
        private = private_key.from_seed_bytes(entropy(64))

        def finish(ciphertext: bytes) -> bytes:
            try:
                return private.decapsulate(ciphertext)
            except ValueError:
                raise KeyExchangeError("the ciphertext isn't of the method's length") from None

        return Begun(private.public_key().public_bytes_raw(), finish)

    def answer(theirs: bytes, entropy: Entropy) -> tuple[bytes, bytes]:  # noqa: ARG001 -- the package takes no randomness
        try:
            secret, ciphertext = public_key.from_public_bytes(theirs).encapsulate()
        except ValueError:
            raise KeyExchangeError("the encapsulation key isn't one of the method") from None
        return ciphertext, secret

    return Method(begin, answer)


_MADE: Final[dict[int, Callable[[], Method]]] = {
    19: lambda: _curve(ec.SECP256R1()),
    20: lambda: _curve(ec.SECP384R1()),
    21: lambda: _curve(ec.SECP521R1()),
    28: lambda: _curve(ec.BrainpoolP256R1()),
    29: lambda: _curve(ec.BrainpoolP384R1()),
    30: lambda: _curve(ec.BrainpoolP512R1()),
    31: lambda: _montgomery(_of_curve25519, 32),
    32: lambda: _montgomery(_of_curve448, 56),
    36: lambda: _kem(mlkem.MLKEM768PrivateKey, mlkem.MLKEM768PublicKey),
    37: lambda: _kem(mlkem.MLKEM1024PrivateKey, mlkem.MLKEM1024PublicKey),
}


@cache
def key_exchange(number: int) -> Method | None:
    """Return a key exchange method by its number; None where it isn't rehearsed."""
    if number in _MADE:
        return _MADE[number]()
    group = modp_group(number)
    return _modp(group) if group else None
