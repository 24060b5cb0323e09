"""The whole API against its own schema, with made-up requests: no answer it does not document, and none of 5xx."""

from __future__ import annotations

import os
from collections.abc import Iterator
from typing import Any

import psycopg
import pytest
import schemathesis
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st
from schemathesis import GenerationMode
from schemathesis.specs.openapi.checks import positive_data_acceptance

from fenwit.web.app import create_app
from tests.ui.server import running

_OPERATIONS = [
    (method.upper(), path)
    for path, methods in create_app(None).openapi()["paths"].items()
    for method in methods
]
_EACH = int(os.environ.get("FENWIT_CASES", "8"))
"""Made-up requests for each operation, good ones and bad ones [-]"""


@pytest.fixture(scope="module")
def api(cluster_url: str, demo_template: str, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Any]:
    """The schema of a running application with the demo jobs."""
    name = f"contract_{os.getpid()}"
    with psycopg.connect(cluster_url, autocommit=True) as connection:
        connection.execute(f"CREATE DATABASE {name} TEMPLATE {demo_template}".encode())
    url = cluster_url.rsplit("/", 1)[0] + "/" + name
    with running(url, str(tmp_path_factory.mktemp("contract"))) as server:
        yield schemathesis.openapi.from_url(server.address + "/openapi.json")


@pytest.mark.parametrize(("method", "path"), _OPERATIONS)
def test_every_operation_keeps_to_what_it_says(api: Any, method: str, path: str) -> None:
    operation = api[path][method]
    cases = st.one_of(
        operation.as_strategy(generation_mode=GenerationMode.POSITIVE),
        operation.as_strategy(generation_mode=GenerationMode.NEGATIVE),
    )

    @settings(
        max_examples=_EACH,
        deadline=None,
        suppress_health_check=list(HealthCheck),
        phases=[Phase.explicit, Phase.generate],
    )
    @given(case=cases)
    def holds(case: Any) -> None:
        # What is typed in trade words ("2u7", "61 %") no schema can describe: it may be refused, with its reason.
        answer = case.call_and_validate(excluded_checks=[positive_data_acceptance])
        if answer.status_code >= 400:
            assert len(answer.json()["detail"]) >= 3

    holds()
