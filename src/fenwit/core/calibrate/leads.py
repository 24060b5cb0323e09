"""Which lead is which, from ohms between leads (docs/leads.md).

Windings with taps form a tree whose edges are winding sections; ohms between leads are path lengths in it. Every tree
that fits the readings is kept and weighed by how well it fits and by how plausible its roles are; the reading that
would best tell them apart comes with them.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

from fenwit.core import quantity as q
from fenwit.core.calibrate.roles import SEEN, Hints, Roles, most_likely_roles
from fenwit.core.calibrate.trees import (
    MOST_ENUMERATED,
    Trees,
    of_edges,
    pairs,
    sides_of,
    trees,
)
from fenwit.core.circuit.groups import merge, top
from fenwit.core.errors import InputError, check_range
from fenwit.core.memory import remembered

FloatArray = NDArray[np.float64]

MOST_LEADS = 8
OPEN_OHM = 1e6
"""Readings of this much and more count as open [Ω]"""
INSULATION_OHM = 1e6
"""Least ohms from any lead to frame [Ω]"""
SHORT_LIMIT_OHM = 0.5
LEAST_SECTION_OHM = 0.6
"""A winding section has at least this; less is a joint [Ω]"""
FITS_SIGMAS = 3.5
"""A reading that departs by more than this many of its standard uncertainties does not fit [-]"""
_BURIED_PENALTY = 2.5
_SHOWN = 12
_NEXT_WORTH = 0.02


@dataclass(frozen=True)
class OhmReading:
    """Ohms read between two leads; several readings of one pair are averaged."""

    lead_a: str
    lead_b: str
    ohm: float
    """Infinity, or `OPEN_OHM` and more, where the meter says open [Ω]"""

    @property
    def open(self) -> bool:
        """Whether the meter found no way through."""
        return self.ohm >= OPEN_OHM


@dataclass(frozen=True)
class LeadSheet:
    """What was read on a motor's leads."""

    leads: tuple[str, ...]
    readings: tuple[OhmReading, ...] = ()
    to_frame: tuple[tuple[str, float], ...] = ()
    """Lead and ohms to frame [Ω]"""
    colours: tuple[tuple[str, str], ...] = ()
    seen: tuple[tuple[str, str], ...] = ()
    """Lead and what it was seen wired to, one of `roles.SEEN` [-]"""
    probe_ohm: float = 0.0
    """Ohms of the test leads, probes shorted; taken off every reading [Ω]"""
    relative_sigma: float = 0.005
    """Standard uncertainty of a reading, of its value [-]"""
    digits_sigma_ohm: float = 0.1
    """Standard uncertainty of a reading by its last digits [Ω]"""
    short_limit_ohm: float = SHORT_LIMIT_OHM

    def __post_init__(self) -> None:
        if len(self.leads) > MOST_LEADS:
            raise InputError("leads", len(self.leads), f"up to {MOST_LEADS} leads", "too many leads")
        if len(set(self.leads)) != len(self.leads):
            raise InputError("leads", list(self.leads), "each name once", "two leads have the same name")
        for lead, what in self.seen:
            if lead not in self.leads or what not in SEEN:
                raise InputError(
                    "seen", f"{lead} {what}", f"a lead, and one of {', '.join(SEEN)}", "not seen so"
                )
        if any(not name.strip() for name in self.leads):
            raise InputError("leads", list(self.leads), "a letter, number or colour", "a lead has no name")
        check_range("probe_ohm", self.probe_ohm, 0.0, 20.0, "Ω")
        check_range("relative_sigma", self.relative_sigma, 1e-4, 0.2, "")
        check_range("digits_sigma_ohm", self.digits_sigma_ohm, 1e-3, 20.0, "Ω")
        check_range("short_limit_ohm", self.short_limit_ohm, 0.01, 20.0, "Ω")
        for reading in self.readings:
            self._check(reading)
        for name, ohm in self.to_frame:
            if name not in self.leads:
                raise InputError("leads", name, ", ".join(self.leads), "no such lead")
            if not math.isinf(ohm):
                check_range(f"{name} to frame", ohm, 0.0, 1e13, "Ω")

    def _check(self, reading: OhmReading) -> None:
        where = f"{reading.lead_a}–{reading.lead_b}"
        for name in (reading.lead_a, reading.lead_b):
            if name not in self.leads:
                raise InputError(where, name, ", ".join(self.leads) or "a lead of this motor", "no such lead")
        if reading.lead_a == reading.lead_b:
            raise InputError(where, reading.ohm, "two different leads", "both probes on one lead")
        if not math.isinf(reading.ohm):
            check_range(where, reading.ohm, 0.0, 1e13, "Ω")
            if not reading.open:
                check_range(where, reading.ohm, 0.0, 1e5, "Ω", reason="no fan winding has that many ohms")


