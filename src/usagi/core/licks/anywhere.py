"""A lick to anywhere: carried with its chords, on bars of its own; what can be asked, and what goes instead."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace
from enum import StrEnum
from functools import partial
from typing import Final

from usagi.core.document.solo import SoloSettings
from usagi.core.fretboard.places import HUNDREDTHS
from usagi.core.harmony.symbols import parse_chord
from usagi.core.licks.alone import Respelled, alone, in_a_row, needed
from usagi.core.meter.feel import Feel, FeelKind
from usagi.core.phrases.elsewhere import FAMILIES, SPAN, Elsewhere, Moved, Quality, elsewhere, key_here, over_quality
from usagi.core.phrases.piece import Piece
from usagi.core.phrases.transforming import Direction, FigureImpossible, Pulse
from usagi.core.pitch.keys import Key, Mode
from usagi.core.pitch.names import Name, single_name

SWING: Final = 1.8  # of a lick that is to swing
FOURTHS: Final = tuple(5 * i % 12 for i in range(12))
HALF_STEPS: Final = tuple(range(12))
AS_IT_IS: Final = Elsewhere()


class LickFeel(StrEnum):
    """One lick for three styles. Straight and swing never move ticks; triplets move halves of a pulse to two thirds."""

    STRAIGHT = "straight"
    SWING = "swing"
    TRIPLETS = "triplets"


class Order(StrEnum):
    """The order of the twelve keys."""

    FOURTHS = "fourths"
    HALF_STEPS = "half steps"


@dataclass(frozen=True)
class Anywhere:
    """Where a lick is to go, and how it is to be felt."""

    there: Elsewhere = field(default_factory=Elsewhere)
    feel: LickFeel | None = None


@dataclass(frozen=True)
class Carried:
    """The lick there, standing alone, and what was changed, in words."""

    piece: Piece
    says: tuple[str, ...]


class LickImpossible(FigureImpossible):
    """A lick that cannot go where it was wanted; `instead` is the nearest that can, if anything does."""

    code = "lick-impossible"

    def __init__(self, sentence: str, instead: Elsewhere | None) -> None:
        super().__init__(sentence, **({} if instead is None else _said(instead)))
        self.instead = instead


def _said(there: Elsewhere) -> dict[str, str | int | None]:
    """What can be done instead, as a refusal names it."""
    first, last = there.strings or (None, None)
    return {
        "position": there.position, "first_string": first, "last_string": last, "family": there.family,
        "direction": str(there.direction), "quality": None if there.quality is None else str(there.quality),
    }  # fmt: skip


def carry(piece: Piece, wanted: Anywhere) -> Carried:
    """Carry a lick with the chords over it. Raises : LickImpossible, with the nearest that can be done."""
    try:
        return _carry(piece, wanted)
    except FigureImpossible as fault:
        for instead, words in _nearest(wanted.there):
            try:
                _carry(piece, replace(wanted, there=instead))
            except FigureImpossible:
                continue
            raise LickImpossible(f"{fault.sentence} {words}", instead) from fault
        raise LickImpossible(fault.sentence, None) from fault


def _carry(piece: Piece, wanted: Anywhere) -> Carried:
    there = _in_mode(piece, replace(wanted.there, pulse=_pulse(piece, wanted)))
    moved = elsewhere(piece.solo.notes, piece.solo.rests, there, piece.solo.settings, piece.ground.timeline)
    solo = piece.solo.model_copy(
        update={"notes": tuple(sorted(moved.notes, key=lambda note: (note.tick, note.string, note.id))),
                "rests": tuple(moved.rests), "settings": _settings(moved, wanted)}
    )  # fmt: skip
    respelled = Respelled(
        partial(_symbol, wanted=there, piece=piece), None if there.key is None else str(there.key), _feel(wanted)
    )
    return Carried(alone(Piece(solo, piece.ground), respelled, needed(piece)), moved.says)


def _settings(moved: Moved, wanted: Anywhere) -> SoloSettings:
    """A feel that is asked for is the ground's, so the solo's own gives way."""
    return moved.settings if wanted.feel is None else moved.settings.model_copy(update={"feel": None})


def _mode(piece: Piece, key: Key) -> Mode:
    """A key that is asked for by its tonic keeps the mode that the lick is in."""
    here = piece.ground.timeline.facts_at(piece.start).key
    return key.mode if here is None else here.mode


def _pulse(piece: Piece, wanted: Anywhere) -> Pulse | None:
    """Into what the pulse is divided on the way: only where the lick is divided otherwise now."""
    if wanted.feel is None:
        return None
    triplets = _in_triplets(piece)
    if wanted.feel is LickFeel.TRIPLETS:
        return None if triplets else Pulse.TRIPLETS
    return Pulse.STRAIGHT if triplets else None


def _in_triplets(piece: Piece) -> bool:
    """Whether more onsets lie on two thirds of a pulse than on its half."""
    thirds = halves = 0
    for note in piece.solo.notes:
        bar = piece.ground.timeline.bars.at(note.tick)
        _, start, pulse = bar.pulse_at(note.tick)
        if not bar.meter.compound:
            thirds += note.tick - start == 2 * pulse // 3
            halves += note.tick - start == pulse // 2
    return thirds > halves


def _feel(wanted: Anywhere) -> Feel | None:
    match wanted.feel:
        case None:
            return None
        case LickFeel.SWING:
            return Feel(FeelKind.SWING, ratio=SWING)
        case LickFeel.TRIPLETS:
            return Feel(FeelKind.TRIPLET)
        case _:
            return Feel()


def _symbol(symbol: str, *, wanted: Elsewhere, piece: Piece) -> str:
    said = symbol if wanted.quality is None else over_quality(symbol, wanted.quality)
    if wanted.key is None:
        return said
    return respelled(said, key_here(piece.ground.timeline, piece.start).tonic, wanted.key.tonic)


def respelled(symbol: str, old: Name, new: Name) -> str:
    """A chord symbol as far from one tonic as it was from the other, root and bass spelled alike.

    >>> from usagi.core.pitch.names import parse_name
    >>> respelled("F#m7b5", parse_name("G"), parse_name("Bb")), respelled("D/C", parse_name("G"), parse_name("E"))
    ('Am7b5', 'B/A')
    """
    chord = parse_chord(symbol)
    if chord.root is None:
        return symbol
    steps, semitones = (new.letter - old.letter) % 7, (new.pitch_class - old.pitch_class) % 12
    shown = chord.shown.removeprefix(str(chord.root))
    if chord.bass is not None:
        shown = f"{shown.removesuffix(f'/{chord.bass}')}/{_near(chord.bass.above(steps, semitones))}"
    return f"{_near(chord.root.above(steps, semitones))}{shown}"


def _near(name: Name) -> Name:
    return name if abs(name.alter) < 2 else single_name(name.pitch_class, upwards=name.alter > 0)


def _nearest(there: Elsewhere) -> Iterator[tuple[Elsewhere, str]]:
    """What is near to what was wanted, the nearest first, and how it is offered."""
    if there.family is not None:
        for family in FAMILIES:
            if family != there.family:
                yield replace(there, family=family), f"The {family} shape goes."
    if there.position is not None:
        for apart in range(1, 13):
            for position in (there.position - apart, there.position + apart):
                if position >= 0:
                    yield replace(there, position=position), f"Position {position} goes."
        yield replace(there, position=None), "It goes where the hand is now."
    if there.strings is not None:
        first, last = there.strings
        sets = [(a, b) for a in range(1, 9) for b in range(a, 9) if (a, b) != (first, last)]
        for a, b in sorted(sets, key=lambda one: (abs(one[0] - first) + abs(one[1] - last), one[1] - one[0])):
            yield replace(there, strings=(a, b)), f"Strings {a} to {b} go."
    if there.key is not None:
        for way in (Direction.UP, Direction.DOWN):
            if way is not there.direction:
                yield (
                    replace(there, direction=way),
                    f"The other way, {'up' if way is Direction.UP else 'down'}, it goes.",
                )
    if there.quality is not None:
        yield replace(there, quality=None), "Over its own chords it goes."


@dataclass(frozen=True)
class Options:
    """What can be asked of a lick: positions and string sets in which it has a place, families, and the keys."""

    key: Key | None
    positions: tuple[int, ...]
    string_sets: tuple[tuple[int, int], ...]
    families: tuple[str, ...]
    qualities: tuple[Quality, ...]


def _in_mode(piece: Piece, there: Elsewhere) -> Elsewhere:
    return there if there.key is None else replace(there, key=Key(there.key.tonic, _mode(piece, there.key)))


def options(piece: Piece, there: Elsewhere = AS_IT_IS) -> Options:
    """What a lick can do in the key, over the chords and in the tuning to which it goes, with its pitches kept."""
    there = replace(_in_mode(piece, there), position=None, strings=None, family=None)
    settings = piece.solo.settings
    highest = settings.highest_fret // HUNDREDTHS - SPAN
    count = len(settings.tuning)
    widest = max(note.string for note in piece.solo.notes) - min(note.string for note in piece.solo.notes)
    sets = [(a, b) for b in range(1, count + 1) for a in range(1, b + 1) if b - a <= max(2, widest) and b > a]
    return Options(
        piece.ground.timeline.facts_at(piece.start).key,
        tuple(at for at in range(highest + 1) if _goes(piece, replace(there, position=at))),
        tuple(one for one in sorted(sets) if _goes(piece, replace(there, strings=one))),
        tuple(family for family in FAMILIES if _goes(piece, replace(there, family=family))),
        tuple(quality for quality in Quality if _goes(piece, replace(there, quality=quality))),
    )


def _goes(piece: Piece, there: Elsewhere) -> bool:
    try:
        elsewhere(piece.solo.notes, (), there, piece.solo.settings, piece.ground.timeline)
    except FigureImpossible:
        return False
    return True


def all_twelve(piece: Piece, wanted: Anywhere, order: Order) -> tuple[list[Carried], list[str]]:
    """The lick in every key, from its own on; and what cannot be done, in sentences.

    Raises : FigureImpossible, where its key is not known.
    """
    here = key_here(piece.ground.timeline, piece.start)
    found: list[Carried] = []
    faults: list[str] = []
    for step in FOURTHS if order is Order.FOURTHS else HALF_STEPS:
        tonic = common_name(here.tonic.pitch_class + step) if step else here.tonic
        there = replace(wanted.there, key=Key(tonic, here.mode), direction=Direction.NEAREST)
        try:
            found.append(carry(piece, replace(wanted, there=there)))
        except FigureImpossible as fault:
            faults.append(f"{tonic}: {fault.sentence}")
    return found, faults


def common_name(pitch_class: int) -> Name:
    """A tonic as keys are called most: F# and no Gb, the other black keys flat.

    >>> [str(common_name(one)) for one in (1, 3, 6, 8, 10)]
    ['Db', 'Eb', 'F#', 'Ab', 'Bb']
    """
    return single_name(pitch_class % 12, upwards=pitch_class % 12 == 6)


def twelve_in_a_row(carried: Sequence[Carried]) -> Piece:
    """Join the keys into one piece for practice."""
    return in_a_row([one.piece for one in carried])
