"""The Desk: single calculations without a job. A card takes named values and answers, or refuses one of them.

What a card computes it asks of the same functions as the jobs. Cards import what is heavy only when they are asked, so
that a list of them costs nothing.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any

from fenwit.core.desk.typed import Typed, dimension_of, label_of, read_number, read_yes, with_shared_unit
from fenwit.core.errors import InputError
from fenwit.core.quantity import Dimension

FORMAT = "fenwit-desk/1"
Value = float | bool | str | tuple[float, ...]


class FieldKind(StrEnum):
    """What a field takes."""

    NUMBER = "number"
    NUMBERS = "numbers"
    WHOLE = "whole"
    CHOICE = "choice"
    YES = "yes"
    TEXT = "text"


class Group(StrEnum):
    """Where a card stands."""

    ELECTRIC = "electric"
    DIRECT = "DC fans"
    TIMERS = "timers and signals"
    CONTROL = "control voltage"
    AIR = "air and energy"
    HEAT = "heat"
    PARTS = "parts"


@dataclass(frozen=True)
class Field:
    """A value that a card takes."""

    name: str
    words: str = ""
    """What it is, where its name does not say so [-]"""
    kind: FieldKind = FieldKind.NUMBER
    default: Value | None = None
    choices: tuple[str, ...] = ()
    low: float = -1e300
    high: float = 1e300
    above: bool = False
    """Whether the low end itself is refused [-]"""
    label: str = ""
    dimension: Dimension | None = None

    @property
    def takes(self) -> Dimension:
        """Its unit [-]"""
        return self.dimension or dimension_of(self.name)

    @property
    def shown(self) -> str:
        """Its name in words [-]"""
        return self.label or label_of(self.name)

    @property
    def allowed(self) -> str:
        """What it may be, in words [-]"""
        unit = self.takes.unit
        if self.kind is FieldKind.CHOICE:
            return ", ".join(self.choices)
        if self.kind is FieldKind.YES:
            return "yes, no"
        low, high = self.low > -1e299, self.high < 1e299
        if low and high:
            return f"{'above ' if self.above else ''}{self.low:g} to {self.high:g} {unit}".rstrip()
        if low:
            return f"{'above' if self.above else 'at least'} {self.low:g} {unit}".rstrip()
        return self.takes.example

    def check(self, value: float) -> float:
        """The value, or InputError where the field does not take it."""
        if self.low < value <= self.high or (value == self.low and not self.above):
            return value
        reason = (
            "must be above zero" if self.above and self.low == 0 and value <= 0 else "outside what can be"
        )
        raise InputError(self.name, value, self.allowed, reason)


def positive(name: str, words: str = "", **more: Any) -> Field:
    """A number above 0."""
    return Field(name, words, low=0.0, above=True, **more)


def at_least_0(name: str, words: str = "", **more: Any) -> Field:
    """A number from 0."""
    return Field(name, words, low=0.0, **more)


def share(name: str, words: str = "", **more: Any) -> Field:
    """A number from 0 to 1."""
    return Field(name, words, low=0.0, high=1.0, **more)


def numbers(name: str, words: str = "", **more: Any) -> Field:
    """Numbers parted by commas."""
    return Field(name, words, FieldKind.NUMBERS, **more)


def count(name: str, words: str = "", **more: Any) -> Field:
    """A whole number, from 1 unless something else is said."""
    return Field(name, words, FieldKind.WHOLE, **{"low": 1.0, "high": 10_000.0, **more})


def choice(name: str, choices: Sequence[str], words: str = "", **more: Any) -> Field:
    """One of some words."""
    return Field(name, words, FieldKind.CHOICE, choices=tuple(choices), **more)


@dataclass(frozen=True)
class Warned:
    """Something to be minded about an answer."""

    code: str
    text: str


@dataclass(frozen=True)
class Answer:
    """What a card found."""

    outputs: Mapping[str, Any]
    solved: tuple[str, ...]
    relation: str
    """With the numbers in it [-]"""
    warnings: tuple[Warned, ...] = ()


@dataclass
class Call:
    """What one call of a card was given; it keeps which of it was used, so that nothing given is silently ignored."""

    card: Card
    given: Mapping[str, Value]
    used: dict[str, Value] = field(default_factory=dict)

    def has(self, name: str) -> bool:
        """Whether a field was given."""
        return name in self.given

    def maybe(self, name: str) -> float | None:
        """A number that may be left out."""
        return self.number(name) if self.has(name) or self.card.field(name).default is not None else None

    def number(self, name: str) -> float:
        """A number as given, or its default; raises InputError where there is neither."""
        value = self._take(name)
        assert isinstance(value, float | int)
        return float(value)

    def whole(self, name: str) -> int:
        """Likewise, a whole number."""
        return round(self.number(name))

    def numbers(self, name: str) -> tuple[float, ...]:
        """Likewise, several."""
        value = self._take(name)
        assert isinstance(value, tuple)
        return value

    def word(self, name: str) -> str:
        """Likewise, one of its choices or a text."""
        value = self._take(name)
        assert isinstance(value, str)
        return value

    def yes(self, name: str) -> bool:
        """Likewise, yes or no."""
        value = self._take(name)
        assert isinstance(value, bool)
        return value

    def assume(self, name: str, value: float) -> float:
        """A number as given, or what follows from others where it was left out."""
        if self.has(name):
            return self.number(name)
        self.used[name] = value
        return value

    def given_of(self, names: Sequence[str], wanted: int = 1) -> tuple[str, ...]:
        """Which of some fields were given: exactly so many. Raises InputError for fewer or more."""
        found = tuple(n for n in names if self.has(n))
        if len(found) > wanted:
            raise InputError(
                found[-1], self.given[found[-1]], f"{_counted(wanted)} of {', '.join(names)}",
                "one value too many: it follows from the others; leave the one blank that is to be computed",
            )  # fmt: skip
        if len(found) < wanted:
            missing = [n for n in names if n not in found]
            raise InputError(
                missing[-1] if len(missing) == 1 else missing[0], "", f"{_counted(wanted)} of {', '.join(names)}",
                "too little is given",
            )  # fmt: skip
        return found

    def blank_of(self, names: Sequence[str]) -> str:
        """Which one of some fields was left blank. Raises InputError for none or several."""
        found = self.given_of(names, len(names) - 1)
        return next(n for n in names if n not in found)

    def forbid(self, names: Sequence[str], reason: str) -> None:
        """Refuses fields that have no place beside the others."""
        for name in names:
            if self.has(name):
                raise InputError(name, self.given[name], "left blank", reason)

    def _take(self, name: str) -> Value:
        spec = self.card.field(name)
        value = self.given.get(name, spec.default)
        if value is None:
            raise InputError(name, "", spec.allowed, "this value is missing")
        self.used[name] = value
        return value


def _counted(number: int) -> str:
    return ("none", "one", "two", "three", "four")[number] if number < 5 else str(number)


@dataclass(frozen=True)
class Card:
    """One calculation."""

    key: str
    name: str
    group: Group
    relation: str
    """In symbols [-]"""
    fields: tuple[Field, ...]
    work: Callable[[Call], Answer]
    """Raises InputError naming the field [-]"""
    validity: str = ""
    """Where it holds [-]"""
    words: str = ""
    """More words by which it is found [-]"""
    start: Mapping[str, str] = field(default_factory=dict)
    """An example that is worked on sight [-]"""
    plots: tuple[str, ...] = ()
    """Answers that are worth a line over the field one drags, the best first [-]"""
    picked: tuple[str, ...] = ()
    """Answers that are picked from a list and have no band [-]"""

    def field(self, name: str) -> Field:
        """A field by its name. Raises InputError for one it has not."""
        for found in self.fields:
            if found.name == name:
                return found
        raise InputError(name, "", ", ".join(f.name for f in self.fields), "this card has no such field")


@dataclass(frozen=True)
class Asked:
    """A call as it was read."""

    card: Card
    values: Mapping[str, Value]
    halves: Mapping[str, float]
    """Of the numbers that are not exact [-]"""


def card_of(key: str) -> Card:
    """A card by its key. Raises InputError for one there is not."""
    from fenwit.core.desk.cards import CARDS

    card = CARDS.get(key)
    if card is None:
        raise InputError("card", key, ", ".join(CARDS), "no such card")
    return card


def read(key: str, given: Mapping[str, str], bare_scales: bool = False) -> Asked:
    """A call from texts.

    Parameters
    ----------
    key : str
        Which card [-]
    given : mapping of str to str
        Its fields as typed [-]
    bare_scales : bool
        Whether a bare number means what people write it for, not the unit in the field's name [-]

    Returns
    -------
    Asked
        Values with how sure they are [-]

    Raises
    ------
    InputError
        An unknown card or field, or text that a field does not take.
    """
    card = card_of(key)
    values: dict[str, Value] = {}
    halves: dict[str, float] = {}
    for name, text in given.items():
        spec = card.field(name)
        if spec.kind is FieldKind.YES:
            values[name] = read_yes(name, text)
        elif spec.kind is FieldKind.CHOICE:
            if text not in spec.choices:
                raise InputError(name, text, spec.allowed, "not one of these")
            values[name] = text
        elif spec.kind is FieldKind.TEXT:
            values[name] = text
        elif spec.kind is FieldKind.NUMBERS:
            typed = [read_number(name, part, spec.takes, bare_scales) for part in _parts(name, text)]
            values[name] = tuple(spec.check(t.value) for t in typed)
        else:
            one = read_number(name, text, spec.takes, bare_scales)
            if spec.kind is FieldKind.WHOLE and one.value != round(one.value):
                raise InputError(name, text, "whole numbers", "this is counted")
            values[name] = spec.check(one.value)
            if one.half:
                halves[name] = one.half
    return Asked(card, values, halves)


MOST_NUMBERS = 200


def _parts(name: str, text: str) -> list[str]:
    parts = text.replace(";", ",").split(",")
    if not text.strip() or any(not p.strip() for p in parts):
        raise InputError(name, text[:60], "numbers parted by commas", "a number is missing")
    if len(parts) > MOST_NUMBERS:
        raise InputError(name, len(parts), f"up to {MOST_NUMBERS} numbers", "too many")
    return with_shared_unit([p.strip() for p in parts])


def work(card: Card, values: Mapping[str, Value]) -> tuple[Answer, dict[str, Value]]:
    """Answer a card from values: what it found, and every value it used.

    Parameters
    ----------
    card : Card
        The card [-]
    values : mapping
        What is given, in the units of the names [-]

    Returns
    -------
    tuple of Answer and dict
        The answer, and all inputs with defaults [-]

    Raises
    ------
    InputError
        What the card refuses; something given that it has no use for.
    """
    call = Call(card, values)
    found = card.work(call)
    for name in values:
        if name not in call.used:
            reason = "beside the others this value has no use here; leave it blank"
            raise InputError(name, values[name], "left blank", reason)
    return found, call.used


def ask(key: str, given: Mapping[str, str]) -> dict[str, Any]:
    """Answer one card, from texts to what stands in the file.

    Parameters
    ----------
    key : str
        Which card [-]
    given : mapping of str to str
        Its fields as typed [-]

    Returns
    -------
    dict
        The answer, ready for JSON [-]

    Raises
    ------
    InputError
        An unknown card or field, or what the card refuses.
    """
    asked = read(key, given)
    found, used = work(asked.card, asked.values)
    document: dict[str, Any] = {
        "format": FORMAT,
        "card": key,
        "inputs": {name: list(v) if isinstance(v, tuple) else v for name, v in used.items()},
        "outputs": dict(found.outputs),
        "solved": list(found.solved),
        "relation": found.relation,
        "warnings": [{"code": w.code, "text": w.text} for w in found.warnings],
    }
    if asked.halves:
        from fenwit.core.desk.spread import bands

        document["bands"] = {name: list(band) for name, band in bands(asked).items()}
    return document


__all__ = [
    "FORMAT", "Answer", "Asked", "Call", "Card", "Field", "FieldKind", "Group", "Typed", "Value", "Warned",
    "ask", "at_least_0", "card_of", "choice", "count", "numbers", "positive", "read", "share", "work",
]  # fmt: skip
