"""Choose: every way of regulating that is sized here, side by side at the same speeds, in the order of the wishes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from typing import Any

from fenwit.core import quantity as q
from fenwit.core.frame.asked import Asked, as_by
from fenwit.core.frame.shown import Live
from fenwit.core.frame.steps import aims, mark, paths
from fenwit.core.job.state import JobState
from fenwit.core.job.steps import FULL_SHARE, Shown, check_wanted, shown
from fenwit.core.job.subject import Lacking, Refused
from fenwit.core.memory import remembered
from fenwit.core.methods import REGULATIONS
from fenwit.core.methods.seam import Compared
from fenwit.core.motor.kinds import METHOD_NAMES, Answer, Method, answer_for
from fenwit.core.size.merits import PRICES, WISHES, Choosing, Merits, Sums, Wish, sums_of, worst
from fenwit.core.size.ranking import Group, Split, ranked


class RowState(StrEnum):
    """Whether a way may be taken."""

    OPEN = "open"
    CONDITION = "condition"
    """It may be on a condition, which is said"""
    PARTLY = "partly"
    """Some wanted speed it does not give"""
    REFUSED = "refused"
    LACKING = "lacking"
    """Too little is known for it yet"""
    LATER = "later"
    """Being solved: it is asked again"""


@dataclass(frozen=True)
class WattsShown:
    """Mains watts of one step, split by where they go."""

    step: int
    text: str
    shaft_w: float
    motor_w: float
    regulator_w: float
    regulator_text: str
    amps_text: str


@dataclass(frozen=True)
class MeritShown:
    """One merit of a row: its words, and its size over that of all rows for a bar."""

    key: Wish
    text: str
    share: float | None
    """Of the most in its column, or of the span of it; None where it is not known [-]"""
    worst_step: int | None
    """Where it is worst; None where it holds for all [-]"""


@dataclass(frozen=True)
class HarmonicShown:
    """One harmonic of the line current."""

    order: int
    text: str
    share: float
    filtered_text: str


@dataclass(frozen=True)
class HarmonicsShown:
    """Harmonics of one step."""

    step: int
    thd_text: str
    filtered_text: str
    rows: tuple[HarmonicShown, ...]


@dataclass(frozen=True)
class FailingShown:
    """What happens when a part gives way."""

    part: str
    open_words: str
    short_words: str
    danger: bool


@dataclass(frozen=True)
class ChooseRow:
    """One way of regulating this fan."""

    key: str
    method: Method
    name: str
    state: RowState
    words: str
    """Why it is refused, on which condition it may be, or what is missing [-]"""
    live: Live | None = None
    """What staff and path show for it [-]"""
    watts: tuple[WattsShown, ...] = ()
    merits: tuple[MeritShown, ...] = ()
    stepless: bool = False
    hottest: str = ""
    built: str = ""
    evenness: str = ""
    jump: str = ""
    slowest: str = ""
    hum: str = ""
    """The regulator's own, in words [-]"""
    unmodelled: str = ""
    note: str = ""
    failures: tuple[FailingShown, ...] = ()
    harmonics: tuple[HarmonicsShown, ...] = ()
    pieces: str = ""


@dataclass(frozen=True)
class GroupShown:
    """Rows that stay together, and why they stand behind those ahead."""

    keys: tuple[str, ...]
    words: str
    """Why it stands here; empty for the first [-]"""
    alike: str
    """In what its rows are alike; empty where it is one row [-]"""


@dataclass(frozen=True)
class WishShown:
    """A wish with its words and its band."""

    key: Wish
    name: str
    merit: str
    band_text: str
    usual: bool
    """Whether its band is as usual [-]"""


@dataclass(frozen=True)
class PriceShown:
    """A line of the price list."""

    key: str
    name: str
    cost: float
    litres: float
    usual: bool


@dataclass(frozen=True)
class ChooseShown:
    """Everything Choose shows."""

    rows: tuple[ChooseRow, ...]
    """In the order of the wishes; refused ones last [-]"""
    groups: tuple[GroupShown, ...]
    wishes: tuple[WishShown, ...]
    """Those that count, weightiest first, then the others [-]"""
    counted: int
    """How many of them count [-]"""
    hours: tuple[str, ...]
    days: str
    prices: tuple[PriceShown, ...]
    most_w: float
    """Longest bar of watts [W]"""
    full: Shown | None
    pending: bool
    """Some row is still being solved [-]"""
    note: str = ""


