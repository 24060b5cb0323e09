"""How a phase-angle control was stored in earlier versions: what an older document lacked is filled as it was meant."""

from __future__ import annotations

from typing import Any

FORM = 1
TOLD_BY = frozenset({"firing_deg"})


def _untagged(document: dict[str, Any]) -> dict[str, Any]:
    """Before documents named their method: keys left out had these values, and a kick was called otherwise."""
    control = {"fired_by": "table", "network": None, "snubbed": True, "filtered": True, "fused": True}
    unit = {
        "edge": "middle",
        "lag_us": 0.0,
        "pulse": "short",
        "opto_current_a": 1.0,
        "logic_v": 5.0,
        "logic_a": 0.010,
    }
    detector = {
        "resistor_ohm": 94e3,
        "output_current_a": 100e-6,
        "ctr_low": 0.6,
        "ctr_high": 2.0,
        "diode_v": 2.6,
    }
    triac = {
        "rms_a": 4.0,
        "surge_a": 30.0,
        "off_state_v": 800.0,
        "gate_a": 0.010,
        "holding_a": 0.010,
        "latching_a": 0.020,
        "threshold_v": 0.9,
        "slope_ohm": 0.10,
        "case_kw": 3.0,
        "junction_c": 125.0,
        "dvdt_v_us": 10.0,
    }
    network = {
        "breakover_v": 32.0,
        "breakback_v": 10.0,
        "across_ohm": None,
        "second_ohm": None,
        "second_f": None,
        "taper": "linear",
    }
    found = control | {k: v for k, v in document.items() if k != "starts_full"}
    given = document.get("unit", {})
    return found | {
        "kick": document.get("starts_full", False),
        "triac": triac | document.get("triac", {}),
        "network": network | document["network"] if document.get("network") else None,
        "unit": unit | given | {"detector": detector | given.get("detector", {})},
    }


UPGRADES = {0: _untagged}
