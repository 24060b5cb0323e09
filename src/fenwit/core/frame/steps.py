"""The steps as they would run, their marks on the staff, and what each wanted speed asks for."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from fenwit.core import quantity as q
from fenwit.core.calibrate.bands import Band, StepBands
from fenwit.core.calibrate.fit import Datum
from fenwit.core.circuit.network import PositionSolution
from fenwit.core.errors import InputError, check_range
from fenwit.core.frame.fan import Aimed, Fan, Fired, regulated
from fenwit.core.frame.fired import (
    aimed_angles,
    curve_of,
    glanced_at,
    point_of,
    solved_at,
    travel,
    unbanded,
)
from fenwit.core.frame.shown import Aim, CurvePoint, Mark, Shown, Zone
from fenwit.core.frame.state import JobState, Proof
from fenwit.core.motor.kinds import Method
from fenwit.core.motor.machine import relative_rise
from fenwit.core.operating import MOTOR_VOLTAGE_LIMIT, OperatingPoint, Solution, StepVerdict, judge_step
from fenwit.core.prove.verdict import METER_ERROR, judge
from fenwit.core.regulator.firing import KnobCurve
from fenwit.core.regulator.knob import PhasePoint
from fenwit.core.regulator.series import HandEstimate, Inverse
from fenwit.core.size.bank import unevenness

_NO_POSITION = "no position"
_BRANCH_GAP = 0.12
"""Neighbouring samples of the knob curve further apart than this share of full speed lie on two branches [-]"""
_HIGH_MAINS = "on high mains, or coming down from full speed, motor volts would pass their limit"


@dataclass(frozen=True, eq=False)
class Step:
    """One step as it would run: the chosen bank's, or the ideal capacitor's while none is chosen."""

    number: int
    label: str
    wanted_rpm: float | None
    solution: Solution | None
    bands: StepBands | None
    capacitance_f: float | None
    """Series capacitance that stands in the line; None when nothing or no single value does"""
    impedance_ohm: complex
    bank: PositionSolution | None
    needed: Inverse | None
    hand: HandEstimate | None
    verdict: StepVerdict
    reasons: tuple[str, ...]
    firing_deg: float | None = None
    """Firing angle behind a triac; 0 is fully on; None where no angle gives it, or no triac is there [°]"""
    needed_deg: float | None = None
    """Angle that would give the wanted speed [°]"""
    kicked: bool = False
    """Comes down from full speed, so it need not start here"""

    @property
    def usable(self) -> bool:
        """Starts, and stays within motor volts."""
        return self.verdict is StepVerdict.OK

    @property
    def running(self) -> OperatingPoint | None:
        """The point reached from rest, or after a kick coming down from full speed."""
        if self.solution is None:
            return None
        return point_of(self.solution, True) if self.kicked else self.solution.running

    @property
    def fired(self) -> PhasePoint | None:
        """The running point behind a triac, where it is one."""
        point = self.running
        return point if isinstance(point, PhasePoint) else None

    @property
    def shown_point(self) -> OperatingPoint | None:
        """The point whose numbers may be shown: that of a usable step."""
        return self.running if self.usable else None


@dataclass(frozen=True)
class Miss:
    """A step beside the speed that was wanted of it."""

    step: int
    speed_rpm: float
    wanted_rpm: float
    share: float
    """Their distance over full speed [-]"""


def misses(fan: Fan, found: Sequence[Step]) -> tuple[Miss, ...]:
    """Every step that runs and has a wanted speed, with how far off it is."""
    full = fan.full.speed_rpm
    return tuple(
        Miss(s.number, p.speed_rpm, s.wanted_rpm, abs(p.speed_rpm - s.wanted_rpm) / full)
        for s in found
        if (p := s.shown_point) and s.wanted_rpm is not None
    )


def check_wanted(state: JobState, fan: Fan) -> None:
    """Raise InputError for a wanted speed this fan cannot have, or two that are one."""
    full = fan.full.speed_rpm
    for i, speed in enumerate(state.wanted_rpm):
        check_range(
            f"wanted_rpm[{i}]",
            speed,
            0.02 * full,
            full * 1.005,
            "rpm",
            reason=f"a regulator only slows a fan down; this one turns {full:.0f} rpm at full speed",
        )
    if any(b - a < 0.01 * full for a, b in zip(state.wanted_rpm, state.wanted_rpm[1:], strict=False)):
        raise InputError(
            "wanted_rpm",
            list(state.wanted_rpm),
            "rising by 1 % of full speed",
            "two steps ask for the same speed",
        )


def steps_of(state: JobState, datum: Datum, fan: Fan, glance: bool = False) -> tuple[Step, ...]:
    """All steps of a job: those of its regulator, or the ideal ones of the method it is aimed with.

    With ``glance``, while something is dragged, bands behind a triac lie between those of a few angles.
    """
    if state.method is Method.PHASE_ANGLE:
        return _fired_steps(state, fan, glanced_at if glance else solved_at)
    asked = fan.aimed([w for w in state.wanted_rpm if not _is_full(w, fan)])
    return _design_steps(state, datum, fan, asked) if state.bank else _ideal_steps(state, fan, asked)


def direct_step(fan: Fan) -> Step:
    """The fan without a regulator."""
    return Step(
        1, "direct", None, fan.direct, fan.direct_bands, None, 0j, None, None, None, *_judge(fan, fan.direct)
    )


def _ideal_steps(state: JobState, fan: Fan, asked: dict[float, Aimed]) -> tuple[Step, ...]:
    steps = []
    for k, wanted in enumerate(state.wanted_rpm):
        aimed = asked.get(wanted)
        if aimed is None:
            steps.append(replace(direct_step(fan), number=k + 1, wanted_rpm=wanted))
            continue
        inverse = aimed.needed
        verdict, reasons = (
            (StepVerdict.DOES_NOT_START, (inverse.reason,))
            if inverse.solution is None
            else _judge(fan, inverse.solution, aimed.bands)
        )
        if verdict is StepVerdict.OK and inverse.value and fan.barred_at(inverse.value):
            verdict, reasons = StepVerdict.BARRED, (_HIGH_MAINS,)
        steps.append(
            Step(
                number=k + 1,
                label="",
                wanted_rpm=wanted,
                solution=inverse.solution,
                bands=aimed.bands,
                capacitance_f=inverse.value,
                impedance_ohm=aimed.impedance_ohm,
                bank=None,
                needed=inverse,
                hand=aimed.hand,
                verdict=verdict,
                reasons=reasons,
            )
        )
    return tuple(steps)


def _is_full(speed_rpm: float, fan: Fan) -> bool:
    """Whether a wanted speed means nothing in the line: within half a per cent of full speed."""
    return speed_rpm >= 0.995 * fan.full.speed_rpm


def _design_steps(state: JobState, datum: Datum, fan: Fan, asked: dict[float, Aimed]) -> tuple[Step, ...]:
    design = state.bank
    assert design is not None
    bank = regulated(datum, fan.supply, design)
    omega = 2 * np.pi * fan.supply.frequency_hz
    steps = []
    for k in range(max(len(design.patterns), len(state.wanted_rpm))):
        wanted = state.wanted_rpm[k] if k < len(state.wanted_rpm) else None
        aimed = asked.get(wanted) if wanted is not None else None
        inverse, hand = (aimed.needed, aimed.hand) if aimed else (None, None)
        if k >= len(design.patterns):
            none = (
                StepVerdict.DOES_NOT_START,
                ("the chosen bank has no position for this step; choose again",),
            )
            steps.append(Step(k + 1, _NO_POSITION, wanted, None, None, None, 0j, None, inverse, hand, *none))
            continue
        position = bank.rated.positions[k]
        z = complex(position.impedance_ohm)
        verdict, reasons = _judge(fan, bank.rated.nominal[k], bank.bands[k])
        if verdict is StepVerdict.OK and not bank.rated.usable[k]:
            verdict, reasons = (
                StepVerdict.BARRED,
                (_HIGH_MAINS,),
            )
        steps.append(
            Step(
                number=k + 1,
                label=design.patterns[k],
                wanted_rpm=wanted,
                solution=bank.rated.nominal[k],
                bands=bank.bands[k],
                capacitance_f=-1 / (omega * z.imag) if -z.imag > 1.0 else None,
                impedance_ohm=z,
                bank=position,
                needed=inverse,
                hand=hand,
                verdict=verdict,
                reasons=reasons,
            )
        )
    return tuple(steps)


_Solver = Callable[[Fan, Sequence[float], bool], dict[float, Fired]]


def _fired_steps(state: JobState, fan: Fan, solver: _Solver) -> tuple[Step, ...]:
    """Steps behind a triac: at the control's angles, or at those the wanted speeds ask for."""
    control = state.control
    held = control is not None and control.starts_full
    wanted = [w if w < 0.995 * fan.full.speed_rpm else fan.full.speed_rpm for w in state.wanted_rpm]
    asked = aimed_angles(fan, wanted, held)
    angles: list[float | None] = list(control.firing_deg) if control else [asked[w] for w in wanted]
    solved = solver(fan, [a for a in angles if a is not None], held)
    curve = curve_of(fan)
    steps = []
    for k in range(max(len(angles), len(wanted))):
        needed = asked[wanted[k]] if k < len(wanted) else None
        angle = angles[k] if k < len(angles) else None
        step = Step(
            number=k + 1,
            label="",
            wanted_rpm=state.wanted_rpm[k] if k < len(wanted) else None,
            solution=None,
            bands=None,
            capacitance_f=None,
            impedance_ohm=0j,
            bank=None,
            needed=None,
            hand=None,
            verdict=StepVerdict.DOES_NOT_START,
            reasons=("the chosen control has no angle for this step; choose again",),
            needed_deg=needed,
            kicked=held,
        )
        if angle is not None:
            found = solved[angle]
            step = replace(step, solution=found.solution, bands=found.bands, firing_deg=angle)
            verdict, reasons = _judge_fired(state, fan, curve, step)
            step = replace(step, verdict=verdict, reasons=reasons)
        elif k >= len(angles):
            step = replace(step, label=_NO_POSITION)
        else:
            step = replace(step, reasons=(no_angle(state.wanted_rpm[k], curve, held),))
        steps.append(step)
    return tuple(steps)


