"""What is found when phrases are searched: the index of every solo's phrases and of licks, and what is asked of it.

The index is derived. `line` holds a letter an event, `steps` a letter a step (core/licks/letters.py).
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any
from uuid import UUID

from psycopg.rows import class_row
from psycopg.types.json import Jsonb

from usagi.store.database import Db
from usagi.store.studios import Scope


@dataclass(frozen=True, slots=True)
class NewSpan:
    """A span as it is put into the index; the fields are those of its table."""

    lick_id: UUID | None
    phrase: str | None
    name: str
    first_note: str
    last_note: str
    tick: int
    bar: int
    line: str
    stacks: str | None
    steps: str
    notes: int
    pulses: float
    tempo: float
    key: int | None
    starts_at: int
    ends_at: int
    start_slot: int | None
    end_slot: int | None
    low_fret: int | None
    high_fret: int | None
    thin: int
    thick: int
    feel: str
    motion: str
    techniques: list[str]
    marks: bytes
    tokens: bytes
    drawn: Any


@dataclass(frozen=True, slots=True)
class Narrowed:
    """What a search is narrowed to; None leaves it open. Beats and key only say how exact a result is."""

    motion: str | None = None  # bars around each numeral
    starts_at: int | None = None
    ends_at: int | None = None
    start_slot: int | None = None
    end_slot: int | None = None
    key: int | None = None
    fewest: int | None = None  # notes
    most: int | None = None
    slowest: float | None = None
    fastest: float | None = None
    feel: str | None = None
    technique: str | None = None
    low_fret: int | None = None
    high_fret: int | None = None
    thin: int | None = None
    thick: int | None = None
    player: UUID | None = None
    tune: UUID | None = None
    tag: str | None = None
    kept: bool = False
    words: str | None = None  # in the names and words of licks and phrases


@dataclass(frozen=True, slots=True)
class Wanted:
    """Patterns: one that every line fits, those of the most exact first with how many notes more; for stacks, too."""

    sieve: str
    patterns: list[str]
    mores: list[int]
    stack_patterns: list[str]
    stack_mores: list[int]


@dataclass(frozen=True, slots=True)
class FoundSpan:
    """A span of the index with where it belongs; a frozen lick has no solo."""

    id: int
    solo_id: UUID | None
    lick_id: UUID | None
    phrase: str | None
    name: str
    first_note: str
    last_note: str
    tick: int
    bar: int
    tempo: float
    key: int | None
    feel: str
    motion: str
    starts_at: int
    ends_at: int
    low_fret: int | None
    high_fret: int | None
    thin: int
    thick: int
    line: str
    stacks: str | None
    steps: str
    drawn: Any
    tune: str
    title: str
    player: str | None
    recording_id: UUID | None
    has_sound: bool
    lick_name: str | None
    tags: list[str] | None
    words: str | None
    lick_version: int | None
    frozen: bool
    why_frozen: str


@dataclass(frozen=True, slots=True)
class Hits:
    """The counts, all and exact, and the first hits: id, notes more, another beat, another key."""

    count: int
    exact: int
    first: list[tuple[int, int, bool, bool]]


NEW_SPAN = """
INSERT INTO found_span
    (studio_id, solo_id, lick_id, phrase, name, first_note, last_note, tick, bar, line, stacks, steps, notes, pulses,
     tempo, key, starts_at, ends_at, start_slot, end_slot, low_fret, high_fret, thin, thick, feel, motion, techniques)
VALUES
    (%(studio_id)s, %(solo_id)s, %(lick_id)s, %(phrase)s, %(name)s, %(first_note)s, %(last_note)s, %(tick)s, %(bar)s,
     %(line)s, %(stacks)s, %(steps)s, %(notes)s, %(pulses)s, %(tempo)s, %(key)s, %(starts_at)s, %(ends_at)s,
     %(start_slot)s, %(end_slot)s, %(low_fret)s, %(high_fret)s, %(thin)s, %(thick)s, %(feel)s, %(motion)s,
     %(techniques)s)
