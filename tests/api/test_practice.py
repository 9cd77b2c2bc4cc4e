"""Teaching through the api: the plan and remarks as edits, what is practised with, handouts, loop packs."""

from __future__ import annotations

import io
import json
import wave
import zipfile
from typing import Any
from uuid import UUID

import numpy as np
import pypdfium2
import pytest
import soundfile
from fastapi.testclient import TestClient

from asking import QUARTER, bring, edit, note, opened, send, started, wav, write
from usagi.core.audio import RATE_HZ
from usagi.flows.setup.estimates import work
from usagi.flows.workspace import Workspace

PHRASE = {"kind": "phrase", "phrase": "p"}


@pytest.fixture
def solo(client: TestClient) -> str:
    """Eight quarter notes at 120, a phrase over bar 1, a phrase over bar 2."""
    solo_id = started(client)
    bench = opened(client, solo_id)
    write(client, bench, *[note(f"n{i}", i * QUARTER, fret=5 + i % 3) for i in range(8)])
    for i, name in enumerate(("up", "down")):
        phrase = {"id": "pq"[i], "start": 4 * i * QUARTER, "end": 4 * (i + 1) * QUARTER, "name": name}
        send(client, bench, edit(bench, {"kind": "phrase", "id": phrase["id"], "after": phrase}))
    return solo_id


def plan(client: TestClient, solo: str) -> Any:
    return client.get(f"/api/solos/{solo}/plan").json()


def post(client: TestClient, solo: str, path: str, body: Any, status: int = 200) -> Any:
    answer = client.post(f"/api/solos/{solo}/{path}", json=body)
    assert answer.status_code == status, answer.text
    return answer.json()


def keys(client: TestClient, solo: str) -> list[str]:
    return [line["key"] for line in plan(client, solo)["lines"]]


def frames(data: bytes) -> tuple[int, np.ndarray]:
    with wave.open(io.BytesIO(data)) as file:
        sound = np.frombuffer(file.readframes(file.getnframes()), "<i2").reshape(-1, file.getnchannels())
    return len(sound), sound.astype(float) / 32_768


# -- the plan and remarks -----------------------------------------------------------------------------------------------


def test_the_plan_is_changed_and_every_change_can_be_undone(client: TestClient, solo: str) -> None:
    first = plan(client, solo)
    assert keys(client, solo) == ["whole", "phrase:p", "joined:p", "phrase:q"]
    post(client, solo, "plan/line", {"what": PHRASE, "start": 300, "goal": 600, "passes": 2, "level": 5})
    post(client, solo, "plan/groups", {"start": QUARTER, "end": 3 * QUARTER})
    post(client, solo, "plan/moved", {"what": PHRASE, "by": -2})
    post(client, solo, "plan/left-out", {"what": {"kind": "whole"}})
    now = plan(client, solo)
    assert keys(client, solo)[0] == "phrase:p" and "group:10080-30240" in keys(client, solo)
    line = now["lines"][0]
    assert (line["level"], line["passes"], [step["percent"] for step in line["steps"]]) == (
        5,
        2,
        ["30", "40", "50", "60"],
    )
    assert [one["key"] for one in now["left_out"]] == ["whole"]
    for _ in range(4):
        post(client, solo, "undo", {"versions": {}})
    assert plan(client, solo) == first


def test_what_the_plan_cannot_be_is_refused_in_words(client: TestClient, solo: str) -> None:
    refused = post(client, solo, "plan/line", {"what": {"kind": "phrase", "phrase": "gone"}, "level": 2}, 422)
    assert refused["code"] == "plan-impossible" and "no such line" in refused["title"]
    assert (
        "starts at its goal"
        in post(client, solo, "plan/line", {"what": PHRASE, "start": 900, "goal": 500}, 422)["title"]
    )
    assert post(client, solo, "plan/groups", {"start": 50 * QUARTER, "end": 51 * QUARTER}, 404)["code"] == "not-there"
    assert client.get(f"/api/solos/{solo}/practice", params={"line": "phrase:gone"}).status_code == 422
    assert "below it" in post(client, solo, "plan/settings", {"start": 900, "goal": 500}, 422)["title"]


