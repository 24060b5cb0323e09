"""A step as a circuit simulator takes it: what stands before the motor, the motor at one speed, and what is expected."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from fenwit.core.circuit import Circuit


@dataclass(frozen=True, eq=False)
class Knob:
    """The diac network that fires the triac, in place of timed pulses."""

    breakover_v: float
    breakback_v: float
    turn_ohm: float
    """What of the knob's track stands in the line at this place [Ω]"""


@dataclass(frozen=True, eq=False)
class Netted:
    """One step, or one place of a control that came in."""

    title: str
    motor: Any
    """A machine with scalar parameters [-]"""
    speed_rpm: float
    supply_v: float
    frequency_hz: float
    motor_v: float
    """Expected, true rms [V]"""
    motor_a: float
    """Expected, true rms [A]"""
    circuit: Circuit | None = None
    """None: the motor hangs on the supply [-]"""
    position: str = ""
    firing_deg: float | None = None
    """Of a triac in it; None where there is none, or its network fires it [°]"""
    knob: Knob | None = None
    on_state_v: float = 0.0
    """Across the conducting triac [V]"""
    left_out: frozenset[str] = frozenset()
    """Parts that the computed step knows nothing of, like a filter: written as remarks, a choke as a wire"""
    conduction_deg: float = 0.0
    """Expected, so that a gate pulse ends before it [°]"""
