"""Real switches, their wirings, and the search for banks."""

from __future__ import annotations

from itertools import combinations, combinations_with_replacement, pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fenwit.core.circuit import PartKind
from fenwit.core.circuit.network import solve_bank
from fenwit.core.errors import InputError
from fenwit.core.methods.series_capacitor.design import BankDesign, bank_circuit
from fenwit.core.methods.series_capacitor.search import choices, search_banks
from fenwit.core.methods.series_capacitor.wiring import members, wiring_for, wirings
from fenwit.core.operating import solve
from fenwit.core.regulator.series import speed_curve
from fenwit.core.size.capacitor import Capacitor, Choice
from fenwit.core.size.classes import PartClass
from fenwit.core.size.sizing import Sizing
from fenwit.core.size.switch import FED, Switch
from tests.known.machines import MAINS, P4, P4_LOAD, S16, S16_LOAD, with_capacitor

CURVE = speed_curve(S16, S16_LOAD, MAINS)
VALUES = {"A": 1.2e-6, "B": 2.7e-6, "C": 4.7e-6}
OMEGA = 2 * np.pi * 50


def by_hand(pattern: str) -> float:
    """Capacitance of a pattern, worked out apart from the code under test."""
    used = [VALUES[m] for m in members(pattern)]
    if "–" in pattern:
        return used[0] * used[1] / (used[0] + used[1])
    return sum(used)


@pytest.mark.parametrize("count", [1, 2, 3])
@pytest.mark.parametrize("poles", [1, 2])
@pytest.mark.parametrize("pairs", [False, True])
def test_every_wiring_of_every_switch_makes_what_it_says(count: int, poles: int, pairs: bool) -> None:
    for way in wirings(count, poles, pairs):
        for pattern in way.patterns:
            design = BankDesign(
                tuple(Capacitor(VALUES[n]) for n in "ABC"[:count]), (pattern,), Switch(2, poles, pairs)
            )
            solved = solve_bank(bank_circuit(design), 50)[1]
            if pattern == "direct":
                assert abs(complex(solved.impedance_ohm)) < 1e-9
            else:
                # tan δ of the parts is a thousandth
                expected = 1 / (1j * OMEGA * by_hand(pattern))
                assert complex(solved.impedance_ohm) == pytest.approx(expected, rel=2e-3)


@pytest.mark.parametrize("poles", [1, 2])
@pytest.mark.parametrize("pairs", [False, True])
def test_no_pole_ever_joins_two_nets(poles: int, pairs: bool) -> None:
    for count in (1, 2, 3):
        for way in wirings(count, poles, pairs):
            patterns = way.patterns[:6]
            switch = Switch(max(2, len(patterns)), poles, pairs)
            circuit = bank_circuit(
                BankDesign(tuple(Capacitor(VALUES[n]) for n in "ABC"[:count]), patterns, switch)
            )
            for position in circuit.positions:
                used = [contact.split(".")[0] for contact in position.closed]
                assert len(used) == len(set(used)) <= poles
            # Every lug of pole 1 starts at the fused supply.
            assert all(
                p.net_a == FED
                for p in circuit.parts
                if p.kind is PartKind.CONTACT and p.name.startswith("1.")
            )


def test_what_a_switch_cannot_make_is_refused() -> None:
    with pytest.raises(InputError, match="no such pattern with this switch"):
        wiring_for(("A∥B",), 2, Switch(2, 1, True))
    with pytest.raises(InputError, match="no such pattern with this switch"):
        wiring_for(("A–B",), 2, Switch(2, 2, False))
    with pytest.raises(InputError, match="with the same wiring"):
        wiring_for(("A–B", "B–C", "A–C"), 3, Switch(3, 1, True))
    with pytest.raises(InputError, match="has 2 positions"):
        wiring_for(("A", "B", "direct"), 2, Switch(2, 2, True))
    with pytest.raises(InputError, match="outside what can be real"):
        Switch(7)


def test_the_bank_of_the_worked_example_is_found() -> None:
    """Published: 1.8 and 2.7 µF give 126, 202 and (together) 286 rpm on motor S16."""
    sizing = Sizing(Switch(4), most=2)
    found = search_banks(CURVE, 330.0, [125.8, 201.9, 286, 330], 330.0, sizing, choices(sizing, (), 230.0))
    mine = next(c for c in found if [p.value_f for p in c.capacitors] == pytest.approx([1.8e-6, 2.7e-6]))
    assert mine.patterns == ("A", "B", "A∥B", "direct")
    assert mine.worst_miss < 0.01
    for value, speed in zip((1.8, 2.7, 4.5), mine.speed_rpm, strict=False):
        point = solve(S16, S16_LOAD, [with_capacitor(value)])[0].running
        assert point is not None
        assert speed == pytest.approx(point.speed_rpm, abs=0.5)


