"""What is known and wanted of one job, and how its readings become the datum of a fit."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from enum import StrEnum
from typing import ClassVar, Protocol

from fenwit.core import quantity as q
from fenwit.core.calibrate.datum import READING_RANGES, OhmsAt, Run, Warmth
from fenwit.core.calibrate.fit import NAMEPLATE_SIGMA, READING_SIGMA, Datum, Measured
from fenwit.core.errors import InputError, check_range
from fenwit.core.job.air import AirSheet, JobAir
from fenwit.core.job.board import Board
from fenwit.core.job.commanded import Commanded, CommandSheet, Read
from fenwit.core.job.findings import LEAD_OHM, Findings, windings
from fenwit.core.job.hold import HoldSheet
from fenwit.core.load.air import REFERENCE_KG_M3
from fenwit.core.motor.kinds import (
    KINDS,
    Method,
    MotorKind,
    SubjectKind,
    answer_for,
    has_model,
    suitability,
    usual_method,
)
from fenwit.core.regulator.series import capacitor_impedance
from fenwit.core.size.profile import Profile
from fenwit.core.size.sizing import Sizing

MAX_STEPS = 8


class Design(Protocol):
    """What is chosen in Size, whatever the method."""

    method: ClassVar[Method]


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
    apparent_power_va: float | None = None
    airflow_m3_per_s: float | None = None
    sweep_m: float | None = None
    ambient_c: float | None = None

    @property
    def printed_current_a(self) -> float | None:
        """Amps as printed, or out of printed volt-amps."""
        if self.rated_current_a is not None or not self.apparent_power_va or not self.rated_voltage_v:
            return self.rated_current_a
        return self.apparent_power_va / self.rated_voltage_v


@dataclass(frozen=True)
class Proof:
    """One reading taken at a step of the built regulator."""

    step: int
    quantity: str
    value: float
    expected_low: float | None = None
    """Band at the time of the reading, if it was kept with it"""
    expected_high: float | None = None


class InLine(StrEnum):
    """What a run away from full speed was taken with."""

    CAPACITOR = "capacitor"
    RESISTOR = "resistor"
    VOLTAGE = "voltage"
    BARE_SHAFT = "bare-shaft"
    LOCKED = "locked"
    DIRECT = "direct"
    DUTY = "duty"
    """A signal on the control lead"""
    CONTROL = "control"
    """Volts on the control input"""


@dataclass(frozen=True)
class RunState:
    """One run: what stood in the line, and what was read."""

    key: int
    what: InLine
    value: float | None = None
    """F, Ω, V, duty or volts on the control input [F|Ω|V|-]"""
    readings: tuple[tuple[str, float], ...] = ()
    sigmas: tuple[tuple[str, float], ...] = ()
    """Relative standard uncertainty by the instrument, where one was named [-]"""
    frequency_hz: float | None = None
    """Of a signal on the control lead, where it was not the usual one [Hz]"""

    @property
    def swept(self) -> tuple[float, float, float] | None:
        """Frequency, duty and speed, where it is one of a sweep and was read [Hz, -, rpm]"""
        rpm = dict(self.readings).get("speed_rpm")
        if self.frequency_hz is None or self.value is None or rpm is None:
            return None
        return self.frequency_hz, self.value, rpm

    @property
    def label(self) -> str:
        """What the run is called."""
        value = self.value or 0.0
        if self.what is InLine.CAPACITOR:
            return f"{q.show(value, q.CAPACITANCE)} in the line"
        if self.what is InLine.RESISTOR:
            return f"{q.show(value, q.RESISTANCE)} in the line"
        if self.what is InLine.VOLTAGE:
            return f"on {q.show(value, q.VOLTAGE)}"
        if self.what is InLine.DUTY:
            hertz = "" if self.frequency_hz is None else f", {q.plain(self.frequency_hz / 1e3)} kHz"
            return f"at {q.plain(100 * value)} % duty{hertz}"
        if self.what is InLine.CONTROL:
            return f"at {q.plain(value)} V control"
        names = {
            InLine.BARE_SHAFT: "without blades",
            InLine.LOCKED: "rotor held",
            InLine.DIRECT: "once more, direct",
        }
        return names[self.what]


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
    design: Design | None = None
    proofs: tuple[Proof, ...] = ()
    profile: Profile = field(default_factory=Profile)
    sizing: Sizing = field(default_factory=Sizing)
    sigmas: tuple[tuple[str, float], ...] = ()
    """Relative standard uncertainty of readings by their instrument, where one was named [-]"""
    runs: tuple[RunState, ...] = ()
    findings: Findings = field(default_factory=Findings)
    windings: tuple[tuple[str, OhmsAt], ...] = ()
    """How warm the winding was at an ohm reading, by its quantity; cold where nobody said [-]"""
    overridden: frozenset[Method] = frozenset()
    """Methods that somebody answers for against a refusal [-]"""
    board: Board | None = None
    """The control that came in with it; None while none did [-]"""
    air: AirSheet = field(default_factory=AirSheet)
    commanded: CommandSheet = field(default_factory=CommandSheet)
    hold: HoldSheet = field(default_factory=HoldSheet)
    meant: tuple[str, ...] = ()
    """Beside each wanted speed: as it was meant, like 1400 m³/h; empty: the speed itself [-]"""

    @property
    def method(self) -> Method:
        """What the steps are made by: as chosen, or as it is aimed with."""
        return self.sizing.method if self.design is None else self.design.method

    def __post_init__(self) -> None:
        check_range("supply_voltage_v", self.supply_voltage_v, 1.0, 1000.0, "V")
        check_range("supply_frequency_hz", self.supply_frequency_hz, 10.0, 500.0, "Hz")
        if len(self.wanted_rpm) > MAX_STEPS:
            raise InputError("wanted_rpm", len(self.wanted_rpm), f"up to {MAX_STEPS} steps", "too many steps")


def with_usual_method(state: JobState) -> JobState:
    """A job that is aimed with what suits its kind, where what it was to be aimed with has no meaning for it."""
    aimed = state.sizing.method
    if state.kind is None or answer_for(state.kind, aimed) is not None:
        return state
    return replace(state, sizing=replace(state.sizing, method=usual_method(state.kind) or aimed))


@dataclass(frozen=True)
class Missing:
    """Something that must be known before numbers can be given."""

    stage: str
    field: str
    text: str


_CAPACITOR_RUN = (MotorKind.PSC, MotorKind.PSC_TAPPED)


def _missing(state: JobState, read: Mapping[str, float]) -> tuple[Missing, ...]:
    """What nothing can be computed without."""
    plate = state.nameplate
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
    psc = state.kind in _CAPACITOR_RUN
    if psc and "run_capacitance_f" not in read and plate.run_capacitance_f is None:
        missing.append(Missing("identify", "run_capacitance_f", "microfarads of the run capacitor"))
    if "speed_rpm" not in read and plate.rated_speed_rpm is None:
        missing.append(Missing("measure", "speed_rpm", "full-speed rpm"))
    size = ("line_current_a", "input_power_w", "main_resistance_ohm", "hot_resistance_ohm")
    if (
        not psc
        and not any(name in read for name in size)
        and not (plate.printed_current_a or plate.rated_power_w)
    ):
        missing.append(Missing("measure", "line_current_a", "amps, watts or winding ohms"))
    return tuple(missing)


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
    sigma = dict(state.sigmas)
    # Ohms of the windings follow from the leads where nobody read them by themselves.
    found = windings(state.findings, read)
    if found is not None:
        read.setdefault("main_resistance_ohm", found.main_ohm)
        if found.start_ohm is not None:
            read.setdefault("auxiliary_resistance_ohm", found.start_ohm)
    missing = _missing(state, read)
    if missing or state.kind is None or plate.poles is None or plate.rated_voltage_v is None:
        return None, missing

    def known(name: str, reading: str, printed: float | None) -> Measured | None:
        if reading in read:
            return Measured(read[reading], sigma.get(reading, READING_SIGMA[name]))
        return None if printed is None else Measured(printed, NAMEPLATE_SIGMA[name])

    psc = state.kind in _CAPACITOR_RUN
    full = known("full_speed_rpm", "speed_rpm", plate.rated_speed_rpm)
    assert full is not None
    full_run = {name: known(name, name, None) for name in ("power_factor", "auxiliary_current_a")}
    return Datum(
        kind=state.kind,
        poles=plate.poles,
        rated_voltage_v=plate.rated_voltage_v,
        rated_frequency_hz=plate.rated_frequency_hz or state.supply_frequency_hz,
        supply_voltage_v=read.get("supply_voltage_v", state.supply_voltage_v),
        frequency_hz=read.get("frequency_hz", state.supply_frequency_hz),
        full_speed_rpm=full,
        line_current_a=known("line_current_a", "line_current_a", plate.printed_current_a),
        input_power_w=known("input_power_w", "input_power_w", plate.rated_power_w),
        capacitor_voltage_v=known("capacitor_voltage_v", "capacitor_voltage_v", None) if psc else None,
        main_resistance_ohm=known("main_resistance_ohm", "main_resistance_ohm", None),
        auxiliary_resistance_ohm=known("auxiliary_resistance_ohm", "auxiliary_resistance_ohm", None)
        if psc
        else None,
        run_capacitance_f=known("run_capacitance_f", "run_capacitance_f", plate.run_capacitance_f)
        if psc
        else None,
        power_factor=full_run["power_factor"],
        auxiliary_current_a=full_run["auxiliary_current_a"] if psc else None,
        locked_rotor_current_a=known("locked_rotor_current_a", "locked_rotor_current_a", None),
        hot_resistance_ohm=known("hot_resistance_ohm", "hot_resistance_ohm", None),
        main_at=_at(state, read, "main_resistance_ohm"),
        auxiliary_at=_at(state, read, "auxiliary_resistance_ohm"),
        runs=tuple(run for r in state.runs if (run := run_of(state, r)) is not None),
        load_exponent=_exponent(state, full.value),
        # What stands on the label belongs to the usual air; what was read, to the air it was read in.
        density_ratio=1.0 if _RUN_HERE & read.keys() else state.air.density_kg_m3 / REFERENCE_KG_M3,
    ), ()


_RUN_HERE = {"speed_rpm", "line_current_a", "input_power_w"}


def _exponent(state: JobState, full_rpm: float) -> Measured | None:
    """What fan curve and system say of the load's exponent; None where they say nothing."""
    found = JobAir(state.air, full_rpm).load_exponent() if not state.air.empty else None
    if found is None:
        return None
    value, moves = found
    return Measured(value, _CURVE_EXPONENT + abs(moves) / (2 * value)) if value > 0 else None


