"""The steps of a transformer with taps, or of the ideal taps while none is chosen; and what a miss at one means."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import partial

from fenwit.core import quantity as q
from fenwit.core.calibrate.bands import Band, StepBands, drawn
from fenwit.core.calibrate.fit import Belief
from fenwit.core.job.machine import MachineFan, MachineRunning, MachineStep
from fenwit.core.job.steps import (
    LINE_CURRENT,
    MOTOR_VOLTS,
    SPEED,
    Need,
    Place,
    PlaceKind,
    Reason,
    ReasonKind,
    Step,
    Steps,
    Told,
    shown_amps,
)
from fenwit.core.memory import remembered
from fenwit.core.methods.common.series import (
    Aimed,
    InLine,
    SeriesStep,
    direct_of,
    facts_of,
    need_of,
    no_position,
    step_of,
    strays_of,
    torque_behind,
)
from fenwit.core.methods.seam import Behind, Expected, FloatArray, Missed, Stray
from fenwit.core.methods.stepped_voltage.design import SteppedDesign
from fenwit.core.methods.stepped_voltage.rating import Rated, rate
from fenwit.core.methods.stepped_voltage.settings import (
    TapAimed,
    TappedPoint,
    aimed,
    bands_on,
    ideal_unit,
    on_taps,
    sampled_ohm,
    source_of,
)
from fenwit.core.operating import Source, StepVerdict
from fenwit.core.regulator.series import SettingKind, values_for_speeds
from fenwit.core.regulator.transformer import Transformer, Winding
from fenwit.core.size.profile import StepFacts
from fenwit.core.size.rated import MAINS
from fenwit.core.size.tolerance import Spread, spreads

MOTOR_AMPS = "motor_current_a"
"""Key of their band"""
_NEAR = 0.03
"""Volts of a tap over those a miss looks like, within which that tap is named [-]"""


@dataclass(frozen=True)
class TapVolts:
    """What feeds the motor at a step."""

    label: str
    """Empty for the ideal tap of a wanted speed [-]"""
    tap_v: float
    """Open, on rated supply [V]"""


@dataclass(frozen=True, eq=False)
class TappedStep(SeriesStep[TapVolts]):
    """A step on a tap."""

    unit: Transformer | None = None


@dataclass(frozen=True, eq=False)
class Regulated:
    """A transformer on a believed fan: rated, and with the bands of every step."""

    rated: Rated
    bands: tuple[tuple[StepBands, Band], ...]


@remembered
def regulated(fan: MachineFan, design: SteppedDesign) -> Regulated:
    """A transformer on a fan; raises InputError as `rate` does."""
    rated = rate(fan, design)
    return Regulated(rated, bands_on(fan, rated.unit, design.step_v))


def volts_text(volts: float) -> str:
    """Volts of a tap."""
    return f"{volts:.0f} V" if abs(volts - round(volts)) < 1e-6 else f"{volts:.1f} V"


def _asked(fan: MachineFan, unit: Transformer, wanted_rpm: Sequence[float]) -> dict[float, Aimed]:
    auto = unit.winding is Winding.AUTO
    return aimed(fan, unit, [w for w in wanted_rpm if not (auto and fan.is_full(w))])


def _need(fan: MachineFan, wanted_rpm: float | None, found: Aimed | None) -> Need[TapVolts] | None:
    value = found.needed.value if found else None
    return need_of(
        fan,
        wanted_rpm,
        found,
        volts_text(value) if value else "none",
        TapVolts("", value) if value else None,
    )


def ideal(fan: MachineFan, wanted_rpm: Sequence[float], glance: bool) -> tuple[TappedStep, ...]:
    """The tap that gives each wanted speed exactly, of an auto winding in the smallest frame that bears it."""
    return ideal_on(fan, ideal_unit(fan, Winding.AUTO, tuple(wanted_rpm)), wanted_rpm)


def ideal_on(fan: MachineFan, unit: Transformer, wanted_rpm: Sequence[float]) -> tuple[TappedStep, ...]:
    """The same on a stated transformer."""
    asked = _asked(fan, unit, wanted_rpm)
    need = partial(_need, fan)
    found = []
    for number, wanted in enumerate(wanted_rpm, start=1):
        aim = asked.get(wanted)
        value = aim.needed.value if aim else None
        if aim is None:
            tapped = _tapped(fan, unit, direct_of(fan), unit.supply_v, None)
        else:
            words = f"{volts_text(value)} tap" if value else "no tap"
            setting = TapVolts("", value) if value else None
            line = InLine("", words, setting, aim.impedance_ohm, aim.needed.solution, aim.bands, value)
            tapped = line, aim.mains_a if isinstance(aim, TapAimed) else None
        found.append(_step(fan, unit, number, wanted, need(wanted, aim), tapped, aim))
    return tuple(found)


def _tapped(
    fan: MachineFan, unit: Transformer, line: InLine[TapVolts], tap_v: float, mains: Band | None
) -> tuple[InLine[TapVolts], Band | None]:
    """The direct position: its steady state has the idle transformer beside it."""
    ((bands, mains_a),) = bands_on(fan, unit, [tap_v])
    (solution,) = on_taps(fan, unit, [tap_v])
    return replace(line, solution=solution, bands=bands), mains or mains_a


def _step(
    fan: MachineFan,
    unit: Transformer,
    number: int,
    wanted: float | None,
    need: Need[TapVolts] | None,
    tapped: tuple[InLine[TapVolts], Band | None],
    aim: Aimed | None,
    flux_words: str = "",
) -> TappedStep:
    line, mains_a = tapped
    made = step_of(fan, number, wanted, need, line, aim)
    step = TappedStep(**vars(made), unit=unit)
    if mains_a is not None and step.bands:
        step = replace(
            step, bands={**step.bands, LINE_CURRENT.key: mains_a, MOTOR_AMPS: step.bands[LINE_CURRENT.key]}
        )
    if isinstance(step.running, MachineRunning) and isinstance(step.running.point, TappedPoint):
        step = replace(step, running=_told(step.running, step.running.point, line, mains_a))
    if flux_words:
        step = replace(step, verdict=StepVerdict.BARRED, reasons=(Reason(ReasonKind.OVER_VOLTS, flux_words),))
    return step


def _told(
    running: MachineRunning, point: TappedPoint, line: InLine[TapVolts], mains_a: Band | None
) -> MachineRunning:
    """The path with the mains' amps at the supply, and the transformer's two losses at its place."""
    supply, regulator, *rest = running.places
    amps = shown_amps(point.mains_current_a, mains_a)
    supply = replace(supply, values=(*supply.values[:1], Told(amps.text, "line-amps"), *supply.values[1:]))
    regulator = Place(
        PlaceKind.REGULATOR,
        (
            Told(f"{q.plain(point.copper_w, 2)} W copper", "regulator-heat"),
            Told(f"{q.plain(point.core_w, 2)} W iron", "regulator-heat"),
        ),
        regulator.power_w,
        regulator.loss_w,
        name=line.joins,
    )
    return replace(running, places=(supply, regulator, *rest))


def steps(
    fan: MachineFan, design: SteppedDesign, wanted_rpm: Sequence[float], glance: bool
) -> tuple[TappedStep, ...]:
    """The steps as built, beside the speeds that were wanted of them."""
    found = regulated(fan, design)
    unit = found.rated.unit
    asked = _asked(fan, unit, wanted_rpm)
    made: list[TappedStep] = []
    for k in range(max(design.steps, len(wanted_rpm))):
        wanted = wanted_rpm[k] if k < len(wanted_rpm) else None
        aim = None if wanted is None else asked.get(wanted)
        need = _need(fan, wanted, aim)
        if k >= design.steps:
            none = no_position(k + 1, wanted, need, "transformer", aim)
            made.append(TappedStep(**vars(none), unit=unit))
            continue
        made.append(
            _step(fan, unit, k + 1, wanted, need, _built(fan, design, found, k), aim, found.rated.flux_words)
        )
    return tuple(made)


def _built(fan: MachineFan, design: SteppedDesign, found: Regulated, k: int) -> tuple[InLine[TapVolts], Band]:
    label, volts = design.label(k), design.step_v[k]
    words = "direct" if label == "direct" else f"{label} tap"
    bands, mains_a = found.bands[k]
    z = found.rated.unit.impedance_ohm(volts, fan.supply.frequency_hz)
    return InLine(label, words, TapVolts(label, volts), z, found.rated.nominal[k], bands, volts), mains_a


# ---------------------------------------------------------------- acceptance, straying, proving


def facts(fan: MachineFan, design: SteppedDesign, found: Steps, mains: float) -> tuple[StepFacts, ...]:
    """What acceptance looks at; solved at ±10 % mains."""
    solutions = regulated(fan, design).rated.solutions
    return facts_of(found, solutions[MAINS.index(0.9)], solutions[MAINS.index(1.1)])


@remembered
def _spreads(fan: MachineFan, design: SteppedDesign, mains: float) -> tuple[Spread, ...]:
    unit = regulated(fan, design).rated.unit
    taps = design.step_v
    return spreads(
        fan.belief,
        fan.supply,
        [unit.impedance_ohm(v, fan.supply.frequency_hz) for v in taps],
        sampled_ohm(fan, unit, taps),
        mains,
        [unit.ratio(v) * fan.supply.voltage_v for v in taps],
    )


def strays(fan: MachineFan, design: SteppedDesign, found: Steps, mains: float) -> tuple[Stray, ...]:
    """How far each step may stray."""
    return strays_of(found, _spreads(fan, design, mains))


def expected(fan: MachineFan, design: SteppedDesign | None, step: Step[TapVolts]) -> tuple[Expected, ...]:
    """Speed, motor volts, and the mains' amps of a step that may be used."""
    point = step.shown_point if isinstance(step, MachineStep) else None
    if not isinstance(step, MachineStep) or not step.bands or not isinstance(point, TappedPoint):
        return ()
    found = [Expected(SPEED, point.speed_rpm, step.bands[SPEED.key])]
    if step.impedance_ohm != 0:
        found.append(Expected(MOTOR_VOLTS, point.motor_voltage_v, step.bands[MOTOR_VOLTS.key]))
    return (*found, Expected(LINE_CURRENT, point.mains_current_a, step.bands[LINE_CURRENT.key]))


