"""Speed taps: from section ohms to turns, and from turns to the machine on each tap (docs/taps.md).

Turns follow from ohms where the wire is the same gauge: t = 1 + Σ g r / R_main, with a gauge factor g for each section.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from fenwit.core.errors import FloatOrArray, InputError, check_range
from fenwit.core.motor.machine import FloatArray, TwoWindingMotor, UnitResponse, fields_of, square
from fenwit.core.motor.service import cold_over_warm


class StartBranch(StrEnum):
    """Where the start winding with its capacitor is connected."""

    WHOLE_SUPPLY = "whole-supply"
    MAIN_SECTION = "main-section"


@dataclass(frozen=True)
class Tap:
    """One tap: what lies between the end of the main winding and the lead."""

    name: str
    turns: float
    """Turns from common over those of the main winding, t [-]"""
    extra_ohm: float
    """Ohms beyond the main winding [Ω]"""


@dataclass(frozen=True)
class TapFedMotor:
    """A two-winding motor fed through extra turns in series with its main winding; parameters may be arrays.

    The extra turns share slots, field and leakage with the main winding. With the start branch across the whole supply
    only the main current runs through them; with the start branch across the main section the line current does.
    """

    base: TwoWindingMotor
    turns: FloatOrArray
    extra_ohm: FloatOrArray
    connection: StartBranch = StartBranch.WHOLE_SUPPLY

    def __post_init__(self) -> None:
        check_range("turns", self.turns, 1.0, 5.0, "")
        check_range("extra_ohm", self.extra_ohm, 0.0, 2e4, "Ω")

    @property
    def rated_voltage_v(self) -> float:
        """Rated volts [V]"""
        return self.base.rated_voltage_v

    @property
    def rated_frequency_hz(self) -> float:
        """Rated frequency [Hz]"""
        return self.base.rated_frequency_hz

    @property
    def poles(self) -> int:
        """Number of poles [-]"""
        return self.base.poles

    def respond(self, slip: FloatArray, frequency_hz: FloatOrArray) -> UnitResponse:
        """Solve both windings and the extra turns at each slip for one volt.

        With D = I_m + b I_x the main axis' ampere-turns per main turn (b = t − 1; I_x the current in the extra turns),
        S = Z_f + Z_b, Δ = Z_f − Z_b:

            both:          V = R1m I_m + r I_x + t (jX1m D + S D − j a Δ I_a)
            whole supply:  V = Z_a I_a + j a Δ D,       I_x = I_m,        D = t I_m
            main section:  V_main = Z_a I_a + j a Δ D,  I_x = I_m + I_a,  D = t I_m + b I_a

        Parameters
        ----------
        slip : array
            Slip; broadcasts with array parameters [-]
        frequency_hz : float or array
            Supply frequency [Hz]

        Returns
        -------
        UnitResponse
            Currents per volt, torque and losses per volt squared; the extra turns' heat is the winding's [-]
        """
        m, t = self.base.settled(slip, frequency_hz), np.asarray(self.turns)
        # The extra turns are as warm as the main winding.
        r = self.extra_ohm * (np.asarray(m.main_resistance_ohm) / self.base.main_resistance_ohm)
        f = fields_of(m, slip, frequency_hz)
        a, z_a = m.turns_ratio, f.auxiliary
        axis, across = f.main_leakage + f.forward + f.backward, 1j * a * (f.forward - f.backward)
        b = t - 1
        r_1 = m.main_resistance_ohm
        if self.connection is StartBranch.WHOLE_SUPPLY:
            # V = [R1 + r + t² axis] I_m − t across I_a;   V = t across I_m + Z_a I_a
            z_11, z_12 = r_1 + r + t * t * axis, -t * across
            z_21, z_22 = t * across, z_a
            rhs_2: FloatOrArray = 1.0
        else:
            # Main section and start branch are in parallel; both carry the line current through the extra turns.
            # V = r (I_m + I_a) + R1 I_m + t (axis D − across I_a),  D = t I_m + b I_a
            # 0 = R1 I_m + axis D − across I_a − Z_a I_a − across D
            z_11, z_12 = r + r_1 + t * t * axis, r + t * (b * axis - across)
            z_21, z_22 = r_1 + t * (axis - across), b * (axis - across) - across - z_a
            rhs_2 = 0.0
        determinant = z_11 * z_22 - z_12 * z_21
        i_m = (z_22 - z_12 * rhs_2) / determinant
        i_a = (z_11 * rhs_2 - z_21) / determinant
        line = i_m + i_a
        extra = i_m if self.connection is StartBranch.WHOLE_SUPPLY else line
        drive = i_m + b * extra
        return f.response(
            drive - 1j * a * i_a,
            drive + 1j * a * i_a,
            slip,
            4 * np.pi * np.asarray(frequency_hz) / m.poles,
            admittance_s=line,
            main_copper_w=square(i_m) * r_1,
            other_copper_w=square(extra) * r + square(i_a) * m.auxiliary_resistance_ohm,
            main=i_m,
            auxiliary=i_a,
            capacitor=i_a * f.capacitor,
        )


def tap_turns(
    main_ohm: float, sections: Sequence[tuple[str, float]], gauge: Sequence[float] = ()
) -> tuple[Tap, ...]:
    """Turns of each tap from the ohms of its sections.

    Parameters
    ----------
    main_ohm : float
        Ohms from common to the fastest tap [Ω]
    sections : sequence of tuple
        Name of each tap and its ohms beyond the fastest, fastest first, beginning with that one at 0 [Ω]
    gauge : sequence of float
        For each section after the first, turns per ohm over the main winding's; 1 where the wire is the same [-]

    Returns
    -------
    tuple of Tap
        Fastest first [-]

    Raises
    ------
    InputError
        Ohms that do not rise from tap to tap, or factors that cannot be real.
    """
    check_range("main_resistance_ohm", main_ohm, 0.05, 2e4, "Ω")
    found: list[Tap] = []
    turns, before = 1.0, 0.0
    for i, (name, extra) in enumerate(sections):
        check_range(name, extra, 0.0, 2e4, "Ω")
        if extra < before:
            raise InputError(
                name, extra, f"at least {before:g} Ω", "a slower tap has more ohms than a faster one"
            )
        factor = (
            float(check_range("gauge factor", gauge[i - 1], 0.2, 5.0, "")) if 0 < i <= len(gauge) else 1.0
        )
        turns += factor * (extra - before) / main_ohm
        before = extra
        found.append(Tap(name, turns, extra))
    return tuple(found)


def on_tap(base: TwoWindingMotor, tap: Tap, connection: StartBranch) -> TapFedMotor:
    """The motor as it is on a tap.

    Parameters
    ----------
    base : TwoWindingMotor
        The motor on its fastest tap [-]
    tap : Tap
        The tap [-]
    connection : StartBranch
        Where the start branch hangs [-]

    Returns
    -------
    TapFedMotor
        The motor on that tap [-]
    """
    # Ohms between leads are read cold; in service the extra turns are as warm as the main winding.
    warm = 1.0 if base.service is None else 1 / cold_over_warm(base.service.rise_k)
    return TapFedMotor(base, tap.turns, tap.extra_ohm * warm, connection)


def referred(base: TwoWindingMotor, tap: Tap) -> TwoWindingMotor:
    """The motor on a tap as an ordinary two-winding machine; only with the start branch across the whole supply.

    R1m + r, all main-side reactances and the rotor × t², a / t.

    Parameters
    ----------
    base : TwoWindingMotor
        The motor on its fastest tap [-]
    tap : Tap
        The tap [-]

    Returns
    -------
    TwoWindingMotor
        The machine with more main turns [-]
    """
    square = tap.turns**2
    return replace(
        base,
        main_resistance_ohm=base.main_resistance_ohm + tap.extra_ohm,
        main_leakage_reactance_ohm=base.main_leakage_reactance_ohm * square,
        magnetising_reactance_ohm=base.magnetising_reactance_ohm * square,
        rotor_resistance_ohm=base.rotor_resistance_ohm * square,
        rotor_leakage_reactance_ohm=base.rotor_leakage_reactance_ohm * square,
        turns_ratio=base.turns_ratio / tap.turns,
    )


@dataclass(frozen=True)
class TwoTapsAlive:
    """What happens when two taps are fed at once."""

    induced_v: float
    """Difference of the two taps' volts, made in the turns between them [V]"""
    current_a: float
    """That runs round through the turns between them [A]"""
    heat_w: float


def two_taps_alive(voltage_v: float, faster: Tap, slower: Tap) -> TwoTapsAlive:
    """The current through the turns between two taps that are on line at once: a shorted transformer.

    The fully excited faster tap sets volts per turn V / t; the turns between see their share of it across their own
    ohms alone, since their leakage is small beside them.

    Parameters
    ----------
    voltage_v : float
        Supply [V]
    faster : Tap
        The tap with fewer turns [-]
    slower : Tap
        The tap with more turns [-]

    Returns
    -------
    TwoTapsAlive
        Induced volts, circulating amps and heat [-]

    Raises
    ------
    InputError
        The same tap twice.
    """
    check_range("supply_voltage_v", voltage_v, 1.0, 1000.0, "V")
    between = slower.extra_ohm - faster.extra_ohm
    if between <= 0:
        raise InputError(
            "tap", slower.name, f"a slower tap than {faster.name}", "no turns lie between these taps"
        )
    induced = voltage_v * (slower.turns - faster.turns) / faster.turns
    return TwoTapsAlive(induced, induced / between, induced**2 / between)
