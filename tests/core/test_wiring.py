"""One circuit, many readings of it: the six known circuits, what goes wrong in them, and what brute force finds too."""

from __future__ import annotations

import copy
import json
import math
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest

from fenwit.core.circuit.wiring.answer import answered
from fenwit.core.circuit.wiring.dead import Network, Stand, dead_tests, points, standings
from fenwit.core.circuit.wiring.document import read_wiring
from fenwit.core.circuit.wiring.faults import Agreement, agreement, diagnose, single_faults
from fenwit.core.circuit.wiring.gauge import drop_v, gauge_of, least_mm2
from fenwit.core.circuit.wiring.kit import old_shaft_w, read_kit, typed_kit
from fenwit.core.circuit.wiring.order import EUROPE, NORTH_AMERICA, read_colours, work_order
from fenwit.core.circuit.wiring.parts import OhmReading
from fenwit.core.circuit.wiring.table import Table, truth_table
from fenwit.core.circuit.wiring.written import write_wiring
from fenwit.core.errors import InputError

KNOWN: dict[str, Any] = json.loads(
    (Path(__file__).parents[1] / "known" / "circuits.json").read_text(encoding="utf-8")
)
SOLVED = ("relay-centre", "timer-two-way", "rotary-block", "board", "ec-retrofit", "ec-strip")
Doc = dict[str, Any]


def circuit(name: str) -> Doc:
    return copy.deepcopy(KNOWN[name]["circuit"])


def part(doc: Doc, name: str) -> Doc:
    return next(p for p in doc["parts"] if p["id"] == name)


def solved(doc: Doc) -> Table:
    return truth_table(read_wiring(doc))


def states(table: Table, name: str) -> list[Any]:
    return [row.rest.parts[name]["state"] for row in table.rows]


def kinds(table: Table) -> set[str]:
    return {h.kind.value for h in table.hazards}


def alike(got: Any, want: Any, at: str = "") -> None:
    """Equal, numbers to the digits of the known answer; zero is zero."""
    if isinstance(want, dict):
        assert got.keys() == want.keys(), at
        for key in want:
            alike(got[key], want[key], f"{at}/{key}")
    elif isinstance(want, list):
        assert len(got) == len(want), at
        for i, (one, other) in enumerate(zip(got, want, strict=True)):
            alike(one, other, f"{at}[{i}]")
    elif isinstance(want, float) and not isinstance(got, (str, bool, type(None))):
        assert math.isclose(got, want, rel_tol=2e-5, abs_tol=1e-9), (at, got, want)
    else:
        assert got == want, at


def by_origin(answer: Doc) -> Doc:
    """Waiting states by the row they come from: the order in which they are found says nothing."""
    for row in answer.get("rows", []):
        row["interim"].sort(key=lambda i: (i["after"] is not None, i["after"] or 0))
    return answer


@pytest.mark.parametrize("name", SOLVED)
def test_known_circuits(name: str) -> None:
    """Chapter 13 of the domain: six circuits with their full answers, computed by an independent prototype."""
    got = json.loads(json.dumps(answered(read_wiring(circuit(name)))))
    alike(by_origin(got), by_origin(copy.deepcopy(KNOWN[name]["answer"])))


def test_known_exchange() -> None:
    got = json.loads(json.dumps(answered(read_wiring(circuit("retrofit")))))
    alike(got["retrofit"], KNOWN["retrofit"]["answer"]["retrofit"])


def test_known_diagnosis() -> None:
    got = answered(read_wiring(circuit("diagnosis")))["diagnosis"]
    want = KNOWN["diagnosis"]["answer"]["diagnosis"]
    alike(got["readings"], want["readings"])
    alike(got["next"], want["next"])
    alike(
        {r["fault"]: r["probability"] for r in got["ranked"]},
        {r["fault"]: r["probability"] for r in want["ranked"]},
    )


@pytest.mark.parametrize("name", [*SOLVED, "retrofit", "diagnosis"])
def test_what_is_written_reads_back(name: str) -> None:
    wiring = read_wiring(circuit(name))
    assert read_wiring(json.loads(json.dumps(write_wiring(wiring)))) == wiring


