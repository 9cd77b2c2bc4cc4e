"""`./usagi bench [PART …] [--json FILE]`: the table of figures, with the machine's load."""

from __future__ import annotations

import argparse
import json
import os
import subprocess
from collections.abc import Iterable
from pathlib import Path

from benchmarks.figures import Figure

PARTS = [
    "sound",
    "hearing",
    "fingering",
    "checking",
    "analysis",
    "licks",
    "practice",
    "exchange",
    "server",
    "worker",
    "page",
]


def parts(names: Iterable[str]) -> Iterable[Figure]:
    for name in names:
        if name == "sound":
            from benchmarks import stretching  # each part loads what it measures, and nothing else

            yield from stretching.figures()
        elif name == "server":
            from benchmarks import server

            yield from server.figures()
        elif name == "worker":
            from benchmarks import worker

            yield from worker.figures()
        elif name == "fingering":
            from benchmarks import fingering

            yield from fingering.figures()
        elif name == "checking":
            from benchmarks import checking

            yield from checking.figures()
        elif name == "analysis":
            from benchmarks import analysis

            yield from analysis.figures()
        elif name == "licks":
            from benchmarks import licks

            yield from licks.figures()
        elif name == "practice":
            from benchmarks import practice

            yield from practice.figures()
        elif name == "exchange":
            from benchmarks import exchange

            yield from exchange.figures()
        elif name == "hearing":
            from benchmarks import hearing

            yield from hearing.figures()
        else:
            from benchmarks import page

            yield from page.figures()


def line(figure: Figure) -> str:
    goal = "" if figure.goal is None else f"{'at least' if figure.at_least else 'at most'} {figure.goal:g}"
    met = {True: "met", False: "NOT MET", None: ""}[figure.met]
    return f"{figure.name:76s} {figure.value:10.3f} {figure.unit:8s} {goal:14s} {met:8s} {figure.baseline}"


def main() -> int:
    parser = argparse.ArgumentParser(prog="./usagi bench")
    parser.add_argument("parts", nargs="*", choices=[*PARTS, []], default=[])
    parser.add_argument("--json", type=Path, metavar="FILE", help="also as a list of objects")
    args = parser.parse_args()
    commit = subprocess.run(["git", "rev-parse", "--short", "HEAD"], capture_output=True, text=True, check=False)
    load = os.getloadavg()
    print(f"{os.cpu_count()} cores, load {load[0]:.2f} {load[1]:.2f} {load[2]:.2f}, commit {commit.stdout.strip()}")
    found = []
    for figure in parts(args.parts or PARTS):
        print(line(figure), flush=True)
        found.append(figure.as_json())
    if args.json is not None:
        args.json.write_text(json.dumps(found, indent=1, ensure_ascii=False) + "\n")
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
