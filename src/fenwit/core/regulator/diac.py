"""The diac network of a knob control: firing angle over resistance, its memory from half-cycle to half-cycle, its cures.

A resistor charges a capacitor across the open triac; at the break-over volts the diac fires, takes its break-back volts
out of the capacitor, and the triac shorts the network until the current ends. What is left in the capacitor then, of the
wrong sign for the next half-cycle, is what makes the knob snap on. Between events the network is linear: every half-cycle
is solved exactly, and stepping half-cycle by half-cycle gives the way up and the way down (docs/phase-angle.md).
"""

from __future__ import annotations

from collections.abc import Callable
from copy import copy
from dataclasses import dataclass, replace
from enum import StrEnum
from itertools import product

import numpy as np
from numpy.typing import NDArray

from fenwit.core import quantity as q
from fenwit.core.errors import FloatOrArray, InputError, check_range
from fenwit.core.work import pause

FloatArray = NDArray[np.float64]
Extinction = Callable[[FloatArray], FloatArray]
"""Where the current ends for a firing angle, from the zero of the half-cycle it was fired in [rad → rad]"""

_GRID = 241
_HALF_CYCLES = 120
KNOB_TOLERANCE, CAPACITOR_TOLERANCE, BREAKOVER_TOLERANCE_V = 0.20, 0.10, 4.0
"""Of usual parts [-|-|V]"""
_WARM_UP = 40
"""Half-cycles until what a knob does repeats, all but exactly [-]"""
_COARSE = 61
"""Positions of the knob that are tried for a cure [-]"""
_ON_CLOSE = 1e-7


class Taper(StrEnum):
    """How a knob's resistance goes with its turn."""

    LINEAR = "linear"
    LOG = "log"
    REVERSE_LOG = "reverse-log"


_BULGE = 0.15
"""Share of its resistance that a log track has at half turn [-]"""


@dataclass(frozen=True)
class DiacNetwork:
    """Resistors, capacitors and diac of a knob control."""

    least_ohm: float
    """In series with the knob [Ω]"""
    knob_ohm: float
    capacitance_f: float
    breakover_v: float = 32.0
    breakback_v: float = 10.0
    """By which the capacitor drops when the diac fires [V]"""
    across_ohm: float | None = None
    """Fixed resistor across the knob [Ω]"""
    second_ohm: float | None = None
    """From the first capacitor to a second one, which then feeds the diac [Ω]"""
    second_f: float | None = None
    taper: Taper = Taper.LINEAR

    def __post_init__(self) -> None:
        check_range("least_ohm", self.least_ohm, 1.0, 1e7, "Ω")
        check_range("knob_ohm", self.knob_ohm, 1.0, 1e8, "Ω")
        check_range("capacitance_f", self.capacitance_f, 1e-10, 1e-5, "F")
        # A shorted diac leaves the gate on the network: it fires at about a volt.
        check_range("breakover_v", self.breakover_v, 0.5, 100.0, "V")
        check_range("breakback_v", self.breakback_v, 0.0, self.breakover_v, "V")
        if (self.second_ohm is None) != (self.second_f is None):
            raise InputError(
                "second_f",
                self.second_f,
                "both or neither",
                "a second time constant has a resistor and a capacitor",
            )
        for name, value, low, high, unit in (
            ("across_ohm", self.across_ohm, 1.0, 1e9, "Ω"),
            ("second_ohm", self.second_ohm, 1.0, 1e7, "Ω"),
            ("second_f", self.second_f, 1e-10, 1e-5, "F"),
        ):
            if value is not None:
                check_range(name, value, low, high, unit)

    def first_ohm(self, turn: FloatArray) -> FloatArray:
        """Resistance before the (first) capacitor over the knob's turn.

        Parameters
        ----------
        turn : array
            0 at the slow end, 1 at the fast end [-]

        Returns
        -------
        array
            Resistance [Ω]
        """
        left = 1 - np.asarray(check_range("turn", turn, 0.0, 1.0, ""), dtype=np.float64)
        # A log track is two straight ones that meet at half turn.
        if self.taper is not Taper.LINEAR:
            x = left if self.taper is Taper.LOG else 1 - left
            bent = np.where(x < 0.5, 2 * _BULGE * x, _BULGE + (1 - _BULGE) * (2 * x - 1))
            left = bent if self.taper is Taper.LOG else 1 - bent
        knob = left * self.knob_ohm
        if self.across_ohm is not None:
            knob = knob * self.across_ohm / np.maximum(knob + self.across_ohm, 1e-12)
        return np.asarray(self.least_ohm + knob)


