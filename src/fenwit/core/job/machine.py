"""A believed fan with an induction machine behind it, and how its steady states are told."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Generic, TypeVar

import numpy as np

from fenwit.core import quantity as q
from fenwit.core.calibrate.bands import Band, StepBands, step_bands
from fenwit.core.calibrate.fit import Belief, Datum, believe
from fenwit.core.errors import InputError
from fenwit.core.job.state import JobState, datum_of
from fenwit.core.job.steps import (
    FULL_SHARE,
    LINE_CURRENT,
    MOTOR_VOLTS,
    SPEED,
    Costs,
    Place,
    PlaceKind,
    Reason,
    ReasonKind,
    Running,
    Step,
    Told,
    shown,
    shown_amps,
)
from fenwit.core.job.subject import Lacking, Unready, refused
from fenwit.core.load import flow_between, level_change_db, level_spread_db
from fenwit.core.memory import remembered
from fenwit.core.motor.kinds import Method
from fenwit.core.motor.machine import relative_rise, synchronous_speed_rpm
from fenwit.core.operating import (
    OperatingPoint,
    Solution,
    Source,
    StepVerdict,
    judge_step,
    solve,
    voltage_limit_v,
)

S = TypeVar("S")
_MAY_EXCEED = 0.02
"""Share of the likely motors that may pass the limit before it is said [-]"""


@dataclass(frozen=True)
class MachineRunning(Running):
    """A steady state with all that the machine's model says of it."""

    point: OperatingPoint


@dataclass(frozen=True, eq=False)
class MachineStep(Step[S], Generic[S]):
    """A step of a fan with a machine behind it."""

    solution: Solution | None = None
    """All operating points; None where nothing gives the step [-]"""
    impedance_ohm: complex = 0j
    """What stands in the line [Ω]"""

    @property
    def point(self) -> OperatingPoint | None:
        """Where it runs, also where that may not be shown."""
        return self.running.point if isinstance(self.running, MachineRunning) else None

    @property
    def shown_point(self) -> OperatingPoint | None:
        """The point whose numbers may be shown: that of a usable step."""
        return self.point if self.usable else None


@dataclass(frozen=True, eq=False)
class MachineFan:
    """A believed motor and load on their supply."""

    belief: Belief
    supply: Source
    direct: Solution
    direct_bands: StepBands

    @property
    def datum(self) -> Datum:
        """What it was fitted to."""
        return self.belief.datum

    @property
    def full_point(self) -> OperatingPoint:
        """Running with nothing in the line. Raises InputError where it does not start so."""
        point = self.direct.running
        if point is None:
            raise InputError(
                "supply_voltage_v",
                self.supply.voltage_v,
                "volts at which the fan starts",
                "the fan would not start on this supply; check rated volts, supply volts and rpm",
            )
        return point

    @cached_property
    def full(self) -> MachineRunning:
        """The same as a steady state with its path. Raises InputError as `full_point`."""
        nothing = Place(PlaceKind.REGULATOR, (Told("nothing in the line", "regulator-volts"),), name="direct")
        return running_of(self, self.full_point, self.direct_bands, nothing)

    @property
    def full_band(self) -> Band | None:
        """Where full speed is expected [rpm]"""
        return self.direct_bands.speed_rpm

    @property
    def full_rpm(self) -> float:
        """Full speed [rpm]"""
        return self.full_point.speed_rpm

    @property
    def rated_voltage_v(self) -> float:
        """What its motor is made for [V]"""
        return self.belief.motor.rated_voltage_v

    @property
    def assumptions(self) -> tuple[str, ...]:
        """What its numbers rest on [-]"""
        return self.belief.assumptions

    @property
    def synchronous_rpm(self) -> float:
        """Speed of the rotating field [rpm]"""
        return synchronous_speed_rpm(self.datum.poles, self.datum.frequency_hz)

    @property
    def motor_limit_v(self) -> float:
        """Most volts the motor may get [V]"""
        return voltage_limit_v(self.belief.datum, self.supply.frequency_hz)

    @property
    def direct_speed_rpm(self) -> float | None:
        """Full speed, where the motor may stand on the supply directly [rpm]"""
        return self.full_rpm if self.full_point.motor_voltage_v <= self.motor_limit_v else None

    def is_full(self, speed_rpm: float) -> bool:
        """Whether a wanted speed means nothing in the line."""
        return speed_rpm >= FULL_SHARE * self.full_rpm


