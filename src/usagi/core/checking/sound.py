"""The writing held against what is heard: pitches, bends, vibrato, onsets, what is missing on either side.

Every finding has a confidence. It rests on how sure the listener is of what it heard there and, where it heard
nothing, on how little speaks for the note (`Faint`). The weights were set on takes of seeds that are reported on
nowhere (training/faults.py).
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Final

import numpy as np

from usagi.core.checking.finding import SIZES, Finding, FindingKind, digest
from usagi.core.checking.pairing import SAME_SEMITONES, Pairing, Written, paired
from usagi.core.degrees.words import steps_words
from usagi.core.document.solo import Ground
from usagi.core.document.techniques import Harmonic, SlideIn, SlideOff
from usagi.core.listening.heard import Faint, HeardNote, Hearing
from usagi.core.listening.laying import laid
from usagi.core.listening.spectrum import FRAMES_PER_S
from usagi.core.listening.technique import Joined
from usagi.core.meter.feel import Feel

LEAST_LOOSE_S: Final = 0.015  # docs/music.md, Feel of the player
FEWEST_ONSETS: Final = 4
OFF_S: Final = 0.04  # an onset nearer than this is nobody's fault
LIKELY_OFF_S, SURELY_OFF_S = 0.05, 0.08
OFF_CENTS: Final = 40.0  # a bend that is short or wide by less is intonation
SURELY_OFF_CENTS: Final = 75.0
QUARTER_TONE: Final = 0.75  # semitones from which a pitch is another
PLATEAU_S: Final = 0.06  # that a bend must stay for its size to be told
TAIL_S: Final = 0.02  # of a sound behind the end of its note
LONGEST_S: Final = 3.0  # from a note to one that its sound may still reach
GOES_ON_S: Final = 0.06  # from the end of a sound to the one that it goes on in
TWIN_S: Final = 0.04  # between the onsets of two that may be one sound
TWIN_SEMITONES: Final = 0.4
CERTAIN: Final = 0.98  # from which a second stroke is the player's own
LONGEST_CUT_S: Final = 0.2  # from a note's own onset to the stroke of the band that cuts it
DOUBT_LEFT: Final = 0.4  # of a sound's own doubt, where a note is written at its moment and pitch
MEASURED: Final = 0.78  # how sure the measured pitch of a note is, that is written bent and not heard so
SHORTEST_S: Final = 0.07  # of a sound that is not written
NEAR_S: Final = 0.12  # in which what is faint speaks for a note
OCTAVE_SPEAKS: Final = 0.3
SPEAKS: Final = 1.7  # how much what is faint speaks for a note, times its likelihood
SHAKEN, STILL = 0.9, 0.06  # how likely vibrato must be to be missed, how little to be missed where it is written
LONG_ENOUGH_S: Final = 0.45  # of a note whose vibrato is judged
_K = FindingKind
_STEPS: Final = {1: "a half step", 2: "a whole step", 12: "an octave", 24: "two octaves"}


@dataclass(frozen=True)
class Line:
    """Some written notes with what is heard around them.

    `own` are the indices of the notes that findings are for; the others only help to pair. Sounds that are not written
    are told of between `start_s` and `end_s`.
    """

    written: tuple[Written, ...]
    own: frozenset[int]
    hearing: Hearing
    start_s: float
    end_s: float
    ground: Ground
    feels: Mapping[int, Feel]
    banded: bool = False  # a band plays along


def sound_findings(line: Line) -> list[Finding]:
    """What does not agree between the notes of a line and the sound."""
    heard = [note for note in line.hearing.notes if not note.dead]
    pairing = paired(line.written, heard)
    found: list[Finding] = []
    partner = dict(pairing.pairs)
    used = set(partner.values())
    soundings = {i: _sounding(line.written[i], j, heard, used, banded=line.banded) for i, j in pairing.pairs}
    for i, one in enumerate(line.written):
        if i not in line.own:
            continue
        if i in soundings:
            found += _of_pair(one, soundings[i], line)
        elif (missing := _not_heard(i, line, heard, pairing)) is not None:
            found.append(missing)
    found += _onsets(line, soundings)
    found += [f for j, one in enumerate(heard) if j not in used and (f := _not_written(one, line, heard, partner))]
    return found


# -- a note and its sound ----------------------------------------------------------------------------------------------


@dataclass(frozen=True)
class _Sounding:
    """What is heard of a written note: the sound that it is paired with, those into which its bend goes on, the octave
    below that is heard with it, and how sure it is that this is the note."""

    heard: HeardNote
    onward: tuple[HeardNote, ...]
    octave: HeardNote | None
    belief: float


def _sounding(one: Written, j: int, heard: Sequence[HeardNote], used: set[int], *, banded: bool) -> _Sounding:
    """All that belongs to a written note; what is found joins `used`."""
    own = heard[j]
    before = [k for k in range(len(heard)) if k not in used and _cuts(heard[k], own)] if banded else []
    if before:
        used.update(before)
        first = heard[before[0]]
        own = replace(first, end_s=own.end_s, cents=np.concatenate([first.cents, own.cents]))
    free = [k for k in range(len(heard)) if k not in used and abs(heard[k].onset_s - own.onset_s) < TWIN_S]
    twins = [k for k in free if _is_twin(heard[k], own)]
    below = [k for k in free if own.midi - heard[k].midi in (12, 24) and heard[k].confidence > own.confidence]
    used.update(twins, below)
    onward = _onward(one, j, heard, used)
    used.update(onward)
    doubt = (1 - own.confidence) * float(np.prod([1 - heard[k].confidence for k in twins]))
    if abs(_pitch_off(one, own)) < QUARTER_TONE:
        doubt *= DOUBT_LEFT
    return _Sounding(own, tuple(heard[k] for k in onward), heard[below[0]] if below else None, 1 - doubt)


def _cuts(first: HeardNote, second: HeardNote) -> bool:
    """Whether the second is only where the band struck while the first went on, of which the listener is surer."""
    apart = second.onset_s - first.onset_s
    goes_on = abs(first.end_s - second.onset_s) < TWIN_S and OFF_S < apart < LONGEST_CUT_S
    return goes_on and first.midi == second.midi and second.confidence < min(first.confidence, CERTAIN)


def _is_twin(one: HeardNote, other: HeardNote) -> bool:
    """Whether two are the same sound at two frets: a bend, and a slide to where it arrives."""
    if abs(one.end_s - other.end_s) > 2 * TWIN_S or not len(one.cents) or not len(other.cents):
        return False
    ends = [note.midi + float(np.median(note.cents[len(note.cents) // 2 :])) / 100 for note in (one, other)]
    return one.midi != other.midi and abs(ends[0] - ends[1]) < TWIN_SEMITONES


def _onward(one: Written, j: int, heard: Sequence[HeardNote], used: set[int]) -> list[int]:
    """The sounds into which a written bend goes on where it was heard as several: by a slide, or at a pitch of its."""
    found: list[int] = []
    last = j
    for k in range(j + 1, len(heard)):
        after = heard[k]
        if not one.note.course or k in used or after.onset_s > min(one.end_s, heard[last].end_s + GOES_ON_S):
            break
        starts = after.midi + (float(after.cents[-1]) / 100 if len(after.cents) else 0.0)
        reached = any(abs(pitch - starts) < QUARTER_TONE for pitch in one.course)
        if after.joined is not Joined.SLID and not (reached and after.onset_s > heard[last].end_s - GOES_ON_S):
            break
        found.append(k)
        last = k
    return found


def _of_pair(one: Written, sounding: _Sounding, line: Line) -> Iterator[Finding]:
    heard, below = sounding.heard, sounding.octave
    off = _pitch_off(one, heard)
    if abs(off) < QUARTER_TONE and below is not None:
        yield _other_pitch(one, below, below.midi - one.pitch, line)
        return
    if abs(off) >= QUARTER_TONE and not _is_released(one, heard):
        yield _other_pitch(one, heard, off, line)
        return
    if (bend := _bend(one, sounding)) is not None:
        yield bend
    if (vibrato := _vibrato(one, heard)) is not None:
        yield vibrato


def _pitch_off(one: Written, heard: HeardNote) -> float:
    """Semitones from the pitch that is written to the nearest of those at which the sound begins or stays."""
    slid = isinstance(one.note.attack, SlideIn) or heard.joined is Joined.SLID_IN  # a quick bend sounds like a slide
    wanted = {one.starts_at, one.pitch, *(one.course if slid else ())}
    off = min((heard.midi - here for here in wanted), key=abs)
    if abs(off) < QUARTER_TONE or not len(heard.cents):
        return off
    starts = [float(np.median(heard.cents[:4]))]
    if not one.note.course and heard.bend is None and len(heard.cents) > 6:
        starts.append(float(np.median(heard.cents)))
    return min((off, *(heard.midi + cents / 100 - here for cents in starts for here in wanted)), key=abs)


def _is_released(one: Written, heard: HeardNote) -> bool:
    """Whether what is written bent beforehand is heard to come down to its fret, from wherever it was bent to."""
    if one.starts_at <= one.pitch or not len(heard.cents):
        return False
    return abs(heard.midi + float(np.min(heard.cents)) / 100 - one.pitch) < SAME_SEMITONES


def _other_pitch(one: Written, heard: HeardNote, off: float, line: Line) -> Finding:
    steps = max(1, round(abs(off)))
    kind = _K.OCTAVE if steps % 12 == 0 else _K.PITCH
    way = "higher" if off > 0 else "lower"
    says = f"heard {_STEPS.get(steps, f'{steps} half steps')} {way} than written"
    own = _evidence(one, heard.onset_s, line)  # an octave speaks for the note below it by its partials alone
    confidence = heard.confidence * (1 - (OCTAVE_SPEAKS * own if kind is _K.OCTAVE else own))
    return _found(kind, one, says, SIZES[kind], confidence, heard)


def top_cents(heard: HeardNote, length_s: float) -> float | None:
    """How far a heard note goes above its fret where it stays, in cents; None when it is too short to tell.

    Parameters
    ----------
    length_s : of the written note: what is heard behind it is another's.
    """
    own = heard.cents[: max(1, round((length_s + TAIL_S) * FRAMES_PER_S))]
    if len(own) < PLATEAU_S * FRAMES_PER_S * 2:
        return None
    return float(np.percentile(own, 93))


def _bend(one: Written, sounding: _Sounding) -> Finding | None:
    note, heard = one.note, sounding.heard
    if not note.course and heard.bend is None:
        return None
    top = top_cents(heard, one.end_s - one.second)
    for after in sounding.onward:
        top = max(top or 0.0, 100 * (after.midi - heard.midi) + (top_cents(after, one.end_s - after.onset_s) or 0.0))
    moving = isinstance(note.attack, SlideIn) or isinstance(note.ending, SlideOff) or note.trill is not None
    if top is None or moving:
        return None
    wanted = max((quarters for _, quarters in note.course), default=0)
    dips = any(quarters < 0 for _, quarters in note.course)
    off = 100 * (heard.midi - one.pitch) + top - 50 * wanted
    if dips or abs(off) < OFF_CENTS:
        return None
    written = f"{steps_words(wanted)} is written" if wanted else "no bend is written"
    says = f"bent {100 * (heard.midi - one.pitch) + top:.0f} cents; {written}"
    if wanted and heard.bend is None and top < 30:
        says = f"not bent; {written}"
    judged = 1.0 if heard.judged is None else heard.judged.bend
    sure = judged if heard.bend is not None else max(1 - judged, MEASURED)
    if wanted and heard.bend is not None:  # it is bent as is written: only its size is told
        sure = 0.8 + 0.2 * judged
    confidence = sounding.belief * sure * (1.0 if abs(off) >= SURELY_OFF_CENTS else 0.9)
    return _found(_K.BEND, one, says, min(1.0, abs(off) / 150), confidence, heard)


def _vibrato(one: Written, heard: HeardNote) -> Finding | None:
    if heard.judged is None or one.end_s - one.second < LONG_ENOUGH_S or len(heard.cents) < 20 or one.note.stack:
        return None  # too short to tell, or one of several strings that sound together
    is_written = one.note.vibrato is not None or one.note.trill is not None
    chance = heard.judged.vibrato
    if is_written and heard.vibrato is None and chance < STILL:
        return _found(_K.VIBRATO, one, "vibrato is written; none is heard", SIZES[_K.VIBRATO], 0.8 - chance, heard)
    if not is_written and heard.vibrato is not None and chance > SHAKEN:
        says = f"vibrato of {heard.vibrato.width_cents:.0f} cents is heard; none is written"
        return _found(_K.VIBRATO, one, says, SIZES[_K.VIBRATO], chance - 0.15, heard)
    return None


def _found(
    kind: FindingKind, one: Written, says: str, size: float, confidence: float, heard: HeardNote | None
) -> Finding:
    note = one.note
    mend = "Delete the note" if kind is _K.NOT_HEARD else "Write what is heard"
    return Finding(
        kind, note.tick, note.end, says, size, float(np.clip(confidence, 0, 1)), digest(kind, [note], heard),
        (note.id,), heard, mend,
    )  # fmt: skip


# -- what is only on one side ------------------------------------------------------------------------------------------


def _evidence(one: Written, second: float, line: Line) -> float:
    """How much speaks for a note at its own pitch about a moment, though it was not heard there."""
    faint = [f.confidence for f in line.hearing.faint if _speaks(f, one, second)]
    return min(1.0, SPEAKS * max(faint, default=0.0))


def _speaks(faint: Faint, one: Written, second: float) -> bool:
    return (
        abs(faint.onset_s - second) < NEAR_S
        and min(abs(faint.midi - one.starts_at), abs(faint.midi - one.pitch)) < SAME_SEMITONES
    )


def _not_heard(i: int, line: Line, heard: Sequence[HeardNote], pairing: Pairing) -> Finding | None:
    one = line.written[i]
    if isinstance(one.note.attack, Harmonic) or one.note.ghost:
        return None  # the listener does not know harmonics; a ghost is hardly heard
    if _passed(i, line, heard, dict(pairing.pairs)):
        return None
    others = sum(abs(other.note.tick - one.note.tick) < 1 for other in line.written) - 1
    sure = 0.97 - _evidence(one, one.second + pairing.behind_s, line)
    sure -= 0.12 * (line.banded) + 0.12 * (others > 0) + 0.05 * (one.note.attack.kind != "picked")
    fret = "" if one.note.fret is None else f"{one.note.fret / 100:g} "
    says = f"{fret}on string {one.note.string} is not heard"
    return _found(_K.NOT_HEARD, one, says, SIZES[_K.NOT_HEARD], sure, None)


def _passed(i: int, line: Line, heard: Sequence[HeardNote], partner: dict[int, int]) -> bool:
    """Whether a joined note that no onset was heard of is one that another's sound reaches: a slide heard as a bend."""
    one = line.written[i]
    if one.note.attack.kind == "picked":
        return False
    for k, other in enumerate(line.written):
        j = partner.get(k)
        if j is None or not other.second < one.second < other.second + LONGEST_S:
            continue
        sound = heard[j]
        frame = round((one.second - sound.onset_s) * FRAMES_PER_S)
        near = sound.cents[max(0, frame - 3) : frame + 12] / 100 + sound.midi
        if len(near) and float(np.min(np.abs(near - one.starts_at))) < SAME_SEMITONES:
            return True
    return False


