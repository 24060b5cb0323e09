"""What Identify shows: kinds by evidence, leads with their tree, taps, and which methods suit."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from fenwit.core import quantity as q
from fenwit.core.calibrate.leads import LeadFinding, LeadTree, remembered_finding
from fenwit.core.calibrate.roles import CAPACITOR, COMMON
from fenwit.core.caution import Stage
from fenwit.core.frame.asked import machine_in
from fenwit.core.frame.spot import Part, Spot
from fenwit.core.frame.suits import Suited, suited
from fenwit.core.job.findings import Findings, lead_sheet
from fenwit.core.job.state import JobState
from fenwit.core.job.taps import TapSheet, tap_sheet
from fenwit.core.motor.evidence import OBSERVATIONS, Word, speaks, weigh
from fenwit.core.motor.kinds import KINDS, MotorKind

_LEAST_SHOWN = 0.01
_MOST_KINDS = 5


@dataclass(frozen=True)
class ObservationShown:
    """One observation with what it would say."""

    key: str
    text: str
    where: str
    so: bool | None
    speaks_for: str
    speaks_against: str
    weak: str


@dataclass(frozen=True)
class KindShown:
    """One kind with what speaks for and against it."""

    kind: MotorKind
    name: str
    likelihood: float
    share_text: str
    speaks_for: tuple[str, ...]
    speaks_against: tuple[str, ...]


@dataclass(frozen=True)
class EvidenceShown:
    """Kinds ranked, and what to look at next."""

    observations: tuple[ObservationShown, ...]
    kinds: tuple[KindShown, ...]
    next_key: str
    next_text: str
    next_spot: Spot | None
    """Where it is answered [-]"""
    overruled: str
    """What the evidence says against the chosen kind; empty where they agree [-]"""


@dataclass(frozen=True)
class NodeShown:
    """A node of the drawn tree; x and y in units of the drawing's own grid."""

    name: str
    role: str
    x: float
    y: float
    buried: bool


@dataclass(frozen=True)
class SectionShown:
    """A section of the drawn tree."""

    start: str
    end: str
    ohm_text: str
    residual_text: str
    settled: bool
    kind: str
    """main, start or tap; empty where no roles are known [-]"""


@dataclass(frozen=True)
class RoleShown:
    """A lead with its role and how sure that is."""

    lead: str
    role: str
    share_text: str


@dataclass(frozen=True)
class TreeShown:
    """One way in which the sections may hang together."""

    likelihood: float
    share_text: str
    nodes: tuple[NodeShown, ...]
    sections: tuple[SectionShown, ...]
    roles_text: str
    other_text: str
    residual_text: str
    reasons: tuple[str, ...]


@dataclass(frozen=True)
class CellShown:
    """One pair of leads on the sheet."""

    quantity: str
    row: str
    column: str
    expected_text: str
    """What the likeliest tree gives where it was not read [-]"""
    residual_text: str
    bad: bool
    wanted: bool
    """The reading that tells most"""


@dataclass(frozen=True)
class LeadsShown:
    """The lead sheet with what it says."""

    cells: tuple[CellShown, ...]
    trees: tuple[TreeShown, ...]
    roles: tuple[RoleShown, ...]
    """Of the likeliest tree [-]"""
    next_text: str
    next_spot: Spot | None
    contradictions: tuple[str, ...]
    joined_text: str
    stop: str
    frame_text: str


@dataclass(frozen=True)
class IdentifyShown:
    """Everything Identify shows beside the nameplate."""

    evidence: EvidenceShown
    leads: LeadsShown
    taps: TapSheet | None
    suited: tuple[Suited, ...]
    waits: str
    """What tap speeds wait for; empty when they are shown or do not apply [-]"""


def identify(state: JobState) -> IdentifyShown:
    """Compute what Identify shows.

    Parameters
    ----------
    state : JobState
        The job [-]

    Returns
    -------
    IdentifyShown
        Evidence, leads, taps, methods [-]

    Raises
    ------
    InputError
        Values that contradict each other.
    """
    fan = machine_in(state)
    taps = tap_sheet(state, fan.belief, fan.supply) if fan else None
    leads = _leads(state)
    waits = ""
    if taps is None and len([r for r in leads.roles if r.role not in (COMMON, CAPACITOR, "joined")]) > 1:
        waits = (
            "tap speeds wait until the leads are found beyond doubt"
            if fan
            else "tap speeds need the motor kind, its nameplate and full-speed rpm on the fastest tap"
        )
    return IdentifyShown(evidence(state), leads, taps, suited(state, fan), waits)


