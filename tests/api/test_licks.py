"""The lick book through the api: kept, followed, frozen, found and named."""

from __future__ import annotations

from uuid import uuid4

from fastapi.testclient import TestClient

from asking import edit, note, opened, send, started, write
from usagi.core.meter.ticks import EIGHTH, QUARTER
from usagi.flows.licks.indexing import index_stale, reindex
from usagi.flows.workspace import Workspace

LINE = ((2, 9), (2, 8), (3, 9), (2, 8), (3, 11))  # over E7: 3 b3 1 b3 … in degrees G# G E G F#


def written(client: TestClient, tune: str = "Tin Roof", player: str = "Ada Moor") -> str:
    solo = started(client, chart="| {key E major} E7 | A7 |", tune=tune, player=player)
    bench = opened(client, solo)
    notes = [note(f"n{i}", i * EIGHTH, string, fret) | {"ticks": EIGHTH} for i, (string, fret) in enumerate(LINE)]
    write(client, bench, *notes)
    return solo


def kept(client: TestClient, solo: str, first: str = "n0", last: str = "n2", **said: object) -> dict:
    body = {"id": str(uuid4()), "solo": solo, "first": first, "last": last} | said
    answer = client.post("/api/licks", json=body)
    assert answer.status_code == 200, answer.text
    found: dict = answer.json()
    return found


def found(client: TestClient, text: str = "", **narrowed: str | int) -> dict:
    answer = client.get("/api/licks", params={"text": text, **narrowed})
    assert answer.status_code == 200, answer.text
    hits: dict = answer.json()
    return hits


def test_a_phrase_that_nobody_cut_is_found_by_its_degrees(client: TestClient, workspace: Workspace) -> None:
    written(client)
    assert index_stale(workspace) == 1 and index_stale(workspace) == 0
    hits = found(client, "3 b3 1")
    assert (hits["count"], hits["exact"], hits["says"]) == (1, 1, "1 phrase, 1 exactly as asked")
    (one,) = hits["licks"]
    assert (one["player"], one["tune"], one["place"], one["says"]) == ("Ada Moor", "Tin Roof", "bar 1", "exactly")
    assert [n["hit"] for n in one["drawing"]["notes"]] == [True, True, True, False, False]
    assert found(client, "3 b3 5")["count"] == 0


def test_a_kept_lick_follows_later_corrections(client: TestClient, workspace: Workspace) -> None:
    solo = written(client)
    lick = kept(client, solo, name="falls to the root")
    assert [n["degrees"][-1] for n in lick["drawing"]["notes"]] == ["3", "b3", "1"]
    bench = opened(client, solo)
    old = next(one for one in bench["solo"]["notes"] if one["id"] == "n1")
    change = {"kind": "note", "id": "n1", "before": old, "after": old | {"fret": 700}}
    assert send(client, bench, edit(bench, change)).status_code == 200
    index_stale(workspace)
    now = client.get(f"/api/licks/{lick['lick']}").json()
    assert [n["degrees"][-1] for n in now["drawing"]["notes"]] == ["3", "9", "1"]
    assert now["name"] == "falls to the root" and now["frozen"] == ""


def test_a_lick_whose_notes_go_freezes_with_its_last_ones_and_comes_back_with_them(
    client: TestClient, workspace: Workspace
) -> None:
    solo = written(client)
    lick = kept(client, solo, name="falls")
    bench = opened(client, solo)
    old = next(one for one in bench["solo"]["notes"] if one["id"] == "n2")
    gone = edit(bench, {"kind": "note", "id": "n2", "before": old, "after": None})
    assert send(client, bench, gone).status_code == 200
    index_stale(workspace)
    frozen = client.get(f"/api/licks/{lick['lick']}").json()
    assert frozen["frozen"] == "its notes are gone from the solo" and frozen["solo"] is None
    assert [n["degrees"][-1] for n in frozen["drawing"]["notes"]] == ["3", "b3", "1"]
    assert (frozen["name"], frozen["tune"], frozen["player"]) == ("falls", "Tin Roof", "Ada Moor")
    assert client.post(f"/api/solos/{solo}/undo", json={"versions": {}}).status_code == 200
    index_stale(workspace)
    back = client.get(f"/api/licks/{lick['lick']}").json()
    assert back["frozen"] == "" and back["solo"] == solo


