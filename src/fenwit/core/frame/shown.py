"""What a job page shows: numbers as text with the digits their uncertainty allows, and where each stands."""

from __future__ import annotations

from dataclasses import dataclass

from fenwit.core import quantity as q
from fenwit.core.caution import Caution
from fenwit.core.frame.state import Missing
from fenwit.core.motor.kinds import Method, Suitability
from fenwit.core.operating import StepVerdict
from fenwit.core.prove.verdict import Verdict
from fenwit.core.size.profile import RuleKey
from fenwit.core.size.tolerance import Cause


@dataclass(frozen=True)
class Shown:
    """A number as it is to be read: digits by its uncertainty, unit apart."""

    value: float
    number: str
    unit: str
    low: float | None = None
    high: float | None = None

    @property
    def text(self) -> str:
        """Number and unit in one."""
        return f"{self.number} {self.unit}".strip()


@dataclass(frozen=True)
class Zone:
    """A stretch of the staff to keep away from."""

    low_rpm: float
    high_rpm: float
    text: str


@dataclass(frozen=True)
class Mark:
    """One step on the staff."""

    step: int
    label: str
    """What the regulator joins at this step; empty before a bank is chosen"""
    wanted_rpm: float | None
    predicted: Shown | None
    share_text: str
    verdict: StepVerdict
    reasons: tuple[str, ...]
    measured_rpm: float | None
    measured_verdict: Verdict | None
    may_not_start: float
    """Share of likely motors that would not start or hold this step [-]"""
    may_exceed: float
    """Share of likely motors that would get more than the allowed motor volts [-]"""


@dataclass(frozen=True)
class Path:
    """Power from supply to air at one step; step 0 is Off."""

    step: int
    runs: bool
    note: str
    supply_w: float
    regulator_loss_w: float
    motor_loss_w: float
    friction_w: float
    air_w: float
    supply: tuple[str, ...]
    regulator_name: str
    regulator: tuple[str, ...]
    motor: tuple[str, ...]
    motor_loss_text: str
    blades: tuple[str, ...]
    air: tuple[str, ...]
    warning: str


@dataclass(frozen=True)
class CurvePoint:
    """One point of speed over capacitance."""

    capacitance_f: float
    speed_rpm: float
    state: str
    """ok, barred or stall"""


@dataclass(frozen=True)
class CurveBand:
    """Band of the curve at one capacitance."""

    capacitance_f: float
    low_rpm: float
    high_rpm: float


@dataclass(frozen=True)
class CurveStep:
    """A step as a point on the curve."""

    step: int
    label: str
    capacitance_f: float
    speed_rpm: float | None
    """None where the step is barred or does not start [rpm]"""


@dataclass(frozen=True)
class Aim:
    """What a wanted step asks for."""

    step: int
    wanted: Shown
    share_text: str
    gap_text: str
    needed_text: str
    needed_f: float | None
    power_text: str
    rise_text: str
    start_text: str
    reason: str
    nearest_rpm: float | None
    hand_f: float | None
    hand_text: str
    needed_deg: float | None = None
    """Firing angle, where phase angle is what it is reckoned with [°]"""


@dataclass(frozen=True)
class StressShown:
    """One burden of a part as a bar with its words."""

    burden: str
    share: float
    """Stress over rating [-]"""
    text: str
    """Like 250 of 305 V"""
    where: str
    """Worst position, moment and mains"""
    holds: bool


@dataclass(frozen=True)
class PartRow:
    """A part of the bank: what it is, what it is rated for and what it bears."""

    name: str
    role: str
    text: str
    bench: str
    """Its value in bench notation, as typed when it is set by hand"""
    rating_text: str
    limit_text: str
    """What bounds the value, where something does"""
    stresses: tuple[StressShown, ...]
    worst: int
    """Which of the stresses is nearest to its limit"""
    by_hand: bool
    refusal: str
    note: str
    capacitor: bool
    nominal_bench: str
    measured_bench: str
    part_class: str
    shelf_id: int | None


