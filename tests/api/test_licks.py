"""The lick book through the api: kept, followed, frozen, found and named."""

from __future__ import annotations

from uuid import uuid4

from fastapi.testclient import TestClient

from asking import note, opened, started, write
from usagi.core.meter.ticks import EIGHTH
from usagi.flows.licks.indexing import index_stale
from usagi.flows.workspace import Workspace

LINE = ((2, 9), (2, 8), (3, 9), (2, 8), (3, 11))  # over E7: 3 b3 1 b3 … in degrees G# G E G F#


def written(client: TestClient, tune: str = "Tin Roof", player: str = "Ada Moor") -> str:
    solo = started(client, chart="| {key E major} E7 | A7 |", tune=tune, player=player)
    bench = opened(client, solo)
    notes = [note(f"n{i}", i * EIGHTH, string, fret) | {"ticks": EIGHTH} for i, (string, fret) in enumerate(LINE)]
    write(client, bench, *notes)
    return solo


def kept(client: TestClient, solo: str, first: str = "n0", last: str = "n2", **said: object) -> dict:
    body = {"id": str(uuid4()), "solo": solo, "first": first, "last": last} | said
    answer = client.post("/api/licks", json=body)
    assert answer.status_code == 200, answer.text
    found: dict = answer.json()
    return found


def found(client: TestClient, text: str = "", **narrowed: str | int) -> dict:
    answer = client.get("/api/licks", params={"text": text} | narrowed)
    assert answer.status_code == 200, answer.text
    hits: dict = answer.json()
    return hits


def test_a_phrase_that_nobody_cut_is_found_by_its_degrees(client: TestClient, workspace: Workspace) -> None:
    written(client)
    assert index_stale(workspace) == 1 and index_stale(workspace) == 0
    hits = found(client, "3 b3 1")
    assert (hits["count"], hits["exact"], hits["says"]) == (1, 1, "1 phrase, 1 exactly as asked")
    (one,) = hits["licks"]
    assert (one["player"], one["tune"], one["bar"], one["says"]) == ("Ada Moor", "Tin Roof", 1, "exactly")
    assert [n["hit"] for n in one["drawing"]["notes"]] == [True, True, True, False, False]
    assert found(client, "3 b3 5")["count"] == 0
