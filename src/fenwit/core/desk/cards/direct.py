"""DC cards: map of speeds, tachometer, lowered supply, starting, chopping."""

from __future__ import annotations

from typing import TYPE_CHECKING

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
    numbers,
    positive,
    share,
)  # fmt: skip
from fenwit.core.desk.typed import shown
from fenwit.core.errors import InputError

if TYPE_CHECKING:
    from fenwit.core.motor.direct import DirectFan

_LINE = ("minimum_speed_rpm", "maximum_speed_rpm", "minimum_duty", "full_duty", "below", "inverted")


def _speed_map(call: Call) -> Answer:
    if call.has("duties") or call.has("speeds_rpm"):
        return _through(call)
    from fenwit.core.motor.duty import Below, DutyLine

    line = DutyLine(
        call.number("minimum_speed_rpm"), call.number("maximum_speed_rpm"), call.number("minimum_duty"),
        call.number("full_duty"), Below(call.word("below")), call.yes("inverted"),
    )  # fmt: skip
    if call.given_of(("duty", "speed_rpm"))[0] == "duty":
        duty = call.number("duty")
        speed = float(line.speed_rpm(np.array(duty)))
        solved, outputs = "speed_rpm", {"speed_rpm": speed}
    else:
        speed = call.number("speed_rpm")
        duty = line.duty_for(speed)
        solved, outputs = "duty", {"duty": duty}
    e = f"1 − {duty:.4g}" if line.inverted else f"{duty:.4g}"
    relation = (
        f"n = {line.slowest_rpm:.4g} + ({line.fastest_rpm:.4g} − {line.slowest_rpm:.4g}) · "
        f"({e} − {line.least:.4g})/({line.full:.4g} − {line.least:.4g}), within its ends: {speed:.5g} rpm"
    )
    return Answer(outputs, (solved,), relation)


def _through(call: Call) -> Answer:
    from fenwit.core.motor.maps import map_through

    call.forbid(_LINE, "a map is either a line or measured pairs")
    duties, speeds = call.numbers("duties"), call.numbers("speeds_rpm")
    if len(duties) != len(speeds):
        raise InputError("speeds_rpm", len(speeds), f"{len(duties)} values", "one speed for each duty")
    if len(set(duties)) < 2:
        raise InputError("duties", len(set(duties)), "two and more", "a map needs two different duties")
    pairs = map_through(list(zip(duties, speeds, strict=True)), 0.0)
    moved = max(pairs.half_width_rpm)
    if call.given_of(("duty", "speed_rpm"))[0] == "duty":
        duty = call.number("duty")
        low, high = pairs.command[0], pairs.command[-1]
        if not low <= duty <= high:
            raise InputError(
                "duty",
                duty,
                f"{low:g} to {high:g}",
                "nobody measured there: nothing is known beyond the pairs",
            )
        speed = float(np.asarray(pairs.speed_at(duty)))
        solved, outputs = "speed_rpm", {"speed_rpm": speed, "moved_rpm": moved}
    else:
        speed = call.number("speed_rpm")
        duty = pairs.command_for(speed).command
        solved, outputs = "duty", {"duty": duty, "moved_rpm": moved}
    warnings: tuple[Warned, ...] = ()
    if moved > 0:
        text = f"speed does not only rise, or only fall: a pair was moved by {moved:.4g} rpm; take it again"
        warnings = (Warned("moved", text),)
    return Answer(
        outputs,
        (solved,),
        f"through {len(pairs.command)} pairs, monotone: {speed:.5g} rpm at {duty:.4g}",
        warnings,
    )


_FAN = (
    positive("full_current_a", "of one fan at full volts"), positive("full_speed_rpm"),
    positive("full_voltage_v", default=12.0),
    positive("supply_voltage_v", default=12.0),
    Field("current_exponent", "of amps over volts", low=0.1, high=4.0, default=1.5),
    at_least_0("zero_speed_voltage_v", "left out: a twelfth of full volts"),
    positive("start_current_ratio", "amps at rest over running ones", default=2.0),
    at_least_0("start_voltage_v", "left out: half of full volts"),
    at_least_0("hold_voltage_v", "left out: 0.35 of full volts"),
)  # fmt: skip
_FANS = count("fans", default=1.0)


