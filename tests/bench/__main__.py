"""How fast it is, as medians and ratios: python -m tests.bench [SECTION …]. It judges nothing; a person reads it."""

from __future__ import annotations

import copy
import json
import statistics
import sys
import tempfile
import time
from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import partial
from pathlib import Path

import httpx
import numpy as np
import psycopg

from fenwit.core.calibrate import fit
from fenwit.core.calibrate.leads import LeadSheet, OhmReading, find_leads
from fenwit.core.circuit.wiring.dead import dead_tests
from fenwit.core.circuit.wiring.document import read_wiring
from fenwit.core.circuit.wiring.edits import Deed, Edit, edited
from fenwit.core.circuit.wiring.faults import diagnose
from fenwit.core.circuit.wiring.parts import OhmReading as WireOhm
from fenwit.core.circuit.wiring.parts import Wiring
from fenwit.core.circuit.wiring.table import truth_table
from fenwit.core.circuit.wiring.templates import TEMPLATES
from fenwit.core.circuit.wiring.written import write_wiring
from fenwit.core.desk import read, work
from fenwit.core.desk.cards import CARDS
from fenwit.core.frame import JobState, Nameplate, datum_of, frame, live
from fenwit.core.frame.asked import must_know
from fenwit.core.frame.choose import choose
from fenwit.core.frame.hold import hold_shown
from fenwit.core.frame.hold.loop import at_full_speed
from fenwit.core.frame.inspect import inspect
from fenwit.core.methods.control_voltage.design import ControlDesign
from fenwit.core.methods.phase_angle.design import PhaseDesign
from fenwit.core.methods.pwm.design import DutyDesign, Maker
from fenwit.core.methods.pwm.signal import tolerances
from fenwit.core.methods.series_capacitor.banks import banks
from fenwit.core.methods.series_capacitor.design import BankDesign
from fenwit.core.methods.series_resistor.design import Resistor, ResistorDesign, Scheme
from fenwit.core.motor.kinds import Method, MotorKind
from fenwit.core.motor.switched import switched
from fenwit.core.operating import Source
from fenwit.core.regulator.firing_points import phase_solutions
from fenwit.core.regulator.loop import Damper, loop_run, step_test, tuned
from fenwit.core.regulator.phase import TriacFed
from fenwit.core.regulator.thermal import thermal_run
from fenwit.core.size.capacitor import Capacitor
from fenwit.core.size.merits import Choosing, Wish
from fenwit.core.size.sizing import Sizing
from fenwit.core.size.switch import Switch
from fenwit.demo.scenario import JOBS, OLD_CONTROL
from fenwit.store.cluster import Cluster
from fenwit.web.wire.page import wire_page
from tests.bench import invented, mismatch
from tests.bench.brute import integrated
from tests.bench.load import load
from tests.core.shapes import fan_of
from tests.known.triac import C16, C16_LOAD
from tests.ui.server import running

SWEEP = JobState(
    kind=MotorKind.PSC,
    nameplate=Nameplate(poles=16, rated_voltage_v=230, rated_frequency_hz=50, run_capacitance_f=2.5e-6),
    supply_voltage_v=230,
    supply_frequency_hz=50,
    readings=(
        ("auxiliary_resistance_ohm", 240.0), ("capacitor_voltage_v", 415.0), ("input_power_w", 73.0),
        ("line_current_a", 0.318), ("main_resistance_ohm", 215.0), ("speed_rpm", 330.0),
    ),
    wanted_rpm=(110.0, 165.0, 220.0, 275.0, 330.0),
    sizing=Sizing(Switch(5)),
)  # fmt: skip
FIVE = ("A", "B", "C", "A∥C", "direct")


def bank(i: int) -> BankDesign:
    """A bank of three that was not computed before."""
    values = (1.5e-6 + i * 1e-10, 1.8e-6, 2.7e-6)
    return BankDesign(tuple(Capacitor(v) for v in values), FIVE, Switch(5))


