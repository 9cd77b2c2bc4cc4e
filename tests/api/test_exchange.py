"""Files out and in through the api: every format, pictures, files of other programs as a solo or into one."""

from __future__ import annotations

import csv
import io
import json
from uuid import UUID, uuid4

import pytest
from fastapi.testclient import TestClient
from lxml import etree
from PIL import Image

from asking import QUARTER, note, opened, started, write
from core.formats.asking import ids
from usagi.core.formats.files import KINDS, kind_named, read_in
from usagi.core.formats.files import Coming as How
from usagi.core.formats.other_tabs.times import Lengths
from usagi.flows.licks import book
from usagi.flows.licks.book import LickWords
from usagi.flows.licks.indexing import index_stale

BENT = (
    '<score-partwise version="4.0"><work><work-title>Harbour Walk</work-title></work><part-list><score-part id="P1">'
    '<part-name>Lead</part-name></score-part></part-list><part id="P1"><measure number="1"><attributes>'
    "<divisions>1</divisions><time><beats>4</beats><beat-type>4</beat-type></time></attributes>"
    + "".join(
        f"<note><pitch><step>{step}</step><octave>4</octave></pitch><duration>1</duration></note>" for step in "EGAB"
    )
    + "</measure></part></score-partwise>"
).encode()


@pytest.fixture
def solo(client: TestClient) -> str:
    solo = started(client)
    write(client, opened(client, solo), note("n1", 0), note("n2", QUARTER, fret=8), note("n3", 2 * QUARTER, fret=5))
    return solo


def bring(client: TestClient, address: str, data: bytes, name: str, **fields: str):
    return client.post(address, files={"file": (name, data)}, data=fields)


@pytest.mark.parametrize("kind", KINDS, ids=lambda kind: kind.name)
def test_a_solo_goes_out_in_every_format_and_what_comes_in_is_the_same(client: TestClient, solo: str, kind) -> None:
    answer = client.get(f"/api/solos/{solo}/exports/{kind.name}")
    assert answer.status_code == 200 and answer.headers["content-type"].startswith(kind.media_type)
    assert f"solo{kind.endings[0]}" in answer.headers["content-disposition"] and answer.content
    if kind.comes_in:
        back = read_in(answer.content, kind, How(lengths=Lengths.SPACING), ids()).document
        assert [(n.tick, n.string, n.fret) for n in back.solo.notes] == [
            (0, 2, 1_000),
            (QUARTER, 2, 800),
            (2 * QUARTER, 2, 500),
        ]


def test_each_format_says_what_it_will_not_hold(client: TestClient, solo: str) -> None:
    listed = {one["name"]: one for one in client.get(f"/api/solos/{solo}/exports").json()}
    assert list(listed) == [kind.name for kind in KINDS]
    assert (
        listed["document"]["not_held"] == []
        and "lengths of notes: 3 (a note lasts until the next)" in listed["tab"]["not_held"]
    )
    assert client.get(f"/api/solos/{solo}/exports/docx").json()["code"] == "format-unknown"


def test_pictures_are_drawn_of_bars_and_of_the_neck(client: TestClient, solo: str) -> None:
    for what in ("tab", "neck"):
        query = {"start": 0, "end": 4 * QUARTER, "what": what, "title": "three notes & more"}
        svg = client.get(f"/api/solos/{solo}/picture.svg", params=query)
        root = etree.fromstring(svg.content)
        assert root.findtext("{*}title") == "three notes & more"
        labels = [group.get("aria-label") for group in root.iter("{*}g")]
        assert ("8" in labels) or what == "neck"
        png = Image.open(io.BytesIO(client.get(f"/api/solos/{solo}/picture.png", params=query).content))
        wide, tall = (float(root.get(name).removesuffix("pt")) for name in ("width", "height"))
        assert png.size == pytest.approx((wide * 2.5, tall * 2.5), abs=2)
        assert png.convert("L").getextrema() == (0, 255)
    empty = client.get(f"/api/solos/{solo}/picture.svg", params={"start": 90_000, "end": 100_000})
    assert empty.json()["code"] == "picture-impossible"


def test_a_file_is_looked_into_before_anything_is_stored(client: TestClient) -> None:
    shelf = client.get("/api/shelf").json()
    look = bring(client, "/api/imports/look", BENT, "harbour.musicxml").json()
    assert (look["says"], look["title"], look["holds"]) == ("MusicXML", "Harbour Walk", "4 notes in 1 bar")
    assert len(look["ways"]) > 1 and look["asks_lengths"] is False and look["part"] == "1"
    text = b"e|-5-8-|\nB|-----|\nG|-----|\nD|-----|\nA|-----|\nE|-----|\n"
    asked = bring(client, "/api/imports/look", text, "mail.txt").json()
    assert asked["asks_lengths"] and "eighths" in asked["lengths"]
    assert bring(client, "/api/imports", text, "mail.txt").json()["code"] == "lengths-missing"
    assert bring(client, "/api/imports/look", BENT[:60], "x.xml").json()["code"] == "file-unreadable"
    assert bring(client, "/api/imports/look", BENT, "x.xml", part="Horn").json()["code"] == "part-unknown"
    assert bring(client, "/api/imports", b"| C | G |", "x.chart").status_code == 422
    assert client.get("/api/shelf").json() == shelf


