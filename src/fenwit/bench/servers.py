"""What simulated devices answer on: Modbus over TCP and over a pseudo-terminal, lines of text over either."""

from __future__ import annotations

import asyncio
import contextlib
import os
import select
import socket
import threading
import time
import tty
from collections.abc import Callable, Iterator

from pymodbus.constants import ExcCodes
from pymodbus.framer import FramerType
from pymodbus.server import ModbusSerialServer, ModbusTcpServer
from pymodbus.simulator import DataType, SimData, SimDevice

from fenwit.bench.ecfan import EcFan
from fenwit.bench.lines import framed, unframed
from fenwit.bench.registers import Holding, Input, Simulated

_READ_HOLDING, _READ_INPUT, _WRITE_ONE, _WRITE_MANY = 3, 4, 6, 16


def _device(fan: EcFan, unit: int) -> SimDevice:
    async def touched(
        function: int,
        start: int,
        address: int,
        count: int,
        registers: list[int],
        given: list[int] | list[bool] | None,
    ) -> ExcCodes | None:
        fan.heard()
        if function in (_WRITE_ONE, _WRITE_MANY) and given is not None:
            for i, value in enumerate(given):
                if not fan.set(address + i, int(value)):
                    return ExcCodes.ILLEGAL_VALUE
        by_hand = function != _READ_INPUT and start >= min(Simulated)
        source = fan.bench() if by_hand else fan.inputs() if function == _READ_INPUT else fan.outputs()
        first = start - min(Simulated) if by_hand else start
        for i in range(len(registers)):
            if first + i < len(source):
                registers[i] = source[first + i]
        return None

    unused = [SimData(0, values=False, datatype=DataType.BITS)]
    return SimDevice(
        unit,
        simdata=(
            unused, unused,
            [
                SimData(0, values=[0] * len(Holding), datatype=DataType.REGISTERS),
                SimData(min(Simulated), values=[0] * len(Simulated), datatype=DataType.REGISTERS),
            ],
            [SimData(0, values=[0] * len(Input), datatype=DataType.REGISTERS)],
        ),
        action=touched,
    )  # fmt: skip


def _hurt(fan: EcFan) -> Callable[[bool, bytes], bytes]:
    """What happens to packets on their way out."""

    def packet(sending: bool, data: bytes) -> bytes:
        if not sending:
            return data
        if fan.loses():
            return b""
        if fan.faults.late_s > 0:
            time.sleep(fan.faults.late_s)
        if fan.faults.wrong_unit and len(data) > 7:
            data = data[:6] + bytes([(data[6] + 1) % 247]) + data[7:]
        return data

    return packet


class _Loop:
    """Asyncio in a thread of its own."""

    def __init__(self, make: Callable[[], ModbusTcpServer | ModbusSerialServer]) -> None:
        self._make, self._ready = make, threading.Event()
        self._loop = asyncio.new_event_loop()
        self._server: ModbusTcpServer | ModbusSerialServer | None = None
        self._thread = threading.Thread(target=self._run, daemon=True)
        self._thread.start()
        self._ready.wait(10)

    def _run(self) -> None:
        asyncio.set_event_loop(self._loop)

        async def serve() -> None:
            self._server = self._make()
            await self._server.serve_forever(background=True)
            self._ready.set()

        self._loop.run_until_complete(serve())
        self._loop.run_forever()
        self._loop.close()

    def stop(self) -> None:
        """End it."""

        async def end() -> None:
            if self._server is not None:
                await self._server.shutdown()  # type: ignore[no-untyped-call]

        with contextlib.suppress(Exception):
            asyncio.run_coroutine_threadsafe(end(), self._loop).result(5)
        self._loop.call_soon_threadsafe(self._loop.stop)
        self._thread.join(5)


@contextlib.contextmanager
def modbus_tcp(fan: EcFan, unit: int = 1, port: int = 0) -> Iterator[int]:
    """A fan on Modbus TCP on loopback; yields its port."""
    if not port:
        with socket.socket() as free:
            free.bind(("127.0.0.1", 0))
            port = free.getsockname()[1]
    at = port
    loop = _Loop(
        lambda: ModbusTcpServer([_device(fan, unit)], address=("127.0.0.1", at), trace_packet=_hurt(fan))
    )
    try:
        yield port
    finally:
        loop.stop()


