"""A scope's CSV as times and volts: whatever stands before the numbers, their units, one channel or two."""

from __future__ import annotations

import re
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fenwit.core.errors import InputError
from fenwit.core.prove.capture import LEAST_SAMPLES

FloatArray = NDArray[np.float64]
_TIME = {
    "s": 1.0,
    "sec": 1.0,
    "second": 1.0,
    "seconds": 1.0,
    "ms": 1e-3,
    "us": 1e-6,
    "µs": 1e-6,
    "μs": 1e-6,
    "ns": 1e-9,
}
_VOLTS = {"v": 1.0, "volt": 1.0, "volts": 1.0, "mv": 1e-3, "kv": 1e3}
_WORD = re.compile(r"[a-zA-Zµμ]+")
_MOST_CHANNELS = 2


@dataclass(frozen=True, eq=False)
class Channels:
    """Times and one channel or two, as a scope wrote them."""

    time_s: FloatArray
    volts: tuple[FloatArray, ...]


@dataclass(frozen=True, eq=False)
class Trace:
    """What a scope wrote."""

    time_s: FloatArray
    motor_v: FloatArray
    supply_v: FloatArray | None
    """None where only one channel was written [V]"""
    words: str
    """How the file was understood [-]"""


def probe_factor(text: str) -> float:
    """What a probe divides by, as typed: 10, x10 or ×10. Raises InputError."""
    try:
        return float(text.strip().lstrip("x×").replace(",", "."))
    except ValueError:
        raise InputError("probe", text, "like 1, 10 or 100", "no such probe") from None


def read_channels(data: bytes, probe: float = 1.0) -> Channels:
    """A scope's file: the longest unbroken run of rows of numbers, first the time, then one channel or two.

    Parameters
    ----------
    data : bytes
        The file [-]
    probe : float
        What the probe divides by and the scope does not know of [-]

    Returns
    -------
    Channels
        Times and volts [s|V]

    Raises
    ------
    InputError
        No text, no numbers, too few of them, or a probe that cannot be.
    """
    if not np.isfinite(probe) or not 1e-3 <= probe <= 1e5:
        raise InputError("probe", probe, "0.001 to 100000", "no probe divides by that")
    text = _text(data)
    heads, rows = _numbers(text)
    if len(rows) < LEAST_SAMPLES:
        raise InputError(
            "file",
            f"{len(rows)} rows of numbers",
            f"at least {LEAST_SAMPLES}",
            "this file holds no capture: a column of times and one or two of volts are looked for",
        )
    table = np.array(rows, dtype=np.float64)
    if table.shape[1] < 2:
        raise InputError("file", "one column", "times and volts", "there are no volts beside the times")
    time = table[:, 0] * _scale(heads, 0, _TIME)
    channels = [
        table[:, k] * _scale(heads, k, _VOLTS) * probe
        for k in range(1, min(table.shape[1], 1 + _MOST_CHANNELS))
    ]
    return Channels(time, tuple(channels))


def read_trace(data: bytes, probe: float = 1.0, swap: bool = False) -> Trace:
    """A scope's file of a chopped mains wave; of two channels the one that jumps least is taken for the supply.

    Parameters
    ----------
    data : bytes
        The file [-]
    probe : float
        What the probe divides by and the scope does not know of [-]
    swap : bool
        Whether the other channel is the supply [-]

    Returns
    -------
    Trace
        Times and volts [s|V]

    Raises
    ------
    InputError
        As `read_channels`.
    """
    found = read_channels(data, probe)
    time, channels = found.time_s, found.volts
    if len(channels) == 1:
        return Trace(time, channels[0], None, "one channel: the motor's volts")
    # The chopped wave jumps, the supply does not.
    smoother = int(np.abs(np.diff(channels[1])).max() < np.abs(np.diff(channels[0])).max())
    supply = 1 - smoother if swap else smoother
    return Trace(
        time,
        channels[1 - supply],
        channels[supply],
        f"channel {2 - supply} is the motor, {supply + 1} the supply",
    )


def _text(data: bytes) -> str:
    if not data.strip():
        raise InputError("file", "", "a scope's CSV", "the file is empty")
    if b"\0" in data[:4096]:
        raise InputError("file", "binary", "text", "this is no text file; save the capture as CSV")
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        return data.decode("latin-1")


def _numbers(text: str) -> tuple[list[list[str]], list[list[float]]]:
    """Cells of the lines just before the longest run of rows of numbers, and that run."""
    best: tuple[int, int, str] = (0, 0, ",")
    lines = text.splitlines()
    for delimiter in (";", "\t", ","):
        start = width = 0
        for i, line in enumerate([*lines, ""]):
            cells = _row(line, delimiter)
            if cells is not None and (i == start or len(cells) == width):
                width = len(cells)
                continue
            if i - start > best[1] - best[0]:
                best = (start, i, delimiter)
            start, width = (i, len(cells)) if cells is not None else (i + 1, 0)
        if best[1] - best[0] >= LEAST_SAMPLES:
            break
    first, last, delimiter = best
    rows = [r for line in lines[first:last] if (r := _row(line, delimiter)) is not None]
    heads = [
        [c.strip().strip('"') for c in line.split(delimiter)] for line in lines[max(0, first - 3) : first]
    ]
    return heads, rows


def _row(line: str, delimiter: str) -> list[float] | None:
    """A line as numbers; None where it is none. Decimal commas are read where commas do not part the cells."""
    cells = [c.strip().strip('"') for c in line.split(delimiter)]
    while cells and not cells[-1]:
        cells.pop()
    if len(cells) < 2:
        return None
    try:
        return [float(c.replace(",", ".") if delimiter != "," else c) for c in cells]
    except ValueError:
        return None


def _scale(heads: list[list[str]], column: int, units: dict[str, float]) -> float:
    """What a column's unit multiplies by, from the lines above it; plain where none is named."""
    for cells in reversed(heads):
        if column >= len(cells):
            continue
        # The last word in the heading is the unit: "Time (ms)", "CH1 in mV", "ms".
        for word in reversed(_WORD.findall(cells[column])):
            if word.lower() in units:
                return units[word.lower()]
    return 1.0
