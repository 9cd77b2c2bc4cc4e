"""`./usagi score`: documents against their sound, matched by their bytes; and what the studio keeps for it."""

from __future__ import annotations

import json
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from training import sources
from training.documents import write
from training.solos import invented
from training.spaces import SPACES
from training.takes import take

from test_commands import usagi
from usagi.core.document.elements import Note
from usagi.core.listening.heard import HeardNote
from usagi.core.listening.technique import BendHeard, Joined
from usagi.flows.listening.scoring import Score, Truth

FIELDS = {"file", "notes", "offered", "precision", "recall", "f", "f_onset", "octave_errors", "bends", "slides", "vibrato",
          "double_stops", "onset_ms", "by_confidence"}  # fmt: skip


@pytest.fixture(scope="module")
def takes(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Two takes of seeds, on a string that tuned nothing."""
    folder = tmp_path_factory.mktemp("takes")
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(sources, "FOLDER", tmp_path_factory.getbasetemp() / "instruments")
        for seed in (91_001, 91_002):
            write(
                folder,
                take(
                    invented(seed, style="country", kind="line", bars=2), seed=seed, guitar="guide", space=SPACES["dry"]
                ),
            )
    return folder


def test_a_document_is_scored_against_its_sound_and_all_of_them_together(takes: Path) -> None:
    files = sorted(takes.glob("*.json"))
    done = usagi("score", *files, "--sound", takes, "--json")
    assert done.returncode == 0, done.stderr
    lines = [json.loads(line) for line in done.stdout.splitlines()]
    assert [line["file"] for line in lines] == [*map(str, files), "all"]
    assert all(line.keys() >= FIELDS for line in lines)
    assert lines[2]["notes"] == lines[0]["notes"] + lines[1]["notes"] and lines[2]["f"] > 0.85
    assert lines[2]["onset_ms"]["median"] < 15
    assert sum(band["notes"] for band in lines[2]["by_confidence"]) == lines[2]["offered"]
    told = usagi("score", files[0], "--sound", takes, "--hint", "one line", "--hint", "alone", "--hint", "lowest E2")
    assert told.returncode == 0 and "F 0." in told.stdout.replace("F 1.", "F 0.")


@pytest.mark.parametrize(
    ("words", "said"),
    [(["--hint", "loud"], "is no hint: one line, let ring"), (["--hint", "lowest H9"], "“H” is not a note name")],
)
def test_a_hint_that_is_none_is_refused_with_those_that_are(takes: Path, words: list[str], said: str) -> None:
    done = usagi("score", next(takes.glob("*.json")), "--sound", takes, *words)
    assert done.returncode == 1 and said in done.stderr


def test_a_document_without_its_sound_says_so(takes: Path, tmp_path: Path) -> None:
    done = usagi("score", next(takes.glob("*.json")), "--sound", tmp_path)
    assert done.returncode == 1 and "none of its files has the same bytes" in done.stderr
    assert usagi("score", tmp_path / "none.json", "--sound", tmp_path).returncode == 1
    assert "is no folder" in usagi("score", next(takes.glob("*.json")), "--sound", tmp_path / "no").stderr


def one(onset: float, midi: int, **fields: object) -> HeardNote:
    values = {"joined": Joined.PICKED, "bend": None, "vibrato": None, "cents": np.zeros(1)} | fields
    return HeardNote(onset, onset + 0.3, midi, 0.9, **values)  # type: ignore[arg-type]


def true(onset: float, midi: float, **fields: object) -> Truth:
    return Truth(onset, onset + 0.3, midi, Note(id=f"{onset}", tick=0, ticks=10_080, string=1, fret=0, **fields))


def test_a_note_is_right_within_fifty_ms_and_fifty_cents() -> None:
    score = Score()
    truth = [true(1.0, 60), true(2.0, 62), true(3.0, 64), true(4.0, 65)]
    score.add(truth, [one(1.04, 60), one(2.06, 62), one(3.0, 76), one(5.0, 60), replace(one(6.0, 0), dead=True)])
    told = score.told("x")
    assert (told["notes"], told["offered"], told["precision"], told["recall"]) == (4, 4, 0.25, 0.25)
    assert told["octave_errors"] == 0.25 and told["f_onset"] == 0.5 and told["onset_ms"]["median"] == 40.0


def test_techniques_and_double_stops_are_counted_where_both_notes_are_right() -> None:
    score = Score()
    bent = {"course": ((0, 0), (5_040, 4))}
    score.add(
        [true(1.0, 60, **bent), true(2.0, 62, **bent), true(3.0, 64), true(3.01, 67), true(4.0, 64), true(4.01, 67)],
        [
            one(1.0, 60, bend=BendHeard(((0.0, 0.0), (0.2, 190.0)))),
            one(2.0, 62),
            one(3.0, 64),
            one(3.0, 67),
            one(4.0, 64),
        ],
    )
    told = score.told("x")
    assert told["bends"] == {"there": 2, "offered": 1, "right": 1, "f": 0.6667}
    assert told["bend_size_cents"]["median"] == 10.0 and told["double_stops"] == {"there": 2, "both": 0.5}
