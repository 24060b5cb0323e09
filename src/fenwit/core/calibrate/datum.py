"""What was read on one fan: values with their uncertainty, and the run in which each was taken."""

from __future__ import annotations

import re
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from fenwit.core import quantity as q
from fenwit.core.errors import FloatOrArray, InputError, check_range
from fenwit.core.motor.kinds import MotorKind
from fenwit.core.motor.machine import synchronous_speed_rpm
from fenwit.core.motor.service import ROOM_C, cold_over_warm
from fenwit.core.operating import check_full_speed


@dataclass(frozen=True)
class Measured:
    """A value with the standard uncertainty of its reading."""

    value: float
    relative_sigma: float

    def __post_init__(self) -> None:
        check_range("relative_sigma", self.relative_sigma, 1e-4, 1.0, "")


class Warmth(StrEnum):
    """How warm a winding was when its ohms were read."""

    COLD = "cold"
    """As the room; so it is taken where nobody says [-]"""
    WARM = "warm"
    """Straight after running at full speed [-]"""
    AT = "at"
    """At a temperature that was read [-]"""


@dataclass(frozen=True)
class OhmsAt:
    """The state of a winding at an ohm reading."""

    warmth: Warmth = Warmth.COLD
    celsius: float | None = None
    """Where it was read: the winding's with AT, the room's with COLD [°C]"""

    def __post_init__(self) -> None:
        if self.celsius is not None:
            check_range("winding_temperature_c", self.celsius, -40.0, 200.0, "°C")
        elif self.warmth is Warmth.AT:
            raise InputError(
                "winding_temperature_c", None, "−40 to 200 °C", "how warm the winding was is missing"
            )

    def share(self, rise_k: FloatOrArray) -> FloatOrArray:
        """Ohms as read over those at full speed, for a rise over the room at full speed [-]"""
        if self.warmth is Warmth.WARM:
            return _COOLED
        return cold_over_warm(rise_k, ROOM_C if self.celsius is None else self.celsius)

    @property
    def words(self) -> str:
        """As it is said beside the ohms [-]"""
        return f"at {self.celsius:.0f} °C" if self.warmth is Warmth.AT else self.warmth.value

    @property
    def own_sigma(self) -> float:
        """Relative uncertainty of that share by what is not known of the temperature [-]"""
        if self.warmth is Warmth.WARM:
            return 0.02
        return 0.02 if self.celsius is None else 0.008


_SAID = re.compile(r"^(?P<ohms>.*?)[\s,;]+(?:(?P<state>cold|warm|hot)|(?:at|@)\s*(?P<at>.+))$", re.IGNORECASE)


def winding_said(field: str, text: str) -> tuple[str, OhmsAt | None]:
    """Split ohms as typed from how warm the winding was: "215 warm", "215 at 60 °C"; None where nothing is said.

    Parameters
    ----------
    field : str
        What is read, for a refusal [-]
    text : str
        As typed [-]

    Returns
    -------
    tuple of str and OhmsAt or None
        The ohms alone, still as typed, and the state [-]

    Raises
    ------
    InputError
        A temperature that cannot be read or cannot be.
    """
    found = _SAID.match(text.strip())
    if found is None:
        return text, None
    if found["state"]:
        return found["ohms"], OhmsAt(Warmth.COLD if found["state"].lower() == "cold" else Warmth.WARM)
    return found["ohms"], OhmsAt(Warmth.AT, q.parse(field, found["at"], q.TEMPERATURE))


_COOLED = 0.98
"""A winding read straight after stopping has lost a few kelvin [-]"""

READING_RANGES: dict[str, tuple[float, float, str]] = {
    "line_current_a": (1e-4, 50.0, "A"),
    "input_power_w": (0.05, 5000.0, "W"),
    "power_factor": (0.02, 1.0, ""),
    "capacitor_voltage_v": (1.0, 2000.0, "V"),
    "auxiliary_current_a": (1e-4, 50.0, "A"),
    "motor_voltage_v": (1.0, 1000.0, "V"),
    "main_resistance_ohm": (0.05, 2e4, "Ω"),
    "auxiliary_resistance_ohm": (0.05, 2e4, "Ω"),
    "hot_resistance_ohm": (0.05, 2e4, "Ω"),
    "run_capacitance_f": (1e-8, 2e-4, "F"),
    "locked_rotor_current_a": (1e-4, 100.0, "A"),
    "speed_rpm": (1.0, 40000.0, "rpm"),
}
"""What each reading may be: lowest, highest, unit"""

RUNNING = (
    "line_current_a",
    "input_power_w",
    "power_factor",
    "capacitor_voltage_v",
    "auxiliary_current_a",
    "motor_voltage_v",
)
"""Read while the fan turns"""
TWO_WINDING_ONLY = (
    "capacitor_voltage_v",
    "auxiliary_current_a",
    "auxiliary_resistance_ohm",
    "run_capacitance_f",
)


