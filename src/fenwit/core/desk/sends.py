"""What an answer of the Desk is to a job: where in it the values of a card have their place."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from fenwit.core.desk import Value


class Place(StrEnum):
    """Where in a job values go."""

    STEP = "step"
    AIR = "air"
    FAN = "fan"
    SETTING = "setting"
    HOLD = "hold"


@dataclass(frozen=True)
class Send:
    """Values of a card that a place in a job takes."""

    place: Place
    fields: Mapping[str, str]
    """By the place's name of a value, the card's; a dot leads into a part of the place [-]"""
    needs: tuple[str, ...] = ()
    """Of the place's names: without these there is nothing to send; empty: any one of them will do [-]"""


@dataclass(frozen=True)
class SendShown:
    """Values ready to go into a job."""

    place: Place
    text: str
    """What goes, in words [-]"""
    values: Mapping[str, str]
    """By the place's names, as they would be typed there [-]"""


def _alike(*names: str) -> dict[str, str]:
    return {n: n for n in names}


def _step(name: str) -> Send:
    return Send(Place.STEP, {"wanted": name}, ("wanted",))


_DIRECT = Send(
    Place.FAN,
    {
        "zero_speed_v": "zero_speed_voltage_v", "start_v": "start_voltage_v", "hold_v": "hold_voltage_v",
        "start_ratio": "start_current_ratio", "current_exponent": "current_exponent",
    },
)  # fmt: skip
_SYSTEM = _alike("system_flow_m3_s", "system_pressure_pa", "fixed_pressure_pa")
_CURVE = _alike("flows_m3_s", "pressures_pa", "shafts_w")
_TIMER_IC = {
    "supply": "supply_voltage_v", "saturation": "saturation_voltage_v", "delay": "delay_s",
    "stray": "stray_capacitance_f",
}  # fmt: skip
_LINE = _alike("off_v", "on_v", "low_v", "high_v")
_HEAT_CURVE = {
    "heat.start": "start_c",
    "heat.full": "full_c",
    "heat.hysteresis": "hysteresis_k",
    "heat.least": "minimum_speed",
    "heat.kick": "kick_s",
}
_HEAT_SINK = {
    "heat.sinks.0.natural": "natural_k_w",
    "heat.sinks.0.forced": "forced_k_w",
    "heat.sinks.0.exponent": "flow_exponent",
    "heat.sinks.0.capacity": "capacity_j_k",
    "heat.sinks.0.device": "device_k_w",
    "heat.sinks.0.offset": "sensor_offset_k",
}
_HEAT = Send(Place.HOLD, {**_HEAT_CURVE, **_HEAT_SINK}, ("heat.start", "heat.sinks.0.natural"))
SENDS: Mapping[str, tuple[Send, ...]] = {
    "fan-laws": (_step("speed_2_rpm"),),
    "noise-speed": (_step("speed_2_rpm"),),
    "air-temperature-rise": (_step("flow_m3_s"), Send(Place.AIR, {"heat_w": "heat_w"})),
    "air-density": (
        Send(Place.AIR, {"altitude_m": "altitude_m", "inlet_c": "temperature_c", "humidity": "relative_humidity"}),
    ),
    "fan-point": (Send(Place.AIR, {**_CURVE, **_SYSTEM, **_alike("parallel", "series")},
    ("flows_m3_s", "pressures_pa")),),
    "fan-bank": (Send(Place.AIR, {**_CURVE, **_SYSTEM}, ("flows_m3_s", "pressures_pa")),),
    "speed-map": (
        _step("speed_rpm"),
        Send(
            Place.FAN,
            {"slowest_rpm": "minimum_speed_rpm", "least_duty": "minimum_duty", "full_duty": "full_duty",
             "duties": "duties", "speeds_rpm": "speeds_rpm"},
        ),
    ),
    "tachometer": (Send(Place.FAN, _alike("pulses_per_rev"), ("pulses_per_rev",)), _step("speed_rpm")),
    "dc-series-resistor": (_DIRECT, _step("speed_rpm")),
    "dc-supply-reduction": (_DIRECT, _step("speed_rpm")),
    "supply-start": (
        Send(Place.FAN, {"limit_a": "limit_a", "start_v": "start_voltage_v", "start_ratio": "start_current_ratio",
                         "fans": "fans"}),
    ),
    "wire-drop": (Send(Place.FAN, {"lead_m": "length_m", "lead_mm2": "area_mm2"}, ("lead_m", "lead_mm2")),),
    "pull-up-edge": (Send(Place.FAN, {"pull_up_ohm": "pull_up_ohm", "lead_load_f": "load_capacitance_f",
                                      "pull_up_v": "supply_voltage_v"}),),
    "timer-astable-diodes": (
        Send(
            Place.SETTING,
            {"high_ohm": "resistance_high_ohm", "low_ohm": "resistance_low_ohm", "pot_ohm": "pot_ohm",
             "capacitance": "capacitance_f", "minimum_pulse": "minimum_pulse_s", **_TIMER_IC},
            ("high_ohm", "low_ohm", "capacitance"),
        ),
    ),
    "command-map": (
        _step("speed_rpm"),
        Send(Place.FAN, {"slowest_rpm": "minimum_speed_rpm", **{f"analog.{n}": t for n, t in _LINE.items()}},
             ("slowest_rpm",)),
    ),
    "pot-end-stops": (
        Send(Place.SETTING, {"pot": "pot_ohm", "top": "top_ohm", "bottom": "bottom_ohm"}, ("pot", "top", "bottom")),
    ),
    "pwm-filter": (
        Send(
            Place.SETTING,
            {"amplitude": "amplitude_v", "frequency": "frequency_hz", "resistance": "resistance_ohm",
             "capacitance": "capacitance_f", "stages": "stages", "gain": "gain"},
            ("amplitude", "frequency", "resistance", "capacitance"),
        ),
    ),
    "sensor-scale": (
        Send(Place.HOLD, {"loop.range_low": "range_low_v", "loop.range_high": "range_high_v",
                          "loop.low": "value_low", "loop.high": "value_high"},
             ("loop.range_low", "loop.range_high", "loop.low", "loop.high")),
    ),
    "ntc": (
        Send(Place.HOLD, {"heat.r25": "r25_ohm", "heat.beta": "beta_k", "heat.series": "series_ohm",
                          "heat.supply": "supply_voltage_v"}, ("heat.r25", "heat.beta")),
    ),
    "cone-flow": (_step("flow_m3_h"), Send(Place.HOLD, {"loop.cone": "cone_factor"}, ("loop.cone",))),
    "loop-run": (
        Send(Place.AIR, {**_CURVE, **_SYSTEM}, ("flows_m3_s", "pressures_pa")),
        Send(Place.HOLD, {"loop.gain": "gain_kp", "loop.integral": "integral_s", "loop.sample": "sample_s",
                          "loop.sensor_lag": "sensor_lag_s", "loop.damper_factor": "damper_factor"},
             ("loop.gain", "loop.integral")),
    ),
    "heat-sink-fan": (_HEAT,),
    "thermal-run": (_HEAT,),
}  # fmt: skip
"""By card"""


