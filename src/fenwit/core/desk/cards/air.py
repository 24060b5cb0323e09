"""Air cards: fan laws, working points, dead fans, density, temperature rise, noise, energy."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any

import numpy as np

from fenwit.core import quantity as q
from fenwit.core.desk import (
    Answer,
    Call,
    Card,
    Field,
    FieldKind,
    Group,
    Warned,
    at_least_0,
    count,
    numbers,
    positive,
    share,
)  # fmt: skip
from fenwit.core.desk.typed import shown
from fenwit.core.errors import InputError

if TYPE_CHECKING:
    from fenwit.core.load.curve import FanCurve, System

_K = positive("noise_factor", "decibels for ten times the speed, 50 to 60", default=55.0)
RHO = positive("density_kg_m3", default=1.2)


def _laws(call: Call) -> Answer:
    from fenwit.core.load.laws import Ratio, speed_ratio_for, speed_ratio_for_level

    n1, rho1, k = call.number("speed_1_rpm"), call.number("density_1_kg_m3"), call.number("noise_factor")
    rho2 = call.assume("density_2_kg_m3", rho1)
    thin = rho2 / rho1
    first = {name: call.maybe(f"{name}_1_{unit}") for name, unit in _FOLLOW.items()}
    ways = ("speed_2_rpm", "flow_2_m3_s", "pressure_2_pa", "power_2_w", "level_2_db", "level_change_db")
    given = call.given_of(ways)[0]
    value = call.number(given)
    name = given.split("_2_")[0]
    if name in _FOLLOW and first[name] is None:
        raise InputError(
            f"{name}_1_{_FOLLOW[name]}", "", "given", f"a wanted {name} needs the one it comes from"
        )
    if given == "speed_2_rpm":
        s = value / n1
    elif given == "level_change_db" or name == "level":
        change = value if given == "level_change_db" else value - (first["level"] or 0.0)
        s = speed_ratio_for_level(change, k)
    else:
        ratio = value / (first[name] or math.inf)
        s = {"flow": ratio}.get(name) or speed_ratio_for(
            ratio if name == "pressure" else None, ratio if name == "power" else None, thin
        )
    law = Ratio(s, thin)
    outputs: dict[str, Any] = {"speed_2_rpm": n1 * s, "level_change_db": law.level_db(k)}
    for key, ratio in (("flow", law.flow), ("pressure", law.pressure), ("power", law.power)):
        if (begun := first[key]) is not None:
            outputs[f"{key}_2_{_FOLLOW[key]}"] = begun * ratio
    if first["level"] is not None:
        outputs["level_2_db"] = first["level"] + law.level_db(k)
    outputs.pop(given, None)
    relation = (
        f"n2/n1 = {s:.4g}: q ∝ {law.flow:.4g}, p ∝ {law.pressure:.4g}, P ∝ {law.power:.4g}, "
        f"level {law.level_db(k):+.3g} dB".replace("-", "−")
    )
    text = "along one system curve through the origin; where a pressure stands without any flow, take the working point"
    return Answer(outputs, tuple(n for n in ways if n in outputs), relation, (Warned("one-system", text),))


_FOLLOW = {"flow": "m3_s", "pressure": "pa", "power": "w", "level": "db"}

CURVE_FIELDS = (
    numbers("flows_m3_s", "of the fan, from 0 to free flow", low=0.0, label="curve: flows"),
    numbers("pressures_pa", "at these flows", low=0.0, label="curve: pressures"),
    numbers("shafts_w", "at the shaft, at these flows", low=0.0, label="curve: shaft power"),
)
SYSTEM_FIELDS = (
    positive("system_flow_m3_s", "one working point of the system"),
    at_least_0("system_pressure_pa", "at that flow, at 1.2 kg/m³"),
    at_least_0("fixed_pressure_pa", "that stands without any flow", default=0.0),
)  # fmt: skip


def curve_of(call: Call) -> FanCurve:
    """The fan's curve as it was given. Raises InputError for one that is none."""
    from fenwit.core.load.curve import FanCurve

    shafts = call.numbers("shafts_w") if call.has("shafts_w") else ()
    return FanCurve(call.numbers("flows_m3_s"), call.numbers("pressures_pa"), shafts)