def no_angle(wanted_rpm: float, curve: KnobCurve, held: bool = False) -> str:
    """Why no firing angle gives a speed."""
    runs = curve.held_rpm if held else curve.speed_rpm
    if not (runs > 0).any():
        return "at no angle does it start"
    slowest = float(runs[runs > 0].min())
    if wanted_rpm < slowest:
        way = "coming down from full it" if held else "from rest it"
        return f"{way} does not run slower than {slowest:.0f} rpm"
    return "faster than full on"


def _judge_fired(
    state: JobState, fan: Fan, curve: KnobCurve, step: Step
) -> tuple[StepVerdict, tuple[str, ...]]:
    assert step.solution is not None
    assert step.firing_deg is not None
    control, point = state.control, step.fired
    angle, bands = step.firing_deg, step.bands
    verdict, reasons = _judge(fan, step.solution, bands)
    if step.kicked and verdict is StepVerdict.DOES_NOT_START:
        verdict, reasons = (
            (StepVerdict.OK, ("it holds here, but would not start: that is what the kick is for",))
            if point
            else (StepVerdict.DOES_NOT_START, ("coming down from full speed it does not hold here",))
        )
    if verdict is StepVerdict.OK and point is not None and point.growth > 1:
        words = "no steady running there: the half-cycles drift apart, iron saturation decides here"
        return StepVerdict.BARRED, (words,)
    if control is not None and control.network is not None:
        knob = travel(control.network, fan.belief, fan.supply)
        if knob.turn_at(angle) is None:
            return StepVerdict.DOES_NOT_START, (f"the knob does not reach {angle:.0f}°: change its network",)
    if control is not None and control.short_pulse and 0 < angle < curve.least_safe_deg:
        words = "a short pulse here comes while current still flows: every second half-cycle would be missing"
        return StepVerdict.BARRED, (words,)
    if bands and bands.may_not_start > 0.05 and verdict is StepVerdict.OK:
        fate = "hold" if step.kicked else "start"
        cure = "" if step.kicked else ": give it a kick"
        reasons = (*reasons, f"{bands.may_not_start:.0%} of the likely motors would not {fate} here{cure}")
    return verdict, reasons


