"""A solo checked through the api: heard by a worker, its findings mended, waived and taken up again."""

from __future__ import annotations

import io
from uuid import UUID, uuid4

import numpy as np
import pytest
import soundfile
from fastapi.testclient import TestClient

from api.test_listening import on_recording, played_line
from asking import QUARTER, note, opened, started, workspace_of, write
from usagi.cli.demo import PUPIL, SLIPS, seed
from usagi.flows.listening import hearing
from usagi.flows.setup.estimates import work
from usagi.flows.workspace import Workspace

PLAYED = (64, 67, 69, 71, 72, 71, 69, 67)
WRITTEN = (64, 67, 68, 71, 72, 71, 69, 67)  # the third a half step lower than it is played


@pytest.fixture(scope="module")
def sound() -> bytes:
    return played_line(*PLAYED)


def solo_on(client: TestClient, sound: bytes, *midi: int) -> str:
    solo = on_recording(client, sound, last_bar=2)
    notes = [note(f"n{k}", k * QUARTER, 1, pitch - 64) for k, pitch in enumerate(midi)]
    write(client, opened(client, solo), *notes)
    return solo


def listen(client: TestClient, solo: str, **hints: object) -> dict:
    asked = client.post(f"/api/solos/{solo}/check/listen", json={"hints": hints})
    assert asked.status_code == 200, asked.text
    work(workspace_of(client), UUID(asked.json()["id"]))
    found: dict = client.get(f"/api/estimates/{asked.json()['id']}").json()
    return found


def check(client: TestClient, solo: str) -> dict:
    answer = client.get(f"/api/solos/{solo}/check")
    assert answer.status_code == 200, answer.text
    found: dict = answer.json()
    return found


def test_a_solo_is_listened_to_checked_mended_and_done(client: TestClient, sound: bytes) -> None:
    solo = solo_on(client, sound, *WRITTEN)
    before = check(client, solo)
    assert before["findings"] == [] and before["listened"] == 0 and before["done"] == 0
    assert listen(client, solo)["state"] == "done"
    (finding,) = check(client, solo)["findings"]
    assert finding["says"] == "heard a half step higher than written" and finding["title"] == "Bar 1, string 1, fret 4"
    close = client.post(f"/api/solos/{solo}/check/closer", json={"finding": finding["id"]}).json()
    assert [line["label"] for line in close["lines"]] == ["4", "5"] and close["heard"] and close["written"]
    mended = client.post(f"/api/solos/{solo}/check/mended", json={"finding": finding["id"]})
    assert mended.status_code == 200 and [one["label"] for one in mended.json()["edits"]] == ["write what is heard"]
    after = check(client, solo)
    assert after["findings"] == [] and after["done"] == 1.0 and after["sentence"] == "Nothing to mend."
    again = client.post(f"/api/solos/{solo}/check/mended", json={"finding": finding["id"]})
    assert again.status_code == 404 and "look at the list again" in again.json()["title"]


def test_the_demo_has_a_solo_with_three_findings(client: TestClient, workspace: Workspace) -> None:
    seed(workspace)
    rows = {row["title"]: row["id"] for row in client.get("/api/shelf").json()["solos"]}
    solo = rows[f"{PUPIL}, {SLIPS}"]
    listen(client, solo, company="with a band")
    findings = [one for one in check(client, solo)["findings"] if one["band"] != "guess"]
    slips = {("bar 1", "bend"), ("bar 3", "pitch"), ("bar 5", "not written")}
    assert slips <= {(one["bar"], one["kind"]) for one in findings} and len(findings) <= 6
    said = {one["kind"]: one["says"] for one in findings if (one["bar"], one["kind"]) in slips}
    assert said["bend"].endswith("a half step is written") and said["pitch"] == "heard a half step higher than written"


def test_what_is_kept_is_not_heard_again(client: TestClient, sound: bytes, monkeypatch: pytest.MonkeyPatch) -> None:
    solo = solo_on(client, sound, *WRITTEN)
    heard: list[int] = []
    listened = hearing.heard_in
    monkeypatch.setattr(hearing, "heard_in", lambda *given: (heard.append(1), listened(*given))[1])
    first = listen(client, solo)["found"]
    assert len(heard) == 1 and listen(client, solo)["found"] == first and len(heard) == 1
    listen(client, solo, company="with a band")
    assert len(heard) == 2  # with another hint it may be heard otherwise


def test_a_finding_is_waived_with_a_reason_and_taken_up_again(client: TestClient, sound: bytes) -> None:
    solo = solo_on(client, sound, *WRITTEN)
    listen(client, solo)
    (finding,) = check(client, solo)["findings"]
    body = {"finding": finding["id"], "reason": "he bends the neck"}
    assert client.post(f"/api/solos/{solo}/check/waived", json=body).status_code == 200
    checked = check(client, solo)
    (waived,) = checked["waived"]
    assert checked["findings"] == [] and waived["reason"] == "he bends the neck" and checked["done"] == 1.0
    taken = client.post(f"/api/solos/{solo}/check/taken-up", json={"waiver": waived["waiver"]})
    assert taken.status_code == 200 and len(check(client, solo)["findings"]) == 1
    gone = client.post(f"/api/solos/{solo}/check/taken-up", json={"waiver": waived["waiver"]})
    assert gone.status_code == 404
    undone = client.post(
        f"/api/solos/{solo}/undo", json={"versions": opened(client, solo)["versions"], "id": str(uuid4())}
    )
    assert undone.status_code == 200, undone.text


