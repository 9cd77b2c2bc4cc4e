"""MIDI out as it sounds, and performances in: bends, strings, tempo wherever it stands."""

from __future__ import annotations

import io
import random
from functools import partial

import mido
import pytest
from hypothesis import given
from hypothesis import strategies as st

from core.formats.asking import brought_in, demo_solo
from usagi.core.document.elements import Note
from usagi.core.document.pitches import written_pitch
from usagi.core.formats.curves import read_curve, sounding_curve
from usagi.core.formats.files import Going, kind_named, kind_of_bytes, written
from usagi.core.formats.midi.reading import read_midi, read_parts
from usagi.core.formats.midi.writing import RANGE, write_midi
from usagi.core.formats.score import FileUnreadable
from usagi.core.meter.ticks import QUARTER

PER_QUARTER = 480


def song(
    *tracks: list[tuple[int, mido.Message | mido.MetaMessage]], type: int = 1, per_quarter: int = PER_QUARTER
) -> bytes:
    """A file of tracks of `(tick, message)`."""
    file = mido.MidiFile(type=type, ticks_per_beat=per_quarter)
    for events in tracks:
        track = mido.MidiTrack()
        at = 0
        for tick, message in sorted(events, key=lambda one: one[0]):
            track.append(message.copy(time=tick - at))
            at = tick
        file.tracks.append(track)
    out = io.BytesIO()
    file.save(file=out)
    return out.getvalue()


def struck(tick: int, pitch: int, ticks: int, channel: int = 0):
    return [
        (tick, mido.Message("note_on", note=pitch, velocity=80, channel=channel)),
        (tick + ticks, mido.Message("note_off", note=pitch, channel=channel)),
    ]


def line(pitches: list[int], each: int = 240, channel: int = 0):
    return [event for i, pitch in enumerate(pitches) for event in struck(i * each, pitch, each, channel)]


def test_a_channel_a_string_and_the_range_of_the_bend_is_said() -> None:
    document = demo_solo("lanterns-at-low-water")
    file = mido.MidiFile(file=io.BytesIO(write_midi(document, as_played=False)))
    assert file.type == 1 and file.ticks_per_beat == QUARTER
    channels = {m.channel for m in file.tracks[1] if m.type == "note_on"}
    assert channels == {note.string - 1 for note in document.solo.notes}
    for channel in channels:
        said = [(m.control, m.value) for m in file.tracks[1] if m.type == "control_change" and m.channel == channel]
        assert said[:4] == [(101, 0), (100, 0), (6, RANGE), (38, 0)]
    sounding = [n for n in document.solo.notes if written_pitch(n, document.solo.settings) is not None]
    assert sum(m.type == "note_on" for m in file.tracks[1]) == len(sounding)


def test_seconds_are_those_of_the_grid() -> None:
    """The tempo map leads every note to the second at which the grid has it."""
    document = demo_solo("lanterns-at-low-water")
    file = mido.MidiFile(file=io.BytesIO(write_midi(document, as_played=False)))
    second, onsets = 0.0, []
    for message in file:
        second += message.time
        if message.type == "note_on" and message.velocity:
            onsets.append(second)
    grid = document.ground.grid
    start = grid.second(document.ground.timeline.bars.first_tick)
    wanted = [
        grid.second(n.tick) - start for n in document.solo.notes if written_pitch(n, document.solo.settings) is not None
    ]
    assert onsets == pytest.approx(sorted(wanted), abs=0.002)


