"""Changing a circuit by terminals and wires; what comes out is read again, so that nothing impossible is kept."""

from __future__ import annotations

import copy
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

from fenwit.core import quantity as q
from fenwit.core.circuit.wiring.document import FORMAT, as_name, read_wiring
from fenwit.core.circuit.wiring.parts import Kind
from fenwit.core.errors import InputError
from fenwit.core.quantity import Dimension


class Deed(StrEnum):
    """What is done to a circuit."""

    JOIN = "join"
    FREE = "free"
    ADD = "add"
    REMOVE = "remove"
    RENAME = "rename"
    RENAME_NET = "rename-net"
    SET = "set"
    PUT = "put"
    """The whole part, as it is kept"""
    MOVE = "move"
    """A part up or down in the list"""


@dataclass(frozen=True)
class Edit:
    """One change: what, to which, and to what."""

    deed: Deed
    what: str
    to: str = ""
    key: str = ""
    body: Any = None


EMPTY: dict[str, Any] = {"format": FORMAT, "title": "", "parts": [], "nets": {}}
_NEW: Mapping[Kind, dict[str, Any]] = {
    Kind.SUPPLY: {"volts": 230},
    Kind.TRANSFORMER: {"primary_volts": 230, "volts": 24, "va": 40},
    Kind.RELAY: {"volts": 24, "va": 4, "poles": [{"com": "COM", "no": "NO", "nc": "NC"}]},
    Kind.SWITCH: {"positions": [{"name": "off", "joins": []}, {"name": "on", "joins": [["1", "2"]]}]},
    Kind.THERMOSTAT: {"calls": {"fan": ["G"]}},
    Kind.FUSE: {"amps": 3},
    Kind.STRIP: {"terminals": ["1", "2", "3"]},
    Kind.BOX: {},
    Kind.LOAD: {"volts": 230, "va": 100},
    Kind.LAMP: {"volts": 230, "va": 3},
    Kind.CAPACITOR: {"farads": 2.5e-6},
    Kind.RESISTOR: {"ohms": 100},
    Kind.MOTOR: {"common": "COM", "taps": ["HI", "LO"], "volts": 230, "va": 150},
    Kind.EC_MOTOR: {
        "run": ["A"], "classes": [{"run": ["A"], "class": "one"}], "volts": 230, "va": 200, "circulate_rpm": 350,
        "speeds": [{"name": "S1", "inputs": ["S1"], "rpm": 900}],
    },
    Kind.EC_FAN: {"volts": 230, "va": 170},
    Kind.POT: {"ohms": 10000},
    Kind.SENSOR: {"supply_volts": 24},
}  # fmt: skip
PREFIX: Mapping[Kind, str] = {
    Kind.SUPPLY: "S", Kind.TRANSFORMER: "TR", Kind.RELAY: "K", Kind.SWITCH: "SW", Kind.THERMOSTAT: "TH",
    Kind.FUSE: "F", Kind.STRIP: "TB", Kind.BOX: "B", Kind.LOAD: "E", Kind.LAMP: "H", Kind.CAPACITOR: "C",
    Kind.RESISTOR: "R", Kind.MOTOR: "M", Kind.EC_MOTOR: "X", Kind.EC_FAN: "V", Kind.POT: "P", Kind.SENSOR: "B",
}  # fmt: skip
DIMENSION: Mapping[str, Dimension] = {
    "volts": q.VOLTAGE, "primary_volts": q.VOLTAGE, "supply_volts": q.VOLTAGE, "signal_volts": q.VOLTAGE,
    "va": q.APPARENT_POWER, "ohms": q.RESISTANCE, "primary_ohm": q.RESISTANCE, "secondary_ohm": q.RESISTANCE,
    "farads": q.CAPACITANCE, "amps": q.CURRENT, "frequency_hz": q.FREQUENCY, "delay_on_s": q.TIME,
    "delay_off_s": q.TIME, "aux_volts": q.VOLTAGE, "circulate_rpm": q.SPEED,
}  # fmt: skip
"""Keys of a part that are one value, and how they are typed"""
_YES = ("make_before_break", "wraps", "hold", "heats", "metal", "class2", "output")
_WORDS = ("place", "note", "role", "common", "auxiliary", "wanted_class", "speed_common", "enable_to")


def edited(document: Mapping[str, Any], edit: Edit) -> dict[str, Any]:
    """A circuit after one change.

    Parameters
    ----------
    document : mapping
        The circuit as it is kept; empty for none yet [-]
    edit : Edit
        What is changed [-]

    Returns
    -------
    dict
        The circuit as it is kept from now on [-]

    Raises
    ------
    InputError
        A name that is not there or taken, or a circuit that cannot be.
    """
    made: dict[str, Any] = copy.deepcopy(dict(document)) or copy.deepcopy(EMPTY)
    _DEEDS[edit.deed](made, edit)
    read_wiring(made)
    return made


