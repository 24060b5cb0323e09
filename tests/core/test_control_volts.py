"""Control voltages: maps, knobs and their ends, lines, filters, sensors, soft start; against brute force."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import solve_ivp
from scipy.linalg import expm

from fenwit.core.errors import InputError
from fenwit.core.load.cone import flow_per_pa_m3_h
from fenwit.core.motor.analog import VoltLine, soft_start_s
from fenwit.core.regulator.control_volts import Chain, Knob, end_stops, handed_on, preferred_stops
from fenwit.core.regulator.pulse_filter import Filter
from fenwit.core.regulator.sensor import Sensor, SensorState, Thermistor

DEMO = VoltLine(300, 2800)


def test_between_off_and_on_the_answer_hangs_on_the_past() -> None:
    volts = np.array([0.5, 0.9, 1.1, 1.3])
    assert DEMO.speed_rpm(volts, running=False).tolist()[:3] == [0, 0, 0]
    assert DEMO.speed_rpm(volts, running=True).tolist()[:3] == [0, 300, 300]
    assert DEMO.usable_fraction == pytest.approx(0.84)


@given(st.floats(300, 2800), st.booleans())
def test_volts_and_speed_are_each_others_inverse(rpm: float, inverse: bool) -> None:
    line = VoltLine(300, 2800, inverse=inverse)
    assert float(line.speed_rpm(np.array(line.voltage_v(rpm)))) == pytest.approx(rpm, rel=1e-9)


def test_a_chain_of_leaders_adds_its_errors() -> None:
    """A leader hands on 10 V n/n_max: each follower turns a little faster, and may stay off at the bottom."""
    volts, speeds = 5.0, []
    for _ in range(3):
        speeds.append(float(DEMO.speed_rpm(np.array(volts))))
        volts = 10 * speeds[-1] / DEMO.fastest_rpm
    assert speeds == pytest.approx([1431, 1464, 1499], abs=1)
    at = float(DEMO.speed_rpm(np.array(1.5)))
    assert at == pytest.approx(389, abs=0.5)
    handed = 10 * at / 2800
    assert float(VoltLine(300, 2800, on_v=1.5).speed_rpm(np.array(handed), running=False)) == 0


@pytest.mark.parametrize(
    ("values", "field"),
    [({"low_v": 9.0, "high_v": 2.0}, "high_v"), ({"off_v": 2.0}, "on_v"), ({"on_v": 9.8}, "on_v"),
     ({"slowest_rpm": 3000.0}, "maximum_speed_rpm"), ({"high_v": 11.0}, "high_v")],
)  # fmt: skip
def test_a_map_that_cannot_be_is_refused(values: dict[str, float], field: str) -> None:
    with pytest.raises(InputError) as refused:
        VoltLine(**{"slowest_rpm": 300.0, "fastest_rpm": 2800.0, **values})  # type: ignore[arg-type]
    assert refused.value.field == field


def test_soft_start() -> None:
    assert soft_start_s() == pytest.approx(12.6, abs=0.05)

    def slope(_: float, x: np.ndarray) -> list[float]:
        return [min(0.1, (1 - x[0]) / 2)]

    run = solve_ivp(slope, (0, soft_start_s(0.9)), [0.0], rtol=1e-9, atol=1e-9, max_step=0.05)
    assert run.y[0, -1] == pytest.approx(0.9, abs=1e-4)


# ---------------------------------------------------------------- knob


@settings(max_examples=80, deadline=None)
@given(
    st.floats(1e3, 1e5),
    st.floats(0, 5e4),
    st.floats(0, 5e4),
    st.one_of(st.none(), st.floats(1e4, 1e6)),
    st.floats(0, 1),
)
def test_a_knob_and_its_inverse(pot: float, top: float, bottom: float, z: float | None, x: float) -> None:
    knob = Knob(pot, top, bottom, z)
    volts = float(knob.volts(np.array(x)))
    # Nodal analysis by hand: current through the top equals what bottom and input take.
    down = bottom + x * pot
    above = top + (1 - x) * pot
    if down > 1e-3 and above > 1e-3:
        taken = volts / down + (volts / z if z else 0.0)
        assert (10 - volts) / above == pytest.approx(taken, rel=1e-6)
    assert knob.travel_for(volts) == pytest.approx(x, abs=1e-7)


@settings(max_examples=60, deadline=None)
@given(st.floats(0.1, 5), st.floats(0.5, 4.9), st.floats(1e3, 5e4), st.one_of(st.none(), st.floats(3e5, 1e7)))
def test_end_stops_give_the_ends(low: float, more: float, pot: float, z: float | None) -> None:
    knob = end_stops(low, low + more, Knob(pot, input_ohm=z))
    assert knob.volts(np.array([0.0, 1.0])) == pytest.approx([low, low + more], rel=1e-7)


def test_of_all_preferred_pairs_the_best_is_found() -> None:
    bare = Knob(10e3, input_ohm=100e3)
    made = preferred_stops(2, 8, bare)
    miss = np.abs(made.volts(np.array([0.0, 1.0])) - [2, 8]).max()
    for top in (2700, 3000, 3300):
        for bottom in (3000, 3300, 3600):
            other = Knob(10e3, top, bottom, 100e3)
            assert np.abs(other.volts(np.array([0.0, 1.0])) - [2, 8]).max() >= miss - 1e-12


def test_an_input_that_takes_too_much_is_refused() -> None:
    with pytest.raises(InputError, match="smaller pot") as refused:
        end_stops(4, 9, Knob(100e3, input_ohm=10e3))
    assert refused.value.field == "low_voltage_v"


# ---------------------------------------------------------------- line


@settings(max_examples=40, deadline=None)
@given(
    st.integers(1, 12),
    st.floats(0, 1e3),
    st.floats(0, 20),
    st.floats(0, 5),
    st.floats(0, 0.5),
    st.floats(1e4, 1e6),
)
def test_a_line_keeps_its_currents(
    n: int, source: float, signal: float, ground: float, extra: float, z: float
) -> None:
    found = handed_on(Chain((z,) * n, 10, source, signal, ground, extra))
    amps = np.array(found.inputs_v) / z
    assert found.source_a == pytest.approx(amps.sum())
    # Walk the line stretch by stretch instead of by the matrix.
    there, back = 10 - source * amps.sum(), 0.0
    for k in range(n):
        there -= signal * amps[k:].sum()
        back += ground * (amps[k:].sum() + extra * (n - k))
        assert found.inputs_v[k] == pytest.approx(there - back, abs=1e-9)
        assert found.grounds_v[k] == pytest.approx(back, abs=1e-9)


def test_offset_of_the_return_current_alone() -> None:
    found = handed_on(Chain((1e12,) * 5, ground_ohm=0.4, ground_a=0.12))
    assert found.grounds_v[-1] == pytest.approx(0.4 * 0.12 * 5 * 6 / 2, rel=1e-6)


# ---------------------------------------------------------------- filter


@settings(max_examples=15, deadline=None)
@given(
    st.floats(0.05, 0.95),
    st.sampled_from([1, 2]),
    st.floats(0.3, 20),
    st.one_of(st.none(), st.floats(2e3, 1e6)),
    st.floats(1, 3),
)
def test_a_filter_against_its_own_transient(
    d: float, stages: int, ratio: float, load: float | None, gain: float
) -> None:
    """Stepped through pulse after pulse until it repeats."""
    period, r = 1e-3, 10e3
    f = Filter(5, 1 / period, r, ratio * period / r, d, stages, load, gain)
    tau = r * f.capacitance_f
    # dx/dt = A x + b u, exact over any time with u held: [x, u] grows by the exponential of its matrix.
    whole = np.zeros((stages + 1, stages + 1))
    whole[0, 0], whole[0, stages] = -1 / tau, 1 / tau
    if stages == 2:
        whole[0, 0], whole[0, 1] = -2 / tau, 1 / tau
        whole[1, 0], whole[1, 1] = 1 / tau, -1 / tau
    if load:
        whole[stages - 1, stages - 1] -= 1 / (load * f.capacitance_f)
    parts = 200
    steps = [(5.0, expm(whole * d * period / parts)), (0.0, expm(whole * (1 - d) * period / parts))]
    x = np.append(np.full(stages, f.mean_v / gain), 0.0)
    seen: list[float] = []
    for _ in range(int(12 * ratio * (3 if stages == 2 else 1)) + 12):
        seen = []
        for u, step in steps:
            x[-1] = u
            for _ in range(parts):
                x = step @ x
                seen.append(float(x[stages - 1]))
    assert (max(seen) - min(seen)) * gain == pytest.approx(f.ripple_v, rel=2e-3, abs=1e-5)
    assert min(seen) * gain <= f.mean_v <= max(seen) * gain


def test_the_small_ripple_rule_and_where_it_ends() -> None:
    for share, over in ((0.5, 0.005), (1.0, 0.02), (2.0, 0.08)):
        f = Filter(5, 1e3, 10e3, 1e-3 / share / 10e3)
        assert f.ripple_small_v is not None
        assert f.ripple_small_v / f.ripple_v - 1 == pytest.approx(over, abs=0.005) or share < 2


# ---------------------------------------------------------------- sensors


def test_a_range_from_zero_cannot_show_a_broken_wire() -> None:
    dead, live = Sensor(0, 10, 0, 300), Sensor(2, 10, 0, 300)
    assert dead.state(0.0) is SensorState.UNSURE
    assert live.state(0.0) is SensorState.BROKEN
    assert live.value(0.0) is None
    assert live.state(10.5) is SensorState.HIGH
    assert dead.value(4.2) == pytest.approx(126)
    with pytest.raises(InputError, match="nothing tells nothing"):
        Sensor(2, 2, 0, 300)
    with pytest.raises(InputError) as refused:
        Sensor(0, 10, 50, 50)
    assert refused.value.field == "value_high"


@given(st.floats(-39, 149))
def test_a_thermistor_and_back(at: float) -> None:
    part = Thermistor(10e3, 3950)
    assert part.temperature_c(part.resistance_ohm(at)) == pytest.approx(at, abs=1e-9)
    assert part.believed(at)


def test_an_open_thermistor_is_not_believed() -> None:
    part = Thermistor(10e3, 3950)
    assert not part.believed(part.temperature_c(1e9))
    assert not part.believed(part.temperature_c(5.0))
    with pytest.raises(InputError):
        part.temperature_c(0.0)


def test_a_third_of_the_flow_is_a_ninth_of_the_signal() -> None:
    assert flow_per_pa_m3_h(60, 9) == pytest.approx(10.0)
    assert flow_per_pa_m3_h(60, 81) == pytest.approx(60 / 18)
    assert math.isclose(flow_per_pa_m3_h(60, 9) / flow_per_pa_m3_h(60, 81), 3)
