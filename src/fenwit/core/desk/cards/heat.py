"""Heat cards: a fan that cools by temperature, settled and over time."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from fenwit.core.desk import Answer, Call, Card, Field, Group, Warned, at_least_0, numbers, positive
from fenwit.core.desk.typed import shown

if TYPE_CHECKING:
    from fenwit.core.regulator.thermal import Curve, Sink

_SINK = (
    positive("natural_k_w", "with the fan standing", label="sink, natural"),
    positive("forced_k_w", "what full speed adds", label="sink, forced"),
    Field("flow_exponent", "of the forced part over speed", low=0.1, high=2.0, default=0.6),
    positive("capacity_j_k", default=200.0, label="heat capacity"),
    Field("ambient_c", low=-100.0, high=200.0, default=25.0), Field("start_c", "where the fan starts", default=32.0),
    Field("full_c", "where it has its full speed", default=55.0),
    positive("hysteresis_k", "it stops so much lower", default=3.0),
    Field("minimum_speed", "over full speed", low=0.0, high=1.0, above=True, default=0.3),
    at_least_0("kick_s", "at full speed, from rest", default=1.0),
    Field("sensor_offset_k", "what the sensor reads above the sink", default=0.0),
    at_least_0("device_k_w", "from the hot spot to the sink", default=0.0, label="device to sink"),
)  # fmt: skip


def _sink(call: Call, lag_s: float = 0.0) -> Sink:
    from fenwit.core.regulator.thermal import Sink

    return Sink(
        call.number("natural_k_w"), call.number("forced_k_w"), call.number("flow_exponent"), call.number("capacity_j_k"),
        call.number("device_k_w"), lag_s, call.number("sensor_offset_k"),
    )  # fmt: skip


def _curve(call: Call) -> Curve:
    from fenwit.core.regulator.thermal import Curve

    return Curve(
        call.number("start_c"), call.number("full_c"), call.number("hysteresis_k"), call.number("minimum_speed"),
        call.number("kick_s"),
    )  # fmt: skip


def _settles(call: Call) -> Answer:
    from fenwit.core.regulator.thermal import ThermalState, power_for, settled

    sink, curve, ambient = _sink(call), _curve(call), call.number("ambient_c")
    outputs: dict[str, Any] = {}
    given = call.given_of(("power_w", "sink_c"))[0]
    if given == "sink_c":
        power = outputs["power_w"] = power_for(sink, curve, call.number("sink_c"), ambient)
    else:
        power = call.number("power_w")
    found = settled(sink, curve, power, ambient)
    outputs |= {
        "state": found.state.value, "never_stops": found.never_stops, "sink_c": found.sink_c,
        "speed_fraction": found.speed, "device_c": found.device_c, "resistance_k_w": found.resistance_k_w,
        "on_s": found.on_s, "off_s": found.off_s, "cycles_per_hour": found.cycles_per_hour,
        "off_fraction": found.off_fraction, "top_c": found.top_c, "bottom_c": found.bottom_c,
    }  # fmt: skip
    outputs.pop(given, None)
    warnings: list[Warned] = []
    if found.state is ThermalState.ABOVE_FULL:
        warnings.append(
            Warned(
                "above-full",
                "the fan does all it can and the sink is still warmer than where full speed begins",
            )
        )
    if found.state is ThermalState.CYCLING:
        warnings.append(
            Warned(
                "cycling",
                "it starts and stops: more hysteresis, a lower least speed, a higher start, or let it idle",
            )
        )
    if found.never_stops:
        warnings.append(
            Warned(
                "never-stops", "once on it never rests: the surroundings alone keep it above where it stops"
            )
        )
    if found.sink_c is None:
        beats = f"{found.on_s:.4g} s on, {found.off_s:.4g} s off"
        relation = f"between {found.bottom_c:.4g} and {found.top_c:.4g} °C, {beats}"
    else:
        rise = f"({found.sink_c:.4g} − {ambient:g} °C)"
        relation = f"P = (T − T_amb) G(s): {shown('p_w', power)} = {rise}/{found.resistance_k_w:.4g} K/W"
    return Answer(
        outputs,
        ("power_w" if given == "sink_c" else "sink_c",),
        relation.replace("(-", "(−"),
        tuple(warnings),
    )


def _run(call: Call) -> Answer:
    from fenwit.core.regulator.thermal import Profile, thermal_run

    profile = Profile(call.numbers("powers_w"), call.numbers("durations_s"))
    found = thermal_run(
        [_sink(call, call.number("sensor_lag_s"))], _curve(call), [profile], call.number("ambient_c"),
        call.number("total_s"), call.maybe("initial_c"),
    )  # fmt: skip
    line = found.sinks[0]
    outputs = {
        "starts": found.starts, "cycles_per_hour": found.cycles_per_hour, "worst_sink_c": line.worst_sink_c,
        "worst_device_c": line.worst_device_c, "off_fraction": found.off_fraction, "mean_speed": found.mean_speed,
        "final_sink_c": line.final_sink_c, "final_sensor_c": line.final_sensor_c,
    }  # fmt: skip
    relation = f"C dT/dt = P − (T − T_amb) G(s) over {shown('t_s', found.total_s)}: at most {line.worst_sink_c:.4g} °C"
    return Answer(outputs, tuple(outputs), relation)


_START = {"natural_k_w": "2.5", "forced_k_w": "0.6"}
CARDS = (
    Card(
        "heat-sink-fan", "a heat sink whose fan follows its temperature", Group.HEAT,
        "P = (T − T_amb)(1/R_nat + s^m/R_forced)",
        (*_SINK, at_least_0("power_w"), Field("sink_c")),
        _settles, "one lump of heat; steady, from cold", "thermal curve temperature cooling hysteresis cycling",
        {**_START, "power_w": "8"}, ("sink_c", "speed_fraction", "power_w"),
    ),
    Card(
        "thermal-run", "a heat sink and its fan over time", Group.HEAT, "C dT/dt = P − (T − T_amb) G(s)",
        (
            *_SINK, at_least_0("sensor_lag_s", default=0.0), numbers("powers_w", "one after the other", low=0.0),
            numbers("durations_s", "of each, then again from the first", low=0.0), positive("total_s", default=3600.0),
            Field("initial_c", "left out: as the air"),
        ),
        _run, "one lump of heat, its sensor with one lag", "warm up cool down load burst starts an hour",
        {**_START, "powers_w": "40, 2", "durations_s": "240, 40"}, ("worst_sink_c", "mean_speed"), picked=("starts",),
    ),
)  # fmt: skip
