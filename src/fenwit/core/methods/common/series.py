"""A fixed impedance in the line, whatever it is made of: its steps, their acceptance and straying, and why."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from threading import Lock
from typing import Any, Generic, TypeVar

import numpy as np

from fenwit.core import quantity as q
from fenwit.core.calibrate.bands import Band, StepBands, step_bands
from fenwit.core.calibrate.fit import Belief
from fenwit.core.calibrate.model import friction_assumed
from fenwit.core.errors import InputError
from fenwit.core.job.machine import (
    START,
    MachineFan,
    MachineRunning,
    MachineStep,
    bands_of,
    costs_of,
    judged,
    running_of,
)
from fenwit.core.job.steps import (
    LINE_CURRENT,
    MOTOR_VOLTS,
    SPEED,
    Hint,
    Need,
    Place,
    PlaceKind,
    Reason,
    ReasonKind,
    Step,
    Steps,
    Told,
    shown,
    shown_amps,
)
from fenwit.core.methods.common.machine import (
    CIRCUIT,
    EXPLAINED,
    LINEAR,
    MachineCase,
    admittance_s,
    load_words,
    point_of,
    start_words,
)
from fenwit.core.methods.seam import Behind, Case, Expected, Explain, FloatArray, Stray, Why
from fenwit.core.motor.machine import synchronous_speed_rpm
from fenwit.core.operating import OperatingPoint, Solution, Source, StepVerdict, torque_nm
from fenwit.core.regulator.series import Inverse
from fenwit.core.size.profile import StepFacts
from fenwit.core.size.tolerance import Spread

S = TypeVar("S")
_THROUGH = 1.0
"""Ohms below which nothing is said to stand in the line [Ω]"""
HUNTING_TEXT = "hunts: the speed will not hold here"
HIGH_MAINS_WORDS = "on high mains, or coming down from full speed, motor volts would pass their limit"
_REMEMBERED = 2000


# ---------------------------------------------------------------- what a wanted speed asks for


@dataclass(frozen=True, eq=False)
class Aimed:
    """The value that gives a wanted speed, a cruder estimate of it, and the band of the step."""

    needed: Inverse
    impedance_ohm: complex
    bands: StepBands | None
    hint: Hint | None = None


@dataclass(frozen=True, eq=False)
class AimMemory:
    """What was asked before: while one notch is dragged the other steps stay as they are."""

    known: dict[float, Aimed] = field(default_factory=dict)
    lock: Lock = field(default_factory=Lock)

    def remember(self, found: Mapping[float, Aimed]) -> None:
        """Keep answers; when there are too many, the old ones go."""
        with self.lock:
            if len(self.known) + len(found) > _REMEMBERED:
                self.known.clear()
            self.known.update(found)


def asked_once(
    memory: AimMemory,
    speeds_rpm: Sequence[float],
    ask: Callable[[list[float]], Mapping[float, Aimed]],
) -> dict[float, Aimed]:
    """What each wanted speed asks for, solved where it is not remembered.

    Parameters
    ----------
    memory : AimMemory
        What was asked before [-]
    speeds_rpm : sequence of float
        Wanted speeds below full speed [rpm]
    ask : callable
        Solves for the new ones [-]

    Returns
    -------
    dict
        By speed [rpm → -]
    """
    # What is answered is kept apart from the memory, which may be emptied at any time.
    found = {w: memory.known.get(w) for w in speeds_rpm}
    new = [w for w, known in found.items() if known is None]
    if new:
        fresh = ask(new)
        memory.remember(fresh)
        found.update(fresh)
    return {w: a for w, a in found.items() if a is not None}


def need_of(
    fan: MachineFan, wanted_rpm: float | None, aimed: Aimed | None, text: str, setting: S | None
) -> Need[S] | None:
    """What a wanted speed asks for: a value with what it costs, or why none gives it; full speed needs nothing.

    Parameters
    ----------
    fan : MachineFan
        The fan [-]
    wanted_rpm : float or None
        The speed; None where none is wanted [rpm]
    aimed : Aimed or None
        What was solved for it; None at full speed [-]
    text : str
        The value in words [-]
    setting : S or None
        The value as a setting [-]

    Returns
    -------
    Need or None
        None where no speed is wanted [-]
    """
    if wanted_rpm is None:
        return None
    if aimed is None:
        return Need("direct", costs=costs_of(fan, fan.direct, fan.direct.running, fan.direct_bands))
    inverse = aimed.needed
    solution = inverse.solution
    return Need(
        text=text,
        setting=setting,
        reason=inverse.reason,
        nearest_rpm=inverse.nearest_speed_rpm,
        costs=costs_of(fan, solution, solution.running if solution else None, aimed.bands),
        hint=aimed.hint,
    )


# ---------------------------------------------------------------- steps


def regulator_place(name: str, point: OperatingPoint, impedance_ohm: complex) -> Place:
    """What the regulator's place says of something fixed in the line."""
    values = (
        (
            Told(f"{q.plain(point.series_voltage_v)} V across", "regulator-volts"),
            Told(f"{q.plain(point.series_loss_w, 2)} W heat", "regulator-heat"),
        )
        if abs(impedance_ohm) > _THROUGH
        else (Told("nothing in the line", "regulator-volts"),)
    )
    return Place(PlaceKind.REGULATOR, values, name=name)


