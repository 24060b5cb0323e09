"""First designs of a control voltage and what is offered instead; what a lost wire does; filters as they are judged."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from fenwit.core.frame.asked import must_know
from fenwit.core.methods.control_voltage.design import (
    ControlDesign,
    FilterParts,
    Following,
    KnobParts,
    Source,
)
from fenwit.core.methods.control_voltage.fan import ControlFan
from fenwit.core.methods.control_voltage.merits import compared
from fenwit.core.methods.control_voltage.search import RIPPLE_V, SETTLES_S, better, fitting_pot_ohm, made
from fenwit.core.methods.control_voltage.signal import ends_v, setting, steadied, without_ground_rpm
from fenwit.core.motor.analog import VoltLine
from fenwit.demo.scenario import JOBS


def fan_of(name: str) -> ControlFan:
    subject = must_know(next(j for j in JOBS if j.name == name).state()).subject
    assert isinstance(subject, ControlFan)
    return subject


EXHAUST, CORRIDOR = fan_of("Battery room exhaust"), fan_of("Corridor ventilators")


@pytest.mark.parametrize("fan", [EXHAUST, CORRIDOR])
@pytest.mark.parametrize("source", list(Source))
def test_of_a_first_design_nothing_better_is_offered(fan: ControlFan, source: Source) -> None:
    wanted = np.linspace(1.5 * fan.speeds.slowest_rpm, fan.full_rpm, 4)
    assert better(fan, made(fan, wanted.tolist(), source)) is None


@given(st.floats(2.0, 5.0), st.floats(6.0, 9.9))
@settings(max_examples=40, deadline=None)
def test_end_stops_that_are_offered_come_nearer(low: float, high: float) -> None:
    bare = ControlDesign(Source.KNOB, (low, high), knob=KnobParts(fitting_pot_ohm(EXHAUST)))
    offered = better(EXHAUST, bare)
    assert offered is not None
    mine, others = ends_v(EXHAUST, bare), ends_v(EXHAUST, offered)
    worst = [max(abs(a - low), abs(b - high)) for a, b in (mine, others)]
    assert worst[1] < worst[0]
    # Preferred values: near, and never so far that a step is lost by more than a twentieth of the signal.
    assert worst[1] < 0.5
    assert better(EXHAUST, offered) is None


@given(st.floats(200.0, 20_000.0), st.floats(1e3, 1e5))
@settings(max_examples=40, deadline=None)
def test_a_filter_that_is_offered_is_steady_and_soon_there(frequency: float, ohm: float) -> None:
    poor = replace(
        made(EXHAUST, (1200.0, 2500.0), Source.FILTER),
        filter=FilterParts(frequency_hz=frequency, resistance_ohm=ohm, capacitance_f=1e-9, stages=1),
    )
    assume(steadied(poor).ripple_v > RIPPLE_V)
    offered = better(EXHAUST, poor)
    assert offered is not None
    found = steadied(offered)
    assert found.ripple_v <= RIPPLE_V
    # Where neither stage is soon enough the steadier one is offered all the same; else it keeps to both.
    if found.settling_s > SETTLES_S:
        single = replace(offered, filter=replace(offered.filter, stages=1))
        assert steadied(single).settling_s > SETTLES_S or steadied(single).ripple_v > RIPPLE_V


def test_the_rule_for_small_ripple_is_near_where_it_is_small() -> None:
    design = replace(
        made(EXHAUST, (1200.0,), Source.FILTER),
        filter=FilterParts(frequency_hz=5e3, resistance_ohm=10e3, capacitance_f=1e-6, stages=1),
    )
    found = steadied(design)
    assert found.small_v is not None
    assert found.ripple_v == pytest.approx(found.small_v, rel=0.01)
    two = steadied(replace(design, filter=replace(design.filter, stages=2)))
    assert two.small_v is None
    assert two.ripple_v < found.ripple_v
    assert two.settling_s > found.settling_s


@pytest.mark.parametrize("fan", [EXHAUST, CORRIDOR])
def test_without_its_ground_a_knob_gives_all_there_is(fan: ControlFan) -> None:
    design = made(fan, (1.2 * fan.speeds.slowest_rpm, fan.full_rpm), Source.KNOB)
    slowest = setting(fan, design, 0).fans[0].speed_rpm
    lost = without_ground_rpm(fan, design)
    assert lost > 0.9 * fan.full_rpm > slowest
    # What stands above the wiper is all that still takes from the 10 V.
    assert without_ground_rpm(fan, replace(design, knob=replace(design.knob, top_ohm=40e3))) < lost


def test_a_follower_may_be_told_the_other_way_round() -> None:
    own = CORRIDOR.line
    turned = replace(own, inverse=True)
    wanted = (500.0, 1400.0)
    base = replace(made(CORRIDOR, wanted, Source.ANALOG), following=Following.COMMAND)
    alike = replace(base, followers=(VoltLine(own.slowest_rpm, own.fastest_rpm),))
    inverse = replace(base, followers=(turned,))
    for index in (0, 1):
        mine, other = (setting(CORRIDOR, d, index).fans for d in (alike, inverse))
        assert mine[0].volts == pytest.approx(other[0].volts)
        assert mine[1].volts == pytest.approx(other[1].volts)
    slow, fast = (setting(CORRIDOR, inverse, i).fans[1].speed_rpm for i in (0, 1))
    assert slow > fast


@pytest.mark.parametrize("inverse", [False, True])
def test_what_choose_says_of_a_lost_wire_follows_the_input(inverse: bool) -> None:
    state = next(j for j in JOBS if j.name == "Corridor ventilators").state()
    sheet = replace(state.commanded, analog=replace(state.commanded.analog, inverse=inverse))
    state = replace(state, commanded=sheet)
    fan = must_know(state).subject
    assert isinstance(fan, ControlFan)
    ((row, _),) = ((c.merits, c.steps) for c in compared(fan, state, False))
    said = {f.part: f.open_words for f in row.failures}
    fast = f"about {fan.line.fastest_rpm:.0f} rpm"
    # Without its 10 V an inverse input asks for everything, and without its 0 V for nothing.
    assert said["wire to 10 V off"] == (fast if inverse else "stands")
    assert said["wire to 0 V off"] == ("stands" if inverse else fast)
