"""Which tap a wanted speed asks for, which frame bears the motor on its taps, and what the mains give then."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, fields, replace

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import brentq

from fenwit.core.calibrate.bands import Band, Drawn, StepBands, drawn, joined, sampled
from fenwit.core.job.machine import MachineFan
from fenwit.core.memory import remembered
from fenwit.core.methods.common.series import Aimed, AimMemory, asked_once
from fenwit.core.motor.machine import Machine, synchronous_speed_rpm
from fenwit.core.operating import OperatingPoint, Solution, Source, solve
from fenwit.core.regulator.series import Inverse, SettingKind, refusal, wanted_at
from fenwit.core.regulator.transformer import FRAMES, Transformer, Winding, mains_side, transformer
from fenwit.core.size.rated import MAINS

ComplexArray = NDArray[np.complex128]
_LEAST, _MOST = 0.05, 1.15
"""Open volts of a tap over the supply's; a separate winding is wound for more by what it drops [-]"""
_WHOLE_V = 5.0
"""Steps in which a separate winding is ordered [V]"""
_COPPER, _CORE, _IRON = 401, 402, 403
"""Seeds: what a transformer may be off in is drawn once for all its taps [-]"""


@dataclass(frozen=True)
class TappedPoint(OperatingPoint):
    """A steady state behind a tap: watts and power factor at the mains, amps and volts at the motor."""

    mains_current_a: float
    """Of the mains; `line_current_a` is the motor's own [A]"""
    copper_w: float
    core_w: float
    winding_a: float
    """In the section that carries most [A]"""


def source_of(unit: Transformer, tap_v: float, supply_v: float, frequency_hz: float) -> Source:
    """What the motor is fed from on a tap, on a supply as it is."""
    return Source(unit.ratio(tap_v) * supply_v, frequency_hz, unit.impedance_ohm(tap_v, frequency_hz))


def solved(
    motor: Machine, solutions: Sequence[Solution], unit: Transformer, taps_v: Sequence[float], supply: Source
) -> tuple[Solution, ...]:
    """Solutions on taps with the mains' side of every steady state.

    Parameters
    ----------
    motor : Machine
        Motor with scalar parameters [-]
    solutions : sequence of Solution
        The fan on each tap's source [-]
    unit : Transformer
        The transformer [-]
    taps_v : sequence of float
        Rated open volts of each [V]
    supply : Source
        Mains as they are [-]

    Returns
    -------
    tuple of Solution
        Their points are `TappedPoint` [-]
    """
    places = [(i, p) for i, s in enumerate(solutions) for p in s.points]
    if not places:
        return tuple(solutions)
    taps = np.array([taps_v[i] for i, _ in places])
    slips = np.array([p.slip for _, p in places])
    y = motor.respond(slips, supply.frequency_hz).admittance_s
    motor_w = np.array([p.input_power_w - p.series_loss_w for _, p in places])
    z = np.array([unit.impedance_ohm(float(v), supply.frequency_hz) for v in taps])
    amps = y / (1 + z * y) * taps / unit.supply_v * supply.voltage_v
    side = mains_side(unit, supply.voltage_v, supply.frequency_hz, taps, amps, motor_w)
    points: dict[int, list[OperatingPoint]] = {i: [] for i in range(len(solutions))}
    for k, (i, point) in enumerate(places):
        line, watts = float(side.line_current_a[k]), float(side.input_power_w[k])
        own = {f.name: getattr(point, f.name) for f in fields(OperatingPoint)}
        own |= {
            "input_power_w": watts,
            "power_factor": watts / (supply.voltage_v * line),
            "series_loss_w": float(side.loss_w[k]),
        }
        points[i].append(
            TappedPoint(
                **own,
                mains_current_a=line,
                copper_w=float(side.copper_w[k]),
                core_w=float(side.core_w[k]),
                winding_a=float(side.winding_a[k]),
            )
        )
    return tuple(replace(s, points=tuple(points[i])) for i, s in enumerate(solutions))


def on_taps(
    fan: MachineFan, unit: Transformer, taps_v: Sequence[float], mains: float = 1.0, growth: bool = True
) -> tuple[Solution, ...]:
    """The fan on every tap.

    Parameters
    ----------
    fan : MachineFan
        The fan [-]
    unit : Transformer
        The transformer [-]
    taps_v : sequence of float
        Rated open volts [V]
    mains : float
        Mains over their stated volts [-]
    growth : bool
        Whether hunting is looked at too [-]

    Returns
    -------
    tuple of Solution
        One for each tap; their points are `TappedPoint` [-]
    """
    supply = Source(mains * fan.supply.voltage_v, fan.supply.frequency_hz)
    sources = [source_of(unit, v, supply.voltage_v, supply.frequency_hz) for v in taps_v]
    found = solve(fan.belief.motor, fan.belief.load, sources, growth)
    return solved(fan.belief.motor, found, unit, taps_v, supply)


