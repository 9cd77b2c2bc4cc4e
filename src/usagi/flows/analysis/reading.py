"""The analysis of a solo, kept while it is edited; readings picked, roles given, words for phrases."""

from __future__ import annotations

import threading
from dataclasses import dataclass, field
from uuid import UUID

from cachetools import LRUCache

from usagi.core.checking.heard import HeardOf
from usagi.core.degrees.spoken import Reader
from usagi.core.document.elements import Choice, Note, ReadingChoice, RoleChoice, RoleName, TellingChoice
from usagi.core.document.solo import Solo
from usagi.core.phrases.analysis import Analysis, analyse, analyse_span
from usagi.core.phrases.suggesting import suggest_phrases
from usagi.core.readings.feel import Sounded
from usagi.core.view.analysis import AnalysisView, PhraseAnalysis, WhyView, view_analysis, view_span, view_why
from usagi.flows.checking.findings import sound_of
from usagi.flows.checking.sounded import sounded
from usagi.flows.editing.accepting import Answer
from usagi.flows.editing.changing import Loaded, commit, load
from usagi.flows.workspace import NotThere, Workspace, new_id

OPEN_ANALYSES = 8


@dataclass
class _Open:
    """A solo that is being read: the last analysis, and the reader for whom it was made."""

    reader: Reader
    analysis: Analysis | None = None
    heard: HeardOf = field(default_factory=HeardOf)
    lock: threading.Lock = field(default_factory=threading.Lock)


_open: LRUCache[tuple[UUID, UUID, Reader], _Open] = LRUCache(OPEN_ANALYSES)
_guard = threading.Lock()


def read_analysis(workspace: Workspace, solo_id: UUID, reader: Reader = Reader()) -> AnalysisView:
    """Everything that is read of a solo. Raises : NotThere."""
    loaded = load(workspace, solo_id)
    read = _analysed(workspace, loaded, reader)
    return view_analysis(read, loaded.solo, loaded.ground, _sounded(workspace, loaded, reader), loaded.versions)


def read_span(workspace: Workspace, solo_id: UUID, start: int, end: int, reader: Reader = Reader()) -> PhraseAnalysis:
    """A selection read like a phrase. Raises : NotThere, when nothing is written in it."""
    loaded = load(workspace, solo_id)
    if not any(start <= note.tick < end for note in loaded.solo.notes):
        raise NotThere("Nothing is written in what is marked.")
    read = _analysed(workspace, loaded, reader)
    span = analyse_span(read, start, end)
    return view_span(span, loaded.solo, loaded.ground, _sounded(workspace, loaded, reader), read)


def cut_suggested(workspace: Workspace, solo_id: UUID, reader: Reader = Reader()) -> Answer:
    """Cut phrases over all notes that stand in none, as one edit. Raises : NotThere."""
    loaded = load(workspace, solo_id)
    made = suggest_phrases(loaded.solo, loaded.ground, new_id)
    if not made:
        raise NotThere("Every note is in a phrase already.")
    phrases = tuple(sorted((*loaded.solo.phrases, *made), key=lambda phrase: phrase.start))
    return commit(
        workspace, loaded, "cut phrases as suggested", reader, solo=loaded.solo.model_copy(update={"phrases": phrases})
    )


def read_why(workspace: Workspace, solo_id: UUID, note_id: str, reader: Reader = Reader()) -> WhyView:
    """Why a note is called what it is. Raises : NotThere."""
    loaded = load(workspace, solo_id)
    return view_why(_note(loaded.solo, note_id), _analysed(workspace, loaded, reader))


