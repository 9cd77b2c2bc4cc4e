"""The one root of errors.

An error is read by a person: its text says what happened, where, and what to do next. `code` is stable and picks
the HTTP status and the words on the screen; `where` holds the place (bar, string, column, field) for the page.
A wrong call by our own code is a `ValueError` or an `assert`, never one of these.
"""

from __future__ import annotations

from typing import ClassVar

Where = dict[str, str | int | float | None]


class UsagiError(Exception):
    """Something that a person did, sent or asked for cannot be taken as it is."""

    code: ClassVar[str] = "refused"

    def __init__(self, sentence: str, **where: str | int | float | None) -> None:
        super().__init__(sentence)
        self.sentence = sentence
        self.where: Where = dict(where)


def every_error(root: type[UsagiError] = UsagiError) -> list[type[UsagiError]]:
    """All error classes known so far, the root first."""
    return [root, *(deeper for child in root.__subclasses__() for deeper in every_error(child))]
