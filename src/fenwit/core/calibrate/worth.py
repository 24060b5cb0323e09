"""What the next reading is worth: how far each candidate would narrow the bands of the steps (docs/calibration.md)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fenwit.core import quantity as q
from fenwit.core.calibrate.datum import TWO_WINDING_ONLY, away_from
from fenwit.core.calibrate.fit import READING_SIGMA, Belief
from fenwit.core.operating import Source, scan

FloatArray = NDArray[np.float64]
_Z90 = 1.645
_TIE = 0.10
"""Gains closer than this, relative, count as alike: then the cheaper and safer reading goes first [-]"""
_SHARES = (0.80, 0.55, 0.40)
"""Speeds at which a part in the line would be tried, over full speed [-]"""


@dataclass(frozen=True)
class Candidate:
    """A reading that could be taken."""

    quantity: str
    words: str
    """What to do, like "put 3.9 µF in the line and read rpm" [-]"""
    effort: int
    """Cheap and safe ones have less [-]"""
    impedance_ohm: complex | None = None
    """In the line meanwhile; None for readings at full speed or with the power off [Ω]"""
    part_text: str = ""


@dataclass(frozen=True)
class Worth:
    """A candidate with what it would give."""

    candidate: Candidate
    half_width_rpm: tuple[float, ...]
    """Of the 90 % band of every step, once it is read [rpm]"""
    before_rpm: tuple[float, ...]
    gain: float
    """Share of the steps' variance that it takes away [-]"""

    @property
    def step(self) -> int:
        """Index of the step that gains most [-]"""
        gained = np.array(self.before_rpm) - np.array(self.half_width_rpm)
        return int(np.argmax(gained)) if len(gained) else 0


_DEAD = {
    "main_resistance_ohm": ("power off: read the ohms of the main winding", 1),
    "auxiliary_resistance_ohm": ("power off: read the ohms of the auxiliary winding", 1),
}
_AT_FULL = {
    "line_current_a": ("at full speed, clamp one line lead and read amps", 2),
    "input_power_w": ("at full speed, read input watts", 3),
    "auxiliary_current_a": ("at full speed, clamp the capacitor's lead and read amps", 3),
    "capacitor_voltage_v": ("at full speed, read volts across the run capacitor", 6),
    "locked_rotor_current_a": ("hold the rotor, feed it for two seconds and read amps", 8),
}
_IN_LINE = {"speed_rpm": ("read rpm", 4), "line_current_a": ("read line amps", 5)}


def candidates(belief: Belief, parts: Sequence[tuple[complex, str]]) -> tuple[Candidate, ...]:
    """Readings that have not been taken yet.

    Parameters
    ----------
    belief : Belief
        The fan [-]
    parts : sequence of tuple
        Impedance and name of each thing that could be put in the line [-]

    Returns
    -------
    tuple of Candidate
        In no particular order [-]
    """
    d = belief.datum
    found = []
    for table in (_DEAD, _AT_FULL):
        for name, (words, effort) in table.items():
            if getattr(d, name) is None and (d.two_windings or name not in TWO_WINDING_ONLY):
                found.append(Candidate(name, words, effort))
    for z, text in parts:
        for name, (words, effort) in _IN_LINE.items():
            taken = any(abs(r.impedance_ohm - z) < 1e-3 * abs(z) and r.get(name) for r in d.runs)
            if not taken:
                found.append(Candidate(name, f"put {text} in the line and {words}", effort, z, text))
    return tuple(found)


def parts_to_try(belief: Belief) -> tuple[tuple[complex, str], ...]:
    """Preferred values that would bring the fan to three speeds below full: a capacitor for a motor with a run
    capacitor, a resistor for one without, where a capacitor might resonate.

    Parameters
    ----------
    belief : Belief
        The fan [-]

    Returns
    -------
    tuple of tuple
        Impedance and name [Ω]
    """
    d = belief.datum
    capacitive = d.two_windings
    omega = 2 * np.pi * d.frequency_hz
    low, high = (1e-7, 3e-5) if capacitive else (20.0, 20e3)
    values = q.preferred("E6" if capacitive else "E12", low, high)
    z = 1 / (1j * omega * values) if capacitive else values.astype(np.complex128)
    middle = scan(belief.draws, d.supply_voltage_v, np.repeat(z[:, None], belief.draws_kept, axis=1))
    runs = middle.runs.mean(axis=1) > 0.9
    speed = np.where(runs, np.median(middle.speed_rpm, axis=1), np.nan)
    full = float(np.median(belief.full_speed_draws_rpm))
    found: list[tuple[complex, str]] = []
    for share in _SHARES:
        if not runs.any():
            break
        i = int(np.nanargmin(np.abs(speed / full - share)))
        text = q.show(float(values[i]), q.CAPACITANCE if capacitive else q.RESISTANCE)
        if not any(text == t for _, t in found):
            found.append((complex(z[i]), text))
    return tuple(found)


