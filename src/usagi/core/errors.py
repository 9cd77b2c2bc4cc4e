"""The one root of errors.

An error is read by a person: its text says what happened, where, and what to do next. `code` is stable and picks
the HTTP status and the words on the screen; `where` holds the place (bar, string, column, field) for the page.
A wrong call by our own code is a `ValueError` or an `assert`, never one of these.
"""

from __future__ import annotations

from typing import ClassVar, Self

Where = dict[str, str | int | float | None]


class UsagiError(Exception):
    """Something that a person did, sent or asked for cannot be taken as it is."""

    code: ClassVar[str] = "refused"

    def __init__(self, sentence: str, **where: str | int | float | None) -> None:
        super().__init__(sentence)
        self.sentence = sentence
        self.where: Where = dict(where)

    def restated(self, sentence: str | None = None, **where: str | int | float | None) -> Self:
        """The same error in other words, or with more of its place; this one stays as it is.

        >>> fault = UsagiError("There is no fret 23.", string=2)
        >>> other = fault.restated("At 1:1: There is no fret 23.", place="1:1")
        >>> other, other.where, fault.where
        (UsagiError('At 1:1: There is no fret 23.'), {'string': 2, 'place': '1:1'}, {'string': 2})
        """
        other = type(self).__new__(type(self))
        other.__dict__.update(self.__dict__)
        other.sentence = self.sentence if sentence is None else sentence
        other.args = (other.sentence,)
        other.where = self.where | where
        return other


def every_error(root: type[UsagiError] = UsagiError) -> list[type[UsagiError]]:
    """All error classes known so far, the root first."""
    return [root, *(deeper for child in root.__subclasses__() for deeper in every_error(child))]
