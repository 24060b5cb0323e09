"""Steps behind a triac: at a control's angles, or at those the wanted speeds ask for; zones, and what is read there."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from fenwit.core import quantity as q
from fenwit.core.calibrate.bands import Band, StepBands
from fenwit.core.job.machine import MachineFan, MachineStep, bands_of, costs_of, judged, running_of
from fenwit.core.job.steps import (
    LINE_CURRENT,
    MOTOR_VOLTS,
    SPEED,
    Need,
    Place,
    PlaceKind,
    Quantity,
    Reason,
    ReasonKind,
    Step,
    Told,
)
from fenwit.core.memory import remembered
from fenwit.core.methods.phase_angle.angles import (
    AtAngle,
    aimed_angles,
    angles_for,
    band_table,
    curve_of,
    glanced_angles,
    glanced_at,
    point_of,
    solved_at,
    travel,
    unbanded,
    waveforms_of,
)
from fenwit.core.methods.phase_angle.design import PhaseDesign
from fenwit.core.methods.seam import (
    Axis,
    Expected,
    Missed,
    Reach,
    ReachBand,
    ReachPoint,
    ReachState,
    Zone,
    ZoneKind,
)
from fenwit.core.operating import Solution, StepVerdict
from fenwit.core.prove.capture import FORM_FACTOR
from fenwit.core.regulator.firing import FiringCurve
from fenwit.core.regulator.firing_points import PhasePoint
from fenwit.core.regulator.phase import Conduction

FIRING = Quantity("firing_angle_deg", "firing angle", q.ANGLE, "°", captured=True, digits=1)
ENDS = Quantity("extinction_angle_deg", "current ends", q.ANGLE, "°", captured=True, digits=1)
APART = Quantity("symmetry_deg", "halves apart", q.ANGLE, "°", captured=True, digits=1, may_be_nothing=True)
MAINS = Quantity("frequency_hz", "mains", q.FREQUENCY, "Hz", captured=True, digits=2)
"""What a scope shows of a chopped wave"""
_ANGLE_DEG, _KNOB_DEG, _APART_DEG, _MAINS_HZ = 1.0, 3.0, 2.0, 0.5
"""What may be off by setting and reading: an angle, a knob by its mark, two halves [°], the mains [Hz]"""
_ENDS_DEG = 1.5
"""How closely the end of the current is read off a scope [°]"""
_BRANCH_GAP = 0.12
"""Neighbouring samples of the curve further apart than this share of full speed lie on two branches [-]"""
_DOUBTED = 0.05
"""Share of the likely motors that may stand before it is said [-]"""
_AVERAGE_NEAR = 0.03


@dataclass(frozen=True)
class Angle:
    """How a triac is fired at a step."""

    firing_deg: float
    """From the mains' zero; 0: fully on [°]"""
    kick: bool = False
    """It comes down from full speed, so it need not start here"""


@dataclass(frozen=True, eq=False)
class PhaseStep(MachineStep[Angle]):
    """A step behind a triac."""

    @property
    def phase_point(self) -> PhasePoint | None:
        """Where it runs."""
        return self.point if isinstance(self.point, PhasePoint) else None


def angle_words(angle_deg: float | None) -> str:
    """A firing angle as it is said."""
    if angle_deg is None:
        return "none"
    return "full on" if angle_deg == 0 else f"{angle_deg:.0f}°"


def where(fan: MachineFan, design: PhaseDesign, step: Step[Angle]) -> str:
    """Where a step lies on the knob, or in the program."""
    return "" if step.setting is None else where_at(fan, design, step.setting.firing_deg)


def where_at(fan: MachineFan, design: PhaseDesign, firing_deg: float) -> str:
    """Where a firing angle lies on the knob, or in the program."""
    if design.network is not None:
        turn = travel(design.network, fan.belief, fan.supply).turn_at(firing_deg)
        return "" if turn is None else f"knob at {100 * turn:.0f} %"
    if firing_deg == 0:
        return "gate held on"
    late = firing_deg - design.unit.edge_deg(fan.supply)
    return f"delay {late / (0.36 * fan.supply.frequency_hz):.2f} ms"


# ---------------------------------------------------------------- steps


