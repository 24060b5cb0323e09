"""The Desk: single calculations without a job. A card takes named values and answers, or refuses one of them.

Cards import what is heavy only when they are asked, so that a list of them costs nothing.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from fenwit.core.errors import InputError

FORMAT = "fenwit-desk/1"


@dataclass(frozen=True)
class Field:
    """A value that a card takes."""

    name: str
    words: str
    """What it is, and how it is typed [-]"""
    choices: tuple[str, ...] = ()


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


@dataclass(frozen=True)
class Card:
    """One calculation."""

    key: str
    name: str
    fields: tuple[Field, ...]
    work: Callable[[Mapping[str, str]], Answer]
    """From texts as typed. Raises InputError naming the field"""


def _part_marking(given: Mapping[str, str]) -> Answer:
    from fenwit.core.desk.marking import answer

    return answer(given)


CARDS: Mapping[str, Card] = {
    c.key: c
    for c in (
        Card(
            "part-marking",
            "what is printed on a part",
            (
                Field("kind", "capacitor or resistor", ("capacitor", "resistor")),
                Field("code", "as printed, like 104K, 2n2, 4R7 or 0.47uF_X2_275~"),
                Field("bands", "colours of a resistor from one end, like yellow,violet,orange,gold"),
            ),
            _part_marking,
        ),
    )
}


def ask(key: str, given: Mapping[str, str]) -> dict[str, Any]:
    """Answer one card.

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
    card = CARDS.get(key)
    if card is None:
        raise InputError("card", key, ", ".join(CARDS), "no such card")
    names = [f.name for f in card.fields]
    for name in given:
        if name not in names:
            raise InputError(name, given[name], ", ".join(names), "this card has no such field")
    found = card.work(given)
    return {
        "format": FORMAT,
        "card": key,
        "inputs": dict(given),
        "outputs": dict(found.outputs),
        "solved": list(found.solved),
        "relation": found.relation,
        "warnings": [{"code": w.code, "text": w.text} for w in found.warnings],
    }
