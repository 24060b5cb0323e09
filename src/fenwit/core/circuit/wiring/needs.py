"""What has to lie on the bench before a circuit is wired: its parts and cables, alike ones together."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from fenwit.core import quantity as q
from fenwit.core.circuit.wiring.parts import (
    Cable,
    EcFan,
    EcMotor,
    Joined,
    Kind,
    Load,
    Motor,
    PassElement,
    Pot,
    Relay,
    Sensor,
    Switch,
    Thermostat,
    Transformer,
    WiredPart,
    Wiring,
)


class Sort(StrEnum):
    """By which value a part is looked for on a shelf."""

    CAPACITOR = "capacitor"
    RESISTOR = "resistor"
    FUSE = "fuse"
    SWITCH = "switch"
    OTHER = "other"


@dataclass(frozen=True)
class Need:
    """Some alike parts."""

    names: tuple[str, ...]
    sort: Sort
    words: str
    value: float | None
    """Farads, ohms, amps, or how many positions; None where a shelf has no such value [F|Ω|A|-]"""


def needs(wiring: Wiring) -> tuple[Need, ...]:
    """Parts and cables of a circuit, without its supply and the motor that is there already.

    Parameters
    ----------
    wiring : Wiring
        The circuit [-]

    Returns
    -------
    tuple of Need
        In the order of the parts, then the cables [-]
    """
    found: dict[tuple[Sort, str, float | None], list[str]] = {}
    own = {
        t.partition(".")[0]
        for motor in wiring.of(Kind.MOTOR)
        for _, joined in wiring.nets
        if (auxiliary := motor.as_a(Motor).auxiliary) and motor.at(auxiliary) in joined
        for t in joined
    }
    for part in wiring.parts:
        if part.kind in (Kind.SUPPLY, Kind.MOTOR):
            continue
        sort, words, value = _said(part)
        if part.kind is Kind.CAPACITOR and part.id in own:
            # Nothing is put aside for it unasked.
            sort, words = Sort.OTHER, f"{words}, the run capacitor; it may be there already"
        found.setdefault((sort, words, value), []).append(part.id)
    for cable in wiring.cables:
        found.setdefault((Sort.OTHER, _cable(cable), None), []).append(cable.id)
    return tuple(Need(tuple(names), sort, words, value) for (sort, words, value), names in found.items())


def _said(part: WiredPart) -> tuple[Sort, str, float | None]:
    spec = part.spec
    match spec:
        case PassElement():
            if spec.farads is not None:
                return Sort.CAPACITOR, f"capacitor, {q.show(spec.farads, q.CAPACITANCE)}", spec.farads
            return Sort.RESISTOR, f"resistor, {q.show(spec.ohms or 0.0, q.RESISTANCE)}", spec.ohms
        case Joined() if part.kind is Kind.FUSE:
            amps = "" if spec.amps is None else f", {q.show(spec.amps, q.CURRENT)}"
            return Sort.FUSE, f"fuse{amps}", spec.amps
        case Joined():
            count = len(part.terminals)
            words = part.note or ("metal box" if part.kind is Kind.BOX else f"strip of {count} terminals")
            return Sort.OTHER, words, None
        case Switch():
            return _switch(part, spec)
        case _:
            return Sort.OTHER, _other(part), None


def _switch(part: WiredPart, spec: Switch) -> tuple[Sort, str, float | None]:
    poles = max((len(p.joins) for p in spec.positions), default=1) or 1
    words = f"{part.note or spec.role.value}, {len(spec.positions)} positions"
    words += f", {poles} poles" if poles > 1 else ""
    words += ", make before break" if spec.make_before_break else ""
    if spec.power is not None:
        words += f", on {q.show(spec.power.volts, q.VOLTAGE)}"
        return Sort.OTHER, words, None
    return Sort.SWITCH, words, float(len(spec.positions))


def _other(part: WiredPart) -> str:
    spec = part.spec
    match spec:
        case Transformer():
            volts = f"{q.show(spec.primary_volts, q.VOLTAGE)} to {q.show(spec.volts, q.VOLTAGE)}"
            return f"transformer, {volts}, {spec.va:g} VA"
        case Relay():
            sets = [f"{'change-over' if p.no and p.nc else 'make' if p.no else 'break'}" for p in spec.poles]
            words = f"relay, coil {q.show(spec.volts, q.VOLTAGE)}, {spec.va:g} VA, {' + '.join(sets)}"
            words += f", comes after {spec.delay_on_s:g} s" if spec.delay_on_s else ""
            return words + (f", goes after {spec.delay_off_s:g} s" if spec.delay_off_s else "")
        case Thermostat():
            return f"thermostat, {', '.join(call for call, _ in spec.calls)}"
        case Load():
            what = "lamp" if part.kind is Kind.LAMP else spec.role or "load"
            return f"{what}, {q.show(spec.volts, q.VOLTAGE)}, {spec.va:g} VA"
        case EcMotor():
            return f"replacement motor, {q.show(spec.volts, q.VOLTAGE)}"
        case EcFan():
            return f"EC fan, {q.show(spec.volts, q.VOLTAGE)}"
        case Pot():
            return f"potentiometer, {q.show(spec.ohms, q.RESISTANCE)} linear"
        case Sensor():
            return part.note or f"sensor, fed with {q.show(spec.supply_volts, q.VOLTAGE)}"
        case _:
            return part.note or part.kind.value


def _cable(cable: Cable) -> str:
    count = len(cable.cores)
    words = f"cable, {count} core{'s' if count != 1 else ''}{' and earth' if cable.earth else ''}"
    words += f", {cable.csa_mm2:g} mm²" if cable.csa_mm2 is not None else ""
    return words + (f", {cable.length_m:g} m" if cable.length_m else "")
