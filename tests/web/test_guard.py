"""Whose pages may ask, for which address, with what body; and what a browser may do with an answer."""

from __future__ import annotations

from typing import Any

import pytest
from fastapi.testclient import TestClient

from fenwit.web.guard import MOST_BODY_BYTES, Hosts, is_loopback
from fenwit.web.uploads import MOST_BYTES, takes_file
from tests.web.test_api import CSV, JSON

HERE = "http://testserver"


def changing(client: TestClient) -> list[tuple[str, str]]:
    """Every route that takes something in, from the schema: none can be forgotten."""
    paths = client.get("/openapi.json").json()["paths"]
    return [
        (
            method.upper(),
            path.format(
                job_id=1,
                part_id=1,
                design_id=1,
                run_id=1,
                instrument_id=1,
                card="units",
                line="look",
                key="free",
                name="x",
            ),
        )
        for path, methods in paths.items()
        for method in methods
        if method not in ("get", "head")
    ]


@pytest.mark.parametrize(
    "headers",
    [
        {"origin": "http://evil.example"},
        {"origin": "null"},
        {"origin": "http://testserver.evil.example"},
        {"origin": "http://testserver:81"},
        {"origin": "http://127.0.0.1:9000"},
        {"origin": "ftp://testserver"},
        {"origin": "http://[::1"},
        {"sec-fetch-site": "cross-site"},
        {"sec-fetch-site": "same-site"},
        {"sec-fetch-site": "cross-site", "sec-fetch-mode": "navigate"},
        {"sec-fetch-site": "cross-site", "origin": HERE},
    ],
)
def test_a_foreign_page_changes_nothing(client: TestClient, headers: dict[str, str]) -> None:
    before = client.get("/api/jobs").json()
    for method, path in changing(client):
        answer = client.request(method, path, content=b"{}", headers={**JSON, **headers})
        assert (answer.status_code, answer.json()["type"]) == (403, "foreign"), (method, path)
    assert client.get("/api/jobs").json() == before


@pytest.mark.parametrize(
    "host",
    [
        "evil.example",
        "testserver.evil.example",
        "evil.example:8470",
        "testserver:81",
        "testserver@evil.example",
        "",
        "127.0.0.1",
        "testserver, evil.example",
    ],
)
def test_an_address_that_was_not_bound_is_not_answered(client: TestClient, host: str) -> None:
    for method, path in (("GET", "/api/jobs"), ("GET", "/"), ("POST", "/api/jobs"), ("GET", "/openapi.json")):
        answer = client.request(method, path, headers={"host": host})
        assert (answer.status_code, answer.json()["type"]) == (421, "host"), path


@pytest.mark.parametrize(
    "headers",
    [
        {},
        {"origin": HERE},
        {"sec-fetch-site": "same-origin", "origin": HERE},
        {"sec-fetch-site": "none"},
        {"host": "testserver"},
        {"host": "TestServer"},
    ],
)
def test_its_own_pages_and_plain_tools_may(client: TestClient, headers: dict[str, str]) -> None:
    answer = client.post("/api/jobs", json={"name": "Attic"}, headers=headers)
    assert answer.status_code == 201, answer.text


def test_a_link_from_elsewhere_opens_a_page_but_fetches_no_data(client: TestClient) -> None:
    followed = {"sec-fetch-site": "cross-site", "sec-fetch-mode": "navigate"}
    assert client.get("/api/jobs/1/report.html", headers=followed).status_code == 200
    for mode in ("no-cors", "cors"):
        foreign = {"sec-fetch-site": "cross-site", "sec-fetch-mode": mode}
        assert client.get("/api/jobs/1", headers=foreign).status_code == 403


@pytest.mark.parametrize(
    "kind",
    [
        "text/plain",
        "application/x-www-form-urlencoded",
        "multipart/form-data; boundary=x",
        "",
        "text/html",
        "image/png",
    ],
)
def test_a_body_of_another_kind_is_refused_everywhere(client: TestClient, kind: str) -> None:
    for method, path in changing(client):
        answer = client.request(method, path, content=b'{"name": "x"}', headers={"content-type": kind})
        assert answer.status_code == 415, (method, path, answer.text)


def test_a_file_is_sent_as_what_it_is(client: TestClient) -> None:
    assert client.post("/api/jobs/import", content=b"{}", headers=CSV).status_code == 415
    for path in ("/api/shelf/import", "/api/jobs/1/readings/import", "/api/jobs/1/captures?step=1"):
        assert client.post(path, content=b"{}", headers=JSON).status_code == 415, path
    # A table where a form is wanted is refused by the form.
    assert client.post("/api/jobs", content=b"name\nx", headers=CSV).status_code == 422


def test_too_much_is_refused_before_it_is_read(client: TestClient) -> None:
    for method, path in changing(client):
        most = MOST_BYTES if takes_file(path) else MOST_BODY_BYTES
        announced = client.request(method, path, headers={**JSON, "content-length": str(most + 1)})
        assert announced.status_code == 413, path
    for length in ("-1", "1e9", "x", "1" * 40):
        answer = client.post("/api/jobs", content=b"", headers={**JSON, "content-length": length})
        assert answer.status_code in (400, 413), length

    def without_end() -> Any:
        for _ in range(40):
            yield b"1" * 250_000

    for path in ("/api/jobs/1/live", "/api/jobs/import"):
        assert client.post(path, content=without_end(), headers=JSON).status_code == 413, path


def test_every_file_route_and_no_other_takes_a_long_body(client: TestClient) -> None:
    paths = client.get("/openapi.json").json()["paths"]
    for path, methods in paths.items():
        for operation in methods.values():
            content = operation.get("requestBody", {}).get("content", {})
            if not content:
                continue
            is_file = any("$ref" not in str(media.get("schema")) for media in content.values())
            assert takes_file(path) == is_file, path


@pytest.mark.parametrize(
    "path",
    ["/", "/jobs/1", "/api/jobs/1", "/api/jobs/999", "/api/jobs/2/report.html", "/api/jobs/2/schematic.svg"],
)
def test_a_browser_is_told_what_an_answer_may_do(client: TestClient, path: str) -> None:
    for answer in (client.get(path), client.head(path)):
        policy = answer.headers["content-security-policy"]
        assert "frame-ancestors 'none'" in policy
        assert "base-uri 'none'" in policy
        assert "default-src 'none'" in policy
        scripts = next((p for p in policy.split("; ") if p.startswith("script-src")), "")
        assert "unsafe" not in scripts
        assert answer.headers["x-content-type-options"] == "nosniff"
        assert answer.headers["referrer-policy"] == "no-referrer"
        assert answer.headers["cross-origin-resource-policy"] == "same-origin"
        if path.startswith("/api"):
            assert answer.headers["cache-control"] == "no-store"
            assert scripts == ""


def test_a_name_goes_with_its_port() -> None:
    hosts = Hosts("127.0.0.1:8470", ("localhost", "fans.example:443"))
    for host in ("127.0.0.1:8470", "localhost:8470", "localhost", "fans.example:443"):
        assert hosts.allow(host), host
    for host in (
        "127.0.0.1",
        "localhost:3000",
        "fans.example",
        "fans.example:8470",
        "",
        "localhost.evil.example",
    ):
        assert not hosts.allow(host), host


def test_loopback_is_told_from_the_rest() -> None:
    for address in ("127.0.0.1", "127.5.5.5", "::1", "[::1]", "localhost"):
        assert is_loopback(address), address
    for address in ("0.0.0.0", "::", "192.168.1.4", "fans.example", "", "127.0.0.1.evil.example"):
        assert not is_loopback(address), address
