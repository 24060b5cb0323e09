"""Electric cards: reactance, bleed, fuse, leads and tracks, snubber, triac, preferred values, units."""

from __future__ import annotations

import math

from fenwit.core.desk import (
    Answer,
    Call,
    Card,
    Field,
    Group,
    Warned,
    at_least_0,
    choice,
    count,
    positive,
    share,
)  # fmt: skip
from fenwit.core.desk.typed import SCALED, shown
from fenwit.core.errors import InputError

_MAINS_HZ = positive("frequency_hz", default=50.0)


def _reactance(call: Call) -> Answer:
    from fenwit.core.circuit import reactance as x

    if call.has("capacitance_f"):
        call.forbid(("inductance_h", "part"), "one part at a time: its reactance is asked for")
    elif call.has("inductance_h"):
        call.forbid(("part",), "the part is given: there is nothing to choose")
    inductor = call.has("inductance_h")
    if not inductor and not call.has("capacitance_f"):
        inductor = call.word("part") == "inductor"
    name = "inductance_h" if inductor else "capacitance_f"
    blank = call.blank_of(("frequency_hz", "reactance_ohm", name))
    f = call.number("frequency_hz") if blank != "frequency_hz" else None
    ohm = call.number("reactance_ohm") if blank != "reactance_ohm" else None
    part = call.number(name) if blank != name else None
    outputs: dict[str, float] = {}
    if ohm is None:
        assert f is not None
        assert part is not None
        ohm = outputs["reactance_ohm"] = (x.inductor_ohm if inductor else x.capacitor_ohm)(f, part)
    elif part is None:
        assert f is not None
        part = outputs[name] = ohm / x.inductor_ohm(f, 1.0) if inductor else x.capacitance_for_f(f, ohm)
    else:
        f = outputs["frequency_hz"] = (
            x.frequency_for_hz(ohm, inductance_h=part) if inductor else x.frequency_for_hz(ohm, part)
        )
    assert f is not None
    volts = call.maybe("voltage_v")
    if volts is not None:
        outputs |= {"current_a": volts / ohm, "reactive_power_var": volts**2 / ohm}
    hertz, said = shown("x_hz", f), shown("x_h" if inductor else "x_f", part)
    inner = f"2π · {hertz} · {said}"
    return Answer(outputs, (blank,), f"X = {inner if inductor else f'1/({inner})'} = {shown('x_ohm', ohm)}")


def _guess(call: Call) -> Answer:
    from fenwit.core.circuit import reactance as x

    supply, f, pf = call.number("supply_voltage_v"), call.number("frequency_hz"), call.number("power_factor")
    given = call.given_of(("fan_impedance_ohm", "full_current_a"))[0]
    z = call.number(given) if given == "fan_impedance_ohm" else supply / call.number(given)
    outputs: dict[str, float] = {}
    if call.given_of(("fan_voltage_v", "capacitance_f"))[0] == "fan_voltage_v":
        volts = call.number("fan_voltage_v")
        ohm = x.straight_reactance_ohm(supply, volts, z)
        farads = outputs["capacitance_f"] = x.capacitance_for_f(f, ohm)
        solved = "capacitance_f"
    else:
        farads = call.number("capacitance_f")
        ohm = x.capacitor_ohm(f, farads)
        volts = outputs["fan_voltage_v"] = supply * z / (z + ohm)
        solved = "fan_voltage_v"
    phasor = x.phasor_reactance_ohm(supply, volts, z, pf)
    outputs |= {
        "reactance_ohm": ohm,
        "phasor_capacitance_f": x.capacitance_for_f(f, phasor),
        "phasor_fan_voltage_v": x.phasor_fan_v(supply, z, pf, ohm),
    }
    relation = (
        f"X = Z (V_s − V_f)/V_f = {shown('z_ohm', z)} · ({shown('v_v', supply)} − {shown('v_v', volts)})/"
        f"{shown('v_v', volts)} = {shown('x_ohm', ohm)}"
    )
    text = (
        "a guess: the impedance of a motor changes with its slip; a job computes it from a model of the motor"
    )
    return Answer(outputs, (solved,), relation, (Warned("guess", text),))