def times(work: Callable[[int], object], count: int) -> list[float]:
    """Milliseconds of each call."""
    found = []
    for i in range(count):
        start = time.perf_counter()
        work(i)
        found.append(1e3 * (time.perf_counter() - start))
    return found


def p95(values: list[float]) -> float:
    """The value that one in twenty passes."""
    return statistics.quantiles(values, n=20)[-1]


def say(name: str, values: list[float], wanted: str = "") -> None:
    """One line of the report."""
    text = f"{name:58} median {statistics.median(values):8.2f} ms   p95 {p95(values):8.2f} ms"
    print(f"{text}   {wanted and f'wanted: {wanted}'}".rstrip(), flush=True)


def core() -> None:
    """A whole job and a search, without server or database."""
    frame(SWEEP)
    say(
        "whole job: 5 steps, operating points, 200-draw bands, new bank",
        times(lambda i: frame(replace(SWEEP, design=bank(i))), 80),
        "under 30",
    )
    say(
        "  of which what a try of a bank answers",
        times(lambda i: live(replace(SWEEP, design=bank(1000 + i))), 60),
    )
    say(
        "whole job without a bank: 5 steps aimed, bands",
        times(lambda i: frame(replace(SWEEP, wanted_rpm=(110 + i / 50, 165, 220, 275, 330))), 60),
    )
    say("fit of the motor with its 200 draws (once for each reading)", times(_refit, 12))
    moving = [(110 + i / 50, 165.0, 220.0, 275.0, 330.0) for i in range(30)]
    fan = fan_of(SWEEP)
    say(
        "bank search: up to 3 parts, E12, 5 steps, two poles, pairs",
        times(lambda i: banks(fan, replace(SWEEP, wanted_rpm=moving[i]), ()), 30),
        "under 150",
    )
    chains = [
        ResistorDesign(
            Scheme.CHAIN,
            (Resistor(800 + i / 10), Resistor(390), Resistor(300), Resistor(250)),
            True,
            Switch(5),
        )
        for i in range(60)
    ]
    say(
        "whole job by resistors, a chain of four, one new",
        times(lambda i: frame(replace(SWEEP, design=chains[i])), 60),
    )


def choosing() -> None:
    """Ways side by side and a board judged, once the fan is known."""
    state = replace(SWEEP, wanted_rpm=(120.0, 170.0, 220.0, 270.0, 320.0))
    choose(state)
    moved = [replace(state, wanted_rpm=(120 + i / 50, 170.0, 220.0, 270.0, 320.0)) for i in range(40)]
    say(
        "choose: every way at 5 steps with bands, one speed new",
        times(lambda i: choose(moved[i]), 12),
        "under 400",
    )
    say("  at a glance", times(lambda i: choose(moved[20 + i], glance=True), 12))
    orders = [Choosing((a, b)) for a in Wish for b in Wish if a is not b][:40]
    sized = [replace(state, sizing=replace(state.sizing, choosing=c)) for c in orders]
    say("  another order of wishes: a flip", times(lambda i: choose(sized[i]), 40), "under a drag frame")
    boards = [replace(OLD_CONTROL, lamp_w=60.0 + i / 10) for i in range(20)]
    inspect(replace(state, board=OLD_CONTROL))
    say(
        "inspect: a board anew, 11 places with bands, findings",
        times(lambda i: inspect(replace(state, board=boards[i])), 15),
    )
    say("  a fault supposed", times(lambda i: inspect(replace(state, board=boards[i]), "half-wave:triac"), 8))


