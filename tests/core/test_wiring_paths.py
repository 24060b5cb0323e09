"""Random relay circuits against an enumeration of paths that knows nothing of groups, rails or micro-states."""

from __future__ import annotations

import random
from collections.abc import Iterator
from itertools import pairwise
from typing import Any

import pytest

from fenwit.core.circuit.wiring.document import read_wiring
from fenwit.core.circuit.wiring.table import truth_table

Doc = dict[str, Any]
TAPS = ("HI", "LO")


def random_circuit(seed: int) -> Doc:
    """One to three relays, a selector, a thermostat, a motor and a lamp on random nets."""
    draw = random.Random(seed)
    relays = [f"K{i}" for i in range(draw.randint(1, 3))]
    positions = [{"name": n, "joins": [["C", t]]} for n, t in (("a", "1"), ("b", "2"))]
    parts: list[Doc] = [
        {"id": "S", "kind": "supply", "volts": 230},
        {"id": "T", "kind": "transformer", "primary_volts": 230, "volts": 24, "va": 40},
        {"id": "Q", "kind": "switch", "positions": positions},
        {"id": "H", "kind": "thermostat", "calls": {"x": ["X"], "y": ["Y"]}},
        {"id": "M", "kind": "motor", "taps": list(TAPS), "volts": 230, "va": 100},
        {"id": "L", "kind": "lamp", "volts": 230, "va": 5},
    ]  # fmt: skip
    pole = {"com": "C", "no": "O", "nc": "R"}
    parts += [{"id": k, "kind": "relay", "volts": 24, "va": 4, "poles": [pole]} for k in relays]
    nets: dict[str, list[str]] = {
        "line": ["S.L", "T.P1"],
        "n": ["S.N", "T.P2", "M.COM"],
        "pe": ["S.PE", "M.PE"],
    }
    nets |= {
        "r": ["T.S1", "H.R"],
        "c": ["T.S2"],
        "p": [],
        "q": [],
        "x": ["H.X"],
        "y": ["H.Y"],
        "u": [],
        "v": [],
    }
    mains, low = ["line", "n", "p", "q", "u", "v"], ["r", "c", "x", "y"]
    loose = [("M.HI", mains[2:]), ("M.LO", mains[2:]), ("Q.C", mains), ("Q.1", mains), ("Q.2", mains)]
    loose += [("L.1", mains), ("L.2", ["n", "n", *mains])]
    for k in relays:
        loose += [(f"{k}.A1", ["x", "y", *low]), (f"{k}.A2", ["c", "c", "c", *low])]
        side = draw.choice([mains, mains, mains, low])
        loose += [(f"{k}.C", ["line", *side] if side is mains else side), (f"{k}.O", side), (f"{k}.R", side)]
    for terminal, among in loose:
        nets[draw.choice(among)].append(terminal)
    return {"format": "fenwit-circuit/1", "parts": parts, "nets": {n: t for n, t in nets.items() if t}}


class Paths:
    """The circuit as wires between terminals, and every simple path along them."""

    def __init__(self, doc: Doc, selector: str, calls: dict[str, bool], pulled: frozenset[str]) -> None:
        self.wires: dict[str, set[str]] = {}
        for joined in doc["nets"].values():
            for a, b in pairwise(joined):
                self._wire(a, b)
        self._wire("Q.C", "Q.1" if selector == "a" else "Q.2")
        for call, on in calls.items():
            if on:
                self._wire("H.R", f"H.{call.upper()}")
        self.relays = [p["id"] for p in doc["parts"] if p["kind"] == "relay"]
        for k in self.relays:
            self._wire(f"{k}.C", f"{k}.O" if k in pulled else f"{k}.R")

    def _wire(self, a: str, b: str) -> None:
        self.wires.setdefault(a, set()).add(b)
        self.wires.setdefault(b, set()).add(a)

    def _from(self, at: str, been: frozenset[str]) -> Iterator[str]:
        yield at
        for to in self.wires.get(at, ()):
            if to not in been:
                yield from self._from(to, been | {to})

    def reaches(self, a: str, b: str) -> bool:
        return any(at == b for at in self._from(a, frozenset({a})))

    def shorted(self) -> bool:
        pairs = (("S.L", "S.N"), ("S.L", "S.PE"), ("T.S1", "T.S2"))
        return any(self.reaches(a, b) for a, b in pairs)

    def fed(self, a: str, b: str, hot: str, cold: tuple[str, ...]) -> bool:
        for one, other in ((a, b), (b, a)):
            if self.reaches(one, hot) and any(self.reaches(other, c) for c in cold):
                return True
        return False

    def coils(self) -> frozenset[str]:
        mains = ("S.L", ("S.N", "S.PE"))
        return frozenset(
            k
            for k in self.relays
            if self.fed(f"{k}.A1", f"{k}.A2", "T.S1", ("T.S2",)) or self.fed(f"{k}.A1", f"{k}.A2", *mains)
        )


@pytest.mark.parametrize("block", range(8))
def test_rows_and_hazards_are_those_that_paths_tell(block: int) -> None:
    compared = shorts = joined = taps = 0
    for seed in range(block * 40, block * 40 + 40):
        doc = random_circuit(seed)
        table = truth_table(read_wiring(doc))
        for number, row in enumerate(table.rows):
            calls = {"x": row.inputs["H.x"] is True, "y": row.inputs["H.y"] is True}
            pulled: frozenset[str] = frozenset()
            seen = set()
            while pulled not in seen:
                seen.add(pulled)
                paths = Paths(doc, str(row.inputs["Q"]), calls, pulled)
                if paths.shorted():
                    break
                pulled = paths.coils()
            standing = {h.kind.value for h in table.hazards if not h.passing and number in h.when}
            if paths.shorted():
                # All relays together and one after the other may part ways before a short; what both reach agrees.
                if row.settled == "short":
                    shorts += 1
                    assert "short" in standing
                continue
            if row.settled != "yes" or paths.coils() != pulled:
                continue
            compared += 1
            assert row.rest.relays == {k: k in pulled for k in paths.relays}, seed
            alive = [t for t in TAPS if paths.fed(f"M.{t}", "M.COM", "S.L", ("S.N", "S.PE"))]
            assert row.rest.parts["M"]["state"] == ("+".join(alive) or "off"), seed
            lit = paths.fed("L.1", "L.2", "S.L", ("S.N", "S.PE"))
            assert row.rest.parts["L"]["state"] == ("on" if lit else "off"), seed
            by_transformer = [k for k in pulled if paths.fed(f"{k}.A1", f"{k}.A2", "T.S1", ("T.S2",))]
            assert row.rest.va.get("T", 0.0) == 4.0 * len(by_transformer), seed
            both = len(alive) == 2
            bridged = len(alive) == 1 and any(paths.reaches(f"M.{t}", "S.N") for t in TAPS)
            taps += both
            assert ("two-taps" in standing) == (both or bridged), seed
            low = [
                "T.S1",
                "T.S2",
                "H.R",
                "H.X",
                "H.Y",
                *(f"{k}.{a}" for k in paths.relays for a in ("A1", "A2")),
            ]
            mixed = any(paths.reaches(t, m) for t in low for m in ("S.L", "S.N"))
            joined += mixed
            assert ("low-voltage-joined" in standing) == mixed, seed
    assert compared > 100
    assert taps > 0