@dataclass(frozen=True)
class RuleShown:
    """One rule of the acceptance profile."""

    key: RuleKey
    text: str
    met: bool
    value_text: str
    limit_text: str
    by_text: str
    step: int | None


@dataclass(frozen=True)
class SpreadShown:
    """How far a step may stray, and why."""

    step: int
    label: str
    together: Shown
    parts: str
    """Half width with only the parts free, with unit"""
    mains: str
    motor: str
    widest: Cause
    words: str


@dataclass(frozen=True)
class Candidate:
    """A bank to choose."""

    text: str
    capacitors: tuple[CandidatePart, ...]
    patterns: tuple[str, ...]
    speed_rpm: tuple[float, ...]
    miss_text: str
    evenness_text: str
    shelf_text: str
    chosen: bool


@dataclass(frozen=True)
class CandidatePart:
    """One capacitor of a candidate."""

    bench: str
    measured_bench: str
    part_class: str
    rated_v: float
    tolerance: float
    shelf_id: int | None


@dataclass(frozen=True)
class Banks:
    """The ten best banks, and what was left out of the search."""

    candidates: tuple[Candidate, ...]
    note: str
    left_out: tuple[str, ...]
    """Shelf parts that may not stand here, each with its reason"""


@dataclass(frozen=True)
class WireRow:
    """One lug of the switch with what it is wired to."""

    lug: str
    text: str


@dataclass(frozen=True)
class ProofRow:
    """One quantity to read at one step."""

    step: int
    quantity: str
    name: str
    unit: str
    expected: str
    low: float
    high: float
    reading: str
    verdict: Verdict | None
    words: str
    captured: bool = False
    """Read off a scope; not asked for where there is none"""


@dataclass(frozen=True)
class Check:
    """A full-speed reading beside what the model says of it."""

    quantity: str
    read: str
    expected: str
    odd: bool
    """Further from what the rest implies than chance explains"""


CHECKED_DIMENSIONS = {
    "line_current_a": q.CURRENT,
    "input_power_w": q.POWER,
    "capacitor_voltage_v": q.VOLTAGE,
    "main_resistance_ohm": q.RESISTANCE,
    "auxiliary_resistance_ohm": q.RESISTANCE,
}


@dataclass(frozen=True)
class TapMark:
    """Speed of one winding tap, as a mark of its own on the staff."""

    role: str
    lead: str
    speed_rpm: float
    low_rpm: float
    high_rpm: float
    text: str


@dataclass(frozen=True)
class Live:
    """What changes while something is dragged or tried."""

    marks: tuple[Mark, ...] = ()
    paths: tuple[Path, ...] = ()
    curve_steps: tuple[CurveStep, ...] = ()
    aims: tuple[Aim, ...] = ()
    aim_summary: str = ""
    parts: tuple[PartRow, ...] = ()
    rules: tuple[RuleShown, ...] = ()
    miss_text: str = ""
    """Worst miss of what is chosen as it would be built, of full speed; empty while none is chosen"""
    method: Method = Method.SERIES_CAPACITOR
    """What the steps are made by: as chosen, or as they are aimed with"""


@dataclass(frozen=True)
class Frame(Live):
    """Everything a job page shows."""

    missing: tuple[Missing, ...] = ()
    refused: str = ""
    """Why a series regulator is refused for this motor; empty when it is not"""
    suitability: tuple[Suitability, ...] = ()
    cautions: tuple[Caution, ...] = ()
    waits_for: str = ""
    waits_kind: str = ""
    synchronous_rpm: float | None = None
    top_rpm: float | None = None
    full: Shown | None = None
    zones: tuple[Zone, ...] = ()
    curve: tuple[CurvePoint, ...] = ()
    curve_band: tuple[CurveBand, ...] = ()
    spreads: tuple[SpreadShown, ...] = ()
    wiring: tuple[WireRow, ...] = ()
    proofs: tuple[ProofRow, ...] = ()
    proof_summary: str = ""
    checks: tuple[Check, ...] = ()
    assumptions: tuple[str, ...] = ()
    lost_draws: int = 0
    taps: tuple[TapMark, ...] = ()
