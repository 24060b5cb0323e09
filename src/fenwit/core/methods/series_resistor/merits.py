"""What resistors are compared by: their heat, their size, their failures."""

from __future__ import annotations

from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.job.machine import MachineFan
from fenwit.core.job.state import JobState
from fenwit.core.memory import remembered
from fenwit.core.methods.common.merits import fold_rpm, rest, slowest_of, step_merit, unmet_words
from fenwit.core.methods.seam import Compared
from fenwit.core.methods.series_resistor.design import ResistorDesign, Scheme
from fenwit.core.methods.series_resistor.search import usual
from fenwit.core.methods.series_resistor.steps import ideal, regulated
from fenwit.core.regulator.series import SettingKind, candidates, source_with
from fenwit.core.size.merits import Failing, Merits, Piece

_SIZES = ((10.0, Piece.RESISTOR_10W), (25.0, Piece.RESISTOR_25W), (50.0, Piece.RESISTOR_50W))


def piece_of(rated_w: float) -> Piece:
    """How a resistor of so many watts is priced."""
    return next((piece for most, piece in _SIZES if rated_w <= most), Piece.RESISTOR_100W)


def compared(fan: MachineFan, state: JobState, glance: bool) -> tuple[Compared, ...]:
    """The ideal resistors of wanted speeds, and the regulator that would be built."""
    wanted_rpm, design = state.wanted_rpm, state.design if isinstance(state.design, ResistorDesign) else None
    steps = ideal(fan, wanted_rpm, glance)
    found = tuple(step_merit(fan, s) for s in steps)
    hottest = max((m.regulator_w for m in found if m), default=0.0)
    text, unbuilt, fold = "", "", 0.0
    speeds: tuple[float, ...] = ()
    pieces: tuple[tuple[Piece, int], ...] = ()
    hot = f"resistor, {q.plain(hottest, 2)} W"
    try:
        made = design or usual(fan, wanted_rpm, state)
        rated = regulated(fan, made).rated
        text = _text(rated.design)
        speeds = tuple(s.running.speed_rpm if s.running else 0.0 for s in rated.nominal)
        fold = fold_rpm(rated.nominal)
        count: dict[Piece, int] = {Piece.ROTARY_SWITCH: 1, Piece.FUSE: 1, Piece.BOX: 1}
        for r in rated.design.resistors:
            piece = piece_of(r.rated_w or 25.0)
            count[piece] = count.get(piece, 0) + 1
        pieces = tuple(count.items())
        unbuilt = next((f"{p.name}: {p.refusal}" for p in rated.parts if p.refusal), "")
        surface = max(rated.hottest_c)
        hot = f"resistor, {q.plain(hottest, 2)} W, about {10 * round(surface / 10):d} °C"
    except InputError as refused:
        unbuilt = refused.reason
    row = Merits(
        variant="",
        name="series resistor",
        steps=found,
        unmet=tuple(unmet_words(s) for s in steps),
        hottest=hot,
        hottest_w=hottest,
        slowest_rpm=_slowest(fan),
        jump_rpm=fold,
        stepless=False,
        built_text=text,
        built_rpm=speeds,
        pieces=pieces,
        regulator_hum="none of its own",
        failures=(
            Failing("resistor", "stands at the steps that need it", "full speed"),
            Failing("fan held fast", "", "the resistors burn on: a thermal cut-off beside them", True),
        ),
        unbuilt=unbuilt,
    )
    return (Compared(row, steps),)


def _text(design: ResistorDesign) -> str:
    joined = " + " if design.scheme is Scheme.CHAIN else ", "
    return joined.join(
        f"{q.show(r.nominal_ohm, q.RESISTANCE)} {r.rated_w:g} W" for r in reversed(design.resistors)
    )


@remembered
def _slowest(fan: MachineFan) -> float | None:
    at_rest = rest(fan)
    if at_rest is None:
        return None
    volts, y = at_rest
    values = candidates(SettingKind.RESISTANCE, y, volts, fan.supply)
    return slowest_of(fan, [source_with(fan.supply, SettingKind.RESISTANCE, r) for r in values])