def test_the_licks_of_a_removed_solo_freeze_at_once_and_its_phrases_are_gone(
    client: TestClient, workspace: Workspace
) -> None:
    solo = written(client)
    index_stale(workspace)
    lick = kept(client, solo)
    assert found(client)["count"] == 2  # the lick, and the phrase that holds more
    client.post(f"/api/solos/{solo}/remove")
    hits = found(client)
    assert [one["frozen"] for one in hits["licks"]] == ["its solo was removed"] and hits["count"] == 1
    heard = client.post("/api/licks/sound", json={"which": {"lick": lick["lick"]}})
    assert heard.status_code == 200 and heard.content[:4] == b"RIFF"
    client.post(f"/api/solos/{solo}/fetch-back")
    index_stale(workspace)
    assert client.get(f"/api/licks/{lick['lick']}").json()["frozen"] == ""


def test_a_gap_takes_none_to_three_notes_and_says_how_many(client: TestClient, workspace: Workspace) -> None:
    written(client)
    index_stale(workspace)
    assert [one["says"] for one in found(client, "3 . 9")["licks"]] == ["three notes more"]
    assert [one["says"] for one in found(client, "3 ? 1")["licks"]] == ["exactly"]
    assert [one["says"] for one in found(client, "-1 -3")["licks"]] == ["exactly"]
    assert found(client, "3 . 1", ends_at=2)["licks"][0]["says"] == "one note more, ends on beat 3"
    assert found(client, "3 b3", key=9)["licks"][0]["says"] == "exactly, a fourth lower"


def test_a_stack_is_found_by_any_of_its_notes(client: TestClient, workspace: Workspace) -> None:
    solo = started(client, chart="| C7 |")
    bench = opened(client, solo)
    write(client, bench, note("a", 0, 1, 8), note("b", 0, 2, 5), note("c", QUARTER, 1, 8), note("d", 2 * QUARTER, 2, 8))
    index_stale(workspace)
    assert found(client, "1 1 5")["count"] == found(client, "3 1 5")["count"] == 1
    assert found(client, "5 1 5")["count"] == 0


def test_a_search_is_narrowed(client: TestClient, workspace: Workspace) -> None:
    solo = written(client)
    written(client, tune="Slate Hill", player="Ines Quarrie")
    index_stale(workspace)
    choices = client.get("/api/licks/choices").json()
    ada = next(one["id"] for one in choices["players"] if one["name"] == "Ada Moor")
    hill = next(one["id"] for one in choices["tunes"] if one["name"] == "Slate Hill")
    both = {"text": "3 b3 1"}
    assert found(client, "3 b3 1")["count"] == 2
    for narrowed, count in (
        ({"player": ada}, 1), ({"tune": hill}, 1), ({"player": ada, "tune": hill}, 0), ({"motion": "I7"}, 2),
        ({"motion": "I7 to IV7"}, 0), ({"start_degree": "3"}, 2), ({"end_degree": "b9"}, 0), ({"fewest": 6}, 0),
        ({"most": 5}, 2), ({"slowest": 121}, 0), ({"fastest": 121}, 2), ({"technique": "bend"}, 0), ({"low_fret": 8}, 2),
        ({"high_fret": 10}, 0), ({"thin": 2, "thick": 3}, 2), ({"thin": 3}, 0), ({"kept": True}, 0), ({"words": "hill"}, 0),
        ({"feel": "straight"}, 2),
    ):  # fmt: skip
        assert found(client, **both, **narrowed)["count"] == count, narrowed
    kept(client, solo, tags=["turnaround", "  turnaround "], name="Home 100%")
    assert found(client, "3 b3 1", tag="turnaround")["count"] == 1
    assert found(client, words="100%")["count"] == 1 and found(client, words="1_0")["count"] == 0
    assert client.get("/api/licks/choices").json()["tags"] == ["turnaround"]


