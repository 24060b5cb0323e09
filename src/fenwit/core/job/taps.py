"""Speed and amps of every tap of a tapped motor, before power is ever applied."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from fenwit.core import quantity as q
from fenwit.core.calibrate.bands import Band, percentiles
from fenwit.core.calibrate.fit import Belief
from fenwit.core.calibrate.leads import TapSections
from fenwit.core.errors import InputError
from fenwit.core.job.findings import windings
from fenwit.core.job.state import JobState
from fenwit.core.job.steps import Shown, shown, shown_amps
from fenwit.core.load import FanLoad
from fenwit.core.memory import remembered
from fenwit.core.motor.machine import TwoWindingMotor
from fenwit.core.motor.taps import StartBranch, Tap, TapFedMotor, on_tap, tap_turns, two_taps_alive
from fenwit.core.operating import Source, scan, solve, tabulate

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
    known = state.findings.start_branch or (StartBranch.MAIN_SECTION if sections.from_high else None)
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
    return TapSheet(tuple(rows), branches, _note(state, sections, known), _alive(supply.voltage_v, taps))


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


def _alive(volts: float, taps: tuple[Tap, ...]) -> str:
    worst = max(
        (two_taps_alive(volts, a, b) for a, b in pairwise(taps) if b.extra_ohm > a.extra_ohm),
        key=lambda t: t.current_a,
        default=None,
    )
    if worst is None:
        return ""
    return (
        f"two taps alive at once drive up to {worst.current_a:.2g} A round through the turns between them "
        f"({worst.induced_v:.0f} V across their own ohms, {q.show(worst.heat_w, q.POWER, 2)}): barred"
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
    speeds, amps = _bands(belief, supply, tap, branch)
    return TapSpeed(branch, shown(point.speed_rpm, speeds, "rpm"), shown_amps(point.line_current_a, amps))


def _bands(belief: Belief, supply: Source, tap: Tap, branch: StartBranch) -> tuple[Band, Band]:
    model, d = belief.model, belief.datum
    drawn = model.motor(belief.theta[..., None])
    base = belief.motor
    if not isinstance(drawn, TwoWindingMotor) or not isinstance(base, TwoWindingMotor):
        raise InputError("motor_kind", d.kind.value, "a motor with taps", "this motor has no taps")
    ratio = float(on_tap(base, tap, branch).extra_ohm) / float(base_ohm(belief))
    # Each draw's winding has its own ohms; the tap's share of them is what was read.
    motor = TapFedMotor(drawn, tap.turns, ratio * np.asarray(drawn.main_resistance_ohm), branch)
    table = tabulate(motor, _loads(belief), supply.frequency_hz, _SPEEDS)
    found = scan(table, supply.voltage_v, np.zeros((1, belief.draws_kept), dtype=np.complex128))
    values = np.stack([found.speed_rpm[0], found.motor_voltage_v[0] * np.abs(found.admittance_s[0])])
    low, _, high = percentiles(values, found.runs[0])
    return Band(float(low[0]), float(high[0])), Band(float(low[1]), float(high[1]))


def base_ohm(belief: Belief) -> float:
    """Ohms of the likeliest motor's main winding [Ω]."""
    assert isinstance(belief.motor, TwoWindingMotor)
    return float(belief.motor.main_resistance_ohm)


def _loads(belief: Belief) -> FanLoad:
    """The fan of every draw."""
    return belief.model.load(belief.theta)
