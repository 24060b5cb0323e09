"""Ohms to expect with the power off, with their bands and through which parts.

One state of the contacts gives one matrix: the pseudo-inverse of the conductances between groups. Every pair of points
and every part of unknown ohms is answered from it (docs/wiring.md).
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import product

import numpy as np
from numpy.typing import NDArray

from fenwit.core.circuit.groups import Groups, contact_shares, merge, top
from fenwit.core.circuit.wiring.parts import (
    EcFan,
    EcMotor,
    Joined,
    Kind,
    Load,
    Motor,
    PassElement,
    Pole,
    Pot,
    Relay,
    Sensor,
    Supply,
    Switch,
    Thermostat,
    Transformer,
    WiredPart,
    Wiring,
)
from fenwit.core.errors import InputError

MAX_TESTS = 2000
_WINDING, _COIL, _RESISTOR, _POT = 0.06, 0.10, 0.05, 0.20
"""Relative half widths; a winding's is ±15 K of copper"""
_PROBE_OHM, _MATTERS, _CARRIES = 10.0, 0.02, 1e-6


@dataclass(frozen=True)
class Element:
    """What an ohmmeter finds between two terminals of a part; ohms None: nobody knows."""

    a: str
    b: str
    ohms: float | None
    label: str
    tolerance: float = 0.0
    lone: bool = True
    """Known to end nowhere by itself; a second half of a knob's track is not"""


@dataclass(frozen=True)
class Contact:
    """A pair of terminals that a position of a part joins."""

    part: str
    a: str
    b: str

    @property
    def name(self) -> str:
        """As faults call it."""
        return f"{self.a}-{self.b.partition('.')[2]}"


@dataclass(frozen=True)
class Stand:
    """How the switches stand while it is measured, and which relay is pushed in; empty for none."""

    inputs: tuple[tuple[str, str], ...]
    held: str = ""


@dataclass(frozen=True)
class Ohms:
    """What a reading should be; ohms None and not open: nobody can know."""

    ohms: float | None
    is_open: bool
    low: float | None
    high: float | None
    through: tuple[str, ...]
    unknown: tuple[str, ...]


@dataclass(frozen=True)
class DeadTest:
    """Two points, how the switches stand, and what the meter should show."""

    points: tuple[str, str]
    stand: Stand
    expected: Ohms


@dataclass(frozen=True)
class Change:
    """A single fault, as it changes the circuit an ohmmeter sees."""

    moved: tuple[tuple[str, str | None], ...] = ()
    """Terminals and the net they stand in instead; None: in none"""
    never: tuple[Contact, ...] = ()
    always: tuple[Contact, ...] = ()
    opened: tuple[str, ...] = ()
    """Labels of elements, or names of fuses"""
    shorted: tuple[str, ...] = ()
    bridged: tuple[tuple[str, str], ...] = ()


SOUND = Change()


def dead_tests(wiring: Wiring) -> tuple[DeadTest, ...]:
    """Every test of a wiring with its expected ohms.

    Parameters
    ----------
    wiring : Wiring
        The circuit [-]

    Returns
    -------
    tuple of DeadTest
        Points in order, each with every standing of the switches [-]

    Raises
    ------
    InputError
        More tests than are worked out.
    """
    stands, pairs = standings(wiring), points(wiring)
    if len(stands) * len(pairs) > MAX_TESTS:
        raise InputError(
            "test_points", len(stands) * len(pairs), f"up to {MAX_TESTS} dead tests",
            "too many; name the points that matter",
        )  # fmt: skip
    network = Network(wiring)
    return tuple(DeadTest(pair, stand, network.between(pair, stand)) for pair in pairs for stand in stands)


def points(wiring: Wiring) -> tuple[tuple[str, str], ...]:
    """The pairs of points to read: those named, else supply pairs, taps to common, metal to earth."""
    if wiring.test_points is not None:
        return wiring.test_points
    found: list[tuple[str, str]] = []
    for part in wiring.of(Kind.SUPPLY):
        spec = part.as_a(Supply)
        names = [part.at(n) for n in spec.names]
        found += [(a, b) for i, a in enumerate(names) for b in names[i + 1 :]]
    for part in wiring.of(Kind.MOTOR):
        if isinstance(part.spec, Motor):
            found += [(part.at(part.spec.common), part.at(tap)) for tap in part.spec.taps]
    if wiring.earth:
        found += [(p.at("PE"), wiring.earth) for p in wiring.parts if p.metal and p.kind is not Kind.SUPPLY]
    return tuple(dict.fromkeys(found))


