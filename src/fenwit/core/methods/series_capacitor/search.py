"""The banks nearest to the wanted speeds, from the shelf first.

All sets of capacitors are ranked as long as there are not too many of them; equal parts count as one, larger sets are
left out where they cannot come before what smaller ones gave, and everything is worked off in pieces that fit in little
memory. Of a shelf with thousands of values those close together stand for each other first, and the best banks are then
looked at again with every part near theirs.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from itertools import combinations_with_replacement, islice, product
from math import comb

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
from fenwit.core.work import pause

FloatArray = NDArray[np.float64]
IndexArray = NDArray[np.int64]


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


MOST_SETS = 40_000
"""Sets of one size that are ranked one by one; of more values those close together stand for each other [-]"""
_PIECE = 8_000
_LOOKED_AT_AGAIN, _NEAR = 30, 10
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
    """Rank banks of up to three capacitors: worst miss, evenness, parts at hand, count, cost.

    Speed over capacitance is read off a curve; patterns that do not start, are barred or
    put more volts on a capacitor or an open contact than it is rated for are never used. For each set
    of capacitors and each wiring the patterns, ordered by speed, are matched to the wanted speeds in order with the
    smallest worst miss (dynamic programming, many sets at once).

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
    search = _Search(
        curve, direct_speed_rpm, wanted, full_speed_rpm, sizing, _Items(sizing.fixed, pool), best
    )
    return search.run()


def thinned(sizing: Sizing, pool: Sequence[Choice]) -> bool:
    """Whether so many different values are at hand that those close together stand for each other at first.

    Parameters
    ----------
    sizing : Sizing
        How many capacitors there may be, and fixed ones [-]
    pool : sequence of Choice
        From `choices` [-]

    Returns
    -------
    bool
        True where not every single set is ranked [-]
    """
    items = _Items(sizing.fixed, pool)
    free = sizing.most - len(sizing.fixed)
    return free > 0 and _count_of_sets(len(items.values) - items.fixed, free) > MOST_SETS


def _count_of_sets(values: int, free: int) -> int:
    return comb(values + free - 1, free)


class _Items:
    """What sets are made of: the fixed capacitors first, then every different part of the pool once."""

    def __init__(self, fixed: Sequence[Capacitor], pool: Sequence[Choice]) -> None:
        groups: dict[tuple[object, ...], list[Choice]] = {}
        for choice in pool:
            groups.setdefault(_kind(choice.capacitor), []).append(choice)
        self.fixed = len(fixed)
        self._own = tuple(fixed)
        kinds = list(groups)
        self._groups = [*([Choice(c)] for c in fixed), *groups.values()]
        for i, c in enumerate(fixed):
            self._groups[i] = groups.get(_kind(c), [Choice(c)])
        # A fixed part is one of those in the pool: what it takes is no longer at hand.
        same = [kinds.index(_kind(c)) + self.fixed if _kind(c) in groups else i for i, c in enumerate(fixed)]
        self.same = np.array([*same, *range(self.fixed, self.fixed + len(kinds))], dtype=np.int64)
        first = [group[0] for group in self._groups]
        self.values = np.array([c.capacitor.value_f for c in first])
        self.rated = np.array([c.capacitor.rated_v for c in first])
        self.at_hand = np.array([sum(c.at_hand for c in group) for group in self._groups])
        self.cost = np.array([c.cost for c in first])
        self.classes = [c.capacitor.part_class for c in first]

    def capacitors(self, row: Iterable[int]) -> tuple[Capacitor, ...]:
        """The parts of a set: fixed ones as they are, the rest from where they lie."""
        used: dict[int, int] = {}
        own = {i: self._own[i] for i in row if i < self.fixed}
        ids = [c.shelf_id for c in own.values() if c.shelf_id is not None]
        found = []
        for i in row:
            if i in own:
                found.append(own[i])
                continue
            group = self._groups[i]
            lying = [c.capacitor for c in group for _ in range(min(c.at_hand, 3))]
            for taken in ids:
                lying = _without_one(lying, taken)
            place = used.get(i, 0)
            used[i] = place + 1
            found.append(lying[place] if place < len(lying) else group[0].capacitor)
        return tuple(found)


def _kind(c: Capacitor) -> tuple[object, ...]:
    return c.value_f, c.nominal_f, c.part_class, c.rated_v, c.tolerance, c.measured_f is None


def _without_one(parts: list[Capacitor], shelf_id: int) -> list[Capacitor]:
    place = next((k for k, c in enumerate(parts) if c.shelf_id == shelf_id), None)
    return parts if place is None else parts[:place] + parts[place + 1 :]


_Key = tuple[float, ...]