def evidence(state: JobState) -> EvidenceShown:
    """Rank the kinds by what was ticked, the lead sheet included.

    Parameters
    ----------
    state : JobState
        The job [-]

    Returns
    -------
    EvidenceShown
        Observations, kinds, what to look at next [-]

    Raises
    ------
    InputError
        An observation nobody knows.
    """
    observed = observed_of(state)
    found = weigh(observed)
    shown = [r for r in found.ranks if r.likelihood >= _LEAST_SHOWN][:_MOST_KINDS]
    next_ = found.separating
    overruled = ""
    first = found.ranks[0]
    if state.kind is not None and observed and first.kind is not state.kind:
        mine = next(r for r in found.ranks if r.kind is state.kind)
        if first.likelihood > 1.5 * mine.likelihood:
            overruled = (
                f"what was seen speaks for {KINDS[first.kind].name} ({first.likelihood:.0%}) rather than "
                f"{KINDS[state.kind].name} ({_share(mine.likelihood)})"
            )
    return EvidenceShown(
        observations=tuple(_observation(o.key, observed.get(o.key)) for o in OBSERVATIONS),
        kinds=tuple(
            KindShown(
                r.kind,
                KINDS[r.kind].name,
                r.likelihood,
                _share(r.likelihood),
                tuple(_word(w) for w in r.speaks_for),
                tuple(_word(w) for w in r.speaks_against),
            )
            for r in shown
        ),
        next_key=next_.key if next_ else "",
        next_text=f"{next_.text}? {next_.where[0].upper()}{next_.where[1:]}. If so, rather "
        f"{KINDS[next_.if_so].name}; if not, rather {KINDS[next_.if_not].name}."
        if next_ else "",
        next_spot=Spot(Stage.IDENTIFY, f"look:{next_.key}", Part.EVIDENCE) if next_ else None,
        overruled=overruled,
    )  # fmt: skip


def observed_of(state: JobState) -> dict[str, bool]:
    """What was ticked, and what the lead sheet and the nameplate say of themselves; a tick goes first.

    Parameters
    ----------
    state : JobState
        The job [-]

    Returns
    -------
    dict
        Observation and whether it is so [-]
    """
    observed: dict[str, bool] = {}
    count = len(state.findings.leads)
    if count:
        observed["many-leads"] = count >= 4
        observed["two-leads"] = count == 2
    best = remembered_finding(lead_sheet(state.findings, dict(state.readings))).best if count >= 3 else None
    if best is not None and best.likelihood > 0.8 and count >= 4 and all(s.settled for s in best.sections):
        observed["tapped-ohms"] = best.roles_likelihood > 0.5
    plate, read = state.nameplate, dict(state.readings)
    if plate.rated_speed_rpm and plate.rated_speed_rpm > _FAST_RPM:
        observed["fast"] = True
    if plate.run_capacitance_f:
        observed["run-capacitor"] = True
    main, auxiliary = read.get("main_resistance_ohm"), read.get("auxiliary_resistance_ohm")
    if main and auxiliary and auxiliary > _CLEARLY_MORE * main:
        observed["main-and-start-ohms"] = True
    return {**observed, **state.findings.observed}


def _share(likelihood: float) -> str:
    return "under 1 %" if likelihood < 0.01 else f"{100 * min(likelihood, 0.99):.0f} %"


def _word(word: Word) -> str:
    text = word.text if word.so else f"not: {word.text}"
    return f"{text} (weak: {word.weak})" if word.weak else text


_FAST_RPM, _CLEARLY_MORE = 3600.0, 1.5
_DC = frozenset((MotorKind.DC_2_WIRE, MotorKind.DC_3_WIRE, MotorKind.DC_4_WIRE, MotorKind.DC_BRUSHED))


def _listed(kinds: Sequence[MotorKind], most: int) -> str:
    """Kinds in a row, those of DC in one where all are meant."""
    any_dc = set(kinds) >= _DC
    names = [KINDS[k].short for k in kinds if not (any_dc and k in _DC)] + ["any DC"] * any_dc
    return ", ".join(names[:most]) + (f" and {len(names) - most} more" if len(names) > most else "")


