"""Shaded-pole machine: a main winding and a shorted ring at an angle in space, each with both revolving fields."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from fenwit.core.errors import FloatOrArray
from fenwit.core.motor.machine import (
    COMMON,
    OHMS,
    REACTANCE,
    ComplexArray,
    Fields,
    FloatArray,
    Induction,
    UnitResponse,
    field_impedances,
    square,
)
from fenwit.core.motor.service import Service


@dataclass(frozen=True)
class ShadedPoleMotor(Induction):
    """Main winding and shading ring; parameters may be arrays.

    The ring lies behind the main winding by the angle γ, has a_s times its turns and no terminals. Rotor and magnetising
    branch are referred to the main winding; reactances are at rated frequency (docs/machine.md).
    """

    rated_voltage_v: float
    rated_frequency_hz: float
    poles: int
    main_resistance_ohm: FloatOrArray
    main_leakage_reactance_ohm: FloatOrArray
    magnetising_reactance_ohm: FloatOrArray
    rotor_resistance_ohm: FloatOrArray
    rotor_leakage_reactance_ohm: FloatOrArray
    ring_turns_ratio: FloatOrArray
    """a_s [-]"""
    ring_angle_rad: FloatOrArray
    """γ, electrical [rad]"""
    ring_resistance_ohm: FloatOrArray
    ring_leakage_reactance_ohm: FloatOrArray
    shared_reactance_ohm: FloatOrArray
    """Leakage that winding and ring have in common, X_ms [Ω]"""
    core_loss_resistance_ohm: FloatOrArray | None = None
    """Across the magnetising branch; None where iron loss is neglected [Ω]"""
    service: Service | None = None
    """What its fan does to iron and warmth; None: parameters hold at every speed [-]"""

    _resistances = ("main_resistance_ohm", "ring_resistance_ohm", "rotor_resistance_ohm")
    _limits = COMMON | {
        "main_resistance_ohm": (*OHMS, "Ω"),
        "main_leakage_reactance_ohm": (*REACTANCE, "Ω"),
        "ring_turns_ratio": (0.01, 2.0, ""),
        "ring_angle_rad": (0.05, 1.55, "rad"),
        "ring_resistance_ohm": (1e-4, 1e6, "Ω"),
        "ring_leakage_reactance_ohm": (*REACTANCE, "Ω"),
        "shared_reactance_ohm": (*REACTANCE, "Ω"),
    }

    def respond(self, slip: FloatArray, frequency_hz: FloatOrArray) -> UnitResponse:
        """Solve winding and ring in both fields at each slip for one volt.

        Z11 = R1 + jX1 + Z_f + Z_b, Z22 = Rs + jXs + a_s² (Z_f + Z_b), and across jX_ms + a_s (Z_f e^{±jγ} + Z_b e^{∓jγ});
        I_m = V Z22/det, I_s = −V Z21/det.

        Parameters
        ----------
        slip : array
            Slip, 0 at synchronous speed, 1 at rest; broadcasts with array parameters [-]
        frequency_hz : float or array
            Supply frequency; broadcasts with the slip [Hz]

        Returns
        -------
        UnitResponse
            Current per volt, torque and losses per volt squared; the ring's heat counts with the winding [-]
        """
        m = self.settled(slip, frequency_hz)
        fields, turn, i_m, i_s = m._currents(slip, frequency_hz)
        return fields.response(
            i_m + turn * i_s,
            i_m + turn.conjugate() * i_s,
            slip,
            4 * np.pi * frequency_hz / m.poles,
            admittance_s=i_m,
            main_copper_w=square(i_m) * m.main_resistance_ohm,
            other_copper_w=square(i_s) * m.ring_resistance_ohm,
            main=i_m,
        )

    def ripple_nm(self, slip: FloatArray, frequency_hz: FloatOrArray) -> FloatArray:
        """Amplitude of the torque at twice the mains, per volt squared; as `respond` [N·m/V²]"""
        m = self.settled(slip, frequency_hz)
        fields, turn, i_m, i_s = m._currents(slip, frequency_hz)
        omega_s = 4 * np.pi * frequency_hz / m.poles
        return fields.ripple_nm(i_m + turn * i_s, i_m + turn.conjugate() * i_s, omega_s)

    def _currents(
        self, slip: FloatArray, frequency_hz: FloatOrArray
    ) -> tuple[Fields, ComplexArray, ComplexArray, ComplexArray]:
        """Impedances, the ring's turns with their angle, and the currents of winding and ring for one volt."""
        k = frequency_hz / self.rated_frequency_hz
        x_m, x_2 = k * self.magnetising_reactance_ohm, k * self.rotor_leakage_reactance_ohm
        r_2, r_c, a = self.rotor_resistance_ohm, self.core_loss_resistance_ohm, self.ring_turns_ratio
        z_f, rotor_f, iron_f = field_impedances(slip, r_2, x_2, x_m, r_c)
        z_b, rotor_b, iron_b = field_impedances(2 - slip, r_2, x_2, x_m, r_c)
        turn = np.asarray(a * np.exp(1j * np.asarray(self.ring_angle_rad)), dtype=np.complex128)
        turn_back = turn.conjugate()
        leakage = np.asarray(1j * k * self.main_leakage_reactance_ohm)
        shared = 1j * k * self.shared_reactance_ohm
        z_11 = self.main_resistance_ohm + leakage + z_f + z_b
        z_22 = self.ring_resistance_ohm + 1j * k * self.ring_leakage_reactance_ohm + a * a * (z_f + z_b)
        z_12 = shared + turn * z_f + turn_back * z_b
        z_21 = shared + turn_back * z_f + turn * z_b
        determinant = z_11 * z_22 - z_12 * z_21
        i_m: ComplexArray = np.asarray(z_22 / determinant)
        i_s: ComplexArray = np.asarray(-z_21 / determinant)
        fields = Fields(z_f, z_b, rotor_f, rotor_b, iron_f, iron_b, leakage, z_22, np.zeros_like(leakage))
        return fields, turn, i_m, i_s
