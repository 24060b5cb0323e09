"""A simulated EC fan: it starts softly, follows its analog input or serial, holds a flow, alarms, and can be hurt."""

from __future__ import annotations

import math
import random
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np

from fenwit.bench.registers import (
    HOLDING_LIMITS,
    SIMULATED_LIMITS,
    VERSION,
    Alarm,
    Holding,
    Input,
    Simulated,
    State,
)
from fenwit.core.job.commanded import IDLE_SHARE
from fenwit.core.load.curve import Air
from fenwit.core.motor.analog import SPAN_V, VoltLine
from fenwit.core.regulator.loop import Plant, plant

SELF_CHECK_S = 3.0
_STEP_S = 0.1
RETRY_S = 90.0
"""A locked fan tries again after it was without power for so long [s]"""


@dataclass
class Faults:
    """What goes wrong, as it was asked for."""

    late_s: float = 0.0
    lose: float = 0.0
    """Chance that an answer is lost [-]"""
    lose_next: int = 0
    """So many of the next answers are lost [-]"""
    wrong_unit: bool = False
    swapped: bool = False
    deaf: bool = False
    """Commands are answered and not followed [-]"""
    sensor_dead: bool = False
    rotor_held: bool = False
    rubbish: bool = False
    """Impossible values [-]"""


@dataclass
class Traits:
    """What the fan is."""

    line: VoltLine
    air: Air | None = None
    watts: float = 120.0
    amps: float = 0.9
    lag_s: float = 2.0
    ramp_per_s: float = 0.1
    cone_factor: float = 60.0
    full_rpm: float = 2800.0
    minimum: float = 0.1
    """Slowest that holding a flow may go to, over full speed [-]"""


