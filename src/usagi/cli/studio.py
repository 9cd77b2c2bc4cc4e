"""A desk on the studio's own database, for commands."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from usagi.cli.cluster import Cluster
from usagi.flows.desk import Desk
from usagi.media.cache import Cache
from usagi.settings import home_from_environment
from usagi.store.database import create_database, migrate, open_pool, transaction
from usagi.store.studios import enter_studio

DATABASE = "usagi"


def ready_database(cluster: Cluster) -> str:
    """The cluster running and the schema up to date; returns the connection string."""
    dsn = create_database(cluster.start(), DATABASE)
    migrate(dsn)
    return dsn


@contextmanager
def studio_desk(*, demo: bool) -> Iterator[Desk]:
    """The local or the demo studio; a server that this started is stopped again."""
    home = home_from_environment()
    cluster = Cluster(home)
    was_running = cluster.running
    dsn = ready_database(cluster)
    pool = open_pool(dsn, size=2)
    try:
        with transaction(pool) as db:
            scope, is_new = enter_studio(db, demo=demo)
        desk = Desk(pool, scope, Cache(home / "cache", 1_000_000_000))
        if demo and is_new:
            from usagi.cli.demo import seed

            seed(desk)
        yield desk
    finally:
        pool.close()
        if not was_running:
            cluster.stop()
