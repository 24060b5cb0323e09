"""Circuits to begin with, as data in the format that every circuit is kept in."""

from __future__ import annotations

import copy
from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True, eq=False)
class Template:
    """A circuit to begin with."""

    key: str
    name: str
    words: str
    document: dict[str, Any]


_BOARD: dict[str, Any] = {
    "format": "fenwit-circuit/1",
    "title": "Thermostat, board and tapped blower",
    "parts": [
        {"id": "S", "kind": "supply", "volts": 230, "place": "unit"},
        {
            "id": "DOOR",
            "kind": "switch",
            "role": "door",
            "positions": [{"name": "open", "joins": []}, {"name": "shut", "joins": [["1", "2"]]}],
            "place": "unit",
        },
        {
            "id": "TR",
            "kind": "transformer",
            "primary_volts": 230,
            "volts": 24,
            "va": 40,
            "place": "unit",
        },
        {
            "id": "K1",
            "kind": "relay",
            "volts": 24,
            "va": 4,
            "ohms": 52,
            "poles": [{"com": "COM", "no": "NO", "nc": "NC"}],
            "place": "unit",
        },
        {
            "id": "K2",
            "kind": "relay",
            "volts": 24,
            "va": 4,
            "ohms": 52,
            "delay_on_s": 30,
            "delay_off_s": 90,
            "poles": [{"com": "COM", "no": "NO", "nc": "NC"}],
            "place": "unit",
        },
        {
            "id": "K3",
            "kind": "relay",
            "volts": 24,
            "va": 4,
            "ohms": 52,
            "poles": [{"com": "COM", "no": "NO"}],
            "place": "unit",
        },
        {
            "id": "LIM",
            "kind": "switch",
            "role": "limit",
            "positions": [{"name": "shut", "joins": [["1", "2"]]}, {"name": "open", "joins": []}],
            "place": "unit",
        },
        {
            "id": "V",
            "kind": "load",
            "role": "burner valve",
            "volts": 24,
            "va": 9,
            "ohms": 40,
            "heats": True,
            "place": "unit",
        },
        {
            "id": "CC",
            "kind": "load",
            "role": "outdoor contactor",
            "volts": 24,
            "va": 12,
            "ohms": 30,
            "place": "outdoor",
        },
        {
            "id": "TH",
            "kind": "thermostat",
            "calls": {"heat": ["W"], "cool": ["Y", "G"], "fan": ["G"]},
            "place": "room",
        },
        {
            "id": "M",
            "kind": "motor",
            "common": "COM",
            "taps": ["HI", "MED", "LO"],
            "volts": 230,
            "va": 380,
            "sections": [["COM", "HI", 9.8], ["HI", "MED", 2.6], ["MED", "LO", 3.9]],
            "place": "unit",
        },
    ],
    "nets": {
        "line": ["S.L", "DOOR.1"],
        "fed": ["DOOR.2", "TR.P1", "K1.COM"],
        "neutral": ["S.N", "TR.P2", "M.COM"],
        "earth": ["S.PE", "M.PE"],
        "cool": ["K1.NO", "M.HI"],
        "k1 rest": ["K1.NC", "K2.COM"],
        "heat": ["K2.NO", "M.MED"],
        "k2 rest": ["K2.NC", "K3.COM"],
        "circulate": ["K3.NO", "M.LO"],
        "r": ["TR.S1", "TH.R"],
        "c": ["TR.S2", "K1.A2", "K2.A2", "K3.A2", "V.2", "CC.2"],
        "y": ["TH.Y", "K1.A1", "CC.1"],
        "w": ["TH.W", "K2.A1", "LIM.1"],
        "burner": ["LIM.2", "V.1"],
        "g": ["TH.G", "K3.A1"],
    },
    "exclusive": [["TH.heat", "TH.cool"]],
    "places": ["unit", "room", "outdoor"],
    "cables": [
        {
            "id": "W1",
            "from": "unit",
            "to": "room",
            "cores": ["red", "white", "yellow", "green", "blue"],
            "earth": False,
        },
        {"id": "W2", "from": "unit", "to": "outdoor", "cores": ["yellow", "blue"], "earth": False},
    ],
    "expect": [
        {"when": {"DOOR": "shut", "TH.cool": True}, "part": "M", "state": "HI"},
        {"when": {"DOOR": "shut", "TH.heat": True}, "part": "M", "state": "MED"},
        {
            "when": {"DOOR": "shut", "TH.heat": False, "TH.cool": False, "TH.fan": True},
            "part": "M",
            "state": "LO",
        },
    ],
}
_KIT: dict[str, Any] = {
    "motor": "M",
    "kit": {
        "id": "X",
        "run": ["A", "B"],
        "volts": 230,
        "va": 300,
        "circulate_rpm": 350,
        "speed_common": "SC",
        "classes": [
            {"run": ["A"], "class": "third", "watts": 250},
            {"run": ["B"], "class": "half", "watts": 370},
            {"run": ["A", "B"], "class": "three-quarter", "watts": 550},
        ],
        "link": {"terminals": ["K1", "K2"], "joined_volts": 115, "open_volts": 230},
        "speeds": [
            {"name": "S1", "inputs": ["S1"], "rpm": 620},
            {"name": "S2", "inputs": ["S2"], "rpm": 780},
            {"name": "S3", "inputs": ["S3"], "rpm": 940},
            {"name": "S4", "inputs": ["S4"], "rpm": 1100},
        ],
    },
    "old_watts": 370,
    "wanted": [
        {"when": {"TH.cool": True}, "rpm": 1080},
        {"when": {"TH.heat": True}, "rpm": 800},
        {"when": {"TH.fan": True}, "rpm": "circulate"},
    ],
}
TEMPLATES = (
    Template(
        "relay-centre",
        "relay fan centre",
        "a transformer, one relay, a thermostat that calls the fan",
        {
            "format": "fenwit-circuit/1",
            "title": "Relay centre: low until the fan is called for",
            "parts": [
                {"id": "S", "kind": "supply", "volts": 230, "place": "unit"},
                {
                    "id": "TR",
                    "kind": "transformer",
                    "primary_volts": 230,
                    "volts": 24,
                    "va": 40,
                    "primary_ohm": 62,
                    "secondary_ohm": 0.9,
                    "place": "unit",
                },
                {
                    "id": "K1",
                    "kind": "relay",
                    "volts": 24,
                    "va": 4.5,
                    "ohms": 46,
                    "hold": True,
                    "poles": [{"com": "COM", "no": "NO", "nc": "NC"}],
                    "place": "unit",
                },
                {"id": "TB", "kind": "strip", "terminals": ["R", "C", "G"], "place": "unit"},
                {
                    "id": "M",
                    "kind": "motor",
                    "common": "COM",
                    "taps": ["HI", "LO"],
                    "auxiliary": "CAP",
                    "volts": 230,
                    "va": 180,
                    "sections": [["COM", "HI", 18.2], ["HI", "LO", 7.4], ["COM", "CAP", 41.0]],
                    "place": "unit",
                },
                {"id": "TH", "kind": "thermostat", "calls": {"fan": ["G"]}, "place": "room"},
            ],
            "nets": {
                "line": ["S.L", "TR.P1", "K1.COM"],
                "neutral": ["S.N", "TR.P2", "M.COM"],
                "earth": ["S.PE", "M.PE"],
                "r": ["TR.S1", "TB.R", "TH.R"],
                "c": ["TR.S2", "TB.C", "K1.A2"],
                "g": ["TB.G", "K1.A1", "TH.G"],
                "high": ["K1.NO", "M.HI"],
                "low": ["K1.NC", "M.LO"],
            },
            "places": ["unit", "room"],
            "cables": [
                {"id": "W1", "from": "unit", "to": "room", "cores": ["red", "green", "white"], "earth": False}
            ],
            "test_points": [
                ["S.L", "S.N"],
                ["K1.COM", "M.LO"],
                ["K1.COM", "M.HI"],
                ["M.HI", "M.COM"],
                ["M.LO", "M.COM"],
                ["TB.G", "TB.C"],
                ["TR.S1", "TR.S2"],
                ["M.PE", "S.PE"],
            ],
            "expect": [
                {"when": {"TH.fan": False}, "part": "M", "state": "LO"},
                {"when": {"TH.fan": True}, "part": "M", "state": "HI"},
            ],
        },
    ),
    Template(
        "timer-two-way",
        "timer and two-way switch",
        "a timer that needs its neutral, then one of two speeds",
        {
            "format": "fenwit-circuit/1",
            "title": "Timer and two-way switch, two cables",
            "parts": [
                {"id": "S", "kind": "supply", "volts": 230, "place": "board"},
                {
                    "id": "T",
                    "kind": "switch",
                    "role": "timer",
                    "positions": [{"name": "rest", "joins": []}, {"name": "run", "joins": [["L", "OUT"]]}],
                    "power": {"terminals": ["L", "N"], "volts": 230, "va": 2, "unpowered": "rest"},
                    "place": "wall box",
                },
                {
                    "id": "SW",
                    "kind": "switch",
                    "positions": [
                        {"name": "low", "joins": [["C", "1"]]},
                        {"name": "high", "joins": [["C", "2"]]},
                    ],
                    "place": "wall box",
                },
                {"id": "B1", "kind": "box", "place": "wall box"},
                {
                    "id": "M",
                    "kind": "motor",
                    "common": "N",
                    "taps": ["HI", "LO"],
                    "volts": 230,
                    "va": 320,
                    "sections": [["N", "HI", 11.6], ["HI", "LO", 5.9]],
                    "place": "attic",
                },
            ],
            "nets": {
                "line": ["S.L", "T.L"],
                "switched": ["T.OUT", "SW.C"],
                "low": ["SW.1", "M.LO"],
                "high": ["SW.2", "M.HI"],
                "neutral": ["S.N", "T.N", "M.N"],
                "earth": ["S.PE", "B1.PE", "M.PE"],
            },
            "places": ["board", "wall box", "attic"],
            "cables": [
                {
                    "id": "W1",
                    "from": "board",
                    "to": "wall box",
                    "cores": ["brown", "blue"],
                    "earth": True,
                    "csa_mm2": 1.5,
                },
                {
                    "id": "W2",
                    "from": "wall box",
                    "to": "attic",
                    "cores": ["brown", "black", "blue"],
                    "earth": True,
                    "csa_mm2": 1.5,
                },
            ],
            "test_points": [["S.L", "S.N"], ["T.OUT", "S.N"], ["B1.PE", "S.PE"], ["M.PE", "S.PE"]],
            "expect": [
                {"when": {"T": "run", "SW": "low"}, "part": "M", "state": "LO"},
                {"when": {"T": "run", "SW": "high"}, "part": "M", "state": "HI"},
                {"when": {"T": "rest"}, "part": "M", "state": "off"},
            ],
        },
    ),
    Template(
        "pull-switch-block",
        "pull switch with a block",
        "three sections in the line, the run section for every step",
        {
            "format": "fenwit-circuit/1",
            "title": "Pull switch with a capacitor block",
            "parts": [
                {"id": "S", "kind": "supply", "volts": 230, "place": "canopy"},
                {
                    "id": "SW",
                    "kind": "switch",
                    "wraps": True,
                    "positions": [
                        {"name": "off", "joins": []},
                        {"name": "1", "joins": [["L", "1"]]},
                        {"name": "2", "joins": [["L", "2"]]},
                        {"name": "3", "joins": [["L", "1", "2"]]},
                        {"name": "4", "joins": [["L", "3"]]},
                    ],
                    "place": "canopy",
                },
                {"id": "CR", "kind": "capacitor", "farads": 2.5e-06, "place": "canopy"},
                {"id": "CA", "kind": "capacitor", "farads": 2.7e-06, "place": "canopy"},
                {"id": "CB", "kind": "capacitor", "farads": 3.9e-06, "place": "canopy"},
                {
                    "id": "M",
                    "kind": "motor",
                    "common": "N",
                    "taps": ["RUN"],
                    "auxiliary": "AUX",
                    "volts": 230,
                    "va": 75,
                    "sections": [["N", "RUN", 260.0], ["N", "AUX", 290.0]],
                    "place": "canopy",
                },
            ],
            "nets": {
                "line": ["S.L", "SW.L"],
                "p": ["SW.1", "CA.1"],
                "q": ["SW.2", "CB.1"],
                "run": ["SW.3", "CA.2", "CB.2", "CR.1", "M.RUN"],
                "aux": ["CR.2", "M.AUX"],
                "neutral": ["S.N", "M.N"],
                "earth": ["S.PE", "M.PE"],
            },
            "test_points": [["SW.L", "M.N"], ["M.RUN", "M.N"], ["M.RUN", "M.AUX"], ["M.PE", "S.PE"]],
        },
    ),
    Template(
        "thermostat-board",
        "thermostat, board, tapped blower",
        "heat, cool and fan, one over the other; door, limit, delays",
        _BOARD,
    ),
    Template(
        "ec-exchange",
        "EC motor for a tapped one",
        "the same board, with a replacement motor to be planned",
        {k: v for k, v in _BOARD.items() if k != "expect"}
        | {"title": "Thermostat and board, the blower to become an EC motor", "replace": _KIT},
    ),
    Template(
        "ec-strip",
        "EC fan by its terminals",
        "knob, full or a sensor, enable, alarm lamps, a follower, a serial pair",
        {
            "format": "fenwit-circuit/1",
            "title": "Terminal strip of an EC fan: knob, sensor, enable, alarm lamps, follower, serial",
            "parts": [
                {"id": "S", "kind": "supply", "volts": 230, "place": "panel"},
                {
                    "id": "ISO",
                    "kind": "switch",
                    "positions": [
                        {"name": "off", "joins": []},
                        {"name": "on", "joins": [["1", "2"], ["3", "4"]]},
                    ],
                    "place": "panel",
                },
                {
                    "id": "F1",
                    "kind": "ec-fan",
                    "volts": 230,
                    "va": 170,
                    "alarm": {"com": "C", "no": "NO", "nc": "NC"},
                    "serial": ["DA", "DB"],
                    "output": True,
                    "aux_volts": 24,
                    "place": "fan 1",
                },
                {
                    "id": "F2",
                    "kind": "ec-fan",
                    "volts": 230,
                    "va": 170,
                    "serial": ["DA", "DB"],
                    "place": "fan 2",
                },
                {"id": "P1", "kind": "pot", "ohms": 10000, "place": "panel"},
                {
                    "id": "EN",
                    "kind": "switch",
                    "positions": [
                        {"name": "stop", "joins": []},
                        {"name": "go", "joins": [["1", "2"], ["3", "4"]]},
                    ],
                    "place": "panel",
                },
                {
                    "id": "MODE",
                    "kind": "switch",
                    "positions": [
                        {"name": "pot", "joins": [["C", "1"]]},
                        {"name": "full", "joins": [["C", "2"]]},
                        {"name": "sensor", "joins": [["C", "3"]]},
                    ],
                    "place": "panel",
                },
                {"id": "Q1", "kind": "sensor", "supply_volts": 24, "place": "fan 1"},
                {"id": "HG", "kind": "lamp", "volts": 230, "va": 3, "place": "panel"},
                {"id": "HR", "kind": "lamp", "volts": 230, "va": 3, "place": "panel"},
            ],
            "nets": {
                "line": ["S.L", "ISO.1"],
                "neutral": ["S.N", "ISO.3"],
                "fed": ["ISO.2", "F1.L", "F2.L", "F1.C"],
                "fed n": ["ISO.4", "F1.N", "F2.N", "HG.2", "HR.2"],
                "well": ["F1.NO", "HG.1"],
                "fault": ["F1.NC", "HR.1"],
                "earth": ["S.PE", "F1.PE", "F2.PE"],
                "10V": ["F1.10V", "P1.B", "MODE.2"],
                "wiper": ["P1.W", "MODE.1"],
                "set": ["MODE.C", "F1.AI"],
                "sensor fed": ["F1.AUX", "Q1.V"],
                "told": ["Q1.OUT", "MODE.3"],
                "0V": ["F1.GND", "P1.A", "Q1.GND", "F2.GND", "EN.1", "EN.3"],
                "enable 1": ["F1.EN", "EN.2"],
                "enable 2": ["F2.EN", "EN.4"],
                "lead": ["F1.AO", "F2.AI"],
                "A": ["F1.DA", "F2.DA"],
                "B": ["F1.DB", "F2.DB"],
            },
            "places": ["panel", "fan 1", "fan 2"],
            "cables": [
                {
                    "id": "W1",
                    "from": "panel",
                    "to": "fan 1",
                    "cores": ["brown", "blue", "black", "grey"],
                    "earth": True,
                },
                {
                    "id": "W2",
                    "from": "panel",
                    "to": "fan 1",
                    "cores": ["1", "2", "3", "4", "5"],
                    "earth": False,
                },
                {"id": "W3", "from": "panel", "to": "fan 2", "cores": ["brown", "blue"], "earth": True},
                {"id": "W4", "from": "panel", "to": "fan 2", "cores": ["1", "2"], "earth": False},
                {"id": "W5", "from": "fan 1", "to": "fan 2", "cores": ["1", "2", "3", "4"], "earth": False},
            ],
        },
    ),
)


