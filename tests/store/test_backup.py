"""One file holds everything; it comes back the same, or not at all."""

from __future__ import annotations

import hashlib
import json
import re
import zipfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from uuid import UUID, uuid4

import pytest

from asking import wav
from usagi.core.formats.document_json import read_document
from usagi.core.formats.lick_json import read_lick
from usagi.flows.editing.opening import open_bench
from usagi.flows.editing.undoing import undo
from usagi.flows.licks import book
from usagi.flows.licks.book import LickWords
from usagi.flows.licks.indexing import index_stale
from usagi.flows.setup.basics import Basics
from usagi.flows.setup.chart import change_chart
from usagi.flows.studio.backup import BackupRefused, back_up, restore
from usagi.flows.studio.exchange import export_json
from usagi.flows.studio.importing import import_json
from usagi.flows.studio.new_solo import NewSolo, start_solo
from usagi.flows.studio.recordings import bring_recording
from usagi.flows.studio.shelf import read_shelf
from usagi.flows.workspace import Workspace
from usagi.media.cache import Cache
from usagi.store import backup as stored
from usagi.store.database import Pool, create_database, migrate, open_pool, transaction
from usagi.store.found import Narrowed
from usagi.store.recordings import read_sound
from usagi.store.studios import enter_studio

FIXTURES = Path(__file__).parents[1] / "fixtures"
LANTERNS = (Path(__file__).parents[2] / "demo" / "lanterns-at-low-water.json").read_bytes()


@contextmanager
def a_database(server_dsn: str) -> Iterator[Pool]:
    dsn = create_database(server_dsn, f"usagi_{uuid4().hex[:12]}")
    migrate(dsn)
    pool = open_pool(dsn, size=2)
    yield pool
    pool.close()


@pytest.fixture
def fresh(server_dsn: str) -> Iterator[Pool]:
    """A database of this test alone."""
    with a_database(server_dsn) as pool:
        yield pool


@pytest.fixture
def other(server_dsn: str) -> Iterator[Pool]:
    """Another one, as on another machine."""
    with a_database(server_dsn) as pool:
        yield pool


PLAN = {"start": 500, "goal": 1_000, "step": 100, "passes": 4}


def desk_on(pool: Pool, folder: Path) -> Workspace:
    with transaction(pool) as db:
        scope, _ = enter_studio(db, demo=False)
    return Workspace(pool, scope, Cache(folder / "cache", 10_000_000))


def filled(pool: Pool, folder: Path) -> tuple[Workspace, UUID, UUID]:
    """A studio with a recording, a solo on it, and a log with an undo."""
    import io

    workspace = desk_on(pool, folder)
    brought = bring_recording(workspace, "tin roof.wav", io.BytesIO(wav(1.5)))
    new = NewSolo("Tin Roof", "break", "Ada Moor", Basics(tempo_bpm=120, last_bar=4), "| Am7 |", brought.recording.id)
    solo = start_solo(workspace, new)
    change_chart(workspace, solo, "| Dm7 | G7 |")
    change_chart(workspace, solo, "| Cmaj7 |")
    undo(workspace, solo, {})
    return workspace, solo, brought.recording.id


def content(pool: Pool) -> dict[str, list[object]]:
    with transaction(pool) as db:
        return {
            f"{studio} {table}": list(stored.rows(db, studio, table))
            for studio, _, _ in stored.studios(db)
            for table in stored.TABLES
        }


def test_a_backup_comes_back_the_same_in_another_place(fresh: Pool, other: Pool, tmp_path: Path) -> None:
    workspace, solo, recording = filled(fresh, tmp_path)
    file = tmp_path / "all.zip"
    said: list[float] = []
    kept = back_up(fresh, file, lambda _, share: said.append(share))
    assert (kept.solos, kept.recordings) == (1, 1) and said == sorted(said) and said[-1] == 1
    assert not file.with_name("all.zip.half").exists()
    restore(other, file)
    assert content(other) == content(fresh)
    there = desk_on(other, tmp_path)
    assert there.scope.studio == workspace.scope.studio
    assert open_bench(there, solo).solo == open_bench(workspace, solo).solo
    for kind in ("upload", "pcm"):
        with transaction(fresh) as one, transaction(other) as two:
            sounds = [b"".join(read_sound(db, workspace.scope, recording, kind, 0, 10**9)) for db in (one, two)]
        assert sounds[0] == sounds[1] and len(sounds[0]) > 100_000
    # The log goes on: what was undone comes back, and a new edit finds its place after the old ones.
    undo(there, solo, {})
    assert open_bench(there, solo).chart_text != open_bench(workspace, solo).chart_text


