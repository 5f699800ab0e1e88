"""Every setting, read from the environment or from the file .env, and what Django is told."""

from datetime import timedelta
from pathlib import Path

import django_stubs_ext
from django.core.exceptions import ImproperlyConfigured
from environ import Env

# {= if database == "sqlite" =}
from . import NAME, log
# {= else =}
from . import log
# {= end =}

# Classes of Django can then be told their types: ModelForm[Notice].
django_stubs_ext.monkeypatch()

env = Env()
env.read_env(Path(".env"))


def port(name: str, default: int) -> int:
    """A port from the environment."""
    given: str = env.str(name, str(default))
    if not (given.isascii() and given.isdecimal() and int(given) <= 65535):
        raise ImproperlyConfigured(f"{name} is {given!r}, and a number from 0 to 65535 is wanted")
    return int(given)


def flag(name: str, default: bool) -> bool:
    given: str = env.str(name, str(default)).lower()
    if given not in ("true", "false"):
        raise ImproperlyConfigured(f"{name} is {given!r}, and true or false is wanted")
    return given == "true"


HOST: str = env.str("HOST", "127.0.0.1")
PORT = port("PORT", {= port =})
LOG_FORMAT: str = env.str("LOG_FORMAT", "{= log =}")
LOG_LEVEL: str = env.str("LOG_LEVEL", "INFO")
DEBUG = flag("DEBUG", False)
SECRET_KEY: str = env.str("SECRET_KEY")
# Whether people come by HTTPS; cookies then never go another way.
HTTPS = flag("HTTPS", True)
# The names under which people find the site, separated by commas.
HOSTS: list[str] = env.list("HOSTS", default=[])
# The address of the proxy in front of it; what the proxy says of clients and HTTPS is believed.
TRUSTED_PROXY: str = env.str("TRUSTED_PROXY", "")

if LOG_FORMAT not in ("json", "text"):
    raise ImproperlyConfigured(f"LOG_FORMAT is {LOG_FORMAT!r}, and json or text is wanted")
if LOG_LEVEL not in ("DEBUG", "INFO", "WARNING", "ERROR"):
    raise ImproperlyConfigured(f"LOG_LEVEL is {LOG_LEVEL!r}; try DEBUG, INFO, WARNING or ERROR")

LOGGING_CONFIG = None
log.set_up(LOG_FORMAT, LOG_LEVEL)

# The areas of the site come first: their templates win.
INSTALLED_APPS = [
    "{= module =}.frame",
    "{= module =}.people",
    "{= module =}.notices",
    # joint: areas (tinmold)
    "django.contrib.admin",
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "whitenoise.runserver_nostatic",
    "django.contrib.staticfiles",
    "axes",
]

MIDDLEWARE = [
    "{= module =}.frame.middleware.log_request",
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "{= module =}.frame.middleware.add_policy",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "axes.middleware.AxesMiddleware",
]

ROOT_URLCONF = "{= module =}.addresses"

TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "APP_DIRS": True,
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
            ],
        },
    },
]

# {= if database == "sqlite" =}
DATABASES = {"default": env.db("DATABASE_URL", f"sqlite:///{NAME}.sqlite3")}
# Readers wait for nobody; a writer waits up to ten seconds for another one.
DATABASES["default"]["OPTIONS"] = {
    "init_command": "PRAGMA journal_mode = WAL; PRAGMA synchronous = NORMAL",
    "timeout": 10,
    "transaction_mode": "IMMEDIATE",
}
# {= else =}
DATABASES = {"default": env.db("DATABASE_URL")}
# No statement of a request takes longer than this; the database ends it.
DATABASES["default"]["OPTIONS"] = {
    "connect_timeout": 5,
    "options": "-c statement_timeout=15s",
    "pool": {"min_size": 1, "max_size": 16, "timeout": 10},
}
# {= end =}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

AUTH_USER_MODEL = "people.Person"
AUTHENTICATION_BACKENDS = [
    "axes.backends.AxesStandaloneBackend",
    "django.contrib.auth.backends.ModelBackend",
]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.UserAttributeSimilarityValidator"},
    {
        "NAME": "django.contrib.auth.password_validation.MinimumLengthValidator",
        "OPTIONS": {"min_length": 12},
    },
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
]
PASSWORD_HASHERS = ["django.contrib.auth.hashers.Argon2PasswordHasher"]
LOGIN_URL = "people:sign-in"
LOGIN_REDIRECT_URL = LOGOUT_REDIRECT_URL = "notices:all"
# So many wrong passwords for a name from an address; then it has to wait.
AXES_FAILURE_LIMIT = 5
AXES_COOLOFF_TIME = timedelta(minutes=10)
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_LOCKOUT_TEMPLATE = "people/locked.html"
AXES_IPWARE_META_PRECEDENCE_ORDER = ["REMOTE_ADDR"]
AXES_RESET_ON_SUCCESS = True
AXES_VERBOSE = False

# The health check of a container asks from inside.
ALLOWED_HOSTS = ["127.0.0.1", "localhost", *HOSTS]
CSRF_TRUSTED_ORIGINS = [f"https://{host}" for host in HOSTS]
SECURE_SSL_REDIRECT = HTTPS
SECURE_REDIRECT_EXEMPT = ["^health$", "^ready$"]
SECURE_HSTS_SECONDS = 365 * 24 * 3600 if HTTPS else 0
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = HTTPS
CSRF_COOKIE_HTTPONLY = True
X_FRAME_OPTIONS = "DENY"
DATA_UPLOAD_MAX_NUMBER_FIELDS = 1000

LANGUAGE_CODE = "en-gb"
TIME_ZONE = "UTC"
USE_TZ = True

STATIC_URL = "static/"
# Files are collected at each start, unless STATIC_ROOT says where that was done.
COLLECTS = not DEBUG and "STATIC_ROOT" not in env
STATIC_ROOT: str = env.str("STATIC_ROOT", "build/static")
WHITENOISE_ALLOW_ALL_ORIGINS = False
WHITENOISE_USE_FINDERS = WHITENOISE_AUTOREFRESH = DEBUG
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {
        "BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"
        if DEBUG
        else "whitenoise.storage.CompressedManifestStaticFilesStorage"
    },
}
