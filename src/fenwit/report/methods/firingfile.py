"""A firing table as CSV and as a C header, with what the firmware must do when something fails."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Sequence

from fenwit.core.methods.phase_angle.program import program_notes
from fenwit.core.regulator.firing import FiringTable
from fenwit.report.csvfiles import write_csv


def table_notes(tables: Sequence[FiringTable], name: str, core_version: str) -> tuple[str, ...]:
    """What stands before a table in its files: whose it is, and what its program keeps to."""
    return (f"Firing table for {name}, computed by Fenwit core {core_version}", *program_notes(tables))


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
    """Nothing that ends a comment, a line or a cell, and ASCII, as compilers like it."""
    tidy = "".join(" " if unicodedata.category(c)[0] in "CZ" else c for c in line.replace("°", "deg"))
    plain = tidy.encode("ascii", "replace").decode()
    for sign, instead in (("\\", "/"), ("??", "? ?"), (";", ","), ("*/", "* /"), ("/*", "/ *")):
        plain = plain.replace(sign, instead)
    # Before a comma a spreadsheet may begin a new cell; there nothing may look like a formula.
    return re.sub(r"(,\s*)(?=[=+@-])", r"\1'", plain)