def test_a_remark_with_a_second_way_travels_with_the_document(client: TestClient, solo: str) -> None:
    bench = opened(client, solo)
    bent = next(one for one in bench["solo"]["notes"] if one["id"] == "n2")
    change = {"kind": "note", "id": "n2", "before": bent, "after": bent | {"course": [[0, 0], [5_040, 4]]}}
    assert send(client, bench, edit(bench, change)).status_code == 200
    ways = client.get(f"/api/solos/{solo}/second-ways", params={"start": 0, "end": 4 * QUARTER}).json()
    slid = next(way for way in ways if way["words"] == "slide instead of the bend")
    post(client, solo, "remarks", {"on": PHRASE, "words": "If it is too far, slide.", "second": slid["notes"]})
    post(client, solo, "remarks", {"on": {"kind": "bar", "bar": 2}, "words": "Count."})
    found = plan(client, solo)["remarks"]
    assert [(one["place"], one["words"]) for one in found] == [
        ("phrase a", "If it is too far, slide."),
        ("bar 2", "Count."),
    ]
    assert [one["fret"] for one in found[0]["second"]["notes"]] == ["5", "6", "7", "9", "5"]
    document = client.get(f"/api/solos/{solo}/document.json").content
    again = client.post("/api/documents", files={"file": ("solo.json", document)}).json()["solo_id"]
    assert client.get(f"/api/solos/{again}/document.json").content == document
    assert [one["words"] for one in plan(client, again)["remarks"]] == ["If it is too far, slide.", "Count."]
    post(client, solo, "remarks/deleted", {"id": found[1]["id"]})
    assert len(plan(client, solo)["remarks"]) == 1
    assert post(client, solo, "remarks/deleted", {"id": found[1]["id"]}, 404)["code"] == "not-there"


def test_documents_and_edits_of_the_schema_before_are_read(client: TestClient, solo: str) -> None:
    """What remarks and the plan brought has defaults; a document and a waiting edit of schema 5 know nothing of it."""
    tree = json.loads(client.get(f"/api/solos/{solo}/document.json").content)
    for name in ("remarks", "plan"):
        del tree["solo"][name]
    del tree["solo"]["settings"]["practice"]
    old = json.dumps(tree | {"schema": 5}).encode()
    again = client.post("/api/documents", files={"file": ("old.json", old)}).json()["solo_id"]
    assert keys(client, again) == keys(client, solo)
    bench = opened(client, again)
    waiting = edit(bench, {"kind": "note", "id": "late", "after": note("late", 20 * QUARTER)}) | {"schema": 5}
    assert send(client, bench, waiting).status_code == 200


# -- what is practised with ---------------------------------------------------------------------------------------------


def practised(client: TestClient, solo: str, **query: Any) -> tuple[int, np.ndarray]:
    view = client.get(f"/api/solos/{solo}/practice", params={"line": "phrase:p"}).json()
    asked = {"start": view["start"], "end": view["end"], "loop": True, "recording": 0} | query
    answer = client.get(f"/api/solos/{solo}/practice/piece", params=asked)
    assert answer.status_code == 200, answer.text
    return frames(answer.content)


@pytest.mark.parametrize("speed", [250, 600, 1_000])
def test_every_layer_is_exactly_as_long_as_the_loop(client: TestClient, solo: str, speed: int) -> None:
    bar = round(2 * RATE_HZ * 1_000 / speed)
    for layer in ({"voice": 1}, {"vamp": 1}, {"count": "clicks"}, {"count": "spoken"}, {"voice": 1, "vamp": 0.5}):
        length, sound = practised(client, solo, speed=speed, **layer)
        assert abs(length - bar) <= 1 and np.abs(sound).max() > 0.02, layer