# What goes wrong, each made by one change to a known circuit


def test_a_timer_without_its_neutral_never_runs() -> None:
    doc = circuit("timer-two-way")
    doc["nets"]["neutral"].remove("T.N")
    assert solved(doc).never == ("T", "M.HI", "M.LO")
    assert "switched-neutral" not in kinds(solved(doc))


def test_taps_overlap_while_a_late_relay_still_holds() -> None:
    """Separate make contacts in place of the cascade: cool called while heat still holds."""
    doc = circuit("board")
    for net in ("k1 rest", "k2 rest"):
        del doc["nets"][net]
    doc["nets"]["fed"] += ["K2.COM", "K3.COM"]
    found = [h for h in solved(doc).hazards if h.kind == "two-taps" and h.passing]
    assert max(h.for_s or 0 for h in found) == 90
    assert all("M." in t for h in found for t in h.where)


def test_a_feed_ahead_of_the_door() -> None:
    doc = circuit("ec-retrofit")
    doc["nets"]["fed"].remove("X.L")
    doc["nets"]["line"].append("X.L")
    (hazard,) = [h for h in solved(doc).hazards if h.kind == "ahead-of-door"]
    assert hazard.where == ("X", "DOOR")
    assert len(hazard.when) == 12


def test_feed_and_run_leads_exchanged() -> None:
    doc = circuit("ec-retrofit")
    doc["nets"]["fed"].remove("X.L")
    doc["nets"]["run"].remove("X.B")
    doc["nets"]["fed"].append("X.B")
    doc["nets"]["run"].append("X.L")
    (hazard,) = [h for h in solved(doc).hazards if h.kind == "run-without-feed"]
    assert hazard.where == ("X.B",)
    assert hazard.severity == "damage"


def test_a_link_left_in() -> None:
    doc = circuit("ec-retrofit")
    doc["nets"]["link"] = ["X.K1", "X.K2"]
    table = solved(doc)
    assert set(states(table, "X")) == {"dead"}
    (hazard,) = [h for h in table.hazards if h.kind == "wrong-volts"]
    assert dict(hazard.values) == {"volts": 230, "rated": 115}


def test_a_motor_without_its_earth() -> None:
    doc = circuit("relay-centre")
    doc["nets"]["earth"].remove("M.PE")
    assert [h.where for h in solved(doc).hazards if h.kind == "unbonded"] == [("M.PE",)]
    doc["nets"]["neutral"].append("M.PE")
    assert {"unbonded", "neutral-as-bond"} <= kinds(solved(doc))
    part(doc, "M")["class2"] = True
    doc["nets"]["neutral"].remove("M.PE")
    doc["test_points"].remove(["M.PE", "S.PE"])
    assert not kinds(solved(doc))


def test_a_bond_through_a_contact_is_none() -> None:
    doc = circuit("timer-two-way")
    doc["parts"].append({"id": "Q", "kind": "switch", "positions": [{"name": "on", "joins": [["1", "2"]]}]})
    doc["nets"]["earth"].remove("M.PE")
    doc["nets"]["earth"].append("Q.1")
    doc["nets"]["far"] = ["Q.2", "M.PE"]
    assert "unbonded" in kinds(solved(doc))


def test_a_short_ends_the_walk() -> None:
    doc = circuit("timer-two-way")
    doc["nets"]["low"].remove("SW.1")
    doc["nets"]["neutral"].append("SW.1")
    table = solved(doc)
    assert [r.settled for r in table.rows] == ["yes", "yes", "short", "yes"]
    (hazard,) = [h for h in table.hazards if h.kind == "short" and not h.passing]
    assert hazard.where == ("S.L", "S.N")
    assert hazard.when == (2,)


def test_two_coils_one_behind_the_other_do_not_pull() -> None:
    doc = circuit("relay-centre")
    doc["parts"].append({"id": "K9", "kind": "relay", "volts": 24, "va": 4, "poles": []})
    doc["nets"]["c"].remove("K1.A2")
    doc["nets"]["c"].append("K9.A2")
    doc["nets"]["between"] = ["K1.A2", "K9.A1"]
    table = solved(doc)
    assert [r.rest.relays for r in table.rows] == [{"K1": False, "K9": False}] * 2
    (hazard,) = [h for h in table.hazards if h.kind == "series"]
    assert hazard.where == ("K1", "K9")
    assert hazard.when == (1,)
    assert table.never == ("K1", "M.HI", "K9")


