"""Which tap for which duty: cooling, heating within the appliance's own rise, circulation; air from temperature rise."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

from fenwit.core.errors import InputError, check_range
from fenwit.core.job.machine import MachineFan, MachineStep
from fenwit.core.job.steps import Step
from fenwit.core.load import flow_between
from fenwit.core.load.air import HEAT_J_KGK, air_density_kg_m3, flow_from_rise_m3_s

_READ_K = 1.0
"""How far a difference of two thermometers may be off [K]"""


class Duty(StrEnum):
    """What air is wanted for."""

    COOLING = "cooling"
    HEATING = "heating"
    CIRCULATION = "circulation"


@dataclass(frozen=True)
class DutySheet:
    """What was read while it heats, and what the appliance's plate asks for; None: not yet."""

    heat_w: float | None = None
    """Put into the air while that was read, without the fan's own watts [W]"""
    return_c: float | None = None
    supply_c: float | None = None
    at_step: int = 1
    """At which step it was read, from 1 [-]"""
    rise_low_k: float | None = None
    """Stated on the appliance [K]"""
    rise_high_k: float | None = None
    altitude_m: float = 0.0

    def __post_init__(self) -> None:
        for name, low, high, unit in _LIMITS:
            value = getattr(self, name)
            if value is not None:
                check_range(name, value, low, high, unit)
        if self.at_step < 1:
            raise InputError("at_step", self.at_step, "1 and up", "say at which step it was read")
        if (
            self.return_c is not None
            and self.supply_c is not None
            and self.supply_c - self.return_c < _LEAST_K
        ):
            allowed = f"at least {self.return_c + _LEAST_K:g} °C"
            raise InputError("supply_c", self.supply_c, allowed, "the air must leave warmer than it came")
        if (
            self.rise_low_k is not None
            and self.rise_high_k is not None
            and self.rise_high_k <= self.rise_low_k
        ):
            allowed = f"above {self.rise_low_k:g} K"
            raise InputError(
                "rise_high_k", self.rise_high_k, allowed, "the stated range ends below its beginning"
            )

    @property
    def read(self) -> tuple[float, float, float, float, float] | None:
        """Heat, return, supply and the stated range; None until all of them are there [W, °C, °C, K, K]"""
        values = (self.heat_w, self.return_c, self.supply_c, self.rise_low_k, self.rise_high_k)
        known = tuple(v for v in values if v is not None)
        return known if len(known) == 5 else None


_LEAST_K = 2.0
_LIMITS = (
    ("heat_w", 10.0, 1e6, "W"),
    ("return_c", -30.0, 60.0, "°C"),
    ("supply_c", -30.0, 200.0, "°C"),
    ("rise_low_k", 1.0, 150.0, "K"),
    ("rise_high_k", 1.0, 150.0, "K"),
    ("altitude_m", -400.0, 6000.0, "m"),
)


@dataclass(frozen=True)
class DutyStep:
    """Air and rise of one step."""

    number: int
    joins: str
    flow_m3_s: tuple[float, float]
    """Least and most [m³/s]"""
    rise_k: tuple[float, float]
    """With the same heat put in; least and most [K]"""
    rise_verdict: str
    """Within, below or above the stated range, or may be either [-]"""
    holds: bool
    """All of its band lies within"""


@dataclass(frozen=True)
class DutyShown:
    """Every step, which one for which duty, and what stands in the way."""

    steps: tuple[DutyStep, ...]
    picks: tuple[tuple[Duty, int | None, str], ...]
    """Duty, step or None, and why [-]"""
    flow_text: str
    """Air as read, and from what [-]"""