RETURNING id
"""
NEW_TOKENS = """
INSERT INTO found_tokens (studio_id, id, marks, tokens) VALUES (%(studio_id)s, %(id)s, %(marks)s, %(tokens)s)
"""
NEW_DRAWING = "INSERT INTO found_drawing (studio_id, id, drawn) VALUES (%(studio_id)s, %(id)s, %(drawn)s)"
FORGET_SOLO = "DELETE FROM found_span WHERE studio_id = %(studio_id)s AND solo_id = %(solo_id)s"
FORGET_LICK = "DELETE FROM found_span WHERE studio_id = %(studio_id)s AND lick_id = %(lick_id)s AND solo_id IS NULL"
FORGET_ALL = "DELETE FROM found_span WHERE studio_id = %(studio_id)s"
FORGET_READ = "DELETE FROM solo_read WHERE studio_id = %(studio_id)s"
KEEP_READ = """
INSERT INTO solo_read (studio_id, solo_id, solo_version, ground_version, number, notes, sums, facts)
VALUES (%(studio_id)s, %(solo_id)s, %(solo_version)s, %(ground_version)s, %(number)s, %(notes)s, %(sums)s, %(facts)s)
ON CONFLICT (studio_id, solo_id) DO UPDATE SET
    solo_version = excluded.solo_version, ground_version = excluded.ground_version, number = excluded.number,
    notes = excluded.notes, sums = excluded.sums, facts = excluded.facts
"""
FORGET_READ_OF = "DELETE FROM solo_read WHERE studio_id = %(studio_id)s AND solo_id = %(solo_id)s"
# Solos that changed since they were read; those that were removed are read as holding nothing.
STALE = """
SELECT solo.id FROM solo
    JOIN document AS written ON written.studio_id = solo.studio_id AND written.id = solo.id
    JOIN document AS under ON under.studio_id = solo.studio_id AND under.id = solo.ground_id
    LEFT JOIN solo_read ON solo_read.studio_id = solo.studio_id AND solo_read.solo_id = solo.id
WHERE solo.studio_id = %(studio_id)s AND CASE
    WHEN solo.removed_at IS NOT NULL THEN solo_read.solo_id IS NOT NULL
    ELSE (solo_read.solo_version, solo_read.ground_version, solo_read.number)
        IS DISTINCT FROM (written.version, under.version, %(number)s)
    END
ORDER BY solo.touched_at DESC
"""
STALE_STUDIOS = "SELECT studio_id FROM solo WHERE (studio_id) IS NOT NULL GROUP BY studio_id"
# One at a time reads a solo, whoever it is.
LOCK_SOLO = "SELECT pg_advisory_xact_lock(8221003, hashtext(%(studio_id)s || %(solo_id)s))"

_NARROWED = """
    AND (%(kept)s::boolean IS FALSE OR lick_id IS NOT NULL)
    AND (%(motion)s::text IS NULL OR motion LIKE %(motion)s)
    AND (%(start_slot)s::int IS NULL OR start_slot = %(start_slot)s)
    AND (%(end_slot)s::int IS NULL OR end_slot = %(end_slot)s)
    AND (%(fewest)s::int IS NULL OR notes >= %(fewest)s)
    AND (%(most)s::int IS NULL OR notes <= %(most)s)
    AND (%(slowest)s::real IS NULL OR tempo >= %(slowest)s)
    AND (%(fastest)s::real IS NULL OR tempo <= %(fastest)s)
    AND (%(feel)s::text IS NULL OR feel = %(feel)s)
    AND (%(technique)s::text IS NULL OR %(technique)s = ANY(techniques))
    AND (%(low_fret)s::int IS NULL OR low_fret >= %(low_fret)s)
    AND (%(high_fret)s::int IS NULL OR high_fret <= %(high_fret)s)
    AND (%(thin)s::int IS NULL OR thin >= %(thin)s)
    AND (%(thick)s::int IS NULL OR thick <= %(thick)s)
    AND (%(player)s::uuid IS NULL OR solo_id IN (
        SELECT id FROM solo WHERE studio_id = %(studio_id)s AND player_id = %(player)s))
    AND (%(tune)s::uuid IS NULL OR solo_id IN (
        SELECT solo.id FROM solo JOIN ground ON ground.studio_id = solo.studio_id AND ground.id = solo.ground_id
        WHERE solo.studio_id = %(studio_id)s AND ground.tune_id = %(tune)s))
    AND (%(tag)s::text IS NULL OR lick_id IN (
        SELECT id FROM lick WHERE studio_id = %(studio_id)s AND %(tag)s = ANY(tags)))
    AND (%(words)s::text IS NULL OR name ILIKE %(words)s OR lick_id IN (
        SELECT id FROM lick WHERE studio_id = %(studio_id)s AND (name ILIKE %(words)s OR words ILIKE %(words)s)))
    AND (solo_id IS NULL OR lick_id IS NOT NULL OR solo_id NOT IN (
        SELECT id FROM solo WHERE studio_id = %(studio_id)s AND removed_at IS NOT NULL))
