"""The truth table of a wiring: what every call and position does, what it passes on the way, and what is dangerous."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from fenwit.core.circuit.wiring.hazards import (
    SEVERITY,
    Consumer,
    Found,
    HazardKind,
    Severity,
    consumers,
    feeds_mains,
    open_guards,
    passing_hazards,
    standing_hazards,
    takes,
    transformer_va,
)
from fenwit.core.circuit.wiring.live import Live
from fenwit.core.circuit.wiring.parts import (
    EcFan,
    EcMotor,
    Kind,
    Motor,
    PassElement,
    Switch,
    WiredPart,
    Wiring,
)
from fenwit.core.circuit.wiring.walk import Micro, Walked

_STOPPED = ("dead", "disabled", "zero", "open")
_BLEED = 10.0
"""A resistor of so many times a capacitor's reactance across it only empties it"""
State = Mapping[str, str | bool | float | None]


@dataclass(frozen=True)
class Rest:
    """What runs in one state."""

    parts: Mapping[str, State]
    """Motors, loads, lamps and EC motors by name: state, and what belongs to it"""
    relays: Mapping[str, bool]
    """Whether each coil is fed"""
    va: Mapping[str, float]
    """Of transformers that carry something [VA]"""
    alive: tuple[str, ...]
    """Nets on a line of the mains"""


@dataclass(frozen=True)
class Interim:
    """A state that lasts until a late relay moves."""

    after: int | None
    """Row it comes from; None at power-up"""
    for_s: float
    rest: Rest


@dataclass(frozen=True)
class TableRow:
    """One combination of calls and positions."""

    inputs: Mapping[str, str | bool]
    settled: str
    """yes, remembers, chatter, or short"""
    rest: Rest
    also: tuple[Rest, ...]
    interim: tuple[Interim, ...]
    closed: int
    """Contacts that are closed, as bits of the base"""


@dataclass(frozen=True)
class Hazard:
    """What is dangerous, harmful or wrong, where, and when."""

    kind: HazardKind
    where: tuple[str, ...]
    passing: bool
    when: tuple[int, ...] | tuple[tuple[int | None, int], ...]
    """Row numbers; of a passing one pairs of rows it lies between"""
    for_s: float | None
    """The longest it lasts while passing; None when it stands [s]"""
    values: tuple[tuple[str, float], ...] = ()

    @property
    def severity(self) -> Severity:
        """How bad it is."""
        return SEVERITY[self.kind]


@dataclass(frozen=True)
class Unmet:
    """A row that does other than was expected."""

    row: int
    part: str
    state: str
    wanted: str


@dataclass(frozen=True)
class Table:
    """Everything that follows from a wiring with its power on."""

    walked: Walked
    rows: tuple[TableRow, ...]
    hazards: tuple[Hazard, ...]
    never: tuple[str, ...]
    unmet: tuple[Unmet, ...]


def truth_table(wiring: Wiring) -> Table:
    """Solve every row of a wiring, from power-up and from every other row.

    Parameters
    ----------
    wiring : Wiring
        The circuit [-]

    Returns
    -------
    Table
        Rows, hazards, what nothing brings about, and expectations that are not met [-]

    Raises
    ------
    InputError
        More rows or passing states than are walked.
    """
    walked = Walked(wiring)
    maker = _Maker(walked)
    rows = tuple(maker.row(i) for i in range(len(walked.rows)))
    return Table(walked, rows, maker.hazards(), maker.never(rows), _unmet(wiring, rows))