def _not_written(one: HeardNote, line: Line, heard: Sequence[HeardNote], partner: dict[int, int]) -> Finding | None:
    if not line.start_s <= one.onset_s < line.end_s or one.end_s - one.onset_s < SHORTEST_S:
        return None
    if _explained(one, line, heard, partner):
        return None
    grid = line.ground.grid
    tick, end = round(grid.tick(one.onset_s)), round(grid.tick(one.end_s))
    confidence = one.confidence - (0.1 if line.banded else 0.0)
    return Finding(
        _K.NOT_WRITTEN, tick, max(tick + 1, end), "a sound is not written", SIZES[_K.NOT_WRITTEN],
        float(np.clip(confidence, 0, 1)), digest(_K.NOT_WRITTEN, (), one), (), one, "Write what is heard",
    )  # fmt: skip


def _explained(one: HeardNote, line: Line, heard: Sequence[HeardNote], partner: dict[int, int]) -> bool:
    """Whether what is heard belongs to a written note: its bend heard as a slide, its trill, its tremolo, its end."""
    for i, other in enumerate(line.written):
        note = other.note
        start = heard[partner[i]].onset_s if i in partner else other.second
        if not start - 0.05 < one.onset_s < max(other.end_s, start) + 0.12:
            continue
        reached = [pitch for pitch in other.course if abs(pitch - other.starts_at) > 0.2]
        if note.trill is not None:
            reached += [other.pitch, other.pitch + (note.trill.fret - (note.fret or 0)) / 100]
        if note.tremolo is not None:
            reached.append(other.pitch)
        if isinstance(note.ending, SlideOff) or isinstance(note.attack, SlideIn):
            reached += [other.pitch + step for step in range(-5, 6) if step]
        if any(abs(one.midi - pitch) < QUARTER_TONE for pitch in reached):
            return True
    return False


