"""What a fan holds by itself, as it is shown: lines over time, figures, what a technician would change."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

DRAWN = 400
"""Places of a line on a plot [-]"""


@dataclass(frozen=True)
class HoldLine:
    """A line over time."""

    name: str
    unit: str
    values: tuple[float | None, ...]
    """None: nothing is drawn there [any]"""


@dataclass(frozen=True)
class Figure:
    """A figure in words."""

    name: str
    text: str
    good: bool | None = None
    """None: neither good nor bad [-]"""


class AdviceKind(StrEnum):
    """What is wrong with a loop or a curve."""

    HUNTS = "hunts"
    UNSTABLE = "unstable"
    SATURATED = "saturated"
    SLOW = "slow"
    OVERSHOOTS = "overshoots"
    WINDS_UP = "winds-up"
    SENSOR = "sensor"
    HOT = "hot"
    CYCLES = "cycles"
    NEVER_STOPS = "never-stops"
    SUPPLY = "supply"
    WELL = "well"


@dataclass(frozen=True)
class Advice:
    """What a technician would change."""

    kind: AdviceKind
    words: str


@dataclass(frozen=True)
class OtherWay:
    """The same damper with something else held, for comparison."""

    name: str
    before: str
    after: str


@dataclass(frozen=True)
class TunedShown:
    """Settings out of a step test."""

    gain: str
    integral: str
    words: str
    gain_kp: float
    integral_s: float


@dataclass(frozen=True)
class LoopShown:
    """A loop worked out."""

    time_s: tuple[float, ...]
    held: HoldLine
    sensed: HoldLine
    speed: HoldLine
    set_point: float
    """In the unit of what is held [any]"""
    moves_s: tuple[float, ...]
    figures: tuple[Figure, ...]
    advice: tuple[Advice, ...]
    others: tuple[OtherWay, ...]
    tuned: TunedShown | None
    sensor: tuple[str, ...]


@dataclass(frozen=True)
class LoadPiece:
    """A piece of a load, to be drawn."""

    watts: float
    seconds: float


@dataclass(frozen=True)
class SinkShown:
    """A heat sink over the time of a run."""

    name: str
    shared: HoldLine
    """Temperature with one controller on the hottest sensor [°C]"""
    alone: HoldLine | None
    """With a controller of its own; None where there is one sink [°C]"""
    worst_text: str
    margin_text: str
    holds: bool
    load: tuple[LoadPiece, ...]
    steady: tuple[str, ...]
    """Where each power of its load would settle [-]"""


@dataclass(frozen=True)
class RunFigures:
    """A way to control several sinks, in figures."""

    name: str
    starts: str
    off: str
    mean: str
    worst: str
    energy: str
    noise: str


@dataclass(frozen=True)
class CurvePoint:
    """A point of the curve on the plot."""

    temperature_c: float
    share: float


@dataclass(frozen=True)
class KnobScale:
    """Marks of a knob that turns an end of the curve, evenly spaced."""

    name: str
    marks_c: tuple[float, ...]


@dataclass(frozen=True)
class ProgramRow:
    """A row of the program's table, in words."""

    temperature: str
    speed: str
    command: str


@dataclass(frozen=True)
class CoolingShown:
    """A thermal curve worked out."""

    curve: tuple[CurvePoint, ...]
    stop_c: float
    least_share: float
    """Slowest the fan turns, over full speed: the curve may not go below [-]"""
    time_s: tuple[float, ...]
    speed: HoldLine
    power: HoldLine
    starts_s: tuple[float, ...]
    stops_s: tuple[float, ...]
    sinks: tuple[SinkShown, ...]
    runs: tuple[RunFigures, ...]
    advice: tuple[Advice, ...]
    figures: tuple[Figure, ...]
    scales: tuple[KnobScale, ...]
    """Of the knobs that turn its ends [-]"""
    table: tuple[ProgramRow, ...]
    command_heading: str


@dataclass(frozen=True)
class HoldShown:
    """What the fan holds by itself."""

    note: str = ""
    loop: LoopShown | None = None
    heat: CoolingShown | None = None
