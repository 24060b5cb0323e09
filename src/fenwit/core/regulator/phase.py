"""Phase angle: the exact periodic state of triac and motor at fixed speed (docs/phase-angle.md).

Between switchings machine and line are linear, so the state after any conduction angle τ is known in exponentials. With
half-wave symmetry the state at firing follows from a trial τ by one linear solve, and the line current at the end of τ
is Im(G(τ) e^{jα}) − V_T D(τ). The firing angle α enters nowhere else: one table of G over τ serves every angle. The
orbit's τ is the first root at which the current has not been zero before.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import IntEnum
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from fenwit.core.errors import check_range
from fenwit.core.motor.switched import Switched

FloatArray = NDArray[np.float64]
ComplexArray = NDArray[np.complex128]
IntArray = NDArray[np.int64]

_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(14)
_TRIALS = np.radians(np.concatenate([[0.25, 1.0, 2.5], np.linspace(5.0, 180.0, 36)]))
_LONG_TRIALS = np.radians(np.concatenate([[0.25, 1.0, 2.5], np.linspace(5.0, 355.0, 71)]))
_LOOKED = np.linspace(0.0, 1.0, 25)
"""Where torque and crest are looked at, over a piece; a parabola goes through the highest three [-]"""
_INSIDE = np.linspace(0.08, 0.95, 10)
"""Where the sign of the current is looked at, over a conducting piece [-]"""
_SETTLED = 1e-11


class Conduction(IntEnum):
    """How the triac conducts."""

    NONE = 0
    """No current of the half-cycle's own sign: no periodic state of this form"""
    DISCONTINUOUS = 1
    FULL = 2
    """The current never stays at zero"""
    HALF_WAVE = 3
    """Every second half-cycle is missing: direct current in the motor"""


@dataclass(frozen=True, eq=False)
class PhaseStates:
    """Periodic states; every array has the shape of the angles and speeds that were asked for."""

    conduction: NDArray[np.int8]
    """Values of `Conduction` [-]"""
    firing_rad: FloatArray
    conduction_rad: FloatArray
    """How long it conducts, π where it never stops [rad]"""
    motor_voltage_v: FloatArray
    line_current_a: FloatArray
    average_current_a: FloatArray
    """Mean of the line current's amount: what heats the triac [A]"""
    crest_current_a: FloatArray
    main_current_a: FloatArray
    auxiliary_current_a: FloatArray
    """0 for a single-winding motor [A]"""
    capacitor_voltage_v: FloatArray
    input_power_w: FloatArray
    """Taken from the supply, the triac's own loss included [W]"""
    triac_loss_w: FloatArray
    torque_nm: FloatArray
    torque_ripple_nm: FloatArray | None
    """Highest less lowest; None for a single-winding motor, whose pulsating torque this model does not have [N·m]"""
    shaft_power_w: FloatArray
    rotor_loss_w: FloatArray
    winding_loss_w: FloatArray
    """Iron included [W]"""
    current_thd: FloatArray
    displacement_rad: FloatArray
    """Of the current's fundamental behind the supply [rad]"""
    step_v: FloatArray
    """By which the open triac's volts jump at extinction [V]"""

    @property
    def extinction_rad(self) -> FloatArray:
        """Where the current ends, from the supply's zero [rad]"""
        return self.firing_rad + self.conduction_rad

    @property
    def runs(self) -> NDArray[np.bool_]:
        """Where there is a state at all [-]"""
        return np.asarray(self.conduction != Conduction.NONE)


@dataclass(frozen=True, eq=False)
class _Modes:
    """Eigenvalues and vectors, one set for each speed."""

    values: ComplexArray
    vectors: ComplexArray
    inverse: ComplexArray

    def propagate(self, at: IntArray, angle: FloatArray) -> FloatArray:
        """e^{A angle} of each, shape (…, n, n)."""
        grown = np.exp(self.values[at] * angle[..., None])
        return np.asarray(((self.vectors[at] * grown[..., None, :]) @ self.inverse[at]).real)

    def free(self, at: IntArray, start: FloatArray, angles: FloatArray) -> FloatArray:
        """e^{A angle} start, shape (problems, angles, n); of the product only the real part is formed."""
        h = (self.inverse[at] @ start[..., None])[..., 0]
        grown = np.exp(self.values[at][:, None, :] * angles[..., None])
        grown *= h[:, None, :]
        across = np.swapaxes(self.vectors[at], -1, -2)
        found = np.ascontiguousarray(grown.real) @ np.ascontiguousarray(across.real)
        found -= np.ascontiguousarray(grown.imag) @ np.ascontiguousarray(across.imag)
        return np.asarray(found)


