"""A phase-angle control as it is built: what fires the triac, what stands around it, and its circuit."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from enum import StrEnum
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from fenwit.core.circuit import Circuit, Part, PartKind, Position
from fenwit.core.circuit.network import solve_bank
from fenwit.core.errors import InputError, check_range
from fenwit.core.methods.phase_angle.dropper import Dropper, size_dropper
from fenwit.core.methods.phase_angle.triac import TriacDesign, TriacPart
from fenwit.core.motor.kinds import Method
from fenwit.core.operating import Source
from fenwit.core.regulator.diac import DiacNetwork, Extinction, resistor_mean_square
from fenwit.core.regulator.firing import ZeroDetector, zero_pulse

FloatArray = NDArray[np.float64]


class FiredBy(StrEnum):
    """What gives the triac its pulses."""

    KNOB = "knob"
    """A knob with a diac"""
    TABLE = "table"
    """A microcontroller with a table of delays"""


class Pulse(StrEnum):
    """What the gate gets from a microcontroller."""

    SHORT = "short"
    TRAIN = "train"


class Edge(StrEnum):
    """What of the zero detector's pulse the microcontroller counts from."""

    MIDDLE = "middle"
    RISING = "rising"


@dataclass(frozen=True)
class Unit:
    """What stands between the mains and a microcontroller."""

    detector: ZeroDetector = field(default_factory=lambda: ZeroDetector(94e3, 100e-6, 0.6, 2.0))
    edge: Edge = Edge.MIDDLE
    lag_us: float = 0.0
    """By which the detector and the program are late besides; negative: early [µs]"""
    pulse: Pulse = Pulse.SHORT
    opto_current_a: float = 1.0
    """Most that the opto-triac's output bears for a moment [A]"""
    logic_v: float = 5.0
    logic_a: float = 0.010
    """What the control draws from its own supply [A]"""

    def __post_init__(self) -> None:
        check_range("lag_us", self.lag_us, -2000.0, 2000.0, "µs")
        check_range("opto_current_a", self.opto_current_a, 0.01, 10.0, "A")
        check_range("logic_v", self.logic_v, 1.0, 48.0, "V")
        check_range("logic_a", self.logic_a, 1e-4, 0.1, "A")

    def edge_deg(self, supply: Source) -> float:
        """Where the counted edge comes, after the mains' zero.

        Parameters
        ----------
        supply : Source
            Supply [-]

        Returns
        -------
        float
            Angle; negative before the zero [°]

        Raises
        ------
        InputError
            A detector that gives no pulse at these volts.
        """
        pulse = zero_pulse(self.detector, supply.voltage_v, supply.frequency_hz)
        half = 0.5 * (pulse.half_width_low_us + pulse.half_width_high_us)
        late = self.lag_us - (half if self.edge is Edge.RISING else 0.0)
        return float(360e-6 * supply.frequency_hz * late)

    def edge_doubt_deg(self, supply: Source) -> float:
        """By how much the counted edge may be off over the coupler's band, either way.

        Parameters
        ----------
        supply : Source
            Supply [-]

        Returns
        -------
        float
            Angle; the middle of a pulse does not wander [°]
        """
        if self.edge is Edge.MIDDLE:
            return 0.0
        return 0.5 * zero_pulse(self.detector, supply.voltage_v, supply.frequency_hz).edge_spread_deg

    def dropper(self, supply: Source) -> Dropper:
        """The capacitor dropper that feeds the control.

        Parameters
        ----------
        supply : Source
            Supply [-]

        Returns
        -------
        Dropper
            Its parts [-]

        Raises
        ------
        InputError
            More current than such a supply gives.
        """
        return size_dropper(self.logic_v, self.logic_a, supply.voltage_v, supply.frequency_hz)


MOST_STEPS = 8


@dataclass(frozen=True)
class PhaseDesign:
    """A triac in the line, fired at one angle for each step."""

    method: ClassVar[Method] = Method.PHASE_ANGLE

    firing_deg: tuple[float, ...]
    """From the mains' zero, in the order of the steps; 0: fully on [°]"""
    fired_by: FiredBy = FiredBy.TABLE
    network: DiacNetwork | None = None
    """Of the knob; None where a microcontroller fires [-]"""
    unit: Unit = field(default_factory=Unit)
    kick: bool = False
    """Switched on at full, or kicked: then the fan only has to hold a step, not to start there"""
    triac: TriacPart = field(default_factory=TriacPart)
    snubbed: bool = True
    filtered: bool = True
    fused: bool = True

    def __post_init__(self) -> None:
        if not 1 <= len(self.firing_deg) <= MOST_STEPS:
            raise InputError("angles", len(self.firing_deg), f"1 to {MOST_STEPS}", "one angle for each step")
        for i, angle in enumerate(self.firing_deg):
            check_range(f"angles[{i}]", angle, 0.0, 178.0, "°")
        if (self.network is None) != (self.fired_by is FiredBy.TABLE):
            raise InputError(
                "fired_by",
                self.fired_by.value,
                "a knob with its network, or a microcontroller without one",
                "only a knob has a diac network",
            )

    @property
    def short_pulse(self) -> bool:
        """Whether the gate gets one short pulse counted from the mains' zero.

        A diac network begins to charge only when the current has ended, so its pulse never comes too early.
        """
        return self.fired_by is FiredBy.TABLE and self.unit.pulse is Pulse.SHORT


LINE, LOAD, NEUTRAL = "line", "load", "neutral"
_AFTER_SWITCH, _FED, _ANODE, _GATE = "s", "f", "t", "g"


