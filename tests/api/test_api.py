"""Through HTTP: status, problem code, what was saved."""

from __future__ import annotations

import io
import json
import wave
from dataclasses import replace
from pathlib import Path
from uuid import uuid4

import numpy as np
import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient

from asking import bring, edit, encoded, note, opened, send, started, wav, write
from studios import new_studio
from usagi.api.problems import STATUS
from usagi.cli.demo import seed
from usagi.core.errors import every_error
from usagi.flows.workspace import OpenDocuments, Workspace
from usagi.media.decode import FORMATS
from usagi.store.database import transaction
from usagi.store.studios import drop_studio, tune_titled

DEMO = Path(__file__).parents[2] / "demo"
QUARTER = 10_080


@pytest.mark.parametrize("error", every_error(), ids=lambda error: error.__name__)
def test_every_error_has_a_status(error) -> None:
    assert error.code in STATUS


def test_a_note_is_answered_with_its_label_and_stays(client: TestClient) -> None:
    bench = opened(client, started(client))
    answer = write(client, bench, note("n1", 0))
    assert answer["views"]["n1"]["says"] == "String 2, fret 10: the 1 of Am7."
    assert answer["views"]["n1"]["shape"] == "chord tone"
    again = opened(client, bench["solo_id"])
    assert [n["id"] for n in again["solo"]["notes"]] == ["n1"]
    assert again["views"]["n1"] == answer["views"]["n1"]


def test_sending_twice_is_harmless(client: TestClient) -> None:
    bench = opened(client, started(client))
    one = edit(bench, {"kind": "note", "id": "n1", "after": note("n1", 0)})
    first, second = send(client, bench, one), send(client, bench, one)
    assert first.status_code == second.status_code == 200
    assert first.json()["versions"] == second.json()["versions"]


def test_a_refusal_stands_alone_with_what_rests_on_it_and_the_others_are_stored(client: TestClient) -> None:
    bench = opened(client, started(client))
    write(client, bench, note("n1", 0))
    fine = edit(bench, {"kind": "note", "id": "n2", "after": note("n2", QUARTER)})
    believed, changed = note("n1", 0, fret=9), note("n1", 0, fret=12)
    stale = edit(bench, {"kind": "note", "id": "n1", "before": believed, "after": changed}, edit_id="stale")
    resting = edit(bench, {"kind": "note", "id": "n1", "before": changed, "after": None}, edit_id="resting")
    last = edit(bench, {"kind": "note", "id": "n3", "after": note("n3", 2 * QUARTER)})
    answer = send(client, bench, fine, stale, resting, last).json()
    one, two = answer["refused"]
    assert (one["code"], one["edits"], one["where"]["id"], one["rests_on"]) == ("edit-conflict", ["stale"], "n1", None)
    assert (one["now"]["fret"], one["before"]["fret"]) == (1000, 900)
    assert (two["edits"], two["rests_on"]) == (["resting"], one["act"])
    assert "which was left out before it" in two["sentence"]
    assert [n["id"] for n in opened(client, bench["solo_id"])["solo"]["notes"]] == ["n1", "n2", "n3"]


def test_an_act_over_several_edits_is_stored_whole_or_not_at_all(client: TestClient) -> None:
    bench = opened(client, started(client))
    good = edit(bench, {"kind": "note", "id": "n1", "after": note("n1", 0)})
    bad = edit(bench, {"kind": "note", "id": "n2", "after": note("n2", QUARTER, string=7)}) | {"act": good["act"]}
    answer = send(client, bench, good, bad).json()
    assert [one["edits"] for one in answer["refused"]] == [[good["id"], bad["id"]]]
    assert opened(client, bench["solo_id"])["solo"]["notes"] == []


def test_two_pages_merge_and_each_is_told_every_edit_since_it_knew(client: TestClient) -> None:
    one = opened(client, started(client))
    other = opened(client, one["solo_id"])
    write(client, one, note("n1", 0))
    answer = write(client, other, note("n2", QUARTER))
    assert [c["id"] for e in answer["edits"] for c in e["changes"]] == ["n1", "n2"]
    solo = one["solo_id"]
    assert (answer["since"][solo], answer["versions"][solo]) == (0, 2)
    assert answer["whole"] and set(answer["views"]) == {"n1", "n2"}
    again = send(client, other, *answer["edits"][1:], versions=one["versions"] | {solo: 0}).json()
    assert (again["since"][solo], again["versions"][solo], len(again["edits"])) == (0, 2, 2)


