"""Control voltage cards: a fan's map over volts, knobs, lines, filters, sensors, flow by the cone, the loop."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import numpy as np

from fenwit.core.desk import (
    Answer,
    Call,
    Card,
    Field,
    FieldKind,
    Group,
    Warned,
    at_least_0,
    choice,
    count,
    positive,
    share,
)  # fmt: skip
from fenwit.core.desk.cards.air import CURVE_FIELDS, RHO, SYSTEM_FIELDS, curve_of, density_of, system_of
from fenwit.core.desk.typed import shown
from fenwit.core.errors import InputError

if TYPE_CHECKING:
    from fenwit.core.regulator.pulse_filter import Filter

_REF = positive("reference_voltage_v", "of the fan's own output", default=10.0)
_POT = positive("pot_ohm")
_IN = positive("input_resistance_ohm", "of the fan's input; left out: it takes nothing")


def _map(call: Call) -> Answer:
    from fenwit.core.motor.analog import VoltLine

    line = VoltLine(
        call.number("minimum_speed_rpm"), call.number("maximum_speed_rpm"), call.number("off_v"), call.number("on_v"),
        call.number("low_v"), call.number("high_v"), call.yes("inverse"),
    )  # fmt: skip
    given = call.given_of(("voltage_v", "speed_rpm"))[0]
    outputs: dict[str, Any] = {}
    warnings: list[Warned] = []
    running = call.yes("running")
    if given == "voltage_v":
        volts = call.number("voltage_v")
        speed = outputs["speed_rpm"] = float(line.speed_rpm(np.array(volts), running))
        other = float(line.speed_rpm(np.array(volts), not running))
        if other != speed:
            past = "from rest" if running else "running on"
            text = f"between V_off and V_on it hangs on the past: {past} {other:.4g} rpm"
            warnings.append(Warned("past", text))
    else:
        speed = call.number("speed_rpm")
        volts = outputs["voltage_v"] = line.voltage_v(speed)
        if speed > 0 and float(line.meant_v(np.array(volts))) < line.on_v - 1e-12:
            warnings.append(Warned("start", "below V_on: it holds this speed, but does not start at it"))
    outputs["usable_fraction"] = line.usable_fraction
    share_of = float(np.clip((line.meant_v(np.array(volts)) - line.low_v) / (line.high_v - line.low_v), 0, 1))
    relation = (
        f"n = {line.slowest_rpm:g} + {line.fastest_rpm - line.slowest_rpm:g} · {share_of:.4g} = {shown('n_rpm', speed)} "
        f"at {shown('v_v', volts)}"
    )
    return Answer(
        outputs, (("speed_rpm" if given == "voltage_v" else "voltage_v"),), relation, tuple(warnings)
    )


def _loading(call: Call) -> Answer:
    from fenwit.core.regulator.control_volts import Knob, input_for_ohm

    ref, pot = call.number("reference_voltage_v"), call.number("pot_ohm")
    outputs: dict[str, Any] = {}
    if call.has("travel") and call.has("voltage_v"):
        call.forbid(("input_resistance_ohm",), "travel and volts together give it")
        travel, volts = call.number("travel"), call.number("voltage_v")
        z = outputs["input_resistance_ohm"] = input_for_ohm(pot, travel, volts, ref)
        knob, solved = Knob(pot, input_ohm=z, reference_v=ref), "input_resistance_ohm"
    else:
        knob = Knob(pot, input_ohm=call.maybe("input_resistance_ohm"), reference_v=ref)
        if call.given_of(("travel", "voltage_v"))[0] == "travel":
            travel = call.number("travel")
            volts = outputs["voltage_v"] = float(knob.volts(np.array(travel)))
            solved = "voltage_v"
        else:
            volts = call.number("voltage_v")
            travel = outputs["travel"] = knob.travel_for(volts)
            solved = "travel"
    outputs |= {"loading_error_v": volts - ref * travel, "reference_current_a": knob.reference_a(travel)}
    ratio = 0.0 if knob.input_ohm is None else pot / knob.input_ohm
    under = f"(1 + {travel * (1 - travel):.4g} · {ratio:.4g})"
    relation = f"V = V_ref x/(1 + x(1 − x) R/Z) = {ref:g} · {travel:.4g}/{under} = {shown('v_v', volts)}"
    warnings: list[Warned] = []
    if ratio > 0.1:
        warnings.append(
            Warned("loading", "the pot is above a tenth of the input: the scale bends by more than 1.4 %")
        )
    if outputs["reference_current_a"] > _MOST_A:
        warnings.append(
            Warned("reference", f"more than {1000 * _MOST_A:g} mA: the fan's 10 V output may not give it")
        )
    return Answer(outputs, (solved,), relation, tuple(warnings))


_MOST_A = 0.010


def _stops(call: Call) -> Answer:
    from fenwit.core.regulator.control_volts import Knob, end_stops, preferred_stops

    ref, pot, z = (
        call.number("reference_voltage_v"),
        call.number("pot_ohm"),
        call.maybe("input_resistance_ohm"),
    )
    bare = Knob(pot, input_ohm=z, reference_v=ref)
    volts = [n for n in ("low_voltage_v", "high_voltage_v") if call.has(n)]
    ohms = [n for n in ("top_ohm", "bottom_ohm") if call.has(n)]
    outputs: dict[str, Any] = {}
    if volts and ohms:
        name = ohms[-1] if len(volts) == 2 else volts[-1]
        raise InputError(name, call.given[name], "left blank", "either both volts or both resistors")
    if volts:
        low, high = call.number("low_voltage_v"), call.number("high_voltage_v")
        exact, made = end_stops(low, high, bare), preferred_stops(low, high, bare)
        ends = made.volts(np.array([0.0, 1.0]))
        outputs |= {
            "top_ohm": exact.top_ohm, "bottom_ohm": exact.bottom_ohm, "top_e24_ohm": made.top_ohm,
            "bottom_e24_ohm": made.bottom_ohm, "low_actual_v": float(ends[0]), "high_actual_v": float(ends[1]),
        }  # fmt: skip
        solved: tuple[str, ...] = ("top_ohm", "bottom_ohm")
        low, high = float(ends[0]), float(ends[1])
    else:
        made = Knob(pot, call.number("top_ohm"), call.number("bottom_ohm"), z, ref)
        ends = made.volts(np.array([0.0, 1.0]))
        low, high = outputs["low_voltage_v"], outputs["high_voltage_v"] = float(ends[0]), float(ends[1])
        solved = ("low_voltage_v", "high_voltage_v")
    outputs["reference_current_a"] = made.reference_a(1.0)
    relation = (
        f"{shown('r_ohm', made.top_ohm)} above, {shown('r_ohm', made.bottom_ohm)} below {shown('r_ohm', pot)}: "
        f"{shown('v_v', low)} to {shown('v_v', high)}"
    )
    spread = [
        Knob(pot * k, made.top_ohm, made.bottom_ohm, z, ref).volts(np.array([0.0, 1.0])) for k in (0.8, 1.2)
    ]
    text = "; ".join(f"{shown('v_v', float(v[0]), 3)} to {shown('v_v', float(v[1]), 3)}" for v in spread)
    warnings = [Warned("pot", f"with a pot 20 % low or high: {text}")]
    if outputs["reference_current_a"] > _MOST_A:
        warnings.append(
            Warned("reference", f"more than {1000 * _MOST_A:g} mA: the fan's 10 V output may not give it")
        )
    return Answer(outputs, solved, relation, tuple(warnings))


def _fan_out(call: Call) -> Answer:
    from fenwit.core.regulator.control_volts import Chain, handed_on

    fans, z = call.whole("fans"), call.number("input_resistance_ohm")
    chain = Chain(
        (z,) * fans, call.number("source_voltage_v"), call.number("source_resistance_ohm"),
        call.number("signal_segment_ohm"), call.number("ground_segment_ohm"), call.number("ground_current_a"),
    )  # fmt: skip
    found = handed_on(chain)
    outputs = {
        "first_input_v": found.inputs_v[0], "last_input_v": found.inputs_v[-1], "source_current_a": found.source_a,
        "ground_offset_v": found.grounds_v[-1],
    }  # fmt: skip
    relation = (
        f"(1 + (R_src J + (r_s + r_g) M)/Z) v = V_src − r_g i_g M 1: {shown('v_v', found.inputs_v[0])} at the first, "
        f"{shown('v_v', found.inputs_v[-1])} at the last of {fans}"
    )
    warnings: tuple[Warned, ...] = ()
    if abs(found.grounds_v[-1]) > _OFFSET_V:
        text = "the last fan turns slowest or stays off: a 0 V wire of its own for each fan, an isolator, or serial"
        warnings = (Warned("offset", text),)
    return Answer(outputs, ("last_input_v",), relation, warnings)


_OFFSET_V = 0.1


def _filter(call: Call) -> Answer:
    from fenwit.core.regulator.pulse_filter import Filter, capacitor_for, resistor_for

    outputs: dict[str, Any] = {}
    parts = ("resistance_ohm", "capacitance_f")
    if call.has("ripple_v"):
        call.blank_of((*parts, "ripple_v"))
    else:
        call.given_of(parts, 2)

    def made(r: float, c: float) -> Filter:
        return Filter(
            call.number("amplitude_v"), call.number("frequency_hz"), r, c, call.number("duty"), call.whole("stages"),
            call.maybe("load_resistance_ohm"), call.number("gain"),
        )  # fmt: skip

    solved: tuple[str, ...] = ("ripple_v",)
    if not call.has("ripple_v"):
        f = made(call.number("resistance_ohm"), call.number("capacitance_f"))
        outputs["ripple_v"] = f.ripple_v
    elif call.has("resistance_ohm"):
        f = capacitor_for(call.number("ripple_v"), made(call.number("resistance_ohm"), 1e-6))
        outputs["capacitance_f"], solved = f.capacitance_f, ("capacitance_f",)
    else:
        f = resistor_for(call.number("ripple_v"), made(1e4, call.number("capacitance_f")))
        outputs["resistance_ohm"], solved = f.resistance_ohm, ("resistance_ohm",)
    outputs |= {
        "mean_v": f.mean_v, "ripple_small_v": f.ripple_small_v, "settling_s": f.settling_s(call.number("settle_to")),
    }  # fmt: skip
    relation = (
        f"mean = d V g R_L/(R_L + n R) = {shown('v_v', f.mean_v)}; from least to most {shown('v_v', f.ripple_v)} at "
        f"R C = {shown('t_s', f.resistance_ohm * f.capacitance_f)}"
    )
    warnings: tuple[Warned, ...] = ()
    if outputs["settling_s"] > 1:
        warnings = (Warned("slow", "slower than a second: two stages ripple less at the same settling"),)
    return Answer(outputs, solved, relation, warnings)


def _scale(call: Call) -> Answer:
    from fenwit.core.regulator.sensor import Sensor, SensorState

    sensor = Sensor(
        call.number("range_low_v"), call.number("range_high_v"), call.number("value_low"), call.number("value_high"),
        call.number("margin"),
    )  # fmt: skip
    outputs: dict[str, Any] = {}
    if call.given_of(("voltage_v", "value"))[0] == "voltage_v":
        volts = call.number("voltage_v")
        value = outputs["value"] = sensor.value(volts)
        solved = "value"
    else:
        value = call.number("value")
        volts = outputs["voltage_v"] = sensor.voltage_v(value)
        solved = "voltage_v"
    state = sensor.state(volts)
    outputs["status"] = state.value
    words = {
        SensorState.UNSURE: "nothing there, or a broken wire: this range has no live zero that would tell",
        SensorState.BROKEN: "below its live zero: a wire is off; the loop goes to its safe speed",
        SensorState.HIGH: "above its range: shorted to its supply, or more than it can show",
    }
    warnings = (Warned(state.value, words[state]),) if state in words else ()
    span = (
        f"({sensor.value_high:g} − {sensor.value_low:g})/({sensor.range_high_v:g} − {sensor.range_low_v:g} V)"
    )
    what = "none" if value is None else f"{value:.5g}"
    relation = f"{sensor.value_low:g} + {span} · ({volts:.4g} − {sensor.range_low_v:g} V) = {what}"
    return Answer(outputs, (solved,), relation.replace("-", "−"), warnings)


def _ntc(call: Call) -> Answer:
    from fenwit.core.regulator.sensor import COLDEST_C, WARMEST_C, Thermistor

    part = Thermistor(call.number("r25_ohm"), call.number("beta_k"))
    outputs: dict[str, Any] = {}
    if call.given_of(("resistance_ohm", "temperature_c"))[0] == "temperature_c":
        at = call.number("temperature_c")
        ohm = outputs["resistance_ohm"] = part.resistance_ohm(at)
        solved = "resistance_ohm"
    else:
        ohm = call.number("resistance_ohm")
        at = outputs["temperature_c"] = part.temperature_c(ohm)
        solved = "temperature_c"
    if call.has("series_ohm"):
        outputs["divider_v"] = call.number("supply_voltage_v") * ohm / (ohm + call.number("series_ohm"))
    warnings: tuple[Warned, ...] = ()
    if not part.believed(at):
        text = f"beyond {COLDEST_C:g} to {WARMEST_C:g} °C it counts as broken: an open one reads as deep cold".replace(
            "-", "−"
        )
        warnings = (Warned("broken", text),)
    relation = f"R = R25 e^(B (1/T − 1/298.15)) = {shown('r_ohm', ohm)} at {at:.4g} °C".replace(
        "at -", "at −"
    )
    return Answer(outputs, (solved,), relation, warnings)


def _cone(call: Call) -> Answer:
    from fenwit.core.load import cone

    rho, reckoned = density_of(call)
    blank = call.blank_of(("cone_factor", "pressure_pa", "flow_m3_h"))
    k = call.number("cone_factor") if blank != "cone_factor" else 0.0
    p = call.number("pressure_pa") if blank != "pressure_pa" else 0.0
    q = call.number("flow_m3_h") if blank != "flow_m3_h" else 0.0
    outputs: dict[str, Any] = {}
    if blank == "flow_m3_h":
        q = outputs["flow_m3_h"] = cone.cone_flow_m3_h(k, p, rho)
    elif blank == "pressure_pa":
        p = outputs["pressure_pa"] = cone.cone_pressure_pa(k, q, rho)
    else:
        k = outputs["cone_factor"] = cone.cone_factor(p, q, rho)
    outputs["flow_m3_s"] = q / 3600
    if reckoned:
        outputs["density_kg_m3"] = rho
    relation = f"q = k √Δp √(1.2/ρ) = {k:.4g} · √{p:.4g} · √(1.2/{rho:.4g}) = {shown('q_m3_h', q)}"
    each = cone.flow_per_pa_m3_h(k, p / 9, rho)
    text = (
        f"at a third of the flow only {shown('p_pa', p / 9)}: one pascal there is {shown('q_m3_h', each, 2)}"
    )
    return Answer(outputs, (blank,), relation, (Warned("low-flow", text),))


def _loop(call: Call) -> Answer:
    from fenwit.core.load.curve import Air
    from fenwit.core.regulator.loop import Controller, Damper, Held, loop_run

    held = Held(call.word("control"))
    sets = {Held.SPEED: "set_speed", Held.FLOW: "set_flow_m3_s", Held.PRESSURE: "set_pressure_pa"}
    call.forbid(tuple(n for h, n in sets.items() if h is not held), f"{held.value} is held")
    controller = Controller(
        call.number("gain_kp"), call.number("integral_s"), call.number("sample_s"), call.number("fan_lag_s"),
        call.number("ramp_per_s"), call.number("sensor_lag_s"), call.number("minimum_speed"),
    )  # fmt: skip
    damper = Damper(call.number("damper_factor"), call.number("damper_at_s"), call.maybe("damper_back_at_s"))
    found = loop_run(
        Air(curve_of(call), system_of(call)),
        held,
        call.number(sets[held]),
        controller,
        damper,
        call.number("total_s"),
    )
    outputs: dict[str, Any] = {
        "start_speed": found.start_speed, "final_flow_m3_s": found.final_flow_m3_s,
        "final_pressure_pa": found.final_pressure_pa, "final_speed": found.final_speed,
        "peak_deviation": found.peak_deviation, "overshoot": found.overshoot, "settling_s": found.settling_s,
        "saturated": found.saturated, "hunting": found.hunting,
    }  # fmt: skip
    warnings: list[Warned] = []
    if found.hunting:
        warnings.append(
            Warned(
                "hunting", "it swings on: less gain, a longer integral time; look for a damper that sticks"
            )
        )
    if found.saturated:
        warnings.append(
            Warned(
                "saturated", f"at full speed it gives {shown('q_m3_s', found.final_flow_m3_s)} and no more"
            )
        )
    ends = "never" if found.settling_s is None else f"{found.settling_s:.3g} s"
    relation = f"speed {found.start_speed:.4g} → {found.final_speed:.4g}, settled after {ends}"
    return Answer(outputs, tuple(outputs), relation, tuple(warnings))


_E1 = {
    "flows_m3_s": "0, 0.06, 0.12, 0.18, 0.24, 0.30, 0.34", "pressures_pa": "430, 424, 396, 340, 250, 125, 0",
    "system_flow_m3_s": "0.22", "system_pressure_pa": "285",
}  # fmt: skip
CARDS = (
    Card(
        "command-map", "speed over a control voltage", Group.CONTROL,
        "n = n_min + (n_max − n_min) clip((v − V_lo)/(V_hi − V_lo), 0, 1)",
        (
            at_least_0("minimum_speed_rpm"), positive("maximum_speed_rpm"),
            *(Field(f"{n}_v", w, low=0.0, high=10.0, default=d, label=f"V {n}") for n, w, d in (
                ("off", "below it a running fan stops", 0.8), ("on", "from it one at rest starts", 1.2),
                ("low", "where speed begins to rise", 1.2), ("high", "where it has risen", 9.6))),
            Field("inverse", "fewer volts, more speed", FieldKind.YES, default=False),
            Field("running", "it ran before", FieldKind.YES, default=False),
            Field("voltage_v", low=0.0, high=10.0), at_least_0("speed_rpm"),
        ),
        _map, "a line between two voltages; data or a measured map say more", "0-10 V ec dead band command hysteresis",
        {"minimum_speed_rpm": "300", "maximum_speed_rpm": "2800", "voltage_v": "5"}, ("speed_rpm", "voltage_v"),
    ),
    Card(
        "pot-loading", "a potentiometer and what it feeds", Group.CONTROL, "V = V_ref x/(1 + x(1 − x) R/Z)",
        (_REF, _POT, share("travel"), at_least_0("voltage_v"), _IN),
        _loading, "a linear track", "knob wiper input resistance loading 10 V",
        {"pot_ohm": "10k", "travel": "0.5", "input_resistance_ohm": "100k"}, ("voltage_v", "loading_error_v", "travel"),
    ),
    Card(
        "pot-end-stops", "resistors at the ends of a potentiometer", Group.CONTROL,
        "R_top = P(R_b + R)(V_ref/V_high − 1), P(r) = r ∥ Z",
        (_REF, _POT, _IN, at_least_0("low_voltage_v"), positive("high_voltage_v"), at_least_0("top_ohm"),
         at_least_0("bottom_ohm")),
        _stops, "a linear track", "knob limits minimum maximum voltage divider",
        {"pot_ohm": "10k", "low_voltage_v": "2", "high_voltage_v": "8", "input_resistance_ohm": "100k"},
        ("top_ohm", "bottom_ohm", "low_voltage_v"), picked=("top_e24_ohm", "bottom_e24_ohm"),
    ),
    Card(
        "control-fan-out", "one control voltage for many fans", Group.CONTROL,
        "(1 + (R_src J + (r_s + r_g) M)/Z) v = V_src − r_g i_g M 1",
        (
            count("fans", high=200.0), at_least_0("source_voltage_v", default=10.0),
            at_least_0("source_resistance_ohm", default=0.0), positive("input_resistance_ohm", default=100e3),
            at_least_0("signal_segment_ohm", "of each stretch", default=0.0),
            at_least_0("ground_segment_ohm", "of each stretch", default=0.0),
            Field("ground_current_a", "that each fan returns through the same 0 V", default=0.0),
        ),
        _fan_out, "fans alike, looped one to the next", "daisy chain cable drop ground offset 0 V",
        {"fans": "5", "input_resistance_ohm": "47k", "source_resistance_ohm": "120", "signal_segment_ohm": "3",
         "ground_segment_ohm": "0.4", "ground_current_a": "0.12"},
        ("last_input_v", "ground_offset_v"),
    ),
    Card(
        "pwm-filter", "pulses made a steady voltage", Group.CONTROL,
        "ΔV = V (1 − e^(−dT/τ))(1 − e^(−(1−d)T/τ))/(1 − e^(−T/τ))",
        (
            positive("amplitude_v"), positive("frequency_hz"), share("duty", default=0.5), positive("resistance_ohm"),
            positive("capacitance_f"), count("stages", default=1.0, high=2.0), positive("load_resistance_ohm"),
            positive("gain", "of an ideal amplifier behind it", default=1.0),
            Field("settle_to", "of its end, left over", low=0.0, high=0.5, above=True, default=0.01),
            positive("ripple_v", "wanted: gives R or C"),
        ),
        _filter, "one or two stages of R and C, an ideal amplifier", "low pass ripple settling 0-10 V converter",
        {"amplitude_v": "5", "frequency_hz": "1k", "resistance_ohm": "10k", "capacitance_f": "220n", "stages": "2"},
        ("ripple_v", "settling_s", "mean_v"),
    ),
    Card(
        "sensor-scale", "a sensor's volts and what they mean", Group.CONTROL, "lo + (hi − lo)(v − v_lo)/(v_hi − v_lo)",
        (
            at_least_0("range_low_v"), positive("range_high_v"), Field("value_low"), Field("value_high"),
            Field("margin", "beyond its range, over the span", low=0.0, high=0.5, default=0.05),
            Field("voltage_v", low=-100.0, high=100.0), Field("value"),
        ),
        _scale, "a linear sensor", "4-20 mA 0-10 V live zero pressure transmitter broken wire",
        {"range_low_v": "2", "range_high_v": "10", "value_low": "0", "value_high": "300", "voltage_v": "4.2"},
        ("value", "voltage_v"),
    ),
    Card(
        "ntc", "a thermistor", Group.CONTROL, "R = R25 e^(B (1/T − 1/298.15))",
        (
            positive("r25_ohm", "at 25 °C", label="R25"), positive("beta_k", label="B"), positive("resistance_ohm"),
            Field("temperature_c", low=-100.0, high=500.0), positive("series_ohm"),
            positive("supply_voltage_v", default=5.0),
        ),
        _ntc, "one constant B; within 1 K between 0 and 80 °C", "temperature sensor thermistor divider",
        {"r25_ohm": "10k", "beta_k": "3950", "temperature_c": "50", "series_ohm": "10k"},
        ("resistance_ohm", "temperature_c", "divider_v"),
    ),
    Card(
        "cone-flow", "flow by a fan's inlet cone", Group.CONTROL, "q = k √Δp √(1.2/ρ)",
        (
            positive("cone_factor", "m³/h for each √Pa at 1.2 kg/m³"), at_least_0("pressure_pa"), at_least_0("flow_m3_h"),
            RHO, Field("altitude_m", low=-500.0, high=11000.0, default=0.0),
            Field("temperature_c", low=-60.0, high=400.0, default=20.0),
        ),
        _cone, "the cone as its maker measured it, nothing before it", "nozzle bellmouth differential pressure airflow",
        {"cone_factor": "60", "pressure_pa": "81", "altitude_m": "820"}, ("flow_m3_h", "pressure_pa"),
    ),
    Card(
        "loop-run", "a loop that holds flow or pressure", Group.CONTROL, "v = K_p e + I, I += K_p T_s/T_i e",
        (
            *CURVE_FIELDS, *SYSTEM_FIELDS, choice("control", ("flow", "speed", "pressure"), default="flow"),
            positive("set_flow_m3_s"), share("set_speed", "over full speed"), positive("set_pressure_pa"),
            positive("gain_kp", default=0.5), positive("integral_s", default=4.0), positive("sample_s", default=0.5),
            at_least_0("fan_lag_s", default=2.0), positive("ramp_per_s", "most of full speed a second", default=0.1),
            at_least_0("sensor_lag_s", default=1.0), Field("minimum_speed", low=0.0, high=0.99, default=0.1),
            positive("damper_factor", "of the system's resistance", default=2.5), at_least_0("damper_at_s", default=10.0),
            positive("damper_back_at_s"), positive("total_s", default=120.0),
        ),
        _loop, "a falling fan curve; air that follows at once", "pid pi control damper constant flow pressure hunting",
        {**_E1, "set_flow_m3_s": "0.15", "gain_kp": "1.21", "integral_s": "2.5"}, ("peak_deviation", "final_speed"),
    ),
)  # fmt: skip
