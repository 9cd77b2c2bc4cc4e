"""The plan of a solo and the teacher's remarks: read, and changed by edits that can be undone."""

from __future__ import annotations

import threading
from collections.abc import Mapping
from uuid import UUID

from cachetools import LRUCache

from usagi.core.degrees.spoken import Reader
from usagi.core.document.elements import Note
from usagi.core.document.solo import Solo
from usagi.core.document.teaching import Group, OnBar, OnNote, OnPhrase, PlanSettings, Practised, Remark
from usagi.core.fingering.hand import HandSize
from usagi.core.practice.plan import changed, moved, taken_out
from usagi.core.practice.second_ways import SecondWay, second_ways
from usagi.core.values import Value
from usagi.core.view.licks import LickDrawing
from usagi.core.view.plan import PlanView, drawn, view_plan
from usagi.flows.editing.accepting import Answer
from usagi.flows.editing.changing import Loaded, commit, load
from usagi.flows.workspace import NotThere, Workspace, new_id

OPEN_PLANS = 32

_plans: LRUCache[tuple[object, ...], PlanView] = LRUCache(OPEN_PLANS)
_guard = threading.Lock()


class SecondWayView(Value):
    """A second way that is offered: what is different, how it is drawn, and its notes, to be kept with a remark."""

    words: str
    drawing: LickDrawing | None
    notes: tuple[Note, ...]


def read_plan(
    workspace: Workspace, solo_id: UUID, hand: HandSize = HandSize.USUAL, reader: Reader = Reader()
) -> PlanView:
    """The plan, and every remark. Raises : NotThere."""
    return plan_of(workspace, load(workspace, solo_id), hand, reader)


def plan_of(workspace: Workspace, loaded: Loaded, hand: HandSize, reader: Reader = Reader()) -> PlanView:
    """The plan of a loaded solo; cached by the versions of its documents."""
    key = (workspace.scope.studio, loaded.solo_id, *sorted(loaded.versions.items()), hand, reader)
    with _guard:
        known = _plans.get(key)
    if known is None:
        known = view_plan(loaded.solo, loaded.ground, hand, reader)
        with _guard:
            _plans[key] = known
    return known


def change_line(
    workspace: Workspace, solo_id: UUID, what: Practised, values: Mapping[str, object], reader: Reader = Reader()
) -> Answer:
    """Something of a line otherwise; None leaves it to the plan. Raises : PlanImpossible, NotThere."""
    loaded = load(workspace, solo_id)
    return _kept(workspace, loaded, changed(loaded.solo, what, new_id, **values), "change the plan", reader)


def add_group(
    workspace: Workspace, solo_id: UUID, start: int, end: int, name: str = "", reader: Reader = Reader()
) -> Answer:
    """Some notes practised by themselves; once more: they are there already. Raises : NotThere, ElementImpossible."""
    loaded = load(workspace, solo_id)
    if not any(start <= note.tick < end for note in loaded.solo.notes):
        raise NotThere("Nothing is written in what is marked.")
    group = Group(start=start, end=end)
    solo = changed(loaded.solo, group, new_id, name=name.strip(), left_out=False)
    return _kept(workspace, loaded, solo, "practise these notes by themselves", reader)


def take_out(workspace: Workspace, solo_id: UUID, what: Practised, reader: Reader = Reader()) -> Answer:
    """A line out of the plan. Raises : PlanImpossible, NotThere."""
    loaded = load(workspace, solo_id)
    return _kept(workspace, loaded, taken_out(loaded.solo, what, new_id), "leave a line out", reader)


def move_line(workspace: Workspace, solo_id: UUID, what: Practised, by: int, reader: Reader = Reader()) -> Answer:
    """A line further down the plan, or up. Raises : PlanImpossible, NotThere."""
    loaded = load(workspace, solo_id)
    return _kept(workspace, loaded, moved(loaded.solo, what, by, new_id), "order the plan", reader)


def set_plan(workspace: Workspace, solo_id: UUID, settings: PlanSettings, reader: Reader = Reader()) -> Answer:
    """What holds for every line that says nothing else. Raises : NotThere."""
    loaded = load(workspace, solo_id)
    own = loaded.solo.settings.model_copy(update={"practice": settings})
    solo = loaded.solo.model_copy(update={"settings": own})
    return _kept(workspace, loaded, solo, "set the speeds of the plan", reader)


def put_remark(
    workspace: Workspace,
    solo_id: UUID,
    remark_id: str | None,
    on: OnNote | OnPhrase | OnBar,
    words: str,
    second: tuple[Note, ...] = (),
    reader: Reader = Reader(),
) -> Answer:
    """A remark, new or in other words. Raises : NotThere, RuleBroken, ElementImpossible."""
    loaded = load(workspace, solo_id)
    remark = Remark(id=remark_id or new_id(), on=on, words=words.strip(), second=second)
    others = tuple(one for one in loaded.solo.remarks if one.id != remark.id)
    solo = loaded.solo.model_copy(update={"remarks": (*others, remark)})
    return _kept(workspace, loaded, solo, "remark", reader)


def drop_remark(workspace: Workspace, solo_id: UUID, remark_id: str, reader: Reader = Reader()) -> Answer:
    """Raises : NotThere."""
    loaded = load(workspace, solo_id)
    left = tuple(one for one in loaded.solo.remarks if one.id != remark_id)
    if len(left) == len(loaded.solo.remarks):
        raise NotThere("This remark is not here any more.", remark=remark_id)
    return _kept(workspace, loaded, loaded.solo.model_copy(update={"remarks": left}), "delete a remark", reader)


def offer_second_ways(
    workspace: Workspace, solo_id: UUID, start: int, end: int, hand: HandSize, reader: Reader = Reader()
) -> list[SecondWayView]:
    """What else the notes of a span can become. Raises : NotThere."""
    loaded = load(workspace, solo_id)

    def view(one: SecondWay) -> SecondWayView:
        return SecondWayView(
            words=one.words, drawing=drawn(one.notes, loaded.solo, loaded.ground, reader), notes=one.notes
        )

    return [view(one) for one in second_ways(loaded.solo, loaded.ground, start, end, new_id, hand)]


def _kept(workspace: Workspace, loaded: Loaded, solo: Solo, label: str, reader: Reader) -> Answer:
    return commit(workspace, loaded, label, reader, solo=solo)
