"""A sized regulator with its supply and motor as a wiring: the same parts, nets and positions, now by terminals."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from fenwit.core.circuit import Circuit, Part, PartKind
from fenwit.core.circuit.wiring.document import FORMAT
from fenwit.core.circuit.wiring.templates import Facts

SWITCH = "SW"
"""What stands for all contacts of a regulator"""
_JOINED = (PartKind.INDUCTOR,)
"""To switch level and to an ohmmeter as good as wires"""
_FAR_SIDE: Mapping[PartKind, Mapping[str, str]] = {
    PartKind.OPTO: {"A": "pulse", "K": ""}, PartKind.COUPLER: {"C": "zero", "E": ""}, PartKind.BLOCK: {"5V": "5 V"},
}  # fmt: skip
"""Terminals towards the controller and their nets; empty: its 0 V, which with such a supply is the neutral"""
_CONTROLLER: Mapping[str, str] = {"5V": "5 V", "PULSE": "pulse", "ZERO": "zero", "0V": ""}


def regulator_document(circuit: Circuit, facts: Facts, title: str, direct: bool = False) -> dict[str, Any]:
    """A regulator's circuit as a document, fed by a supply and feeding the fan at hand.

    Contacts become one switch with the regulator's positions, a triac one that blocks or fires; windings that the
    circuit shows are the motor's own sections. What conducts only when it is fired or driven has terminals and joins
    nothing.

    Parameters
    ----------
    circuit : Circuit
        The regulator [-]
    facts : Facts
        The fan and its supply [-]
    title : str
        What it is called [-]
    direct : bool, optional
        Whether it runs on DC [-]

    Returns
    -------
    dict
        A `fenwit-circuit/1` document [-]
    """
    nets: dict[str, list[str]] = {}
    parts: list[dict[str, Any]] = []

    def stand(net: str, terminal: str) -> None:
        nets.setdefault(net, []).append(terminal)

    hot, cold = ("+", "-") if direct else ("L", "N")
    supply: dict[str, Any] = {"id": "S", "kind": "supply", "volts": facts.supply_volts}
    if direct:
        supply["terminals"] = ["+", "-"]
    elif facts.frequency_hz != 50.0:
        supply["frequency_hz"] = facts.frequency_hz
    parts.append(supply)
    stand(circuit.line, f"S.{hot}")
    # A part of the regulator that stands across the mains calls their neutral so.
    back = circuit.neutral or ("0 V" if direct else "neutral")
    while direct and not circuit.neutral and back in {n for p in circuit.parts for n in (p.net_a, p.net_b)}:
        back += "'"
    stand(back, f"S.{cold}")
    taken = {"S", "M", SWITCH, "CR", "FAN", "LOGIC"}
    touched: dict[str, None] = {}
    for part in circuit.parts:
        if part.kind is PartKind.CONTACT:
            touched |= dict.fromkeys((part.net_a, part.net_b))
    if touched:
        parts.append({"id": SWITCH, "kind": "switch", "positions": _positions(circuit)})
        for net in touched:
            stand(net, f"{SWITCH}.{plain_name(net)}")
    windings = [p for p in circuit.parts if p.kind is PartKind.WINDING and not p.core]
    controlled = any(p.kind in (PartKind.OPTO, PartKind.COUPLER) for p in circuit.parts)
    for part in circuit.parts:
        if part.kind is PartKind.CONTACT or part in windings:
            continue
        name = _free(plain_name(part.name), taken)
        parts.append({"id": name} | _one(part, controlled))
        stand(part.net_a, f"{name}.1")
        stand(part.net_b, f"{name}.2")
        if part.net_gate:
            stand(part.net_gate, f"{name}.G")
        for pin, net in _FAR_SIDE.get(part.kind, {}).items() if controlled else ():
            stand(net or back, f"{name}.{pin}")
    if controlled:
        parts.append({"id": "LOGIC", "kind": "strip", "note": "controller", "terminals": list(_CONTROLLER)})
        for pin, net in _CONTROLLER.items():
            stand(net or back, f"LOGIC.{pin}")
    if direct:
        parts.append(
            {
                "id": "FAN",
                "kind": "load",
                "role": "fan",
                "volts": facts.supply_volts,
                "va": facts.volt_amperes or 0.0,
            }
        )
        stand(circuit.load, "FAN.1")
        stand(back, "FAN.2")
    else:
        _motor(circuit, facts, windings, touched, parts, nets, back)
        nets["earth"] = ["S.PE", "M.PE"]
    return {
        "format": FORMAT, "title": title, "parts": parts, "nets": {n: t for n, t in nets.items() if len(t) > 1},
    }  # fmt: skip


def _motor(
    circuit: Circuit, facts: Facts, windings: list[Part], touched: dict[str, None], parts: list[dict[str, Any]],
    nets: dict[str, list[str]], back: str,
) -> None:  # fmt: skip
    motor: dict[str, Any] = {
        "id": "M",
        "kind": "motor",
        "volts": facts.supply_volts,
        "va": facts.volt_amperes or 0.0,
    }
    if windings:
        ends = dict.fromkeys(n for w in windings for n in (w.net_a, w.net_b))
        taps = [n for n in ends if n in touched]
        motor |= {"common": plain_name(circuit.load), "taps": [plain_name(t) for t in taps]}
        motor["sections"] = [[plain_name(w.net_a), plain_name(w.net_b), w.value] for w in windings]
        parts.append(motor)
        for tap in taps:
            nets.setdefault(tap, []).append(f"M.{plain_name(tap)}")
        nets[back].append(f"M.{plain_name(circuit.load)}")
        return
    common, run = facts.common or "N", (facts.taps or ("RUN",))[0]
    motor |= {"common": common, "taps": [run]}
    found = {common, run}
    if facts.run_f is not None:
        auxiliary = facts.auxiliary or "AUX"
        motor["auxiliary"] = auxiliary
        found.add(auxiliary)
        parts.append({"id": "CR", "kind": "capacitor", "farads": facts.run_f, "note": "run capacitor"})
        nets.setdefault(circuit.load, []).append("CR.1")
        nets["auxiliary"] = ["CR.2", f"M.{auxiliary}"]
    motor["sections"] = [list(s) for s in facts.sections if {s[0], s[1]} <= found]
    parts.append(motor)
    nets.setdefault(circuit.load, []).append(f"M.{run}")
    nets[back].append(f"M.{common}")


def _positions(circuit: Circuit) -> list[dict[str, Any]]:
    contacts = {p.name: p for p in circuit.parts if p.kind is PartKind.CONTACT}
    positions = circuit.positions
    return [
        {
            "name": p.name,
            "joins": [
                [plain_name(c.net_a), plain_name(c.net_b)] for name, c in contacts.items() if name in p.closed
            ],
        }
        for p in positions
    ] or [{"name": "on", "joins": []}]


def _one(part: Part, controlled: bool) -> dict[str, Any]:
    if part.kind is PartKind.CAPACITOR:
        return {"kind": "capacitor", "farads": part.value}
    if part.kind in (PartKind.RESISTOR, PartKind.KNOB, PartKind.WINDING):
        return {"kind": "resistor", "ohms": part.value}
    if part.kind is PartKind.FUSE:
        return {"kind": "fuse", "amps": part.value}
    if part.kind is PartKind.TRIAC:
        gate = {"terminals": ["1", "2", "G"]} if part.net_gate else {}
        return {
            "kind": "switch", "note": "triac",
            "positions": [{"name": "blocks", "joins": []}, {"name": "fires", "joins": [["1", "2"]]}],
        } | gate  # fmt: skip
    links = {"links": [["1", "2"]]} if part.kind in _JOINED else {}
    far = list(_FAR_SIDE.get(part.kind, ())) if controlled else []
    return {"kind": "strip", "note": part.kind.value, "terminals": ["1", "2", *far]} | links


def plain_name(name: str) -> str:
    """A net's or part's name as one of a terminal."""
    return name.replace(".", "·")


def _free(wanted: str, taken: set[str]) -> str:
    name, k = wanted, 2
    while name in taken:
        name, k = f"{wanted}{k}", k + 1
    taken.add(name)
    return name