def test_swing_sounds_unless_it_is_asked_for_as_written() -> None:
    document = demo_solo("slack-tide")
    for played in (True, False):
        data = written(document, kind_named("midi"), Going(as_played=played))
        file = mido.MidiFile(file=io.BytesIO(data))
        at, places = 0, set()
        for message in file.tracks[1]:
            at += message.time
            if message.type == "note_on":
                places.add(at % QUARTER)
        assert (QUARTER // 2 in places) is not played
        back = brought_in(data, "midi").document.solo.notes
        assert {n.tick for n in back} == {n.tick for n in document.solo.notes}


@given(
    size=st.sampled_from([1, 2, 3, 4, 6, 8]),
    shape=st.sampled_from(["bend", "release", "prebend", "dip"]),
    length_s=st.floats(0.25, 3.0),
)
def test_a_bend_is_read_back_from_its_curve(size: int, shape: str, length_s: float) -> None:
    """Levels exactly, times to a fiftieth of a second."""
    ticks = 20_160
    course = {
        "bend": ((0, 0), (5_040, size)),
        "release": ((0, 0), (5_040, size), (12_600, size), (17_640, 0)),
        "prebend": ((0, size), (7_560, size), (15_120, 0)),
        "dip": ((0, 0), (5_040, -size), (12_600, 0)),
    }[shape]
    note = Note(id="n", tick=0, ticks=ticks, string=2, fret=800, course=course)
    found, vibrato = read_curve(
        sounding_curve(note, 0.0, length_s), length_s, lambda s: round(s / length_s * ticks), ticks
    )
    assert vibrato is None
    assert [quarters for _, quarters in found] == [quarters for _, quarters in course]
    assert all(abs(a - b) / ticks * length_s <= 0.02 for (a, _), (b, _) in zip(found, course, strict=True))


def in_ticks(per_second: float, second: float) -> int:
    return round(second * per_second)


@pytest.mark.parametrize("seed", [7_001, 7_002, 7_003])
def test_vibrato_is_read_back_from_its_curve(seed: int) -> None:
    """Of two turns and more, as wide and as fast within a fifth."""
    chance = random.Random(seed)
    for _ in range(30):
        width, rate = chance.uniform(20, 120), chance.uniform(4, 8)
        length_s = chance.uniform(2.2, 8) / rate + 0.2
        note = Note.model_validate(
            {
                "id": "n",
                "tick": 0,
                "ticks": 20_160,
                "string": 2,
                "fret": 800,
                "vibrato": {"width_cents": width, "rate_hz": rate},
            }
        )
        per_second = 20_160 / length_s
        samples = sounding_curve(note, 0.0, length_s)
        course, found = read_curve(samples, length_s, partial(in_ticks, per_second), 20_160)
        assert found is not None and course == ()
        assert found.width_cents == pytest.approx(width, rel=0.2) and found.rate_hz == pytest.approx(rate, rel=0.2)


def test_tempo_meter_and_key_are_found_in_any_track() -> None:
    tempo = [
        (0, mido.MetaMessage("set_tempo", tempo=600_000)), (1_440, mido.MetaMessage("set_tempo", tempo=500_000)),
        (0, mido.MetaMessage("time_signature", numerator=3, denominator=4)), (0, mido.MetaMessage("key_signature", key="Em")),
        (1_440, mido.MetaMessage("marker", text="bridge")), (0, mido.MetaMessage("text", text="Em7")),
    ]  # fmt: skip
    laid = brought_in(song(line([64, 67, 69, 71] * 3, 480), tempo), "midi")
    ground = laid.document.ground
    assert str(ground.timeline.facts[1].meter) == "3/4" and str(ground.timeline.facts[1].key) == "E minor"
    assert ground.grid.second(2 * 30_240) - ground.grid.second(30_240) == pytest.approx(1.5)
    assert ground.grid.second(30_240) - ground.grid.second(0) == pytest.approx(1.8)
    assert [ground.timeline.played[n].section for n in (1, 2)] == ["", "bridge"]
    assert ground.timeline.changes[0].shown == "Em7"


@pytest.mark.parametrize("seed", [8_101, 8_102, 8_103])
def test_a_performance_is_quantised(seed: int) -> None:
    """Eighths and triplets played up to 15 ms beside their steps come back on them."""
    chance = random.Random(seed)
    places = [0, 240, 480, 640, 800, 960, 1_200, 1_440, 1_680, 1_920, 2_080, 2_240, 2_400, 2_880, 3_360]
    events = []
    for i, place in enumerate(places):
        at = max(0, place + round(chance.uniform(-14, 14)))
        until = (places[i + 1] if i + 1 < len(places) else 3_840) - chance.randint(5, 40)
        events += struck(at, 64 + i % 5, until - at)
    notes = brought_in(song(events), "midi").document.solo.notes
    assert [n.tick * PER_QUARTER // QUARTER for n in notes] == places
    assert [n.end for n in notes[:-1]] == [n.tick for n in notes[1:]]


def test_channels_that_can_be_strings_are_read_as_strings() -> None:
    """From the highest string on, as ours are, and from the lowest on, as those of some pick-ups."""
    high_first = song(
        struck(0, 69, 480, 0) + struck(480, 64, 480, 1) + struck(960, 60, 480, 2) + struck(1_440, 69, 480, 0)
    )
    assert [(n.string, n.fret) for n in brought_in(high_first, "midi").document.solo.notes] == [
        (1, 500),
        (2, 500),
        (3, 500),
        (1, 500),
    ]
    low_first = song(
        struck(0, 45, 480, 0) + struck(480, 50, 480, 1) + struck(960, 69, 480, 5) + struck(1_440, 45, 480, 0)
    )
    assert [(n.string, n.fret) for n in brought_in(low_first, "midi").document.solo.notes] == [
        (6, 500),
        (5, 500),
        (1, 500),
        (6, 500),
    ]


def test_the_range_of_others_is_heeded() -> None:
    bend = [(120, mido.Message("pitchwheel", pitch=4_096)), (480, mido.Message("pitchwheel", pitch=0))]
    two = brought_in(song([*struck(0, 67, 480), *bend]), "midi").document.solo.notes[0]
    assert max(q for _, q in two.course) == 2
    wide = [(0, mido.Message("control_change", control=c, value=v)) for c, v in ((101, 0), (100, 0), (6, 4))]
    four = brought_in(song([*wide, *struck(0, 67, 480), *bend]), "midi").document.solo.notes[0]
    assert max(q for _, q in four.course) == 4


def test_a_pick_up_is_a_short_bar_of_its_own_meter() -> None:
    meters = [
        (0, mido.MetaMessage("time_signature", numerator=1, denominator=4)),
        (480, mido.MetaMessage("time_signature", numerator=4, denominator=4)),
    ]
    read = read_midi(song([*meters, *line([64, 65, 67, 69, 71], 480)]))
    assert read.pickup_ticks == QUARTER and [n.tick // QUARTER for n in read.notes] == [-1, 0, 1, 2, 3]


def test_parts_are_tracks_or_channels_and_drums_are_none() -> None:
    bass, lead = line([40, 43, 45] * 2, 240, 0), line([64, 67, 69], 240, 1)
    named = [(0, mido.MetaMessage("track_name", name="Lead Guitar")), *lead]
    two = song([(0, mido.MetaMessage("track_name", name="Bass")), *bass], named)
    assert [(p.name, p.notes) for p in read_parts(two)] == [("Bass", 6), ("Lead Guitar", 3)]
    assert {n.midi for n in read_midi(two).notes} == {64, 67, 69}
    assert {n.midi for n in read_midi(two, part="Bass").notes} == {40, 43, 45}
    chords = line([60, 64], 480, 3) + [event for pitch in (60, 64, 67) for event in struck(0, pitch, 960, 4)]
    single = song([*chords, *line([36, 38], 240, 9)], type=0)
    assert [p.id for p in read_parts(single)] == ["channel 4", "channel 5"]


@pytest.mark.parametrize(
    ("data", "sentence"),
    [
        (b"RIFF", "not a MIDI file"),
        (song(line([64]))[:30], "damaged"),
        (song([(0, mido.MetaMessage("track_name", name="x"))]), "no notes"),
        (song(line([36], channel=9)), "no notes"),
        (song(line([64]), type=2), "type 2"),
        (song(line([64]))[:12] + b"\xe7\x28" + song(line([64]))[14:], "frames of film"),
        (b"MThd" + b"\0" * 2_000_000, "too long"),
    ],
)
def test_what_is_no_solo_is_refused_in_a_sentence(data: bytes, sentence: str) -> None:
    with pytest.raises(FileUnreadable, match=sentence):
        read_midi(data)


def test_a_wrapper_and_chunks_of_other_kinds_are_skipped() -> None:
    plain = song(line([64, 67]))
    alien = plain[:14] + b"XFIH" + (4).to_bytes(4, "big") + b"abcd" + plain[14:] + b"left over"
    body = b"RMIDdata" + len(plain).to_bytes(4, "little") + plain
    wrapped = b"RIFF" + len(body).to_bytes(4, "little") + body
    for data in (alien, wrapped):
        assert brought_in(data, "midi").document.solo.notes == brought_in(plain, "midi").document.solo.notes
        assert kind_of_bytes(data, "sent").name == "midi"


def test_a_number_means_the_number_of_the_list() -> None:
    """Behind a track without notes the ids of tracks are other numbers than their places in the list."""
    tracks = [line([60 + k] * (k + 1), 240, channel) for k, channel in enumerate((2, 0, 1, 4))]
    data = song([(0, mido.MetaMessage("track_name", name="conductor"))], *tracks)
    listed = read_parts(data)
    assert [one.id for one in listed] != [str(number) for number in range(1, len(listed) + 1)]
    for number, part in enumerate(listed, start=1):
        assert len(read_midi(data, part=str(number)).notes) == part.notes, (number, [one.id for one in listed])


def test_a_pitch_that_stands_twice_at_one_instant_is_written_once_and_that_is_said() -> None:
    on, off = ("note_on", "note_off")
    twice = [
        (0, mido.Message(on, note=64, velocity=90)),
        (0, mido.Message(on, note=64, velocity=70)),
        (480, mido.Message(off, note=64)),
        (480, mido.Message(off, note=64)),
        (480, mido.Message(on, note=67, velocity=90)),
        (960, mido.Message(off, note=67)),
    ]
    read = read_midi(song(twice))
    assert [n.midi for n in read.notes] == [64, 67]
    assert any(words.startswith("1 note stood twice on one place") for words in read.messages)
