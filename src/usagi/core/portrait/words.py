"""What a figure says, in words: what was counted, and nothing about the person."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Final

from usagi.core.degrees.degree import Style
from usagi.core.degrees.words import steps_words
from usagi.core.pitch.intervals import interval_words
from usagi.core.pitch.keys import PLAIN
from usagi.core.portrait.comparing import Difference
from usagi.core.portrait.portrait import FEWEST, Figure, Measure, Portrait
from usagi.core.portrait.tallies import QUALITIES, Group

EXTENDED: Final = ("1", "b9", "9", "b3", "3", "11", "#11", "5", "b13", "13", "b7", "7")
WIDTH: Final = 4  # frets of the stretch of the neck that is named
TITLES: Final[Mapping[str, str]] = {
    Group.ROLES: "What the notes are", Group.PATHS: "Ways to a chord tone", Group.INTERVALS: "From note to note",
    Group.CONTOURS: "Shapes of phrases", Group.STARTS: "Where phrases start in the bar",
    Group.ENDS: "Where phrases end in the bar", Group.START_DEGREES: "The first note of a phrase",
    Group.END_DEGREES: "The last note of a phrase", Group.LENGTHS: "How long phrases are",
    Group.RESTS: "Rests between phrases", Group.STRINGS: "Strings", Group.FRETS: "Frets", Group.PLACES: "Places",
    Group.GRIPS: "Grips under a phrase", Group.TECHNIQUES: "Techniques", Group.BENDS: "Sizes of bends",
    Group.SLIDES: "Slides", Group.PICKING: "How notes begin", Group.LAST_NOTES: "Last notes",
    Group.OPENINGS: "What opens each section",
}  # fmt: skip
ROLES: Final[Mapping[str, str]] = {
    "chord tone": "chord tones", "anticipation": "anticipations", "enclosure": "enclosures", "passing": "passing notes",
    "approach": "approach notes", "pedal": "pedals", "blue": "blue notes", "tension": "tensions",
    "scale": "scale notes", "outside": "outside notes",
}  # fmt: skip
MEASURES: Final[Mapping[str, str]] = {
    "vibrato width": "vibrato, width in cents", "vibrato rate": "vibrato, turns a second",
    "placement": "behind the beat, in ms", "swing": "swing, long to short",
}  # fmt: skip


def degree_name(slot: str, style: Style = Style.DEFAULT) -> str:
    """A slot as a reader says it, whatever chord is under it."""
    names = PLAIN if style is Style.PLAIN else EXTENDED
    return names[int(slot)]


def title(group: str) -> str:
    """What a group asks.

    >>> title("degrees dominant"), title("starts")
    ('Degrees over dominant chords', 'Where phrases start in the bar')
    """
    kind, _, quality = group.partition(" ")
    if quality in QUALITIES:
        return f"{'Degrees' if kind == Group.DEGREES else 'From degree to degree'} over {quality} chords"
    return TITLES[group]


def label(group: str, answer: str, style: Style = Style.DEFAULT) -> str:
    """An answer in a few words.

    >>> label("starts", "5"), label("moves dominant", "3>4"), label("intervals", "-2"), label("bends", "2")
    ('after beat 2', 'b3 to 3', 'down a whole step', 'a half step')
    """
    kind = group.partition(" ")[0]
    if kind == Group.MOVES:
        return " to ".join(degree_name(slot, style) for slot in answer.split(">"))
    if kind == Group.DEGREES or group in (Group.START_DEGREES, Group.END_DEGREES):
        return degree_name(answer, style)
    match group:
        case Group.STARTS | Group.ENDS:
            place = int(answer)
            return f"{'after' if place % 2 else 'on'} beat {place // 2}"
        case Group.INTERVALS:
            step = int(answer)
            if not step:
                return "the same pitch"
            more = " or more" if abs(step) == 12 else ""
            return f"{'up' if step > 0 else 'down'} {interval_words(step)}{more}"
        case Group.STRINGS:
            return f"string {answer}"
        case Group.FRETS:
            return "open" if answer == "0" else f"fret {answer}"
        case Group.PLACES:
            string, fret = answer.split("/")
            return f"string {string}, fret {fret}"
        case Group.GRIPS:
            return "no grip" if answer == "none" else f"{answer} shape"
        case Group.BENDS:
            return steps_words(int(answer))
        case Group.OPENINGS:
            section, degrees = answer.rsplit("|", 1)
            names = " ".join(degree_name(slot, style) for slot in degrees.split())
            return f"{section or 'the form'}: {names}"
        case Group.CONTOURS:
            return answer
        case _:
            return answer


@dataclass(frozen=True, slots=True)
class Habit:
    """A sentence, what it rests on, and the figure that it opens."""

    says: str
    more: str
    figure: Figure


def habits(picture: Portrait, style: Style = Style.DEFAULT) -> list[Habit]:
    """What is done again and again: of each question the answer that is given most, where it is given often."""
    return list(_habits(picture, style))


def _habits(picture: Portrait, style: Style) -> Iterator[Habit]:
    move = max(
        (figures[0] for group, figures in picture.groups.items() if group.startswith(f"{Group.MOVES} ")),
        key=lambda figure: figure.count, default=None,
    )  # fmt: skip
    if move is not None:
        chords = move.group.partition(" ")[2]
        more = f"{_times(move.count)}, 1 in {max(1, round(move.of / move.count))} moves over them"
        yield Habit(f"goes {label(move.group, move.answer, style)} over {chords} chords", more, move)
    for group, before, after in (
        (Group.STARTS, "starts a phrase ", ""), (Group.END_DEGREES, "ends a phrase on the ", ""),
        (Group.PATHS, "", ""), (Group.CONTOURS, "a phrase ", ""),
    ):  # fmt: skip
        figure = _top(picture, group)
        if figure is not None:
            of = f"{figure.count} of {figure.of} {'ways in' if group is Group.PATHS else 'phrases'}"
            yield Habit(f"{before}{label(group, figure.answer, style)}{after}", of, figure)
    bends = picture.groups.get(Group.BENDS, ())
    if bends:
        sizes = " · ".join(f"{label(Group.BENDS, one.answer)} {one.count}" for one in bends[:4])
        yield Habit(f"bends {label(Group.BENDS, bends[0].answer)} most", sizes, bends[0])
    yield from _of_notes(picture)
    yield from _on_the_neck(picture)


def _of_notes(picture: Portrait) -> Iterator[Habit]:
    roles = {figure.answer: figure for figure in picture.groups.get(Group.ROLES, ())}
    core = roles.get("chord tone")
    if core is not None:
        yield Habit(f"plays chord tones in {_share(core)}", f"{core.count} of {core.of} notes", core)
    shaken = next((one for one in picture.groups.get(Group.TECHNIQUES, ()) if one.answer == "vibrato"), None)
    if shaken is not None:
        last = next((one for one in picture.groups.get(Group.LAST_NOTES, ()) if one.answer == "with vibrato"), None)
        on_last = "" if last is None else f", {last.count} of them the last of a phrase"
        yield Habit("vibrato", f"{shaken.count} of {shaken.of} notes{on_last}", shaken)
    slurs = [one for one in picture.groups.get(Group.PICKING, ()) if one.answer in ("hammer-on", "pull-off", "slide")]
    if slurs:
        count = sum(one.count for one in slurs)
        yield Habit(
            f"slurs 1 note in {max(1, round(slurs[0].of / count))}",
            " · ".join(f"{one.answer} {one.count}" for one in slurs), slurs[0],
        )  # fmt: skip


def _on_the_neck(picture: Portrait) -> Iterator[Habit]:
    frets = {int(one.answer): one for one in picture.groups.get(Group.FRETS, ()) if one.answer != "0"}
    if not frets:
        return
    of = next(iter(frets.values())).of
    at, count = max(
        ((low, sum(frets[f].count for f in range(low, low + WIDTH) if f in frets)) for low in frets),
        key=lambda one: (one[1], -one[0]),
    )
    most = max((frets[f] for f in range(at, at + WIDTH) if f in frets), key=lambda one: one.count)
    yield Habit(f"plays between frets {at} and {at + WIDTH - 1}", f"{count} of {of} notes", most)


def _top(picture: Portrait, group: str) -> Figure | None:
    figures = picture.groups.get(group, ())
    return figures[0] if figures else None


def _times(count: int) -> str:
    return "once" if count == 1 else "twice" if count == 2 else f"{count} times"


def _share(figure: Figure) -> str:
    return f"{round(10 * figure.share)} notes of 10"


def placement_words(measures: Mapping[str, Measure]) -> str:
    """How the beat is taken, from what was heard; empty when nothing was.

    >>> placement_words({"placement": Measure("placement", 9, 21.4, 14, 29)})
    '21 ms behind the beat, the middle half of phrases 14 to 29'
    """
    own = measures.get("placement")
    if own is None:
        return ""
    where = (
        "on the beat"
        if abs(own.median) <= 10
        else f"{abs(own.median):.0f} ms {'behind' if own.median > 0 else 'ahead of'} the beat"
    )
    return f"{where}, the middle half of phrases {own.low:.0f} to {own.high:.0f}"


def measure_name(name: str) -> str:
    """A measure in words, with its tempo where it has one.

    >>> measure_name("placement slow"), measure_name("bend heard 4")
    ('behind the beat, in ms, slow', 'a whole step heard, in cents')
    """
    if name.startswith("bend heard "):
        return f"{steps_words(int(name.rsplit(' ', 1)[1]))} heard, in cents"
    base, _, band = name.rpartition(" ")
    if base in MEASURES:
        return f"{MEASURES[base]}, {band}"
    return MEASURES[name]


def difference_words(one: Difference, first: str, second: str, style: Style = Style.DEFAULT) -> str:
    """A difference in a sentence, with its interval.

    >>> difference_words(Difference("starts", "3", 0.6, 0.1, 0.3, 0.7), "Quarrie", "Oake")
    'Quarrie starts a phrase after beat 1 more often than Oake: 60 of 100 to 10 (30 to 70 more, 9 times in 10).'
    """
    more, less = (first, second) if one.one > one.other else (second, first)
    shares = sorted((round(100 * one.one), round(100 * one.other)), reverse=True)
    low, high = sorted((abs(one.low), abs(one.high)))
    what = _verb(one.group, one.answer, style)
    return (
        f"{more} {what} more often than {less}: {shares[0]} of 100 to {shares[1]} "
        f"({round(100 * low)} to {round(100 * high)} more, 9 times in 10)."
    )


def _verb(group: str, answer: str, style: Style) -> str:
    said = label(group, answer, style)
    kind, _, quality = group.partition(" ")
    if quality in QUALITIES:
        return f"{'plays the' if kind == Group.DEGREES else 'goes'} {said} over {quality} chords"
    return {
        Group.STARTS: f"starts a phrase {said}", Group.ENDS: f"ends a phrase {said}",
        Group.START_DEGREES: f"starts a phrase on the {said}", Group.END_DEGREES: f"ends a phrase on the {said}",
        Group.INTERVALS: f"goes {said}", Group.CONTOURS: f"plays a phrase that {said}",
        Group.LENGTHS: f"plays phrases of {said}", Group.RESTS: f"leaves {said} between phrases",
        Group.STRINGS: f"plays on {said}",
        Group.GRIPS: "lies under no grip" if answer == "none" else f"lies under the {said}",
        Group.TECHNIQUES: f"plays with {said}", Group.BENDS: f"bends {said}", Group.SLIDES: f"slides {said}",
        Group.PICKING: f"begins a note {said}" if answer == "picked" else f"begins a note with a {said}",
        Group.LAST_NOTES: f"plays last notes {said}", Group.PATHS: f"takes the way “{said}”",
        Group.ROLES: f"plays {ROLES.get(answer, answer)}",
    }[Group(group)]  # fmt: skip


def sample_words(solos: int, phrases: int, notes: int) -> str:
    """Over what it was counted; where that is little, that it is.

    >>> sample_words(1, 8, 117)
    'In this solo: 8 phrases, 117 notes.'
    """
    if solos == 1:
        return f"In this solo: {phrases} phrases, {notes} notes."
    few = f" Figures of fewer than {FEWEST} are in light ink." if phrases < FEWEST else ""
    return f"Over {solos} solos: {phrases} phrases, {notes} notes.{few}"