def standings(wiring: Wiring) -> tuple[Stand, ...]:
    """Every combination of the switches that stand by themselves, and each again with a relay pushed in."""
    switches = [
        (p.id, [at.name for at in p.spec.positions])
        for p in wiring.parts
        if isinstance(p.spec, Switch) and p.spec.power is None
    ]
    count = 1
    for _, names in switches:
        count *= len(names)
        if count > MAX_TESTS:
            raise InputError("parts", count, f"up to {MAX_TESTS} dead tests", "too many positions together")
    holds = ["", *(p.id for p in wiring.parts if isinstance(p.spec, Relay) and p.spec.hold)]
    found = []
    for combined in product(*(names for _, names in switches)):
        inputs = tuple((name, at) for (name, _), at in zip(switches, combined, strict=True))
        found += [Stand(inputs, held) for held in holds]
    return tuple(found)


def elements(wiring: Wiring) -> tuple[Element, ...]:
    """All that carries a meter's current, apart from wires and contacts."""
    found: list[Element] = []
    for part in wiring.parts:
        found += _elements(part)
    return tuple(found)


def _elements(part: WiredPart) -> Iterable[Element]:
    spec = part.spec

    def between(
        a: str, b: str, ohms: float | None, tolerance: float = 0.0, label: str = "", lone: bool = True
    ) -> Element:
        return Element(part.at(a), part.at(b), ohms, label or part.id, tolerance, lone)

    match spec:
        case Motor():
            if not spec.sections:
                return [
                    between(spec.common, t, None, label=f"{part.id}.{spec.common}-{t}") for t in spec.taps
                ]
            return [between(a, b, ohms, _WINDING, f"{part.id}.{a}-{b}") for a, b, ohms in spec.sections]
        case Relay():
            return [between("A1", "A2", spec.ohms, _COIL)]
        case Transformer():
            return [
                between("P1", "P2", spec.primary_ohm, _COIL, f"{part.id}.P1-P2"),
                between("S1", "S2", spec.secondary_ohm, _COIL, f"{part.id}.S1-S2"),
            ]
        case Load():
            ohms = spec.ohms
            if ohms is None and spec.heats and spec.va > 0:
                ohms = spec.volts**2 / spec.va
            return [between("1", "2", ohms, _COIL)]
        case PassElement():
            return [between("1", "2", spec.ohms, _RESISTOR)] if spec.ohms is not None else []
        case Pot():
            return [
                between("A", "B", spec.ohms, _POT), between("A", "W", None), between("W", "B", None, lone=False),
            ]  # fmt: skip
        case Switch() | Thermostat():
            return [between(*spec.power.terminals, None)] if spec.power is not None else []
        case EcMotor():
            return [
                between("L", "N", None), *(between(r, "N", None) for r in spec.run),
                *(between(i, spec.speed_common, None) for i in spec.inputs),
            ]  # fmt: skip
        case EcFan():
            return [
                between("L", "N", None), between("10V", "GND", None), between("AI", "GND", None),
                between("EN", spec.enable_to, None),
                *([between("AUX", "GND", None)] if spec.aux_volts is not None else []),
                *([between("AO", "GND", None)] if spec.output else []),
                *([between(*spec.serial, None)] if spec.serial else []),
            ]  # fmt: skip
        case Sensor():
            return [between("V", "GND", None), between("OUT", "GND", None)]
    return []


def contacts(part: WiredPart) -> tuple[tuple[Contact, ...], ...]:
    """The contacts of a part that are made, position by position; rest first for what a coil or a call moves."""
    spec = part.spec

    def of(joins: Iterable[Sequence[str]]) -> tuple[Contact, ...]:
        return tuple(Contact(part.id, part.at(j[0]), part.at(t)) for j in joins for t in j[1:])

    if isinstance(spec, Switch):
        return tuple(of(p.joins) for p in spec.positions)
    if isinstance(spec, Thermostat):
        return ((), *(of([(spec.common, *outputs)]) for _, outputs in spec.calls))
    poles: tuple[Pole, ...] = ()
    if isinstance(spec, Relay):
        poles = spec.poles
    elif isinstance(spec, EcFan) and spec.alarm is not None:
        poles = (spec.alarm,)
    if poles:
        return of((p.com, p.nc) for p in poles if p.nc), of((p.com, p.no) for p in poles if p.no)
    return ()


def made(wiring: Wiring, stand: Stand) -> list[Contact]:
    """Contacts that are closed with the power off."""
    at = dict(stand.inputs)
    found: list[Contact] = []
    for part in wiring.parts:
        sets = contacts(part)
        if not sets:
            continue
        place = 0
        if isinstance(part.spec, Switch):
            place = part.spec.index(part.spec.power.unpowered if part.spec.power else at[part.id])
        elif part.id == stand.held:
            place = 1
        found += sets[place]
    return found


