"""A map of speeds over the duty out of a file."""

from __future__ import annotations

import re

from fenwit.core.errors import InputError
from fenwit.core.job.commanded import CommandSheet
from fenwit.report.csvfiles import read_csv, with_unit
from fenwit.web.commanded import CommandEdit, read_commanded, typed_commanded

MOST_PAIRS = 60
_MAP_HEADS = {"duty": "duty", "command": "duty", "pwm": "duty", "speed": "rpm", "rpm": "rpm"}


def map_from_csv(data: bytes) -> CommandEdit:
    """A map of speeds from a file, as it would be typed: a column of duties and one of speeds, with headings or without.

    Raises InputError for a file of another kind, or for pairs that are none.
    """
    if data.strip() and b"\0" not in data:
        # A file of nothing but numbers has no heading: a duty and a speed are meant.
        first = next(line for line in data.splitlines() if line.strip())
        if not re.search(rb"[a-zA-Z]{3,}", first):
            sign = max(b";\t,", key=lambda c: first.count(bytes([c])))
            data = b"duty" + bytes([sign]) + b"speed\n" + data
    sheet = read_csv(data)
    columns: dict[str, int] = {}
    for i, heading in enumerate(sheet.headings):
        name = _MAP_HEADS.get(heading.name)
        if name is not None:
            columns.setdefault(name, i)
    if len(columns) < 2:
        names = "; ".join(h.name for h in sheet.headings)[:60]
        raise InputError("file", names, "columns duty and speed", "this is no table of speeds over duty")
    lines = []
    for row in sheet.rows[:MOST_PAIRS]:
        cells = [with_unit(row[i], sheet.headings[i].unit) for i in (columns["duty"], columns["rpm"])]
        if any(cells):
            lines.append("; ".join(c.replace(",", ".") for c in cells))
    try:
        return typed_commanded(read_commanded(CommandSheet(), CommandEdit(pairs="\n".join(lines)[:2000])))
    except InputError as error:
        raise InputError("file", error.value, error.allowed, error.reason) from None
