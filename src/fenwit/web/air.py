"""Air of a job: as it is typed, as it is stored, and as the core takes it."""

from __future__ import annotations

import re
from dataclasses import replace
from typing import Annotated, Any

from pydantic import BaseModel, Field

from fenwit.core.desk.typed import PLAIN, SHARE, UNITS, read_number, with_shared_unit
from fenwit.core.errors import InputError
from fenwit.core.job.air import AirSheet
from fenwit.core.quantity import Dimension
from fenwit.report.csvfiles import read_csv, with_unit
from fenwit.store import codec
from fenwit.web.fields import Typed

Row = Annotated[str, Field(max_length=1000)]
"""Numbers parted by commas"""
MOST_POINTS = 100


class AirEdit(BaseModel):
    """What is known of the air, as typed; what is left out stays as it is, an empty text forgets it."""

    altitude_m: Typed | None = None
    inlet_c: Typed | None = None
    humidity: Typed | None = None
    curve: Annotated[str, Field(max_length=8000)] | None = None
    """One point a line: flow, pressure and, where it is known, shaft power; a first line may name the units"""
    curve_rpm: Typed | None = None
    curve_density_kg_m3: Typed | None = None
    system_flow_m3_s: Typed | None = None
    system_pressure_pa: Typed | None = None
    fixed_pressure_pa: Typed | None = None
    parallel: Typed | None = None
    series: Typed | None = None
    full_flow_m3_s: Typed | None = None
    heat_w: Typed | None = None
    full_level_db: Typed | None = None
    level_at_m: Typed | None = None
    level_fans: Typed | None = None
    motor_poles: Typed | None = None
    blades: Typed | None = None
    resonances_hz: Row | None = None
    least_flow_m3_s: Typed | None = None
    rise_low_k: Typed | None = None
    rise_high_k: Typed | None = None


_LISTS = {
    "flows_m3_s": UNITS["m3_s"],
    "pressures_pa": UNITS["pa"],
    "shafts_w": UNITS["w"],
    "resonances_hz": UNITS["hz"],
}
_ONE: dict[str, Dimension] = {
    "altitude_m": UNITS["m"], "inlet_c": UNITS["c"], "humidity": SHARE, "curve_rpm": UNITS["rpm"],
    "curve_density_kg_m3": UNITS["kg_m3"], "system_flow_m3_s": UNITS["m3_s"], "system_pressure_pa": UNITS["pa"],
    "fixed_pressure_pa": UNITS["pa"], "full_flow_m3_s": UNITS["m3_s"], "heat_w": UNITS["w"], "full_level_db": UNITS["db"],
    "level_at_m": UNITS["m"], "least_flow_m3_s": UNITS["m3_s"],
    "rise_low_k": UNITS["k"], "rise_high_k": UNITS["k"],
}  # fmt: skip
_COUNTS = ("parallel", "series", "blades", "motor_poles", "level_fans")
_USUAL = ("fixed_pressure_pa", "parallel", "series", "curve_density_kg_m3")
"""Left blank where they are as usual"""


def read_air(now: AirSheet, edit: AirEdit) -> AirSheet:
    """A changed sheet; a curve that is not whole yet is refused beside the row that lacks.

    Raises InputError with the field as the form calls it.
    """
    changes: dict[str, Any] = {}
    usual = AirSheet()
    for name, text in edit.model_dump(exclude_unset=True).items():
        if text is None:
            continue
        if name == "curve":
            changes |= _curve(text) if text.strip() else _NO_CURVE
        elif not text.strip():
            changes[name] = getattr(usual, name)
        elif name in _LISTS:
            changes[name] = _list(name, text)
        elif name in _COUNTS:
            value = read_number(f"air.{name}", text, PLAIN).value
            if value != round(value):
                raise InputError(f"air.{name}", text, "whole numbers", "these are counted")
            changes[name] = round(value)
        else:
            changes[name] = read_number(f"air.{name}", text, _ONE[name]).value
    try:
        return replace(now, **changes)
    except InputError as error:
        field = _FORM.get(error.field, error.field)
        raise InputError(f"air.{field}", error.value, error.allowed, error.reason) from None


_NO_CURVE: dict[str, Any] = {"flows_m3_s": (), "pressures_pa": (), "shafts_w": ()}
_FORM = {
    "flows_m3_s": "curve", "pressures_pa": "curve", "shafts_w": "curve", "density_kg_m3": "curve_density_kg_m3",
    "temperature_c": "inlet_c", "relative_humidity": "humidity",
}  # fmt: skip


