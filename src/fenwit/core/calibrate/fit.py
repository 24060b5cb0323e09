"""The most probable motor behind a nameplate and full-speed readings, and a cloud of motors around it.

Parameters are logarithms of ratios to the main resistance, with the priors of `core.calibrate.prior`; readings enter
as residuals over their own uncertainty. The maximum posterior comes from bounded-step least squares, its spread from
the Jacobian, and 200 draws from that spread carry it into every prediction (docs/calibration.md).
"""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import least_squares

from fenwit.core.calibrate import prior
from fenwit.core.errors import InputError, check_range
from fenwit.core.load import FanLoad
from fenwit.core.motor.kinds import MotorKind
from fenwit.core.motor.machine import Machine, SingleWindingMotor, TwoWindingMotor, synchronous_speed_rpm
from fenwit.core.operating import Machined, Source, check_full_speed, load_at_datum, scan, tabulate

FloatArray = NDArray[np.float64]
DRAWS = 200
STRANGE = 6.0
"""How many standard deviations readings and assumptions may stand apart, all together, and still be one motor [-]"""
_DRAW_SPEEDS = 72


@dataclass(frozen=True)
class Measured:
    """A value with the standard uncertainty of its reading."""

    value: float
    relative_sigma: float

    def __post_init__(self) -> None:
        check_range("relative_sigma", self.relative_sigma, 1e-4, 1.0, "")


@dataclass(frozen=True)
class Datum:
    """Everything known of a fan at full speed; None where it is not known."""

    kind: MotorKind
    poles: int
    rated_voltage_v: float
    rated_frequency_hz: float
    supply_voltage_v: float
    """Supply volts at the full-speed readings [V]"""
    frequency_hz: float
    full_speed_rpm: Measured
    line_current_a: Measured | None = None
    input_power_w: Measured | None = None
    capacitor_voltage_v: Measured | None = None
    main_resistance_ohm: Measured | None = None
    auxiliary_resistance_ohm: Measured | None = None
    run_capacitance_f: Measured | None = None
    """From the nameplate or the meter; PSC motors need it [F]"""

    def __post_init__(self) -> None:
        check_range("rated_voltage_v", self.rated_voltage_v, 1.0, 1000.0, "V")
        check_range("supply_voltage_v", self.supply_voltage_v, 1.0, 1000.0, "V")
        n_s = synchronous_speed_rpm(self.poles, self.frequency_hz)
        check_range(
            "full_speed_rpm",
            self.full_speed_rpm.value,
            0.3 * n_s,
            n_s,
            "rpm",
            reason=(
                f"a {self.poles}-pole motor turns at most {n_s:g} rpm and a loaded fan not below 30 % of that; "
                "are poles and rpm right?"
            ),
        )
        check_full_speed(self.full_speed_rpm.value, n_s)
        for name, low, high, unit in _READINGS:
            reading: Measured | None = getattr(self, name)
            if reading is not None:
                check_range(name, reading.value, low, high, unit)
        if self.line_current_a and self.input_power_w:
            factor = self.input_power_w.value / (self.line_current_a.value * self.supply_voltage_v)
            if factor > 1.15:
                raise InputError(
                    "input_power_w",
                    self.input_power_w.value,
                    f"at most {self.line_current_a.value * self.supply_voltage_v:.3g} W",
                    "more watts than volts times amps; read volts, amps and watts again",
                )


_READINGS = (
    ("line_current_a", 1e-4, 50.0, "A"),
    ("input_power_w", 0.05, 5000.0, "W"),
    ("capacitor_voltage_v", 1.0, 2000.0, "V"),
    ("main_resistance_ohm", 0.05, 2e4, "Ω"),
    ("auxiliary_resistance_ohm", 0.05, 2e4, "Ω"),
    ("run_capacitance_f", 1e-8, 2e-4, "F"),
)


@dataclass(frozen=True)
class ReadingCheck:
    """A reading beside what the fitted motor says."""

    name: str
    read: float
    expected: float
    sigmas: float
    """How far apart, in standard uncertainties of the reading [-]"""


@dataclass(frozen=True)
class Parameter:
    """One fitted parameter with its relative spread."""

    name: str
    value: float
    relative_sd: float
    prior_relative_sd: float


@dataclass(frozen=True, eq=False)
class Belief:
    """What Fenwit believes of one fan: the likeliest motor and load, and a cloud around them."""

    datum: Datum
    motor: Machine
    load: FanLoad
    supply: Source
    draws: Machined
    """Tables of shape (draws, speeds)"""
    draws_kept: int
    draws_lost: int
    """Draws that would not run at full volts; left out of the bands and reported"""
    full_speed_draws_rpm: FloatArray
    parameters: tuple[Parameter, ...]
    checks: tuple[ReadingCheck, ...]
    assumptions: tuple[str, ...] = field(default=())


