"""What a backup holds beside its rows for other programs: a README, and a document for each solo and each lick.

They are copies of what the rows say, read in the same transaction; a restore passes over them.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from pathlib import Path
from tempfile import TemporaryDirectory
from uuid import UUID

from usagi.core.errors import UsagiError
from usagi.core.formats.document_json import write_document
from usagi.core.formats.lick_json import LickDocument, write_lick
from usagi.flows.licks.pieces import Which, taken
from usagi.flows.studio.exchange import document_of
from usagi.flows.workspace import Workspace
from usagi.media.cache import Cache
from usagi.store import licks as stored
from usagi.store.database import Db, Pool
from usagi.store.studios import Scope

README = """A backup of Usagi, a workbench for teachers of lead guitar. Any program that reads ZIP and JSON can read it.

manifest.json          program, format, when it was made, the studios, the SHA-256 of every part that a restore reads
STUDIO/TABLE.ndjson    the rows of a table, one JSON object a line: what a restore brings back
STUDIO/sound/*.upload  recordings as they were brought; *.pcm the same as 48 kHz 16-bit PCM, little-endian
STUDIO/solos/*.json    a document for each solo: notes, chords and tempo, as docs/format.md and solo.schema.json say
STUDIO/licks/*.json    a document for each lick of the lick book: its name, tags, words and notes

Documents are copies for other programs; a restore passes over them. No password, session or token is in this file.
Whether you may copy or share a recording depends on your local law.
"""
_UNSAFE = re.compile(r"[^\w\- ]+")


def documents(
    db: Db, pool: Pool, studio: UUID, solos: Iterable[UUID], licks: Iterable[UUID]
) -> Iterator[tuple[str, bytes]]:
    """`(place in the archive, bytes)` of the documents of a studio; what cannot be put together is left out."""
    with TemporaryDirectory() as folder:
        workspace = Workspace(pool, Scope(studio, studio), Cache(Path(folder), 0))
        for solo in solos:
            try:
                document = document_of(db, workspace, solo)
            except UsagiError:
                continue
            name = _name(document.tune, document.solo.settings.title, solo)
            yield f"{studio}/solos/{name}.json", write_document(document)
        for lick in licks:
            kept = stored.lick(db, workspace.scope, lick)
            try:
                document = taken(db, workspace, Which(lick=lick)).document
            except UsagiError:
                continue
            if kept is not None:
                words = LickDocument(name=kept.name, tags=tuple(kept.tags), words=kept.words, document=document)
                yield f"{studio}/licks/{_name(kept.name, '', lick)}.json", write_lick(words)


def _name(*words: object) -> str:
    """A file name that any system takes, told apart by the id at its end."""
    *names, own = words
    plain = " ".join(_UNSAFE.sub(" ", " ".join(map(str, names))).split())[:60].strip()
    return f"{plain} {own}".strip()
