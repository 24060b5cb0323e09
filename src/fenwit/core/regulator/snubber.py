"""R and C across a switch that opens at current zero: how steep and how high its volts go, and what it costs."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from fenwit.core.errors import check_range

FloatArray = NDArray[np.float64]


def snubber_loss_w(farads: float, step_v: float, firing_v: float, frequency_hz: float) -> float:
    """Heat in a snubber's resistor: twice a period ½ C V² at the jump at extinction, and again when firing empties it.

    Parameters
    ----------
    farads : float
        Its capacitor [F]
    step_v : float
        Jump at extinction [V]
    firing_v : float
        Volts across the triac as it fires [V]
    frequency_hz : float
        Of the supply [Hz]

    Returns
    -------
    float
        f C (V_step² + V_fire²) [W]

    Raises
    ------
    InputError
        Values that cannot be real.
    """
    check_range("farads", farads, 0.0, 1e-4, "F")
    check_range("frequency_hz", frequency_hz, 10.0, 500.0, "Hz")
    volts = check_range("volts", np.array([abs(step_v), abs(firing_v)]), 0.0, 5000.0, "V")
    return float(frequency_hz * farads * np.sum(np.asarray(volts) ** 2))


def ringing(
    step: float, inductance: float, ohm: FloatArray, farads: FloatArray
) -> tuple[FloatArray, FloatArray]:
    """Steepest slope and highest volts of a switch after its volts jump, for every R and C across it.

    The step stands across L, R and C in series. With i the loop's current the switch sees v = V − L i' = R i + v_C; its
    slope begins at V R / L and is followed over the ringing.

    Parameters
    ----------
    step : float
        Jump at extinction [V]
    inductance : float
        In the loop [H]
    ohm : array
        Of the snubber [Ω]
    farads : array
        Of it; broadcasts with its ohms [F]

    Returns
    -------
    tuple of array
        dv/dt and crest [V/µs, V]
    """
    damping = ohm / (2 * inductance)
    under_root = (damping**2 - 1 / (inductance * farads)).astype(np.complex128)
    # Just beside the aperiodic limit, where both roots would be one.
    root = np.sqrt(np.where(np.abs(under_root) < 1e-9 * damping**2, 1e-9 * damping**2, under_root))[..., None]
    fast, slow = -damping[..., None] - root, -damping[..., None] + root
    time = np.linspace(0.0, 1.0, 400) * (4 * np.pi * np.sqrt(inductance * farads))[..., None]
    rate = (step / (inductance * 2 * root) * (slow * np.exp(slow * time) - fast * np.exp(fast * time))).real
    volts = step - inductance * rate
    slope = np.gradient(volts, axis=-1) / np.gradient(time, axis=-1)
    slope[..., 0] = step * np.broadcast_to(ohm, slope.shape[:-1]) / inductance
    return np.abs(slope).max(axis=-1) * 1e-6, np.abs(volts).max(axis=-1)
