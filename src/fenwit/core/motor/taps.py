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

    def ripple_nm(self, slip: FloatArray, frequency_hz: FloatOrArray) -> FloatArray:
        """Amplitude of the torque at twice the mains, per volt squared; as `respond` [N·m/V²]"""
        m, r = self.base.settled(slip, frequency_hz), self.respond(slip, frequency_hz)
        assert r.main_admittance_s is not None
        assert r.auxiliary_admittance_s is not None
        extra = (
            r.main_admittance_s if self.connection is StartBranch.WHOLE_SUPPLY else np.asarray(r.admittance_s)
        )
        drive = r.main_admittance_s + (np.asarray(self.turns) - 1) * extra
        across = 1j * m.turns_ratio * r.auxiliary_admittance_s
        omega_s = 4 * np.pi * np.asarray(frequency_hz) / m.poles
        return fields_of(m, slip, frequency_hz).ripple_nm(drive - across, drive + across, omega_s)

    def idle_lead_v(
        self, slip: FloatArray, frequency_hz: FloatOrArray, turns: float, extra_ohm: float
    ) -> FloatArray:
        """Volts of an idle tap against common, for one volt: the winding works as an autotransformer.

        With E the volts of the main winding's turns, a tap beyond the fed one stands at V + (t − t_fed) E; one before it
        at V less the drop and the volts of the turns between.

        Parameters
        ----------
        slip : array
            Slip [-]
        frequency_hz : float or array
            Supply frequency [Hz]
        turns : float
            Of the idle tap [-]
        extra_ohm : float
            Ohms between the main winding's end and that tap, as warm as the motor [Ω]

        Returns
        -------
        array
            Volts over the supply's [-]
        """
        m, r = self.base.settled(slip, frequency_hz), self.respond(slip, frequency_hz)
        assert r.main_admittance_s is not None
        whole = self.connection is StartBranch.WHOLE_SUPPLY
        through = r.main_admittance_s if whole else np.asarray(r.admittance_s)
        drop = m.main_resistance_ohm * r.main_admittance_s + self.extra_ohm * through
        per_turn = (1 - drop) / self.turns
        between = np.maximum(self.extra_ohm - extra_ohm, 0.0) if turns < np.max(self.turns) else 0.0
        return np.asarray(np.abs(1 + (turns - self.turns) * per_turn - between * through))


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
    return TapFedMotor(base, tap.turns, as_warm(base, tap).extra_ohm, connection)


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
class TwoTapsFed:
    """A motor with two taps on line at once: the turns between them are a shorted secondary on its main axis.

    What runs round in them goes from one contact to the other and never reaches the supply.
    """

    base: TwoWindingMotor
    faster: Tap
    slower: Tap
    connection: StartBranch = StartBranch.WHOLE_SUPPLY

    def __post_init__(self) -> None:
        if self.slower.extra_ohm <= self.faster.extra_ohm or self.slower.turns <= self.faster.turns:
            raise InputError(
                "tap",
                self.slower.name,
                f"a slower tap than {self.faster.name}",
                "no turns lie between these taps",
            )

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

    @property
    def between_ohm(self) -> float:
        """Ohms of the turns between the two taps [Ω]"""
        return self.slower.extra_ohm - self.faster.extra_ohm

    def respond(self, slip: FloatArray, frequency_hz: FloatOrArray) -> UnitResponse:
        """Solve both windings and the shorted turns at each slip for one volt.

        With E = (jX1m + S) D − j a Δ I_a for one turn, c = t_2 − t_1 and D the main axis' ampere-turns:

            shorted turns:  0 = r_sec I_c + c E
            whole supply:   D = t_1 I_m + c I_c,         V = (R1m + r_1) I_m + t_1 E,      V = Q
            main section:   D = I_m + b I_x + c I_c,     V = R1m I_m + E + r_1 I_x + b E,  V = Q + r_1 I_x + b E

        with b = t_1 − 1, I_x = I_m + I_a and Q = j a Δ D + Z_a I_a.

        Parameters
        ----------
        slip : array
            Slip; one dimension at most [-]
        frequency_hz : float or array
            Supply frequency [Hz]

        Returns
        -------
        UnitResponse
            Currents per volt, torque and losses per volt squared; the shorted turns' heat is the winding's [-]
        """
        m, slips = self.base.settled(slip, frequency_hz), np.atleast_1d(np.asarray(slip, dtype=np.float64))
        f = fields_of(self.base.settled(slips, frequency_hz), slips, frequency_hz)
        a, r_m, r_1, r_s = m.turns_ratio, m.main_resistance_ohm, self.faster.extra_ohm, self.between_ohm
        t, c = self.faster.turns, self.slower.turns - self.faster.turns
        b = t - 1
        axis, across = f.main_leakage + f.forward + f.backward, 1j * a * (f.forward - f.backward)
        whole = self.connection is StartBranch.WHOLE_SUPPLY
        # D, E and Q as rows over (I_m, I_a, I_c).
        zero, one = np.zeros_like(axis), np.ones_like(axis)
        drive = np.stack([t * one, (zero if whole else b * one), c * one], axis=-1)
        turn = axis[..., None] * drive
        turn[..., 1] = turn[..., 1] - across
        start = across[..., None] * drive
        start[..., 1] = start[..., 1] + f.auxiliary
        main = turn * (t if whole else 1 + b)
        main[..., 0] = main[..., 0] + r_m + r_1
        if not whole:
            main[..., 1] = main[..., 1] + r_1
            start = start + b * turn
            start[..., 0] = start[..., 0] + r_1
            start[..., 1] = start[..., 1] + r_1
        short = c * turn
        short[..., 2] = short[..., 2] + r_s
        matrix = np.stack([main, start, short], axis=-2)
        rhs = np.broadcast_to(
            np.array([1.0, 1.0, 0.0], dtype=np.complex128)[:, None], (*matrix.shape[:-1], 1)
        )
        currents = np.linalg.solve(matrix, rhs)[..., 0]
        i_m, i_a, i_c = (np.asarray(currents[..., k], dtype=np.complex128) for k in range(3))
        amp_turns = (drive * currents).sum(axis=-1)
        line = i_m + i_a
        extra = i_m if whole else line
        return f.response(
            amp_turns - 1j * a * i_a,
            amp_turns + 1j * a * i_a,
            slips,
            4 * np.pi * np.asarray(frequency_hz) / m.poles,
            admittance_s=line,
            main_copper_w=square(i_m) * r_m,
            other_copper_w=square(extra) * r_1 + square(i_a) * m.auxiliary_resistance_ohm + square(i_c) * r_s,
            main=i_m,
            auxiliary=i_a,
            capacitor=i_a * f.capacitor,
        )

    def circulating_a(self, speed_rpm: float, supply_v: float, frequency_hz: float) -> float:
        """What runs round in the turns between the two taps at a speed [A]"""
        n_s = 120 * frequency_hz / self.poles
        slip = np.array([1 - speed_rpm / n_s])
        r = self.respond(slip, frequency_hz)
        assert r.main_admittance_s is not None
        assert r.auxiliary_admittance_s is not None
        # E of the main turns from the main branch's own equation; the shorted turns take c E / r_sec.
        whole = self.connection is StartBranch.WHOLE_SUPPLY
        through = r.main_admittance_s if whole else r.admittance_s
        m = self.base.settled(slip, frequency_hz)
        drop = m.main_resistance_ohm * r.main_admittance_s + self.faster.extra_ohm * through
        per_turn = (1 - drop) / self.faster.turns
        share = (self.slower.turns - self.faster.turns) / self.between_ohm
        return float(supply_v * np.abs(per_turn[0]) * share)


