"""Speed over a command or a supply voltage, for fans with no machine to model: as read, typed, or usual for the kind."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import PchipInterpolator
from scipy.optimize import brentq, isotonic_regression

from fenwit.core.errors import FloatOrArray, InputError, check_range

FloatArray = NDArray[np.float64]
_SIGMAS = 3.0
"""A pair that monotony moves further than so many standard errors is worth reading again [-]"""
_WITHIN = 1.645
"""Standard errors that nine in ten readings keep within [-]"""


@dataclass(frozen=True)
class Held:
    """What a wanted speed asks for."""

    command: float
    """On a flat piece its middle [any]"""
    low: float
    """Commands from here … [any]"""
    high: float
    """… to here give the same speed; equal where the map is not flat [any]"""


@dataclass(frozen=True)
class Moved:
    """A pair that does not fit a speed that only rises, or only falls."""

    command: float
    read_rpm: float
    taken_rpm: float


@dataclass(frozen=True)
class SpeedMap:
    """Speed over a command, monotone through its pairs, with how far it may be off.

    Between pairs it is the piecewise cubic with harmonic-mean slopes: it overshoots nowhere. Outside of them it says
    nothing.
    """

    command: tuple[float, ...]
    """Rising; at least two [any]"""
    speed_rpm: tuple[float, ...]
    """Never rising and falling in one map [rpm]"""
    half_width_rpm: tuple[float, ...]
    """Nine in ten fans, or readings, lie within [rpm]"""
    moved: tuple[Moved, ...] = ()
    """Pairs worth reading again [-]"""
    straight: bool = False
    """Straight from pair to pair, as data sheets draw it [-]"""

    def __post_init__(self) -> None:
        if len(self.command) < 2 or len(set(self.command)) != len(self.command):
            raise InputError(
                "pairs", len(set(self.command)), "two or more", "a map needs two different commands"
            )
        if not len(self.command) == len(self.speed_rpm) == len(self.half_width_rpm):
            raise InputError(
                "pairs", len(self.speed_rpm), f"{len(self.command)} speeds", "one speed for each command"
            )
        check_range("speed_rpm", np.array(self.speed_rpm), 0.0, 1e6, "rpm")
        check_range("half_width_rpm", np.array(self.half_width_rpm), 0.0, 1e6, "rpm")
        if (np.diff(self.command) <= 0).any():
            raise InputError("pairs", list(self.command), "rising commands", "commands are to be sorted")
        steps = np.diff(self.speed_rpm)
        if (steps > 0).any() and (steps < 0).any():
            raise InputError(
                "pairs", list(self.speed_rpm), "speeds that only rise or only fall", "not monotone"
            )

    @property
    def rising(self) -> bool:
        """Whether more command means more speed."""
        return self.speed_rpm[-1] >= self.speed_rpm[0]

    @property
    def slowest_rpm(self) -> float:
        """The least speed of the map [rpm]"""
        return min(self.speed_rpm)

    @property
    def fastest_rpm(self) -> float:
        """The most [rpm]"""
        return max(self.speed_rpm)

    @cached_property
    def _curve(self) -> PchipInterpolator:
        return PchipInterpolator(np.array(self.command), np.array(self.speed_rpm))

    def speed_at(self, command: FloatOrArray) -> FloatOrArray:
        """Speed at a command.

        Parameters
        ----------
        command : float or array
            Within the pairs [any]

        Returns
        -------
        float or array
            Speed, shape of the command [rpm]

        Raises
        ------
        InputError
            Outside the pairs: nothing is known there.
        """
        self._check(command)
        at = np.asarray(command, dtype=np.float64)
        found = np.interp(at, self.command, self.speed_rpm) if self.straight else self._curve(at)
        return float(found) if np.ndim(command) == 0 else np.asarray(found)

    def band_at(self, command: float) -> tuple[float, float]:
        """Where nine in ten lie at a command; raises InputError as `speed_at` [rpm]"""
        middle = float(np.asarray(self.speed_at(command)))
        half = float(np.interp(command, self.command, self.half_width_rpm))
        return max(0.0, middle - half), middle + half

    def command_for(self, speed_rpm: float) -> Held:
        """The command that gives a speed.

        Parameters
        ----------
        speed_rpm : float
            Within the map's speeds [rpm]

        Returns
        -------
        Held
            The command, and the whole flat range where several give it [any]

        Raises
        ------
        InputError
            A speed the map does not reach.
        """
        check_range(
            "speed_rpm", speed_rpm, self.slowest_rpm, self.fastest_rpm, "rpm",
            reason="no reading goes there; nothing is known beyond them",
        )  # fmt: skip
        speed = np.array(self.speed_rpm)
        flat = np.flatnonzero(np.abs(speed - speed_rpm) <= 1e-9 * max(speed_rpm, 1.0))
        if len(flat):
            low, high = self.command[flat[0]], self.command[flat[-1]]
            return Held((low + high) / 2, low, high)
        ahead = speed if self.rising else -speed
        right = int(np.searchsorted(ahead, speed_rpm if self.rising else -speed_rpm))
        found = float(
            brentq(
                lambda c: float(np.asarray(self.speed_at(c))) - speed_rpm,
                self.command[right - 1],
                self.command[right],
                xtol=1e-12,
            )
        )
        return Held(found, found, found)

    def _check(self, command: FloatOrArray) -> None:
        check_range(
            "command", command, self.command[0], self.command[-1], "",
            reason="no reading goes there; nothing is known beyond them",
        )  # fmt: skip


def map_through(
    pairs: Sequence[tuple[float, float]], sigma_rpm: float, *, falling: bool | None = None
) -> SpeedMap:
    """The map through measured pairs: made monotone first, by least squares over neighbours that are out of order.

    Parameters
    ----------
    pairs : sequence of tuple
        Command and speed, in any order; a command may be read twice [any, rpm]
    sigma_rpm : float
        Standard error of one reading [rpm]
    falling : bool, optional
        Whether more command means less speed; left out: as the readings say [-]

    Returns
    -------
    SpeedMap
        With the pairs that monotony moved further than three standard errors [-]

    Raises
    ------
    InputError
        Fewer than two different commands, or values that cannot be real.
    """
    check_range("sigma_rpm", sigma_rpm, 0.0, 1e5, "rpm")
    if len({c for c, _ in pairs}) < 2:
        raise InputError("pairs", len(pairs), "two or more", "a map needs two different commands")
    given = np.array(sorted(pairs), dtype=np.float64)
    check_range("command", given[:, 0], -1e6, 1e6, "")
    check_range("speed_rpm", given[:, 1], 0.0, 1e6, "rpm")
    command, place, count = np.unique(given[:, 0], return_inverse=True, return_counts=True)
    mean = np.bincount(place, given[:, 1]) / count
    if falling is None:
        falling = bool(np.polyfit(given[:, 0], given[:, 1], 1)[0] < 0)
    taken = isotonic_regression(mean, weights=count.astype(float), increasing=not falling).x
    moved = tuple(
        Moved(float(c), float(m), float(t))
        for c, m, t, n in zip(command, mean, taken, count, strict=True)
        if abs(m - t) > _SIGMAS * sigma_rpm / np.sqrt(n)
    )
    # What monotony had to move is known that much worse.
    half = _WITHIN * sigma_rpm / np.sqrt(count) + np.abs(mean - taken)
    return SpeedMap(
        tuple(float(c) for c in command), tuple(float(t) for t in taken), tuple(float(h) for h in half), moved
    )


def usual_map(
    slowest_rpm: float, fastest_rpm: float, first: float, last: float, doubt: float = 0.1
) -> SpeedMap:
    """A straight line between two commands, for a fan nobody has read yet.

    Parameters
    ----------
    slowest_rpm : float
        At the first command [rpm]
    fastest_rpm : float
        At the last [rpm]
    first : float
        Command where the line begins [any]
    last : float
        Where it ends [any]
    doubt : float
        How far it may be off, over the fastest speed [-]

    Returns
    -------
    SpeedMap
        The line [-]

    Raises
    ------
    InputError
        Two equal commands, or speeds below zero.
    """
    half = float(check_range("doubt", doubt, 0.0, 1.0, "")) * fastest_rpm
    ends = sorted(((first, slowest_rpm), (last, fastest_rpm)))
    return SpeedMap(tuple(c for c, _ in ends), tuple(n for _, n in ends), (half, half))
