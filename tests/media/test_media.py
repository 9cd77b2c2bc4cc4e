"""The cache, and decoding with what it has to say about a file."""

from __future__ import annotations

import struct
import threading
import time
from pathlib import Path

import numpy as np
import pytest
import soundfile

from usagi.core.audio import RATE_HZ
from usagi.media.cache import Cache
from usagi.media.decode import NOTICES, SoundRefused, decode


def test_what_was_made_once_is_not_made_again(tmp_path: Path) -> None:
    cache, made = Cache(tmp_path, 1_000), []

    def make() -> bytes:
        made.append(1)
        return b"sound"

    assert [cache.get(("a", 1), make) for _ in range(3)] == [b"sound"] * 3
    assert cache.get(("a", 2), make) == b"sound"
    assert len(made) == 2


def test_several_who_ask_at_once_make_it_once(tmp_path: Path) -> None:
    cache, made = Cache(tmp_path, 1_000), []

    def make() -> bytes:
        time.sleep(0.05)
        made.append(1)
        return b"sound"

    threads = [threading.Thread(target=lambda: cache.get(("a",), make)) for _ in range(6)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert made == [1]


def test_the_longest_unused_goes_first_when_it_is_full(tmp_path: Path) -> None:
    cache = Cache(tmp_path, 250)
    for name in "abc":
        cache.get((name,), lambda: b"x" * 100)
        time.sleep(0.02)
    cache.get(("b",), lambda: b"made again")
    assert sum(file.stat().st_size for file in tmp_path.iterdir()) <= 250
    assert cache.get(("a",), lambda: b"made again") == b"made again"


def test_a_failure_is_not_kept(tmp_path: Path) -> None:
    cache = Cache(tmp_path, 1_000)
    with pytest.raises(ZeroDivisionError):
        cache.get(("a",), lambda: bytes(1 // 0))
    assert cache.get(("a",), lambda: b"sound") == b"sound"


def written(path: Path, sound: np.ndarray, rate: int, subtype: str = "FLOAT") -> Path:
    soundfile.write(path, sound, rate, subtype=subtype)
    return path


def test_sound_keeps_its_place_and_pitch_at_another_rate(tmp_path: Path) -> None:
    t = np.arange(2 * 44_100) / 44_100
    sound = np.where(t >= 1.0, 0.5 * np.sin(2 * np.pi * 441 * t), 0.0)
    found = decode(written(tmp_path / "a.wav", sound, 44_100), tmp_path / "pcm", name="a.wav")
    pcm = np.frombuffer((tmp_path / "pcm").read_bytes(), dtype="<i2") / 32_768
    assert (found.frames, found.channels, found.notices) == (2 * RATE_HZ, 1, ())
    onset = int(np.argmax(np.abs(pcm) > 0.05))
    assert abs(onset - RATE_HZ) < 20
    crossings = np.count_nonzero(np.diff(np.signbit(pcm[RATE_HZ + 100 :])))
    assert crossings == pytest.approx(882, abs=4)


# What is wrong with the sound, and the notice that says so.
MENDED = [
    (np.full((4_800, 1), 3.0), "clipped"),
    (np.array([[0.1], [np.nan], [np.inf], [0.1]] * 1_000), "not-finite"),
    (np.full((4_800, 4), 0.1), "mixed-down"),
]


@pytest.mark.parametrize(("sound", "notice"), MENDED, ids=[notice for _, notice in MENDED])
def test_what_had_to_be_mended_is_said(tmp_path: Path, sound: np.ndarray, notice: str) -> None:
    found = decode(written(tmp_path / "a.wav", sound.astype(np.float32), 48_000), tmp_path / "pcm", name="a.wav")
    assert NOTICES[notice] in found.notices
    pcm = np.frombuffer((tmp_path / "pcm").read_bytes(), dtype="<i2")
    assert len(pcm) == found.frames * found.channels


def test_an_mp3_cut_at_half_its_length_comes_in_with_a_notice(tmp_path: Path) -> None:
    t = np.arange(4 * 48_000) / 48_000
    whole = tmp_path / "whole.mp3"
    soundfile.write(whole, 0.3 * np.sin(2 * np.pi * 220 * t), 48_000, format="MP3")
    assert decode(whole, tmp_path / "pcm", name="whole.mp3").notices == ()
    cut = tmp_path / "cut.mp3"
    cut.write_bytes(whole.read_bytes()[: whole.stat().st_size // 2])
    found = decode(cut, tmp_path / "pcm", name="cut.mp3")
    assert found.notices == (NOTICES["shorter"],)
    assert found.frames == pytest.approx(2 * RATE_HZ, rel=0.1)


def test_a_wav_that_holds_more_than_it_says_comes_in_with_a_notice(tmp_path: Path) -> None:
    path = written(tmp_path / "a.wav", np.full((RATE_HZ, 1), 0.1), RATE_HZ, "PCM_16")
    data = bytearray(path.read_bytes())
    at = data.index(b"data") + 4
    data[at : at + 4] = struct.pack("<I", RATE_HZ)  # half of its bytes
    path.write_bytes(data)
    found = decode(path, tmp_path / "pcm", name="a.wav")
    assert found.notices == (NOTICES["longer"],)
    assert found.frames == RATE_HZ // 2


def test_a_decoder_that_dies_is_a_sentence(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = written(tmp_path / "a.wav", np.zeros((100, 1)), 48_000)
    monkeypatch.setattr("usagi.media.decode.sys.executable", "/bin/false")
    with pytest.raises(SoundRefused, match="the decoder stopped on it"):
        decode(path, tmp_path / "pcm", name="a.wav")


def test_a_decoder_that_never_ends_is_a_sentence(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = written(tmp_path / "a.wav", np.zeros((100, 1)), 48_000)
    monkeypatch.setattr("usagi.media.decode.PATIENCE_S", 0.01)
    with pytest.raises(SoundRefused, match="took too long"):
        decode(path, tmp_path / "pcm", name="a.wav")


def test_nobody_waits_any_more_and_the_decoder_ends(tmp_path: Path) -> None:
    upload = tmp_path / "long.wav"
    soundfile.write(upload, np.zeros(48_000 * 600, dtype=np.float32), 48_000)
    begin = time.monotonic()
    with pytest.raises(SoundRefused, match="was stopped; nothing of it is kept"):
        decode(upload, tmp_path / "pcm", name="long.wav", stopped=lambda: True)
    assert time.monotonic() - begin < 5


@pytest.mark.parametrize(("kind", "suffix"), [("ipod", "m4a"), ("mp4", "mp4"), ("adts", "aac")])
def test_the_sound_of_containers_comes_in_at_its_place(tmp_path: Path, kind: str, suffix: str) -> None:
    import av

    t = np.arange(2 * RATE_HZ) / RATE_HZ
    click = (0.5 * np.sin(2 * np.pi * 440 * t) * (t > 1)).astype(np.float32)
    upload = tmp_path / f"tape.{suffix}"
    with av.open(str(upload), "w", format=kind) as container:
        stream = container.add_stream("aac", rate=RATE_HZ)
        stream.layout = "mono"
        for first in range(0, len(click), 1_024):
            frame = av.AudioFrame.from_ndarray(click[None, first : first + 1_024], format="fltp", layout="mono")
            frame.sample_rate, frame.pts = RATE_HZ, first
            for packet in stream.encode(frame):
                container.mux(packet)
        for packet in stream.encode(None):
            container.mux(packet)
    decoded = decode(upload, tmp_path / "pcm", name=upload.name)
    assert decoded.notices == ()
    pcm = np.fromfile(tmp_path / "pcm", "<i2") / 32_767
    begins = int(np.argmax(np.abs(pcm) > 0.2))
    # A bare stream does not say how much its coder put before the sound; a container does.
    late = 2_048 if suffix == "aac" else 0
    assert abs(begins - RATE_HZ - late) < 1_200
    assert suffix == "aac" or decoded.frames == len(click)


def test_an_empty_container_is_no_sound(tmp_path: Path) -> None:
    upload = tmp_path / "empty.m4a"
    upload.write_bytes(b"\0\0\0\x18ftypM4A \0\0\0\0M4A mp42isom" + b"\0" * 64)
    with pytest.raises(SoundRefused, match="not a sound file"):
        decode(upload, tmp_path / "pcm", name="empty.m4a")
