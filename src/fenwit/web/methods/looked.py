"""A fan and a design that are only looked at: at speeds under way, before anything is chosen."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any, Generic, TypeVar

from pydantic import BaseModel

from fenwit.core.job.state import JobState
from fenwit.core.job.steps import check_wanted
from fenwit.core.job.subject import Lacking, Refused, Subject
from fenwit.core.methods.seam import Regulation
from fenwit.store.database import Database
from fenwit.web.page import load_state

E = TypeVar("E", bound=BaseModel)
U = TypeVar("U", bound=Subject)
D = TypeVar("D")


@dataclass(frozen=True)
class Looked(Generic[U, D]):
    """What is looked at."""

    state: JobState
    fan: U
    design: D | None
    """What is tried, else what is chosen, if that is of this method"""


def at_speeds(state: JobState, wanted_rpm: list[float] | None) -> JobState:
    """The job at speeds that are tried; None: at its own."""
    return state if wanted_rpm is None else replace(state, wanted_rpm=tuple(sorted(wanted_rpm)))


def subject_of(state: JobState, regulation: Regulation[U, D, Any]) -> U | str:
    """The fan as a method sees it, or in words why it does not. Raises InputError for a speed that cannot be."""
    fan = regulation.subject(state)
    if isinstance(fan, Refused):
        return fan.reason
    if isinstance(fan, Lacking):
        return "Needs " + ", ".join(m.text for m in fan.missing)
    check_wanted(state.wanted_rpm, fan.full.speed_rpm)
    return fan


def looked_at(
    database: Database, job_id: int, regulation: Regulation[U, D, Any],
    read: Callable[[Database, JobState, E], D], wanted_rpm: list[float] | None, edit: E | None,
) -> Looked[U, D] | str:  # fmt: skip
    """What of a method is looked at in a job.

    Parameters
    ----------
    database : Database
        Where the job is [-]
    job_id : int
        Which [-]
    regulation : Regulation
        The method [-]
    read : callable
        Reads a typed design [-]
    wanted_rpm : list of float, optional
        Speeds that are tried; left out: the job's own [rpm]
    edit : model, optional
        A design that is tried; left out: what is chosen [-]

    Returns
    -------
    Looked or str
        Or in words why the method sees no fan here [-]

    Raises
    ------
    InputError
        A speed or a design that cannot be.
    """
    state = at_speeds(load_state(database, job_id), wanted_rpm)
    fan = subject_of(state, regulation)
    if isinstance(fan, str):
        return fan
    chosen = state.design if isinstance(state.design, regulation.design) else None
    return Looked(state, fan, read(database, state, edit) if edit else chosen)
