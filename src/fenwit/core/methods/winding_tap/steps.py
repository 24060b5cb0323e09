"""The steps of a motor on its taps, as the switch is wired or nearest to what is wanted; and what a miss at one means."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from fenwit.core import quantity as q
from fenwit.core.calibrate.bands import Band, StepBands, percentiles
from fenwit.core.calibrate.fit import Belief
from fenwit.core.circuit.netted import Netted
from fenwit.core.job.machine import MachineRunning, MachineStep, bands_of, costs_of, judged, running_of
from fenwit.core.job.steps import (
    LINE_CURRENT,
    SPEED,
    Need,
    Place,
    PlaceKind,
    Reason,
    ReasonKind,
    Step,
    Steps,
    Told,
)
from fenwit.core.job.taps import drawn_motor, drawn_table, tap_bands
from fenwit.core.memory import remembered
from fenwit.core.methods.common.netted import netted
from fenwit.core.methods.common.series import facts_of, strays_of
from fenwit.core.methods.seam import Behind, Expected, FloatArray, Missed, Stray
from fenwit.core.methods.winding_tap.design import TapsDesign
from fenwit.core.methods.winding_tap.fan import TappedFan, bands_on, highest_idle_v, on
from fenwit.core.methods.winding_tap.rating import rate
from fenwit.core.motor.machine import synchronous_speed_rpm
from fenwit.core.motor.taps import StartBranch, Tap
from fenwit.core.operating import Machined, Solution, Source, StepVerdict, scan, tabulate, torque_nm
from fenwit.core.regulator.series import wanted_at
from fenwit.core.size.profile import StepFacts
from fenwit.core.size.rated import MAINS
from fenwit.core.size.tolerance import Cause, Spread

_AS_MARKED = 0.03
"""How near a tap comes to a wanted speed, over full speed, to count as giving it [-]"""


@dataclass(frozen=True)
class FedTap:
    """The tap a step feeds."""

    name: str
    lead: str
    turns: float


@dataclass(frozen=True, eq=False)
class TapStep(MachineStep[FedTap]):
    """A step on a tap of the motor."""

    branches: tuple[StartBranch, ...] = ()
    """Ways the start branch may hang"""


def nearest(fan: TappedFan, wanted_rpm: float, branch: StartBranch) -> Tap:
    """The tap whose speed comes nearest to a wanted one."""

    def away(tap: Tap) -> float:
        point = on(fan, tap.name, branch).running
        return abs(point.speed_rpm - wanted_rpm) if point else np.inf

    return min(fan.taps, key=away)


def need(fan: TappedFan, wanted_rpm: float | None, branches: tuple[StartBranch, ...]) -> Need[FedTap] | None:
    """What a wanted speed asks for: the nearest tap, and where none comes near, which speeds there are."""
    if wanted_rpm is None:
        return None
    tap = nearest(fan, wanted_rpm, branches[0])
    solution = on(fan, tap.name, branches[0])
    point = solution.running
    if point is None:
        return Need("none", reason="on none of its taps the fan starts")
    reason = ""
    if abs(point.speed_rpm - wanted_rpm) > _AS_MARKED * fan.full_rpm:
        there = [p.speed_rpm for t in fan.taps if (p := on(fan, t.name, branches[0]).running)]
        reason = f"taps give {', '.join(f'{n:.0f}' for n in sorted(there))} rpm, and nothing between"
    bands = bands_on(fan, tap.name, branches)
    return Need(
        text=f"{tap.name} tap",
        setting=_fed(fan, tap.name),
        reason=reason,
        nearest_rpm=point.speed_rpm if reason else None,
        costs=costs_of(fan, solution, point, bands),
    )


def _fed(fan: TappedFan, name: str) -> FedTap:
    return FedTap(name, fan.lead(name), fan.tap(name).turns)


def ideal(fan: TappedFan, wanted_rpm: Sequence[float], glance: bool) -> tuple[TapStep, ...]:
    """The tap nearest to each wanted speed."""
    branches = fan.branches(None)
    found = []
    for number, wanted in enumerate(wanted_rpm, start=1):
        tap = nearest(fan, wanted, branches[0])
        found.append(_step(fan, number, tap.name, branches, wanted))
    return tuple(found)


def steps(
    fan: TappedFan, design: TapsDesign, wanted_rpm: Sequence[float], glance: bool
) -> tuple[TapStep, ...]:
    """The steps as the switch feeds them, beside the speeds that were wanted."""
    rated = rate(fan, design)
    made = []
    for k in range(max(len(design.positions), len(wanted_rpm))):
        wanted = wanted_rpm[k] if k < len(wanted_rpm) else None
        if k >= len(design.positions):
            words = "the switch has no position for this step; choose again"
            reason = Reason(ReasonKind.NO_POSITION, words)
            made.append(
                _without(
                    fan, k + 1, "no position", wanted, rated.branches, StepVerdict.DOES_NOT_START, reason
                )
            )
            continue
        joined = rated.at(k + 1)
        if joined is not None:
            words = (
                f"two taps alive: {joined.alive.current_a:.2g} A run round in the turns between them, "
                f"{q.show(joined.alive.heat_w, q.POWER, 2)} of heat there, and the fan seems to run nearly right"
            )
            reason = Reason(ReasonKind.OVER_VOLTS, words)
            made.append(
                _without(fan, k + 1, design.label(k), wanted, rated.branches, StepVerdict.BARRED, reason)
            )
            continue
        made.append(_step(fan, k + 1, design.positions[k][0], rated.branches, wanted))
    return tuple(made)


def _without(
    fan: TappedFan,
    number: int,
    label: str,
    wanted: float | None,
    branches: tuple[StartBranch, ...],
    verdict: StepVerdict,
    reason: Reason,
) -> TapStep:
    return TapStep(
        number, label, label, wanted, None, need(fan, wanted, branches), None, {}, verdict, (reason,),
        branches=branches,
    )  # fmt: skip


def _step(
    fan: TappedFan, number: int, name: str, branches: tuple[StartBranch, ...], wanted: float | None
) -> TapStep:
    solution = on(fan, name, branches[0])
    bands = bands_on(fan, name, branches)
    verdict, reasons = judged(fan, solution, bands)
    if len(branches) > 1:
        reasons = (*reasons, Reason(ReasonKind.DOUBT, branch_words(fan, name)))
    tap = fan.tap(name)
    return TapStep(
        number=number,
        label=name,
        joins=f"{name} tap, lead {fan.lead(name)}",
        wanted_rpm=wanted,
        setting=_fed(fan, name),
        need=need(fan, wanted, branches),
        running=_running(fan, name, solution, bands, branches),
        bands=bands_of(bands),
        verdict=verdict,
        reasons=reasons,
        at=tap.turns,
        may_not_start=bands.may_not_start,
        may_exceed=bands.may_exceed,
        solution=solution,
        branches=branches,
    )


def branch_words(fan: TappedFan, name: str) -> str:
    """What the two ways a start branch may hang give on a tap."""
    said = []
    for branch in StartBranch:
        point = on(fan, name, branch).running
        how = "the whole supply" if branch is StartBranch.WHOLE_SUPPLY else "the main section"
        said.append(f"across {how} {point.speed_rpm:.0f} rpm" if point else f"across {how} it stands")
    return (
        f"start branch not known: {', '.join(said)}; volts across the run capacitor on the slowest tap tell"
    )


def _running(
    fan: TappedFan,
    name: str,
    solution: Solution,
    bands: StepBands,
    branches: tuple[StartBranch, ...],
) -> MachineRunning | None:
    point = solution.running
    if point is None:
        return None
    idle = highest_idle_v(fan, name, branches)
    place = Place(
        PlaceKind.REGULATOR, (Told(f"{fan.tap(name).turns:.2f} × turns", "turns"),), name=f"{name} tap"
    )
    running = running_of(fan, point, bands, place)
    if not idle:
        return running
    told = Told(f"idle leads up to {idle:.0f} V", "idle-volts")
    supply, regulator, *rest = running.places
    if idle > 1.05 * fan.supply.voltage_v:
        regulator = replace(regulator, warning=told)
    else:
        regulator = replace(regulator, values=(*regulator.values, told))
    return replace(running, places=(supply, regulator, *rest))


# ---------------------------------------------------------------- acceptance, straying, proving


def facts(fan: TappedFan, design: TapsDesign, found: Steps, mains: float) -> tuple[StepFacts, ...]:
    """What acceptance looks at; solved at ±10 % mains."""
    rows = rate(fan, design).solutions
    nothing = on(fan, fan.taps[0].name, fan.branches(design.branch)[0])
    low, high = ([s or nothing for s in rows[MAINS.index(m)]] for m in (0.9, 1.1))
    return facts_of(found, low, high)


_LEVELS = 31


@remembered
def _spreads(fan: TappedFan, design: TapsDesign, mains: float) -> tuple[Spread | None, ...]:
    return tuple(
        _spread(fan, fed[0], fan.branches(design.branch), mains) if len(fed) == 1 else None
        for fed in design.positions
    )


def _spread(fan: TappedFan, name: str, branches: tuple[StartBranch, ...], mains: float) -> Spread:
    """Straying of a tap: the mains and the motor; it has no parts of its own."""
    belief, supply = fan.belief, fan.supply
    table = drawn_table(belief, fan.tap(name), branches[0], supply.frequency_hz)
    likeliest: Machined = tabulate(fan.motor(name, branches[0]), belief.load, supply.frequency_hz)
    even = 1 + mains * np.linspace(-1, 1, _LEVELS)
    levels = 1 + mains * np.random.default_rng(77).uniform(-1, 1, belief.draws_kept)
    by_mains = scan(likeliest, supply.voltage_v * even, np.zeros(_LEVELS, dtype=np.complex128))
    none = np.zeros((1, belief.draws_kept), dtype=np.complex128)
    by_motor = scan(table, np.full_like(none, supply.voltage_v, dtype=np.float64), none)
    both = scan(table, (supply.voltage_v * levels)[None], none)
    nominal = on(fan, name, branches[0]).running
    middle = nominal.speed_rpm if nominal else 0.0

    def band(speed: FloatArray, runs: NDArray[np.bool_]) -> Band:
        low, _, high = percentiles(speed, runs)
        return Band(float(low), float(high))

    return Spread(
        band(both.speed_rpm[0], both.runs[0]),
        {
            Cause.PARTS: Band(middle, middle),
            Cause.MAINS: band(by_mains.speed_rpm, by_mains.runs),
            Cause.MOTOR: band(by_motor.speed_rpm[0], by_motor.runs[0]),
        },
        float(1 - both.runs.mean()),
        0.0,
    )


def strays(fan: TappedFan, design: TapsDesign, found: Steps, mains: float) -> tuple[Stray, ...]:
    """How far each step may stray."""
    pairs = [(s, p) for s, p in zip(found, _spreads(fan, design, mains), strict=False) if p is not None]
    return strays_of(tuple(s for s, _ in pairs), [p for _, p in pairs])


def expected(fan: TappedFan, design: TapsDesign | None, step: Step[FedTap]) -> tuple[Expected, ...]:
    """Speed and line current of a step that may be used; motor volts are the supply's own."""
    point = step.shown_point if isinstance(step, MachineStep) else None
    if point is None or not step.bands:
        return ()
    return (
        Expected(SPEED, point.speed_rpm, step.bands[SPEED.key]),
        Expected(LINE_CURRENT, point.line_current_a, step.bands[LINE_CURRENT.key]),
    )


