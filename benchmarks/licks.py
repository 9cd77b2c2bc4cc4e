"""The lick book at 100,000 phrases: searches common, rare and absent, and the nearest to one, beside `SELECT 1`.

And a studio of 300 solos: its book and a player's page, opened as the page asks for them.
"""

from __future__ import annotations

import os
import tempfile
import time
from collections.abc import Callable, Iterable, Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from contextlib import contextmanager
from functools import partial
from pathlib import Path
from uuid import UUID, uuid4

import numpy as np
from fastapi.testclient import TestClient

from benchmarks.figures import Figure
from benchmarks.lick_studio import generated
from usagi.cli.cluster import THROWAWAY, Cluster
from usagi.core.licks.entries import INDEX
from usagi.core.licks.letters import read_letters
from usagi.core.licks.line import KeyFree
from usagi.core.licks.nearness import distances, tokens_of
from usagi.flows.editing.changing import commit, load
from usagi.flows.licks.book import nearest_to, search
from usagi.flows.licks.indexing import index_solo, index_stale
from usagi.flows.studio.new_solo import store_ground, store_solo
from usagi.flows.workspace import Workspace
from usagi.jobs.indexing import Indexer
from usagi.main import make_app
from usagi.media.cache import Cache
from usagi.store.database import create_database, migrate, open_pool, transaction
from usagi.store.found import Narrowed, stale_solos
from usagi.store.studios import NEW_PERSON, NEW_STUDIO, Scope, tune_titled

SOLOS = int(os.environ.get("USAGI_BENCH_SOLOS", "2500"))
PLAYERS = 60
QUERIES = 200
PAGE_SOLOS = 300
NEAREST = 30
BRUTE = 12
NAMES = ("1", "b2", "2", "b3", "3", "4", "b5", "5", "b6", "6", "b7", "7")
FIRST = 7_000_000  # of the seeds, which tuned nothing


@contextmanager
def studio() -> Iterator[tuple[Workspace, str]]:
    """A studio of its own on a database of its own, for as long as a block lasts."""
    with tempfile.TemporaryDirectory(prefix="usagi-bench-") as folder:
        home = Path(folder)
        home.chmod(0o755)
        (home / "pg").mkdir(mode=0o755)
        cluster = Cluster(home / "pg", THROWAWAY)
        try:
            dsn = create_database(cluster.start(), "bench")
            migrate(dsn)
            pool = open_pool(dsn, size=4)
            scope = Scope(uuid4(), uuid4())
            with transaction(pool) as db:
                db.execute(NEW_STUDIO, {"studio_id": scope.studio, "name": "bench", "demo": False})
                db.execute(NEW_PERSON, {"studio_id": scope.studio, "id": scope.person, "name": "somebody"})
            yield Workspace(pool, scope, Cache(home / "cache", 0)), dsn
            pool.close()
        finally:
            cluster.destroy()


def fill(dsn: str, scope: Scope, phrases: int, players: int, seeds: Sequence[int]) -> None:
    """Generated solos, and their index, from a process of its own."""
    pool = open_pool(dsn, size=2)
    workspace = Workspace(pool, scope, Cache(Path(tempfile.gettempdir()), 0))
    for seed in seeds:
        document = generated(seed, seed % players, phrases)
        solo_id, ground_id = uuid4(), uuid4()
        with transaction(pool) as db:
            tune = tune_titled(db, scope, document.tune)
            store_ground(db, workspace, ground_id, document.ground, tune, None)
            store_solo(db, workspace, solo_id, document.solo, document.ground, ground_id)
        index_solo(workspace, solo_id)
    pool.close()


def filled(workspace: Workspace, dsn: str, solos: int, players: int = PLAYERS, phrases: int = 40) -> float:
    """Seconds that it took."""
    begin = time.perf_counter()
    seeds = [list(range(FIRST + i, FIRST + solos, 8)) for i in range(8)]
    with ProcessPoolExecutor(max(1, (os.cpu_count() or 2))) as pool:
        list(pool.map(partial(fill, dsn, workspace.scope, phrases, players), seeds))
    with transaction(workspace.pool) as db:
        assert stale_solos(db, workspace.scope.studio, INDEX) == []
    return time.perf_counter() - begin


def lines(workspace: Workspace) -> dict[int, KeyFree]:
    """Every line of the index by id."""
    query = "SELECT id, line, stacks, steps FROM found_span WHERE studio_id = %(studio_id)s"
    with transaction(workspace.pool) as db:
        rows = db.execute(query, {"studio_id": workspace.scope.studio}).fetchall()
    return {row[0]: read_letters(row[1], row[2], row[3]) for row in rows}


