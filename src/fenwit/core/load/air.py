"""Air as it is where the fan stands, and what a temperature rise says of its flow (docs/air.md)."""

from __future__ import annotations

import math

from scipy.optimize import brentq

from fenwit.core.errors import InputError, check_range

HEAT_J_KGK = 1006.0
"""Specific heat of air [J/kgK]"""
GAS_J_KGK, VAPOUR_J_KGK = 287.05, 461.495
REFERENCE_KG_M3 = 1.2
"""Density to which curves and system points belong unless something else is said [kg/m³]"""
ALTITUDE_M, AIR_C = (-500.0, 11000.0), (-60.0, 400.0)
_SEA_PA, _LAPSE, _POWER = 101325.0, 2.25577e-5, 5.2559
"""Standard atmosphere [Pa, 1/m, -]"""


def air_pressure_pa(altitude_m: float) -> float:
    """Of the standard atmosphere at an altitude, p = 101325 (1 − 2.25577e-5 h)^5.2559 [m → Pa]"""
    check_range("altitude_m", altitude_m, *ALTITUDE_M, "m")
    return float(_SEA_PA * (1 - _LAPSE * altitude_m) ** _POWER)


def altitude_of_m(pressure_pa: float) -> float:
    """Altitude at which the standard atmosphere has a pressure [Pa → m]"""
    high, low = air_pressure_pa(ALTITUDE_M[0]), air_pressure_pa(ALTITUDE_M[1])
    check_range("pressure_pa", pressure_pa, low, high, "Pa", reason="no altitude has this pressure")
    return float((1 - (pressure_pa / _SEA_PA) ** (1 / _POWER)) / _LAPSE)


def vapour_pressure_pa(temperature_c: float, relative_humidity: float) -> float:
    """Of the water in the air, e = RH · 611.2 exp(17.62 t / (243.12 + t)) [°C, - → Pa]"""
    check_range("relative_humidity", relative_humidity, 0.0, 1.0, "")
    check_range("temperature_c", temperature_c, *AIR_C, "°C")
    return float(relative_humidity * 611.2 * math.exp(17.62 * temperature_c / (243.12 + temperature_c)))


def moist_density_kg_m3(pressure_pa: float, temperature_c: float, relative_humidity: float = 0.0) -> float:
    """Of air with its water, ρ = (p − e)/(287.05 T) + e/(461.495 T): moist air is lighter.

    Parameters
    ----------
    pressure_pa : float
        Of the air [Pa]
    temperature_c : float
        Of it [°C]
    relative_humidity : float
        0 dry, 1 saturated [-]

    Returns
    -------
    float
        Density [kg/m³]

    Raises
    ------
    InputError
        Air that cannot be, or more water than the pressure holds.
    """
    check_range("pressure_pa", pressure_pa, 100.0, 1e7, "Pa")
    vapour = vapour_pressure_pa(temperature_c, relative_humidity)
    if vapour >= pressure_pa:
        raise InputError(
            "relative_humidity", relative_humidity, f"below {pressure_pa / vapour * relative_humidity:.3g}",
            "at this temperature so much water boils",
        )  # fmt: skip
    kelvin = temperature_c + 273.15
    return (pressure_pa - vapour) / (GAS_J_KGK * kelvin) + vapour / (VAPOUR_J_KGK * kelvin)


def air_density_kg_m3(altitude_m: float, temperature_c: float, relative_humidity: float = 0.0) -> float:
    """Of air in the standard atmosphere.

    Parameters
    ----------
    altitude_m : float
        Above sea level [m]
    temperature_c : float
        Of the air [°C]
    relative_humidity : float
        0 dry, 1 saturated [-]

    Returns
    -------
    float
        Density [kg/m³]

    Raises
    ------
    InputError
        An altitude outside −500 to 11000 m, air outside −60 to 400 °C.
    """
    return moist_density_kg_m3(air_pressure_pa(altitude_m), temperature_c, relative_humidity)


def pressure_for_density_pa(
    density_kg_m3: float, temperature_c: float, relative_humidity: float = 0.0
) -> float:
    """Pressure at which air has a density, the relation solved for p [kg/m³, °C, - → Pa]"""
    check_range("density_kg_m3", density_kg_m3, 1e-3, 20.0, "kg/m³")
    vapour = vapour_pressure_pa(temperature_c, relative_humidity)
    kelvin = temperature_c + 273.15
    return (density_kg_m3 - vapour / (VAPOUR_J_KGK * kelvin)) * GAS_J_KGK * kelvin + vapour


def temperature_for_density_c(
    density_kg_m3: float, pressure_pa: float, relative_humidity: float = 0.0
) -> float:
    """Temperature at which air has a density.

    Parameters
    ----------
    density_kg_m3 : float
        Density [kg/m³]
    pressure_pa : float
        Of the air [Pa]
    relative_humidity : float
        0 dry, 1 saturated [-]

    Returns
    -------
    float
        Temperature [°C]

    Raises
    ------
    InputError
        No temperature within −60 to 400 °C gives it.
    """
    check_range("pressure_pa", pressure_pa, 100.0, 1e7, "Pa")
    check_range("relative_humidity", relative_humidity, 0.0, 1.0, "")
    top = AIR_C[1]
    if vapour_pressure_pa(top, relative_humidity) >= pressure_pa:
        # Warm enough, water alone makes up the pressure: stay just below.
        full = pressure_pa * (1 - 1e-9)
        top = float(brentq(lambda t: vapour_pressure_pa(t, relative_humidity) - full, AIR_C[0], top)) - 1e-6
    low, high = (moist_density_kg_m3(pressure_pa, t, relative_humidity) for t in (top, AIR_C[0]))
    check_range(
        "density_kg_m3", density_kg_m3, low, high, "kg/m³", reason="at this pressure no air has this density"
    )
    return float(
        brentq(
            lambda t: moist_density_kg_m3(pressure_pa, t, relative_humidity) - density_kg_m3,
            AIR_C[0], top, xtol=1e-12,
        )
    )  # fmt: skip


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
    check_range("heat_w", heat_w, 1e-3, 1e8, "W")
    check_range("temperature_rise_k", rise_k, 1e-3, 1000.0, "K")
    check_range("density_kg_m3", density_kg_m3, 1e-3, 20.0, "kg/m³")
    return float(heat_w / (density_kg_m3 * HEAT_J_KGK * rise_k))


def rise_from_flow_k(heat_w: float, flow_m3_s: float, density_kg_m3: float) -> float:
    """Rise of so much flow that takes up so much heat, ΔT = P / (ρ c_p q) [W, m³/s, kg/m³ → K]"""
    check_range("heat_w", heat_w, 0.0, 1e8, "W")
    check_range("flow_m3_s", flow_m3_s, 1e-9, 1e4, "m³/s")
    check_range("density_kg_m3", density_kg_m3, 1e-3, 20.0, "kg/m³")
    return float(heat_w / (density_kg_m3 * HEAT_J_KGK * flow_m3_s))


def heat_from_rise_w(flow_m3_s: float, rise_k: float, density_kg_m3: float) -> float:
    """Heat that warms so much flow by so much, P = ρ c_p q ΔT [m³/s, K, kg/m³ → W]"""
    check_range("flow_m3_s", flow_m3_s, 0.0, 1e4, "m³/s")
    check_range("temperature_rise_k", rise_k, 0.0, 1000.0, "K")
    check_range("density_kg_m3", density_kg_m3, 1e-3, 20.0, "kg/m³")
    return float(density_kg_m3 * HEAT_J_KGK * flow_m3_s * rise_k)
