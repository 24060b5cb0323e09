"""A few volts for the electronics from the mains, through a capacitor."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from fenwit.core import quantity as q
from fenwit.core.errors import InputError, check_range


@dataclass(frozen=True)
class Dropper:
    """A capacitor that feeds the control's low volts from the mains."""

    farads: float
    current_a: float
    """It gives at low mains [A]"""
    bleed_ohm: float
    inrush_ohm: float
    zener_w: float
    """At high mains with nothing drawn [W]"""
    words: str


_LARGEST_DROPPER_F = 2.2e-6


def size_dropper(
    volts_out: float, current_a: float, supply_v: float, frequency_hz: float, mains: float = 0.10
) -> Dropper:
    """A capacitor dropper for a control supply; everything on it is live and never to be touched.

    Half-wave through a rectifier pair: in every cycle the capacitor takes C (2 √2 V − V_out) through the output, so
    I = f C (2 √2 V − V_out).

    Parameters
    ----------
    volts_out : float
        Low volts [V]
    current_a : float
        Current that is wanted [A]
    supply_v : float
        Mains [V]
    frequency_hz : float
        Its frequency [Hz]
    mains : float
        Half width of the mains' tolerance [-]

    Returns
    -------
    Dropper
        Preferred values and their stress [-]

    Raises
    ------
    InputError
        More current than a dropper of usual size gives.
    """
    check_range("volts_out", volts_out, 1.0, 48.0, "V")
    check_range("current_a", current_a, 1e-4, 0.1, "A")
    check_range("supply_voltage_v", supply_v, 50.0, 500.0, "V")
    check_range("mains", mains, 0.0, 0.3, "")
    low, high = (np.sqrt(2) * supply_v * (1 + s * mains) for s in (-1, 1))
    need = current_a / (frequency_hz * (2 * low - volts_out))
    usual = [m * 10.0**d for d in (-9, -8, -7) for m in q.SERIES["E6"]]
    farads = next((c for c in usual if need <= c <= _LARGEST_DROPPER_F), None)
    if farads is None:
        raise InputError("current_a", current_a, "up to about 60 mA", "a transformer serves better here")
    gives = frequency_hz * farads * (2 * low - volts_out)
    most = frequency_hz * farads * (2 * high - volts_out)
    inrush = q.nearest("E12", high / 10.0)
    return Dropper(
        farads, float(gives), q.nearest("E12", 1.0 / (farads * np.log(high / 34.0))), inrush,
        float(most * volts_out),
        "X2 class; the whole control is live, its zero included: closed, and never to be touched",
    )  # fmt: skip
