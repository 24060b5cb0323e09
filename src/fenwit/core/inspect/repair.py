"""From what was found to what is fitted, and the proof of it under a lamp before the fan comes back."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from fenwit.core import quantity as q
from fenwit.core.circuit import PartKind
from fenwit.core.inspect.circuits import ref_of
from fenwit.core.inspect.faults import name_of, said
from fenwit.core.inspect.findings import JUNCTION_C, Finding, Key, track_width_mm
from fenwit.core.inspect.places import Place
from fenwit.core.inspect.values import values_of
from fenwit.core.job.board import FIRED, ROLES, TRACK, Board, Fault, FaultKind, Limit, Role
from fenwit.core.size.classes import FUSES_A

LAMP_SHARE = 0.06
"""By which a reading under a lamp may stray: a lamp's ohms move with its light, a meter has its own [-]"""
_LAMP_LEAST_V = 6.0


@dataclass(frozen=True)
class Fit:
    """One thing to fit or do."""

    part: str
    """Key of the part; empty: of the whole [-]"""
    what: str
    why: str


@dataclass(frozen=True)
class LampProof:
    """What a lamp in the fan's place must get at one place of the knob or switch."""

    at: float
    name: str
    low_v: float
    high_v: float
    meter_v: float
    """What an average-responding meter shows there [V]"""
    read_v: float | None
    holds: bool | None


@dataclass(frozen=True)
class Repair:
    """Parts, the order of the proof, and its readings."""

    said: str
    parts: tuple[Fit, ...]
    dead_tests: tuple[str, ...]
    lamp: tuple[LampProof, ...]
    proved: bool
    """All places read, all within their band"""


def repair(
    board: Board, fault: Fault, found: Sequence[Finding], whole: Sequence[Place], full_a: float | None
) -> Repair:
    """What mends a control, and how that is proved.

    Parameters
    ----------
    board : Board
        As it was read [-]
    fault : Fault
        What turned out to be the matter [-]
    found : sequence of Finding
        What else is missing, weak or wrong: mended with it [-]
    whole : sequence of Place
        The control as it should be, with a lamp [-]
    full_a : float or None
        Amps at full speed, for the fuse; None: not known [A]

    Returns
    -------
    Repair
        Parts, dead tests, and what a lamp must get [-]
    """
    values = values_of(board).likely
    parts = [_mended(board, fault, values, full_a)]
    for finding in found:
        fit = _cured(board, finding, values, full_a)
        if fit is not None and fit.part not in {p.part for p in parts if p.part}:
            parts.append(fit)
    lamp = _lamp(board, whole)
    proved = bool(lamp) and all(p.holds for p in lamp)
    return Repair(said(fault), tuple(parts), _dead(board), lamp, proved)


def _mended(board: Board, fault: Fault, values: Mapping[str, float], full_a: float | None) -> Fit:
    if fault.part == TRACK:
        amps = max(full_a or 0.0, 1.6 * values.get(Role.FUSE.value, 0.0))
        width = ""
        if amps > 0:
            wanted = track_width_mm(amps, board.build.copper_um, board.limit(Limit.TRACK_RISE))
            # Thinner than a millimetre a track breaks at the next bend, whatever it bears.
            width = f"; a track of {q.plain(max(wanted, 1.0), 2)} mm at least, or a wire"
        what = "bridge the crack with bare tinned wire along the track, soldered on both sides" + width
        if fault.kind is FaultKind.WORN:
            what = "clean and solder the joint anew; look at its neighbours"
        return Fit(TRACK, what, said(fault))
    return Fit(fault.part, f"{name_of(fault.part)}: {_order(board, fault.part, values, full_a)}", said(fault))


