"""What each lead of a winding tree is: common, taps from fastest to slowest, capacitor; weighed by usual proportions."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

COMMON, CAPACITOR = "common", "capacitor"
_START_RATIO, _START_SPREAD = 1.8, 0.50
"""Start over main ohms: thinner wire and often more turns; factors of 1 to 3.5 are usual"""
_TAPS_RATIO, _TAPS_SPREAD = 0.2, 0.7
"""One tap section over main: each tap takes a tenth or two off the speed"""
_EVEN_SPREAD = 0.7
"""Tap sections are much alike"""
_STAR_PENALTY = 2.0
_COLOUR_WEIGHT = 0.35
_USUAL_COLOURS = {
    "white": COMMON, "black": "high", "blue": "medium", "red": "low", "brown": CAPACITOR, "yellow": "medium",
}  # fmt: skip
_LOG_FROM_COMMON, _LOG_FROM_HIGH, _LOG_ELSEWHERE = math.log(0.72), math.log(0.25), math.log(0.03)
_LOG_CAPACITOR_LEAD, _LOG_NO_CAPACITOR_LEAD = math.log(0.94), math.log(0.06)
_NEGLIGIBLE = 9.0


@dataclass(frozen=True)
class Roles:
    """One way to read a tree."""

    of_node: tuple[str, ...]
    """Role of each node that has a lead [-]"""
    log_weight: float
    reasons: tuple[str, ...]
    from_high: bool = False


def tap_names(count: int) -> tuple[str, ...]:
    """Names of taps from fastest to slowest.

    Parameters
    ----------
    count : int
        How many taps [-]

    Returns
    -------
    tuple of str
        high; high, low; high, medium, low; high, tap-2 … low [-]
    """
    if count <= 1:
        return ("high",) * count
    middle = ("medium",) if count == 3 else tuple(f"tap-{i}" for i in range(2, count))
    return ("high", *middle, "low")


def most_likely_roles(
    leads: int,
    edges: Sequence[tuple[int, int]],
    ohm: Sequence[float],
    names: Sequence[str] = (),
    colours: Sequence[tuple[str, str]] = (),
) -> tuple[Roles, ...]:
    """Ways to read a tree as the windings of a single-phase fan motor, likeliest first.

    Parameters
    ----------
    leads : int
        Nodes with a lead; nodes from there on are buried [-]
    edges : sequence of tuple
        Both ends of every section [-]
    ohm : sequence of float
        Ohms of every section [Ω]
    names : sequence of str
        Name of each lead, for colours [-]
    colours : sequence of tuple
        Lead name and written colour [-]

    Returns
    -------
    tuple of Roles
        Empty where it cannot be read at all [-]
    """
    nodes = max((max(e) for e in edges), default=0) + 1
    near: list[list[tuple[int, float]]] = [[] for _ in range(nodes)]
    for (a, b), value in zip(edges, ohm, strict=True):
        near[a].append((b, value))
        near[b].append((a, value))
    distance, before = zip(*(_from(near, i) for i in range(nodes)), strict=True)
    told = dict(colours)
    found: list[Roles] = []
    for common in range(leads):
        for capacitor in (None, *range(leads)):
            if capacitor == common or (capacitor is not None and len(near[capacitor]) != 1):
                continue
            read = _read(leads, common, capacitor, near, distance, before)
            if read is None:
                continue
            of_node, weight, reasons, from_high = read
            colour = _colour_weight(of_node, names, told)
            if colour:
                reasons.append(
                    "colours agree, which is weak evidence"
                    if colour > 0
                    else "colours speak against it, weakly"
                )
            found.append(Roles(of_node, weight + colour, tuple(reasons), from_high))
    found.sort(key=lambda r: -r.log_weight)
    return tuple(r for r in found if r.log_weight > found[0].log_weight - _NEGLIGIBLE)


def _from(near: Sequence[Sequence[tuple[int, float]]], start: int) -> tuple[list[float], list[int]]:
    """Ohms from one node to all others, and the node before each on the way."""
    distance, before = [math.inf] * len(near), [-1] * len(near)
    distance[start] = 0.0
    waiting = [start]
    while waiting:
        here = waiting.pop()
        for other, value in near[here]:
            if math.isinf(distance[other]):
                distance[other], before[other] = distance[here] + value, here
                waiting.append(other)
    return distance, before


def _read(
    leads: int, common: int, capacitor: int | None, near: Sequence[Sequence[tuple[int, float]]],
    distance: Sequence[Sequence[float]], before: Sequence[Sequence[int]],
) -> tuple[tuple[str, ...], float, list[str], bool] | None:  # fmt: skip
    taps = sorted(
        (i for i in range(leads) if i not in (common, capacitor)), key=lambda i: distance[common][i]
    )
    if not taps:
        return None
    high = taps[0]
    main = distance[common][high]
    weight, reasons, from_high = 0.0, [], False
    if capacitor is None:
        weight += _LOG_NO_CAPACITOR_LEAD
        reasons.append("no lead of its own for the capacitor")
    else:
        weight += _LOG_CAPACITOR_LEAD
        origin = near[capacitor][0][0]
        start = near[capacitor][0][1]
        while (
            origin >= leads
            and before[common][origin] not in (-1, common)
            and origin not in _way(before[common], high)
        ):
            start += distance[origin][before[common][origin]]
            origin = before[common][origin]
        if origin == common or (origin >= leads and origin in _way(before[common], high)):
            weight += _LOG_FROM_COMMON - (1.0 if origin != common else 0.0)
            reasons.append("start winding from common")
        elif origin == high:
            weight += _LOG_FROM_HIGH
            from_high = True
            reasons.append("start winding from the high-speed lead")
        else:
            weight += _LOG_ELSEWHERE
            reasons.append("start winding from a tap, which is rare")
        ratio = start / main
        weight -= 0.5 * (math.log(ratio / _START_RATIO) / _START_SPREAD) ** 2
        reasons.append(f"start over main {ratio:.2g} (usual 1 to 3.5)")
    chain = 0
    for slower, faster in zip(taps[1:], taps, strict=False):
        if faster not in _way(before[common], slower):
            weight -= _STAR_PENALTY
            chain += 1
    if len(taps) > 1:
        share = (distance[common][taps[-1]] - main) / main / (len(taps) - 1)
        weight -= 0.5 * (math.log(max(share, 1e-3) / _TAPS_RATIO) / _TAPS_SPREAD) ** 2
        reasons.append(f"a tap section is {share:.2g} of main (usual 0.07 to 0.5)")
        sections = [distance[a][b] for a, b in zip(taps[1:], taps, strict=False)]
        weight -= (
            0.5 * (math.log(max(sections) / min(sections)) / _EVEN_SPREAD) ** 2 if len(sections) > 1 else 0.0
        )
        reasons.append("taps in a chain, as usual" if chain == 0 else "taps hang side by side, which is rare")
        if any(distance[a][b] > main for a, b in zip(taps[1:], taps, strict=False)):
            weight -= 2.0
    roles = [""] * leads
    roles[common] = COMMON
    if capacitor is not None:
        roles[capacitor] = CAPACITOR
    for tap, name in zip(taps, tap_names(len(taps)), strict=True):
        roles[tap] = name
    return tuple(roles), weight, reasons, from_high


def _way(before: Sequence[int], end: int) -> list[int]:
    """Nodes strictly between the start and ``end``, and ``end`` itself left out."""
    way, here = [], before[end]
    while here != -1:
        way.append(here)
        here = before[here]
    return way[:-1] if way else way


def _colour_weight(of_node: Sequence[str], names: Sequence[str], told: dict[str, str]) -> float:
    weight = 0.0
    for role, name in zip(of_node, names, strict=False):
        usual = _USUAL_COLOURS.get(told.get(name, "").strip().lower())
        if usual:
            weight += _COLOUR_WEIGHT if usual == role else -_COLOUR_WEIGHT
    return weight
