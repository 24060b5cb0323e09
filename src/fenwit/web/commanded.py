"""What is known of a fan with electronics of its own: as it is typed, as it is stored, and as the core takes it."""

from __future__ import annotations

import re
from dataclasses import replace
from typing import Annotated, Any

from pydantic import BaseModel, Field

from fenwit.core import quantity as q
from fenwit.core.desk.typed import PLAIN, SHARE, UNITS, read_number
from fenwit.core.errors import InputError
from fenwit.core.job.analog import AnalogSheet, OpenInput
from fenwit.core.job.commanded import CommandSheet, OpenLead
from fenwit.core.motor.duty import Below
from fenwit.core.quantity import Dimension
from fenwit.core.regulator.direct_supply import LimitKind
from fenwit.store import codec
from fenwit.web.fields import Typed


class AnalogEdit(BaseModel):
    """What is known of the terminals for a control voltage, as typed; likewise."""

    off_v: Typed | None = None
    on_v: Typed | None = None
    low_v: Typed | None = None
    high_v: Typed | None = None
    sense: Annotated[str, Field(pattern="^(unknown|normal|inverse)$")] | None = None
    pairs: Annotated[str, Field(max_length=2000)] | None = None
    """Volts and speed off its data sheet, one pair a line"""
    open_input: OpenInput | None = None
    input_ohm: Typed | None = None
    reference_v: Typed | None = None
    reference_a: Typed | None = None
    aux_v: Typed | None = None
    aux_a: Typed | None = None
    lag_s: Typed | None = None
    ramp_per_s: Typed | None = None
    leakage_a: Typed | None = None
    wait_min: Typed | None = None


class CommandEdit(BaseModel):
    """What is known of the fan, as typed; what is left out stays as it is, an empty text forgets it."""

    slowest_rpm: Typed | None = None
    least_duty: Typed | None = None
    full_duty: Typed | None = None
    below: Below | None = None
    sense: Annotated[str, Field(pattern="^(unknown|normal|inverted)$")] | None = None
    open_lead: OpenLead | None = None
    start_duty: Typed | None = None
    pairs: Annotated[str, Field(max_length=2000)] | None = None
    """Duty and speed off its data sheet, one pair a line"""
    pulses_per_rev: Typed | None = None
    low_hz: Typed | None = None
    high_hz: Typed | None = None
    pull_up_ohm: Typed | None = None
    pull_up_v: Typed | None = None
    lead_load_f: Typed | None = None
    zero_speed_v: Typed | None = None
    start_v: Typed | None = None
    hold_v: Typed | None = None
    start_ratio: Typed | None = None
    current_exponent: Typed | None = None
    most_v: Typed | None = None
    fans: Typed | None = None
    groups: Typed | None = None
    shutters: bool | None = None
    limit_a: Typed | None = None
    limit_kind: LimitKind | None = None
    lead_m: Typed | None = None
    lead_mm2: Typed | None = None
    analog: AnalogEdit | None = None


_ANALOG: dict[str, Dimension] = {
    "off_v": UNITS["v"], "on_v": UNITS["v"], "low_v": UNITS["v"], "high_v": UNITS["v"], "input_ohm": UNITS["ohm"],
    "reference_v": UNITS["v"], "reference_a": UNITS["a"], "aux_v": UNITS["v"], "aux_a": UNITS["a"],
    "lag_s": UNITS["s"], "ramp_per_s": SHARE, "leakage_a": UNITS["a"], "wait_min": PLAIN,
}  # fmt: skip
_TURNED = {"unknown": None, "normal": False, "inverse": True}
_ONE: dict[str, Dimension] = {
    "slowest_rpm": UNITS["rpm"], "least_duty": SHARE, "full_duty": SHARE, "start_duty": SHARE, "pulses_per_rev": PLAIN,
    "low_hz": UNITS["hz"], "high_hz": UNITS["hz"], "pull_up_ohm": UNITS["ohm"], "pull_up_v": UNITS["v"],
    "lead_load_f": UNITS["f"],
    "zero_speed_v": UNITS["v"], "start_v": UNITS["v"], "hold_v": UNITS["v"], "start_ratio": PLAIN,
    "current_exponent": PLAIN,
    "most_v": UNITS["v"], "limit_a": UNITS["a"], "lead_m": UNITS["m"], "lead_mm2": UNITS["mm2"], "fans": PLAIN,
    "groups": PLAIN,
}  # fmt: skip
_DUTIES = ("least_duty", "full_duty", "start_duty")
_COUNTS = ("fans", "groups")
_SENSE = {"unknown": None, "normal": False, "inverted": True}


def duty_of(field: str, text: str) -> float:
    """A duty as typed: per cent, or a share; a bare number above 1 is per cent. Raises InputError."""
    value = read_number(field, text, SHARE).value
    share = value / 100 if value > 1 and "%" not in text else value
    if not 0 <= share <= 1:
        raise InputError(field, text, "0 to 100 %", "a duty lies between 0 and 100 %")
    return share


def read_commanded(now: CommandSheet, edit: CommandEdit) -> CommandSheet:
    """A changed sheet. Raises InputError with the field as the form calls it."""
    changes: dict[str, Any] = {}
    usual = CommandSheet()
    for name, value in edit.model_dump(exclude_unset=True).items():
        if value is None:
            continue
        field = f"commanded.{name}"
        if name == "analog":
            assert edit.analog is not None
            changes["analog"] = _analog(now.analog, edit.analog)
        elif name == "sense":
            changes["inverted"] = _SENSE[value]
        elif name == "pairs":
            changes |= _pairs(value)
        elif name not in _ONE:
            changes[name] = getattr(edit, name)
        elif not value.strip():
            changes[name] = getattr(usual, name)
        elif name in _DUTIES:
            changes[name] = duty_of(field, value)
        else:
            number = read_number(field, value, _ONE[name], bare_scales=True).value
            if name in _COUNTS:
                if number != round(number):
                    raise InputError(field, value, "whole numbers", "these are counted")
                number = round(number)
            changes[name] = number
    try:
        return replace(now, **changes)
    except InputError as error:
        name = {"duties": "pairs", "speeds_rpm": "pairs"}.get(error.field, error.field)
        raise InputError(f"commanded.{name}", error.value, error.allowed, error.reason) from None


