"""The register map of an EC fan, our own, version 1 (docs/devices.md); 16 bits, the high word first."""

from __future__ import annotations

from dataclasses import dataclass
from enum import IntEnum

VERSION = 1


class Holding(IntEnum):
    """What is set (functions 3, 6, 16)."""

    SOURCE = 0
    """0 the analog input, 1 serial"""
    COMMAND = 1
    """0 to 10000, hundredths of a per cent"""
    ENABLE = 2
    MODE = 3
    """0 speed, 1 flow, 2 pressure"""
    SET_POINT = 4
    """m³/h or Pa"""
    RAMP_UP = 5
    RAMP_DOWN = 6
    """Tenths of a second for the full range"""
    WATCHDOG = 7
    """Seconds; 0: none"""
    FALLBACK = 8
    """Command after the watchdog"""


class Input(IntEnum):
    """What is read (function 4)."""

    SPEED = 0
    CURRENT = 1
    """mA"""
    LINK = 2
    """V"""
    POWER = 3
    """W"""
    ELECTRONICS = 4
    """Tenths of a degree, signed"""
    ALARM = 5
    STATE = 6
    ANALOG_1 = 7
    """mV"""
    ANALOG_2 = 8
    ANALOG_OUT = 9
    FLOW = 10
    """m³/h"""
    PRESSURE = 11
    """Tenths of a pascal"""
    HOURS_HIGH = 12
    HOURS_LOW = 13
    COMMAND_IN_USE = 14
    """Hundredths of a per cent"""
    VERSION = 15


class Simulated(IntEnum):
    """What only the simulated fan has, so that its bench can be worked without hands (holding, from 100)."""

    KNOB = 100
    """mV on its analog input"""
    DAMPER = 101
    """Hundredths of the system's resistance"""
    LOSE_NEXT = 102
    """Answers that are lost from now on"""
    POWER = 103
    ENABLE_CONTACT = 104


SIMULATED_LIMITS = {
    Simulated.KNOB: 10_000, Simulated.DAMPER: 10_000, Simulated.LOSE_NEXT: 100, Simulated.POWER: 1,
    Simulated.ENABLE_CONTACT: 1,
}  # fmt: skip
HOLDING_LIMITS = {
    Holding.SOURCE: 1, Holding.COMMAND: 10_000, Holding.ENABLE: 1, Holding.MODE: 2, Holding.SET_POINT: 10_000,
    Holding.RAMP_UP: 6_000, Holding.RAMP_DOWN: 6_000, Holding.WATCHDOG: 600, Holding.FALLBACK: 10_000,
}  # fmt: skip
"""Most of each; above it the fan answers exception 3"""


class Alarm(IntEnum):
    """Bits of the alarm word."""

    HELD = 0
    HOT = 1
    SUPPLY_LOW = 2
    SUPPLY_HIGH = 3
    LINE_LOST = 4
    SENSOR = 5
    WATCHDOG = 6
    INTERNAL = 7


class State(IntEnum):
    """What the fan is doing."""

    OFF = 0
    SELF_CHECK = 1
    STARTING = 2
    RUNNING = 3
    LOCKED = 4


@dataclass(frozen=True)
class Scaled:
    """How a register is read."""

    register: Input
    scale: float
    signed: bool = False


def signed(word: int) -> int:
    """Sixteen bits as a number with its sign [-]"""
    return word - 0x10000 if word >= 0x8000 else word
