"""What stands behind a regulator: what every stage may ask of it, and why there may be none yet."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Protocol

from fenwit.core.calibrate.bands import Band
from fenwit.core.calibrate.leads import remembered_finding
from fenwit.core.job.findings import lead_sheet
from fenwit.core.job.state import JobState, Missing
from fenwit.core.job.steps import Running
from fenwit.core.motor.kinds import Answer, Method, answer_for


class Subject(Protocol):
    """A fan as a regulator finds it: a machine with its load, or a map of speeds."""

    @property
    def full(self) -> Running:
        """As fast as it turns, with nothing regulated."""

    @property
    def full_band(self) -> Band | None:
        """Where full speed is expected; None where it is as read [rpm]"""

    @property
    def rated_voltage_v(self) -> float:
        """What its motor is made for [V]"""

    @property
    def assumptions(self) -> tuple[str, ...]:
        """What its numbers rest on [-]"""


@dataclass(frozen=True)
class Refused:
    """Nothing is predicted for this fan by this method."""

    brief: str
    """For lists [-]"""
    reason: str
    method_only: bool = False
    """The method does not go with the kind of motor; another one may"""


@dataclass(frozen=True)
class Lacking:
    """Too little is known yet."""

    missing: tuple[Missing, ...]


Unready = Refused | Lacking


def refused(state: JobState, method: Method, name: str) -> Refused | None:
    """Why nothing is predicted for a job's motor by a method; None where nothing stands against it.

    Parameters
    ----------
    state : JobState
        The job [-]
    method : Method
        The method [-]
    name : str
        What it is called, with its article [-]

    Returns
    -------
    Refused or None
        The first reason [-]
    """
    if state.findings.leads:
        stop = remembered_finding(lead_sheet(state.findings, dict(state.readings))).insulation_stop
        if stop:
            words = stop[0].lower() + stop[1:].rstrip(".")
            return Refused("insulation", words)
    duty = state.findings.forbidden
    if duty is not None:
        words = f"it drives {duty.text}: its speed is not to be lowered; ask {duty.refer}"
        return Refused(f"it drives {duty.text}", words)
    if state.kind is None:
        return None
    answer = answer_for(state.kind, method)
    if answer is None:
        words = f"{name} has no meaning for this kind of motor"
        return Refused(words, words, True)
    if answer.answer is not Answer.REFUSED or (not answer.never and method in state.overridden):
        return None
    return Refused(answer.brief or answer.reason, answer.reason, True)
