"""Points worth adding to the dead tests: those that show a fault which no listed test shows."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise

from fenwit.core.circuit.wiring.dead import DeadTest, Network, Ohms, Stand, dead_tests, elements, standings
from fenwit.core.circuit.wiring.faults import Agreement, Fault, FaultKind, agreement, single_faults
from fenwit.core.circuit.wiring.parts import Wiring
from fenwit.core.errors import InputError
from fenwit.core.work import pause

MOST_MATRICES = 6000
"""Faults times standings of the switches that are looked through"""
Pair = tuple[str, str]


@dataclass(frozen=True)
class Offer:
    """Two points, and the hidden faults they would show in one standing or another."""

    points: Pair
    shows: tuple[Fault, ...]


@dataclass(frozen=True)
class Offers:
    """How many faults the listed tests show, what could be added, and what no ohm with the power off can show."""

    shown: int
    offers: tuple[Offer, ...]
    never: tuple[Fault, ...]


def offers(wiring: Wiring, tests: Sequence[DeadTest] | None = None) -> Offers:
    """Look for points that show what the listed tests leave hidden.

    A fault shows in a test where its reading, in the middle of its band, contradicts what the sound circuit should read.
    For each hidden fault the points beside it are tried; the pair that shows the likeliest of them is taken first, until
    none shows more.

    Parameters
    ----------
    wiring : Wiring
        The circuit [-]
    tests : sequence of DeadTest, optional
        The tests there are; those of the wiring by default [-]

    Returns
    -------
    Offers
        The pair that shows most first [-]

    Raises
    ------
    InputError
        A circuit with more faults and standings than are looked through.
    """
    listed = dead_tests(wiring) if tests is None else tuple(tests)
    faults = [f for f in single_faults(wiring) if f.kind is not FaultKind.NONE]
    stands = standings(wiring)
    if len(faults) * len(stands) > MOST_MATRICES:
        raise InputError(
            "test_points", len(faults) * len(stands), f"up to {MOST_MATRICES} faults in all standings",
            "too many to look through",
        )  # fmt: skip
    sound, shown, showing, never = Network(wiring), 0, dict[Pair, dict[Fault, None]](), list[Fault]()
    nets = {t: joined for _, joined in wiring.nets for t in joined}
    seen: dict[tuple[Pair, Stand], Ohms] = {}

    def expected(pair: Pair, stand: Stand) -> Ohms:
        if (pair, stand) not in seen:
            seen[pair, stand] = sound.between(pair, stand)
        return seen[pair, stand]

    readable = [t for t in listed if _known(t.expected)]
    for fault in faults:
        pause()
        network = Network(wiring, fault.change)
        if any(_shows(t.expected, network.between(t.points, t.stand)) for t in readable):
            shown += 1
            continue
        found = [
            pair
            for pair in _beside(wiring, fault, nets)
            if any(
                _known(e := expected(pair, stand)) and _shows(e, network.between(pair, stand))
                for stand in stands
            )
        ]
        if not found:
            never.append(fault)
        for pair in found:
            showing.setdefault(pair, {})[fault] = None
    return Offers(shown, tuple(_chosen(showing)), tuple(never))


def _known(sound: Ohms) -> bool:
    return sound.is_open or sound.ohms is not None


def _shows(sound: Ohms, faulty: Ohms) -> bool:
    if faulty.is_open:
        return agreement(sound, None) is Agreement.CONTRADICTS
    if faulty.low is None or faulty.high is None:
        return False
    return agreement(sound, (faulty.low + faulty.high) / 2) is Agreement.CONTRADICTS


def _beside(wiring: Wiring, fault: Fault, nets: Mapping[str, Sequence[str]]) -> Iterable[Pair]:
    """Pairs of points near a fault: its places among themselves, and each with the others of its net."""
    places = [t for t in fault.where if t in nets]
    labels = [(e.a, e.b) for e in elements(wiring) if e.label in fault.where]
    labels += [(p.at(a), p.at(b)) for p in wiring.parts if p.id in fault.where for a, b in _links(p.spec)]
    found: list[Pair] = [*labels, *pairwise(places)]
    if len(fault.where) == 2 and len(places) < 2:
        found.append((fault.where[0], fault.where[1]))
    for place in places:
        found += [(place, other) for other in nets[place] if other != place]
    return dict.fromkeys((a, b) if a < b else (b, a) for a, b in found if a != b)


def _links(spec: object) -> Iterable[tuple[str, str]]:
    return getattr(spec, "links", ())


def _chosen(showing: Mapping[Pair, Mapping[Fault, None]]) -> Iterable[Offer]:
    """The fewest pairs, taken greedily; pairs that show alike stay in the order they were found."""
    left = {pair: dict(faults) for pair, faults in showing.items()}
    while left:
        best = max(left, key=lambda pair: sum(f.weight for f in left[pair]))
        shows = tuple(left.pop(best))
        if not shows:
            return
        yield Offer(best, shows)
        for faults in left.values():
            for fault in shows:
                faults.pop(fault, None)