@dataclass
class EcFan:
    """The fan as it stands; every touch first lets the time pass that went by."""

    traits: Traits
    clock: Callable[[], float] = time.monotonic
    faults: Faults = field(default_factory=Faults)
    analog_v: float = 0.0
    """On its first input [V]"""
    enabled: bool = True
    """The enable contact [-]"""
    powered: bool = True
    damper: float = 1.0
    """Resistance of the system, over what it was [-]"""
    chance: random.Random = field(default_factory=lambda: random.Random(7))

    def __post_init__(self) -> None:
        self._lock = threading.RLock()
        self._at = self.clock()
        self._speed = 0.0
        self._integral = 0.0
        self._since_power = 0.0
        self._heard = self._at
        self._hours_s = 4_321 * 3600.0
        self._alarm = 0
        self._running = False
        self.holding = dict.fromkeys(Holding, 0)
        self.holding[Holding.ENABLE] = 1
        self.holding[Holding.RAMP_UP] = self.holding[Holding.RAMP_DOWN] = round(10 / self.traits.ramp_per_s)
        self._plants: dict[float, Plant] = {}

    # ---------------------------------------------------------------- time

    def _pass(self) -> None:
        now = self.clock()
        left, self._at = now - self._at, now
        while left > 1e-9:
            step = min(_STEP_S, left)
            self._advance(step)
            left -= step

    def _advance(self, dt: float) -> None:
        traits = self.traits
        if not self.powered:
            self._since_power = 0.0
            self._running = False
            self._speed *= math.exp(-dt / traits.lag_s)
            return
        self._since_power += dt
        wanted = self._wanted(dt)
        if self.faults.rotor_held:
            if wanted > 0:
                self._alarm |= 1 << Alarm.HELD
            self._speed = 0.0
            return
        if self._alarm & (1 << Alarm.HELD):
            wanted = 0.0
        up = 10 / max(1, self.holding[Holding.RAMP_UP])
        down = 10 / max(1, self.holding[Holding.RAMP_DOWN])
        rate = (wanted - self._speed) / traits.lag_s
        self._speed = max(0.0, self._speed + dt * min(up, max(-down, rate)))
        if self._speed > 0.01:
            self._hours_s += dt

    def _wanted(self, dt: float) -> float:
        """Share of full speed that is asked for now."""
        if self._since_power < SELF_CHECK_S or not self.enabled or not self.holding[Holding.ENABLE]:
            self._running = False
            return 0.0
        if self.faults.deaf:
            return 0.3
        serial = self.holding[Holding.SOURCE] == 1
        watchdog = self.holding[Holding.WATCHDOG]
        command = self.holding[Holding.COMMAND] / 10_000
        if serial and watchdog and self._at - self._heard > watchdog:
            self._alarm |= 1 << Alarm.WATCHDOG
            command = self.holding[Holding.FALLBACK] / 10_000
        if self.holding[Holding.MODE] and self.traits.air is not None:
            return self._held(dt)
        if serial:
            return command if command > 0.02 else 0.0
        volts = min(SPAN_V, max(0.0, self.analog_v))
        rpm = float(self.traits.line.speed_rpm(np.array(volts), running=self._running))
        self._running = rpm > 0
        return rpm / self.traits.full_rpm

    def _held(self, dt: float) -> float:
        """The fan's own loop: gain 1.2, integral 2.5 s."""
        if self.faults.sensor_dead:
            self._alarm |= 1 << Alarm.SENSOR
            return 1.0
        flow = self.holding[Holding.MODE] == 1
        goal = self.holding[Holding.SET_POINT] / (3600 if flow else 1)
        air = self.traits.air
        assert air is not None
        span = air.free_m3_s() if flow else float(air.fan_pa(np.zeros(1))[0])
        error = (goal - (self.flow_m3_s if flow else self.pressure_pa)) / span
        raw = 1.2 * error + self._integral
        held = min(1.0, max(self.traits.minimum, raw))
        if not ((raw > 1 and error > 0) or (raw < self.traits.minimum and error < 0)):
            self._integral += 1.2 * dt / 2.5 * error
        return held

    # ---------------------------------------------------------------- what it would show

    def _plant(self) -> Plant | None:
        air = self.traits.air
        if air is None:
            return None
        if self.damper not in self._plants:
            self._plants[self.damper] = plant(air, self.damper)
        return self._plants[self.damper]

    @property
    def flow_m3_s(self) -> float:
        """Through it now [m³/s]"""
        at = self._plant()
        return 0.0 if at is None else at.flow_m3_s(min(1.0, self._speed))

    @property
    def pressure_pa(self) -> float:
        """At its system now [Pa]"""
        at = self._plant()
        return 0.0 if at is None or self._speed <= 0 else at.pressure_pa(min(1.0, self._speed))

    @property
    def speed_rpm(self) -> float:
        """Now [rpm]"""
        with self._lock:
            self._pass()
            return self._speed * self.traits.full_rpm

    def inputs(self) -> list[int]:
        """All input registers, of one moment [-]"""
        with self._lock:
            self._pass()
            t, s = self.traits, self._speed
            share = IDLE_SHARE * (s > 0.01) + (1 - IDLE_SHARE) * s**3
            state = State.OFF
            if self.powered:
                state = State.SELF_CHECK if self._since_power < SELF_CHECK_S else State.OFF
                if self._alarm & (1 << Alarm.HELD):
                    state = State.LOCKED
                elif s > 0.01:
                    state = State.RUNNING
            flow_h = 3600 * self.flow_m3_s
            cone = (flow_h / t.cone_factor) ** 2
            sensor = 0.0 if self.faults.sensor_dead else 2 + 8 * min(1.0, cone / 300)
            words = dict.fromkeys(Input, 0)
            words |= {
                Input.SPEED: round(s * t.full_rpm), Input.CURRENT: round(1000 * t.amps * share),
                Input.LINK: 325 if self.powered else 0, Input.POWER: round(t.watts * share),
                Input.ELECTRONICS: round(10 * (24 + 18 * share)) & 0xFFFF,
                Input.ALARM: self._alarm, Input.STATE: int(state),
                Input.ANALOG_1: round(1000 * self.analog_v), Input.ANALOG_2: round(1000 * sensor),
                Input.ANALOG_OUT: round(10_000 * min(1.0, s)), Input.FLOW: round(flow_h),
                Input.PRESSURE: round(10 * self.pressure_pa),
                Input.HOURS_HIGH: int(self._hours_s / 3600) >> 16, Input.HOURS_LOW: int(self._hours_s / 3600) & 0xFFFF,
                Input.COMMAND_IN_USE: round(10_000 * min(1.0, s)), Input.VERSION: VERSION,
            }  # fmt: skip
            found = [words[i] for i in Input]
            if self.faults.rubbish:
                found[Input.SPEED] = 61_234
            if self.faults.swapped:
                found[Input.HOURS_HIGH], found[Input.HOURS_LOW] = (
                    found[Input.HOURS_LOW],
                    found[Input.HOURS_HIGH],
                )
            return found

    def outputs(self) -> list[int]:
        """All holding registers [-]"""
        with self._lock:
            self._pass()
            return [self.holding[h] for h in Holding]

    def bench(self) -> list[int]:
        """What hands would set on its bench, as registers from 100 on [-]"""
        with self._lock:
            return [
                round(1000 * self.analog_v), round(100 * self.damper), abs(self.faults.lose_next), int(self.powered),
                int(self.enabled),
            ]  # fmt: skip

    def _by_hand(self, at: Simulated, value: int) -> bool:
        if not 0 <= value <= SIMULATED_LIMITS[at] or (at is Simulated.DAMPER and value < 10):
            return False
        if at is Simulated.KNOB:
            self.analog_v = value / 1000
        elif at is Simulated.DAMPER:
            self.damper = value / 100
        elif at is Simulated.LOSE_NEXT:
            # The answer to this order still goes out.
            self.faults.lose_next = -value
        elif at is Simulated.POWER:
            self.powered = bool(value)
        else:
            self.enabled = bool(value)
        return True

    def set(self, register: int, value: int) -> bool:
        """Set one holding register; False where it does not take the value."""
        with self._lock:
            self._pass()
            if register >= min(Simulated):
                return self._by_hand(Simulated(register), value)
            at = Holding(register)
            if not 0 <= value <= HOLDING_LIMITS[at]:
                return False
            if at is Holding.MODE and value != self.holding[Holding.MODE]:
                self._integral = self._speed
            self.holding[at] = value
            return True

    def heard(self) -> None:
        """A valid request came: the watchdog begins anew."""
        with self._lock:
            self._heard = self.clock()

    def loses(self) -> bool:
        """Whether the next answer is lost."""
        with self._lock:
            if self.faults.lose_next < 0:
                self.faults.lose_next = -self.faults.lose_next
            elif self.faults.lose_next > 0:
                self.faults.lose_next -= 1
                return True
            return self.faults.lose > 0 and self.chance.random() < self.faults.lose
