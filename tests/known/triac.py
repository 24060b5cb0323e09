"""Motors behind a triac and what they do, *independent*: by event-exact time integration apart from this code.

Printed to the digits shown. Angles are from the supply's zero.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from fenwit.core.load import FanLoad
from fenwit.core.motor.machine import TwoWindingMotor

_W = 2 * np.pi * 50
C16 = TwoWindingMotor(
    230, 50, 16, 200, 0.4775 * _W, 1.910 * _W, 220, 0.3979 * _W, 0.97, 250, 0.4615 * _W, 2.5e-6
)
C16_LOAD = FanLoad(330, 0.695, 0.015 / 0.695, 2.0, 1.0)
B4 = TwoWindingMotor(230, 50, 4, 52, 0.1337 * _W, 1.337 * _W, 90, 0.1146 * _W, 1.10, 70, 0.1592 * _W, 4e-6)
B4_LOAD = FanLoad(1350, 0.53, 0.18 / 0.53, 2.0, 1.0)


class Row(NamedTuple):
    """One steady state at fixed speed."""

    firing_deg: float
    on_state_v: float
    speed_rpm: float
    full: bool
    motor_v: float
    line_a: float
    main_a: float
    auxiliary_a: float
    capacitor_v: float
    watts: float
    torque_nm: float
    ripple_nm: float
    thd: float
    extinction_deg: float
    step_v: float


C16_ROWS = (
    Row(0, 0, 330, True, 230.0, 0.3182, 0.3273, 0.2795, 355.8, 70.56, 0.7085, 0.9577, 0, 195.36, 0),
    Row(45, 0, 319, False, 221.22, 0.3254, 0.3151, 0.2625, 329.7, 68.30, 0.7497, 1.4256, 0.237, 187.76, -58.18),
    Row(90, 0, 281, False, 167.76, 0.2993, 0.2479, 0.1945, 218.7, 43.79, 0.4973, 0.9479, 0.617, 181.02, -102.54),
    Row(110, 0, 188, False, 127.07, 0.2605, 0.2132, 0.1423, 139.0, 26.92, 0.2528, 0.4647, 0.749, 187.33, -124.79),
    Row(130, 0, 94, False, 83.32, 0.1717, 0.1373, 0.0919, 78.18, 10.20, 0.0683, 0.1445, 0.931, 192.26, -127.09),
    Row(60, 1.2, 0, False, 207.13, 0.4409, 0.4480, 0.2074, 242.1, 84.70, 0.5398, 0.6002, 0.328, 189.34, -83.17),
)  # fmt: skip
C16_SPEEDS = {
    45: 326.6, 60: 320.2, 80: 299.7, 90: 278.7, 100: 244.6, 110: 196.7, 120: 143.4, 130: 92.1, 140: 41.5,
}  # fmt: skip
"""Speed of C16 with its load by firing angle [rpm]"""
