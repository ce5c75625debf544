"""A profile as a device gets it: a file of an open format of our own, JSON, signed as a JWS (RFC 7515)."""

from __future__ import annotations

import json
from datetime import datetime
from typing import Any, Final, Literal

from joserfc import jws
from joserfc.errors import JoseError
from joserfc.jwk import ECKey
from pydantic import Field, ValidationError

from pontifex.core.addressing import Address, Prefix
from pontifex.core.errors import FieldRefused
from pontifex.core.frozen_model import FrozenModel
from pontifex.core.kinds import (
    DialInEnd,
    DialWhen,
    InsideTest,
    Name,
    ObjectId,
    PlatformFamily,
    Profile,
    Proxy,
    SplitMode,
    SuffixResolver,
    TrafficRule,
)
from pontifex.core.model import Design
from pontifex.core.routing.split.split import Split, route_list

FORMAT: Final = "pontifex-profile/1"
ALGORITHM: Final = "ES256"  # RFC 7518 section 3.4
MOST_OCTETS: Final = 2_000_000


class ProfileFile(FrozenModel):
    """What a device is set to. It holds no secret: each person and each device has their own."""

    format: Literal["pontifex-profile/1"] = FORMAT
    design: ObjectId = Field(title="Design")
    profile: ObjectId = Field(title="Profile")
    name: Name
    version: int = Field(title="Version", ge=1)
    revision: int = Field(title="Revision of the design", ge=0)
    made_at: datetime = Field(title="Made at")
    groups: tuple[str, ...] = Field(title="Groups")
    families: tuple[PlatformFamily, ...] = Field(title="Families of devices")
    servers: tuple[str, ...] = Field(title="Servers", description="In the order in which they are dialled.")
    device_end: DialInEnd = Field(title="The device's end", description="Without a certificate or an identity of one device.")
    expected: str = Field(title="What the gateway says it is")
    dial: DialWhen = Field(title="Dials")
    dial_applications: tuple[str, ...] = Field(title="Applications that make it dial")
    inside_tests: tuple[InsideTest, ...] = Field(title="Inside already")
    mode: SplitMode = Field(title="What goes through")
    routes: tuple[Prefix, ...] = Field(title="Routes through the tunnel")
    rules: tuple[TrafficRule, ...] = Field(title="Traffic rules")
    resolvers: tuple[Address, ...] = Field(title="Resolvers")
    suffixes: tuple[str, ...] = Field(title="Names asked there")
    own_resolvers: tuple[SuffixResolver, ...] = Field(title="Suffixes with a resolver of their own")
    search: tuple[str, ...] = Field(title="Search list")
    proxy: Proxy | None = Field(title="Proxy")
    lock_down: bool = Field(title="Lock-down")
    second_factor: bool | None = Field(title="Second factor")
    idle_limit_s: int | None = Field(title="Idle limit, s")
    session_limit_s: int | None = Field(title="Session limit, s")


def profile_file_schema() -> dict[str, Any]:
    """Return the JSON Schema of a profile's file, once its signature is taken off."""
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **ProfileFile.model_json_schema()}


_AS_IN_THE_PROFILE: Final = tuple(name for name in ProfileFile.model_fields if name in Profile.model_fields)


class ForgedFile(FieldRefused):
    """A file that isn't what its signer signed."""

    title = "Not what was signed"

    def __init__(self, reason: str) -> None:
        super().__init__("file", reason)


def profile_file(design: Design, profile: Profile, version: int, made_at: datetime) -> ProfileFile:
    """Return the file of a profile as it stands."""
    pool = design.network_by_id.get(profile.pool_id or "")
    routes = route_list(Split.of(profile, pool.prefix if pool else None), profile.most_routes)
    own = profile.device_end
    fields = {name: getattr(profile, name) for name in _AS_IN_THE_PROFILE}
    return ProfileFile.from_valid(
        {
            **fields,
            "format": FORMAT,
            "design": design.id,
            "profile": profile.id,
            "version": version,
            "revision": design.revision,
            "made_at": made_at,
            "device_end": own.changed(certificates=(), local_identity=None),
            "expected": str(own.remote_identity) if own.remote_identity else "",
            "routes": routes.prefixes if routes.fits else routes.summary,
        }
    )


def new_signing_key() -> ECKey:
    """Return a new key pair to sign profiles with."""
    return ECKey.generate_key("P-256")


def signed(file: ProfileFile, key: ECKey) -> str:
    """Return a file as a JWS in compact form; its header names the key by its thumbprint (RFC 7638)."""
    header = {"alg": ALGORITHM, "kid": key.thumbprint(), "typ": "pontifex-profile+json"}
    return jws.serialize_compact(header, file.model_dump_json().encode(), key, algorithms=[ALGORITHM])


def verified(token: str, key: ECKey) -> ProfileFile:
    """Return a file whose signature holds. Raise ForgedFile: one octet changed is enough."""
    if len(token) > MOST_OCTETS:
        raise ForgedFile("it is longer than any profile")
    try:
        payload = jws.deserialize_compact(token.strip(), key, algorithms=[ALGORITHM]).payload
    except (JoseError, ValueError):
        raise ForgedFile("its signature doesn't hold: it was changed, or somebody else signed it") from None
    try:
        return ProfileFile.model_validate_json(payload)
    except ValidationError:
        raise ForgedFile("it is signed, and no profile of this format") from None


def public_part(key: ECKey) -> dict[str, Any]:
    """Return the public half of a signing key, as a JWK (RFC 7517)."""
    return dict(key.as_dict(private=False))


def key_text(key: ECKey) -> str:
    """Return a signing key with its private half, as JSON: for the vault alone."""
    return json.dumps(key.as_dict(private=True))


def key_of(text: str) -> ECKey:
    """Return the signing key that `key_text` wrote, or a public half."""
    return ECKey.import_key(json.loads(text))
