"""What a way of regulating is to the rest of the house: one frozen set of functions, and what they answer with.

Shared code knows no method. It asks `fenwit.core.methods.of` for the one of a job and speaks to it through
`Regulation`; whatever of an answer another place needs to know travels as data beside its words.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import Any, Generic, TypeVar

import numpy as np
from numpy.typing import NDArray

from fenwit.core.calibrate.bands import Band
from fenwit.core.calibrate.fit import Belief
from fenwit.core.caution import Caution
from fenwit.core.circuit import Circuit
from fenwit.core.circuit.drawing import Drawing
from fenwit.core.circuit.netted import Netted
from fenwit.core.circuit.wiring.templates import Facts
from fenwit.core.job.hold import HoldSheet
from fenwit.core.job.state import JobState
from fenwit.core.job.steps import Quantity, Step, Steps
from fenwit.core.job.subject import Subject, Unready
from fenwit.core.motor.kinds import Method
from fenwit.core.operating import Source
from fenwit.core.prove.plan import PlanLine
from fenwit.core.size.merits import Merits
from fenwit.core.size.profile import StepFacts
from fenwit.core.size.tolerance import Cause

U = TypeVar("U", bound=Subject)
"""What stands behind the regulator"""
D = TypeVar("D")
"""Its design"""
S = TypeVar("S")
"""Setting of one step"""
FloatArray = NDArray[np.float64]


# ---------------------------------------------------------------- reach


class ZoneKind(StrEnum):
    """Why a stretch of the staff is to be kept away from."""

    NO_START = "no-start"
    GAP = "gap"
    """No setting holds a speed there"""
    BARRED = "barred"
    UNSAFE = "unsafe"
    """Less air flows there than safety asks for"""
    AVOID = "avoid"
    """The blades sound near a resonance there"""


@dataclass(frozen=True)
class Zone:
    """A stretch of the staff to keep away from."""

    low_rpm: float
    high_rpm: float
    text: str
    kind: ZoneKind


@dataclass(frozen=True)
class Axis:
    """The setting of a method as the axis of a plot."""

    name: str
    unit: str
    scale: float
    """Shown value over the SI one [-]"""
    logarithmic: bool = False


class ReachState(StrEnum):
    """What a fan does at one value of the setting."""

    OK = "ok"
    BARRED = "barred"
    STALL = "stall"


@dataclass(frozen=True)
class ReachPoint:
    """Speed at one value of the setting."""

    at: float
    speed_rpm: float
    """0 where nothing is predicted [rpm]"""
    state: ReachState


@dataclass(frozen=True)
class ReachBand:
    """Band of the speed at one value of the setting."""

    at: float
    low_rpm: float
    high_rpm: float


@dataclass(frozen=True)
class Reach:
    """Speed over the setting: what a method can do with a fan at all."""

    axis: Axis
    points: tuple[ReachPoint, ...]
    band: tuple[ReachBand, ...]
    barred_text: str = ""
    """Why values are barred, where some are [-]"""


# ---------------------------------------------------------------- parts


class PartRowKind(StrEnum):
    """What a part is to those who buy, prove and print it."""

    CAPACITOR = "capacitor"
    RESISTOR = "resistor"
    BLEED = "bleed"
    LIMITER = "limiter"
    FUSE = "fuse"
    SWITCH = "switch"
    WIRE = "wire"
    OTHER = "other"


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
    """A part of the regulator: what it is, what it is rated for and what it bears."""

    name: str
    kind: PartRowKind
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
    by_hand: bool = False
    refusal: str = ""
    note: str = ""
    nominal_bench: str = ""
    measured_bench: str = ""
    part_class: str = ""
    shelf_id: int | None = None
    of: str = ""
    """The part it serves, as a bleed serves its capacitor [-]"""
    pieces: tuple[str, ...] = ()
    """Names on the schematic, where more than one stands for it [-]"""
    editable: bool = False
    """Whether its value can be set by hand here"""
    explained: bool = False
    """Whether its value has a "why?" of its own"""
    to_buy: bool = False
    """Taken from the shelf or bought for this job; the small parts around it are not listed so"""
    paper: str = ""
    """As it stands on paper, where that is more than its text [-]"""
    piece: float | None = None
    """Farads, ohms or amps of one piece, where any part of its class and rating would do [F|Ω|A]"""
    rating: float = 0.0
    """Volts of a capacitor or fuse, watts of a resistor, that such a part bears at least [V|W]"""


@dataclass(frozen=True)
class Lug:
    """One lug or part with what it is wired to."""

    lug: str
    text: str


@dataclass(frozen=True)
class Built:
    """What a design is made of."""

    circuit: Circuit
    drawing: Drawing
    parts: tuple[PartRow, ...]
    lugs: tuple[Lug, ...]


# ---------------------------------------------------------------- straying, proving, explaining


@dataclass(frozen=True)
class Stray:
    """How far one step may stray, and what lets it."""

    step: int
    label: str
    together: Band
    alone: Mapping[Cause, Band]
    stops: float = 0.0
    """Share of the cases in which it does not start or hold the step [-]"""
    exceeds: float = 0.0
    """Share of the cases in which a limit is passed; they are not in the bands [-]"""
    stands_on_low_mains: bool = False

    @property
    def widest(self) -> Cause:
        """The cause that alone makes the widest band."""
        return max(self.alone, key=lambda c: self.alone[c].half_width)


@dataclass(frozen=True)
class Expected:
    """One quantity to read at a step."""

    quantity: Quantity
    middle: float
    band: Band
    text: str = ""
    """As it is shown, where that is not the middle with its band [-]"""


@dataclass(frozen=True)
class Missed:
    """A reading at a step that is not what was expected."""

    quantity: Quantity
    value: float
    low: bool
    """Below what was expected"""
    others_hold: bool
    """Other steps were read, and their speeds are as expected"""


@dataclass(frozen=True)
class Why:
    """A result that explains itself."""

    title: str
    value: str
    equation: str
    numbers: tuple[str, ...]
    """The equation with the numbers in it"""
    assumptions: tuple[str, ...]
    validity: str
    source: str


@dataclass(frozen=True)
class Case(Generic[U, D, S]):
    """What an explanation may draw on."""

    subject: U
    design: D | None
    steps: tuple[Step[S], ...]
    mains: float
    """By how much the mains may be off, of the job's profile [-]"""


