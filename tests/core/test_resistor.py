"""Resistors in the line: known answers, heat that adds up, parts that bear it, and what a miss means."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fenwit.core.circuit.drawing import draw
from fenwit.core.circuit.network import solve_bank
from fenwit.core.errors import InputError
from fenwit.core.frame import frame, why
from fenwit.core.job.steps import LINE_CURRENT, SPEED
from fenwit.core.methods.seam import Missed
from fenwit.core.methods.series_resistor import SERIES_RESISTOR
from fenwit.core.methods.series_resistor.builds import (
    BUILDS,
    Build,
    Enclosure,
    carries_w,
    clearance_m,
    surface_c,
)
from fenwit.core.methods.series_resistor.design import (
    Resistor,
    ResistorDesign,
    Scheme,
    resistor_circuit,
)
from fenwit.core.methods.series_resistor.energy import beside_w, energy_of
from fenwit.core.methods.series_resistor.rating import rate
from fenwit.core.methods.series_resistor.search import OnShelf, needed_ohm, offers, resistors_for
from fenwit.core.motor.kinds import Method
from fenwit.core.operating import Source, solve
from fenwit.core.regulator.series import SettingKind, values_for_speeds
from fenwit.core.size.rated import Burden, RatedKind
from fenwit.core.size.switch import Switch
from tests.core.shapes import balance, fan_of, place
from tests.core.test_frame import SWEEP
from tests.known.machines import MAINS, S16, S16_LOAD

WANTED = (150.0, 225.0, 290.0)
CHAIN = ResistorDesign(Scheme.CHAIN, (Resistor(470), Resistor(300), Resistor(270)), switch=Switch())
APART = ResistorDesign(Scheme.SEPARATE, (Resistor(1000), Resistor(560), Resistor(270)))
BUILT = replace(SWEEP, design=CHAIN, sizing=replace(SWEEP.sizing, method=Method.SERIES_RESISTOR))


def stress(part_name: str, burden: Burden, design: ResistorDesign = CHAIN):  # type: ignore[no-untyped-def]
    part = next(p for p in rate(S16, S16_LOAD, MAINS, design).parts if p.name == part_name)
    return next(s for s in part.stresses if s.burden is burden)


# ---------------------------------------------------------------- known answers


def test_the_resistors_of_three_speeds() -> None:
    """*Independent*: 1013.7, 568.3, 264.0 Ω; 33.37, 45.17, 57.26 W in; 21.4, 22.0, 16.4 W of it in the resistor."""
    found = values_for_speeds(S16, S16_LOAD, MAINS, SettingKind.RESISTANCE, WANTED)
    assert [round(i.value or 0, 1) for i in found] == [1013.7, 568.3, 264.0]
    points = [i.solution.running for i in found if i.solution]
    assert [round(p.input_power_w, 2) for p in points if p] == [33.37, 45.17, 57.26]
    assert [round(p.series_loss_w, 1) for p in points if p] == [21.4, 22.0, 16.4]


def test_a_year_beside_the_capacitors() -> None:
    """*Independent*: 10, 6, 4 h a day, 300 days: 250.1 kWh, with capacitors 127.1; 12.03, 23.26, 40.92 W."""
    solutions = solve(S16, S16_LOAD, [Source(230, 50, complex(r)) for r in (1013.7, 568.3, 264.0)])
    year = energy_of(S16, MAINS, solutions, (10, 6, 4), 300)
    assert year.kwh == pytest.approx(250.1, abs=0.06)
    assert year.beside_kwh == pytest.approx(127.1, abs=0.06)
    assert [round(s.beside_w or 0, 2) for s in year.steps] == [12.03, 23.26, 40.92]


def test_a_chain_of_preferred_values() -> None:
    """*Independent*: 270 + 300 + 470 Ω run S16 at 288.9, 224.6, 146.7 rpm."""
    speeds = [s.running.speed_rpm for s in rate(S16, S16_LOAD, MAINS, CHAIN).nominal if s.running]
    assert [round(n, 1) for n in speeds[:3]] == [146.7, 224.6, 288.9]


def test_the_capacitor_beside_it_is_the_one_that_is_solved_for() -> None:
    for speed in (120.0, 200.0, 280.0):
        ohm, farad = (
            values_for_speeds(S16, S16_LOAD, MAINS, kind, [speed])[0].solution
            for kind in (SettingKind.RESISTANCE, SettingKind.CAPACITANCE)
        )
        assert ohm is not None
        assert ohm.running is not None
        assert farad is not None
        assert farad.running is not None
        # Lossless there; its dielectric takes some thousandths of what it carries.
        assert beside_w(S16, MAINS, ohm.running) == pytest.approx(farad.running.input_power_w, abs=0.06)


# ---------------------------------------------------------------- the design


def test_each_step_joins_what_its_circuit_joins() -> None:
    for design in (CHAIN, APART, replace(APART, direct=False)):
        values = np.array([r.value_ohm for r in design.resistors])
        solved = [complex(p.impedance_ohm) for p in solve_bank(resistor_circuit(design), 50.0)[1:]]
        assert np.allclose(solved, design.in_line_ohm(values), atol=1e-6)
    assert [CHAIN.label(k) for k in range(4)] == ["R1–R3", "R2–R3", "R3", "direct"]


@pytest.mark.parametrize(
    ("change", "field", "reason"),
    [
        ({"resistors": ()}, "resistors", "one to five"),
        ({"resistors": (Resistor(100), Resistor(200)), "scheme": Scheme.SEPARATE}, "resistors", "most ohms"),
        ({"switch": Switch(positions=3)}, "switch.positions", "4 steps need"),
        ({"room_c": 75.0}, "room_c", "°C"),
        ({"fuse_a": 0.0}, "fuse_a", "A"),
        ({"hours_a_day": (1.0, 2.0)}, "hours", "one for each step"),
        ({"hours_a_day": (0.0,) * 4}, "hours", "nothing runs"),
        ({"hours_a_day": (7.0,) * 4}, "hours", "a day has 24"),
        ({"hours_a_day": (-1.0, 2.0, 2.0, 2.0)}, "hours", ""),
        ({"days_a_year": 0.0}, "days_a_year", ""),
    ],
)
def test_a_regulator_that_cannot_be(change: dict[str, object], field: str, reason: str) -> None:
    with pytest.raises(InputError) as caught:
        replace(CHAIN, **change)  # type: ignore[arg-type]
    assert caught.value.field == field
    assert reason in str(caught.value)


def test_a_resistor_that_cannot_be() -> None:
    for bad in (
        {"nominal_ohm": -1.0},
        {"nominal_ohm": 1e6},
        {"tolerance": 0.9},
        {"rated_w": 0.0},
        {"measured_ohm": 10.0},
    ):
        with pytest.raises(InputError):
            replace(Resistor(470), **bad)  # type: ignore[arg-type]


# ---------------------------------------------------------------- heat and rating


@given(st.sampled_from(Build), st.floats(1, 250), st.floats(0, 1), st.floats(-20, 150))
def test_what_it_carries_falls_with_the_air_and_its_surface_stays_in_bounds(
    build: Build, rated: float, share: float, air: float
) -> None:
    carries = float(carries_w(build, rated, air))
    assert 0 <= carries <= rated
    assert float(carries_w(build, rated, air + 10)) <= carries + 1e-9
    # At its derated watts the straight line is at least as careful as the body's own cooling.
    facts = BUILDS[build]
    assert float(surface_c(build, rated, 0.5 * share * carries, air)) <= max(facts.hottest_c, air) + 1e-6
    assert float(surface_c(build, rated, 0.0, air)) == air


def test_rated_watts_bring_the_hottest_surface() -> None:
    for build, facts in BUILDS.items():
        assert float(surface_c(build, 25.0, 25.0, facts.air_c)) == pytest.approx(facts.hottest_c)
        assert float(carries_w(build, 25.0, facts.hottest_c)) == 0
        assert float(carries_w(build, 25.0, facts.air_c)) == 25.0


def test_twice_the_distance_for_four_times_the_heat() -> None:
    near, far = clearance_m(20.0, 30.0), clearance_m(80.0, 30.0)
    # √(P / 4π h ΔT) at 20 W, 10 W/m²K, 60 K: 51.5 mm, kept to the centimetre
    assert near == pytest.approx(0.06)
    assert far == pytest.approx(0.11)
    assert clearance_m(0.0, 30.0) == pytest.approx(0.02)
    with pytest.raises(InputError):
        clearance_m(20.0, 80.0)


def test_heat_in_the_resistors_is_what_the_solver_says_is_lost() -> None:
    rated = rate(S16, S16_LOAD, MAINS, CHAIN)
    lost = [[s.running.series_loss_w if s.running else 0.0 for s in row] for row in rated.solutions]
    assert np.allclose(rated.load.heat_w[0].sum(axis=-1), lost, rtol=1e-9)


def test_watts_are_weighed_at_the_worst_step_on_high_mains() -> None:
    watts = stress("R3", Burden.WATTS)
    assert watts.mains == 1.1
    point = rate(S16, S16_LOAD, MAINS, CHAIN).solutions[2][int(watts.position) - 1].running
    assert point is not None
    assert watts.value == pytest.approx(point.line_current_a**2 * 270)
    # A fan held fast makes it hotter than any running one.
    held = stress("R3", Burden.HEAT)
    assert held.moment.value == "at rest"


def test_fenwit_takes_the_smallest_size_that_will_do() -> None:
    rated = rate(S16, S16_LOAD, MAINS, CHAIN)
    for resistor, part in zip(rated.design.resistors, rated.parts, strict=False):
        assert part.refusal == ""
        sizes = BUILDS[resistor.build].watts
        at = sizes.index(resistor.rated_w or 0)
        smaller = tuple(
            replace(r, rated_w=sizes[at - 1]) if r is resistor else r for r in rated.design.resistors
        )
        again = rate(S16, S16_LOAD, MAINS, replace(CHAIN, resistors=smaller))
        assert next(p for p in again.parts if p.name == part.name).refusal


def test_warmer_air_asks_for_larger_resistors() -> None:
    sizes = [
        sum(
            r.rated_w or 0
            for r in rate(S16, S16_LOAD, MAINS, replace(CHAIN, enclosure=e, room_c=t)).design.resistors
        )
        for e, t in ((Enclosure.OPEN, 20.0), (Enclosure.VENTED, 40.0), (Enclosure.CLOSED, 50.0))
    ]
    assert all(a <= b for a, b in pairwise(sizes))
    assert sizes[0] < sizes[-1]


def test_a_closed_housing_cooks_its_switch() -> None:
    closed = rate(S16, S16_LOAD, MAINS, replace(CHAIN, enclosure=Enclosure.CLOSED))
    wire = next(p for p in closed.parts if p.kind is RatedKind.WIRE)
    assert "mount the resistors outside" in wire.refusal
    open_ = rate(S16, S16_LOAD, MAINS, replace(CHAIN, enclosure=Enclosure.OPEN))
    assert not any(p.refusal for p in open_.parts)


def test_a_resistor_set_too_small_says_by_how_much() -> None:
    small = replace(CHAIN, resistors=(replace(CHAIN.resistors[0], rated_w=5.0), *CHAIN.resistors[1:]))
    part = rate(S16, S16_LOAD, MAINS, small).parts[0]
    assert part.by_hand
    assert part.refusal.startswith("too small: 11.5 W at step 1")


def test_the_first_rush_is_twice_the_crest_at_rest() -> None:
    y = complex(S16.respond(np.array(1.0), 50.0).admittance_s)
    peak = stress("S", Burden.PEAK)
    assert peak.value == pytest.approx(2 * np.sqrt(2) * 1.1 * 230 * abs(y))
    melting = stress("F", Burden.MELTING)
    # ∫ over one period of (Î(1 − cos ωt))² = 1.5 Î² T
    assert melting.value == pytest.approx(1.5 * (peak.value / 2) ** 2 / 50)


# ---------------------------------------------------------------- choosing


def test_a_chain_makes_up_for_the_error_of_its_faster_steps() -> None:
    found = resistors_for((1013.7, 568.3, 264.0), Scheme.CHAIN, Build.TUBE)
    assert [r.nominal_ohm for r in found] == [430.0, 300.0, 270.0]
    apart = resistors_for((1013.7, 568.3, 264.0), Scheme.SEPARATE, Build.TUBE)
    assert [r.nominal_ohm for r in apart] == [1000.0, 560.0, 270.0]


def test_the_shelf_goes_first_where_it_is_near_and_only_as_often_as_it_has_one() -> None:
    mine = OnShelf(Resistor(275.0, Build.CEMENT, 50.0, 0.05, None, 7), 1)
    found = resistors_for((540.0, 270.0), Scheme.CHAIN, Build.TUBE, [mine])
    assert [r.shelf_id for r in found] == [None, 7]
    far = OnShelf(Resistor(350.0, Build.CEMENT, 50.0, 0.05, None, 7), 9)
    assert all(r.shelf_id is None for r in resistors_for((540.0, 270.0), Scheme.CHAIN, Build.TUBE, [far]))


def test_offers_hit_the_wanted_speeds_and_refuse_what_no_resistor_gives() -> None:
    fan = fan_of(SWEEP)
    found = offers(fan, SWEEP, Build.TUBE, Enclosure.VENTED, 30.0, ())
    assert {o.design.scheme for o in found} == set(Scheme)
    for offer in found:
        assert offer.design.direct
        assert all(
            abs(n - w) < 0.04 * fan.full_rpm for n, w in zip(offer.speed_rpm, SWEEP.wanted_rpm, strict=True)
        )
    with pytest.raises(InputError, match="start"):
        needed_ohm(fan, (15.0, 200.0))
    with pytest.raises(InputError, match="one resistor for each"):
        needed_ohm(fan, (330.0,))


# ---------------------------------------------------------------- through the frame


def test_a_job_with_resistors_is_told_like_any_other() -> None:
    shown = frame(BUILT)
    assert [m.label for m in shown.marks] == ["R1–R3", "R2–R3", "R3", "direct"]
    assert all(m.verdict == "ok" for m in shown.marks)
    for path in shown.paths:
        into, out = balance(path)
        assert into == pytest.approx(out, rel=1e-6)
    assert any("W heat" in v.text for p in shown.paths for v in p.places[1].values)
    assert [p.name for p in shown.parts] == ["R1", "R2", "R3", "F", "S", "W"]
    assert len(shown.rules) >= 4
    assert len(shown.spreads) == 4
    assert {"hot-resistors", "mains-parts"} <= {c.key for c in shown.cautions}
    assert place(shown.paths[0], shown.paths[0].places[0].kind).power_w > 0


def test_every_number_of_it_explains_itself() -> None:
    shown = frame(BUILT)
    for of in ("speed", "motor-volts", "amps", "regulator-heat", "needed", "start"):
        assert why(BUILT, f"step:2:{of}").numbers
    for part in shown.parts:
        for s in part.stresses:
            assert why(BUILT, f"part:{part.name}:{s.burden}").equation
    assert "½ P_rated" in why(BUILT, "part:R1:value").equation
    with pytest.raises(InputError):
        why(BUILT, "part:S:value")


def test_what_a_miss_points_to() -> None:
    fan = fan_of(BUILT)
    steps = SERIES_RESISTOR.steps(fan, CHAIN, SWEEP.wanted_rpm, False)

    def said(number: int, value: float, quantity=SPEED, low: bool = True) -> str:  # type: ignore[no-untyped-def]
        return SERIES_RESISTOR.missed(fan, CHAIN, steps[number - 1], Missed(quantity, value, low, True))

    assert "burnt open" in said(2, 0.0)
    assert "they share" in said(2, 0.0)
    assert "bridges R2–R3" in said(2, 330.0, low=False)
    slow = steps[1].shown
    assert slow is not None
    words = said(2, slow.speed_rpm * 0.85)
    assert "as if" in words
    assert "(+" in words
    assert "the fan itself is sound" in words
    assert "Check the meter" in said(2, 0.1, LINE_CURRENT)


def test_heat_and_energy_go_into_the_record() -> None:
    fan = fan_of(BUILT)
    steps = SERIES_RESISTOR.steps(fan, CHAIN, SWEEP.wanted_rpm, False)
    (annex,) = SERIES_RESISTOR.annexes(fan, CHAIN, steps)
    assert any("kWh; with capacitors" in line for line in annex.lines)
    assert sum(line.startswith("R") for line in annex.lines) == 3


@pytest.mark.parametrize("design", [CHAIN, APART, replace(CHAIN, direct=False)])
def test_no_wire_of_the_schematic_runs_through_a_part(design: ResistorDesign) -> None:
    """A wire drawn across a resistor would read as a short."""
    drawing = draw(resistor_circuit(design))
    for part in drawing.placed:
        for wire in drawing.wires:
            low, high = sorted((wire.x1, wire.x2))
            top, bottom = sorted((wire.y1, wire.y2))
            inside = low < part.x2 - 0.01 and high > part.x1 + 0.01
            assert not (inside and top <= part.y <= bottom), (part.part, wire)
    assert {p.part for p in drawing.placed} == {p.name for p in resistor_circuit(design).parts}
