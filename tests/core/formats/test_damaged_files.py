"""Damaged files come in or are refused in a sentence: never a crash, never longer than 10 s, never over 512 MB."""

from __future__ import annotations

import resource
import subprocess
import sys
from collections import Counter

import pytest

FEW, MANY = 200, 5_000
GUARD_S, GUARD_MB = 10, 512
KINDS = ("musicxml", "mxl", "midi", "jams", "tab", "document")


@pytest.mark.parametrize("kind", KINDS)
def test_a_few_of_each_kind(kind: str) -> None:
    told(kind, FEW, first=1_000_000)


@pytest.mark.long
@pytest.mark.parametrize("kind", KINDS)
def test_thousands_of_each_kind(kind: str) -> None:
    told(kind, MANY, first=2_000_000)


def told(kind: str, count: int, first: int) -> None:
    """A child reads them all, so that its memory is its own."""
    done = subprocess.run([sys.executable, __file__, kind, str(count), str(first)], capture_output=True, text=True)
    assert done.returncode == 0, done.stderr[-3_000:]
    words = dict(part.split("=") for part in done.stdout.split())
    assert int(words["in"]) + int(words["refused"]) == count
    assert int(words["in"]) > count // 40 and int(words["refused"]) > count // 40  # both ends are tried


def main(kind: str, count: int, first: int) -> None:
    import signal
    import warnings

    from core.formats.asking import brought_in, demo_solo
    from damage import damaged
    from usagi.core.errors import UsagiError
    from usagi.core.formats.files import kind_named, written
    from usagi.core.formats.musicxml.container import packed
    from usagi.core.formats.other_tabs.times import Lengths

    warnings.simplefilter("error")
    signal.signal(signal.SIGALRM, lambda *_: (_ for _ in ()).throw(TimeoutError("too long")))
    inner = "musicxml" if kind == "mxl" else kind
    seeds = [written(demo_solo(name), kind_named(inner)) for name in ("gull-weather", "slack-tide", "ferry-bell")]
    ends: Counter[str] = Counter()
    base = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    for seed in range(first, first + count):
        data = damaged(seeds[seed % len(seeds)], seed)
        if kind == "mxl":  # hurt inside, and every fourth as a whole
            data = packed(data) if seed % 4 else damaged(packed(seeds[seed % len(seeds)]), seed)
        signal.alarm(GUARD_S)
        try:
            brought_in(data, kind, lengths=Lengths.SPACING)
            ends["in"] += 1
        except UsagiError as fault:
            ends["refused"] += 1
            assert str(fault).strip() and "\n" not in str(fault) and "Traceback" not in str(fault), (seed, str(fault))
        except BaseException as fault:
            raise AssertionError(f"seed {seed}") from fault
        finally:
            signal.alarm(0)
    more = (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - base) / 1_024
    assert more < GUARD_MB, f"{more:.0f} MB more"
    print(f"in={ends['in']} refused={ends['refused']}")


if __name__ == "__main__":
    from pathlib import Path

    root = Path(__file__).parents[3]
    sys.path[:0] = [str(root / "src"), str(root / "tests")]
    main(sys.argv[1], int(sys.argv[2]), int(sys.argv[3]))
