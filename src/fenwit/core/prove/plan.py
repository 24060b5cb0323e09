"""An order of work in Prove: what to do, what to expect, what was read, what a miss means, and why just then."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

from fenwit.core import quantity as q
from fenwit.core.calibrate.bands import Band
from fenwit.core.prove.verdict import NEAR_FACTOR, Verdict

OPEN_ENDED = 1e9
"""What an open circuit is stored as; a band up to it has no upper end [Ω]"""
PREFIX = "plan"
"""Of the quantities under which its readings are filed [-]"""


@dataclass(frozen=True)
class Ask:
    """One thing to see or to read."""

    key: str
    words: str
    expect: str
    unit: str = ""
    """Empty: seen, yes or no [-]"""
    band: Band | None = None
    dimension: q.Dimension | None = None
    device: str = ""
    """The quantity by which a device is asked for it; empty: none knows it [-]"""
    fault: str = ""
    """What a miss points to [-]"""

    @property
    def is_seen(self) -> bool:
        """Whether it is answered by yes or no [-]"""
        return self.band is None


@dataclass(frozen=True)
class PlanLine:
    """One line of the plan."""

    key: str
    title: str
    do: str
    why: str
    asks: tuple[Ask, ...]
    live: bool = True
    """Done with the power on [-]"""

    def quantity(self, ask: Ask) -> str:
        """As a reading of it is filed [-]"""
        return f"{PREFIX}:{self.key}:{ask.key}"


class LineState(StrEnum):
    """Where a line of the plan stands."""

    OPEN = "open"
    NEXT = "next"
    DONE = "done"
    FAILED = "failed"
    STOPPED = "stopped"
    """A line before it failed"""


def number(
    key: str, words: str, band: Band, dimension: q.Dimension, digits: int, fault: str, device: str = ""
) -> Ask:
    """Something to be read, with its band in words.

    Parameters
    ----------
    key : str
        Of the thing, within its line [-]
    words : str
        What it is [-]
    band : Band
        Where it is expected; from 0: at most its upper end [any]
    dimension : Dimension
        How it is typed [-]
    digits : int
        Behind the point [-]
    fault : str
        What a miss points to [-]
    device : str
        The quantity by which a device is asked for it; empty: none knows it [-]

    Returns
    -------
    Ask
        The thing [-]
    """
    middle, half = (band.low + band.high) / 2, (band.high - band.low) / 2
    if band.low <= 0:
        expect = f"at most {band.high:.{digits}f} {dimension.unit}".rstrip()
    elif middle >= _THOUSANDS and dimension.prefixes:
        expect = f"{middle / 1e3:.3g} ± {half / 1e3:.2g} k{dimension.unit}"
    else:
        expect = f"{middle:.{digits}f} ± {half:.{digits}f} {dimension.unit}".rstrip()
    return Ask(key, words, expect, dimension.unit or "times", band, dimension, device, fault)


def seen(key: str, words: str, fault: str) -> Ask:
    """Something that is seen or not: the good answer is yes [-]"""
    return Ask(key, words, "yes", fault=fault)


_THOUSANDS = 9999.5
"""From here on a number is written in thousands, where its unit takes that [any]"""


# ---------------------------------------------------------------- verdicts


@dataclass(frozen=True)
class AskRead:
    """One thing with what was read of it."""

    ask: Ask
    value: float | None
    verdict: Verdict | None


@dataclass(frozen=True)
class LineRead:
    """A line with where it stands."""

    line: PlanLine
    state: LineState
    asks: tuple[AskRead, ...]
    fault: str
    """The likeliest fault of a failed line [-]"""


def verdict_of(ask: Ask, value: float) -> Verdict:
    """Pass within the band, near up to half as far again, else fail; seen: 1 is yes [-]"""
    if ask.band is None:
        return Verdict.PASS if value >= 0.5 else Verdict.FAIL
    low, high = ask.band.low, ask.band.high
    if low <= value <= high:
        return Verdict.PASS
    if high >= OPEN_ENDED:
        # Open, or not: there is no near to it.
        return Verdict.FAIL
    middle, half = (low + high) / 2, (high - low) / 2
    return Verdict.NEAR if abs(value - middle) <= NEAR_FACTOR * half else Verdict.FAIL


def judged(lines: Sequence[PlanLine], read: Mapping[str, float]) -> tuple[LineRead, ...]:
    """The plan with its readings: a failed line stops what comes after it.

    Parameters
    ----------
    lines : sequence of PlanLine
        The plan [-]
    read : mapping of str to float
        By quantity, as it is filed [-]

    Returns
    -------
    tuple of LineRead
        Each with its state [-]
    """
    rows, stopped, begun = [], False, False
    for line in lines:
        asks = []
        for ask in line.asks:
            value = read.get(line.quantity(ask))
            asks.append(AskRead(ask, value, None if value is None else verdict_of(ask, value)))
        failed = next((a for a in asks if a.verdict is Verdict.FAIL), None)
        if stopped:
            state = LineState.STOPPED
        elif failed is not None:
            state, stopped = LineState.FAILED, True
        elif all(a.verdict is not None for a in asks):
            state = LineState.DONE
        else:
            state, begun = (LineState.OPEN if begun else LineState.NEXT), True
        rows.append(
            LineRead(
                line, state, tuple(asks), failed.ask.fault if failed and state is LineState.FAILED else ""
            )
        )
    return tuple(rows)