def sends_of(
    key: str, texts: Mapping[str, str], values: Mapping[str, Value], labels: Mapping[str, str]
) -> tuple[SendShown, ...]:
    """What of an answered card may go into a job.

    Parameters
    ----------
    key : str
        Which card [-]
    texts : mapping of str to str
        Every value of it as typed, the computed ones too [-]
    values : mapping
        The numbers that were given as lists, in the units of their names [-]
    labels : mapping of str to str
        Names of the values in words [-]

    Returns
    -------
    tuple of SendShown
        One for each place that takes something; empty for a card whose answer has no place in a job [-]
    """
    found = []
    for send in SENDS.get(key, ()):
        there = {field: texts[name] for field, name in send.fields.items() if texts.get(name, "") != ""}
        if not there or any(n not in there for n in send.needs):
            continue
        said = ", ".join(f"{labels.get(send.fields[f], f)} {t}" for f, t in there.items())
        found.append(SendShown(send.place, said, _as_lines(there, values)))
    return tuple(found)


_LISTS = {"flows_m3_s": "flow (m3/s)", "pressures_pa": "pressure (Pa)", "shafts_w": "shaft (W)"}


def _as_lines(there: dict[str, str], values: Mapping[str, Value]) -> dict[str, str]:
    """Lists side by side become the lines in which a job takes them."""
    columns = {n: v for n in _LISTS if n in there and isinstance(v := values.get(n), tuple)}
    pairs = [values.get("duties"), values.get("speeds_rpm")]
    rest = {n: t for n, t in there.items() if n not in (*_LISTS, "duties", "speeds_rpm")}
    if columns:
        rows = zip(*columns.values(), strict=False)
        heads = "; ".join(_LISTS[n] for n in columns)
        rest["curve"] = "\n".join([heads, *("; ".join(f"{v:.6g}" for v in row) for row in rows)])
    if isinstance(pairs[0], tuple) and isinstance(pairs[1], tuple) and "duties" in there:
        rest["pairs"] = "\n".join(f"{100 * d:.4g} % {n:.5g}" for d, n in zip(*pairs, strict=False))
    return rest