def _bleed(call: Call) -> Answer:
    from fenwit.core.size.small_parts import bleed_limit_ohm, discharge_time_s, surge_energy_j

    farads, safe = call.number("capacitance_f"), call.number("safe_voltage_v")
    mains = call.given_of(("voltage_v", "initial_voltage_v"))[0] == "voltage_v"
    if mains:
        high = call.number("voltage_v") * (1 + call.number("mains_tolerance"))
        crest = math.sqrt(2) * high
    else:
        high = crest = call.number("initial_voltage_v")
    if safe >= crest:
        raise InputError("safe_voltage_v", safe, f"below {crest:.4g} V", "it is safe from the beginning")
    if call.has("resistance_ohm"):
        call.forbid(("time_s",), "the resistor decides the time: leave one of the two blank")
        ohm = call.number("resistance_ohm")
        time, solved = discharge_time_s(farads, crest, safe, ohm), "time_s"
        outputs = {"time_s": time}
    else:
        time = call.number("time_s")
        ohm, solved = bleed_limit_ohm(farads, crest, safe, time), "resistance_ohm"
        outputs = {"resistance_ohm": ohm}
    outputs |= {
        "initial_voltage_v": crest, "power_w": high**2 / ohm, "energy_j": surge_energy_j(farads, crest),
        "time_constant_s": ohm * farads, "five_time_constants_s": 5 * ohm * farads,
    }  # fmt: skip
    relation = (
        f"t = R C ln(V0/V_safe) = {shown('r_ohm', ohm)} · {shown('c_f', farads)} · "
        f"ln({shown('v_v', crest)}/{shown('v_v', safe)}) = {shown('t_s', time)}"
    )
    return Answer(outputs, (solved,), relation)


_STEPS = {"series-capacitor": 2 * math.sqrt(2), "reservoir": math.sqrt(2), "dc": 1.0}
FUSE_HOLDS = 0.3
"""Share of its melting I²t that a fuse bears over and over [-]"""


def _fuse(call: Call) -> Answer:
    from fenwit.core.size.classes import FUSE_FACTOR, next_fuse
    from fenwit.core.size.small_parts import limiter_least_ohm, surge_energy_j

    outputs: dict[str, float | bool] = {}
    relation, solved = "", list[str]()
    rush = (
        "voltage_v",
        "capacitance_f",
        "limiter_ohm",
        "contact_current_a",
        "fuse_i2t_a2s",
        "kind",
        "mains_tolerance",
    )
    if any(call.has(n) for n in rush) or not call.has("running_current_a"):
        kind, volts = call.word("kind"), call.number("voltage_v")
        step = _STEPS[kind] * volts * (1 + call.number("mains_tolerance"))
        farads = call.number("capacitance_f")
        if call.given_of(("limiter_ohm", "contact_current_a"))[0] == "limiter_ohm":
            ohm = call.number("limiter_ohm")
        else:
            ohm = outputs["limiter_ohm"] = limiter_least_ohm(step, call.number("contact_current_a"))
            solved.append("limiter_ohm")
        energy = surge_energy_j(farads, step)
        i2t = energy / ohm
        outputs |= {
            "step_voltage_v": step, "inrush_peak_a": step / ohm, "inrush_i2t_a2s": i2t, "surge_energy_j": energy,
        }  # fmt: skip
        relation = (
            f"I = V/R = {shown('v_v', step)}/{shown('r_ohm', ohm)} = {shown('i_a', step / ohm)}; "
            f"I²t = ½ I² R C = {shown('i_a2s', i2t)}"
        )
        melts = call.maybe("fuse_i2t_a2s")
        if melts is not None:
            outputs["fuse_holds"] = i2t <= FUSE_HOLDS * melts
    running = call.maybe("running_current_a")
    if running is not None:
        try:
            fuse = next_fuse(FUSE_FACTOR * running)
        except InputError as error:
            raise InputError("running_current_a", running, "up to 12.5 A", error.reason) from None
        outputs["fuse_a"] = fuse
        words = f"fuse at or above {FUSE_FACTOR} · {shown('i_a', running)}: {shown('i_a', fuse)}"
        relation = f"{relation}; {words}" if relation else words
    return Answer(outputs, tuple(solved), relation)


