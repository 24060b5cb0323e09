"""The steps of a job, whatever makes them: what each wants, where it stands, and what may be said of it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum
from itertools import pairwise
from typing import Any, Generic, TypeVar

from fenwit.core import quantity as q
from fenwit.core.calibrate.bands import Band
from fenwit.core.errors import InputError, check_range
from fenwit.core.operating import StepVerdict

S = TypeVar("S")

FULL_SHARE = 0.995
"""A wanted speed from here on, of full speed, means that the regulator does nothing [-]"""


@dataclass(frozen=True)
class Quantity:
    """Something that is read at a step."""

    key: str
    """As it is filed [-]"""
    name: str
    dimension: q.Dimension
    unit: str
    """In which a bare number is meant [-]"""
    captured: bool = False
    """Read off a scope: not asked for where there is none"""
    digits: int | None = None
    """Behind the point; None: as many as the value has [-]"""
    may_be_nothing: bool = False
    """Zero is a good reading of it, not a fan that stands"""
    meter_error: float = 0.0
    """Relative, of an ordinary instrument; a scope's own doubt is in what is expected of it [-]"""


SPEED = Quantity("speed_rpm", "speed", q.SPEED, "rpm", meter_error=0.005)
MOTOR_VOLTS = Quantity("motor_voltage_v", "motor volts", q.VOLTAGE, "V", meter_error=0.01)
LINE_CURRENT = Quantity("line_current_a", "line current", q.CURRENT, "A", meter_error=0.015)


@dataclass(frozen=True)
class Shown:
    """A number as it is to be read: digits by its uncertainty, unit apart."""

    value: float
    number: str
    unit: str
    low: float | None = None
    high: float | None = None

    @property
    def text(self) -> str:
        """Number and unit in one."""
        return f"{self.number} {self.unit}".strip()


def shown(value: float, band: Band | None, unit: str, scale: float = 1.0) -> Shown:
    """A number with its band, to the digits the band allows."""
    if band is None or band.half_width == 0:
        return Shown(value, q.plain(value * scale), unit)
    text = q.with_uncertainty(value * scale, band.half_width * scale, "")
    return Shown(value, text, unit, band.low, band.high)


def amps_unit(value_a: float) -> tuple[str, float]:
    """In which unit a current is written, and its value over amps: mA below one ampere, wherever it stands."""
    return ("A", 1.0) if value_a >= 0.9995 else ("mA", 1000.0)


def shown_amps(value_a: float, band: Band | None) -> Shown:
    """A current with its band and unit."""
    return shown(value_a, band, *amps_unit(value_a))


class PlaceKind(StrEnum):
    """The places of the power path, in the order of the flow."""

    SUPPLY = "supply"
    REGULATOR = "regulator"
    MOTOR = "motor"
    BLADES = "blades"
    AIR = "air"


@dataclass(frozen=True)
class Told:
    """A live value at a place of the path, and which explanation belongs to it."""

    text: str
    why: str = ""
    """Key of the explanation at this step; empty where there is none [-]"""


@dataclass(frozen=True)
class Signal:
    """One period of what a fan is told."""

    duty: float
    """Share of the period for which its lead is high [-]"""
    high_text: str
    """How high, and how often, like 5 V, 25 kHz [-]"""


@dataclass(frozen=True)
class Level:
    """A steady voltage that a fan is told."""

    volts: float
    span_v: float
    dead: tuple[tuple[float, float], ...]
    """Stretches of it that do not move the speed [V]"""
    text: str


@dataclass(frozen=True)
class Place:
    """One place of the power path: what flows on from it, what leaves it as heat, and its live values."""

    kind: PlaceKind
    values: tuple[Told, ...]
    power_w: float | None = None
    """What flows into it; None where it is not known [W]"""
    loss_w: float = 0.0
    """What leaves the flow here [W]"""
    loss: Told | None = None
    warning: Told | None = None
    name: str = ""
    """What stands here at this step [-]"""
    signal: Signal | None = None
    """What it tells the fan, to be drawn to scale [-]"""
    level: Level | None = None
    """Likewise, where that is a steady voltage [-]"""


@dataclass(frozen=True)
class Running:
    """One steady state of a fan."""

    speed_rpm: float
    input_power_w: float | None
    places: tuple[Place, ...]

    def place(self, kind: PlaceKind) -> Place | None:
        """One place of the path; None where this fan has none."""
        return next((p for p in self.places if p.kind is kind), None)


class ReasonKind(StrEnum):
    """What a reason is about: code reads this, people the words."""

    REMARK = "remark"
    OVER_VOLTS = "over-volts"
    HUNTS = "hunts"
    NO_START = "no-start"
    NO_SETTING = "no-setting"
    """No value of the method gives the wanted speed"""
    NO_POSITION = "no-position"
    """What was chosen has no position for this step"""
    UNREACHED = "unreached"
    """The built regulator cannot be set so"""
    UNSTEADY = "unsteady"
    UNSAFE = "unsafe"
    """Less air than safety asks for"""
    DOUBT = "doubt"
    """Some of the likely fans would behave otherwise"""


