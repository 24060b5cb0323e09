"""What a wiring is made of: parts with named terminals, nets that join them for good, places and cables between them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from functools import cached_property
from typing import TypeVar

EXTRA_LOW_V = 50.0
"""Up to here a circuit is one of extra-low voltage [V]"""


class Kind(StrEnum):
    """What a part of a wiring is."""

    SUPPLY = "supply"
    TRANSFORMER = "transformer"
    RELAY = "relay"
    SWITCH = "switch"
    THERMOSTAT = "thermostat"
    FUSE = "fuse"
    STRIP = "strip"
    BOX = "box"
    LOAD = "load"
    LAMP = "lamp"
    CAPACITOR = "capacitor"
    RESISTOR = "resistor"
    MOTOR = "motor"
    EC_MOTOR = "ec-motor"
    EC_FAN = "ec-fan"
    POT = "pot"
    SENSOR = "sensor"


class Role(StrEnum):
    """What a switch is set by."""

    SELECTOR = "selector"
    DOOR = "door"
    LIMIT = "limit"
    TIMER = "timer"


@dataclass(frozen=True)
class Supply:
    """What comes in; L to N, L1 to L2 with N between them, or + to −."""

    volts: float
    frequency_hz: float
    names: tuple[str, ...]


@dataclass(frozen=True)
class Transformer:
    """S1 is the hot end of its secondary, S2 the common."""

    primary_volts: float
    volts: float
    va: float
    primary_ohm: float | None
    secondary_ohm: float | None


@dataclass(frozen=True)
class Pole:
    """One contact set of a relay; an empty name is a contact it lacks."""

    com: str
    no: str
    nc: str


@dataclass(frozen=True)
class Relay:
    """A coil between A1 and A2, and its poles."""

    volts: float
    va: float
    ohms: float | None
    poles: tuple[Pole, ...]
    make_before_break: bool
    delay_on_s: float
    delay_off_s: float
    hold: bool
    """Can be pushed in by hand"""


@dataclass(frozen=True)
class Place:
    """One position of a switch: terminals it joins, group by group."""

    name: str
    joins: tuple[tuple[str, ...], ...]


@dataclass(frozen=True)
class Powered:
    """What a switch or thermostat needs to work, and where it stands without."""

    terminals: tuple[str, str]
    volts: float
    va: float
    unpowered: str


@dataclass(frozen=True)
class Switch:
    """Anything set from outside: a selector, a pull switch, a door, a limit, a timer."""

    positions: tuple[Place, ...]
    role: Role
    make_before_break: bool
    wraps: bool
    power: Powered | None

    def index(self, name: str) -> int:
        """Which position bears that name; −1 for none."""
        return next((i for i, p in enumerate(self.positions) if p.name == name), -1)


@dataclass(frozen=True)
class Thermostat:
    """Each call is on or off by itself and joins the common with its outputs."""

    common: str
    calls: tuple[tuple[str, tuple[str, ...]], ...]
    volts: float
    power: Powered | None


@dataclass(frozen=True)
class Joined:
    """A fuse, a strip or a metal box: terminals joined for good, or just terminals."""

    links: tuple[tuple[str, str], ...] = ()
    amps: float | None = None


@dataclass(frozen=True)
class Load:
    """A consumer between 1 and 2."""

    volts: float
    va: float
    ohms: float | None
    heats: bool
    """Needs air while it is on"""
    role: str


@dataclass(frozen=True)
class PassElement:
    """A capacitor or a resistor between 1 and 2: it feeds on, but joins nothing."""

    farads: float | None = None
    ohms: float | None = None


@dataclass(frozen=True)
class Motor:
    """A motor with a common and taps, fastest first."""

    common: str
    taps: tuple[str, ...]
    auxiliary: str
    volts: float
    va: float
    sections: tuple[tuple[str, str, float], ...]


@dataclass(frozen=True)
class Speed:
    """One speed of a replacement motor: the inputs that ask for it."""

    name: str
    inputs: tuple[str, ...]
    rpm: float


@dataclass(frozen=True)
class SizeClass:
    """One size of a replacement motor: the run leads that ask for it."""

    run: tuple[str, ...]
    name: str
    watts: float | None = None


@dataclass(frozen=True)
class FeedLink:
    """A link that tells a replacement motor which mains it is on."""

    terminals: tuple[str, str]
    joined_volts: float
    open_volts: float


@dataclass(frozen=True)
class EcMotor:
    """A mains-fed replacement motor: run leads say the size, low-voltage inputs the speed."""

    run: tuple[str, ...]
    classes: tuple[SizeClass, ...]
    wanted_class: str
    speeds: tuple[Speed, ...]
    circulate_rpm: float
    volts: float
    va: float
    signal_volts: float
    speed_common: str
    link: FeedLink | None

    @property
    def inputs(self) -> tuple[str, ...]:
        """Its speed inputs, each once."""
        return tuple(dict.fromkeys(i for s in self.speeds for i in s.inputs))


@dataclass(frozen=True)
class EcFan:
    """An EC fan by its terminal strip."""

    volts: float
    va: float
    enable_to: str
    alarm: Pole | None
    serial: tuple[str, str] | None
    output: bool
    aux_volts: float | None = None
    """What it gives to sensors and lamps at AUX, against GND; None where it has no such terminal [V]"""


@dataclass(frozen=True)
class Pot:
    """A knob's track between A, its low end, and B; the wiper at W."""

    ohms: float


