"""One state of the contacts: who is joined to whom, what stands on which rail, and what runs."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from fenwit.core.circuit.groups import merge, top
from fenwit.core.circuit.wiring.parts import (
    EcFan,
    EcMotor,
    Joined,
    Kind,
    Load,
    Motor,
    PassElement,
    Pot,
    Powered,
    Relay,
    Sensor,
    Supply,
    Switch,
    Thermostat,
    Transformer,
    WiredPart,
    Wiring,
    is_mains,
    low_terminals,
)

ENOUGH, TOO_MUCH = 0.8, 1.2
"""Of rated volts: from here a part works, beyond there it suffers"""
RUN_LEAD_V = 80.0


@dataclass(frozen=True)
class Rail:
    """What a source puts on a group."""

    source: str
    terminal: str
    """The source's own terminal, as nets name it"""
    level_v: float
    role: str
    """line, neutral, earth, or common"""
    mains: bool


@dataclass(frozen=True)
class Short:
    """Two levels of one source on one group."""

    source: str
    terminals: tuple[str, str]


@dataclass(frozen=True)
class Blade:
    """One set of contacts that move together: which pairs of nodes each position joins."""

    part: str
    index: int
    """Which of the part's sets"""
    call: str
    """Of a thermostat: the call that closes it"""
    masks: tuple[int, ...]
    make_before_break: bool
    meets: tuple[int, ...]
    """For positions i, j at i·n + j: what stays joined between them"""


class Base:
    """A wiring with all contacts open, numbered; contacts are bits that join two nodes."""

    def __init__(self, wiring: Wiring) -> None:
        self.wiring = wiring
        self.low = [(part.id, t) for part in wiring.parts for t in low_terminals(part)]
        """Parts with their terminals of extra-low voltage"""
        terminals = [part.at(t) for part in wiring.parts for t in part.terminals]
        self.index = {t: i for i, t in enumerate(terminals)}
        self.names = terminals
        bond = list(range(len(terminals)))
        for _, joined in wiring.nets:
            for terminal in joined[1:]:
                merge(bond, self.index[joined[0]], self.index[terminal])
        for part in wiring.parts:
            if isinstance(part.spec, Joined) and part.kind is not Kind.FUSE:
                for a, b in part.spec.links:
                    merge(bond, self.index[part.at(a)], self.index[part.at(b)])
        self.bonded = [top(bond, i) for i in range(len(terminals))]
        """Joined by wires and links alone"""
        whole = list(bond)
        for part in wiring.of(Kind.FUSE):
            merge(whole, self.index[part.at("1")], self.index[part.at("2")])
        self.fixed = [top(whole, i) for i in range(len(terminals))]
        """Joined while every contact is open"""
        self.pairs: list[tuple[int, int]] = []
        self.pair_names: list[tuple[str, str]] = []
        self._bit: dict[tuple[int, int], int] = {}
        self.blades = tuple(self._blades())
        self.seen: dict[int, Live] = {}
        self.powered = tuple(
            (p, p.spec.power)
            for p in wiring.parts
            if isinstance(p.spec, Switch | Thermostat) and p.spec.power
        )

    def live(self, closed: int) -> Live:
        """The state with those contacts closed; seen before, it is not solved again."""
        found = self.seen.get(closed)
        if found is None:
            found = self.seen[closed] = Live(self, closed)
        return found

    def bit(self, a: str, b: str) -> int:
        """The mask of the contact that joins two terminals."""
        key = (self.index[a], self.index[b])
        if key[0] > key[1]:
            key = (key[1], key[0])
        if key not in self._bit:
            self._bit[key] = 1 << len(self.pairs)
            self.pairs.append(key)
            self.pair_names.append((a, b))
        return self._bit[key]

    def _blades(self) -> list[Blade]:
        found = []
        for part in self.wiring.parts:
            spec = part.spec
            if isinstance(spec, Switch):
                found += self._switch(part, spec)
            elif isinstance(spec, Thermostat):
                for call, outputs in spec.calls:
                    joins = [((spec.common, *outputs),)] if outputs else [()]
                    found.append(self._blade(part, len(found), call, [(), *joins], False))
            elif isinstance(spec, Relay):
                for i, pole in enumerate(spec.poles):
                    rest = ((pole.com, pole.nc),) if pole.nc else ()
                    pulled = ((pole.com, pole.no),) if pole.no else ()
                    found.append(self._blade(part, i, "", [rest, pulled], spec.make_before_break))
            elif isinstance(spec, EcFan) and spec.alarm is not None:
                pole = spec.alarm
                rest = ((pole.com, pole.nc),) if pole.nc else ()
                pulled = ((pole.com, pole.no),) if pole.no else ()
                found.append(self._blade(part, 0, "", [rest, pulled], False))
        return found

    def _switch(self, part: WiredPart, spec: Switch) -> list[Blade]:
        """Joins that share terminals belong to one set; each set moves by itself."""
        names = list(part.terminals)
        parent = list(range(len(names)))
        where = {t: i for i, t in enumerate(names)}
        for position in spec.positions:
            for join in position.joins:
                for t in join[1:]:
                    merge(parent, where[join[0]], where[t])
        sets: dict[int, list[list[tuple[str, ...]]]] = {}
        for k, position in enumerate(spec.positions):
            for join in position.joins:
                joins = sets.setdefault(top(parent, where[join[0]]), [[] for _ in spec.positions])
                joins[k].append(join)
        return [
            self._blade(part, i, "", [tuple(j) for j in joins], spec.make_before_break)
            for i, joins in enumerate(sets.values())
        ]

    def _blade(
        self,
        part: WiredPart,
        index: int,
        call: str,
        positions: list[tuple[tuple[str, ...], ...]],
        early: bool,
    ) -> Blade:
        masks = []
        for joins in positions:
            mask = 0
            for join in joins:
                for i, a in enumerate(join):
                    for b in join[i + 1 :]:
                        mask |= self.bit(part.at(a), part.at(b))
            masks.append(mask)
        meets = tuple(a | b if early else a & b for a in masks for b in masks)
        return Blade(part.id, index, call, tuple(masks), early, meets)