def system_of(call: Call) -> System:
    """The system as it was given. Raises InputError as `System`."""
    from fenwit.core.load.curve import System

    return System(
        call.number("system_flow_m3_s"), call.number("system_pressure_pa"), call.number("fixed_pressure_pa")
    )


def _point(call: Call) -> Answer:
    from fenwit.core.load.curve import FASTEST, Air

    air = Air(
        curve_of(call),
        system_of(call),
        call.number("density_kg_m3"),
        call.whole("parallel"),
        call.whole("series"),
    )
    outputs: dict[str, Any] = {}
    if call.has("flow_m3_s"):
        call.forbid(("speed_fraction",), "the flow decides the speed: leave one of the two blank")
        speed = outputs["speed_fraction"] = air.speed_for_flow(call.number("flow_m3_s"))
        solved = "speed_fraction"
    else:
        speed, solved = call.number("speed_fraction"), "flow_m3_s"
        if speed > FASTEST:
            raise InputError("speed_fraction", speed, f"up to {FASTEST:g}", "fan laws do not reach so far")
    at = air.reached(speed)
    law = air.reached(1.0).flow_m3_s * speed
    if at.point is None:
        outputs |= {
            "flow_m3_s": 0.0, "pressure_pa": air.system.fixed_pa, "points": len(at.others), "stalled": None,
            "law_flow_m3_s": None,
            "shaft_w": None, "load_exponent": None,
        }  # fmt: skip
        text = f"no air: below {100 * air.least_speed():.3g} % of its speed the fan does not overcome the fixed pressure"
        shut = float(air.fan_pa(np.zeros(1), speed)[0]) if speed else 0.0
        relation = f"p at no flow {shown('p_pa', shut)} ≤ {shown('p_pa', air.system.fixed_pa)}"
        return Answer(outputs, (solved,), relation, (Warned("no-air", text),))
    outputs |= {
        "flow_m3_s": at.flow_m3_s, "pressure_pa": at.point.pressure_pa, "points": len(at.others) + 1,
        "stalled": at.point.stalled,
        "law_flow_m3_s": law, "shaft_w": at.shaft_w, "load_exponent": at.load_exponent,
    }  # fmt: skip
    warnings = []
    if at.point.stalled:
        warnings.append(
            Warned("stall", "left of the rightmost peak of its pressure: loud, unsteady, it may overload")
        )
    if any(p.stable for p in at.others):
        flows = ", ".join(shown("q_m3_s", p.flow_m3_s) for p in at.others if p.stable)
        warnings.append(Warned("other-point", f"coming down from full speed it may hold {flows} instead"))
    if abs(law / at.flow_m3_s - 1) > 0.01:
        warnings.append(
            Warned(
                "laws",
                f"plain fan laws say {shown('q_m3_s', law)}, {100 * (law / at.flow_m3_s - 1):+.0f} %".replace(
                    "-", "−"
                ),
            )
        )
    relation = (
        f"p_c(q/s) s² ρ/1.2 = p_fixed + k q²: {shown('p_pa', at.point.pressure_pa)} at {shown('q_m3_s', at.flow_m3_s)}, "
        f"s = {speed:.4g}, k = {q.plain(air.resistance, 4)} Pa/(m³/s)²"
    )
    return Answer(outputs, (solved,), relation, tuple(warnings))


