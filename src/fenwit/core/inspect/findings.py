"""What is missing, weak or wrong on a control: rules with thresholds that can be set, each with why and how to look.

Stresses are those at the worst place of the knob or switch, with this fan, on mains a tenth above their stated value.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from fenwit.core import quantity as q
from fenwit.core.circuit import Circuit
from fenwit.core.circuit.network import solve_bank
from fenwit.core.errors import check_range
from fenwit.core.inspect.circuits import board_circuit, ref_of, unit_of
from fenwit.core.inspect.faults import name_of
from fenwit.core.inspect.places import FanSeen, Place, turning
from fenwit.core.inspect.values import network_of, values_of
from fenwit.core.job.board import (
    FIRED,
    KNOBS,
    LIMITS,
    Board,
    BoardPart,
    Condition,
    Limit,
    Role,
    Sense,
    Spindle,
    Topology,
)
from fenwit.core.job.machine import MachineFan
from fenwit.core.methods.phase_angle.design import knob_watts
from fenwit.core.operating import Source
from fenwit.core.regulator.diac import DiacNetwork
from fenwit.core.regulator.firing import firing_inductance_h
from fenwit.core.regulator.series import HIGH_MAINS
from fenwit.core.regulator.snubber import ringing, snubber_loss_w
from fenwit.core.regulator.transformer import Winding
from fenwit.core.size.classes import CLASSES, FUSES_A, PartClass

TRIAC_KW, ROOM_C, JUNCTION_C = 60.0, 40.0, 125.0
"""A small case by itself, the air in a wall box, and the hottest a junction may be [K/W, °C, °C]"""
GATE_A, OPTO_A, TRIAC_DVDT = 0.010, 1.0, 10.0
"""Gate of a usual triac, crest an opto-triac bears, and dv/dt of commutation [A, A, V/µs]"""
BARE_F = 100e-12
"""What stands across a triac without a snubber [F]"""
MAKE_PER_AMP = 80.0 / 6.0
"""Crest a contact may close on, over its rated amps [-]"""
LEAD_OHM = 0.1
"""Of leads and contacts where no limiter is [Ω]"""


class Severity(StrEnum):
    """How bad a finding is."""

    DANGER = "danger"
    DAMAGE = "damage"
    WRONG = "wrong"
    NOTE = "note"


class Key(StrEnum):
    """What can be found."""

    NO_FUSE = "no-fuse"
    FUSE_WRONG = "fuse-wrong"
    NOT_MAINS_CLASS = "not-mains-class"
    SPINDLE_LIVE = "spindle-live"
    NO_BLEED = "no-bleed"
    BLEED_WEAK = "bleed-weak"
    ISOLATION = "isolation"
    BURNS = "burns-at-once"
    LIMITER_SMALL = "limiter-small"
    PART_VOLTS = "part-volts"
    PART_WATTS = "part-watts"
    POT_END = "pot-end"
    NO_SNUBBER = "no-snubber"
    DVDT = "dv-dt"
    TRIAC_HOT = "triac-hot"
    GATE_RESISTOR = "gate-resistor"
    TRACK_THIN = "track-thin"
    NO_SUPPRESSION = "no-suppression"
    STARTS_DARK = "starts-dark"
    FAN_SENSE = "fan-sense"
    NARROW = "narrow-range"
    DEAD_TRAVEL = "dead-travel"
    JUMP = "jump"
    POT_JOINT = "pot-joint"
    LUG_JOINT = "lug-joint"
    FAILS_SECOND = "fails-second"


@dataclass(frozen=True)
class Rule:
    """Words of a finding that do not change."""

    severity: Severity
    title: str
    why: str
    look: str


RULES: Mapping[Key, Rule] = {
    Key.NO_FUSE: Rule(Severity.DANGER, "no fuse in the line", "a shorted part then heats track and leads until one burns",
        "follow the line from the terminal: a fuse, or a holder, comes first"),
    Key.FUSE_WRONG: Rule(Severity.DANGER, "the fuse does not fit", "it lets a fault burn before it melts",
        "read amps, letter and volts on its cap"),
    Key.NOT_MAINS_CLASS: Rule(Severity.DANGER, "a capacitor that is not made for the mains",
        "one that fails short takes the fan to full speed or burns; X and motor-run classes are tested for it",
        "look for X1, X2 or AC volts on its body"),
    Key.SPINDLE_LIVE: Rule(Severity.DANGER, "a metal spindle that may be live", "a finger on the screw is on the line",
        "dead: ohms from spindle to lugs; a plastic shaft, or an insulation class on its body"),
    Key.NO_BLEED: Rule(Severity.DANGER, "nothing empties a section", "it stays charged after switching off",
        "look for a large resistor straight across it; measure its volts a minute after it was on"),
    Key.BLEED_WEAK: Rule(Severity.DANGER, "a bleed is too weak", "the section is still charged when a hand comes near",
        "measure the volts a second, and a minute, after it was on"),
    Key.ISOLATION: Rule(Severity.DANGER, "what should be isolated is not", "the low-voltage side stands on the mains",
        "ohms between a low-voltage lead and the line: millions are right"),
    Key.BURNS: Rule(Severity.DANGER, "a part burns at once", "it bears many times its watts",
        "look for browning and a bulge"),
    Key.LIMITER_SMALL: Rule(Severity.DAMAGE, "the limiter is too small",
        "the sections' rush welds the contact or burns the limiter", "read its ohms; look at the contacts for pits"),
    Key.PART_VOLTS: Rule(Severity.DAMAGE, "a part bears more volts than it may", "it breaks down on a high-mains day",
        "read the volts on its body"),
    Key.PART_WATTS: Rule(Severity.DAMAGE, "a part gets too hot", "it ages, drifts and browns the board under it",
        "browning under it; touch it only dead"),
    Key.POT_END: Rule(Severity.DAMAGE, "the knob bears too much at its end",
        "a small carbon track burns open where the wiper rests most", "sweep it on the ohmmeter: a jump near one end"),
    Key.NO_SNUBBER: Rule(Severity.DAMAGE, "no snubber across the triac",
        "a motor's lagging current makes the volts jump when the triac turns off: it fires again by itself",
        "a film capacitor with a small resistor beside the triac"),
    Key.DVDT: Rule(Severity.DAMAGE, "volts rise too fast on the triac", "it fires again: the speed jumps to full",
        "read snubber and triac; on a scope the step at turn-off"),
    Key.TRIAC_HOT: Rule(Severity.DAMAGE, "the triac gets too hot", "it loses control, or shorts",
        "is there a metal tab with room and air?"),
    Key.GATE_RESISTOR: Rule(Severity.DAMAGE, "the gate resistor does not fit",
        "too few ohms kill the opto-triac, too many let firing miss", "read its bands"),
    Key.TRACK_THIN: Rule(Severity.DAMAGE, "a thin track carries the fan's current",
        "it heats, lifts and cracks, above all where it bends or a lug pulls",
        "browning and a hairline under the glass; bend the board gently, dead"),
    Key.NO_SUPPRESSION: Rule(Severity.WRONG, "no suppression", "the steep edges go out on the mains and into radios",
        "a choke in the line and an X capacitor before the triac"),
    Key.STARTS_DARK: Rule(Severity.WRONG, "it begins dark, as for a lamp",
        "the first places leave the fan standing and humming: it heats without turning",
        "click it on and see: a fan control starts full and comes down"),
    Key.FAN_SENSE: Rule(Severity.NOTE, "it starts full and comes down", "as a fan wants it: the start is sure",
        "click it on and see"),
    Key.NARROW: Rule(Severity.WRONG, "its slow end is still fast", "the fan cannot be made quiet with it",
        "turn it to its slow end and count turns"),
    Key.DEAD_TRAVEL: Rule(Severity.WRONG, "much of the travel does nothing",
        "the hand turns and nothing happens; then everything comes at once", "turn it slowly and watch"),
    Key.JUMP: Rule(Severity.WRONG, "it comes on with a jump",
        "turned up it starts late and fast, and only then can it be turned down", "turn it up slowly from off"),
    Key.POT_JOINT: Rule(Severity.WRONG, "the knob hangs on its solder", "every turn works on the joints: a ring breaks",
        "rings in the solder under the glass; bend it gently, dead"),
    Key.LUG_JOINT: Rule(Severity.WRONG, "wires pull over a lug's edge", "the strands break where the edge cuts",
        "rings in the solder and nicked strands under the glass"),
    Key.FAILS_SECOND: Rule(Severity.NOTE, "what fails second", "once the diac is dead, others bear what it kept away",
        "when the diac is replaced, look at these too"),
}  # fmt: skip
_ORDER = tuple(Severity)


@dataclass(frozen=True)
class Finding:
    """One thing found."""

    key: Key
    part: str
    """Key of the part; empty where it is of the whole [-]"""
    figures: str
    """What it is, with its numbers [-]"""
    sure: bool = True
    """False where the part's value could not be read"""

    @property
    def rule(self) -> Rule:
        """Its words."""
        return RULES[self.key]


