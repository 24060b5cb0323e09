"""What phase angle would do with a job's fan: firing curve, each wanted step's firing angle and waveforms, the parts."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from fenwit.core import quantity as q
from fenwit.core.circuit import PartKind
from fenwit.core.circuit.netted import Netted
from fenwit.core.job.machine import RISE, MachineFan, rise_text
from fenwit.core.job.steps import Shown, Step, shown, shown_amps
from fenwit.core.methods.common.netted import netted
from fenwit.core.methods.phase_angle.angles import ON_STATE_V, curve_of, curve_on, waveforms_of
from fenwit.core.methods.phase_angle.design import PhaseDesign, Pulse, Unit
from fenwit.core.methods.phase_angle.parts import PhaseControl, built, leakage_words, phase_control
from fenwit.core.methods.phase_angle.steps import Angle, PhaseStep, ideal, steps, where
from fenwit.core.methods.phase_angle.triac import TriacPart
from fenwit.core.methods.seam import PartRow
from fenwit.core.motor.machine import relative_rise
from fenwit.core.operating import Source
from fenwit.core.regulator.firing import (
    FiringCurve,
    FiringTable,
    Spacing,
    crude_estimates,
    firing_table,
)
from fenwit.core.regulator.firing_points import PhasePoint
from fenwit.core.regulator.phase import Conduction

_WAVE_SAMPLES = 360
_HARMONICS = 15
_ORDINAL = {2: "nd", 3: "rd"}
_CRUDE_DEG = (45.0, 60.0, 80.0, 110.0, 130.0)


@dataclass(frozen=True)
class StepRow:
    """One wanted step by phase angle."""

    step: int
    wanted_rpm: float | None
    firing_deg: float | None
    """None where no angle gives it, or where the fan stands on the mains directly [°]"""
    speed: Shown | None
    reason: str
    """Why there is no angle, or what is to be minded [-]"""
    cells: tuple[str, ...]
    """Motor volts [V], line current, watts [W], power factor, winding rise; empty where it does not run [-]"""
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

    firing_deg: tuple[float, ...]
    speed_rpm: tuple[float, ...]
    """From rest; 0 where it does not start [rpm]"""
    kicked_rpm: tuple[float, ...]
    limits: tuple[str, ...]
    least_safe_deg: float
    latest_start_deg: float | None
    latest_kicked_deg: float | None
    train_end_deg: float
    steps: tuple[StepRow, ...]
    wave: Wave | None
    crude_deg: tuple[float, ...]
    crude: tuple[CrudeShown, ...]
    parts: tuple[PartRow, ...]
    leak_text: str
    """What goes past the open triac when off [-]"""
    part_facts: tuple[str, ...]
    note: str


def phase(
    fan: MachineFan, design: PhaseDesign | None, wanted_rpm: Sequence[float], step: int = 1
) -> PhaseShown:
    """Compute what phase angle would do with a fan.

    Parameters
    ----------
    fan : MachineFan
        The fan [-]
    design : PhaseDesign or None
        The control; None: a usual one, fired as the wanted speeds ask [-]
    wanted_rpm : sequence of float
        Wanted speeds [rpm]
    step : int
        Whose waveforms are shown, from 1 [-]

    Returns
    -------
    PhaseShown
        Curve, steps, waveforms, parts [-]

    Raises
    ------
    InputError
        Values that contradict each other.
    """
    curve = curve_of(fan)
    found = ideal(fan, wanted_rpm, False) if design is None else steps(fan, design, wanted_rpm, False)
    chosen = next((s for s in found if s.number == step), found[0] if found else None)
    usual = design or PhaseDesign((0.0,))
    control = phase_control(fan, usual)
    crude = crude_estimates(fan.belief.motor, fan.belief.load, curve, _CRUDE_DEG)
    return PhaseShown(
        firing_deg=_tuple(curve.firing_deg),
        speed_rpm=_tuple(curve.speed_rpm),
        kicked_rpm=_tuple(curve.kicked_rpm),
        limits=_limits(curve),
        least_safe_deg=curve.least_safe_deg,
        latest_start_deg=curve.latest_start_deg,
        latest_kicked_deg=curve.latest_kicked_deg,
        train_end_deg=curve.train_end_deg,
        steps=_steps(fan, design, found),
        wave=_wave(fan, chosen) if chosen and chosen.usable and chosen.phase_point else None,
        crude_deg=_CRUDE_DEG,
        crude=tuple(
            CrudeShown(c.name, tuple("stands" if m is None else f"{q.signed(100 * m, 0)} %" for m in c.miss))
            for c in crude
        ),
        parts=built(fan, usual).parts,
        leak_text=leakage_words(control),
        part_facts=_part_facts(control),
        note="iron and warmth as where the fan runs; what the chopped wave does to the iron besides is not modelled",
    )


def waves_of(fan: MachineFan, found: Sequence[PhaseStep]) -> tuple[Wave, ...]:
    """One period of every step that may be used.

    Parameters
    ----------
    fan : MachineFan
        The fan [-]
    found : sequence of PhaseStep
        The steps [-]

    Returns
    -------
    tuple of Wave
        In the order of the steps [-]
    """
    return tuple(_wave(fan, s) for s in found if s.usable and s.phase_point)


def table_of(
    fan: MachineFan,
    design: PhaseDesign | None,
    spacing: Spacing,
    count: int,
    unit: Unit | None = None,
    kick: bool = True,
    frequency_hz: float | None = None,
    latching_a: float | None = None,
) -> FiringTable:
    """A firing table of a fan.

    Parameters
    ----------
    fan : MachineFan
        The fan [-]
    design : PhaseDesign or None
        The chosen control; None where there is none [-]
    spacing : Spacing
        What is even from step to step [-]
    count : int
        How many steps [-]
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
        A table that cannot be.
    """
    # The fan stays what its readings made it; only what it is fed with may be another mains.
    supply = fan.supply if frequency_hz is None else Source(fan.supply.voltage_v, frequency_hz)
    unit = unit or (design.unit if design else Unit())
    part = design.triac if design else TriacPart()
    return firing_table(
        curve_on(fan.belief, supply),
        spacing,
        count,
        latching_a=latching_a or part.latching_a,
        edge_deg=unit.edge_deg(supply),
        kick=kick,
        short_pulse=unit.pulse is Pulse.SHORT,
        given_deg=design.firing_deg if design and spacing is Spacing.STEPS else (),
    )


def _steps(fan: MachineFan, design: PhaseDesign | None, found: Sequence[PhaseStep]) -> tuple[StepRow, ...]:
    told = []
    for s in found:
        point = s.phase_point
        if s.setting is None or point is None or not s.usable:
            reason = s.reasons[0].words if s.reasons else ""
            told.append(StepRow(s.number, s.wanted_rpm, None, None, reason, (), (), 1.0))
            continue
        words = "; ".join(r.words for r in s.reasons) or ("full on" if s.setting.firing_deg == 0 else "")
        told.append(
            StepRow(
                s.number, s.wanted_rpm, s.setting.firing_deg, shown(point.speed_rpm, s.speed_band, "rpm"),
                words, _cells(s, point, fan), _facts(fan, design, s, point), s.may_not_start,
            )
        )  # fmt: skip
    return tuple(told)


def _cells(step: PhaseStep, point: PhasePoint, fan: MachineFan) -> tuple[str, ...]:
    """Volts, current with its unit, watts, power factor, and the winding's rise over that at full."""
    rise = relative_rise(point.motor_loss_w / fan.full_point.motor_loss_w, point.speed_rpm / fan.full_rpm)
    said = rise_text(step.bands.get(RISE), rise)

    def told(value: float, key: str) -> str:
        return q.with_uncertainty(value, step.bands[key].half_width, "")

    return (
        told(point.motor_voltage_v, "motor_voltage_v"),
        shown_amps(point.line_current_a, step.bands["line_current_a"]).text,
        told(point.input_power_w, "input_power_w"),
        f"{point.power_factor:.2f}",
        f"{said} ×",
    )


