"""Ohms between leads as CSV in, trees with roles as JSON out (docs/leads-format.md)."""

from __future__ import annotations

import csv
import io
from typing import Any

from fenwit.core.calibrate.leads import MOST_LEADS, LeadFinding, LeadSheet, OhmReading, find_leads, parse_ohms
from fenwit.core.errors import InputError

FORMAT = "fenwit-leads/1"
MAX_ROWS = 500
_COLUMNS = ("lead_a", "lead_b", "ohms")
FRAME = "frame"
"""Name of the motor's metal, where a reading goes there"""


def find_leads_csv(text: str) -> dict[str, Any]:
    """Find the leads from a CSV text with the columns lead_a, lead_b, ohms.

    Parameters
    ----------
    text : str
        The file [-]

    Returns
    -------
    dict
        Trees likeliest first, and the next reading, ready for JSON [-]

    Raises
    ------
    InputError
        A row that cannot be read; it is named by its line.
    """
    return leads_result(find_leads(read_sheet(text)))


def read_sheet(text: str) -> LeadSheet:
    """The lead sheet in a CSV text; ohms in bench notation, "open" where the meter shows nothing.

    Parameters
    ----------
    text : str
        The file [-]

    Returns
    -------
    LeadSheet
        Leads in the order in which they are first named [-]

    Raises
    ------
    InputError
        Columns that are missing, too many rows or leads, a value that is no resistance.
    """
    rows = list(csv.reader(io.StringIO(text), strict=False))
    head = [c.strip().lower() for c in rows[0]] if rows else []
    if sorted(head) != sorted(_COLUMNS):
        raise InputError(
            "readings", ", ".join(head) or "nothing", ", ".join(_COLUMNS), "line 1 names the columns"
        )
    if len(rows) > MAX_ROWS:
        raise InputError("readings", len(rows), f"up to {MAX_ROWS} rows", "too many rows")
    leads: list[str] = []
    readings: list[OhmReading] = []
    to_frame: list[tuple[str, float]] = []
    for line, row in enumerate(rows[1:], start=2):
        if not any(cell.strip() for cell in row):
            continue
        if len(row) != len(head):
            raise InputError(
                f"line {line}", ",".join(row), ", ".join(head), "a row has one value for each column"
            )
        cell = dict(zip(head, (c.strip() for c in row), strict=True))
        a, b = cell["lead_a"], cell["lead_b"]
        ohms = parse_ohms(f"line {line} ohms", cell["ohms"])
        if not a or not b:
            raise InputError(f"line {line}", ",".join(row), "two lead names", "a lead has no name")
        frame = FRAME in (a.lower(), b.lower())
        for name in (a, b):
            if name.lower() != FRAME and name not in leads:
                leads.append(name)
        if len(leads) > MOST_LEADS:
            raise InputError(f"line {line}", len(leads), f"up to {MOST_LEADS} leads", "too many leads")
        if frame:
            to_frame.append((b if a.lower() == FRAME else a, min(ohms)))
        else:
            readings += [OhmReading(a, b, ohm) for ohm in ohms]
    return LeadSheet(tuple(leads), tuple(readings), tuple(to_frame))


def leads_result(found: LeadFinding) -> dict[str, Any]:
    """What was found, as the JSON document.

    Parameters
    ----------
    found : LeadFinding
        The finding [-]

    Returns
    -------
    dict
        Ready for JSON [-]
    """
    return {
        "format": FORMAT,
        "trees": [
            {
                "likelihood": t.likelihood,
                "sections": [{"from": s.start, "to": s.end, "ohms": s.ohm} for s in t.sections],
                "roles": dict(t.roles),
                "worst_residual_ohm": t.worst_residual_ohm,
                "reasons": list(t.reasons),
            }
            for t in found.trees
        ],
        "next": {"lead_a": found.next.lead_a, "lead_b": found.next.lead_b, "why": found.next.why}
        if found.next
        else None,
        "observation": found.observation,
        "contradictions": [
            {"lead_a": c.lead_a, "lead_b": c.lead_b, "text": c.text} for c in found.contradictions
        ],
        "joined": [list(g) for g in found.joined],
        "insulation_stop": found.insulation_stop,
        "unread": list(found.unread),
    }
