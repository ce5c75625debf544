"""What stands in the address of a link: the link's id, signed, in the one form in which it was made."""

from __future__ import annotations

from uuid import UUID

from itsdangerous import BadData, URLSafeSerializer


class LinkTokens:
    """Makes tokens, and says whose one is. A token is good to the letter: base64 leaves bits of its last one unused."""

    def __init__(self, key: bytes, salt: str) -> None:
        self._signer = URLSafeSerializer(key.hex(), salt=salt)

    def token(self, link_id: UUID) -> str:
        """Return the token of a link."""
        return str(self._signer.dumps(link_id.hex))

    def link_id(self, token: str) -> UUID | None:
        """Return the id that a token stands for; None where it is none of ours."""
        try:
            link_id = UUID(hex=str(self._signer.loads(token)))
        except (BadData, ValueError):
            return None
        return link_id if token == self.token(link_id) else None