def _facts(
    fan: MachineFan, design: PhaseDesign | None, step: PhaseStep, point: PhasePoint
) -> tuple[str, ...]:
    """What else is known of a step: distortion, ripple, capacitor, and where in the knob or table it lies."""
    found = [] if design is None else [where(fan, design, step)]
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


def _wave(fan: MachineFan, step: PhaseStep) -> Wave:
    point = step.phase_point
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


def _limits(curve: FiringCurve) -> tuple[str, ...]:
    found = [
        f"before {curve.load_angle_deg:.0f}° the knob changes nothing: the current has not ended yet",
        f"a short gate pulse is safe from {curve.least_safe_deg:.0f}° on; a train of pulses ends at "
        f"{curve.train_end_deg:.0f}° at the latest",
    ]
    start, held = curve.latest_start_deg, curve.latest_kicked_deg
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


def _part_facts(control: PhaseControl) -> tuple[str, ...]:
    t, f = control.design.triac, control.sized.filter
    found = [
        f"triac as stated: latching {1e3 * t.latching_a:g} mA, holding {1e3 * t.holding_a:g} mA, "
        f"{t.dvdt_v_us:g} V/µs at commutation; fired in quadrants I and III, whose gate current counts; off-state class "
        f"{control.sized.off_state_class_v:.0f} V or more",
    ]
    if control.design.snubbed:
        found.append(f"snubber: {control.sized.snubber.words}")
    if control.design.filtered:
        found.append(
            f"filter resonates at {f.resonance_hz / 1e3:.2g} kHz, damped with {f.damping_ohm:.2g} Ω; {f.words}"
        )
    return tuple(found)


def _tuple(values: object) -> tuple[float, ...]:
    return tuple(float(f"{v:.5g}") for v in np.asarray(values, dtype=np.float64))


def as_netlist(fan: MachineFan, design: PhaseDesign, step: Step[Angle]) -> Netted | None:
    """A step as a circuit simulator takes it: the triac as a timed switch; None where nothing is predicted at it."""
    point = step.shown_point if isinstance(step, PhaseStep) else None
    if not isinstance(point, PhasePoint) or step.setting is None:
        return None
    circuit = built(fan, design).circuit
    kept = (PartKind.CONTACT, PartKind.FUSE, PartKind.TRIAC)
    beside = frozenset(p.name for p in circuit.parts if p.kind not in kept)
    return netted(
        fan, step, circuit, "On", left_out=beside, firing_deg=step.setting.firing_deg, on_state_v=ON_STATE_V,
        conduction_deg=point.conduction_angle_deg,
    )  # fmt: skip
