"""What a job page shows: numbers as text with the digits their uncertainty allows, and where each stands."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from fenwit.core import quantity as q
from fenwit.core.caution import Caution
from fenwit.core.frame.spot import Next
from fenwit.core.job.state import Missing
from fenwit.core.job.steps import Level, PlaceKind, Shown, Signal, Told
from fenwit.core.methods.seam import Lug, PartRow, Zone
from fenwit.core.motor.kinds import Method, Suitability
from fenwit.core.operating import StepVerdict
from fenwit.core.prove.verdict import Verdict
from fenwit.core.size.profile import RuleKey
from fenwit.core.size.tolerance import Cause


class Waits(StrEnum):
    """What a job waits for, in the order of the work; lists are filtered by it."""

    IDENTIFY = "identify"
    READING = "reading"
    AIM = "aim"
    SIZE = "size"
    PROVE = "prove"
    FAULT = "fault"
    """A step was read outside what was expected"""
    PROVED = "proved"
    UNSIZED = "unsized"
    """Another method suits the motor, and nothing of it is sized here yet"""
    REFUSED = "refused"


@dataclass(frozen=True)
class Mark:
    """One step on the staff."""

    step: int
    label: str
    """What the regulator does at this step; empty before one is chosen"""
    wanted_rpm: float | None
    predicted: Shown | None
    share_text: str
    verdict: StepVerdict
    reasons: tuple[str, ...]
    measured_rpm: float | None
    measured_verdict: Verdict | None
    may_not_start: float
    """Share of likely motors that would not start or hold this step [-]"""
    doubt_text: str
    """The same for the staff; empty where it is next to never [-]"""
    may_exceed: float
    """Share of likely motors that would get more than the allowed motor volts [-]"""
    at: float | None
    """Where it stands on the axis of the method's reach; None where nothing single stands there [any]"""


@dataclass(frozen=True)
class PathPlace:
    """One place of the power path."""

    kind: PlaceKind
    name: str
    """What stands here at this step; empty where that goes without saying"""
    values: tuple[Told, ...]
    power_w: float
    """What flows into it [W]"""
    loss_w: float
    """What leaves the flow here [W]"""
    loss: Told | None
    warning: Told | None
    signal: Signal | None = None
    """What it tells the fan, to be drawn to scale [-]"""
    level: Level | None = None


@dataclass(frozen=True)
class Path:
    """Power from supply to air at one step."""

    step: int
    runs: bool
    note: str
    places: tuple[PathPlace, ...]


@dataclass(frozen=True)
class Aim:
    """What a wanted step asks for."""

    step: int
    wanted: Shown
    share_text: str
    gap_text: str
    needed_text: str
    explained: bool
    """Whether a setting is needed that can be explained"""
    power_text: str
    rise_text: str
    start_text: str
    reason: str
    nearest_rpm: float | None
    hint_at: float | None
    """A cruder estimate, on the axis of the method's reach [any]"""
    hint_text: str
    meant: str = ""
    """As it was typed, where that was not the speed itself [-]"""
    meant_text: str = ""
    """What that would ask for now, where it has moved since [-]"""
    air_text: str = ""
    """Flow, pressure, rise and level at this speed, as far as they are known [-]"""
    avoid_text: str = ""


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
    advice: str
    """What to do about the widest cause; may be empty [-]"""
    remarks: tuple[str, ...]
    """What happens in some of the cases"""

    @property
    def words(self) -> str:
        """All of it in one."""
        causes = {
            Cause.PARTS: "the parts",
            Cause.MAINS: "the mains",
            Cause.MOTOR: "what is not known of the motor",
        }
        lead = f"widest by {causes[self.widest]}" + (f": {self.advice}" if self.advice else "")
        return "; ".join((lead, *self.remarks))


class Side(StrEnum):
    """On which side of what was expected a reading lies."""

    BELOW = "below"
    ABOVE = "above"


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
    side: Side | None
    """Where the reading did not pass"""
    words: str
    captured: bool = False
    """Read off a scope; not asked for where there is none"""
    hint: str = ""
    """How it is typed"""


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
    zones: tuple[Zone, ...] = ()
    aims: tuple[Aim, ...] = ()
    aim_summary: str = ""
    parts: tuple[PartRow, ...] = ()
    rules: tuple[RuleShown, ...] = ()
    miss_text: str = ""
    """Worst miss of what is chosen as it would be built, of full speed; empty while none is chosen"""
    method: Method | None = None
    """What the steps are made by: as chosen, or as they are aimed with; None while nothing is computed"""


@dataclass(frozen=True)
class Frame(Live):
    """Everything a job page shows."""

    missing: tuple[Missing, ...] = ()
    refused: str = ""
    """Why this motor's speed must not be regulated, by this method or any; empty when it may"""
    unsized: str = ""
    """What suits this motor though nothing is computed for it here yet; empty when something is"""
    suitability: tuple[Suitability, ...] = ()
    sized: tuple[Method, ...] = ()
    """Ways that this job's fan may be sized for here, as far as that is known [-]"""
    cautions: tuple[Caution, ...] = ()
    waits_for: str = ""
    waits_kind: Waits = Waits.IDENTIFY
    next: Next | None = None
    """What the job waits for and where that is done; None where it waits for nothing"""
    proved: bool = False
    """Every step was read and none failed"""
    synchronous_rpm: float | None = None
    top_rpm: float | None = None
    full: Shown | None = None
    spreads: tuple[SpreadShown, ...] = ()
    wiring: tuple[Lug, ...] = ()
    proofs: tuple[ProofRow, ...] = ()
    proof_summary: str = ""
    checks: tuple[Check, ...] = ()
    assumptions: tuple[str, ...] = ()
    lost_draws: int = 0
    taps: tuple[TapMark, ...] = ()
