"""What Measure shows: every reading against the model, torque over speed, how the bands shrank, what to read next."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from fenwit.core import quantity as q
from fenwit.core.calibrate.datum import Datum, OhmsAt, Warmth
from fenwit.core.calibrate.fit import Belief, ReadingCheck, believe
from fenwit.core.calibrate.slips import likely_cause
from fenwit.core.calibrate.warm import WindingRise, inertia_kg_m2, run_up_s, winding_rise
from fenwit.core.calibrate.worth import Candidate, Worth, candidates, parts_to_try, worth
from fenwit.core.caution import Stage
from fenwit.core.errors import InputError
from fenwit.core.frame.asked import Asked, known, machine_in
from fenwit.core.frame.spot import NewRun, Part, Spot
from fenwit.core.job.machine import MachineFan, MachineStep
from fenwit.core.job.state import InLine, JobState, RunState, run_of
from fenwit.core.job.steps import Steps
from fenwit.core.job.taps import TapSheet, tap_sheet
from fenwit.core.methods.common.series import torque_behind
from fenwit.core.methods.seam import Behind
from fenwit.core.motor.service import ROOM_C
from fenwit.core.operating import Source

FloatArray = NDArray[np.float64]
_CURVE = 61
_NEXT = 3
_LITTLE = 0.008
"""A band that narrows by less than this share of full speed makes no step another one [-]"""
_SAME_PART = 0.01
_WELL, _POOR = 1.15, 2.5
"""Doubt up to which a motor is called like the model, and from which it is called little like it [-]"""
DIMENSIONS = {
    "speed_rpm": q.SPEED, "line_current_a": q.CURRENT, "input_power_w": q.POWER, "capacitor_voltage_v": q.VOLTAGE,
    "auxiliary_current_a": q.CURRENT, "motor_voltage_v": q.VOLTAGE, "main_resistance_ohm": q.RESISTANCE,
    "auxiliary_resistance_ohm": q.RESISTANCE, "hot_resistance_ohm": q.RESISTANCE, "locked_rotor_current_a": q.CURRENT,
    "run_capacitance_f": q.CAPACITANCE,
}  # fmt: skip
NAMES = {
    "speed_rpm": "rpm", "line_current_a": "line amps", "input_power_w": "input watts", "power_factor": "power factor",
    "capacitor_voltage_v": "volts across run capacitor", "auxiliary_current_a": "auxiliary amps",
    "motor_voltage_v": "motor volts", "main_resistance_ohm": "main winding", "full_speed_rpm": "full speed",
    "auxiliary_resistance_ohm": "auxiliary winding", "hot_resistance_ohm": "main winding, hot",
    "locked_rotor_current_a": "amps, rotor held",
    "run_capacitance_f": "run capacitor",
}  # fmt: skip


@dataclass(frozen=True)
class CheckRow:
    """A reading beside what the model says of it, and what the others imply."""

    name: str
    quantity: str
    run: int | None
    """Key of the run; None at full speed [-]"""
    where: str
    label: str
    read: str
    expected: str
    sigmas: float
    odd: bool
    implied: str
    cause: str
    spot: Spot
    """Where it is typed [-]"""


@dataclass(frozen=True)
class Curve:
    """A line over speed with its band."""

    label: str
    torque_nm: tuple[float, ...]
    low_nm: tuple[float, ...]
    high_nm: tuple[float, ...]
    step: int | None
    """Which step it belongs to; 0 is full speed, None the load [-]"""


@dataclass(frozen=True)
class CrossPoint:
    """An operating point with its band."""

    step: int
    label: str
    speed_rpm: float
    torque_nm: float
    low_rpm: float
    high_rpm: float
    text: str


@dataclass(frozen=True)
class TorquePlot:
    """Motor and load torque over speed."""

    speed_rpm: tuple[float, ...]
    load: Curve
    motors: tuple[Curve, ...]
    points: tuple[CrossPoint, ...]


@dataclass(frozen=True)
class Shrink:
    """The band of a step after one more reading."""

    after: str
    """What was read last [-]"""
    low_rpm: float
    high_rpm: float
    middle_rpm: float
    half_width_text: str


@dataclass(frozen=True)
class NextShown:
    """A reading worth taking."""

    words: str
    gives: str
    spot: Spot
    """Where it is typed; a run that is not there yet is opened first [-]"""


@dataclass(frozen=True)
class StudyShown:
    """Everything Measure shows beside the readings."""

    checks: tuple[CheckRow, ...]
    plot: TorquePlot | None
    shrinks: tuple[Shrink, ...]
    shrink_step: int
    next: tuple[NextShown, ...]
    rise_text: str
    inertia_text: str
    lost_text: str
    fit_text: str
    """How well this motor fits the model, and what that does to the bands [-]"""
    fits: bool
    enough_text: str = ""
    """That no further reading would narrow what matters; empty while one would [-]"""


def full_readings(state: JobState) -> dict[str, tuple[float, float]]:
    """Where readings at full speed and with the power off are expected, before they are taken.

    Parameters
    ----------
    state : JobState
        The job [-]

    Returns
    -------
    dict
        Percentiles 5 and 95 by quantity; empty while too little is known [any]
    """
    fan = machine_in(state)
    if fan is None:
        return {}
    values = fan.belief.model.predicted(fan.belief.theta)
    return {
        name: (float(low), float(high))
        for name in DIMENSIONS
        if name in values
        for low, high in (np.percentile(values[name], [5, 95]),)
    }


def study(state: JobState, step: int = 1, order: Sequence[str] = ()) -> StudyShown:
    """Compute what Measure shows.

    Parameters
    ----------
    state : JobState
        The job [-]
    step : int
        The step whose band is followed reading by reading, from 1 [-]
    order : sequence of str
        Names of readings in the order in which they were taken, as `CheckRow.name` has them [-]

    Returns
    -------
    StudyShown
        Checks, curves, how the band shrank, what to read next [-]

    Raises
    ------
    InputError
        Values that contradict each other.
    """
    rise = _rise(state)
    job = known(state)
    if job is None or not isinstance(job.subject, MachineFan):
        return StudyShown((), None, (), step, (), rise[1], "", "", "", True)
    fan, steps = job.subject, job.steps()
    belief = fan.belief
    taps = tap_sheet(state, belief, fan.supply)
    chosen = next((s for s in steps if s.number == step), steps[0] if steps else None)
    seen = {s.number: b for s in steps if (b := job.regulation.behind(fan, s)) is not None}
    following, enough = _following(job, fan, steps, seen)
    return StudyShown(
        checks=tuple(_check(state, belief, c, taps) for c in belief.checks),
        plot=_plot(fan, steps, seen),
        shrinks=_shrinks(fan, seen.get(chosen.number) if chosen else None, order),
        shrink_step=chosen.number if chosen else 0,
        next=following,
        rise_text=rise[1],
        inertia_text=_inertia(state, fan),
        lost_text=f"{belief.draws_lost} of the sampled motors would not run and are left out"
        if belief.draws_lost
        else "",
        fit_text=_fit_words(belief),
        fits=belief.model.doubt.most < _POOR,
        enough_text=enough,
    )


def _fit_words(belief: Belief) -> str:
    """One line: as alike as such motors are, or by how much less, and what that does to the bands."""
    doubt = belief.model.doubt
    if doubt.most < _WELL:
        return "This motor is like the model as far as it was read: the bands are as narrow as the readings allow."
    most = max(
        ("amps, watts and volts", doubt.electric),
        ("speeds", doubt.speed),
        ("ohms", doubt.ohms),
        key=lambda d: d[1],
    )
    how = "not quite like" if doubt.most < _POOR else "little like"
    return (
        f"This motor is {how} the model: its {most[0]} differ {most[1]:.1f} × as far as usual, and the bands "
        "are wider for it. Read again what stands out below, or read a speed below full: that tells most."
    )


def _following(
    job: Asked, fan: MachineFan, steps: Steps, seen: dict[int, Behind]
) -> tuple[tuple[NextShown, ...], str]:
    """The readings worth most, by what they would do to the bands of the steps; none, and why, where it is enough."""
    belief, supply = fan.belief, fan.supply
    parts = parts_to_try(belief)
    sources = [b.like for b in seen.values()]
    numbers = list(seen)
    if not sources and parts:
        sources = [Source(supply.voltage_v, supply.frequency_hz, parts[0][0])]
    found = worth(belief, supply, sources, candidates(belief, parts))
    now = {s.number: s.speed_band.half_width for s in steps if s.speed_band}
    little = _LITTLE * job.full_rpm
    gains = {w.candidate: _gain(w, numbers, now) for w in found}
    telling = [w for w in found if gains[w.candidate] >= little]
    if telling or not now:
        return tuple(_next(job.state, w, numbers, now) for w in telling[:_NEXT]), ""
    most = max(gains.values(), default=0.0)
    return (), (
        f"No further reading would narrow any band by {'a whole rpm' if most < 1 else f'more than ±{most:.0f} rpm'}: "
        "enough is read."
    )


def _gain(found: Worth, numbers: Sequence[int], now: dict[int, float]) -> float:
    """By how much a reading would narrow the band of the step that gains most [rpm]"""
    i = found.step
    before, after = found.before_rpm[i], found.half_width_rpm[i]
    own = now.get(numbers[i], before) if i < len(numbers) else before
    return own * (1 - after / before) if before > 0 else 0.0


def _show(quantity: str, value: float) -> str:
    if quantity == "power_factor":
        return f"{value:.3f}"
    if quantity == "speed_rpm":
        return f"{value:.0f} rpm"
    return q.show(value, DIMENSIONS[quantity])


def _check(state: JobState, belief: Belief, c: ReadingCheck, taps: TapSheet | None) -> CheckRow:
    run = _runs_used(state)[c.run] if c.run is not None else None
    cause = ""
    if c.odd:
        others: dict[str, dict[str, float]] = {}
        if taps is not None and c.run is None:
            for row in taps.rows[1:]:
                first = row.speeds[0]
                if first.amps is not None and first.speed is not None:
                    others[row.role] = {"line_current_a": first.amps.value, "speed_rpm": first.speed.value}
        cause = likely_cause(belief, c, others)
    return CheckRow(
        c.name,
        c.quantity,
        run.key if run else None,
        run.label if run else "power off" if c.quantity.endswith("_ohm") else "full speed",
        NAMES["full_speed_rpm" if c.name == "full_speed_rpm" else c.quantity],
        _show(c.quantity, c.read),
        _show(c.quantity, c.expected),
        c.sigmas,
        c.odd,
        _show(c.quantity, c.implied),
        cause,
        _typed_at(state, c, run),
    )


def _typed_at(state: JobState, c: ReadingCheck, run: RunState | None) -> Spot:
    quantity = "speed_rpm" if c.name == "full_speed_rpm" else c.quantity
    if run is not None:
        return Spot(Stage.MEASURE, f"run:{run.key}:{quantity}")
    if quantity in dict(state.readings):
        return Spot(Stage.MEASURE, f"reading:{quantity}")
    field = _ON_PLATE.get(quantity)
    return Spot(Stage.IDENTIFY, f"fan:{field}", Part.NAMEPLATE) if field else Spot(Stage.MEASURE)


_ON_PLATE = {
    "speed_rpm": "rated_speed_rpm", "line_current_a": "rated_current_a", "input_power_w": "rated_power_w",
    "run_capacitance_f": "run_capacitance_f",
}  # fmt: skip
"""Where a reading that nobody took stands on the nameplate"""


def _runs_used(state: JobState) -> list[RunState]:
    return [r for r in state.runs if run_of(state, r) is not None]


def _list(values: FloatArray) -> tuple[float, ...]:
    return tuple(float(f"{v:.5g}") for v in values)


def _curve(label: str, torque: tuple[FloatArray, FloatArray, FloatArray], step: int) -> Curve:
    best, low, high = torque
    return Curve(label, _list(best), _list(low), _list(high), step)


def _plot(fan: MachineFan, steps: Steps, seen: dict[int, Behind]) -> TorquePlot:
    """Torque of the motor at full and behind the regulator at every step, against the fan's."""
    belief = fan.belief
    speed = np.linspace(0.0, 1.0, _CURVE) * fan.synchronous_rpm
    loads = belief.model.load(belief.theta).torque_nm(speed)
    low, high = np.percentile(loads, [5, 95], axis=0)
    load = Curve("load", _list(belief.load.torque_nm(speed)), _list(low), _list(high), None)
    motors = [_curve("full", torque_behind(fan, fan.supply, speed), 0)]
    full, band = fan.full_point, fan.direct_bands.speed_rpm
    points = [
        CrossPoint(
            0, "full", full.speed_rpm, full.torque_nm, band.low, band.high, f"{full.speed_rpm:.0f} rpm"
        )
    ]
    for s in steps:
        point = s.shown_point if isinstance(s, MachineStep) else None
        behind, band_here = seen.get(s.number), s.speed_band
        if point is None or behind is None or band_here is None:
            continue
        motors.append(_curve(f"step {s.number}", behind.torque_nm(speed), s.number))
        points.append(
            CrossPoint(
                s.number, f"step {s.number}", point.speed_rpm, point.torque_nm, band_here.low, band_here.high,
                f"{point.speed_rpm:.0f} rpm",
            )
        )  # fmt: skip
    return TorquePlot(_list(speed), load, tuple(motors), tuple(points))