def _judge(
    fan: Fan, solution: Solution | None, bands: StepBands | None = None
) -> tuple[StepVerdict, tuple[str, ...]]:
    if solution is None:
        return StepVerdict.DOES_NOT_START, ("no value gives this speed",)
    motor, load = fan.belief.motor, fan.belief.load
    verdict, reasons = judge_step(solution, motor.rated_voltage_v, float(load.friction_nm))
    if verdict is StepVerdict.OK and bands and bands.may_exceed > 0.02:
        reasons = (
            *reasons,
            f"{100 * bands.may_exceed:.0f} in 100 motors that fit the readings would get more than "
            f"{fan.motor_limit_v:.0f} V here",
        )
    return verdict, reasons


# ---------------------------------------------------------------- as shown


def shown(value: float, band: Band | None, unit: str, scale: float = 1.0) -> Shown:
    """A number with its band, to the digits the band allows."""
    if band is None or band.half_width == 0:
        return Shown(value, q.plain(value * scale), unit)
    text = q.with_uncertainty(value * scale, band.half_width * scale, "")
    return Shown(value, text, unit, band.low, band.high)


def share_text(speed_rpm: float, fan: Fan) -> str:
    """A speed as per cent of full speed."""
    return f"{100 * speed_rpm / fan.full.speed_rpm:.0f} %"


