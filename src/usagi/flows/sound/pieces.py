"""The sound of a solo: peaks, pieces at any speed, loops and count-ins."""

from __future__ import annotations

import io
import wave
from collections.abc import Iterator
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import partial
from uuid import UUID

import numpy as np

from usagi.core.audio import RATE_HZ, Sound, Stored, from_stored, to_stored
from usagi.core.audio.clicks import clicks
from usagi.core.audio.cuts import joint_near, piece_end
from usagi.core.audio.levels import limited
from usagi.core.audio.peaks import LEVELS, PeakBuilder
from usagi.core.audio.stretch import CONTEXT_S, ENGINE, SEAM_S, check_speed, joined, lead_s, piece_frames, render
from usagi.core.audio.vocoder import Report, unreported
from usagi.core.audio.voice import StringEvent, guitar
from usagi.core.document.solo import Ground, Solo
from usagi.core.errors import UsagiError
from usagi.core.pitch.names import parse_pitch
from usagi.core.playing.chord_line import chord_events
from usagi.core.playing.loops import CountIn, Loop, count_in, loop_span, whole_bars
from usagi.core.playing.strings import slowed, string_events
from usagi.flows.workspace import NotThere, Workspace
from usagi.store.database import Db, transaction
from usagi.store.recordings import Recording, read_sound, recording
from usagi.store.titles import ground_place

LONGEST_PIECE_S = 60.0
MOST_TAIL = RATE_HZ
CLICK_LEVEL = 0.7
TOGETHER_LEVEL = 0.7
SHORT_TURN_S = 0.06  # before a bar line, what begins belongs to the bar
VOICE = 2  # number of the guitar voice; raised when it would sound otherwise
RELEASE_S = 0.2
SAMPLE_BYTES = 2
JOINT_CONTEXT = RATE_HZ // 2  # frames either side in which onsets are heard
MIXED_AT_ONCE = 60 * RATE_HZ  # frames


class PieceImpossible(UsagiError):
    """A piece of sound that cannot be cut."""

    code = "piece-impossible"


class Channels(StrEnum):
    BOTH = "both"
    LEFT = "left"
    RIGHT = "right"
    MIDDLE = "middle"
    SIDE = "side"


class Hear(StrEnum):
    """What is heard: the recording, the writing by the program's own guitar, the one left and the other right, both
    together, or both in turns, bar by bar; or the writing over its chords."""

    RECORDING = "recording"
    WRITING = "writing"
    BESIDE = "beside"
    TOGETHER = "together"
    TURNS = "turns"
    CHORDS = "chords"


VOICED = (Hear.WRITING, Hear.CHORDS)  # by the program's own guitar alone


@dataclass(frozen=True, slots=True)
class Piece:
    """Which sound is wanted: `[start, end)` in frames of the recording, at a speed, moved by cents.

    A piece of a longer playing says its `number` (0 opens it) and ends at `end` or before, where the next joins best.
    """

    start: int
    end: int
    speed_permille: int = 1_000
    cents: float = 0.0
    channels: Channels = Channels.BOTH
    loop: bool = False
    tail: int = 0
    clicks: bool = False  # a click on every pulse of the grid
    hear: Hear = Hear.RECORDING
    number: int | None = None


@dataclass(frozen=True, slots=True)
class PieceSound:
    """A piece as a WAV file, and the frame of the recording at which it ends."""

    wav: bytes
    end: int


@dataclass(frozen=True)
class Source:
    """Where the frames come from: a recording, or the writing itself where there is none."""

    recording: Recording | None
    solo: Solo
    ground: Ground
    key: str
    written: str  # changes with the writing


def piece(
    workspace: Workspace, solo_id: UUID, wanted: Piece, report: Report = unreported, *, state: int | None = None
) -> PieceSound:
    """A piece of exact length; frames outside the recording are silence.

    The writing is as it stands, or as it stood in a `state`. `report` hears the share that is made, while it is made,
    and may end it by raising.

    Raises : PieceImpossible, SpeedImpossible, NotThere.
    """
    until = wanted.end
    if wanted.number is not None and wanted.end > wanted.start:
        wanted = replace(wanted, end=piece_end(wanted.start, wanted.number, wanted.end))
    bounded(wanted)
    with transaction(workspace.pool) as db:
        source = source_of(db, workspace, solo_id, sounds=wanted.hear not in VOICED, state=state)
    if wanted.number is not None and wanted.end < until:
        wanted = replace(wanted, end=min(until, joint(workspace, source, wanted)))
    wanted = replace(wanted, number=None)
    if source.recording is None and wanted.hear is not Hear.CHORDS:
        wanted = replace(wanted, hear=Hear.RECORDING)  # without a recording the writing is all there is
    return PieceSound(sounded(workspace, source, wanted, report), wanted.end)


