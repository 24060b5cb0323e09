"""What Identify and Measure show of a job: conditions computed, taps, studies of readings."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import pytest

from fenwit.core.errors import InputError
from fenwit.core.frame import JobState, Nameplate, datum_of, frame
from fenwit.core.frame.capacitors import capacitors
from fenwit.core.frame.identify import identify
from fenwit.core.frame.study import study
from fenwit.core.frame.suits import Suited
from fenwit.core.job.findings import Findings, Lead, windings
from fenwit.core.job.state import InLine, RunState, run_of
from fenwit.core.motor.kinds import Answer, Method, MotorKind
from fenwit.core.motor.taps import StartBranch
from tests.core.test_frame import SWEEP, WALL
from tests.core.test_leads import KNOWN

LEADS = Findings(leads=tuple(Lead(n.lower(), n) for n in "PQRST"))
OHMS = tuple(sorted((f"lead_ohm:{a.lower()}:{b.lower()}", v) for (a, b), v in KNOWN.items()))
HALL = JobState(
    kind=MotorKind.PSC_TAPPED,
    nameplate=Nameplate(poles=4, rated_voltage_v=230, rated_frequency_hz=50, run_capacitance_f=16e-6),
    supply_voltage_v=230,
    supply_frequency_hz=50,
    readings=(*OHMS, ("line_current_a", 2.35), ("speed_rpm", 1300.0)),
    findings=LEADS,
)


def rows(state: JobState) -> dict[Method, Suited]:
    return {row.method: row for row in identify(state).suited}


def said(state: JobState, method: Method) -> str:
    return "; ".join(rows(state)[method].computed)


def test_the_start_switch_speed_follows_the_field() -> None:
    for poles, hertz, speed in ((4, 50, 1125), (4, 60, 1350), (6, 50, 750)):
        hood = JobState(MotorKind.CAPACITOR_START, Nameplate(poles=poles), 230, hertz, wanted_rpm=(600.0,))
        text = said(hood, Method.PHASE_ANGLE)
        assert f"closes again near {speed} rpm" in text
        assert "wanted and below it: 600 rpm" in text
    early = replace(hood, findings=Findings(switch_share=0.6))
    assert "near 600 rpm" in said(early, Method.PHASE_ANGLE)
    assert said(replace(hood, nameplate=Nameplate()), Method.PHASE_ANGLE) == ""


def test_resonance_is_found_where_it_is_and_nowhere_else() -> None:
    assert "resonate" in said(WALL, Method.SERIES_CAPACITOR)
    assert "no capacitor lifts" in said(SWEEP, Method.SERIES_CAPACITOR)


def test_least_start_is_what_the_frame_hatches() -> None:
    text = said(SWEEP, Method.SERIES_CAPACITOR)
    assert "least that starts" in text
    speed = float(text.split("least that starts: ")[1].split(", ")[1].split(" rpm")[0])
    zone = next(z for z in frame(SWEEP).zones if z.low_rpm == 0)
    assert speed == pytest.approx(zone.high_rpm, abs=6)


def test_heat_of_the_resistor_and_the_voltage_that_starts() -> None:
    assert "most heat in the resistor" in said(SWEEP, Method.SERIES_RESISTOR)
    volts = said(SWEEP, Method.STEPPED_VOLTAGE)
    assert "least volts that start it" in volts
    assert "constant torque" in volts
    assert "warmest wanted step" in said(SWEEP, Method.SERIES_CAPACITOR)


def test_a_duty_refuses_every_method_and_the_whole_job() -> None:
    pump = replace(SWEEP, findings=Findings(duty="pump"))
    assert all(r.answer is Answer.REFUSED and r.never for r in rows(pump).values())
    assert "pump" in frame(pump).refused
    with pytest.raises(InputError):
        Findings(duty="rocket")


def test_an_answered_refusal_is_marked_and_a_standing_one_is_not() -> None:
    refused = next(r.method for r in rows(SWEEP).values() if r.answer is Answer.REFUSED and not r.never)
    answered = replace(SWEEP, overridden=frozenset({refused}))
    assert rows(answered)[refused].overridden
    hood = JobState(
        MotorKind.CAPACITOR_START, Nameplate(poles=4), 230, 50, overridden=frozenset({Method.PHASE_ANGLE})
    )
    assert not rows(hood)[Method.PHASE_ANGLE].overridden
    assert frame(replace(hood, overridden=frozenset(Method))).refused


def test_windings_of_the_lead_sheet_feed_the_fit() -> None:
    found = windings(LEADS, dict(OHMS))
    assert found is not None
    assert found.main_ohm == pytest.approx(21.5, abs=0.05)
    assert found.start_ohm == pytest.approx(46.0, abs=0.05)
    datum, _ = datum_of(HALL)
    assert datum is not None
    assert datum.main_resistance_ohm is not None
    assert datum.main_resistance_ohm.value == pytest.approx(21.5, abs=0.05)
    # What somebody read on the winding itself goes first; an unsettled sheet feeds nothing.
    direct, _ = datum_of(replace(HALL, readings=(*HALL.readings, ("main_resistance_ohm", 22.0))))
    assert direct is not None
    assert direct.main_resistance_ohm is not None
    assert direct.main_resistance_ohm.value == 22.0
    assert windings(LEADS, dict(OHMS[:5])) is None


def test_taps_stand_on_the_staff_slower_and_slower() -> None:
    marks = frame(HALL).taps
    assert [m.lead for m in marks] == ["R", "S", "T"]
    speeds = [m.speed_rpm for m in marks]
    assert all(a > b for a, b in pairwise(speeds))
    sheet = identify(HALL).taps
    assert sheet is not None
    assert sheet.branches == tuple(StartBranch)
    one = identify(replace(HALL, findings=replace(LEADS, start_branch=StartBranch.MAIN_SECTION))).taps
    assert one is not None
    assert one.branches == (StartBranch.MAIN_SECTION,)
    assert "barred" in sheet.alive_text


def run(key: int, what: InLine, value: float | None = None, **read: float) -> RunState:
    return RunState(key, what, value, tuple(sorted(read.items())))


def test_every_reading_narrows_or_at_least_does_no_harm() -> None:
    state = replace(
        SWEEP, runs=(run(7, InLine.CAPACITOR, 2.7e-6, speed_rpm=199.0, line_current_a=0.181),)
    )  # fmt: skip
    order = [
        "line_current_a",
        "input_power_w",
        "main_resistance_ohm",
        "run:0:speed_rpm",
        "run:0:line_current_a",
    ]
    shown = study(state, 2, order)
    widths = [s.high_rpm - s.low_rpm for s in shown.shrinks]
    assert len(widths) == len(order) + 1
    assert widths[-1] < 0.4 * widths[0]
    assert shown.shrinks[4].after.startswith("rpm, 2.7 µF")
    assert {(c.run, c.quantity) for c in shown.checks if c.run} == {(7, "speed_rpm"), (7, "line_current_a")}
    assert not any(c.odd for c in shown.checks)
    # The last band of the list is the band of the step itself.
    mark = frame(state).marks[1].predicted
    assert mark is not None
    assert widths[-1] == pytest.approx((mark.high or 0) - (mark.low or 0), rel=0.15)


def test_an_order_that_names_what_is_not_there_is_read_past() -> None:
    assert study(SWEEP, 2, ["supply_voltage_v", "smell", "run:9:speed_rpm", "line_current_a"]).shrinks
    assert study(replace(SWEEP, kind=None)).checks == ()
    assert study(replace(SWEEP, wanted_rpm=())).next


def test_curves_and_points_agree() -> None:
    plot = study(SWEEP).plot
    assert plot is not None
    assert len(plot.motors) == len(plot.points)
    for curve in (*plot.motors, plot.load):
        inside = [
            low - 1e-6 <= torque <= high + 1e-6
            for low, torque, high in zip(curve.low_nm, curve.torque_nm, curve.high_nm, strict=True)
        ]
        assert sum(inside) > 0.95 * len(inside)
    for point in plot.points:
        i = min(range(len(plot.speed_rpm)), key=lambda k: abs(plot.speed_rpm[k] - point.speed_rpm))
        assert plot.load.torque_nm[i] == pytest.approx(point.torque_nm, rel=0.12)


@pytest.mark.parametrize(
    ("state", "usable"),
    [
        (run(1, InLine.CAPACITOR, 2.7e-6, speed_rpm=200.0), True),
        (run(1, InLine.VOLTAGE, 180.0, speed_rpm=250.0), True),
        (run(1, InLine.BARE_SHAFT, None, speed_rpm=373.0), True),
        (run(1, InLine.LOCKED, None, locked_rotor_current_a=0.41), True),
        (run(1, InLine.CAPACITOR, 2.7e-6), False),
        (run(1, InLine.DIRECT, None, supply_voltage_v=236.0), False),
    ],
)
def test_which_runs_tell_something(state: RunState, usable: bool) -> None:
    found = run_of(SWEEP, state)
    assert (found is not None) is usable
    if found is not None and state.what is InLine.BARE_SHAFT:
        assert not found.blades


def test_mains_as_read_in_the_run_count() -> None:
    taken = run(1, InLine.CAPACITOR, 2.7e-6, speed_rpm=205.0, supply_voltage_v=238.0, frequency_hz=49.9)
    found = run_of(SWEEP, taken)
    assert found is not None
    assert (found.supply_voltage_v, found.frequency_hz) == (238.0, 49.9)
    assert [name for name, _ in found.readings] == ["speed_rpm"]


def test_without_a_block_there_is_nothing_to_check() -> None:
    shown = capacitors(SWEEP)
    assert shown.sections == ()
    assert "describe the block" in shown.note
    assert identify(replace(SWEEP, kind=None)).suited == ()
