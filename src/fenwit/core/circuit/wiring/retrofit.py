"""An EC motor in place of a tapped one: how it is joined, which class and inputs, and what every call then does."""

from __future__ import annotations

from collections import deque
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import combinations, permutations

from fenwit.core.circuit.wiring.dead import contacts
from fenwit.core.circuit.wiring.hazards import consumers, open_guards
from fenwit.core.circuit.wiring.live import ENOUGH, TOO_MUCH, Live
from fenwit.core.circuit.wiring.parts import (
    EcMotor,
    Joined,
    Kind,
    Motor,
    Replace,
    Role,
    SizeClass,
    Supply,
    Switch,
    Thermostat,
    WiredPart,
    Wiring,
    low_terminals,
)
from fenwit.core.circuit.wiring.table import Table, truth_table
from fenwit.core.errors import InputError

_CLASS_SHARE, _NEAR = 0.95, 0.05
MAX_ASSIGNMENTS = 20_000


@dataclass(frozen=True)
class PlannedRow:
    """What one call does after the exchange."""

    inputs: Mapping[str, str | bool]
    state: str
    rpm: float
    wanted_rpm: float
    verdict: str
    """ok, still, always-on, circulates-only, wrong-speed"""


@dataclass(frozen=True)
class Failure:
    """What the exchange cannot do: of a row, of a place, or of the whole."""

    kind: str
    row: int | None = None
    where: tuple[str, ...] = ()


@dataclass(frozen=True)
class Retrofit:
    """The plan of an exchange, and what it does."""

    size: str
    run_leads: tuple[str, ...]
    joined: tuple[str, ...]
    """What the old taps were joined to: one net from now on"""
    feed_net: str
    inputs: tuple[tuple[str, str], ...]
    """Speed inputs and the thermostat terminals they are joined to"""
    capped: tuple[str, ...]
    link: str | None
    """joined, open, or None where the kit has none or none fits"""
    rows: tuple[PlannedRow, ...]
    failures: tuple[Failure, ...]
    wiring: Wiring
    table: Table


def retrofit(wiring: Wiring, table: Table) -> Retrofit:
    """Plan the exchange that a wiring asks for, and solve it.

    Parameters
    ----------
    wiring : Wiring
        The circuit as it is, with what is wanted [-]
    table : Table
        Its truth table [-]

    Returns
    -------
    Retrofit
        How to join it, and every row with its verdict [-]

    Raises
    ------
    InputError
        A wiring that asks for no exchange, or too many ways to join the inputs.
    """
    plan = wiring.replace
    if plan is None:
        raise InputError("replace", None, "what is to take the place of what", "is needed here")
    old = wiring.by_id[plan.motor]
    kit, tapped = plan.kit.as_a(EcMotor), old.as_a(Motor)
    failures: list[Failure] = []
    joined, shared = _joined(wiring, old, tapped)
    if shared:
        failures.append(Failure("shared-output", where=shared))
    feed = _feed(wiring, table, old, tapped)
    if not feed:
        failures.append(Failure("no-constant-feed"))
    fitting = sorted((c for c in kit.classes if c.watts is not None), key=lambda c: c.watts or 0.0)
    enough = [c for c in fitting if (c.watts or 0.0) >= _CLASS_SHARE * plan.old_watts]
    chosen = enough[0] if enough else fitting[-1] if fitting else kit.classes[0] if kit.classes else None
    if not enough:
        failures.append(Failure("under-class"))
    link = _link(wiring, kit)
    if kit.link is not None and link is None:
        failures.append(Failure("no-link"))
    wanted = [_wanted(wiring, plan, kit, row.inputs) for row in table.rows]
    inputs = _inputs(wiring, table, plan, kit, wanted)
    run_leads = chosen.run if chosen else ()
    capped = tuple(
        [r for r in kit.run if r not in run_leads] + [i for i in kit.inputs if i not in dict(inputs)]
    )
    after = _exchanged(wiring, plan, chosen, joined, feed, inputs, link)
    solved = truth_table(after)
    rows = []
    fastest = max((s.rpm for s in kit.speeds), default=kit.circulate_rpm) or 1.0
    for number, row in enumerate(solved.rows):
        state = row.rest.parts[plan.kit.id]
        rpm = float(state.get("rpm") or 0.0)
        verdict = _verdict(str(state["state"]), rpm, wanted[number], fastest)
        rows.append(PlannedRow(row.inputs, str(state["state"]), rpm, wanted[number], verdict))
        if verdict != "ok":
            failures.append(Failure(verdict, row=number))
    failures += [Failure(h.kind.value, where=h.where) for h in solved.hazards]
    return Retrofit(
        chosen.name if chosen else "", run_leads, joined, feed, inputs, capped, link, tuple(rows), tuple(failures),
        after, solved,
    )  # fmt: skip