_CURVE_EXPONENT = 0.02
"""Relative doubt of an exponent by a typed curve, before it moves between the speeds [-]"""


def _at(state: JobState, read: Mapping[str, float], name: str) -> OhmsAt:
    """How warm a winding was: as said at its own reading, or at those of the leads from which it was found."""
    said = dict(state.windings)
    lead = [at for quantity, at in state.windings if quantity.startswith(LEAD_OHM)]
    found = said.get(name) or (lead[0] if name not in dict(state.readings) and lead else OhmsAt())
    return OhmsAt(Warmth.COLD, read.get("cold_temperature_c")) if found.warmth is Warmth.COLD else found


def run_of(state: JobState, run: RunState) -> Run | None:
    """One run as the fit takes it; None while nothing was read in it.

    Parameters
    ----------
    state : JobState
        The job, for its supply [-]
    run : RunState
        The run [-]

    Returns
    -------
    Run or None
        With its readings and their uncertainty [-]
    """
    read, sigma = dict(run.readings), dict(run.sigmas)
    taken = tuple(
        (
            name,
            Measured(
                value, sigma.get(name, READING_SIGMA["full_speed_rpm" if name == "speed_rpm" else name])
            ),
        )
        for name, value in run.readings
        if name in READING_RANGES and not name.endswith(("_ohm", "_f"))
    )
    if not taken:
        return None
    volts = state.supply_voltage_v
    if run.what is InLine.VOLTAGE and run.value:
        volts = run.value
    hertz = read.get("frequency_hz", state.supply_frequency_hz)
    z = 0j
    if run.what is InLine.CAPACITOR and run.value:
        z = complex(capacitor_impedance(run.value, hertz))
    elif run.what is InLine.RESISTOR and run.value:
        z = complex(run.value)
    return Run(
        read.get("supply_voltage_v", volts), hertz, z, taken, run.what is not InLine.BARE_SHAFT, run.label
    )


