"""The command line: `python -m {= module =}` starts the site; any word is a command of Django."""

import os
import sys

import django
from django.conf import settings
from django.core.exceptions import ImproperlyConfigured
from django.core.management import call_command, execute_from_command_line
from django.db import DatabaseError

from . import NAME, serving
from .database import migrate


def main() -> int:
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", f"{__package__}.settings")
    words = sys.argv[1:]
    try:
        django.setup()
        if words == ["migrate"]:
            migrate()
        elif words:
            execute_from_command_line([NAME, *words])
        else:
            migrate()
            return serve()
    except ImproperlyConfigured as error:
        print(error, file=sys.stderr)
        return 2
    except DatabaseError as error:
        print(str(error).splitlines()[0], file=sys.stderr)
        return 1
    return 0


def serve() -> int:
    from django.core.wsgi import get_wsgi_application

    if settings.COLLECTS:
        call_command("collectstatic", interactive=False, verbosity=0)
    return serving.serve(
        get_wsgi_application(), settings.HOST, settings.PORT, settings.TRUSTED_PROXY
    )


if __name__ == "__main__":
    sys.exit(main())