def test_the_lick_book_comes_back_with_the_solos(fresh: Pool, other: Pool, tmp_path: Path) -> None:
    workspace = desk_on(fresh, tmp_path)
    solo = import_json(workspace, LANTERNS).solo_id
    notes = open_bench(workspace, solo).solo.notes
    ids = [uuid4(), uuid4()]
    for lick, first in zip(ids, (0, 6), strict=True):
        said = LickWords(f"from note {first}", ("blues",), "leave room after it")
        book.keep(workspace, lick, solo, notes[first].id, notes[first + 4].id, said)
    back_up(fresh, tmp_path / "all.zip")
    restore(other, tmp_path / "all.zip")
    assert content(other) == content(fresh)
    there = desk_on(other, tmp_path)
    index_stale(there)  # the index is not in the file: it is made again
    for lick in ids:
        here, back = book.lick_of(workspace, lick), book.lick_of(there, lick)
        assert back.model_copy(update={"span": here.span}) == here and back.frozen == ""
    assert book.search(there, "", Narrowed(tag="blues")).count == 2


def test_another_program_could_read_it(fresh: Pool, other: Pool, tmp_path: Path) -> None:
    """A README, a document for each solo and lick that says what the rows say, and nothing secret."""
    workspace = desk_on(fresh, tmp_path)
    solo = import_json(workspace, LANTERNS).solo_id
    notes = open_bench(workspace, solo).solo.notes
    lick = uuid4()
    book.keep(workspace, lick, solo, notes[0].id, notes[4].id, LickWords("leading in", ("blues",), "with room"))
    file = tmp_path / "all.zip"
    back_up(fresh, file)
    with zipfile.ZipFile(file) as archive:
        names = archive.namelist()
        assert "solos/*.json" in archive.read("README.txt").decode()
        document = next(name for name in names if "/solos/" in name)
        assert read_document(archive.read(document)) == read_document(export_json(workspace, solo))
        kept = read_lick(archive.read(next(name for name in names if "/licks/" in name)))
        assert (kept.name, kept.words, len(kept.document.solo.notes)) == ("leading in", "with room", 5)
        rows = b"".join(archive.read(name) for name in names if name.endswith((".ndjson", ".json", ".txt")))
        keys = {match.decode().casefold() for match in re.findall(rb'"([A-Za-z_]+)"\s*:', rows)}
        assert not [key for key in keys if any(word in key for word in ("password", "token", "session", "secret"))]
    # Copies are for others: a restore does without them.
    bare = tmp_path / "bare.zip"
    with zipfile.ZipFile(file) as archive, zipfile.ZipFile(bare, "w") as without:
        for name in archive.namelist():
            if not name.startswith("README") and "/solos/" not in name and "/licks/" not in name:
                without.writestr(name, archive.read(name))
    restore(other, bare)
    assert content(other) == content(fresh)


def test_nothing_is_overwritten_unasked(fresh: Pool, other: Pool, tmp_path: Path) -> None:
    filled(fresh, tmp_path)
    file = tmp_path / "all.zip"
    back_up(fresh, file)
    with pytest.raises(BackupRefused, match="is there already"):
        back_up(fresh, file)
    back_up(fresh, file, replace=True)
    workspace, solo, _ = filled(other, tmp_path)
    before = content(other)
    with pytest.raises(BackupRefused, match=r"holds 2 solos and recordings\. Nothing was changed"):
        restore(other, file)
    assert content(other) == before
    restore(other, file, replace=True)
    assert content(other) == content(fresh)
    assert solo not in {row.id for row in read_shelf(desk_on(other, tmp_path))}
    del workspace


def test_a_studio_with_nothing_in_it_gives_way(fresh: Pool, other: Pool, tmp_path: Path) -> None:
    filled(fresh, tmp_path)
    desk_on(other, tmp_path)
    back_up(fresh, tmp_path / "all.zip")
    restore(other, tmp_path / "all.zip")
    assert content(other) == content(fresh)