READING_SIGMA = {
    "full_speed_rpm": 0.003,
    "line_current_a": 0.010,
    "input_power_w": 0.015,
    "capacitor_voltage_v": 0.010,
    "main_resistance_ohm": 0.020,
    "auxiliary_resistance_ohm": 0.020,
    "run_capacitance_f": 0.015,
}
"""Standard uncertainty of a reading with an ordinary meter, until an instrument is named [-]"""
NAMEPLATE_SIGMA = {
    "full_speed_rpm": 0.030,
    "line_current_a": 0.120,
    "input_power_w": 0.150,
    "run_capacitance_f": 0.030,
}
"""Standard uncertainty of what a nameplate says [-]"""


@lru_cache(maxsize=1024)
def believe(datum: Datum) -> Belief:
    """Fit a motor and its load to what is known at full speed.

    Parameters
    ----------
    datum : Datum
        Nameplate and readings [-]

    Returns
    -------
    Belief
        Likeliest motor, its load, 200 draws and what was assumed [-]

    Raises
    ------
    InputError
        A kind without a model, a missing run capacitor, nothing that tells the size of the motor, or readings that
        no motor of the kind would give together.
    """
    model = _Model(datum)
    fit = least_squares(
        model.residuals, model.start, jac=model.jacobian, method="trf", x_scale="jac", max_nfev=60
    )
    if 2 * fit.cost > STRANGE**2 + len(fit.fun) - len(fit.x):
        raise InputError(
            "readings",
            round(float(np.sqrt(2 * fit.cost)), 1),
            "readings of one motor of this kind",
            "does not fit what is known of this motor; a slip in this reading or in another, or in the motor's kind?",
        )
    jacobian = model.jacobian(fit.x)
    covariance: FloatArray = np.asarray(np.linalg.inv(jacobian.T @ jacobian), dtype=np.float64)
    motor = model.motor(fit.x)
    n_full = datum.full_speed_rpm.value
    friction, exponent = (float(v) for v in np.exp(fit.x[-2:]))
    load = load_at_datum(motor, n_full, datum.supply_voltage_v, datum.frequency_hz, friction, exponent)
    supply = Source(datum.supply_voltage_v, datum.frequency_hz)
    draws, speeds, lost = _draw(model, fit.x, supply)
    return Belief(
        datum=datum,
        motor=motor,
        load=load,
        supply=supply,
        draws=draws,
        draws_kept=len(speeds),
        draws_lost=lost,
        full_speed_draws_rpm=speeds,
        parameters=model.parameters(fit.x, np.sqrt(np.diag(covariance))),
        checks=model.checks(fit.x),
        assumptions=model.assumptions(),
    )


def _sample(model: _Model, best: FloatArray, count: int, random: np.random.Generator) -> FloatArray:
    """Draws of shape (k, count) by randomise-then-optimise.

    Each draw solves Qᵀ(r(θ) − r(θ*) − ε) = 0 for its own noise ε, Q spanning the residuals' tangent at the best fit.
    Unlike a Gaussian around θ*, the draws keep to the readings where those bend the posterior.
    """
    q, r = np.linalg.qr(model.jacobian(best))
    target = q.T @ model.residuals(best)[:, None] + random.standard_normal((len(best), count))
    theta = best[:, None] + np.linalg.solve(r, target - q.T @ model.residuals(best)[:, None])
    reach = 4 * model.spread[:, None]
    theta = np.clip(theta, best[:, None] - reach, best[:, None] + reach)
    for _ in range(4):
        miss = target - q.T @ model.residuals(theta)
        step = np.linalg.solve(np.einsum("mk,mnd->dkn", q, model.jacobian(theta)), miss.T[..., None])[
            ..., 0
        ].T
        limit = 0.5 * model.spread[:, None]
        theta = theta + np.clip(step, -limit, limit)
    return theta