@dataclass(frozen=True)
class Sensor:
    """A transmitter: V and GND feed it, OUT tells."""

    supply_volts: float


S = TypeVar("S")
Spec = (
    Supply | Transformer | Relay | Switch | Thermostat | Joined | Load | PassElement | Motor | EcMotor | EcFan | Pot
    | Sensor
)  # fmt: skip


@dataclass(frozen=True)
class WiredPart:
    """One part with the names of its terminals."""

    id: str
    kind: Kind
    terminals: tuple[str, ...]
    spec: Spec
    place: str = ""
    note: str = ""
    metal: bool = False
    """It has a PE terminal, which must be bonded"""
    behind: tuple[str, ...] | None = None
    """Guards it stands behind; None: what is usual for its kind"""

    def at(self, name: str) -> str:
        """A terminal of it, as nets name it."""
        return f"{self.id}.{name}"

    def as_a(self, what: type[S]) -> S:
        """What is particular to its kind; the kind is known where this is asked."""
        if not isinstance(self.spec, what):
            raise TypeError(f"{self.id} is no {what.__name__}")
        return self.spec


@dataclass(frozen=True)
class Cable:
    """A cable between two places."""

    id: str
    start: str
    end: str
    cores: tuple[str, ...]
    earth: bool
    use: str = ""
    """mains or control; empty: with an earth conductor mains, without control"""
    csa_mm2: float | None = None
    length_m: float | None = None

    @property
    def purpose(self) -> str:
        """What it may carry: mains or control."""
        return self.use or ("mains" if self.earth else "control")


@dataclass(frozen=True)
class Meter:
    """The ohmmeter and what its leads and a contact add."""

    percent: float = 1.0
    digits_ohm: float = 0.2
    lead_ohm: float = 0.2
    zeroed: bool = True
    contact_ohm: float = 0.3
    open_above_ohm: float = 2e6


@dataclass(frozen=True)
class Expect:
    """What a part should do in the rows that a condition names."""

    when: tuple[tuple[str, str | bool], ...]
    part: str
    state: str


@dataclass(frozen=True)
class OhmReading:
    """An ohm read between two points with the power off."""

    points: tuple[str, str]
    inputs: tuple[tuple[str, str], ...]
    """Positions of switches; those not named stand as in the first test of these points"""
    held: str
    """The relay pushed in by hand; empty for none"""
    ohms: float | None
    """None: open [Ω]"""


@dataclass(frozen=True)
class Duty:
    """A speed wanted of a replacement while something calls; None: what it circulates at."""

    when: tuple[tuple[str, str | bool], ...]
    rpm: float | None


@dataclass(frozen=True)
class Replace:
    """An EC motor that is to take the place of a tapped one."""

    motor: str
    kit: WiredPart
    old_watts: float
    """At the old motor's shaft [W]"""
    wanted: tuple[Duty, ...]
    idle_circulates: bool


