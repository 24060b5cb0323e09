"""The case file: one fan, its supply and load, and what stands in the line (docs/case-format.md)."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, fields, replace
from typing import Any

from fenwit.core.errors import InputError, check_range
from fenwit.core.load import FanLoad
from fenwit.core.motor.machine import SingleWindingMotor, TwoWindingMotor, synchronous_speed_rpm
from fenwit.core.motor.ring import ShadedPoleMotor
from fenwit.core.operating import (
    HUNTS_WORDS,
    OperatingPoint,
    Solution,
    Source,
    StepVerdict,
    check_full_speed,
    judge_step,
    load_at_datum,
    point_at_speed,
    solve,
    voltage_limit_v,
)
from fenwit.core.regulator.firing_points import PhasePoint, at_speed, phase_solutions
from fenwit.core.regulator.series import SettingKind, source_with

FORMAT = "fenwit-case/1"
RESULT_FORMAT = "fenwit-result/1"
MAX_STEPS = 1000
Motor = TwoWindingMotor | ShadedPoleMotor | SingleWindingMotor
_MODELS: dict[str, type[TwoWindingMotor] | type[ShadedPoleMotor] | type[SingleWindingMotor]] = {
    "two-winding": TwoWindingMotor,
    "shaded-pole": ShadedPoleMotor,
    "single-winding": SingleWindingMotor,
}
_FREE = "core_loss_resistance_ohm"
_POINT_KEYS = (
    "speed_rpm",
    "stable",
    "motor_voltage_v",
    "line_current_a",
    "input_power_w",
    "power_factor",
    "torque_nm",
    "shaft_power_w",
    "rotor_loss_w",
    "winding_loss_w",
    "series_loss_w",
    "main_current_a",
    "auxiliary_current_a",
    "capacitor_voltage_v",
)
_PHASE_KEYS = (
    "firing_angle_deg",
    "extinction_angle_deg",
    "conduction_angle_deg",
    "torque_ripple_nm",
    "current_thd",
    "commutation_step_v",
    "triac_current_a",
)
_FIRING, _ON_STATE = "firing_angle_deg", "on_state_voltage_v"
_INDUCTANCE = "inductance_h"
_IN_LINE = {setting.value for setting in SettingKind} | {_INDUCTANCE}
"""What may stand in series in one entry"""


def solve_case(case: object) -> dict[str, Any]:
    """Solve a case file already read from JSON.

    Parameters
    ----------
    case : object
        The parsed JSON [-]

    Returns
    -------
    dict
        The result file, ready for JSON [-]

    Raises
    ------
    InputError
        Anything in the case that cannot be used; the field is named by its path.
    """
    if isinstance(case, dict) and case.get("format") != FORMAT:
        raise InputError("format", case.get("format"), FORMAT, "not a case file this version reads")
    held = isinstance(case, dict) and "at_speed_rpm" in case
    case = object_of(
        "case",
        case,
        {"format", "supply", "motor", "in_line", "at_speed_rpm" if held else "load"},
        optional={"note"},
    )
    supply_keys = object_of("supply", case["supply"], {"voltage_v", "frequency_hz"})
    supply = within(
        "supply",
        lambda: Source(number_of(supply_keys["voltage_v"]), number_of(supply_keys["frequency_hz"])),
        {"supply_voltage_v": "voltage_v"},
    )
    motor = _motor(case["motor"])
    steps = case["in_line"]
    if not isinstance(steps, list) or not 1 <= len(steps) <= MAX_STEPS:
        raise InputError(
            "in_line", type(steps).__name__, f"a list of 1 to {MAX_STEPS} entries", "steps are wanted here"
        )
    entries = [_entry(f"in_line[{i}]", entry, supply) for i, entry in enumerate(steps)]
    if held:
        n_s = synchronous_speed_rpm(motor.poles, supply.frequency_hz)
        speed = float(check_range("at_speed_rpm", number_of(case["at_speed_rpm"]), 0.0, n_s, "rpm"))
        return {"format": RESULT_FORMAT, "steps": [_held(motor, e, speed) for e in entries]}
    load = _load(case["load"], motor, supply)
    solutions = _solutions(motor, load, entries)
    return {
        "format": RESULT_FORMAT,
        "steps": [
            _step(s, voltage_limit_v(motor, supply.frequency_hz), float(load.friction_nm)) for s in solutions
        ],
        "remarks": _remarks(motor, load, supply),
    }


_FAR, _SLOW = 0.01, 0.3
"""How far a stated full speed may lie from what the stated torque gives, and below what share of the field's speed it is
asked about [-]"""


def _remarks(motor: Motor, load: FanLoad, supply: Source) -> list[str]:
    """What in a case contradicts itself without making it useless."""
    stated = float(load.full_speed_rpm)
    n_s = synchronous_speed_rpm(motor.poles, supply.frequency_hz)
    said = []
    if stated < _SLOW * n_s:
        said.append(
            f"full speed of {stated:g} rpm is {100 * stated / n_s:.0f} % of the field's {n_s:g} rpm: are the poles right?"
        )
    rated = Source(motor.rated_voltage_v, supply.frequency_hz)
    runs = [s.running.speed_rpm for s in solve(motor, load, [supply, rated], growth=False) if s.running]
    if not runs:
        said.append(
            f"with this torque the motor does not start on {supply.voltage_v:g} V with nothing in the line"
        )
    elif min(abs(n / stated - 1) for n in runs) > _FAR:
        said.append(
            f"stated full speed is {stated:g} rpm; with the stated torque this motor runs at {runs[0]:.0f} rpm with "
            "nothing in the line"
        )
    return said


@dataclass(frozen=True)
class _Entry:
    """What one entry of in_line puts between supply and motor."""

    path: str
    source: Source
    firing_deg: float | None = None
    on_state_v: float = 0.0


def _entry(path: str, value: object, supply: Source) -> _Entry:
    given = object_of(path, value, set(), _IN_LINE | {_FIRING, _ON_STATE})
    source = source_of(path, {k: v for k, v in given.items() if k not in (_FIRING, _ON_STATE)}, supply)
    if _FIRING not in given:
        if _ON_STATE in given:
            raise InputError(
                f"{path}.{_ON_STATE}", given[_ON_STATE], f"with {_FIRING}", "there is no triac here"
            )
        return _Entry(path, source)
    if SettingKind.CAPACITANCE.value in given:
        raise InputError(
            f"{path}.{SettingKind.CAPACITANCE.value}", given[SettingKind.CAPACITANCE.value], f"without {_FIRING}",
            "no capacitor may stand in line with a triac",
        )  # fmt: skip
    firing = float(check_range(f"{path}.{_FIRING}", number_of(given[_FIRING]), 0.0, 180.0, "°"))
    on_state = float(check_range(f"{path}.{_ON_STATE}", number_of(given.get(_ON_STATE, 0.0)), 0.0, 10.0, "V"))
    return _Entry(path, source, firing, on_state)


def _solutions(motor: Motor, load: FanLoad, entries: list[_Entry]) -> list[Solution]:
    """Entries without a triac in one go, those with one in one go for each source and on-state voltage."""
    groups: dict[tuple[Source, float] | None, list[int]] = {}
    for i, e in enumerate(entries):
        groups.setdefault(None if e.firing_deg is None else (e.source, e.on_state_v), []).append(i)
    found: dict[int, Solution] = {}
    for key, places in groups.items():
        if key is None:
            solved = solve(motor, load, [entries[i].source for i in places])
        else:
            angles = [entries[i].firing_deg or 0.0 for i in places]
            solved = phase_solutions(motor, load, key[0], angles, key[1])
        found.update(zip(places, solved, strict=True))
    return [found[i] for i in range(len(entries))]


def _held(motor: Motor, entry: _Entry, speed_rpm: float) -> dict[str, Any]:
    """The steady state at a speed that something else holds."""
    if entry.firing_deg is None:
        point: OperatingPoint | None = point_at_speed(motor, entry.source, speed_rpm)
    else:
        point = at_speed(motor, entry.source, speed_rpm, entry.firing_deg, entry.on_state_v)
    limit = voltage_limit_v(motor, entry.source.frequency_hz)
    reasons = []
    if point is None:
        reasons.append("no steady state in which both half-cycles are alike at this speed and angle")
    elif point.motor_voltage_v > limit:
        reasons.append(
            f"motor volts exceed {limit:.0f} V: outside the range of the model, so nothing is predicted"
        )
    elif point.hunts:
        reasons.append(HUNTS_WORDS)
    verdict = "no-steady-state" if point is None else "barred" if reasons else "ok"
    shown = [_point(point)] if point and not reasons else []
    return {"operating_points": shown, "verdict": verdict, "reasons": reasons}


def object_of(
    path: str, value: object, needed: set[str], optional: set[str] | None = None
) -> Mapping[str, Any]:
    allowed = needed | (optional or set())
    if not isinstance(value, dict):
        raise InputError(path, value, "an object", "an object with named values is wanted here")
    for key in value:
        if key not in allowed:
            raise InputError(_join(path, key), value[key], ", ".join(sorted(allowed)), "no such key here")
    for key in sorted(needed):
        if key not in value:
            raise InputError(_join(path, key), None, "a value", "is missing")
    return value


def _join(path: str, key: str) -> str:
    return key if path == "case" else f"{path}.{key}"


def number_of(value: object) -> Any:
    # Numbers are checked by the core; text and truth values must not slip through as numbers.
    return (
        value
        if value is None or (isinstance(value, int | float) and not isinstance(value, bool))
        else str(value)
    )


def within(path: str, build: Any, rename: Mapping[str, str] | None = None) -> Any:
    """Run a core constructor and put the path before the field its error names."""
    try:
        return build()
    except InputError as error:
        name = (rename or {}).get(error.field, error.field)
        raise InputError(f"{path}.{name}", error.value, error.allowed, error.reason) from None


def _motor(value: object) -> Motor:
    if not isinstance(value, dict) or value.get("model") not in _MODELS:
        model = value.get("model") if isinstance(value, dict) else value
        raise InputError("motor.model", model, " or ".join(_MODELS), "no such model")
    cls = _MODELS[value["model"]]
    names = {f.name for f in fields(cls)} - {"service", _FREE}
    given = object_of("motor", value, names | {"model"}, {_FREE})
    values = {name: number_of(given[name]) for name in names}
    core = given.get(_FREE)
    values[_FREE] = None if core is None else number_of(core)
    check_range("motor.poles", values["poles"], 2, 48, "")
    motor: Motor = within("motor", lambda: cls(**values))
    return motor


def _load(value: object, motor: Motor, supply: Source) -> FanLoad:
    given = object_of(
        "load",
        value,
        {"full_speed_rpm"},
        {"full_speed_torque_nm", "friction_share", "exponent", "break_away_ratio"},
    )

    def get(key: str, default: float) -> Any:
        return number_of(given[key]) if key in given else default

    n_full = check_range("load.full_speed_rpm", number_of(given["full_speed_rpm"]), 1.0, 40000.0, "rpm")
    friction, exponent, break_away = (
        get("friction_share", 0.03),
        get("exponent", 2.0),
        get("break_away_ratio", 1.0),
    )

    def build() -> FanLoad:
        check_full_speed(n_full, synchronous_speed_rpm(motor.poles, supply.frequency_hz))
        check_range("friction_share", friction, 0.0, 1.0, "")
        torque = given.get("full_speed_torque_nm")
        if torque is None:
            own = load_at_datum(motor, n_full, supply.voltage_v, supply.frequency_hz)
            return FanLoad(n_full, own.full_speed_torque_nm, friction, exponent, break_away)
        return FanLoad(n_full, number_of(torque), friction, exponent, break_away)

    load: FanLoad = within("load", build)
    return load


def source_of(path: str, value: object, supply: Source) -> Source:
    given = object_of(path, value, set(), _IN_LINE)
    source = supply
    if _INDUCTANCE in given:
        henry = float(check_range(f"{path}.{_INDUCTANCE}", number_of(given[_INDUCTANCE]), 0.0, 1e3, "H"))
        reactance = 2 * math.pi * supply.frequency_hz * henry
        source = replace(source, impedance_ohm=source.impedance_ohm + 1j * reactance)
    for setting in SettingKind:
        if setting.value in given:
            number = check_range(
                f"{path}.{setting.value}", number_of(given[setting.value]), *_SETTING_RANGE[setting]
            )
            source = source_with(source, setting, float(number))
    return source


_SETTING_RANGE: dict[SettingKind, tuple[float, float, str]] = {
    SettingKind.CAPACITANCE: (1e-9, 1e-3, "F"),
    SettingKind.RESISTANCE: (0.0, 1e7, "Ω"),
    SettingKind.VOLTAGE: (1.0, 1000.0, "V"),
}


def _step(solution: Solution, limit_v: float, friction_nm: float) -> dict[str, Any]:
    verdict, reasons = judge_step(solution, limit_v, friction_nm)
    # Where nothing is predicted no number stands beside those words.
    points = () if verdict is StepVerdict.BARRED else solution.points
    return {
        "starts": solution.starts,
        "net_starting_torque_nm": solution.net_starting_torque_nm,
        "reached_from_rest": solution.from_rest if points else None,
        "operating_points": [_point(p) for p in points],
        "verdict": verdict.value,
        "reasons": list(reasons),
    }


def _point(point: OperatingPoint) -> dict[str, Any]:
    keys = _POINT_KEYS + (_PHASE_KEYS if isinstance(point, PhasePoint) else ())
    return {key: getattr(point, key) for key in keys}
