"""Capacitors, switches and other parts between what is typed, what lies on the shelf and what the core takes."""

from __future__ import annotations

from dataclasses import replace

from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.size.capacitor import Capacitor, Choice
from fenwit.core.size.classes import CLASSES, ClassFacts, Duty, PartClass, check_capacitor
from fenwit.core.size.switch import Switch
from fenwit.store import shelf
from fenwit.store.database import Database
from fenwit.web.fields import CapacitorEdit, SwitchEdit


def class_of(field: str, text: str) -> PartClass:
    """A class of parts by its key. Raises InputError."""
    if text not in [c.value for c in PartClass]:
        raise InputError(field, text, ", ".join(c.value for c in PartClass), "no such class of parts")
    return PartClass(text)


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


def part_words(part: shelf.ShelfPart) -> str:
    """A shelf part in words."""
    facts = CLASSES[PartClass(part.class_)]
    return f"{facts.name}, {show_nominal(part.nominal, facts)}"


def show_nominal(value: float, facts: ClassFacts) -> str:
    """The value of a shelf part as it is read."""
    return f"{value:g} positions" if facts.duty is Duty.SWITCH else q.show(value, facts.dimension, 4)