def _list(name: str, text: str) -> tuple[float, ...]:
    parts = [p.strip() for p in text.replace(";", ",").split(",")]
    if any(not p for p in parts):
        raise InputError(f"air.{name}", text[:60], "numbers parted by commas", "a number is missing")
    if len(parts) > MOST_POINTS:
        raise InputError(f"air.{name}", len(parts), f"up to {MOST_POINTS}", "too many points")
    return tuple(read_number(f"air.{name}", p, _LISTS[name]).value for p in with_shared_unit(parts))


def typed_air(sheet: AirSheet) -> AirEdit:
    """A sheet as it stands in its inputs."""
    shown: dict[str, str] = {"curve": _curve_text(sheet)}
    for name in _LISTS:
        shown[name] = ", ".join(f"{v:.6g}" for v in getattr(sheet, name))
    for name in (*_ONE, *_COUNTS):
        value = getattr(sheet, name)
        usual = getattr(AirSheet(), name)
        blank = value is None or (value == usual and name in _USUAL)
        unit = "" if name in _COUNTS or name == "humidity" else f" {_ONE[name].unit}"
        number = (
            f"{100 * value:.4g} %" if name == "humidity" and value is not None else f"{value or 0:.6g}{unit}"
        )
        shown[name] = "" if blank else number
    return AirEdit(**shown)


def dumped(sheet: AirSheet) -> dict[str, Any]:
    """A sheet as a document; empty where nothing was typed."""
    return {} if sheet.empty else codec.dump(sheet)


_HEADS = {"flow": "flows_m3_s", "pressure": "pressures_pa", "shaft": "shafts_w", "power": "shafts_w"}
_IN = {"flows_m3_s": UNITS["m3_s"], "pressures_pa": UNITS["pa"], "shafts_w": UNITS["w"]}
_USUAL_HEAD = "flow (m3/h);pressure (Pa);shaft (W)"
_HOURLY = 3600.0


def _curve_text(sheet: AirSheet) -> str:
    if not sheet.flows_m3_s:
        return ""
    columns = [[f"{f * _HOURLY:.6g}" for f in sheet.flows_m3_s], [f"{p:.6g}" for p in sheet.pressures_pa]]
    columns += [[f"{w:.6g}" for w in sheet.shafts_w]] if sheet.shafts_w else []
    heads = "; ".join(_USUAL_HEAD.split(";")[: len(columns)])
    return "\n".join([heads, *("; ".join(row) for row in zip(*columns, strict=True))])


def _curve(text: str) -> dict[str, Any]:
    """Points of a curve, one a line, under a heading or without."""
    lines = [line for line in text.splitlines() if line.strip()]
    if not re.search("[a-df-zA-DF-Z]", lines[0]):
        sign = max(";\t,", key=lines[0].count)
        lines = [_USUAL_HEAD.replace(";", sign), *lines]
    try:
        sheet = read_csv("\n".join(lines).encode())
    except InputError as error:
        raise InputError("air.curve", error.value, "0; 430 on each line", error.reason) from None
    names = [h.name for h in sheet.headings]
    for needed in ("flow", "pressure"):
        if needed not in names:
            raise InputError(
                "air.curve",
                "; ".join(names)[:60],
                "flow; pressure; shaft",
                f"there is no column “{needed}”",
            )
    if len(sheet.rows) > MOST_POINTS:
        raise InputError("air.curve", len(sheet.rows), f"up to {MOST_POINTS} points", "too many points")
    found: dict[str, list[float]] = {name: [] for name in _IN}
    for i, row in enumerate(sheet.rows, start=1):
        for heading, cell in zip(sheet.headings, row, strict=False):
            name = _HEADS.get(heading.name)
            if name is None or not cell.strip():
                continue
            try:
                found[name].append(read_number(name, with_unit(cell, heading.unit), _IN[name]).value)
            except InputError as error:
                raise InputError("air.curve", cell, error.allowed, f"point {i}: {error.reason}") from None
    return {name: tuple(values) for name, values in found.items()}


def curve_from_csv(data: bytes) -> AirEdit:
    """A fan curve from a file, as it would be typed. Raises InputError for a file of another kind."""
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = data.decode("latin-1")
    if not text.strip() or "\0" in text:
        raise InputError("file", "", "rows of flow and pressure", "there is no text in this file")
    sheet = read_air(AirSheet(), AirEdit(curve=text[:8000]))
    return AirEdit(curve=_curve_text(sheet))