def test_mains_on_a_thermostat_wire() -> None:
    doc = circuit("relay-centre")
    doc["nets"]["line"].append("TB.R")
    doc["nets"]["r"].remove("TB.R")
    doc["nets"]["line"] += doc["nets"].pop("r")
    found = [h for h in solved(doc).hazards if h.kind == "low-voltage-joined" and not h.passing]
    assert {"S.L", "TR", "TH"} <= set(found[0].where)


def test_an_earthed_secondary_is_no_fault() -> None:
    doc = circuit("relay-centre")
    doc["nets"]["earth"] += doc["nets"].pop("c")
    assert not kinds(solved(doc))


def test_a_relay_that_opens_its_own_coil_chatters() -> None:
    doc = circuit("relay-centre")
    doc["parts"].append(
        {"id": "KB", "kind": "relay", "volts": 24, "va": 4, "poles": [{"com": "COM", "nc": "NC"}]}
    )
    doc["nets"]["r"].append("KB.COM")
    doc["nets"]["own"] = ["KB.NC", "KB.A1"]
    doc["nets"]["c"].append("KB.A2")
    table = solved(doc)
    assert {r.settled for r in table.rows} == {"chatter"}
    assert [h.where for h in table.hazards if h.kind == "chatter"] == [("KB",)]


def test_a_holding_contact_remembers() -> None:
    """Start by a push, stop by another: at power-up off, by history on."""
    doc = {
        "format": "fenwit-circuit/1",
        "parts": [
            {"id": "S", "kind": "supply", "volts": 24, "terminals": ["L", "N"]},
            {"id": "ON", "kind": "switch", "positions": [{"name": "free"}, {"name": "pushed", "joins": [["1", "2"]]}]},
            {"id": "K", "kind": "relay", "volts": 24, "va": 2, "poles": [{"com": "COM", "no": "NO"}]},
        ],
        "nets": {"l": ["S.L", "ON.1", "K.COM"], "a": ["ON.2", "K.NO", "K.A1"], "n": ["S.N", "K.A2"]},
    }  # fmt: skip
    table = solved(doc)
    assert [r.settled for r in table.rows] == ["remembers", "yes"]
    assert table.rows[0].rest.relays == {"K": False}
    assert [r.relays for r in table.rows[0].also] == [{"K": True}]


def test_heat_needs_air_and_stands_behind_its_limit() -> None:
    doc = circuit("board")
    part(doc, "V")["heats"] = True
    part(doc, "V")["volts"] = 24
    doc["nets"]["heat"].remove("M.MED")
    found = {h.kind.value: h for h in solved(doc).hazards}
    assert found["heat-without-air"].where == ("V",)
    doc["nets"]["w"] += doc["nets"].pop("burner")
    doc["nets"]["w"].remove("LIM.2")
    assert ("V", "LIM") in [h.where for h in solved(doc).hazards if h.kind == "ahead-of-limit"]


def test_an_idle_tap_feeds_what_shares_its_net() -> None:
    doc = circuit("timer-two-way")
    doc["parts"].append({"id": "H", "kind": "lamp", "volts": 230, "va": 3, "place": "attic"})
    doc["nets"]["high"].append("H.1")
    doc["nets"]["neutral"].append("H.2")
    found = [h for h in solved(doc).hazards if h.kind == "back-fed"]
    assert [h.where for h in found] == [("M.HI", "H.1")]
    assert found[0].when == (2,)


def test_too_much_on_a_transformer() -> None:
    doc = circuit("board")
    part(doc, "TR")["va"] = 18
    (hazard,) = [h for h in solved(doc).hazards if h.kind == "va-overload"]
    assert hazard.where == ("TR",)
    assert dict(hazard.values) == {"va": 20, "rated": 18}


