"""What transformers are compared by: an auto winding and a separate one, each as its own row."""

from __future__ import annotations

from collections.abc import Sequence

from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.job.machine import MachineFan
from fenwit.core.job.state import JobState
from fenwit.core.memory import remembered
from fenwit.core.methods.common.merits import fold_rpm, rest, slowest_of, step_merit, unmet_words
from fenwit.core.methods.seam import Compared
from fenwit.core.methods.stepped_voltage.design import SteppedDesign
from fenwit.core.methods.stepped_voltage.rating import rate
from fenwit.core.methods.stepped_voltage.search import design_for
from fenwit.core.methods.stepped_voltage.settings import TappedPoint, ideal_unit, source_of, tap_for
from fenwit.core.methods.stepped_voltage.steps import ideal_on
from fenwit.core.operating import OperatingPoint, Source, solve
from fenwit.core.regulator.transformer import FRAMES, Transformer, Winding, neutral_open
from fenwit.core.size.merits import Failing, Merits, Piece

_FRAMES = {f.va: Piece(f"frame-{f.va:g}") for f in FRAMES}
_NAMES = {Winding.AUTO: "autotransformer", Winding.SEPARATE: "separate transformer"}
_NOT_A_SINE = "its magnetising current is no sine, and its harmonics are not reckoned"


def compared(fan: MachineFan, state: JobState, glance: bool) -> tuple[Compared, ...]:
    """Both windings at the wanted speeds, each in the smallest frame that bears it."""
    wanted_rpm, design = state.wanted_rpm, state.design if isinstance(state.design, SteppedDesign) else None
    return tuple(
        _row(fan, winding, design if design and design.winding is winding else None, wanted_rpm, state)
        for winding in Winding
    )


def _mains_a(point: OperatingPoint) -> float:
    return point.mains_current_a if isinstance(point, TappedPoint) else point.line_current_a


def _row(
    fan: MachineFan,
    winding: Winding,
    design: SteppedDesign | None,
    wanted_rpm: Sequence[float],
    state: JobState,
) -> Compared:
    unit = ideal_unit(fan, winding, tuple(wanted_rpm))
    steps = ideal_on(fan, unit, wanted_rpm)
    found = tuple(step_merit(fan, s, line_a=_mains_a) for s in steps)
    hottest = max((m.regulator_w for m in found if m), default=0.0)
    text, unbuilt, fold = "", "", 0.0
    speeds: tuple[float, ...] = ()
    pieces: tuple[tuple[Piece, int], ...] = ()
    hot = f"transformer, {q.plain(hottest, 2)} W"
    failures: tuple[Failing, ...] = ()
    try:
        made = design or design_for(fan, wanted_rpm, winding, None, state)
        rated = rate(fan, made)
        taps = ", ".join(f"{t.volts:g}" for t in made.taps)
        text = f"{rated.unit.va:g} VA, taps {taps} V{' and direct' if made.direct else ''}"
        speeds = tuple(s.running.speed_rpm if s.running else 0.0 for s in rated.nominal)
        fold = fold_rpm(rated.nominal)
        fuses = sum(p.name.startswith("F") for p in rated.parts)
        near = min(_FRAMES, key=lambda va: abs(va - rated.unit.va))
        pieces = ((_FRAMES[near], 1), (Piece.ROTARY_SWITCH, 1), (Piece.FUSE, fuses), (Piece.BOX, 1))
        hot = f"transformer, {q.plain(hottest, 2)} W, winding about {rated.winding[1].value:.0f} °C"
        unbuilt = rated.refusal or next((f"{p.name}: {p.refusal}" for p in rated.parts if p.refusal), "")
        failures = _failures(fan, rated.unit, made.taps[0].volts)
    except InputError as refused:
        unbuilt = refused.reason
    row = Merits(
        variant=winding.value,
        name=_NAMES[winding],
        steps=found,
        unmet=tuple(unmet_words(s) for s in steps),
        hottest=hot,
        hottest_w=hottest,
        slowest_rpm=_slowest(fan, unit),
        jump_rpm=fold,
        stepless=False,
        built_text=text,
        built_rpm=speeds,
        pieces=pieces,
        regulator_hum="its core hums at twice the mains by itself: mount it soft",
        failures=failures,
        unbuilt=unbuilt,
        unmodelled=_NOT_A_SINE,
        note=f"{unit.va:g} VA",
    )
    return Compared(row, steps)


def _failures(fan: MachineFan, unit: Transformer, tap_v: float) -> tuple[Failing, ...]:
    shorted = "the thermal cut-out or the fuse, after it has got hot"
    if unit.winding is Winding.SEPARATE:
        return (Failing("winding", "stops", shorted), Failing("tap lead off", "stops at that step", ""))
    off = neutral_open(unit, tap_v, fan.supply.frequency_hz)
    assert off is not None
    hertz, volts = fan.supply.frequency_hz, fan.supply.voltage_v
    point = solve(fan.belief.motor, fan.belief.load, [Source(volts, hertz, 1j * off.choke_ohm)])[0].running
    across = (
        ""
        if point is None
        else f": {point.series_voltage_v:.0f} V on a section made for {off.section_v:.0f} V"
    )
    return (
        Failing(
            "neutral end off", f"its iron saturates{across}; the fan may get nearly full volts", "", True
        ),
        Failing("winding", "stops", shorted),
        Failing("tap lead off", "stops at that step", ""),
    )


@remembered
def _slowest(fan: MachineFan, unit: Transformer) -> float | None:
    at_rest = rest(fan)
    if at_rest is None:
        return None
    volts, y = at_rest
    tap = tap_for(unit, fan.supply, volts, y)
    if tap is None:
        return None
    return slowest_of(fan, [source_of(unit, tap, fan.supply.voltage_v, fan.supply.frequency_hz)])
