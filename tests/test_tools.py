"""The strict tools, as tests: a change that they refuse does not land."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
BIN = Path(sys.executable).parent


def run(*command: str | Path, cwd: Path = ROOT) -> None:
    done = subprocess.run([str(part) for part in command], cwd=cwd, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stdout + done.stderr


def test_ruff_finds_nothing() -> None:
    run(BIN / "ruff", "check", "src", "tests", "demo", "benchmarks")


def test_the_code_is_formatted() -> None:
    run(BIN / "ruff", "format", "--check", "src", "tests", "benchmarks")


def test_mypy_finds_nothing() -> None:
    run(BIN / "mypy")


def test_imports_point_one_way() -> None:
    run(BIN / "lint-imports", "--no-logo")


CHECKS = [("tsc", "--noEmit"), ("eslint", "src"), ("prettier", "--check", "."), ("vitest", "run")]


@pytest.mark.parametrize("command", CHECKS, ids=lambda command: command[0])
def test_the_page_checks(command: tuple[str, ...]) -> None:
    run("npx", "--no-install", *command, cwd=ROOT / "web")


def test_the_pages_types_are_those_of_the_server(tmp_path: Path) -> None:
    fresh = subprocess.run(
        [sys.executable, "-m", "usagi.cli", "openapi"], cwd=ROOT, capture_output=True, text=True, check=True
    )
    assert (ROOT / "web" / "openapi.json").read_text() == fresh.stdout, "run ./usagi openapi > web/openapi.json"
    run(
        "npx",
        "--no-install",
        "openapi-typescript",
        "openapi.json",
        "-o",
        "src/api/schema.gen.ts",
        "--check",
        cwd=ROOT / "web",
    )


def test_the_published_schema_is_that_of_the_documents() -> None:
    fresh = subprocess.run(
        [sys.executable, "-m", "usagi.cli", "schema"], cwd=ROOT, capture_output=True, text=True, check=True
    )
    assert (ROOT / "docs" / "solo.schema.json").read_text() == fresh.stdout, (
        "run ./usagi schema > docs/solo.schema.json"
    )
