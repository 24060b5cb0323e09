"""From full-speed readings to a motor, and bands that can be trusted."""

from __future__ import annotations

import dataclasses

import numpy as np
import pytest

from fenwit.core.calibrate import prior
from fenwit.core.calibrate.bands import step_bands
from fenwit.core.calibrate.fit import Datum, Measured, believe
from fenwit.core.errors import InputError
from fenwit.core.motor.kinds import MotorKind
from fenwit.core.motor.machine import TwoWindingMotor
from fenwit.core.operating import load_at_datum, solve
from fenwit.core.regulator.series import capacitor_impedance
from tests.known.machines import MAINS, P4, S16, S16_LOAD, with_capacitor

PLATE = Datum(
    kind=MotorKind.PSC,
    poles=16,
    rated_voltage_v=230,
    rated_frequency_hz=50,
    supply_voltage_v=230,
    frequency_hz=50,
    full_speed_rpm=Measured(330, 0.003),
    run_capacitance_f=Measured(2.5e-6, 0.03),
)
READ = dataclasses.replace(
    PLATE,
    line_current_a=Measured(0.318, 0.01),
    input_power_w=Measured(73.0, 0.015),
    main_resistance_ohm=Measured(260, 0.02),
    auxiliary_resistance_ohm=Measured(290, 0.02),
)
CAPACITORS = [complex(capacitor_impedance(c, 50)) for c in (1.8e-6, 2.7e-6, 4.5e-6)]


def width(datum: Datum) -> float:
    return step_bands(believe(datum), MAINS, CAPACITORS)[1].speed_rpm.half_width


def test_the_fitted_motor_gives_the_readings_back() -> None:
    belief = believe(READ)
    assert len(belief.checks) == 4
    assert all(abs(check.sigmas) < 1 for check in belief.checks)
    point = solve(belief.motor, belief.load, [MAINS])[0].running
    assert point is not None
    # Full speed is fitted within its own 0.3 %.
    assert point.speed_rpm == pytest.approx(330, abs=0.5)
    assert point.line_current_a == pytest.approx(0.318, rel=0.01)


def test_the_draws_keep_to_the_readings() -> None:
    direct = step_bands(believe(READ), MAINS, [0j])[0]
    assert direct.line_current_a.low == pytest.approx(0.318 * (1 - 0.0165), rel=0.01)
    assert direct.line_current_a.high == pytest.approx(0.318 * (1 + 0.0165), rel=0.01)
    assert direct.speed_rpm.half_width == pytest.approx(330 * 0.003 * 1.645, rel=0.3)


def test_the_bands_hold_the_true_motor_and_narrow_with_readings() -> None:
    true = [s.points[0].speed_rpm for s in solve(S16, S16_LOAD, [with_capacitor(c) for c in (1.8, 2.7, 4.5)])]
    bands = step_bands(believe(READ), MAINS, CAPACITORS)
    assert all(band.speed_rpm.holds(speed) for band, speed in zip(bands, true, strict=True))
    more = dataclasses.replace(READ, capacitor_voltage_v=Measured(415, 0.01))
    assert width(more) < width(READ) < width(PLATE)