@dataclass(frozen=True, eq=False)
class DiacFiring:
    """Firing angles over resistance; infinite where the diac does not fire. All of one shape."""

    first_rad: FloatArray
    """In the first half-cycle, from an empty capacitor [rad]"""
    up_rad: FloatArray
    """Settled, coming from off [rad]"""
    down_rad: FloatArray
    """Settled, coming from firing [rad]"""


def firing(
    network: DiacNetwork,
    first_ohm: FloatArray,
    supply_v: float,
    frequency_hz: float,
    extinction: Extinction | None = None,
) -> DiacFiring:
    """Firing angles of a network for resistances before its (first) capacitor.

    Parameters
    ----------
    network : DiacNetwork
        Capacitors and diac; its own knob does not count here [-]
    first_ohm : array
        Resistances, shape (n,) [Ω]
    supply_v : float
        Supply [V]
    frequency_hz : float
        Its frequency [Hz]
    extinction : callable or None
        Where the load's current ends for a firing angle; None: at the mains' zero, as with a lamp or heater [-]

    Returns
    -------
    DiacFiring
        Angles from the mains' zero [rad]

    Raises
    ------
    InputError
        Values that cannot be real.
    """
    net, ends = _network(network, first_ohm, supply_v, frequency_hz, extinction)
    count = len(net.values)
    nothing, zero = np.zeros((count, net.order)), np.zeros(count)
    first, _, _ = net.half(nothing, zero, ends)
    # Coming from off: the network alone, as it settles on the mains without ever firing.
    up = _settle(net, net.alone(zero), zero, ends)
    return DiacFiring(first, up, _coming_down(net, network, ends))


def going_angle(
    network: DiacNetwork,
    first_ohm: FloatArray,
    supply_v: float,
    frequency_hz: float,
    extinction: Extinction | None = None,
) -> FloatArray:
    """Firing angle coming from firing, alone: half the work of `firing`.

    Parameters
    ----------
    network : DiacNetwork
        Capacitors and diac [-]
    first_ohm : array
        Resistances, shape (n,) [Ω]
    supply_v : float
        Supply [V]
    frequency_hz : float
        Its frequency [Hz]
    extinction : callable or None
        As for `firing` [-]

    Returns
    -------
    array
        Angles from the mains' zero; infinite where it goes out [rad]

    Raises
    ------
    InputError
        Values that cannot be real.
    """
    net, ends = _network(network, first_ohm, supply_v, frequency_hz, extinction)
    return _coming_down(net, network, ends)


def _network(
    network: DiacNetwork,
    first_ohm: FloatArray,
    supply_v: float,
    frequency_hz: float,
    extinction: Extinction | None,
) -> tuple[_Net, Extinction]:
    check_range("supply_voltage_v", supply_v, 1.0, 1000.0, "V")
    check_range("frequency_hz", frequency_hz, 10.0, 500.0, "Hz")
    ohm = np.atleast_1d(np.asarray(check_range("first_ohm", first_ohm, 1.0, 1e9, "Ω"), dtype=np.float64))
    ends = extinction or (lambda alpha: np.full(alpha.shape, np.pi))
    return _Net(network, ohm, supply_v, frequency_hz), ends


