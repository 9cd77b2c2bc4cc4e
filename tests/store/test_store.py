"""The store against a real PostgreSQL."""

from __future__ import annotations

import importlib
import pkgutil
import re
import threading
from collections.abc import Iterator
from pathlib import Path
from uuid import uuid4

import psycopg
import pytest

import usagi.store
from studios import new_studio
from usagi.store.database import StoreRefused, create_database, migrate, open_pool, transaction
from usagi.store.recordings import PART_BYTES, Recording, add_recording, read_sound, write_sound
from usagi.store.studios import Scope, enter_studio, tune_titled


def every_query() -> Iterator[tuple[str, str]]:
    for module in pkgutil.iter_modules(usagi.store.__path__):
        for name, value in vars(importlib.import_module(f"usagi.store.{module.name}")).items():
            if (
                name.isupper()
                and isinstance(value, str)
                and re.match(r"\s*(SELECT|INSERT|UPDATE|DELETE|WITH)\b", value)
            ):
                yield f"{module.name}.{name}", value


# Queries about studios themselves, and the lock that none of them owns.
STUDIO_COLUMNS = "SELECT table_name FROM information_schema.columns WHERE column_name = 'studio_id'"
ABOUT_STUDIOS = {"studios.STUDIO", "studios.NEW_STUDIO", "studios.DROP_STUDIO", "studios.LOCK", "backup.STUDIOS",
                 "estimates.ABANDONED", "documents.ONE_AT_A_TIME"}  # fmt: skip


def test_every_query_names_its_studio() -> None:
    queries = dict(every_query())
    assert len(queries) > 25 and queries.keys() >= ABOUT_STUDIOS
    unscoped = {
        name for name, sql in queries.items() if "studio_id = %(studio_id)s" not in sql and "(studio_id" not in sql
    }
    assert unscoped - ABOUT_STUDIOS == set()


def test_no_sql_hides_in_a_function() -> None:
    for module in pkgutil.iter_modules(usagi.store.__path__):
        source = importlib.import_module(f"usagi.store.{module.name}").__spec__
        assert source is not None and source.origin is not None
        if module.name != "database":
            text = Path(source.origin).read_text()
            assert not re.search(r"execute\(\s*f?[\"']", text), module.name


def test_every_table_has_its_studio_and_foreign_keys_include_it(dsn: str) -> None:
    with psycopg.connect(dsn) as db:
        tables = {
            row[0]
            for row in db.execute(
                "SELECT table_name FROM information_schema.tables WHERE table_schema = 'public' "
                "AND table_name !~ '^(_yoyo|yoyo|procrastinate)' AND table_name <> 'studio'"
            )
        }
        scoped = {row[0] for row in db.execute(STUDIO_COLUMNS)}
        keys = db.execute(
            "SELECT conrelid::regclass::text, pg_get_constraintdef(oid) FROM pg_constraint "
            "WHERE contype IN ('f', 'u', 'p')"
        ).fetchall()
    assert len(tables) == 24
    assert tables <= scoped
    own = [(table, text) for table, text in keys if table in tables]
    assert own and all("studio_id" in text for _, text in own), [k for k in own if "studio_id" not in k[1]]


def test_three_first_starts_at_once_migrate_once(server_dsn: str) -> None:
    dsn = create_database(server_dsn, f"usagi_{uuid4().hex[:8]}")
    faults: list[BaseException] = []

    def run() -> None:
        try:
            migrate(dsn)
        except BaseException as fault:
            faults.append(fault)

    threads = [threading.Thread(target=run) for _ in range(3)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert faults == []
    pool = open_pool(dsn, size=1)
    try:
        with transaction(pool) as db:
            scope, new = enter_studio(db, demo=False)
        with transaction(pool) as db:
            again, newer = enter_studio(db, demo=False)
        assert (new, newer, again) == (True, False, scope)
    finally:
        pool.close()


def a_recording(scope: Scope, tune_id, **fields: object) -> Recording:
    values = {"id": uuid4(), "tune_id": tune_id, "sha256": uuid4().hex * 2, "title": "", "file_name": "", "bytes": 1,
              "frames": 1, "channels": 1, "seconds": 1.0}  # fmt: skip
    return Recording(**(values | fields))


def test_sound_comes_back_byte_for_byte_from_any_range(workspace) -> None:
    sound = bytes(range(256)) * 3_000
    blocks = [sound[i : i + PART_BYTES] for i in range(0, len(sound), PART_BYTES)]
    with transaction(workspace.pool) as db:
        item = a_recording(workspace.scope, tune_titled(db, workspace.scope, "A tune"))
        add_recording(db, workspace.scope, item, decoded_by="test")
        write_sound(db, workspace.scope, item.id, "upload", blocks)
        for start, end in ((0, len(sound)), (5, 6), (PART_BYTES - 1, PART_BYTES + 1), (700_000, 10**9), (9, 9)):
            assert b"".join(read_sound(db, workspace.scope, item.id, "upload", start, end)) == sound[start:end]


def test_the_same_bytes_are_one_recording_in_a_studio_and_may_lie_in_two(workspace, pool) -> None:
    with transaction(pool) as db:
        item = a_recording(workspace.scope, tune_titled(db, workspace.scope, "A tune"))
        add_recording(db, workspace.scope, item, decoded_by=None)
        other = new_studio(db)
        add_recording(
            db, other, a_recording(other, tune_titled(db, other, "A tune"), sha256=item.sha256), decoded_by=None
        )
    with pytest.raises(StoreRefused), transaction(pool) as db:
        add_recording(
            db, workspace.scope, a_recording(workspace.scope, item.tune_id, sha256=item.sha256), decoded_by=None
        )
