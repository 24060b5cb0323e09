"""What every part of a resistor regulator bears at worst: watts in the air it stands in, surface, volts, first rush."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from fenwit.core.circuit import Circuit
from fenwit.core.load import FanLoad
from fenwit.core.methods.common.switched import Line, fuse_for, fuse_part, switch_part, wire_part
from fenwit.core.methods.series_resistor.builds import (
    BUILDS,
    ENCLOSURES,
    WIRING_C,
    carries_w,
    clearance_m,
    surface_c,
)
from fenwit.core.methods.series_resistor.design import Resistor, ResistorDesign, resistor_circuit
from fenwit.core.motor.machine import Machine
from fenwit.core.operating import Solution, Source, solve
from fenwit.core.size.classes import DERATING, PartClass
from fenwit.core.size.rated import (
    MAINS,
    Burden,
    RatedKind,
    RatedPart,
    judged,
)

FloatArray = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Load(Line):
    """What runs through the resistors, and how hot that makes them."""

    heat_w: FloatArray
    """Of each resistor, shape (2, mains, steps, resistors) [W]"""
    air_c: FloatArray
    """Around the resistors, shape of `line_a` [°C]"""


@dataclass(frozen=True, eq=False)
class Rated:
    """A resistor regulator solved at every step and mains, with what each part bears."""

    design: ResistorDesign
    """With the watts of every resistor chosen"""
    circuit: Circuit
    in_line_ohm: tuple[float, ...]
    solutions: tuple[tuple[Solution, ...], ...]
    """For each of `MAINS` the steps in order"""
    load: Load
    parts: tuple[RatedPart, ...]
    surface_c: tuple[tuple[float, ...], ...]
    """At each step of each resistor, running on the stated mains; the air where it makes no heat [°C]"""
    hottest_c: tuple[float, ...]
    """Of each resistor at its worst, held fast on high mains counted [°C]"""
    clearance_m: tuple[float, ...]
    """From each resistor sideways to what can burn [m]"""

    @property
    def nominal(self) -> tuple[Solution, ...]:
        """The steps on the stated mains."""
        return self.solutions[MAINS.index(1.0)]


def rate(motor: Machine, load: FanLoad, supply: Source, design: ResistorDesign) -> Rated:
    """Solve a regulator everywhere, choose what was left open, and weigh every part against its rating.

    Parameters
    ----------
    motor : Machine
        Motor with scalar parameters [-]
    load : FanLoad
        Fan [-]
    supply : Source
        Supply as stated; also solved at ±10 % [-]
    design : ResistorDesign
        Resistors, switch and housing [-]

    Returns
    -------
    Rated
        The regulator with its parts; a part that will not do says why [-]

    Raises
    ------
    InputError
        Values that cannot be real.
    """
    ohms = design.in_line_ohm(np.array([r.value_ohm for r in design.resistors]))
    flat = solve(
        motor,
        load,
        [Source(m * supply.voltage_v, supply.frequency_hz, complex(r)) for m in MAINS for r in ohms],
    )
    rows = tuple(flat[i * len(ohms) : (i + 1) * len(ohms)] for i in range(len(MAINS)))
    found = _load(motor, supply, design, ohms, rows)
    resistors = tuple(
        r if r.rated_w is not None else replace(r, rated_w=_least_watts(r, found, i))
        for i, r in enumerate(design.resistors)
    )
    chosen = replace(design, resistors=resistors)
    fuse_a = design.fuse_a or fuse_for(found.most_a, found.rush_i2t(supply))
    circuit = resistor_circuit(chosen, fuse_a)
    surfaces = np.stack([_surface(r, found, i) for i, r in enumerate(resistors)], axis=-1)
    # A clearance is kept for good: what is held fast on high mains counts.
    hot = tuple(float(v) for v in surfaces.max(axis=(0, 1, 2)))
    apart = tuple(clearance_m(float(w), design.room_c) for w in found.heat_w.max(axis=(0, 1, 2)))
    parts = (
        *(
            _resistor(r, found, i, name, asked.rated_w is not None)
            for i, (r, name, asked) in enumerate(zip(resistors, chosen.names, design.resistors, strict=True))
        ),
        fuse_part(found, fuse_a, design.fuse_a is not None, found.rush_i2t(supply)),
        switch_part(found, supply, design.switch),
        _wire(found, supply),
    )
    return Rated(
        chosen,
        circuit,
        tuple(float(v) for v in ohms),
        rows,
        found,
        parts,
        tuple(tuple(float(v) for v in row) for row in surfaces[0, MAINS.index(1.0)]),
        hot,
        apart,
    )


def _load(
    motor: Machine,
    supply: Source,
    design: ResistorDesign,
    ohms: FloatArray,
    rows: tuple[tuple[Solution, ...], ...],
) -> Load:
    y = complex(motor.respond(np.array(1.0), supply.frequency_hz).admittance_s)
    at_rest = np.abs(y / (1 + ohms * y)) * supply.voltage_v * np.array(MAINS)[:, None]
    running = np.array([[s.running.line_current_a if s.running else 0.0 for s in row] for row in rows])
    line = np.stack([running, at_rest])
    own = design.joins * np.array([r.value_ohm for r in design.resistors])
    heat = line[..., None] ** 2 * own
    air = design.room_c + ENCLOSURES[design.enclosure][1] * heat.sum(axis=-1)
    return Load(line, heat, air)


def _surface(resistor: Resistor, found: Load, i: int) -> FloatArray:
    assert resistor.rated_w is not None
    return np.asarray(surface_c(resistor.build, resistor.rated_w, found.heat_w[..., i], found.air_c))


def _carries(resistor: Resistor, rated_w: float, found: Load) -> FloatArray:
    """Half of what it carries in that air: the other half is its life."""
    return np.asarray(DERATING * carries_w(resistor.build, rated_w, np.minimum(found.air_c, 1000.0)))


def _least_watts(resistor: Resistor, found: Load, i: int) -> float:
    """The smallest size that will do; the largest where none does."""
    sizes = BUILDS[resistor.build].watts
    for size in sizes:
        running = np.all(found.heat_w[0, ..., i] <= _carries(resistor, size, found)[0] * (1 + 1e-9))
        cool = (
            np.max(surface_c(resistor.build, size, found.heat_w[..., i], found.air_c))
            <= BUILDS[resistor.build].hottest_c
        )
        if running and cool:
            return size
    return sizes[-1]


def _resistor(resistor: Resistor, found: Load, i: int, name: str, by_hand: bool) -> RatedPart:
    facts, rated_w = BUILDS[resistor.build], resistor.rated_w
    assert rated_w is not None
    heat = found.heat_w[..., i]
    part = RatedPart(
        name,
        RatedKind.RESISTOR,
        "",
        PartClass.WIREWOUND,
        resistor.value_ohm,
        1,
        rated_w,
        (
            # While it runs: a fan that is held fast is not for good, but its surface counts all the same.
            found.worst(Burden.WATTS, heat[:1], _carries(resistor, rated_w, found)[:1]),
            found.worst(Burden.HEAT, _surface(resistor, found, i) * (heat > 0), facts.hottest_c),
            found.worst(Burden.VOLTS, np.sqrt(heat * resistor.value_ohm), facts.working_v),
        ),
        by_hand=by_hand,
    )
    if part.stresses[0].holds and part.stresses[1].holds:
        return judged(part)
    worst = part.stresses[0]
    if rated_w >= facts.watts[-1]:
        advice = (
            "no larger one of this build: take another build, more air around it, or less in one resistor"
        )
    else:
        advice = "take the next size, or more air around it"
    words = (
        f"too small: {worst.value:.3g} W at step {worst.position}, and in that air it may carry {worst.rating:.3g} W "
        f"for good; {advice}"
        if not worst.holds
        else f"its surface would pass {facts.hottest_c:g} °C; {advice}"
    )
    return replace(part, refusal=words)


def _wire(found: Load, supply: Source) -> RatedPart:
    # Held fast is not for good; what wires and switch live in is the air while it runs.
    warm = found.worst(Burden.HEAT, found.air_c[:1] * (found.heat_w[:1].sum(axis=-1) > 0), WIRING_C)
    part = wire_part(found, supply, warm)
    if warm.holds:
        return part
    words = (
        f"the air in the housing would reach {warm.value:.0f} °C at step {warm.position}, and switch, fuse and wire bear "
        f"{WIRING_C:g} °C: open it, or mount the resistors outside"
    )
    return replace(part, refusal=words)