def mark(state: JobState, fan: Fan, step: Step) -> Mark:
    """A step as it stands on the staff."""
    point = step.shown_point
    predicted = shown(point.speed_rpm, step.bands.speed_rpm if step.bands else None, "rpm") if point else None
    speed = point.speed_rpm if point else step.wanted_rpm
    measured = next((p for p in state.proofs if p.step == step.number and p.quantity == "speed_rpm"), None)
    judged = None
    if measured and step.bands and predicted:
        judged = judge(
            "speed_rpm",
            measured.value,
            expected_band(measured, step.bands.speed_rpm),
            METER_ERROR["speed_rpm"],
        )
    return Mark(
        step=step.number,
        label=step.label or (angle_words(step.firing_deg) if step.firing_deg is not None else ""),
        wanted_rpm=step.wanted_rpm,
        predicted=predicted,
        share_text=share_text(speed, fan) if speed else "",
        verdict=step.verdict,
        reasons=step.reasons,
        measured_rpm=measured.value if measured else None,
        measured_verdict=judged.verdict if judged else None,
        may_not_start=step.bands.may_not_start if step.bands else 0.0,
        may_exceed=step.bands.may_exceed if step.bands else 0.0,
    )


def expected_band(proof: Proof, now: Band) -> Band:
    """The band a reading is judged by: the one kept with it, else the present one."""
    if proof.expected_low is None or proof.expected_high is None:
        return now
    return Band(proof.expected_low, proof.expected_high)


@lru_cache(maxsize=512)
def fired_zones(fan: Fan, held: bool) -> tuple[Zone, ...]:
    """Speeds that no firing angle gives: below where it starts or holds, and between two branches."""
    curve, full = curve_of(fan), fan.full.speed_rpm
    runs = curve.held_rpm if held else curve.speed_rpm
    reached = np.sort(runs[runs > 0])
    if not len(reached):
        return (Zone(0.0, full, "at no firing angle does it start"),)
    found = []
    if reached[0] > 0.015 * full:
        words = "does not hold, even coming down" if held else "will not start from rest"
        found.append(Zone(0.0, float(reached[0]), words))
    for i in np.flatnonzero(np.diff(reached) > _BRANCH_GAP * full):
        found.append(Zone(float(reached[i]), float(reached[i + 1]), "no firing angle holds a speed here"))
    return tuple(found)