def tap_for(unit: Transformer, supply: Source, motor_v: float, y: complex) -> float | None:
    """Rated open volts that leave a motor its volts: t V = V_m |1 + Z_T(t) Y|; None where the winding has none.

    Parameters
    ----------
    unit : Transformer
        The transformer [-]
    supply : Source
        Mains as they are [-]
    motor_v : float
        What the motor wants [V]
    y : complex
        Its admittance there [S]

    Returns
    -------
    float or None
        Volts [V]
    """
    level = supply.voltage_v / unit.supply_v
    top = unit.supply_v if unit.winding is Winding.AUTO else min(unit.whole_v, _MOST * unit.supply_v)

    def left(tap_v: float) -> float:
        return level * tap_v - motor_v * abs(1 + unit.impedance_ohm(tap_v, supply.frequency_hz) * y)

    low = _LEAST * unit.supply_v
    if not np.isfinite(motor_v) or left(top) < 0 or left(low) > 0:
        return None
    return float(brentq(left, low, top, xtol=1e-9))


def bears(unit: Transformer, solutions: Sequence[Solution]) -> bool:
    """Whether its winding carries what runs in it at every one of these steady states."""
    amps = [p.winding_a for s in solutions if isinstance(p := s.running, TappedPoint)]
    return max(amps, default=0.0) <= unit.rated_a * (1 + 1e-9)


@remembered
def ideal_unit(fan: MachineFan, winding: Winding, wanted_rpm: tuple[float, ...]) -> Transformer:
    """The smallest frame that bears the motor on the taps that wanted speeds ask for, on high mains too.

    A separate winding ends at the tap of the fastest speed. The largest frame where none bears it; where no speed is
    wanted yet, the one for the fan's own full amps.
    """
    supply, belief = fan.supply, fan.belief
    slow = [w for w in wanted_rpm if winding is Winding.SEPARATE or not fan.is_full(w)] or [fan.full_rpm]
    fastest = 0.9999 * fan.synchronous_rpm
    volts, y = wanted_at(belief.motor, belief.load, [min(w, fastest) for w in slow], supply.frequency_hz)
    units = [_frame(fan, winding, facts.va, float(volts[-1]), complex(y[-1])) for facts in FRAMES]
    for unit in units:
        found = [tap_for(unit, supply, float(v), complex(a)) for v, a in zip(volts, y, strict=True)]
        taps = [t for t in found if t is not None]
        # A small frame may bear the slow taps, and drop too much to give the fast one at all.
        whole = len(taps) == len(found)
        if whole and bears(unit, on_taps(fan, unit, taps, MAINS[-1], growth=False)):
            return unit
    return units[-1]


def _frame(fan: MachineFan, winding: Winding, va: float, motor_v: float, y: complex) -> Transformer:
    """A frame for the stated mains; a separate winding as long as its fastest tap must be, in steps of five volts."""
    volts, hertz = fan.supply.voltage_v, fan.supply.frequency_hz
    if winding is Winding.AUTO:
        return transformer(winding, va, volts, hertz)
    most = _MOST * volts
    needed = whole = min(motor_v, most)
    # The winding's own ohms go with the square of its volts: a few rounds settle it.
    for _ in range(12):
        unit = transformer(winding, va, volts, hertz, whole)
        needed = min(motor_v * abs(1 + unit.impedance_ohm(whole, hertz) * y), most)
        whole = min(_WHOLE_V * np.ceil(needed / _WHOLE_V - 1e-9), most)
    return transformer(winding, va, volts, hertz, float(whole))


@dataclass(frozen=True, eq=False)
class TapAimed(Aimed):
    """What a wanted speed asks for, and the band of what the mains give then."""

    mains_a: Band | None = None


@remembered
def _memory(fan: MachineFan, unit: Transformer) -> AimMemory:
    return AimMemory()


def aimed(fan: MachineFan, unit: Transformer, speeds_rpm: Sequence[float]) -> dict[float, Aimed]:
    """The tap of each wanted speed, remembered."""
    return asked_once(_memory(fan, unit), speeds_rpm, lambda new: _asked(fan, unit, new))