@dataclass(frozen=True)
class Section:
    """A winding section between two nodes; nodes are named by a lead, or "junction 1" where no lead comes out."""

    start: str
    end: str
    ohm: float
    settled: bool = True
    """False while the readings leave it free [-]"""


@dataclass(frozen=True)
class Residual:
    """A reading beside what the tree gives."""

    lead_a: str
    lead_b: str
    read_ohm: float
    tree_ohm: float
    sigmas: float


@dataclass(frozen=True)
class LeadTree:
    """One way in which the sections may hang together, with the likeliest roles of its leads."""

    likelihood: float
    sections: tuple[Section, ...]
    roles: tuple[tuple[str, str], ...]
    """Lead and role, in the order of the leads [-]"""
    roles_likelihood: float
    """Of these roles, should the tree be right [-]"""
    other_roles: tuple[tuple[str, str], ...]
    """The next likely reading of the same tree; empty where there is none worth naming [-]"""
    other_likelihood: float
    residuals: tuple[Residual, ...]
    reasons: tuple[str, ...]
    from_high: bool = False
    """The start winding hangs on the high-speed lead, not on common [-]"""

    @property
    def worst_residual_ohm(self) -> float:
        """Largest departure of a reading [Ω]"""
        return max((abs(r.read_ohm - r.tree_ohm) for r in self.residuals), default=0.0)

    @property
    def role_of(self) -> Mapping[str, str]:
        """Role of each lead."""
        return dict(self.roles)


@dataclass(frozen=True)
class NextReading:
    """The measurement that tells most."""

    lead_a: str
    lead_b: str
    why: str


@dataclass(frozen=True)
class Contradiction:
    """A reading that the others do not bear out."""

    lead_a: str
    lead_b: str
    text: str


@dataclass(frozen=True)
class LeadFinding:
    """What a lead sheet says."""

    trees: tuple[LeadTree, ...] = ()
    next: NextReading | None = None
    observation: str = ""
    """What to look at where ohms cannot decide [-]"""
    contradictions: tuple[Contradiction, ...] = ()
    joined: tuple[tuple[str, ...], ...] = ()
    """Leads that are one node [-]"""
    insulation_stop: str = ""
    """Why the motor is not to be powered; empty when nothing is wrong [-]"""
    frame_unread: tuple[str, ...] = ()
    unread: tuple[str, ...] = ()
    """Leads that no reading connects with the rest yet [-]"""

    @property
    def best(self) -> LeadTree | None:
        """The likeliest tree."""
        return self.trees[0] if self.trees else None


_OPEN_WORDS = ("open", "none")


def parse_ohms(field: str, text: str) -> tuple[float, ...]:
    """Ohms as typed: one value, several readings of one pair with a space or semicolon between, or "open".

    Parameters
    ----------
    field : str
        What is named in an error [-]
    text : str
        As typed, like 46.0 or 46.0 46.2 or open [-]

    Returns
    -------
    tuple of float
        At least one value; infinite where open [Ω]

    Raises
    ------
    InputError
        Not a resistance, or open and closed at once.
    """
    words = [text] if q.beyond_range(text) else text.replace(";", " ").split()
    try:
        found = tuple(_parse_ohm(field, text if len(words) < 2 else word) for word in words or [text])
    except InputError:
        # A unit behind a space is no second reading.
        found = (_parse_ohm(field, text),)
    if len({math.isinf(v) for v in found}) > 1:
        raise InputError(
            field, text, "like 46.0, or 46.0 46.2, or open", "open and closed at once: read it again"
        )
    return found


def _parse_ohm(field: str, text: str) -> float:
    tidy = text.strip()
    if tidy.lower() in _OPEN_WORDS or q.beyond_range(tidy):
        return math.inf
    if tidy[:1] in ("0", ".") and tidy.rstrip("ΩRrohms ").strip("0") in ("", "."):
        return 0.0
    value = q.parse(field, tidy, q.RESISTANCE)
    return math.inf if value >= 10 * OPEN_OHM else value


