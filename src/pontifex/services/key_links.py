"""Use cases about handing over a key: a link by one way, a spoken code by another, and the key is shown once."""

from __future__ import annotations

import base64
import hmac
import os
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Annotated, Final
from uuid import UUID

import structlog
from cryptography.hazmat.primitives.hashes import SHA256
from cryptography.hazmat.primitives.kdf.hkdf import HKDF
from pydantic import Field

from pontifex.core.ipsec.preshared_key import spoken
from pontifex.core.model import Design
from pontifex.services.keys import KeyService
from pontifex.services.link_tokens import LinkTokens
from pontifex.store import KeyNotHere
from pontifex.store.key_links import KeyLinks, OpenedKey, Opening

_CODE_OCTETS: Final = 5  # 40 bits, of which few can be tried


@dataclass(frozen=True, slots=True, kw_only=True)
class MadeKeyLink:
    """A link to a key: it goes one way, and the code is spoken on another. Both are told once."""

    path: Annotated[str, Field(title="Where it leads", description="On this server.")]
    code: Annotated[str, Field(title="Code", examples=["K4VT2MQX"])]
    spoken: Annotated[str, Field(title="The code, to be read aloud")]
    until: datetime


class KeyLinkService:
    """All use cases about links to keys."""

    def __init__(self, links: KeyLinks, keys: KeyService, master_key: bytes) -> None:
        derived = HKDF(SHA256(), 64, salt=None, info=b"pontifex key link").derive(master_key)
        self._links, self._keys, self._code_key = links, keys, derived[:32]
        self._tokens = LinkTokens(derived[32:], "key link")
        self._log = structlog.get_logger("keys")

    def make(self, design: Design, reference: UUID, hours: int, person: str) -> MadeKeyLink:
        """Make a link to a key. Raise KeyNotHere."""
        if reference not in self._keys.references(design):
            raise KeyNotHere("this key is not in the vault here: it came with an imported design; set it again")
        code = base64.b32encode(os.urandom(_CODE_OCTETS)).decode()
        until = datetime.now(UTC) + timedelta(hours=hours)
        link_id = self._links.make(design.id, reference, self._hash(code), until, person)
        self._log.info("key link made", design=design.id, reference=str(reference), person=person)
        return MadeKeyLink(path=f"/key/{self._tokens.token(link_id)}", code=code, spoken=spoken(code), until=until)

    def is_open(self, token: str) -> bool:
        """Whether a link waits for its code."""
        link_id = self._tokens.link_id(token)
        return link_id is not None and self._links.is_open(link_id)

    def opened(self, token: str, code: str) -> tuple[Opening, OpenedKey | None]:
        """Try a code. The right one opens the link once."""
        link_id = self._tokens.link_id(token)
        plain = "".join(code.split()).upper().replace("0", "O").replace("1", "I").replace("8", "B")
        return self._links.try_code(link_id, self._hash(plain)) if link_id else (Opening.CLOSED, None)

    def secret(self, design: Design, opened: OpenedKey) -> str:
        """Return the key of a link that was opened, once. Raise KeyNotHere, KeyAlreadyShown."""
        return self._keys.show(design, opened.reference, f"whoever had the link of {opened.made_by}")

    def _hash(self, code: str) -> bytes:
        return hmac.digest(self._code_key, code.encode(), "sha256")