def _part(made: dict[str, Any], name: str, field: str = "what") -> dict[str, Any]:
    found: dict[str, Any] | None = next((p for p in made["parts"] if p["id"] == name), None)
    if found is None:
        names = ", ".join(p["id"] for p in made["parts"])
        raise InputError(field, name, names or "a part of this circuit", "no such part")
    return found


def terminals_of(document: Mapping[str, Any]) -> list[str]:
    """All terminals of a circuit, as nets name them."""
    wiring = read_wiring(dict(document) or EMPTY)
    return [part.at(t) for part in wiring.parts for t in part.terminals]


def _terminal(made: dict[str, Any], text: str, field: str) -> str:
    """A terminal as typed: capitals do not matter, and a part with one free terminal needs no name of it."""
    known = terminals_of(made)
    if text in known:
        return text
    alike = [t for t in known if t.lower() == text.strip().lower()]
    if len(alike) == 1:
        return alike[0]
    near = [t for t in known if t.lower().startswith(text.strip().lower())][:6]
    raise InputError(field, text, ", ".join(near) or "PART.TERMINAL, like K1.COM", "no such terminal")


def _net_of(made: dict[str, Any], terminal: str) -> str:
    return next((name for name, joined in made["nets"].items() if terminal in joined), "")


def _free_name(taken: Mapping[str, object], wanted: str) -> str:
    name, k = wanted, 2
    while name in taken:
        name, k = f"{wanted} {k}", k + 1
    return name


def _join(made: dict[str, Any], edit: Edit) -> None:
    """Wire two terminals; a net's name joins the terminal to all that stands in it."""
    a = _terminal(made, edit.what, "what")
    nets: dict[str, list[str]] = made["nets"]
    into = edit.to.strip()
    if into in nets:
        net = into
    else:
        b = _terminal(made, into, "to")
        if a == b:
            raise InputError("to", into, "another terminal", "it is the same terminal")
        net = _net_of(made, b)
        if not net:
            net = _free_name(nets, b.partition(".")[2].lower() or "net")
            nets[net] = [b]
    mine = _net_of(made, a)
    if mine == net:
        return
    moved = nets.pop(mine) if mine else [a]
    nets[net] += moved


def _let_go(made: dict[str, Any], edit: Edit) -> None:
    terminal = _terminal(made, edit.what, "what")
    net = _net_of(made, terminal)
    if not net:
        raise InputError("what", terminal, "a terminal that is wired", "it is free already")
    made["nets"][net].remove(terminal)
    if len(made["nets"][net]) < 2:
        del made["nets"][net]


def _add(made: dict[str, Any], edit: Edit) -> None:
    if edit.what not in {k.value for k in Kind}:
        raise InputError("what", edit.what, ", ".join(Kind), "no such kind of part")
    kind = Kind(edit.what)
    taken = {p["id"] for p in made["parts"]}
    name = edit.to.strip()
    if not name:
        number = 1
        while f"{PREFIX[kind]}{number}" in taken:
            number += 1
        name = f"{PREFIX[kind]}{number}"
    _check_new(taken, name)
    made["parts"].append({"id": name, "kind": kind.value} | copy.deepcopy(_NEW[kind]))


def _check_new(taken: set[str], name: str) -> None:
    as_name("to", name)
    if "." in name or "/" in name:
        raise InputError("to", name, "a name without dot or stroke", "a dot parts it from its terminal")
    if name in taken:
        raise InputError("to", name, "a name no part has", "that name is taken")


def _without(made: dict[str, Any], gone: Callable[[str], bool]) -> None:
    """Leave out terminals everywhere."""
    nets = {net: [t for t in joined if not gone(t)] for net, joined in made["nets"].items()}
    made["nets"] = {net: joined for net, joined in nets.items() if joined}
    for key in ("test_points",):
        if key in made:
            made[key] = [pair for pair in made[key] if not any(gone(t) for t in pair)]
    if "readings" in made:
        made["readings"] = [r for r in made["readings"] if not any(gone(t) for t in r["points"])]