def _wire(call: Call) -> Answer:
    from fenwit.core.circuit.copper import awg_area_mm2, lead_ohm

    if call.has("area_mm2"):
        call.forbid(("awg",), "an area and a gauge could contradict each other: one is enough")
    area_name = "awg" if call.has("awg") else "area_mm2"
    blank = call.blank_of(("current_a", "length_m", area_name, "drop_v"))
    conductors, warm = call.number("conductors"), call.number("temperature_c")
    supply = call.maybe("supply_voltage_v")
    value = {n: call.number(n) for n in ("current_a", "length_m", area_name, "drop_v") if n != blank}
    outputs: dict[str, float] = {}
    area = None
    if blank != area_name:
        area = value[area_name]
        if area_name == "awg":
            area = outputs["area_mm2"] = awg_area_mm2(area)
    unit_ohm = lead_ohm(1.0, 1.0, conductors, warm)
    if blank == "drop_v":
        assert area is not None
        drop = outputs["drop_v"] = value["current_a"] * unit_ohm * value["length_m"] / area
    else:
        drop = value["drop_v"]
    if supply is not None and drop >= supply:
        raise InputError(
            "supply_voltage_v",
            supply,
            f"above {drop:.4g} V",
            "the lead alone would take as much: nothing is left",
        )
    if blank == "current_a":
        assert area is not None
        value["current_a"] = outputs["current_a"] = drop * area / (unit_ohm * value["length_m"])
    elif blank == "length_m":
        assert area is not None
        value["length_m"] = outputs["length_m"] = drop * area / (unit_ohm * value["current_a"])
    elif blank == area_name:
        area = outputs["area_mm2"] = value["current_a"] * unit_ohm * value["length_m"] / drop
    assert area is not None
    ohm = lead_ohm(value["length_m"], area, conductors, warm)
    outputs |= {"resistance_ohm": ohm, "loss_w": value["current_a"] * drop}
    if supply is not None:
        outputs |= {"end_voltage_v": supply - drop, "drop_fraction": drop / supply}
    relation = (
        f"ΔV = I ρ n L/A = {shown('i_a', value['current_a'])} · {conductors:g} · {shown('l_m', value['length_m'])} · "
        f"{unit_ohm / conductors:.5f} Ω·mm²/m / {shown('a_mm2', area)} = {shown('v_v', drop)}"
    )
    return Answer(outputs, (blank,), relation)


def _track(call: Call) -> Answer:
    from fenwit.core.circuit import copper

    um, rise, layer = call.number("copper_um"), call.number("rise_k"), copper.Layer(call.word("layer"))
    outputs: dict[str, float] = {}
    if call.given_of(("width_mm", "current_a"))[0] == "width_mm":
        width, solved = call.number("width_mm"), "current_a"
        amps = outputs["current_a"] = copper.track_current_a(width, um, rise, layer)
    else:
        amps, solved = call.number("current_a"), "width_mm"
        width = outputs["width_mm"] = copper.track_width_mm(amps, um, rise, layer)
    outputs["resistance_ohm_per_m"] = copper.track_ohm_per_m(width, um)
    warnings: tuple[Warned, ...] = ()
    low, high = copper.TRACK_VALID_A
    cool, warm = copper.TRACK_VALID_K
    if not low <= amps <= high or not cool <= rise <= warm:
        text = f"the relation was measured for {low:g} to {high:g} A and {cool:g} to {warm:g} K of rise"
        warnings = (Warned("outside", text),)
    mil = width / copper.MIL_MM * um * 1e-3 / copper.MIL_MM
    k = 0.048 if layer is copper.Layer.EXTERNAL else 0.024
    relation = f"I = k ΔT^0.44 A^0.725 = {k} · {rise:g}^0.44 · {mil:.4g}^0.725 = {shown('i_a', amps)}"
    return Answer(outputs, (solved,), relation, warnings)


def _snubber(call: Call) -> Answer:
    from fenwit.core.regulator.snubber import snubber_loss_w

    volts, f, ohm = call.number("voltage_v"), call.number("frequency_hz"), call.number("resistance_ohm")
    step = call.number("step_voltage_v")
    fires = call.assume("firing_voltage_v", step)
    outputs: dict[str, float] = {}
    if call.given_of(("capacitance_f", "loss_w"))[0] == "capacitance_f":
        farads, solved = call.number("capacitance_f"), "loss_w"
        loss = outputs["loss_w"] = snubber_loss_w(farads, step, fires, f)
    else:
        loss, solved = call.number("loss_w"), "capacitance_f"
        each = f * (step**2 + fires**2)
        if each == 0:
            raise InputError("step_voltage_v", step, "above 0 V", "without a jump of volts nothing is lost")
        farads = outputs["capacitance_f"] = loss / each
    omega_c = 2 * math.pi * f * farads
    off = volts * omega_c / math.sqrt(1 + (omega_c * ohm) ** 2)
    outputs |= {"off_current_a": off, "off_loss_w": off**2 * ohm, "discharge_current_a": fires / ohm}
    relation = (
        f"P = f C (V_step² + V_fire²) = {shown('f_hz', f)} · {shown('c_f', farads)} · "
        f"({shown('v_v', step)}² + {shown('v_v', fires)}²) = {shown('p_w', loss)}"
    )
    return Answer(outputs, (solved,), relation)