def where(fan: TappedFan, design: TapsDesign, step: Step[FedTap]) -> str:
    """The contacts that are closed at a step."""
    if step.number > len(design.positions):
        return ""
    return " + ".join(
        f"{pole}.{step.number}" for pole in range(1, len(design.positions[step.number - 1]) + 1)
    )


def behind(fan: TappedFan, step: Step[FedTap]) -> Behind | None:
    """A step as Measure looks at it; None on the fastest tap, or where the step may not be used."""
    if not isinstance(step, TapStep) or not step.usable or step.setting is None or step.setting.turns <= 1.0:
        return None
    name, branch = step.setting.name, step.branches[0]
    tap, point = fan.tap(name), step.shown_point
    assert point is not None
    supply = fan.supply

    def torque(speed_rpm: FloatArray) -> tuple[FloatArray, FloatArray, FloatArray]:
        slip = 1 - speed_rpm / synchronous_speed_rpm(fan.datum.poles, supply.frequency_hz)
        volts, z = np.array(supply.voltage_v), np.array(0j)
        best = torque_nm(fan.motor(name, branch).respond(slip, supply.frequency_hz), volts, z)
        cloud = drawn_motor(fan.belief, tap, branch).respond(slip, supply.frequency_hz)
        low, high = np.percentile(torque_nm(cloud, volts, z), [5, 95], axis=0)
        return best, low, high

    def speed_band(belief: Belief) -> tuple[Band, float]:
        found = tap_bands(belief, supply, tap, branch)
        return found.speed_rpm, found.middle_speed_rpm

    return Behind(torque, speed_band, _like(fan, point.speed_rpm))


