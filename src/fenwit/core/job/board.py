"""A control that exists, as it is read off its board: topology, parts as far as they can be read, how it is built."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum

from fenwit.core import quantity as q
from fenwit.core.circuit import PartKind
from fenwit.core.errors import InputError, check_range
from fenwit.core.regulator.diac import Taper
from fenwit.core.regulator.transformer import Winding
from fenwit.core.size.classes import PartClass

MOST_SECTIONS, MOST_POSITIONS = 5, 8
LAMP_W = (5.0, 1000.0)
"""Lamps that are put in a fan's place [W]"""


class Topology(StrEnum):
    """How a control is made."""

    SECTIONS = "sections"
    """Capacitors on a rotary or pull switch"""
    CHAIN = "chain"
    """Resistors in series on a switch"""
    TWO_WIRE = "two-wire"
    """Knob, diac and triac; timed by the triac's own volts"""
    THREE_WIRE = "three-wire"
    """The same with the network on the neutral; timed by the mains"""
    OPTO = "opto"
    """Zero detector, controller and opto-triac"""
    STEPPED = "stepped"
    """Transformer with taps"""


KNOBS = (Topology.TWO_WIRE, Topology.THREE_WIRE)
FIRED = (*KNOBS, Topology.OPTO)
"""Those with a triac in the line"""


class Role(StrEnum):
    """What a part does in a control."""

    FUSE = "fuse"
    SWITCH = "switch"
    SECTION = "section"
    LIMITER = "limiter"
    BLEED = "bleed"
    RESISTOR = "resistor"
    CHOKE = "choke"
    X_CAPACITOR = "x-capacitor"
    TRIAC = "triac"
    SNUBBER_RESISTOR = "snubber-resistor"
    SNUBBER_CAPACITOR = "snubber-capacitor"
    END_RESISTOR = "end-resistor"
    KNOB = "knob"
    ACROSS_KNOB = "across-knob"
    TIMING_CAPACITOR = "timing-capacitor"
    SECOND_RESISTOR = "second-resistor"
    SECOND_CAPACITOR = "second-capacitor"
    DIAC = "diac"
    GATE_RESISTOR = "gate-resistor"
    OPTO = "opto"
    DROPPER = "dropper"
    TRANSFORMER = "transformer"


class Asked(StrEnum):
    """What besides its value is asked of a part."""

    CLASS = "class"
    VOLTS = "volts"
    WATTS = "watts"
    AMPS = "amps"
    DROP = "drop"
    """Break-back of a diac"""


@dataclass(frozen=True)
class RoleFacts:
    """What is taken for granted of a part in a role."""

    name: str
    ref: str
    """On the schematic; a number follows where there are several [-]"""
    kind: PartKind
    dimension: q.Dimension | None
    usual: tuple[float, float]
    """Band its value usually lies in, for a part that cannot be read; an estimate [any]"""
    tolerance: float
    """Half width where none is printed [-]"""
    asked: tuple[Asked, ...] = ()
    many: bool = False
    essential: bool = False
    """Nothing can be computed as if it were not there"""
    look: str = ""
    """How to find and read it"""


