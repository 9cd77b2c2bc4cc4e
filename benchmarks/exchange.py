"""Export and import: a solo of 2,000 notes written in each symbolic format, and read again."""

from __future__ import annotations

import json
from collections.abc import Iterable
from functools import partial
from itertools import count

from benchmarks.figures import Figure
from benchmarks.practice import first_and_best
from benchmarks.solos import big_solo
from usagi.core.formats.document_json import write_document
from usagi.core.formats.files import KINDS, Coming, FileKind, read_in, written
from usagi.core.formats.other_tabs.times import Lengths

GOAL_MS = 1_000.0


def _read(data: bytes, kind: FileKind) -> object:
    return read_in(data, kind, Coming(lengths=Lengths.SPACING), map(str, count()).__next__)


def figures() -> Iterable[Figure]:
    document = big_solo(2_000)
    own = write_document(document)
    _, beside = first_and_best(lambda: json.loads(own))
    baseline = f"its JSON parsed: {beside:.0f} ms"
    for kind in KINDS:
        first, best = first_and_best(partial(written, document, kind))
        yield Figure(f"2,000 notes written as {kind.says}, the first", first, "ms", goal=GOAL_MS, baseline=baseline)
        yield Figure("the same again", best, "ms", baseline=baseline)
    for kind in KINDS:
        if not kind.comes_in:
            continue
        data = written(document, kind)
        _, best = first_and_best(partial(_read, data, kind))
        yield Figure(f"2,000 notes read from {kind.says}", best, "ms", baseline=baseline)
