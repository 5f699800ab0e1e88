"""The database brought up to date, by one process at a time."""

# {= if database == "postgres" =}
from django.core.management import call_command
from django.db import connection

# Any number that nothing else locks.
LOCK = 5_204_711


def migrate() -> None:
    """Does the migrations that are left; others that start at the same time wait."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_advisory_lock(%s)", [LOCK])
    try:
        call_command("migrate", interactive=False, verbosity=0)
    finally:
        with connection.cursor() as cursor:
            cursor.execute("SELECT pg_advisory_unlock(%s)", [LOCK])
        connection.close()
# {= else =}
from django.core.management import call_command


def migrate() -> None:
    """Does the migrations that are left."""
    call_command("migrate", interactive=False, verbosity=0)
# {= end =}