def test_a_file_makes_a_solo_whose_notes_one_undo_takes_back(client: TestClient) -> None:
    """In the positions that were chosen."""
    look = bring(client, "/api/imports/look", BENT, "harbour.musicxml").json()
    places = []
    for way in range(len(look["ways"])):
        done = bring(client, "/api/imports", BENT, "harbour.musicxml", way=str(way)).json()
        bench = opened(client, done["solo_id"])
        assert bench["tune"] == "Harbour Walk" and len(bench["solo"]["notes"]) == 4
        places.append([(one["string"], one["fret"]) for one in bench["solo"]["notes"]])
    assert len({str(one) for one in places}) == len(places)
    undone = client.post(f"/api/solos/{done['solo_id']}/undo", json={"versions": {}})
    assert undone.status_code == 200 and opened(client, done["solo_id"])["solo"]["notes"] == []


def test_a_file_goes_into_a_solo_in_place_of_what_its_bars_held(client: TestClient, solo: str) -> None:
    """On the grid that is here, as one edit; other bars stay."""
    write(client, opened(client, solo), note("later", 9 * QUARTER, fret=3))
    answer = bring(client, f"/api/solos/{solo}/imports", BENT, "harbour.musicxml")
    assert answer.status_code == 200 and any("position search" in one for one in answer.json()["messages"])
    notes = opened(client, solo)["solo"]["notes"]
    assert [one["tick"] // QUARTER for one in notes] == [0, 1, 2, 3, 9] and notes[-1]["id"] == "later"
    client.post(f"/api/solos/{solo}/undo", json={"versions": {}})
    assert [one["id"] for one in opened(client, solo)["solo"]["notes"]] == ["n1", "n2", "n3", "later"]
    document = client.get(f"/api/solos/{solo}/document.json").content
    assert (
        "makes a solo of its own" in bring(client, f"/api/solos/{solo}/imports", document, "solo.json").json()["title"]
    )


def test_a_lick_goes_out_where_it_lies(client: TestClient, solo: str) -> None:
    """Carried to its strings first, then written."""
    body = {"which": {"solo": solo, "first": "n1", "last": "n3"}, "there": {"strings": [2, 4]}}
    pitches = []
    for format in ("midi", "musicxml"):
        data = client.post("/api/licks/document/elsewhere", json=body | {"format": format}).content
        notes = read_in(data, kind_named(format), How(), ids()).document.solo.notes
        pitches.append([(n.string, n.fret) for n in notes])
    plain = client.post("/api/licks/document/elsewhere", json=body).json()
    assert pitches[0] == pitches[1] == [(n["string"], n["fret"]) for n in plain["document"]["solo"]["notes"]]


def test_what_the_lick_book_finds_goes_out_as_a_table(client: TestClient, workspace, solo: str) -> None:
    book.keep(workspace, uuid4(), UUID(solo), "n1", "n3", LickWords("down, and up", ("blues", "slow"), "with room"))
    index_stale(workspace)
    rows = list(csv.DictReader(io.StringIO(client.get("/api/licks/table.csv", params={"kept": True}).text)))
    assert [(row["name"], row["tags"], row["words"]) for row in rows] == [("down, and up", "blues slow", "with room")]
    assert rows[0]["degrees"].count(" ") == 2 and rows[0]["lick"]


def test_a_performance_in_seconds_is_laid_on_the_grid_that_is_here(client: TestClient, solo: str) -> None:
    """Of the recording, not of the beats that the file has: two notes at quarters of this solo's tempo."""
    strings = [(1.02, 0.45, 69.0), (1.49, 0.5, 72.0)]
    notes = [{"time": t, "duration": d, "value": v, "confidence": None} for t, d, v in strings]
    data = json.dumps({"annotations": [{"namespace": "note_midi", "data": notes}], "file_metadata": {}}).encode()
    client.put(f"/api/solos/{solo}/basics", json={"bar_one_s": 1.0, "tempo_bpm": 120})
    assert bring(client, f"/api/solos/{solo}/imports", data, "take.jams").status_code == 200
    assert [one["tick"] // QUARTER for one in opened(client, solo)["solo"]["notes"]] == [0, 1]
