"""The most probable motor behind a nameplate and readings, and a cloud of motors around it.

Parameters are logarithms of ratios to the main resistance, with the priors of `core.calibrate.prior`; readings enter
as residuals over their own uncertainty (`core.calibrate.model`). The maximum posterior comes from bounded least squares
from several starts, its spread from the Jacobian, and 200 draws carry it into every prediction (docs/calibration.md).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from fenwit.core import quantity as q
from fenwit.core.calibrate import prior
from fenwit.core.calibrate.datum import Datum, Measured, Run
from fenwit.core.calibrate.model import Doubt, Model, Target
from fenwit.core.errors import InputError
from fenwit.core.load import FanLoad
from fenwit.core.memory import remembered
from fenwit.core.motor.machine import Machine
from fenwit.core.operating import Machined, Source, load_at_datum, scan
from fenwit.core.work import pause

__all__ = ["DRAWS", "Belief", "Datum", "Measured", "Parameter", "ReadingCheck", "Run", "believe"]

FloatArray = NDArray[np.float64]
DRAWS = 200
ODD_SIGMAS = 3.0
"""A reading further than this from what the others imply is flagged [-]"""
_SUSPECT_SIGMAS = 2.0
_PRIOR_READINGS, _ENOUGH, _ROUNDS = 4.0, 1.05, 6
MOST_DOUBT = 30.0
"""Beyond this the model says nothing anyway [-]"""
_ALL_AGAIN, _SOME_AGAIN = 14, 12
"""Up to how many readings the fit is made again without each in turn; of more only without the most suspicious [-]"""
MOST_EFFORT = 700_000
"""Motors times readings that one fit may look at: about a second of work [-]"""
_BEND = 1.05
"""The posterior bends further than the draws follow it: so much wider they are drawn (tests/bench, calibration) [-]"""
_NAMED = 4
_BOUND = 5.0
"""How many prior spreads a parameter may move [-]"""

READING_SIGMA = {
    "full_speed_rpm": 0.003,
    "line_current_a": 0.010,
    "input_power_w": 0.015,
    "power_factor": 0.015,
    "capacitor_voltage_v": 0.010,
    "motor_voltage_v": 0.010,
    "auxiliary_current_a": 0.010,
    "main_resistance_ohm": 0.020,
    "auxiliary_resistance_ohm": 0.020,
    "hot_resistance_ohm": 0.020,
    "run_capacitance_f": 0.015,
    "locked_rotor_current_a": 0.030,
}
"""Standard uncertainty of a reading with an ordinary meter, until an instrument is named [-]"""
NAMEPLATE_SIGMA = {
    "full_speed_rpm": 0.030,
    "line_current_a": 0.120,
    "input_power_w": 0.150,
    "run_capacitance_f": 0.050,
}
"""Standard uncertainty of what a nameplate says [-]"""


@dataclass(frozen=True)
class ReadingCheck:
    """A reading beside what the fitted motor says, and what all others together imply for it."""

    name: str
    """As `Target.name` [-]"""
    run: int | None
    quantity: str
    read: float
    expected: float
    sigmas: float
    """How far apart, in standard uncertainties of the reading [-]"""
    implied: float
    """What the other readings alone lead to [any]"""
    odd_by: float
    """How far the reading is from that, in standard deviations of the difference [-]"""

    @property
    def odd(self) -> bool:
        """Whether the others do not bear it out."""
        return abs(self.odd_by) > ODD_SIGMAS


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
    model: Model
    motor: Machine
    load: FanLoad
    supply: Source
    draws: Machined
    """Tables of shape (draws, speeds)"""
    draws_kept: int
    draws_lost: int
    """Draws that would not run at full volts; left out of the bands and reported"""
    theta: FloatArray
    """Parameters of the draws, shape (k, draws) [-]"""
    full_loss_draws_w: FloatArray
    """Heat in the motor of each draw at full speed [W]"""
    full_speed_draws_rpm: FloatArray
    parameters: tuple[Parameter, ...]
    checks: tuple[ReadingCheck, ...]
    assumptions: tuple[str, ...] = field(default=())


@remembered
def believe(datum: Datum) -> Belief:
    """Fit a motor and its load to what is known of a fan.

    Parameters
    ----------
    datum : Datum
        Nameplate and readings [-]

    Returns
    -------
    Belief
        Likeliest motor, its load, 200 draws, every reading's check and what was assumed [-]

    Raises
    ------
    InputError
        A kind without a model, a missing run capacitor, nothing that tells the size of the motor, readings with
        which no motor of the kind would run, or so many that contradict each other that a second of work does not tell
        which are right; the reason names the worst.
    """
    try:
        return _fit(datum, _Effort())
    except _Spent:
        raise InputError(
            "readings", len(datum.runs), "readings of one motor in one state",
            "no motor settles on so many readings within the work a fit may take: they contradict each other, or there "
            "are too many; set doubtful runs aside",
        ) from None  # fmt: skip


class _Spent(Exception):
    """The effort a fit may take is used up."""


class _Effort:
    """What a fit has looked at; counted and not timed, so that the same readings give the same answer everywhere."""

    def __init__(self, most: int | None = None) -> None:
        self.left = MOST_EFFORT if most is None else most

    def spend(self, model: Model, columns: int) -> None:
        """Look at so many motors. Raises _Spent."""
        pause()
        self.left -= columns * (len(model.targets) + 4)
        if self.left < 0:
            raise _Spent


def _contradiction(model: Model, odd: FloatArray) -> InputError:
    """The refusal that names the readings furthest from what the others say."""
    worst = np.argsort(-np.abs(odd))[:_NAMED]
    names = [_said(model, model.targets[i]) for i in sorted(worst)]
    return InputError(
        "readings", len(model.targets), "readings of one motor in one state",
        "the readings contradict each other, and which of them are right cannot be told; furthest off: "
        f"{'; '.join(names)}; read these again, or set them aside",
    )  # fmt: skip


def _said(model: Model, target: Target) -> str:
    what = target.quantity.rpartition("_")[0].replace("_", " ")
    return (
        what
        if target.run is None
        else f"{what}, {model.datum.runs[target.run].label or f'run {target.run + 1}'}"
    )


def _fit(datum: Datum, effort: _Effort) -> Belief:
    model = Model(datum)
    best = _minimise(model, _starts(model), effort)
    checks = _checks(model, best, effort)
    model, best = _doubted(model, best, effort)
    jacobian = model.jacobian(best)
    covariance: FloatArray = np.asarray(np.linalg.inv(jacobian.T @ jacobian), dtype=np.float64)
    motor = model.motor(best)
    n_full = float(model.full_speed(best))
    friction, exponent = (float(v) for v in model.load_shape(best))
    try:
        load = load_at_datum(motor, n_full, datum.supply_voltage_v, datum.frequency_hz, friction, exponent)
    except InputError as error:
        raise _no_torque(_by_capacitor(model, best) or (), error) from None
    load = replace(load, break_away_ratio=prior.BREAK_AWAY.median).in_air(datum.density_ratio)
    supply = Source(datum.supply_voltage_v, datum.frequency_hz)
    draws, theta, full_loss, lost = _draw(model, best, supply)
    spread = np.sqrt(np.diag(covariance))
    return Belief(
        datum=datum,
        model=model,
        motor=motor,
        load=load,
        supply=supply,
        draws=draws,
        draws_kept=theta.shape[1],
        draws_lost=lost,
        theta=theta,
        full_loss_draws_w=full_loss,
        full_speed_draws_rpm=model.full_speed(theta),
        parameters=tuple(
            Parameter(n, float(np.exp(best[i])), float(spread[i]), float(model.spread[i]))
            for i, n in enumerate(model.names)
        ),
        checks=checks,
        assumptions=(*model.assumptions(), *_air(datum.density_ratio)),
    )


def _air(ratio: float) -> tuple[str, ...]:
    if ratio == 1:
        return ()
    way = "thinner" if ratio < 1 else "denser"
    return (
        f"the air here is {100 * abs(1 - ratio):.0f} % {way} than that of the label's speed: the blades take so much "
        f"{'less' if ratio < 1 else 'more'} torque, until the speed is read here",
    )


def _no_torque(checks: Sequence[ReadingCheck], error: InputError) -> InputError:
    """Why no motor of the kind can run so: the capacitor, where all readings agree without it, else as it was said."""
    if not checks or checks[0].name != "run_capacitance_f":
        return error
    given, implied = (q.show(v, q.CAPACITANCE, 2) for v in (checks[0].read, checks[0].implied))
    return InputError(
        "run_capacitance_f",
        checks[0].read,
        f"about {implied}",
        f"the readings agree with each other, but not with a run capacitor of {given}: with that the motor could not "
        f"turn so; they would with about {implied}. Measure it, or correct what is printed",
    )


def _doubted(model: Model, best: FloatArray, effort: _Effort) -> tuple[Model, FloatArray]:
    """Let the model's doubt grow until readings and priors are as far from the fit as they say of themselves.

    The least sum of squares of a fit has as many degrees of freedom as there are readings. Where it is larger, no motor
    of the kind is like this one, and the model's own error is taken to be that much larger. A few readings say little
    about that: `_PRIOR_READINGS` stand for what is known beforehand.
    """
    runs = np.array([t.run is not None and t.quantity == "speed_rpm" for t in model.targets])
    ohms = np.array([t.quantity.endswith("_ohm") for t in model.targets])
    electric = ~runs & ~ohms
    for _ in range(_ROUNDS):
        square = model.residuals(best) ** 2
        read = square[-len(runs) :]
        speeds, windings = float(read[runs].sum()), float(read[ohms].sum())
        # What the priors had to give is counted with amps, watts and volts.
        rest = float(square.sum()) - speeds - windings
        doubt, grown = model.doubt, []
        for now, cost, count in (
            (doubt.electric, rest, int(electric.sum())),
            (doubt.speed, speeds, int(runs.sum())),
            (doubt.ohms, windings, int(ohms.sum())),
        ):
            excess = (cost + _PRIOR_READINGS) / (count + _PRIOR_READINGS)
            grown.append(min(now * float(np.sqrt(excess)), MOST_DOUBT) if excess > _ENOUGH else now)
        after = Doubt(*grown)
        if after == doubt:
            break
        model = Model(model.datum, after)
        best = _minimise(model, best[:, None], effort)
    return model, best


def _starts(model: Model) -> FloatArray:
    """The prior's middle, and the rotor more and less resistive than usual: shape (k, starts)."""
    start = np.repeat(model.start[:, None], 3, axis=1)
    rotor = model.names.index("rotor_resistance")
    start[rotor] += np.array([0.0, 1.5, -1.5]) * model.spread[rotor]
    return start


