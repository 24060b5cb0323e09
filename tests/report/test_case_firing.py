"""bin/fenwit solve with a triac in the line."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest

from fenwit.__main__ import main
from tests.core.test_case_command import P4_CASE, S16_CASE
from tests.known.triac import C16, C16_ROWS

C16_CASE: dict[str, Any] = {
    "format": "fenwit-case/1",
    "supply": {"voltage_v": 230, "frequency_hz": 50},
    "motor": {"model": "two-winding", **{k: v for k, v in vars(C16).items() if v is not None}},
    "load": {
        "full_speed_rpm": 330, "full_speed_torque_nm": 0.695, "friction_share": 0.015 / 0.695,
        "break_away_ratio": 1.0,
    },
    "in_line": [],
}  # fmt: skip


def solve(case: Any, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> tuple[int, Any, str]:
    path = tmp_path / "case.json"
    path.write_text(json.dumps(case))
    code = main(["solve", str(path)])
    out = capsys.readouterr()
    return code, json.loads(out.out) if code == 0 else None, out.err


def test_held_at_a_speed_every_known_answer_comes_out(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    for row in C16_ROWS:
        case = {k: v for k, v in C16_CASE.items() if k != "load"} | {
            "at_speed_rpm": row.speed_rpm,
            "in_line": [{"firing_angle_deg": row.firing_deg, "on_state_voltage_v": row.on_state_v}],
        }
        code, result, err = solve(case, tmp_path, capsys)
        assert code == 0, err
        (step,) = result["steps"]
        (point,) = step["operating_points"]
        assert point["firing_angle_deg"] == row.firing_deg
        assert point["extinction_angle_deg"] == pytest.approx(row.extinction_deg, abs=6e-3)
        assert point["triac_current_a"] == pytest.approx(row.line_a, abs=6e-5)
        assert point["torque_nm"] == pytest.approx(row.torque_nm, abs=6e-5)
        assert point["torque_ripple_nm"] == pytest.approx(row.ripple_nm, abs=2e-4)
        assert point["commutation_step_v"] == pytest.approx(row.step_v, abs=0.01)


def test_angles_and_other_entries_stand_side_by_side(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    entries = [{"firing_angle_deg": 90}, {}, {"capacitance_f": 2.7e-6}, {"firing_angle_deg": 120},
               {"firing_angle_deg": 90, "resistance_ohm": 100}, {"supply_voltage_v": 120}]  # fmt: skip
    code, result, err = solve({**C16_CASE, "in_line": entries}, tmp_path, capsys)
    assert code == 0, err
    speeds = [s["operating_points"][s["reached_from_rest"]]["speed_rpm"] for s in result["steps"]]
    assert speeds[0] == pytest.approx(278.7, abs=0.06)
    assert speeds[1] > 329
    assert speeds[3] == pytest.approx(143.4, abs=0.06)
    assert speeds[4] < speeds[0]
    assert "extinction_angle_deg" not in result["steps"][1]["operating_points"][0]
    alone = [solve({**C16_CASE, "in_line": [e]}, tmp_path, capsys)[1]["steps"][0] for e in entries]
    for a, step in zip(alone, result["steps"], strict=True):
        assert a["verdict"] == step["verdict"]
        for p, q in zip(a["operating_points"], step["operating_points"], strict=True):
            assert p["speed_rpm"] == pytest.approx(q["speed_rpm"], abs=0.01)


def test_a_single_winding_motor_has_no_ripple(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    case = {**P4_CASE, "in_line": [{"firing_angle_deg": 80, "on_state_voltage_v": 1.1}]}
    code, result, err = solve(case, tmp_path, capsys)
    assert code == 0, err
    point = result["steps"][0]["operating_points"][0]
    assert point["torque_ripple_nm"] is None
    assert point["conduction_angle_deg"] < 180
    assert point["input_power_w"] == pytest.approx(
        point["shaft_power_w"] + point["rotor_loss_w"] + point["winding_loss_w"] + point["series_loss_w"],
        rel=1e-4,
    )


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"in_line": [{"firing_angle_deg": 190}]}, "in_line[0].firing_angle_deg"),
        ({"in_line": [{"firing_angle_deg": -1}]}, "in_line[0].firing_angle_deg"),
        ({"in_line": [{"firing_angle_deg": None}]}, "in_line[0].firing_angle_deg"),
        ({"in_line": [{"firing_angle_deg": "late"}]}, "in_line[0].firing_angle_deg"),
        ({"in_line": [{"on_state_voltage_v": 1.2}]}, "in_line[0].on_state_voltage_v"),
        ({"in_line": [{"firing_angle_deg": 90, "on_state_voltage_v": 99}]}, "on_state_voltage_v"),
        ({"in_line": [{"firing_angle_deg": 90, "capacitance_f": 2e-6}]}, "in_line[0].capacitance_f"),
        ({"at_speed_rpm": 300}, "load"),
    ],
)
def test_what_cannot_be_is_refused(
    change: dict[str, Any], field: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    code, _, err = solve({**S16_CASE, **change}, tmp_path, capsys)
    assert code == 2
    assert field in err


def test_a_speed_beyond_the_field_is_refused(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    case = {k: v for k, v in C16_CASE.items() if k != "load"} | {"in_line": [{}], "at_speed_rpm": 380}
    code, _, err = solve(case, tmp_path, capsys)
    assert code == 2
    assert "at_speed_rpm" in err
