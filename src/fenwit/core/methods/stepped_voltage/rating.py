"""What a transformer and what stands around it bear at worst: winding amps, warmth, first rush, joined taps."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from fenwit.core.circuit import Circuit
from fenwit.core.circuit.fed import ComplexArray, fed, joined_taps
from fenwit.core.job.machine import MachineFan
from fenwit.core.memory import remembered
from fenwit.core.methods.common.switched import Line, fuse_for, fuse_part, switch_part, wire_part
from fenwit.core.methods.stepped_voltage.design import SteppedDesign, tapped_circuit
from fenwit.core.methods.stepped_voltage.settings import TappedPoint, bears, on_taps, source_of
from fenwit.core.operating import Solution, Source
from fenwit.core.regulator.transformer import (
    AMBIENT_C,
    FLUX_LIMIT,
    FRAMES,
    RISE_K,
    Rush,
    Transformer,
    Winding,
    first_rush,
    mains_side,
    transformer,
)
from fenwit.core.size.rated import MAINS, Burden, RatedPart, Stress

FUSE_SHARE = 0.3
"""Of the fuse's melting I²t that the first rush may have: it comes at every switching on [-]"""
NAME, SECOND_FUSE = "TR", "F2"


@dataclass(frozen=True)
class Joined:
    """What runs while two taps stand on one contact."""

    where: str
    current_a: float
    rated_a: float


@dataclass(frozen=True, eq=False)
class Rated:
    """A transformer solved on every tap and mains, with what each part bears."""

    design: SteppedDesign
    """With the frame chosen"""
    unit: Transformer
    circuit: Circuit
    solutions: tuple[tuple[Solution, ...], ...]
    """For each of `MAINS` the steps in order"""
    winding: tuple[Stress, ...]
    """What its winding bears: amps, and temperature"""
    refusal: str
    """Why the transformer will not do; empty when it will"""
    flux_words: str
    """Why its iron would saturate; empty when it would not"""
    parts: tuple[RatedPart, ...]
    """Fuse, switch and wire"""
    rush: Rush
    joined: Joined | None
    """Two taps on one contact, where the switch lets that be"""

    @property
    def nominal(self) -> tuple[Solution, ...]:
        """The steps on the stated mains."""
        return self.solutions[MAINS.index(1.0)]


def unit_of(design: SteppedDesign, va: float) -> Transformer:
    """The transformer of a design in a frame."""
    return transformer(
        design.winding, va, design.rated_v, design.rated_hz, design.secondary_v, design.measured
    )


@remembered
def rate(fan: MachineFan, design: SteppedDesign) -> Rated:
    """Solve every tap at every mains, choose what was left open, and weigh every part against its rating.

    Parameters
    ----------
    fan : MachineFan
        The fan [-]
    design : SteppedDesign
        Taps, frame and switch [-]

    Returns
    -------
    Rated
        The transformer with its parts; what will not do says why [-]

    Raises
    ------
    InputError
        Values that cannot be real.
    """
    sizes = (design.va,) if design.va is not None else tuple(f.va for f in FRAMES)
    for va in sizes:
        unit = unit_of(design, va)
        # Amps and heat are most on high mains: those decide the frame.
        high_mains = on_taps(fan, unit, design.step_v, MAINS[-1], growth=False)
        if bears(unit, high_mains) and all(s.holds for s in _winding(design, unit, (high_mains,) * 3)):
            break
    solutions = (*(on_taps(fan, unit, design.step_v, m) for m in MAINS[:-1]), high_mains)
    winding = _winding(design, unit, solutions)
    chosen = replace(design, va=unit.va)
    line = _line(fan, unit, design, solutions)
    motor = _motor_line(fan, unit, design, solutions)
    high = MAINS[-1] * fan.supply.voltage_v
    rush = first_rush(unit, high, fan.supply.frequency_hz)
    i2t = max(rush.i2t_a2s, motor.rush_i2t(fan.supply) if design.direct else 0.0)
    fuse_a = design.fuse_a or fuse_for(line.most_a, i2t, FUSE_SHARE)
    second = fuse_for(motor.most_a, motor.rush_i2t(fan.supply))
    circuit = tapped_circuit(chosen, unit, fuse_a, second)
    joined = _joined(fan, chosen, unit, circuit)
    switch = switch_part(motor, fan.supply, design.switch)
    if joined is not None:
        words = (
            f"makes before it breaks: from {joined.where} both taps are joined, and {joined.current_a:.2g} A run round "
            f"in a winding made for {joined.rated_a:.2g} A; take a switch that breaks first"
        )
        switch = replace(switch, refusal=words)
    flux = _flux_words(fan, unit)
    return Rated(
        chosen,
        unit,
        circuit,
        solutions,
        winding,
        flux or _refusal(design, winding),
        flux,
        (
            fuse_part(line, fuse_a, design.fuse_a is not None, i2t, FUSE_SHARE),
            *((_second_fuse(motor, fan.supply),) if unit.winding is Winding.SEPARATE else ()),
            switch,
            wire_part(line, fan.supply),
        ),
        rush,
        joined,
    )


