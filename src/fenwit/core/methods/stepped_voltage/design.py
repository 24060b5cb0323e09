"""A transformer with taps on a switch: the design, and the same as a circuit."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import ClassVar

from fenwit.core.circuit import Circuit, Core, Part, PartKind, Position
from fenwit.core.errors import InputError, check_range
from fenwit.core.methods.common.duty import DutySheet
from fenwit.core.motor.kinds import Method
from fenwit.core.regulator.transformer import (
    Insulation,
    Measured,
    Transformer,
    Winding,
    check_taps,
    frame_class,
)
from fenwit.core.size.switch import FED, MOTOR, SUPPLY, Switch

MOST = 6
"""Taps of one transformer [-]"""
NEUTRAL, CORE = "N", "iron"


@dataclass(frozen=True)
class Tap:
    """One tap as it stands on the transformer."""

    volts: float
    """Open, on rated supply [V]"""
    ohms: float | None = None
    """From the winding's common end, where it was read [Ω]"""


@dataclass(frozen=True)
class SteppedDesign:
    """The transformer with its taps, slowest step first, and the switch that picks one."""

    method: ClassVar[Method] = Method.STEPPED_VOLTAGE

    winding: Winding
    taps: tuple[Tap, ...]
    direct: bool = False
    """The last position hangs on the supply itself; with an auto winding only"""
    va: float | None = None
    """None: the smallest frame that holds [VA]"""
    whole_v: float | None = None
    """Of the whole secondary; None: its highest tap [V]"""
    rated_v: float = 230.0
    rated_hz: float = 50.0
    measured: Measured = field(default_factory=Measured)
    insulation: Insulation = Insulation.B
    room_c: float = 30.0
    """Air around it at its warmest [°C]"""
    switch: Switch = field(default_factory=Switch)
    fuse_a: float | None = None
    """Fuse where set by hand [A]"""
    duty: DutySheet | None = None

    def __post_init__(self) -> None:
        if not 1 <= len(self.taps) <= MOST:
            raise InputError("taps", len(self.taps), f"1 to {MOST}", "a transformer here has one to six taps")
        check_range("rated_v", self.rated_v, 20.0, 500.0, "V")
        check_range("rated_hz", self.rated_hz, 40.0, 70.0, "Hz")
        if self.whole_v is not None:
            check_range("whole_v", self.whole_v, 5.0, 500.0, "V")
        for tap in self.taps:
            if tap.ohms is not None:
                check_range("ohms", tap.ohms, 1e-2, 1e5, "Ω")
        check_taps(
            self.winding,
            self.rated_v,
            tuple(t.volts for t in self.taps),
            self.secondary_v,
            tuple(t.ohms for t in self.taps),
        )
        if self.winding is Winding.SEPARATE and self.direct:
            raise InputError(
                "direct", True, "taps only", "behind a separate winding no step hangs on the mains: take a tap instead"
            )  # fmt: skip
        if self.steps > self.switch.positions:
            raise InputError(
                "switch.positions",
                self.switch.positions,
                f"at least {self.steps}",
                f"{self.steps} steps need as many positions beside Off",
            )
        if self.va is not None:
            frame_class(self.va)
        if self.fuse_a is not None:
            check_range("fuse_a", self.fuse_a, 0.03, 10.0, "A")
        check_range("room_c", self.room_c, -40.0, 60.0, "°C")

    @property
    def steps(self) -> int:
        """How many steps there are [-]"""
        return len(self.taps) + self.direct

    @property
    def secondary_v(self) -> float | None:
        """Volts of the whole secondary; None of an auto winding [V]"""
        return None if self.winding is Winding.AUTO else self.whole_v or self.taps[-1].volts

    @property
    def step_v(self) -> tuple[float, ...]:
        """Open volts of each step on rated supply [V]"""
        return (*(t.volts for t in self.taps), *((self.rated_v,) if self.direct else ()))

    def label(self, step: int) -> str:
        """What a step is fed from, counted from 0."""
        return "direct" if step >= len(self.taps) else f"{self.taps[step].volts:g} V"


def tapped_circuit(
    design: SteppedDesign, unit: Transformer, fuse_a: float = 10.0, second_a: float = 10.0
) -> Circuit:
    """The transformer as a circuit between line L, neutral N and the motor's terminal M.

    Sections of winding share one core; one contact leads from each tap to the motor. The motor's other lead is on N.

    Parameters
    ----------
    design : SteppedDesign
        Taps and switch [-]
    unit : Transformer
        Its ohms and iron [-]
    fuse_a : float
        Fuse towards the mains [A]
    second_a : float
        Fuse of a separate secondary [A]

    Returns
    -------
    Circuit
        Positions "Off", "1" … "n"; contacts are named pole.position [-]
    """
    nets = [f"t{k}" for k in range(1, len(design.taps) + 1)]
    auto = unit.winding is Winding.AUTO
    whole = unit.supply_v if auto else unit.whole_v
    ohm, leakage = (
        (unit.primary_ohm, unit.primary_leakage_ohm)
        if auto
        else (unit.secondary_ohm, unit.secondary_leakage_ohm)
    )
    henry = leakage / _omega(unit)
    ends = [(t.volts, net) for t, net in zip(design.taps, nets, strict=True)]
    top = FED if auto else "end"
    if auto and ends[-1][0] >= whole * (1 - 1e-9):
        # A tap at full volts is the winding's own end.
        nets[-1], ends = FED, ends[:-1]
    elif not auto and ends[-1][0] >= whole * (1 - 1e-9):
        nets[-1], ends = top, ends[:-1]
    sections: list[Part] = []
    below, low = NEUTRAL, 0.0
    for i, (volts, net) in enumerate([*ends, (whole, top)], start=1):
        share = (volts - low) / whole
        # Of an auto one unit of turns is its whole winding, of a separate one its primary.
        turns = share if auto else (volts - low) / unit.supply_v
        sections.append(
            Part(
                f"W{i}", PartKind.WINDING, net, below, share * ohm, unit.spread, core=CORE, turns=turns,
                leakage_h=share * henry,
            )
        )  # fmt: skip
        below, low = net, volts
    if not auto:
        sections.append(
            Part(
                "WP", PartKind.WINDING, FED, NEUTRAL, unit.primary_ohm, unit.spread, core=CORE, turns=1.0,
                leakage_h=unit.primary_leakage_ohm / _omega(unit),
            )
        )  # fmt: skip
    fed = [*nets, *([FED] if design.direct else [])]
    out = MOTOR if auto else "out"
    contacts = [Part(f"1.{k}", PartKind.CONTACT, net, out) for k, net in enumerate(fed, start=1)]
    positions = (Position("Off", frozenset()), *(Position(c.name[2:], frozenset({c.name})) for c in contacts))
    iron = Core(CORE, unit.supply_v**2 / unit.core_loss_w, unit.magnetising_ohm, unit.frequency_hz)
    fuses = [Part("F", PartKind.FUSE, SUPPLY, FED, fuse_a)]
    if not auto:
        fuses.append(Part("F2", PartKind.FUSE, out, MOTOR, second_a))
    return Circuit(SUPPLY, MOTOR, (*fuses, *contacts, *sections), positions, NEUTRAL, (iron,))


def _omega(unit: Transformer) -> float:
    return 2 * 3.141592653589793 * unit.frequency_hz
