"""A card and its answer as they are shown: every number with its unit, the copy as text, a line over one field."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from fenwit.core import quantity as q
from fenwit.core.desk import Answer, Asked, Card, Field, FieldKind, Value, Warned, read, work
from fenwit.core.desk.cards import CARDS
from fenwit.core.desk.sends import SendShown, sends_of
from fenwit.core.desk.typed import PLAIN, SCALED, SHARE, UNITS, dimension_of, label_of, shown
from fenwit.core.errors import InputError
from fenwit.core.quantity import Dimension


@dataclass(frozen=True)
class FieldShown:
    """A field as it is laid out."""

    name: str
    label: str
    words: str
    kind: FieldKind
    unit: str
    example: str
    """How it is typed [-]"""
    default: str
    """What it is where nothing is typed; empty: nothing [-]"""
    choices: tuple[str, ...]


@dataclass(frozen=True)
class CardShown:
    """A card as it lies on the Desk."""

    key: str
    name: str
    group: str
    relation: str
    validity: str
    words: str
    """By which it is found too [-]"""
    fields: tuple[FieldShown, ...]
    start: Mapping[str, str]


@dataclass(frozen=True)
class FoundShown:
    """One answer."""

    name: str
    label: str
    text: str
    band: str
    """Where nine in ten lie; empty where nothing is said of it [-]"""
    typed: str
    """As it is typed into a field; empty for what is no number [-]"""
    solved: bool
    """Asked for: the field that was left blank [-]"""


@dataclass(frozen=True)
class Rows:
    """Several answers of a kind, as a table."""

    heads: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]


@dataclass(frozen=True)
class SweptCurve:
    """One answer over the field that is dragged; None where there is none."""

    name: str
    label: str
    unit: str
    found: tuple[float | None, ...]


@dataclass(frozen=True)
class Swept:
    """Answers over one field."""

    over: str
    label: str
    unit: str
    logarithmic: bool
    now: float
    at: tuple[float, ...]
    curves: tuple[SweptCurve, ...]


@dataclass(frozen=True)
class AnswerShown:
    """What a card found, ready to be read."""

    card: str
    given: Mapping[str, str]
    """As typed, or as it was dragged [-]"""
    found: tuple[FoundShown, ...]
    tables: tuple[Rows, ...]
    assumed: Mapping[str, str]
    """Fields left blank that took their default, or followed from others [-]"""
    relation: str
    warnings: tuple[Warned, ...]
    swept: Swept | None
    draggable: tuple[str, ...]
    """Fields that a line can be drawn over [-]"""
    copy: str
    said: str
    """In one line [-]"""
    sends: tuple[SendShown, ...] = ()
    """What of it may go into a job [-]"""


def cards_shown() -> tuple[CardShown, ...]:
    """Every card, as it lies on the Desk."""
    return tuple(
        CardShown(
            c.key,
            c.name,
            c.group.value,
            c.relation,
            c.validity,
            c.words,
            tuple(_field(f) for f in c.fields),
            dict(c.start),
        )
        for c in CARDS.values()
    )


def _field(f: Field) -> FieldShown:
    takes = f.takes
    unit = "" if takes in (PLAIN, SHARE, SCALED) else takes.unit
    example = f.takes.example if f.kind in (FieldKind.NUMBER, FieldKind.NUMBERS, FieldKind.WHOLE) else ""
    return FieldShown(f.name, f.shown, f.words, f.kind, unit, example, _value_text(f, f.default), f.choices)


def _value_text(f: Field, value: Value | None) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, str):
        return value
    if isinstance(value, tuple):
        return ", ".join(_typed(f.takes, v) for v in value)
    return _typed(f.takes, value)


def _typed(dimension: Dimension, value: float) -> str:
    """A number as a field takes it back."""
    if dimension in (PLAIN, SHARE):
        return f"{value:.6g}"
    if dimension.prefixes and dimension not in (SCALED, UNITS["rpm"]) and 1e-15 <= abs(value) < 1e12:
        text = q.show(value, dimension, 5).replace("−", "-").replace("µ", "u")
        if float(text.split(" ")[0]):
            return text.replace(" ", "") if " " in text else text
    return f"{value:.6g}{' ' + dimension.unit if dimension.unit else ''}"


@dataclass(frozen=True)
class Sweep:
    """Which field is dragged, over what, and where it is now."""

    over: str
    low: float | None = None
    high: float | None = None
    at: float | None = None
    """None: where it was typed [any]"""


def answer_shown(key: str, given: Mapping[str, str], sweep: Sweep | None = None) -> AnswerShown:
    """Answer a card for the screen.

    Parameters
    ----------
    key : str
        Which card [-]
    given : mapping of str to str
        Its fields as typed; a blank one is not given [-]
    sweep : Sweep or None
        Field that is dragged [-]

    Returns
    -------
    AnswerShown
        The answer [-]

    Raises
    ------
    InputError
        What the card refuses.
    """
    given = {name: text for name, text in given.items() if text.strip()}
    asked = read(key, given, bare_scales=True)
    if sweep is not None and sweep.at is not None:
        spec = asked.card.field(sweep.over)
        given = {**given, sweep.over: _typed(spec.takes, spec.check(sweep.at))}
        asked = read(key, given, bare_scales=True)
    found, used = work(asked.card, asked.values)
    bands: Mapping[str, tuple[float, float]] = {}
    if asked.halves:
        from fenwit.core.desk.spread import bands as spread

        bands = spread(asked)
    shown_answers = tuple(
        _found(name, value, bands.get(name), name in found.solved)
        for name, value in found.outputs.items()
        if not isinstance(value, list)
    )
    # What was asked for stands first.
    ordered = tuple(sorted(shown_answers, key=lambda f: not f.solved))
    assumed = {
        name: _value_text(asked.card.field(name), value) for name, value in used.items() if name not in given
    }
    draggable = tuple(
        name
        for name, value in asked.values.items()
        if isinstance(value, float | int)
        and not isinstance(value, bool)
        and asked.card.plots
        and _can_move(asked, name)
    )
    swept = _swept(asked, sweep, found, draggable)
    said = "; ".join(f"{f.label} {f.text}" for f in ordered[:3] if f.text)
    texts = {f.name: f.typed for f in ordered} | assumed | given
    sends = sends_of(key, texts, used, {name: label_of(name) for name in texts})
    return AnswerShown(
        key, given, ordered, _tables(found), assumed, found.relation, found.warnings, swept, draggable,
        _copy(asked.card, given, assumed, ordered, found), said, sends,
    )  # fmt: skip


def _can_move(asked: Asked, name: str) -> bool:
    spec = asked.card.field(name)
    ends = spec.high - spec.low <= _OWN_ENDS
    return spec.kind in (FieldKind.NUMBER, FieldKind.WHOLE) and (ends or bool(asked.values[name]))


def _found(name: str, value: Any, band: tuple[float, float] | None, solved: bool) -> FoundShown:
    if isinstance(value, bool):
        return FoundShown(name, label_of(name), "yes" if value else "no", "", "", solved)
    if isinstance(value, int | float):
        text = shown(name, float(value))
        # Ends that read alike say nothing beside the value.
        ends = () if band is None else tuple(dict.fromkeys(shown(name, v, 3) for v in band))
        sure = " to ".join(ends) if len(ends) == 2 else ""
        return FoundShown(name, label_of(name), text, sure, _typed(dimension_of(name), float(value)), solved)
    return FoundShown(name, label_of(name), "none" if value is None else str(value), "", "", solved)


def _tables(found: Answer) -> tuple[Rows, ...]:
    tables = []
    for value in found.outputs.values():
        if isinstance(value, list) and value:
            heads = tuple(value[0])
            rows = tuple(
                tuple(shown(h, float(v)) if isinstance(v, float | int) else str(v) for h, v in row.items())
                for row in value[:12]
            )
            tables.append(Rows(tuple(label_of(h) for h in heads), rows))
    return tuple(tables)


_REACH, _OWN_ENDS = 4.0, 400.0
"""How far below and above a value a line is drawn, where the field has no ends of its own that lie so close [-]"""


def _swept(asked: Asked, sweep: Sweep | None, found: Answer, draggable: tuple[str, ...]) -> Swept | None:
    if sweep is None or sweep.over not in draggable:
        return None
    from fenwit.core.desk.spread import line, wide_of

    spec = asked.card.field(sweep.over)
    value = asked.values[sweep.over]
    assert isinstance(value, float | int)
    now = float(value)
    ends = (
        (spec.low, spec.high)
        if spec.high - spec.low <= _OWN_ENDS
        else tuple(sorted((now / _REACH, now * _REACH)))
    )
    low = ends[0] if sweep.low is None else sweep.low
    high = ends[1] if sweep.high is None else sweep.high
    if not (math.isfinite(low) and math.isfinite(high)) or low >= high:
        raise InputError("over", low, "a lower end below the upper one", "nothing can be drawn between these")
    wanted = [name for name in asked.card.plots if name in found.outputs and found.outputs[name] is not None][
        :2
    ]
    if not wanted:
        return None
    lines = line(asked, sweep.over, wanted, low, high)
    at = lines[0].at
    return Swept(
        sweep.over, spec.shown, _unit(sweep.over), wide_of(at[0], at[-1]), now, at,
        tuple(SweptCurve(li.of, label_of(li.of), _unit(li.of), li.found) for li in lines),
    )  # fmt: skip


def _unit(name: str) -> str:
    takes = dimension_of(name)
    return "" if takes in (PLAIN, SHARE) else takes.unit


def _copy(
    card: Card,
    given: Mapping[str, str],
    assumed: Mapping[str, str],
    found: tuple[FoundShown, ...],
    answer: Answer,
) -> str:
    """As text, for a mail or a notebook."""
    lines = [card.name]
    lines += [f"  {card.field(n).shown}: {t}" for n, t in given.items()]
    lines += [f"  {card.field(n).shown}: {t} (taken)" for n, t in assumed.items() if t]
    lines += [f"  {f.label} = {f.text}{f' ({f.band})' if f.band else ''}" for f in found]
    lines.append(f"  {answer.relation}")
    lines += [f"  ! {w.text}" for w in answer.warnings]
    return "\n".join(lines)