def test_terminal_strips_that_are_wrong() -> None:
    doc = circuit("ec-strip")
    nets = doc["nets"]
    nets["10V"][1], nets["0V"][1] = "P1.A", "P1.B"
    assert [h.where for h in solved(doc).hazards if h.kind == "reversed-pot"] == [("F1", "P1")]
    doc = circuit("ec-strip")
    doc["nets"]["0V"].remove("F2.GND")
    assert [h.where for h in solved(doc).hazards if h.kind == "no-common-ground"] == [("F2",)]
    doc = circuit("ec-strip")
    doc["nets"]["A"], doc["nets"]["B"] = ["F1.DA", "F2.DB"], ["F1.DB", "F2.DA"]
    assert [h.where for h in solved(doc).hazards if h.kind == "serial-crossed"] == [("F1", "F2")]
    doc = circuit("ec-strip")
    doc["nets"]["0V"].remove("P1.A")
    assert "full" in states(solved(doc), "F1")
    assert "pot P1" not in states(solved(doc), "F1")


def test_line_on_both_ends_and_a_neutral_that_is_switched() -> None:
    doc = circuit("ec-strip")
    doc["nets"]["fed n"].remove("HR.2")
    doc["nets"]["fed"].append("HR.2")
    assert ("HR.1", "HR.2") in [h.where for h in solved(doc).hazards if h.kind == "both-ends-on-line"]
    doc = circuit("timer-two-way")
    doc["nets"] = {
        "line": ["S.L", "M.HI"], "neutral": ["S.N", "SW.C"], "n2": ["SW.2", "M.N"], "earth": ["S.PE", "B1.PE", "M.PE"],
    }  # fmt: skip
    assert [h.where for h in solved(doc).hazards if h.kind == "switched-neutral"] == [("M",)]


@pytest.mark.parametrize("name", SOLVED)
def test_parts_and_nets_in_another_order_answer_alike(name: str) -> None:
    doc = circuit(name)
    other = circuit(name)
    other["parts"].reverse()
    other["nets"] = dict(reversed(other["nets"].items()))
    other["parts"].append({"id": "spare", "kind": "strip", "terminals": ["1", "2"]})

    def told(table: Table) -> dict[Any, Any]:
        return {
            tuple(sorted((k, str(v)) for k, v in row.inputs.items())): (
                row.settled, dict(row.rest.parts), dict(row.rest.relays), dict(row.rest.va), row.rest.alive,
            )
            for row in table.rows
        }  # fmt: skip

    one, two = solved(doc), solved(other)
    assert told(one) == told(two)
    assert {(h.kind, frozenset(h.where)) for h in one.hazards} == {
        (h.kind, frozenset(h.where)) for h in two.hazards
    }


# Dead tests and faults


def test_parallel_ways_count() -> None:
    """The transformer lies beside the blower: 18.1 Ω from line to neutral, not 25.6 (domain 13)."""
    doc = circuit("relay-centre")
    with_it = dead_tests(read_wiring(doc))[0].expected.ohms
    doc["nets"]["line"].remove("TR.P1")
    without = dead_tests(read_wiring(doc))[0].expected.ohms
    assert with_it == pytest.approx(18.1187, abs=1e-3)
    assert without == pytest.approx(25.6)


def test_unknown_ohms_one_behind_the_other_are_named() -> None:
    doc = {
        "format": "fenwit-circuit/1",
        "parts": [
            {"id": "S", "kind": "supply", "volts": 230},
            {"id": "H1", "kind": "lamp", "volts": 115, "va": 3},
            {"id": "H2", "kind": "lamp", "volts": 115, "va": 3},
        ],
        "nets": {"a": ["S.L", "H1.1"], "b": ["H1.2", "H2.1"], "c": ["H2.2", "S.N"]},
        "test_points": [["S.L", "S.N"]],
    }
    (test,) = dead_tests(read_wiring(doc))
    assert test.expected.unknown == ("H1", "H2")
    assert not test.expected.is_open


def test_leads_that_are_not_zeroed_and_contacts_widen_the_band() -> None:
    doc = circuit("relay-centre")
    doc["meter"] = {"zeroed": False, "lead_ohm": 0.4, "contact_ohm": 1.0}
    usual = {(t.points, t.stand): t.expected for t in dead_tests(read_wiring(circuit("relay-centre")))}
    for test in dead_tests(read_wiring(doc)):
        before = usual[test.points, test.stand]
        assert test.expected.ohms == before.ohms
        assert (test.expected.high or 0) > (before.high or 0)


