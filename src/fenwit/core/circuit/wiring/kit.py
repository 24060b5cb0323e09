"""A replacement kit and what is wanted of it, as they are typed off the old motor's plate and the kit's sheet."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from fenwit.core import quantity as q
from fenwit.core.circuit.wiring.document import read_wiring, variables
from fenwit.core.circuit.wiring.parts import EcMotor, Motor, Replace, Thermostat, Wiring
from fenwit.core.errors import InputError

HORSEPOWER_W = 745.69987
SHAFT_OF_VA = 0.55
"""Shaft watts over volts times amps of a capacitor motor: power factor 0.9, efficiency 0.6, within a fifth"""
SHAFT_OF_W = 0.60
SHAFT_OF_OHMS = 0.06
"""Shaft watts times ohms from common to the fastest tap over volts squared, within a third (docs/wiring.md) [-]"""
MOST_LINES = 40


@dataclass(frozen=True)
class KitTyped:
    """What is typed of an exchange, field by field."""

    motor: str = ""
    old: str = ""
    """What is read off the old motor: 1/2 hp, 370 W at the shaft, 620 W in, 2.4 A, or 18 Ω"""
    name: str = ""
    classes: str = ""
    """A line for each size: half: B, 370 W"""
    speeds: str = ""
    """A line for each speed: S2: S2, 780 rpm"""
    circulates: str = ""
    link: str = ""
    """115 V joined, 230 V open; empty for none"""
    wanted: str = ""
    """A line for each call, the one that counts first: TH.cool: 1080 rpm"""
    idle: str = "off"


def read_kit(wiring: Wiring, typed: KitTyped) -> dict[str, Any]:
    """The exchange of a document, out of what was typed.

    Parameters
    ----------
    wiring : Wiring
        The circuit with the tapped motor [-]
    typed : KitTyped
        Kit, old motor and wishes as typed [-]

    Returns
    -------
    dict
        What stands under ``replace`` in a document [-]

    Raises
    ------
    InputError
        A line that cannot be read; the field is the one it was typed into.
    """
    motors = [p for p in wiring.parts if isinstance(p.spec, Motor)]
    found = next(
        (p for p in motors if p.id == typed.motor), motors[0] if motors and not typed.motor else None
    )
    if found is None:
        raise InputError(
            "motor", typed.motor, ", ".join(p.id for p in motors) or "a tapped motor", "no such motor"
        )
    volts = found.as_a(Motor).volts
    classes, run = [], dict[str, None]()
    for name, rest in _lines("classes", typed.classes, "half: B, 370 W"):
        leads, watts = _ends("classes", rest, q.POWER)
        named = [t.strip() for t in re.split(r"[+ ]+", leads) if t.strip()]
        run |= dict.fromkeys(named)
        classes.append({"run": named, "class": name, "watts": watts})
    speeds = []
    for name, rest in _lines("speeds", typed.speeds, "S2: S2, 780 rpm"):
        inputs, rpm = _ends("speeds", rest, q.SPEED)
        speeds.append(
            {"name": name, "inputs": [t for t in re.split(r"[+ ]+", inputs.strip()) if t], "rpm": rpm}
        )
    kit: dict[str, Any] = {
        "id": typed.name.strip() or "X", "run": list(run), "classes": classes, "speeds": speeds, "volts": volts,
        "circulate_rpm": q.parse("circulates", typed.circulates, q.SPEED) if typed.circulates.strip() else 0.0,
    }  # fmt: skip
    if typed.link.strip():
        kit["link"] = _link(typed.link)
    known, wanted = variables(wiring), []
    for name, rest in _lines("wanted", typed.wanted, "TH.cool: 1080 rpm"):
        if known.get(name) != (False, True):
            calls = ", ".join(n for n, values in known.items() if values == (False, True))
            raise InputError("wanted", name, calls or "calls of this circuit", "no such call")
        circulates = rest.strip().lower().startswith("circulate")
        wanted.append(
            {"when": {name: True}, "rpm": "circulate" if circulates else q.parse("wanted", rest, q.SPEED)}
        )
    return {
        "motor": found.id, "kit": kit, "old_watts": round(old_shaft_w(typed.old, volts)[0], 1), "wanted": wanted,
        "idle": "circulate" if typed.idle.strip().lower().startswith("circ") else "off",
    }  # fmt: skip


def old_shaft_w(text: str, volts: float) -> tuple[float, str]:
    """Shaft watts of the old motor from what its plate says, and how they were taken.

    Parameters
    ----------
    text : str
        Horsepower, watts at the shaft, watts in, amps, or ohms from common to the fastest tap [-]
    volts : float
        What it runs on [V]

    Returns
    -------
    tuple of float and str
        Shaft power and the words for it [W]

    Raises
    ------
    InputError
        Nothing, or what cannot be read.
    """
    tidy = text.strip()
    if not tidy:
        raise InputError(
            "old", text, "1/2 hp, 370 W shaft, 620 W in, 2.4 A, or 18 Ω", "what the old motor gave is needed"
        )
    horse = re.fullmatch(r"(.+?)\s*hp", tidy, re.IGNORECASE)
    if horse:
        parts = horse[1].split("/")
        try:
            value = float(parts[0].replace(",", ".")) / (float(parts[1]) if len(parts) == 2 else 1.0)
        except (ValueError, ZeroDivisionError):
            raise InputError("old", text, "like 1/2 hp", "cannot be read as horsepower") from None
        return HORSEPOWER_W * value, f"{tidy}: {HORSEPOWER_W * value:.0f} W at the shaft"
    if re.search(r"\bin$", tidy, re.IGNORECASE):
        watts = q.parse("old", tidy[:-2], q.POWER)
        return (
            SHAFT_OF_W * watts,
            f"about {SHAFT_OF_W * watts:.0f} W at the shaft, six tenths of what it takes",
        )
    if re.search(r"A$|amps?$", tidy):
        amps = q.parse("old", tidy, q.CURRENT)
        shaft = SHAFT_OF_VA * amps * volts
        return shaft, f"about {shaft:.0f} W at the shaft, from volts times amps; a plate says it better"
    if re.search(r"(Ω|ohms?)$", tidy, re.IGNORECASE):
        shaft = SHAFT_OF_OHMS * volts**2 / q.parse("old", tidy, q.RESISTANCE)
        return (
            shaft,
            f"about {shaft:.0f} W at the shaft, from ohms alone within a third; a plate says it better",
        )
    watts = q.parse("old", re.sub(r"\s*(at the )?shaft$", "", tidy, flags=re.IGNORECASE), q.POWER)
    return watts, f"{watts:.0f} W at the shaft"


def typed_kit(wiring: Wiring) -> KitTyped:
    """An exchange as it would be typed; what is usual where none is planned yet."""
    motor = next((p for p in wiring.parts if isinstance(p.spec, Motor)), None)
    plan: Replace | None = wiring.replace
    if plan is None:
        calls = [
            p.at(call) for p in wiring.parts if isinstance(p.spec, Thermostat) for call, _ in p.spec.calls
        ]
        return KitTyped(
            motor=motor.id if motor else "", name="X", wanted="\n".join(f"{c}: 900 rpm" for c in calls)
        )
    kit = plan.kit.as_a(EcMotor)
    link = kit.link
    return KitTyped(
        plan.motor, f"{plan.old_watts:g} W shaft", plan.kit.id,
        "\n".join(f"{c.name}: {'+'.join(c.run)}, {c.watts or 0:g} W" for c in kit.classes),
        "\n".join(f"{s.name}: {'+'.join(s.inputs)}, {s.rpm:g} rpm" for s in kit.speeds),
        f"{kit.circulate_rpm:g} rpm",
        f"{link.joined_volts:g} V joined, {link.open_volts:g} V open" if link else "",
        "\n".join(
            f"{d.when[0][0]}: {'circulate' if d.rpm is None else f'{d.rpm:g} rpm'}" for d in plan.wanted if d.when
        ),
        "circulate" if plan.idle_circulates else "off",
    )  # fmt: skip


def with_kit(document: Mapping[str, Any], typed: KitTyped) -> dict[str, Any]:
    """A document with an exchange planned, read again."""
    wiring = read_wiring(dict(document))
    made = {**document, "replace": read_kit(wiring, typed)}
    try:
        read_wiring(made)
    except InputError as error:
        field = "classes" if "classes" in error.field or "run" in error.field else "speeds"
        raise InputError(field, error.value, error.allowed, error.reason) from None
    return made


def with_kit_of(document: Mapping[str, Any], given: Mapping[str, Any]) -> dict[str, Any]:
    """A document with the exchange, or just the kit, of a file; what the file leaves open stays as it is.

    Parameters
    ----------
    document : mapping
        The circuit as it is kept [-]
    given : mapping
        A ``replace`` with its kit, a circuit with one, or the kit itself: an ec-motor with classes and speeds [-]

    Returns
    -------
    dict
        The circuit as it is kept from now on [-]

    Raises
    ------
    InputError
        What is no kit, or one that cannot be.
    """
    wiring = read_wiring(dict(document))
    plan = given.get("replace") if isinstance(given.get("replace"), Mapping) else given
    assert isinstance(plan, Mapping)
    kit = plan.get("kit") if isinstance(plan.get("kit"), Mapping) else plan
    if not isinstance(kit, Mapping) or not {"classes", "speeds"} & set(kit):
        raise InputError(
            "kit", ", ".join(map(str, given))[:60], "an ec-motor with run, classes and speeds", "that file holds no kit"
        )  # fmt: skip
    motor = next((p for p in wiring.parts if isinstance(p.spec, Motor)), None)
    if motor is None:
        raise InputError("motor", "", "a tapped motor", "nothing here could be replaced by it")
    old = document.get("replace") if isinstance(document.get("replace"), Mapping) else {}
    assert isinstance(old, Mapping)
    kit = {k: v for k, v in kit.items() if k != "kind"}
    kit.setdefault("id", "X")
    usual: dict[str, Any] = {
        "motor": motor.id,
        "old_watts": shaft_of(motor.as_a(Motor)),
        "wanted": [],
    }
    keys = ("motor", "old_watts", "wanted", "idle")
    kept = {k: v for k, v in old.items() if k in keys}
    typed = {k: plan[k] for k in keys if plan is not kit and k in plan}
    if typed.get("motor", motor.id) not in wiring.by_id:
        typed.pop("motor")
    made = {**document, "replace": usual | kept | typed | {"kit": kit}}
    read_wiring(made)
    return made


def shaft_of(motor: Motor) -> float:
    """Shaft watts of a motor of which only its volt-amps are known, as far as they tell [W]"""
    return round(SHAFT_OF_VA * motor.va, 1)


def _lines(field: str, text: str, example: str) -> list[tuple[str, str]]:
    found = []
    for line in [x for x in re.split(r"[\n;]", text) if x.strip()][:MOST_LINES]:
        name, colon, rest = line.partition(":")
        if not colon or not name.strip() or not rest.strip():
            raise InputError(
                field, line.strip()[:60], f"lines like {example}", "a name, a colon, and what belongs to it"
            )
        found.append((name.strip(), rest.strip()))
    if not found:
        raise InputError(field, "", f"lines like {example}", "is needed here")
    return found


def _ends(field: str, rest: str, dimension: q.Dimension) -> tuple[str, float]:
    """Leads, a comma, and a value."""
    leads, comma, value = rest.rpartition(",")
    if not comma:
        raise InputError(field, rest, "leads, a comma, and the value", "cannot be parted")
    return leads, q.parse(field, value.strip(), dimension)


def _link(text: str) -> dict[str, Any]:
    found: dict[str, float] = {}
    for piece in text.split(","):
        how = piece.strip().lower().rpartition(" ")[2]
        if how not in ("joined", "open"):
            raise InputError("link", text, "115 V joined, 230 V open", "says which volts go with which")
        found[how] = q.parse("link", piece.strip()[: -len(how)].strip(), q.VOLTAGE)
    if len(found) != 2:
        raise InputError("link", text, "115 V joined, 230 V open", "both settings are needed")
    return {"terminals": ["K1", "K2"], "joined_volts": found["joined"], "open_volts": found["open"]}
