"""EC fans on a control voltage, as rooms: maps from readings, sources, followers, plan; power whole at every step."""

from __future__ import annotations

from dataclasses import replace
from itertools import product

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fenwit.core.circuit import Circuit, Part, PartKind, Position
from fenwit.core.circuit.ohms import ohms_between
from fenwit.core.circuit.wiring.document import read_wiring
from fenwit.core.circuit.wiring.order import work_order
from fenwit.core.circuit.wiring.table import Table, truth_table
from fenwit.core.circuit.wiring.templates import Facts
from fenwit.core.errors import InputError
from fenwit.core.frame import frame
from fenwit.core.frame.plan import plan_of
from fenwit.core.job.analog import AnalogSheet
from fenwit.core.job.commanded import CommandSheet
from fenwit.core.job.hold import Holds, HoldSheet, LoopSensor, LoopSheet
from fenwit.core.job.state import InLine, JobState, Nameplate, RunState
from fenwit.core.job.subject import Refused
from fenwit.core.methods.control_voltage import CONTROL_VOLTAGE, scale_of
from fenwit.core.methods.control_voltage.design import (
    Cable,
    Cabling,
    ControlDesign,
    Following,
    KnobParts,
    Source,
)
from fenwit.core.methods.control_voltage.fan import ControlFan
from fenwit.core.methods.control_voltage.parts import dead_checks
from fenwit.core.methods.control_voltage.search import made
from fenwit.core.methods.control_voltage.signal import ControlSetting, chain_resistors, volts_for
from fenwit.core.methods.control_voltage.wiring import wired
from fenwit.core.methods.pwm import PWM
from fenwit.core.methods.seam import Missed
from fenwit.core.motor.analog import VoltLine
from fenwit.core.motor.kinds import Method, MotorKind
from fenwit.core.prove.plan import LineState, judged
from fenwit.core.prove.verdict import Verdict
from fenwit.core.size.sizing import Sizing

JOB = JobState(
    MotorKind.EC_CONTROL,
    Nameplate(rated_voltage_v=230, rated_speed_rpm=2800, rated_current_a=0.9, rated_power_w=122),
    230,
    50,
    wanted_rpm=(800.0, 1400.0, 2000.0, 2800.0),
    commanded=CommandSheet(slowest_rpm=300, analog=AnalogSheet(low_v=1.2, high_v=9.6)),
    sizing=Sizing(method=Method.CONTROL_VOLTAGE),
)


def fan_of(state: JobState = JOB) -> ControlFan:
    found = CONTROL_VOLTAGE.subject(state)
    assert isinstance(found, ControlFan)
    return found


def sheet(**more: object) -> JobState:
    return replace(JOB, commanded=replace(JOB.commanded, **more))  # type: ignore[arg-type]


def read(*pairs: tuple[float, float]) -> JobState:
    runs = tuple(RunState(i, InLine.CONTROL, v, (("speed_rpm", n),)) for i, (v, n) in enumerate(pairs))
    return replace(JOB, runs=runs)


# ---------------------------------------------------------------- the map


def test_volts_for_a_speed_by_its_data() -> None:
    fan = fan_of()
    assert volts_for(fan, 1400) == pytest.approx(4.896, abs=5e-4)
    assert volts_for(fan, 2800) == 10.0
    with pytest.raises(InputError, match="jumps"):
        volts_for(fan, 100)
    assert frame(replace(JOB, wanted_rpm=(200.0,))).aims[0].reason.startswith("the fan jumps")


def test_readings_go_before_data_and_a_standing_one_tells_where_it_starts() -> None:
    fan = fan_of(read((1.0, 0.0), (1.5, 380.0), (4.0, 1150.0), (7.0, 2040.0), (10.0, 2795.0)))
    assert float(np.asarray(fan.speeds.speed_at(4.0))) == pytest.approx(1150, abs=1)
    assert "5 readings" not in fan.commanded.control_grounds
    assert "4 readings" in fan.commanded.control_grounds
    assert 1.0 <= fan.line.on_v <= 1.5
    assert fan.speeds.slowest_rpm > 300


