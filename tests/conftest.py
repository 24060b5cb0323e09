"""One private PostgreSQL for the whole run; a fresh database for whoever asks."""

from __future__ import annotations

import itertools
import os
import shutil
import tempfile
from collections.abc import Iterator
from pathlib import Path

import psycopg
import pytest
from hypothesis import settings

from fenwit import demo
from fenwit.store.cluster import Cluster
from fenwit.store.database import Database
from fenwit.store.migrate import migrate
from fenwit.web.page import renew

# The same examples every time: a failure on one machine is a failure on all.
# A slow machine is no fault of what is tested.
settings.register_profile("fenwit", derandomize=True, deadline=None)
settings.load_profile("fenwit")

ROOT = Path(__file__).resolve().parents[1]
# Processes that tests start find the source as the tests do.
os.environ["PYTHONPATH"] = str(ROOT / "src")
_count = itertools.count(1)
_ROOM = 8_000_000_000
"""Free memory that a run may use for its databases [byte]"""


@pytest.fixture(scope="session")
def cluster_url() -> Iterator[str]:
    """URL of a running private server without fsync."""
    # In memory where there is some: every test has a database of its own, which is a copy of files.
    memory = Path("/dev/shm")
    roomy = memory.is_dir() and os.access(memory, os.W_OK) and shutil.disk_usage(memory).free > _ROOM
    with tempfile.TemporaryDirectory(
        prefix="fenwit-test-", dir=memory if roomy else None, ignore_cleanup_errors=True
    ) as folder:
        cluster = Cluster(Path(folder) / "postgres", durable=False)
        url = cluster.start()
        yield url
        cluster.stop()


@pytest.fixture(scope="session")
def template(cluster_url: str) -> str:
    """Name of a migrated database to copy from."""
    with psycopg.connect(cluster_url, autocommit=True) as connection:
        connection.execute("CREATE DATABASE migrated")
    migrate(cluster_url.rsplit("/", 1)[0] + "/migrated")
    return "migrated"


@pytest.fixture
def database_url(cluster_url: str, template: str) -> str:
    """URL of a migrated, empty database of one's own."""
    name = f"test_{next(_count)}"
    with psycopg.connect(cluster_url, autocommit=True) as connection:
        connection.execute(f"CREATE DATABASE {name} TEMPLATE {template}".encode())
    return cluster_url.rsplit("/", 1)[0] + "/" + name


@pytest.fixture(scope="session")
def demo_template(cluster_url: str, template: str) -> str:
    """Name of a database with the demo jobs to copy from: they are computed once for all tests."""
    name = "with_demo"
    with psycopg.connect(cluster_url, autocommit=True) as connection:
        connection.execute(f"CREATE DATABASE {name} TEMPLATE {template}".encode())
    loaded = Database(cluster_url.rsplit("/", 1)[0] + f"/{name}", size=2).open()
    demo.load(loaded)
    # The cards of the Bench go along, so that no server has to make them first.
    renew(loaded)
    loaded.close()
    return name


@pytest.fixture
def demo_url(cluster_url: str, demo_template: str) -> str:
    """URL of a database of one's own with the demo jobs."""
    name = f"demo_{next(_count)}"
    with psycopg.connect(cluster_url, autocommit=True) as connection:
        connection.execute(f"CREATE DATABASE {name} TEMPLATE {demo_template}".encode())
    return cluster_url.rsplit("/", 1)[0] + "/" + name


@pytest.fixture
def database(database_url: str) -> Iterator[Database]:
    """A migrated, empty database."""
    found = Database(database_url, size=4).open()
    yield found
    found.close()
