"""The pool of connections, migrations, and psycopg's errors as ours."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any, TypeAlias

import psycopg
from psycopg.rows import TupleRow
from psycopg_pool import ConnectionPool
from yoyo import get_backend, read_migrations

from usagi.core.errors import UsagiError

Db: TypeAlias = psycopg.Connection[TupleRow]
Pool: TypeAlias = ConnectionPool[Db]

MIGRATIONS = Path(__file__).parent / "sql" / "migrations"
_MIGRATION_LOCK = 8_221_001  # any number of our own; held while migrating


class StoreAway(UsagiError):
    """The database does not answer."""

    code = "store-away"


class StoreFull(UsagiError):
    """The disk under the database is full."""

    code = "store-full"


class TextRefused(UsagiError):
    """Text with a NUL character, which PostgreSQL cannot store."""

    code = "text-refused"


class StoreRefused(UsagiError):
    """The database refused a write that our own checks let through."""

    code = "store-refused"


def open_pool(dsn: str, *, size: int = 8) -> Pool:
    """A pool that hands out connections; each block on one is one transaction."""
    pool: Pool = ConnectionPool(
        dsn, min_size=1, max_size=size, timeout=10.0, open=False, check=ConnectionPool.check_connection
    )
    pool.open(wait=True, timeout=30.0)
    return pool


@contextmanager
def transaction(pool: Pool) -> Iterator[Db]:
    """One transaction: committed at the end of the block, rolled back by an error.

    Raises : StoreAway, StoreFull, TextRefused and StoreRefused in place of psycopg's errors.
    """
    try:
        with pool.connection() as db:
            yield db
    except psycopg.errors.IntegrityError as fault:
        raise StoreRefused("The database refused this change; nothing was stored.") from fault
    except (psycopg.DataError, UnicodeEncodeError) as fault:
        raise TextRefused("This text holds characters that cannot be stored; nothing was stored.") from fault
    except psycopg.errors.DiskFull as fault:
        raise StoreFull("The disk is full: nothing was stored. Make room on it, and try again.") from fault
    except psycopg.OperationalError as fault:
        raise StoreAway("The database does not answer. Try again when it is back.") from fault


ONE_MOMENT = "SET TRANSACTION ISOLATION LEVEL REPEATABLE READ READ ONLY"


def read_consistently(db: Db) -> None:
    """As the first statement of a transaction: up to its end it sees one moment and writes nothing."""
    db.execute(ONE_MOMENT)


def migrate(dsn: str) -> None:
    """Bring the schema up to date; one runner at a time."""
    with psycopg.connect(dsn, autocommit=True) as lock:
        lock.execute("SELECT pg_advisory_lock(%s)", (_MIGRATION_LOCK,))
        backend = get_backend(dsn.replace("postgresql://", "postgresql+psycopg://", 1))
        try:
            backend.break_lock()  # the advisory lock is ours, so a lock row is one that a crash has left
            backend.apply_migrations(backend.to_apply(read_migrations(str(MIGRATIONS))))
        finally:
            connection: Any = backend.connection
            connection.close()


def create_database(dsn: str, name: str) -> str:
    """Make a database on the server if it is missing; returns its connection string."""
    with psycopg.connect(dsn, autocommit=True) as db:
        if db.execute("SELECT 1 FROM pg_database WHERE datname = %s", (name,)).fetchone() is None:
            db.execute(psycopg.sql.SQL("CREATE DATABASE {}").format(psycopg.sql.Identifier(name)))
    return dsn.rsplit("/", 1)[0] + "/" + name