@settings(max_examples=12, deadline=None)
@given(
    st.lists(st.floats(70, 325), min_size=2, max_size=4, unique_by=lambda v: round(v / 12)),
    st.sampled_from([(1, False), (1, True), (2, False), (2, True)]),
)
def test_no_bank_beats_the_best_in_an_exhaustive_search(wanted: list[float], kind: tuple[int, bool]) -> None:
    """Independent: every set of a few values, every wiring, every choice of patterns, one after the other."""
    wanted = sorted(wanted)
    poles, pairs = kind
    sizing = Sizing(Switch(4, poles, pairs), most=2)
    pool = choices(sizing, (), 230.0)[8:17]
    found = search_banks(CURVE, 330.0, wanted, 330.0, sizing, pool, best=40)
    values = [c.capacitor.value_f for c in pool]

    def speed(farads: float) -> float:
        x = np.log(CURVE.value)
        return float(np.interp(np.log(farads), x, np.where(CURVE.usable, CURVE.scan.speed_rpm, 0.0)))

    best = np.inf
    for count in (1, 2):
        for chosen in combinations_with_replacement(values, count):
            named = dict(zip("AB", sorted(chosen), strict=False))
            for way in wirings(count, poles, pairs):
                speeds = []
                for pattern in way.patterns:
                    used = [named[m] for m in members(pattern)]
                    c = used[0] * used[1] / sum(used) if "–" in pattern else sum(used)
                    speeds.append(330.0 if pattern == "direct" else speed(c))
                speeds = sorted(s for s in speeds if s > 50)
                for picked in combinations(speeds, len(wanted)):
                    if all(b - a >= 3.3 for a, b in pairwise(picked)):
                        best = min(best, max(abs(s - w) for s, w in zip(picked, wanted, strict=True)))
    if not found:
        assert best == np.inf
        return
    # What is alike within 2 % of full speed is decided by evenness, shelf and cost.
    smallest = min(c.worst_miss for c in found) * 330
    assert smallest <= best + 0.02 * 330 + 1e-6
    assert smallest >= best - 0.5


def test_what_lies_on_the_shelf_goes_first_among_alike() -> None:
    sizing = Sizing(Switch(4))
    wanted = [124.0, 200.0, 274.0, 330.0]
    shelf = [Choice(Capacitor(c, shelf_id=i), 1) for i, c in enumerate((1.5e-6, 1.8e-6, 2.7e-6), start=1)]
    found = search_banks(CURVE, 330.0, wanted, 330.0, sizing, choices(sizing, shelf, 230.0), best=100)
    alike: dict[tuple[float, float], list[int]] = {}
    for c in found:
        alike.setdefault((np.ceil(c.worst_miss / 0.02), np.ceil(c.unevenness / 0.1)), []).append(c.to_buy)
    assert all(group == sorted(group) for group in alike.values())
    mine = next(c for c in found if {p.shelf_id for p in c.capacitors} == {1, 2, 3})
    assert mine.to_buy == 0
    # One piece cannot be used twice: the second of it is bought.
    twice = [c for c in found if [p.shelf_id for p in c.capacitors].count(3) == 2]
    assert all(c.to_buy >= 1 for c in twice)


def test_a_measured_value_is_searched_with_instead_of_the_printed_one() -> None:
    sizing = Sizing(Switch(2), most=1)
    shelf = [Choice(Capacitor(2.7e-6, measured_f=2.5e-6, shelf_id=7), 1)]
    pool = choices(sizing, shelf, 230.0)
    mine = next(c for c in pool if c.capacitor.shelf_id == 7)
    assert mine.capacitor.value_f == 2.5e-6
    assert any(c.capacitor.value_f == pytest.approx(2.7e-6) and c.at_hand == 0 for c in pool)


def test_refused_and_under_rated_shelf_parts_are_not_searched_with() -> None:
    sizing = Sizing()
    shelf = [
        Choice(Capacitor(2.2e-6, PartClass.DC_FILM, 630.0), 5),
        Choice(Capacitor(40e-6, PartClass.ELECTROLYTIC, 250.0, 0.2), 1),
        Choice(Capacitor(2.4e-6, PartClass.MOTOR_RUN, 250.0), 1),
        Choice(Capacitor(2.6e-6, PartClass.MOTOR_RUN, 450.0), 0),
    ]
    assert all(c.at_hand == 0 for c in choices(sizing, shelf, 230.0))


