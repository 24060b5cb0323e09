"""What a fan holds by itself, worked out for a job."""

from __future__ import annotations

from fenwit.core.errors import InputError
from fenwit.core.frame.asked import must_know
from fenwit.core.frame.hold.heat import heat_worked_out
from fenwit.core.frame.hold.loop import loop_worked_out, missing_words
from fenwit.core.frame.hold.shown import HoldShown
from fenwit.core.job.hold import Holds
from fenwit.core.job.state import JobState, commanded_of


def hold_shown(state: JobState) -> HoldShown:
    """What a job's fan holds, worked out as far as that goes.

    Parameters
    ----------
    state : JobState
        The job [-]

    Returns
    -------
    HoldShown
        With a note where something is missing [-]

    Raises
    ------
    InputError
        Values that cannot be held, as ``hold.loop.…`` or ``hold.heat.…``.
    """
    sheet = state.hold
    if sheet.holds is Holds.NOTHING:
        return HoldShown("Nothing is held: somebody sets the speed.")
    job = must_know(state)
    if sheet.holds is Holds.LOOP:
        air = job.air
        missing = missing_words(air, sheet.loop)
        if missing:
            return HoldShown(missing)
        try:
            return HoldShown(loop=loop_worked_out(state, air, sheet.loop))
        except InputError as error:
            field = _LOOP_FORM.get(error.field, error.field)
            raise InputError(f"hold.loop.{field}", error.value, error.allowed, error.reason) from None
    try:
        return HoldShown(heat=heat_worked_out(state, job, sheet.heat))
    except InputError as error:
        raise InputError(
            f"hold.heat.{_HEAT_FORM.get(error.field, error.field)}", error.value, error.allowed, error.reason
        ) from None


def hold_lines(shown: HoldShown) -> tuple[str, ...]:
    """What is held in words, for paper: figures, runs, sinks, the program's table, what a technician would change."""
    lines: list[str] = []
    if shown.loop is not None:
        lines += [f"{f.name}: {f.text}" for f in shown.loop.figures]
        lines += list(shown.loop.sensor)
        lines += [a.words for a in shown.loop.advice]
    if shown.heat is not None:
        heat = shown.heat
        lines += [f"{f.name}: {f.text}" for f in heat.figures]
        lines += [f"{s.name}: {s.worst_text}, {s.margin_text}".rstrip(", ") for s in heat.sinks]
        lines += [
            f"{r.name}: starts {r.starts}, off {r.off}, mean speed {r.mean}, {r.worst} at most, {r.energy}, {r.noise}"
            for r in heat.runs
        ]
        lines += [a.words for a in heat.advice]
        lines += [f"{r.temperature}: speed {r.speed}, {heat.command_heading} {r.command}" for r in heat.table]
    return tuple(lines)


_LOOP_FORM = {
    "set_flow_m3_s": "set_point", "set_pressure_pa": "set_point", "set_speed": "set_point", "gain_kp": "gain",
    "integral_s": "integral", "sample_s": "sample", "sensor_lag_s": "sensor_lag", "minimum_speed": "least",
    "total_s": "total", "damper_factor": "damper_factor", "damper_at_s": "damper_at", "damper_back_at_s": "damper_back",
}  # fmt: skip
_HEAT_FORM = {
    "start_c": "start", "full_c": "full", "hysteresis_k": "hysteresis", "minimum_speed": "least", "kick_s": "kick",
    "ambient_c": "ambient", "warmest_c": "warmest", "total_s": "total",
}  # fmt: skip


def check_hold(state: JobState) -> None:
    """Refuse, beside its field, what this very fan cannot hold; nothing is asked while too little is known of it."""
    if state.hold.holds is Holds.NOTHING or isinstance(commanded_of(state), tuple):
        return
    try:
        hold_shown(state)
    except InputError as error:
        if error.field.startswith("hold."):
            raise