class _Maker:
    def __init__(self, walked: Walked) -> None:
        self.walked, self.wiring = walked, walked.wiring
        self.consumers = consumers(self.wiring)
        self._seen: dict[int, list[Found]] = {}
        self._rests: dict[tuple[int, tuple[str, ...]], Rest] = {}

    def rest(self, micro: Micro, faults: tuple[str, ...]) -> Rest:
        """What runs in a micro-state; ``faults``: fans that have one."""
        live = self.walked.live(micro)
        key = (live.closed, faults)
        if key not in self._rests:
            self._rests[key] = _rest(live, self.consumers, faults)
        return self._rests[key]

    def faults(self, number: int) -> tuple[str, ...]:
        """Fans with a fault in a row."""
        inputs = self.walked.rows[number].inputs
        return tuple(p.id for p in self.wiring.of(Kind.EC_FAN) if inputs.get(p.at("fault")) is True)

    def row(self, number: int) -> TableRow:
        """One row as it comes to rest."""
        row, faults = self.walked.rows[number], self.faults(number)
        ends = {micro: self.rest(micro, faults) for micro in row.ends}
        at_power_up = ends[row.first]
        also = [r for r in ends.values() if _shown(r) != _shown(at_power_up)]
        distinct = {_shown(r): r for r in also}
        live = self.walked.live(row.first)
        if row.ends[row.first]:
            settled = "chatter"
        elif live.shorts:
            settled = "short"
        else:
            settled = "remembers" if distinct else "yes"
        interim: dict[tuple[int | None, float, str], Interim] = {}
        for (after, micro), wait in row.waits.items():
            found = Interim(after, wait, self.rest(micro, faults))
            interim.setdefault((after, wait, _shown(found.rest)), found)
        return TableRow(
            row.inputs, settled, at_power_up, tuple(distinct[k] for k in sorted(distinct)), tuple(interim.values()),
            live.closed,
        )  # fmt: skip

    def hazards(self) -> tuple[Hazard, ...]:
        """All of them, the worst first."""
        standing: dict[Found, dict[int, None]] = {}
        for row in self.walked.rows:
            opened = open_guards(self.wiring, dict(row.inputs))
            for micro, relays in row.ends.items():
                live, rest = self.walked.live(micro), self.rest(micro, self.faults(row.number))
                running = {
                    p.id
                    for p in self.wiring.of(Kind.MOTOR, Kind.EC_MOTOR, Kind.EC_FAN)
                    if _moves(rest.parts[p.id])
                }
                found = standing_hazards(live, self.consumers, running, opened)
                if relays:
                    found.append(Found(HazardKind.CHATTER, tuple(sorted(relays))))
                for hazard in found:
                    standing.setdefault(hazard, {})[row.number] = None
        for hazard, number in self._switched_neutrals():
            standing.setdefault(hazard, {})[number] = None
        passing: dict[Found, dict[tuple[int | None, int], float]] = {}
        for step in self.walked.steps:
            for hazard in self._passing(step.micro):
                pairs = passing.setdefault(hazard, {})
                pair = (step.start, step.end)
                pairs[pair] = max(pairs.get(pair, 0.0), step.for_s)
        races: dict[Found, dict[tuple[int | None, int], float]] = {}
        for raced in self.walked.races:
            if raced.relays:
                races.setdefault(Found(HazardKind.RACE, raced.relays), {})[(raced.start, raced.end)] = 0.0
        found_all = [
            Hazard(f.kind, f.where, False, tuple(sorted(n)), None, f.values) for f, n in standing.items()
        ]
        for pairs_of in (passing, races):
            found_all += [
                Hazard(
                    f.kind, f.where, True, tuple(sorted(p, key=lambda at: (at[0] is not None, at[0] or 0, at[1]))),
                    max(p.values()), f.values,
                )
                for f, p in pairs_of.items()
            ]  # fmt: skip
        order = list(Severity)
        return tuple(
            sorted(_merged(found_all), key=lambda h: (order.index(h.severity), h.kind, h.where, h.passing))
        )

    def _passing(self, micro: Micro) -> list[Found]:
        live = self.walked.live(micro)
        if live.closed not in self._seen:
            self._seen[live.closed] = passing_hazards(live)
        return self._seen[live.closed]

    def _switched_neutrals(self) -> list[tuple[Found, int]]:
        """Parts that run in some row and in another hang on the line with their other ends on nothing."""
        mains = {p.id for p in self.wiring.of(Kind.SUPPLY) if feeds_mains(p)}
        states = [(row.number, self.walked.live(micro)) for row in self.walked.rows for micro in row.ends]
        found = []
        for consumer in self.consumers:
            if consumer.rated_v <= 50:
                continue
            if not any(takes(live, consumer)[1] in mains for _, live in states):
                continue
            for number, live in states:
                if takes(live, consumer)[0]:
                    continue
                first, others = consumer.ends[0], consumer.ends[1:]
                far = live.hot(first) and not any(live.on(e) for e in others)
                near = not live.on(first) and any(live.hot(e) for e in others)
                if far or (near and all(live.hot(e) or not live.on(e) for e in others)):
                    found.append((Found(HazardKind.SWITCHED_NEUTRAL, (consumer.part.id,)), number))
        return found

    def never(self, rows: tuple[TableRow, ...]) -> tuple[str, ...]:
        """What no row brings about."""
        rests = [r for row in rows for r in (row.rest, *row.also)]
        lives = [self.walked.live(micro) for row in self.walked.rows for micro in row.ends]
        found = []
        for part in self.wiring.parts:
            spec = part.spec
            if isinstance(spec, Motor):
                seen = {tap for r in rests for tap in str(r.parts[part.id]["state"]).split("+")}
                found += [part.at(tap) for tap in spec.taps if tap not in seen]
            elif isinstance(spec, EcMotor):
                seen = {str(r.parts[part.id]["state"]) for r in rests}
                found += [part.at(s.name) for s in spec.speeds if s.name not in seen]
            elif not self._ever(part, rests, lives):
                found.append(part.id)
        return tuple(found)

    def _ever(self, part: WiredPart, rests: list[Rest], lives: list[Live]) -> bool:
        """Whether a load, a relay or a powered switch works in any row; other parts have nothing to do."""
        if part.kind in (Kind.LOAD, Kind.LAMP):
            return any(r.parts[part.id]["state"] == "on" for r in rests)
        if part.kind is Kind.RELAY:
            return any(r.relays[part.id] for r in rests)
        if isinstance(part.spec, Switch) and part.spec.power is not None:
            return any(live.has_power(part, part.spec.power) for live in lives)
        return True


