"""Flow by a fan's inlet cone, from the pressure across it: q = k √Δp √(1.2/ρ), k in m³/h for each √Pa (docs/ec.md)."""

from __future__ import annotations

import math

from fenwit.core.errors import check_range
from fenwit.core.load.air import REFERENCE_KG_M3


def _thin(density_kg_m3: float) -> float:
    check_range("density_kg_m3", density_kg_m3, 1e-3, 20.0, "kg/m³")
    return math.sqrt(REFERENCE_KG_M3 / density_kg_m3)


def cone_flow_m3_h(factor: float, pressure_pa: float, density_kg_m3: float = REFERENCE_KG_M3) -> float:
    """Flow from factor, pressure and density [m³/h/√Pa, Pa, kg/m³ → m³/h]"""
    check_range("pressure_pa", pressure_pa, 0.0, 1e6, "Pa")
    return factor * math.sqrt(pressure_pa) * _thin(density_kg_m3)


def cone_pressure_pa(factor: float, flow_m3_h: float, density_kg_m3: float = REFERENCE_KG_M3) -> float:
    """Pressure from factor, flow and density [m³/h/√Pa, m³/h, kg/m³ → Pa]"""
    check_range("cone_factor", factor, 1e-9, 1e9, "m³/h/√Pa")
    return (flow_m3_h / (factor * _thin(density_kg_m3))) ** 2


def cone_factor(pressure_pa: float, flow_m3_h: float, density_kg_m3: float = REFERENCE_KG_M3) -> float:
    """Factor from a pressure at a known flow [Pa, m³/h, kg/m³ → m³/h/√Pa]"""
    check_range("pressure_pa", pressure_pa, 1e-9, 1e6, "Pa")
    return flow_m3_h / (math.sqrt(pressure_pa) * _thin(density_kg_m3))


def flow_per_pa_m3_h(factor: float, pressure_pa: float, density_kg_m3: float = REFERENCE_KG_M3) -> float:
    """By how much flow is off for one pascal that the sensor is off, k/(2√Δp) [m³/h/√Pa, Pa, kg/m³ → m³/h/Pa]"""
    check_range("pressure_pa", pressure_pa, 1e-9, 1e6, "Pa")
    return factor * _thin(density_kg_m3) / (2 * math.sqrt(pressure_pa))