def commanded_of(state: JobState) -> Commanded | tuple[Missing, ...]:
    """A fan with electronics of its own, as far as a job knows it; what is missing while that is too little.

    Parameters
    ----------
    state : JobState
        The job [-]

    Returns
    -------
    Commanded or tuple of Missing
        The fan [-]

    Raises
    ------
    InputError
        Readings that contradict each other.
    """
    plate, read = state.nameplate, dict(state.readings)
    missing = []
    if plate.rated_voltage_v is None:
        missing.append(Missing("identify", "rated_voltage_v", "rated volts"))
    full = read.get("speed_rpm", plate.rated_speed_rpm)
    if full is None:
        missing.append(Missing("measure", "speed_rpm", "full-speed rpm"))
    if missing or plate.rated_voltage_v is None or full is None:
        return tuple(missing)
    dc = state.kind is None or KINDS[state.kind].dc
    watts = read.get("input_power_w", plate.rated_power_w)
    amps = read.get("line_current_a", plate.printed_current_a)
    if dc and amps is None and plate.rated_power_w is not None:
        amps = plate.rated_power_w / plate.rated_voltage_v
    runs = {
        what: tuple(
            Read(r.value, dict(r.readings).get("speed_rpm"), dict(r.readings).get("line_current_a"))
            for r in state.runs
            if r.what is what and r.value is not None and r.readings and r.frequency_hz is None
        )
        for what in (InLine.DUTY, InLine.VOLTAGE, InLine.CONTROL)
    }
    swept = tuple(one for r in state.runs if (one := r.swept) is not None)
    found = Commanded(
        state.commanded,
        plate.rated_voltage_v,
        full,
        amps,
        runs[InLine.DUTY],
        runs[InLine.VOLTAGE],
        swept,
        "speed_rpm" in read,
        runs[InLine.CONTROL],
        None if dc else watts,
        dc,
    )
    over = over_supply(state, found)
    if over:
        return (Missing("identify", "supply_voltage", over),)
    return found


