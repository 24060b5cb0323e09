"""Records as they were signed before every method brought its own annexes: read as today's are."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

_WAVES = "Mains dashed, motor volts dark, line current in copper, over the angle from the mains’ rising zero."
_OLD = ("waves", "knob_scale", "firing")


def upgraded(record: Mapping[str, Any]) -> dict[str, Any]:
    """A stored record with the fields that today's has.

    Parameters
    ----------
    record : mapping
        As it was stored [-]

    Returns
    -------
    dict
        The same; a record of today comes back as it is [-]
    """
    found = dict(record)
    if "annexes" in found:
        return found
    waves, scale, lines = (found.pop(name, None) for name in _OLD)
    chopped = bool(waves or scale or lines)
    sheets = (
        ("Waveforms", _WAVES, waves, False, ()),
        ("Scale of the knob", "", scale, True, ()),
        ("What the program keeps to", "", "", False, lines or ()),
    )
    found["annexes"] = [
        {"title": title, "note": note, "drawing": drawing or "", "true_size": true_size, "lines": list(told)}
        for title, note, drawing, true_size, told in sheets
        if drawing or told
    ]
    found["joins_name"] = "fires at" if chopped else "in the line"
    found["where_name"] = "set at" if chopped else "contacts"
    found["lugs_note"] = "" if chopped else "Contacts are named pole.position."
    found["steps"] = [_step(s) for s in found.get("steps", ())]
    found["parts"] = [
        {"kind": "fuse" if p.get("name") == "F" else "other", **p} for p in found.get("parts", ())
    ]
    return found


def _step(step: Mapping[str, Any]) -> dict[str, Any]:
    found = {k: v for k, v in step.items() if k not in ("setting", "contacts")}
    setting, contacts = step.get("setting", ""), step.get("contacts", "")
    joins = step.get("joins", "")
    return found | {"where": setting or contacts, "label": f"{joins}, {setting}" if setting else joins}
