"""A solo read through the api: phrases told, readings picked, roles given, other changes laid, reasons asked."""

from __future__ import annotations

import io

import numpy as np
import soundfile
from fastapi.testclient import TestClient

from asking import edit, note, opened, send, started, write
from usagi.cli.demo import seed
from usagi.core.meter.ticks import EIGHTH
from usagi.flows.workspace import Workspace

LINE = ((2, 8), (2, 7), (2, 8), (2, 10), (1, 7), (1, 8), (1, 7), (1, 8))  # G F# G A B C B C


def phrased(client: TestClient) -> str:
    solo = started(client, chart="| {key G major} G | D7 |")
    bench = opened(client, solo)
    notes = [note(f"n{i}", i * EIGHTH, string, fret) | {"ticks": EIGHTH} for i, (string, fret) in enumerate(LINE)]
    write(client, bench, *notes)
    phrase = {"id": "p", "start": 0, "end": 8 * EIGHTH, "name": "the climb"}
    assert send(client, bench, edit(bench, {"kind": "phrase", "id": "p", "after": phrase})).status_code == 200
    return solo


def read(client: TestClient, solo: str) -> dict:
    answer = client.get(f"/api/solos/{solo}/analysis")
    assert answer.status_code == 200, answer.text
    found: dict = answer.json()
    return found


def posted(client: TestClient, solo: str, what: str, **body: object) -> dict:
    answer = client.post(f"/api/solos/{solo}/analysis/{what}", json=body)
    assert answer.status_code == 200, answer.text
    found: dict = answer.json()
    return found


def test_a_phrase_is_told_and_its_notes_lead_somewhere(client: TestClient) -> None:
    solo = phrased(client)
    (phrase,) = read(client, solo)["phrases"]
    assert (
        phrase["name"] == "the climb"
        and phrase["motion"] == "I to V7"
        and phrase["says"].startswith("Bar 1, over I to V7.")
    )
    paths = [(path["kind"], path["goal"], path["says"]) for path in read(client, solo)["paths"]]
    assert ("approach", "n2", "lower neighbour of the 1") in paths and ("passing", "n4", "passes up to the 3") in paths


def test_a_reading_is_picked_in_the_place_of_one_of_its_kind_and_let_go(client: TestClient) -> None:
    solo = phrased(client)
    scales = [one["key"] for one in read(client, solo)["phrases"][0]["readings"] if one["kind"] == "scale"]
    for key in scales[:2]:
        posted(client, solo, "picked", phrase="p", reading=key)
    now = read(client, solo)
    assert [one["key"] for one in now["phrases"][0]["readings"] if one["picked"]] == [scales[1]]
    assert opened(client, solo)["progress"]["analysis"] == 1
    choices = opened(client, solo)["solo"]["choices"]
    assert [one["reading"] for one in choices if one["kind"] == "reading"] == [scales[1]]
    posted(client, solo, "picked", phrase="p", reading=scales[1], on=False)
    assert not any(one["picked"] for one in read(client, solo)["phrases"][0]["readings"])


def test_the_teachers_words_stand_beside_the_programs_once_that_tells_it_otherwise(client: TestClient) -> None:
    solo = phrased(client)
    posted(client, solo, "words", phrase="p", words="Up to the third, and stay.")
    (phrase,) = read(client, solo)["phrases"]
    assert phrase["words"] == "Up to the third, and stay." and not phrase["outdated"]
    write(client, opened(client, solo), note("n8", 7 * EIGHTH + 2_520, 3, 5))
    assert read(client, solo)["phrases"][0]["outdated"]
    posted(client, solo, "words", phrase="p")
    assert read(client, solo)["phrases"][0]["words"] == ""


def test_a_role_is_given_over_the_computed_one_which_stays_in_sight(client: TestClient) -> None:
    solo = phrased(client)
    answer = posted(client, solo, "role", note="n1", role="outside")
    assert answer["views"]["n1"]["shape"] == "outside"
    facts = [fact["says"] for fact in client.get(f"/api/solos/{solo}/analysis/why?note=n1").json()["facts"]]
    assert "A step away from a core tone and back is a neighbour of it." in facts
    assert facts[-1] == "You call it: outside."
    client.post(f"/api/solos/{solo}/undo", json={"versions": {}})
    assert client.get(f"/api/solos/{solo}/analysis/why?note=n1").json()["facts"][-1]["says"] == facts[-2]