# -- onsets ------------------------------------------------------------------------------------------------------------


def _onsets(line: Line, soundings: Mapping[int, _Sounding]) -> Iterator[Finding]:
    """Notes that lie off the place that the player keeps in this line (docs/music.md, Feel of the player)."""
    kept = [i for i, sounding in soundings.items() if _told_apart(line.written[i], sounding.heard)]
    off = np.array([soundings[i].heard.onset_s - line.written[i].second for i in kept])
    if len(off) < FEWEST_ONSETS:
        return
    median = float(np.median(off))
    loose = max(LEAST_LOOSE_S, float(np.subtract(*np.percentile(off, (75, 25)))))
    for i, own in zip(kept, off - median, strict=True):
        if i not in line.own or abs(own) <= max(2 * loose, OFF_S):
            continue
        one, sounding = line.written[i], soundings[i]
        says = f"begins {abs(own) * 1_000:.0f} ms {'after' if own > 0 else 'before'} the phrase's own place"
        sure = 0.97 if abs(own) > max(SURELY_OFF_S, 3 * loose) else 0.85 if abs(own) > LIKELY_OFF_S else 0.6
        size = min(1.0, abs(own) / 0.2) * SIZES[_K.ONSET]
        found = _found(_K.ONSET, one, says, size, sure * float(np.sqrt(sounding.belief)), sounding.heard)
        elsewhere = laid([sounding.heard], line.ground, line.feels)[0].tick != one.note.tick
        yield found if elsewhere else replace(found, mend="")


def _told_apart(one: Written, heard: HeardNote) -> bool:
    """Onsets that are heard to the hundredth of a second: struck by the pick, and of one string at its own pitch."""
    picked = one.note.attack.kind == "picked" and heard.joined is Joined.PICKED
    return picked and abs(_pitch_off(one, heard)) < QUARTER_TONE
