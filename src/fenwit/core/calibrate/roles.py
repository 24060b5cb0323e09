"""What each lead of a winding tree is: common, taps from fastest to slowest, capacitor; weighed by usual proportions."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

COMMON, CAPACITOR, TAP = "common", "capacitor", "tap"
SEEN = (COMMON, CAPACITOR, TAP)
"""What can be seen of a lead: it goes to the supply's common, to the capacitor, to a speed contact [-]"""
_START_RATIO, _START_SPREAD = 1.8, 0.50
"""Start over main ohms: thinner wire and often more turns; factors of 1 to 3.5 are usual"""
_TAPS_RATIO, _TAPS_SPREAD = 0.2, 0.7
"""One tap section over main: each tap takes a tenth or two off the speed"""
_EVEN_SPREAD = 0.7
"""Tap sections are much alike"""
_STAR_PENALTY = 2.0
_COLOUR_WEIGHT = 0.35
_SEEN_WEIGHT = 5.0
"""Wires are followed wrongly now and then [-]"""
_USUAL_COLOURS = {
    "white": COMMON, "black": "high", "blue": "medium", "red": "low", "brown": CAPACITOR, "yellow": "medium",
}  # fmt: skip
_LOG_FROM_COMMON, _LOG_FROM_HIGH, _LOG_ELSEWHERE = math.log(0.72), math.log(0.25), math.log(0.03)
_LOG_CAPACITOR_LEAD, _LOG_NO_CAPACITOR_LEAD = math.log(0.94), math.log(0.06)
_NEGLIGIBLE = 9.0