def direct() -> None:
    """A fan on its control lead against the bank, a timer's bands, every card of the Desk."""
    ring = next(j for j in JOBS if j.name == "Mirror-cell ring").state()
    job = must_know(ring)
    usual = job.regulation.usual(job.subject, ring.wanted_rpm, ring)
    assert isinstance(usual, DutyDesign)
    new = [replace(usual, duties=(0.3 + i / 1e4, *usual.duties[1:])) for i in range(200)]
    say(
        "whole job of six fans on their control lead, a new duty",
        times(lambda i: frame(replace(ring, design=new[i])), 60),
        "as a bank's",
    )
    say(
        "  of which what a drag answers",
        times(lambda i: live(replace(ring, design=new[100 + i])), 60),
        "as a bank's",
    )
    timed = [replace(usual, maker=Maker.STEERED, stages=i % 2) for i in range(40)]
    say(
        "timer IC: bands of 500 boards at 50 places of the travel",
        times(lambda i: tolerances(timed[i], 500, 50), 40),
        "under 50",
    )
    worst: tuple[float, str] = (0.0, "")
    for card in CARDS.values():
        asked = read(card.key, card.start, bare_scales=True)
        work(asked.card, asked.values)
        found = statistics.median(times(lambda i: work(asked.card, asked.values), 15))  # noqa: B023
        worst = max(worst, (found, card.key))
    print(f"slowest card of the Desk: {worst[1]}, median {worst[0]:.2f} ms   wanted: under 20", flush=True)


def holding() -> None:
    """An hour of a loop and of a heat sink, tuning, and what a drag of the thermal curve or a control voltage takes."""
    exhaust = next(j for j in JOBS if j.name == "Battery room exhaust").state()
    rack = next(j for j in JOBS if j.name == "Spectrograph rack").state()
    loop, heat, air = exhaust.hold.loop, rack.hold.heat, must_know(exhaust).air
    assert air.fans is not None
    fans = at_full_speed(air)
    goal = float(loop.set_point or 0.15)
    settings = [replace(loop.controller(2.0, 0.1), gain_kp=0.4 + i / 1e3) for i in range(60)]
    damper = Damper(2.5, 10.0, 1800.0)
    say(
        "an hour of a loop, alone",
        times(lambda i: loop_run(fans, loop.held, goal, settings[i], damper, 3600.0), 20),
        "under 100",
    )
    steps = [step_test(fans, loop.held, replace(settings[0], sensor_lag_s=1 + i / 100)) for i in range(20)]
    say(
        "loop tuning out of a step test",
        times(lambda i: tuned(steps[i][0], steps[i][1], steps[i][2], 0.1), 20),
        "under 300",
    )
    long = [
        replace(
            exhaust, hold=replace(exhaust.hold, loop=replace(loop, gain_kp=0.4 + i / 1e3, total_s=3600.0))
        )
        for i in range(60)
    ]
    say(
        "  the page's answer to an hour, with its advice and its tuning",
        times(lambda i: hold_shown(long[i]), 20),
        "under 300",
    )
    sinks = [s.sink for s in heat.sinks]
    loads = [s.profile for s in heat.sinks]
    curves = [replace(heat.curve, start_c=heat.curve.start_c + i / 100) for i in range(60)]
    say(
        "an hour of heat sinks, alone",
        times(lambda i: thermal_run(sinks, curves[i], loads, 24.0, 3600.0), 20),
        "under 100",
    )
    moved = [replace(rack, hold=replace(rack.hold, heat=replace(heat, curve=curves[i]))) for i in range(60)]
    say(
        "  a drag of the curve: the page's answer to an hour",
        times(lambda i: hold_shown(moved[i]), 30),
        "a drag frame",
    )
    job = must_know(exhaust)
    usual = job.regulation.usual(job.subject, exhaust.wanted_rpm, exhaust)
    assert isinstance(usual, ControlDesign)
    new = [replace(usual, volts=(usual.volts[0] + i / 1e3, *usual.volts[1:])) for i in range(120)]
    say(
        "whole job by a control voltage, one voltage new",
        times(lambda i: frame(replace(exhaust, design=new[i])), 40),
        "as a bank's",
    )
    say(
        "  of which what a drag answers",
        times(lambda i: live(replace(exhaust, design=new[60 + i])), 40),
        "as a bank's",
    )