def _modes(a: FloatArray) -> _Modes:
    values, vectors = np.linalg.eig(a)
    return _Modes(
        np.asarray(values, dtype=np.complex128),
        np.asarray(vectors, dtype=np.complex128),
        np.asarray(np.linalg.inv(vectors), dtype=np.complex128),
    )


@dataclass(frozen=True, eq=False)
class TriacFed:
    """A machine behind a triac on a sine supply, at some speeds."""

    machine: Switched
    supply_v: float
    on_state_v: float = 0.0
    """Volts across the conducting triac, V_T [V]"""

    def __post_init__(self) -> None:
        check_range("supply_voltage_v", self.supply_v, 1.0, 1000.0, "V")
        check_range("on_state_voltage_v", self.on_state_v, 0.0, 10.0, "V")

    @cached_property
    def _on(self) -> _Modes:
        return _modes(self.machine.a_on)

    @cached_property
    def _off(self) -> _Modes:
        return _modes(self.machine.a_off)

    @cached_property
    def _forced(self) -> ComplexArray:
        """X_p: what the sine alone would drive, shape (speeds, n) [A]"""
        m = self.machine
        eye = np.eye(m.a_on.shape[-1])
        drive = (np.sqrt(2) * self.supply_v) * m.b_on[..., None]
        return np.asarray(np.linalg.solve(1j * eye - m.a_on, drive)[..., 0])

    @cached_property
    def _drop(self) -> FloatArray:
        """What a constant −V_T alone would drive, shape (speeds, n) [A]"""
        m = self.machine
        return np.asarray(np.linalg.solve(m.a_on, self.on_state_v * m.b_on[..., None])[..., 0])

    @cached_property
    def _table(self) -> tuple[ComplexArray, FloatArray]:
        """G and V_T D over all trials, shape (speeds, trials)."""
        speeds = len(self.machine.speed_rpm)
        at = np.repeat(np.arange(speeds), len(_TRIALS))
        _, _, g, d = self._trial(at, np.tile(_TRIALS, speeds), half_wave=False)
        return g.reshape(speeds, -1), d.reshape(speeds, -1)

    @cached_property
    def _long_table(self) -> tuple[ComplexArray, FloatArray]:
        speeds = len(self.machine.speed_rpm)
        at = np.repeat(np.arange(speeds), len(_LONG_TRIALS))
        _, _, g, d = self._trial(at, np.tile(_LONG_TRIALS, speeds), half_wave=True)
        return g.reshape(speeds, -1), d.reshape(speeds, -1)

    def _trial(
        self, at: IntArray, tau: FloatArray, *, half_wave: bool
    ) -> tuple[ComplexArray, FloatArray, ComplexArray, FloatArray]:
        """State at firing (per e^{jα}, and by V_T) and line current at the end of each trial conduction angle."""
        m = self.machine
        period, sign = (2 * np.pi, 1.0) if half_wave else (np.pi, -1.0)
        on = self._on.propagate(at, tau)
        rest = self._off.propagate(at, np.maximum(period - tau, 0.0)) @ m.extinguish
        forced, drop = self._forced[at], self._drop[at]
        turned = np.exp(1j * tau)[:, None] * forced
        # What the conducting piece adds by itself: sine in one column, V_T in the other.
        added = np.stack(
            [turned - _apply(on, forced), (drop - _apply(on, drop)).astype(np.complex128)], axis=-1
        )
        matrix = sign * np.eye(m.fire.shape[1]) - rest @ on @ m.fire
        z = np.linalg.solve(matrix, rest @ added)
        end = m.line @ (on @ (m.fire @ z) + added)
        return z[..., 0], z[..., 1].real, end[..., 0], end[..., 1].real

    @property
    def load_angle_rad(self) -> FloatArray:
        """ψ of each speed: where the current of full conduction crosses zero; firing before it changes nothing [rad]"""
        return self._full_zero[0]

    @cached_property
    def _full_zero(self) -> tuple[FloatArray, FloatArray]:
        """ψ, and the state's departure from the sine at ψ by V_T, shape (speeds, n)."""
        m = self.machine
        at = np.arange(len(m.speed_rpm))
        whole = self._on.propagate(at, np.full(len(at), np.pi))
        eye = np.eye(whole.shape[-1])
        away = np.linalg.solve(whole + eye, -2 * self._drop[..., None])[..., 0]
        phasor = self._forced @ m.line
        shift = np.arcsin(np.clip((self._drop + away) @ m.line / np.abs(phasor), -1.0, 1.0))
        return np.asarray(-np.angle(phasor) - shift), np.asarray(away, dtype=np.float64)

    def states(self, firing_rad: FloatArray, *, half_wave: bool = False) -> PhaseStates:
        """Periodic states over firing angle, at every speed of the machine.

        Parameters
        ----------
        firing_rad : array
            Firing angles from the supply's zero; broadcasts against shape (speeds, angles) [rad]
        half_wave : bool
            The state in which every second half-cycle is missing, as a short pulse before the load angle leaves it [-]

        Returns
        -------
        PhaseStates
            Arrays of shape (speeds, angles) [-]

        Raises
        ------
        InputError
            Angles outside 0 to 180°.
        """
        check_range("firing_angle_deg", np.degrees(np.asarray(firing_rad)), 0.0, 180.0, "°")
        speeds = len(self.machine.speed_rpm)
        alpha = np.atleast_2d(np.asarray(firing_rad, dtype=np.float64))
        shape = np.broadcast_shapes(alpha.shape, (speeds, 1))
        alpha = np.broadcast_to(alpha, shape).ravel()
        at = np.repeat(np.arange(speeds), shape[1])
        full = np.zeros(len(at), dtype=bool) if half_wave else alpha <= self.load_angle_rad[at]
        tau, z = self._orbits(at, alpha, half_wave, ~full)
        kind = np.where(
            np.isfinite(tau), Conduction.HALF_WAVE if half_wave else Conduction.DISCONTINUOUS, Conduction.NONE
        )
        kind = np.where(full, Conduction.FULL, kind)
        start = np.where(full, self.load_angle_rad[at], alpha)
        tau = np.where(full, np.pi, tau)
        found = self._observe(at, start, tau, z, full, 2 * np.pi if half_wave else np.pi)
        found["conduction"] = kind.astype(np.int8)
        found["firing_rad"], found["conduction_rad"] = start, tau
        none = kind == Conduction.NONE
        for name in found:
            value = found[name]
            if name not in ("conduction", "firing_rad") and value is not None:
                found[name] = np.where(none, 0.0, value)
        return PhaseStates(**{n: None if v is None else v.reshape(shape) for n, v in found.items()})  # type: ignore[arg-type]

    def _orbits(
        self, at: IntArray, alpha: FloatArray, half_wave: bool, wanted: NDArray[np.bool_]
    ) -> tuple[FloatArray, FloatArray]:
        """Conduction angle (infinite where there is none) and state at firing of each problem."""
        trials = _LONG_TRIALS if half_wave else _TRIALS
        g, d = self._long_table if half_wave else self._table
        f = (g[at] * np.exp(1j * alpha)[:, None]).imag + d[at]
        falls = (f[:, :-1] > 0) & (f[:, 1:] <= 0)
        tau = np.full(len(at), np.inf)
        state = np.zeros((len(at), self.machine.fire.shape[1]))
        open_ = np.flatnonzero(wanted & falls.any(axis=1))
        size = np.abs(self._forced[at] @ self.machine.line)
        while len(open_):
            j = np.argmax(falls[open_], axis=1)
            falls[open_, j] = False
            root, z, miss = self._refine(
                at[open_], alpha[open_], trials[j], trials[j + 1], f[open_, j], f[open_, j + 1], half_wave
            )
            good = np.abs(miss) < 1e-6 * size[open_]
            good &= self._one_sign(at[open_], alpha[open_], root, z)
            done = open_[good]
            tau[done], state[done] = root[good], z[good]
            open_ = open_[~good]
            open_ = open_[falls[open_].any(axis=1)]
        return tau, state

    def _refine(
        self, at: IntArray, alpha: FloatArray, low: FloatArray, high: FloatArray, f_low: FloatArray, f_high: FloatArray,
        half_wave: bool,
    ) -> tuple[FloatArray, FloatArray, FloatArray]:  # fmt: skip
        """Roots between brackets by safeguarded regula falsi (Illinois), all at once."""
        turn = np.exp(1j * alpha)
        low, high, f_low, f_high = low.copy(), high.copy(), f_low.copy(), f_high.copy()
        x = np.where(np.abs(f_low) < np.abs(f_high), low, high)
        z = np.zeros((len(at), self.machine.fire.shape[1]))
        f = np.full(len(at), np.inf)
        side = np.zeros(len(at))
        for _ in range(24):
            new = np.clip((low * f_high - high * f_low) / (f_high - f_low), low, high)
            moved = np.abs(new - x)
            x = new
            z_p, z_t, g, d = self._trial(at, x, half_wave=half_wave)
            f = (g * turn).imag + d
            z = (z_p * turn[:, None]).imag + z_t
            if (moved < _SETTLED).all() or (np.abs(f) < 1e-12).all():
                break
            below = f > 0
            f_high = np.where(below & (side == 1), f_high / 2, f_high)
            f_low = np.where(~below & (side == -1), f_low / 2, f_low)
            low, f_low = np.where(below, x, low), np.where(below, f, f_low)
            high, f_high = np.where(below, high, x), np.where(below, f_high, f)
            side = np.where(below, 1.0, -1.0)
        return x, z, f

    def _conducting(
        self, at: IntArray, start: FloatArray, away: FloatArray, angles: FloatArray
    ) -> FloatArray:
        """States so many radians after ``start``, shape (problems, angles, n)."""
        forced, drop = self._forced[at], self._drop[at]
        theta = (start[:, None] + angles)[..., None]
        found = self._on.free(at, away, angles)
        found += np.sin(theta) * forced.real[:, None, :]
        found += np.cos(theta) * forced.imag[:, None, :]
        found += drop[:, None, :]
        return found

    def _away(self, at: IntArray, start: FloatArray, z: FloatArray) -> FloatArray:
        """How far the state at firing is from what the sources alone would drive."""
        forced, drop = self._forced[at], self._drop[at]
        return np.asarray(z @ self.machine.fire.T - (forced * np.exp(1j * start)[:, None]).imag - drop)

    def _one_sign(self, at: IntArray, alpha: FloatArray, tau: FloatArray, z: FloatArray) -> NDArray[np.bool_]:
        """Whether the line current stays above zero all the way."""
        x = self._conducting(at, alpha, self._away(at, alpha, z), tau[:, None] * _INSIDE)
        i = x @ self.machine.line
        return np.asarray((i > -1e-9 * np.abs(i).max(axis=1, keepdims=True)).all(axis=1))

    def _observe(
        self, at: IntArray, start: FloatArray, tau: FloatArray, z: FloatArray, full: NDArray[np.bool_], period: float
    ) -> dict[str, FloatArray | None]:  # fmt: skip
        """Averages by Gauss quadrature over the two smooth pieces, extremes from samples."""
        m = self.machine
        some = np.where(np.isfinite(tau), tau, 1.0)
        away = np.where(full[:, None], self._full_zero[1][at], self._away(at, start, z))
        half = 0.5 * (_NODES + 1)
        u = some[:, None] * half
        weight = some[:, None] * (0.5 * _WEIGHTS / period)
        x = self._conducting(at, start, away, u)
        theta = start[:, None] + u
        supply = np.sqrt(2) * self.supply_v * np.sin(theta)
        i = x @ m.line
        drive = supply - self.on_state_v
        volts = drive - m.line_ohm * i
        if m.line_reactance_ohm:
            slope = np.einsum("pij,pkj->pki", m.a_on[at], x) + m.b_on[at][:, None, :] * drive[..., None]
            volts = volts - m.line_reactance_ohm * (slope @ m.line)
        # The open piece begins with the state at extinction.
        end = self._conducting(at, start, away, some[:, None])[:, 0] @ m.extinguish.T
        rest = np.maximum(period - some, 0.0)
        v = rest[:, None] * half
        rest_weight = rest[:, None] * (0.5 * _WEIGHTS / period)
        y = self._off.free(at, end, v)
        x_open = y @ m.fire.T
        volts_open = np.einsum("pkj,pj->pk", y, m.off_volts[at])

        def mean(on: FloatArray, off: FloatArray | None = None) -> FloatArray:
            total = (on * weight).sum(axis=1)
            return np.asarray(total if off is None else total + (off * rest_weight).sum(axis=1))

        def rms(row: FloatArray | None) -> FloatArray:
            if row is None:
                return np.zeros(len(at))
            return np.sqrt(mean((x @ row) ** 2, (x_open @ row) ** 2))

        line = np.sqrt(mean(i**2))
        # Fundamental of the line current; by symmetry half a period is enough where both halves are alike.
        first = 2 * mean(i * np.exp(-1j * theta))
        first_rms = np.abs(first) / np.sqrt(2)
        rotor_on, rotor_off = x @ m.rotor.T, x_open @ m.rotor.T
        gap = m.rotor_ohm[at] * mean((rotor_on**2).sum(axis=-1), (rotor_off**2).sum(axis=-1))
        omega = m.omega_s * m.speed_rpm[at] / (m.omega_s * 30 / np.pi)
        looked = self._conducting(at, start, away, some[:, None] * _LOOKED)
        crest = _highest(np.abs(looked @ m.line))
        if m.torque is not None:
            torque = mean(_square(x, m.torque), _square(x_open, m.torque))
            looked_open = self._off.free(at, end, rest[:, None] * _LOOKED) @ m.fire.T
            pieces = _square(looked, m.torque), _square(looked_open, m.torque)
            highest = np.maximum(*(_highest(p) for p in pieces))
            ripple = highest + np.maximum(*(_highest(-p) for p in pieces))
            shaft, rotor_loss = torque * omega, gap
        else:
            turning = start[:, None] + some[:, None] + v
            second = 2 * (
                mean(rotor_on[..., 0] * np.exp(-1j * theta))
                + ((rotor_off[..., 0] * np.exp(-1j * turning)) * rest_weight).sum(axis=1)
            )
            torque = m.torque_factor * (np.abs(second) ** 2 / 2) * m.rotor_ohm[at] / m.omega_s
            ripple = None
            shaft = torque * omega
            rotor_loss = gap - shaft
        core = 0.0 if m.gap is None else m.core_s * mean((x @ m.gap) ** 2, (x_open @ m.gap) ** 2)
        main, auxiliary = rms(m.main), rms(m.auxiliary)
        stop = start + some
        open_volts = np.einsum("pj,pj->p", end, m.off_volts[at])
        return {
            "motor_voltage_v": np.sqrt(mean(volts**2, volts_open**2)),
            "line_current_a": line,
            "average_current_a": mean(np.abs(i)),
            "crest_current_a": crest,
            "main_current_a": main,
            "auxiliary_current_a": auxiliary,
            "capacitor_voltage_v": rms(m.capacitor),
            "input_power_w": mean(supply * i),
            "triac_loss_w": self.on_state_v * mean(np.abs(i)),
            "torque_nm": torque,
            "torque_ripple_nm": ripple,
            "shaft_power_w": shaft,
            "rotor_loss_w": rotor_loss,
            "winding_loss_w": m.winding_ohm[0] * main**2 + m.winding_ohm[1] * auxiliary**2 + core,
            "current_thd": np.sqrt(np.maximum(line**2 - first_rms**2, 0.0)) / np.maximum(first_rms, 1e-12),
            "displacement_rad": -np.angle(first * 1j),
            "step_v": np.where(full, 0.0, np.sqrt(2) * self.supply_v * np.sin(stop) - open_volts),
        }


def _apply(matrix: FloatArray, vector: NDArray[Any]) -> NDArray[Any]:
    return np.asarray((matrix @ vector[..., None])[..., 0])


def _highest(values: FloatArray) -> FloatArray:
    """Highest of evenly spread samples over the last axis, with a parabola through the highest three."""
    rows = np.arange(len(values))
    k = np.clip(np.argmax(values, axis=1), 1, values.shape[1] - 2)
    left, middle, right = values[rows, k - 1], values[rows, k], values[rows, k + 1]
    bend = left - 2 * middle + right
    peak = middle - (right - left) ** 2 / np.where(bend < 0, 8 * bend, -np.inf)
    inside = (bend < 0) & (np.abs(right - left) < 2 * np.abs(bend))
    return np.asarray(np.where(inside, peak, values.max(axis=1)))


def _square(x: FloatArray, form: FloatArray) -> FloatArray:
    """xᵀ Q x over the last axis."""
    return np.asarray(((x @ form) * x).sum(axis=-1))
