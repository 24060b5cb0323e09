"""What ways of regulating are compared by, each merit defined once (docs/choosing.md)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from fenwit.core.errors import InputError, check_range

BOX_FILL = 0.35
"""Share of a box that its parts may fill [-]"""


class Piece(StrEnum):
    """A sort of part, as it is priced."""

    SERIES_CAPACITOR = "series-capacitor"
    BLEED = "bleed"
    LIMITER = "limiter"
    ROTARY_SWITCH = "rotary-switch"
    FUSE = "fuse"
    RESISTOR_10W = "resistor-10w"
    RESISTOR_25W = "resistor-25w"
    RESISTOR_50W = "resistor-50w"
    RESISTOR_100W = "resistor-100w"
    TRIAC = "triac"
    DIAC = "diac"
    SMALL_RESISTOR = "small-resistor"
    FILM_CAPACITOR = "film-capacitor"
    KNOB = "knob"
    CHOKE = "choke"
    X_CAPACITOR = "x-capacitor"
    HEAT_SINK = "heat-sink"
    BOX = "box"
    CONTROLLER = "controller"
    LINEAR = "linear"
    BUCK = "buck"
    SWITCH_TRANSISTOR = "switch-transistor"
    FRAME_10 = "frame-10"
    FRAME_16 = "frame-16"
    FRAME_25 = "frame-25"
    FRAME_40 = "frame-40"
    FRAME_63 = "frame-63"
    FRAME_100 = "frame-100"
    FRAME_160 = "frame-160"
    FRAME_250 = "frame-250"


@dataclass(frozen=True)
class Price:
    """What a part costs and how much room it takes: trade judgement, to be edited."""

    name: str
    cost: float
    """Units of money [-]"""
    litres: float

    def __post_init__(self) -> None:
        check_range("cost", self.cost, 0.0, 1e5, "")
        check_range("litres", self.litres, 0.0, 100.0, "l")


def _frame(va: float, cost: float) -> Price:
    return Price(f"transformer {va:g} VA", cost, 0.018 * va**0.8)


PRICES: Mapping[Piece, Price] = {
    Piece.SERIES_CAPACITOR: Price("series capacitor", 2.4, 0.035),
    Piece.BLEED: Price("bleed", 0.2, 0.002),
    Piece.LIMITER: Price("limiter", 0.5, 0.004),
    Piece.ROTARY_SWITCH: Price("rotary switch", 6.0, 0.06),
    Piece.FUSE: Price("fuse and holder", 1.5, 0.012),
    Piece.RESISTOR_10W: Price("resistor up to 10 W", 1.6, 0.05),
    Piece.RESISTOR_25W: Price("resistor up to 25 W", 4.5, 0.15),
    Piece.RESISTOR_50W: Price("resistor up to 50 W", 7.5, 0.3),
    Piece.RESISTOR_100W: Price("larger resistor", 13.0, 0.6),
    Piece.TRIAC: Price("triac", 1.2, 0.004),
    Piece.DIAC: Price("diac", 0.2, 0.001),
    Piece.SMALL_RESISTOR: Price("small resistor", 0.1, 0.001),
    Piece.FILM_CAPACITOR: Price("film capacitor", 0.4, 0.004),
    Piece.KNOB: Price("knob with switch", 4.0, 0.05),
    Piece.CHOKE: Price("choke", 2.5, 0.03),
    Piece.X_CAPACITOR: Price("small X capacitor", 0.8, 0.008),
    Piece.HEAT_SINK: Price("heat sink", 1.0, 0.02),
    Piece.BOX: Price("box", 7.0, 0.0),
    Piece.CONTROLLER: Price("small controller board", 6.0, 0.02),
    Piece.LINEAR: Price("linear regulator", 1.5, 0.01),
    Piece.BUCK: Price("switching regulator", 4.0, 0.02),
    Piece.SWITCH_TRANSISTOR: Price("switching transistor with diode", 2.0, 0.01),
    Piece.FRAME_10: _frame(10, 7.0),
    Piece.FRAME_16: _frame(16, 8.5),
    Piece.FRAME_25: _frame(25, 11.0),
    Piece.FRAME_40: _frame(40, 14.0),
    Piece.FRAME_63: _frame(63, 18.0),
    Piece.FRAME_100: _frame(100, 24.0),
    Piece.FRAME_160: _frame(160, 32.0),
    Piece.FRAME_250: _frame(250, 42.0),
}
"""The price list as it stands until somebody edits it"""


@dataclass(frozen=True)
class Harmonic:
    """One harmonic of the line current."""

    order: int
    current_a: float
    share: float
    """Of the fundamental [-]"""
    filtered_a: float
    """With choke and X capacitor from the shelf [A]"""


@dataclass(frozen=True)
class StepMerit:
    """One step as it is compared."""

    number: int
    wanted_rpm: float
    speed_rpm: float
    input_power_w: float
    shaft_w: float
    motor_loss_w: float
    regulator_w: float
    line_current_a: float
    """At the mains [A]"""
    motor_voltage_v: float
    power_factor: float
    rise: float | None
    """Winding's rise over that at full speed; None where there is no model of it [-]"""
    start: float | None
    """Torque at rest over break-away torque; likewise [-]"""
    hum_db: float | None
    """Over direct running at full speed; None where the model does not know [dB]"""
    ripple: float | None
    """Torque at twice the mains over the step's mean torque [-]"""
    thd: float
    harmonics: tuple[Harmonic, ...] = ()
    thd_filtered: float = 0.0
    full: bool = False
    """At full speed: there the regulator does nothing, and the ways are alike [-]"""


