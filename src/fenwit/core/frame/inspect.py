"""A control that came in, as its stage shows it: parts, places, findings, what explains it, and its repair."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from fenwit.core import quantity as q
from fenwit.core.calibrate.bands import Band
from fenwit.core.errors import InputError
from fenwit.core.frame.asked import Asked, as_by
from fenwit.core.frame.choose import compared_by, value_text
from fenwit.core.frame.shown import Live, PathPlace
from fenwit.core.frame.steps import mark, paths
from fenwit.core.inspect.circuits import BY, positions_of, ref_of
from fenwit.core.inspect.faults import Shown as FaultSeen
from fenwit.core.inspect.faults import name_of, said, supposable
from fenwit.core.inspect.faults import shown as fault_shown
from fenwit.core.inspect.findings import Severity, findings, unseen
from fenwit.core.inspect.orbits import running_orbits
from fenwit.core.inspect.places import Place as Spot
from fenwit.core.inspect.places import drawn_angles, places, turning
from fenwit.core.inspect.ranking import CAUSES, LOOKS, SYMPTOM_WORDS, Cause, explain
from fenwit.core.inspect.repair import repair
from fenwit.core.inspect.values import network_of, values_of
from fenwit.core.job.board import (
    FIRED,
    KNOBS,
    LIMITS,
    NAMES,
    ROLES,
    TEMPLATES,
    Board,
    Condition,
    Fault,
    FaultKind,
    Limit,
    Look,
    Role,
    Symptom,
    Topology,
)
from fenwit.core.job.board import (
    Asked as Wanted,
)
from fenwit.core.job.machine import MachineFan, MachineStep, bands_of, machine_of, running_of
from fenwit.core.job.state import JobState
from fenwit.core.job.steps import Place, PlaceKind, Reason, ReasonKind, Shown, Told, shown
from fenwit.core.memory import remembered
from fenwit.core.methods import REGULATIONS
from fenwit.core.motor.kinds import METHOD_NAMES
from fenwit.core.operating import Source, StepVerdict
from fenwit.core.size.merits import WISHES, Wish, sums_of, worst

_MOST_MARKS = 8
"""On the staff [-]"""
_LIGHT = 1e-3


@dataclass(frozen=True)
class TemplatePart:
    """A part a topology may have."""

    role: Role
    name: str
    many: bool
    asked: tuple[Wanted, ...]
    hint: str
    """How its value is typed; empty where it has none [-]"""
    look: str


@dataclass(frozen=True)
class Template:
    """A topology to pick from."""

    key: Topology
    name: str
    parts: tuple[TemplatePart, ...]


@dataclass(frozen=True)
class MarkingShown:
    """One way to read what is printed."""

    text: str
    bench: str
    share_text: str


@dataclass(frozen=True)
class BoardPartShown:
    """One part of the board as it is taken."""

    key: str
    ref: str
    name: str
    condition: Condition | None
    """None where nobody told of it yet"""
    taken: str
    """The value that is reckoned with; empty where it is not there [-]"""
    readings: tuple[MarkingShown, ...]


@dataclass(frozen=True)
class SpotShown:
    """One place of the knob or position of the switch."""

    at: float
    name: str
    setting: str
    speed: Shown | None
    """None where it stands, or where the fan is not known"""
    fan: str
    """What the fan does, in a word or two [-]"""
    amps: str
    watts: str
    lamp: str
    light: float
    light_text: str
    meter: str
    lamp_angle: str
    fan_angle: str


@dataclass(frozen=True)
class FindingShown:
    """One finding."""

    key: str
    severity: Severity
    title: str
    part: str
    ref: str
    figures: str
    why: str
    look: str
    sure: bool


@dataclass(frozen=True)
class SupposableShown:
    """A fault to suppose."""

    key: str
    words: str


@dataclass(frozen=True)
class SupposedShown:
    """What it shows."""

    key: str
    words: str
    scope: str
    meter: str
    fan: str
    heats: tuple[str, ...]
    spots: tuple[SpotShown, ...]


@dataclass(frozen=True)
class CauseShown:
    """A cause with its share."""

    key: str
    words: str
    share: float
    share_text: str
    fault: str
    """Key of the fault it is on this board; empty where it is none of it [-]"""


@dataclass(frozen=True)
class LookShown:
    """A look: taken, or what it is worth."""

    key: Look
    words: str
    how: str
    live: bool
    bad: bool | None
    """None while it was not taken"""
    bits_text: str


@dataclass(frozen=True)
class SymptomShown:
    """A word that may be ticked."""

    key: Symptom
    words: str
    on: bool


@dataclass(frozen=True)
class FitShown:
    """A part to fit or a thing to do."""

    ref: str
    what: str
    why: str


@dataclass(frozen=True)
class LampShown:
    """What a lamp must get at a place."""

    at: float
    name: str
    expected: str
    meter: str
    reading: str
    holds: bool | None


@dataclass(frozen=True)
class RepairShown:
    """How it is mended and proved."""

    said: str
    parts: tuple[FitShown, ...]
    dead_tests: tuple[str, ...]
    lamp: tuple[LampShown, ...]
    proved: bool


@dataclass(frozen=True)
class ThresholdShown:
    """One threshold."""

    key: Limit
    words: str
    unit: str
    text: str
    usual: str
    own: bool


@dataclass(frozen=True)
class CompareShown:
    """One merit of the control beside that of the design."""

    name: str
    before: str
    after: str


@dataclass(frozen=True)
class InspectShown:
    """Everything the stage shows."""

    templates: tuple[Template, ...]
    topology: Topology | None = None
    parts: tuple[BoardPartShown, ...] = ()
    positions: tuple[tuple[int, ...], ...] = ()
    spots: tuple[SpotShown, ...] = ()
    stepless: bool = False
    live: Live | None = None
    full: Shown | None = None
    refused: str = ""
    """Why nothing can be computed of it yet; empty where it can [-]"""
    fan_missing: str = ""
    """What must be known of the fan before its speeds can be told [-]"""
    findings: tuple[FindingShown, ...] = ()
    unseen: tuple[str, ...] = ()
    turns: str = ""
    """How a knob comes on and goes out, where it does either within its travel [-]"""
    narrows: str = ""
    """The part whose reading would narrow the answer most [-]"""
    supposable: tuple[SupposableShown, ...] = ()
    supposed: SupposedShown | None = None
    symptoms: tuple[SymptomShown, ...] = ()
    causes: tuple[CauseShown, ...] = ()
    looks: tuple[LookShown, ...] = ()
    next_live: bool = False
    """Dead looks are used up: the next one is under power"""
    found: str = ""
    """Key of the fault that was found; empty while none was [-]"""
    repair: RepairShown | None = None
    limits: tuple[ThresholdShown, ...] = ()
    takeover_rpm: tuple[float, ...] = ()
    """Speeds of this control that a new design can take over [rpm]"""
    compared: tuple[CompareShown, ...] = ()
    before_name: str = ""
    after_name: str = ""


def inspect(state: JobState, suppose: str = "", beside: bool = False, quick: bool = False) -> InspectShown:
    """Judge the control of a job.

    Parameters
    ----------
    state : JobState
        The job [-]
    suppose : str
        Key of a fault to suppose; empty: none [-]
    beside : bool
        With what compares it with the design: that asks both ways at every wanted speed [-]
    quick : bool
        Without bands, and what follows from them: a first look at a new fan [-]

    Returns
    -------
    InspectShown
        Templates alone while no control was told of [-]

    Raises
    ------
    InputError
        A fault that this board cannot have.
    """
    base = InspectShown(_TEMPLATES)
    board = state.board
    if board is None:
        return base
    known = machine_of(state) if state.kind is not None else None
    fan = known if isinstance(known, MachineFan) else None
    lacking = (
        "" if fan is not None else "the fan: its kind, nameplate and full speed, in Identify and Measure"
    )
    base = replace(
        base,
        topology=board.topology,
        parts=_parts(board),
        positions=positions_of(board),
        stepless=board.topology in FIRED,
        symptoms=tuple(SymptomShown(s, SYMPTOM_WORDS[s], s in board.seen) for s in Symptom)
        if board.topology in FIRED
        else (),
        limits=_limits(board),
        fan_missing=lacking,
        unseen=tuple(name_of(k) for k in unseen(board)),
    )
    supply = Source(state.supply_voltage_v, state.supply_frequency_hz)
    try:
        spots = spots_of(board, supply, fan, not quick)
    except InputError as error:
        return replace(base, refused=f"{error.reason}.")
    found = findings(board, supply, fan, spots)
    base = replace(
        base,
        spots=tuple(_spot(s) for s in spots),
        findings=tuple(
            FindingShown(
                f.key.value, f.rule.severity, f.rule.title, f.part, _ref(f.part), f.figures, f.rule.why, f.rule.look,
                f.sure,
            )
            for f in found
        ),
        narrows="" if quick else _narrows(board, supply, fan),
        turns=_turns(board, fan),
        supposable=tuple(SupposableShown(fault_key(s.fault), s.words) for s in supposable(board)),
        supposed=_supposed(board, supply, fan, suppose) if suppose else None,
        full=None if fan is None else shown(fan.full_rpm, fan.full_band, "rpm"),
    )  # fmt: skip
    if board.topology in FIRED:
        base = _explained(base, board)
    if board.found is not None:
        amps = None if fan is None else fan.full_point.line_current_a
        mended = repair(board, board.found, found, spots, amps)
        base = replace(
            base,
            found=fault_key(board.found),
            repair=RepairShown(
                mended.said,
                tuple(FitShown(_ref(p.part), p.what, p.why) for p in mended.parts),
                mended.dead_tests,
                tuple(
                    LampShown(
                        p.at,
                        p.name,
                        f"{p.low_v:.0f}–{p.high_v:.0f} V",
                        f"{p.meter_v:.0f} V",
                        "" if p.read_v is None else f"{p.read_v:.0f} V",
                        p.holds,
                    )
                    for p in mended.lamp
                ),
                mended.proved,
            ),
        )
    if fan is None or quick:
        return base
    base = replace(base, live=_live(state, board, fan, spots), takeover_rpm=_takeover(spots))
    return _beside(base, state, board) if beside else base


@remembered
def spots_of(board: Board, supply: Source, fan: MachineFan | None, banded: bool = True) -> tuple[Spot, ...]:
    """The places of a whole board; what was seen, looked at and proved changes none of them."""
    return places(board, supply, fan, banded=banded)


def check_board(state: JobState, board: Board) -> None:
    """Refuse a board that cannot be; raises InputError beside the field.

    A transformer whose taps are still to be typed is let pass.
    """
    if board.topology is Topology.STEPPED and not board.taps:
        return
    try:
        places(board, Source(state.supply_voltage_v, state.supply_frequency_hz), None)
    except InputError as error:
        raise InputError(f"board.{error.field}", error.value, error.allowed, error.reason) from None


def fault_key(fault: Fault) -> str:
    """A fault as it is asked for, like drifted:timing-capacitor:0.5."""
    tail = ":strapped" if fault.strapped else f":{fault.factor:g}" if fault.kind is FaultKind.DRIFTED else ""
    return f"{fault.kind.value}:{fault.part}{tail}"


def fault_of(key: str) -> Fault:
    """The same the other way; raises InputError where it is none."""
    words = key.split(":")
    try:
        kind, part = FaultKind(words[0]), words[1]
        strapped = words[2:] == ["strapped"]
        return Fault(kind, part, float(words[2]) if len(words) > 2 and not strapped else 1.0, strapped)
    except (ValueError, IndexError):
        raise InputError("fault", key[:60], "a fault of the list", "no such fault") from None


# ---------------------------------------------------------------- in words


_TEMPLATES = tuple(
    Template(
        topology,
        NAMES[topology],
        tuple(
            TemplatePart(
                role,
                ROLES[role].name,
                ROLES[role].many,
                ROLES[role].asked,
                d.example if (d := ROLES[role].dimension) else "",
                ROLES[role].look,
            )
            for role in roles
        ),
    )
    for topology, roles in TEMPLATES.items()
)


def _parts(board: Board) -> tuple[BoardPartShown, ...]:
    values = values_of(board)
    told = {p.key: p for p in board.parts}
    rows = []
    for key in board.keys:
        part = told.get(key)
        role = part.role if part else _role(key)
        dimension = ROLES[role].dimension
        value = values.likely.get(key)
        taken = ""
        if value is not None and dimension is not None:
            taken = q.show(value, dimension)
            if key in values.doubtful and (part is None or part.condition is Condition.UNREADABLE):
                low, high = ROLES[role].usual
                taken = f"{q.show(low, dimension)} to {q.show(high, dimension)}"
        readings: tuple[MarkingShown, ...] = ()
        if part is not None and dimension is not None and len(part.readings) > 1:
            total = sum(w for _, w in part.readings) or 1.0
            readings = tuple(
                MarkingShown(q.show(v, dimension), q.bench(v, dimension), f"{100 * w / total:.0f} %")
                for v, w in part.readings
            )
        rows.append(
            BoardPartShown(key, ref_of(key), name_of(key), part.condition if part else None, taken, readings)
        )
    return tuple(rows)


def _role(key: str) -> Role:
    role, _, number = key.rpartition("-")
    return Role(role) if number.isdigit() else Role(key)


def _ref(key: str) -> str:
    return "" if not key or key == "track" else ref_of(key)


def _volts(volts: float) -> str:
    return f"{volts:.0f} V" if volts >= 10 else f"{q.plain(volts, 2)} V"


def _spot(s: Spot) -> SpotShown:
    fan, lamp = s.fan, s.lamp
    runs = fan is not None and fan.speed_rpm > 0
    bands = fan.bands if fan is not None and runs else None
    speed = (
        shown(fan.speed_rpm, bands.speed_rpm if bands else None, "rpm") if fan is not None and runs else None
    )
    words = ""
    if fan is not None:
        words = "stands" if not runs else "starts" if fan.starts else "holds, does not start"
        if fan.mean_a > 0:
            words = f"{q.show(fan.mean_a, q.CURRENT, 2)} of DC in the motor"
        elif bands and runs and bands.may_not_start > 0.05:
            words = f"in {100 * bands.may_not_start:.0f} of 100 cases it stands"
    return SpotShown(
        at=s.at,
        name=s.name,
        setting=s.setting,
        speed=speed,
        fan=words,
        amps=q.show(fan.line_current_a, q.CURRENT, 3) if fan is not None and runs else "",
        watts=_watts(fan.input_power_w, bands.input_power_w if bands else None) if fan is not None and runs else "",
        lamp=_volts(lamp.volts_v),
        light=lamp.light,
        light_text="dark" if lamp.light < _LIGHT else f"{100 * lamp.light:.0f} %",
        meter=_volts(lamp.meter_v) + (f", DC {lamp.mean_v:.0f} V" if lamp.mean_v else ""),
        lamp_angle="" if lamp.angle_deg is None else f"{lamp.angle_deg:.0f}°",
        fan_angle="" if fan is None or fan.angle_deg is None else f"{fan.angle_deg:.0f}°",
    )  # fmt: skip


def _watts(value: float, band: Band | None) -> str:
    found = shown(value, band, "W")
    return found.text


def _limits(board: Board) -> tuple[ThresholdShown, ...]:
    own = dict(board.limits)
    return tuple(
        ThresholdShown(k, f.words, f.unit, q.plain(own.get(k, f.usual), 3), q.plain(f.usual, 3), k in own)
        for k, f in LIMITS.items()
    )


def _supposed(board: Board, supply: Source, fan: MachineFan | None, key: str) -> SupposedShown:
    found: FaultSeen = fault_shown(board, supply, fan, fault_of(key))
    return SupposedShown(
        key, found.words, found.scope, found.meter, found.fan,
        tuple(f"{q.plain(h.watts, 2)} W in {ref_of(h.part)} {h.where}" for h in found.heats),
        tuple(_spot(s) for s in found.places),
    )  # fmt: skip


def _explained(base: InspectShown, board: Board) -> InspectShown:
    there = {fault_key(s.fault) for s in supposable(board)}
    gone = {p.role for p in board.parts if not p.fitted}
    absent = tuple(c for c, role in _NEEDS.items() if role in gone)
    found = explain(board.seen, board.looks, absent)
    taken = dict(board.looks)
    looks = [
        LookShown(n.look, LOOKS[n.look].words, LOOKS[n.look].how, LOOKS[n.look].live, None, f"{n.bits:.2f} bit")
        for n in found.looks
        if _AT.get(n.look) not in gone
    ] + [
        LookShown(k, LOOKS[k].words, LOOKS[k].how, LOOKS[k].live, bad, "")
        for k, bad in taken.items()
    ]  # fmt: skip
    causes = []
    for c in found.causes:
        facts = CAUSES[c.cause]
        key = fault_key(facts.fault) if facts.fault else ""
        causes.append(
            CauseShown(
                c.cause.value, facts.words, c.share, f"{100 * c.share:.0f} %", key if key in there else ""
            )
        )
    following = next((n for n in found.looks if _AT.get(n.look) not in gone), None)
    return replace(
        base,
        causes=tuple(causes),
        looks=tuple(looks),
        next_live=following is not None and LOOKS[following.look].live,
    )


_NEEDS = {
    Cause.FUSE: Role.FUSE,
    Cause.SNUBBER_SHORT: Role.SNUBBER_CAPACITOR,
    Cause.SNUBBER_OPEN: Role.SNUBBER_CAPACITOR,
    Cause.SWITCH: Role.SWITCH,
}
"""Causes that want a part some boards have not"""
_AT = {Look.FUSE: Role.FUSE, Look.SNUBBER: Role.SNUBBER_CAPACITOR, Look.SWITCH: Role.SWITCH}


@remembered
def _narrows(board: Board, supply: Source, fan: MachineFan | None) -> str:
    """The part whose reading would narrow the speeds, or else the angles, most; empty where all is read."""
    values = values_of(board)
    if len(values.doubtful) == 0 or fan is None or board.topology not in KNOBS:
        return name_of(values.doubtful[0]) if len(values.doubtful) == 1 else ""
    network = network_of(board, values.likely)
    orbits = running_orbits(fan.belief.motor, fan.belief.load, supply)
    if len(orbits.firing_rad) < 4:
        return ""

    def width(key: str | None) -> float:
        drawn = values if key is None else values.fixed(key)
        speeds = orbits.speed_at(drawn_angles(board, drawn, network, orbits, supply))
        low, high = np.percentile(speeds, [5, 95], axis=0)
        return float((high - low).mean())

    candidates = [k for k in values.doubtful if k in values.draws]
    best = min(candidates, key=width, default=None)
    return "" if best is None or width(best) > 0.97 * width(None) else name_of(best)


def _turns(board: Board, fan: MachineFan | None) -> str:
    """Where a two-wire knob comes on and goes out; empty where it fires all along its travel."""
    if fan is None or board.topology is not Topology.TWO_WIRE:
        return ""
    turned = turning(fan, network_of(board, values_of(board).likely))
    if turned is None or not turned.comes_on:
        return ""
    on, off = (q.show(float(f"{v:.3g}"), q.RESISTANCE) for v in (turned.on_ohm, turned.off_ohm))
    return (
        f"turned up under power it comes on at {on} and settles at {turned.on_rpm:.0f} rpm; turned back it holds to "
        f"{off}, {turned.off_rpm:.0f} rpm; switched on at the wall it may start further back than it does by turning, "
        "for its capacitor is empty then"
    )


# ---------------------------------------------------------------- on staff and path


def _chosen(spots: Sequence[Spot]) -> list[Spot]:
    """Places that stand on the staff: all of a switch, some of a knob, slowest first."""

    def speed(s: Spot) -> float:
        return s.fan.speed_rpm if s.fan else 0.0

    if len(spots) <= _MOST_MARKS:
        return sorted(spots, key=speed)
    some = sorted((s for s in spots if speed(s) > 0), key=speed)
    apart = max(map(speed, some), default=0.0) / (2 * _MOST_MARKS)
    found: list[Spot] = []
    for s in reversed(some):
        if not found or speed(found[-1]) - speed(s) > apart:
            found.append(s)
    return found[: _MOST_MARKS - 2][::-1]


def _live(state: JobState, board: Board, fan: MachineFan, spots: Sequence[Spot]) -> Live | None:
    method = BY[board.topology]
    room = REGULATIONS[method]
    asked = Asked(as_by(replace(state, design=None, proofs=()), method), room, fan)
    steps = tuple(_step(fan, number, s) for number, s in enumerate(_chosen(spots), start=1))
    return Live(
        marks=tuple(mark(asked, s) for s in steps),
        paths=tuple(replace(p, places=tuple(_plain(at) for at in p.places)) for p in paths(asked, steps)),
        method=method,
    )


def _plain(place: PathPlace) -> PathPlace:
    """A place without its explanations: those are of the job's own steps, not of what came in."""
    bare = tuple(Told(t.text) for t in place.values)
    loss, warning = (None if t is None else Told(t.text) for t in (place.loss, place.warning))
    return replace(place, values=bare, loss=loss, warning=warning)