@contextlib.contextmanager
def wired() -> Iterator[tuple[str, str]]:
    """Two pseudo-terminals joined end to end: what is written on one is read on the other."""
    masters, names = [], []
    slaves = []
    for _ in range(2):
        master, slave = os.openpty()
        tty.setraw(slave)
        tty.setraw(master)
        masters.append(master)
        # Kept open here, so that a side that closes does not end the line.
        slaves.append(slave)
        names.append(os.ttyname(slave))
    done = threading.Event()

    def pump() -> None:
        while not done.is_set():
            ready, _, _ = select.select(masters, [], [], 0.05)
            for m in ready:
                with contextlib.suppress(OSError):
                    os.write(masters[1 - masters.index(m)], os.read(m, 4096))

    thread = threading.Thread(target=pump, daemon=True)
    thread.start()
    try:
        yield names[0], names[1]
    finally:
        done.set()
        thread.join(2)
        for file in (*masters, *slaves):
            with contextlib.suppress(OSError):
                os.close(file)


@contextlib.contextmanager
def modbus_rtu(fan: EcFan, unit: int = 1) -> Iterator[str]:
    """A fan on Modbus RTU over a pseudo-terminal; yields the port to ask it on."""
    with wired() as (own, theirs):
        loop = _Loop(
            lambda: ModbusSerialServer(
                [_device(fan, unit)], framer=FramerType.RTU, port=own, baudrate=19200, trace_packet=_hurt(fan)
            )
        )
        try:
            yield theirs
        finally:
            loop.stop()


Answers = Callable[[str], str | None]
"""What a device says of a channel, as ``<number> <unit>``; None: it says nothing"""


def _reply(line: bytes, answers: Answers) -> bytes:
    text = unframed(line)
    if text is None or not text.startswith("R "):
        return b""
    channel = text[2:].strip()
    said = answers(channel)
    return b"" if said is None else framed(f"{channel} {said}")


@contextlib.contextmanager
def line_pty(answers: Answers) -> Iterator[str]:
    """An instrument of lines on a pseudo-terminal; yields the port to ask it on."""
    with wired() as (own, theirs):
        file = os.open(own, os.O_RDWR | os.O_NOCTTY)
        tty.setraw(file)
        done = threading.Event()

        def serve() -> None:
            got = b""
            while not done.is_set():
                ready, _, _ = select.select([file], [], [], 0.05)
                if not ready:
                    continue
                with contextlib.suppress(OSError):
                    got += os.read(file, 256)
                while b"\n" in got:
                    line, _, got = got.partition(b"\n")
                    reply = _reply(line, answers)
                    if reply:
                        os.write(file, reply)

        thread = threading.Thread(target=serve, daemon=True)
        thread.start()
        try:
            yield theirs
        finally:
            done.set()
            thread.join(2)
            os.close(file)


@contextlib.contextmanager
def line_tcp(answers: Answers, port: int = 0) -> Iterator[int]:
    """An instrument of lines on loopback; yields its port."""
    listener = socket.create_server(("127.0.0.1", port))
    listener.settimeout(0.05)
    done = threading.Event()

    def serve() -> None:
        while not done.is_set():
            try:
                connection, _ = listener.accept()
            except TimeoutError:
                continue
            except OSError:
                return
            with connection, contextlib.suppress(OSError):
                connection.settimeout(2)
                line = connection.recv(256)
                reply = _reply(line, answers)
                if reply:
                    connection.sendall(reply)
                else:
                    # Nothing is said: whoever asks waits until it is tired of it.
                    done.wait(0.01)
                    connection.recv(1)

    thread = threading.Thread(target=serve, daemon=True)
    thread.start()
    try:
        yield listener.getsockname()[1]
    finally:
        done.set()
        thread.join(3)
        listener.close()
