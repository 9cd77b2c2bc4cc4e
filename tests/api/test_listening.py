"""A span listened to, its offers taken and put right, through the api; the worker's part is done in place."""

from __future__ import annotations

import io
from uuid import UUID, uuid4

import numpy as np
import pytest
import soundfile
from benchmarks.bands import band
from fastapi.testclient import TestClient
from training.sources import travelling_waves

from asking import QUARTER, bring, edit, keep_heard_notes, note, opened, send, started, wav, workspace_of, write
from usagi.core.formats.document_json import read_document
from usagi.flows.listening.corrections import corrected
from usagi.flows.listening.first_look import KINDS
from usagi.flows.setup.estimates import work

SPAN = {"start": 0, "end": 4 * QUARTER, "hints": {}}


def played_line(*midi: int) -> bytes:
    """A pitch on every beat at 120, from 0.5 s on, by a string that tuned nothing."""
    line = np.zeros(round((1.5 + len(midi) / 2) * 44_100))
    strings = travelling_waves()
    for number, pitch in enumerate(midi):
        own, sound = min(strings, key=lambda one: abs(one[0] - pitch))
        at = np.arange(round(0.48 * 44_100)) * 2 ** ((pitch - own) / 12)
        start = round((0.5 + number / 2) * 44_100)
        fade = np.minimum(1, np.arange(len(at))[::-1] / 2_000)  # so that nothing clicks where it ends
        line[start : start + len(at)] += np.interp(at, np.arange(len(sound)), sound) * fade
    out = io.BytesIO()
    soundfile.write(out, line / np.abs(line).max() * 0.7, 44_100, format="WAV")
    return out.getvalue()


def on_recording(client: TestClient, sound: bytes, **basics: object) -> str:
    recording = bring(client, f"{uuid4().hex}.wav", sound).json()["recording"]["id"]
    given = {"tempo_bpm": 120, "bar_one_s": 0.5, "last_bar": 4} | basics
    return started(client, recording_id=recording, basics=given)


def listen(client: TestClient, solo: str, **span: object) -> dict:
    asked = client.post(f"/api/solos/{solo}/listen", json=SPAN | span)
    assert asked.status_code == 200, asked.text
    if asked.json()["state"] != "done":
        work(workspace_of(client), UUID(asked.json()["id"]))
    found: dict = client.get(f"/api/estimates/{asked.json()['id']}").json()
    return found


def offers(client: TestClient, solo: str, **more: object) -> dict:
    answer = client.post(f"/api/solos/{solo}/offers", json=SPAN | more)
    assert answer.status_code == 200, answer.text
    found: dict = answer.json()
    return found


@pytest.fixture
def heard(client: TestClient) -> str:
    """A solo on a recording in which four notes were heard, the second of them bent by a whole step."""
    solo = on_recording(client, wav(4.0, channels=1))
    keep_heard_notes(client, solo, SPAN, [(0.5, 69, None), (1.0, 71, 200.0), (1.5, 72, None), (2.0, 74, None)])
    return solo


def test_a_line_is_heard_offered_taken_and_undone_as_one_edit(client: TestClient) -> None:
    solo = on_recording(client, played_line(64, 67, 69, 71))
    assert "4 notes heard" in listen(client, solo)["found"]["sentence"]
    found = offers(client, solo)["offers"]
    assert [(one["midi"], one["note"]["tick"]) for one in found] == [
        (64, 0),
        (67, QUARTER),
        (69, 2 * QUARTER),
        (71, 3 * QUARTER),
    ]
    answer = client.post(f"/api/solos/{solo}/offers/taken", json=SPAN | {"numbers": [one["number"] for one in found]})
    assert answer.status_code == 200, answer.text
    bench = opened(client, solo)
    assert [n["ticks"] for n in bench["solo"]["notes"]][:3] == [QUARTER] * 3 and bench["history"][
        "undo"
    ] == "take 4 offers"
    assert all(
        n["heard"]["onset_s"] == pytest.approx(0.5 + i / 2, abs=0.02) for i, n in enumerate(bench["solo"]["notes"])
    )
    assert offers(client, solo)["offers"] == []  # it is written as it is heard
    assert client.post(f"/api/solos/{solo}/undo", json={"versions": bench["versions"]}).status_code == 200
    assert opened(client, solo)["solo"]["notes"] == [] and len(offers(client, solo)["offers"]) == 4