def ideal(fan: MachineFan, wanted_rpm: Sequence[float], glance: bool) -> tuple[PhaseStep, ...]:
    """The firing angle that gives each wanted speed exactly."""
    return _steps(fan, None, wanted_rpm, glance)


def steps(
    fan: MachineFan, design: PhaseDesign, wanted_rpm: Sequence[float], glance: bool
) -> tuple[PhaseStep, ...]:
    """The steps of a control, beside the speeds that were wanted of them."""
    return _steps(fan, design, wanted_rpm, glance)


def _steps(
    fan: MachineFan, design: PhaseDesign | None, wanted_rpm: Sequence[float], glance: bool
) -> tuple[PhaseStep, ...]:
    kick = design is not None and design.kick
    wanted = [fan.full_rpm if fan.is_full(w) else w for w in wanted_rpm]
    asked = (glanced_angles if glance else aimed_angles)(fan, wanted, kick)
    angles: list[float | None] = list(design.firing_deg) if design else [asked[w] for w in wanted]
    solved = (glanced_at if glance else solved_at)(fan, [a for a in angles if a is not None], kick)
    needs = _needs(fan, wanted, asked, kick, {a: f.solution for a, f in solved.items()})
    found = []
    for k in range(max(len(angles), len(wanted))):
        number, aim = k + 1, wanted_rpm[k] if k < len(wanted) else None
        need = needs[k] if k < len(wanted) else None
        angle = angles[k] if k < len(angles) else None
        if angle is not None:
            found.append(_at(fan, design, number, aim, need, solved[angle], kick))
        elif k >= len(angles):
            words = "the chosen control has no angle for this step; choose again"
            found.append(_nowhere(number, aim, need, "no position", Reason(ReasonKind.NO_POSITION, words)))
        else:
            assert need is not None
            found.append(_nowhere(number, aim, need, "", Reason(ReasonKind.NO_SETTING, need.reason)))
    return tuple(found)


def _nowhere(
    number: int, wanted_rpm: float | None, need: Need[Angle] | None, label: str, reason: Reason
) -> PhaseStep:
    return PhaseStep(
        number=number,
        label=label,
        joins=label or angle_words(None),
        wanted_rpm=wanted_rpm,
        setting=None,
        need=need,
        running=None,
        bands={},
        verdict=StepVerdict.DOES_NOT_START,
        reasons=(reason,),
    )


def _needs(
    fan: MachineFan,
    wanted_rpm: Sequence[float],
    asked: Mapping[float, float | None],
    kick: bool,
    solved: dict[float, Solution],
) -> list[Need[Angle]]:
    """What each wanted speed asks for. Mostly a step stands where it should, and is solved already."""
    missing = [a for w in wanted_rpm if (a := asked[w]) is not None and a not in solved]
    solved |= unbanded(fan, missing)
    needs = []
    for w in wanted_rpm:
        angle = asked[w]
        solution = solved[angle] if angle is not None else None
        needs.append(
            Need(
                text=angle_words(angle),
                setting=Angle(angle, kick) if angle else None,
                reason="" if angle is not None else no_angle(w, curve_of(fan), kick),
                costs=costs_of(fan, solution, point_of(solution, kick) if solution else None),
            )
        )
    return needs


def _at(
    fan: MachineFan,
    design: PhaseDesign | None,
    number: int,
    wanted_rpm: float | None,
    need: Need[Angle] | None,
    found: AtAngle,
    kick: bool,
) -> PhaseStep:
    angle, bands, words = found.firing_deg, found.bands, angle_words(found.firing_deg)
    point = point_of(found.solution, kick)
    step = PhaseStep(
        number=number,
        label=words,
        joins=words,
        wanted_rpm=wanted_rpm,
        setting=Angle(angle, kick),
        need=need,
        running=running_of(fan, point, bands, _triac_place(point, words)) if point else None,
        bands=bands_of(bands),
        verdict=StepVerdict.OK,
        reasons=(),
        at=angle,
        may_not_start=bands.may_not_start,
        may_exceed=bands.may_exceed,
        solution=found.solution,
    )
    verdict, reasons = _judged(fan, design, step, found.solution, bands)
    return replace(step, verdict=verdict, reasons=reasons)


