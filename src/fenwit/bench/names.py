"""Devices by the names that the settings give them; nothing else is ever contacted, and by default there is none.

NAME=modbus-tcp://ADDRESS:PORT/UNIT · NAME=modbus-rtu:///dev/PORT?unit=1&baud=19200
NAME=fan-line://ADDRESS:PORT or NAME=fan-line:///dev/PORT · NAME=logger-line:…
"""

from __future__ import annotations

import ipaddress
import re
from collections.abc import Mapping
from urllib.parse import parse_qs, urlsplit

from fenwit.bench.lines import FAN_CHANNELS, LOGGER_CHANNELS, LineInstrument
from fenwit.bench.modbus import ModbusFan
from fenwit.bench.taken import Device
from fenwit.core.errors import InputError

_NAME = re.compile(r"[A-Za-z0-9][A-Za-z0-9 ._-]{0,39}")
_PORT = re.compile(r"/dev/[A-Za-z0-9/_.-]{1,80}")
MOST = 50

Network = ipaddress.IPv4Network | ipaddress.IPv6Network


def networks_of(text: str) -> tuple[Network, ...]:
    """Networks whose addresses may be contacted, like ``192.168.7.0/24``. Raises InputError."""
    found = []
    for part in (p.strip() for p in text.split(",") if p.strip()):
        try:
            network = ipaddress.ip_network(part)
        except ValueError as error:
            raise InputError("networks", part, "like 192.168.7.0/24", str(error)) from None
        if not (network.is_private or network.is_loopback):
            raise InputError(
                "networks", part, "networks of one's own", "this is no address of a local network"
            )
        found.append(network)
    return tuple(found)


def devices_of(text: str, networks: tuple[Network, ...]) -> Mapping[str, Device]:
    """Devices by name. Raises InputError for an address that is none, or that may not be contacted."""
    found: dict[str, Device] = {}
    for part in (p.strip() for p in text.split(";") if p.strip()):
        name, equals, address = (x.strip() for x in part.partition("="))
        if not equals or not _NAME.fullmatch(name):
            raise InputError(
                "devices",
                part[:60],
                "NAME=modbus-tcp://192.168.7.20:502/1",
                "a name and an address are wanted",
            )
        if name in found:
            raise InputError("devices", name, "each name once", "two devices bear one name")
        found[name] = _device(name, address, networks)
        if len(found) > MOST:
            raise InputError("devices", len(found), f"up to {MOST}", "too many")
    return found


def _device(name: str, address: str, networks: tuple[Network, ...]) -> Device:
    try:
        url = urlsplit(address)
        port = url.port
    except ValueError as error:
        raise InputError(
            "devices", address[:60], "like modbus-tcp://192.168.7.20:502/1", str(error)
        ) from None
    serial = ""
    host = ""
    if url.netloc:
        host = _allowed(url.hostname or "", networks)
    else:
        if not _PORT.fullmatch(url.path):
            raise InputError("devices", address[:60], "a port like /dev/ttyUSB0", "no such kind of port")
        serial = url.path
    query = parse_qs(url.query, keep_blank_values=True)
    if url.scheme == "modbus-tcp" and host:
        unit = _whole(url.path.strip("/") or "1", 1, 247)
        return ModbusFan(name, unit, host=host, port=port or 502, simulated="simulated" in query)
    if url.scheme == "modbus-rtu" and serial:
        unit = _whole(query.get("unit", ["1"])[0], 1, 247)
        return ModbusFan(
            name, unit, serial=serial, baud=_whole(query.get("baud", ["19200"])[0], 300, 1_000_000)
        )
    if url.scheme in ("fan-line", "logger-line") and (serial or port):
        fan = url.scheme == "fan-line"
        kind = "PWM fan with tachometer" if fan else "temperature logger"
        channels = FAN_CHANNELS if fan else LOGGER_CHANNELS
        return LineInstrument(name, kind, channels, host=host, port=port or 0, serial=serial)
    kinds = "modbus-tcp, modbus-rtu, fan-line, logger-line"
    raise InputError("devices", address[:60], kinds, "no such kind of device, or its address is missing")


def _allowed(host: str, networks: tuple[Network, ...]) -> str:
    try:
        address = ipaddress.ip_address(host)
    except ValueError:
        raise InputError("devices", host[:60], "an address, not a name", "names are not looked up") from None
    if not any(address in n for n in networks):
        raise InputError(
            "devices", host, "addresses of FENWIT_DEVICE_NETWORKS", "this address may not be contacted"
        )
    return str(address)


def _whole(text: str, low: int, high: int) -> int:
    if not text.isdigit() or not low <= int(text) <= high:
        raise InputError("devices", text[:20], f"{low} to {high}", "no such number here")
    return int(text)