def findings(
    board: Board, supply: Source, fan: MachineFan | None, at: Sequence[Place]
) -> tuple[Finding, ...]:
    """Everything that is missing, weak or wrong, the gravest first.

    Parameters
    ----------
    board : Board
        As it was read [-]
    supply : Source
        Mains [-]
    fan : MachineFan or None
        None while too little is known of it: what wants its amps is then left out [-]
    at : sequence of Place
        From `places` of the whole board [-]

    Returns
    -------
    tuple of Finding
        Findings [-]
    """
    check = _Check(board, supply, fan, at)
    found = list(check.all())
    return tuple(sorted(found, key=lambda f: (_ORDER.index(f.rule.severity), list(Key).index(f.key))))


def track_current_a(width_mm: float, copper_um: float, rise_k: float) -> float:
    """Amps that warm an outer track by so much: k ΔT^0.44 A^0.725, A in square mils, k = 0.048 (docs/inspect.md).

    Parameters
    ----------
    width_mm : float
        Narrowest width [mm]
    copper_um : float
        Its thickness [µm]
    rise_k : float
        Rise [K]

    Returns
    -------
    float
        Current [A]

    Raises
    ------
    InputError
        Values that cannot be real.
    """
    check_range("width_mm", width_mm, 0.01, 100.0, "mm")
    check_range("copper_um", copper_um, 1.0, 1000.0, "µm")
    check_range("rise_k", rise_k, 1.0, 150.0, "K")
    area = (width_mm / 0.0254) * (copper_um / 25.4)
    return float(0.048 * rise_k**0.44 * area**0.725)