def test_asking_again_finds_what_is_kept_with_the_hints_of_the_span(client: TestClient, heard: str) -> None:
    hints = {"texture": "one line", "lowest": 52}
    listen(client, heard, hints=hints)
    kept = client.get(f"/api/solos/{heard}/hints", params={"start": 0, "end": 4 * QUARTER}).json()
    assert (kept["texture"], kept["lowest"]) == ("one line", 52)
    again = client.post(f"/api/solos/{heard}/listen", json=SPAN | {"hints": hints}).json()
    assert again["state"] == "done"  # no worker was needed
    part = client.get(f"/api/solos/{heard}/hints", params={"start": QUARTER, "end": 3 * QUARTER}).json()
    assert part["texture"] == "one line"
    elsewhere = client.get(f"/api/solos/{heard}/hints", params={"start": 40 * QUARTER, "end": 44 * QUARTER}).json()
    assert elsewhere is None  # nothing was heard there


def test_offers_of_what_was_not_listened_to_say_so(client: TestClient, heard: str) -> None:
    answer = client.post(f"/api/solos/{heard}/offers", json=SPAN | {"end": 3 * QUARTER})
    assert answer.status_code == 404 and "listen again" in answer.json()["title"]
    outside = client.post(f"/api/solos/{heard}/listen", json={"start": 60 * QUARTER, "end": 64 * QUARTER})
    assert outside.status_code == 404 and "outside the recording" in outside.json()["title"]
    without = started(client)
    assert client.post(f"/api/solos/{without}/listen", json=SPAN).status_code == 404


def test_no_note_here_is_remembered_for_every_solo_of_the_recording(client: TestClient, heard: str) -> None:
    number = offers(client, heard)["offers"][0]["number"]
    body = SPAN | {"number": number, "id": str(uuid4())}
    for _ in range(2):  # said twice it is the same
        left = client.post(f"/api/solos/{heard}/offers/no-note", json=body).json()
    assert [one["midi"] for one in left["offers"]] == [71, 72, 74] and left["left_out"] == 1
    assert [one["midi"] for one in offers(client, heard)["offers"]] == [71, 72, 74]
    again = client.post(f"/api/solos/{heard}/offers/all-again", json=SPAN).json()
    assert len(again["offers"]) == 4 and again["left_out"] == 0


def test_another_pitch_and_a_slide_for_a_bend_are_written_as_put_right(client: TestClient, heard: str) -> None:
    mends = [{"number": 0, "midi": 64}, {"number": 1, "moving": "slide"}]
    found = offers(client, heard, mends=mends)["offers"]
    assert [one["midi"] for one in found] == [64, 71, 73, 72, 74]
    taken = client.post(f"/api/solos/{heard}/offers/taken", json=SPAN | {"mends": mends, "numbers": [0, 1]})
    assert taken.status_code == 200, taken.text
    notes = opened(client, heard)["solo"]["notes"]
    assert [n["attack"]["kind"] for n in notes] == ["picked", "picked", "slide"]
    assert notes[1]["string"] == notes[2]["string"] and notes[2]["fret"] - notes[1]["fret"] == 200