def find_leads(sheet: LeadSheet) -> LeadFinding:
    """Say which lead is which, as far as the readings go.

    Parameters
    ----------
    sheet : LeadSheet
        Leads and readings, any subset of them [-]

    Returns
    -------
    LeadFinding
        Trees that fit, likeliest first, with roles; contradictions; the next reading [-]

    Raises
    ------
    InputError
        Readings that are no ohms, or of leads that are not there.
    """
    stop, unread_frame = _insulation(sheet)
    pair_ohm = _averaged(sheet)
    group_of, groups = _joined(sheet, pair_ohm)
    joined = tuple(tuple(g) for g in groups if len(g) > 1)
    between, problems = _between_groups(sheet, pair_ohm, group_of)
    closed = {k: v for k, v in between.items() if not math.isinf(v[0])}
    component = _largest_component(len(groups), closed)
    problems += _open_inside(sheet, groups, between, component)
    found: list[LeadTree] = []
    following: NextReading | None = None
    observation = ""
    if len(component) >= 2:
        found, bad, following, observation = _solve(sheet, groups, component, closed)
        problems += bad
    unread = tuple(groups[g][0] for g in range(len(groups)) if g not in component)
    reach = _reach_unread(sheet, groups, component, between)
    return LeadFinding(
        trees=tuple(found),
        next=reach or following,
        observation=observation,
        contradictions=tuple(problems),
        joined=joined,
        insulation_stop=stop,
        frame_unread=unread_frame,
        unread=unread if found else tuple(sheet.leads) if not pair_ohm else unread,
    )


def _insulation(sheet: LeadSheet) -> tuple[str, tuple[str, ...]]:
    low = [(name, ohm) for name, ohm in sheet.to_frame if ohm < INSULATION_OHM]
    read = {name for name, _ in sheet.to_frame}
    unread = tuple(name for name in sheet.leads if name not in read)
    if not low:
        return "", unread
    words = ", ".join(f"{name} {_ohms(ohm)}" for name, ohm in low)
    return (
        f"Insulation to frame is down ({words}; least is 1 MΩ): this motor is not to be powered. "
        "Dry it or have it rewound, and test again before going on.",
        unread,
    )


def _ohms(value: float) -> str:
    if value >= 1e6:
        return f"{value / 1e6:.3g} MΩ"
    return f"{value / 1e3:.3g} kΩ" if value >= 1e4 else f"{value:.4g} Ω"


def _averaged(sheet: LeadSheet) -> dict[tuple[int, int], tuple[float, int]]:
    """Mean ohms without the probes, and how often it was read, by pair of leads."""
    at = {name: i for i, name in enumerate(sheet.leads)}
    values: dict[tuple[int, int], list[float]] = {}
    for reading in sheet.readings:
        i, j = sorted((at[reading.lead_a], at[reading.lead_b]))
        ohm = math.inf if reading.open else max(0.0, reading.ohm - sheet.probe_ohm)
        values.setdefault((i, j), []).append(ohm)
    return {k: (sum(v) / len(v), len(v)) for k, v in values.items()}


def _joined(
    sheet: LeadSheet, pair_ohm: Mapping[tuple[int, int], tuple[float, int]]
) -> tuple[list[int], list[list[str]]]:
    """Leads under the short limit are one node."""
    parent = list(range(len(sheet.leads)))
    for (i, j), (ohm, _) in pair_ohm.items():
        if ohm < sheet.short_limit_ohm:
            merge(parent, i, j)
    heads = sorted({top(parent, i) for i in range(len(sheet.leads))})
    group_of = [heads.index(top(parent, i)) for i in range(len(sheet.leads))]
    groups: list[list[str]] = [[] for _ in heads]
    for i, name in enumerate(sheet.leads):
        groups[group_of[i]].append(name)
    return group_of, groups


Between = dict[tuple[int, int], tuple[float, float, tuple[str, str]]]
"""By pair of nodes: ohms, standard uncertainty, and the leads it was read on"""


def _sigma(sheet: LeadSheet, ohm: float, count: int) -> float:
    return math.hypot(sheet.relative_sigma * ohm, sheet.digits_sigma_ohm / math.sqrt(count))


