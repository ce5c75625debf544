"""A platform of people's devices: what a family of them can do, and where one differs from its family."""

from __future__ import annotations

from typing import Final

from pydantic import Field

from pontifex.core.choice import Choice
from pontifex.core.kinds.fields import Remark
from pontifex.core.kinds.kind import DesignMember, Group, Kind, ObjectType


class PlatformFamily(Choice):
    """Families of devices that dial in."""

    DESKTOP = "desktop"
    PHONE = "phone"
    TABLET = "tablet"
    APPLIANCE = "appliance"  # a device without a person: a till, a door, a camera


class Ability(Choice):
    """What a profile may ask of a device."""

    IPSEC_IKEV2 = "ipsec-ikev2"
    IPSEC_IKEV1 = "ipsec-ikev1"
    TLS = "tls"
    PEER_KEY = "peer-key"
    CERTIFICATE = "certificate"
    EAP = "eap"
    SECOND_FACTOR = "second-factor"
    DIAL_ALWAYS = "dial-always"
    DIAL_ON_DEMAND = "dial-on-demand"
    DIAL_FOR_APPLICATIONS = "dial-for-applications"
    TEST_BY_SUFFIX = "test-by-suffix"
    TEST_BY_PREFIX = "test-by-prefix"
    TEST_BY_PROBE = "test-by-probe"
    ALL_BUT = "all-but"
    RULES_BY_APPLICATION = "rules-by-application"
    RULES_BY_DOMAIN = "rules-by-domain"
    RULES_BY_ADDRESS = "rules-by-address"
    SUFFIX_RESOLVERS = "suffix-resolvers"
    PROXY_FILE = "proxy-file"
    LOCK_DOWN = "lock-down"
    IDLE_LIMIT = "idle-limit"
    SESSION_LIMIT = "session-limit"

    @property
    def label(self) -> str:
        """What people call it."""
        return _LABELS[self]


_LABELS: Final = {
    Ability.IPSEC_IKEV2: "IPsec with IKEv2",
    Ability.IPSEC_IKEV1: "IPsec with IKEv1",
    Ability.TLS: "TLS",
    Ability.PEER_KEY: "static peer keys",
    Ability.CERTIFICATE: "proof by certificate",
    Ability.EAP: "proof by EAP",
    Ability.SECOND_FACTOR: "a second factor",
    Ability.DIAL_ALWAYS: "dialling always",
    Ability.DIAL_ON_DEMAND: "dialling on demand",
    Ability.DIAL_FOR_APPLICATIONS: "dialling when applications start",
    Ability.TEST_BY_SUFFIX: "knowing the inside by a suffix",
    Ability.TEST_BY_PREFIX: "knowing the inside by a prefix",
    Ability.TEST_BY_PROBE: "knowing the inside by a probe",
    Ability.ALL_BUT: "a split that leaves networks out",
    Ability.RULES_BY_APPLICATION: "rules by application",
    Ability.RULES_BY_DOMAIN: "rules by domain",
    Ability.RULES_BY_ADDRESS: "rules by address",
    Ability.SUFFIX_RESOLVERS: "a resolver for a suffix alone",
    Ability.PROXY_FILE: "a proxy by a file",
    Ability.LOCK_DOWN: "lock-down",
    Ability.IDLE_LIMIT: "an idle limit",
    Ability.SESSION_LIMIT: "a session limit",
}


class Platform(DesignMember):
    """A platform of people's devices, and where it differs from its family."""

    family: PlatformFamily = Field(default=PlatformFamily.DESKTOP, title="Family")
    cannot: tuple[Ability, ...] = Field(
        default=(), title="Can't", description="Though its family usually can.", max_length=len(Ability)
    )
    can: tuple[Ability, ...] = Field(
        default=(), title="Can", description="Though its family usually can't.", max_length=len(Ability)
    )
    remark: Remark = Field(default="", title="Remark")


PLATFORM: Final = Kind(ObjectType.PLATFORM, Platform, "platforms", "Platforms", Group.PEOPLE)