def _beside(call: Call) -> Answer:
    from fenwit.core.load.curve import Air
    from fenwit.core.load.dead import Group as Side
    from fenwit.core.load.dead import standing_resistance

    curve = curve_of(call)
    air = Air(curve, system_of(call), call.number("density_kg_m3"))
    k_d = call.assume("dead_coefficient", standing_resistance(curve, air.density_kg_m3))
    side = Side(air, call.whole("alive"), call.whole("dead"), call.yes("shutters"), k_d)
    left = side.left(call.number("speed_fraction"))
    outputs = {
        "flow_m3_s": left.flow_m3_s, "pressure_pa": left.pressure_pa, "running_flow_m3_s": left.running_flow_m3_s,
        "back_flow_m3_s": left.back_flow_m3_s, "share": left.share,
    }  # fmt: skip
    relation = (
        f"Q = {side.alive} q − {side.dead} b = {side.alive} · {shown('q_m3_s', left.running_flow_m3_s)} − {side.dead} · "
        f"{shown('q_m3_s', left.back_flow_m3_s)} = {shown('q_m3_s', left.flow_m3_s)} at {shown('p_pa', left.pressure_pa)}"
    )
    warnings: tuple[Warned, ...] = ()
    if side.dead and not side.shutters and not call.has("dead_coefficient"):
        warnings = (
            Warned("estimate", "what flows back through a fan that stands is estimated from its curve"),
        )
    return Answer(outputs, ("flow_m3_s",), relation, warnings)


def _density(call: Call) -> Answer:
    from fenwit.core.load import air

    rh = call.number("relative_humidity")
    outputs: dict[str, float] = {}
    place = next((n for n in ("altitude_m", "pressure_pa") if call.has(n)), None)
    if place == "altitude_m":
        call.forbid(("pressure_pa",), "altitude and pressure could contradict each other: one is enough")
    if not call.has("density_kg_m3"):
        p = (
            call.number("pressure_pa")
            if place == "pressure_pa"
            else air.air_pressure_pa(call.number("altitude_m"))
        )
        t = call.number("temperature_c")
        rho = outputs["density_kg_m3"] = air.moist_density_kg_m3(p, t, rh)
        solved = "density_kg_m3"
        outputs["altitude_m" if place == "pressure_pa" else "pressure_pa"] = (
            air.altitude_of_m(p) if place == "pressure_pa" else p
        )
    else:
        rho = call.number("density_kg_m3")
        if place is not None:
            call.forbid(("temperature_c",), "one value too many: leave the one blank that is to be computed")
            p = (
                call.number("pressure_pa")
                if place == "pressure_pa"
                else air.air_pressure_pa(call.number("altitude_m"))
            )
            t = outputs["temperature_c"] = air.temperature_for_density_c(rho, p, rh)
            solved = "temperature_c"
            outputs["altitude_m" if place == "pressure_pa" else "pressure_pa"] = (
                air.altitude_of_m(p) if place == "pressure_pa" else p
            )
        elif call.has("temperature_c"):
            t = call.number("temperature_c")
            p = outputs["pressure_pa"] = air.pressure_for_density_pa(rho, t, rh)
            outputs["altitude_m"] = air.altitude_of_m(p)
            solved = "altitude_m"
        else:
            raise InputError(
                "temperature_c",
                "",
                "temperature, altitude or pressure",
                "a density needs one of them beside it",
            )
    air_is = f"p = {shown('p_pa', p)}, {t:.4g} °C, RH {rh:.3g}"
    relation = f"ρ = (p − e)/(287.05 T) + e/(461.495 T) at {air_is}: {rho:.5g} kg/m³"
    return Answer(outputs, (solved,), relation)


def density_of(call: Call) -> tuple[float, bool]:
    """Density of the air, and whether it follows from altitude and temperature [-]"""
    from fenwit.core.load.air import air_density_kg_m3

    if call.has("altitude_m") or call.has("temperature_c"):
        call.forbid(("density_kg_m3",), "density follows from altitude and temperature: one or the other")
        return air_density_kg_m3(call.number("altitude_m"), call.number("temperature_c")), True
    return call.number("density_kg_m3"), False


LEAST_RISE_K = 5.0
"""Below it two thermometers say too little [K]"""


