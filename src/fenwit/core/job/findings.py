"""What was seen on a motor: observations, leads, capacitor block; and the sheets computed from it and its readings."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from fenwit.core.calibrate.leads import LeadSheet, OhmReading, TapSections, remembered_finding, tap_sections
from fenwit.core.calibrate.roles import SEEN
from fenwit.core.errors import InputError, check_range
from fenwit.core.motor.evidence import DUTIES, OBSERVATIONS, Duty
from fenwit.core.motor.taps import StartBranch
from fenwit.core.size.block import Block, Section

MOST_LEADS = 8
SWITCH_SHARE = 0.75
"""A start switch closes again at about this share of synchronous speed [-]"""
SURE_OF_TREE = 0.85
"""How likely tree and roles must be before their ohms stand for the windings [-]"""


@dataclass(frozen=True)
class Lead:
    """One lead: its key never changes, its name and colour may."""

    key: str
    name: str
    colour: str = ""
    seen: str = ""
    """What it was seen wired to, one of `roles.SEEN`; empty: nothing [-]"""


class _Seen(dict[str, bool]):
    """Observations, never changed once they are made: so a job can be a question that is remembered."""

    def __hash__(self) -> int:  # type: ignore[override]
        return hash(frozenset(self.items()))


@dataclass(frozen=True)
class Findings:
    """Everything of a motor that is not a reading and not on its nameplate."""

    observed: Mapping[str, bool] = field(default_factory=dict)
    kind_reason: str = ""
    """Why the kind was set against the evidence [-]"""
    duty: str = ""
    """What it drives, where that alone forbids lowering its speed [-]"""
    leads: tuple[Lead, ...] = ()
    probe_ohm: float = 0.0
    start_branch: StartBranch | None = None
    """Where the start branch hangs; None: not known [-]"""
    gauge: tuple[float, ...] = ()
    """For each tap section, turns per ohm over the main winding's; empty: one wire [-]"""
    switch_share: float = SWITCH_SHARE
    block: Block | None = None
    spare: tuple[Section, ...] = ()

    def __post_init__(self) -> None:
        object.__setattr__(self, "observed", _Seen(self.observed))
        known = {o.key for o in OBSERVATIONS}
        for key in self.observed:
            if key not in known:
                raise InputError("observed", key, ", ".join(sorted(known)), "no such observation")
        if self.duty and self.duty not in {d.key for d in DUTIES}:
            raise InputError("duty", self.duty, ", ".join(d.key for d in DUTIES), "no such duty")
        names = [lead.name.strip() for lead in self.leads]
        if len(names) > MOST_LEADS:
            raise InputError("leads", len(names), f"up to {MOST_LEADS} leads", "too many leads")
        if any(not n for n in names):
            raise InputError("leads", "", "a letter, number or word", "a lead has no name")
        if len(set(names)) != len(names):
            raise InputError("leads", ", ".join(names), "each name once", "two leads have the same name")
        if len({lead.key for lead in self.leads}) != len(self.leads):
            raise InputError("leads", "key", "each key once", "two leads have the same key")
        for lead in self.leads:
            if lead.seen and lead.seen not in SEEN:
                raise InputError("leads", lead.seen, ", ".join(SEEN), "no such thing is seen of a lead")
        check_range("probe_ohm", self.probe_ohm, 0.0, 20.0, "Ω")
        check_range("switch_share", self.switch_share, 0.3, 0.95, "")
        for factor in self.gauge:
            check_range("gauge", factor, 0.2, 5.0, "")

    @property
    def forbidden(self) -> Duty | None:
        """The duty that forbids lowering the speed, if there is one."""
        return next((d for d in DUTIES if d.key == self.duty), None)


LEAD_OHM, FRAME_OHM, SECTION_F, SECTION_ESR = "lead_ohm", "frame_ohm", "section_f", "section_esr"
"""Quantities with the keys of leads, or the name of a section, behind a colon"""


def lead_sheet(findings: Findings, readings: Mapping[str, float]) -> LeadSheet:
    """The lead sheet of a job from its readings; those of leads that are gone are left out.

    Parameters
    ----------
    findings : Findings
        Leads and probe ohms [-]
    readings : mapping
        Quantity and value, like lead_ohm:a:b [Ω]

    Returns
    -------
    LeadSheet
        The sheet [-]
    """
    names = {lead.key: lead.name.strip() for lead in findings.leads}
    pairs, to_frame = [], []
    for quantity, value in readings.items():
        kind, *keys = quantity.split(":")
        if any(k not in names for k in keys):
            continue
        if kind == LEAD_OHM and len(keys) == 2:
            pairs.append(OhmReading(names[keys[0]], names[keys[1]], value))
        elif kind == FRAME_OHM and len(keys) == 1:
            to_frame.append((names[keys[0]], value))
    return LeadSheet(
        leads=tuple(names.values()),
        readings=tuple(pairs),
        to_frame=tuple(to_frame),
        colours=tuple((names[lead.key], lead.colour) for lead in findings.leads if lead.colour),
        seen=tuple((names[lead.key], lead.seen) for lead in findings.leads if lead.seen),
        probe_ohm=findings.probe_ohm,
    )


def windings(findings: Findings, readings: Mapping[str, float]) -> TapSections | None:
    """Main, start and tap ohms, where the leads are found beyond reasonable doubt; None before.

    Parameters
    ----------
    findings : Findings
        Leads [-]
    readings : mapping
        Quantity and value [Ω]

    Returns
    -------
    TapSections or None
        Section ohms [Ω]
    """
    if not findings.leads:
        return None
    found = remembered_finding(lead_sheet(findings, readings))
    best = found.best
    if best is None or found.contradictions or best.likelihood * best.roles_likelihood < SURE_OF_TREE:
        return None
    if any(not s.settled for s in best.sections):
        return None
    return tap_sections(best)


def block_now(
    findings: Findings, readings: Mapping[str, float], run_capacitance_f: float | None
) -> Block | None:
    """The capacitor block with what was read on its sections; None where none was described.

    Parameters
    ----------
    findings : Findings
        The block as described [-]
    readings : mapping
        Quantity and value, like section_f:A [F]
    run_capacitance_f : float or None
        What the run capacitor was read as; it stands for the section between motor and auxiliary lead where that was
        not read by itself [F]

    Returns
    -------
    Block or None
        With measured values [-]
    """
    block = findings.block
    if block is None:
        return None

    def read(section: Section) -> Section:
        value = readings.get(f"{SECTION_F}:{section.name}")
        if value is None and section.name == block.run_section:
            value = run_capacitance_f
        return Section(
            section.name,
            section.lead_a,
            section.lead_b,
            section.rated_f,
            section.part_class,
            section.tolerance,
            measured_f=None if value is None else min(value, 3 * section.rated_f),
            shorted=value is not None and value >= 10 * section.rated_f,
            esr_ohm=readings.get(f"{SECTION_ESR}:{section.name}"),
        )

    return Block(tuple(read(s) for s in block.sections), block.motor_lead, block.auxiliary_lead, block.steps)
