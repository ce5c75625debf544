"""One connection of a tunnel over TLS: hello, the cipher of the data, the session, what both tell within it, and packets."""

from __future__ import annotations

import hmac
import json
from dataclasses import dataclass, field, replace
from enum import Enum
from typing import Any, Final

from pydantic import ValidationError

from pontifex.core.addressing import Family, Region, Selector, common_region
from pontifex.core.call_effects import CallEffect, CallEnded, CallReached, CallStep, CallUp, SendSegment, Told
from pontifex.core.certificates import Certificate
from pontifex.core.entropy import Entropy
from pontifex.core.ike.effects import Logged, LogLevel, Socket
from pontifex.core.kinds import DataCipher
from pontifex.core.kinds.technology import Digest
from pontifex.core.tls.data_channel import DataChannel
from pontifex.core.tls.segments import LARGEST_BODY, Frame, FrameKind, InOrder, Segment, SegmentKind
from pontifex.core.tls.session import SessionError, TlsSession
from pontifex.core.tls.settings import TlsSettings

_SECRET: Final = 32  # octets, for each direction of the data
_END: Final = b"\n"  # of what an end tells within the session
_ASKS: Final = 1  # the number of a segment that wants an answer
_ANSWER_WITHIN_S: Final = 5.0
_MOST_UNANSWERED: Final = 3
_NEVER: Final = float("inf")
_ALIVE: Final = Told("keep-alive", is_routine=True)
_HEARD: Final = Told("acknowledgement", is_routine=True)


class TlsState(Enum):
    """Where a connection stands."""

    HELLO = "hello"
    SESSION = "session"
    UP = "up"
    ENDED = "ended"


class RefusedError(Exception):
    """An end goes no further; the message says why, for both. `proved` is whether both have proved what they are."""

    def __init__(self, why: str, *, proved: bool = False) -> None:
        super().__init__(why)
        self.proved = proved


