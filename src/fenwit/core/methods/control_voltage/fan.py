"""A mains-fed fan behind its control input: speed over the volts there, its supply whole."""

from __future__ import annotations

from dataclasses import dataclass

from fenwit.core.job.analog import AnalogSheet
from fenwit.core.job.commanded import Commanded
from fenwit.core.job.mapped import MappedFan
from fenwit.core.job.state import JobState, commanded_of
from fenwit.core.job.subject import Lacking, Unready, refused
from fenwit.core.motor.analog import VoltLine
from fenwit.core.motor.kinds import Method

KEY, NAME = Method.CONTROL_VOLTAGE, "a voltage on the control input"


@dataclass(frozen=True, eq=False)
class ControlFan(MappedFan):
    """Its map is over the volts between its input and its own 0 V, while it runs."""

    known: Commanded | None = None

    @property
    def commanded(self) -> Commanded:
        """All that is known of it [-]"""
        assert self.known is not None
        return self.known

    @property
    def analog(self) -> AnalogSheet:
        """Its terminals [-]"""
        return self.commanded.sheet.analog

    @property
    def line(self) -> VoltLine:
        """Where it starts, stops and ends by its data [-]"""
        return self.commanded.control_line

    @property
    def rising(self) -> bool:
        """More volts, more speed [-]"""
        return not self.commanded.inverse

    def watts(self, speed_rpm: float) -> float | None:
        """What all of them take at a speed [rpm → W]"""
        one = self.commanded.watts_at(speed_rpm)
        return None if one is None else one * self.count

    def amps(self, speed_rpm: float) -> float | None:
        """What all of them draw from the mains at a speed, in the ratio of the watts [rpm → A]"""
        one, full, amps = self.commanded.watts_at(speed_rpm), self.commanded.full_w, self.commanded.full_a
        if one is None or not full or amps is None:
            return None
        return amps * self.count * one / full


def subject(state: JobState) -> ControlFan | Unready:
    """The fan of a job, or why it cannot be commanded so."""
    stop = refused(state, KEY, NAME)
    if stop is not None:
        return stop
    known = commanded_of(state)
    if isinstance(known, tuple):
        return Lacking(known)
    grounds = [known.control_grounds]
    if not known.inverse_known:
        grounds.append("taken as: more volts, more speed; begin at 5 V and find out")
    if known.full_w is not None:
        grounds.append(
            "watts by the cube law from those at full speed, a tenth of them for the electronics: an estimate"
        )
    full = None if known.full_w is None else known.full_w * known.sheet.fans
    return ControlFan(
        known.over_control, state.supply_voltage_v, known.rated_v, full, tuple(grounds), known.sheet.fans, known.dc,
        known,
    )  # fmt: skip