def _analog(now: AnalogSheet, edit: AnalogEdit) -> AnalogSheet:
    changes: dict[str, Any] = {}
    usual = AnalogSheet()
    for name, value in edit.model_dump(exclude_unset=True).items():
        if value is None:
            continue
        field = f"commanded.analog.{name}"
        if name == "sense":
            changes["inverse"] = _TURNED[value]
        elif name == "pairs":
            changes |= _volt_pairs(value)
        elif name == "open_input":
            changes[name] = edit.open_input
        elif not value.strip():
            changes[name] = getattr(usual, name)
        else:
            text = value.strip()
            if name == "wait_min":
                text = text.removesuffix("min").strip()
            if name == "ramp_per_s":
                text = text.removesuffix("/s").strip()
            changes[name] = read_number(field, text, _ANALOG[name], bare_scales=True).value
    try:
        return replace(now, **changes)
    except InputError as error:
        name = {"volts": "pairs", "speeds_rpm": "pairs"}.get(error.field, error.field)
        raise InputError(f"commanded.analog.{name}", error.value, error.allowed, error.reason) from None


def _volt_pairs(text: str) -> dict[str, Any]:
    volts, speeds = [], []
    for i, line in enumerate((row for row in text.splitlines() if row.strip()), start=1):
        parts = re.sub(r"\s+(?=V|rpm)", "", line).replace(";", " ").replace(",", " ").split()
        if len(parts) != 2:
            raise InputError(
                "commanded.analog.pairs", line[:60], "volts and rpm on each line, like 5 1430",
                f"line {i}: two numbers are wanted",
            )  # fmt: skip
        try:
            volts.append(read_number("volts", parts[0], UNITS["v"]).value)
            speeds.append(read_number("rpm", parts[1], UNITS["rpm"]).value)
        except InputError as error:
            raise InputError(
                "commanded.analog.pairs", line[:60], error.allowed, f"line {i}: {error.reason}"
            ) from None
    return {"volts": tuple(volts), "speeds_rpm": tuple(speeds)}


def _typed_analog(sheet: AnalogSheet) -> AnalogEdit:
    usual = AnalogSheet()
    texts: dict[str, Any] = {
        "sense": next(k for k, v in _TURNED.items() if v is sheet.inverse), "open_input": sheet.open_input,
        "pairs": "\n".join(f"{v:.4g} V  {n:.5g}" for v, n in zip(sheet.volts, sheet.speeds_rpm, strict=True)),
    }  # fmt: skip
    for name, dimension in _ANALOG.items():
        value = getattr(sheet, name)
        if value is None or value == getattr(usual, name):
            texts[name] = ""
        elif name == "ramp_per_s":
            texts[name] = f"{100 * value:.4g} %"
        elif dimension is PLAIN:
            texts[name] = f"{value:g} min"
        else:
            texts[name] = q.show(value, dimension, 4).strip()
    return AnalogEdit(**texts)


def _pairs(text: str) -> dict[str, Any]:
    duties, speeds = [], []
    for i, line in enumerate((row for row in text.splitlines() if row.strip()), start=1):
        # A unit may stand apart from its number.
        parts = re.sub(r"\s+(?=%|rpm)", "", line).replace(";", " ").replace(",", " ").split()
        if len(parts) != 2:
            raise InputError(
                "commanded.pairs",
                line[:60],
                "duty and rpm on each line, like 40 930",
                f"line {i}: two numbers are wanted",
            )
        try:
            duties.append(duty_of("duty", parts[0]))
            speeds.append(read_number("rpm", parts[1], UNITS["rpm"]).value)
        except InputError as error:
            raise InputError(
                "commanded.pairs", line[:60], error.allowed, f"line {i}: {error.reason}"
            ) from None
    return {"duties": tuple(duties), "speeds_rpm": tuple(speeds)}


def typed_commanded(sheet: CommandSheet) -> CommandEdit:
    """A sheet as it stands in its inputs."""
    usual = CommandSheet()
    texts: dict[str, Any] = {
        "below": sheet.below, "sense": next(k for k, v in _SENSE.items() if v is sheet.inverted),
        "open_lead": sheet.open_lead,
        "pairs": "\n".join(f"{100 * d:.4g} %  {n:.5g}" for d, n in zip(sheet.duties, sheet.speeds_rpm, strict=True)),
        "shutters": sheet.shutters, "limit_kind": sheet.limit_kind, "analog": _typed_analog(sheet.analog),
    }  # fmt: skip
    for name, dimension in _ONE.items():
        value = getattr(sheet, name)
        if value is None or (
            value == getattr(usual, name) and name not in ("fans", "groups", "pulses_per_rev")
        ):
            texts[name] = ""
        elif name in _DUTIES:
            texts[name] = f"{100 * value:.4g} %"
        else:
            texts[name] = q.show(value, dimension, 4).strip() if dimension is not PLAIN else f"{value:g}"
    return CommandEdit(**texts)


def dumped(sheet: CommandSheet) -> dict[str, Any]:
    """A sheet as a document; empty where nothing was typed."""
    return {} if sheet.empty else codec.dump(sheet)