def _triac(call: Call) -> Answer:
    from fenwit.core.regulator.resistive import firing_for_deg, power_share

    supply, f, ohm = (
        call.number("supply_voltage_v"),
        call.number("frequency_hz"),
        call.maybe("resistance_ohm"),
    )
    ways = ("firing_angle_deg", "rms_voltage_v", "power_fraction", "power_w")
    given = call.given_of(ways)[0]
    value = call.number(given)
    if given == "power_w" and ohm is None:
        raise InputError("resistance_ohm", "", "above 0 Ω", "watts need the ohms of the load")
    if given == "firing_angle_deg":
        fraction = power_share(value)
        angle = value
    else:
        fraction = value
        if given == "rms_voltage_v":
            fraction = (value / supply) ** 2
        elif given == "power_w":
            assert ohm is not None
            fraction = value * ohm / supply**2
        if fraction > 1 + 1e-12:
            most = {
                "rms_voltage_v": f"{supply:g} V",
                "power_fraction": "1",
                "power_w": f"{supply**2 / (ohm or 1):.4g} W",
            }
            raise InputError(given, value, f"up to {most[given]}", "a triac gives no more than full power")
        angle = firing_for_deg(min(fraction, 1.0))
    rms = supply * math.sqrt(fraction)
    outputs = {
        "firing_angle_deg": angle, "rms_voltage_v": rms, "power_fraction": fraction,
        "delay_s": angle / 360 / f, "power_factor": rms / supply,
        "firing_voltage_v": math.sqrt(2) * supply * math.sin(math.radians(angle)) if angle < 180 else 0.0,
    }  # fmt: skip
    if ohm is not None:
        outputs |= {"current_a": rms / ohm, "power_w": rms**2 / ohm}
    solved = tuple(n for n in ways if n != given and n in outputs)
    outputs.pop(given)
    relation = (
        f"P/P_full = (π − α + ½ sin 2α)/π = {fraction:.4g} at α = {angle:.4g}°; "
        f"V = V_s √(P/P_full) = {shown('v_v', rms)}"
    )
    text = "for a resistive load only: a motor's current flows past the mains' zero, and its volts differ"
    return Answer(outputs, solved, relation, (Warned("resistive", text),))


def _preferred(call: Call) -> Answer:
    from fenwit.core import quantity as q

    value, series = call.number("value"), f"E{call.word('series')}"
    around = q.preferred(series, value / 11, value * 11)
    below = float(around[around <= value * (1 + 1e-9)][-1])
    above = float(around[around >= value * (1 - 1e-9)][0])
    # By ratio; of two equally near the lower.
    near = below if value / below <= above / value * (1 + 1e-12) else above
    outputs = {"nearest": near, "below": below, "above": above}
    return Answer(
        outputs, ("nearest",), f"nearest by ratio in {series}: {value:.4g} / {near:.4g} = {value / near:.4g}"
    )


