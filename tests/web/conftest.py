"""The application on a real database, without a browser."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from fastapi.testclient import TestClient

from fenwit import demo
from fenwit.store.database import Database
from fenwit.web.app import create_app


@pytest.fixture
def client(database_url: str) -> Iterator[TestClient]:
    """A client of the application with the demo jobs: 1 ready to size, 2 in proving."""
    database = Database(database_url, size=4)
    with TestClient(create_app(database), raise_server_exceptions=True) as found:
        demo.load(database)
        yield found
