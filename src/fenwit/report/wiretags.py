"""Labels of a wiring: one for the box, one for each end of every cable and wire."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from fenwit.core import quantity as q
from fenwit.core.circuit.wiring.order import Work
from fenwit.core.circuit.wiring.parts import Joined, Kind, Wiring
from fenwit.report.record import filled_page

MOST_ROWS = 16


@dataclass(frozen=True)
class RowTag:
    """A call or position, and what runs."""

    when: str
    runs: str


@dataclass(frozen=True)
class End:
    """One end of a cable."""

    here: str
    there: str


@dataclass(frozen=True)
class CableTag:
    """What stands at both ends of a cable."""

    id: str
    ends: tuple[End, End]
    cores: tuple[str, ...]
    spare: str


@dataclass(frozen=True)
class WireTag:
    """What stands at one end of a wire."""

    number: int
    here: str
    there: str


@dataclass(frozen=True)
class Tags:
    """All labels of a job's wiring."""

    name: str
    place: str
    job_id: int
    title: str
    rows: tuple[RowTag, ...]
    more_rows: int
    fuses: tuple[str, ...]
    cables: tuple[CableTag, ...]
    wires: tuple[WireTag, ...]


def tags_of(
    fan: str, place: str, job_id: int, wiring: Wiring, work: Work, rows: Sequence[tuple[str, str]]
) -> Tags:
    """The labels of a wiring.

    Parameters
    ----------
    fan, place : str
        What it belongs to, and where that is [-]
    job_id : int
        Number of the job [-]
    wiring : Wiring
        The circuit [-]
    work : Work
        Its connections and cables [-]
    rows : sequence of tuple
        What is called, and what runs then [-]

    Returns
    -------
    Tags
        One tag for each end of every cable and wire [-]
    """
    cables = []
    for use in work.cables:
        cores = [f"{core}: {net}" for core, net in use.used]
        cores += ["earth: joined at both ends"] if use.earth == "joined" else []
        ends = (End(use.cable.start, use.cable.end), End(use.cable.end, use.cable.start))
        cables.append(CableTag(use.cable.id, ends, tuple(cores), ", ".join(use.spare)))
    # The cores of a cable are told at its own ends.
    wires = [
        WireTag(c.number, here, there)
        for c in work.connections
        if not c.cable
        for here, there in ((c.start, c.end), (c.end, c.start))
    ]
    fuses = [
        f"Fuse {part.id}: {q.show(spec.amps, q.CURRENT)}"
        for part in wiring.of(Kind.FUSE)
        if isinstance(spec := part.spec, Joined) and spec.amps is not None
    ]
    return Tags(
        fan, place, job_id, wiring.title, tuple(RowTag(*row) for row in rows[:MOST_ROWS]),
        max(0, len(rows) - MOST_ROWS), tuple(fuses), tuple(cables), tuple(wires),
    )  # fmt: skip


def tags_html(tags: Tags, fonts: Mapping[str, str]) -> str:
    """The labels as one page to print and cut."""
    return filled_page("tags", fonts, t=tags)
