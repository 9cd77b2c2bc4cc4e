"""Sound files of other makers: every kind comes in whole and without an untrue word, and damaged ones say what is so."""

from __future__ import annotations

import os
import struct
import subprocess
import sys
from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest
import soundfile

from usagi.core.audio import RATE_HZ
from usagi.media.decode import ENDINGS, NOTICES, SoundRefused, decode
from usagi.media.mixing import HALF, OGG, USUAL, weights
from usagi.media.scratch import PREFIX, clear_scratch

SECONDS = 3.0
RATES = {"libopencore_amrnb": 12_200, "wmav2": 128_000}  # bits a second, where the codec has no default
MADE = [  # ending, container, codec, rate
    (".wma", "asf", "wmav2", 44_100),
    (".mp2", "mp2", "mp2", 44_100),
    (".mp3", "mp3", "libmp3lame", 44_100),
    (".m4a", "ipod", "alac", 44_100),
    (".m4a", "ipod", "aac", 44_100),
    (".aac", "adts", "aac", 44_100),
    (".mp4", "mp4", "aac", 48_000),
    (".mov", "mov", "aac", 48_000),
    (".caf", "caf", "alac", 48_000),
    (".caf", "caf", "pcm_s16le", 44_100),
    (".aiff", "aiff", "pcm_s16be", 44_100),
    (".ac3", "ac3", "ac3", 48_000),
    (".amr", "amr", "libopencore_amrnb", 8_000),
    (".wav", "wav", "libmp3lame", 44_100),
    (".wav", "wav", "pcm_s24le", 96_000),
    (".mka", "matroska", "flac", 44_100),
    (".webm", "webm", "libopus", 48_000),
]


def tone(rate: int, seconds: float = SECONDS) -> np.ndarray:
    return (0.3 * np.sin(2 * np.pi * 440 * np.arange(round(seconds * rate)) / rate)).astype(np.float32)


def made(path: Path, container: str, codec: str, rate: int, sound: np.ndarray, layout: str = "mono") -> Path:
    """A file as another program writes it. `sound`: shape (n,) or (n, channels)."""
    with av.open(str(path), "w", format=container) as out:
        stream: Any = out.add_stream(codec, rate=rate, layout=layout)
        if codec in RATES:
            stream.bit_rate = RATES[codec]
        planes = np.atleast_2d(sound.T).astype(np.float32)
        frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(planes), format="fltp", layout=layout)
        frame.rate, frame.pts = rate, 0
        for one in [frame, None]:
            for packet in stream.encode(one):
                out.mux(packet)
    return path


@pytest.mark.parametrize(("ending", "container", "codec", "rate"), MADE, ids=[f"{e} {c}" for e, _, c, _ in MADE])
def test_every_kind_comes_in_whole_and_nothing_untrue_is_said(
    tmp_path: Path, ending: str, container: str, codec: str, rate: int
) -> None:
    assert ending in ENDINGS
    file = made(tmp_path / f"take{ending}", container, codec, rate, tone(rate))
    found = decode(file, tmp_path / "pcm", name=file.name)
    assert found.notices == ()
    assert found.seconds == pytest.approx(SECONDS, abs=0.12)
    pcm = np.fromfile(tmp_path / "pcm", dtype="<i2")[RATE_HZ : 2 * RATE_HZ]
    loudest = np.abs(np.fft.rfft(pcm * np.hanning(len(pcm)))).argmax() * RATE_HZ / len(pcm)
    assert loudest == pytest.approx(440, abs=1)


def test_a_wav_that_promises_three_times_what_there_is_says_so(tmp_path: Path) -> None:
    file = tmp_path / "cut.wav"
    soundfile.write(file, tone(44_100), 44_100)
    data = bytearray(file.read_bytes())
    (size,) = struct.unpack_from("<I", data, 40)
    struct.pack_into("<I", data, 40, 3 * size)
    file.write_bytes(data)
    found = decode(file, tmp_path / "pcm", name=file.name)
    assert (found.seconds, found.notices) == (pytest.approx(SECONDS, abs=0.01), (NOTICES["shorter"],))


