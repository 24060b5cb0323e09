"""Why this number: what a believed machine's full speed and readings rest on."""

from __future__ import annotations

from collections.abc import Callable, Mapping

import numpy as np

from fenwit.core import quantity as q
from fenwit.core.calibrate.fit import ODD_SIGMAS
from fenwit.core.errors import InputError
from fenwit.core.frame.shown import CHECKED_DIMENSIONS
from fenwit.core.job.machine import MachineFan
from fenwit.core.job.steps import shown
from fenwit.core.methods.common.machine import CIRCUIT, LINEAR
from fenwit.core.methods.seam import Why
from fenwit.core.motor.machine import synchronous_speed_rpm


def _full(fan: MachineFan) -> Why:
    full, load = fan.full_point, fan.belief.load
    return Why(
        "Full speed",
        f"{shown(full.speed_rpm, fan.direct_bands.speed_rpm, 'rpm').text}",
        "T_motor(n, V) = T_fan(n)",
        (
            f"at {full.speed_rpm:.0f} rpm the motor gives {q.plain(full.torque_nm)} N·m on {fan.supply.voltage_v:.0f} V; "
            f"the fan takes {q.plain(float(load.torque_nm(np.array(full.speed_rpm))))} N·m",
        ),
        fan.assumptions,
        LINEAR,
        CIRCUIT,
    )


def _synchronous(fan: MachineFan) -> Why:
    f, poles = fan.datum.frequency_hz, fan.datum.poles
    n_s = synchronous_speed_rpm(poles, f)
    return Why(
        "Speed of the rotating field",
        f"{n_s:.0f} rpm",
        "n_s = 120 f / poles",
        (f"120 × {f:g} Hz / {poles} = {n_s:.0f} rpm",),
        (f"{poles} poles",),
        "Any induction motor; the rotor stays below it by the slip.",
        "Counting pole pairs",
    )


_CHECKED = {
    "line_current_a": ("Line amps", "I = V |Y(s)|"),
    "input_power_w": ("Input watts", "P = V² Re Y(s)"),
    "capacitor_voltage_v": ("Volts across the run capacitor", "V_C = V |G_C(s)|"),
    "main_resistance_ohm": ("Main winding", "R_1 of the fitted motor"),
    "auxiliary_resistance_ohm": ("Auxiliary winding", "R_a of the fitted motor"),
}


def _checked_with_numbers(fan: MachineFan, name: str, expected: str) -> str:
    d = fan.datum
    v, slip = d.supply_voltage_v, 1 - d.full_speed_rpm.value / synchronous_speed_rpm(d.poles, d.frequency_hz)
    unit = fan.belief.motor.respond(np.asarray(slip), d.frequency_hz)
    at = f"at slip {q.plain(slip)}"
    match name:
        case "line_current_a":
            y = abs(complex(unit.admittance_s))
            volts, siemens = q.worked(
                v * y, lambda i: q.show(i, q.CURRENT), lambda u, g: u * g / 1000, v, 1000 * y
            )
            return f"{volts} V × {siemens} mS {at} = {expected}"
        case "input_power_w":
            g = complex(unit.admittance_s).real
            volts, siemens = q.worked(
                v**2 * g, lambda p: q.show(p, q.POWER), lambda u, g: u**2 * g / 1000, v, 1000 * g
            )
            return f"({volts} V)² × {siemens} mS {at} = {expected}"
        case "capacitor_voltage_v" if unit.capacitor_gain is not None:
            gain = abs(complex(unit.capacitor_gain))
            volts, times = q.worked(v * gain, lambda c: q.show(c, q.VOLTAGE), lambda u, k: u * k, v, gain)
            return f"{volts} V × {times}, the circuit's gain to the run capacitor {at} = {expected}"
    return f"{_CHECKED[name][1]} = {expected}"


def check(fan: MachineFan, name: str) -> Why:
    """A reading at full speed beside what the fitted motor says. Raises InputError where there is none."""
    found = next((c for c in fan.belief.checks if c.name == name), None)
    if found is None:
        raise InputError("of", name, "a reading taken at full speed", "no such reading is compared")
    title, equation = _CHECKED[name]
    sigma: float = getattr(fan.datum, name).relative_sigma
    expected, read = (q.show(v, CHECKED_DIMENSIONS[name]) for v in (found.expected, found.read))
    return Why(
        f"{title} at full speed, by the fitted motor",
        expected,
        equation,
        (
            _checked_with_numbers(fan, name, expected),
            f"read {read}: {q.signed(100 * (found.read / found.expected - 1), 1)} % off, with {100 * sigma:.2g} % to its "
            f"own uncertainty: {q.signed(found.sigmas, 1)} standard uncertainties; "
            f"beyond ±{ODD_SIGMAS:g} it does not fit the rest",
        ),
        fan.assumptions,
        "The motor is fitted to all readings at once, so the model leans towards each of them. " + LINEAR,
        "Maximum posterior over the readings and what motors of this kind are like (docs/calibration.md)",
    )


FULL: Mapping[str, Callable[[MachineFan], Why]] = {"full": _full, "synchronous": _synchronous}
"""By what is asked for [-]"""
