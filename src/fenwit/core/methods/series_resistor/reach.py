"""Speed over the ohms in the line: what a resistor can do with a fan at all, and which one a wanted speed asks for."""

from __future__ import annotations

from collections.abc import Sequence

from fenwit.core.calibrate.bands import StepBands, step_bands
from fenwit.core.job.machine import MachineFan
from fenwit.core.memory import remembered
from fenwit.core.methods.common.curve import reach_of, zones_of
from fenwit.core.methods.common.series import Aimed, AimMemory, asked_once
from fenwit.core.methods.seam import Axis, Reach, Zone
from fenwit.core.regulator.series import SettingKind, SpeedCurve, speed_curve, values_for_speeds

AXIS = Axis("in the line", "Ω", 1.0, logarithmic=True)


@remembered
def curve_of(fan: MachineFan) -> SpeedCurve:
    """Speed over resistance of the likeliest motor, once for each fan."""
    return speed_curve(fan.belief.motor, fan.belief.load, fan.supply, setting=SettingKind.RESISTANCE)


@remembered
def _memory(fan: MachineFan) -> AimMemory:
    return AimMemory()


def aimed(fan: MachineFan, speeds_rpm: Sequence[float]) -> dict[float, Aimed]:
    """What each wanted speed below full speed asks for, remembered."""

    def ask(new: list[float]) -> dict[float, Aimed]:
        asked = values_for_speeds(
            fan.belief.motor, fan.belief.load, fan.supply, SettingKind.RESISTANCE, new, curve_of(fan)
        )
        bands = _bands(fan, [i.value or 0.0 for i in asked])
        return {
            w: Aimed(inverse, complex(inverse.value or 0.0), band if inverse.value else None)
            for w, inverse, band in zip(new, asked, bands, strict=True)
        }

    return asked_once(_memory(fan), speeds_rpm, ask)


def _bands(fan: MachineFan, ohms: Sequence[float]) -> tuple[StepBands, ...]:
    return step_bands(fan.belief, fan.supply, [complex(v) for v in ohms])


@remembered
def zones(fan: MachineFan) -> tuple[Zone, ...]:
    """Speeds that no resistor gives: below the start limit, or between two branches."""
    return zones_of(curve_of(fan), fan.full_rpm, "no resistor holds a speed here")


@remembered
def reach(fan: MachineFan) -> Reach:
    """Speed over resistance, with its band."""
    return reach_of(AXIS, curve_of(fan), lambda values: _bands(fan, values))
