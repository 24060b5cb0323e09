"""Banks of parts and contacts, position by position."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fenwit.core.calibrate.bands import sampled
from fenwit.core.circuit import Circuit, Part, PartKind, Position
from fenwit.core.circuit.network import solve_bank
from fenwit.core.errors import InputError
from fenwit.core.methods.series_capacitor.design import BankDesign, bank_circuit
from fenwit.core.size.capacitor import Capacitor
from fenwit.core.size.switch import Switch

OMEGA = 2 * np.pi * 50


def reactance(c: float) -> complex:
    return 1 / (1j * OMEGA * c)


PATTERNS = ("A–B", "A", "B", "A∥B", "direct")


def two_capacitor_bank(a: float, b: float, patterns: tuple[str, ...]) -> Circuit:
    """A two-pole bank without losses, so that it can be worked out by hand."""
    circuit = bank_circuit(BankDesign((Capacitor(a), Capacitor(b)), patterns, Switch(5)))
    return replace(circuit, parts=tuple(replace(p, loss_factor=0.0) for p in circuit.parts))


def two_terminal(*parts: Part, closed: frozenset[str] = frozenset()) -> Circuit:
    return Circuit("in", "out", parts, (Position("1", closed),))


def test_each_position_of_a_two_capacitor_bank_joins_what_it_says() -> None:
    a, b = 1.8e-6, 2.7e-6
    solved = {s.position: s for s in solve_bank(two_capacitor_bank(a, b, PATTERNS), 50)}
    assert not solved["Off"].conducts
    # independent: series and parallel by hand
    expected = [reactance(a) + reactance(b), reactance(a), reactance(b), reactance(a + b), 0]
    for i, z in enumerate(expected):
        assert complex(solved[str(i + 1)].impedance_ohm) == pytest.approx(z, rel=1e-12)


def test_parts_share_volts_in_series_and_amps_in_parallel() -> None:
    a, b = 1.8e-6, 2.7e-6
    series, _, _, parallel, direct = solve_bank(two_capacitor_bank(a, b, PATTERNS), 50)[1:]
    assert abs(series.part_voltage_v_per_a["A"]) == pytest.approx(abs(reactance(a)))
    assert parallel.part_current_a_per_a["A"].real == pytest.approx(a / (a + b))
    # A stands between hub and motor here, so the second pole carries B.
    assert abs(parallel.part_current_a_per_a["2.4"]) == pytest.approx(b / (a + b))
    assert abs(parallel.part_current_a_per_a["F"]) == pytest.approx(1)
    assert abs(direct.part_current_a_per_a["1.5"]) == pytest.approx(1)
    assert abs(direct.part_voltage_v_per_a["B"]) == 0


def test_an_open_contact_shows_the_volts_it_holds_off() -> None:
    solved = solve_bank(two_capacitor_bank(1.8e-6, 2.7e-6, ("A", "direct")), 50)
    assert abs(solved[1].part_voltage_v_per_a["1.2"]) == pytest.approx(abs(reactance(1.8e-6)))


def test_contacts_in_parallel_share_alike() -> None:
    circuit = two_terminal(
        Part("K1", PartKind.CONTACT, "in", "out"),
        Part("K2", PartKind.CONTACT, "in", "out"),
        closed=frozenset({"K1", "K2"}),
    )
    solved = solve_bank(circuit, 50)[0]
    assert solved.part_current_a_per_a["K1"].real == pytest.approx(0.5)
    assert complex(solved.impedance_ohm) == 0


def test_a_bridge_that_is_neither_series_nor_parallel() -> None:
    """Balanced bridge: no current in the middle, so the middle resistor may be anything."""

    def bridge(middle: float) -> Circuit:
        return two_terminal(
            Part("R1", PartKind.RESISTOR, "in", "p", 100),
            Part("R2", PartKind.RESISTOR, "p", "out", 200),
            Part("R3", PartKind.RESISTOR, "in", "q", 50),
            Part("R4", PartKind.RESISTOR, "q", "out", 100),
            Part("M", PartKind.RESISTOR, "p", "q", middle),
        )

    for middle in (1.0, 1e6):
        solved = solve_bank(bridge(middle), 50)[0]
        assert complex(solved.impedance_ohm) == pytest.approx(100.0)  # 300 ∥ 150
        assert abs(solved.part_current_a_per_a["M"]) < 1e-12


def test_a_part_that_dangles_carries_nothing() -> None:
    circuit = two_terminal(
        Part("R", PartKind.RESISTOR, "in", "out", 100),
        Part("C", PartKind.CAPACITOR, "in", "nowhere", 1e-6),
        Part("X", PartKind.RESISTOR, "far", "away", 10),
    )
    solved = solve_bank(circuit, 50)[0]
    assert complex(solved.impedance_ohm) == pytest.approx(100)
    assert abs(solved.part_current_a_per_a["C"]) == pytest.approx(0, abs=1e-12)
    assert abs(solved.part_current_a_per_a["X"]) == 0


def test_a_parallel_resonance_is_refused() -> None:
    c = 1e-6
    circuit = two_terminal(
        Part("L", PartKind.INDUCTOR, "in", "out", 1 / (OMEGA**2 * c)),
        Part("C", PartKind.CAPACITOR, "in", "out", c),
    )
    with pytest.raises(InputError, match="open circuit"):
        solve_bank(circuit, 50)


kinds = st.sampled_from([PartKind.RESISTOR, PartKind.CAPACITOR])


@settings(max_examples=80, deadline=None)
@given(
    st.lists(
        st.tuples(kinds, st.floats(0.1, 10), st.integers(0, 3), st.integers(0, 3)), min_size=1, max_size=8
    )
)
def test_power_into_any_bank_is_the_power_in_its_parts(rows: list[tuple[PartKind, float, int, int]]) -> None:
    nets = ["in", "x", "y", "out"]
    scale = {PartKind.RESISTOR: 100.0, PartKind.CAPACITOR: 1e-6}
    parts = [
        Part(f"P{i}", kind, nets[a], nets[b], value * scale[kind])
        for i, (kind, value, a, b) in enumerate(rows)
        if a != b
    ]
    if not parts:
        return
    circuit = Circuit("in", "out", tuple(parts), (Position("1", frozenset()),))
    solved = solve_bank(circuit, 50)[0]
    if not solved.conducts:
        return
    total = sum(
        solved.part_voltage_v_per_a[p.name] * np.conj(solved.part_current_a_per_a[p.name]) for p in parts
    )
    assert complex(total) == pytest.approx(complex(solved.impedance_ohm), rel=1e-9)


def test_sampled_values_solve_as_one_batch() -> None:
    circuit = two_capacitor_bank(1.8e-6, 2.7e-6, ("A", "A∥B"))
    draws = {"A": sampled(1.8e-6, 0.1, 50, 1), "B": sampled(2.7e-6, 0.1, 50, 2)}
    alone, both = solve_bank(circuit, 50, draws)[1:]
    np.testing.assert_allclose(alone.impedance_ohm, 1 / (1j * OMEGA * draws["A"]))
    np.testing.assert_allclose(both.impedance_ohm, 1 / (1j * OMEGA * (draws["A"] + draws["B"])))
    assert draws["A"].min() >= 1.62e-6
    assert draws["A"].max() <= 1.98e-6


def test_what_cannot_be_built_is_refused() -> None:
    with pytest.raises(InputError, match="both ends"):
        Part("R", PartKind.RESISTOR, "a", "a", 10)
    with pytest.raises(InputError, match="above zero"):
        Part("C", PartKind.CAPACITOR, "a", "b", -1e-6)
    with pytest.raises(InputError, match="two parts bear one name"):
        two_terminal(
            Part("R", PartKind.RESISTOR, "in", "out", 1), Part("R", PartKind.RESISTOR, "in", "out", 2)
        )
    with pytest.raises(InputError, match="no such contact"):
        two_terminal(Part("R", PartKind.RESISTOR, "in", "out", 1), closed=frozenset({"K9"}))
    with pytest.raises(InputError, match="no such pattern"):
        two_capacitor_bank(1e-6, 2e-6, ("C",))
    with pytest.raises(InputError, match="no such part"):
        solve_bank(two_capacitor_bank(1e-6, 2e-6, ("A",)), 50, {"Z": 1.0})
