"""What the blades ask of the motor."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from fenwit.core.errors import FloatOrArray, check_range

FloatArray = NDArray[np.float64]


@dataclass(frozen=True)
class FanLoad:
    """Fan torque T = T_f + (T_full − T_f)(n/n_full)^e; parameters may be arrays."""

    full_speed_rpm: FloatOrArray
    full_speed_torque_nm: FloatOrArray
    friction_share: FloatOrArray
    """Constant friction as a share of full-speed torque [-]"""
    exponent: FloatOrArray = 2.0
    break_away_ratio: FloatOrArray = 1.5
    """Torque that gets the fan moving, over running friction [-]"""

    def __post_init__(self) -> None:
        check_range("full_speed_rpm", self.full_speed_rpm, 1.0, 40000.0, "rpm")
        check_range("full_speed_torque_nm", self.full_speed_torque_nm, 1e-7, 100.0, "N·m")
        check_range("friction_share", self.friction_share, 0.0, 1.0, "")
        check_range("exponent", self.exponent, 0.0, 5.0, "")
        check_range("break_away_ratio", self.break_away_ratio, 1.0, 10.0, "")

    @property
    def friction_nm(self) -> FloatOrArray:
        """Running friction [N·m]"""
        return self.friction_share * self.full_speed_torque_nm

    def in_air(self, ratio: FloatOrArray) -> FanLoad:
        """The same blades in other air: what goes with the air grows with its density, friction does not.

        Parameters
        ----------
        ratio : float or array
            Density over that at which full-speed torque belongs to full speed [-]

        Returns
        -------
        FanLoad
            With its torque at the same full speed [-]

        Raises
        ------
        InputError
            No air, or more than a fan stands in.
        """
        check_range("density_ratio", ratio, 0.02, 20.0, "")
        friction = self.friction_nm
        torque = friction + (self.full_speed_torque_nm - friction) * ratio
        return replace(self, full_speed_torque_nm=torque, friction_share=friction / torque)

    def torque_nm(self, speed_rpm: FloatArray) -> FloatArray:
        """Torque the fan takes at a speed.

        Parameters
        ----------
        speed_rpm : array
            Speeds, 0 and up [rpm]

        Returns
        -------
        array
            Torque [N·m]
        """
        share = np.asarray(speed_rpm) / self.full_speed_rpm
        friction = np.asarray(self.friction_nm)
        # A load without a speed-dependent part is constant down to rest, where 0**0 would say so anyway.
        return np.asarray(friction + (self.full_speed_torque_nm - friction) * share**self.exponent)


def flow_share(speed_share: float) -> float:
    """Airflow over full airflow by the fan law q ∝ n, in one unchanged system.

    Parameters
    ----------
    speed_share : float
        Speed over full speed [-]

    Returns
    -------
    float
        Flow over full flow [-]

    Raises
    ------
    InputError
        Share below 0 or above 3.
    """
    return float(check_range("speed_share", speed_share, 0.0, 3.0, ""))


SYSTEM_SHARE, ALIKE = 5.0, 0.08
"""How much faster than speed flow falls for each unit by which the load's exponent departs from 2, and up to which
departure it is taken for 2 [-]"""


def flow_between(speed_share: float, exponent: float) -> tuple[float, float]:
    """Airflow over full airflow, between two bounds.

    A load that goes with the square of speed blows into one unchanged system: q ∝ n. Where its exponent is another, part
    of the pressure is fixed, and flow falls faster than speed: q ∝ n^(1 + 5 |e − 2|) at worst (docs/machine.md).

    Parameters
    ----------
    speed_share : float
        Speed over full speed [-]
    exponent : float
        Of the load [-]

    Returns
    -------
    tuple of float
        Least and most flow over full flow [-]

    Raises
    ------
    InputError
        Share below 0 or above 3, exponent outside 0 to 5.
    """
    share = float(check_range("speed_share", speed_share, 0.0, 3.0, ""))
    apart = abs(float(check_range("exponent", exponent, 0.0, 5.0, "")) - 2.0)
    worst = share ** (1 + SYSTEM_SHARE * apart) if apart > ALIKE else share
    return min(worst, share), max(worst, share)


def level_change_db(speed_share: float) -> float:
    """Change of air noise by the fan law 55 log10(n/n_full), the middle of the usual 50 to 60.

    Parameters
    ----------
    speed_share : float
        Speed over full speed, above 0.01 [-]

    Returns
    -------
    float
        Level difference, negative below full speed [dB]

    Raises
    ------
    InputError
        Share outside 0.01 to 3.
    """
    return float(55 * np.log10(check_range("speed_share", speed_share, 0.01, 3.0, "")))


def level_spread_db(speed_share: float) -> float:
    """By how much that change may be off: the exponent lies between 50 and 60.

    Parameters
    ----------
    speed_share : float
        Speed over full speed, above 0.01 [-]

    Returns
    -------
    float
        Half width [dB]

    Raises
    ------
    InputError
        Share outside 0.01 to 3.
    """
    return float(5 * abs(np.log10(check_range("speed_share", speed_share, 0.01, 3.0, ""))))
