"""The core gets values and gives values: what it may import, and neither clock nor chance nor file in it."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator
from pathlib import Path

import pytest

CORE = Path(__file__).parents[2] / "src" / "usagi" / "core"
STANDARD = {
    "__future__", "bisect", "collections", "contextlib", "dataclasses", "enum", "fractions", "functools", "itertools", "json", "math",
    "operator", "re", "statistics", "types", "typing",
}  # fmt: skip
OUTSIDE = {"numpy", "scipy", "pydantic"}
SUBJECTS = {"audio": {"soxr"}, "listening": {"soxr", "onnxruntime"},
            # Bytes in memory are values; none of these is given a path.
            "formats": {"lxml", "mido", "io", "csv", "html", "zipfile", "zlib"}}  # fmt: skip
BY_NAME = {
    ("values.py", "unicodedata"),  # a table of signs
    ("document/edits.py", "datetime"),  # reads a time that an edit carries; it asks for none
    ("checking/finding.py", "hashlib"),  # a digest is a value of a value
}
INPUT_OUTPUT = {"open", "print", "input", "exec", "eval"}


def faults(tree: ast.AST, name: str) -> Iterator[str]:
    """What a module of the core does that it may not."""
    allowed = STANDARD | OUTSIDE | {"usagi"} | SUBJECTS.get(name.split("/")[0], set())
    for node in ast.walk(tree):
        modules = []
        line = getattr(node, "lineno", 0)
        if isinstance(node, ast.Import):
            modules = [alias.name for alias in node.names]
        elif isinstance(node, ast.ImportFrom):
            modules = [node.module or ""]
        for module in modules:
            top = module.split(".")[0]
            if top not in allowed and (name, top) not in BY_NAME:
                yield f"line {line} imports {module}"
        if isinstance(node, ast.Call):
            called = ast.unparse(node.func)
            if called in INPUT_OUTPUT or called.endswith((".now", ".today", ".utcnow")):
                yield f"line {line} calls {called}"
            if re.search(r"random\.\w+$", called) and not (called.endswith("default_rng") and node.args):
                yield f"line {line} calls {called}: chance comes as a seed"


MODULES = sorted(CORE.rglob("*.py"))


@pytest.mark.parametrize("module", MODULES, ids=lambda path: str(path.relative_to(CORE)))
def test_a_module_of_the_core_has_neither_clock_nor_chance_nor_file(module: Path) -> None:
    assert list(faults(ast.parse(module.read_text()), module.relative_to(CORE).as_posix())) == []


@pytest.mark.parametrize(
    ("source", "fault"),
    [
        ("import time", "line 1 imports time"),
        ("from random import random", "line 1 imports random"),
        ("import soxr", "line 1 imports soxr"),
        ("from datetime import datetime\nnow = datetime.now()", "line 2 calls datetime.now"),
        (
            "import numpy as np\nx = np.random.default_rng()",
            "line 2 calls np.random.default_rng: chance comes as a seed",
        ),
        ("open('a')", "line 1 calls open"),
    ],
)
def test_what_would_be_found(source: str, fault: str) -> None:
    assert fault in list(faults(ast.parse(source), "meter/bars.py"))
    assert MODULES


PAGE = Path(__file__).parents[2] / "web" / "src"
MUSIC = re.compile(
    r"%\s*12\b|\b(pentatonic|dorian|mixolydian|arpeggio|enclos\w+|anticipat\w+|core tone|pitch_?class\w*\s*[-+*%])",
    re.IGNORECASE,
)
DRAWN = {"anticipation", "enclosure"}  # names of shapes, roles and choices, which the page draws and sends


def computed(text: str) -> list[str]:
    """What a page's source works out of music by itself."""
    code = re.sub(r"/\*.*?\*/|//[^\n]*", "", text, flags=re.DOTALL)
    return [m[0] for m in MUSIC.finditer(code) if m[0].lower() not in DRAWN]


@pytest.mark.parametrize("path", sorted(p for p in PAGE.rglob("*.ts*") if "gen" not in p.name), ids=lambda p: p.name)
def test_the_page_computes_no_music(path: Path) -> None:
    assert computed(path.read_text()) == []


@pytest.mark.parametrize("source", ["const slot = (midi - root) % 12;", 'scale === "E dorian"', "pitch_class + 7"])
def test_music_in_the_page_would_be_seen(source: str) -> None:
    assert computed(source)
