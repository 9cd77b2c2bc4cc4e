"""Settings, read from the environment once, at start."""

from __future__ import annotations

import os
from dataclasses import dataclass
from pathlib import Path


@dataclass(frozen=True)
class Settings:
    """Where files lie, and whose studio is served. `studio` is "local" or "demo"."""

    home: Path
    dsn: str
    studio: str = "local"
    host: str = "127.0.0.1"
    port: int = 8_000
    web: Path | None = None  # the built page
    cache_bytes: int = 1_000_000_000


def project_root() -> Path:
    """The checkout."""
    return Path(__file__).resolve().parents[2]


def home_from_environment() -> Path:
    """The data folder: `USAGI_HOME`, else `.usagi` of the checkout."""
    return Path(os.environ.get("USAGI_HOME") or project_root() / ".usagi")


def port_from_environment() -> int:
    """The page's port: `USAGI_PORT`, else 8000."""
    return int(os.environ.get("USAGI_PORT") or 8_000)