def _rise(call: Call) -> Answer:
    from fenwit.core.load import air

    rho, reckoned = density_of(call)
    blank = call.blank_of(("heat_w", "flow_m3_s", "temperature_rise_k"))
    outputs: dict[str, float] = {}
    heat = call.number("heat_w") if blank != "heat_w" else 0.0
    flow = call.number("flow_m3_s") if blank != "flow_m3_s" else 0.0
    rise = call.number("temperature_rise_k") if blank != "temperature_rise_k" else 0.0
    if blank == "flow_m3_s":
        flow = outputs["flow_m3_s"] = air.flow_from_rise_m3_s(heat, rise, rho)
    elif blank == "temperature_rise_k":
        rise = outputs["temperature_rise_k"] = air.rise_from_flow_k(heat, flow, rho)
    else:
        heat = outputs["heat_w"] = air.heat_from_rise_w(flow, rise, rho)
    outputs["flow_m3_h"] = flow * 3600
    if reckoned:
        outputs["density_kg_m3"] = rho
    relation = (
        f"q = P/(ρ c_p ΔT) = {shown('p_w', heat)}/({rho:.4g} · 1006 · {shown('t_k', rise)}) = {shown('q_m3_s', flow)} = "
        f"{shown('q_m3_h', flow * 3600)}"
    )
    warnings: tuple[Warned, ...] = ()
    if rise < LEAST_RISE_K:
        warnings = (
            Warned("small-rise", f"under {LEAST_RISE_K:g} K two thermometers say too little of the flow"),
        )
    return Answer(outputs, (blank,), relation, warnings)


def _noise_sum(call: Call) -> Answer:
    from fenwit.core.load import noise

    outputs: dict[str, float] = {}
    warnings: list[Warned] = []
    background = call.maybe("background_db")
    if call.has("total_db"):
        call.forbid(
            ("levels_db", "level_db", "count"), "a total is given: only a background can be taken off it"
        )
        total = call.number("total_db")
        if background is None:
            raise InputError("background_db", "", "given", "there is nothing to take off the total")
        result = outputs["source_db"] = noise.without_background_db(total, background)
        solved = "source_db"
        relation = f"10 log10(10^{total / 10:.4g} − 10^{background / 10:.4g}) = {result:.4g} dB"
        if total - background < noise.JUST_HEARD_DB:
            text = "less than 3 dB above the background: what is left of it is unsure"
            warnings.append(Warned("near-background", text))
    else:
        if call.given_of(("levels_db", "level_db"))[0] == "levels_db":
            call.forbid(("count",), "these levels are listed one by one")
            levels = list(call.numbers("levels_db"))
            alike = 0.0
        else:
            levels = [call.number("level_db")]
            alike = noise.alike_db(call.number("count"))
        result = noise.sum_db(levels) + alike
        if background is not None:
            result = noise.sum_db([result, background])
        outputs["total_db"] = result
        solved = "total_db"
        relation = f"10 log10 Σ 10^(L/10) = {result:.4g} dB"
    if call.has("distance_1_m") or call.has("distance_2_m"):
        near, far = call.number("distance_1_m"), call.number("distance_2_m")
        there = outputs["level_at_2_db"] = noise.at_distance_db(result, near, far)
        relation += f"; − 20 log10({far:g}/{near:g}) in the open = {there:.4g} dB"
        warnings.append(Warned("open", "distance takes so much off in the open; in a room it takes less"))
    return Answer(outputs, (solved,), relation, tuple(warnings))


def _noise_speed(call: Call) -> Answer:
    from fenwit.core.load import noise
    from fenwit.core.load.laws import Ratio, speed_ratio_for_level

    n1, k = call.number("speed_1_rpm"), call.number("noise_factor")
    more = noise.alike_db(call.number("count_2")) - noise.alike_db(call.number("count_1"))
    level = call.maybe("level_1_db")
    given = call.given_of(("speed_2_rpm", "level_change_db", "level_2_db"))[0]
    value = call.number(given)
    if given == "level_2_db" and level is None:
        raise InputError("level_1_db", "", "given", "a wanted level needs the one it comes from")
    if given == "speed_2_rpm":
        n2 = value
        change = Ratio(n2 / n1).level_db(k) + more
    else:
        change = value if given == "level_change_db" else value - (level or 0.0)
        n2 = n1 * speed_ratio_for_level(change - more, k)
    outputs: dict[str, float] = {"speed_2_rpm": n2, "level_change_db": change}
    if level is not None:
        outputs["level_2_db"] = level + change
    outputs.pop(given, None)
    solved = tuple(outputs)
    if call.has("blades"):
        blades = call.number("blades")
        outputs |= {
            "blade_pass_1_hz": noise.blade_pass_hz(n1, blades),
            "blade_pass_2_hz": noise.blade_pass_hz(n2, blades),
        }
    relation = f"{k:g} log10({n2:.5g}/{n1:.5g}) + 10 log10(N2/N1) = {change:+.4g} dB".replace("-", "−")
    return Answer(outputs, solved, relation)


