"""A fan that holds flow or pressure: against an independent integration, its tuning, hunting, what cannot be stable."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from fenwit.core.errors import InputError
from fenwit.core.load.curve import Air, FanCurve, System
from fenwit.core.regulator.loop import (
    Controller,
    Damper,
    Held,
    LoopRun,
    is_hunting,
    loop_run,
    margin,
    speed_for,
    step_test,
    tuned,
)

E1 = FanCurve((0, 0.06, 0.12, 0.18, 0.24, 0.30, 0.34), (430, 424, 396, 340, 250, 125, 0))
"""Mains EC fan, backward-curved, of docs/air.md"""


def air(fixed: float = 0.0) -> Air:
    return Air(E1, System(0.22, 285, fixed))


def moved(base: Air, factor: float) -> Air:
    s = base.system
    return replace(
        base, system=System(s.flow_m3_s, s.fixed_pa + (s.pressure_pa - s.fixed_pa) * factor, s.fixed_pa)
    )


def dense(
    base: Air, held: Held, goal: float, c: Controller, d: Damper, total: float
) -> tuple[np.ndarray, np.ndarray]:
    """Independent: adaptive integration between samples, every working point found afresh. Speed and what is held."""
    flows = held is Held.FLOW
    span = base.free_m3_s() if flows else float(base.fan_pa(np.zeros(1))[0])

    def seen(now: Air, s: float) -> float:
        point = now.reached(s).point
        if point is None:
            return 0.0 if flows else now.system.fixed_pa
        return point.flow_m3_s if flows else point.pressure_pa

    s = u = integral = speed_for(base, held, goal)
    now, y, t = base, seen(base, s), 0.0
    speeds, values = [], []
    moves = [(d.at_s, moved(base, d.factor))]
    if d.back_at_s is not None:
        moves.append((d.back_at_s, base))

    def on(until: float) -> None:
        nonlocal s, y, t
        if until > t:
            found = solve_ivp(
                lambda _, x: [
                    float(np.clip((u - x[0]) / c.fan_lag_s, -c.ramp_per_s, c.ramp_per_s)),
                    (seen(now, min(1.0, max(0.0, x[0]))) - x[1]) / c.sensor_lag_s,
                ],
                (0, until - t), [s, y], rtol=1e-8, atol=1e-10, max_step=0.25,
            )  # fmt: skip
            s, y = map(float, found.y[:, -1])
            t = until

    for k in range(int(total / c.sample_s + 1e-9) + 1):
        at = k * c.sample_s
        while moves and moves[0][0] <= at:
            on(moves[0][0])
            now = moves.pop(0)[1]
        on(at)
        e = (goal - y) / span
        v = c.gain_kp * e + integral
        u = min(1.0, max(c.least, v))
        if not ((v > 1 and e > 0) or (v < c.least and e < 0)):
            integral += c.gain_kp * c.sample_s / c.integral_s * e
        speeds.append(s)
        values.append(seen(now, s))
    return np.array(speeds), np.array(values)


@pytest.mark.parametrize(
    ("fixed", "held", "goal", "controller", "damper"),
    [
        (0.0, Held.FLOW, 0.15, Controller(1.21, 2.5), Damper(2.5, 5.0)),
        (60.0, Held.FLOW, 0.14, Controller(1.0, 3.0), Damper(2.0, 4.3, 15.0)),
        (0.0, Held.PRESSURE, 150.0, Controller(0.5, 2.0, sensor_lag_s=0.4), Damper(2.5, 5.0)),
        (80.0, Held.PRESSURE, 160.0, Controller(0.6, 3.0, 1.0, 1.0, 0.05), Damper(0.5, 5.0)),
    ],
)
def test_the_run_agrees_with_a_dense_integration(
    fixed: float, held: Held, goal: float, controller: Controller, damper: Damper
) -> None:
    found = loop_run(air(fixed), held, goal, controller, damper, 24.0)
    speeds, values = dense(air(fixed), held, goal, controller, damper, 24.0)
    np.testing.assert_allclose(found.speed, speeds, rtol=1e-3, atol=1e-5)
    np.testing.assert_allclose(found.held, values, rtol=1e-3)


@settings(max_examples=30, deadline=None)
@given(
    st.floats(0.05, 0.2), st.floats(0.2, 1.5), st.floats(1.5, 8.0), st.floats(0.3, 3.0), st.floats(0.0, 100.0)
)
def test_what_settles_settles_at_the_set_point(
    goal: float, gain: float, integral: float, factor: float, fixed: float
) -> None:
    base = air(fixed)
    c = Controller(gain, integral, least=0.0)
    run = loop_run(base, Held.FLOW, goal, c, Damper(factor), 300.0)
    # Steady at the start: nothing moves before the damper does.
    assert np.ptp(run.speed[run.time_s < 9.9]) < 1e-5
    assert run.overshoot >= 0
    if run.settling_s is not None and not run.saturated and not run.hunting:
        assert run.final_flow_m3_s == pytest.approx(goal, rel=0.021)
    if run.saturated:
        assert run.final_flow_m3_s == pytest.approx(moved(base, factor).reached(1.0).flow_m3_s, rel=1e-3)


def test_pressure_falls_back_where_flow_pushes_on() -> None:
    """A closing damper: constant flow turns up, constant pressure turns down, constant speed lets both go."""
    flow = loop_run(air(), Held.FLOW, 0.15, Controller(1.21, 2.5), Damper(), 200.0)
    pressure = loop_run(air(), Held.PRESSURE, 150.0, Controller(0.5, 2.0), Damper(), 200.0)
    speed = loop_run(air(), Held.SPEED, flow.start_speed, Controller(), Damper(), 200.0)
    assert flow.final_speed > flow.start_speed
    assert pressure.final_speed < pressure.start_speed
    assert speed.final_speed == speed.start_speed
    assert speed.final_pressure_pa > 100
    assert not speed.hunting


def test_an_integral_without_a_clamp_winds_up() -> None:
    c = Controller(1.21, 2.5)
    back = Damper(5.0, 10.0, 70.0)
    clamped = loop_run(air(), Held.FLOW, 0.15, c, back, 200.0)
    wound = loop_run(air(), Held.FLOW, 0.15, replace(c, clamped=False), back, 200.0)
    assert clamped.settling_s == 5.5
    assert wound.settling_s == 36.5


def test_tuning_from_a_step() -> None:
    found = tuned(*step_test(air(), Held.FLOW, Controller()), 0.1)
    assert found.process_gain == pytest.approx(0.646, abs=5e-4)
    assert found.time_s == pytest.approx(2.49, abs=5e-3)
    assert found.delay_s == pytest.approx(0.69, abs=5e-3)
    assert found.gain_kp == pytest.approx(1.21, abs=5e-3)
    assert found.integral_s == pytest.approx(2.5, abs=0.01)


@settings(max_examples=40, deadline=None)
@given(st.floats(0.2, 3.0), st.floats(0.5, 20.0), st.floats(0.0, 10.0), st.floats(0.05, 0.3))
def test_a_first_order_answer_with_a_delay_is_found_again(
    gain: float, lag: float, delay: float, step: float
) -> None:
    times = np.linspace(0.0, 12 * (lag + delay), 4000)
    y = 3.0 + gain * step * 10.0 * np.where(times > delay, -np.expm1(-(times - delay) / lag), 0.0)
    found = tuned(times, y, 10.0, step)
    assert found.process_gain == pytest.approx(gain, rel=0.01)
    assert found.time_s == pytest.approx(lag, rel=0.02)
    assert found.delay_s == pytest.approx(delay, abs=0.03 * (lag + delay))


@pytest.mark.parametrize(
    ("times", "values", "field", "words"),
    [
        ([0, 1, 2, 1.5, 3, 4], [0, 1, 2, 2, 2, 2], "time_s", "backwards"),
        ([0, 1, 2], [0, 1, 1], "time_s", "more samples"),
        ([0, 1, 2, 3, 4, 5], [5, 4, 3, 3, 3, 3], "sensed", "cannot be stable"),
        ([0, 1, 2, 3, 4, 5], [5, 5, 5, 5, 5, 5], "sensed", "nothing followed"),
        ([0, 1, 2, 3, 4, math.nan], [0, 1, 1, 1, 1, 1], "time_s", "missing"),
    ],
)
def test_a_step_test_that_tells_nothing_is_refused(
    times: list[float], values: list[float], field: str, words: str
) -> None:
    with pytest.raises(InputError, match=words) as refused:
        tuned(np.array(times), np.array(values), 10.0, 0.1)
    assert refused.value.field == field


def test_the_margin_foretells_what_the_run_does() -> None:
    for integral in (0.4, 1.0, 2.5):
        c = Controller(1.0, integral)
        at = margin(air(), Held.FLOW, 0.15, c, 2.5)
        assert at.critical_gain > 0
        # A small blow, so that no limit is touched.
        calm, wild = (
            loop_run(
                air(),
                Held.FLOW,
                0.15,
                replace(c, gain_kp=k * at.critical_gain, ramp_per_s=10.0),
                Damper(1.1, 5.0),
                400.0,
            )
            for k in (0.3, 1.5)
        )
        assert margin(air(), Held.FLOW, 0.15, replace(c, gain_kp=0.3 * at.critical_gain), 1.1).stable
        assert calm.settling_s is not None
        assert not calm.hunting
        assert float(np.abs(wild.held[-40:] - 0.15).max()) > 1e-3


def test_a_sensor_the_wrong_way_round_cannot_be_stable() -> None:
    c = Controller(1.21, 2.5, reversed=True)
    assert not margin(air(), Held.FLOW, 0.15, c).stable
    assert margin(air(), Held.FLOW, 0.15, c).critical_gain == 0
    run = loop_run(air(), Held.FLOW, 0.15, c, Damper(), 120.0)
    assert run.settling_s is None
    assert run.final_speed == pytest.approx(c.least, abs=1e-3)


def test_hunting_is_told_from_a_blow_that_dies_away() -> None:
    t = np.arange(400)
    assert is_hunting(0.1 * np.sin(t / 5))
    assert not is_hunting(0.3 * np.exp(-t / 40) * np.sin(t / 5))
    assert not is_hunting(np.full(400, 0.2))
    assert not is_hunting(np.zeros(400))


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"goal": 0.4}, "set_flow_m3_s"), ({"goal": 0.0}, "set_flow_m3_s"), ({"goal": math.nan}, "set_flow_m3_s"),
        ({"total": 1e6}, "total_s"), ({"fixed": 500.0}, "system_pressure_pa"),
        ({"fixed": 284.0, "goal": 0.3}, "set_flow_m3_s"),
    ],
)  # fmt: skip
def test_what_cannot_be_held_is_refused(change: dict[str, float], field: str) -> None:
    with pytest.raises(InputError) as refused:
        loop_run(
            air(change.get("fixed", 0.0)), Held.FLOW, change.get("goal", 0.15), Controller(), Damper(),
            change.get("total", 120.0),
        )  # fmt: skip
    assert refused.value.field == field
    with pytest.raises(InputError, match="come back"):
        Damper(2.0, 10.0, 5.0)


def test_an_hour_keeps_every_sample() -> None:
    run: LoopRun = loop_run(
        air(), Held.FLOW, 0.15, Controller(1.21, 2.5), Damper(2.5, 1800.0, 2700.0), 3600.0
    )
    assert len(run.time_s) == 7201
    assert np.all(np.diff(run.time_s) > 0)
    assert run.held[3599] == pytest.approx(0.15, rel=1e-9)
    assert run.settling_s is not None
