"""A thermal curve for a program: its table with the commands of this very fan, the sensor's table, a C header."""

from __future__ import annotations

from fenwit.core.errors import InputError
from fenwit.core.frame.asked import Asked
from fenwit.core.job.hold import HeatSensor, HeatSheet, Reaction
from fenwit.core.job.mapped import MappedFan
from fenwit.core.regulator.curve_program import CurveRow, curve_rows, sensor_cells
from fenwit.core.regulator.sensor import WARMEST_C, Thermistor

REACTIONS = {
    Reaction.FULL: "full speed",
    Reaction.LEAST: "its lowest command",
    Reaction.STOPS: "a stop",
}
"""In words"""


def program_rows(job: Asked, sheet: HeatSheet) -> tuple[CurveRow, ...]:
    """The curve as a program takes it: the command of this very fan for each temperature [-]"""
    fan = job.subject
    assert isinstance(fan, MappedFan)

    def command(speed: float) -> float:
        held = fan.speeds.command_for(
            min(fan.speeds.fastest_rpm, max(fan.speeds.slowest_rpm, speed * fan.full_rpm))
        )
        return held.high if fan.speeds.rising else held.low

    return curve_rows(sheet.curve, command)


def command_heading(job: Asked) -> str:
    """What the program puts out, with its unit."""
    axis = job.regulation.reach(job.subject).axis
    return f"{axis.name}, {axis.unit}"


def command_text(job: Asked, row: CurveRow) -> str:
    """It, in that unit."""
    axis = job.regulation.reach(job.subject).axis
    return f"{row.command * axis.scale:.2f}"


def sensor_table(sheet: HeatSheet) -> tuple[tuple[int, float], ...]:
    """Temperature over what the converter reads of its sensor [-]"""
    d = sheet.divider
    counts = 2**d.bits - 1

    def temperature(share: float) -> float:
        if d.kind is HeatSensor.LINEAR:
            return (share * d.supply_v - d.zero_v) / d.per_k_v
        try:
            return Thermistor(d.r25_ohm, d.beta_k).temperature_c(d.series_ohm * share / (1 - share))
        except InputError:
            # Next to no ohms: a short, warmer than anything.
            return WARMEST_C + 50

    return sensor_cells(counts, temperature)


def header(job: Asked, sheet: HeatSheet, title: str) -> str:
    """The curve as a C header [-]"""
    axis, c = job.regulation.reach(job.subject).axis, sheet.curve
    rows, cells = program_rows(job, sheet), sensor_table(sheet)
    plain = "".join(ch if ch.isascii() and (ch.isalnum() or ch in " -,.") else " " for ch in title)
    ends = "".join(
        f"#define FAN_{n}_CC {round(100 * v)}\n"
        for n, v in (("START", c.start_c), ("STOP", c.stop_c), ("FULL", c.full_c))
    )
    lines = [
        f"/* Thermal curve for {plain}. Speed in permille of full, temperature in 0.01 degC.",
        " * The text is the user's own, without conditions and without warranty.",
        f" * Beyond {cells[0][1]:.0f} to {cells[-1][1]:.0f} degC, or a reading at either end, the sensor is broken:",
        f" * {REACTIONS[sheet.reaction]}. A thermal switch stays in series. */",
        "#ifndef FAN_CURVE_H",
        "#define FAN_CURVE_H",
        "",
        f"{ends}#define FAN_LEAST_PERMILLE {round(1000 * c.least)}",
        f"#define FAN_KICK_MS {round(1000 * c.kick_s)}",
        f"#define FAN_CURVE_ROWS {len(rows)}",
        f"#define FAN_SENSOR_CELLS {len(cells)}",
        "",
        f"/* temperature, speed, command ({_ascii(axis.name)}) in thousandths of {_ascii(axis.unit) or 'one'} */",
        "static const struct { int temperature_cc, permille; long command_milli; } fan_curve[FAN_CURVE_ROWS] = {",
        *(
            f"    {{{round(100 * r.temperature_c)}, {round(1000 * r.speed)}, {round(1000 * r.command * axis.scale)}}},"
            for r in rows
        ),
        "};",
        "",
        "/* converter counts, temperature; linear in between */",
        "static const struct { int counts, temperature_cc; } fan_sensor[FAN_SENSOR_CELLS] = {",
        *(f"    {{{n}, {round(100 * t)}}}," for n, t in cells),
        "};",
        "#endif",
        "",
    ]
    return "\n".join(lines)


def _ascii(text: str) -> str:
    return text.replace("%", "per cent").encode("ascii", "replace").decode().replace("?", "-")