def _draw(model: _Model, best: FloatArray, supply: Source) -> tuple[Machined, FloatArray, int]:
    datum = model.datum
    random = np.random.default_rng(20260)
    n_s = synchronous_speed_rpm(datum.poles, datum.frequency_hz)
    # A few spare draws stand in for those that would not run, so that bands always rest on the same number.
    theta = _sample(model, best, DRAWS + 60, random)
    speed = datum.full_speed_rpm.value * (
        1 + datum.full_speed_rpm.relative_sigma * random.standard_normal(DRAWS + 60)
    )
    speed = np.minimum(speed, datum.full_speed_rpm.value + 0.9 * (n_s - datum.full_speed_rpm.value))
    n_full = speed[:, None]
    motor = model.motor(theta[..., None])
    per_volt = motor.respond(1 - n_full / n_s, datum.frequency_hz)
    alive = per_volt.torque_nm[:, 0] > 0
    theta, n_full = theta[:, alive], n_full[alive]
    motor = model.motor(theta[..., None])
    friction, exponent = np.exp(theta[-2])[:, None], np.exp(theta[-1])[:, None]
    load = load_at_datum(motor, n_full, datum.supply_voltage_v, datum.frequency_hz, friction, exponent)
    table = tabulate(motor, load, datum.frequency_hz, _DRAW_SPEEDS)
    direct = scan(table, supply.voltage_v, np.zeros((1, n_full.shape[0]), dtype=np.complex128))
    runs = direct.runs[0] & (np.abs(direct.speed_rpm[0] / n_full[:, 0] - 1) < 0.02)
    keep = np.flatnonzero(runs)[:DRAWS]
    if len(keep) < 40:
        raise InputError(
            "full_speed_rpm",
            datum.full_speed_rpm.value,
            "readings of one motor",
            "hardly any motor of this kind would run at this speed with these readings; read rpm, amps and watts again",
        )
    motor = model.motor(theta[:, keep][..., None])
    load = load_at_datum(
        motor, n_full[keep], datum.supply_voltage_v, datum.frequency_hz, friction[keep], exponent[keep]
    )
    lost = int((~alive).sum() + (~runs).sum())
    return tabulate(motor, load, datum.frequency_hz, _DRAW_SPEEDS).lean(), n_full[keep, 0], lost


