"""The lick document: what is said of a lick, round the document of its notes on the ground of their solo."""

from __future__ import annotations

import json
from typing import Annotated, Literal

from pydantic import Field, ValidationError

from usagi.core.document.faults import explain
from usagi.core.formats.document_json import DocumentTooNew, SoloDocument, document_from_tree
from usagi.core.formats.json_text import DocumentUnreadable, json_tree
from usagi.core.values import Value

LICK_SCHEMA = 1


class LickDocument(Value):
    """Name, tags and words of a lick; its notes are those of the solo in it, and no others."""

    lick_schema: Literal[1] = 1
    name: Annotated[str, Field(max_length=120)] = ""
    tags: Annotated[tuple[Annotated[str, Field(max_length=40)], ...], Field(max_length=20)] = ()
    words: Annotated[str, Field(max_length=2_000)] = ""
    document: SoloDocument


def write_lick(lick: LickDocument) -> bytes:
    """UTF-8, fields in the order of the schema, two spaces a level, one newline at the end."""
    return (json.dumps(lick.model_dump(mode="json", by_alias=True), ensure_ascii=False, indent=2) + "\n").encode()


def read_lick(data: bytes) -> LickDocument:
    """Raises : DocumentTooNew; DocumentUnreadable, naming the place; the errors of what is in the document."""
    tree = json_tree(data)
    schema = tree.get("lick_schema") if isinstance(tree, dict) else None
    if not isinstance(tree, dict) or schema is None:
        raise DocumentUnreadable("This file is not a lick document: it names no lick_schema.")
    if isinstance(schema, int) and not isinstance(schema, bool) and schema > LICK_SCHEMA:
        raise DocumentTooNew(
            f"This lick has schema {schema}; this program reads up to {LICK_SCHEMA}. Bring the program up to date.",
            schema=schema,
        )
    document = document_from_tree(tree.get("document"))
    try:
        lick = LickDocument.model_validate(tree | {"document": document})
    except ValidationError as fault:
        raise DocumentUnreadable(f"This lick cannot be read: {explain(fault)}") from fault
    if not any(not note.dead and note.fret is not None for note in document.solo.notes):
        raise DocumentUnreadable("This lick holds no note with a pitch.")
    return lick
