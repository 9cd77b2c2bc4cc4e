"""The demo's studio: its recordings and documents, brought in the way a teacher brings them."""

from __future__ import annotations

from pathlib import Path
from typing import Literal
from uuid import UUID, uuid4

from usagi.core.document.elements import Rest
from usagi.core.document.teaching import OnePhrase, OnPhrase
from usagi.core.fretboard.places import HUNDREDTHS
from usagi.core.meter.ticks import EIGHTH
from usagi.core.phrases.simplified import Rule
from usagi.core.practice.second_ways import RULES, second_ways
from usagi.flows.editing.changing import commit, load
from usagi.flows.licks.book import LickWords, keep
from usagi.flows.licks.indexing import index_stale
from usagi.flows.notes.versions import make_version
from usagi.flows.players.cells import count_cells
from usagi.flows.practice.plan import add_group, change_line, put_remark
from usagi.flows.studio.families import RecordingFacts, describe_recording, family
from usagi.flows.studio.importing import import_json
from usagi.flows.studio.recordings import bring_recording
from usagi.flows.studio.shelf import read_shelf
from usagi.flows.workspace import Workspace, new_id
from usagi.settings import project_root

FOLDER = project_root() / "demo"
WHOLE = "second chorus, reel 14"  # has a version for a first term beside it
PUPIL, SLIPS = "verse, reel 31", "as a pupil wrote it"  # a version with three slips for the check to find
SHORT_BEND, WRONG_FRET, LEFT_OUT = 15_120, 131_040, 297_360  # ticks


def seed(workspace: Workspace, folder: Path = FOLDER) -> None:
    """Fill a new studio: the documents first, which name their sounds by hash, then the sounds that they wait for."""
    for document in sorted(folder.glob("*.json")):
        import_json(workspace, document.read_bytes())
    for sound in sorted(folder.glob("*.ogg")):
        with sound.open("rb") as file:
            bring_recording(workspace, sound.name, file)
    _say_of_reels(workspace)
    for row in [row for row in read_shelf(workspace) if row.title == WHOLE]:
        make_version(workspace, row.id, f"{WHOLE}, first term", (Rule.NO_ORNAMENTS, Rule.NO_BENDS))
    for row in [row for row in read_shelf(workspace) if row.title == PUPIL]:
        _slip(workspace, make_version(workspace, row.id, f"{PUPIL}, {SLIPS}", ()).solo_id)
    _keep_licks(workspace)
    _teach(workspace)


# Year and setting of each reel, by a part of its title.
REELS: dict[str, tuple[int, Literal["studio", "live"]]] = {
    "reel 14": (1958, "studio"), "reel 22": (1959, "studio"), "reel 31": (1959, "studio"), "reel 40": (1960, "studio"),
    "reel 52": (1961, "live"), "reel 55": (1961, "live"),
}  # fmt: skip
# Phrases that are kept, by their names in the solos: the lick's name, its tags, the teacher's words.
LICKS = {
    "the lamp is lit": ("up to the 4, bent", ("opening",), "Let the bend arrive before you shake it."),
    "down to the leading note": (
        "home over the dominant",
        ("minor", "cadence"),
        "The D♯ is the whole point: lean on it.",
    ),
    "two quays": ("curl and step", ("minor",), ""),
    "low water": ("double stops, then down", ("double stops",), ""),
    "the lamp again, higher": ("the lamp, twelve frets up", ("opening",), "Same words, louder."),
    "down the steps": ("down the box", ("position",), ""),
    "the bell": ("bell on string 1", ("bottleneck",), "Mute behind the slide."),
    "across": ("across to the 1", ("bottleneck",), ""),
    "salt on the road": ("flat third, third", ("blues", "slow"), "Slow hands: the 3 comes late."),
    "slack water": ("flat third up, the 3 again", ("blues", "opening"), "Start after beat 1, never on it."),
    "the ebb": ("falls to the 3, early", ("blues", "turnaround"), "One bend, a quarter and no more."),
    "up the ladder": ("ladder to the bent 7", ("dorian",), ""),
}


def _say_of_reels(workspace: Workspace) -> None:
    for row in read_shelf(workspace):
        for found in family(workspace, row.id):
            sound = found.recording
            known = next((facts for reel, facts in REELS.items() if sound is not None and reel in sound.title), None)
            if sound is not None and known is not None and sound.year is None:
                facts = RecordingFacts(sound.title, "Radio Fennick", known[0], "", "", "", known[1])
                describe_recording(workspace, sound.id, facts)


def _keep_licks(workspace: Workspace) -> None:
    """A dozen of the solos' phrases kept; versions have the same phrases and are passed over."""
    for row in read_shelf(workspace):
        solo = load(workspace, row.id).solo
        if solo.settings.parent is not None:
            continue
        for phrase in solo.phrases:
            said = LICKS.get(phrase.name)
            notes = [note for note in solo.notes if phrase.start <= note.tick < phrase.end]
            if said is not None and notes:
                keep(workspace, uuid4(), row.id, notes[0].id, notes[-1].id, LickWords(*said))
    index_stale(workspace)
    count_cells(workspace)


def _slip(workspace: Workspace, solo_id: UUID) -> None:
    """A bend written half a step short, a note a fret too low, one left out."""
    loaded = load(workspace, solo_id)
    notes = []
    for note in loaded.solo.notes:
        if note.tick == SHORT_BEND:
            note = note.model_copy(update={"course": tuple((at, min(q, 2)) for at, q in note.course)})
        elif note.tick == WRONG_FRET and note.fret is not None:
            note = note.model_copy(update={"fret": note.fret - HUNDREDTHS})
        if note.tick != LEFT_OUT:
            notes.append(note)
    rest = Rest(id=new_id(), tick=LEFT_OUT, ticks=EIGHTH)
    rests = tuple(sorted((*loaded.solo.rests, rest), key=lambda one: one.tick))
    slipped = loaded.solo.model_copy(update={"notes": tuple(notes), "rests": rests})
    commit(workspace, loaded, "write it down", solo=slipped)


# Remarks of the whole solo: the phrase they belong to, the words, and whether its bends have a second way.
REMARKS = (
    ("the lamp is lit", "Third finger bends, with two behind it. If it is too far, slide.", True),
    ("the tide turns", "The shift is the hard part: look at fret 12 before you leave fret 8. Pick the 15 down.", False),
    ("home, and out", "Count the rest aloud. The last note is held for two whole bars.", False),
)
GROUP = ("the tide turns", 3)  # the last so many notes of a phrase, practised by themselves


def _teach(workspace: Workspace) -> None:
    """The whole solo with a teacher's remarks, and a plan that the teacher changed."""
    row = next(row for row in read_shelf(workspace) if row.title == WHOLE)
    solo = load(workspace, row.id).solo
    ground = load(workspace, row.id).ground
    phrases = {phrase.name: phrase for phrase in solo.phrases}
    for name, words, slid in REMARKS:
        phrase = phrases[name]
        ways = second_ways(solo, ground, phrase.start, phrase.end, new_id) if slid else []
        second = next((way.notes for way in ways if way.words == RULES[Rule.NO_BENDS]), ())
        put_remark(workspace, row.id, None, OnPhrase(phrase=phrase.id), words, second)
    name, count = GROUP
    phrase = phrases[name]
    last = [note for note in solo.notes if phrase.start <= note.tick < phrase.end][-count:]
    add_group(workspace, row.id, last[0].tick, last[-1].end, "just those three notes")
    change_line(workspace, row.id, OnePhrase(phrase=phrase.id), {"start": 400, "step": 50, "passes": 3})
