"""The table of edit cases: every kind of element against every kind of act, as the core completes it.

The page lays what it draws in advance itself; `web/src/score/editCases.test.ts` replays this table against it. A case
says what a person does in words of the page (`act`), and what the core makes of that change (`after`).
"""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from strategies import QUARTER, ground_on, sequential_ids
from usagi.core.document.edits import Change, Kind, apply, put_together, take_apart, to_json
from usagi.core.document.elements import Note, Phrase, Rest
from usagi.core.document.following import what_follows
from usagi.core.document.lengths import with_length
from usagi.core.document.rules import check_solo
from usagi.core.document.solo import Solo
from usagi.core.document.techniques import Sure
from usagi.core.values import Value

FILE = Path(__file__).parents[1] / "web/src/score/edit_cases.gen.json"
GROUND = ground_on("| C | F | C | G7 |")
EIGHTH = QUARTER // 2
AT = 4 * QUARTER  # where the element of a scene lies
ELEMENTS = {
    "notes": Kind.NOTE,
    "rests": Kind.REST,
    "stacks": Kind.STACK,
    "phrases": Kind.PHRASE,
    "questions": Kind.QUESTION,
}


def note(note_id: str, tick: int = AT, **fields: Any) -> dict[str, Any]:
    return {"id": note_id, "tick": tick, "ticks": QUARTER, "string": 2, "fret": 500} | fields


# Each scene holds one kind of element: a note `n` at AT on string 2 (or a rest `r`, a phrase `p`) and what lies round it.
SCENES: dict[str, dict[str, Any]] = {
    "nothing": {},
    "a plain note": {"notes": [note("n")]},
    "a bent note": {"notes": [note("n", course=[[0, 0], [EIGHTH, 4], [7_000, 4], [QUARTER, 0]])]},
    "a note with vibrato": {"notes": [note("n", vibrato={"start": 7_000})]},
    "a trilled note": {"notes": [note("n", trill={"fret": 700})]},
    "a note slid into and off": {
        "notes": [
            note(
                "n",
                attack={"kind": "slide-in", "start": 300, "ticks": 8_000},
                ending={"kind": "slide-off", "to": "far down", "ticks": 8_000},
            )
        ]
    },
    "a dead note": {"notes": [note("n", fret=None, dead=True)]},
    "a note of unknown place": {"notes": [note("n", fret=None, sure="unknown")]},
    "a note between two": {"notes": [note("before", AT - QUARTER), note("n"), note("after", AT + QUARTER, fret=700)]},
    "a note with room round it": {
        "notes": [note("before", AT - 3 * QUARTER), note("n"), note("after", AT + 3 * QUARTER, fret=700)]
    },
    "a long note": {"notes": [note("n", ticks=4 * QUARTER)]},
    "a hammered note": {"notes": [note("before", AT - QUARTER, fret=300), note("n", attack={"kind": "hammer-on"})]},
    "a pulled note": {"notes": [note("before", AT - QUARTER, fret=700), note("n", attack={"kind": "pull-off"})]},
    "a note that a slide leaves": {
        "notes": [note("n"), note("after", AT + QUARTER, fret=900, attack={"kind": "slide"})]
    },
    "a double stop": {
        "notes": [note("other", string=1, stack="s"), note("n", stack="s")],
        "stacks": [{"id": "s", "stroke": "down", "spread_ms": 20.0}],
    },
    "a stack of three": {
        "notes": [note("other", string=1, stack="s"), note("n", stack="s"), note("third", string=3, stack="s")],
        "stacks": [{"id": "s"}],
    },
    "a note asked about": {
        "notes": [note("n"), note("other", AT + 2 * QUARTER)],
        "questions": [
            {"id": "q", "start": AT, "end": AT + QUARTER, "notes": ["n"], "words": "string 2 or 3?"},
            {"id": "both", "start": AT, "end": AT + 3 * QUARTER, "notes": ["n", "other"], "words": "how far?"},
        ],
    },
    "a rest": {"rests": [{"id": "r", "tick": AT, "ticks": QUARTER}]},
    "a long rest": {"rests": [{"id": "r", "tick": AT - QUARTER, "ticks": 4 * QUARTER}]},
    "a note beside a rest": {"notes": [note("n")], "rests": [{"id": "r", "tick": AT + QUARTER, "ticks": 2 * QUARTER}]},
    "a note on another string": {"notes": [note("n", string=3, ticks=2 * QUARTER)]},
    "a phrase": {"phrases": [{"id": "p", "start": AT, "end": AT + 4 * QUARTER, "name": "turn"}]},
    "two phrases": {
        "phrases": [
            {"id": "p", "start": AT, "end": AT + 2 * QUARTER, "name": "turn"},
            {"id": "o", "start": AT + 2 * QUARTER, "end": AT + 6 * QUARTER, "name": "out"},
        ]
    },
}


