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
from fenwit.core.motor.service import Service

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
    """Run-capacitor volts per volt; None without one [V/V]"""
    iron_loss_w: FloatOrArray = 0.0
    """Of the winding loss, what is iron's [W/V²]"""
    main_copper_w: FloatOrArray = 0.0
    """Of the winding loss, what is the main winding's [W/V²]"""


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


OHMS = (1e-2, 2e4)
REACTANCE = (0.0, 1e5)


class Induction:
    """What the machines share: range checks, each by its own limits, and how a motor settles in service."""

    _limits: dict[str, tuple[float, float, str]]
    _resistances: tuple[str, ...] = ()
    """Fields that grow with warmth [-]"""

    def __post_init__(self) -> None:
        for name, (low, high, unit) in self._limits.items():
            check_range(name, getattr(self, name), low, high, unit)
        core = getattr(self, "core_loss_resistance_ohm", None)
        if core is not None:
            check_range("core_loss_resistance_ohm", core, 1.0, 1e8, "Ω")
        check_poles(self.poles)  # type: ignore[attr-defined]

    def with_values(self, **values: FloatOrArray) -> Self:
        """The same machine with some parameters replaced."""
        return replace(self, **values)  # type: ignore[type-var]

    def settled(self, slip: FloatArray, frequency_hz: FloatOrArray) -> Self:
        """The machine as it is at each slip when it runs there with its fan; itself where nothing is known of that.

        Parameters
        ----------
        slip : array
            Slip; broadcasts with array parameters [-]
        frequency_hz : float or array
            Supply frequency; broadcasts with the slip [Hz]

        Returns
        -------
        machine
            With parameters of the slip's shape, no longer in service [-]
        """
        service: Service | None = getattr(self, "service", None)
        if service is None:
            return self
        own: Any = self
        iron, warmth, bars = service.factors(
            np.asarray(slip), 120 * np.asarray(frequency_hz) / own.poles, frequency_hz / own.rated_frequency_hz,
            own.rotor_resistance_ohm, own.rotor_leakage_reactance_ohm, 120 * own.rated_frequency_hz / own.poles,
        )  # fmt: skip
        values = {name: getattr(self, name) * warmth for name in self._resistances}
        values["rotor_resistance_ohm"] = values["rotor_resistance_ohm"] * bars
        values |= {"magnetising_reactance_ohm": own.magnetising_reactance_ohm * iron, "service": None}
        # Parameters that were in range stay so within a factor of two: not checked again at every look.
        found = object.__new__(type(self))
        found.__dict__.update(self.__dict__, **values)
        return found


COMMON = {
    "rated_voltage_v": (1.0, 1000.0, "V"),
    "rated_frequency_hz": (10.0, 500.0, "Hz"),
    "magnetising_reactance_ohm": (1e-2, 1e6, "Ω"),
    "rotor_resistance_ohm": (*OHMS, "Ω"),
    "rotor_leakage_reactance_ohm": (*REACTANCE, "Ω"),
}