def test_a_page_that_knows_more_than_is_stored_is_told_so(client: TestClient) -> None:
    bench = opened(client, started(client))
    ahead = client.post(f"/api/solos/{bench['solo_id']}/edits", json={"versions": {bench["solo_id"]: 9}, "edits": []})
    assert (ahead.status_code, ahead.json()["code"]) == (409, "page-ahead")


def test_a_removed_solo_takes_no_edits_until_it_is_put_back(client: TestClient) -> None:
    bench = opened(client, started(client))
    client.post(f"/api/solos/{bench['solo_id']}/remove")
    made = edit(bench, {"kind": "note", "id": "n1", "after": note("n1", 0)})
    refused = send(client, bench, made)
    assert (refused.status_code, refused.json()["code"]) == (409, "solo-removed")
    client.post(f"/api/solos/{bench['solo_id']}/fetch-back")
    assert send(client, bench, made).json()["refused"] == []


def test_undo_and_redo_walk_a_persons_acts_and_give_the_same_document(client: TestClient) -> None:
    bench = opened(client, started(client))
    solo = bench["solo_id"]
    states = [client.get(f"/api/solos/{solo}/document.json").content]
    for i in range(5):
        write(client, bench, note(f"n{i}", i * QUARTER))
        states.append(client.get(f"/api/solos/{solo}/document.json").content)
    for state in reversed(states[:-1]):
        assert client.post(f"/api/solos/{solo}/undo", json={"versions": {}}).status_code == 200
        assert client.get(f"/api/solos/{solo}/document.json").content == state
    refused = client.post(f"/api/solos/{solo}/undo", json={"versions": {}})
    assert (refused.status_code, refused.json()["code"]) == (409, "nothing-to-undo")
    for state in states[1:4]:
        assert client.post(f"/api/solos/{solo}/redo", json={"versions": {}}).status_code == 200
        assert client.get(f"/api/solos/{solo}/document.json").content == state
    bench = opened(client, solo)
    write(client, bench, note("other", 9 * QUARTER))
    assert client.post(f"/api/solos/{solo}/redo", json={"versions": {}}).json()["code"] == "nothing-to-undo"


def test_a_changed_chord_changes_the_labels_of_its_notes_only(client: TestClient) -> None:
    bench = opened(client, started(client))
    write(client, bench, note("n1", 0), note("n2", 4 * QUARTER))
    chord = bench["strip"]["chords"][0]
    answer = client.put(f"/api/solos/{bench['solo_id']}/chords/{chord['id']}", json={"symbol": "Fmaj7"})
    assert answer.status_code == 200
    assert answer.json()["views"].keys() == {"n1"}
    assert answer.json()["views"]["n1"]["degree"] == "3"
    assert answer.json()["strip"]["chords"][0]["shown"] == "Fmaj7"
    assert (
        client.post(f"/api/solos/{bench['solo_id']}/undo", json={"versions": {}}).json()["views"]["n1"]["degree"] == "1"
    )


def test_a_chord_of_a_repeated_bar_changes_here_or_every_time(client: TestClient) -> None:
    bench = opened(client, started(client, chart="|: Am7 | D7 :|"))
    path = f"/api/solos/{bench['solo_id']}/chords/{bench['strip']['chords'][0]['id']}"
    here = client.put(path, json={"symbol": "Fmaj7", "bar": 3}).json()
    assert [chord["shown"] for chord in here["strip"]["chords"]] == ["Am7", "D7", "Fmaj7", "D7"]
    text = client.get(f"/api/solos/{bench['solo_id']}/chart").json()["text"]
    assert "2nd time, bar 1: | Fmaj7 |" in text
    again = client.put(f"/api/solos/{bench['solo_id']}/chart", json={"text": text}).json()
    assert again["edits"] == []
    every = client.put(path, json={"symbol": "Em7"}).json()
    assert [chord["shown"] for chord in every["strip"]["chords"]] == ["Em7", "D7", "Fmaj7", "D7"]
    assert client.put(path.replace(path[-4:], "none"), json={"symbol": "Em7"}).status_code == 404


