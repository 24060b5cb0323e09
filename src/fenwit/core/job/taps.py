"""Speed and amps of every tap of a tapped motor, before power is ever applied."""

from __future__ import annotations

from dataclasses import dataclass, replace
from itertools import combinations

import numpy as np

from fenwit.core import quantity as q
from fenwit.core.calibrate.bands import Band, StepBands, drawn, joined
from fenwit.core.calibrate.fit import Belief
from fenwit.core.calibrate.leads import TapSections
from fenwit.core.errors import InputError
from fenwit.core.job.findings import windings
from fenwit.core.job.state import JobState
from fenwit.core.job.steps import Shown, shown, shown_amps
from fenwit.core.memory import remembered
from fenwit.core.motor.machine import TwoWindingMotor
from fenwit.core.motor.taps import (
    StartBranch,
    Tap,
    TapFedMotor,
    TwoTapsAlive,
    TwoTapsFed,
    as_warm,
    on_tap,
    tap_turns,
    two_taps_alive,
)
from fenwit.core.operating import Machined, Source, solve, tabulate

_SPEEDS = 72


@dataclass(frozen=True)
class TapSpeed:
    """One tap with one connection of the start branch."""

    branch: StartBranch
    speed: Shown | None
    """None where it does not start"""
    amps: Shown | None


@dataclass(frozen=True)
class TapRow:
    """One tap."""

    role: str
    lead: str
    turns_text: str
    extra_text: str
    speeds: tuple[TapSpeed, ...]


@dataclass(frozen=True)
class TapSheet:
    """All taps, fastest first."""

    rows: tuple[TapRow, ...]
    branches: tuple[StartBranch, ...]
    note: str
    alive_text: str
    """What two taps alive at once would do"""


def taps_of(state: JobState) -> tuple[TapSections, tuple[Tap, ...]] | None:
    """Section ohms and turns of a job's taps; None while the leads are not found or there is one tap only.

    Raises InputError where a gauge factor cannot be."""
    found = windings(state.findings, dict(state.readings))
    if found is None or len(found.taps) < 2:
        return None
    turns = tap_turns(found.main_ohm, [(role, extra) for role, _, extra in found.taps], state.findings.gauge)
    return found, turns


def tap_sheet(state: JobState, belief: Belief, supply: Source) -> TapSheet | None:
    """Speed and amps of every tap, with the start branch as it hangs, or both ways where that is not known.

    Parameters
    ----------
    state : JobState
        The job with its leads [-]
    belief : Belief
        The fan on its fastest tap [-]
    supply : Source
        Supply [-]

    Returns
    -------
    TapSheet or None
        None while the leads are not found, or for a motor without taps [-]

    Raises
    ------
    InputError
        A gauge factor that cannot be.
    """
    found = taps_of(state)
    if found is None or not isinstance(belief.motor, TwoWindingMotor):
        return None
    sections, taps = found
    known = start_branch(state, sections)
    branches = (known,) if known else tuple(StartBranch)
    solved = {branch: _solved(belief, supply, taps, branch) for branch in branches}
    rows = []
    for i, (tap, (role, lead, _)) in enumerate(zip(taps, sections.taps, strict=True)):
        rows.append(
            TapRow(
                role,
                lead,
                f"{tap.turns:.2f} ×",
                q.show(tap.extra_ohm, q.RESISTANCE) if tap.extra_ohm else "",
                tuple(solved[b][i] for b in branches),
            )
        )
    alive = _alive(belief, supply, taps, branches[0])
    return TapSheet(tuple(rows), branches, _note(state, sections, known), alive)


def _note(state: JobState, sections: TapSections, known: StartBranch | None) -> str:
    wire = "one gauge of wire" if not state.findings.gauge else "the gauge factors given"
    branch = (
        "the start winding hangs on the high-speed lead, so it sees the main section only"
        if sections.from_high
        else "whether the start branch spans the whole supply or the main section only is not known: both are shown"
        if known is None
        else "start branch as set"
    )
    return f"Full-speed readings count as taken on the fastest tap. Turns from ohms, with {wire}; {branch}."


def start_branch(state: JobState, sections: TapSections) -> StartBranch | None:
    """Where the start branch hangs: as set, or as the leads show; None where nobody knows."""
    return state.findings.start_branch or (StartBranch.MAIN_SECTION if sections.from_high else None)