@dataclass(frozen=True)
class TwoWindingMotor(Induction):
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
    core_loss_resistance_ohm: FloatOrArray | None = None
    """Across the magnetising branch; None where iron loss is neglected [Ω]"""
    service: Service | None = None
    """What its fan does to iron and warmth; None: parameters hold at every speed [-]"""

    _resistances = ("main_resistance_ohm", "auxiliary_resistance_ohm", "rotor_resistance_ohm")
    _limits = COMMON | {
        "main_resistance_ohm": (*OHMS, "Ω"),
        "main_leakage_reactance_ohm": (*REACTANCE, "Ω"),
        "turns_ratio": (0.05, 20.0, ""),
        "auxiliary_resistance_ohm": (*OHMS, "Ω"),
        "auxiliary_leakage_reactance_ohm": (*REACTANCE, "Ω"),
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
        m = self.settled(slip, frequency_hz)
        f = fields_of(m, slip, frequency_hz)
        a, z_aux = m.turns_ratio, f.auxiliary
        z_main = m.main_resistance_ohm + f.main_leakage + f.forward + f.backward
        coupling = 1j * a * (f.forward - f.backward)
        # [z_main, -coupling; coupling, z_aux] [i_m; i_a] = [1; 1], by Cramer's rule.
        determinant = z_main * z_aux + coupling * coupling
        i_m = (z_aux + coupling) / determinant
        i_a = (z_main - coupling) / determinant
        return f.response(
            i_m - 1j * a * i_a,
            i_m + 1j * a * i_a,
            slip,
            4 * np.pi * frequency_hz / m.poles,
            admittance_s=i_m + i_a,
            main_copper_w=square(i_m) * m.main_resistance_ohm,
            other_copper_w=square(i_a) * m.auxiliary_resistance_ohm,
            main=i_m,
            auxiliary=i_a,
            capacitor=i_a * f.capacitor,
        )

    def ripple_nm(self, slip: FloatArray, frequency_hz: FloatOrArray) -> FloatArray:
        """Amplitude of the torque at twice the mains, per volt squared; as `respond` [N·m/V²]"""
        m, r = self.settled(slip, frequency_hz), self.respond(slip, frequency_hz)
        assert r.main_admittance_s is not None
        assert r.auxiliary_admittance_s is not None
        across = 1j * m.turns_ratio * r.auxiliary_admittance_s
        ahead, back = r.main_admittance_s - across, r.main_admittance_s + across
        omega_s = 4 * np.pi * frequency_hz / m.poles
        return fields_of(m, slip, frequency_hz).ripple_nm(ahead, back, omega_s)


@dataclass(frozen=True)
class SingleWindingMotor(Induction):
    """One winding known only from its terminals; parameters may be arrays.

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

    _limits = COMMON | {
        "stator_resistance_ohm": (*OHMS, "Ω"),
        "stator_leakage_reactance_ohm": (*REACTANCE, "Ω"),
        "torque_factor": (0.05, 1.0, ""),
    }

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


@dataclass(frozen=True)
class Fields:
    """Impedances of a two-axis machine at each slip, referred to the main winding, and where the gap's power goes."""

    forward: ComplexArray
    backward: ComplexArray
    rotor_forward: FloatArray
    """Watts into the rotor per squared ampere-turn of the forward field [Ω]"""
    rotor_backward: FloatArray
    iron_forward: FloatOrArray
    """Watts into the iron, likewise; 0 without iron loss [Ω]"""
    iron_backward: FloatOrArray
    main_leakage: ComplexArray
    auxiliary: ComplexArray
    """The whole second branch [Ω]"""
    capacitor: ComplexArray

    def response(
        self,
        ahead: ComplexArray,
        back: ComplexArray,
        slip: FloatArray,
        omega_s: FloatOrArray,
        *,
        admittance_s: ComplexArray,
        main_copper_w: FloatArray,
        other_copper_w: FloatArray,
        main: ComplexArray,
        auxiliary: ComplexArray | None = None,
        capacitor: ComplexArray | None = None,
    ) -> UnitResponse:
        """Torque and losses from the ampere-turns of both fields, per volt.

        Parameters
        ----------
        ahead, back : array
            Ampere-turns of forward and backward field [A/V]
        slip : array
            Slip [-]
        omega_s : float or array
            Mechanical synchronous speed [rad/s]
        admittance_s, main, auxiliary : array
            Line, main and auxiliary winding's current; None without one that has terminals [A/V]
        main_copper_w, other_copper_w : array
            Heat in the main winding, and in all others [W/V²]
        capacitor : array or None
            Volts across the run capacitor [V/V]

        Returns
        -------
        UnitResponse
            Everything per volt; iron loss counts with the winding [-]
        """
        ahead_2, back_2 = square(ahead), square(back)
        iron = ahead_2 * self.iron_forward + back_2 * self.iron_backward
        forward, backward = ahead_2 * self.rotor_forward, back_2 * self.rotor_backward
        return UnitResponse(
            admittance_s=admittance_s,
            torque_nm=(forward - backward) / omega_s,
            rotor_loss_w=forward * slip + backward * (2 - slip),
            winding_loss_w=main_copper_w + other_copper_w + iron,
            main_admittance_s=main,
            auxiliary_admittance_s=auxiliary,
            capacitor_gain=capacitor,
            iron_loss_w=iron,
            main_copper_w=main_copper_w,
        )

    def ripple_nm(self, ahead: ComplexArray, back: ComplexArray, omega_s: FloatOrArray) -> FloatArray:
        """Amplitude of the torque at twice the mains, per volt squared: |I_F I_B (Z_f − Z_b)| / ω_s.

        The forward field pulls on the backward one's currents and the other way round; both beat at twice the mains.

        Parameters
        ----------
        ahead, back : array
            Ampere-turns of forward and backward field [A/V]
        omega_s : float or array
            Mechanical synchronous speed [rad/s]

        Returns
        -------
        array
            Amplitude; peak to peak is twice it [N·m/V²]
        """
        return np.asarray(np.abs(ahead * back * (self.forward - self.backward)) / omega_s)


def square(z: ComplexArray) -> FloatArray:
    """|z|², in half the time of the absolute value's square."""
    return np.asarray(z.real**2 + z.imag**2)


def field_impedances(
    slip: FloatArray, r_2: FloatOrArray, x_2: FloatOrArray, x_m: FloatOrArray, r_c: FloatOrArray | None
) -> tuple[ComplexArray, FloatArray, FloatOrArray]:
    """One revolving field: ½ (jX_m ∥ R_c ∥ (R2/s + jX2)), finite at s = 0, and what of its power goes where.

    Parameters
    ----------
    slip : array
        Slip against this field [-]
    r_2 : float or array
        Rotor resistance [Ω]
    x_2 : float or array
        Rotor leakage reactance [Ω]
    x_m : float or array
        Magnetising reactance [Ω]
    r_c : float or array or None
        Of the iron [Ω]

    Returns
    -------
    tuple of array
        Impedance, and watts per squared ampere-turn into rotor and iron [Ω]
    """
    rotor = slip / (r_2 + 1j * slip * x_2)
    z = np.asarray(0.5 / (1 / (1j * np.asarray(x_m)) + rotor + (0.0 if r_c is None else 1 / r_c)))
    twice = 2 * square(z)
    return z, np.asarray(twice * rotor.real), 0.0 if r_c is None else twice / r_c


def fields_of(motor: TwoWindingMotor, slip: FloatArray, frequency_hz: FloatOrArray) -> Fields:
    """Impedances of a two-winding machine at each slip, referred to the main winding.

    Parameters
    ----------
    motor : TwoWindingMotor
        The machine, settled [-]
    slip : array
        Slip [-]
    frequency_hz : float or array
        Supply frequency [Hz]

    Returns
    -------
    Fields
        Impedances [Ω]
    """
    k = frequency_hz / motor.rated_frequency_hz
    x_m, x_2 = k * motor.magnetising_reactance_ohm, k * motor.rotor_leakage_reactance_ohm
    a, r_2, r_c = motor.turns_ratio, motor.rotor_resistance_ohm, motor.core_loss_resistance_ohm
    z_f, rotor_f, iron_f = field_impedances(slip, r_2, x_2, x_m, r_c)
    z_b, rotor_b, iron_b = field_impedances(2 - slip, r_2, x_2, x_m, r_c)
    z_c = np.asarray(1 / (2j * np.pi * frequency_hz * motor.run_capacitance_f))
    z_aux = (
        motor.auxiliary_resistance_ohm
        + 1j * k * motor.auxiliary_leakage_reactance_ohm
        + z_c
        + a * a * (z_f + z_b)
    )
    leakage = np.asarray(1j * k * motor.main_leakage_reactance_ohm)
    return Fields(z_f, z_b, rotor_f, rotor_b, iron_f, iron_b, leakage, z_aux, z_c)


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
