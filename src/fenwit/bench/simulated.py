"""The devices of the demo scenario: an exhaust fan that answers on Modbus, a fan with a tachometer, a logger."""

from __future__ import annotations

import contextlib
import math
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass

from fenwit.bench.ecfan import EcFan, Traits
from fenwit.bench.servers import line_tcp, modbus_rtu, modbus_tcp
from fenwit.core.load.curve import Air, FanCurve, System
from fenwit.core.motor.analog import VoltLine

EXHAUST_CURVE = FanCurve(
    (0.0, 0.06, 0.12, 0.18, 0.24, 0.30, 0.34),
    (430.0, 424.0, 396.0, 340.0, 250.0, 125.0, 0.0),
)


def exhaust() -> EcFan:
    """The battery room's exhaust, its knob turned up [-]"""
    air = Air(EXHAUST_CURVE, System(0.22, 285.0), 1.107)
    fan = EcFan(Traits(VoltLine(300.0, 2790.0), air, 121.0, 0.87, full_rpm=2790.0, minimum=0.36))
    fan.analog_v = 10.0
    return fan


@dataclass
class Rack:
    """The spectrograph's fan and heat sink: speed by its duty, a slow temperature."""

    duty: float = 0.5
    clock: Callable[[], float] = time.monotonic

    def __post_init__(self) -> None:
        self._begun = self.clock()

    def fan(self, channel: str) -> str | None:
        """What its tachometer and its lead say [-]"""
        if channel == "speed":
            return f"{690 + 2500 * max(0.0, self.duty - 0.2) / 0.8:.0f} rpm"
        return f"{100 * self.duty:.1f} %" if channel == "duty" else None

    def logger(self, channel: str) -> str | None:
        """What the logger says [-]"""
        t = self.clock() - self._begun
        if channel == "sink":
            return f"{20 + 22 * -math.expm1(-t / 300):.1f} °C".replace("°", "deg")
        return "20.4 degC" if channel == "ambient" else None


@contextlib.contextmanager
def started() -> Iterator[tuple[str, str]]:
    """All of them on loopback and a pseudo-terminal; yields what the settings would say: devices and networks."""
    rack, fan, spare = Rack(), exhaust(), exhaust()
    with contextlib.ExitStack() as stack:
        tcp = stack.enter_context(modbus_tcp(fan))
        rtu = stack.enter_context(modbus_rtu(spare))
        tach = stack.enter_context(line_tcp(rack.fan))
        logger = stack.enter_context(line_tcp(rack.logger))
        named = (
            f"exhaust fan=modbus-tcp://127.0.0.1:{tcp}/1?simulated; exhaust fan, serial=modbus-rtu://{rtu}?unit=1; "
            f"rack fan=fan-line://127.0.0.1:{tach}; rack logger=logger-line://127.0.0.1:{logger}"
        ).replace("exhaust fan, serial", "exhaust fan serial")
        yield named, "127.0.0.0/8"
