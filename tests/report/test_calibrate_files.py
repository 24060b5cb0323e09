"""bin/fenwit calibrate and bin/fenwit leads: files in, JSON out, nonsense refused by name."""

from __future__ import annotations

import copy
import json
from pathlib import Path
from typing import Any

import pytest

from fenwit.__main__ import main
from tests.core.test_leads import KNOWN, ROLES

CASE: dict[str, Any] = {
    "format": "fenwit-calibrate/1",
    "kind": "psc",
    "supply": {"voltage_v": 230, "frequency_hz": 50},
    "nameplate": {"voltage_v": 230, "frequency_hz": 50, "poles": 16, "run_capacitance_f": 2.5e-6},
    "readings": [
        {
            "speed_rpm": 330, "line_current_a": 0.318, "input_power_w": 73.0, "capacitor_voltage_v": 415,
            "main_resistance_ohm": 215, "auxiliary_resistance_ohm": 240,
        },
        {"in_line": {"capacitance_f": 2.7e-6}, "speed_rpm": 205, "accuracy": {"speed_rpm": 0.002}},
    ],
    "steps": [{"in_line": {"capacitance_f": 1.8e-6}}, {"in_line": {"resistance_ohm": 400}}, {"in_line": {}}],
}  # fmt: skip


def run(command: str, text: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> tuple[int, str, str]:
    path = tmp_path / "file"
    path.write_text(text)
    code = main([command, str(path)])
    out = capsys.readouterr()
    return code, out.out, out.err


def calibrate(case: Any, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> Any:
    code, out, err = run("calibrate", json.dumps(case), tmp_path, capsys)
    assert code == 0, err
    return json.loads(out)


def test_a_calibration_gives_parameters_bands_and_what_to_read_next(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    found = calibrate(CASE, tmp_path, capsys)
    parameter = {p["name"]: p for p in found["parameters"]}
    assert parameter["main_resistance_ohm"]["value"] == pytest.approx(260, rel=0.03)
    assert 0 < parameter["main_resistance_ohm"]["sd"] < 16
    assert parameter["full_speed_rpm"]["value"] == pytest.approx(330, rel=0.01)
    assert len(found["steps"]) == 3
    for step in found["steps"]:
        speed = step["speed_rpm"]
        assert speed["p5"] < speed["p50"] < speed["p95"]
    assert found["steps"][2]["speed_rpm"]["p50"] == pytest.approx(330, abs=2)
    assert len(found["next"]) <= 3
    assert found["outliers"] == []
    assert set(found["model_error"]) == {"electric", "speed", "ohms"}
    assert all(1 <= v < 1.5 for v in found["model_error"].values())
    assert [c["reading"] for c in found["checks"] if c["quantity"] == "speed_rpm"] == [0, 1]


def test_fewer_readings_give_wider_bands_and_a_bare_nameplate_still_some(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    widths = []
    for readings in ([], [CASE["readings"][0]], CASE["readings"]):
        found = calibrate({**CASE, "readings": readings}, tmp_path, capsys)
        speed = found["steps"][0]["speed_rpm"]
        widths.append(speed["p95"] - speed["p5"])
    assert widths[0] > widths[1] > widths[2]


def test_a_step_may_be_written_with_or_without_its_key(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    bare = calibrate({**CASE, "steps": [s["in_line"] for s in CASE["steps"]]}, tmp_path, capsys)
    assert bare["steps"] == calibrate(CASE, tmp_path, capsys)["steps"]


def test_an_outlier_is_named_with_its_entry_and_cause(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    case = copy.deepcopy(CASE)
    case["readings"][0]["line_current_a"] = 3.18
    found = calibrate(case, tmp_path, capsys)
    (odd,) = found["outliers"]
    assert (odd["reading"], odd["quantity"], odd["left_out"]) == (0, "line_current_a", False)
    assert odd["implied"] == pytest.approx(0.318, rel=0.03)
    assert "decimal point" in odd["cause"]


def test_the_same_file_gives_the_same_answer(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert calibrate(CASE, tmp_path, capsys) == calibrate(CASE, tmp_path, capsys)


def edited(path: str, value: Any) -> Any:
    case: Any = copy.deepcopy(CASE)
    *parents, last = path.split(".")
    at = case
    for key in parents:
        at = at[int(key)] if key.isdigit() else at[key]
    at[last] = value
    return case


@pytest.mark.parametrize(
    ("case", "field"),
    [
        ([], "case"),
        (edited("format", "fenwit-calibrate/9"), "format"),
        (edited("kind", "hamster"), "kind"),
        (edited("kind", "universal"), "kind"),
        (edited("supply.voltage_v", "much"), "supply"),
        (edited("supply.voltage_v", -3), "supply"),
        (edited("nameplate.poles", 15), "nameplate"),
        (edited("nameplate.colour", "red"), "nameplate"),
        (edited("nameplate.run_capacitance_f", 2.5), "run_capacitance_f"),
        (edited("readings", {}), "readings"),
        (edited("readings.0.speed_rpm", 3300), "readings[0].speed_rpm"),
        (edited("readings.0.speed_rpm", None), "readings"),
        (edited("readings.0.line_current_a", float("nan")), "readings"),
        (edited("readings.0.smell", 3), "readings"),
        (edited("readings.1.in_line", {"capacitance_f": 0}), "readings"),
        (edited("readings.1.accuracy", {"speed_rpm": 7}), "accuracy"),
        (edited("readings.1.accuracy", {"smell": 0.1}), "accuracy"),
        (edited("steps", [3]), "steps"),
        (edited("steps", [{"in_line": {"inductance_mh": 3}}]), "steps"),
        (edited("steps", [{}] * 999), "steps"),
        (edited("steps", [{"in_line": {}, "capacitance_f": 2e-6}]), "steps[0]"),
        (edited("steps", [{"capacitor": 2e-6}]), "steps[0]"),
    ],
)
def test_nonsense_in_a_calibration_file_is_refused_by_name(
    case: Any, field: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    code, out, err = run("calibrate", json.dumps(case), tmp_path, capsys)
    assert code == 2
    assert out == ""
    assert field in err
    assert "Traceback" not in err


def csv(rows: dict[tuple[str, str], object]) -> str:
    return "lead_a,lead_b,ohms\n" + "".join(f"{a},{b},{v}\n" for (a, b), v in rows.items())


def leads(text: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> Any:
    code, out, err = run("leads", text, tmp_path, capsys)
    assert code == 0, err
    return json.loads(out)


def test_leads_from_a_file(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    found = leads(csv(dict(KNOWN)), tmp_path, capsys)
    assert found["format"] == "fenwit-leads/1"
    best = found["trees"][0]
    assert best["roles"] == ROLES
    assert best["worst_residual_ohm"] < 0.15
    assert {frozenset((s["from"], s["to"])): s["ohms"] for s in best["sections"]} == pytest.approx(
        {frozenset("PQ"): 46.0, frozenset("QR"): 21.5, frozenset("RS"): 3.8, frozenset("ST"): 4.6}
    )
    assert found["next"] is None


def test_leads_in_any_order_of_columns_with_frame_open_and_joined(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    text = "ohms , Lead_B, lead_a\n46.0,Q,P\n46.2,P,Q\n21.5,R,Q\nopen,frame,P\n200k,frame,Q\n0.1,R,Z\n"
    found = leads(text, tmp_path, capsys)
    assert found["joined"] == [["R", "Z"]]
    assert "Q" in found["insulation_stop"]
    assert sorted(found["trees"][0]["roles"].values()) == ["capacitor", "common", "high", "joined"]
    missing = leads(csv({k: v for k, v in KNOWN.items() if k != ("S", "T")}), tmp_path, capsys)
    assert {missing["next"]["lead_a"], missing["next"]["lead_b"]} == {"S", "T"}
    assert missing["next"]["why"]


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("", "lead_a"),
        ("lead_a,lead_b\nP,Q\n", "line 1 names the columns"),
        ("lead_a,lead_b,ohms\nP,Q\n", "line 2"),
        ("lead_a,lead_b,ohms\nP,Q,lots\n", "line 2"),
        ("lead_a,lead_b,ohms\nP,Q,\n", "line 2"),
        ("lead_a,lead_b,ohms\nP,,3\n", "line 2"),
        ("lead_a,lead_b,ohms\nP,P,3\n", "both probes on one lead"),
        ("lead_a,lead_b,ohms\nP,Q,-3\n", "negative"),
        ("lead_a,lead_b,ohms\n" + "".join(f"A,B{i},3\n" for i in range(9)), "too many leads"),
        ("lead_a,lead_b,ohms\n" + "P,Q,3\n" * 600, "too many rows"),
    ],
)
def test_nonsense_in_a_lead_file_is_refused_by_line(
    text: str, said: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    code, out, err = run("leads", text, tmp_path, capsys)
    assert code == 2
    assert out == ""
    assert said in err


def test_files_that_are_none(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    for command in ("calibrate", "leads"):
        assert main([command, str(tmp_path / "nothing")]) == 2
        binary = tmp_path / "binary"
        binary.write_bytes(b"\xff\xfe\x00\x81")
        assert main([command, str(binary)]) == 2
        assert "Traceback" not in capsys.readouterr().err


def test_every_ohm_reading_says_how_warm_the_winding_was(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    """By hand: copper read at 20 °C has (234.5 + 20)/(234.5 + 80) of its ohms at 80 °C."""

    def ohms(winding: Any) -> float:
        case = edited("readings.0.winding", winding)
        rows = calibrate(case, tmp_path, capsys)["parameters"]
        return float(next(p["value"] for p in rows if p["name"] == "main_resistance_ohm"))

    unsaid = calibrate(CASE, tmp_path, capsys)["parameters"]
    assert ohms("cold") == next(p["value"] for p in unsaid if p["name"] == "main_resistance_ohm")
    assert ohms("warm") == pytest.approx(215 / 0.98, rel=0.06)
    assert ohms(80) / ohms(20) == pytest.approx((234.5 + 20) / (234.5 + 80), rel=0.05)
    for wrong in ("tepid", 900, [20]):
        code, _, err = run("calibrate", json.dumps(edited("readings.0.winding", wrong)), tmp_path, capsys)
        assert code == 2
        assert err.startswith("readings[0].winding")


@pytest.mark.parametrize(
    ("path", "value", "field"),
    [
        ("nameplate.poles", 2, "readings[0].speed_rpm"),
        ("nameplate.run_capacitance_f", None, "nameplate.run_capacitance_f"),
        ("readings.0.input_power_w", 120, "readings[0].input_power_w"),
        ("readings.1.speed_rpm", 376, "readings[1].speed_rpm"),
    ],
)
def test_a_refusal_names_what_somebody_typed(
    path: str, value: Any, field: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    code, _, err = run("calibrate", json.dumps(edited(path, value)), tmp_path, capsys)
    assert code == 2
    assert err.startswith(f"{field}:"), err