def _fired_early(net: _Net, network: DiacNetwork) -> FloatArray:
    """The state as if it had fired early all along."""
    before = np.zeros((len(net.values), net.order))
    before[:, -1] = -(network.breakover_v - network.breakback_v) * 0.2
    return before


def _coming_down(net: _Net, network: DiacNetwork, ends: Extinction) -> FloatArray:
    return _settle(net, _fired_early(net, network), np.zeros(len(net.values)), ends)


def resistor_mean_square(
    network: DiacNetwork,
    first_ohm: FloatArray,
    supply_v: float,
    frequency_hz: float,
    extinction: Extinction | None = None,
    second: bool = False,
) -> FloatArray:
    """Mean square of the volts across the resistance before the (first) capacitor, coming from firing.

    Parameters
    ----------
    network : DiacNetwork
        Capacitors and diac [-]
    first_ohm : array
        Resistances, shape (n,) [Ω]
    supply_v : float
        Supply [V]
    frequency_hz : float
        Its frequency [Hz]
    extinction : callable or None
        As for `firing` [-]
    second : bool
        Across the resistor from the first capacitor to the second one instead [-]

    Returns
    -------
    array
        Mean squares, shape (n,) [V²]

    Raises
    ------
    InputError
        Values that cannot be real.
    """
    if second and network.second_ohm is None:
        raise InputError("second_ohm", None, "a second resistor", "this network has one time constant")
    net, ends = _network(network, first_ohm, supply_v, frequency_hz, extinction)
    state, start = _fired_early(net, network), np.zeros(len(net.values))
    for _ in range(_WARM_UP):
        _, state, start = net.half(state, start, ends)
    alpha, _, _ = net.half(state, start, ends)
    fires = np.isfinite(alpha)
    until = np.where(fires, alpha, np.pi)
    share = np.linspace(0.0, 1.0, _GRID)
    open_ = until - start
    theta = start[:, None] + open_[:, None] * share
    away = state - net.alone(start)
    own = (net.forced[:, None, :] * np.exp(1j * theta)[..., None]).imag
    wave = net.free(away, theta - start[:, None]) + own
    above = wave[..., 0] if second else np.sqrt(2) * supply_v * np.sin(theta)
    total = np.trapezoid((above - wave[..., 1 if second else 0]) ** 2, axis=-1, dx=1 / (_GRID - 1)) * open_
    # While the triac conducts, what is left in the capacitor empties through the same resistance.
    here = net.free(away, open_) + net.alone(until)
    here[:, -1] = np.where(fires, net.left, here[:, -1])
    shorted = np.where(fires, np.maximum(ends(until) - until, 0.0), 0.0)
    rest = net.free(here, shorted[:, None] * share)
    emptied = rest[..., 0] - rest[..., 1] if second else rest[..., 0]
    total += np.trapezoid(emptied**2, axis=-1, dx=1 / (_GRID - 1)) * shorted
    return np.asarray(total / np.pi)


def _settle(net: _Net, state: FloatArray, start: FloatArray, ends: Extinction) -> FloatArray:
    """Half-cycle after half-cycle until the angle repeats; infinite where firing dies out or does not repeat."""
    found = np.full(len(start), np.inf)
    left = np.arange(len(start))
    alpha = np.full(len(start), -1.0)
    for _ in range(_HALF_CYCLES):
        pause()
        before = alpha
        alpha, state, start = net.half(state, start, ends)
        # Never having fired, or having stopped, it does not begin by itself.
        with np.errstate(invalid="ignore"):
            still = np.where(np.isfinite(alpha), np.abs(alpha - before) < _ON_CLOSE, alpha == before)
        found[left] = alpha
        going = np.flatnonzero(~still)
        if not len(going):
            return found
        left, alpha, state, start, net = left[going], alpha[going], state[going], start[going], net.of(going)
    # Uneven firing that never repeats is no setting anybody can use.
    found[left] = np.inf
    return found


