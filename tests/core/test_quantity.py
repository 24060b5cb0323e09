"""Values as they stand on parts."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fenwit.core import quantity as q
from fenwit.core.errors import InputError


@pytest.mark.parametrize(
    ("text", "dimension", "value"),
    [
        ("2u7", q.CAPACITANCE, 2.7e-6),
        ("2.7uF", q.CAPACITANCE, 2.7e-6),
        ("2µ7", q.CAPACITANCE, 2.7e-6),
        ("2μ7F", q.CAPACITANCE, 2.7e-6),
        ("2,7 µF", q.CAPACITANCE, 2.7e-6),
        ("2.7", q.CAPACITANCE, 2.7e-6),
        ("470n", q.CAPACITANCE, 470e-9),
        ("2.5 MFD", q.CAPACITANCE, 2.5e-6),
        ("0,680 µF", q.CAPACITANCE, 0.68e-6),
        ("180k", q.RESISTANCE, 180e3),
        ("1k8", q.RESISTANCE, 1800),
        ("1K8", q.RESISTANCE, 1800),
        ("1.8 kΩ", q.RESISTANCE, 1800),
        ("1M", q.RESISTANCE, 1e6),
        ("0R47", q.RESISTANCE, 0.47),
        ("260", q.RESISTANCE, 260),
        ("12 ohm", q.RESISTANCE, 12),
        ("230V", q.VOLTAGE, 230),
        ("230 VAC", q.VOLTAGE, 230),
        ("50 Hz", q.FREQUENCY, 50),
        ("1/2 W", q.POWER, 0.5),
        ("73", q.POWER, 73),
        ("318m", q.CURRENT, 0.318),
        ("318 mA", q.CURRENT, 0.318),
        (".318", q.CURRENT, 0.318),
        ("61 %", q.RATIO, 61),
        ("330rpm", q.SPEED, 330),
        ("16", q.POLES, 16),
    ],
)
def test_reads_what_is_printed_on_parts(text: str, dimension: q.Dimension, value: float) -> None:
    assert q.parse("field", text, dimension) == pytest.approx(value, rel=1e-12)


@pytest.mark.parametrize(
    ("text", "dimension", "reason"),
    [
        ("", q.CAPACITANCE, "microfarads are wanted"),
        ("   ", q.SPEED, "rpm are wanted"),
        ("-3", q.SPEED, "must not be negative"),
        ("−3 V", q.VOLTAGE, "must not be negative"),
        ("0", q.RESISTANCE, "above zero"),
        ("230V", q.RESISTANCE, "is in volts; this field takes ohms"),
        ("260 ohm", q.CAPACITANCE, "is in ohms"),
        ("2.7 mF", q.CAPACITANCE, "slip of a thousand"),
        ("230000 V", q.VOLTAGE, "slip of a thousand"),
        ("1,800", q.RESISTANCE, "1800 or as 1.8"),
        ("1,234.5", q.RESISTANCE, "thousands separators"),
        ("fast", q.SPEED, "cannot be read"),
        ("🐟", q.SPEED, "cannot be read"),
        ("<b>2</b>", q.SPEED, "cannot be read"),
        ("2u7u", q.CAPACITANCE, "not a unit"),
        ("3R3k", q.RESISTANCE, "cannot be read"),
        ("1/0 W", q.POWER, "divide by zero"),
        ("15", q.POLES, "pairs"),
        ("5 furlongs", q.SPEED, "not a unit"),
        ("9" * 41, q.SPEED, "too long"),
    ],
)
def test_says_what_is_wrong(text: str, dimension: q.Dimension, reason: str) -> None:
    with pytest.raises(InputError, match=reason.replace("(", r"\(")) as error:
        q.parse("field", text, dimension)
    assert error.value.field == "field"


@given(st.floats(1e-9, 9.99e-4), st.sampled_from([2, 3]))
def test_bench_notation_reads_back(value: float, digits: int) -> None:
    written = q.bench(value, q.CAPACITANCE, digits)
    assert q.parse("c", written, q.CAPACITANCE) == pytest.approx(value, rel=0.6 * 10 ** (1 - digits))


@given(st.floats(0.01, 1.9e7))
def test_ohms_read_back(value: float) -> None:
    assert q.parse("r", q.bench(value, q.RESISTANCE), q.RESISTANCE) == pytest.approx(value, rel=6e-3)
    assert q.parse("r", q.show(value, q.RESISTANCE), q.RESISTANCE) == pytest.approx(value, rel=6e-3)


@given(st.text(max_size=45), st.sampled_from(list(q._ALL)))
def test_any_text_is_read_or_refused_with_a_reason(text: str, dimension: q.Dimension) -> None:
    try:
        value = q.parse("field", text, dimension)
    except InputError as error:
        refused = error
    else:
        assert math.isfinite(value)
        assert dimension.low <= value <= dimension.high
        return
    assert refused.reason
    assert refused.allowed


@pytest.mark.parametrize(
    ("value", "half", "text"),
    [
        (241.3, 12.1, "241 ± 12 rpm"),
        (201.9, 0.84, "201.9 ± 0.8 rpm"),
        (330.0, 1.72, "330.0 ± 1.7 rpm"),
        (202, 31, "202 ± 31 rpm"),
        (2021, 312, "2020 ± 310 rpm"),
        (5, 0, "5 rpm"),
    ],
)
def test_digits_follow_the_uncertainty(value: float, half: float, text: str) -> None:
    assert q.with_uncertainty(value, half, "rpm") == text


def test_bench_and_shown_forms() -> None:
    assert q.bench(2.7e-6, q.CAPACITANCE) == "2u7"
    assert q.bench(180e3, q.RESISTANCE) == "180k"
    assert q.bench(0.47, q.RESISTANCE) == "0R47"
    assert q.show(0.68e-6, q.CAPACITANCE) == "0.68 µF"
    assert q.show(0.318, q.CURRENT) == "318 mA"
    assert q.show(999.9e-9, q.CAPACITANCE) == "1 µF"


def test_preferred_values_are_those_of_the_series() -> None:
    # published: IEC 60063
    assert q.preferred("E6", 1, 9.9).tolist() == [1.0, 1.5, 2.2, 3.3, 4.7, 6.8]
    assert q.preferred("E12", 1e-6, 9.9e-6).tolist() == pytest.approx(
        [1.0e-6, 1.2e-6, 1.5e-6, 1.8e-6, 2.2e-6, 2.7e-6, 3.3e-6, 3.9e-6, 4.7e-6, 5.6e-6, 6.8e-6, 8.2e-6]
    )
    assert len(q.preferred("E24", 1, 9.9)) == 24
    assert q.nearest("E12", 2.5e-6) == 2.7e-6
    with pytest.raises(InputError, match="not a series"):
        q.preferred("E7", 1, 2)
    assert np.all(np.diff(q.preferred("E12", 1e-9, 1e-3)) > 0)


def test_what_is_left_of_a_zero_is_zero() -> None:
    """Rounding in the eighth place of a sum shows neither its digits nor its sign."""
    assert [q.plain(v) for v in (5.7e-13, -5.7e-13, 4.2e-6)] == ["0", "0", "0.000004"]


def test_nothing_infinite_is_written() -> None:
    with pytest.raises(InputError):
        q.plain(float("nan"))
    with pytest.raises(InputError):
        q.with_uncertainty(1.0, float("inf"), "V")


@pytest.mark.parametrize(
    ("low", "high", "text"),
    [
        (0.4, 0.57, "0.40–0.57"),
        (0.1, 0.41, "0.1–0.4"),
        (1.2, 11.4, "1–11"),
        (5.2, 43, "5–40"),
        (11, 93, "10–90"),
        (1.0, 1.0002, "1"),
        (0, 0, "0"),
    ],
)
def test_where_a_number_lies_is_written_to_the_digits_its_width_allows(
    low: float, high: float, text: str
) -> None:
    assert q.between(low, high) == text
    with pytest.raises(InputError):
        q.between(2, 1)