def _triac_place(point: PhasePoint, name: str) -> Place:
    """What the regulator's place says of a triac."""
    ends = (
        "conducts throughout"
        if point.conduction is Conduction.FULL
        else f"current ends {point.extinction_angle_deg:.0f}°"
    )
    values = (
        Told(ends, "regulator-volts"),
        Told(f"{q.plain(point.series_loss_w, 2)} W heat", "regulator-heat"),
        Told(f"THD {100 * point.current_thd:.0f} %", "distortion"),
    )
    return Place(PlaceKind.REGULATOR, values, name=name)


def no_angle(wanted_rpm: float, curve: FiringCurve, kick: bool = False) -> str:
    """Why no firing angle gives a speed."""
    runs = curve.kicked_rpm if kick else curve.speed_rpm
    if not (runs > 0).any():
        return "at no angle does it start"
    slowest = float(runs[runs > 0].min())
    if wanted_rpm < slowest:
        way = "coming down from full it" if kick else "from rest it"
        return f"{way} does not run slower than {slowest:.0f} rpm"
    return "faster than full on"


def _judged(
    fan: MachineFan, design: PhaseDesign | None, step: PhaseStep, solution: Solution, bands: StepBands
) -> tuple[StepVerdict, tuple[Reason, ...]]:
    assert step.setting is not None
    angle, kick, point = step.setting.firing_deg, step.setting.kick, step.phase_point
    verdict, reasons = judged(fan, solution, bands)
    if kick and verdict is StepVerdict.DOES_NOT_START:
        if point:
            words = "it holds here, but would not start: that is what the kick is for"
            verdict, reasons = StepVerdict.OK, (Reason(ReasonKind.REMARK, words),)
        else:
            reasons = (Reason(ReasonKind.NO_START, "coming down from full speed it does not hold here"),)
    if verdict is StepVerdict.OK and point is not None and point.growth > 1:
        words = "no steady running there: the half-cycles drift apart, iron saturation decides here"
        return StepVerdict.BARRED, (Reason(ReasonKind.UNSTEADY, words),)
    if design is not None and design.network is not None:
        knob = travel(design.network, fan.belief, fan.supply)
        if knob.turn_at(angle) is None:
            words = f"the knob does not reach {angle:.0f}°: change its network"
            return StepVerdict.DOES_NOT_START, (Reason(ReasonKind.UNREACHED, words),)
    if design is not None and design.short_pulse and 0 < angle < curve_of(fan).least_safe_deg:
        words = "a short pulse here comes while current still flows: every second half-cycle would be missing"
        return StepVerdict.BARRED, (Reason(ReasonKind.UNSTEADY, words),)
    if bands.may_not_start > _DOUBTED and verdict is StepVerdict.OK:
        fate, cure = ("hold", "") if kick else ("start", ": give it a kick")
        words = f"{bands.may_not_start:.0%} of the likely motors would not {fate} here{cure}"
        reasons = (*reasons, Reason(ReasonKind.DOUBT, words))
    return verdict, reasons


# ---------------------------------------------------------------- reach


def zones(fan: MachineFan, design: PhaseDesign | None) -> tuple[Zone, ...]:
    """Speeds that no firing angle gives: below where it starts or holds, and between two branches."""
    return _zones(fan, design is not None and design.kick)


@remembered
def _zones(fan: MachineFan, kick: bool) -> tuple[Zone, ...]:
    curve, full = curve_of(fan), fan.full_rpm
    runs = curve.kicked_rpm if kick else curve.speed_rpm
    reached = np.sort(runs[runs > 0])
    if not len(reached):
        return (Zone(0.0, full, "at no firing angle does it start", ZoneKind.NO_START),)
    found = []
    if reached[0] > 0.015 * full:
        words = "does not hold, even coming down" if kick else "will not start from rest"
        found.append(Zone(0.0, float(reached[0]), words, ZoneKind.NO_START))
    for i in np.flatnonzero(np.diff(reached) > _BRANCH_GAP * full):
        words = "no firing angle holds a speed here"
        found.append(Zone(float(reached[i]), float(reached[i + 1]), words, ZoneKind.GAP))
    return tuple(found)