def test_an_inverse_input_is_told_by_its_readings() -> None:
    fan = fan_of(read((2.0, 2500.0), (5.0, 1500.0), (8.0, 600.0)))
    assert not fan.rising
    design = made(fan, (800.0, 2000.0), Source.ANALOG)
    assert design.volts[0] > design.volts[1]
    steps = CONTROL_VOLTAGE.steps(fan, design, (800.0, 2000.0), False)
    assert [s.running.speed_rpm for s in steps if s.running] == pytest.approx([800, 2000], rel=0.01)


@settings(max_examples=40, deadline=None)
@given(st.lists(st.floats(0.05, 0.98), min_size=2, max_size=6, unique=True), st.sampled_from(Source))
def test_every_source_gives_the_wanted_speeds(shares: list[float], source: Source) -> None:
    wanted = tuple(sorted(300 + 2500 * s for s in shares))
    if min(np.diff(wanted)) < 40:
        return
    fan = fan_of()
    design = made(fan, wanted, source)
    for step, rpm in zip(CONTROL_VOLTAGE.steps(fan, design, wanted, False), wanted, strict=True):
        mine = step.setting
        assert isinstance(mine, ControlSetting)
        assert step.running is not None
        assert 0 <= mine.made_v <= 10
        # E24 values and levels of a duty leave a little; nothing leaves more than a tenth of the span.
        assert abs(step.running.speed_rpm - rpm) < 0.1 * 2800
        # What flows in flows out: the supply's watts are the fan's.
        assert step.running.places[0].power_w == step.running.input_power_w


def test_a_bare_knob_wastes_what_the_dead_bands_take() -> None:
    fan = fan_of()
    marks = scale_of(fan, ControlDesign(Source.KNOB, (5.0,), KnobParts(10e3)))
    assert marks[0].rpm == 0
    assert marks[-1].rpm == marks[-2].rpm + (2800 - marks[-2].rpm) == 2800
    assert fan.line.usable_fraction == pytest.approx(0.84)


# ---------------------------------------------------------------- several fans


def test_one_source_for_many_fans_over_a_ground_that_carries_more() -> None:
    state = sheet(fans=5, analog=AnalogSheet(low_v=1.2, high_v=9.6, input_ohm=47e3))
    fan = fan_of(state)
    looped = ControlDesign(Source.ANALOG, (9.0,), cable=Cable(20.0, 0.5, Cabling.LOOPED, 0.12))
    apart = replace(looped, cable=replace(looped.cable, cabling=Cabling.APART))
    one, other = (CONTROL_VOLTAGE.steps(fan, d, (), False)[0] for d in (looped, apart))
    assert isinstance(one.setting, ControlSetting)
    assert isinstance(other.setting, ControlSetting)
    assert one.setting.fans[-1].volts < one.setting.fans[0].volts - 0.5
    assert any("the last fan gets" in r.words for r in one.reasons)
    assert other.setting.fans[-1].volts == pytest.approx(other.setting.fans[0].volts)


def test_leader_and_follower_with_maps_of_their_own() -> None:
    fan = fan_of(sheet(fans=3))
    chain = ControlDesign(Source.ANALOG, (5.0,), source_ohm=0.0, following=Following.SPEED)
    (step,) = CONTROL_VOLTAGE.steps(fan, chain, (), False)
    assert isinstance(step.setting, ControlSetting)
    assert [f.speed_rpm for f in step.setting.fans] == pytest.approx([1431, 1464, 1499], abs=1)
    # At 1.5 V the leader hands on 1.39 V: one that starts from 1.5 V stays off, or holds if it ran.
    late = VoltLine(300, 2800, 1.45, 1.5, 1.5, 9.6)
    (low,) = CONTROL_VOLTAGE.steps(fan, replace(chain, volts=(1.5,), followers=(late,)), (), False)
    assert isinstance(low.setting, ControlSetting)
    assert low.setting.fans[1].volts == pytest.approx(1.39, abs=0.01)
    assert low.setting.fans[1].speed_rpm == 0
    assert any("stays off" in r.words for r in low.reasons)
    passed = replace(chain, following=Following.COMMAND)
    (alike,) = CONTROL_VOLTAGE.steps(fan, passed, (), False)
    assert isinstance(alike.setting, ControlSetting)
    assert len({round(f.speed_rpm) for f in alike.setting.fans}) == 1


