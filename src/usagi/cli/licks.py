"""Commands on licks: `find` prints what matches, `reindex` makes the index of phrases anew."""

from __future__ import annotations

import argparse
import sys
from typing import Any


def add_commands(commands: Any) -> None:
    find = commands.add_parser("find", help="print the phrases and licks in which degrees or steps come")
    find.add_argument(
        "search", metavar="SEARCH", help="'3 b3 1 · 6', or steps: '+3 -1 0'; ? is one note, · none to three"
    )
    find.add_argument("--kept", action="store_true", help="licks that were kept only")
    find.add_argument("--motion", help="over these chords: 'I7 to IV7'")
    find.add_argument("--demo", action="store_true", help="in the demo's studio")
    find.set_defaults(run=find_licks)
    reindex = commands.add_parser("reindex", help="make the index of phrases anew")
    reindex.add_argument("--demo", action="store_true", help="of the demo's studio")
    reindex.set_defaults(run=make_anew)


def find_licks(args: argparse.Namespace) -> int:
    from usagi.cli.studio import studio_workspace  # the database's libraries, which read and chord do without
    from usagi.flows.licks.book import PAGE, search
    from usagi.flows.licks.indexing import index_stale
    from usagi.store.found import Narrowed

    with studio_workspace(demo=args.demo) as workspace:
        index_stale(workspace)
        narrowed = Narrowed(kept=args.kept, motion=args.motion)
        found = search(workspace, args.search, narrowed)
        print(found.says)
        skip = 0
        while found.licks:
            for one in found.licks:
                degrees = " ".join(note.degrees[-1] for note in one.drawing.notes if note.degrees)
                named = f"  “{one.name}”" if one.name else ""
                print(f"{one.player or 'player not known'} · {one.tune}, {one.place}{named}")
                print(f"    {degrees}   over {one.motion}   {one.how}   {one.says}")
            skip += PAGE
            found = search(workspace, args.search, narrowed, skip=skip)
    return 0


def make_anew(args: argparse.Namespace) -> int:
    from usagi.cli.studio import studio_workspace
    from usagi.flows.licks.indexing import reindex

    def report(done: int, of: int) -> None:
        if done == of or not done % 50:
            print(f"  {done} of {of} solos", file=sys.stderr)

    with studio_workspace(demo=args.demo) as workspace:
        count = reindex(workspace, report)
    print("1 solo read." if count == 1 else f"{count} solos read.")
    return 0