def _shrinks(fan: MachineFan, behind: Behind | None, order: Sequence[str]) -> tuple[Shrink, ...]:
    """The band of a step as it was with the first reading, the first two, and so on."""
    if behind is None:
        return ()
    datum = fan.datum
    stripped = Datum(
        datum.kind, datum.poles, datum.rated_voltage_v, datum.rated_frequency_hz, datum.supply_voltage_v,
        datum.frequency_hz, datum.full_speed_rpm, run_capacitance_f=datum.run_capacitance_f,
    )  # fmt: skip
    found: list[Shrink] = []
    now, said = stripped, "nameplate and rpm"
    queue = [name for name in order if _has(datum, name)]
    for i in range(len(queue) + 1):
        try:
            band, middle = behind.speed_band(believe(now))
        except InputError:
            band = None  # not enough to say anything yet
        if band is not None and band.high > 0:
            found.append(Shrink(said, band.low, band.high, middle, f"± {band.half_width:.0f} rpm"))
        if i < len(queue):
            now, said = _with(now, datum, queue[i]), _said(datum, queue[i])
    return tuple(found)


def _has(datum: Datum, name: str) -> bool:
    if name.startswith("run:"):
        _, run, quantity = name.split(":")
        return int(run) < len(datum.runs) and datum.runs[int(run)].get(quantity) is not None
    return name != "run_capacitance_f" and any(name == read for read, _ in datum.at_full_speed())