def _moves(state: State) -> bool:
    at = str(state["state"])
    return at not in ("off", *_STOPPED) and state.get("rpm") != 0


def _shown(rest: Rest) -> str:
    return repr(
        (sorted((k, sorted(v.items(), key=str)) for k, v in rest.parts.items()), sorted(rest.relays.items()))
    )


def _merged(found: list[Hazard]) -> list[Hazard]:
    """One hazard for each kind and place: of volts and VA the worst stands for all rows."""
    merged: dict[tuple[HazardKind, tuple[str, ...], bool], Hazard] = {}
    for hazard in found:
        key = (hazard.kind, hazard.where, hazard.passing)
        before = merged.get(key)
        if before is None:
            merged[key] = hazard
            continue
        when = tuple(sorted({*before.when, *hazard.when}, key=str if hazard.passing else None))
        merged[key] = Hazard(
            hazard.kind, hazard.where, hazard.passing, when, before.for_s, max(before.values, hazard.values, key=_worst),
        )  # fmt: skip
    return list(merged.values())


def _worst(values: tuple[tuple[str, float], ...]) -> float:
    told = dict(values)
    much = told.get("va", told.get("volts", 0.0)) / told.get("rated", 1.0)
    return max(much, 1 / much if much else 0.0)


def _rest(live: Live, everything: tuple[Consumer, ...], faults: tuple[str, ...]) -> Rest:
    wiring = live.base.wiring
    parts: dict[str, State] = {}
    for part in wiring.of(Kind.LOAD, Kind.LAMP):
        parts[part.id] = {"state": live.load_state(part)}
    for part in wiring.of(Kind.MOTOR):
        parts[part.id] = _motor(live, part)
    for part in wiring.of(Kind.EC_MOTOR):
        state, named, rpm = live.ec_motor(part)
        parts[part.id] = {"state": state, "class": named} | ({} if rpm is None else {"rpm": rpm})
    for part in wiring.of(Kind.EC_FAN):
        told: dict[str, str | bool | float | None] = {"state": live.ec_fan(part)}
        if isinstance(part.spec, EcFan) and part.spec.alarm is not None:
            told["alarm"] = told["state"] == "dead" or part.id in faults
        if told["state"] == "divider":
            told["command_v"] = _tidy(live.command_v(part))
        parts[part.id] = told
    relays = {p.id: bool(live.pulls(p)) for p in wiring.of(Kind.RELAY)}
    if live.shorts:
        relays = {
            p.id: takes(live, next(c for c in everything if c.part is p))[0] > 0
            for p in wiring.of(Kind.RELAY)
        }
    alive = tuple(sorted(name for name, joined in wiring.nets if joined and live.hot(joined[0])))
    return Rest(parts, relays, transformer_va(live, everything), alive)


def _motor(live: Live, part: WiredPart) -> State:
    spec = part.as_a(Motor)
    alive = live.taps_alive(part)
    told: dict[str, str | bool | float | None] = {"state": "+".join(alive) or "off"}
    if len(alive) == 1:
        told |= _pass_elements(live, part, spec, alive[0])
    return told


