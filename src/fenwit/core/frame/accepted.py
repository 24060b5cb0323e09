"""Acceptance and straying as they are shown, whatever makes the steps."""

from __future__ import annotations

from fenwit.core import quantity as q
from fenwit.core.frame.asked import Asked
from fenwit.core.frame.shown import RuleShown, SpreadShown
from fenwit.core.job.machine import TOLD, of_hundred, stands_words
from fenwit.core.job.steps import Shown, Steps
from fenwit.core.methods.seam import Stray
from fenwit.core.size.profile import Profile, RuleKey, RuleResult, judge_profile
from fenwit.core.size.tolerance import Cause


def rule_rows(asked: Asked, steps: Steps) -> tuple[RuleShown, ...]:
    """Every rule of the job's profile, met or missed and by how much; none while nothing is chosen."""
    if asked.design is None:
        return ()
    profile = asked.state.profile
    facts = asked.regulation.facts(asked.subject, asked.design, steps, profile.mains)
    results = judge_profile(profile, facts, asked.full_rpm, asked.subject.rated_voltage_v)
    return tuple(_rule_shown(r, profile) for r in results)


_RULES = {
    RuleKey.LOWEST: "lowest step, of full speed",
    RuleKey.START_MARGIN: "torque at rest at the lowest step, over break-away",
    RuleKey.EVENNESS: "least even difference, off the ideal one",
    RuleKey.BANDS_APART: "room between the bands of neighbours",
    RuleKey.MOTOR_VOLTS: "motor volts",
    RuleKey.MOTOR_VOLTS_HIGH: "motor volts on high mains",
    RuleKey.STARTS_LOW: "torque at rest on low mains, over break-away",
    RuleKey.DOUBT: "cases in which a step does not start",
}


_HIGHEST = (
    RuleKey.LOWEST,
    RuleKey.EVENNESS,
    RuleKey.MOTOR_VOLTS,
    RuleKey.MOTOR_VOLTS_HIGH,
    RuleKey.DOUBT,
)
"""Rules whose limit is a highest value"""
_PLENTY = 2.0
"""Start margin from which the next digit says nothing [-]"""


def _rule_shown(result: RuleResult, profile: Profile) -> RuleShown:
    """A rule in words."""
    key = result.key

    def say(value: float) -> str:
        if key is RuleKey.DOUBT:
            return f"{100 * value:.0f} of 100" if value == 0 or value > TOLD else "under 1 of 100"
        if key in (RuleKey.LOWEST, RuleKey.EVENNESS):
            return f"{100 * value:.0f} %"
        if key in (RuleKey.START_MARGIN, RuleKey.STARTS_LOW):
            # Torque at rest is known to a factor of two or three: beyond the limit one digit says all.
            return (
                "no friction"
                if value == float("inf")
                else f"{q.plain(min(value, 99), 1 if value >= _PLENTY else 3)} ×"
            )
        if key is RuleKey.BANDS_APART:
            return f"{q.plain(value, 2)} rpm".replace("-", "−")
        return f"{q.plain(value, 3)} V"

    highest = key in _HIGHEST
    text = _RULES[key]
    if key in (RuleKey.MOTOR_VOLTS_HIGH, RuleKey.STARTS_LOW):
        text += f" ({'+' if key is RuleKey.MOTOR_VOLTS_HIGH else '−'}{100 * profile.mains:.0f} %)"
    bound = "at most" if highest else "above" if key is RuleKey.BANDS_APART else "at least"
    by = f"{'met' if result.met else 'missed'} by {say(result.by)}" if result.by != float("inf") else "met"
    return RuleShown(
        key=key,
        text=text,
        met=result.met,
        value_text=say(result.value),
        limit_text=f"{bound} {say(result.limit)}",
        by_text=by,
        step=result.step,
    )


def spread_rows(asked: Asked, steps: Steps) -> tuple[SpreadShown, ...]:
    """How far each usable step may stray, and what lets it; none while nothing is chosen."""
    if asked.design is None:
        return ()
    found = asked.regulation.strays(asked.subject, asked.design, steps, asked.state.profile.mains)
    speeds = {s.number: s.shown.speed_rpm for s in steps if s.shown}
    return tuple(_spread(asked, stray, speeds[stray.step]) for stray in found)


def _spread(asked: Asked, stray: Stray, speed_rpm: float) -> SpreadShown:
    band = stray.together
    alone = {cause: f"± {q.plain(b.half_width, 2)} rpm" for cause, b in stray.alone.items()}
    advice = {
        Cause.PARTS: asked.regulation.parts_advice,
        Cause.MAINS: "",
        Cause.MOTOR: "one more reading narrows it",
    }
    remarks = []
    if stands_words(stray.stops):
        remarks.append(stands_words(stray.stops))
    if stray.exceeds > TOLD:
        remarks.append(f"in {of_hundred(stray.exceeds)} of 100 the motor gets too many volts")
    if stray.stands_on_low_mains:
        remarks.append("on low mains it stands")
    text = q.with_uncertainty(speed_rpm, band.half_width, "")
    return SpreadShown(
        stray.step,
        stray.label,
        Shown(speed_rpm, text, "rpm", band.low, band.high),
        alone[Cause.PARTS],
        alone[Cause.MAINS],
        alone[Cause.MOTOR],
        stray.widest,
        advice[stray.widest],
        tuple(remarks),
    )
