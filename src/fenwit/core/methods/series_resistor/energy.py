"""What the steps take from the mains in a year, beside capacitors that would give the same speeds."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from fenwit.core.job.machine import MachineFan
from fenwit.core.methods.series_resistor.design import ResistorDesign
from fenwit.core.methods.series_resistor.steps import regulated
from fenwit.core.motor.machine import Machine
from fenwit.core.operating import OperatingPoint, Solution, Source
from fenwit.core.size.classes import CLASSES, PartClass


@dataclass(frozen=True)
class StepEnergy:
    """One step over a year."""

    step: int
    hours_a_day: float
    input_w: float
    """From the mains [W]"""
    heat_w: float
    """In the resistors [W]"""
    beside_w: float | None
    """From the mains with a capacitor that gives the same speed; None where none does [W]"""


@dataclass(frozen=True)
class YearlyEnergy:
    """A year, all steps together."""

    steps: tuple[StepEnergy, ...]
    kwh: float
    beside_kwh: float | None
    """With capacitors that give the same speeds; None where one of them has none [kWh]"""


def beside_w(motor: Machine, supply: Source, point: OperatingPoint) -> float | None:
    """Input watts with a capacitor in the line that gives the same speed.

    On sine the motor sees only its volts and its speed, so capacitor and resistor leave it the same volts, amps and
    watts; X follows from |1 − jX Y| = V / V_m, and its own loss is tan δ X I² (docs/resistor.md).

    Parameters
    ----------
    motor : Machine
        Motor with scalar parameters [-]
    supply : Source
        Supply without a regulator [-]
    point : OperatingPoint
        Where the fan runs behind a resistor [-]

    Returns
    -------
    float or None
        Watts; None where no capacitor leaves those volts [W]

    Raises
    ------
    InputError
        A slip or a frequency that cannot be real.
    """
    y = complex(motor.respond(np.asarray(point.slip), supply.frequency_hz).admittance_s)
    ratio = supply.voltage_v / point.motor_voltage_v
    # |Y|² X² + 2 Im(Y) X + 1 − (V/V_m)² = 0
    inside = y.imag**2 + abs(y) ** 2 * (ratio**2 - 1)
    if inside < 0:
        return None
    reactance = max(0.0, (-y.imag + np.sqrt(inside)) / abs(y) ** 2)
    loss = CLASSES[PartClass.X2_FILM].loss_factor * reactance * point.line_current_a**2
    return float(point.input_power_w - point.series_loss_w + loss)


def energy_of(
    motor: Machine,
    supply: Source,
    solutions: Sequence[Solution],
    hours_a_day: Sequence[float],
    days_a_year: float,
) -> YearlyEnergy:
    """What steps take in a year; one that stands takes nothing that is told.

    Parameters
    ----------
    motor : Machine
        Motor with scalar parameters [-]
    supply : Source
        Supply without a regulator [-]
    solutions : sequence of Solution
        The steps behind their resistors [-]
    hours_a_day : sequence of float
        At each step [h]
    days_a_year : float
        Days it runs [-]

    Returns
    -------
    YearlyEnergy
        Step by step, and the sums Σ P h days / 1000 [-]

    Raises
    ------
    InputError
        As `beside_w`.
    """
    found = []
    for number, (solution, hours) in enumerate(zip(solutions, hours_a_day, strict=True), start=1):
        point = solution.running
        if point is not None:
            in_line = point.series_loss_w > 0
            beside = beside_w(motor, supply, point) if in_line else point.input_power_w
            found.append(StepEnergy(number, hours, point.input_power_w, point.series_loss_w, beside))
    beside_wh = [s.beside_w * s.hours_a_day for s in found if s.beside_w is not None]
    return YearlyEnergy(
        tuple(found),
        sum(s.input_w * s.hours_a_day for s in found) * days_a_year / 1000,
        sum(beside_wh) * days_a_year / 1000 if len(beside_wh) == len(found) else None,
    )


def yearly(fan: MachineFan, design: ResistorDesign) -> YearlyEnergy:
    """`energy_of` the steps of a design. Raises InputError as `regulated`."""
    solutions = regulated(fan, design).rated.nominal
    return energy_of(fan.belief.motor, fan.supply, solutions, design.hours, design.days_a_year)
