"""Instruments that answer in lines of text: a PWM fan with its tachometer, a logger of temperatures (docs/devices.md).

    asked     R <channel>*CCCC        like  R speed*1F2A
    answered  <channel> <number> <unit>*CCCC
CRC-16 over all before the star: reflected CCITT, 0x8408, begun with 0xFFFF, four hex digits.
"""

from __future__ import annotations

import os
import select
import socket
import termios
import time
import tty
from collections.abc import Mapping
from contextlib import closing
from typing import Protocol

from fenwit.bench.taken import LOST_S, Channel, Taken, absurd, channel_of, judged, lost

LONGEST = 120
"""Of a line [byte]"""


def crc(text: bytes) -> int:
    """CRC-16, reflected CCITT [-]"""
    found = 0xFFFF
    for byte in text:
        found ^= byte
        for _ in range(8):
            found = (found >> 1) ^ 0x8408 if found & 1 else found >> 1
    return found


def framed(text: str) -> bytes:
    """A line with its check, ready to be sent [-]"""
    body = text.encode("ascii", "replace")
    return body + f"*{crc(body):04X}\n".encode()


def unframed(line: bytes) -> str | None:
    """The text of a line whose check holds; None for any other [-]"""
    body, star, check = line.strip().rpartition(b"*")
    if not star or len(line) > LONGEST:
        return None
    try:
        return body.decode("ascii") if int(check, 16) == crc(body) else None
    except (UnicodeDecodeError, ValueError):
        return None


class Wire(Protocol):
    """What lines travel on."""

    def fileno(self) -> int: ...

    def send(self, data: bytes) -> None:
        """Send all of it. Raises OSError."""

    def close(self) -> None: ...


class _Tcp:
    def __init__(self, host: str, port: int) -> None:
        self._socket = socket.create_connection((host, port), timeout=LOST_S)

    def fileno(self) -> int:
        return self._socket.fileno()

    def send(self, data: bytes) -> None:
        self._socket.sendall(data)

    def close(self) -> None:
        self._socket.close()


class _Port:
    def __init__(self, path: str) -> None:
        self._file = os.open(path, os.O_RDWR | os.O_NOCTTY | os.O_NONBLOCK)
        tty.setraw(self._file)
        termios.tcflush(self._file, termios.TCIOFLUSH)

    def fileno(self) -> int:
        return self._file

    def send(self, data: bytes) -> None:
        os.write(self._file, data)

    def close(self) -> None:
        os.close(self._file)


FAN_CHANNELS = (
    Channel("speed_rpm", "speed", "rpm", 0, 30000, 5),
    Channel("lead_duty", "duty on the lead", "%", 0, 100, 0.5, 1),
)
LOGGER_CHANNELS = (
    Channel("sink_c", "heat sink", "°C", -40, 150, 0.5, 1),
    Channel("ambient_c", "air that comes in", "°C", -40, 80, 0.5, 1),
)
_ASKED = {"speed_rpm": "speed", "lead_duty": "duty", "sink_c": "sink", "ambient_c": "ambient"}


class LineInstrument:
    """An instrument by its address: a serial port, or host and port of a converter."""

    def __init__(
        self,
        name: str,
        kind: str,
        channels: tuple[Channel, ...],
        *,
        host: str = "",
        port: int = 0,
        serial: str = "",
    ) -> None:
        self.name, self.kind = name, kind
        self.channels: Mapping[str, Channel] = {c.quantity: c for c in channels}
        self._host, self._port, self._serial = host, port, serial

    def _open(self) -> Wire:
        return _Port(self._serial) if self._serial else _Tcp(self._host, self._port)

    def take(self, quantity: str) -> Taken:
        """Ask for one quantity now."""
        channel = channel_of(self, quantity)
        asked = _ASKED[quantity]
        where = f"channel {asked}"
        begun = time.monotonic()
        try:
            with closing(self._open()) as wire:
                wire.send(framed(f"R {asked}"))
                line = _line(wire, begun + LOST_S)
        except OSError as error:
            return lost(self, channel, where, time.monotonic() - begun, str(error.strerror or error))
        took = time.monotonic() - begun
        if line is None:
            return lost(self, channel, where, took, f"none within {LOST_S:g} s")
        text = unframed(line)
        if text is None:
            return absurd(self, channel, where, took, "its line is damaged: the check does not hold")
        parts = text.split()
        if len(parts) != 3 or parts[0] != asked:
            return absurd(self, channel, where, took, f"it answers {text[:40]!r}, not what it was asked for")
        if parts[1] in ("-", "open", "short"):
            return absurd(self, channel, where, took, f"it says {parts[1]}: nothing is connected there")
        try:
            value = float(parts[1])
        except ValueError:
            return absurd(self, channel, where, took, f"{parts[1][:20]!r} is no number")
        return judged(self, channel, where, value, took)


def _line(wire: Wire, until: float) -> bytes | None:
    """A line, as it comes; None where none does in time."""
    got = b""
    while (left := until - time.monotonic()) > 0:
        ready, _, _ = select.select([wire.fileno()], [], [], left)
        if not ready:
            return None
        try:
            piece = os.read(wire.fileno(), 256)
        except BlockingIOError:
            continue
        if not piece:
            return None
        got += piece
        if b"\n" in got or len(got) > LONGEST:
            return got.partition(b"\n")[0]
    return None
