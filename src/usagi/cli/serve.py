"""`./usagi demo` and `./usagi start`: the database, the page and the server, until Ctrl-C."""

from __future__ import annotations

import gc
import logging
import os
import signal
import socket
import subprocess
import sys
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from types import FrameType

import uvicorn

from usagi.cli.cluster import Cluster, ClusterTrouble
from usagi.cli.demo import seed
from usagi.cli.studio import ready_database
from usagi.core.errors import UsagiError
from usagi.flows.workspace import Workspace
from usagi.main import make_app
from usagi.media.scratch import clear_scratch
from usagi.settings import Settings, home_from_environment, port_from_environment, project_root
from usagi.store.database import open_pool, transaction
from usagi.store.studios import drop_studio, enter_studio

log = logging.getLogger("usagi")
WATCH_S = 2.0
GARBAGE = (100_000, 50, 100)  # open documents live long and hold no rings: looking for some oftener costs a fifth


class PortTaken(UsagiError):
    """The page's port is in use."""

    code = "refused"


def serve(*, studio: str, fresh: bool, port: int | None) -> int:
    """Run until Ctrl-C; everything that this started is stopped then."""
    port = port_from_environment() if port is None else port
    clear_scratch()
    listener = _listen(port)
    home = home_from_environment()
    cluster = Cluster(home)
    # uvicorn raises SIGTERM again after its own shutdown; it passes through the clean-up below.
    signal.signal(signal.SIGTERM, _leave)
    try:
        with ready_database(cluster) as dsn:
            if fresh:
                _put_back(dsn)
            settings = Settings(home=home, dsn=dsn, studio=studio, port=port, web=_built_page())
            app = make_app(settings, seed=_seed if studio == "demo" else None)
            if cluster.folder.parent != home.resolve():
                print(f"The database lies in {cluster.folder}, because its account cannot enter {home}.")
            logging.basicConfig(level=logging.WARNING)
            config = uvicorn.Config(app, log_level="warning", access_log=False, timeout_graceful_shutdown=2)
            gc.set_threshold(*GARBAGE)
            with _watched(cluster), _worker(dsn):
                _Server(config).run(sockets=[listener])
    except KeyboardInterrupt:
        pass
    finally:
        listener.close()
        print("Stopped.", flush=True)
    return 0


class _Server(uvicorn.Server):
    """Prints its address once it answers, and prints nothing when it stops."""

    async def startup(self, sockets: list[socket.socket] | None = None) -> None:
        await super().startup(sockets)
        if self.started and sockets:
            port = sockets[0].getsockname()[1]
            print(f"Usagi is at http://127.0.0.1:{port}/ – Ctrl-C stops it.", flush=True)

    async def shutdown(self, sockets: list[socket.socket] | None = None) -> None:
        """Ends open requests; that is not an error, so nothing is printed."""
        logging.getLogger("uvicorn.error").setLevel(logging.CRITICAL)
        await super().shutdown(sockets)


def _seed(workspace: Workspace) -> None:
    print("Putting the demo's solos on the shelf; this takes half a minute, the first time only …", flush=True)
    seed(workspace)


@contextmanager
def _watched(cluster: Cluster) -> Iterator[None]:
    """Start the database server again whenever it is gone, until the block ends."""
    done = threading.Event()

    def watch() -> None:
        while not done.wait(WATCH_S):
            try:
                if not cluster.running:
                    cluster.start()
                    log.warning("The database server was gone; it is back.")
            except (ClusterTrouble, OSError) as trouble:  # a full disk, perhaps: it is tried again
                log.warning("%s", trouble)

    watchman = threading.Thread(target=watch, name="watch", daemon=True)
    watchman.start()
    try:
        yield
    finally:
        done.set()
        watchman.join(90)


@contextmanager
def _worker(dsn: str) -> Iterator[None]:
    """A worker for as long as the block lasts; one that has died is replaced, one without us ends by itself."""
    done = threading.Event()
    command = [sys.executable, "-m", "usagi.cli", "worker", "--with-parent"]

    def begin() -> subprocess.Popen[bytes]:
        return subprocess.Popen(command, stdin=subprocess.PIPE, env=os.environ | {"USAGI_DATABASE": dsn})

    def watch() -> None:
        process = begin()
        while not done.wait(WATCH_S):
            if process.poll() is not None:
                log.warning("The worker was gone; another takes its place.")
                process = begin()
        process.terminate()
        try:
            process.wait(10)
        except subprocess.TimeoutExpired:
            process.kill()

    watchman = threading.Thread(target=watch, name="worker", daemon=True)
    watchman.start()
    try:
        yield
    finally:
        done.set()
        watchman.join(15)


def _leave(number: int, _: FrameType | None) -> None:
    raise KeyboardInterrupt  # a stop is a stop, whoever asks for it


def _listen(port: int) -> socket.socket:
    # asyncio sends small answers at once only on a socket that says it is TCP; else each waits 40 ms.
    listener = socket.socket(socket.AF_INET, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listener.bind(("127.0.0.1", port))
    except OSError as fault:
        listener.close()
        raise PortTaken(
            f"Port {port} is taken, perhaps by another Usagi. Stop that one, or start with --port {port + 1}."
        ) from fault
    os.set_inheritable(listener.fileno(), False)
    return listener


def _built_page() -> Path:
    return project_root() / "web" / "dist"


def _put_back(dsn: str) -> None:
    pool = open_pool(dsn, size=1)
    try:
        with transaction(pool) as db:
            scope, _ = enter_studio(db, demo=True)
            drop_studio(db, scope)
    finally:
        pool.close()