def bounded(wanted: Piece) -> None:
    """Refuse a piece that cannot be cut. Raises : PieceImpossible, SpeedImpossible."""
    check_speed(wanted.speed_permille, wanted.cents)
    if wanted.end <= wanted.start:
        raise PieceImpossible("A piece of sound ends after it starts.")
    if wanted.end - wanted.start > LONGEST_PIECE_S * RATE_HZ:
        raise PieceImpossible(
            f"A piece is at most {LONGEST_PIECE_S:.0f} seconds long; longer playing is cut in pieces."
        )
    if not 0 <= wanted.tail <= MOST_TAIL:
        raise PieceImpossible("The tail of a piece is at most one second.")


def sounded(workspace: Workspace, source: Source, wanted: Piece, report: Report = unreported) -> bytes:
    """A piece of a source as a WAV file: as it is asked for, from its first frame to its last."""
    if wanted.hear in VOICED:
        wav = written_piece(workspace, source, wanted)
    else:
        wav = stretched_piece(workspace, source, replace(wanted, hear=Hear.RECORDING, clicks=False), report)
    if wanted.hear not in (Hear.RECORDING, *VOICED):
        wav = _both(wav, written_piece(workspace, source, wanted), source.ground, wanted)
    if wanted.clicks:
        wav = _with_clicks(wav, source.ground, wanted)
    return wav


def joint(workspace: Workspace, source: Source, wanted: Piece) -> int:
    """The frame at which a piece within a playing ends; the writing alone can be cut anywhere."""
    if source.recording is None or wanted.hear in VOICED:
        return wanted.end
    first = wanted.end - JOINT_CONTEXT
    pcm = frames_of(workspace, source, first, wanted.end + JOINT_CONTEXT)
    return joint_near(of_channels(pcm, wanted.channels), first, wanted.end)


def stretched_piece(workspace: Workspace, source: Source, wanted: Piece, report: Report) -> bytes:
    """The recording alone, at the speed and moved by the cents."""

    def make() -> bytes:
        before = round(lead_s((wanted.end - wanted.start) / RATE_HZ, loop=wanted.loop) * RATE_HZ)
        # The tail is heard at the end too: what fades into the next piece is cut from the same sound.
        after = round(CONTEXT_S * RATE_HZ + wanted.tail * wanted.speed_permille / 1_000)
        pcm = frames_of(workspace, source, wanted.start - before, wanted.end + after)
        sound = render(
            of_channels(pcm, wanted.channels),
            before=before,
            after=after,
            speed_permille=wanted.speed_permille,
            cents=wanted.cents,
            tail=wanted.tail,
            loop=wanted.loop,
            at=wanted.start,
            report=report,
        )
        return wav_bytes(to_stored(sound))

    return workspace.cache.get(("piece", ENGINE, source.key, wanted), make)


def written_piece(workspace: Workspace, source: Source, wanted: Piece) -> bytes:
    """The writing alone, played at the speed: as far off as the recording, and moved by the same cents."""

    def make() -> bytes:
        speed = wanted.speed_permille / 1_000
        cents = source.ground.settings.offset_cents + wanted.cents
        written = string_events(source.solo, source.ground)
        if wanted.hear is Hear.CHORDS:
            written = sorted([*written, *chord_events(source.solo, source.ground)], key=lambda event: event.onset_s)
        events = slowed(written, speed, cents / 100)
        frames = piece_frames(wanted.end - wanted.start, wanted.speed_permille) + wanted.tail
        seam = round(SEAM_S * RATE_HZ)
        line = _line(events, wanted.start / RATE_HZ / speed - SEAM_S, seam + frames)
        return wav_bytes(to_stored(limited(joined(line[seam:], line[:seam]) if wanted.loop else line[seam:])))

    plain = replace(wanted, clicks=False, hear=wanted.hear if wanted.hear is Hear.CHORDS else Hear.WRITING)
    return workspace.cache.get(("voice", VOICE, source.written, plain), make)


