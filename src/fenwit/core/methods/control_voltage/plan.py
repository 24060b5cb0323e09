"""The order in which an EC fan is commissioned: what to do, what to expect, what a miss means, and why just then."""

from __future__ import annotations

import numpy as np

from fenwit.core import quantity as q
from fenwit.core.calibrate.bands import Band
from fenwit.core.job.hold import Holds, HoldSheet, Reaction
from fenwit.core.job.steps import Steps
from fenwit.core.methods.control_voltage.design import ControlDesign, Following, Source
from fenwit.core.methods.control_voltage.fan import ControlFan
from fenwit.core.methods.control_voltage.parts import dead_checks
from fenwit.core.methods.control_voltage.signal import ControlSetting, whole_knob
from fenwit.core.motor.analog import SPAN_V, soft_start_s
from fenwit.core.prove.plan import OPEN_ENDED, Ask, PlanLine, number, seen
from fenwit.core.regulator.loop import Held

EARTH_OHM, OPEN_OHM = 0.1, 1e5
FULL_SHARE, REFERENCE_SHARE, AUX_SHARE, SUPPLY_SHARE = 0.03, 0.03, 0.10, 0.10
"""Expected within so much of it: full speed, 10 V, 24 V, the plate's volts [-]"""
HELD_SHARE = 0.05
STANDS_RPM = 20.0
TURNS = (0.0, 0.25, 0.5, 0.75, 1.0)


_RPM = q.Dimension("rpm", "rpm", ("rpm",), "k", 0.0, 1e5, "like 1430, 0 where it stands")
_VOLTS = q.Dimension("volts", "V", ("V",), "m", 0.0, 500.0, "like 10.0")
_OHM = q.Dimension("ohms", "Ω", ("Ω", "ohm"), "mkM", 0.0, 1e9, "like 9k8, or open")
_SECONDS = q.Dimension("seconds", "s", ("s",), "", 0.0, 36000.0, "like 12")
_FLOW = q.Dimension("flow", "m³/h", ("m3/h",), "", 0.0, 1e6, "like 540")
_PASCAL = q.Dimension("pressure", "Pa", ("Pa",), "", 0.0, 1e5, "like 150")
_COUNT = q.Dimension("count", "", (), "", 0.0, 1000.0, "like 0")


def _around(value: float, share: float) -> Band:
    return Band(value * (1 - share), value * (1 + share))


def plan(fan: ControlFan, design: ControlDesign, found: Steps, hold: HoldSheet) -> tuple[PlanLine, ...]:
    """The plan for a fan and what tells it its speed.

    Parameters
    ----------
    fan : ControlFan
        The fan [-]
    design : ControlDesign
        What makes the volts [-]
    found : tuple of Step
        Its steps as built [-]
    hold : HoldSheet
        What it holds by itself [-]

    Returns
    -------
    tuple of PlanLine
        In the order of the work [-]
    """
    rows = [_look(fan), _dead(fan, design), _supply(fan), _full(fan, design)]
    if design.alarm:
        rows.append(_alarm())
    if design.enable:
        rows.append(_enable())
    rows.append(_knob(fan, design) if design.source is Source.KNOB else _steps(fan, design, found))
    if hold.holds is Holds.LOOP and hold.loop.held is not Held.SPEED:
        rows += [_sensor(hold), _loop(fan, hold)]
    if fan.count > 1:
        rows.append(_followers(fan, design, found))
    rows.append(_serial())
    return tuple(rows)


def _look(fan: ControlFan) -> PlanLine:
    wait = fan.analog.wait_min if fan.analog.wait_min is not None else 5.0
    return PlanLine(
        "look", "look", f"Isolate, lock off, wait {wait:g} min, prove dead. Guard, free blades, torque of the clamps.",
        "nothing else can be trusted before",
        (
            seen("free", "guard on, blades free, clamps tight", "mend it before any power"),
            number("earth", "housing to protective earth", Band(0.0, EARTH_OHM), _OHM, 1, "a loose or painted joint"),
        ),
        live=False,
    )  # fmt: skip


def _dead(fan: ControlFan, design: ControlDesign) -> PlanLine:
    asks = []
    for check in dead_checks(fan, design):
        words = f"{check.between}, {check.how}"
        if check.ohm is None:
            asks.append(
                Ask(check.key, words, "open", _OHM.unit, Band(OPEN_OHM, OPEN_ENDED), _OHM,
                    fault="joined where it must be open: a wire in the wrong clamp, a welded contact")
            )  # fmt: skip
        else:
            assert check.band is not None
            digits = 1 if check.band.high < 100 else 0
            asks.append(
                number(
                    check.key,
                    words,
                    check.band,
                    _OHM,
                    digits,
                    "a wire in the wrong clamp, or the other end of the pot",
                )
            )
    return PlanLine(
        "dead", "dead checks", "Still isolated, the fan's terminal plugs pulled: ohms between the wires.",
        "a swapped wire is harmless now, and looks like a dead fan later", tuple(asks), live=False,
    )  # fmt: skip


