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

from fenwit.core.errors import InputError, check_range
from fenwit.core.motor.switched import Switched

FloatArray = NDArray[np.float64]
ComplexArray = NDArray[np.complex128]
IntArray = NDArray[np.int64]


def _gauss(count: int, crowding: int) -> tuple[FloatArray, FloatArray]:
    """Nodes and weights over 0 to 1; with u = s^crowding most of them stand near 0, where fast modes die away."""
    nodes, weights = np.polynomial.legendre.leggauss(count)
    s = 0.5 * (nodes + 1)
    return np.asarray(s**crowding), np.asarray(0.5 * weights * crowding * s ** (crowding - 1))


_SMOOTH, _CROWDED, _STIFF = _gauss(14, 1), _gauss(28, 3), 15.0
"""The second where a mode is faster than the limit: up to 300 per radian good to 1e-7 [-]"""
_FINE = _gauss(48, 1)
"""For what turns a few times within a piece [-]"""
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
    open_v: FloatArray
    """Across the triac just before it fires [V]"""
    growth: FloatArray
    """Largest factor by which a small departure grows in one period; above 1 the state does not last [-]"""

    @property
    def extinction_rad(self) -> FloatArray:
        """Where the current ends, from the supply's zero [rad]"""
        return self.firing_rad + self.conduction_rad

    @property
    def runs(self) -> NDArray[np.bool_]:
        """Where there is a state at all [-]"""
        return np.asarray(self.conduction != Conduction.NONE)


@dataclass(frozen=True, eq=False)
class Waveforms:
    """One period from the supply's rising zero; arrays of one shape."""

    theta_rad: FloatArray
    supply_v: FloatArray
    motor_v: FloatArray
    line_a: FloatArray
    main_a: FloatArray
    auxiliary_a: FloatArray | None
    capacitor_v: FloatArray | None
    torque_nm: FloatArray | None
    """None for a single-winding motor, whose pulsating torque this model does not have [N·m]"""
    triac_v: FloatArray
    conducting: NDArray[np.bool_]


ORDERS = np.arange(1, 41, 2)
"""Harmonics of the mains in a line current whose halves are alike, to the 39th [-]"""
_BEATS = np.array([1, 2, 3])
"""Multiples of twice the mains at which a torque is looked at [-]"""


@dataclass(frozen=True, eq=False)
class Spectra:
    """What a chopped wave has in it, one row for each state."""

    line_a: FloatArray
    """Of the line current at each of `ORDERS`, rms, shape (states, orders) [A]"""
    torque_nm: FloatArray | None
    """Amplitude of the torque at 2, 4 and 6 times the mains, shape (states, 3); None for a single winding [N·m]"""


