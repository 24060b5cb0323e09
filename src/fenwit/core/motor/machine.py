"""Two-winding and single-winding induction machines, per volt at their terminals.

Whatever stands in the line carries the whole line current, so the machine can be solved once per slip for one volt;
any supply and any series impedance then follow by scaling (docs/machine.md derives this and the symbols).
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any, Protocol, Self

import numpy as np
from numpy.typing import NDArray

from fenwit.core.errors import FloatOrArray, InputError, check_range

FloatArray = NDArray[np.float64]
ComplexArray = NDArray[np.complex128]


@dataclass(frozen=True)
class UnitResponse:
    """What a machine does at each slip with one volt across its terminals; arrays broadcast from slip and parameters."""

    admittance_s: ComplexArray
    """Line current per volt [S]"""
    torque_nm: FloatArray
    """Torque per volt squared [N·m/V²]"""
    rotor_loss_w: FloatArray
    """Heat in the rotor per volt squared [W/V²]"""
    winding_loss_w: FloatArray
    """Heat in the windings and the iron per volt squared [W/V²]"""
    main_admittance_s: ComplexArray | None = None
    """Main winding current per volt; None for a single winding [S]"""
    auxiliary_admittance_s: ComplexArray | None = None
    """Auxiliary winding current per volt; None for a single winding [S]"""
    capacitor_gain: ComplexArray | None = None
    """Run-capacitor volts per volt; None for a single winding [V/V]"""


class Machine(Protocol):
    """A motor that can be solved at any slip."""

    @property
    def rated_voltage_v(self) -> float: ...

    @property
    def rated_frequency_hz(self) -> float: ...

    @property
    def poles(self) -> int: ...

    def respond(self, slip: FloatArray, frequency_hz: FloatOrArray) -> UnitResponse: ...


def synchronous_speed_rpm(poles: int, frequency_hz: float) -> float:
    """Speed of the field, n_s = 120 f / poles.

    Parameters
    ----------
    poles : int
        Number of poles, even [-]
    frequency_hz : float
        Supply frequency [Hz]

    Returns
    -------
    float
        Synchronous speed [rpm]

    Raises
    ------
    InputError
        Odd or unreal poles, unreal frequency.
    """
    check_poles(poles)
    return 120.0 * float(check_range("frequency_hz", frequency_hz, 10.0, 500.0, "Hz")) / poles


def check_poles(poles: Any) -> None:
    """Raise InputError unless ``poles`` is an even whole number from 2 to 48."""
    check_range("poles", poles, 2, 48, "")
    if poles != int(poles) or int(poles) % 2:
        raise InputError("poles", poles, "2, 4, 6 … 48", "poles come in pairs")


_OHMS = (1e-2, 2e4)
_REACTANCE = (0.0, 1e5)


class _Checked:
    """Range checks shared by the machines; each class lists its own limits."""

    _limits: dict[str, tuple[float, float, str]]

    def __post_init__(self) -> None:
        for name, (low, high, unit) in self._limits.items():
            check_range(name, getattr(self, name), low, high, unit)
        check_poles(self.poles)  # type: ignore[attr-defined]

    def with_values(self, **values: FloatOrArray) -> Self:
        """The same machine with some parameters replaced."""
        return replace(self, **values)  # type: ignore[type-var]


_COMMON = {
    "rated_voltage_v": (1.0, 1000.0, "V"),
    "rated_frequency_hz": (10.0, 500.0, "Hz"),
    "magnetising_reactance_ohm": (1e-2, 1e6, "Ω"),
    "rotor_resistance_ohm": (*_OHMS, "Ω"),
    "rotor_leakage_reactance_ohm": (*_REACTANCE, "Ω"),
}


@dataclass(frozen=True)
class TwoWindingMotor(_Checked):
    """Main and auxiliary winding in space quadrature, capacitor in the auxiliary (PSC); parameters may be arrays.

    Rotor and magnetising branch are referred to the main winding; reactances are at rated frequency.
    """

    rated_voltage_v: float
    rated_frequency_hz: float
    poles: int
    main_resistance_ohm: FloatOrArray
    main_leakage_reactance_ohm: FloatOrArray
    magnetising_reactance_ohm: FloatOrArray
    rotor_resistance_ohm: FloatOrArray
    rotor_leakage_reactance_ohm: FloatOrArray
    turns_ratio: FloatOrArray
    auxiliary_resistance_ohm: FloatOrArray
    auxiliary_leakage_reactance_ohm: FloatOrArray
    run_capacitance_f: FloatOrArray

    _limits = _COMMON | {
        "main_resistance_ohm": (*_OHMS, "Ω"),
        "main_leakage_reactance_ohm": (*_REACTANCE, "Ω"),
        "turns_ratio": (0.05, 20.0, ""),
        "auxiliary_resistance_ohm": (*_OHMS, "Ω"),
        "auxiliary_leakage_reactance_ohm": (*_REACTANCE, "Ω"),
        "run_capacitance_f": (1e-9, 1e-3, "F"),
    }

    def respond(self, slip: FloatArray, frequency_hz: FloatOrArray) -> UnitResponse:
        """Solve forward and backward fields at each slip for one volt (double-revolving-field theory).

        Parameters
        ----------
        slip : array
            Slip, 0 at synchronous speed, 1 at rest; broadcasts with array parameters [-]
        frequency_hz : float or array
            Supply frequency; broadcasts with the slip [Hz]

        Returns
        -------
        UnitResponse
            Currents per volt, torque and losses per volt squared [-]
        """
        z_f, z_b, z_aux, jx_1, z_c = fields_of(self, slip, frequency_hz)
        a = self.turns_ratio
        z_main = self.main_resistance_ohm + jx_1 + z_f + z_b
        coupling = 1j * a * (z_f - z_b)
        # [z_main, -coupling; coupling, z_aux] [i_m; i_a] = [1; 1], by Cramer's rule.
        determinant = z_main * z_aux + coupling * coupling
        i_m = (z_aux + coupling) / determinant
        i_a = (z_main - coupling) / determinant
        forward = np.abs(i_m - 1j * a * i_a) ** 2 * z_f.real
        backward = np.abs(i_m + 1j * a * i_a) ** 2 * z_b.real
        omega_s = 4 * np.pi * frequency_hz / self.poles
        return UnitResponse(
            admittance_s=i_m + i_a,
            torque_nm=(forward - backward) / omega_s,
            rotor_loss_w=forward * slip + backward * (2 - slip),
            winding_loss_w=np.abs(i_m) ** 2 * self.main_resistance_ohm
            + np.abs(i_a) ** 2 * self.auxiliary_resistance_ohm,
            main_admittance_s=i_m,
            auxiliary_admittance_s=i_a,
            capacitor_gain=i_a * z_c,
        )


@dataclass(frozen=True)
class SingleWindingMotor(_Checked):
    """One winding seen from its terminals (shaded-pole); parameters may be arrays.

    ``torque_factor`` κ is the share of air-gap torque left after shading rings and backward field; what it takes away
    is booked as rotor heat. ``core_loss_resistance_ohm`` is None where iron loss is neglected.
    """

    rated_voltage_v: float
    rated_frequency_hz: float
    poles: int
    stator_resistance_ohm: FloatOrArray
    stator_leakage_reactance_ohm: FloatOrArray
    magnetising_reactance_ohm: FloatOrArray
    rotor_resistance_ohm: FloatOrArray
    rotor_leakage_reactance_ohm: FloatOrArray
    core_loss_resistance_ohm: FloatOrArray | None
    torque_factor: FloatOrArray

    _limits = _COMMON | {
        "stator_resistance_ohm": (*_OHMS, "Ω"),
        "stator_leakage_reactance_ohm": (*_REACTANCE, "Ω"),
        "torque_factor": (0.05, 1.0, ""),
    }

    def __post_init__(self) -> None:
        super().__post_init__()
        if self.core_loss_resistance_ohm is not None:
            check_range("core_loss_resistance_ohm", self.core_loss_resistance_ohm, 1.0, 1e7, "Ω")

    def respond(self, slip: FloatArray, frequency_hz: FloatOrArray) -> UnitResponse:
        """Solve the series–parallel equivalent circuit at each slip for one volt.

        Parameters
        ----------
        slip : array
            Slip, 0 at synchronous speed, 1 at rest; broadcasts with array parameters [-]
        frequency_hz : float or array
            Supply frequency; broadcasts with the slip [Hz]

        Returns
        -------
        UnitResponse
            Current per volt, torque and losses per volt squared; iron loss counts with the winding [-]
        """
        k = frequency_hz / self.rated_frequency_hz
        x_m, x_2 = k * self.magnetising_reactance_ohm, k * self.rotor_leakage_reactance_ohm
        g_core = 0.0 if self.core_loss_resistance_ohm is None else 1 / self.core_loss_resistance_ohm
        y_rotor = slip / (self.rotor_resistance_ohm + 1j * slip * x_2)
        z_gap = 1 / (g_core + 1 / (1j * x_m) + y_rotor)
        z = self.stator_resistance_ohm + 1j * k * self.stator_leakage_reactance_ohm + z_gap
        current = np.asarray(1 / z, dtype=np.complex128)
        gap_volts = current * z_gap
        # |I2|² R2/s written without dividing by slip, so that synchronous speed is an ordinary point.
        gap_power = np.abs(gap_volts) ** 2 * y_rotor.real
        kappa = self.torque_factor
        omega_s = 4 * np.pi * frequency_hz / self.poles
        return UnitResponse(
            admittance_s=current,
            torque_nm=kappa * gap_power / omega_s,
            rotor_loss_w=gap_power * (1 - kappa * (1 - slip)),
            winding_loss_w=np.abs(current) ** 2 * self.stator_resistance_ohm
            + np.abs(gap_volts) ** 2 * g_core,
        )


def fields_of(
    motor: TwoWindingMotor, slip: FloatArray, frequency_hz: FloatOrArray
) -> tuple[ComplexArray, ComplexArray, ComplexArray, ComplexArray, ComplexArray]:
    """Impedances of a two-winding machine at each slip, referred to the main winding.

    Parameters
    ----------
    motor : TwoWindingMotor
        The machine [-]
    slip : array
        Slip [-]
    frequency_hz : float or array
        Supply frequency [Hz]

    Returns
    -------
    tuple of array
        Forward field, backward field, whole auxiliary branch, main leakage, run capacitor [Ω]
    """
    k = frequency_hz / motor.rated_frequency_hz
    x_m, x_2 = k * motor.magnetising_reactance_ohm, k * motor.rotor_leakage_reactance_ohm
    a = motor.turns_ratio
    z_f = 0.5 * _rotor_field(slip, motor.rotor_resistance_ohm, x_2, x_m)
    z_b = 0.5 * _rotor_field(2 - slip, motor.rotor_resistance_ohm, x_2, x_m)
    z_c = np.asarray(1 / (2j * np.pi * frequency_hz * motor.run_capacitance_f))
    z_aux = (
        motor.auxiliary_resistance_ohm
        + 1j * k * motor.auxiliary_leakage_reactance_ohm
        + z_c
        + a * a * (z_f + z_b)
    )
    return z_f, z_b, z_aux, np.asarray(1j * k * motor.main_leakage_reactance_ohm), z_c


def _rotor_field(slip: FloatArray, r_2: FloatOrArray, x_2: FloatOrArray, x_m: FloatOrArray) -> ComplexArray:
    """jX_m ∥ (R2/s + jX2), in a form that is finite at s = 0."""
    return np.asarray(1 / (1 / (1j * np.asarray(x_m)) + slip / (r_2 + 1j * slip * x_2)))


OPEN_MOTOR, ENCLOSED_MOTOR = 0.6, 0.3
"""How cooling falls with speed: exponent for a motor in its own airstream, and for an enclosed one [-]"""


def relative_rise(loss_share: float, speed_share: float, exponent: float = OPEN_MOTOR) -> float:
    """Temperature rise at a step over the rise at full speed: (losses ratio) / (speed ratio)^exponent, an estimate.

    Parameters
    ----------
    loss_share : float
        Motor losses over those at full speed [-]
    speed_share : float
        Speed over full speed, above 0 [-]
    exponent : float
        How cooling falls with speed [-]

    Returns
    -------
    float
        Relative temperature rise [-]

    Raises
    ------
    InputError
        Shares that cannot be real.
    """
    check_range("loss_share", loss_share, 0.0, 1e3, "")
    check_range("speed_share", speed_share, 1e-3, 3.0, "")
    check_range("exponent", exponent, 0.0, 1.0, "")
    return float(loss_share / speed_share**exponent)