@remembered
def machine_fan(datum: Datum, supply: Source) -> MachineFan:
    """The fan behind a datum, on a supply; raises InputError as `believe` does."""
    belief = believe(datum)
    bands = step_bands(belief, supply, [0j])
    return MachineFan(belief, supply, solve(belief.motor, belief.load, [supply])[0], bands[-1])


def machine_of(state: JobState) -> MachineFan | Lacking:
    """The believed fan of a job, whatever regulates it; what is missing while too little is known."""
    datum, missing = datum_of(state)
    if datum is None:
        return Lacking(missing)
    return machine_fan(datum, Source(state.supply_voltage_v, state.supply_frequency_hz))


def machine_behind(state: JobState, method: Method, name: str) -> MachineFan | Unready:
    """The believed fan of a job for a method; why there is none where it is refused or too little is known."""
    return refused(state, method, name) or machine_of(state)


# ---------------------------------------------------------------- steady states


def running_of(
    fan: MachineFan, point: OperatingPoint, bands: StepBands | None, regulator: Place
) -> MachineRunning:
    """A steady state as a flow of power, with what the regulator's place says of itself."""
    full, n = fan.full_point, point.speed_rpm
    share = n / full.speed_rpm
    friction = min(float(fan.belief.load.friction_nm) * n * 2 * np.pi / 60, point.shaft_power_w)
    rise = relative_rise(point.motor_loss_w / full.motor_loss_w, share)
    volts = shown(point.motor_voltage_v, bands.motor_voltage_v if bands else None, "V")
    amps = shown_amps(point.line_current_a, bands.line_current_a if bands else None)
    watts = shown(point.input_power_w, bands.input_power_w if bands else None, "W")
    loss = shown(point.motor_loss_w, bands.motor_loss_w if bands else None, "W")
    speed = shown(n, bands.speed_rpm if bands else None, "rpm")
    said = rise_text(bands.rise if bands else None, rise)
    warning = Told(f"winding rise {said} × that at full speed", "rise") if rise > 1.0 + 1e-6 else None
    if bands and bands.may_exceed > _MAY_EXCEED:
        words = f"{100 * bands.may_exceed:.0f} in 100 such motors would pass {fan.motor_limit_v:.0f} V"
        warning = Told(words, "motor-volts")
    elif bands and stands_words(bands.may_not_start):
        warning = Told(stands_words(bands.may_not_start), "start")
    after = point.input_power_w - point.series_loss_w
    places = (
        supply_place(
            fan.supply,
            Told(watts.text, "watts"),
            Told(f"pf {point.power_factor:.2f}", "power-factor"),
            power_w=point.input_power_w,
        ),
        Place(
            PlaceKind.REGULATOR,
            regulator.values,
            point.input_power_w,
            point.series_loss_w,
            name=regulator.name,
        ),
        Place(
            PlaceKind.MOTOR,
            (
                Told(volts.text, "motor-volts"),
                Told(amps.text, "amps"),
                Told(f"slip {100 * point.slip:.0f} %", "slip"),
            ),
            after,
            point.motor_loss_w,
            Told(f"{loss.text} stays as heat", "motor-heat"),
            warning,
        ),
        Place(
            PlaceKind.BLADES,
            (Told(speed.text, "speed"), Told(f"{q.plain(point.torque_nm, 2)} N·m", "torque")),
            point.shaft_power_w,
            friction,
        ),
        Place(
            PlaceKind.AIR,
            (
                Told(flow_text(share, float(fan.belief.load.exponent)), "flow"),
                Told(decibels(share), "noise"),
                *((Told("without its hum", "noise"),) if share < FULL_SHARE else ()),
            ),
            point.shaft_power_w - friction,
        ),
    )
    return MachineRunning(n, point.input_power_w, places, point)


TOLD = 0.005
"""Share of cases from which on it is told that something happens in them [-]"""


def of_hundred(share: float) -> int:
    """Cases of a hundred, at least one."""
    return max(1, round(100 * share))


