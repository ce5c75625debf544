"""The payloads of IKEv2, one a file, each with its decoder beside its encoder (RFC 7296 section 3)."""

from pontifex.core.ike.payloads.authentication import Authentication
from pontifex.core.ike.payloads.certificate import CertificatePayload, CertificateRequest
from pontifex.core.ike.payloads.chain import read_payloads, write_payloads
from pontifex.core.ike.payloads.configuration import Configuration
from pontifex.core.ike.payloads.delete import Delete
from pontifex.core.ike.payloads.eap import EapPayload
from pontifex.core.ike.payloads.encrypted import Encrypted, EncryptedFragment
from pontifex.core.ike.payloads.identification import Identification
from pontifex.core.ike.payloads.key_exchange import KeyExchangePayload
from pontifex.core.ike.payloads.nonce import Nonce
from pontifex.core.ike.payloads.notify import Notify, NotifyType
from pontifex.core.ike.payloads.payload import MalformedError, Payload, PayloadType, Unknown
from pontifex.core.ike.payloads.security_association import OfferedProposal, SecurityAssociation
from pontifex.core.ike.payloads.traffic_selectors import TrafficSelectors
from pontifex.core.ike.payloads.vendor_id import VendorId

__all__ = [
    "Authentication",
    "CertificatePayload",
    "CertificateRequest",
    "Configuration",
    "Delete",
    "EapPayload",
    "Encrypted",
    "EncryptedFragment",
    "Identification",
    "KeyExchangePayload",
    "MalformedError",
    "Nonce",
    "Notify",
    "NotifyType",
    "OfferedProposal",
    "Payload",
    "PayloadType",
    "SecurityAssociation",
    "TrafficSelectors",
    "Unknown",
    "VendorId",
    "read_payloads",
    "write_payloads",
]
