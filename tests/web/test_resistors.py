"""Resistors through the door: offered, kept, refused beside their field, stored, on the shelf and in the record."""

from __future__ import annotations

from typing import Any

import pytest
from fastapi.testclient import TestClient

from tests.web.test_api import WHO, page, refused

CHAIN: dict[str, Any] = {
    "method": "series-resistor",
    "scheme": "chain",
    "resistors": [{"value": "620"}, {"value": "360"}, {"value": "330"}],
}


def asked(client: TestClient, **body: Any) -> Any:
    answer = client.post("/api/jobs/1/resistors", json=body)
    assert answer.status_code == 200, answer.text
    return answer.json()


def keep(client: TestClient, **changes: Any) -> Any:
    body = {"design": {**CHAIN, **changes}, "after_revision": page(client)["last_revision"], "who": WHO}
    return client.post("/api/jobs/1/designs", json=body)


def test_what_is_offered_can_be_kept_and_comes_back_as_it_was(client: TestClient) -> None:
    offers = asked(client)["offers"]
    assert {o["scheme_text"] for o in offers} == {"one a step", "tapped chain"}
    for offer in offers:
        answer = client.post(
            "/api/jobs/1/designs",
            json={"design": offer["design"], "after_revision": page(client)["last_revision"], "who": WHO},
        )
        assert answer.status_code == 201, answer.text
        found = answer.json()
        assert found["design"]["method"] == "series-resistor"
        assert found["design"]["design"] == {**offer["design"], "switch": found["design"]["design"]["switch"]}
        assert [m["predicted"]["value"] for m in found["frame"]["marks"]] == pytest.approx(offer["speed_rpm"])


def test_heat_and_energy_of_what_is_tried(client: TestClient) -> None:
    heat = asked(client, design=CHAIN)["heat"]
    assert [s["joins"] for s in heat["steps"]] == ["R1–R3", "R2–R3", "R3", "direct"]
    assert "with capacitors for the same speeds" in heat["year_text"]
    many = asked(client, design={**CHAIN, "hours": ["10", "6", "4", "0"], "days": "200"})["heat"]
    assert "200 days" in many["year_text"]
    assert page(client)["design"] is None or page(client)["design"]["method"] != "series-resistor"


@pytest.mark.parametrize(
    ("change", "field", "words"),
    [
        ({"resistors": []}, "resistors", "one to five"),
        ({"resistors": [{"value": "620 µF"}]}, "r1", "ohms"),
        ({"resistors": [{"value": "620"}, {"value": ""}]}, "r2", "ohms are wanted"),
        ({"resistors": [{"value": "620", "measured": "10"}]}, "r1", "too far from what is printed"),
        ({"resistors": [{"value": "1M"}]}, "r1", ""),
        ({"resistors": [{"value": "620", "tolerance": "90 %"}]}, "r1", ""),
        ({"resistors": [{"value": "620", "shelf_id": 10**9}]}, None, ""),
        ({"scheme": "separate", "resistors": [{"value": "300"}, {"value": "600"}]}, "resistors", "most ohms"),
        ({"room": "cold"}, "room", "°C"),
        ({"room": "200"}, "room_c", ""),
        ({"hours": ["9", "9", "9", "9"]}, "hours", "24 hours"),
        ({"hours": ["1"]}, "hours", "one for each step"),
        ({"days": "0"}, "days", ""),
        ({"fuse": "x"}, "fuse", ""),
        ({"enclosure": "bag"}, None, ""),
        ({"scheme": "knot"}, None, ""),
    ],
)
def test_resistors_that_cannot_be_are_refused(
    client: TestClient, change: dict[str, Any], field: str | None, words: str
) -> None:
    answer = keep(client, **change)
    assert answer.status_code in (404, 422)
    problem = refused(answer, answer.status_code, field)
    assert words in f"{problem['detail']} {problem.get('allowed', '')}"


def test_one_that_is_too_small_is_not_kept(client: TestClient) -> None:
    small = {"resistors": [{"value": "620", "watts": "5 W"}, *CHAIN["resistors"][1:]]}
    assert "too small" in refused(keep(client, **small), 422)["detail"]


def test_a_bad_room_is_refused_beside_its_field_while_looking(client: TestClient) -> None:
    refused(client.post("/api/jobs/1/resistors", json={"room": "warm"}), 422, "room")


def test_speeds_no_resistor_gives_are_an_answer(client: TestClient) -> None:
    assert "start from rest" in asked(client, wanted_rpm=[15, 330])["note"]
    assert asked(client, wanted_rpm=[15, 330])["offers"] == []
    assert asked(client, wanted_rpm=[])["note"].startswith("First say in Aim")


def test_a_resistor_of_the_shelf_goes_first_and_is_counted(client: TestClient) -> None:
    value = asked(client)["offers"][0]["design"]["resistors"][-1]["value"]
    part = {"part_class": "wirewound", "nominal": value, "rating": "50", "count": "1", "tolerance": "5 %"}
    added = client.post("/api/shelf/parts", json=part)
    assert added.status_code == 201, added.text
    (mine,) = [
        p
        for p in client.get("/api/shelf").json()["parts"]
        if p["part_class"] == "wirewound" and "50" in p["rating"]
    ]
    found = [o for o in asked(client)["offers"] if o["from_shelf"]]
    assert found
    assert any(r["shelf_id"] == mine["id"] for r in found[0]["design"]["resistors"])
    assert (
        keep(
            client, resistors=found[0]["design"]["resistors"], scheme=found[0]["design"]["scheme"]
        ).status_code
        == 201
    )
    assert any(a["part_id"] == mine["id"] for a in page(client)["aside"])


def test_the_record_has_heat_and_distances(client: TestClient) -> None:
    assert keep(client).status_code == 201
    paper = client.get("/api/jobs/1/report.html").text
    assert "Heat and energy" in paper
    assert "clear beside it" in paper
    assert "burn what touches them" in paper