def _running(
    fan: MachineFan, solution: Solution | None, bands: StepBands | None, name: str, impedance_ohm: complex
) -> MachineRunning | None:
    """The point reached from rest behind a fixed impedance, as a flow of power."""
    point = solution.running if solution else None
    return running_of(fan, point, bands, regulator_place(name, point, impedance_ohm)) if point else None


@dataclass(frozen=True, eq=False)
class InLine(Generic[S]):
    """What stands in the line at one step."""

    label: str
    joins: str
    setting: S | None
    impedance_ohm: complex
    solution: Solution | None
    bands: StepBands | None
    at: float | None
    barred: bool = False
    """Also where the motor's volts on the stated mains are not"""


@dataclass(frozen=True, eq=False)
class SeriesStep(MachineStep[S], Generic[S]):
    """A step with something fixed in the line, and what its wanted speed asks for."""

    aimed: Aimed | None = None


def step_of(
    fan: MachineFan,
    number: int,
    wanted_rpm: float | None,
    need: Need[S] | None,
    found: InLine[S],
    aimed: Aimed | None = None,
) -> SeriesStep[S]:
    """A step with something fixed in the line.

    Parameters
    ----------
    fan : MachineFan
        The fan [-]
    number : int
        From 1 [-]
    wanted_rpm : float or None
        What is wanted of it [rpm]
    need : Need or None
        What that asks for [-]
    found : InLine
        What stands in the line [-]
    aimed : Aimed or None
        What was solved for the wanted speed [-]

    Returns
    -------
    SeriesStep
        The step, judged [-]
    """
    bands = found.bands
    if found.solution is None:
        words = need.reason if need and need.reason else "no value gives this speed"
        verdict = StepVerdict.DOES_NOT_START
        reasons: tuple[Reason, ...] = (Reason(ReasonKind.NO_SETTING, words),)
    else:
        verdict, reasons = judged(fan, found.solution, bands)
    if verdict is StepVerdict.OK and found.barred:
        verdict, reasons = StepVerdict.BARRED, (Reason(ReasonKind.OVER_VOLTS, HIGH_MAINS_WORDS),)
    return SeriesStep(
        number=number,
        label=found.label,
        joins=found.joins,
        wanted_rpm=wanted_rpm,
        setting=found.setting,
        need=need,
        running=_running(fan, found.solution, bands, found.joins, found.impedance_ohm),
        bands=bands_of(bands),
        verdict=verdict,
        reasons=reasons,
        at=found.at,
        may_not_start=bands.may_not_start if bands else 0.0,
        may_exceed=bands.may_exceed if bands else 0.0,
        solution=found.solution,
        impedance_ohm=found.impedance_ohm,
        aimed=aimed,
    )


def direct_of(fan: MachineFan) -> InLine[Any]:
    """Nothing in the line."""
    return InLine("direct", "direct", None, 0j, fan.direct, fan.direct_bands, None)


def no_position(
    number: int, wanted_rpm: float | None, need: Need[S] | None, noun: str, aimed: Aimed | None = None
) -> SeriesStep[S]:
    """A wanted speed that what was chosen has no position for.

    Parameters
    ----------
    number : int
        From 1 [-]
    wanted_rpm : float or None
        The speed [rpm]
    need : Need or None
        What it asks for [-]
    noun : str
        What was chosen [-]
    aimed : Aimed or None
        What was solved for the speed [-]

    Returns
    -------
    SeriesStep
        A step that does not run [-]
    """
    words = f"the chosen {noun} has no position for this step; choose again"
    return SeriesStep(
        number=number,
        label="no position",
        joins="no position",
        wanted_rpm=wanted_rpm,
        setting=None,
        need=need,
        running=None,
        bands={},
        verdict=StepVerdict.DOES_NOT_START,
        reasons=(Reason(ReasonKind.NO_POSITION, words),),
        aimed=aimed,
    )


# ---------------------------------------------------------------- acceptance, straying, proving