def _like(fan: TappedFan, speed_rpm: float) -> Source:
    """Sine volts on the fastest tap that give the same speed."""
    volts, _ = wanted_at(fan.belief.motor, fan.belief.load, [speed_rpm], fan.supply.frequency_hz)
    return Source(float(min(volts[0], 1000.0)), fan.supply.frequency_hz)


def missed(fan: TappedFan, design: TapsDesign | None, step: Step[FedTap], miss: Missed) -> str:
    """What a miss means: another tap, the other way of the start branch, or two taps at once."""
    if miss.value == 0:
        return (
            f": the fan stands. The contact of {step.label or 'this step'} does not make, its lead is off or "
            "the section is "
            "open. That lead may be live: switch off first."
        )
    if miss.quantity is not SPEED or step.setting is None:
        return ". Check the meter and the supply volts; more amps than expected at a fair speed: are two taps alive?"
    for branch in StartBranch:
        for tap in fan.taps:
            point = on(fan, tap.name, branch).running
            if point is None or abs(point.speed_rpm - miss.value) > _AS_MARKED / 2 * fan.full_rpm:
                continue
            if tap.name != step.setting.name:
                return f", as if the {tap.name} tap were fed: is its lead on this contact? Dead, read ohms from common."
            how = "the whole supply" if branch is StartBranch.WHOLE_SUPPLY else "the main section only"
            return (
                f", as if the start branch hung across {how}: set that in Identify, and every step follows."
            )
    tail = " The other steps hold, so the fan itself is sound." if miss.low and miss.others_hold else ""
    return f". No tap runs so: look for drag, a weak run capacitor, or two taps alive at once.{tail}"


def as_netlist(fan: TappedFan, design: TapsDesign, step: Step[FedTap]) -> Netted | None:
    """A step as a circuit simulator takes it: the motor on its tap; None where nothing is predicted."""
    if step.setting is None or not isinstance(step, TapStep):
        return None
    motor = fan.motor(step.setting.name, fan.branches(design.branch)[0])
    return netted(fan, step, None, "", motor=motor)
