"""The commands, as scripts use them: no server, no page, and for `read` and `chord` no database."""

from __future__ import annotations

import io
import json
import os
import re
import signal
import socket
import subprocess
import sys
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager, redirect_stderr, redirect_stdout
from dataclasses import dataclass
from pathlib import Path

import pytest

from usagi.cli.__main__ import main

ROOT = Path(__file__).parents[1]
DEMO = ROOT / "demo"


@dataclass(frozen=True)
class Done:
    returncode: int
    stdout: str
    stderr: str


def usagi(*words: str | Path, stdin: str = "", home: Path | None = None) -> Done:
    """A command, run in this process: starting Python takes longer than most of them."""
    env = {"USAGI_HOME": str(home)} if home is not None else {}
    out, err = io.StringIO(), io.StringIO()
    given = io.TextIOWrapper(io.BytesIO(stdin.encode()))
    with pytest.MonkeyPatch.context() as patch, redirect_stdout(out), redirect_stderr(err):
        patch.chdir(ROOT)
        patch.setattr(sys, "stdin", given)
        for name, value in env.items():
            patch.setenv(name, value)
        code = main([str(word) for word in words])
    return Done(code, out.getvalue(), err.getvalue())


def test_a_command_is_a_program_of_its_own() -> None:
    command = [sys.executable, "-m", "usagi.cli", "chord", "Eb/F"]
    done = subprocess.run(command, cwd=ROOT, capture_output=True, text=True, check=False, timeout=60)
    assert done.returncode == 0 and "heard on F: 1 9 4 b7" in done.stdout


def test_chord_reads_symbols_from_its_words_and_from_standard_input() -> None:
    said = json.loads(usagi("chord", "--json", "Eb/F", "Hm").stdout)
    assert said[0]["heard_on"] == {"root": "F", "semitones": [0, 2, 5, 10]}
    assert (said[1]["symbol"], said[1]["at"]) == ("Hm", 1) and said[1].keys() == {"symbol", "error", "at"}
    assert json.loads(usagi("chord", "--json", stdin="Eb/F\nHm\n").stdout) == said
    assert "heard on F: 1 9 4 b7" in usagi("chord", "Eb/F").stdout
    assert usagi("chart", "Eb/F").stdout == usagi("chord", "Eb/F").stdout  # the earlier name still works


def test_read_prints_every_note_and_reads_documents_one_after_another() -> None:
    lanterns, gull = DEMO / "lanterns-at-low-water.json", DEMO / "gull-weather.json"
    lines = usagi("read", "--json", lanterns, gull).stdout.splitlines()
    one, two = (json.loads(line) for line in lines)
    assert one["schema"] == 1 and one["rules"] >= 1
    assert one["notes"][0].keys() == {
        "id", "where", "tick", "ticks", "string", "fret", "name", "midi", "lines", "degree", "key_degree",
        "other_degree",
    }  # fmt: skip
    assert one["notes"][0]["lines"][0].keys() == {
        "line", "shown", "heard_on", "chord", "degree", "role", "goal", "blue", "marks", "says", "stages",
    }  # fmt: skip
    both = lanterns.read_text() + gull.read_text()
    assert usagi("read", "--json", stdin=both).stdout.splitlines() == lines
    table, *phrases = usagi("read", gull).stdout.split("\n\n")
    assert len(table.splitlines()) == len(two["notes"]) + 1
    assert [told.partition(":")[0] for told in phrases] == [phrase["name"] for phrase in two["phrases"]]


def test_read_refuses_in_one_sentence(tmp_path: Path) -> None:
    for words in ("{", '{"schema": 9}', ""):
        done = usagi("read", stdin=words)
        assert done.returncode == 1 and done.stdout == "" and done.stderr.startswith("usagi: ")
        assert "Traceback" not in done.stderr
    for words, why in (
        ("[" * 100_000, "nested too deeply"),
        ('{"schema": ' + "9" * 100_000, "a number that is too long"),
    ):
        done = usagi("read", stdin=words)
        assert done.returncode == 1 and why in done.stderr and "Traceback" not in done.stderr
    marked = tmp_path / "marked.json"
    marked.write_bytes(b"\xef\xbb\xbf" + (DEMO / "gull-weather.json").read_bytes())
    assert usagi("read", marked).stdout == usagi("read", DEMO / "gull-weather.json").stdout
    missing = usagi("read", tmp_path / "none.json")
    assert "cannot be opened" in missing.stderr