def _between_groups(
    sheet: LeadSheet, pair_ohm: Mapping[tuple[int, int], tuple[float, int]], group_of: Sequence[int]
) -> tuple[Between, list[Contradiction]]:
    gathered: dict[tuple[int, int], list[tuple[float, int, tuple[str, str]]]] = {}
    problems: list[Contradiction] = []
    for (i, j), (ohm, count) in pair_ohm.items():
        a, b = sorted((group_of[i], group_of[j]))
        names = (sheet.leads[i], sheet.leads[j])
        if a == b:
            if ohm >= sheet.short_limit_ohm:
                problems.append(
                    Contradiction(
                        *names,
                        f"{names[0]}–{names[1]} reads {_ohms(ohm) if ohm < OPEN_OHM else 'open'}, "
                        "but other readings join them: read it again",
                    )
                )
            continue
        gathered.setdefault((a, b), []).append((ohm, count, names))
    between: Between = {}
    for key, rows in gathered.items():
        closed = [r for r in rows if r[0] < OPEN_OHM]
        if closed and len(closed) < len(rows):
            names = next(r[2] for r in rows if r[0] >= OPEN_OHM)
            problems.append(
                Contradiction(*names, f"{names[0]}–{names[1]} reads open and closed: read it again")
            )
        used = closed or rows
        mean = sum(r[0] for r in used) / len(used)
        spread = (max(r[0] for r in used) - min(r[0] for r in used)) if closed else 0.0
        if closed and spread > 6 * _sigma(sheet, mean, 1) + 2 * sheet.short_limit_ohm:
            problems.append(
                Contradiction(
                    *used[0][2],
                    f"{used[0][2][0]}–{used[0][2][1]} was read as {spread:.3g} Ω apart: read it again",
                )
            )
        count = sum(r[1] for r in used)
        between[key] = (mean, _sigma(sheet, mean, count) if closed else math.inf, used[0][2])
    return between, problems


def _largest_component(count: int, closed: Between) -> list[int]:
    near: dict[int, set[int]] = {i: set() for i in range(count)}
    for a, b in closed:
        near[a].add(b)
        near[b].add(a)
    best: list[int] = []
    seen: set[int] = set()
    for start in range(count):
        if start in seen:
            continue
        reached, waiting = {start}, [start]
        while waiting:
            for other in near[waiting.pop()] - reached:
                reached.add(other)
                waiting.append(other)
        seen |= reached
        if len(reached) > max(1, len(best)):
            best = sorted(reached)
    return best


def _open_inside(
    sheet: LeadSheet, groups: Sequence[Sequence[str]], between: Between, component: Sequence[int]
) -> list[Contradiction]:
    return [
        Contradiction(
            *names,
            f"{names[0]}–{names[1]} reads open, but other readings lead from one to the other: read it again",
        )
        for (a, b), (ohm, _, names) in between.items()
        if math.isinf(ohm) and a in component and b in component
    ]


def _reach_unread(
    sheet: LeadSheet, groups: Sequence[Sequence[str]], component: Sequence[int], between: Between
) -> NextReading | None:
    """A lead that no reading has reached yet comes first."""
    if len(groups) < 2:
        return None
    if not component:
        return NextReading(sheet.leads[0], groups[1][0] if len(groups) > 1 else sheet.leads[-1],
                           "nothing is read yet: keep one probe here and walk the other along the rest")  # fmt: skip
    touched = {g: sum(1 for k in between if g in k) for g in range(len(groups))}
    for g in range(len(groups)):
        if g in component:
            continue
        for other in sorted(component, key=lambda c: -touched[c]):
            if (min(g, other), max(g, other)) not in between:
                return NextReading(
                    groups[other][0],
                    groups[g][0],
                    f"{groups[g][0]} is not joined to the rest by any reading yet",
                )
    return None


@dataclass(frozen=True, eq=False)
class _Fit:
    """All trees of one family fitted to the readings at once."""

    found: Trees
    ohm: FloatArray
    """Shape (trees, sections) [Ω]"""
    departures: FloatArray
    """Read less fitted over its uncertainty, shape (trees, readings) [-]"""
    chi2: FloatArray
    normal: FloatArray
    """Weight of the readings on each pair of sections, shape (trees, sections, sections) [1/Ω²]"""
    scale: float