def _supply(fan: ControlFan) -> PlanLine:
    return PlanLine(
        "supply", "supply", "Plugs in, power on; volts at the fan's own mains terminals.",
        "its electronics refuse, or die, outside their range",
        (number("volts", "line to neutral", _around(fan.rated_voltage_v, SUPPLY_SHARE), _VOLTS, 0,
                 "the supply itself, a loose clamp, another tapping"),),
    )  # fmt: skip


def _full(fan: ControlFan, design: ControlDesign) -> PlanLine:
    ref, aux = fan.analog.reference_v, fan.analog.aux_v
    wait = soft_start_s(0.98, fan.analog.follows_s, fan.analog.ramps_per_s)
    bridge = f"Bridge {ref:g} V to analog 1" + (f", {aux:g} V to enable" if design.enable else "")
    return PlanLine(
        "full", "full-speed run", f"{bridge}; power. A relay clicks, a check of 2 to 10 s, a soft start: {wait:.0f} s.",
        "a dead fan is found before any control can be blamed",
        (
            seen("click", "relay clicked, it started softly", "enable open, or alarm locked: power off for 90 s"),
            number("rpm", "full speed", _around(fan.full_rpm, FULL_SHARE), _RPM, 0,
                    "enable open, command under where it starts, alarm locked; a shut damper", "speed_rpm"),
            number("ref", f"{ref:g} V output", _around(ref, REFERENCE_SHARE), _VOLTS, 2,
                    "overloaded or shorted: take the control wires off and read again", "control_v"),
            number("aux", f"{aux:g} V output", _around(aux, AUX_SHARE), _VOLTS, 1,
                    "overloaded by lamps or sensor: take them off one by one"),
        ),
    )  # fmt: skip


def _alarm() -> PlanLine:
    return PlanLine(
        "alarm", "alarm", "Lamps on NO and NC. Take the supply away, hold off, and look.",
        "before anything relies on it; no guess from the drawing",
        (
            seen("well", "in good health the lamp on NO is lit", "NO and NC exchanged, or the relay rests when well"),
            seen("dead", "without supply the lamps change over", "the lamps hang on its own supply"),
        ),
    )  # fmt: skip


def _enable() -> PlanLine:
    return PlanLine(
        "enable", "enable", "Open the enable contact, wait, close it again.", "it is what stops the fan in need",
        (
            seen("stops", "it runs down, without alarm", "a bridge was left in, or this fan is set to ignore enable"),
            seen("starts", "closed again it starts softly", "alarm locked: power off for 90 s"),
        ),
    )  # fmt: skip


def _rpm_band(fan: ControlFan, volts: float) -> Band:
    """What it turns at volts, coming from above: the wider of its map's band and what the volts may be off."""
    at = np.array(min(SPAN_V, max(0.0, volts)))
    if float(fan.line.meant_v(at)) < fan.line.off_v:
        return Band(0.0, STANDS_RPM)
    low, high = fan.speeds.command[0], fan.speeds.command[-1]
    here = float(np.clip(float(at), low, high))
    band = fan.speeds.band_at(here)
    near = [float(np.asarray(fan.speeds.speed_at(float(np.clip(here + d, low, high))))) for d in (-0.1, 0.1)]
    return Band(max(0.0, min(*near, band[0])), max(*near, band[1]))


def _knob(fan: ControlFan, design: ControlDesign) -> PlanLine:
    knob = whole_knob(fan, design)
    names = {0.0: "slow end", 0.25: "a quarter", 0.5: "half", 0.75: "three quarters", 1.0: "fast end"}
    asks = []
    for turn in TURNS:
        volts = float(knob.volts(np.array(turn)))
        half = 0.05 + (0.0 if turn in (0.0, 1.0) else 0.03 * fan.analog.reference_v)
        tag = f"{round(100 * turn)}"
        asks.append(
            number(f"v{tag}", f"knob at {names[turn]}: volts at analog 1", Band(max(0.0, volts - half), volts + half),
                    _VOLTS, 2, "loading, an end broken off (0 or 10 V), 0 V offset between knob and fan", "control_v")
        )  # fmt: skip
        band = _rpm_band(fan, volts)
        slope = 0.0 if turn in (0.0, 1.0) else 0.03 * fan.full_rpm
        asks.append(
            number(f"n{tag}", f"knob at {names[turn]}: speed",
                    Band(max(0.0, band.low - slope), band.high + slope), _RPM, 0,
                    "wait out the soft start; a command under where it starts; input reversed", "speed_rpm")
        )  # fmt: skip
    return PlanLine(
        "knob", "knob", "Bridge off, knob in. Ends first, then the places between; wait out the soft start at each.",
        "dead bands and loading are seen", tuple(asks),
    )  # fmt: skip


