"""What a job knows that a wiring begins with: its supply, its leads, its regulator."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from fenwit.core.calibrate.leads import remembered_finding
from fenwit.core.circuit.wiring.of_regulator import regulator_document
from fenwit.core.circuit.wiring.templates import Facts, filled, template
from fenwit.core.errors import InputError
from fenwit.core.frame import frame
from fenwit.core.frame.air import beside
from fenwit.core.frame.asked import known, must_know
from fenwit.core.job.air import JobAir
from fenwit.core.job.findings import lead_sheet, windings
from fenwit.core.job.machine import MachineFan
from fenwit.core.job.state import JobState
from fenwit.core.motor.kinds import KINDS, MotorKind, SubjectKind

AS_SIZED = "as-sized"
"""Key of the circuit that is made from the regulator in Size"""
DIRECT = "+"
"""Where the circuit of a regulator on DC begins"""
_CAPACITOR_RUN = (MotorKind.PSC, MotorKind.PSC_TAPPED)


def wire_facts(state: JobState) -> Facts:
    """Supply, leads and ohms of a job as a circuit takes them; what is not known stays out."""
    plate, read = state.nameplate, dict(state.readings)
    amps = read.get("line_current_a", plate.printed_current_a)
    watts = state.supply_voltage_v * amps if amps is not None else None
    run_f = read.get("run_capacitance_f", plate.run_capacitance_f)
    common = auxiliary = ""
    taps: list[str] = []
    sections: list[tuple[str, str, float]] = []
    found = windings(state.findings, read)
    if found is not None:
        best = remembered_finding(lead_sheet(state.findings, read)).best
        roles = {role: lead for lead, role in best.roles} if best else {}
        common, auxiliary = roles.get("common", ""), roles.get("start", "")
        before, done = common, 0.0
        for _, lead, extra in found.taps:
            taps.append(lead)
            ohms = found.main_ohm if not done and before == common else extra - done
            sections.append((before, lead, round(ohms, 4)))
            before, done = lead, extra
        if auxiliary and found.start_ohm is not None:
            start = taps[0] if found.from_high and taps else common
            sections.append((start, auxiliary, round(found.start_ohm, 4)))
    else:
        main, branch = read.get("main_resistance_ohm"), read.get("auxiliary_resistance_ohm")
        if main is not None and not _is_mapped(state.kind):
            common, taps = "N", ["RUN"]
            sections.append(("N", "RUN", main))
            if branch is not None and state.kind in _CAPACITOR_RUN:
                auxiliary = "AUX"
                sections.append(("N", "AUX", branch))
    return Facts(
        state.supply_voltage_v, state.supply_frequency_hz, common, tuple(taps), auxiliary, tuple(sections),
        None if watts is None else round(watts, 1), run_f if state.kind in _CAPACITOR_RUN else None,
    )  # fmt: skip


@dataclass(frozen=True)
class Duties:
    """What a tap, by its lead or its role, or a speed gives of air, where the job knows it."""

    taps: Mapping[str, float]
    """Its speed [rpm]"""
    air: JobAir | None
    shaft_w: float | None = None
    """What the motor gives at full speed, by its readings [W]"""

    def words(self, state: str, rpm: float | None, heated: bool = True) -> str:
        """Speed, air and rise of what runs in a row; empty where nothing is known.

        Parameters
        ----------
        state : str
            Tap or speed that runs [-]
        rpm : float or None
            Its speed, where the circuit says it [rpm]
        heated : bool, optional
            Whether the air is warmed in this row [-]

        Returns
        -------
        str
            With how the rise stands to the appliance's own range [-]
        """
        speed = rpm if rpm is not None else self.taps.get(state)
        if not speed:
            return ""
        told = "" if self.air is None else beside(self.air, speed, heated)
        ranged = self.air.rise_words(speed) if self.air is not None and heated else ""
        return " · ".join(t for t in ("" if rpm is not None else f"about {speed:.0f} rpm", told, ranged) if t)


NO_DUTIES = Duties({}, None)


def duties_of(state: JobState) -> Duties:
    """Speeds of the taps and the air of a job, for the rows of its circuit."""
    job = known(state)
    if job is None:
        return NO_DUTIES
    marks = frame(state).taps
    named = {t.role: t.speed_rpm for t in marks} | {t.lead: t.speed_rpm for t in marks}
    subject = job.subject
    shaft = subject.full_point.shaft_power_w if isinstance(subject, MachineFan) else None
    return Duties(named, job.air, shaft)


def begun_wiring(state: JobState, key: str, title: str) -> dict[str, Any]:
    """A circuit to begin with, filled from the job.

    Parameters
    ----------
    state : JobState
        The job [-]
    key : str
        A template, or the regulator as it is sized [-]
    title : str
        What a circuit of the regulator is called [-]

    Returns
    -------
    dict
        A `fenwit-circuit/1` document [-]

    Raises
    ------
    InputError
        No such template, or nothing sized.
    """
    facts = wire_facts(state)
    if key == AS_SIZED:
        job = must_know(state)
        if job.design is None:
            raise InputError("template", key, "a regulator chosen in Size", "nothing is sized yet")
        if job.regulation.wired is not None:
            return job.regulation.wired(job.subject, job.design, facts, title)
        built = job.regulation.built(job.subject, job.design)
        if _is_mapped(state.kind) and built.circuit.line != DIRECT:
            raise InputError(
                "template",
                key,
                "the EC fan by its terminals",
                "this fan stands on the mains; only its strip is wired",
            )
        return regulator_document(built.circuit, facts, title, _is_mapped(state.kind))
    found = template(key)
    if found is None:
        raise InputError("template", key, "one of the circuits to begin with", "no such circuit")
    return filled(found.document, facts)


def _is_mapped(kind: MotorKind | None) -> bool:
    """Whether a fan of a kind has electronics of its own."""
    return kind is not None and KINDS[kind].subject is SubjectKind.MAPPED
