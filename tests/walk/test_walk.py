"""A long random walk: two people's pages and a real server, over a line that delays, doubles and loses.

At the end pages and server agree, nothing that was acknowledged is gone, and nothing was left out but what another
person's change stood against.
"""

from __future__ import annotations

import itertools
import time
from collections.abc import Iterator
from typing import Any
from uuid import uuid4

import pytest
from hypothesis import HealthCheck, Phase, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, rule, run_state_machine_as_test

from usagi.store.database import create_database, migrate
from walk.pages import Page, build, two_servers

QUARTER = 10_080
STEP = QUARTER // 4
BARS = 4
PLACES = st.integers(0, BARS * 16 - 1).map(lambda step: step * STEP)
CONFLICTS = {"edit-conflict", "place-taken"}
KINDS = {"notes": "note", "rests": "rest", "stacks": "stack", "phrases": "phrase", "questions": "question",
         "dynamics": "dynamic", "swells": "swell"}  # fmt: skip


@pytest.fixture(scope="module")
def pages(server_dsn: str, tmp_path_factory: pytest.TempPathFactory) -> Iterator[tuple[Page, Page]]:
    build()
    dsn = create_database(server_dsn, f"usagi_walk_{uuid4().hex[:8]}")
    migrate(dsn)
    with two_servers(dsn, tmp_path_factory.mktemp("walk")) as bases:
        found = Page(bases[0], 1), Page(bases[1], 2)
        yield found
        for page in found:
            page.close()


class Walk(RuleBasedStateMachine):
    """What two people do to one solo. `pages` is set by the test."""

    pages: tuple[Page, Page]
    alone = False
    numbers = itertools.count()
    acts = 0

    @initialize()
    def a_new_solo(self) -> None:
        body = {"tune": f"Walk {next(Walk.numbers)}", "chart": "| Am7 | D7 | G | C |",
                "basics": {"tempo_bpm": 120, "bars": BARS, "last_bar": BARS}}  # fmt: skip
        self.solo = self.pages[0].post("/api/solos", body)["solo_id"]
        for page in self.pages:
            page.tell("faults", on=False)
            page.tell("open", solo=self.solo)
            page.tell("faults", on=True)

    def _tell(self, who: int, do: str, **arguments: Any) -> None:
        Walk.acts += do != "latch"  # the simplest walk of all presses one latch over and over
        self.pages[0 if self.alone else who].tell(do, **arguments)

    WHO = st.integers(0, 1)
    AT = st.integers(0, 30)

    @rule(who=WHO, string=st.integers(1, 6), fret=st.integers(0, 14), join=st.booleans())
    def write(self, who: int, string: int, fret: int, join: bool) -> None:
        self._tell(who, "write", string=string, fret=fret, join=join)

    @rule(who=WHO, tick=PLACES, string=st.integers(1, 6))
    def go(self, who: int, tick: int, string: int) -> None:
        self._tell(who, "cursor", tick=tick, string=string)

    @rule(who=WHO, index=st.integers(1, 4))
    def take_a_length(self, who: int, index: int) -> None:
        self._tell(who, "length", index=index)

    @rule(who=WHO)
    def stay(self, who: int) -> None:
        self._tell(who, "latch", name="stay")

    @rule(who=WHO, ticks=st.sampled_from([STEP, 2 * STEP, QUARTER, 4 * QUARTER]))
    def rest(self, who: int, ticks: int) -> None:
        self._tell(who, "rest", ticks=ticks)

    @rule(who=WHO, at=AT, do=st.sampled_from(["delete", "join", "slide", "question", "pin"]))
    def do_to_a_note(self, who: int, at: int, do: str) -> None:
        self._tell(who, do, at=at)

    @rule(who=WHO, at=AT, ticks=st.sampled_from([STEP, 3 * STEP, QUARTER, 6 * QUARTER]))
    def lengthen(self, who: int, at: int, ticks: int) -> None:
        self._tell(who, "lengthen", at=at, ticks=ticks)

    @rule(who=WHO, at=AT, by=st.sampled_from([-4 * QUARTER, -QUARTER, -STEP, STEP, QUARTER, 4 * QUARTER]))
    def move(self, who: int, at: int, by: int) -> None:
        self._tell(who, "move", at=at, by=by)

    @rule(who=WHO, at=AT, by=st.sampled_from([-12, -1, 1, 12]))
    def move_along_the_string(self, who: int, at: int, by: int) -> None:
        self._tell(who, "fret", at=at, by=by)

    @rule(who=WHO, at=AT, technique=st.integers(0, 60))
    def shape(self, who: int, at: int, technique: int) -> None:
        self._tell(who, "shape", at=at, technique=technique)

    @rule(who=WHO, start=PLACES, length=st.integers(1, 24))
    def phrase(self, who: int, start: int, length: int) -> None:
        self._tell(who, "phrase", **{"from": start, "to": min(start + length * STEP, BARS * 4 * QUARTER)})

    @rule(who=WHO, at=AT)
    def drop_a_phrase(self, who: int, at: int) -> None:
        self._tell(who, "drop phrase", at=at)

    @rule(who=WHO, start=PLACES)
    def delete_a_bar(self, who: int, start: int) -> None:
        self._tell(who, "delete all", **{"from": start, "to": start + 4 * QUARTER})

    @rule(who=WHO, tick=PLACES)
    def louder(self, who: int, tick: int) -> None:
        self._tell(who, "louder", tick=tick)

    @rule(who=WHO, do=st.sampled_from(["undo", "undo", "redo"]))
    def take_back(self, who: int, do: str) -> None:
        self._tell(who, do)

    @rule(who=WHO, do=st.sampled_from(["reload", "reread", "settle"]))
    def open_again(self, who: int, do: str) -> None:
        self._tell(who, do)

    @rule(who=WHO, over=st.booleans())
    def decide_about_what_was_left_out(self, who: int, over: bool) -> None:
        self._tell(who, "try left out" if over else "drop left out", over=True)

    def teardown(self) -> None:
        if not hasattr(self, "solo"):
            return
        for page in self.pages:
            page.tell("settle")
            page.tell("faults", on=False)
        for page in self.pages:
            page.tell("settle")
        self.pages[0].tell("reload")
        for page in self.pages:
            page.tell("settle")
        newest = self.pages[0].get(f"/api/solos/{self.solo}")["versions"]
        for page in self.pages:  # the news of the last edit may be on its way
            end = time.monotonic() + 20
            while page.tell("state")["versions"] != newest:
                assert time.monotonic() < end, (page.tell("state")["versions"], newest)
                time.sleep(0.01)
        stored = self.pages[0].get(f"/api/solos/{self.solo}/document.json")["solo"]
        log = [edit for page in self.pages for edit in _log(page, self.solo)]
        for page, other in (self.pages, self.pages[::-1]):
            state = page.tell("state")
            assert state["upset"] == [], state["upset"]
            assert state["waiting"] == []
            for group in KINDS:
                mine = sorted(state["elements"][group].values(), key=lambda element: str(element["id"]))
                theirs = sorted(stored[group], key=lambda element: str(element["id"]))
                assert mine == theirs, f"{group}: page {mine}\nserver {theirs}"
            assert state["violations"] == [], state["violations"]
            self._only_the_other_stood_against(state["leftOut"], other, log)

    def _only_the_other_stood_against(self, left_out: list[dict[str, Any]], other: Page, log: list[Any]) -> None:
        """Whoever is alone is never refused; of two only what the other changed or removed, or what rests on that."""
        if self.alone:
            assert left_out == [], _told(left_out, log)
        theirs = {
            change["id"]
            for edit in log
            if edit["person"] == other.get(f"/api/solos/{self.solo}")["person"]
            for change in (*edit["changes"], *(one for one in edit["follows"] if one["after"] is None))
        }
        theirs |= {
            change["id"] for edit in log for change in edit["follows"] if _moved(change)
        }  # stopped by a note of theirs
        for one in left_out:  # in the order in which they were left out, those that were dropped since among them
            ids = {change["id"] for edit in one["edits"] for change in edit["changes"]}
            if one["restsOn"] is None:
                assert one["code"] in CONFLICTS, _told([one], log)
                assert (ids | {one["id"], (one["now"] or {}).get("id")}) & theirs, _told([one], log)
            theirs |= ids  # what was to be deleted still stands in the way of what was written for it


