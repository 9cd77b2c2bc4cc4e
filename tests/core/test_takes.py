"""The generator of invented solos and takes: it repeats from a seed, its truth hangs together, it knows nothing of ours."""

from __future__ import annotations

import ast
from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest
from training import sources
from training.judge import Counts, count
from training.labels import labels
from training.played import How
from training.solos import STYLES, invented
from training.spaces import SPACES
from training.takes import take

from usagi.core.listening.hints import Hints
from usagi.flows.listening.hearing import AROUND, heard_in

GENERATOR = ("played", "solos", "sources", "spaces", "takes", "labels", "judge")


@pytest.fixture(autouse=True)
def folder(tmp_path_factory: pytest.TempPathFactory, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(sources, "FOLDER", tmp_path_factory.getbasetemp() / "instruments")


@pytest.mark.parametrize("name", GENERATOR)
def test_the_generator_shares_no_code_with_the_listener(name: str) -> None:
    tree = ast.parse((Path(__file__).parents[2] / "training" / f"{name}.py").read_text())
    imported = {
        alias for node in ast.walk(tree) if isinstance(node, ast.Import | ast.ImportFrom)
        for alias in ([node.module or ""] if isinstance(node, ast.ImportFrom) else [a.name for a in node.names])
    }  # fmt: skip
    assert not any(one.startswith("usagi") for one in imported)


@pytest.mark.parametrize("style", STYLES)
def test_a_solo_repeats_from_its_seed_and_a_string_sounds_one_note(style: str) -> None:
    piece = invented(77, style=style)
    assert piece == invented(77, style=style) and piece.notes
    assert piece.notes != invented(78, style=style).notes
    by_string: dict[int, list] = {}
    for note in piece.notes:
        assert (
            note.end_s > note.onset_s
            and 0 <= note.fret <= 24
            and piece.tuning[note.string - 1] + note.fret == note.midi
        )
        by_string.setdefault(note.string, []).append(note)
    for line in by_string.values():
        assert all(a.end_s <= b.onset_s + 0.061 for a, b in pairwise(line))


def test_what_is_joined_begins_on_the_string_that_sounds() -> None:
    joined = 0
    for seed in range(30):
        last: dict[int, float] = {}
        for note in invented(seed, busy=2.0, kind="line").notes:
            if note.how in (How.HAMMERED, How.PULLED, How.SLID):
                joined += 1
                assert note.onset_s - last[note.string] < 0.06
            last[note.string] = note.end_s
    assert joined > 50


def test_a_take_repeats_and_sounds_where_its_notes_are() -> None:
    piece = invented(5, style="plain", kind="line", bars=2)
    one, other = (take(piece, seed=9, guitar="guide", space=SPACES["dry"]) for _ in range(2))
    assert np.array_equal(one.sound, other.sound) and np.isfinite(one.sound).all()
    silent = np.abs(one.sound[: round((piece.notes[0].onset_s - 0.01) * 44_100)])
    assert silent.max(initial=0) < 0.01 < np.abs(one.sound).max()


def test_labels_lie_on_the_onsets_and_the_pitches() -> None:
    piece = invented(12, style="blues", kind="line")
    said = labels(piece, 1_200)
    for note in piece.notes:
        if note.dead:
            continue
        frame = round(note.onset_s * 22_050 / 256)
        assert said.heads[0, round(note.starts_at) - 35, frame] > 0.5
        assert not note.bent or said.heads[4, :, frame + 1].any()


@pytest.mark.parametrize(("space", "least"), [("dry", 0.93), ("room", 0.85), ("amplifier", 0.85), ("hiss", 0.85)])
def test_lines_on_a_string_that_tuned_nothing_are_heard(space: str, least: float) -> None:
    counts = Counts()
    for seed in range(90_001, 90_004):
        piece = invented(seed, style="rock", kind="line")
        made = take(piece, seed=seed, guitar="guide", space=SPACES[space], mistuned=False)
        sound = np.repeat(made.sound, 1)[:, None]
        at_48 = np.interp(np.arange(len(sound) * 48 // 44.1) / 48_000, np.arange(len(sound)) / 44_100, sound[:, 0])
        padded = np.pad(at_48.astype(np.float32), AROUND)[:, None]
        count(piece, list(heard_in(padded, Hints(), 0.0).notes), counts)
    assert counts.f() > least, counts.f()
    assert counts.octaves / counts.offered < 0.02