# ---------------------------------------------------------------- its supply, other ways


def test_nothing_lowers_its_supply_and_pulses_go_through_a_filter() -> None:
    for method in (
        Method.SERIES_CAPACITOR,
        Method.SERIES_RESISTOR,
        Method.PHASE_ANGLE,
        Method.STEPPED_VOLTAGE,
    ):
        from fenwit.core.methods import of

        assert isinstance(of(method).subject(replace(JOB, sizing=Sizing(method=method))), Refused)
    assert isinstance(PWM.subject(JOB), Refused)
    keys = {c.key for c in frame(replace(JOB, design=made(fan_of(), JOB.wanted_rpm, Source.KNOB))).cautions}
    assert {"whole-supply", "link-charged", "control-terminals"} <= keys
    assert "line-potential" not in keys


def test_what_a_miss_points_to() -> None:
    fan = fan_of(sheet(fans=2))
    design = made(fan, JOB.wanted_rpm, Source.KNOB)
    step = CONTROL_VOLTAGE.steps(fan, design, JOB.wanted_rpm, False)[1]
    speed, volts = CONTROL_VOLTAGE.quantities[0], CONTROL_VOLTAGE.quantities[1]
    told = {
        "stands": CONTROL_VOLTAGE.missed(fan, design, step, Missed(speed, 0.0, True, False)),
        "full": CONTROL_VOLTAGE.missed(fan, design, step, Missed(speed, 2790.0, False, False)),
        "offset": CONTROL_VOLTAGE.missed(fan, design, step, Missed(speed, 1578.0, False, True)),
        "no volts": CONTROL_VOLTAGE.missed(fan, design, step, Missed(volts, 0.0, True, False)),
        "all volts": CONTROL_VOLTAGE.missed(fan, design, step, Missed(volts, 10.0, False, False)),
    }
    for key, words in (("stands", "enable"), ("full", "full speed"), ("offset", "+0.59 V"), ("no volts", "wire"),
                       ("all volts", "0 V")):  # fmt: skip
        assert words in told[key], told[key]


# ---------------------------------------------------------------- ohms


def brute(circuit: Circuit, closed: frozenset[str], a: str, b: str) -> float | None:
    """Independent: each resistor a spring, relaxed by hand until it stands."""
    nets = sorted({n for p in circuit.parts for n in (p.net_a, p.net_b)})
    siemens = {
        p.name: (1 / p.value if p.kind is PartKind.RESISTOR else 1e6 if p.name in closed else 0.0)
        for p in circuit.parts
    }
    volts = dict.fromkeys(nets, 0.0)
    for _ in range(40_000):
        for net in nets:
            if net == b:
                volts[net] = 0.0
                continue
            total = sum(siemens[p.name] for p in circuit.parts if net in (p.net_a, p.net_b))
            if total == 0:
                continue
            flow = sum(
                siemens[p.name] * volts[p.net_b if p.net_a == net else p.net_a]
                for p in circuit.parts
                if net in (p.net_a, p.net_b)
            )
            volts[net] = (flow + (1.0 if net == a else 0.0)) / total
        if volts[a] > 1e7:
            return None
    return volts[a]


