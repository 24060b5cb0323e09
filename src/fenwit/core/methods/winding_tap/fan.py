"""A believed fan whose motor has taps that were found: what a step finds behind its contact."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from fenwit.core.calibrate.bands import Band, StepBands
from fenwit.core.calibrate.leads import remembered_finding
from fenwit.core.errors import InputError
from fenwit.core.job.findings import lead_sheet
from fenwit.core.job.machine import MachineFan, machine_behind
from fenwit.core.job.state import JobState, Missing
from fenwit.core.job.subject import Lacking, Refused, Unready
from fenwit.core.job.taps import start_branch, tap_bands, taps_of
from fenwit.core.memory import remembered
from fenwit.core.motor.kinds import Method
from fenwit.core.motor.machine import TwoWindingMotor
from fenwit.core.motor.taps import (
    StartBranch,
    Tap,
    TapFedMotor,
    TwoTapsAlive,
    TwoTapsFed,
    as_warm,
    on_tap,
    two_taps_alive,
)
from fenwit.core.operating import Solution, Source, solve

KEY, NAME = Method.WINDING_TAP, "winding taps"


@dataclass(frozen=True, eq=False)
class TappedFan(MachineFan):
    """A believed fan with its taps, fastest first."""

    taps: tuple[Tap, ...]
    leads: tuple[str, ...]
    """Name of the lead of each tap, as it was found"""
    common: str
    found_branch: StartBranch | None
    """Where the start branch hangs, as far as leads or somebody say"""

    @property
    def base(self) -> TwoWindingMotor:
        """The motor on its fastest tap."""
        assert isinstance(self.belief.motor, TwoWindingMotor)
        return self.belief.motor

    def tap(self, name: str) -> Tap:
        """A tap by its role. Raises InputError where there is none of that name."""
        for tap in self.taps:
            if tap.name == name:
                return tap
        raise InputError(
            "positions", name, ", ".join(t.name for t in self.taps), "this motor has no such tap"
        )

    def lead(self, name: str) -> str:
        """The lead of a tap."""
        return self.leads[self.taps.index(self.tap(name))]

    def branches(self, chosen: StartBranch | None) -> tuple[StartBranch, ...]:
        """Where the start branch may hang: as chosen, as found, or both ways."""
        known = chosen or self.found_branch
        return (known,) if known else tuple(StartBranch)

    def motor(self, name: str, branch: StartBranch) -> TapFedMotor:
        """The motor on a tap."""
        return on_tap(self.base, self.tap(name), branch)


def subject(state: JobState) -> TappedFan | Unready:
    """The tapped fan of a job; why there is none."""
    fan = machine_behind(state, KEY, NAME)
    if not isinstance(fan, MachineFan):
        return fan
    if not isinstance(fan.belief.motor, TwoWindingMotor):
        words = "no model here tells what taps of this kind of motor do; read every tap instead"
        return Refused(words, words, True)
    found = taps_of(state)
    if found is None:
        if state.findings.leads:
            return Lacking((Missing("identify", "leads", "two speed leads at least, found by their ohms"),))
        return Lacking((Missing("identify", "leads", "which lead is which: their ohms"),))
    sections, taps = found
    leads = tuple(lead for _, lead, _ in sections.taps)
    return _tapped(fan, taps, leads, _common(state), start_branch(state, sections))


def _common(state: JobState) -> str:
    best = remembered_finding(lead_sheet(state.findings, dict(state.readings))).best
    return next((lead for lead, role in best.roles if role == "common"), "") if best else ""


@remembered
def _tapped(
    fan: MachineFan,
    taps: tuple[Tap, ...],
    leads: tuple[str, ...],
    common: str,
    branch: StartBranch | None,
) -> TappedFan:
    return TappedFan(fan.belief, fan.supply, fan.direct, fan.direct_bands, taps, leads, common, branch)


@remembered
def on(fan: TappedFan, name: str, branch: StartBranch, mains: float = 1.0) -> Solution:
    """The fan on a tap, on the stated mains or some times as many volts."""
    supply = Source(mains * fan.supply.voltage_v, fan.supply.frequency_hz)
    return solve(fan.motor(name, branch), fan.belief.load, [supply])[0]


def bands_on(fan: TappedFan, name: str, branches: tuple[StartBranch, ...]) -> StepBands:
    """Bands of a step on a tap; where nobody knows how the start branch hangs they hold both ways."""
    found = [tap_bands(fan.belief, fan.supply, fan.tap(name), branch) for branch in branches]
    if len(found) == 1:
        return found[0]

    def both(key: str) -> Band:
        bands = [getattr(b, key) for b in found]
        return Band(min(b.low for b in bands), max(b.high for b in bands))

    keys = (
        "speed_rpm",
        "motor_voltage_v",
        "line_current_a",
        "input_power_w",
        "motor_loss_w",
        "rise",
        "start_margin",
    )
    return StepBands(
        **{k: both(k) for k in keys},
        may_not_start=max(b.may_not_start for b in found),
        may_exceed=max(b.may_exceed for b in found),
        middle_speed_rpm=sum(b.middle_speed_rpm for b in found) / len(found),
    )


@remembered
def idle_v(
    fan: TappedFan, fed: str, branch: StartBranch, mains: float = 1.0
) -> tuple[tuple[str, float], ...]:
    """Volts to common of every tap that is not fed, while the fan runs on one; all of them at rest too.

    Parameters
    ----------
    fan : TappedFan
        The fan [-]
    fed : str
        The tap on line [-]
    branch : StartBranch
        Where the start branch hangs [-]
    mains : float
        Mains over their stated volts [-]

    Returns
    -------
    tuple
        Tap and volts [V]
    """
    point = on(fan, fed, branch, mains).running
    if point is None:
        return ()
    motor, slip = fan.motor(fed, branch), np.asarray(point.slip)
    volts = mains * fan.supply.voltage_v
    return tuple(
        (
            tap.name,
            volts
            * float(
                motor.idle_lead_v(slip, fan.supply.frequency_hz, tap.turns, as_warm(fan.base, tap).extra_ohm)
            ),
        )
        for tap in fan.taps
        if tap.name != fed
    )


def highest_idle_v(fan: TappedFan, fed: str, branches: tuple[StartBranch, ...], mains: float = 1.0) -> float:
    """Most volts to common at any lead that is not fed, whichever way the start branch hangs [V]"""
    return max((v for b in branches for _, v in idle_v(fan, fed, b, mains)), default=0.0)


def alive(fan: TappedFan, names: tuple[str, ...], branch: StartBranch) -> TwoTapsAlive | None:
    """The worst of what runs round while several taps are fed at once; None where one is."""
    taps = sorted((as_warm(fan.base, fan.tap(n)) for n in names), key=lambda t: t.turns)
    found = [
        two_taps_alive(
            TwoTapsFed(fan.base, a, b, branch), fan.full_rpm, fan.supply.voltage_v, fan.supply.frequency_hz
        )
        for i, a in enumerate(taps)
        for b in taps[i + 1 :]
    ]
    return max(found, key=lambda t: t.current_a, default=None)