def where(fan: MachineFan, design: SteppedDesign, step: Step[TapVolts]) -> str:
    """The contact that is closed at a step."""
    return f"1.{step.number}" if step.number <= design.steps else ""


def behind(fan: MachineFan, step: Step[TapVolts]) -> Behind | None:
    """A step as Measure looks at it; None where the motor hangs on the supply itself, or the step may not be used."""
    if not isinstance(step, TappedStep) or not step.usable or step.impedance_ohm == 0:
        return None
    assert step.setting is not None
    assert step.unit is not None
    tap_v, unit = step.setting.tap_v, step.unit
    source = source_of(unit, tap_v, fan.supply.voltage_v, fan.supply.frequency_hz)

    def torque(speed_rpm: FloatArray) -> tuple[FloatArray, FloatArray, FloatArray]:
        return torque_behind(fan, source, speed_rpm)

    def speed_band(belief: Belief) -> tuple[Band, float]:
        (found,) = drawn(belief, fan.supply, [source.impedance_ohm], [source.voltage_v]).bands(belief)
        return found.speed_rpm, found.middle_speed_rpm

    return Behind(torque, speed_band, Source(source.voltage_v, source.frequency_hz, source.impedance_ohm))


def missed(fan: MachineFan, design: SteppedDesign | None, step: Step[TapVolts], miss: Missed) -> str:
    """What a miss means: as if another tap fed the motor."""
    if miss.value == 0:
        return (
            f": the fan stands. Contact of {step.label or 'this step'} not making, a section of the winding open, or the "
            "thermal cut-out in it has opened."
        )
    if miss.quantity is not SPEED or step.setting is None:
        return ". Check the meter, the supply volts and which lead of the transformer this contact has."
    (inverse,) = values_for_speeds(
        fan.belief.motor, fan.belief.load, fan.supply, SettingKind.VOLTAGE, [miss.value]
    )
    if inverse.value is None:
        return ", and no tap would explain it: look for drag, a weak run capacitor or low supply volts."
    other = _other_tap(design, step.setting.tap_v, inverse.value)
    if other:
        return f", as if the {other} tap fed it: are the leads of these two exchanged?"
    tail = " The other steps hold, so the fan itself is sound." if miss.low and miss.others_hold else ""
    return (
        f", as if {inverse.value:.0f} V fed it instead of {step.setting.tap_v:.0f} V. Read the motor volts at this step, "
        f"and the supply's; warm, a joint that drops volts.{tail}"
    )


def _other_tap(design: SteppedDesign | None, own_v: float, like_v: float) -> str:
    if design is None:
        return ""
    others = [v for v in design.step_v if v != own_v]
    near = min(others, key=lambda v: abs(v - like_v), default=None)
    if near is None or abs(near / like_v - 1) > _NEAR or abs(near - like_v) > abs(own_v - like_v):
        return ""
    return "direct" if design.direct and near == design.rated_v else f"{near:g} V"
