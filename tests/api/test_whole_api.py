"""Every operation of the OpenAPI: drawn requests never break it, strangers never get in, and it keeps to itself."""

from __future__ import annotations

import re
from typing import Any
from uuid import UUID, uuid4

import pytest
import schemathesis
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from api_examples import Request, World
from studios import new_studio
from usagi.flows.workspace import Workspace
from usagi.main import make_app
from usagi.media.cache import Cache
from usagi.store import backup as stored
from usagi.store.database import Pool, transaction

OPENAPI = make_app().openapi()
OPERATIONS = {found.ok().definition.raw["operationId"]: found.ok()
              for found in schemathesis.openapi.from_dict(OPENAPI).get_all_operations()}  # fmt: skip
STREAM = "get_news"  # it never ends; the tests of two tabs listen to it
EXAMPLES = 12
ODD = [None, True, -1, 3.5, 10**12, "", "\x00", "x" * 5_000, [], {}, [[]], {"id": "n1"}, "note", "n1", 10_080]
# Bodies with JSON values of any kind inside are too rich to be drawn whole: they are valid ones, changed here and there.
RICH = {"post_edits"}


@pytest.fixture
def world(client: TestClient) -> World:
    return World(client)


def call(client: TestClient, operation: Any, request: Request) -> Any:
    path = operation.path
    for name, value in request.path.items():
        path = path.replace(f"{{{name}}}", str(value))
    sent: dict[str, Any] = {"files": request.files} if request.files is not None else {}
    if request.body is not None:
        sent["json"] = request.body
    return client.request(operation.method, path, params=request.query, **sent)


def refused_in_words(answer: Any) -> None:
    """The one problem shape, with a sentence for a person."""
    assert answer.headers["content-type"] == "application/problem+json", answer.text
    problem = answer.json()
    assert problem["status"] == answer.status_code and problem["code"] and problem["type"].startswith("/problems/")
    assert len(problem["title"]) > 10 and problem["title"][-1] in ".!?”)" and "Traceback" not in answer.text


def places(tree: Any, path: tuple[Any, ...] = ()) -> list[tuple[Any, ...]]:
    found = [path] if path else []
    children = tree.items() if isinstance(tree, dict) else enumerate(tree) if isinstance(tree, list) else ()
    for key, child in children:
        found += places(child, (*path, key))
    return found


def changed(tree: Any, data: st.DataObject, times: int) -> Any:
    """The tree with some places taken out or replaced.

    What is drawn does not depend on the tree: it tells of a solo that grows with every request.
    """
    for _ in range(times):
        at, odd = data.draw(st.integers(0, 2**16)), data.draw(st.none() | st.sampled_from(range(len(ODD))))
        every = places(tree)
        if not every:
            continue
        path = every[at % len(every)]
        holder = tree
        for key in path[:-1]:
            holder = holder[key]
        if odd is not None:
            holder[path[-1]] = ODD[odd]
        else:
            del holder[path[-1]]
    return tree


@pytest.mark.parametrize("name", sorted(OPERATIONS.keys() - {STREAM}))
def test_drawn_requests_are_answered_or_refused_in_words(
    world: World, name: str, request: pytest.FixtureRequest
) -> None:
    thorough = bool(request.config.getoption("--thorough"))
    operation = OPERATIONS[name]

    def accepted() -> None:
        for _ in range(2):
            answer = call(world.client, operation, world.request(name))
            assert answer.status_code < 300, answer.text

    def check(answer: Any) -> None:
        assert answer.status_code < 500, answer.text
        if answer.status_code >= 400:
            refused_in_words(answer)

    # The same requests every time, so that a run tells of the program and not of its luck; others with --thorough.
    @settings(
        max_examples=5 * EXAMPLES if thorough else EXAMPLES,
        deadline=None,
        suppress_health_check=list(HealthCheck),
        database=None,
        derandomize=not thorough,
    )
    @given(data=st.data())
    def run(data: st.DataObject) -> None:
        valid = world.request(name)
        # A request lies beside a right one in one part, or is drawn whole.
        # Drawn from many numbers, because what was drawn before is not drawn again.
        kind = ("part", "whole")[data.draw(st.integers(0, 2**20)) % 2]
        asked = valid
        if name in RICH:
            asked.body = changed(asked.body, data, {"part": 1, "whole": 3}[kind])
            check(call(world.client, operation, asked))
            return
        drawn = data.draw(operation.as_strategy())
        body = drawn.body if isinstance(drawn.body, dict | list | str | int | float | bool | type(None)) else None
        parts = ["query", *(["path"] if valid.path else []), *(["body"] if valid.body is not None else [])]
        part = data.draw(st.sampled_from(parts)) if kind == "part" else kind
        if part in ("query", "whole"):
            asked.query = dict(drawn.query or {})
        if part in ("path", "whole"):
            asked.path = dict(drawn.path_parameters or {})
        if part in ("body", "whole") and valid.body is not None:
            asked.body = body
        if part == "whole" and valid.files is not None:
            asked.files = {"file": ("drawn", data.draw(st.binary(max_size=200)))}
        check(call(world.client, operation, asked))

    # What is right is accepted, before all that is not was asked for and after it.
    accepted()
    run()
    accepted()


