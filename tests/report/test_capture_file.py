"""A scope's file, however it was written."""

from __future__ import annotations

import contextlib

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fenwit.core.errors import InputError
from fenwit.core.prove.scope import lay_over
from fenwit.report.tracefile import read_trace
from tests.core.test_capture import taken
from tests.known.triac import C16


@pytest.fixture(scope="module")
def wave() -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    t, v, u, _, _ = taken(C16, 281, 90, samples=1500)
    return t, v, u


def written(
    t: np.ndarray, *channels: np.ndarray, delimiter: str = ",", comma: bool = False, head: str = ""
) -> bytes:
    lines = [delimiter.join(f"{x:.8g}" for x in row) for row in zip(t, *channels, strict=True)]
    if comma:
        lines = [line.replace(".", ",") for line in lines]
    return (head + "\n".join(lines) + "\n").encode()


@pytest.mark.parametrize(
    ("head", "delimiter", "comma", "time", "volts"),
    [
        ("time,motor,supply\n", ",", False, 1.0, 1.0),
        ("Time (ms);CH1 (V);CH2 (V)\n", ";", True, 1e3, 1.0),
        ("Model,bench scope\nSerial,7\n\nSource,CH1,CH2\nSecond,Volt,Volt\n", ",", False, 1.0, 1.0),
        ("t [us]\ta [mV]\tb [mV]\n", "\t", False, 1e6, 1e3),
        ("t in µs;motor in kV;supply in kV\n", ";", True, 1e6, 1e-3),
        ("", ",", False, 1.0, 1.0),
    ],
)
def test_preamble_units_and_commas(
    wave: tuple[np.ndarray, np.ndarray, np.ndarray],
    head: str,
    delimiter: str,
    comma: bool,
    time: float,
    volts: float,
) -> None:
    t, v, u = wave
    for channels in ((v, u), (u, v)):
        data = written(t * time, *(c * volts for c in channels), delimiter=delimiter, comma=comma, head=head)
        found = read_trace(data)
        assert found.supply_v is not None
        np.testing.assert_allclose(found.time_s, t, rtol=1e-6, atol=1e-9)
        np.testing.assert_allclose(found.motor_v, v, rtol=1e-5, atol=1e-3)
        np.testing.assert_allclose(found.supply_v, u, rtol=1e-5, atol=1e-3)
        other = read_trace(data, swap=True)
        np.testing.assert_allclose(other.motor_v, u, rtol=1e-5, atol=1e-3)


def test_one_channel_a_probe_and_what_is_read_from_it(
    wave: tuple[np.ndarray, np.ndarray, np.ndarray],
) -> None:
    t, v, _ = wave
    found = read_trace(written(t, v / 100, head="s,V\n"), probe=100.0)
    assert found.supply_v is None
    shown = lay_over(found.time_s, found.motor_v)
    values = {f.quantity: f.value for f in shown.found if f.quantity}
    assert values["firing_angle_deg"] == pytest.approx(90, abs=0.5)
    assert values["frequency_hz"] == pytest.approx(50, abs=0.05)
    assert values["motor_voltage_v"] == pytest.approx(np.sqrt(np.mean(v**2)), rel=0.05)
    assert values["symmetry_deg"] >= 0
    # One period from the rising zero: closed before the extinction of the half-cycle before, then open until it fires.
    assert 0 <= shown.theta_deg[0] < 2
    assert 358 < shown.theta_deg[-1] < 360
    assert list(shown.theta_deg) == sorted(shown.theta_deg)
    top = shown.theta_deg[int(np.argmax(shown.motor_v))]
    assert 88 < top < 120
    assert shown.supply_v == ()


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "empty"),
        (b"\0\1\2" * 100, "no text"),
        (b"a,b\n1,2\n", "no capture"),
        (b"1\n" * 500, "no capture"),
        (("x;y\n" * 500).encode(), "no capture"),
    ],
)
def test_what_is_no_capture_is_refused(data: bytes, words: str) -> None:
    with pytest.raises(InputError) as error:
        read_trace(data)
    assert words in error.value.reason


def test_a_probe_that_cannot_be_is_refused(wave: tuple[np.ndarray, np.ndarray, np.ndarray]) -> None:
    for probe in (0.0, -1.0, float("nan"), 1e9):
        with pytest.raises(InputError):
            read_trace(written(*wave), probe)


@settings(deadline=None, max_examples=60)
@given(st.binary(max_size=400), st.integers(0, 300))
def test_nonsense_never_breaks_it(data: bytes, rows: int) -> None:
    body = data + b"\n" + b"\n".join(b"%d,%d" % (i, (i * 37) % 11) for i in range(rows))
    with contextlib.suppress(InputError):
        found = read_trace(body)
        lay_over(found.time_s, found.motor_v, found.supply_v)