def test_why_is_a_chain_of_facts_whose_rules_can_be_opened(client: TestClient) -> None:
    solo = phrased(client)
    facts = client.get(f"/api/solos/{solo}/analysis/why?note=n3").json()["facts"]
    assert [fact["says"] for fact in facts] == [
        "The note at 1:2+1/2 is A4.",
        "It is heard on G, which sounds there.",
        "It lies 2 half steps above G: the 2.",
        "The core tones of G are 1 3 5: it is none of them.",
        "It leads to B4 at 1:3, the 3.",
        "One to three steps in one direction between core tones pass.",
    ]
    page = client.get("/help/music")
    assert page.status_code == 200
    assert all(f'id="{fact["rule"]}"' in page.text for fact in facts)
    assert client.get(f"/api/solos/{solo}/analysis/why?note=nobody").status_code == 404


def test_other_changes_change_what_is_read(client: TestClient) -> None:
    solo = phrased(client)
    body = {"start": 0, "end": 8 * EIGHTH, "text": "Em7", "name": "relative"}
    assert client.post(f"/api/solos/{solo}/other-changes", json=body).status_code == 200
    facts = [fact["says"] for fact in client.get(f"/api/solos/{solo}/analysis/why?note=n0").json()["facts"]]
    assert facts[1:4] == [
        "It is heard on Em7: the changes “relative” lie over the chart.",
        "It lies 3 half steps above E: the b3.",
        "The core tones of Em7 are 1 b3 5 b7: it is a chord tone.",
    ]


def test_the_demo_is_read_phrase_by_phrase(client: TestClient, workspace: Workspace) -> None:
    seed(workspace)
    rows = {row["title"]: row["id"] for row in client.get("/api/shelf").json()["solos"]}
    found = read(client, rows["second chorus, reel 14"])
    assert [phrase["name"] for phrase in found["phrases"]][:3] == [
        "the lamp is lit", "down to the leading note", "two quays",
    ]  # fmt: skip
    assert all(phrase["readings"] and phrase["says"] for phrase in found["phrases"])
    assert {"approach", "passing", "common tone", "motif"} <= {path["kind"] for path in found["paths"]}


def test_the_writing_is_heard_over_its_chords_and_over_other_changes(client: TestClient) -> None:
    solo = phrased(client)

    def level(pitch: float, **asked: object) -> float:
        """How loud a pitch is in the first bar."""
        params = {"start": 0, "end": 96_000, "hear": "chords"} | asked
        answer = client.get(f"/api/solos/{solo}/piece", params=params)  # type: ignore[arg-type]
        assert answer.status_code == 200, answer.text
        sound = soundfile.read(io.BytesIO(answer.content), always_2d=True)[0].mean(axis=1)
        hz = 440 * 2 ** ((pitch - 69) / 12)
        return float(np.abs(np.exp(-2j * np.pi * hz * np.arange(len(sound)) / 48_000) @ sound))

    low_g, low_e = 43, 40
    assert level(low_g) > 4 * level(low_g, hear="writing") and level(low_g) > 4 * level(low_e)
    body = {"start": 0, "end": 8 * EIGHTH, "text": "Em7", "name": "relative"}
    assert client.post(f"/api/solos/{solo}/other-changes", json=body).status_code == 200
    assert level(low_e) > 4 * level(low_g)


def test_why_names_tensions_by_their_degrees_and_says_what_the_teacher_decided(client: TestClient) -> None:
    solo = started(client, chart="| {key G major} D7 | G |")
    bench = opened(client, solo)
    write(client, bench, *[note(f"n{i}", i * EIGHTH, 2, fret) | {"ticks": EIGHTH} for i, fret in enumerate((7, 12, 3))])

    def facts(note_id: str) -> list[str]:
        found = client.get(f"/api/solos/{solo}/analysis/why?note={note_id}").json()["facts"]
        return [fact["says"] for fact in found]

    assert facts("n1")[-1] == "Over D7 these tones may be added: 9 #11 13. It is a tension."
    choice = {"kind": "anticipation", "id": "c", "note": "n2", "heard": "next"}
    sent = send(client, opened(client, solo), edit(bench, {"kind": "choice", "id": "c", "after": choice}))
    assert sent.status_code == 200, sent.text
    assert facts("n2")[1] == "You decided that it is heard on G."
