"""How a motor's iron and warmth follow the load of its own fan (docs/machine.md, "In service").

At an operating point the torque is the fan's, so that air-gap flux and heat are functions of speed alone. A motor in
service has at each speed the magnetising reactance and the resistances that it has when it runs there with its fan:
where motor and fan agree this is exact, and one volt at the terminals is still enough.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from fenwit.core.errors import FloatOrArray, check_range

FloatArray = NDArray[np.float64]
ROOM_C = 20.0
"""Of the room where nobody says otherwise [°C]"""
COPPER_C = 234.5
"""Copper's ohms would vanish this far below 0 °C [°C]"""
_ROTOR_PART = 0.18
"""Share of the heat at full speed that goes with slip times torque; the rest goes with the square of the flux [-]"""
_MOST_FLUX, _MOST_HEAT = 1.1, 1.5


@dataclass(frozen=True)
class Service:
    """What the fan does to its motor; parameters may be arrays of the motor's shape."""

    full_speed_rpm: FloatOrArray
    friction_share: FloatOrArray
    exponent: FloatOrArray
    saturation: FloatOrArray = 0.0
    """X_m without flux is larger than at full speed by this share [-]"""
    knee: float = 6.0
    """How sharply iron saturates [-]"""
    rise_k: FloatOrArray = 0.0
    """Windings and bars over the room at full speed [K]"""
    deep_bars: FloatOrArray = 0.0
    """By how much the bars' resistance grows with slip: R2 (1 + d s) over that at full speed [-]"""

    def __post_init__(self) -> None:
        check_range("full_speed_rpm", self.full_speed_rpm, 1.0, 40000.0, "rpm")
        check_range("friction_share", self.friction_share, 0.0, 1.0, "")
        check_range("exponent", self.exponent, 0.0, 5.0, "")
        check_range("saturation", self.saturation, 0.0, 5.0, "")
        check_range("knee", self.knee, 1.0, 12.0, "")
        check_range("rise_k", self.rise_k, 0.0, 250.0, "K")
        check_range("deep_bars", self.deep_bars, 0.0, 3.0, "")

    def factors(
        self,
        slip: FloatArray,
        synchronous_rpm: FloatOrArray,
        frequency_ratio: FloatOrArray,
        rotor_resistance_ohm: FloatOrArray,
        rotor_leakage_ohm: FloatOrArray,
        rated_synchronous_rpm: float,
    ) -> tuple[FloatArray, FloatArray, FloatArray]:
        """By how much reactance and resistances differ from those at full speed.

        With t the load torque over that at full speed and k the frequency ratio, torque per flux squared gives
        (φ/φ0)² = t g(s)/g(s0), g = (R2² + (s k X2)²)/(k s); heat goes with t k s and with the flux.

        Parameters
        ----------
        slip : array
            Slip [-]
        synchronous_rpm : float or array
            Speed of the field [rpm]
        frequency_ratio : float or array
            Frequency over rated [-]
        rotor_resistance_ohm : float or array
            Warm, referred [Ω]
        rotor_leakage_ohm : float or array
            At rated frequency [Ω]
        rated_synchronous_rpm : float
            Speed of the field at rated frequency [rpm]

        Returns
        -------
        tuple of array
            Factors of magnetising reactance, of all resistances, and of the bars' besides; 1 at full speed [-]
        """
        k, r_2 = frequency_ratio, np.square(rotor_resistance_ohm)
        s = np.maximum(slip, 1e-4)
        full_slip = np.maximum(1 - self.full_speed_rpm / rated_synchronous_rpm, 1e-3)
        share = np.maximum((1 - slip) * synchronous_rpm, 0.0) / self.full_speed_rpm
        load = self.friction_share + (1 - self.friction_share) * share**self.exponent
        per_flux = (r_2 + np.square(s * k * rotor_leakage_ohm)) / (k * s)
        at_full = (r_2 + np.square(full_slip * rotor_leakage_ohm)) / full_slip
        flux = _limited(load * per_flux / at_full)
        iron = (1 + self.saturation) / (1 + self.saturation * flux ** (self.knee / 2))
        heat = _ROTOR_PART * load * k * s / full_slip + (1 - _ROTOR_PART) * flux
        cooling = 0.35 + 0.65 * np.minimum(share, 1.2) ** 0.7
        rise = self.rise_k * np.minimum(heat / cooling, _MOST_HEAT)
        at_rest = COPPER_C + ROOM_C
        bars = (1 + self.deep_bars * slip) / (1 + self.deep_bars * full_slip)
        return np.asarray(iron), np.asarray((at_rest + rise) / (at_rest + self.rise_k)), np.asarray(bars)


def _limited(flux_square: FloatOrArray) -> FloatArray:
    """Flux beyond what a motor can have bends over softly; at full speed it stays 1."""
    limit = _MOST_FLUX**2

    def soft(square: FloatOrArray) -> FloatArray:
        return np.asarray(square * (1 + (np.minimum(square, 1e6) / limit) ** 8) ** -0.125)

    return np.asarray(soft(flux_square) / soft(1.0))


def cold_over_warm(rise_k: FloatOrArray, celsius: float = ROOM_C) -> FloatOrArray:
    """Ohms of a copper winding at a temperature, over those at full speed in service.

    Parameters
    ----------
    rise_k : float or array
        Winding over the room at full speed [K]
    celsius : float
        Temperature of the winding when it was read [°C]

    Returns
    -------
    float or array
        Ratio, below 1 for a cold winding [-]
    """
    return (COPPER_C + celsius) / (COPPER_C + ROOM_C + rise_k)
