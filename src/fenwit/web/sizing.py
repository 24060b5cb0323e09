"""What is decided before sizing, and the acceptance profile: typed, stored, and as the core takes them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from fenwit.core import methods
from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.size.merits import PRICES, WISHES, Choosing, Price, Wish
from fenwit.core.size.profile import Profile
from fenwit.core.size.sizing import Sizing
from fenwit.store import codec
from fenwit.store.database import Database
from fenwit.web.fields import DAYS, HOURS
from fenwit.web.models import ChoosingEdit, ProfileEdit, ProfileField, SizingEdit
from fenwit.web.parts import class_of, read_capacitor, read_switch, typed_capacitor, typed_switch


def sizing_of(stored: Mapping[str, Any], wanted: int) -> Sizing:
    """What the search of a job works with; a switch never picked has as many positions as there are steps."""
    sizing = codec.load(Sizing, stored)
    if "switch" not in stored:
        sizing = replace(sizing, switch=replace(sizing.switch, positions=max(2, min(6, wanted or 4))))
    return sizing


def read_sizing(
    database: Database, stored: Mapping[str, Any], edit: SizingEdit, wanted: int
) -> dict[str, Any]:
    """A changed sizing as a document. Raises InputError."""
    now = sizing_of(stored, wanted)
    changes: dict[str, Any] = {}
    if edit.switch is not None:
        changes["switch"] = read_switch(edit.switch, now.switch)
    if edit.part_class is not None:
        changes["part_class"] = class_of("sizing.part_class", edit.part_class)
    for name in ("most", "series", "enclosed", "method"):
        if getattr(edit, name) is not None:
            changes[name] = getattr(edit, name)
    if edit.method is not None and edit.method not in methods.REGULATIONS:
        sized = ", ".join(m.value for m in methods.REGULATIONS)
        reason = "no parts are sized for this method yet"
        raise InputError("sizing.method", edit.method.value, sized, reason)
    if edit.fixed is not None:
        changes["fixed"] = tuple(read_capacitor(database, "sizing.fixed", c) for c in edit.fixed)
    if edit.choosing is not None:
        changes["choosing"] = read_choosing(now.choosing, edit.choosing)
    sizing = replace(now, **changes)
    document = codec.dump(sizing)
    if edit.switch is None and "switch" not in stored:
        del document["switch"]
    return document


def typed_sizing(sizing: Sizing) -> SizingEdit:
    """A sizing as it stands in its inputs."""
    return SizingEdit(
        switch=typed_switch(sizing.switch),
        part_class=sizing.part_class.value,
        most=sizing.most,
        series=sizing.series,
        enclosed=sizing.enclosed,
        method=sizing.method,
        fixed=[typed_capacitor(c) for c in sizing.fixed],
        choosing=typed_choosing(sizing.choosing),
    )


_BAND = q.Dimension("band", "", ("dB", "W", "×", "%"), "", 0.0, 1000.0, "like 3 or 10 %")
_COST = q.Dimension("cost", "", (), "", 0.0, 1e5, "like 2.4")
_LITRES = q.Dimension("litres", "l", ("l", "L"), "", 0.0, 100.0, "like 0.035")


def read_choosing(now: Choosing, edit: ChoosingEdit) -> Choosing:
    """What matters, as typed. Raises InputError beside hours, days, a band or a price."""
    bands, prices = dict(now.bands), dict(now.prices)
    for wish, text in (edit.bands or {}).items():
        if not text:
            bands.pop(wish, None)
            continue
        value = q.parse(f"band.{wish.value}", text, _BAND)
        share = WISHES[wish].relative or wish is Wish.THD
        bands[wish] = value / 100 if share else value
    for piece, price in (edit.prices or {}).items():
        usual = PRICES[piece]
        if not price.cost and not price.litres:
            prices.pop(piece, None)
            continue
        cost = q.parse(f"price.{piece.value}", price.cost, _COST) if price.cost else usual.cost
        litres = q.parse(f"litres.{piece.value}", price.litres, _LITRES) if price.litres else usual.litres
        prices[piece] = Price(usual.name, cost, litres)
    return Choosing(
        now.wishes if edit.wishes is None else tuple(edit.wishes),
        now.hours_a_day
        if edit.hours is None
        else tuple(q.parse(f"hours[{i}]", text, HOURS) for i, text in enumerate(edit.hours)),
        now.days_a_year if edit.days is None else q.parse("days", edit.days, DAYS),
        tuple(bands.items()),
        tuple(prices.items()),
    )


def typed_choosing(choosing: Choosing) -> ChoosingEdit:
    """What matters, as it stands in its inputs."""
    return ChoosingEdit(
        wishes=list(choosing.wishes),
        hours=[f"{h:g}" for h in choosing.hours_a_day],
        days=f"{choosing.days_a_year:g}",
    )


_LIMITS = (
    ("lowest_share", "lowest step, at most", "55 %"),
    ("start_margin", "torque to spare at rest", "15 %"),
    ("evenness", "differences, off even by", "35 %"),
    ("motor_voltage", "motor volts, of rated", "105 %"),
    ("mains", "mains, ±", "10 %"),
    ("doubt", "cases that may not start", "5 %"),
)


def profile_of(stored: Mapping[str, Any]) -> Profile:
    """The acceptance profile of a job."""
    return codec.load(Profile, stored)


def typed_profile(profile: Profile) -> list[ProfileField]:
    """The limits of a profile as they stand in their inputs."""
    return [
        ProfileField(field=f, label=label, text=f"{100 * getattr(profile, f):g} %", hint=hint)
        for f, label, hint in _LIMITS
    ]


_PER_CENT = replace(q.RATIO, high=500.0)


def read_profile(stored: Mapping[str, Any], edit: ProfileEdit) -> dict[str, Any]:
    """A changed profile as a document. Raises InputError beside the limit."""
    now = profile_of(stored)
    changes: dict[str, Any] = {}
    for name, _, _ in _LIMITS:
        text = getattr(edit, name)
        if text is not None:
            changes[name] = q.parse(f"profile.{name}", text, _PER_CENT) / 100
    for name in ("bands_apart", "starts_low"):
        if getattr(edit, name) is not None:
            changes[name] = getattr(edit, name)
    return codec.dump(replace(now, **changes))
