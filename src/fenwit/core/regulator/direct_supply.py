"""Ways to lower the supply of DC fans: a resistor, a linear or a switching regulator, chopping; and starting together."""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import StrEnum

from scipy.optimize import brentq

from fenwit.core.errors import InputError, check_range
from fenwit.core.motor.direct import DirectFan

RATINGS_W = (0.25, 0.5, 1.0, 2.0, 3.0, 5.0, 7.0, 10.0, 15.0, 20.0, 25.0, 50.0, 100.0)
"""Sizes of power resistors [W]"""
MARGIN = 2.0
"""Rated over carried watts of a resistor [-]"""
COOLER_K = 25.0
"""How far below its limit a junction is to stay [K]"""


def rating_w(watts: float) -> float | None:
    """Next size at or above twice the watts; None where there is none [W]"""
    return next((r for r in RATINGS_W if r >= MARGIN * watts * (1 - 1e-12)), None)


@dataclass(frozen=True)
class Behind:
    """Alike fans in parallel behind one resistor."""

    fan: DirectFan
    supply_v: float
    ohm: float
    fans: float = 1

    def __post_init__(self) -> None:
        check_range("supply_voltage_v", self.supply_v, 0.1, 2000.0, "V")
        check_range("resistance_ohm", self.ohm, 1e-6, 1e9, "Ω")
        check_range("fans", self.fans, 1, 10_000, "")

    @property
    def voltage_v(self) -> float:
        """At the fans while they run: the one root of V_s − V = N I(V) R [V]"""
        return float(
            brentq(
                lambda v: self.supply_v - v - self.fans * float(self.fan.current_a(v)) * self.ohm,
                0.0, self.supply_v, xtol=1e-15, rtol=1e-14,
            )
        )  # fmt: skip

    @property
    def rest_voltage_v(self) -> float:
        """At the fans while they stand, V_s r/(r + R) [V]"""
        r = self.fan.rest_ohm / self.fans
        return self.supply_v * r / (r + self.ohm)

    def heat_w(self, fan_voltage_v: float) -> float:
        """In the resistor, (V_s − V)²/R [V → W]"""
        return (self.supply_v - fan_voltage_v) ** 2 / self.ohm


def ohm_for(fan: DirectFan, supply_v: float, fan_voltage_v: float, fans: float = 1) -> float:
    """Resistor that leaves volts to running fans, (V_s − V)/(N I(V)).

    Parameters
    ----------
    fan : DirectFan
        One of them [-]
    supply_v : float
        Volts of the supply [V]
    fan_voltage_v : float
        Wanted at the fans [V]
    fans : float
        How many [-]

    Returns
    -------
    float
        Ohms [Ω]

    Raises
    ------
    InputError
        No volts, or not fewer than the supply has.
    """
    check_range("fan_voltage_v", fan_voltage_v, 1e-9, 2000.0, "V")
    if fan_voltage_v >= supply_v:
        raise InputError(
            "fan_voltage_v",
            fan_voltage_v,
            f"below {supply_v:g} V",
            "a resistor leaves less than the supply has",
        )
    check_range("fans", fans, 1, 10_000, "")
    return (supply_v - fan_voltage_v) / (fans * float(fan.current_a(fan_voltage_v)))


@dataclass(frozen=True)
class Regulator:
    """A linear or a switching regulator between supply and fans."""

    supply_v: float
    efficiency: float = 0.85
    dropout_v: float = 2.0
    ambient_c: float = 40.0
    junction_limit_c: float = 125.0
    case_k_w: float = 3.0
    """Junction to heat sink [K/W]"""

    def __post_init__(self) -> None:
        check_range("supply_voltage_v", self.supply_v, 0.1, 2000.0, "V")
        check_range("efficiency", self.efficiency, 0.01, 1.0, "")
        check_range("dropout_v", self.dropout_v, 0.0, 100.0, "V")
        check_range("ambient_c", self.ambient_c, -60.0, 200.0, "°C")
        check_range("junction_limit_c", self.junction_limit_c, -60.0, 400.0, "°C")
        check_range("case_k_w", self.case_k_w, 0.0, 1000.0, "K/W")

    def linear_loss_w(self, fan_voltage_v: float, current_a: float) -> float:
        """(V_in − V) I [V, A → W]"""
        return (self.supply_v - fan_voltage_v) * current_a

    def heat_sink_k_w(self, loss_w: float) -> float | None:
        """What a heat sink may have, (T_j − 25 − T_amb)/P − R_jc; None: none good enough, or none needed [W → K/W]"""
        if loss_w <= 0:
            return None
        found = (self.junction_limit_c - COOLER_K - self.ambient_c) / loss_w - self.case_k_w
        return found if found > 0 else None

    def linear_possible(self, fan_voltage_v: float, current_a: float) -> bool:
        """Whether its drop-out is kept and a heat sink exists [V, A → -]"""
        # The difference of typed volts has a last digit that is nobody's: 12 − 10 must keep 2.
        kept = self.supply_v - fan_voltage_v >= self.dropout_v * (1 - 1e-12)
        loss = self.linear_loss_w(fan_voltage_v, current_a)
        return kept and (loss <= 0 or self.heat_sink_k_w(loss) is not None)

    def buck_input_a(self, fan_voltage_v: float, current_a: float) -> float:
        """V I/(η V_in) [V, A → A]"""
        return fan_voltage_v * current_a / (self.efficiency * self.supply_v)

    def buck_loss_w(self, fan_voltage_v: float, current_a: float) -> float:
        """V I (1/η − 1) [V, A → W]"""
        return fan_voltage_v * current_a * (1 / self.efficiency - 1)


