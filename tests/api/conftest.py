"""The page's own server, for requests that need no database."""

from __future__ import annotations

import pytest
from fastapi.testclient import TestClient

from usagi.main import make_app, serve_page
from usagi.settings import project_root


@pytest.fixture(scope="session")
def page_server() -> TestClient:
    """The routes with the built page behind them; no path asks the database."""
    app = make_app()
    serve_page(app, project_root() / "web" / "dist")
    return TestClient(app, base_url="http://127.0.0.1")
