"""The order of work in Prove for a job: of its method, and of what its fan holds."""

from __future__ import annotations

from fenwit.core.frame.asked import known
from fenwit.core.frame.hold.proved import heat_lines
from fenwit.core.job.mapped import MappedFan
from fenwit.core.job.state import JobState
from fenwit.core.prove.plan import PlanLine


def plan_of(state: JobState) -> tuple[PlanLine, ...]:
    """Its lines; none while nothing is chosen, or where its method has none and nothing is held.

    Parameters
    ----------
    state : JobState
        The job [-]

    Returns
    -------
    tuple of PlanLine
        In the order of the work [-]

    Raises
    ------
    InputError
        Values that contradict each other.
    """
    job = known(state)
    if job is None or job.design is None:
        return ()
    rows = job.regulation.plan(job.subject, job.design, job.steps(), state.hold)
    heat = heat_lines(job.subject, state.hold) if isinstance(job.subject, MappedFan) else ()
    return (*rows, *heat)
