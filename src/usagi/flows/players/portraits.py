"""A player's figures over the solos that count, beside another's; every figure opens its notes."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence
from dataclasses import dataclass
from uuid import UUID

from usagi.core.degrees.spoken import Reader
from usagi.core.portrait.cells import Cell, favourite_cells
from usagi.core.portrait.comparing import compared
from usagi.core.portrait.portrait import Figure, Measure, Portrait, Sums, portrait
from usagi.core.portrait.tallies import QUALITIES, Group, Tally
from usagi.core.portrait.words import (
    degree_name,
    difference_words,
    habits,
    label,
    measure_name,
    placement_words,
    sample_words,
    title,
)
from usagi.core.values import Value
from usagi.flows.workspace import NotThere, Workspace
from usagi.store import players as stored
from usagi.store.database import Db, transaction
from usagi.store.players import ReadSolo

MOST_PLACES = 60
SLOTS = tuple(range(12))


@dataclass(frozen=True, slots=True)
class Side:
    """Whose solos are counted, and which of them: a tune's, those of some years, in a studio or live."""

    player: UUID
    tune: UUID | None = None
    since: int | None = None
    until: int | None = None
    setting: str | None = None


class PlayerView(Value):
    """A player on the list."""

    id: UUID
    name: str
    says: str  # solos, notes, years
    solos: int


class SideView(Value):
    """What is counted over: whose, which, and how much it is."""

    name: str
    says: str
    sample: str
    solos: int
    unsure: int


class FigureView(Value):
    """One answer; `beside` is the other side's share, none without one."""

    answer: str
    label: str
    count: int
    of: int
    share: float
    time_share: float
    light: bool
    beside: float | None
    beside_time: float | None


class GroupView(Value):
    group: str
    title: str
    figures: tuple[FigureView, ...]


class HabitView(Value):
    """A sentence, what it rests on, what it opens, and how often the other side does it."""

    says: str
    more: str
    group: str
    answer: str
    light: bool
    beside: str


class MeasureView(Value):
    name: str
    count: int
    median: float
    low: float
    high: float
    light: bool
    beside: float | None


class CellView(Value):
    """A favourite cell: its degrees, in how many phrases it comes, in how many it would by chance."""

    answer: str
    label: str
    phrases: int
    expected: float


class DifferenceView(Value):
    says: str
    group: str
    answer: str


class PortraitView(Value):
    """A player's page."""

    one: SideView
    beside: SideView | None
    habits: tuple[HabitView, ...]
    groups: tuple[GroupView, ...]
    measures: tuple[MeasureView, ...]
    placement: str
    cells: tuple[CellView, ...] | None  # none while they are being counted
    differs: tuple[DifferenceView, ...]
    tunes: tuple[tuple[UUID, str], ...]
    years: tuple[int, ...]


class PlaceView(Value):
    """Some notes of a figure: where they are, and from which note to which they can be heard."""

    solo: UUID
    tune: str
    title: str
    phrase: int  # its number in the solo
    first: str
    last: str
    notes: tuple[str, ...]
    has_sound: bool


class PlacesView(Value):
    """The notes that a figure counts, phrase by phrase."""

    title: str
    label: str
    count: int
    places: tuple[PlaceView, ...]


def read_players(workspace: Workspace) -> list[PlayerView]:
    """Every player of whom a solo counts."""
    with transaction(workspace.pool) as db:
        rows = stored.players(db, workspace.scope)
    return [
        PlayerView(
            id=row.id,
            name=row.name,
            says=_joined(_count(row.solos, "solo"), _count(row.notes, "note"), _years(row.first_year, row.last_year)),
            solos=row.solos,
        )
        for row in rows
    ]


def _joined(*words: str) -> str:
    return " · ".join(word for word in words if word)


def _count(number: int, word: str) -> str:
    return f"{number} {word}{'' if number == 1 else 's'}"


def _years(first: int | None, last: int | None) -> str:
    if first is None or last is None:
        return ""
    return str(first) if first == last else f"{first}–{last}"