def _fan(call: Call) -> DirectFan:
    from fenwit.core.motor.direct import HOLD_SHARE, START_SHARE, ZERO_SHARE, DirectFan

    full = call.number("full_voltage_v")
    return DirectFan(
        call.number("full_current_a"), call.number("full_speed_rpm"), full, call.number("current_exponent"),
        call.assume("zero_speed_voltage_v", full * ZERO_SHARE), call.number("start_current_ratio"),
        call.assume("start_voltage_v", full * START_SHARE), call.assume("hold_voltage_v", full * HOLD_SHARE),
    )  # fmt: skip


_ESTIMATE = Warned(
    "estimate", "amps and speed over volts are estimates until this fan is read at two supplies"
)


def _above(fan: DirectFan, volts: float) -> tuple[Warned, ...]:
    if volts <= fan.full_voltage_v * 1.1:
        return ()
    return (
        Warned("over-volts", f"more than this fan is made for: {volts:.4g} V on {fan.full_voltage_v:g} V"),
    )


def _resistor(call: Call) -> Answer:
    from fenwit.core import quantity as q
    from fenwit.core.regulator.direct_supply import Behind, ohm_for, rating_w

    fan, supply, fans = _fan(call), call.number("supply_voltage_v"), call.number("fans")
    ways = ("resistance_ohm", "fan_voltage_v", "speed_rpm")
    given = call.given_of(ways)[0]
    value = call.number(given)
    if given == "resistance_ohm":
        behind = Behind(fan, supply, value, fans)
        volts = behind.voltage_v
    else:
        volts = value if given == "fan_voltage_v" else fan.voltage_for(value, supply)
        if volts >= supply * (1 - 1e-12) and given == "speed_rpm":
            reason = "without a resistor it runs as fast as that: nothing is to be put in the line"
            raise InputError("speed_rpm", value, f"below {float(fan.speed_rpm(supply)):.5g} rpm", reason)
        behind = Behind(fan, supply, ohm_for(fan, supply, volts, fans), fans)
    heat, rest = behind.heat_w(volts), behind.rest_voltage_v
    rating = rating_w(heat)
    holds = bool(volts >= fan.hold_v)
    outputs = {
        "resistance_ohm": behind.ohm, "fan_voltage_v": volts, "speed_rpm": float(fan.speed_rpm(volts)),
        "current_a": fans * float(fan.current_a(volts)), "resistor_w": heat, "rating_w": rating,
        "rest_voltage_v": rest, "rest_resistor_w": behind.heat_w(rest), "starts": bool(rest >= fan.start_v),
        "holds": holds,
        "nearest_e12_ohm": q.nearest("E12", behind.ohm),
    }  # fmt: skip
    outputs.pop(given)
    warnings = [_ESTIMATE, *_above(fan, volts)]
    if holds and not outputs["starts"]:
        warnings.append(
            Warned("holds-only", "it holds this speed but does not start at it: it needs full volts first")
        )
    if not holds:
        text = f"below {fan.hold_v:.3g} V it stops: the volts given are those at which it would have to run"
        warnings.append(Warned("stops", text))
    if rating is None:
        warnings.append(Warned("no-rating", f"no resistor of the list takes twice {heat:.3g} W"))
    relation = (
        f"V_s − V = N I_full (V/V_full)^q R: {shown('v_v', supply)} − {shown('v_v', volts)} = {fans:g} · "
        f"{shown('i_a', float(fan.current_a(volts)))} · {shown('r_ohm', behind.ohm)}"
    )
    return Answer(outputs, tuple(n for n in ways if n != given), relation, tuple(warnings))