def duties(fan: MachineFan, sheet: DutySheet, steps: Sequence[Step[Any]]) -> DutyShown:
    """Air of every step from one temperature rise, and which step for which duty.

    At the step that was read q = (P + P_fan) / (ρ c_p ΔT), with the density of the air as it comes back; at the others
    as the fan laws have it. The rise at a step is what the same heat gives there.

    Parameters
    ----------
    fan : MachineFan
        The fan [-]
    sheet : DutySheet
        What was read, and what the plate states [-]
    steps : sequence of Step
        As they are built [-]

    Returns
    -------
    DutyShown
        Steps that run, and the picks; a duty no step meets says so [-]

    Raises
    ------
    InputError
        A step that was read but is not there, or does not run.
    """
    if sheet.read is None:
        raise InputError(
            "duty", "", "heat, both temperatures and the stated range", "not all of it is there yet"
        )
    heat_w, return_c, supply_c, low_k, high_k = sheet.read
    running = [s for s in steps if isinstance(s, MachineStep) and s.shown_point is not None]
    at = next((s for s in running if s.number == sheet.at_step), None)
    if at is None or at.shown_point is None:
        allowed = ", ".join(str(s.number) for s in running) or "none"
        raise InputError(
            "at_step", sheet.at_step, allowed, "this step does not run, so nothing was read at it"
        )
    density = air_density_kg_m3(sheet.altitude_m, return_c)
    rise = supply_c - return_c
    heat = heat_w + at.shown_point.input_power_w
    read = flow_from_rise_m3_s(heat, rise, density)
    # A rise that was read a kelvin off moves every flow by as much.
    doubt = _READ_K / rise
    exponent = float(fan.belief.load.exponent)
    found = []
    for step in running:
        point = step.shown_point
        assert point is not None
        low, high = _shares(fan, at, step, exponent)
        flow = read * low * (1 - doubt), read * high * (1 + doubt)
        own = heat_w + point.input_power_w
        rises = tuple(own / (density * HEAT_J_KGK * q) for q in reversed(flow))
        words, holds = _verdict((low_k, high_k), rises[0], rises[1])
        found.append(DutyStep(step.number, step.joins, flow, (rises[0], rises[1]), words, holds))
    return DutyShown(
        tuple(found),
        _picks((low_k, high_k), found),
        f"{heat:.0f} W, the fan's own included, warm {density:.3f} kg/m³ of air by {rise:.1f} K: "
        f"{3600 * read:.0f} m³/h at step {at.number}",
    )


def _shares(
    fan: MachineFan, at: MachineStep[Any], step: MachineStep[Any], exponent: float
) -> tuple[float, float]:
    """Flow of a step over that of the step that was read: least and most."""
    assert at.shown_point is not None
    assert step.shown_point is not None
    base = at.shown_point.speed_rpm
    band = step.speed_band
    slow, fast = (band.low, band.high) if band else (step.shown_point.speed_rpm,) * 2
    if step.number == at.number:
        # It was read there, whatever its speed.
        return 1.0, 1.0
    shares = [flow_between(min(n / fan.full_rpm, 3.0), exponent) for n in (slow, base, fast)]
    return shares[0][0] / shares[1][1], shares[2][1] / shares[1][0]


def _verdict(stated_k: tuple[float, float], low_k: float, high_k: float) -> tuple[str, bool]:
    least, most = stated_k
    if low_k >= least and high_k <= most:
        return "within its range", True
    if high_k < least:
        return "below its range: more air than it asks for", False
    if low_k > most:
        return "above its range: too little air", False
    return "at the edge of its range: read it there", False


def _picks(
    stated_k: tuple[float, float], found: Sequence[DutyStep]
) -> tuple[tuple[Duty, int | None, str], ...]:
    most, least = max(found, key=lambda s: s.flow_m3_s[1]), min(found, key=lambda s: s.flow_m3_s[0])
    within = [s for s in found if s.holds]
    middle = sum(stated_k) / 2
    best = min(within, key=lambda s: abs(sum(s.rise_k) / 2 - middle), default=None)
    heating = (
        (Duty.HEATING, best.number, f"{best.rise_k[0]:.0f} to {best.rise_k[1]:.0f} K of rise, well within")
        if best
        else (
            Duty.HEATING,
            None,
            f"no step's rise lies within {stated_k[0]:g} to {stated_k[1]:g} K for certain: "
            + "; ".join(f"step {s.number} {s.rise_k[0]:.0f} to {s.rise_k[1]:.0f} K" for s in found),
        )
    )
    return (
        (Duty.COOLING, most.number, "most air"),
        heating,
        (Duty.CIRCULATION, least.number, "least air that it still holds"),
    )


def duty_lines(fan: MachineFan, sheet: DutySheet | None, steps: Sequence[Step[Any]]) -> tuple[str, ...]:
    """The picks as lines of the record; why there are none where nothing can be said of them."""
    if sheet is None or sheet.read is None:
        return ()
    try:
        found = duties(fan, sheet, steps)
    except InputError as refused:
        return (f"tap per duty: {refused.reason}",)
    return (
        found.flow_text,
        *(
            f"{duty.value}: {'no step' if step is None else f'step {step}'}, {words}"
            for duty, step, words in found.picks
        ),
    )