def test_a_chord_that_the_sound_contradicts_is_told_and_written_as_it_sounds(client: TestClient) -> None:
    t = np.arange(round(4.6 * 44_100)) / 44_100
    line = np.zeros(len(t))
    for at, notes in ((0.5, (43, 55, 59, 62, 67)), (2.5, (38, 54, 57, 60, 66))):  # G, then D7
        for midi in notes:
            hz = 440 * 2 ** ((midi - 69) / 12)
            own = sum(np.sin(2 * np.pi * hz * k * t) / k for k in range(1, 5)) * ((t >= at) & (t < at + 1.95))
            line += 0.08 * own
    out = io.BytesIO()
    soundfile.write(out, line, 44_100, format="WAV")
    solo = on_recording(client, out.getvalue(), last_bar=2)  # on the chart | Am7 | D7 |
    listen(client, solo, company="with a band")
    (finding,) = [one for one in check(client, solo)["findings"] if one["kind"] == "chord"]
    assert finding["says"] == "sounds like G; the chart has Am7" and finding["mend"] == "Write G here"
    answer = client.post(f"/api/solos/{solo}/check/mended", json={"finding": finding["id"]})
    assert answer.status_code == 200, answer.text
    assert [chord["shown"] for chord in opened(client, solo)["strip"]["chords"]][:2] == ["G", "D7"]
    assert not [one for one in check(client, solo)["findings"] if one["kind"] == "chord"]


def test_what_is_said_to_be_no_note_is_not_missed_in_the_writing(client: TestClient, sound: bytes) -> None:
    solo = solo_on(client, sound, *PLAYED[:7])
    listen(client, solo)
    findings = {one["kind"]: one for one in check(client, solo)["findings"]}
    assert "G4 is heard and not written" in findings["not written"]["says"]
    span = {"start": 4 * QUARTER, "end": 8 * QUARTER, "hints": {}}
    asked = client.post(f"/api/solos/{solo}/listen", json=span).json()
    work(workspace_of(client), UUID(asked["id"]))
    (offer,) = client.post(f"/api/solos/{solo}/offers", json=span).json()["offers"]
    refused = {"number": offer["number"], "id": str(uuid4())}
    assert client.post(f"/api/solos/{solo}/offers/no-note", json=span | refused).status_code == 200
    assert [one["kind"] for one in check(client, solo)["findings"]] == ["bar"]


@pytest.mark.parametrize("permille", [1_000, 500])
def test_recording_and_writing_sound_in_turns_bar_by_bar(client: TestClient, sound: bytes, permille: int) -> None:
    solo = solo_on(client, sound, *WRITTEN)

    def piece(hear: str, end: int = 216_000, **more: object) -> np.ndarray:
        asked = {"start": 24_000, "end": end, "hear": hear, "speed": permille} | more
        answer = client.get(f"/api/solos/{solo}/piece", params=asked)  # type: ignore[arg-type]
        assert answer.status_code == 200, answer.text
        return soundfile.read(io.BytesIO(answer.content), always_2d=True)[0][:, 0]

    bar = 96_000 * 1_000 // permille
    turns, recording, writing = piece("turns"), piece("recording"), piece("writing")
    one, two = slice(2_000, bar - 2_000), slice(bar + 2_000, 2 * bar - 2_000)
    assert np.abs(turns[one] - recording[one]).max() < 0.01 and np.abs(turns[two] - writing[two]).max() < 0.01
    assert np.abs(recording[two] - writing[two]).max() > 0.05
    both = piece("together")
    assert np.abs(both - 0.7 * (recording + writing)).mean() < 0.02
    beats = piece("turns", 120_000, loop=True)  # one bar alone goes beat by beat
    beat = bar // 4
    own, other = piece("writing", 120_000, loop=True), piece("recording", 120_000, loop=True)
    assert np.abs(beats[2_000 : beat - 2_000] - other[2_000 : beat - 2_000]).max() < 0.01
    assert np.abs(beats[beat + 2_000 : 2 * beat - 2_000] - own[beat + 2_000 : 2 * beat - 2_000]).max() < 0.01


def test_without_a_recording_the_writing_is_held_against_itself(client: TestClient) -> None:
    solo = started(client)
    write(client, opened(client, solo), note("n", 0, ticks=2 * QUARTER))
    (finding,) = check(client, solo)["findings"]
    assert finding["says"] == "holds 2 of 4 beats" and finding["bar"] == "bar 1"
    refused = client.post(f"/api/solos/{solo}/check/listen", json={})
    assert refused.status_code == 404 and "no recording here" in refused.json()["title"]


def test_the_shelf_says_what_is_open_until_something_changes(client: TestClient, sound: bytes) -> None:
    solo = solo_on(client, sound, *WRITTEN)

    def row() -> dict:
        found: dict = next(one for one in client.get("/api/shelf").json()["solos"] if one["id"] == solo)
        return found

    assert row()["check"] is None
    listen(client, solo)
    check(client, solo)
    assert row()["check"] == {"open": 1, "done": 0.5}
    bench = opened(client, solo)
    write(client, bench, note("n9", 7 * QUARTER, 2, 5))
    assert row()["check"] is None