def _minimise(
    model: Model, starts: FloatArray, effort: _Effort, used: FloatArray | None = None
) -> FloatArray:
    """Bounded Levenberg–Marquardt from all starts at once; the best of them, or each one's own with ``used``.

    Parameters
    ----------
    model : Model
        What is fitted [-]
    starts : array
        Shape (k, starts) [-]
    effort : _Effort
        What may be looked at yet [-]
    used : array or None
        Which targets count for each start, shape (targets, starts) [-]

    Returns
    -------
    array
        Shape (k,), or (k, starts) with ``used`` [-]
    """
    low = (model.mean - _BOUND * model.spread)[:, None]
    high = (model.mean + _BOUND * model.spread)[:, None]
    theta = np.clip(starts, low, high)
    r, j = model.linearised(theta, used)
    cost = (r * r).sum(axis=0)
    damping, settled = np.full(theta.shape[1], 1e-2), np.zeros(theta.shape[1], dtype=bool)
    for _ in range(40):
        effort.spend(model, (len(theta) + 2) * theta.shape[1])
        gradient = np.einsum("mks,ms->sk", j, r)
        normal = np.einsum("mks,mls->skl", j, j)
        diagonal = np.einsum("skk->sk", normal)
        damped = normal + (damping[:, None] * diagonal)[:, :, None] * np.eye(len(theta))
        step = -np.linalg.solve(damped, gradient[..., None])[..., 0].T
        trial = np.clip(theta + step, low, high)
        # The slopes come along with the residuals: most trials are taken, and one look costs little more than the other.
        r_trial, j_trial = model.linearised(trial, used)
        cost_trial = (r_trial * r_trial).sum(axis=0)
        better = np.isfinite(cost_trial) & (cost_trial < cost)
        gain = np.where(better, cost - cost_trial, 0.0)
        theta, r = np.where(better, trial, theta), np.where(better, r_trial, r)
        j = np.where(better, j_trial, j)
        cost = np.where(better, cost_trial, cost)
        damping = np.clip(np.where(better, damping / 6, damping * 8), 1e-9, 1e9)
        still = (np.abs(step) < 1e-6 * model.spread[:, None]).all(axis=0)
        settled |= still | (better & (gain < 1e-9 * (1 + cost)))
        if settled.all():
            break
    return theta if used is not None else np.asarray(theta[:, int(np.argmin(cost))])


