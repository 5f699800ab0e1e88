"""Every setting, read from the environment once."""
{= if web == "fastapi" =}

from typing import Annotated, Literal

from pydantic import Field
from pydantic_settings import BaseSettings, SettingsConfigDict


class Settings(BaseSettings):
    """The variables of the environment, or of the file .env, that have the names of the fields."""

    model_config = SettingsConfigDict(env_file=".env", extra="ignore")

    host: str = "127.0.0.1"
    port: Annotated[int, Field(ge=0, le=65535)] = {= port =}
    log_format: Literal["json", "text"] = "{= log =}"
    log_level: Literal["DEBUG", "INFO", "WARNING", "ERROR"] = "INFO"
    # {= if database == "sqlite" =}
    database_url: str = "sqlite:///{= name =}.sqlite3"
    # {= else if database == "postgres" =}
    database_url: str
    # {= end =}
{= else =}

import os
from collections.abc import Mapping
from dataclasses import dataclass


class SettingsError(ValueError):
    """A setting that cannot be used."""


@dataclass(frozen=True)
class Settings:
    host: str = "127.0.0.1"
    port: int = {= port =}
    log_format: str = "{= log =}"
    log_level: str = "INFO"
    # {= if database == "sqlite" =}
    database_url: str = "sqlite:///{= name =}.sqlite3"
    # {= else if database == "postgres" =}
    database_url: str = ""
    # {= end =}

    @classmethod
    def from_environment(cls, environment: Mapping[str, str] = os.environ) -> "Settings":
        """Reads the variables; raises SettingsError where one cannot be used."""
        port = environment.get("PORT", str(cls.port))
        if not (port.isascii() and port.isdecimal() and int(port) <= 65535):
            raise SettingsError(f"PORT is {port!r}, and a number from 0 to 65535 is wanted")
        log_format = environment.get("LOG_FORMAT", cls.log_format)
        if log_format not in ("json", "text"):
            raise SettingsError(f"LOG_FORMAT is {log_format!r}, and json or text is wanted")
        log_level = environment.get("LOG_LEVEL", cls.log_level)
        if log_level not in ("DEBUG", "INFO", "WARNING", "ERROR"):
            raise SettingsError(f"LOG_LEVEL is {log_level!r}; try DEBUG, INFO, WARNING or ERROR")
        # {= if stored =}
        database_url = environment.get("DATABASE_URL", cls.database_url)
        # {= if database == "postgres" =}
        if not database_url:
            raise SettingsError("DATABASE_URL is not set; .env.example shows what it looks like")
        # {= end =}
        # {= end =}
        return cls(
            host=environment.get("HOST", cls.host),
            port=int(port),
            log_format=log_format,
            log_level=log_level,
            # {= if stored =}
            database_url=database_url,
            # {= end =}
        )
{= end =}
