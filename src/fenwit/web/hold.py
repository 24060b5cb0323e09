"""What a fan holds by itself: as it is typed, as it is stored, and as the core takes it."""

from __future__ import annotations

import re
from collections.abc import Callable
from itertools import pairwise
from typing import Annotated, Any, TypeVar

from pydantic import BaseModel, Field

from fenwit.core import quantity as q
from fenwit.core.desk.typed import PLAIN, SHARE, UNITS, read_number
from fenwit.core.errors import InputError
from fenwit.core.job.hold import (
    Divider,
    HeatSensor,
    HeatSheet,
    Holds,
    HoldSheet,
    Knobs,
    LoopSensor,
    LoopSheet,
    Reaction,
    SinkSheet,
)
from fenwit.core.quantity import Dimension
from fenwit.core.regulator.loop import Damper, Held
from fenwit.core.regulator.thermal import MOST_PIECES, MOST_SINKS, Curve, Profile, Sink
from fenwit.report.csvfiles import read_csv, with_unit
from fenwit.store import codec
from fenwit.web.fields import Typed

T = TypeVar("T")
_SECONDS = UNITS["s"]


class LoopEdit(BaseModel):
    """A loop as typed."""

    held: Held = Held.FLOW
    set_point: Typed = ""
    gain: Typed = "0.5"
    integral: Typed = "4 s"
    sample: Typed = "0.5 s"
    sensor_lag: Typed = "1 s"
    least: Typed = "10 %"
    clamped: bool = True
    reversed: bool = False
    damper_factor: Typed = "2.5"
    damper_at: Typed = "10 s"
    damper_back: Typed = ""
    total: Typed = "2 min"
    range_low: Typed = "2 V"
    range_high: Typed = "10 V"
    low: Typed = "0 Pa"
    high: Typed = "300 Pa"
    sensor_supply: Typed = "24 V"
    sensor_takes: Typed = "20 mA"
    sensor_error: Typed = "1 %"
    cone: Typed = ""
    reaction: Reaction = Reaction.FULL


Lines = Annotated[str, Field(max_length=20_000)]


class SinkEdit(BaseModel):
    """One heat sink as typed."""

    name: Typed = ""
    natural: Typed = "2.5 K/W"
    forced: Typed = "0.6 K/W"
    exponent: Typed = "0.6"
    capacity: Typed = "200 J/K"
    device: Typed = "0 K/W"
    lag: Typed = "0 s"
    offset: Typed = "0 K"
    limit: Typed = ""
    load: Lines = "10 W 3600 s"
    """One piece a line: power and how long"""


class HeatEdit(BaseModel):
    """A thermal curve as typed."""

    start: Typed = "32 °C"
    full: Typed = "55 °C"
    hysteresis: Typed = "3 K"
    least: Typed = "30 %"
    kick: Typed = "1 s"
    sinks: Annotated[list[SinkEdit], Field(min_length=1, max_length=MOST_SINKS)] = [SinkEdit()]
    ambient: Typed = "25 °C"
    warmest: Typed = ""
    total: Typed = "1 h"
    one_each: bool = False
    turned: bool = False
    start_low: Typed = "18 °C"
    start_high: Typed = "48 °C"
    full_low: Typed = "38 °C"
    full_high: Typed = "75 °C"
    sensor: HeatSensor = HeatSensor.NTC
    r25: Typed = "10k"
    beta: Typed = "3950"
    series: Typed = "10k"
    supply: Typed = "5 V"
    zero: Typed = "0.5 V"
    per_k: Typed = "10 mV"
    bits: Annotated[int, Field(ge=8, le=16, strict=True)] = 10
    reaction: Reaction = Reaction.FULL


class HoldEdit(BaseModel):
    """What the fan holds; what is left out stays as it is."""

    holds: Holds | None = None
    loop: LoopEdit | None = None
    heat: HeatEdit | None = None


def _number(field: str, text: str, dimension: Dimension, empty: float | None = None) -> float:
    if not text.strip() and empty is not None:
        return empty
    return read_number(field, text, dimension, True).value


def _share(field: str, text: str) -> float:
    value = _number(field, text, SHARE)
    return value / 100 if value > 1 and "%" not in text else value


def _maybe(field: str, text: str, dimension: Dimension) -> float | None:
    return _number(field, text, dimension) if text.strip() else None


def _named(prefix: str, form: dict[str, str], work: Callable[[], T]) -> T:
    try:
        return work()
    except InputError as error:
        field = form.get(error.field, error.field)
        raise InputError(prefix + field, error.value, error.allowed, error.reason, error.meant) from None


