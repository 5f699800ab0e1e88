"""The command line: `python -m {= module =}` starts the service."""

# {= if stored =}
import argparse
import getpass
import sys
from collections.abc import Callable

# {= else =}
import sys

# {= end =}
# {= match web =}
# {= case "fastapi" =}
from pydantic import ValidationError
# {= case "flask" =}
from dotenv import load_dotenv
# {= case "stdlib" =}
# {= end =}
# {= if stored =}
from sqlalchemy.exc import SQLAlchemyError
# {= end =}
# {= if needs =}

# {= end =}
# {= if stored =}
from . import NAME, database, log, serving
from .accounts.storage import AccountError, make_account
# {= else =}
from . import log, serving
# {= end =}
# {= if web == "flask" =}
from .service import create_app
# {= end =}
# {= if web == "fastapi" =}
from .settings import Settings
# {= else =}
from .settings import Settings, SettingsError
# {= end =}


def main() -> int:
    # {= if stored =}
    parser = argparse.ArgumentParser(prog=NAME)
    commands = parser.add_subparsers(dest="command")
    commands.add_parser("run", help="start the service; the default")
    commands.add_parser("migrate", help="bring the database up to date")
    account = commands.add_parser("account", help="make an account that may write")
    account.add_argument("name", help="the name that it signs in with")
    arguments = parser.parse_args()
    # {= end =}
    # {= if web == "fastapi" =}
    try:
        settings = Settings()
    except ValidationError as error:
        for one in error.errors():
            print(f"{'.'.join(map(str, one['loc'])).upper()}: {one['msg']}", file=sys.stderr)
        return 2
    # {= else =}
    # {= if web == "flask" =}
    load_dotenv(".env")
    # {= end =}
    try:
        settings = Settings.from_environment()
    except SettingsError as error:
        print(error, file=sys.stderr)
        return 2
    # {= end =}
    log.set_up(settings.log_format, settings.log_level)
    # {= if stored =}
    if code := reported(lambda: database.migrate(settings.database_url)):
        return code
    if arguments.command == "migrate":
        return 0
    if arguments.command == "account":
        return reported(lambda: ask_for_account(settings.database_url, arguments.name))
    # {= end =}
    # {= if web == "flask" =}
    return serving.serve(create_app(settings), settings.host, settings.port)
    # {= else =}
    return serving.serve(settings)
    # {= end =}
# {= if stored =}


def reported(work: Callable[[], None]) -> int:
    """Does the work; what the database or the rules refuse is said in one line."""
    try:
        work()
    except (SQLAlchemyError, AccountError) as error:
        print(str(error).splitlines()[0], file=sys.stderr)
        return 1
    return 0


def ask_for_account(database_url: str, name: str) -> None:
    password = getpass.getpass(f"Password of {name}: ")
    if getpass.getpass("The same again: ") != password:
        raise AccountError("the two passwords differ")
    engine = database.engine_of(database_url)
    with database.sessions_of(engine)() as session:
        make_account(session, name, password)
    engine.dispose()
    print(f"{name} may write now.")
# {= end =}


if __name__ == "__main__":
    sys.exit(main())