@dataclass(slots=True)
class TlsConnection:
    """One end of it. `calls` is whether this end began it."""

    own: TlsSettings
    id: bytes
    local: Socket
    remote: Socket
    calls: bool
    entropy: Entropy
    replaces: bytes = b""
    phase: TlsState = TlsState.HELLO
    heard_at: float = 0.0
    said_at: float = 0.0
    unanswered: int = 0  # questions to a silent end
    up_at: float = 0.0
    frames: InOrder = field(default_factory=InOrder)
    carries: tuple[Region, Region] = ((), ())  # of this end and of the other one
    outgoing: DataChannel | None = None
    incoming: DataChannel | None = None
    _cipher: DataCipher | None = None
    _session: TlsSession | None = None
    _offered: bytes = b""  # the caller's secrets for the data
    _heard: bytes = b""  # within the session
    _said: list[CallEffect] = field(default_factory=list)

    def call(self, now: float) -> list[CallEffect]:
        """Begin."""
        self.heard_at = now
        hello = {"ciphers": [cipher.value for cipher in self.own.data_ciphers], "digest": _digest_text(self.own.digest)}
        told = Told("hello", (f"data ciphers: {', '.join(cipher.value for cipher in self.own.data_ciphers)}",))
        self._tell(now, FrameKind.HELLO, json.dumps(hello).encode(), told)
        return self.taken()

    def receive(self, now: float, segment: Segment, source: Socket) -> list[CallEffect]:
        """Take a segment, from wherever it comes."""
        self.remote = source
        self.hear(now)
        self.frames.heard(segment.expected)
        if segment.kind is SegmentKind.ALIVE and segment.number == _ASKS:
            self._send(SegmentKind.ALIVE, 0, b"", _ALIVE)
        if segment.kind is SegmentKind.FRAME:
            for octets in self.frames.receive(segment.number, segment.body):
                self._hear(now, Frame.read(octets))
            self._send(SegmentKind.ACKNOWLEDGED, 0, b"", _HEARD)
        return self.taken()

    def wake(self, now: float) -> list[CallEffect]:
        """Send again what wasn't heard; end where nobody answers."""
        try:
            for number, octets in self.frames.again(now):
                self._send(SegmentKind.FRAME, number, octets, Told("the same again"))
        except TimeoutError:
            self.end("The other end doesn't answer")
        return self.taken()

    def hear(self, now: float) -> None:
        """Note that the other end is there."""
        self.heard_at, self.unanswered = now, 0

    @property
    def doubted_at(self) -> float:
        """When the other end is asked whether it is there, or given up."""
        return self.heard_at + self.own.dead_peer_s + self.unanswered * _ANSWER_WITHIN_S if self.own.dead_peer_s else _NEVER

    def doubt(self, now: float) -> list[CallEffect]:
        """Ask whether the other end is there; give it up where it doesn't answer."""
        if self.unanswered == _MOST_UNANSWERED:
            self.end("Nothing was heard of the other end for too long")
            return self.taken()
        self.unanswered += 1
        return self.alive(now, _ASKS)

    def alive(self, now: float, number: int = 0) -> list[CallEffect]:
        """Say that this end is there."""
        self.said_at = now
        self._send(SegmentKind.ALIVE, number, b"", _ALIVE)
        return self.taken()

    def ask_renewal(self, now: float) -> list[CallEffect]:
        """Ask the end that has called to call anew."""
        self._tell(now, FrameKind.RENEW, b"", Told("renegotiation is due"))
        return self.taken()

    def packet(self, octets: bytes) -> list[CallEffect]:
        """Send a packet of a host."""
        assert self.outgoing
        self._send(SegmentKind.DATA, 0, self.outgoing.seal(octets), None)
        return self.taken()

    def end(self, why: str) -> None:
        """Give it up."""
        if self.phase is not TlsState.ENDED:
            self.phase = TlsState.ENDED
            self._said += [Logged(f"{why}.", LogLevel.ERROR), CallEnded(why)]

    def taken(self) -> list[CallEffect]:
        """Return what has come of it since it was asked last."""
        said, self._said = self._said, []
        return said

    def _tell(self, now: float, kind: FrameKind, body: bytes, told: Told) -> None:
        octets = Frame(kind, body).octets()
        self._send(SegmentKind.FRAME, self.frames.send(now, octets), octets, told)

    def _send(self, kind: SegmentKind, number: int, body: bytes, told: Told | None) -> None:
        segment = Segment(self.id, kind, number, self.frames.expected, body)
        self._said.append(SendSegment(self.local, self.remote, segment.octets(), told))

    def _hear(self, now: float, frame: Frame | None) -> None:
        if frame is None or self.phase is TlsState.ENDED:
            return
        try:
            match frame.kind:
                case FrameKind.HELLO if not self.calls:
                    self._greeted(now, _read(frame.body))
                case FrameKind.TAKEN if self.calls:
                    self._chosen(now, _read(frame.body))
                case FrameKind.RECORDS if self._session:
                    self._session.take(frame.body)
                    self._advance(now, self._session)
                case FrameKind.REFUSED:
                    if self.phase is TlsState.HELLO:
                        self._said.append(CallReached(CallStep.ANSWERED))
                    self._refused(_read(frame.body))
                case _:
                    pass
        except (RefusedError, SessionError) as error:
            self._flush(now)
            refusal = {"why": str(error), "proved": isinstance(error, RefusedError) and error.proved}
            told = Told("refused", (str(error),), refuses=True)
            self._tell(now, FrameKind.REFUSED, json.dumps(refusal).encode(), told)
            self.end(f"This end goes no further: {error}")

    def _refused(self, refusal: dict[str, Any]) -> None:
        if refusal.get("proved"):
            self._said.append(CallReached(CallStep.PROVED))
        self.end(f"The other end refused: {refusal.get('why')}")

    def _greeted(self, now: float, hello: dict[str, Any]) -> None:
        """Take the first cipher of one's own that the caller has, too."""
        self._said.append(CallReached(CallStep.ANSWERED))
        offered = hello.get("ciphers")
        cipher = next(
            (data_cipher for data_cipher in self.own.data_ciphers if isinstance(offered, list) and data_cipher.value in offered),
            None,
        )
        if cipher is None:
            raise RefusedError("no data cipher is common to both ends")
        if not cipher.combined_mode and hello.get("digest") != _digest_text(self.own.digest):
            raise RefusedError("the digests of the data differ")
        taken = {"cipher": cipher.value}
        self._tell(now, FrameKind.TAKEN, json.dumps(taken).encode(), Told("cipher taken", (cipher.value,)))
        self._begin(cipher)

    def _chosen(self, now: float, taken: dict[str, Any]) -> None:
        self._said.append(CallReached(CallStep.ANSWERED))
        cipher = next((data_cipher for data_cipher in self.own.data_ciphers if data_cipher.value == taken.get("cipher")), None)
        if cipher is None:
            raise RefusedError("the cipher that was taken wasn't offered")
        session = self._begin(cipher)
        self._advance(now, session)

    def _begin(self, cipher: DataCipher) -> TlsSession:
        self._cipher, self.phase = cipher, TlsState.SESSION
        self._said.append(CallReached(CallStep.CIPHER_TAKEN))
        self._session = TlsSession(self.own.credentials, waits=not self.calls)
        return self._session

    def _advance(self, now: float, session: TlsSession) -> None:
        if session.advance() and self.calls:
            self._offered = self.entropy(2 * _SECRET)
            session.write(_line(self._options()))
        while session.stands and self.phase is TlsState.SESSION and (part := session.read()):
            self._heard += part  # long lists come in several records
            if part.endswith(_END):
                self._told(now, session, _read(self._heard))
        self._flush(now)

    def _flush(self, now: float) -> None:
        records = self._session.records() if self._session else b""
        for start in range(0, len(records), LARGEST_BODY):
            part = records[start : start + LARGEST_BODY]
            self._tell(now, FrameKind.RECORDS, part, Told("TLS", (f"{len(part)} octets of TLS records",)))

    def _options(self) -> dict[str, Any]:
        account = self.own.account
        return {
            "control": self._control_proof(),
            "account": [account.name, account.secret.hex()] if account else None,
            "chain": [certificate.pem for certificate in self.own.credentials.chain[1:]],
            "networks": [_written(region) for region in (self.own.local_networks, self.own.remote_networks)],
            "secrets": self._offered.hex(),
            "replaces": self.replaces.hex(),
        }

    def _control_proof(self) -> str:
        return hmac.digest(self.own.control_key, self.id, "sha256").hex() if self.own.control_key else ""

    def _told(self, now: float, session: TlsSession, options: dict[str, Any]) -> None:
        """Hear what the other end tells within the session, and agree on the networks."""
        session.check_dates(self.own.today(now), _certificates(options.get("chain")))
        if not self.calls:
            if options.get("control") != self._control_proof():
                raise RefusedError("the control keys differ")
            self._check_account(options.get("account"))
            self.replaces, self._offered = _octets(options.get("replaces")), _octets(options.get("secrets"))
        self._said.append(CallReached(CallStep.PROVED))
        told = options.get("networks")
        if not isinstance(told, list) or len(told) != 2:
            raise RefusedError("the other end's networks can't be read")
        their_own, mine = _regions(told[0]), _regions(told[1])
        near, far = common_region(self.own.local_networks, mine), common_region(self.own.remote_networks, their_own)
        pairs = [(selector, other) for selector in near for other in far if _fit(selector, other)]
        if not pairs:
            raise RefusedError("no networks are common to both ends", proved=True)
        self.carries = tuple(dict.fromkeys(selector for selector, _ in pairs)), tuple(dict.fromkeys(other for _, other in pairs))
        if not self.calls:
            own = self._options()
            session.write(_line({"networks": own["networks"], "chain": own["chain"]}))
        self._stand(now)

    def _check_account(self, told: object) -> None:
        made = self.own.accepted
        if made is None:
            return
        if told != [made.name, made.secret.hex()]:
            raise RefusedError("the account isn't known, or its secret is another one")
        if not made.may_call:
            raise RefusedError("the account may not call")

    def _stand(self, now: float) -> None:
        assert self._cipher
        secrets = self._offered[:_SECRET], self._offered[_SECRET:]
        digest = None if self._cipher.combined_mode else self.own.digest
        channel = DataChannel(self._cipher, digest, self.own.compresses, secrets[0])
        other = replace(channel, secret=secrets[1])
        self.outgoing, self.incoming = (channel, other) if self.calls else (other, channel)
        self.phase, self.up_at, self.said_at = TlsState.UP, now, now
        self._said.append(Logged(f"The tunnel is up; data are protected by {self._cipher.value}."))
        self._said.append(CallUp(self.id, bool(self.replaces)))


