"""The lick book: searched, licks kept, named, removed, and the nearest to one."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from uuid import UUID

from usagi.core.degrees.spoken import Reader
from usagi.core.document.elements import Phrase
from usagi.core.errors import UsagiError
from usagi.core.formats.document_json import document_from_tree
from usagi.core.formats.tables import written_table
from usagi.core.licks.drawn import Drawn, with_gaps
from usagi.core.licks.entries import notes_between
from usagi.core.licks.letters import first_pattern, patterns, read_letters, stack_patterns
from usagi.core.licks.likeness import differences
from usagi.core.licks.line import KeyFree
from usagi.core.licks.nearness import nearest
from usagi.core.licks.searching import By, Search, find, motion_marks, print_search, read_search
from usagi.core.meter.bars import bar_name
from usagi.core.values import Value, one_line
from usagi.core.view.licks import LickDrawing, counted, exactness, how_words, view_drawn
from usagi.flows.licks.indexing import index_solo, put_lick
from usagi.flows.workspace import NotThere, Workspace
from usagi.store import found as stored
from usagi.store import licks as kept_licks
from usagi.store.database import Db, transaction
from usagi.store.found import FoundSpan, Narrowed, Wanted
from usagi.store.licks import Lick
from usagi.store.shelf import REMOVED_DAYS
from usagi.store.titles import ground_place

PAGE = 20


class LickChanged(UsagiError):
    """A lick that somebody else changed since it was read."""

    code = "lick-changed"


MOST_ROWS = 5_000
COLUMNS = (
    "name", "tags", "words", "player", "tune", "title", "place", "degrees", "motion", "played", "exact", "lick",
)  # fmt: skip


class FoundLick(Value):
    """A phrase or lick that was found: whose and where, how exact, and drawn."""

    span: int
    lick: UUID | None
    version: int | None
    name: str
    tags: tuple[str, ...]
    words: str
    solo: UUID | None
    phrase: str | None
    first: str
    last: str
    tick: int
    player: str
    tune: str
    title: str
    place: str  # its bar
    how: str
    motion: str
    says: str  # how exact it is, or what differs
    frozen: str  # why, where it is
    has_sound: bool
    drawing: LickDrawing


class FoundLicks(Value):
    """What a search found: how many in a sentence, and some of them."""

    searched: str  # as it was read
    says: str
    count: int
    exact: int
    licks: tuple[FoundLick, ...]


class ChoiceView(Value):
    id: UUID
    name: str


class Choices(Value):
    """What a search can be narrowed by here."""

    players: tuple[ChoiceView, ...]
    tunes: tuple[ChoiceView, ...]
    feels: tuple[str, ...]
    tags: tuple[str, ...]


def search(
    workspace: Workspace, text: str, narrowed: Narrowed = Narrowed(), *, skip: int = 0, reader: Reader = Reader()
) -> FoundLicks:
    """Licks and phrases in which something comes, the most exact first. Raises : SearchUnreadable."""
    wanted = read_search(text)
    marks = motion_marks(narrowed.motion or "")
    narrowed = replace(narrowed, motion=f"%{marks}%" if marks else None, words=_like(narrowed.words))
    query, like = _query(wanted)
    with transaction(workspace.pool) as db:
        hits = stored.hits(db, workspace.scope, query, like, narrowed, limit=PAGE, skip=skip)
        spans = {one.id: one for one in stored.spans(db, workspace.scope, [hit[0] for hit in hits.first])}
    licks = [
        _view(spans[span], reader, wanted, exactness(
            more, (narrowed.starts_at, spans[span].starts_at), (narrowed.ends_at, spans[span].ends_at),
            (narrowed.key, spans[span].key),
        ))
        for span, more, _, _ in hits.first if span in spans
    ]  # fmt: skip
    searched = bool(wanted.items) or narrowed != Narrowed(kept=narrowed.kept)
    return FoundLicks(
        searched=print_search(wanted),
        says=counted(hits.count, hits.exact, searched=searched, kept=narrowed.kept),
        count=hits.count,
        exact=hits.exact,
        licks=tuple(licks),
    )


def found_table(
    workspace: Workspace, text: str, narrowed: Narrowed = Narrowed(), *, reader: Reader = Reader()
) -> bytes:
    """What a search finds, a row each, MOST_ROWS at most. Raises : SearchUnreadable."""
    rows: list[FoundLick] = []
    while True:
        page = search(workspace, text, narrowed, skip=len(rows), reader=reader)
        rows += page.licks
        if not page.licks or len(rows) >= min(page.count, MOST_ROWS):
            break
    return written_table(
        COLUMNS,
        (
            (
                one.name, " ".join(one.tags), one.words, one.player, one.tune, one.title, one.place,
                " ".join(note.degrees[-1] for note in one.drawing.notes if note.degrees), one.motion, one.how, one.says,
                "" if one.lick is None else one.lick,
            )
            for one in rows[:MOST_ROWS]
        ),
    )  # fmt: skip


def _like(words: str | None) -> str | None:
    """Words as a pattern that finds them anywhere."""
    if words is None or not words.strip():
        return None
    plain = words.strip().replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_")
    return f"%{plain}%"


def _query(wanted: Search) -> tuple[str, Wanted | None]:
    if not wanted.items:
        return stored.BY_NOTHING, None
    single = [(more, pattern) for more, some in enumerate(patterns(wanted)) for pattern in some]
    stacks = stack_patterns(wanted) if wanted.by is By.DEGREES else []
    like = Wanted(
        sieve=first_pattern(wanted),
        patterns=[pattern for _, pattern in single],
        mores=[more for more, _ in single],
        stack_patterns=stacks,
        stack_mores=list(range(len(stacks))),
    )
    if wanted.by is By.DEGREES:
        return (stored.BY_DEGREES_AND_GAPS if wanted.gaps else stored.BY_DEGREES), like
    return (stored.BY_STEPS_AND_GAPS if wanted.gaps else stored.BY_STEPS), like


def nearest_to(workspace: Workspace, span: int, reader: Reader = Reader()) -> FoundLicks:
    """The phrases and licks that are most like one, and what differs. Raises : NotThere."""
    with transaction(workspace.pool) as db:
        ids, marks, tokens = stored.all_tokens(db, workspace.scope, but=span)
        own = _of(stored.spans(db, workspace.scope, [span]))
        line = _line(own)
        near = nearest(line, marks, tokens, PAGE) if ids else []
        there = [int.from_bytes(ids[8 * i : 8 * i + 8], "big", signed=True) for i, _ in near]
        spans = {one.id: one for one in stored.spans(db, workspace.scope, there)}
    licks = tuple(
        _view(spans[one], reader, Search(), differences(line, _line(spans[one]))) for one in there if one in spans
    )
    return FoundLicks(searched="", says=f"the {len(licks)} nearest", count=len(licks), exact=0, licks=licks)


def span_of(workspace: Workspace, span: int, reader: Reader = Reader()) -> FoundLick:
    """One span of the index. Raises : NotThere."""
    with transaction(workspace.pool) as db:
        return _view(_of(stored.spans(db, workspace.scope, [span])), reader, Search(), "")


def choices(workspace: Workspace) -> Choices:
    """Players, tunes, feels and tags that a search can be narrowed to."""
    with transaction(workspace.pool) as db:
        there = stored.choices(db, workspace.scope)
    return Choices(
        players=tuple(ChoiceView(id=one, name=name) for one, name in there.players),
        tunes=tuple(ChoiceView(id=one, name=name) for one, name in there.tunes),
        feels=tuple(there.feels),
        tags=tuple(there.tags),
    )


@dataclass(frozen=True, slots=True)
class LickWords:
    """What the teacher says of a lick."""

    name: str = ""
    tags: tuple[str, ...] = ()
    words: str = ""


def keep(
    workspace: Workspace,
    lick_id: UUID,
    solo_id: UUID,
    first: str,
    last: str,
    said: LickWords,
    reader: Reader = Reader(),
) -> FoundLick:
    """Keep the notes from one to another as a lick. Sent again it is the same lick; so are notes that are kept already,
    under the id and the words that they have. Raises : NotThere."""
    with transaction(workspace.pool) as db:
        solo, _, ground_id = workspace.solo(db, solo_id)
        notes = notes_between(solo, first, last)
        if not any(not note.dead and note.fret is not None for note in notes):
            raise NotThere("There is no note in what is marked that could be kept as a lick.")
        known = kept_licks.kept_span(db, workspace.scope, solo_id, notes[0].id, notes[-1].id)
        if known is not None:
            lick_id = known.id
        place = ground_place(db, workspace.scope, ground_id)
        kept_licks.add_lick(
            db,
            workspace.scope,
            lick_id,
            name=one_line(said.name) or _phrase_name(solo.phrases, notes[0].tick),
            tags=_tags(said.tags),
            words=said.words.strip(),
            solo_id=solo_id,
            first_note=notes[0].id,
            last_note=notes[-1].id,
            recording_id=place.recording_id,
        )
    index_solo(workspace, solo_id)
    return lick_of(workspace, lick_id, reader)


def _phrase_name(phrases: Sequence[Phrase], tick: int) -> str:
    return next((phrase.name for phrase in phrases if phrase.start <= tick < phrase.end), "")


def _tags(tags: Sequence[str]) -> list[str]:
    """Tags in their order, trimmed, each once."""
    return list(dict.fromkeys(one_line(tag) for tag in tags if one_line(tag)))


def lick_of(workspace: Workspace, lick_id: UUID, reader: Reader = Reader()) -> FoundLick:
    """A lick by its id. Raises : NotThere."""
    with transaction(workspace.pool) as db:
        span = stored.span_of_lick(db, workspace.scope, lick_id)
        if span is None:
            raise NotThere("This lick is not here any more.", lick=str(lick_id))
        return _view(_of(stored.spans(db, workspace.scope, [span])), reader, Search(), "")


def say_of(workspace: Workspace, lick_id: UUID, version: int, said: LickWords, reader: Reader = Reader()) -> FoundLick:
    """Name a lick, tag it, put it into words. Raises : NotThere; LickChanged, when it is not that version any more."""
    with transaction(workspace.pool) as db:
        _locked(workspace, db, lick_id, version)
        kept_licks.keep_change(db, workspace.scope, lick_id)
        kept_licks.set_words(
            db, workspace.scope, lick_id, name=one_line(said.name), tags=_tags(said.tags), words=said.words.strip()
        )
    return lick_of(workspace, lick_id, reader)


def _locked(workspace: Workspace, db: Db, lick_id: UUID, version: int) -> Lick:
    lick = kept_licks.lick(db, workspace.scope, lick_id, lock=True)
    if lick is None:
        raise NotThere("This lick is not here any more.", lick=str(lick_id))
    if lick.version != version:
        raise LickChanged(
            f"Somebody changed this lick meanwhile: it is called “{lick.name}” now. Look at it and try again.",
            name=lick.name, version=lick.version,
        )  # fmt: skip
    return lick


def remove(workspace: Workspace, lick_id: UUID, version: int, *, removed: bool) -> None:
    """Remove a lick for 30 days, or restore it. Raises : NotThere, LickChanged."""
    with transaction(workspace.pool) as db:
        lick = _locked(workspace, db, lick_id, version)
        kept_licks.keep_change(db, workspace.scope, lick_id)
        kept_licks.set_removed(db, workspace.scope, lick_id, removed=removed)
        stored.forget_lick(db, workspace.scope.studio, lick_id)
        if lick.frozen is not None and not removed:
            put_lick(db, workspace, lick_id, document_from_tree(lick.frozen))
    if lick.solo_id is not None:
        index_solo(workspace, lick.solo_id)


def removed_licks(workspace: Workspace) -> list[Lick]:
    """Licks that were removed, the latest first; those of more than 30 days ago are deleted."""
    with transaction(workspace.pool) as db:
        kept_licks.delete_removed(db, workspace.scope, REMOVED_DAYS)
        return kept_licks.removed_licks(db, workspace.scope)


def _of(spans: Sequence[FoundSpan]) -> FoundSpan:
    if not spans:
        raise NotThere("This phrase is not here any more: its solo changed. Search again.")
    return spans[0]


def _line(span: FoundSpan) -> KeyFree:
    return with_gaps(read_letters(span.line, span.stacks, span.steps), Drawn.model_validate(span.drawn))


def _view(span: FoundSpan, reader: Reader, wanted: Search, says: str) -> FoundLick:
    drawn = Drawn.model_validate(span.drawn)
    line = read_letters(span.line, span.stacks, span.steps)
    match = find(wanted, line) if wanted.items else None
    return FoundLick(
        span=span.id,
        lick=span.lick_id,
        version=span.lick_version,
        name=span.lick_name or span.name,
        tags=tuple(span.tags or ()),
        words=span.words or "",
        solo=span.solo_id,
        phrase=span.phrase,
        first=span.first_note,
        last=span.last_note,
        tick=span.tick,
        player=span.player or "",
        tune=span.tune,
        title=span.title,
        place=bar_name(span.bar),
        how=how_words(span.tempo, span.feel, span.low_fret, span.thin, span.thick),
        motion=drawn.motion,
        says=says,
        frozen=span.why_frozen if span.frozen else "",
        has_sound=span.has_sound,
        drawing=view_drawn(drawn, reader, match),
    )
