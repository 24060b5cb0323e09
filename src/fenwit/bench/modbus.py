"""An EC fan on Modbus, over TCP or a serial line: asked one moment at a time, and believed only as far as it adds up."""

from __future__ import annotations

import logging
import time
from collections.abc import Mapping
from typing import Any

from pymodbus.client import ModbusSerialClient, ModbusTcpClient
from pymodbus.exceptions import ModbusException
from pymodbus.framer import FramerType

from fenwit.bench.registers import VERSION, Holding, Input, Scaled, Simulated, State, signed
from fenwit.bench.taken import (
    LOST_S,
    Channel,
    Outcome,
    Taken,
    absurd,
    channel_of,
    judged,
    lost,
    moving,
    refused,
)

# What goes wrong on a line is told as an outcome; a log of every packet helps nobody.
logging.getLogger("pymodbus").setLevel(logging.CRITICAL)
_READ = len(Input)
_CHANNELS: Mapping[str, tuple[Channel, Scaled]] = {
    c.quantity: (c, s)
    for c, s in (
        (Channel("speed_rpm", "speed", "rpm", 0, 6000, 5), Scaled(Input.SPEED, 1)),
        (Channel("line_current_a", "line current", "A", 0, 30, 0.01, 3), Scaled(Input.CURRENT, 1e-3)),
        (Channel("dc_link_v", "DC link", "V", 0, 900, 3), Scaled(Input.LINK, 1)),
        (Channel("input_power_w", "watts", "W", 0, 6000, 2), Scaled(Input.POWER, 1)),
        (Channel("electronics_c", "electronics", "°C", -40, 120, 1, 1), Scaled(Input.ELECTRONICS, 0.1, True)),
        (Channel("control_v", "analog 1", "V", 0, 10.5, 0.02, 2), Scaled(Input.ANALOG_1, 1e-3)),
        (Channel("sensor_v", "analog 2", "V", 0, 10.5, 0.02, 2), Scaled(Input.ANALOG_2, 1e-3)),
        (Channel("out_v", "analog out", "V", 0, 10.5, 0.02, 2), Scaled(Input.ANALOG_OUT, 1e-3)),
        (Channel("flow_m3_h", "flow", "m³/h", 0, 20000, 5), Scaled(Input.FLOW, 1)),
        (Channel("pressure_pa", "pressure", "Pa", 0, 3000, 1, 1), Scaled(Input.PRESSURE, 0.1)),
    )
}
_AGAIN_S, _STEADY_RPM, _STEADY_SHARE = 0.4, 4.0, 0.003
"""How much later a speed is asked for again, and within what it must stand [s, rpm, -]"""
_MOST_HOURS = 300_000
"""A fan that ran for longer has its words the wrong way round [h]"""
_STATES = {s.value: s.name.lower().replace("_", " ") for s in State}