@dataclass(frozen=True)
class _Counted:
    """One side: its solos as they were read, and what is counted over them."""

    name: str
    solos: list[ReadSolo]
    picture: Portrait


def _counted(workspace: Workspace, side: Side) -> _Counted:
    with transaction(workspace.pool) as db:
        name = stored.player_name(db, workspace.scope, side.player)
        if name is None:
            raise NotThere("This player is not here any more.", player=str(side.player))
        solos = _solos(db, workspace, side, stored.SUMS)
    return _Counted(name, solos, portrait([Sums.model_validate(solo.read) for solo in solos]))


def _tallies(workspace: Workspace, side: Side) -> list[tuple[ReadSolo, Tally]]:
    """Every note that a side counts; of a player with many solos that is much to read."""
    with transaction(workspace.pool) as db:
        solos = _solos(db, workspace, side, stored.FACTS)
    return [(solo, Tally.model_validate(solo.read)) for solo in solos]


def _solos(db: Db, workspace: Workspace, side: Side, query: str) -> list[ReadSolo]:
    return stored.read_solos(
        db, workspace.scope, side.player, query, tune_id=side.tune, since=side.since, until=side.until,
        setting=side.setting,
    )  # fmt: skip


def read_portrait(
    workspace: Workspace, side: Side, beside: Side | None = None, reader: Reader = Reader()
) -> PortraitView:
    """A player's figures, beside another side's. Raises : NotThere."""
    one = _counted(workspace, side)
    other = None if beside is None else _counted(workspace, beside)
    names = _names(one, other, side, beside)
    return PortraitView(
        one=_side(one, names[0]),
        beside=None if other is None else _side(other, names[1]),
        habits=tuple(_habits(one.picture, None if other is None else other.picture, reader)),
        groups=tuple(_groups(one.picture, None if other is None else other.picture, reader)),
        measures=tuple(_measures(one.picture, None if other is None else other.picture)),
        placement=placement_words({measure.name: measure for measure in one.picture.measures}),
        cells=_cells(workspace, side, one, reader),
        differs=() if beside is None else _differs(workspace, side, beside, names, reader),
        tunes=tuple({solo.tune_id: (solo.tune_id, solo.tune) for solo in one.solos}.values()),
        years=tuple(sorted({solo.year for solo in one.solos if solo.year is not None})),
    )


def _differs(
    workspace: Workspace, side: Side, beside: Side, names: tuple[str, str], reader: Reader
) -> tuple[DifferenceView, ...]:
    one, other = ([counted for _, counted in _tallies(workspace, each)] for each in (side, beside))
    return tuple(
        DifferenceView(says=difference_words(found, *names, reader.style), group=found.group, answer=found.answer)
        for found in compared(one, other)
    )


def _names(one: _Counted, other: _Counted | None, side: Side, beside: Side | None) -> tuple[str, str]:
    """What the two sides are called: by their names, or by what tells them apart."""
    if other is None or beside is None:
        return one.name, ""
    if one.name != other.name:
        return one.name, other.name
    return _part(one, side), _part(other, beside)


def _part(counted: _Counted, side: Side) -> str:
    words = []
    if side.tune is not None:
        words.append(f"in {counted.solos[0].tune}" if counted.solos else "in that tune")
    if side.until is not None and side.since is None:
        words.append(f"up to {side.until}")
    elif side.since is not None:
        words.append(f"from {side.since}" + (f" to {side.until}" if side.until is not None else ""))
    if side.setting:
        words.append({"live": "live", "studio": "in the studio"}.get(side.setting, side.setting))
    return f"{counted.name} {' '.join(words)}".strip()


def _side(counted: _Counted, name: str) -> SideView:
    picture = counted.picture
    years = [solo.year for solo in counted.solos if solo.year is not None]
    span = _years(min(years, default=None), max(years, default=None))
    return SideView(
        name=name,
        says=_joined(_count(picture.solos, "solo"), _count(picture.notes, "note"), span),
        sample=sample_words(picture.solos, picture.phrases, picture.notes),
        solos=picture.solos,
        unsure=picture.unsure,
    )


