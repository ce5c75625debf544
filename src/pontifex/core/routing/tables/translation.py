"""What the translations of a gateway make of a flow, and of the answers to it (RFC 3022 section 2, RFC 5382 section 4).

A device with state translates by its list only what begins a connection; the answers go back as the connection came,
whichever tunnel they take, and what began untranslated stays so. A device without state takes each packet by itself.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

from pontifex.core.addressing import Address
from pontifex.core.kinds import TranslatedSide, Translation, TranslationKind
from pontifex.core.routing.trace.flow import Flow

Ends = tuple[Address, Address]  # source and destination


@dataclass(frozen=True, slots=True)
class Passage:
    """How the first packet of a connection came to a gateway, and how it left."""

    came: Ends
    left: Ends


@dataclass
class Connection:
    """What the gateways on the way remember of a connection, by gateway. `answering` tells that its answers are followed."""

    passages: dict[str, list[Passage]] = field(default_factory=dict)
    answering: bool = False

    def note(self, gateway_id: str, came: Ends, left: Ends) -> None:
        """Remember a passage; what comes by again, translated meanwhile, is another one."""
        if not self.answering:
            self.passages.setdefault(gateway_id, []).append(Passage(came, left))

    def answered(self) -> Connection:
        """Return the same connection for its answers."""
        return Connection(self.passages, True)


@dataclass(frozen=True, slots=True)
class Translator:
    """What a gateway does to the addresses of a flow at hand."""

    translations: Sequence[Translation] = ()  # those that it applies; none to what it takes for part of something else
    passage: Passage | None = None  # of the connection that the flow answers

    def arrived(self, flow: Flow) -> Flow:
        """Return an answer as it is routed: meant for whoever began."""
        if self.passage is None or self.passage.came[0] == flow.destination:
            return flow
        return replace(flow, destination=self.passage.came[0])

    def from_tunnel(self, tunnel_id: str, flow: Flow) -> Flow:
        """Return what has come by a tunnel as it is routed."""
        return self._by_list(tunnel_id, flow, TranslatedSide.FAR, TranslatedSide.OWN)

    def leaving(self, flow: Flow) -> Flow:
        """Return a flow as it leaves, but for what the list says of the tunnel that it goes into."""
        if self.passage is None or self.passage.came[1] == flow.source:
            return flow
        return replace(flow, source=self.passage.came[1])

    def into_tunnel(self, tunnel_id: str, flow: Flow) -> Flow:
        """Return a flow as it enters a tunnel."""
        return self._by_list(tunnel_id, self.leaving(flow), TranslatedSide.OWN, TranslatedSide.FAR)

    def _by_list(self, tunnel_id: str, flow: Flow, sources: TranslatedSide, destinations: TranslatedSide) -> Flow:
        """Translate source and destination, each by the first translation that is about it."""
        about = [translation for translation in self.translations if translation.tunnel_id in (None, tunnel_id)]
        source = next(
            (translation for translation in about if translation.side is sources and translation.inside.holds(flow.source)), None
        )
        target = next(
            (
                translation
                for translation in about
                if translation.side is destinations and translation.outside.holds(flow.destination) and _one_to_one(translation)
            ),
            None,
        )
        if source:
            flow = replace(flow, source=Address(flow.source.family, source.seen(flow.source.value)))
        if target:
            real = flow.destination.value - target.outside.network + target.inside.network
            flow = replace(flow, destination=Address(flow.destination.family, real))
        return flow


def _one_to_one(translation: Translation) -> bool:
    """Whether something that begins outside is led to a host: behind one address there is nobody to lead it to."""
    return translation.kind is TranslationKind.ONE_TO_ONE


def translator(
    translations: Sequence[Translation], keeps_state: bool, gateway_id: str, flow: Flow, connection: Connection
) -> Translator:
    """Return what a gateway is to do with a flow that has come to it."""
    if not keeps_state or not connection.answering:
        return Translator(translations)
    for passage in connection.passages.get(gateway_id, ()):
        if passage.left == (flow.destination, flow.source):
            return Translator((), passage)
    return Translator(translations if flow.answered_newly else ())
