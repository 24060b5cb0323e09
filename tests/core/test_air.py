"""Air of a job: what flows at a speed, what a target asks for, how curve and system load the motor."""

from __future__ import annotations

from dataclasses import replace

import pytest

from fenwit.core.errors import InputError
from fenwit.core.frame import frame
from fenwit.core.frame.air import air_shown, left_rows
from fenwit.core.job.air import AirSheet, JobAir, TargetKind, read_target
from fenwit.core.job.commanded import CommandSheet
from fenwit.core.job.state import datum_of
from fenwit.core.job.steps import PlaceKind
from fenwit.core.load.curve import Air, System
from fenwit.core.methods.seam import ZoneKind
from tests.core.test_frame import SWEEP, place
from tests.core.test_load import E1, R6

SHEET = AirSheet(
    flows_m3_s=E1.flows_m3_s,
    pressures_pa=E1.pressures_pa,
    shafts_w=E1.shafts_w,
    curve_rpm=2800.0,
    system_flow_m3_s=0.2,
    system_pressure_pa=300.0,
    fixed_pressure_pa=120.0,
    heat_w=3000.0,
    full_level_db=60.0,
)
AIR = JobAir(SHEET, 2800.0)
RING_AIR = Air(R6, System(0.09, 22.0), parallel=6)
RING_STATE = replace(SWEEP, commanded=CommandSheet(fans=6, groups=2))


@pytest.mark.parametrize(
    ("text", "kind", "value"),
    [
        ("202", TargetKind.SPEED, 202),
        ("202 rpm", TargetKind.SPEED, 202),
        ("61 %", TargetKind.SHARE, 61),
        ("1400 m³/h", TargetKind.FLOW, 1400 / 3600),
        ("0.39 m3/s", TargetKind.FLOW, 0.39),
        ("22 K", TargetKind.RISE, 22),
        ("120 Pa", TargetKind.PRESSURE, 120),
        ("0.5 inH2O", TargetKind.PRESSURE, 124.544455),
        ("41 dB", TargetKind.LEVEL, 41),
        ("−10 dB", TargetKind.CHANGE, -10),
    ],
)
def test_the_unit_says_what_is_meant(text: str, kind: TargetKind, value: float) -> None:
    target = read_target("wanted", text)
    assert (target.kind, target.value) == (kind, pytest.approx(value))


@pytest.mark.parametrize("text", ["", "a lot", "12 apples", "22 kg", "1,2,3 rpm"])
def test_nonsense_is_no_target(text: str) -> None:
    with pytest.raises(InputError) as refused:
        read_target("wanted[0]", text)
    assert refused.value.field == "wanted[0]"


@pytest.mark.parametrize("text", ["70 %", "500 m³/h", "14 K", "170 Pa", "52 dB", "−8 dB"])
def test_a_target_is_found_at_its_speed(text: str) -> None:
    target = read_target("wanted", text)
    speed = AIR.speed_for("wanted", target)
    assert 0 < speed < 2800
    flow = AIR.flow_m3_s(speed)
    assert flow is not None
    pressure, rise, level = AIR.pressure_pa(flow), AIR.rise_k(flow), AIR.level_db(speed)
    assert pressure is not None
    assert rise is not None
    assert level is not None
    back = {
        TargetKind.SHARE: speed / 28, TargetKind.FLOW: flow.middle, TargetKind.RISE: rise.middle,
        TargetKind.PRESSURE: pressure.middle, TargetKind.LEVEL: level.middle, TargetKind.CHANGE: level.middle - 60,
    }[target.kind]  # fmt: skip
    # The frame's flows are read off a fine table, the target is bracketed.
    assert back == pytest.approx(target.value, rel=1e-3)


def test_a_larger_rise_is_a_slower_fan() -> None:
    speeds = [AIR.speed_for("wanted", read_target("wanted", f"{k} K")) for k in (12.5, 15, 20, 30)]
    assert speeds == sorted(speeds, reverse=True)


@pytest.mark.parametrize(
    ("text", "allowed"),
    [("2000 m³/h", "at most 736 m³/h"), ("5 K", "at least 12.2 K"), ("400 Pa", "at most 308 Pa"),
    ("70 dB", "at most 60 dB"),
     ("+3 dB", "at most 0 dB"), ("50 Pa", "above 120 Pa")],
)  # fmt: skip
def test_out_of_reach_names_the_nearest(text: str, allowed: str) -> None:
    with pytest.raises(InputError) as refused:
        AIR.speed_for("wanted[1]", read_target("wanted[1]", text))
    assert refused.value.field == "wanted[1]"
    assert refused.value.allowed == allowed


@pytest.mark.parametrize("text", ["500 m³/h", "12 K", "170 Pa", "52 dB"])
def test_what_nobody_knows_is_asked_for(text: str) -> None:
    with pytest.raises(InputError, match="this needs"):
        JobAir(AirSheet(), 2800.0).speed_for("wanted", read_target("wanted", text))


def test_flow_without_a_curve_follows_the_law_from_what_was_read() -> None:
    air = JobAir(AirSheet(full_flow_m3_s=0.4), 1000.0)
    assert air.speed_for("wanted", read_target("wanted", "720 m³/h")) == pytest.approx(500)
    flow = air.flow_m3_s(500)
    assert flow is not None
    assert flow.low < 0.2 < flow.high
    plate = JobAir(AirSheet(), 1000.0, plate_m3_s=0.4).flow_m3_s(500)
    assert plate is not None
    assert plate.high - plate.low > flow.high - flow.low
    assert JobAir(AirSheet(), 1000.0).flow_m3_s(500) is None


