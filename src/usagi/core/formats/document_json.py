"""The JSON document: a solo with its ground, closed objects, the same bytes every time.

It holds no document id, no studio and no time of day, so that export, import and export give the same bytes.
"""

from __future__ import annotations

import json
from typing import Annotated, Any, Literal

from pydantic import Field, ValidationError

from usagi.core.document.edits import GROUND_ELEMENTS, SOLO_ELEMENTS, put_together, take_apart
from usagi.core.document.faults import explain
from usagi.core.document.rules import check_solo
from usagi.core.document.solo import Ground, Solo
from usagi.core.errors import UsagiError
from usagi.core.formats.json_text import DocumentUnreadable, json_tree
from usagi.core.values import Value

# 2: the density of wound strings and the tuning that a set is strung for. 3: waivers. 4: roles and words for phrases.
# 5: melodies, and the licks of a quote. 6: remarks, and the plan.
SCHEMA = 6


class DocumentTooNew(UsagiError):
    """A document of a later schema than this program knows."""

    code = "document-too-new"


class RecordingReference(Value):
    """The sound that a document was written from: its hash, so that it can be found again, and its length."""

    sha256: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
    seconds: Annotated[float, Field(gt=0, le=3_600)]
    title: Annotated[str, Field(max_length=200)] = ""


class SoloDocument(Value):
    schema_: Annotated[Literal[6], Field(alias="schema")] = 6
    tune: Annotated[str, Field(max_length=200)] = ""
    recording: RecordingReference | None = None
    ground: Ground
    solo: Solo


def write_document(document: SoloDocument) -> bytes:
    """The document's bytes: UTF-8, fields in the order of the schema, two spaces a level, one newline at the end."""
    tree = document.model_dump(mode="json", by_alias=True)
    return (json.dumps(tree, ensure_ascii=False, indent=2) + "\n").encode()


def read_document(data: bytes) -> SoloDocument:
    """Read a document and check everything in it.

    Raises : DocumentTooNew; DocumentUnreadable, naming the place; the errors of what is in it.
    """
    return document_from_tree(json_tree(data))


def document_from_tree(tree: Any) -> SoloDocument:
    """As `read_document`, from JSON already taken in."""
    schema = tree.get("schema") if isinstance(tree, dict) else None
    if schema is None:
        raise DocumentUnreadable("This file is not a solo document: it names no schema.")
    if isinstance(schema, int) and not isinstance(schema, bool) and schema > SCHEMA:
        raise DocumentTooNew(
            f"This document has schema {schema}; this program reads up to {SCHEMA}. Bring the program up to date.",
            schema=schema,
        )
    if type(schema) is not int or schema < 1:
        raise DocumentUnreadable(f"This document has schema {schema!r}; this program knows 1 to {SCHEMA}.")
    try:
        document = SoloDocument.model_validate(upgraded(tree, schema))
    except ValidationError as fault:
        raise DocumentUnreadable(f"This document cannot be read: {explain(fault)}") from fault
    _ids_once(document)
    # Whoever wrote the file may have listed elements in any order; everything that follows rests on ours.
    parts = {"solo": put_together(take_apart(document.solo)), "ground": put_together(take_apart(document.ground))}
    document = document.model_copy(update=parts)
    check_solo(document.solo, document.ground, document.solo.notes)
    return document


def upgraded(tree: dict[str, Any], schema: int) -> dict[str, Any]:
    """The tree of a document of an earlier schema, led to today's. What later schemas brought has defaults."""
    return tree | {"schema": SCHEMA} if schema < SCHEMA else tree


def document_schema() -> dict[str, Any]:
    """The published JSON Schema: every object closed."""
    schema = SoloDocument.model_json_schema(by_alias=True)
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **schema, "title": "A Usagi solo document"}


def _ids_once(document: SoloDocument) -> None:
    solo, ground = document.solo, document.ground
    for name in SOLO_ELEMENTS.values():
        _once(f"solo.{name}", [element.id for element in getattr(solo, name)])
    for name in GROUND_ELEMENTS.values():
        _once(f"ground.{name}", [element.id for element in getattr(ground, name)])


def _once(place: str, ids: list[str]) -> None:
    twice = next((i for n, i in enumerate(ids) if i in ids[:n]), None) if len(set(ids)) < len(ids) else None
    if twice is not None:
        raise DocumentUnreadable(f"This document cannot be read: {place} holds the id {twice} twice.", id=twice)
