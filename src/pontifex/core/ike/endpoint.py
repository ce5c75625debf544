"""The machine at one end of a tunnel: octets and the time in, effects out (RFC 7296)."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Final

from pontifex.core.addressing import Address
from pontifex.core.entropy import Entropy
from pontifex.core.ike import creation, eap_proof, initiator, moving, responder, succession, upkeep
from pontifex.core.ike.effects import Effect, LogLevel, Redial, Socket
from pontifex.core.ike.ike_sa import Creation, Heard, IkeSa, IkeSaState, Purpose
from pontifex.core.ike.machine import Machine
from pontifex.core.ike.message import NO_SPI, ExchangeType, Header, Message, read_message
from pontifex.core.ike.payloads import MalformedError, Notify, NotifyType, Payload, Unknown
from pontifex.core.ike.protection import Opened, open_message
from pontifex.core.ike.settings import EndSettings
from pontifex.core.ike.suite.ciphers import OpeningError

REDIAL_S: Final = 10.0  # after an IKE SA was lost, by an end that calls

_ANSWERED: Final[dict[Purpose, Callable[[Machine, IkeSa, Heard], None]]] = {
    Purpose.INIT: initiator.init_answered,
    Purpose.INTERMEDIATE: initiator.intermediate_answered,
    Purpose.AUTH: initiator.auth_answered,
    Purpose.EAP: eap_proof.round_answered,
    Purpose.EAP_PROOF: eap_proof.proof_answered,
    Purpose.CREATE: creation.answered,
    Purpose.FOLLOW_UP: creation.follow_up_answered,
    Purpose.DELETE_CHILD: upkeep.child_deleted,
    Purpose.DELETE_IKE: upkeep.ike_deleted,
    Purpose.CHECK: upkeep.check_answered,
    Purpose.MOVE: moving.move_answered,
}
_REQUESTED: Final[dict[tuple[ExchangeType, bool], Callable[[Machine, IkeSa, Heard], Sequence[Payload]]]] = {
    # by exchange, and by whether both ends have proved themselves
    (ExchangeType.IKE_INTERMEDIATE, False): responder.intermediate_requested,
    (ExchangeType.IKE_AUTH, False): responder.auth_requested,
    (ExchangeType.CREATE_CHILD_SA, True): creation.requested,
    (ExchangeType.IKE_FOLLOWUP_KE, True): creation.follow_up_requested,
    (ExchangeType.INFORMATIONAL, True): upkeep.informed,
    (ExchangeType.INFORMATIONAL, False): upkeep.informed,
}
_PROVED: Final = (IkeSaState.ESTABLISHED, IkeSaState.ENDING)


class Endpoint:
    """One end of a tunnel. Each call gives back what it leads to, in order; `due` says when it is to be woken."""

    def __init__(self, settings: EndSettings, entropy: Entropy) -> None:
        self._machine = Machine(settings, entropy)
        self._cookie_key = entropy(32)
        self._redial_at = float("inf")
        self._has_dialled = False
        self._due: float | None = None  # once it is worked out, until something happens

    @property
    def settings(self) -> EndSettings:
        """What the end is configured with."""
        return self._machine.settings

    def configure(self, settings: EndSettings) -> None:
        """Take other settings: what stands goes on standing, and what is made from now on goes by them."""
        self._machine.settings = settings
        self._due = None

    @property
    def sas(self) -> Sequence[IkeSa]:
        """Its IKE SAs, oldest first."""
        return tuple(self._machine.sas.values())

    def sockets_of(self, spi_in: bytes) -> tuple[Socket, Socket]:
        """Return between which sockets the IKE SA of a Child SA stands, its own first. Raise KeyError where there is none."""
        for sa in self.sas:
            if spi_in in sa.children:
                return sa.local, sa.remote
        raise KeyError(spi_in.hex())

    @property
    def stands(self) -> bool:
        """Whether an IKE SA stands, or one is being made."""
        return any(sa.phase is not IkeSaState.ENDED for sa in self._machine.sas.values())

    @property
    def due(self) -> float:
        """When it is to be woken next; infinite where nothing is due."""
        if self._due is None:
            times = [time for sa in self._machine.sas.values() for time in upkeep.due_times(self._machine, sa)]
            self._due = min([*times, self._redial_at])
        return self._due

    def dial(self, now: float, local: Socket, remote: Socket) -> list[Effect]:
        """Call the other end."""
        self._machine.now, self._redial_at, self._has_dialled = now, float("inf"), True
        initiator.dial(self._machine, local, remote)
        return self._left()

    def move(self, now: float, address: Address) -> list[Effect]:
        """Go on from another address, where both ends can."""
        self._machine.now = now
        for sa in list(self._machine.sas.values()):
            moving.move(self._machine, sa, address)
        return self._left()

    def wake(self, now: float) -> list[Effect]:
        """Do what is due."""
        m = self._machine
        m.now = now
        for sa in list(m.sas.values()):
            upkeep.tend(m, sa)
        effects = self._left()
        if self._redial_at <= now:
            self._redial_at = now + REDIAL_S  # unless it is dialled
            self._due = None
            effects.append(Redial())
        return effects

    def receive(self, now: float, octets: bytes, source: Socket, destination: Socket) -> list[Effect]:
        """Take a datagram. What can't be read is answered or dropped, with a line in the log, and the end goes on."""
        m = self._machine
        m.now = now
        try:
            header, _ = Header.read(octets)
            self._dispatch(header, octets, source, destination)
        except MalformedError as error:
            m.log(f"A datagram from {source} is dropped: {error}.", LogLevel.WARNING)
        return self._left()

    def _left(self) -> list[Effect]:
        effects, self._machine.effects = self._machine.effects, []
        if self._has_dialled and not self.stands and self.settings.redials and self._redial_at == float("inf"):
            self._redial_at = self._machine.now + REDIAL_S
        self._due = None
        return effects

    def _dispatch(self, header: Header, octets: bytes, source: Socket, destination: Socket) -> None:
        m = self._machine
        own_spi = header.spi_r if header.from_initiator else header.spi_i
        sa = m.sas.get(own_spi)
        if header.exchange == ExchangeType.IKE_SA_INIT and not header.is_response:
            self._init(header, octets, source, destination)
        elif sa is None or sa.initiated is header.from_initiator:
            m.log(f"{header.name} from {source} belongs to no IKE SA of this device, and is dropped.", LogLevel.WARNING)
        elif header.is_response:
            self._answer(sa, octets)
        else:
            self._request(sa, octets, source, destination)

    def _init(self, header: Header, octets: bytes, source: Socket, destination: Socket) -> None:
        """Answer IKE_SA_INIT; one that comes again gets the same answer."""
        m = self._machine
        if header.spi_r != NO_SPI or header.message_id or header.spi_i == NO_SPI or not header.from_initiator:
            raise MalformedError("an IKE_SA_INIT request with a header that it can't have")
        again = next((sa for sa in m.sas.values() if sa.spi_i == header.spi_i and sa.first_heard == octets), None)
        if again and not again.initiated:
            m.send(again, _shown(again.answered[0]), again.answered)
            return
        message = read_message(octets)
        critical = _critical(message)
        sa: IkeSa | None = None
        answer: Sequence[Payload] = (critical,) if critical else ()
        if not critical:
            sa, answer = responder.init_requested(m, message, octets, source, destination, self._cookie_key)
        head = Header(header.spi_i, sa.spi_r if sa else NO_SPI, header.exchange, False, True, 0)
        carrier = sa or IkeSa(False, header.spi_i, NO_SPI, destination, source, Creation(makes_ike=True, initiated=False))
        reply = Message(head, tuple(answer))
        datagrams = m.written(carrier, reply)
        if sa:
            sa.answered = datagrams
            (sa.first_sent,) = datagrams
        m.send(carrier, reply, datagrams)

    def _answer(self, sa: IkeSa, octets: bytes) -> None:
        """Take an answer to the request that waits for one."""
        m, request = self._machine, sa.request
        message = read_message(octets)
        header = message.header
        if request is None or header.message_id != request.message.header.message_id:
            return  # of an earlier request
        if header.exchange != request.message.header.exchange:
            raise MalformedError("an answer of another exchange")
        opened, plain = None, b""
        if header.exchange != ExchangeType.IKE_SA_INIT:
            opened = self._opened(sa, octets, message)
            if opened is None:
                return
            plain = opened.plain
        sa.heard_at, sa.request = m.now, None
        try:
            message = Message(header, opened.payloads()) if opened else message
            _ANSWERED[request.purpose](m, sa, Heard(message, octets, plain, request))
        except MalformedError as error:
            m.end(sa, f"the other end's answer can't be read: {error}", LogLevel.ERROR)

    def _opened(self, sa: IkeSa, octets: bytes, message: Message) -> Opened | None:
        """Open a sealed message; None where it is a fragment of one, or wasn't sealed by the other end."""
        if sa.receiving is None:
            return None
        try:
            return open_message(sa.receiving, octets, message, sa.reassembly[message.header.is_response])
        except OpeningError as error:
            self._machine.log(f"{message.header.name} is dropped: {error}.", LogLevel.WARNING)
            return None

    def _request(self, sa: IkeSa, octets: bytes, source: Socket, destination: Socket) -> None:
        """Answer a request; one that comes again gets the same answer (RFC 7296 section 2.1)."""
        m = self._machine
        message = read_message(octets)
        message_id = message.header.message_id
        opened = self._opened(sa, octets, message)
        if opened is None:
            return
        if message_id == sa.expected_id - 1 and sa.answered:
            m.send(sa, _shown(sa.answered[0]), sa.answered)
            return
        if message_id != sa.expected_id:
            m.log(
                f"{message.header.name} with message id {message_id} is dropped: {sa.expected_id} comes next.", LogLevel.WARNING
            )
            return
        sa.heard_at, sa.expected_id = m.now, sa.expected_id + 1
        if sa.far_behind_nat or sa.phase is IkeSaState.KEYED:
            sa.local, sa.remote = destination, source  # where a NAT has moved it, or the caller has floated to (section 2.23)
        self._reply(sa, Heard(message, octets, opened.plain, None, source, destination), opened)

    def _reply(self, sa: IkeSa, heard: Heard, opened: Opened) -> None:
        m, header = self._machine, heard.message.header
        message = Message(header)
        try:
            message = Message(header, opened.payloads())
            answer = self._answered(sa, replace(heard, message=message))
        except MalformedError as error:
            m.log(f"{header.name} can't be read: {error}.", LogLevel.WARNING)
            answer = (Notify(NotifyType.INVALID_SYNTAX),)
        reply = sa.message(ExchangeType(header.exchange), True, header.message_id, answer)
        sa.answered = m.written(sa, reply)
        m.send(sa, reply, sa.answered)
        if header.exchange == ExchangeType.IKE_INTERMEDIATE and not reply.error:
            responder.rekey_after_intermediate(m, sa)
        ends = upkeep.ends_by(message) if header.exchange == ExchangeType.INFORMATIONAL else None
        if sa.phase is IkeSaState.KEYED:
            told = f"this end refused {header.name}: {reply.error.name}" if reply.error else eap_proof.why_ended(sa)
            ends = told or ends
        if ends:
            succession.before_end(sa)
            m.end(sa, ends, LogLevel.INFO if reply.error is None else LogLevel.WARNING)

    def _answered(self, sa: IkeSa, heard: Heard) -> Sequence[Payload]:
        """Return the payloads of the answer; an error of the request is told in them (section 2.21)."""
        critical = _critical(heard.message)
        if critical:
            return (critical,)
        try:
            exchange = ExchangeType(heard.message.header.exchange)
            handler = _REQUESTED[exchange, sa.phase in _PROVED]
        except (ValueError, KeyError):
            return (Notify(NotifyType.INVALID_SYNTAX),)
        return handler(self._machine, sa, heard)


def _critical(message: Message) -> Notify | None:
    """Return what is told of a payload that is critical and not known here (section 2.5)."""
    unknown = next((candidate for candidate in message.all(Unknown) if candidate.critical), None)
    return Notify(NotifyType.UNSUPPORTED_CRITICAL_PAYLOAD, bytes((unknown.type,))) if unknown else None


def _shown(octets: bytes) -> Message:
    """Return an answer that is sent again, as it is seen from outside."""
    return read_message(octets)
