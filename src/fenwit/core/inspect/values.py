"""What the parts of a board are worth: the likeliest value of each, and forty ways they may really be."""

from __future__ import annotations

import zlib
from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from fenwit.core.circuit import PartKind
from fenwit.core.errors import InputError
from fenwit.core.inspect.orbits import Networks
from fenwit.core.job.board import ROLES, TEMPLATES, Board, BoardPart, Condition, Role
from fenwit.core.regulator.diac import BREAKOVER_TOLERANCE_V, DiacNetwork

FloatArray = NDArray[np.float64]
DRAWS = 40
BREAKOVER_V, BREAKBACK_V = 32.0, 10.0
"""Of a usual diac [V]"""
OPTIONAL = (Role.ACROSS_KNOB, Role.SECOND_RESISTOR, Role.SECOND_CAPACITOR)
"""Most boards have none: where nobody tells of them they are not there"""


@dataclass(frozen=True, eq=False)
class Values:
    """Of every part that is taken to be there, by its key."""

    likely: Mapping[str, float]
    draws: Mapping[str, FloatArray]
    """Shape (40,)"""
    doubtful: tuple[str, ...]
    """Those whose reading would narrow the answer"""

    def fixed(self, key: str) -> Values:
        """The same as if one part were read."""
        return replace(self, draws={**self.draws, key: np.full(DRAWS, self.likely[key])})


def values_of(board: Board) -> Values:
    """Values of a board's parts.

    Parameters
    ----------
    board : Board
        As it was read [-]

    Returns
    -------
    Values
        Likeliest and drawn values [F|Ω|H|A|V]
    """
    likely: dict[str, float] = {}
    draws: dict[str, FloatArray] = {}
    doubtful: list[str] = []
    for part in _parts(board):
        facts = ROLES[part.role]
        if facts.dimension is None:
            likely[part.key] = 0.0
            continue
        chance = np.random.default_rng(zlib.crc32(part.key.encode()))
        middle, spread = _value(part), 0.0 if facts.kind is PartKind.DIAC else facts.tolerance
        if part.tolerance is not None:
            spread = part.tolerance
        likely[part.key] = middle
        # One draw in each fortieth, in an order of its own for every part: forty then do what hundreds would.
        even = (chance.permutation(DRAWS) + 0.5) / DRAWS
        where = middle * (1 + spread * (2 * even - 1))
        if part.condition is Condition.UNREADABLE:
            low, high = facts.usual
            where = low * (high / low) ** even
        elif part.condition is Condition.DOUBTFUL and len(part.readings) > 1:
            shares = np.cumsum([max(w, 0.0) for _, w in part.readings])
            which = np.searchsorted(shares / shares[-1], even)
            chosen = np.array([v for v, _ in part.readings])[np.minimum(which, len(part.readings) - 1)]
            where = chosen * (1 + spread * (2 * chance.permutation(even) - 1))
        elif facts.kind is PartKind.DIAC:
            where = middle + BREAKOVER_TOLERANCE_V * (2 * even - 1)
        draws[part.key] = np.asarray(where, dtype=np.float64)
        if part.condition is not Condition.READ:
            doubtful.append(part.key)
    return Values(likely, draws, tuple(doubtful))


def _parts(board: Board) -> list[BoardPart]:
    """Parts that are taken to be there: as told, and what nothing works without, as if it could not be read."""
    found = [p for p in board.parts if p.fitted]
    for role in TEMPLATES[board.topology]:
        facts = ROLES[role]
        told = [p for p in board.parts if p.role is role]
        if facts.essential and not told and facts.kind is not PartKind.OPTO:
            found.append(BoardPart(role, 1, Condition.UNREADABLE))
    return found


def _value(part: BoardPart) -> float:
    facts = ROLES[part.role]
    if part.condition is Condition.READ and part.value is not None:
        return part.value
    if part.condition is Condition.DOUBTFUL:
        return max(part.readings, key=lambda r: r[1])[0]
    if facts.kind is PartKind.DIAC:
        return BREAKOVER_V
    low, high = facts.usual
    return float(f"{np.sqrt(low * high):.2g}")


def network_of(board: Board, values: Mapping[str, float]) -> DiacNetwork:
    """The diac network of a knob control, with its likeliest values.

    Parameters
    ----------
    board : Board
        A knob with triac and diac [-]
    values : mapping of str to float
        By key of the part [Ω|F|V]

    Returns
    -------
    DiacNetwork
        The network [-]

    Raises
    ------
    InputError
        A part is missing without which the triac has no way to fire.
    """
    for role in (Role.TIMING_CAPACITOR, Role.DIAC, Role.KNOB, Role.END_RESISTOR):
        if role.value not in values:
            raise InputError(
                f"{role.value}.condition", "missing", "a part that fires the triac",
                f"without a {ROLES[role].name} the triac's gate hangs on nothing: look again, or say it cannot be read",
            )  # fmt: skip
    second = {Role.SECOND_RESISTOR.value, Role.SECOND_CAPACITOR.value} & set(values)
    if len(second) == 1:
        raise InputError(
            f"{next(iter(second))}.value", None, "both or neither",
            "a second time constant has a resistor and a capacitor",
        )  # fmt: skip
    diac = board.fitted(Role.DIAC)
    breakover = values[Role.DIAC.value]
    drop = BREAKBACK_V if diac is None or diac.drop_v is None else diac.drop_v
    if drop >= breakover:
        raise InputError(
            "diac.drop_v",
            drop,
            f"below {breakover:g} V",
            "a diac cannot drop by more than the volts it fires at",
        )
    return DiacNetwork(
        values[Role.END_RESISTOR.value],
        values[Role.KNOB.value],
        values[Role.TIMING_CAPACITOR.value],
        breakover,
        drop,
        values.get(Role.ACROSS_KNOB.value),
        values.get(Role.SECOND_RESISTOR.value),
        values.get(Role.SECOND_CAPACITOR.value),
        board.build.taper,
    )


def drawn_networks(board: Board, values: Values, network: DiacNetwork, travel: FloatArray) -> Networks:
    """All draws of a knob control at places of its travel, shape (draws × travel,), travel changing fastest."""

    def of(role: Role, likely: float) -> FloatArray:
        return values.draws.get(role.value, np.full(DRAWS, likely))

    knob, end = of(Role.KNOB, network.knob_ohm), of(Role.END_RESISTOR, network.least_ohm)
    # Taper and the resistor across it bend the track alike in every draw.
    share = replace(network, across_ohm=None).first_ohm(1 - travel) - network.least_ohm
    track = knob[:, None] * share / network.knob_ohm
    if network.across_ohm is not None:
        across = of(Role.ACROSS_KNOB, network.across_ohm)[:, None]
        track = track * across / np.maximum(track + across, 1e-12)
    ohm = end[:, None] + track

    def flat(column: FloatArray) -> FloatArray:
        return np.asarray(np.broadcast_to(column[:, None], ohm.shape).ravel())

    two = network.second_ohm is not None and network.second_f is not None
    breakover = of(Role.DIAC, network.breakover_v)
    return Networks(
        np.asarray(ohm.ravel()), flat(of(Role.TIMING_CAPACITOR, network.capacitance_f)), flat(breakover),
        flat(np.minimum(network.breakback_v, 0.9 * breakover)),
        flat(of(Role.SECOND_RESISTOR, network.second_ohm or 0.0)) if two else None,
        flat(of(Role.SECOND_CAPACITOR, network.second_f or 0.0)) if two else None,
    )  # fmt: skip