@lru_cache(maxsize=512)
def zones(fan: Fan) -> tuple[Zone, ...]:
    """Speeds that no capacitor gives: below the start limit, between two branches, or only with too many volts."""
    curve, full = fan.curve, fan.full.speed_rpm
    speeds = curve.scan.speed_rpm
    reached = sorted(
        (float(speeds[a:b].min()), float(speeds[a:b].max())) for a, b in _stretches(curve.usable)
    )
    found: list[Zone] = []
    floor = 0.0
    for low, high in reached:
        if low - floor > 0.015 * full:
            text = "will not start from rest" if floor == 0 else "no capacitor holds a speed here"
            found.append(Zone(floor, low, text))
        floor = max(floor, high)
    barred = speeds[curve.barred]
    words = (
        f"barred: only {barred_range(fan)} would give it, and these resonate: on the stated or on high mains "
        f"the motor would get more than {MOTOR_VOLTAGE_LIMIT:g} × its volts, so nothing is predicted"
    )
    if len(barred) and floor < full and full - floor > 0.015 * full:
        found.append(Zone(floor, full, words))
    elif len(barred) and float(barred.max()) > full:
        found.append(Zone(full, float(barred.max()), words))
    return tuple(found)


def barred_range(fan: Fan) -> str:
    """The capacitances that resonate, in words; empty when none does."""
    values = fan.curve.capacitance_f[fan.curve.barred]
    if not len(values):
        return ""
    low, high = (q.show(float(v), q.CAPACITANCE, 2) for v in (values[0], values[-1]))
    return f"{low} and up" if fan.curve.barred[-1] else f"{low} to {high}"


def _stretches(flags: NDArray[np.bool_]) -> list[tuple[int, int]]:
    """Start and end of each unbroken stretch of true values."""
    edges = np.flatnonzero(np.diff(np.concatenate([[False], flags, [False]]).astype(np.int8)))
    return [(int(a), int(b)) for a, b in zip(edges[::2], edges[1::2], strict=True)]


@lru_cache(maxsize=512)
def curve_points(fan: Fan) -> tuple[CurvePoint, ...]:
    """Speed over capacitance; barred values get no speed: the model is outside its linear range there."""
    curve = fan.curve
    state = np.where(~curve.scan.runs, "stall", np.where(curve.barred, "barred", "ok"))
    speed = np.where(curve.usable, curve.scan.speed_rpm, 0.0)
    return tuple(
        CurvePoint(float(c), float(n), str(s))
        for c, n, s in zip(curve.capacitance_f, speed, state, strict=True)
    )


def aims(state: JobState, fan: Fan, steps: tuple[Step, ...]) -> tuple[Aim, ...]:
    """What each wanted speed asks for."""
    wanted = [s for s in steps if s.wanted_rpm is not None]
    if state.method is Method.PHASE_ANGLE:
        rows = _fired_aims(state, fan, wanted)
    else:
        rows = [_capacitor_aim(fan, s) for s in wanted]
    gaps = [b.wanted.value - a.wanted.value for a, b in pairwise(rows)]
    return tuple(
        replace(r, gap_text=f"+{g:.0f}") if g else r for r, g in zip(rows, [0.0, *gaps], strict=False)
    )


