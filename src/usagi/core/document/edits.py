"""Edits: what changes in a document, as values before and after (docs/model.md, Edits).

A change is accepted when the element's present value equals its `before`. Edits are never rewritten; taking one back
appends its inverse.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from datetime import datetime
from enum import StrEnum
from operator import attrgetter
from typing import Annotated, Any

from pydantic import ConfigDict, Field, JsonValue, TypeAdapter, ValidationError, field_validator, model_validator

from usagi.core.chart.model import ChartBar, ChartException, Id, PlacedChord, Section, in_form_order, in_place_order
from usagi.core.document.elements import Choice, Dynamic, ElementImpossible, Note, Phrase, Question, Rest, Stack, Swell
from usagi.core.document.faults import explain
from usagi.core.document.solo import Anchor, Cue, Ground, GroundSettings, Solo, SoloSettings
from usagi.core.document.teaching import PlanEntry, Remark
from usagi.core.errors import UsagiError
from usagi.core.values import Value

# 1: changes only. 2: what follows is the core's and stands beside them. 3: waivers. 4: roles, and words for phrases.
# 5: melodies, and the licks of a quote. 6: remarks, and the plan.
EDIT_SCHEMA = 6


class EditConflict(UsagiError):
    """A change whose `before` is not what stands there now."""

    code = "edit-conflict"

    def __init__(self, sentence: str, *, kind: str, id: str, now: JsonValue, before: JsonValue) -> None:
        super().__init__(sentence, kind=kind, id=id)
        self.now, self.before = now, before


class EditImpossible(UsagiError):
    """A change of a kind that this document does not hold, or that changes nothing that exists."""

    code = "edit-impossible"


class DocumentKind(StrEnum):
    SOLO = "solo"
    GROUND = "ground"


class Kind(StrEnum):
    NOTE = "note"
    REST = "rest"
    STACK = "stack"
    PHRASE = "phrase"
    QUESTION = "question"
    DYNAMIC = "dynamic"
    SWELL = "swell"
    CHOICE = "choice"
    REMARK = "remark"
    PLAN = "plan"
    SECTION = "section"
    CHORD = "chord"
    EXCEPTION = "exception"
    ANCHOR = "anchor"
    CUE = "cue"
    SETTING = "setting"


class Change(Value):
    """One element before and after; None where it does not exist. For a setting, `id` is its name."""

    kind: Kind
    id: Id
    before: JsonValue = None
    after: JsonValue = None

    def inverse(self) -> Change:
        return Change(kind=self.kind, id=self.id, before=self.after, after=self.before)


DocumentId = Annotated[str, Field(pattern=r"^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$")]


def upgraded(edit: Mapping[str, Any], schema: int) -> dict[str, Any]:
    """The tree of a stored or waiting edit, led from its schema to today's."""
    tree = dict(edit)
    if schema == 1:
        tree, schema = {**tree, "follows": []}, 2
    schema = max(schema, EDIT_SCHEMA)  # 3 and 4 added kinds of choices, 5 settings with defaults, 6 both
    return tree | {"schema": schema}


class Edit(Value):
    """All that one person changed in one document at once. Edits of one `act` belong together.

    `changes` are what the person did; `follows` is what the core found to follow from them. From a page `follows`
    is what it drew meanwhile: the core works it out itself and takes no more than the new ids from there.
    """

    model_config = ConfigDict(validate_by_name=True, validate_by_alias=True)

    id: Id
    act: Id
    document: DocumentId
    made_in: DocumentId  # the solo in which the person was working
    undoes: Id | None = None  # the act that this one takes back
    person: Id
    at: str  # ISO 8601, given by who makes the edit
    edit_schema: Annotated[int, Field(ge=1, le=EDIT_SCHEMA, alias="schema")] = EDIT_SCHEMA
    label: Annotated[str, Field(max_length=120)]
    changes: Annotated[tuple[Change, ...], Field(min_length=1, max_length=20_000)]
    follows: Annotated[tuple[Change, ...], Field(max_length=20_000)] = ()

    @property
    def whole(self) -> tuple[Change, ...]:
        """Everything that the edit changes, in order."""
        return (*self.changes, *self.follows)

    @model_validator(mode="before")
    @classmethod
    def _of_today(cls, tree: Any) -> Any:
        schema = tree.get("schema", tree.get("edit_schema")) if isinstance(tree, Mapping) else None
        if type(schema) is not int or not 1 <= schema < EDIT_SCHEMA:
            return tree
        return upgraded({name: value for name, value in tree.items() if name != "edit_schema"}, schema)

    @field_validator("at")
    @classmethod
    def _a_moment(cls, at: str) -> str:
        try:
            datetime.fromisoformat(at)
        except ValueError as fault:
            raise EditImpossible("An edit says when it was made, as 2026-11-25T10:00:00+00:00.") from fault
        return at


