"""Puts the application together: settings, pool, routers, handlers, the built page."""

from __future__ import annotations

from collections.abc import AsyncIterator, Callable
from contextlib import asynccontextmanager
from pathlib import Path
from typing import Any

from fastapi import FastAPI
from fastapi.responses import FileResponse, Response
from fastapi.routing import APIRoute
from fastapi.staticfiles import StaticFiles

from usagi.api.guard import Guard
from usagi.api.problems import Problem, add_handlers, problem
from usagi.api.router import router
from usagi.flows.workspace import Workspace
from usagi.media.cache import Cache
from usagi.settings import Settings
from usagi.store.database import open_pool, transaction
from usagi.store.news import News
from usagi.store.studios import enter_studio

LONGEST_PATH, LONGEST_PART = 1_000, 200  # bytes; no file system takes names of 256
REFUSALS: dict[int | str, dict[str, Any]] = {status: {"model": Problem} for status in (404, 409, 422)}


def make_app(settings: Settings | None = None, *, seed: Callable[[Workspace], None] | None = None) -> FastAPI:
    """The application. Without settings it has no database and only tells its shape (OpenAPI).

    `seed` fills the studio when it is new.
    """

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        if settings is None:
            yield
            return
        pool = open_pool(settings.dsn)
        try:
            with transaction(pool) as db:
                scope, is_new = enter_studio(db, demo=settings.studio == "demo")
            app.state.workspace = Workspace(pool, scope, Cache(settings.home / "cache", settings.cache_bytes))
            if is_new and seed is not None:
                seed(app.state.workspace)
            app.state.news = News(settings.dsn)
            app.state.news.start()
            yield
            app.state.news.stop()
        finally:
            pool.close()

    app = FastAPI(
        title="Usagi",
        version="0.1.0",
        lifespan=lifespan,
        docs_url=None,  # the interactive pages fetch from elsewhere
        redoc_url=None,
        generate_unique_id_function=_operation_name,
        responses=REFUSALS,
    )
    add_handlers(app)
    app.add_middleware(Guard)
    app.include_router(router)
    if settings is not None and settings.web is not None:
        serve_page(app, settings.web)
    return app


def _operation_name(route: APIRoute) -> str:
    return route.name


def serve_page(app: FastAPI, web: Path) -> None:
    """The built page; every address that is none of ours is the page, which knows its own routes."""
    app.mount("/assets", StaticFiles(directory=web / "assets"))

    @app.get("/{path:path}", include_in_schema=False)
    def page(path: str) -> Response:
        if path.startswith("api/"):
            return problem("no-such-address", "There is nothing at this address.")
        if "\0" in path or any(part.startswith(".") for part in path.split("/")):
            return problem("no-such-address", "There is nothing at this address.")
        if len(path) > LONGEST_PATH or any(len(part.encode()) > LONGEST_PART for part in path.split("/")):
            return problem("no-such-address", "There is nothing at this address.")
        file = (web / path).resolve()
        if path and file.is_file() and file.is_relative_to(web.resolve()):
            return FileResponse(file)
        return FileResponse(web / "index.html", headers={"cache-control": "no-cache"})