def wiring() -> None:
    """A truth table of 24 rows with delays, smaller ones, dead tests, a diagnosis, a change in the editor."""

    def changed(key: str, i: int) -> Wiring:
        document = copy.deepcopy(next(t.document for t in TEMPLATES if t.key == key))
        document["parts"][0]["volts"] = 229 + i / 100
        return read_wiring(document)

    boards = [changed("thermostat-board", i) for i in range(20)]
    say("24 rows with delays", times(lambda i: truth_table(boards[i]), 20), "under 200")
    for key in ("relay-centre", "timer-two-way", "pull-switch-block", "ec-strip"):
        few = [changed(key, i) for i in range(20)]
        say(f"  {key}", times(partial(_table, few), 20), "under 60")
    say("dead tests of the board", times(lambda i: dead_tests(boards[i]), 20), "under 100")
    centres = [changed("relay-centre", i) for i in range(20)]
    odd = [WireOhm(("K1.COM", "M.LO"), (), "", 87.1)]
    say("a reading that contradicts, explained", times(lambda i: diagnose(centres[i], odd), 20))
    documents = [write_wiring(b) for b in boards]
    say(
        "a change in the editor: the whole page anew",
        times(lambda i: wire_page(edited(documents[i], Edit(Deed.FREE, "TH.G")), []), 20),
        "under 150",
    )


def _table(few: Sequence[Wiring], i: int) -> None:
    truth_table(few[i])


def _refit(i: int) -> None:
    readings = dict(SWEEP.readings) | {"input_power_w": 73 + i / 1000}
    datum, _ = datum_of(replace(SWEEP, readings=tuple(sorted(readings.items()))))
    assert datum is not None
    fit.believe.__wrapped__(datum)


def http() -> None:
    """The drag frame over HTTP, against an empty request of the same server."""
    with tempfile.TemporaryDirectory(prefix="fenwit-bench-", ignore_cleanup_errors=True) as folder:
        cluster = Cluster(Path(folder) / "postgres")
        url = cluster.start()
        try:
            with running(url, folder) as server, httpx.Client(base_url=server.address) as client:
                drags = [
                    json.dumps({"wanted_rpm": [118, 170 + i / 8, 277, 330]}).encode() for i in range(400)
                ]
                head = {"content-type": "application/json"}

                def drag(i: int) -> None:
                    client.post("/api/jobs/1/live", content=drags[i], headers=head).raise_for_status()

                def empty(i: int) -> None:
                    client.get("/api/alive").raise_for_status()

                times(drag, 40), times(empty, 40)
                # One after the other, so that both meet the machine in the same mood.
                pairs = [(times(drag_at(drag, i), 1)[0], times(empty, 1)[0]) for i in range(40, 400)]
                frames, nothing = [a for a, _ in pairs], [b for _, b in pairs]
                say("empty request", nothing)
                say("drag frame: one notch of four under way, whole frame", frames, "p95 under 16")
                print(
                    f"{'  ratio':58} median {statistics.median(frames) / statistics.median(nothing):8.2f}"
                    f"      p95 {p95(frames) / p95(nothing):8.2f}      wanted: under 4"
                )
                say("whole job page", times(lambda i: client.get("/api/jobs/2").raise_for_status(), 60))
                version = client.get("/api/jobs/1").json()["job"]["version"]
                method = {"version": version, "sizing": {"method": "phase-angle"}}
                client.patch("/api/jobs/1", json=method).raise_for_status()
                times(drag, 40), times(empty, 40)
                pairs = [(times(drag_at(drag, i), 1)[0], times(empty, 1)[0]) for i in range(40, 200)]
                fired = [a for a, _ in pairs]
                say("drag frame by phase angle: one notch of four under way", fired)
                ratio = statistics.median(fired) / statistics.median(b for _, b in pairs)
                print(f"{'  ratio to an empty request':58} median {ratio:8.2f}")
                say(
                    "whole job page by phase angle",
                    times(lambda i: client.get("/api/jobs/3").raise_for_status(), 60),
                )
        finally:
            cluster.stop()