def _pass_elements(
    live: Live, part: WiredPart, spec: Motor, tap: str
) -> dict[str, str | bool | float | None]:
    """What stands between the rail and the tap, and between the tap and the auxiliary.

    Nodal admittances at mains frequency with rails, tap and auxiliary kept and free groups eliminated.
    """
    at_tap = live.at(part.at(tap))
    at_aux = live.at(part.at(spec.auxiliary)) if spec.auxiliary else None
    elements = _elements(live)
    if not elements:
        return {}
    nodes = {g for a, b, _ in elements for g in (a, b)} | {at_tap}
    kept = [g for g in sorted(nodes) if g in live.rails or g in (at_tap, at_aux)]
    free = [g for g in sorted(nodes) if g not in kept]
    order = {g: i for i, g in enumerate([*kept, *free])}
    y = np.zeros((len(order), len(order)), dtype=np.complex128)
    for a, b, value in elements:
        i, j = order[a], order[b]
        y[i, i] += value
        y[j, j] += value
        y[i, j] -= value
        y[j, i] -= value
    n = len(kept)
    if free:
        # An island of free groups that meets nothing kept has no admittance to give.
        inner = y[n:, n:]
        y = y[:n, :n] - y[:n, n:] @ np.linalg.pinv(inner) @ y[n:, :n]
    between = {(kept[i], kept[j]): -y[i, j] for i in range(n) for j in range(n) if i != j}
    least = 1e-9 * max(abs(v) for _, _, v in elements)
    omega = 2 * np.pi * live.base.wiring.frequency_hz
    told: dict[str, str | bool | float | None] = {}
    tied = [
        g for g in kept if g in live.rails and g not in (at_tap, at_aux) and abs(between[(g, at_tap)]) > least
    ]
    if at_tap not in live.rails:
        meets = at_aux is not None and any(
            g in live.rails and g != at_tap and abs(between.get((g, at_aux), 0)) > least for g in kept
        )
        if len(tied) == 1 and not meets:
            told |= _as_value("series", complex(between[(tied[0], at_tap)]), omega)
    if at_aux is not None and at_aux in order and at_aux != at_tap and at_aux not in live.rails:
        others = [g for g in kept if g not in (at_tap, at_aux) and abs(between[(g, at_aux)]) > least]
        run = complex(between[(at_tap, at_aux)])
        if not others and abs(run) > least and abs(run.real) < 1e-6 * abs(run.imag):
            told["run_f"] = _tidy(run.imag / omega)
    return dict(sorted(told.items()))


def _as_value(name: str, admittance: complex, omega: float) -> dict[str, str | bool | float | None]:
    if abs(admittance.real) < 1e-6 * abs(admittance):
        return {f"{name}_f": _tidy(admittance.imag / omega)}
    if abs(admittance.imag) < 1e-6 * abs(admittance):
        return {f"{name}_ohm": _tidy(1 / admittance.real)}
    z = 1 / admittance
    return {f"{name}_z_ohm": [_tidy(z.real), _tidy(z.imag)]}  # type: ignore[dict-item]


def _tidy(value: float) -> float:
    return float(f"{value:.9g}")


def _elements(live: Live) -> list[tuple[int, int, complex]]:
    """Capacitors and resistors between different groups; bleeds left out."""
    wiring = live.base.wiring
    omega = 2 * np.pi * wiring.frequency_hz
    passing = [
        (live.at(p.at("1")), live.at(p.at("2")), p.as_a(PassElement))
        for p in wiring.of(Kind.CAPACITOR, Kind.RESISTOR)
    ]
    across: dict[frozenset[int], float] = {}
    for a, b, spec in passing:
        if spec.farads is not None:
            pair = frozenset((a, b))
            across[pair] = across.get(pair, 0.0) + spec.farads
    found = []
    for a, b, spec in passing:
        if a == b:
            continue
        if spec.farads is not None:
            found.append((a, b, 1j * omega * spec.farads))
        elif spec.ohms is not None:
            farads = across.get(frozenset((a, b)))
            if farads is None or spec.ohms < _BLEED / (omega * farads):
                found.append((a, b, complex(1 / spec.ohms)))
    return found


def _unmet(wiring: Wiring, rows: tuple[TableRow, ...]) -> tuple[Unmet, ...]:
    found = []
    for number, row in enumerate(rows):
        for expect in wiring.expects:
            if any(row.inputs[name] != value for name, value in expect.when):
                continue
            state = _state_of(wiring, row.rest, expect.part)
            if state != expect.state:
                found.append(Unmet(number, expect.part, state, expect.state))
    return tuple(found)


def _state_of(wiring: Wiring, rest: Rest, part: str) -> str:
    if part in rest.relays:
        return "on" if rest.relays[part] else "off"
    state = rest.parts.get(part)
    return str(state["state"]) if state else ""