def _both(wav: bytes, written: bytes, ground: Ground, wanted: Piece) -> bytes:
    """A piece of the recording and the same of the writing: apart, together, or in turns."""
    if wanted.hear is Hear.BESIDE:
        return wav_bytes(np.hstack([_middle(wav), _middle(written)]))
    recorded, line = from_stored(pcm_of(wav)), from_stored(pcm_of(written))
    if wanted.hear is Hear.TOGETHER:
        return wav_bytes(to_stored(limited((recorded + line) * TOGETHER_LEVEL)))
    share = _turns(ground, wanted, len(recorded))
    return wav_bytes(to_stored(limited(recorded * share + line * (1 - share))))


def _turns(ground: Ground, wanted: Piece, frames: int) -> Sound:
    """For every frame of a piece how much of the recording is heard: bars in turns, the recording first.

    A loop that is shorter than two bars goes beat by beat: else one of the two would never be heard.
    """
    per_frame = 1_000 / wanted.speed_permille / RATE_HZ
    edges = [ground.grid.second(bar.tick) for bar in ground.timeline.bars.bars]
    start_s, end_s = wanted.start / RATE_HZ, wanted.end / RATE_HZ
    inside = sum(start_s - SHORT_TURN_S <= second < end_s - SHORT_TURN_S for second in edges)
    if wanted.loop and inside < 2:
        edges = [second for _, second in _pulses(ground)]
    first = max(0, sum(second <= start_s + SHORT_TURN_S for second in edges) - 1) if wanted.loop else 0
    at = [round((second * RATE_HZ - wanted.start) * per_frame * RATE_HZ) for second in edges[first:]]
    share = np.ones(frames, np.float32)
    for begin, end in zip(at[1::2], [*at[2::2], frames], strict=False):
        share[max(0, begin) : max(0, end)] = 0.0
    fade = round(SEAM_S * RATE_HZ)
    return np.convolve(np.pad(share, fade, mode="edge"), np.ones(2 * fade + 1) / (2 * fade + 1), "valid")[
        :, None
    ].astype(np.float32)


def _middle(wav: bytes) -> Stored:
    pcm = pcm_of(wav)
    mixed: Stored = np.rint(pcm.astype(np.float64).mean(axis=1, keepdims=True)).astype(np.int16)
    return mixed


def pcm_of(wav: bytes) -> Stored:
    """The samples of a WAV file of ours, int16 of shape (frames, channels)."""
    with wave.open(io.BytesIO(wav)) as file:
        channels = file.getnchannels()
        pcm: Stored = np.frombuffer(file.readframes(file.getnframes()), dtype="<i2").reshape(-1, channels)
    return pcm


def _with_clicks(wav: bytes, ground: Ground, wanted: Piece) -> bytes:
    pcm = pcm_of(wav)
    return wav_bytes(to_stored(limited(from_stored(pcm) + grid_clicks(ground, wanted, len(pcm)))))


def grid_clicks(ground: Ground, wanted: Piece, frames: int) -> Sound:
    """Clicks on the pulses of a piece, at the speed that it sounds; laid after stretching, so they stay sharp."""
    per_frame = 1_000 / wanted.speed_permille / RATE_HZ
    begin_s, end_s = wanted.start / RATE_HZ, (wanted.end + wanted.tail) / RATE_HZ
    at = [
        ((second * RATE_HZ - wanted.start) * per_frame, beat == 1)
        for beat, second in _pulses(ground)
        if begin_s <= second < end_s
    ]
    return CLICK_LEVEL * clicks(at, frames / RATE_HZ)


def _pulses(ground: Ground) -> list[tuple[int, float]]:
    """Beat number and second of every pulse."""
    return [(beat, ground.grid.second(tick)) for bar in ground.timeline.bars.bars for beat, tick in bar.pulse_ticks()]


def source_of(db: Db, workspace: Workspace, solo_id: UUID, *, sounds: bool = True, state: int | None = None) -> Source:
    """Raises : NotThere; where the recording's sound has not come, only if it is wanted (`sounds`)."""
    solo, version, ground_id = workspace.solo(db, solo_id, state)
    ground, ground_version = workspace.ground(db, ground_id)
    place = ground_place(db, workspace.scope, ground_id)
    written = f"writing {solo_id} {version} {ground_version}"
    if place.recording_id is None:
        return Source(None, solo, ground, written, written)
    sound = recording(db, workspace.scope, place.recording_id)
    if sounds and (sound is None or sound.frames is None):
        raise NotThere(
            "The sound of this recording has not come yet: bring its file.", recording=str(place.recording_id)
        )
    return Source(sound, solo, ground, written if sound is None else sound.sha256, written)


