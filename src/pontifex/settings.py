"""Settings from the environment: each is `PONTIFEX_` and its name in capitals."""

from __future__ import annotations

from ipaddress import IPv4Address
from pathlib import Path

from pydantic import Field, IPvAnyAddress, SecretStr
from pydantic_settings import BaseSettings, SettingsConfigDict


class Settings(BaseSettings):
    """How this server runs. All have defaults that suit one engineer on one machine."""

    model_config = SettingsConfigDict(env_prefix="PONTIFEX_")

    state: Path = Field(
        default=Path.home() / ".local/state/pontifex", description="Directory of the private database and the master key."
    )
    database_url: SecretStr | None = Field(default=None, description="An existing PostgreSQL server instead of a private one.")
    master_key: SecretStr | None = Field(default=None, description="Master key of the vault, 32 octets in base64.")
    new_master_key: SecretStr | None = Field(default=None, description="The one to rotate to, where the key is not in a file.")
    host: IPvAnyAddress = Field(default=IPv4Address("127.0.0.1"), description="Address to listen on.")
    port: int | None = Field(default=None, ge=0, le=65535, description="Port to listen on; 8470 or a free one if not given.")
    devices_port: int = Field(default=0, ge=0, le=65535, description="Port at which people's devices fetch their profiles.")
    allowed_hosts: str = Field(default="", description="Further Host names that browsers may use, parted by commas.")
    person: str = Field(default="engineer", max_length=80, description="Who the change log names.")

    @property
    def master_key_text(self) -> str | None:
        """The master key as it stands in the environment, if it does."""
        return self.master_key.get_secret_value() if self.master_key else None