# Requests that say elsewhere than in their path what they are about.
NAMED_ELSEWHERE = {
    "post_lick", "post_anywhere", "post_lick_options", "post_twelve", "post_lick_sound", "post_quote", "post_quote_sound",
    "post_quote_solo", "post_document_elsewhere", "get_lick_sheet", "get_lick_pdf",
}  # fmt: skip


def rows_of(pool: Pool, studio: UUID) -> dict[str, list[object]]:
    with transaction(pool) as db:
        return {table: list(stored.rows(db, studio, table)) for table in stored.TABLES}


def test_a_second_studio_sees_and_changes_nothing(
    world: World, workspace: Workspace, pool: Pool, tmp_path: Any
) -> None:
    with transaction(pool) as db:
        scope = new_studio(db)
    app = make_app()
    app.state.workspace = Workspace(pool, scope, Cache(tmp_path / "strangers", 50_000_000), workspace.open)
    stranger = TestClient(app, base_url="http://127.0.0.1", raise_server_exceptions=False)
    before = rows_of(pool, workspace.scope.studio)
    # What is only read comes first, so that nothing in the answers is the stranger's own.
    for name, operation in sorted(OPERATIONS.items(), key=lambda one: one[1].method.lower() != "get"):
        before = before if name not in ("post_undo", "post_redo") else rows_of(pool, workspace.scope.studio)
        request = world.request(name)
        before = rows_of(pool, workspace.scope.studio)
        answer = call(stranger, operation, request)
        if request.path or name in NAMED_ELSEWHERE:
            assert answer.status_code == 404, (name, answer.status_code, answer.text)
            refused_in_words(answer)
        else:
            assert answer.status_code < 300, (name, answer.text)
        for secret in ("Ada Moor", "first", "Am7"):
            assert secret not in answer.text or secret in str(request.files), name  # or the stranger sent it
        if not request.path:
            assert world.solo not in answer.text and world.recording not in answer.text
        assert rows_of(pool, workspace.scope.studio) == before, name


@pytest.mark.parametrize("name", sorted(OPERATIONS))
def test_pages_of_other_sites_and_other_names_get_nothing(client: TestClient, name: str) -> None:
    operation = OPERATIONS[name]
    path = re.sub(r"\{\w+\}", str(uuid4()), operation.path)
    for headers, status in (
        ({"host": "tin-roof.example"}, 421),
        ({"host": "127.0.0.1.tin-roof.example"}, 421),
        ({"origin": "https://tin-roof.example"}, 403),
        ({"origin": "null"}, 403),
        ({"origin": "http://127.0.0.1:9"}, 403),
        ({"origin": "https://127.0.0.1"}, 403),  # the same host by another scheme is another origin
        ({"sec-fetch-site": "cross-site"}, 403),
    ):
        answer = client.request(operation.method, path, headers=headers, json={})
        assert answer.status_code == status, (name, headers)
        refused_in_words(answer)


def test_its_own_page_gets_through_under_all_its_names(client: TestClient) -> None:
    for host in ("127.0.0.1:8000", "localhost:8000", "[::1]:8000"):
        headers = {"host": host, "origin": f"http://{host}", "sec-fetch-site": "same-origin"}
        assert client.get("/api/shelf", headers=headers).status_code == 200


def test_bodies_are_limited_before_they_are_read(client: TestClient) -> None:
    answer = client.post("/api/solos", content=b"x", headers={"content-length": "99000000"})
    assert answer.status_code == 413
    refused_in_words(answer)

    def endless() -> Any:
        for _ in range(30):
            yield b"x" * 1_000_000

    answer = client.post("/api/solos", content=endless(), headers={"content-type": "application/json"})
    assert answer.status_code == 413
    refused_in_words(answer)


def test_every_answer_carries_the_policy(client: TestClient) -> None:
    for path in ("/api/shelf", "/api/nothing", "/api/solos/x"):
        policy = client.get(path).headers["content-security-policy"]
        assert "script-src 'self';" in policy and "unsafe-eval" not in policy
        assert "unsafe-inline" not in policy.split("script-src")[1].split(";")[0]


@pytest.mark.parametrize("path", ["/../pyproject.toml", "/%2e%2e/pyproject.toml", "/assets/../../package.json",
                                  "/assets/%2e%2e/%2e%2e/package.json", "/..%2fpackage.json", "//etc/passwd",
                                  "/.made-of", "/assets/.made-of", "/%2emade-of", "/%00", "/a%00b"])  # fmt: skip
def test_no_path_leads_outside(page_server: TestClient, path: str) -> None:
    answer = page_server.get(path)
    if "made-of" in path or "%00" in path:
        assert answer.status_code == 404
    assert "devDependencies" not in answer.text and "[project]" not in answer.text and "root:" not in answer.text
