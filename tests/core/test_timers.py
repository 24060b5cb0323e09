"""Timer ICs against a simulation of their events, their laws as properties, and a controller's registers."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fenwit.core.errors import InputError
from fenwit.core.regulator.registers import TimerMode, timer_choices
from fenwit.core.regulator.timers import Astable, Chip, Diode, OneShot, Steered


def simulated(  # independent: events one after another, no closed form of a period
    tau_c: float, tau_d: float, to_c: float, to_d: float, supply: float, late: float
) -> tuple[float, float]:
    """High and low time of an oscillator that charges and discharges, its comparators late."""
    v, charging, clock, edges = 0.0, True, 0.0, []
    for _ in range(41):
        tau, end = (tau_c, to_c) if charging else (tau_d, to_d)
        threshold = 2 * supply / 3 if charging else supply / 3
        passed = (charging and v >= threshold) or (not charging and v <= threshold)
        wait = 0.0 if passed else tau * np.log((end - v) / (end - threshold))
        clock += wait + late
        v = end - (end - v) * np.exp(-(wait + late) / tau)
        edges.append(clock)
        charging = not charging
    times = np.diff(edges)
    return float(times[-1]), float(times[-2])


ohms = st.floats(500.0, 1e6)
farads = st.floats(100e-12, 1e-6)


@settings(max_examples=60, deadline=None)
@given(ohms, ohms, farads, st.floats(3.0, 18.0), st.floats(0.0, 0.5), st.floats(0.0, 0.4))
def test_the_plain_circuit_does_what_its_events_do(
    a: float, b: float, c: float, v: float, late_share: float, saturation: float
) -> None:
    late = late_share * min((a + b) * c, b * c)
    found = Astable(a, b, c, Chip(v, saturation, late)).beat
    # The simulation ends after a charge: its last time is the high one.
    high, low = simulated((a + b) * c, b * c, v, saturation, v, late)
    assert float(found.high_s) == pytest.approx(high, rel=1e-9)
    assert float(found.low_s) == pytest.approx(low, rel=1e-9)


def simulated_real(circuit: Steered, travel: float, steps: int = 40_000) -> tuple[float, float]:
    """High and low time by small steps of charge through a diode: independent of the closed form."""
    diode, v = Diode(), float(circuit.chip.supply_v)
    charge, discharge = (float(r) for r in circuit.legs_ohm(travel))
    c = float(circuit.capacitance_f)
    found = []
    for drive, ohm, start, stop in (
        (float(circuit.charged_v), charge, v / 3, 2 * v / 3),
        (-float(circuit.chip.saturation_v), discharge, 2 * v / 3, v / 3),
    ):
        at = np.linspace(start, stop, steps + 1)
        across = np.abs(drive - at) if drive > 0 else at + drive
        amps = diode.current_a(across, np.full_like(at, ohm))
        found.append(float(np.trapezoid(c / amps, np.abs(at - start))))
    return found[0], found[1]


@pytest.mark.parametrize("travel", [0.0, 0.2, 0.5, 0.93, 1.0])
@pytest.mark.parametrize("supply", [5.0, 12.0])
def test_real_diodes_charge_as_their_law_says(travel: float, supply: float) -> None:
    circuit = Steered(1e3, 1e3, 50e3, 1e-9, Chip(supply, 0.1))
    high, low = simulated_real(circuit, travel)
    beat = circuit.real(travel)
    assert float(beat.high_s) == pytest.approx(high, rel=2e-6)
    assert float(beat.low_s) == pytest.approx(low, rel=2e-6)


def test_real_diodes_run_faster_than_a_constant_drop() -> None:
    # Independent prototype: 22.1 kHz at 5 V (0.6 V constant: 20.4), 25.2 at 12 V (24.7).
    for supply, real, constant in ((5.0, 22.1e3, 20.4e3), (12.0, 25.2e3, 24.7e3)):
        circuit = Steered(1e3, 1e3, 50e3, 1e-9, Chip(supply))
        assert float(circuit.real(0.5).frequency_hz) == pytest.approx(real, rel=3e-3)
        assert float(circuit.beat(0.5).frequency_hz) == pytest.approx(constant, rel=3e-3)


@settings(max_examples=60, deadline=None)
@given(ohms, ohms, st.floats(1e3, 1e6), farads, st.floats(3.0, 15.0), st.floats(0.0, 1.0))
def test_steering_diodes_keep_the_frequency_and_raise_the_duty(
    high: float, low: float, pot: float, c: float, v: float, x: float
) -> None:
    circuit = Steered(high, low, pot, c, Chip(v))
    ends = circuit.beat(np.array([0.0, x, 1.0]))
    assert (np.diff(ends.duty) >= -1e-12).all()
    # Fed from the supply both legs take the same logarithm: the sum of their ohms decides.
    assert ends.frequency_hz == pytest.approx(np.full(3, ends.frequency_hz[0]), rel=1e-9)
    assert float(circuit.shop_hz) == pytest.approx(1 / (0.693 * (high + low + pot) * c))


def test_a_bipolar_output_that_drives_the_pot_moves_the_frequency() -> None:
    # Independent prototype: the ends of the travel in kHz for four capacitors.
    ends = {820e-12: (15.0, 10.6), 470e-12: (26.2, 18.5), 390e-12: (31.5, 22.3), 330e-12: (37.3, 26.3)}
    for c, (first, last) in ends.items():
        beat = Steered(1e3, 1e3, 100e3, c, Chip(12.0, 0.1), high_v=10.5).beat(np.array([0.0, 1.0]))
        assert beat.frequency_hz / 1e3 == pytest.approx([first, last], abs=0.06)


def simulated_one_shot(clock: float, width: float, low: float, periods: int = 4000) -> tuple[float, float]:
    """Duty and frequency of a level-triggered one-shot (independent: trigger by trigger)."""
    t, pulses = 1 / clock, []
    n = 0
    while n < periods:
        begin, end = n * t, n * t + width
        # Still low when it should end: it goes on until the trigger rises.
        k = int(np.floor(end / t + 1e-9))
        if end < k * t + low:
            end = k * t + low
        pulses.append((begin, end))
        n = max(int(np.ceil(end / t - 1e-9)), n + 1)
    starts = np.array([b for b, _ in pulses])
    return float(np.mean([e - b for b, e in pulses[:-1]]) / np.mean(np.diff(starts))), 1 / float(
        np.mean(np.diff(starts))
    )


@settings(max_examples=80, deadline=None)
@given(st.floats(1e3, 50e3), st.floats(0.03, 3.7), st.floats(0.0, 0.6))
def test_a_one_shot_does_what_its_triggers_do(clock: float, width: float, low: float) -> None:
    c, r = 1e-9, width / clock / (1e-9 * np.log(3.0))
    shot = OneShot(clock, r, c, low / clock, Chip())
    duty, hertz = simulated_one_shot(clock, width / clock, low / clock)
    assert float(shot.duty) == pytest.approx(duty, rel=1e-6)
    if not shot.steady:
        assert float(shot.frequency_hz) == pytest.approx(hertz, rel=1e-6)


def test_pulses_longer_than_a_period_are_swallowed() -> None:
    shot = OneShot(25e3, np.linspace(10e3, 60e3, 200), 1e-9, 1e-6, Chip())
    below = shot.resistance_ohm < float(shot.longest_ohm)
    assert (np.diff(shot.duty[below]) > 0).all()
    assert shot.duty[~below][0] == pytest.approx(0.5, abs=0.02)
    assert shot.frequency_hz[~below][0] == pytest.approx(12.5e3)


def test_it_says_when_it_cannot_oscillate() -> None:
    with pytest.raises(InputError, match="does not oscillate"):
        Steered(1e3, 1e3, 50e3, 1e-9, Chip(5.0), high_v=3.5).beat(0.5)
    with pytest.raises(InputError, match="does not oscillate"):
        _ = Astable(1e3, 1e3, 1e-9, Chip(5.0, 1.7)).beat


# ---------------------------------------------------------------- registers


@pytest.mark.parametrize(
    ("bits", "mode", "worst", "levels"),
    [(8, None, 0.0040, 80), (8, TimerMode.FAST, 0.0079, 36), (16, None, 0.0005, 640)],
)
def test_every_kilohertz_from_sixteen_megahertz(
    bits: int, mode: TimerMode | None, worst: float, levels: int
) -> None:
    best = [timer_choices(16e6, khz * 1e3, bits, mode=mode)[0] for khz in range(1, 26)]
    assert max(abs(c.frequency_error) for c in best) == pytest.approx(worst, abs=6e-5)
    assert min(c.levels for c in best) == levels


@settings(max_examples=80, deadline=None)
@given(st.floats(100e3, 200e6), st.floats(50.0, 100e3), st.sampled_from([8, 10, 16]), st.floats(0.0, 1.0))
def test_a_compare_value_makes_the_nearest_duty(clock: float, wanted: float, bits: int, duty: float) -> None:
    try:
        choices = timer_choices(clock, wanted, bits)
    except InputError:
        return
    errors = [abs(c.frequency_error) for c in choices]
    assert all(a <= b + 1e-9 for a, b in pairwise(errors))
    for choice in choices:
        made = choice.actual_duty(choice.compare(duty))
        assert abs(made - duty) <= choice.duty_resolution / 2 + 1e-12
        turn = choice.prescaler * ((choice.top + 1) if choice.mode is TimerMode.FAST else 2 * choice.top)
        assert choice.actual_frequency_hz == pytest.approx(clock / turn)
