"""What phase angle would do with a job's fan: knob curve, each wanted step's firing angle and waveforms, the parts."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from fenwit.core import quantity as q
from fenwit.core.calibrate.bands import StepBands
from fenwit.core.calibrate.fit import Datum
from fenwit.core.errors import InputError
from fenwit.core.frame.control import Control, control_of, leakage_words, part_rows, setting_words
from fenwit.core.frame.fan import Fan, known, refusal
from fenwit.core.frame.fired import curve_of, curve_on, waveforms_of
from fenwit.core.frame.shown import PartRow, Shown
from fenwit.core.frame.state import JobState
from fenwit.core.frame.steps import Step, shown, steps_of
from fenwit.core.motor.kinds import Answer, Method, answer_for
from fenwit.core.motor.machine import relative_rise
from fenwit.core.operating import Source
from fenwit.core.regulator.firing import (
    FiringTable,
    KnobCurve,
    Spacing,
    crude_estimates,
    firing_table,
)
from fenwit.core.regulator.knob import PhasePoint
from fenwit.core.regulator.phase import Conduction
from fenwit.core.size.control import PhaseDesign, Pulse, Unit
from fenwit.core.size.triac import TriacPart

_WAVE_SAMPLES = 360
_HARMONICS = 15
_ORDINAL = {2: "nd", 3: "rd"}
_CRUDE_DEG = (45.0, 60.0, 80.0, 110.0, 130.0)


@dataclass(frozen=True)
class PhaseStep:
    """One wanted step by phase angle."""

    step: int
    wanted_rpm: float | None
    firing_deg: float | None
    """None where no angle gives it, or where the fan stands on the mains directly [°]"""
    speed: Shown | None
    reason: str
    """Why there is no angle, or what is to be minded [-]"""
    cells: tuple[str, ...]
    """Motor volts [V], line current [mA], watts [W], power factor, winding rise; empty where it does not run [-]"""
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
    harmonics: tuple[float, ...]
    """Of the line current: orders 2 to 15 over the fundamental [-]"""
    facts: tuple[str, ...]


@dataclass(frozen=True)
class CrudeShown:
    """A cruder estimate and its miss."""

    name: str
    misses: tuple[str, ...]
    """One for each angle, in words [-]"""


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
    parts: tuple[PartRow, ...]
    leak_text: str
    """What goes past the open triac when off [-]"""
    part_facts: tuple[str, ...]
    note: str


_NOTHING = PhaseShown("", (), (), (), (), 0.0, None, None, 0.0, (), None, (), (), (), "", (), "")


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
    refused = phase_refusal(state)
    if refused:
        return PhaseShown(**{**vars(_NOTHING), "refused": refused})
    found = known(state)
    assert found is not None
    with found[1].lock:
        return _phase(state, *found, step)


def _phase(state: JobState, datum: Datum, fan: Fan, step: int) -> PhaseShown:
    control = state.control
    curve = curve_of(fan)
    if control is None:
        # Looked at beside another choice: as the wanted speeds would be made by a usual control.
        state = replace(
            state, design=None, proofs=(), sizing=replace(state.sizing, method=Method.PHASE_ANGLE)
        )
    steps = steps_of(state, datum, fan)
    told = _steps(state, steps, fan)
    chosen = next((s for s in steps if s.number == step), steps[0] if steps else None)
    built = control_of(fan, control or PhaseDesign((0.0,)))
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
        wave=_wave(fan, chosen) if chosen and chosen.usable and chosen.fired else None,
        crude_deg=_CRUDE_DEG,
        crude=tuple(
            CrudeShown(c.name, tuple("stands" if m is None else f"{100 * m:+.0f} %" for m in c.miss))
            for c in crude
        ),
        parts=part_rows(built),
        leak_text=leakage_words(built),
        part_facts=_part_facts(built),
        note="torque from the rotor current's fundamental alone; harmonics' own slips are not modelled"
        if single
        else "",
    )


def waves_of(state: JobState) -> tuple[Wave, ...]:
    """One period of every step of a job's phase-angle control that may be used.

    Parameters
    ----------
    state : JobState
        The job [-]

    Returns
    -------
    tuple of Wave
        Empty where no control is chosen [-]

    Raises
    ------
    InputError
        Values that contradict each other.
    """
    found = known(state)
    if found is None or state.control is None:
        return ()
    datum, fan = found
    with fan.lock:
        return tuple(_wave(fan, s) for s in steps_of(state, datum, fan) if s.usable and s.fired)


def phase_refusal(state: JobState) -> str:
    """Why phase angle is not for a job's fan, or not reckoned yet; empty where it is.

    Parameters
    ----------
    state : JobState
        The job [-]

    Returns
    -------
    str
        The reason [-]

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
        return answer.reason
    return "" if known(state) else refusal(state) or "nothing is computed yet"


