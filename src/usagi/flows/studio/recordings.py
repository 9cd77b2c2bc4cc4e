"""Taking in a recording: hash it, decode it in a process of its own, store it whole."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO
from uuid import uuid4

from usagi.core.values import one_line
from usagi.flows.workspace import Workspace
from usagi.media.decode import DECODER, MOST_BYTES, SoundRefused, decode
from usagi.media.scratch import scratch_folder
from usagi.store.database import transaction
from usagi.store.recordings import (
    PART_BYTES,
    Recording,
    add_recording,
    recording_by_hash,
    sound_has_come,
    write_sound,
)
from usagi.store.studios import tune_titled


@dataclass(frozen=True, slots=True)
class Brought:
    """A recording that is here now. `known` says that its bytes lay here already."""

    recording: Recording
    notices: tuple[str, ...]
    known: bool


def bring_recording(
    workspace: Workspace, name: str, upload: BinaryIO, stopped: Callable[[], bool] = lambda: False
) -> Brought:
    """Take in a sound file: hash it, decode it in a process of its own, store both as one write.

    Bytes that lie here already give the recording that has them. Raises : SoundRefused.
    """
    with scratch_folder() as folder:
        raw, pcm = folder / "upload", folder / "pcm"
        sha256 = _copy(name, upload, raw)
        with transaction(workspace.pool) as db:
            known = recording_by_hash(db, workspace.scope, sha256)
        if known is not None and known.frames is not None:
            return Brought(known, (), known=True)
        decoded = decode(raw, pcm, name=name, stopped=stopped)
        name = one_line(name)
        title = Path(name).stem.strip() or "Untitled"
        with transaction(workspace.pool) as db:
            item = Recording(
                id=known.id if known is not None else uuid4(),
                tune_id=known.tune_id if known is not None else tune_titled(db, workspace.scope, title),
                sha256=sha256,
                title=known.title if known is not None else title[:200],
                file_name=name[:200],
                bytes=raw.stat().st_size,
                frames=decoded.frames,
                channels=decoded.channels,
                seconds=decoded.seconds,
            )
            if known is None:
                add_recording(db, workspace.scope, item, decoded_by=DECODER)
            else:
                sound_has_come(db, workspace.scope, item, decoded_by=DECODER)
            write_sound(db, workspace.scope, item.id, "upload", _blocks(raw))
            write_sound(db, workspace.scope, item.id, "pcm", _blocks(pcm))
        return Brought(item, decoded.notices, known=False)


def _copy(name: str, upload: BinaryIO, to: Path) -> str:
    digest, size = hashlib.sha256(), 0
    with to.open("wb") as out:
        while block := upload.read(1 << 20):
            size += len(block)
            if size > MOST_BYTES:
                raise SoundRefused(
                    f"“{name}” is larger than {MOST_BYTES // 1_000_000} MB. Cut out the part with the solo."
                )
            digest.update(block)
            out.write(block)
    return digest.hexdigest()


def _blocks(path: Path) -> Iterator[bytes]:
    with path.open("rb") as file:
        while block := file.read(PART_BYTES):
            yield block