@pytest.mark.parametrize("name", ["relay-centre", "timer-two-way", "board", "rotary-block"])
def test_a_single_fault_is_found_by_the_readings_that_fenwit_asks_for(name: str) -> None:
    """From a contradicting reading on, following the next test each time: named, alone or tied, after four of them."""
    wiring = read_wiring(circuit(name))
    sound, tests = Network(wiring), dead_tests(wiring)
    tried = named = 0
    for fault in single_faults(wiring)[1::7]:
        network = Network(wiring, fault.change)

        def reading(points: tuple[str, str], stand: Stand, network: Network = network) -> OhmReading | None:
            found = network.between(points, stand)
            return (
                None
                if found.ohms is None and not found.is_open
                else OhmReading(points, stand.inputs, stand.held, found.ohms)
            )

        odd = next(
            (
                r
                for t in tests
                if (r := reading(t.points, t.stand)) is not None
                and agreement(t.expected, r.ohms) is Agreement.CONTRADICTS
            ),
            None,
        )
        if odd is None:
            continue
        tried += 1
        taken = [odd]
        for _ in range(4):
            found = diagnose(wiring, taken, tests)
            best = found.ranked[0].probability
            alike_names = {s.fault.name for s in found.ranked if s.probability > 0.9 * best}
            if fault.name in alike_names and (found.next is None or len(alike_names) == 1):
                break
            if found.next is None:
                break
            more = reading(found.next.points, found.next.stand)
            if more is None:
                break
            taken.append(more)
        named += fault.name in {s.fault.name for s in diagnose(wiring, taken, tests).ranked}
    assert tried >= 2
    assert named >= 0.7 * tried
    assert sound.between(points(wiring)[0], standings(wiring)[0]) == tests[0].expected


# Cables and the order of work


def test_every_earth_is_joined_at_both_ends() -> None:
    doc = circuit("timer-two-way")
    part(doc, "B1")["class2"] = True
    del doc["test_points"]
    doc["nets"]["earth"].remove("B1.PE")
    work = work_order(read_wiring(doc))
    assert {u.earth for u in work.cables} == {"joined"}
    assert any(c.end == "wall box:earth" or c.start == "wall box:earth" for c in work.connections)
    doc["nets"]["earth"] = ["S.PE"]
    part(doc, "M")["class2"] = True
    assert {u.earth for u in work_order(read_wiring(doc)).cables} == {"joined"}


def test_cables_that_do_not_suffice_are_told() -> None:
    doc = circuit("timer-two-way")
    doc["cables"][1]["cores"] = ["brown", "blue"]
    problems = work_order(read_wiring(doc)).problems
    assert [(p.kind, p.net, p.to) for p in problems] == [("too-few-cores", "high", "attic")]
    doc["cables"].pop()
    kinds_of = {p.kind for p in work_order(read_wiring(doc)).problems}
    assert kinds_of == {"no-cable"}


def test_the_supply_comes_last_and_low_voltage_keeps_to_its_own_cables() -> None:
    for name in SOLVED:
        wiring = read_wiring(circuit(name))
        work = work_order(wiring)
        stages = [c.stage for c in work.connections]
        order = ["bond", "neutral", "switched", "line", "control", "supply"]
        assert stages == sorted(stages, key=order.index)
        mains = {c.id for c in wiring.cables if c.purpose == "mains"}
        for made in work.connections:
            if made.cable:
                assert (made.cable in mains) == (made.purpose != "control")


def test_colours_follow_the_region_and_a_neutral_colour_is_sleeved() -> None:
    doc = circuit("timer-two-way")
    doc["cables"][0]["cores"], doc["cables"][1]["cores"] = ["black", "white"], ["black", "red", "white"]
    work = work_order(read_wiring(doc), NORTH_AMERICA)
    assert {(c.net, c.core) for c in work.connections if c.cable == "W1" and c.core != "earth"} == {
        ("line", "black"), ("neutral", "white"),
    }  # fmt: skip
    doc["cables"][1]["cores"] = ["white", "blue", "black"]
    made = work_order(read_wiring(doc), EUROPE).connections
    assert [(c.net, c.core) for c in made if c.sleeve] == [("high", "white")]
    assert [c.core for c in made if c.net == "neutral" and c.cable] == ["blue", "white"]