def _fit(one: Selector, other: Selector) -> bool:
    """Whether a packet can go between two networks: of one family, and of one protocol at both."""
    low, high = (max(one.protocols[0], other.protocols[0]), min(one.protocols[1], other.protocols[1]))
    return one.family is other.family and low <= high


def _digest_text(digest: Digest | None) -> str:
    return digest.value if digest else ""


def _line(told: dict[str, Any]) -> bytes:
    return json.dumps(told).encode() + _END


def _read(octets: bytes) -> dict[str, Any]:
    """Read what the other end tells. Raise RefusedError for what can't be read."""
    try:
        found = json.loads(octets)
    except ValueError:
        found = None
    if not isinstance(found, dict):
        raise RefusedError("what the other end told can't be read")
    return found


def _written(region: Region) -> list[list[int]]:
    return [[selector.family.bits, selector.first, selector.last, *selector.protocols, *selector.ports] for selector in region]


def _certificates(told: object) -> tuple[Certificate, ...]:
    """Read certificates. Raise RefusedError for what is none."""
    try:
        return tuple(Certificate(pem=pem) for pem in (told if isinstance(told, list) else []))
    except ValidationError:
        raise RefusedError("the other end's certificates can't be read") from None


def _octets(told: object) -> bytes:
    """Read octets that are written in hexadecimal. Raise RefusedError for what is none."""
    try:
        return bytes.fromhex(told if isinstance(told, str) else "?")
    except ValueError:
        raise RefusedError("what the other end told can't be read") from None


def _regions(told: object) -> Region:
    """Read networks. Raise RefusedError for what is none."""
    try:
        rows = [[int(number) for number in row] for row in told] if isinstance(told, list) else []
        return tuple(Selector(Family(bits), first, last, (p, q), (r, s)) for bits, first, last, p, q, r, s in rows)
    except (TypeError, ValueError):
        raise RefusedError("the other end's networks can't be read") from None
