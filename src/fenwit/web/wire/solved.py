"""A kept circuit with all that is read from it; the same one is not solved twice."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

from fenwit.core.circuit.wiring.dead import DeadTest, dead_tests
from fenwit.core.circuit.wiring.document import read_wiring
from fenwit.core.circuit.wiring.flags import MOST as MOST_FLAGS
from fenwit.core.circuit.wiring.flags import Flag, Mark, flagged
from fenwit.core.circuit.wiring.lamps import LampTest, lamp_tests
from fenwit.core.circuit.wiring.layout import Sheet, laid_out
from fenwit.core.circuit.wiring.order import Colours, Work, read_colours, work_order
from fenwit.core.circuit.wiring.parts import Wiring
from fenwit.core.circuit.wiring.retrofit import Retrofit, retrofit
from fenwit.core.circuit.wiring.table import Table, truth_table
from fenwit.core.circuit.wiring.words import hazard_words
from fenwit.core.errors import InputError
from fenwit.web.settings import BadSetting, value


def circuit_of(kept: str) -> dict[str, Any]:
    """The kept circuit as a document; empty for none."""
    found: dict[str, Any] = json.loads(kept) if kept else {}
    return found


@dataclass(frozen=True, eq=False)
class Solved:
    """A circuit with all that is read from it; what cannot be worked out says why."""

    wiring: Wiring
    table: Table
    tests: tuple[DeadTest, ...]
    too_many: str
    lamps: tuple[LampTest, ...]
    work: Work
    sheet: Sheet
    flags: tuple[Flag, ...]
    """Words on the drawing, one for each hazard"""
    exchange: Retrofit | None


def colours() -> Colours:
    """The usual colours of insulation where this Fenwit stands. Raises BadSetting."""
    try:
        return read_colours(value("FENWIT_COLOURS"))
    except InputError as error:
        raise BadSetting(
            f"FENWIT_COLOURS: {error.value}: {error.reason} (allowed: {error.allowed})"
        ) from None


@lru_cache(maxsize=32)
def _solved(document: str, usual: str) -> Solved:
    wiring = read_wiring(json.loads(document))
    table = truth_table(wiring)
    tests: tuple[DeadTest, ...] = ()
    too_many = ""
    try:
        tests = dead_tests(wiring)
    except InputError as error:
        too_many = f"{error.reason}; {error.allowed}"
    sheet = laid_out(wiring)
    return Solved(
        wiring, table, tests, too_many, lamp_tests(wiring), work_order(wiring, read_colours(usual)),
        sheet, flagged(sheet, _marks(wiring, table)[:MOST_FLAGS]),
        retrofit(wiring, table) if wiring.replace is not None else None,
    )  # fmt: skip


def solved(document: Mapping[str, Any]) -> Solved:
    """All that is read from a kept circuit; the same one is not solved twice. Raises InputError."""
    return _solved(json.dumps(document, sort_keys=False), value("FENWIT_COLOURS"))


def _marks(wiring: Wiring, table: Table) -> list[Mark]:
    """What is said of each hazard on the drawing, and where it belongs; what stands is not said to pass as well."""
    found: list[Mark] = []
    standing = {(h.kind, h.where) for h in table.hazards if not h.passing}
    for hazard in table.hazards:
        if hazard.passing and (hazard.kind, hazard.where) in standing:
            found.append(Mark(""))
            continue
        lasts = f"for up to {hazard.for_s:g} s" if hazard.for_s else "for a moment"
        words = hazard_words(hazard)[0] + (f", {lasts}" if hazard.passing else "")
        terminals = tuple(t for t in hazard.where if "." in t)
        nets = tuple(dict.fromkeys(wiring.net_at[t] for t in terminals if t in wiring.net_at))
        found.append(Mark(words, terminals, nets, tuple(t for t in hazard.where if "." not in t)))
    return found