def facts_of(steps: Steps, on_low: Sequence[Solution], on_high: Sequence[Solution]) -> tuple[StepFacts, ...]:
    """What the rules of acceptance look at, of every step that may be used."""
    facts = []
    for step, low, high in zip(steps, on_low, on_high, strict=False):
        if not isinstance(step, MachineStep) or step.solution is None:
            continue
        point = step.shown_point
        if point is None:
            continue
        facts.append(
            StepFacts(
                step.number,
                point.speed_rpm,
                step.speed_band,
                step.solution.start_margin,
                point.motor_voltage_v,
                high.running.motor_voltage_v if high.running else None,
                low.starts and low.running is not None,
                low.start_margin,
                step.may_not_start,
            )
        )
    return tuple(facts)


def strays_of(steps: Steps, found: Sequence[Spread]) -> tuple[Stray, ...]:
    """How far each usable step may stray, as it was sampled."""
    return tuple(
        Stray(step.number, step.label, spread.together, spread.alone, spread.stops, spread.exceeds)
        for step, spread in zip(steps, found, strict=False)
        if step.shown is not None
    )


def expected_of(step: Step[Any]) -> tuple[Expected, ...]:
    """Speed, motor volts and line current of a step that may be used."""
    point = step.shown_point if isinstance(step, MachineStep) else None
    if point is None or not step.bands or not isinstance(step, MachineStep):
        return ()
    found = [Expected(SPEED, point.speed_rpm, step.bands[SPEED.key])]
    # With nothing in the line they are the supply's own: nothing of the regulator to prove.
    if abs(step.impedance_ohm) >= _THROUGH:
        found.append(Expected(MOTOR_VOLTS, point.motor_voltage_v, step.bands[MOTOR_VOLTS.key]))
    return (*found, Expected(LINE_CURRENT, point.line_current_a, step.bands[LINE_CURRENT.key]))


# ---------------------------------------------------------------- Measure


def behind(fan: MachineFan, step: Step[Any]) -> Behind | None:
    """A step as Measure looks at it; None where nothing stands in the line, or the step may not be used."""
    if not isinstance(step, MachineStep) or not step.usable or step.impedance_ohm == 0:
        return None
    source = Source(fan.supply.voltage_v, fan.supply.frequency_hz, step.impedance_ohm)

    def torque(speed_rpm: FloatArray) -> tuple[FloatArray, FloatArray, FloatArray]:
        return torque_behind(fan, source, speed_rpm)

    def speed_band(belief: Belief) -> tuple[Band, float]:
        (found,) = step_bands(belief, fan.supply, [step.impedance_ohm])
        return found.speed_rpm, found.middle_speed_rpm

    return Behind(torque, speed_band, source)


def torque_behind(
    fan: MachineFan, source: Source, speed_rpm: FloatArray
) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Motor torque on a source over speed: the likeliest motor's, and where nine in ten of the others lie."""
    belief = fan.belief
    slip = 1 - speed_rpm / synchronous_speed_rpm(belief.datum.poles, source.frequency_hz)
    volts, z = np.array(source.voltage_v), np.array(source.impedance_ohm)
    best = torque_nm(belief.motor.respond(slip, source.frequency_hz), volts, z)
    drawn = belief.model.motor(belief.theta[..., None])
    low, high = np.percentile(torque_nm(drawn.respond(slip, source.frequency_hz), volts, z), [5, 95], axis=0)
    return best, low, high


# ---------------------------------------------------------------- why


def _impedance(step: Step[Any]) -> complex:
    return step.impedance_ohm if isinstance(step, MachineStep) else 0j


def _signed(imaginary: float) -> str:
    return f"{'+' if imaginary >= 0 else '−'} j{q.plain(abs(imaginary))}"


def _speed(case: MachineCase, step: Step[Any]) -> Why:
    point, z = point_of(step), _impedance(step)
    return Why(
        f"Speed at step {step.number}, {step.joins}",
        shown(point.speed_rpm, step.speed_band, "rpm").text,
        "T_motor(n, V_m) = T_f + (T_full − T_f)(n/n_full)^e",
        (
            f"Z in the line = {z.real:.0f} {_signed(z.imag)} Ω leaves V_m = {q.plain(point.motor_voltage_v)} V",
            f"{q.plain(point.torque_nm)} N·m = {load_words(case, point.speed_rpm)}",
            f"band: percentiles 5 and 95 of {case.subject.belief.draws_kept} motors that fit the readings, parts within "
            f"tolerance, and the model's own {100 * case.subject.belief.model.speed_error:.2g} %",
        ),
        case.subject.assumptions,
        LINEAR,
        "Equal torques, reached from rest, stable (docs/machine.md)",
    )


