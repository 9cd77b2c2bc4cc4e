"""Invented solos: a walk over the places under a hand, in rhythms of a style, with what a hand does to strings.

Ticks are 10,080 to the quarter note. Times are uneven as a player's are; what is struck is struck with uneven force.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Final

import numpy as np

from training.played import How, Piece, Played

QUARTER: Final = 10_080
TUNING: Final = (64, 59, 55, 50, 45, 40)
SCALES: Final = {
    "minor pentatonic": (0, 3, 5, 7, 10),
    "blues": (0, 3, 5, 6, 7, 10),
    "major pentatonic": (0, 2, 4, 7, 9),
    "dorian": (0, 2, 3, 5, 7, 9, 10),
    "mixolydian": (0, 2, 4, 5, 7, 9, 10),
    "major": (0, 2, 4, 5, 7, 9, 11),
    "chromatic": tuple(range(12)),
}
# Rhythms of a beat in parts of a quarter; a negative one is a rest.
CELLS: Final = {
    "slow": ((2,), (1,), (1.5, 0.5), (3,), (1, -1), (0.5, 0.5), (4,)),
    "even": ((1,), (0.5, 0.5), (0.5, 0.5), (0.5, 0.5, 0.5, 0.5), (-0.5, 0.5), (1.5, 0.5)),
    "triplet": ((1 / 3,) * 3, (2 / 3, 1 / 3), (1,), (0.5, 0.5), (1 / 3,) * 3),
    "fast": ((0.25,) * 4, (0.5, 0.25, 0.25), (0.25, 0.25, 0.5), (0.5, 0.5), (0.25,) * 4, (1 / 6,) * 6, (0.75, 0.25)),
}


@dataclass(frozen=True)
class Style:
    """How often a player does what, where there is time for it."""

    cells: tuple[str, ...]
    tempo: tuple[int, int]
    bend: float = 0.3
    vibrato: float = 0.5
    legato: float = 0.25
    slide: float = 0.25
    slide_in: float = 0.06
    dead: float = 0.02
    repeat: float = 0.08
    palm: float = 0.0
    swing: tuple[float, float] = (1.0, 1.0)


STYLES: Final = {
    "blues": Style(("even", "triplet", "slow"), (60, 130), bend=0.42, swing=(1.3, 2.0)),
    "rock": Style(("even", "fast"), (90, 160), bend=0.36, palm=0.1),
    "shred": Style(("fast",), (90, 150), bend=0.2, legato=0.4, palm=0.1),
    "country": Style(("even", "fast"), (90, 140), bend=0.3, dead=0.05),
    "jazz": Style(("even", "triplet"), (100, 200), bend=0.05, slide=0.2, swing=(1.1, 1.8)),
    "ballad": Style(("slow", "even"), (56, 100), bend=0.4, vibrato=0.7, slide=0.3),
    "funk": Style(("fast",), (85, 120), bend=0.06, dead=0.14, palm=0.15),
    "bottleneck": Style(("slow", "even"), (60, 120), bend=0.0, legato=0.0, slide=0.5, slide_in=0.2, vibrato=0.8),
    "plain": Style(("even", "fast", "slow"), (70, 150), bend=0.0, vibrato=0.0, legato=0.0, slide=0.0, slide_in=0.0),
}
KINDS: Final = {"line": 0.58, "mixed": 0.14, "double stops": 0.12, "let ring": 0.1, "strums": 0.06}


def invented(
    seed: int,
    *,
    bars: int = 4,
    style: str | None = None,
    kind: str | None = None,
    busy: float = 1.0,
    rakes: float = 0.0,
) -> Piece:
    """A solo of a seed.

    In a busy one the left hand does more than players usually do, so that there is much to learn; `rakes` is the share
    of picked notes with room before them that are raked into.
    """
    rng = np.random.default_rng([seed, 17])
    style = str(rng.choice(list(STYLES))) if style is None else style
    kind = str(rng.choice(list(KINDS), p=list(KINDS.values()))) if kind is None else kind
    how = STYLES[style]
    how = replace(
        how,
        bend=min(0.8, busy * how.bend),
        legato=min(0.6, busy * how.legato),
        slide=min(0.7, busy * how.slide),
        slide_in=min(0.3, busy * how.slide_in),
    )
    piece = Piece(
        seed=seed,
        style=style,
        tempo_bpm=float(rng.integers(*how.tempo)),
        bars=bars,
        swing=float(rng.uniform(*how.swing)),
        notes=(),
        chords=_chords(rng, bars),
        kind=kind,
        start_s=float(rng.uniform(0.3, 1.2)),
    )
    notes = _Player(piece, how, rng).play()
    if rakes:
        notes = _raked(notes, rakes, np.random.default_rng([seed, 29]))
    return replace(piece, notes=tuple(sorted(notes, key=lambda note: (note.onset_s, note.string))))


def _chords(rng: np.random.Generator, bars: int) -> tuple[tuple[int, str], ...]:
    key = int(rng.integers(12))
    steps = ((0, ""), (5, ""), (7, "7"), (9, "m"), (2, "m"), (0, "7"), (5, "7"), (10, ""), (0, "m"), (5, "m"))
    found: list[tuple[int, str]] = []
    for _ in range(bars):
        root, quality = steps[int(rng.integers(len(steps)))]
        one = ((key + root) % 12, quality)
        found += [one, one]
        if rng.random() < 0.2:
            root, quality = steps[int(rng.integers(len(steps)))]
            found[-1] = ((key + root) % 12, quality)
    return tuple(found)


class _Player:
    def __init__(self, piece: Piece, style: Style, rng: np.random.Generator) -> None:
        self.piece, self.style, self.rng = piece, style, rng
        self.loose_s = float(rng.uniform(0.003, 0.014))
        self.key = piece.chords[0][0]
        self.scale = SCALES[str(rng.choice(list(SCALES)[:-1], p=(0.28, 0.22, 0.16, 0.12, 0.12, 0.1)))]
        self.position = int(rng.integers(1, 13))
        self.places = self._box()
        self.at = int(rng.integers(len(self.places)))
        self.even_force = rng.random() < 0.3
        self.notes: list[Played] = []
        self.chord = 0

    def _box(self) -> list[tuple[int, int, int]]:
        """Places under the hand in order of pitch: MIDI, string from 1, fret."""
        low, high = max(0, self.position - 1), self.position + 4
        found: dict[int, tuple[int, int, int]] = {}
        for string, open_midi in enumerate(TUNING, start=1):
            for fret in range(low, min(high, 22) + 1):
                midi = open_midi + fret
                if (midi - self.key) % 12 in self.scale:
                    found.setdefault(midi, (midi, string, fret))
        return sorted(found.values())

    def _force(self) -> float:
        return 0.8 if self.even_force else float(self.rng.uniform(0.35, 1.0))

    def play(self) -> list[Played]:
        tick, end = 0, self.piece.bars * 4 * QUARTER
        while tick < end - QUARTER // 2:
            if self.rng.random() < 0.06:
                self.position = int(np.clip(self.position + self.rng.integers(-5, 6), 0, 15))
                self.places = self._box()
                self.at = min(self.at, len(self.places) - 1)
            cells = CELLS["slow" if self.piece.kind == "strums" else str(self.rng.choice(self.style.cells))]
            for part in cells[int(self.rng.integers(len(cells)))]:
                ticks = round(abs(part) * QUARTER)
                if tick + ticks > end:
                    break
                if part > 0:
                    self._place(tick, ticks)
                tick += ticks
        return self._shaped()

    def _onset(self, tick: int) -> float:
        return max(0.02, self.piece.second(tick) + float(self.rng.normal(0, self.loose_s)))

    def _step(self) -> tuple[int, int, int]:
        if self.rng.random() >= self.style.repeat:
            step = int(
                self.rng.choice((-4, -3, -2, -1, 1, 2, 3, 4), p=(0.05, 0.08, 0.14, 0.23, 0.23, 0.14, 0.08, 0.05))
            )
            self.at = int(np.clip(self.at + step, 0, len(self.places) - 1))
        return self.places[self.at]

    def _place(self, tick: int, ticks: int) -> None:
        kind = self.piece.kind
        onset, end = self._onset(tick), self.piece.second(tick + ticks)
        if kind == "strums" or (kind == "mixed" and self.rng.random() < 0.15):
            self._strum(tick, ticks, onset, end)
            return
        midi, string, fret = self._step()
        dead = self.rng.random() < self.style.dead and ticks <= QUARTER // 2
        note = Played(onset, end, midi, string, fret, tick, ticks, loud=self._force(), dead=dead)
        self.notes.append(note)
        if (kind == "double stops" and self.rng.random() < 0.6) or (kind == "mixed" and self.rng.random() < 0.15):
            self._second(note)

    def _second(self, note: Played) -> None:
        """Another string with it: from a second up to an octave away."""
        near = [
            (midi, string, fret)
            for string, open_midi in enumerate(TUNING, start=1)
            for fret in range(max(0, note.fret - 3), note.fret + 4)
            if 2 <= abs((midi := open_midi + fret) - note.midi) <= 12
            and 1 <= abs(string - note.string) <= 3
            and ((midi - self.key) % 12 in self.scale or self.rng.random() < 0.2)
        ]
        if not near or note.dead:
            return
        weights = np.array([{3: 3, 4: 3, 5: 3, 7: 2, 8: 2, 9: 2, 12: 2}.get(abs(m - note.midi), 1) for m, _, _ in near])
        midi, string, fret = near[int(self.rng.choice(len(near), p=weights / weights.sum()))]
        self.chord += 1
        apart = float(self.rng.uniform(0, 0.012))
        loud = float(np.clip(note.loud * self.rng.uniform(0.75, 1.25), 0.3, 1.0))
        self.notes[-1] = replace(note, chord=self.chord)
        self.notes.append(
            replace(
                note, onset_s=note.onset_s + apart, midi=midi, string=string, fret=fret, loud=loud, chord=self.chord
            )
        )

    def _strum(self, tick: int, ticks: int, onset: float, end: float) -> None:
        root, quality = self.piece.chords[min(len(self.piece.chords) - 1, tick // (2 * QUARTER))]
        tones = {
            (root + step) % 12
            for step in (0, 3 if quality.startswith("m") else 4, 7, *((10,) if "7" in quality else ()))
        }
        count = int(self.rng.integers(3, 7))
        first = int(self.rng.integers(0, 7 - count))
        position = int(self.rng.integers(0, 10))
        self.chord += 1
        apart = float(self.rng.uniform(0.004, 0.03))
        strings = range(6 - first, 6 - first - count, -1)
        for order, string in enumerate(strings if self.rng.random() < 0.65 else reversed(list(strings))):
            frets = [f for f in range(position, position + 5) if (TUNING[string - 1] + f) % 12 in tones]
            if not frets:
                continue
            fret = int(self.rng.choice(frets))
            at = onset + order * apart
            self.notes.append(
                Played(at, max(end, at + 0.08), TUNING[string - 1] + fret, string, fret, tick, ticks,
                       loud=float(self.rng.uniform(0.5, 0.9)), chord=self.chord)
            )  # fmt: skip

    # What the hand does, once it is known what comes next.

    def _shaped(self) -> list[Played]:
        notes = self.notes
        if self.piece.kind == "let ring":
            return self._ringing(notes)
        out: list[Played] = []
        palm = self.rng.random() < self.style.palm
        for i, note in enumerate(notes):
            previous = out[-1] if out and out[-1].chord == 0 else None
            following = notes[i + 1] if i + 1 < len(notes) else None
            if self.rng.random() < 0.1:
                palm = self.rng.random() < self.style.palm
            out.append(self._one(note, previous, following, palm=palm, out=out))
        return _cut(out)

    def _one(
        self, note: Played, previous: Played | None, following: Played | None, *, palm: bool, out: list[Played]
    ) -> Played:
        rng, style = self.rng, self.style
        length = note.end_s - note.onset_s
        if note.dead or note.chord:
            return replace(note, palm_mute=palm and rng.random() < 0.5)
        joined = (
            previous is not None and not previous.dead and previous.string == note.string and previous.midi != note.midi
            and note.onset_s - previous.end_s < 0.04 and not (previous.bent and previous.course[-1][1] != 0)
            and note.onset_s - previous.onset_s > 0.07
        )  # fmt: skip
        if (
            not joined
            and previous is not None
            and previous.chord == 0
            and not previous.dead
            and rng.random() < style.slide
        ):
            # Along the string instead of across it, where that is within a reach.
            fret = note.midi - TUNING[previous.string - 1]
            if (
                0 < fret <= 22
                and 1 <= abs(fret - previous.fret) <= 7
                and not previous.bent
                and note.onset_s - previous.end_s < 0.04
            ):
                note = replace(note, string=previous.string, fret=fret)
                joined = True
        if joined and previous is not None:
            apart = abs(note.fret - previous.fret)
            room = previous.end_s - previous.onset_s
            if (
                rng.random() < style.slide / max(style.slide + style.legato, 1e-9)
                and style.slide
                and rng.random() < 0.6
            ):
                if previous.fret and note.fret and apart <= 12 and room > 0.12:
                    glide = float(min(rng.uniform(0.04, 0.05 + 0.025 * apart), 0.5 * room))
                    out[-1] = replace(previous, vibrato=None)
                    return self._held(replace(note, how=How.SLID, glide_s=glide), following)
            elif apart <= 5 and rng.random() < 3 * style.legato:
                how = How.HAMMERED if note.fret > previous.fret else How.PULLED
                return self._held(replace(note, how=how), following)
        if rng.random() < style.slide_in and length > 0.15 and note.fret > 2:
            below = float(rng.choice((1, 2, 3, 2, -2)))
            over = float(min(rng.uniform(0.05, 0.15), 0.4 * length))
            return self._held(replace(note, how=How.SLID_IN, slide_in=(below, over)), following)
        if length > 0.22 and note.fret > 1 and note.string <= 4 and rng.random() < style.bend:
            return self._bent(note)
        return self._held(replace(note, palm_mute=palm), following)

    def _held(self, note: Played, following: Played | None) -> Played:
        rng, length = self.rng, note.end_s - note.onset_s
        if length > 0.42 and rng.random() < self.style.vibrato and not note.palm_mute:
            start = float(rng.uniform(0.08, 0.45) * length)
            width = float(rng.uniform(24, 110) if rng.random() < 0.8 else rng.uniform(110, 180))
            return replace(note, vibrato=(start, width, float(rng.uniform(4.0, 7.5))))
        last = following is None or following.onset_s - note.end_s > 0.1
        if last and length > 0.35 and rng.random() < 0.06 and note.fret > 5:
            return replace(note, slide_off=(float(rng.choice((-3, -4, 3))), float(rng.uniform(0.08, 0.2))))
        if rng.random() < 0.12:  # staccato
            return replace(note, end_s=note.onset_s + max(0.06, length * float(rng.uniform(0.35, 0.7))))
        return note

    def _bent(self, note: Played) -> Played:
        rng, length = self.rng, note.end_s - note.onset_s
        quarters = int(rng.choice((1, 2, 4, 6), p=(0.1, 0.32, 0.5, 0.08)))
        up, per_s = quarters * 50.0 + float(rng.normal(0, 4)), note.ticks / length
        reached = float(np.clip(rng.uniform(0.07, 0.3), 0.05, 0.5 * length))
        wait = float(rng.choice((0.0, 0.03, 0.1 * length)))
        shape = str(rng.choice(("hold", "release", "prebend", "again"), p=(0.55, 0.25, 0.12, 0.08)))
        if length < 0.4 and shape in ("release", "again"):
            shape = "hold"
        back = float(rng.uniform(0.06, 0.2))
        points: tuple[tuple[float, float], ...]
        if shape == "prebend":
            let = float(rng.uniform(0.15, 0.4)) * length
            points = ((0.0, up), (let, up), (min(let + back, 0.95 * length), 0.0))
        elif shape == "hold":
            points = ((0.0, 0.0), (wait + 1e-3, 0.0), (wait + reached, up))
        else:
            top = max(wait + reached + 0.05, 0.55 * length)
            points = (
                (0.0, 0.0),
                (wait + 1e-3, 0.0),
                (wait + reached, up),
                (top, up),
                (min(top + back, 0.93 * length), 0.0),
            )
            if shape == "again" and length > 0.8:
                points += ((0.97 * length, up),)
        written = tuple((round(at * per_s), round(cents / 50)) for at, cents in points)
        vibrato = None
        if shape == "hold" and length - wait - reached > 0.35 and rng.random() < self.style.vibrato:
            vibrato = (
                wait + reached + float(rng.uniform(0.03, 0.15)),
                float(rng.uniform(24, 90)),
                float(rng.uniform(4, 7)),
            )
        return replace(note, course=points, course_ticks=_written(written), vibrato=vibrato)

    def _ringing(self, notes: list[Played]) -> list[Played]:
        """Every string rings until it is struck again, or until the hand lets go."""
        out: list[Played] = []
        for i, note in enumerate(notes):
            later = next(
                (n.onset_s for n in notes[i + 1 :] if n.string == note.string and n.onset_s > note.onset_s), np.inf
            )
            long = note.onset_s + float(self.rng.uniform(0.8, 3.5))
            out.append(replace(note, end_s=float(min(later - 0.01, long)), ring=True, dead=False))
        return [note for note in out if note.end_s - note.onset_s > 0.05]


def _raked(notes: list[Played], share: float, rng: np.random.Generator) -> list[Played]:
    """Muted strings brushed before notes: of the lower strings, on to the note."""
    out: list[Played] = []
    for note in notes:
        most = min(3, 6 - note.string)
        apart = float(rng.uniform(0.014, 0.035))
        count = int(rng.integers(2, most + 1)) if most >= 2 else 0
        first = note.onset_s - count * apart
        free = count and note.how is How.PICKED and not note.dead and not note.chord and first > 0.05
        if free and rng.random() < share and all(first - other.onset_s > 0.12 for other in out[-2:]):
            out = [replace(other, end_s=min(other.end_s, first)) for other in out]
            for k in range(count):
                at = first + k * apart
                string = note.string + count - k
                out.append(
                    Played(at, at + 0.03, TUNING[string - 1] + note.fret, string, note.fret, note.tick, 1,
                           loud=note.loud * float(rng.uniform(0.4, 0.8)), dead=True)
                )  # fmt: skip
            note = replace(note, raked=count)
        out.append(note)
    return out


def _written(points: tuple[tuple[int, int], ...]) -> tuple[tuple[int, int], ...]:
    kept: list[tuple[int, int]] = []
    for at, quarters in points:
        if not kept or at > kept[-1][0]:
            kept.append((at, quarters))
    return tuple(kept)


def _cut(notes: list[Played]) -> list[Played]:
    """A string sounds one note; a line's note ends before the next is struck."""
    out: list[Played] = []
    for i, note in enumerate(notes):
        later = [n.onset_s for n in notes[i + 1 : i + 14] if n.onset_s > note.onset_s + 0.04 or n.string == note.string]
        end = min([note.end_s, *later]) if later else note.end_s
        out.append(replace(note, end_s=max(end, note.onset_s + 0.03)))
    return out
