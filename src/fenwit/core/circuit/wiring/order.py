"""In which order to wire, over which cable and core: bonds first, the supply last."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from enum import StrEnum
from itertools import pairwise

from fenwit.core.circuit.groups import Groups
from fenwit.core.circuit.wiring.dead import Contact, contacts
from fenwit.core.circuit.wiring.parts import (
    Cable,
    Joined,
    Kind,
    Supply,
    Thermostat,
    Wiring,
    low_terminals,
)
from fenwit.core.errors import InputError


class Purpose(StrEnum):
    """What a net is for, which also is the stage of the work it belongs to."""

    BOND = "bond"
    NEUTRAL = "neutral"
    SWITCHED = "switched"
    LINE = "line"
    CONTROL = "control"


SUPPLY = "supply"
"""The last stage: wires that end on a supply terminal"""
_STAGES = (*Purpose, SUPPLY)
_LAST = (Purpose.BOND, Purpose.NEUTRAL, Purpose.SWITCHED, Purpose.CONTROL, Purpose.LINE)
EARTH_CORE = "earth"


@dataclass(frozen=True)
class Colours:
    """Colours of insulation by what they are for; a region's usage, never an identification."""

    name: str
    neutral: tuple[str, ...]
    line: tuple[str, ...]
    switched: tuple[str, ...]
    thermostat: Mapping[str, tuple[str, ...]]
    sleeved: tuple[str, ...]
    """Colours that stand for a neutral somewhere: sleeved where they carry anything else of the mains"""


EUROPE = Colours(
    "Europe",
    ("blue",),
    ("brown",),
    ("black", "grey"),
    {"R": ("red",), "W": ("white",), "Y": ("yellow",), "G": ("green",), "C": ("blue",)},
    ("blue", "white"),
)
NORTH_AMERICA = Colours(
    "North America",
    ("white",),
    ("black",),
    ("red", "blue"),
    {"R": ("red",), "W": ("white",), "Y": ("yellow",), "G": ("green",), "C": ("blue",)},
    ("blue", "white"),
)
REGIONS = {"europe": EUROPE, "north-america": NORTH_AMERICA}


def read_colours(text: str) -> Colours:
    """Colours of insulation as somebody typed them.

    Parameters
    ----------
    text : str
        A region, or uses with their colours like ``neutral=blue; line=brown; switched=black,grey; R=red`` [-]

    Returns
    -------
    Colours
        What is not named stays as in Europe [-]

    Raises
    ------
    InputError
        Neither a region nor such a list.
    """
    tidy = text.strip().lower()
    if tidy in REGIONS:
        return REGIONS[tidy]
    found: dict[str, tuple[str, ...]] = {}
    for piece in (p for p in text.split(";") if p.strip()):
        use, equals, names = piece.partition("=")
        colours = tuple(c.strip() for c in names.split(",") if c.strip())
        if not equals or not use.strip() or not colours:
            allowed = f"{', '.join(REGIONS)}, or neutral=…; line=…; switched=…,…; R=…"
            raise InputError(
                "colours", piece.strip()[:40], allowed, "neither a region nor a use with its colours"
            )
        found[use.strip()] = colours
    if not found:
        raise InputError("colours", text[:40], ", ".join(REGIONS), "no such region")
    plain = {u: found.pop(u) for u in ("neutral", "line", "switched", "sleeved") if u in found}
    neutral = plain.get("neutral", EUROPE.neutral)
    return Colours(
        "as set", neutral, plain.get("line", EUROPE.line), plain.get("switched", EUROPE.switched),
        {**EUROPE.thermostat, **found}, plain.get("sleeved", tuple(dict.fromkeys((*EUROPE.sleeved, *neutral)))),
    )  # fmt: skip


@dataclass(frozen=True)
class Connection:
    """One wire, or one core of a cable."""

    number: int
    start: str
    end: str
    net: str
    purpose: Purpose
    stage: str
    cable: str = ""
    core: str = ""
    sleeve: bool = False


@dataclass(frozen=True)
class CableUse:
    """What each core of a cable carries."""

    cable: Cable
    used: tuple[tuple[str, str], ...]
    """Core and net"""
    spare: tuple[str, ...]
    earth: str
    """joined, loose, or none"""


@dataclass(frozen=True)
class Problem:
    """What the cables cannot do."""

    kind: str
    """no-cable, too-few-cores, earth-not-joined"""
    net: str = ""
    cable: str = ""
    to: str = ""


@dataclass(frozen=True)
class Work:
    """The wiring as work: connections in order, cables, and what is missing."""

    connections: tuple[Connection, ...]
    cables: tuple[CableUse, ...]
    problems: tuple[Problem, ...]


@dataclass
class _Dealing:
    wiring: Wiring
    colours: Colours
    free: dict[str, list[str]]
    used: dict[str, list[tuple[str, str]]]
    earths: set[str] = field(default_factory=set)
    made: list[Connection] = field(default_factory=list)
    problems: list[Problem] = field(default_factory=list)


