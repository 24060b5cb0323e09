"""Parameter vector ↔ motor, load and the readings they would give, for one datum; all draws at once.

θ = ln R1, then ln of each ratio, (ln C), of iron resistance, saturation and winding rise, of friction share, exponent and
slip at full speed, then ln speed of every run whose speed was not read. All functions take θ of shape (k, …).
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from fenwit.core.calibrate import prior
from fenwit.core.calibrate.datum import (
    RUNNING,
    TWO_WINDING_ONLY,
    Datum,
    Measured,
    OhmsAt,
    Run,
    Warmth,
    away_from,
)
from fenwit.core.errors import InputError
from fenwit.core.load import FanLoad
from fenwit.core.motor.machine import TwoWindingMotor, UnitResponse, synchronous_speed_rpm
from fenwit.core.motor.ring import ShadedPoleMotor
from fenwit.core.motor.service import Service
from fenwit.core.operating import Machined, Source, load_at_datum, solve, tabulate

FloatArray = NDArray[np.float64]

SHARE_OF_ERROR = {"input_power_w": 2.0}
"""How much more of it another quantity has [-]"""
FULL_ERROR = {
    "line_current_a": 0.05,
    "input_power_w": 0.05,
    "power_factor": 0.03,
    "capacitor_voltage_v": 0.05,
    "auxiliary_current_a": 0.05,
    "main_resistance_ohm": 0.01,
    "auxiliary_resistance_ohm": 0.02,
    "hot_resistance_ohm": 0.02,
    "locked_rotor_current_a": 0.10,
}
"""What the model misses of other quantities even where the fan was read: no machine is like it to a hundredth [-]"""
_ROBUST = 4.0
"""Beyond so many standard uncertainties a reading pulls no harder [-]"""
_SLOPE_STEP = 1e-3
_RUN_SPREAD = 2.0
_DRAW_SPEEDS = 72
_BARE = ("turns_ratio", "ring_turns", "ring_angle")
"""Ratios that are not over the winding's ohms [-]"""


@dataclass(frozen=True)
class Target:
    """One reading as the fit sees it."""

    name: str
    """Like line_current_a; of a run, with its number: run:0:speed_rpm [-]"""
    run: int | None
    """Number of the run; None at full speed [-]"""
    quantity: str
    read: float
    sigma: float
    """Relative, the model's own error included [-]"""
    own_sigma: float
    """Relative, of the reading alone [-]"""


@dataclass(frozen=True)
class Doubt:
    """By how much the model's own error is larger than usual, as far as this motor's readings tell; 1 at least."""

    electric: float = 1.0
    """Of amps, watts and volts [-]"""
    speed: float = 1.0
    """Of speeds away from full speed [-]"""
    ohms: float = 1.0
    """Of the windings' ohms [-]"""

    @property
    def most(self) -> float:
        """The largest [-]"""
        return max(self.electric, self.speed, self.ohms)


