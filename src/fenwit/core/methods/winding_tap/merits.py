"""What winding taps are compared by: the speeds they have, whatever is wanted."""

from __future__ import annotations

from fenwit.core.errors import InputError
from fenwit.core.job.state import JobState
from fenwit.core.methods.common.merits import fold_rpm, step_merit
from fenwit.core.methods.seam import Compared
from fenwit.core.methods.winding_tap.design import TapsDesign
from fenwit.core.methods.winding_tap.fan import TappedFan, alive, on
from fenwit.core.methods.winding_tap.rating import rate
from fenwit.core.methods.winding_tap.search import usual
from fenwit.core.methods.winding_tap.steps import branch_words, ideal
from fenwit.core.size.merits import Failing, Merits, Piece

_TO_SPARE = 1.15


def compared(fan: TappedFan, state: JobState, glance: bool) -> tuple[Compared, ...]:
    """The tap nearest to each wanted speed, as the motor has it; a speed no tap comes near is not given."""
    wanted_rpm, design = state.wanted_rpm, state.design if isinstance(state.design, TapsDesign) else None
    branches = fan.branches(design.branch if design else None)
    steps = ideal(fan, wanted_rpm, glance)
    found = []
    for step in steps:
        missed = step.need is not None and bool(step.need.reason)
        name = step.setting.name if step.setting else fan.taps[0].name
        found.append(None if missed else step_merit(fan, step, motor=fan.motor(name, branches[0])))
    unmet = tuple(s.need.reason if s.need and s.need.reason else "" for s in steps)
    text, unbuilt, fold = "", "", 0.0
    speeds: tuple[float, ...] = ()
    try:
        made = design or usual(fan, wanted_rpm, state)
        rated = rate(fan, made)
        text = ", ".join(f"{made.label(i)} ({fan.lead(fed[0])})" for i, fed in enumerate(made.positions))
        points = [s.running if s else None for s in rated.nominal]
        speeds = tuple(p.speed_rpm if p else 0.0 for p in points)
        fold = fold_rpm([s for s in rated.nominal if s])
        unbuilt = next((f"{p.name}: {p.refusal}" for p in rated.parts if p.refusal), "")
    except InputError as refused:
        unbuilt = refused.reason
    both = alive(fan, (fan.taps[0].name, fan.taps[-1].name), branches[0])
    joined = (
        f"{both.current_a:.2g} A run round in the turns between: it smells before anybody hears it"
        if both
        else ""
    )
    row = Merits(
        variant="",
        name="winding taps",
        steps=tuple(found),
        unmet=unmet,
        hottest="nothing outside the motor",
        hottest_w=0.0,
        slowest_rpm=_slowest(fan),
        jump_rpm=fold,
        stepless=False,
        built_text=text,
        built_rpm=speeds,
        pieces=((Piece.ROTARY_SWITCH, 1), (Piece.FUSE, 1), (Piece.BOX, 1)),
        regulator_hum="none of its own",
        failures=(
            Failing("tap lead off", "stops, and that lead is live", "", True),
            Failing("two taps alive", "", joined, True),
        ),
        unbuilt=unbuilt,
        note=branch_words(fan, fan.taps[-1].name) if len(branches) > 1 else "",
    )
    return (Compared(row, steps),)


def _slowest(fan: TappedFan) -> float | None:
    """The slowest tap that still starts with 15 % to spare."""
    branch = fan.branches(None)[0]
    found = [on(fan, t.name, branch) for t in fan.taps]
    return min(
        (s.running.speed_rpm for s in found if s.running and s.start_margin >= _TO_SPARE), default=None
    )
