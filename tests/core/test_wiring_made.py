"""What is made around a circuit: the regulator as one, points to offer, words on the drawing, the drawing itself."""

from __future__ import annotations

from dataclasses import replace
from itertools import combinations
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fenwit.core.circuit.wiring.dead import Network, dead_tests, standings
from fenwit.core.circuit.wiring.document import read_wiring
from fenwit.core.circuit.wiring.faults import Agreement, agreement
from fenwit.core.circuit.wiring.flags import Flag, Mark, flagged
from fenwit.core.circuit.wiring.kit import old_shaft_w
from fenwit.core.circuit.wiring.layout import Sheet, laid_out
from fenwit.core.circuit.wiring.lists import typed_lists, with_lists
from fenwit.core.circuit.wiring.needs import Sort, needs
from fenwit.core.circuit.wiring.offers import offers
from fenwit.core.circuit.wiring.order import work_order
from fenwit.core.circuit.wiring.parts import Kind, Wiring
from fenwit.core.circuit.wiring.table import truth_table
from fenwit.core.circuit.wiring.templates import TEMPLATES, Template
from fenwit.core.errors import InputError
from fenwit.core.frame.asked import as_by
from fenwit.core.frame.wire import AS_SIZED, begun_wiring, duties_of
from fenwit.core.job.state import JobState, Nameplate
from fenwit.core.methods import REGULATIONS
from fenwit.core.methods.phase_angle.design import FiredBy
from fenwit.core.motor.kinds import Method, MotorKind, answer_for
from fenwit.core.regulator.diac import DiacNetwork
from fenwit.demo.scenario import JOBS
from tests.core.test_frame import SWEEP

TAPPED = next(j for j in JOBS if j.name == "Hall return air").state()


def as_wired(method: Method, **changes: Any) -> Wiring:
    """A usual design of one way, as its circuit."""
    state = replace(TAPPED if method is Method.WINDING_TAP else SWEEP, wanted_rpm=(), design=None, proofs=())
    room = REGULATIONS[method]
    fan = room.subject(as_by(state, method))
    wanted = (
        (fan.full_rpm * 0.7, fan.full_rpm * 0.95) if method is not Method.WINDING_TAP else (1130.0, 1200.0)
    )
    by = replace(as_by(state, method), wanted_rpm=wanted)
    design = replace(room.usual(fan, wanted, by), **changes)
    return read_wiring(begun_wiring(replace(by, design=design), AS_SIZED, "as sized"))


@pytest.mark.parametrize("method", [m for m in REGULATIONS if answer_for(MotorKind.PSC, m)])
def test_a_regulator_of_every_way_is_one_circuit(method: Method) -> None:
    wiring = as_wired(method)
    table = truth_table(wiring)
    assert not table.hazards
    states = [str(row.rest.parts["M"]["state"]) for row in table.rows]
    assert "off" in states
    assert len(set(states)) > 1


def test_isolators_stand_on_both_sides() -> None:
    room = REGULATIONS[Method.PHASE_ANGLE]
    fan = room.subject(as_by(SWEEP, Method.PHASE_ANGLE))
    usual = room.usual(fan, (200.0, 280.0), SWEEP)
    assert usual.fired_by is FiredBy.TABLE
    net = as_wired(Method.PHASE_ANGLE).net_at
    assert net["U1.A"] == net["LOGIC.PULSE"]
    assert net["U2.C"] == net["LOGIC.ZERO"]
    # Behind a capacitor dropper the controller's 0 V is the neutral: all of it is on mains.
    assert {net[t] for t in ("U1.K", "U2.E", "LOGIC.0V", "U2.2", "S.N")} == {"neutral"}
    assert net["PS.5V"] == net["LOGIC.5V"]
    drawn = room.built(fan, usual).drawing
    assert [p.part for p in drawn.far_sides] == ["U1", "U2"]
    assert {p.part for p in drawn.far_sides} <= {p.part for p in drawn.placed}
    ends = {(x, y) for _, x, y, _ in drawn.ends}
    assert ends <= {(w.x1, w.y1) for w in drawn.wires}
    knob = {"network": DiacNetwork(4.7e3, 470e3, 100e-9), "fired_by": FiredBy.KNOB}
    assert "LOGIC" not in as_wired(Method.PHASE_ANGLE, **knob).by_id
    assert not room.built(fan, replace(usual, **knob)).drawing.far_sides


# ---------------------------------------------------------------- points worth adding


SMALL = [t for t in TEMPLATES if t.key in ("relay-centre", "timer-two-way", "pull-switch-block")]