_C = (Asked.CLASS, Asked.VOLTS)
ROLES: Mapping[Role, RoleFacts] = {
    Role.FUSE: RoleFacts("fuse", "F", PartKind.FUSE, q.CURRENT, (0.5, 10.0), 0.0, (Asked.VOLTS,),
        look="in the line before everything else; its cap says amps and volts"),
    Role.SWITCH: RoleFacts("switch", "S", PartKind.CONTACT, None, (0.0, 0.0), 0.0, (Asked.AMPS,),
        look="its body says amps at mains volts"),
    Role.SECTION: RoleFacts("section", "C", PartKind.CAPACITOR, q.CAPACITANCE, (0.5e-6, 10e-6), 0.10, _C, True, True,
        "a block or single capacitors; printed µF and volts with AC or ~"),
    Role.LIMITER: RoleFacts("limiter", "RL", PartKind.RESISTOR, q.RESISTANCE, (1.0, 100.0), 0.05, (Asked.WATTS,), True,
        look="a few ohms between switch and section"),
    Role.BLEED: RoleFacts("bleed", "RB", PartKind.RESISTOR, q.RESISTANCE, (47e3, 1e6), 0.05, (Asked.WATTS,), True,
        look="a large resistor straight across the section"),
    Role.RESISTOR: RoleFacts("resistor", "R", PartKind.RESISTOR, q.RESISTANCE, (50.0, 2000.0), 0.05, (Asked.WATTS,),
        True, True, "a wire-wound body of some watts, or a coil with taps"),
    Role.CHOKE: RoleFacts("choke", "L1", PartKind.INDUCTOR, q.INDUCTANCE, (47e-6, 5e-3), 0.20, (Asked.AMPS,),
        look="a coil on a ferrite in the line"),
    Role.X_CAPACITOR: RoleFacts("X capacitor", "CX", PartKind.CAPACITOR, q.CAPACITANCE, (22e-9, 220e-9), 0.20, _C,
        look="across the mains side, marked X1 or X2"),
    Role.TRIAC: RoleFacts("triac", "T", PartKind.TRIAC, q.CURRENT, (4.0, 16.0), 0.0, (Asked.VOLTS,), essential=True,
        look="three legs, often on a metal tab; type number gives amps and volts"),
    Role.SNUBBER_RESISTOR: RoleFacts("snubber resistor", "RS", PartKind.RESISTOR, q.RESISTANCE, (39.0, 220.0), 0.05,
        (Asked.WATTS,), look="in series with a film capacitor, across the triac"),
    Role.SNUBBER_CAPACITOR: RoleFacts("snubber capacitor", "CS", PartKind.CAPACITOR, q.CAPACITANCE, (10e-9, 100e-9),
        0.10, _C, look="in series with a small resistor, across the triac"),
    Role.END_RESISTOR: RoleFacts("end resistor", "R1", PartKind.RESISTOR, q.RESISTANCE, (1e3, 33e3), 0.05,
        (Asked.WATTS,), essential=True, look="between the knob's end and the triac"),
    Role.KNOB: RoleFacts("knob's track", "P", PartKind.KNOB, q.RESISTANCE, (100e3, 1e6), 0.20,
        (Asked.VOLTS, Asked.WATTS), essential=True, look="printed on its back; measure end to end with the wiper free"),
    Role.ACROSS_KNOB: RoleFacts("resistor across the knob", "R2", PartKind.RESISTOR, q.RESISTANCE, (100e3, 1e6), 0.05,
        (Asked.WATTS,), look="from one end lug of the knob to the other"),
    Role.TIMING_CAPACITOR: RoleFacts("timing capacitor", "C1", PartKind.CAPACITOR, q.CAPACITANCE, (22e-9, 220e-9),
        0.10, _C, essential=True, look="from the knob's other end to the triac's far side"),
    Role.SECOND_RESISTOR: RoleFacts("second resistor", "R3", PartKind.RESISTOR, q.RESISTANCE, (3.3e3, 47e3), 0.05,
        (Asked.WATTS,), look="from the first timing capacitor to a second one"),
    Role.SECOND_CAPACITOR: RoleFacts("second capacitor", "C2", PartKind.CAPACITOR, q.CAPACITANCE, (22e-9, 100e-9),
        0.10, _C, look="where the diac hangs, if there are two timing capacitors"),
    Role.DIAC: RoleFacts("diac", "D", PartKind.DIAC, q.VOLTAGE, (28.0, 36.0), 0.0, (Asked.DROP,), essential=True,
        look="a small glass body, often blue, no cathode ring; its volts are seldom printed"),
    Role.GATE_RESISTOR: RoleFacts("gate resistor", "RG", PartKind.RESISTOR, q.RESISTANCE, (180.0, 1000.0), 0.05,
        (Asked.WATTS,), essential=True, look="between opto-triac and the main triac"),
    Role.OPTO: RoleFacts("opto-triac", "U1", PartKind.OPTO, None, (0.0, 0.0), 0.0, (Asked.AMPS,), essential=True,
        look="six legs across the isolating gap"),
    Role.DROPPER: RoleFacts("dropper capacitor", "CD", PartKind.CAPACITOR, q.CAPACITANCE, (100e-9, 1e-6), 0.10, _C,
        look="the controller's own supply, in series with the mains"),
    Role.TRANSFORMER: RoleFacts("transformer", "W", PartKind.WINDING, q.APPARENT_POWER, (10.0, 250.0), 0.0,
        (Asked.VOLTS,), essential=True, look="its plate says VA and volts"),
}  # fmt: skip