def _moved(change: dict[str, Any]) -> bool:
    before, after = change["before"] or {}, change["after"] or {}
    return "tick" in before and "tick" in after and before["tick"] != after["tick"]


def _told(left_out: list[dict[str, Any]], log: list[dict[str, Any]]) -> str:
    """What was left out, and what the log says of the elements in it."""
    ids = {change["id"] for one in left_out for edit in one["edits"] for change in edit["changes"]}
    ids |= {one["now"]["id"] for one in left_out if one["now"]}
    lines = [f"left out {one['code']}: {one['sentence']} {one['edits']} now {one['now']}" for one in left_out]
    for edit in log:
        for part in ("changes", "follows"):
            changes = [change for change in edit[part] if change["id"] in ids]
            lines += [f"{edit['person'][:4]} {edit['label']} ({part}): {change}" for change in changes]
    return "\n".join(lines)


def _log(page: Page, solo: str) -> list[dict[str, Any]]:
    """Every edit of the solo, from the beginning."""
    return list(page.post(f"/api/solos/{solo}/edits", {"versions": {solo: 0}, "edits": []})["edits"])


def walked(pages: tuple[Page, Page], examples: int, steps: int, *, alone: bool) -> int:
    """Walk, and say how many acts were done."""
    before, Walk.pages, Walk.alone = Walk.acts, pages, alone
    run_state_machine_as_test(  # type: ignore[no-untyped-call]
        Walk,
        settings=settings(
            max_examples=examples,
            stateful_step_count=steps,
            deadline=None,
            phases=[Phase.generate],
            suppress_health_check=list(HealthCheck),
            database=None,
        ),
    )
    return Walk.acts - before


TOGETHER = pytest.mark.parametrize("alone", [True, False], ids=["one person", "two people"])


@TOGETHER
def test_a_walk_ends_with_pages_and_server_agreed(pages: tuple[Page, Page], alone: bool) -> None:
    done = 0
    while done < 100:
        done += walked(pages, 5, 30, alone=alone)
    lost = [page.tell("state")["lost"] for page in pages]
    assert sum(one["answers"] for one in lost) and sum(one["doubled"] for one in lost), lost  # the line does its worst


@pytest.mark.long
@TOGETHER
def test_a_long_walk_ends_with_pages_and_server_agreed(pages: tuple[Page, Page], alone: bool) -> None:
    done = 0
    while done < 2_000:
        done += walked(pages, 10, 100, alone=alone)
