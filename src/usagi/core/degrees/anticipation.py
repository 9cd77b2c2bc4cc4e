"""Anticipation: notes that are heard against the chord to come (docs/music.md, Degrees)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from usagi.core.chart.timeline import Change, Timeline
from usagi.core.document.elements import AnticipationChoice, Note
from usagi.core.document.pitches import Stage, main_stage, stages
from usagi.core.document.solo import SoloSettings
from usagi.core.harmony.heard import Heard


def anticipated(
    notes: Sequence[Note],
    settings: SoloSettings,
    timeline: Timeline,
    *,
    choices: Mapping[str, AnticipationChoice],
) -> dict[str, Change]:
    """The change that each anticipating note is heard against, by note id.

    A note anticipates when it starts at most the solo's window (never over half a pulse) before a change to another
    chord, and sounds at least as long after the change as before it, or does not fit the chord here while it and
    every later note before the change fit the next. A choice overrules both ways. `notes` are in time order.

    Parameters
    ----------
    notes : in time order.
    settings : the solo's window of anticipation.
    timeline : the chords.
    choices : overruled anticipations, by note id.
    """
    found: dict[str, Change] = {}
    for i, note in enumerate(notes):
        choice = choices.get(note.id)
        if note.dead or (choice is not None and choice.heard == "here"):
            continue
        to = timeline.next_other(note.tick)
        if to is None or to.heard is None or note.tick >= timeline.written_end:
            continue
        if choice is None and to.tick - note.tick > settings.window:
            continue
        here = timeline.chord_at(note.tick)
        if here is not None and here.heard is None:
            continue
        if choice is not None:
            found[note.id] = to
            continue
        pulse = timeline.bars.at(note.tick).pulse_at(note.tick)[2]
        before = to.tick - note.tick
        if before > pulse // 2:
            continue
        if note.end - to.tick >= before or _leads_over(i, notes, settings, here, to):
            found[note.id] = to
    return found


def _leads_over(i: int, notes: Sequence[Note], settings: SoloSettings, here: Change | None, to: Change) -> bool:
    if here is None or here.heard is None or to.heard is None or _fits(stages(notes[i], settings), here.heard):
        return False
    for note in notes[i:]:
        if note.tick >= to.tick:
            break
        if not note.dead and not _fits(stages(note, settings), to.heard):
            return False
    return True


def _fits(of: list[Stage], heard: Heard) -> bool:
    """Whether the note's main pitch is a core tone or a named extension."""
    stage = main_stage(of)
    return stage is not None and stage.midi == int(stage.midi) and (
        int(stage.midi) - heard.root.pitch_class
    ) % 12 in heard.names  # fmt: skip