@dataclass(frozen=True, eq=False)
class _Found:
    """A row as it was solved."""

    key: str
    job: Asked
    row: Compared
    condition: str

    @property
    def merits(self) -> Merits:
        return self.row.merits


def choose(state: JobState, *, quick: bool = False, glance: bool = False) -> ChooseShown:
    """Compare every way of regulating at the wanted speeds of a job.

    Parameters
    ----------
    state : JobState
        The job [-]
    quick : bool
        Leave out for now what takes long on a new fan [-]
    glance : bool
        It will be asked again in a moment: a method may answer at a glance [-]

    Returns
    -------
    ChooseShown
        Rows in order; with `note` and no rows where no speed is wanted yet [-]

    Raises
    ------
    InputError
        A wanted speed that cannot be.
    """
    choosing = state.sizing.choosing
    hours = choosing.hours(len(state.wanted_rpm))
    base = ChooseShown(
        rows=(),
        groups=(),
        wishes=_wishes(choosing),
        counted=len(choosing.wishes),
        hours=tuple(f"{h:.3g}" for h in hours),
        days=f"{choosing.days_a_year:g}",
        prices=_prices(choosing),
        most_w=0.0,
        full=None,
        pending=False,
    )
    if state.kind is None or not state.wanted_rpm:
        missing = "what kind of motor it is" if state.kind is None else "speeds, set in Aim"
        return replace(base, note=f"Needs {missing}.")
    found: list[_Found] = []
    others: list[ChooseRow] = []
    full: Shown | None = None
    for method in Method:
        room = REGULATIONS.get(method)
        answer = answer_for(state.kind, method)
        if answer is None:
            continue
        name = METHOD_NAMES[method]
        if room is None:
            if answer.answer is Answer.REFUSED:
                others.append(ChooseRow(method.value, method, name, RowState.REFUSED, answer.reason))
            continue
        subject = room.subject(as_by(state, method))
        if isinstance(subject, Refused):
            others.append(ChooseRow(method.value, method, name, RowState.REFUSED, subject.reason))
            continue
        if isinstance(subject, Lacking):
            words = "needs " + ", ".join(m.text for m in subject.missing)
            others.append(ChooseRow(method.value, method, name, RowState.LACKING, words))
            continue
        job = Asked(as_by(replace(state, design=None, proofs=()), method), room, subject)
        full = shown(job.full_rpm, subject.full_band, "rpm")
        check_wanted(state.wanted_rpm, job.full_rpm)
        if quick and room.slow:
            others.append(ChooseRow(method.value, method, name, RowState.LATER, "being solved"))
            continue
        condition = answer.reason if answer.answer is Answer.CONDITIONS else ""
        design = state.design if state.design is not None and state.design.method is method else None
        for row in _compared(job, design, glance):
            key = f"{method.value}:{row.merits.variant}" if row.merits.variant else method.value
            if barred := _barred(job, row.merits):
                others.append(ChooseRow(key, method, row.merits.name, RowState.REFUSED, barred))
            else:
                found.append(_Found(key, job, row, condition))
    sums = {f.key: sums_of(f.merits, choosing) for f in found}
    groups = ranked(
        found, choosing, lambda f, wish: worst(f.merits, sums[f.key], wish), lambda f: f.merits.name
    )
    spans = {wish: _span([worst(f.merits, sums[f.key], wish) for f in found]) for wish in Wish}
    rows = [_row(f, sums[f.key], spans) for group in groups for f in group.members]
    order = {RowState.LATER: 0, RowState.LACKING: 1, RowState.REFUSED: 2}
    return replace(
        base,
        rows=(*rows, *sorted(others, key=lambda r: order[r.state])),
        groups=tuple(_group(g) for g in groups),
        most_w=max((s.input_power_w for f in found for s in f.merits.steps if s), default=0.0),
        full=full,
        pending=any(r.state is RowState.LATER for r in others),
    )


