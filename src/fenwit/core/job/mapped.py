"""A fan known by its map of speeds: what a regulator finds behind a control lead, or behind a lowered supply."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

from fenwit.core import quantity as q
from fenwit.core.calibrate.bands import Band
from fenwit.core.errors import InputError
from fenwit.core.job.machine import decibels
from fenwit.core.job.steps import FULL_SHARE, Place, PlaceKind, Running, Told, shown
from fenwit.core.load import flow_share
from fenwit.core.motor.maps import SpeedMap


@dataclass(frozen=True, eq=False)
class MappedFan:
    """A fan whose speed over a command is known, and nothing of what is inside it."""

    speeds: SpeedMap
    supply_voltage_v: float
    """What it is fed with [V]"""
    rated_voltage_v: float
    rated_power_w: float | None
    """From its plate; None: not known [W]"""
    grounds: tuple[str, ...]
    """Where the map comes from [-]"""
    count: int = 1
    """Alike fans that are fed and commanded together [-]"""
    dc: bool = True

    def __post_init__(self) -> None:
        if self.speeds.fastest_rpm <= 0:
            raise InputError(
                "speed_rpm", self.speeds.fastest_rpm, "above 0 rpm", "this map never turns the fan"
            )

    @property
    def full_command(self) -> float:
        """Command at which it is fastest [any]"""
        return self.speeds.command_for(self.speeds.fastest_rpm).command

    @property
    def full_rpm(self) -> float:
        """Its fastest speed [rpm]"""
        return self.speeds.fastest_rpm

    @property
    def full_band(self) -> Band | None:
        """Where that is expected [rpm]"""
        return Band(*self.speeds.band_at(self.full_command))

    @cached_property
    def full(self) -> Running:
        """As fast as it turns."""
        return self.running(self.full_command, self.rated_power_w)

    @property
    def assumptions(self) -> tuple[str, ...]:
        """What its numbers rest on [-]"""
        if not self.speeds.moved:
            return self.grounds
        worst = max(self.speeds.moved, key=lambda m: abs(m.read_rpm - m.taken_rpm))
        return (
            *self.grounds,
            f"speed only rises, or only falls, with the command: {worst.read_rpm:.0f} rpm at {worst.command:g} was taken "
            f"as {worst.taken_rpm:.0f}; read it again",
        )

    def is_full(self, speed_rpm: float) -> bool:
        """Whether a wanted speed means as fast as it turns."""
        return speed_rpm >= FULL_SHARE * self.full_rpm

    def running(
        self, command: float, input_power_w: float | None = None, regulator: Place | None = None
    ) -> Running:
        """The fan at a command, as a flow of power with what is known of it.

        Parameters
        ----------
        command : float
            Within the map [any]
        input_power_w : float or None
            Watts that all of them take there, where they are known [W]
        regulator : Place or None
            What commands or feeds it, with the power that flows through it [-]

        Returns
        -------
        Running
            The steady state [-]

        Raises
        ------
        InputError
            A command outside the map.
        """
        speed = float(self.speeds.speed_at(command))
        share = speed / self.full_rpm
        band = Band(*self.speeds.band_at(command))
        taken = None if input_power_w is None else input_power_w + (regulator.loss_w if regulator else 0.0)
        watts = () if taken is None else (Told(f"{q.plain(taken, 2)} W", "watts"),)
        many = () if self.count == 1 else (Told(f"{self.count} fans"),)
        places = (
            Place(
                PlaceKind.SUPPLY,
                (Told(f"{q.show(self.supply_voltage_v, q.VOLTAGE)}{' DC' if self.dc else ''}"), *watts),
                taken,
            ),
            *(() if regulator is None else (replace(regulator, power_w=taken),)),
            Place(PlaceKind.BLADES, (Told(shown(speed, band, "rpm").text, "speed"), *many), input_power_w),
            Place(
                PlaceKind.AIR,
                (Told(f"{100 * flow_share(share):.0f} % of flow", "flow"), Told(decibels(share), "noise"))
                if speed > 0
                else (),
                input_power_w,
            ),
        )
        return Running(speed, input_power_w, places)
