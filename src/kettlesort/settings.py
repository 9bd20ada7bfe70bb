"""What the application is told from outside, by environment variables that begin with KETTLE_."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path

from pydantic_settings import BaseSettings, SettingsConfigDict


class Settings(BaseSettings):
    """``database`` is a libpq address; ``secret`` signs cookies; sizes are in bytes.

    ``private_addresses`` lets catalogues within the server's own network be asked;
    ``registry`` is the address of a DOI registry, "" for none; ``demo_catalogue`` that of the
    catalogue which the demo review asks. ``language_model`` is the address of a language model that may be asked for values where a lead lets it, "" for none;
    ``language_model_key`` is what it knows this server by, ``language_model_name`` what people read. ``proxy`` names the proxies whose word on
    a caller's address is believed; ``threads`` answer requests side by side, each with a connection of its own;
    ``statement_timeout`` and ``lock_timeout`` are seconds, 0 for none. With ``invited_only`` an account is made by invitation.
    """

    model_config = SettingsConfigDict(env_prefix="KETTLE_")

    database: str = ""
    secret: str = ""
    static: Path = Path(__file__).parents[2] / "frontend" / "dist"
    max_upload: int = 1_000_000_000
    max_pdf: int = 100_000_000
    secure_cookies: bool = False
    proxy: str = ""
    sign_in_attempts: int = 8
    new_accounts_an_hour: int = 20
    invited_only: bool = False
    hold_minutes: int = 10
    threads: int = 24
    statement_timeout: float = 60
    lock_timeout: float = 10
    private_addresses: bool = False
    registry: str = ""
    demo_catalogue: str = ""
    language_model: str = ""
    language_model_key: str = ""
    language_model_name: str = ""


@lru_cache(maxsize=1)
def settings() -> Settings:
    """The settings of this process."""
    return Settings()
