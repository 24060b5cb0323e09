"""Records as they were signed by earlier versions: read as today's are, their drawings taken as data."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from fenwit.report.picture import read_svg
from fenwit.report.record import Record, read_record

_WAVES = "Mains dashed, motor volts dark, line current in copper, over the angle from the mains’ rising zero."
_OLD = ("waves", "knob_scale", "firing")


def stored_record(record: Mapping[str, Any]) -> Record:
    """A record as any version stored or sent it.

    Parameters
    ----------
    record : mapping
        As it was stored [-]

    Returns
    -------
    Record
        The record; a drawing that was kept as markup has become strokes and words [-]

    Raises
    ------
    ValueError
        Anything in it that no record holds; the message says what.
    """
    return read_record(_upgraded(record))


def _upgraded(record: Mapping[str, Any]) -> dict[str, Any]:
    found = dict(record)
    if isinstance(found.get("steps"), list | tuple):
        found["steps"] = [_with_unit(s) for s in found["steps"]]
    if isinstance(found.get("schematic"), str):
        found["schematic"] = read_svg(found["schematic"])
    if "annexes" in found:
        if isinstance(found["annexes"], list | tuple):
            found["annexes"] = [_annex(a) for a in found["annexes"]]
        return found
    waves, scale, lines = (found.pop(name, None) for name in _OLD)
    chopped = bool(waves or scale or lines)
    sheets = (
        ("Waveforms", _WAVES, waves, ()),
        ("Scale of the knob", "", scale, ()),
        ("What the program keeps to", "", "", lines or ()),
    )
    found["annexes"] = [
        _annex({"title": title, "note": note, "drawing": drawing or "", "lines": told})
        for title, note, drawing, told in sheets
        if drawing or told
    ]
    found["joins_name"] = "fires at" if chopped else "in the line"
    found["where_name"] = "set at" if chopped else "contacts"
    found["lugs_note"] = "" if chopped else "Contacts are named pole.position."
    found["steps"] = [_step(s) for s in found.get("steps", ())]
    found["parts"] = [_part(p) for p in found.get("parts", ())]
    return found


def _with_unit(step: Any) -> Any:
    """Line current was written without its unit, under a heading that had it."""
    amps = step.get("amps") if isinstance(step, Mapping) else None
    return step | {"amps": f"{amps} mA"} if isinstance(amps, str) and amps[-1:].isdigit() else step


def _annex(annex: Any) -> Any:
    if not isinstance(annex, Mapping) or not isinstance(annex.get("drawing"), str):
        return annex
    found = {k: v for k, v in annex.items() if k != "true_size"}
    return found | {"drawing": read_svg(annex["drawing"])}


def _part(part: Any) -> Any:
    return (
        {"kind": "fuse" if part.get("name") == "F" else "other", **part}
        if isinstance(part, Mapping)
        else part
    )


def _step(step: Any) -> Any:
    if not isinstance(step, Mapping):
        return step
    found = {k: v for k, v in step.items() if k not in ("setting", "contacts")}
    setting, contacts = step.get("setting", ""), step.get("contacts", "")
    joins = step.get("joins", "")
    return found | {"where": setting or contacts, "label": f"{joins}, {setting}" if setting else joins}