def test_what_cannot_be_read_is_said_in_a_sentence(client: TestClient) -> None:
    answer = client.get("/api/licks", params={"text": "3 x 1"})
    assert answer.status_code == 422 and answer.json()["title"].startswith("“x” is no degree")
    assert client.get("/api/licks", params={"text": "1 . 2 . 3 . 4 . 5"}).json()["code"] == "search-unreadable"


def test_two_who_change_one_lick_do_not_overwrite_each_other(client: TestClient) -> None:
    lick = kept(client, written(client))
    path = f"/api/licks/{lick['lick']}"
    assert client.put(path, json={"version": lick["version"], "name": "one"}).json()["name"] == "one"
    late = client.put(path, json={"version": lick["version"], "name": "two"})
    assert late.status_code == 409 and "it is called “one” now" in late.json()["title"]
    assert client.get(path).json()["version"] == lick["version"] + 1


def test_a_removed_lick_lies_in_the_drawer_and_comes_back(client: TestClient) -> None:
    lick = kept(client, written(client), name="once")
    path = f"/api/licks/{lick['lick']}"
    assert client.post(f"{path}/remove", json={"version": 1}).status_code == 204
    assert client.get(path).status_code == 404 and found(client, kept=True)["count"] == 0
    (removed,) = client.get("/api/licks/removed").json()
    assert removed["name"] == "once"
    assert client.post(f"{path}/restore", json={"version": removed["version"]}).status_code == 204
    assert client.get(path).json()["name"] == "once"


def test_sending_a_lick_twice_keeps_it_once(client: TestClient) -> None:
    solo = written(client)
    body = {"id": str(uuid4()), "solo": solo, "first": "n0", "last": "n2", "name": "one"}
    first, again = client.post("/api/licks", json=body).json(), client.post("/api/licks", json=body | {"name": "two"})
    assert again.json()["name"] == first["name"] == "one" and found(client, kept=True)["count"] == 1


def test_a_lick_goes_out_as_a_document_and_in_again(client: TestClient) -> None:
    solo = written(client)
    lick = kept(client, solo, name="falls", tags=["blues"], words="leave room after it")
    data = client.get(f"/api/licks/{lick['lick']}/document.json").content
    back = client.post("/api/licks/document", files={"file": ("lick.json", data)}).json()
    assert (back["name"], back["tags"], back["words"]) == ("falls", ["blues"], "leave room after it")
    assert back["drawing"] == lick["drawing"] | {"notes": back["drawing"]["notes"]}
    assert back["frozen"] == "imported as a document"
    assert client.get(f"/api/licks/{back['lick']}/document.json").content == data
    bad = client.post("/api/licks/document", files={"file": ("lick.json", b'{"lick_schema": 9}')})
    assert bad.json()["code"] == "document-too-new"


def test_a_lick_goes_out_as_a_document_where_it_lies(client: TestClient) -> None:
    lick = kept(client, written(client), name="falls", tags=["blues"])
    body = {"which": {"lick": lick["lick"]}, "there": {"key": "A", "position": 5}}
    drawn = client.post("/api/licks/anywhere", json=body).json()["drawing"]
    data = client.post("/api/licks/document/elsewhere", json=body).content
    back = client.post("/api/licks/document", files={"file": ("lick.json", data)}).json()
    assert (back["name"], back["tags"], back["motion"]) == ("falls", ["blues"], "I7")
    for name in ("degrees", "fret"):
        assert [one[name] for one in back["drawing"]["notes"]] == [one[name] for one in drawn["notes"]]


def test_the_nearest_say_what_they_have_otherwise(client: TestClient, workspace: Workspace) -> None:
    solo = written(client)
    other = started(client, chart="| {key A major} A7 |", tune="Other")
    bench = opened(client, other)
    line = ((1, 9), (1, 8), (2, 10), (1, 8), (2, 11))
    write(client, bench, *[note(f"m{i}", i * EIGHTH, s, f) | {"ticks": EIGHTH} for i, (s, f) in enumerate(line)])
    index_stale(workspace)
    own = next(one for one in found(client)["licks"] if one["solo"] == solo)
    (near,) = client.get(f"/api/licks/near/{own['span']}").json()["licks"]
    assert near["solo"] == other and near["says"] == "the b2 for the 2"


