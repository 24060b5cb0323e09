"""A thermal curve as a program: what a microcontroller would do with nothing but the header agrees with the curve."""

from __future__ import annotations

import re
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fenwit.core.frame.asked import Asked, must_know
from fenwit.core.frame.hold.program import header, program_rows, sensor_table
from fenwit.core.job.hold import Divider, HeatSensor, HeatSheet
from fenwit.core.regulator.sensor import COLDEST_C, WARMEST_C, Thermistor
from fenwit.core.regulator.thermal import Curve
from fenwit.demo.scenario import JOBS

RACK = must_know(next(j for j in JOBS if j.name == "Spectrograph rack").state())
EXHAUST = must_know(next(j for j in JOBS if j.name == "Battery room exhaust").state())


class Program:
    """What a microcontroller knows: the numbers of the header, whole ones, lines between them."""

    def __init__(self, text: str) -> None:
        self.named = {n: int(v) for n, v in re.findall(r"#define (FAN_\w+) (-?\d+)", text)}
        tables = re.findall(r"= \{\n(.*?)\};", text, re.DOTALL)
        self.curve, self.sensor = (
            np.array([[int(n) for n in re.findall(r"-?\d+", row)] for row in table.splitlines()])
            for table in tables
        )

    def temperature_c(self, counts: float) -> float:
        return float(np.interp(counts, self.sensor[:, 0], self.sensor[:, 1])) / 100

    def speed(self, temperature_c: float) -> float:
        return float(np.interp(100 * temperature_c, self.curve[:, 0], self.curve[:, 1])) / 1000

    def command(self, temperature_c: float) -> float:
        return float(np.interp(100 * temperature_c, self.curve[:, 0], self.curve[:, 2])) / 1000


def counts_of(sheet: HeatSheet, temperature_c: float) -> float:
    """What the converter reads at a temperature, from the parts and not from the table."""
    d = sheet.divider
    if d.kind is HeatSensor.LINEAR:
        share = (d.zero_v + d.per_k_v * temperature_c) / d.supply_v
    else:
        ohm = Thermistor(d.r25_ohm, d.beta_k).resistance_ohm(temperature_c)
        share = ohm / (ohm + d.series_ohm)
    return share * (2**d.bits - 1)


@given(
    st.floats(15, 45), st.floats(5, 30), st.floats(0.25, 0.8), st.sampled_from(list(HeatSensor)),
    st.sampled_from((8, 10, 12, 16)),
    st.floats(0, 1),
)  # fmt: skip
@settings(max_examples=60, deadline=None)
def test_counts_become_the_speed_of_the_curve(
    start: float, span: float, least: float, kind: HeatSensor, bits: int, where: float
) -> None:
    curve = Curve(start_c=start, full_c=start + span, least=least)
    sheet = HeatSheet(curve=curve, divider=Divider(kind=kind, bits=bits))
    program = Program(header(RACK, sheet, "rack"))
    assert program.named["FAN_SENSOR_CELLS"] == len(program.sensor)
    assert program.named["FAN_CURVE_ROWS"] == len(program.curve)
    at = start + where * span
    seen = program.temperature_c(counts_of(sheet, at))
    assert seen == pytest.approx(at, abs=1.0 if kind is HeatSensor.NTC else 0.1)
    assert program.speed(at) == pytest.approx(curve.speed(at), abs=0.003)
    assert program.named["FAN_STOP_CC"] == pytest.approx(100 * curve.stop_c, abs=1)


@pytest.mark.parametrize("job", [RACK, EXHAUST])
def test_the_command_is_the_one_that_gives_the_speed(job: Asked) -> None:
    least = 1.2 * job.subject.speeds.slowest_rpm / job.full_rpm  # type: ignore[union-attr]
    sheet = HeatSheet(curve=Curve(least=least))
    rows = program_rows(job, sheet)
    assert np.all(np.diff([r.speed for r in rows]) > 0)
    assert np.all(np.diff([r.command for r in rows]) > 0)
    program = Program(header(job, sheet, 'x*/ "; rm'))
    axis = job.regulation.reach(job.subject).axis
    assert [program.command(r.temperature_c) for r in rows] == pytest.approx(
        [r.command * axis.scale for r in rows], abs=0.05
    )
    # At both of its ends the fan does what the curve says: least speed and full.
    ideal = job.regulation.ideal(job.subject, (rows[0].speed * job.full_rpm,), False)
    assert ideal[0].shown is not None
    assert ideal[0].shown.speed_rpm == pytest.approx(rows[0].speed * job.full_rpm, rel=0.01)


@pytest.mark.parametrize("kind", list(HeatSensor))
def test_a_lost_sensor_stands_outside_what_is_believed(kind: HeatSensor) -> None:
    cells = sensor_table(HeatSheet(divider=Divider(kind=kind)))
    ends = sorted((cells[0][1], cells[-1][1]))
    assert ends[0] < COLDEST_C
    assert ends[1] > WARMEST_C
    temperatures = [t for _, t in cells]
    steps = np.diff(temperatures)
    assert (steps <= 1e-9).all() or (steps >= -1e-9).all()


def test_nothing_of_a_name_gets_into_the_program() -> None:
    text = header(RACK, HeatSheet(), 'x*/ #include "evil.h"\n"')
    assert text.count("*/") == 3
    assert '"' not in text
    assert text.isascii()


def test_a_wrong_divider_is_refused_or_said() -> None:
    with pytest.raises(Exception, match="bits"):
        replace(Divider(), bits=40)
