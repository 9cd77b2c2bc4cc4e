"""Files at the size at which they hurt, sent to the real command: a sentence each, and the server lives on."""

from __future__ import annotations

import http.client
import io
import json
from collections.abc import Iterator
from contextlib import closing
from typing import Any

import numpy as np
import pytest
import soundfile

from accidents.running import Running
from conftest import reachable
from usagi.cli.cluster import Cluster

BORDER = "a-border-that-no-sound-holds"
HEAD = f'--{BORDER}\r\ncontent-disposition: form-data; name="file"; filename="big.wav"\r\n\r\n'.encode()
TAIL = f"\r\n--{BORDER}--\r\n".encode()


@pytest.fixture(scope="module")
def running(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Running]:
    home = reachable(tmp_path_factory.mktemp("big"))
    found = Running(home)
    found.start()
    yield found
    assert found.process is not None and found.process.poll() is None, "the server has ended"
    assert found.ask("/api/shelf")["solos"] == []
    found.stop()
    Cluster(home).destroy()


def send(running: Running, blocks: Iterator[bytes], length: int | None) -> tuple[int, dict[str, Any]]:
    """Upload block by block, until all is sent or the server has answered and hangs up."""
    with closing(http.client.HTTPConnection("127.0.0.1", running.port, timeout=120)) as line:
        return _sent(line, blocks, length)


def _sent(line: http.client.HTTPConnection, blocks: Iterator[bytes], length: int | None) -> tuple[int, dict[str, Any]]:
    line.putrequest("POST", "/api/recordings")
    line.putheader("content-type", f"multipart/form-data; boundary={BORDER}")
    line.putheader(*(("transfer-encoding", "chunked") if length is None else ("content-length", str(length))))
    line.endheaders()
    try:
        for block in blocks:
            line.send(block if length is not None else f"{len(block):x}\r\n".encode() + block + b"\r\n")
        if length is None:
            line.send(b"0\r\n\r\n")
    except (BrokenPipeError, ConnectionResetError):
        pass  # it has answered and hung up
    with line.getresponse() as answer:
        return answer.status, json.loads(answer.read())


def upload(running: Running, name: str, data: bytes) -> tuple[int, dict[str, Any]]:
    body = HEAD.replace(b"big.wav", name.encode()) + data + TAIL
    return send(running, iter([body]), len(body))


def of_length(seconds: float, rate: int) -> bytes:
    """A FLAC of silence, a few kilobytes for each hour."""
    out = io.BytesIO()
    with soundfile.SoundFile(out, "w", rate, 1, format="FLAC", subtype="PCM_16") as file:
        block = np.zeros(rate * 60, np.int16)
        for _ in range(round(seconds / 60)):
            file.write(block)
    return out.getvalue()


def test_a_gigabyte_that_says_so_is_refused_before_it_is_read(running: Running) -> None:
    status, problem = send(running, iter([HEAD]), 1_000_000_000)
    assert (status, problem["code"]) == (413, "too-large")
    assert problem["title"] == "That is too much at once: at most 601 MB are taken here."


@pytest.mark.long
def test_a_gigabyte_that_does_not_say_so_is_refused_on_the_way(running: Running) -> None:
    sent = 0

    def blocks() -> Iterator[bytes]:
        nonlocal sent
        yield HEAD
        for _ in range(1_000):
            sent += 1_000_000
            yield bytes(1_000_000)
        yield TAIL

    status, problem = send(running, blocks(), None)
    assert (status, problem["code"]) == (413, "too-large")
    assert sent >= 600_000_000


def test_two_hours_are_refused_after_a_quarter_of_one(running: Running) -> None:
    status, problem = upload(running, "evening.flac", of_length(2 * 3_600, 8_000))
    assert status == 422
    assert problem["title"] == "“evening.flac” is longer than 15 minutes. Cut out the part with the solo."


@pytest.mark.long
def test_a_bomb_of_ten_hours_is_refused(running: Running) -> None:
    data = of_length(10 * 3_600, 48_000)
    assert len(data) < 10_000_000
    status, problem = upload(running, "bomb.flac", data)
    assert status == 422 and "is longer than 15 minutes" in problem["title"]


def test_a_thousand_channels_are_refused(running: Running) -> None:
    out = io.BytesIO()
    soundfile.write(out, np.zeros((4_800, 1_000), np.float32), 48_000, format="WAV", subtype="PCM_16")
    status, problem = upload(running, "choir.wav", out.getvalue())
    assert status == 422
    assert problem["title"] == "“choir.wav” has 1000 channels; up to 8 can be read."