def frames_of(workspace: Workspace, source: Source, start: int, end: int, *, mono: bool = False) -> Sound:
    """Frames `[start, end)`, silence where there are none; mixed to one channel when asked."""
    if mono and end - start > MIXED_AT_ONCE:
        return np.concatenate(list(mono_parts(workspace, source, start, end)))
    if source.recording is None:
        return _written_frames(source.solo, source.ground, start, end)
    sound = source.recording
    assert sound.frames is not None and sound.channels is not None
    width = SAMPLE_BYTES * sound.channels
    first, last = max(0, start), min(sound.frames, end)
    with transaction(workspace.pool) as db:
        data = b"".join(read_sound(db, workspace.scope, sound.id, "pcm", first * width, max(first, last) * width))
    pcm: Stored = np.frombuffer(data, dtype="<i2").reshape(-1, sound.channels)
    before = min(max(0, first - start), end - start)
    padded = np.pad(from_stored(pcm), ((before, end - start - before - len(pcm)), (0, 0)))
    return (padded.mean(axis=1, keepdims=True) if mono else padded).astype(np.float32)


def mono_parts(workspace: Workspace, source: Source, start: int, end: int) -> Iterator[Sound]:
    """Frames `[start, end)` in one channel, a minute at a time."""
    for at in range(start, end, MIXED_AT_ONCE):
        yield frames_of(workspace, source, at, min(end, at + MIXED_AT_ONCE), mono=True)


def _written_frames(solo: Solo, ground: Ground, start: int, end: int) -> Sound:
    """Without a recording the writing itself sounds: the notes by the program's guitar, a click on every pulse."""
    begin_s, end_s = start / RATE_HZ, end / RATE_HZ
    out = np.zeros((end - start, 1), dtype=np.float32)
    pulses = [(second - begin_s, beat == 1) for beat, second in _pulses(ground)]
    out += 0.5 * clicks([p for p in pulses if p[0] >= 0], end_s - begin_s)[: end - start]
    return np.asarray(out + _line(string_events(solo, ground), begin_s, len(out)), np.float32)


def _line(events: list[StringEvent], begin_s: float, frames: int) -> Sound:
    """Frames of a line from a second on; what began before is played from its beginning."""
    end_s = begin_s + frames / RATE_HZ
    heard = [e for e in events if e.onset_s < end_s and e.onset_s + e.sounding_s + e.ring_s + RELEASE_S > begin_s]
    if not heard:
        return np.zeros((frames, 1), np.float32)
    origin = min(begin_s, min(event.onset_s for event in heard))
    line = guitar([replace(event, onset_s=event.onset_s - origin) for event in heard], end_s - origin + 1 / RATE_HZ)
    skip = round((begin_s - origin) * RATE_HZ)
    return line[skip : skip + frames]


def of_channels(pcm: Sound, wanted: Channels) -> Sound:
    """What is wanted of a stereo sound; a sound of one channel as it is."""
    if pcm.shape[1] == 1 or wanted is Channels.BOTH:
        return pcm
    left, right = pcm[:, :1], pcm[:, 1:2]
    match wanted:
        case Channels.LEFT:
            return left
        case Channels.RIGHT:
            return right
        case Channels.MIDDLE:
            return ((left + right) / 2).astype(np.float32)
        case _:
            return ((left - right) / 2).astype(np.float32)


def wav_bytes(pcm: Stored) -> bytes:
    """A 48 kHz 16-bit WAV file."""
    out = io.BytesIO()
    with wave.open(out, "wb") as file:
        file.setnchannels(pcm.shape[1])
        file.setsampwidth(SAMPLE_BYTES)
        file.setframerate(RATE_HZ)
        file.writeframes(pcm.astype("<i2").tobytes())
    return out.getvalue()


def loop_over(workspace: Workspace, solo_id: UUID, tick: int, end_tick: int) -> Loop:
    """The frames of a marked span. Raises : PieceImpossible."""
    solo, ground = solo_and_ground(workspace, solo_id)
    if end_tick <= tick:
        raise PieceImpossible("A loop ends after it starts.")
    return loop_span(solo, ground, tick, end_tick)


def loop_phrase(
    workspace: Workspace, solo_id: UUID, phrase_id: str, *, exact: bool = False, state: int | None = None
) -> Loop:
    """The loop of a phrase, as it is or was in a state: whole bars, or exactly as marked. Raises : NotThere."""
    solo, ground = solo_and_ground(workspace, solo_id, state)
    phrase = next((phrase for phrase in solo.phrases if phrase.id == phrase_id), None)
    if phrase is None:
        raise NotThere("This phrase is not here any more.", phrase=phrase_id)
    tick, end_tick = (phrase.start, phrase.end) if exact else whole_bars(phrase, ground)
    return loop_span(solo, ground, tick, end_tick)