@pytest.mark.parametrize("template", SMALL, ids=lambda t: t.key)
def test_what_is_offered_shows_what_no_listed_test_does(template: Template) -> None:
    wiring = read_wiring(template.document)
    listed, found = dead_tests(wiring), offers(wiring)
    assert found.offers
    sound = Network(wiring)
    hidden = {f.name for o in found.offers for f in o.shows} | {f.name for f in found.never}
    for offer in found.offers:
        for fault in offer.shows:
            faulty = Network(wiring, fault.change)

            def contradicts(points: tuple[str, str], stand: Any, broken: Network = faulty) -> bool:
                got = broken.between(points, stand)
                if got.low is None or got.high is None:
                    return (
                        got.is_open and agreement(sound.between(points, stand), None) is Agreement.CONTRADICTS
                    )
                middle = (got.low + got.high) / 2
                return agreement(sound.between(points, stand), middle) is Agreement.CONTRADICTS

            assert any(contradicts(offer.points, s) for s in standings(wiring))
            assert not any(contradicts(t.points, t.stand) for t in listed)
    # Taken up, they leave nothing to offer.
    points = [list(t) for t in dict.fromkeys(t.points for t in listed)]
    more = {**template.document, "test_points": [*points, *(list(o.points) for o in found.offers)]}
    again = offers(read_wiring(more))
    assert again.shown == found.shown + len(hidden) - len(found.never)
    assert not again.offers


def test_offers_are_bounded() -> None:
    many = {
        "format": "fenwit-circuit/1", "title": "", "nets": {"a": [f"S{i}.1" for i in range(9)] + ["S.L"]},
        "parts": [{"id": "S", "kind": "supply", "volts": 230}]
        + [
            {
                "id": f"S{i}", "kind": "switch",
                "positions": [{"name": "a", "joins": []}, {"name": "b", "joins": [["1", "2"]]}],
            }
            for i in range(9)
        ],
    }  # fmt: skip
    with pytest.raises(InputError, match="too many to look through"):
        offers(read_wiring(many), ())


# ---------------------------------------------------------------- the drawing


@pytest.mark.parametrize("template", TEMPLATES, ids=lambda t: t.key)
def test_no_two_wires_lie_on_one_another_and_none_runs_through_a_part(template: Template) -> None:
    sheet = laid_out(read_wiring(template.document))
    for one, other in combinations(sheet.runs, 2):
        for a in one.pieces:
            assert not any(_lie_together(a, b) for b in other.pieces), (one.net, other.net)
    for box in sheet.boxes:
        for run in sheet.runs:
            for x1, y1, x2, y2 in run.pieces:
                inside = (
                    min(x1, x2) < box.x + box.width
                    and max(x1, x2) > box.x
                    and min(y1, y2) < box.y + box.height
                    and max(y1, y2) > box.y
                )
                assert not inside, (run.net, box.part)


@pytest.mark.parametrize("template", TEMPLATES, ids=lambda t: t.key)
def test_every_wired_terminal_is_reached_by_its_net(template: Template) -> None:
    wiring = read_wiring(template.document)
    sheet = laid_out(wiring)
    pins = {p.terminal: (p.x, p.y) for b in sheet.boxes for p in b.pins}
    assert len(pins) == sum(len(p.terminals) for p in wiring.parts)
    for run in sheet.runs:
        ends = {e for x1, y1, x2, y2 in run.pieces for e in ((x1, y1), (x2, y2))}
        assert all(pins[t] in ends for t in dict(wiring.nets)[run.net])


def _lie_together(a: tuple[float, ...], b: tuple[float, ...]) -> bool:
    for level, along in ((1, 0), (0, 1)):
        if a[level] == a[level + 2] == b[level] == b[level + 2]:
            low, high = sorted((a[along], a[along + 2]))
            start, end = sorted((b[along], b[along + 2]))
            return max(low, start) < min(high, end)
    return False


@settings(max_examples=60, deadline=None)
@given(
    st.sampled_from(TEMPLATES),
    st.lists(st.tuples(st.integers(0, 200), st.text(min_size=1, max_size=120)), max_size=6),
)
def test_words_on_the_drawing_cover_no_part_and_no_other_words(
    template: Template, told: list[tuple[int, str]]
) -> None:
    wiring = read_wiring(template.document)
    sheet = laid_out(wiring)
    terminals = sorted(wiring.net_at)
    marks = [Mark(words, (t := terminals[k % len(terminals)],), (wiring.net_at[t],)) for k, words in told]
    flags = flagged(sheet, marks)
    assert len(flags) == len(marks)
    for flag in flags:
        assert flag.x >= 0
        assert flag.y >= 0
        assert not any(_over(flag, b.x, b.y, b.width, b.height) for b in sheet.boxes)
    for one, other in combinations(flags, 2):
        assert not _over(one, other.x, other.y, other.width, other.height)


def _over(flag: Flag, x: float, y: float, width: float, height: float) -> bool:
    return flag.x < x + width and x < flag.x + flag.width and flag.y < y + height and y < flag.y + flag.height


def test_words_of_nothing_stand_below() -> None:
    sheet = Sheet((), (), 100.0, 50.0)
    (flag,) = flagged(sheet, [Mark("nothing to be seen of it")])
    assert flag.y >= sheet.height


# ---------------------------------------------------------------- lists typed in lines, parts to take


@pytest.mark.parametrize("template", TEMPLATES, ids=lambda t: t.key)
def test_lists_read_back_as_they_are_typed(template: Template) -> None:
    wiring = read_wiring(template.document)
    again = read_wiring(with_lists(template.document, typed_lists(wiring)))
    assert again == wiring