def _remove(made: dict[str, Any], edit: Edit) -> None:
    part = _part(made, edit.what)
    name = part["id"]
    made["parts"].remove(part)
    _without(made, lambda t: t.startswith(f"{name}."))

    def about(key: str) -> bool:
        return key == name or key.startswith(f"{name}.")

    if "expect" in made:
        made["expect"] = [
            e for e in made["expect"] if e["part"] != name and not any(about(k) for k in e.get("when", {}))
        ]
    if "exclusive" in made:
        made["exclusive"] = [
            g for g in ([c for c in group if not about(c)] for group in made["exclusive"]) if g
        ]
    for other in made["parts"]:
        if name in other.get("behind", ()):
            other["behind"] = [b for b in other["behind"] if b != name]
    plan = made.get("replace")
    if plan and (
        plan["motor"] == name or any(about(k) for d in plan.get("wanted", ()) for k in d.get("when", {}))
    ):
        del made["replace"]


def _rename(made: dict[str, Any], edit: Edit) -> None:
    part, new = _part(made, edit.what), edit.to.strip()
    old = part["id"]
    if new == old:
        return
    _check_new({p["id"] for p in made["parts"]}, new)
    part["id"] = new

    def named(text: str) -> str:
        return new if text == old else f"{new}.{text[len(old) + 1 :]}" if text.startswith(f"{old}.") else text

    def when(raw: Mapping[str, Any]) -> dict[str, Any]:
        return {named(k): v for k, v in raw.items()}

    made["nets"] = {net: [named(t) for t in joined] for net, joined in made["nets"].items()}
    for key in ("test_points", "exclusive"):
        if key in made:
            made[key] = [[named(t) for t in group] for group in made[key]]
    for expect in made.get("expect", ()):
        expect["part"], expect["when"] = named(expect["part"]), when(expect.get("when", {}))
    for reading in made.get("readings", ()):
        reading["points"] = [named(t) for t in reading["points"]]
        reading["inputs"] = when(reading.get("inputs") or {})
        reading["held"] = named(reading["held"]) if reading.get("held") else None
    for other in made["parts"]:
        if "behind" in other:
            other["behind"] = [named(b) for b in other["behind"]]
    if made.get("replace"):
        made["replace"]["motor"] = named(made["replace"]["motor"])
        for duty in made["replace"].get("wanted", ()):
            duty["when"] = when(duty.get("when", {}))


def _rename_net(made: dict[str, Any], edit: Edit) -> None:
    new = as_name("to", edit.to.strip())
    if edit.what not in made["nets"]:
        raise InputError("what", edit.what, ", ".join(made["nets"]), "no such net")
    if new in made["nets"] and new != edit.what:
        raise InputError("to", new, "a name no net has", "that name is taken")
    made["nets"] = {new if n == edit.what else n: joined for n, joined in made["nets"].items()}


def _set(made: dict[str, Any], edit: Edit) -> None:
    """One value of a part, as it is typed; empty takes it back to what is usual."""
    part, key, text = _part(made, edit.what), edit.key, edit.to.strip()
    if not text:
        part.pop(key, None)
    elif key in DIMENSION:
        part[key] = q.parse("to", text, DIMENSION[key])
    elif key in _YES:
        if text.lower() not in ("yes", "no"):
            raise InputError("to", text, "yes or no", "is yes or no")
        part[key] = text.lower() == "yes"
    elif key in _WORDS:
        part[key] = text
        if key == "place" and text not in made.get("places", []):
            made["places"] = [*made.get("places", []), text]
    else:
        raise InputError("key", key, ", ".join((*DIMENSION, *_YES, *_WORDS)), "no such value of a part")


def _put(made: dict[str, Any], edit: Edit) -> None:
    """A part as it is kept, its terminals that go are freed."""
    part = _part(made, edit.what)
    if not isinstance(edit.body, dict):
        raise InputError("body", edit.body, "an object in braces", "not a part")
    body = {"id": part["id"], **edit.body}
    if body["id"] != part["id"]:
        raise InputError("body", body["id"], part["id"], "its name is changed by itself")
    at = made["parts"].index(part)
    made["parts"][at] = body
    alone = read_wiring({"format": FORMAT, "parts": [{**body, "behind": []}], "nets": {}}).parts[0]
    there = {alone.at(t) for t in alone.terminals}
    _without(made, lambda t: t.startswith(f"{part['id']}.") and t not in there)


def _move(made: dict[str, Any], edit: Edit) -> None:
    part = _part(made, edit.what)
    parts = made["parts"]
    at = parts.index(part)
    to = at + (-1 if edit.to == "up" else 1)
    if 0 <= to < len(parts):
        parts[at], parts[to] = parts[to], parts[at]


_DEEDS: Mapping[Deed, Callable[[dict[str, Any], Edit], None]] = {
    Deed.JOIN: _join, Deed.FREE: _let_go, Deed.ADD: _add, Deed.REMOVE: _remove, Deed.RENAME: _rename,
    Deed.RENAME_NET: _rename_net, Deed.SET: _set, Deed.PUT: _put, Deed.MOVE: _move,
}  # fmt: skip
