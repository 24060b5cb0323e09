"""All trees that winding sections may form: which sections lie between which leads, for every tree at once.

A tree on N labelled nodes is its Prüfer sequence (Prüfer 1918); all of them are decoded together.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

Bools = NDArray[np.bool_]
Ints = NDArray[np.int64]

MOST_ENUMERATED = 6
"""More leads than this are searched by exchanging sections, not by listing every tree [-]"""


@dataclass(frozen=True, eq=False)
class Trees:
    """Several trees over the same leads; nodes from ``leads`` on are buried junctions."""

    leads: int
    edges: Ints
    """Ends of every section, shape (trees, sections, 2) [-]"""
    paths: Bools
    """Whether a section lies between a pair of leads, shape (trees, pairs, sections) [-]"""

    @property
    def count(self) -> int:
        """How many trees [-]"""
        return int(self.edges.shape[0])

    @property
    def buried(self) -> int:
        """Junctions without a lead [-]"""
        return int(self.edges.shape[1]) + 1 - self.leads


def pairs(leads: int) -> tuple[tuple[int, int], ...]:
    """All pairs of leads in the order of `Trees.paths`, first lead first."""
    return tuple(combinations(range(leads), 2))


@lru_cache(maxsize=16)
def trees(leads: int, buried: int = 0) -> Trees:
    """Every tree on some leads with so many buried junctions, each of which joins at least three sections.

    Parameters
    ----------
    leads : int
        Number of leads, 2 to 6 [-]
    buried : int
        Number of junctions without a lead [-]

    Returns
    -------
    Trees
        Every tree once [-]
    """
    nodes = leads + buried
    if nodes == 2:
        sequences = np.zeros((1, 0), dtype=np.int64)
    else:
        grid = np.indices((nodes,) * (nodes - 2), dtype=np.int64)
        sequences = grid.reshape(nodes - 2, -1).T
    # A node stands in the sequence once less than it has sections.
    for junction in range(leads, nodes):
        sequences = sequences[(sequences == junction).sum(axis=1) >= 2]
    found = of_edges(leads, *_decode(nodes, sequences))
    if buried < 2:
        return found
    # Buried junctions have no names: trees that differ only in their numbering are one.
    _, first = np.unique(_signature(found), axis=0, return_index=True)
    return Trees(leads, found.edges[first], found.paths[first])


def _decode(nodes: int, sequences: Ints) -> tuple[Ints, Bools]:
    """Edges, and for each edge the nodes on one side of it: (trees, edges, 2) and (trees, edges, nodes)."""
    count = len(sequences)
    row = np.arange(count)
    degree = np.ones((count, nodes), dtype=np.int64)
    for column in sequences.T:
        degree[row, column] += 1
    behind = np.broadcast_to(np.eye(nodes, dtype=bool), (count, nodes, nodes)).copy()
    edges = np.zeros((count, nodes - 1, 2), dtype=np.int64)
    sides = np.zeros((count, nodes - 1, nodes), dtype=bool)
    for i, joined in enumerate(sequences.T):
        leaf = np.argmax(degree == 1, axis=1)
        edges[:, i, 0], edges[:, i, 1] = leaf, joined
        sides[:, i] = behind[row, leaf]
        behind[row, joined] |= behind[row, leaf]
        degree[row, leaf] = 0
        degree[row, joined] -= 1
    left = degree == 1
    first = np.argmax(left, axis=1)
    left[row, first] = False
    edges[:, -1, 0], edges[:, -1, 1] = first, np.argmax(left, axis=1)
    sides[:, -1] = behind[row, first]
    return edges, sides


def of_edges(leads: int, edges: Ints, sides: Bools) -> Trees:
    """Trees from their sections and the nodes on one side of each."""
    if leads < 2:
        return Trees(leads, edges, np.zeros((len(edges), 0, edges.shape[1]), dtype=bool))
    i, j = np.array(pairs(leads)).T
    paths = sides[:, :, i] ^ sides[:, :, j]
    return Trees(leads, edges, np.ascontiguousarray(paths.transpose(0, 2, 1)))


def sides_of(nodes: int, edges: Ints) -> Bools:
    """For each edge of each tree the nodes on the side of its first end, by removing it and spreading.

    Parameters
    ----------
    nodes : int
        Nodes of each tree, buried ones included [-]
    edges : array
        Ends of every section, shape (trees, sections, 2) [-]

    Returns
    -------
    array
        Shape (trees, sections, nodes) [-]
    """
    count, sections = edges.shape[:2]
    row = np.arange(count)[:, None]
    near = np.zeros((count, nodes, nodes), dtype=np.float32)
    near[row, edges[..., 0], edges[..., 1]] = near[row, edges[..., 1], edges[..., 0]] = 1
    near += np.eye(nodes, dtype=np.float32)
    cut = np.repeat(near[:, None], sections, axis=1)
    section = np.arange(sections)[None]
    cut[row, section, edges[..., 0], edges[..., 1]] = 0
    cut[row, section, edges[..., 1], edges[..., 0]] = 0
    # Squaring doubles how far one sees; three times reach eight sections.
    for _ in range(3):
        cut = np.minimum(cut @ cut, 1)
    return np.asarray(cut[row, section, edges[..., 0]] > 0)


def _signature(found: Trees) -> Bools:
    """What tells trees apart whatever their buried junctions are called: the splits of the leads, sorted."""
    packed = np.packbits(found.paths, axis=1).astype(np.int64)
    weight = 256 ** np.arange(packed.shape[1])
    return np.sort(np.einsum("tbs,b->ts", packed, weight), axis=1)
