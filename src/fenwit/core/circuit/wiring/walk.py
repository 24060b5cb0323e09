"""From one state to the next, one contact at a time: where a circuit comes to rest, and what it passes on the way.

A micro-state says of every set of contacts at which position it stands, or between which two. Sets whose position is not
the one they are driven to move one stage; every order of moves is walked. Where the walk ends for good, in a state or in
a ring of them, is a terminal component of the graph of micro-states.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from itertools import product

from fenwit.core.circuit.wiring.document import variables
from fenwit.core.circuit.wiring.live import Base, Blade, Live
from fenwit.core.circuit.wiring.parts import EcFan, Kind, Relay, Switch, Thermostat, Wiring
from fenwit.core.errors import InputError

MAX_ROWS, MAX_STATES, MAX_RAW, MAX_SHOWN = 4096, 20_000, 1 << 18, 200
Micro = tuple[int, ...]


@dataclass
class Row:
    """One combination of calls and positions, and where it comes to rest."""

    number: int
    inputs: Mapping[str, str | bool]
    targets: tuple[int, ...]
    """Where each set of contacts is driven from outside; −1 where a coil decides"""
    first: Micro = ()
    """The state settled to from power-up"""
    ends: dict[Micro, frozenset[str]] = field(default_factory=dict)
    """Every settled state with the relays that keep moving in it; none where it is still"""
    waits: dict[tuple[int | None, Micro], float] = field(default_factory=dict)
    """Waiting states on the way into the row: the row it came from, and for how long [s]"""


@dataclass(frozen=True)
class Step:
    """A state passed on the way between two rows."""

    micro: Micro
    start: int | None
    """Row it came from; None at power-up"""
    end: int
    for_s: float


@dataclass(frozen=True)
class Raced:
    """A walk that may end in more than one state."""

    relays: tuple[str, ...]
    start: int | None
    end: int


class Walked:
    """All rows, walked from power-up and from every state by every move of one input."""

    def __init__(self, wiring: Wiring) -> None:
        self.base = base = Base(wiring)
        self.wiring = wiring
        self.rows = _rows(wiring, base)
        self.steps: dict[Step, None] = {}
        self.races: dict[Raced, None] = {}
        self.blown: dict[Micro, None] = {}
        self._drives = tuple(_Drive(base, b) for b in base.blades)
        self._next: dict[tuple[Micro, int], tuple[tuple[Micro, ...], float | None]] = {}
        self._by_inputs = {tuple(r.inputs.values()): r.number for r in self.rows}
        self._values = variables(wiring)
        self._relay = {p.id: p.spec for p in wiring.parts if isinstance(p.spec, Relay)}
        self._of_relay = {
            name: tuple(i for i, b in enumerate(base.blades) if b.part == name) for name in self._relay
        }
        self._seen: dict[Micro, Live] = {}
        self._drivers: dict[int, tuple[bool, ...]] = {}
        self._go()

    def live(self, micro: Micro) -> Live:
        """The circuit in a micro-state."""
        found = self._seen.get(micro)
        if found is None:
            found = self._seen[micro] = self.base.live(self._closed(micro))
        return found

    def _closed(self, micro: Micro) -> int:
        closed = 0
        for i, stage in enumerate(micro):
            blade = self.base.blades[i]
            n = len(blade.masks)
            closed |= blade.masks[stage] if stage < n else blade.meets[stage - n]
        return closed

    def _driven(self, live: Live) -> tuple[bool, ...]:
        """For each set of contacts whether what drives it is there: a coil's volts, a timer's, a fan's mains."""
        found = self._drivers.get(live.closed)
        if found is None:
            found = self._drivers[live.closed] = tuple(d.driven(live) for d in self._drives)
        return found

    def way(self, start: int, end: int) -> list[tuple[Micro, float]]:
        """One way from where a row rests to where the next one does: every state on it, with how long it waits there.

        Of several contacts that could move the first listed does; a ring that never ends is shown once around.
        """
        row = self.rows[end]
        micro = self.rows[start].first
        passed: list[tuple[Micro, float]] = []
        seen: set[Micro] = set()
        while micro not in seen and len(passed) < MAX_SHOWN:
            seen.add(micro)
            onward, wait = self._after(micro, row)
            passed.append((micro, wait or 0.0))
            if not onward:
                break
            micro = onward[0]
        return passed

    def _go(self) -> None:
        todo: list[tuple[Micro, int]] = []
        known: set[tuple[Micro, int]] = set()
        for row in self.rows:
            start = tuple(d.at_rest(t) for d, t in zip(self._drives, row.targets, strict=True))
            ends = self._walk(start, None, row, todo, known)
            row.first = ends[0]
        moves = [self._neighbours(row) for row in self.rows]
        while todo:
            micro, number = todo.pop()
            for to in moves[number]:
                self._walk(micro, number, self.rows[to], todo, known)

    def _walk(
        self,
        start: Micro,
        came_from: int | None,
        row: Row,
        todo: list[tuple[Micro, int]],
        known: set[tuple[Micro, int]],
    ) -> list[Micro]:
        """Walk one row from a state; returns where it comes to rest, first of each component."""
        after: dict[Micro, tuple[Micro, ...]] = {}
        waits: list[tuple[Micro, float]] = []
        stack = [start]
        while stack:
            micro = stack.pop()
            if micro in after:
                continue
            if len(after) >= MAX_STATES:
                raise InputError(
                    "parts",
                    len(after),
                    f"up to {MAX_STATES} passing states",
                    "too many contacts move at once",
                )
            found, wait = self._after(micro, row)
            after[micro] = found
            if wait is not None:
                waits.append((micro, wait))
            stack.extend(m for m in found if m not in after)
        components = _terminal(after)
        resting = {micro for c in components for micro in c}
        stuck = {m for m in resting if self._is_blown_passing(m, row)}
        ends = []
        for component in components:
            if component[0] in stuck:
                continue
            relays = self._moving(component) if len(component) > 1 else frozenset[str]()
            first = component[0]
            ends.append(first)
            row.ends.setdefault(first, relays)
            if (first, row.number) not in known:
                known.add((first, row.number))
                if not relays and not self.live(first).shorts:
                    todo.append((first, row.number))
        waiting = dict(waits)
        for micro in after:
            if micro in resting and micro not in stuck:
                continue
            if came_from is not None and micro == start and micro not in waiting:
                continue
            self.steps[Step(micro, came_from, row.number, waiting.get(micro, 0.0))] = None
        for micro, wait in waits:
            row.waits.setdefault((came_from, micro), wait)
            if (micro, row.number) not in known:
                known.add((micro, row.number))
                todo.append((micro, row.number))
        if len(ends) > 1:
            self.races[Raced(self._apart(ends), came_from, row.number)] = None
        if not ends:  # only blown ends: the row stands where it blew
            first = next(iter(sorted(stuck)))
            self.blown[first] = None
            row.ends.setdefault(first, frozenset())
            ends.append(first)
        return ends

    def _after(self, micro: Micro, row: Row) -> tuple[tuple[Micro, ...], float | None]:
        """States one move away, and for how long it waits before the first of them."""
        key = (micro, row.number)
        found = self._next.get(key)
        if found is None:
            found = self._next[key] = self._moved(micro, row)
        return found

    def _moved(self, micro: Micro, row: Row) -> tuple[tuple[Micro, ...], float | None]:
        live = self.live(micro)
        if live.shorts:
            return (), None
        return self._moves(micro, row, live)

    def _moves(self, micro: Micro, row: Row, live: Live) -> tuple[tuple[Micro, ...], float | None]:
        free: list[Micro] = []
        late: list[Micro] = []
        wait: float | None = None
        driven = self._driven(live)
        for i, drive in enumerate(self._drives):
            stage = micro[i]
            target = drive.target(driven[i], row.targets[i])
            if stage == target:
                continue
            to = (*micro[:i], drive.toward(stage, target), *micro[i + 1 :])
            delay = drive.delay(target)
            # Once one contact of a late relay has left its place the armature is moving, and the rest follow.
            if delay > 0 and all(micro[k] == 1 - target for k in self._of_relay[drive.blade.part]):
                late.append(to)
                wait = delay if wait is None else min(wait, delay)
            else:
                free.append(to)
        return (tuple(free), None) if free else (tuple(late), wait)

    def _is_blown_passing(self, micro: Micro, row: Row) -> bool:
        """Whether a state with a short would have gone on, had nothing blown."""
        live = self.live(micro)
        return bool(live.shorts) and bool(self._moves(micro, row, live)[0])

    def _moving(self, component: list[Micro]) -> frozenset[str]:
        found = {b.part for i, b in enumerate(self.base.blades) if len({m[i] for m in component}) > 1}
        return frozenset(found)

    def _apart(self, ends: list[Micro]) -> tuple[str, ...]:
        relays = {b.part for i, b in enumerate(self.base.blades) if len({m[i] for m in ends}) > 1}
        return tuple(sorted(relays))

    def _neighbours(self, row: Row) -> list[int]:
        """Rows one move of one input away."""
        found, here = [], list(row.inputs.values())
        for k, (name, values) in enumerate(self._values.items()):
            at = values.index(here[k])
            to = {at - 1, at + 1}
            part = self.wiring.by_id.get(name)
            if (
                part is not None
                and isinstance(part.spec, Switch)
                and part.spec.wraps
                and at == len(values) - 1
            ):
                to.add(0)
            for j in sorted(to):
                if 0 <= j < len(values):
                    number = self._by_inputs.get((*here[:k], values[j], *here[k + 1 :]))
                    if number is not None:
                        found.append(number)
        return found