def test_colours_are_data() -> None:
    assert read_colours("north-america") is NORTH_AMERICA
    mine = read_colours("neutral=light blue; switched=violet, black; R=orange")
    assert mine.neutral == ("light blue",)
    assert mine.line == EUROPE.line
    assert mine.thermostat["R"] == ("orange",)
    assert "light blue" in mine.sleeved
    for text in ("", "moon", "neutral", "neutral="):
        with pytest.raises(InputError):
            read_colours(text)


# What is refused


def refused(doc: object) -> InputError:
    with pytest.raises(InputError) as found:
        answered(read_wiring(doc))
    return found.value


def changed(name: str, **more: Any) -> Doc:
    return circuit(name) | more


X = {"name": "x"}
REFUSED: list[tuple[str, Any]] = [
    ("format", changed("board", format="fenwit-circuit/2")),
    ("circuit", []),
    ("colour", changed("board", colour="red")),
    ("parts", changed("board", parts=[*circuit("board")["parts"], {"id": "M", "kind": "box"}])),
    ("id", changed("board", parts=[{"id": "a.b", "kind": "box"}])),
    ("kind", changed("board", parts=[{"id": "Z", "kind": "chopper"}])),
    ("volts", changed("board", parts=[{"id": "Z", "kind": "load"}], nets={})),
    ("volts", changed("board", parts=[{"id": "Z", "kind": "load", "volts": float("nan")}], nets={})),
    ("nets", changed("board", nets={"a": ["S.X"]})),
    ("nets", changed("board", nets={"a": ["S.L"], "b": ["S.L"]})),
    ("positions", changed("board", parts=[{"id": "D", "kind": "switch", "role": "door", "positions": [X]}])),
    ("positions", changed("board", parts=[{"id": "D", "kind": "switch", "positions": [X, X]}])),
    ("taps", changed("board", parts=[{"id": "M", "kind": "motor", "volts": 230, "taps": []}])),
    ("expect", changed("board", expect=[{"when": {}, "part": "Q", "state": "on"}])),
    ("expect", changed("board", expect=[{"when": {"TH.dry": True}, "part": "M", "state": "HI"}])),
    ("exclusive", changed("board", exclusive=[["TH.heat", "TH.dry"]])),
    ("test_points", changed("board", test_points=[["M.COM", "M.XX"]])),
    ("readings", changed("board", readings=[{"points": ["S.L", "S.N"], "held": "K1", "ohms": 3}])),
    ("cables", changed("board", cables=[{"id": "W1", "from": "unit", "to": "moon", "cores": []}])),
    ("replace", changed("board", replace={"motor": "V", "kit": {}, "old_watts": 3})),
]  # fmt: skip


@pytest.mark.parametrize(("field", "doc"), REFUSED, ids=[f"{i}-{f}" for i, (f, _) in enumerate(REFUSED)])
def test_what_is_not_understood_is_refused_with_its_field(field: str, doc: Any) -> None:
    error = refused(doc)
    assert field in error.field
    assert error.reason


def test_what_is_too_much_is_refused_in_time() -> None:
    two = [{"name": "a", "joins": []}, {"name": "b", "joins": [["1", "2"]]}]
    many = {
        "format": "fenwit-circuit/1",
        "parts": [{"id": f"Q{i}", "kind": "switch", "positions": two} for i in range(14)],
        "nets": {},
    }
    assert "rows" in refused(many).allowed
    wide = {
        "format": "fenwit-circuit/1",
        "parts": [{"id": "Z", "kind": "strip", "terminals": ["1"]}] * 401,
        "nets": {},
    }
    assert refused(wide).field == "parts"
    poles = [{"com": f"c{i}", "no": f"o{i}"} for i in range(12)]
    moving = circuit("relay-centre")
    part(moving, "K1")["poles"] += poles
    assert "passing states" in refused(moving).allowed