def acts(scene: Solo) -> Iterator[dict[str, Any]]:
    """What a person may do in a scene, with its arguments as the page takes them."""
    for tick in (AT - EIGHTH, AT, AT + EIGHTH):
        for string, fret in ((2, 5), (2, 7), (3, 9)):
            for join in (False, True):
                at = {"tick": tick, "ticks": QUARTER, "string": string, "fret": fret}
                yield {"do": "write", "join": join, **at}
    yield {"do": "write", "join": True, "tick": AT + QUARTER, "ticks": EIGHTH, "string": 2, "fret": 5}
    for tick, ticks in ((AT - EIGHTH, QUARTER), (AT, QUARTER), (AT + EIGHTH, 2 * QUARTER), (AT, 6 * QUARTER)):
        yield {"do": "rest", "tick": tick, "ticks": ticks}
    for start, end in ((AT - QUARTER, AT + QUARTER), (AT + QUARTER, AT + 2 * QUARTER), (AT, AT + 8 * QUARTER)):
        yield {"do": "phrase", "start": start, "end": end}
    for one in scene.notes:
        if one.id not in ("n", "before", "other"):
            continue
        yield {"do": "delete", "notes": [one.id]}
        for ticks in (EIGHTH // 2, EIGHTH, 2 * QUARTER, 5 * QUARTER):
            yield {"do": "length", "note": one.id, "ticks": ticks}
        for by in (-8 * QUARTER, -2 * QUARTER, -QUARTER, -EIGHTH, EIGHTH, QUARTER, 3 * QUARTER):
            yield {"do": "move", "note": one.id, "tick": one.tick + by}
        if one.fret is not None:
            for fret in (0, one.fret // 100 + 1, 22):
                yield {"do": "fret", "note": one.id, "fret": fret}
            yield {"do": "join", "note": one.id}
    for rest in scene.rests:
        yield {"do": "delete", "notes": [], "rests": [rest.id]}
    if len(scene.notes) > 1:
        yield {"do": "delete", "notes": [one.id for one in scene.notes]}


def did(solo: Solo, act: dict[str, Any]) -> list[Change] | None:
    """The change that an act is, without anything that follows; None where it does nothing."""

    def changed(kind: Kind, before: Any, after: Any) -> Change:
        return Change(kind=kind, id=(before or after).id, before=to_json(before), after=to_json(after))

    by_id = {one.id: one for one in solo.notes}
    match act["do"]:
        case "write":
            return _written(solo, act, changed)
        case "rest":
            return [changed(Kind.REST, None, Rest(id="new", tick=act["tick"], ticks=act["ticks"]))]
        case "phrase":
            return [changed(Kind.PHRASE, None, Phrase(id="new", start=act["start"], end=act["end"], name="new"))]
        case "delete":
            rests = {one.id: one for one in solo.rests}
            gone = [changed(Kind.NOTE, by_id[one], None) for one in act["notes"]]
            return gone + [changed(Kind.REST, rests[one], None) for one in act.get("rests", [])]
        case "length":
            one = by_id[act["note"]]
            return [changed(Kind.NOTE, one, with_length(one, act["ticks"]))]
        case "move":
            one = by_id[act["note"]]
            return [changed(Kind.NOTE, one, one.model_copy(update={"tick": act["tick"]}))]
        case "fret":
            one = by_id[act["note"]]
            return [changed(Kind.NOTE, one, one.model_copy(update={"fret": act["fret"] * 100}))]
        case "join":
            return _joined(solo, by_id[act["note"]], changed)
    raise ValueError(act["do"])


def _written(solo: Solo, act: dict[str, Any], changed: Any) -> list[Change]:
    tick, ticks, string, fret = act["tick"], act["ticks"], act["string"], act["fret"] * 100
    waiting = next((one for one in solo.notes if one.tick == tick and one.sure == "unknown"), None)
    if waiting is not None:
        return [
            changed(Kind.NOTE, waiting, waiting.model_copy(update={"string": string, "fret": fret, "sure": Sure.SURE}))
        ]
    there = next((one for one in solo.notes if (one.tick, one.string) == (tick, string)), None)
    if there is not None:
        return [changed(Kind.NOTE, there, there.model_copy(update={"fret": fret}))]
    line = [one for one in solo.notes if one.string == string and one.tick < tick]
    before = line[-1] if line and line[-1].fret is not None else None
    if act["join"] and before is not None and before.fret == fret and before.end == tick:
        return [changed(Kind.NOTE, before, with_length(before, before.ticks + ticks))]
    new = note("new", tick, ticks=ticks, string=string, fret=fret)
    if act["join"] and before is not None:
        kind = "hammer-on" if before.fret < fret else "pull-off" if before.fret > fret else "picked"
        new["attack"] = {"kind": kind}
    return [changed(Kind.NOTE, None, Note.model_validate(new))]


def _joined(solo: Solo, one: Note, changed: Any) -> list[Change] | None:
    line = [other for other in solo.notes if other.string == one.string and other.tick < one.tick]
    before = line[-1] if line else None
    if before is None or before.fret is None or one.fret is None:
        return None
    if before.fret == one.fret:
        if before.end != one.tick:
            return None
        longer = with_length(before, before.ticks + one.ticks)
        return [changed(Kind.NOTE, one, None), changed(Kind.NOTE, before, longer)]
    joined = one.attack.kind in ("hammer-on", "pull-off")
    kind = "picked" if joined else "hammer-on" if before.fret < one.fret else "pull-off"
    after = Note.model_validate(one.model_dump() | {"attack": {"kind": kind}})
    return [changed(Kind.NOTE, one, after)]


def cases() -> list[dict[str, Any]]:
    found = []
    for name, scene in SCENES.items():
        solo = Solo.model_validate(scene)
        for act in acts(solo):
            changes = did(solo, act)
            found.append({"scene": name, "act": act, "after": tree(solo if not changes else _after(solo, changes))})
    return found


def _after(solo: Solo, changes: list[Change]) -> Solo:
    before = take_apart(solo)
    after = apply(before, changes)
    ids = sequential_ids("new-")
    following = what_follows(before, after, changes, GROUND, lambda _: ids())
    whole = put_together(apply(after, following.changes))
    assert isinstance(whole, Solo)
    check_solo(whole, GROUND, [])
    return whole


def tree(solo: Solo) -> dict[str, Any]:
    """What a solo holds, its elements without the fields that stand at their default."""
    return {name: [_bare(element) for element in getattr(solo, name)] for name in ELEMENTS if getattr(solo, name)}


def _bare(element: Value) -> dict[str, Any]:
    fields = type(element).model_fields
    told = element.model_dump(mode="json")
    plain = {name: to_json(one) if isinstance(one := field.default, Value) else one for name, field in fields.items()}
    return {name: value for name, value in told.items() if value != ([] if plain[name] == () else plain[name])}


def text() -> str:
    """The file: scenes once, a case a line."""
    scenes = ",\n".join(
        f" {json.dumps(name)}: {json.dumps(tree(Solo.model_validate(scene)))}" for name, scene in SCENES.items()
    )
    lines = ",\n".join(" " + json.dumps(case) for case in cases())
    return f'{{"scenes": {{\n{scenes}\n}},\n"cases": [\n{lines}\n]}}\n'
