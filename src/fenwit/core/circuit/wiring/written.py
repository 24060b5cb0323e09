"""A wiring as a `fenwit-circuit/1` document again; what is as usual is left out."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from fenwit.core.circuit.wiring.document import FORMAT
from fenwit.core.circuit.wiring.parts import (
    EcFan,
    EcMotor,
    Joined,
    Kind,
    Load,
    Meter,
    Motor,
    PassElement,
    Pole,
    Pot,
    Powered,
    Relay,
    Role,
    Sensor,
    Spec,
    Supply,
    Switch,
    Thermostat,
    Transformer,
    WiredPart,
    Wiring,
)

_METAL = (Kind.MOTOR, Kind.EC_MOTOR, Kind.EC_FAN, Kind.BOX)


def write_wiring(wiring: Wiring) -> dict[str, Any]:
    """The document that reads back as this wiring.

    Parameters
    ----------
    wiring : Wiring
        Any wiring [-]

    Returns
    -------
    dict
        Ready for JSON [-]
    """
    found: dict[str, Any] = {
        "format": FORMAT,
        "title": wiring.title,
        "parts": [write_part(part) for part in wiring.parts],
        "nets": {name: list(joined) for name, joined in wiring.nets},
    }
    if wiring.exclusive:
        found["exclusive"] = [list(group) for group in wiring.exclusive]
    if wiring.places:
        found["places"] = list(wiring.places)
    if wiring.cables:
        found["cables"] = [
            {"id": c.id, "from": c.start, "to": c.end, "cores": list(c.cores), "earth": c.earth}
            | _given({"use": c.use or None, "csa_mm2": c.csa_mm2, "length_m": c.length_m})
            for c in wiring.cables
        ]
    if wiring.expects:
        found["expect"] = [{"when": dict(e.when), "part": e.part, "state": e.state} for e in wiring.expects]
    if wiring.test_points is not None:
        found["test_points"] = [list(pair) for pair in wiring.test_points]
    if wiring.meter != Meter():
        found["meter"] = _given(vars(wiring.meter))
    if wiring.readings:
        found["readings"] = [
            {
                "points": list(r.points), "inputs": dict(r.inputs), "held": r.held or None,
                "ohms": "open" if r.ohms is None else r.ohms,
            }
            for r in wiring.readings
        ]  # fmt: skip
    if wiring.replace is not None:
        plan = wiring.replace
        kit = write_part(plan.kit)
        found["replace"] = {
            "motor": plan.motor, "kit": {k: v for k, v in kit.items() if k != "kind"}, "old_watts": plan.old_watts,
            "wanted": [
                {"when": dict(d.when), "rpm": "circulate" if d.rpm is None else d.rpm} for d in plan.wanted
            ],
            "idle": "circulate" if plan.idle_circulates else "off",
        }  # fmt: skip
    return found


def write_part(part: WiredPart) -> dict[str, Any]:
    """One part as it stands in a document."""
    found: dict[str, Any] = {"id": part.id, "kind": part.kind.value} | _spec(part, part.spec)
    if part.place:
        found["place"] = part.place
    if part.note:
        found["note"] = part.note
    if part.kind in _METAL:
        found |= {} if part.metal else {"class2": True}
    elif part.metal:
        found["metal"] = True
    if part.behind is not None:
        found["behind"] = list(part.behind)
    return found


def _given(values: dict[str, Any]) -> dict[str, Any]:
    return {k: v for k, v in values.items() if v is not None}


def _unless(values: Iterable[tuple[str, Any, Any]]) -> dict[str, Any]:
    """Keys whose value is not the usual one."""
    return {key: value for key, value, usual in values if value != usual}


def _pole(pole: Pole) -> dict[str, str]:
    return {k: v for k, v in (("com", pole.com), ("no", pole.no), ("nc", pole.nc)) if v}


def _power(power: Powered | None) -> dict[str, Any]:
    if power is None:
        return {}
    return {
        "power": {"terminals": list(power.terminals), "volts": power.volts, "va": power.va}
        | ({"unpowered": power.unpowered} if power.unpowered else {})
    }


def _spec(part: WiredPart, spec: Spec) -> dict[str, Any]:
    match spec:
        case Supply():
            return {"volts": spec.volts} | _unless(
                [("frequency_hz", spec.frequency_hz, 50.0), ("terminals", list(spec.names), ["L", "N", "PE"])]
            )
        case Transformer():
            return _given(vars(spec))
        case Relay():
            return (
                {"volts": spec.volts, "va": spec.va}
                | _given({"ohms": spec.ohms})
                | {"poles": [_pole(p) for p in spec.poles]}
                | _unless(
                    [
                        ("make_before_break", spec.make_before_break, False), ("delay_on_s", spec.delay_on_s, 0.0),
                        ("delay_off_s", spec.delay_off_s, 0.0), ("hold", spec.hold, False),
                    ]
                )
            )  # fmt: skip
        case Switch():
            joined = {t for p in spec.positions for join in p.joins for t in join}
            alone = [t for t in part.terminals if t != "PE" and t not in joined]
            alone = [t for t in alone if spec.power is None or t not in spec.power.terminals]
            return (
                {"positions": [{"name": p.name, "joins": [list(j) for j in p.joins]} for p in spec.positions]}
                | _unless(
                    [
                        ("role", spec.role.value, Role.SELECTOR.value),
                        ("make_before_break", spec.make_before_break, False),
                        ("wraps", spec.wraps, False), ("terminals", alone, []),
                    ]
                )
                | _power(spec.power)
            )  # fmt: skip
        case Thermostat():
            return (
                {"calls": {call: list(outputs) for call, outputs in spec.calls}}
                | _unless([("common", spec.common, "R"), ("volts", spec.volts, 24.0)])
                | _power(spec.power)
            )
        case Joined():
            if part.kind is Kind.FUSE:
                return _given({"amps": spec.amps})
            if part.kind is Kind.BOX:
                return {}
            return {"terminals": [t for t in part.terminals if t != "PE"]} | _unless(
                [("links", [list(link) for link in spec.links], [])]
            )
        case Load():
            return {"volts": spec.volts, "va": spec.va} | _unless(
                [("ohms", spec.ohms, None), ("heats", spec.heats, False), ("role", spec.role, "")]
            )
        case PassElement():
            return _given({"farads": spec.farads, "ohms": spec.ohms})
        case Motor():
            told = {spec.common, *spec.taps, spec.auxiliary, "PE"} | {
                t for a, b, _ in spec.sections for t in (a, b)
            }
            return {"common": spec.common, "taps": list(spec.taps), "volts": spec.volts, "va": spec.va} | _unless(
                [
                    ("auxiliary", spec.auxiliary, ""), ("sections", [list(s) for s in spec.sections], []),
                    ("terminals", [t for t in part.terminals if t not in told], []),
                ]
            )  # fmt: skip
        case EcMotor():
            return (
                {
                    "run": list(spec.run),
                    "classes": [
                        {"run": list(c.run), "class": c.name} | _given({"watts": c.watts}) for c in spec.classes
                    ],
                    "speeds": [{"name": s.name, "inputs": list(s.inputs), "rpm": s.rpm} for s in spec.speeds],
                    "volts": spec.volts, "va": spec.va, "circulate_rpm": spec.circulate_rpm,
                    "speed_common": spec.speed_common,
                }
                | _unless(
                    [
                        ("wanted_class", spec.wanted_class, ""), ("signal_volts", spec.signal_volts, 24.0),
                    ]
                )
                | _given({
                    "link": spec.link and {
                        "terminals": list(spec.link.terminals), "joined_volts": spec.link.joined_volts,
                        "open_volts": spec.link.open_volts,
                    }
                })
            )  # fmt: skip
        case EcFan():
            return (
                {"volts": spec.volts, "va": spec.va}
                | _unless([("enable_to", spec.enable_to, "GND"), ("output", spec.output, False)])
                | _given(
                    {
                        "alarm": _pole(spec.alarm) if spec.alarm else None,
                        "serial": list(spec.serial) if spec.serial else None,
                        "aux_volts": spec.aux_volts,
                    }
                )
            )
        case Pot():
            return {"ohms": spec.ohms}
        case Sensor():
            return {"supply_volts": spec.supply_volts}
