"""What all tests share: an application of their own{= if stored =}, with a database and an account{= end =}."""
{= if web == "fastapi" =}

# {= if database == "postgres" =}
import os
from collections.abc import Iterator
from uuid import uuid4

# {= else if database == "sqlite" =}
from collections.abc import Iterator
from pathlib import Path

# {= else =}
from collections.abc import Iterator

# {= end =}
import pytest
from fastapi.testclient import TestClient
# {= if database == "postgres" =}
from sqlalchemy import make_url, text
# {= end =}

# {= if stored =}
from . import database
from .accounts.storage import make_account
# {= end =}
from .service import create_app
from .settings import Settings
{= else =}

# {= if stored =}
# {= if database == "postgres" =}
import os
from collections.abc import Iterator
from uuid import uuid4

# {= else =}
from pathlib import Path

# {= end =}
import pytest
from flask.testing import FlaskClient
# {= if database == "postgres" =}
from sqlalchemy import make_url, text
# {= end =}

from . import database
from .accounts.storage import make_account
from .service import create_app
from .settings import Settings
# {= else =}
import pytest
from flask.testing import FlaskClient

from .service import create_app
from .settings import Settings
# {= end =}
{= end =}
# {= if stored =}

NAME = "pat"
PASSWORD = "nine boats and a buoy"
# {= end =}
# {= if database == "sqlite" =}


@pytest.fixture
def database_url(tmp_path: Path) -> str:
    """A new database, with its tables and an account."""
    url = f"sqlite:///{tmp_path / 'tests.sqlite3'}"
    prepare(url)
    return url
# {= else if database == "postgres" =}


@pytest.fixture
def database_url() -> Iterator[str]:
    """A schema of its own in the database of TEST_DATABASE_URL, with its tables and an account."""
    given = os.environ.get("TEST_DATABASE_URL")
    if not given:
        pytest.skip("TEST_DATABASE_URL names no database for the tests")
    server = make_url(given).set(drivername="postgresql+psycopg")
    schema = f"tests_{uuid4().hex}"
    engine = database.engine_of(server.render_as_string(hide_password=False))
    with engine.begin() as connection:
        connection.execute(text(f"CREATE SCHEMA {schema}"))
    url = server.update_query_dict({"options": f"-csearch_path={schema}"})
    text_url = url.render_as_string(hide_password=False)
    prepare(text_url)
    yield text_url
    with engine.begin() as connection:
        connection.execute(text(f"DROP SCHEMA {schema} CASCADE"))
    engine.dispose()
# {= end =}
# {= if stored =}


def prepare(url: str) -> None:
    database.migrate(url)
    engine = database.engine_of(url)
    with database.sessions_of(engine)() as session:
        make_account(session, NAME, PASSWORD)
    engine.dispose()
# {= end =}
{= if web == "fastapi" =}


@pytest.fixture
# {= if stored =}
def client(database_url: str) -> Iterator[TestClient]:
    settings = Settings(_env_file=None, database_url=database_url)
    with TestClient(create_app(settings), raise_server_exceptions=False) as client:
        yield client
# {= else =}
def client() -> Iterator[TestClient]:
    settings = Settings(_env_file=None)
    with TestClient(create_app(settings), raise_server_exceptions=False) as client:
        yield client
# {= end =}
# {= if stored =}


@pytest.fixture
def writer(client: TestClient) -> dict[str, str]:
    """The header of requests that may write."""
    answer = client.post("/session", json={"name": NAME, "password": PASSWORD})
    return {"Authorization": f"Bearer {answer.json()['token']}"}
# {= end =}
{= else =}


@pytest.fixture
# {= if stored =}
def client(database_url: str) -> FlaskClient:
    return create_app(Settings(database_url=database_url)).test_client()


@pytest.fixture
def writer(client: FlaskClient) -> dict[str, str]:
    """The header of requests that may write."""
    answer = client.post("/session", json={"name": NAME, "password": PASSWORD})
    return {"Authorization": f"Bearer {answer.get_json()['token']}"}
# {= else =}
def client() -> FlaskClient:
    return create_app(Settings()).test_client()
# {= end =}
{= end =}