@dataclass(frozen=True)
class Run:
    """One run away from full speed: what the fan was fed from, and what was read meanwhile."""

    supply_voltage_v: float
    frequency_hz: float
    impedance_ohm: complex = 0j
    """What stood in the line [Ω]"""
    readings: tuple[tuple[str, Measured], ...] = ()
    blades: bool = True
    """False: the bare shaft turned [-]"""
    label: str = ""
    """What it is called, like "3.9 µF in the line" [-]"""

    def __post_init__(self) -> None:
        check_range("supply_voltage_v", self.supply_voltage_v, 1.0, 1000.0, "V")
        check_range("frequency_hz", self.frequency_hz, 10.0, 500.0, "Hz")
        check_range("series resistance", self.impedance_ohm.real, 0.0, 1e9, "Ω")
        for name, reading in self.readings:
            if name not in READING_RANGES or name.endswith(("_ohm", "_f")):
                allowed = ", ".join(n for n in READING_RANGES if not n.endswith(("_ohm", "_f")))
                raise InputError(name, reading.value, allowed, "not read in a run")
            check_range(name, reading.value, *READING_RANGES[name])

    def get(self, name: str) -> Measured | None:
        """One reading of this run, or None."""
        return dict(self.readings).get(name)


@dataclass(frozen=True)
class Datum:
    """Everything known of a fan; the fields are those at full speed, `runs` what was read elsewhere."""

    kind: MotorKind
    poles: int
    rated_voltage_v: float
    rated_frequency_hz: float
    supply_voltage_v: float
    """Supply volts at the full-speed readings [V]"""
    frequency_hz: float
    full_speed_rpm: Measured
    line_current_a: Measured | None = None
    input_power_w: Measured | None = None
    capacitor_voltage_v: Measured | None = None
    main_resistance_ohm: Measured | None = None
    auxiliary_resistance_ohm: Measured | None = None
    run_capacitance_f: Measured | None = None
    """From the nameplate or the meter; PSC motors need it [F]"""
    power_factor: Measured | None = None
    auxiliary_current_a: Measured | None = None
    locked_rotor_current_a: Measured | None = None
    """With the rotor held, at the supply volts above [A]"""
    hot_resistance_ohm: Measured | None = None
    """Of the main winding straight after running at full speed, beside the other reading of it [Ω]"""
    main_at: OhmsAt = OhmsAt()
    auxiliary_at: OhmsAt = OhmsAt()
    runs: tuple[Run, ...] = ()
    load_exponent: Measured | None = None
    """Of the torque over speed, where fan curve and system say so [-]"""
    density_ratio: float = 1.0
    """Of the air where the fan stands over that of the full speed above: its label's, or the same air [-]"""

    def __post_init__(self) -> None:
        check_range("rated_voltage_v", self.rated_voltage_v, 1.0, 1000.0, "V")
        check_range("supply_voltage_v", self.supply_voltage_v, 1.0, 1000.0, "V")
        check_range("density_ratio", self.density_ratio, 0.02, 20.0, "")
        n_s = synchronous_speed_rpm(self.poles, self.frequency_hz)
        check_range(
            "full_speed_rpm",
            self.full_speed_rpm.value,
            0.3 * n_s,
            n_s,
            "rpm",
            reason=(
                f"a {self.poles}-pole motor turns at most {n_s:g} rpm and a loaded fan not below 30 % of that; "
                "are poles and rpm right?"
            ),
        )
        check_full_speed(self.full_speed_rpm.value, n_s)
        for name, reading in self.at_full_speed():
            check_range(name, reading.value, *READING_RANGES[name])
        if self.line_current_a and self.input_power_w:
            apparent = self.line_current_a.value * self.supply_voltage_v
            # Nameplates round generously; meters do not.
            slack = max(
                0.15,
                4 * float(np.hypot(self.line_current_a.relative_sigma, self.input_power_w.relative_sigma)),
            )
            if self.input_power_w.value > (1 + slack) * apparent:
                raise InputError(
                    "input_power_w",
                    self.input_power_w.value,
                    f"at most {apparent:.3g} W",
                    "more watts than volts times amps; read volts, amps and watts again",
                )
        for i, run in enumerate(self.runs):
            speed = run.get("speed_rpm")
            n_run = synchronous_speed_rpm(self.poles, run.frequency_hz)
            if speed is not None and speed.value >= n_run:
                raise InputError(
                    f"run:{i}:speed_rpm",
                    speed.value,
                    f"below {n_run:g} rpm",
                    "an induction motor stays below synchronous speed; are the poles and the pulse count right?",
                )

    def at_full_speed(self) -> tuple[tuple[str, Measured], ...]:
        """Full-speed and dead readings by name, the speed itself left out."""
        return tuple(
            (name, reading) for name in READING_RANGES if (reading := getattr(self, name, None)) is not None
        )

    @property
    def two_windings(self) -> bool:
        """Whether the two-winding machine stands behind the kind."""
        return self.kind in (MotorKind.PSC, MotorKind.PSC_TAPPED)


AWAY = 8.0
"""How fast the model's own error grows with the share of volts that is gone [-]"""


def away_from(volts_share: float) -> float:
    """How far from full volts the model's own error has grown, 0 to 1.

    Parameters
    ----------
    volts_share : float
        Motor volts over those at the datum [-]

    Returns
    -------
    float
        0 where the datum was read, 1 where an eighth of the volts is gone [-]
    """
    return float(np.minimum(1.0, AWAY * abs(1 - volts_share)))
