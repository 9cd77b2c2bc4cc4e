"""Takes as open documents with their sound, for `./usagi score`: what is played, written as a teacher would write it.

python -m training.documents FOLDER FIRST COUNT [--guitar NAME] [--lead-db DB] [--space NAME] [--kind KIND]
"""

from __future__ import annotations

import argparse
import hashlib
import io
from collections import defaultdict
from pathlib import Path

import soundfile

from training.played import How, Piece, Played
from training.solos import invented
from training.sources import RATE_HZ
from training.spaces import SPACES
from training.takes import Take, take
from usagi.core.chart.text import read_chart
from usagi.core.document.elements import Note, Stack
from usagi.core.document.solo import Anchor, Ground, GroundSettings, Solo, SoloSettings
from usagi.core.document.techniques import Attack, HammerOn, Heard, LetRing, Picked, PullOff, Slide, SlideIn, Vibrato
from usagi.core.formats.document_json import RecordingReference, SoloDocument, write_document

QUARTER = 10_080


def document_of(made: Take, sha256: str) -> SoloDocument:
    """The solo of a take on a ground that is right."""
    piece = made.piece
    names = ("C", "C#", "D", "Eb", "E", "F", "F#", "G", "Ab", "A", "Bb", "B")
    halves = [names[root] + quality for root, quality in piece.chords]
    bars = [a if a == b else f"{a} {b}" for a, b in zip(halves[::2], halves[1::2], strict=True)]
    swing = f"{{swing {piece.swing:.2f}}} " if piece.swing > 1.12 else ""
    numbers = iter(range(10_000))
    chart = read_chart(f"| {swing}{' | '.join(bars)} |", new_id=lambda: f"c{next(numbers)}").chart
    ground = Ground(
        settings=GroundSettings(
            offset_cents=round(made.cents, 1), bars=piece.bars, form=chart.form, choruses=chart.choruses
        ),
        anchors=(
            Anchor(id="a", tick=0, second=piece.start_s),
            Anchor(id="b", tick=60 * QUARTER, second=round(piece.start_s + 3_600 / piece.tempo_bpm, 6)),
        ),
        sections=chart.sections,
        exceptions=chart.exceptions,
    )
    notes = written(piece)
    stacks = tuple(Stack(id=stack) for stack in sorted({n.stack for n in notes if n.stack is not None}))
    solo = Solo(settings=SoloSettings(title=f"seed {piece.seed}", last_bar=piece.bars), notes=notes, stacks=stacks)
    seconds = len(made.sound) / RATE_HZ
    reference = RecordingReference(sha256=sha256, seconds=seconds, title=f"{piece.style} {piece.kind}")
    return SoloDocument(tune=f"Seed {piece.seed}", recording=reference, ground=ground, solo=solo)


def written(piece: Piece) -> tuple[Note, ...]:
    """One note a string and tick; a string ends before it is struck again."""
    by_tick: dict[tuple[int, int], Played] = {}
    for note in piece.notes:
        by_tick.setdefault((note.tick, note.string), note)
    lines: dict[int, list[Played]] = defaultdict(list)
    for (_, string), note in sorted(by_tick.items()):
        lines[string].append(note)
    at_tick: dict[int, int] = defaultdict(int)
    for tick, _ in by_tick:
        at_tick[tick] += 1
    found = []
    for string, line in lines.items():
        for i, note in enumerate(line):
            free = line[i + 1].tick - note.tick if i + 1 < len(line) else note.ticks
            before = line[i - 1] if i else None
            found.append(_note(note, string, min(note.ticks, free), before, together=at_tick[note.tick] > 1))
    return tuple(sorted(found, key=lambda note: (note.tick, note.string)))


def _note(note: Played, string: int, ticks: int, before: Played | None, *, together: bool) -> Note:
    attack: Attack = Picked()
    joined = before is not None and before.fret != note.fret
    if note.how is How.HAMMERED and joined:
        attack = HammerOn()
    elif note.how is How.PULLED and joined:
        attack = PullOff()
    elif note.how is How.SLID and joined:
        attack = Slide()
    elif note.slide_in is not None:
        attack = SlideIn(start=max(0, note.fret - round(note.slide_in[0])) * 100, ticks=max(1, ticks // 4))
    course = tuple((min(at, ticks), quarters) for at, quarters in note.course_ticks)
    course = tuple(point for i, point in enumerate(course) if not i or point[0] > course[i - 1][0])
    vibrato = None
    if note.vibrato is not None:
        start = round(note.vibrato[0] / (note.end_s - note.onset_s) * ticks)
        vibrato = Vibrato(
            start=min(ticks, max(0, start)), width_cents=round(note.vibrato[1], 1), rate_hz=round(note.vibrato[2], 1)
        )
    return Note(
        id=f"n{note.tick}-{string}",
        tick=note.tick,
        ticks=max(1, ticks),
        string=string,
        fret=None if note.dead else note.fret * 100,
        attack=attack,
        course=course,
        vibrato=vibrato,
        ending=LetRing() if note.ring else None,
        dead=note.dead,
        palm_mute=note.palm_mute,
        stack=f"s{note.tick}" if together else None,
        heard=Heard(onset_s=round(note.onset_s, 4), end_s=round(note.end_s, 4), confidence=1.0),
    )


def write(folder: Path, made: Take) -> Path:
    """The document beside its sound; the document's path."""
    folder.mkdir(parents=True, exist_ok=True)
    out = io.BytesIO()
    soundfile.write(out, made.sound, RATE_HZ, format="FLAC")
    data = out.getvalue()
    (folder / f"{made.piece.seed}.flac").write_bytes(data)
    path = folder / f"{made.piece.seed}.json"
    path.write_bytes(write_document(document_of(made, hashlib.sha256(data).hexdigest())))
    return path


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("folder", type=Path)
    parser.add_argument("first", type=int)
    parser.add_argument("count", type=int)
    parser.add_argument("--guitar", action="append", default=[])
    parser.add_argument("--lead-db", type=float)
    parser.add_argument("--space", choices=list(SPACES), default="dry")
    parser.add_argument("--kind")
    asked = parser.parse_args()
    for seed in range(asked.first, asked.first + asked.count):
        guitar = asked.guitar[seed % len(asked.guitar)] if asked.guitar else None
        piece = invented(seed, kind=asked.kind)
        write(asked.folder, take(piece, seed=seed, guitar=guitar, lead_db=asked.lead_db, space=SPACES[asked.space]))


if __name__ == "__main__":
    main()