def _checks(model: Model, best: FloatArray, effort: _Effort) -> tuple[ReadingCheck, ...]:
    """Every reading beside the fit, and beside what the others imply for it.

    The difference to the others' word follows from the leverage of the reading (deleted residual); where any looks
    suspicious, the fit is made again without each reading in turn, since one bad reading bends the fit for all.
    """
    values = model.predicted(best)
    sigmas = np.array([np.log(t.read / float(values[t.name])) / t.sigma for t in model.targets])
    j = model.jacobian(best)
    solved = np.linalg.solve(j.T @ j, j.T)
    leverage = np.clip(np.einsum("mk,km->m", j, solved)[-len(sigmas) :], 0.0, 0.999)
    implied = np.array([float(values[t.name]) for t in model.targets])
    odd = sigmas / np.sqrt(1 - leverage)
    if (np.abs(odd) > _SUSPECT_SIGMAS).any():
        implied, odd = _left_out(model, best, odd, effort)
    else:
        # The others' word is as far beyond the fit as the reading's own pull on it.
        shift = sigmas / (1 - leverage)
        implied = np.array([t.read * np.exp(-s * t.sigma) for t, s in zip(model.targets, shift, strict=True)])
    found = []
    for t, apart, others, off in zip(model.targets, sigmas, implied, odd, strict=True):
        expected = _told(model, t, best, float(values[t.name]))
        own = float(apart * t.sigma / t.own_sigma)
        found.append(
            ReadingCheck(t.name, t.run, t.quantity, t.read, expected, own, float(others), float(off))
        )
    # One odd reading is blamed by itself; where several are, one wrong capacitor is likelier than several slips.
    if sum(c.odd for c in found) > 1:
        return _by_capacitor(model, best) or tuple(found)
    return tuple(found)


