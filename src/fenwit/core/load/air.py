"""Air as it is where the fan stands, and what a temperature rise says of its flow."""

from __future__ import annotations

from fenwit.core.errors import check_range

HEAT_J_KGK = 1006.0
"""Specific heat of air [J/kgK]"""
GAS_J_KGK = 287.05
_SEA_PA, _LAPSE, _POWER = 101325.0, 2.25577e-5, 5.25588
"""Standard atmosphere [Pa, 1/m, -]"""


def air_density_kg_m3(altitude_m: float, temperature_c: float) -> float:
    """Of dry air in the standard atmosphere, ρ = p(h) / (R T).

    Parameters
    ----------
    altitude_m : float
        Above sea level [m]
    temperature_c : float
        Of the air [°C]

    Returns
    -------
    float
        Density [kg/m³]

    Raises
    ------
    InputError
        An altitude outside −400 to 6000 m, air outside −60 to 400 °C.
    """
    check_range("altitude_m", altitude_m, -400.0, 6000.0, "m")
    check_range("temperature_c", temperature_c, -60.0, 400.0, "°C")
    return float(_SEA_PA * (1 - _LAPSE * altitude_m) ** _POWER / (GAS_J_KGK * (temperature_c + 273.15)))


def flow_from_rise_m3_s(heat_w: float, rise_k: float, density_kg_m3: float) -> float:
    """Flow that takes up so much heat for so much rise, q = P / (ρ c_p ΔT).

    Parameters
    ----------
    heat_w : float
        All that warms the air, the motor's own watts included [W]
    rise_k : float
        Supply air over return air [K]
    density_kg_m3 : float
        Where the flow is meant [kg/m³]

    Returns
    -------
    float
        Flow [m³/s]

    Raises
    ------
    InputError
        No heat, no rise, or air that cannot be.
    """
    check_range("heat_w", heat_w, 1.0, 1e6, "W")
    check_range("temperature_rise_k", rise_k, 0.5, 300.0, "K")
    check_range("density_kg_m3", density_kg_m3, 0.3, 2.0, "kg/m³")
    return float(heat_w / (density_kg_m3 * HEAT_J_KGK * rise_k))
