"""Heat by resistance and inertia by run-up: two things a stop watch and an ohmmeter tell."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from fenwit.core.errors import InputError, check_range
from fenwit.core.load import FanLoad
from fenwit.core.motor.machine import Machine, synchronous_speed_rpm
from fenwit.core.operating import Source, solve, torque_nm

COPPER_C = 234.5
"""Copper's ohms would vanish this far below 0 °C [°C]"""
RUN_UP_SHARE = 0.95
"""A run-up ends at this share of the final speed [-]"""


@dataclass(frozen=True)
class WindingRise:
    """How warm a winding became."""

    temperature_c: float
    rise_k: float
    """Over the air at the end [K]"""
    rise_sigma_k: float


def winding_rise(
    cold_ohm: float, hot_ohm: float, cold_c: float, air_c: float | None = None, relative_sigma: float = 0.005
) -> WindingRise:
    """Winding temperature from cold and hot ohms, T2 = (R2/R1)(234.5 + T1) − 234.5 (copper).

    Parameters
    ----------
    cold_ohm : float
        Ohms before running, the motor at the temperature of the room [Ω]
    hot_ohm : float
        Ohms right after stopping [Ω]
    cold_c : float
        Temperature of the winding at the colder reading, mostly that of the room [°C]
    air_c : float or None
        Temperature of the air at the end; the same when None [°C]
    relative_sigma : float
        Standard uncertainty of each reading, by the same meter [-]

    Returns
    -------
    WindingRise
        Temperature and rise [°C|K]

    Raises
    ------
    InputError
        Values that cannot be real, or a winding that is colder after running.
    """
    check_range("main_resistance_ohm", cold_ohm, 0.05, 2e4, "Ω")
    check_range("hot_resistance_ohm", hot_ohm, 0.05, 2e4, "Ω")
    check_range("cold_temperature_c", cold_c, -40.0, 200.0, "°C")
    air = cold_c if air_c is None else float(check_range("air_temperature_c", air_c, -40.0, 80.0, "°C"))
    check_range("relative_sigma", relative_sigma, 1e-4, 0.2, "")
    ratio = hot_ohm / cold_ohm
    temperature = ratio * (COPPER_C + cold_c) - COPPER_C
    sigma = float(np.sqrt(2) * relative_sigma * ratio * (COPPER_C + cold_c))
    if temperature < air - 3 * sigma:
        raise InputError(
            "hot_resistance_ohm", hot_ohm, f"at least about {cold_ohm:g} Ω",
            "a winding is not colder after running; are cold and hot ohms swapped?",
        )  # fmt: skip
    if temperature > 250:
        raise InputError(
            "hot_resistance_ohm", hot_ohm, f"at most about {cold_ohm * (COPPER_C + 250) / (COPPER_C + cold_c):.3g} Ω",
            f"that would be {temperature:.0f} °C: no winding survives it; the same leads, the same meter?",
        )  # fmt: skip
    return WindingRise(temperature, temperature - air, sigma)


def inertia_kg_m2(motor: Machine, load: FanLoad, supply: Source, run_up_s: float) -> float:
    """Moment of inertia from a timed run-up to 95 % of the final speed: J = t / ∫ dω / (T − T_load).

    Parameters
    ----------
    motor : Machine
        The motor [-]
    load : FanLoad
        Its fan [-]
    supply : Source
        What it was started on [-]
    run_up_s : float
        Seconds from rest to 95 % of the final speed [s]

    Returns
    -------
    float
        Moment of inertia of all that turns [kg·m²]

    Raises
    ------
    InputError
        A time that cannot be real, or a supply on which the fan does not start.
    """
    check_range("run_up_s", run_up_s, 0.05, 3600.0, "s")
    return run_up_s / _seconds_per_inertia(motor, load, supply)


def run_up_s(motor: Machine, load: FanLoad, supply: Source, inertia: float) -> float:
    """Time from rest to 95 % of the final speed, from J dω/dt = T − T_load.

    Parameters
    ----------
    motor : Machine
        The motor [-]
    load : FanLoad
        Its fan [-]
    supply : Source
        What it is started on [-]
    inertia : float
        Moment of inertia [kg·m²]

    Returns
    -------
    float
        Seconds [s]

    Raises
    ------
    InputError
        An inertia that cannot be real, or a supply on which the fan does not start.
    """
    check_range("inertia", inertia, 1e-8, 1e4, "kg·m²")
    return inertia * _seconds_per_inertia(motor, load, supply)


def _seconds_per_inertia(motor: Machine, load: FanLoad, supply: Source) -> float:
    point = solve(motor, load, [supply])[0].running
    if point is None:
        raise InputError(
            "supply_voltage_v", supply.voltage_v, "volts at which the fan starts", "it does not start"
        )
    n_s = synchronous_speed_rpm(motor.poles, supply.frequency_hz)
    speed = np.linspace(0.0, RUN_UP_SHARE * point.speed_rpm, 400)
    response = motor.respond(1 - speed / n_s, supply.frequency_hz)
    volts, z = np.array(supply.voltage_v), np.array(supply.impedance_ohm)
    surplus = torque_nm(response, volts, z) - load.torque_nm(speed)
    if (surplus <= 0).any():
        raise InputError(
            "run_up_s", supply.voltage_v, "a supply with torque to spare", "the fan hangs on its way up"
        )
    return float(np.trapezoid(1 / surplus, speed * (2 * np.pi / 60)))