_INCH, _LBF = 0.0254, 0.112984829
_PSI = 6894.757293168
UNITS: dict[str, tuple[str, float, float]] = {
    **{n: ("flow", f, 0.0) for n, f in (
        ("m3/s", 1.0), ("m3/h", 1 / 3600), ("l/s", 1e-3), ("l/min", 1e-3 / 60), ("cfm", (12 * _INCH) ** 3 / 60))},
    **{n: ("pressure", f, 0.0) for n, f in (
        ("Pa", 1.0), ("hPa", 100.0), ("kPa", 1e3), ("mbar", 100.0), ("bar", 1e5), ("mmH2O", 9.80665),
        ("inH2O", 249.08891), ("psi", _PSI))},
    **{n: ("power", f, 0.0) for n, f in (
        ("W", 1.0), ("kW", 1e3), ("hp", 745.69987), ("BTU/h", 1055.05585 / 3600))},
    **{n: ("speed of turning", f, 0.0) for n, f in (
        ("rpm", 2 * math.pi / 60), ("rad/s", 1.0), ("rev/s", 2 * math.pi))},
    **{n: ("length", f, 0.0) for n, f in (("m", 1.0), ("mm", 1e-3), ("in", _INCH), ("ft", 12 * _INCH))},
    **{n: ("speed", f, 0.0) for n, f in (("m/s", 1.0), ("km/h", 1 / 3.6), ("ft/min", 12 * _INCH / 60))},
    **{n: ("torque", f, 0.0) for n, f in (
        ("Nm", 1.0), ("mNm", 1e-3), ("ozf.in", 7.0615518e-3), ("lbf.in", _LBF))},
    **{n: ("energy", f, 0.0) for n, f in (("J", 1.0), ("Wh", 3600.0), ("kWh", 3.6e6), ("BTU", 1055.05585))},
    **{n: ("area", f, 0.0) for n, f in (
        ("m2", 1.0), ("mm2", 1e-6), ("in2", _INCH**2), ("ft2", (12 * _INCH) ** 2))},
    "K": ("temperature", 1.0, 0.0), "C": ("temperature", 1.0, 273.15),
    "F": ("temperature", 5 / 9, 273.15 - 160 / 9),
}  # fmt: skip
"""What kind each unit is of, and its factor and offset to the SI unit"""


def _units(call: Call) -> Answer:
    value, one, other = call.number("value"), call.word("from"), call.word("to")
    kind, factor, offset = UNITS[one]
    into, over, shift = UNITS[other]
    if kind != into:
        fits = ", ".join(n for n, (k, _, _) in UNITS.items() if k == kind)
        raise InputError("to", other, fits, f"{one} is a {kind}, {other} a {into}")
    si = value * factor + offset
    if kind == "temperature" and si < -1e-9:
        raise InputError("value", value, f"at least {-offset / factor:.6g} {one}", "below absolute zero")
    result = (si - shift) / over
    return Answer({"result": result}, ("result",), f"{value:g} {one} = {result:.6g} {other}")