class _Search:
    """One search: what is asked, and the best found so far."""

    def __init__(
        self,
        curve: SpeedCurve,
        direct_speed_rpm: float | None,
        wanted: FloatArray,
        full_speed_rpm: float,
        sizing: Sizing,
        items: _Items,
        best: int,
    ) -> None:
        self.curve, self.direct, self.wanted, self.full = curve, direct_speed_rpm, wanted, full_speed_rpm
        self.sizing, self.items, self.best = sizing, items, best
        self.kept: dict[tuple[object, ...], tuple[_Key, BankCandidate]] = {}
        self.rows: dict[tuple[object, ...], tuple[int, ...]] = {}

    def run(self) -> tuple[BankCandidate, ...]:
        fixed, total = self.items.fixed, len(self.items.values)
        for count in range(max(1, fixed), self.sizing.most + 1):
            if self._cannot_win():
                break
            free = count - fixed
            whole = np.arange(fixed, total)
            if free == 0:
                self._rank(iter([np.arange(fixed)[None]]), count)
            elif len(whole):
                thin = _count_of_sets(len(whole), free) > MOST_SETS
                some = self._standing_for_others(whole, free) if thin else whole
                self._rank(_sets(fixed, some, free), count)
                if thin:
                    self._look_again(whole, count)
        return tuple(candidate for _, candidate in sorted(self.kept.values(), key=lambda k: k[0]))

    def _cannot_win(self) -> bool:
        """More capacitors come after fewer where all before them in the ranking is as good as it can be."""
        worst = self._limit()
        return worst is not None and worst[:3] == (1.0, 1.0, 0.0)

    def _limit(self) -> _Key | None:
        """The key that a further bank has to come before."""
        if len(self.kept) < self.best:
            return None
        return max(key for key, _ in self.kept.values())

    def _standing_for_others(self, whole: IndexArray, free: int) -> IndexArray:
        """Of values close together one each, those at hand first, as few as can be ranked one by one."""
        cells = len(whole)
        while _count_of_sets(cells, free) > MOST_SETS:
            cells = int(cells * 0.9)
        logs = np.log(self.items.values[whole])
        place = np.floor((logs - logs.min()) / max(float(np.ptp(logs)), 1e-9) * (cells - 1e-6)).astype(
            np.int64
        )
        middle = np.abs((logs - logs.min()) / max(float(np.ptp(logs)), 1e-9) * cells - place - 0.5)
        order = np.lexsort((middle, self.items.at_hand[whole] == 0, place))
        _, first = np.unique(place[order], return_index=True)
        return np.asarray(whole[order[first]])

    def _look_again(self, whole: IndexArray, count: int) -> None:
        """The best sets once more, with every part that is near one of theirs."""
        sorted_by_value = whole[np.argsort(self.items.values[whole], kind="stable")]
        at = {int(i): k for k, i in enumerate(sorted_by_value)}
        for _ in range(2):
            best = sorted(self.kept.items(), key=lambda k: k[1][0])[:_LOOKED_AT_AGAIN]
            rows: list[tuple[int, ...]] = []
            for name, _ in best:
                row = self.rows[name]
                if len(row) != count:
                    continue
                near = [
                    [i]
                    if i < self.items.fixed
                    else sorted_by_value[max(0, at[i] - _NEAR) : at[i] + _NEAR + 1].tolist()
                    for i in row
                ]
                rows += product(*near)
            if not rows:
                return
            unique = np.unique(np.sort(np.array(rows, dtype=np.int64), axis=1), axis=0)
            self._rank((unique[k : k + _PIECE] for k in range(0, len(unique), _PIECE)), count)

    def _rank(self, pieces: Iterator[IndexArray], count: int) -> None:
        for piece in pieces:
            pause()
            sets = np.take_along_axis(
                piece, np.argsort(self.items.values[piece], axis=1, kind="stable"), axis=1
            )
            for way in wirings(count, self.sizing.switch.poles, self.sizing.switch.series_pairs):
                self._take(way, sets)

    def _take(self, way: Wiring, sets: IndexArray) -> None:
        """Rank sets in one wiring, and keep those that come before what was kept."""
        speed = self._speeds(way, sets)
        order = np.argsort(speed, axis=0, kind="stable")
        ranked = np.take_along_axis(speed, order, axis=0)
        # A speed that hardly differs from the one below it is no step of its own.
        alike = np.diff(ranked, axis=0, prepend=-1.0) < 0.01 * self.full
        unusable = (ranked <= 0) | alike
        cost = [np.where(unusable, np.inf, np.abs(ranked - w)) for w in self.wanted]
        table = [np.zeros((len(ranked) + 1, ranked.shape[1]))]
        for c in cost:
            row = np.full_like(table[0], np.inf)
            row[1:] = np.minimum.accumulate(np.maximum(table[-1][:-1], c), axis=0)
            table.append(row)
        worst = table[-1][-1] / self.full
        limit = self._limit()
        usable = np.isfinite(worst)
        if limit is not None:
            usable &= _bin(worst, MISS_ALIKE) <= limit[0]
        some = np.flatnonzero(usable)
        if not len(some):
            return
        steps = _trace([t[:, some] for t in table])
        pattern = np.take_along_axis(order[:, some], steps, axis=0)
        masks = np.array([sum(1 << NAMES.index(m) for m in members(p)) for p in way.patterns])
        whole = np.bitwise_or.reduce(masks[pattern], axis=0) == (1 << sets.shape[1]) - 1
        some, steps, pattern = some[whole], steps[:, whole], pattern[:, whole]
        if not len(some):
            return
        speeds = np.take_along_axis(ranked[:, some], steps, axis=0)
        self._keep(way, sets[some], pattern, speeds, worst[some])

    def _keep(
        self, way: Wiring, sets: IndexArray, pattern: IndexArray, speeds: FloatArray, worst: FloatArray
    ) -> None:
        bought = self._bought(sets)
        price = (self.items.cost[sets] * bought).sum(axis=1)
        keys = np.stack(
            [
                _bin(worst, MISS_ALIKE),
                _bin(_unevenness(speeds), UNEVEN_ALIKE),
                bought.sum(axis=1).astype(np.float64),
                np.full(len(sets), float(sets.shape[1])),
                np.round(price, 6),
                worst,
            ]
        )
        for n in np.lexsort(keys[::-1]):
            key: _Key = tuple(keys[:, n].tolist())
            limit = self._limit()
            if limit is not None and key >= limit:
                break
            row = tuple(int(i) for i in sets[n])
            name = tuple((float(self.items.values[i]), self.items.classes[i]) for i in row)
            if name in self.kept and self.kept[name][0] <= key:
                continue
            patterns = tuple(way.patterns[k] for k in pattern[:, n])
            self.kept[name] = (key, self._candidate(row, patterns, speeds[:, n], int(key[2]), key[4]))
            self.rows[name] = row
            if len(self.kept) > self.best:
                last = max(self.kept, key=lambda name: self.kept[name][0])
                del self.kept[last], self.rows[last]

    def _bought(self, sets: IndexArray) -> NDArray[np.bool_]:
        """Which capacitors of each set are not on the shelf: of equal ones those beyond what lies there."""
        same = self.items.same[sets]
        at_hand = self.items.at_hand[sets]
        before = np.zeros(sets.shape, dtype=np.int64)
        for k in range(1, sets.shape[1]):
            before[:, k] = (same[:, :k] == same[:, k : k + 1]).sum(axis=1)
        return np.asarray(before >= at_hand)

    def _speeds(self, way: Wiring, sets: IndexArray) -> FloatArray:
        picked, rated = self.items.values[sets].T, self.items.rated[sets].T
        joined = np.stack([pattern_capacitance_f(pattern, picked) for pattern in way.patterns])
        speed, volts = _read_off(self.curve, joined)
        # The bank's volts stand across whatever contact is open.
        speed = np.where(volts > self.sizing.switch.rated_voltage_v, 0.0, speed)
        for k, pattern in enumerate(way.patterns):
            if pattern == DIRECT:
                speed[k] = self.direct or 0.0
            for name in members(pattern):
                mine = NAMES.index(name)
                share = joined[k] / picked[mine] if "–" in pattern else 1.0
                # On high mains, and a little to spare for what the curve does not know.
                speed[k] = np.where(1.12 * volts[k] * share > rated[mine], 0.0, speed[k])
        return speed

    def _candidate(
        self, row: tuple[int, ...], patterns: tuple[str, ...], steps: FloatArray, to_buy: int, cost: float
    ) -> BankCandidate:
        miss = steps - self.wanted
        return BankCandidate(
            self.items.capacitors(row),
            patterns,
            tuple(float(v) for v in steps),
            tuple(float(v) for v in miss),
            float(np.abs(miss).max() / self.full),
            unevenness(steps),
            to_buy,
            float(cost),
        )


