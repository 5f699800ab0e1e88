"""How Alembic runs the steps: all that are missing, in one transaction."""

from alembic import context
# {= if web == "flask" =}
from dotenv import load_dotenv
# {= end =}
from sqlalchemy import text

from {= module =}.database import engine_of
from {= module =}.notes.storage import Note
from {= module =}.settings import Settings

# A service that starts twice at the same time migrates once.
# {= if database == "sqlite" =}
LOCK = text("BEGIN IMMEDIATE")
# {= else =}
LOCK = text("SELECT pg_advisory_xact_lock(hashtext('{= name =} migrations'))")
# {= end =}

# The command `alembic` does not come from the service, and takes the service's database.
# {= if web == "fastapi" =}
engine = engine_of(context.config.attributes.get("url") or Settings().database_url)
# {= else =}
load_dotenv(".env")
url = context.config.attributes.get("url") or Settings.from_environment().database_url
engine = engine_of(url)
# {= end =}
with engine.begin() as connection:
    connection.execute(LOCK)
    context.configure(
        connection=connection,
        target_metadata=Note.metadata,
        render_as_batch=True,
        transactional_ddl=True,
    )
    with context.begin_transaction():
        context.run_migrations()
engine.dispose()