def read_hold(now: HoldSheet, edit: HoldEdit) -> HoldSheet:
    """A changed sheet. Raises InputError with the field as the form calls it."""
    loop = (
        now.loop if edit.loop is None else _named("hold.loop.", _LOOP, lambda: _loop(edit.loop or LoopEdit()))
    )
    heat = now.heat if edit.heat is None else _heat(edit.heat)
    return HoldSheet(now.holds if edit.holds is None else edit.holds, loop, heat)


_LOOP = {
    "gain_kp": "gain", "integral_s": "integral", "sample_s": "sample", "sensor_lag_s": "sensor_lag",
    "minimum_speed": "least", "total_s": "total", "damper_at_s": "damper_at", "damper_back_at_s": "damper_back",
    "range_low_v": "range_low", "range_high_v": "range_high", "value_low": "low", "value_high": "high",
    "supply_v": "sensor_supply", "takes_a": "sensor_takes", "error_share": "sensor_error", "cone_factor": "cone",
}  # fmt: skip
_HEAT = {
    "start_c": "start", "full_c": "full", "hysteresis_k": "hysteresis", "minimum_speed": "least", "kick_s": "kick",
    "ambient_c": "ambient", "warmest_c": "warmest", "total_s": "total", "start_low_c": "start_low",
    "start_high_c": "start_high", "full_low_c": "full_low", "full_high_c": "full_high", "r25_ohm": "r25",
    "beta_k": "beta", "series_ohm": "series", "supply_v": "supply", "zero_v": "zero", "per_k_v": "per_k",
}  # fmt: skip
_SINK = {
    "natural_k_w": "natural", "forced_k_w": "forced", "flow_exponent": "exponent", "capacity_j_k": "capacity",
    "device_k_w": "device", "sensor_lag_s": "lag", "sensor_offset_k": "offset", "limit_c": "limit", "powers_w": "load",
    "durations_s": "load",
}  # fmt: skip


def _loop(edit: LoopEdit) -> LoopSheet:
    goal: float | None = None
    if edit.set_point.strip():
        if edit.held is Held.SPEED:
            goal = _share("set_point", edit.set_point)
        elif edit.held is Held.PRESSURE:
            goal = _number("set_point", edit.set_point, UNITS["pa"])
        else:
            # Of a flow a bare number means m³/h, as it is read on site.
            goal = _number("set_point", edit.set_point, UNITS["m3_h"]) / 3600
    sensor = LoopSensor(
        _number("range_low_v", edit.range_low, UNITS["v"]), _number("range_high_v", edit.range_high, UNITS["v"]),
        _number("value_low", edit.low, UNITS["pa"]), _number("value_high", edit.high, UNITS["pa"]),
        _number("supply_v", edit.sensor_supply, UNITS["v"]), _number("takes_a", edit.sensor_takes, UNITS["a"]),
        _share("error_share", edit.sensor_error), _maybe("cone_factor", edit.cone, PLAIN),
    )  # fmt: skip
    damper = Damper(
        _number("damper_factor", edit.damper_factor, PLAIN), _number("damper_at_s", edit.damper_at, _SECONDS),
        _maybe("damper_back_at_s", edit.damper_back, _SECONDS),
    )  # fmt: skip
    return LoopSheet(
        edit.held, goal, _number("gain_kp", edit.gain, PLAIN), _number("integral_s", edit.integral, _SECONDS),
        _number("sample_s", edit.sample, _SECONDS), _number("sensor_lag_s", edit.sensor_lag, _SECONDS),
        _share("minimum_speed", edit.least), edit.clamped, edit.reversed, damper,
        _number("total_s", edit.total, _SECONDS),
        sensor, edit.reaction,
    )  # fmt: skip


def _heat(edit: HeatEdit) -> HeatSheet:
    celsius = UNITS["c"]
    sinks = tuple(
        _named(f"hold.heat.sinks[{i}].", _SINK, lambda one=one: _sink(one))  # type: ignore[misc]
        for i, one in enumerate(edit.sinks)
    )

    def whole() -> HeatSheet:
        curve = Curve(
            _number("start_c", edit.start, celsius), _number("full_c", edit.full, celsius),
            _number("hysteresis_k", edit.hysteresis, UNITS["k"]), _share("minimum_speed", edit.least),
            _number("kick_s", edit.kick, _SECONDS),
        )  # fmt: skip
        knobs = Knobs(
            _number("start_low_c", edit.start_low, celsius), _number("start_high_c", edit.start_high, celsius),
            _number("full_low_c", edit.full_low, celsius), _number("full_high_c", edit.full_high, celsius),
        )  # fmt: skip
        divider = Divider(
            edit.sensor, _number("r25_ohm", edit.r25, UNITS["ohm"]),
            _number("beta_k", edit.beta.removesuffix("K").strip(), PLAIN),
            _number("series_ohm", edit.series, UNITS["ohm"]),
            _number("supply_v", edit.supply, UNITS["v"]), _number("zero_v", edit.zero, UNITS["v"]),
            _number("per_k_v", edit.per_k, UNITS["v"]), edit.bits,
        )  # fmt: skip
        return HeatSheet(
            curve, sinks, _number("ambient_c", edit.ambient, celsius), _maybe("warmest_c", edit.warmest, celsius),
            _number("total_s", edit.total, _SECONDS), edit.one_each, edit.turned, knobs, divider, edit.reaction,
        )  # fmt: skip

    return _named("hold.heat.", _HEAT, whole)