SOLO_ELEMENTS: dict[Kind, str] = {
    Kind.NOTE: "notes",
    Kind.REST: "rests",
    Kind.STACK: "stacks",
    Kind.PHRASE: "phrases",
    Kind.QUESTION: "questions",
    Kind.DYNAMIC: "dynamics",
    Kind.SWELL: "swells",
    Kind.CHOICE: "choices",
    Kind.REMARK: "remarks",
    Kind.PLAN: "plan",
}
GROUND_ELEMENTS: dict[Kind, str] = {
    Kind.SECTION: "sections",
    Kind.EXCEPTION: "exceptions",
    Kind.ANCHOR: "anchors",
    Kind.CUE: "cues",
}
_TYPES: dict[Kind, TypeAdapter[Any]] = {
    Kind.NOTE: TypeAdapter(Note),
    Kind.REST: TypeAdapter(Rest),
    Kind.STACK: TypeAdapter(Stack),
    Kind.PHRASE: TypeAdapter(Phrase),
    Kind.QUESTION: TypeAdapter(Question),
    Kind.DYNAMIC: TypeAdapter(Dynamic),
    Kind.SWELL: TypeAdapter(Swell),
    Kind.CHOICE: TypeAdapter(Choice),
    Kind.REMARK: TypeAdapter(Remark),
    Kind.PLAN: TypeAdapter(PlanEntry),
    Kind.SECTION: TypeAdapter(Section),
    Kind.EXCEPTION: TypeAdapter(ChartException),
    Kind.ANCHOR: TypeAdapter(Anchor),
    Kind.CUE: TypeAdapter(Cue),
    Kind.CHORD: TypeAdapter(PlacedChord),
}


def element_from_json(kind: Kind, value: JsonValue) -> Any:
    """An element from its JSON. Raises : ElementImpossible, or the element's own error."""
    try:
        return _TYPES[kind].validate_python(value)
    except ValidationError as fault:
        raise ElementImpossible(explain(fault), kind=kind) from fault


def whole_value(kind: Kind, value: JsonValue) -> JsonValue:
    """An element's value with all its fields. Raises : ElementImpossible, or the element's own error."""
    return value if value is None or kind not in _TYPES else to_json(element_from_json(kind, value))


def written_out(edit: Edit) -> Edit:
    """The edit with all fields of every element in it, so that whoever applies it needs no defaults.

    What follows is the core's own and stands written out already.

    Raises : ElementImpossible, or the element's own error.
    """
    changes = [
        Change(
            kind=one.kind, id=one.id, before=whole_value(one.kind, one.before), after=whole_value(one.kind, one.after)
        )
        for one in edit.changes
    ]
    return edit.model_copy(update={"changes": tuple(changes)})


@dataclass(frozen=True)
class Content:
    """A document taken apart, so that edits reach its elements by kind and id."""

    kind: DocumentKind
    settings: SoloSettings | GroundSettings
    elements: Mapping[Kind, Mapping[str, Any]]

    @property
    def names(self) -> dict[Kind, str]:
        return SOLO_ELEMENTS if self.kind is DocumentKind.SOLO else GROUND_ELEMENTS


def take_apart(document: Solo | Ground) -> Content:
    kind = DocumentKind.SOLO if isinstance(document, Solo) else DocumentKind.GROUND
    names = SOLO_ELEMENTS if kind is DocumentKind.SOLO else GROUND_ELEMENTS
    elements = {k: {element.id: element for element in getattr(document, name)} for k, name in names.items()}
    return Content(kind, document.settings, elements)


def put_together(content: Content) -> Solo | Ground:
    """The document of a content: elements in time order, sections in that of the form.

    Raises : the documents' own errors, when the parts do not hang together.
    """
    parts: dict[str, Any] = {name: tuple(content.elements[k].values()) for k, name in content.names.items()}
    if isinstance(content.settings, GroundSettings):
        parts["anchors"] = tuple(sorted(parts["anchors"], key=attrgetter("tick")))
        parts["sections"] = in_form_order(parts["sections"], content.settings.form)
        parts["exceptions"] = in_place_order(parts["exceptions"])
        parts["cues"] = tuple(sorted(parts["cues"], key=attrgetter("tick", "id")))
        return Ground(settings=content.settings, **parts)
    parts["notes"] = tuple(sorted(parts["notes"], key=attrgetter("tick", "string", "id")))
    for name in ("rests", "dynamics"):
        parts[name] = tuple(sorted(parts[name], key=attrgetter("tick", "id")))
    for name in ("phrases", "questions", "swells"):
        parts[name] = tuple(sorted(parts[name], key=attrgetter("start", "id")))
    for name in ("stacks", "choices", "remarks", "plan"):
        parts[name] = tuple(sorted(parts[name], key=lambda element: str(element.id)))
    return Solo(settings=content.settings, **parts)


def to_json(element: Value | None) -> JsonValue:
    return None if element is None else element.model_dump(mode="json")