def test_ohms_against_relaxation() -> None:
    parts = (
        Part("R1", PartKind.RESISTOR, "a", "b", 100.0), Part("R2", PartKind.RESISTOR, "b", "c", 220.0),
        Part("R3", PartKind.RESISTOR, "a", "c", 470.0), Part("R4", PartKind.RESISTOR, "b", "d", 330.0),
        Part("S", PartKind.CONTACT, "d", "c"), Part("C", PartKind.CAPACITOR, "a", "d", 1e-6),
    )  # fmt: skip
    circuit = Circuit("a", "c", parts, (Position("open", frozenset()), Position("shut", frozenset({"S"}))))
    valued = replace(circuit, parts=tuple(p for p in parts if p.kind is not PartKind.CAPACITOR))
    for position, (x, y) in product(circuit.positions, (("a", "c"), ("b", "d"), ("a", "d"))):
        assert ohms_between(circuit, position, x, y) == pytest.approx(
            brute(valued, position.closed, x, y), rel=1e-3
        )
    lone = Circuit(
        "a",
        "b",
        (Part("R", PartKind.RESISTOR, "a", "b", 5.0), Part("S", PartKind.CONTACT, "c", "d")),
        (Position("x", frozenset()),),
    )
    assert ohms_between(lone, lone.positions[0], "a", "c") is None
    with pytest.raises(InputError, match="no part touches"):
        ohms_between(lone, lone.positions[0], "a", "moon")


def test_dead_checks_follow_from_the_circuit() -> None:
    fan = fan_of()
    knob = ControlDesign(Source.KNOB, (3.0, 8.0), KnobParts(10e3, 2.2e3, 4.7e3))
    found = {c.key: c for c in dead_checks(fan, knob)}
    assert found["track"].ohm == pytest.approx(16.9e3, rel=1e-4)
    assert found["wiper-slow"].ohm == pytest.approx(4.7e3, rel=1e-4)
    assert found["wiper-slow"].band is not None
    # The end stop alone, not the pot's spread, is between them there.
    assert found["wiper-slow"].band.half_width < 0.07 * 4.7e3
    assert found["wiper-fast"].ohm == pytest.approx(14.7e3, rel=1e-4)
    assert found["enable-open"].ohm is None
    stepped = made(fan, JOB.wanted_rpm, Source.STEPS)
    taps = {c.key: c.ohm for c in dead_checks(fan, stepped) if c.key.startswith("tap")}
    resistors = chain_resistors(fan, stepped)
    assert [taps[f"tap-{i}"] for i in range(1, 5)] == pytest.approx(list(np.cumsum(resistors)[:4]), rel=1e-4)


# ---------------------------------------------------------------- the plan


def planned(**readings: float) -> list[tuple[str, LineState, str]]:
    state = replace(
        JOB,
        design=made(fan_of(), JOB.wanted_rpm, Source.KNOB),
        hold=HoldSheet(Holds.LOOP, LoopSheet(set_point=0.15, sensor=LoopSensor(cone_factor=60))),
    )
    lines = plan_of(state)
    values = {f"plan:{k.replace('__', ':')}": v for k, v in readings.items()}
    return [(x.line.key, x.state, x.fault) for x in judged(lines, values)]


def test_the_order_of_commissioning() -> None:
    found = planned()
    assert [k for k, _, _ in found] == [
        "look",
        "dead",
        "supply",
        "full",
        "alarm",
        "enable",
        "knob",
        "sensor",
        "loop",
        "serial",
    ]
    assert [s for _, s, _ in found][:2] == [LineState.NEXT, LineState.OPEN]


def test_a_failed_line_stops_the_plan_and_names_the_likeliest_fault() -> None:
    good = {"look__free": 1.0, "look__earth": 0.05}
    assert planned(**good)[0][1] is LineState.DONE
    bad = planned(**{**good, "look__earth": 0.8})
    assert bad[0][1] is LineState.FAILED
    assert "painted joint" in bad[0][2]
    assert {s for _, s, _ in bad[1:]} == {LineState.STOPPED}
    (full,) = (x for x in planned(full__rpm=0.0) if x[0] == "full")
    assert full[1] is LineState.FAILED
    assert "enable open" in full[2]