def table_of(
    state: JobState,
    spacing: Spacing,
    steps: int,
    unit: Unit | None = None,
    kick: bool = True,
    frequency_hz: float | None = None,
    latching_a: float | None = None,
) -> FiringTable:
    """A firing table of a job's fan.

    Parameters
    ----------
    state : JobState
        The job [-]
    spacing : Spacing
        What is even from step to step [-]
    steps : int
        How many [-]
    unit : Unit or None
        Zero detector, pulse and lag; those of the chosen control, or usual ones, when None [-]
    kick : bool
        Whether the fan is started at full first [-]
    frequency_hz : float or None
        Mains it is made for; the job's own when None [Hz]
    latching_a : float or None
        Of the triac; that of the chosen control, or of a usual one, when None [A]

    Returns
    -------
    FiringTable
        The table [-]

    Raises
    ------
    InputError
        A fan that is refused or not computed yet, or a table that cannot be.
    """
    found, refused = known(state), phase_refusal(state)
    if found is None or refused:
        raise InputError("method", Method.PHASE_ANGLE.value, "a fan that phase angle suits", refused)
    fan = found[1]
    # The fan stays what its readings made it; only what it is fed with may be another mains.
    supply = fan.supply if frequency_hz is None else Source(fan.supply.voltage_v, frequency_hz)
    control = state.control
    unit = unit or (control.unit if control else Unit())
    part = control.triac if control else TriacPart()
    return firing_table(
        curve_on(fan.belief, supply),
        spacing,
        steps,
        latching_a=latching_a or part.latching_a,
        edge_deg=unit.edge_deg(supply),
        kick=kick,
        short_pulse=unit.pulse is Pulse.SHORT,
        given_deg=control.firing_deg if control and spacing is Spacing.STEPS else (),
    )


def _steps(state: JobState, found: Sequence[Step], fan: Fan) -> tuple[PhaseStep, ...]:
    told = []
    for s in found:
        point, bands = s.fired, s.bands
        if s.firing_deg is None or point is None or bands is None or not s.usable:
            reason = s.reasons[0] if s.reasons else ""
            told.append(PhaseStep(s.number, s.wanted_rpm, None, None, reason, (), (), 1.0))
            continue
        told.append(
            PhaseStep(
                s.number, s.wanted_rpm, s.firing_deg, shown(point.speed_rpm, bands.speed_rpm, "rpm"),
                "; ".join(s.reasons) or ("full on" if s.firing_deg == 0 else ""), _cells(point, bands, fan),
                _facts(state, point, fan), bands.may_not_start,
            )
        )  # fmt: skip
    return tuple(told)