def drag_at(drag: Callable[[int], None], i: int) -> Callable[[int], None]:
    """A drag at a place of its own."""
    return lambda _: drag(i)


def many(jobs: int = 10_000, readings: int = 1_000_000) -> None:
    """The Bench and one job among ten thousand jobs with a million readings."""
    with tempfile.TemporaryDirectory(prefix="fenwit-bench-", ignore_cleanup_errors=True) as folder:
        cluster = Cluster(Path(folder) / "postgres", durable=False)
        url = cluster.start()
        try:
            with running(url, folder) as server, httpx.Client(base_url=server.address, timeout=60) as client:
                client.get("/api/jobs").raise_for_status()
                with psycopg.connect(url) as connection:
                    connection.execute(_FILL.encode(), {"jobs": jobs, "each": readings // jobs})
                    found = connection.execute(
                        "SELECT (SELECT count(*) FROM job), (SELECT count(*) FROM reading)"
                    )
                    print("in the database: {} jobs, {} readings".format(*(found.fetchone() or ())))
                with psycopg.connect(url, autocommit=True) as connection:
                    connection.execute("VACUUM ANALYZE")
                say(
                    "Bench page: first sixty of all, with counts",
                    times(lambda i: client.get("/api/jobs").raise_for_status(), 60),
                    "under 50",
                )
                say(
                    "Bench page: searched for two words",
                    times(
                        lambda i: client.get("/api/jobs", params={"find": f"room {i}"}).raise_for_status(), 60
                    ),
                )
                say(
                    "one job among them, 100 readings",
                    times(lambda i: client.get(f"/api/jobs/{5000 + i}").raise_for_status(), 60),
                )
        finally:
            cluster.stop()


# Copies of the first demo job under many names, each with corrections of one reading in a row.
_FILL = """
WITH fans AS (
    INSERT INTO fan (name, place, maker, serial, motor_kind, poles, rated_voltage_v, rated_frequency_hz,
        rated_power_w, run_capacitance_f)
    SELECT 'Room ' || n, 'lodge', 'Corrie & Tarn', 'CT-' || n, motor_kind, poles, rated_voltage_v,
        rated_frequency_hz, rated_power_w, run_capacitance_f
    FROM fan, generate_series(1, %(jobs)s) AS n WHERE fan.id = 1
    RETURNING id
), jobs AS (
    INSERT INTO job (fan_id, wish, wanted_rpm) SELECT fans.id, job.wish, job.wanted_rpm FROM fans, job WHERE job.id = 1
    RETURNING id, fan_id
), cards AS (
    INSERT INTO card (job_id, core_version, waits_kind, search, body)
    SELECT jobs.id, core_version, waits_kind, 'room ' || jobs.id || ' lodge ' || search,
        body || jsonb_build_object('id', jobs.id, 'name', 'Room ' || jobs.id)
    FROM jobs, card WHERE card.job_id = 1
), first AS (
    INSERT INTO reading (fan_id, job_id, quantity, value, typed, who)
    SELECT jobs.fan_id, jobs.id, quantity, value, typed, who FROM jobs, reading
    WHERE reading.job_id = 1 AND step IS NULL
)
INSERT INTO reading (fan_id, job_id, quantity, value, typed, who)
SELECT fan_id, id, 'spare_' || n, 1, '1', 'bench' FROM jobs, generate_series(1, %(each)s - 7) AS n
"""


def calibration(motors: int = 300) -> None:
    """Bands against truth on invented motors, and what a fit and a lead solution take."""
    invented.run(motors)
    ohms = (46.0, 21.5, 3.8, 4.6)
    names = ("P", "Q", "R", "S", "T")
    say("lead solution: five leads, all ten pairs", times(lambda i: _leads(names, ohms, i), 60), "under 20")
    say("lead solution: four of the ten read", times(lambda i: _leads(names, ohms, i, 4), 60), "under 20")
    six = (*names, "U")
    say("lead solution: six leads, all fifteen pairs", times(lambda i: _leads(six, (*ohms, 7.1), i), 60))
    eight = (*six, "V", "W")
    say(
        "lead solution: eight leads, all pairs", times(lambda i: _leads(eight, (*ohms, 7.1, 6.0, 6.6), i), 30)
    )


def _leads(names: tuple[str, ...], sections: tuple[float, ...], i: int, read: int = 99) -> None:
    """A chain of sections with its first pairs read, all a little different each time."""
    along = [0.0]
    for section in sections:
        along.append(along[-1] + section * (1 + i / 1e4))
    sheet = LeadSheet(
        names,
        tuple(
            OhmReading(a, b, round(abs(along[k] - along[j]), 1))
            for j, a in enumerate(names)
            for k, b in enumerate(names)
            if j < k
        )[:read],
    )
    find_leads(sheet)


def phase() -> None:
    """Triac and motor: one state, a surface, a firing curve with operating points, and plain time integration."""
    speeds, angles = np.linspace(0, 370, 30), np.radians(np.linspace(5, 170, 40))

    def surface(i: int) -> None:
        TriacFed(switched(C16, speeds + i / 1e3, 50.0), 230.0).states(angles[None])

    def alone(i: int) -> None:
        TriacFed(switched(C16, np.array([250.0 + i]), 50.0), 230.0).states(np.radians([[90.0]]))

    def knob(i: int) -> None:
        phase_solutions(C16, C16_LOAD, Source(230 + i / 100, 50), np.linspace(0, 150, 31).tolist(), 1.1)

    surface(0), alone(0), knob(0)
    one, many, curve = times(alone, 40), times(surface, 20), times(knob, 20)
    say("one steady state", one)
    say("surface of 30 speeds × 40 angles, everything of each", many, "under 150")
    say("firing curve: 31 angles with their operating points", curve, "under 100")
    brute = times(lambda i: integrated(C16, 250.0 + i, np.radians(90.0), halves=40), 5)
    aimed = replace(SWEEP, sizing=replace(SWEEP.sizing, method=Method.PHASE_ANGLE))
    live(aimed)
    moving = times(lambda i: live(replace(aimed, wanted_rpm=(110 + i / 50, 165.0, 220.0, 275.0, 330.0))), 40)
    say("drag frame by phase angle: one notch of five under way", moving)
    angles_of = [(125.0 - i / 50, 117.0, 104.0, 88.0, 0.0) for i in range(20)]
    whole = times(lambda i: frame(replace(SWEEP, design=PhaseDesign(angles_of[i]))), 20)
    say("whole job by phase angle, one angle new, 80-motor bands", whole)
    say("one state by event-exact time integration, 40 half-cycles from rest", brute)
    each = statistics.median(many) / (len(speeds) * len(angles))
    print(
        f"{'  ratio, for each state of the surface':58} {statistics.median(brute) / each:8.0f}   wanted: at least 500"
    )


SECTIONS = {
    "core": core,
    "choose": choosing,
    "direct": direct,
    "hold": holding,
    "wire": wiring,
    "http": http,
    "many": many,
    "calibration": calibration,
    "mismatch": mismatch.run,
    "phase": phase,
    "load": load,
}


def main(names: list[str]) -> int:
    """Run the named sections, or all."""
    unknown = [n for n in names if n not in SECTIONS]
    if unknown:
        print(f"no such section: {unknown[0]} (there are {', '.join(SECTIONS)})", file=sys.stderr)
        return 2
    for name in names or list(SECTIONS):
        SECTIONS[name]()
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
