"""Settings as files: a step table and a header for the program that sets the timer; the tests that are its own."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from fenwit.core import quantity as q
from fenwit.core.job.commanded import OpenLead
from fenwit.core.job.steps import Step
from fenwit.core.methods.pwm.box import frequencies
from fenwit.core.methods.pwm.design import DutyDesign, Maker, PickedBy
from fenwit.core.methods.pwm.fan import DutyFan
from fenwit.core.methods.pwm.signal import DutySetting, choice_of, safe_pull
from fenwit.core.motor.duty import POLARITY_WORDS
from fenwit.core.motor.tachometer import Tach
from fenwit.core.regulator.control_lead import SWEEP_DUTY, SWEEP_HZ, SWEEP_NEAR
from fenwit.core.regulator.registers import TimerMode
from fenwit.core.regulator.sweep import sweep_words

HEADINGS = ("step", "target_rpm", "duty", "compare", "actual_duty", "predicted_rpm", "low_rpm", "high_rpm")


def table(steps: Sequence[Step[Any]]) -> tuple[tuple[str, ...], ...]:
    """Rows of the step table, numbers as a program reads them."""
    rows = []
    for s in steps:
        mine = s.setting
        if not isinstance(mine, DutySetting):
            continue
        speed, band = s.shown.speed_rpm if s.shown else None, s.speed_band
        rows.append(
            (
                str(s.number),
                "" if s.wanted_rpm is None else f"{s.wanted_rpm:.0f}",
                f"{mine.asked:.4f}",
                "" if mine.compare is None else str(mine.compare),
                f"{mine.made:.6f}",
                "" if speed is None else f"{speed:.0f}",
                "" if band is None else f"{band.low:.0f}",
                "" if band is None else f"{band.high:.0f}",
            )
        )
    return tuple(rows)


def header(fan: DutyFan, design: DutyDesign, steps: Sequence[Step[Any]], title: str) -> str:
    """A C header with what the program needs; values are those of the timer, stages between it and the lead reckoned in.

    Parameters
    ----------
    fan : DutyFan
        The fan [-]
    design : DutyDesign
        With a microcontroller [-]
    steps : sequence of Step
        As built [-]
    title : str
        Of the job [-]

    Returns
    -------
    str
        The file [-]

    Raises
    ------
    InputError
        No setting of the timer comes near the frequency.
    """
    choice, control = choice_of(design), design.controller
    correct = choice.mode is TimerMode.PHASE_CORRECT
    rule = "duty = compare / FAN_TOP" if correct else "duty = (compare + 1) / (FAN_TOP + 1)"
    rows = [s for s in steps if isinstance(s.setting, DutySetting)]
    made = [s.setting for s in rows if isinstance(s.setting, DutySetting)]
    lines = [
        f"/* {_plain(title)}",
        " * Duties for a fan's control lead, made by Fenwit.",
        f" * Rule of this timer: {rule}; a family that switches at the count gives compare / (FAN_TOP + 1).",
        f" * {design.stages} inverting stage(s) between the pin and the lead: the values below are those of the pin.",
        " * Power-up, reset and a program that died: the pin floats. Fit a "
        f"{safe_pull(fan, design)} at the pin, so that the lead stands at full speed then.",
        f" * No set point for {control.time_out_s:g} s: go to FAN_SAFE_STEP.",
        " */",
        "#ifndef FAN_DUTY_H",
        "#define FAN_DUTY_H",
        "#include <stdint.h>",
        "",
        f"#define FAN_CLOCK_HZ {control.clock_hz:.0f}UL",
        f"#define FAN_PRESCALER {choice.prescaler}",
        f"#define FAN_TOP {choice.top}",
        f"#define FAN_MODE_PHASE_CORRECT {int(correct)}",
        f"#define FAN_INVERTED {int(design.turned)}",
        f"#define FAN_FREQUENCY_HZ {choice.actual_frequency_hz:.1f}",
        f"#define FAN_PULSES_PER_REV {fan.commanded.sheet.pulses_per_rev:g}",
        f"#define FAN_TIME_OUT_MS {1000 * control.time_out_s:.0f}UL",
        f"#define FAN_STEPS {len(rows)}",
        f"#define FAN_SAFE_STEP {_safe(rows)}",
        *(
            ["/* Fans start one after the other. */", "#define FAN_STAGGER_MS 1000UL"]
            if design.one_by_one
            else []
        ),
        "/* Output off, where the compare value cannot make it. */",
        "#define FAN_OFF 0xFFFFu",
        "",
        "static const uint16_t fan_compare[FAN_STEPS] = {",
    ]
    for s, mine in zip(rows, made, strict=True):
        rpm = f"{s.shown.speed_rpm:.0f} rpm" if s.shown else "no speed predicted"
        band = f", {s.speed_band.low:.0f} to {s.speed_band.high:.0f}" if s.shown and s.speed_band else ""
        number = "FAN_OFF" if mine.compare is None else str(mine.compare)
        lines.append(f"    {number}, /* step {s.number}: {100 * mine.made:.2f} % on the lead, {rpm}{band} */")
    lines += ["};", "", *_positions(design, len(rows)), *_box_lines(fan, design), "#endif", ""]
    return "\n".join(lines)


def _safe(rows: Sequence[Step[Any]]) -> int:
    """The fastest step, counted from 0."""
    speeds = [s.shown.speed_rpm if s.shown else -1.0 for s in rows]
    return int(np.argmax(speeds)) if speeds else 0


def _positions(design: DutyDesign, steps: int) -> list[str]:
    """How a step is picked: open contacts read 1, so that nothing plugged in is the fastest step."""
    picked = design.controller.picked_by
    if picked in (PickedBy.JUMPERS, PickedBy.DIP):
        contacts = max(1, int(np.ceil(np.log2(max(steps, 2)))))
        what = "jumpers" if picked is PickedBy.JUMPERS else "DIP contacts"
        codes = [max(0, steps - 1 - (2**contacts - 1 - code)) for code in range(2**contacts)]
        return [
            f"/* {contacts} {what} with pull-ups, open reads 1: nothing fitted is the fastest step. */",
            f"#define FAN_CONTACTS {contacts}",
            f"static const uint8_t fan_step_of_code[{2**contacts}] = {{{', '.join(map(str, codes))}}};",
            "",
        ]
    if picked is PickedBy.KNOB:
        return [
            "/* A pot through a converter: one count of hysteresis either way, or the step flickers. */",
            "#define FAN_HYSTERESIS 1",
            "",
        ]
    return ["/* An encoder: begin at the stored step, FAN_SAFE_STEP while none is stored. */", ""]


def _box_lines(fan: DutyFan, design: DutyDesign) -> list[str]:
    """Prescaler and TOP for each frequency that a bench controller can be set to."""
    if design.maker is not Maker.BENCH:
        return []
    found = frequencies(fan, design)
    lines = [
        "/* Frequencies it can be set to, and what the timer makes of each: show that one, not the one asked for. */",
        f"#define FAN_FREQUENCIES {len(found)}",
        "static const struct { uint32_t asked_hz; uint16_t prescaler; uint32_t top; uint8_t phase_correct; }",
        "    fan_frequency[FAN_FREQUENCIES] = {",
    ]
    for f in found:
        correct = int(f.mode is TimerMode.PHASE_CORRECT)
        row = f"{{{f.asked_hz:.0f}UL, {f.prescaler}, {f.top}UL, {correct}}}"
        lines.append(f"    {row}, /* {f.made_hz:.1f} Hz */")
    return [*lines, "};", ""]


def _plain(text: str) -> str:
    return "".join(c if " " <= c <= "~" else "?" for c in text).replace("*/", "* /")


_LEAD_OFF = {
    OpenLead.FULL: "it must run at full speed",
    OpenLead.STOPS: "by its data it stops, so a broken lead is no safe state",
    OpenLead.HOLDS: "by its data it goes on as slowly as it can, so a broken lead is no safe state",
}


def plan_lines(fan: DutyFan, design: DutyDesign) -> tuple[str, ...]:
    """The tests that only a commanded fan asks for."""
    sheet = fan.commanded.sheet
    lines = []
    if not fan.commanded.polarity_known:
        lines.append(f"Polarity: {POLARITY_WORDS}")
    outside = not sheet.low_hz <= design.frequency_hz <= sheet.high_hz
    hertz = ", ".join(f"{f / 1e3:g}" for f in SWEEP_HZ)
    duties = ", ".join(f"{100 * d:.0f}" for d in SWEEP_DUTY)
    told = fan.commanded.sweep
    if told.read:
        lines.append(f"Sweep of frequency: {sweep_words(told)}.")
    elif outside:
        lines.append(
            f"Sweep, in Measure: {hertz} kHz, each at {duties} % duty, rpm at every one. A frequency is good where all "
            f"three lie within {100 * SWEEP_NEAR:.0f} % of those at 25 kHz."
        )
    lines.append(
        f"Pull the control lead off: {_LEAD_OFF[sheet.open_lead]}. Reset the controller: full speed."
    )
    tach = Tach(sheet.pulses_per_rev)
    silent = tach.silent_after_s(fan.speeds.slowest_rpm)
    lines.append(
        f"Tachometer: {q.plain(sheet.pulses_per_rev)} pulses a revolution; a hand tachometer once settles it. "
        f"Counted for a second it resolves {q.plain(tach.count_resolution_rpm, 2)} rpm, one period timed by 250 kHz "
        f"{q.plain(tach.period_resolution_rpm(fan.full_rpm, 250e3), 2)} rpm at full speed. No pulse "
        f"for {q.plain(silent, 2)} s means that it stands: then the others go to full speed."
    )
    return tuple(lines)