def _reduction(call: Call) -> Answer:
    from fenwit.core.regulator.direct_supply import Regulator

    fan, fans = _fan(call), call.number("fans")
    regulator = Regulator(
        call.number("supply_voltage_v"), call.number("efficiency"), call.number("dropout_v"), call.number("ambient_c"),
        call.number("junction_limit_c"), call.number("case_k_w"),
    )  # fmt: skip
    most = regulator.supply_v
    outputs: dict[str, float | bool | None] = {}
    if call.given_of(("fan_voltage_v", "speed_rpm"))[0] == "fan_voltage_v":
        volts, solved = call.number("fan_voltage_v"), "speed_rpm"
        if not fan.hold_v <= volts <= most:
            allowed = f"{fan.hold_v:.4g} to {most:g} V"
            raise InputError(
                "fan_voltage_v", volts, allowed, "below it stops, and no regulator here raises volts"
            )
        outputs["speed_rpm"] = float(fan.speed_rpm(volts))
    else:
        volts = fan.voltage_for(call.number("speed_rpm"), most)
        solved = "fan_voltage_v"
        outputs["fan_voltage_v"] = volts
    amps = fans * float(fan.current_a(volts))
    loss = regulator.linear_loss_w(volts, amps)
    outputs |= {
        "current_a": amps, "linear_loss_w": loss, "linear_possible": regulator.linear_possible(volts, amps),
        "heat_sink_k_w": regulator.heat_sink_k_w(loss), "buck_input_current_a": regulator.buck_input_a(volts, amps),
        "buck_loss_w": regulator.buck_loss_w(volts, amps),
    }  # fmt: skip
    relation = (
        f"n = n_full (V − V_0)/(V_full − V_0) at {shown('v_v', volts)}; linear (V_in − V) I = {shown('p_w', loss)}, "
        f"switching V I (1/η − 1) = {shown('p_w', regulator.buck_loss_w(volts, amps))}"
    )
    return Answer(outputs, (solved,), relation, (_ESTIMATE, *_above(fan, volts)))


def _supply_start(call: Call) -> Answer:
    from fenwit.core.motor.direct import START_SHARE, DirectFan
    from fenwit.core.regulator.direct_supply import Limited, LimitKind

    full = call.number("full_voltage_v")
    fan = DirectFan(
        call.number("full_current_a"), 1000.0, full, start_current_ratio=call.number("start_current_ratio"),
        start_voltage_v=call.assume("start_voltage_v", full * START_SHARE),
    )  # fmt: skip
    supply = Limited(
        call.number("supply_voltage_v"), call.number("limit_a"), LimitKind(call.word("limit_kind"))
    )
    fans = call.number("fans")
    rest = supply.rest_voltage_v(fan, fans)
    outputs = {
        "wanted_current_a": supply.wanted_a(fan, fans), "rest_voltage_v": rest, "starts": bool(rest >= fan.start_v),
        "fans_at_once": supply.at_once(fan),
    }  # fmt: skip
    relation = (
        f"N m I V_s/V_full = {shown('i_a', outputs['wanted_current_a'])} against {shown('i_a', supply.limit_a)}: "
        f"{shown('v_v', rest)} at standing fans, {shown('v_v', fan.start_v)} wanted"
    )
    return Answer(outputs, tuple(outputs), relation)


def _switch(call: Call) -> Answer:
    from fenwit.core.regulator.direct_supply import Chopper

    chopper = Chopper(
        call.number("voltage_v"), call.number("current_a"), call.number("frequency_hz"),
        call.number("on_resistance_ohm"),
        call.number("hot_factor"), call.number("rise_s"), call.number("fall_s"), call.number("diode_drop_v"),
    )  # fmt: skip
    duty = call.number("duty")
    on, switching = chopper.conduction_w(duty), chopper.switching_w(duty)
    junction = call.number("ambient_c") + (on + switching) * call.number("junction_k_w")
    outputs = {
        "conduction_w": on, "switching_w": switching, "loss_w": on + switching, "junction_c": junction,
        "diode_w": chopper.diode_w(duty),
    }  # fmt: skip
    warnings: tuple[Warned, ...] = ()
    if junction > _JUNCTION_C:
        warnings = (
            Warned(
                "hot",
                f"above {_JUNCTION_C:g} °C, 25 K below the usual limit: cool it, or take a better switch",
            ),
        )
    relation = f"I² R_on h d + ½ V I (t_r + t_f) f = {shown('p_w', on)} + {shown('p_w', switching)}"
    return Answer(outputs, tuple(outputs), relation, warnings)


