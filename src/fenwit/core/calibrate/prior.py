"""What is taken for granted about a motor before anything is read, with its grounds.

Every entry is the logarithm of a ratio, with centre and spread, so that a motor of any size has the same prior.
"""

from __future__ import annotations

from dataclasses import dataclass

from fenwit.core.calibrate.datum import Measured
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
    Ratio("main_leakage_reactance", 1.15, 0.28, "salient poles leak about as much as they resist"),
    Ratio("magnetising_reactance", 5.60, 0.28, "short iron, wide gap"),
    Ratio("rotor_resistance", 1.35, 0.28, "cheap cage of high resistance"),
    Ratio("rotor_leakage_reactance", 1.10, 0.30, "like the main winding's leakage"),
    Ratio("ring_turns", 0.50, 0.20, "one turn round a third to a half of the pole"),
    Ratio("ring_angle", 0.87, 0.17, "the shaded part stands 35 to 65 electrical degrees behind the pole"),
    Ratio("ring_resistance", 6.0, 0.60, "over R1 a_s²: thick copper, but a single short turn"),
    Ratio("ring_leakage_reactance", 0.55, 0.50, "over R1 a_s²: the ring lies bare in the iron"),
    Ratio("shared_reactance", 0.14, 0.50, "over R1 a_s: the pole tip's leakage goes through both"),
)
IRON_RESISTANCE = Ratio(
    "iron_resistance", 10.0, 0.80, "over the magnetising reactance; the share of the input says it better"
)
SATURATION = Ratio(
    "saturation", 0.30, 0.45, "unsaturated magnetising reactance lies 10 to 60 % over that at full speed"
)
WINDING_RISE = Ratio("winding_rise", 53.0, 0.21, "windings run 35 to 75 K over the room at full speed")
AGED = 0.02
"""What a run capacitor loses between its reading and the run, and by warmth [-]"""
KNEE = 6.0
"""How sharply iron saturates: between 4 and 8 [-]"""
DEEP_BARS = 0.15
"""Rise of the bars' resistance from synchronous speed to rest: 0 to 0.3 [-]"""
FRICTION_SHARE = Ratio(
    "friction_share",
    0.03,
    0.50,
    "bearings of a free-turning fan: 1.5 to 8 % of full-speed torque, part of it viscous",
)
EXPONENT = Ratio(
    "exponent",
    1.96,
    0.07,
    "blade torque goes with about the square of speed: 1.7 behind a fixed pressure, 2.2 behind guards",
)
BREAK_AWAY = Ratio(
    "break_away",
    1.5,
    0.35,
    "what gets a fan moving is 1 to 2.5 times its running friction; torque at rest is uncertain too",
)
_IRON_SHARE = Ratio("iron_share", 0.075, 0.40, "iron takes 4 to 14 % of the input")
_LABELS_SWEEP = (
    Ratio("efficiency", 0.29, 0.45, "shaft power over input of sweep fans"),
    _IRON_SHARE,
)
_LABELS_BLOWER = (
    Ratio("efficiency", 0.36, 0.40, "shaft power over input of blower motors below 200 W"),
    _IRON_SHARE,
)
_LABELS_SHADED = (
    Ratio("efficiency", 0.175, 0.27, "shaft power is 12 to 32 % of a shaded-pole motor's input"),
    _IRON_SHARE,
    Ratio("power_factor", 0.65, 0.12, "0.5 to 0.75 on the labels of shaded-pole fans"),
    Ratio("starting_torque", 0.40, 0.45, "0.15 to 0.8 of full-load torque"),
    Ratio("winding_share", 0.38, 0.25, "the winding's copper takes 22 to 50 % of the input"),
)
_SIZE_SWEEP = Ratio("capacitor_reactance", 5.2, 0.50, "run capacitors are chosen near quadrature current")
_SIZE_BLOWER = Ratio(
    "capacitor_reactance", 7.2, 0.48, "near quadrature current too, with more reactance for the ohms"
)
SIZE_UNKNOWN = Ratio("stator_resistance", 1.0, 1.50, "next to nothing is known of the size")


_SLIP_SWEEP = Ratio("full_slip", 0.13, 0.50, "sweep fans run 8 to 20 % below the field")
_SLIP_BLOWER = Ratio("full_slip", 0.13, 0.60, "blowers run 8 to 27 % below the field at full volts")
_SLIP_SHADED = Ratio("full_slip", 0.13, 0.60, "small shaded-pole fans run 10 to 25 % below the field")


def exponent(known: Measured | None) -> Ratio:
    """Exponent of the blades' torque: the usual one, or what fan curve and system say of it."""
    if known is None:
        return EXPONENT
    grounds = (
        f"blade torque goes with speed to the power {known.value:.2f}, by the fan's curve and its system"
    )
    return Ratio(EXPONENT.name, known.value, known.relative_sigma, grounds)


def labels(kind: MotorKind, poles: int) -> tuple[Ratio, ...]:
    """What is known of motors of a kind at full speed, whatever their ratios.

    Parameters
    ----------
    kind : MotorKind
        The motor's kind [-]
    poles : int
        Number of poles [-]

    Returns
    -------
    tuple of Ratio
        Shares of the input, power factor, torque at rest over full-speed torque [-]
    """
    if kind is MotorKind.SHADED_POLE:
        return _LABELS_SHADED
    return _LABELS_SWEEP if poles >= 12 else _LABELS_BLOWER


def speed_error(kind: MotorKind, poles: int) -> float:
    """What the model itself misses of speed, volts and amps, where an eighth of the motor's volts or more is gone.

    Set by machines that break its assumptions, fitted to two speeds below full (`bin/bench mismatch`).

    Parameters
    ----------
    kind : MotorKind
        The motor's kind [-]
    poles : int
        Number of poles [-]

    Returns
    -------
    float
        Standard deviation, relative [-]
    """
    if kind is MotorKind.SHADED_POLE:
        return 0.0095
    return 0.0075 if poles >= 12 else 0.0085


def size_by_capacitor(poles: int) -> Ratio:
    """Reactance of the run capacitor over the main winding's ohms.

    Parameters
    ----------
    poles : int
        Number of poles [-]

    Returns
    -------
    Ratio
        X_C/R1 [-]
    """
    return _SIZE_SWEEP if poles >= 12 else _SIZE_BLOWER


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
