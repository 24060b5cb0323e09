"""A fault supposed somewhere on a board: what a lamp in series, a meter and a scope then show."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from fenwit.core import quantity as q
from fenwit.core.circuit import PartKind
from fenwit.core.errors import InputError
from fenwit.core.inspect.circuits import ref_of
from fenwit.core.inspect.places import Mode, Place, lamp_ohm, places, state_of
from fenwit.core.inspect.values import values_of
from fenwit.core.job.board import FIRED, KNOBS, ROLES, TRACK, Board, Fault, FaultKind, Role, Topology
from fenwit.core.job.machine import MachineFan
from fenwit.core.operating import Source


@dataclass(frozen=True)
class Supposable:
    """A fault that can be supposed on a board."""

    fault: Fault
    words: str


@dataclass(frozen=True)
class Heated:
    """Heat in a part that has little in a whole control."""

    part: str
    watts: float
    where: str


@dataclass(frozen=True)
class Shown:
    """What a fault looks like."""

    words: str
    scope: str
    meter: str
    fan: str
    heats: tuple[Heated, ...]
    places: tuple[Place, ...]


def name_of(key: str) -> str:
    """What a part is called in a sentence, from its key."""
    if key == TRACK:
        return "printed track"
    role, _, number = key.rpartition("-")
    return f"{ROLES[Role(role)].name} {number}" if number.isdigit() else ROLES[Role(key)].name


_DRIFTS = {
    Role.TIMING_CAPACITOR: (0.5, 1.5),
    Role.SECTION: (0.7, 0.5),
    Role.KNOB: (2.0,),
    Role.END_RESISTOR: (3.0,),
}


def supposable(board: Board) -> tuple[Supposable, ...]:
    """Faults that can be supposed on a board, part by part in the order of its template.

    Parameters
    ----------
    board : Board
        As it was read [-]

    Returns
    -------
    tuple of Supposable
        Each with its words [-]
    """
    there = values_of(board).likely
    found: list[Supposable] = []

    def add(kind: FaultKind, part: str, words: str, factor: float = 1.0, strapped: bool = False) -> None:
        found.append(Supposable(Fault(kind, part, factor, strapped), words))

    for key in board.keys:
        if key not in there and not (board.topology in FIRED and key == Role.SWITCH.value):
            continue
        role = _role(key)
        kind, name = ROLES[role].kind, name_of(key)
        if role is Role.KNOB:
            add(FaultKind.CRACKED, key, "knob's track cracked or open, wiper free")
            add(FaultKind.CRACKED, key, "the same, wiper strapped to the track's end", strapped=True)
            add(FaultKind.SHORT, key, "knob shorted")
        elif role is Role.TRIAC:
            add(FaultKind.SHORT, key, "triac shorted")
            add(FaultKind.HALF_WAVE, key, "triac fires in one half-cycle only")
            add(FaultKind.OPEN, key, "triac or its gate open")
        elif role is Role.SWITCH:
            add(FaultKind.OPEN, key, "switch open")
            add(FaultKind.WORN, key, "switch worn: touches now and then")
        elif kind in (PartKind.FUSE, PartKind.WINDING):
            add(FaultKind.OPEN, key, f"{name} open")
        elif kind is PartKind.OPTO:
            add(FaultKind.OPEN, key, "opto-triac dead")
        else:
            add(FaultKind.OPEN, key, f"{name} open")
            if kind is not PartKind.INDUCTOR:
                add(FaultKind.SHORT, key, f"{name} shorted")
        for factor in _DRIFTS.get(role, ()):
            words = f"{name} at {100 * factor:.0f} % of its value"
            add(FaultKind.DRIFTED, key, words, factor)
    if board.topology in FIRED:
        add(FaultKind.CRACKED, TRACK, "a track cracked between knob and triac" if board.topology in KNOBS
            else "a track cracked towards the gate")  # fmt: skip
        add(FaultKind.WORN, TRACK, "a dry joint: touches now and then")
    return tuple(found)


def _role(key: str) -> Role:
    role, _, number = key.rpartition("-")
    return Role(role) if number.isdigit() else Role(key)


def shown(board: Board, supply: Source, fan: MachineFan | None, fault: Fault) -> Shown:
    """What a supposed fault looks like.

    Parameters
    ----------
    board : Board
        As it was read [-]
    supply : Source
        Mains [-]
    fan : MachineFan or None
        None while too little is known of it [-]
    fault : Fault
        Supposed [-]

    Returns
    -------
    Shown
        With a lamp, a meter, a scope and the fan, at every place [-]

    Raises
    ------
    InputError
        A part that is not there, or a fault that it cannot have.
    """
    words = next((s.words for s in supposable(board) if s.fault == fault), None)
    if words is None and fault.kind is FaultKind.DRIFTED and fault.part in values_of(board).likely:
        words = f"{name_of(fault.part)} at {100 * fault.factor:.0f} % of its value"
    if words is None:
        raise InputError(
            "fault", fault.part, "a fault of the list", "this part is not there, or cannot fail so"
        )
    at = places(board, supply, fan, fault, banded=False)
    if board.topology not in FIRED:
        return _switched(board, fault, words, at)
    state = state_of(board, values_of(board).likely, fault)
    scope, meter, turns = _FIRED_WORDS[state.mode]
    if state.mode is Mode.FIRES and state.no_capacitor:
        moved = np.ptp([p.lamp.angle_deg for p in at if p.lamp.angle_deg is not None])
        scope = f"fires with the mains' rise; the knob moves it by {moved:.1f}°"
        turns = "full, if the gate fires on the few milliamps that the resistors let through; else it stands"
    return Shown(words, scope, meter, turns, _heats(board, supply, fan, fault, state.mode), at)


_FIRED_WORDS = {
    Mode.FIRES: ("a step in every half-cycle, both halves alike", "true rms above what an average meter shows",
                 "turns with the knob as the table says"),
    Mode.DARK: ("no firing: the whole sine over the triac", "mains across the triac, next to nothing across the lamp",
                "stands silent"),
    Mode.FULL: ("no step: the whole sine over the lamp", "mains across the lamp, nothing across the triac",
                "runs full at every place, also with the knob at its off end"),
    Mode.HALF: ("one half-cycle only", "DC beside AC across the lamp, which flickers at mains frequency",
                "hums, crawls and gets hot: switch off soon"),
    Mode.BYPASS: ("a sine, no firing: something else conducts", "the same at every place of the knob",
                  "runs at one speed; something smells"),
    Mode.DEAD: ("nothing", "no mains past it", "stands silent"),
    Mode.UNSTEADY: ("missing half-cycles, random gaps", "jumps", "jumps, with a contact's clicks"),
}  # fmt: skip


def _heats(
    board: Board, supply: Source, fan: MachineFan | None, fault: Fault, mode: Mode
) -> tuple[Heated, ...]:
    values = values_of(board).likely
    volts = supply.voltage_v
    found: list[Heated] = []
    end = values.get(Role.END_RESISTOR.value)
    if fault.part == Role.TIMING_CAPACITOR.value and fault.kind is FaultKind.SHORT and end:
        found.append(
            Heated(Role.END_RESISTOR.value, volts**2 / end, "with the knob at its fast end: it smells")
        )
    ohm = values.get(Role.SNUBBER_RESISTOR.value)
    if mode is Mode.BYPASS and ohm:
        hot = lamp_ohm(board.lamp_w, volts)
        found.append(Heated(Role.SNUBBER_RESISTOR.value, (volts / (hot + ohm)) ** 2 * ohm, "with the lamp"))
        if fan is not None:
            seen = places(board, supply, fan, fault, banded=False)[0].fan
            if seen is not None:
                found.append(
                    Heated(Role.SNUBBER_RESISTOR.value, seen.line_current_a**2 * ohm, "with the fan")
                )
    return tuple(found)


def _switched(board: Board, fault: Fault, words: str, at: tuple[Place, ...]) -> Shown:
    whole = "a sine in every position"
    if fault.kind is FaultKind.WORN:
        return Shown(
            words, "missing stretches of the sine", "jumps", "jumps, with a contact's clicks", (), at
        )
    dead = [
        p.name for p in at if p.lamp.volts_v < 0.05 * max(x.lamp.volts_v for x in at) or not p.lamp.volts_v
    ]
    meter = (
        f"nothing at {', '.join(dead)}" if dead else "volts in every position: compare them with the table"
    )
    turns = f"stands at {', '.join(dead)}" if dead else "turns at the speeds of the table"
    if board.topology is Topology.STEPPED and fault.part == Role.TRANSFORMER.value:
        turns += "; with an auto's neutral end open it hangs behind the upper section instead, humming"
    return Shown(words, whole, meter, turns, (), at)


def said(fault: Fault) -> str:
    """A fault in a few words, with what the part is called on the schematic."""
    what = {
        FaultKind.OPEN: "open", FaultKind.SHORT: "shorted", FaultKind.HALF_WAVE: "fires in one half only",
        FaultKind.CRACKED: "cracked", FaultKind.WORN: "touches now and then",
        FaultKind.DRIFTED: f"at {100 * fault.factor:.0f} %",
    }[fault.kind]  # fmt: skip
    if fault.part == TRACK:
        return f"printed track {what}"
    return f"{name_of(fault.part)} {ref_of(fault.part)} {what}"


def plain_value(board: Board, key: str) -> str:
    """A part's likeliest value as it is ordered."""
    value = values_of(board).likely.get(key)
    dimension = ROLES[_role(key)].dimension
    return "" if value is None or dimension is None else q.show(value, dimension)
