"""The duty that is really made, stage by stage: registers or travel, inverting stages, the late edge on the lead."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from fenwit.core.methods.pwm.design import Controller, Drive, DutyDesign, Maker, TimerParts
from fenwit.core.methods.pwm.fan import DutyFan
from fenwit.core.regulator.registers import TimerChoice, timer_choices
from fenwit.core.regulator.timers import DIODE_V, Astable, Chip, OneShot, Steered

FloatArray = NDArray[np.float64]
SPREADS = {"R": 0.05, "C": 0.10, "pot": 0.20, "diode": 0.15}
"""Half widths of the uniform spreads of parts [-]"""
DRAWS, DRAWS_DRAGGED, TRAVEL = 4000, 500, 101
_SEED = 20_260_730


@dataclass(frozen=True)
class DutySetting:
    """What one step sets."""

    asked: float
    """On the lead [-]"""
    made: float
    """On the lead, by what makes it [-]"""
    seen: float
    """By the fan, after the late edge [-]"""
    frequency_hz: float
    compare: int | None = None
    """Of a microcontroller's timer; None: its output is off, or there is none [-]"""
    travel: float | None = None
    """Of the pot, or of the one-shot's [-]"""
    steady: bool = False
    """A pulse too short vanished: the lead stands at one level [-]"""


@lru_cache(maxsize=64)
def choices(controller: Controller, frequency_hz: float) -> tuple[TimerChoice, ...]:
    """Settings of a controller's timer near a frequency, the best first. Raises InputError where none comes near."""
    return timer_choices(
        controller.clock_hz, frequency_hz, controller.bits, controller.prescalers, controller.mode
    )


def choice_of(design: DutyDesign) -> TimerChoice:
    """The setting that is taken. Raises InputError where none comes near."""
    found = choices(design.controller, design.frequency_hz)
    return found[min(design.controller.choice, len(found) - 1)]


def steered(parts: TimerParts) -> Steered:
    """The circuit with steering diodes."""
    chip = Chip(parts.supply_v, parts.saturation_v, parts.delay_s, parts.stray_f)
    return Steered(
        parts.high_ohm, parts.low_ohm, parts.pot_ohm, parts.capacitance_f, chip, high_v=parts.charged_v
    )


def plain(parts: TimerParts, travel: FloatArray | float) -> Astable:
    """The circuit without diodes: it charges through the whole pot and discharges through what lies beyond its wiper."""
    chip = Chip(parts.supply_v, parts.saturation_v, parts.delay_s, parts.stray_f)
    x = np.asarray(travel)
    return Astable(
        parts.high_ohm + x * parts.pot_ohm, parts.low_ohm + (1 - x) * parts.pot_ohm, parts.capacitance_f, chip
    )  # fmt: skip


def one_shot(design: DutyDesign, travel: FloatArray | float) -> OneShot:
    """The one-shot with its pot somewhere between its end resistor and its whole track."""
    parts = design.timer
    chip = Chip(parts.supply_v, parts.saturation_v, parts.delay_s, parts.stray_f)
    ohm = parts.low_ohm + np.asarray(travel) * parts.pot_ohm
    return OneShot(design.frequency_hz, ohm, parts.capacitance_f, parts.trigger_low_s, chip)


@dataclass(frozen=True)
class Travelled:
    """Duty on the lead and frequency over a pot's travel."""

    travel: FloatArray
    duty: FloatArray
    frequency_hz: FloatArray
    collapsed: NDArray[np.bool_]
    """A pulse too short for the next stage: the lead stands at one level there [-]"""


def travelled(design: DutyDesign, at: FloatArray | None = None) -> Travelled:
    """What the lead gets over the travel, 101 places unless others are given; real diodes. Raises InputError."""
    x = np.linspace(0.0, 1.0, TRAVEL) if at is None else at
    if design.maker is Maker.ONE_SHOT:
        shot = one_shot(design, x)
        duty, hertz = shot.duty, np.asarray(shot.frequency_hz)
        period = np.where(hertz > 0, 1 / np.maximum(hertz, 1e-9), np.inf)
    else:
        beat = plain(design.timer, x).beat if design.maker is Maker.PLAIN else steered(design.timer).real(x)
        duty, hertz = beat.duty, beat.frequency_hz
        period = 1 / hertz
    short = np.minimum(duty, 1 - duty) * period < design.timer.minimum_pulse_s
    level = np.where(duty < 0.5, 0.0, 1.0)
    made = np.where(short, level, duty)
    return Travelled(x, 1 - made if design.turned else made, hertz, short)


@dataclass(frozen=True)
class Tolerances:
    """5th, 50th and 95th of a hundred over the travel, parts drawn within their spreads."""

    travel: FloatArray
    frequency_hz: FloatArray
    """[3, travel]"""
    duty: FloatArray
    """On the lead [3, travel]"""


