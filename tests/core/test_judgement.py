"""Verdicts, cautions, suitability."""

from __future__ import annotations

import pytest

from fenwit.core.calibrate.bands import Band
from fenwit.core.caution import PROOF_READINGS, Confirm, JobFacts, Stage, blocking, cautions, discharge
from fenwit.core.errors import InputError
from fenwit.core.load import flow_share, level_change_db
from fenwit.core.motor.kinds import KINDS, Answer, Method, MotorKind, answer_for, has_model, suitability
from fenwit.core.motor.machine import relative_rise
from fenwit.core.prove.verdict import Verdict, judge


@pytest.mark.parametrize(
    ("reading", "verdict"),
    [
        (126.0, Verdict.PASS),
        (95.0, Verdict.PASS),
        (94.6, Verdict.PASS),  # inside once the meter's half per cent is allowed for
        (94.0, Verdict.NEAR),
        (80.0, Verdict.NEAR),
        (78.0, Verdict.FAIL),
        (157.0, Verdict.PASS),
        (172.0, Verdict.NEAR),
        (174.0, Verdict.FAIL),
        (0.0, Verdict.FAIL),
    ],
)
def test_a_reading_passes_in_the_band_is_near_half_a_band_out_and_fails_beyond(
    reading: float, verdict: Verdict
) -> None:
    judgement = judge("speed_rpm", reading, Band(95.0, 157.0), 0.005)
    assert judgement.verdict is verdict
    assert judgement.slow == (reading < 126.2)


def test_a_fan_that_stands_fails_even_in_a_wide_band() -> None:
    assert judge("speed_rpm", 0.0, Band(1.0, 200.0), 0.005).verdict is Verdict.FAIL
    with pytest.raises(InputError, match="does not run"):
        judge("speed_rpm", 10.0, Band(0.0, 0.0), 0.005)
    with pytest.raises(InputError):
        judge("speed_rpm", -1.0, Band(1.0, 2.0), 0.005)


def test_a_mains_job_with_a_run_capacitor_gates_the_dead_readings() -> None:
    found = cautions(JobFacts(MotorKind.PSC, 230, 2.5e-6, 415, regulator=(), slowest_share=0.36))
    gates = {c.key: c for c in found if c.gates}
    assert set(gates) == {"isolate", "stored-charge", "line-potential"}
    assert gates["stored-charge"].confirm is Confirm.READING
    assert gates["stored-charge"].limit == 34
    assert "587 V" in gates["stored-charge"].text
    first = blocking(found, Stage.MEASURE, "main_resistance_ohm", ())
    assert first is not None
    assert first.key == "isolate"
    assert blocking(found, Stage.MEASURE, "main_resistance_ohm", {"isolate", "stored-charge"}) is None
    assert blocking(found, Stage.MEASURE, "speed_rpm", ()) is None
    for name in PROOF_READINGS:
        assert blocking(found, Stage.PROVE, name, ()) is not None


def test_a_small_low_voltage_fan_raises_no_mains_caution() -> None:
    keys = {c.key for c in cautions(JobFacts(None, 12))}
    assert "isolate" not in keys
    assert "bench-supply" not in keys
    assert "blades" in keys


def test_discharge_of_a_run_capacitor_by_hand() -> None:
    # independent: 2.5 µF at 415 V: ½ C (√2 V)² = 0.431 J; 587 V / 50 mA → 12 kΩ; 5 R C = 0.15 s
    found = discharge(2.5e-6, 415)
    assert found.energy_j == pytest.approx(0.431, abs=0.001)
    assert found.resistance_ohm == 12_000
    assert found.time_s == pytest.approx(0.15)
    with pytest.raises(InputError):
        discharge(-1, 230)


# The suitability table: S suits, C on conditions, R refused, X refused without exception, blank: no meaning.
_SUITS = {
    Method.SERIES_CAPACITOR: "C S C X X X R X X X",
    Method.SERIES_RESISTOR: "S S C X X X S X X X",
    Method.PHASE_ANGLE: "S S C X X X S X X X",
    Method.STEPPED_VOLTAGE: "S S C X X X S R X X",
}
_COLUMNS = (
    MotorKind.SHADED_POLE, MotorKind.PSC, MotorKind.PSC_TAPPED, MotorKind.SPLIT_PHASE, MotorKind.CAPACITOR_START,
    MotorKind.CAPACITOR_START_RUN, MotorKind.UNIVERSAL, MotorKind.THREE_PHASE, MotorKind.EC_CONTROL,
    MotorKind.EC_REPLACEMENT,
)  # fmt: skip


@pytest.mark.parametrize("method", _SUITS)
def test_suitability_of_the_series_methods(method: Method) -> None:
    letters = {"S": Answer.SUITS, "C": Answer.CONDITIONS, "R": Answer.REFUSED, "X": Answer.REFUSED}
    for kind, letter in zip(_COLUMNS, _SUITS[method].split(), strict=True):
        found = answer_for(kind, method)
        assert found is not None, (kind, method)
        assert found.answer is letters[letter], (kind, method)
        assert found.never == (letter == "X"), (kind, method)
        assert found.reason


def test_every_kind_is_named_and_has_an_answer() -> None:
    for kind in MotorKind:
        assert KINDS[kind].known_by
        rows = suitability(kind)
        assert rows
        order = [r.answer for r in rows]
        assert order == sorted(order, key=[Answer.SUITS, Answer.CONDITIONS, Answer.REFUSED].index)
    assert answer_for(MotorKind.DC_4_WIRE, Method.SERIES_CAPACITOR) is None
    assert has_model(MotorKind.PSC)
    assert not has_model(MotorKind.SPLIT_PHASE)


def test_fan_laws_and_heat_by_hand() -> None:
    assert flow_share(0.5) == 0.5
    assert level_change_db(0.5) == pytest.approx(-16.56, abs=0.01)
    assert relative_rise(1.0, 1.0) == 1.0
    assert relative_rise(0.5, 0.25) == pytest.approx(0.5 / 0.25**0.6)
    with pytest.raises(InputError):
        relative_rise(1.0, 0.0)
