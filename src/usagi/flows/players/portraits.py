"""A player's figures over the solos that count, beside another's; every figure opens its notes."""

from __future__ import annotations

from uuid import UUID

from usagi.core.degrees.spoken import Reader
from usagi.core.formats.tables import written_table
from usagi.core.portrait.comparing import compared
from usagi.core.portrait.portrait import Measure, Portrait
from usagi.core.portrait.tallies import QUALITIES, Group
from usagi.core.portrait.words import (
    difference_words,
    habits,
    label,
    measure_name,
    placement_words,
    sample_words,
    title,
)
from usagi.core.values import Value
from usagi.flows.players.cells import CellView, cells_of
from usagi.flows.players.sides import Counted, Side, counted, tallies
from usagi.flows.workspace import Workspace
from usagi.store import players as stored
from usagi.store.database import transaction

SLOTS = tuple(range(12))


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


def read_players(workspace: Workspace) -> list[PlayerView]:
    """The players who have a solo that counts."""
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


def read_portrait(
    workspace: Workspace, side: Side, beside: Side | None = None, reader: Reader = Reader()
) -> PortraitView:
    """A player's figures, beside another side's. Raises : NotThere."""
    one = counted(workspace, side)
    other = None if beside is None else counted(workspace, beside)
    names = _names(one, other, side, beside)
    return PortraitView(
        one=_side(one, names[0]),
        beside=None if other is None else _side(other, names[1]),
        habits=tuple(_habits(one.picture, None if other is None else other.picture, reader)),
        groups=tuple(_groups(one.picture, None if other is None else other.picture, reader)),
        measures=tuple(_measures(one.picture, None if other is None else other.picture)),
        placement=placement_words({measure.name: measure for measure in one.picture.measures}),
        cells=cells_of(workspace, side, one, reader),
        differs=() if beside is None else _differs(workspace, side, beside, names, reader),
        tunes=tuple({solo.tune_id: (solo.tune_id, solo.tune) for solo in one.solos}.values()),
        years=tuple(sorted({solo.year for solo in one.solos if solo.year is not None})),
    )


def _differs(
    workspace: Workspace, side: Side, beside: Side, names: tuple[str, str], reader: Reader
) -> tuple[DifferenceView, ...]:
    one, other = ([tally for _, tally in tallies(workspace, each)] for each in (side, beside))
    return tuple(
        DifferenceView(says=difference_words(found, *names, reader.style), group=found.group, answer=found.answer)
        for found in compared(one, other)
    )


def _names(one: Counted, other: Counted | None, side: Side, beside: Side | None) -> tuple[str, str]:
    """What the two sides are called: by their names, or by what tells them apart."""
    if other is None or beside is None:
        return one.name, ""
    if one.name != other.name:
        return one.name, other.name
    return _part(one, side), _part(other, beside)


def _part(one: Counted, side: Side) -> str:
    words = []
    if side.tune is not None:
        words.append(f"in {one.solos[0].tune}" if one.solos else "in that tune")
    if side.until is not None and side.since is None:
        words.append(f"up to {side.until}")
    elif side.since is not None:
        words.append(f"from {side.since}" + (f" to {side.until}" if side.until is not None else ""))
    if side.setting:
        words.append({"live": "live", "studio": "in the studio"}.get(side.setting, side.setting))
    return f"{one.name} {' '.join(words)}".strip()


def _side(one: Counted, name: str) -> SideView:
    picture = one.picture
    years = [solo.year for solo in one.solos if solo.year is not None]
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
        there = None if other is None else other.figure(figure.group, figure.answer)
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
            figure, there = one.figure(group, answer), None if other is None else other.figure(group, answer)
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


FIGURES = ("question", "answer", "count", "of", "share", "share of time", "light", "beside")


def figures_csv(workspace: Workspace, side: Side, beside: Side | None = None, reader: Reader = Reader()) -> bytes:
    """Every figure as columns, one a row. Raises : NotThere."""
    view = read_portrait(workspace, side, beside, reader)
    rows: list[tuple[object, ...]] = [
        (group.title, one.label, one.count, one.of, one.share, one.time_share, int(one.light),
         "" if one.beside is None else one.beside)
        for group in view.groups
        for one in group.figures
    ]  # fmt: skip
    rows += [
        ("measured", measure.name, measure.count, "", measure.median, "", int(measure.light),
         "" if measure.beside is None else measure.beside)
        for measure in view.measures
    ]  # fmt: skip
    return written_table(FIGURES, rows)
