"""What a device answers when it is asked: a value that may become a reading, or why it may not."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import UTC, datetime
from enum import StrEnum
from typing import Protocol

from fenwit.core.errors import InputError

LATE_S = 2.0
"""An answer older than this tells of another moment [s]"""
LOST_S = 4.0
"""After so long nobody waits any more [s]"""


class Outcome(StrEnum):
    """What became of asking."""

    VALUE = "value"
    LATE = "late"
    LOST = "lost"
    MOVING = "moving"
    """It has not come to rest yet: a step is not judged before"""
    ABSURD = "absurd"
    """Outside what the instrument can show, or not what was asked for"""
    REFUSED = "refused"


@dataclass(frozen=True)
class Channel:
    """One thing a device can be asked for."""

    quantity: str
    """As readings are filed [-]"""
    name: str
    unit: str
    low: float
    high: float
    """What it can show [unit]"""
    doubt: float
    """Of a reading, in its unit [unit]"""
    digits: int = 0
    """Behind the point [-]"""


@dataclass(frozen=True)
class Taken:
    """One answer; only a value becomes a reading, the others are logged beside it."""

    outcome: Outcome
    channel: Channel
    device: str
    where: str
    """In the device, like input register 0 [-]"""
    took_s: float
    words: str
    value: float | None = None
    at: datetime | None = None

    @property
    def text(self) -> str:
        """The value as it would be typed; empty where there is none [-]"""
        if self.value is None:
            return ""
        return f"{self.value:.{self.channel.digits}f} {self.channel.unit}"

    @property
    def source(self) -> str:
        """Where a reading comes from, in words [-]"""
        return f"{self.device}, {self.where}"[:120]


class Device(Protocol):
    """A device that can be asked."""

    name: str
    kind: str
    """In words [-]"""
    channels: Mapping[str, Channel]
    """By quantity [-]"""

    def take(self, quantity: str) -> Taken:
        """Ask for one quantity now. Raises InputError for one it has not."""


def channel_of(device: Device, quantity: str) -> Channel:
    """A channel by its quantity. Raises InputError for one the device has not."""
    found = device.channels.get(quantity)
    if found is None:
        raise InputError(
            "quantity", quantity, ", ".join(device.channels), f"{device.name} does not tell this"
        )
    return found


def judged(device: Device, channel: Channel, where: str, value: float, took_s: float) -> Taken:
    """A value by its range and its age: good, absurd or late."""
    at = datetime.now(UTC)
    shown = f"{value:.{channel.digits}f} {channel.unit}"
    if not channel.low <= value <= channel.high:
        words = f"{shown} lies outside {channel.low:g} to {channel.high:g} {channel.unit}: not believed"
        return Taken(Outcome.ABSURD, channel, device.name, where, took_s, words, value, at)
    if took_s > LATE_S:
        words = f"{shown} came after {took_s:.1f} s: it tells of another moment"
        return Taken(Outcome.LATE, channel, device.name, where, took_s, words, value, at)
    return Taken(Outcome.VALUE, channel, device.name, where, took_s, shown, value, at)


def moving(device: Device, channel: Channel, where: str, value: float, took_s: float, why: str) -> Taken:
    """A value on its way to another."""
    return Taken(Outcome.MOVING, channel, device.name, where, took_s, why, value, datetime.now(UTC))


def lost(device: Device, channel: Channel, where: str, took_s: float, why: str) -> Taken:
    """No answer came."""
    return Taken(
        Outcome.LOST, channel, device.name, where, took_s, f"no answer: {why}", None, datetime.now(UTC)
    )


def absurd(device: Device, channel: Channel, where: str, took_s: float, why: str) -> Taken:
    """An answer came that cannot be read."""
    return Taken(Outcome.ABSURD, channel, device.name, where, took_s, why, None, datetime.now(UTC))


def refused(device: Device, channel: Channel, where: str, took_s: float, why: str) -> Taken:
    """The device would not tell."""
    return Taken(Outcome.REFUSED, channel, device.name, where, took_s, why, None, datetime.now(UTC))
