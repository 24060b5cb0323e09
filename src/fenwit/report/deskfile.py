"""The Desk on the command line: one card as JSON or as text, or one call a line from standard input."""

from __future__ import annotations

import json
import sys
from collections.abc import Sequence
from typing import Any

from fenwit.core.desk import FORMAT, Card, Group, ask
from fenwit.core.desk.cards import CARDS
from fenwit.core.desk.typed import label_of, shown
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
        for group in Group:
            print(f"{group.value}:")
            print("\n".join(f"  {c.key:24s}{c.name}" for c in CARDS.values() if c.group is group))
        return 0
    if not given and card in CARDS:
        print(_fields(CARDS[card]))
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


def _fields(card: Card) -> str:
    lines = [f"{card.key}: {card.name}", f"  {card.relation}"]
    for f in card.fields:
        default = "" if f.default is None else f" = {_said(f.default)}"
        lines.append(f"  {f.name}{default}: {', '.join(w for w in (f.words, f.allowed) if w)}")
    return "\n".join([*lines, f"  holds for: {card.validity}"] if card.validity else lines)


def _said(value: object) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, tuple):
        return ",".join(f"{v:g}" for v in value)
    return f"{value:g}" if isinstance(value, float) else str(value)


def _text(answer: dict[str, Any]) -> str:
    lines, bands = [answer["card"]], answer.get("bands", {})
    for name, value in answer["outputs"].items():
        if name == "alternatives":
            lines += [f"  or {a['value']:g} ({100 * a['likelihood']:.0f} %): {a['reading']}" for a in value]
        elif isinstance(value, list):
            lines += ["  " + ", ".join(f"{k} {_said(v)}" for k, v in row.items()) for row in value]
        elif isinstance(value, bool) or not isinstance(value, int | float):
            lines.append(f"  {label_of(name)}: {'none' if value is None else _said(value)}")
        else:
            sure = f", {' to '.join(shown(name, v, 3) for v in bands[name])}" if name in bands else ""
            lines.append(f"  {label_of(name)}: {shown(name, value)}{sure}")
    lines.append(f"  {answer['relation']}")
    lines += [f"  ! {w['text']}" for w in answer["warnings"]]
    return "\n".join(lines)