def test_fixed_capacitors_are_in_every_bank() -> None:
    fixed = Capacitor(2.7e-6)
    sizing = Sizing(Switch(4), fixed=(fixed,))
    found = search_banks(
        CURVE, 330.0, [118.0, 196.0, 277.0, 330.0], 330.0, sizing, choices(sizing, (), 230.0)
    )
    assert len(found) == 10
    assert all(any(c.value_f == 2.7e-6 for c in bank.capacitors) for bank in found)
    with pytest.raises(InputError, match="more fixed"):
        Sizing(most=1, fixed=(fixed, fixed))


def test_no_pattern_of_a_bank_resonates_or_overdoes_a_capacitor() -> None:
    curve = speed_curve(P4, P4_LOAD, MAINS)
    for part_class, rated in ((PartClass.X2_FILM, 305.0), (PartClass.MOTOR_RUN, 450.0)):
        sizing = Sizing(Switch(3), part_class)
        found = search_banks(
            curve, 1270.0, [660.0, 1000.0, 1270.0], 1270.0, sizing, choices(sizing, (), 230.0)
        )
        for bank in found:
            named = dict(zip("ABC", (p.value_f for p in bank.capacitors), strict=False))
            for pattern in bank.patterns:
                used = [named[m] for m in members(pattern)]
                if not used:
                    continue
                farads = used[0] * used[1] / sum(used) if "–" in pattern else sum(used)
                point = solve(P4, P4_LOAD, [with_capacitor(farads * 1e6)])[0].running
                assert point is not None
                assert point.motor_voltage_v <= 1.06 * 230
                for value in used:
                    share = farads / value if "–" in pattern else 1.0
                    assert point.series_voltage_v * share <= rated


def test_steps_that_cannot_be_made_are_refused_or_left_out() -> None:
    sizing = Sizing(Switch(2))
    pool = choices(sizing, (), 230.0)
    with pytest.raises(InputError, match="has 2 positions"):
        search_banks(CURVE, 330.0, [100, 200, 300], 330.0, sizing, pool)
    with pytest.raises(InputError, match="same speed"):
        search_banks(CURVE, 330.0, [100, 100], 330.0, sizing, pool)
    found = search_banks(CURVE, None, [200, 330], 330.0, sizing, pool)
    assert all("direct" not in c.patterns for c in found)
    assert search_banks(CURVE, None, [5.0, 330.0], 330.0, Sizing(Switch(2), most=1), pool[:1]) == ()


# ---------------------------------------------------------------- every set, one by one


def matched(speeds: list[float], wanted: list[float]) -> list[int] | None:
    """*Independent*: the speeds that miss the wanted ones least at worst, from the last down; the slower of equals."""

    def least(upto: int, steps: int) -> float:
        rows = combinations(speeds[:upto], steps)
        return min(
            (max(abs(v - w) for v, w in zip(row, wanted, strict=False)) for row in rows), default=np.inf
        )

    found: list[int] = []
    upto = len(speeds)
    for steps in range(len(wanted), 0, -1):
        best = least(upto, steps)
        if not np.isfinite(best):
            return None
        upto = next(k for k in range(steps, upto + 1) if least(k, steps) <= best) - 1
        found.insert(0, upto)
    return found