def _motor_volts(case: MachineCase, step: Step[Any]) -> Why:
    point = point_of(step)
    y, z, volts = admittance_s(case.subject, point), _impedance(step), case.subject.supply.voltage_v
    across = f"{q.plain(point.motor_voltage_v)} V and {q.plain(point.series_voltage_v)} V"
    # What is all ohms adds up almost in a line with a motor near full power factor; what is all reactance does not.
    angle = abs(np.degrees(np.angle(z * y))) if z else 0.0
    return Why(
        f"Motor volts at step {step.number}",
        shown(point.motor_voltage_v, step.bands.get(MOTOR_VOLTS.key), "V").text,
        "V_m = V / |1 + Z Y|",
        (
            f"Z = {z.real:.0f} {_signed(z.imag)} Ω, Y = {1000 * y.real:.3g} {_signed(1000 * y.imag)} mS "
            f"at slip {point.slip:.2f}",
            f"{volts:.0f} V / {abs(1 + z * y):.3f} = {q.plain(point.motor_voltage_v)} V; volts of motor and "
            f"regulator, {across}, stand {angle:.0f}° apart",
        ),
        case.subject.assumptions,
        LINEAR,
        CIRCUIT,
    )


def _amps(case: MachineCase, step: Step[Any]) -> Why:
    point = point_of(step)
    siemens, volts = q.worked(
        point.line_current_a,
        lambda i: q.show(i, q.CURRENT),
        lambda y, v: y * v / 1000,
        1000 * abs(admittance_s(case.subject, point)),
        point.motor_voltage_v,
    )
    return Why(
        f"Line amps at step {step.number}",
        shown_amps(point.line_current_a, step.bands.get(LINE_CURRENT.key)).text,
        "I = |Y| V_m",
        (f"{siemens} mS × {volts} V at slip {point.slip:.2f} = {q.show(point.line_current_a, q.CURRENT)}",),
        case.subject.assumptions,
        LINEAR,
        CIRCUIT,
    )


def _regulator_volts(case: MachineCase, step: Step[Any]) -> Why:
    point, z = point_of(step), abs(_impedance(step))
    return Why(
        f"Volts across the regulator at step {step.number}",
        f"{q.plain(point.series_voltage_v)} V",
        "V_Z = I |Z|",
        (f"{q.show(point.line_current_a, q.CURRENT)} × {z:.0f} Ω = {q.plain(point.series_voltage_v)} V",),
        case.subject.assumptions,
        LINEAR,
        "Ohm's law for phasors; near resonance it passes the supply",
    )


def heat_of(assumed: str, source: str) -> Explain:
    """Explanation of the regulator's heat, by what of its parts is counted."""

    def told(case: Case[Any, Any, Any], step: Step[Any]) -> Why:
        point, z = point_of(step), _impedance(step)
        return Why(
            f"Heat in the regulator at step {step.number}",
            f"{q.plain(point.series_loss_w, 2)} W",
            "P = I² Re Z",
            (f"{q.plain(point.line_current_a)}² A² × {z.real:.3g} Ω = {q.plain(point.series_loss_w, 2)} W",),
            (assumed,),
            "Parts as chosen; good joints.",
            source,
        )

    return told


def _start(case: MachineCase, step: Step[Any]) -> Why:
    needed = needed_solution(step)
    solution = needed or (step.solution if isinstance(step, MachineStep) else None)
    if solution is None:
        raise InputError(
            "of", f"step {step.number}", "a step with a value", "nothing stands in the line here"
        )
    value, numbers = start_words(case, solution, step.bands.get(START))
    return Why(
        f"Torque at rest at step {step.number}, over break-away",
        value,
        "T(n = 0) / (1.5 T_f)",
        (numbers,),
        (f"an assumption until a run-down is timed: {friction_assumed()}",),
        "A bearing that has stood, or cold grease, may hold faster.",
        "docs/decisions/0004-starting.md",
    )


def needed_inverse(step: Step[Any]) -> Inverse | None:
    """The solved answer behind what a wanted speed asks for; None at full speed, or where no speed is wanted."""
    return step.aimed.needed if isinstance(step, SeriesStep) and step.aimed else None


def needed_solution(step: Step[Any]) -> Solution | None:
    """The operating points with what a wanted speed asks for."""
    inverse = needed_inverse(step)
    return inverse.solution if inverse else None


STEP: Mapping[str, Explain] = {
    **EXPLAINED,
    "speed": _speed,
    "motor-volts": _motor_volts,
    "amps": _amps,
    "regulator-volts": _regulator_volts,
    "start": _start,
}
"""By what is asked for at a step [-]"""