def count_in_sound(workspace: Workspace, solo_id: UUID, tick: int, speed_permille: int) -> bytes:
    """One bar of clicks before a tick as a WAV file; it is as long as the bar at the speed that sounds."""
    check_speed(speed_permille, 0)
    _, ground = solo_and_ground(workspace, solo_id)
    wanted: CountIn = count_in(ground, tick, speed_permille=speed_permille)
    return wav_bytes(to_stored(clicks(wanted.at_s, wanted.length_s)))


TONE_S = 3.0


def reference_tone(workspace: Workspace, solo_id: UUID, name: str) -> bytes:
    """A plucked note, a WAV file, as far off as the recording: its offset is trimmed by it. Raises : NameUnreadable."""
    _, ground = solo_and_ground(workspace, solo_id)
    midi = parse_pitch(name) + ground.settings.offset_cents / 100
    return wav_bytes(to_stored(guitar([StringEvent(0.0, TONE_S - 0.2, ((0.0, midi),))], TONE_S)))


def solo_and_ground(workspace: Workspace, solo_id: UUID, state: int | None = None) -> tuple[Solo, Ground]:
    """A solo, as it is or in an earlier state, and its ground. Raises : NotThere."""
    with transaction(workspace.pool) as db:
        solo, _, ground_id = workspace.solo(db, solo_id, state)
        ground, _ = workspace.ground(db, ground_id)
    return solo, ground


def peaks(workspace: Workspace, recording_id: UUID, level: int) -> bytes:
    """One level of the peak pyramid: signed bytes, three a block (min, max, rms). Raises : NotThere."""
    if not 0 <= level < LEVELS:
        raise NotThere(f"There is no peak level {level}: 0 to {LEVELS - 1}.")
    with transaction(workspace.pool) as db:
        sound = recording(db, workspace.scope, recording_id)
    if sound is None or sound.frames is None or sound.channels is None:
        raise NotThere("The sound of this recording has not come yet: bring its file.", recording=str(recording_id))
    key = ("peaks", 1, sound.sha256)
    found: list[bytes] = []

    def make_all() -> None:
        builder = PeakBuilder()
        width = SAMPLE_BYTES * (sound.channels or 1)
        step = 1 << 20
        for first in range(0, (sound.frames or 0) * width, step * width):
            with transaction(workspace.pool) as db:
                data = b"".join(read_sound(db, workspace.scope, sound.id, "pcm", first, first + step * width))
            builder.add(np.frombuffer(data, dtype="<i2").reshape(-1, sound.channels or 1))
        found.extend(values.tobytes() for values in builder.levels())

    def make(wanted: int) -> bytes:
        if not found:
            make_all()
        return found[wanted]

    data = workspace.cache.get((*key, level), lambda: make(level))
    for other in range(LEVELS) if found else ():  # all levels come from one reading
        workspace.cache.get((*key, other), partial(make, other))
    return data


MOMENT_S = 1.5


def moment(workspace: Workspace, recording_id: UUID, second: float) -> bytes:
    """A second and a half of a recording from a second on, as it was decoded: a WAV file. Raises : NotThere."""
    item = the_recording(workspace, recording_id)
    frames, channels = item.frames or 0, item.channels or 1
    start = min(max(0, round(second * RATE_HZ)), frames)
    end = min(frames, start + round(MOMENT_S * RATE_HZ))
    width = channels * SAMPLE_BYTES
    with transaction(workspace.pool) as db:
        data = b"".join(read_sound(db, workspace.scope, recording_id, "pcm", start * width, end * width))
    return wav_bytes(np.frombuffer(data, dtype="<i2").reshape(-1, channels))


def file_parts(workspace: Workspace, recording_id: UUID, start: int, end: int) -> list[bytes]:
    """Bytes `[start, end)` of the file as it was uploaded."""
    with transaction(workspace.pool) as db:
        return list(read_sound(db, workspace.scope, recording_id, "upload", start, end))


def the_recording(workspace: Workspace, recording_id: UUID) -> Recording:
    """Raises : NotThere."""
    with transaction(workspace.pool) as db:
        sound = recording(db, workspace.scope, recording_id)
    if sound is None or sound.bytes is None:
        raise NotThere("The sound of this recording has not come yet: bring its file.", recording=str(recording_id))
    return sound
