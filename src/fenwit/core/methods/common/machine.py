"""Explanations of a machine fan's steps that hold whatever regulates it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from fenwit.core import quantity as q
from fenwit.core.calibrate.bands import Band
from fenwit.core.errors import InputError
from fenwit.core.job.machine import RISE, MachineFan, MachineStep, decibels, flow_text, margin_text, rise_text
from fenwit.core.job.steps import Step, shown
from fenwit.core.load import level_change_db
from fenwit.core.methods.seam import Case, Explain, Why
from fenwit.core.motor.machine import OPEN_MOTOR, relative_rise, synchronous_speed_rpm
from fenwit.core.operating import MOTOR_VOLTAGE_LIMIT, OperatingPoint, Solution

LINEAR = (
    f"Sinusoidal supply, iron as it is where the fan runs: up to {MOTOR_VOLTAGE_LIMIT:g} × rated motor volts. "
    "A step beyond that is barred and gets no number."
)
CIRCUIT = "Phasors of the equivalent circuit, solved for this motor (docs/machine.md)"

MachineCase = Case[MachineFan, Any, Any]


def point_of(step: Step[Any]) -> OperatingPoint:
    """The running point of a step that may be shown. Raises InputError with the reason where there is none."""
    point = step.shown_point if isinstance(step, MachineStep) else None
    if point is None:
        reason = step.reasons[0].words if step.reasons else "it does not run"
        raise InputError(
            "of", f"step {step.number}", "a step that runs", f"no number is given here: {reason}"
        )
    return point


def load_words(case: MachineCase, speed_rpm: float) -> str:
    """The fan's torque at a speed with the numbers in it."""
    load = case.subject.belief.load
    full, friction = float(load.full_speed_torque_nm), float(load.friction_nm)
    return (
        f"{q.plain(friction)} + ({q.plain(full)} − {q.plain(friction)})"
        f"({speed_rpm:.0f}/{float(load.full_speed_rpm):.0f})^{q.plain(float(load.exponent))}"
    )


def _watts(case: MachineCase, step: Step[Any]) -> Why:
    point = point_of(step)
    return Why(
        f"Input watts at step {step.number}",
        shown(point.input_power_w, step.bands.get("input_power_w"), "W").text,
        "P = T ω + rotor loss + winding loss + regulator loss",
        (
            f"{q.plain(point.shaft_power_w)} + {q.plain(point.rotor_loss_w)} + {q.plain(point.winding_loss_w)} + "
            f"{q.plain(point.series_loss_w)} = {q.plain(point.input_power_w)} W",
            f"and V I pf = {case.subject.supply.voltage_v:.0f} × {q.plain(point.line_current_a)} × "
            f"{point.power_factor:.3f}",
        ),
        case.subject.assumptions,
        LINEAR,
        "Power balance: both sides are computed apart and agree to rounding",
    )


def _heat(case: MachineCase, step: Step[Any]) -> Why:
    point = point_of(step)
    return Why(
        f"Heat in the motor at step {step.number}",
        shown(point.motor_loss_w, step.bands.get("motor_loss_w"), "W").text,
        "P_motor = I_m² R1m + I_a² R1a + rotor loss",
        (
            f"windings {q.plain(point.winding_loss_w)} W + rotor {q.plain(point.rotor_loss_w)} W "
            f"at slip {point.slip:.2f} = {q.plain(point.motor_loss_w)} W",
        ),
        case.subject.assumptions,
        LINEAR,
        "Rotor loss is slip × air-gap power of each field (docs/machine.md)",
    )


def _rise(case: MachineCase, step: Step[Any]) -> Why:
    point, full = point_of(step), case.subject.full_point
    loss, share = point.motor_loss_w / full.motor_loss_w, point.speed_rpm / full.speed_rpm
    return Why(
        f"Winding rise at step {step.number}, over that at full speed",
        f"{rise_text(step.bands.get(RISE), relative_rise(loss, share))} ×",
        "rise = (P_motor / P_motor,full) / (n/n_full)^0.6",
        (
            f"({q.plain(point.motor_loss_w)} / {q.plain(full.motor_loss_w)}) / {share:.2f}^{OPEN_MOTOR:g} = "
            f"{relative_rise(loss, share):.2f}",
        ),
        ("the motor stands in its own airstream; an enclosed one cools with exponent 0.3",),
        "An estimate. Hot and cold winding ohms give the real rise.",
        "Forced convection over a winding, exponent from practice",
    )