def test_every_thing_asked_is_judged_both_ways() -> None:
    state = replace(JOB, design=made(fan_of(), JOB.wanted_rpm, Source.KNOB))
    keys = set()
    for line in plan_of(state):
        for ask in line.asks:
            assert ask.fault
            keys.add(line.quantity(ask))
            assert len(line.quantity(ask)) <= 40
            if ask.band is None:
                good, bad = 1.0, 0.0
            else:
                good = (ask.band.low + ask.band.high) / 2
                bad = ask.band.high * 3 + 10 if ask.band.high < 1e8 else 10.0
            for value, verdict in ((good, Verdict.PASS), (bad, Verdict.FAIL)):
                (found,) = (
                    a.verdict
                    for x in judged([line], {line.quantity(ask): value})
                    for a in x.asks
                    if a.ask is ask
                )
                assert found is verdict, (line.key, ask.key)
    assert len(keys) == sum(len(x.asks) for x in plan_of(state))


# ---------------------------------------------------------------- the wiring of a design


FED = Facts(230.0, 50.0)


def solved_strip(design: ControlDesign, count: int = 1) -> Table:
    fan = replace(fan_of(), count=count)
    wiring = read_wiring(wired(fan, design, FED, "strip"))
    work = work_order(wiring)
    assert not work.problems
    return truth_table(wiring)


def states(table: Table, **inputs: str | bool) -> dict[str, str]:
    row = next(r for r in table.rows if all(r.inputs[k] == v for k, v in inputs.items()))
    return {name: str(state["state"]) for name, state in row.rest.parts.items()}


@pytest.mark.parametrize("source", list(Source))
@pytest.mark.parametrize("count", [1, 3])
def test_a_design_as_wired_does_what_it_is_for(source: Source, count: int) -> None:
    design = ControlDesign(source, (3.0, 6.0, 9.0), enable=True, alarm=True)
    table = solved_strip(design, count)
    assert not table.hazards
    stopped = states(table, EN="stop")
    assert all(stopped[f"V{i}"] == "disabled" for i in range(1, count + 1))
    expected = {Source.KNOB: "pot P", Source.STEPS: "divider"}.get(source, "sensor U")
    going = states(table, EN="go") | states(table, EN="go", **{"V1.fault": True})
    assert {going[f"V{i}"] for i in range(1, count + 1)} == {expected}
    assert (states(table, EN="go", **{"V1.fault": False})["H1"], going["H2"]) == ("on", "on")
    assert states(table, EN="go", **{"V1.fault": False})["H2"] == "off"


def test_a_chain_whose_fastest_step_is_the_reference_itself() -> None:
    design = ControlDesign(Source.STEPS, (3.0, 6.0, 10.0), enable=False, alarm=False)
    table = solved_strip(design)
    assert [row.rest.parts["V1"]["state"] for row in table.rows] == ["divider", "divider", "full"]
    told = [float(row.rest.parts["V1"].get("command_v") or 0.0) for row in table.rows[:2]]  # type: ignore[arg-type]
    assert told == pytest.approx(design.volts[:2], rel=0.03)
    assert not table.hazards


def test_a_chain_gives_each_position_its_volts_as_wired() -> None:
    design = ControlDesign(Source.STEPS, (3.0, 6.0, 9.0), enable=False, alarm=False)
    table = solved_strip(design)
    told = [float(row.rest.parts["V1"]["command_v"] or 0.0) for row in table.rows]  # type: ignore[arg-type]
    # The input's own ohms are left out here; they are many times the chain's.
    assert told == pytest.approx(design.volts, rel=0.03)


@pytest.mark.parametrize("following", [Following.SPEED, Following.COMMAND])
def test_leaders_hand_on_what_they_are_told(following: Following) -> None:
    design = ControlDesign(Source.KNOB, (5.0,), following=following, cable=Cable(10.0, 0.5, Cabling.APART))
    going = states(solved_strip(design, 3), EN="go", **{"V1.fault": False})
    assert (going["V1"], going["V2"], going["V3"]) == ("pot P", "follows V1", "follows V2")


def test_a_knob_with_resistors_at_its_ends_is_a_knob() -> None:
    design = ControlDesign(Source.KNOB, (5.0,), knob=KnobParts(10e3, 1e3, 2e3), alarm=False)
    table = solved_strip(design)
    assert states(table, EN="go")["V1"] == "pot P"
    assert not table.hazards