def _step(fan: MachineFan, number: int, spot: Spot) -> MachineStep[None]:
    seen = spot.fan
    assert seen is not None
    words = f"{spot.name}: {spot.setting}"
    running = None
    if seen.point is not None:
        place = Place(
            PlaceKind.REGULATOR,
            (
                Told(f"fires at {seen.angle_deg:.0f}°") if seen.angle_deg is not None else Told(spot.setting),
                Told(f"{q.plain(seen.point.series_loss_w, 2)} W heat"),
            ),
            name=spot.name,
        )
        running = running_of(fan, seen.point, seen.bands, place)
    ok = seen.speed_rpm > 0 and seen.starts
    reasons: tuple[Reason, ...] = ()
    if not ok:
        text = "holds here coming down, but does not start" if seen.speed_rpm > 0 else "the fan stands"
        reasons = (Reason(ReasonKind.NO_START, text),)
    return MachineStep(
        number=number, label=spot.name, joins=words, wanted_rpm=None, setting=None, need=None, running=running,
        bands=bands_of(seen.bands), verdict=StepVerdict.OK if ok else StepVerdict.DOES_NOT_START, reasons=reasons,
        may_not_start=seen.bands.may_not_start if seen.bands else 0.0,
    )  # fmt: skip


def _takeover(spots: Sequence[Spot]) -> tuple[float, ...]:
    """Speeds that a new design can take over: those of a switch, or some over a knob's range."""
    found: list[float] = []
    for spot in _chosen(spots):
        speed = spot.fan.speed_rpm if spot.fan and spot.fan.starts else 0.0
        if speed > 0 and all(abs(speed - other) > 0.02 * speed for other in found):
            found.append(float(round(speed)))
    return tuple(found)


_MERITS = (Wish.HUM, Wish.WATTS, Wish.REGULATOR, Wish.RISE, Wish.THD, Wish.POWER_FACTOR, Wish.SLOWEST)


def _beside(base: InspectShown, state: JobState, board: Board) -> InspectShown:
    """The way it regulates beside the design that is chosen, at the same wanted speeds."""
    new, old = state.method, BY[board.topology]
    if new is old or not state.wanted_rpm:
        return base
    before, after = compared_by(state, old), compared_by(state, new)
    if before is None or after is None:
        return base
    choosing = state.sizing.choosing
    rows = []
    for wish in _MERITS:
        pair = [value_text(wish, worst(m, sums_of(m, choosing), wish)) for m in (before, after)]
        rows.append(CompareShown(WISHES[wish].merit, *pair))
    return replace(
        base,
        compared=tuple(rows),
        before_name=f"such a control ({METHOD_NAMES[old]})",
        after_name=f"{'the design' if state.design else 'as it is aimed'} ({METHOD_NAMES[new]})",
    )


def said_fault(board: Board) -> str:
    """What was found, in words; empty while nothing was."""
    return said(board.found) if board.found is not None else ""