def template(key: str) -> Template | None:
    """The template of that name; None for none."""
    return next((t for t in TEMPLATES if t.key == key), None)


@dataclass(frozen=True)
class Facts:
    """What a job knows of the fan that a circuit is for."""

    supply_volts: float
    frequency_hz: float
    common: str = ""
    """Lead that is common to the taps; empty: not found"""
    taps: tuple[str, ...] = ()
    """Leads, fastest first"""
    auxiliary: str = ""
    sections: tuple[tuple[str, str, float], ...] = ()
    volt_amperes: float | None = None
    run_f: float | None = None


_USUAL_V = 230.0


def filled(document: dict[str, Any], facts: Facts) -> dict[str, Any]:
    """A template with the leads, ohms and volts of the fan at hand in the place of the usual ones.

    Parameters
    ----------
    document : dict
        A template [-]
    facts : Facts
        What is known of the fan [-]

    Returns
    -------
    dict
        A document of its own [-]
    """
    made = copy.deepcopy(document)
    for part in made["parts"]:
        for key in ("volts", "primary_volts"):
            if part.get(key) == _USUAL_V:
                part[key] = facts.supply_volts
        if part["kind"] == "supply" and facts.frequency_hz != 50.0:
            part["frequency_hz"] = facts.frequency_hz
        if part["kind"] == "motor":
            _fill_motor(made, part, facts)
    return made


