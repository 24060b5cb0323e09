"""A phase-angle control as it is built: its circuit, its parts, its picture."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from fenwit.core.circuit import PartKind
from fenwit.core.circuit.contacts import truth_table
from fenwit.core.errors import InputError
from fenwit.core.methods.phase_angle.design import (
    Edge,
    FiredBy,
    PhaseDesign,
    Pulse,
    Unit,
    knob_watts,
    off_leakage,
    phase_circuit,
)
from fenwit.core.methods.phase_angle.sketch import sketch
from fenwit.core.methods.phase_angle.triac import TriacDesign, size_triac
from fenwit.core.operating import Source
from fenwit.core.regulator.diac import DiacNetwork, firing, resistor_mean_square
from fenwit.core.regulator.firing import ZeroDetector, firing_curve
from fenwit.report.picture import picture_svg
from fenwit.report.schematic import schematic_picture
from tests.known.machines import MAINS
from tests.known.triac import C16, C16_LOAD

ONE = DiacNetwork(4.7e3, 470e3, 100e-9)
TWO = replace(ONE, across_ohm=1e6, second_ohm=15e3, second_f=47e-9)
KNOB = PhaseDesign((120.0, 90.0), FiredBy.KNOB, ONE)
TABLE = PhaseDesign((120.0, 90.0))
BARE = replace(KNOB, snubbed=False, filtered=False, fused=False)
ALL = (
    KNOB,
    replace(KNOB, network=TWO),
    TABLE,
    BARE,
    replace(TABLE, filtered=False),
    replace(TABLE, fused=False),
)


@pytest.fixture(scope="module")
def sized() -> TriacDesign:
    return size_triac(C16, C16_LOAD, firing_curve(C16, C16_LOAD, MAINS, 1.1), TABLE.triac)


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"firing_deg": ()}, "angles"),
        ({"firing_deg": (90.0,) * 9}, "angles"),
        ({"firing_deg": (90.0, 179.0)}, "angles[1]"),
        ({"firing_deg": (float("nan"),)}, "angles[0]"),
        ({"network": None}, "fired_by"),
        ({"fired_by": FiredBy.TABLE}, "fired_by"),
    ],
)
def test_a_control_that_cannot_be_is_refused(change: dict[str, object], field: str) -> None:
    with pytest.raises(InputError) as error:
        replace(KNOB, **change)  # type: ignore[arg-type]
    assert error.value.field == field


@pytest.mark.parametrize("design", ALL)
def test_the_circuit_has_what_is_fitted_and_no_more(design: PhaseDesign, sized: TriacDesign) -> None:
    circuit = phase_circuit(design, sized, MAINS)
    kinds = [p.kind for p in circuit.parts]
    assert kinds.count(PartKind.TRIAC) == 1
    assert (PartKind.FUSE in kinds) == design.fused
    assert (PartKind.INDUCTOR in kinds) == (PartKind.VARISTOR in kinds) == design.filtered
    assert ("RS" in {p.name for p in circuit.parts}) == design.snubbed
    assert (PartKind.DIAC in kinds) == (design.fired_by is FiredBy.KNOB)
    # Every net but the terminals joins at least two parts, the gate included.
    ends = [n for p in circuit.parts for n in (p.net_a, p.net_b, p.net_gate) if n]
    assert all(ends.count(n) >= 2 for n in set(ends) - {"line", "load", "neutral"})
    assert truth_table(circuit) == (("Off", ()), ("On", ("S",)))


def test_what_leaks_past_the_open_triac_is_what_bridges_it(sized: TriacDesign) -> None:
    w = 2j * np.pi * 50
    snubber = sized.snubber.ohm + 1 / (w * sized.snubber.farads)
    z = off_leakage(phase_circuit(TABLE, sized, MAINS), MAINS)
    # With a neutral only the snubber bridges it, behind the choke; the X capacitor stands across the mains.
    assert z == pytest.approx(w * sized.filter.choke_h + snubber, rel=1e-7)
    knob = 1 / (1 / snubber + 1 / (474.7e3 + 1 / (w * 100e-9)))
    wanted = 1 / (w * sized.filter.capacitor_f + 1 / (w * sized.filter.choke_h + knob))
    assert off_leakage(phase_circuit(KNOB, sized, MAINS), MAINS) == pytest.approx(wanted, rel=1e-7)
    only_knob = off_leakage(phase_circuit(BARE, sized, MAINS), MAINS)
    assert only_knob == pytest.approx(474.7e3 + 1 / (w * 100e-9), rel=1e-7)
    bare_table = replace(TABLE, snubbed=False)
    assert off_leakage(phase_circuit(bare_table, sized, MAINS), MAINS) is None


@pytest.mark.parametrize("design", ALL)
def test_every_part_is_drawn_once_and_none_on_another(design: PhaseDesign, sized: TriacDesign) -> None:
    circuit = phase_circuit(design, sized, MAINS)
    drawing = sketch(circuit)
    names = [p.part for p in drawing.placed]
    assert sorted(names) == sorted(p.name for p in circuit.parts)
    for i, a in enumerate(drawing.placed):
        for b in drawing.placed[i + 1 :]:
            assert a.y != b.y or a.x2 <= b.x1 + 1e-9 or b.x2 <= a.x1 + 1e-9, (a, b)
    # No upright wire runs through a part.
    for w in drawing.wires:
        if w.x1 == w.x2:
            low, high = sorted((w.y1, w.y2))
            assert not [p for p in drawing.placed if low < p.y < high and p.x1 + 0.05 < w.x1 < p.x2 - 0.05]
    assert bool(drawing.neutral) == (design.fired_by is FiredBy.TABLE)
    svg = picture_svg(schematic_picture(drawing, {"T": "T <b>4 A</b>", "P": "P $x$"}, "L 230 V", "a control"))
    assert "<b>" not in svg
    assert svg.count("motor") >= 1


def brute_mean_square(network: DiacNetwork, ohm: float, steps: int = 40_000) -> float:
    """Square of the volts across the first resistor by small steps over twelve half-cycles, into a resistive load."""
    dt = 0.01 / steps
    v1 = v2 = total = 0.0
    two = network.second_ohm is not None and network.second_f is not None
    for half in range(14):
        sign = 1.0 if half % 2 == 0 else -1.0
        fired = False
        t = (np.arange(steps) + 0.5) * dt
        mains = sign * np.sqrt(2) * 230 * np.sin(2 * np.pi * 50 * t)
        for u in mains:
            across = (0.0 if fired else u) - v1
            if half >= 12:
                total += across * across
            i = across / ohm
            if two:
                i2 = (v1 - v2) / (network.second_ohm or 1.0)
                v1 += (i - i2) / network.capacitance_f * dt
                v2 += i2 / (network.second_f or 1.0) * dt
            else:
                v1 += i / network.capacitance_f * dt
                v2 = v1
            if not fired and sign * v2 >= network.breakover_v:
                fired = True
                v2 = sign * (network.breakover_v - network.breakback_v)
                if not two:
                    v1 = v2
    return total / (2 * steps)


@pytest.mark.parametrize("network", [ONE, TWO])
@pytest.mark.parametrize("ohm", [22e3, 100e3])
def test_the_knobs_heat_is_that_of_small_steps(network: DiacNetwork, ohm: float) -> None:
    exact = resistor_mean_square(network, np.array([ohm]), 230.0, 50.0)[0]
    assert exact == pytest.approx(brute_mean_square(network, ohm, 4000), rel=0.02)


def test_the_second_resistor_bears_the_volts_between_the_capacitors() -> None:
    ohm = np.array([22e3, 100e3])
    first, second = (resistor_mean_square(TWO, ohm, 230.0, 50.0, second=s) for s in (False, True))
    assert (second > 0).all()
    assert (second < 0.1 * first).all()
    # What charges the second capacitor to the diac's volts and empties it again goes through it.
    assert second.max() < 60**2
    with pytest.raises(InputError):
        resistor_mean_square(ONE, ohm, 230.0, 50.0, second=True)


def test_where_the_diac_does_not_fire_resistor_and_capacitor_share_the_mains() -> None:
    ohm = np.array([2e6])
    assert np.isinf(firing(ONE, ohm, 230.0, 50.0).down_rad[0])
    x = 1 / (2 * np.pi * 50 * ONE.capacitance_f)
    wanted = 230**2 * 4e12 / (4e12 + x * x)
    assert resistor_mean_square(ONE, ohm, 230.0, 50.0)[0] == pytest.approx(wanted, rel=1e-3)


def test_heat_divides_between_the_knob_and_what_stands_across_it() -> None:
    turn = np.linspace(0, 1, 41)
    alone = knob_watts(ONE, MAINS, turn, None)
    shared = knob_watts(replace(ONE, across_ohm=470e3), MAINS, turn, None)
    assert alone[1] == 0
    assert shared[0] < alone[0]
    assert shared[1] > 0
    assert min(alone[0], alone[2]) > 0.01


def test_the_edge_that_is_counted_from_moves_the_delay() -> None:
    middle, rising = Unit(), Unit(edge=Edge.RISING)
    assert middle.edge_deg(MAINS) == 0
    assert middle.edge_doubt_deg(MAINS) == 0
    assert rising.edge_deg(MAINS) < -1
    assert rising.edge_doubt_deg(MAINS) > 0
    late = replace(rising, lag_us=100.0)
    assert late.edge_deg(MAINS) - rising.edge_deg(MAINS) == pytest.approx(360 * 50 * 100e-6)
    assert TABLE.short_pulse
    assert not KNOB.short_pulse
    assert not replace(TABLE, unit=Unit(pulse=Pulse.TRAIN)).short_pulse
    with pytest.raises(InputError):
        Unit(lag_us=5000.0)
    with pytest.raises(InputError):
        Unit(ZeroDetector(5e6, 1e-3, 0.5, 1.0), Edge.RISING).edge_deg(Source(230.0, 50.0))