@dataclass(frozen=True)
class Wiring:
    """Parts, the nets that join their terminals, and what is expected of them."""

    title: str
    parts: tuple[WiredPart, ...]
    nets: tuple[tuple[str, tuple[str, ...]], ...]
    places: tuple[str, ...] = ()
    cables: tuple[Cable, ...] = ()
    exclusive: tuple[tuple[str, ...], ...] = ()
    expects: tuple[Expect, ...] = ()
    test_points: tuple[tuple[str, str], ...] | None = None
    meter: Meter = field(default_factory=Meter)
    readings: tuple[OhmReading, ...] = ()
    replace: Replace | None = None

    @cached_property
    def by_id(self) -> Mapping[str, WiredPart]:
        """Parts by name."""
        return {part.id: part for part in self.parts}

    @cached_property
    def net_at(self) -> Mapping[str, str]:
        """The net each wired terminal stands in."""
        return {terminal: name for name, joined in self.nets for terminal in joined}

    @cached_property
    def place_of(self) -> Mapping[str, str]:
        """Where each part stands; the first place for those that do not say."""
        first = self.places[0] if self.places else ""
        return {part.id: part.place or first for part in self.parts}

    def of(self, *kinds: Kind) -> tuple[WiredPart, ...]:
        """Parts of some kinds, in order."""
        return tuple(p for p in self.parts if p.kind in kinds)

    @cached_property
    def supply(self) -> WiredPart | None:
        """The first supply; None where nothing feeds it."""
        return next(iter(self.of(Kind.SUPPLY)), None)

    @cached_property
    def frequency_hz(self) -> float:
        """Of the first supply, 50 Hz without one."""
        spec = self.supply.spec if self.supply else None
        return spec.frequency_hz if isinstance(spec, Supply) else 50.0

    @cached_property
    def earth(self) -> str:
        """The earth terminal of the first supply that has one; empty for none."""
        return next((p.at("PE") for p in self.of(Kind.SUPPLY) if "PE" in p.terminals), "")


def is_mains(part: WiredPart) -> bool:
    """Whether a supply is dangerous to touch."""
    return isinstance(part.spec, Supply) and part.spec.volts > EXTRA_LOW_V


def low_terminals(part: WiredPart) -> tuple[str, ...]:
    """The terminals of a part that belong to circuits of extra-low voltage."""
    spec, found = part.spec, []
    if isinstance(spec, Transformer):
        found += ["S1", "S2"] if spec.volts <= EXTRA_LOW_V else []
        found += ["P1", "P2"] if spec.primary_volts <= EXTRA_LOW_V else []
    elif isinstance(spec, Relay):
        found += ["A1", "A2"] if spec.volts <= EXTRA_LOW_V else []
    elif isinstance(spec, Load):
        found += ["1", "2"] if spec.volts <= EXTRA_LOW_V else []
    elif isinstance(spec, Thermostat):
        found += list(part.terminals) if spec.volts <= EXTRA_LOW_V else []
    elif isinstance(spec, Switch):
        found += list(spec.power.terminals) if spec.power and spec.power.volts <= EXTRA_LOW_V else []
    elif isinstance(spec, Motor):
        found += [t for t in part.terminals if t != "PE"] if spec.volts <= EXTRA_LOW_V else []
    elif isinstance(spec, EcMotor):
        found += [*spec.inputs, spec.speed_common] if spec.signal_volts <= EXTRA_LOW_V else []
    elif isinstance(spec, EcFan):
        found += ["10V", "GND", "AI", "EN", *(["AO"] if spec.output else []), *(spec.serial or ())]
        found += ["AUX"] if spec.aux_volts is not None else []
    elif isinstance(spec, Pot | Sensor):
        found += list(part.terminals)
    elif isinstance(spec, Supply):
        found += [t for t in spec.names if t != "PE"] if spec.volts <= EXTRA_LOW_V else []
    return tuple(part.at(t) for t in dict.fromkeys(found))


def guards(wiring: Wiring, part: WiredPart) -> tuple[tuple[WiredPart, Role], ...]:
    """The doors and limits that a part stands behind."""
    found = []
    for guard in wiring.of(Kind.SWITCH):
        spec = guard.spec
        if not isinstance(spec, Switch) or spec.role not in (Role.DOOR, Role.LIMIT):
            continue
        if part.behind is not None:
            if guard.id in part.behind:
                found.append((guard, spec.role))
            continue
        heats = isinstance(part.spec, Load) and part.spec.heats
        motor = part.kind in (Kind.MOTOR, Kind.EC_MOTOR)
        if heats or (motor and spec.role is Role.DOOR):
            found.append((guard, spec.role))
    return tuple(found)
