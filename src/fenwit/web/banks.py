"""Banks, switches, profiles and shelf parts between what is typed, what is stored and what the core takes."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.frame import PhaseDesign, Regulator
from fenwit.core.size.bank import BankDesign, Capacitor, Choice, Sizing
from fenwit.core.size.classes import CLASSES, ClassFacts, Duty, PartClass, check_capacitor
from fenwit.core.size.profile import Profile
from fenwit.core.size.switch import NAMES, Switch
from fenwit.store import codec, shelf
from fenwit.store.database import Database
from fenwit.web.models import BankEdit, CapacitorEdit, ProfileEdit, ProfileField, SizingEdit, SwitchEdit


def class_of(field: str, text: str) -> PartClass:
    """A class of parts by its key. Raises InputError."""
    if text not in [c.value for c in PartClass]:
        raise InputError(field, text, ", ".join(c.value for c in PartClass), "no such class of parts")
    return PartClass(text)


def regulator_of(regulator: Mapping[str, Any] | None) -> Regulator | None:
    """A stored regulator as the core sees it."""
    if regulator is None:
        return None
    if "firing_deg" in regulator:
        return codec.load(PhaseDesign, regulator)
    return codec.load(BankDesign, regulator)


def bank_words(design: BankDesign) -> str:
    """A bank in a few words."""
    values = " + ".join(q.show(c.nominal_f, q.CAPACITANCE) for c in design.capacitors)
    return f"{values}; {', '.join(design.patterns)}"


def read_bank(database: Database, edit: BankEdit, sizing: Sizing) -> BankDesign:
    """A typed bank. Raises InputError naming a, b, c, patterns or a small part."""
    capacitors = tuple(
        read_capacitor(database, name.lower(), part)
        for name, part in zip(NAMES, edit.capacitors, strict=False)
    )
    if not capacitors:
        raise InputError("capacitors", [], "1 to 3", "a bank has one to three capacitors")
    if not edit.patterns:
        raise InputError("patterns", [], "one pattern for each step", "choose what each step joins")
    switch = read_switch(edit.switch, sizing.switch) if edit.switch else sizing.switch
    if len(edit.patterns) > switch.positions:
        switch = replace(switch, positions=min(6, len(edit.patterns)))
    return BankDesign(
        capacitors,
        tuple(edit.patterns),
        switch,
        bleed_ohm=_by_hand("bleed", edit.bleeds),
        limiter_ohm=_by_hand("limiter", edit.limiters),
        fuse_a=q.parse("fuse", edit.fuse, q.CURRENT) if edit.fuse else None,
        enclosed=sizing.enclosed,
    )


def _by_hand(field: str, texts: Sequence[str]) -> tuple[float | None, ...]:
    found = tuple(
        q.parse(f"{field}.{NAMES[i]}", text, q.RESISTANCE) if text else None for i, text in enumerate(texts)
    )
    return found if any(v is not None for v in found) else ()


def read_capacitor(database: Database, field: str, edit: CapacitorEdit) -> Capacitor:
    """A typed capacitor, or the one on the shelf. Raises InputError with the reason of a refused class."""
    if edit.shelf_id is not None:
        part = shelf.get(database, edit.shelf_id)
        found = shelf_capacitor(part)
        if found is None:
            raise InputError(field, part.class_, "a capacitor", "this shelf part is no capacitor")
        check_capacitor(field, found.part_class)
        return found
    facts = check_capacitor(field, class_of(field, edit.part_class))
    nominal = q.parse(field, edit.value, q.CAPACITANCE)
    return Capacitor(
        nominal,
        PartClass(edit.part_class),
        q.parse(field, edit.rated, q.VOLTAGE) if edit.rated else facts.rated_v,
        q.parse(field, edit.tolerance, q.RATIO) / 100 if edit.tolerance else facts.tolerance,
        q.parse(field, edit.measured, q.CAPACITANCE) if edit.measured else None,
    )


def shelf_capacitor(part: shelf.ShelfPart) -> Capacitor | None:
    """A shelf part as a capacitor; None when it is something else."""
    part_class = PartClass(part.class_)
    if CLASSES[part_class].duty is not Duty.CAPACITOR:
        return None
    return Capacitor(part.nominal, part_class, part.rating, part.tolerance, part.measured, part.id)


def shelf_choices(database: Database, job_id: int) -> tuple[Choice, ...]:
    """The capacitors on the shelf, with how many are free for a job or put aside for it."""
    mine = {r.part_id: r.reserved for r in shelf.of_job(database, job_id)}
    found = []
    for part in shelf.every(database):
        capacitor = shelf_capacitor(part)
        if capacitor is not None:
            found.append(Choice(capacitor, part.free + mine.get(part.id, 0)))
    return tuple(found)


def typed_bank(design: BankDesign) -> BankEdit:
    """A bank as it would be typed."""
    return BankEdit(
        capacitors=[typed_capacitor(c) for c in design.capacitors],
        patterns=list(design.patterns),
        switch=typed_switch(design.switch),
        bleeds=[q.bench(v, q.RESISTANCE) if v else "" for v in design.bleed_ohm],
        limiters=[q.bench(v, q.RESISTANCE) if v else "" for v in design.limiter_ohm],
        fuse=q.bench(design.fuse_a, q.CURRENT) if design.fuse_a else "",
    )


def typed_capacitor(c: Capacitor) -> CapacitorEdit:
    """A capacitor as it would be typed."""
    return CapacitorEdit(
        value=q.bench(c.nominal_f, q.CAPACITANCE, 4),
        measured="" if c.measured_f is None else q.bench(c.measured_f, q.CAPACITANCE, 4),
        part_class=c.part_class.value,
        rated=f"{c.rated_v:g}V",
        tolerance=f"{100 * c.tolerance:g} %",
        shelf_id=c.shelf_id,
    )


def typed_switch(switch: Switch) -> SwitchEdit:
    """A switch as it would be picked."""
    return SwitchEdit(
        positions=switch.positions,
        poles=switch.poles,
        series_pairs=switch.series_pairs,
        make_before_break=switch.make_before_break,
        rated_voltage_v=switch.rated_voltage_v,
    )


def read_switch(edit: SwitchEdit, like: Switch) -> Switch:
    """A picked switch; its amps as before. Raises InputError."""
    return replace(like, **edit.model_dump())


def sizing_of(stored: Mapping[str, Any], wanted: int) -> Sizing:
    """What the search of a job works with; a switch never picked has as many positions as there are steps."""
    sizing = codec.load(Sizing, stored)
    if "switch" not in stored:
        sizing = replace(sizing, switch=replace(sizing.switch, positions=max(2, min(6, wanted or 4))))
    return sizing


def read_sizing(
    database: Database, stored: Mapping[str, Any], edit: SizingEdit, wanted: int
) -> dict[str, Any]:
    """A changed sizing as a document. Raises InputError."""
    now = sizing_of(stored, wanted)
    changes: dict[str, Any] = {}
    if edit.switch is not None:
        changes["switch"] = read_switch(edit.switch, now.switch)
    if edit.part_class is not None:
        changes["part_class"] = class_of("sizing.part_class", edit.part_class)
    for name in ("most", "series", "enclosed", "method"):
        if getattr(edit, name) is not None:
            changes[name] = getattr(edit, name)
    if edit.fixed is not None:
        changes["fixed"] = tuple(read_capacitor(database, "sizing.fixed", c) for c in edit.fixed)
    sizing = replace(now, **changes)
    document = codec.dump(sizing)
    if edit.switch is None and "switch" not in stored:
        del document["switch"]
    return document


def typed_sizing(sizing: Sizing) -> SizingEdit:
    """A sizing as it stands in its inputs."""
    return SizingEdit(
        switch=typed_switch(sizing.switch),
        part_class=sizing.part_class.value,
        most=sizing.most,
        series=sizing.series,
        enclosed=sizing.enclosed,
        method=sizing.method,
        fixed=[typed_capacitor(c) for c in sizing.fixed],
    )


_LIMITS = (
    ("lowest_share", "lowest step, at most", "55 %"),
    ("start_margin", "torque to spare at rest", "15 %"),
    ("evenness", "differences, off even by", "35 %"),
    ("motor_voltage", "motor volts, of rated", "105 %"),
    ("mains", "mains, ±", "10 %"),
)


def profile_of(stored: Mapping[str, Any]) -> Profile:
    """The acceptance profile of a job."""
    return codec.load(Profile, stored)


def typed_profile(profile: Profile) -> list[ProfileField]:
    """The limits of a profile as they stand in their inputs."""
    return [
        ProfileField(field=f, label=label, text=f"{100 * getattr(profile, f):g} %", hint=hint)
        for f, label, hint in _LIMITS
    ]


_PER_CENT = replace(q.RATIO, high=500.0)


def read_profile(stored: Mapping[str, Any], edit: ProfileEdit) -> dict[str, Any]:
    """A changed profile as a document. Raises InputError beside the limit."""
    now = profile_of(stored)
    changes: dict[str, Any] = {}
    for name, _, _ in _LIMITS:
        text = getattr(edit, name)
        if text is not None:
            changes[name] = q.parse(f"profile.{name}", text, _PER_CENT) / 100
    for name in ("bands_apart", "starts_low"):
        if getattr(edit, name) is not None:
            changes[name] = getattr(edit, name)
    return codec.dump(replace(now, **changes))


def part_words(part: shelf.ShelfPart) -> str:
    """A shelf part in words."""
    facts = CLASSES[PartClass(part.class_)]
    return f"{facts.name}, {show_nominal(part.nominal, facts)}"


def show_nominal(value: float, facts: ClassFacts) -> str:
    """The value of a shelf part as it is read."""
    return f"{value:g} positions" if facts.duty is Duty.SWITCH else q.show(value, facts.dimension, 4)
