"""The real server as a process of its own, on a home and a database of its own, for as long as a block lasts."""

from __future__ import annotations

import http.client
import io
import json
import os
import socket
import subprocess
import sys
import tempfile
import time
import wave
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any
from uuid import uuid4

import numpy as np
from numpy.typing import NDArray

from benchmarks.solos import big_solo
from usagi.cli.cluster import Cluster
from usagi.core.formats.document_json import write_document

ROOT = Path(__file__).parents[1]


class Server:
    """One kept connection to it; `ask` gives the answer and the seconds that it took."""

    def __init__(self, port: int, process: subprocess.Popen[bytes], dsn: str) -> None:
        self.port, self.process, self.dsn = port, process, dsn
        self._line = http.client.HTTPConnection("127.0.0.1", port, timeout=120)
        self._used = time.monotonic()

    @property
    def base(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    def ask(self, path: str, body: object = None) -> tuple[Any, float]:
        data = None if body is None else json.dumps(body).encode()
        return self._ask(path, data, "application/json")

    def upload(self, path: str, name: str, data: bytes) -> tuple[Any, float]:
        border = uuid4().hex
        head = f'--{border}\r\ncontent-disposition: form-data; name="file"; filename="{name}"\r\n\r\n'.encode()
        return self._ask(
            path, head + data + f"\r\n--{border}--\r\n".encode(), f"multipart/form-data; boundary={border}"
        )

    def _ask(self, path: str, data: bytes | None, kind: str) -> tuple[Any, float]:
        if time.monotonic() - self._used > 3:  # the server closes a line that was quiet for five seconds
            self._line.close()
        begin = time.perf_counter()
        self._line.request("GET" if data is None else "POST", path, data, {"content-type": kind})
        answer = self._line.getresponse()
        text = answer.read()
        taken = time.perf_counter() - begin
        self._used = time.monotonic()
        assert answer.status < 300, (path, text[:300])
        return json.loads(text or b"null"), taken

    def big(self, notes: int, bars: int, minutes: float, seed: int = 1) -> str:
        """A generated solo, imported as a document."""
        document = write_document(big_solo(notes, bars, minutes, seed))
        return str(self.upload("/api/documents", "big.json", document)[0]["solo_id"])

    def peak_mb(self) -> float:
        status = Path(f"/proc/{self.process.pid}/status").read_text()
        return float(next(line for line in status.splitlines() if line.startswith("VmHWM")).split()[1]) / 1_024


def wav_file(sound: NDArray[np.float32]) -> bytes:
    """A 16-bit WAV file at 48 kHz: shape (frames, channels)."""
    out = io.BytesIO()
    with wave.open(out, "wb") as file:
        file.setnchannels(sound.shape[1])
        file.setsampwidth(2)
        file.setframerate(48_000)
        file.writeframes(np.round(32_767 * np.clip(sound, -1, 1)).astype("<i2").tobytes())
    return out.getvalue()


@contextmanager
def running() -> Iterator[Server]:
    with tempfile.TemporaryDirectory(prefix="usagi-bench-") as folder, socket.socket() as probe:
        home = Path(folder)
        home.chmod(0o755)
        probe.bind(("127.0.0.1", 0))
        port = int(probe.getsockname()[1])
        probe.close()
        env = os.environ | {"USAGI_HOME": folder}
        command = [sys.executable, "-m", "usagi.cli", "start", "--port", str(port)]
        process = subprocess.Popen(command, cwd=ROOT, env=env, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        cluster = Cluster(home)
        try:
            for _ in range(600):
                try:
                    with socket.create_connection(("127.0.0.1", port), 1):
                        pass
                    server = Server(port, process, "")
                    server.ask("/api/shelf")
                    break
                except (OSError, http.client.HTTPException, AssertionError):
                    time.sleep(0.1)
            server.dsn = cluster.start()
            yield server
        finally:
            process.terminate()
            process.wait(30)
            cluster.destroy()
