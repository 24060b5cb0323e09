"""Triac and motor by plain time integration from rest: what the periodic solution is held against."""

from __future__ import annotations

import numpy as np
from scipy.integrate import solve_ivp
from scipy.linalg import expm

from fenwit.core.motor.machine import Machine
from fenwit.core.motor.switched import switched


def integrated(
    motor: Machine, speed: float, alpha: float, on_state_v: float = 0.0, choke: complex = 0j, halves: int = 60
) -> dict[str, float]:
    """*Independent* of the periodic solution: from rest, half-cycle after half-cycle, with the zero found by events."""
    m = switched(motor, np.array([speed]), 50.0, choke.real, choke.imag)
    a, b, a_open = m.a_on[0], m.b_on[0], m.a_off[0]
    z, last, found = np.zeros(m.fire.shape[1]), None, {}
    for half in range(halves):
        sign = 1 if half % 2 == 0 else -1
        start = half * np.pi + alpha
        if last is not None:
            z = expm(a_open * (start - last)) @ z

        def slope(theta: float, x: np.ndarray, sign: int = sign) -> np.ndarray:
            return a @ x + b * (np.sqrt(2) * 230 * np.sin(theta) - on_state_v * sign)

        def zero(_: float, x: np.ndarray) -> float:
            return float(x @ m.line)

        zero.terminal, zero.direction = True, -sign  # type: ignore[attr-defined]
        first = slope(start, m.fire @ z) * 1e-7
        run = solve_ivp(slope, (start + 1e-7, start + np.pi), m.fire @ z + first, events=zero, rtol=1e-10, atol=1e-12,
                        method="DOP853", dense_output=True)  # fmt: skip
        last = run.t[-1]
        theta = np.linspace(start + 1e-7, last, 4001)
        i = m.line @ run.sol(theta)
        z = m.extinguish @ run.y[:, -1]
        found = {
            "conduction_rad": last - start,
            "line_current_a": float(np.sqrt(np.trapezoid(i**2, theta) / np.pi)),
            "input_power_w": float(np.trapezoid(np.sqrt(2) * 230 * np.sin(theta) * i, theta) / np.pi),
        }
    return found
