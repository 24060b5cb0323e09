"""What lowered DC volts are compared by: a row each for a resistor, a linear and a switching regulator."""

from __future__ import annotations

from fenwit.core.errors import InputError
from fenwit.core.job.state import JobState
from fenwit.core.job.steps import Step, Steps
from fenwit.core.methods.common.mapped import merit_of
from fenwit.core.methods.common.volts import VoltFan
from fenwit.core.methods.dc_voltage.design import TACH, VoltsDesign, Way
from fenwit.core.methods.dc_voltage.parts import built
from fenwit.core.methods.dc_voltage.search import made
from fenwit.core.methods.dc_voltage.steps import VoltsSetting, ideal, setting, steps
from fenwit.core.methods.seam import Compared
from fenwit.core.size.merits import Failing, Merits, Piece, StepMerit

_NAMES = {
    Way.SWITCHING: "switching regulator",
    Way.LINEAR: "linear regulator",
    Way.RESISTOR: "resistor in the supply",
}
_PIECES = {
    Way.SWITCHING: ((Piece.BUCK, 1), (Piece.KNOB, 1), (Piece.FUSE, 1), (Piece.BOX, 1)),
    Way.LINEAR: ((Piece.LINEAR, 1), (Piece.HEAT_SINK, 1), (Piece.KNOB, 1), (Piece.FUSE, 1), (Piece.BOX, 1)),
}


def compared(fan: VoltFan, state: JobState, glance: bool) -> tuple[Compared, ...]:
    """Three rows at the wanted speeds; a speed no volts give is not given by any."""
    return tuple(_row(fan, state, way, glance) for way in (Way.SWITCHING, Way.LINEAR, Way.RESISTOR))


def _row(fan: VoltFan, state: JobState, way: Way, glance: bool) -> Compared:
    wanted = state.wanted_rpm
    shown: Steps = ideal(fan, wanted, glance)
    unmet = tuple(s.need.reason if s.need and s.need.reason else "" for s in shown)
    unbuilt, text, speeds = "", "", tuple(s.shown.speed_rpm if s.shown else 0.0 for s in shown)
    try:
        reachable = [rpm for rpm, why in zip(wanted, unmet, strict=True) if not why]
        design = made(fan, reachable, way)
        real = steps(fan, design, reachable, False)
        refusal = next((p.refusal for p in built(fan, design).parts if p.refusal), "")
        unbuilt = refusal
        text = ", ".join(s.label for s in real)
        speeds = tuple(s.shown.speed_rpm if s.shown else 0.0 for s in real)
        losses = [s.setting.loss_w if isinstance(s.setting, VoltsSetting) else 0.0 for s in real]
    except InputError as error:
        unbuilt, losses = error.reason, []
    worst = max(losses, default=0.0)
    count = max(1, sum(1 for loss in losses if loss > 0))
    pieces = _PIECES.get(way) or (
        (Piece.RESISTOR_10W, count),
        (Piece.ROTARY_SWITCH, 1),
        (Piece.FUSE, 1),
        (Piece.BOX, 1),
    )
    row = Merits(
        variant=way.value,
        name=_NAMES[way],
        steps=tuple(_merit(fan, s, way) for s in shown),
        unmet=unmet,
        hottest=f"{_NAMES[way]}, {worst:.2g} W",
        hottest_w=worst,
        slowest_rpm=float(fan.direct.speed_rpm(fan.direct.start_v)) if way is not Way.RESISTOR else None,
        jump_rpm=max(
            0.0,
            float(fan.direct.speed_rpm(fan.direct.start_v)) - float(fan.direct.speed_rpm(fan.direct.hold_v)),
        ),
        stepless=way is not Way.RESISTOR,
        built_text=text,
        built_rpm=speeds,
        pieces=pieces,
        regulator_hum="none",
        failures=_failing(way),
        unbuilt=unbuilt,
        note=f"less torque at low speed; {TACH}",
    )
    return Compared(row, shown)


def _merit(fan: VoltFan, step: Step[VoltsSetting], way: Way) -> StepMerit | None:
    mine = step.setting
    if mine is None or not fan.amps_known:
        return None
    # At the very volts a resistor loses what a linear regulator does.
    by = Way.LINEAR if way is Way.RESISTOR else way
    return merit_of(fan, step, setting(fan, VoltsDesign(by, (mine.volts,)), mine.volts).loss_w)


def _failing(way: Way) -> tuple[Failing, ...]:
    if way is Way.RESISTOR:
        return (
            Failing("resistor", "stands", "full speed"),
            Failing("a fan held", "", "the resistor takes its starting amps"),
        )
    return (Failing("regulator", "stands", "full speed"), Failing("supply", "stands", ""))
