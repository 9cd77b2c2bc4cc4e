"""The database stands still, or nothing can be reached, while somebody types: what was typed arrives, once."""

from __future__ import annotations

import json
import os
import signal
import time
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect

from accidents.running import Running
from browser.opening import open_at, saved

pytestmark = [pytest.mark.browser, pytest.mark.long]
KEYS = ("KeyE", "KeyR", "KeyD", "KeyF")
STOPPED_S = 10


@pytest.fixture
def running(open_home: Path) -> Iterator[Running]:
    found = Running(open_home)
    found.start()
    yield found
    found.stop()


@pytest.fixture
def page(browser: Browser, running: Running) -> Iterator[Page]:
    context = browser.new_context(base_url=running.base, viewport={"width": 1280, "height": 800}, locale="en-GB")
    context.set_default_timeout(20_000)
    yield context.new_page()
    context.close()


def database_pids(running: Running) -> list[int]:
    """The postmaster and every process that it started."""
    folder = json.loads((running.home / "pg.json").read_text())["folder"]
    parent = int((Path(folder) / "data" / "postmaster.pid").read_text().splitlines()[0])
    found = [parent]
    for entry in Path("/proc").iterdir():
        if entry.name.isdigit():
            try:
                stat = (entry / "stat").read_text().rsplit(")", 1)[1].split()
            except OSError:
                continue  # it has ended meanwhile
            if int(stat[1]) == parent:
                found.append(int(entry.name))
    return found


def test_ten_seconds_without_a_database_lose_no_key(running: Running, page: Page) -> None:
    solo = running.new_solo("Stands still")
    open_at(page, solo)
    page.keyboard.press(KEYS[0])
    saved(page)
    pids = database_pids(running)
    for pid in pids:
        os.kill(pid, signal.SIGSTOP)
    try:
        begin = time.monotonic()
        typed = 1
        while time.monotonic() < begin + STOPPED_S:
            page.keyboard.press(KEYS[typed % len(KEYS)])
            typed += 1
            expect(page.get_by_role("option")).to_have_count(typed)
            page.wait_for_timeout(400)
    finally:
        for pid in pids:
            os.kill(pid, signal.SIGCONT)
    expect(page.get_by_role("status", name="Saving")).to_have_text("Saved", timeout=30_000)
    stored = running.ask(f"/api/solos/{solo}/document.json")["solo"]["notes"]
    assert len(stored) == typed > 15
    assert len({note["tick"] for note in stored}) == typed


def test_an_hour_without_the_server_and_a_reload_in_between(running: Running, page: Page) -> None:
    solo = running.new_solo("An hour")
    page.clock.install()
    open_at(page, solo)
    page.route("**/api/**", lambda route: route.abort())
    for key in KEYS:
        page.keyboard.press(key)
    state = page.get_by_role("status", name="Saving")
    expect(state).to_have_text("Kept on this computer: 4 to send")
    page.clock.fast_forward("01:00:00")
    expect(state).to_have_text("Kept on this computer: 4 to send")
    page.reload()
    expect(page.get_by_text("The server does not answer")).to_be_visible()
    assert running.ask(f"/api/solos/{solo}/document.json")["solo"]["notes"] == []
    page.unroute("**/api/**")
    page.reload()
    page.get_by_role("group", name="Strip").focus()
    page.keyboard.press(KEYS[0])
    saved(page)
    assert len(running.ask(f"/api/solos/{solo}/document.json")["solo"]["notes"]) == 5