def _fit(found: Trees, at: NDArray[np.int64], ohm: FloatArray, sigma: FloatArray) -> _Fit:
    """Weighted least squares for each tree, smallest sections where the readings leave a choice."""
    path = found.paths[:, at]
    weighted = path / sigma[:, None]
    across = weighted.transpose(0, 2, 1)
    normal = across @ weighted
    sections = normal.shape[1]
    scale = float(np.trace(normal[0])) / sections if len(normal) else 1.0
    # A ridge far below the readings' weight picks the smallest solution among equals.
    normal += 1e-9 * scale * np.eye(sections)
    solved = np.linalg.solve(normal, across @ (ohm / sigma)[:, None])[..., 0]
    departures = ohm / sigma - (weighted @ solved[..., None])[..., 0]
    return _Fit(
        found, np.asarray(solved, dtype=np.float64), departures, (departures**2).sum(axis=1), normal, scale
    )


def _free(fit: _Fit, tree: int) -> NDArray[np.bool_]:
    """Sections of one tree that only the ridge holds: there the inverse grows like one over the ridge."""
    return np.asarray(np.diag(np.linalg.inv(fit.normal[tree])) * fit.scale > 1e6)


def _families(leads: int) -> list[Trees]:
    most = 1 if leads > 5 else 2 if leads == 5 else max(0, leads - 2)
    return [trees(leads, buried) for buried in range(most + 1)]


def _searched(leads: int, at: NDArray[np.int64], ohm: FloatArray, sigma: FloatArray) -> list[Trees]:
    """For many leads: from the shortest tree through the readings, exchange one section after another.

    A section whose ends were read together is in the shortest tree of the readings, so what can be missing there is a
    section between leads that were not.
    """
    unread = np.ones((leads, leads), dtype=bool)
    for k in at:
        i, j = pairs(leads)[k]
        unread[i, j] = unread[j, i] = False
    edges = _shortest_tree(leads, at, ohm)[None]
    kept, cost = edges, np.zeros(1)
    seen: set[bytes] = set()
    front = edges
    for turn in range(4):
        fresh = {_key(e): e for e in front}
        fresh = {k: e for k, e in fresh.items() if k not in seen}
        if not fresh:
            break
        seen.update(fresh)
        edges = np.stack(list(fresh.values()))
        fit = _fit(of_edges(leads, edges, sides_of(leads, edges)), at, ohm, sigma)
        found = fit.chi2 + 1e3 * (fit.ohm < LEAST_SECTION_OHM).sum(axis=1)
        kept, cost = (
            (edges, found) if turn == 0 else (np.concatenate([kept, edges]), np.concatenate([cost, found]))
        )
        best = np.argsort(cost, kind="stable")[:_KEPT]
        kept, cost = kept[best], cost[best]
        allowed = np.ones_like(unread) if turn == 0 else unread
        front = np.concatenate([_exchanges(leads, e, allowed) for e in kept[:8]])
    buried = np.concatenate([_with_junction(leads, e) for e in kept[:6]])
    return [
        of_edges(leads, kept, sides_of(leads, kept)),
        of_edges(leads, buried, sides_of(leads + 1, buried)),
    ]


_KEPT = 60


def _key(edges: NDArray[np.int64]) -> bytes:
    ends = np.sort(edges, axis=1)
    return np.sort(ends[:, 0] * 64 + ends[:, 1]).tobytes()


def _shortest_tree(leads: int, at: NDArray[np.int64], ohm: FloatArray) -> NDArray[np.int64]:
    every = pairs(leads)
    inside, edges = {0}, []
    weight = {every[k]: float(v) for k, v in zip(at, ohm, strict=True)}
    while len(inside) < leads:
        _, near, far = min(
            (weight.get((min(a, b), max(a, b)), 1e6), a, b)
            for a in inside
            for b in range(leads)
            if b not in inside
        )
        inside.add(far)
        edges.append((near, far))
    return np.array(edges, dtype=np.int64)


def _exchanges(leads: int, edges: NDArray[np.int64], allowed: NDArray[np.bool_]) -> NDArray[np.int64]:
    """Every tree that has one section in another, allowed place."""
    found = [edges]
    for k, side in enumerate(sides_of(leads, edges[None])[0]):
        for a, b in np.argwhere(allowed & side[:, None] & ~side[None]):
            new = edges.copy()
            new[k] = (a, b)
            found.append(new)
    return np.array(found, dtype=np.int64)


