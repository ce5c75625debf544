"""The catalogue: every kind of finding with its severity, what follows from it, and what it rests on."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum
from typing import Final


class Severity(Enum):
    """How bad a finding is. The order of the members is from worst to least."""

    BLOCKER = "blocker"  # will not work
    LATER = "later"  # works, then stops
    PARTIAL = "partial"  # some of the traffic
    EXPOSURE = "exposure"  # leaks, or is weak
    ADVICE = "advice"

    @property
    def rank(self) -> int:
        """Place from the worst, from 0."""
        return list(Severity).index(self)


@dataclass(frozen=True, slots=True)
class CatalogueEntry:
    """One kind of finding. The code is stable and never reused."""

    code: str
    severity: Severity
    title: str
    consequence: str
    reference: str


_BLOCKER, _LATER, _PARTIAL, _EXPOSURE, _ADVICE = Severity
_ENTRIES: Final = (
    CatalogueEntry("analysis.check-failed", _PARTIAL, "A check could not be made", "What it would tell isn't known. All other checks stand; the error is Pontifex's own, and in its log.", "RFC 9110 section 15.6"),
    CatalogueEntry("address.overlap", _BLOCKER, "Networks collide", "Traffic for one of the networks ends up in the other, or nowhere.", "RFC 1918 section 5"),
    CatalogueEntry("address.gateway-outside", _BLOCKER, "The gateway address lies outside", "The hosts can't reach their default router.", "RFC 1122 section 3.3.1.1"),
    CatalogueEntry("address.special-purpose", _PARTIAL, "Special-purpose space", "Hosts and routers treat such addresses in their own ways, or drop them.", "RFC 6890 section 2.2"),
    CatalogueEntry("address.shared-space", _LATER, "Shared space used inside", "It collides with a carrier's own network as soon as an uplink is behind one that uses it.", "RFC 6598 section 4"),
    CatalogueEntry("address.public-inside", _EXPOSURE, "Public space used inside", "Whoever holds it on the Internet can't be reached from here, and traffic for it leaks out when a route is gone.", "RFC 1918 section 5"),
    CatalogueEntry("address.plain-global-id", _ADVICE, "A global ID that others may have, too", "It collides with the next organisation that chose as plainly.", "RFC 4193 section 3.2"),
    CatalogueEntry("address.overlap-unjoined", _ADVICE, "Networks would collide", "As soon as a tunnel joins the sites, traffic for one of the networks ends up in the other, or nowhere.", "RFC 1918 section 5"),
    CatalogueEntry("address.home-prefix", _PARTIAL, "A prefix that is usual at home", "People whose own router uses the same prefix reach what is next to them instead of this.", "RFC 1918 section 3"),
    CatalogueEntry("address.dhcp-outside", _BLOCKER, "A DHCP range outside its network", "Clients get addresses with which they reach nothing.", "RFC 2131 section 4.3.1"),
    CatalogueEntry("address.dhcp-twice", _PARTIAL, "DHCP ranges share addresses", "Two clients get one address.", "RFC 2131 section 4.3.1"),
    CatalogueEntry("address.dhcp-static", _PARTIAL, "A DHCP range over addresses in use", "A client gets an address that somebody has; both lose their connections.", "RFC 2131 section 4.3.1, RFC 5227 section 1"),
    CatalogueEntry("address.host-twice", _PARTIAL, "One address for two hosts", "Whichever answered last is reached; connections of the other break off.", "RFC 5227 section 1"),
    CatalogueEntry("address.host-outside", _PARTIAL, "A host outside its network", "The host is not reached, and doesn't reach its default router.", "RFC 1122 section 3.3.1.1"),
    CatalogueEntry("address.host-unusable", _PARTIAL, "An address that no host may have", "It stands for the network itself, or for all its hosts.", "RFC 1122 section 3.2.1.3"),
    CatalogueEntry("address.kept", _PARTIAL, "An address that the platform keeps", "The platform answers in the host's place, or drops what is sent to it.", "RFC 4632 section 5.1"),
    CatalogueEntry("address.kept-elsewhere", _PARTIAL, "A platform's own range collides", "What the platform keeps can't be reached as a network from there.", "RFC 4632 section 5.1"),
    CatalogueEntry("address.too-small", _ADVICE, "Too small for what is expected", "Hosts that come last get no address.", "RFC 2131 section 4.3.1"),
    CatalogueEntry("address.claim-taken", _ADVICE, "A reserved prefix in use", "Whoever counts on it finds it taken.", "RFC 4632 section 5.1"),
    CatalogueEntry("translation.outside-taken", _BLOCKER, "Translated into space in use", "Those who see the translation can't reach what stands there.", "RFC 2663 section 4"),
    CatalogueEntry("translation.real-selectors", _BLOCKER, "The tunnel names the real addresses", "Translated packets fit none of the tunnel's networks and never pass.", "RFC 3715 section 2.1, RFC 7296 section 2.9"),
    CatalogueEntry("translation.names-nothing", _ADVICE, "A translation of nothing", "It changes no packet, since no network there has such addresses.", "RFC 2663 section 4"),
    CatalogueEntry("translation.hides", _PARTIAL, "Hidden behind one address", "The other side can begin no connection, and sees one address for all.", "RFC 2663 section 4.1.2"),
    CatalogueEntry("translation.dns", _PARTIAL, "Names give away the wrong address", "Who asks for the name from the other side gets an address that leads elsewhere.", "RFC 3027 section 4.3"),
    CatalogueEntry("profile.default-inside", _PARTIAL, "A split with a default route", "Clients that take these routes send everything through the tunnel: the split is none.", "RFC 3442"),
    CatalogueEntry("profile.pool-too-small", _PARTIAL, "The pool is too small", "Who dials in last gets no address.", "RFC 7296 section 3.15"),
    CatalogueEntry("profile.forgets", _PARTIAL, "The split forgets networks", "People who dial in send traffic for them to the Internet, where it is lost.", "RFC 3442"),
    CatalogueEntry("profile.leaks-family", _EXPOSURE, "An address family passes beside the tunnel", "What goes over that family is neither protected nor seen by the gateway.", "RFC 7359 section 3"),
    CatalogueEntry("dns.leak", _EXPOSURE, "Names are asked outside", "Whoever runs the resolver at home learns what is asked for, and doesn't know the answer.", "RFC 7359 section 3, RFC 8598 section 1"),
    CatalogueEntry("dns.resolver-beside", _PARTIAL, "The resolver lies beside the tunnel", "Names are not resolved, or asked of somebody else.", "RFC 8598 section 1"),
    CatalogueEntry("reach.both-wait", _BLOCKER, "Nobody calls", "The tunnel stays down: neither end starts the exchange.", "RFC 7296 section 1.2"),
    CatalogueEntry("reach.nobody-can-call", _BLOCKER, "Nobody can be called", "The tunnel stays down: the first message never arrives.", "RFC 7296 section 2.23"),
    CatalogueEntry("reach.families-differ", _BLOCKER, "IPv4 outside at one end, IPv6 at the other", "The tunnel stays down: no packet gets from one family to the other.", "RFC 7296 section 2.23"),
    CatalogueEntry("reach.no-address", _BLOCKER, "No address to call", "The tunnel stays down: the end that is to call doesn't know where.", "RFC 7296 section 1.2"),
    CatalogueEntry("reach.wrong-address", _BLOCKER, "Wrong peer address", "The call goes to somebody else, or the answer is refused.", "RFC 7296 section 1.2"),
    CatalogueEntry("reach.address-of-uncallable", _BLOCKER, "An address for an end that has none", "A call from the far end arrives from another address and is refused.", "RFC 7296 section 2.23"),
    CatalogueEntry("reach.address-changes", _LATER, "An address for an end whose address changes", "The tunnel works until the far end gets another address.", "RFC 7296 section 2.23"),
    CatalogueEntry("ike.invalid-proposal", _BLOCKER, "Invalid IKE proposal", "The far end refuses the proposal whatever it accepts itself.", "RFC 7296 section 3.3.3"),
    CatalogueEntry("ike.no-common-proposal", _BLOCKER, "No common IKE proposal", "The far end answers NO_PROPOSAL_CHOSEN to the first message.", "RFC 7296 section 2.7"),
    CatalogueEntry("end.identity-empty", _BLOCKER, "Empty identity", "Authentication fails: an end that says nothing of itself is not recognised.", "RFC 7296 section 3.5"),
    CatalogueEntry("end.identity-type", _BLOCKER, "Identities of different type", "Authentication fails, though the two may look alike.", "RFC 7296 section 3.5"),
    CatalogueEntry("end.identity-blank", _BLOCKER, "Identities differ by a blank", "Authentication fails: identities are compared letter by letter.", "RFC 7296 section 3.5"),
    CatalogueEntry("end.identity-case", _BLOCKER, "Identities differ in case", "Authentication fails: identities are compared letter by letter.", "RFC 7296 section 3.5"),
    CatalogueEntry("end.identity-homograph", _BLOCKER, "Identities only look alike", "Authentication fails: identities are compared letter by letter.", "RFC 7296 section 3.5"),
    CatalogueEntry("end.identity-differs", _BLOCKER, "Identities differ", "Authentication fails: the far end finds no entry for this identity.", "RFC 7296 section 3.5"),
    CatalogueEntry("end.key-differs", _BLOCKER, "Keys differ", "Authentication fails: the far end answers AUTHENTICATION_FAILED.", "RFC 7296 section 2.15"),
    CatalogueEntry("child.invalid-proposal", _BLOCKER, "Invalid Child SA proposal", "The IKE SA comes up, but no traffic passes.", "RFC 7296 section 3.3.3"),
    CatalogueEntry("child.no-common-proposal", _BLOCKER, "No common Child SA proposal", "The IKE SA comes up, but the far end answers NO_PROPOSAL_CHOSEN for the Child SA.", "RFC 7296 section 2.7"),
    CatalogueEntry("child.no-common-network", _BLOCKER, "Networks don't meet", "The IKE SA comes up, but the far end answers TS_UNACCEPTABLE for the Child SA.", "RFC 7296 section 2.9"),
    CatalogueEntry("child.networks-narrowed", _PARTIAL, "Networks narrowed", "The Child SA comes up for the common networks only; the rest never passes.", "RFC 7296 section 2.9"),
    CatalogueEntry("crypto.must-not", _EXPOSURE, "Retired algorithm offered", "A caller can settle on an algorithm that is broken.", "RFC 8247 section 2, RFC 8221 section 5"),
    CatalogueEntry("crypto.weak", _EXPOSURE, "Weak algorithm offered", "A caller can settle on an algorithm that is weaker than it should be.", "RFC 8247 section 2, RFC 8221 section 5"),
    CatalogueEntry("key.weak", _EXPOSURE, "Weak key", "Whoever answers a single call in the far end's place can try keys offline until one fits.", "RFC 7296 section 2.15"),
    CatalogueEntry("key.reused", _EXPOSURE, "One key for several tunnels", "Whoever learns the key at one end can stand in for each of the others.", "RFC 7296 section 2.15"),
    CatalogueEntry("reach.service-off", _BLOCKER, "All tunnels of a gateway are off", "None of the gateway's tunnels comes up, whatever each one's own switch says.", "RFC 7296 section 1.2"),
    CatalogueEntry("reach.switched-off", _BLOCKER, "The tunnel is switched off", "The tunnel stays down; the gateway's other tunnels are not touched.", "RFC 7296 section 1.2"),
    CatalogueEntry("reach.outbound-blocked", _BLOCKER, "UDP doesn't get out", "The tunnel stays down: neither IKE nor ESP in UDP leaves the site. A tunnel over TLS and TCP 443 would.", "RFC 9329 section 1"),
    CatalogueEntry("reach.only-on-traffic", _PARTIAL, "Only one side's traffic brings it up", "Connections that the other side begins are lost while the tunnel is down.", "RFC 7296 section 1.2"),
    CatalogueEntry("reach.keepalive-too-long", _LATER, "The NAT forgets the tunnel", "After a silence nothing reaches the end behind the NAT until it speaks again.", "RFC 3948 section 4, RFC 4787 section 4.3"),
    CatalogueEntry("reach.port-differs", _BLOCKER, "Ports differ", "The call arrives where nobody listens.", "RFC 8446 section 2"),
    CatalogueEntry("tunnel.technology-differs", _BLOCKER, "Ends of different technology", "The two ends don't understand each other's first message.", "RFC 4301 section 3, RFC 8446 section 2"),
    CatalogueEntry("tunnel.technology-lacking", _BLOCKER, "A gateway lacks the technology", "The tunnel can't be configured at that end.", "RFC 4301 section 3, RFC 8446 section 2"),
    CatalogueEntry("tunnel.inner-address-twice", _BLOCKER, "One inner address twice", "Packets for the other end's inner address never leave: each end takes them for its own.", "RFC 4301 section 4.4.1"),
    CatalogueEntry("tunnel.inner-networks-differ", _BLOCKER, "Inner networks differ", "Neither end has a route to the other's inner address.", "RFC 4301 section 4.4.1"),
    CatalogueEntry("address.inner-network", _BLOCKER, "The inner network takes a network's traffic", "Everything for that network goes into the tunnel interface and vanishes.", "RFC 4632 section 5.1"),
    CatalogueEntry("auth.method-differs", _BLOCKER, "Proofs don't fit", "Authentication fails: the far end waits for another kind of proof.", "RFC 7296 section 2.15"),
    CatalogueEntry("auth.eap-misplaced", _BLOCKER, "EAP where it can't be", "Authentication fails: EAP proves a caller, to an end that proves itself by a certificate.", "RFC 7296 section 2.16"),
    CatalogueEntry("auth.eap-method-differs", _BLOCKER, "EAP methods differ", "Authentication fails: the two ends have no EAP method in common.", "RFC 7296 section 2.16, RFC 3748 section 5.3"),
    CatalogueEntry("auth.eap-without-key", _EXPOSURE, "An EAP method that makes no key", "Whoever stands in the middle can pass the exchange on and take the session over.", "RFC 7296 section 2.16"),
    CatalogueEntry("auth.any-identity", _EXPOSURE, "Any identity is accepted", "Whoever has the key, or a certificate of the same authority, can stand in for the far end.", "RFC 7296 section 2.15"),
    CatalogueEntry("account.name-differs", _BLOCKER, "Account names differ", "The far end refuses the log-in.", "RFC 3748 section 5.1"),
    CatalogueEntry("account.disabled", _BLOCKER, "The account is disabled", "The far end refuses the log-in.", "RFC 3748 section 5.1"),
    CatalogueEntry("account.wrong-kind", _BLOCKER, "The account is for something else", "The far end knows the account, and doesn't let it bring a tunnel up.", "RFC 3748 section 5.1"),
    CatalogueEntry("account.secret-differs", _BLOCKER, "The account's secrets differ", "The far end refuses the log-in.", "RFC 3748 section 5.1"),
    CatalogueEntry("cert.root-lacking", _BLOCKER, "No trust in the certificate", "Authentication fails: no chain leads to an authority that this end trusts.", "RFC 5280 section 6.1"),
    CatalogueEntry("cert.not-valid", _BLOCKER, "A certificate is out of date", "Authentication fails until there is a certificate that is valid today.", "RFC 5280 section 4.1.2.5"),
    CatalogueEntry("cert.identity", _BLOCKER, "The certificate is for somebody else", "Authentication fails: an identity must stand in the certificate that proves it.", "RFC 4945 section 3.1"),
    CatalogueEntry("cert.expires", _LATER, "A certificate runs out soon", "The tunnel works until that day, and then not any more.", "RFC 5280 section 4.1.2.5"),
    CatalogueEntry("cert.weak", _EXPOSURE, "A weak certificate", "Somebody could make a certificate that passes for this one.", "RFC 8247 section 3, NIST SP 800-57 part 1, RFC 6194"),
    CatalogueEntry("child.group-at-rekey", _LATER, "No common group at the first rekey", "The tunnel comes up, since the first Child SA takes its keys from the IKE SA, and dies at the first rekey.", "RFC 7296 sections 1.2 and 1.3.3"),
    CatalogueEntry("child.all-traffic-one-side", _PARTIAL, "All traffic at one end only", "The Child SA comes up for the networks that both have; the rest never passes.", "RFC 7296 section 2.9"),
    CatalogueEntry("child.nothing-passes", _BLOCKER, "Nothing can pass", "Both ends agree on networks between which there is no packet: of two families, or of two protocols.", "RFC 4301 section 4.4.1"),
    CatalogueEntry("child.partner-lacking", _PARTIAL, "Networks without a partner", "They never pass: there is nothing of their family and protocol on the far side.", "RFC 7296 section 2.9"),
    CatalogueEntry("child.too-many-networks", _BLOCKER, "Too many networks", "The gateway refuses the configuration, or drops the networks that are too many.", "RFC 7296 section 3.13"),
    CatalogueEntry("child.networks-overlap", _ADVICE, "Networks on both sides", "The order of policies decides: the tunnel's takes what it names, before any route and any network of the site.", "RFC 4301 section 4.4.1"),
    CatalogueEntry("lists.no-common-network", _BLOCKER, "Networks don't meet", "The tunnel comes up, and each end drops whatever the other sends.", "RFC 4301 section 5.2"),
    CatalogueEntry("lists.nothing-passes", _BLOCKER, "Nothing can pass", "Both ends have networks between which there is no packet: of two families, or of two protocols.", "RFC 4301 section 4.4.1"),
    CatalogueEntry("lists.partner-lacking", _PARTIAL, "Networks without a partner", "They never pass: there is nothing of their family and protocol on the far side.", "RFC 4301 section 5.2"),
    CatalogueEntry("lists.networks-narrowed", _PARTIAL, "Networks differ", "What only one end names is sent and dropped at the far end, or never sent.", "RFC 4301 section 5.2"),
    CatalogueEntry("lists.all-traffic-one-side", _PARTIAL, "All traffic at one end only", "What the other end doesn't name is sent and dropped there.", "RFC 4301 section 5.2"),
    CatalogueEntry("child.networks-redundant", _ADVICE, "Networks within networks", "It changes nothing, and takes up one of the entries that a device allows.", "RFC 7296 section 2.9"),
    CatalogueEntry("rekey.margin-too-long", _LATER, "The margin is longer than the lifetime", "The end rekeys without a pause, or not at all before the SA is gone.", "RFC 7296 section 2.8"),
    CatalogueEntry("rekey.cannot-reauthenticate", _LATER, "It can't authenticate anew", "The tunnel goes down when the lifetime ends, and comes up again only when the other end calls.", "RFC 7296 section 2.8.3"),
    CatalogueEntry("restart.not-noticed", _LATER, "A restart goes unnoticed", "After the far end has restarted, nothing passes until the old SA's lifetime ends.", "RFC 7296 section 2.4"),
    CatalogueEntry("mtu.too-big", _PARTIAL, "The inner MTU is too big", "Small packets pass; large ones are lost or cut up, and transfers stall.", "RFC 4303 section 3.3.4, RFC 4821"),
    CatalogueEntry("mtu.mss-too-big", _PARTIAL, "The TCP MSS is too big", "Connections come up and stall with the first full segment.", "RFC 9293 section 3.7.1"),
    CatalogueEntry("hub.identity-twice", _LATER, "One identity for two callers", "Each call deletes the other's SAs: the two put each other out in turn.", "RFC 7296 section 2.4"),
    CatalogueEntry("hub.key-pair-twice", _LATER, "One key pair for two callers", "The gateway takes them for one that moves about: each takes the other's place.", "RFC 7748 section 6.1"),
    CatalogueEntry("hub.account-twice", _LATER, "One account for two callers", "Whoever logs in later puts the other out, or is refused.", "RFC 3748 section 5.1"),
    CatalogueEntry("hub.first-that-fits", _PARTIAL, "Another tunnel's proposals decide", "The IKE SA is settled by whichever tunnel fits first, since nobody has said yet who calls.", "RFC 7296 sections 1.2 and 2.7"),
    CatalogueEntry("hub.networks-twice", _PARTIAL, "Two tunnels for the same networks", "One of the two carries it all, and which one changes with every new SA.", "RFC 4301 section 4.4.1"),
    CatalogueEntry("hub.same-nat", _LATER, "Two callers behind one outside address", "The gateway takes one for the other: the later call replaces the earlier one's peer.", "RFC 7296 section 2.23"),
    CatalogueEntry("port.listener-twice", _BLOCKER, "Two listeners on one port", "The second one doesn't start, so nobody answers its callers.", "RFC 9293 section 3.9.1"),
    CatalogueEntry("ike1.deprecated", _EXPOSURE, "IKEv1", "It is no longer maintained; known weaknesses stay.", "RFC 9395 section 3"),
    CatalogueEntry("ike1.mode-differs", _BLOCKER, "Exchange modes differ", "The far end ignores the first message.", "RFC 2409 section 5"),
    CatalogueEntry("ike1.key-by-address", _BLOCKER, "No key for an unknown address", "The far end can't find the key: in main mode it has only the caller's address to go by.", "RFC 2409 section 5.4"),
    CatalogueEntry("ike1.aggressive-key", _EXPOSURE, "A hash of the key goes out in clear", "Whoever listens once can try keys offline until one fits.", "RFC 2409 section 5.4, RFC 7296 section 2.15"),
    CatalogueEntry("ike1.lifetime-differs", _BLOCKER, "Lifetimes differ", "The far end may answer NO-PROPOSAL-CHOSEN: it compares lifetimes.", "RFC 2407 section 4.5.4"),
    CatalogueEntry("ike1.networks-differ", _BLOCKER, "Networks differ", "The second phase fails: IKEv1 compares networks and narrows nothing.", "RFC 2409 section 5.5"),
    CatalogueEntry("tls.transport-differs", _BLOCKER, "Transports differ", "The call arrives where nobody listens.", "RFC 8446 section 2, RFC 9147 section 3"),
    CatalogueEntry("tls.no-common-cipher", _BLOCKER, "No common data cipher", "The control channel comes up, but no data passes.", "RFC 8446 section 4.1.1"),
    CatalogueEntry("tls.digest-differs", _BLOCKER, "Digests differ", "Every packet fails its check and is dropped.", "RFC 8446 section 4.1.1"),
    CatalogueEntry("tls.control-key-alone", _BLOCKER, "A control key at one end only", "The end that has it drops every message of the other, and logs nothing.", "RFC 8446 section 2.2"),
    CatalogueEntry("tls.compression-differs", _BLOCKER, "Compression at one end only", "The tunnel comes up, and every packet arrives as garbage.", "RFC 3749 section 2"),
    CatalogueEntry("tls.compression", _EXPOSURE, "Compression", "Whoever can put text into the tunnel learns secrets from the length of packets.", "RFC 7457 section 2.6"),
    CatalogueEntry("tls.pushed-differs", _PARTIAL, "Pushed networks differ", "The caller routes what it is told, not what was planned.", "RFC 8446 section 2"),
    CatalogueEntry("peer.own-key", _BLOCKER, "An end has its own key for the other's", "No message of the other end can be read.", "RFC 7748 section 6.1"),
    CatalogueEntry("peer.key-differs", _BLOCKER, "Public keys differ", "No message of the other end can be read, and nothing is answered.", "RFC 7748 section 6.1"),
    CatalogueEntry("peer.one-key-pair", _BLOCKER, "One key pair at both ends", "Each end takes the other's messages for its own.", "RFC 7748 section 6.1"),
    CatalogueEntry("end.identity-address-as-name", _ADVICE, "An address as a name", "It works only where the far end expects it as a name, too; most devices take an address for an address.", "RFC 7296 section 3.5"),
    CatalogueEntry("end.identity-invalid", _BLOCKER, "An identity that its type doesn't allow", "The device refuses the setting, or the far end refuses the identity.", "RFC 7296 section 3.5"),
    CatalogueEntry("crypto.refused", _EXPOSURE, "Against the algorithm policy", "A caller can settle on something that the organisation has ruled out.", "RFC 8247 section 1"),
    CatalogueEntry("crypto.lifetime", _EXPOSURE, "A lifetime longer than the policy's", "One key protects more than the organisation allows.", "RFC 7296 section 2.8"),
    CatalogueEntry("crypto.exception-expired", _EXPOSURE, "An exception has run out", "The algorithm is refused by the policy again, and still offered.", "RFC 8247 section 1"),
    CatalogueEntry("crypto.exception-ends", _ADVICE, "An exception ends soon", "From that day on the algorithm is refused by the policy again.", "RFC 8247 section 1"),
    CatalogueEntry("crypto.excepted", _ADVICE, "Accepted by exception", "The policy refuses it; somebody answers for it until that day.", "RFC 8247 section 1"),
    CatalogueEntry("route.missing", _BLOCKER, "A route is missing", "What is wanted is dropped on its way.", "RFC 1812 section 5.2.4.3"),
    CatalogueEntry("route.leaves-unprotected", _BLOCKER, "It leaves unprotected", "What is meant for inside goes out to the Internet, in clear, and is lost there.", "RFC 1918 section 5, RFC 4301 section 4.4.1"),
    CatalogueEntry("route.no-return", _BLOCKER, "No return route", "Requests arrive, and no answer ever comes back.", "RFC 1812 section 5.2.4.3"),
    CatalogueEntry("route.other-router", _BLOCKER, "Hosts send it elsewhere", "The hosts use a router that doesn't know the tunnel; it needs a route there, or the hosts one by DHCP.", "RFC 1122 section 3.3.1.1, RFC 3442"),
    CatalogueEntry("route.forwarding-off", _BLOCKER, "Forwarding is off", "The tunnel comes up, and the gateway passes nothing on.", "RFC 1812 section 2.2.8.1"),
    CatalogueEntry("route.loop", _BLOCKER, "A routing loop", "Packets go round until their time to live ends, and load the tunnels meanwhile.", "RFC 1812 section 5.3.1"),
    CatalogueEntry("route.next-hop", _BLOCKER, "A next hop that nobody has", "The gateway can't use the route; what it is for goes another way, or nowhere.", "RFC 1812 section 5.2.4.2"),
    CatalogueEntry("route.black-hole", _BLOCKER, "A route into nothing", "The tunnel or uplink isn't one of the gateway's, so the route is never used.", "RFC 1812 section 5.2.4.2"),
    CatalogueEntry("route.selectors-refuse", _BLOCKER, "The tunnel's networks refuse it", "A route leads into the tunnel, and the tunnel drops it.", "RFC 4301 section 5.2"),
    CatalogueEntry("route.not-transitive", _BLOCKER, "A peering is not transitive", "A cloud passes nothing on from one link to another; the two sides need a link of their own.", "RFC 4301 section 3"),
    CatalogueEntry("route.isolated", _BLOCKER, "An isolated network", "Its hosts reach none of the other networks, whatever an intent wants.", "RFC 4301 section 4.4.1"),
    CatalogueEntry("route.held", _BLOCKER, "A rule holds it", "None of the rule's paths can be used, and it lets nothing out otherwise.", "RFC 4301 section 4.4.1"),
    CatalogueEntry("route.not-known", _ADVICE, "The design ends here", "Whether it arrives depends on a router that the design doesn't hold.", "RFC 1812 section 5.2.4.2"),
    CatalogueEntry("route.asymmetric", _ADVICE, "The answer comes another way", "It works until something on one of the two ways keeps state, or one of them fails.", "RFC 3439 section 3.5"),
    CatalogueEntry("route.none-into-tunnel", _PARTIAL, "Nothing leads into the tunnel", "The tunnel comes up and carries nothing from this side.", "RFC 1812 section 5.2.4.3"),
    CatalogueEntry("route.superfluous", _ADVICE, "A superfluous route", "It changes nothing, and has to be kept up.", "RFC 4632 section 5.1"),
    CatalogueEntry("route.unneeded", _ADVICE, "A route that nothing needs", "It opens a way that nobody has asked for.", "RFC 4632 section 5.1"),
    CatalogueEntry("filter.blocks", _BLOCKER, "A filter blocks it", "What is wanted is dropped by the gateway's own rules.", "RFC 2979 section 3"),
    CatalogueEntry("filter.asymmetric", _BLOCKER, "The answer meets a filter that doesn't know it", "The filter drops every answer, since the connection began on another way.", "RFC 2979 section 3"),
    CatalogueEntry("policy.never-matches", _PARTIAL, "A rule that never matches", "What it was made for is done by other rules, in their way.", "RFC 4301 section 4.4.1"),
    CatalogueEntry("policy.shadowed", _ADVICE, "A rule that is partly shadowed", "For that part the rule above decides, whatever this one says.", "RFC 4301 section 4.4.1"),
    CatalogueEntry("policy.redundant", _ADVICE, "A redundant rule", "It changes nothing.", "RFC 4301 section 4.4.1"),
    CatalogueEntry("policy.conflicting", _PARTIAL, "Rules of one order that disagree", "Which one decides is left to chance; another device may choose otherwise.", "RFC 4301 section 4.4.1"),
    CatalogueEntry("policy.leak-on-failure", _EXPOSURE, "Leaves unprotected on failure", "When the tunnel fails, its traffic goes out in clear, and nobody notices.", "RFC 4301 section 4.4.1"),
    CatalogueEntry("policy.never-holds", _EXPOSURE, "A hold that never holds", "An uplink takes the traffic out in clear before the rule would hold it.", "RFC 4301 section 4.4.1"),
    CatalogueEntry("policy.name", _ADVICE, "A name in a rule", "What the rule matches depends on when the name is resolved, and by whom.", "RFC 1035 section 7, RFC 2181 section 8"),
    CatalogueEntry("policy.region-unknown", _PARTIAL, "A region that no site has", "The rule matches nothing by it.", "RFC 4301 section 4.4.1"),
    CatalogueEntry("policy.class-unmarked", _PARTIAL, "A class that nobody marks", "The rule never matches.", "RFC 2474 section 4, RFC 2475 section 2.3.3"),
    CatalogueEntry("policy.path-elsewhere", _PARTIAL, "A path that isn't the gateway's", "The gateway passes it over.", "RFC 4301 section 4.4.1"),
    CatalogueEntry("dns.beside-tunnel", _EXPOSURE, "Names are asked beside the tunnel", "Whoever runs that resolver, or listens on its uplink, learns what is asked for.", "RFC 9076 section 2"),
    CatalogueEntry("port.twice", _PARTIAL, "One port published twice", "The second container doesn't start, or takes the first one's connections.", "RFC 9293 section 3.9.1"),
    CatalogueEntry("peering.not-accepted", _BLOCKER, "The peering is not accepted", "Nothing passes between the two clouds until both sides have agreed.", "RFC 4301 section 3"),
    CatalogueEntry("tunnel.carries-itself", _BLOCKER, "The tunnel's own packets go into it", "It comes up, and goes down with the first packet that is to carry it: what leads to its peer leads into it.", "RFC 4301 section 4.4.1, RFC 1812 section 5.2.4.3"),
    CatalogueEntry("tunnel.name-beyond-itself", _BLOCKER, "The peer's name is asked beyond the tunnel", "After a restart nobody can tell where to call: the answer lies behind the tunnel that is to be opened.", "RFC 1035 section 7, RFC 7296 section 1.2"),
    CatalogueEntry("tunnel.not-known", _ADVICE, "Not known yet", "How far a call gets can't be foretold until this is known.", "RFC 7296 section 1.2"),
)  # fmt: skip

CATALOGUE: Final = {entry.code: entry for entry in _ENTRIES}
