"""The application on a real database, without a browser."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from fastapi.testclient import TestClient

from fenwit.store.database import Database
from fenwit.web.app import create_app
from fenwit.web.guard import Hosts


@pytest.fixture
def client(demo_url: str) -> Iterator[TestClient]:
    """A client of the application with the demo jobs: 1 ready to size, 2 and 3 in proving."""
    database = Database(demo_url, size=4)
    app = create_app(database, hosts=Hosts("testserver"))
    with TestClient(app, raise_server_exceptions=True) as found:
        yield found
