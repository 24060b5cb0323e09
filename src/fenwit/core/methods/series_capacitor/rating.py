"""What every part of a bank bears at worst, against its rating; and the small parts that make the bank safe."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from fenwit.core.circuit import Circuit, PartKind
from fenwit.core.circuit.contacts import passages
from fenwit.core.circuit.network import PositionSolution, solve_bank
from fenwit.core.load import FanLoad
from fenwit.core.methods.series_capacitor.design import BankDesign, Fitting, bank_circuit
from fenwit.core.methods.series_capacitor.wiring import members
from fenwit.core.motor.machine import Machine
from fenwit.core.operating import (
    Solution,
    Source,
    StepVerdict,
    judge_step,
    scan,
    solve,
    tabulate,
    voltage_limit_v,
)
from fenwit.core.size.classes import (
    CLASSES,
    DERATING,
    FUSE_FACTOR,
    FUSE_MELTING,
    FUSES_A,
    PartClass,
    next_fuse,
    next_watts,
)
from fenwit.core.size.rated import (
    MAINS,
    WIRE_A,
    WIRE_V,
    Burden,
    Moment,
    RatedKind,
    RatedPart,
    Stress,
    at_least,
    at_most,
    judged,
)
from fenwit.core.size.small_parts import (
    AIR_C,
    AIR_K_PER_W,
    ENCLOSED,
    TOUCHABLE,
    bleed_limit_ohm,
    capacitor_loss_w,
    equalising_current_a,
    limiter_least_ohm,
    surge_energy_j,
)

FloatArray = NDArray[np.float64]


@dataclass(frozen=True)
class Rated:
    """A bank fitted out, solved at every position and mains, with what each part bears."""

    design: BankDesign
    fitting: Fitting
    circuit: Circuit
    positions: tuple[PositionSolution, ...]
    """Off left out"""
    solutions: tuple[tuple[Solution, ...], ...]
    """For each of `MAINS` the steps in order"""
    usable: tuple[bool, ...]
    """Steps that start and stay within motor volts on the stated mains"""
    parts: tuple[RatedPart, ...]

    @property
    def nominal(self) -> tuple[Solution, ...]:
        """The steps on the stated mains."""
        return self.solutions[MAINS.index(1.0)]


# ---------------------------------------------------------------- fitting out and rating a bank


def rate(motor: Machine, load: FanLoad, supply: Source, design: BankDesign) -> Rated:
    """Fit a bank out with bleeds, limiters and fuse, solve it everywhere, and weigh every part against its rating.

    Parameters
    ----------
    motor : Machine
        Motor with scalar parameters [-]
    load : FanLoad
        Fan [-]
    supply : Source
        Supply as stated; the bank is also solved at ±10 % [-]
    design : BankDesign
        Capacitors, patterns, switch and what was set by hand [-]

    Returns
    -------
    Rated
        The bank with its parts; a part that will not do says why [-]

    Raises
    ------
    InputError
        Values that cannot be real.
    """
    bare = solve_bank(bank_circuit(design), supply.frequency_hz)[1:]
    amps, running = _amps_of_bare(motor, load, supply, bare)
    crests = [
        float(np.sqrt(2))
        * max(1.1 * supply.voltage_v, *(p.volts(name, a) for p, a in zip(bare, amps, strict=True)))
        for name in design.names
    ]
    choice = _fit(design, supply.voltage_v, crests, running)
    solved = _solve(motor, load, supply, bank_circuit(design, choice.fitting), MAINS)
    parts = _parts(design, choice, solved, crests)
    return Rated(
        design,
        choice.fitting,
        solved.circuit,
        solved.positions,
        tuple(tuple(s for s in row) for row in solved.solutions),
        solved.usable,
        parts,
    )


def _amps_of_bare(
    motor: Machine, load: FanLoad, supply: Source, bare: Sequence[PositionSolution]
) -> tuple[list[float], float]:
    """Line amps of the bare bank on high mains, running or at rest, and the most while running; barred steps: none."""
    high = MAINS[-1] * supply.voltage_v
    z = np.array([complex(p.impedance_ohm) for p in bare])
    found = scan(tabulate(motor, load, supply.frequency_hz), high, z)
    usable = found.motor_voltage_v <= MAINS[-1] * voltage_limit_v(motor, supply.frequency_hz)
    running = np.where(found.runs & usable, np.abs(found.admittance_s) * found.motor_voltage_v, 0.0)
    y = complex(motor.respond(np.array(1.0), supply.frequency_hz).admittance_s)
    at_rest = np.where(usable, np.abs(y / (1 + z * y)) * high, 0.0)
    return [float(a) for a in np.maximum(running, at_rest)], float(running.max(initial=0.0))


@dataclass(frozen=True)
class _Solved:
    circuit: Circuit
    positions: tuple[PositionSolution, ...]
    mains: tuple[float, ...]
    solutions: tuple[tuple[Solution, ...], ...]
    usable: tuple[bool, ...]
    supply: Source
    volts: dict[str, FloatArray]
    """Volts across each part per line ampere, by step [V/A]"""
    amps: dict[str, FloatArray]
    """Amps through each part per line ampere, by step [A/A]"""
    line_a: FloatArray
    """Line amps running and standing still, shape (2, mains, steps); 0 where a step may not be used [A]"""

    def worst(self, burden: Burden, rating: float, values: FloatArray) -> Stress:
        """The worst of a burden, from values of the shape of `line_a` or only of its running part."""
        moment, mains, step = np.unravel_index(int(np.argmax(values)), values.shape)
        value = float(values[moment, mains, step])
        if value <= 0:
            return Stress(burden, 0.0, rating, "", 1.0, Moment.RUNNING)
        return Stress(
            burden,
            value,
            rating,
            self.positions[step].position,
            self.mains[mains],
            (Moment.RUNNING, Moment.AT_REST)[moment],
        )

    @property
    def running_a(self) -> FloatArray:
        """Line amps while the fan runs, shape (1, mains, steps) [A]"""
        return self.line_a[:1]


def _solve(
    motor: Machine, load: FanLoad, supply: Source, circuit: Circuit, mains: tuple[float, ...]
) -> _Solved:
    positions = solve_bank(circuit, supply.frequency_hz)[1:]
    z = np.array([complex(p.impedance_ohm) for p in positions])
    flat = solve(
        motor,
        load,
        [Source(m * supply.voltage_v, supply.frequency_hz, complex(v)) for m in mains for v in z],
    )
    rows = tuple(flat[i * len(z) : (i + 1) * len(z)] for i in range(len(mains)))
    y = complex(motor.respond(np.array(1.0), supply.frequency_hz).admittance_s)
    at_rest = np.abs(y / (1 + z * y)) * supply.voltage_v * np.array(mains)[:, None]
    # The limit moves with the mains: what a regulator adds to them is judged, not the mains themselves.
    usable = tuple(
        all(
            judge_step(row[k], m * voltage_limit_v(motor, supply.frequency_hz), float(load.friction_nm))[0]
            is not StepVerdict.BARRED
            for m, row in zip(mains, rows, strict=True)
        )
        for k in range(len(z))
    )
    counts = np.array([ok and p.conducts for ok, p in zip(usable, positions, strict=True)])
    running = np.array([[r.running.line_current_a if r.running else 0.0 for r in row] for row in rows])
    return _Solved(
        circuit,
        positions,
        mains,
        rows,
        usable,
        supply,
        {
            p.name: np.array([abs(complex(q.part_voltage_v_per_a[p.name])) for q in positions])
            for p in circuit.parts
        },
        {
            p.name: np.array([abs(complex(q.part_current_a_per_a[p.name])) for q in positions])
            for p in circuit.parts
        },
        np.stack([running, at_rest]) * counts,
    )


@dataclass(frozen=True)
class _Choice:
    fitting: Fitting
    bleed_limit_ohm: tuple[float, ...]
    limiter_least_ohm: tuple[float, ...]
    step_v: tuple[float, ...]
    """Volts across each limiter at the first instant [V]"""


def _fit(design: BankDesign, supply_v: float, crests: Sequence[float], amps: float) -> _Choice:
    safe, time = ENCLOSED if design.enclosed else TOUCHABLE
    working = CLASSES[PartClass.METAL_FILM].rated_v
    bleeds, pieces, limiters = [], [], []
    limits, least, steps = [], [], []
    for i, capacitor in enumerate(design.capacitors):
        limit = bleed_limit_ohm(capacitor.value_f, crests[i], safe, time)
        count = int(np.ceil(crests[i] / working))
        by_hand = design.bleed_ohm[i] if i < len(design.bleed_ohm) else None
        # Above a few megohms dirt on the board conducts as well as the resistor.
        bleeds.append(by_hand or at_most("E24", min(limit / count, 2.2e6)))
        pieces.append(count)
        step = crests[i] + np.sqrt(2) * 1.1 * supply_v
        lowest = limiter_least_ohm(step, design.switch.make_current_a)
        by_hand = design.limiter_ohm[i] if i < len(design.limiter_ohm) else None
        limiters.append(by_hand or at_least("E12", lowest))
        limits.append(limit)
        least.append(lowest)
        steps.append(float(step))
    # The scan these amps come from is good to a thousandth.
    needed = FUSE_FACTOR * amps * 1.002
    # A fuse also has to hold the first rush of current; both limiters of a pair feed it.
    rush = _rush_i2t(design, limiters, steps)
    while next_fuse(needed) ** 2 * FUSE_MELTING < rush and needed < FUSES_A[-1]:
        needed = next_fuse(needed) * 1.0001
    fuse = design.fuse_a or next_fuse(needed)
    return _Choice(
        Fitting(tuple(bleeds), tuple(pieces), tuple(limiters), fuse),
        tuple(limits),
        tuple(least),
        tuple(steps),
    )


def _rush_i2t(design: BankDesign, limiters: Sequence[float], steps: Sequence[float]) -> float:
    """Most I²t through the fuse when a position is switched on: ½ C V²/R for each capacitor, roots added."""
    roots = [
        np.sqrt(surge_energy_j(c.value_f, v) / r)
        for c, v, r in zip(design.capacitors, steps, limiters, strict=True)
    ]
    return float(
        max(
            (sum(roots[design.names.index(m)] for m in members(p)) ** 2 for p in design.patterns),
            default=0.0,
        )
    )


def _parts(
    design: BankDesign, choice: _Choice, solved: _Solved, crests: Sequence[float]
) -> tuple[RatedPart, ...]:
    supply_v = solved.supply.voltage_v
    found: list[RatedPart] = []
    heat = _heat_w(solved)
    for i, name in enumerate(design.names):
        found += [
            _capacitor(design, i, name, solved, heat),
            _bleed(design, i, name, choice, solved),
            _limiter(design, i, name, choice, solved),
        ]
    fuse_a = choice.fitting.fuse_a
    found.append(
        judged(
            RatedPart(
                "F",
                RatedKind.FUSE,
                "",
                PartClass.FUSE,
                fuse_a,
                1,
                CLASSES[PartClass.FUSE].rated_v,
                (
                    solved.worst(Burden.AMPS, fuse_a / FUSE_FACTOR, solved.running_a),
                    Stress(
                        Burden.MELTING,
                        _rush_i2t(design, choice.fitting.limiter_ohm, choice.step_v),
                        FUSE_MELTING * fuse_a**2,
                        "Off to 1",
                        1.1,
                        Moment.SWITCHING,
                        passage=True,
                    ),
                ),
                limit=FUSE_FACTOR * float(solved.running_a.max()),
                by_hand=design.fuse_a is not None,
            )
        )
    )
    found.append(judged(_switch(design, choice, solved, crests)))
    found.append(
        RatedPart(
            "W",
            RatedKind.WIRE,
            "",
            None,
            0.0,
            1,
            WIRE_V,
            (
                solved.worst(Burden.AMPS, WIRE_A, solved.running_a),
                Stress(Burden.VOLTS, 1.1 * supply_v, WIRE_V, "Off", 1.1, Moment.AT_REST),
            ),
        )
    )
    return tuple(found)


def _heat_w(solved: _Solved) -> FloatArray:
    """Heat of all parts of the bank, shape (1, mains, steps)."""
    heat = [[s.running.series_loss_w if s.running else 0.0 for s in row] for row in solved.solutions]
    return np.array([heat]) * (solved.running_a > 0)


def _capacitor(design: BankDesign, i: int, name: str, solved: _Solved, heat: FloatArray) -> RatedPart:
    capacitor = design.capacitors[i]
    facts = CLASSES[capacitor.part_class]
    volts = solved.worst(Burden.VOLTS, capacitor.rated_v, solved.volts[name] * solved.line_a)
    running_v = solved.volts[name] * solved.running_a
    own = capacitor_loss_w(capacitor.value_f, running_v, solved.supply.frequency_hz, facts.loss_factor)
    case = AIR_C + AIR_K_PER_W * heat + facts.rise_k_per_w * own
    warm = solved.worst(Burden.HEAT, facts.hottest_c, case)
    return judged(
        RatedPart(
            name,
            RatedKind.CAPACITOR,
            "",
            capacitor.part_class,
            capacitor.value_f,
            1,
            capacitor.rated_v,
            (
                volts,
                solved.worst(Burden.AMPS, facts.current_a, solved.amps[name] * solved.running_a),
                warm,
            ),
        )
    )


def _bleed(design: BankDesign, i: int, name: str, choice: _Choice, solved: _Solved) -> RatedPart:
    pieces, ohms = choice.fitting.bleeds_in_series[i], choice.fitting.bleed_ohm[i]
    facts = CLASSES[PartClass.METAL_FILM]
    volts = solved.worst(Burden.CREST, facts.rated_v, solved.volts[name] * solved.line_a)
    # Standing by with the switch at any position it may see the whole supply.
    rms = max(volts.value, 1.1 * solved.supply.voltage_v)
    worst = (
        volts if volts.value >= rms else Stress(Burden.CREST, rms, facts.rated_v, "any", 1.1, Moment.AT_REST)
    )
    crest = float(np.sqrt(2)) * rms / pieces
    power = (rms / pieces) ** 2 / ohms
    rated = next_watts(PartClass.METAL_FILM, power / DERATING)
    limit = choice.bleed_limit_ohm[i]
    place, mains, moment = worst.position, worst.mains, worst.moment
    refusal = ""
    if pieces * ohms > limit * (1 + 1e-9):
        safe, time = ENCLOSED if design.enclosed else TOUCHABLE
        refusal = (
            f"{pieces * ohms / 1000:.3g} kΩ in all leaves more than {safe:g} V after {time:g} s; "
            f"at most {limit / 1000:.4g} kΩ"
        )
    return judged(
        RatedPart(
            f"D{name}",
            RatedKind.BLEED,
            name,
            PartClass.METAL_FILM,
            ohms,
            pieces,
            rated,
            (
                Stress(Burden.WATTS, power, rated, place, mains, moment),
                Stress(Burden.CREST, crest, facts.rated_v, place, mains, moment),
            ),
            limit=limit,
            by_hand=i < len(design.bleed_ohm) and design.bleed_ohm[i] is not None,
            refusal=refusal,
        )
    )


def _limiter(design: BankDesign, i: int, name: str, choice: _Choice, solved: _Solved) -> RatedPart:
    ohms, part = choice.fitting.limiter_ohm[i], f"R{name}"
    facts = CLASSES[PartClass.WIREWOUND]
    surge = surge_energy_j(design.capacitors[i].value_f, choice.step_v[i])
    watts = solved.worst(Burden.WATTS, 1.0, ohms * (solved.amps[part] * solved.running_a) ** 2)
    rated = next_watts(PartClass.WIREWOUND, max(watts.value / DERATING, surge / facts.surge_j_per_w))
    least = choice.limiter_least_ohm[i]
    refusal = ""
    if ohms < least * (1 - 1e-9):
        refusal = (
            f"the first current would reach {choice.step_v[i] / ohms:.0f} A; "
            f"the contacts may close on {design.switch.make_current_a:g} A: at least {least:.3g} Ω"
        )
    return judged(
        RatedPart(
            part,
            RatedKind.LIMITER,
            name,
            PartClass.WIREWOUND,
            ohms,
            1,
            rated,
            (
                Stress(Burden.WATTS, watts.value, rated, watts.position, watts.mains, watts.moment),
                Stress(
                    Burden.SURGE, surge, rated * facts.surge_j_per_w, "Off to 1", 1.1, Moment.SWITCHING, True
                ),
            ),
            limit=least,
            by_hand=i < len(design.limiter_ohm) and design.limiter_ohm[i] is not None,
            refusal=refusal,
        )
    )


def _switch(design: BankDesign, choice: _Choice, solved: _Solved, crests: Sequence[float]) -> RatedPart:
    switch = design.switch
    contacts = [p.name for p in solved.circuit.parts if p.kind is PartKind.CONTACT]

    most_through = np.max([solved.amps[c] for c in contacts], axis=0)
    most_across = np.max([solved.volts[c] for c in contacts], axis=0)
    # Contacts are rated for nominal mains: what they hold open is weighed on the stated ones.
    stated = solved.running_a[:, [solved.mains.index(1.0)], :]
    held = solved.worst(Burden.VOLTS, switch.rated_voltage_v, most_across * stated)
    off = Stress(Burden.VOLTS, solved.supply.voltage_v, switch.rated_voltage_v, "Off", 1.0, Moment.RUNNING)
    held = replace(held, mains=1.0) if held.value > off.value * (1 + 1e-9) else off
    rush = max(v / r for v, r in zip(choice.step_v, choice.fitting.limiter_ohm, strict=True))
    peak = Stress(Burden.PEAK, rush, switch.make_current_a, "Off to 1", 1.1, Moment.SWITCHING, True)
    equalising = _equalising(design, choice.fitting, solved.circuit, crests)
    return RatedPart(
        "S",
        RatedKind.SWITCH,
        "",
        PartClass.SWITCH,
        float(switch.positions),
        1,
        switch.rated_voltage_v,
        (
            solved.worst(Burden.AMPS, switch.rated_current_a, most_through * solved.running_a),
            held,
            peak,
            *equalising,
        ),
    )


def _equalising(
    design: BankDesign, fitting: Fitting, circuit: Circuit, crests: Sequence[float]
) -> tuple[Stress, ...]:
    """The worst peak where the switch joins or bridges charged capacitors; nothing where it never does."""
    ohms = dict(zip(design.names, fitting.limiter_ohm, strict=True))
    crest = dict(zip(design.names, crests, strict=True))
    found = []
    steps = {p.name for p in circuit.positions}
    for passage in passages(circuit, design.switch.make_before_break):
        amps = [equalising_current_a(crest[n], 0.0, ohms[n], 0.0) for n in passage.shorted]
        amps += [equalising_current_a(crest[a], crest[b], ohms[a], ohms[b]) for a, b in passage.paralleled]
        found += [(a, passage.name) for a in amps]
    if not found:
        return ()
    amps_worst, where = max(found, key=lambda f: f[0])
    rating, between = design.switch.make_current_a, where not in steps
    return (Stress(Burden.EQUALISING, amps_worst, rating, where, 1.1, Moment.SWITCHING, between),)