def test_faulty_chart_text_is_a_draft_and_the_last_good_chart_stays(client: TestClient) -> None:
    bench = opened(client, started(client))
    path = f"/api/solos/{bench['solo_id']}/chart"
    answer = client.put(path, json={"text": "| Am7 | Hm7 |"})
    assert answer.status_code == 422
    assert [(f["bar"], f["line"], f["column"]) for f in answer.json()["faults"]] == [(2, 1, 9)]
    assert client.get(path).json()["draft"] == "| Am7 | Hm7 |"
    assert [c["shown"] for c in opened(client, bench["solo_id"])["strip"]["chords"]] == ["Am7", "D7"]
    assert client.put(path, json={"text": "| {3/4} Am7 | E7 |"}).status_code == 200
    assert client.get(path).json() == {"text": "| {3/4} Am7 | E7 |\n", "draft": None}


def test_the_ground_can_be_changed_and_undone_in_one_step(client: TestClient) -> None:
    bench = opened(client, started(client))
    write(client, bench, note("n1", 7 * 4 * QUARTER, fret=20))
    solo = bench["solo_id"]
    before = client.get(f"/api/solos/{solo}/document.json").content
    basics = {"tempo_bpm": 90, "bar_one_s": 1.25, "meter": "3/4", "key": "E minor", "feel": "swing", "swing_ratio": 1.8,
              "tuning": "drop D", "capo": 5, "first_bar": 2, "last_bar": 6, "bars": 6, "offset_cents": 34}  # fmt: skip
    answer = client.put(f"/api/solos/{solo}/basics", json=basics)
    assert answer.status_code == 200, answer.text
    assert (answer.json()["strip"]["tempo"], answer.json()["strip"]["key"]) == ("quarter = 90", "E minor")
    assert {m["kind"] for m in answer.json()["violations"]} == {"note"}
    assert client.post(f"/api/solos/{solo}/undo", json={"versions": {}}).status_code == 200
    assert client.get(f"/api/solos/{solo}/document.json").content == before


def test_the_shelf_removes_restores_and_renames(client: TestClient) -> None:
    solo = started(client)
    assert (
        client.post(
            f"/api/solos/{solo}/rename", json={"tune": "Slate Roof", "title": "x", "player": "Bo Lind"}
        ).status_code
        == 204
    )
    assert client.post(f"/api/solos/{solo}/remove").status_code == 204
    (row,) = client.get("/api/shelf").json()["solos"]
    assert (row["tune"], row["title"], row["player"], row["removed"]) == ("Slate Roof", "x", "Bo Lind", True)
    assert client.post(f"/api/solos/{solo}/fetch-back").status_code == 204
    assert client.get("/api/shelf").json()["solos"][0]["removed"] is False
    assert client.post(f"/api/solos/{uuid4()}/remove").json()["code"] == "not-there"


@pytest.mark.parametrize(
    ("kind", "subtype"),
    [("WAV", None), ("FLAC", None), ("OGG", "VORBIS"), ("OGG", "OPUS"), ("MP3", None), ("AIFF", None)],
)
def test_every_promised_format_is_read(client: TestClient, kind: str, subtype: str | None) -> None:
    answer = bring(client, f"a.{kind.lower()}", encoded(1.5, kind, subtype))
    assert answer.status_code == 200, answer.text
    assert answer.json()["recording"]["seconds"] == pytest.approx(1.5, abs=0.06)
    assert kind in FORMATS or subtype is not None


