"""The settings of the tests: nothing of this machine, and nothing slow."""

import os

os.environ.update(
    {
        "DEBUG": "false",
        "HOSTS": "testserver",
        "HTTPS": "false",
        "LOG_FORMAT": "text",
        "LOG_LEVEL": "INFO",
        "PORT": "0",
        "SECRET_KEY": "only-for-tests",
        "TRUSTED_PROXY": "",
        # {= if database == "sqlite" =}
        "DATABASE_URL": "sqlite:///build/tests.sqlite3",
        # {= else =}
        "DATABASE_URL": os.environ.get("TEST_DATABASE_URL", "postgres://127.0.0.1/nothing"),
        # {= end =}
    }
)

from .settings import *  # noqa: F403

STATIC_URL = "/static/"
PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.InMemoryStorage"},
    "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
}
# {= if database == "postgres" =}
DATABASES["default"]["OPTIONS"] = {"connect_timeout": 5}  # noqa: F405
# Tests that run at the same time have databases of their own.
DATABASES["default"]["TEST"] = {"NAME": f"tests_{os.getpid()}"}  # noqa: F405
# {= end =}
