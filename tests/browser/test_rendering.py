"""A long loop at another speed takes a while: how far it is can be read, and it can be left."""

from __future__ import annotations

import re
import threading
from http.client import HTTPConnection

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from browser.opening import open_at

pytestmark = pytest.mark.browser


@pytest.fixture(scope="module")
def long_solo(served) -> str:
    rng = np.random.default_rng(41)
    t = np.arange(59 * 48_000) / 48_000
    sound = 0.2 * np.sin(2 * np.pi * 196 * t) + 0.02 * rng.standard_normal(len(t))
    return str(served.bring("Long vamp", sound, basics={"tempo_bpm": 120, "bar_one_s": 0.5, "last_bar": 29}))


def test_a_slow_loop_says_how_far_it_is_and_can_be_left(page: Page, served, long_solo: str) -> None:
    phrase = {"id": "all", "start": 0, "end": 28 * 40_320, "name": "all of it"}
    bench = served.get(f"/api/solos/{long_solo}")
    served.post(
        f"/api/solos/{long_solo}/edits",
        {"versions": {}, "edits": [{"id": "e", "act": "a", "document": long_solo, "made_in": long_solo,
         "person": bench["person"], "at": "2026-11-25T10:00:00+00:00", "schema": 1, "label": "phrase",
         "changes": [{"kind": "phrase", "id": "all", "before": None, "after": phrase}]}]},
    )  # fmt: skip
    open_at(page, long_solo)
    transport = page.get_by_role("region", name="Transport")
    page.get_by_role("button", name="all of it").first.click()
    expect(transport.get_by_text("Looping all of it")).to_be_visible()
    expect(transport.get_by_text("bars 1–28")).to_be_visible()
    transport.get_by_label("Speed in per cent").fill("25")
    made = transport.get_by_text(re.compile(r"made to \d+ %"))
    expect(made).to_be_visible()
    assert transport.get_by_role("button", name="Stop").is_visible()
    transport.get_by_role("button", name="cancel").click()
    expect(made).to_have_count(0)
    expect(transport.get_by_label("Speed in per cent")).to_have_value("100")
    expect(transport.get_by_text("Looping all of it")).to_be_visible()


def test_a_render_ends_when_the_page_goes_away(served, long_solo: str) -> None:
    path = f"/api/solos/{long_solo}/piece?start=0&end=2700000&speed=260&ticket=left-alone"
    moment = threading.Event()

    def share() -> float:
        return float(served.get("/api/renders?ticket=left-alone")["share"])

    asking = HTTPConnection(served.base.removeprefix("http://"), timeout=30)
    asking.request("GET", path)
    while share() == 0.0:
        moment.wait(0.005)
    asking.close()  # the page goes away in the middle
    shares = [share()]
    while len(shares) < 6 or shares[-1] != shares[-6]:  # it has stopped, or come to its end
        moment.wait(0.1)
        shares.append(share())
    assert 0 < shares[-1] < 1
