"""Which methods suit a motor, with their conditions computed for this very job."""

from __future__ import annotations

from dataclasses import dataclass

from fenwit.core.job.machine import MachineFan
from fenwit.core.job.state import JobState
from fenwit.core.job.subject import Lacking, Refused
from fenwit.core.methods import REGULATIONS
from fenwit.core.motor.kinds import Answer, Method, MotorKind, Suitability, is_known, suitability
from fenwit.core.motor.machine import synchronous_speed_rpm

_STARTED = (MotorKind.SPLIT_PHASE, MotorKind.CAPACITOR_START, MotorKind.CAPACITOR_START_RUN)


@dataclass(frozen=True)
class Suited:
    """One method's answer with what was computed for it."""

    method: Method
    name: str
    answer: Answer
    reason: str
    never: bool
    computed: tuple[str, ...]
    overridden: bool
    sized_here: bool
    """Whether parts and settings are computed for it, on this kind of motor"""


NOT_SIZED = "suits, not sized here yet"
"""Of a job whose motor may be regulated, though by nothing that is computed here [-]"""


def _sized(kind: MotorKind, method: Method) -> bool:
    return method in REGULATIONS and is_known(kind)


def sized_ways(state: JobState) -> tuple[Method, ...]:
    """Ways that are not refused for a job's fan, of those that are sized here."""
    return tuple(m for m, room in REGULATIONS.items() if not isinstance(room.subject(state), Refused))


def suits_here(state: JobState) -> bool:
    """Whether a way that suits a job's fan outright is sized here."""
    if state.kind is None:
        return False
    suit = {row.method for row in suitability(state.kind) if row.answer is Answer.SUITS}
    return is_known(state.kind) and any(m in suit for m in sized_ways(state))


def suits_elsewhere(state: JobState) -> str:
    """What suits a motor for which nothing is computed here.

    Parameters
    ----------
    state : JobState
        The job; its kind is known [-]

    Returns
    -------
    str
        Methods in words; empty where none suits [-]
    """
    if state.kind is None:
        return ""
    open_ = [r for r in suitability(state.kind) if r.answer is not Answer.REFUSED]
    first = [r for r in open_ if r.answer is Answer.SUITS] or open_
    return ", ".join(r.name for r in first)


def suited(state: JobState, fan: MachineFan | None) -> tuple[Suited, ...]:
    """Every method's answer for a job's motor, with its conditions checked by computation as far as that goes.

    Parameters
    ----------
    state : JobState
        The job [-]
    fan : MachineFan or None
        The believed fan; None while too little is known [-]

    Returns
    -------
    tuple of Suited
        As the table of kinds has them; all refused where the duty forbids it [-]

    Raises
    ------
    InputError
        Values that contradict each other.
    """
    if state.kind is None:
        return ()
    duty = state.findings.forbidden
    found = []
    for row in suitability(state.kind):
        if duty is not None:
            words = f"it drives {duty.text}: its speed is not to be lowered; ask {duty.refer}"
            found.append(Suited(row.method, row.name, Answer.REFUSED, words, True, (), False, False))
            continue
        found.append(
            Suited(
                row.method,
                row.name,
                row.answer,
                row.reason,
                row.never,
                _computed(state, fan, row),
                row.method in state.overridden and row.answer is Answer.REFUSED and not row.never,
                _sized(state.kind, row.method),
            )
        )
    return tuple(found)


def _computed(state: JobState, fan: MachineFan | None, row: Suitability) -> tuple[str, ...]:
    if state.kind in _STARTED and row.answer is Answer.REFUSED and row.never:
        return start_switch(state)
    if fan is None:
        return ()
    room = REGULATIONS.get(row.method)
    subject = room.subject(state) if room is not None else None
    if room is None or subject is None or isinstance(subject, Refused | Lacking):
        return ()
    return room.suits(subject, state.wanted_rpm)


def start_switch(state: JobState) -> tuple[str, ...]:
    """Where the start switch closes again, and which wanted steps lie below.

    Parameters
    ----------
    state : JobState
        The job; poles are needed [-]

    Returns
    -------
    tuple of str
        In words; empty while the poles are not known [-]
    """
    poles, share = state.nameplate.poles, state.findings.switch_share
    if poles is None:
        return ()
    n_s = synchronous_speed_rpm(poles, state.supply_frequency_hz)
    closes = share * n_s
    said = [
        f"the switch closes again near {closes:.0f} rpm, {share:.0%} of the {n_s:.0f} rpm of its field: "
        "every speed below lies in its range"
    ]
    below = [w for w in state.wanted_rpm if w < closes]
    if below:
        said.append(f"wanted and below it: {', '.join(f'{w:.0f} rpm' for w in below)}")
    said.append(
        "starting torque goes with the square of volts: at 70 % of them 49 % is left, at half a quarter"
    )
    return tuple(said)