def _bin(value: FloatArray, width: float) -> FloatArray:
    """Which class of alike values each is in, from 1."""
    return np.maximum(1.0, np.ceil(value / width))


def _unevenness(speeds: FloatArray) -> FloatArray:
    """`unevenness` of every column."""
    gaps = np.diff(speeds, axis=0)
    if len(gaps) < 2:
        return np.zeros(speeds.shape[1])
    return np.asarray(np.abs(gaps / gaps.mean(axis=0) - 1).max(axis=0))


def _sets(fixed: int, whole: IndexArray, free: int) -> Iterator[IndexArray]:
    """Index sets, a piece at a time, each of shape (sets, count): all fixed ones and every choice of the rest."""
    rest = combinations_with_replacement(whole.tolist(), free)
    while piece := list(islice(rest, _PIECE)):
        chosen = np.array(piece, dtype=np.int64)
        yield np.concatenate([np.tile(np.arange(fixed), (len(chosen), 1)), chosen], axis=1)


def _trace(table: Sequence[FloatArray]) -> IndexArray:
    """Which ranked pattern serves each wanted speed in every set: the table walked backwards, shape (steps, sets)."""
    count = table[0].shape[1]
    place = np.full(count, table[0].shape[0] - 1)
    every = np.arange(count)
    found = np.zeros((len(table) - 1, count), dtype=np.int64)
    for i in range(len(table) - 1, 0, -1):
        for _ in range(table[0].shape[0]):
            lower = (place > i) & (table[i][place - 1, every] <= table[i][place, every])
            if not lower.any():
                break
            place = np.where(lower, place - 1, place)
        found[i - 1] = place - 1
        place = place - 1
    return found


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