@dataclass(frozen=True)
class Hints:
    """What else is known of leads: written colours, which say little, and what was seen of them, which says much."""

    colours: tuple[tuple[str, str], ...] = ()
    """Lead and colour [-]"""
    seen: tuple[tuple[str, str], ...] = ()
    """Lead and what it is wired to: `COMMON`, `CAPACITOR` or `TAP` [-]"""


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
    hints: Hints = Hints(),
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
        Name of each lead, for hints [-]
    hints : Hints
        Colours, and what was seen [-]

    Returns
    -------
    tuple of Roles
        Empty where it cannot be read at all [-]
    """
    told, seen = dict(hints.colours), dict(hints.seen)
    shape = _shape(tuple(edges))
    distance = [_distances(steps, ohm) for steps in shape.steps]
    found: list[Roles] = []
    for common in range(leads):
        by_ohms = sorted((i for i in range(leads) if i != common), key=distance[common].__getitem__)
        for capacitor in (None, *(i for i in shape.ends if i < leads and i != common)):
            taps = [i for i in by_ohms if i != capacitor]
            if not taps:
                continue
            weight, reasons, from_high = _read(leads, common, capacitor, taps, distance, shape)
            of_node = _named(leads, common, capacitor, taps)
            colour = _colour_weight(of_node, names, told) if told else 0.0
            looked = _seen_weight(of_node, names, seen) if seen else 0.0
            said = []
            if looked:
                said.append("what was seen agrees" if looked > 0 else "what was seen speaks against it")
            if colour:
                said.append("colours agree (weak)" if colour > 0 else "colours speak against it (weak)")
            if said:
                reasons.append(", ".join(said))
            found.append(Roles(of_node, weight + colour + looked, tuple(reasons), from_high))
    found.sort(key=lambda r: -r.log_weight)
    return tuple(r for r in found if r.log_weight > found[0].log_weight - _NEGLIGIBLE)


@dataclass(frozen=True)
class _Shape:
    """What of a tree does not depend on its ohms."""

    steps: tuple[tuple[tuple[int, int, int], ...], ...]
    """From each node outwards: node, the one before it, the section between [-]"""
    before: tuple[tuple[int, ...], ...]
    """The node before each one on the way from the first index; -1 at the start [-]"""
    between: tuple[tuple[frozenset[int], ...], ...]
    """Nodes strictly between two [-]"""
    ends: tuple[int, ...]
    """Nodes with a single section [-]"""


@lru_cache(maxsize=4096)
def _shape(edges: tuple[tuple[int, int], ...]) -> _Shape:
    nodes = max((max(e) for e in edges), default=0) + 1
    near: list[list[tuple[int, int]]] = [[] for _ in range(nodes)]
    for k, (a, b) in enumerate(edges):
        near[a].append((b, k))
        near[b].append((a, k))
    all_steps, all_before, all_between = [], [], []
    for start in range(nodes):
        steps: list[tuple[int, int, int]] = []
        before = [-1] * nodes
        between: list[frozenset[int]] = [frozenset()] * nodes
        waiting, seen = [start], {start}
        while waiting:
            here = waiting.pop()
            for other, section in near[here]:
                if other in seen:
                    continue
                seen.add(other)
                steps.append((other, here, section))
                before[other] = here
                between[other] = between[here] | ({here} if here != start else frozenset())
                waiting.append(other)
        all_steps.append(tuple(steps))
        all_before.append(tuple(before))
        all_between.append(tuple(between))
    ends = tuple(i for i in range(nodes) if len(near[i]) == 1)
    return _Shape(tuple(all_steps), tuple(all_before), tuple(all_between), ends)


def _distances(steps: Sequence[tuple[int, int, int]], ohm: Sequence[float]) -> list[float]:
    """Ohms from one node to all others."""
    found = [0.0] * (len(steps) + 1)
    for node, before, section in steps:
        found[node] = found[before] + ohm[section]
    return found


def _named(leads: int, common: int, capacitor: int | None, taps: Sequence[int]) -> tuple[str, ...]:
    roles = [""] * leads
    roles[common] = COMMON
    if capacitor is not None:
        roles[capacitor] = CAPACITOR
    for tap, name in zip(taps, tap_names(len(taps)), strict=True):
        roles[tap] = name
    return tuple(roles)


def _read(
    leads: int, common: int, capacitor: int | None, taps: Sequence[int], distance: Sequence[Sequence[float]],
    shape: _Shape,
) -> tuple[float, list[str], bool]:  # fmt: skip
    """Log-weight of one reading of a tree, its reasons, and whether the start winding hangs on high."""
    before, between = shape.before[common], shape.between[common]
    high = taps[0]
    main = distance[common][high]
    weight, from_high = 0.0, False
    layout: list[str] = []
    sizes: list[str] = []
    if capacitor is None:
        weight += _LOG_NO_CAPACITOR_LEAD
        layout.append("no lead of its own for the capacitor")
    else:
        weight += _LOG_CAPACITOR_LEAD
        # Its only section, and on through junctions without a lead that do not lie in the main winding.
        origin = shape.steps[capacitor][0][0]
        while origin >= leads and before[origin] not in (-1, common) and origin not in between[high]:
            origin = before[origin]
        start = distance[capacitor][origin]
        if origin == common or (origin >= leads and origin in between[high]):
            weight += _LOG_FROM_COMMON - (1.0 if origin != common else 0.0)
            layout.append("start winding from common")
        elif origin == high:
            weight += _LOG_FROM_HIGH
            from_high = True
            layout.append("start winding from the high-speed lead")
        else:
            weight += _LOG_ELSEWHERE
            layout.append("start winding from a tap, which is rare")
        ratio = start / main
        weight -= 0.5 * (math.log(ratio / _START_RATIO) / _START_SPREAD) ** 2
        sizes.append(f"start {ratio:.2g} × main" + ("" if 1 <= ratio <= 3.5 else " (1 to 3.5 × is usual)"))
    if len(taps) > 1:
        aside = sum(faster not in between[slower] for slower, faster in zip(taps[1:], taps, strict=False))
        weight -= _STAR_PENALTY * aside
        share = (distance[common][taps[-1]] - main) / main / (len(taps) - 1)
        weight -= 0.5 * (math.log(max(share, 1e-3) / _TAPS_RATIO) / _TAPS_SPREAD) ** 2
        sizes.append(
            f"a tap section {share:.2g} × main"
            + ("" if 0.07 <= share <= 0.5 else " (0.07 to 0.5 × is usual)")
        )
        sections = [distance[a][b] for a, b in zip(taps[1:], taps, strict=False)]
        widest = max(sections)
        if len(sections) > 1:
            weight -= 0.5 * (math.log(widest / min(sections)) / _EVEN_SPREAD) ** 2
        layout.append("taps in a chain" if aside == 0 else "taps side by side, which is rare")
        if widest > main:
            weight -= 2.0
    reasons = [", ".join(layout), ", ".join(sizes)]
    return weight, [r for r in reasons if r], from_high


def _seen_weight(of_node: Sequence[str], names: Sequence[str], seen: dict[str, str]) -> float:
    weight = 0.0
    for role, name in zip(of_node, names, strict=False):
        if name in seen:
            own = role if role in (COMMON, CAPACITOR) else TAP
            weight += 1.0 if own == seen[name] else -_SEEN_WEIGHT
    return weight


def _colour_weight(of_node: Sequence[str], names: Sequence[str], told: dict[str, str]) -> float:
    weight = 0.0
    for role, name in zip(of_node, names, strict=False):
        usual = _USUAL_COLOURS.get(told.get(name, "").strip().lower())
        if usual:
            weight += _COLOUR_WEIGHT if usual == role else -_COLOUR_WEIGHT
    return weight
