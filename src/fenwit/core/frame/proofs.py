"""Readings at the steps of the built regulator: what is expected, how each compares, and what a miss may mean."""

from __future__ import annotations

from collections.abc import Sequence

from fenwit.core import quantity as q
from fenwit.core.calibrate.bands import Band
from fenwit.core.frame.fan import Fan
from fenwit.core.frame.shown import ProofRow
from fenwit.core.frame.state import JobState, Proof
from fenwit.core.frame.steps import Step, expected_band
from fenwit.core.prove.verdict import METER_ERROR, Verdict, judge
from fenwit.core.regulator.series import Knob, values_for_speeds

QUANTITIES: dict[str, tuple[str, str, float]] = {
    "speed_rpm": ("speed", "rpm", 1.0),
    "motor_voltage_v": ("motor volts", "V", 1.0),
    "line_current_a": ("line current", "mA", 1000.0),
}


def proof_rows(state: JobState, fan: Fan, step: Step) -> list[ProofRow]:
    """What to read at a step; nothing where the step may not be used."""
    if not step.usable or step.running is None or step.bands is None:
        return []
    rows = []
    for name, (said, unit, scale) in QUANTITIES.items():
        if name == "motor_voltage_v" and abs(step.impedance_ohm) < 1.0:
            continue  # the supply itself: nothing of the regulator to prove
        band: Band = getattr(step.bands, name)
        proof = next((p for p in state.proofs if p.step == step.number and p.quantity == name), None)
        expected = expected_band(proof, band) if proof else band
        middle: float = getattr(step.running, name)
        judged = judge(name, proof.value, expected, METER_ERROR[name]) if proof else None
        words = ""
        if proof and judged and judged.verdict is not Verdict.PASS:
            words = _explain(state, fan, step, name, proof.value, judged.slow, judged.verdict)
        rows.append(
            ProofRow(
                step=step.number,
                quantity=name,
                name=said,
                unit=unit,
                expected=q.with_uncertainty(middle * scale, expected.half_width * scale, ""),
                low=expected.low,
                high=expected.high,
                reading=q.plain(proof.value * scale) if proof else "",
                verdict=judged.verdict if judged else None,
                words=words,
            )
        )
    return rows


def _explain(
    state: JobState, fan: Fan, step: Step, name: str, value: float, low: bool, verdict: Verdict
) -> str:
    side = "below" if low else "above"
    _, unit, scale = QUANTITIES[name]
    lead = f"Step {step.number} reads {q.plain(value * scale)} {unit}, {side} what was expected"
    if verdict is Verdict.NEAR:
        return f"{lead}, though not far: read it again, with the supply volts."
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