class _Net:
    """State equations in θ = ωt for one network with many first resistors."""

    def __init__(self, network: DiacNetwork, ohm: FloatArray, supply_v: float, frequency_hz: float) -> None:
        omega = 2 * np.pi * frequency_hz
        n = len(ohm)
        self.breakover, self.left = network.breakover_v, network.breakover_v - network.breakback_v
        if network.second_ohm is None or network.second_f is None:
            self.order = 1
            a = -(1 / (omega * ohm * network.capacitance_f))[:, None, None]
        else:
            self.order = 2
            a = np.zeros((n, 2, 2))
            first = 1 / (omega * ohm * network.capacitance_f)
            across = 1 / (omega * network.second_ohm * network.capacitance_f)
            second = 1 / (omega * network.second_ohm * network.second_f)
            a[:, 0, 0], a[:, 0, 1] = -(first + across), across
            a[:, 1, 0], a[:, 1, 1] = second, -second
        b = np.zeros((n, self.order))
        b[:, 0] = 1 / (omega * ohm * network.capacitance_f)
        values, vectors = np.linalg.eig(a)
        self.values, self.vectors = values.real, vectors.real
        self.inverse = np.linalg.inv(self.vectors)
        drive = np.sqrt(2) * supply_v * b[..., None]
        self.forced = np.linalg.solve(1j * np.eye(self.order) - a, drive)[..., 0]

    def of(self, rows: NDArray[np.int64]) -> _Net:
        """The same equations for some of the resistors."""
        other = copy(self)
        other.values, other.vectors, other.inverse = self.values[rows], self.vectors[rows], self.inverse[rows]
        other.forced = self.forced[rows]
        return other

    def alone(self, theta: FloatArray) -> FloatArray:
        """The state at an angle when it has never fired."""
        return np.asarray((self.forced * np.exp(1j * theta)[:, None]).imag)

    def free(self, state: FloatArray, angle: FloatArray) -> FloatArray:
        """State after an angle with nothing applied, e^{A angle} state; angle of shape (n,) or (n, points)."""
        h = (self.inverse @ state[..., None])[..., 0]
        flat = angle.ndim == 1
        angle = angle[:, None] if flat else angle
        grown = np.exp(self.values[:, None, :] * angle[..., None]) * h[:, None, :]
        found = grown @ np.swapaxes(self.vectors, -1, -2)
        return np.asarray(found[:, 0] if flat else found)

    def half(
        self, state: FloatArray, start: FloatArray, ends: Extinction
    ) -> tuple[FloatArray, FloatArray, FloatArray]:
        """One half-cycle from where the last current ended: firing angle, and state and start of the next one."""
        away = state - self.alone(start)
        theta = start[:, None] + (np.pi - start)[:, None] * np.linspace(0.0, 1.0, _GRID)
        sine = (self.forced[:, None, -1] * np.exp(1j * theta)).imag
        v = self.free(away, theta - start[:, None])[..., -1] + sine
        fires = v >= self.breakover
        any_ = fires.any(axis=1)
        k = np.clip(np.argmax(fires, axis=1), 1, _GRID - 1)
        rows = np.arange(len(start))
        low, high = theta[rows, k - 1], theta[rows, k]
        at = np.where(any_, high, np.pi)

        def over(angle: FloatArray) -> FloatArray:
            mine = (self.forced[:, -1] * np.exp(1j * angle)).imag
            return np.asarray(self.free(away, angle - start)[:, -1] + mine - self.breakover)

        # Within one sample the wave is all but straight: a few secants find where it meets the break-over volts.
        f_low, f_high = v[rows, k - 1] - self.breakover, v[rows, k] - self.breakover
        before, f_before, now = low, f_low, np.clip(low - f_low * (high - low) / (f_high - f_low), low, high)
        for _ in range(5):
            f_now = over(now)
            gap = np.where(np.abs(f_now - f_before) < 1e-12, np.inf, f_now - f_before)
            before, f_before, now = now, f_now, np.clip(now - f_now * (now - before) / gap, low, high)
        high = now
        at = np.where(any_, high, at)
        here = self.free(away, at - start) + self.alone(at)
        dropped = here.copy()
        dropped[:, -1] = self.left
        stop = np.where(any_, np.maximum(ends(at), at + 1e-6), np.pi)
        shorted = self.free(dropped, np.where(any_, stop - at, 0.0))
        open_ = self.free(away, np.pi - start) + self.alone(np.full(len(start), np.pi))
        # The next half-cycle is seen upside down.
        following = -np.where(any_[:, None], shorted, open_)
        return np.where(any_, at, np.inf), following, stop - np.pi