@dataclass(frozen=True)
class Failing:
    """What happens when a part gives way."""

    part: str
    open_words: str
    short_words: str
    danger: bool = False


@dataclass(frozen=True)
class Merits:
    """One way of regulating this fan at the wanted speeds."""

    variant: str
    """Tells kinds of one method apart; empty where there is one [-]"""
    name: str
    """As a row is called [-]"""
    steps: tuple[StepMerit | None, ...]
    """One for each wanted speed; None where it gives none [-]"""
    unmet: tuple[str, ...]
    """Why a wanted speed is not given; empty strings where it is [-]"""
    hottest: str
    """Its hottest part, and how near to its limit [-]"""
    hottest_w: float
    slowest_rpm: float | None
    """Reached from rest with 15 % to spare over break-away; None where the setting for it was not found [rpm]"""
    jump_rpm: float
    """Of the speed where it comes on, over the least it can be turned back to [rpm]"""
    stepless: bool
    built_text: str
    """Made of what, as it would be built [-]"""
    built_rpm: tuple[float, ...]
    """Speeds as it would be built; 0 where it does not run [rpm]"""
    pieces: tuple[tuple[Piece, int], ...]
    regulator_hum: str
    """The regulator's own, in words [-]"""
    failures: tuple[Failing, ...]
    unbuilt: str = ""
    """Why nothing that bears it can be built; empty where it can [-]"""
    unmodelled: str = ""
    """What of its interference the model leaves out [-]"""
    note: str = ""


# ---------------------------------------------------------------- the choosing


class Wish(StrEnum):
    """What may matter."""

    HUM = "hum"
    ENERGY = "energy"
    WATTS = "watts"
    COST = "cost"
    BOX = "box"
    PARTS = "parts"
    REGULATOR = "regulator"
    RISE = "rise"
    THD = "thd"
    POWER_FACTOR = "power-factor"
    SLOWEST = "slowest"
    START = "start"


@dataclass(frozen=True)
class WishFacts:
    """How a wish is said, and within what it counts as alike."""

    name: str
    merit: str
    """What is compared [-]"""
    unit: str
    band: float
    relative: bool = False
    """The band is a share of the best [-]"""
    more_is_better: bool = False


WISHES: Mapping[Wish, WishFacts] = {
    Wish.HUM: WishFacts("quiet", "hum", "dB", 3.0),
    Wish.REGULATOR: WishFacts("cool regulator", "regulator heat", "W", 1.0),
    Wish.RISE: WishFacts("cool motor", "winding rise", "×", 0.05),
    Wish.COST: WishFacts("cheap", "cost", "", 0.15, relative=True),
    Wish.PARTS: WishFacts("few parts", "parts", "", 2.0),
    Wish.SLOWEST: WishFacts("lowest speed", "slowest speed", "rpm", 0.05, relative=True),
    Wish.THD: WishFacts("no interference", "THD of the line", "", 0.03),
    Wish.ENERGY: WishFacts("little energy", "energy a year", "kWh", 0.10, relative=True),
    Wish.WATTS: WishFacts("few watts", "mains watts", "W", 0.10, relative=True),
    Wish.POWER_FACTOR: WishFacts("power factor", "power factor", "", 0.05, more_is_better=True),
    Wish.START: WishFacts(
        "sure start", "torque at rest over break-away", "×", 0.20, relative=True, more_is_better=True
    ),
    Wish.BOX: WishFacts("small box", "box", "l", 0.15, relative=True),
}
"""Bands are trade judgement, to be edited"""