def test_a_damaged_file_changes_nothing(fresh: Pool, other: Pool, tmp_path: Path) -> None:
    filled(fresh, tmp_path)
    file = tmp_path / "all.zip"
    back_up(fresh, file)
    before = content(other)

    def changed(name: str, make: object) -> Path:
        bad = tmp_path / f"{uuid4().hex}.zip"
        with zipfile.ZipFile(file) as old, zipfile.ZipFile(bad, "w") as new:
            for entry in old.namelist():
                data = old.read(entry)
                new.writestr(entry, make(data) if entry.endswith(name) else data)  # type: ignore[operator]
        return bad

    cases = [
        (changed("edit.ndjson", lambda data: data.replace(b"chart", b"chort", 1)), "is not what the backup says"),
        (changed("pcm", lambda data: data[:-2] + b"\x01\x02"), "is not what the backup says"),
        (changed("manifest.json", lambda data: data.replace(b'"format": 6', b'"format": 99')), "newer version"),
        (changed("manifest.json", lambda data: b"{}"), "not a backup"),
        (changed("manifest.json", lambda data: data.replace(b"usagi", b"other")), "another program"),
    ]
    for bad, words in cases:
        with pytest.raises(BackupRefused, match=words):
            restore(other, bad)
    for data in (b"no zip", file.read_bytes()[:2_000]):
        (tmp_path / "case.zip").write_bytes(data)
        with pytest.raises(BackupRefused, match=r"not a backup|damaged"):
            restore(other, tmp_path / "case.zip")
    assert content(other) == before


def test_the_backup_of_the_first_release_is_still_read_and_its_log_replayed(fresh: Pool, tmp_path: Path) -> None:
    """Committed with the first release; it is never made anew."""
    restore(fresh, FIXTURES / "first-release-backup.zip")
    workspace = desk_on(fresh, tmp_path)
    (row,) = read_shelf(workspace)
    bench = open_bench(workspace, row.id)
    expected = json.loads((FIXTURES / "first-release-solo.json").read_text())
    later: dict[str, object] = {
        "muted_behind": True,
        "wound_kg_m3": 6_300.0,
        "strung_for": None,
    }  # came later, and is usual
    later |= {"melody": False, "sources": [], "practice": PLAN}
    expected["solo"]["settings"] |= later
    expected["solo"] |= {"remarks": [], "plan": []}
    assert bench.solo.model_dump(mode="json") == expected["solo"]
    assert bench.ground.model_dump(mode="json") == expected["ground"]
    with transaction(fresh) as db:
        log = list(stored.rows(db, workspace.scope.studio, "edit"))
    assert len(log) >= 12
    # Each act can be taken back to the empty strip that the log began with.
    for _ in range(len({edit["act"] for edit in log})):
        undo(workspace, row.id, {})
    assert open_bench(workspace, row.id).solo.notes == ()


def test_a_backup_from_before_listening_has_no_rows_of_it(fresh: Pool, other: Pool, tmp_path: Path) -> None:
    filled(fresh, tmp_path)
    back_up(fresh, tmp_path / "all.zip")
    old = tmp_path / "old.zip"
    with zipfile.ZipFile(tmp_path / "all.zip") as now, zipfile.ZipFile(old, "w") as then:
        manifest = json.loads(now.read("manifest.json")) | {"format": 2}
        for place in now.namelist():
            if place == "manifest.json" or place.endswith(tuple(f"{table}.ndjson" for table in stored.SINCE_FORMAT)):
                continue
            data = now.read(place)
            if place.endswith("studio.ndjson"):
                data = data.replace(b'"keeps_corrections": null, ', b"")
                manifest["parts"][place] = hashlib.sha256(data).hexdigest()
            then.writestr(place, data)
        then.writestr("manifest.json", json.dumps(manifest))
    restore(other, old)
    assert content(other) == content(fresh)


def test_a_document_of_the_first_release_comes_in_as_it_was(fresh: Pool, tmp_path: Path) -> None:
    """Schema 1, committed as it was exported then; what came later has its usual value."""
    workspace = desk_on(fresh, tmp_path)
    data = (FIXTURES / "first-release-document.json").read_bytes()
    old = json.loads(data)
    made = import_json(workspace, data).solo_id
    bench = open_bench(workspace, made)
    later = {"wound_kg_m3": 6_300.0, "strung_for": None, "melody": False, "sources": [], "practice": PLAN}
    solo = old["solo"] | {"settings": old["solo"]["settings"] | later, "remarks": [], "plan": []}
    assert bench.solo.model_dump(mode="json") == solo
    assert bench.ground.model_dump(mode="json") == old["ground"]
    exported = export_json(workspace, made)
    assert json.loads(exported)["schema"] == 6
    assert export_json(workspace, import_json(workspace, exported).solo_id) == exported


def test_scopes_of_a_backup_are_those_of_its_studios(fresh: Pool, tmp_path: Path) -> None:
    workspace, _, _ = filled(fresh, tmp_path)
    back_up(fresh, tmp_path / "all.zip")
    with zipfile.ZipFile(tmp_path / "all.zip") as file:
        places = {name.split("/")[0] for name in file.namelist()} - {"manifest.json", "README.txt"}
    assert places == {str(workspace.scope.studio)}