class Model:
    """What the fit works on."""

    def __init__(self, datum: Datum, doubt: Doubt = Doubt()) -> None:
        """``doubt`` widens the model's own error, where readings and model do not agree."""
        self.datum = datum
        self.doubt = doubt
        self.speed_error = doubt.speed * prior.speed_error(datum.kind, datum.poles)
        """What the model itself misses of speed, volts and amps away from the datum [-]"""
        self.two = datum.two_windings
        self.ratios = prior.ratios(datum.kind, datum.poles)
        self.labels = prior.labels(datum.kind, datum.poles)
        self._check()
        self.n_s = synchronous_speed_rpm(datum.poles, datum.frequency_hz)
        known = [replace(self._size(), name="winding_resistance", median=self._size_ohm()), *self.ratios]
        if self.two and datum.run_capacitance_f:
            read = datum.run_capacitance_f
            aged = float(np.hypot(read.relative_sigma, prior.AGED))
            known.append(prior.Ratio("run_capacitance", read.value, aged, "as read"))
        known += [prior.IRON_RESISTANCE, prior.SATURATION, prior.WINDING_RISE]
        known += [
            prior.FRICTION_SHARE,
            prior.exponent(datum.load_exponent),
            prior.full_slip(datum.kind, datum.poles),
        ]
        self.names = [r.name for r in known]
        self._at = {name: i for i, name in enumerate(self.names)}
        mean, spread = [float(np.log(r.median)) for r in known], [r.spread for r in known]
        start = list(mean)
        if datum.main_resistance_ohm:
            share = float(datum.main_at.share(prior.WINDING_RISE.median))
            start[0] = float(np.log(datum.main_resistance_ohm.value / share))
        elif datum.hot_resistance_ohm:
            start[0] = float(np.log(datum.hot_resistance_ohm.value))
        read_slip = 1 - datum.full_speed_rpm.value / self.n_s
        start[self._at["full_slip"]] = float(np.log(np.clip(read_slip, 0.005, 0.7)))
        self.own = len(mean)
        """Parameters of the fan itself; those of the runs follow"""
        self._places: dict[int, int] = {}
        for i, run in enumerate(datum.runs):
            if run.get("speed_rpm") is None and any(name in RUNNING for name, _ in run.readings):
                self._places[i] = len(mean)
                guess = float(np.log(self._speed_guess(run)))
                mean.append(guess)
                spread.append(_RUN_SPREAD)
                start.append(guess)
        self.mean, self.spread, self.start = np.array(mean), np.array(spread), np.array(start)
        self._prepare()
        self.targets = self._targets()

    def _check(self) -> None:
        d = self.datum
        if self.two and d.run_capacitance_f is None:
            raise InputError(
                "run_capacitance_f", None, "microfarads", "this motor's run capacitor decides how it runs"
            )
        electric = any(name in RUNNING[:3] for run in d.runs for name, _ in run.readings)
        sized = d.line_current_a or d.input_power_w or d.main_resistance_ohm or d.locked_rotor_current_a
        sized = sized or d.hot_resistance_ohm
        if not self.two and not sized and not electric:
            raise InputError(
                "line_current_a",
                None,
                "amps, watts or winding ohms",
                "nothing yet tells how big this motor is",
            )

    def _size(self) -> prior.Ratio:
        return prior.size_by_capacitor(self.datum.poles) if self.two else prior.SIZE_UNKNOWN

    def _size_ohm(self) -> float:
        """The winding's ohms as guessed from what is known of the size."""
        d = self.datum
        if self.two and d.run_capacitance_f:
            reactance = 1 / (2 * np.pi * d.rated_frequency_hz * d.run_capacitance_f.value)
            return float(reactance / self._size().median)
        if d.main_resistance_ohm or d.hot_resistance_ohm:
            return (d.main_resistance_ohm or d.hot_resistance_ohm).value  # type: ignore[union-attr]
        if d.line_current_a:
            return 0.25 * d.supply_voltage_v / d.line_current_a.value
        if d.input_power_w:
            return 0.12 * d.supply_voltage_v**2 / d.input_power_w.value
        if d.locked_rotor_current_a:
            return 0.35 * d.supply_voltage_v / d.locked_rotor_current_a.value
        run, name, read = next(
            (run, name, read) for run in d.runs for name, read in run.readings if name in RUNNING[:3]
        )
        amps = read.value if name == "line_current_a" else read.value / run.supply_voltage_v
        return 0.25 * run.supply_voltage_v / amps

    def _speed_guess(self, run: Run) -> float:
        share = min(1.0, run.supply_voltage_v / self.datum.supply_voltage_v)
        ratio = run.frequency_hz / self.datum.frequency_hz
        full = self.datum.full_speed_rpm.value * ratio
        return full * share * (0.6 if run.impedance_ohm else 1.0)

    def _prepare(self) -> None:
        """What of the runs does not depend on θ: run 0 is full speed, then the runs as they were given."""
        d = self.datum
        self._volts = np.array([d.supply_voltage_v, *(r.supply_voltage_v for r in d.runs)])
        self._hertz = np.array([d.frequency_hz, *(r.frequency_hz for r in d.runs)])
        self._z = np.array([0j, *(r.impedance_ohm for r in d.runs)], dtype=np.complex128)
        self._field = 120 * self._hertz / d.poles
        self._bladed = np.array([True, *(r.blades for r in d.runs)])
        read = [(r.get("speed_rpm"), self._speed_guess(r)) for r in d.runs]
        self._read_speed = np.array([0.0, *(s.value if s else guess for s, guess in read)])
        locked = [-1] if d.locked_rotor_current_a else []
        locked += [i for i, r in enumerate(d.runs) if r.get("locked_rotor_current_a")]
        self._locked = np.array([i + 1 for i in locked], dtype=np.int64)
        # Columns: every run at its speed, the runs away from full speed a little slower, locked rotors.
        self._count = len(self._volts)
        columns = [*range(self._count), *range(1, self._count), *self._locked.tolist()]
        # A last one at rest, for the torque a label speaks of.
        columns += [] if self.two else [0]
        self._column_hertz, self._column_field = self._hertz[columns], self._field[columns]

    def _read(self, theta: FloatArray) -> dict[str, FloatArray]:
        """The fan's own parameters by name."""
        values = np.exp(theta[: self.own])
        return {name: values[i] for name, i in self._at.items()}

    def motor(self, theta: FloatArray) -> TwoWindingMotor | ShadedPoleMotor:
        """The motor of each θ; parameters have the trailing shape of θ."""
        d = self.datum
        e = self._read(theta)
        r_1 = e["winding_resistance"]
        x_m = e["magnetising_reactance"] * r_1
        common: dict[str, Any] = {
            "rated_voltage_v": d.rated_voltage_v,
            "rated_frequency_hz": d.rated_frequency_hz,
            "poles": d.poles,
            "main_resistance_ohm": r_1,
            "main_leakage_reactance_ohm": e["main_leakage_reactance"] * r_1,
            "magnetising_reactance_ohm": x_m,
            "rotor_resistance_ohm": e["rotor_resistance"] * r_1,
            "rotor_leakage_reactance_ohm": e["rotor_leakage_reactance"] * r_1,
            "core_loss_resistance_ohm": e["iron_resistance"] * x_m,
            "service": Service(
                self.full_speed(theta)[()], e["friction_share"], e["exponent"], e["saturation"], prior.KNEE,
                e["winding_rise"], prior.DEEP_BARS,
            ),
        }  # fmt: skip
        if not self.two:
            a_s = e["ring_turns"]
            return ShadedPoleMotor(
                **common,
                ring_turns_ratio=a_s,
                ring_angle_rad=np.minimum(e["ring_angle"], 1.5),
                ring_resistance_ohm=e["ring_resistance"] * a_s**2 * r_1,
                ring_leakage_reactance_ohm=e["ring_leakage_reactance"] * a_s**2 * r_1,
                shared_reactance_ohm=e["shared_reactance"] * a_s * r_1,
            )
        a = e["turns_ratio"]
        return TwoWindingMotor(
            **common,
            turns_ratio=a,
            auxiliary_resistance_ohm=e["auxiliary_resistance"] * r_1,
            auxiliary_leakage_reactance_ohm=a**2 * e["main_leakage_reactance"] * r_1,
            run_capacitance_f=e["run_capacitance"],
        )

    def full_speed(self, theta: FloatArray) -> FloatArray:
        """Full speed of each θ [rpm]."""
        return np.asarray(self.n_s * (1 - np.minimum(np.exp(theta[self._at["full_slip"]]), 0.8)))

    def load_shape(self, theta: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Friction share and exponent of each θ [-]."""
        return np.exp(theta[self._at["friction_share"]]), np.exp(theta[self._at["exponent"]])

    def predicted(self, theta: FloatArray) -> dict[str, FloatArray]:
        """Readings each θ would give, by the name of their target; of the trailing shape of θ."""
        speed = np.empty((*theta.shape[1:], self._count))
        speed[...] = self._read_speed
        speed[..., 0] = self.full_speed(theta)
        for run, place in self._places.items():
            speed[..., run + 1] = np.minimum(np.exp(theta[place]), 0.9999 * self._field[run + 1])
        slower = speed[..., 1:] * (1 - _SLOPE_STEP)
        count, locked = self._count, slice(2 * self._count - 1, None)
        still = np.zeros((*theta.shape[1:], len(self._column_hertz) - locked.start))
        slip = 1 - np.concatenate([speed, slower, still], axis=-1) / self._column_field
        unit = self.motor(theta[..., None]).respond(slip, self._column_hertz)
        y = unit.admittance_s
        behind = self._volts / np.abs(1 + self._z * y[..., :count])
        torque = unit.torque_nm[..., :count] * behind**2
        torque_slower = (
            unit.torque_nm[..., count : locked.start]
            * (self._volts[1:] / np.abs(1 + self._z[1:] * y[..., count : locked.start])) ** 2
        )
        values = self._electric(theta, unit, behind, y[..., :count])
        shaft = torque[..., 0] * speed[..., 0] * (2 * np.pi / 60)
        watts, volts_2 = values["input_power_w"], self._volts[0] ** 2
        values["efficiency"] = np.maximum(shaft / watts, 1e-3)
        values["iron_share"] = np.asarray(unit.iron_loss_w)[..., 0] * volts_2 / watts
        if not self.two:
            values["starting_torque"] = np.maximum(unit.torque_nm[..., -1] * volts_2 / torque[..., 0], 1e-3)
            values["winding_share"] = np.asarray(unit.main_copper_w)[..., 0] * volts_2 / watts
        values["full_speed_rpm"] = speed[..., 0]
        full_torque = torque[..., 0]
        friction, exponent = self.load_shape(theta)
        for i in range(1, self._count):
            n = speed[..., i]
            share = n / speed[..., 0]
            rising = (1 - friction) * share**exponent if self._bladed[i] else 0.0
            load = full_torque * (friction + rising)
            steeper = full_torque * rising * exponent / n
            slope = steeper - (torque[..., i] - torque_slower[..., i - 1]) / (_SLOPE_STEP * n)
            # Where the curves hardly cross, the mismatch must not be divided by nothing.
            slope = np.maximum(slope, 0.3 * np.abs(full_torque) * (rising + friction) / n)
            surplus = (torque[..., i] - load) / (slope * n)
            values[f"run:{i - 1}:speed_rpm"] = n * np.exp(np.clip(surplus, -3, 3))
        for column, i in enumerate(self._locked.tolist(), start=locked.start):
            amps = self._volts[i] * np.abs(y[..., column] / (1 + self._z[i] * y[..., column]))
            values["locked_rotor_current_a" if i == 0 else f"run:{i - 1}:locked_rotor_current_a"] = amps
        return values

    def _electric(
        self,
        theta: FloatArray,
        unit: UnitResponse,
        motor_v: FloatArray,
        y: NDArray[np.complex128],
    ) -> dict[str, FloatArray]:
        amps = motor_v * np.abs(y)
        power = motor_v**2 * y.real + amps**2 * self._z.real
        found = {
            "line_current_a": amps,
            "input_power_w": power,
            "power_factor": power / (self._volts * amps),
            "motor_voltage_v": motor_v,
        }
        if unit.capacitor_gain is not None and unit.auxiliary_admittance_s is not None:
            found["capacitor_voltage_v"] = motor_v * np.abs(unit.capacitor_gain[..., : self._count])
            found["auxiliary_current_a"] = motor_v * np.abs(unit.auxiliary_admittance_s[..., : self._count])
        values = {name: array[..., 0] for name, array in found.items()}
        for i in range(1, self._count):
            values |= {f"run:{i - 1}:{name}": array[..., i] for name, array in found.items()}
        e, d = self._read(theta), self.datum
        warm = e["winding_resistance"]
        values["main_resistance_ohm"] = warm * d.main_at.share(e["winding_rise"])
        values["hot_resistance_ohm"] = warm * OhmsAt(Warmth.WARM).share(e["winding_rise"])
        if self.two and unit.capacitor_gain is not None:
            second = warm * e["auxiliary_resistance"]
            values["auxiliary_resistance_ohm"] = second * d.auxiliary_at.share(e["winding_rise"])
            values["run_capacitance_f"] = e["run_capacitance"]
        return values

    def _targets(self) -> tuple[Target, ...]:
        d = self.datum
        found = []
        for name, read in (("full_speed_rpm", d.full_speed_rpm), *d.at_full_speed()):
            # The capacitor is a parameter with its own prior already; motor volts are the supply.
            if name in ("run_capacitance_f", "motor_voltage_v") or (
                not self.two and name in TWO_WINDING_ONLY
            ):
                continue
            own = np.hypot(self._own_error(name), self._warmth_sigma(name))
            quantity = "speed_rpm" if name == "full_speed_rpm" else name
            found.append(self._target(name, None, quantity, read, float(own)))
        guess = self.predicted(self.start)
        for i, run in enumerate(d.runs):
            away = away_from(float(guess[f"run:{i}:motor_voltage_v"]) / d.supply_voltage_v)
            away = away if run.blades else 1.0
            for name, read in run.readings:
                if not self.two and name in TWO_WINDING_ONLY:
                    continue
                lost = self.speed_error * away * SHARE_OF_ERROR.get(name, 1.0)
                own = np.hypot(lost, self._own_error(name))
                found.append(self._target(f"run:{i}:{name}", i, name, read, float(own)))
        return tuple(found)

    def _own_error(self, name: str) -> float:
        # Ohms are read from the winding itself: only when they stand alone against all else are they doubted.
        doubt = self.doubt.ohms if name.endswith("_ohm") else self.doubt.electric
        return FULL_ERROR.get(name, 0.0) * doubt

    def _warmth_sigma(self, name: str) -> float:
        at = {"main_resistance_ohm": self.datum.main_at, "auxiliary_resistance_ohm": self.datum.auxiliary_at}
        return at[name].own_sigma if name in at else 0.0

    @staticmethod
    def _target(name: str, run: int | None, quantity: str, read: Measured, own: float) -> Target:
        return Target(
            name, run, quantity, read.value, float(np.hypot(read.relative_sigma, own)), read.relative_sigma
        )

    def residuals(self, theta: FloatArray, used: FloatArray | None = None) -> FloatArray:
        """Departures from prior and readings over their uncertainty, shape (residuals, …).

        Parameters
        ----------
        theta : array
            Parameters, shape (k, …) [-]
        used : array or None
            Which targets count, shape (targets, …); all when None [-]

        Returns
        -------
        array
            Shape (k + labels + runs with a latent speed + targets, …) [-]
        """
        tail = (1,) * (theta.ndim - 1)
        rows = [(theta - self.mean.reshape(-1, *tail)) / self.spread.reshape(-1, *tail)]
        values = self.predicted(theta)
        rows += [(np.log(values[r.name] / r.median) / r.spread)[None] for r in self.labels]
        for run, place in self._places.items():
            # The speed nobody read is where motor and load agree, as far as the model goes.
            rows.append(((np.log(values[f"run:{run}:speed_rpm"]) - theta[place]) / self.speed_error)[None])
        for i, target in enumerate(self.targets):
            row = _soft(np.log(values[target.name] / target.read) / target.sigma)
            rows.append((row if used is None else row * used[i])[None])
        return np.concatenate(rows)

    def jacobian(self, theta: FloatArray, used: FloatArray | None = None) -> FloatArray:
        """Forward differences, all columns in one call: shape (residuals, k, …) for θ of shape (k, …)."""
        return self.linearised(theta, used)[1]

    def linearised(self, theta: FloatArray, used: FloatArray | None = None) -> tuple[FloatArray, FloatArray]:
        """Residuals and their derivatives, all from one look at the motors around θ: as `residuals`, as `jacobian`."""
        step, k = 1e-6, len(theta)
        nudge = step * np.eye(k).reshape(k, k, *(1,) * (theta.ndim - 1))
        around = np.concatenate([theta[:, None] + nudge, theta[:, None]], axis=1)
        values = self.residuals(around, None if used is None else used[:, None])
        return values[:, k], np.asarray((values[:, :k] - values[:, k:]) / step)

    def table(self, theta: FloatArray, changed: FloatArray | None = None) -> Machined:
        """Motor and fan of each θ over speed; with ``changed`` the same fan with another motor.

        Parameters
        ----------
        theta : array
            Parameters, shape (k, draws) [-]
        changed : array or None
            Parameters of a motor that was altered since the fan was read [-]

        Returns
        -------
        Machined
            Tables of shape (draws, speeds) [-]
        """
        motor = self.motor((theta if changed is None else changed)[..., None])
        # Single precision: seven digits are plenty for a percentile, in half the time.
        return tabulate(motor, self.load(theta), self.datum.frequency_hz, _DRAW_SPEEDS).lean()

    def load(self, theta: FloatArray) -> FanLoad:
        """The fan of each θ, parameters of shape (draws, 1) for tables over speed."""
        d = self.datum
        friction, exponent = (v[:, None] for v in self.load_shape(theta))
        motor, full = self.motor(theta[..., None]), self.full_speed(theta)[:, None]
        break_away = self.break_away(theta.shape[1])[:, None]
        found = load_at_datum(motor, full, d.supply_voltage_v, d.frequency_hz, friction, exponent)
        return replace(found, break_away_ratio=break_away)

    @staticmethod
    def break_away(draws: int) -> FloatArray:
        """Torque that gets each draw's fan moving, over its running friction: no running fan tells it [-]"""
        free = np.random.default_rng(41).standard_normal(draws)
        return np.asarray(np.maximum(prior.BREAK_AWAY.median * np.exp(prior.BREAK_AWAY.spread * free), 1.0))

    def running_speed(self, theta: FloatArray, run: int) -> float:
        """Where a single θ would really run in a run, solved; 0 where it would stand [rpm].

        Near the speed that was read, `predicted` says the same; far from it only this does.
        """
        d, r = self.datum, self.datum.runs[run]
        motor = self.motor(theta)
        friction, exponent = (float(v) for v in self.load_shape(theta))
        load = load_at_datum(
            motor, float(self.full_speed(theta)), d.supply_voltage_v, d.frequency_hz, friction, exponent
        )
        if not r.blades:
            load = replace(load, full_speed_torque_nm=float(load.friction_nm), friction_share=1.0)
        found = solve(motor, load, [Source(r.supply_voltage_v, r.frequency_hz, r.impedance_ohm)])[0]
        held = found.running or next((p for p in found.points if p.stable), None)
        return held.speed_rpm if held else 0.0

    def assumptions(self) -> tuple[str, ...]:
        """What is taken for granted, in words."""
        d = self.datum
        said = [
            f"{r.name.replace('_', ' ')} about {r.median:g} × the winding's ohms: {r.grounds}"
            for r in self.ratios
            if not (r.name == "auxiliary_resistance" and d.auxiliary_resistance_ohm) and r.name not in _BARE
        ]
        said += [
            f"{r.name.replace('_', ' ')} about {r.median:g}: {r.grounds}"
            for r in self.ratios
            if r.name in _BARE
        ]
        said.append(friction_assumed())
        said += [
            prior.exponent(d.load_exponent).grounds,
            prior.WINDING_RISE.grounds,
            prior.SATURATION.grounds,
        ]
        said += [r.grounds for r in self.labels if r.name == "iron_share"]
        if self.two and not d.main_resistance_ohm:
            said.append(f"size of the windings from the run capacitor: {self._size().grounds}")
        return tuple(said)


def friction_assumed() -> str:
    """What is taken for granted of friction, in words."""
    share = prior.FRICTION_SHARE
    return f"friction {share.median:.0%} of full-speed torque: {share.grounds}"


def _soft(z: FloatArray) -> FloatArray:
    """z where it is small; beyond a few it grows like its root, so that one slip of the pen cannot turn the fan over.

    The square of the result is the pseudo-Huber loss.
    """
    c = _ROBUST
    square = np.square(z / c)
    return np.asarray(np.copysign(c * np.sqrt(2 * (np.sqrt(1 + square) - 1)), z))
