"""What a technician would change: each fault of a loop or a curve is named, and what is advised really mends it."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import pytest

from fenwit.core.errors import InputError
from fenwit.core.frame.hold import hold_lines, hold_shown
from fenwit.core.frame.hold.shown import AdviceKind, CoolingShown, LoopShown
from fenwit.core.job.hold import Holds, HoldSheet, Reaction, SinkSheet
from fenwit.core.regulator.loop import Damper, Held
from fenwit.core.regulator.thermal import Curve, Profile, Sink
from fenwit.demo.scenario import JOBS

EXHAUST = next(j for j in JOBS if j.name == "Battery room exhaust").state()
RACK = next(j for j in JOBS if j.name == "Spectrograph rack").state()
LOOP, HEAT = EXHAUST.hold.loop, RACK.hold.heat


def loop(**changes: Any) -> LoopShown:
    found = hold_shown(replace(EXHAUST, hold=HoldSheet(Holds.LOOP, replace(LOOP, **changes)))).loop
    assert found is not None
    return found


def heat(**changes: Any) -> CoolingShown:
    found = hold_shown(replace(RACK, hold=HoldSheet(Holds.HEAT, heat=replace(HEAT, **changes)))).heat
    assert found is not None
    return found


def kinds(shown: LoopShown | CoolingShown) -> set[AdviceKind]:
    return {a.kind for a in shown.advice}


def test_the_demo_holds_and_says_so() -> None:
    assert kinds(loop()) == {AdviceKind.WELL}
    assert kinds(heat()) == {AdviceKind.WELL}


@pytest.mark.parametrize(
    ("changes", "kind"),
    [
        ({"gain_kp": 60.0}, AdviceKind.UNSTABLE),
        ({"reversed": True}, AdviceKind.UNSTABLE),
        ({"gain_kp": 60.0, "total_s": 600.0}, AdviceKind.HUNTS),
        ({"damper": Damper(40.0, 10.0)}, AdviceKind.SATURATED),
        ({"gain_kp": 0.02, "integral_s": 60.0, "total_s": 1200.0}, AdviceKind.SLOW),
        ({"gain_kp": 0.3, "integral_s": 0.5, "damper": Damper(0.3, 10.0)}, AdviceKind.OVERSHOOTS),
        ({"clamped": False, "damper": Damper(40.0, 10.0, 120.0), "total_s": 400.0}, AdviceKind.WINDS_UP),
    ],
)
def test_a_fault_of_a_loop_is_named(changes: dict[str, Any], kind: AdviceKind) -> None:
    shown = loop(**changes)
    assert kind in kinds(shown)
    assert AdviceKind.WELL not in kinds(shown)


@pytest.mark.parametrize("held", [Held.FLOW, Held.PRESSURE])
def test_what_its_step_test_advises_settles(held: Held) -> None:
    goal = LOOP.set_point if held is Held.FLOW else 150.0
    bad = loop(held=held, set_point=goal, gain_kp=0.02, integral_s=60.0, total_s=1200.0)
    assert bad.tuned is not None
    good = loop(held=held, set_point=goal, gain_kp=bad.tuned.gain_kp, integral_s=bad.tuned.integral_s)
    assert AdviceKind.SLOW in kinds(bad)
    assert not kinds(good) & {AdviceKind.SLOW, AdviceKind.UNSTABLE, AdviceKind.HUNTS}


def test_constant_speed_is_no_loop() -> None:
    shown = loop(held=Held.SPEED, set_point=0.7)
    assert AdviceKind.UNSTABLE not in kinds(shown)
    assert len({round(v or 0.0, 3) for v in shown.speed.values}) == 1
    # What else could be held, from the same start: only constant flow keeps the flow.
    flows = {o.name: (o.before.split(", ")[1], o.after.split(", ")[1]) for o in loop().others}
    assert flows["constant flow"][0] == flows["constant flow"][1]
    assert flows["constant speed"][0] != flows["constant speed"][1]


def test_safety_cannot_be_set_lower_by_a_loop() -> None:
    for least in (0.0, 0.1, 0.3):
        with pytest.raises(InputError, match="safety asks for") as caught:
            loop(least=least)
        assert caught.value.field == "hold.loop.least"


HOT = SinkSheet(Sink(2.5, 1.4), Profile((40.0,), (3600.0,)), "drive", 60.0)
QUICK = SinkSheet(Sink(2.5, 0.05, capacity_j_k=25.0), Profile((9.0,), (3600.0,)), "drive")


@pytest.mark.parametrize(
    ("changes", "kind"),
    [
        ({"sinks": (HOT,), "curve": Curve(start_c=50.0, full_c=80.0)}, AdviceKind.HOT),
        ({"sinks": (QUICK,), "curve": Curve(least=0.9, hysteresis_k=1.0)}, AdviceKind.CYCLES),
        ({"warmest_c": 45.0}, AdviceKind.NEVER_STOPS),
    ],
)
def test_a_fault_of_a_curve_is_named(changes: dict[str, Any], kind: AdviceKind) -> None:
    shown = heat(**changes)
    assert kind in kinds(shown)
    assert AdviceKind.WELL not in kinds(shown)


def test_a_lower_start_is_cooler_and_louder() -> None:
    late, early = heat(curve=Curve(start_c=45.0, full_c=60.0)), heat(curve=Curve(start_c=30.0, full_c=45.0))
    worst = [max(v for v in s.sinks[0].shared.values if v is not None) for s in (late, early)]
    assert worst[1] < worst[0]
    off = [float(s.runs[0].off.rstrip(" %")) for s in (late, early)]
    assert off[1] <= off[0]


def test_paper_says_what_the_screen_says() -> None:
    shown = hold_shown(EXHAUST)
    assert shown.loop is not None
    lines = hold_lines(shown)
    assert all(f"{f.name}: {f.text}" in lines for f in shown.loop.figures)
    assert all(a.words in lines for a in shown.loop.advice)
    cooled = hold_shown(RACK)
    assert cooled.heat is not None
    assert sum(r.temperature in line for r in cooled.heat.table for line in hold_lines(cooled)) >= len(
        cooled.heat.table
    )


def test_a_lost_sensor_that_stops_the_fan_is_no_good_answer() -> None:
    for reaction, good in ((Reaction.FULL, None), (Reaction.STOPS, False)):
        (figure,) = (f for f in heat(reaction=reaction).figures if f.name == "sensor lost or shorted")
        assert figure.good is good