def _by_capacitor(model: Model, best: FloatArray) -> tuple[ReadingCheck, ...] | None:
    """The same checks with the run capacitor's value open; None unless every other reading agrees then.

    Readings that contradict each other may all be right and the microfarads wrong, which no reading's removal shows:
    the capacitor is part of the model.
    """
    datum = model.datum
    given = datum.run_capacitance_f
    if not model.two or given is None or len(model.targets) < _LEAST_FREED:
        return None
    tried, effort = [], _Effort(_FREED_EFFORT)
    try:
        for factor in _FREED:
            farads = float(np.clip(given.value * factor, *_REAL_F))
            free = Model(replace(datum, run_capacitance_f=Measured(farads, _OPEN_SIGMA)), model.doubt)
            theta = _minimise(free, free.start[:, None], effort)
            tried.append((float((free.residuals(theta) ** 2).sum()), free, theta))
    except _Spent:
        return None
    _, free, theta = min(tried, key=lambda t: t[0])
    implied = float(np.exp(theta[free.names.index("run_capacitance")]))
    apart = float(np.log(given.value / implied) / np.hypot(given.relative_sigma, prior.AGED))
    values = free.predicted(theta)
    sigmas = np.array([np.log(t.read / float(values[t.name])) / t.sigma for t in free.targets])
    j = free.jacobian(theta)
    leverage = np.clip(np.einsum("mk,km->m", j, np.linalg.solve(j.T @ j, j.T))[-len(sigmas) :], 0.0, 0.999)
    odd = sigmas / np.sqrt(1 - leverage)
    if (np.abs(odd) > ODD_SIGMAS).any() or abs(apart) <= ODD_SIGMAS:
        return None
    expected = float(np.exp(best[model.names.index("run_capacitance")]))
    blamed = ReadingCheck(
        "run_capacitance_f", None, "run_capacitance_f", given.value, expected, apart, implied, apart
    )
    shift = sigmas / (1 - leverage)
    others = [
        ReadingCheck(
            t.name, t.run, t.quantity, t.read, float(values[t.name]), float(s * t.sigma / t.own_sigma),
            float(t.read * np.exp(-far * t.sigma)), float(off),
        )
        for t, s, far, off in zip(free.targets, sigmas, shift, odd, strict=True)
    ]  # fmt: skip
    return (blamed, *others)


_FREED = (1 / 16, 1 / 6, 1 / 2.5, 1.0, 2.5, 6.0, 16.0)
"""Where an open capacitor's value is looked for, over the one given [-]"""
_REAL_F = (1e-7, 1.5e-4)
_OPEN_SIGMA = 0.6
_FREED_EFFORT = 60_000
_LEAST_FREED = 3
"""Readings besides it that must agree before the capacitor is blamed [-]"""