def compared_by(state: JobState, method: Method) -> Merits | None:
    """What one way is compared by, its first row; None where it is refused or too little is known.

    Parameters
    ----------
    state : JobState
        The job; its design counts where it is by that method [-]
    method : Method
        The way [-]

    Returns
    -------
    Merits or None
        As on its row of Choose [-]
    """
    room = REGULATIONS.get(method)
    if room is None or not state.wanted_rpm:
        return None
    subject = room.subject(as_by(state, method))
    if isinstance(subject, Refused | Lacking):
        return None
    job = Asked(as_by(replace(state, design=None, proofs=()), method), room, subject)
    design = state.design if state.design is not None and state.design.method is method else None
    rows = _compared(job, design, False)
    return rows[0].merits if rows else None


def _barred(job: Asked, merits: Merits) -> str:
    """Why a way gives none of the speeds below full, or nothing that bears it can be built; empty where it can."""
    slow = [
        w for w, n in zip(merits.unmet, job.state.wanted_rpm, strict=True) if n < FULL_SHARE * job.full_rpm
    ]
    return slow[0] if slow and all(slow) else merits.unbuilt


def _compared(job: Asked, design: Any, glance: bool) -> tuple[Compared, ...]:
    # What the fan is used for and what parts cost changes no row, only their order.
    state = replace(job.state, design=design, sizing=replace(job.state.sizing, choosing=Choosing()))
    return _remembered(job.regulation.key, job.subject, state, glance)


@remembered
def _remembered(method: Method, subject: Any, state: JobState, glance: bool) -> tuple[Compared, ...]:
    return REGULATIONS[method].compared(subject, state, glance)


# ---------------------------------------------------------------- rows in words


def _span(values: Sequence[float | None]) -> tuple[float, float]:
    known = [v for v in values if v is not None]
    return (min(known), max(known)) if known else (0.0, 0.0)


def _row(found: _Found, sums: Sums, spans: dict[Wish, tuple[float, float]]) -> ChooseRow:
    merits, job = found.merits, found.job
    unmet = [w for w in merits.unmet if w]
    state = RowState.PARTLY if unmet else RowState.CONDITION if found.condition else RowState.OPEN
    words = unmet[0] if unmet else found.condition
    steps = found.row.steps
    return ChooseRow(
        key=found.key,
        method=job.regulation.key,
        name=merits.name,
        state=state,
        words=words,
        live=Live(
            marks=tuple(mark(job, s) for s in steps),
            paths=paths(job, steps),
            zones=job.regulation.zones(job.subject, None),
            aims=aims(job, steps),
            method=job.regulation.key,
        ),
        watts=tuple(
            WattsShown(
                s.number,
                f"{q.plain(s.input_power_w, 3)} W",
                s.shaft_w,
                s.motor_loss_w,
                s.regulator_w,
                f"{q.plain(s.regulator_w, 2)} W",
                q.show(s.line_current_a, q.CURRENT),
            )
            for s in merits.steps
            if s is not None
        ),
        merits=tuple(_merit(merits, sums, wish, spans[wish]) for wish in Wish),
        stepless=merits.stepless,
        hottest=merits.hottest,
        built=merits.built_text,
        evenness="" if sums.evenness is None else f"steps as built uneven by {100 * sums.evenness:.0f} %",
        jump=_jump(merits),
        slowest="" if merits.slowest_rpm is None else f"{merits.slowest_rpm:.0f} rpm",
        hum=merits.regulator_hum,
        unmodelled=merits.unmodelled,
        note=merits.note,
        failures=tuple(FailingShown(f.part, f.open_words, f.short_words, f.danger) for f in merits.failures),
        harmonics=tuple(
            HarmonicsShown(
                s.number,
                f"{100 * s.thd:.0f} %",
                f"{100 * s.thd_filtered:.0f} %",
                tuple(
                    HarmonicShown(
                        h.order,
                        q.show(h.current_a, q.CURRENT, 3),
                        h.share,
                        q.show(h.filtered_a, q.CURRENT, 3),
                    )
                    for h in s.harmonics
                ),
            )
            for s in merits.steps
            if s is not None and s.harmonics
        ),
        pieces=", ".join(
            f"{n} × {PRICES[piece].name}" if n > 1 else PRICES[piece].name for piece, n in merits.pieces
        ),
    )


