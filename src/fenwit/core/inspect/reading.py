"""What is typed of a part on a board: bench notation, a printed code, or colour bands; every reading kept."""

from __future__ import annotations

from dataclasses import dataclass

from fenwit.core import quantity as q
from fenwit.core.circuit import PartKind
from fenwit.core.desk.marking import Marking, read_marking
from fenwit.core.errors import InputError
from fenwit.core.job.board import ROLES, VALUE_LIMITS, Condition, Role
from fenwit.core.size.classes import PartClass

SURE = 0.9
"""From this likelihood on a marking counts as read [-]"""


@dataclass(frozen=True)
class Read:
    """What a text says of a part."""

    condition: Condition
    value: float | None
    readings: tuple[tuple[float, float], ...]
    """Value and likelihood, likeliest first; one where it is plain"""
    tolerance: float | None = None
    volts_v: float | None = None
    volts_ac: bool | None = None
    part_class: PartClass | None = None


def read_part(field: str, role: Role, text: str) -> Read:
    """Read what was typed for a part.

    Parameters
    ----------
    field : str
        Named in a refusal [-]
    role : Role
        What the part does: it says which kind of value is meant [-]
    text : str
        Like 82n, 104K 100V, 330k, yellow,violet,orange,gold or 2A [-]

    Returns
    -------
    Read
        Doubtful where the likeliest reading is not sure [-]

    Raises
    ------
    InputError
        What nothing explains, or a value no such part has.
    """
    facts = ROLES[role]
    if facts.dimension is None:
        raise InputError(field, text, "nothing", f"a {facts.name} has no value to type")
    tidy = text.strip()
    capacitor = facts.kind is PartKind.CAPACITOR
    if not capacitor and facts.kind not in (PartKind.RESISTOR, PartKind.KNOB):
        return _plain(q.parse(field, tidy, facts.dimension))
    if facts.kind is PartKind.KNOB:
        # A track's law stands beside its ohms; it is told elsewhere.
        tidy = " ".join(w for w in tidy.split() if w.lower() not in ("lin", "log", "b", "a"))
    if "," in tidy and not any(c.isdigit() for c in tidy):
        marking = _marked(field, "resistor", None, tidy)
    else:
        try:
            marking = read_marking("capacitor" if capacitor else "resistor", tidy, None)
        except InputError as refused:
            # What is no marking may still be a value as it is said: 82 nF, 1/3 of a kilohm is not.
            try:
                return _plain(q.parse(field, tidy, facts.dimension))
            except InputError:
                raise InputError(
                    field, text, f"{refused.allowed}, or {facts.dimension.example}", refused.reason
                ) from None
    low, high = VALUE_LIMITS[facts.kind]
    kept = tuple((r.value, r.likelihood) for r in marking.readings if low <= r.value <= high)
    if not kept:
        raise InputError(
            field,
            text,
            f"{q.show(low, facts.dimension)} to {q.show(high, facts.dimension)}",
            "no such part exists",
        )
    sure = len(kept) == 1 or kept[0][1] >= SURE
    return Read(
        Condition.READ if sure else Condition.DOUBTFUL,
        kept[0][0],
        kept,
        marking.best.tolerance,
        marking.voltage_v,
        None if marking.voltage_kind is None else marking.voltage_kind == "ac",
        PartClass.X2_FILM if marking.safety_class and marking.safety_class.startswith("X") else None,
    )


def _plain(value: float) -> Read:
    return Read(Condition.READ, value, ((value, 1.0),))


def _marked(field: str, kind: str, code: str | None, bands: str | None) -> Marking:
    try:
        return read_marking(kind, code, bands)
    except InputError as refused:
        raise InputError(field, refused.value, refused.allowed, refused.reason) from None
