"""Roles, goals and marks: what docs/music.md states, case by case, and what holds of any line."""

import pytest

from core.notation import cases, written
from usagi.core.degrees.lines import Mark, Role
from usagi.core.degrees.solo_readings import read_notes

LETTERS = {
    "n": Role.ANTICIPATION, "c": Role.CHORD_TONE, "e": Role.ENCLOSURE, "p": Role.PASSING, "a": Role.APPROACH,
    "d": Role.PEDAL, "b": Role.BLUE, "t": Role.TENSION, "s": Role.SCALE, "o": Role.OUTSIDE, ".": None,
}  # fmt: skip


def roles(parts: list[str]) -> str:
    """The roles of a line in the notation of the table."""
    solo, ground = written(parts)
    letters = {role: letter for letter, role in LETTERS.items()}
    found = []
    for reading in sorted(read_notes(solo, ground), key=lambda reading: int(reading.id[1:])):
        line = reading.lines[0]
        word = letters[line.role] + (f">{line.goal}" if line.goal else "")
        word += "+b" if line.blue else ""
        word += "+o" if Mark.ORNAMENT in line.marks else ""
        found.append(word + ("+f" if Mark.FILLER in line.marks else ""))
    return " ".join(found)


@pytest.mark.parametrize("case", cases("roles.txt"), ids=" : ".join)
def test_what_the_conventions_state_of_roles(case: list[str]) -> None:
    assert roles(case[:-1]) == case[-1]
