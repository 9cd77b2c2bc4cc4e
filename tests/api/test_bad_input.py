"""Bad input in one table: what is done, and words of the sentence that answers it. Nothing is stored of any of it."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from asking import QUARTER, bring, edit, encoded, note, opened, send, started, wav

DEMO = Path(__file__).parents[2] / "demo"
LANTERNS = json.loads((DEMO / "lanterns-at-low-water.json").read_bytes())


def write(**fields: object):
    """Write one note."""

    def ask(client: TestClient, bench: dict):
        bad = note("x", 0) | fields
        return send(client, bench, edit(bench, {"kind": "note", "id": "x", "after": bad}))

    return ask


def half_a_character(client: TestClient, bench: dict):
    phrase = {"id": "p", "start": 0, "end": QUARTER, "name": "\ud800"}
    body = {"versions": {}, "edits": [edit(bench, {"kind": "phrase", "id": "p", "after": phrase})]}
    headers = {"content-type": "application/json"}
    return client.post(f"/api/solos/{bench['solo_id']}/edits", content=json.dumps(body).encode(), headers=headers)


def settle(**basics: object):
    return lambda client, bench: client.put(f"/api/solos/{bench['solo_id']}/basics", json=basics)


def chart(text: str):
    return lambda client, bench: client.put(f"/api/solos/{bench['solo_id']}/chart", json={"text": text})


def chord(symbol: str):
    def ask(client: TestClient, bench: dict):
        first = bench["strip"]["chords"][0]["id"]
        return client.put(f"/api/solos/{bench['solo_id']}/chords/{first}", json={"symbol": symbol})

    return ask


def sound(name: str, data: bytes):
    return lambda client, bench: bring(client, name, data)


def started_with(body: dict):
    return lambda client, bench: client.post("/api/solos", json={"basics": {}} | body)


def sections(text: str):
    return lambda client, bench: client.put(f"/api/solos/{bench['solo_id']}/sections", json={"text": text})


def raw(data: bytes):
    return lambda client, bench: client.post("/api/solos", content=data, headers={"content-type": "application/json"})


def document(data: bytes):
    return lambda client, bench: client.post("/api/documents", files={"file": ("solo.json", data)})


def piece(**params: object):
    return lambda client, bench: client.get(
        f"/api/solos/{bench['solo_id']}/piece", params={"start": 0, "end": 10} | params
    )


BAD = [
    # sound
    (sound("words.wav", b"just some words"), "“words.wav” is not a sound file that can be read. Bring it as WAV"),
    (sound("cut.wav", wav(2.0)[:40]), "“cut.wav”"),
    (sound("empty.wav", wav(0)), "“empty.wav” holds no sound: it is 0 seconds long"),
    (sound("long.flac", encoded(15 * 60 + 1, "FLAC")), "“long.flac” is longer than 15 minutes. Cut out the part"),
    (sound("slow.wav", wav(0.01, rate=1)), "“slow.wav” has 1 samples a second; between 8,000 and 192,000"),
    (sound("wide.wav", wav(0.01, channels=20)), "“wide.wav” has 20 channels; up to 8"),
    # notes
    (write(fret=4000), "At 1:1: There is no fret 40"),
    (write(fret=2300), "At 1:1: There is no fret 23 on string 2: this neck has 22 frets. The last fret is a setting"),
    (write(string=9), "At 1:1: There is no string 9: a guitar here has 4 to 8. Choose another string"),
    (write(string=7), "At 1:1: There is no string 7: this guitar has 6. Choose a string from 1 to 6"),
    (
        write(course=[[0, 0], [10, 36]]),
        "At 1:1: A bend of 9 steps is out of reach: a string bends three whole steps at most",
    ),
    (write(course=[[5, 4]]), "At 1:1: The pitch course of a note starts at its first tick"),
    (write(tick=-1), "A note at 0:4+10079/10080 would start before bar 1"),
    (write(tick=8 * 4 * QUARTER), "A note at 9:1 would start after the last bar, 8. Add bars to the ground first"),
    (write(ticks=0), "At 1:1: A length of 0 ticks is none"),
    (write(fret=None), "At 1:1: The note on string 2 has no fret: only a dead or unknown note may"),
    (write(fret=1050), "At 1:1: Fret 10.5 on string 2 lies between frets"),
    (write(colour="red"), "At 1:1: colour is not known here"),
    # chords and charts
    (
        chart("| Am7 | Hm7 |"),
        "Bar 2, line 1, column 9, “Hm7”: H is B in some countries and B♭ in others: write Bm7 or Bbm7",
    ),
    (chart("| Am7 . D7 |"), "Bar 1, line 1, column 3, “Am7 . D7”: 3 beats are written where a bar of 4/4 has 4"),
    (chart(""), "no bars: write chords between |"),
    (chord("C(9)"), "“C(9)” cannot be read at column 3: two meanings: write C9 or C(add9)"),
    # the ground
    (settle(tempo_bpm=900), "A tempo of 900 is out of reach: 20 to 400 a minute"),
    (settle(meter="4/5"), "4/5 is not a meter that can be counted"),
    (settle(key="E minorish"), "“E minorish” is not a key: write a tonic and one of major"),
    (settle(feel="lazy"), "“lazy” is not a feel: straight, swing or triplet"),
    (settle(tuning="E A D X B E"), "“X B E” is not a string"),
    (settle(capo=15), "The capo cannot be 15: the highest is 12."),
    (settle(bars=0), "The number of bars cannot be 0: the lowest is 1."),
    (settle(bars="abc"), 'The number of bars is a whole number; "abc" is not.'),
    (settle(tempo_bpm=0), "A tempo of 0 is out of reach: 20 to 400 a minute."),
    (
        settle(feel="swing", swing_ratio=9),
        "A swing ratio of 9 is out of reach: from 1 (straight) over 2 (triplets) to 3.",
    ),
    (settle(feel="rubato"), "“rubato” is not a feel"),
    (started_with({"tune": "a", "basics": {"tempo_bpm": 0}}), "A tempo of 0 is out of reach"),
    (started_with({"tune": "a" * 5_000}), "The name of the tune is too long: at most 200 characters."),
    (started_with({"tune": ""}), "The name of the tune is empty"),
    # sections
    (sections("0:99 x"), "Line 1: 0:99 is no time, as a minute has 60 seconds."),
    (sections("9:00 x"), "“x” at 9:00.0 lies outside the bars, which go from"),
    (sections("0:00 a\n0:00 b"), "Line 2: “a” begins at 0:00 already. Keep one of the two."),
    (sections("0:00 a\n0:00.1 b"), "“a” and “b” both begin at bar 1. Keep one of the two."),
    # what cannot be text or JSON
    (raw(b'{"tune": "\\ud800x", "basics": {}}'), "tune holds half a character (a lone surrogate): write it again."),
    (half_a_character, "name holds half a character"),
    (raw(b"[" * 100_000), "What was sent cannot be read: it is not JSON, is nested too deeply"),
    (raw(b"9" * 100_000), "What was sent cannot be read"),
    (sound("a" * 5_000 + ".wav", wav(0.1)), "If the file's name is very long, shorten it"),
    (settle(last_bar=0, first_bar=3), "The solo cannot end in bar 0 when it starts in bar 3"),
    # documents
    (document(b"words"), "This file is not a solo document: it is not JSON (line 1, column 1)"),
    (document(b"{}"), "it names no schema"),
    (document(b""), "There is no document here: the input is empty"),
    (document(b"[" * 100_000), "its JSON is nested too deeply"),
    (document(b'{"schema": ' + b"9" * 100_000 + b"}"), "it holds a number that is too long"),
    (document(b'{"schema": "\xff"}'), "its text is not UTF-8"),
    (document(json.dumps(LANTERNS | {"tune": "\ud800"}).encode()), "tune holds half a character"),
    (
        document(json.dumps(LANTERNS | {"schema": 7}).encode()),
        "schema 7; this program reads up to 6. Bring the program up to date",
    ),
    (document(json.dumps(LANTERNS | {"solos": []}).encode()), "solos is not known here"),
    (document(json.dumps(LANTERNS)[:-500].encode()), "it is not JSON (line 1, column"),
    # playing
    (piece(speed=100), "A speed of 10 % is out of reach: from 25 to 125 %"),
    (piece(end=0), "A piece of sound ends after it starts"),
]


@pytest.mark.parametrize(("ask", "words"), BAD, ids=[words[:60] for _, words in BAD])
def test_bad_input_gets_a_sentence_and_nothing_is_stored(client: TestClient, ask, words: str) -> None:
    bench = opened(client, started(client))
    before = client.get(f"/api/solos/{bench['solo_id']}/document.json").content
    answer = ask(client, bench)
    body = answer.json()
    if answer.status_code == 200:  # edits are judged act by act
        (body,) = body["refused"]
        body["title"] = body["sentence"]
    else:
        assert answer.status_code == 422, answer.text
    assert words in body["title"]
    assert body["code"] != "our-fault" and "Traceback" not in answer.text
    assert client.get(f"/api/solos/{bench['solo_id']}/document.json").content == before
    assert [row["id"] for row in client.get("/api/shelf").json()["solos"]] == [bench["solo_id"]]