def test_levels_and_keys_do_what_they_say(client: TestClient, solo: str) -> None:
    _, loud = practised(client, solo, voice=0.6)
    _, soft = practised(client, solo, voice=0.3)
    np.testing.assert_allclose(soft, loud / 2, atol=2e-4)
    _, silent = practised(client, solo)
    assert not silent.any()
    low, high = (np.abs(np.fft.rfft(practised(client, solo, voice=1, key=key)[1][:, 0])) for key in (0, 7))
    ratio = np.argmax(high[:20_000]) / np.argmax(low[:20_000])
    assert 1.0 < ratio < 2.0 and low.argmax() != high.argmax()
    refused = client.get(f"/api/solos/{solo}/practice/piece", params={"start": 0, "end": 9, "vamp": 1, "over": "H7"})
    assert refused.status_code == 422 and refused.json()["code"] == "chord-unreadable"


def test_a_recording_is_moved_two_half_steps_and_is_silent_beyond(client: TestClient) -> None:
    recording = bring(client, "tone.wav", wav(3.0, channels=1)).json()["recording"]["id"]
    solo = started(client, recording_id=recording)
    write(client, opened(client, solo), note("n", 0))

    def peak(key: int) -> float:
        asked = {"start": 0, "end": RATE_HZ, "recording": 1, "key": key}
        answer = client.get(f"/api/solos/{solo}/practice/piece", params=asked)
        _, sound = frames(answer.content)
        spectrum = np.abs(np.fft.rfft(sound[:, 0]))
        return float(spectrum.argmax()) * RATE_HZ / len(sound) if spectrum.max() > 1 else 0.0

    assert peak(0) == pytest.approx(220, abs=2) and peak(2) == pytest.approx(246.9, abs=2) and peak(3) == 0.0


def test_the_page_to_play_from_has_its_notes_chords_and_remarks(client: TestClient, solo: str) -> None:
    post(client, solo, "remarks", {"on": PHRASE, "words": "Softly."})
    view = client.get(f"/api/solos/{solo}/practice", params={"line": "phrase:p", "around": True}).json()
    assert (view["tune"], view["line"]["name"], view["recorded"]) == ("Tin Roof", "a · up", False)
    assert view["tick"] == -2 * QUARTER and view["end"] - view["start"] == 4 * RATE_HZ  # two bars, half of them around
    assert [one["second"] for one in view["notes"][:3]] == [0.0, 0.5, 1.0] and view["notes"][0]["chord"] == "Am7"
    assert [one["words"] for one in view["remarks"]] == ["Softly."]
    assert [one["key"] for one in view["lines"]] == ["whole", "phrase:p", "joined:p", "phrase:q"]


# -- handouts and packs -------------------------------------------------------------------------------------------------


def test_a_handout_is_the_same_on_the_page_and_in_the_pdf(client: TestClient, solo: str) -> None:
    query: dict[str, str | bool] = {"paper": "letter", "large": True}
    sheet = client.get(f"/api/solos/{solo}/handout", params=query).json()
    answer = client.get(f"/api/solos/{solo}/handout.pdf", params=query)
    assert answer.headers["content-type"] == "application/pdf"
    pdf = pypdfium2.PdfDocument(answer.content)
    assert len(pdf) == len(sheet["pages"])
    for page, laid in zip(pdf, sheet["pages"], strict=True):
        read = page.get_textpage().get_text_range()
        assert all(mark["text"] in read for mark in laid["marks"] if mark["kind"] == "text")
    empty = started(client, title="nothing")
    assert client.get(f"/api/solos/{empty}/handout.pdf").status_code == 404


def test_a_lick_makes_a_sheet_of_one_page(client: TestClient, solo: str) -> None:
    sheet = client.get("/api/licks/handout", params={"solo": solo, "first": "n0", "last": "n3"}).json()
    assert len(sheet["pages"]) == 1 and not any(entry["title"] == "Plan" for entry in sheet["outline"])
    texts = [mark["text"] for mark in sheet["pages"][0]["marks"] if mark["kind"] == "text"]
    assert "A lick" in texts and "Am7" in texts