def track_width_mm(current_a: float, copper_um: float, rise_k: float) -> float:
    """The same the other way [mm]"""
    area = (current_a / (0.048 * rise_k**0.44)) ** (1 / 0.725)
    return float(area / (copper_um / 25.4) * 0.0254)


class _Check:
    """One board looked at rule by rule."""

    def __init__(self, board: Board, supply: Source, fan: MachineFan | None, at: Sequence[Place]) -> None:
        self.board, self.supply, self.fan, self.at = board, supply, fan, at
        self.values = values_of(board).likely
        self.volts = supply.voltage_v
        self.high = HIGH_MAINS * self.volts
        self.crest = float(np.sqrt(2)) * self.high
        self.seen: list[FanSeen] = [p.fan for p in at if p.fan is not None and p.fan.speed_rpm > 0]
        self.amps = None if fan is None else fan.full_point.line_current_a

    def all(self) -> Iterator[Finding]:
        yield from self._fuse()
        yield from self._classes()
        yield from self._hands()
        if self.board.topology is Topology.SECTIONS:
            yield from self._bank()
        if self.board.topology is Topology.CHAIN:
            yield from self._chain()
        if self.board.topology is Topology.STEPPED:
            yield from self._stepped()
        if self.board.topology in FIRED:
            yield from self._triac()
            yield from self._suppression()
        if self.board.topology in KNOBS:
            yield from self._knob()
        yield from self._track()
        yield from self._joints()

    def _found(self, key: Key, figures: str, part: str = "") -> Finding:
        told = next((p for p in self.board.parts if p.key == part), None)
        return Finding(
            key, part, figures, told is None or told.condition in (Condition.READ, Condition.MISSING)
        )

    def _missing(self, role: Role, number: int = 1) -> bool:
        part = self.board.part(role, number)
        return part is not None and not part.fitted

    # ------------------------------------------------------------ the line

    def _fuse(self) -> Iterator[Finding]:
        if self._missing(Role.FUSE):
            yield self._found(Key.NO_FUSE, "none is fitted", Role.FUSE.value)
        part = self.board.fitted(Role.FUSE)
        if part is None:
            return
        value = self.values[Role.FUSE.value]
        if part.volts_v is not None and (part.volts_ac is False or part.volts_v < 0.95 * self.volts):
            kind = "DC" if part.volts_ac is False else "AC"
            yield self._found(
                Key.FUSE_WRONG, f"marked {part.volts_v:.0f} V {kind}: it cannot break {self.volts:.0f} V mains",
                Role.FUSE.value,
            )  # fmt: skip
        if self.amps is not None:
            factor = self.board.limit(Limit.FUSE_FACTOR)
            above = [f for f in FUSES_A if f >= factor * self.amps]
            if len(above) > 1 and value > above[1]:
                yield self._found(
                    Key.FUSE_WRONG,
                    f"{q.plain(value)} A where {q.plain(factor, 2)} × {q.plain(self.amps, 2)} A ask for "
                    f"{q.plain(above[0])} or {q.plain(above[1])} A",
                    Role.FUSE.value,
                )  # fmt: skip
            elif value < self.amps:
                yield self._found(
                    Key.FUSE_WRONG,
                    f"{q.plain(value)} A, and the fan takes {q.plain(self.amps, 2)} A at full: it melts for nothing",
                    Role.FUSE.value,
                )  # fmt: skip

    def _classes(self) -> Iterator[Finding]:
        for part in self.board.parts:
            if part.role not in (Role.SECTION, Role.X_CAPACITOR, Role.SNUBBER_CAPACITOR, Role.DROPPER):
                continue
            if not part.fitted:
                continue
            worst = self._capacitor_v(part)
            margin = self.board.limit(Limit.AC_MARGIN)
            crest = float(np.sqrt(2)) * worst
            if part.part_class in (PartClass.DC_FILM, PartClass.ELECTROLYTIC):
                told = f" of {part.volts_v:.0f} V DC" if part.volts_v else ""
                yield self._found(
                    Key.NOT_MAINS_CLASS,
                    f"{CLASSES[part.part_class].name}{told}: it sees crests of {crest:.0f} V on high mains",
                    part.key,
                )
            elif part.volts_ac is False and part.volts_v is not None:
                yield self._found(
                    Key.NOT_MAINS_CLASS,
                    f"{part.volts_v:.0f} V DC only: it sees crests of {crest:.0f} V on high mains",
                    part.key,
                )
            elif part.volts_v is not None and part.volts_v < margin * worst / HIGH_MAINS:
                yield self._found(
                    Key.NOT_MAINS_CLASS,
                    f"{part.volts_v:.0f} V AC where {worst / HIGH_MAINS:.0f} V × {q.plain(margin, 2)} are wanted",
                    part.key,
                )

    def _capacitor_v(self, part: BoardPart) -> float:
        """Volts across a capacitor at its worst place, on high mains [V]"""
        if part.role is not Role.SECTION:
            return self.high
        worst = 0.0
        for amps, name in self._line_amps():
            bank = self._bank_solution().get(name)
            if bank is not None and ref_of(part.key) in bank:
                worst = max(worst, bank[ref_of(part.key)] * amps)
        return worst or self.high

    def _circuit(self) -> Circuit:
        return board_circuit(self.board, self.values)

    def _bank_solution(self) -> dict[str, dict[str, float]]:
        found: dict[str, dict[str, float]] = {}
        for solved in solve_bank(self._circuit(), self.supply.frequency_hz):
            if solved.conducts:
                found[solved.position] = {
                    n: float(np.abs(v)) for n, v in solved.part_voltage_v_per_a.items() if v.size
                }
        return found

    def _line_amps(self) -> Iterator[tuple[float, str]]:
        """Line amps on high mains at each position, running or standing, whichever is more."""
        if self.fan is None:
            return
        at_rest = complex(self.fan.belief.motor.respond(np.array(1.0), self.supply.frequency_hz).admittance_s)
        solved = {s.position: s for s in solve_bank(self._circuit(), self.supply.frequency_hz) if s.conducts}
        for place in self.at:
            name = str(int(place.at))
            if name not in solved:
                continue
            z = complex(solved[name].impedance_ohm)
            standing = abs(at_rest / (1 + z * at_rest)) * self.high
            running = HIGH_MAINS * (place.fan.line_current_a if place.fan else 0.0)
            yield max(standing, running), name

    # ------------------------------------------------------------ what a hand reaches

    def _hands(self) -> Iterator[Finding]:
        build = self.board.build
        if build.spindle is Spindle.METAL:
            yield self._found(
                Key.SPINDLE_LIVE,
                "metal, without an insulation class of its own"
                + (", and its grub screw can be touched" if build.grub_screw else ""),
            )
        elif build.grub_screw:
            yield self._found(Key.SPINDLE_LIVE, "a metal screw in the knob can be touched")
        if build.low_voltage_bare:
            yield self._found(Key.ISOLATION, "a low-voltage lead is not behind the opto")
        if build.taken_for_isolator:
            yield self._found(
                Key.ISOLATION, "an autotransformer isolates nothing: every tap stands on the line"
            )

    def _discharge(self, farads: float, ohm: float | None) -> Iterator[tuple[float, float, str]]:
        """Volts that are left, their limit, and when."""
        whole = self.crest
        inside = whole if ohm is None else whole * float(np.exp(-60 / (ohm * farads)))
        yield inside, self.board.limit(Limit.INSIDE_V), "after 60 s inside"
        if self.board.build.plugged:
            pins = whole if ohm is None else whole * float(np.exp(-1 / (ohm * farads)))
            yield pins, self.board.limit(Limit.PINS_V), "at the pins after 1 s"

    def _left(self, key: str, farads: float, ohm: float | None) -> Iterator[Finding]:
        over = [(left, limit, when) for left, limit, when in self._discharge(farads, ohm) if left > limit]
        if over:
            left, limit, when = over[-1]
            words = f"{left:.0f} V {when}, where {limit:.0f} V may be"
            yield self._found(Key.NO_BLEED if ohm is None else Key.BLEED_WEAK, words, key)

    # ------------------------------------------------------------ on a switch

    def _bank(self) -> Iterator[Finding]:
        switch = self.board.fitted(Role.SWITCH)
        make = MAKE_PER_AMP * (6.0 if switch is None or switch.amps_a is None else switch.amps_a)
        solution = self._bank_solution()
        amps = {name: a for a, name in self._line_amps()}
        for n in range(1, self.board.count(Role.SECTION) + 1):
            farads = self.values.get(f"{Role.SECTION.value}-{n}")
            if farads is None:
                continue
            bleed_key, limiter_key = f"{Role.BLEED.value}-{n}", f"{Role.LIMITER.value}-{n}"
            bleed = self.values.get(bleed_key)
            if bleed is not None or self._missing(Role.BLEED, n):
                yield from self._left(
                    bleed_key if bleed is not None else f"{Role.SECTION.value}-{n}", farads, bleed
                )
            if bleed is not None:
                yield from self._watts(bleed_key, max((v.get(ref_of(bleed_key), 0.0) * amps.get(p, 0.0))
                                                      for p, v in solution.items()) ** 2 / bleed)  # fmt: skip
            limiter = self.values.get(limiter_key)
            if limiter is None and not self._missing(Role.LIMITER, n):
                continue
            ohm = limiter or LEAD_OHM
            swing = 2 * float(np.sqrt(2)) * self.volts
            rush, energy = swing / ohm, 0.5 * farads * swing**2
            part = self.board.fitted(Role.LIMITER, n)
            bears = None if part is None or part.watts_w is None else 2.0 * part.watts_w
            if rush > make:
                told = "no limiter" if limiter is None else f"{q.plain(ohm)} Ω"
                yield self._found(
                    Key.LIMITER_SMALL, f"{told}: the contact closes on {rush:.0f} A, it may on {make:.0f} A",
                    limiter_key,
                )  # fmt: skip
            elif bears is not None and energy > bears:
                yield self._found(
                    Key.LIMITER_SMALL, f"a rush of {energy:.2g} J where it takes {bears:.2g} J in one", limiter_key
                )  # fmt: skip
            if limiter is not None:
                worst = max((amps.get(p, 0.0) for p in solution), default=0.0)
                yield from self._watts(limiter_key, worst**2 * limiter)

    def _chain(self) -> Iterator[Finding]:
        amps = {name: a for a, name in self._line_amps()}
        positions = {p.name: p for p in self._circuit().positions}
        for n in range(1, self.board.count(Role.RESISTOR) + 1):
            key = f"{Role.RESISTOR.value}-{n}"
            if key not in self.values:
                continue
            per_amp = self._bank_solution()
            worst = max(
                (
                    per_amp[name].get(ref_of(key), 0.0) * amps.get(name, 0.0) ** 2
                    for name in per_amp
                    if name in positions
                ),
                default=0.0,
            )
            yield from self._watts(key, worst)

    def _stepped(self) -> Iterator[Finding]:
        if self.fan is None:
            return
        unit = unit_of(self.board, self.values)
        worst = 0.0
        for (volts, _), place in zip(self.board.taps, self.at, strict=False):
            amps = HIGH_MAINS * (place.fan.line_current_a if place.fan else 0.0)
            t = volts / unit.supply_v
            if unit.winding is Winding.AUTO:
                worst = max(worst, 0.5 * unit.supply_v * max(t, 1 - t) * amps * (0.0 if t >= 1 else 1.0))
            else:
                worst = max(worst, unit.whole_v * amps)
        if worst > unit.va:
            yield self._found(
                Key.PART_WATTS, f"{worst:.0f} VA through a frame of {unit.va:.0f} VA", Role.TRANSFORMER.value
            )

    def _watts(self, key: str, watts: float) -> Iterator[Finding]:
        """Heat of a resistor against its rating."""
        part = next((p for p in self.board.parts if p.key == key), None)
        if part is None or part.watts_w is None or watts <= 0:
            return
        share = watts / part.watts_w
        said = f"{q.plain(watts, 2)} W in a part of {q.plain(part.watts_w, 2)} W"
        if share > self.board.limit(Limit.BURNS):
            yield self._found(Key.BURNS, said, key)
        elif share > self.board.limit(Limit.PART_WATTS) / 100:
            yield self._found(Key.PART_WATTS, said, key)

    # ------------------------------------------------------------ with a triac

    def _triac(self) -> Iterator[Finding]:
        part = self.board.fitted(Role.TRIAC)
        if part is not None and part.volts_v is not None and part.volts_v < 1.2 * self.crest:
            yield self._found(
                Key.PART_VOLTS, f"{part.volts_v:.0f} V where the mains crest at {self.crest:.0f} V", part.key
            )
        if self._missing(Role.SNUBBER_CAPACITOR):
            yield self._found(Key.NO_SNUBBER, self._bare(), Role.SNUBBER_CAPACITOR.value)
        elif Role.SNUBBER_CAPACITOR.value in self.values:
            yield from self._snubber()
        if self.seen and part is not None and not self.board.build.heat_sink:
            loss = max(s.triac_average_a for s in self.seen) * 1.0
            limit = JUNCTION_C - self.board.limit(Limit.JUNCTION)
            junction = ROOM_C + TRIAC_KW * loss
            if junction > limit:
                yield self._found(
                    Key.TRIAC_HOT, f"{q.plain(loss, 2)} W without a sink: its junction at {junction:.0f} °C", part.key
                )  # fmt: skip
        if self.board.topology is Topology.OPTO:
            yield from self._gate()
        dropper = self.values.get(Role.DROPPER.value)
        if dropper is not None and self.board.build.plugged:
            yield from self._left(Role.DROPPER.value, dropper, None)

    def _step_v(self) -> float | None:
        return max((abs(s.commutation_step_v) for s in self.seen), default=None)

    def _ring(self, ohm: float, farads: float) -> tuple[float, float] | None:
        step = self._step_v()
        if step is None or self.fan is None:
            return None
        henry = firing_inductance_h(self.fan.belief.motor, self.supply)
        slope, peak = ringing(step, henry, np.array([[ohm]]), np.array([[farads]]))
        return float(slope[0, 0]), float(peak[0, 0])

    def _bare(self) -> str:
        ring = self._ring(1.0, BARE_F)
        if ring is None:
            return "none is fitted"
        return f"none is fitted: some {q.plain(ring[0], 2)} V/µs after a step of {self._step_v() or 0:.0f} V"

    def _snubber(self) -> Iterator[Finding]:
        farads = self.values[Role.SNUBBER_CAPACITOR.value]
        ohm = self.values.get(Role.SNUBBER_RESISTOR.value, 1.0)
        ring = self._ring(ohm, farads)
        if ring is None:
            return
        share = self.board.limit(Limit.DVDT) / 100
        if ring[0] > share * TRIAC_DVDT:
            yield self._found(
                Key.DVDT,
                f"{q.plain(ring[0], 2)} V/µs where {q.plain(share * TRIAC_DVDT, 2)} V/µs may be, "
                f"after a step of {self._step_v() or 0:.0f} V",
                Role.SNUBBER_CAPACITOR.value,
            )  # fmt: skip
        loss = max(
            snubber_loss_w(farads, s.commutation_step_v, s.firing_step_v, self.supply.frequency_hz)
            for s in self.seen
        )
        yield from self._watts(Role.SNUBBER_RESISTOR.value, loss * HIGH_MAINS**2)

    def _gate(self) -> Iterator[Finding]:
        ohm = self.values.get(Role.GATE_RESISTOR.value)
        if ohm is None:
            return
        opto = self.board.fitted(Role.OPTO)
        bears = OPTO_A if opto is None or opto.amps_a is None else opto.amps_a
        least = min((p.at for p in self.at), default=20.0)
        most = (float(np.sqrt(2)) * self.volts * float(np.sin(np.radians(least))) - 3.0) / GATE_A
        if ohm < self.crest / bears:
            yield self._found(
                Key.GATE_RESISTOR, f"{q.show(ohm, q.RESISTANCE)}: the opto-triac sees {self.crest / ohm:.2g} A",
                Role.GATE_RESISTOR.value,
            )  # fmt: skip
        elif ohm > most:
            yield self._found(
                Key.GATE_RESISTOR,
                f"{q.show(ohm, q.RESISTANCE)}: at {least:.0f}° it lets less than {1e3 * GATE_A:.0f} mA to the gate",
                Role.GATE_RESISTOR.value,
            )  # fmt: skip

    def _suppression(self) -> Iterator[Finding]:
        gone = [name_of(r.value) for r in (Role.CHOKE, Role.X_CAPACITOR) if self._missing(r)]
        if gone:
            yield self._found(Key.NO_SUPPRESSION, f"no {' and no '.join(gone)}")
        x = self.values.get(Role.X_CAPACITOR.value)
        if x is not None and self.board.build.plugged:
            yield from self._left(Role.X_CAPACITOR.value, x, None)

    # ------------------------------------------------------------ with a knob

    def _knob(self) -> Iterator[Finding]:
        network = network_of(self.board, self.values)
        yield from self._ends(network)
        sense = self.board.build.sense
        if sense is Sense.DIMMER:
            yield self._found(Key.STARTS_DARK, "dark just past the click")
        elif sense is Sense.FAN:
            yield self._found(Key.FAN_SENSE, "full just past the click")
        if self.fan is None or not self.seen:
            return
        full = self.fan.full_rpm
        speeds = np.array([p.fan.speed_rpm if p.fan else 0.0 for p in self.at])
        travel = np.array([p.at for p in self.at])
        held = speeds[speeds > 0]
        slowest = float(held.min())
        if slowest > self.board.limit(Limit.NARROW) / 100 * full and (speeds > 0).all():
            yield self._found(
                Key.NARROW, f"{q.plain(slowest, 2)} rpm at its slow end, {100 * slowest / full:.0f} % of full"
            )
        yield from self._dead(travel, speeds, full)
        if self.board.topology is Topology.TWO_WIRE:
            turned = turning(self.fan, network)
            if turned is not None and turned.jump_rpm > self.board.limit(Limit.JUMP) / 100 * full:
                yield self._found(
                    Key.JUMP,
                    f"it comes on at {q.plain(turned.on_rpm, 2)} rpm and can then be turned back to "
                    f"{q.plain(turned.off_rpm, 2)} rpm",
                )

    def _dead(self, travel: np.ndarray, speeds: np.ndarray, full: float) -> Iterator[Finding]:
        """The longest stretch of travel over which the speed changes less than the limit."""
        fine = np.linspace(0.0, 1.0, 201)
        # A place at which nothing fires is dead too.
        along = np.interp(fine, travel, speeds)
        limit = self.board.limit(Limit.DEAD_SPEED) / 100 * full
        longest, where = 0.0, (0.0, 0.0)
        low = 0
        for high in range(len(fine)):
            while np.ptp(along[low : high + 1]) > limit:
                low += 1
            if fine[high] - fine[low] > longest:
                longest, where = float(fine[high] - fine[low]), (float(fine[low]), float(fine[high]))
        if longest >= self.board.limit(Limit.DEAD_TRAVEL) / 100:
            change = float(np.ptp(along[(fine >= where[0]) & (fine <= where[1])]))
            yield self._found(
                Key.DEAD_TRAVEL,
                f"{100 * longest:.0f} % of it, from {100 * where[0]:.0f} to {100 * where[1]:.0f} %, changes "
                f"{100 * change / full:.0f} % of full speed",
            )  # fmt: skip

    def _ends(self, network: DiacNetwork) -> Iterator[Finding]:
        omega = 2 * np.pi * self.supply.frequency_hz
        slow = float(network.first_ohm(np.array([0.0]))[0])
        through = self.volts / abs(slow - 1j / (omega * network.capacitance_f))
        track_v = through * (slow - network.least_ohm)
        track_w = track_v**2 / network.knob_ohm
        part = self.board.fitted(Role.KNOB)
        bears = self.board.limit(Limit.KNOB_VOLTS) if part is None or part.volts_v is None else part.volts_v
        share = self.board.limit(Limit.KNOB_WATTS) / 100
        hot = part is not None and part.watts_w is not None and track_w > share * part.watts_w
        if track_v > bears or hot:
            yield self._found(
                Key.POT_END,
                f"{track_v:.0f} V and {q.plain(track_w, 2)} W across the track at the slow end while the triac is "
                f"open; {bears:.0f} V"
                + (f" and {q.plain(share * part.watts_w, 2)} W" if part and part.watts_w else "")
                + " may be",
                Role.KNOB.value,
            )  # fmt: skip
        dead = self.volts / abs(network.least_ohm - 1j / (omega * network.capacitance_f))
        end_w, over = dead**2 * network.least_ohm, dead / (omega * network.capacitance_f)
        timing, end = self.board.fitted(Role.TIMING_CAPACITOR), self.board.fitted(Role.END_RESISTOR)
        rated = None if timing is None or timing.volts_v is None else timing.volts_v
        peak = over * (1.0 if timing is not None and timing.volts_ac else float(np.sqrt(2)))
        weak = rated is not None and peak > rated
        if weak or (end is not None and end.watts_w is not None and end_w > end.watts_w):
            yield self._found(
                Key.FAILS_SECOND,
                f"with a dead diac, at the fast end: {q.plain(end_w, 3)} W in {ref_of(Role.END_RESISTOR.value)} and "
                f"{over:.0f} V on {ref_of(Role.TIMING_CAPACITOR.value)}"
                + (f", a part of {rated:.0f} V" if weak and rated else ""),
                Role.TIMING_CAPACITOR.value,
            )  # fmt: skip
        high = Source(self.high, self.supply.frequency_hz)
        yield from self._watts(
            Role.END_RESISTOR.value, knob_watts(network, high, np.linspace(0.0, 1.0, 11), None)[2]
        )

    # ------------------------------------------------------------ how it is made

    def _track(self) -> Iterator[Finding]:
        build = self.board.build
        if build.track_mm is None or self.amps is None:
            return
        rise = self.board.limit(Limit.TRACK_RISE)
        fuse = self.values.get(Role.FUSE.value)
        # Until a fuse melts it lets 1.6 times its amps through.
        carried = max(self.amps, 1.6 * fuse if fuse is not None else 0.0)
        bears = track_current_a(build.track_mm, build.copper_um, rise)
        if carried > bears:
            want = track_width_mm(carried, build.copper_um, rise)
            why = (
                f"the fuse lets {q.plain(carried, 2)} A through"
                if carried > self.amps
                else (f"the fan takes {q.plain(carried, 2)} A")
            )
            yield self._found(
                Key.TRACK_THIN,
                f"{q.plain(build.track_mm, 2)} mm bears {q.plain(bears, 3)} A at {rise:.0f} K; {why}: "
                f"{q.plain(want, 2)} mm wanted",
            )  # fmt: skip
        elif build.track_mm < 1.0 and build.tinned is False:
            yield self._found(
                Key.TRACK_THIN,
                f"{q.plain(build.track_mm, 2)} mm, not tinned: it bears the amps, but cracks easily",
            )

    def _joints(self) -> Iterator[Finding]:
        if self.board.build.knob_on_solder:
            yield self._found(Key.POT_JOINT, "its lugs alone hold it")
        if self.board.build.wires_over_edge:
            yield self._found(Key.LUG_JOINT, "seen at a lug")


def unseen(board: Board) -> tuple[str, ...]:
    """Keys of protective parts that nobody told of: neither there nor missing.

    Parameters
    ----------
    board : Board
        As it was read [-]

    Returns
    -------
    tuple of str
        Keys, in the order of the template [-]
    """
    told = {p.key for p in board.parts}
    small = (Role.ACROSS_KNOB, Role.SECOND_RESISTOR, Role.SECOND_CAPACITOR)
    return tuple(k for k in board.keys if k not in told and k not in {r.value for r in small})


def limit_words(name: Limit) -> str:
    """What a threshold is about."""
    facts = LIMITS[name]
    return f"{facts.words}, {facts.unit}"