def _energy(call: Call) -> Answer:
    from fenwit.core.load.energy import energy_kwh, payback_years

    powers, hours, days = call.numbers("powers_w"), call.numbers("hours_per_day"), call.number("days")
    kwh = energy_kwh(powers, hours, days)
    outputs: dict[str, Any] = {"energy_kwh": kwh}
    price = call.maybe("price_per_kwh")
    if price is not None:
        outputs["cost"] = kwh * price
    if call.has("compare_powers_w"):
        other = call.numbers("compare_powers_w")
        if len(other) != len(powers):
            raise InputError(
                "compare_powers_w", len(other), f"{len(powers)} values", "one power for each of the others"
            )
        saved = outputs["saving_kwh"] = energy_kwh(other, hours, days) - kwh
        if price is not None:
            outputs["saving"] = saved * price
            if call.has("extra_cost"):
                outputs["payback_years"] = payback_years(call.number("extra_cost"), saved * price)
    relation = f"Σ P h · days/1000 = {kwh:.4g} kWh"
    return Answer(outputs, ("energy_kwh",), relation)


_R6 = {
    "flows_m3_s": "0, 0.003, 0.006, 0.009, 0.012, 0.015, 0.018, 0.021, 0.024",
    "pressures_pa": "42, 36, 30, 26, 24.5, 22, 17, 10, 0",
    "shafts_w": "1.05, 1.02, 1.00, 0.99, 1.00, 1.02, 1.03, 1.00, 0.92",
}

