"""Points worth adding to the dead tests, as they are offered."""

from __future__ import annotations

import json
from functools import lru_cache

from pydantic import BaseModel

from fenwit.core.circuit.wiring.document import read_wiring
from fenwit.core.circuit.wiring.offers import offers
from fenwit.core.circuit.wiring.words import fault_words
from fenwit.core.errors import InputError


class OfferShown(BaseModel):
    """Two points worth adding, and the faults they would show."""

    first: str
    second: str
    shows: list[str]


class OffersShown(BaseModel):
    """What the listed points show, what could be added, and what no ohm with the power off can show."""

    shown: int
    offers: list[OfferShown]
    never: list[str]
    why_not: str
    """Why nothing was looked through"""


@lru_cache(maxsize=32)
def offered(document: str) -> OffersShown:
    """Points that show what no listed test shows; the same circuit is not looked through twice."""
    try:
        found = offers(read_wiring(json.loads(document)))
    except InputError as error:
        return OffersShown(shown=0, offers=[], never=[], why_not=f"{error.reason}; {error.allowed}")
    return OffersShown(
        shown=found.shown,
        offers=[
            OfferShown(first=o.points[0], second=o.points[1], shows=[fault_words(f) for f in o.shows])
            for o in found.offers
        ],
        never=[fault_words(f) for f in found.never], why_not="",
    )  # fmt: skip
