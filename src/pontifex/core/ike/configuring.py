"""What a caller is given for its time inside: an address, resolvers and suffixes (RFC 7296 sections 2.19 and 3.15, RFC 8598)."""

from __future__ import annotations

from collections.abc import Iterable

from pontifex.core.addressing import Address, Family, Prefix, Region, Selector
from pontifex.core.ike.effects import Configured, LogLevel
from pontifex.core.ike.ike_sa import IkeSa
from pontifex.core.ike.machine import Machine
from pontifex.core.ike.message import Message
from pontifex.core.ike.payloads import Configuration, Notify, NotifyType, Payload
from pontifex.core.ike.payloads.configuration import (
    ADDRESS_OF,
    RESOLVER_OF,
    Attribute,
    ConfigurationAttribute,
    ConfigurationType,
)
from pontifex.core.ike.settings import HandedOut


def asked(m: Machine) -> Iterable[Payload]:
    """Yield what an initiator asks to be given: the address that it had before, where it had one."""
    if not m.settings.asks_address:
        return
    families = dict.fromkeys(network.family for network in m.settings.remote_networks)
    before = m.configured.address if m.configured else None
    wanted = [
        ConfigurationAttribute(ADDRESS_OF[family], _written(before) if before and before.family is family else b"")
        for family in families
    ]
    wanted += [ConfigurationAttribute(RESOLVER_OF[family]) for family in families]
    yield Configuration(ConfigurationType.REQUEST, (*wanted, ConfigurationAttribute(Attribute.INTERNAL_DNS_DOMAIN)))


def handed_out(m: Machine, sa: IkeSa, request: Message) -> tuple[tuple[Payload, ...], Notify | None]:
    """Give the caller what it asks for; or return why it gets no Child SA."""
    given = m.settings.hands_out
    asking = request.first(Configuration)
    if given is None:
        return (), None  # what isn't understood is answered by nothing (section 3.15)
    if asking is None or asking.kind != ConfigurationType.REQUEST:
        m.log("The caller asks for no address, and is to have one.", LogLevel.ERROR)
        return (), Notify(NotifyType.FAILED_CP_REQUIRED)
    family = given.pool.family
    wanted = next((attribute for attribute in asking.attributes if attribute.type == ADDRESS_OF[family]), None)
    sa.leased = _free(m, sa, given, wanted.address if wanted else None) if wanted else None
    if sa.leased is None:
        why = "no address is free" if wanted else f"it asks for no address of {family.label}"
        m.log(f"The caller gets no address: {why}.", LogLevel.ERROR)
        return (), Notify(NotifyType.INTERNAL_ADDRESS_FAILURE)
    m.log(f"The caller is given {_told(sa.leased, given.resolvers)}.")
    return (Configuration(ConfigurationType.REPLY, tuple(_attributes(sa.leased, given))),), None


def _attributes(address: Address, given: HandedOut) -> Iterable[ConfigurationAttribute]:
    yield ConfigurationAttribute(ADDRESS_OF[address.family], _written(address))
    for resolver in given.resolvers:
        yield ConfigurationAttribute(RESOLVER_OF[resolver.family], resolver.value.to_bytes(resolver.family.bits // 8))
    for domain in given.domains:
        yield ConfigurationAttribute(Attribute.INTERNAL_DNS_DOMAIN, domain.encode())


def _free(m: Machine, sa: IkeSa, given: HandedOut, before: Address | None) -> Address | None:
    """Return an address of the pool that nobody has: the one that the caller had before, where that can be."""
    others = (ike_sa for ike_sa in m.sas.values() if ike_sa is not sa and ike_sa.far_identity != sa.far_identity)
    taken = {ike_sa.leased for ike_sa in others if ike_sa.leased}
    if before and given.may_give(before) and before not in taken:
        return before
    mine = {
        ike_sa.leased for ike_sa in m.sas.values() if ike_sa is not sa and ike_sa.leased
    }  # an older SA of the same caller keeps its own
    first, last = given.pool.network + 1, given.pool.last - (given.pool.family is Family.V4)
    addresses = (Address(given.pool.family, value) for value in range(first, last + 1))
    return next((address for address in addresses if address not in taken | mine and given.may_give(address)), None)


def taken(m: Machine, sa: IkeSa, answer: Message) -> bool:
    """Take what the responder has given; False, with a line in the log, where it gave no address that was asked for."""
    if not m.settings.asks_address:
        return True
    reply = answer.first(Configuration)
    given = (
        [attribute for attribute in reply.attributes if attribute.value]
        if reply and reply.kind == ConfigurationType.REPLY
        else []
    )
    addresses = [attribute.address for attribute in given if attribute.type in ADDRESS_OF.values() and attribute.address]
    if not addresses:
        if answer.error is None:
            m.log("The other end gave no address.", LogLevel.ERROR)
            return False
        return True  # what it refuses is told with the Child SA
    sa.leased = addresses[0]
    resolvers = tuple(attribute.address for attribute in given if attribute.type in RESOLVER_OF.values() and attribute.address)
    domains = tuple(
        attribute.value.decode("ascii", "replace") for attribute in given if attribute.type == Attribute.INTERNAL_DNS_DOMAIN
    )
    m.configured = Configured(sa.leased, resolvers, domains)
    m.effects.append(m.configured)
    names = f"; names below {', '.join(domains)} are asked there" if domains else ""
    m.log(f"This end is given {_told(sa.leased, resolvers)}{names}.")
    return True


def networks(m: Machine, sa: IkeSa) -> tuple[Region, Region]:
    """Return the networks of an end and of the far one under an IKE SA: of a caller it is what it was given alone."""
    local, remote = m.settings.local_networks, m.settings.remote_networks
    if sa.leased is None:
        return local, remote
    only = (Selector.of(Prefix.of_address(sa.leased)),)
    return (only, remote) if m.settings.asks_address else (local, only)


def _told(address: Address, resolvers: Iterable[Address]) -> str:
    asked_there = ", ".join(map(str, resolvers))
    return f"{address}, and {asked_there} to ask for names" if asked_there else str(address)


def _written(address: Address) -> bytes:
    octets = address.value.to_bytes(address.family.bits // 8)
    return octets if address.family is Family.V4 else octets + bytes((address.family.bits,))