CARDS = (
    Card(
        "fan-laws", "fan laws between two speeds", Group.AIR, "q ∝ n, p ∝ n² ρ, P ∝ n³ ρ, level + 55 log10(n2/n1)",
        (
            positive("speed_1_rpm"), positive("flow_1_m3_s"), positive("pressure_1_pa"), positive("power_1_w"),
            Field("level_1_db"),
            positive("density_1_kg_m3", default=1.2), positive("density_2_kg_m3", "left out: as the first"), _K,
            positive("speed_2_rpm"), positive("flow_2_m3_s"), positive("pressure_2_pa"), positive("power_2_w"),
            Field("level_2_db"),
            Field("level_change_db"),
        ),
        _laws, "one fan, one size, one system curve through the origin", "affinity speed flow pressure power noise",
        {"speed_1_rpm": "1400", "flow_1_m3_s": "0.5", "pressure_1_pa": "180", "power_1_w": "160", "level_1_db": "58",
        "speed_2_rpm": "900"},
        ("flow_2_m3_s", "pressure_2_pa", "power_2_w", "speed_2_rpm"),
    ),
    Card(
        "fan-point", "working point of fan and system", Group.AIR, "p_c(q/s) s² ρ/1.2 = p_fixed + k q²",
        (
            *CURVE_FIELDS, *SYSTEM_FIELDS, RHO, count("parallel", default=1.0, high=1000.0),
            count("series", default=1.0, high=1000.0),
            Field("speed_fraction", "of the curve's speed", low=0.0, default=1.0),
            positive("flow_m3_s", "wanted: gives the speed"),
        ),
        _point, "within the curve; reached from still air",
        "fan curve system intersection stall airflow static pressure",
        {**_R6, "system_flow_m3_s": "0.015", "system_pressure_pa": "22"},
        ("flow_m3_s", "pressure_pa", "shaft_w", "speed_fraction"),
        picked=("points",),
    ),
    Card(
        "fan-bank", "fans side by side, some of them dead", Group.AIR, "Q = alive · q − dead · b, p = k_d b²",
        (
            *CURVE_FIELDS, *SYSTEM_FIELDS, count("alive"), count("dead", default=0.0, low=0.0),
            Field("shutters", "that fall shut behind a dead fan", FieldKind.YES, default=False),
            Field("speed_fraction", "of the curve's speed", low=0.0, high=2.0, above=True, default=1.0),
            positive("dead_coefficient", "Pa/(m³/s)² of one that stands; left out: estimated"), RHO,
        ),
        _beside, "fans alike, at one speed", "redundancy parallel backflow shutter dead failed",
        {**_R6, "system_flow_m3_s": "0.09", "system_pressure_pa": "22", "alive": "3", "dead": "3"},
        ("flow_m3_s", "share", "back_flow_m3_s"),
    ),
    Card(
        "air-density", "density of air", Group.AIR, "ρ = (p − e)/(287.05 T) + e/(461.495 T)",
        (
            Field("altitude_m", low=-500.0, high=11000.0, default=0.0), positive("pressure_pa"),
            Field("temperature_c", low=-60.0, high=400.0, default=20.0), share("relative_humidity", default=0.0),
            positive("density_kg_m3"),
        ),
        _density, "standard atmosphere, −500 to 11 000 m", "altitude pressure humidity weather thin air",
        {"altitude_m": "820"}, ("density_kg_m3", "pressure_pa", "temperature_c"),
    ),
    Card(
        "air-temperature-rise", "airflow from temperature rise", Group.AIR, "q = P/(ρ c_p ΔT)",
        (
            positive("heat_w", "all that warms the air, the motor too"), positive("flow_m3_s"),
            positive("temperature_rise_k"), RHO,
            Field("altitude_m", low=-500.0, high=11000.0, default=0.0),
            Field("temperature_c", low=-60.0, high=400.0, default=20.0),
        ),
        _rise, "steady for ten minutes; five points on each side, out of sight of the heater",
        "heater furnace coil delta t cfm",
        {"heat_w": "9.4k", "temperature_rise_k": "22", "altitude_m": "820"},
        ("flow_m3_s", "temperature_rise_k", "heat_w"),
    ),
    Card(
        "noise-sum", "levels together, a background taken off", Group.AIR, "10 log10 Σ 10^(L/10)",
        (
            numbers("levels_db", "one by one"), Field("level_db", "of one of several alike"),
            count("count", default=1.0),
            Field("background_db"), Field("total_db"), positive("distance_1_m"), positive("distance_2_m"),
        ),
        _noise_sum, "sources that do not know of each other", "decibel sum background distance sound",
        {"level_db": "40", "count": "6"}, ("total_db", "source_db", "level_at_2_db"),
    ),
    Card(
        "noise-speed", "noise at another speed", Group.AIR, "K log10(n2/n1) + 10 log10(N2/N1)",
        (
            positive("speed_1_rpm"), positive("speed_2_rpm"), Field("level_change_db"), Field("level_2_db"), _K,
            count("count_1", default=1.0), count("count_2", default=1.0), Field("level_1_db"), count("blades"),
        ),
        _noise_speed, "air noise; hum and bearings do not follow it", "decibel quiet blade pass tone",
        {"speed_1_rpm": "2400", "speed_2_rpm": "1500", "level_1_db": "38", "blades": "7"},
        ("level_change_db", "level_2_db", "speed_2_rpm"),
    ),
    Card(
        "energy-year", "energy of a year", Group.AIR, "Σ P h · days/1000",
        (
            numbers("powers_w", "of each step", low=0.0),
            numbers("hours_per_day", "of each step", low=0.0, high=24.0, label="hours a day"),
            Field("days", low=0.0, high=366.0, default=365.0), at_least_0("price_per_kwh", label="price of a kWh"),
            numbers("compare_powers_w", "of another way, step by step", low=0.0),
            at_least_0("extra_cost", "that the saving must pay"),
        ),
        _energy, "", "kwh cost saving payback watts",
        {"powers_w": "18, 32, 60", "hours_per_day": "10, 6, 2", "price_per_kwh": "0.3"},
    ),
)  # fmt: skip
