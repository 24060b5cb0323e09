"""What is known and wanted of one job, and how its readings become the datum of a fit."""

from __future__ import annotations

from dataclasses import dataclass, field

from fenwit.core.calibrate.fit import NAMEPLATE_SIGMA, READING_SIGMA, Datum, Measured
from fenwit.core.errors import InputError, check_range
from fenwit.core.motor.kinds import KINDS, MotorKind, has_model
from fenwit.core.size.bank import BankDesign, Sizing
from fenwit.core.size.profile import Profile

MAX_STEPS = 8


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
    profile: Profile = field(default_factory=Profile)
    sizing: Sizing = field(default_factory=Sizing)

    def __post_init__(self) -> None:
        check_range("supply_voltage_v", self.supply_voltage_v, 1.0, 1000.0, "V")
        check_range("supply_frequency_hz", self.supply_frequency_hz, 10.0, 500.0, "Hz")
        if len(self.wanted_rpm) > MAX_STEPS:
            raise InputError("wanted_rpm", len(self.wanted_rpm), f"up to {MAX_STEPS} steps", "too many steps")


@dataclass(frozen=True)
class Missing:
    """Something that must be known before numbers can be given."""

    stage: str
    field: str
    text: str


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
