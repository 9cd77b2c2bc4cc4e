"""The table of edit cases that the page is held to is the one that the core makes today."""

from __future__ import annotations

import pytest

import edit_cases


def test_the_table_is_that_of_today(request: pytest.FixtureRequest) -> None:
    made = edit_cases.text()
    if request.config.getoption("--rewrite-golden"):
        edit_cases.FILE.write_text(made)
    assert edit_cases.FILE.read_text() == made
    assert len(edit_cases.cases()) > 500