def _verdict(state: str, rpm: float, wanted: float, fastest: float) -> str:
    if abs(rpm - wanted) <= _NEAR * fastest:
        return "ok"
    if wanted == 0:
        return "always-on"
    if rpm == 0:
        return "still"
    return "circulates-only" if state == "circulate" else "wrong-speed"


def _joined(wiring: Wiring, old: WiredPart, spec: Motor) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """What the taps stood with, and what of it takes current itself and would be fed with the motor."""
    mine = {old.at(t) for t in old.terminals}
    nets = dict(wiring.nets)
    found: dict[str, None] = {}
    for tap in spec.taps:
        net = wiring.net_at.get(old.at(tap))
        if net is not None:
            found |= dict.fromkeys(t for t in nets[net] if t not in mine)
    ends = {e for c in consumers(wiring) if c.part is not old for e in c.ends}
    return tuple(found), tuple(t for t in found if t in ends)


def _feed(wiring: Wiring, table: Table, old: WiredPart, spec: Motor) -> str:
    """The net on the line exactly while all doors are shut; of several the one behind most fuses and contacts."""
    doors = {p.id for p in wiring.of(Kind.SWITCH) if isinstance(p.spec, Switch) and p.spec.role is Role.DOOR}
    taps = {wiring.net_at.get(old.at(t)) for t in spec.taps}
    low = {wiring.net_at.get(t) for p in wiring.parts for t in low_terminals(p)}
    fitting = []
    for name, joined in wiring.nets:
        if not joined or name in taps or name in low:
            continue
        if all(
            (name in row.rest.alive) == (not doors & open_guards(wiring, dict(row.inputs)))
            for row in table.rows
        ):
            fitting.append(name)
    depth = _depths(wiring)
    return max(fitting, key=lambda n: depth.get(n, 0), default="")


def _depths(wiring: Wiring) -> dict[str, int]:
    """Fuses and contacts between the supply's lines and each net, by the shortest way."""
    edges: dict[str, list[str]] = {}
    pairs = [(c.a, c.b) for p in wiring.parts for made in contacts(p) for c in made]
    pairs += [(p.at(a), p.at(b)) for p in wiring.parts if isinstance(p.spec, Joined) for a, b in p.spec.links]
    for a, b in pairs:
        one, other = wiring.net_at.get(a), wiring.net_at.get(b)
        if one and other:
            edges.setdefault(one, []).append(other)
            edges.setdefault(other, []).append(one)
    lines = [
        wiring.net_at.get(p.at(n))
        for p in wiring.of(Kind.SUPPLY)
        if isinstance(p.spec, Supply)
        for n in p.spec.names
        if n in ("L", "L1", "L2", "+")
    ]
    depth = {net: 0 for net in lines if net}
    todo = deque(depth)
    while todo:
        here = todo.popleft()
        for to in edges.get(here, ()):
            if to not in depth:
                depth[to] = depth[here] + 1
                todo.append(to)
    return depth


def _link(wiring: Wiring, kit: EcMotor) -> str | None:
    spec = wiring.supply.spec if wiring.supply else None
    if kit.link is None or not isinstance(spec, Supply):
        return None
    for name, asked in (("joined", kit.link.joined_volts), ("open", kit.link.open_volts)):
        if ENOUGH * asked <= spec.volts <= TOO_MUCH * asked:
            return name
    return None


def _wanted(wiring: Wiring, plan: Replace, kit: EcMotor, inputs: Mapping[str, str | bool]) -> float:
    """Speed wanted in a row; none with a door open [rpm]"""
    opened = open_guards(wiring, dict(inputs))
    if any(isinstance(p.spec, Switch) and p.spec.role is Role.DOOR for p in wiring.parts if p.id in opened):
        return 0.0
    for duty in plan.wanted:
        if all(inputs[name] == value for name, value in duty.when):
            return kit.circulate_rpm if duty.rpm is None else duty.rpm
    return kit.circulate_rpm if plan.idle_circulates else 0.0