_KNOB_ROLES = (
    Role.FUSE, Role.SWITCH, Role.CHOKE, Role.X_CAPACITOR, Role.TRIAC, Role.SNUBBER_RESISTOR, Role.SNUBBER_CAPACITOR,
    Role.END_RESISTOR, Role.KNOB, Role.ACROSS_KNOB, Role.TIMING_CAPACITOR, Role.SECOND_RESISTOR,
    Role.SECOND_CAPACITOR, Role.DIAC,
)  # fmt: skip
TEMPLATES: Mapping[Topology, tuple[Role, ...]] = {
    Topology.SECTIONS: (Role.FUSE, Role.SWITCH, Role.SECTION, Role.LIMITER, Role.BLEED),
    Topology.CHAIN: (Role.FUSE, Role.SWITCH, Role.RESISTOR),
    Topology.TWO_WIRE: _KNOB_ROLES,
    Topology.THREE_WIRE: _KNOB_ROLES,
    Topology.OPTO: (
        Role.FUSE, Role.SWITCH, Role.CHOKE, Role.X_CAPACITOR, Role.TRIAC, Role.SNUBBER_RESISTOR,
        Role.SNUBBER_CAPACITOR, Role.GATE_RESISTOR, Role.OPTO, Role.DROPPER,
    ),
    Topology.STEPPED: (Role.FUSE, Role.SWITCH, Role.TRANSFORMER),
}  # fmt: skip
NAMES: Mapping[Topology, str] = {
    Topology.SECTIONS: "capacitors on a switch",
    Topology.CHAIN: "resistors on a switch",
    Topology.TWO_WIRE: "knob with triac, two wires",
    Topology.THREE_WIRE: "knob with triac, three wires",
    Topology.OPTO: "controller with opto-triac",
    Topology.STEPPED: "transformer with taps",
}


class Condition(StrEnum):
    """How well a part is known."""

    READ = "read"
    DOUBTFUL = "doubtful"
    """Several readings, each with its likelihood"""
    UNREADABLE = "unreadable"
    MISSING = "missing"


VALUE_LIMITS: Mapping[PartKind, tuple[float, float]] = {
    PartKind.CAPACITOR: (1e-13, 0.1),
    PartKind.RESISTOR: (1e-3, 1e9),
    PartKind.KNOB: (1.0, 1e8),
    PartKind.INDUCTOR: (1e-9, 1e3),
    PartKind.FUSE: (1e-3, 100.0),
    PartKind.TRIAC: (0.05, 200.0),
    PartKind.DIAC: (5.0, 100.0),
    PartKind.WINDING: (1.0, 5000.0),
}


@dataclass(frozen=True)
class BoardPart:
    """One part as it is read off the board."""

    role: Role
    number: int = 1
    condition: Condition = Condition.READ
    value: float | None = None
    """As read; of a transformer its VA [F|Ω|H|A|V|VA]"""
    readings: tuple[tuple[float, float], ...] = ()
    """Of a doubtful one: value and likelihood [any]"""
    printed: str = ""
    """As typed [-]"""
    tolerance: float | None = None
    part_class: PartClass | None = None
    volts_v: float | None = None
    volts_ac: bool | None = None
    """Whether those volts are AC; None: not said"""
    watts_w: float | None = None
    amps_a: float | None = None
    drop_v: float | None = None

    @property
    def key(self) -> str:
        """Like knob, or section-2."""
        return f"{self.role.value}-{self.number}" if ROLES[self.role].many else self.role.value

    @property
    def fitted(self) -> bool:
        """Whether it is there at all."""
        return self.condition is not Condition.MISSING

    def __post_init__(self) -> None:
        facts = ROLES[self.role]
        check_range(f"{self.key}.number", self.number, 1, MOST_SECTIONS if facts.many else 1, "")
        limits, unit = VALUE_LIMITS.get(facts.kind), facts.dimension.unit if facts.dimension else ""
        why = "no such part exists: a slip of a thousand in the unit?"
        values = [self.value] if self.condition is Condition.READ else [v for v, _ in self.readings]
        if facts.dimension is not None and self.condition is Condition.READ and self.value is None:
            raise InputError(
                f"{self.key}.value", None, "its value", "type what is printed, or say that it cannot be read"
            )
        if self.condition is Condition.DOUBTFUL and not self.readings:
            raise InputError(
                f"{self.key}.value", None, "at least one reading", "type what can be made out of it"
            )
        for value in values:
            if value is not None and limits is not None:
                check_range(f"{self.key}.value", value, *limits, unit, reason=why)
        for name, value, high, of in (
            ("tolerance", self.tolerance, 0.9, ""), ("volts_v", self.volts_v, 5000.0, "V"),
            ("watts_w", self.watts_w, 1000.0, "W"), ("amps_a", self.amps_a, 200.0, "A"),
            ("drop_v", self.drop_v, 60.0, "V"),
        ):  # fmt: skip
            if value is not None:
                check_range(f"{self.key}.{name}", value, 0.0 if name == "tolerance" else 1e-3, high, of)


class Spindle(StrEnum):
    """What a hand touches of the knob or switch."""

    PLASTIC = "plastic"
    INSULATED = "insulated"
    """Metal, with an insulation class of its own"""
    METAL = "metal"