def test_a_cut_off_file_is_taken_as_far_as_it_goes_and_says_so(client: TestClient) -> None:
    data = encoded(4.0, "FLAC")
    answer = bring(client, "cut.flac", data[: len(data) * 2 // 3])
    assert answer.status_code == 200, answer.text
    assert answer.json()["notices"]
    assert 0.5 < answer.json()["recording"]["seconds"] < 4.0


def test_a_recording_is_served_with_ranges_peaks_and_pieces_of_exact_length(client: TestClient) -> None:
    data = wav(3.0)
    sound = bring(client, "a.wav", data).json()["recording"]
    again = bring(client, "other name.wav", data).json()
    assert again["known"] and again["recording"]["id"] == sound["id"]
    file = f"/api/recordings/{sound['id']}/file"
    part = client.get(file, headers={"range": "bytes=100-199"})
    assert (part.status_code, part.content, part.headers["content-range"]) == (
        206,
        data[100:200],
        f"bytes 100-199/{len(data)}",
    )
    assert client.get(file, headers={"range": "bytes=-50"}).content == data[-50:]
    assert client.get(file, headers={"range": f"bytes={len(data)}-"}).status_code == 416
    assert client.get(file).content == data
    sizes = [len(client.get(f"/api/recordings/{sound['id']}/peaks/{level}").content) for level in range(5)]
    assert sizes == [3 * -(-144_000 // 256 // 4**level) if level else 3 * -(-144_000 // 256) for level in range(5)]
    assert client.get(f"/api/recordings/{sound['id']}/peaks/5").status_code == 404
    solo = started(client, recording_id=sound["id"])
    for speed in (250, 600, 1000, 1250):
        answer = client.get(
            f"/api/solos/{solo}/piece", params={"start": -1_000, "end": 47_000, "speed": speed, "cents": 10}
        )
        with wave.open(io.BytesIO(answer.content)) as piece:
            assert (piece.getnframes(), piece.getframerate(), piece.getnchannels()) == (
                round(48_000_000 / speed),
                48_000,
                2,
            )
    bench = opened(client, solo)
    write(client, bench, note("n1", 0, ticks=QUARTER))
    for speed, loop in ((250, False), (600, True), (1000, False)):
        sounds = {}
        for hear in ("recording", "writing", "beside"):
            params = {"start": -1_000, "end": 47_000, "speed": speed, "hear": hear, "loop": loop}
            with wave.open(io.BytesIO(client.get(f"/api/solos/{solo}/piece", params=params).content)) as piece:
                assert piece.getnframes() == round(48_000_000 / speed)
                sounds[hear] = np.frombuffer(piece.readframes(piece.getnframes()), "<i2").reshape(
                    -1, piece.getnchannels()
                )
        assert np.abs(sounds["writing"]).max() > 1_000
        assert np.array_equal(sounds["beside"][:, 1:], sounds["writing"])  # the writing right, the recording left
        assert np.array_equal(sounds["beside"][:, 0], np.rint(sounds["recording"].mean(axis=1)))
    at, number, length = 0, 0, 0
    while at < 144_000:  # a playing in pieces, each begun where the one before says that it ends
        params = {"start": at, "end": 144_000, "number": number, "speed": 500}
        answer = client.get(f"/api/solos/{solo}/piece", params=params)
        with wave.open(io.BytesIO(answer.content)) as piece:
            length += piece.getnframes()
        at, number = int(answer.headers["usagi-end"]), number + 1
    assert (at, number, length) == (144_000, 3, 288_000)
    assert (
        client.get(f"/api/solos/{solo}/piece", params={"start": 0, "end": 10, "speed": 100}).json()["code"]
        == "speed-impossible"
    )
    assert client.get(f"/api/solos/{solo}/piece", params={"start": 10, "end": 10}).json()["code"] == "piece-impossible"


def test_a_loop_starts_30_ms_early_and_keeps_its_length_and_a_count_in_is_a_bar(client: TestClient) -> None:
    solo = started(client)
    loop = client.get(f"/api/solos/{solo}/loop", params={"tick": 4 * QUARTER, "end": 8 * QUARTER}).json()
    assert (loop["start"], loop["end"] - loop["start"]) == (96_000 - 1_440, 96_000)
    answer = client.get(f"/api/solos/{solo}/count-in", params={"tick": 4 * QUARTER, "speed": 500})
    with wave.open(io.BytesIO(answer.content)) as clicks:
        sound = np.frombuffer(clicks.readframes(10**9), dtype="<i2")
    assert len(sound) == 192_000
    starts = [i for i in range(0, 192_000, 48_000) if abs(int(sound[i])) > 10_000]
    assert starts == [0, 48_000, 96_000, 144_000]


def test_a_phrase_loops_over_whole_bars_or_exactly(client: TestClient) -> None:
    bench = opened(client, started(client))
    phrase = {"id": "p", "start": 5 * QUARTER, "end": 7 * QUARTER, "name": "b"}
    assert send(client, bench, edit(bench, {"kind": "phrase", "id": "p", "after": phrase})).status_code == 200
    path = f"/api/solos/{bench['solo_id']}/phrases/p/loop"
    assert [client.get(path).json()[k] for k in ("tick", "end_tick")] == [4 * QUARTER, 8 * QUARTER]
    assert [client.get(path, params={"exact": True}).json()[k] for k in ("tick", "end_tick")] == [
        5 * QUARTER,
        7 * QUARTER,
    ]


def test_a_solo_without_a_recording_sounds_as_it_is_written(client: TestClient) -> None:
    bench = opened(client, started(client))
    params = {"start": 0, "end": 24_000}
    silent = client.get(f"/api/solos/{bench['solo_id']}/piece", params=params).content
    write(client, bench, note("n1", 0))
    assert client.get(f"/api/solos/{bench['solo_id']}/piece", params=params).content != silent


def test_a_document_comes_back_as_a_new_solo_with_the_same_ids(client: TestClient, workspace: Workspace) -> None:
    seed(workspace)
    rows = {row["title"]: row["id"] for row in client.get("/api/shelf").json()["solos"]}
    version = client.get(f"/api/solos/{rows['second chorus, reel 14, first term']}/document.json").json()
    assert version["solo"]["settings"]["parent"] is None  # an exported document holds no document's id
    data = client.get(f"/api/solos/{rows['fills and solo, reel 22']}/document.json").content
    assert data == (DEMO / "gull-weather.json").read_bytes()
    answer = client.post("/api/documents", files={"file": ("a.json", data)}).json()
    assert answer["solo_id"] not in rows.values() and answer["differences"] == [] and answer["has_sound"]
    assert client.get(f"/api/solos/{answer['solo_id']}/document.json").content == data


def test_the_demo_can_be_put_back_and_leaves_other_studios_alone(workspace: Workspace, pool) -> None:
    seed(workspace)
    with transaction(pool) as db:
        other = new_studio(db)
        tune_titled(db, other, "Their own")
        drop_studio(db, workspace.scope)
        tables = (
            "person",
            "player",
            "tune",
            "recording",
            "sound_part",
            "document",
            "ground",
            "solo",
            "edit",
            "snapshot",
        )
        left = {
            t: db.execute(f"SELECT count(*) FROM {t} WHERE studio_id = %s", (workspace.scope.studio,)).fetchone()[0]
            for t in tables
        }
        kept = db.execute("SELECT count(*) FROM tune WHERE studio_id = %s", (other.studio,)).fetchone()
    assert set(left.values()) == {0} and kept == (1,)


def test_a_document_with_another_ground_lists_what_differs_or_replaces_it(
    client: TestClient, workspace: Workspace
) -> None:
    seed(workspace)
    tree = json.loads((DEMO / "gull-weather.json").read_bytes())
    tree["ground"]["settings"]["offset_cents"] = 12.0
    data = json.dumps(tree).encode()
    first = client.post("/api/documents", files={"file": ("a.json", data)}).json()
    assert first["differences"] == ["offset cents"]
    second = client.post("/api/documents", params={"replace_ground": True}, files={"file": ("a.json", data)}).json()
    assert second["differences"] == []
    assert opened(client, first["solo_id"])["ground"]["settings"]["offset_cents"] == 12.0


def test_a_document_without_its_sound_waits_for_the_file(client: TestClient, workspace: Workspace) -> None:
    answer = client.post("/api/documents", files={"file": ("a.json", (DEMO / "gull-weather.json").read_bytes())}).json()
    assert not answer["has_sound"]
    params = {"start": 0, "end": 4_800}
    assert client.get(f"/api/solos/{answer['solo_id']}/piece", params=params).json()["code"] == "not-there"
    assert bring(client, "gull.ogg", (DEMO / "gull-weather.ogg").read_bytes()).status_code == 200
    assert client.get(f"/api/solos/{answer['solo_id']}/piece", params=params).status_code == 200


def test_many_edits_survive_snapshots(app: FastAPI, client: TestClient, workspace: Workspace) -> None:
    bench = opened(client, started(client))
    solo = bench["solo_id"]
    for start in range(0, 450, 50):
        edits = []
        for i in range(start, start + 50):
            n = note("n", 0, fret=i % 20)
            before = note("n", 0, fret=(i - 1) % 20) if i else None
            edits.append(edit(bench, {"kind": "note", "id": "n", "before": before, "after": n}))
        answer = send(client, bench, *edits)
        assert answer.status_code == 200, answer.text
        bench["versions"] = answer.json()["versions"]
    assert bench["versions"][solo] == 450
    app.state.workspace = replace(
        workspace, open=OpenDocuments()
    )  # read again from the last snapshot and the edits after it
    assert opened(client, solo)["solo"]["notes"][0]["fret"] == (449 % 20) * 100