_NAMES = st.text("abcdefgh XYZ1234567890.", min_size=1, max_size=8).map(str.strip).filter(bool)


@settings(max_examples=80, deadline=None)
@given(
    cores=st.lists(_NAMES.filter(lambda n: "," not in n), min_size=1, max_size=6, unique=True),
    earth=st.booleans(),
    use=st.sampled_from(["", "mains", "control"]),
    length=st.none() | st.floats(0.1, 900.0).map(lambda v: float(f"{v:.3g}")),
    area=st.none() | st.sampled_from([0.5, 0.75, 1.5, 2.5]),
)
def test_a_cable_reads_back(
    cores: list[str], earth: bool, use: str, length: float | None, area: float | None
) -> None:
    cable: dict[str, Any] = {"id": "W9", "from": "unit", "to": "far room", "cores": cores, "earth": earth}
    cable |= {k: v for k, v in (("use", use), ("length_m", length), ("csa_mm2", area)) if v}
    doc = {
        "format": "fenwit-circuit/1", "title": "", "parts": [], "nets": {}, "places": ["unit", "far room"],
        "cables": [cable],
    }  # fmt: skip
    try:
        wiring = read_wiring(doc)
    except InputError:
        return  # two cores that differ in blanks alone, and the like
    again = read_wiring(with_lists(doc, typed_lists(wiring)))
    assert again.cables == wiring.cables


@pytest.mark.parametrize("template", TEMPLATES, ids=lambda t: t.key)
def test_all_that_is_wired_is_needed_once(template: Template) -> None:
    wiring = read_wiring(template.document)
    names = [name for need in needs(wiring) for name in need.names]
    there = {p.id for p in wiring.parts if p.kind not in (Kind.SUPPLY, Kind.MOTOR)} | {
        c.id for c in wiring.cables
    }
    assert sorted(names) == sorted(there)
    assert all(need.words for need in needs(wiring))


def test_alike_parts_are_one_line_with_the_value_a_shelf_knows() -> None:
    wiring = read_wiring(
        {
            "format": "fenwit-circuit/1",
            "title": "",
            "nets": {"a": ["C1.1", "M.AUX"]},
            "parts": [
                {"id": "C1", "kind": "capacitor", "farads": 2.2e-6},
                {"id": "C2", "kind": "capacitor", "farads": 2.2e-6},
                {"id": "C3", "kind": "capacitor", "farads": 2.2e-6},
                {"id": "F", "kind": "fuse", "amps": 0.63},
                {
                    "id": "M",
                    "kind": "motor",
                    "common": "N",
                    "taps": ["RUN"],
                    "auxiliary": "AUX",
                    "volts": 230,
                    "va": 60,
                },
                {
                    "id": "K",
                    "kind": "relay",
                    "volts": 24,
                    "va": 4,
                    "delay_on_s": 30,
                    "poles": [{"com": "C", "no": "O"}],
                },
            ],
        }
    )
    found = {need.names: need for need in needs(wiring)}
    assert found["C2", "C3"].value == 2.2e-6
    # The fan's own is not looked for on a shelf.
    assert found["C1",].sort is Sort.OTHER
    assert found["F",].value == 0.63
    assert found["K",].words == "relay, coil 24 V, 4 VA, make, comes after 30 s"


MADE = [(job.name, i) for job in JOBS for i in range(len(job.designs))]


@pytest.mark.parametrize(("name", "number"), MADE)
def test_every_design_of_the_demo_is_one_circuit(name: str, number: int) -> None:
    """Whatever regulates, and on whatever supply: wired as it is sized it is safe, and something of it runs."""
    job = next(j for j in JOBS if j.name == name)
    wiring = read_wiring(begun_wiring(job.state(job.designs[number].regulator), AS_SIZED, name))
    table = truth_table(wiring)
    assert not table.hazards
    assert not table.never
    assert not work_order(wiring).problems
    told = {p.id for p in wiring.of(Kind.MOTOR, Kind.EC_FAN)} or {"FAN"}
    for part in told:
        states = {str(row.rest.parts[part]["state"]) for row in table.rows}
        assert states & {"off", "disabled"}
        assert states - {"off", "disabled", "dead"}


@pytest.mark.parametrize(
    ("ohm", "farads"), [(25.0, 6e-6), (50.0, 3e-6), (18.0, 6e-6), (18.0, 10e-6), (40.0, 4e-6)]
)
def test_ohms_alone_tell_the_shaft_within_a_third(ohm: float, farads: float) -> None:
    """Against the model that is taken of a blower of which only ohms and run capacitor were read."""
    plate = Nameplate(rated_voltage_v=230, rated_speed_rpm=1200, poles=4, run_capacitance_f=farads)
    state = JobState(MotorKind.PSC, plate, 230, 50, readings=(("main_resistance_ohm", ohm),))
    told = old_shaft_w(f"{ohm} Ω", 230)[0]
    modelled = duties_of(state).shaft_w
    assert modelled is not None
    assert 0.67 < told / modelled < 1.5
