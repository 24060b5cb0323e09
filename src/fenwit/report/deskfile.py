"""The Desk on the command line: one card as JSON or as text, or one call a line from standard input."""

from __future__ import annotations

import json
import sys
from collections.abc import Sequence
from typing import Any

from fenwit.core.desk import CARDS, FORMAT, ask
from fenwit.core.errors import InputError

MAX_LINES = 100_000


def run(card: str, given: Sequence[str], as_json: bool) -> int:
    """Answer one call; 2 where it cannot be used.

    Parameters
    ----------
    card : str
        Key of the card; empty: list them; `-`: calls from standard input [-]
    given : sequence of str
        key=value [-]
    as_json : bool
        JSON instead of text [-]

    Returns
    -------
    int
        Exit code [-]
    """
    if card == "-":
        return _lines()
    if not card:
        for c in CARDS.values():
            print(f"{c.key}: {c.name}")
        return 0
    if not given and card in CARDS:
        for f in CARDS[card].fields:
            print(f"{f.name}: {f.words}")
        return 0
    try:
        answer = ask(card, _pairs(given))
    except InputError as error:
        print(" ".join(str(error).split()), file=sys.stderr)
        return 2
    print(json.dumps(answer, allow_nan=False, ensure_ascii=False) if as_json else _text(answer))
    return 0


def _pairs(given: Sequence[str]) -> dict[str, str]:
    found: dict[str, str] = {}
    for word in given:
        name, equals, value = word.partition("=")
        if not equals or not name:
            raise InputError("call", word, "key=value", "every value is given by its name")
        if name in found:
            raise InputError(name, value, "each field once", "this field is given twice")
        found[name] = value
    return found


def _lines() -> int:
    for number, line in enumerate(sys.stdin, start=1):
        words = line.split()
        if not words or number > MAX_LINES:
            continue
        card, given = words[0], [w for w in words[1:] if w != "--json"]
        try:
            answer = ask(card, _pairs(given))
        except InputError as error:
            refused = {
                "field": error.field, "value": _plain(error.value), "allowed": error.allowed, "reason": error.reason,
            }  # fmt: skip
            answer = {"format": FORMAT, "card": card, "refused": refused}
        print(json.dumps(answer, allow_nan=False, ensure_ascii=False))
    return 0


def _plain(value: object) -> Any:
    return value if isinstance(value, int | float | str) or value is None else str(value)


def _text(answer: dict[str, Any]) -> str:
    lines = [answer["card"]]
    for name, value in answer["outputs"].items():
        if name == "alternatives":
            lines += [f"  or {a['value']:g} ({100 * a['likelihood']:.0f} %): {a['reading']}" for a in value]
        elif value is not None:
            lines.append(f"  {name} = {value:g}" if isinstance(value, float) else f"  {name} = {value}")
    lines.append(f"  {answer['relation']}")
    lines += [f"  ! {w['text']}" for w in answer["warnings"]]
    return "\n".join(lines)
