"""The order of work in Prove as it stands: its lines with what was read of them, for screen and paper."""

from __future__ import annotations

from datetime import datetime

from pydantic import BaseModel

from fenwit.core import quantity as q
from fenwit.core.caution import Caution, Stage, blocking
from fenwit.core.frame import frame
from fenwit.core.frame.plan import plan_of
from fenwit.core.prove.plan import PREFIX, Ask, AskRead, LineRead, LineState, PlanLine, judged
from fenwit.core.prove.verdict import Verdict
from fenwit.store import readings
from fenwit.web.page import Loaded


class AskShown(BaseModel):
    """One thing to see or to read, with what was read of it."""

    key: str
    quantity: str
    """What its readings are kept under"""
    words: str
    expect: str
    unit: str
    seen: bool
    """Answered by yes or no"""
    hint: str
    text: str
    verdict: Verdict | None
    reading_id: int | None
    device: str
    """The quantity by which a device is asked for it; empty: none knows it"""
    told: str
    """Who, when, and off which device"""


class LineShown(BaseModel):
    """One line of the plan."""

    key: str
    title: str
    do: str
    why: str
    state: LineState
    asks: list[AskShown]
    fault: str


class PlanShown(BaseModel):
    """The plan as it stands."""

    lines: list[LineShown]
    summary: str
    gated_by: str
    """What must be confirmed before anything live is read; empty where that was done"""


def plan_lines(loaded: Loaded) -> tuple[PlanLine, ...]:
    """Lines of a job's order of work."""
    return plan_of(loaded.state)


def plan_standing(loaded: Loaded) -> dict[str, readings.Reading]:
    """What stands of them, by what it is filed as."""
    return {r.quantity: r for r in readings.standing(loaded.readings) if r.quantity.startswith(f"{PREFIX}:")}


def plan_shown(loaded: Loaded) -> PlanShown:
    """Lines, readings, verdicts, and where it stopped."""
    standing = plan_standing(loaded)
    newest = {r.quantity: r for r in loaded.readings if r.quantity.startswith(f"{PREFIX}:")}
    lines = plan_lines(loaded)
    found = judged(lines, {k: r.value for k, r in standing.items() if r.value is not None})
    done = sum(1 for x in found if x.state is LineState.DONE)
    failed = next((x for x in found if x.state is LineState.FAILED), None)
    words = f"{done} of {len(found)} lines done"
    if failed is not None:
        words = f"stopped at “{failed.line.title}”: {failed.fault}"
    gate = plan_gate(loaded)
    return PlanShown(
        lines=[_line(x, newest) for x in found], summary=words, gated_by=gate.key if gate else ""
    )


def plan_gate(loaded: Loaded) -> Caution | None:
    """What must be confirmed before anything live is read."""
    return blocking(frame(loaded.state).cautions, Stage.PROVE, "speed_rpm", loaded.confirmed_keys)


def _line(found: LineRead, newest: dict[str, readings.Reading]) -> LineShown:
    line = found.line
    return LineShown(
        key=line.key, title=line.title, do=line.do, why=line.why, state=found.state, fault=found.fault,
        asks=[_ask(line, a, newest.get(line.quantity(a.ask))) for a in found.asks],
    )  # fmt: skip


def _ask(line: PlanLine, found: AskRead, reading: readings.Reading | None) -> AskShown:
    ask = found.ask
    told = ""
    if reading is not None and reading.value is not None:
        told = ", ".join(t for t in (reading.who, _when(reading.taken_at), reading.source) if t)
    return AskShown(
        key=ask.key, quantity=line.quantity(ask), words=ask.words, expect=ask.expect, unit=ask.unit, seen=ask.is_seen,
        hint="yes or no" if ask.dimension is None else ask.dimension.example, text=ask_text(ask, found.value),
        verdict=found.verdict, reading_id=reading.id if reading else None, device=ask.device, told=told,
    )  # fmt: skip


def _when(at: datetime) -> str:
    return at.strftime("%d.%m. %H:%M")


def ask_text(ask: Ask, value: float | None) -> str:
    """What was seen or read, with its unit; empty where nothing was."""
    if value is None:
        return ""
    if ask.dimension is None:
        return "yes" if value >= 0.5 else "no"
    return (
        f"{q.plain(value, 4)} {ask.dimension.unit}".strip()
        if value < 1e4
        else q.show(value, ask.dimension, 3)
    )