def _with(now: Datum, full: Datum, name: str) -> Datum:
    """One more reading of the full datum."""
    if not name.startswith("run:"):
        return replace(now, **{name: getattr(full, name)})
    _, number, quantity = name.split(":")
    source = full.runs[int(number)]
    reading = source.get(quantity)
    assert reading is not None
    bare = replace(source, readings=())
    for i, run in enumerate(now.runs):
        if replace(run, readings=()) == bare:
            grown = replace(run, readings=(*run.readings, (quantity, reading)))
            return replace(now, runs=(*now.runs[:i], grown, *now.runs[i + 1 :]))
    return replace(now, runs=(*now.runs, replace(source, readings=((quantity, reading),))))


def _said(datum: Datum, name: str) -> str:
    if not name.startswith("run:"):
        return NAMES[name]
    _, number, quantity = name.split(":")
    return f"{NAMES[quantity]}, {datum.runs[int(number)].label}"


def _next(state: JobState, found: Worth, numbers: Sequence[int], now: dict[int, float]) -> NextShown:
    """A reading with what it would give; the band as it stands is the step's own, scaled as it would shrink."""
    c = found.candidate
    i = found.step
    before, after = found.before_rpm[i], found.half_width_rpm[i]
    name = "a middle step"
    if i < len(numbers):
        name = f"step {numbers[i]}"
        own = now.get(numbers[i], before)
        before, after = own, after * own / before if before > 0 else after
    gives = f"band on {name} from ±{before:.0f} to ±{after:.0f} rpm"
    return NextShown(c.words, gives, _spot(state, c))