class _Drive:
    """What decides where one set of contacts wants to stand."""

    def __init__(self, base: Base, blade: Blade) -> None:
        self.blade = blade
        self.part = part = base.wiring.by_id[blade.part]
        self.n = len(blade.masks)
        self.spec = spec = part.spec
        self.power = spec.power if isinstance(spec, Switch | Thermostat) else None
        self.unpowered = spec.index(self.power.unpowered) if isinstance(spec, Switch) and self.power else 0

    def at_rest(self, outside: int) -> int:
        """Where it stands before power comes on."""
        if isinstance(self.spec, Relay | EcFan):
            return 0
        return self.unpowered if self.power else outside

    def driven(self, live: Live) -> bool:
        """Whether what drives it is there."""
        if isinstance(self.spec, Relay):
            return live.pulls(self.part)
        if isinstance(self.spec, EcFan):
            return live.fan_fed(self.part)
        return self.power is None or live.has_power(self.part, self.power)

    def target(self, driven: bool, outside: int) -> int:
        """Where it is driven to."""
        if isinstance(self.spec, Relay):
            return int(driven)
        if isinstance(self.spec, EcFan):
            return int(driven and not outside)
        return outside if driven else self.unpowered

    def toward(self, stage: int, target: int) -> int:
        """One stage nearer: from a position into the gap, from the gap to a position."""
        n = self.n
        if stage < n:
            return n + stage * n + target
        i, j = divmod(stage - n, n)
        return target if target in (i, j) else j

    def delay(self, target: int) -> float:
        """How long it waits before it moves [s]"""
        if not isinstance(self.spec, Relay):
            return 0.0
        return self.spec.delay_on_s if target else self.spec.delay_off_s