def _habits(one: Portrait, other: Portrait | None, reader: Reader) -> list[HabitView]:
    found = []
    for habit in habits(one, reader.style):
        figure = habit.figure
        there = None if other is None else _figure(other, figure.group, figure.answer)
        found.append(
            HabitView(
                says=habit.says,
                more=habit.more,
                group=figure.group,
                answer=figure.answer,
                light=figure.light,
                beside="" if there is None else f"{there.count} of {there.of}",
            )
        )
    return found


def _figure(picture: Portrait, group: str, answer: str) -> Figure | None:
    figures = picture.groups.get(group, ())
    found = next((one for one in figures if one.answer == answer), None)
    if found is None and figures:
        return Figure(group, answer, 0, figures[0].of, 0.0)
    return found


def _order(group: str) -> tuple[int, str]:
    kind, _, quality = group.partition(" ")
    order = list(Group)
    at = order.index(Group(kind)) if quality in QUALITIES else order.index(Group(group))
    return at, str(QUALITIES.index(quality)) if quality in QUALITIES else ""


def _groups(one: Portrait, other: Portrait | None, reader: Reader) -> list[GroupView]:
    found = []
    for group in sorted(one.groups, key=_order):
        answers = [figure.answer for figure in one.groups[group]]
        if other is not None:
            answers += [f.answer for f in other.groups.get(group, ()) if f.answer not in answers]
        if group.startswith(f"{Group.DEGREES} "):
            answers = [str(slot) for slot in SLOTS]
        elif group in (Group.STARTS, Group.ENDS, Group.FRETS, Group.STRINGS):
            answers.sort(key=int)
        views = []
        for answer in answers:
            figure, there = _figure(one, group, answer), None if other is None else _figure(other, group, answer)
            assert figure is not None
            views.append(
                FigureView(
                    answer=answer,
                    label=label(group, answer, reader.style),
                    count=figure.count,
                    of=figure.of,
                    share=round(figure.share, 4),
                    time_share=round(figure.time_share, 4),
                    light=figure.light,
                    beside=None if there is None else round(there.share, 4),
                    beside_time=None if there is None else round(there.time_share, 4),
                )
            )
        found.append(GroupView(group=group, title=title(group), figures=tuple(views)))
    return found


def _measures(one: Portrait, other: Portrait | None) -> list[MeasureView]:
    theirs: dict[str, Measure] = {} if other is None else {measure.name: measure for measure in other.measures}
    return [
        MeasureView(
            name=measure_name(measure.name),
            count=measure.count,
            median=round(measure.median, 2),
            low=round(measure.low, 2),
            high=round(measure.high, 2),
            light=measure.light,
            beside=round(theirs[measure.name].median, 2) if measure.name in theirs else None,
        )
        for measure in one.measures
    ]


def _cells(workspace: Workspace, side: Side, counted: _Counted, reader: Reader) -> tuple[CellView, ...] | None:
    """The cells of all a player's solos, as they were counted in the background; of some of them none are told."""
    if (side.tune, side.since, side.until, side.setting) != (None, None, None, None):
        return ()
    with transaction(workspace.pool) as db:
        of = stored.made_of(db, workspace.scope.studio).get(side.player)
        kept = stored.cells(db, workspace.scope, side.player)
    if kept is None or kept[0] != of:
        return None if counted.solos else ()
    return tuple(
        CellView(
            answer=str(number),
            label=" ".join("·" if slot is None else degree_name(str(slot), reader.style) for slot in one["slots"]),
            phrases=one["phrases"],
            expected=one["expected"],
        )
        for number, one in enumerate(kept[1])
    )


