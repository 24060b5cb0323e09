"""A knob's diac network across a triac that stands before a motor, on the orbit the motor really takes.

While the triac is open the network sees the mains less what the turning motor puts out. A firing angle is the control's
own where the network, left with what the diac did not take, reaches its break-over volts just half a period later
(docs/inspect.md). Along the fan's own states that is one equation in the angle; no search over speeds is needed.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fenwit.core.load import FanLoad
from fenwit.core.memory import remembered
from fenwit.core.motor.machine import Machine
from fenwit.core.motor.switched import switched
from fenwit.core.operating import Source
from fenwit.core.regulator.diac import DiacNetwork
from fenwit.core.regulator.firing_points import PhasePoint, phase_solutions
from fenwit.core.regulator.phase import Conduction, TriacFed

FloatArray = NDArray[np.float64]
ON_STATE_V = 1.0
"""Across a conducting triac [V]"""
_POINTS = 161
_ANGLES = 72


@dataclass(frozen=True, eq=False)
class Networks:
    """Many diac networks at once, each with its knob somewhere; arrays of one shape (networks,)."""

    first_ohm: FloatArray
    """Before the (first) capacitor [Ω]"""
    first_f: FloatArray
    breakover_v: FloatArray
    breakback_v: FloatArray
    second_ohm: FloatArray | None = None
    second_f: FloatArray | None = None

    def equations(self, omega: float) -> tuple[FloatArray, FloatArray]:
        """Capacitor volts over ωt, x' = A x + b v: shapes (networks, order, order) and (networks, order) [-]"""
        first = 1 / (omega * self.first_ohm * self.first_f)
        if self.second_ohm is None or self.second_f is None:
            return -first[:, None, None], first[:, None]
        across = 1 / (omega * self.second_ohm * self.first_f)
        second = 1 / (omega * self.second_ohm * self.second_f)
        a, b = np.zeros((len(first), 2, 2)), np.zeros((len(first), 2))
        a[:, 0, 0], a[:, 0, 1] = -(first + across), across
        a[:, 1, 0], a[:, 1, 1] = second, -second
        b[:, 0] = first
        return a, b


def networks(network: DiacNetwork, first_ohm: FloatArray) -> Networks:
    """One network with several resistances before its (first) capacitor."""
    ohm = np.atleast_1d(np.asarray(first_ohm, dtype=np.float64))

    def all_(value: float) -> FloatArray:
        return np.full(ohm.shape, value)

    two = network.second_ohm is not None and network.second_f is not None
    return Networks(
        ohm, all_(network.capacitance_f), all_(network.breakover_v), all_(network.breakback_v),
        all_(network.second_ohm or 0.0) if two else None, all_(network.second_f or 0.0) if two else None,
    )  # fmt: skip


@dataclass(frozen=True, eq=False)
class Orbits:
    """States of a machine behind a triac over firing angle, with what an open triac has across it; arrays (angles,)."""

    firing_rad: FloatArray
    """Rising [rad]"""
    conduction_rad: FloatArray
    speed_rpm: FloatArray
    theta_rad: FloatArray
    """While the triac is open, shape (angles, points) [rad]"""
    open_v: FloatArray
    """Across it, turned so that they rise [V]"""
    frequency_hz: float
    motor_voltage_v: FloatArray
    line_current_a: FloatArray
    input_power_w: FloatArray
    motor_loss_w: FloatArray

    def beyond(self, of: Networks) -> FloatArray:
        """How far the diac's volts exceed its break-over half a period after firing, shape (angles, networks) [V]"""
        a, b = of.equations(2 * np.pi * self.frequency_hz)
        values, vectors = np.linalg.eig(a)
        values, vectors = values.real, vectors.real
        inverse = np.linalg.inv(vectors)
        drive = (inverse @ b[..., None])[..., 0]
        rate = values[None]
        conducts = np.exp(rate * self.conduction_rad[:, None, None])
        h = ((self.theta_rad[:, -1] - self.theta_rad[:, 0]) / (_POINTS - 1))[:, None, None]
        step = np.exp(rate * h)
        # Between two samples the volts are straight: each mode takes them exactly.
        first = (step - 1) / rate
        later = (first - h) / rate
        fed = np.zeros(step.shape)
        for k in range(_POINTS - 1):
            v, slope = (
                self.open_v[:, k, None, None],
                (self.open_v[:, k + 1] - self.open_v[:, k])[:, None, None] / h,
            )
            fed = step * fed + drive[None] * (first * v + later * slope)
        whole = conducts * step ** (_POINTS - 1)
        free = np.einsum("mij,nmj,mjk->nmik", vectors, whole, inverse)
        forced = np.einsum("mij,nmj->nmi", vectors, fed)
        left = of.breakover_v - of.breakback_v
        if a.shape[-1] == 1:
            return np.asarray(forced[..., 0] - left * free[..., 0, 0] - of.breakover_v)
        # The first capacitor keeps what it has when the diac fires: it repeats, upside down.
        x = (forced[..., 0] - left * free[..., 0, 1]) / (1 + free[..., 0, 0])
        return np.asarray(forced[..., 1] - x * free[..., 1, 0] - left * free[..., 1, 1] - of.breakover_v)

    def fires_at(self, of: Networks) -> FloatArray:
        """Firing angle of each network while it fires; infinite where it goes out, shape (networks,) [rad]"""
        if len(self.firing_rad) < 4:
            return np.full(of.first_ohm.shape, np.inf)
        f = self.beyond(of)
        rises = (f[:-1] <= 0) & (f[1:] > 0)
        k = np.argmax(rises, axis=0)
        near = np.clip(k - 1, 0, len(f) - 4) + np.arange(4)[:, None]
        low, high = self.firing_rad[k], self.firing_rad[k + 1]
        mine = np.take_along_axis(f, near, axis=0)
        straight = (mine[1:] > mine[:-1]).all(axis=0)
        # The angle over the volts through four states, where the volts rise along all of them.
        curved = _through(
            np.zeros(f.shape[1]), np.where(straight, mine, np.arange(4.0)[:, None]), self.firing_rad[near]
        )
        f_low, f_high = (np.take_along_axis(f, at[None], axis=0)[0] for at in (k, k + 1))
        between = low - f_low * (high - low) / np.where(f_high > f_low, f_high - f_low, 1.0)
        angle = np.where(straight, np.clip(curved, low, high), between)
        # Nothing is left to charge in: it fires again as soon as the current ends.
        return np.asarray(np.where(rises.any(axis=0), angle, np.where(f[0] > 0, self.firing_rad[0], np.inf)))

    def speed_at(self, firing_rad: FloatArray) -> FloatArray:
        """Speed at firing angles; 0 where it does not fire, or holds no speed [rpm]"""
        return self._read(firing_rad, self.speed_rpm)

    def conduction_at(self, firing_rad: FloatArray) -> FloatArray:
        """How long it conducts at firing angles; 0 where it does not fire [rad]"""
        return self._read(firing_rad, self.conduction_rad)

    def _read(self, firing_rad: FloatArray, of: FloatArray) -> FloatArray:
        at = np.asarray(firing_rad, dtype=np.float64)
        if len(self.firing_rad) < 4:
            return np.zeros(at.shape)
        on = np.isfinite(at) & (at <= self.firing_rad[-1])
        x = np.clip(np.where(on, at, self.firing_rad[0]), self.firing_rad[0], self.firing_rad[-1])
        near = np.clip(np.searchsorted(self.firing_rad, x) - 2, 0, len(of) - 4) + np.arange(4).reshape(
            4, *(1,) * x.ndim
        )
        return np.asarray(np.where(on, _through(x, self.firing_rad[near], of[near]), 0.0))


