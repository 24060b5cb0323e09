"""A scope's capture of a chopped wave, read with noise, with and without the supply beside it."""

from __future__ import annotations

import numpy as np
import pytest

from fenwit.core.errors import InputError
from fenwit.core.motor.machine import Machine
from fenwit.core.motor.switched import switched
from fenwit.core.prove.capture import read_capture
from fenwit.core.regulator.phase import TriacFed
from tests.known.machines import P4
from tests.known.triac import B4, C16


def taken(
    motor: Machine, speed: float, angle: float, *, hertz: float = 50.0, noise: float = 2.0, samples: int = 4000,
    periods: float = 3.3, half_wave: bool = False,
) -> tuple[np.ndarray, np.ndarray, np.ndarray, float, float]:  # fmt: skip
    """Times, motor volts and supply volts as a scope would have them, true rms and true extinction."""
    unit = TriacFed(switched(motor, np.array([speed]), 50.0), 230.0, 1.0)
    w = unit.waveforms(np.radians(angle), 20000, half_wave=half_wave)
    s = unit.states(np.radians([angle]), half_wave=half_wave)
    random = np.random.default_rng(int(angle) + samples)
    t = np.linspace(0, periods / hertz, samples)
    place = np.mod(2 * np.pi * hertz * t + 0.7, 2 * np.pi) / (2 * np.pi) * 20000
    k = np.minimum(place.astype(int), 19999)
    v, u = (x[k] + noise * random.standard_normal(samples) for x in (w.motor_v, w.supply_v))
    return t, v, u, float(s.motor_voltage_v[0, 0]), float(np.degrees(s.extinction_rad[0, 0]))


@pytest.mark.parametrize(
    ("motor", "speed", "angle"),
    [(C16, 319, 45), (C16, 281, 90), (C16, 188, 110), (C16, 94, 130), (B4, 1125, 90), (P4, 900, 100)],
)
@pytest.mark.parametrize("two_channels", [True, False])
def test_angles_and_rms_come_out_of_a_noisy_capture(
    motor: Machine, speed: float, angle: float, two_channels: bool
) -> None:
    t, v, u, rms, extinction = taken(motor, speed, angle)
    found = read_capture(t, v, u if two_channels else None)
    assert found.frequency_hz == pytest.approx(50, abs=0.02)
    assert found.rms_v == pytest.approx(rms, rel=0.005)
    assert found.supply_rms_v == pytest.approx(230, rel=0.01)
    assert found.firing is not None
    assert found.extinction is not None
    assert found.firing.deg == pytest.approx(angle, abs=0.5)
    assert found.extinction.deg == pytest.approx(extinction, abs=0.6)
    assert found.firing.spread_deg < 1
    assert abs(found.asymmetry_deg) < 0.3
    assert found.missing_share == 0
    assert found.words == ()


def test_other_rates_lengths_and_sixty_hertz() -> None:
    for hertz, samples, periods in ((50, 1200, 2.1), (60, 8000, 6.0), (50, 40_000, 9.7)):
        t, v, u, _, _ = taken(C16, 281, 90, hertz=hertz, samples=samples, periods=periods)
        found = read_capture(t, v, u)
        assert found.frequency_hz == pytest.approx(hertz, abs=0.05)
        assert found.firing is not None
        assert found.firing.deg == pytest.approx(90, abs=0.7)


def test_an_average_responding_meter_misses_on_a_chopped_wave() -> None:
    t, v, _, rms, _ = taken(C16, 94, 130, noise=0.0)
    found = read_capture(t, v)
    assert found.average_meter_v < 0.93 * rms
    sine = 325 * np.sin(2 * np.pi * 50 * t)
    plain = read_capture(t, sine)
    assert plain.average_meter_v == pytest.approx(plain.rms_v, rel=0.003)
    assert plain.firing is None
    assert "no firing is seen" in plain.words[0]


def test_a_missing_half_and_uneven_halves_are_named() -> None:
    t, v, u, _, _ = taken(B4, 1200, 10, half_wave=True, periods=5.2)
    missed = read_capture(t, v, u)
    assert missed.missing_share == pytest.approx(0.5, abs=0.12)
    assert any("do not fire" in w for w in missed.words)
    assert any("direct volts" in w for w in missed.words)
    theta = 2 * np.pi * 50 * t
    late = np.where(np.mod(theta, 2 * np.pi) < np.pi, np.radians(80), np.radians(92))
    on = np.mod(theta, np.pi) > late
    found = read_capture(t, np.where(on, 325 * np.sin(theta), 0.0), 325 * np.sin(theta))
    assert found.asymmetry_deg == pytest.approx(-12, abs=0.7)
    assert any("12" in w and "apart" in w for w in found.words)


@pytest.mark.parametrize(
    ("t", "v"),
    [
        (np.linspace(0, 0.06, 50), np.ones(50)),
        (np.linspace(0, 0.06, 1000), np.zeros(1000)),
        (np.linspace(0, 0.06, 1000), np.ones(999)),
        (np.linspace(0, 0.06, 1000)[::-1], np.sin(np.linspace(0, 20, 1000))),
        (np.linspace(0, 1, 1000) ** 2, np.sin(np.linspace(0, 20, 1000))),
        (np.linspace(0, 0.06, 1000), np.full(1000, np.nan)),
        (np.linspace(0, 0.02, 1000), 325 * np.sin(2 * np.pi * 50 * np.linspace(0, 0.02, 1000))),
        (np.linspace(0, 0.06, 1000), np.full(1000, 1e6)),
        (np.linspace(0, 0.06, 1000), np.full(1000, 5.0)),
    ],
)
def test_what_is_no_capture_is_refused(t: np.ndarray, v: np.ndarray) -> None:
    with pytest.raises(InputError):
        read_capture(t, v)
