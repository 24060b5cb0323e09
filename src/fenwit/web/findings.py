"""What was seen on a motor, between what is typed, what is stored and what the core takes."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from fenwit.core import quantity as q
from fenwit.core.calibrate.instruments import QUANTITIES, Instrument, MeterRange
from fenwit.core.errors import InputError
from fenwit.core.job.findings import Findings, Lead
from fenwit.core.motor.taps import StartBranch
from fenwit.core.size.block import Block, BlockStep, Section, values_of
from fenwit.store import codec
from fenwit.web.edits import (
    BlockEdit,
    BlockStepEdit,
    FindingsEdit,
    InstrumentEdit,
    LeadEdit,
    RangeEdit,
    SectionEdit,
)
from fenwit.web.parts import class_of

DIMENSION_OF = {
    "voltage": q.VOLTAGE,
    "current": q.CURRENT,
    "resistance": q.RESISTANCE,
    "capacitance": q.CAPACITANCE,
    "power": q.POWER,
    "speed": q.SPEED,
    "frequency": q.FREQUENCY,
    "temperature": q.TEMPERATURE,
}


def findings_of(document: Mapping[str, Any]) -> Findings:
    """Stored findings as the core sees them."""
    return codec.load(Findings, document)


def read_findings(now: Findings, edit: FindingsEdit) -> Findings:
    """Findings after an edit. Raises InputError naming the field."""
    changes: dict[str, Any] = {}
    if edit.observed is not None:
        seen = {**now.observed, **edit.observed}
        changes["observed"] = {k: v for k, v in seen.items() if v is not None}
    for name in ("kind_reason", "duty"):
        if getattr(edit, name) is not None:
            changes[name] = getattr(edit, name)
    if edit.leads is not None:
        changes["leads"] = _leads(now, edit.leads)
    if edit.probe is not None:
        tidy = edit.probe.strip()
        zero = tidy in ("", "0", "0.0", "0 Ω")
        changes["probe_ohm"] = 0.0 if zero else q.parse("probe", tidy, q.RESISTANCE)
    if edit.start_branch is not None:
        allowed = [b.value for b in StartBranch]
        if edit.start_branch not in ("", *allowed):
            raise InputError("start_branch", edit.start_branch, ", ".join(allowed), "no such connection")
        changes["start_branch"] = StartBranch(edit.start_branch) if edit.start_branch else None
    if edit.gauge is not None:
        changes["gauge"] = tuple(_factor(f"gauge[{i}]", g) for i, g in enumerate(edit.gauge))
    if edit.switch_share is not None:
        changes["switch_share"] = q.parse("switch_share", edit.switch_share, q.RATIO) / 100
    if edit.no_block:
        changes["block"] = None
    elif edit.block is not None:
        changes["block"] = read_block(edit.block)
    if edit.spare is not None:
        changes["spare"] = tuple(read_section(f"spare[{i}]", s) for i, s in enumerate(edit.spare))
    return replace(now, **changes)


def _leads(now: Findings, edits: Sequence[LeadEdit]) -> tuple[Lead, ...]:
    """Leads keep their keys, so that a reading stays with its lead when that is renamed."""
    taken = {e.key for e in edits if e.key} | {lead.key for lead in now.leads}
    fresh = (f"k{i}" for i in range(1, 1000) if f"k{i}" not in taken)
    return tuple(Lead(e.key or next(fresh), e.name, e.colour, e.seen) for e in edits)


def _factor(field: str, text: str) -> float:
    try:
        return float(text.replace(",", "."))
    except ValueError:
        raise InputError(field, text, "0.2 to 5, 1 for the same wire", "a factor is wanted here") from None


def read_section(field: str, edit: SectionEdit) -> Section:
    """A typed section. Raises InputError."""
    if not edit.name:
        raise InputError(f"{field}.name", "", "a short name, like A", "a section has a name")
    if not edit.lead_a or not edit.lead_b:
        raise InputError(f"{field}.leads", "", "two lead names", "say between which leads it lies")
    return Section(
        edit.name,
        edit.lead_a,
        edit.lead_b,
        q.parse(f"{field}.rated", edit.rated, q.CAPACITANCE),
        class_of(f"{field}.part_class", edit.part_class),
        q.parse(f"{field}.tolerance", edit.tolerance, q.RATIO) / 100 if edit.tolerance else None,
    )


def read_block(edit: BlockEdit) -> Block:
    """A typed block; it must be one that can be solved. Raises InputError."""
    steps = tuple(
        BlockStep(
            s.name or str(i),
            _names(s.line, "+"),
            tuple(_pair(f"steps[{i - 1}].joined", text) for text in _names(s.joined, ",")),
        )
        for i, s in enumerate(edit.steps, start=1)
    )
    block = Block(
        tuple(read_section(f"sections[{i}]", s) for i, s in enumerate(edit.sections)),
        edit.motor_lead,
        edit.auxiliary_lead,
        steps or (BlockStep("full", ()),),
    )
    values_of(block)
    return block


def _names(text: str, separator: str) -> tuple[str, ...]:
    return tuple(part.strip() for part in text.split(separator) if part.strip())


def _pair(field: str, text: str) -> tuple[str, str]:
    ends = _names(text, "=")
    if len(ends) != 2:
        raise InputError(field, text, "like 2=3", "two leads are joined")
    return ends[0], ends[1]


def typed_findings(found: Findings) -> FindingsEdit:
    """Findings as they would be typed."""
    return FindingsEdit(
        observed=dict(found.observed),
        kind_reason=found.kind_reason,
        duty=found.duty,
        leads=[LeadEdit(key=x.key, name=x.name, colour=x.colour, seen=x.seen) for x in found.leads],
        probe=q.show(found.probe_ohm, q.RESISTANCE) if found.probe_ohm else "",
        start_branch=found.start_branch.value if found.start_branch else "",
        gauge=[f"{g:g}" for g in found.gauge],
        switch_share=f"{100 * found.switch_share:g} %",
        block=_typed_block(found.block) if found.block else None,
        spare=[_typed_section(s) for s in found.spare],
    )


def _typed_block(block: Block) -> BlockEdit:
    return BlockEdit(
        sections=[_typed_section(s) for s in block.sections],
        motor_lead=block.motor_lead,
        auxiliary_lead=block.auxiliary_lead,
        steps=[
            BlockStepEdit(name=s.name, line="+".join(s.line), joined=", ".join("=".join(p) for p in s.joined))
            for s in block.steps
        ],
    )


def _typed_section(s: Section) -> SectionEdit:
    return SectionEdit(
        name=s.name,
        lead_a=s.lead_a,
        lead_b=s.lead_b,
        rated=q.bench(s.rated_f, q.CAPACITANCE),
        part_class=s.part_class.value,
        tolerance="" if s.tolerance is None else f"{100 * s.tolerance:g}%",
    )


def read_instrument(edit: InstrumentEdit) -> dict[str, Any]:
    """A typed meter as it is stored. Raises InputError."""
    ranges = []
    for i, r in enumerate(edit.ranges):
        place = f"ranges[{i}]"
        if r.quantity not in QUANTITIES:
            raise InputError(
                f"{place}.quantity", r.quantity, ", ".join(QUANTITIES), "no such function of a meter"
            )
        dimension = DIMENSION_OF[r.quantity]
        up_to = q.parse(f"{place}.up_to", r.up_to, dimension)
        # Two thousand counts are the least that meters of today have.
        resolution = _small(f"{place}.resolution", r.resolution, dimension) if r.resolution else up_to / 2000
        digits = _count(f"{place}.digits", r.digits)
        percent = q.parse(f"{place}.percent", r.percent, q.RATIO)
        ranges.append(codec.dump(MeterRange(r.quantity, up_to, percent, digits, resolution)))
    return {"name": edit.name, "true_rms": edit.true_rms, "ranges": ranges, "gone": edit.gone}


def _small(field: str, text: str, dimension: q.Dimension) -> float:
    """A last digit may be smaller than any value that is read."""
    return q.parse(field, text, replace(dimension, low=0.0))


def _count(field: str, text: str) -> float:
    if not text.strip().isdigit():
        raise InputError(field, text, "a whole number, like 3", "digits are counted")
    return float(text)


def instrument_of(name: str, true_rms: bool, ranges: Sequence[Mapping[str, Any]]) -> Instrument:
    """A stored meter as the core sees it."""
    return Instrument(name, tuple(codec.load(MeterRange, r) for r in ranges), true_rms)


def typed_range(r: MeterRange) -> RangeEdit:
    """A range as it would be typed."""
    dimension = DIMENSION_OF[r.quantity]
    return RangeEdit(
        quantity=r.quantity,
        up_to=q.show(r.up_to, dimension),
        percent=f"{r.percent:g} %",
        digits=f"{r.digits:g}",
        resolution=q.show(r.resolution, dimension),
    )
