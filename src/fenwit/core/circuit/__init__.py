"""Components, nets and switch positions: the one description a regulator is computed from."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property

from fenwit.core.errors import InputError, check_range


class PartKind(StrEnum):
    """What a two-terminal part is."""

    RESISTOR = "resistor"
    CAPACITOR = "capacitor"
    INDUCTOR = "inductor"
    CONTACT = "contact"
    FUSE = "fuse"
    KNOB = "knob"
    """A resistor that is turned; its value is the whole track"""
    TRIAC = "triac"
    DIAC = "diac"
    VARISTOR = "varistor"
    OPTO = "opto"
    """The output of an opto-triac"""
    COUPLER = "coupler"
    """The lit side of a zero detector, with its bridge"""
    BLOCK = "block"
    """A circuit of its own, like a rectifier with its zener"""
    DIODE = "diode"
    WINDING = "winding"
    """A section of a winding on a core: its ohms, and the volts that the core makes in its turns"""
    LAMP = "lamp"
    """A signal lamp on low volts; open where circuits are checked dead, since its ohms are not stated"""


OPEN_KINDS = (
    PartKind.TRIAC,
    PartKind.DIAC,
    PartKind.VARISTOR,
    PartKind.OPTO,
    PartKind.COUPLER,
    PartKind.BLOCK,
    PartKind.DIODE,
    PartKind.LAMP,
)
"""Parts that conduct only when something fires or drives them; to the network they are open"""

UNIT = {
    PartKind.RESISTOR: "Ω",
    PartKind.CAPACITOR: "F",
    PartKind.INDUCTOR: "H",
    PartKind.CONTACT: "",
    PartKind.FUSE: "A",
    PartKind.KNOB: "Ω",
    PartKind.TRIAC: "A",
    PartKind.DIAC: "V",
    PartKind.VARISTOR: "V",
    PartKind.OPTO: "",
    PartKind.COUPLER: "",
    PartKind.BLOCK: "",
    PartKind.DIODE: "",
    PartKind.WINDING: "Ω",
    PartKind.LAMP: "",
}
_LIMITS = {
    PartKind.RESISTOR: (1e-3, 1e9),
    PartKind.CAPACITOR: (1e-12, 1e-3),
    PartKind.INDUCTOR: (1e-9, 1e3),
    PartKind.CONTACT: (0.0, 0.0),
    PartKind.FUSE: (1e-3, 100.0),
    PartKind.KNOB: (1.0, 1e8),
    PartKind.TRIAC: (0.05, 200.0),
    PartKind.DIAC: (5.0, 100.0),
    PartKind.VARISTOR: (10.0, 2000.0),
    PartKind.OPTO: (0.0, 0.0),
    PartKind.COUPLER: (0.0, 0.0),
    PartKind.BLOCK: (0.0, 0.0),
    PartKind.DIODE: (0.0, 0.0),
    PartKind.WINDING: (1e-3, 1e5),
    PartKind.LAMP: (0.0, 0.0),
}


@dataclass(frozen=True)
class Core:
    """Iron that several sections of winding share; seen at one whole unit of turns."""

    name: str
    loss_ohm: float
    magnetising_ohm: float
    """At the frequency it is made for [Ω]"""
    frequency_hz: float

    def __post_init__(self) -> None:
        check_range(f"{self.name}.loss_ohm", self.loss_ohm, 1.0, 1e9, "Ω")
        check_range(f"{self.name}.magnetising_ohm", self.magnetising_ohm, 1.0, 1e9, "Ω")
        check_range(f"{self.name}.frequency_hz", self.frequency_hz, 10.0, 500.0, "Hz")


@dataclass(frozen=True)
class Part:
    """One part between two nets; a triac has a gate besides."""

    name: str
    kind: PartKind
    net_a: str
    net_b: str
    value: float = 0.0
    """Ohms, farads or henries; rated amps of a fuse or triac; volts of a diac or varistor; else 0 [Ω|F|H|A|V]"""
    tolerance: float = 0.0
    """Half width of the maker's tolerance, relative [-]"""
    loss_factor: float = 0.0
    """tan δ of a capacitor [-]"""
    net_gate: str = ""
    """Net of a triac's gate; it carries no part of the line current"""
    bleeds: str = ""
    """The capacitor it empties [-]"""
    core: str = ""
    """Of a winding: the iron it sits on; empty where that is no part of the circuit, as in a motor [-]"""
    turns: float = 0.0
    """Of a winding, over one whole unit of them [-]"""
    leakage_h: float = 0.0
    """Of a winding: inductance that it does not share [H]"""

    def __post_init__(self) -> None:
        low, high = _LIMITS[self.kind]
        check_range(f"{self.name}.value", self.value, low, high, UNIT[self.kind])
        check_range(f"{self.name}.tolerance", self.tolerance, 0.0, 0.9, "")
        check_range(f"{self.name}.loss_factor", self.loss_factor, 0.0, 1.0, "")
        check_range(f"{self.name}.turns", self.turns, 0.0, 100.0, "")
        check_range(f"{self.name}.leakage_h", self.leakage_h, 0.0, 100.0, "H")
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
    neutral: str = ""
    """Net of the neutral, where the regulator has three terminals [-]"""
    cores: tuple[Core, ...] = ()

    def __post_init__(self) -> None:
        names = [part.name for part in self.parts]
        cores = {core.name for core in self.cores}
        for part in self.parts:
            if part.core and part.core not in cores:
                raise InputError(f"{part.name}.core", part.core, "name of a core", "no such core")
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

    @cached_property
    def valued_parts(self) -> tuple[Part, ...]:
        """The parts that have an impedance, in order."""
        return tuple(p for p in self.parts if p.kind not in (PartKind.CONTACT, PartKind.FUSE, *OPEN_KINDS))

    def joins(self, part: Part, position: Position) -> bool:
        """Whether a part makes one net of two in a position: a closed contact, or a whole fuse."""
        return part.kind is PartKind.FUSE or part.name in position.closed

    def part(self, name: str) -> Part:
        """The part of that name; raises InputError when there is none."""
        for part in self.parts:
            if part.name == name:
                return part
        raise InputError("part", name, ", ".join(p.name for p in self.parts), "no such part")
