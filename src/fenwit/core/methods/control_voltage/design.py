"""What tells an EC fan its speed: where the volts come from, how they reach every fan, who leads and who follows."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from typing import ClassVar

import numpy as np

from fenwit.core.errors import InputError, check_range
from fenwit.core.job.state import MAX_STEPS
from fenwit.core.motor.analog import SPAN_V, VoltLine
from fenwit.core.motor.kinds import Method

MOST_FOLLOWERS = 20


class Source(StrEnum):
    """What makes the volts."""

    KNOB = "knob"
    """A potentiometer on the fan's own 10 V output"""
    STEPS = "steps"
    """A chain of resistors on it, tapped by a switch"""
    FILTER = "filter"
    """Pulses of a logic output through a filter and an amplifier"""
    ANALOG = "analog"
    """The 0–10 V output of a controller"""


class Cabling(StrEnum):
    """How the two wires of the signal reach several fans."""

    LOOPED = "looped"
    """From fan to fan"""
    APART = "apart"
    """A pair of its own to each fan"""


class Following(StrEnum):
    """What further fans are told."""

    TOGETHER = "together"
    """All inputs on the one source"""
    SPEED = "speed"
    """Each hands its own speed on, as 10 V n/n_max"""
    COMMAND = "command"
    """Each hands on what it is told"""


@dataclass(frozen=True)
class KnobParts:
    """A potentiometer with what stands at its ends."""

    pot_ohm: float = 10e3
    top_ohm: float = 0.0
    bottom_ohm: float = 0.0
    spread: float = 0.2
    """How far the pot's ohms may be off [-]"""

    def __post_init__(self) -> None:
        check_range("pot_ohm", self.pot_ohm, 100.0, 1e7, "Ω")
        check_range("top_ohm", self.top_ohm, 0.0, 1e7, "Ω")
        check_range("bottom_ohm", self.bottom_ohm, 0.0, 1e7, "Ω")
        check_range("spread", self.spread, 0.0, 0.5, "")


@dataclass(frozen=True)
class FilterParts:
    """From pulses to 0–10 V."""

    amplitude_v: float = 5.0
    frequency_hz: float = 1e3
    resistance_ohm: float = 10e3
    capacitance_f: float = 220e-9
    stages: int = 2
    gain: float = 2.0
    output_ohm: float = 50.0
    """Of the logic output [Ω]"""
    offset_v: float = 0.01
    """Of the amplifier, behind its gain [V]"""
    gain_error: float = 0.01
    levels: int = 256

    def __post_init__(self) -> None:
        for name, low, high, unit in _FILTER_LIMITS:
            check_range(name, getattr(self, name), low, high, unit)
        if self.stages not in (1, 2):
            raise InputError("stages", self.stages, "1 or 2", "more than two stages are not reckoned here")
        if self.levels != int(self.levels):
            raise InputError("levels", self.levels, "whole numbers", "these are counted")


_FILTER_LIMITS = (
    ("amplitude_v", 0.5, 30.0, "V"),
    ("frequency_hz", 1.0, 1e6, "Hz"),
    ("resistance_ohm", 100.0, 1e7, "Ω"),
    ("capacitance_f", 1e-12, 1e-2, "F"),
    ("gain", 0.1, 100.0, ""),
    ("output_ohm", 0.0, 1e5, "Ω"),
    ("offset_v", 0.0, 1.0, "V"),
    ("gain_error", 0.0, 0.2, ""),
    ("levels", 2, 65536, ""),
)


@dataclass(frozen=True)
class Cable:
    """The wires of the signal."""

    length_m: float = 0.0
    """From the source to the first fan, and from each fan to the next [m]"""
    area_mm2: float = 0.5
    cabling: Cabling = Cabling.LOOPED
    ground_a: float = 0.0
    """Other current that each fan returns through the same 0 V [A]"""

    def __post_init__(self) -> None:
        check_range("length_m", self.length_m, 0.0, 1000.0, "m")
        check_range("area_mm2", self.area_mm2, 0.05, 10.0, "mm²")
        check_range("ground_a", self.ground_a, 0.0, 5.0, "A")


@dataclass(frozen=True)
class ControlDesign:
    """Volts on the input of the first fan for each step, slowest first, and what makes them."""

    method: ClassVar[Method] = Method.CONTROL_VOLTAGE

    source: Source
    volts: tuple[float, ...]
    knob: KnobParts = KnobParts()
    chain_ohm: float = 4.7e3
    """Of the whole chain of resistors [Ω]"""
    filter: FilterParts = FilterParts()
    source_ohm: float = 100.0
    """Of a controller's output [Ω]"""
    cable: Cable = Cable()
    following: Following = Following.TOGETHER
    followers: tuple[VoltLine, ...] = ()
    """Maps of further fans, the next one first; those that are not told of are like the first [-]"""
    enable: bool = True
    """Whether a contact must close before the fan may run [-]"""
    alarm: bool = True
    """Whether lamps show alarm and good health [-]"""
    fuse_a: float | None = None

    def __post_init__(self) -> None:
        if not 1 <= len(self.volts) <= MAX_STEPS:
            raise InputError("volts", len(self.volts), f"1 to {MAX_STEPS}", "at least one step is wanted")
        check_range("volts", np.array(self.volts), 0.0, SPAN_V, "V")
        check_range("chain_ohm", self.chain_ohm, 100.0, 1e6, "Ω")
        check_range("source_ohm", self.source_ohm, 0.0, 1e5, "Ω")
        if len(self.followers) > MOST_FOLLOWERS:
            raise InputError("followers", len(self.followers), f"up to {MOST_FOLLOWERS}", "too many")
        if self.fuse_a is not None:
            check_range("fuse_a", self.fuse_a, 0.03, 50.0, "A")