def tolerances(design: DutyDesign, draws: int = DRAWS_DRAGGED, places: int = 50) -> Tolerances:
    """Frequency and duty over the travel with parts as they come.

    Independent uniform spreads, a fixed random start, each diode a constant drop.

    Parameters
    ----------
    design : DutyDesign
        With a timer IC [-]
    draws : int
        How many boards [-]
    places : int
        Of the travel [-]

    Returns
    -------
    Tolerances
        Percentiles [-]

    Raises
    ------
    InputError
        A circuit that does not oscillate.
    """
    random = np.random.default_rng(_SEED)
    parts, x = design.timer, np.linspace(0.0, 1.0, places)

    def drawn(value: float, spread: float) -> FloatArray:
        return value * (1 + spread * random.uniform(-1, 1, (draws, 1)))

    chip = Chip(parts.supply_v, parts.saturation_v, parts.delay_s, parts.stray_f)
    pot, farads = drawn(parts.pot_ohm, SPREADS["pot"]), drawn(parts.capacitance_f, SPREADS["C"])
    low = drawn(parts.low_ohm, SPREADS["R"])
    if design.maker is Maker.ONE_SHOT:
        shot = OneShot(design.frequency_hz, low + x * pot, farads, parts.trigger_low_s, chip)
        duty, hertz = shot.duty, np.broadcast_to(shot.frequency_hz, shot.duty.shape)
    elif design.maker is Maker.PLAIN:
        high = drawn(parts.high_ohm, SPREADS["R"])
        beat = Astable(high + x * pot, low + (1 - x) * pot, farads, chip).beat
        duty, hertz = beat.duty, beat.frequency_hz
    else:
        circuit = Steered(
            drawn(parts.high_ohm, SPREADS["R"]),
            low,
            pot,
            farads,
            chip,
            drawn(DIODE_V, SPREADS["diode"]),
            parts.charged_v,
        )
        beat = circuit.beat(x)
        duty, hertz = beat.duty, beat.frequency_hz
    lead = 1 - duty if design.turned else duty
    percent = [5.0, 50.0, 95.0]
    return Tolerances(x, _percentiles(hertz, percent), _percentiles(lead, percent))


def _percentiles(values: FloatArray, percent: list[float]) -> FloatArray:
    """Of each column, by partition: whole sorting would take most of the time."""
    count = values.shape[0]
    at = [round(p / 100 * (count - 1)) for p in percent]
    found = np.partition(values.T, at, axis=1)
    return np.asarray(found[:, at].T)


def setting(fan: DutyFan, design: DutyDesign, asked: float) -> DutySetting:
    """What a wanted duty on the lead becomes.

    Parameters
    ----------
    fan : DutyFan
        Whose lead it is [-]
    design : DutyDesign
        What makes it [-]
    asked : float
        On the lead [-]

    Returns
    -------
    DutySetting
        What is set, made and seen [-]

    Raises
    ------
    InputError
        A frequency no setting makes, or a duty beyond the travel.
    """
    own = 1 - asked if design.turned else asked
    if not design.maker.drawn:
        choice = choice_of(design)
        compare = choice.compare(own)
        actual = choice.actual_duty(compare)
        made = 1 - actual if design.turned else actual
        return DutySetting(
            asked,
            made,
            seen(fan, design, made, choice.actual_frequency_hz),
            choice.actual_frequency_hz,
            compare,
        )
    over = travelled(design)
    x = _travel_for(over, asked)
    here = travelled(design, np.array([x]))
    made, hertz = float(here.duty[0]), float(here.frequency_hz[0])
    return DutySetting(
        asked, made, seen(fan, design, made, hertz), hertz, travel=x, steady=bool(here.collapsed[0])
    )


def _travel_for(over: Travelled, asked: float) -> float:
    """The first place of the travel that gives a duty on the lead; the nearest where none does."""
    gap = over.duty - asked
    crossing = np.flatnonzero((gap[:-1] * gap[1:] <= 0) & ~over.collapsed[:-1] & ~over.collapsed[1:])
    if not len(crossing):
        return float(over.travel[int(np.argmin(np.abs(gap)))])
    i = int(crossing[0])
    step = gap[i] - gap[i + 1]
    part = gap[i] / step if step else 0.0
    return float(over.travel[i] + part * (over.travel[i + 1] - over.travel[i]))


def seen(fan: DutyFan, design: DutyDesign, lead_duty: float, frequency_hz: float) -> float:
    """What is left of a duty behind an open drain, whose rising edge comes late [-]"""
    lead = fan.lead if design.drive is Drive.OPEN_DRAIN else None
    return lead_duty if lead is None or frequency_hz <= 0 else lead.seen_duty(lead_duty, frequency_hz)


def ask_for(fan: DutyFan, design_drive: Drive, wanted_seen: float, frequency_hz: float) -> float:
    """Duty on the lead that leaves a duty after the late edge [-]"""
    lead = fan.lead if design_drive is Drive.OPEN_DRAIN else None
    if lead is None or wanted_seen in (0.0, 1.0):
        return wanted_seen
    return min(1.0, wanted_seen + lead.rise_delay_s * frequency_hz)


def safe_pull(fan: DutyFan, design: DutyDesign) -> str:
    """Which way the pin must be pulled so that the lead stands at full speed while nothing drives it."""
    lead_high = fan.rising
    pin_high = lead_high != design.turned
    return "pull-up" if pin_high else "pull-down"
