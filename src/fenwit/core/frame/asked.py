"""A job with its method: what stands behind the regulator, and the steps of it, asked through the seam."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

from fenwit.core.errors import InputError
from fenwit.core.job.air import JobAir
from fenwit.core.job.machine import MachineFan
from fenwit.core.job.state import JobState
from fenwit.core.job.steps import Reason, ReasonKind, Step, Steps, check_wanted
from fenwit.core.job.subject import Lacking, Refused, Subject
from fenwit.core.methods import of
from fenwit.core.methods.seam import Case, Regulation
from fenwit.core.motor.kinds import Method
from fenwit.core.operating import StepVerdict

_WITHIN = 0.998
"""How much below what safety asks for rounding may lie [-]"""


@dataclass(frozen=True, eq=False)
class Asked:
    """A job whose fan is known to its method."""

    state: JobState
    regulation: Regulation[Any, Any, Any]
    subject: Subject

    @property
    def design(self) -> Any:
        """What is chosen; None while nothing is."""
        return self.state.design

    @property
    def full_rpm(self) -> float:
        """Full speed [rpm]"""
        return self.subject.full.speed_rpm

    def steps(self, glance: bool = False) -> Steps:
        """All steps: of what is chosen, or ideal. Raises InputError for a wanted speed that cannot be."""
        wanted = self.state.wanted_rpm
        check_wanted(wanted, self.full_rpm)
        if self.design is None:
            return self._safe(self.regulation.ideal(self.subject, wanted, glance))
        return self._safe(self.regulation.steps(self.subject, self.design, wanted, glance))

    @cached_property
    def air(self) -> JobAir:
        """Its air [-]"""
        exponent = float(self.subject.belief.load.exponent) if isinstance(self.subject, MachineFan) else 2.0
        sheet = self.state.air
        return JobAir(
            sheet, self.full_rpm, exponent, self.state.nameplate.airflow_m3_per_s,
            max(sheet.parallel * sheet.series, self.state.commanded.fans),
            None if self.design is None else self.regulation.switches_hz(self.design),
        )  # fmt: skip

    def _safe(self, steps: Steps) -> Steps:
        """Steps that give less air than safety asks for are none, whatever makes them."""
        least = self.air.least_rpm
        if least is None:
            return steps
        return tuple(self._barred(s) if s.shown and s.shown.speed_rpm < least * _WITHIN else s for s in steps)

    def _barred(self, step: Step[Any]) -> Step[Any]:
        reason = Reason(ReasonKind.UNSAFE, self.air.least_words)
        return replace(step, verdict=StepVerdict.BARRED, reasons=(reason, *step.reasons), bands={})

    def case(self, steps: Steps) -> Case[Any, Any, Any]:
        """What explanations draw on."""
        return Case(self.subject, self.design, steps, self.state.profile.mains)


def asked(state: JobState) -> Asked | Refused | Lacking:
    """A job as its method sees it, or why nothing can be computed."""
    regulation = of(state.method)
    found = regulation.subject(state)
    return found if isinstance(found, Refused | Lacking) else Asked(state, regulation, found)


def known(state: JobState) -> Asked | None:
    """The same; None while it is refused or too little is known."""
    found = asked(state)
    return found if isinstance(found, Asked) else None


def machine_in(state: JobState) -> MachineFan | None:
    """The machine behind a job's regulator; None while nothing can be computed, or where there is none."""
    found = known(state)
    return found.subject if found and isinstance(found.subject, MachineFan) else None


def must_know(state: JobState) -> Asked:
    """The same; raises InputError with the reason while it is refused or too little is known."""
    found = asked(state)
    if isinstance(found, Asked):
        return found
    if isinstance(found, Refused):
        raise InputError("method", state.method.value, "a method that suits this fan", found.reason)
    words = ", ".join(m.text for m in found.missing)
    raise InputError(
        "method", state.method.value, "a fan that is computed", f"nothing is computed yet: it needs {words}"
    )


def as_by(state: JobState, method: Method) -> JobState:
    """The job as it would be by another method: beside what is chosen, nothing of that counts there."""
    if state.method is method:
        return state
    return replace(state, design=None, proofs=(), sizing=replace(state.sizing, method=method))