def pick_reading(
    workspace: Workspace, solo_id: UUID, phrase_id: str, reading: str, *, on: bool, reader: Reader = Reader()
) -> Answer:
    """Pick a reading of a phrase in the place of the one of its kind, or let it go. Raises : NotThere."""
    loaded = load(workspace, solo_id)
    _phrase(loaded.solo, phrase_id)
    kind = reading.partition(" ")[0]
    left = [
        choice
        for choice in loaded.solo.choices
        if not (
            isinstance(choice, ReadingChoice)
            and choice.phrase == phrase_id
            and choice.reading.partition(" ")[0] == kind
        )
    ]
    made: list[Choice] = [ReadingChoice(id=new_id(), phrase=phrase_id, reading=reading)] if on else []
    return _with_choices(workspace, loaded, [*left, *made], "pick a reading" if on else "let a reading go", reader)


def tell_phrase(workspace: Workspace, solo_id: UUID, phrase_id: str, words: str, reader: Reader = Reader()) -> Answer:
    """Keep the teacher's words for a phrase; without words the program's stand alone again. Raises : NotThere."""
    loaded = load(workspace, solo_id)
    _phrase(loaded.solo, phrase_id)
    told = next(one.says for one in _analysed(workspace, loaded, reader).phrases if one.id == phrase_id)
    left: list[Choice] = [
        one for one in loaded.solo.choices if not (isinstance(one, TellingChoice) and one.phrase == phrase_id)
    ]
    if words.strip():
        left.append(TellingChoice(id=new_id(), phrase=phrase_id, words=words.strip(), told=told))
    return _with_choices(workspace, loaded, left, "tell a phrase in words", reader)


def give_role(
    workspace: Workspace,
    solo_id: UUID,
    note_id: str,
    role: RoleName | None,
    goal: str | None = None,
    reader: Reader = Reader(),
) -> Answer:
    """Give a note a role over the computed one; None leaves it to the program again. Raises : NotThere."""
    loaded = load(workspace, solo_id)
    _note(loaded.solo, note_id)
    left: list[Choice] = [
        one for one in loaded.solo.choices if not (isinstance(one, RoleChoice) and one.note == note_id)
    ]
    if role is not None:
        left.append(RoleChoice(id=new_id(), note=note_id, role=role, goal=goal))
    return _with_choices(workspace, loaded, left, "give a role" if role else "leave a role to the program", reader)


def _with_choices(workspace: Workspace, loaded: Loaded, choices: list[Choice], label: str, reader: Reader) -> Answer:
    ordered = tuple(sorted(choices, key=lambda choice: choice.id))
    return commit(workspace, loaded, label, reader, solo=loaded.solo.model_copy(update={"choices": ordered}))


def _note(solo: Solo, note_id: str) -> Note:
    found = next((note for note in solo.notes if note.id == note_id), None)
    if found is None:
        raise NotThere("This note is not here any more.")
    return found


def _phrase(solo: Solo, phrase_id: str) -> None:
    if all(phrase.id != phrase_id for phrase in solo.phrases):
        raise NotThere("This phrase is not here any more.")


def _opened(workspace: Workspace, loaded: Loaded, reader: Reader) -> _Open:
    key = (workspace.scope.studio, loaded.solo_id, reader)
    with _guard:
        now = _open.get(key)
        if now is None:
            now = _open[key] = _Open(reader)
        return now


def _analysed(workspace: Workspace, loaded: Loaded, reader: Reader) -> Analysis:
    now = _opened(workspace, loaded, reader)
    with now.lock:
        before = now.analysis
        # The same object while it is the same: what rests on it is kept.
        ground = loaded.ground if before is None or before.readings.ground != loaded.ground else before.readings.ground
        now.analysis = analyse(loaded.solo, ground, reader, before)
        return now.analysis


def _sounded(workspace: Workspace, loaded: Loaded, reader: Reader) -> dict[str, Sounded]:
    """What was heard of each note: in its check, else when it was written from an offer."""
    sound, now = sound_of(workspace, loaded), _opened(workspace, loaded, reader)
    with now.lock:
        return sounded(loaded.solo, now.heard.notes(loaded.solo, loaded.ground, sound))