@dataclass(frozen=True)
class Choosing:
    """What a technician says of what matters, and of how the fan is used."""

    wishes: tuple[Wish, ...] = (Wish.HUM, Wish.COST, Wish.ENERGY)
    """Weightiest first"""
    hours_a_day: tuple[float, ...] = ()
    """At each wanted speed; empty: eight hours spread over all of them [h]"""
    days_a_year: float = 300.0
    bands: tuple[tuple[Wish, float], ...] = ()
    """Where set otherwise than usual"""
    prices: tuple[tuple[Piece, Price], ...] = ()
    """Where set otherwise than usual"""

    def __post_init__(self) -> None:
        if len(set(self.wishes)) != len(self.wishes):
            raise InputError("wishes", ", ".join(self.wishes), "each wish once", "a wish stands here twice")
        check_range("days_a_year", self.days_a_year, 1.0, 366.0, "days")
        for hours in self.hours_a_day:
            check_range("hours", hours, 0.0, 24.0, "h", reason="a day has 24 hours")
        if self.hours_a_day:
            total = sum(self.hours_a_day)
            if total <= 0:
                raise InputError("hours", total, "more than 0 h", "nothing runs")
            if total > 24 + 1e-9:
                raise InputError("hours", total, "at most 24 h", "a day has 24 hours")
        for wish, band in self.bands:
            check_range(f"band.{wish}", band, 0.0, 1000.0, WISHES[wish].unit)

    def band(self, wish: Wish) -> float:
        """Within what of the best a wish counts as alike."""
        return dict(self.bands).get(wish, WISHES[wish].band)

    def price(self, piece: Piece) -> Price:
        """What a part costs here."""
        return dict(self.prices).get(piece, PRICES[piece])

    def hours(self, steps: int) -> tuple[float, ...]:
        """Hours a day at each of so many steps; what was typed for more or fewer is stretched over these [h]"""
        if len(self.hours_a_day) == steps:
            return self.hours_a_day
        total = sum(self.hours_a_day) or 8.0
        return (total / steps,) * steps if steps else ()


@dataclass(frozen=True)
class Sums:
    """What follows from merits and how the fan is used."""

    kwh: float | None
    """None where a wanted speed is not given [kWh]"""
    cost: float | None
    """None where nothing can be built, with box and parts [-]"""
    box_l: float | None
    parts: int | None
    evenness: float | None
    """Worst departure of the differences between neighbouring steps from their mean, as built [-]"""


def sums_of(merits: Merits, choosing: Choosing) -> Sums:
    """Energy, cost, box, parts and evenness of one row.

    Parameters
    ----------
    merits : Merits
        The row [-]
    choosing : Choosing
        Hours, days and prices [-]

    Returns
    -------
    Sums
        Σ P h days / 1000; Σ cost; Σ litres / 0.35; count; max |Δ_i − mean Δ| / mean Δ [-]
    """
    prices = [(choosing.price(piece), count) for piece, count in merits.pieces]
    hours = choosing.hours(len(merits.steps))
    kwh = None
    if all(s is not None for s in merits.steps):
        wh = sum(s.input_power_w * h for s, h in zip(merits.steps, hours, strict=True) if s)
        kwh = wh * choosing.days_a_year / 1000
    made = bool(prices) and not merits.unbuilt
    return Sums(
        kwh,
        sum(p.cost * n for p, n in prices) if made else None,
        sum(p.litres * n for p, n in prices) / BOX_FILL if made else None,
        sum(n for _, n in merits.pieces) if made else None,
        evenness_of(merits.built_rpm),
    )


def evenness_of(speeds_rpm: Sequence[float]) -> float | None:
    """How uneven steps are: max |Δ_i − mean Δ| / mean Δ; None with fewer than three steps, or where one stands.

    Parameters
    ----------
    speeds_rpm : sequence of float
        Speeds of the steps in order [rpm]

    Returns
    -------
    float or None
        Worst departure over the mean difference [-]
    """
    if len(speeds_rpm) < 3 or min(speeds_rpm) <= 0:
        return None
    gaps = np.diff(np.asarray(speeds_rpm))
    mean = float(gaps.mean())
    return float(np.abs(gaps - mean).max() / mean) if mean > 0 else None


def worst(merits: Merits, sums: Sums, wish: Wish) -> float | None:
    """What of a row counts for a wish: its worst step; None where that is not known, or where it gives no speed.

    Steps at full speed do not count where there are slower ones: the regulator does nothing there.

    Parameters
    ----------
    merits : Merits
        The row [-]
    sums : Sums
        Of the same row [-]
    wish : Wish
        What is compared [-]

    Returns
    -------
    float or None
        In the unit of the wish [any]
    """
    whole = {
        Wish.COST: sums.cost,
        Wish.BOX: sums.box_l,
        Wish.PARTS: None if sums.parts is None else float(sums.parts),
        Wish.ENERGY: sums.kwh,
        Wish.SLOWEST: merits.slowest_rpm,
    }
    if wish in whole:
        return whole[wish]
    steps = [s for s in merits.steps if s is not None]
    if not steps or len(steps) < len(merits.steps):
        return None
    steps = [s for s in steps if not s.full] or steps
    if wish is Wish.HUM:
        hums = [s.hum_db for s in steps]
        known = [h for h in hums if h is not None]
        return max(known) if len(known) == len(hums) else None
    values = [getattr(s, _OF_STEP[wish]) for s in steps]
    if None in values:
        return None
    return float(min(values) if WISHES[wish].more_is_better else max(values))


_OF_STEP = {
    Wish.WATTS: "input_power_w",
    Wish.REGULATOR: "regulator_w",
    Wish.RISE: "rise",
    Wish.THD: "thd",
    Wish.POWER_FACTOR: "power_factor",
    Wish.START: "start",
}