def test_three_seconds_behind_a_length_of_nought_are_read(tmp_path: Path) -> None:
    file = tmp_path / "crashed.wav"
    soundfile.write(file, tone(44_100), 44_100)
    data = bytearray(file.read_bytes())
    struct.pack_into("<I", data, 40, 0)
    file.write_bytes(data)
    found = decode(file, tmp_path / "pcm", name=file.name)
    assert (found.seconds, found.notices) == (pytest.approx(SECONDS, abs=0.01), (NOTICES["no-length"],))


def test_what_is_no_sound_says_what_it_is(tmp_path: Path) -> None:
    empty = tmp_path / "empty.mp3"
    empty.write_bytes(b"")
    silent = tmp_path / "pictures.mp4"
    with av.open(str(silent), "w") as out:
        stream: Any = out.add_stream("mpeg4", rate=25, width=64, height=64, pix_fmt="yuv420p")
        for _ in range(5):
            out.mux(stream.encode(av.VideoFrame(64, 64, "yuv420p")))
        out.mux(stream.encode(None))
    words = tmp_path / "words.wav"
    words.write_bytes(b"no sound at all, only words" * 40)
    for file, said in (
        (empty, "is empty: there is nothing in the file"),
        (silent, "has no sound in it"),
        (words, "is not a sound file that can be read"),
    ):
        with pytest.raises(SoundRefused, match=said):
            decode(file, tmp_path / "pcm", name=file.name)


def test_surround_sound_becomes_stereo_by_the_usual_weights(tmp_path: Path) -> None:
    """One channel of six at a time, in a WAV file; -3 dB for the centre and the surrounds, nothing of the low one."""
    whole = 1 + 2 * HALF
    for channel, (left, right) in enumerate([(1, 0), (0, 1), (HALF, HALF), (0, 0), (HALF, 0), (0, HALF)]):
        six = np.zeros((RATE_HZ, 6), dtype=np.float32)
        six[:, channel] = 0.9
        file = tmp_path / f"{channel}.wav"
        soundfile.write(file, six, RATE_HZ, subtype="FLOAT")
        found = decode(file, tmp_path / "pcm", name=file.name)
        assert (found.channels, found.notices) == (2, (NOTICES["mixed-down"],))
        pcm = np.fromfile(tmp_path / "pcm", dtype="<i2").reshape(-1, 2)[1000:-1000] / 32_768
        assert pcm.mean(axis=0) == pytest.approx([0.9 * left / whole, 0.9 * right / whole], abs=0.001)


def test_the_order_of_channels_is_that_of_the_file(tmp_path: Path) -> None:
    assert {len(names) for names in USUAL.values()} == set(USUAL) and {len(n) for n in OGG.values()} == set(OGG)
    assert all(sorted(USUAL[n]) == sorted(OGG[n]) for n in (3, 4, 5, 6))
    assert weights(6, ogg=True)[1] == pytest.approx(weights(6)[2])  # the centre stands second in Ogg
    six = np.zeros((RATE_HZ, 6), dtype=np.float32)
    six[:, 1] = 0.5
    soundfile.write(tmp_path / "centre.ogg", six, RATE_HZ, format="OGG", subtype="VORBIS")
    decode(tmp_path / "centre.ogg", tmp_path / "pcm", name="centre.ogg")
    left, right = np.fromfile(tmp_path / "pcm", dtype="<i2").reshape(-1, 2)[5_000:-5_000].mean(axis=0)
    assert left == pytest.approx(right, rel=0.02) and left > 2_000


def test_what_a_killed_process_left_is_removed_at_the_next_start(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    code = (
        "import os, signal\nfrom usagi.media.scratch import scratch_folder\n"
        "with scratch_folder() as folder:\n (folder / 'upload').write_bytes(b'x' * 1000)\n os.kill(os.getpid(), signal.SIGKILL)"
    )
    env = os.environ | {"TMPDIR": str(tmp_path), "PYTHONPATH": "src"}
    subprocess.run([sys.executable, "-c", code], env=env, check=False, cwd=Path(__file__).parents[2])
    mine = tmp_path / f"{PREFIX}{os.getpid()}-mine"
    mine.mkdir()
    (tmp_path / "usagi-notes").mkdir()
    assert len(list(tmp_path.iterdir())) == 3
    monkeypatch.setattr("tempfile.tempdir", str(tmp_path))
    clear_scratch()
    assert sorted(one.name for one in tmp_path.iterdir()) == sorted([mine.name, "usagi-notes"])
