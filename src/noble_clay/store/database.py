"""The connection to PostgreSQL, and bringing its tables up to date."""

from __future__ import annotations

import os
from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine
from sqlalchemy.exc import DBAPIError, InterfaceError, OperationalError
from sqlalchemy.exc import TimeoutError as PoolTimeout
from sqlalchemy.orm import Session, sessionmaker

VARIABLE = "NOBLE_CLAY_DATABASE"
Sessions = sessionmaker[Session]


def plain_url() -> str:
    """From the environment, as PostgreSQL's own programs take it. Raises RuntimeError when it is not set."""
    url = os.environ.get(VARIABLE)
    if not url:
        raise RuntimeError(f"{VARIABLE} is not set; ./start sets it, or give it a postgresql:// address")
    return url


def database_url() -> str:
    """The same for SQLAlchemy."""
    return plain_url().replace("postgresql://", "postgresql+psycopg://", 1)


def open_database() -> Engine:
    """An engine that gives up quickly and notices connections that have died."""
    return create_engine(
        database_url(),
        pool_pre_ping=True,
        pool_size=5,
        max_overflow=20,
        pool_timeout=5,
        connect_args={"connect_timeout": 3},
    )


def is_away(error: BaseException) -> bool:
    """Whether an error says that the database does not answer, and not that it refuses what it is given."""
    if isinstance(error, OperationalError | InterfaceError | PoolTimeout):
        return True
    return isinstance(error, DBAPIError) and error.connection_invalidated


def sessions(engine: Engine) -> Sessions:
    return sessionmaker(engine, expire_on_commit=False)


def migrate(engine: Engine) -> None:
    """Bring the tables to the newest form."""
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "head")
