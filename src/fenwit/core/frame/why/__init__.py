"""Why this number: every shown result with its equation, the numbers in it, what it assumes and where it ends."""

from __future__ import annotations

from fenwit.core.errors import InputError
from fenwit.core.frame.accepted import rule_rows, spread_rows
from fenwit.core.frame.asked import Asked
from fenwit.core.frame.why.machine import FULL, check
from fenwit.core.job.machine import MachineFan
from fenwit.core.job.steps import Steps, miss_text, misses
from fenwit.core.methods.seam import Why
from fenwit.core.size.profile import RuleKey


def explain(job: Asked, key: str) -> Why:
    """Explain one number of a job page.

    Parameters
    ----------
    job : Asked
        The job as it stands or is tried [-]
    key : str
        What is asked for: ``full``, ``synchronous``, ``check:line_current_a``, ``miss``, ``step:2:speed``,
        ``part:A:volts``, ``rule:evenness``, ``spread:2`` [-]

    Returns
    -------
    Why
        The explanation [-]

    Raises
    ------
    InputError
        No such number, or one that is not shown: a barred step has none.
    """
    why, steps = job.regulation.why, job.steps()
    match key.split(":"):
        case ["full" | "synchronous" as what] if isinstance(job.subject, MachineFan):
            return FULL[what](job.subject)
        case ["check", name] if isinstance(job.subject, MachineFan):
            return check(job.subject, name)
        case ["miss"]:
            return _miss(job, steps)
        case ["step", number, what] if number.isdigit() and what in why.step:
            step = next((s for s in steps if s.number == int(number)), None)
            if step is not None:
                return why.step[what](job.case(steps), step)
        case ["spread", number] if number.isdigit():
            return _spread(job, steps, int(number))
        case ["part", name, what]:
            return why.part(job.case(steps), name, what)
        case ["rule", name] if name in {k.value for k in RuleKey}:
            return _rule(job, steps, RuleKey(name))
    raise InputError("of", key, "a number shown in this job", "there is no such number")


def _chosen(job: Asked) -> None:
    if job.design is None:
        noun = job.regulation.noun
        raise InputError("of", "part", f"a job with a {noun}", f"no {noun} is chosen yet")


def _miss(job: Asked, steps: Steps) -> Why:
    _chosen(job)
    full = job.full_rpm
    found = misses(full, steps)
    if not found:
        raise InputError("of", "miss", "a step that runs and has a wanted speed", "nothing is missed or met")
    worst = max(found, key=lambda m: m.share)
    return Why(
        "Worst miss of the steps as built",
        f"{miss_text(worst.share)} of full speed, at step {worst.step}",
        "max |n − n_wanted| / n_full",
        tuple(
            f"step {m.step}: |{m.speed_rpm:.0f} − {m.wanted_rpm:.0f}| / {full:.0f} = {100 * m.share:.1f} %"
            for m in found
        ),
        job.regulation.why.as_built,
        job.regulation.why.validity,
        "Each step solved for this motor (docs/regulator.md)",
    )


def _spread(job: Asked, steps: Steps, number: int) -> Why:
    _chosen(job)
    row = next((r for r in spread_rows(job, steps) if r.step == number), None)
    if row is None:
        raise InputError("of", number, "a step that runs", "no band is given for this step")
    equation, assumptions, source = job.regulation.why.spread(job.case(steps))
    return Why(
        f"Band of step {number} with everything free",
        row.together.text,
        equation,
        (f"parts alone {row.parts}, mains alone {row.mains}, motor alone {row.motor}", row.words),
        assumptions,
        job.regulation.why.validity,
        source,
    )


_RULE_EQUATIONS = {
    RuleKey.LOWEST: "n_1 / n_full",
    RuleKey.START_MARGIN: "T(0) / (1.5 T_f) at the lowest step",
    RuleKey.EVENNESS: "max |Δn / ((n_max − n_min)/(steps − 1)) − 1|",
    RuleKey.BANDS_APART: "min (low of the band above − high of the band below)",
    RuleKey.MOTOR_VOLTS: "max V_m on the stated mains",
    RuleKey.MOTOR_VOLTS_HIGH: "max V_m on high mains, against a limit that rises with them",
    RuleKey.STARTS_LOW: "min T(0) / (1.5 T_f) on low mains",
    RuleKey.DOUBT: "share of the likely fans with T(0) below break-away, or without a steady speed",
}


def _rule(job: Asked, steps: Steps, key: RuleKey) -> Why:
    _chosen(job)
    row = next((r for r in rule_rows(job, steps) if r.key is key), None)
    if row is None:
        raise InputError("of", key.value, "a rule that applies", "this rule says nothing about so few steps")
    speeds = ", ".join(f"{s.shown.speed_rpm:.0f}" for s in steps if s.shown)
    return Why(
        f"Acceptance: {row.text}",
        f"{row.value_text}, {row.by_text}",
        _RULE_EQUATIONS[key],
        (f"speeds {speeds} rpm", f"{row.value_text} against {row.limit_text}; decided at step {row.step}"),
        ("limits of this job's acceptance profile, which can be edited",),
        "Predicted values of the steps that may be used.",
        "Acceptance profile",
    )
