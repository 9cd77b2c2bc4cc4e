"""Claims of who plays what."""

from __future__ import annotations

import pytest

from usagi.core.document.credits import disputes
from usagi.core.document.solo import Credit


def claim(who: str, part: str = "lead", *, picked: bool = False) -> Credit:
    return Credit(who=who, part=part, according_to="a sleeve", sure=0.5, picked=picked)


@pytest.mark.parametrize(
    ("claims", "said"),
    [
        ([], ()),
        ([claim("Ada Moor")], ()),
        ([claim("Ada Moor"), claim("Ada Moor ")], ()),  # two sources, one name
        ([claim("Ada Moor"), claim("Ines Quarrie", "rhythm")], ()),
        ([claim("Ada Moor"), claim("Ines Quarrie", " LEAD ")], ("Disputed who plays lead: Ada Moor or Ines Quarrie.",)),
        ([claim("Ada Moor", picked=True), claim("Ines Quarrie")], ()),  # the other stays on record
        (
            [claim("Ada Moor", ""), claim("Ines Quarrie", ""), claim("Teodor Vasse", "")],
            ("Disputed who plays this: Ada Moor, Ines Quarrie or Teodor Vasse.",),
        ),
    ],
)
def test_what_is_disputed(claims: list[Credit], said: tuple[str, ...]) -> None:
    assert disputes(claims) == said