_JUNCTION_C = 100.0


def _tach(call: Call) -> Answer:
    from fenwit.core.motor.tachometer import Tach, pulses_from

    gate = call.number("gate_s")
    outputs: dict[str, float | str | int | None] = {}
    solved: tuple[str, ...]
    if call.has("frequency_hz") and call.has("speed_rpm"):
        call.forbid(
            ("pulses_per_rev", "expected_rpm"), "pulses and speed together give the pulses per revolution"
        )
        hertz, speed = call.number("frequency_hz"), call.number("speed_rpm")
        if speed <= 0 or hertz <= 0:
            name = "speed_rpm" if speed <= 0 else "frequency_hz"
            raise InputError(name, 0.0, "above 0", "a fan that stands tells nothing of its pulses")
        pulses = outputs["pulses_per_rev"] = 60 * hertz / speed
        solved = ("pulses_per_rev",)
        tach = Tach(pulses, gate)
    else:
        given = call.given_of(("frequency_hz", "speed_rpm"))[0]
        pulses = call.number("pulses_per_rev")
        tach = Tach(pulses, gate)
        if given == "frequency_hz":
            hertz = call.number("frequency_hz")
            speed = outputs["speed_rpm"] = tach.speed_rpm(hertz)
            solved = ("speed_rpm",)
        else:
            speed = call.number("speed_rpm")
            hertz = outputs["frequency_hz"] = tach.frequency_hz(speed)
            solved = ("frequency_hz",)
    outputs["count_resolution_rpm"] = tach.count_resolution_rpm
    if call.has("timer_clock_hz"):
        clock = call.number("timer_clock_hz")
        outputs |= {
            "period_resolution_rpm": tach.period_resolution_rpm(speed, clock),
            "crossover_rpm": tach.crossover_rpm(clock),
            "lowest_rpm": tach.lowest_rpm(clock, call.whole("timer_bits")),
        }  # fmt: skip
    warnings: tuple[Warned, ...] = ()
    if call.has("expected_rpm"):
        found = pulses_from(speed, call.number("expected_rpm"), pulses)
        outputs |= {
            "ratio": found.ratio,
            "likely_pulses_per_rev": found.likely,
            "verdict": found.verdict.value,
        }
        if found.verdict.value == "other" and not found.firm:
            warnings = (
                Warned("unsure", "another count of pulses is nearly as likely: set it and read again"),
            )
    return Answer(
        outputs, solved, f"n = 60 f/p = 60 · {shown('f_hz', hertz)}/{pulses:.4g} = {speed:.5g} rpm", warnings
    )


