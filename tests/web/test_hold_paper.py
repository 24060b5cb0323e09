"""What is held and the order of work, on paper: words as on the screen, the device beside what was read off it."""

from __future__ import annotations

from fastapi.testclient import TestClient

from tests.web.test_api import page
from tests.web.test_hold import BUNK, EXHAUST, RACK, say


def paper(client: TestClient, job: int) -> str:
    found = client.get(f"/api/jobs/{job}/report.html")
    assert found.status_code == 200
    return found.text


def test_a_loop_and_its_order_stand_on_paper(client: TestClient) -> None:
    assert say(client, "look", "free", "yes").status_code == 201
    assert say(client, "look", "earth", "0.06").status_code == 201
    assert say(client, "dead", "enable-open", "open").status_code == 201
    text = paper(client, EXHAUST)
    assert "What it holds by itself" in text
    assert "settled within 2 % after" in text
    assert "1 of 10 lines done" in text
    assert "1. look, good; guard on, blades free, clamps tight: yes (expected yes)" in text
    assert "housing to protective earth: 0.06 Ω (expected at most 0.1 Ω)" in text
    # The reading is filed under its line, in its words, not under a key.
    assert "plan:" not in text
    assert "dead checks, enable and 24 V, contact EN open" in text


def test_a_failed_line_is_said_on_paper(client: TestClient) -> None:
    assert say(client, "look", "earth", "3").status_code == 201
    text = paper(client, EXHAUST)
    assert "1. look, not good" in text
    assert "2. dead checks, waits" in text
    assert "stopped at “look”" in text


def test_a_thermal_curve_stands_with_its_table(client: TestClient) -> None:
    text = paper(client, RACK)
    assert "What it holds by itself" in text
    assert "duty on the lead, %" in text
    assert page(client, RACK)["job"]["version"] >= 1


def test_what_holds_nothing_says_nothing_of_it(client: TestClient) -> None:
    text = paper(client, BUNK)
    assert "What it holds" not in text
    assert "Order of work" not in text
