"""Devices that the settings name, and what becomes of their answers."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import UTC, datetime
from functools import lru_cache

from fenwit.bench.names import devices_of, networks_of
from fenwit.bench.taken import Device, Outcome, Taken, absurd
from fenwit.core.errors import InputError
from fenwit.store import answers
from fenwit.store.database import Database
from fenwit.web.settings import BadSetting, value


@lru_cache(maxsize=1)
def _named(devices: str, networks: str) -> Mapping[str, Device]:
    return devices_of(devices, networks_of(networks))


def named_devices() -> Mapping[str, Device]:
    """Devices by name, as the settings have them; none by default. Raises BadSetting."""
    try:
        return _named(value("FENWIT_DEVICES"), value("FENWIT_DEVICE_NETWORKS"))
    except InputError as error:
        raise BadSetting(
            f"FENWIT_DEVICES: {error.value}: {error.reason} (allowed: {error.allowed})"
        ) from None


def device_of(name: str) -> Device:
    """A device by its name. Raises InputError for one the settings do not name."""
    found = named_devices()
    if name not in found:
        raise InputError(
            "device", name, ", ".join(found) or "none is named in the settings", "no such device"
        )
    return found[name]


def ask(
    database: Database, job_id: int, name: str, quantity: str, who: str, most_per_s: float | None
) -> Taken:
    """Ask a device and keep what it answered beside the readings.

    Parameters
    ----------
    database : Database
        Where answers are kept [-]
    job_id : int
        For which job [-]
    name : str
        Of the device [-]
    quantity : str
        What is asked [-]
    who : str
        Who asks [-]
    most_per_s : float, optional
        How fast it can change at all; left out: not known [unit/s]

    Returns
    -------
    Taken
        Only one whose outcome is a value may become a reading [-]

    Raises
    ------
    InputError
        A device that is not named, or that does not tell this.
    """
    device = device_of(name)
    found = device.take(quantity)
    before = answers.last_value(database, job_id, name, quantity)
    if (
        found.outcome is Outcome.VALUE
        and before is not None
        and before.value is not None
        and most_per_s is not None
    ):
        gone = (datetime.now(UTC) - before.at).total_seconds()
        assert found.value is not None
        moved = abs(found.value - before.value)
        if gone < _RECENT_S and moved > most_per_s * (gone + _SLACK_S):
            words = f"{found.text}, {moved:.0f} away from {gone:.1f} s before: faster than it can change; not believed"
            found = absurd(device, found.channel, found.where, found.took_s, words)
    answers.add(
        database, job_id, device=name, quantity=quantity, outcome=found.outcome.value, value=found.value,
        words=found.words, took_s=found.took_s, who=who,
    )  # fmt: skip
    return found


_RECENT_S, _SLACK_S = 10.0, 0.5
