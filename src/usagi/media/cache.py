"""A cache on disk of what can be made again: pieces and peaks. Least recently used goes first, by bytes."""

from __future__ import annotations

import contextlib
import hashlib
import os
import shutil
import threading
from collections.abc import Callable
from pathlib import Path


class Cache:
    """Files named by the hash of what they were made from; written whole or not at all."""

    def __init__(self, folder: Path, most_bytes: int) -> None:
        self._folder = folder
        self._most = most_bytes
        self._making: dict[str, threading.Lock] = {}
        self._guard = threading.Lock()
        folder.mkdir(parents=True, exist_ok=True)

    @property
    def free_bytes(self) -> int:
        """How much of its disk is free."""
        return shutil.disk_usage(self._folder).free

    def get(self, parts: tuple[object, ...], make: Callable[[], bytes]) -> bytes:
        """The bytes for `parts`, made once even when several ask at the same time."""
        key = hashlib.sha256("\x00".join(map(str, parts)).encode()).hexdigest()
        path = self._folder / key
        with self._guard:
            lock = self._making.setdefault(key, threading.Lock())
        with lock:
            try:
                data = path.read_bytes()
                os.utime(path)
            except OSError:
                data = make()
                self._put(path, data)
        with self._guard:
            self._making.pop(key, None)
        return data

    def _put(self, path: Path, data: bytes) -> None:
        half = path.with_suffix(f".{threading.get_ident()}.half")
        with contextlib.suppress(OSError):  # a full disk costs speed, not the answer
            half.write_bytes(data)
            half.replace(path)
            self._trim()

    def _trim(self) -> None:
        files = [(f.stat().st_mtime, f.stat().st_size, f) for f in self._folder.iterdir() if f.is_file()]
        total = sum(size for _, size, _ in files)
        for _, size, file in sorted(files):
            if total <= self._most:
                return
            file.unlink(missing_ok=True)
            total -= size