def _through(x: FloatArray, xs: FloatArray, ys: FloatArray) -> FloatArray:
    """The cubic through four points, at x; points along the first axis."""
    total = np.zeros(x.shape)
    for i in range(4):
        weight = np.ones(x.shape)
        for j in range(4):
            if i != j:
                weight = weight * (x - xs[j]) / (xs[i] - xs[j])
        total = total + weight * ys[i]
    return total


@remembered
def running_orbits(motor: Machine, load: FanLoad, supply: Source, on_state_v: float = ON_STATE_V) -> Orbits:
    """States in which a fan stays by itself behind a triac, coming down from full speed.

    Parameters
    ----------
    motor : Machine
        Motor with scalar parameters [-]
    load : FanLoad
        Fan with scalar parameters [-]
    supply : Source
        Supply, a choke as its impedance [-]
    on_state_v : float
        Across the conducting triac [V]

    Returns
    -------
    Orbits
        Over firing angle, from where firing earlier changes nothing to where the fan stands [-]
    """
    full = phase_solutions(motor, load, supply, [0.0], on_state_v)[0]
    least = 0.0
    if full.from_full is not None:
        speed = np.array([full.points[full.from_full].speed_rpm])
        least = float(np.degrees(_fed(motor, supply, speed, on_state_v).load_angle_rad[0]))
    angles = max(least, 0.0) + 0.02 + (172.0 - max(least, 0.0)) * np.linspace(0.0, 1.0, _ANGLES) ** 1.6
    angles = angles[angles < 173.0]
    found: list[PhasePoint] = []
    for solution in phase_solutions(motor, load, supply, angles.tolist(), on_state_v):
        point = None if solution.from_full is None else solution.points[solution.from_full]
        if isinstance(point, PhasePoint) and point.conduction is Conduction.DISCONTINUOUS:
            found.append(point)

    def column(name: str) -> FloatArray:
        return np.array([getattr(p, name) for p in found], dtype=np.float64)

    alpha, tau = np.radians(column("firing_angle_deg")), np.radians(column("conduction_angle_deg"))
    theta = volts = np.zeros((0, _POINTS))
    if found:
        theta, volts = _fed(motor, supply, column("speed_rpm"), on_state_v).open_volts(alpha, tau, _POINTS)
    return Orbits(
        alpha, tau, column("speed_rpm"), theta, -volts, supply.frequency_hz, column("motor_voltage_v"),
        column("line_current_a"), column("input_power_w"), column("motor_loss_w"),
    )  # fmt: skip


def _fed(motor: Machine, supply: Source, speed: FloatArray, on_state_v: float) -> TriacFed:
    z = supply.impedance_ohm
    return TriacFed(switched(motor, speed, supply.frequency_hz, z.real, z.imag), supply.voltage_v, on_state_v)
