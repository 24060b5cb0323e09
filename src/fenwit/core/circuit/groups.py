"""Who is joined to whom, and how current divides on what joins them: the ground under every circuit here."""

from __future__ import annotations

from collections.abc import Hashable
from functools import lru_cache
from typing import Generic, TypeVar

import numpy as np
from numpy.typing import NDArray

K = TypeVar("K", bound=Hashable)


class Groups(Generic[K]):
    """Union–find over nets, terminals or whatever else is joined."""

    def __init__(self, start: Groups[K] | None = None) -> None:
        self._parent: dict[K, K] = dict(start._parent) if start else {}

    def root(self, net: K) -> K:
        """The one that stands for all that are joined to this."""
        parent = self._parent
        parent.setdefault(net, net)
        while parent[net] != net:
            parent[net] = parent[parent[net]]
            net = parent[net]
        return net

    def join(self, a: K, b: K) -> None:
        """Make one of two."""
        self._parent[self.root(a)] = self.root(b)


def top(parent: list[int], i: int) -> int:
    """The number that stands for a group, where members are numbered from 0: the quick form for the inmost loops."""
    while parent[i] != i:
        parent[i] = parent[parent[i]]
        i = parent[i]
    return i


def merge(parent: list[int], a: int, b: int) -> None:
    """Make one group of two; the smaller number stands for both."""
    one, other = top(parent, a), top(parent, b)
    if one != other:
        parent[max(one, other)] = min(one, other)


@lru_cache(maxsize=512)
def contact_shares(ends: tuple[tuple[int, int], ...], nodes: int) -> NDArray[np.float64]:
    """How current that leaves nodes divides on closed contacts: the smallest set that meets Kirchhoff's law.

    Parameters
    ----------
    ends : tuple of (int, int)
        The two nodes of each contact [-]
    nodes : int
        How many nodes there are [-]

    Returns
    -------
    array, shape (contacts, nodes)
        Pseudo-inverse of the incidence matrix: times what leaves each node, the current of each contact [-]
    """
    incidence = np.zeros((nodes, len(ends)))
    for column, (a, b) in enumerate(ends):
        incidence[a, column] += 1.0
        incidence[b, column] -= 1.0
    return np.asarray(np.linalg.pinv(incidence))