def _second_fuse(motor: Line, supply: Source) -> RatedPart:
    """Of the secondary: the primary's does not see what is shorted behind many ohms of copper."""
    i2t = motor.rush_i2t(supply)
    return replace(fuse_part(motor, fuse_for(motor.most_a, i2t), False, i2t), name=SECOND_FUSE)


def _flux_words(fan: MachineFan, unit: Transformer) -> str:
    supply = fan.supply
    flux = unit.flux(supply.voltage_v, supply.frequency_hz)
    if flux <= FLUX_LIMIT + 1e-9:
        return ""
    return (
        f"made for {unit.supply_v:g} V {unit.frequency_hz:g} Hz: on {supply.voltage_v:g} V {supply.frequency_hz:g} Hz "
        f"its iron would saturate ({flux:.2f} × its volts per hertz), and nothing is predicted"
    )


def _points(solutions: tuple[tuple[Solution, ...], ...]) -> list[list[TappedPoint | None]]:
    return [[p if isinstance(p := s.running, TappedPoint) else None for s in row] for row in solutions]


def _winding(
    design: SteppedDesign, unit: Transformer, solutions: tuple[tuple[Solution, ...], ...]
) -> tuple[Stress, ...]:
    """Amps of the section that carries most, and how hot the winding gets."""
    points = _points(solutions)
    amps = np.array([[p.winding_a if p else 0.0 for p in row] for row in points])[None]
    loss = np.array([[p.copper_w + p.core_w if p else 0.0 for p in row] for row in points])[None]
    rise = RISE_K[design.insulation] * loss / (unit.regulation * unit.va + unit.core_loss_w)
    line = Line(amps)
    hot = line.worst(Burden.HEAT, (design.room_c + rise) * (loss > 0), AMBIENT_C + RISE_K[design.insulation])
    return line.worst(Burden.AMPS, amps, unit.rated_a), hot


def _refusal(design: SteppedDesign, winding: tuple[Stress, ...]) -> str:
    amps, hot = winding
    if not amps.holds:
        return (
            f"too small: {amps.value:.2g} A in its winding at step {amps.position} on high mains, and it carries "
            f"{amps.rating:.2g} A; take a larger frame"
        )
    if not hot.holds:
        return (
            f"too hot: about {hot.value:.0f} °C at step {hot.position}, and class {design.insulation} bears "
            f"{hot.rating:.0f} °C; take a larger frame, a better class, or cooler air"
        )
    return ""


def _line(
    fan: MachineFan,
    unit: Transformer,
    design: SteppedDesign,
    solutions: tuple[tuple[Solution, ...], ...],
) -> Line:
    """Amps at the mains, running and with the fan held fast."""
    running = np.array([[p.mains_current_a if p else 0.0 for p in row] for row in _points(solutions)])
    taps = np.array(design.step_v)
    held = []
    for m in MAINS:
        volts = m * fan.supply.voltage_v
        amps = _held_a(fan, unit, design, volts)
        side = mains_side(unit, volts, fan.supply.frequency_hz, taps, amps, np.zeros(len(taps)))
        held.append(side.line_current_a)
    return Line(np.stack([running, np.array(held)]))


def _held_a(fan: MachineFan, unit: Transformer, design: SteppedDesign, volts: float) -> ComplexArray:
    """Motor amps on each tap with the fan held fast, as phasors against the mains [A]"""
    y = complex(fan.belief.motor.respond(np.array(1.0), fan.supply.frequency_hz).admittance_s)
    sources = [source_of(unit, v, volts, fan.supply.frequency_hz) for v in design.step_v]
    return np.array([s.voltage_v * y / (1 + s.impedance_ohm * y) for s in sources], dtype=np.complex128)


def _motor_line(
    fan: MachineFan,
    unit: Transformer,
    design: SteppedDesign,
    solutions: tuple[tuple[Solution, ...], ...],
) -> Line:
    """Amps between tap and motor, which the contacts carry."""
    running = np.array([[p.line_current_a if p else 0.0 for p in row] for row in _points(solutions)])
    held = np.array([np.abs(_held_a(fan, unit, design, m * fan.supply.voltage_v)) for m in MAINS])
    return Line(np.stack([running, held]))


def _joined(fan: MachineFan, design: SteppedDesign, unit: Transformer, circuit: Circuit) -> Joined | None:
    """The worst of the states in which two taps are joined: what the circuit itself lets run round."""
    worst: Joined | None = None
    for state in joined_taps(circuit, design.switch.make_before_break):
        through = fed(circuit, fan.supply.frequency_hz, state, fan.supply.voltage_v).part_a
        amps = max(abs(a) for name, a in through.items() if name != "WP")
        if worst is None or amps > worst.current_a:
            worst = Joined(state.name, amps, unit.rated_a)
    return worst


def source_at(rated: Rated, step: int, supply: Source) -> Source:
    """What the motor is fed from at a step, counted from 0."""
    return source_of(rated.unit, rated.design.step_v[step], supply.voltage_v, supply.frequency_hz)