def every_bank(
    wanted: list[float], sizing: Sizing, pool: tuple[Choice, ...], best: int
) -> list[tuple[tuple[float, ...], tuple[float, ...]]]:
    """*Independent*: every set in every wiring with every choice of patterns, in plain loops; keys and values."""
    full = 330.0
    found: dict[tuple[object, ...], tuple[float, ...]] = {}
    grid, speeds = CURVE.value, CURVE.scan.speed_rpm

    def read(farads: float, rated: list[tuple[float, float]]) -> float:
        if np.isinf(farads):
            return full
        place = (np.log(min(farads, 1.0)) - np.log(grid[0])) / (np.log(grid[1]) - np.log(grid[0]))
        right = min(max(int(np.ceil(place)), 1), len(grid) - 1)
        if not (CURVE.usable[right] and CURVE.usable[right - 1] and 0 <= place <= len(grid) - 1):
            return 0.0
        share = place - (right - 1)
        volts = (1 - share) * CURVE.series_voltage_v[right - 1] + share * CURVE.series_voltage_v[right]
        if volts > sizing.switch.rated_voltage_v or any(1.12 * volts * part > v for part, v in rated):
            return 0.0
        return float((1 - share) * speeds[right - 1] + share * speeds[right])

    for count in range(1, sizing.most + 1):
        for chosen in combinations_with_replacement(pool, count):
            rows = sorted(chosen, key=lambda c: c.capacitor.value_f)
            values = dict(zip("ABC", rows, strict=False))
            bought = sum(sum(o is c for o in rows[: k + 1]) > c.at_hand for k, c in enumerate(rows))
            price = sum(c.cost for k, c in enumerate(rows) if sum(o is c for o in rows[: k + 1]) > c.at_hand)
            for way in wirings(count, sizing.switch.poles, sizing.switch.series_pairs):
                made = []
                for pattern in way.patterns:
                    used = [values[m].capacitor for m in members(pattern)]
                    total = sum(c.value_f for c in used) if used else np.inf
                    if "–" in pattern:
                        total = used[0].value_f * used[1].value_f / total
                    shares = [(total / c.value_f if "–" in pattern else 1.0, c.rated_v) for c in used]
                    made.append((read(total, shares), pattern))
                made.sort(key=lambda m: m[0])
                apart = [
                    (v, p)
                    for k, (v, p) in enumerate(made)
                    if v > 0 and v - (made[k - 1][0] if k else -1.0) >= 0.01 * full
                ]
                some = matched([v for v, _ in apart], wanted)
                if some is not None and {m for k in some for m in members(apart[k][1])} == set("ABC"[:count]):
                    got = [apart[k][0] for k in some]
                    miss = max(abs(v - w) for v, w in zip(got, wanted, strict=True)) / full
                    gaps = np.diff(got)
                    uneven = 0.0 if len(gaps) < 2 else float(np.abs(gaps / gaps.mean() - 1).max())
                    bins = (max(1, np.ceil(miss / 0.02)), max(1, np.ceil(uneven / 0.1)))
                    key = (*bins, bought, count, round(price, 6), miss)
                    name = tuple((c.capacitor.value_f, c.capacitor.part_class) for c in rows)
                    if name not in found or key < found[name]:
                        found[name] = key
    return sorted((key, tuple(v for v, _ in name)) for name, key in found.items())[:best]  # type: ignore[misc]


@settings(max_examples=25, deadline=None)
@given(
    st.lists(
        st.tuples(
            st.sampled_from([0.47, 1.0, 1.2, 1.5, 1.8, 2.2, 2.7, 3.3, 4.7]), st.integers(1, 3), st.floats(0.96, 1.04)
        ),
        min_size=2, max_size=6,
    ),
    st.lists(st.integers(90, 320), min_size=1, max_size=3, unique=True),
    st.integers(1, 2), st.booleans(), st.booleans(),
)  # fmt: skip
def test_the_best_ten_are_those_of_a_search_through_everything(
    shelf: list[tuple[float, int, float]], wanted: list[int], poles: int, pairs: bool, direct: bool
) -> None:
    parts = [
        Choice(Capacitor(1e-6 * v, measured_f=1e-6 * v * read, shelf_id=i), count)
        for i, (v, count, read) in enumerate(shelf, start=1)
    ]
    speeds = sorted([float(w) for w in wanted] + ([330.0] if direct else []))
    sizing = Sizing(Switch(6, poles, pairs, rated_voltage_v=400.0))
    pool = tuple(sorted(parts, key=lambda c: c.capacitor.value_f))
    found = search_banks(CURVE, 330.0, speeds, 330.0, sizing, pool)
    expected = every_bank(speeds, sizing, pool, 10)
    assert [b.worst_miss for b in found] == pytest.approx([key[5] for key, _ in expected], abs=1e-9)
    assert [b.to_buy for b in found] == [key[2] for key, _ in expected]
    # Banks that miss by the same part are alike to the last digit: among them, and with what comes just after the ten,
    # the order is open.
    last = round(expected[-1][0][5], 9) if expected else 0.0
    mine = {(round(b.worst_miss, 9), tuple(c.value_f for c in b.capacitors)) for b in found}
    theirs = {(round(key[5], 9), v) for key, v in expected}
    assert {pair for pair in mine if pair[0] != last} == {pair for pair in theirs if pair[0] != last}


def test_thousands_of_parts_are_searched_and_the_best_are_as_good_as_of_a_part_of_them() -> None:
    random = np.random.default_rng(12)
    values = np.exp(random.uniform(np.log(0.2e-6), np.log(9e-6), 3000)).round(10)
    shelf = [Choice(Capacitor(float(v), shelf_id=i), 2) for i, v in enumerate(values, start=1)]
    sizing, wanted = Sizing(Switch(6, rated_voltage_v=400.0)), [125.8, 201.9, 286.0, 330.0]
    few = search_banks(CURVE, 330.0, wanted, 330.0, sizing, choices(sizing, shelf[:40], 230.0), best=1)[0]
    many = search_banks(CURVE, 330.0, wanted, 330.0, sizing, choices(sizing, shelf, 230.0))
    assert len(many) == 10
    assert many[0].to_buy == 0
    assert np.ceil(many[0].worst_miss / 0.02) <= np.ceil(few.worst_miss / 0.02)
    assert many[0].worst_miss < 0.02
