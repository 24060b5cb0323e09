"""A sweep of frequencies on a control lead: places, readings, verdicts, taken back, out and in again."""

from __future__ import annotations

from typing import Any

from fastapi.testclient import TestClient

from tests.web.test_api import page, refused

RING, BUNK = 8, 1


def begin(client: TestClient, job: int = RING) -> Any:
    return client.post(f"/api/jobs/{job}/sweep", json={"who": "R. Fell"})


def read(client: TestClient, run: dict[str, Any], text: str) -> Any:
    body = {"quantity": "speed_rpm", "text": text, "who": "R. Fell", "run": run["id"],
            "supersedes": run["readings"][0]["reading_id"]}  # fmt: skip
    return client.post(f"/api/jobs/{RING}/readings", json=body)


def rows(client: TestClient) -> dict[str, dict[str, Any]]:
    return {r["frequency_text"]: r for r in page(client, RING)["sweep"]["rows"]}


def test_a_sweep_is_begun_read_and_told(client: TestClient) -> None:
    assert page(client, BUNK)["sweep"] is None
    refused(begin(client, BUNK), 422, "what")
    assert page(client, RING)["sweep"]["rows"] == []
    runs = len(page(client, RING)["runs"])
    said = begin(client)
    assert said.status_code == 201
    # Places of a sweep stand apart from the other runs, and beginning twice makes them once.
    assert begin(client).json()["sweep"]["duties"] == ["30 %", "50 %", "70 %"]
    assert len(page(client, RING)["runs"]) == runs
    assert [len(r["runs"]) for r in rows(client).values()] == [3] * 8
    for hertz, scale in (("20 kHz", 1.0), ("25 kHz", 1.0), ("10 kHz", 0.9)):
        for run, rpm in zip(rows(client)[hertz]["runs"], (860, 1380, 1830), strict=True):
            assert read(client, run, f"{scale * rpm:.0f} rpm").status_code == 201
    told = rows(client)
    assert [told[f]["verdict"] for f in ("10 kHz", "20 kHz", "25 kHz", "30 kHz")] == [
        "off",
        "good",
        "good",
        "unread",
    ]
    assert told["10 kHz"]["off_text"] == "10.0 %"
    assert page(client, RING)["sweep"]["words"].startswith("takes 20, 25 kHz rightly")
    # A wrong one is corrected where it stands.
    assert read(client, told["10 kHz"]["runs"][0], "fast").status_code == 422
    for run, rpm in zip(told["10 kHz"]["runs"], (860, 1380, 1830), strict=True):
        read(client, run, str(rpm))
    assert rows(client)["10 kHz"]["verdict"] == "good"
    # Empty places are put away; what was read stays.
    left = client.delete(f"/api/jobs/{RING}/sweep").json()["sweep"]
    assert [r["frequency_text"] for r in left["rows"]] == ["10 kHz", "20 kHz", "25 kHz"]


def test_a_sweep_goes_out_and_comes_in_with_its_job(client: TestClient) -> None:
    begin(client)
    for hertz in ("20 kHz", "25 kHz"):
        for run, rpm in zip(rows(client)[hertz]["runs"], (860, 1380, 1830), strict=True):
            read(client, run, str(rpm))
    out = client.get(f"/api/jobs/{RING}/bundle.json")
    back = client.post("/api/jobs/import", json=out.json())
    assert back.status_code == 201, back.text
    copy = back.json()["job"]["id"]
    there, here = page(client, copy)["sweep"], page(client, RING)["sweep"]
    assert there["words"] == here["words"]
    assert [r["verdict"] for r in there["rows"]] == [r["verdict"] for r in here["rows"]]
    twice = out.json()
    twice["runs"].append(next(r for r in twice["runs"] if r["frequency_hz"] == 25e3))
    refused(client.post("/api/jobs/import", json=twice), 422, "file")
    odd = out.json()
    odd["runs"][-1] |= {"what": "voltage", "value": 9.0, "frequency_hz": 25e3}
    refused(client.post("/api/jobs/import", json=odd), 422, "file")
