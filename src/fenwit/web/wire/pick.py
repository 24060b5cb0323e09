"""The pick list: what a job is built of, drawer by drawer, and what of it is still to buy."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from pydantic import BaseModel

from fenwit.core.circuit.wiring.needs import Need, Sort, needs
from fenwit.core.circuit.wiring.of_regulator import SWITCH, plain_name
from fenwit.core.circuit.wiring.parts import Wiring
from fenwit.core.methods.seam import PartRow, PartRowKind
from fenwit.core.prove.verdict import Verdict
from fenwit.core.size.classes import CLASSES, Duty, PartClass
from fenwit.store import readings, shelf
from fenwit.web.wire.reads import ReadShown, read_of, reading_key

ALIKE = 0.01
"""Values within so much of each other are the same part [-]"""
_SORT = {
    PartRowKind.CAPACITOR: Sort.CAPACITOR, PartRowKind.RESISTOR: Sort.RESISTOR, PartRowKind.BLEED: Sort.RESISTOR,
    PartRowKind.LIMITER: Sort.RESISTOR, PartRowKind.FUSE: Sort.FUSE, PartRowKind.SWITCH: Sort.SWITCH,
}  # fmt: skip


@dataclass(frozen=True)
class Pick:
    """Some alike parts, and where they lie."""

    names: tuple[str, ...]
    words: str
    part: shelf.ShelfPart | None
    mine: int
    """Pieces of it put aside for this job, for this line [-]"""
    free: int
    """Pieces that could still be put aside for this line [-]"""

    @property
    def to_take(self) -> int:
        """Pieces that lie ready and are not put aside yet [-]"""
        return max(0, min(len(self.names) - self.mine, self.free))

    @property
    def to_buy(self) -> int:
        """Pieces that lie nowhere [-]"""
        return len(self.names) - self.mine - self.to_take


class PickShown(BaseModel):
    """One line of the pick list."""

    names: str
    words: str
    count: int
    place: str
    """The drawer; empty where it lies on no shelf"""
    aside: int
    to_take: int
    to_buy: int
    read: ReadShown
    """The tick that what is to buy is at hand"""


class PickPage(BaseModel):
    """The pick list, by drawer, with what is on no shelf at its end."""

    lines: list[PickShown]
    to_take: int
    to_buy: int


@dataclass
class _Stock:
    """What of the shelf is left while lines are dealt."""

    parts: Sequence[shelf.ShelfPart]
    mine: dict[int, int]
    free: dict[int, int] = field(default_factory=dict)

    def __post_init__(self) -> None:
        self.free = {p.id: p.free for p in self.parts}

    def deal(self, names: tuple[str, ...], words: str, part: shelf.ShelfPart | None) -> Pick:
        """One line, with its pieces taken off what is left."""
        if part is None:
            return Pick(names, words, None, 0, 0)
        mine = min(len(names), self.mine.get(part.id, 0))
        self.mine[part.id] = self.mine.get(part.id, 0) - mine
        line = Pick(names, words, part, mine, self.free[part.id])
        self.free[part.id] -= line.to_take
        return line

    def like(
        self, duty: Duty, value: float | None, rating: float, part_class: str = ""
    ) -> shelf.ShelfPart | None:
        """The most plentiful of those that would do: of that value, rated as high; of a class, where one is named."""
        if value is None:
            return None
        alike = [
            p
            for p in self.parts
            if (facts := CLASSES[PartClass(p.class_)]).duty is duty
            and not facts.refused
            and part_class in ("", p.class_)
            and p.rating >= rating
            and min(abs(v - value) for v in (p.nominal, p.measured or p.nominal)) <= ALIKE * value
        ]
        return max(alike, key=lambda p: self.free[p.id] + self.mine.get(p.id, 0), default=None)


def picked(
    wiring: Wiring | None,
    rows: Sequence[PartRow],
    stock: Sequence[shelf.ShelfPart],
    aside: Sequence[shelf.Reservation],
) -> tuple[Pick, ...]:
    """The regulator's parts as sized, then what of the circuit is no part of it, by drawer."""
    left = _Stock(stock, {r.part_id: r.reserved for r in aside})
    by_id = {p.id: p for p in stock}
    wanted = needs(wiring) if wiring is not None else ()
    lines = []
    together: dict[tuple[str, int | None], tuple[PartRow, list[str]]] = {}
    for row in rows:
        if row.kind is not PartRowKind.WIRE:
            words = f"{row.role}: {row.text}" if row.kind is PartRowKind.OTHER else row.text
            together.setdefault((words, row.shelf_id), (row, []))[1].extend(row.pieces or (row.name,))
    for (words, part_id), (row, alike) in together.items():
        part = by_id.get(part_id) if part_id is not None else None
        if part is None and row.part_class:
            duty = CLASSES[PartClass(row.part_class)].duty
            part = left.like(duty, row.piece, row.rating, row.part_class)
        lines.append(left.deal(tuple(alike), words, part))
    covered = _covered(rows)
    for need in wanted:
        names = tuple(n for n in need.names if not _is_covered(need, covered.get(n)))
        if names:
            # Of a bare circuit only a fuse says all that it must be; what else bears, nobody has reckoned there.
            amps = need.value if need.sort is Sort.FUSE else None
            fuse = left.like(Duty.FUSE, amps, CLASSES[PartClass.FUSE].rated_v)
            lines.append(left.deal(names, need.words, fuse))
    return tuple(sorted(lines, key=lambda p: (p.part is None, p.part.place.casefold() if p.part else "")))


def _covered(rows: Sequence[PartRow]) -> dict[str, Sort]:
    """Names of a circuit's parts that stand for parts of the regulator."""
    found: dict[str, Sort] = {}
    for row in rows:
        sort: Sort = _SORT.get(row.kind, Sort.OTHER)
        found |= {plain_name(name): sort for name in (row.name, *row.pieces)}
        if sort is Sort.SWITCH:
            found[SWITCH] = Sort.SWITCH
    return found


def _is_covered(need: Need, sort: Sort | None) -> bool:
    """What is only a strip to the circuit may be any part of the regulator; a fuse is one in both."""
    return sort is not None and (sort is need.sort or Sort.OTHER in (sort, need.sort))


def have_key(pick: Pick) -> str:
    """Key of the tick that a part which lies on no shelf is at hand."""
    return reading_key("have", pick.names, pick.words)


def pick_page(picks: Sequence[Pick], newest: Mapping[str, readings.Reading]) -> PickPage:
    """The list as it is shown, with what was ticked."""
    reads = [read_of(have_key(p), newest, None) for p in picks]
    return PickPage(
        lines=[
            PickShown(
                names=" ".join(p.names), words=p.words, count=len(p.names),
                place=(p.part.place or "shelf") if p.part else "", aside=p.mine, to_take=p.to_take, to_buy=p.to_buy,
                read=read,
            )
            for p, read in zip(picks, reads, strict=True)
        ],
        to_take=sum(p.to_take for p in picks),
        to_buy=sum(p.to_buy for p, r in zip(picks, reads, strict=True) if r.verdict is not Verdict.PASS),
    )  # fmt: skip
