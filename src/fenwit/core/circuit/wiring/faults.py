"""Which single fault explains an ohm that contradicts, and which point to read next."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from functools import lru_cache
from itertools import combinations

import numpy as np

from fenwit.core.circuit.wiring.dead import (
    Change,
    Contact,
    DeadTest,
    Network,
    Ohms,
    Stand,
    contacts,
    dead_tests,
    elements,
    standings,
)
from fenwit.core.circuit.wiring.parts import Joined, Kind, OhmReading, Wiring, low_terminals
from fenwit.core.errors import InputError

_SHARE, _TAKEN, _LEAST_BIT, _LISTED = 0.005, 12, 0.05, 10
_UNLIKELY, _CERTAIN, _UNKNOWABLE = 1e-4, 0.99, 0.02


class FaultKind(StrEnum):
    """What can be wrong with one wire or part."""

    NONE = "none"
    SWAPPED = "swapped"
    OPEN_WIRE = "open-wire"
    MISSING_BOND = "missing-bond"
    NOT_MAKING = "not-making"
    WRONG_TERMINAL = "wrong-terminal"
    WELDED = "welded"
    OPEN_SECTION = "open-section"
    OPEN_PART = "open-part"
    SHORTED_SECTION = "shorted-section"
    SHORTED_PART = "shorted-part"
    BRIDGED = "bridged"


WEIGHT = {
    FaultKind.NONE: 5.0, FaultKind.SWAPPED: 1.0, FaultKind.OPEN_WIRE: 1.0, FaultKind.MISSING_BOND: 1.0,
    FaultKind.NOT_MAKING: 1.0, FaultKind.WRONG_TERMINAL: 0.5, FaultKind.WELDED: 0.5, FaultKind.OPEN_SECTION: 0.5,
    FaultKind.OPEN_PART: 0.5, FaultKind.SHORTED_SECTION: 0.3, FaultKind.SHORTED_PART: 0.3, FaultKind.BRIDGED: 0.3,
}  # fmt: skip
_RARE = 0.1
"""Of a swap or bridge between a bond and a lead, or between low voltage and mains"""


class Agreement(StrEnum):
    """What a reading says of what was expected."""

    AGREES = "agrees"
    CONTRADICTS = "contradicts"
    UNKNOWN = "not to be known"


@dataclass(frozen=True)
class Fault:
    """One thing that may be wrong."""

    kind: FaultKind
    where: tuple[str, ...]
    """Terminals, a contact's two, or a part's name"""
    name: str
    weight: float
    change: Change


@dataclass(frozen=True)
class Judged:
    """A reading beside what it should be."""

    reading: OhmReading
    stand: Stand
    expected: Ohms
    verdict: Agreement


@dataclass(frozen=True)
class Suspect:
    """A fault with its probability, and those that no listed test tells apart from it."""

    fault: Fault
    probability: float
    tied: bool


@dataclass(frozen=True)
class NextTest:
    """The test that narrows it most."""

    points: tuple[str, str]
    stand: Stand
    gain_bits: float


@dataclass(frozen=True)
class Diagnosis:
    """Readings, suspects, and what to read next; None where nothing listed tells more."""

    readings: tuple[Judged, ...]
    ranked: tuple[Suspect, ...]
    next: NextTest | None


def single_faults(wiring: Wiring) -> tuple[Fault, ...]:
    """Every single fault of a wiring that an ohmmeter could notice.

    Parameters
    ----------
    wiring : Wiring
        The circuit [-]

    Returns
    -------
    tuple of Fault
        With the sound circuit first [-]
    """
    found = [Fault(FaultKind.NONE, (), "none", WEIGHT[FaultKind.NONE], Change())]
    low = {t for part in wiring.parts for t in low_terminals(part)}
    net = wiring.net_at

    def weight(kind: FaultKind, a: str, b: str) -> float:
        mixed = (a.endswith(".PE") != b.endswith(".PE")) or ((a in low) != (b in low))
        return WEIGHT[kind] * (_RARE if mixed else 1.0)

    for part in wiring.parts:
        if part.kind is Kind.SUPPLY:
            continue  # it is disconnected: the probes are held to the wires that end there
        terminals = [part.at(t) for t in part.terminals]
        wired = [t for t in terminals if t in net]
        free = [t for t in terminals if t not in net]
        for a, b in combinations(wired, 2):
            if net[a] != net[b]:
                found.append(
                    Fault(
                        FaultKind.SWAPPED, (a, b), f"swapped:{a}/{b}", weight(FaultKind.SWAPPED, a, b),
                        Change(moved=((a, net[b]), (b, net[a]))),
                    )
                )  # fmt: skip
        for t in wired:
            bond = t.endswith(".PE")
            kind = FaultKind.MISSING_BOND if bond else FaultKind.OPEN_WIRE
            found.append(Fault(kind, (t,), f"{kind}:{t}", WEIGHT[kind], Change(moved=((t, None),))))
            for u in free:
                found.append(
                    Fault(
                        FaultKind.WRONG_TERMINAL, (t, u), f"wrong-terminal:{t}>{u}", WEIGHT[FaultKind.WRONG_TERMINAL],
                        Change(moved=((t, None), (u, net[t]))),
                    )
                )  # fmt: skip
        calls = part.kind is Kind.THERMOSTAT  # they are off: no ohm shows what is wrong with them
        for contact in dict.fromkeys(c for made in contacts(part) for c in made if not calls):
            where = (contact.a, contact.b)
            found.append(_of_contact(FaultKind.NOT_MAKING, contact, where, Change(never=(contact,))))
            found.append(_of_contact(FaultKind.WELDED, contact, where, Change(always=(contact,))))
        if part.kind in (Kind.STRIP, Kind.RELAY, Kind.SWITCH, Kind.MOTOR):
            for a, b in combinations(wired, 2):
                if net[a] != net[b]:
                    found.append(
                        Fault(
                            FaultKind.BRIDGED, (a, b), f"bridged:{a}/{b}", weight(FaultKind.BRIDGED, a, b),
                            Change(bridged=((a, b),)),
                        )
                    )  # fmt: skip
    labels = list(dict.fromkeys(e.label for e in elements(wiring) if e.ohms is not None))
    labels += [p.id for p in wiring.parts if p.kind is Kind.FUSE]
    for label in labels:
        section = "." in label
        for kind, change in (
            (FaultKind.OPEN_SECTION if section else FaultKind.OPEN_PART, Change(opened=(label,))),
            (FaultKind.SHORTED_SECTION if section else FaultKind.SHORTED_PART, Change(shorted=(label,))),
        ):
            if (
                change.shorted
                and isinstance(wiring.by_id.get(label, wiring.parts[0]).spec, Joined)
                and not section
            ):
                continue
            found.append(Fault(kind, (label,), f"{kind}:{label}", WEIGHT[kind], change))
    for part in wiring.of(Kind.CAPACITOR):
        kind = FaultKind.SHORTED_PART
        found.append(Fault(kind, (part.id,), f"{kind}:{part.id}", WEIGHT[kind], Change(shorted=(part.id,))))
    return tuple(found)


def _of_contact(kind: FaultKind, contact: Contact, where: tuple[str, str], change: Change) -> Fault:
    return Fault(kind, where, f"{kind}:{contact.name}", WEIGHT[kind], change)


def diagnose(
    wiring: Wiring, readings: Sequence[OhmReading], tests: Sequence[DeadTest] | None = None
) -> Diagnosis:
    """Judge readings, rank what explains them all, and find the test worth most.

    Parameters
    ----------
    wiring : Wiring
        The circuit [-]
    readings : sequence of OhmReading
        What was read with the power off [-]
    tests : sequence of DeadTest, optional
        The tests to choose the next from; those of the wiring by default [-]

    Returns
    -------
    Diagnosis
        Ten suspects at most [-]

    Raises
    ------
    InputError
        A reading taken with a switch where it cannot stand.
    """
    listed = dead_tests(wiring) if tests is None else tuple(tests)
    stands = [_stand_of(wiring, r) for r in readings]
    sound = Network(wiring)
    judged = tuple(
        Judged(r, s, (e := sound.between(r.points, s)), agreement(e, r.ohms))
        for r, s in zip(readings, stands, strict=True)
    )
    faults = single_faults(wiring)
    networks = {f.name: Network(wiring, f.change) for f in faults}
    weights = []
    for fault in faults:
        weight = fault.weight
        for reading, stand in zip(readings, stands, strict=True):
            weight *= chance(networks[fault.name].between(reading.points, stand), reading.ohms)
        weights.append(weight)
    total = sum(weights)
    # Alike up to rounding, they stay in the order of the parts.
    order = sorted(range(len(faults)), key=lambda i: -float(f"{weights[i]:.9g}"))
    likely = [i for i in order if weights[i] / total > _SHARE][:_TAKEN]
    done = {(r.points, s) for r, s in zip(readings, stands, strict=True)}
    left = [t for t in listed if (t.points, t.stand) not in done]
    expected = {i: [networks[faults[i].name].between(t.points, t.stand) for t in left] for i in likely}
    tied = _ties(likely, expected)
    ranked = tuple(
        Suspect(faults[i], weights[i] / total, i in tied) for i in order[:_LISTED] if weights[i] > 0
    )
    return Diagnosis(judged, ranked, _next(left, likely, expected, weights))


def _ties(likely: Sequence[int], expected: Mapping[int, Sequence[Ohms]]) -> set[int]:
    tied: set[int] = set()
    for i, j in combinations(likely, 2):
        if all(_same(a, b) for a, b in zip(expected[i], expected[j], strict=True)):
            tied |= {i, j}
    return tied


def _same(a: Ohms, b: Ohms) -> bool:
    if a.ohms is None or b.ohms is None:
        return (a.is_open, a.ohms is None) == (b.is_open, b.ohms is None)
    return a.low is not None and b.low is not None and abs(a.ohms - b.ohms) <= 1e-6 * max(a.ohms, b.ohms, 1.0)


def _stand_of(wiring: Wiring, reading: OhmReading) -> Stand:
    """The standing a reading was taken in: switches not named stand as in the first test."""
    first = standings(wiring)[0].inputs
    named = dict(reading.inputs)
    for name in named:
        if name not in dict(first):
            raise InputError(
                "readings.inputs", name, ", ".join(n for n, _ in first), "does not stand by itself"
            )
    return Stand(tuple((n, named.get(n, at)) for n, at in first), reading.held)


def agreement(expected: Ohms, ohms: float | None) -> Agreement:
    """Whether a reading agrees with what it should be; None is open."""
    if expected.is_open:
        return Agreement.AGREES if ohms is None else Agreement.CONTRADICTS
    if expected.low is None or expected.high is None:
        return Agreement.UNKNOWN
    fits = ohms is not None and expected.low <= ohms <= expected.high
    return Agreement.AGREES if fits else Agreement.CONTRADICTS


def chance(expected: Ohms, ohms: float | None) -> float:
    """How likely a reading is where so much is expected; None is open."""
    if not expected.is_open and expected.ohms is None:
        return _UNKNOWABLE
    if expected.low is None or expected.high is None or ohms is None:
        return _CERTAIN if expected.is_open and ohms is None else _UNLIKELY
    middle, deviation = (expected.low + expected.high) / 2, (expected.high - expected.low) / 4
    cell = 0.1 + 0.01 * ohms
    if deviation <= 0:
        return 1.0 if ohms == middle else _UNLIKELY
    density = math.exp(-0.5 * ((ohms - middle) / deviation) ** 2) / (deviation * math.sqrt(2 * math.pi))
    return min(1.0, max(_UNLIKELY, density * cell))


def _entropy(shares: Iterable[float]) -> float:
    return -sum(p * math.log2(p) for p in shares if p > 0)


def _next(
    left: Sequence[DeadTest],
    likely: Sequence[int],
    expected: Mapping[int, Sequence[Ohms]],
    weights: Sequence[float],
) -> NextTest | None:
    """The test with the largest drop of entropy, each fault's own middle taken as its reading."""
    if len(likely) < 2 or not left:
        return None
    prior = np.array([weights[i] for i in likely])
    prior = prior / prior.sum()
    before, best = _entropy(prior), None
    for k, test in enumerate(left):
        found = [expected[i][k] for i in likely]
        after = 0.0
        for own, share in zip(found, prior, strict=True):
            if own.ohms is None and not own.is_open:
                after += share * before
                continue
            reading = None if own.is_open else ((own.low or 0.0) + (own.high or 0.0)) / 2
            posterior = prior * np.array([_chance(o.ohms, o.is_open, o.low, o.high, reading) for o in found])
            after += share * _entropy(posterior / posterior.sum())
        gain = before - after
        if gain >= _LEAST_BIT and (best is None or gain > best.gain_bits + 1e-9):
            best = NextTest(test.points, test.stand, float(gain))
    return best


@lru_cache(maxsize=100_000)
def _chance(
    ohms: float | None, is_open: bool, low: float | None, high: float | None, reading: float | None
) -> float:
    return chance(Ohms(ohms, is_open, low, high, (), ()), reading)