class ModbusFan:
    """A fan by its address: `tcp` with host and port, or a serial port; nothing is kept open between two questions."""

    def __init__(
        self, name: str, unit: int, *, host: str = "", port: int = 502, serial: str = "", baud: int = 19200,
        simulated: bool = False,
    ) -> None:  # fmt: skip
        self.name, self.unit, self.simulated = name, unit, simulated
        self._host, self._port, self._serial, self._baud = host, port, serial, baud
        self.kind = f"EC fan, Modbus {'RTU' if serial else 'TCP'}, unit {unit}"
        self.channels: Mapping[str, Channel] = {k: c for k, (c, _) in _CHANNELS.items()}

    def _client(self) -> ModbusTcpClient | ModbusSerialClient:
        if self._serial:
            return ModbusSerialClient(
                self._serial, framer=FramerType.RTU, baudrate=self._baud, timeout=LOST_S, retries=0
            )
        return ModbusTcpClient(self._host, port=self._port, timeout=LOST_S, retries=0)

    def take(self, quantity: str) -> Taken:
        """Ask for one quantity: all inputs are read in one request, so that they are of one moment."""
        channel = channel_of(self, quantity)
        scaled = _CHANNELS[quantity][1]
        where = f"input register {scaled.register.value}"
        begun = time.monotonic()
        client = self._client()
        try:
            if not client.connect():
                return lost(self, channel, where, time.monotonic() - begun, "it cannot be reached")
            answer = client.read_input_registers(0, count=_READ, device_id=self.unit)
            took = time.monotonic() - begun
            if answer.isError():
                code = getattr(answer, "exception_code", 0)
                return refused(self, channel, where, took, f"it answers exception {code:02d}")
            found = self._read(channel, scaled, where, list(answer.registers), took)
            if quantity != "speed_rpm" or found.outcome is not Outcome.VALUE:
                return found
            return self._at_rest(client, found, channel, scaled, where)
        except ModbusException as error:
            took = time.monotonic() - begun
            why = "a wrong unit, or rubbish" if took < LOST_S * 0.9 else f"none within {LOST_S:g} s"
            return lost(self, channel, where, took, f"{why} ({type(error).__name__})")
        except OSError as error:
            return lost(self, channel, where, time.monotonic() - begun, str(error.strerror or error))
        finally:
            client.close()  # type: ignore[no-untyped-call]

    def _read(self, channel: Channel, scaled: Scaled, where: str, words: list[int], took: float) -> Taken:
        if len(words) != _READ:
            return absurd(
                self, channel, where, took, f"{len(words)} registers came where {_READ} were asked for"
            )
        if words[Input.VERSION] != VERSION:
            told = f"its register map says version {words[Input.VERSION]}, not {VERSION}: another fan, or words swapped"
            return absurd(self, channel, where, took, told)
        hours = (words[Input.HOURS_HIGH] << 16) | words[Input.HOURS_LOW]
        if hours > _MOST_HOURS:
            return absurd(
                self, channel, where, took, f"{hours} hours run: the words of its numbers are swapped"
            )
        word = words[scaled.register]
        value = (signed(word) if scaled.signed else word) * scaled.scale
        return judged(self, channel, where, value, took)

    def _at_rest(
        self,
        client: ModbusTcpClient | ModbusSerialClient,
        first: Taken,
        channel: Channel,
        scaled: Scaled,
        where: str,
    ) -> Taken:
        """A speed counts once it stands: asked again a moment later it must say the same."""
        time.sleep(_AGAIN_S)
        begun = time.monotonic()
        answer = client.read_input_registers(0, count=_READ, device_id=self.unit)
        took = time.monotonic() - begun
        if answer.isError():
            return refused(self, channel, where, took, "it answered once and not again")
        second = self._read(channel, scaled, where, list(answer.registers), took)
        if second.value is None or first.value is None or second.outcome is not Outcome.VALUE:
            return second
        if abs(second.value - first.value) > max(_STEADY_RPM, _STEADY_SHARE * second.value):
            words = (
                f"{first.value:.0f}, then {second.value:.0f} {channel.unit}: still on its way, wait it out"
            )
            return moving(self, channel, where, second.value, took, words)
        return second

    def state(self) -> str:
        """What the fan says it is doing, in words; empty where it does not answer [-]"""
        client = self._client()
        try:
            if not client.connect():
                return ""
            answer = client.read_input_registers(0, count=_READ, device_id=self.unit)
            if answer.isError() or len(answer.registers) != _READ:
                return ""
            alarm = answer.registers[Input.ALARM]
            words = _STATES.get(answer.registers[Input.STATE], "unknown")
            return f"{words}, alarm {alarm:#06x}" if alarm else words
        except (ModbusException, OSError):
            return ""
        finally:
            client.close()  # type: ignore[no-untyped-call]

    def order(self, register: Simulated, value: int) -> str:
        """Do something on the bench of a simulated fan; returns why it was not done. Nothing is read back: an order to
        lose answers would lose that one [-]"""
        if not self.simulated:
            return "a real bench is worked by hand"
        client: Any = self._client()
        try:
            if not client.connect():
                return "it cannot be reached"
            answer = client.write_register(int(register), value, device_id=self.unit)
            return f"it answers exception {answer.exception_code:02d}" if answer.isError() else ""
        except ModbusException as error:
            return f"no answer ({type(error).__name__})"
        finally:
            client.close()

    def command(self, register: Holding, value: int) -> str:
        """Set a holding register and read it back; returns why it was not taken, empty where it was [-]"""
        client: Any = self._client()
        try:
            if not client.connect():
                return "it cannot be reached"
            answer = client.write_register(int(register), value, device_id=self.unit)
            if answer.isError():
                return f"it answers exception {getattr(answer, 'exception_code', 0):02d}"
            back = client.read_holding_registers(int(register), count=1, device_id=self.unit)
            if back.isError() or not back.registers:
                return "it cannot be read back"
            return "" if back.registers[0] == value else f"it kept {back.registers[0]}"
        except ModbusException as error:
            return f"no answer ({type(error).__name__})"
        except OSError as error:
            return str(error.strerror or error)
        finally:
            client.close()