def _with_junction(leads: int, edges: NDArray[np.int64]) -> NDArray[np.int64]:
    """Every tree in which two sections that meet at a lead meet before it instead, in a junction without a lead."""
    found = []
    for k, m in combinations(range(len(edges)), 2):
        for at in set(edges[k]) & set(edges[m]):
            far = (edges[k].sum() - at, edges[m].sum() - at)
            rest = np.delete(edges, (k, m), axis=0)
            found.append(np.concatenate([rest, [(at, leads), (leads, far[0]), (leads, far[1])]]))
    return np.array(found, dtype=np.int64)


@dataclass(frozen=True, eq=False)
class _Candidate:
    edges: tuple[tuple[int, int], ...]
    ohm: tuple[float, ...]
    free: tuple[bool, ...]
    departures: FloatArray
    distance: FloatArray
    """Fitted ohms between all nodes, shape (pairs of leads,) [Ω]"""
    pair_free: NDArray[np.bool_]
    log_weight: float
    roles: tuple[Roles, ...]
    buried: int


def _candidates(
    leads: int, at: NDArray[np.int64], ohm: FloatArray, sigma: FloatArray, names: tuple[str, ...],
    hints: Hints, loose: bool,
) -> list[_Candidate]:  # fmt: skip
    families = _families(leads) if leads <= MOST_ENUMERATED else _searched(leads, at, ohm, sigma)
    found: list[tuple[float, int, _Fit]] = []
    for family in families:
        # All pairs read: only one tree can fit, so buried junctions are not looked for beside one that does.
        if found and not loose and len(at) == len(pairs(leads)):
            break
        fit = _fit(family, at, ohm, sigma)
        good = (fit.ohm > LEAST_SECTION_OHM).all(axis=1)
        if not loose:
            good &= (np.abs(fit.departures) <= FITS_SIGMAS).all(axis=1)
        for t in np.flatnonzero(good).tolist():
            found.append((float(-0.5 * fit.chi2[t] - _BURIED_PENALTY * family.buried), t, fit))
    found.sort(key=lambda f: -f[0])
    candidates = []
    for weight, t, fit in found[: 4 if loose else 40]:
        edges = tuple((int(a), int(b)) for a, b in fit.found.edges[t])
        sections = tuple(float(v) for v in fit.ohm[t])
        roles = most_likely_roles(leads, edges, sections, names, hints)
        total = max(r.log_weight for r in roles) if roles else -12.0
        total += math.log(sum(math.exp(r.log_weight - total) for r in roles)) if roles else 0.0
        path, free = fit.found.paths[t], _free(fit, t)
        candidates.append(
            _Candidate(
                edges,
                sections,
                tuple(bool(v) for v in free),
                fit.departures[t],
                path.astype(np.float64) @ fit.ohm[t],
                (path & free).any(axis=1),
                weight + total,
                roles,
                fit.found.buried,
            )
        )
    return sorted(candidates, key=lambda c: -c.log_weight)


def _solve(
    sheet: LeadSheet, groups: Sequence[Sequence[str]], component: Sequence[int], closed: Between
) -> tuple[list[LeadTree], list[Contradiction], NextReading | None, str]:
    place = {g: i for i, g in enumerate(component)}
    leads = len(component)
    every = pairs(leads)
    index = {p: k for k, p in enumerate(every)}
    rows = [
        (index[place[a], place[b]], *v) for (a, b), v in sorted(closed.items()) if a in place and b in place
    ]
    at = np.array([r[0] for r in rows], dtype=np.int64)
    ohm, sigma = np.array([r[1] for r in rows]), np.array([r[2] for r in rows])
    names = tuple(groups[g][0] for g in component)
    hints = Hints(tuple(sheet.colours), tuple(sheet.seen))
    candidates = _candidates(leads, at, ohm, sigma, names, hints, loose=False)
    bad: list[Contradiction] = []
    if not candidates:
        candidates, bad = _without_one(leads, at, ohm, sigma, names, hints, [r[3] for r in rows])
    if not candidates:
        candidates = _candidates(leads, at, ohm, sigma, names, hints, loose=True)
        if candidates:
            worst = int(np.argmax(np.abs(_departures(candidates[0], at, ohm, sigma))))
            a, b = rows[worst][3]
            bad = [
                Contradiction(
                    a, b, f"the readings form no tree of windings; begin with {a}–{b} and read again"
                )
            ]
    if not candidates:
        return [], bad, None, ""
    weights = np.exp(np.array([c.log_weight for c in candidates]) - candidates[0].log_weight)
    weights /= weights.sum()
    shown = [
        _tree(sheet, groups, component, names, c, float(w), at, ohm, sigma, [r[3] for r in rows])
        for c, w in list(zip(candidates, weights, strict=True))[:_SHOWN]
    ]
    following = _next(names, every, at, candidates, weights, sheet)
    observation = "" if following else _look(shown)
    if bad:
        following = NextReading(bad[0].lead_a, bad[0].lead_b, "it contradicts the rest: read it again")
    return shown, bad, following, observation