@dataclass(frozen=True)
class SnapOn:
    """How far the knob must be turned to come on, and how far back it can then be turned."""

    on_turn: float
    """Where it comes on; above 1: never [-]"""
    on_deg: float
    """Angle it then settles at [°]"""
    off_turn: float
    """Where it goes out when turned back [-]"""
    latest_deg: float
    """The latest angle it can be turned back to [°]"""

    @property
    def gap_turn(self) -> float:
        """Part of the knob's travel that only works on the way down [-]"""
        return max(0.0, self.on_turn - self.off_turn)


def snap_on(
    network: DiacNetwork,
    supply_v: float,
    frequency_hz: float,
    extinction: Extinction | None = None,
    points: int = 121,
) -> SnapOn | None:
    """Where a knob control comes on and where it goes out.

    Parameters
    ----------
    network : DiacNetwork
        The network [-]
    supply_v : float
        Supply [V]
    frequency_hz : float
        Its frequency [Hz]
    extinction : callable or None
        As for `firing` [-]
    points : int
        Positions of the knob that are tried [-]

    Returns
    -------
    SnapOn or None
        None where it never fires [-]
    """
    turn = np.linspace(0.0, 1.0, points)
    found = firing(network, network.first_ohm(turn), supply_v, frequency_hz, extinction)
    up, down = np.isfinite(found.up_rad), np.isfinite(found.down_rad)
    if not down.any():
        return None
    # Turning up, it comes on at the first position from which it fires on.
    on = int(np.argmax(up)) if up.any() else None
    off = int(np.argmax(down))
    return SnapOn(
        float(turn[on]) if on is not None else 2.0,
        float(np.degrees(found.up_rad[on])) if on is not None else 180.0,
        float(turn[off]),
        float(np.degrees(found.down_rad[off])),
    )


@dataclass(frozen=True)
class Cure:
    """A change of the network and what it does to the snap-on."""

    words: str
    network: DiacNetwork
    after: SnapOn


def cures(
    network: DiacNetwork, supply_v: float, frequency_hz: float, extinction: Extinction | None = None
) -> tuple[Cure, ...]:
    """What to change so that the knob comes on where it goes out, best first.

    Parameters
    ----------
    network : DiacNetwork
        The network as it is [-]
    supply_v : float
        Supply [V]
    frequency_hz : float
        Its frequency [Hz]
    extinction : callable or None
        As for `firing` [-]

    Returns
    -------
    tuple of Cure
        Only those that narrow the gap [-]
    """
    now = snap_on(network, supply_v, frequency_hz, extinction)
    if now is None:
        return ()
    tried: list[tuple[str, DiacNetwork]] = []
    if network.second_ohm is None:
        for ohm, farads in ((15e3, 100e-9), (15e3, 47e-9), (4.7e3, 100e-9)):
            tried.append(
                (
                    f"a second time constant: {q.show(ohm, q.RESISTANCE)} from the capacitor to another of "
                    f"{q.show(farads, q.CAPACITANCE)}, the diac on that one",
                    replace(network, second_ohm=ohm, second_f=farads),
                )
            )
    for share in (0.7, 0.5):
        ohm = float(f"{network.knob_ohm * share / (1 - share):.2g}")
        if network.across_ohm is None or ohm < network.across_ohm:
            tried.append(
                (
                    f"{q.show(ohm, q.RESISTANCE)} across the knob: the slow end stays on",
                    replace(network, across_ohm=ohm),
                )
            )
    if network.breakback_v > 4:
        tried.append(
            ("a diac with half the break-back", replace(network, breakback_v=network.breakback_v / 2))
        )
    found = []
    for words, other in tried:
        after = snap_on(other, supply_v, frequency_hz, extinction, _COARSE)
        if after is not None and after.gap_turn < now.gap_turn - 0.01:
            found.append(Cure(words, other, after))
    return tuple(sorted(found, key=lambda c: c.after.gap_turn))


