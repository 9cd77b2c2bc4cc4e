"""Fixtures: a throw-away database server, studios of their own, the api, and a browser on a running server."""

from __future__ import annotations

import os
import time
from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, settings

from studios import new_studio
from usagi.cli.cluster import THROWAWAY, Cluster
from usagi.core.listening.listen import Nets
from usagi.flows.listening.hearing import nets as shipped_nets
from usagi.flows.workspace import Workspace
from usagi.main import make_app
from usagi.media.cache import Cache
from usagi.store.database import Pool, create_database, migrate, open_pool, transaction

settings.register_profile("fast", max_examples=40, deadline=None, suppress_health_check=[HealthCheck.too_slow])
settings.register_profile("thorough", max_examples=1_000, deadline=None)
settings.load_profile("fast")


def pytest_addoption(parser: pytest.Parser) -> None:
    parser.addoption("--rewrite-golden", action="store_true", help="write golden files anew; read the diff")
    parser.addoption(
        "--long", action="store_true", help="the long tests too: kill rounds, soak, thousands of mutations"
    )
    parser.addoption("--thorough", action="store_true", help="many more examples in property tests")


def pytest_report_header() -> str:
    """How fast this hour is: shared machines differ by two from one hour to the next, and times are read against it."""
    begin = time.perf_counter()
    total = 0
    for number in range(1_000_000):
        total += number
    return f"pace: a million additions in {time.perf_counter() - begin:.2f} s"


def pytest_collection_modifyitems(config: pytest.Config, items: list[pytest.Item]) -> None:
    if not config.getoption("--long"):
        for item in items:
            if item.get_closest_marker("long"):
                item.add_marker(pytest.mark.skip(reason="long: run by ./usagi test --long"))


def pytest_configure(config: pytest.Config) -> None:
    if config.getoption("--thorough"):
        settings.load_profile("thorough")


def reachable(folder: Path) -> Path:
    """A temporary folder that the database server's account can enter."""
    for step in (folder, *folder.parents):
        if step.stat().st_uid == os.getuid() and len(step.parts) > 2:
            step.chmod(0o755)
    return folder


@pytest.fixture
def open_home(tmp_path: Path) -> Path:
    return reachable(tmp_path)


@pytest.fixture(scope="session")
def server_dsn(tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    """A database server of this run alone; stopped and removed at the end."""
    cluster = Cluster(reachable(tmp_path_factory.mktemp("pg")), THROWAWAY)
    try:
        yield cluster.start()
    finally:
        cluster.destroy()


@pytest.fixture(scope="session")
def dsn(server_dsn: str) -> str:
    name = create_database(server_dsn, "usagi_test")
    migrate(name)
    return name


@pytest.fixture(scope="session")
def pool(dsn: str) -> Iterator[Pool]:
    pool = open_pool(dsn, size=4)
    yield pool
    pool.close()


@pytest.fixture
def workspace(pool: Pool, tmp_path: Path) -> Workspace:
    """A studio of this test alone."""
    with transaction(pool) as db:
        scope = new_studio(db)
    return Workspace(pool, scope, Cache(tmp_path / "cache", 50_000_000))


@pytest.fixture(scope="session")
def app() -> FastAPI:
    """One application for all tests: making its routes takes longer than most tests."""
    return make_app()


@pytest.fixture
def client(app: FastAPI, workspace: Workspace) -> TestClient:
    app.state.workspace = workspace
    return TestClient(app, base_url="http://127.0.0.1", raise_server_exceptions=False)


@pytest.fixture(scope="session")
def nets() -> Nets:
    """What listens, as it ships."""
    return shipped_nets()