def _fill_motor(made: dict[str, Any], part: dict[str, Any], facts: Facts) -> None:
    """Leads by the names they were given where they were found; taps the circuit has no use for stay free."""
    if facts.volt_amperes is not None:
        part["va"] = facts.volt_amperes
    if not facts.taps or not facts.common:
        return
    old, ident = part["taps"], part["id"]
    renamed = {part["common"]: facts.common}
    # The fastest is the fastest and the slowest the slowest; what lies between follows in order.
    for place, name in enumerate(old):
        if place < len(facts.taps):
            last = place == len(old) - 1 and len(old) > 1
            renamed[name] = facts.taps[-1] if last else facts.taps[place]
    if part.get("auxiliary"):
        renamed[part["auxiliary"]] = facts.auxiliary
    part["common"], part["taps"] = facts.common, list(facts.taps)
    part["auxiliary"] = facts.auxiliary
    part["sections"] = [list(s) for s in facts.sections]
    to = {f"{ident}.{a}": f"{ident}.{b}" if b else None for a, b in renamed.items()}
    gone = {f"{ident}.{t}" for t in old if t not in renamed}

    def named(terminal: str) -> str | None:
        return None if terminal in gone else to.get(terminal, terminal)

    for net, joined in made["nets"].items():
        made["nets"][net] = [n for t in joined if (n := named(t)) is not None]
    if "test_points" in made:
        pairs = [[named(t) for t in pair] for pair in made["test_points"]]
        made["test_points"] = [p for p in pairs if None not in p and p[0] != p[1]]
    for expect in made.get("expect", []):
        if expect["part"] == ident:
            expect["state"] = renamed.get(expect["state"], expect["state"])