def worth(
    belief: Belief, supply: Source, steps: Sequence[Source], offered: Sequence[Candidate]
) -> tuple[Worth, ...]:
    """How far each candidate would narrow the bands, best first; the cheaper and safer one first where they tie.

    The drop in the variance of the step speeds G is G S hᵀ (h S hᵀ + σ²)⁻¹ h S Gᵀ; both covariances are taken from
    the draws, which carry the bend of the posterior with them.

    Parameters
    ----------
    belief : Belief
        The fan [-]
    supply : Source
        Supply without the regulator [-]
    steps : sequence of Source
        What the motor is fed from at each step [-]
    offered : sequence of Candidate
        Readings to weigh [-]

    Returns
    -------
    tuple of Worth
        Every candidate that tells anything [-]
    """
    if not steps or not offered:
        return ()
    speeds, own = _speeds(belief, steps)
    kept = np.isfinite(speeds).all(axis=0)
    if kept.sum() < 30:
        return ()
    log_read = np.stack([_log_reading(belief, supply, c) for c in offered])
    g = speeds[:, kept] - speeds[:, kept].mean(axis=1, keepdims=True)
    variance = (g**2).mean(axis=1)
    before = _Z90 * np.hypot(np.sqrt(variance), own)
    found = []
    for c, row in zip(offered, log_read, strict=True):
        h = row[kept]
        fine = np.isfinite(h)
        if fine.sum() < 30:
            continue
        h = np.where(fine, h, h[fine].mean())
        h = h - h.mean()
        sigma = _sigma(belief, supply, c)
        drop = (g @ h / len(h)) ** 2 / (float((h**2).mean()) + sigma**2)
        # Chance correlation among 200 draws is not knowledge.
        drop = np.where(drop > 2.0 / len(h) * variance, drop, 0.0)
        after = _Z90 * np.hypot(np.sqrt(np.maximum(variance - drop, 0.0)), own)
        gain = float(drop.sum() / variance.sum())
        found.append(Worth(c, tuple(after.tolist()), tuple(before.tolist()), gain))
    found = [w for w in found if w.gain > 0.02]
    found.sort(key=lambda w: -w.gain)
    return tuple(_cheap_first(found))


def _cheap_first(found: list[Worth]) -> list[Worth]:
    """Among gains that are alike the least effort goes first."""
    ordered: list[Worth] = []
    rest = list(found)
    while rest:
        best = max(w.gain for w in rest)
        alike = [w for w in rest if w.gain >= best * (1 - _TIE)]
        chosen = min(alike, key=lambda w: (w.candidate.effort, -w.gain))
        ordered.append(chosen)
        rest.remove(chosen)
    return ordered


def _speeds(belief: Belief, steps: Sequence[Source]) -> tuple[FloatArray, FloatArray]:
    """Speed of each draw at each step, not a number where it stands; and the model's own error [rpm]."""
    shape = (len(steps), belief.draws_kept)
    z = np.broadcast_to(np.array([s.impedance_ohm for s in steps], dtype=np.complex128)[:, None], shape)
    fed = np.broadcast_to(np.array([s.voltage_v for s in steps])[:, None], shape)
    found = scan(belief.draws, fed, z)
    speed = np.where(found.runs, found.speed_rpm, np.nan).astype(np.float64)
    # A step at which many draws stand has no band that a reading could narrow; the others do.
    usable = found.runs.mean(axis=1) > 0.5
    fill = np.array([np.nanmedian(row) if ok else 0.0 for row, ok in zip(speed, usable, strict=True)])
    speed = np.where(np.isnan(speed), fill[:, None], speed)
    volts = np.array(
        [np.median(v[r]) if r.any() else 0.0 for v, r in zip(found.motor_voltage_v, found.runs, strict=True)]
    )
    away = np.array([away_from(float(v) / belief.supply.voltage_v) for v in volts])
    return speed, belief.model.speed_error * away * np.abs(fill)


def _log_reading(belief: Belief, supply: Source, candidate: Candidate) -> FloatArray:
    """Logarithm of what each draw would read."""
    if candidate.impedance_ohm is None:
        if candidate.quantity == "locked_rotor_current_a":
            y = belief.draws.response.admittance_s[:, 0]
            return np.asarray(np.log(supply.voltage_v * np.abs(y)), dtype=np.float64)
        return np.asarray(np.log(belief.model.predicted(belief.theta)[candidate.quantity]))
    z = np.full((1, belief.draws_kept), candidate.impedance_ohm)
    found = scan(belief.draws, supply.voltage_v, z)
    amps = found.motor_voltage_v[0] * np.abs(found.admittance_s[0])
    value = found.speed_rpm[0] if candidate.quantity == "speed_rpm" else amps
    return np.asarray(np.log(np.where(found.runs[0] & (value > 0), value, np.nan)), dtype=np.float64)


def _sigma(belief: Belief, supply: Source, candidate: Candidate) -> float:
    own = READING_SIGMA["full_speed_rpm" if candidate.quantity == "speed_rpm" else candidate.quantity]
    if candidate.impedance_ohm is None:
        return own
    z = np.full((1, belief.draws_kept), candidate.impedance_ohm)
    volts = scan(belief.draws, supply.voltage_v, z)
    running = volts.motor_voltage_v[0][volts.runs[0]]
    away = away_from(float(np.median(running)) / supply.voltage_v) if len(running) else 1.0
    return float(np.hypot(own, belief.model.speed_error * away))