@dataclass(frozen=True, eq=False)
class _Modes:
    """Eigenvalues and vectors, one set for each speed; of a conjugate pair only one, counted twice.

    Arrays (speeds, modes), (speeds, n, modes) and (speeds, modes, n); where a speed has fewer modes than another the rest
    of its vectors is 0.
    """

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
    values, vectors = (np.asarray(v, dtype=np.complex128) for v in np.linalg.eig(a))
    inverse = np.asarray(np.linalg.inv(vectors), dtype=np.complex128)
    # The matrix is real: what the other one of a pair adds is the conjugate, so the real part is twice that of one.
    weight = np.where(values.imag > 0, 2.0, np.where(values.imag < 0, 0.0, 1.0))
    kept = int((weight > 0).sum(axis=-1).max())
    first = np.argsort(weight == 0, axis=-1, kind="stable")[..., :kept]
    weight = np.take_along_axis(weight, first, -1)
    return _Modes(
        np.take_along_axis(values, first, -1),
        np.take_along_axis(vectors, first[..., None, :], -1) * weight[..., None, :],
        np.take_along_axis(inverse, first[..., None], -2),
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
    def _quadrature(self) -> tuple[FloatArray, FloatArray]:
        fastest = max(float(np.abs(m.values.real).max()) for m in (self._on, self._off))
        return _SMOOTH if fastest < _STIFF else _CROWDED

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
        return self._put_together(at, alpha, tau, z, full, half_wave, shape)

    def _put_together(
        self, at: IntArray, alpha: FloatArray, tau: FloatArray, z: FloatArray, full: NDArray[np.bool_],
        half_wave: bool, shape: tuple[int, ...] | None = None,
    ) -> PhaseStates:  # fmt: skip
        kind = np.where(
            np.isfinite(tau), Conduction.HALF_WAVE if half_wave else Conduction.DISCONTINUOUS, Conduction.NONE
        )
        kind = np.where(full, Conduction.FULL, kind)
        start = np.where(full, self.load_angle_rad[at], alpha)
        tau = np.where(full, np.pi, tau)
        found = self._observe(self._pieces(at, start, tau, z, full, 2 * np.pi if half_wave else np.pi), full)
        found["growth"] = self._growth(at, start, tau, z, full, half_wave)
        found["conduction"] = kind.astype(np.int8)
        found["firing_rad"], found["conduction_rad"] = start, tau
        none = kind == Conduction.NONE
        for name in found:
            value = found[name]
            if name not in ("conduction", "firing_rad") and value is not None:
                found[name] = np.where(none, 0.0, value)
        shape = shape or alpha.shape
        return PhaseStates(**{n: None if v is None else v.reshape(shape) for n, v in found.items()})  # type: ignore[arg-type]

    def states_near(self, firing_rad: FloatArray, conduction_rad: FloatArray) -> PhaseStates:
        """One periodic state for each speed, from a guess of its conduction angle; a poor guess costs time only.

        Parameters
        ----------
        firing_rad, conduction_rad : array
            Shape (speeds,) [rad]

        Returns
        -------
        PhaseStates
            Arrays of shape (speeds,) [-]

        Raises
        ------
        InputError
            Angles outside 0 to 180°.
        """
        return self._put_together(*self._near(firing_rad, conduction_rad), False)

    def _near(
        self, firing_rad: FloatArray, conduction_rad: FloatArray
    ) -> tuple[IntArray, FloatArray, FloatArray, FloatArray, NDArray[np.bool_]]:
        check_range("firing_angle_deg", np.degrees(firing_rad), 0.0, 180.0, "°")
        at = np.arange(len(self.machine.speed_rpm))
        alpha = np.asarray(firing_rad, dtype=np.float64)
        full = alpha <= self.load_angle_rad
        tau, z, miss = self._secant(at, alpha, np.clip(conduction_rad, 1e-3, np.pi))
        size = np.abs(self._forced @ self.machine.line)
        good = (np.abs(miss) < 1e-6 * size) & (tau > 0) & (tau < np.pi)
        good &= self._one_sign(at, alpha, np.where(good, tau, 1.0), z)
        again = ~(good | full)
        if again.any():
            tau[again], z[again] = self._orbits(
                at[again], alpha[again], False, np.ones(again.sum(), dtype=bool)
            )
        return at, alpha, tau, z, full

    def _secant(
        self, at: IntArray, alpha: FloatArray, guess: FloatArray
    ) -> tuple[FloatArray, FloatArray, FloatArray]:
        turn = np.exp(1j * alpha)
        before, x = guess, np.clip(guess * 1.0005, 1e-3, np.pi - 1e-9)
        _, _, g, d = self._trial(at, before, half_wave=False)
        f_before = (g * turn).imag + d
        for _ in range(8):
            z_p, z_t, g, d = self._trial(at, x, half_wave=False)
            f = (g * turn).imag + d
            z = (z_p * turn[:, None]).imag + z_t
            gap = f - f_before
            step = np.where(gap == 0, 0.0, -f * (x - before) / np.where(gap == 0, 1.0, gap))
            if (np.abs(step) < _SETTLED).all():
                break
            before, f_before = x, f
            x = np.clip(x + np.clip(step, -0.2, 0.2), 1e-3, np.pi - 1e-9)
        return x, z, f

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

    def _growth(
        self, at: IntArray, start: FloatArray, tau: FloatArray, z: FloatArray, full: NDArray[np.bool_],
        half_wave: bool,
    ) -> FloatArray:  # fmt: skip
        """Largest multiplier of the map from firing to firing; the moment of extinction moves with the state."""
        m = self.machine
        some = np.where(np.isfinite(tau), tau, 1.0)
        on = self._on.propagate(at, some)
        off = self._off.propagate(at, np.maximum((2 * np.pi if half_wave else np.pi) - some, 0.0))
        away = np.where(full[:, None], self._full_zero[1][at], self._away(at, start, z))
        x = self._conducting(at, start, away, some[:, None])[:, 0]
        drive = np.sqrt(2) * self.supply_v * np.sin(start + some) - self.on_state_v
        slope = _apply(m.a_on[at], x) + m.b_on[at] * drive[:, None]
        reached = on @ m.fire
        earlier = (m.line @ reached) / np.where(slope @ m.line == 0, np.inf, slope @ m.line)[:, None]
        jump = slope @ m.extinguish.T - _apply(m.a_off[at], x @ m.extinguish.T)
        step = off @ (m.extinguish @ reached - jump[:, :, None] * earlier[:, None, :])
        switched_off = np.abs(np.linalg.eigvals(step)).max(axis=1)
        never = np.abs(np.exp(self._on.values[at] * np.pi)).max(axis=1)
        return np.asarray(np.where(full, never, switched_off))

    def waveforms(self, firing_rad: float, samples: int = 720, *, half_wave: bool = False) -> Waveforms:
        """One period of the first speed's state.

        Parameters
        ----------
        firing_rad : float
            Firing angle [rad]
        samples : int
            Points over the period [-]
        half_wave : bool
            As for `states` [-]

        Returns
        -------
        Waveforms
            Arrays of shape (samples,) [-]

        Raises
        ------
        InputError
            An angle outside 0 to 180°, too few samples, or no periodic state.
        """
        check_range("samples", samples, 16, 100_000, "")
        m = self.machine
        found = self.states(np.array([[firing_rad]]), half_wave=half_wave)
        if not found.runs.all():
            raise InputError(
                "firing_angle_deg", float(np.degrees(firing_rad)), "an angle with a steady state",
                "no steady state of this form at this speed",
            )  # fmt: skip
        at, full = np.zeros(1, dtype=np.int64), found.conduction[0] == Conduction.FULL
        start, some = found.firing_rad[0], found.conduction_rad[0]
        _, z = self._orbits(at, start, half_wave, ~full)
        period = 2 * np.pi if half_wave else np.pi
        away = np.where(full[:, None], self._full_zero[1][at], self._away(at, start, z))
        end = self._conducting(at, start, away, some[:, None])[:, 0] @ m.extinguish.T
        theta = np.linspace(0.0, 2 * np.pi, samples, endpoint=False)
        since = np.mod(theta - start[0], period)
        # The other half is the same upside down.
        sign = (
            np.ones(samples)
            if half_wave
            else np.where(np.mod(theta - start[0], 2 * np.pi) < np.pi, 1.0, -1.0)
        )
        on = since <= some[0]
        x_on = self._conducting(at, start, away, np.minimum(since, some[0])[None])[0]
        y = self._off.free(at, end, np.maximum(since - some[0], 0.0)[None])[0]
        x = np.where(on[:, None], x_on, y @ m.fire.T)
        supply = np.sqrt(2) * self.supply_v * np.sin(theta)
        drive = supply * sign - self.on_state_v
        slope = x @ m.a_on[0].T + m.b_on[0] * drive[:, None]
        line = x @ m.line
        fed = drive - m.line_ohm * line - m.line_reactance_ohm * (slope @ m.line)
        motor = np.where(on, fed, y @ m.off_volts[0]) * sign
        return Waveforms(
            theta, supply, motor, np.where(on, line, 0.0) * sign, (x @ m.main) * sign,
            None if m.auxiliary is None or m.capacitor is None else (x @ m.auxiliary) * sign,
            None if m.capacitor is None else (x @ m.capacitor[0]) * sign,
            None if m.torque is None else _square(x, m.torque[0]),
            np.where(on, self.on_state_v * sign, supply - motor), on,
        )  # fmt: skip

    def open_volts(
        self, firing_rad: FloatArray, conduction_rad: FloatArray, points: int = 121
    ) -> tuple[FloatArray, FloatArray]:
        """Volts across the open triac from the current's end to the next firing, one state for each speed.

        Parameters
        ----------
        firing_rad, conduction_rad : array
            Firing angles, and guesses of the conduction angles, shape (speeds,) [rad]
        points : int
            How many, evenly over the open piece [-]

        Returns
        -------
        tuple of array
            Angles and volts, shape (speeds, points); of the half-cycle that follows a positive one, so they fall below
            zero. Angles are NaN-free: where there is no periodic state the volts are the mains' own [rad, V]

        Raises
        ------
        InputError
            Angles outside 0 to 180°.
        """
        at, alpha, tau, z, full = self._near(firing_rad, conduction_rad)
        none = ~np.isfinite(tau) & ~full
        start = np.where(full, self.load_angle_rad[at], alpha)
        some = np.where(full, np.pi, np.where(none, np.pi - start, tau))
        away = np.where(full[:, None], self._full_zero[1][at], self._away(at, start, z))
        end = self._conducting(at, start, away, some[:, None])[:, 0] @ self.machine.extinguish.T
        since = (np.pi - some)[:, None] * np.linspace(0.0, 1.0, points)
        theta = (start + some)[:, None] + since
        motor = (self._off.free(at, end, since) @ self.machine.off_volts[at][..., None])[..., 0]
        supply = np.sqrt(2) * self.supply_v * np.sin(theta)
        return theta, np.where(none[:, None], supply, supply - motor)

    def spectra(self, firing_rad: FloatArray, conduction_rad: FloatArray) -> Spectra:
        """Harmonics of line current and torque, one state for each speed, from a guess of the conduction angle.

        The line current is a sum of exponentials and of the sine while it flows, nothing else: its Fourier integrals are
        those of exponentials, in closed form. The torque is squares of such sums, smooth on both pieces.

        Parameters
        ----------
        firing_rad, conduction_rad : array
            Shape (speeds,) [rad]

        Returns
        -------
        Spectra
            Arrays of shape (speeds, …); 0 where there is no periodic state [-]

        Raises
        ------
        InputError
            Angles outside 0 to 180°.
        """
        at, alpha, tau, z, full = self._near(firing_rad, conduction_rad)
        none = ~np.isfinite(tau) & ~full
        start = np.where(full, self.load_angle_rad[at], alpha)
        some = np.where(full, np.pi, np.where(np.isfinite(tau), tau, 1.0))
        away = np.where(full[:, None], self._full_zero[1][at], self._away(at, start, z))
        line = self._line_harmonics(at, start, some, away)
        line[none] = 0.0
        m, torque = self.machine, None
        if m.torque is not None:
            nodes, weights = _FINE
            u, v = some[:, None] * nodes, (np.pi - some)[:, None] * nodes
            end = self._conducting(at, start, away, some[:, None])[:, 0] @ m.extinguish.T
            on = _square(self._conducting(at, start, away, u), m.torque[at])
            off = _square(self._off.free(at, end, v) @ m.fire.T, m.torque[at])
            beat = -2j * _BEATS[:, None, None]
            mean = (on * np.exp(beat * (start[:, None] + u)) @ weights) * some / np.pi
            mean += (off * np.exp(beat * ((start + some)[:, None] + v)) @ weights) * (1 - some / np.pi)
            torque = np.where(none[:, None], 0.0, 2 * np.abs(mean.T))
        return Spectra(np.asarray(line), torque)

    def _line_harmonics(
        self, at: IntArray, start: FloatArray, some: FloatArray, away: FloatArray
    ) -> FloatArray:
        """∫ i e^{−jkθ} dθ over the conducting piece, term by term; rms, shape (states, orders) [A]"""
        m, k = self.machine, ORDERS[None, :]

        def grown(rate: ComplexArray) -> ComplexArray:
            """∫ e^{rate u} du from 0 to the end of the piece."""
            end = rate * some.reshape((-1,) + (1,) * (rate.ndim - 1))
            small = np.abs(end) < 1e-9
            safe = np.where(small, 1.0, rate)
            length = np.broadcast_to(some.reshape((-1,) + (1,) * (rate.ndim - 1)), rate.shape)
            return np.asarray(np.where(small, length, np.expm1(np.where(small, 0.0, end)) / safe))

        own = (self._on.inverse[at] @ away[..., None])[..., 0] * (m.line @ self._on.vectors[at])
        values = self._on.values[at][..., None]
        # Of the modes only the real part is current: half of each and half of its conjugate.
        modes = (own[..., None] * grown(values - 1j * k[:, None, :])).sum(axis=1)
        modes += (own.conj()[..., None] * grown(values.conj() - 1j * k[:, None, :])).sum(axis=1)
        forced = (self._forced[at] @ m.line)[:, None] * np.exp(1j * start)[:, None]
        sine = forced * grown(np.broadcast_to(1j * (1 - k), (len(at), k.shape[1])))
        sine -= forced.conj() * grown(np.broadcast_to(-1j * (1 + k), (len(at), k.shape[1])))
        flat = (self._drop[at] @ m.line)[:, None] * grown(np.broadcast_to(-1j * k, (len(at), k.shape[1])))
        whole = (0.5 * modes + sine / 2j + flat) * np.exp(-1j * k * start[:, None])
        return np.asarray(np.abs(whole) * (2 / np.pi) / np.sqrt(2))

    def torques(self, firing_rad: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Torque alone over firing angle, at every speed of the machine: half the work of `states`.

        Parameters
        ----------
        firing_rad : array
            Firing angles, shape (angles,) [rad]

        Returns
        -------
        tuple of array
            Torque and conduction angle, shape (speeds, angles); 0 where there is no periodic state [N·m|rad]

        Raises
        ------
        InputError
            Angles outside 0 to 180°.
        """
        check_range("firing_angle_deg", np.degrees(firing_rad), 0.0, 180.0, "°")
        speeds, angles = len(self.machine.speed_rpm), len(firing_rad)
        at, alpha = np.repeat(np.arange(speeds), angles), np.tile(firing_rad, speeds)
        full = alpha <= self.load_angle_rad[at]
        tau, z = self._orbits(at, alpha, False, ~full)
        torque, tau = self._torque_alone(at, alpha, tau, z, full)
        return torque.reshape(speeds, angles), tau.reshape(speeds, angles)

    def torques_near(
        self, firing_rad: FloatArray, conduction_rad: FloatArray
    ) -> tuple[FloatArray, FloatArray]:
        """Torque alone, one angle for each speed, from a guess of the conduction angle as for `states_near`.

        Parameters
        ----------
        firing_rad : array
            Firing angles, shape (speeds,) [rad]
        conduction_rad : array
            Guesses, shape (speeds,) [rad]

        Returns
        -------
        tuple of array
            Torque and conduction angle, shape (speeds,) [N·m|rad]

        Raises
        ------
        InputError
            Angles outside 0 to 180°.
        """
        return self._torque_alone(*self._near(firing_rad, conduction_rad))

    def _torque_alone(
        self, at: IntArray, alpha: FloatArray, tau: FloatArray, z: FloatArray, full: NDArray[np.bool_]
    ) -> tuple[FloatArray, FloatArray]:
        tau = np.where(full, np.pi, tau)
        none = ~np.isfinite(tau)
        start = np.where(full, self.load_angle_rad[at], alpha)
        torque = self._torque(self._pieces(at, start, tau, z, full, np.pi))
        return np.where(none, 0.0, torque), np.where(none, 0.0, tau)

    def _pieces(
        self, at: IntArray, start: FloatArray, tau: FloatArray, z: FloatArray, full: NDArray[np.bool_], period: float
    ) -> _Pieces:  # fmt: skip
        """States at the nodes of both smooth pieces; the open one begins with the state at extinction."""
        m = self.machine
        some = np.where(np.isfinite(tau), tau, 1.0)
        away = np.where(full[:, None], self._full_zero[1][at], self._away(at, start, z))
        along, weights = self._quadrature
        u = some[:, None] * along
        rest = np.maximum(period - some, 0.0)
        v = rest[:, None] * along
        end = self._conducting(at, start, away, some[:, None])[:, 0] @ m.extinguish.T
        y = self._off.free(at, end, v)
        return _Pieces(
            at, start, some, rest, away, end, start[:, None] + u, (start + some)[:, None] + v,
            self._conducting(at, start, away, u), y, y @ m.fire.T,
            some[:, None] * (weights / period), rest[:, None] * (weights / period),
        )  # fmt: skip

    def _torque(self, p: _Pieces) -> FloatArray:
        m = self.machine
        if m.torque is not None:
            form = m.torque[p.at]
            mean: FloatArray = p.mean(_square(p.x, form), _square(p.x_open, form))
            return mean
        # The one-phase circuit: only the rotor current's fundamental makes torque.
        rotor = m.rotor[p.at, 0][..., None]
        first = 2 * p.mean(
            (p.x @ rotor)[..., 0] * np.exp(-1j * p.theta),
            (p.x_open @ rotor)[..., 0] * np.exp(-1j * p.theta_open),
        )
        return np.asarray(m.torque_factor[p.at] * (np.abs(first) ** 2 / 2) * m.rotor_ohm[p.at] / m.omega_s)

    def _observe(self, p: _Pieces, full: NDArray[np.bool_]) -> dict[str, FloatArray | None]:
        """Averages by Gauss quadrature over the two smooth pieces, extremes from samples."""
        m, at = self.machine, p.at
        supply = np.sqrt(2) * self.supply_v * np.sin(p.theta)
        i = p.x @ m.line
        drive = supply - self.on_state_v
        volts = drive - m.line_ohm * i
        if m.line_reactance_ohm:
            slope = np.einsum("pij,pkj->pki", m.a_on[at], p.x) + m.b_on[at][:, None, :] * drive[..., None]
            volts = volts - m.line_reactance_ohm * (slope @ m.line)
        volts_open = np.einsum("pkj,pj->pk", p.y, m.off_volts[at])

        def rms(row: FloatArray | None) -> FloatArray:
            if row is None:
                return np.zeros(len(at))
            row = np.broadcast_to(row, (len(at), row.shape[-1]))[..., None]
            return np.asarray(np.sqrt(p.mean((p.x @ row)[..., 0] ** 2, (p.x_open @ row)[..., 0] ** 2)))

        line = np.sqrt(p.mean(i**2))
        # Fundamental of the line current; by symmetry half a period is enough where both halves are alike.
        first = 2 * p.mean(i * np.exp(-1j * p.theta))
        first_rms = np.abs(first) / np.sqrt(2)
        rotor = np.swapaxes(m.rotor[at], -1, -2)
        rotor_on, rotor_off = p.x @ rotor, p.x_open @ rotor
        gap = m.rotor_ohm[at] * p.mean((rotor_on**2).sum(axis=-1), (rotor_off**2).sum(axis=-1))
        torque = self._torque(p)
        shaft = torque * m.speed_rpm[at] * (np.pi / 30)
        looked = self._conducting(at, p.start, p.away, p.some[:, None] * _LOOKED)
        ripple = None
        if m.torque is not None:
            looked_open = self._off.free(at, p.end, p.rest[:, None] * _LOOKED) @ m.fire.T
            both = _square(looked, m.torque[at]), _square(looked_open, m.torque[at])
            highest = np.maximum(*(_highest(b) for b in both))
            ripple = highest + np.maximum(*(_highest(-b) for b in both))
        core: FloatArray | float = 0.0
        if m.gap is not None:
            rows = np.swapaxes(m.gap[at], -1, -2)
            core = m.core_s[at] * p.mean(((p.x @ rows) ** 2).sum(-1), ((p.x_open @ rows) ** 2).sum(-1))
        main, auxiliary = rms(m.main), rms(m.auxiliary)
        open_volts = np.einsum("pj,pj->p", p.end, m.off_volts[at])
        stop = np.sqrt(2) * self.supply_v * np.sin(p.start + p.some)
        fired = self._conducting(at, p.start, p.away, np.zeros((len(at), 1)))[:, 0] @ m.extinguish.T
        before = np.sqrt(2) * self.supply_v * np.sin(p.start) - np.einsum("pj,pj->p", fired, m.off_volts[at])
        return {
            "motor_voltage_v": np.sqrt(p.mean(volts**2, volts_open**2)),
            "line_current_a": line,
            "average_current_a": p.mean(np.abs(i)),
            "crest_current_a": _highest(np.abs(looked @ m.line)),
            "main_current_a": main,
            "auxiliary_current_a": auxiliary,
            "capacitor_voltage_v": rms(None if m.capacitor is None else m.capacitor[at]),
            "input_power_w": p.mean(supply * i),
            "triac_loss_w": self.on_state_v * p.mean(np.abs(i)),
            "torque_nm": torque,
            "torque_ripple_nm": ripple,
            "shaft_power_w": shaft,
            # In the one-phase circuit R2/s stands for heat and shaft together.
            "rotor_loss_w": gap if m.torque is not None else gap - shaft,
            "winding_loss_w": m.winding_ohm[at, 0] * main**2 + m.winding_ohm[at, 1] * auxiliary**2 + core,
            "current_thd": np.sqrt(np.maximum(line**2 - first_rms**2, 0.0)) / np.maximum(first_rms, 1e-12),
            "displacement_rad": -np.angle(first * 1j),
            "step_v": np.where(full, 0.0, stop - open_volts),
            "open_v": np.where(full, 0.0, before),
        }


@dataclass(frozen=True, eq=False)
class _Pieces:
    """The conducting and the open piece of some periodic states, at Gauss nodes."""

    at: IntArray
    start: FloatArray
    some: FloatArray
    """Length of the conducting piece [rad]"""
    rest: FloatArray
    away: FloatArray
    end: FloatArray
    """Open state at extinction [A]"""
    theta: FloatArray
    theta_open: FloatArray
    x: FloatArray
    y: FloatArray
    x_open: FloatArray
    """y, written as a conducting state [A]"""
    weight: FloatArray
    rest_weight: FloatArray

    def mean(self, on: NDArray[Any], off: NDArray[Any] | None = None) -> NDArray[Any]:
        """Mean over the period of something that is ``off``, or nothing, while the switch is open."""
        total = (on * self.weight).sum(axis=1)
        return np.asarray(total if off is None else total + (off * self.rest_weight).sum(axis=1))


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