@remembered
def reach(fan: MachineFan) -> Reach:
    """Speed over firing angle, from rest."""
    curve = curve_of(fan)
    points = tuple(
        ReachPoint(float(a), float(n), ReachState.OK if n > 0 else ReachState.STALL)
        for a, n in zip(curve.firing_deg, curve.speed_rpm, strict=True)
    )
    table = band_table(fan, False)
    if table is None:
        return Reach(Axis("fires at", "°", 1.0), points, ())
    speed = np.interp(table.firing_deg, curve.firing_deg, curve.speed_rpm)
    low, high = np.maximum(0.0, speed - table.below[SPEED.key]), speed + table.above[SPEED.key]
    band = tuple(
        ReachBand(float(a), float(lo), float(hi))
        for a, lo, hi in zip(table.firing_deg, low, high, strict=True)
    )
    return Reach(Axis("fires at", "°", 1.0), points, band)


# ---------------------------------------------------------------- proving


def expected(fan: MachineFan, design: PhaseDesign | None, step: Step[Angle]) -> tuple[Expected, ...]:
    """Speed, volts and amps; and what a scope shows where the wave is chopped."""
    point = step.shown_point if isinstance(step, PhaseStep) else None
    if point is None or step.setting is None or not step.bands:
        return ()
    found = [
        Expected(SPEED, point.speed_rpm, step.bands[SPEED.key]),
        Expected(MOTOR_VOLTS, point.motor_voltage_v, step.bands[MOTOR_VOLTS.key]),
        Expected(LINE_CURRENT, point.line_current_a, step.bands[LINE_CURRENT.key]),
    ]
    angle = step.setting.firing_deg
    if not isinstance(point, PhasePoint) or angle == 0:
        return tuple(found)
    wide = _KNOB_DEG if design is not None and design.network else _ANGLE_DEG
    found.append(Expected(FIRING, angle, Band(max(0.0, angle - wide), angle + wide)))
    ends = step.bands.get(ENDS.key)
    if ends is not None and point.conduction is not Conduction.FULL:
        middle = point.extinction_angle_deg
        band = Band(min(ends.low, middle) - _ENDS_DEG, max(ends.high, middle) + _ENDS_DEG)
        found.append(Expected(ENDS, middle, band))
    found.append(Expected(APART, 0.5 * _APART_DEG, Band(0.0, _APART_DEG), f"up to {_APART_DEG:.0f}"))
    hertz = fan.supply.frequency_hz
    found.append(Expected(MAINS, hertz, Band(hertz - _MAINS_HZ, hertz + _MAINS_HZ)))
    return tuple(found)


def missed(fan: MachineFan, design: PhaseDesign | None, step: Step[Angle], miss: Missed) -> str:
    """What a miss behind a triac would mean: as if it fired at another angle."""
    knob = design is not None and design.network is not None
    source = (
        "the knob's mark and its network" if knob else "the delay in the program and the zero detector's edge"
    )
    if miss.quantity is APART:
        return ": one half fires later than the other. A worn diac, or a gate whose quadrants differ."
    if miss.value == 0:
        fires = "the diac or the knob" if knob else "the program or the opto-triac"
        return f": the fan stands. Look at fuse and switch, then at what fires the triac: {fires}."
    point = step.phase_point if isinstance(step, PhaseStep) else None
    if miss.quantity is MOTOR_VOLTS and point is not None:
        average = FORM_FACTOR * float(np.abs(waveforms_of(fan, point).motor_v).mean())
        if abs(miss.value / average - 1) < _AVERAGE_NEAR:
            return (
                f", and just what a meter that is not true-rms shows on this wave ({average:.0f} V): "
                "read it with a true-rms meter."
            )
    if miss.quantity is FIRING:
        return f": check {source}."
    if miss.quantity is not SPEED or step.setting is None:
        return f". Check the meter, the supply volts and {source}."
    angle, kick = step.setting.firing_deg, step.setting.kick
    if fan.is_full(miss.value) and angle:
        return ": as fast as without a regulator. The triac is shorted, or fires at once whatever is asked."
    (other,) = angles_for(fan, curve_of(fan), [miss.value], kick)
    if other is None:
        return ", and no firing angle would explain it: look for drag, a half-wave, or low supply volts."
    return f", as if fired at {other:.0f}° instead of {angle:.0f}°. Check {source}."