@dataclass(frozen=True)
class AngleBand:
    """Firing angle with the parts within their tolerance."""

    low_deg: float
    nominal_deg: float
    high_deg: float
    """180 where some parts would leave it off [°]"""


def tolerance(
    network: DiacNetwork, turn: FloatArray, supply_v: float, frequency_hz: float,
    knob: float = KNOB_TOLERANCE, capacitor: float = CAPACITOR_TOLERANCE, breakover: float = BREAKOVER_TOLERANCE_V,
    extinction: Extinction | None = None,
) -> tuple[AngleBand, ...]:  # fmt: skip
    """Earliest and latest firing at positions of the knob, over all corners of its parts' tolerances.

    Parameters
    ----------
    network : DiacNetwork
        The network [-]
    turn : array
        Positions of the knob, 1 at the fast end, shape (n,) [-]
    supply_v : float
        Supply [V]
    frequency_hz : float
        Its frequency [Hz]
    knob : float
        Half width of its tolerance [-]
    capacitor : float
        Half width of its tolerance [-]
    breakover : float
        Half width of the diac's break-over [V]
    extinction : callable or None
        As for `firing` [-]

    Returns
    -------
    tuple of AngleBand
        Angles on the way down, one for each position [°]

    Raises
    ------
    InputError
        Tolerances that cannot be real.
    """
    check_range("knob tolerance", knob, 0.0, 0.9, "")
    check_range("capacitor tolerance", capacitor, 0.0, 0.9, "")
    check_range("breakover tolerance", breakover, 0.0, network.breakover_v - network.breakback_v, "V")
    places = np.atleast_1d(np.asarray(turn, dtype=np.float64))
    angles = []
    for k, c, v in ((0, 0, 0), *product((-1, 1), repeat=3)):
        other = replace(
            network,
            knob_ohm=network.knob_ohm * (1 + k * knob),
            capacitance_f=network.capacitance_f * (1 + c * capacitor),
            second_f=None if network.second_f is None else network.second_f * (1 + c * capacitor),
            breakover_v=network.breakover_v + v * breakover,
        )
        found = going_angle(other, other.first_ohm(places), supply_v, frequency_hz, extinction)
        angles.append(np.where(np.isinf(found), 180.0, np.degrees(np.where(np.isinf(found), 0.0, found))))
    every = np.array(angles)
    return tuple(
        AngleBand(float(low), float(nominal), float(high))
        for low, nominal, high in zip(every.min(axis=0), every[0], every.max(axis=0), strict=True)
    )