def purposes(wiring: Wiring) -> dict[str, Purpose]:
    """What each net is for."""
    low = {t for part in wiring.parts for t in low_terminals(part)}
    mains = [p for p in wiring.of(Kind.SUPPLY) if isinstance(p.spec, Supply)]
    lines = {
        p.at(n)
        for p in mains
        if isinstance(p.spec, Supply)
        for n in p.spec.names
        if n in ("L", "L1", "L2", "+")
    }
    neutrals = {
        p.at(n) for p in mains if isinstance(p.spec, Supply) for n in p.spec.names if n in ("N", "-", "−")
    }
    groups = Groups[str]()

    def node(terminal: str) -> str:
        return f"/{wiring.net_at[terminal]}" if terminal in wiring.net_at else terminal

    joined = [c for part in wiring.parts for made in contacts(part) for c in made]
    for part in wiring.parts:
        if isinstance(part.spec, Joined):
            joined += [Contact(part.id, part.at(a), part.at(b)) for a, b in part.spec.links]
    for c in joined:
        groups.join(node(c.a), node(c.b))
    at_line = {groups.root(node(t)) for t in lines}
    at_neutral = {groups.root(node(t)) for t in neutrals}
    found = {}
    for name, inside in wiring.nets:
        here = groups.root(f"/{name}")
        if any(t.endswith(".PE") for t in inside):
            found[name] = Purpose.BOND
        elif any(t in low for t in inside):
            found[name] = Purpose.CONTROL
        elif any(t in neutrals for t in inside) or (here in at_neutral and here not in at_line):
            found[name] = Purpose.NEUTRAL
        elif any(t in lines for t in inside):
            found[name] = Purpose.LINE
        else:
            found[name] = Purpose.SWITCHED
    return found


def work_order(wiring: Wiring, colours: Colours = EUROPE) -> Work:
    """Connections in the order of the work, dealt to cables and cores.

    Parameters
    ----------
    wiring : Wiring
        With places and cables; without, every wire lies in one place [-]
    colours : Colours, optional
        What each colour is wished for [-]

    Returns
    -------
    Work
        Bond, neutral, switched, line, control, and the supply's own terminals last [-]
    """
    purpose = purposes(wiring)
    dealing = _Dealing(
        wiring, colours, {c.id: list(c.cores) for c in wiring.cables}, {c.id: [] for c in wiring.cables}
    )
    stats = {t for p in wiring.of(Kind.THERMOSTAT) for t in map(p.at, p.terminals)}

    def turn(entry: tuple[str, tuple[str, ...]]) -> int:
        name, joined = entry
        order = (Purpose.BOND, Purpose.NEUTRAL, Purpose.LINE, Purpose.SWITCHED)
        if purpose[name] in order:
            return order.index(purpose[name])
        return 4 if any(t in stats for t in joined) else 5

    for name, joined in sorted(wiring.nets, key=turn):
        _lay(dealing, name, joined, purpose[name])
    _join_earths(dealing, purpose)
    supplies = {p.at(t) for p in wiring.of(Kind.SUPPLY) for t in p.terminals}

    def staged(c: Connection) -> Connection:
        ends = c.start in supplies or c.end in supplies
        return replace(c, stage=SUPPLY if ends else c.purpose.value)

    staged_all = [staged(c) for c in dealing.made]
    ranked = sorted(
        staged_all,
        key=lambda c: (_STAGES.index(c.stage), _LAST.index(c.purpose) if c.stage == SUPPLY else 0),
    )
    uses = tuple(
        CableUse(
            c, tuple(dealing.used[c.id]), tuple(dealing.free[c.id]),
            "none" if not c.earth else "joined" if c.id in dealing.earths else "loose",
        )
        for c in wiring.cables
    )  # fmt: skip
    loose = [Problem("earth-not-joined", cable=u.cable.id) for u in uses if u.earth == "loose"]
    return Work(
        tuple(replace(c, number=i + 1) for i, c in enumerate(ranked)),
        uses,
        (*dealing.problems, *loose),
    )


