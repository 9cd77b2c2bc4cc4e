"""How many keys a solo costs when its offers are taken and put right, until it is as the document has it.

One key listens to a span of two bars and one takes all that is offered there; what is not as the document has it costs
the keys below. Places are counted apart: how many notes lie on another string than in the document.

python -m training.keys FILE … --sound FOLDER
"""

from __future__ import annotations

import argparse
from collections import Counter
from dataclasses import dataclass, field
from itertools import count
from pathlib import Path
from typing import Final

from usagi.core.document.elements import Note
from usagi.core.document.pitches import written_pitch
from usagi.core.document.solo import Solo, SoloSettings
from usagi.core.formats.document_json import SoloDocument, read_document
from usagi.core.listening.hints import Hints
from usagi.core.listening.offers import Offer, offers
from usagi.core.meter.ticks import LENGTHS
from usagi.flows.listening.scoring import hear_document, sounds_in

NEAR_S: Final = 0.09
SPAN_BARS: Final = 2
# Keys, from the list that the page shows with ?.
NO_NOTE: Final = 1  # del, before the rest is taken
WRITE: Final = 1  # a note of the block
MOVE: Final = 2  # the latch, and an arrow for each step
TECHNIQUE: Final = 1  # bend, vibrato, slide, join
BEND_SIZES: Final = (1, 2, 3, 4, 6, 8)  # quarter tones; a key goes on by one


@dataclass
class Keys:
    notes: int = 0
    keys: int = 0
    elsewhere: int = 0
    why: Counter[str] = field(default_factory=Counter)

    def press(self, why: str, times: int = 1) -> None:
        self.keys += times
        self.why[why] += times


def cost(document: SoloDocument, sounds: dict[str, Path], hints: Hints, keys: Keys) -> None:
    solo, ground = document.solo, document.ground
    truth, heard = hear_document(document, sounds, hints)
    onset_s = {one.note.id: one.onset_s for one in truth}
    numbers = count()
    bare = Solo(settings=SoloSettings(**(solo.settings.model_dump())))
    offered = offers(heard.notes, bare, ground, new_id=lambda: f"o{next(numbers)}")
    wanted = [note for note in solo.notes if not note.dead]
    keys.notes += len(wanted)
    bars = solo.settings.last_bar - solo.settings.first_bar + 1
    keys.press("listen and take", 2 * -(-bars // SPAN_BARS))
    left = [offer for offer in offered if not offer.note.dead]
    for note in wanted:
        midi = written_pitch(note, solo.settings)
        at = onset_s.get(note.id, ground.grid.second(note.tick))
        near = [one for one in left if abs(one.heard.onset_s - at) < NEAR_S]
        same = [one for one in near if one.midi == midi]
        if not near:
            keys.press("missing", WRITE + _length(note.ticks, 0))
            _techniques(note, None, keys)
            continue
        best = min(same or near, key=lambda one: abs(one.heard.onset_s - at))
        left.remove(best)
        if best.midi != midi:
            others = best.heard.others
            keys.press("pitch", others.index(int(midi or 0)) + 1 if midi in others else NO_NOTE + WRITE)
        if best.note.tick != note.tick:
            keys.press("tick", MOVE)
        if best.note.ticks != note.ticks:
            keys.press("length", _length(note.ticks, best.note.ticks))
        keys.elsewhere += best.note.string != note.string
        _techniques(note, best, keys)
    keys.press("no note", NO_NOTE * len(left))


def _length(ticks: int, now: int) -> int:
    """Keys from one length to another: longer or shorter, dotted, in a triplet."""
    places: dict[int, tuple[int, int]] = {}
    for i, length in enumerate(LENGTHS):
        for value, more in ((length.ticks, 0), (length.dotted, 1), (length.triplet, 1)):
            if value is not None:
                places.setdefault(value, (i, more))
    a, b = places.get(ticks), places.get(now)
    if a is None or b is None:
        return 2
    return abs(a[0] - b[0]) + (a[1] != b[1]) or 1


def _techniques(note: Note, offer: Offer | None, keys: Keys) -> None:
    own = None if offer is None else offer.note
    mine = max((q for _, q in note.course), default=0)
    theirs = 0 if own is None else max((q for _, q in own.course), default=0)
    if mine != theirs:
        steps = [BEND_SIZES.index(q) + 1 if q in BEND_SIZES else len(BEND_SIZES) for q in (mine, theirs) if q]
        keys.press("bend", max(1, abs(steps[0] - steps[1]) if len(steps) == 2 else steps[0] if mine else 1))
    if (note.vibrato is None) != (own is None or own.vibrato is None):
        keys.press("vibrato", TECHNIQUE)
    kinds = ("hammer-on", "pull-off", "slide", "slide-in")
    wanted = note.attack.kind if note.attack.kind in kinds else "picked"
    there = "picked" if own is None or own.attack.kind not in kinds else own.attack.kind
    if wanted != there:
        keys.press("joined", TECHNIQUE)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("files", nargs="+", type=Path)
    parser.add_argument("--sound", type=Path, required=True)
    asked = parser.parse_args()
    sounds = sounds_in(asked.sound)
    every = Keys()
    for file in asked.files:
        one = Keys()
        for keys in (one, every):
            cost(read_document(file.read_bytes()), sounds, Hints(), keys)
        print(f"{file.name}: {one.keys / max(1, one.notes):.2f} keys a note ({one.notes} notes), {dict(one.why)}")
    print(f"all: {every.keys / max(1, every.notes):.2f} keys a note ({every.notes}), {dict(every.why)}, "
          f"on another string {every.elsewhere / max(1, every.notes):.2f}")  # fmt: skip


if __name__ == "__main__":
    main()