def apply(content: Content, changes: Iterable[Change]) -> Content:
    """The content after all changes, taken in order.

    Raises : EditConflict, when an element is not what a change says it was; EditImpossible; the elements' own errors.
    """
    elements = {kind: dict(by_id) for kind, by_id in content.elements.items()}
    settings: dict[str, JsonValue] = {}
    for change in changes:
        if change.kind is Kind.SETTING:
            now = settings[change.id] if change.id in settings else _setting(content, change.id)
            _expect(change, now, now == change.before)
            settings[change.id] = change.after
        elif change.kind is Kind.CHORD and content.kind is DocumentKind.GROUND:
            _change_chord(elements, change)
        elif change.kind in elements:
            _change_element(elements[change.kind], change)
        else:
            raise EditImpossible(f"A {content.kind} holds no {change.kind}.", kind=change.kind, id=change.id)
    return replace(content, settings=_with_settings(content.settings, settings), elements=elements)


def what_applies(content: Content, changes: Iterable[Change]) -> tuple[Content, list[Change], list[Change]]:
    """The content after those changes whose *before* is the present value, these changes, and the others."""
    done, left = [], []
    for change in changes:
        try:
            content = apply(content, [change])
        except (EditConflict, EditImpossible):
            left.append(change)
        else:
            done.append(change)
    return content, done, left


def _setting(content: Content, name: str) -> JsonValue:
    if name not in type(content.settings).model_fields:
        raise EditImpossible(f"A {content.kind} has no setting “{name}”.", kind="setting", id=name)
    value: JsonValue = content.settings.model_dump(mode="json", include={name})[name]
    return value


def _with_settings(
    settings: SoloSettings | GroundSettings, changed: dict[str, JsonValue]
) -> SoloSettings | GroundSettings:
    if not changed:
        return settings
    try:
        return type(settings).model_validate({**settings.model_dump(mode="json"), **changed})
    except ValidationError as fault:
        raise EditImpossible(explain(fault)) from fault


def _expect(change: Change, now: JsonValue, same: bool) -> None:
    if not same:
        what = f"The {change.kind} that you changed" if change.kind is not Kind.SETTING else f"The setting {change.id}"
        raise EditConflict(
            f"{what} has been changed elsewhere in the meantime.",
            kind=change.kind,
            id=change.id,
            now=now,
            before=change.before,
        )


def _change_element(elements: dict[str, Any], change: Change) -> None:
    now = elements.get(change.id)
    before = None if change.before is None else element_from_json(change.kind, change.before)
    _expect(change, to_json(now), now == before)
    if change.after is None:
        if now is None:
            raise EditImpossible(f"There is no {change.kind} {change.id} to change.", kind=change.kind, id=change.id)
        del elements[change.id]
        return
    after = element_from_json(change.kind, change.after)
    if after.id != change.id:
        raise EditImpossible(f"The {change.kind} {change.id} cannot take another id.", kind=change.kind, id=change.id)
    elements[change.id] = after


def _change_chord(elements: dict[Kind, dict[str, Any]], change: Change) -> None:
    """Replace one chord where it is written, in a bar of a section or of an exception."""
    if change.before is None or change.after is None:
        raise EditImpossible("A chord is added to or taken from its bar by changing the section.", id=change.id)
    before, after = (element_from_json(Kind.CHORD, value) for value in (change.before, change.after))

    def bar_with(bar: ChartBar) -> ChartBar:
        chords = tuple(after if chord.id == change.id else chord for chord in bar.chords)
        return bar if chords == bar.chords else bar.model_copy(update={"chords": chords})

    for section in elements[Kind.SECTION].values():
        for bar in section.written_bars():
            for chord in bar.chords:
                if chord.id == change.id:
                    _expect(change, to_json(chord), chord == before)
                    bars = tuple(map(bar_with, section.bars))
                    endings = tuple(tuple(map(bar_with, ending)) for ending in section.endings)
                    elements[Kind.SECTION][section.id] = section.model_copy(update={"bars": bars, "endings": endings})
                    return
    for exception in elements[Kind.EXCEPTION].values():
        for bar in exception.with_bars:
            for chord in bar.chords:
                if chord.id == change.id:
                    _expect(change, to_json(chord), chord == before)
                    elements[Kind.EXCEPTION][exception.id] = exception.model_copy(
                        update={"with_bars": tuple(map(bar_with, exception.with_bars))}
                    )
                    return
    _expect(change, None, same=False)


def difference(before: Solo | Ground, after: Solo | Ground) -> tuple[Change, ...]:
    """The changes that lead from one state of a document to another."""
    old, new = take_apart(before), take_apart(after)
    changes: list[Change] = []
    for kind in old.names:
        was, will = dict(old.elements[kind]), dict(new.elements[kind])
        changes += [Change(kind=kind, id=i, before=to_json(t)) for i, t in was.items() if i not in will]
        changes += [
            Change(kind=kind, id=i, before=to_json(was.get(i)), after=to_json(t))
            for i, t in will.items()
            if was.get(i) != t
        ]
    was_settings, will_settings = old.settings.model_dump(mode="json"), new.settings.model_dump(mode="json")
    changes += [
        Change(kind=Kind.SETTING, id=name, before=was_settings[name], after=value)
        for name, value in will_settings.items()
        if was_settings[name] != value
    ]
    return tuple(changes)
