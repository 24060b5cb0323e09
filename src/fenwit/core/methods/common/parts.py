"""Rated parts of a switched regulator as they are shown: fuse, switch and wire alike in all of them."""

from __future__ import annotations

from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.methods.seam import PartRow, PartRowKind, StressShown, Why
from fenwit.core.size.classes import CLASSES, FUSE_FACTOR, PartClass
from fenwit.core.size.rated import UNITS, WIRE_A, WIRE_V, Burden, Moment, RatedKind, RatedPart, Stress
from fenwit.core.size.switch import Switch

_KINDS = {kind: PartRowKind(kind.value) for kind in RatedKind}
OFF, ANY = "Off", "any"


def row_of(
    part: RatedPart, role: str, text: str, bench: str, rating: str, limit: str = "", note: str = ""
) -> PartRow:
    """A rated part as it is shown.

    Parameters
    ----------
    part : RatedPart
        The part [-]
    role : str
        What it is for [-]
    text : str
        What to ask for at the counter [-]
    bench : str
        Its value in bench notation [-]
    rating : str
        Its rating in words [-]
    limit : str
        What bounds its value; may be empty [-]
    note : str
        What is to be minded; may be empty [-]

    Returns
    -------
    PartRow
        The row [-]
    """
    worst = part.worst
    return PartRow(
        name=part.name,
        kind=_KINDS[part.kind],
        role=role,
        text=text,
        bench=bench,
        rating_text=rating,
        limit_text=limit,
        stresses=tuple(stress_shown(s) for s in part.stresses),
        worst=part.stresses.index(worst) if worst else 0,
        by_hand=part.by_hand,
        refusal=part.refusal,
        note=note,
        part_class=part.part_class.value if part.part_class else "",
        piece=part.value if part.part_class else None,
        rating=part.rating,
        of=part.of,
        editable=part.kind in (RatedKind.FUSE, RatedKind.BLEED, RatedKind.LIMITER),
        explained=part.kind in (RatedKind.FUSE, RatedKind.BLEED, RatedKind.LIMITER),
    )


def fuse_row(part: RatedPart) -> PartRow:
    """The fuse."""
    facts = CLASSES[PartClass.FUSE]
    return row_of(
        part,
        "fuse",
        f"{facts.name}, {q.show(part.value, q.CURRENT)}",
        q.bench(part.value, q.CURRENT),
        f"{facts.rated_v:g} V",
        f"at least {q.show(part.limit or 0, q.CURRENT)}: 1.6 × the worst running amps",
    )


def switch_row(part: RatedPart, switch: Switch) -> PartRow:
    """The switch."""
    return row_of(part, "switch", switch_words(switch), "", f"{switch.rated_voltage_v:g} V")


def wire_row(part: RatedPart) -> PartRow:
    """The wire inside the regulator."""
    return row_of(part, "wire", "copper 0.75 mm², 300/500 V", "", "6 A")


def switch_words(switch: Switch) -> str:
    """A switch in words."""
    contacts = "make before break" if switch.make_before_break else "break before make"
    poles = "one pole" if switch.poles == 1 else "two poles"
    return f"{switch.positions} positions and Off, {poles}, {contacts}, {switch.rated_current_a:g} A"


def stress_shown(stress: Stress) -> StressShown:
    """A burden with its words, small currents in milliamps."""
    unit, scale = UNITS[stress.burden], 1.0
    if stress.burden is Burden.AMPS and stress.rating < 1.0:
        unit, scale = "mA", 1000.0
    value, rating = q.plain(stress.value * scale, 3), q.plain(stress.rating * scale, 3)
    return StressShown(
        burden=str(stress.burden.value),
        share=stress.share,
        text=f"{value} of {rating} {unit}",
        where=stress_place(stress),
        holds=stress.holds,
    )


def stress_place(stress: Stress) -> str:
    """Worst position, moment and mains in words."""
    if not stress.position:
        return "not used"
    mains = "" if stress.mains == 1.0 else f", mains {q.signed(100 * (stress.mains - 1), 0)} %"
    if stress.position == ANY:
        return f"any step{mains}"
    if stress.moment is Moment.SWITCHING:
        return f"switching {stress.position if stress.passage else f'to step {stress.position}'}{mains}"
    if stress.position == OFF:
        return f"Off{mains}"
    return f"step {stress.position}, {stress.moment.value}{mains}"


# ---------------------------------------------------------------- why


def part_why(
    role: str,
    part: RatedPart,
    stress: Stress,
    equation: str,
    numbers: tuple[str, ...],
    assumptions: tuple[str, ...],
) -> Why:
    """Why a part bears what it bears.

    Parameters
    ----------
    role : str
        What the part is called [-]
    part : RatedPart
        The part [-]
    stress : Stress
        The burden [-]
    equation : str
        Its relation [-]
    numbers : tuple of str
        The relation with the numbers in it [-]
    assumptions : tuple of str
        What it takes for granted [-]

    Returns
    -------
    Why
        The explanation, with where it is worst [-]
    """
    unit = UNITS[stress.burden]
    return Why(
        f"{role}: {stress.burden.value}",
        f"{q.plain(stress.value, 3)} of {q.plain(stress.rating, 3)} {unit}",
        equation,
        (*numbers, f"worst at: {stress_place(stress)}"),
        assumptions,
        "Searched over every step that may be used, mains at −10 %, 0 and +10 %, running and standing still.",
        grounds(part),
    )


def grounds(part: RatedPart) -> str:
    """Where a part's rating comes from."""
    if part.part_class is None:
        return f"0.75 mm² copper, 300/500 V insulation: {WIRE_A:g} A, {WIRE_V:g} V to earth"
    return f"Class {CLASSES[part.part_class].name}: {CLASSES[part.part_class].grounds}; the maker's data go first"


def found_stress(parts: tuple[RatedPart, ...], name: str, burden: str) -> tuple[RatedPart, Stress | None]:
    """A part and one of its burdens; None for its value. Raises InputError where there is none."""
    part = next((p for p in parts if p.name == name), None)
    if part is None:
        raise InputError("of", name, ", ".join(p.name for p in parts), "no such part")
    if burden == "value":
        return part, None
    stress = next((s for s in part.stresses if s.burden.value == burden), None)
    if stress is None:
        raise InputError("of", burden, ", ".join(s.burden.value for s in part.stresses), "no such burden")
    return part, stress


def fuse_why(part: RatedPart, chosen: str, equation: str) -> Why:
    """Why the fuse is as large as it is."""
    amps = (part.limit or 0) / FUSE_FACTOR
    return Why(
        "Fuse",
        q.show(part.value, q.CURRENT),
        equation,
        (f"{FUSE_FACTOR:g} × {q.show(amps, q.CURRENT)} = {q.show(part.limit or 0, q.CURRENT)}",),
        ("next standard value up", chosen),
        "Time-lag class with mains breaking capacity only.",
        CLASSES[PartClass.FUSE].grounds,
    )


def chosen_words(part: RatedPart) -> str:
    """Whether a value was set by hand."""
    return "set by hand" if part.by_hand else "chosen from preferred values"
