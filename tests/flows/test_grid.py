"""The grid under written notes: tapped, put by hand, and what the notes of every solo on it do."""

from __future__ import annotations

import numpy as np
import pytest
from fastapi.testclient import TestClient

from asking import QUARTER, note, opened, started, write


def ticks(client: TestClient, solo: str) -> list[int]:
    return [one["tick"] for one in opened(client, solo)["solo"]["notes"]]


def anchors(client: TestClient, solo: str) -> list[tuple[int, float]]:
    return [(a["tick"], a["second"]) for a in opened(client, solo)["ground"]["anchors"]]


def test_taps_lay_the_grid_and_say_how_even_they_were(client: TestClient) -> None:
    solo = started(client)
    taps = 2.0 + 0.6 * np.arange(24) + np.random.default_rng(3).normal(0, 0.006, 24)
    taps[9] += 0.2
    answer = client.put(f"/api/solos/{solo}/taps", json={"taps": taps.tolist(), "tick": 4 * QUARTER})
    assert answer.status_code == 200, answer.text
    [message] = answer.json()["messages"]
    assert message.startswith("Even to ") and "one left out" in message
    assert float(message.split("; ")[1].split(" ")[0]) == pytest.approx(100, abs=0.5)
    (first, second), *_ = anchors(client, solo)
    assert first == 4 * QUARTER and second == pytest.approx(2.0, abs=0.01)
    client.post(f"/api/solos/{solo}/undo", json={"versions": {}})
    assert anchors(client, solo)[0] == (0, 0.0)


def test_notes_keep_their_beats_or_their_seconds_and_one_undo_takes_all_back(client: TestClient) -> None:
    solo = started(client)
    bench = opened(client, solo)
    write(client, bench, note("a", 4 * QUARTER), note("b", 6 * QUARTER))
    assert client.put(f"/api/solos/{solo}/bars/1", json={"second": 0.5}).status_code == 200
    assert ticks(client, solo) == [4 * QUARTER, 6 * QUARTER]
    held = client.put(f"/api/solos/{solo}/bars/1", json={"second": 1.0, "keep_seconds": True})
    assert held.status_code == 200, held.text
    assert ticks(client, solo) == [3 * QUARTER, 5 * QUARTER]
    client.post(f"/api/solos/{solo}/undo", json={"versions": {}})
    assert ticks(client, solo) == [4 * QUARTER, 6 * QUARTER]
    assert anchors(client, solo)[0] == (0, 0.5)


def test_a_bar_that_is_not_there_or_would_go_backwards_is_refused_in_words(client: TestClient) -> None:
    solo = started(client)
    assert client.put(f"/api/solos/{solo}/bars/900", json={"second": 1.0}).json()["title"] == "There is no bar 900."
    client.put(f"/api/solos/{solo}/bars/3", json={"second": 4.2})
    refused = client.put(f"/api/solos/{solo}/bars/4", json={"second": 4.0})
    assert refused.status_code == 422 and "cannot start at 4.00 s" in refused.json()["title"]


def test_the_retuning_card_says_what_each_choice_does_before_it_is_done(client: TestClient) -> None:
    solo = started(client)
    bench = opened(client, solo)
    write(client, bench, note("low", 0, string=6, fret=0), note("high", QUARTER, string=1, fret=3))
    card = client.get(f"/api/solos/{solo}/retuning", params={"tuning": "drop D"}).json()
    assert [(r["string"], r["way"]) for r in card["strings"] if r["semitones"]] == [(6, "lower by 2 semitones")]
    assert card["keep_frets"] == {"changed": 1, "impossible": []}
    assert card["keep_pitches"] == {"changed": 1, "impossible": []}
    capo = client.get(f"/api/solos/{solo}/retuning", params={"capo": 2}).json()
    assert capo["keep_pitches"]["impossible"] == ["1:1: E2 lies below the lowest string."]
    body = {"tuning": "drop D", "keep_pitches": True}
    assert client.put(f"/api/solos/{solo}/basics", json=body).status_code == 200
    assert [(n["string"], n["fret"]) for n in opened(client, solo)["solo"]["notes"]] == [(6, 200), (1, 300)]