class Live:
    """What follows from one set of closed contacts."""

    def __init__(self, base: Base, closed: int) -> None:
        self.base, self.closed = base, closed
        parent = list(base.fixed)
        rest, k = closed, 0
        pairs = base.pairs
        while rest:
            low = (rest & -rest).bit_length() - 1
            merge(parent, *pairs[low])
            rest &= rest - 1
            k += 1
        self.group = [top(parent, i) for i in range(len(parent))]
        self.wanted = self._rails(frozenset())
        """Rails while nothing has blown: what relays follow"""
        dead: frozenset[str] = frozenset()
        shorts: list[Short] = []
        rails = self.wanted
        while found := [s for s in _shorts(rails) if s.source not in dead]:
            shorts += found
            dead |= {s.source for s in found}
            rails = self._rails(dead)
        self.rails, self.shorts = rails, tuple(shorts)
        self.dead = dead

    def at(self, terminal: str) -> int:
        """The group that a terminal stands in."""
        return self.group[self.base.index[terminal]]

    def _rails(self, dead: frozenset[str]) -> dict[int, list[Rail]]:
        rails: dict[int, list[Rail]] = {}
        wiring = self.base.wiring

        def put(part: WiredPart, name: str, level: float, role: str, mains: bool) -> None:
            terminal = part.at(name)
            rails.setdefault(self.at(terminal), []).append(Rail(part.id, terminal, level, role, mains))

        for part in wiring.of(Kind.SUPPLY):
            if part.id in dead or not isinstance(part.spec, Supply):
                continue
            for name in part.spec.names:
                put(part, name, *_level(part.spec, name), is_mains(part))
        waiting = [p for p in wiring.of(Kind.TRANSFORMER, Kind.EC_FAN) if p.id not in dead]
        grown = True
        while grown:
            grown = False
            for part in list(waiting):
                spec = part.spec
                if isinstance(spec, Transformer):
                    fed = self._volts(rails, part.at("P1"), part.at("P2"))
                    if not 0 < fed <= TOO_MUCH * spec.primary_volts:
                        continue
                    put(part, "S1", spec.volts * fed / spec.primary_volts, "line", spec.volts > 50)
                    put(part, "S2", 0.0, "common", False)
                elif isinstance(spec, EcFan):
                    if self._volts(rails, part.at("L"), part.at("N")) < ENOUGH * spec.volts:
                        continue
                    put(part, "10V", 10.0, "line", False)
                    put(part, "GND", 0.0, "common", False)
                    if spec.aux_volts is not None:
                        put(part, "AUX", spec.aux_volts, "line", False)
                waiting.remove(part)
                grown = True
        return rails

    def _volts(self, rails: Mapping[int, list[Rail]], a: str, b: str) -> float:
        found, _ = _across(rails, self.at(a), self.at(b))
        return found

    def volts(self, a: str, b: str) -> float:
        """Between two terminals: the largest difference of one source's levels [V]"""
        return self._volts(self.rails, a, b)

    def source(self, a: str, b: str) -> str:
        """The source whose volts those are."""
        return _across(self.rails, self.at(a), self.at(b))[1]

    def on(self, terminal: str) -> list[Rail]:
        """Rails at a terminal."""
        return self.rails.get(self.at(terminal), [])

    def hot(self, terminal: str) -> bool:
        """Whether it stands on a line of the mains."""
        return any(r.mains and r.role == "line" for r in self.on(terminal))

    def pulls(self, part: WiredPart) -> bool:
        """Whether a relay's coil has its volts."""
        spec = part.spec
        return (
            isinstance(spec, Relay)
            and self._volts(self.wanted, part.at("A1"), part.at("A2")) >= ENOUGH * spec.volts
        )

    def has_power(self, part: WiredPart, power: Powered) -> bool:
        """Whether what a timer needs is there."""
        a, b = power.terminals
        return self._volts(self.wanted, part.at(a), part.at(b)) >= ENOUGH * power.volts

    def fan_fed(self, part: WiredPart) -> bool:
        """Whether an EC fan has its mains."""
        spec = part.spec
        return (
            isinstance(spec, EcFan)
            and self._volts(self.wanted, part.at("L"), part.at("N")) >= ENOUGH * spec.volts
        )

    # What stands at a motor

    @cached_property
    def through(self) -> dict[int, list[tuple[int, WiredPart]]]:
        """Groups that capacitors and resistors lead to."""
        found: dict[int, list[tuple[int, WiredPart]]] = {}
        for part in self.base.wiring.of(Kind.CAPACITOR, Kind.RESISTOR):
            a, b = self.at(part.at("1")), self.at(part.at("2"))
            if a != b:
                found.setdefault(a, []).append((b, part))
                found.setdefault(b, []).append((a, part))
        return found

    def _reached(self, start: int) -> list[int]:
        """Groups with a rail that a group stands on, directly or through capacitors and resistors."""
        if start in self.rails:
            return [start]
        found, seen, todo = [], {start}, [start]
        while todo:
            for to, _ in self.through.get(todo.pop(), []):
                if to in seen:
                    continue
                seen.add(to)
                if to in self.rails:
                    found.append(to)
                else:
                    todo.append(to)
        return found

    def taps_alive(self, part: WiredPart) -> tuple[str, ...]:
        """The taps of a motor that stand at its volts."""
        spec = part.spec
        if not isinstance(spec, Motor):
            return ()
        known = self._taps.get(part.id)
        if known is None:
            common = self._reached(self.at(part.at(spec.common)))
            known = tuple(
                tap
                for tap in spec.taps
                if any(
                    _across(self.rails, a, b)[0] >= ENOUGH * spec.volts
                    for a in self._reached(self.at(part.at(tap)))
                    for b in common
                )
            )
            self._taps[part.id] = known
        return known

    @cached_property
    def _taps(self) -> dict[str, tuple[str, ...]]:
        return {}

    # Replacement motors and EC fans

    def asked_volts(self, part: WiredPart) -> float:
        """What an EC motor's link asks for [V]"""
        spec = part.as_a(EcMotor)
        if spec.link is None:
            return spec.volts
        a, b = spec.link.terminals
        return spec.link.joined_volts if self.at(part.at(a)) == self.at(part.at(b)) else spec.link.open_volts

    def feed_right(self, part: WiredPart) -> bool:
        """Whether an EC motor has the mains its link asks for."""
        asked = self.asked_volts(part)
        return ENOUGH * asked <= self.volts(part.at("L"), part.at("N")) <= TOO_MUCH * asked

    def run_alive(self, part: WiredPart) -> tuple[str, ...]:
        """Its run leads that count as called."""
        spec = part.as_a(EcMotor)
        return tuple(lead for lead in spec.run if self.volts(part.at(lead), part.at("N")) >= RUN_LEAD_V)

    def ec_motor(self, part: WiredPart) -> tuple[str, str | None, float | None]:
        """State, class and speed of an EC motor."""
        spec = part.as_a(EcMotor)
        if not self.feed_right(part):
            return "dead", None, None
        run = set(self.run_alive(part))
        named = next((c.name for c in spec.classes if set(c.run) == run and run), None)
        if named is None:
            return "off", None, None
        live = {
            i
            for i in spec.inputs
            if self.volts(part.at(i), part.at(spec.speed_common)) >= ENOUGH * spec.signal_volts
        }
        exact = [s for s in spec.speeds if set(s.inputs) == live and live]
        within = [s for s in spec.speeds if s.inputs and set(s.inputs) <= live]
        best = exact[0] if exact else max(within, key=lambda s: s.rpm, default=None)
        return ("circulate", named, spec.circulate_rpm) if best is None else (best.name, named, best.rpm)

    def ec_fan(self, part: WiredPart) -> str:
        """What an EC fan does, by what stands at its terminals."""
        spec = part.as_a(EcFan)
        if self.volts(part.at("L"), part.at("N")) < ENOUGH * spec.volts:
            return "dead"
        if self.at(part.at("EN")) != self.at(part.at(spec.enable_to)):
            return "disabled"
        return self.commanded_by(part)

    def commanded_by(self, part: WiredPart) -> str:
        """What stands at an EC fan's command input."""
        wiring = self.base.wiring
        here, ground = self.at(part.at("AI")), self.at(part.at("GND"))
        tens = {
            self.at(f.at("10V")) for f in wiring.of(Kind.EC_FAN) if self.at(f.at("GND")) == ground
        }  # a leader's own supply may serve all that share its ground
        if here in tens:
            return "full"
        if here == ground:
            return "zero"
        for pot in wiring.of(Kind.POT):
            if self.at(pot.at("W")) == here:
                ends = {g for end in ("A", "B") for g in self.led_to(self.at(pot.at(end)))}
                high, low = bool(ends & tens), ground in ends
                if high or low:
                    return f"pot {pot.id}" if high and low else "full" if high else "zero"
        for sensor in wiring.of(Kind.SENSOR):
            if (
                self.at(sensor.at("OUT")) == here
                and self.at(sensor.at("GND")) == ground
                and self.sensor_fed(sensor)
            ):
                return f"sensor {sensor.id}"
        for other in wiring.of(Kind.EC_FAN):
            leads = other is not part and other.as_a(EcFan).output
            if leads and self.at(other.at("AO")) == here and self.at(other.at("GND")) == ground:
                return f"follows {other.id}"
        led = self.led_to(here)
        return "divider" if ground in led and led & tens else "open"

    def led_to(self, start: int) -> set[int]:
        """A group and those with a rail that it meets through resistors alone."""
        found, todo = {start}, [start]
        while todo:
            group = todo.pop()
            if group in self.rails:
                continue
            for to, part in self.through.get(group, []):
                if to not in found and part.as_a(PassElement).ohms is not None:
                    found.add(to)
                    todo.append(to)
        return found

    def command_v(self, part: WiredPart) -> float:
        """Volts that a chain of resistors puts on an EC fan's command input, which takes next to nothing [V]"""
        here, ground = self.at(part.at("AI")), self.at(part.at("GND"))
        between = [
            (self.at(p.at("1")), self.at(p.at("2")), ohms)
            for p in self.base.wiring.of(Kind.RESISTOR)
            if (ohms := p.as_a(PassElement).ohms)
        ]
        held = {
            self.at(f.at("10V")): 10.0
            for f in self.base.wiring.of(Kind.EC_FAN)
            if self.at(f.at("GND")) == ground
        } | {ground: 0.0}
        known = {g: held[g] for g in self.led_to(here) if g in held}
        free = sorted({g for a, b, _ in between for g in (a, b)} - set(self.rails) | {here})
        at = {g: i for i, g in enumerate(free)}
        matrix, drive = np.zeros((len(free), len(free))), np.zeros(len(free))
        for one, other, ohms in between:
            for a, b in ((one, other), (other, one)):
                if a in at and a != b:
                    matrix[at[a], at[a]] += 1 / ohms
                    if b in at:
                        matrix[at[a], at[b]] -= 1 / ohms
                    else:
                        drive[at[a]] += known.get(b, 0.0) / ohms
        return float((np.linalg.pinv(matrix) @ drive)[at[here]])

    def sensor_fed(self, part: WiredPart) -> bool:
        """Whether a transmitter has its volts."""
        spec = part.as_a(Sensor)
        return (
            ENOUGH * spec.supply_volts
            <= self.volts(part.at("V"), part.at("GND"))
            <= TOO_MUCH * spec.supply_volts
        )

    def pot_at(self, part: WiredPart) -> WiredPart | None:
        """The knob whose wiper stands at a fan's command input."""
        here = self.at(part.at("AI"))
        found = (
            p for p in self.base.wiring.of(Kind.POT) if isinstance(p.spec, Pot) and self.at(p.at("W")) == here
        )
        return next(found, None)

    def works(self, part: WiredPart) -> bool:
        """Whether a motor, load, relay or fan has what it needs."""
        spec = part.spec
        if isinstance(spec, Motor):
            return bool(self.taps_alive(part))
        if isinstance(spec, Load):
            return self.load_state(part) == "on"
        if isinstance(spec, Relay):
            return self.pulls(part)
        if isinstance(spec, EcMotor):
            return self.ec_motor(part)[2] is not None
        return isinstance(spec, EcFan) and self.ec_fan(part) not in ("dead", "disabled")

    def load_state(self, part: WiredPart) -> str:
        """on, starved, or off."""
        spec = part.as_a(Load)
        volts = self.volts(part.at("1"), part.at("2"))
        return "on" if volts >= ENOUGH * spec.volts else "starved" if volts > 0 else "off"


def _level(spec: Supply, name: str) -> tuple[float, str]:
    """Level and role of a supply's terminal."""
    if name == "PE":
        return 0.0, "earth"
    if name == "N":
        return 0.0, "neutral"
    if name == "L":
        return spec.volts, "line"
    if name in ("L1", "L2"):
        return (spec.volts / 2 if name == "L1" else -spec.volts / 2), "line"
    return (spec.volts, "line") if name == "+" else (0.0, "neutral")


def _across(rails: Mapping[int, list[Rail]], a: int, b: int) -> tuple[float, str]:
    best, source = 0.0, ""
    for one in rails.get(a, ()):
        for other in rails.get(b, ()):
            if one.source == other.source and abs(one.level_v - other.level_v) > best:
                best, source = abs(one.level_v - other.level_v), one.source
    return best, source


def _shorts(rails: Mapping[int, list[Rail]]) -> list[Short]:
    found = []
    for standing in rails.values():
        for i, one in enumerate(standing):
            for other in standing[i + 1 :]:
                if one.source == other.source and one.level_v != other.level_v:
                    found.append(Short(one.source, (one.terminal, other.terminal)))
    return found
