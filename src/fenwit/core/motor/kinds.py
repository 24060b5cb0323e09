"""Motor kinds, and which ways of regulating speed suit each: suits, suits on conditions, or refused."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum


class MotorKind(StrEnum):
    """What motor it is."""

    SHADED_POLE = "shaded-pole"
    PSC = "psc"
    PSC_TAPPED = "psc-tapped"
    SPLIT_PHASE = "split-phase"
    CAPACITOR_START = "capacitor-start"
    CAPACITOR_START_RUN = "capacitor-start-run"
    UNIVERSAL = "universal"
    THREE_PHASE = "three-phase"
    EC_CONTROL = "ec-control-input"
    EC_REPLACEMENT = "ec-replacement"
    DC_2_WIRE = "dc-2-wire"
    DC_3_WIRE = "dc-3-wire"
    DC_4_WIRE = "dc-4-wire"
    DC_BRUSHED = "dc-brushed"


class SubjectKind(StrEnum):
    """What a regulator finds behind it."""

    MACHINE = "machine"
    """An induction machine with its load, known by a circuit"""
    MAPPED = "mapped"
    """Electronics of its own, known by a map of speeds over what it is told"""


@dataclass(frozen=True)
class KindFacts:
    """How a kind is called and known."""

    name: str
    known_by: str
    short: str
    """For lists [-]"""
    subject: SubjectKind | None = None
    """None where there is no model yet [-]"""
    dc: bool = False
    """Runs on DC: it has no hertz"""
    control_lead: bool = False
    """Whether a lead of its own sets its speed, by a duty [-]"""
    control_input: bool = False
    """Whether terminals of its own set its speed, by a voltage [-]"""


KINDS: dict[MotorKind, KindFacts] = {
    MotorKind.SHADED_POLE: KindFacts(
        "Shaded-pole",
        "copper rings let into the pole faces, two leads, no capacitor",
        "shaded-pole",
        SubjectKind.MACHINE,
    ),
    MotorKind.PSC: KindFacts(
        "Permanent split capacitor",
        "a run capacitor always in circuit, three leads or two",
        "run-capacitor motor",
        SubjectKind.MACHINE,
    ),
    MotorKind.PSC_TAPPED: KindFacts(
        "Permanent split capacitor, tapped",
        "a run capacitor and four or more leads",
        "run-capacitor motor with taps",
        SubjectKind.MACHINE,
    ),
    MotorKind.SPLIT_PHASE: KindFacts(
        "Split-phase", "a click while running down, no capacitor", "split-phase"
    ),
    MotorKind.CAPACITOR_START: KindFacts(
        "Capacitor-start", "a click while running down, a capacitor in a hump", "capacitor-start"
    ),
    MotorKind.CAPACITOR_START_RUN: KindFacts(
        "Capacitor-start and run", "a click while running down, two capacitors", "capacitor-start-and-run"
    ),
    MotorKind.UNIVERSAL: KindFacts(
        "Universal, brushed", "brushes and commutator, runs on AC and DC", "universal"
    ),
    MotorKind.THREE_PHASE: KindFacts(
        "Three-phase", "three leads of equal resistance, no capacitor", "three-phase"
    ),
    MotorKind.EC_CONTROL: KindFacts(
        "EC, mains-fed, control input",
        "electronics on the motor, 0–10 V or PWM terminals",
        "EC with control input",
        SubjectKind.MAPPED,
        control_input=True,
    ),
    MotorKind.EC_REPLACEMENT: KindFacts(
        "EC replacement, mains-fed", "electronics on the motor, one lead for each speed", "EC replacement"
    ),
    MotorKind.DC_2_WIRE: KindFacts(
        "DC brushless, 2-wire", "two-way plug, low DC voltage", "2-wire DC", SubjectKind.MAPPED, dc=True
    ),
    MotorKind.DC_3_WIRE: KindFacts(
        "DC brushless, 3-wire",
        "three-way plug: supply and tachometer",
        "3-wire DC",
        SubjectKind.MAPPED,
        dc=True,
    ),
    MotorKind.DC_4_WIRE: KindFacts(
        "DC brushless, 4-wire",
        "four-way plug: supply, tachometer, control",
        "4-wire DC",
        SubjectKind.MAPPED,
        dc=True,
        control_lead=True,
    ),
    MotorKind.DC_BRUSHED: KindFacts("DC brushed", "brushes, low DC voltage", "brushed DC", dc=True),
}


class Method(StrEnum):
    """What sets the speed."""

    SERIES_CAPACITOR = "series-capacitor"
    SERIES_RESISTOR = "series-resistor"
    PHASE_ANGLE = "phase-angle"
    STEPPED_VOLTAGE = "stepped-voltage"
    WINDING_TAP = "winding-tap"
    DC_VOLTAGE = "dc-voltage"
    CHOPPED_SUPPLY = "chopped-supply"
    PWM = "pwm"
    CONTROL_VOLTAGE = "control-voltage"
    VARIABLE_FREQUENCY = "variable-frequency"


METHOD_NAMES: dict[Method, str] = {
    Method.SERIES_CAPACITOR: "series capacitor",
    Method.SERIES_RESISTOR: "series resistor",
    Method.PHASE_ANGLE: "phase angle",
    Method.STEPPED_VOLTAGE: "stepped AC volts",
    Method.WINDING_TAP: "winding taps",
    Method.DC_VOLTAGE: "lower DC volts",
    Method.CHOPPED_SUPPLY: "chopping the supply",
    Method.PWM: "PWM, control lead",
    Method.CONTROL_VOLTAGE: "0–10 V",
    Method.VARIABLE_FREQUENCY: "variable frequency",
}
"""For lists"""


class Answer(StrEnum):
    """Whether a method suits a motor."""

    SUITS = "suits"
    CONDITIONS = "on-conditions"
    REFUSED = "refused"


@dataclass(frozen=True)
class Suitability:
    """The answer for one method on one kind of motor."""

    method: Method
    name: str
    answer: Answer
    reason: str
    never: bool = False
    """A refusal that nobody may override"""
    brief: str = ""
    """What a refused job says of itself in lists; empty: the whole reason [-]"""


_SWITCH = (
    "start switch",
    "below about three quarters of synchronous speed it closes again, "
    "and the start winding, rated for seconds, burns",
)
_ONE_TAP = "on one tap only: two taps alive at once make a shorted transformer of the winding"
_HEAT = "simple and free of hum; the resistor turns the volts it takes into heat"

_S, _C, _R = Answer.SUITS, Answer.CONDITIONS, Answer.REFUSED
_Reason = str | tuple[str, str]
"""Why; where it begins with what lists show, that apart from the rest"""
_Row = tuple[Answer, _Reason] | tuple[Answer, _Reason, bool]

_REFER = (_R, ("a frequency drive is another trade", "refer on"))
_START_SWITCH: dict[Method, _Row] = {
    Method.SERIES_CAPACITOR: (_R, _SWITCH, True),
    Method.SERIES_RESISTOR: (_R, _SWITCH, True),
    Method.PHASE_ANGLE: (_R, _SWITCH, True),
    Method.STEPPED_VOLTAGE: (_R, _SWITCH, True),
    Method.VARIABLE_FREQUENCY: _REFER,
}
_TAPPED: dict[Method, _Row] = {
    Method.SERIES_CAPACITOR: (_C, _ONE_TAP),
    Method.SERIES_RESISTOR: (_C, _ONE_TAP),
    Method.PHASE_ANGLE: (_C, _ONE_TAP),
    Method.STEPPED_VOLTAGE: (_C, _ONE_TAP),
    Method.WINDING_TAP: (_S, "made for it; never two taps alive at once"),
    Method.VARIABLE_FREQUENCY: _REFER,
}
_EC_SUPPLY = (
    "electronics on the motor",
    "they want their full supply; lowering or cutting it stops or destroys them",
)
_EC: dict[Method, _Row] = {
    Method.SERIES_CAPACITOR: (_R, _EC_SUPPLY, True),
    Method.SERIES_RESISTOR: (_R, _EC_SUPPLY, True),
    Method.PHASE_ANGLE: (_R, _EC_SUPPLY, True),
    Method.STEPPED_VOLTAGE: (_R, _EC_SUPPLY, True),
}
_DC_BRUSHLESS: dict[Method, _Row] = {
    Method.SERIES_RESISTOR: (_C, "start voltage: the fan must still start behind the resistor"),
    Method.DC_VOLTAGE: (_S, "above its start voltage"),
    Method.CHOPPED_SUPPLY: (_C, "the tachometer is lost during off time and commutation is heard"),
}

_TABLE: dict[MotorKind, dict[Method, _Row]] = {
    MotorKind.SHADED_POLE: {
        Method.SERIES_CAPACITOR: (
            _C,
            "the winding is inductive: near resonance the motor gets more than the supply; values that do are barred",
        ),
        Method.SERIES_RESISTOR: (_S, _HEAT),
        Method.PHASE_ANGLE: (_S, "hums, and has a lowest steady speed"),
        Method.STEPPED_VOLTAGE: (_S, "quiet and cool; needs a transformer with taps"),
        Method.WINDING_TAP: (_C, "where the winding has taps"),
        Method.VARIABLE_FREQUENCY: _REFER,
    },
    MotorKind.PSC: {
        Method.SERIES_CAPACITOR: (_S, "cool and free of hum; needs one contact pattern for each step"),
        Method.SERIES_RESISTOR: (_S, _HEAT),
        Method.PHASE_ANGLE: (_S, "hums, and its harmonics load the run capacitor"),
        Method.STEPPED_VOLTAGE: (_S, "quiet and cool; needs a transformer with taps"),
        Method.WINDING_TAP: (_C, "where the winding has taps"),
        Method.VARIABLE_FREQUENCY: _REFER,
    },
    MotorKind.PSC_TAPPED: _TAPPED,
    MotorKind.SPLIT_PHASE: _START_SWITCH,
    MotorKind.CAPACITOR_START: _START_SWITCH,
    MotorKind.CAPACITOR_START_RUN: _START_SWITCH,
    MotorKind.UNIVERSAL: {
        Method.SERIES_CAPACITOR: (
            _R,
            ("commutator", "in series with a capacitor it has no steady torque to speak of"),
        ),
        Method.SERIES_RESISTOR: (_S, "heat, and a weak start"),
        Method.PHASE_ANGLE: (_S, "speed falls with load"),
        Method.STEPPED_VOLTAGE: (_S, "needs a transformer with taps"),
    },
    MotorKind.THREE_PHASE: {
        Method.SERIES_CAPACITOR: (_R, ("three phases", "it unbalances them and overheats the motor"), True),
        Method.SERIES_RESISTOR: (_R, ("three phases", "it unbalances them and overheats the motor"), True),
        Method.PHASE_ANGLE: (_R, ("three phases", "a control in one line leaves the motor on two"), True),
        Method.STEPPED_VOLTAGE: (_R, "needs a three-phase set; refer on"),
        Method.VARIABLE_FREQUENCY: (_R, "refer to a drive of the right class and a licensed installation"),
    },
    MotorKind.EC_CONTROL: _EC
    | {
        Method.PWM: (_C, "where the motor has the input"),
        Method.CONTROL_VOLTAGE: (_S, "the control input is made for it"),
    },
    MotorKind.EC_REPLACEMENT: _EC
    | {
        Method.PWM: (_C, "where the motor has the input"),
        Method.CONTROL_VOLTAGE: (_C, "where the motor has the input; else its speed leads"),
    },
    MotorKind.DC_4_WIRE: {
        Method.SERIES_RESISTOR: (_R, "use the control lead instead"),
        Method.DC_VOLTAGE: (_C, "above its start voltage; the tachometer stays valid"),
        Method.CHOPPED_SUPPLY: (_R, "cutting the supply of a 4-wire fan upsets its electronics", True),
        Method.PWM: (_S, "the fourth lead is made for it"),
    },
    MotorKind.DC_3_WIRE: _DC_BRUSHLESS,
    MotorKind.DC_2_WIRE: _DC_BRUSHLESS,
    MotorKind.DC_BRUSHED: {
        Method.SERIES_RESISTOR: (_S, _HEAT),
        Method.DC_VOLTAGE: (_S, "speed follows voltage"),
        Method.CHOPPED_SUPPLY: (_S, "with a diode across the motor"),
    },
}


def suitability(kind: MotorKind) -> tuple[Suitability, ...]:
    """Which methods suit a kind of motor, which are refused, and why.

    Parameters
    ----------
    kind : MotorKind
        The motor's kind [-]

    Returns
    -------
    tuple of Suitability
        Methods that have a meaning for this kind, suiting ones first [-]
    """
    order = [Answer.SUITS, Answer.CONDITIONS, Answer.REFUSED]
    rows = [
        _suitability(method, row[0], row[1], row[2] if len(row) == 3 else False)
        for method, row in _TABLE[kind].items()
    ]
    return tuple(sorted(rows, key=lambda row: order.index(row.answer)))


def _suitability(method: Method, answer: Answer, reason: _Reason, never: bool) -> Suitability:
    if isinstance(reason, str):
        return Suitability(method, METHOD_NAMES[method], answer, reason, never)
    brief, rest = reason
    return Suitability(method, METHOD_NAMES[method], answer, f"{brief}: {rest}", never, brief)


def answer_for(kind: MotorKind, method: Method) -> Suitability | None:
    """The answer for one method, or None where it has no meaning for the kind."""
    return next((row for row in suitability(kind) if row.method is method), None)


def is_known(kind: MotorKind) -> bool:
    """Whether anything is computed of a kind: a machine or a map stands behind it."""
    return KINDS[kind].subject is not None


def usual_method(kind: MotorKind) -> Method | None:
    """The first method that suits a kind; None where none does."""
    return next((row.method for row in suitability(kind) if row.answer is not Answer.REFUSED), None)


def has_model(kind: MotorKind) -> bool:
    """Whether a machine model stands behind the kind."""
    return KINDS[kind].subject is SubjectKind.MACHINE
