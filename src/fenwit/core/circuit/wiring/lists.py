"""What of a circuit is typed in lines: its places and cables, calls that exclude each other, what is expected, points."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

from fenwit.core import quantity as q
from fenwit.core.circuit.wiring.dead import points
from fenwit.core.circuit.wiring.document import read_wiring, variables
from fenwit.core.circuit.wiring.parts import Cable, Expect, Wiring
from fenwit.core.errors import InputError

MOST_LINES = 200
LENGTH = replace(q.LENGTH, low=0.0, high=5000.0, example="like 18 m")
CABLE, EXCLUSIVE = "W1: unit – room; red, green; earth; 18 m; 1.5 mm²", "TH.heat, TH.cool"
EXPECT, POINT = "DOOR shut, TH.fan, no TH.heat: M LO", "K1.COM – M.LO"


@dataclass(frozen=True)
class ListsTyped:
    """The lists as they are typed, a line for each entry."""

    places: str = ""
    """Names with commas between"""
    cables: str = ""
    exclusive: str = ""
    expect: str = ""
    points: str = ""
    """Empty: the usual ones"""


def typed_lists(wiring: Wiring) -> ListsTyped:
    """The lists of a circuit as they would be typed."""
    return ListsTyped(
        ", ".join(wiring.places),
        "\n".join(_cable(c) for c in wiring.cables),
        "\n".join(", ".join(group) for group in wiring.exclusive),
        "\n".join(_expect(e) for e in wiring.expects),
        "\n".join(f"{a} – {b}" for a, b in wiring.test_points or ()),
    )


def with_lists(document: Mapping[str, Any], typed: ListsTyped) -> dict[str, Any]:
    """A document with other lists, read again.

    Parameters
    ----------
    document : mapping
        The circuit as it is kept [-]
    typed : ListsTyped
        Its lists as typed [-]

    Returns
    -------
    dict
        The circuit as it is kept from now on [-]

    Raises
    ------
    InputError
        A line that cannot be read, or that names what is not there; the field is the list it was typed into.
    """
    known = variables(read_wiring(dict(document)))
    made: dict[str, Any] = dict(document) | {
        "places": [p.strip() for p in re.split(r"[,\n]", typed.places) if p.strip()],
        "cables": [_read_cable(line) for line in _lines("cables", typed.cables)],
        "exclusive": [_parted(line) for line in _lines("exclusive", typed.exclusive)],
        "expect": [_read_expect(line, known) for line in _lines("expect", typed.expect)],
    }
    made.pop("test_points", None)
    pairs = [_pair("points", line, POINT) for line in _lines("points", typed.points)]
    if pairs:
        made["test_points"] = [list(pair) for pair in pairs]
    try:
        read_wiring(made)
    except InputError as error:
        first = error.field.partition(".")[0]
        field = {"test_points": "points", "parts": "places"}.get(first, first)
        where = field if field in ListsTyped.__dataclass_fields__ else "places"
        raise InputError(where, error.value, error.allowed, error.reason) from None
    return {key: value for key, value in made.items() if key not in _LISTS or value}


_LISTS = ("places", "cables", "exclusive", "expect", "test_points")


def with_points(document: Mapping[str, Any], pairs: object) -> dict[str, Any]:
    """A document with further test points, the usual ones kept beside them. Raises InputError."""
    wiring = read_wiring(dict(document))
    typed = typed_lists(wiring)
    given = pairs if isinstance(pairs, list) else []
    added = [f"{a} – {b}" for a, b in (p for p in given if isinstance(p, list) and len(p) == 2)]
    if not added:
        raise InputError("points", "", f"pairs like {POINT}", "no points to add")
    before = typed.points.splitlines() or [f"{a} – {b}" for a, b in points(wiring)]
    return with_lists(document, replace(typed, points="\n".join([*before, *added])))


def _lines(field: str, text: str) -> list[str]:
    found = [line.strip() for line in text.splitlines() if line.strip()]
    if len(found) > MOST_LINES:
        raise InputError(field, len(found), f"up to {MOST_LINES} lines", "too many")
    return found


def _parted(text: str) -> list[str]:
    return [piece.strip() for piece in text.split(",") if piece.strip()]


def _pair(field: str, text: str, example: str) -> tuple[str, str]:
    ends = [e.strip() for e in re.split(r"\s+(?:–|-|to)\s+|–", text.strip()) if e.strip()]
    if len(ends) != 2:
        raise InputError(field, text[:60], f"like {example}", "two ends, with a dash between")
    return ends[0], ends[1]


def _read_cable(line: str) -> dict[str, Any]:
    name, colon, rest = line.partition(":")
    pieces = [p.strip() for p in rest.split(";")]
    if not colon or not name.strip() or len(pieces) < 2:
        raise InputError(
            "cables", line[:60], f"like {CABLE}", "a name, a colon, both places, then its cores, parted by semicolons"
        )  # fmt: skip
    start, end = _pair("cables", pieces[0], CABLE)
    made: dict[str, Any] = {
        "id": name.strip(),
        "from": start,
        "to": end,
        "cores": _parted(pieces[1]),
        "earth": False,
    }
    for piece in pieces[2:]:
        area = re.fullmatch(r"([\d.,]+)\s*mm(?:²|2)", piece)
        if piece == "earth":
            made["earth"] = True
        elif piece in ("mains", "control"):
            made["use"] = piece
        elif area:
            made["csa_mm2"] = _number("cables", area[1])
        elif piece:
            made["length_m"] = q.parse("cables", piece, LENGTH)
    return made


def _number(field: str, text: str) -> float:
    try:
        return float(text.replace(",", "."))
    except ValueError:
        raise InputError(field, text, "like 1.5 mm²", "is no number") from None


def _cable(cable: Cable) -> str:
    told = [f"{cable.start} – {cable.end}", ", ".join(cable.cores)]
    told += ["earth"] if cable.earth else []
    told += [cable.use] if cable.use else []
    told += [f"{cable.length_m:g} m"] if cable.length_m is not None else []
    told += [f"{cable.csa_mm2:g} mm²"] if cable.csa_mm2 is not None else []
    return f"{cable.id}: {'; '.join(told)}"


def _read_expect(line: str, known: Mapping[str, tuple[str | bool, ...]]) -> dict[str, Any]:
    when, colon, then = line.rpartition(":")
    part, _, state = then.strip().partition(" ")
    if not colon or not part or not state.strip():
        raise InputError(
            "expect", line[:60], f"like {EXPECT}", "what is called, a colon, a part and its state"
        )
    found: dict[str, str | bool] = {}
    for piece in _parted(when):
        negated = piece.startswith("no ")
        name, _, at = piece.removeprefix("no ").partition(" ")
        if name not in known:
            raise InputError("expect", name, ", ".join(known), "no such call or switch")
        found[name] = at.strip() if at.strip() else not negated
    return {"when": found, "part": part, "state": state.strip()}


def _expect(expect: Expect) -> str:
    told = [
        name if at is True else f"no {name}" if at is False else f"{name} {at}" for name, at in expect.when
    ]
    return f"{', '.join(told)}: {expect.part} {expect.state}"
