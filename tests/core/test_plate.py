"""Labels as people meet them, and readings that a meter could not show."""

from __future__ import annotations

import math

import pytest

from fenwit.core import quantity as q
from fenwit.core.calibrate.leads import parse_ohms
from fenwit.core.errors import InputError
from fenwit.core.job.plate import read_plate

# What is printed and what it says, by the definitions of the units: 1 hp = 745.7 W, 1 in = 25.4 mm, 1 cfm = 0.4719 l/s.
PRINTED = [
    ("rated_voltage_v", "220–240 V", 230.0),
    ("rated_voltage_v", "220-240V~", 230.0),
    ("rated_voltage_v", "230 V~", 230.0),
    ("rated_voltage_v", "230V AC", 230.0),
    ("rated_speed_rpm", "1200/min", 1200.0),
    ("rated_speed_rpm", "1200 min⁻¹", 1200.0),
    ("rated_speed_rpm", "1200 r.p.m.", 1200.0),
    ("rated_current_a", "0.5 A max", 0.5),
    ("rated_current_a", "max. 0,5 A", 0.5),
    ("rated_power_w", "75 W", 75.0),
    ("ambient_c", "104 °F", 40.0),
    ("ambient_c", "−4 °F", -20.0),
    ("sweep_m", "48 in", 1.2192),
    ("sweep_m", '56"', 1.4224),
    ("airflow_m3_per_s", "800 cfm", 0.37756),
    ("airflow_m3_per_s", "1360 m³/h", 0.37778),
]


@pytest.mark.parametrize(("field", "text", "value"), PRINTED)
def test_a_label_is_read_as_it_is_printed(field: str, text: str, value: float) -> None:
    assert dict(read_plate(field, text).values)[field] == pytest.approx(value, rel=1e-4)


def test_what_is_no_input_power_is_not_taken_for_it() -> None:
    """Horsepower is what the shaft gives and volt-amps are not watts: neither may pass for the input."""
    for text, other, value in (
        ("1/4 hp", "shaft_power_w", 186.4),
        ("60 VA", "apparent_power_va", 60.0),
        ("0.1 kVA", "apparent_power_va", 100.0),
    ):
        found = read_plate("rated_power_w", text)
        assert dict(found.values)["rated_power_w"] is None
        assert dict(found.values)[other] == pytest.approx(value, rel=1e-3)
        assert found.note.startswith(text)


def test_another_unit_stays_as_printed_beside_what_it_is() -> None:
    for text, says in (("1360 m³/h", "0.378 m³/s"), ("48 in", "1.22 m"), ("104 °F", "40 °C")):
        field = {"m³/h": "airflow_m3_per_s", "in": "sweep_m", "°F": "ambient_c"}[text.split()[1]]
        assert read_plate(field, text).note == f"{text}: {says}"


def test_a_label_for_two_connections_is_asked_about() -> None:
    with pytest.raises(InputError, match="two ways of connecting") as refused:
        read_plate("rated_voltage_v", "115/230 V")
    assert refused.value.allowed == "115 V or 230 V"
    assert dict(read_plate("rated_frequency_hz", "50/60 Hz", 60.0).values)["rated_frequency_hz"] == 60.0


@pytest.mark.parametrize("text", ["OL", "o.l.", "over", "∞", ">200M", "> 200 MΩ", "open"])
def test_beyond_range_is_no_number(text: str) -> None:
    assert parse_ohms("frame", text) == (math.inf,)


@pytest.mark.parametrize(
    ("text", "value", "expected", "dimension", "meant"),
    [
        ("108", 108.0, (0.1, 0.12), q.CURRENT, "108 mA"),
        ("0.215", 0.215, (200.0, 230.0), q.RESISTANCE, "215 Ω"),
        ("108 mA", 0.108, (0.1, 0.12), q.CURRENT, ""),
        ("108 A", 108.0, (0.1, 0.12), q.CURRENT, ""),  # with its unit it is meant as it stands
        ("0.11", 0.11, (0.1, 0.12), q.CURRENT, ""),
        ("330000", 330000.0, (320.0, 340.0), q.SPEED, ""),  # nobody writes thousands of rpm with a letter
    ],
)
def test_a_bare_number_a_thousand_times_off_is_asked_about(
    text: str, value: float, expected: tuple[float, float], dimension: q.Dimension, meant: str
) -> None:
    assert q.meant(text, value, *expected, dimension) == meant


def test_signs_are_one_kind() -> None:
    assert [q.signed(v, 1) for v in (-0.44, 0.04, 12.0)] == ["−0.4", "0.0", "+12.0"]
    assert q.plain(-3.5) == "−3.5"
    assert q.with_uncertainty(-3.5, 0.4, "°C") == "−3.5 ± 0.4 °C"
    assert q.parse("t", q.show(-20.0, q.TEMPERATURE), q.TEMPERATURE) == -20.0
