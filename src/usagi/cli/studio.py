"""A workspace on the studio's own database, for commands."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from usagi.cli.cluster import Cluster
from usagi.cli.demo import seed
from usagi.flows.workspace import Workspace
from usagi.media.cache import Cache
from usagi.settings import home_from_environment
from usagi.store.database import create_database, migrate, open_pool, transaction
from usagi.store.studios import enter_studio

DATABASE = "usagi"


@contextmanager
def ready_database(cluster: Cluster) -> Iterator[str]:
    """The cluster running and the schema up to date, for as long as the block lasts."""
    with cluster.in_use() as server:
        dsn = create_database(server, DATABASE)
        migrate(dsn)
        yield dsn


@contextmanager
def studio_workspace(*, demo: bool) -> Iterator[Workspace]:
    """The local or the demo studio, for one command."""
    home = home_from_environment()
    with ready_database(Cluster(home)) as dsn:
        pool = open_pool(dsn, size=2)
        try:
            with transaction(pool) as db:
                scope, is_new = enter_studio(db, demo=demo)
            workspace = Workspace(pool, scope, Cache(home / "cache", 1_000_000_000))
            if demo and is_new:
                seed(workspace)
            yield workspace
        finally:
            pool.close()