def test_nothing_written_is_replaced_and_anothers_edit_meanwhile_stays(client: TestClient, heard: str) -> None:
    found = offers(client, heard)["offers"]
    bench = opened(client, heard)
    first = found[0]["note"]
    write(
        client, bench, note("theirs", 0, string=first["string"], fret=3)
    )  # another person, since the offers were seen
    taken = client.post(f"/api/solos/{heard}/offers/taken", json=SPAN | {"numbers": [one["number"] for one in found]})
    assert taken.status_code == 200
    notes = {n["id"]: n for n in opened(client, heard)["solo"]["notes"]}
    assert notes["theirs"]["fret"] == 300 and len(notes) >= 4
    blocked = [n for n in notes.values() if n["tick"] == 0 and n["id"] != "theirs"]
    assert all(n["string"] != first["string"] for n in blocked)


def test_a_written_bend_takes_size_and_timing_from_what_is_heard(client: TestClient, heard: str) -> None:
    bench = opened(client, heard)
    write(client, bench, note("bent", QUARTER, string=3, fret=16, course=[[0, 0], [5_040, 2]]))
    answer = client.post(f"/api/solos/{heard}/bend-as-heard", json=SPAN | {"note": "bent"})
    assert answer.status_code == 200, answer.text
    (bent,) = opened(client, heard)["solo"]["notes"]
    assert bent["course"] == [[0, 0], [1_008, 0], [4_032, 4]]
    plain = note("plain", 0, string=2, fret=10)
    write(client, bench | {"versions": opened(client, heard)["versions"]}, plain)
    none = client.post(f"/api/solos/{heard}/bend-as-heard", json=SPAN | {"note": "plain"})
    assert none.status_code == 404 and "No bend is heard" in none.json()["title"]


def test_corrections_are_kept_only_when_wanted_and_as_they_stand_now(client: TestClient, heard: str) -> None:
    assert client.get("/api/corrections").json() == {"keeps": None}
    listen(client, heard)
    numbers = {"numbers": [one["number"] for one in offers(client, heard)["offers"]]}
    client.post(f"/api/solos/{heard}/offers/taken", json=SPAN | numbers)
    workspace = workspace_of(client)
    assert list(corrected(workspace)) == []
    assert client.put("/api/corrections", json={"keeps": True}).json() == {"keeps": True}
    bench = opened(client, heard)
    client.post(f"/api/solos/{heard}/undo", json={"versions": bench["versions"]})
    client.post(f"/api/solos/{heard}/offers/taken", json=SPAN | numbers)
    bench = opened(client, heard)
    own = bench["solo"]["notes"][0]
    changed = own | {"ticks": 2_520}
    assert (
        send(client, bench, edit(bench, {"kind": "note", "id": own["id"], "before": own, "after": changed})).status_code
        == 200
    )
    (one,) = corrected(workspace)
    document = read_document(one.document)
    assert document.solo.notes[0].ticks == 2_520 and document.recording is not None and one.sound is not None


def test_what_is_heard_of_a_new_recording_is_asked_once_and_kept(client: TestClient) -> None:
    known = band(5_300, 24.0)
    out = io.BytesIO()
    soundfile.write(out, known.sound, 48_000, format="WAV")
    recording = bring(client, "band.wav", out.getvalue()).json()["recording"]["id"]
    asked = client.post(f"/api/recordings/{recording}/first-look").json()
    assert [one["kind"] for one in asked] == list(KINDS)
    assert [one["id"] for one in client.post(f"/api/recordings/{recording}/first-look").json()] == [
        one["id"] for one in asked
    ]
    for one in asked:
        work(workspace_of(client), UUID(one["id"]))
    beats, offset, swing, chords = client.post(f"/api/recordings/{recording}/first-look").json()
    bpm = 60 / float(np.median(np.diff(known.beats)))
    assert beats["found"]["paces"][0]["bpm"] == pytest.approx(bpm, rel=0.02)
    assert offset["found"]["cents"] == pytest.approx(0, abs=6) and swing["found"]["ratio"] >= 1
    assert chords["found"]["text"].startswith("|")
    missing = client.post(f"/api/recordings/{uuid4()}/first-look")
    assert missing.status_code == 404
