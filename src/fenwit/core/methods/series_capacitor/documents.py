"""How a bank was stored in earlier versions: what an older document lacked is filled as it was meant then."""

from __future__ import annotations

from typing import Any

FORM = 1
TOLD_BY = frozenset({"capacitors", "patterns"})


def _untagged(document: dict[str, Any]) -> dict[str, Any]:
    """Before documents named their method: keys left out had these values."""
    switch = {
        "positions": 4,
        "poles": 2,
        "series_pairs": True,
        "make_before_break": False,
        "rated_current_a": 6.0,
        "rated_voltage_v": 250.0,
        "make_current_a": 80.0,
    }
    part = {
        "part_class": "x2-film",
        "rated_v": 305.0,
        "tolerance": 0.10,
        "measured_f": None,
        "shelf_id": None,
    }
    bank: dict[str, Any] = {"bleed_ohm": [], "limiter_ohm": [], "fuse_a": None, "enclosed": False}
    return (
        bank
        | document
        | {
            "switch": switch | document.get("switch", {}),
            "capacitors": [part | c for c in document["capacitors"]],
        }
    )


UPGRADES = {0: _untagged}
