"""A fan that cools by temperature: its curve, where it settles or cycles, and what it does over a load (docs/heat.md).

    C_th dT/dt = P − (T − T_amb) G(s)      G = 1/R_nat + s^m/R_forced
    τ dS/dt = T + offset − S (τ = 0: S = T + offset)
    off → S rises to start → full for the kick → s = clip(s_min + (1 − s_min)(S − start)/(full − start), s_min, 1)
    → S falls to start − hysteresis → off

Where speed stands still the sink follows two exact exponentials; on the ramp an embedded Runge–Kutta pair with its own
step, whose events are found by halving.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from enum import StrEnum
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import brentq

from fenwit.core.errors import InputError, check_range

FloatArray = NDArray[np.float64]
FLOW_EXPONENT = 0.6
MOST_PIECES, MOST_SINKS = 2000, 8
MOST_STEPS = 400_000
MOST_S = 1e7


@dataclass(frozen=True)
class Sink:
    """A heat sink in the stream of its fan, its sensor, and the device on it."""

    natural_k_w: float
    """With the fan standing [K/W]"""
    forced_k_w: float
    """What full speed adds, on its own [K/W]"""
    flow_exponent: float = FLOW_EXPONENT
    capacity_j_k: float = 200.0
    device_k_w: float = 0.0
    """From the hottest place of the device to the sink [K/W]"""
    sensor_lag_s: float = 0.0
    sensor_offset_k: float = 0.0
    """What the sensor reads above the sink; below it: negative [K]"""

    def __post_init__(self) -> None:
        check_range("natural_k_w", self.natural_k_w, 1e-6, 1e4, "K/W")
        check_range("forced_k_w", self.forced_k_w, 1e-6, 1e4, "K/W")
        check_range("flow_exponent", self.flow_exponent, 0.1, 2.0, "")
        check_range("capacity_j_k", self.capacity_j_k, 1e-3, 1e8, "J/K")
        check_range("device_k_w", self.device_k_w, 0.0, 1e4, "K/W")
        check_range("sensor_lag_s", self.sensor_lag_s, 0.0, 1e5, "s")
        check_range("sensor_offset_k", self.sensor_offset_k, -200.0, 200.0, "K")

    def conductance(self, speed: float) -> float:
        """G at a share of full speed [- → W/K]"""
        return 1 / self.natural_k_w + (speed**self.flow_exponent / self.forced_k_w if speed > 0 else 0.0)


@dataclass(frozen=True)
class Curve:
    """Speed over what the sensor says."""

    start_c: float = 32.0
    full_c: float = 55.0
    hysteresis_k: float = 3.0
    least: float = 0.3
    """Speed it runs with at least, over full speed [-]"""
    kick_s: float = 1.0
    """At full speed, from rest [s]"""

    def __post_init__(self) -> None:
        check_range("start_c", self.start_c, -100.0, 1000.0, "°C")
        check_range("full_c", self.full_c, -100.0, 1000.0, "°C")
        if self.full_c <= self.start_c:
            raise InputError("full_c", self.full_c, f"above {self.start_c:g} °C", "not above where it starts")
        check_range("hysteresis_k", self.hysteresis_k, 0.0, 500.0, "K")
        if self.hysteresis_k == 0:
            raise InputError(
                "hysteresis_k", 0.0, "above 0 K", "without it the fan starts and stops without end"
            )
        check_range("minimum_speed", self.least, 0.0, 1.0, "")
        if self.least == 0:
            raise InputError("minimum_speed", 0.0, "above 0", "a fan that runs turns")
        check_range("kick_s", self.kick_s, 0.0, 600.0, "s")

    @property
    def stop_c(self) -> float:
        """Where it stops again [°C]"""
        return self.start_c - self.hysteresis_k

    def speed(self, sensor_c: float) -> float:
        """Of a running fan at what its sensor says [°C → -]"""
        share = (sensor_c - self.start_c) / (self.full_c - self.start_c)
        return min(1.0, max(self.least, self.least + (1 - self.least) * share))


# ---------------------------------------------------------------- where it settles


class ThermalState(StrEnum):
    """What a fan settles to under a steady load, from cold."""

    OFF = "off"
    RUNNING = "running"
    ABOVE_FULL = "above-full"
    """At full speed and still warmer than where full speed begins: it can do no more"""
    CYCLING = "cycling"


@dataclass(frozen=True)
class Settled:
    """Where sink and fan settle, or between what they cycle."""

    state: ThermalState
    never_stops: bool
    """Once on, it never rests: the surroundings alone keep it above where it stops [-]"""
    sink_c: float | None = None
    speed: float | None = None
    device_c: float = 0.0
    """At its worst [°C]"""
    resistance_k_w: float | None = None
    on_s: float | None = None
    off_s: float | None = None
    top_c: float | None = None
    bottom_c: float | None = None

    @property
    def cycles_per_hour(self) -> float | None:
        """None where it does not cycle [1/h]"""
        return None if self.on_s is None or self.off_s is None else 3600 / (self.on_s + self.off_s)

    @property
    def off_fraction(self) -> float | None:
        """Share of the time in which it stands; None where it does not cycle [-]"""
        return None if self.on_s is None or self.off_s is None else self.off_s / (self.on_s + self.off_s)


def settled(sink: Sink, curve: Curve, power_w: float, ambient_c: float) -> Settled:
    """Where a steady load ends, from cold; a lagging sensor settles where one that does not lag does.

    Parameters
    ----------
    sink : Sink
        Heat sink and sensor [-]
    curve : Curve
        Speed over temperature [-]
    power_w : float
        Load [W]
    ambient_c : float
        Air that comes in [°C]

    Returns
    -------
    Settled
        Off, running, beyond full speed or cycling [-]

    Raises
    ------
    InputError
        A load or surroundings outside what can be real.
    """
    check_range("power_w", power_w, 0.0, 1e6, "W")
    check_range("ambient_c", ambient_c, -100.0, 200.0, "°C")
    off, offset = ambient_c + power_w * sink.natural_k_w, sink.sensor_offset_k
    never = curve.stop_c - offset <= ambient_c

    def device(at: float) -> float:
        return at + power_w * sink.device_k_w

    if off + offset <= curve.start_c:
        return Settled(ThermalState.OFF, never, off, 0.0, device(off), sink.natural_k_w)

    def over(at: float) -> float:
        return power_w - (at - ambient_c) * sink.conductance(curve.speed(at + offset))

    at = float(brentq(over, ambient_c, off, xtol=1e-12, rtol=1e-15))
    speed = curve.speed(at + offset)
    if at + offset > curve.stop_c:
        beyond = at + offset > curve.full_c
        state = ThermalState.ABOVE_FULL if beyond else ThermalState.RUNNING
        return Settled(state, never, at, speed, device(at), 1 / sink.conductance(speed))
    top = curve.start_c - offset
    bottom = top - curve.hysteresis_k
    rate_kick = sink.conductance(1.0) / sink.capacity_j_k
    at_full = ambient_c + power_w / sink.conductance(1.0)
    kicked = max(bottom, at_full + (top - at_full) * math.exp(-curve.kick_s * rate_kick))
    slow = sink.conductance(curve.least)
    at_slow = ambient_c + power_w / slow
    on = curve.kick_s + sink.capacity_j_k / slow * math.log((kicked - at_slow) / (bottom - at_slow))
    rest = sink.capacity_j_k * sink.natural_k_w * math.log((off - bottom) / (off - top))
    return Settled(
        ThermalState.CYCLING, never, None, None, device(top), None, on, rest, top, bottom,
    )  # fmt: skip


def power_for(sink: Sink, curve: Curve, sink_c: float, ambient_c: float) -> float:
    """Load that holds a sink at a temperature with the fan running.

    Parameters
    ----------
    sink : Sink
        Heat sink and sensor [-]
    curve : Curve
        Speed over temperature [-]
    sink_c : float
        Of the sink [°C]
    ambient_c : float
        Air that comes in [°C]

    Returns
    -------
    float
        Load [W]

    Raises
    ------
    InputError
        A temperature at which no steady load keeps a fan running that began cold.
    """
    check_range("sink_c", sink_c, -100.0, 1000.0, "°C")
    low = max(ambient_c, curve.stop_c - sink.sensor_offset_k)
    if sink_c <= low:
        raise InputError("sink_c", sink_c, f"above {low:.4g} °C", "no running fan settles so cold")
    power = (sink_c - ambient_c) * sink.conductance(curve.speed(sink_c + sink.sensor_offset_k))
    if ambient_c + power * sink.natural_k_w + sink.sensor_offset_k <= curve.start_c:
        raise InputError(
            "sink_c",
            sink_c,
            "warmer",
            "from cold the fan would never start under the load that holds it there",
        )
    return power


# ---------------------------------------------------------------- over time


@dataclass(frozen=True)
class Profile:
    """What a load does: powers one after the other, again and again."""

    powers_w: tuple[float, ...]
    durations_s: tuple[float, ...]

    def __post_init__(self) -> None:
        if not self.powers_w:
            raise InputError("powers_w", "", "one and more", "a load is needed")
        if len(self.powers_w) > MOST_PIECES:
            raise InputError("powers_w", len(self.powers_w), f"up to {MOST_PIECES}", "too many pieces")
        if len(self.durations_s) != len(self.powers_w):
            raise InputError(
                "durations_s",
                len(self.durations_s),
                f"{len(self.powers_w)} values",
                "one duration for each power",
            )
        check_range("powers_w", np.array(self.powers_w), 0.0, 1e6, "W")
        check_range("durations_s", np.array(self.durations_s), 1e-3, 1e7, "s")

    @property
    def length_s(self) -> float:
        """Until it begins again [s]"""
        return math.fsum(self.durations_s)


@dataclass(frozen=True, eq=False)
class SinkLine:
    """One sink over the time of a run."""

    sink_c: FloatArray
    sensor_c: FloatArray
    worst_sink_c: float
    worst_device_c: float
    final_sink_c: float
    final_sensor_c: float


@dataclass(frozen=True, eq=False)
class ThermalRun:
    """What a fan and the sinks in its stream did."""

    time_s: FloatArray
    """Where something began, ended or was looked at [s]"""
    speed: FloatArray
    """From each of these times on, over full speed [-]"""
    sinks: tuple[SinkLine, ...]
    starts_s: tuple[float, ...]
    stops_s: tuple[float, ...]
    off_fraction: float
    mean_speed: float
    mean_cube: float
    """Of the cube of its speed, for its watts [-]"""
    total_s: float

    @property
    def starts(self) -> int:
        """How often it started [-]"""
        return len(self.starts_s)

    @property
    def cycles_per_hour(self) -> float:
        """Starts over the time [1/h]"""
        return self.starts * 3600 / self.total_s


class _Mode(StrEnum):
    OFF = "off"
    KICK = "kick"
    RUN = "run"


def thermal_run(
    sinks: Sequence[Sink],
    curve: Curve,
    profiles: Sequence[Profile],
    ambient_c: float,
    total_s: float = 3600.0,
    initial_c: float | None = None,
) -> ThermalRun:
    """One controller on the hottest of some sensors, from a fan at rest and settled sensors.

    Parameters
    ----------
    sinks : sequence of Sink
        In the stream of what it drives [-]
    curve : Curve
        Speed over temperature [-]
    profiles : sequence of Profile
        Load of each sink [-]
    ambient_c : float
        Air that comes in [°C]
    total_s : float
        Length [s]
    initial_c : float, optional
        Of the sinks when it begins; left out: as the air [°C]

    Returns
    -------
    ThermalRun
        Lines and figures [-]

    Raises
    ------
    InputError
        Values outside what can be real, or a run that would take too many steps.
    """
    if not 1 <= len(sinks) <= MOST_SINKS:
        raise InputError("sinks", len(sinks), f"1 to {MOST_SINKS}", "at least one sink is needed")
    if len(profiles) != len(sinks):
        raise InputError("powers_w", len(profiles), f"{len(sinks)} loads", "one load for each sink")
    check_range("ambient_c", ambient_c, -100.0, 200.0, "°C")
    check_range("total_s", total_s, 1e-3, MOST_S, "s")
    if initial_c is not None:
        check_range("initial_c", initial_c, -100.0, 1000.0, "°C")
    return _Runner(
        sinks, curve, profiles, ambient_c, total_s, ambient_c if initial_c is None else initial_c
    ).run()


class _Runner:
    """State of a run while it goes on."""

    def __init__(
        self, sinks: Sequence[Sink], curve: Curve, profiles: Sequence[Profile], ambient: float, total: float, begin: float
    ) -> None:  # fmt: skip
        self.sinks, self.curve, self.profiles, self.ambient, self.total = (
            sinks,
            curve,
            profiles,
            ambient,
            total,
        )
        self.n = len(sinks)
        self.temps = [begin] * self.n
        self.senses = [begin + s.sensor_offset_k for s in sinks]
        self.mode, self.kick_left = _Mode.OFF, 0.0
        self.t = 0.0
        self.pieces = [0] * self.n
        self.ends = [p.durations_s[0] for p in profiles]
        self.powers = [p.powers_w[0] for p in profiles]
        self.lagging = [s.sensor_lag_s > 0 for s in sinks]
        self.mixed = len({s.flow_exponent for s in sinks}) > 1
        self.constants = [
            (1 / s.natural_k_w, 1 / s.forced_k_w, s.capacity_j_k, s.sensor_lag_s, s.sensor_offset_k)
            for s in sinks
        ]
        self.worst = [-math.inf] * self.n
        self.worst_device = [-math.inf] * self.n
        self.starts: list[float] = []
        self.stops: list[float] = []
        self.off_s = self.turned = self.cubed = 0.0
        self.rows: list[tuple[float, float, list[float], list[float]]] = []
        self.steps = 0
        self.drawn_s = max(total / 360.0, 1e-3)

    # -------------------------------------------------------- events

    @property
    def hottest(self) -> float:
        return max(self.senses)

    def _ask(self) -> None:
        """The rules, in their order; what a level says to within rounding counts as reached."""
        near = 1e-9
        if self.mode is _Mode.OFF and self.hottest >= self.curve.start_c - near:
            self.mode, self.kick_left = _Mode.KICK, self.curve.kick_s
            self.starts.append(self.t)
        if self.mode is _Mode.KICK and self.kick_left <= 1e-12:
            self.mode = _Mode.RUN
        if self.mode is _Mode.RUN and self.hottest <= self.curve.stop_c + near:
            self.mode = _Mode.OFF
            self.stops.append(self.t)

    def _note(self, speed: float) -> None:
        for i in range(self.n):
            at = self.temps[i]
            self.worst[i] = max(self.worst[i], at)
            self.worst_device[i] = max(self.worst_device[i], at + self.powers[i] * self.sinks[i].device_k_w)
        self.rows.append((self.t, speed, list(self.temps), list(self.senses)))

    def run(self) -> ThermalRun:
        speed = 0.0
        while self.t < self.total - 1e-9:
            self.steps += 1
            if self.steps > MOST_STEPS:
                raise InputError(
                    "total_s", self.total, "shorter",
                    "the fan starts and stops so often that so long a time is not run: more hysteresis",
                )  # fmt: skip
            self._ask()
            until = min(self.total, *self.ends) - self.t
            speed, length = self._phase(until)
            self.t += length
            if self.mode is _Mode.KICK:
                self.kick_left -= length
            self._note(speed)
            self._loads()
        self._ask()
        return self._found()

    def _loads(self) -> None:
        for i, profile in enumerate(self.profiles):
            while self.ends[i] <= self.t + 1e-9:
                self.pieces[i] = (self.pieces[i] + 1) % len(profile.powers_w)
                self.powers[i] = profile.powers_w[self.pieces[i]]
                self.ends[i] += profile.durations_s[self.pieces[i]]
                at = self.temps[i] + self.powers[i] * self.sinks[i].device_k_w
                if self.t < self.total - 1e-9:
                    self.worst_device[i] = max(self.worst_device[i], at)

    def _phase(self, until: float) -> tuple[float, float]:
        """Goes on until something happens, at most so long: speed at the end of it, and how long it took."""
        c, hot = self.curve, self.hottest
        near = 1e-9
        if self.mode is _Mode.OFF:
            return 0.0, self._steady(0.0, until, up=c.start_c, down=None)
        if self.mode is _Mode.KICK:
            return 1.0, self._steady(1.0, min(until, self.kick_left), up=None, down=None)
        if hot < c.start_c - near or (hot <= c.start_c + near and not self._rises(c.least)):
            return c.least, self._steady(c.least, until, up=c.start_c, down=c.stop_c)
        if hot > c.full_c + near or (hot >= c.full_c - near and self._rises(1.0)):
            return 1.0, self._steady(1.0, until, up=None, down=c.full_c)
        length = self._ramp(until)
        return c.speed(self.hottest), length

    def _rises(self, speed: float) -> bool:
        """Whether what the hottest sensor says rises at a speed."""
        i = max(range(self.n), key=lambda k: self.senses[k])
        s = self.sinks[i]
        if self.lagging[i]:
            return self.temps[i] + s.sensor_offset_k > self.senses[i]
        return self.powers[i] > (self.temps[i] - self.ambient) * s.conductance(speed)

    # -------------------------------------------------------- where speed stands still

    def _steady(self, speed: float, until: float, up: float | None, down: float | None) -> float:
        """Exact: at most two exponentials a sink. Returns when a level is met, or `until`."""
        lines = [self._line(i, speed) for i in range(self.n)]
        met = until
        if up is not None and (first := _first_above(lines, up, until)) is not None:
            met = first
        if down is not None and (last := _first_below(lines, down, met)) is not None:
            met = min(met, last)
        begun, t0 = list(self.temps), self.t
        # A curve on paper needs places in between.
        cuts = int(met / self.drawn_s)
        for k in range(1, cuts + 1):
            at = k * met / (cuts + 1)
            self.rows.append((t0 + at, speed, [x.temp(at) for x in lines], [x.sense(at) for x in lines]))
        self.temps = [x.temp(met) for x in lines]
        self.senses = [x.sense(met) for x in lines]
        for level in (up, down):
            if level is not None and abs(self.hottest - level) < 1e-6 and met < until:
                i = max(range(self.n), key=lambda k: self.senses[k])
                self.senses[i] = level
        # An exponential has no maximum inside: its ends are the worst.
        for i in range(self.n):
            self.worst[i] = max(self.worst[i], begun[i])
            device = begun[i] + self.powers[i] * self.sinks[i].device_k_w
            self.worst_device[i] = max(self.worst_device[i], device)
        self.turned += speed * met
        self.cubed += speed**3 * met
        if self.mode is _Mode.OFF:
            self.off_s += met
        return met

    def _line(self, i: int, speed: float) -> _Line:
        s = self.sinks[i]
        g = s.conductance(speed)
        return _Line.of(
            self.temps[i], self.senses[i], self.ambient + self.powers[i] / g, s.capacity_j_k / g, s.sensor_lag_s,
            s.sensor_offset_k,
        )  # fmt: skip

    # -------------------------------------------------------- where speed follows the sensor

    def _slopes(self, temps: list[float], senses: list[float]) -> tuple[float, list[float], list[float]]:
        """Speed, and how fast each sink and each lagging sensor moves."""
        speed = self.curve.speed(max(senses))
        flow = (
            [speed**s.flow_exponent for s in self.sinks]
            if self.mixed
            else [speed ** self.sinks[0].flow_exponent] * self.n
        )
        rises, follows = [], []
        for i in range(self.n):
            natural, forced, capacity, lag, offset = self.constants[i]
            rises.append(
                (self.powers[i] - (temps[i] - self.ambient) * (natural + flow[i] * forced)) / capacity
            )
            follows.append((temps[i] + offset - senses[i]) / lag if lag else 0.0)
        return speed, rises, follows

    def _step(
        self, begun: tuple[float, list[float], list[float]], h: float
    ) -> tuple[list[float], list[float], float, float, float]:
        """One step of Dormand and Prince (5, 4): sinks, sensors, turns and cubes of speed, error over what is allowed."""
        n, sinks = self.n, range(self.n)
        speeds = [begun[0]]
        rises, follows = [[x] for x in begun[1]], [[x] for x in begun[2]]
        temps, senses = self.temps, self.senses
        for mix in _MIX:
            temps = [self.temps[i] + h * mix(rises[i]) for i in sinks]
            senses = [
                self.senses[i] + h * mix(follows[i]) if self.lagging[i] else temps[i] + self.constants[i][4]
                for i in sinks
            ]
            speed, rise, follow = self._slopes(temps, senses)
            speeds.append(speed)
            for i in sinks:
                rises[i].append(rise[i])
                follows[i].append(follow[i])
        off = max(abs(_off(rises[i])) for i in sinks)
        if any(self.lagging):
            off = max(off, *(abs(_off(follows[i])) for i in range(n)))
        turned, cubed = h * _MIX[-1](speeds), h * _MIX[-1]([v**3 for v in speeds])
        return temps, senses, turned, cubed, h * off / _ERROR_K

    def _ramp(self, until: float) -> float:
        """One stretch on the ramp of the curve, until it is left."""
        n, c, gone, met = self.n, self.curve, 0.0, False
        largest = min(until, self.drawn_s * 1.0001)
        h = min(largest, *(s.capacity_j_k / s.conductance(1.0) / 10 for s in self.sinks), until)
        slopes = self._slopes(self.temps, self.senses)
        while gone < until and not met:
            self.steps += 1
            if self.steps > MOST_STEPS:
                raise InputError(
                    "total_s", self.total, "shorter", "so long a time with so quick a sensor is not run"
                )
            h = min(h, until - gone)
            temps, senses, turned, cubed, off = self._step(slopes, h)
            if off > 1.0:
                h *= max(0.2, 0.9 * off**-0.2)
                continue
            if not c.start_c - 1e-9 <= max(senses) <= c.full_c + 1e-9:
                level = c.full_c if max(senses) > c.full_c else c.start_c
                h, met = self._meets(slopes, level, h), True
                temps, senses, turned, cubed, _ = self._step(slopes, h)
            after = self._slopes(temps, senses)
            self._peaks(slopes[1], temps, after[1], h)
            gone += h
            self.temps, self.senses, slopes = temps, senses, after
            self.turned += turned
            self.cubed += cubed
            if not met and gone < until:
                self.rows.append((self.t + gone, slopes[0], temps, senses))
                # A sink that has stopped moving waits for the next change of its load.
                if all(abs(slopes[1][i]) < 1e-10 and abs(slopes[2][i]) < 1e-10 for i in range(n)):
                    self.turned += slopes[0] * (until - gone)
                    self.cubed += slopes[0] ** 3 * (until - gone)
                    gone = until
            h = min(largest, h * min(5.0, 0.9 * max(off, 1e-8) ** -0.2))
        return gone

    def _meets(self, slopes: tuple[float, list[float], list[float]], level: float, h: float) -> float:
        """When the hottest sensor meets a level inside a step that passes it; just after, never before."""

        def over(part: float) -> float:
            return max(self._step(slopes, part)[1] if part else self.senses) - level

        if over(0.0) * over(h) >= 0:
            return h
        return min(h, float(brentq(over, 0.0, h, xtol=1e-10, rtol=1e-13)) + 1e-9)

    def _peaks(self, rise: list[float], after: list[float], fall: list[float], h: float) -> None:
        """The hottest of a step, where a sink turned inside it: by the cubic through both ends with their slopes."""
        for i in range(self.n):
            begun, top = self.temps[i], max(self.temps[i], after[i])
            if rise[i] > 0 > fall[i]:
                u = rise[i] / (rise[i] - fall[i])
                inside = (1 + 2 * u) * (1 - u) ** 2 * begun + u * u * (3 - 2 * u) * after[i]
                top = max(top, inside + u * (1 - u) * h * ((1 - u) * rise[i] - u * fall[i]))
            self.worst[i] = max(self.worst[i], top)
            device = top + self.powers[i] * self.sinks[i].device_k_w
            self.worst_device[i] = max(self.worst_device[i], device)

    # -------------------------------------------------------- what came of it

    def _found(self) -> ThermalRun:
        first = (0.0, self.rows[0][1], [self.rows[0][2][i] for i in range(self.n)], list(self.rows[0][3]))
        rows = [first, *self.rows] if self.rows[0][0] > 0 else self.rows
        lines = tuple(
            SinkLine(
                np.array([r[2][i] for r in rows]), np.array([r[3][i] for r in rows]), self.worst[i],
                self.worst_device[i], self.temps[i], self.senses[i],
            )
            for i in range(self.n)
        )  # fmt: skip
        return ThermalRun(
            np.array([r[0] for r in rows]), np.array([r[1] for r in rows]), lines, tuple(self.starts),
            tuple(self.stops), self.off_s / self.total, self.turned / self.total, self.cubed / self.total, self.total,
        )  # fmt: skip


@dataclass(frozen=True)
class _Line:
    """One sink at a steady speed: T = T∞ + A e^(−t/τ₁), S = T∞ + offset + a e^(−t/τ₁) + b e^(−t/τ)."""

    end_c: float
    temp_k: float
    tau_s: float
    offset_k: float
    sense_k: float
    lag_k: float
    lag_s: float

    @classmethod
    def of(cls, temp: float, sense: float, end: float, tau: float, lag: float, offset: float) -> _Line:
        gap = temp - end
        if lag == 0:
            return cls(end, gap, tau, offset, gap, 0.0, tau)
        if abs(lag / tau - 1) < 1e-6:
            # Two equal rates are told apart by a millionth, far below what is asked of the answer.
            lag = tau * (1 + 1e-6)
        a = gap / (1 - lag / tau)
        return cls(end, gap, tau, offset, a, sense - end - offset - a, lag)

    def temp(self, t: float) -> float:
        return self.end_c + self.temp_k * math.exp(-t / self.tau_s)

    def sense(self, t: float) -> float:
        slow = self.sense_k * math.exp(-t / self.tau_s)
        return (
            self.end_c
            + self.offset_k
            + slow
            + (self.lag_k * math.exp(-t / self.lag_s) if self.lag_k else 0.0)
        )

    def turns(self) -> float | None:
        """Where what its sensor says turns, if it does."""
        if not self.lag_k or not self.sense_k:
            return None
        ratio = -self.lag_k / self.lag_s * self.tau_s / self.sense_k
        if ratio <= 0 or self.lag_s == self.tau_s:
            return None
        t = math.log(ratio) / (1 / self.lag_s - 1 / self.tau_s)
        return t if t > 0 else None

    def crossings(self, level: float, until: float) -> list[float]:
        """Times in which its sensor meets a level, both ways, within so long."""
        turn = self.turns()
        cuts = [0.0, *([turn] if turn is not None and turn < until else []), until]
        found = []
        for low, high in pairwise(cuts):
            a, b = self.sense(low) - level, self.sense(high) - level
            if a == 0.0 or a * b > 0 or (b == 0.0 and high < until):
                continue
            if not self.lag_k:
                t = -self.tau_s * math.log((level - self.end_c - self.offset_k) / self.sense_k) if b else high
                found.append(min(high, max(low, t)))
            else:
                found.append(
                    float(brentq(lambda t: self.sense(t) - level, low, high, xtol=1e-11, rtol=1e-14))
                )
        return found


def _first_above(lines: Sequence[_Line], level: float, until: float) -> float | None:
    """When the hottest rises to a level."""
    times = [
        t
        for x in lines
        for t in x.crossings(level, until)
        if x.sense(t + 1e-6 * max(t, 1e-3)) >= level - 1e-12
    ]
    return min(times, default=None)


def _first_below(lines: Sequence[_Line], level: float, until: float) -> float | None:
    """When all have fallen to a level."""
    for t in sorted(t for x in lines for t in x.crossings(level, until)):
        if all(x.sense(t) <= level + 1e-9 for x in lines):
            return t
    return None


# ---------------------------------------------------------------- the embedded pair of Dormand and Prince

_MIX: tuple[Callable[[list[float]], float], ...] = (
    lambda k: k[0] / 5,
    lambda k: 0.075 * k[0] + 0.225 * k[1],
    lambda k: 44 / 45 * k[0] - 56 / 15 * k[1] + 32 / 9 * k[2],
    lambda k: 19372 / 6561 * k[0] - 25360 / 2187 * k[1] + 64448 / 6561 * k[2] - 212 / 729 * k[3],
    lambda k: (
        9017 / 3168 * k[0] - 355 / 33 * k[1] + 46732 / 5247 * k[2] + 49 / 176 * k[3] - 5103 / 18656 * k[4]
    ),
    lambda k: 35 / 384 * k[0] + 500 / 1113 * k[2] + 125 / 192 * k[3] - 2187 / 6784 * k[4] + 11 / 84 * k[5],
)
"""Slopes so far to the slope of the next stage; the last gives the step"""
_ERROR_K = 1e-5
"""How far a step may be off [K]"""


def _off(k: list[float]) -> float:
    """What the fourth order says otherwise than the fifth."""
    return (
        71 / 57600 * k[0]
        - 71 / 16695 * k[2]
        + 71 / 1920 * k[3]
        - 17253 / 339200 * k[4]
        + 22 / 525 * k[5]
        - k[6] / 40
    )