def phase_circuit(design: PhaseDesign, parts: TriacDesign, supply: Source) -> Circuit:
    """The control as a circuit: switch, fuse, choke, triac, snubber, and what fires it.

    Parameters
    ----------
    design : PhaseDesign
        The control [-]
    parts : TriacDesign
        Its sized parts [-]
    supply : Source
        Supply, for the parts of the control's own supply [-]

    Returns
    -------
    Circuit
        Positions Off and On; the triac itself stays open, so its impedance is that of what leaks past it [-]

    Raises
    ------
    InputError
        Parts that cannot be real.
    """
    return Circuit(
        LINE,
        LOAD,
        tuple(_parts(design, parts, supply)),
        (Position("Off", frozenset()), Position("On", frozenset({"S"}))),
    )


def _parts(design: PhaseDesign, sized: TriacDesign, supply: Source) -> Iterator[Part]:
    yield Part("S", PartKind.CONTACT, LINE, _AFTER_SWITCH)
    fed = _FED if design.fused else _AFTER_SWITCH
    if design.fused:
        yield Part("F", PartKind.FUSE, _AFTER_SWITCH, fed, sized.fuse_a)
    anode = _ANODE if design.filtered else fed
    if design.filtered:
        yield Part("L1", PartKind.INDUCTOR, fed, anode, sized.filter.choke_h)
    yield Part("T", PartKind.TRIAC, anode, LOAD, design.triac.rms_a, net_gate=_GATE)
    if design.snubbed:
        yield Part("RS", PartKind.RESISTOR, anode, "rc", sized.snubber.ohm)
        yield Part("CS", PartKind.CAPACITOR, "rc", LOAD, sized.snubber.farads)
    # Two wires have no neutral: what damps then stands across choke and triac, else across the mains.
    far = LOAD if design.fired_by is FiredBy.KNOB else NEUTRAL
    if design.filtered:
        yield Part("CX", PartKind.CAPACITOR, fed, far, sized.filter.capacitor_f)
        yield Part("RV", PartKind.VARISTOR, fed, far, sized.varistor_v)
    if design.network is not None:
        yield from _knob(design.network, anode)
    else:
        yield from _unit(design.unit, sized, supply, anode, fed)


def _knob(network: DiacNetwork, anode: str) -> Iterator[Part]:
    yield Part("R1", PartKind.RESISTOR, anode, "k", network.least_ohm)
    yield Part("P", PartKind.KNOB, "k", "c", network.knob_ohm)
    if network.across_ohm is not None:
        yield Part("R2", PartKind.RESISTOR, "k", "c", network.across_ohm)
    yield Part("C1", PartKind.CAPACITOR, "c", LOAD, network.capacitance_f)
    fires = "c"
    if network.second_ohm is not None and network.second_f is not None:
        fires = "d"
        yield Part("R3", PartKind.RESISTOR, "c", fires, network.second_ohm)
        yield Part("C2", PartKind.CAPACITOR, fires, LOAD, network.second_f)
    yield Part("D", PartKind.DIAC, fires, _GATE, network.breakover_v)


def _unit(unit: Unit, sized: TriacDesign, supply: Source, anode: str, fed: str) -> Iterator[Part]:
    dropper = unit.dropper(supply)
    yield Part("RG", PartKind.RESISTOR, anode, "o", sized.gate_ohm)
    yield Part("U1", PartKind.OPTO, "o", _GATE)
    yield Part("RZ", PartKind.RESISTOR, fed, "z", unit.detector.resistor_ohm)
    yield Part("U2", PartKind.COUPLER, "z", NEUTRAL)
    yield Part("RD", PartKind.RESISTOR, fed, "y", dropper.inrush_ohm)
    yield Part("CD", PartKind.CAPACITOR, "y", "p", dropper.farads)
    yield Part("PS", PartKind.BLOCK, "p", NEUTRAL)


def off_leakage(circuit: Circuit, supply: Source) -> complex | None:
    """Impedance of what bridges the open triac while the control is switched on.

    Parameters
    ----------
    circuit : Circuit
        From `phase_circuit` [-]
    supply : Source
        Supply [-]

    Returns
    -------
    complex or None
        Impedance; None where nothing bridges it [Ω]
    """
    on = solve_bank(circuit, supply.frequency_hz)[1]
    return complex(on.impedance_ohm) if on.conducts else None


def knob_watts(
    network: DiacNetwork, supply: Source, turn: FloatArray, extinction: Extinction | None
) -> tuple[float, float, float]:
    """Most heat in the knob, in the resistor across it and in the one before it, over the knob's turn.

    Parameters
    ----------
    network : DiacNetwork
        The network [-]
    supply : Source
        Supply [-]
    turn : array
        Positions of the knob [-]
    extinction : callable or None
        Where the load's current ends for a firing angle: there the network begins to charge [-]

    Returns
    -------
    tuple of float
        Watts of knob, resistor across it (0 where there is none) and resistor in series [W]

    Raises
    ------
    InputError
        Positions beyond the knob's ends.
    """
    whole = network.first_ohm(turn)
    square = resistor_mean_square(network, whole, supply.voltage_v, supply.frequency_hz, extinction)
    current = square / whole**2
    beside = whole - network.least_ohm
    together = current * beside
    across = np.zeros(turn.shape) if network.across_ohm is None else current * beside**2 / network.across_ohm
    return float((together - across).max()), float(across.max()), float((current * network.least_ohm).max())