def _left_out(
    model: Model, best: FloatArray, odd: FloatArray, effort: _Effort
) -> tuple[FloatArray, FloatArray]:
    """Fit without each reading in turn; what the others imply for it, and how far off it is.

    A bad reading makes good ones look bad. So the one without which the rest agree best is taken out first, and the
    rest are looked at again. Raises InputError when the readings contradict each other beyond that.
    """
    count = len(model.targets)
    kept = np.ones(count)
    implied = np.zeros(count)
    try:
        for _ in range(max(1, count // 2)):
            implied, odd, rest = _without_each(model, best, kept, effort)
            suspects = (kept > 0) & (np.abs(odd) > ODD_SIGMAS)
            if not suspects.any():
                break
            kept[int(np.argmin(np.where(suspects, rest, np.inf)))] = 0.0
        else:
            # What was taken out is held against all that stayed.
            implied, odd, _ = _without_each(model, best, kept, effort)
    except _Spent:
        raise _contradiction(model, odd) from None
    return implied, odd


def _without_each(
    model: Model, best: FloatArray, kept: FloatArray, effort: _Effort
) -> tuple[FloatArray, FloatArray, FloatArray]:
    """For each reading what the other kept ones imply, how far off it is, and how ill those others agree."""
    count = len(model.targets)
    if count <= _ALL_AGAIN:
        return _made_again(model, best, kept, np.arange(count), effort)
    # Of many readings each bends the fit little: what leaving one out does follows from its leverage. Only the most
    # suspicious are left out for real.
    centre, implied, odd = _by_leverage(model, best, kept, effort)
    some = np.argsort(-np.abs(odd), kind="stable")[:_SOME_AGAIN]
    some = some[np.abs(odd[some]) > _SUSPECT_SIGMAS]
    ill = np.full(count, np.inf)
    if len(some):
        implied[some], odd[some], ill[some] = _made_again(model, centre, kept, some, effort)
    return implied, odd, ill


def _by_leverage(
    model: Model, best: FloatArray, kept: FloatArray, effort: _Effort
) -> tuple[FloatArray, FloatArray, FloatArray]:
    """The fit to the kept readings, and to first order what it would be without each of them."""
    starts = np.stack([best, model.start], axis=1)
    both = np.repeat(kept[:, None], 2, axis=1)
    theta = _minimise(model, starts, effort, both)
    cost = (model.residuals(theta, both) ** 2).sum(axis=0)
    centre = theta[:, int(np.argmin(cost))]
    values = model.predicted(centre)
    said = np.array([_told(model, t, centre, float(values[t.name])) for t in model.targets])
    sigma = np.array([t.sigma for t in model.targets])
    read = np.array([t.read for t in model.targets])
    z = np.log(read / said) / sigma
    jacobian = model.jacobian(centre, kept)
    covariance = np.linalg.inv(jacobian.T @ jacobian)
    slopes = np.stack([_slope(model, centre, t) for t in model.targets]) / sigma[:, None]
    leverage = np.clip(np.einsum("mk,kl,ml->m", slopes, covariance, slopes), 0.0, 0.999)
    odd = np.where(kept > 0, z / np.sqrt(1 - leverage), z / np.sqrt(1 + leverage))
    implied = np.where(kept > 0, read * np.exp(-z * sigma / (1 - leverage)), said)
    return centre, implied, odd


def _made_again(
    model: Model, best: FloatArray, kept: FloatArray, some: NDArray[np.int64], effort: _Effort
) -> tuple[FloatArray, FloatArray, FloatArray]:
    """The fit made again without each of some readings: what the others imply, how far off it is, how ill they agree."""
    count = len(some)
    used = np.repeat(kept[:, None], count, axis=1)
    used[some, np.arange(count)] = 0.0
    # From the present fit, which may be bent, and from what was assumed before; the better one counts.
    starts = np.concatenate([np.repeat(s[:, None], count, axis=1) for s in (best, model.start)], axis=1)
    both = np.concatenate([used, used], axis=1)
    theta = _minimise(model, starts, effort, both)
    cost = (model.residuals(theta, both) ** 2).sum(axis=0).reshape(2, count)
    chosen = np.argmin(cost, axis=0) * count + np.arange(count)
    ill = cost.min(axis=0)
    theta = theta[:, chosen]
    values = model.predicted(theta)
    targets = [model.targets[i] for i in some]
    implied = np.array(
        [_told(model, t, theta[:, i], float(values[t.name][i])) for i, t in enumerate(targets)]
    )
    rest = model.jacobian(theta, used)
    odd = np.zeros(count)
    for i, t in enumerate(targets):
        inverse = np.linalg.inv(rest[..., i].T @ rest[..., i])
        # The residual of a far-off reading is softened; its own slope is what counts here.
        slope = _slope(model, theta[:, i], t)
        odd[i] = np.log(t.read / implied[i]) / np.hypot(t.sigma, float(np.sqrt(slope @ inverse @ slope)))
    return implied, odd, ill


def _told(model: Model, target: Target, theta: FloatArray, near: float) -> float:
    """What a θ says of a reading; a speed far from the one that was read is solved for."""
    if target.run is None or target.quantity != "speed_rpm" or abs(near / target.read - 1) < 0.05:
        return near
    return model.running_speed(theta, target.run) or near


def _slope(model: Model, theta: FloatArray, target: Target) -> FloatArray:
    """Derivative of the logarithm of one predicted reading by each parameter."""
    step = 1e-5
    nudge = step * np.eye(len(theta))
    around = np.concatenate([theta[:, None] + nudge, theta[:, None] - nudge], axis=1)
    values = np.log(model.predicted(around)[target.name])
    return np.asarray((values[: len(theta)] - values[len(theta) :]) / (2 * step))


def _sample(model: Model, best: FloatArray, count: int, random: np.random.Generator) -> FloatArray:
    """Draws of shape (k, count) by randomise-then-optimise.

    Each draw solves Qᵀ(r(θ) − r(θ*) − ε) = 0 for its own noise ε, Q spanning the residuals' tangent at the best fit.
    Unlike a Gaussian around θ*, the draws keep to the readings where those bend the posterior.
    """
    q, r = np.linalg.qr(model.jacobian(best))
    target = q.T @ model.residuals(best)[:, None] + _BEND * random.standard_normal((len(best), count))
    theta = best[:, None] + np.linalg.solve(r, target - q.T @ model.residuals(best)[:, None])
    reach = 4 * model.spread[:, None]
    theta = np.clip(theta, best[:, None] - reach, best[:, None] + reach)
    limit = 0.5 * model.spread[:, None]
    miss = target - q.T @ model.residuals(theta)
    inverse = np.linalg.inv(np.einsum("mk,mnd->dkn", q, model.jacobian(theta)))
    for _ in range(6):
        step = np.clip((inverse @ miss.T[..., None])[..., 0].T, -limit, limit)
        theta = theta + step
        after = target - q.T @ model.residuals(theta)
        # Broyden's update of the inverse: what the step did to the miss, without differentiating again.
        did = (inverse @ (miss - after).T[..., None])[..., 0]
        along = (step.T[:, None] @ inverse)[:, 0]
        scale = np.einsum("dk,dk->d", step.T, did)
        scale = np.where(np.abs(scale) > 1e-12, scale, np.inf)
        inverse += (step.T - did)[:, :, None] * along[:, None] / scale[:, None, None]
        miss = after
    return theta


def _draw(model: Model, best: FloatArray, supply: Source) -> tuple[Machined, FloatArray, FloatArray, int]:
    datum = model.datum
    random = np.random.default_rng(20260)
    # A few spare draws stand in for those that would not run, so that bands always rest on the same number.
    theta = _sample(model, best, DRAWS + 60, random)
    n_full = model.full_speed(theta)[:, None]
    per_volt = model.motor(theta[..., None]).respond(1 - n_full / model.n_s, datum.frequency_hz)
    alive = (per_volt.torque_nm[:, 0] > 0) & np.isfinite(theta).all(axis=0)
    theta, n_full = theta[:, alive], n_full[alive]
    table = model.table(theta)
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
    lost = int((~alive).sum() + (~runs).sum())
    loss = table.response.rotor_loss_w + table.response.winding_loss_w
    heat = direct.read_off(loss)[0] * direct.motor_voltage_v[0] ** 2
    kept = model.table(theta[:, keep])
    if datum.density_ratio != 1:
        # A table begins at rest, where the air takes nothing.
        friction = kept.load_nm[..., :1]
        kept = replace(kept, load_nm=friction + (kept.load_nm - friction) * datum.density_ratio)
    return kept, theta[:, keep], np.asarray(heat[keep], dtype=np.float64), lost