def _alive(belief: Belief, supply: Source, taps: tuple[Tap, ...], branch: StartBranch) -> str:
    worst = worst_alive(belief, supply, taps, branch)
    if worst is None:
        return ""
    return (
        f"two taps alive at once drive up to {worst.current_a:.2g} A round through the turns between them "
        f"({q.show(worst.heat_w, q.POWER, 2)} of heat there, while the fan seems to run nearly right): barred"
    )


@remembered
def worst_alive(
    belief: Belief, supply: Source, taps: tuple[Tap, ...], branch: StartBranch
) -> TwoTapsAlive | None:
    """The two taps that would drive most current round, at full speed; None where no turns lie between any."""
    base = belief.motor
    assert isinstance(base, TwoWindingMotor)
    full = float(belief.load.full_speed_rpm)
    return max(
        (
            two_taps_alive(
                TwoTapsFed(base, as_warm(base, a), as_warm(base, b), branch),
                full,
                supply.voltage_v,
                supply.frequency_hz,
            )
            for a, b in combinations(taps, 2)
            if b.extra_ohm > a.extra_ohm
        ),
        key=lambda t: t.current_a,
        default=None,
    )


@remembered
def _solved(
    belief: Belief, supply: Source, taps: tuple[Tap, ...], branch: StartBranch
) -> tuple[TapSpeed, ...]:
    base = belief.motor
    assert isinstance(base, TwoWindingMotor)
    return tuple(_one(belief, base, supply, tap, branch) for tap in taps)


def _one(belief: Belief, base: TwoWindingMotor, supply: Source, tap: Tap, branch: StartBranch) -> TapSpeed:
    point = solve(on_tap(base, tap, branch), belief.load, [supply])[0].running
    if point is None:
        return TapSpeed(branch, None, None)
    bands = tap_bands(belief, supply, tap, branch)
    return TapSpeed(
        branch,
        shown(point.speed_rpm, bands.speed_rpm, "rpm"),
        shown_amps(point.line_current_a, bands.line_current_a),
    )


@remembered
def tap_bands(belief: Belief, supply: Source, tap: Tap, branch: StartBranch) -> StepBands:
    """Bands of a step on a tap.

    The model's own error grows with the volts of a turn, as it does behind anything else that lowers them.

    Parameters
    ----------
    belief : Belief
        The fan on its fastest tap [-]
    supply : Source
        Supply [-]
    tap : Tap
        The tap [-]
    branch : StartBranch
        Where the start branch hangs [-]

    Returns
    -------
    StepBands
        Its motor volts are the supply's [-]

    Raises
    ------
    InputError
        A motor without taps.
    """
    table = drawn_table(belief, tap, branch, supply.frequency_hz)
    ways = drawn(belief, supply, [0j], table=table)
    values = np.stack(
        [
            ways.found.speed_rpm,
            ways.found.motor_voltage_v / tap.turns,
            ways.line_current_a,
            ways.motor_power_w,
            ways.motor_loss_w,
        ]
    )
    (found,) = joined(belief, values, ways.found.runs, ways.over, ways.start_margin)
    return replace(found, motor_voltage_v=Band(supply.voltage_v, supply.voltage_v))


def drawn_motor(belief: Belief, tap: Tap, branch: StartBranch) -> TapFedMotor:
    """The motor of every draw on a tap. Raises InputError for a motor without taps."""
    cloud, base = belief.model.motor(belief.theta[..., None]), belief.motor
    if not isinstance(cloud, TwoWindingMotor) or not isinstance(base, TwoWindingMotor):
        raise InputError("motor_kind", belief.datum.kind.value, "a motor with taps", "this motor has no taps")
    # Each draw's winding has its own ohms; the tap's share of them is what was read.
    share = float(as_warm(base, tap).extra_ohm) / float(base.main_resistance_ohm)
    return TapFedMotor(cloud, tap.turns, share * np.asarray(cloud.main_resistance_ohm), branch)


@remembered
def drawn_table(belief: Belief, tap: Tap, branch: StartBranch, frequency_hz: float) -> Machined:
    """Every draw on a tap, tabulated over speed. Raises InputError as `drawn_motor`."""
    load = belief.model.load(belief.theta)
    return tabulate(drawn_motor(belief, tap, branch), load, frequency_hz, _SPEEDS)