class Network:
    """What an ohmmeter sees of a wiring, sound or with one fault, in each standing of its switches."""

    def __init__(self, wiring: Wiring, change: Change = SOUND) -> None:
        self.wiring, self.change = wiring, change
        self._seen: dict[Stand, _Matrix] = {}
        self._elements = elements(wiring)
        net = dict(wiring.net_at)
        for terminal, to in change.moved:
            net.pop(terminal, None)
            if to is not None:
                net[terminal] = to
        self.net = net

    def between(self, pair: tuple[str, str], stand: Stand) -> Ohms:
        """What the meter should show between two terminals."""
        found = self._seen.get(stand)
        if found is None:
            found = self._seen[stand] = self._matrix(stand)
        return found.between(*pair)

    def _matrix(self, stand: Stand) -> _Matrix:
        change = self.change
        closed = [c for c in made(self.wiring, stand) if c not in change.never]
        closed += [c for c in change.always if c not in closed]
        joined = list(change.bridged)
        for part in self.wiring.parts:
            if isinstance(part.spec, Joined) and part.id not in change.opened:
                joined += [(part.at(a), part.at(b)) for a, b in part.spec.links]
        shorts = [e for e in self._elements if e.label in change.shorted]
        joined += [(e.a, e.b) for e in shorts]
        joined += [(p.at("1"), p.at("2")) for p in self.wiring.of(Kind.CAPACITOR) if p.id in change.shorted]
        there = [e for e in self._elements if e.label not in change.opened and e not in shorts]
        return _Matrix(self.wiring, self.net, joined, closed, there)


