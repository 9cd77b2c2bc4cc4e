"""The private database server, and the accidents that it must survive."""

from __future__ import annotations

import os
import signal
import socket
import subprocess
import threading
import time
from collections.abc import Iterator
from pathlib import Path

import psycopg
import pytest

from usagi.cli.cluster import THROWAWAY, Cluster


@pytest.fixture
def cluster(open_home: Path) -> Iterator[Cluster]:
    found = Cluster(open_home / "home", THROWAWAY)
    yield found
    found.destroy()


def answers(dsn: str) -> bool:
    with psycopg.connect(dsn) as db:
        return db.execute("SELECT 1").fetchone() == (1,)


def pid_of(cluster: Cluster) -> int:
    return int((cluster.folder / "data" / "postmaster.pid").read_text().splitlines()[0])


def test_it_starts_once_listens_on_loopback_only_and_starts_again(cluster: Cluster) -> None:
    dsn = cluster.start()
    assert answers(dsn) and cluster.running
    with psycopg.connect(dsn) as db:
        names = "'listen_addresses', 'unix_socket_directories'"
        settings = dict(db.execute(f"SELECT name, setting FROM pg_settings WHERE name IN ({names})").fetchall())
    assert settings == {"listen_addresses": "127.0.0.1", "unix_socket_directories": ""}
    assert cluster.start() == dsn
    cluster.stop()
    assert not cluster.running
    assert cluster.start() == dsn and answers(dsn)


def test_two_starts_at_once_make_one_server(cluster: Cluster) -> None:
    found: list[str] = []
    threads = [
        threading.Thread(target=lambda: found.append(Cluster(cluster.home, THROWAWAY).start())) for _ in range(2)
    ]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert len(set(found)) == 1 and answers(found[0])


def test_it_recovers_from_a_killed_server_whose_pid_is_another_process_now(cluster: Cluster) -> None:
    cluster.start()
    os.kill(pid_of(cluster), signal.SIGKILL)
    end = time.monotonic() + 20
    while cluster.running and time.monotonic() < end:
        time.sleep(0.01)
    note = cluster.folder / "data" / "postmaster.pid"
    with subprocess.Popen(["sleep", "60"]) as stranger:
        lines = note.read_text().splitlines()
        note.write_text("\n".join([str(stranger.pid), *lines[1:]]) + "\n")
        assert answers(cluster.start())
        stranger.kill()


def test_a_run_that_was_killed_while_making_the_cluster_is_made_anew(cluster: Cluster) -> None:
    half = cluster.folder / "data.half"
    half.mkdir(parents=True)
    (half / "PG_VERSION").write_text("15\n")
    assert answers(cluster.start())


def test_a_taken_port_is_passed_over(cluster: Cluster) -> None:
    dsn = cluster.start()
    port = int(dsn.rsplit(":", 1)[1].split("/")[0])
    cluster.stop()
    with socket.socket() as taken:
        taken.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        taken.bind(("127.0.0.1", port))
        taken.listen()
        moved = cluster.start()
    assert moved != dsn and answers(moved)


@pytest.mark.skipif(os.geteuid() != 0, reason="only root gives the server another account")
def test_a_home_that_the_servers_account_cannot_enter_gets_a_folder_elsewhere(tmp_path: Path) -> None:
    closed = tmp_path / "closed"
    closed.mkdir(mode=0o700)
    cluster = Cluster(closed / "home", THROWAWAY)
    try:
        assert answers(cluster.start())
        assert not cluster.folder.is_relative_to(closed)
    finally:
        cluster.destroy()
    assert not cluster._note.exists()