def _steps(fan: ControlFan, design: ControlDesign, found: Steps) -> PlanLine:
    asks = []
    for step in found:
        mine = step.setting
        if not isinstance(mine, ControlSetting):
            continue
        v = mine.made_v
        asks.append(
            number(f"v{step.number}", f"step {step.number}: volts at analog 1",
                    Band(max(0.0, v - 0.1), v + 0.1), _VOLTS, 2,
                    "0 V offset between source and fan; output loaded; gain of the amplifier", "control_v")
        )  # fmt: skip
        asks.append(
            number(f"n{step.number}", f"step {step.number}: speed", _rpm_band(fan, v), _RPM, 0,
                    "wait out the soft start; input set the other way round", "speed_rpm")
        )  # fmt: skip
    return PlanLine(
        "steps", "steps", "Bridge off, the control in. Slowest first; wait out the soft start at each.",
        "dead bands and loading are seen", tuple(asks),
    )  # fmt: skip


_REACTS = {Reaction.FULL: "full speed", Reaction.LEAST: "its lowest command", Reaction.STOPS: "it stops"}


def _sensor(hold: HoldSheet) -> PlanLine:
    sensor, reaction = hold.loop.sensor, hold.loop.reaction
    span = sensor.range_high_v - sensor.range_low_v
    low = sensor.range_low_v
    zero = Band(max(0.0, low - 0.03 * span), low + 0.03 * span)
    return PlanLine(
        "sensor", "sensor", "Bridge off, sensor in; compare with a meter, then pull one of its wires.",
        "before the loop closes: a loop on a wrong sensor runs away",
        (
            number("zero", "fan off: volts of the sensor", zero, _VOLTS, 2, "supply, range, pressure left", "sensor_v"),
            seen("same", "running: it agrees with a meter beside it", "tubes exchanged; tap in turbulence; wrong range"),
            seen("lost", f"a wire pulled: {_REACTS[reaction]}", "the reaction is not set, or its range has no live zero"),
        ),
    )  # fmt: skip


def _loop(fan: ControlFan, hold: HoldSheet) -> PlanLine:
    loop = hold.loop
    asks: list[Ask] = []
    if loop.set_point is not None:
        flow = loop.held is Held.FLOW
        goal = loop.set_point * (3600 if flow else 1)
        asks.append(
            number("held", "at rest it holds", _around(goal, HELD_SHARE), _FLOW if flow else _PASCAL, 0,
                    "the sensor's scale, the cone's factor, or the fan at its end",
                    "flow_m3_h" if flow else "pressure_pa")
        )  # fmt: skip
    asks += [
        number("settle", "after a move of the damper it settles within", Band(0.0, 60.0), _SECONDS, 0,
                "too little gain, or too long an integral time"),
        seen("calm", "it does not hunt", "gain, too short an integral time, a damper that sticks, a tap in turbulence"),
    ]  # fmt: skip
    return PlanLine(
        "loop",
        "loop",
        "Mode and set point; then move the damper.",
        "last of what one fan does alone",
        tuple(asks),
    )


def _followers(fan: ControlFan, design: ControlDesign, found: Steps) -> PlanLine:
    asks = []
    shown = [s for s in found if isinstance(s.setting, ControlSetting)]
    for step in (
        {s.number: s for s in (shown[0], shown[len(shown) // 2], shown[-1])}.values() if shown else ()
    ):
        mine = step.setting
        assert isinstance(mine, ControlSetting)
        last = mine.fans[-1]
        doubt = 0.05 * fan.full_rpm
        band = (
            Band(0.0, STANDS_RPM)
            if last.speed_rpm == 0
            else Band(max(0.0, last.speed_rpm - doubt), last.speed_rpm + doubt)
        )
        asks.append(
            number(f"s{step.number}", f"step {step.number}: the last fan", band, _RPM, 0,
                    "0 V offset: measure between the 0 V terminals at both ends, fans running; its own map")
        )  # fmt: skip
    how = "leader at three speeds" if design.following is not Following.TOGETHER else "source at three speeds"
    return PlanLine(
        "follow", "further fans", f"The {how}; read the last fan.", "on known ground", tuple(asks)
    )


def _serial() -> PlanLine:
    return PlanLine(
        "serial", "serial", "Where it is used: read and write registers, twenty times. "
        "Where it is not, two good answers end it.",
        "last, on known ground",
        (
            seen("back", "what is written reads back", "source set to analog, a wrong unit, words swapped"),
            number("lost", "answers lost of twenty", Band(0.0, 0.5), _COUNT, 0,
                   "end resistors, shield, A and B exchanged, one number twice"),
        ),
    )  # fmt: skip