class Sense(StrEnum):
    """How a knob begins."""

    FAN = "fan"
    """Just past the click at full, then down"""
    DIMMER = "dimmer"
    """Dark just past the click, then up"""


@dataclass(frozen=True)
class Build:
    """How it is put together; None where nobody looked."""

    spindle: Spindle | None = None
    grub_screw: bool | None = None
    """A metal screw in the knob that a finger reaches"""
    plugged: bool | None = None
    """On a plug whose pins can be touched"""
    track_mm: float | None = None
    """Narrowest track that carries the fan's current [mm]"""
    copper_um: float = 35.0
    tinned: bool | None = None
    knob_on_solder: bool | None = None
    """The knob is held by its soldered lugs alone"""
    wires_over_edge: bool | None = None
    """Wires pulled over a lug's edge"""
    sense: Sense | None = None
    taper: Taper = Taper.LINEAR
    low_voltage_bare: bool | None = None
    """A low-voltage lead that is not behind the opto"""
    taken_for_isolator: bool | None = None
    """An autotransformer that somebody relies on to isolate"""
    heat_sink: bool | None = None

    def __post_init__(self) -> None:
        if self.track_mm is not None:
            check_range("track_mm", self.track_mm, 0.05, 50.0, "mm")
        check_range("copper_um", self.copper_um, 5.0, 500.0, "µm")


class Symptom(StrEnum):
    """What was noticed of a control that does not do as it should."""

    NOTHING = "nothing"
    CLICKS = "clicks"
    FULL = "full"
    HALF_WAVE = "half-wave"
    JUMPS = "jumps"
    TOO_FAST = "too-fast"
    HOT = "hot"
    SMELLS = "smells"
    FLICKERS = "flickers"


class Look(StrEnum):
    """What can be looked at on it."""

    FUSE = "fuse"
    SWITCH = "switch"
    GLASS = "glass"
    KNOB = "knob"
    TRIAC = "triac"
    DIAC = "diac"
    TIMING = "timing"
    SNUBBER = "snubber"
    MOTOR = "motor"
    LAMP = "lamp"


class FaultKind(StrEnum):
    """What may be the matter with a part."""

    OPEN = "open"
    SHORT = "short"
    DRIFTED = "drifted"
    HALF_WAVE = "half-wave"
    """A triac that fires in one half-cycle only"""
    CRACKED = "cracked"
    """Track broken, the wiper free or strapped to the end"""
    WORN = "worn"
    """A contact or joint that touches now and then"""


@dataclass(frozen=True)
class Fault:
    """Something supposed, or found, at one part."""

    kind: FaultKind
    part: str
    """Key of a part, or ``track``"""
    factor: float = 1.0
    """Of a drifted one: what is left of its value [-]"""
    strapped: bool = False
    """Of a knob: its wiper is wired to the end of the track"""

    def __post_init__(self) -> None:
        check_range("factor", self.factor, 0.01, 100.0, "")


TRACK = "track"
"""The printed copper, where a fault lies in it"""


class Limit(StrEnum):
    """A threshold of the findings."""

    FUSE_FACTOR = "fuse-factor"
    AC_MARGIN = "ac-margin"
    BURNS = "burns"
    PART_WATTS = "part-watts"
    KNOB_VOLTS = "knob-volts"
    KNOB_WATTS = "knob-watts"
    DVDT = "dvdt"
    JUNCTION = "junction"
    TRACK_RISE = "track-rise"
    NARROW = "narrow"
    DEAD_TRAVEL = "dead-travel"
    DEAD_SPEED = "dead-speed"
    JUMP = "jump"
    PINS_V = "pins"
    INSIDE_V = "inside"


@dataclass(frozen=True)
class LimitFacts:
    """One threshold: words, unit, its usual value and what it may be set to."""

    words: str
    unit: str
    usual: float
    low: float
    high: float