def texts(found: Sequence[KeyFree], length: int, rng: np.random.Generator, count: int) -> list[str]:
    """Searches of so many degrees: a third common, a third rare, a third that comes nowhere."""
    counts: dict[tuple[int | None, ...], int] = {}
    for line in found:
        slots = [one[0] for one in line.slots]
        for i in range(len(slots) - length + 1):
            row = tuple(slots[i : i + length])
            if None not in row:
                counts[row] = counts.get(row, 0) + 1
    order = sorted(counts, key=lambda row: counts[row], reverse=True)
    third = count // 3
    common, rare = order[: max(third, len(order) // 50)], [row for row in order if counts[row] <= 20] or order[-third:]
    chosen = [common[int(i)] for i in rng.integers(len(common), size=third)]
    chosen += [rare[int(i)] for i in rng.integers(len(rare), size=third)]
    for _ in range(100_000):  # of three degrees in a row nearly all come somewhere: then the rarest stand in
        row = tuple(int(x) for x in rng.integers(12, size=length))
        if len(chosen) < count and row not in counts:
            chosen.append(row)
    chosen += order[-1 : len(chosen) - count - 1 : -1] if len(chosen) < count else []
    return [" ".join(NAMES[slot or 0] for slot in row) for row in chosen]


def timed(asked: Sequence[Callable[[], object]]) -> np.ndarray:
    taken = []
    for ask in asked:
        begin = time.perf_counter()
        ask()
        taken.append(1_000 * (time.perf_counter() - begin))
    return np.array(taken)


def select_one(workspace: Workspace) -> float:
    def ask() -> None:
        with transaction(workspace.pool) as db:
            db.execute("SELECT 1 -- studio_id = %(studio_id)s", {"studio_id": workspace.scope.studio}).fetchone()

    return float(np.percentile(timed([ask] * 100), 95))


def figures() -> Iterable[Figure]:
    yield from _pages()
    with studio() as (workspace, dsn):
        took = filled(workspace, dsn, SOLOS)
        with transaction(workspace.pool) as db:
            db.execute("ANALYZE")
        there = lines(workspace)
        yield Figure(f"{SOLOS} solos stored and indexed, {len(there)} phrases", took, "s")
        one = select_one(workspace)
        beside = f"SELECT 1: {one:.2f} ms"
        found = list(there.values())
        for length, goal in ((5, 50.0), (4, 50.0), (3, 50.0), (2, 150.0), (1, 150.0)):
            asked = texts(found, length, np.random.default_rng([length, 3]), QUERIES)
            taken = timed([partial(search, workspace, text) for text in asked])
            yield _figure(f"{length} degrees, {QUERIES} searches", taken, goal, beside)
        rng = np.random.default_rng(17)
        narrowed = Narrowed(slowest=80.0, fastest=180.0, technique="bend", ends_at=2)
        with_gap = [_with_gap(text, rng) for text in texts(found, 4, rng, QUERIES)]
        taken = timed([partial(search, workspace, text, narrowed) for text in with_gap])
        yield _figure(f"with a gap and three filters, {QUERIES} searches", taken, 150.0, beside)
        steps = ["+2 +1 -3", "-2 -1 +3 0", "+4 +3", "-12 +5 +2"] * 10
        yield _figure(
            "by steps, 40 searches", timed([partial(search, workspace, text) for text in steps]), 150.0, beside
        )
        yield from _nearest(workspace, there, beside)
        yield from _changed(workspace, dsn)
        solo = _any_solo(workspace)
        yield Figure(
            "one solo of 40 phrases indexed anew, median of 10",
            float(np.median(timed([partial(index_solo, workspace, solo)] * 10))), "ms", goal=1_000,
        )  # fmt: skip
        yield Figure(
            "looked for what changed, nothing, median of 10",
            float(np.median(timed([partial(index_stale, workspace)] * 10))), "ms", baseline=beside,
        )  # fmt: skip


def _pages() -> Iterable[Figure]:
    """A studio of 300 solos of six players, fifty each, through the api."""
    with studio() as (workspace, dsn):
        filled(workspace, dsn, PAGE_SOLOS, players=6)
        with transaction(workspace.pool) as db:
            db.execute("ANALYZE")
        app = make_app()
        app.state.workspace = workspace
        client = TestClient(app, base_url="http://127.0.0.1")
        beside = f"SELECT 1: {select_one(workspace):.2f} ms"
        players = [one["id"] for one in client.get("/api/players").json()]

        def book() -> None:
            for path in ("/api/licks", "/api/licks/choices"):
                assert client.get(path).status_code == 200

        def page(player: str) -> None:
            for path in ("/api/players", f"/api/players/{player}"):
                assert client.get(path).status_code == 200

        yield _figure(f"the book of {PAGE_SOLOS} solos opened, 40 times", timed([book] * 40), 500.0, beside)
        taken = timed([partial(page, player) for player in players for _ in range(5)])
        yield _figure(f"a player's page opened, each of {len(players)} players five times", taken, 500.0, beside)
        notes = {"group": "starts", "answer": "2"}
        taken = timed([partial(client.get, f"/api/players/{one}/notes", params=notes) for one in players])
        yield _figure("the notes of a habit opened, of each player", taken, None, beside)
        pairs = zip(players, [*players[1:], players[0]], strict=True)
        asked = [partial(client.get, f"/api/players/{one}", params={"beside": other}) for one, other in pairs]
        yield _figure("a player beside another, of each", timed(asked), None, beside)


def _figure(name: str, taken: np.ndarray, goal: float | None, beside: str) -> Figure:
    p95, median = float(np.percentile(taken, 95)), float(np.median(taken))
    return Figure(f"{name}, p95", p95, "ms", goal=goal, baseline=f"median {median:.1f}; {beside}")


def _changed(workspace: Workspace, dsn: str) -> Iterable[Figure]:
    """From a stored edit to its phrases in the index, by the worker's own indexer."""
    solo = _any_solo(workspace)
    indexer = Indexer(dsn, workspace.pool, workspace.cache, workspace.scope)
    indexer.start()
    try:
        taken = timed([partial(_until_read, workspace, solo) for _ in range(20)])
    finally:
        indexer.stop()
    yield _figure("a stored edit read by the worker, 20 times", taken, 1_000.0, "")


def _until_read(workspace: Workspace, solo_id: UUID) -> None:
    loaded = load(workspace, solo_id)
    first, *others = loaded.solo.notes
    other = first.model_copy(update={"ghost": not first.ghost})
    commit(workspace, loaded, "ghost note", solo=loaded.solo.model_copy(update={"notes": (other, *others)}))
    while True:
        with transaction(workspace.pool) as db:
            if not stale_solos(db, workspace.scope.studio, INDEX):
                return
        time.sleep(0.01)


def _with_gap(text: str, rng: np.random.Generator) -> str:
    words = text.split()
    return " ".join([*words[: (at := int(rng.integers(1, 3)))], "·", *words[at:]])


def _any_solo(workspace: Workspace) -> UUID:
    query = "SELECT id FROM solo WHERE studio_id = %(studio_id)s LIMIT 1"
    with transaction(workspace.pool) as db:
        row = db.execute(query, {"studio_id": workspace.scope.studio}).fetchone()
    assert row is not None
    return UUID(str(row[0]))


def _nearest(workspace: Workspace, there: dict[int, KeyFree], beside: str) -> Iterable[Figure]:
    chosen = np.random.default_rng(23).choice(sorted(there), NEAREST, replace=False)
    taken = timed([partial(nearest_to, workspace, int(one)) for one in chosen])
    yield _figure(f"the nearest 20 to one, {NEAREST} times", taken, 150.0, beside)
    shares = []
    full = _with_gaps(workspace)
    ids = list(full)
    every = tokens_of([full[one] for one in ids])
    for one in chosen[:BRUTE]:
        far = distances(full[int(one)], every)
        far[ids.index(int(one))] = np.inf
        worst = np.sort(far)[19]
        got = [ids.index(lick.span) for lick in nearest_to(workspace, int(one)).licks]
        shares.append(sum(far[i] <= worst + 1e-6 for i in got) / 20)
    yield Figure(
        f"of the nearest 20 by brute force, found ({BRUTE} times)", 100 * float(np.mean(shares)), "%", goal=95,
        at_least=True,
    )  # fmt: skip


def _with_gaps(workspace: Workspace) -> dict[int, KeyFree]:
    """Every line with its gaps, from the notes as they are drawn and not from the packed tokens."""
    from usagi.core.licks.drawn import Drawn, with_gaps

    query = """
    SELECT span.id, line, stacks, steps, drawn FROM found_span AS span
    JOIN found_drawing ON found_drawing.studio_id = span.studio_id AND found_drawing.id = span.id
    WHERE span.studio_id = %(studio_id)s
    """
    found = {}
    with transaction(workspace.pool) as db:
        for number, line, stacks, steps, drawn in db.execute(query, {"studio_id": workspace.scope.studio}):
            found[number] = with_gaps(read_letters(line, stacks, steps), Drawn.model_validate(drawn))
    return found
