"""Speed over the volts of a tap: what a transformer can do with a fan at all."""

from __future__ import annotations

import numpy as np

from fenwit.core.calibrate.bands import StepBands
from fenwit.core.job.machine import MachineFan
from fenwit.core.memory import remembered
from fenwit.core.methods.common.curve import reach_of, zones_of
from fenwit.core.methods.seam import Axis, FloatArray, Reach, Zone
from fenwit.core.methods.stepped_voltage.settings import bands_on
from fenwit.core.operating import Scan, scan, tabulate
from fenwit.core.regulator.series import SettingKind, SpeedCurve
from fenwit.core.regulator.transformer import FRAMES, Transformer, Winding, transformer

AXIS = Axis("on the tap", "V", 1.0)
_POINTS = 160
_LEAST = 0.06
"""Of the supply's volts, where the curve begins [-]"""


@remembered
def curve_of(fan: MachineFan) -> tuple[Transformer, SpeedCurve]:
    """Speed over open volts of the likeliest motor, on the smallest auto frame that bears it on every tap."""
    volts = fan.supply.voltage_v * np.linspace(_LEAST, 1.0, _POINTS)
    units = [transformer(Winding.AUTO, f.va, fan.supply.voltage_v, fan.supply.frequency_hz) for f in FRAMES]
    found = units[-1], _scanned(fan, units[-1], volts)
    for unit in units:
        tried = _scanned(fan, unit, volts)
        amps = np.abs(tried.admittance_s) * tried.motor_voltage_v * tried.runs
        share = volts / unit.supply_v
        if (np.maximum(share, 1 - share) * amps)[:-1].max() <= unit.rated_a:
            found = unit, tried
            break
    unit, seen = found
    barred = seen.runs & (seen.motor_voltage_v > fan.motor_limit_v)
    none = np.zeros(_POINTS)
    return unit, SpeedCurve(SettingKind.VOLTAGE, volts, seen, barred, none, none.astype(np.bool_))


def _scanned(fan: MachineFan, unit: Transformer, volts: FloatArray) -> Scan:
    hertz = fan.supply.frequency_hz
    z = np.array([unit.impedance_ohm(float(v), hertz) for v in volts])
    return scan(tabulate(fan.belief.motor, fan.belief.load, hertz), volts, z)


def _bands(fan: MachineFan, volts: list[float]) -> tuple[StepBands, ...]:
    unit, _ = curve_of(fan)
    return tuple(step for step, _ in bands_on(fan, unit, volts))


@remembered
def zones(fan: MachineFan) -> tuple[Zone, ...]:
    """Speeds that no tap gives: below the start limit, or in a gap of falling volts."""
    return zones_of(curve_of(fan)[1], fan.full_rpm, "no tap holds a speed here")


@remembered
def reach(fan: MachineFan) -> Reach:
    """Speed over the volts of a tap, with its band."""
    return reach_of(AXIS, curve_of(fan)[1], lambda volts: _bands(fan, volts))