LIMITS: Mapping[Limit, LimitFacts] = {
    Limit.FUSE_FACTOR: LimitFacts("fuse over full amps", "×", 1.6, 1.0, 4.0),
    Limit.AC_MARGIN: LimitFacts("AC rating over worst volts", "×", 1.1, 1.0, 2.0),
    Limit.BURNS: LimitFacts("burns at once, watts over rating", "×", 5.0, 1.5, 20.0),
    Limit.PART_WATTS: LimitFacts("warned from, of rated watts", "%", 50.0, 10.0, 100.0),
    Limit.KNOB_VOLTS: LimitFacts("small carbon knob, volts", "V", 150.0, 20.0, 500.0),
    Limit.KNOB_WATTS: LimitFacts("knob, of rated watts", "%", 50.0, 10.0, 100.0),
    Limit.DVDT: LimitFacts("dv/dt, of the triac's own", "%", 50.0, 10.0, 100.0),
    Limit.JUNCTION: LimitFacts("junction below its limit by", "K", 25.0, 0.0, 60.0),
    Limit.TRACK_RISE: LimitFacts("track's rise", "K", 20.0, 5.0, 60.0),
    Limit.NARROW: LimitFacts("slowest of a knob, of full speed", "%", 60.0, 10.0, 95.0),
    Limit.DEAD_TRAVEL: LimitFacts("dead travel, of the whole", "%", 25.0, 5.0, 90.0),
    Limit.DEAD_SPEED: LimitFacts("which changes less than, of full speed", "%", 5.0, 1.0, 20.0),
    Limit.JUMP: LimitFacts("jump, of full speed", "%", 10.0, 1.0, 50.0),
    Limit.PINS_V: LimitFacts("pins of a plug after 1 s", "V", 34.0, 10.0, 120.0),
    Limit.INSIDE_V: LimitFacts("inside after 60 s", "V", 60.0, 10.0, 120.0),
}


@dataclass(frozen=True)
class Board:
    """All that is known of a control that came in."""

    topology: Topology
    parts: tuple[BoardPart, ...] = ()
    positions: tuple[tuple[int, ...], ...] = ()
    """Sections, or resistors in the line, or the tap, of each position; empty: as usual"""
    taps: tuple[tuple[float, float | None], ...] = ()
    """Volts of each tap and ohms from the winding's low end, rising [V, Ω]"""
    winding: Winding = Winding.AUTO
    build: Build = field(default_factory=Build)
    lamp_w: float = 75.0
    seen: tuple[Symptom, ...] = ()
    looks: tuple[tuple[Look, bool], ...] = ()
    """What was looked at, and whether it was bad"""
    limits: tuple[tuple[Limit, float], ...] = ()
    """Where set otherwise than usual"""
    found: Fault | None = None
    """What turned out to be the matter"""
    lamp: tuple[tuple[float, float], ...] = ()
    """Proof under a lamp: travel or number of the position, and true volts read there [-, V]"""

    def limit(self, name: Limit) -> float:
        """A threshold as it stands."""
        return dict(self.limits).get(name, LIMITS[name].usual)

    def part(self, role: Role, number: int = 1) -> BoardPart | None:
        """A part as it was read; None where nobody said anything of it."""
        return next((p for p in self.parts if p.role is role and p.number == number), None)

    def fitted(self, role: Role, number: int = 1) -> BoardPart | None:
        """The same, where it is there."""
        found = self.part(role, number)
        return found if found is not None and found.fitted else None

    def count(self, role: Role) -> int:
        """How many of a role are told of."""
        return max((p.number for p in self.parts if p.role is role), default=0)

    def __post_init__(self) -> None:
        check_range("lamp_w", self.lamp_w, *LAMP_W, "W")
        roles = TEMPLATES[self.topology]
        keys = [p.key for p in self.parts]
        for part in self.parts:
            if part.role not in roles:
                raise InputError(
                    part.key, part.role.value, ", ".join(ROLES[r].name for r in roles),
                    f"there is no such part in {NAMES[self.topology]}",
                )  # fmt: skip
            if keys.count(part.key) > 1:
                raise InputError(part.key, part.key, "each part once", "this part is told twice")
        if len(self.positions) > MOST_POSITIONS:
            raise InputError(
                "positions", len(self.positions), f"up to {MOST_POSITIONS}", "too many positions"
            )
        for name, value in self.limits:
            facts = LIMITS[name]
            check_range(f"limits.{name.value}", value, facts.low, facts.high, facts.unit)
        if self.found is not None and self.found.part != TRACK and self.found.part not in self.keys:
            raise InputError(
                "found.part", self.found.part, ", ".join(self.keys), "no such part on this board"
            )
        for at, volts in self.lamp:
            check_range("lamp.at", at, 0.0, float(MOST_POSITIONS), "")
            check_range("lamp.volts_v", volts, 0.0, 500.0, "V")

    @property
    def keys(self) -> tuple[str, ...]:
        """Keys of all parts its topology has, told of or not."""
        found: list[str] = []
        for role in TEMPLATES[self.topology]:
            if ROLES[role].many:
                most = max(self.count(Role.SECTION), self.count(Role.RESISTOR), 1)
                found += [BoardPart(role, n, Condition.MISSING).key for n in range(1, most + 1)]
            else:
                found.append(role.value)
        return tuple(found)