@dataclass(frozen=True)
class Reason:
    """Why a step is as it is."""

    kind: ReasonKind
    words: str


@dataclass(frozen=True)
class Costs:
    """What a step takes where it stands, over that at full speed; None where it is not known."""

    input_power_w: float | None = None
    rise: float | None = None
    """Winding's rise over that at full speed [-]"""
    start_margin: float | None = None
    """Torque at rest over break-away torque [-]"""
    rise_text: str = ""
    start_text: str = ""
    """Both as far as they are known [-]"""


@dataclass(frozen=True)
class Hint:
    """A cruder estimate beside the solved value."""

    at: float
    """On the axis of the method's reach [any]"""
    words: str


@dataclass(frozen=True)
class Need(Generic[S]):
    """What a wanted speed asks for, or why nothing gives it."""

    text: str
    setting: S | None = None
    reason: str = ""
    nearest_rpm: float | None = None
    costs: Costs = field(default_factory=Costs)
    hint: Hint | None = None


@dataclass(frozen=True, eq=False)
class Step(Generic[S]):
    """One step as it would run: of what was chosen, or ideal while nothing is."""

    number: int
    label: str
    """What its mark says of the regulator [-]"""
    joins: str
    """What the regulator does at it, in words [-]"""
    wanted_rpm: float | None
    setting: S | None
    need: Need[S] | None
    """None where no speed is wanted of it [-]"""
    running: Running | None
    bands: Mapping[str, Band]
    """By key of the quantity; empty where nothing is predicted [-]"""
    verdict: StepVerdict
    reasons: tuple[Reason, ...]
    at: float | None = None
    """Where it stands on the axis of the method's reach [any]"""
    may_not_start: float = 0.0
    """Share of the likely fans that would not start or hold it [-]"""
    may_exceed: float = 0.0
    """Share of the likely fans that would pass a limit [-]"""

    @property
    def usable(self) -> bool:
        """Starts, and stays within limits."""
        return self.verdict is StepVerdict.OK

    @property
    def shown(self) -> Running | None:
        """What may be shown of it: the state of a usable step."""
        return self.running if self.usable else None

    @property
    def speed_band(self) -> Band | None:
        """Where its speed is expected [rpm]"""
        return self.bands.get(SPEED.key)


Steps = tuple[Step[Any], ...]


@dataclass(frozen=True)
class Miss:
    """A step beside the speed that was wanted of it."""

    step: int
    speed_rpm: float
    wanted_rpm: float
    share: float
    """Their distance over full speed [-]"""


def misses(full_speed_rpm: float, found: Sequence[Step[Any]]) -> tuple[Miss, ...]:
    """Every step that runs and has a wanted speed, with how far off it is.

    Parameters
    ----------
    full_speed_rpm : float
        Full speed [rpm]
    found : sequence of Step
        The steps [-]

    Returns
    -------
    tuple of Miss
        In the order of the steps [-]
    """
    return tuple(
        Miss(s.number, p.speed_rpm, s.wanted_rpm, abs(p.speed_rpm - s.wanted_rpm) / full_speed_rpm)
        for s in found
        if (p := s.shown) and s.wanted_rpm is not None
    )


def check_wanted(wanted_rpm: Sequence[float], full_speed_rpm: float) -> None:
    """Raise InputError for a wanted speed this fan cannot have, or two that are one.

    Parameters
    ----------
    wanted_rpm : sequence of float
        Wanted speeds, slowest first [rpm]
    full_speed_rpm : float
        Full speed [rpm]

    Raises
    ------
    InputError
        Beside the speed that cannot be.
    """
    full = full_speed_rpm
    for i, speed in enumerate(wanted_rpm):
        check_range(
            f"wanted_rpm[{i}]",
            speed,
            0.02 * full,
            full * 1.005,
            "rpm",
            reason=f"a regulator only slows a fan down; this one turns {full:.0f} rpm at full speed",
        )
    if any(b - a < 0.01 * full for a, b in pairwise(wanted_rpm)):
        raise InputError(
            "wanted_rpm", list(wanted_rpm), "rising by 1 % of full speed", "two steps ask for the same speed"
        )


def share_text(speed_rpm: float, full_speed_rpm: float) -> str:
    """A speed as per cent of full speed."""
    return f"{100 * speed_rpm / full_speed_rpm:.0f} %"


def miss_text(share: float) -> str:
    """A worst miss as it is shown, never finer than a per cent."""
    return f"±{max(1, round(100 * share))} %"