def test_nothing_and_everything_in_one_net_are_answered() -> None:
    assert (
        answered(read_wiring({"format": "fenwit-circuit/1", "parts": [], "nets": {}}))["rows"][0]["settled"]
        == "yes"
    )
    for name in SOLVED:
        doc = circuit(name)
        doc["nets"] = {"all": [t for joined in doc["nets"].values() for t in joined]}
        doc.pop("expect", None)
        found = answered(read_wiring(doc))
        assert {"short"} <= {h["kind"] for h in found["hazards"]}
    positions = [{"name": f"<b>{i}</b>", "joins": [["C", str(i)]]} for i in range(40)]
    forty = {
        "format": "fenwit-circuit/1",
        "parts": [
            {"id": "S", "kind": "supply", "volts": 230},
            {"id": "Q", "kind": "switch", "positions": positions},
        ],
        "nets": {"l": ["S.L", "Q.C"]},
    }  # fmt: skip
    assert len(answered(read_wiring(forty))["rows"]) == 40


# Gauges, and kits as they are typed


def test_volts_lost_on_the_way() -> None:
    """Chapter 13: 18 m, 3.2 A, 1.5 mm² lose 1.73 V; 30 m of 0.5 mm² at 0.9 A lose 2.43 V."""
    assert drop_v(18, 3.2, 1.5) == pytest.approx(1.728)
    assert drop_v(30, 0.9, 0.5) == pytest.approx(2.43)
    assert least_mm2(3.2, 230, 18, control=False) == 0.75
    assert least_mm2(0.9, 24, 30, control=True) == 0.75
    assert least_mm2(30, 230, 5, control=False) is None


def test_a_cable_carries_what_lies_beyond_it() -> None:
    doc = circuit("timer-two-way")
    doc["cables"][1]["length_m"] = 60
    wiring = read_wiring(doc)
    first, second = (gauge_of(wiring, c) for c in wiring.cables)
    assert first is not None
    assert second is not None
    assert first.amps == pytest.approx(322 / 230)
    assert second.amps == pytest.approx(320 / 230)
    assert second.drop_v == pytest.approx(2 * 0.0225 * 60 * 320 / 230 / 1.5)
    assert second.enough is True


def test_a_kit_is_read_as_it_is_typed() -> None:
    wiring = read_wiring(circuit("retrofit"))
    typed = typed_kit(wiring)
    again = read_wiring(circuit("retrofit") | {"replace": read_kit(wiring, typed)})
    assert again.replace is not None
    assert wiring.replace is not None
    assert again.replace.kit.spec.classes == wiring.replace.kit.spec.classes  # type: ignore[union-attr]
    assert again.replace.wanted == wiring.replace.wanted
    assert again.replace.old_watts == 370


@pytest.mark.parametrize(
    ("text", "watts"),
    [
        ("1/2 hp", 372.85),
        ("0,5 HP", 372.85),
        ("370 W shaft", 370),
        ("620 W in", 372),
        ("2.4 A", 303.6),
        ("18 Ω", 176.3),
        ("18 ohms", 176.3),
    ],
)
def test_what_is_read_off_the_old_motor_leads_to_its_shaft(text: str, watts: float) -> None:
    assert old_shaft_w(text, 230)[0] == pytest.approx(watts, abs=0.1)


@pytest.mark.parametrize(
    ("field", "text"),
    [
        ("old", ""), ("old", "strong"), ("old", "1/0 hp"), ("old", "0 Ω"), ("classes", "half B 370"),
        ("classes", "half: B"),
        ("speeds", "S1: S1, fast"), ("wanted", "TH.dry: 900 rpm"), ("wanted", ""), ("link", "115 V"),
        ("circulates", "slowly"), ("motor", "Z"),
    ],
)  # fmt: skip
def test_a_kit_that_cannot_be_read_says_in_which_field(field: str, text: str) -> None:
    wiring = read_wiring(circuit("retrofit"))
    with pytest.raises(InputError) as found:
        read_kit(wiring, replace(typed_kit(wiring), **{field: text}))
    assert found.value.field == field