"""
# Both counts in one pass, the first results in another: that is quicker than keeping all of many hits, but where it is
# costly to say how many notes stand in the gaps (`_KEPT`).
_COUNTED = """
, hit AS {kept} (
    SELECT id, lick_id IS NULL AS unkept, more,
        coalesce(starts_at <> %(starts_at)s, false) OR coalesce(ends_at <> %(ends_at)s, false) AS beat,
        coalesce(key <> %(key)s, %(key)s::int IS NOT NULL) AS other_key
    FROM fitting WHERE more IS NOT NULL
), counted AS (
    SELECT count(*) AS all_of_them, count(*) FILTER (WHERE more = 0 AND NOT beat AND NOT other_key) AS exact FROM hit
)
SELECT all_of_them, exact, id, more, beat, other_key FROM counted CROSS JOIN LATERAL (
    SELECT id, more, beat, other_key, unkept FROM hit ORDER BY more, beat, other_key, unkept, id
    LIMIT %(limit)s OFFSET %(skip)s) AS first
ORDER BY more, beat, other_key, unkept, id
"""
_FRESH, _KEPT = _COUNTED.format(kept="NOT MATERIALIZED"), _COUNTED.format(kept="MATERIALIZED")
# A line of single notes is found by its letters, one with stacks by any note of each.
_IN_GAPS = """(
    SELECT min(one.more) FROM unnest(%(patterns)s::text[], %(mores)s::int[]) AS one (pattern, more)
    WHERE {} LIKE one.pattern)"""
_IN_STACKS = """(
    SELECT min(one.more) FROM unnest(%(stack_patterns)s::text[], %(stack_mores)s::int[]) AS one (pattern, more)
    WHERE stacks ~ one.pattern)"""
_SPANS = "SELECT id, lick_id, starts_at, ends_at, key, {} AS more FROM found_span WHERE studio_id = %(studio_id)s"
_DEGREES = f"{_SPANS} AND (line LIKE %(sieve)s OR stacks IS NOT NULL) {_NARROWED}"
_STEPS = f"{_SPANS} AND steps LIKE %(sieve)s {_NARROWED}"
BY_DEGREES = f"""
WITH fitting AS NOT MATERIALIZED (
    {_DEGREES.format(f"CASE WHEN stacks IS NULL THEN 0 ELSE {_IN_STACKS} END")}
){_FRESH}
"""
BY_DEGREES_AND_GAPS = f"""
WITH fitting AS NOT MATERIALIZED (
    {_DEGREES.format(f"CASE WHEN stacks IS NULL THEN {_IN_GAPS.format('line')} ELSE {_IN_STACKS} END")}
){_KEPT}
"""
BY_STEPS = f"WITH fitting AS NOT MATERIALIZED ({_STEPS.format('0')}){_FRESH}"
BY_STEPS_AND_GAPS = f"WITH fitting AS NOT MATERIALIZED ({_STEPS.format(_IN_GAPS.format('steps'))}){_KEPT}"
BY_NOTHING = f"WITH fitting AS NOT MATERIALIZED ({_SPANS.format('0')} {_NARROWED}){_FRESH}"
SPANS = """
SELECT span.id, span.solo_id, span.lick_id, span.phrase, span.name, span.first_note, span.last_note, span.tick,
    span.bar, span.tempo, span.key, span.feel, span.motion, span.starts_at, span.ends_at, span.low_fret,
    span.high_fret, span.thin, span.thick, span.line, span.stacks, span.steps, found_drawing.drawn,
    coalesce(tune.title, lick.frozen ->> 'tune', '') AS tune,
    coalesce(solo.title, lick.frozen #>> '{solo,settings,title}', '') AS title,
    coalesce(player.name, nullif(lick.frozen #>> '{solo,settings,player}', '')) AS player,
    recording.id AS recording_id, recording.frames IS NOT NULL AS has_sound,
    lick.name AS lick_name, lick.tags, lick.words, lick.version AS lick_version,
    lick.frozen IS NOT NULL AS frozen, coalesce(lick.why_frozen, '') AS why_frozen
FROM found_span AS span
    JOIN found_drawing ON found_drawing.studio_id = span.studio_id AND found_drawing.id = span.id
    LEFT JOIN lick ON lick.studio_id = span.studio_id AND lick.id = span.lick_id
    LEFT JOIN solo ON solo.studio_id = span.studio_id AND solo.id = span.solo_id
    LEFT JOIN player ON player.studio_id = solo.studio_id AND player.id = solo.player_id
    LEFT JOIN ground ON ground.studio_id = solo.studio_id AND ground.id = solo.ground_id
    LEFT JOIN tune ON tune.studio_id = ground.studio_id AND tune.id = ground.tune_id
    LEFT JOIN recording ON recording.studio_id = span.studio_id
        AND recording.id = coalesce(ground.recording_id, lick.recording_id)
WHERE span.studio_id = %(studio_id)s AND span.id = ANY(%(ids)s)
"""
ALL_TOKENS = """
SELECT string_agg(int8send(id), '')::bytea, string_agg(marks, '')::bytea, string_agg(tokens, '')::bytea
FROM found_tokens WHERE studio_id = %(studio_id)s AND id <> %(but)s
"""
OF_LICK = "SELECT id FROM found_span WHERE studio_id = %(studio_id)s AND lick_id = %(lick_id)s"
# Spans of the player's other solos in which one of some stretches of steps, or of degrees, comes.
OF_OTHER_SOLOS = """
SELECT span.id FROM found_span AS span
    JOIN solo ON solo.studio_id = span.studio_id AND solo.id = span.solo_id
WHERE span.studio_id = %(studio_id)s AND span.solo_id <> %(solo_id)s AND solo.removed_at IS NULL
    AND solo.player_id = (SELECT player_id FROM solo WHERE studio_id = %(studio_id)s AND id = %(solo_id)s)
    AND (steps LIKE ANY(%(steps)s) OR line LIKE ANY(%(lines)s))
ORDER BY span.solo_id, span.tick LIMIT %(most)s
"""
FEELS = "SELECT DISTINCT feel FROM found_span WHERE studio_id = %(studio_id)s ORDER BY feel"
PLAYERS = """
SELECT player.id, player.name FROM player WHERE player.studio_id = %(studio_id)s AND EXISTS (
    SELECT 1 FROM solo WHERE solo.studio_id = player.studio_id AND solo.player_id = player.id AND removed_at IS NULL)
ORDER BY player.name COLLATE "und-x-icu"
"""
TUNES = """
SELECT tune.id, tune.title FROM tune WHERE tune.studio_id = %(studio_id)s AND EXISTS (
    SELECT 1 FROM ground JOIN solo ON solo.studio_id = ground.studio_id AND solo.ground_id = ground.id
    WHERE ground.studio_id = tune.studio_id AND ground.tune_id = tune.id AND solo.removed_at IS NULL)
ORDER BY tune.title COLLATE "und-x-icu"
"""
TAGS = """
SELECT DISTINCT unnest(tags) AS tag FROM lick WHERE studio_id = %(studio_id)s AND removed_at IS NULL ORDER BY tag
"""


def stale_solos(db: Db, studio: UUID, number: int) -> list[UUID]:
    """Solos that changed since they were indexed, the latest change first."""
    return [row[0] for row in db.execute(STALE, {"studio_id": studio, "number": number})]


def studios_with_solos(db: Db) -> list[UUID]:
    return [row[0] for row in db.execute(STALE_STUDIOS)]


def lock_solo(db: Db, studio: UUID, solo_id: UUID) -> None:
    """Until the end of the transaction nobody else reads this solo anew."""
    db.execute(LOCK_SOLO, {"studio_id": str(studio), "solo_id": str(solo_id)})


def put_spans(db: Db, studio: UUID, solo_id: UUID | None, spans: Iterable[NewSpan]) -> None:
    """Put spans into the index, those of a solo in the place of all that it had."""
    if solo_id is not None:
        db.execute(FORGET_SOLO, {"studio_id": studio, "solo_id": solo_id})
    for span in spans:
        values = {name: getattr(span, name) for name in NewSpan.__slots__}
        row = db.execute(NEW_SPAN, values | {"studio_id": studio, "solo_id": solo_id}).fetchone()
        assert row is not None
        own = {"studio_id": studio, "id": row[0]}
        db.execute(NEW_TOKENS, own | {"marks": span.marks, "tokens": span.tokens})
        db.execute(NEW_DRAWING, own | {"drawn": Jsonb(span.drawn)})


def forget_lick(db: Db, studio: UUID, lick_id: UUID) -> None:
    """What the index holds of a frozen lick."""
    db.execute(FORGET_LICK, {"studio_id": studio, "lick_id": lick_id})


def forget_all(db: Db, studio: UUID) -> None:
    """Delete the index of a studio, and what was read of its solos."""
    for query in (FORGET_ALL, FORGET_READ):
        db.execute(query, {"studio_id": studio})


def keep_read(
    db: Db, studio: UUID, solo_id: UUID, solo_version: int, ground_version: int, number: int, facts: Any,
    notes: int | None, sums: Any,
) -> None:  # fmt: skip
    """Of which versions a solo was read, and what it counts; without notes and sums it counts for nobody."""
    values = {"solo_version": solo_version, "ground_version": ground_version, "number": number, "notes": notes}
    counted = {"facts": Jsonb(facts), "sums": None if sums is None else Jsonb(sums)}
    db.execute(KEEP_READ, {"studio_id": studio, "solo_id": solo_id} | counted | values)


def forget_read(db: Db, studio: UUID, solo_id: UUID) -> None:
    db.execute(FORGET_READ_OF, {"studio_id": studio, "solo_id": solo_id})


def hits(db: Db, scope: Scope, query: str, wanted: Wanted | None, narrowed: Narrowed, *, limit: int, skip: int) -> Hits:
    """What a search finds, by one of the queries BY_…; the most exact first."""
    values: dict[str, Any] = {name: getattr(narrowed, name) for name in Narrowed.__slots__}
    if wanted is not None:
        values |= {name: getattr(wanted, name) for name in Wanted.__slots__}
    values |= {"studio_id": scope.studio, "limit": limit, "skip": skip}
    rows = db.execute(query, values, prepare=False).fetchall()  # planned for its own patterns each time
    if not rows:
        return Hits(0, 0, [])
    return Hits(rows[0][0], rows[0][1], [(row[2], row[3], row[4], row[5]) for row in rows])


def spans(db: Db, scope: Scope, ids: Sequence[int]) -> list[FoundSpan]:
    """Spans with where they belong, in the order of their ids as given."""
    with db.cursor(row_factory=class_row(FoundSpan)) as cur:
        found = {one.id: one for one in cur.execute(SPANS, {"studio_id": scope.studio, "ids": list(ids)})}
    return [found[one] for one in ids if one in found]


def all_tokens(db: Db, scope: Scope, but: int) -> tuple[bytes, bytes, bytes]:
    """Ids (eight bytes each, the highest first), marks and tokens of all spans but one, in one order."""
    row = db.execute(ALL_TOKENS, {"studio_id": scope.studio, "but": but}, binary=True).fetchone()
    assert row is not None
    return (b"", b"", b"") if row[0] is None else (row[0], row[1], row[2])


def span_of_lick(db: Db, scope: Scope, lick_id: UUID) -> int | None:
    row = db.execute(OF_LICK, {"studio_id": scope.studio, "lick_id": lick_id}).fetchone()
    return None if row is None else int(row[0])


def of_other_solos(
    db: Db, scope: Scope, solo_id: UUID, steps: Sequence[str], lines: Sequence[str], most: int
) -> list[int]:
    """Spans of the same player's other solos that hold one of some patterns."""
    values = {"studio_id": scope.studio, "solo_id": solo_id, "steps": list(steps), "lines": list(lines), "most": most}
    return [row[0] for row in db.execute(OF_OTHER_SOLOS, values)]


@dataclass(frozen=True, slots=True)
class Choices:
    """What a search can be narrowed by in this studio."""

    players: list[tuple[UUID, str]]
    tunes: list[tuple[UUID, str]]
    feels: list[str]
    tags: list[str]


def choices(db: Db, scope: Scope) -> Choices:
    values = {"studio_id": scope.studio}
    return Choices(
        [(row[0], row[1]) for row in db.execute(PLAYERS, values)],
        [(row[0], row[1]) for row in db.execute(TUNES, values)],
        [row[0] for row in db.execute(FEELS, values)],
        [row[0] for row in db.execute(TAGS, values)],
    )
