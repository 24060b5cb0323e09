"""The file `fenwit-circuit/1`: read with a reason for every refusal, and written again as it was."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import fields
from typing import Any

from fenwit.core.circuit.wiring.parts import (
    Cable,
    Duty,
    EcFan,
    EcMotor,
    Expect,
    FeedLink,
    Joined,
    Kind,
    Load,
    Meter,
    Motor,
    OhmReading,
    PassElement,
    Place,
    Pole,
    Pot,
    Powered,
    Relay,
    Replace,
    Role,
    Sensor,
    SizeClass,
    Spec,
    Speed,
    Supply,
    Switch,
    Thermostat,
    Transformer,
    WiredPart,
    Wiring,
)
from fenwit.core.errors import InputError, check_range

FORMAT = "fenwit-circuit/1"
MAX_PARTS, MAX_NAME, MAX_TERMINALS, MAX_LIST = 400, 60, 400, 2000
_TOP = (
    "format", "title", "parts", "nets", "places", "cables", "exclusive", "expect", "test_points", "meter", "readings",
    "replace",
)  # fmt: skip
_COMMON = ("id", "kind", "place", "note", "metal", "class2", "behind")
_METAL = (Kind.MOTOR, Kind.EC_MOTOR, Kind.EC_FAN, Kind.BOX)


def read_wiring(document: object) -> Wiring:
    """A wiring from its parsed JSON.

    Parameters
    ----------
    document : object
        What stands in a `fenwit-circuit/1` file [-]

    Returns
    -------
    Wiring
        Parts, nets, places and cables [-]

    Raises
    ------
    InputError
        Whatever the format refuses: field, value, allowed, reason.
    """
    top = _Reader("circuit", document, _TOP)
    if top.raw.get("format") != FORMAT:
        raise InputError("format", top.raw.get("format"), FORMAT, "not a circuit of this format")
    parts = tuple(_part(i, raw) for i, raw in enumerate(top.listed("parts", MAX_PARTS)))
    seen: set[str] = set()
    for part in parts:
        if part.id in seen:
            raise InputError("parts.id", part.id, "each name once", "two parts bear one name")
        seen.add(part.id)
    known = {part.at(t) for part in parts for t in part.terminals}
    nets = _nets(top, known)
    bare = Wiring(top.text("title", "", empty=True), parts, nets)
    _check_behind(bare)
    places = tuple(top.names("places", "places"))
    cables = tuple(_cable(raw, places) for raw in top.listed("cables", 200))
    _each_once("cables.id", [c.id for c in cables])
    for part in parts:
        if part.place and places and part.place not in places:
            raise InputError(f"{part.id}.place", part.place, ", ".join(places), "no such place")
    wiring = Wiring(
        bare.title, parts, nets, places, cables,
        tuple(_exclusive(bare, raw) for raw in top.listed("exclusive", 50)),
        tuple(_expect(bare, raw) for raw in top.listed("expect", MAX_LIST)),
        tuple(_points("test_points", bare, raw) for raw in top.listed("test_points", 500))
        if "test_points" in top.raw else None,
        _meter(top.raw.get("meter", {})),
        tuple(_reading(bare, raw) for raw in top.listed("readings", 200)),
        _replace(bare, top.raw["replace"]) if top.raw.get("replace") is not None else None,
    )  # fmt: skip
    return wiring


class _Reader:
    """One JSON object, asked for its keys; unknown ones are refused at once."""

    def __init__(self, where: str, raw: object, keys: Sequence[str]) -> None:
        if not isinstance(raw, dict):
            raise InputError(where, raw, "an object in braces", "not what stands here")
        for key in raw:
            if key not in keys:
                raise InputError(f"{where}.{key}", raw[key], ", ".join(keys), "unknown key")
        self.where, self.raw = where, raw

    def field(self, key: str) -> str:
        return f"{self.where}.{key}" if self.where != "circuit" else key

    def text(self, key: str, default: str | None = None, empty: bool = False) -> str:
        value = self.raw.get(key, default)
        if value is None:
            raise InputError(self.field(key), None, "a name", "is needed here")
        return as_name(self.field(key), value, empty, 200 if key in ("title", "note") else MAX_NAME)

    def number(self, key: str, low: float, high: float, unit: str, default: float | None = None) -> float:
        found = self.maybe(key, low, high, unit)
        if found is None:
            if default is None:
                raise InputError(
                    self.field(key), None, f"{low:g} to {high:g} {unit}".strip(), "is needed here"
                )
            return default
        return found

    def maybe(self, key: str, low: float, high: float, unit: str) -> float | None:
        value = self.raw.get(key)
        return None if value is None else float(check_range(self.field(key), value, low, high, unit))

    def yes(self, key: str, default: bool = False) -> bool:
        value = self.raw.get(key, default)
        if not isinstance(value, bool):
            raise InputError(self.field(key), value, "true or false", "is yes or no")
        return value

    def listed(self, key: str, most: int) -> list[Any]:
        value = self.raw.get(key)
        if value is None:
            return []
        if not isinstance(value, list):
            raise InputError(self.field(key), value, "a list in brackets", "not a list")
        if len(value) > most:
            raise InputError(self.field(key), len(value), f"up to {most}", "too many")
        return value

    def names(self, key: str, what: str) -> list[str]:
        found = [as_name(self.field(key), v) for v in self.listed(key, MAX_TERMINALS)]
        _each_once(self.field(key), found)
        return found

    def sub(self, key: str, keys: Sequence[str]) -> _Reader | None:
        return _Reader(self.field(key), self.raw[key], keys) if self.raw.get(key) is not None else None

    def pair(self, key: str, default: tuple[str, str] | None = None) -> tuple[str, str]:
        value = self.raw.get(key, list(default) if default else None)
        if not isinstance(value, list) or len(value) != 2:
            raise InputError(self.field(key), value, "two names", "a pair is needed here")
        first, second = (as_name(self.field(key), v) for v in value)
        if first == second:
            raise InputError(self.field(key), first, "two different names", "twice the same")
        return first, second


def as_name(field: str, value: object, empty: bool = False, most: int = MAX_NAME) -> str:
    """A name of bounded length; raises InputError for anything else."""
    if not isinstance(value, str):
        raise InputError(field, value, "a name in quotes", "not a name")
    if len(value) > most or any(ord(c) < 32 for c in value):
        raise InputError(field, value[:40], f"up to {most} characters on one line", "too long for a name")
    if not value.strip() and not empty:
        raise InputError(field, value, "a name", "is empty")
    return value


def _each_once(field: str, names: Sequence[str]) -> None:
    for i, name in enumerate(names):
        if name in names[:i]:
            raise InputError(field, name, "each name once", "stands there twice")


def _part(index: int, raw: object) -> WiredPart:
    if not isinstance(raw, dict):
        raise InputError(f"parts[{index}]", raw, "an object in braces", "not a part")
    name = as_name(f"parts[{index}].id", raw.get("id"))
    if "." in name:
        raise InputError(
            f"parts[{index}].id", name, "a name without a dot", "a dot parts it from its terminal"
        )
    kind = raw.get("kind")
    if not isinstance(kind, str) or kind not in {k.value for k in Kind}:
        raise InputError(f"{name}.kind", kind, ", ".join(Kind), "no such kind of part")
    return _typed(name, Kind(kind), raw)


def _typed(name: str, kind: Kind, raw: Mapping[str, Any]) -> WiredPart:
    keys, read = _KINDS[kind]
    given = _Reader(name, raw, (*_COMMON, *keys))
    terminals, spec = read(given)
    metal = given.yes("metal", kind in _METAL) and not given.yes("class2")
    if metal and "PE" not in terminals:
        terminals = (*terminals, "PE")
    if not metal and kind is not Kind.SUPPLY:
        terminals = tuple(t for t in terminals if t != "PE")
    for terminal in terminals:
        as_name(f"{name}.terminals", terminal)
    if len(terminals) > MAX_TERMINALS:
        raise InputError(f"{name}.terminals", len(terminals), f"up to {MAX_TERMINALS}", "too many")
    behind = tuple(given.names("behind", "guards")) if "behind" in given.raw else None
    return WiredPart(
        name, kind, terminals, spec, given.text("place", "", empty=True), given.text("note", "", empty=True),
        metal, behind,
    )  # fmt: skip


Read = Callable[[_Reader], tuple[tuple[str, ...], Spec]]


def _volts(given: _Reader, key: str = "volts", default: float | None = None) -> float:
    return given.number(key, 0.5, 1000.0, "V", default)


def _supply(given: _Reader) -> tuple[tuple[str, ...], Spec]:
    names = tuple(given.names("terminals", "terminals")) or ("L", "N", "PE")
    live = tuple(n for n in names if n != "PE")
    if live not in (("L", "N"), ("L1", "L2"), ("L1", "L2", "N"), ("+", "-"), ("+", "−")):
        raise InputError(
            given.field("terminals"),
            " ".join(names),
            "L N, L1 L2, L1 L2 N, or + -, with or without PE",
            "no such supply",
        )
    return names, Supply(_volts(given), given.number("frequency_hz", 1.0, 1000.0, "Hz", 50.0), names)


def _transformer(given: _Reader) -> tuple[tuple[str, ...], Spec]:
    return ("P1", "P2", "S1", "S2"), Transformer(
        _volts(given, "primary_volts"), _volts(given), given.number("va", 0.1, 1e5, "VA"),
        given.maybe("primary_ohm", 0.0, 1e7, "Ω"), given.maybe("secondary_ohm", 0.0, 1e7, "Ω"),
    )  # fmt: skip


def _pole(where: str, raw: object) -> Pole:
    given = _Reader(where, raw, ("com", "no", "nc"))
    pole = Pole(given.text("com"), given.text("no", "", empty=True), given.text("nc", "", empty=True))
    if not pole.no and not pole.nc:
        raise InputError(where, "", "no, nc or both", "a pole has at least one contact")
    _each_once(where, [t for t in (pole.com, pole.no, pole.nc) if t])
    return pole


def _pole_terminals(poles: Sequence[Pole]) -> tuple[str, ...]:
    return tuple(t for p in poles for t in (p.com, p.no, p.nc) if t)


def _relay(given: _Reader) -> tuple[tuple[str, ...], Spec]:
    poles = tuple(_pole(given.field("poles"), raw) for raw in given.listed("poles", 50))
    terminals = ("A1", "A2", *_pole_terminals(poles))
    _each_once(given.field("poles"), terminals)
    return terminals, Relay(
        _volts(given), given.number("va", 0.0, 1e4, "VA", 0.0), given.maybe("ohms", 0.0, 1e7, "Ω"), poles,
        given.yes("make_before_break"), given.number("delay_on_s", 0.0, 86400.0, "s", 0.0),
        given.number("delay_off_s", 0.0, 86400.0, "s", 0.0), given.yes("hold"),
    )  # fmt: skip


def _powered(given: _Reader, states: Sequence[str]) -> Powered | None:
    power = given.sub("power", ("terminals", "volts", "va", "unpowered"))
    if power is None:
        return None
    unpowered = power.text("unpowered", "" if not states else None, empty=not states)
    if states and unpowered not in states:
        raise InputError(power.field("unpowered"), unpowered, ", ".join(states), "no such position")
    return Powered(power.pair("terminals"), _volts(power), power.number("va", 0.0, 1e4, "VA", 0.0), unpowered)


def _switch(given: _Reader) -> tuple[tuple[str, ...], Spec]:
    positions, terminals = [], list(given.names("terminals", "terminals"))
    for raw in given.listed("positions", 400):
        at = _Reader(given.field("positions"), raw, ("name", "joins"))
        joins = []
        for join in at.listed("joins", 400):
            if not isinstance(join, list) or len(join) < 2:
                raise InputError(at.field("joins"), join, "two terminals or more", "joins nothing")
            names = [as_name(at.field("joins"), t) for t in join]
            _each_once(at.field("joins"), names)
            joins.append(tuple(names))
        positions.append(Place(at.text("name"), tuple(joins)))
    if not positions:
        raise InputError(given.field("positions"), 0, "one or more", "a switch has positions")
    names = [p.name for p in positions]
    if len(set(names)) < len(names):
        twice = next(n for n in names if names.count(n) > 1)
        raise InputError(given.field("positions"), twice, "each name once", "two positions bear one name")
    role = given.text("role", Role.SELECTOR)
    if role not in {r.value for r in Role}:
        raise InputError(given.field("role"), role, ", ".join(Role), "no such role of a switch")
    if role in (Role.DOOR, Role.LIMIT) and "open" not in names:
        raise InputError(given.field("positions"), ", ".join(names), "one called open", f"a {role} has it")
    power = _powered(given, names)
    found = [t for p in positions for join in p.joins for t in join]
    terminals = list(dict.fromkeys([*terminals, *found, *(power.terminals if power else ())]))
    return tuple(terminals), Switch(
        tuple(positions), Role(role), given.yes("make_before_break"), given.yes("wraps"), power
    )


def _thermostat(given: _Reader) -> tuple[tuple[str, ...], Spec]:
    common, raw = given.text("common", "R"), given.raw.get("calls")
    if not isinstance(raw, dict) or not raw or len(raw) > 12:
        raise InputError(given.field("calls"), raw, "call: [outputs], up to 12 of them", "a thermostat calls")
    calls = []
    for call, outputs in raw.items():
        if not isinstance(outputs, list):
            raise InputError(given.field("calls"), outputs, "a list of outputs", "not a list")
        names = [as_name(given.field("calls"), o) for o in outputs]
        _each_once(given.field("calls"), [common, *names])
        calls.append((as_name(given.field("calls"), call), tuple(names)))
    power = _powered(given, ())
    terminals = [common, *(o for _, outputs in calls for o in outputs), *(power.terminals if power else ())]
    return tuple(dict.fromkeys(terminals)), Thermostat(
        common, tuple(calls), _volts(given, "volts", 24.0), power
    )


def _fuse(given: _Reader) -> tuple[tuple[str, ...], Spec]:
    return ("1", "2"), Joined((("1", "2"),), given.maybe("amps", 0.001, 1000.0, "A"))


def _strip(given: _Reader) -> tuple[tuple[str, ...], Spec]:
    names, links = tuple(given.names("terminals", "terminals")), []
    for raw in given.listed("links", 400):
        if not isinstance(raw, list) or len(raw) != 2 or any(t not in names for t in raw):
            raise InputError(given.field("links"), raw, ", ".join(names)[:80], "links two of its terminals")
        links.append((raw[0], raw[1]))
    return names, Joined(tuple(links))


def _box(given: _Reader) -> tuple[tuple[str, ...], Spec]:
    return ("PE",), Joined()


def _load(given: _Reader) -> tuple[tuple[str, ...], Spec]:
    return ("1", "2"), Load(
        _volts(given), given.number("va", 0.0, 1e5, "VA", 0.0), given.maybe("ohms", 0.0, 1e8, "Ω"), given.yes("heats"),
        given.text("role", "", empty=True),
    )  # fmt: skip


def _capacitor(given: _Reader) -> tuple[tuple[str, ...], Spec]:
    return ("1", "2"), PassElement(farads=given.number("farads", 1e-12, 1.0, "F"))


def _resistor(given: _Reader) -> tuple[tuple[str, ...], Spec]:
    return ("1", "2"), PassElement(ohms=given.number("ohms", 1e-3, 1e9, "Ω"))


def _motor(given: _Reader) -> tuple[tuple[str, ...], Spec]:
    common, taps = given.text("common", "COM"), tuple(given.names("taps", "taps"))
    if not taps:
        raise InputError(
            given.field("taps"), "", "one tap or more, fastest first", "a motor without a tap runs on nothing"
        )
    auxiliary = given.text("auxiliary", "", empty=True)
    terminals = (common, *taps, *([auxiliary] if auxiliary else []), *given.names("terminals", "terminals"))
    sections = []
    for raw in given.listed("sections", 60):
        if not isinstance(raw, list) or len(raw) != 3:
            raise InputError(given.field("sections"), raw, "two leads and ohms", "not a section")
        first, second = (as_name(given.field("sections"), t) for t in raw[:2])
        sections.append((first, second, float(check_range(given.field("sections"), raw[2], 0.0, 1e7, "Ω"))))
        terminals += (first, second)
    _each_once(given.field("taps"), (common, *taps))
    names = (*dict.fromkeys(t for t in terminals if t != "PE"), "PE")
    return names, Motor(
        common, taps, auxiliary, _volts(given), given.number("va", 0.0, 1e5, "VA", 0.0), tuple(sections)
    )


def _ec_motor(given: _Reader) -> tuple[tuple[str, ...], Spec]:
    run = tuple(given.names("run", "run leads"))
    classes, speeds = [], []
    for raw in given.listed("classes", 40):
        at = _Reader(given.field("classes"), raw, ("run", "class", "watts"))
        leads = tuple(at.names("run", "run leads"))
        for lead in leads:
            if lead not in run:
                raise InputError(at.field("run"), lead, ", ".join(run), "no such run lead")
        classes.append(SizeClass(leads, at.text("class"), at.maybe("watts", 0.1, 1e5, "W")))
    for raw in given.listed("speeds", 60):
        at = _Reader(given.field("speeds"), raw, ("name", "inputs", "rpm"))
        speeds.append(
            Speed(at.text("name"), tuple(at.names("inputs", "inputs")), at.number("rpm", 0.0, 1e5, "rpm"))
        )
    _each_once(given.field("speeds"), [s.name for s in speeds])
    found = given.sub("link", ("terminals", "joined_volts", "open_volts"))
    link = (
        FeedLink(found.pair("terminals"), _volts(found, "joined_volts"), _volts(found, "open_volts"))
        if found
        else None
    )
    wanted = given.text("wanted_class", "", empty=True)
    if wanted and wanted not in {c.name for c in classes}:
        raise InputError(
            given.field("wanted_class"), wanted, ", ".join(c.name for c in classes), "no such class"
        )
    volts = given.maybe("volts", 0.5, 1000.0, "V")
    if volts is None and link is None:
        raise InputError(given.field("volts"), None, "0.5 to 1000 V", "is needed here, or a link")
    common = given.text("speed_common", "SC")
    spec = EcMotor(
        run, tuple(classes), wanted, tuple(speeds), given.number("circulate_rpm", 0.0, 1e5, "rpm", 0.0),
        volts if volts is not None else link.open_volts if link else 0.0, given.number("va", 0.0, 1e5, "VA", 0.0),
        _volts(given, "signal_volts", 24.0), common, link,
    )  # fmt: skip
    terminals = ("L", "N", *run, *spec.inputs, common, *(link.terminals if link else ()))
    _each_once(given.field("terminals"), terminals)
    return (*terminals, "PE"), spec


def _ec_fan(given: _Reader) -> tuple[tuple[str, ...], Spec]:
    alarm = _pole(given.field("alarm"), given.raw["alarm"]) if given.raw.get("alarm") is not None else None
    serial = given.pair("serial") if given.raw.get("serial") is not None else None
    output, enable = given.yes("output"), given.text("enable_to", "GND")
    aux = given.number("aux_volts", 1.0, 50.0, "V") if given.raw.get("aux_volts") is not None else None
    if enable not in ("GND", "10V", *(["AUX"] if aux is not None else [])):
        raise InputError(given.field("enable_to"), enable, "GND or 10V", "no such terminal to enable to")
    terminals = (
        "L", "N", "10V", "GND", "AI", "EN", *(["AUX"] if aux is not None else []),
        *(["AO"] if output else []), *(serial or ()),
        *(_pole_terminals([alarm]) if alarm else ()), "PE",
    )  # fmt: skip
    _each_once(given.field("terminals"), terminals)
    return terminals, EcFan(
        _volts(given),
        given.number("va", 0.0, 1e5, "VA", 0.0),
        enable,
        alarm,
        serial,
        output,
        aux,
    )


def _pot(given: _Reader) -> tuple[tuple[str, ...], Spec]:
    return ("A", "W", "B"), Pot(given.number("ohms", 1.0, 1e8, "Ω"))


def _sensor(given: _Reader) -> tuple[tuple[str, ...], Spec]:
    return ("V", "GND", "OUT"), Sensor(_volts(given, "supply_volts"))


_KINDS: Mapping[Kind, tuple[tuple[str, ...], Read]] = {
    Kind.SUPPLY: (("terminals", "volts", "frequency_hz"), _supply),
    Kind.TRANSFORMER: (("primary_volts", "volts", "va", "primary_ohm", "secondary_ohm"), _transformer),
    Kind.RELAY: (
        ("volts", "va", "ohms", "poles", "make_before_break", "delay_on_s", "delay_off_s", "hold"), _relay,
    ),
    Kind.SWITCH: (("positions", "terminals", "role", "make_before_break", "wraps", "power"), _switch),
    Kind.THERMOSTAT: (("common", "calls", "power", "volts"), _thermostat),
    Kind.FUSE: (("amps",), _fuse),
    Kind.STRIP: (("terminals", "links"), _strip),
    Kind.BOX: ((), _box),
    Kind.LOAD: (("volts", "va", "ohms", "heats", "role"), _load),
    Kind.LAMP: (("volts", "va", "ohms", "heats", "role"), _load),
    Kind.CAPACITOR: (("farads",), _capacitor),
    Kind.RESISTOR: (("ohms",), _resistor),
    Kind.MOTOR: (("common", "taps", "auxiliary", "terminals", "volts", "va", "sections"), _motor),
    Kind.EC_MOTOR: (
        (
            "run", "classes", "wanted_class", "speeds", "circulate_rpm", "volts", "va", "signal_volts", "speed_common",
            "link",
        ),
        _ec_motor,
    ),
    Kind.EC_FAN: (("volts", "va", "enable_to", "alarm", "serial", "output", "aux_volts"), _ec_fan),
    Kind.POT: (("ohms",), _pot),
    Kind.SENSOR: (("supply_volts",), _sensor),
}  # fmt: skip
"""What each kind is told by, and how it is read"""


def _nets(top: _Reader, known: set[str]) -> tuple[tuple[str, tuple[str, ...]], ...]:
    raw = top.raw.get("nets", {})
    if not isinstance(raw, dict):
        raise InputError("nets", raw, "net: [terminals]", "not nets")
    nets, where = [], dict[str, str]()
    for name, joined in raw.items():
        as_name("nets", name)
        if not isinstance(joined, list):
            raise InputError(f"nets.{name}", joined, "a list of terminals", "not a list")
        for terminal in joined:
            if not isinstance(terminal, str) or terminal not in known:
                raise InputError(
                    f"nets.{name}", terminal, "PART.TERMINAL of a part above", "no such terminal"
                )
            if terminal in where:
                raise InputError(
                    f"nets.{name}",
                    terminal,
                    "one net for each terminal",
                    f"stands in {where[terminal]} already",
                )
            where[terminal] = name
        nets.append((name, tuple(joined)))
    return tuple(nets)


def _check_behind(wiring: Wiring) -> None:
    for part in wiring.parts:
        for guard in part.behind or ():
            found = wiring.by_id.get(guard)
            if (
                found is None
                or not isinstance(found.spec, Switch)
                or found.spec.role not in (Role.DOOR, Role.LIMIT)
            ):
                raise InputError(
                    f"{part.id}.behind", guard, "doors and limits of this circuit", "no such guard"
                )


def _cable(raw: object, places: Sequence[str]) -> Cable:
    given = _Reader("cables", raw, ("id", "from", "to", "cores", "earth", "use", "csa_mm2", "length_m"))
    name = given.text("id")
    given.where = f"cables.{name}"
    start, end = given.text("from"), given.text("to")
    for key, place in (("from", start), ("to", end)):
        if place not in places:
            raise InputError(
                given.field(key), place, ", ".join(places) or "places of this circuit", "no such place"
            )
    if start == end:
        raise InputError(given.field("to"), end, "another place", "leads nowhere")
    use = given.text("use", "", empty=True)
    if use not in ("", "mains", "control"):
        raise InputError(given.field("use"), use, "mains or control", "no such use")
    return Cable(
        name, start, end, tuple(given.names("cores", "cores")), given.yes("earth"), use,
        given.maybe("csa_mm2", 0.05, 400.0, "mm²"), given.maybe("length_m", 0.0, 5000.0, "m"),
    )  # fmt: skip


def variables(wiring: Wiring) -> dict[str, tuple[str | bool, ...]]:
    """What is set from outside, in the order of the parts, with the values each takes."""
    found: dict[str, tuple[str | bool, ...]] = {}
    for part in wiring.parts:
        if isinstance(part.spec, Switch):
            found[part.id] = tuple(p.name for p in part.spec.positions)
        elif isinstance(part.spec, Thermostat):
            found |= {part.at(call): (False, True) for call, _ in part.spec.calls}
        elif isinstance(part.spec, EcFan) and part.spec.alarm is not None:
            found[part.at("fault")] = (False, True)
    return found


def _exclusive(wiring: Wiring, raw: object) -> tuple[str, ...]:
    calls = [k for k, values in variables(wiring).items() if values == (False, True)]
    if not isinstance(raw, list):
        raise InputError("exclusive", raw, "a list of calls", "not a list")
    for name in raw:
        if name not in calls:
            raise InputError("exclusive", name, ", ".join(calls) or "calls of this circuit", "no such call")
    return tuple(raw)


def _when(field: str, wiring: Wiring, raw: object) -> tuple[tuple[str, str | bool], ...]:
    known = variables(wiring)
    if not isinstance(raw, dict):
        raise InputError(field, raw, "input: value", "not a condition")
    for name, value in raw.items():
        if name not in known:
            raise InputError(field, name, ", ".join(known) or "inputs of this circuit", "no such input")
        if value not in known[name] or isinstance(value, bool) != isinstance(known[name][0], bool):
            raise InputError(
                f"{field}.{name}", value, ", ".join(map(str, known[name])), "it does not stand so"
            )
    return tuple(raw.items())


def _expect(wiring: Wiring, raw: object) -> Expect:
    given = _Reader("expect", raw, ("when", "part", "state"))
    part = given.text("part")
    if part not in wiring.by_id:
        raise InputError("expect.part", part, ", ".join(wiring.by_id)[:120], "no such part")
    return Expect(_when("expect.when", wiring, given.raw.get("when", {})), part, given.text("state"))


def _points(field: str, wiring: Wiring, raw: object) -> tuple[str, str]:
    known = {part.at(t) for part in wiring.parts for t in part.terminals}
    if not isinstance(raw, list) or len(raw) != 2:
        raise InputError(field, raw, "two terminals", "a test has two points")
    for terminal in raw:
        if terminal not in known:
            raise InputError(field, terminal, "PART.TERMINAL of a part above", "no such terminal")
    if raw[0] == raw[1]:
        raise InputError(field, raw[0], "two different terminals", "twice the same point")
    return raw[0], raw[1]


def _meter(raw: object) -> Meter:
    names = [f.name for f in fields(Meter)]
    given, usual = _Reader("meter", raw, names), Meter()
    return Meter(
        given.number("percent", 0.0, 50.0, "%", usual.percent),
        given.number("digits_ohm", 0.0, 100.0, "Ω", usual.digits_ohm),
        given.number("lead_ohm", 0.0, 100.0, "Ω", usual.lead_ohm),
        given.yes("zeroed", usual.zeroed),
        given.number("contact_ohm", 0.0, 100.0, "Ω", usual.contact_ohm),
        given.number("open_above_ohm", 1.0, 1e12, "Ω", usual.open_above_ohm),
    )


def _reading(wiring: Wiring, raw: object) -> OhmReading:
    given = _Reader("readings", raw, ("points", "inputs", "held", "ohms"))
    inputs = _when("readings.inputs", wiring, given.raw.get("inputs") or {})
    held = given.raw.get("held")
    holds = [p.id for p in wiring.parts if isinstance(p.spec, Relay) and p.spec.hold]
    if held is not None and held not in holds:
        raise InputError(
            "readings.held", held, ", ".join(holds) or "no relay can be pushed in", "no such relay"
        )
    ohms = given.raw.get("ohms")
    value = None if ohms == "open" else float(check_range("readings.ohms", ohms, 0.0, 1e12, "Ω, or open"))
    named = tuple((name, str(at)) for name, at in inputs if not isinstance(at, bool))
    return OhmReading(_points("readings.points", wiring, given.raw.get("points")), named, held or "", value)


def _replace(wiring: Wiring, raw: object) -> Replace:
    given = _Reader("replace", raw, ("motor", "kit", "old_watts", "wanted", "idle"))
    motor = given.text("motor")
    found = wiring.by_id.get(motor)
    if found is None or found.kind is not Kind.MOTOR:
        tapped = ", ".join(p.id for p in wiring.of(Kind.MOTOR))
        raise InputError("replace.motor", motor, tapped or "a motor of this circuit", "no such motor")
    kit_raw = given.raw.get("kit")
    if not isinstance(kit_raw, dict):
        raise InputError("replace.kit", kit_raw, "an EC motor in braces", "not a kit")
    name = as_name("replace.kit.id", kit_raw.get("id"))
    if "." in name or (name in wiring.by_id and name != motor):
        raise InputError("replace.kit.id", name, "a new name without a dot", "that name is taken")
    kit = _typed(name, Kind.EC_MOTOR, {k: v for k, v in kit_raw.items() if k != "kind"})
    wanted = []
    for duty in given.listed("wanted", 200):
        at = _Reader("replace.wanted", duty, ("when", "rpm"))
        rpm = at.raw.get("rpm")
        value = (
            None
            if rpm == "circulate"
            else float(check_range("replace.wanted.rpm", rpm, 0.0, 1e5, "rpm, or circulate"))
        )
        wanted.append(Duty(_when("replace.wanted.when", wiring, at.raw.get("when", {})), value))
    idle = given.text("idle", "off")
    if idle not in ("off", "circulate"):
        raise InputError("replace.idle", idle, "off or circulate", "no such state when nothing calls")
    return Replace(motor, kit, given.number("old_watts", 0.1, 1e5, "W"), tuple(wanted), idle == "circulate")