@pytest.mark.parametrize("kind", ["flac", "opus", "mp3", "wav"])
def test_a_loop_pack_is_files_that_sort_and_open_again(
    client: TestClient, workspace: Workspace, solo: str, kind: str
) -> None:
    body = {"line": "phrase:p", "format": kind, "passes": 2, "recording": 0, "voice": 1, "vamp": 0.8, "count": "clicks"}
    asked = post(client, solo, "loop-packs", body)
    assert asked["state"] == "waiting" and client.get(f"/api/loop-packs/{asked['id']}/file").status_code == 404
    work(workspace, UUID(asked["id"]))
    done = client.get(f"/api/estimates/{asked['id']}").json()
    assert (done["state"], done["found"]["sentence"]) == ("done", "6 files made.")
    answer = client.get(f"/api/loop-packs/{asked['id']}/file")
    with zipfile.ZipFile(io.BytesIO(answer.content)) as archive:
        names = archive.namelist()
        files = sorted(name for name in names if name.endswith(kind))
        assert [name[:2] for name in files] == ["01", "02", "03", "04", "05", "06"] and len(names) == 8
        cue = archive.read("00 passes.cue").decode()
        assert cue.count("INDEX 02") == 6 and f'FILE "{files[0]}"' in cue
        assert "depends on your local law" in archive.read("00 read me.txt").decode()
        for name, percent in zip(files, (50, 60, 70, 80, 90, 100), strict=True):
            with soundfile.SoundFile(io.BytesIO(archive.read(name))) as file:
                bars = 3 * 2.0 * 100 / percent - 0.03 * 100 / percent  # one counted, two passes, less the lead
                assert file.frames / file.samplerate == pytest.approx(bars, abs=0.03)
                title = f"a · up, {percent} %"
                assert file.title == (title.replace("·", "-") if kind == "mp3" else title)
                assert file.artist == "Ada Moor"
                assert np.abs(file.read()).max() > 0.05


def test_a_span_is_sound_at_any_speeds_with_a_cue_sheet_of_its_passes(
    client: TestClient, workspace: Workspace, solo: str
) -> None:
    """One bar counted, then one bar twice: a second at full speed is four quarter notes of half a second."""
    body = {"span": [0, 40_320], "speeds": [1_000, 500], "passes": 2, "format": "wav", "recording": 0, "voice": 1}
    asked = post(client, solo, "loop-packs", body)
    work(workspace, UUID(asked["id"]))
    answer = client.get(f"/api/loop-packs/{asked['id']}/file")
    with zipfile.ZipFile(io.BytesIO(answer.content)) as archive:
        names = archive.namelist()
        assert [name for name in names if name.endswith("wav")] == [
            "01 bar 1 100 percent 120 bpm.wav",
            "02 bar 1 50 percent 60 bpm.wav",
        ]
        lines = [line.strip() for line in archive.read("00 passes.cue").decode().splitlines()]
        assert [line for line in lines if line.startswith("INDEX")] == [
            "INDEX 00 00:00:00", "INDEX 01 00:01:73", "INDEX 02 00:03:73", "INDEX 00 00:00:00", "INDEX 01 00:03:71", "INDEX 02 00:07:71",
        ]  # fmt: skip
    outside = post(client, solo, "loop-packs", {"span": [-90_000, -80_000], "recording": 0, "voice": 1}, 422)
    assert "outside the bars" in outside["title"]


def test_a_pack_that_would_be_silent_or_endless_is_refused(client: TestClient, solo: str) -> None:
    silent = post(client, solo, "loop-packs", {"recording": 0}, 422)
    assert silent["code"] == "pack-impossible" and "Nothing would be heard" in silent["title"]
    post(client, solo, "plan/settings", {"start": 250, "goal": 1_000, "step": 10, "passes": 50})
    assert "minutes of sound" in post(client, solo, "loop-packs", {"voice": 1}, 422)["title"]
