"""What is taken for granted about a motor before anything is read, with its grounds.

Every entry is the logarithm of a ratio, with centre and spread, so that a motor of any size has the same prior.
"""

from __future__ import annotations

from dataclasses import dataclass

from fenwit.core.errors import InputError
from fenwit.core.motor.kinds import MotorKind


@dataclass(frozen=True)
class Ratio:
    """One assumed ratio: median and relative spread of a log-normal."""

    name: str
    median: float
    spread: float
    """Standard deviation of the logarithm [-]"""
    grounds: str


_SWEEP = (
    Ratio(
        "main_leakage_reactance",
        0.70,
        0.25,
        "many poles leave short pole pitches: leakage near the resistance",
    ),
    Ratio("magnetising_reactance", 2.70, 0.22, "a wide air gap per pole keeps magnetising reactance low"),
    Ratio(
        "rotor_resistance", 1.27, 0.25, "sweep-fan rotors are made resistive so that voltage sets the speed"
    ),
    Ratio("rotor_leakage_reactance", 0.70, 0.25, "like the main winding's leakage"),
    Ratio("turns_ratio", 1.05, 0.12, "both windings fill the same slots with nearly the same wire"),
    Ratio("auxiliary_resistance", 1.12, 0.15, "over the main winding's ohms; a little more and thinner wire"),
)
_BLOWER = (
    Ratio("main_leakage_reactance", 1.00, 0.20, "four to ten poles: leakage somewhat above the resistance"),
    Ratio(
        "magnetising_reactance",
        4.50,
        0.20,
        "longer pole pitch than a sweep fan's, so more magnetising reactance",
    ),
    Ratio(
        "rotor_resistance", 1.20, 0.20, "blower rotors for tapped speeds are resistive too, less evenly so"
    ),
    Ratio("rotor_leakage_reactance", 0.90, 0.20, "like the main winding's leakage"),
    Ratio("turns_ratio", 1.20, 0.15, "auxiliary often has more turns of thinner wire"),
    Ratio("auxiliary_resistance", 1.40, 0.20, "over the main winding's ohms"),
)
_SHADED = (
    Ratio("stator_leakage_reactance", 1.10, 0.25, "salient poles leak about as much as they resist"),
    Ratio("magnetising_reactance", 2.80, 0.25, "small iron, wide gap"),
    Ratio("rotor_resistance", 2.10, 0.25, "cheap cage of high resistance"),
    Ratio("rotor_leakage_reactance", 0.80, 0.25, "like the stator's leakage"),
    Ratio("torque_factor", 0.55, 0.18, "shading rings and backward field take about half the torque"),
)
FRICTION_SHARE = Ratio(
    "friction_share", 0.03, 0.40, "bearings of a free-turning fan: 1.5 to 6 % of full-speed torque"
)
EXPONENT = Ratio("exponent", 2.0, 0.03, "blade torque goes with the square of speed in free air")
EFFICIENCY = Ratio("efficiency", 0.32, 0.45, "shaft power over input of fan motors below 200 W")
SIZE_BY_CAPACITOR = Ratio(
    "capacitor_reactance", 4.9, 0.32, "run capacitors are chosen near quadrature current"
)
SIZE_UNKNOWN = Ratio("stator_resistance", 1.0, 1.50, "next to nothing is known of the size")


_SLIP_SWEEP = Ratio("full_slip", 0.13, 0.35, "sweep fans run 8 to 20 % below the field")
_SLIP_BLOWER = Ratio("full_slip", 0.15, 0.35, "blowers run 8 to 27 % below the field at full volts")
_SLIP_SHADED = Ratio("full_slip", 0.15, 0.35, "small shaded-pole fans run 10 to 25 % below the field")


def full_slip(kind: MotorKind, poles: int) -> Ratio:
    """Slip at full speed before it is read.

    Parameters
    ----------
    kind : MotorKind
        The motor's kind [-]
    poles : int
        Number of poles [-]

    Returns
    -------
    Ratio
        Slip, 0 at synchronous speed [-]
    """
    if kind is MotorKind.SHADED_POLE:
        return _SLIP_SHADED
    return _SLIP_SWEEP if poles >= 12 else _SLIP_BLOWER


def ratios(kind: MotorKind, poles: int) -> tuple[Ratio, ...]:
    """Assumed ratios to main (or only) winding resistance for a kind of motor.

    Parameters
    ----------
    kind : MotorKind
        The motor's kind [-]
    poles : int
        Number of poles [-]

    Returns
    -------
    tuple of Ratio
        In the order of the model's parameters [-]

    Raises
    ------
    InputError
        No model stands behind this kind.
    """
    if kind in (MotorKind.PSC, MotorKind.PSC_TAPPED):
        return _SWEEP if poles >= 12 else _BLOWER
    if kind is MotorKind.SHADED_POLE:
        return _SHADED
    raise InputError(
        "motor_kind",
        kind.value,
        "shaded-pole or permanent-split-capacitor",
        "no model of this kind of motor yet",
    )
