"""A valid request for every operation of the OpenAPI, on a studio with one of everything in it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any
from uuid import UUID, uuid4

from fastapi.testclient import TestClient

from asking import QUARTER, bring, edit, keep_heard_notes, note, opened, send, started, wav, write
from usagi.flows.setup.estimates import work

TAB = "\n".join(f"{string}|-5-7-8-|" for string in "eBGDAE")


@dataclass
class Request:
    """What a call needs besides its operation."""

    path: dict[str, Any] = field(default_factory=dict)
    query: dict[str, Any] = field(default_factory=dict)
    body: Any = None
    files: dict[str, Any] | None = None


class World:
    """One solo on a recording, with notes, a phrase and a history."""

    def __init__(self, client: TestClient) -> None:
        self.client = client
        self.recording = bring(client, "tin roof.wav", wav(1.0, channels=1)).json()["recording"]["id"]
        self.solo = started(client, recording_id=self.recording)
        bench = opened(client, self.solo)
        write(client, bench, note("n1", 0), note("n2", QUARTER))
        phrase = {"id": "p", "start": 0, "end": 2 * QUARTER, "name": "first"}
        assert send(client, bench, edit(bench, {"kind": "phrase", "id": "p", "after": phrase})).status_code == 200
        self.chord = str(bench["strip"]["chords"][0]["id"])
        self.document = client.get(f"/api/solos/{self.solo}/document.json").content
        self.written = 10

    def bench(self) -> dict[str, Any]:
        return opened(self.client, self.solo)

    def an_edit(self) -> dict[str, Any]:
        self.written += 1
        bench = self.bench()
        own = note(f"w{self.written}-{uuid4().hex[:6]}", self.written * QUARTER % (28 * QUARTER), string=4, fret=3)
        for old in bench["solo"]["notes"]:
            if old["tick"] == own["tick"] and old["string"] == 4:
                change = {"kind": "note", "id": old["id"], "before": old, "after": None}
                return edit(bench, change)
        return edit(bench, {"kind": "note", "id": own["id"], "after": own})

    def request(self, operation: str) -> Request:
        """A request that succeeds. Raises : KeyError for an operation that has no example yet."""
        make: dict[str, Callable[[], Request]] = {
            "post_other_changes": lambda: self._on_solo(
                body={"start": 0, "end": QUARTER, "text": "D7", "name": "late"}
            ),
            "get_shelf": Request,
            "get_offers": Request,
            "get_bench": self._on_solo,
            "get_chart": self._on_solo,
            "get_document": self._on_solo,
            "get_tab": self._on_solo,
            "get_news": self._on_solo,
            "remove_solo": self._on_solo,
            "fetch_back_solo": self._on_solo,
            "rename_solo": lambda: self._on_solo(body={"tune": "Tin Roof", "title": "break", "player": "Ada Moor"}),
            "post_edits": lambda: self._on_solo(body={"versions": {}, "edits": [self.an_edit()]}),
            "post_undo": self._undo,
            "post_redo": self._redo,
            "put_basics": lambda: self._on_solo(body={"tempo_bpm": 100 + self.written % 40}),
            "get_form_of_solo": self._on_solo,
            "get_sections": self._on_solo,
            "get_chart_text": self._on_solo,
            "put_sections": lambda: self._on_solo(body={"text": f"0:00 head {self.written % 3}"}),
            "put_order": lambda: self._on_solo(body={"text": str(1 + self.written % 3)}),
            "put_bar_facts": lambda: Request(
                path={"solo_id": self.solo, "bar": 1}, body={"key": "E minor", "blues": self.written % 2 == 0}
            ),
            "get_sounds_low": self._on_solo,
            "put_cues": lambda: self._on_solo(body={"cues": [{"id": "q", "tick": 0, "words": f"cue {self.written}"}]}),
            "get_family": self._on_solo,
            "get_part": lambda: Request(path={"solo_id": self.solo, "other_id": self.solo}),
            "put_recording": lambda: Request(
                path={"recording_id": self.recording}, body={"title": "reel", "year": 1974, "take": str(self.written)}
            ),
            "get_tone": lambda: self._on_solo(query={"name": "A4"}),
            "get_ways": lambda: self._on_solo(query={"start": 0, "end": 2 * QUARTER}),
            "put_pins": lambda: self._on_solo(body={"notes": ["n1"], "pinned": self.written % 2 == 0}),
            "get_hand_map": lambda: self._on_solo(query={"start": 0, "end": 2 * QUARTER, "hand": "large"}),
            "post_try_out": lambda: self._on_solo(body={"start": 0, "end": 2 * QUARTER, "speed": 700}),
            "post_figure": lambda: self._on_solo(body={"start": 0, "end": QUARTER, "to": 20 * QUARTER}),
            "post_tablature": lambda: self._on_solo(body={"text": TAB, "from_bar": 2}),
            "post_pitches": lambda: self._on_solo(body={"text": "C5 Eb F#4", "tick": 4 * QUARTER, "ticks": QUARTER}),
            "post_chord_shape": lambda: self._on_solo(body={"tick": 0, "ticks": QUARTER, "position": 5}),
            "post_onsets": lambda: self._on_solo(body={"taps": [{"at": 1.0, "until": 1.2}, {"at": 1.5}], "string": 5}),
            "post_version": lambda: self._on_solo(
                body={"name": f"simple {self.written}", "rules": ["in a straight feel"]}
            ),
            "post_bring_across": self._version,
            "get_comparison": lambda: self._on_solo(query={"version": 0}),
            "get_states": self._on_solo,
            "post_restore": lambda: self._on_solo(body={"version": 1}),
            "get_six_string": self._on_solo,
            "get_form": lambda: Request(query={"form": "12-bar", "key": "A major"}),
            "get_fit": lambda: Request(query={"figure": 3, "form": 12}),
            "post_estimate": lambda: self._on_solo(body={"kind": "swing", "first_bar": 1, "last_bar": 2}),
            "get_estimate": self._estimate,
            "get_tempo": self._on_solo,
            "get_open_jobs": self._on_solo,
            "cancel_estimate": self._estimate,
            "put_sleeve": lambda: self._on_solo(
                body={
                    "credits": [{"who": f"Ada Moor {self.written}", "part": "lead"}],
                    "rig": [{"name": "amp", "value": "4"}],
                }
            ),
            "get_retuning": lambda: self._on_solo(query={"tuning": "drop D"}),
            "put_taps": lambda: self._on_solo(body={"taps": [0.1 + 0.5 * i for i in range(8)]}),
            "put_bar_line": lambda: Request(
                path={"solo_id": self.solo, "bar": 1}, body={"second": 0.1 + 0.001 * (self.written % 5)}
            ),
            "put_chart": lambda: self._on_solo(body={"text": f"| Am7 | D7 | {'Gm7 |' * (self.written % 3)}"}),
            "get_sheet": self._on_solo,
            "put_sheet_bar": lambda: Request(
                path={"solo_id": self.solo, "bar": 1},
                body={"text": f"Am7 {'D7' if self.written % 2 else 'E7'}", "everywhere": True},
            ),
            "put_chord": self._chord,
            "post_check_tuning": lambda: Request(body={"text": "drop D"}),
            "post_recording": lambda: Request(files={"file": ("again.wav", wav(0.5, channels=1))}),
            "post_solo": lambda: Request(body={"tune": "Tin Roof", "basics": {"tempo_bpm": 120, "last_bar": 4}}),
            "get_licks_table": lambda: Request(query={"text": "1"}),
            "get_exports": self._on_solo,
            "get_export": lambda: Request(path={"solo_id": self.solo, "name": "musicxml"}, query={"degrees": True}),
            "get_picture": lambda: Request(
                path={"solo_id": self.solo, "kind": "svg"}, query={"start": 0, "end": 40_320, "what": "neck"}
            ),
            "post_look": lambda: Request(files={"file": ("mail.txt", TAB.encode())}),
            "post_import": lambda: Request(files={"file": ("mail.txt", TAB.encode()), "lengths": (None, "eighths")}),
            "post_import_into": lambda: Request(
                path={"solo_id": self.solo}, files={"file": ("mail.txt", TAB.encode()), "lengths": (None, "eighths")}
            ),
            "post_document": lambda: Request(files={"file": ("solo.json", self.document)}),
            "get_moment": lambda: Request(path={"recording_id": self.recording}, query={"second": 0.2}),
            "get_peaks": lambda: Request(path={"recording_id": self.recording, "level": 1}),
            "get_file": lambda: Request(path={"recording_id": self.recording}),
            "get_piece": lambda: self._on_solo(query={"start": 0, "end": 4_800, "speed": 500}),
            "get_count_in": lambda: self._on_solo(query={"tick": 0, "speed": 600}),
            "get_render": lambda: Request(query={"ticket": "a-ticket"}),
            "get_ladder": lambda: Request(query={"lowest": 500, "highest": 1_000, "step": 50, "passes": 3}),
            "get_loop": lambda: self._on_solo(query={"tick": 0, "end": QUARTER}),
            "get_phrase_loop": self._phrase,
            "get_hints": lambda: self._on_solo(query={"start": 0, "end": QUARTER}),
            "post_listen": lambda: self._on_solo(
                body={"start": 0, "end": 2 * QUARTER, "hints": {"texture": "one line"}}
            ),
            "post_offers": lambda: self._heard({}),
            "post_taken": lambda: self._heard({"numbers": [0]}),
            "post_no_note": lambda: self._heard({"number": 1, "id": str(uuid4())}),
            "post_all_again": lambda: self._heard({}),
            "post_bend_as_heard": self._bend,
            "get_corrections": Request,
            "put_corrections": lambda: Request(body={"keeps": self.written % 2 == 0}),
            "post_first_look": lambda: Request(path={"recording_id": self.recording}),
            "get_check": self._on_solo,
            "post_check_listen": lambda: self._on_solo(body={"hints": {"company": "alone"}}),
            "post_closer": lambda: self._finding({}),
            "post_mended": lambda: self._finding({}),
            "post_waived": lambda: self._finding({"reason": "as it is played"}),
            "post_taken_up": self._waived,
            "get_analysis": self._on_solo,
            "get_analysis_span": lambda: self._read(query={"start": 0, "end": QUARTER}),
            "post_phrases": self._unphrased,
            "get_why": lambda: self._read(query={"note": "one"}),
            "post_picked": lambda: self._read({"phrase": "p", "reading": "scale A dorian"}),
            "post_words": lambda: self._read({"phrase": "p", "words": "up from the root"}),
            "post_role": lambda: self._read({"note": "one", "role": "approach", "goal": "b3"}),
            "post_check_chord": lambda: Request(body={"text": "Ebmaj7"}),
            "post_check_pitch": lambda: Request(body={"text": "e3"}),
            "get_licks": lambda: Request(query={"text": "1 . b3", "motion": "I7 to IV7", "starts_at": 4}),
            "get_lick_choices": Request,
            "get_removed_licks": Request,
            "get_near_licks": lambda: Request(path={"span": self._kept()["span"]}),
            "get_span": lambda: Request(path={"span": self._kept()["span"]}),
            "post_lick": self._to_keep,
            "post_lick_document": lambda: Request(files={"file": ("lick.json", self._lick_document())}),
            "get_lick": self._lick,
            "put_lick": lambda: self._lick({"version": 1, "name": "first", "tags": ["blues"], "words": "softly"}),
            "remove_lick": lambda: self._lick({"version": 1}),
            "restore_lick": self._removed_lick,
            "get_lick_document": self._lick,
            "post_anywhere": lambda: Request(body={"which": self._which(), "there": {"key": "A minor", "position": 6}}),
            "post_lick_options": lambda: Request(body={"which": self._which(), "there": {"key": "A minor"}}),
            "post_document_elsewhere": lambda: Request(body={"which": self._which(), "there": {"key": "A minor"}}),
            "post_twelve": lambda: Request(body={"which": self._which(), "order": "half steps"}),
            "post_lick_sound": lambda: Request(body={"which": self._which(), "clicks": True, "part": "skeleton"}),
            "post_quote": lambda: Request(body=self._quote()),
            "post_quote_sound": lambda: Request(body=self._quote() | {"speed": 700}),
            "post_quote_solo": lambda: Request(
                body=self._quote() | {"title": f"Quote {uuid4().hex[:6]}", "id": str(uuid4())}
            ),
            "get_kin": lambda: self._on_solo(query={"start": 0, "end": 2 * QUARTER}),
            "get_melody": self._on_solo,
            "post_melody": lambda: self._read({"on": True}),
            "post_lifted_melody": lambda: self._read({"start": 0, "end": QUARTER}),
            "get_players": Request,
            "get_player": lambda: self._player({"since": 1960, "setting": "live"}),
            "get_player_figures": lambda: self._player({}),
            "get_player_notes": self._figure,
            "get_plan": self._on_solo,
            "post_line": lambda: self._read({"what": {"kind": "phrase", "phrase": "p"}, "start": 400, "level": 4}),
            "post_group": lambda: self._read({"start": 0, "end": QUARTER, "name": "that one"}),
            "post_moved": lambda: self._read({"what": {"kind": "whole"}, "by": 1}),
            "post_left_out": lambda: self._read({"what": {"kind": "whole"}}),
            "post_settings": lambda: self._on_solo(body={"start": 300 + 10 * (self.written % 9), "goal": 900}),
            "post_remark": lambda: self._read({"on": {"kind": "note", "note": "one"}, "words": "third finger"}),
            "post_remark_gone": self._remark,
            "get_second_ways": lambda: self._on_solo(query={"start": 0, "end": 2 * QUARTER}),
            "get_practice": lambda: self._on_solo(query={"line": "whole", "around": True}),
            "get_practice_piece": lambda: self._on_solo(
                query={"start": 0, "end": 4_800, "voice": 0.5, "vamp": 0.5, "count": "spoken", "key": 2}
            ),
            "get_practice_count_in": lambda: self._on_solo(query={"tick": 0, "speed": 600, "count": "spoken"}),
            "get_handout": lambda: self._on_solo(query={"paper": "letter", "staff": True}),
            "get_handout_pdf": lambda: self._on_solo(query={"large": True}),
            "get_lick_sheet": lambda: Request(query=self._which()),
            "get_lick_pdf": lambda: Request(query=self._which()),
            "post_loop_pack": lambda: self._on_solo(body={"passes": 1, "format": "opus"}),
            "get_loop_pack": self._pack,
        }
        return make[operation]()

    def _on_solo(self, body: Any = None, query: dict[str, Any] | None = None) -> Request:
        return Request(path={"solo_id": self.solo}, query=query or {}, body=body)

    def _phrase(self) -> Request:
        return Request(path={"solo_id": self.solo, "phrase_id": "p"})

    def _heard(self, body: dict[str, Any]) -> Request:
        """On a solo of its own, where two notes were heard, the first of them bent."""
        solo = started(self.client, recording_id=self.recording, title=f"take {uuid4().hex[:6]}")
        self.span = {"start": 0, "end": 2 * QUARTER, "hints": {}}
        keep_heard_notes(self.client, solo, self.span, [(0.05, 69, 200.0), (0.5, 72, None)])
        return Request(path={"solo_id": solo}, body=self.span | body)

    def _bend(self) -> Request:
        request = self._heard({})
        solo = str(request.path["solo_id"])
        bench = opened(self.client, solo)
        write(self.client, bench, note("bent", 0, course=[[0, 0], [5_040, 2]]))
        return Request(path=request.path, body=self.span | {"note": "bent"})

    def _finding(self, body: dict[str, Any]) -> Request:
        """On a solo of its own, whose first bar holds one beat."""
        solo = started(self.client, title=f"take {uuid4().hex[:6]}")
        write(self.client, opened(self.client, solo), note("one", 0))
        (finding,) = self.client.get(f"/api/solos/{solo}/check").json()["findings"]
        return Request(path={"solo_id": solo}, body={"finding": finding["id"]} | body)

    def _read(self, body: Any = None, query: dict[str, Any] | None = None) -> Request:
        """On a solo of its own, with one note in a phrase."""
        solo = started(self.client, title=f"take {uuid4().hex[:6]}")
        bench = opened(self.client, solo)
        write(self.client, bench, note("one", 0))
        phrase = {"id": "p", "start": 0, "end": 4 * QUARTER, "name": "the climb"}
        send(self.client, bench, edit(bench, {"kind": "phrase", "id": "p", "after": phrase}))
        return Request(path={"solo_id": solo}, body=body, query=query or {})

    def _to_keep(self) -> Request:
        """A lick of one note, on a solo of its own."""
        chart = "| {key E minor} Am7 | D7 |"
        solo = started(self.client, title=f"take {uuid4().hex[:6]}", chart=chart, player="Ada Moor")
        write(self.client, opened(self.client, solo), note("one", 0))
        return Request(body={"id": str(uuid4()), "solo": solo, "first": "one", "last": "one", "name": "first"})

    def _kept(self) -> dict[str, Any]:
        lick: dict[str, Any] = self.client.post("/api/licks", json=self._to_keep().body).json()
        return lick

    def _which(self) -> dict[str, Any]:
        return {"lick": self._kept()["lick"]}

    def _lick(self, body: Any = None) -> Request:
        return Request(path={"lick_id": self._kept()["lick"]}, body=body)

    def _removed_lick(self) -> Request:
        request = self._lick({"version": 2})
        self.client.post(f"/api/licks/{request.path['lick_id']}/remove", json={"version": 1})
        return request

    def _lick_document(self) -> bytes:
        return self.client.get(f"/api/licks/{self._kept()['lick']}/document.json").content

    def _quote(self) -> dict[str, Any]:
        return {"items": [{"which": self._which()}, {"which": self._which(), "bar": 3}], "chart": "| C7 | F7 | C7 |"}

    def _player(self, query: dict[str, Any]) -> Request:
        self._kept()
        (player, *_) = self.client.get("/api/players").json()
        return Request(path={"player_id": player["id"]}, query=query)

    def _figure(self) -> Request:
        request = self._player({})
        page = self.client.get(f"/api/players/{request.path['player_id']}").json()
        group, figure = next((group["group"], one) for group in page["groups"] for one in group["figures"])
        return Request(path=request.path, query={"group": group, "answer": figure["answer"]})

    def _remark(self) -> Request:
        request = self._read()
        path = f"/api/solos/{request.path['solo_id']}"
        self.client.post(f"{path}/remarks", json={"on": {"kind": "phrase", "phrase": "p"}, "words": "softly"})
        (remark,) = self.client.get(f"{path}/plan").json()["remarks"]
        return Request(path=request.path, body={"id": remark["id"]})

    def _pack(self) -> Request:
        """A loop pack that a worker has made."""
        request = self._read()
        body = {"passes": 1, "recording": 0, "voice": 1, "format": "wav"}
        asked = self.client.post(f"/api/solos/{request.path['solo_id']}/loop-packs", json=body).json()
        work(self.client.app.state.workspace, UUID(asked["id"]))  # type: ignore[attr-defined]
        return Request(path={"pack_id": asked["id"]})

    def _unphrased(self) -> Request:
        solo = started(self.client, title=f"take {uuid4().hex[:6]}")
        write(self.client, opened(self.client, solo), *[note(f"n{i}", i * QUARTER) for i in range(4)])
        return Request(path={"solo_id": solo})

    def _waived(self) -> Request:
        request = self._finding({})
        path = f"/api/solos/{request.path['solo_id']}/check"
        self.client.post(f"{path}/waived", json=request.body)
        (waived,) = self.client.get(path).json()["waived"]
        return Request(path=request.path, body={"waiver": waived["waiver"]})

    def _version(self) -> Request:
        made = self.client.post(f"/api/solos/{self.solo}/versions", json={"name": "simple"}).json()
        return Request(path={"solo_id": made["solo_id"]})

    def _estimate(self) -> Request:
        asked = self.client.post(f"/api/solos/{self.solo}/estimates", json={"kind": "offset"}).json()
        return Request(path={"estimate_id": asked["id"]})

    def _undo(self) -> Request:
        send(self.client, self.bench(), self.an_edit())
        return self._on_solo(body={"versions": {}})

    def _redo(self) -> Request:
        self.client.post(f"/api/solos/{self.solo}/undo", json=self._undo().body)
        return self._on_solo(body={"versions": {}})

    def _chord(self) -> Request:
        chords = self.bench()["strip"]["chords"]
        path = {"solo_id": self.solo, "chord_id": chords[0]["id"]}
        return Request(path=path, body={"symbol": "Am9" if self.written % 2 else "Am7"})