class _Model:
    """Parameter vector ↔ motor, for one datum.

    θ = ln R1, then ln of each ratio, (ln C), ln friction share, ln exponent. All functions take θ of shape (k, …).
    """

    def __init__(self, datum: Datum) -> None:
        self.datum = datum
        self.two = datum.kind in (MotorKind.PSC, MotorKind.PSC_TAPPED)
        self.ratios = prior.ratios(datum.kind, datum.poles)
        if self.two and datum.run_capacitance_f is None:
            raise InputError(
                "run_capacitance_f", None, "microfarads", "this motor's run capacitor decides how it runs"
            )
        if not self.two and not (datum.line_current_a or datum.input_power_w or datum.main_resistance_ohm):
            raise InputError(
                "line_current_a",
                None,
                "amps, watts or winding ohms",
                "nothing yet tells how big this motor is",
            )
        mean = [self._log_size(), *(np.log(r.median) for r in self.ratios)]
        spread = [self._size().spread, *(r.spread for r in self.ratios)]
        if self.two and datum.run_capacitance_f:
            mean.append(np.log(datum.run_capacitance_f.value))
            spread.append(datum.run_capacitance_f.relative_sigma)
        mean += [np.log(prior.FRICTION_SHARE.median), np.log(prior.EXPONENT.median)]
        spread += [prior.FRICTION_SHARE.spread, prior.EXPONENT.spread]
        self.mean, self.spread = np.array(mean), np.array(spread)
        self.start = self.mean.copy()
        if datum.main_resistance_ohm:
            self.start[0] = np.log(datum.main_resistance_ohm.value)

    def _size(self) -> prior.Ratio:
        return prior.SIZE_BY_CAPACITOR if self.two else prior.SIZE_UNKNOWN

    def _log_size(self) -> float:
        d = self.datum
        if self.two and d.run_capacitance_f:
            reactance = 1 / (2 * np.pi * d.rated_frequency_hz * d.run_capacitance_f.value)
            return float(np.log(reactance / prior.SIZE_BY_CAPACITOR.median))
        if d.main_resistance_ohm:
            return float(np.log(d.main_resistance_ohm.value))
        if d.line_current_a:
            return float(np.log(0.25 * d.supply_voltage_v / d.line_current_a.value))
        assert d.input_power_w is not None
        return float(np.log(0.12 * d.supply_voltage_v**2 / d.input_power_w.value))

    def motor(self, theta: FloatArray) -> TwoWindingMotor | SingleWindingMotor:
        d = self.datum
        e = np.exp(theta)
        r_1 = e[0]
        name_plate = (d.rated_voltage_v, d.rated_frequency_hz, d.poles)
        if not self.two:
            return SingleWindingMotor(
                *name_plate,
                stator_resistance_ohm=r_1,
                stator_leakage_reactance_ohm=e[1] * r_1,
                magnetising_reactance_ohm=e[2] * r_1,
                rotor_resistance_ohm=e[3] * r_1,
                rotor_leakage_reactance_ohm=e[4] * r_1,
                core_loss_resistance_ohm=None,
                torque_factor=np.minimum(e[5], 1.0),
            )
        return TwoWindingMotor(
            *name_plate,
            main_resistance_ohm=r_1,
            main_leakage_reactance_ohm=e[1] * r_1,
            magnetising_reactance_ohm=e[2] * r_1,
            rotor_resistance_ohm=e[3] * r_1,
            rotor_leakage_reactance_ohm=e[4] * r_1,
            turns_ratio=e[5],
            auxiliary_resistance_ohm=e[6] * r_1,
            auxiliary_leakage_reactance_ohm=e[5] ** 2 * e[1] * r_1,
            run_capacitance_f=e[7],
        )

    def predicted(self, theta: FloatArray) -> dict[str, FloatArray]:
        """Readings the motor would give at the datum; each of the trailing shape of theta."""
        d = self.datum
        motor = self.motor(theta)
        n_s = synchronous_speed_rpm(d.poles, d.frequency_hz)
        unit = motor.respond(np.asarray(1 - d.full_speed_rpm.value / n_s), d.frequency_hz)
        v = d.supply_voltage_v
        power = v * v * unit.admittance_s.real
        shaft = unit.torque_nm * v * v * d.full_speed_rpm.value * 2 * np.pi / 60
        values = {
            "line_current_a": v * np.abs(unit.admittance_s),
            "input_power_w": power,
            "efficiency": np.maximum(shaft / power, 1e-3),
            "main_resistance_ohm": np.exp(theta[0]),
        }
        if unit.capacitor_gain is not None:
            values["capacitor_voltage_v"] = v * np.abs(unit.capacitor_gain)
            values["auxiliary_resistance_ohm"] = np.exp(theta[0] + theta[6])
            values["run_capacitance_f"] = np.exp(theta[7])
        return values

    def _targets(self) -> list[tuple[str, float, float]]:
        efficiency = prior.EFFICIENCY
        found = [("efficiency", efficiency.median, efficiency.spread)]
        for name, *_ in _READINGS:
            reading: Measured | None = getattr(self.datum, name)
            # The capacitor is a parameter with its own prior already.
            if reading is not None and name != "run_capacitance_f":
                found.append((name, reading.value, reading.relative_sigma))
        return found

    def residuals(self, theta: FloatArray) -> FloatArray:
        """Departures from prior and readings over their uncertainty: shape (residuals, …)."""
        tail = (1,) * (theta.ndim - 1)
        rows = [(theta - self.mean.reshape(-1, *tail)) / self.spread.reshape(-1, *tail)]
        values = self.predicted(theta)
        for name, read, sigma in self._targets():
            if name in values:
                rows.append((np.log(values[name] / read) / sigma)[None])
        return np.concatenate(rows)

    def jacobian(self, theta: FloatArray) -> FloatArray:
        """Central differences, all columns in one call: shape (residuals, k, …) for θ of shape (k, …)."""
        step, k = 1e-5, len(theta)
        nudge = step * np.eye(k).reshape(k, k, *(1,) * (theta.ndim - 1))
        around = np.concatenate([theta[:, None] + nudge, theta[:, None] - nudge], axis=1)
        values = self.residuals(around)
        return np.asarray((values[:, :k] - values[:, k:]) / (2 * step))

    def parameters(self, theta: FloatArray, sd: FloatArray) -> tuple[Parameter, ...]:
        names = ["winding_resistance", *(r.name for r in self.ratios)]
        if self.two:
            names.append("run_capacitance")
        names += ["friction_share", "exponent"]
        return tuple(
            Parameter(n, float(np.exp(t)), float(s), float(p))
            for n, t, s, p in zip(names, theta, sd, self.spread, strict=True)
        )

    def checks(self, theta: FloatArray) -> tuple[ReadingCheck, ...]:
        values = self.predicted(theta)
        return tuple(
            ReadingCheck(name, read, float(values[name]), float(np.log(read / values[name]) / sigma))
            for name, read, sigma in self._targets()
            if name != "efficiency" and name in values
        )

    def assumptions(self) -> tuple[str, ...]:
        d = self.datum
        said = [
            f"{r.name.replace('_', ' ')} about {r.median:g} × the winding's ohms: {r.grounds}"
            for r in self.ratios
            if not (r.name == "auxiliary_resistance" and d.auxiliary_resistance_ohm)
            and r.name not in ("turns_ratio", "torque_factor")
        ]
        said += [
            f"{r.name.replace('_', ' ')} about {r.median:g}: {r.grounds}"
            for r in self.ratios
            if r.name in ("turns_ratio", "torque_factor")
        ]
        said += [
            f"friction {prior.FRICTION_SHARE.median:.0%} of full-speed torque: {prior.FRICTION_SHARE.grounds}"
        ]
        said += [prior.EXPONENT.grounds, "winding ohms as when running warm; iron does not saturate"]
        if self.two and not d.main_resistance_ohm:
            said.append(f"size of the windings from the run capacitor: {prior.SIZE_BY_CAPACITOR.grounds}")
        return tuple(said)