def _aim(fan: Fan, step: Step, solution: Solution | None, point: OperatingPoint | None) -> Aim:
    """A wanted step with what it takes where it stands, whatever makes it."""
    assert step.wanted_rpm is not None
    power = rise = start = ""
    if point and solution:
        power = f"{q.plain(point.input_power_w, 2)} W"
        share = point.speed_rpm / fan.full.speed_rpm
        rise = f"{relative_rise(point.motor_loss_w / fan.full.motor_loss_w, share):.2f}"
        start = f"{q.plain(min(solution.start_margin, 99.0), 2)} ×"
    return Aim(
        step=step.number,
        wanted=Shown(step.wanted_rpm, f"{step.wanted_rpm:.0f}", "rpm"),
        share_text=share_text(step.wanted_rpm, fan),
        gap_text="",
        needed_text="",
        needed_f=None,
        power_text=power,
        rise_text=rise,
        start_text=start,
        reason="",
        nearest_rpm=None,
        hand_f=None,
        hand_text="",
    )


def _capacitor_aim(fan: Fan, step: Step) -> Aim:
    inverse, hand = step.needed, step.hand
    solution = fan.direct if inverse is None else inverse.solution
    return replace(
        _aim(fan, step, solution, solution.running if solution else None),
        needed_text=_needed_words(inverse),
        needed_f=inverse.value if inverse else None,
        reason=inverse.reason if inverse else "",
        nearest_rpm=inverse.nearest_speed_rpm if inverse else None,
        hand_f=hand.capacitance_f if hand else None,
        hand_text=_hand_words(hand, fan.motor_limit_v),
    )


def _fired_aims(state: JobState, fan: Fan, wanted: Sequence[Step]) -> list[Aim]:
    held = state.control is not None and state.control.starts_full
    curve = curve_of(fan)
    # Mostly a step stands where it should, and is solved already.
    solved = {s.firing_deg: s.solution for s in wanted if s.firing_deg is not None}
    missing = [s.needed_deg for s in wanted if s.needed_deg is not None and s.needed_deg not in solved]
    solved |= unbanded(fan, missing)
    rows = []
    for step in wanted:
        angle = step.needed_deg
        solution = solved[angle] if angle is not None else None
        rows.append(
            replace(
                _aim(fan, step, solution, point_of(solution, held) if solution else None),
                needed_text=angle_words(angle),
                reason=no_angle(step.wanted_rpm or 0.0, curve, held) if angle is None else "",
                needed_deg=angle,
            )
        )
    return rows


def angle_words(angle_deg: float | None) -> str:
    """A firing angle as it is said."""
    if angle_deg is None:
        return "none"
    return "full on" if angle_deg == 0 else f"{angle_deg:.0f}°"


def _needed_words(inverse: Inverse | None) -> str:
    if inverse is None:
        return "direct"
    return q.show(inverse.value, q.CAPACITANCE, 2) if inverse.value else "none"


def _hand_words(hand: HandEstimate | None, motor_limit_v: float) -> str:
    if hand is None:
        return ""
    value = q.show(hand.capacitance_f, q.CAPACITANCE)
    if hand.gives_motor_voltage_v is not None and hand.gives_motor_voltage_v > motor_limit_v:
        return f"hand estimate {value}: barred, it resonates"
    if hand.gives_speed_rpm is None or hand.miss_rpm is None:
        return f"hand estimate {value}: would not start"
    return f"hand estimate {value}: really {hand.gives_speed_rpm:.0f} rpm, {hand.miss_rpm:+.0f}".replace(
        "-", "−"
    )


def aim_summary(state: JobState) -> str:
    """How even the wanted speeds are."""
    if len(state.wanted_rpm) < 3:
        return ""
    ideal = (state.wanted_rpm[-1] - state.wanted_rpm[0]) / (len(state.wanted_rpm) - 1)
    return (
        f"even steps would be {ideal:.0f} rpm apart; the least even one departs by "
        f"{100 * unevenness(state.wanted_rpm):.0f}\u00a0%"
    )


def in_the_line(step: Step) -> str:
    """What the regulator puts in the line at a step."""
    if step.firing_deg is not None:
        return angle_words(step.firing_deg)
    if step.label in ("direct", "") and step.capacitance_f is None:
        return "direct"
    if step.capacitance_f is None:
        return step.label
    label = f"{step.label} = " if step.label else ""
    return f"{label}{q.show(step.capacitance_f, q.CAPACITANCE)}"
