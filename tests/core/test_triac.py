"""What stands around a triac: stress against rating, snubber, filter, gate, fuse, dropper."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from scipy.integrate import solve_ivp

from fenwit.core.errors import InputError
from fenwit.core.methods.phase_angle.dropper import size_dropper
from fenwit.core.methods.phase_angle.triac import (
    TriacDesign,
    TriacPart,
    size_filter,
    size_snubber,
    size_triac,
)
from fenwit.core.operating import Source
from fenwit.core.regulator.firing import FiringCurve, firing_curve
from fenwit.core.regulator.firing_points import PhasePoint, phase_solutions
from fenwit.core.regulator.snubber import snubber_loss_w
from tests.known.machines import MAINS, S16, S16_LOAD
from tests.known.triac import B4, B4_LOAD, C16, C16_LOAD

PART = TriacPart()


@pytest.fixture(scope="module")
def curve() -> FiringCurve:
    return firing_curve(C16, C16_LOAD, MAINS, 1.1)


def stress(design: TriacDesign, what: str) -> float:
    return next(s.ratio for s in design.stresses if what in s.what)


def test_a_usual_triac_bears_a_sweep_fan(curve: FiringCurve) -> None:
    found = size_triac(C16, C16_LOAD, curve, PART)
    assert found.met, found.reasons
    assert stress(found, "rms current") == pytest.approx(0.33 / 4, abs=0.02)
    assert found.sink.none_needed
    assert found.off_state_class_v == 800
    assert found.varistor_v == 275
    assert 0.5 <= found.fuse_a <= 0.7
    assert found.gate_ohm >= 325 / 1.0
    assert found.gate_w < 0.5


@pytest.mark.parametrize(
    ("change", "what"),
    [
        ({"rms_a": 0.2}, "rms current"),
        ({"surge_a": 0.9}, "rotor held"),
        ({"off_state_v": 400.0}, "off-state volts"),
        ({"holding_a": 0.5}, "holding"),
        ({"gate_a": 0.9}, "gate current"),
    ],
)
def test_a_part_that_is_too_weak_is_named(curve: FiringCurve, change: dict[str, float], what: str) -> None:
    found = size_triac(C16, C16_LOAD, curve, replace(PART, **change))
    assert not found.met
    assert any(what in r for r in found.reasons)


def test_heat_by_hand(curve: FiringCurve) -> None:
    """P = 0.9 V · I_avg + 0.1 Ω · I²; room (125 − 25 − 40) K over P less 3 and 1 K/W."""
    hot = replace(PART, slope_ohm=5.0, threshold_v=3.0, case_kw=3.0)
    found = size_triac(C16, C16_LOAD, curve, hot)
    worst = max(3.0 * p.triac_average_a + 5.0 * p.triac_current_a**2 for p in curve.points if p)
    assert found.sink.loss_w == pytest.approx(worst)
    assert not found.sink.none_needed
    assert found.sink.needed_kw == pytest.approx(60 / worst - 4)
    assert found.sink.junction_c == pytest.approx(100)
    small = size_triac(C16, C16_LOAD, curve, PART)
    assert small.sink.junction_c == pytest.approx(40 + 60 * small.sink.loss_w)
    buried = size_triac(C16, C16_LOAD, curve, replace(hot, case_kw=90.0))
    assert any("junction" in r for r in buried.reasons)
    with pytest.raises(InputError, match="hotter than the junction"):
        size_triac(C16, C16_LOAD, curve, PART, ambient_c=105)


def test_a_snubbers_ringing_is_what_integration_gives(curve: FiringCurve) -> None:
    """*Independent*: L, R and C in series on a step, stepped in time."""
    s = size_snubber(C16, C16_LOAD, MAINS, (130, 250), curve.inductance_h, PART)

    def slope(_: float, x: np.ndarray) -> list[float]:
        i, v = x
        return [(130 - s.ohm * i - v) / curve.inductance_h, i / s.farads]

    period = 2 * np.pi * np.sqrt(curve.inductance_h * s.farads)
    run = solve_ivp(slope, (0, 2 * period), [0, 0], rtol=1e-10, atol=1e-12, dense_output=True)
    t = np.linspace(0, 2 * period, 20001)
    i, v_c = run.sol(t)
    volts = s.ohm * i + v_c
    assert volts.max() == pytest.approx(s.peak_v, rel=2e-3)
    assert np.abs(np.gradient(volts, t)).max() * 1e-6 == pytest.approx(s.dvdt_v_us, rel=0.02)
    assert s.dvdt_v_us <= PART.dvdt_v_us / 2
    assert s.loss_w == pytest.approx(s.farads * 250**2 * 50)
    assert s.leakage_a == pytest.approx(2 * np.pi * 50 * s.farads * 230)
    assert s.creeps_rpm is None


def test_a_snubber_is_emptied_at_firing_too() -> None:
    """*Independent*: S16 at 150, 225, 290 rpm, V_T 1.0 V, 33 nF: 0.25, 0.31, 0.34 W in the regulator."""
    solved = phase_solutions(S16, S16_LOAD, MAINS, (118.15, 102.99, 81.77), on_state_v=1.0)
    found = [s.running for s in solved if isinstance(s.running, PhasePoint)]
    lost = [
        1.0 * p.triac_average_a + snubber_loss_w(33e-9, p.commutation_step_v, p.firing_step_v, 50.0)
        for p in found
    ]
    assert [round(w, 2) for w in lost] == [0.25, 0.31, 0.34]
    # Where both swings are alike it is the old rule.
    assert snubber_loss_w(33e-9, 130, 130, 50) == pytest.approx(33e-9 * 130**2 * 100)
    for bad in ((-1e-9, 1, 1, 50), (1e-9, 1e5, 1, 50), (1e-9, 1, 1, 0.0)):
        with pytest.raises(InputError):
            snubber_loss_w(*bad)


def test_a_larger_snubber_for_a_touchier_triac_and_its_leakage(curve: FiringCurve) -> None:
    easy, touchy = (
        size_snubber(C16, C16_LOAD, MAINS, (130, 250), 5e-3, replace(PART, dvdt_v_us=d)) for d in (50.0, 5.0)
    )
    assert touchy.farads > easy.farads
    assert touchy.leakage_a > easy.leakage_a
    assert (
        "no snubber"
        in size_snubber(C16, C16_LOAD, MAINS, (300, 300), 1e-5, replace(PART, dvdt_v_us=0.1)).words
    )


def test_filter_dropper_and_nonsense(curve: FiringCurve) -> None:
    points = [p for p in curve.points if p is not None]
    found = size_filter(points, MAINS)
    assert found.resonance_hz < 30e3
    assert found.resonance_hz == pytest.approx(1 / (2 * np.pi * np.sqrt(found.choke_h * found.capacitor_f)))
    assert found.crest_a >= max(p.triac_current_a for p in points)
    d = size_dropper(5.0, 0.012, 230, 50)
    assert d.current_a >= 0.012
    assert size_dropper(5.0, 0.003, 230, 50).farads < d.farads
    assert "never to be touched" in d.words
    for bad in (
        lambda: size_dropper(5.0, 0.09, 110, 50),
        lambda: size_dropper(0.0, 0.01, 230, 50),
        lambda: size_filter(points, MAINS, 1.0),
        lambda: TriacPart(rms_a=0),
        lambda: TriacPart(junction_c=20),
        lambda: size_snubber(C16, C16_LOAD, MAINS, (100, 100), 0.0, PART),
    ):
        with pytest.raises(InputError):
            bad()


def test_lower_mains_ask_for_a_lower_class() -> None:
    low = firing_curve(
        replace(B4, rated_voltage_v=115), replace(B4_LOAD, full_speed_torque_nm=0.1), Source(115, 50)
    )
    found = size_triac(B4, B4_LOAD, low, replace(PART, off_state_v=600))
    assert found.off_state_class_v == 600
    assert stress(found, "off-state volts") == 1.0
