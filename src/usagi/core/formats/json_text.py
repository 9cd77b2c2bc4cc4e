"""JSON documents out of text or bytes, with what is wrong said in a sentence."""

from __future__ import annotations

import json
from collections.abc import Iterator
from typing import Any

from usagi.core.errors import UsagiError


class DocumentUnreadable(UsagiError):
    """A file that is not a solo document of ours, or one that breaks its own rules."""

    code = "document-unreadable"


def text_of(data: bytes) -> str:
    """The text of a file in UTF-8, with or without a byte-order mark. Raises : DocumentUnreadable."""
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError as fault:
        raise _unreadable("its text is not UTF-8") from fault


def json_trees(text: str) -> Iterator[Any]:
    """JSON values one after another. Raises : DocumentUnreadable, naming line and column."""
    decoder, at = json.JSONDecoder(), 0
    text = text.removeprefix("\ufeff").strip()
    if not text:
        raise DocumentUnreadable("There is no document here: the input is empty.")
    while at < len(text):
        try:
            tree, at = decoder.raw_decode(text, at)
        except json.JSONDecodeError as fault:
            raise _unreadable(f"it is not JSON (line {fault.lineno}, column {fault.colno})") from fault
        except RecursionError as fault:
            raise _unreadable("its JSON is nested too deeply") from fault
        except ValueError as fault:  # Python reads no number of more than 4,300 digits
            raise _unreadable("it holds a number that is too long") from fault
        yield tree
        while at < len(text) and text[at].isspace():
            at += 1


def json_tree(data: bytes) -> Any:
    """The one JSON value of a file. Raises : DocumentUnreadable."""
    trees = list(json_trees(text_of(data)))
    if len(trees) > 1:
        raise _unreadable("it holds more than one document")
    return trees[0]


def _unreadable(why: str) -> DocumentUnreadable:
    return DocumentUnreadable(f"This file is not a solo document: {why}.")