def over_supply(state: JobState, fan: Commanded) -> str:
    """Why a job's supply may not feed a fan; empty where it may."""
    if state.supply_voltage_v <= fan.most_v * (1 + 1e-9):
        return ""
    rated = q.plain(fan.rated_v)
    kind = "DC supply" if fan.dc else "supply"
    return f"the volts of its {kind}: {q.plain(state.supply_voltage_v)} V would kill a fan for {rated} V"


def check_supply(state: JobState) -> None:
    """Refuses a supply that would kill the fan it feeds, beside the field."""
    if state.kind is None or KINDS[state.kind].subject is not SubjectKind.MAPPED:
        return
    rated = state.nameplate.rated_voltage_v
    most = state.commanded.most_v or (1.1 * rated if rated else None)
    if most is not None and state.supply_voltage_v > most * (1 + 1e-9):
        raise InputError(
            "supply_voltage",
            state.supply_voltage_v,
            f"up to {q.plain(most)} V",
            "more would kill the fan's electronics",
        )


def check_meaning(kind: MotorKind | None, method: Method) -> None:
    """Refuses to aim with a way of regulating that has no meaning for a kind of motor."""
    if kind is not None and answer_for(kind, method) is None:
        fits = ", ".join(row.method.value for row in suitability(kind))
        raise InputError("sizing.method", method.value, fits, "it has no meaning for this kind of motor")
