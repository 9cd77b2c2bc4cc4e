"""`./usagi worker`: a worker for the jobs of a database, here or on another machine."""

from __future__ import annotations

import argparse
import logging
import os

from usagi.cli.cluster import Cluster
from usagi.settings import home_from_environment


def add_commands(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    worker = commands.add_parser("worker", help="hear what is asked for in recordings (demo and start run one already)")
    worker.add_argument("--database", metavar="ADDRESS", default=os.environ.get("USAGI_DATABASE"),
                        help="postgresql://… (default: USAGI_DATABASE, else this checkout's)")  # fmt: skip
    worker.add_argument("--with-parent", action="store_true", help=argparse.SUPPRESS)
    worker.set_defaults(run=run)


def run(args: argparse.Namespace) -> int:
    from usagi.jobs.worker import run_worker  # its libraries, which other commands do without

    logging.basicConfig(level=logging.WARNING)
    if args.database is not None:
        run_worker(args.database, with_parent=args.with_parent)
        return 0
    from usagi.cli.studio import ready_database

    with ready_database(Cluster(home_from_environment())) as dsn:
        print("A worker is at work – Ctrl-C stops it.", flush=True)
        run_worker(dsn)
    return 0