def test_a_lick_goes_to_another_key_and_place_or_is_refused_with_what_goes(client: TestClient) -> None:
    lick = kept(client, written(client))
    which = {"lick": lick["lick"]}
    there = client.post("/api/licks/anywhere", json={"which": which, "there": {"key": "A", "position": 5}}).json()
    assert there["key"] == "A major" and [c["shown"] for c in there["drawing"]["chords"]] == ["A7"]
    assert [n["degrees"][-1] for n in there["drawing"]["notes"]] == ["3", "b3", "1"]
    assert all(5 <= n["note"]["fret"] // 100 <= 9 for n in there["drawing"]["notes"])
    assert there["says"][0] == "It goes up a fourth."
    refused = client.post("/api/licks/anywhere", json={"which": which, "there": {"strings": [6, 6]}})
    problem = refused.json()
    assert refused.status_code == 422 and problem["code"] == "lick-impossible"
    assert problem["where"]["first_string"] is not None and "go." in problem["title"]
    options = client.post("/api/licks/options", json={"which": which}).json()
    higher = client.post("/api/licks/options", json={"which": which, "there": {"key": "A", "direction": "up"}}).json()
    up = [one + 5 for one in options["positions"] if one > 1]
    assert [one for one in up if one <= higher["positions"][-1]] == [one for one in higher["positions"] if one > 6]
    assert options["key"] == "E" and options["families"] == ["C", "A", "G", "E", "D"]
    twelve = client.post("/api/licks/twelve", json={"which": which, "order": "half steps"}).json()
    assert [one["key"].split()[0] for one in twelve["keys"]][:3] == ["E", "F", "F#"] and len(twelve["keys"]) == 12
    heard = client.post("/api/licks/sound", json={"which": which, "twelve": "fourths", "chords": True})
    assert heard.content[:4] == b"RIFF"


def test_licks_are_set_over_a_form_and_saved_as_a_solo_that_names_them(
    client: TestClient, workspace: Workspace
) -> None:
    solo = written(client)
    licks = [kept(client, solo, "n0", "n2", name="falls"), kept(client, solo, "n2", "n4", name="turns")]
    items = [{"which": {"lick": one["lick"]}} for one in licks] + [{"which": {"lick": licks[0]["lick"]}, "bar": 6}]
    body = {"items": items, "chart": "| {key A major} A7 | D7 | A7 | A7 | D7 | D7 |", "tempo": 100, "feel": "swing 1.6"}
    made = client.post("/api/licks/quote", json=body).json()
    assert [(one["name"], one["bar"]) for one in made["sets"]] == [("falls", 1), ("turns", 2), ("falls", 6)]
    assert made["joins"][0]["says"] and made["joins"][1] is None  # a gap of more than a bar is named, not scored
    assert client.post("/api/licks/quote/sound", json=body).content[:4] == b"RIFF"
    saved = client.post("/api/licks/quote/solo", json=body | {"title": "Three for Monday", "id": str(uuid4())}).json()[
        "solo_id"
    ]
    bench = opened(client, saved)
    assert [one["name"] for one in bench["solo"]["settings"]["sources"]] == ["falls", "turns", "falls"]
    assert bench["tune"] == "Three for Monday" and len(bench["solo"]["phrases"]) == 3
    index_stale(workspace)
    assert {one["solo"] for one in found(client)["licks"]} == {solo}  # a quote is not searched
    short = client.post("/api/licks/quote", json=body | {"chart": "| A7 |"})
    assert short.json()["code"] == "quote-impossible"


def test_the_index_is_made_again_from_nothing(client: TestClient, workspace: Workspace) -> None:
    solo = written(client)
    lick = kept(client, solo)
    removed = written(client, tune="Gone")
    frozen = kept(client, removed)
    client.post(f"/api/solos/{removed}/remove")
    index_stale(workspace)
    before = [(one["lick"], one["first"], one["says"]) for one in found(client, "3 b3")["licks"]]
    assert reindex(workspace) == 1
    after = [(one["lick"], one["first"], one["says"]) for one in found(client, "3 b3")["licks"]]
    assert sorted(after, key=str) == sorted(before, key=str) and {lick["lick"], frozen["lick"]} <= {a[0] for a in after}