Explain = Callable[[Case[Any, Any, Any], Step[Any]], Why]


@dataclass(frozen=True)
class Explained:
    """What a method explains of its results."""

    step: Mapping[str, Explain]
    """By what is asked for at a step, like ``speed`` [-]"""
    part: Callable[[Case[Any, Any, Any], str, str], Why]
    """By name of the part and burden, or ``value``. Raises InputError where there is none [-]"""
    as_built: tuple[str, ...]
    """What the speeds of a design take for granted [-]"""
    spread: Callable[[Case[Any, Any, Any]], tuple[str, tuple[str, ...], str]]
    """How straying is reckoned: equation, assumptions, source [-]"""
    validity: str


# ---------------------------------------------------------------- annexes


@dataclass(frozen=True)
class Panel:
    """One period of one step, over the angle from the mains' rising zero."""

    title: str
    theta_deg: tuple[float, ...]
    supply_v: tuple[float, ...]
    motor_v: tuple[float, ...]
    line_a: tuple[float, ...]
    note: str


@dataclass(frozen=True)
class ScaleMark:
    """A mark of a scale that is turned over."""

    turn: float
    """0 at the slow end, 1 at the fast end [-]"""
    rpm: int


@dataclass(frozen=True)
class Annex:
    """A page of the record that only this method has: drawings as data, or lines of text."""

    key: str
    title: str
    note: str = ""
    panels: tuple[Panel, ...] = ()
    scale: tuple[ScaleMark, ...] = ()
    lines: tuple[str, ...] = ()


@dataclass(frozen=True)
class Column:
    """A column with its unit; empty where there is none."""

    name: str
    unit: str = ""


@dataclass(frozen=True)
class Table:
    """Numbers as text, ready to be read or saved."""

    key: str
    title: str
    columns: tuple[Column, ...]
    rows: tuple[tuple[str, ...], ...]


# ---------------------------------------------------------------- Measure


@dataclass(frozen=True)
class Behind:
    """A step of a machine fan as Measure looks at it."""

    torque_nm: Callable[[FloatArray], tuple[FloatArray, FloatArray, FloatArray]]
    """Of the motor behind the regulator over speed: likeliest, low and high [rpm → N·m]"""
    speed_band: Callable[[Belief], tuple[Band, float]]
    """Band and middle of the step's speed by another belief of the same fan [rpm]"""
    like: Source
    """A source of sine volts behind which the fan runs at the same speed [-]"""