def ohm_for_angle(
    network: DiacNetwork, angle_deg: FloatOrArray, supply_v: float, frequency_hz: float,
    extinction: Extinction | None = None,
) -> FloatArray:  # fmt: skip
    """Resistance before the first capacitor that settles at an angle on the way down; infinite where none does.

    Parameters
    ----------
    network : DiacNetwork
        Capacitors and diac [-]
    angle_deg : float or array
        Wanted angles [°]
    supply_v : float
        Supply [V]
    frequency_hz : float
        Its frequency [Hz]
    extinction : callable or None
        As for `firing` [-]

    Returns
    -------
    array
        Resistances [Ω]

    Raises
    ------
    InputError
        Angles outside 0 to 180°.
    """
    wanted = np.atleast_1d(np.asarray(check_range("angle_deg", angle_deg, 0.0, 180.0, "°"), dtype=np.float64))
    ohm = np.geomspace(300.0, 5e6, 240)
    angles = np.degrees(going_angle(network, ohm, supply_v, frequency_hz, extinction))
    fires = np.isfinite(angles)
    if not fires.any():
        return np.full(wanted.shape, np.inf)
    found = np.exp(np.interp(wanted, angles[fires], np.log(ohm[fires])))
    outside = (wanted < angles[fires][0]) | (wanted > angles[fires][-1])
    return np.where(outside, np.inf, found)


@dataclass(frozen=True)
class Proposal:
    """Preferred values for a wanted range of angles."""

    network: DiacNetwork
    fast_deg: float
    slow_deg: float
    miss_deg: float
    """Larger departure of the two ends [°]"""


_CAPACITORS = (47e-9, 68e-9, 100e-9, 150e-9, 220e-9)
_KNOBS = (100e3, 220e3, 250e3, 470e3, 500e3, 1e6)


def propose(
    fast_deg: float, slow_deg: float, supply_v: float, frequency_hz: float, most: int = 5,
    extinction: Extinction | None = None,
) -> tuple[Proposal, ...]:  # fmt: skip
    """Resistors, knob and capacitor from preferred values whose ends come closest to two wanted angles.

    Parameters
    ----------
    fast_deg : float
        Wanted angle at the fast end of the knob [°]
    slow_deg : float
        Wanted angle at the slow end [°]
    supply_v : float
        Supply [V]
    frequency_hz : float
        Its frequency [Hz]
    most : int
        How many are told [-]
    extinction : callable or None
        As for `firing` [-]

    Returns
    -------
    tuple of Proposal
        Closest first [-]

    Raises
    ------
    InputError
        Ends that are the wrong way round or cannot be reached.
    """
    check_range("fast_deg", fast_deg, 5.0, 175.0, "°")
    if not fast_deg + 5 <= slow_deg <= 175:
        raise InputError(
            "slow_deg", slow_deg, f"{fast_deg + 5:g} to 175 °", "the slow end fires later than the fast end"
        )
    found: list[Proposal] = []
    e12 = np.array([m * 10.0**d for d in range(2, 7) for m in q.SERIES["E12"]])
    for farads in _CAPACITORS:
        bare = DiacNetwork(1e3, 1e5, farads)
        least, whole = ohm_for_angle(bare, np.array([fast_deg, slow_deg]), supply_v, frequency_hz, extinction)
        if not (np.isfinite(least) and np.isfinite(whole)):
            continue
        series = float(e12[np.argmin(np.abs(np.log(e12 / least)))])
        for knob in _KNOBS:
            rest = whole - series
            if rest <= 0 or knob < 0.9 * rest:
                continue
            need = None if knob < 1.1 * rest else knob * rest / (knob - rest)
            across = None if need is None else float(e12[np.argmin(np.abs(np.log(e12 / need)))])
            network = replace(bare, least_ohm=series, knob_ohm=knob, across_ohm=across)
            ends = going_angle(
                network, network.first_ohm(np.array([1.0, 0.0])), supply_v, frequency_hz, extinction
            )
            if not np.isfinite(ends).all():
                continue
            fast, slow = np.degrees(ends).tolist()
            found.append(Proposal(network, fast, slow, max(abs(fast - fast_deg), abs(slow - slow_deg))))
    if not found:
        raise InputError(
            "slow_deg", slow_deg, "an earlier angle", "no usual capacitor and knob reach this range"
        )
    return tuple(sorted(found, key=lambda p: p.miss_deg)[:most])