def _observation(key: str, so: bool | None) -> ObservationShown:
    o = next(o for o in OBSERVATIONS if o.key == key)
    likely, against = speaks(key)
    return ObservationShown(
        key,
        o.text,
        o.where,
        so,
        _listed(likely, 4),
        _listed(against, 3),
        o.weak,
    )


def _leads(state: JobState) -> LeadsShown:
    findings = state.findings
    sheet = lead_sheet(findings, dict(state.readings))
    found = remembered_finding(sheet) if sheet.leads else LeadFinding()
    bad = {frozenset((c.lead_a, c.lead_b)) for c in found.contradictions}
    best = found.best
    sure = best.likelihood * best.roles_likelihood if best else 0.0
    unsettled = best is not None and any(not s.settled for s in best.sections)
    return LeadsShown(
        cells=tuple(_cells(findings, found, bad)),
        trees=tuple(_tree(t) for t in found.trees[:4]),
        roles=tuple(
            RoleShown(lead, role, _share(sure) if not unsettled else "open") for lead, role in best.roles
        )
        if best
        else (),
        next_text=_next_text(found),
        next_spot=_next_spot(findings, found),
        contradictions=tuple(c.text for c in found.contradictions),
        joined_text="; ".join(
            f"{' and '.join(g)} are one node: joined inside, or one wire" for g in found.joined
        ),
        stop=found.insulation_stop,
        frame_text=f"still to be read to frame: {', '.join(found.frame_unread)}"
        if found.frame_unread
        else "",
    )


def _next_text(found: LeadFinding) -> str:
    if found.next:
        return f"Next: {found.next.lead_a} to {found.next.lead_b}; {found.next.why}."
    return f"{found.observation[0].upper()}{found.observation[1:]}." if found.observation else ""


def _next_spot(findings: Findings, found: LeadFinding) -> Spot | None:
    if found.next is None:
        return None
    keys = {lead.name.strip(): lead.key for lead in findings.leads}
    names = [lead.name.strip() for lead in findings.leads]
    a, b = sorted((found.next.lead_a, found.next.lead_b), key=names.index)
    return Spot(Stage.IDENTIFY, f"reading:lead_ohm:{keys[a]}:{keys[b]}", Part.LEADS)


def _cells(findings: Findings, found: LeadFinding, bad: set[frozenset[str]]) -> list[CellShown]:
    """The pairs in the order a person would probe: one probe stays, the other walks on."""
    leads = findings.leads
    residual = {frozenset((r.lead_a, r.lead_b)): r for r in (found.best.residuals if found.best else ())}
    away = _distances(found.best) if found.best else {}
    wanted = frozenset((found.next.lead_a, found.next.lead_b)) if found.next else frozenset()
    cells = []
    for i, a in enumerate(leads):
        for b in leads[i + 1 :]:
            pair = frozenset((a.name.strip(), b.name.strip()))
            r = residual.get(pair)
            expected = away.get(pair)
            cells.append(
                CellShown(
                    f"lead_ohm:{a.key}:{b.key}",
                    a.key,
                    b.key,
                    "" if expected is None or r is not None else _ohm(expected),
                    "" if r is None else _gap(r.read_ohm - r.tree_ohm) or "fits",
                    pair in bad,
                    pair == wanted,
                )
            )  # fmt: skip
    return cells


def _gap(ohm: float) -> str:
    return f"{q.signed(ohm, 1)}" if abs(ohm) >= 0.05 else ""


def _ohm(value: float) -> str:
    return f"{value:.1f}" if value < 100 else f"{value:.0f}"


def _graph(tree: LeadTree) -> dict[str, list[tuple[str, float]]]:
    graph: dict[str, list[tuple[str, float]]] = {}
    for s in tree.sections:
        graph.setdefault(s.start, []).append((s.end, s.ohm))
        graph.setdefault(s.end, []).append((s.start, s.ohm))
    return graph


def _distances(tree: LeadTree) -> dict[frozenset[str], float]:
    """Ohms between all leads that have a node of their own, where every section on the way is settled."""
    free = {frozenset((s.start, s.end)) for s in tree.sections if not s.settled}
    graph = _graph(tree)
    found: dict[frozenset[str], float] = {}
    for start in graph:
        reached: dict[str, float] = {start: 0.0}
        waiting = [start]
        while waiting:
            here = waiting.pop()
            for other, ohm in graph[here]:
                if other not in reached and frozenset((here, other)) not in free:
                    reached[other] = reached[here] + ohm
                    waiting.append(other)
        found |= {frozenset((start, other)): ohm for other, ohm in reached.items() if other != start}
    return found


