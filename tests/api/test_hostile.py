"""Requests that nobody means well, and stored text that would do harm elsewhere: never a 500, never a sentence in Python."""

from __future__ import annotations

import csv
import io
import json
import re
from uuid import uuid4

import pytest
from fastapi.testclient import TestClient

from asking import bring, edit, note, opened, send, started, wav, write

LONG_NUMBER = b"9" * 400
PYTHON = re.compile(r"b'|b\"|\bNone\b|\d\.0\b|[Ii]nput should|\b1 parts|\d{60}|UUID|Traceback")


def posted(client: TestClient, path: str, body: bytes):
    return client.post(path, content=body, headers={"content-type": "application/json"})


def in_words(answer) -> str:
    assert 400 <= answer.status_code < 500, answer.text
    title = str(answer.json()["title"])
    assert not PYTHON.search(title), title
    return title


@pytest.mark.parametrize("path", ["/" + "a" * 256, "/assets/" + "b" * 256 + ".js", "/api/" + "c" * 256])
def test_a_long_path_is_not_there(page_server: TestClient, path: str) -> None:
    answer = page_server.get(path)
    assert answer.status_code in (200, 404)  # a page's own address opens the page
    if path.startswith(("/assets", "/api")):
        assert answer.status_code == 404


def test_a_range_of_five_thousand_digits_is_answered(client: TestClient) -> None:
    recording = bring(client, "a.wav", wav(0.2)).json()["recording"]["id"]
    for asked in ("bytes=" + "9" * 5_000 + "-", "bytes=0-" + "9" * 5_000, "bytes=-" + "9" * 5_000):
        answer = client.get(f"/api/recordings/{recording}/file", headers={"range": asked})
        assert answer.status_code in (200, 206, 416), answer.status_code


def test_numbers_without_end_get_a_sentence(client: TestClient) -> None:
    bench = opened(client, started(client))
    one = edit(bench, {"kind": "note", "id": "x", "after": note("x", 0) | {"ticks": 123_454_321}})
    body = json.dumps({"versions": bench["versions"], "edits": [one]}).encode()
    answer = posted(client, f"/api/solos/{bench['solo_id']}/edits", body.replace(b"123454321", LONG_NUMBER))
    if answer.status_code == 200:
        (refused,) = answer.json()["refused"]
        assert not PYTHON.search(refused["sentence"]), refused["sentence"]
    else:
        in_words(answer)
    for field, number in (("tempo_bpm", "1e300"), ("tempo_bpm", "99999.0"), ("capo", "-5.0"), ("bars", "1e300")):
        path = f"/api/solos/{bench['solo_id']}/basics"
        in_words(client.put(path, content=f'{{"{field}": {number}}}', headers={"content-type": "application/json"}))


@pytest.mark.parametrize(
    "body",
    [b'{"text": "\\u0000"}', b'{"text": "| A\\u0000m |"}'],
)
def test_a_nul_is_unprocessable(client: TestClient, body: bytes) -> None:
    bench = opened(client, started(client))
    answer = client.put(
        f"/api/solos/{bench['solo_id']}/chart", content=body, headers={"content-type": "application/json"}
    )
    assert answer.status_code == 422
    in_words(answer)
    bad = {"id": "p", "start": 0, "end": 10_080, "name": "a\0b"}
    told = send(client, bench, edit(bench, {"kind": "phrase", "id": "p", "after": bad}))
    assert told.status_code in (200, 422)


@pytest.mark.parametrize("name", ["   ", "   .wav", "\u200b.wav"])
def test_a_file_named_only_by_blanks_gets_a_name(client: TestClient, name: str) -> None:
    answer = bring(client, name, wav(0.2))
    assert answer.status_code == 200, answer.text
    assert answer.json()["recording"]["title"] == "file without a name"


def test_signs_that_turn_the_writing_round_do_not_stay_in_titles(client: TestClient) -> None:
    solo = started(client, tune="Gull\u202e Wea\u2066ther", player="Ada\u200f Moor", title="break\u0007")
    bench = opened(client, solo)
    assert bench["tune"] == "Gull Wea ther"
    assert bench["solo"]["settings"]["player"] == "Ada Moor"
    assert bench["solo"]["settings"]["title"] == "break"


FORMULAS = ("=1+1", "+cmd", "-2", "@sum")


def test_tables_hold_no_formula(client: TestClient) -> None:
    """What somebody named so that a spreadsheet would work it out stands there as text."""
    for name in FORMULAS:
        bench = opened(client, started(client, tune=name, title=name, player=name))
        write(client, bench, *[note(f"n{i}", i * 10_080) for i in range(4)])
        body = {"solo": bench["solo_id"], "first": "n0", "last": "n3", "name": name, "words": name, "tags": [name]}
        assert client.post("/api/licks", json=body | {"id": str(uuid4())}).status_code == 200
    texts = [client.get("/api/licks/table.csv?which=kept").text]
    player = client.get("/api/players").json()[0]["id"]
    texts.append(client.get(f"/api/players/{player}/figures.csv").text)
    shown = [row["id"] for row in client.get("/api/shelf").json()["solos"]]
    for table in ("notes", "chords", "beats", "sections"):
        texts.append(client.get(f"/api/solos/{shown[0]}/{table}.csv").text)
    cells = [cell for text in texts for row in csv.reader(io.StringIO(text)) for cell in row]
    live = [cell for cell in cells if cell[:1] in "=@" and cell] + [
        cell for cell in cells if cell[:1] in "+-" and cell and not _is_number(cell)
    ]
    assert live == []
    assert any("=1+1" in cell for cell in cells)


def _is_number(cell: str) -> bool:
    try:
        float(cell)
    except ValueError:
        return False
    return True


MADE_ONCE = [
    ("/api/solos", {"tune": "Made Once", "chart": "| Am7 |", "basics": {"tempo_bpm": 120, "last_bar": 4}}),
]


@pytest.mark.parametrize(("path", "body"), MADE_ONCE)
def test_what_carries_the_id_of_its_dialog_is_made_once(client: TestClient, path: str, body: dict) -> None:
    before = len(client.get("/api/shelf").json()["solos"])
    sent = body | {"id": str(uuid4())}
    first, again = client.post(path, json=sent), client.post(path, json=sent)
    assert first.status_code == again.status_code == 200
    assert first.json()["solo_id"] == again.json()["solo_id"] == sent["id"]
    assert len(client.get("/api/shelf").json()["solos"]) == before + 1


def test_a_version_sent_twice_is_one(client: TestClient) -> None:
    solo = started(client)
    body = {"id": str(uuid4()), "name": "for Mara", "rules": []}
    made = [client.post(f"/api/solos/{solo}/versions", json=body) for _ in range(2)]
    assert {one.json()["solo_id"] for one in made} == {body["id"]}
    assert len(client.get("/api/shelf").json()["solos"]) == 2
