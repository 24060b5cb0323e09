"""What is ticked, seen and read of a circuit, and how it is judged."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from pydantic import BaseModel

from fenwit.core import quantity as q
from fenwit.core.circuit.wiring.dead import DeadTest, Ohms, Stand
from fenwit.core.circuit.wiring.document import read_wiring
from fenwit.core.circuit.wiring.faults import Agreement, agreement
from fenwit.core.circuit.wiring.lamps import LampTest
from fenwit.core.circuit.wiring.order import Connection, work_order
from fenwit.core.circuit.wiring.parts import OhmReading
from fenwit.core.circuit.wiring.table import TableRow
from fenwit.core.errors import InputError
from fenwit.core.prove.plan import OPEN_ENDED
from fenwit.core.prove.verdict import Verdict
from fenwit.store import readings
from fenwit.web.wire.solved import Solved, colours

PREFIX = "wire"


class ReadShown(BaseModel):
    """A tick or reading that stands."""

    key: str
    text: str
    told: str
    """Who and when"""
    reading_id: int | None
    verdict: Verdict | None
    agreement: Agreement | None


def reading_key(kind: str, *parts: object) -> str:
    """What a tick or reading of a circuit is kept under; it follows what was done, not where it stands in a list."""
    told = json.dumps(parts, ensure_ascii=False, default=str)
    return f"{PREFIX}:{kind}:{hashlib.sha256(told.encode()).hexdigest()[:16]}"


def connection_key(c: Connection) -> str:
    """Key of the tick of a connection."""
    return reading_key("done", c.start, c.end, c.net, c.cable)


def test_key(test: DeadTest) -> str:
    """Key of the ohms read at a dead test."""
    return reading_key("ohms", test.points, test.stand.inputs, test.stand.held)


def lamp_key(lamp: LampTest) -> str:
    """Key of what was seen in a lamp test."""
    return reading_key("lamp", lamp.jumper)


def live_key(row: TableRow) -> str:
    """Key of what was seen of a row with the power on."""
    return reading_key("live", sorted(row.inputs.items()))


@dataclass(frozen=True)
class Asked:
    """Something to tick, to see or to read."""

    key: str
    words: str
    ohms: Ohms | None
    """What the meter should show; None: it is seen, by yes or no"""


def asks(found: Solved) -> dict[str, Asked]:
    """Everything of a circuit that is ticked, seen or read, by key."""
    out: dict[str, Asked] = {}
    for c in found.work.connections:
        key = connection_key(c)
        out[key] = Asked(key, f"{c.start} to {c.end}", None)
    for test in found.tests:
        key = test_key(test)
        out[key] = Asked(key, f"{test.points[0]} to {test.points[1]}{stand_words(test.stand)}", test.expected)
    for lamp in found.lamps:
        key = lamp_key(lamp)
        out[key] = Asked(key, f"lamps, {jumper_words(lamp)}", None)
    for row in found.table.rows:
        key = live_key(row)
        out[key] = Asked(key, f"live, {called(row.inputs)}", None)
    return out


def stand_words(stand: Stand) -> str:
    """How the switches stand in a dead test, after a comma."""
    told = [f"{name} {at}" for name, at in stand.inputs]
    if stand.held:
        told.append(f"{stand.held} pushed in")
    return f", {', '.join(told)}" if told else ""


def jumper_words(lamp: LampTest) -> str:
    """Which jumper is in."""
    return f"{lamp.jumper[0]} to {lamp.jumper[1]}" if lamp.jumper else "no jumper"


def called(inputs: Mapping[str, str | bool]) -> str:
    """What is called and where switches stand, in words."""
    told = [n if at is True else f"{n} {at}" for n, at in inputs.items() if at is not False]
    return ", ".join(told) or "no call"


def newest_of(mine: Iterable[readings.Reading]) -> dict[str, readings.Reading]:
    """The last reading of each key, also one that was taken back."""
    return {r.quantity: r for r in mine if r.quantity.startswith(f"{PREFIX}:")}


def wired(document: Mapping[str, Any], mine: Iterable[readings.Reading]) -> tuple[bool, bool]:
    """Whether anything is wired, and whether every connection is ticked."""
    if not document:
        return False, False
    try:
        wiring = read_wiring(dict(document))
    except InputError:
        return True, False
    newest = newest_of(mine)
    done = [newest.get(connection_key(c)) for c in work_order(wiring, colours()).connections]
    return True, bool(done) and all(r is not None and r.value == 1.0 for r in done)


def read_of(key: str, newest: Mapping[str, readings.Reading], expected: Ohms | None) -> ReadShown:
    """What stands under a key, judged."""
    reading = newest.get(key)
    value = reading.value if reading is not None else None
    if reading is None or value is None:
        return ReadShown(
            key=key,
            text="",
            told="",
            reading_id=reading.id if reading else None,
            verdict=None,
            agreement=None,
        )
    told = ", ".join(t for t in (reading.who, reading.taken_at.strftime("%d.%m. %H:%M")) if t)
    if expected is None:
        verdict = Verdict.PASS if value == 1.0 else Verdict.FAIL
        return ReadShown(
            key=key, text="yes" if value == 1.0 else "no", told=told, reading_id=reading.id, verdict=verdict,
            agreement=None,
        )  # fmt: skip
    ohms = None if value >= OPEN_ENDED else value
    agrees = agreement(expected, ohms)
    verdict_of = {Agreement.AGREES: Verdict.PASS, Agreement.CONTRADICTS: Verdict.FAIL}
    return ReadShown(
        key=key, text="open" if ohms is None else q.show(ohms, q.RESISTANCE), told=told, reading_id=reading.id,
        verdict=verdict_of.get(agrees), agreement=agrees,
    )  # fmt: skip


def taken_ohms(found: Solved, newest: Mapping[str, readings.Reading]) -> list[OhmReading]:
    """The ohms that were read, as the core takes them."""
    out = []
    for test in found.tests:
        reading = newest.get(test_key(test))
        if reading is not None and reading.value is not None and not reading.aside:
            ohms = None if reading.value >= OPEN_ENDED else reading.value
            out.append(OhmReading(test.points, test.stand.inputs, test.stand.held, ohms))
    return out
