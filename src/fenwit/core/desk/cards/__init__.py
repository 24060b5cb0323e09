"""Every card of the Desk, in the order they lie there."""

from __future__ import annotations

from collections.abc import Mapping

from fenwit.core.desk import Card
from fenwit.core.desk.cards import air, control, direct, electric, heat, marking, timers

CARDS: Mapping[str, Card] = {
    c.key: c
    for c in (
        *electric.CARDS,
        *direct.CARDS,
        *timers.CARDS,
        *control.CARDS,
        *air.CARDS,
        *heat.CARDS,
        *marking.CARDS,
    )
}