def _tree(tree: LeadTree) -> TreeShown:
    roles = {lead: role for lead, role in tree.roles if role != "joined"}
    places = _places(tree, roles)
    residuals = {frozenset((r.lead_a, r.lead_b)): r for r in tree.residuals}
    kinds = _section_kinds(tree, roles)
    sections = []
    for s in tree.sections:
        r = residuals.get(frozenset((s.start, s.end)))
        gap = _gap(r.read_ohm - r.tree_ohm) if r is not None else ""
        sections.append(
            SectionShown(
                s.start, s.end, f"{_ohm(s.ohm)} Ω" if s.settled else "?", gap, s.settled, kinds[s.start, s.end]
            )
        )  # fmt: skip
    other = ""
    if tree.other_roles:
        mine = dict(tree.roles)
        other = f"{tree.other_likelihood:.0%}: " + ", ".join(
            f"{lead} {role}" for lead, role in tree.other_roles if mine.get(lead) != role
        )
    return TreeShown(
        tree.likelihood,
        _share(tree.likelihood),
        tuple(
            NodeShown(name, roles.get(name, ""), x, y, name not in dict(tree.roles))
            for name, (x, y) in places.items()
        ),
        tuple(sections),
        ", ".join(f"{lead} {role}" for lead, role in tree.roles),
        other,
        f"ohms fit within {max(0.1, tree.worst_residual_ohm):.1f} Ω",
        tree.reasons,
    )


def _section_kinds(tree: LeadTree, roles: Mapping[str, str]) -> dict[tuple[str, str], str]:
    lead_of = {role: lead for lead, role in roles.items()}
    way = set(_way(tree, lead_of[COMMON], lead_of["high"])) if {COMMON, "high"} <= lead_of.keys() else set()
    found = {}
    for s in tree.sections:
        ends = {s.start, s.end}
        kind = "tap" if way else ""
        if CAPACITOR in lead_of and lead_of[CAPACITOR] in ends:
            kind = "start"
        elif ends <= way:
            kind = "main"
        found[s.start, s.end] = kind
    return found


def _way(tree: LeadTree, start: str, end: str) -> list[str]:
    graph = _graph(tree)
    before: dict[str, str] = {start: ""}
    waiting = [start]
    while waiting:
        here = waiting.pop()
        for other, _ in graph.get(here, []):
            if other not in before:
                before[other] = here
                waiting.append(other)
    way, here = [], end
    while here:
        way.append(here)
        here = before.get(here, "")
    return way[::-1]


def _places(tree: LeadTree, roles: Mapping[str, str]) -> dict[str, tuple[float, float]]:
    """Nodes on the drawing: the longest way along the top, from capacitor or common, what branches off below it."""
    graph = _graph(tree)
    lead_of = {role: lead for lead, role in roles.items()}
    ends = [n for n, near in graph.items() if len(near) == 1] or list(graph)

    def reach(start: str) -> dict[str, float]:
        found, waiting = {start: 0.0}, [start]
        while waiting:
            here = waiting.pop()
            for other, ohm in graph[here]:
                if other not in found:
                    # Long sections are drawn longer, but not in proportion: short taps must stay readable.
                    found[other] = found[here] + 1.0 + math.sqrt(max(ohm, 0.0)) / 6
                    waiting.append(other)
        return found

    first = lead_of.get(CAPACITOR, "") if lead_of.get(CAPACITOR, "") in ends else ends[0]
    if first not in graph:
        first = ends[0]
    along = reach(first)
    last = lead_of["low"] if "low" in lead_of else max(along, key=lambda n: along[n])
    if last not in along:
        last = max(along, key=lambda n: along[n])
    spine = _way(tree, first, last)
    places = {n: (along[n], 0.0) for n in spine}
    depth = 0.0
    for at in spine:
        for other, _ in graph[at]:
            if other in places:
                continue
            depth += 1.0
            waiting, lane = [(other, at)], depth
            while waiting:
                here, came = waiting.pop()
                # A branch runs on below, to the right of where it leaves.
                places[here] = (places[came][0] + (along[here] - along[came]) * 0.8, lane)
                waiting += [(n, here) for n, _ in graph[here] if n not in places]
    widest = max((x for x, _ in places.values()), default=1.0) or 1.0
    return {n: (x / widest, y) for n, (x, y) in places.items()}
