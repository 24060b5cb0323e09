"""How capacitors are wired to a switch so that each position makes one pattern.

One pole joins the fused supply with one net at a time. On a one-pole switch every capacitor hangs on the motor, or
(with series pairs) on the far end of another one. On a two-pole switch the second pole either feeds a second
capacitor, or (with series pairs) joins the motor with the far end of a capacitor: then all capacitors meet in one net,
the hub, and one of them leads on from there to the motor.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import combinations

from fenwit.core.errors import InputError, check_range
from fenwit.core.size.switch import FED, MOTOR, Switch

NAMES = ("A", "B", "C")
DIRECT = "direct"
HUB = "hub"
"""Net where the capacitors of a two-pole switch meet"""


@dataclass(frozen=True)
class Wiring:
    """Where each capacitor stands, and what the poles join for each pattern that can be made."""

    far: tuple[str, ...]
    """Net at the supply's end of each capacitor, A first"""
    near: tuple[str, ...]
    """Net at the motor's end of each capacitor"""
    second_pole: str
    """Net at the second pole's common: the fused supply or the motor; empty with one pole"""
    joins: tuple[tuple[str, str, str], ...]
    """Pattern, net joined by pole 1, net joined by pole 2 (empty: none)"""

    @property
    def patterns(self) -> tuple[str, ...]:
        """The patterns this wiring makes."""
        return tuple(name for name, _, _ in self.joins)

    def throws(self, pattern: str) -> tuple[str, str]:
        """Nets that pole 1 and pole 2 join for a pattern."""
        return next((one, two) for name, one, two in self.joins if name == pattern)


def series(a: str, b: str) -> str:
    """Name of two capacitors in series."""
    return "–".join(sorted((a, b)))


def parallel(a: str, b: str) -> str:
    """Name of two capacitors in parallel."""
    return "∥".join(sorted((a, b)))


def members(pattern: str) -> tuple[str, ...]:
    """The capacitors a pattern uses; none for the direct one."""
    return () if pattern == DIRECT else tuple(c for c in pattern if c in NAMES)


@lru_cache(maxsize=64)
def wirings(count: int, poles: int, series_pairs: bool) -> tuple[Wiring, ...]:
    """All ways to wire a number of capacitors to a switch, simplest first.

    Parameters
    ----------
    count : int
        Capacitors, 1 to 3 [-]
    poles : int
        Poles of the switch, 1 or 2 [-]
    series_pairs : bool
        Whether two capacitors may stand in series [-]

    Returns
    -------
    tuple of Wiring
        The wirings; no pole ever joins two nets at once [-]

    Raises
    ------
    InputError
        Number of capacitors or poles out of range.
    """
    check_range("capacitors", count, 1, len(NAMES), "")
    check_range("poles", poles, 1, 2, "")
    names = NAMES[:count]
    found = [_star(names, poles)]
    if series_pairs and count > 1:
        found += _chains(names) if poles == 1 else [_hub(names, base) for base in names]
    return tuple(found)


def _star(names: tuple[str, ...], poles: int) -> Wiring:
    joins = [(n, n.lower(), "") for n in names] + [(DIRECT, MOTOR, "")]
    if poles == 2:
        joins += [(parallel(a, b), a.lower(), b.lower()) for a, b in combinations(names, 2)]
    return Wiring(
        tuple(n.lower() for n in names), (MOTOR,) * len(names), FED if poles == 2 else "", tuple(joins)
    )


def _chains(names: tuple[str, ...]) -> list[Wiring]:
    """One capacitor or two hang on the far end of another, which leads to the motor."""
    found = []
    for base in names:
        others = [n for n in names if n != base]
        for count in range(1, len(others) + 1):
            for hung in combinations(others, count):
                near = tuple(base.lower() if n in hung else MOTOR for n in names)
                joins = [(series(base, n) if n in hung else n, n.lower(), "") for n in names]
                found.append(Wiring(tuple(n.lower() for n in names), near, "", (*joins, (DIRECT, MOTOR, ""))))
    return found


def _hub(names: tuple[str, ...], base: str) -> Wiring:
    far = tuple(HUB if n == base else n.lower() for n in names)
    near = tuple(MOTOR if n == base else HUB for n in names)
    joins = [(base, HUB, ""), (DIRECT, MOTOR, "")]
    for n in names:
        if n != base:
            # Alone, with the second pole bridging the base; in series with it; or side by side with it.
            joins += [
                (n, n.lower(), HUB),
                (series(n, base), n.lower(), ""),
                (parallel(n, base), HUB, n.lower()),
            ]
    return Wiring(far, near, MOTOR, tuple(joins))


def wiring_for(patterns: Sequence[str], count: int, switch: Switch) -> Wiring:
    """The simplest wiring that makes all wanted patterns on a switch.

    Parameters
    ----------
    patterns : sequence of str
        What each position joins, slowest first [-]
    count : int
        Number of capacitors [-]
    switch : Switch
        The switch [-]

    Returns
    -------
    Wiring
        The wiring [-]

    Raises
    ------
    InputError
        More patterns than positions, an unknown pattern, or patterns no wiring makes together.
    """
    if not 1 <= len(patterns) <= switch.positions:
        raise InputError(
            "patterns",
            list(patterns),
            f"1 to {switch.positions} positions",
            f"the switch has {switch.positions} positions",
        )
    ways = wirings(count, switch.poles, switch.series_pairs)
    known = {p for way in ways for p in way.patterns}
    for pattern in patterns:
        if pattern not in known:
            raise InputError(
                "patterns",
                pattern,
                ", ".join(sorted(known)),
                "no such pattern with this switch and these capacitors",
            )
    for way in ways:
        if set(patterns) <= set(way.patterns):
            return way
    raise InputError(
        "patterns",
        list(patterns),
        "patterns that one wiring makes",
        "this switch cannot make all of these with the same wiring",
    )
