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


def printed_by(command: str) -> str:
    return subprocess.run(
        [sys.executable, "-m", "usagi.cli", command], cwd=ROOT, capture_output=True, text=True, check=True
    ).stdout


@pytest.mark.parametrize(("command", "file"), [("openapi", "web/openapi.json"), ("schema", "docs/solo.schema.json")])
def test_a_generated_file_is_what_the_code_prints(command: str, file: str) -> None:
    current = (ROOT / file).read_text() == printed_by(command)
    assert current, f"run: ./usagi {command} > {file}"


def test_the_pages_types_are_those_of_the_server() -> None:
    generated = "src/api/schema.gen.ts"
    run("npx", "--no-install", "openapi-typescript", "openapi.json", "-o", generated, "--check", cwd=ROOT / "web")
