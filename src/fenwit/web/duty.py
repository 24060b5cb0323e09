"""Tap per duty between what is typed and what the core takes, for every method that has taps."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from pydantic import BaseModel, Field

from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.job.machine import MachineFan
from fenwit.core.job.steps import Step
from fenwit.core.methods.common.duty import DutySheet, duties
from fenwit.web.fields import Typed

HEAT = q.Dimension("watts", "W", ("W", "watt", "watts"), "mk", 10.0, 1e6, "like 9k4, 9.4 kW or 9400")
RISE = q.Dimension("kelvins", "K", ("K", "°C", "C"), "", 1.0, 150.0, "like 22 or 22 K")
ALTITUDE = q.Dimension(
    "metres above the sea", "m", ("m", "metre", "metres"), "k", -400.0, 6000.0, "like 820 or 820 m",
    others=(("ft", 0.3048, 0.0),),
)  # fmt: skip


class DutyEdit(BaseModel):
    """What was read while it heats, as typed; as much of it as is known."""

    heat: Typed = ""
    return_air: Typed = ""
    supply_air: Typed = ""
    at_step: int = Field(default=1, ge=1, le=20, strict=True)
    rise_from: Typed = ""
    rise_to: Typed = ""
    altitude: Typed = ""
    """Empty: at sea level"""


class DutyStepShown(BaseModel):
    """One step's air and rise."""

    step: int
    joins: str
    flow_text: str
    rise_text: str
    verdict: str
    holds: bool


class DutyPick(BaseModel):
    """Which step for a duty."""

    duty: str
    step: int | None
    words: str


class DutiesShown(BaseModel):
    """Air of every step and which one for which duty; or why nothing can be said."""

    steps: list[DutyStepShown]
    picks: list[DutyPick]
    flow_text: str
    note: str


NO_DUTY = DutiesShown(steps=[], picks=[], flow_text="", note="")


def _given(field: str, text: str, dimension: q.Dimension) -> float | None:
    return q.parse(field, text, dimension) if text else None


def read_duty(edit: DutyEdit | None) -> DutySheet | None:
    """A typed sheet; None where nothing is given. Raises InputError beside the field."""
    if edit is None or edit == DutyEdit():
        return None
    try:
        return DutySheet(
            _given("heat", edit.heat, HEAT),
            _given("return_air", edit.return_air, q.TEMPERATURE),
            _given("supply_air", edit.supply_air, q.TEMPERATURE),
            edit.at_step,
            _given("rise_from", edit.rise_from, RISE),
            _given("rise_to", edit.rise_to, RISE),
            q.parse("altitude", edit.altitude, ALTITUDE) if edit.altitude else 0.0,
        )
    except InputError as refused:
        field = _FIELDS.get(refused.field, refused.field)
        raise InputError(field, refused.value, refused.allowed, refused.reason, refused.meant) from refused


_FIELDS = {
    "heat_w": "heat", "return_c": "return_air", "supply_c": "supply_air", "rise_low_k": "rise_from",
    "rise_high_k": "rise_to", "altitude_m": "altitude",
}  # fmt: skip


def typed_duty(sheet: DutySheet | None) -> DutyEdit:
    """A sheet as it would be typed."""
    if sheet is None:
        return DutyEdit()

    def typed(value: float | None, unit: str) -> str:
        return "" if value is None else f"{value:g} {unit}"

    return DutyEdit(
        heat=typed(sheet.heat_w, "W"),
        return_air=typed(sheet.return_c, "°C"),
        supply_air=typed(sheet.supply_c, "°C"),
        at_step=sheet.at_step,
        rise_from=typed(sheet.rise_low_k, "K"),
        rise_to=typed(sheet.rise_high_k, "K"),
        altitude=typed(sheet.altitude_m, "m") if sheet.altitude_m else "",
    )


def duties_shown(fan: MachineFan, sheet: DutySheet | None, steps: Sequence[Step[Any]]) -> DutiesShown:
    """Every step's air and rise in words."""
    if sheet is None or sheet.read is None:
        return NO_DUTY
    try:
        found = duties(fan, sheet, steps)
    except InputError as refused:
        return DutiesShown(
            steps=[], picks=[], flow_text="", note=f"{refused.reason}: wants {refused.allowed}."
        )
    return DutiesShown(
        steps=[
            DutyStepShown(
                step=s.number,
                joins=s.joins,
                flow_text=f"{_rounded(3600 * s.flow_m3_s[0])}–{_rounded(3600 * s.flow_m3_s[1])} m³/h",
                rise_text=f"{s.rise_k[0]:.0f}–{s.rise_k[1]:.0f} K",
                verdict=s.rise_verdict,
                holds=s.holds,
            )
            for s in found.steps
        ],
        picks=[DutyPick(duty=duty.value, step=step, words=words) for duty, step, words in found.picks],
        flow_text=found.flow_text,
        note="",
    )


def _rounded(cubic_metres: float) -> str:
    return f"{10 * round(cubic_metres / 10):d}"