def _rows(wiring: Wiring, base: Base) -> list[Row]:
    values = variables(wiring)
    count = 1
    for v in values.values():
        count *= len(v)
        if count > MAX_RAW:
            raise InputError("parts", count, f"up to {MAX_ROWS} rows", "too many calls and positions")
    names = list(values)
    rows: list[Row] = []
    for combined in product(*values.values()):
        inputs = dict(zip(names, combined, strict=True))
        if any(sum(inputs[c] is True for c in group) > 1 for group in wiring.exclusive):
            continue
        if len(rows) >= MAX_ROWS:
            raise InputError(
                "parts", f"over {MAX_ROWS}", f"up to {MAX_ROWS} rows", "too many calls and positions"
            )
        rows.append(Row(len(rows), inputs, tuple(_outside(wiring, b, inputs) for b in base.blades)))
    return rows


def _outside(wiring: Wiring, blade: Blade, inputs: Mapping[str, str | bool]) -> int:
    part = wiring.by_id[blade.part]
    if isinstance(part.spec, Switch):
        return part.spec.index(str(inputs[part.id]))
    if part.kind is Kind.THERMOSTAT:
        return int(inputs[part.at(blade.call)] is True)
    if part.kind is Kind.EC_FAN:
        return int(inputs[part.at("fault")] is True)
    return -1


def _terminal(after: Mapping[Micro, Iterable[Micro]]) -> list[list[Micro]]:
    """Terminal components of a graph, in the order they are found; each begins with its smallest state."""
    order: dict[Micro, int] = {}
    low: dict[Micro, int] = {}
    on: dict[Micro, None] = {}
    found: list[list[Micro]] = []
    leads_out: set[Micro] = set()
    for root in after:
        if root in order:
            continue
        work = [(root, iter(after[root]))]
        order[root] = low[root] = len(order)
        on[root] = None
        while work:
            at, onward = work[-1]
            step = next(onward, None)
            if step is not None:
                if step not in order:
                    order[step] = low[step] = len(order)
                    on[step] = None
                    work.append((step, iter(after[step])))
                elif step in on:
                    low[at] = min(low[at], order[step])
                else:
                    leads_out.add(at)
                continue
            work.pop()
            if work:
                above = work[-1][0]
                low[above] = min(low[above], low[at])
            if low[at] == order[at]:
                component = []
                while True:
                    member, _ = on.popitem()
                    component.append(member)
                    if member == at:
                        break
                inside = set(component)
                if all(to in inside for member in component for to in after[member]):
                    found.append(sorted(component))
    return found