def stands_words(share: float) -> str:
    """In how many cases a step does not start; empty where that is next to never."""
    return f"in {of_hundred(share)} of 100 cases it does not start" if share > TOLD else ""


def supply_place(supply: Source, *values: Told, power_w: float | None = None) -> Place:
    """The supply's place of the path, its volts first."""
    return Place(PlaceKind.SUPPLY, (Told(q.show(supply.voltage_v, q.VOLTAGE)), *values), power_w)


def decibels(speed_share: float, unit: str = " dB") -> str:
    """Change of air noise against full speed, with what the exponent leaves open."""
    change, half = round(level_change_db(speed_share)), round(level_spread_db(speed_share))
    said = f"{q.signed(change)} ± {half}{unit}" if half else f"{q.signed(change)}{unit}"
    return said if change else f"0{unit}"


def flow_text(speed_share: float, exponent: float) -> str:
    """Airflow over full airflow; between two bounds where the load does not go with the square of speed."""
    low, high = flow_between(speed_share, exponent)
    if round(100 * low) == round(100 * high):
        return f"{100 * high:.0f} % of flow"
    return f"{100 * low:.0f}–{100 * high:.0f} % of flow"


RISE, START = "rise", "start_margin"
"""Keys of their bands"""


def rise_text(band: Band | None, rise: float) -> str:
    """The winding's rise over that at full speed, as far as it is known."""
    return q.plain(rise, 1) if band is None or band.high <= 0 else q.between(band.low, band.high)


def margin_text(band: Band | None, margin: float) -> str:
    """Torque at rest over break-away, as far as it is known; beyond a hundred it does not matter."""
    if band is None or band.high <= 0:
        return f"about {q.plain(min(margin, 99.0), 1)} ×"
    return f"{q.between(min(band.low, 99.0), min(band.high, 99.0))} ×"


def costs_of(
    fan: MachineFan, solution: Solution | None, point: OperatingPoint | None, bands: StepBands | None = None
) -> Costs:
    """What a step takes where it stands."""
    if point is None or solution is None:
        return Costs()
    share = point.speed_rpm / fan.full_rpm
    rise = relative_rise(point.motor_loss_w / fan.full_point.motor_loss_w, share)
    return Costs(
        point.input_power_w,
        rise,
        solution.start_margin,
        rise_text(bands.rise if bands else None, rise),
        margin_text(bands.start_margin if bands else None, solution.start_margin),
    )


def bands_of(bands: StepBands | None) -> Mapping[str, Band]:
    """Bands of a step by the keys of its quantities; empty where nothing is predicted."""
    if bands is None:
        return {}
    found = {
        SPEED.key: bands.speed_rpm,
        MOTOR_VOLTS.key: bands.motor_voltage_v,
        LINE_CURRENT.key: bands.line_current_a,
        "input_power_w": bands.input_power_w,
        "motor_loss_w": bands.motor_loss_w,
        RISE: bands.rise,
        START: bands.start_margin,
    }
    return found if bands.extinction_deg is None else found | {"extinction_angle_deg": bands.extinction_deg}


def judged(
    fan: MachineFan, solution: Solution, bands: StepBands | None
) -> tuple[StepVerdict, tuple[Reason, ...]]:
    """Whether a solved step may be used, and why not."""
    load = fan.belief.load
    verdict, words = judge_step(solution, fan.motor_limit_v, float(load.friction_nm))
    kind = {
        StepVerdict.OK: ReasonKind.REMARK,
        StepVerdict.BARRED: ReasonKind.HUNTS if solution.hunts else ReasonKind.OVER_VOLTS,
        StepVerdict.DOES_NOT_START: ReasonKind.NO_START,
    }[verdict]
    reasons = tuple(Reason(kind, w) for w in words)
    if verdict is StepVerdict.OK and bands and bands.may_exceed > _MAY_EXCEED:
        doubt = (
            f"{100 * bands.may_exceed:.0f} in 100 motors that fit the readings would get more than "
            f"{fan.motor_limit_v:.0f} V here"
        )
        reasons = (*reasons, Reason(ReasonKind.DOUBT, doubt))
    return verdict, reasons
