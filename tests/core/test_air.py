"""Air of a job: what flows at a speed, what a target asks for, how curve and system load the motor."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from fenwit.core.errors import InputError
from fenwit.core.frame import frame
from fenwit.core.frame.air import air_lines, air_shown, left_rows
from fenwit.core.frame.asked import must_know
from fenwit.core.frame.tables import tables
from fenwit.core.job.air import AirSheet, JobAir, TargetKind, read_target
from fenwit.core.job.commanded import CommandSheet
from fenwit.core.job.machine import MachineFan
from fenwit.core.job.state import JobState, datum_of
from fenwit.core.job.steps import PlaceKind
from fenwit.core.load import FanLoad
from fenwit.core.load.curve import Air, System
from fenwit.core.methods.seam import ZoneKind
from tests.core.test_commanded import DATA, usual
from tests.core.test_commanded import job as ring_job
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


# ---------------------------------------------------------------- many fans, tones, thin air

RING = usual(ring_job(commanded=replace(DATA, fans=6)))


def test_alike_fans_are_louder_than_the_one_that_was_heard() -> None:
    one = AirSheet(full_level_db=40.0, level_fans=1)
    # Six alike: + 10 log10 6 (47.78 dB, of the known answers).
    assert JobAir(one, 2400.0, count=6).full_level_db == pytest.approx(47.782, abs=1e-3)
    heard_all = replace(one, level_fans=None)
    assert JobAir(heard_all, 2400.0, count=6).full_level_db == 40.0
    assert JobAir(replace(one, level_fans=3), 2400.0, count=6).full_level_db == pytest.approx(43.01, abs=0.01)
    six = JobAir(one, 2400.0, count=6)
    level = six.level_db(1500.0)
    assert level is not None
    # 34.555 dB at 1500 rpm from 38 at 2400 with one; the same change from the level of six.
    assert level.middle == pytest.approx(47.782 - 11.2268, abs=1e-3)
    # A target in dB means all of them.
    assert six.speed_for("step", read_target("step", "40 dB")) == pytest.approx(
        2400 * 10 ** (-7.782 / 55), rel=1e-4
    )
    with pytest.raises(InputError, match="no louder"):
        six.speed_for("step", read_target("step", "48 dB"))


def test_the_ring_is_heard_as_six_fans() -> None:
    air = replace(RING.air, full_level_db=40.0, level_fans=1, parallel=6)
    row = air_shown(replace(RING, air=air)).rows[0]
    assert row.level_text.startswith("47.8")


def test_poles_and_a_signal_near_a_resonance_are_told() -> None:
    air = JobAir(AirSheet(resonances_hz=(120.0,), motor_poles=4), 2400.0)
    (zone,) = air.avoided()
    # 4 poles at 1800 rpm: 120 Hz; within 5 %.
    assert zone[:2] == pytest.approx((1710.0, 1890.0))
    assert "poles" in zone[2]
    sheet = AirSheet(resonances_hz=(24e3,))
    assert JobAir(sheet, 2400.0, signal_hz=25e3).steady_tones()
    assert not JobAir(sheet, 2400.0, signal_hz=26e3).steady_tones()
    assert not JobAir(sheet, 2400.0).steady_tones()
    shown = air_shown(replace(RING, air=replace(RING.air, resonances_hz=(24e3,))))
    assert any("at any speed" in w for w in shown.warnings)


def labelled(altitude_m: float | None, *, read: bool = False) -> JobState:
    """The sweep fan by its label at some altitude; its speed read there or not."""
    plate = replace(SWEEP.nameplate, rated_speed_rpm=dict(SWEEP.readings)["speed_rpm"])
    readings = tuple(
        r for r in SWEEP.readings if read or r[0] not in ("speed_rpm", "line_current_a", "input_power_w")
    )
    return replace(SWEEP, nameplate=plate, readings=readings, proofs=(), air=AirSheet(altitude_m=altitude_m))


def test_thin_air_lets_a_labelled_fan_run_a_little_faster() -> None:
    def full(state: JobState) -> tuple[float, float]:
        fan = must_know(state).subject
        assert isinstance(fan, MachineFan)
        return fan.full_rpm, fan.full_point.input_power_w

    speeds = [full(labelled(h)) for h in (None, 0.0, 820.0, 2500.0)]
    rpm = [s for s, _ in speeds]
    watts = [w for _, w in speeds]
    assert rpm[1] == pytest.approx(rpm[0], rel=2e-3)
    assert rpm[1] < rpm[2] < rpm[3] < 1.15 * rpm[0]
    # Less torque on the blades: less drawn.
    assert watts[1] > watts[2] > watts[3]
    # What was read there was read in that air.
    assert full(labelled(2500.0, read=True))[0] == pytest.approx(full(labelled(None, read=True))[0])
    words = " ".join(frame(labelled(2500.0)).assumptions)
    assert "thinner" in words
    assert "thinner" not in " ".join(frame(labelled(2500.0, read=True)).assumptions)


def test_friction_does_not_go_with_the_air() -> None:
    load = FanLoad(330.0, 0.7, 0.2)
    thin = load.in_air(0.8)
    assert thin.friction_nm == pytest.approx(load.friction_nm)
    assert thin.full_speed_torque_nm == pytest.approx(0.14 + 0.56 * 0.8)
    speeds = np.linspace(0.0, 400.0, 9)
    assert np.allclose(thin.in_air(1 / 0.8).torque_nm(speeds), load.torque_nm(speeds))
    with pytest.raises(InputError):
        load.in_air(0.0)


def test_air_stands_on_paper_and_in_the_tables() -> None:
    sheet = AirSheet(
        flows_m3_s=R6.flows_m3_s, pressures_pa=R6.pressures_pa, system_flow_m3_s=0.09, system_pressure_pa=22.0,
        parallel=6, full_level_db=40.0, level_fans=1,
    )  # fmt: skip
    state = replace(RING, air=sheet, commanded=replace(DATA, fans=6, groups=2))
    lines = air_lines(air_shown(state))
    assert lines[0].startswith("full speed, 2400 rpm: ")
    assert "47.8" in lines[0]
    # One of two supplies dead: 48 % of the air, and what flows back through the three that stand.
    dead = next(line for line in lines if "supplies is dead" in line)
    assert "48 %" in dead
    assert "flow back" in dead
    table = next(t for t in tables(state) if t.key == "air")
    assert len(table.rows) == 4
    assert all(len(r) == len(table.columns) for r in table.rows)
    assert not [t for t in tables(replace(state, air=AirSheet())) if t.key == "air"]
    assert air_lines(air_shown(replace(state, air=AirSheet(altitude_m=820.0)))) == ()