def test_convert_turns_a_file_into_another_and_lists_what_is_lost(tmp_path: Path) -> None:
    source = DEMO / "slack-tide.json"
    for ending in (
        "musicxml",
        "mxl",
        "mid",
        "jams",
        "txt",
        "chart",
        "csv",
        "beats.csv",
        "sections.csv",
        "svg",
        "png",
        "json",
    ):
        done = usagi("convert", source, tmp_path / f"slack.{ending}")
        assert (
            done.returncode == 0
            and "65 notes in 12 bars." in done.stderr
            and (tmp_path / f"slack.{ending}").stat().st_size
        )
    assert (tmp_path / "slack.json").read_bytes() == source.read_bytes()
    listed = usagi("convert", source, tmp_path / "slack.mid", "--list").stdout.splitlines()
    assert "Not held: pull-offs: 10" in listed
    back = usagi("convert", tmp_path / "slack.musicxml", tmp_path / "back.json")
    assert back.returncode == 0 and len(json.loads((tmp_path / "back.json").read_text())["solo"]["notes"]) == 65
    assert usagi("convert", tmp_path / "slack.mid").stdout.splitlines() == ["MIDI", "1  Guitar  65 notes, with strings"]
    assert "musicxml   .musicxml .xml" in usagi("convert", "--list").stdout


def test_convert_refuses_in_one_sentence_and_leaves_no_half_file(tmp_path: Path) -> None:
    mail = tmp_path / "mail.txt"
    mail.write_text("\n".join(f"{string}|-5-8-|" for string in "eBGDAE"))
    goal = tmp_path / "mail.mid"
    for words, sentence in (
        ((mail, goal), "does not say how long its notes are"),
        ((mail, tmp_path / "mail.docx", "--lengths", "eighths"), "has no ending that is known here"),
        ((tmp_path / "none.xml", goal), "cannot be opened"),
        ((mail, tmp_path / "no folder/mail.mid", "--lengths", "eighths"), "cannot be written"),
        ((DEMO / "slack-tide.json", tmp_path / "x.doc", "--to", "word"), "There is no format “word”"),
    ):
        done = usagi("convert", *words)
        assert done.returncode == 1 and sentence in done.stderr and done.stderr.startswith("usagi: ")
    assert sorted(path.name for path in tmp_path.iterdir()) == ["mail.txt"]
    assert usagi("convert", mail, goal, "--lengths", "eighths", "--way", "2").returncode == 0


def test_export_import_into_an_empty_database_and_export_gives_the_same_bytes(open_home: Path) -> None:
    tmp_path = open_home
    name = "the-salt-road"
    done = usagi("import", DEMO / f"{name}.json", home=tmp_path / "one")
    assert done.returncode == 0, done.stderr
    solo = done.stdout.split()[0]
    first = tmp_path / f"{name}.1.json"
    assert usagi("export", solo, "-o", first, home=tmp_path / "one").returncode == 0
    again = usagi("import", first, home=tmp_path / "two").stdout.split()[0]
    second = tmp_path / f"{name}.2.json"
    usagi("export", again, "-o", second, home=tmp_path / "two")
    assert first.read_bytes() == second.read_bytes() == (DEMO / f"{name}.json").read_bytes()
    listed = usagi("export", home=tmp_path / "two").stdout
    assert "The Salt Road" in listed
    assert "is not the id of a solo" in usagi("export", "nonsense", home=tmp_path / "two").stderr
    found = usagi("find", "b3 3 5 1", home=tmp_path / "two").stdout.splitlines()
    assert (
        found[0].endswith("exactly as asked") and found[1] == "Mirren Oake · The Salt Road, bar 1  “salt on the road”"
    )
    assert found[2].split()[:4] == ["b3", "3", "5", "1"]
    assert usagi("reindex", home=tmp_path / "two").stdout == "1 solo read.\n"
    assert "“x” is no degree" in usagi("find", "3 x", home=tmp_path / "two").stderr


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def processes_below(home: Path) -> list[str]:
    found = []
    for cwd in Path("/proc").glob("[0-9]*/cwd"):
        try:
            if str(cwd.resolve()).startswith(str(home.resolve())):
                found.append(cwd.parts[2])
        except OSError:
            continue
    return found