def _inputs(
    wiring: Wiring, table: Table, plan: Replace, kit: EcMotor, wanted: Sequence[float]
) -> tuple[tuple[str, str], ...]:
    """The thermostat terminals that the speed inputs are joined to, by the least miss over all calls for air."""
    common = next((p.at("S2") for p in wiring.of(Kind.TRANSFORMER)), "")
    outputs = [
        part.at(o)
        for part in wiring.of(Kind.THERMOSTAT)
        if isinstance(part.spec, Thermostat)
        for o in dict.fromkeys(o for _, outs in part.spec.calls for o in outs)
    ]
    if not common or not kit.inputs:
        return ()
    count = sum(
        _ways(len(kit.inputs), len(outputs), k) for k in range(min(len(kit.inputs), len(outputs)) + 1)
    )
    if count > MAX_ASSIGNMENTS:
        raise InputError(
            "replace.kit.speeds", count, f"up to {MAX_ASSIGNMENTS} ways to join them", "too many inputs"
        )
    fastest = max((s.rpm for s in kit.speeds), default=1.0) or 1.0
    cases: dict[tuple[frozenset[str], bool, float], int] = {}
    for number, row in enumerate(table.rows):
        if wanted[number] <= 0 or open_guards(wiring, dict(row.inputs)):
            continue
        live: Live = table.walked.live(table.walked.rows[number].first)
        on = frozenset(o for o in outputs if live.volts(o, common) >= ENOUGH * kit.signal_volts)
        runs = bool(live.taps_alive(wiring.by_id[plan.motor]))
        key = (on, runs, wanted[number])
        cases[key] = cases.get(key, 0) + 1

    def miss(chosen: Mapping[str, str]) -> float:
        total = 0.0
        for (on, runs, rpm), times in cases.items():
            asked = frozenset(i for i, o in chosen.items() if o in on)
            total += times * abs((_speed(kit, asked) if runs else 0.0) - rpm) / fastest
        return total

    best: tuple[float, int, tuple[int, ...], tuple[int, ...]] | None = None
    kept: tuple[tuple[str, str], ...] = ()
    for inputs, found in _assignments(kit.inputs, outputs):
        chosen = dict(zip(inputs, found, strict=True))
        rank = (
            round(miss(chosen), 9), len(chosen), tuple(kit.inputs.index(i) for i in inputs),
            tuple(outputs.index(o) for o in found),
        )  # fmt: skip
        if best is None or rank < best:
            best, kept = rank, tuple(chosen.items())
    return kept


def _ways(inputs: int, outputs: int, used: int) -> int:
    ways = 1
    for k in range(used):
        ways = ways * (inputs - k) * (outputs - k) // (k + 1)
    return ways


def _assignments(
    inputs: Sequence[str], outputs: Sequence[str]
) -> Iterator[tuple[tuple[str, ...], tuple[str, ...]]]:
    for count in range(min(len(inputs), len(outputs)) + 1):
        for used in combinations(inputs, count):
            for found in permutations(outputs, count):
                yield used, found


def _speed(kit: EcMotor, asked: frozenset[str]) -> float:
    exact = [s for s in kit.speeds if asked and frozenset(s.inputs) == asked]
    within = [s for s in kit.speeds if s.inputs and set(s.inputs) <= asked]
    if exact:
        return exact[0].rpm
    return max((s.rpm for s in within), default=kit.circulate_rpm)


def _exchanged(
    wiring: Wiring, plan: Replace, chosen: SizeClass | None, joined: Iterable[str], feed: str,
    inputs: Iterable[tuple[str, str]], link: str | None,
) -> Wiring:  # fmt: skip
    old, kit = wiring.by_id[plan.motor], plan.kit
    tapped, of_kit = old.as_a(Motor), kit.as_a(EcMotor)
    spec = replace(
        of_kit, wanted_class=chosen.name if chosen else "",
        classes=tuple(replace(c, watts=None) for c in of_kit.classes),
    )  # fmt: skip
    new = replace(kit, spec=spec, place=old.place, behind=old.behind, note=old.note or kit.note)
    taps = {wiring.net_at.get(old.at(t)) for t in tapped.taps}
    mine = {old.at(t) for t in old.terminals}
    nets: dict[str, list[str]] = {
        name: [t for t in inside if t not in mine] for name, inside in wiring.nets if name not in taps
    }

    def join(net: str | None, terminal: str) -> None:
        if net is not None and net in nets:
            nets[net].append(terminal)

    join(wiring.net_at.get(old.at(tapped.common)), new.at("N"))
    if new.metal:
        join(wiring.net_at.get(old.at("PE")), new.at("PE"))
    join(feed or None, new.at("L"))
    common = next((p.at("S2") for p in wiring.of(Kind.TRANSFORMER)), "")
    at_common = wiring.net_at.get(common)
    if at_common is None and common:
        nets[_free_name(nets, "speed common")] = [common, new.at(spec.speed_common)]
    join(at_common, new.at(spec.speed_common))
    for name, output in inputs:
        at = wiring.net_at.get(output)
        if at is None:
            nets[_free_name(nets, output.partition(".")[2].lower())] = [output, new.at(name)]
        join(at, new.at(name))
    run = [*joined, *(new.at(r) for r in (chosen.run if chosen else ()))]
    if run:
        nets[_free_name(nets, "run")] = run
    if link == "joined" and spec.link is not None:
        nets[_free_name(nets, "link")] = [new.at(t) for t in spec.link.terminals]
    return Wiring(
        wiring.title, tuple(new if p is old else p for p in wiring.parts),
        tuple((n, tuple(inside)) for n, inside in nets.items() if inside), wiring.places, wiring.cables,
        wiring.exclusive, tuple(e for e in wiring.expects if e.part != old.id),
        None if wiring.test_points is None
        else tuple(p for p in wiring.test_points if not mine & set(p)), wiring.meter,
    )  # fmt: skip


def _free_name(nets: Mapping[str, object], wanted: str) -> str:
    name, k = wanted, 2
    while name in nets:
        name, k = f"{wanted} {k}", k + 1
    return name
