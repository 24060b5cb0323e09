"""What a microcontroller's program has to keep to, beside its firing table."""

from __future__ import annotations

from collections.abc import Sequence

from fenwit.core import quantity as q
from fenwit.core.regulator.firing import FiringTable, Spacing

SAFE_BEHAVIOUR = (
    "no zero for two half-cycles: no more pulses until three good zeros in a row",
    "a zero that comes outside 8 % of the expected time is not believed: the last period counts on",
    "no message for one second: the slowest step of this table, not full and not off",
    "power returns: start at full for the kick time, then the last step that was confirmed",
    "a step outside the table: the nearest one inside it",
    "the watchdog resets into the gate off",
)
"""Stated in every table; what the hardware then does is the builder's to prove."""


_EVEN = {
    Spacing.SPEED: "even in speed",
    Spacing.ANGLE: "even in angle",
    Spacing.POWER: "even in power",
    Spacing.VOLTS: "even in motor volts",
    Spacing.STEPS: "the steps of the job",
}


def program_notes(tables: Sequence[FiringTable]) -> tuple[str, ...]:
    """What a program that fires by tables has to keep to, and how the tables count.

    Parameters
    ----------
    tables : sequence of FiringTable
        One for each mains frequency [-]

    Returns
    -------
    tuple of str
        Lines [-]
    """
    first = tables[0]
    kicked = any(not row.starts for row in first.rows)
    lines = [
        f"{_EVEN[first.spacing]}; delay counts from the detector's edge, which comes {q.signed(first.edge_deg, 1)}° from "
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
    return (*lines, "When something fails:", *SAFE_BEHAVIOUR)
