"""The calibration file: a nameplate, readings in any run, steps to predict (docs/calibrate-format.md)."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from fenwit.core.calibrate import prior
from fenwit.core.calibrate.bands import StepBands, step_bands
from fenwit.core.calibrate.datum import READING_RANGES, RUNNING, Datum, Measured, OhmsAt, Run, Warmth
from fenwit.core.calibrate.fit import NAMEPLATE_SIGMA, READING_SIGMA, Belief, believe
from fenwit.core.calibrate.slips import likely_cause
from fenwit.core.calibrate.worth import Worth, candidates, parts_to_try, worth
from fenwit.core.errors import InputError, check_range
from fenwit.core.motor.kinds import MotorKind, has_model
from fenwit.core.motor.machine import synchronous_speed_rpm
from fenwit.core.operating import Source
from fenwit.report.casefile import number_of, object_of, source_of, within

FORMAT = "fenwit-calibrate/1"
RESULT_FORMAT = "fenwit-calibrated/1"
MAX_READINGS, MAX_STEPS = 60, 200
_DEAD = ("main_resistance_ohm", "auxiliary_resistance_ohm")
_WINDING = "winding"
_KEYS = {
    "in_line", "supply_voltage_v", "accuracy", "speed_rpm", "line_current_a", "input_power_w", "power_factor",
    "capacitor_voltage_v", "auxiliary_current_a", "motor_voltage_v", "locked_rotor_current_a", *_DEAD, _WINDING,
}  # fmt: skip


def calibrate_case(case: object) -> dict[str, Any]:
    """Calibrate a case file already read from JSON.

    Parameters
    ----------
    case : object
        The parsed JSON [-]

    Returns
    -------
    dict
        Parameters, bands of the steps, next readings and outliers, ready for JSON [-]

    Raises
    ------
    InputError
        Anything in the case that cannot be used; the field is named by its path.
    """
    if isinstance(case, dict) and case.get("format") != FORMAT:
        raise InputError("format", case.get("format"), FORMAT, "not a calibration file this version reads")
    top = object_of("case", case, {"format", "kind", "supply", "nameplate", "readings", "steps"}, {"note"})
    supply_keys = object_of("supply", top["supply"], {"voltage_v", "frequency_hz"})
    supply = within(
        "supply",
        lambda: Source(number_of(supply_keys["voltage_v"]), number_of(supply_keys["frequency_hz"])),
        {"supply_voltage_v": "voltage_v"},
    )
    read = _Readings(_list("readings", top["readings"], MAX_READINGS), supply)
    kind = _kind(top["kind"])

    def fitted() -> Belief:
        return believe(_datum(kind, top["nameplate"], supply, read))

    belief = _as_typed(read, fitted)
    steps = [
        source_of(*_in_line(f"steps[{i}]", entry), supply)
        for i, entry in enumerate(_list("steps", top["steps"], MAX_STEPS))
    ]
    bands = [step_bands(belief, s, [s.impedance_ohm])[0] for s in steps]
    following = worth(belief, supply, steps, candidates(belief, parts_to_try(belief)))
    return {
        "format": RESULT_FORMAT,
        "parameters": _parameters(belief),
        "steps": [_step(b, s, belief) for b, s in zip(bands, steps, strict=True)],
        "next": [_next(w, supply) for w in following[:3]],
        "outliers": [
            {
                "reading": read.index_of(c.name),
                "quantity": c.quantity,
                "read": c.read,
                "implied": c.implied,
                "sigmas": c.odd_by,
                "left_out": False,
                "cause": likely_cause(belief, c),
            }
            for c in belief.checks
            if c.odd
        ],
        "checks": [
            {"reading": read.index_of(c.name), "quantity": c.quantity, "read": c.read, "expected": c.expected}
            for c in belief.checks
        ],
        "assumptions": list(belief.assumptions),
        "draws": belief.draws_kept,
        "draws_lost": belief.draws_lost,
        "model_error": {
            "electric": belief.model.doubt.electric,
            "speed": belief.model.doubt.speed,
            "ohms": belief.model.doubt.ohms,
        },
    }


def _in_line(path: str, entry: object) -> tuple[str, object]:
    """A step is an in_line entry, either by itself or under that key; nothing else in it is passed over."""
    if isinstance(entry, dict) and "in_line" in entry:
        return f"{path}.in_line", object_of(path, entry, {"in_line"})["in_line"]
    return path, entry


def _list(path: str, value: object, most: int) -> list[Any]:
    if not isinstance(value, list) or len(value) > most:
        raise InputError(
            path, type(value).__name__, f"a list of up to {most} entries", "a list is wanted here"
        )
    return value


def _kind(value: object) -> MotorKind:
    kinds = [k.value for k in MotorKind if has_model(k)]
    if value not in kinds:
        raise InputError("kind", value, ", ".join(kinds), "no model of this kind of motor")
    return MotorKind(str(value))


@dataclass(frozen=True)
class _Taken:
    """One entry of the list of readings."""

    index: int
    source: Source
    direct: bool
    values: Mapping[str, Measured]
    winding: OhmsAt
    """How warm the winding was at an ohm reading [-]"""


def _winding(path: str, value: object) -> OhmsAt:
    """cold (as the room; so unsaid), warm (straight after running) or degrees Celsius."""
    if value is None or value in (Warmth.COLD.value, Warmth.WARM.value):
        return OhmsAt(Warmth(value or Warmth.COLD))
    number = number_of(value)
    if isinstance(number, str):
        raise InputError(path, value, "cold, warm, or degrees Celsius", "no such state of a winding")
    return OhmsAt(Warmth.AT, float(check_range(path, number, -40.0, 200.0, "°C")))


class _Readings:
    """The readings of a case: which of them is the datum, which are runs of their own, and where each came from."""

    def __init__(self, entries: list[Any], supply: Source) -> None:
        self.supply = supply
        self.entries = [entry if isinstance(entry, dict) else {} for entry in entries]
        taken = [self._take(i, entry) for i, entry in enumerate(entries)]
        full = [t for t in taken if t.direct]
        # The datum is the direct entry with rpm, or else the first one.
        self.datum = next((t for t in full if "speed_rpm" in t.values), full[0] if full else None)
        self.dead: dict[str, tuple[int, Measured]] = {}
        self.at: dict[str, OhmsAt] = {}
        for t in taken:
            for name in _DEAD:
                if name in t.values:
                    self.dead.setdefault(name, (t.index, t.values[name]))
                    self.at.setdefault(name, t.winding)
        self.runs = [t for t in taken if t is not self.datum and any(n not in _DEAD for n in t.values)]

    def _take(self, index: int, entry: object) -> _Taken:
        path = f"readings[{index}]"
        given = object_of(path, entry, set(), _KEYS)
        source = source_of(f"{path}.in_line", given.get("in_line", {}), self.supply)
        if "supply_voltage_v" in given:
            volts = check_range(
                f"{path}.supply_voltage_v", number_of(given["supply_voltage_v"]), 1.0, 1000.0, "V"
            )
            source = Source(float(volts), source.frequency_hz, source.impedance_ohm)
        accuracy = object_of(
            f"{path}.accuracy", given.get("accuracy", {}), set(), _KEYS - {"in_line", "accuracy", _WINDING}
        )
        values: dict[str, Measured] = {}
        for name in READING_RANGES:
            if name not in given or name not in _KEYS:
                continue
            value = check_range(f"{path}.{name}", number_of(given[name]), *READING_RANGES[name])
            sigma = READING_SIGMA["full_speed_rpm" if name == "speed_rpm" else name]
            if name in accuracy:
                sigma = float(
                    check_range(f"{path}.accuracy.{name}", number_of(accuracy[name]), 1e-4, 0.5, "")
                )
            values[name] = Measured(float(value), sigma)
        # Another voltage alone is a run of its own only when it is far from the supply: mains are never quite at rated.
        near = abs(source.voltage_v / self.supply.voltage_v - 1) < 0.15
        winding = _winding(f"{path}.{_WINDING}", given.get(_WINDING))
        return _Taken(index, source, source.impedance_ohm == 0 and near, values, winding)

    def index_of(self, name: str) -> int | None:
        """Which entry a target came from."""
        if name.startswith("run:"):
            return self.runs[int(name.split(":")[1])].index
        if name in self.dead:
            return self.dead[name][0]
        return self.datum.index if self.datum else None


_PRINTED = {
    "full_speed_rpm": "speed_rpm", "line_current_a": "current_a", "input_power_w": "power_w",
    "rated_voltage_v": "voltage_v", "run_capacitance_f": "run_capacitance_f",
}  # fmt: skip
"""Where the nameplate says what a field of the datum holds"""


def _as_typed(read: _Readings, build: Callable[[], Belief]) -> Belief:
    """Run a fit; a refusal names the entry in which somebody typed the value, not a field of ours."""
    try:
        return build()
    except InputError as error:
        own = "speed_rpm" if error.field == "full_speed_rpm" else error.field
        place = read.index_of(own)
        own = own.rpartition(":")[2]
        if place is not None and own in read.entries[place]:
            path = f"readings[{place}].{own}"
        elif error.field in _PRINTED:
            path = f"nameplate.{_PRINTED[error.field]}"
        else:
            path = error.field
        raise InputError(path, error.value, error.allowed, error.reason) from None


def _datum(kind: MotorKind, nameplate: object, supply: Source, read: _Readings) -> Datum:
    plate = object_of(
        "nameplate", nameplate, {"voltage_v", "frequency_hz", "poles"},
        {"run_capacitance_f", "speed_rpm", "current_a", "power_w"},
    )  # fmt: skip
    poles = number_of(plate["poles"])
    n_s = within("nameplate", lambda: synchronous_speed_rpm(poles, supply.frequency_hz))

    def printed(key: str, name: str, low: float, high: float, unit: str) -> Measured | None:
        if plate.get(key) is None:
            return None
        value = check_range(f"nameplate.{key}", number_of(plate[key]), low, high, unit)
        return Measured(float(value), NAMEPLATE_SIGMA[name])

    values = dict(read.datum.values) if read.datum else {}
    full = values.pop("speed_rpm", None) or printed("speed_rpm", "full_speed_rpm", 1.0, 40000.0, "rpm")
    if full is None:
        # Nobody read it: what fans of the kind do.
        slip = prior.full_slip(kind, int(poles))
        full = Measured(n_s * (1 - slip.median), slip.spread * slip.median / (1 - slip.median))
    at_full = {
        n: m
        for n, m in values.items()
        if n in (*RUNNING, "locked_rotor_current_a") and n != "motor_voltage_v"
    }
    for key, name in (("current_a", "line_current_a"), ("power_w", "input_power_w")):
        stated = printed(key, name, *READING_RANGES[name])
        if stated is not None:
            at_full.setdefault(name, stated)
    at_full |= {name: taken for name, (_, taken) in read.dead.items()}
    datum = Datum(
        kind=kind,
        poles=int(poles),
        rated_voltage_v=number_of(plate["voltage_v"]),
        rated_frequency_hz=float(
            check_range("nameplate.frequency_hz", number_of(plate["frequency_hz"]), 10.0, 500.0, "Hz")
        ),
        supply_voltage_v=read.datum.source.voltage_v if read.datum else supply.voltage_v,
        frequency_hz=supply.frequency_hz,
        full_speed_rpm=full,
        run_capacitance_f=printed("run_capacitance_f", "run_capacitance_f", 1e-8, 2e-4, "F"),
    )
    runs = tuple(
        Run(
            t.source.voltage_v,
            t.source.frequency_hz,
            t.source.impedance_ohm,
            tuple((n, m) for n, m in t.values.items() if n not in _DEAD),
        )
        for t in read.runs
    )
    main, auxiliary = (read.at.get(name, OhmsAt()) for name in _DEAD)
    taken: dict[str, Any] = at_full
    return replace(datum, runs=runs, main_at=main, auxiliary_at=auxiliary, **taken)


_UNITS = {"full_speed_rpm": "rpm", "run_capacitance_f": "F", "rise_k": "K", "ring_angle_rad": "rad"}


def _parameters(belief: Belief) -> list[dict[str, Any]]:
    """Motor and load in their own units, with the standard deviation over the draws."""
    motor, draws = belief.motor, belief.model.motor(belief.theta)
    friction, exponent = belief.model.load_shape(belief.theta)
    rows = [
        (name, float(getattr(motor, name)), np.asarray(getattr(draws, name)))
        for name in vars(motor)
        if name not in ("rated_voltage_v", "rated_frequency_hz", "poles", "service")
        and getattr(motor, name) is not None
    ]
    service, drawn_service = getattr(motor, "service", None), draws.service
    if service is not None and drawn_service is not None:
        for name in ("saturation", "rise_k"):
            rows.append((name, float(getattr(service, name)), np.asarray(getattr(drawn_service, name))))
    rows.append(("friction_share", float(belief.load.friction_share), friction))
    rows.append(("exponent", float(belief.load.exponent), exponent))
    rows.append(("full_speed_rpm", float(belief.load.full_speed_rpm), belief.full_speed_draws_rpm))
    return [
        {
            "name": name,
            "value": value,
            "sd": float(np.std(drawn)),
            "unit": "Ω" if name.endswith("_ohm") else _UNITS.get(name, ""),
        }
        for name, value, drawn in rows
    ]


def _step(bands: StepBands, source: Source, belief: Belief) -> dict[str, Any]:
    speed = bands.speed_rpm
    known = speed.high > 0
    reasons = []
    if bands.may_not_start > 0.05:
        reasons.append(f"{bands.may_not_start:.0%} of the likely motors would not start or hold this step")
    if bands.may_exceed > 0.05:
        reasons.append(f"{bands.may_exceed:.0%} of the likely motors would get too many volts")
    if not known:
        reasons.append("outside what can be predicted")
    return {
        "speed_rpm": {"p5": speed.low, "p50": bands.middle_speed_rpm, "p95": speed.high} if known else None,
        "may_not_start": bands.may_not_start,
        "may_exceed_motor_volts": bands.may_exceed,
        "reasons": reasons,
    }


def _next(found: Worth, supply: Source) -> dict[str, Any]:
    c = found.candidate
    z = c.impedance_ohm
    in_line: dict[str, float] = {}
    if z is not None:
        omega = 2 * np.pi * supply.frequency_hz
        in_line = {"capacitance_f": float(-1 / (omega * z.imag))} if z.imag else {"resistance_ohm": z.real}
    return {
        "quantity": c.quantity,
        "in_line": in_line,
        "words": c.words,
        "half_width_rpm": list(found.half_width_rpm),
        "half_width_before_rpm": list(found.before_rpm),
    }