def count_cells(workspace: Workspace) -> int:
    """Find the favourite cells of every player whose solos changed. Returns of how many."""
    studio = workspace.scope.studio
    with transaction(workspace.pool) as db:
        wanted, there = stored.made_of(db, studio), stored.cells_made_of(db, studio)
    stale = [(player, of) for player, of in wanted.items() if there.get(player) != of]
    for player, of in stale:
        counted = _tallies(workspace, Side(player))
        found = [_told(cell, counted) for cell in favourite_cells([one for _, one in counted])]
        with transaction(workspace.pool) as db:
            stored.keep_cells(db, studio, player, of, found)
    return len(stale)


def _told(cell: Cell, counted: Sequence[tuple[ReadSolo, Tally]]) -> dict[str, object]:
    return {
        "slots": [slot for slot, _, _ in cell.tokens],
        "phrases": cell.phrases,
        "expected": cell.expected,
        "places": [
            [str(solo.id), one.ids[first], one.ids[last]]
            for (solo, one), first, last in ((counted[number], first, last) for number, first, last in cell.places)
        ],
    }


CELLS = "cells"


def notes_of(workspace: Workspace, side: Side, group: str, answer: str, reader: Reader = Reader()) -> PlacesView:
    """The notes that a figure counts. Raises : NotThere."""
    if group == CELLS:
        return _places_of_cell(workspace, side, answer, reader)
    figure = _figure(_counted(workspace, side).picture, group, answer)
    if figure is None:
        raise NotThere("Nothing is counted there.")
    places = []
    for solo, one in _tallies(workspace, side):
        for number, phrase in enumerate(one.phrases, start=1):
            notes = phrase.bins.get(f"{group}:{answer}", ())
            if notes:
                ids = tuple(one.ids[note] for note in dict.fromkeys(notes))
                places.append(_place(solo, number, one.ids[phrase.notes[0]], one.ids[phrase.notes[-1]], ids))
    return PlacesView(
        title=title(group),
        label=label(group, answer, reader.style),
        count=figure.count,
        places=tuple(places[:MOST_PLACES]),
    )


def _place(solo: ReadSolo, number: int, first: str, last: str, notes: tuple[str, ...]) -> PlaceView:
    return PlaceView(
        solo=solo.id, tune=solo.tune, title=solo.title, phrase=number, first=first, last=last, notes=notes,
        has_sound=solo.has_sound,
    )  # fmt: skip


def _places_of_cell(workspace: Workspace, side: Side, answer: str, reader: Reader) -> PlacesView:
    with transaction(workspace.pool) as db:
        kept = stored.cells(db, workspace.scope, side.player)
        solos = {str(solo.id): solo for solo in _solos(db, workspace, Side(side.player), stored.SUMS)}
    found = kept[1] if kept is not None else []
    if not answer.isdigit() or int(answer) >= len(found):
        raise NotThere("This cell is not there any more.")
    cell = found[int(answer)]
    places = [
        _place(solos[solo], number, first, last, (first, last))
        for number, (solo, first, last) in enumerate(cell["places"], start=1)
        if solo in solos
    ]
    names = " ".join("·" if slot is None else degree_name(str(slot), reader.style) for slot in cell["slots"])
    return PlacesView(title="Comes again and again", label=names, count=cell["phrases"], places=tuple(places))


def figures_csv(workspace: Workspace, side: Side, beside: Side | None = None, reader: Reader = Reader()) -> str:
    """Every figure as columns, one a row. Raises : NotThere."""
    view = read_portrait(workspace, side, beside, reader)
    out = io.StringIO()
    write = csv.writer(out, lineterminator="\n")
    write.writerow(["question", "answer", "count", "of", "share", "share of time", "light", "beside"])
    for group in view.groups:
        for one in group.figures:
            write.writerow(
                [group.title, one.label, one.count, one.of, one.share, one.time_share, int(one.light),
                 "" if one.beside is None else one.beside]
            )  # fmt: skip
    for measure in view.measures:
        write.writerow(
            ["measured", measure.name, measure.count, "", measure.median, "", int(measure.light),
             "" if measure.beside is None else measure.beside]
        )  # fmt: skip
    return out.getvalue()
