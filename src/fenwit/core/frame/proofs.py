"""Readings at the steps of the built regulator: what is expected, how each compares, and what a miss may mean."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from fenwit.core import quantity as q
from fenwit.core.calibrate.bands import Band
from fenwit.core.frame.asked import Asked
from fenwit.core.frame.shown import ProofRow, Side
from fenwit.core.frame.steps import expected_band, step_words
from fenwit.core.job.state import Proof
from fenwit.core.job.steps import SPEED, Quantity, Step, Steps, amps_unit
from fenwit.core.methods.seam import Expected, Missed
from fenwit.core.prove.verdict import Verdict, judge

_LEAST_READ = 1e-3
"""What a reading of nothing counts as, where nothing is a good reading [any]"""


def proof_rows(asked: Asked, steps: Steps) -> tuple[ProofRow, ...]:
    """What to read at every step that may be used."""
    return tuple(
        _row(asked, step, expected)
        for step in steps
        for expected in asked.regulation.expected(asked.subject, asked.design, step)
    )


def _row(asked: Asked, step: Step[Any], expected: Expected) -> ProofRow:
    what = expected.quantity
    proof = next((p for p in asked.state.proofs if p.step == step.number and p.quantity == what.key), None)
    band = expected_band(proof, expected.band) if proof else expected.band
    verdict, side, told = None, None, ""
    if proof:
        value = max(proof.value, _LEAST_READ) if what.may_be_nothing else proof.value
        found = judge(what.key, value, band, what.meter_error)
        verdict = found.verdict
        if verdict is not Verdict.PASS:
            side = Side.BELOW if found.slow else Side.ABOVE
            told = _explain(asked, step, what, proof.value, side, verdict)
    unit, scale = _unit(what, expected.middle)
    text = expected.text or q.with_uncertainty(expected.middle * scale, band.half_width * scale, "")
    return ProofRow(
        step=step.number,
        quantity=what.key,
        name=what.name,
        unit=unit,
        expected=text,
        low=band.low,
        high=band.high,
        reading="" if proof is None else _read(what, proof.value * scale),
        verdict=verdict,
        side=side,
        words=told,
        captured=what.captured,
        hint="0.318 A" if what.dimension is q.CURRENT else what.unit,
    )


def _unit(what: Quantity, value: float) -> tuple[str, float]:
    """Unit of a quantity at a value, and its number over the SI one."""
    return amps_unit(value) if what.dimension is q.CURRENT else (what.unit, 1.0)


def _read(what: Quantity, value: float) -> str:
    """A reading with the digits its instrument gives."""
    return q.plain(value) if what.digits is None else f"{value:.{what.digits}f}"


def _explain(
    asked: Asked, step: Step[Any], what: Quantity, value: float, side: Side, verdict: Verdict
) -> str:
    unit, scale = _unit(what, value)
    lead = f"Step {step.number} reads {q.plain(value * scale)} {unit}, {side.value} what was expected"
    if verdict is Verdict.NEAR:
        return f"{lead}, though not far: read it again, with the supply volts."
    others = [p for p in asked.state.proofs if p.quantity == SPEED.key and p.step != step.number]
    hold = bool(others) and not any(_failed(asked, p) for p in others)
    miss = Missed(what, value, side is Side.BELOW, hold)
    return lead + asked.regulation.missed(asked.subject, asked.design, step, miss)


def _failed(asked: Asked, proof: Proof) -> bool:
    what = next((w for w in asked.regulation.quantities if w.key == proof.quantity), None)
    if what is None or proof.expected_low is None or proof.expected_high is None or proof.expected_high <= 0:
        return False
    band = Band(proof.expected_low, proof.expected_high)
    return judge(proof.quantity, proof.value, band, what.meter_error).verdict is Verdict.FAIL


def proof_summary(rows: Sequence[ProofRow]) -> str:
    """How far the proving has come."""
    speeds = [r for r in rows if r.quantity == SPEED.key]
    read = [r for r in speeds if r.verdict]
    failed = [r.step for r in rows if r.verdict is Verdict.FAIL]
    if failed:
        steps = sorted(set(failed))
        return f"{step_words(steps)} {'fails' if len(steps) == 1 else 'fail'}"
    if speeds and len(read) == len(speeds):
        return "every step proved"
    return f"{len(read)} of {len(speeds)} steps read" if speeds else ""
