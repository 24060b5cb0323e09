"""Why this number: every shown result with its equation, the numbers in it, what it assumes and where it ends."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from fenwit.core import quantity as q
from fenwit.core.calibrate.fit import ODD_SIGMAS, Datum
from fenwit.core.calibrate.model import MODEL_ERROR
from fenwit.core.errors import InputError
from fenwit.core.frame.control import SPREAD_WORDS, Control, control_of
from fenwit.core.frame.control import part_rows as control_parts
from fenwit.core.frame.control import rule_rows as control_rules
from fenwit.core.frame.control import spread_rows as control_spreads
from fenwit.core.frame.fan import Fan, Regulated, regulated
from fenwit.core.frame.fired import ON_STATE_V, curve_of, solved_at
from fenwit.core.frame.parts import miss_text, rule_rows, spread_rows, stress_place
from fenwit.core.frame.shown import CHECKED_DIMENSIONS
from fenwit.core.frame.state import JobState
from fenwit.core.frame.steps import Step, angle_words, in_the_line, misses, share_text, shown, steps_of
from fenwit.core.load import level_change_db
from fenwit.core.motor.kinds import Method
from fenwit.core.motor.machine import OPEN_MOTOR, relative_rise, synchronous_speed_rpm
from fenwit.core.operating import MOTOR_VOLTAGE_LIMIT, OperatingPoint
from fenwit.core.regulator.knob import PhasePoint
from fenwit.core.size.classes import CLASSES, DERATING, FUSE_FACTOR, FUSE_MELTING, PartClass
from fenwit.core.size.profile import RuleKey
from fenwit.core.size.rating import (
    AIR_C,
    AIR_K_PER_W,
    ENCLOSED,
    TOUCHABLE,
    UNITS,
    WIRE_A,
    WIRE_V,
    Burden,
    RatedPart,
    Stress,
)


@dataclass(frozen=True)
class Why:
    """A result that explains itself."""

    title: str
    value: str
    equation: str
    numbers: tuple[str, ...]
    """The equation with the numbers in it"""
    assumptions: tuple[str, ...]
    validity: str
    source: str


_LINEAR = (
    f"Sinusoidal supply, iron that does not saturate: up to {MOTOR_VOLTAGE_LIMIT:g} × rated motor volts. "
    "A step beyond that is barred and gets no number."
)
_CIRCUIT = "Phasors of the equivalent circuit, solved for this motor (docs/machine.md)"


@dataclass(frozen=True)
class _Case:
    """Everything an explanation may draw on."""

    state: JobState
    datum: Datum
    fan: Fan
    steps: tuple[Step, ...]

    @property
    def volts(self) -> float:
        return self.fan.supply.voltage_v

    @property
    def bank(self) -> Regulated:
        if self.state.bank is None:
            raise InputError("of", "part", "a job with a bank", "no bank is chosen yet")
        return regulated(self.datum, self.fan.supply, self.state.bank)

    @property
    def control(self) -> Control:
        if self.state.control is None:
            raise InputError("of", "part", "a job with a control", "no control is chosen yet")
        return control_of(self.fan, self.state.control)


def explain(state: JobState, datum: Datum, fan: Fan, key: str) -> Why:
    """Explain one number of a job page.

    Parameters
    ----------
    state : JobState
        The job as it stands or is tried [-]
    datum : Datum
        Its datum [-]
    fan : Fan
        Its believed fan [-]
    key : str
        What is asked for: ``full``, ``synchronous``, ``check:line_current_a``, ``miss``, ``step:2:speed``,
        ``part:A:volts``, ``rule:evenness``, ``spread:2`` [-]

    Returns
    -------
    Why
        The explanation [-]

    Raises
    ------
    InputError
        No such number, or one that is not shown: a barred step has none.
    """
    case = _Case(state, datum, fan, steps_of(state, datum, fan))
    match key.split(":"):
        case ["full"]:
            return _full(case)
        case ["synchronous"]:
            return _synchronous(case)
        case ["check", name]:
            return _check(case, name)
        case ["miss"]:
            return _miss(case)
        case ["step", number, what] if number.isdigit():
            step = next((s for s in case.steps if s.number == int(number)), None)
            told = (_FIRED if _is_fired(case) else {}).get(what) or _STEP.get(what)
            if step is not None and told is not None:
                return told(case, step)
        case ["spread", number] if number.isdigit():
            return _spread(case, int(number))
        case ["part", name, what]:
            return _control_part(case, name, what) if state.control else _part(case, name, what)
        case ["rule", name] if name in {k.value for k in RuleKey}:
            return _rule(case, RuleKey(name))
    raise InputError("of", key, "a number shown in this job", "there is no such number")


def _is_fired(case: _Case) -> bool:
    return case.state.method is Method.PHASE_ANGLE


def _point(step: Step) -> OperatingPoint:
    point = step.shown_point
    if point is None:
        reason = step.reasons[0] if step.reasons else "it does not run"
        raise InputError(
            "of", f"step {step.number}", "a step that runs", f"no number is given here: {reason}"
        )
    return point


def _assumed(case: _Case) -> tuple[str, ...]:
    return case.fan.belief.assumptions


def _full(case: _Case) -> Why:
    full, load = case.fan.full, case.fan.belief.load
    return Why(
        "Full speed",
        f"{shown(full.speed_rpm, case.fan.direct_bands.speed_rpm, 'rpm').text}",
        "T_motor(n, V) = T_fan(n)",
        (
            f"at {full.speed_rpm:.0f} rpm the motor gives {q.plain(full.torque_nm)} N·m on {case.volts:.0f} V; "
            f"the fan takes {q.plain(float(load.torque_nm(np.array(full.speed_rpm))))} N·m",
        ),
        _assumed(case),
        _LINEAR,
        _CIRCUIT,
    )


def _synchronous(case: _Case) -> Why:
    f, poles = case.datum.frequency_hz, case.datum.poles
    n_s = synchronous_speed_rpm(poles, f)
    return Why(
        "Speed of the rotating field",
        f"{n_s:.0f} rpm",
        "n_s = 120 f / poles",
        (f"120 × {f:g} Hz / {poles} = {n_s:.0f} rpm",),
        (f"{poles} poles",),
        "Any induction motor; the rotor stays below it by the slip.",
        "Counting pole pairs",
    )


_CHECKED = {
    "line_current_a": ("Line amps", "I = V |Y(s)|"),
    "input_power_w": ("Input watts", "P = V² Re Y(s)"),
    "capacitor_voltage_v": ("Volts across the run capacitor", "V_C = V |G_C(s)|"),
    "main_resistance_ohm": ("Main winding", "R_1 of the fitted motor"),
    "auxiliary_resistance_ohm": ("Auxiliary winding", "R_a of the fitted motor"),
}


def _checked_with_numbers(case: _Case, name: str, expected: str) -> str:
    d = case.datum
    v, slip = d.supply_voltage_v, 1 - d.full_speed_rpm.value / synchronous_speed_rpm(d.poles, d.frequency_hz)
    unit = case.fan.belief.motor.respond(np.asarray(slip), d.frequency_hz)
    at = f"at slip {q.plain(slip)}"
    match name:
        case "line_current_a":
            return f"{v:g} V × {q.plain(1000 * abs(complex(unit.admittance_s)))} mS {at} = {expected}"
        case "input_power_w":
            return f"({v:g} V)² × {q.plain(1000 * complex(unit.admittance_s).real)} mS {at} = {expected}"
        case "capacitor_voltage_v" if unit.capacitor_gain is not None:
            gain = abs(complex(unit.capacitor_gain))
            return f"{v:g} V × {q.plain(gain)}, the circuit's gain to the run capacitor {at} = {expected}"
    return f"{_CHECKED[name][1]} = {expected}"


def _check(case: _Case, name: str) -> Why:
    check = next((c for c in case.fan.belief.checks if c.name == name), None)
    if check is None:
        raise InputError("of", name, "a reading taken at full speed", "no such reading is compared")
    title, equation = _CHECKED[name]
    sigma: float = getattr(case.datum, name).relative_sigma
    expected, read = (q.show(v, CHECKED_DIMENSIONS[name]) for v in (check.expected, check.read))
    return Why(
        f"{title} at full speed, by the fitted motor",
        expected,
        equation,
        (
            _checked_with_numbers(case, name, expected),
            f"read {read}: {100 * (check.read / check.expected - 1):+.1f} % off, with {100 * sigma:.2g} % to its own "
            f"uncertainty: {check.sigmas:+.1f} standard uncertainties; "
            f"beyond ±{ODD_SIGMAS:g} it does not fit the rest",
        ),
        _assumed(case),
        "The motor is fitted to all readings at once, so the model leans towards each of them. " + _LINEAR,
        "Maximum posterior over the readings and what motors of this kind are like (docs/calibration.md)",
    )


def _miss(case: _Case) -> Why:
    if case.state.control is None:
        case.bank  # noqa: B018 - says that nothing is chosen
    found = misses(case.fan, case.steps)
    if not found:
        raise InputError("of", "miss", "a step that runs and has a wanted speed", "nothing is missed or met")
    worst = max(found, key=lambda m: m.share)
    full = case.fan.full.speed_rpm
    return Why(
        "Worst miss of the steps as built",
        f"{miss_text(worst.share)} of full speed, at step {worst.step}",
        "max |n − n_wanted| / n_full",
        tuple(
            f"step {m.step}: |{m.speed_rpm:.0f} − {m.wanted_rpm:.0f}| / {full:.0f} = {100 * m.share:.1f} %"
            for m in found
        ),
        ("angles as chosen, nominal mains, the likeliest motor",)
        if case.state.control
        else (
            "nominal or measured capacitors, nominal mains, the likeliest motor",
            "bleeds and limiters are in these speeds; the list of banks ranks by capacitors alone and differs a little",
        ),
        _LINEAR,
        "Each step solved for this motor (docs/regulator.md, docs/phase-angle.md)",
    )


def _speed(case: _Case, step: Step) -> Why:
    point, load = _point(step), case.fan.belief.load
    full, friction = float(load.full_speed_torque_nm), float(load.friction_nm)
    band = step.bands.speed_rpm if step.bands else None
    z = step.impedance_ohm
    return Why(
        f"Speed at step {step.number}, {in_the_line(step)}",
        shown(point.speed_rpm, band, "rpm").text,
        "T_motor(n, V_m) = T_f + (T_full − T_f)(n/n_full)^e",
        (
            f"Z in the line = {z.real:.0f} {_signed(z.imag)} Ω leaves V_m = {q.plain(point.motor_voltage_v)} V",
            f"{q.plain(point.torque_nm)} N·m = {q.plain(friction)} + ({q.plain(full)} − {q.plain(friction)})"
            f"({point.speed_rpm:.0f}/{float(load.full_speed_rpm):.0f})^{q.plain(float(load.exponent))}",
            f"band: percentiles 5 and 95 of {case.fan.belief.draws_kept} motors that fit the readings, parts within "
            f"tolerance, and the model's own {100 * MODEL_ERROR:.0f} %",
        ),
        _assumed(case),
        _LINEAR,
        "Equal torques, reached from rest, stable (docs/machine.md)",
    )


def _motor_volts(case: _Case, step: Step) -> Why:
    point = _point(step)
    y, z = _admittance_s(case, point), step.impedance_ohm
    return Why(
        f"Motor volts at step {step.number}",
        shown(point.motor_voltage_v, step.bands.motor_voltage_v if step.bands else None, "V").text,
        "V_m = V / |1 + Z Y|",
        (
            f"Z = {z.real:.0f} {_signed(z.imag)} Ω, Y = {1000 * y.real:.3g} {_signed(1000 * y.imag)} mS "
            f"at slip {point.slip:.2f}",
            f"{case.volts:.0f} V / {abs(1 + z * y):.3f} = {q.plain(point.motor_voltage_v)} V; volts of motor and "
            f"capacitor stand nearly at right angles, {q.plain(point.motor_voltage_v)} V and "
            f"{q.plain(point.series_voltage_v)} V",
        ),
        _assumed(case),
        _LINEAR,
        _CIRCUIT,
    )


def _admittance_s(case: _Case, point: OperatingPoint) -> complex:
    return complex(
        case.fan.belief.motor.respond(np.asarray(point.slip), case.fan.supply.frequency_hz).admittance_s
    )


def _signed(imaginary: float) -> str:
    return f"{'+' if imaginary >= 0 else '−'} j{abs(imaginary):.3g}"


def _amps(case: _Case, step: Step) -> Why:
    point = _point(step)
    return Why(
        f"Line amps at step {step.number}",
        shown(point.line_current_a, step.bands.line_current_a if step.bands else None, "mA", 1000.0).text,
        "I = |Y| V_m",
        (
            f"{q.plain(1000 * abs(_admittance_s(case, point)))} mS × {q.plain(point.motor_voltage_v)} V at slip "
            f"{point.slip:.2f} = {q.show(point.line_current_a, q.CURRENT)}",
        ),
        _assumed(case),
        _LINEAR,
        _CIRCUIT,
    )


def _watts(case: _Case, step: Step) -> Why:
    point = _point(step)
    return Why(
        f"Input watts at step {step.number}",
        shown(point.input_power_w, step.bands.input_power_w if step.bands else None, "W").text,
        "P = T ω + rotor loss + winding loss + regulator loss",
        (
            f"{q.plain(point.shaft_power_w)} + {q.plain(point.rotor_loss_w)} + {q.plain(point.winding_loss_w)} + "
            f"{q.plain(point.series_loss_w)} = {q.plain(point.input_power_w)} W",
            f"and V I pf = {case.volts:.0f} × {q.plain(point.line_current_a)} × {point.power_factor:.3f}",
        ),
        _assumed(case),
        _LINEAR,
        "Power balance: both sides are computed apart and agree to rounding",
    )


def _heat(case: _Case, step: Step) -> Why:
    point = _point(step)
    return Why(
        f"Heat in the motor at step {step.number}",
        shown(point.motor_loss_w, step.bands.motor_loss_w if step.bands else None, "W").text,
        "P_motor = I_m² R1m + I_a² R1a + rotor loss",
        (
            f"windings {q.plain(point.winding_loss_w)} W + rotor {q.plain(point.rotor_loss_w)} W "
            f"at slip {point.slip:.2f} = {q.plain(point.motor_loss_w)} W",
        ),
        _assumed(case),
        _LINEAR,
        "Rotor loss is slip × air-gap power of each field (docs/machine.md)",
    )


def _rise(case: _Case, step: Step) -> Why:
    point, full = _point(step), case.fan.full
    loss, share = point.motor_loss_w / full.motor_loss_w, point.speed_rpm / full.speed_rpm
    return Why(
        f"Winding rise at step {step.number}, over that at full speed",
        f"{relative_rise(loss, share):.2f} ×",
        "rise = (P_motor / P_motor,full) / (n/n_full)^0.6",
        (
            f"({q.plain(point.motor_loss_w)} / {q.plain(full.motor_loss_w)}) / {share:.2f}^{OPEN_MOTOR:g} = "
            f"{relative_rise(loss, share):.2f}",
        ),
        ("the motor stands in its own airstream; an enclosed one cools with exponent 0.3",),
        "An estimate. Hot and cold winding ohms give the real rise.",
        "Forced convection over a winding, exponent from practice",
    )


def _slip(case: _Case, step: Step) -> Why:
    point = _point(step)
    n_s = synchronous_speed_rpm(case.datum.poles, case.fan.supply.frequency_hz)
    return Why(
        f"Slip at step {step.number}",
        f"{100 * point.slip:.0f} %",
        "s = 1 − n/n_s,  n_s = 120 f / poles",
        (
            f"n_s = 120 × {case.fan.supply.frequency_hz:g} / {case.datum.poles} = {n_s:g} rpm",
            f"1 − {point.speed_rpm:.0f}/{n_s:g} = {point.slip:.2f}",
        ),
        ("the speed is the predicted one, with its band",),
        _LINEAR,
        "Definition",
    )


def _power_factor(case: _Case, step: Step) -> Why:
    point = _point(step)
    return Why(
        f"Power factor at step {step.number}",
        f"{point.power_factor:.2f}",
        "pf = P / (V I)",
        (
            f"{q.plain(point.input_power_w)} W / ({case.volts:.0f} V × {q.show(point.line_current_a, q.CURRENT)}) = "
            f"{point.power_factor:.2f}",
        ),
        _assumed(case),
        _LINEAR,
        _CIRCUIT,
    )


def _torque(case: _Case, step: Step) -> Why:
    point, load = _point(step), case.fan.belief.load
    full, friction = float(load.full_speed_torque_nm), float(load.friction_nm)
    return Why(
        f"Torque at step {step.number}",
        f"{q.plain(point.torque_nm, 2)} N·m",
        "T = T_f + (T_full − T_f)(n/n_full)^e",
        (
            f"{q.plain(friction)} + ({q.plain(full)} − {q.plain(friction)})({point.speed_rpm:.0f}/"
            f"{float(load.full_speed_rpm):.0f})^{q.plain(float(load.exponent))} = {q.plain(point.torque_nm)} N·m",
            "T_full is the motor model's own torque at the measured full speed",
        ),
        _assumed(case),
        _LINEAR,
        "Fan law with constant friction",
    )


def _regulator_volts(case: _Case, step: Step) -> Why:
    point = _point(step)
    z = abs(step.impedance_ohm)
    return Why(
        f"Volts across the regulator at step {step.number}",
        f"{q.plain(point.series_voltage_v)} V",
        "V_Z = I |Z|",
        (f"{q.show(point.line_current_a, q.CURRENT)} × {z:.0f} Ω = {q.plain(point.series_voltage_v)} V",),
        _assumed(case),
        _LINEAR,
        "Ohm's law for phasors; near resonance it passes the supply",
    )


def _regulator_heat(case: _Case, step: Step) -> Why:
    point = _point(step)
    return Why(
        f"Heat in the regulator at step {step.number}",
        f"{q.plain(point.series_loss_w, 2)} W",
        "P = I² Re Z",
        (
            f"{q.plain(point.line_current_a)}² A² × {step.impedance_ohm.real:.3g} Ω = "
            f"{q.plain(point.series_loss_w, 2)} W",
        ),
        ("limiters, bleeds and the capacitors' tan δ, as fitted; wire and contacts left out",),
        "Parts as chosen; good joints.",
        "Nodal analysis of the bank's circuit",
    )


def _flow(case: _Case, step: Step) -> Why:
    point = _point(step)
    return Why(
        f"Airflow at step {step.number}",
        f"{share_text(point.speed_rpm, case.fan)} of flow",
        "q / q_full = n / n_full",
        (f"{point.speed_rpm:.0f} / {case.fan.full.speed_rpm:.0f}",),
        ("the same room or duct at every step",),
        "Fan law; not where a fixed pressure stands against the fan.",
        "Fan laws",
    )


def _noise(case: _Case, step: Step) -> Why:
    share = _point(step).speed_rpm / case.fan.full.speed_rpm
    return Why(
        f"Air noise at step {step.number}, against full speed",
        f"{level_change_db(share):.0f} dB".replace("-", "−"),
        "ΔL = 55 log10(n/n_full)",
        (f"55 log10({share:.3f}) = {level_change_db(share):.1f} dB".replace("= -", "= −"),),
        ("air noise only: no hum, no bearing",),
        "The exponent lies between 50 and 60.",
        "Fan laws",
    )


def _needed(case: _Case, step: Step) -> Why:
    inverse = step.needed
    if (
        inverse is None
        or inverse.value is None
        or inverse.solution is None
        or inverse.solution.running is None
    ):
        reason = inverse.reason if inverse else "full speed needs nothing in the line"
        raise InputError("of", f"step {step.number}", "a step that a capacitor gives", reason)
    point = inverse.solution.running
    x = 1 / (2 * np.pi * case.fan.supply.frequency_hz * inverse.value)
    hand = step.hand
    numbers = [
        f"at {inverse.wanted_speed_rpm:.0f} rpm the motor wants {q.plain(point.motor_voltage_v)} V",
        f"|1 − jX Y| = {case.volts:.0f}/{q.plain(point.motor_voltage_v)} gives X = {x:.0f} Ω, "
        f"C = 1/(2π f X) = {q.show(inverse.value, q.CAPACITANCE)}",
    ]
    if hand:
        numbers.append(
            f"the pencil rule X = Z_fan (V − V_fan)/V_fan says {q.show(hand.capacitance_f, q.CAPACITANCE)}: it adds "
            "volts in a straight line that stand nearly at right angles"
        )
    return Why(
        f"What step {step.number} needs in the line",
        q.show(inverse.value, q.CAPACITANCE, 2),
        "|1 + Z Y|² = (V / V_m)²,  Z = −jX",
        tuple(numbers),
        _assumed(case),
        "Solved forwards again: stable, reached from rest, within motor volts.",
        "Quadratic in X at a fixed slip (docs/machine.md)",
    )


def _start(case: _Case, step: Step) -> Why:
    solution = (step.needed.solution if step.needed else None) or step.solution
    if solution is None:
        raise InputError(
            "of", f"step {step.number}", "a step with a value", "nothing stands in the line here"
        )
    load = case.fan.belief.load
    friction = float(load.friction_nm)
    rest = solution.net_starting_torque_nm + friction
    return Why(
        f"Torque at rest at step {step.number}, over break-away",
        f"{q.plain(min(solution.start_margin, 99.0), 2)} ×",
        "T(n = 0) / (1.5 T_f)",
        (f"{q.plain(rest)} N·m / ({load.break_away_ratio:g} × {q.plain(friction)} N·m)",),
        ("friction is an assumption until a run-down is timed: " + _assumed(case)[-3],)
        if len(_assumed(case)) >= 3
        else (),
        "A bearing that has stood, or cold grease, may hold faster.",
        "docs/decisions/0004-starting.md",
    )


_STEP: dict[str, Callable[[_Case, Step], Why]] = {
    "speed": _speed,
    "motor-volts": _motor_volts,
    "amps": _amps,
    "watts": _watts,
    "motor-heat": _heat,
    "regulator-heat": _regulator_heat,
    "regulator-volts": _regulator_volts,
    "slip": _slip,
    "power-factor": _power_factor,
    "torque": _torque,
    "rise": _rise,
    "flow": _flow,
    "noise": _noise,
    "needed": _needed,
    "start": _start,
}


# ---------------------------------------------------------------- behind a triac


_CHOPPED = (
    "Steady state of triac and motor solved exactly at one speed, harmonics included (docs/phase-angle.md)"
)
_CHOPPED_VALID = (
    "Iron that does not saturate, mains a pure sine, one speed within the period. A single-winding motor's harmonics "
    "turn nothing in this model."
)


def _fired_point(step: Step) -> PhasePoint:
    _point(step)
    point = step.fired
    if point is None or step.firing_deg is None:
        raise InputError("of", f"step {step.number}", "a step behind a triac", "no triac is in this line")
    return point


def _fires(point: PhasePoint) -> str:
    return (
        f"fires at {point.firing_angle_deg:.1f}°, the current ends at {point.extinction_angle_deg:.1f}°: "
        f"it conducts {point.conduction_angle_deg:.0f}° of 180°"
    )


def _fired_speed(case: _Case, step: Step) -> Why:
    point, load = _fired_point(step), case.fan.belief.load
    full, friction = float(load.full_speed_torque_nm), float(load.friction_nm)
    return Why(
        f"Speed at step {step.number}, {in_the_line(step)}",
        shown(point.speed_rpm, step.bands.speed_rpm if step.bands else None, "rpm").text,
        "mean T_motor(n, α) = T_f + (T_full − T_f)(n/n_full)^e",
        (
            _fires(point),
            f"{q.plain(point.torque_nm)} N·m = {q.plain(friction)} + ({q.plain(full)} − {q.plain(friction)})"
            f"({point.speed_rpm:.0f}/{float(load.full_speed_rpm):.0f})^{q.plain(float(load.exponent))}",
            "band: percentiles 5 and 95 of 80 motors that fit the readings, each solved exactly, and the model's own "
            f"{100 * MODEL_ERROR:.0f} %",
        ),
        _assumed(case),
        _CHOPPED_VALID,
        _CHOPPED,
    )


def _fired_volts(case: _Case, step: Step) -> Why:
    point = _fired_point(step)
    resistive = case.volts * np.sqrt(
        max(
            0.0,
            1 - point.firing_angle_deg / 180 + np.sin(2 * np.radians(point.firing_angle_deg)) / (2 * np.pi),
        )
    )
    return Why(
        f"Motor volts at step {step.number}, true rms",
        shown(point.motor_voltage_v, step.bands.motor_voltage_v if step.bands else None, "V").text,
        "V_m = √(mean of v_m²), the motor's own volts in the open time included",
        (
            _fires(point),
            f"a lamp in its place would get {resistive:.0f} V at this angle",
            "a meter that is not true-rms shows another figure on this wave",
        ),
        _assumed(case),
        _CHOPPED_VALID,
        _CHOPPED,
    )


def _fired_amps(case: _Case, step: Step) -> Why:
    point = _fired_point(step)
    return Why(
        f"Line amps at step {step.number}, true rms",
        shown(point.line_current_a, step.bands.line_current_a if step.bands else None, "mA", 1000.0).text,
        "I = √(mean of i²) = I_1 √(1 + THD²)",
        (
            _fires(point),
            f"THD {100 * point.current_thd:.0f} %: the fundamental is "
            f"{q.show(point.line_current_a / np.sqrt(1 + point.current_thd**2), q.CURRENT)}, crest "
            f"{q.show(point.crest_current_a, q.CURRENT)}",
        ),
        _assumed(case),
        _CHOPPED_VALID,
        _CHOPPED,
    )


def _fired_heat(case: _Case, step: Step) -> Why:
    point = _fired_point(step)
    return Why(
        f"Heat in the triac at step {step.number}",
        f"{q.plain(point.series_loss_w, 2)} W",
        "P = V_T I_mean",
        (
            f"{ON_STATE_V:g} V × {q.show(point.triac_average_a, q.CURRENT)} = {q.plain(point.triac_loss_w, 2)} W",
        ),
        (f"{ON_STATE_V:g} V across the conducting triac, as a usual one has",),
        "Snubber and what fires the triac are reckoned among the parts.",
        _CHOPPED,
    )


def _fired_ends(case: _Case, step: Step) -> Why:
    point = _fired_point(step)
    return Why(
        f"Where the current ends at step {step.number}",
        f"{point.extinction_angle_deg:.1f}°",
        "i(β) = 0, from the firing at α on",
        (
            _fires(point),
            f"then the motor's own volts stand at its terminals, and the triac's jump by "
            f"{abs(point.commutation_step_v):.0f} V",
        ),
        _assumed(case),
        _CHOPPED_VALID,
        _CHOPPED,
    )


def _fired_needed(case: _Case, step: Step) -> Why:
    angle = step.needed_deg
    if angle is None or step.wanted_rpm is None:
        raise InputError(
            "of", f"step {step.number}", "a speed that an angle gives", "no firing angle gives it"
        )
    if angle == 0:
        raise InputError("of", f"step {step.number}", "a step below full", "full speed needs no firing angle")
    curve = curve_of(case.fan)
    crude = 180 * (1 - step.wanted_rpm / case.fan.full.speed_rpm)
    return Why(
        f"Firing angle that step {step.number} needs",
        angle_words(angle),
        "n(α) = n_wanted, on the solved knob curve",
        (
            f"{step.wanted_rpm:.0f} rpm lies at {angle:.1f}°",
            f"“half the angle is half the speed” would say {crude:.0f}°, which really gives "
            f"{float(np.interp(crude, curve.firing_deg, curve.speed_rpm)):.0f} rpm",
        ),
        _assumed(case),
        _CHOPPED_VALID,
        "Knob curve of 71 angles, one secant on exact states (docs/phase-angle.md)",
    )


def _fired_start(case: _Case, step: Step) -> Why:
    found = solved_at(case.fan, [step.needed_deg], step.kicked) if step.needed_deg is not None else {}
    solution = found[step.needed_deg].solution if step.needed_deg in found else step.solution
    if solution is None:
        raise InputError("of", f"step {step.number}", "a step with an angle", "no angle gives this step")
    load = case.fan.belief.load
    friction = float(load.friction_nm)
    return Why(
        f"Torque at rest at step {step.number}, over break-away",
        f"{q.plain(min(solution.start_margin, 99.0), 2)} ×",
        "mean T(n = 0, α) / (1.5 T_f)",
        (
            f"{q.plain(solution.net_starting_torque_nm + friction)} N·m / ({load.break_away_ratio:g} × "
            f"{q.plain(friction)} N·m)",
            *(("it is kicked at full first, so this does not decide",) if step.kicked else ()),
        ),
        ("friction is an assumption until a run-down is timed",),
        "A bearing that has stood, or cold grease, may hold faster.",
        "docs/decisions/0004-starting.md",
    )


def _fired_distortion(case: _Case, step: Step) -> Why:
    point = _fired_point(step)
    first = point.line_current_a / np.sqrt(1 + point.current_thd**2)
    return Why(
        f"Distortion of the line current at step {step.number}",
        f"THD {100 * point.current_thd:.0f} %",
        "THD = √(I² − I_1²) / I_1",
        (
            f"√(({q.plain(1e3 * point.line_current_a)} mA)² − ({q.plain(1e3 * first)} mA)²) / "
            f"{q.plain(1e3 * first)} mA = {point.current_thd:.2f}",
            _fires(point),
        ),
        _assumed(case),
        _CHOPPED_VALID,
        _CHOPPED,
    )


_FIRED: dict[str, Callable[[_Case, Step], Why]] = {
    "distortion": _fired_distortion,
    "speed": _fired_speed,
    "motor-volts": _fired_volts,
    "amps": _fired_amps,
    "regulator-heat": _fired_heat,
    "regulator-volts": _fired_ends,
    "needed": _fired_needed,
    "start": _fired_start,
}


def _control_spread(case: _Case, number: int) -> Why:
    rows = control_spreads(case.state, case.fan, case.steps, case.control)
    row = next((r for r in rows if r.step == number), None)
    if row is None:
        raise InputError("of", number, "a step that runs", "no band is given for this step")
    knob = case.control.design.network is not None
    return Why(
        f"Band of step {number} with everything free",
        row.together.text,
        "√(Δn_parts² + Δn_mains² + Δn_motor²), each side by itself",
        (f"parts alone {row.parts}, mains alone {row.mains}, motor alone {row.motor}", row.words),
        (
            f"mains ±{100 * case.state.profile.mains:.0f} %"
            + (": the diac's volts stay as they are, so the angle moves with the mains" if knob else ""),
            SPREAD_WORDS if knob else "parts: the edge of the zero detector over its coupler's band",
        ),
        _CHOPPED_VALID,
        "Each cause solved at its ends (docs/phase-angle.md)",
    )


def _control_part(case: _Case, name: str, what: str) -> Why:
    rows = control_parts(case.control)
    row = next((r for r in rows if r.name == name), None)
    if row is None:
        raise InputError("of", name, ", ".join(r.name for r in rows), "no such part")
    stress = next((s for s in row.stresses if s.burden == what), None)
    if stress is None:
        raise InputError("of", what, ", ".join(s.burden for s in row.stresses), "no such burden")
    return Why(
        f"{row.role[0].upper()}{row.role[1:]}: {stress.burden}",
        stress.text,
        _CONTROL_RELATION.get(stress.burden, "stress ≤ rating"),
        (row.text, *((f"worst at: {stress.where}",) if stress.where else ())),
        ("the worst of all angles at which the fan runs",),
        "The maker's data go first.",
        "Computed waveforms at every angle of the knob curve (docs/phase-angle.md)",
    )


_CONTROL_RELATION = {
    "rms current": "I = √(mean of i²)",
    "current at start, rotor held": "Î = √2 V |Y(n = 0)|",
    "off-state volts": "V_off ≥ 1.5 √2 V, and room for transients",
    "off-state volts with the snubber's overshoot": "peak of the damped step across L, R and C in series",
    "commutation dv/dt": "steepest slope of the damped step, with a factor of 2",
    "holding current": "smallest half-cycle's crest ≥ I_H",
    "latching current": "smallest half-cycle's crest ≥ I_L",
    "junction": "T_j = T_air + P (R_jc + R_cs + R_sa)",
    "gate current": "(V̂ sin α − 3 V) / R_G at the earliest angle ≥ I_GT",
    "opto-triac's current": "1.1 V̂ / R_G",
    "melting I²t": "10 I_n² × 10 ms ≤ ½ I_TSM² × 10 ms",
    "running current": "1.6 I ≤ I_n",
    "crest amps": "crest of the line current at the worst angle",
    "watts": "P = I² R, half the rating at most",
    "zener's watts": "P = f C (2√2 V − V_out) V_out",
    "current drawn": "I = f C (2√2 V − V_out)",
}


def _spread(case: _Case, number: int) -> Why:
    if case.state.control:
        return _control_spread(case, number)
    case.bank  # noqa: B018 - says that no bank is chosen
    row = next(
        (r for r in spread_rows(case.state, case.datum, case.fan, case.steps) if r.step == number), None
    )
    if row is None:
        raise InputError("of", number, "a step that runs", "no band is given for this step")
    return Why(
        f"Band of step {number} with everything free",
        row.together.text,
        "percentiles 5 and 95 of n over sampled parts, mains and motors",
        (f"parts alone {row.parts}, mains alone {row.mains}, motor alone {row.motor}", row.words),
        (
            f"mains evenly within ±{100 * case.state.profile.mains:.0f} %",
            "parts evenly within their tolerance; a measured one within the meter's 1.5 %",
            f"{case.fan.belief.draws_kept} motors that fit the readings",
        ),
        _LINEAR,
        "Sampling, seeded, so that the same job gives the same band (docs/calibration.md)",
    )


def _rule(case: _Case, key: RuleKey) -> Why:
    rows = (
        control_rules(case.state, case.fan, case.steps, case.control)
        if case.state.control
        else rule_rows(case.state, case.fan, case.steps, case.bank)
    )
    row = next((r for r in rows if r.key is key), None)
    if row is None:
        raise InputError("of", key.value, "a rule that applies", "this rule says nothing about so few steps")
    equation = {
        RuleKey.LOWEST: "n_1 / n_full",
        RuleKey.START_MARGIN: "T(0) / (1.5 T_f) at the lowest step",
        RuleKey.EVENNESS: "max |Δn / ((n_max − n_min)/(steps − 1)) − 1|",
        RuleKey.BANDS_APART: "min (low of the band above − high of the band below)",
        RuleKey.MOTOR_VOLTS: "max V_m on the stated mains",
        RuleKey.MOTOR_VOLTS_HIGH: "max V_m on high mains, against a limit that rises with them",
        RuleKey.STARTS_LOW: "min T(0) / (1.5 T_f) on low mains",
    }[key]
    speeds = ", ".join(f"{s.shown_point.speed_rpm:.0f}" for s in case.steps if s.shown_point)
    return Why(
        f"Acceptance: {row.text}",
        f"{row.value_text}, {row.by_text}",
        equation,
        (f"speeds {speeds} rpm", f"{row.value_text} against {row.limit_text}; decided at step {row.step}"),
        ("limits of this job's acceptance profile, which can be edited",),
        "Predicted values of the steps that may be used.",
        "Acceptance profile",
    )


# ---------------------------------------------------------------- parts


def _part(case: _Case, name: str, what: str) -> Why:
    rated = case.bank.rated
    part = next((p for p in rated.parts if p.name == name), None)
    if part is None:
        raise InputError("of", name, ", ".join(p.name for p in rated.parts), "no such part")
    if what == "value":
        return _value(case, part)
    stress = next((s for s in part.stresses if s.burden.value == what), None)
    if stress is None:
        raise InputError("of", what, ", ".join(s.burden.value for s in part.stresses), "no such burden")
    unit = UNITS[stress.burden]
    equation, numbers, assumptions = _STRESS[stress.burden](case, part, stress)
    return Why(
        f"{_role(part)}: {stress.burden.value}",
        f"{q.plain(stress.value, 3)} of {q.plain(stress.rating, 3)} {unit}",
        equation,
        (*numbers, f"worst at: {stress_place(stress)}"),
        assumptions,
        "Searched over every step that may be used, mains at −10 %, 0 and +10 %, running and standing still.",
        _grounds(part),
    )


def _role(part: RatedPart) -> str:
    words = {"D": "Bleed of ", "R": "Limiter of "}
    if len(part.name) == 2:
        return words[part.name[0]] + part.name[1]
    return {"F": "Fuse", "S": "Switch", "W": "Wire"}.get(part.name, f"Capacitor {part.name}")


def _grounds(part: RatedPart) -> str:
    if part.part_class is None:
        return f"0.75 mm² copper, 300/500 V insulation: {WIRE_A:g} A, {WIRE_V:g} V to earth"
    return f"Class {CLASSES[part.part_class].name}: {CLASSES[part.part_class].grounds}; the maker's data go first"


_Stressed = tuple[str, tuple[str, ...], tuple[str, ...]]


def _stress_volts(case: _Case, part: RatedPart, s: Stress) -> _Stressed:
    if part.name in ("S", "W"):
        return "volts across what is open, or to earth", (f"{q.plain(s.value)} V",), ()
    amps = s.value * 2 * np.pi * case.fan.supply.frequency_hz * part.value
    return (
        "V_C = I / (2π f C), resonance included",
        (
            f"{q.show(amps, q.CURRENT)} through {q.show(part.value, q.CAPACITANCE)} at "
            f"{case.fan.supply.frequency_hz:g} Hz = {q.plain(s.value)} V",
        ),
        ("standing still counts: the fan may be held fast",),
    )


def _stress_crest(case: _Case, part: RatedPart, s: Stress) -> _Stressed:
    return (
        "V̂ = √2 V / number in series",
        (f"√2 × {s.value * part.pieces / np.sqrt(2):.0f} V / {part.pieces} = {s.value:.0f} V",),
        (f"one resistor works at up to {s.rating:g} V; that is why {part.pieces} stand in series",),
    )


def _stress_amps(case: _Case, part: RatedPart, s: Stress) -> _Stressed:
    extra = f"; the limit is rated amps / {FUSE_FACTOR:g}" if part.name == "F" else ""
    return (
        "I through the part while the fan runs",
        (f"{q.show(s.value, q.CURRENT)}{extra}",),
        _assumed(case)[:0],
    )


def _stress_watts(case: _Case, part: RatedPart, s: Stress) -> _Stressed:
    used = f"chosen so that at most {100 * DERATING:.0f} % of the rated watts are used"
    if part.name.startswith("D"):
        volts = np.sqrt(s.value * part.value)
        return (
            "P = V²/R",
            (f"({volts:.0f} V)² / {q.show(part.value, q.RESISTANCE)} = {s.value:.2g} W each",),
            (used,),
        )
    return (
        "P = I² R",
        (f"({np.sqrt(s.value / part.value):.3g} A)² × {q.show(part.value, q.RESISTANCE)} = {s.value:.2g} W",),
        (used,),
    )


def _stress_surge(case: _Case, part: RatedPart, s: Stress) -> _Stressed:
    c = case.bank.rated.design.capacitors[case.bank.rated.design.names.index(part.name[1:])].value_f
    step = np.sqrt(2 * s.value / c)
    return (
        "E = ½ C (2√2 V)²",
        (f"½ × {q.show(c, q.CAPACITANCE)} × ({step:.0f} V)² = {s.value:.2g} J",),
        (
            "switched on at the crest with the capacitor charged the other way; the motor in the loop is left out",
        ),
    )


def _stress_peak(case: _Case, part: RatedPart, s: Stress) -> _Stressed:
    return (
        "Î = V_step / R_limiter",
        (f"{s.value:.0f} A at the first instant; the contacts may close on {s.rating:g} A",),
        ("capacitors charged the worst way round; no help from the motor's inductance",),
    )


def _stress_equalising(case: _Case, part: RatedPart, s: Stress) -> _Stressed:
    return (
        "Î = (V̂_A + V̂_B)/(R_A + R_B); a bridged capacitor: V̂/R",
        (f"{s.value:.0f} A through the limiters; the contacts may close on {s.rating:g} A",),
        ("each capacitor may hold its crest, either way round; bleeds have had no time",),
    )


def _stress_melting(case: _Case, part: RatedPart, s: Stress) -> _Stressed:
    return (
        "I²t = ½ C V_step² / R_limiter",
        (f"{s.value:.2g} A²s against {FUSE_MELTING:g} In² = {s.rating:.3g} A²s",),
        ("both capacitors of a pair rush in at once",),
    )


def _stress_heat(case: _Case, part: RatedPart, s: Stress) -> _Stressed:
    return (
        "case = air + 8 K/W × heat of all parts + R_th × V² ω C tan δ",
        (
            f"{s.value:.0f} °C with air at {AIR_C:g} °C around the housing and {AIR_K_PER_W:g} K/W for the housing",
        ),
        ("an estimate; feel after an hour, power off",),
    )


_STRESS: dict[Burden, Callable[[_Case, RatedPart, Stress], _Stressed]] = {
    Burden.VOLTS: _stress_volts,
    Burden.CREST: _stress_crest,
    Burden.AMPS: _stress_amps,
    Burden.WATTS: _stress_watts,
    Burden.SURGE: _stress_surge,
    Burden.PEAK: _stress_peak,
    Burden.EQUALISING: _stress_equalising,
    Burden.MELTING: _stress_melting,
    Burden.HEAT: _stress_heat,
}


def _value(case: _Case, part: RatedPart) -> Why:
    rated = case.bank.rated
    design = rated.design
    chosen: Sequence[str] = ("set by hand",) if part.by_hand else ("chosen from preferred values",)
    if part.name.startswith("D"):
        i = design.names.index(part.name[1:])
        safe, time = ENCLOSED if design.enclosed else TOUCHABLE
        crest = next(s for s in part.stresses if s.burden is Burden.CREST).value * part.pieces
        c = design.capacitors[i].value_f
        where = "inside a closed housing" if design.enclosed else "where the pins can be touched"
        return Why(
            f"Bleed of {part.name[1:]}",
            " + ".join([q.show(part.value, q.RESISTANCE)] * part.pieces),
            "R ≤ t / (C ln(V̂0 / V_safe))",
            (
                f"{time:g} s / ({q.show(c, q.CAPACITANCE)} × ln({crest:.0f} V / {safe:g} V)) = "
                f"{q.show(part.limit or 0, q.RESISTANCE, 4)}",
                f"{part.pieces} in series, since {crest:.0f} V is more than one resistor works at",
            ),
            (f"at most {safe:g} V after {time:g} s, {where}", *chosen),
            "Capacitance as stated; a part at the top of its tolerance takes that much longer.",
            "Exponential discharge",
        )
    if part.name.startswith("R"):
        i = design.names.index(part.name[1:])
        surge = next(s for s in part.stresses if s.burden is Burden.SURGE).value
        step = np.sqrt(2 * surge / design.capacitors[i].value_f)
        return Why(
            f"Limiter of {part.name[1:]}",
            q.show(part.value, q.RESISTANCE),
            "R ≥ 2√2 V / I_contact",
            (f"{step:.0f} V / {design.switch.make_current_a:g} A = {q.show(part.limit or 0, q.RESISTANCE)}",),
            ("mains at +10 %, switched on at the crest, capacitor charged the other way", *chosen),
            "The switch's data sheet says what it may close on.",
            "Ohm's law at the first instant",
        )
    if part.name == "F":
        amps = (part.limit or 0) / FUSE_FACTOR
        return Why(
            "Fuse",
            q.show(part.value, q.CURRENT),
            "I_n ≥ 1.6 I_running, and 3 I_n² ≥ I²t of the first rush",
            (f"{FUSE_FACTOR:g} × {q.show(amps, q.CURRENT)} = {q.show(part.limit or 0, q.CURRENT)}",),
            ("next standard value up", *chosen),
            "Time-lag class with mains breaking capacity only.",
            CLASSES[PartClass.FUSE].grounds,
        )
    raise InputError("of", part.name, "a bleed, a limiter or the fuse", "this value is chosen, not computed")