class _Matrix:
    """One standing: groups, conductances between them, and the pseudo-inverse of their matrix."""

    def __init__(
        self,
        wiring: Wiring,
        net: Mapping[str, str],
        joined: Iterable[tuple[str, str]],
        closed: Sequence[Contact],
        there: Sequence[Element],
    ) -> None:
        self.meter = wiring.meter
        groups = Groups[str]()

        def node(terminal: str) -> str:
            # A net's name cannot be taken for a terminal's.
            return f"/{net[terminal]}" if terminal in net else terminal

        for a, b in joined:
            groups.join(node(a), node(b))
        self.wired = {t: groups.root(node(t)) for part in wiring.parts for t in map(part.at, part.terminals)}
        """Joined by wires, links and fuses: between these a contact has its own ohms"""
        ends = [(self.wired[c.a], self.wired[c.b]) for c in closed]
        for a, b in ends:
            groups.join(a, b)
        self.closed = [e for e in ends if e[0] != e[1]]
        group = {t: groups.root(n) for t, n in self.wired.items()}
        order = {g: i for i, g in enumerate(dict.fromkeys(group.values()))}
        self.at = {t: order[g] for t, g in group.items()}
        self.known = [e for e in there if e.ohms is not None and e.ohms > 0]
        for e in there:
            if e.ohms == 0 and self.at[e.a] != self.at[e.b]:
                raise InputError(
                    f"{e.label}.ohms", 0, "above 0 Ω", "a part of no ohms is a wire: join its ends in a net"
                )
        self.unknown = [e for e in there if e.ohms is None and self.at[e.a] != self.at[e.b]]
        n = len(order)
        laplacian = np.zeros((n, n))
        self.island = list(range(n))
        for e in self.known:
            i, j = self.at[e.a], self.at[e.b]
            if i == j:
                continue
            y = 1.0 / (e.ohms or 1.0)
            laplacian[i, i] += y
            laplacian[j, j] += y
            laplacian[i, j] -= y
            laplacian[j, i] -= y
            merge(self.island, i, j)
        self.island = [top(self.island, i) for i in range(n)]
        self.inverse = _inverse(laplacian, self.island)

    def _ohms(self, i: int, j: int) -> float | None:
        if i == j:
            return 0.0
        if self.island[i] != self.island[j]:
            return None
        p = self.inverse
        return float(p[i, i] + p[j, j] - 2 * p[i, j])

    def _with(self, i: int, j: int, e: Element) -> float | None:
        """Ohms with 10 Ω put where nobody knows."""
        c, d = self.at[e.a], self.at[e.b]
        here = self._ohms(i, j)
        island = self.island
        if here is not None:
            if island[c] != island[d] or island[c] != island[i]:
                return here
            p = self.inverse
            transfer = float(p[i, c] - p[i, d] - p[j, c] + p[j, d])
            across = self._ohms(c, d) or 0.0
            return here - transfer**2 / (_PROBE_OHM + across)
        for one, other in ((c, d), (d, c)):
            if island[one] == island[i] and island[other] == island[j]:
                return _PROBE_OHM + (self._ohms(i, one) or 0.0) + (self._ohms(other, j) or 0.0)
        return None

    def between(self, a: str, b: str) -> Ohms:
        i, j = self.at[a], self.at[b]
        here = self._ohms(i, j)
        if here is not None and here > self.meter.open_above_ohm:
            here = None
        named = [e for e in self.unknown if self._matters(here, self._with(i, j, e))]
        if not named and len(self.unknown) > 1:
            named = self._together(i, j, here)
        if named:
            return Ohms(None, False, None, None, (), tuple(sorted({e.label for e in named})))
        if here is None:
            return Ohms(None, True, None, None, (), ())
        return self._banded(a, b, i, j)

    def _matters(self, before: float | None, after: float | None) -> bool:
        if after is not None and after > self.meter.open_above_ohm:
            after = None
        if before is None or after is None:
            return before is not after
        return abs(before - after) > _MATTERS * max(before, 1e-9)

    @cached_property
    def _all_probed(self) -> tuple[list[Element], list[int], NDArray[np.float64]]:
        """With 10 Ω in every place that nobody knows: these places, islands and the pseudo-inverse."""
        probed = [e for e in self.unknown if e.lone]
        n = len(self.island)
        laplacian = np.zeros((n, n))
        island = list(range(n))
        for e, ohms in [(e, e.ohms or 1.0) for e in self.known] + [(e, _PROBE_OHM) for e in probed]:
            c, d = self.at[e.a], self.at[e.b]
            if c != d:
                for one, other in ((c, d), (d, c)):
                    laplacian[one, one] += 1 / ohms
                    laplacian[one, other] -= 1 / ohms
                merge(island, c, d)
        island = [top(island, k) for k in range(n)]
        return probed, island, _inverse(laplacian, island)

    def _together(self, i: int, j: int, here: float | None) -> list[Element]:
        """Several that nobody knows, one behind the other: none matters alone, all do together."""
        probed, island, p = self._all_probed
        if island[i] != island[j]:
            return []
        if not self._matters(here, float(p[i, i] + p[j, j] - 2 * p[i, j])):
            return []
        current = {
            e: abs(float(p[self.at[e.a], i] - p[self.at[e.b], i] - p[self.at[e.a], j] + p[self.at[e.b], j]))
            / _PROBE_OHM
            for e in probed
        }
        return [e for e, amps in current.items() if amps > _MATTERS]

    def _banded(self, a: str, b: str, i: int, j: int) -> Ohms:
        p, meter = self.inverse, self.meter
        ohms = spread = 0.0
        through = []
        leaving = np.zeros(len(self.nodes))
        for e in self.known:
            c, d = self.at[e.a], self.at[e.b]
            if c == d or self.island[c] != self.island[i]:
                continue
            r = e.ohms or 1.0
            amps = float(p[c, i] - p[c, j] - p[d, i] + p[d, j]) / r
            if abs(amps) <= _CARRIES:
                continue
            through.append(e.label)
            ohms += amps**2 * r
            spread += amps**2 * r * e.tolerance
            leaving[self.nodes[self.wired[e.a]]] += amps
            leaving[self.nodes[self.wired[e.b]]] -= amps
        leaving[self.nodes[self.wired[a]]] -= 1.0
        leaving[self.nodes[self.wired[b]]] += 1.0
        flows = self._sharing @ leaving if self.closed else np.zeros(0)
        contact = meter.contact_ohm * float(flows @ flows)
        lead, share = (0.0 if meter.zeroed else meter.lead_ohm), meter.percent / 100
        low = max(0.0, (ohms - spread + lead) * (1 - share) - meter.digits_ohm)
        high = (ohms + spread + contact + lead) * (1 + share) + meter.digits_ohm
        return Ohms(ohms, False, low, high, tuple(sorted(set(through))), ())

    @cached_property
    def nodes(self) -> dict[str, int]:
        """Wired groups, between which contacts lie."""
        return {n: k for k, n in enumerate(dict.fromkeys(self.wired.values()))}

    @cached_property
    def _sharing(self) -> NDArray[np.float64]:
        return contact_shares(tuple((self.nodes[a], self.nodes[b]) for a, b in self.closed), len(self.nodes))


def _inverse(laplacian: NDArray[np.float64], island: Sequence[int]) -> NDArray[np.float64]:
    """Pseudo-inverse, island by island: a Laplacian plus 1/n in every place is regular."""
    result = np.zeros_like(laplacian)
    members: dict[int, list[int]] = {}
    for k, head in enumerate(island):
        members.setdefault(head, []).append(k)
    for inside in members.values():
        if len(inside) < 2:
            continue
        at = np.ix_(inside, inside)
        share = 1.0 / len(inside)
        scale = float(np.trace(laplacian[at])) * share
        result[at] = np.linalg.inv(laplacian[at] + scale * share) - share / scale
    return result
