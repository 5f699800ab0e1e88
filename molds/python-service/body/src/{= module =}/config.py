"""Every setting, read from the environment once."""

import os
from collections.abc import Mapping
from dataclasses import dataclass


class ConfigError(ValueError):
    """A setting that cannot be used."""


@dataclass(frozen=True)
class Config:
    host: str = "127.0.0.1"
    port: int = {= port =}
    log_format: str = "{= log =}"
    log_level: str = "INFO"
    # {= if database == "sqlite" =}
    database: str = "{= name =}.sqlite3"
    # {= else if database == "postgres" =}
    database: str = ""
    # {= end =}

    @classmethod
    def from_environment(cls, environment: Mapping[str, str] = os.environ) -> "Config":
        port = environment.get("PORT", str(cls.port))
        if not port.isdecimal() or int(port) > 65535:
            raise ConfigError(f"PORT is {port!r}, and a number from 0 to 65535 is wanted")
        log_format = environment.get("LOG_FORMAT", cls.log_format)
        if log_format not in ("json", "text"):
            raise ConfigError(f"LOG_FORMAT is {log_format!r}, and json or text is wanted")
        log_level = environment.get("LOG_LEVEL", cls.log_level).upper()
        if log_level not in ("DEBUG", "INFO", "WARNING", "ERROR"):
            raise ConfigError(f"LOG_LEVEL is {log_level!r}, and DEBUG, INFO, WARNING or ERROR is wanted")
        # {= if stored =}
        database = environment.get("{= database_variable =}", cls.database)
        if not database:
            raise ConfigError("{= database_variable =} is not set; .env.sample shows what it looks like")
        return cls(environment.get("HOST", cls.host), int(port), log_format, log_level, database)
        # {= else =}
        return cls(environment.get("HOST", cls.host), int(port), log_format, log_level)
        # {= end =}