@dataclass(frozen=True)
class TwoTapsAlive:
    """What runs round when two taps are fed at once, with the fan at a speed."""

    current_a: float
    """Through the turns between them [A]"""
    heat_w: float
    """In those turns alone [W]"""


def two_taps_alive(motor: TwoTapsFed, speed_rpm: float, supply_v: float, frequency_hz: float) -> TwoTapsAlive:
    """The current through the turns between two taps that are on line at once: a shorted transformer.

    Parameters
    ----------
    motor : TwoTapsFed
        The motor with both taps fed [-]
    speed_rpm : float
        Of the fan [rpm]
    supply_v : float
        Supply [V]
    frequency_hz : float
        Its frequency [Hz]

    Returns
    -------
    TwoTapsAlive
        Circulating amps, and their heat [-]

    Raises
    ------
    InputError
        Supply volts that cannot be real.
    """
    check_range("supply_voltage_v", supply_v, 1.0, 1000.0, "V")
    amps = motor.circulating_a(speed_rpm, supply_v, frequency_hz)
    return TwoTapsAlive(amps, amps**2 * motor.between_ohm)


def as_warm(base: TwoWindingMotor, tap: Tap) -> Tap:
    """A tap whose ohms were read cold, as warm as the motor is in service."""
    warm = 1.0 if base.service is None else 1 / cold_over_warm(base.service.rise_k)
    return Tap(tap.name, tap.turns, float(tap.extra_ohm * warm))
