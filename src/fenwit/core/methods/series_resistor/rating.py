"""What every part of a resistor regulator bears at worst: watts in the air it stands in, surface, volts, first rush."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from fenwit.core.circuit import Circuit
from fenwit.core.errors import InputError
from fenwit.core.load import FanLoad
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
from fenwit.core.size.classes import DERATING, FUSE_FACTOR, FUSE_MELTING, FUSES_A, PartClass, next_fuse
from fenwit.core.size.rated import (
    MAINS,
    WIRE_A,
    WIRE_V,
    Burden,
    Moment,
    RatedKind,
    RatedPart,
    Stress,
    judged,
)

FloatArray = NDArray[np.float64]
_MOMENTS = (Moment.RUNNING, Moment.AT_REST)
FUSE_V = 250.0


@dataclass(frozen=True, eq=False)
class Load:
    """What runs through the regulator: running and held fast, for each of `MAINS`, at each step."""

    line_a: FloatArray
    """Shape (2, mains, steps); 0 where the fan does not run [A]"""
    heat_w: FloatArray
    """Of each resistor, shape (2, mains, steps, resistors) [W]"""
    air_c: FloatArray
    """Around the resistors, shape of `line_a` [°C]"""

    def worst(self, burden: Burden, values: FloatArray, rating: FloatArray | float) -> Stress:
        """Where a burden comes nearest to its limit; arrays begin like `line_a`."""
        limits = np.broadcast_to(np.asarray(rating, dtype=float), values.shape)
        # What carries nothing any more is passed by any watt.
        share = np.divide(values, limits, out=np.where(values > 0, np.inf, 0.0), where=limits > 0)
        moment, mains, step = (int(i) for i in np.unravel_index(int(np.argmax(share)), values.shape))
        value = float(values[moment, mains, step])
        limit = max(float(limits[moment, mains, step]), 1e-9)
        if value <= 0:
            return Stress(burden, 0.0, limit, "", 1.0, Moment.RUNNING)
        return Stress(burden, value, limit, str(step + 1), MAINS[mains], _MOMENTS[moment])


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
    fuse_a = design.fuse_a or _fuse(found, supply)
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
        _fuse_part(found, supply, fuse_a, design.fuse_a is not None),
        _switch(found, supply, design),
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


def rush_i2t(found: Load, supply: Source) -> float:
    """I²t of the first period with the motor at rest, fully offset: ∫ (Î(1 − cos ωt))² dt = 3 I² / f [A²s]"""
    return float(3 * found.line_a[1].max() ** 2 / supply.frequency_hz)


def _fuse(found: Load, supply: Source) -> float:
    needed = FUSE_FACTOR * float(found.line_a[0].max())
    holds = np.sqrt(rush_i2t(found, supply) / FUSE_MELTING)
    if max(needed, holds) > FUSES_A[-1]:
        raise InputError("fuse", needed, f"up to {FUSES_A[-1]:g} A", "no fuse of this kind is large enough")
    return next_fuse(max(needed, float(holds)))


def _fuse_part(found: Load, supply: Source, fuse_a: float, by_hand: bool) -> RatedPart:
    rush = Stress(
        Burden.MELTING,
        rush_i2t(found, supply),
        FUSE_MELTING * fuse_a**2,
        f"Off to {1 + int(found.line_a[1].max(axis=0).argmax())}",
        MAINS[-1],
        Moment.SWITCHING,
        passage=True,
    )
    amps = found.worst(Burden.AMPS, found.line_a[:1], fuse_a / FUSE_FACTOR)
    limit = FUSE_FACTOR * float(found.line_a[0].max())
    return judged(
        RatedPart(
            "F",
            RatedKind.FUSE,
            "",
            PartClass.FUSE,
            fuse_a,
            1,
            FUSE_V,
            (amps, rush),
            limit=limit,
            by_hand=by_hand,
        )
    )


def _switch(found: Load, supply: Source, design: ResistorDesign) -> RatedPart:
    switch = design.switch
    crest = 2 * np.sqrt(2) * found.line_a[1]
    step = int(crest.max(axis=0).argmax()) + 1
    return judged(
        RatedPart(
            "S",
            RatedKind.SWITCH,
            "",
            PartClass.SWITCH,
            float(switch.positions),
            1,
            switch.rated_voltage_v,
            (
                found.worst(Burden.AMPS, found.line_a[:1], switch.rated_current_a),
                Stress(
                    Burden.PEAK, float(crest.max()), switch.make_current_a, f"Off to {step}", MAINS[-1],
                    Moment.SWITCHING, passage=True,
                ),
                Stress(
                    # Contacts are rated for nominal mains: what they hold open is weighed on the stated ones.
                    Burden.VOLTS, supply.voltage_v, switch.rated_voltage_v, "Off", 1.0, Moment.AT_REST
                ),
            ),
        )
    )  # fmt: skip


def _wire(found: Load, supply: Source) -> RatedPart:
    amps = found.worst(Burden.AMPS, found.line_a[:1], WIRE_A)
    volts = Stress(Burden.VOLTS, MAINS[-1] * supply.voltage_v, WIRE_V, "Off", MAINS[-1], Moment.AT_REST)
    # Held fast is not for good; what wires and switch live in is the air while it runs.
    warm = found.worst(Burden.HEAT, found.air_c[:1] * (found.heat_w[:1].sum(axis=-1) > 0), WIRING_C)
    part = RatedPart("W", RatedKind.WIRE, "", None, 0.0, 1, WIRE_V, (amps, volts, warm))
    if warm.holds:
        return judged(part)
    words = (
        f"the air in the housing would reach {warm.value:.0f} °C at step {warm.position}, and switch, fuse and wire bear "
        f"{WIRING_C:g} °C: open it, or mount the resistors outside"
    )
    return replace(part, refusal=words)
