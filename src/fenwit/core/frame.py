"""One job, computed: everything the two instruments and the stages show, from one call.

`JobState` is what is known and wanted; `frame` answers with the staff, the power path at every step, the sizing curve,
the candidate banks, the proofs and the cautions. It has no state of its own and does no I/O.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from fenwit.core import quantity as q
from fenwit.core.calibrate.bands import Band, StepBands, sampled, step_bands
from fenwit.core.calibrate.fit import NAMEPLATE_SIGMA, READING_SIGMA, Belief, Datum, Measured, believe
from fenwit.core.caution import Caution, JobFacts, cautions
from fenwit.core.circuit import Circuit
from fenwit.core.circuit.network import PositionSolution, solve_bank
from fenwit.core.errors import InputError, check_range
from fenwit.core.load import flow_share, level_change_db
from fenwit.core.motor.kinds import (
    KINDS,
    Answer,
    Method,
    MotorKind,
    Suitability,
    answer_for,
    has_model,
    suitability,
)
from fenwit.core.motor.machine import relative_rise, synchronous_speed_rpm
from fenwit.core.operating import (
    MOTOR_VOLTAGE_LIMIT,
    OperatingPoint,
    Solution,
    Source,
    StepVerdict,
    judge_step,
    solve,
)
from fenwit.core.prove.verdict import METER_ERROR, Verdict, judge
from fenwit.core.regulator.series import (
    HandEstimate,
    Inverse,
    Knob,
    SpeedCurve,
    capacitor_impedance,
    hand_estimates,
    speed_curve,
    values_for_speeds,
)
from fenwit.core.size.bank import (
    PATTERNS,
    TOLERANCE,
    BankCandidate,
    search_two_capacitors,
    two_capacitor_bank,
    unevenness,
)

MAX_STEPS = 8
_CURVE_BAND_POINTS = 26
_CURVE_BAND_DRAWS = 80


@dataclass(frozen=True)
class Nameplate:
    """What is printed on the fan; None where nothing is."""

    poles: int | None = None
    rated_voltage_v: float | None = None
    rated_frequency_hz: float | None = None
    rated_speed_rpm: float | None = None
    rated_current_a: float | None = None
    rated_power_w: float | None = None
    run_capacitance_f: float | None = None


@dataclass(frozen=True)
class BankDesign:
    """Two capacitors and what each step joins, slowest step first."""

    a_f: float
    b_f: float
    patterns: tuple[str, ...]
    tolerance: float = TOLERANCE

    def circuit(self) -> Circuit:
        """The regulator as a circuit with its switch positions."""
        return two_capacitor_bank(self.a_f, self.b_f, self.patterns, self.tolerance)


@dataclass(frozen=True)
class Proof:
    """One reading taken at a step of the built regulator."""

    step: int
    quantity: str
    value: float
    expected_low: float | None = None
    """Band at the time of the reading, if it was kept with it"""
    expected_high: float | None = None


@dataclass(frozen=True)
class JobState:
    """All of a job that numbers depend on."""

    kind: MotorKind | None
    nameplate: Nameplate
    supply_voltage_v: float
    supply_frequency_hz: float
    readings: tuple[tuple[str, float], ...] = ()
    """Full-speed and dead readings: quantity and value"""
    wanted_rpm: tuple[float, ...] = ()
    design: BankDesign | None = None
    proofs: tuple[Proof, ...] = ()

    def __post_init__(self) -> None:
        check_range("supply_voltage_v", self.supply_voltage_v, 1.0, 1000.0, "V")
        check_range("supply_frequency_hz", self.supply_frequency_hz, 10.0, 500.0, "Hz")
        if len(self.wanted_rpm) > MAX_STEPS:
            raise InputError("wanted_rpm", len(self.wanted_rpm), f"up to {MAX_STEPS} steps", "too many steps")


@dataclass(frozen=True)
class Shown:
    """A number as it is to be read: digits by its uncertainty, unit apart."""

    value: float
    number: str
    unit: str
    low: float | None = None
    high: float | None = None

    @property
    def text(self) -> str:
        """Number and unit in one."""
        return f"{self.number} {self.unit}".strip()


@dataclass(frozen=True)
class Missing:
    """Something that must be known before numbers can be given."""

    stage: str
    field: str
    text: str


@dataclass(frozen=True)
class Zone:
    """A stretch of the staff to keep away from."""

    low_rpm: float
    high_rpm: float
    text: str


@dataclass(frozen=True)
class Mark:
    """One step on the staff."""

    step: int
    label: str
    """What the regulator joins at this step; empty before a bank is chosen"""
    wanted_rpm: float | None
    predicted: Shown | None
    share_text: str
    verdict: StepVerdict
    reasons: tuple[str, ...]
    measured_rpm: float | None
    measured_verdict: Verdict | None
    may_not_start: float
    """Share of likely motors that would not start or hold this step [-]"""


@dataclass(frozen=True)
class Path:
    """Power from supply to air at one step; step 0 is Off."""

    step: int
    runs: bool
    note: str
    supply_w: float
    regulator_loss_w: float
    motor_loss_w: float
    friction_w: float
    air_w: float
    supply: tuple[str, ...]
    regulator_name: str
    regulator: tuple[str, ...]
    motor: tuple[str, ...]
    motor_loss_text: str
    blades: tuple[str, ...]
    air: tuple[str, ...]
    warning: str


@dataclass(frozen=True)
class CurvePoint:
    """One point of speed over capacitance."""

    capacitance_f: float
    speed_rpm: float
    state: str
    """ok, barred or stall"""


@dataclass(frozen=True)
class CurveBand:
    """Band of the curve at one capacitance."""

    capacitance_f: float
    low_rpm: float
    high_rpm: float


@dataclass(frozen=True)
class CurveStep:
    """A step as a point on the curve."""

    step: int
    label: str
    capacitance_f: float
    speed_rpm: float | None
    """None where the step is barred or does not start [rpm]"""


@dataclass(frozen=True)
class Aim:
    """What a wanted step asks for."""

    step: int
    wanted: Shown
    share_text: str
    gap_text: str
    needed_text: str
    needed_f: float | None
    power_text: str
    rise_text: str
    start_text: str
    reason: str
    nearest_rpm: float | None
    hand_f: float | None
    hand_text: str


@dataclass(frozen=True)
class PartStress:
    """A part of the bank with what it bears at worst."""

    name: str
    text: str
    bench: str
    voltage_v: float
    voltage_text: str
    current_text: str
    worst_step: int
    required_voltage_v: float
    """Lowest AC rating that will do: 1.1 × the worst volts, at least 1.1 × the supply [V]"""
    required_text: str


@dataclass(frozen=True)
class Candidate:
    """A bank to choose."""

    a_bench: str
    b_bench: str
    text: str
    patterns: tuple[str, ...]
    speed_rpm: tuple[float, ...]
    miss_text: str
    evenness_text: str
    chosen: bool


@dataclass(frozen=True)
class ProofRow:
    """One quantity to read at one step."""

    step: int
    quantity: str
    name: str
    unit: str
    expected: str
    low: float
    high: float
    reading: str
    verdict: Verdict | None
    words: str


@dataclass(frozen=True)
class Check:
    """A full-speed reading beside what the model says of it."""

    quantity: str
    read: str
    expected: str
    odd: bool
    """More than three standard uncertainties from what the rest implies"""


@dataclass(frozen=True)
class Frame:
    """Everything a job page shows."""

    missing: tuple[Missing, ...]
    refused: str
    """Why a series regulator is refused for this motor; empty when it is not"""
    suitability: tuple[Suitability, ...]
    cautions: tuple[Caution, ...]
    waits_for: str
    waits_kind: str
    synchronous_rpm: float | None = None
    top_rpm: float | None = None
    full: Shown | None = None
    zones: tuple[Zone, ...] = ()
    marks: tuple[Mark, ...] = ()
    paths: tuple[Path, ...] = ()
    curve: tuple[CurvePoint, ...] = ()
    curve_band: tuple[CurveBand, ...] = ()
    curve_steps: tuple[CurveStep, ...] = ()
    aims: tuple[Aim, ...] = ()
    aim_summary: str = ""
    banks: tuple[Candidate, ...] = ()
    banks_note: str = ""
    parts: tuple[PartStress, ...] = ()
    proofs: tuple[ProofRow, ...] = ()
    proof_summary: str = ""
    checks: tuple[Check, ...] = ()
    assumptions: tuple[str, ...] = ()
    lost_draws: int = 0


# ---------------------------------------------------------------- from job to datum


def datum_of(state: JobState) -> tuple[Datum | None, tuple[Missing, ...]]:
    """Nameplate and readings as the datum of a fit, or what is missing for one.

    Parameters
    ----------
    state : JobState
        The job [-]

    Returns
    -------
    tuple of Datum or None and tuple of Missing
        The datum, or None with at least one missing thing [-]

    Raises
    ------
    InputError
        Values that contradict each other.
    """
    plate, read = state.nameplate, dict(state.readings)
    missing: list[Missing] = []
    if state.kind is None:
        missing.append(Missing("identify", "motor_kind", "what kind of motor it is"))
    elif not has_model(state.kind):
        missing.append(
            Missing(
                "identify", "motor_kind", f"a model: there is none yet for a {KINDS[state.kind].name} motor"
            )
        )
    for name, text in (("poles", "number of poles"), ("rated_voltage_v", "rated volts")):
        if getattr(plate, name) is None:
            missing.append(Missing("identify", name, text))
    if "speed_rpm" not in read and plate.rated_speed_rpm is None:
        missing.append(Missing("measure", "speed_rpm", "full-speed rpm"))
    psc = state.kind in (MotorKind.PSC, MotorKind.PSC_TAPPED)
    if psc and "run_capacitance_f" not in read and plate.run_capacitance_f is None:
        missing.append(Missing("identify", "run_capacitance_f", "microfarads of the run capacitor"))
    size = ("line_current_a", "input_power_w", "main_resistance_ohm")
    if (
        not psc
        and not any(name in read for name in size)
        and not (plate.rated_current_a or plate.rated_power_w)
    ):
        missing.append(Missing("measure", "line_current_a", "amps, watts or winding ohms"))
    if missing or state.kind is None or plate.poles is None or plate.rated_voltage_v is None:
        return None, tuple(missing)

    def known(name: str, reading: str, printed: float | None) -> Measured | None:
        if reading in read:
            return Measured(read[reading], READING_SIGMA[name])
        return None if printed is None else Measured(printed, NAMEPLATE_SIGMA[name])

    full = known("full_speed_rpm", "speed_rpm", plate.rated_speed_rpm)
    assert full is not None
    return Datum(
        kind=state.kind,
        poles=plate.poles,
        rated_voltage_v=plate.rated_voltage_v,
        rated_frequency_hz=plate.rated_frequency_hz or state.supply_frequency_hz,
        supply_voltage_v=read.get("supply_voltage_v", state.supply_voltage_v),
        frequency_hz=state.supply_frequency_hz,
        full_speed_rpm=full,
        line_current_a=known("line_current_a", "line_current_a", plate.rated_current_a),
        input_power_w=known("input_power_w", "input_power_w", plate.rated_power_w),
        capacitor_voltage_v=known("capacitor_voltage_v", "capacitor_voltage_v", None) if psc else None,
        main_resistance_ohm=known("main_resistance_ohm", "main_resistance_ohm", None),
        auxiliary_resistance_ohm=known("auxiliary_resistance_ohm", "auxiliary_resistance_ohm", None)
        if psc
        else None,
        run_capacitance_f=known("run_capacitance_f", "run_capacitance_f", plate.run_capacitance_f)
        if psc
        else None,
    ), ()


# ---------------------------------------------------------------- what does not change while dragging


@dataclass(frozen=True, eq=False)
class _Fan:
    """A believed fan with what is computed once for it."""

    belief: Belief
    supply: Source
    direct: Solution
    direct_bands: StepBands
    curve: SpeedCurve
    curve_band: tuple[CurveBand, ...]

    @property
    def full(self) -> OperatingPoint:
        point = self.direct.running
        if point is None:
            raise InputError(
                "supply_voltage_v",
                self.supply.voltage_v,
                "volts at which the fan starts",
                "the fan would not start on this supply; check rated volts, supply volts and rpm",
            )
        return point


@lru_cache(maxsize=512)
def _fan(datum: Datum, supply: Source) -> _Fan:
    belief = believe(datum)
    curve = speed_curve(belief.motor, belief.load, supply)
    usable = np.flatnonzero(curve.usable)
    picked = (
        usable[np.unique(np.linspace(0, len(usable) - 1, _CURVE_BAND_POINTS).astype(int))]
        if len(usable)
        else []
    )
    values = [float(curve.capacitance_f[i]) for i in picked]
    bands = step_bands(belief, supply, [complex(capacitor_impedance(c, supply.frequency_hz)) for c in values])
    return _Fan(
        belief,
        supply,
        solve(belief.motor, belief.load, [supply])[0],
        step_bands(belief, supply, [0j])[0],
        curve,
        tuple(
            CurveBand(c, b.speed_rpm.low, b.speed_rpm.high)
            for c, b in zip(values, bands, strict=True)
            if b.speed_rpm.high > 0
        ),
    )


# ---------------------------------------------------------------- the frame


def frame(state: JobState) -> Frame:
    """Compute everything a job page shows.

    Parameters
    ----------
    state : JobState
        The job [-]

    Returns
    -------
    Frame
        Staff, path, curve, banks, proofs and cautions; with `missing` filled and the rest empty where too little is
        known [-]

    Raises
    ------
    InputError
        Values that contradict each other; the field is named.
    """
    answer = answer_for(state.kind, Method.SERIES_CAPACITOR) if state.kind else None
    refused = ""
    if state.kind is not None and (answer is None or answer.answer is Answer.REFUSED):
        refused = answer.reason if answer else "a series capacitor has no meaning for this kind of motor"
    fits = suitability(state.kind) if state.kind else ()
    if refused:
        return Frame(
            (), refused, fits, cautions(_facts(state, None)), f"refused: {refused.split(':')[0]}", "refused"
        )
    datum, missing = datum_of(state)
    if datum is None:
        first = missing[0]
        waits = "identify" if first.stage == "identify" else "reading"
        return Frame(missing, "", fits, cautions(_facts(state, None)), f"needs {first.text}", waits)
    fan = _fan(datum, Source(state.supply_voltage_v, state.supply_frequency_hz))
    _check_wanted(state, fan)
    steps = tuple(replace(s, usable=_verdict(fan, s)[0] is StepVerdict.OK) for s in _steps(state, fan))
    marks = tuple(_mark(state, fan, step) for step in steps)
    rows = tuple(row for step in steps for row in _proof_rows(state, fan, step)) if state.design else ()
    banks, note = _banks(state, fan)
    waits_for, waits = _waits_for(state, marks, rows)
    return Frame(
        missing=(),
        refused="",
        suitability=fits,
        cautions=cautions(_facts(state, fan)),
        waits_for=waits_for,
        waits_kind=waits,
        synchronous_rpm=synchronous_speed_rpm(datum.poles, datum.frequency_hz),
        top_rpm=fan.full.speed_rpm * 1.04,
        full=_shown(fan.full.speed_rpm, fan.direct_bands.speed_rpm, "rpm"),
        zones=_zones(fan),
        marks=marks,
        paths=tuple(_path(fan, step) for step in steps) or (_path(fan, _direct_step(fan)),),
        curve=_curve_points(fan),
        curve_band=fan.curve_band,
        curve_steps=tuple(
            CurveStep(
                s.number, s.label, s.capacitance_f, s.running.speed_rpm if s.usable and s.running else None
            )
            for s in steps
            if s.capacitance_f is not None
        ),
        aims=_aims(state, fan, steps),
        aim_summary=_aim_summary(state),
        banks=banks,
        banks_note=note,
        parts=_parts(state, fan, steps),
        proofs=rows,
        proof_summary=_proof_summary(rows),
        checks=_checks(fan.belief),
        assumptions=fan.belief.assumptions,
        lost_draws=fan.belief.draws_lost,
    )


def _facts(state: JobState, fan: _Fan | None) -> JobFacts:
    read = dict(state.readings)
    slowest = min(state.wanted_rpm) / fan.full.speed_rpm if fan and state.wanted_rpm else None
    return JobFacts(
        kind=state.kind,
        supply_voltage_v=state.supply_voltage_v,
        run_capacitance_f=read.get("run_capacitance_f", state.nameplate.run_capacitance_f),
        capacitor_voltage_v=fan.full.capacitor_voltage_v if fan else None,
        regulator=state.design is not None,
        slowest_share=slowest,
    )


def _check_wanted(state: JobState, fan: _Fan) -> None:
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


@dataclass(frozen=True, eq=False)
class _Step:
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

    usable: bool = True
    """Starts, and stays within motor volts"""

    @property
    def running(self) -> OperatingPoint | None:
        return self.solution.running if self.solution else None


def _direct_step(fan: _Fan) -> _Step:
    return _Step(1, "direct", None, fan.direct, fan.direct_bands, None, 0j, None, None, None)


def _steps(state: JobState, fan: _Fan) -> tuple[_Step, ...]:
    motor, load, supply = fan.belief.motor, fan.belief.load, fan.supply
    below = [w for w in state.wanted_rpm if not _is_full(w, fan)]
    needed = dict(
        zip(below, values_for_speeds(motor, load, supply, Knob.CAPACITANCE, below, fan.curve), strict=True)
    )
    hands = dict(zip(below, hand_estimates(motor, load, supply, below), strict=True))
    if state.design:
        return _design_steps(state, state.design, fan, needed, hands)
    ideal = [needed.get(w) for w in state.wanted_rpm]
    z = [complex(capacitor_impedance(i.value, supply.frequency_hz)) if i and i.value else 0j for i in ideal]
    bands = step_bands(fan.belief, supply, z)
    return tuple(
        _Step(
            number=k + 1,
            label="" if inverse else "direct",
            wanted_rpm=wanted,
            solution=inverse.solution if inverse else fan.direct,
            bands=None if inverse and inverse.value is None else bands[k],
            capacitance_f=inverse.value if inverse else None,
            impedance_ohm=z[k],
            bank=None,
            needed=inverse,
            hand=hands.get(wanted),
        )
        for k, (wanted, inverse) in enumerate(zip(state.wanted_rpm, ideal, strict=True))
    )


def _is_full(speed_rpm: float, fan: _Fan) -> bool:
    """Whether a wanted speed means nothing in the line: within half a per cent of full speed."""
    return speed_rpm >= 0.995 * fan.full.speed_rpm


def _design_steps(
    state: JobState,
    design: BankDesign,
    fan: _Fan,
    needed: dict[float, Inverse],
    hands: dict[float, HandEstimate | None],
) -> tuple[_Step, ...]:
    supply, belief = fan.supply, fan.belief
    circuit = design.circuit()
    nominal = solve_bank(circuit, supply.frequency_hz)[1:]
    draws = {
        part.name: sampled(part.value, part.tolerance, belief.draws_kept, seed)
        for seed, part in enumerate(circuit.valued_parts)
    }
    spread = solve_bank(circuit, supply.frequency_hz, draws)[1:]
    solved = solve(
        belief.motor,
        belief.load,
        [Source(supply.voltage_v, supply.frequency_hz, complex(p.impedance_ohm)) for p in nominal],
    )
    bands = step_bands(belief, supply, [p.impedance_ohm for p in spread])
    count = max(len(design.patterns), len(state.wanted_rpm))
    omega = 2 * np.pi * supply.frequency_hz
    steps = []
    for k in range(count):
        wanted = state.wanted_rpm[k] if k < len(state.wanted_rpm) else None
        inverse, hand = (needed.get(wanted), hands.get(wanted)) if wanted is not None else (None, None)
        if k >= len(design.patterns):
            steps.append(_Step(k + 1, "no position", wanted, None, None, None, 0j, None, inverse, hand))
            continue
        z = complex(nominal[k].impedance_ohm)
        steps.append(
            _Step(
                number=k + 1,
                label=design.patterns[k],
                wanted_rpm=wanted,
                solution=solved[k],
                bands=bands[k],
                capacitance_f=-1 / (omega * z.imag) if z.imag < 0 else None,
                impedance_ohm=z,
                bank=nominal[k],
                needed=inverse,
                hand=hand,
            )
        )
    return tuple(steps)


def _shown(value: float, band: Band | None, unit: str, scale: float = 1.0) -> Shown:
    if band is None or band.half_width == 0:
        return Shown(value, q.plain(value * scale), unit)
    text = q.with_uncertainty(value * scale, band.half_width * scale, "")
    return Shown(value, text, unit, band.low, band.high)


def _share(speed_rpm: float, fan: _Fan) -> str:
    return f"{100 * speed_rpm / fan.full.speed_rpm:.0f} %"


def _verdict(fan: _Fan, step: _Step) -> tuple[StepVerdict, tuple[str, ...]]:
    if step.solution is None:
        if step.label == "no position":
            return StepVerdict.DOES_NOT_START, (
                "the chosen bank has no position for this step; choose again",
            )
        reason = step.needed.reason if step.needed else "no value gives this speed"
        return StepVerdict.DOES_NOT_START, (reason,)
    return judge_step(step.solution, fan.belief.motor.rated_voltage_v, float(fan.belief.load.friction_nm))


def _mark(state: JobState, fan: _Fan, step: _Step) -> Mark:
    verdict, reasons = _verdict(fan, step)
    point = step.running if verdict is StepVerdict.OK else None
    predicted = (
        _shown(point.speed_rpm, step.bands.speed_rpm if step.bands else None, "rpm") if point else None
    )
    speed = point.speed_rpm if point else step.wanted_rpm
    measured = next((p for p in state.proofs if p.step == step.number and p.quantity == "speed_rpm"), None)
    judged = None
    if measured and step.bands and predicted:
        judged = judge(
            "speed_rpm", measured.value, _expected(measured, step.bands.speed_rpm), METER_ERROR["speed_rpm"]
        )
    return Mark(
        step=step.number,
        label=step.label,
        wanted_rpm=step.wanted_rpm,
        predicted=predicted,
        share_text=_share(speed, fan) if speed else "",
        verdict=verdict,
        reasons=reasons,
        measured_rpm=measured.value if measured else None,
        measured_verdict=judged.verdict if judged else None,
        may_not_start=step.bands.may_not_start if step.bands else 0.0,
    )


def _expected(proof: Proof, now: Band) -> Band:
    """The band a reading is judged by: the one kept with it, else the present one."""
    if proof.expected_low is None or proof.expected_high is None:
        return now
    return Band(proof.expected_low, proof.expected_high)


def _zones(fan: _Fan) -> tuple[Zone, ...]:
    """Speeds that no capacitor gives: below the start limit, between two branches, or only with too many volts."""
    curve, full = fan.curve, fan.full.speed_rpm
    speeds = curve.scan.speed_rpm
    runs = _runs(curve.usable)
    reached = sorted((float(speeds[a:b].min()), float(speeds[a:b].max())) for a, b in runs)
    zones: list[Zone] = []
    floor = 0.0
    for low, high in reached:
        if low - floor > 0.015 * full:
            text = "will not start from rest" if floor == 0 else "no capacitor holds a speed here"
            zones.append(Zone(floor, low, text))
        floor = max(floor, high)
    barred = speeds[curve.barred]
    if len(barred) and floor < full and full - floor > 0.015 * full:
        zones.append(Zone(floor, full, "barred: the capacitor resonates and lifts motor volts"))
    elif len(barred) and float(barred.max()) > full:
        zones.append(Zone(full, float(barred.max()), "barred: the capacitor resonates and lifts motor volts"))
    return tuple(zones)


def _runs(flags: NDArray[np.bool_]) -> list[tuple[int, int]]:
    """Start and end of each unbroken stretch of true values."""
    edges = np.flatnonzero(np.diff(np.concatenate([[False], flags, [False]]).astype(np.int8)))
    return [(int(a), int(b)) for a, b in zip(edges[::2], edges[1::2], strict=True)]


def _curve_points(fan: _Fan) -> tuple[CurvePoint, ...]:
    curve = fan.curve
    state = np.where(~curve.scan.runs, "stall", np.where(curve.barred, "barred", "ok"))
    # Barred values get no speed: the model is outside its linear range there.
    speed = np.where(curve.usable, curve.scan.speed_rpm, 0.0)
    return tuple(
        CurvePoint(float(c), float(n), str(s))
        for c, n, s in zip(curve.capacitance_f, speed, state, strict=True)
    )


def _path(fan: _Fan, step: _Step) -> Path:
    verdict, reasons = _verdict(fan, step)
    point = step.running
    name = _regulator_name(step)
    if verdict is not StepVerdict.OK or point is None:
        note = reasons[0] if reasons else "does not run"
        return Path(
            step.number,
            False,
            note,
            0,
            0,
            0,
            0,
            0,
            (q.show(fan.supply.voltage_v, q.VOLTAGE),),
            name,
            (),
            (),
            "",
            (),
            (),
            "",
        )
    full, bands = fan.full, step.bands
    n, share = point.speed_rpm, point.speed_rpm / full.speed_rpm
    friction = min(float(fan.belief.load.friction_nm) * n * 2 * np.pi / 60, point.shaft_power_w)
    rise = relative_rise(point.motor_loss_w / full.motor_loss_w, share)
    volts = _shown(point.motor_voltage_v, bands.motor_voltage_v if bands else None, "V")
    amps = _shown(point.line_current_a, bands.line_current_a if bands else None, "mA", 1000.0)
    watts = _shown(point.input_power_w, bands.input_power_w if bands else None, "W")
    loss = _shown(point.motor_loss_w, bands.motor_loss_w if bands else None, "W")
    speed = _shown(n, bands.speed_rpm if bands else None, "rpm")
    warning = ""
    if rise > 1.0 + 1e-6:
        warning = f"winding rise {rise:.2g} × that at full speed"
    return Path(
        step=step.number,
        runs=True,
        note=reasons[0] if reasons else "",
        supply_w=point.input_power_w,
        regulator_loss_w=point.series_loss_w,
        motor_loss_w=point.motor_loss_w,
        friction_w=friction,
        air_w=point.shaft_power_w - friction,
        supply=(q.show(fan.supply.voltage_v, q.VOLTAGE), watts.text, f"pf {point.power_factor:.2f}"),
        regulator_name=name,
        regulator=(
            (f"{q.plain(point.series_voltage_v)} V across", f"{q.plain(point.series_loss_w, 2)} W heat")
            if step.impedance_ohm
            else ("nothing in the line",)
        ),
        motor=(volts.text, amps.text, f"slip {100 * point.slip:.0f} %"),
        motor_loss_text=f"{loss.text} stays as heat",
        blades=(speed.text, f"{q.plain(point.torque_nm, 2)} N·m"),
        air=(
            f"{100 * flow_share(share):.0f} % of flow",
            _decibels(share),
        ),
        warning=warning,
    )


def _decibels(speed_share: float) -> str:
    change = round(level_change_db(speed_share))
    return f"{change:+d} dB".replace("-", "−") if change else "0 dB"


def _regulator_name(step: _Step) -> str:
    if step.capacitance_f is None:
        return "direct" if step.label in ("direct", "") else step.label
    label = f"{step.label} = " if step.label else ""
    return f"{label}{q.show(step.capacitance_f, q.CAPACITANCE)}"


def _aims(state: JobState, fan: _Fan, steps: tuple[_Step, ...]) -> tuple[Aim, ...]:
    rows: list[Aim] = []
    below = 0.0
    for step in steps:
        if step.wanted_rpm is None:
            continue
        inverse = step.needed
        point = fan.full if inverse is None else inverse.solution.running if inverse.solution else None
        solution = fan.direct if inverse is None else inverse.solution
        power = rise = start = ""
        if point and solution:
            power = f"{q.plain(point.input_power_w, 2)} W"
            loss_share = point.motor_loss_w / fan.full.motor_loss_w
            rise = f"{relative_rise(loss_share, point.speed_rpm / fan.full.speed_rpm):.2f}"
            start = f"{q.plain(min(solution.start_margin, 99.0), 2)} ×"
        hand = step.hand
        rows.append(
            Aim(
                step=step.number,
                wanted=Shown(step.wanted_rpm, f"{step.wanted_rpm:.0f}", "rpm"),
                share_text=_share(step.wanted_rpm, fan),
                gap_text=f"+{step.wanted_rpm - below:.0f}" if rows else "",
                needed_text=_needed_words(inverse),
                needed_f=inverse.value if inverse else None,
                power_text=power,
                rise_text=rise,
                start_text=start,
                reason=inverse.reason if inverse else "",
                nearest_rpm=inverse.nearest_speed_rpm if inverse else None,
                hand_f=hand.capacitance_f if hand else None,
                hand_text=_hand_words(hand, MOTOR_VOLTAGE_LIMIT * fan.belief.motor.rated_voltage_v),
            )
        )
        below = step.wanted_rpm
    return tuple(rows)


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


def _aim_summary(state: JobState) -> str:
    if len(state.wanted_rpm) < 3:
        return ""
    ideal = (state.wanted_rpm[-1] - state.wanted_rpm[0]) / (len(state.wanted_rpm) - 1)
    return (
        f"even steps would be {ideal:.0f} rpm apart; the least even one departs by "
        f"{100 * unevenness(state.wanted_rpm):.0f}\u00a0%"
    )


def _banks(state: JobState, fan: _Fan) -> tuple[tuple[Candidate, ...], str]:
    if not state.wanted_rpm:
        return (), ""
    if len(state.wanted_rpm) > len(PATTERNS):
        return (
            (),
            f"Two capacitors make at most {len(PATTERNS)} speeds; take {len(state.wanted_rpm) - 5} away in Aim.",
        )
    full = fan.full
    limit = MOTOR_VOLTAGE_LIMIT * fan.belief.motor.rated_voltage_v
    found = search_two_capacitors(
        fan.curve,
        full.speed_rpm if full.motor_voltage_v <= limit else None,
        state.wanted_rpm,
        full.speed_rpm,
    )
    note = "" if found else "No pair of preferred values makes steps that start and stay within motor volts."
    return tuple(_candidate(state, c) for c in found), note


def _candidate(state: JobState, c: BankCandidate) -> Candidate:
    design = state.design
    chosen = design is not None and (design.a_f, design.b_f, design.patterns) == (c.a_f, c.b_f, c.patterns)
    a, b = (q.show(v, q.CAPACITANCE).removesuffix(" µF") for v in (c.a_f, c.b_f))
    return Candidate(
        q.bench(c.a_f, q.CAPACITANCE),
        q.bench(c.b_f, q.CAPACITANCE),
        f"{a} + {b} µF",
        c.patterns,
        c.speed_rpm,
        f"±{max(1, round(100 * c.worst_miss))} %",
        f"uneven by {100 * c.unevenness:.0f} %" if len(c.speed_rpm) > 2 else "",
        chosen,
    )


def _parts(state: JobState, fan: _Fan, steps: tuple[_Step, ...]) -> tuple[PartStress, ...]:
    if not state.design:
        return ()
    found = []
    for part in state.design.circuit().valued_parts:
        worst_v = worst_i = 0.0
        barred: list[int] = []
        worst_step = 0
        for step in steps:
            if step.bank is None or step.running is None or not step.bank.conducts:
                continue
            if not step.usable:
                barred.append(step.number)
                continue
            amps = step.running.line_current_a
            volts = amps * float(np.abs(step.bank.part_voltage_v_per_a[part.name]))
            worst_i = max(worst_i, amps * float(np.abs(step.bank.part_current_a_per_a[part.name])))
            if volts > worst_v:
                worst_v, worst_step = volts, step.number
        # At +10 % mains volts rise about alike; standing still, the capacitor may see nearly the whole supply.
        needed = 1.1 * max(worst_v, fan.supply.voltage_v)
        found.append(
            PartStress(
                name=part.name,
                text=f"film X2, {q.show(part.value, q.CAPACITANCE)} ±{100 * part.tolerance:.0f} %",
                bench=q.bench(part.value, q.CAPACITANCE),
                voltage_v=worst_v,
                voltage_text=f"{q.plain(worst_v)} V" if worst_step else "not used",
                current_text=f"{q.plain(1000 * worst_i)} mA",
                worst_step=worst_step,
                required_voltage_v=float(np.ceil(needed / 5) * 5),
                required_text=f"not for {_step_words(barred)}: barred"
                if barred
                else f"rated at least {np.ceil(needed / 5) * 5:.0f} V AC",
            )
        )
    return tuple(found)


# ---------------------------------------------------------------- proving

_QUANTITIES: dict[str, tuple[str, str, float]] = {
    "speed_rpm": ("speed", "rpm", 1.0),
    "motor_voltage_v": ("motor volts", "V", 1.0),
    "line_current_a": ("line current", "mA", 1000.0),
}


def _proof_rows(state: JobState, fan: _Fan, step: _Step) -> list[ProofRow]:
    verdict, _ = _verdict(fan, step)
    if verdict is not StepVerdict.OK or step.running is None or step.bands is None:
        return []
    rows = []
    for name, (said, unit, scale) in _QUANTITIES.items():
        if name == "motor_voltage_v" and not step.impedance_ohm:
            continue  # the supply itself: nothing of the regulator to prove
        band: Band = getattr(step.bands, name)
        proof = next((p for p in state.proofs if p.step == step.number and p.quantity == name), None)
        expected = _expected(proof, band) if proof else band
        middle: float = getattr(step.running, name)
        judged = judge(name, proof.value, expected, METER_ERROR[name]) if proof else None
        words = ""
        if proof and judged and judged.verdict is not Verdict.PASS:
            words = _explain(state, fan, step, name, proof.value, judged.slow, judged.verdict)
        rows.append(
            ProofRow(
                step=step.number,
                quantity=name,
                name=said,
                unit=unit,
                expected=q.with_uncertainty(middle * scale, expected.half_width * scale, ""),
                low=expected.low,
                high=expected.high,
                reading=q.plain(proof.value * scale) if proof else "",
                verdict=judged.verdict if judged else None,
                words=words,
            )
        )
    return rows


def _explain(
    state: JobState, fan: _Fan, step: _Step, name: str, value: float, low: bool, verdict: Verdict
) -> str:
    side = "below" if low else "above"
    _, unit, scale = _QUANTITIES[name]
    lead = f"Step {step.number} reads {q.plain(value * scale)} {unit}, {side} what was expected"
    if verdict is Verdict.NEAR:
        return f"{lead}, though not far: read it again, with the supply volts."
    if value == 0:
        return f"{lead}: the fan stands. Contact of {step.label} not making, or a part of it open."
    if name != "speed_rpm" or step.capacitance_f is None:
        return f"{lead}. Check the meter, the supply volts and the contacts of this step."
    if value >= fan.full.speed_rpm * 0.995:
        return (
            f"{lead}: as fast as without a regulator. "
            f"Something bridges {step.label}: a shorted part or a wrong contact."
        )
    inverse = values_for_speeds(
        fan.belief.motor, fan.belief.load, fan.supply, Knob.CAPACITANCE, [value], fan.curve
    )[0]
    if inverse.value is None:
        return f"{lead}, and no capacitor would explain it: look for drag, a wrong tap or low supply volts."
    ratio = inverse.value / step.capacitance_f - 1
    others = [p for p in state.proofs if p.quantity == "speed_rpm" and p.step != step.number]
    tail = ""
    if low and not any(_failed(fan, state, p) for p in others) and others:
        tail = " The other steps hold, so the fan itself is sound."
    return (
        f"{lead}, as if {q.show(inverse.value, q.CAPACITANCE, 2)} stood in the line instead of "
        f"{q.show(step.capacitance_f, q.CAPACITANCE, 2)} ({100 * ratio:+.0f} %). "
        f"Measure what makes {step.label}, its contacts and joints.{tail}"
    ).replace("(-", "(−")


def _failed(fan: _Fan, state: JobState, proof: Proof) -> bool:
    if proof.expected_low is None or proof.expected_high is None or proof.expected_high <= 0:
        return False
    band = Band(proof.expected_low, proof.expected_high)
    return judge(proof.quantity, proof.value, band, METER_ERROR[proof.quantity]).verdict is Verdict.FAIL


def _proof_summary(rows: Sequence[ProofRow]) -> str:
    speeds = [r for r in rows if r.quantity == "speed_rpm"]
    read = [r for r in speeds if r.verdict]
    failed = [r.step for r in rows if r.verdict is Verdict.FAIL]
    if failed:
        steps = sorted(set(failed))
        return f"{_step_words(steps)} {'fails' if len(steps) == 1 else 'fail'}"
    if speeds and len(read) == len(speeds):
        return "every step proved"
    return f"{len(read)} of {len(speeds)} steps read" if speeds else ""


def _step_words(steps: Sequence[int]) -> str:
    return f"step {steps[0]}" if len(steps) == 1 else "steps " + ", ".join(map(str, steps))


def _waits_for(state: JobState, marks: Sequence[Mark], rows: Sequence[ProofRow]) -> tuple[str, str]:
    if not state.wanted_rpm:
        return "speeds to be set", "aim"
    if state.design is None:
        return "bank to be sized", "size"
    unusable = next((m for m in marks if m.verdict is not StepVerdict.OK), None)
    if unusable:
        fate = "is barred" if unusable.verdict is StepVerdict.BARRED else "does not start"
        return f"step {unusable.step} {fate}: choose again", "size"
    failed = [r for r in rows if r.verdict is Verdict.FAIL]
    if failed:
        slow = failed[0].words.find(" below ") >= 0 and failed[0].quantity == "speed_rpm"
        return f"step {failed[0].step} {'is slow' if slow else 'fails'}: find out why", "prove"
    unread = [r.step for r in rows if r.quantity == "speed_rpm" and r.verdict is None]
    if unread:
        return f"step {unread[0]} to be read", "prove"
    return "proved", "proved"


def _checks(belief: Belief) -> tuple[Check, ...]:
    dimension = {
        "line_current_a": q.CURRENT,
        "input_power_w": q.POWER,
        "capacitor_voltage_v": q.VOLTAGE,
        "main_resistance_ohm": q.RESISTANCE,
        "auxiliary_resistance_ohm": q.RESISTANCE,
    }
    return tuple(
        Check(
            c.name,
            q.show(c.read, dimension[c.name]),
            q.show(c.expected, dimension[c.name]),
            abs(c.sigmas) > 3,
        )
        for c in belief.checks
    )


def preview(state: JobState, wanted_rpm: Sequence[float] | None, design: BankDesign | None) -> Frame:
    """The frame of a job with other wanted speeds or another bank, nothing being kept.

    Parameters
    ----------
    state : JobState
        The job [-]
    wanted_rpm : sequence of float or None
        Wanted speeds in their place; None leaves them [rpm]
    design : BankDesign or None
        Bank in its place; None leaves it [-]

    Returns
    -------
    Frame
        What the job page would show [-]

    Raises
    ------
    InputError
        As `frame`.
    """
    if wanted_rpm is not None:
        state = replace(state, wanted_rpm=tuple(wanted_rpm))
    if design is not None:
        state = replace(state, design=design)
    return frame(state)