def _lay(dealing: _Dealing, name: str, joined: Sequence[str], purpose: Purpose) -> None:
    """Chain a net's terminals in each place, then carry it from place to place."""
    wiring = dealing.wiring
    here: dict[str, list[str]] = {}
    for terminal in joined:
        here.setdefault(wiring.place_of[terminal.partition(".")[0]], []).append(terminal)
    if wiring.places:
        here = {p: here[p] for p in wiring.places if p in here} | here
    for inside in here.values():
        for a, b in pairwise(inside):
            dealing.made.append(Connection(0, a, b, name, purpose, ""))
    if len(here) < 2:
        return
    first = next(iter(here))
    served = {first: here[first][0]}
    waiting = [p for p in here if p != first]
    while waiting:
        paths = [(place, _way(dealing, set(served), place, purpose)) for place in waiting]
        reachable = [(place, way) for place, way in paths if way is not None]
        if not reachable:
            for place in waiting:
                dealing.problems.append(
                    Problem(_why_not(dealing, set(served), place, purpose), net=name, to=place)
                )
            return
        place, way = min(reachable, key=lambda at: len(at[1] or ()))
        waiting.remove(place)
        for cable, start, end in way or ():
            target = here[end][0] if end in here else f"{end}:{name}"
            if end in served:
                target = served[end]
            core = _deal(dealing, cable, name, joined, purpose)
            sleeve = core in dealing.colours.sleeved and purpose in (Purpose.LINE, Purpose.SWITCHED)
            dealing.made.append(
                Connection(0, served[start], target, name, purpose, "", cable.id, core, sleeve)
            )
            served[end] = target
            if end in waiting:
                waiting.remove(end)


def _serves(dealing: _Dealing, cable: Cable, purpose: Purpose, full: bool = False) -> bool:
    """Whether a cable may carry a net, and has a core for it."""
    if purpose is Purpose.BOND:
        return cable.earth
    wanted = "control" if purpose is Purpose.CONTROL else "mains"
    return cable.purpose == wanted and (full or bool(dealing.free[cable.id]))


def _way(
    dealing: _Dealing, served: set[str], to: str, purpose: Purpose, full: bool = False
) -> tuple[tuple[Cable, str, str], ...] | None:
    """The shortest way from any place served over cables that can carry it, the first listed of equal ones."""
    reached: dict[str, tuple[tuple[Cable, str, str], ...]] = dict.fromkeys(served, ())
    edge = [p for p in dealing.wiring.places if p in served]
    while edge:
        onward: list[str] = []
        for place in edge:
            for cable in dealing.wiring.cables:
                if place not in (cable.start, cable.end) or not _serves(dealing, cable, purpose, full):
                    continue
                other = cable.end if place == cable.start else cable.start
                if other not in reached:
                    reached[other] = (*reached[place], (cable, place, other))
                    onward.append(other)
        if to in reached:
            return reached[to]
        edge = onward
    return None


def _why_not(dealing: _Dealing, served: set[str], to: str, purpose: Purpose) -> str:
    return "too-few-cores" if _way(dealing, served, to, purpose, full=True) is not None else "no-cable"


def _deal(dealing: _Dealing, cable: Cable, name: str, joined: Sequence[str], purpose: Purpose) -> str:
    if purpose is Purpose.BOND:
        dealing.earths.add(cable.id)
        return EARTH_CORE
    free, colours = dealing.free[cable.id], dealing.colours
    wished: tuple[str, ...] = ()
    kept = colours.neutral if purpose is Purpose.CONTROL else colours.sleeved
    if purpose is Purpose.NEUTRAL:
        wished, kept = (*colours.neutral, *colours.sleeved), ()
    elif purpose is Purpose.LINE:
        wished = colours.line
    elif purpose is Purpose.SWITCHED:
        wished = colours.switched
    else:
        for part in dealing.wiring.of(Kind.THERMOSTAT):
            if isinstance(part.spec, Thermostat):
                for terminal in joined:
                    if terminal.startswith(f"{part.id}."):
                        wished += colours.thermostat.get(terminal.partition(".")[2], ())
    core = next((c for c in wished if c in free), "")
    if not core:
        plain = [c for c in free if c not in kept]
        core = (plain or free)[0]
    free.remove(core)
    dealing.used[cable.id].append((core, name))
    return core


def _join_earths(dealing: _Dealing, purpose: Mapping[str, Purpose]) -> None:
    """Every earth conductor is joined at both ends, also where no metal is served."""
    wiring = dealing.wiring
    bond = next(
        (n for n, joined in wiring.nets if purpose[n] is Purpose.BOND and wiring.earth in joined),
        next((n for n, _ in wiring.nets if purpose[n] is Purpose.BOND), ""),
    )
    if not bond:
        return
    at: dict[str, str] = {}
    for terminal in dict(wiring.nets)[bond]:
        at.setdefault(wiring.place_of[terminal.partition(".")[0]], terminal)
    for made in dealing.made:
        if made.net == bond:
            for end in (made.start, made.end):
                if ":" in end and "." not in end:
                    at.setdefault(end.rpartition(":")[0], end)
    grown = True
    while grown:
        grown = False
        for cable in wiring.cables:
            if not cable.earth or cable.id in dealing.earths:
                continue
            ends = [p for p in (cable.start, cable.end) if p in at]
            if not ends:
                continue
            start = ends[0]
            end = cable.end if start == cable.start else cable.start
            at.setdefault(end, f"{end}:{bond}")
            dealing.earths.add(cable.id)
            dealing.made.append(
                Connection(0, at[start], at[end], bond, Purpose.BOND, "", cable.id, EARTH_CORE)
            )
            grown = True
