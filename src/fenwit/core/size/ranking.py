"""An order without a score: by the first wish, alike within a band of the best, split by the next (docs/choosing.md)."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Generic, TypeVar

from fenwit.core.size.merits import WISHES, Choosing, Wish

T = TypeVar("T")


@dataclass(frozen=True)
class Split:
    """Why one group stands behind another."""

    wish: Wish
    best: float | None
    """Of the group ahead: the best of it, at which its band is anchored [any]"""
    here: float | None
    """Best of the group behind; None: not known [any]"""
    band: float
    """By which they would have been alike, in the unit of the wish [any]"""


@dataclass(frozen=True)
class Group(Generic[T]):
    """What stays together, in name order."""

    members: tuple[T, ...]
    split: Split | None
    """From the group before it; None for the first [-]"""
    alike: tuple[Wish, ...]
    """Wishes in which its members are alike [-]"""


def ranked(
    items: Sequence[T],
    choosing: Choosing,
    value: Callable[[T, Wish], float | None],
    name: Callable[[T], str],
) -> tuple[Group[T], ...]:
    """Put ways of regulating in order by what is wished.

    Sorted by the first wish; all within its band of the best stay together, the rest repeats that among itself, anchored
    at its own best. Each group is then split by the next wish in the same way. What is not known stands last.

    Parameters
    ----------
    items : sequence
        The rows [-]
    choosing : Choosing
        Wishes by weight, with their bands [-]
    value : callable
        What of a row counts for a wish; None where it is not known [any]
    name : callable
        What a row is called: decides nothing but the order inside a group [-]

    Returns
    -------
    tuple of Group
        Best first [-]
    """
    groups: list[Group[T]] = [Group(tuple(sorted(items, key=name)), None, ())] if items else []
    for wish in choosing.wishes:
        groups = [part for group in groups for part in _split(group, wish, choosing, value)]
    return tuple(groups)


def _split(
    group: Group[T], wish: Wish, choosing: Choosing, value: Callable[[T, Wish], float | None]
) -> list[Group[T]]:
    facts, width = WISHES[wish], choosing.band(wish)
    sign = -1.0 if facts.more_is_better else 1.0
    known = [(sign * v, m) for m in group.members if (v := value(m, wish)) is not None]
    unknown = tuple(m for m in group.members if value(m, wish) is None)
    found: list[Group[T]] = []
    ahead: float | None = None
    band = 0.0
    while known:
        best = min(v for v, _ in known)
        split = (
            group.split
            if not found
            else Split(wish, None if ahead is None else sign * ahead, sign * best, band)
        )
        band = width * abs(best) if facts.relative else width
        together = tuple(m for v, m in known if v <= best + band + 1e-12)
        alike = (*group.alike, wish) if len(together) > 1 else group.alike
        found.append(Group(together, split, alike))
        known = [(v, m) for v, m in known if v > best + band + 1e-12]
        ahead = best
    if unknown:
        last = Split(wish, None if ahead is None else sign * ahead, None, band) if found else group.split
        found.append(Group(unknown, last, group.alike))
    return found