def _jump(merits: Merits) -> str:
    if merits.jump_rpm >= 1:
        way = "comes on" if merits.stepless else "from rest"
        return f"{way} {merits.jump_rpm:.0f} rpm above where it can be turned back to"
    return "no jump"


def _merit(merits: Merits, sums: Sums, wish: Wish, span: tuple[float, float]) -> MeritShown:
    value = worst(merits, sums, wish)
    low, high = span
    share: float | None = None
    if value is not None:
        # Levels have no zero: they are drawn over their own span, everything else from nothing.
        least = low - 3.0 if wish is Wish.HUM else 0.0
        share = (value - least) / (high - least) if high > least else 0.0
    return MeritShown(wish, value_text(wish, value), share, _worst_step(merits, wish, value))


_OF_STEP = {
    Wish.HUM: "hum_db",
    Wish.WATTS: "input_power_w",
    Wish.REGULATOR: "regulator_w",
    Wish.RISE: "rise",
    Wish.THD: "thd",
    Wish.POWER_FACTOR: "power_factor",
    Wish.START: "start",
}


def _worst_step(merits: Merits, wish: Wish, value: float | None) -> int | None:
    name = _OF_STEP.get(wish)
    steps = [s for s in merits.steps if s is not None and not s.full]
    if name is None or value is None or not steps:
        return None
    own = {s.number: getattr(s, name) for s in steps}
    if max(own.values()) == min(own.values()):
        return None
    return next(number for number, v in own.items() if v == value)


def value_text(wish: Wish, value: float | None) -> str:
    """A merit as it is read, no finer than the model knows it."""
    if value is None:
        return "unknown"
    match wish:
        case Wish.HUM:
            return f"{q.signed(value, 0)} dB"
        case Wish.THD:
            return "none" if value < 5e-4 else f"{100 * value:.0f} %"
        case Wish.POWER_FACTOR:
            return f"{value:.2f}"
        case Wish.RISE | Wish.START:
            return f"{min(value, 99.0):.2f} ×" if value < 10 else f"{min(value, 99.0):.0f} ×"
        case Wish.PARTS:
            return f"{value:.0f}"
        case Wish.COST:
            return f"{value:.0f}"
        case Wish.BOX:
            return f"{q.plain(value, 2)} l"
        case Wish.SLOWEST:
            return f"{value:.0f} rpm"
        case Wish.ENERGY:
            return f"{value:.0f} kWh"
        case _:
            return f"{q.plain(value, 2)} W"


def _group(group: Group[_Found]) -> GroupShown:
    alike = ", ".join(WISHES[w].merit for w in group.alike) if len(group.members) > 1 else ""
    return GroupShown(
        tuple(f.key for f in group.members),
        "" if group.split is None else _split_words(group.split),
        f"alike in {alike}" if alike else "",
    )


def _split_words(split: Split) -> str:
    facts = WISHES[split.wish]
    band = value_text(split.wish, split.band).removeprefix("+")
    here = value_text(split.wish, split.here)
    ahead = value_text(split.wish, split.best)
    return f"{facts.name}: {facts.merit} {here} here, {ahead} ahead; alike within {band}"


def _wishes(choosing: Choosing) -> tuple[WishShown, ...]:
    rest = [w for w in WISHES if w not in choosing.wishes]
    found = []
    for wish in (*choosing.wishes, *rest):
        facts, band = WISHES[wish], choosing.band(wish)
        text = f"{100 * band:g} %" if facts.relative or wish is Wish.THD else f"{band:g} {facts.unit}".strip()
        found.append(WishShown(wish, facts.name, facts.merit, text, band == facts.band))
    return tuple(found)


def _prices(choosing: Choosing) -> tuple[PriceShown, ...]:
    own = dict(choosing.prices)
    return tuple(
        PriceShown(
            piece.value,
            usual.name,
            round(own.get(piece, usual).cost, 2),
            round(own.get(piece, usual).litres, 3),
            piece not in own,
        )
        for piece, usual in PRICES.items()
    )
