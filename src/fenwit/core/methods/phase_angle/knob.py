"""What a diac knob would do with a job's fan: angle and speed over its turn, where it snaps on, cures, its scale."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from fenwit.core.job.machine import MachineFan
from fenwit.core.methods.phase_angle.angles import aimed_angles, curve_of, extinction_of
from fenwit.core.methods.seam import ScaleMark
from fenwit.core.regulator.diac import (
    BREAKOVER_TOLERANCE_V,
    CAPACITOR_TOLERANCE,
    KNOB_TOLERANCE,
    DiacNetwork,
    FloatArray,
    Proposal,
    cures,
    firing,
    propose,
    snap_on,
    tolerance,
)

_TURNS = 91
_TOLERANCE_TURNS = (0.25, 0.5, 0.75, 1.0)


@dataclass(frozen=True)
class KnobShown:
    """Everything the knob view shows."""

    turn: tuple[float, ...]
    up_rpm: tuple[float, ...]
    """Turned up from off; 0 where the fan stands [rpm]"""
    down_rpm: tuple[float, ...]
    """Turned back from full; 0 where the fan stands [rpm]"""
    up_deg: tuple[float, ...]
    """180 where it does not fire [°]"""
    down_deg: tuple[float, ...]
    snap_text: str
    gap_turn: float
    cures: tuple[str, ...]
    tolerance_text: str
    """What the parts are allowed to miss [-]"""
    tolerance: tuple[str, ...]
    scale: tuple[ScaleMark, ...]
    range_text: str
    note: str


def knob(fan: MachineFan, network: DiacNetwork, kick: bool = False) -> KnobShown:
    """Compute what a knob with a diac network does with a fan.

    Parameters
    ----------
    fan : MachineFan
        The fan [-]
    network : DiacNetwork
        Resistors, capacitors, diac [-]
    kick : bool
        Wired so that it is switched on at the fast end [-]

    Returns
    -------
    KnobShown
        Curves, snap-on, cures, scale [-]
    """
    curve = curve_of(fan)
    volts, hertz = fan.supply.voltage_v, fan.supply.frequency_hz
    ends = extinction_of(curve)
    turn = np.linspace(0.0, 1.0, _TURNS)
    fired = firing(network, network.first_ohm(turn), volts, hertz, ends)
    up_deg, down_deg = (
        np.degrees(np.where(np.isfinite(a), a, np.pi)) for a in (fired.up_rad, fired.down_rad)
    )
    down = np.interp(down_deg, curve.firing_deg, curve.kicked_rpm, right=0.0)
    up = down if kick else np.interp(up_deg, curve.firing_deg, curve.speed_rpm, right=0.0)
    snap = snap_on(network, volts, hertz, ends)
    snap_text, gap = "it never fires: less resistance or a smaller capacitor is wanted", 0.0
    ways: tuple[str, ...] = ()
    if snap is not None and snap.on_turn <= 1:
        gap = snap.gap_turn
        snap_text = (
            f"turned up it comes on at {snap.on_turn:.0%} of the knob with {snap.on_deg:.0f}°, turned back it stays on "
            f"down to {snap.off_turn:.0%}, {snap.latest_deg:.0f}°"
            if gap > 0.015
            else f"it comes on and goes out at the same place, {snap.on_turn:.0%} of the knob"
        )
        if gap > 0.03:
            ways = tuple(
                f"{c.words} (then comes on at {c.after.on_turn:.0%}, goes out at {c.after.off_turn:.0%})"
                for c in cures(network, volts, hertz, ends)[:3]
            )
            if not kick:
                ways = (*ways, "or wire it to be switched on at the fast end: then only the way down counts")
    elif snap is not None:
        snap_text = (
            "turned up it does not come on within the knob's travel; turned back from firing it would stay on"
        )
    bands = zip(
        _TOLERANCE_TURNS,
        tolerance(network, np.array(_TOLERANCE_TURNS), volts, hertz, extinction=ends),
        strict=True,
    )
    running = up > 0
    slow, fast = (float(up[running].min()), float(up.max())) if running.any() else (0.0, 0.0)
    return KnobShown(
        turn=_tuple(turn),
        up_rpm=_tuple(up),
        down_rpm=_tuple(down),
        up_deg=_tuple(up_deg),
        down_deg=_tuple(down_deg),
        snap_text=snap_text,
        gap_turn=gap,
        cures=ways,
        tolerance_text=f"knob ±{KNOB_TOLERANCE:.0%}, capacitor ±{CAPACITOR_TOLERANCE:.0%}, diac "
        f"±{BREAKOVER_TOLERANCE_V:g} V",
        tolerance=tuple(
            f"at {t:.0%}: {b.nominal_deg:.0f}°, {b.low_deg:.0f} to {'off' if b.high_deg >= 180 else f'{b.high_deg:.0f}°'}"
            for t, b in bands
        ),
        scale=_scale(turn, down),
        range_text=f"{slow:.0f} to {fast:.0f} rpm, turned up"
        if running.any()
        else "turned up, the fan stands all the way",
        note="a two-wire control finds its zero where the motor's current ends, not at the mains' zero: reckoned so here",
    )


_BEYOND_DEG, _FASTEST_DEG, _LATEST_DEG = 3.0, 20.0, 170.0


def usual(fan: MachineFan, wanted_rpm: Sequence[float]) -> tuple[Proposal, ...]:
    """Preferred values for a knob from as fast as it may fire to just beyond the slowest wanted step.

    Parameters
    ----------
    fan : MachineFan
        The fan [-]
    wanted_rpm : sequence of float
        Wanted speeds [rpm]

    Returns
    -------
    tuple of Proposal
        Closest first [-]

    Raises
    ------
    InputError
        Ends that cannot be reached.
    """
    curve = curve_of(fan)
    angles = [a for a in aimed_angles(fan, wanted_rpm, False).values() if a]
    fast = max(_FASTEST_DEG, curve.least_safe_deg + _BEYOND_DEG)
    latest = curve.latest_start_deg or _LATEST_DEG
    slow = min(_LATEST_DEG, max(angles, default=latest) + _BEYOND_DEG)
    return propose(fast, slow, fan.supply.voltage_v, fan.supply.frequency_hz, extinction=extinction_of(curve))


def _scale(turn: FloatArray, rpm: FloatArray) -> tuple[ScaleMark, ...]:
    """Round speeds and where they lie on the way down."""
    running = np.flatnonzero(rpm > 0)
    if len(running) < 3:
        return ()
    t, n = turn[running], np.maximum.accumulate(rpm[running])
    span = float(n[-1] - n[0])
    step = next((s for s in (10, 20, 25, 50, 100, 200, 250, 500) if span / s <= 9), 500)
    marks = np.arange(np.ceil(n[0] / step) * step, n[-1] + 1e-9, step)
    return tuple(ScaleMark(float(np.interp(m, n, t)), int(m)) for m in marks)


def _tuple(values: FloatArray) -> tuple[float, ...]:
    return tuple(float(f"{v:.5g}") for v in values)