def _cells(point: PhasePoint, band: StepBands, fan: Fan) -> tuple[str, ...]:
    """Volts, milliamps, watts, power factor, and the winding's rise over that at full."""
    rise = relative_rise(point.motor_loss_w / fan.full.motor_loss_w, point.speed_rpm / fan.full.speed_rpm)
    return (
        q.with_uncertainty(point.motor_voltage_v, band.motor_voltage_v.half_width, ""),
        q.with_uncertainty(1e3 * point.line_current_a, 1e3 * band.line_current_a.half_width, ""),
        q.with_uncertainty(point.input_power_w, band.input_power_w.half_width, ""),
        f"{point.power_factor:.2f}",
        f"{rise:.2g} ×",
    )


def _facts(state: JobState, point: PhasePoint, fan: Fan) -> tuple[str, ...]:
    """What else is known of a step: distortion, ripple, capacitor, and where in the knob or table it lies."""
    found = []
    if state.control is not None:
        found.append(setting_words(control_of(fan, state.control), point.firing_angle_deg))
    found.append(f"current THD {100 * point.current_thd:.0f} %")
    if point.torque_ripple_nm is not None:
        found.append(
            f"torque ripple {q.plain(point.torque_ripple_nm, 2)} N·m peak to peak, mean "
            f"{q.plain(point.torque_nm, 2)} N·m"
        )
    if point.capacitor_voltage_v is not None and point.auxiliary_current_a is not None:
        found.append(
            f"run capacitor {point.capacitor_voltage_v:.0f} V, {q.show(point.auxiliary_current_a, q.CURRENT)}"
        )
    return tuple(found)


def _wave(fan: Fan, step: Step) -> Wave:
    point = step.fired
    assert point is not None
    w = waveforms_of(fan, point, _WAVE_SAMPLES)
    facts = [
        f"current ends at {point.extinction_angle_deg:.1f}°",
        f"conducts {point.conduction_angle_deg:.0f}° of 180°",
        f"triac {q.show(point.triac_current_a, q.CURRENT)} rms, {q.show(point.crest_current_a, q.CURRENT)} crest",
        f"{abs(point.commutation_step_v):.0f} V jump across it at extinction",
    ]
    spectrum = np.abs(np.fft.rfft(w.line_a))
    harmonics = spectrum[2 : _HARMONICS + 1] / spectrum[1]
    loud = [(k, h) for k, h in enumerate(harmonics, start=2) if h > 0.02]
    told = ", ".join(f"{k}{_ORDINAL.get(k, 'th')} {100 * h:.0f} %" for k, h in loud[:4])
    facts.append(f"harmonics of the line current: {told or 'none above 2 %'}")
    if point.conduction is Conduction.FULL:
        facts = ["the current never stops: firing earlier changes nothing", *facts[2:3], facts[-1]]
    return Wave(
        step.number, _tuple(np.degrees(w.theta_rad)), _tuple(w.supply_v), _tuple(w.motor_v), _tuple(w.line_a),
        _tuple(w.main_a), () if w.auxiliary_a is None else _tuple(w.auxiliary_a),
        () if w.torque_nm is None else _tuple(w.torque_nm), point.firing_angle_deg, point.extinction_angle_deg,
        _tuple(harmonics), tuple(facts),
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


def _part_facts(built: Control) -> tuple[str, ...]:
    t, f = built.design.triac, built.sized.filter
    found = [
        f"triac as stated: latching {1e3 * t.latching_a:g} mA, holding {1e3 * t.holding_a:g} mA, "
        f"{t.dvdt_v_us:g} V/µs at commutation; fired in quadrants I and III, whose gate current counts; off-state class "
        f"{built.sized.off_state_class_v:.0f} V or more",
    ]
    if built.design.snubbed:
        found.append(f"snubber: {built.sized.snubber.words}")
    if built.design.filtered:
        found.append(
            f"filter resonates at {f.resonance_hz / 1e3:.2g} kHz, damped with {f.damping_ohm:.2g} Ω; {f.words}"
        )
    return tuple(found)


def _tuple(values: object) -> tuple[float, ...]:
    return tuple(float(f"{v:.5g}") for v in np.asarray(values, dtype=np.float64))