def _sink(one: SinkEdit) -> SinkSheet:
    per = UNITS["k_w"]
    sink = Sink(
        _number("natural_k_w", one.natural, per), _number("forced_k_w", one.forced, per),
        _number("flow_exponent", one.exponent, PLAIN), _number("capacity_j_k", one.capacity, UNITS["j_k"]),
        _number("device_k_w", one.device, per), _number("sensor_lag_s", one.lag, _SECONDS),
        _number("sensor_offset_k", one.offset, UNITS["k"]),
    )  # fmt: skip
    return SinkSheet(sink, profile_of(one.load), one.name, _maybe("limit_c", one.limit, UNITS["c"]))


_GAP = re.compile(r"\s+(?=(?:W|mW|kW|s|min|h|ms)\b)")


def profile_of(text: str) -> Profile:
    """A load typed one piece a line: power and how long. Raises InputError with the line."""
    powers, lengths = [], []
    rows = [row for row in text.replace(";", "\n").splitlines() if row.strip()]
    if len(rows) > MOST_PIECES:
        raise InputError("load", len(rows), f"up to {MOST_PIECES} lines", "too many pieces")
    for i, row in enumerate(rows, start=1):
        parts = _GAP.sub("", row).replace(",", " ").split()
        if len(parts) != 2:
            raise InputError(
                "load", row[:60], "watts and seconds, like 40 W 240 s", f"line {i}: two numbers are wanted"
            )
        try:
            powers.append(read_number("load", parts[0], UNITS["w"]).value)
            lengths.append(read_number("load", parts[1], _SECONDS).value)
        except InputError as error:
            raise InputError("load", row[:60], error.allowed, f"line {i}: {error.reason}") from None
    return Profile(tuple(powers), tuple(lengths))


# ---------------------------------------------------------------- as typed


def typed_hold(sheet: HoldSheet) -> HoldEdit:
    """A sheet as it stands in its inputs."""
    x, h = sheet.loop, sheet.heat
    goal = ""
    if x.set_point is not None:
        goal = {
            Held.FLOW: f"{3600 * x.set_point:.5g} m³/h",
            Held.PRESSURE: f"{x.set_point:.5g} Pa",
            Held.SPEED: f"{100 * x.set_point:.4g} %",
        }[x.held]
    s, d = x.sensor, x.damper
    loop = LoopEdit(
        held=x.held, set_point=goal, gain=f"{x.gain_kp:.4g}", integral=f"{x.integral_s:.4g} s",
        sample=f"{x.sample_s:.4g} s", sensor_lag=f"{x.sensor_lag_s:.4g} s", least=f"{100 * x.least:.4g} %",
        clamped=x.clamped, reversed=x.reversed, damper_factor=f"{d.factor:.4g}", damper_at=f"{d.at_s:.6g} s",
        damper_back="" if d.back_at_s is None else f"{d.back_at_s:.6g} s", total=f"{x.total_s:.6g} s",
        range_low=f"{s.range_low_v:g} V", range_high=f"{s.range_high_v:g} V", low=f"{s.low_pa:g} Pa",
        high=f"{s.high_pa:g} Pa", sensor_supply=f"{s.supply_v:g} V", sensor_takes=q.show(s.takes_a, UNITS["a"], 3),
        sensor_error=f"{100 * s.error_share:.3g} %", cone="" if s.cone_factor is None else f"{s.cone_factor:.5g}",
        reaction=x.reaction,
    )  # fmt: skip
    c, k, v = h.curve, h.knobs, h.divider
    heat = HeatEdit(
        start=f"{c.start_c:.4g} °C", full=f"{c.full_c:.4g} °C", hysteresis=f"{c.hysteresis_k:.4g} K",
        least=f"{100 * c.least:.4g} %", kick=f"{c.kick_s:.4g} s", sinks=[_typed_sink(one) for one in h.sinks],
        ambient=f"{h.ambient_c:.4g} °C", warmest="" if h.warmest_c is None else f"{h.warmest_c:.4g} °C",
        total=f"{h.total_s:.6g} s", one_each=h.one_each, turned=h.turned, start_low=f"{k.start_low_c:g} °C",
        start_high=f"{k.start_high_c:g} °C", full_low=f"{k.full_low_c:g} °C", full_high=f"{k.full_high_c:g} °C",
        sensor=v.kind, r25=q.bench(v.r25_ohm, q.RESISTANCE), beta=f"{v.beta_k:g}",
        series=q.bench(v.series_ohm, q.RESISTANCE),
        supply=f"{v.supply_v:g} V", zero=f"{v.zero_v:g} V", per_k=q.show(v.per_k_v, UNITS["v"], 4), bits=v.bits,
        reaction=h.reaction,
    )  # fmt: skip
    return HoldEdit(holds=sheet.holds, loop=loop, heat=heat)


