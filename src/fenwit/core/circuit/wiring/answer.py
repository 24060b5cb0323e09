"""Everything read from one wiring, as the answer `fenwit-wire/1`."""

from __future__ import annotations

from typing import Any

from fenwit.core.circuit.wiring.dead import DeadTest, Ohms, Stand, dead_tests
from fenwit.core.circuit.wiring.faults import Diagnosis, diagnose
from fenwit.core.circuit.wiring.lamps import lamp_tests
from fenwit.core.circuit.wiring.order import work_order
from fenwit.core.circuit.wiring.parts import Wiring
from fenwit.core.circuit.wiring.retrofit import Retrofit, retrofit
from fenwit.core.circuit.wiring.table import Hazard, Interim, Rest, TableRow, truth_table
from fenwit.core.circuit.wiring.written import write_wiring

ANSWER = "fenwit-wire/1"


def answered(wiring: Wiring) -> dict[str, Any]:
    """Every reading of a wiring: rows, hazards, dead tests, lamp test, work, diagnosis, exchange.

    Parameters
    ----------
    wiring : Wiring
        The circuit [-]

    Returns
    -------
    dict
        The answer of the command line, ready for JSON [-]

    Raises
    ------
    InputError
        More rows, passing states or dead tests than are worked out.
    """
    table = truth_table(wiring)
    tests = dead_tests(wiring)
    work = work_order(wiring)
    found: dict[str, Any] = {
        "format": ANSWER,
        "rows": [row_document(r) for r in table.rows],
        "hazards": [hazard_document(h) for h in table.hazards],
        "never": list(table.never),
        "unmet": [vars(u) for u in table.unmet],
        "dead_tests": [_test(t) for t in tests],
        "lamp_test": [
            {"jumpers": [list(x.jumper)] if x.jumper else [], "lit": list(x.lit)} for x in lamp_tests(wiring)
        ],
        "connections": [
            {
                "n": c.number, "from": c.start, "to": c.end, "net": c.net, "purpose": c.purpose.value, "stage": c.stage,
                "cable": c.cable or None, "core": c.core or None, "sleeve": c.sleeve,
            }
            for c in work.connections
        ],
        "cables": [
            {
                "id": u.cable.id, "from": u.cable.start, "to": u.cable.end,
                "used": [{"core": core, "net": net} for core, net in u.used], "spare": list(u.spare), "earth": u.earth,
            }
            for u in work.cables
        ],
        "problems": [
            {k: v for k, v in (("kind", p.kind), ("net", p.net), ("cable", p.cable), ("to", p.to)) if v}
            for p in work.problems
        ],
    }  # fmt: skip
    if wiring.readings:
        found["diagnosis"] = _diagnosis(diagnose(wiring, wiring.readings, tests))
    if wiring.replace is not None:
        found["retrofit"] = _retrofit(retrofit(wiring, table))
    return found


def _significant(value: float | None) -> float | None:
    return None if value is None else float(f"{value:.6g}")


def _ohms(expected: Ohms) -> dict[str, Any]:
    return {
        "ohms": "open" if expected.is_open else _significant(expected.ohms),
        "low": _significant(expected.low), "high": _significant(expected.high),
    }  # fmt: skip


def _stand(stand: Stand) -> dict[str, Any]:
    return {"inputs": dict(stand.inputs), "held": stand.held or None}


def _test(test: DeadTest) -> dict[str, Any]:
    return {
        "points": list(test.points), **_stand(test.stand), **_ohms(test.expected),
        "through": list(test.expected.through), "unknown": list(test.expected.unknown),
    }  # fmt: skip


def _diagnosis(found: Diagnosis) -> dict[str, Any]:
    after = found.next
    return {
        "readings": [{**_ohms(j.expected), "verdict": j.verdict.value} for j in found.readings],
        "ranked": [{"fault": s.fault.name, "probability": _significant(s.probability)} for s in found.ranked],
        "next": None
        if after is None
        else {
            "points": list(after.points),
            **_stand(after.stand),
            "gain_bits": _significant(after.gain_bits),
        },
    }


def _retrofit(found: Retrofit) -> dict[str, Any]:
    return {
        "class": found.size, "run_leads": list(found.run_leads), "joined": list(found.joined),
        "feed_net": found.feed_net or None, "inputs": dict(found.inputs), "capped": list(found.capped),
        "link": found.link,
        "rows": [
            {
                "inputs": dict(r.inputs), "state": r.state, "rpm": _whole(r.rpm), "wanted_rpm": _whole(r.wanted_rpm),
                "verdict": r.verdict,
            }
            for r in found.rows
        ],
        "failures": [
            {"kind": f.kind, "row": f.row}
            if f.row is not None
            else {"kind": f.kind, **({"where": list(f.where)} if f.where else {})}
            for f in found.failures
        ],
        "circuit": write_wiring(found.wiring),
    }  # fmt: skip


def _rest(rest: Rest) -> dict[str, Any]:
    return {"parts": {k: dict(v) for k, v in rest.parts.items()}, "relays": dict(rest.relays)}


def row_document(row: TableRow) -> dict[str, Any]:
    """One row of the answer."""
    rest = _rest(row.rest)
    return {
        "inputs": dict(row.inputs), "settled": row.settled, **rest, "va": dict(row.rest.va),
        "alive": list(row.rest.alive),
        "also": [{**_rest(r), "va": dict(r.va), "alive": list(r.alive)} for r in row.also],
        "interim": [_interim(i) for i in sorted(row.interim, key=lambda i: -1 if i.after is None else i.after)],
    }  # fmt: skip


def _interim(interim: Interim) -> dict[str, Any]:
    rest = _rest(interim.rest)
    return {
        "after": interim.after,
        "for_s": _whole(interim.for_s),
        "relays": rest["relays"],
        "parts": rest["parts"],
    }


def _whole(value: float) -> float | int:
    return int(value) if value == int(value) else value


def hazard_document(hazard: Hazard) -> dict[str, Any]:
    """One hazard of the answer."""
    return {
        "kind": hazard.kind.value, "where": list(hazard.where), "severity": hazard.severity.value,
        "passing": hazard.passing, "when": [list(w) if isinstance(w, tuple) else w for w in hazard.when],
        "for_s": None if hazard.for_s is None else _whole(hazard.for_s), **dict(hazard.values),
    }  # fmt: skip
