"""What a bank is compared by: its dielectric's heat, its failures, what it is built of."""

from __future__ import annotations

from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.job.machine import MachineFan, of_hundred
from fenwit.core.job.state import JobState
from fenwit.core.memory import remembered
from fenwit.core.methods.common.merits import fold_rpm, rest, slowest_of, step_merit, unmet_words
from fenwit.core.methods.seam import Compared
from fenwit.core.methods.series_capacitor.banks import usual
from fenwit.core.methods.series_capacitor.design import BankDesign
from fenwit.core.methods.series_capacitor.steps import ideal, regulated, strays
from fenwit.core.methods.series_capacitor.steps import steps as steps_of
from fenwit.core.operating import OperatingPoint
from fenwit.core.regulator.series import SettingKind, candidates, source_with
from fenwit.core.size.classes import CLASSES, PartClass
from fenwit.core.size.merits import Failing, Merits, Piece
from fenwit.core.size.rated import RatedKind

_PIECES = {
    RatedKind.CAPACITOR: Piece.SERIES_CAPACITOR,
    RatedKind.BLEED: Piece.BLEED,
    RatedKind.LIMITER: Piece.LIMITER,
    RatedKind.FUSE: Piece.FUSE,
    RatedKind.SWITCH: Piece.ROTARY_SWITCH,
}
_LOSS = CLASSES[PartClass.X2_FILM].loss_factor


def dielectric_w(point: OperatingPoint) -> float:
    """tan δ |V_C| |I| of a film capacitor in the line; nothing where nothing is in the line [W]"""
    return _LOSS * point.series_voltage_v * point.line_current_a


def compared(fan: MachineFan, state: JobState, glance: bool) -> tuple[Compared, ...]:
    """The ideal capacitors of wanted speeds, and the bank that would be built."""
    wanted_rpm, design = state.wanted_rpm, state.design if isinstance(state.design, BankDesign) else None
    steps = ideal(fan, wanted_rpm, glance)
    found = tuple(step_merit(fan, s, regulator_w=dielectric_w) for s in steps)
    speeds: tuple[float, ...] = ()
    pieces: tuple[tuple[Piece, int], ...] = ()
    failures: tuple[Failing, ...] = ()
    fold, built_text, unbuilt = 0.0, "", ""
    try:
        bank = design or usual(fan, wanted_rpm, state)
        built_text, speeds, pieces, failures = _built(fan, bank)
        rated = regulated(fan, bank).rated
        fold = fold_rpm(rated.nominal)
        unbuilt = next((f"{p.name}: {p.refusal}" for p in rated.parts if p.refusal), "")
        unbuilt = unbuilt or _resonates(fan, bank, state.profile.mains)
    except InputError as refused:
        unbuilt = refused.reason
    hottest = max((m.regulator_w for m in found if m), default=0.0)
    row = Merits(
        variant="",
        name="series capacitor",
        steps=found,
        unmet=tuple(unmet_words(s) for s in steps),
        hottest=f"capacitor, {q.plain(hottest, 1)} W",
        hottest_w=hottest,
        slowest_rpm=_slowest(fan),
        jump_rpm=fold,
        stepless=False,
        built_text=built_text,
        built_rpm=speeds,
        pieces=pieces,
        regulator_hum="none of its own",
        failures=failures,
        unbuilt=unbuilt,
    )
    return (Compared(row, steps),)


_MAY_EXCEED = 0.02
"""Share of cases in which a motor may get too many volts, with parts and mains within their tolerance [-]"""


@remembered
def _resonates(fan: MachineFan, bank: BankDesign, mains: float) -> str:
    """In how many cases a bank as built would resonate; empty where it is next to none."""
    found = strays(fan, bank, steps_of(fan, bank, (), False), mains)
    worst = max(found, key=lambda s: s.exceeds, default=None)
    if worst is None or worst.exceeds <= _MAY_EXCEED:
        return ""
    return (
        f"it would resonate: in {of_hundred(worst.exceeds)} of 100 cases, parts and mains within their "
        "tolerance, the motor "
        f"gets more than {fan.motor_limit_v:.0f} V at step {worst.step}"
    )


@remembered
def _slowest(fan: MachineFan) -> float | None:
    at_rest = rest(fan)
    if at_rest is None:
        return None
    volts, y = at_rest
    values = candidates(SettingKind.CAPACITANCE, y, volts, fan.supply)
    return slowest_of(fan, [source_with(fan.supply, SettingKind.CAPACITANCE, c) for c in values])


def _built(
    fan: MachineFan, bank: BankDesign
) -> tuple[str, tuple[float, ...], tuple[tuple[Piece, int], ...], tuple[Failing, ...]]:
    rated = regulated(fan, bank).rated
    count: dict[Piece, int] = {Piece.BOX: 1}
    for part in rated.parts:
        piece = _PIECES.get(part.kind)
        if piece is not None:
            # A bleed of two in series is bought, mounted and priced as one.
            count[piece] = count.get(piece, 0) + 1
    speeds = tuple(s.running.speed_rpm if s.running else 0.0 for s in rated.nominal)
    values = ", ".join(q.show(c.nominal_f, q.CAPACITANCE) for c in bank.capacitors)
    limiters = [p for p in rated.parts if p.kind is RatedKind.LIMITER]
    full = fan.full_point.line_current_a
    most = max((full**2 * p.value for p in limiters), default=0.0)
    short = f"full speed, and its limiter takes {q.plain(most, 2)} W" if limiters else "full speed"
    failures = (
        Failing("capacitor", "stands at every step that needs it", short),
        Failing(
            "bleed",
            "its capacitor stays charged: discharge it before a hand goes in",
            "as a shorted capacitor",
            True,
        ),
    )
    said = f"{values}: {', '.join(p.replace('∥', ' ∥ ') for p in bank.patterns)}"
    return said, speeds, tuple(count.items()), failures
