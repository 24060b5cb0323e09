"""A firing table as CSV and as a C header, with what the firmware must do when something fails."""

from __future__ import annotations

from collections.abc import Sequence

from fenwit.core.regulator.firing import FiringTable, Spacing
from fenwit.report.csvfiles import write_csv

SAFE_BEHAVIOUR = (
    "no zero for two half-cycles: no more pulses until three good zeros in a row",
    "a zero that comes outside 8 % of the expected time is not believed: the last period counts on",
    "no message for one second: the slowest step of this table, not full and not off",
    "power returns: start at full for the kick time, then the last step that was confirmed",
    "a step outside the table: the nearest one inside it",
    "the watchdog resets into the gate held off",
)
"""Stated in every table; what the hardware then does is the builder's to prove."""


_EVEN = {
    Spacing.SPEED: "even in speed",
    Spacing.ANGLE: "even in angle",
    Spacing.POWER: "even in power",
    Spacing.VOLTS: "even in motor volts",
    Spacing.STEPS: "the steps of the job",
}


def table_notes(tables: Sequence[FiringTable], name: str, core_version: str) -> tuple[str, ...]:
    """What stands before a table.

    Parameters
    ----------
    tables : sequence of FiringTable
        One for each mains frequency [-]
    name : str
        What the fan is called [-]
    core_version : str
        That computed it [-]

    Returns
    -------
    tuple of str
        Lines [-]
    """
    first = tables[0]
    kicked = any(not row.starts for row in first.rows)
    lines = [
        f"Firing table for {name}, computed by Fenwit core {core_version}",
        f"{_EVEN[first.spacing]}; delay counts from the detector's edge, which comes {first.edge_deg:+.1f}° from "
        "the mains' zero",
        f"usable from {first.least_deg:.1f}° to {first.latest_deg:.1f}°; a train of pulses ends at "
        f"{first.train_end_deg:.0f}° at the latest; the gate stays on until {1e3 * first.latching_a:.0f} mA flow",
    ]
    if kicked:
        lines.append("steps marked 'kick' do not start from rest: full for two seconds first")
    if len(tables) > 1:
        lines.append(
            "two frequencies: count the time between two zeros; above 9.2 ms it is 50 Hz, below 60 Hz"
        )
    return (*lines, "When something fails:", *(f"- {s}" for s in SAFE_BEHAVIOUR))


def firing_csv(tables: Sequence[FiringTable], name: str, core_version: str) -> str:
    """The tables as CSV; the notes stand before the heading as comments.

    Parameters
    ----------
    tables : sequence of FiringTable
        One for each mains frequency [-]
    name : str
        What the fan is called [-]
    core_version : str
        That computed it [-]

    Returns
    -------
    str
        The file [-]
    """
    head = "".join(f"# {line}\r\n" for line in map(_plain, table_notes(tables, name, core_version)))
    rows = [
        (
            f"{t.frequency_hz:g}", str(r.step), f"{r.firing_deg:.2f}", f"{r.delay_us:.0f}", f"{r.gate_us:.0f}",
            f"{r.speed_rpm:.0f}", "" if r.starts else "kick",
        )
        for t in tables
        for r in t.rows
    ]  # fmt: skip
    return head + write_csv(
        ("mains (Hz)", "step", "firing angle (deg)", "delay (us)", "gate (us)", "speed (rpm)", "start"), rows
    )


def firing_header(tables: Sequence[FiringTable], name: str, core_version: str) -> str:
    """The tables as a C header.

    Parameters
    ----------
    tables : sequence of FiringTable
        One for each mains frequency [-]
    name : str
        What the fan is called [-]
    core_version : str
        That computed it [-]

    Returns
    -------
    str
        The file [-]
    """
    lines = ["/*"]
    lines += [f" * {_plain(line)}" for line in table_notes(tables, name, core_version)]
    lines += [" */", "#ifndef FAN_FIRING_H", "#define FAN_FIRING_H", "", "#include <stdint.h>", ""]
    lines += [f"#define FAN_STEPS {len(tables[0].rows)}u"]
    for t in tables:
        hz = f"{t.frequency_hz:g}".replace(".", "_")
        lines += ["", f"/* {t.frequency_hz:g} Hz, slowest first; times in microseconds */"]
        for kind, values in (
            ("delay", [r.delay_us for r in t.rows]),
            ("gate", [min(r.gate_us, 65535.0) for r in t.rows]),
        ):
            numbers = ", ".join(str(max(0, min(65535, round(v)))) for v in values)
            lines.append(f"static const uint16_t fan_{kind}_us_{hz}[FAN_STEPS] = {{{numbers}}};")
        kicks = ", ".join("0" if r.starts else "1" for r in t.rows)
        lines.append(f"static const uint8_t fan_needs_kick_{hz}[FAN_STEPS] = {{{kicks}}};")
        end = round(1e6 * (t.train_end_deg - t.edge_deg) / (360 * t.frequency_hz))
        lines.append(f"#define FAN_TRAIN_END_US_{hz} {end}u")
    lines += ["", "#endif", ""]
    return "\n".join(lines)


def _plain(line: str) -> str:
    """Nothing that ends a comment or a line, and ASCII, as compilers like it."""
    tidy = line.replace("°", "deg").replace("*/", "* /").replace("\r", " ").replace("\n", " ")
    return tidy.encode("ascii", "replace").decode()
