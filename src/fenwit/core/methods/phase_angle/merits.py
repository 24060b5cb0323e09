"""What phase angle is compared by: harmonics of torque and line from the solved wave, its heat, where it comes on."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.job.machine import MachineFan
from fenwit.core.job.state import JobState
from fenwit.core.memory import remembered
from fenwit.core.methods.common.merits import step_merit, unmet_words
from fenwit.core.methods.phase_angle.angles import ON_STATE_V, sized
from fenwit.core.methods.phase_angle.design import FiredBy, PhaseDesign
from fenwit.core.methods.phase_angle.knob import knob, usual
from fenwit.core.methods.phase_angle.steps import PhaseStep, ideal
from fenwit.core.methods.phase_angle.triac import TriacDesign
from fenwit.core.methods.seam import Compared
from fenwit.core.motor.switched import switched
from fenwit.core.operating import OperatingPoint
from fenwit.core.regulator.diac import DiacNetwork
from fenwit.core.regulator.firing_points import PhasePoint, phase_solutions
from fenwit.core.regulator.phase import ORDERS, Spectra, TriacFed
from fenwit.core.size.merits import Failing, Harmonic, Merits, Piece

_TO_SPARE = 1.15
_CHOKE_OHM = 2.0
"""Of a choke from the shelf [Ω]"""
MAINS_OHM = (0.4, 0.25)
"""Of the mains up to the regulator at their frequency: resistance and reactance, an estimate [Ω]"""


def compared(fan: MachineFan, state: JobState, glance: bool) -> tuple[Compared, ...]:
    """The firing angles of wanted speeds; parts and knob as they would be built."""
    wanted_rpm, design = state.wanted_rpm, state.design if isinstance(state.design, PhaseDesign) else None
    steps = ideal(fan, wanted_rpm, glance)
    control = design or PhaseDesign((0.0,))
    parts = sized(fan.belief, fan.supply, control)
    usable = [s for s in steps if s.shown is not None and s.phase_point is not None]
    bare, filtered = spectra_of(fan, usable, None), spectra_of(fan, usable, parts)
    found = []
    for step in steps:
        if step not in usable:
            found.append(step_merit(fan, step))
            continue
        i = usable.index(step)
        beats = None if bare.torque_nm is None else bare.torque_nm[i].tolist()
        own = bare.line_a[i]

        def heat(point: OperatingPoint) -> float:
            return regulator_w(fan, point, parts)

        found.append(
            step_merit(
                fan,
                step,
                regulator_w=heat,
                beats_nm=beats,
                thd=thd_of(own),
                harmonics=tuple(
                    Harmonic(int(k), float(a), float(a / own[0]), float(f))
                    for k, a, f in zip(ORDERS[1:], own[1:], filtered.line_a[i][1:], strict=True)
                ),
                thd_filtered=thd_of(filtered.line_a[i]),
            )
        )
    network = control.network or _network(fan)
    jump = 0.0 if network is None else _jump(fan, network, control.kick)
    hottest = max((m.regulator_w for m in found if m), default=0.0)
    knobbed = design is None or design.fired_by is FiredBy.KNOB
    row = Merits(
        variant="",
        name="phase angle",
        steps=tuple(found),
        unmet=tuple(unmet_words(s) for s in steps),
        hottest=f"triac and snubber, {q.plain(hottest, 2)} W, junction about {parts.sink.junction_c:.0f} °C",
        hottest_w=hottest,
        slowest_rpm=_slowest(fan),
        jump_rpm=jump,
        stepless=True,
        built_text=_network_words(network) if knobbed else "a microcontroller, opto-triac and zero detector",
        # A knob or a program is set to each wanted speed.
        built_rpm=tuple(s.shown.speed_rpm if s.shown else 0.0 for s in steps),
        pieces=_PIECES,
        regulator_hum="its choke hums at twice the mains and multiples",
        failures=(
            Failing("triac", "stands", "full speed, and no control: the commonest failure", True),
            Failing("one half only", "hums, hot, slow: direct current runs in the motor", "", True),
            Failing("timing capacitor", "full speed", "stands, and its end resistor burns"),
        ),
        unmodelled="above 2 kHz the model says nothing: there the filter works, and a laboratory judges",
    )
    return (Compared(row, steps),)


_PIECES = (
    (Piece.TRIAC, 1),
    (Piece.DIAC, 1),
    (Piece.KNOB, 1),
    (Piece.CHOKE, 1),
    (Piece.X_CAPACITOR, 1),
    (Piece.HEAT_SINK, 1),
    (Piece.FILM_CAPACITOR, 2),
    (Piece.SMALL_RESISTOR, 3),
    (Piece.FUSE, 1),
    (Piece.BOX, 1),
)
"""Of a knob with diac: timing and snubber capacitor, end, parallel and snubber resistor"""


def regulator_w(fan: MachineFan, point: OperatingPoint, parts: TriacDesign) -> float:
    """V_T mean |i| + f C_s (V_step² + V_fire²) + choke |I|² R [W]"""
    if not isinstance(point, PhasePoint):
        return point.series_loss_w
    swings = point.commutation_step_v**2 + point.firing_step_v**2
    snubber = fan.supply.frequency_hz * parts.snubber.farads * swings
    return point.triac_loss_w + snubber + _CHOKE_OHM * point.line_current_a**2


def thd_of(line_a: np.typing.NDArray[np.float64]) -> float:
    """Harmonics over the fundamental [-]"""
    first = float(line_a[0])
    return float(np.sqrt(np.square(line_a[1:]).sum()) / first) if first > 0 else 0.0


def spectra_of(fan: MachineFan, steps: Sequence[PhaseStep], parts: TriacDesign | None) -> Spectra:
    """Line and torque harmonics of running steps, without a filter or with choke and X capacitor."""
    points = [s.phase_point for s in steps]
    found = [p for p in points if p is not None]
    if not found:
        return Spectra(np.zeros((0, len(ORDERS))), None)
    hertz = fan.supply.frequency_hz
    omega = 2 * np.pi * hertz
    ohm, reactance = (_CHOKE_OHM, omega * parts.filter.choke_h) if parts else (0.0, 0.0)
    machine = switched(fan.belief.motor, np.array([p.speed_rpm for p in found]), hertz, ohm, reactance)
    fed = TriacFed(machine, fan.supply.voltage_v, ON_STATE_V)
    spectra = fed.spectra(
        np.radians([p.firing_angle_deg for p in found]), np.radians([p.conduction_angle_deg for p in found])
    )
    if parts is None:
        return spectra
    # Across the mains the capacitor shares each harmonic with what the mains are: a little more of it flows there.
    mains = MAINS_OHM[0] + 1j * MAINS_OHM[1] * ORDERS
    across = 1 / (1j * omega * ORDERS * parts.filter.capacitor_f)
    return Spectra(spectra.line_a * np.abs(across / (across + mains)), spectra.torque_nm)


@remembered
def _slowest(fan: MachineFan) -> float | None:
    """Speed from rest at the angle whose torque at rest is 1.15 × break-away."""
    load, supply = fan.belief.load, fan.supply
    wanted = _TO_SPARE * float(load.break_away_ratio * load.friction_nm)
    machine = switched(fan.belief.motor, np.zeros(1), supply.frequency_hz, 0.0, 0.0)
    fed = TriacFed(machine, supply.voltage_v, ON_STATE_V)
    low, high = 0.0, 180.0
    # Torque at rest falls with the angle: ever closer looks at the stretch in which it passes what is wanted.
    for _ in range(3):
        deg = np.linspace(low, high, 41)
        torque = fed.torques(np.radians(deg))[0][0]
        above = np.flatnonzero(torque >= wanted)
        if not len(above):
            return None
        last = int(above[-1])
        low, high = float(deg[last]), float(deg[min(last + 1, len(deg) - 1)])
    (solution,) = phase_solutions(fan.belief.motor, load, supply, [low], ON_STATE_V)
    return solution.running.speed_rpm if solution.running else None


@remembered
def _network(fan: MachineFan) -> DiacNetwork | None:
    """A knob of usual parts from as fast as it may fire down to where the fan still starts."""
    try:
        found = usual(fan, ())
    except InputError:
        return None
    return found[0].network if found else None


@remembered
def _jump(fan: MachineFan, network: DiacNetwork, kick: bool) -> float:
    """Speed just after coming on while turned up, less the least it can be turned back to [rpm]"""
    shown = knob(fan, network, kick)
    up = [n for n in shown.up_rpm if n > 0]
    down = [n for n in shown.down_rpm if n > 0]
    return max(0.0, min(up) - min(down)) if up and down else 0.0


def _network_words(network: DiacNetwork | None) -> str:
    if network is None:
        return "no knob of usual parts reaches these angles"
    return (
        f"knob {q.show(network.knob_ohm, q.RESISTANCE)}, {q.show(network.capacitance_f, q.CAPACITANCE)}, diac"
    )
