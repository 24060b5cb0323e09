"""The banks nearest to the wanted speeds, from the shelf first."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations_with_replacement

import numpy as np
from numpy.typing import NDArray

from fenwit.core.errors import InputError, check_range
from fenwit.core.methods.series_capacitor.design import pattern_capacitance_f
from fenwit.core.methods.series_capacitor.wiring import DIRECT, NAMES, Wiring, members, wirings
from fenwit.core.quantity import preferred
from fenwit.core.regulator.series import SpeedCurve
from fenwit.core.size.capacitor import CLASS_RANGE_F, Capacitor, Choice, shelf_refusal
from fenwit.core.size.classes import CLASSES
from fenwit.core.size.profile import unevenness
from fenwit.core.size.sizing import Sizing

FloatArray = NDArray[np.float64]


@dataclass(frozen=True)
class BankCandidate:
    """A bank with the step each pattern serves."""

    capacitors: tuple[Capacitor, ...]
    """A first: the smallest"""
    patterns: tuple[str, ...]
    """One for each wanted speed, slowest first"""
    speed_rpm: tuple[float, ...]
    miss_rpm: tuple[float, ...]
    """Speed less wanted speed [rpm]"""
    worst_miss: float
    """Largest miss over full speed [-]"""
    unevenness: float
    """Largest departure of a difference between neighbours from their mean difference, over it; 0 is even [-]"""
    to_buy: int
    """Capacitors that are not on the shelf [-]"""
    cost: float
    """Relative cost of what is bought [-]"""


MISS_ALIKE, UNEVEN_ALIKE = 0.02, 0.10
"""Misses (of full speed) and unevenness that count as alike: parts within tolerance spread wider than that [-]"""


def choices(sizing: Sizing, shelf: Sequence[Choice], supply_voltage_v: float) -> tuple[Choice, ...]:
    """What the search may take: shelf parts that are allowed here, then preferred values of the chosen class.

    Parameters
    ----------
    sizing : Sizing
        Class and series [-]
    shelf : sequence of Choice
        Capacitors on the shelf, of any class [-]
    supply_voltage_v : float
        Supply; a capacitor rated below 1.1 times that is left out [V]

    Returns
    -------
    tuple of Choice
        Rising in value; a shelf part stands for the new part of its value [-]
    """
    usable = [c for c in shelf if not shelf_refusal(c.capacitor, supply_voltage_v) and c.at_hand > 0]
    low, high = CLASS_RANGE_F[sizing.part_class]
    facts = CLASSES[sizing.part_class]
    bought = [
        Choice(Capacitor(float(value), sizing.part_class, facts.rated_v, facts.tolerance))
        for value in preferred(sizing.series, low, high)
        if not any(abs(value / c.capacitor.value_f - 1) < 1e-6 for c in usable)
    ]
    return tuple(sorted((*usable, *bought), key=lambda c: c.capacitor.value_f))


def search_banks(
    curve: SpeedCurve,
    direct_speed_rpm: float | None,
    wanted_rpm: Sequence[float],
    full_speed_rpm: float,
    sizing: Sizing,
    pool: Sequence[Choice],
    *,
    best: int = 10,
) -> tuple[BankCandidate, ...]:
    """Rank all banks of up to three capacitors: worst miss, evenness, parts at hand, count, cost.

    Speed over capacitance is read off a curve; patterns that do not start, are barred or
    put more volts on a capacitor or an open contact than it is rated for are never used. For each set
    of capacitors and each wiring the patterns, ordered by speed, are matched to the wanted speeds in order with the
    smallest worst miss (dynamic programming, all sets at once).

    Parameters
    ----------
    curve : SpeedCurve
        Speed over series capacitance of this fan [-]
    direct_speed_rpm : float or None
        Speed without anything in the line; None bars that position [rpm]
    wanted_rpm : sequence of float
        Wanted speeds, rising, one for each position at the most [rpm]
    full_speed_rpm : float
        Full speed [rpm]
    sizing : Sizing
        Switch, fixed capacitors and how many there may be [-]
    pool : sequence of Choice
        What the free capacitors are taken from, from `choices` [-]
    best : int
        How many to return [-]

    Returns
    -------
    tuple of BankCandidate
        Best first; empty when no bank serves all wanted speeds [-]

    Raises
    ------
    InputError
        No or too many wanted speeds, or not rising.
    """
    wanted = np.asarray(wanted_rpm, dtype=np.float64)
    most = sizing.switch.positions
    if not 1 <= len(wanted) <= most:
        raise InputError("wanted_rpm", len(wanted), f"1 to {most} steps", f"the switch has {most} positions")
    if (np.diff(wanted) <= 0).any():
        raise InputError("wanted_rpm", wanted.tolist(), "rising speeds", "two steps ask for the same speed")
    check_range("full_speed_rpm", full_speed_rpm, 1.0, 40000.0, "rpm")
    # Fixed capacitors come first, so that an index names any capacitor.
    items = [*(_as_choice(c, pool) for c in sizing.fixed), *pool]
    values = np.array([c.capacitor.value_f for c in items])
    found: list[BankCandidate] = []
    for count in range(max(1, len(sizing.fixed)), sizing.most + 1):
        sets = _sets(len(sizing.fixed), len(items), count)
        if not len(sets):
            continue
        sets = np.take_along_axis(sets, np.argsort(values[sets], axis=1, kind="stable"), axis=1)
        for way in wirings(count, sizing.switch.poles, sizing.switch.series_pairs):
            found += _best_of(
                way,
                sets,
                values,
                items,
                curve,
                direct_speed_rpm,
                wanted,
                full_speed_rpm,
                sizing.switch.rated_voltage_v,
                3 * best,
            )
    found.sort(key=_rank)
    kept: dict[tuple[object, ...], BankCandidate] = {}
    for candidate in found:
        kept.setdefault(tuple((c.value_f, c.part_class) for c in candidate.capacitors), candidate)
    return tuple(list(kept.values())[:best])


def _rank(c: BankCandidate) -> tuple[float, ...]:
    return (
        np.ceil(c.worst_miss / MISS_ALIKE),
        np.ceil(c.unevenness / UNEVEN_ALIKE),
        c.to_buy,
        len(c.capacitors),
        round(c.cost, 6),
        c.worst_miss,
    )


def _as_choice(fixed: Capacitor, pool: Sequence[Choice]) -> Choice:
    return next((c for c in pool if c.capacitor == fixed), Choice(fixed))


def _sets(fixed: int, total: int, count: int) -> NDArray[np.int64]:
    """Index sets of shape (sets, count): all fixed ones and every choice of the rest."""
    free = count - fixed
    if free < 0 or (free > 0 and total == fixed):
        return np.empty((0, count), dtype=np.int64)
    if free == 0:
        return np.arange(fixed)[None]
    rest = np.array(list(combinations_with_replacement(range(fixed, total), free)), dtype=np.int64)
    return np.concatenate([np.tile(np.arange(fixed), (len(rest), 1)), rest], axis=1)


def _best_of(
    way: Wiring,
    sets: NDArray[np.int64],
    values: FloatArray,
    items: Sequence[Choice],
    curve: SpeedCurve,
    direct_speed_rpm: float | None,
    wanted: FloatArray,
    full_speed_rpm: float,
    switch_v: float,
    most: int,
) -> list[BankCandidate]:
    picked, rated = values[sets].T, np.array([c.capacitor.rated_v for c in items])[sets].T
    joined = np.stack([pattern_capacitance_f(pattern, picked) for pattern in way.patterns])
    speed, volts = _read_off(curve, joined)
    # The bank's volts stand across whatever contact is open.
    speed = np.where(volts > switch_v, 0.0, speed)
    for k, pattern in enumerate(way.patterns):
        for name in members(pattern):
            mine = NAMES.index(name)
            share = joined[k] / picked[mine] if "–" in pattern else 1.0
            # On high mains, and a little to spare for what the curve does not know.
            speed[k] = np.where(1.12 * volts[k] * share > rated[mine], 0.0, speed[k])
    direct = np.array([p == DIRECT for p in way.patterns])
    speed[direct] = direct_speed_rpm or 0.0
    order = np.argsort(speed, axis=0, kind="stable")
    ranked = np.take_along_axis(speed, order, axis=0)
    # A speed that hardly differs from the one below it is no step of its own.
    alike = np.diff(ranked, axis=0, prepend=-1.0) < 0.01 * full_speed_rpm
    unusable = (ranked <= 0) | alike
    cost = [np.where(unusable, np.inf, np.abs(ranked - w)) for w in wanted]
    table = [np.zeros((len(ranked) + 1, ranked.shape[1]))]
    for c in cost:
        row = np.full_like(table[0], np.inf)
        row[1:] = np.minimum.accumulate(np.maximum(table[-1][:-1], c), axis=0)
        table.append(row)
    worst = table[-1][-1]
    pick = np.argsort(worst, kind="stable")
    pick = pick[np.isfinite(worst[pick])]
    if len(pick) > most:
        # All that are alike in their miss go on; the other criteria decide between them.
        limit = (np.ceil(worst[pick[most - 1]] / full_speed_rpm / MISS_ALIKE)) * MISS_ALIKE * full_speed_rpm
        pick = pick[worst[pick] <= limit][: 40 * most]
    found = []
    for n in pick:
        steps = _trace(table, cost, int(n))
        patterns = tuple(way.patterns[order[j, n]] for j in steps)
        if {m for p in patterns for m in members(p)} == set(NAMES[: sets.shape[1]]):
            found.append(
                _candidate([items[i] for i in sets[n]], patterns, ranked[steps, n], wanted, full_speed_rpm)
            )
    return found


def _trace(table: Sequence[FloatArray], cost: Sequence[FloatArray], n: int) -> list[int]:
    """Which ranked pattern serves each wanted speed in set n: the table walked backwards."""
    steps: list[int] = []
    j = table[0].shape[0] - 1
    for i in range(len(cost), 0, -1):
        while table[i][j - 1, n] <= table[i][j, n] and j > i:
            j -= 1
        steps.append(j - 1)
        j -= 1
    return steps[::-1]


def _read_off(curve: SpeedCurve, capacitance_f: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Speed and capacitor volts between the curve's own values; speed 0 where either neighbour is not usable."""
    x, at = np.log(np.minimum(capacitance_f, 1.0)), np.log(curve.value)
    place = (x - at[0]) / (at[1] - at[0])
    right = np.clip(np.ceil(place).astype(np.int64), 1, len(at) - 1)
    good = curve.usable[right] & curve.usable[right - 1] & (x >= at[0] - 1e-9) & (x <= at[-1] + 1e-9)
    share = place - (right - 1)
    speed, volts = curve.scan.speed_rpm, curve.series_voltage_v
    return (
        np.where(good, (1 - share) * speed[right - 1] + share * speed[right], 0.0),
        (1 - share) * volts[right - 1] + share * volts[right],
    )


def _candidate(
    items: Sequence[Choice],
    patterns: tuple[str, ...],
    steps: FloatArray,
    wanted: FloatArray,
    full_speed_rpm: float,
) -> BankCandidate:
    miss = steps - wanted
    bought = [c for k, c in enumerate(items) if sum(o is c for o in items[: k + 1]) > c.at_hand]
    return BankCandidate(
        tuple(c.capacitor for c in items),
        patterns,
        tuple(float(v) for v in steps),
        tuple(float(v) for v in miss),
        float(np.abs(miss).max() / full_speed_rpm),
        unevenness(steps),
        len(bought),
        float(sum(c.cost for c in bought)),
    )