def test_nine_in_ten_bands_hold_over_invented_motors() -> None:
    """A small version of the calibration benchmark: motors drawn from the prior, read with noise."""
    random = np.random.default_rng(7)
    held, count = 0, 0
    for _ in range(40):
        factor = {
            r.name: r.median * np.exp(r.spread * random.standard_normal())
            for r in prior.ratios(MotorKind.PSC, 16)
        }
        r_1 = 260 * np.exp(0.3 * random.standard_normal())
        capacitance = 1 / (100 * np.pi * r_1 * 4.9 * np.exp(0.2 * random.standard_normal()))
        motor = TwoWindingMotor(
            230, 50, 16, r_1, factor["main_leakage_reactance"] * r_1, factor["magnetising_reactance"] * r_1,
            factor["rotor_resistance"] * r_1, factor["rotor_leakage_reactance"] * r_1, factor["turns_ratio"],
            factor["auxiliary_resistance"] * r_1,
            factor["turns_ratio"] ** 2 * factor["main_leakage_reactance"] * r_1, capacitance,
        )  # fmt: skip
        n_full = float(random.uniform(300, 345))
        try:
            load = load_at_datum(motor, n_full, 230, 50, 0.03 * np.exp(0.4 * random.standard_normal()))
        except InputError:
            continue
        direct, slowed = solve(motor, load, [MAINS, with_capacitor(capacitance * 1e6 * 1.1)])
        if direct.running is None or slowed.running is None or abs(direct.running.speed_rpm - n_full) > 0.1:
            continue

        def noisy(value: float, sigma: float) -> Measured:
            return Measured(value * (1 + sigma * float(random.standard_normal())), sigma)

        datum = Datum(
            MotorKind.PSC, 16, 230, 50, 230, 50, noisy(n_full, 0.003),
            line_current_a=noisy(direct.running.line_current_a, 0.01),
            input_power_w=noisy(direct.running.input_power_w, 0.015),
            main_resistance_ohm=noisy(r_1, 0.02),
            run_capacitance_f=noisy(capacitance, 0.03),
        )  # fmt: skip
        band = step_bands(believe(datum), MAINS, [complex(capacitor_impedance(capacitance * 1.1, 50))])[0]
        held += band.speed_rpm.holds(slowed.running.speed_rpm)
        count += 1
    assert count >= 20
    assert held / count >= 0.8


def test_a_shaded_pole_motor_is_fitted_from_amps_alone() -> None:
    datum = Datum(
        MotorKind.SHADED_POLE,
        4,
        230,
        50,
        230,
        50,
        Measured(1270, 0.003),
        line_current_a=Measured(0.3745, 0.01),
    )
    belief = believe(datum)
    assert belief.checks[0].expected == pytest.approx(0.3745, rel=0.01)
    load = load_at_datum(P4, 1270.0, 230, 50)
    true = solve(P4, load, [with_capacitor(1.5)])[0].running
    assert true is not None
    band = step_bands(belief, MAINS, [complex(capacitor_impedance(1.5e-6, 50))])[0]
    assert band.speed_rpm.holds(true.speed_rpm)


def test_bands_say_when_a_step_may_not_start() -> None:
    bands = step_bands(believe(PLATE), MAINS, [complex(capacitor_impedance(c, 50)) for c in (0.9e-6, 0.3e-6)])
    assert 0.05 < bands[0].may_not_start < 0.95
    assert bands[1].may_not_start == 1.0
    assert bands[1].speed_rpm.high == 0


@pytest.mark.parametrize(
    ("change", "field", "reason"),
    [
        ({"run_capacitance_f": None}, "run_capacitance_f", "decides how it runs"),
        ({"full_speed_rpm": Measured(376, 0.003)}, "full_speed_rpm", "poles and rpm right"),
        ({"full_speed_rpm": Measured(80, 0.003)}, "full_speed_rpm", "poles and rpm right"),
        ({"kind": MotorKind.SHADED_POLE}, "line_current_a", "how big this motor is"),
        ({"kind": MotorKind.UNIVERSAL}, "motor_kind", "no model"),
        (
            {"line_current_a": Measured(0.1, 0.01), "input_power_w": Measured(73, 0.01)},
            "input_power_w",
            "more watts than volts times amps",
        ),
        ({"main_resistance_ohm": Measured(260e3, 0.01)}, "main_resistance_ohm", "slip of a thousand"),
    ],
)
def test_readings_that_cannot_be_are_refused(change: dict[str, object], field: str, reason: str) -> None:
    with pytest.raises(InputError, match=reason) as error:
        believe(dataclasses.replace(PLATE, **change))  # type: ignore[arg-type]
    assert error.value.field == field


def test_every_assumption_has_its_grounds() -> None:
    for kind, poles in ((MotorKind.PSC, 16), (MotorKind.PSC, 6), (MotorKind.SHADED_POLE, 4)):
        for ratio in prior.ratios(kind, poles):
            assert ratio.grounds
            assert ratio.median > 0
            assert 0 < ratio.spread < 1
    assert any("winding" in a for a in believe(READ).assumptions)