def _typed_sink(one: SinkSheet) -> SinkEdit:
    s = one.sink
    return SinkEdit(
        name=one.name, natural=f"{s.natural_k_w:.4g} K/W", forced=f"{s.forced_k_w:.4g} K/W",
        exponent=f"{s.flow_exponent:.4g}", capacity=f"{s.capacity_j_k:.5g} J/K", device=f"{s.device_k_w:.4g} K/W",
        lag=f"{s.sensor_lag_s:.4g} s", offset=f"{s.sensor_offset_k:.4g} K",
        limit="" if one.limit_c is None else f"{one.limit_c:.4g} °C", load=profile_text(one.profile),
    )  # fmt: skip


def profile_text(profile: Profile) -> str:
    """A load as it would be typed."""
    return "\n".join(
        f"{p:.6g} W {t:.6g} s" for p, t in zip(profile.powers_w, profile.durations_s, strict=True)
    )


def profile_from_csv(data: bytes) -> str:
    """A load out of a file: power over time, each row holding until the next one's time. Raises InputError."""
    sheet = read_csv(data)
    names = [h.name for h in sheet.headings]
    at = next((i for i, n in enumerate(names) if n.startswith("time")), None)
    power = next((i for i, n in enumerate(names) if n.startswith(("power", "load", "watts"))), None)
    if at is None or power is None:
        raise InputError(
            "file", ", ".join(names)[:60], "columns time (s) and power (W)", "a column is missing"
        )
    times, powers = [], []
    for i, row in enumerate(sheet.rows, start=sheet.first_line):
        times.append(_cell("time", row[at], sheet.headings[at].unit, _SECONDS, i))
        powers.append(_cell("power", row[power], sheet.headings[power].unit, UNITS["w"], i))
        if len(times) > 1 and times[-1] <= times[-2]:
            raise InputError("file", row[at], f"after {times[-2]:g} s", f"line {i}: time runs backwards")
    if len(times) < 2:
        raise InputError("file", len(times), "two rows and more", "the last row only ends the one before")
    lengths = [b - a for a, b in pairwise(times)]
    return profile_text(Profile(tuple(powers[:-1]), tuple(lengths)))


def _cell(name: str, text: str, unit: str, dimension: Dimension, line: int) -> float:
    if not text.strip():
        raise InputError("file", "", "a number", f"line {line}: {name} is missing")
    try:
        return read_number(name, with_unit(text, unit), dimension).value
    except InputError as error:
        raise InputError("file", text[:40], error.allowed, f"line {line}, {name}: {error.reason}") from None


def columns_of(data: bytes, wanted: dict[str, tuple[tuple[str, ...], Dimension]]) -> dict[str, list[float]]:
    """Columns of a file by what their headings begin with. Raises InputError with the line."""
    sheet = read_csv(data)
    found: dict[str, list[float]] = {}
    for key, (begins, dimension) in wanted.items():
        place = next((i for i, h in enumerate(sheet.headings) if h.name.startswith(begins)), None)
        if place is None:
            have = ", ".join(h.name for h in sheet.headings)
            raise InputError("file", have[:60], f"a column {begins[0]}", f"the column {begins[0]} is missing")
        unit = sheet.headings[place].unit
        found[key] = [
            _cell(begins[0], row[place], unit, dimension, i)
            for i, row in enumerate(sheet.rows, start=sheet.first_line)
        ]
    return found


def dumped(sheet: HoldSheet) -> dict[str, Any]:
    """A sheet as a document; empty where nothing was typed."""
    return {} if sheet.empty else codec.dump(sheet)