def _departures(c: _Candidate, at: NDArray[np.int64], ohm: FloatArray, sigma: FloatArray) -> FloatArray:
    return np.asarray((ohm - c.distance[at]) / sigma)


def _without_one(
    leads: int, at: NDArray[np.int64], ohm: FloatArray, sigma: FloatArray, names: tuple[str, ...],
    hints: Hints, read_on: Sequence[tuple[str, str]],
) -> tuple[list[_Candidate], list[Contradiction]]:  # fmt: skip
    """Trees that fit all readings but one, and that one by name."""
    best: list[tuple[float, int, list[_Candidate]]] = []
    for k in range(len(at)):
        rest = np.arange(len(at)) != k
        found = _candidates(leads, at[rest], ohm[rest], sigma[rest], names, hints, loose=False)
        # Without it nothing may be left hanging in the air.
        found = [c for c in found if not c.pair_free[at[k]]]
        if found:
            best.append((found[0].log_weight, k, found))
    if not best:
        return [], []
    best.sort(key=lambda b: -b[0])
    bad = []
    for weight, k, found in best[:3]:
        if weight < best[0][0] - 3:
            break
        implied = float(found[0].distance[at[k]])
        a, b = read_on[k]
        bad.append(
            Contradiction(
                a, b, f"{a}–{b} reads {_ohms(float(ohm[k]))}, the others ask for {_ohms(implied)}"
                f"{_slip(float(ohm[k]), implied)}: read it again",
            )
        )  # fmt: skip
    return best[0][2], bad


def _slip(read: float, implied: float) -> str:
    ratio = read / implied if implied > 0 else 0.0
    for factor, words in ((1000, "kilo-ohms taken for ohms?"), (10, "a slip of the decimal point?")):
        for value in (factor, 1 / factor):
            if abs(ratio / value - 1) < 0.08:
                return f" ({words})"
    return ""


def _tree(
    sheet: LeadSheet, groups: Sequence[Sequence[str]], component: Sequence[int], names: tuple[str, ...], c: _Candidate,
    weight: float, at: NDArray[np.int64], ohm: FloatArray, sigma: FloatArray, read_on: Sequence[tuple[str, str]],
) -> LeadTree:  # fmt: skip
    def node(i: int) -> str:
        return names[i] if i < len(names) else f"junction {i - len(names) + 1}"

    departures = _departures(c, at, ohm, sigma)
    best = c.roles[0] if c.roles else None
    total = sum(math.exp(r.log_weight) for r in c.roles) if c.roles else 1.0
    share = math.exp(best.log_weight) / total if best else 0.0
    second = c.roles[1] if len(c.roles) > 1 and math.exp(c.roles[1].log_weight) / total > 0.02 else None

    def named(roles: Roles | None) -> tuple[tuple[str, str], ...]:
        if roles is None:
            return ()
        by_node = dict(zip(names, roles.of_node, strict=True))
        found = []
        for lead in sheet.leads:
            group = next(g for g in range(len(groups)) if lead in groups[g])
            if group not in component:
                continue
            head = groups[group][0]
            found.append((lead, by_node[head] if lead == head else "joined"))
        return tuple(found)

    reasons = list(best.reasons) if best else ["no way to read these sections as a fan motor's windings"]
    if c.buried:
        reasons.append(
            f"{c.buried} {'junction' if c.buried == 1 else 'junctions'} inside the motor without a lead"
        )
    if any(c.free):
        reasons.append("not all sections are settled by the readings yet")
    return LeadTree(
        likelihood=weight,
        sections=tuple(
            Section(node(a), node(b), value, not free)
            for (a, b), value, free in zip(c.edges, c.ohm, c.free, strict=True)
        ),
        roles=named(best),
        roles_likelihood=share,
        other_roles=named(second),
        other_likelihood=math.exp(second.log_weight) / total if second else 0.0,
        residuals=tuple(
            Residual(a, b, float(o), float(c.distance[k]), float(d))
            for (a, b), o, k, d in zip(read_on, ohm, at, departures, strict=True)
        ),
        reasons=tuple(reasons),
        from_high=bool(best and best.from_high),
    )


