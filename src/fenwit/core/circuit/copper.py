"""Copper: ohms of leads and tracks, what they drop, what they bear."""

from __future__ import annotations

import math
from enum import StrEnum

from fenwit.core.errors import check_range

OHM_MM2_PER_M, PER_K = 0.017241, 0.00393
"""Resistivity at 20 °C and its temperature coefficient [Ω·mm²/m, 1/K]"""
MIL_MM = 0.0254
TRACK_UM, TRACK_RISE_K = 35.0, 20.0


def copper_ohm_mm2_per_m(temperature_c: float) -> float:
    """Resistivity, 0.017241 (1 + 0.00393 (T − 20)) [°C → Ω·mm²/m]"""
    check_range("temperature_c", temperature_c, -200.0, 400.0, "°C")
    return OHM_MM2_PER_M * (1 + PER_K * (temperature_c - 20))


def lead_ohm(length_m: float, area_mm2: float, conductors: float = 2, temperature_c: float = 20.0) -> float:
    """Ohms of a lead there and back.

    Parameters
    ----------
    length_m : float
        One way [m]
    area_mm2 : float
        Of one conductor [mm²]
    conductors : float
        In series: 2 for there and back [-]
    temperature_c : float
        Of the copper [°C]

    Returns
    -------
    float
        Resistance [Ω]

    Raises
    ------
    InputError
        Values that cannot be real.
    """
    check_range("length_m", length_m, 0.0, 1e5, "m")
    check_range("area_mm2", area_mm2, 1e-9, 1e5, "mm²")
    check_range("conductors", conductors, 1, 100, "")
    return copper_ohm_mm2_per_m(temperature_c) * conductors * length_m / area_mm2


def awg_area_mm2(gauge: float) -> float:
    """Area of a wire gauge, π/4 (0.127 · 92^((36 − n)/39))² [- → mm²]"""
    check_range("awg", gauge, -3, 56, "")
    return float(math.pi / 4 * (0.127 * 92 ** ((36 - gauge) / 39)) ** 2)


class Layer(StrEnum):
    """Where a track lies."""

    EXTERNAL = "external"
    INTERNAL = "internal"


_BEARS = {Layer.EXTERNAL: 0.048, Layer.INTERNAL: 0.024}
TRACK_VALID_A, TRACK_VALID_K = (0.1, 35.0), (10.0, 100.0)
"""Where the relation was measured [A, K]"""


def track_current_a(
    width_mm: float, copper_um: float = TRACK_UM, rise_k: float = TRACK_RISE_K, layer: Layer = Layer.EXTERNAL
) -> float:
    """What a track bears, I = k ΔT^0.44 A^0.725 with A in square mil.

    Parameters
    ----------
    width_mm : float
        Of the track [mm]
    copper_um : float
        Thickness [µm]
    rise_k : float
        Over the board [K]
    layer : Layer
        Outside or inside the board [-]

    Returns
    -------
    float
        Current [A]

    Raises
    ------
    InputError
        Values that cannot be real.
    """
    check_range("width_mm", width_mm, 1e-6, 1e4, "mm")
    check_range("copper_um", copper_um, 1e-3, 1e4, "µm")
    check_range("rise_k", rise_k, 1e-3, 500.0, "K")
    square_mil = width_mm / MIL_MM * copper_um * 1e-3 / MIL_MM
    return float(_BEARS[layer] * rise_k**0.44 * square_mil**0.725)


def track_width_mm(
    current_a: float, copper_um: float = TRACK_UM, rise_k: float = TRACK_RISE_K, layer: Layer = Layer.EXTERNAL
) -> float:
    """Width that bears a current: the relation of `track_current_a` solved for it.

    Parameters
    ----------
    current_a : float
        Current [A]
    copper_um : float
        Thickness [µm]
    rise_k : float
        Over the board [K]
    layer : Layer
        Outside or inside the board [-]

    Returns
    -------
    float
        Width [mm]

    Raises
    ------
    InputError
        Values that cannot be real.
    """
    check_range("current_a", current_a, 1e-9, 1e4, "A")
    check_range("copper_um", copper_um, 1e-3, 1e4, "µm")
    check_range("rise_k", rise_k, 1e-3, 500.0, "K")
    square_mil = (current_a / (_BEARS[layer] * rise_k**0.44)) ** (1 / 0.725)
    return float(square_mil * MIL_MM**2 / (copper_um * 1e-3))


def track_ohm_per_m(width_mm: float, copper_um: float = TRACK_UM) -> float:
    """Ohms of a metre of track at 20 °C [mm, µm → Ω/m]"""
    return lead_ohm(1.0, width_mm * copper_um * 1e-3, 1)
