"""Temporary folders that are found and removed at the next start when their process was killed."""

from __future__ import annotations

import os
import re
import shutil
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

PREFIX = "usagi-"
_OURS = re.compile(rf"{PREFIX}(\d+)-")


@contextmanager
def scratch_folder() -> Iterator[Path]:
    """A folder for as long as the block lasts; its name says whose it is."""
    with tempfile.TemporaryDirectory(prefix=f"{PREFIX}{os.getpid()}-") as folder:
        yield Path(folder)


def clear_scratch() -> None:
    """Remove the folders of processes that are gone."""
    for folder in Path(tempfile.gettempdir()).glob(f"{PREFIX}*-*"):
        owner = _OURS.match(folder.name)
        if owner is not None and folder.is_dir() and not _alive(int(owner[1])):
            shutil.rmtree(folder, ignore_errors=True)


def _alive(pid: int) -> bool:
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return False
    except (PermissionError, OverflowError):
        return True
    return True
