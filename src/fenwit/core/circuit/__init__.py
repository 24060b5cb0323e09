"""Components, nets and switch positions: the one description a regulator is computed from."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from fenwit.core.errors import InputError, check_range


class PartKind(StrEnum):
    """What a two-terminal part is."""

    RESISTOR = "resistor"
    CAPACITOR = "capacitor"
    INDUCTOR = "inductor"
    CONTACT = "contact"


UNIT = {PartKind.RESISTOR: "Ω", PartKind.CAPACITOR: "F", PartKind.INDUCTOR: "H", PartKind.CONTACT: ""}
_LIMITS = {
    PartKind.RESISTOR: (1e-3, 1e9),
    PartKind.CAPACITOR: (1e-12, 1e-3),
    PartKind.INDUCTOR: (1e-9, 1e3),
    PartKind.CONTACT: (0.0, 0.0),
}


@dataclass(frozen=True)
class Part:
    """One two-terminal part between two nets."""

    name: str
    kind: PartKind
    net_a: str
    net_b: str
    value: float = 0.0
    """Ohms, farads or henries; 0 for a contact [Ω|F|H]"""
    tolerance: float = 0.0
    """Half width of the maker's tolerance, relative [-]"""

    def __post_init__(self) -> None:
        low, high = _LIMITS[self.kind]
        check_range(f"{self.name}.value", self.value, low, high, UNIT[self.kind])
        check_range(f"{self.name}.tolerance", self.tolerance, 0.0, 0.9, "")
        if self.net_a == self.net_b:
            raise InputError(f"{self.name}.net_b", self.net_b, "another net", "both ends stand on one net")


@dataclass(frozen=True)
class Position:
    """One place of the switch: the contacts that are closed in it."""

    name: str
    closed: frozenset[str]


@dataclass(frozen=True)
class Circuit:
    """A two-terminal bank between ``line`` and ``load``, with its switch positions."""

    line: str
    load: str
    parts: tuple[Part, ...]
    positions: tuple[Position, ...]

    def __post_init__(self) -> None:
        names = [part.name for part in self.parts]
        for name in names:
            if names.count(name) > 1:
                raise InputError("parts", name, "each name once", "two parts bear one name")
        contacts = {part.name for part in self.parts if part.kind is PartKind.CONTACT}
        for position in self.positions:
            unknown = sorted(position.closed - contacts)
            if unknown:
                raise InputError(
                    f"position {position.name}", unknown[0], "names of contacts", "no such contact"
                )

    @property
    def valued_parts(self) -> tuple[Part, ...]:
        """The parts that have a value, in order."""
        return tuple(part for part in self.parts if part.kind is not PartKind.CONTACT)

    def part(self, name: str) -> Part:
        """The part of that name; raises InputError when there is none."""
        for part in self.parts:
            if part.name == name:
                return part
        raise InputError("part", name, ", ".join(p.name for p in self.parts), "no such part")
