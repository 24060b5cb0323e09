"""A fan behind its control lead: speed over the duty on the lead."""

from __future__ import annotations

from dataclasses import dataclass

from fenwit.core.job.commanded import Commanded
from fenwit.core.job.mapped import MappedFan
from fenwit.core.job.state import JobState, commanded_of
from fenwit.core.job.subject import Lacking, Refused, Unready, refused
from fenwit.core.motor.kinds import KINDS, Method
from fenwit.core.regulator.control_lead import HIGH_V, SINK_A, PulledUp

KEY, NAME = Method.PWM, "a duty on the control lead"
THRESHOLD_V = 2.0
"""Above it a lead counts as high, by usual data [V]"""


@dataclass(frozen=True, eq=False)
class DutyFan(MappedFan):
    """Its map is over the duty of the signal on its lead, whichever way round it takes it."""

    known: Commanded | None = None

    @property
    def commanded(self) -> Commanded:
        """All that is known of it [-]"""
        assert self.known is not None
        return self.known

    @property
    def rising(self) -> bool:
        """More duty, more speed [-]"""
        return not self.commanded.inverted

    def meant(self, duty: float) -> float:
        """A duty on the lead as the fan means it: 1 is full speed [-]"""
        return duty if self.rising else 1 - duty

    @property
    def lead(self) -> PulledUp | None:
        """Its lead behind its own pull-up; None while that is not known [-]"""
        sheet = self.commanded.sheet
        if sheet.pull_up_ohm is None or sheet.pull_up_v <= THRESHOLD_V:
            return None
        return PulledUp(sheet.pull_up_ohm, sheet.lead_load_f, THRESHOLD_V, sheet.pull_up_v)

    @property
    def sink_a(self) -> float:
        """What a driver of all leads must sink [A]"""
        lead = self.lead
        return self.count * SINK_A if lead is None else lead.sink_a(self.count)

    @property
    def lead_v(self) -> float:
        """Most volts on its lead [V]"""
        return min(self.commanded.sheet.pull_up_v, HIGH_V) if self.commanded.sheet.pull_up_ohm else HIGH_V

    def watts(self, speed_rpm: float) -> float | None:
        """What all of them take at a speed [rpm → W]"""
        one = self.commanded.watts_at(speed_rpm)
        return None if one is None else one * self.count


def subject(state: JobState) -> DutyFan | Unready:
    """The fan of a job, or why it cannot be commanded so."""
    stop = refused(state, KEY, NAME)
    if stop is not None:
        return stop
    if state.kind is not None and not KINDS[state.kind].dc:
        words = "a mains-fed fan takes its 0–10 V input here, also for pulses, which a filter makes steady"
        return Refused("not its leads", words, True)
    known = commanded_of(state)
    if isinstance(known, tuple):
        return Lacking(known)
    return _fan(known, state.supply_voltage_v)


def _fan(known: Commanded, supply_v: float) -> DutyFan:
    grounds = [known.grounds]
    if not known.polarity_known:
        grounds.append("taken as: more duty, more speed; begin at 50 % and find out")
    if known.contradicted:
        way = "less" if known.inverted else "more"
        grounds.append(
            f"its sense was typed the other way round: by its map {way} duty means more speed, and that counts"
        )
    if known.full_w is not None:
        grounds.append(
            "watts by the cube law from those at full speed, a tenth of them for the electronics: an estimate"
        )
    full = None if known.full_w is None else known.full_w * known.sheet.fans
    return DutyFan(
        known.over_duty, supply_v, known.rated_v, full, tuple(grounds), known.sheet.fans, known=known
    )
