"""What is known of a fan with electronics of its own: its map of speeds, its leads, its supply (docs/duty.md).

Everything is as typed or read; what nobody knows is taken as usual and said so.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field, replace
from enum import StrEnum
from functools import cached_property

import numpy as np

from fenwit.core.errors import InputError, check_range
from fenwit.core.job.analog import AnalogSheet
from fenwit.core.motor.analog import SPAN_V, VoltLine
from fenwit.core.motor.direct import DirectFan, exponent_from, zero_speed_from
from fenwit.core.motor.duty import KICK_DUTY, Below, DutyLine, Polarity, polarity
from fenwit.core.motor.maps import SpeedMap, map_through
from fenwit.core.regulator.control_lead import BAND_HZ
from fenwit.core.regulator.direct_supply import LimitKind
from fenwit.core.regulator.sweep import Sweep, sweep

READ_SHARE = 0.005
"""Standard error of one speed reading, over full speed [-]"""
TYPED_SHARE, USUAL_SHARE = 0.04, 0.10
"""How far nine in ten fans lie off a map by their data, and off the usual one, over full speed [-]"""
LEAST_SHARE = 0.25
"""Slowest over full speed where nobody knows it [-]"""
IDLE_SHARE = 0.10
"""Watts of the electronics over those at full speed, at any speed [-]"""


class OpenLead(StrEnum):
    """What a fan does whose control lead is broken off."""

    FULL = "full"
    STOPS = "stops"
    HOLDS = "holds"
    """It goes on as slowly as it can"""


@dataclass(frozen=True)
class CommandSheet:
    """What was typed of the fan; None and empty: not known."""

    slowest_rpm: float | None = None
    least_duty: float | None = None
    full_duty: float | None = None
    below: Below = Below.HOLDS
    inverted: bool | None = None
    """Whether less duty means more speed; None: nobody tried [-]"""
    open_lead: OpenLead = OpenLead.FULL
    start_duty: float | None = None
    """From rest [-]"""
    duties: tuple[float, ...] = ()
    speeds_rpm: tuple[float, ...] = ()
    """Off its data sheet, at these duties [rpm]"""
    pulses_per_rev: float = 2.0
    low_hz: float = BAND_HZ[0]
    high_hz: float = BAND_HZ[1]
    """Frequencies it takes on its lead [Hz]"""
    pull_up_ohm: float | None = None
    pull_up_v: float = 5.0
    lead_load_f: float = 330e-12
    zero_speed_v: float | None = None
    start_v: float | None = None
    hold_v: float | None = None
    start_ratio: float = 2.0
    current_exponent: float | None = None
    most_v: float | None = None
    """Most volts its supply may have; None: a tenth above rated [V]"""
    fans: int = 1
    groups: int = 1
    """Supplies and controllers that share the fans [-]"""
    shutters: bool = False
    limit_a: float | None = None
    """Of each supply [A]"""
    limit_kind: LimitKind = LimitKind.CONSTANT_CURRENT
    lead_m: float | None = None
    """To the fans, one way [m]"""
    lead_mm2: float = 0.5
    analog: AnalogSheet = field(default_factory=AnalogSheet)
    """Its terminals for a control voltage [-]"""

    def __post_init__(self) -> None:
        for name, low, high, unit in _LIMITS:
            value = getattr(self, name)
            if value is not None:
                check_range(name, value, low, high, unit)
        for name in ("fans", "groups"):
            if getattr(self, name) != int(getattr(self, name)):
                raise InputError(name, getattr(self, name), "whole numbers", "these are counted")
        if self.groups > self.fans:
            raise InputError("groups", self.groups, f"up to {self.fans}", "more supplies than fans")
        if self.low_hz >= self.high_hz:
            raise InputError(
                "high_hz", self.high_hz, f"above {self.low_hz:g} Hz", "the band ends before it begins"
            )
        if len(self.duties) != len(self.speeds_rpm):
            raise InputError(
                "speeds_rpm", len(self.speeds_rpm), f"{len(self.duties)} values", "one speed for each duty"
            )
        if self.duties:
            check_range("duties", np.array(self.duties), 0.0, 1.0, "")
            check_range("speeds_rpm", np.array(self.speeds_rpm), 0.0, 1e6, "rpm")
            if len(set(self.duties)) < 2:
                raise InputError(
                    "duties", len(set(self.duties)), "two and more", "a map needs two different duties"
                )
        if (self.least_duty or 0.2) >= (self.full_duty or 1.0):
            raise InputError(
                "full_duty",
                self.full_duty,
                f"above {self.least_duty or 0.2:g}",
                "the line ends before it begins",
            )

    @property
    def empty(self) -> bool:
        """Whether nothing was typed [-]"""
        return self == CommandSheet()


_LIMITS = (
    ("slowest_rpm", 0.0, 1e6, "rpm"),
    ("least_duty", 0.0, 0.98, ""),
    ("full_duty", 0.02, 1.0, ""),
    ("start_duty", 0.0, 1.0, ""),
    ("pulses_per_rev", 0.5, 24.0, ""),
    ("low_hz", 1.0, 1e6, "Hz"),
    ("high_hz", 1.0, 1e6, "Hz"),
    ("pull_up_ohm", 10.0, 1e7, "Ω"),
    ("pull_up_v", 0.5, 60.0, "V"),
    ("lead_load_f", 0.0, 1e-6, "F"),
    ("zero_speed_v", 0.0, 400.0, "V"),
    ("start_v", 0.0, 400.0, "V"),
    ("hold_v", 0.0, 400.0, "V"),
    ("start_ratio", 0.3, 10.0, ""),
    ("current_exponent", 0.3, 4.0, ""),
    ("most_v", 1.0, 400.0, "V"),
    ("fans", 1, 200, ""),
    ("groups", 1, 20, ""),
    ("limit_a", 0.001, 1000.0, "A"),
    ("lead_m", 0.0, 200.0, "m"),
    ("lead_mm2", 0.05, 10.0, "mm²"),
)


@dataclass(frozen=True)
class Read:
    """What was read at one command."""

    at: float
    """Duty, volts of the supply, or volts on the control input [-|V]"""
    speed_rpm: float | None = None
    current_a: float | None = None


@dataclass(frozen=True, eq=False)
class Commanded:
    """One fan by all that is known of it."""

    sheet: CommandSheet
    rated_v: float
    full_rpm: float
    full_a: float | None
    """Of one fan at full speed; None: not known [A]"""
    at_duty: tuple[Read, ...] = ()
    at_volts: tuple[Read, ...] = ()
    swept: tuple[tuple[float, float, float], ...] = ()
    """Frequency, duty and speed of a sweep [Hz, -, rpm]"""
    full_read: bool = False
    """Whether full speed is a reading, with its lead open or at its most [-]"""
    at_control: tuple[Read, ...] = ()
    """Over the volts on its control input [-]"""
    printed_w: float | None = None
    """Of one fan at full speed, read or off its plate; None: not known [W]"""
    dc: bool = True

    @cached_property
    def sweep(self) -> Sweep:
        """Frequencies it is read right at, as far as anybody tried [-]"""
        return sweep(self.swept)

    @property
    def most_v(self) -> float:
        """Most volts its supply may have [V]"""
        return self.sheet.most_v or 1.1 * self.rated_v

    @property
    def full_w(self) -> float | None:
        """Of one fan at full speed [W]"""
        if self.printed_w is not None:
            return self.printed_w
        # Amps of a rectifier behind the mains say nothing of watts.
        return self.full_a * self.rated_v if self.dc and self.full_a is not None else None

    # ---------------------------------------------------------------- over the duty

    @property
    def inverted(self) -> bool:
        """Whether less duty means more speed: as its map says, else as typed, else as usual [-]"""
        return bool(self.sheet.inverted) if self._falls is None else self._falls

    @property
    def polarity_known(self) -> bool:
        """Whether anybody said or read it [-]"""
        return self._falls is not None or self.sheet.inverted is not None

    @property
    def contradicted(self) -> bool:
        """Whether its map says another sense than was typed; the map counts [-]"""
        return None not in (self._falls, self.sheet.inverted) and self._falls != self.sheet.inverted

    @property
    def polarity(self) -> Polarity:
        """What readings from half duty on tell of its sense [-]"""
        return polarity(self._pairs(), READ_SHARE * self.full_rpm)

    @cached_property
    def _falls(self) -> bool | None:
        """Whether its map falls over the duty; None without one, and while its readings lie too close to tell."""
        pairs, doubt = sorted(self._pairs()), 3 * math.sqrt(2) * READ_SHARE * self.full_rpm
        if not self.read_over_duty:
            pairs, doubt = sorted(zip(self.sheet.duties, self.sheet.speeds_rpm, strict=True)), 0.0
        if len(pairs) < 2:
            return None
        apart = pairs[-1][1] - pairs[0][1]
        return None if abs(apart) <= doubt else apart < 0

    @property
    def line(self) -> DutyLine:
        """The line of its data, what is missing as usual [-]"""
        slow = LEAST_SHARE * self.full_rpm if self.sheet.slowest_rpm is None else self.sheet.slowest_rpm
        return DutyLine(
            min(slow, 0.98 * self.full_rpm), self.full_rpm,
            0.2 if self.sheet.least_duty is None else self.sheet.least_duty,
            self.sheet.full_duty or 1.0, self.sheet.below, self.inverted,
        )  # fmt: skip

    @cached_property
    def over_duty(self) -> SpeedMap:
        """Speed of a running fan over the duty of the signal on its lead [-]"""
        pairs = self._pairs()
        if len({d for d, _ in pairs}) > 1:
            end = 0.0 if self.inverted else 1.0
            if self.full_read and self.polarity_known and end not in {d for d, _ in pairs}:
                pairs.append((end, self.full_rpm))
            return self._through(pairs, READ_SHARE)
        if self.sheet.duties:
            typed = list(zip(self.sheet.duties, self.sheet.speeds_rpm, strict=True))
            return self._through(typed, TYPED_SHARE / _NINE_IN_TEN)
        known = self.sheet.slowest_rpm is not None and self.sheet.least_duty is not None
        return _as_map(self.line, TYPED_SHARE if known else USUAL_SHARE)

    @property
    def grounds(self) -> str:
        """Where the map over duty comes from [-]"""
        pairs = self._pairs()
        if len({d for d, _ in pairs}) > 1:
            return f"speed over duty through {len(pairs)} readings of this fan"
        if self.sheet.duties:
            return f"speed over duty through {len(self.sheet.duties)} pairs of its data"
        if self.sheet.slowest_rpm is not None and self.sheet.least_duty is not None:
            return "speed over duty: a line between the ends its data name"
        return "speed over duty as usual for such fans: a line from a quarter of full speed at 20 % duty; read two duties"

    @property
    def read_over_duty(self) -> bool:
        """Whether its map is one of readings [-]"""
        return len({d for d, _ in self._pairs()}) > 1

    @property
    def start_duty(self) -> float:
        """Duty as the fan means it, at which it starts from rest [-]"""
        return min(
            1.0, self.line.least + KICK_DUTY if self.sheet.start_duty is None else self.sheet.start_duty
        )

    def _pairs(self) -> list[tuple[float, float]]:
        return [(r.at, r.speed_rpm) for r in self.at_duty if r.speed_rpm is not None]

    def _through(self, pairs: list[tuple[float, float]], share: float) -> SpeedMap:
        return map_through(pairs, share * self.full_rpm)

    # ---------------------------------------------------------------- over the control voltage

    @property
    def inverse(self) -> bool:
        """Whether fewer volts mean more speed: as its map says, else as typed, else as usual [-]"""
        falls = self._control_falls
        return bool(self.sheet.analog.inverse) if falls is None else falls

    @property
    def inverse_known(self) -> bool:
        """Whether anybody said or read it [-]"""
        return self._control_falls is not None or self.sheet.analog.inverse is not None

    @cached_property
    def _control_falls(self) -> bool | None:
        pairs = sorted(self._control_pairs())
        if len({v for v, _ in pairs}) < 2:
            pairs = sorted(
                (v, n)
                for v, n in zip(self.sheet.analog.volts, self.sheet.analog.speeds_rpm, strict=True)
                if n
            )
        if len(pairs) < 2:
            return None
        apart = pairs[-1][1] - pairs[0][1]
        return None if abs(apart) <= 3 * math.sqrt(2) * READ_SHARE * self.full_rpm else apart < 0

    @property
    def control_line(self) -> VoltLine:
        """The line of its data; where it starts and stops as read, if anybody did [-]"""
        slow = LEAST_SHARE * self.full_rpm if self.sheet.slowest_rpm is None else self.sheet.slowest_rpm
        line = self.sheet.analog.line(min(slow, 0.98 * self.full_rpm), self.full_rpm, self.inverse)
        stood = [float(line.meant_v(np.array(r.at))) for r in self.at_control if r.speed_rpm == 0]
        ran = [float(line.meant_v(np.array(v))) for v, _ in self._control_pairs()]
        if not stood or not ran or max(stood) >= min(ran):
            return line
        # It stood here and ran there: it starts in between, and holds at least down to the lowest it ran at.
        on = min(max(line.on_v, max(stood)), min(ran))
        return replace(line, on_v=on, off_v=min(line.off_v, on))

    @cached_property
    def over_control(self) -> SpeedMap:
        """Speed of a running fan over the volts on its control input [-]"""
        pairs = self._control_pairs()
        if len({v for v, _ in pairs}) > 1:
            end = 0.0 if self.inverse else SPAN_V
            if self.full_read and self.inverse_known and end not in {v for v, _ in pairs}:
                pairs.append((end, self.full_rpm))
            return self._through(pairs, READ_SHARE)
        typed = [
            (v, n)
            for v, n in zip(self.sheet.analog.volts, self.sheet.analog.speeds_rpm, strict=True)
            if n > 0
        ]
        if len({v for v, _ in typed}) > 1:
            return self._through(typed, TYPED_SHARE / _NINE_IN_TEN)
        analog = self.sheet.analog
        known = self.sheet.slowest_rpm is not None and analog.low_v is not None and analog.high_v is not None
        return _volt_map(self.control_line, TYPED_SHARE if known else USUAL_SHARE)

    @property
    def control_grounds(self) -> str:
        """Where that map comes from [-]"""
        pairs = self._control_pairs()
        if len({v for v, _ in pairs}) > 1:
            return f"speed over the control voltage through {len(pairs)} readings of this fan"
        analog = self.sheet.analog
        if len(analog.volts) > 1:
            return f"speed over the control voltage through {len(analog.volts)} pairs of its data"
        if self.sheet.slowest_rpm is not None and analog.low_v is not None and analog.high_v is not None:
            return "speed over the control voltage: a line between the ends its data name"
        return "speed over the control voltage as usual for such fans: a line from 1.2 to 9.6 V; read two voltages"

    def _control_pairs(self) -> list[tuple[float, float]]:
        """What was read of a running fan; where it stood there is a jump, not a point of the map."""
        return [(r.at, r.speed_rpm) for r in self.at_control if r.speed_rpm]

    # ---------------------------------------------------------------- over the volts

    @cached_property
    def direct(self) -> DirectFan:
        """The fan as its supply sees it, what was read in place of what is usual [-]"""
        full = (self.rated_v, self.full_rpm)
        read = [
            (r.at, r.speed_rpm)
            for r in self.at_volts
            if r.speed_rpm is not None and r.at < 0.97 * self.rated_v
        ]
        zero = self.sheet.zero_speed_v
        if zero is None and read:
            zero = float(np.mean([zero_speed_from((v, n), full) for v, n in read]))
        exponent = self.sheet.current_exponent
        amps = [
            (r.at, r.current_a)
            for r in self.at_volts
            if r.current_a is not None and r.at < 0.97 * self.rated_v
        ]
        if exponent is None and amps and self.full_a:
            exponent = float(np.mean([exponent_from((v, i), (self.rated_v, self.full_a)) for v, i in amps]))
        return DirectFan(
            self.full_a or _NO_AMPS, self.full_rpm, self.rated_v, 1.5 if exponent is None else exponent, zero,
            self.sheet.start_ratio, self.sheet.start_v, self.sheet.hold_v,
        )  # fmt: skip

    @property
    def volts_read(self) -> bool:
        """Whether its speed was read at lowered volts [-]"""
        return any(r.speed_rpm is not None and r.at < 0.97 * self.rated_v for r in self.at_volts)

    def watts_at(self, speed_rpm: float) -> float | None:
        """Of one fan on its full supply: its electronics, and the cube law for the rest, an estimate [rpm → W]"""
        if self.full_w is None:
            return None
        share = speed_rpm / self.full_rpm
        return float(self.full_w * (IDLE_SHARE + (1 - IDLE_SHARE) * share**3))


_NO_AMPS = 0.1
"""Stands for amps nobody knows; nothing that depends on them is shown then [A]"""
_NINE_IN_TEN = 1.645


def _volt_map(line: VoltLine, share: float) -> SpeedMap:
    """A line over the control voltage with its flat ends, from where a running fan stops."""
    ends = sorted({min(line.off_v, line.low_v), line.low_v, line.high_v, SPAN_V})
    volts = np.array(sorted(SPAN_V - e if line.inverse else e for e in ends))
    speeds = line.speed_rpm(volts)
    half = share * line.fastest_rpm
    return SpeedMap(
        tuple(float(v) for v in volts), tuple(float(n) for n in speeds), (half,) * len(volts), straight=True
    )


def _as_map(line: DutyLine, share: float) -> SpeedMap:
    """A line with its flat ends as a map."""
    ends = [line.least, line.full]
    if line.below is Below.HOLDS and line.least > 0:
        ends.insert(0, 0.0)
    if line.full < 1:
        ends.append(1.0)
    duties = np.array([1 - e for e in reversed(ends)] if line.inverted else ends)
    speeds = line.speed_rpm(duties)
    half = np.full(len(duties), share * line.fastest_rpm)
    return SpeedMap(
        tuple(float(d) for d in duties),
        tuple(float(s) for s in speeds),
        tuple(float(h) for h in half),
        straight=True,
    )
