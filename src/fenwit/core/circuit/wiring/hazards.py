"""What is dangerous, harmful or wrong in one state of a circuit, with its place."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from enum import StrEnum
from itertools import combinations

import numpy as np

from fenwit.core.circuit.groups import Groups
from fenwit.core.circuit.wiring.live import ENOUGH, TOO_MUCH, Live
from fenwit.core.circuit.wiring.parts import (
    EcFan,
    EcMotor,
    Kind,
    Load,
    Motor,
    Relay,
    Role,
    Supply,
    Switch,
    Thermostat,
    Transformer,
    WiredPart,
    Wiring,
    guards,
    is_mains,
)


class Severity(StrEnum):
    """How bad: it hurts people, it breaks something, or it does not do what is meant."""

    DANGER = "danger"
    DAMAGE = "damage"
    WRONG = "wrong"


class HazardKind(StrEnum):
    """What is wrong."""

    SHORT = "short"
    TWO_TAPS = "two-taps"
    LOW_VOLTAGE_JOINED = "low-voltage-joined"
    LIVE_METAL = "live-metal"
    UNBONDED = "unbonded"
    NEUTRAL_AS_BOND = "neutral-as-bond"
    NEUTRAL_EARTHED = "neutral-earthed"
    AHEAD_OF_DOOR = "ahead-of-door"
    AHEAD_OF_LIMIT = "ahead-of-limit"
    SWITCHED_NEUTRAL = "switched-neutral"
    EARTH_RETURN = "earth-return"
    HEAT_WITHOUT_AIR = "heat-without-air"
    RUN_WITHOUT_FEED = "run-without-feed"
    WRONG_VOLTS = "wrong-volts"
    BACK_FED = "back-fed"
    VA_OVERLOAD = "va-overload"
    CHATTER = "chatter"
    RACE = "race"
    BOTH_ENDS_ON_LINE = "both-ends-on-line"
    SERIES = "series"
    WRONG_CLASS = "wrong-class"
    REVERSED_POT = "reversed-pot"
    NO_COMMON_GROUND = "no-common-ground"
    SERIAL_CROSSED = "serial-crossed"


_DAMAGE = (
    HazardKind.RUN_WITHOUT_FEED, HazardKind.WRONG_VOLTS, HazardKind.BACK_FED, HazardKind.VA_OVERLOAD,
    HazardKind.CHATTER,
)  # fmt: skip
_WRONG = (
    HazardKind.RACE, HazardKind.BOTH_ENDS_ON_LINE, HazardKind.SERIES, HazardKind.WRONG_CLASS,
    HazardKind.REVERSED_POT, HazardKind.NO_COMMON_GROUND, HazardKind.SERIAL_CROSSED,
)  # fmt: skip
SEVERITY = {
    kind: Severity.DAMAGE if kind in _DAMAGE else Severity.WRONG if kind in _WRONG else Severity.DANGER
    for kind in HazardKind
}


@dataclass(frozen=True)
class Found:
    """A hazard in one state."""

    kind: HazardKind
    where: tuple[str, ...]
    values: tuple[tuple[str, float], ...] = ()
    """va, volts, rated where the kind has them"""


@dataclass(frozen=True)
class Consumer:
    """What takes volts between ends: a load, a coil, a winding, a motor."""

    part: WiredPart
    ends: tuple[str, ...]
    """Terminals; of a motor the common first"""
    rated_v: float
    va: float
    kind: str


def consumers(wiring: Wiring) -> tuple[Consumer, ...]:
    """Everything in a wiring that takes volts."""
    found = []
    for part in wiring.parts:
        spec = part.spec
        if isinstance(spec, Load):
            found.append(Consumer(part, (part.at("1"), part.at("2")), spec.volts, spec.va, "load"))
        elif isinstance(spec, Relay):
            found.append(Consumer(part, (part.at("A1"), part.at("A2")), spec.volts, spec.va, "coil"))
        elif isinstance(spec, Transformer):
            found.append(Consumer(part, (part.at("P1"), part.at("P2")), spec.primary_volts, 0.0, "primary"))
        elif isinstance(spec, Switch | Thermostat) and spec.power is not None:
            fed = (part.at(spec.power.terminals[0]), part.at(spec.power.terminals[1]))
            found.append(Consumer(part, fed, spec.power.volts, spec.power.va, "timer"))
        elif isinstance(spec, Motor):
            ends = (part.at(spec.common), *(part.at(t) for t in spec.taps))
            found.append(Consumer(part, ends, spec.volts, spec.va, "motor"))
        elif isinstance(spec, EcMotor | EcFan):
            found.append(Consumer(part, (part.at("L"), part.at("N")), spec.volts, spec.va, "ec"))
    return tuple(found)


def takes(live: Live, consumer: Consumer) -> tuple[float, str]:
    """The volts it works on, and the source they come from; none while it does not work."""
    part = consumer.part
    if consumer.kind == "motor":
        alive = live.taps_alive(part)
        if not alive:
            return 0.0, ""
        ends = [(part.at(tap), consumer.ends[0]) for tap in alive]
        best = max(ends, key=lambda e: live.volts(*e))
        return live.volts(*best), live.source(*best)
    volts = live.volts(*consumer.ends)
    return (volts, live.source(*consumer.ends)) if volts >= ENOUGH * consumer.rated_v else (0.0, "")


def transformer_va(live: Live, found: Sequence[Consumer]) -> dict[str, float]:
    """VA of all that is on at each transformer; those that carry nothing are left out."""
    total: dict[str, float] = {}
    supplies = {p.id for p in live.base.wiring.of(Kind.TRANSFORMER)}
    for consumer in found:
        volts, source = takes(live, consumer)
        if volts and source in supplies and consumer.va:
            total[source] = total.get(source, 0.0) + consumer.va
    return total


def passing_hazards(live: Live) -> list[Found]:
    """The hazards that matter also for a moment."""
    found = [
        Found(HazardKind.SHORT, tuple(sorted(s.terminals, key=live.base.index.__getitem__)))
        for s in live.shorts
    ]
    found = list(dict.fromkeys(found))
    wiring = live.base.wiring
    for part in wiring.of(Kind.MOTOR):
        found += _two_taps(live, part)
    found += _low_voltage(live)
    for terminal in _metal(wiring):
        if live.hot(terminal):
            found.append(Found(HazardKind.LIVE_METAL, (terminal,)))
    return found


def _metal(wiring: Wiring) -> list[str]:
    return [p.at("PE") for p in wiring.parts if p.metal and p.kind is not Kind.SUPPLY]


def _two_taps(live: Live, part: WiredPart) -> list[Found]:
    spec = part.as_a(Motor)
    if len(spec.taps) < 2:
        return []
    alive = live.taps_alive(part)
    if len(alive) > 1:
        return [Found(HazardKind.TWO_TAPS, tuple(part.at(t) for t in alive))]
    between = [
        t for a, b in combinations(spec.taps, 2) if live.volts(part.at(a), part.at(b)) > 0 for t in (a, b)
    ]
    if between:
        return [Found(HazardKind.TWO_TAPS, tuple(part.at(t) for t in spec.taps if t in between))]
    if alive:
        groups: dict[int, list[str]] = {}
        for tap in spec.taps:
            if tap not in alive:
                groups.setdefault(live.at(part.at(tap)), []).append(part.at(tap))
        return [Found(HazardKind.TWO_TAPS, tuple(g)) for g in groups.values() if len(g) > 1]
    return []


def _low_voltage(live: Live) -> list[Found]:
    found = []
    low: dict[int, list[str]] = {}
    for name, terminal in live.base.low:
        low.setdefault(live.at(terminal), []).append(name)
    for group, parts in low.items():
        for rail in live.rails.get(group, ()):
            if rail.mains and rail.role in ("line", "neutral"):
                found.append(Found(HazardKind.LOW_VOLTAGE_JOINED, (rail.terminal, *dict.fromkeys(parts))))
    return found


def standing_hazards(
    live: Live, everything: Sequence[Consumer], running: set[str], limits: set[str]
) -> list[Found]:
    """All hazards of a settled state, save what needs other rows or the way there.

    ``running``: parts that move air; ``limits``: doors and limits that are open.
    """
    wiring = live.base.wiring
    found = passing_hazards(live)
    found += _bonds(live)
    found += _guarded(live, everything, limits)
    for consumer in everything:
        found += _at_consumer(live, consumer)
        heats = isinstance(consumer.part.spec, Load) and consumer.part.spec.heats
        if heats and not running and takes(live, consumer)[0]:
            found.append(Found(HazardKind.HEAT_WITHOUT_AIR, (consumer.part.id,)))
    for part in wiring.of(Kind.MOTOR):
        found += _back_fed(live, part, everything)
    totals = transformer_va(live, everything)
    for part in wiring.of(Kind.TRANSFORMER):
        rated = part.spec.va if isinstance(part.spec, Transformer) else 0.0
        if totals.get(part.id, 0.0) > rated:
            found.append(
                Found(HazardKind.VA_OVERLOAD, (part.id,), (("va", totals[part.id]), ("rated", rated)))
            )
    found += _series(live, everything)
    for part in wiring.of(Kind.EC_MOTOR):
        found += _replacement(live, part)
    found += _strips(live)
    return list(dict.fromkeys(found))


def _bonds(live: Live) -> list[Found]:
    wiring, base = live.base.wiring, live.base
    found = []
    mains = [p for p in wiring.of(Kind.SUPPLY) if is_mains(p)]
    earths = {base.bonded[base.index[p.at("PE")]] for p in wiring.of(Kind.SUPPLY) if "PE" in p.terminals}
    if mains:
        for terminal in _metal(wiring):
            if base.bonded[base.index[terminal]] not in earths:
                found.append(Found(HazardKind.UNBONDED, (terminal,)))
            roles = {r.role for r in live.on(terminal) if r.mains}
            if "neutral" in roles and "earth" not in roles:
                found.append(Found(HazardKind.NEUTRAL_AS_BOND, (terminal,)))
    for part in mains:
        if (
            "N" in part.terminals
            and "PE" in part.terminals
            and live.at(part.at("N")) == live.at(part.at("PE"))
        ):
            found.append(Found(HazardKind.NEUTRAL_EARTHED, (part.at("N"), part.at("PE"))))
    return found


def _guarded(live: Live, everything: Sequence[Consumer], open_guards: set[str]) -> list[Found]:
    found: list[Found] = []
    if not open_guards:
        return found
    for part in live.base.wiring.parts:
        for guard, role in guards(live.base.wiring, part):
            if guard.id not in open_guards:
                continue
            if role is Role.DOOR and any(live.hot(part.at(t)) for t in part.terminals):
                found.append(Found(HazardKind.AHEAD_OF_DOOR, (part.id, guard.id)))
            if role is Role.LIMIT and any(c.part is part and takes(live, c)[0] for c in everything):
                found.append(Found(HazardKind.AHEAD_OF_LIMIT, (part.id, guard.id)))
    return found


def _at_consumer(live: Live, consumer: Consumer) -> list[Found]:
    part, ends = consumer.part, consumer.ends
    found = []
    pairs = [(ends[0], other) for other in ends[1:]]
    if consumer.kind != "motor":
        rated = live.asked_volts(part) if part.kind is Kind.EC_MOTOR else consumer.rated_v
        volts = live.volts(*ends)
    else:
        rated = consumer.rated_v
        volts = max(live.volts(*p) for p in pairs)
    if volts > 0 and not ENOUGH * rated <= volts <= TOO_MUCH * rated:
        found.append(Found(HazardKind.WRONG_VOLTS, (part.id,), (("volts", volts), ("rated", rated))))
    if consumer.kind in ("load", "motor") and any(_earth_return(live, a, b) for a, b in pairs):
        found.append(Found(HazardKind.EARTH_RETURN, (part.id,)))
    for a, b in pairs:
        if live.at(a) == live.at(b) and any(r.role == "line" for r in live.on(a)):
            found.append(Found(HazardKind.BOTH_ENDS_ON_LINE, (a, b)))
    return found


def _earth_return(live: Live, a: str, b: str) -> bool:
    for hot, other in ((a, b), (b, a)):
        lines = {r.source for r in live.on(hot) if r.role == "line"}
        there = {r.role for r in live.on(other) if r.source in lines}
        if "earth" in there and "neutral" not in there:
            return True
    return False


def _back_fed(live: Live, part: WiredPart, everything: Iterable[Consumer]) -> list[Found]:
    spec = part.as_a(Motor)
    alive = live.taps_alive(part)
    if not alive:
        return []
    found = []
    for tap in spec.taps:
        terminal = part.at(tap)
        group = live.at(terminal)
        if tap in alive or group in live.rails:
            continue
        others = [end for c in everything for end in c.ends if c.part is not part and live.at(end) == group]
        if others:
            mine = [part.at(t) for t in spec.taps if live.at(part.at(t)) == group]
            found.append(Found(HazardKind.BACK_FED, tuple(dict.fromkeys((*mine, *others)))))
    return list(dict.fromkeys(found))


def _series(live: Live, everything: Sequence[Consumer]) -> list[Found]:
    """Consumers one behind the other, by the current that would run through equal ones."""
    edges: list[tuple[int, int, WiredPart]] = []
    for consumer in everything:
        if consumer.kind == "motor" and live.taps_alive(consumer.part):
            continue
        a = live.at(consumer.ends[0])
        edges += [(a, live.at(b), consumer.part) for b in consumer.ends[1:] if live.at(b) != a]
    free = sorted({g for a, b, _ in edges for g in (a, b) if g not in live.rails})
    if not free:
        return []
    sources = sorted({r.source for standing in live.rails.values() for r in standing})
    found: dict[tuple[str, ...], None] = {}
    for source in sources:
        level = {
            g: next(r.level_v for r in standing if r.source == source)
            for g, standing in live.rails.items()
            if any(r.source == source for r in standing)
        }
        for parts in _in_series(edges, set(free), level):
            found[parts] = None
    return [Found(HazardKind.SERIES, parts) for parts in found]


def _in_series(
    edges: Sequence[tuple[int, int, WiredPart]], free: set[int], level: dict[int, float]
) -> list[tuple[str, ...]]:
    """For each island of free groups between two levels, the parts that current would run through."""
    groups = Groups[int]()
    for a, b, _ in edges:
        if a in free and b in free:
            groups.join(a, b)
    islands: dict[int, list[tuple[int, int, WiredPart]]] = {}
    for a, b, part in edges:
        ends = [g for g in (a, b) if g in free]
        others = [g for g in (a, b) if g not in free]
        if ends and all(g in level for g in others):
            islands.setdefault(groups.root(ends[0]), []).append((a, b, part))
    found = []
    for inside in islands.values():
        held = {g for a, b, _ in inside for g in (a, b) if g in level}
        if len({level[g] for g in held}) < 2:
            continue
        nodes = sorted({g for a, b, _ in inside for g in (a, b) if g in free})
        at = {g: i for i, g in enumerate(nodes)}
        matrix, drive = np.zeros((len(nodes), len(nodes))), np.zeros(len(nodes))
        # Unequal on purpose: a balanced bridge carries current in a real circuit.
        siemens = [1.0 + 0.37 * ((k * 0.618) % 1.0) for k in range(len(inside))]
        for (a, b, _), y in zip(inside, siemens, strict=True):
            for one, other in ((a, b), (b, a)):
                if one in at:
                    matrix[at[one], at[one]] += y
                    if other in at:
                        matrix[at[one], at[other]] -= y
                    else:
                        drive[at[one]] += y * level[other]
        volts = np.linalg.lstsq(matrix, drive, rcond=None)[0]
        across = [
            abs((level[a] if a in level else volts[at[a]]) - (level[b] if b in level else volts[at[b]]))
            for a, b, _ in inside
        ]
        scale = max(across)
        carried = sorted(
            {p.id for (_, _, p), v in zip(inside, across, strict=True) if v > 1e-9 * max(scale, 1.0)}
        )
        if len(carried) > 1:
            found.append(tuple(carried))
    return found


def _replacement(live: Live, part: WiredPart) -> list[Found]:
    spec = part.as_a(EcMotor)
    found = []
    run = live.run_alive(part) or tuple(r for r in spec.run if live.hot(part.at(r)))
    if run and not live.feed_right(part):
        found.append(Found(HazardKind.RUN_WITHOUT_FEED, tuple(part.at(r) for r in run)))
    _, named, _ = live.ec_motor(part)
    if named is not None and spec.wanted_class and named != spec.wanted_class:
        found.append(Found(HazardKind.WRONG_CLASS, (part.id,)))
    return found


def _strips(live: Live) -> list[Found]:
    """What is wrong between the control terminals of EC fans."""
    wiring = live.base.wiring
    fans = [(p, p.as_a(EcFan)) for p in wiring.of(Kind.EC_FAN)]
    found = []
    for fan, _ in fans:
        here, ground = live.at(fan.at("AI")), live.at(fan.at("GND"))
        near = [f for f, _ in fans if live.at(f.at("GND")) == ground]
        tens = {live.at(f.at("10V")) for f in near}
        foreign = {live.at(f.at(t)) for f, _ in fans if f not in near for t in ("10V", "GND")}
        pot = live.pot_at(fan)
        if pot is not None:
            ends = {g for t in ("A", "B") for g in live.led_to(live.at(pot.at(t)))}
            if live.led_to(live.at(pot.at("A"))) & tens:
                found.append(Found(HazardKind.REVERSED_POT, (fan.id, pot.id)))
            if ends & foreign and not ends & {ground, *tens}:
                found.append(Found(HazardKind.NO_COMMON_GROUND, (fan.id,)))
        sources = [s.at("GND") for s in wiring.of(Kind.SENSOR) if live.at(s.at("OUT")) == here]
        sources += [
            f.at("GND") for f, spec in fans if f is not fan and spec.output and live.at(f.at("AO")) == here
        ]
        if any(live.at(g) != ground for g in sources):
            found.append(Found(HazardKind.NO_COMMON_GROUND, (fan.id,)))
    for (one, mine), (other, theirs) in combinations(fans, 2):
        if mine.serial and theirs.serial:
            a, b = (live.at(one.at(t)) for t in mine.serial)
            c, d = (live.at(other.at(t)) for t in theirs.serial)
            if a == d or b == c:
                found.append(Found(HazardKind.SERIAL_CROSSED, (one.id, other.id)))
    return found


def open_guards(wiring: Wiring, inputs: dict[str, str | bool]) -> set[str]:
    """Doors and limits that stand open in a row."""
    return {
        p.id
        for p in wiring.of(Kind.SWITCH)
        if isinstance(p.spec, Switch) and p.spec.role in (Role.DOOR, Role.LIMIT) and inputs[p.id] == "open"
    }


def feeds_mains(part: WiredPart) -> bool:
    """Whether a supply gives L–N mains, of which a part may have its neutral switched."""
    return isinstance(part.spec, Supply) and "N" in part.spec.names and is_mains(part)
