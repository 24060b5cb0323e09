"""Identify and Measure through the door: findings, gates, runs, meters, overrides, undo, bundles."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import pytest
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from fenwit.store import designs, jobs, readings
from fenwit.store.database import Database
from fenwit.web.page.asked import MEASURED, NAMEPLATE, PROVED
from tests.web.test_api import CSV, JSON, WHO, new_job, page, refused

HALL, HOOD, BAY = 4, 5, 6
REST = {"k1:k5": "21.1", "k2:k3": "84.2", "k2:k4": "151.5", "k2:k5": "142.4", "k3:k4": "67.5", "k3:k5": "58.4",
        "k4:k5": "9.3"}  # fmt: skip


def found(client: TestClient, job: int) -> Any:
    answer = client.get(f"/api/jobs/{job}/identify")
    assert answer.status_code == 200, answer.text[:300]
    return answer.json()


def take(client: TestClient, job: int, quantity: str, text: str, **more: Any) -> Any:
    return client.post(f"/api/jobs/{job}/readings", json={"quantity": quantity, "text": text, **more})


def find(client: TestClient, job: int, **findings: Any) -> Any:
    version = page(client, job)["fan"]["version"]
    return client.patch(f"/api/jobs/{job}/fan", json={"version": version, "findings": findings})


def find_leads_of_hall(client: TestClient) -> None:
    for pair, text in REST.items():
        assert take(client, HALL, f"lead_ohm:{pair}", text).status_code == 201


def test_the_air_handlers_leads_are_found_and_its_taps_stand_on_the_staff(client: TestClient) -> None:
    begun = found(client, HALL)
    assert begun["taps"] is None
    assert "beyond doubt" in begun["waits"]
    assert "E is not joined" in begun["leads"]["next_text"]
    find_leads_of_hall(client)
    shown = found(client, HALL)
    roles = {r["lead"]: r["role"] for r in shown["leads"]["roles"]}
    assert roles == {"A": "low", "B": "capacitor", "C": "common", "D": "medium", "E": "high"}
    assert shown["leads"]["next_text"] == ""
    rows = shown["taps"]["rows"]
    assert [r["lead"] for r in rows] == ["E", "D", "A"]
    for i in range(2):
        speeds = [r["speeds"][i]["speed"]["value"] for r in rows]
        assert speeds == sorted(speeds, reverse=True)
    marks = page(client, HALL)["frame"]["taps"]
    assert [m["lead"] for m in marks] == ["E", "D", "A"]
    # Winding ohms nobody read by themselves come from the sheet.
    assert any(
        c["quantity"] == "main_resistance_ohm" for c in client.get("/api/jobs/4/study").json()["checks"]
    )
    # Where the start branch hangs is told by the reader.
    assert find(client, HALL, start_branch="whole-supply").status_code == 200
    assert found(client, HALL)["taps"]["branches"] == ["whole-supply"]
    refused(find(client, HALL, start_branch="moon"), 422, "start_branch")
    refused(find(client, HALL, gauge=["thick"]), 422)
    assert find(client, HALL, gauge=["0.8", "1"]).status_code == 200
    assert "gauge factors" in found(client, HALL)["taps"]["note"]


def test_a_slip_on_the_lead_sheet_is_named(client: TestClient) -> None:
    find_leads_of_hall(client)
    standing = {w["quantity"]: w["reading_id"] for w in page(client, HALL)["sheet_readings"]}
    take(client, HALL, "lead_ohm:k2:k4", "1515", supersedes=standing["lead_ohm:k2:k4"])
    said = found(client, HALL)["leads"]
    assert said["contradictions"]
    assert "B" in said["contradictions"][0]
    assert "D" in said["contradictions"][0]
    assert [c for c in said["cells"] if c["bad"]]


def test_low_insulation_stops_the_job(client: TestClient) -> None:
    standing = {w["quantity"]: w["reading_id"] for w in page(client, HALL)["sheet_readings"]}
    answer = take(client, HALL, "frame_ohm:k2", "300k", supersedes=standing["frame_ohm:k2"])
    assert answer.status_code == 201
    assert "not to be powered" in found(client, HALL)["leads"]["stop"]
    # No prediction and no live stage until a better reading stands in its place.
    assert "insulation to frame is down" in page(client, HALL)["frame"]["refused"]
    assert [s["key"] for s in page(client, HALL)["stages"]] == ["identify"]
    again = {w["quantity"]: w["reading_id"] for w in page(client, HALL)["sheet_readings"]}
    take(client, HALL, "frame_ohm:k2", "open", supersedes=again["frame_ohm:k2"])
    assert page(client, HALL)["frame"]["refused"] == ""


def test_leads_keep_their_readings_when_renamed_and_undo_brings_names_back(client: TestClient) -> None:
    leads = page(client, HALL)["findings"]["leads"]
    renamed = [{**lead, "name": f"{i}"} for i, lead in enumerate(leads, start=1)]
    assert find(client, HALL, leads=renamed).status_code == 200
    now = page(client, HALL)
    assert {w["label"]: w["text"] for w in now["sheet_readings"]}["1 to 2"] == "163.3"
    client.post(f"/api/jobs/{HALL}/undo", json={})
    assert page(client, HALL)["findings"]["leads"] == leads
    for bad in ([{"name": "A"}, {"name": "A"}], [{"name": " "}], [{"name": str(i)} for i in range(9)]):
        refused(find(client, HALL, leads=bad), 422)
    refused(take(client, HALL, "lead_ohm:k1:k9", "3"), 422, "quantity")
    refused(take(client, HALL, "lead_ohm:k1:k5", "fat"), 422, "lead_ohm:k1:k5")


def test_leads_are_gated_until_the_power_is_off(client: TestClient) -> None:
    job = new_job(client)["job"]["id"]
    find(client, job, leads=[{"name": "A"}, {"name": "B"}])
    keys = [lead["key"] for lead in page(client, job)["findings"]["leads"]]
    quantity = f"lead_ohm:{keys[0]}:{keys[1]}"
    refused(take(client, job, quantity, "46"), 403)
    client.post(f"/api/jobs/{job}/confirmations", json={"caution": "isolate", "who": "R. Fell", "text": ""})
    gates = [w["gated_by"] for w in page(client, job)["sheet_readings"]]
    for key in {g for g in gates if g}:
        client.post(f"/api/jobs/{job}/confirmations", json={"caution": key, "who": "R. Fell", "text": "1V"})
    assert take(client, job, quantity, "46 46.4").status_code == 201
    assert page(client, job)["sheet_readings"][0]["text"] == "46.2"


def test_evidence_ranks_and_an_overrule_keeps_its_reason(client: TestClient) -> None:
    seen = found(client, HOOD)["evidence"]
    assert seen["kinds"][0]["kind"] == "capacitor-start"
    assert "run capacitor" in seen["next_text"]
    find(client, HOOD, observed={seen["next_key"]: True, "hump-capacitor": False, "click": False})
    now = found(client, HOOD)["evidence"]
    assert now["kinds"][0]["kind"] != "capacitor-start"
    assert now["overruled"]
    find(client, HOOD, kind_reason="label says capacitor-start; switch seen with the lid off")
    assert "lid off" in page(client, HOOD)["findings"]["kind_reason"]
    find(client, HOOD, observed={"click": None})
    assert "click" not in page(client, HOOD)["findings"]["observed"]
    refused(find(client, HOOD, observed={"smell": True}), 422)
    refused(find(client, HOOD, duty="rocket"), 422)


def test_a_started_motor_is_refused_with_its_switch_speed_and_nobody_may_answer(client: TestClient) -> None:
    assert "start switch" in page(client, HOOD)["frame"]["refused"]
    rows = {r["method"]: r for r in found(client, HOOD)["suited"]}
    assert rows["phase-angle"]["never"]
    assert any("1125 rpm" in text for text in rows["phase-angle"]["computed"])  # 75 % of 1500
    answer = client.post(
        f"/api/jobs/{HOOD}/overrides",
        json={"method": "phase-angle", "reason": "the cook insists", "who": "R. Fell"},
    )
    assert "nobody may answer" in refused(answer, 422, "method")["detail"]


def test_a_refusal_may_be_answered_for_by_name_and_reason(client: TestClient) -> None:
    rows = found(client, 1)["suited"]
    method = next(r["method"] for r in rows if r["answer"] == "refused" and not r["never"])
    body = {"method": method, "reason": "drive of another trade is fitted and signed for", "who": "M. Orrin"}
    refused(client.post("/api/jobs/1/overrides", json={**body, "who": ""}), 422, "who")
    refused(client.post("/api/jobs/1/overrides", json={**body, "reason": "eh"}), 422, "reason")
    refused(client.post("/api/jobs/1/overrides", json={**body, "method": "magic"}), 422, "method")
    refused(client.post("/api/jobs/1/overrides", json={**body, "method": "series-capacitor"}), 422, "method")
    assert client.post("/api/jobs/1/overrides", json=body).status_code == 201
    (answered,) = page(client)["answered"]
    assert (answered["method"], answered["who"]) == (method, "M. Orrin")
    assert next(r["overridden"] for r in found(client, 1)["suited"] if r["method"] == method)
    # A duty that forbids it takes everything back.
    find(client, 1, duty="pump")
    assert all(r["never"] for r in found(client, 1)["suited"])
    refused(client.post("/api/jobs/1/overrides", json=body), 422, "method")


def test_the_weak_block_its_history_and_the_spare(client: TestClient) -> None:
    shown = client.get(f"/api/jobs/{BAY}/capacitors", params={"complaint": "all-slow"}).json()
    section = {s["name"]: s for s in shown["sections"]}
    assert section["shared"]["verdict"] == "out"
    assert [section[n]["verdict"] for n in ("run", "low", "medium")] == ["good"] * 3
    assert section["shared"]["drift"]["leaves_day"] is not None
    assert "sinks" in section["shared"]["drift"]["words"]
    assert len(section["shared"]["drift"]["points"]) == 5
    assert shown["suspects"][0]["name"] == "shared"
    assert all(s["change_text"].startswith(("-", "−")) for s in shown["steps"])
    best = shown["connections"][0]
    assert {lead["old"]: lead["new"] for lead in best["leads"]} == {
        "m": "a",
        "x": "b",
        "1": "d",
        "2": "e",
        "s": "c",
    }


def test_a_section_is_read_only_after_it_was_emptied(client: TestClient) -> None:
    block = {
        "sections": [
            {"name": "run", "lead_a": "m", "lead_b": "x", "rated": "2u5"},
            {"name": "A", "lead_a": "m", "lead_b": "1", "rated": "2u7"},
        ],
        "motor_lead": "m",
        "auxiliary_lead": "x",
        "steps": [{"name": "1", "line": "1"}],
    }
    assert find(client, 1, block=block).status_code == 200
    # The run section is the run capacitor, which was emptied for the ohms: one part is asked for once.
    keys = [c["key"] for c in page(client)["frame"]["cautions"]]
    assert "stored-charge" in keys
    assert "stored-charge:run" not in keys
    gates = {w["quantity"]: w["gated_by"] for w in page(client)["sheet_readings"]}
    assert gates["section_f:run"] is None
    assert gates["section_f:A"] == "stored-charge:A"
    refused(take(client, 1, "section_f:A", "2u4"), 403)
    body = {"caution": "stored-charge:A", "who": "R. Fell", "text": "60V"}
    refused(client.post("/api/jobs/1/confirmations", json=body), 422)
    assert client.post("/api/jobs/1/confirmations", json={**body, "text": "2"}).status_code == 201
    assert page(client)["confirmed"][0]["text"] == "2 V"
    for text, verdict in (("2u68", "good"), ("open", "open"), ("short", "short"), ("2u58", "watch")):
        standing = {w["quantity"]: w["reading_id"] for w in page(client)["sheet_readings"]}
        answer = take(client, 1, "section_f:A", text, supersedes=standing["section_f:A"])
        assert answer.status_code == 201
        shown = client.get("/api/jobs/1/capacitors").json()["sections"][1]
        assert shown["verdict"] == verdict, text
    # What a meter cannot show is no finding of an open section.
    refused(take(client, 1, "section_f:A", "OL", supersedes=standing["section_f:A"]), 422)


@pytest.mark.parametrize(
    "block",
    [
        {"sections": [], "motor_lead": "m"},
        {"sections": [{"name": "a", "lead_a": "m", "lead_b": "m", "rated": "2u5"}], "motor_lead": "m"},
        {"sections": [{"name": "a", "lead_a": "m", "lead_b": "x", "rated": "blue"}], "motor_lead": "m"},
        {"sections": [{"name": "a", "lead_a": "m", "lead_b": "x", "rated": "2u5"}], "motor_lead": "q"},
        {
            "sections": [{"name": "a", "lead_a": "m", "lead_b": "x", "rated": "2u5"}],
            "motor_lead": "m",
            "steps": [{"name": "1", "line": "q"}],
        },
        {
            "sections": [{"name": "a", "lead_a": "m", "lead_b": "x", "rated": "2u5", "part_class": "jelly"}],
            "motor_lead": "m",
        },
    ],
)
def test_a_block_that_cannot_be_is_refused(client: TestClient, block: dict[str, Any]) -> None:
    before = page(client)["findings"]
    refused(find(client, 1, block=block), 422)
    assert page(client)["findings"] == before


def run(client: TestClient, what: str, text: str = "", job: int = 1) -> Any:
    return client.post(f"/api/jobs/{job}/runs", json={"what": what, "text": text, "who": "R. Fell"})


def band(shown: Any, step: int = 2) -> float:
    mark = shown["frame"]["marks"][step - 1]["predicted"]
    return float(mark["high"] - mark["low"])


def test_a_run_behind_a_capacitor_narrows_every_band(client: TestClient) -> None:
    before = page(client)
    assert run(client, "capacitor", "2u7").status_code == 201
    (shown,) = page(client)["runs"]
    assert shown["label"] == "2.7 µF in the line"
    assert shown["empty"]
    answer = take(client, 1, "speed_rpm", "199", run=shown["id"])
    assert answer.status_code == 201
    assert band(answer.json()) < 0.5 * band(before)
    study = client.get("/api/jobs/1/study", params={"step": 2}).json()
    assert any(c["run"] == shown["id"] and not c["odd"] for c in study["checks"])
    widths = [s["high_rpm"] - s["low_rpm"] for s in study["shrinks"]]
    assert widths[-1] == min(widths)
    assert widths[0] > 2 * widths[-1]
    # Full speed still is what was read at full speed, and undo takes the run's reading back.
    assert {w["quantity"]: w["text"] for w in page(client)["wanted_readings"]}["speed_rpm"] == "330 rpm"
    client.post("/api/jobs/1/undo", json={})
    assert band(page(client)) == pytest.approx(band(before))


def test_the_next_readings_say_what_they_would_give(client: TestClient) -> None:
    shown = client.get("/api/jobs/1/study").json()
    assert 1 <= len(shown["next"]) <= 3
    assert all("±" in n["gives"] for n in shown["next"])
    assert shown["plot"]["points"]
    assert {c["label"] for c in shown["plot"]["motors"]} >= {"full", "step 1"}


@pytest.mark.parametrize(
    ("what", "text", "field"),
    [
        ("capacitor", "", "text"),
        ("capacitor", "2 Ω", "text"),
        ("capacitor", "🧲", "text"),
        ("resistor", "-3", "text"),
        ("voltage", "9000", "text"),
        ("anvil", "3", "what"),
    ],
)
def test_a_run_that_cannot_be_is_refused(client: TestClient, what: str, text: str, field: str) -> None:
    refused(run(client, what, text), 422, field)
    assert page(client)["runs"] == []


def test_runs_are_put_away_only_while_empty_and_belong_to_their_job(client: TestClient) -> None:
    for what, text in (("voltage", "200V"), ("bare-shaft", ""), ("locked", ""), ("direct", "")):
        assert run(client, what, text).status_code == 201
    first, bare, locked, _ = page(client)["runs"]
    assert [r["quantity"] for r in locked["readings"]] == ["supply_voltage_v", "locked_rotor_current_a"]
    assert take(client, 1, "speed_rpm", "373", run=bare["id"]).status_code == 201
    refused(take(client, 2, "speed_rpm", "300", run=first["id"]), 422, "run")
    refused(take(client, 1, "main_resistance_ohm", "260", run=first["id"]), 422, "quantity")
    refused(take(client, 1, "speed_rpm", "380", run=first["id"]), 422)  # above synchronous
    assert client.delete(f"/api/jobs/1/runs/{first['id']}").status_code == 200
    assert first["id"] not in [r["id"] for r in page(client)["runs"]]
    refused(client.delete(f"/api/jobs/1/runs/{bare['id']}"), 422, "run")
    refused(client.delete("/api/jobs/1/runs/999"), 404)
    refused(take(client, 1, "speed_rpm", "300", run=first["id"]), 422, "run")


def test_a_reading_set_aside_is_kept_but_not_believed(client: TestClient) -> None:
    standing = {w["quantity"]: w["reading_id"] for w in page(client)["wanted_readings"]}
    before = band(page(client))
    answer = take(
        client, 1, "capacitor_voltage_v", "415V", supersedes=standing["capacitor_voltage_v"], aside=True
    )
    assert answer.status_code == 201
    row = next(w for w in answer.json()["wanted_readings"] if w["quantity"] == "capacitor_voltage_v")
    assert row["aside"]
    assert row["text"] == "415 V"
    assert band(answer.json()) > before
    assert "capacitor_voltage_v" not in [
        c["quantity"] for c in client.get("/api/jobs/1/study").json()["checks"]
    ]
    text = client.get("/api/jobs/1/readings.csv").text
    assert text.splitlines()[-1].endswith(";yes;;yes")
    preview = client.post("/api/jobs/1/readings/import", content=text.encode(), headers=CSV).json()
    assert preview["rows"][-1]["problem"]


def test_a_meters_data_sheet_moves_the_bands(client: TestClient) -> None:
    meters = {m["name"]: m for m in client.get("/api/instruments").json()}
    assert meters["old clamp"]["text"] == "current; average-responding"
    assert meters["light tachometer"]["text"] == "speed"
    standing = {w["quantity"]: w["reading_id"] for w in page(client)["wanted_readings"]}
    answer = take(
        client,
        1,
        "line_current_a",
        "318m",
        supersedes=standing["line_current_a"],
        instrument=meters["old clamp"]["id"],
    )
    row = next(w for w in answer.json()["wanted_readings"] if w["quantity"] == "line_current_a")
    assert row["uncertainty"]
    assert float(row["uncertainty"].strip("± %")) > 10  # five digits of 10 mA on 318 mA
    # A meter that cannot read this says nothing of it.
    answer = take(
        client, 1, "speed_rpm", "330", supersedes=standing["speed_rpm"], instrument=meters["old clamp"]["id"]
    )
    assert (
        next(w for w in answer.json()["wanted_readings"] if w["quantity"] == "speed_rpm")["uncertainty"] == ""
    )


def test_instruments_are_entered_changed_and_put_away(client: TestClient) -> None:
    row = {"quantity": "voltage", "up_to": "600V", "percent": "0.8", "digits": "3", "resolution": "0.1V"}
    answer = client.post("/api/instruments", json={"name": "loft meter", "ranges": [row]})
    assert answer.status_code == 201
    meter = next(m for m in answer.json() if m["name"] == "loft meter")
    body = {"version": meter["version"], "name": "loft meter", "ranges": [row], "true_rms": False}
    changed = client.put(f"/api/instruments/{meter['id']}", json=body)
    assert "average-responding" in next(m for m in changed.json() if m["id"] == meter["id"])["text"]
    refused(client.put(f"/api/instruments/{meter['id']}", json=body), 409)
    for wrong in ({"percent": "lots"}, {"up_to": "-3"}, {"quantity": "smell"}, {"resolution": "9kV"}):
        refused(client.post("/api/instruments", json={"name": "x", "ranges": [{**row, **wrong}]}), 422)
    gone = client.put(
        f"/api/instruments/{meter['id']}", json={**body, "version": meter["version"] + 1, "gone": True}
    )
    assert "loft meter" not in [m["name"] for m in gone.json()]
    refused(client.put("/api/instruments/9999", json=body), 404)
    refused(take(client, 1, "auxiliary_current_a", "1", instrument=9999), 404)


def test_warm_ohms_and_run_up_are_worked_out(client: TestClient) -> None:
    take(client, 1, "cold_temperature_c", "21")
    assert take(client, 1, "hot_resistance_ohm", "318").status_code == 201
    assert take(client, 1, "run_up_s", "9.5").status_code == 201
    shown = client.get("/api/jobs/1/study").json()
    assert "K" in shown["rise_text"]
    assert "kg·m²" in shown["inertia_text"]
    standing = {w["quantity"]: w["reading_id"] for w in page(client)["wanted_readings"]}
    for text in ("120", "2k"):
        refused(
            take(client, 1, "hot_resistance_ohm", text, supersedes=standing["hot_resistance_ohm"]),
            422,
            "hot_resistance_ohm",
        )


def test_a_bundle_carries_findings_runs_and_answers(client: TestClient) -> None:
    find_leads_of_hall(client)
    run(client, "capacitor", "4u7", HALL)
    take(client, HALL, "speed_rpm", "900", run=page(client, HALL)["runs"][0]["id"])
    before = page(client, HALL)
    data = client.get(f"/api/jobs/{HALL}/bundle.json").content
    copy = client.post("/api/jobs/import", content=data, headers=JSON).json()["job"]["id"]
    after = page(client, copy)
    assert after["findings"] == before["findings"]
    assert [r["label"] for r in after["runs"]] == ["4.7 µF in the line"]
    assert {w["label"]: w["text"] for w in after["sheet_readings"]} == {
        w["label"]: w["text"] for w in before["sheet_readings"]
    }
    assert after["frame"]["taps"] == before["frame"]["taps"]
    assert (
        client.get(f"/api/jobs/{copy}/bundle.json").json()["readings"]
        == client.get(f"/api/jobs/{HALL}/bundle.json").json()["readings"]
    )


def test_the_record_tells_the_next_person_what_was_found(client: TestClient) -> None:
    find_leads_of_hall(client)
    html = client.get(f"/api/jobs/{HALL}/report.html").text
    assert "A low, B capacitor, C common, D medium, E high" in html
    assert "C to E" in html
    html = client.get(f"/api/jobs/{BAY}/report.html").text
    assert "section shared, m–s" in html
    assert "replace it" in html


def test_what_is_not_there_is_said(client: TestClient) -> None:
    for path in ("identify", "capacitors", "study"):
        assert client.get(f"/api/jobs/999/{path}").status_code == 404
    for job in range(1, 7):
        for path in ("identify", "capacitors", "study"):
            assert client.get(f"/api/jobs/{job}/{path}").status_code == 200
    empty = new_job(client)["job"]["id"]
    for path in ("identify", "capacitors", "study"):
        assert client.get(f"/api/jobs/{empty}/{path}").status_code == 200


word = st.one_of(
    st.sampled_from(["", "m", "x", "1", "2u5", "10%", "open", "-1", "m+x", "1=2", "∞", "1e400"]),
    st.text(max_size=6),
)
section = st.fixed_dictionaries(
    {"name": word, "lead_a": word, "lead_b": word, "rated": word}, optional={"tolerance": word}
)
findings = st.fixed_dictionaries(
    {},
    optional={
        "observed": st.dictionaries(word, st.one_of(st.none(), st.booleans()), max_size=2),
        "leads": st.lists(
            st.fixed_dictionaries({"name": word}, optional={"key": word, "colour": word}), max_size=4
        ),
        "probe": word,
        "gauge": st.lists(word, max_size=3),
        "switch_share": word,
        "spare": st.lists(section, max_size=3),
        "block": st.fixed_dictionaries(
            {"sections": st.lists(section, max_size=3), "motor_lead": word},
            optional={
                "auxiliary_lead": word,
                "steps": st.lists(
                    st.fixed_dictionaries({"name": word, "line": word, "joined": word}), max_size=3
                ),
            },
        ),
    },
)


@settings(max_examples=80, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(findings)
def test_whatever_is_typed_as_findings_is_taken_or_refused_and_then_computed(
    client: TestClient, typed: dict[str, Any]
) -> None:
    answer = find(client, 1, **typed)
    assert answer.status_code in (200, 422), answer.text[:300]
    for path in ("", "/identify", "/capacitors", "/capacitors?complaint=all-slow", "/study", "/report.html"):
        assert client.get(f"/api/jobs/1{path}").status_code == 200, (path, typed)


@settings(max_examples=60, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.lists(st.tuples(st.integers(0, 9), st.floats(0.0, 400.0)), max_size=6), st.booleans())
def test_any_ohms_between_leads_are_answered(
    client: TestClient, read: list[tuple[int, float]], wet: bool
) -> None:
    now = page(client, HALL)
    for i, ohm in read:
        wanted = [w for w in now["sheet_readings"] if w["quantity"].startswith("lead_ohm")][i]
        answer = take(client, HALL, wanted["quantity"], f"{ohm:.1f}", supersedes=wanted["reading_id"])
        assert answer.status_code == 201
        now = answer.json()
    shown = client.get(f"/api/jobs/{HALL}/identify")
    assert shown.status_code == 200
    assert sum(t["likelihood"] for t in shown.json()["leads"]["trees"]) <= 1.001


def test_door_and_database_agree_on_every_quantity(database: Database) -> None:
    """What a field takes at its edges the database takes too: the walk goes over the catalogue, none can be left out."""
    job = jobs.add(database, name="Test fan", place="", wish="")
    design = designs.add(
        database, job.id, after_revision=0, regulator={"firing_deg": [90.0]}, kept=None, core_version="5", who=""
    )  # fmt: skip
    common: dict[str, Any] = {"fan_id": job.fan_id, "job_id": job.id, "typed": "x", "who": WHO}
    for asked, value in [(a, v) for a in MEASURED for v in (a.dimension.low, a.dimension.high)]:
        newest = readings.newest(database, job.id, asked.field, None, None)
        readings.add(database, quantity=asked.field, value=value, supersedes=newest and newest.id, **common)
    for name, quantity in PROVED.items():
        for value in (quantity.dimension.low, quantity.dimension.high):
            newest = readings.newest(database, job.id, name, 1, design.id)
            readings.add(
                database, quantity=name, value=value, supersedes=newest and newest.id, step=1, design_id=design.id,
                **common,
            )  # fmt: skip
    for asked in NAMEPLATE:
        for value in (max(asked.dimension.low, 1e-9), asked.dimension.high):
            fan = jobs.get_fan(database, job.fan_id)
            jobs.save_fan(
                database, replace(fan, **{asked.field: int(value) if asked.field == "poles" else value})
            )


def test_a_room_below_freezing_is_kept(client: TestClient) -> None:
    for text in ("-7 °C", "-40"):
        number = new_job(client)["job"]["id"]
        assert take(client, number, "cold_temperature_c", text, who=WHO).status_code == 201
    refused(take(client, number, "cold_temperature_c", "-41 °C", who=WHO), 422, "cold_temperature_c")


def test_no_instrument_and_no_run_is_refused_by_the_database_alone(client: TestClient) -> None:
    number = new_job(client)["job"]["id"]
    for what, texts in {
        "capacitor": ("100p", "1000u"),
        "resistor": ("0R001", "20M"),
        "voltage": ("1 V", "1000 V"),
    }.items():
        for text in texts:
            answer = client.post(f"/api/jobs/{number}/runs", json={"what": what, "text": text, "who": WHO})
            assert answer.status_code in (201, 422), (what, text, answer.text)


def test_every_ohm_reading_says_how_warm_the_winding_was(client: TestClient) -> None:
    """Unsaid is cold; warm ohms are those of a winding that has run, and make a smaller motor of the same number."""

    def row() -> Any:
        return next(w for w in page(client)["wanted_readings"] if w["quantity"] == "main_resistance_ohm")

    def ohms(text: str) -> float:
        body = {"quantity": "main_resistance_ohm", "text": text, "supersedes": row()["reading_id"]}
        answer = client.post("/api/jobs/1/readings", json=body)
        assert answer.status_code == 201, answer.text
        checks = client.get("/api/jobs/1/study").json()["checks"]
        return float(next(c["sigmas"] for c in checks if c["quantity"] == "main_resistance_ohm"))

    assert row()["winding"] == "cold"
    cold = ohms("215")
    assert ohms("215 cold") == cold
    assert row()["winding"] == "cold"
    warm = ohms("215 warm")
    assert (row()["winding"], row()["text"]) == ("warm", "215 Ω warm")
    assert warm != cold
    # Two warm readings tell nothing of the rise; one at a temperature does.
    take(client, 1, "hot_resistance_ohm", "225")
    assert client.get("/api/jobs/1/study").json()["rise_text"] == ""
    ohms("215 at 60 °C")
    assert row()["winding"] == "at 60 °C"
    # By hand: 225/215 · (234.5 + 60) − 234.5 = 73.7 °C, 53.7 K over a room of 20 °C.
    assert client.get("/api/jobs/1/study").json()["rise_text"].startswith("winding at 74 °C: 54 ±")
    for wrong in ("215 at noon", "215 at 900 °C"):
        body = {"quantity": "main_resistance_ohm", "text": wrong, "supersedes": row()["reading_id"]}
        refused(client.post("/api/jobs/1/readings", json=body), 422, "main_resistance_ohm")
    bundle = client.get("/api/jobs/1/bundle.json").json()
    said = [
        (r["winding"], r["winding_c"]) for r in bundle["readings"] if r["quantity"] == "main_resistance_ohm"
    ]
    assert said[-1] == ("at", 60.0)
    copy = client.post("/api/jobs/import", json=bundle).json()["job"]["id"]
    assert client.get(f"/api/jobs/{copy}/bundle.json").json()["readings"] == bundle["readings"]
    assert client.post("/api/jobs/1/undo", json={"who": WHO}).status_code == 200
    assert row()["winding"] == "warm"


def test_a_bare_number_a_thousand_times_off_offers_what_was_meant(client: TestClient) -> None:
    standing = {w["quantity"]: w["reading_id"] for w in page(client)["wanted_readings"]}
    line = standing["line_current_a"]
    problem = take(client, 1, "line_current_a", "318", supersedes=line).json()
    assert problem["meant"] == "318 mA"
    main = standing["main_resistance_ohm"]
    problem = take(client, 1, "main_resistance_ohm", "0.215", supersedes=main).json()
    assert problem["meant"] == "215 Ω"
    assert take(client, 1, "line_current_a", problem and "318 mA", supersedes=line).status_code == 201


def test_a_dc_fan_has_no_hertz_and_is_not_refused(client: TestClient) -> None:
    version = page(client)["fan"]["version"]
    shown = client.patch("/api/jobs/1/fan", json={"version": version, "motor_kind": "dc-4-wire"}).json()
    assert shown["supply_hertz_text"] == ""
    assert not [p for p in shown["printed"] if "hertz" in p["label"]]
    assert not [w for w in shown["wanted_readings"] if w["quantity"] in ("frequency_hz", "run_capacitance_f")]
    assert shown["frame"]["refused"] == ""
    # It is aimed with what suits it, on the volts that its label names.
    assert (shown["frame"]["unsized"], shown["frame"]["method"]) == ("", "pwm")
    rows = {s["method"]: s for s in found(client, 1)["suited"]}
    assert (rows["pwm"]["answer"], rows["pwm"]["sized_here"]) == ("suits", True)
    assert rows["chopped-supply"]["answer"] == "refused"


def test_labels_as_printed_stay_as_printed_and_say_how_they_were_taken(client: TestClient) -> None:
    def typed(**fields: str) -> Any:
        return client.patch("/api/jobs/1/fan", json={"version": page(client)["fan"]["version"], **fields})

    shown = typed(rated_voltage_v="220–240 V", rated_power_w="1/10 hp").json()
    rows = {p["field"]: p for p in shown["printed"]}
    assert (rows["rated_voltage_v"]["text"], shown["fan"]["rated_voltage_v"]) == ("220–240 V", 230.0)
    assert "the middle" in rows["rated_voltage_v"]["note"]
    assert shown["fan"]["rated_power_w"] is None
    assert shown["fan"]["shaft_power_w"] == pytest.approx(74.57, abs=0.01)
    refused(typed(rated_voltage_v="115/230 V"), 422)
    # Cleared, both the text and what it meant are gone; and it can be undone.
    shown = typed(rated_power_w="").json()
    assert shown["fan"]["shaft_power_w"] is None
    assert "rated_power_w" not in shown["fan"]["printed"]
    shown = client.post("/api/jobs/1/undo", json={"who": "R. Fell"}).json()
    assert shown["fan"]["printed"]["rated_power_w"] == "1/10 hp"
    bundle = client.get("/api/jobs/1/bundle.json").json()
    assert bundle["fan"]["printed"]["rated_voltage_v"] == "220–240 V"
    again = client.post("/api/jobs/import", json=bundle).json()
    assert again["fan"]["printed"] == shown["fan"]["printed"]


def test_beyond_range_is_shown_as_it_was_typed_and_an_empty_field_shows_nothing(client: TestClient) -> None:
    empty = new_job(client)["job"]["id"]
    version = page(client, empty)["fan"]["version"]
    leads = [{"key": "", "name": n} for n in "AB"]
    answer = client.patch(f"/api/jobs/{empty}/fan", json={"version": version, "findings": {"leads": leads}})
    assert answer.status_code == 200
    for key in ("isolate", "stored-charge"):
        body = {"caution": key, "who": "R. Fell", "text": "0"}
        assert client.post(f"/api/jobs/{empty}/confirmations", json=body).status_code == 201
    sheet = {w["quantity"]: w["text"] for w in page(client, empty)["sheet_readings"]}
    assert set(sheet.values()) == {""}
    first, second = [q for q in sheet if q.startswith("frame_ohm")]
    assert take(client, empty, first, ">200M").status_code == 201
    assert take(client, empty, second, "OL").status_code == 201
    sheet = {w["quantity"]: w["text"] for w in page(client, empty)["sheet_readings"]}
    assert (sheet[first], sheet[second]) == (">200M", "open")


def test_what_was_confirmed_reads_as_it_did_then(client: TestClient) -> None:
    """The capacitor turns out to be another one later: what was confirmed is not rewritten."""
    before = next(c for c in page(client)["frame"]["cautions"] if c["key"] == "stored-charge")
    body = {"caution": "stored-charge", "who": "R. Fell", "text": "1.5"}
    assert client.post("/api/jobs/1/confirmations", json=body).status_code == 201
    version = page(client)["fan"]["version"]
    edit = {"version": version, "run_capacitance_f": "2u7"}
    assert client.patch("/api/jobs/1/fan", json=edit).status_code == 200
    shown = page(client)
    now = next(c for c in shown["frame"]["cautions"] if c["key"] == "stored-charge")
    assert now["text"] != before["text"]
    assert shown["confirmed"][0]["said"] == before["text"]
    assert shown["confirmed"][0]["text"] == "1.5 V"
    paper = client.get("/api/jobs/1/report.html").text
    assert before["text"] in paper
    assert "R. Fell, 1.5 V," in paper


def test_readings_on_paper_have_units_and_one_decimal_sign(client: TestClient) -> None:
    assert take(client, 1, "power_factor", "0,93").status_code == 201
    assert take(client, 1, "frequency_hz", "50,02").status_code == 201
    said = {r["quantity"]: r["said"] for r in page(client)["readings"] if r["run_id"] is None}
    assert said["power_factor"] == "0.93"
    assert said["frequency_hz"] == "50.02 Hz"
    assert said["speed_rpm"].endswith(" rpm")
    assert said["line_current_a"] == "318 mA"
    assert said["main_resistance_ohm"] == "215 Ω"


def test_the_meter_can_be_named_after_the_reading(client: TestClient) -> None:
    meter = client.get("/api/instruments").json()[0]
    before = {w["quantity"]: w for w in page(client)["wanted_readings"]}["line_current_a"]
    more = {"supersedes": before["reading_id"], "instrument": meter["id"]}
    assert take(client, 1, "line_current_a", before["text"], **more).status_code == 201
    after = {w["quantity"]: w for w in page(client)["wanted_readings"]}["line_current_a"]
    assert (after["text"], after["instrument_id"]) == (before["text"], meter["id"])