def _next(
    names: tuple[str, ...], every: Sequence[tuple[int, int]], at: NDArray[np.int64], candidates: Sequence[_Candidate],
    weights: FloatArray, sheet: LeadSheet,
) -> NextReading | None:  # fmt: skip
    """The unread pair whose ohms differ most between the trees, weighed by their likelihood."""
    read = set(at.tolist())
    distance = np.stack([c.distance for c in candidates])
    free = np.stack([c.pair_free for c in candidates])
    sigma = np.hypot(sheet.relative_sigma * distance, sheet.digits_sigma_ohm)
    apart = np.abs(distance[:, None] - distance[None]) > 4 * np.maximum(sigma[:, None], sigma[None])
    worth = np.einsum("i,j,ijp->p", weights, weights, apart) / 2 + 0.5 * np.einsum("i,ip->p", weights, free)
    worth[sorted(read)] = -1.0
    if not len(worth) or worth.max() < _NEXT_WORTH:
        return None
    k = int(np.argmax(worth))
    a, b = names[every[k][0]], names[every[k][1]]
    if free[0, k]:
        return NextReading(a, b, "a section on this way is still free: this reading settles it")
    first = float(distance[0, k])
    other = next((float(d) for i, d in enumerate(distance[:, k]) if i and apart[0, i, k]), None)
    if other is None:
        return NextReading(a, b, f"{_ohms(first)} is expected; anything else rules the first tree out")
    return NextReading(
        a, b, f"{_ohms(first)} if the first tree is right, {_ohms(other)} if another is: this decides"
    )


def _look(shown: Sequence[LeadTree]) -> str:
    """What to look at when ohms cannot tell which winding is which."""
    best = shown[0]
    if len(shown) > 1 and shown[1].likelihood > 0.1:
        return (
            "every pair is read and two trees still fit: read again those that differ, with the probes zeroed"
        )
    if not best.other_roles:
        return ""
    role, other = dict(best.roles), dict(best.other_roles)
    differing = [lead for lead in role if role[lead] != other[lead]]
    if "capacitor" in (role[lead] for lead in differing):
        lead = next(lead for lead in differing if role[lead] == "capacitor")
        return f"ohms cannot tell more: see whether the capacitor is wired to {lead}"
    return f"ohms cannot tell more: see where {differing[0]} goes on the old switch or terminal block"


@remembered
def remembered_finding(sheet: LeadSheet) -> LeadFinding:
    """`find_leads`, once for each sheet."""
    return find_leads(sheet)


@dataclass(frozen=True)
class TapSections:
    """Section ohms of a tapped winding from its tree."""

    main_ohm: float
    start_ohm: float | None
    taps: tuple[tuple[str, str, float], ...] = field(default=())
    """Role, lead and extra ohms over the fastest tap, fastest first [Ω]"""
    from_high: bool = False


def tap_sections(tree: LeadTree) -> TapSections | None:
    """Main, start and tap ohms of the likeliest roles.

    Parameters
    ----------
    tree : LeadTree
        A tree with roles [-]

    Returns
    -------
    TapSections or None
        None where no common lead or no tap is known [-]
    """
    roles = {role: lead for lead, role in tree.roles if role != "joined"}
    if "common" not in roles or "high" not in roles:
        return None
    graph: dict[str, list[tuple[str, float]]] = {}
    for s in tree.sections:
        graph.setdefault(s.start, []).append((s.end, s.ohm))
        graph.setdefault(s.end, []).append((s.start, s.ohm))

    def distances(start: str) -> dict[str, float]:
        found, waiting = {start: 0.0}, [start]
        while waiting:
            here = waiting.pop()
            for other, ohm in graph.get(here, []):
                if other not in found:
                    found[other] = found[here] + ohm
                    waiting.append(other)
        return found

    from_common = distances(roles["common"])
    main = from_common[roles["high"]]
    taps = sorted(
        (
            (role, lead, from_common[lead] - main)
            for role, lead in roles.items()
            if role not in ("common", "capacitor")
        ),
        key=lambda tap: tap[2],
    )
    start = None
    if "capacitor" in roles:
        origin = roles["high"] if tree.from_high else roles["common"]
        start = distances(origin)[roles["capacitor"]]
    return TapSections(main, start, tuple(taps), tree.from_high)
