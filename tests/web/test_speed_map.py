"""A map of speeds over duty, typed or out of a file."""

from __future__ import annotations

from typing import Any

import pytest
from fastapi.testclient import TestClient

from tests.web.test_api import page, refused

RING = 8
PAIRS = "20 %  600\n60 %  1500\n100 %  2400"


def read(client: TestClient, data: str | bytes, job: int = RING) -> Any:
    return client.post(
        f"/api/jobs/{job}/commanded/import", content=data, headers={"content-type": "text/csv"}
    )


@pytest.mark.parametrize(
    "data",
    [
        "duty (%),speed (rpm)\n20,600\n60,1500\n100,2400\n",
        "Speed;Duty\n600 rpm;0,2\n1500 rpm;0,6\n2400 rpm;1\n",
        "20;600\n60;1500\n100;2400",
        "\ufeffpwm\trpm\tnote\n0.2\t600\tquiet\n0.6\t1500\t\n1\t2400\t\n".encode(),
        "fan,PWM,rpm\nA,20 %,600\nA,60 %,1500\n,,\nA,100 %,2400\n",
    ],
)
def test_a_file_is_read_as_it_would_be_typed(client: TestClient, data: str | bytes) -> None:
    assert read(client, data).json() == {"pairs": PAIRS}


@pytest.mark.parametrize(
    ("data", "said"),
    [
        ("", "empty"),
        ("time,volts\n0,1\n1,2\n", "no table of speeds"),
        ("duty,speed\n140 %,900\n", "line 1: a duty lies between"),
        ("duty,speed\n20,fast\n", "line 1"),
        ("duty,speed\n50,900\n50,905\n", "two different"),
        (b"\x00\x01", "no text"),
        ("just words", "one column"),
    ],
)
def test_a_file_of_another_kind_is_refused_with_the_reason(
    client: TestClient, data: str | bytes, said: str
) -> None:
    problem = refused(read(client, data), 422, "file")
    assert said in problem["detail"]


def test_a_map_in_the_job_draws_its_speeds_until_the_fan_is_read(client: TestClient) -> None:
    job = page(client, 10)["job"]
    assert read(client, PAIRS, 999).status_code == 404
    version = page(client, RING)["job"]["version"]
    body = {"version": version, "who": "R. Fell", "commanded": {"pairs": PAIRS}}
    said = client.patch(f"/api/jobs/{RING}", json=body).json()
    assert said["job"]["commanded"]["duties"] == pytest.approx([0.2, 0.6, 1.0])
    # Readings of this very fan count before them.
    assert "readings" in client.get(f"/api/jobs/{RING}/commanded").json()["grounds"]
    assert job["version"] == page(client, 10)["job"]["version"]


def test_a_fan_without_a_control_lead_is_asked_nothing_of_one(client: TestClient) -> None:
    heater = client.get("/api/jobs/10/commanded").json()
    assert (heater["grounds"], heater["polarity"], heater["moved"]) == ("", "", [])
    assert client.get(f"/api/jobs/{RING}/commanded").json()["grounds"]
    assert page(client, 10)["sweep"] is None
