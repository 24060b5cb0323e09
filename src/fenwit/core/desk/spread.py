"""How sure an answer is: what the ± of its inputs make of it; and an answer over one field, for a plot."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from fenwit.core.desk import Asked, Card, FieldKind, Value, work
from fenwit.core.errors import InputError

_SAMPLES, _SEED, _NINE_IN_TEN = 200, 20_260_101, 1.6449
_BENT = 0.25
"""How unlike the two sides of a difference may be before it is sampled, over their sum [-]"""


def _numbers(card: Card, values: Mapping[str, Value], picked: bool = False) -> dict[str, float]:
    outputs = work(card, values)[0].outputs
    return {
        n: float(v)
        for n, v in outputs.items()
        if isinstance(v, int | float) and not isinstance(v, bool) and (picked or n not in card.picked)
    }


def bands(asked: Asked) -> dict[str, tuple[float, float]]:
    """Where nine in ten answers lie, by the ± of the inputs.

    Differences to both sides are added in squares; where an answer bends or folds between them, 200 samples are taken.

    Parameters
    ----------
    asked : Asked
        A call that has an answer [-]

    Returns
    -------
    dict of str to tuple of float
        Low and high of every answer that moves [any]

    Raises
    ------
    InputError
        The call itself has no answer.
    """
    middle = _numbers(asked.card, asked.values)
    squares = dict.fromkeys(middle, 0.0)
    for name, half in asked.halves.items():
        try:
            up, down = (
                _numbers(asked.card, {**asked.values, name: _float(asked.values[name]) + sign * half})
                for sign in (1, -1)
            )
        except InputError:
            return _sampled(asked, middle)
        for key, value in middle.items():
            if key not in up or key not in down:
                return _sampled(asked, middle)
            above, below = up[key] - value, value - down[key]
            if abs(above - below) > _BENT * (abs(above) + abs(below)) + 1e-12 * abs(value):
                return _sampled(asked, middle)
            squares[key] += ((above + below) / 2) ** 2
    return {
        key: (middle[key] - half, middle[key] + half)
        for key, square in squares.items()
        if (half := float(np.sqrt(square))) > 1e-12 * abs(middle[key])
    }


def _float(value: Value) -> float:
    assert isinstance(value, float | int)
    return float(value)


def _sampled(asked: Asked, middle: Mapping[str, float]) -> dict[str, tuple[float, float]]:
    random = np.random.default_rng(_SEED)
    found: dict[str, list[float]] = {key: [] for key in middle}
    for _ in range(_SAMPLES):
        drawn = {
            name: _float(asked.values[name]) + half / _NINE_IN_TEN * float(random.standard_normal())
            for name, half in asked.halves.items()
        }
        try:
            answer = _numbers(asked.card, {**asked.values, **drawn})
        except InputError:
            continue
        for key, values in found.items():
            if key in answer:
                values.append(answer[key])
    return {
        key: (float(low), float(high))
        for key, values in found.items()
        if len(values) > _SAMPLES // 2
        for low, high in [np.percentile(values, [5.0, 95.0])]
        if high > low
    }


@dataclass(frozen=True)
class Line:
    """Answers over one field; None where there is no answer."""

    over: str
    at: tuple[float, ...]
    of: str
    found: tuple[float | None, ...]


POINTS = 41
_DECADE = 10.0


def wide_of(low: float, high: float) -> bool:
    """Whether a span is better read by its ratios [-]"""
    return low > 0 and high / low > _DECADE


def line(asked: Asked, over: str, of: Sequence[str], low: float, high: float) -> tuple[Line, ...]:
    """Answers over a field between two ends.

    Parameters
    ----------
    asked : Asked
        A call that has an answer [-]
    over : str
        A number of it [-]
    of : sequence of str
        Answers [-]
    low : float
        First value of the field [any]
    high : float
        Last [any]

    Returns
    -------
    tuple of Line
        One for each answer [-]

    Raises
    ------
    InputError
        A field that is no number of this call.
    """
    if not isinstance(asked.values.get(over), float | int) or isinstance(asked.values[over], bool):
        raise InputError("over", over, "a number that is given", "nothing can be drawn over this field")
    wide = wide_of(low, high)
    at = np.geomspace(low, high, POINTS) if wide else np.linspace(low, high, POINTS)
    spec = asked.card.field(over)
    if spec.kind is FieldKind.WHOLE:
        at = np.unique(np.round(at))
    rows: list[dict[str, float]] = []
    for value in at:
        try:
            rows.append(_numbers(asked.card, {**asked.values, over: spec.check(float(value))}, picked=True))
        except InputError:
            rows.append({})
    return tuple(
        Line(over, tuple(float(a) for a in at), name, tuple(row.get(name) for row in rows)) for name in of
    )
