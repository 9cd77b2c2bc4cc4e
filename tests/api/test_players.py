"""Players through the api: figures that add up, open their notes, and stand beside others."""

from __future__ import annotations

from fastapi.testclient import TestClient

from asking import note, opened, started, write
from usagi.core.meter.ticks import EIGHTH
from usagi.flows.licks.indexing import index_stale
from usagi.flows.players.cells import count_cells
from usagi.flows.workspace import Workspace

HIGH = ((2, 8), (2, 10), (1, 8), (1, 10))  # over C7: 5 6 1 2
LOW = ((3, 9), (3, 8), (4, 10), (3, 8))  # 3 b3 1 b3


def played(
    client: TestClient, player: str, line: tuple[tuple[int, int], ...], times: int, tune: str = "Tin Roof"
) -> str:
    solo = started(client, chart="| {key C major} C7 |\n8 choruses", player=player, tune=tune)
    bench = opened(client, solo)
    notes = [
        note(f"n{bar}-{i}", bar * 8 * EIGHTH + i * EIGHTH, string, fret) | {"ticks": EIGHTH}
        for bar in range(times)
        for i, (string, fret) in enumerate(line)
    ]
    write(client, bench, *notes)
    return solo


def figures(page: dict, group: str) -> dict[str, dict]:
    return {one["label"]: one for one in next(g for g in page["groups"] if g["group"] == group)["figures"]}


def test_a_players_figures_add_up_and_open_their_notes(client: TestClient, workspace: Workspace) -> None:
    solo = played(client, "Ada Moor", LOW, 6)
    index_stale(workspace)
    (player,) = client.get("/api/players").json()
    assert (player["name"], player["says"]) == ("Ada Moor", "1 solo · 24 notes")
    page = client.get(f"/api/players/{player['id']}").json()
    assert page["one"]["sample"] == "In this solo: 6 phrases, 24 notes."
    degrees = figures(page, "degrees dominant")
    assert degrees["b3"]["count"] == 12 and sum(one["count"] for one in degrees.values()) == 24
    starts = figures(page, "starts")
    assert starts == {"on beat 1": starts["on beat 1"]} and starts["on beat 1"]["light"]
    places = client.get(
        f"/api/players/{player['id']}/notes", params={"group": "degrees dominant", "answer": "3"}
    ).json()
    assert places["count"] == 12 and len(places["places"]) == 6
    assert places["places"][0]["solo"] == solo and places["places"][0]["notes"] == ["n0-1", "n0-3"]
    habits = [habit["says"] for habit in page["habits"]]
    assert "starts a phrase on beat 1" in habits and "ends a phrase on the b3" in habits
    text = client.get(f"/api/players/{player['id']}/figures.csv").text
    assert text.splitlines()[0].startswith("question,answer,count") and "Degrees over dominant chords,b3,12,24" in text


def test_two_players_stand_side_by_side_and_what_differs_is_said(client: TestClient, workspace: Workspace) -> None:
    played(client, "Ada Moor", LOW, 8)
    played(client, "Ines Quarrie", HIGH, 8, tune="Slate Hill")
    index_stale(workspace)
    ada, ines = client.get("/api/players").json()
    page = client.get(f"/api/players/{ada['id']}", params={"beside": ines["id"]}).json()
    assert page["beside"]["name"] == "Ines Quarrie"
    assert figures(page, "degrees dominant")["b3"]["beside"] == 0.0
    assert any(
        one["says"].startswith("Ada Moor plays the b3 over dominant chords more often") for one in page["differs"]
    )


def test_versions_and_unsure_notes_are_not_counted(client: TestClient, workspace: Workspace) -> None:
    solo = played(client, "Ada Moor", LOW, 2)
    client.post(f"/api/solos/{solo}/versions", json={"name": "easier", "rules": []})
    bench = opened(client, solo)
    write(client, bench, note("u", 7 * 8 * EIGHTH, 2, 8) | {"sure": "unsure"})
    index_stale(workspace)
    (player,) = client.get("/api/players").json()
    page = client.get(f"/api/players/{player['id']}").json()
    assert page["one"]["solos"] == 1 and page["one"]["unsure"] == 1
    assert sum(one["count"] for one in figures(page, "degrees dominant").values()) == 8


def test_a_cell_that_comes_again_and_again_is_found_and_opens_its_places(
    client: TestClient, workspace: Workspace
) -> None:
    for tune, line in (("Tin Roof", LOW), ("Slate Hill", LOW)):
        played(client, "Ada Moor", line, 5, tune=tune)
    index_stale(workspace)
    player = client.get("/api/players").json()[0]["id"]
    assert client.get(f"/api/players/{player}").json()["cells"] is None  # not counted yet
    assert count_cells(workspace) == 1 and count_cells(workspace) == 0
    assert client.get(f"/api/players/{player}").json()["cells"] is not None


def test_a_player_who_is_not_there(client: TestClient) -> None:
    answer = client.get("/api/players/00000000-0000-0000-0000-000000000000")
    assert answer.status_code == 404 and answer.json()["title"] == "This player is not here any more."
