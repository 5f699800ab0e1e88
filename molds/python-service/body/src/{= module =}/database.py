"""The database: connections, sessions and migrations."""
{= if web == "fastapi" =}

from collections.abc import Iterator
from typing import Annotated, Any

from alembic import command
from alembic.config import Config
from fastapi import Depends, Request
# {= else =}

from typing import Any

from alembic import command
from alembic.config import Config
from flask import Flask, current_app, g
# {= end =}
from sqlalchemy import Engine, MetaData, create_engine, event
from sqlalchemy.orm import DeclarativeBase, Session, sessionmaker


class Base(DeclarativeBase):
    """What all tables have in common; migrations find keys and indexes by these names."""

    metadata = MetaData(
        naming_convention={
            "ix": "ix_%(table_name)s_%(column_0_name)s",
            "uq": "uq_%(table_name)s_%(column_0_name)s",
            "fk": "fk_%(table_name)s_%(column_0_name)s",
            "pk": "pk_%(table_name)s",
        }
    )


def engine_of(url: str) -> Engine:
    # {= if database == "sqlite" =}
    # A writer waits up to ten seconds for another one; readers wait for nobody.
    engine = create_engine(url, connect_args={"timeout": 10})

    @event.listens_for(engine, "connect")
    def prepare(connection: Any, record: Any) -> None:
        cursor = connection.cursor()
        cursor.execute("PRAGMA journal_mode = WAL")
        cursor.execute("PRAGMA synchronous = NORMAL")
        cursor.execute("PRAGMA foreign_keys = ON")
        cursor.close()

    return engine
    # {= else =}
    engine = create_engine(
        url,
        connect_args={"connect_timeout": 5},
        pool_size=5,
        max_overflow=10,
        pool_timeout=10,
        pool_pre_ping=True,
    )

    @event.listens_for(engine, "connect")
    def prepare(connection: Any, record: Any) -> None:
        # No statement of a request takes longer; the database ends it.
        connection.execute("SET statement_timeout = '15s'")
        connection.commit()

    return engine
    # {= end =}


def sessions_of(engine: Engine) -> sessionmaker[Session]:
    return sessionmaker(engine, expire_on_commit=False)


def migrations(url: str) -> Config:
    """What Alembic needs to know."""
    config = Config()
    config.set_main_option("script_location", "{= module =}:migrations")
    config.attributes["url"] = url
    return config


def migrate(url: str) -> None:
    """Brings the database up to date."""
    command.upgrade(migrations(url), "head")
{= if web == "fastapi" =}


def database_session(request: Request) -> Iterator[Session]:
    """A session for one request; what a handler does not commit is taken back."""
    with request.app.state.sessions() as session:
        yield session


DatabaseSession = Annotated[Session, Depends(database_session)]
{= else =}


def connect(app: Flask, url: str) -> None:
    """Gives the application its database."""
    engine = engine_of(url)
    app.extensions["database"] = sessions_of(engine)

    @app.teardown_appcontext
    def close(error: BaseException | None) -> None:
        opened: Session | None = g.pop("session", None)
        if opened:
            opened.close()


def session() -> Session:
    """The session of this request; what a handler does not commit is taken back."""
    if "session" not in g:
        g.session = current_app.extensions["database"]()
    opened: Session = g.session
    return opened
{= end =}