@pytest.mark.parametrize("how", [signal.SIGINT, pytest.param(signal.SIGTERM, marks=pytest.mark.long)])
def test_the_demo_says_where_it_is_once_it_answers_and_stops_everything_it_started(
    open_home: Path, how: signal.Signals
) -> None:
    port = free_port()
    command = [sys.executable, "-m", "usagi.cli", "demo", "--port", str(port)]
    env = os.environ | {"USAGI_HOME": str(open_home)}
    running = subprocess.Popen(command, cwd=ROOT, env=env, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True)
    try:
        assert running.stdout is not None
        assert running.stdout.readline().startswith("Putting the demo's solos on the shelf")
        assert f"http://127.0.0.1:{port}/" in running.stdout.readline()
        with urllib.request.urlopen(f"http://127.0.0.1:{port}/api/shelf") as answer:  # at the first try
            assert len(json.load(answer)["solos"]) == 9  # six solos, a melody, and a version of two of them
        taken = subprocess.run(command, cwd=ROOT, env=env, capture_output=True, text=True, check=False, timeout=60)
        assert taken.returncode == 1 and f"Port {port} is taken" in taken.stderr and "--port" in taken.stderr
        assert processes_below(open_home) != [] and len(processes_of(open_home)) >= 2
        with half_an_upload(port):
            running.send_signal(how)
            rest = running.communicate(timeout=60)[0]
        assert (rest, running.returncode) == ("Stopped.\n", 0)  # a stop is quiet
    finally:
        running.kill()
        running.communicate()
    assert processes_below(open_home) == [] and processes_of(open_home) == []


@contextmanager
def half_an_upload(port: int) -> Iterator[None]:
    """A file of which half has gone and no more comes."""
    with socket.create_connection(("127.0.0.1", port)) as line:
        line.sendall(
            b"POST /api/recordings HTTP/1.1\r\nhost: 127.0.0.1\r\ncontent-length: 9000000\r\n"
            b"content-type: multipart/form-data; boundary=xyz\r\n\r\n"
            b'--xyz\r\ncontent-disposition: form-data; name="file"; filename="a.wav"\r\n\r\n'
        )
        line.sendall(b"\0" * 4_000_000)
        yield


WORDS = re.findall(r"[a-z]+", next(
    line for line in (ROOT / "usagi").read_text().splitlines() if line.startswith("#   ./usagi")
).partition("(")[0].replace("./usagi", ""))  # fmt: skip


@pytest.mark.parametrize("word", WORDS)
def test_every_word_of_the_help_is_a_command_of_the_script_itself(word: str) -> None:
    assert len(WORDS) > 15
    asked = ["--version"] if word == "test" else ["--help"]  # its words are pytest's
    done = subprocess.run([str(ROOT / "usagi"), word, *asked], capture_output=True, text=True, check=False, timeout=120)
    assert done.returncode == 0, done.stderr
    assert "there is no command" not in done.stderr


def test_find_and_reindex_answer_for_the_script_itself(open_home: Path) -> None:
    env = os.environ | {"USAGI_HOME": str(open_home)}
    for words, answer in ((["reindex"], "0 solos read."), (["find", "3 b3 1"], "0 phrases")):
        done = subprocess.run(
            [str(ROOT / "usagi"), *words], capture_output=True, text=True, check=False, timeout=120, env=env
        )
        assert done.returncode == 0, done.stderr
        assert answer in done.stdout


def processes_of(home: Path) -> list[str]:
    """Those that were started for a home, the worker among them."""
    found = []
    for environ in Path("/proc").glob("[0-9]*/environ"):
        try:
            if f"USAGI_HOME={home}".encode() in environ.read_bytes().split(b"\0"):
                found.append(environ.parts[2])
        except OSError:
            continue
    return found