def _order(board: Board, key: str, values: Mapping[str, float], full_a: float | None) -> str:
    """A part as it is ordered."""
    role, _, number = key.rpartition("-")
    facts = ROLES[Role(role) if number.isdigit() else Role(key)]
    role_ = Role(role) if number.isdigit() else Role(key)
    value = values.get(key)
    shown = "" if value is None or facts.dimension is None or value <= 0 else q.show(value, facts.dimension)
    if role_ is Role.FUSE:
        if full_a:
            amps = next((f for f in FUSES_A if f >= board.limit(Limit.FUSE_FACTOR) * full_a), FUSES_A[-1])
            shown = f"{q.plain(amps)} A"
        return f"{shown} time-lag, 250 V AC, high breaking capacity"
    if facts.kind is PartKind.CAPACITOR:
        if role_ in (Role.SECTION, Role.DROPPER, Role.SNUBBER_CAPACITOR, Role.X_CAPACITOR):
            return f"{shown or 'value as read'}, class X2 or motor-run, 275 V AC or more"
        return f"{shown}, film, 250 V or more: it sees them if the diac dies again"
    if role_ is Role.TRIAC:
        return f"{shown} or more, 600 V; three-quadrant kinds stand a motor better; junction to {JUNCTION_C:.0f} °C"
    if role_ is Role.DIAC:
        return f"{shown or '32 V'}"
    if role_ is Role.KNOB:
        return f"{shown}, plastic shaft or an insulation class, held by its nut"
    if role_ is Role.SWITCH:
        return "for the mains and the fan's amps, inductive"
    return shown or "as it was"


def _cured(board: Board, finding: Finding, values: Mapping[str, float], full_a: float | None) -> Fit | None:
    """What to fit for a finding; None where words say it all."""
    why = finding.rule.title
    ordered = {
        Key.NO_FUSE: Role.FUSE.value, Key.FUSE_WRONG: Role.FUSE.value,
    }  # fmt: skip
    if finding.key in ordered:
        return Fit(ordered[finding.key], f"fuse: {_order(board, Role.FUSE.value, values, full_a)}", why)
    if finding.key in (Key.NOT_MAINS_CLASS, Key.PART_VOLTS, Key.PART_WATTS, Key.BURNS) and finding.part:
        larger = "twice the watts" if finding.key in (Key.PART_WATTS, Key.BURNS) else _order(
            board, finding.part, values, full_a
        )  # fmt: skip
        return Fit(finding.part, f"{name_of(finding.part)} {ref_of(finding.part)}: {larger}", why)
    words = {
        Key.SPINDLE_LIVE: "a knob with a plastic shaft, its screw sunk or plastic",
        Key.NO_BLEED: "a bleed across the section: 470 kΩ of two in series",
        Key.BLEED_WEAK: "a bleed of fewer ohms",
        Key.NO_SNUBBER: "a snubber: 33 nF X2 with 100 Ω",
        Key.NO_SUPPRESSION: "a choke in the line and 100 nF X2 before the triac; damped",
        Key.POT_JOINT: "hold the knob by its nut, and lead wires to its lugs",
        Key.LUG_JOINT: "new ends, through the lug, with a tie that takes the pull",
        Key.TRACK_THIN: "tin the track, or lay a wire along it",
        Key.LIMITER_SMALL: "a limiter of more ohms, wire-wound",
        Key.STARTS_DARK: "a knob wired the other way round, so that it starts full",
    }.get(finding.key)
    return None if words is None else Fit("", words, why)


def _dead(board: Board) -> tuple[str, ...]:
    tests = [
        "plug out, capacitors emptied through a resistor, no volts left: measured",
        "fuse and switch: below an ohm, ten times on and off",
        "line to every metal part that can be touched: no path",
    ]
    if board.topology in FIRED:
        tests.append("triac MT1 to MT2: megohms both ways; knob: smooth from end to end")
    return tuple(tests)


def _lamp(board: Board, whole: Sequence[Place]) -> tuple[LampProof, ...]:
    read = dict(board.lamp)
    some = (
        [whole[0], whole[len(whole) // 2], whole[-1]] if board.topology in FIRED and len(whole) > 3 else whole
    )
    found = []
    for place in some:
        volts = place.lamp.volts_v
        half = max(LAMP_SHARE * volts, _LAMP_LEAST_V)
        got = read.get(place.at)
        low, high = max(0.0, volts - half), volts + half
        found.append(
            LampProof(
                place.at,
                place.name,
                low,
                high,
                place.lamp.meter_v,
                got,
                None if got is None else low <= got <= high,
            )
        )
    return tuple(found)