def _slip(case: MachineCase, step: Step[Any]) -> Why:
    point, poles, hertz = point_of(step), case.subject.datum.poles, case.subject.supply.frequency_hz
    n_s = synchronous_speed_rpm(poles, hertz)
    return Why(
        f"Slip at step {step.number}",
        f"{100 * point.slip:.0f} %",
        "s = 1 − n/n_s,  n_s = 120 f / poles",
        (
            f"n_s = 120 × {hertz:g} / {poles} = {n_s:g} rpm",
            f"1 − {point.speed_rpm:.0f}/{n_s:g} = {point.slip:.2f}",
        ),
        ("the speed is the predicted one, with its band",),
        LINEAR,
        "Definition",
    )


def _power_factor(case: MachineCase, step: Step[Any]) -> Why:
    point = point_of(step)
    return Why(
        f"Power factor at step {step.number}",
        f"{point.power_factor:.2f}",
        "pf = P / (V I)",
        (
            f"{q.plain(point.input_power_w)} W / ({case.subject.supply.voltage_v:.0f} V × "
            f"{q.show(point.line_current_a, q.CURRENT)}) = {point.power_factor:.2f}",
        ),
        case.subject.assumptions,
        LINEAR,
        CIRCUIT,
    )


def _torque(case: MachineCase, step: Step[Any]) -> Why:
    point = point_of(step)
    return Why(
        f"Torque at step {step.number}",
        f"{q.plain(point.torque_nm, 2)} N·m",
        "T = T_f + (T_full − T_f)(n/n_full)^e",
        (
            f"{load_words(case, point.speed_rpm)} = {q.plain(point.torque_nm)} N·m",
            "T_full is the motor model's own torque at the measured full speed",
        ),
        case.subject.assumptions,
        LINEAR,
        "Fan law with constant friction",
    )


def _flow(case: MachineCase, step: Step[Any]) -> Why:
    point, full = point_of(step), case.subject.full_rpm
    return Why(
        f"Airflow at step {step.number}",
        flow_text(point.speed_rpm / full, float(case.subject.belief.load.exponent)),
        "q / q_full = n / n_full; where the load goes with n^e, e not 2: down to (n / n_full)^(1 + 5 |e − 2|)",
        (f"{point.speed_rpm:.0f} / {full:.0f}, e = {float(case.subject.belief.load.exponent):.2f}",),
        ("the same room or duct at every step",),
        "Fan law; not where a fixed pressure stands against the fan.",
        "Fan laws",
    )


def _noise(case: MachineCase, step: Step[Any]) -> Why:
    share = point_of(step).speed_rpm / case.subject.full_rpm
    return Why(
        f"Air noise at step {step.number}, against full speed",
        decibels(share),
        "ΔL = 55 log10(n/n_full)",
        (f"55 log10({share:.3f}) = {level_change_db(share):.1f} dB".replace("= -", "= −"),),
        ("air noise only: no hum, no bearing",),
        "The exponent lies between 50 and 60.",
        "Fan laws",
    )


EXPLAINED: Mapping[str, Explain] = {
    "watts": _watts,
    "motor-heat": _heat,
    "slip": _slip,
    "power-factor": _power_factor,
    "torque": _torque,
    "rise": _rise,
    "flow": _flow,
    "noise": _noise,
}
"""By what is asked for at a step [-]"""


def start_words(case: MachineCase, solution: Solution, band: Band | None = None) -> tuple[str, str]:
    """Torque at rest over break-away, and the same with the numbers in it."""
    load = case.subject.belief.load
    friction = float(load.friction_nm)
    rest = solution.net_starting_torque_nm + friction
    return (
        margin_text(band, solution.start_margin),
        f"{q.plain(rest)} N·m / ({load.break_away_ratio:g} × {q.plain(friction)} N·m)",
    )


def admittance_s(fan: MachineFan, point: OperatingPoint) -> complex:
    """Of the motor at a point [S]"""
    return complex(fan.belief.motor.respond(np.asarray(point.slip), fan.supply.frequency_hz).admittance_s)