def _asked(fan: MachineFan, unit: Transformer, speeds_rpm: list[float]) -> dict[float, Aimed]:
    belief, supply = fan.belief, fan.supply
    n_s = synchronous_speed_rpm(fan.datum.poles, supply.frequency_hz)
    volts, y = wanted_at(belief.motor, belief.load, speeds_rpm, supply.frequency_hz)
    taps = [tap_for(unit, supply, float(v), complex(a)) for v, a in zip(volts, y, strict=True)]
    given = [t for t in taps if t is not None]
    solutions = iter(on_taps(fan, unit, given))
    bands = iter(bands_on(fan, unit, given))
    found: dict[float, Aimed] = {}
    for wanted, motor_v, tap in zip(speeds_rpm, volts, taps, strict=True):
        if tap is None:
            largest = f"{FRAMES[-1].va:g} VA"
            reason = (
                f"no frame up to {largest} bears this motor there"
                if np.isfinite(motor_v) and motor_v < supply.voltage_v
                else f"the motor would need {motor_v:.0f} V there; no tap leaves it that much of {supply.voltage_v:.0f} V"
                if np.isfinite(motor_v)
                else "the motor has no torque left so near to synchronous speed"
            )
            found[wanted] = Aimed(Inverse(SettingKind.VOLTAGE, wanted, None, None, None, reason), 0j, None)
            continue
        solution, (step, mains_a) = next(solutions), next(bands)
        refused = refusal(solution, wanted, n_s, fan.motor_limit_v)
        reason = f"on a tap of {tap:.3g} V {refused}" if refused else ""
        inverse = Inverse(
            SettingKind.VOLTAGE, wanted, None if refused else tap, None if refused else solution, None, reason
        )
        z = unit.impedance_ohm(tap, supply.frequency_hz)
        found[wanted] = TapAimed(inverse, z, None if refused else step, mains_a=mains_a)
    return found


def bands_on(
    fan: MachineFan, unit: Transformer, taps_v: Sequence[float]
) -> tuple[tuple[StepBands, Band], ...]:
    """Bands of the fan on each tap, and of the mains' amps; the transformer's doubt included.

    Parameters
    ----------
    fan : MachineFan
        The fan [-]
    unit : Transformer
        The transformer [-]
    taps_v : sequence of float
        Rated open volts [V]

    Returns
    -------
    tuple
        One for each tap; its watts are those at the mains, its amps the motor's [-]
    """
    if not taps_v:
        return ()
    belief, supply = fan.belief, fan.supply
    ways = drawn(
        belief, supply, sampled_ohm(fan, unit, taps_v), [unit.ratio(v) * supply.voltage_v for v in taps_v]
    )
    own = ways.bands(belief)
    at_mains = joined(
        belief, _mains_values(fan, unit, taps_v, ways), ways.found.runs, ways.over, ways.start_margin
    )
    return tuple(
        (replace(motor, input_power_w=mains.input_power_w), mains.line_current_a)
        for motor, mains in zip(own, at_mains, strict=True)
    )


def _mains_values(
    fan: MachineFan, unit: Transformer, taps_v: Sequence[float], ways: Drawn
) -> NDArray[np.float64]:
    supply, draws = fan.supply, fan.belief.draws_kept
    taps = np.asarray(taps_v, dtype=np.float64)[:, None]
    y = ways.found.admittance_s
    amps = taps / unit.supply_v * supply.voltage_v * y / (1 + ways.impedance_ohm * y)
    side = mains_side(
        unit, supply.voltage_v, supply.frequency_hz, taps, amps, ways.motor_power_w, copper_draws(fan, unit)
    )
    core = sampled(1.0, unit.core_spread, draws, _CORE)
    idle = unit.idle_a(supply.voltage_v, supply.frequency_hz)
    magnetising = sampled(1.0, unit.magnetising_spread, draws, _IRON)
    line = taps / unit.supply_v * amps + idle.real * core + 1j * idle.imag * magnetising
    watts = side.input_power_w + side.core_w * (core - 1)
    found = ways.found
    return np.stack([found.speed_rpm, found.motor_voltage_v, np.abs(line), watts, ways.motor_loss_w])


def copper_draws(fan: MachineFan, unit: Transformer) -> NDArray[np.float64]:
    """What the copper may be, over what is stated; one for each draw [-]"""
    return sampled(1.0, unit.spread, fan.belief.draws_kept, _COPPER)


def sampled_ohm(fan: MachineFan, unit: Transformer, taps_v: Sequence[float]) -> tuple[ComplexArray, ...]:
    """What stands in line on each tap, copper sampled; shape (draws,) [Ω]"""
    ohms = copper_draws(fan, unit)
    z = [unit.impedance_ohm(tap, fan.supply.frequency_hz) for tap in taps_v]
    return tuple(np.asarray(v.real * ohms + 1j * v.imag, dtype=np.complex128) for v in z)
