"""`docs/licences.md` names every package that ships, under the licence that its own metadata states."""

from __future__ import annotations

import importlib.metadata
import json
import re

from usagi.settings import project_root

ROOT = project_root()
SHORT = 60  # letters; what is longer is the text of a licence, not its name


def stated_by_python() -> dict[str, str]:
    """Every package that runs, with the licence of its metadata."""
    names = re.findall(r"^([a-z0-9][\w.-]*)==", (ROOT / "requirements.txt").read_text(), re.MULTILINE)
    found = {}
    for name in names:
        data = importlib.metadata.metadata(name)
        classified = [one for one in data.get_all("Classifier") or [] if one.startswith("License :: ")]
        (plain,) = data.get_all("License") or [""]
        named = plain if 0 < len(plain) <= SHORT and "\n" not in plain else ""
        (expression,) = data.get_all("License-Expression") or [""]
        found[name] = expression or named or classified[0].rpartition(" :: ")[2]
    return found


def stated_by_the_page() -> dict[str, str]:
    """Every package that the page is built of and with, on any machine."""
    lock = json.loads((ROOT / "web" / "package-lock.json").read_text())
    return {
        path.rpartition("node_modules/")[2]: one["license"]
        for path, one in lock["packages"].items()
        if path and not one.get("dev") and not one.get("devOptional") and not one.get("optional")
    }


def written(heading: str) -> dict[str, str]:
    """The packages of a table whose rows are `licence | package, package`."""
    text = (ROOT / "docs" / "licences.md").read_text().partition(f"## {heading}\n")[2].partition("\n## ")[0]
    rows = re.findall(r"^\| ([^|]+) \| ([^|]+) \|$", text, re.MULTILINE)[2:]
    return {name: licence for licence, names in rows for name in names.split(", ")}


def table(stated: dict[str, str]) -> str:
    licences = sorted(set(stated.values()), key=lambda one: (-list(stated.values()).count(one), one))
    rows = [f"| {one} | {', '.join(sorted(name for name in stated if stated[name] == one))} |" for one in licences]
    return "\n".join(["| licence | packages |", "| --- | --- |", *rows])


def test_every_python_package_stands_under_the_licence_that_it_states() -> None:
    stated = stated_by_python()
    assert len(stated) > 40
    assert written("Python packages that run") == stated, table(stated)


def test_every_package_of_the_page_stands_under_the_licence_that_it_states() -> None:
    stated = stated_by_the_page()
    assert len(stated) > 60
    assert written("Packages of the page") == stated, table(stated)
