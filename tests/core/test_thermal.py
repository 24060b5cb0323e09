"""A fan that cools by temperature: against event-exact integration, power balance, cycling, its log, nonsense."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from fenwit.core.errors import InputError
from fenwit.core.regulator.heat_log import HeatLog, sink_fit
from fenwit.core.regulator.thermal import (
    Curve,
    Profile,
    Settled,
    Sink,
    ThermalState,
    power_for,
    settled,
    thermal_run,
)

SINK = Sink(2.5, 0.6)


def exact(
    sinks: Sequence[Sink], curve: Curve, profiles: Sequence[Profile], ambient: float, total: float
) -> dict[str, float]:
    """Independent: stiff adaptive integration, every event found by the integrator."""
    n = len(sinks)
    temps = np.full(n, ambient)
    senses = temps + [s.sensor_offset_k for s in sinks]
    mode, kick, t = "off", 0.0, 0.0
    place, ends = [0] * n, [p.durations_s[0] for p in profiles]
    starts = 0
    off = turned = 0.0
    worst = -math.inf

    def sense_of(x: np.ndarray) -> np.ndarray:
        return np.array(
            [x[n + i] if s.sensor_lag_s else x[i] + s.sensor_offset_k for i, s in enumerate(sinks)]
        )

    while t < total - 1e-9:
        hot = float(max(senses))
        if mode == "off" and hot >= curve.start_c - 1e-9:
            mode, kick, starts = "kick", curve.kick_s, starts + 1
        if mode == "kick" and kick <= 1e-12:
            mode = "run"
        if mode == "run" and hot <= curve.stop_c + 1e-9:
            mode = "off"
        powers = [p.powers_w[i] for p, i in zip(profiles, place, strict=True)]

        def speed(x: np.ndarray, now: str = mode) -> float:
            return {"off": 0.0, "kick": 1.0}.get(now, curve.speed(float(max(sense_of(x)))))

        def slopes(_: float, x: np.ndarray, loads: list[float] = powers, now: str = mode) -> list[float]:
            s = speed(x, now)
            rows = [
                (loads[i] - (x[i] - ambient) * (1 / k.natural_k_w + s**k.flow_exponent / k.forced_k_w))
                / k.capacity_j_k
                for i, k in enumerate(sinks)
            ]
            follow = [
                (x[i] + k.sensor_offset_k - x[n + i]) / k.sensor_lag_s if k.sensor_lag_s else 0.0
                for i, k in enumerate(sinks)
            ]
            return [*rows, *follow, s]

        level = curve.start_c if mode == "off" else curve.stop_c
        ends_at = lambda _, x, level=level: float(max(sense_of(x))) - level  # noqa: E731
        ends_at.terminal, ends_at.direction = True, 1.0 if mode == "off" else -1.0  # type: ignore[attr-defined]
        until = min(total, *ends) - t
        until = min(until, kick) if mode == "kick" else until
        found = solve_ivp(
            slopes, (0, until), [*temps, *senses, 0.0], rtol=1e-10, atol=1e-9, max_step=2.0, method="LSODA",
            events=None if mode == "kick" else ends_at,
        )  # fmt: skip
        gone, x = float(found.t[-1]), found.y[:, -1]
        temps, senses = x[:n], sense_of(x)
        worst = max(worst, float(found.y[:n].max()))
        turned += float(x[-1])
        off += gone if mode == "off" else 0.0
        kick -= gone if mode == "kick" else 0.0
        t += gone
        for i, p in enumerate(profiles):
            while ends[i] <= t + 1e-9:
                place[i] = (place[i] + 1) % len(p.powers_w)
                ends[i] += p.durations_s[place[i]]
    return {
        "starts": starts, "off": off / total, "mean": turned / total, "worst": worst, "final": float(temps[0]),
        "sense": float(senses[0]),
    }  # fmt: skip


@pytest.mark.parametrize(
    ("sinks", "curve", "profiles", "ambient"),
    [
        ([SINK], Curve(), [Profile((40, 2), (240, 40))], 25.0),
        ([replace(SINK, sensor_lag_s=15, sensor_offset_k=-2)], Curve(), [Profile((60, 0, 15), (90, 200, 33))], 25.0),
        ([Sink(2.5, 0.5, capacity_j_k=120, sensor_lag_s=20)], Curve(least=0.35, kick_s=2), [Profile((3.5,), (3600,))],
         24.0),
        ([Sink(2, 0.5, capacity_j_k=150)] * 3, Curve(), [Profile((p,), (3600,)) for p in (5, 12, 30)], 24.0),
        ([Sink(2, 0.5, 0.8, 60), Sink(1.2, 0.3, 0.6, 400, 0, 6, -1)], Curve(30, 42, 2),
         [Profile((9, 0), (70, 50)), Profile((4, 20), (300, 60))], 22.0),
        ([Sink(2.5, 0.6, sensor_lag_s=1, capacity_j_k=20)], Curve(), [Profile((40, 2), (20, 10))], 25.0),
    ],
)  # fmt: skip
def test_the_run_agrees_with_an_integration_that_stops_at_every_event(
    sinks: list[Sink], curve: Curve, profiles: list[Profile], ambient: float
) -> None:
    run = thermal_run(sinks, curve, profiles, ambient, 1500.0)
    want = exact(sinks, curve, profiles, ambient, 1500.0)
    assert run.starts == want["starts"]
    assert run.off_fraction == pytest.approx(want["off"], rel=1e-3, abs=1e-6)
    assert run.mean_speed == pytest.approx(want["mean"], rel=1e-3)
    assert max(s.worst_sink_c for s in run.sinks) == pytest.approx(want["worst"], rel=1e-4)
    assert run.sinks[0].final_sink_c == pytest.approx(want["final"], rel=1e-4)
    assert run.sinks[0].final_sensor_c == pytest.approx(want["sense"], rel=1e-4)


@settings(max_examples=60, deadline=None)
@given(
    st.floats(0.3, 5.0), st.floats(0.05, 1.5), st.floats(0.0, 200.0), st.floats(10.0, 30.0), st.floats(0.1, 0.8),
    st.floats(1.0, 8.0), st.floats(-6.0, 6.0),
)  # fmt: skip
def test_what_flows_in_flows_out(
    natural: float,
    forced: float,
    power: float,
    ambient: float,
    least: float,
    hysteresis: float,
    offset: float,
) -> None:
    sink, curve = Sink(natural, forced, sensor_offset_k=offset), Curve(hysteresis_k=hysteresis, least=least)
    found: Settled = settled(sink, curve, power, ambient)
    if found.sink_c is not None and found.speed is not None:
        assert (found.sink_c - ambient) * sink.conductance(found.speed) == pytest.approx(
            power, rel=1e-6, abs=1e-6
        )
        # From cold the run comes to rest there: the sensor settled to nothing else.
        run = thermal_run(
            [sink], curve, [Profile((power,), (3600,))], ambient, 40 * sink.capacity_j_k * natural
        )
        assert run.sinks[0].final_sink_c == pytest.approx(found.sink_c, abs=0.05)
        if found.state in (ThermalState.RUNNING, ThermalState.ABOVE_FULL):
            assert power_for(sink, curve, found.sink_c, ambient) == pytest.approx(power, rel=1e-6)
    else:
        assert found.state is ThermalState.CYCLING
        assert found.on_s
        assert found.off_s
        assert min(found.on_s, found.off_s) > 0


@settings(max_examples=25, deadline=None)
@given(st.floats(2.0, 80.0), st.floats(2.0, 80.0))
def test_more_heat_is_never_cooler(one: float, other: float) -> None:
    low, high = sorted((one, other))
    assume(high - low > 0.5)
    cool, warm = (thermal_run([SINK], Curve(), [Profile((p,), (60,))], 25.0, 2000.0) for p in (low, high))
    assert warm.sinks[0].worst_sink_c >= cool.sinks[0].worst_sink_c - 1e-6
    assert warm.mean_speed >= cool.mean_speed - 0.02


def test_a_cycle_lasts_as_long_as_it_is_foretold() -> None:
    sink, curve = Sink(2.5, 0.5, capacity_j_k=120), Curve(least=0.35, kick_s=2)
    found = settled(sink, curve, 3.5, 24.0)
    run = thermal_run([sink], curve, [Profile((3.5,), (3600,))], 24.0, 7200.0)
    assert found.on_s is not None
    assert found.off_s is not None
    assert np.diff(run.starts_s) == pytest.approx(found.on_s + found.off_s, rel=1e-4)
    on = np.array(run.stops_s) - np.array(run.starts_s[: len(run.stops_s)])
    assert on == pytest.approx(found.on_s, rel=1e-4)


def test_one_controller_on_the_hottest_against_one_each() -> None:
    """Three sinks of chapter heat in the docs: shared all turn alike; alone each turns as little as it may."""
    sinks, loads = [Sink(2.0, 0.5, capacity_j_k=150)] * 3, (5, 12, 30)
    shared = thermal_run(sinks, Curve(), [Profile((p,), (3600,)) for p in loads], 24.0)
    each = [thermal_run(sinks[:1], Curve(), [Profile((p,), (3600,))], 24.0) for p in loads]
    assert shared.mean_speed == pytest.approx(0.53, abs=0.005)
    assert [s.final_sink_c for s in shared.sinks] == pytest.approx([26.7, 30.4, 39.9], abs=0.06)
    assert [r.mean_speed for r in each] == pytest.approx([0.08, 0.29, 0.53], abs=0.005)
    assert each[0].starts == 9
    assert [each[1].sinks[0].final_sink_c, each[2].sinks[0].final_sink_c] == pytest.approx(
        [32.1, 39.9], abs=0.06
    )


def test_a_sensor_far_from_the_device_hides_what_it_bears() -> None:
    near = replace(SINK, device_k_w=0.4)
    far = replace(near, sensor_lag_s=25.0, sensor_offset_k=-8.0)
    load = [Profile((60, 2), (120, 120))]
    run_near, run_far = (thermal_run([s], Curve(), load, 25.0) for s in (near, far))
    assert run_far.sinks[0].worst_device_c > run_near.sinks[0].worst_device_c + 2
    assert run_far.sinks[0].sensor_c.max() < run_far.sinks[0].worst_device_c - 20


@pytest.mark.parametrize(
    ("make", "field"),
    [
        (lambda: Curve(full_c=30), "full_c"), (lambda: Curve(hysteresis_k=0), "hysteresis_k"),
        (lambda: Curve(least=0), "minimum_speed"), (lambda: Sink(0, 1), "natural_k_w"),
        (lambda: Sink(1, 1, sensor_lag_s=-1), "sensor_lag_s"), (lambda: Profile((), ()), "powers_w"),
        (lambda: Profile((1, 2), (1,)), "durations_s"), (lambda: Profile((1,), (0,)), "durations_s"),
        (lambda: thermal_run([SINK], Curve(), [Profile((5,), (5,))], math.nan), "ambient_c"),
        (lambda: thermal_run([], Curve(), [], 20), "sinks"), (lambda: power_for(SINK, Curve(), 26, 25), "sink_c"),
        (lambda: settled(SINK, Curve(), math.inf, 25), "power_w"),
    ],
)  # fmt: skip
def test_what_cannot_be_is_refused(make: object, field: str) -> None:
    with pytest.raises(InputError) as refused:
        make()  # type: ignore[operator]
    assert refused.value.field == field


def test_so_quick_a_cycle_is_not_run_for_ever() -> None:
    with pytest.raises(InputError, match="hysteresis"):
        thermal_run(
            [Sink(2.5, 0.01, capacity_j_k=0.01)],
            Curve(hysteresis_k=1e-3, kick_s=0),
            [Profile((3.5,), (1,))],
            24.0,
            1e7,
        )


# ---------------------------------------------------------------- its log


def log(seed: int, noise: float = 0.2, fan: Sequence[float] | None = None, rows: int = 240) -> HeatLog:
    rng = np.random.default_rng(seed)
    t = np.arange(rows) * 10.0
    speed = np.where((t > 600) & (t < 1200), 0.8, 0.0) if fan is None else np.array(fan)
    power = np.where(t < 1700, 30.0, 0.0)
    at, out = 24.0, []
    for p, s in zip(power, speed, strict=True):
        out.append(at)
        g = 1 / 2.4 + (s**0.6 / 0.55 if s > 0 else 0)
        end = 24 + p / g
        at = end + (at - end) * math.exp(-10 * g / 180)
    return HeatLog(t, np.array(out) + rng.normal(0, noise, rows), speed, power, 24.0)


def test_a_log_tells_the_sink() -> None:
    found = sink_fit(log(1))
    assert (found.natural_k_w, found.forced_k_w, found.capacity_j_k) == pytest.approx(
        (2.4, 0.55, 180), rel=0.02
    )
    assert found.misfit_k == pytest.approx(0.2, rel=0.15)
    assert not found.short
    for band in found.bands:
        assert band.half_width / band.low < 0.02


def test_nine_in_ten_bands_hold() -> None:
    held = np.zeros(3)
    for seed in range(60):
        found = sink_fit(log(seed))
        held += [b.low <= true <= b.high for b, true in zip(found.bands, (2.4, 0.55, 180), strict=True)]
    # 60 tries: 54 ± 2.3 expected, four spreads left.
    assert (held >= 45).all()


def test_a_log_that_cannot_tell_is_refused() -> None:
    with pytest.raises(InputError, match="told apart"):
        log(1, fan=[0.0] * 240)
    with pytest.raises(InputError, match="told apart"):
        log(1, fan=[0.7] * 240)
    good = log(1)
    with pytest.raises(InputError, match="backwards in row 4"):
        replace(good, time_s=np.concatenate([good.time_s[:3], good.time_s[1:-2]]))
    assert "on" in sink_fit(log(1, fan=[1.0 if 60 < i < 64 else 0.0 for i in range(240)])).short
