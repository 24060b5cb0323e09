"""bin/fenwit solve: an open format for scripts."""

from __future__ import annotations

import copy
import json
import math
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest

from fenwit.__main__ import main
from tests.known.machines import P4_ROWS, S16_ROWS

KNOWN = Path(__file__).parents[1] / "known"
S16_CASE = json.loads((KNOWN / "s16.json").read_text())
P4_CASE = json.loads((KNOWN / "p4.json").read_text())


def solve(case: Any, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> Any:
    path = tmp_path / "case.json"
    path.write_text(json.dumps(case))
    assert main(["solve", str(path)]) == 0
    return json.loads(capsys.readouterr().out)


def test_the_sweep_fan_case(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    result = solve(S16_CASE, tmp_path, capsys)
    assert result["format"] == "fenwit-result/1"
    for step, row in zip(result["steps"], S16_ROWS.values(), strict=True):
        assert step["net_starting_torque_nm"] == pytest.approx(row.net_torque_nm, abs=6e-4)
        if row.speed_rpm is None:
            assert step == {
                **step,
                "starts": False,
                "reached_from_rest": None,
                "operating_points": [],
                "verdict": "does-not-start",
            }
            continue
        assert step["verdict"] == "ok"
        point = step["operating_points"][step["reached_from_rest"]]
        assert point["speed_rpm"] == pytest.approx(row.speed_rpm, abs=0.06)
        assert point["motor_voltage_v"] == pytest.approx(row.motor_v, rel=2e-3)
        assert point["input_power_w"] == pytest.approx(row.watts, abs=0.06)
        assert point["stable"] is True
    assert "little to spare" in result["steps"][5]["reasons"][0]


def test_the_wall_fan_case_bars_resonance(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    result = solve(P4_CASE, tmp_path, capsys)
    for step, (_, speed, volts, _) in zip(result["steps"], P4_ROWS.values(), strict=True):
        if volts > 1.05 * 230:
            # Where nothing is predicted no number stands beside those words.
            assert (step["verdict"], step["operating_points"]) == ("barred", [])
            assert step["reached_from_rest"] is None
            continue
        assert step["verdict"] == "ok"
        point = step["operating_points"][0]
        assert point["speed_rpm"] == pytest.approx(speed, abs=0.1)
        assert point["capacitor_voltage_v"] is None


def test_break_away_and_own_torque_may_be_chosen(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    case = copy.deepcopy(S16_CASE)
    case["load"]["break_away_ratio"] = 1.5
    del case["load"]["full_speed_torque_nm"]
    result = solve(case, tmp_path, capsys)
    assert result["steps"][5]["verdict"] == "does-not-start"
    assert "hold 4" in result["steps"][5]["reasons"][1]
    assert result["steps"][0]["operating_points"][0]["speed_rpm"] == pytest.approx(330, abs=1e-6)


@pytest.mark.parametrize(
    ("path", "value", "said"),
    [
        (("format",), "fenwit-case/2", "format"),
        (("supply", "voltage_v"), "230", "supply.voltage_v: '230'"),
        (("supply", "voltage_v"), 0, "supply.voltage_v: 0"),
        (("supply", "frequency_hz"), 50_000, "supply.frequency_hz"),
        (("supply", "phase"), 1, "supply.phase"),
        (("motor", "model"), "three-winding", "motor.model"),
        (("motor", "poles"), 15, "motor.poles: 15"),
        (("motor", "turns_ratio"), None, "motor.turns_ratio: None"),
        (("motor", "main_resistance_ohm"), -260, "motor.main_resistance_ohm: -260"),
        (("motor", "main_resistance_ohm"), True, "motor.main_resistance_ohm"),
        (("load", "full_speed_rpm"), 390, "load.full_speed_rpm"),
        (("load", "full_speed_torque_nm"), 632, "load.full_speed_torque_nm"),
        (("load", "friction_share"), 1.5, "load.friction_share"),
        (("in_line",), [], "in_line"),
        (("in_line",), [{"capacitance_f": -1e-6}], "in_line[0].capacitance_f"),
        (("in_line",), [{}, {"capacitance_f": 2.7}], "in_line[1].capacitance_f"),
        (("in_line",), [{"capacitor": 1e-6}], "in_line[0].capacitor"),
        (("in_line",), [3], "in_line[0]"),
    ],
)
def test_bad_input_is_one_line_and_exit_code_2(
    path: tuple[str, ...], value: Any, said: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    case = copy.deepcopy(S16_CASE)
    place = case
    for key in path[:-1]:
        place = place[key]
    place[path[-1]] = value
    file = tmp_path / "bad.json"
    file.write_text(json.dumps(case))
    assert main(["solve", str(file)]) == 2
    printed = capsys.readouterr()
    assert printed.out == ""
    assert printed.err.count("\n") == 1
    assert said in printed.err
    assert "allowed" in printed.err


@pytest.mark.parametrize("text", [b"{", b"\xff\xfe", b"[" * 100_000, b"null", b'{"format": "fenwit-case/1"}'])
def test_what_is_no_case_file_is_refused(
    text: bytes, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    file = tmp_path / "case.json"
    file.write_bytes(text)
    assert main(["solve", str(file)]) == 2
    assert capsys.readouterr().err.count("\n") == 1
    assert main(["solve", str(tmp_path / "missing.json")]) == 2


def test_standard_input_in_a_process_of_its_own() -> None:
    ran = subprocess.run(
        [sys.executable, "-m", "fenwit", "solve", "-"],
        input=json.dumps(S16_CASE).encode(),
        capture_output=True,
        check=True,
    )
    assert len(json.loads(ran.stdout)["steps"]) == 9


def test_a_case_that_contradicts_itself_is_remarked_on(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    assert solve(S16_CASE, tmp_path, capsys)["remarks"] == []
    case = copy.deepcopy(S16_CASE)
    case["load"]["full_speed_torque_nm"] = 2.0
    (remark,) = solve(case, tmp_path, capsys)["remarks"]
    assert "this motor runs at 2" in remark
    case = copy.deepcopy(S16_CASE)
    case["motor"]["poles"] = 2
    del case["load"]["full_speed_torque_nm"]
    assert any("are the poles right?" in r for r in solve(case, tmp_path, capsys)["remarks"])


def test_a_tap_is_open_volts_behind_ohms_and_henries(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    """*Independent*: the 122 V tap of a 25 VA auto winding: 224.0 rpm, 117.95 V; and a choke in the line."""
    henry = 3.9528 / (2 * math.pi * 50)
    case = copy.deepcopy(S16_CASE)
    case["in_line"] = [
        {"supply_voltage_v": 122, "resistance_ohm": 20.4228, "inductance_h": henry},
        {"inductance_h": 1458 / (2 * math.pi * 50)},
        {"inductance_h": 0.01, "firing_angle_deg": 90},
    ]
    tap, choke, fired = (
        s["operating_points"][s["reached_from_rest"]] for s in solve(case, tmp_path, capsys)["steps"]
    )
    assert (tap["speed_rpm"], tap["motor_voltage_v"]) == pytest.approx((224.0, 117.95), rel=5e-4)
    assert choke["speed_rpm"] == pytest.approx(145, abs=0.6)
    assert choke["series_loss_w"] == 0
    assert fired["firing_angle_deg"] == 90
    case["in_line"] = [{"inductance_h": -1}]
    path = tmp_path / "case.json"
    path.write_text(json.dumps(case))
    assert main(["solve", str(path)]) == 2
    assert "in_line[0].inductance_h" in capsys.readouterr().err