class LimitKind(StrEnum):
    """What a supply does at its limit."""

    CONSTANT_CURRENT = "constant-current"
    HICCUP = "hiccup"
    """It gives up and tries again"""


@dataclass(frozen=True)
class Limited:
    """A supply with a limit of current."""

    supply_v: float
    limit_a: float
    kind: LimitKind = LimitKind.CONSTANT_CURRENT

    def __post_init__(self) -> None:
        check_range("supply_voltage_v", self.supply_v, 0.1, 2000.0, "V")
        check_range("limit_a", self.limit_a, 1e-6, 1e5, "A")

    def wanted_a(self, fan: DirectFan, fans: float) -> float:
        """What standing fans want, N m I V_s/V_full [A]"""
        return float(check_range("fans", fans, 1, 10_000, "")) * self.supply_v / fan.rest_ohm

    def rest_voltage_v(self, fan: DirectFan, fans: float) -> float:
        """At fans that stand; none where the supply gives up [V]"""
        if self.wanted_a(fan, fans) <= self.limit_a * (1 + 1e-12):
            return self.supply_v
        return 0.0 if self.kind is LimitKind.HICCUP else self.limit_a * fan.rest_ohm / fans

    def at_once(self, fan: DirectFan) -> int:
        """Most fans that start together [-]"""
        if self.supply_v < fan.start_v:
            return 0
        volts = self.supply_v if self.kind is LimitKind.HICCUP else fan.start_v
        return math.floor(self.limit_a * fan.rest_ohm / max(volts, 1e-9) * (1 + 1e-12))


@dataclass(frozen=True)
class Chopper:
    """A switch that chops a supply, and the diode that carries the current on."""

    voltage_v: float
    current_a: float
    frequency_hz: float
    on_ohm: float
    hot_factor: float = 1.5
    """On-resistance hot over cold [-]"""
    rise_s: float = 50e-9
    fall_s: float = 50e-9
    diode_v: float = 0.7

    def __post_init__(self) -> None:
        check_range("voltage_v", self.voltage_v, 0.0, 5000.0, "V")
        check_range("current_a", self.current_a, 0.0, 1e5, "A")
        check_range("frequency_hz", self.frequency_hz, 1e-6, 1e9, "Hz")
        check_range("on_resistance_ohm", self.on_ohm, 1e-9, 1e6, "Ω")
        check_range("hot_factor", self.hot_factor, 0.1, 10.0, "")
        check_range("rise_s", self.rise_s, 0.0, 1.0, "s")
        check_range("fall_s", self.fall_s, 0.0, 1.0, "s")
        check_range("diode_drop_v", self.diode_v, 0.0, 100.0, "V")

    def conduction_w(self, duty: float) -> float:
        """I² R_on · hot · d [W]"""
        return (
            self.current_a**2 * self.on_ohm * self.hot_factor * float(check_range("duty", duty, 0.0, 1.0, ""))
        )

    def switching_w(self, duty: float) -> float:
        """½ V I (t_r + t_f) f; none where nothing is switched [W]"""
        if duty in (0.0, 1.0):
            return 0.0
        return 0.5 * self.voltage_v * self.current_a * (self.rise_s + self.fall_s) * self.frequency_hz

    def diode_w(self, duty: float) -> float:
        """(1 − d) I V_f [W]"""
        return (1 - float(check_range("duty", duty, 0.0, 1.0, ""))) * self.current_a * self.diode_v
