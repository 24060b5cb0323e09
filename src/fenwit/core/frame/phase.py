"""What phase angle would do with a job's fan: knob curve, each wanted step's firing angle and waveforms, the parts."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from fenwit.core import quantity as q
from fenwit.core.calibrate.bands import StepBands
from fenwit.core.calibrate.fit import Belief
from fenwit.core.calibrate.phasebands import phase_bands
from fenwit.core.errors import InputError
from fenwit.core.frame.fan import Fan, known
from fenwit.core.frame.shown import Shown
from fenwit.core.frame.state import JobState
from fenwit.core.frame.steps import shown
from fenwit.core.motor.kinds import Answer, Method, answer_for
from fenwit.core.motor.machine import relative_rise
from fenwit.core.motor.switched import switched
from fenwit.core.operating import MOTOR_VOLTAGE_LIMIT, Source
from fenwit.core.regulator.firing import (
    FiringTable,
    KnobCurve,
    Spacing,
    crude_estimates,
    firing_table,
    knob_curve,
)
from fenwit.core.regulator.knob import PhasePoint, phase_solutions
from fenwit.core.regulator.phase import Conduction, TriacFed
from fenwit.core.size.triac import TriacDesign, TriacPart, size_triac

ON_STATE_V = 1.1
"""Volts across a conducting triac of usual size [V]"""
_WAVE_SAMPLES = 360
_CRUDE_DEG = (45.0, 60.0, 80.0, 110.0, 130.0)


@dataclass(frozen=True)
class PhaseStep:
    """One wanted step by phase angle."""

    step: int
    wanted_rpm: float
    firing_deg: float | None
    """None where no angle gives it, or where the fan stands on the mains directly [°]"""
    speed: Shown | None
    reason: str
    """Why there is no angle, or what is to be minded [-]"""
    facts: tuple[str, ...]
    may_not_start: float


@dataclass(frozen=True)
class Wave:
    """One period of a step's waveforms, over the angle from the supply's rising zero."""

    step: int
    theta_deg: tuple[float, ...]
    supply_v: tuple[float, ...]
    motor_v: tuple[float, ...]
    line_a: tuple[float, ...]
    main_a: tuple[float, ...]
    auxiliary_a: tuple[float, ...]
    """Empty for a single winding [A]"""
    torque_nm: tuple[float, ...]
    """Empty for a single winding, whose pulsating torque this model does not have [N·m]"""
    firing_deg: float
    extinction_deg: float
    facts: tuple[str, ...]


@dataclass(frozen=True)
class CrudeShown:
    """A cruder estimate and its miss."""

    name: str
    misses: tuple[str, ...]
    """One for each angle, in words [-]"""


@dataclass(frozen=True)
class PartStress:
    """One demand on a part."""

    part: str
    what: str
    stress_text: str
    rating_text: str
    ratio: float
    met: bool
    words: str


@dataclass(frozen=True)
class PhaseShown:
    """Everything the phase-angle view shows."""

    refused: str
    """Why there is nothing; empty otherwise [-]"""
    firing_deg: tuple[float, ...]
    speed_rpm: tuple[float, ...]
    """From rest; 0 where it does not start [rpm]"""
    held_rpm: tuple[float, ...]
    limits: tuple[str, ...]
    least_safe_deg: float
    latest_start_deg: float | None
    latest_held_deg: float | None
    train_end_deg: float
    steps: tuple[PhaseStep, ...]
    wave: Wave | None
    crude_deg: tuple[float, ...]
    crude: tuple[CrudeShown, ...]
    parts: tuple[PartStress, ...]
    part_facts: tuple[str, ...]
    note: str


_NOTHING = PhaseShown("", (), (), (), (), 0.0, None, None, 0.0, (), None, (), (), (), (), "")


def phase(state: JobState, step: int = 1) -> PhaseShown:
    """Compute what phase angle would do.

    Parameters
    ----------
    state : JobState
        The job [-]
    step : int
        Whose waveforms are shown, from 1 [-]

    Returns
    -------
    PhaseShown
        Curve, steps, waveforms, parts; a reason instead where it does not apply [-]

    Raises
    ------
    InputError
        Values that contradict each other.
    """
    answer = answer_for(state.kind, Method.PHASE_ANGLE) if state.kind else None
    if (
        answer is not None
        and answer.answer is Answer.REFUSED
        and (answer.never or answer.method not in state.overridden)
    ):
        return PhaseShown(**{**vars(_NOTHING), "refused": answer.reason})
    found = known(state)
    if found is None:
        return PhaseShown(**{**vars(_NOTHING), "refused": "nothing is computed yet"})
    fan = found[1]
    curve = curve_of(fan.belief, fan.supply)
    told = _steps(state, fan, curve)
    chosen = next((s for s in told if s.step == step), told[0] if told else None)
    design = _design(fan.belief, fan.supply)
    single = curve.points[0] is not None and curve.points[0].auxiliary_current_a is None
    crude = crude_estimates(fan.belief.motor, fan.belief.load, curve, _CRUDE_DEG)
    return PhaseShown(
        refused="",
        firing_deg=_tuple(curve.firing_deg),
        speed_rpm=_tuple(curve.speed_rpm),
        held_rpm=_tuple(curve.held_rpm),
        limits=_limits(curve),
        least_safe_deg=curve.least_safe_deg,
        latest_start_deg=curve.latest_start_deg,
        latest_held_deg=curve.latest_held_deg,
        train_end_deg=curve.train_end_deg,
        steps=told,
        wave=_wave(fan, chosen) if chosen and chosen.firing_deg is not None else None,
        crude_deg=_CRUDE_DEG,
        crude=tuple(
            CrudeShown(c.name, tuple("stands" if m is None else f"{100 * m:+.0f} %" for m in c.miss))
            for c in crude
        ),
        parts=tuple(
            PartStress(
                s.part,
                s.what,
                _with_unit(s.stress, s.unit),
                _with_unit(s.rating, s.unit),
                s.ratio,
                s.met,
                s.words,
            )
            for s in design.stresses
        ),
        part_facts=_part_facts(design),
        note="torque from the rotor current's fundamental alone; harmonics' own slips are not modelled"
        if single
        else "",
    )


@lru_cache(maxsize=64)
def curve_of(belief: Belief, supply: Source) -> KnobCurve:
    """The knob curve of the likeliest motor, once for each belief."""
    return knob_curve(belief.motor, belief.load, supply, ON_STATE_V)


@lru_cache(maxsize=64)
def _design(belief: Belief, supply: Source) -> TriacDesign:
    return size_triac(belief.motor, belief.load, curve_of(belief, supply), TriacPart())


@lru_cache(maxsize=256)
def _bands(belief: Belief, supply: Source, firing_deg: tuple[float, ...]) -> tuple[StepBands, ...]:
    return phase_bands(belief, supply, firing_deg, ON_STATE_V)


def table_of(state: JobState, spacing: Spacing, steps: int, frequency_hz: float | None = None) -> FiringTable:
    """A firing table of a job's fan.

    Parameters
    ----------
    state : JobState
        The job [-]
    spacing : Spacing
        What is even from step to step [-]
    steps : int
        How many [-]
    frequency_hz : float or None
        Mains it is made for; the job's own when None [Hz]

    Returns
    -------
    FiringTable
        The table [-]

    Raises
    ------
    InputError
        A fan that is refused or not computed yet, or a table that cannot be.
    """
    found = known(state)
    shown_ = phase(state)
    if found is None or shown_.refused:
        raise InputError("method", Method.PHASE_ANGLE.value, "a fan that phase angle suits", shown_.refused)
    fan = found[1]
    # The fan stays what its readings made it; only what it is fed with may be another mains.
    supply = fan.supply if frequency_hz is None else Source(fan.supply.voltage_v, frequency_hz)
    return firing_table(curve_of(fan.belief, supply), spacing, steps)


def angles_for(fan: Fan, curve: KnobCurve, wanted_rpm: Sequence[float]) -> tuple[float | None, ...]:
    """Firing angle at which the likeliest fan, from rest, runs at each wanted speed; None where none does.

    Parameters
    ----------
    fan : Fan
        The fan [-]
    curve : KnobCurve
        Its knob curve [-]
    wanted_rpm : sequence of float
        Wanted speeds [rpm]

    Returns
    -------
    tuple of float or None
        Angles [°]
    """
    starts = curve.speed_rpm > 0
    deg, speed = curve.firing_deg[starts], curve.speed_rpm[starts]
    if len(deg) < 3:
        return (None,) * len(wanted_rpm)
    falling = np.minimum.accumulate(speed)
    angles: list[float | None] = []
    for wanted in wanted_rpm:
        if wanted > falling[0] or wanted < falling[-1]:
            angles.append(None)
            continue
        angles.append(float(np.interp(-wanted, -falling, deg)))
    # One secant on exact states takes out what straight lines between samples miss.
    some = [a for a in angles if a is not None]
    slopes: Sequence[float] = (
        np.interp(some, deg[:-1] + np.diff(deg) / 2, np.diff(falling) / np.diff(deg)).tolist() if some else []
    )
    belief = fan.belief
    exact = phase_solutions(belief.motor, belief.load, fan.supply, some, ON_STATE_V)
    better = iter(
        a + (w - s.running.speed_rpm) / slope if s.running and slope < -0.05 else a
        for a, w, s, slope in zip(
            some,
            [w for w, a in zip(wanted_rpm, angles, strict=True) if a is not None],
            exact,
            slopes,
            strict=True,
        )
    )
    return tuple(None if a is None else float(np.clip(next(better), 0.0, deg[-1])) for a in angles)


def _steps(state: JobState, fan: Fan, curve: KnobCurve) -> tuple[PhaseStep, ...]:
    wanted = state.wanted_rpm
    full = fan.full.speed_rpm
    direct = [w >= 0.995 * full for w in wanted]
    angles = angles_for(fan, curve, wanted)
    angles = tuple(0.0 if d else a for a, d in zip(angles, direct, strict=True))
    asked = tuple(round(a, 4) for a in angles if a is not None)
    bands = iter(_bands(fan.belief, fan.supply, asked))
    exact = iter(phase_solutions(fan.belief.motor, fan.belief.load, fan.supply, asked, ON_STATE_V))
    limit = MOTOR_VOLTAGE_LIMIT * fan.belief.motor.rated_voltage_v
    told = []
    for i, (w, angle, on_mains) in enumerate(zip(wanted, angles, direct, strict=True), start=1):
        if angle is None:
            told.append(PhaseStep(i, w, None, None, _no_angle(w, curve), (), 1.0))
            continue
        band, solution = next(bands), next(exact)
        point = solution.running
        if isinstance(point, PhasePoint) and point.growth > 1:
            told.append(
                PhaseStep(i, w, None, None, "no steady running there: the half-cycles drift apart", (), 1.0)
            )
            continue
        if not isinstance(point, PhasePoint) or point.motor_voltage_v > limit:
            told.append(PhaseStep(i, w, None, None, "outside what the model predicts there", (), 1.0))
            continue
        told.append(
            PhaseStep(
                i, w, angle, shown(point.speed_rpm, band.speed_rpm, "rpm"),
                "full on" if on_mains else _minded(angle, band, curve), _facts(point, band, fan), band.may_not_start,
            )
        )  # fmt: skip
    return tuple(told)


def _no_angle(wanted: float, curve: KnobCurve) -> str:
    if curve.latest_start_deg is None:
        return "at no angle does it start"
    slowest = float(curve.speed_rpm[curve.speed_rpm > 0].min())
    if wanted < slowest:
        return f"from rest it does not run slower than {slowest:.0f} rpm"
    return "faster than full on"


def _minded(angle: float, band: StepBands, curve: KnobCurve) -> str:
    if angle < curve.least_safe_deg:
        return "before the load angle: a short pulse would fire every second half-cycle only"
    if band.may_not_start > 0.05:
        return f"{band.may_not_start:.0%} of the likely motors would not start here: give it a kick"
    return ""


def _facts(point: PhasePoint, band: StepBands, fan: Fan) -> tuple[str, ...]:
    rise = relative_rise(point.motor_loss_w / fan.full.motor_loss_w, point.speed_rpm / fan.full.speed_rpm)
    volts = q.with_uncertainty(point.motor_voltage_v, band.motor_voltage_v.half_width, "V")
    amps = q.with_uncertainty(1e3 * point.line_current_a, 1e3 * band.line_current_a.half_width, "mA")
    watts = q.with_uncertainty(point.input_power_w, band.input_power_w.half_width, "W")
    found = [volts, amps, watts, f"pf {point.power_factor:.2f}", f"THD {100 * point.current_thd:.0f} %"]
    if point.torque_ripple_nm is not None:
        found.append(f"ripple {q.plain(point.torque_ripple_nm)} N·m")
    found.append(f"heat {rise:.2g} × full")
    return tuple(found)


def _wave(fan: Fan, step: PhaseStep) -> Wave:
    belief, supply = fan.belief, fan.supply
    assert step.firing_deg is not None
    (solution,) = phase_solutions(belief.motor, belief.load, supply, [step.firing_deg], ON_STATE_V)
    point = solution.running
    assert isinstance(point, PhasePoint)
    z = supply.impedance_ohm
    machine = switched(belief.motor, np.array([point.speed_rpm]), supply.frequency_hz, z.real, z.imag)
    w = TriacFed(machine, supply.voltage_v, ON_STATE_V).waveforms(np.radians(step.firing_deg), _WAVE_SAMPLES)
    facts = [
        f"current ends at {point.extinction_angle_deg:.1f}°",
        f"conducts {point.conduction_angle_deg:.0f}° of 180°",
        f"triac {q.show(point.triac_current_a, q.CURRENT)} rms, {q.show(point.crest_current_a, q.CURRENT)} crest",
        f"step of {abs(point.commutation_step_v):.0f} V at extinction",
    ]
    if point.conduction is Conduction.FULL:
        facts = ["the current never stops: firing earlier changes nothing", *facts[2:3]]
    return Wave(
        step.step, _tuple(np.degrees(w.theta_rad)), _tuple(w.supply_v), _tuple(w.motor_v), _tuple(w.line_a),
        _tuple(w.main_a), () if w.auxiliary_a is None else _tuple(w.auxiliary_a),
        () if w.torque_nm is None else _tuple(w.torque_nm), point.firing_angle_deg, point.extinction_angle_deg,
        tuple(facts),
    )  # fmt: skip


def _limits(curve: KnobCurve) -> tuple[str, ...]:
    found = [
        f"before {curve.load_angle_deg:.0f}° the knob changes nothing: the current has not ended yet",
        f"a short gate pulse is safe from {curve.least_safe_deg:.0f}° on; a train of pulses ends at "
        f"{curve.train_end_deg:.0f}° at the latest",
    ]
    start, held = curve.latest_start_deg, curve.latest_held_deg
    if start is None:
        found.append("at no angle does it start from rest")
    else:
        found.append(f"it starts from rest up to {start:.0f}°")
        if held is not None and held > start + 1:
            found.append(f"running, it keeps on up to {held:.0f}°: a control that starts at full uses that")
    if curve.load_angle_deg < 0:
        found.append(
            "the current leads near 0°: two states are possible there, and which one holds depends on the past"
        )
    return tuple(found)


def _part_facts(design: TriacDesign) -> tuple[str, ...]:
    s, f = design.snubber, design.filter
    sink = (
        "no heat sink needed" if design.sink.none_needed
        else f"heat sink {design.sink.needed_kw:.2g} K/W or less"
    )  # fmt: skip
    creep = "the fan stands" if s.creeps_rpm is None else f"the fan creeps at {s.creeps_rpm:.0f} rpm"
    p = TriacPart()
    return (
        f"reckoned with a usual small triac: {p.rms_a:g} A, {p.off_state_v:g} V, gate {1e3 * p.gate_a:g} mA, latching "
        f"{1e3 * p.latching_a:g} mA, {p.dvdt_v_us:g} V/µs at commutation",
        f"triac of {design.off_state_class_v:.0f} V; {design.sink.loss_w:.2g} W, {sink}",
        f"snubber {q.show(s.ohm, q.RESISTANCE)} and {q.show(s.farads, q.CAPACITANCE)}: "
        f"{1e3 * s.loss_w:.2g} mW, {1e3 * s.leakage_a:.2g} mA through the motor when off ({creep})",
        f"choke {1e3 * f.choke_h:.2g} mH for {f.crest_a:.2g} A crest, X capacitor "
        f"{q.show(f.capacitor_f, q.CAPACITANCE)}, damped with {f.damping_ohm:.2g} Ω; resonance "
        f"{f.resonance_hz / 1e3:.2g} kHz",
        f"varistor {design.varistor_v:.0f} V, fuse {design.fuse_a:g} A, gate resistor "
        f"{q.show(design.gate_ohm, q.RESISTANCE)}",
        f.words,
    )


def _with_unit(value: float, unit: str) -> str:
    return f"{q.plain(value)} {unit}"


def _tuple(values: object) -> tuple[float, ...]:
    return tuple(float(f"{v:.5g}") for v in np.asarray(values, dtype=np.float64))
