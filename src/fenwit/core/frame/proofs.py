"""Readings at the steps of the built regulator: what is expected, how each compares, and what a miss may mean."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from fenwit.core import quantity as q
from fenwit.core.calibrate.bands import Band
from fenwit.core.frame.fan import Fan
from fenwit.core.frame.fired import angles_for, curve_of, waveforms_of
from fenwit.core.frame.shown import ProofRow
from fenwit.core.frame.state import JobState, Proof
from fenwit.core.frame.steps import Step, expected_band
from fenwit.core.prove.capture import FORM_FACTOR
from fenwit.core.prove.verdict import METER_ERROR, Verdict, judge
from fenwit.core.regulator.phase import Conduction
from fenwit.core.regulator.series import Knob, values_for_speeds

QUANTITIES: dict[str, tuple[str, str, float]] = {
    "speed_rpm": ("speed", "rpm", 1.0),
    "motor_voltage_v": ("motor volts", "V", 1.0),
    "line_current_a": ("line current", "mA", 1000.0),
}
CAPTURED: dict[str, tuple[str, str, float]] = {
    "firing_angle_deg": ("firing angle", "°", 1.0),
    "extinction_angle_deg": ("current ends", "°", 1.0),
    "symmetry_deg": ("halves apart", "°", 1.0),
    "frequency_hz": ("mains", "Hz", 1.0),
}
"""What a scope shows of a chopped wave [-]"""
_ANGLE_DEG, _KNOB_DEG, _APART_DEG, _MAINS_HZ = 1.0, 3.0, 2.0, 0.5
"""What may be off by setting and reading: an angle, a knob by its mark, two halves [°], the mains [Hz]"""
_ENDS_DEG = 1.5
"""How closely the end of the current is read off a scope [°]"""


def proof_rows(state: JobState, fan: Fan, step: Step) -> list[ProofRow]:
    """What to read at a step; nothing where the step may not be used."""
    if not step.usable or step.running is None or step.bands is None:
        return []
    rows = []
    for name, (said, unit, scale) in QUANTITIES.items():
        if name == "motor_voltage_v" and abs(step.impedance_ohm) < 1.0 and step.firing_deg is None:
            continue  # the supply itself: nothing of the regulator to prove
        band: Band = getattr(step.bands, name)
        middle: float = getattr(step.running, name)
        rows.append(_row(state, fan, step, name, (said, unit, scale), middle, band))
    point = step.fired
    if point is None or not step.firing_deg:
        return rows
    wide = _KNOB_DEG if state.control and state.control.network else _ANGLE_DEG
    angle, ends = step.firing_deg, step.bands.extinction_deg
    expect = {
        "firing_angle_deg": (angle, Band(max(0.0, angle - wide), angle + wide)),
        "symmetry_deg": (0.5 * _APART_DEG, Band(0.0, _APART_DEG)),
        "frequency_hz": (
            fan.supply.frequency_hz,
            Band(fan.supply.frequency_hz - _MAINS_HZ, fan.supply.frequency_hz + _MAINS_HZ),
        ),
    }
    if ends is not None and point.conduction is not Conduction.FULL:
        middle = point.extinction_angle_deg
        band = Band(min(ends.low, middle) - _ENDS_DEG, max(ends.high, middle) + _ENDS_DEG)
        expect["extinction_angle_deg"] = (middle, band)
    rows += [
        _row(state, fan, step, name, words, *expect[name])
        for name, words in CAPTURED.items()
        if name in expect
    ]
    return rows


def _row(
    state: JobState, fan: Fan, step: Step, name: str, words: tuple[str, str, float], middle: float, band: Band
) -> ProofRow:
    said, unit, scale = words
    proof = next((p for p in state.proofs if p.step == step.number and p.quantity == name), None)
    expected = expected_band(proof, band) if proof else band
    # Halves that do not differ at all are no fan that stands.
    value = max(proof.value, 1e-3) if proof and name == "symmetry_deg" else proof.value if proof else 0.0
    judged = judge(name, value, expected, METER_ERROR[name]) if proof else None
    told = ""
    if proof and judged and judged.verdict is not Verdict.PASS:
        told = _explain(state, fan, step, name, proof.value, judged.slow, judged.verdict)
    text = q.with_uncertainty(middle * scale, expected.half_width * scale, "")
    if name == "symmetry_deg":
        text = f"up to {expected.high:.0f}"
    return ProofRow(
        step=step.number,
        quantity=name,
        name=said,
        unit=unit,
        expected=text,
        low=expected.low,
        high=expected.high,
        reading="" if proof is None else _read(name, proof.value * scale),
        verdict=judged.verdict if judged else None,
        words=told,
        captured=name in CAPTURED,
    )


def _read(name: str, value: float) -> str:
    """A reading with the digits its instrument gives."""
    if name not in CAPTURED:
        return q.plain(value)
    return f"{value:.2f}" if name == "frequency_hz" else f"{value:.1f}"


def _explain(
    state: JobState, fan: Fan, step: Step, name: str, value: float, low: bool, verdict: Verdict
) -> str:
    side = "below" if low else "above"
    _, unit, scale = (QUANTITIES | CAPTURED)[name]
    lead = f"Step {step.number} reads {q.plain(value * scale)} {unit}, {side} what was expected"
    if verdict is Verdict.NEAR:
        return f"{lead}, though not far: read it again, with the supply volts."
    if name == "symmetry_deg":
        return f"{lead}: one half fires later than the other. A worn diac, or a gate whose quadrants differ."
    if step.fired is not None and value > 0:
        return _explain_fired(state, fan, step, name, value, lead)
    if value == 0 and step.firing_deg is not None:
        fires = (
            "the diac or the knob"
            if state.control and state.control.network
            else "the program or the opto-triac"
        )
        return f"{lead}: the fan stands. Look at fuse and switch, then at what fires the triac: {fires}."
    if value == 0:
        return f"{lead}: the fan stands. Contact of {step.label} not making, or a part of it open."
    if name != "speed_rpm" or step.capacitance_f is None:
        return f"{lead}. Check the meter, the supply volts and the contacts of this step."
    if value >= fan.full.speed_rpm * 0.995:
        return (
            f"{lead}: as fast as without a regulator. "
            f"Something bridges {step.label}: a shorted part or a wrong contact."
        )
    inverse = values_for_speeds(
        fan.belief.motor, fan.belief.load, fan.supply, Knob.CAPACITANCE, [value], fan.curve
    )[0]
    if inverse.value is None:
        return f"{lead}, and no capacitor would explain it: look for drag, a wrong tap or low supply volts."
    ratio = inverse.value / step.capacitance_f - 1
    others = [p for p in state.proofs if p.quantity == "speed_rpm" and p.step != step.number]
    tail = ""
    if low and not any(_failed(fan, state, p) for p in others) and others:
        tail = " The other steps hold, so the fan itself is sound."
    return (
        f"{lead}, as if {q.show(inverse.value, q.CAPACITANCE, 2)} stood in the line instead of "
        f"{q.show(step.capacitance_f, q.CAPACITANCE, 2)} ({100 * ratio:+.0f} %). "
        f"Measure what makes {step.label}, its contacts and joints.{tail}"
    ).replace("(-", "(−")


def _explain_fired(state: JobState, fan: Fan, step: Step, name: str, value: float, lead: str) -> str:
    """What a miss behind a triac would mean: as if it fired at another angle."""
    control = state.control
    knob = control is not None and control.network is not None
    source = (
        "the knob's mark and its network" if knob else "the delay in the program and the zero detector's edge"
    )
    if name == "motor_voltage_v" and step.fired is not None:
        average = FORM_FACTOR * _average_volts(fan, step)
        if abs(value / average - 1) < _AVERAGE_NEAR:
            return (
                f"{lead}, and just what a meter that is not true-rms shows on this wave ({average:.0f} V): "
                "read it with a true-rms meter."
            )
    if name == "firing_angle_deg":
        return f"{lead}: check {source}."
    if name != "speed_rpm":
        return f"{lead}. Check the meter, the supply volts and {source}."
    if value >= fan.full.speed_rpm * 0.995 and step.firing_deg:
        return f"{lead}: as fast as without a regulator. The triac is shorted, or fires at once whatever is asked."
    held = step.kicked
    (angle,) = angles_for(fan, curve_of(fan), [value], held)
    if angle is None:
        return (
            f"{lead}, and no firing angle would explain it: look for drag, a half-wave, or low supply volts."
        )
    return f"{lead}, as if fired at {angle:.0f}° instead of {step.firing_deg:.0f}°. Check {source}."


_AVERAGE_NEAR = 0.03


def _average_volts(fan: Fan, step: Step) -> float:
    """Mean of the rectified motor volts at a step [V]"""
    point = step.fired
    assert point is not None
    wave = waveforms_of(fan, point)
    return float(np.abs(wave.motor_v).mean())


def _failed(fan: Fan, state: JobState, proof: Proof) -> bool:
    if proof.expected_low is None or proof.expected_high is None or proof.expected_high <= 0:
        return False
    band = Band(proof.expected_low, proof.expected_high)
    return judge(proof.quantity, proof.value, band, METER_ERROR[proof.quantity]).verdict is Verdict.FAIL


def proof_summary(rows: Sequence[ProofRow]) -> str:
    """How far the proving has come."""
    speeds = [r for r in rows if r.quantity == "speed_rpm"]
    read = [r for r in speeds if r.verdict]
    failed = [r.step for r in rows if r.verdict is Verdict.FAIL]
    if failed:
        steps = sorted(set(failed))
        return f"{step_words(steps)} {'fails' if len(steps) == 1 else 'fail'}"
    if speeds and len(read) == len(speeds):
        return "every step proved"
    return f"{len(read)} of {len(speeds)} steps read" if speeds else ""


def step_words(steps: Sequence[int]) -> str:
    """Step 1, or steps 1, 2."""
    return f"step {steps[0]}" if len(steps) == 1 else "steps " + ", ".join(map(str, steps))