def test_the_path_tells_flow_pressure_and_noise() -> None:
    sheet = replace(SHEET, curve_rpm=330.0, altitude_m=820.0)
    shown = frame(replace(SWEEP, air=sheet, wanted_rpm=(240.0, 300.0)))
    texts = [t.text for t in place(shown.paths[0], PlaceKind.AIR).values]
    assert [t.split()[-1] for t in texts[:3]] == ["m³/h", "Pa", "dB"]
    assert "warmer" in texts[3]
    assert all("±" in t for t in texts)
    dead = frame(replace(SWEEP, air=replace(sheet, fixed_pressure_pa=290.0), wanted_rpm=(200.0, 300.0)))
    assert place(dead.paths[0], PlaceKind.AIR).values[0].text == "0 m³/h"
    assert "no air" in [a.air_text for a in dead.aims]


def test_curve_and_system_load_the_motor() -> None:
    sheet = replace(SHEET, curve_rpm=330.0)
    datum, _ = datum_of(replace(SWEEP, air=sheet))
    assert datum is not None
    assert datum.load_exponent is not None
    # Between what the tangent says at full speed (2.10) and far below it.
    assert 2.1 < datum.load_exponent.value < 3
    plain, _ = datum_of(SWEEP)
    assert plain is not None
    assert plain.load_exponent is None
    steep, usual = (frame(replace(SWEEP, air=s)) for s in (sheet, AirSheet()))
    assert any("by the fan's curve and its system" in a for a in steep.assumptions)
    assert not any("by the fan's curve and its system" in a for a in usual.assumptions)
    square, _ = datum_of(replace(SWEEP, air=replace(sheet, fixed_pressure_pa=0.0)))
    assert square is not None
    assert square.load_exponent is not None
    assert square.load_exponent.value == pytest.approx(2.0)


def test_speeds_near_a_resonance_are_marked_and_the_next_good_ones_offered() -> None:
    sheet = AirSheet(blades=3, resonances_hz=(12.0,))
    shown = frame(replace(SWEEP, air=sheet, wanted_rpm=(238.0, 300.0)))
    zones = [(round(z.low_rpm), round(z.high_rpm)) for z in shown.zones if z.kind is ZoneKind.AVOID]
    assert zones == [(114, 126), (228, 252)]  # by hand: 12 Hz · 60 / 3 = 240 rpm ± 5 %, and half of it
    assert shown.aims[0].avoid_text == "blades at 12 Hz: avoid; nearest 228 or 252 rpm"
    assert shown.aims[1].avoid_text == ""


def test_what_was_meant_is_kept_and_said_when_it_moved() -> None:
    state = replace(
        SWEEP, air=AirSheet(full_flow_m3_s=0.4), wanted_rpm=(165.0, 300.0), meant=("720 m³/h", "")
    )
    first = frame(state).aims[0]
    assert (first.meant, first.meant_text) == ("720 m³/h", "")
    moved = frame(replace(state, air=AirSheet(full_flow_m3_s=0.3))).aims[0]
    assert moved.meant_text == "720 m³/h would be 220 rpm now"


def test_stall_and_the_other_point_are_told() -> None:
    sheet = AirSheet(
        flows_m3_s=(0, 0.03, 0.06, 0.09, 0.12, 0.15, 0.18, 0.21),
        pressures_pa=(150, 126, 112, 118, 121, 108, 66, 0),
        system_flow_m3_s=0.12,
        system_pressure_pa=121.0,
        fixed_pressure_pa=116.0,
    )
    shown = air_shown(replace(SWEEP, air=sheet, wanted_rpm=(), design=None))
    assert "in stall" in shown.rows[0].note
    assert "coming down from full speed it may hold 432 m³/h" in shown.rows[0].note
    assert [p.stable for p in shown.points] == [True, False, True]
    assert shown.stall_m3_h == pytest.approx(432)


@pytest.mark.parametrize(
    ("values", "field"),
    [
        ({"humidity": 1.5}, "humidity"),
        ({"fixed_pressure_pa": 400.0}, "system_pressure_pa"),
        ({"flows_m3_s": (0.0, 0.1)}, "flows_m3_s"),
        ({"resonances_hz": (0.0,)}, "resonances_hz"),
        ({"parallel": 0}, "parallel"),
    ],
)
def test_a_sheet_that_cannot_be_is_refused(values: dict[str, object], field: str) -> None:
    with pytest.raises(InputError) as refused:
        replace(SHEET, **values)
    assert refused.value.field == field


def test_what_a_dead_supply_leaves_of_a_ring() -> None:
    """*Chapter 9*: three of six dead leave 48 % of the air, 69 % behind shutters; one dead 86 %."""
    found = left_rows(RING_STATE, RING_AIR, 1.0)
    assert [(row.text, row.share_text) for row in found] == [
        ("1 of 6 fans stands", "86 %"),
        ("1 of 2 supplies is dead: 3 of 6 fans stand", "48 %"),
    ]
    assert found[1].flow_text == "155 m³/h"
    assert found[1].back_text == "29.9 m³/h"
    shut = replace(RING_STATE, commanded=replace(RING_STATE.commanded, shutters=True))
    assert [row.share_text for row in left_rows(shut, RING_AIR, 1.0)][1] == "69 %"
    assert left_rows(RING_STATE, replace(RING_AIR, parallel=1), 1.0) == ()
    assert left_rows(RING_STATE, replace(RING_AIR, series=2), 1.0) == ()