CARDS = (
    Card(
        "speed-map", "speed over duty", Group.DIRECT, "n = n_min + (n_max − n_min)(e − d_min)/(d_full − d_min)",
        (
            at_least_0("minimum_speed_rpm"), positive("maximum_speed_rpm"), share("minimum_duty", default=0.2),
            share("full_duty", default=1.0),
            choice("below", ("holds", "stops", "full"), "what it does below its least duty", default="holds"),
            Field("inverted", "less duty, more speed", FieldKind.YES, default=False),
            numbers("duties", "measured, parted by commas", low=0.0, high=1.0),
            numbers("speeds_rpm", "measured, in the same order", low=0.0, label="speeds"),
            share("duty", "of the signal on the lead"), at_least_0("speed_rpm"),
        ),
        _speed_map, "a running fan; between measured pairs, never beyond them", "pwm duty rpm control lead inverted",
        {"minimum_speed_rpm": "600", "maximum_speed_rpm": "3000", "minimum_duty": "0.25", "duty": "0.5"},
        ("speed_rpm", "duty"),
    ),
    Card(
        "tachometer", "tachometer pulses and rpm", Group.DIRECT, "n = 60 f/p",
        (
            at_least_0("frequency_hz"), at_least_0("speed_rpm"), positive("pulses_per_rev", default=2.0),
            positive("gate_s", "for how long pulses are counted", default=1.0),
            positive("timer_clock_hz", "of a timer that times one period"),
            count("timer_bits", default=16.0, low=2.0, high=64.0),
            positive("expected_rpm", "by anything else: tells wrong pulses"),
        ),
        _tach, "a supply that is not chopped", "tach pulses per revolution rpm resolution",
        {"frequency_hz": "78.4", "expected_rpm": "2350"}, ("speed_rpm", "period_resolution_rpm"),
        picked=("likely_pulses_per_rev",),
    ),
    Card(
        "dc-series-resistor", "resistor before DC fans", Group.DIRECT, "V_s − V = N I_full (V/V_full)^q R",
        (*_FAN, _FANS, positive("resistance_ohm"), positive("fan_voltage_v"), positive("speed_rpm")),
        _resistor, "a fan with a plain motor behind its leads; estimates until it is read",
        "dropper 12 V slow down watts starts",
        {"full_current_a": "250m", "full_speed_rpm": "2400", "resistance_ohm": "22"},
        ("speed_rpm", "fan_voltage_v", "resistor_w"),
        picked=("rating_w", "nearest_e12_ohm"),
    ),
    Card(
        "dc-supply-reduction", "linear or switching supply for DC fans", Group.DIRECT,
        "n = n_full (V − V_0)/(V_full − V_0)",
        (
            *_FAN, _FANS, share("efficiency", "of the switching one", default=0.85),
            at_least_0("dropout_v", "of the linear one", default=2.0),
            Field("ambient_c", default=40.0), Field("junction_limit_c", default=125.0),
            at_least_0("case_k_w", "junction to heat sink", default=3.0), positive("fan_voltage_v"),
            positive("speed_rpm"),
        ),
        _reduction, "between hold and supply volts; estimates until it is read",
        "buck regulator heat sink step down volts",
        {"full_current_a": "250m", "full_speed_rpm": "2400", "fan_voltage_v": "9"},
        ("speed_rpm", "fan_voltage_v", "linear_loss_w"),
    ),
    Card(
        "supply-start", "will the supply start them", Group.DIRECT, "N m I V_s/V_full against the limit",
        (
            count("fans"), positive("full_current_a", "of one fan"), positive("limit_a", "of the supply"),
            positive("full_voltage_v", default=12.0), positive("supply_voltage_v", default=12.0),
            positive("start_current_ratio", "amps at rest over running ones", default=2.0),
            at_least_0("start_voltage_v", "left out: half of full volts"),
            choice("limit_kind", ("constant-current", "hiccup"), "what the supply does at its limit",
            default="constant-current"),
        ),
        _supply_start, "fans alike; long leads ask for more",
        "power supply current limit hiccup inrush starting together",
        {"fans": "3", "full_current_a": "200m", "limit_a": "500m"}, ("rest_voltage_v", "wanted_current_a"),
        picked=("fans_at_once",),
    ),
    Card(
        "switch-heat", "heat of a chopping switch", Group.DIRECT, "I² R_on h d + ½ V I (t_r + t_f) f",
        (
            positive("voltage_v"), positive("current_a"), positive("frequency_hz"), positive("on_resistance_ohm"),
            share("duty", default=1.0), positive("hot_factor", "on-resistance hot over cold", default=1.5),
            at_least_0("rise_s", default=50e-9), at_least_0("fall_s", default=50e-9), Field("ambient_c", default=40.0),
            at_least_0("junction_k_w", "junction to air", default=60.0), at_least_0("diode_drop_v", default=0.7),
        ),
        _switch, "hard switching; never chop a fan with a control lead", "mosfet transistor junction conduction diode",
        {"voltage_v": "48", "current_a": "3", "frequency_hz": "25k", "on_resistance_ohm": "0R03", "duty": "0.6"},
        ("loss_w", "junction_c"),
    ),
)  # fmt: skip
