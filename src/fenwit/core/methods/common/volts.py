"""A DC fan over the volts at its leads: what lowering its supply and chopping it both stand on."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from fenwit.core.job.commanded import Commanded
from fenwit.core.job.mapped import MappedFan
from fenwit.core.job.state import JobState, commanded_of
from fenwit.core.job.subject import Lacking, Unready, refused
from fenwit.core.methods.seam import Zone, ZoneKind
from fenwit.core.motor.direct import DirectFan
from fenwit.core.motor.kinds import Method
from fenwit.core.motor.maps import SpeedMap

READ_SHARE, USUAL_SHARE = 0.03, 0.09
"""How far nine in ten fans lie off the line, over full speed: once read at lowered volts, and before [-]"""


@dataclass(frozen=True, eq=False)
class VoltFan(MappedFan):
    """Its map is over the volts at its leads."""

    known: Commanded | None = None

    @property
    def commanded(self) -> Commanded:
        """All that is known of it [-]"""
        assert self.known is not None
        return self.known

    @property
    def direct(self) -> DirectFan:
        """As its supply sees it [-]"""
        return self.commanded.direct

    @property
    def amps_known(self) -> bool:
        """Whether anybody read or typed its amps [-]"""
        return self.commanded.full_a is not None

    def current_a(self, volts: float) -> float:
        """Of all of them, running [V → A]"""
        return self.count * float(self.direct.current_a(volts))


def volt_fan(known: Commanded, supply_v: float) -> VoltFan:
    """The fan over the volts from those it holds to those of its supply. Raises InputError for volts that cannot be."""
    direct = known.direct
    top = max(supply_v, direct.hold_v * 1.02)
    volts = np.array([direct.hold_v, top])
    speeds = direct.speed_rpm(volts)
    half = (READ_SHARE if known.volts_read else USUAL_SHARE) * known.full_rpm
    # At full volts speed was read or printed: there the line is as good as that.
    speed_map = SpeedMap(
        tuple(float(v) for v in volts),
        tuple(float(n) for n in speeds),
        (half, 0.02 * known.full_rpm),
        straight=True,
    )
    grounds = ["speed falls in a line with the volts, and amps with a power of them"]
    if not known.volts_read:
        grounds.append(
            "line, start and hold volts as usual for such fans: read speed and amps once at lowered volts"
        )
    watts = None if known.full_w is None else known.full_w * known.sheet.fans
    return VoltFan(speed_map, supply_v, known.rated_v, watts, tuple(grounds), known.sheet.fans, known=known)


def fed_fan(state: JobState, method: Method, name: str) -> VoltFan | Unready:
    """The fan of a job over its volts, or why a method may not lower or chop them.

    Parameters
    ----------
    state : JobState
        The job [-]
    method : Method
        The method [-]
    name : str
        What it is called, with its article [-]

    Returns
    -------
    VoltFan or Unready
        The fan [-]
    """
    stop = refused(state, method, name)
    if stop is not None:
        return stop
    known = commanded_of(state)
    if isinstance(known, tuple):
        return Lacking(known)
    return volt_fan(known, state.supply_voltage_v)


def volt_zones(fan: VoltFan) -> tuple[Zone, ...]:
    """Speeds at which it stops, and those it holds but does not start at from the same volts [rpm]"""
    direct = fan.direct
    hold = float(direct.speed_rpm(direct.hold_v))
    start = float(direct.speed_rpm(max(direct.start_v, direct.hold_v)))
    found = [Zone(0.0, hold, "it stops", ZoneKind.GAP)] if hold > 0 else []
    if start > hold:
        found.append(Zone(hold, start, "holds, does not start from rest", ZoneKind.NO_START))
    return tuple(found)