CARDS = (
    Card(
        "reactance", "reactance of a capacitor or inductor", Group.ELECTRIC, "X = 1/(2π f C) = 2π f L",
        (
            positive("frequency_hz"), positive("capacitance_f"), positive("inductance_h"), positive("reactance_ohm"),
            choice("part", ("capacitor", "inductor"), "which part is sought", default="capacitor"),
            at_least_0("voltage_v", "across it; then amps and var are given too"),
        ),
        _reactance, "sine volts; an ideal part", "impedance ohms capacitor coil choke var",
        {"frequency_hz": "50", "capacitance_f": "2u7", "voltage_v": "230"},
        ("reactance_ohm", "capacitance_f", "current_a"),
    ),
    Card(
        "series-capacitor-guess", "series capacitor, a guess by hand", Group.ELECTRIC, "X = Z (V_s − V_f)/V_f",
        (
            positive("supply_voltage_v"), _MAINS_HZ, positive("fan_impedance_ohm"), positive("full_current_a"),
            positive("fan_voltage_v"), positive("capacitance_f"), share("power_factor", "lagging", default=1.0),
        ),
        _guess, "a guess: the impedance of a motor is taken as fixed, and it is not",
        "fan speed capacitor dropper volts estimate",
        {"supply_voltage_v": "230", "full_current_a": "318m", "fan_voltage_v": "100"},
        ("capacitance_f", "fan_voltage_v"),
    ),
    Card(
        "bleed-discharge", "bleed resistor and discharge time", Group.ELECTRIC, "t = R C ln(V0/V_safe)",
        (
            positive("capacitance_f"), positive("voltage_v", "of the mains"),
            Field("mains_tolerance", "by how much the mains may be high", low=0.0, high=0.5, default=0.1),
            positive("initial_voltage_v", "that it holds, where it is not the mains"),
            positive("safe_voltage_v", default=34.0), positive("resistance_ohm"), positive("time_s", default=1.0),
        ),
        _bleed, "one capacitor, one resistor; read the volts afterwards all the same",
        "safety capacitor discharge stored charge seconds", {"capacitance_f": "2u7", "voltage_v": "230"},
        ("resistance_ohm", "time_s", "power_w"),
    ),
    Card(
        "fuse-inrush", "inrush, limiter and fuse", Group.ELECTRIC, "I = V/R, I²t = ½ I² R C",
        (
            choice("kind", tuple(_STEPS), "what is switched on", default="series-capacitor"), positive("voltage_v"),
            Field("mains_tolerance", "by how much the mains may be high", low=0.0, high=0.5, default=0.0),
            positive("capacitance_f"), positive("limiter_ohm"),
            positive("contact_current_a", "peak the contacts may close on"),
            positive("running_current_a"), positive("fuse_i2t_a2s", "melting I²t of the fuse"),
        ),
        _fuse, "a capacitor charged the wrong way is worst; the source's own ohms are left out",
        "surge current contact switch reservoir slow-blow",
        {"voltage_v": "230", "capacitance_f": "4u7", "contact_current_a": "10", "running_current_a": "320m"},
        ("limiter_ohm", "inrush_peak_a", "inrush_i2t_a2s"), picked=("fuse_a",),
    ),
    Card(
        "wire-drop", "voltage drop of a lead", Group.ELECTRIC, "ΔV = I ρ n L/A",
        (
            positive("current_a"), positive("length_m", "one way"), positive("area_mm2", label="area of one conductor"),
            Field("awg", "gauge in place of the area", low=-3, high=56, label="gauge (AWG)"), positive("drop_v"),
            count("conductors", "in series: 2 for there and back", default=2.0, high=100.0),
            Field("temperature_c", "of the copper", low=-200.0, high=400.0, default=20.0), positive("supply_voltage_v"),
        ),
        _wire, "copper; direct current or mains in thin leads", "cable cross section copper loss awg volts",
        {"current_a": "1.5", "length_m": "4", "area_mm2": "0.5", "supply_voltage_v": "12"},
        ("drop_v", "area_mm2", "length_m", "current_a"),
    ),
    Card(
        "track-current", "what a track of a board bears", Group.ELECTRIC, "I = k ΔT^0.44 A^0.725",
        (
            positive("width_mm"), positive("current_a"), positive("copper_um", "thickness", default=35.0),
            positive("rise_k", "over the board", default=20.0),
            choice("layer", ("external", "internal"), default="external"),
        ),
        _track, "0.1 to 35 A, 10 to 100 K of rise", "pcb trace copper width heating",
        {"width_mm": "1"}, ("current_a", "width_mm"),
    ),
    Card(
        "rc-snubber-loss", "heat of a snubber", Group.ELECTRIC, "P = f C (V_step² + V_fire²)",
        (
            positive("voltage_v", "of the mains"), _MAINS_HZ, positive("resistance_ohm"),
            at_least_0("step_voltage_v", "jump at extinction"),
            at_least_0("firing_voltage_v", "as it fires; left out: as the step"),
            positive("capacitance_f"), positive("loss_w"),
        ),
        _snubber, "R and C across a triac; the capacitor is charged fully each time", "triac rc dv/dt resistor watts",
        {"voltage_v": "230", "resistance_ohm": "100", "step_voltage_v": "100", "capacitance_f": "47n"},
        ("loss_w", "capacitance_f"),
    ),
    Card(
        "triac-power", "triac on a resistive load", Group.ELECTRIC, "P/P_full = (π − α + ½ sin 2α)/π",
        (
            positive("supply_voltage_v"), _MAINS_HZ, positive("resistance_ohm"),
            Field("firing_angle_deg", low=0.0, high=180.0), at_least_0("rms_voltage_v"), at_least_0("power_fraction"),
            at_least_0("power_w"),
        ),
        _triac, "a resistive load: lamp, heater, dummy load; no motor", "phase angle dimmer lamp heater rms firing",
        {"supply_voltage_v": "230", "firing_angle_deg": "90", "resistance_ohm": "529"},
        ("rms_voltage_v", "power_fraction", "firing_angle_deg"),
    ),
    Card(
        "preferred-value", "nearest preferred value", Group.PARTS, "nearest by ratio in E6, E12 or E24",
        (positive("value", dimension=SCALED), choice("series", ("6", "12", "24"), default="12")),
        _preferred, "E6, E12, E24", "e12 e24 series standard resistor capacitor", {"value": "3.385u"},
        picked=("nearest", "below", "above"),
    ),
    Card(
        "units", "one unit into another", Group.PARTS, "value · factor",
        (Field("value"), choice("from", tuple(UNITS)), choice("to", tuple(UNITS))),
        _units, "exact", "convert conversion cfm inch psi fahrenheit horsepower",
        {"value": "100", "from": "cfm", "to": "m3/h"},
    ),
)  # fmt: skip