# ---------------------------------------------------------------- Choose


@dataclass(frozen=True, eq=False)
class Compared:
    """One row of Choose: its merits, and the steps they are taken from, for staff and path."""

    merits: Merits
    steps: Steps


# ---------------------------------------------------------------- the seam


def _steady(_: Any) -> None:
    return None


def _nothing(*_: Any) -> tuple[Any, ...]:
    return ()


@dataclass(frozen=True)
class Regulation(Generic[U, D, S]):
    """A way of regulating, as functions over its subject, its design and the steps."""

    key: Method
    name: str
    """With its article, inside a sentence [-]"""
    noun: str
    """What is chosen in Size [-]"""
    setting_name: str
    """Heading over what the regulator does at each step [-]"""
    where_name: str
    """Heading over where a step lies on the switch, knob or in the program [-]"""
    lugs_note: str
    """How to read the list of connections; may be empty [-]"""
    where_on_label: bool
    """Whether the label says where a step lies [-]"""
    design: type[D]
    form: int
    """Of the documents that are written now [-]"""
    upgrades: Mapping[int, Callable[[dict[str, Any]], dict[str, Any]]]
    """From each older form to the next; 0 is an untagged document [-]"""
    told_by: frozenset[str]
    """Keys by which an untagged document is known to be of this method [-]"""
    quantities: tuple[Quantity, ...]
    subject: Callable[[JobState], U | Unready]
    said: Callable[[D], str]
    """A design in a few words [-]"""
    usual: Callable[[U, Sequence[float], JobState], D]
    """A sensible first design for wanted speeds. Raises InputError where there is none [-]"""
    ideal: Callable[[U, Sequence[float], bool], tuple[Step[S], ...]]
    """Steps while nothing is chosen; True: at a glance, it will be asked again in a moment [-]"""
    steps: Callable[[U, D, Sequence[float], bool], tuple[Step[S], ...]]
    reach: Callable[[U], Reach]
    zones: Callable[[U, D | None], tuple[Zone, ...]]
    built: Callable[[U, D], Built]
    where: Callable[[U, D, Step[S]], str]
    """Where a step lies on the switch, knob or in the program [-]"""
    facts: Callable[[U, D, Steps, float], tuple[StepFacts, ...]]
    """For acceptance, with the mains' doubt [-]"""
    strays: Callable[[U, D, Steps, float], tuple[Stray, ...]]
    parts_advice: str
    """What to do where the parts let steps stray most [-]"""
    expected: Callable[[U, D | None, Step[S]], tuple[Expected, ...]]
    missed: Callable[[U, D | None, Step[S], Missed], str]
    """What a miss points to, after the words that say by how much [-]"""
    why: Explained
    cautions: Callable[[D], tuple[Caution, ...]]
    suits: Callable[[U, Sequence[float]], tuple[str, ...]]
    """What was computed of whether it suits this fan [-]"""
    tables: Callable[[U, Steps], tuple[Table, ...]]
    behind: Callable[[U, Step[S]], Behind | None]
    """A step for Measure; None where nothing stands in the line [-]"""
    compared: Callable[[U, JobState, bool], tuple[Compared, ...]]
    """What it is compared by at a job's wanted speeds: one row, or one for each kind of it; True: at a glance [-]"""
    netted: Callable[[U, D, Step[S]], Netted | None]
    """A step as a circuit simulator takes it; None where nothing is predicted at it [-]"""
    slow: bool = False
    """A first look at a new fan takes it a second: others are shown before it [-]"""
    annexes: Callable[[U, D, Steps], tuple[Annex, ...]] = _nothing
    plan: Callable[[U, D, Steps, HoldSheet], tuple[PlanLine, ...]] = _nothing
    """An order of work of its own in Prove [-]"""
    wired: Callable[[U, D, Facts, str], dict[str, Any]] | None = None
    """The whole wiring under a title, where it is more than the regulator between supply and motor [-]"""
    switches_hz: Callable[[D], float | None] = _steady
    """At what it switches, where that can be heard; None where nothing switches [Hz]"""
