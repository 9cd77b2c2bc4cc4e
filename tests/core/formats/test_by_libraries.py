"""Files that two other libraries wrote: all notes of the chosen part come in, at their pitches and places."""

from __future__ import annotations

import warnings
from collections import Counter
from pathlib import Path

import pytest

from core.formats.asking import brought_in
from usagi.core.document.pitches import written_pitch
from usagi.core.formats.laid.laying import Laid

QUARTER = 10_080
Line = list[tuple[str | None, float]]  # name with octave (None is a rest), length in quarter notes

LINES: dict[str, tuple[tuple[int, int], Line]] = {
    "eighths": ((4, 4), [("E4", 0.5), ("G4", 0.5), ("A4", 1), ("B4", 0.5), ("D5", 0.5), ("E5", 1), ("D5", 1.5), ("B4", 0.5), (None, 1), ("A4", 1)]),
    "triplets": ((4, 4), [("C5", 1 / 3), ("D5", 1 / 3), ("E5", 1 / 3), ("G4", 1), ("A4", 2 / 3), ("C5", 1 / 3), ("A4", 1)]),
    "tied": ((3, 4), [("A4", 2), ("B4", 4), ("C#5", 1.5), ("D5", 1.5)]),
    "compound": ((6, 8), [("G4", 0.5), ("A4", 0.5), ("Bb4", 0.5), ("C5", 1.5), ("D5", 1), ("C5", 0.5), ("G4", 1.5)]),
    "fast": ((2, 4), [("E5", 0.25), ("D5", 0.25), ("C5", 0.25), ("B4", 0.25), ("A4", 0.75), ("G#4", 0.25)]),
}  # fmt: skip


def wanted(line: Line) -> list[tuple[float, float]]:
    """Onset in quarter notes and MIDI pitch."""
    names = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9, "B": 11}
    found: list[tuple[float, float]] = []
    at = 0.0
    for name, quarters in line:
        if name is not None:
            alter = name.count("#") - name[1:].count("b")
            found.append((round(at, 3), names[name[0]] + alter + 12 * (int(name[-1]) + 1)))
        at += quarters
    return found


def heard(laid: Laid) -> list[tuple[float, float]]:
    solo = laid.document.solo
    return [(round(n.tick / QUARTER, 3), written_pitch(n, solo.settings) or 0) for n in solo.notes]


def by_music21(meter: tuple[int, int], line: Line, folder: Path) -> dict[str, bytes]:
    import music21

    part = music21.stream.Part()
    part.append(music21.meter.TimeSignature(f"{meter[0]}/{meter[1]}"))
    for name, quarters in line:
        length = music21.common.opFrac(quarters)
        spelled = None if name is None else name.replace("b", "-")
        part.append(
            music21.note.Rest(quarterLength=length)
            if spelled is None
            else music21.note.Note(spelled, quarterLength=length)
        )
    score = music21.stream.Score([part])
    return {
        format: Path(score.write(kind, folder / f"m21.{kind}")).read_bytes()
        for format, kind in (("musicxml", "musicxml"), ("midi", "midi"))
    }


def by_partitura(meter: tuple[int, int], line: Line, folder: Path) -> dict[str, bytes]:
    import partitura
    from partitura import score as music

    part = music.Part("P0", "Lead", quarter_duration=12)
    part.add(music.TimeSignature(*meter), 0)
    at = 0
    for i, (name, quarters) in enumerate(line):
        end = at + round(quarters * 12)
        if name is None:
            part.add(music.Rest(id=f"r{i}", voice=1), at, end)
        else:
            alter = name.count("#") - name[1:].count("b")
            part.add(music.Note(id=f"n{i}", step=name[0], octave=int(name[-1]), alter=alter or None, voice=1), at, end)
        at = end
    music.add_measures(part)
    music.tie_notes(part)
    partitura.save_musicxml(part, str(folder / "pt.musicxml"))
    partitura.save_score_midi(part, str(folder / "pt.mid"))
    return {"musicxml": (folder / "pt.musicxml").read_bytes(), "midi": (folder / "pt.mid").read_bytes()}


@pytest.mark.parametrize("write", [by_music21, by_partitura], ids=["music21", "partitura"])
def test_all_notes_come_in(write, tmp_path: Path) -> None:
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        for name, (meter, line) in LINES.items():
            for format, data in write(meter, line, tmp_path).items():
                laid = brought_in(data, format)
                assert Counter(heard(laid)) == Counter(wanted(line)), (name, format)
                assert laid.listed == ()
                if format == "musicxml":
                    assert str(laid.document.ground.timeline.facts[1].meter) == f"{meter[0]}/{meter[1]}"