def _spot(state: JobState, c: Candidate) -> Spot:
    """Where a reading is typed: at full speed, in a run that is there, or in one still to be opened."""
    z = c.impedance_ohm
    if z is None:
        return Spot(Stage.MEASURE, f"reading:{c.quantity}")
    there = next((r for r in state.runs if _stands_in(state, r, z)), None)
    if there is not None:
        return Spot(Stage.MEASURE, f"run:{there.key}:{c.quantity}")
    what = InLine.CAPACITOR if z.imag else InLine.RESISTOR
    return Spot(Stage.MEASURE, c.quantity, new_run=NewRun(what.value, c.part_text))


def _stands_in(state: JobState, run: RunState, z: complex) -> bool:
    """Whether a run has this impedance in the line."""
    if not run.value or run.what is not (InLine.CAPACITOR if z.imag else InLine.RESISTOR):
        return False
    omega = 2 * np.pi * state.supply_frequency_hz
    own = 1 / (1j * omega * run.value) if z.imag else complex(run.value)
    return abs(own / z - 1) < _SAME_PART


def _rise(state: JobState) -> tuple[WindingRise | None, str]:
    """Real temperature rise from cold and hot ohms, as far as they were read."""
    read = dict(state.readings)
    cold, hot = read.get("main_resistance_ohm"), read.get("hot_resistance_ohm")
    if cold is None or hot is None:
        return None, ""
    said = dict(state.windings).get("main_resistance_ohm", OhmsAt())
    if said.warmth is Warmth.WARM:
        # Both readings are of the warm winding: they tell nothing of its rise.
        return None, ""
    room = read.get("cold_temperature_c", ROOM_C)
    found = winding_rise(cold, hot, room if said.celsius is None else said.celsius, room)
    assumed = "" if "cold_temperature_c" in read else ", the room taken as 20 °C"
    return found, (
        f"winding at {found.temperature_c:.0f} °C: {found.rise_k:.0f} ± {1.645 * found.rise_sigma_k:.0f} K over the "
        f"room{assumed}. The motor is computed with its warm ohms."
    )


def _inertia(state: JobState, fan: MachineFan) -> str:
    seconds = dict(state.readings).get("run_up_s")
    if seconds is None:
        return ""
    j = inertia_kg_m2(fan.belief.motor, fan.belief.load, fan.supply, seconds)
    half = Source(0.6 * fan.supply.voltage_v, fan.supply.frequency_hz)
    said = f"inertia {j:.2g} kg·m² from the run-up"
    try:
        slow = run_up_s(fan.belief.motor, fan.belief.load, half, j)
    except InputError:
        return said
    return f"{said}; on 60 % of the volts it would take {slow:.0f} s"
