"""How some of the observatory's fans are wired; circuits that begin as every circuit does."""

from __future__ import annotations

import copy
from typing import Any

from fenwit.core.circuit.wiring.templates import template


def _begun(key: str, title: str) -> dict[str, Any]:
    found = template(key)
    assert found is not None
    return copy.deepcopy(found.document) | {"title": title}


HALL = _begun("relay-centre", "Visitor hall: low all day, high when the thermostat calls")
"""Leads not found yet: the taps bear the names of the circuit"""
WARM_ROOM = _begun("ec-exchange", "Warm room: the tapped blower makes way for an EC motor")
GALLERY = _begun("timer-two-way", "Gallery: timer beside the door, two speeds")
"""As it was meant; on the wall two wires are swapped"""
