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
