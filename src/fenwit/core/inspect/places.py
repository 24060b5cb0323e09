"""What a control does at each place of its knob or switch: with this fan, and with a lamp in its place."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from fenwit.core import quantity as q
from fenwit.core.calibrate.bands import Band, StepBands, drawn
from fenwit.core.circuit import Circuit, PartKind, Position
from fenwit.core.circuit.fed import port
from fenwit.core.circuit.network import solve_bank
from fenwit.core.errors import check_range
from fenwit.core.inspect.circuits import board_circuit, ref_of, unit_of
from fenwit.core.inspect.orbits import ON_STATE_V, Orbits, networks, running_orbits
from fenwit.core.inspect.values import DRAWS, Values, drawn_networks, network_of, values_of
from fenwit.core.job.board import FIRED, KNOBS, TRACK, Board, Fault, FaultKind, Role, Topology
from fenwit.core.job.machine import MachineFan
from fenwit.core.load import FanLoad
from fenwit.core.memory import remembered
from fenwit.core.methods.phase_angle.angles import band_table
from fenwit.core.motor.machine import Machine, synchronous_speed_rpm
from fenwit.core.motor.switched import switched
from fenwit.core.operating import OperatingPoint, Solution, Source, crossings, solve, speed_grid
from fenwit.core.regulator.diac import DiacNetwork, going_angle
from fenwit.core.regulator.firing_points import at_speed
from fenwit.core.regulator.phase import PhaseStates, TriacFed

FloatArray = NDArray[np.float64]
TRAVEL = np.linspace(0.0, 1.0, 11)
"""Places of a knob, from where it gives most [-]"""
DELAYS_DEG = np.linspace(20.0, 150.0, 11)
"""Firing angles a controller may give [°]"""
LAMP_EXPONENT = 3.4
"""Light of a filament goes with this power of its volts; an estimate [-]"""
_METER = 1.1107207
"""An average-responding meter shows the mean times this [-]"""
DIAC_LEAK_A = 10e-6
"""Through a diac just before it fires [A]"""
GATE_V = 1.0
"""At which a gate fires, where a shorted diac hangs it on the network [V]"""


class Mode(StrEnum):
    """What the triac's side of a control comes to."""

    FIRES = "fires"
    DARK = "dark"
    """The triac never fires; the snubber alone leads on"""
    FULL = "full"
    HALF = "half"
    BYPASS = "bypass"
    """Something conducts beside a triac that does not fire"""
    DEAD = "dead"
    """No mains gets past it"""
    UNSTEADY = "unsteady"


@dataclass(frozen=True)
class State:
    """A knob control or controller with a fault, or whole."""

    mode: Mode
    network: DiacNetwork | None = None
    fixed_ohm: float | None = None
    """Before the timing capacitor whatever the knob's place; None: as the knob stands [Ω]"""
    bypass_ohm: complex | None = None
    """Across the triac [Ω]"""
    no_capacitor: bool = False
    """The diac hangs on the resistors alone"""


@dataclass(frozen=True)
class LampSeen:
    """What a lamp in the fan's place, a meter and a scope show."""

    volts_v: float
    """True rms [V]"""
    light: float
    """Of its light on the mains [-]"""
    meter_v: float
    """What an average-responding meter shows [V]"""
    mean_v: float
    """Mean of the volts, where the halves are not alike [V]"""
    angle_deg: float | None
    """At which it fires; None where nothing fires [°]"""


@dataclass(frozen=True)
class FanSeen:
    """What the fan does there."""

    speed_rpm: float
    """0 where it stands [rpm]"""
    starts: bool
    """From rest, at this place"""
    line_current_a: float
    input_power_w: float
    motor_v: float
    mean_a: float = 0.0
    """Direct current in the motor [A]"""
    angle_deg: float | None = None
    firing_step_v: float = 0.0
    commutation_step_v: float = 0.0
    triac_average_a: float = 0.0
    point: OperatingPoint | None = None
    """All that the model says of it; None where it stands, or runs on half a wave"""
    bands: StepBands | None = None
    angle_band: Band | None = None


@dataclass(frozen=True)
class Place:
    """One place of the knob or position of the switch."""

    name: str
    at: float
    """Travel from 0 to 1, or number of the position [-]"""
    setting: str
    """What stands in the line there, in words [-]"""
    lamp: LampSeen
    fan: FanSeen | None


STANDS = FanSeen(0.0, False, 0.0, 0.0, 0.0)


def lamp_ohm(watts: float, supply_v: float) -> float:
    """Hot ohms of a lamp of stated watts [Ω]"""
    return supply_v**2 / float(check_range("lamp_w", watts, 5.0, 1000.0, "W"))


def chopped(supply_v: float, firing_deg: float | None, half: bool = False) -> LampSeen:
    """A lamp behind a triac that fires at an angle, in both halves or in one; None: it does not fire.

    Parameters
    ----------
    supply_v : float
        Mains [V]
    firing_deg : float or None
        From the mains' zero [°]
    half : bool
        In every second half-cycle only [-]

    Returns
    -------
    LampSeen
        V √(1 − α/π + sin 2α/2π), and an average meter's V (1 + cos α)/2 [V]
    """
    if firing_deg is None:
        return LampSeen(0.0, 0.0, 0.0, 0.0, None)
    alpha = np.radians(float(check_range("firing_deg", firing_deg, 0.0, 180.0, "°")))
    rms = supply_v * float(np.sqrt(max(1 - alpha / np.pi + np.sin(2 * alpha) / (2 * np.pi), 0.0)))
    meter = supply_v * float(1 + np.cos(alpha)) / 2
    if not half:
        return LampSeen(rms, light(rms, supply_v), meter, 0.0, firing_deg)
    one = rms / np.sqrt(2)
    return LampSeen(one, light(one, supply_v), meter / 2, meter / 2 / _METER, firing_deg)


def light(volts: float, supply_v: float) -> float:
    """Light of a lamp over its light on the mains [-]"""
    return float((volts / supply_v) ** LAMP_EXPONENT)


def behind(supply_v: float, ohm: float, series_ohm: complex) -> LampSeen:
    """A lamp with something in line: sine volts, so that every meter agrees."""
    volts = supply_v * abs(ohm / (ohm + series_ohm))
    return LampSeen(volts, light(volts, supply_v), volts, 0.0, None)


# ---------------------------------------------------------------- with a fault


def state_of(board: Board, values: Mapping[str, float], fault: Fault | None) -> State:
    """What a fault makes of a control with a triac.

    Parameters
    ----------
    board : Board
        Of a topology with a triac [-]
    values : mapping of str to float
        Of the parts that are there [F|Ω|H|A|V]
    fault : Fault or None
        None: whole [-]

    Returns
    -------
    State
        How it then works [-]

    Raises
    ------
    InputError
        A part is missing without which nothing fires.
    """
    values = dict(values)
    network = network_of(board, values) if board.topology in KNOBS else None
    if fault is None:
        return State(Mode.FIRES, network)
    kind, part = fault.kind, fault.part
    gone = kind in (FaultKind.OPEN, FaultKind.CRACKED)
    if kind is FaultKind.WORN:
        return State(Mode.UNSTEADY, network)
    if part == TRACK:
        return State(Mode.DARK if gone else Mode.FIRES, network)
    role = Role(part)
    if role in (Role.FUSE, Role.SWITCH, Role.CHOKE) and gone:
        return State(Mode.DEAD, network)
    if role is Role.TRIAC:
        mode = {FaultKind.SHORT: Mode.FULL, FaultKind.HALF_WAVE: Mode.HALF}.get(kind, Mode.DARK)
        return State(mode, network)
    if role in (Role.SNUBBER_CAPACITOR, Role.SNUBBER_RESISTOR) and kind is FaultKind.SHORT:
        other = values.get(Role.SNUBBER_RESISTOR.value)
        if role is Role.SNUBBER_CAPACITOR:
            return State(Mode.BYPASS, network, bypass_ohm=complex(other or 1e-3))
    if network is None:
        return State(
            Mode.DARK if gone and role in (Role.GATE_RESISTOR, Role.OPTO, Role.DROPPER) else Mode.FIRES, None
        )
    if kind is FaultKind.DRIFTED:
        values[part] = values[part] * fault.factor
        return State(Mode.FIRES, network_of(board, values))
    return _network_fault(network, role, fault, gone)


def _network_fault(network: DiacNetwork, role: Role, fault: Fault, gone: bool) -> State:
    short = fault.kind is FaultKind.SHORT
    if role is Role.KNOB:
        if short:
            return State(Mode.FIRES, network, network.least_ohm)
        track = network.knob_ohm if fault.strapped else None
        both = [x for x in (track, network.across_ohm) if x is not None]
        if not both:
            return State(Mode.DARK, network)
        return State(Mode.FIRES, network, network.least_ohm + 1 / sum(1 / x for x in both))
    if role is Role.END_RESISTOR:
        return State(Mode.FIRES, replace(network, least_ohm=1.0)) if short else State(Mode.DARK, network)
    if role is Role.ACROSS_KNOB:
        return (
            State(Mode.FIRES, network, network.least_ohm)
            if short
            else State(Mode.FIRES, replace(network, across_ohm=None))
        )
    if role is Role.TIMING_CAPACITOR:
        return State(Mode.DARK, network) if short else State(Mode.FIRES, network, no_capacitor=gone)
    if role is Role.DIAC:
        if short:
            return State(Mode.FIRES, replace(network, breakover_v=GATE_V, breakback_v=0.0))
        return State(Mode.DARK, network)
    if role in (Role.SECOND_RESISTOR, Role.SECOND_CAPACITOR):
        if (role is Role.SECOND_CAPACITOR) is short:
            return State(Mode.DARK, network)
        return State(Mode.FIRES, replace(network, second_ohm=None, second_f=None))
    return State(Mode.FIRES, network)


def snubber_ohm(
    values: Mapping[str, float], frequency_hz: float, fault: Fault | None = None
) -> complex | None:
    """What leads past an open triac; None where nothing does [Ω]"""
    r, c = (values.get(k.value) for k in (Role.SNUBBER_RESISTOR, Role.SNUBBER_CAPACITOR))
    if fault is not None and fault.kind is FaultKind.OPEN and fault.part.startswith("snubber"):
        return None
    if c is None:
        return None
    return complex(r or 0.0) + 1 / (2j * np.pi * frequency_hz * c)


# ---------------------------------------------------------------- places


def places(
    board: Board, supply: Source, fan: MachineFan | None, fault: Fault | None = None, banded: bool = True
) -> tuple[Place, ...]:
    """What a control does at each of its places.

    Parameters
    ----------
    board : Board
        As it was read [-]
    supply : Source
        Mains [-]
    fan : MachineFan or None
        None while too little is known of it: then a lamp alone [-]
    fault : Fault or None
        Supposed in it [-]
    banded : bool
        With bands over forty ways its parts may be and over the fan's belief; not with a fault [-]

    Returns
    -------
    tuple of Place
        Eleven places of a knob or delays of a controller, or the positions of a switch [-]

    Raises
    ------
    InputError
        A board that leads nowhere, or whose taps contradict each other.
    """
    values = values_of(board)
    if board.topology in FIRED:
        # Drawn once, so that a board that leads nowhere is refused here too.
        board_circuit(board, values.likely)
        return _fired_places(board, values, supply, fan, fault, banded and fault is None)
    return _switched_places(board, values, supply, fan, fault, banded and fault is None)


def _switched_places(
    board: Board, values: Values, supply: Source, fan: MachineFan | None, fault: Fault | None, banded: bool
) -> tuple[Place, ...]:
    circuit = board_circuit(board, values.likely, fault)
    hertz, volts, ohm = supply.frequency_hz, supply.voltage_v, lamp_ohm(board.lamp_w, supply.voltage_v)
    seen: list[tuple[Position, float, complex | None]] = []
    solved = () if circuit.neutral else solve_bank(circuit, hertz)
    for i, position in enumerate(circuit.positions):
        if position.name == "Off":
            continue
        tap = _tap(board, values, position, supply) if circuit.neutral and fault is None else None
        if tap is not None:
            seen.append((position, *tap))
        elif circuit.neutral:
            found = port(circuit, hertz, position, volts)
            seen.append(
                (position, 0.0, None) if found is None else (position, abs(found.open_v), found.impedance_ohm)
            )
        else:
            at = solved[i]
            seen.append((position, volts, complex(at.impedance_ohm) if at.conducts else None))
    alive = [(v, z) for _, v, z in seen if z is not None and v >= 1.0]
    fans: dict[int, FanSeen] = {}
    if fan is not None:
        belief = fan.belief
        points = solve(belief.motor, belief.load, [Source(v, hertz, z) for v, z in alive])
        bands = (
            _switched_bands(board, values, circuit, fan, alive) if banded and alive else (None,) * len(alive)
        )
        k = 0
        for i, (_, v, z) in enumerate(seen):
            if z is None or v < 1.0:
                fans[i] = STANDS
                continue
            band, solution = bands[k], points[k]
            k += 1
            fans[i] = _sine_seen(solution)
            if band is not None and fans[i].speed_rpm > 0:
                fans[i] = replace(fans[i], bands=band)
    dark = LampSeen(0.0, 0.0, 0.0, 0.0, None)
    return tuple(
        Place(
            f"position {position.name}", float(position.name), _setting(v, z, volts),
            dark if z is None else _rated(behind(v, ohm, z), volts), fans.get(i),
        )
        for i, (position, v, z) in enumerate(seen)
    )  # fmt: skip


def _tap(board: Board, values: Values, position: Position, supply: Source) -> tuple[float, complex] | None:
    """Open volts and impedance of a whole transformer's tap, as Size reckons them; None where it is direct."""
    unit = unit_of(board, values.likely, supply.frequency_hz)
    k = int(position.name) - 1
    if k >= len(board.taps):
        return None
    volts = board.taps[k][0]
    return volts * supply.voltage_v / unit.supply_v, unit.impedance_ohm(volts, supply.frequency_hz)


def _rated(seen: LampSeen, supply_v: float) -> LampSeen:
    return replace(seen, light=light(seen.volts_v, supply_v))


def _setting(open_v: float, z: complex | None, supply_v: float) -> str:
    if z is None:
        return "nothing leads to the motor"
    if abs(open_v - supply_v) > 1e-6 * supply_v:
        return f"{open_v:.0f} V open"
    if abs(z) < 1.0:
        return "direct"
    return f"{q.plain(abs(z), 3)} Ω"


def _switched_bands(
    board: Board, values: Values, circuit: Circuit, fan: MachineFan, alive: Sequence[tuple[float, complex]]
) -> tuple[StepBands, ...]:
    kept = fan.belief.draws_kept
    every: list[NDArray[np.complex128]] = [np.full(kept, z, dtype=np.complex128) for _, z in alive]
    if not circuit.neutral:
        sampled = {
            ref_of(key): np.resize(draws, kept)
            for key, draws in values.draws.items()
            if any(
                p.name == ref_of(key) and p.kind in (PartKind.RESISTOR, PartKind.CAPACITOR)
                for p in circuit.parts
            )
        }
        if sampled:
            solved = solve_bank(circuit, fan.supply.frequency_hz, sampled)
            every = [
                np.broadcast_to(np.asarray(s.impedance_ohm, dtype=np.complex128), (kept,))
                for s in solved
                if s.position != "Off" and s.conducts
            ]
    return drawn(fan.belief, fan.supply, every, [v for v, _ in alive]).bands(fan.belief)


def _sine_seen(solution: Solution) -> FanSeen:
    point = solution.running
    starts = point is not None
    if point is None and solution.from_full is not None:
        point = solution.points[solution.from_full]
    if point is None:
        return STANDS
    return FanSeen(
        point.speed_rpm, starts, point.line_current_a, point.input_power_w, point.motor_voltage_v, point=point
    )  # fmt: skip


# ---------------------------------------------------------------- behind a triac


def _fired_places(
    board: Board, values: Values, supply: Source, fan: MachineFan | None, fault: Fault | None, banded: bool
) -> tuple[Place, ...]:
    state = state_of(board, values.likely, fault)
    ohm = lamp_ohm(board.lamp_w, supply.voltage_v)
    leak = snubber_ohm(values.likely, supply.frequency_hz, fault)
    if state.network is not None:
        first = (
            state.network.first_ohm(1 - TRAVEL)
            if state.fixed_ohm is None
            else np.full(TRAVEL.shape, state.fixed_ohm)
        )
        at, settings = TRAVEL, [f"{q.show(float(r), q.RESISTANCE, 3)}" for r in first]
        names = [f"{100 * t:.0f} %" for t in TRAVEL]
        lamp_deg = _lamp_angles(state, first, supply)
    else:
        first = np.zeros(0)
        at, settings = DELAYS_DEG, [f"{a:.0f}°" for a in DELAYS_DEG]
        names, lamp_deg = settings, DELAYS_DEG
    lamps = [_lamp(state, float(a), supply, ohm, leak) for a in lamp_deg]
    fans = _fans(board, state, first, lamp_deg, supply, fan, leak)
    if banded and fan is not None:
        fans = _banded(board, values, state, fan, fans)
    return tuple(
        Place(name, float(t), setting, lamp, seen)
        for name, t, setting, lamp, seen in zip(names, at, settings, lamps, fans, strict=True)
    )


def _lamp_angles(state: State, first_ohm: FloatArray, supply: Source) -> FloatArray:
    """Firing angles with a lamp; infinite where it stays dark [°]"""
    assert state.network is not None
    if state.no_capacitor:
        # The diac hangs on the resistors: it fires as soon as the mains reach its volts and its leak's drop.
        level = (state.network.breakover_v + DIAC_LEAK_A * first_ohm) / (np.sqrt(2) * supply.voltage_v)
        return np.asarray(np.where(level < 1, np.degrees(np.arcsin(np.minimum(level, 1.0))), np.inf))
    return np.degrees(going_angle(state.network, first_ohm, supply.voltage_v, supply.frequency_hz))


def _lamp(state: State, angle_deg: float, supply: Source, ohm: float, leak: complex | None) -> LampSeen:
    volts = supply.voltage_v
    dark = LampSeen(0.0, 0.0, 0.0, 0.0, None) if leak is None else behind(volts, ohm, leak)
    fires = np.isfinite(angle_deg)
    if state.mode is Mode.DEAD:
        return LampSeen(0.0, 0.0, 0.0, 0.0, None)
    if state.mode is Mode.FULL:
        return behind(volts, ohm, 0j)
    if state.mode is Mode.BYPASS and state.bypass_ohm is not None:
        return behind(volts, ohm, state.bypass_ohm)
    if state.mode is Mode.DARK or not fires:
        return dark
    return chopped(volts, angle_deg, state.mode is Mode.HALF)


def _fans(
    board: Board, state: State, first: FloatArray, lamp_deg: FloatArray, supply: Source, fan: MachineFan | None,
    leak: complex | None,
) -> list[FanSeen | None]:  # fmt: skip
    count = len(lamp_deg)
    if fan is None:
        return [None] * count
    motor, load = fan.belief.motor, fan.belief.load
    if state.mode is Mode.DEAD:
        return [STANDS] * count
    if state.mode in (Mode.FULL, Mode.BYPASS, Mode.DARK):
        z = {Mode.FULL: 0j, Mode.BYPASS: state.bypass_ohm, Mode.DARK: leak}[state.mode]
        if z is None:
            return [STANDS] * count
        seen = _sine_seen(solve(motor, load, [Source(supply.voltage_v, supply.frequency_hz, z)])[0])
        return [seen] * count
    if state.mode is Mode.HALF:
        return [half_wave(motor, load, supply, float(a)) if np.isfinite(a) else STANDS for a in lamp_deg]
    angles = np.asarray(lamp_deg)
    orbits = running_orbits(motor, load, supply)
    if board.topology is Topology.TWO_WIRE and state.network is not None and not state.no_capacitor:
        angles = np.degrees(orbits.fires_at(networks(state.network, first)))
    return list(_running(motor, load, supply, orbits, angles))


def _running(
    motor: Machine, load: FanLoad, supply: Source, orbits: Orbits, angles_deg: FloatArray
) -> list[FanSeen]:
    """The fan at firing angles, exact; where it is not fired, or holds no speed, it stands."""
    alpha = np.radians(angles_deg)
    fires = np.isfinite(alpha)
    held = (
        orbits.speed_at(np.where(fires & (alpha < orbits.firing_rad[0]), orbits.firing_rad[0], alpha))
        if len(orbits.firing_rad)
        else np.zeros(len(alpha))
    )
    runs = fires & (held > 0)
    starts = _starts(motor, load, supply, np.where(fires, alpha, 0.0))
    found: list[FanSeen] = []
    for i, deg in enumerate(angles_deg.tolist()):
        point = at_speed(motor, supply, float(held[i]), deg, ON_STATE_V) if runs[i] else None
        if point is None:
            found.append(replace(STANDS, angle_deg=deg if fires[i] else None))
            continue
        found.append(
            FanSeen(
                float(held[i]), bool(starts[i]), point.line_current_a, point.input_power_w, point.motor_voltage_v,
                0.0, deg, point.firing_step_v, point.commutation_step_v, point.triac_average_a, point,
            )
        )  # fmt: skip
    return found


def _starts(motor: Machine, load: FanLoad, supply: Source, alpha: FloatArray) -> NDArray[np.bool_]:
    z = supply.impedance_ohm
    fed = TriacFed(
        switched(motor, np.zeros(1), supply.frequency_hz, z.real, z.imag), supply.voltage_v, ON_STATE_V
    )
    torque = fed.torques(np.clip(alpha, 0.0, np.pi - 1e-6))[0][0]
    return np.asarray(torque >= float(load.break_away_ratio) * float(load.friction_nm))


def half_wave(motor: Machine, load: FanLoad, supply: Source, firing_deg: float) -> FanSeen:
    """A fan behind a triac that fires in every second half-cycle only: direct current brakes and heats it.

    Parameters
    ----------
    motor : Machine
        Motor with scalar parameters [-]
    load : FanLoad
        Fan [-]
    supply : Source
        Mains [-]
    firing_deg : float
        From the mains' zero [°]

    Returns
    -------
    FanSeen
        Where motor and fan agree, coming down from full speed [-]
    """
    alpha = np.radians(firing_deg)
    z = supply.impedance_ohm

    def states(speed: FloatArray) -> PhaseStates:
        # The triac's own volts, one in a hundred here, are left out.
        fed = TriacFed(switched(motor, speed, supply.frequency_hz, z.real, z.imag), supply.voltage_v)
        return fed.states(np.array([[alpha]]), half_wave=True)

    n_s = synchronous_speed_rpm(motor.poles, supply.frequency_hz)
    grid = speed_grid(n_s, 30)

    def difference(speed: FloatArray, _: NDArray[np.int64]) -> FloatArray:
        return np.asarray(states(speed).torque_nm[:, 0] - load.torque_nm(speed))

    net = (states(grid).torque_nm[:, 0] - load.torque_nm(grid))[None]
    _, speeds, stable = crossings(grid, net, difference, 1e-5 * n_s)
    good = speeds[stable]
    if not len(good):
        return STANDS
    speed = good[-1:]
    s = states(speed)
    return FanSeen(
        float(speed[0]), bool(net[0, 0] > 0), float(s.line_current_a[0, 0]), float(s.input_power_w[0, 0]),
        float(s.motor_voltage_v[0, 0]), float(s.average_current_a[0, 0]), firing_deg,
    )  # fmt: skip


def _banded(
    board: Board, values: Values, state: State, fan: MachineFan, seen: list[FanSeen | None]
) -> list[FanSeen | None]:
    """Bands from forty ways the parts may be, joined with those of the fan's belief at the likeliest angle."""
    supply, belief = fan.supply, fan.belief
    orbits = running_orbits(belief.motor, belief.load, supply)
    table = band_table(fan, True)
    angles: FloatArray | None = None
    if state.network is not None and len(orbits.firing_rad) > 3:
        angles = drawn_angles(board, values, state.network, orbits, supply)
    found: list[FanSeen | None] = []
    for i, one in enumerate(seen):
        if one is None or one.speed_rpm <= 0 or one.angle_deg is None or table is None:
            found.append(one)
            continue
        sides = {
            name: tuple(
                float(np.interp(one.angle_deg, table.firing_deg, t[name])) for t in (table.below, table.above)
            )
            for name in ("speed_rpm", "motor_voltage_v", "line_current_a", "input_power_w", "motor_loss_w")
        }
        stalls = float(np.interp(one.angle_deg, table.firing_deg, table.may_not_start))
        angle = None
        if angles is not None:
            mine = angles[:, i]
            runs = np.isfinite(mine)
            stalls = max(stalls, 1 - float(runs.mean()))
            if runs.any():
                # What the parts leave open moves the angle, and with it all else, along the fan's own states.
                low, high = np.percentile(mine[runs], [5, 95])
                angle = Band(float(np.degrees(low)), float(np.degrees(high)))
                for name, column in (("speed_rpm", orbits.speed_rpm), ("line_current_a", orbits.line_current_a),
                                     ("input_power_w", orbits.input_power_w), ("motor_voltage_v", orbits.motor_voltage_v),
                                     ("motor_loss_w", orbits.motor_loss_w)):  # fmt: skip
                    at = np.interp([low, high], orbits.firing_rad, column)
                    here = float(np.interp(np.radians(one.angle_deg), orbits.firing_rad, column))
                    below, above = max(0.0, here - float(at.min())), max(0.0, float(at.max()) - here)
                    sides[name] = (
                        float(np.hypot(sides[name][0], below)),
                        float(np.hypot(sides[name][1], above)),
                    )
        heat = one.point.motor_loss_w if one.point else 0.0
        bands = StepBands(
            _around(one.speed_rpm, sides["speed_rpm"]), _around(one.motor_v, sides["motor_voltage_v"]),
            _around(one.line_current_a, sides["line_current_a"]), _around(one.input_power_w, sides["input_power_w"]),
            _around(heat, sides["motor_loss_w"]), stalls, 0.0,
        )  # fmt: skip
        found.append(replace(one, bands=bands, angle_band=angle))
    return found


def _around(value: float, sides: tuple[float, ...]) -> Band:
    return Band(max(0.0, value - sides[0]), value + sides[1])


def drawn_angles(
    board: Board, values: Values, network: DiacNetwork, orbits: Orbits, supply: Source
) -> FloatArray:
    """Firing angles of all draws at all places of the knob.

    Parameters
    ----------
    board : Board
        A knob with triac and diac [-]
    values : Values
        Of its parts, with their draws [-]
    network : DiacNetwork
        With the likeliest values [-]
    orbits : Orbits
        Of the fan [-]
    supply : Source
        Mains [-]

    Returns
    -------
    array
        Angles, infinite where it goes out, shape (40, 11) [rad]
    """
    many = drawn_networks(board, values, network, TRAVEL)
    if board.topology is Topology.TWO_WIRE:
        return np.asarray(orbits.fires_at(many).reshape(DRAWS, -1))
    found = np.empty((DRAWS, len(TRAVEL)))
    for k in range(DRAWS):
        mine = slice(k * len(TRAVEL), (k + 1) * len(TRAVEL))
        own = DiacNetwork(
            1.0, network.knob_ohm, float(many.first_f[mine][0]), float(many.breakover_v[mine][0]),
            float(many.breakback_v[mine][0]), None,
            None if many.second_ohm is None else float(many.second_ohm[mine][0]),
            None if many.second_f is None else float(many.second_f[mine][0]),
        )  # fmt: skip
        found[k] = going_angle(own, many.first_ohm[mine], supply.voltage_v, supply.frequency_hz)
    return found


@dataclass(frozen=True)
class Turning:
    """How a knob comes on and goes out with this fan."""

    on_ohm: float
    """Turned up under power it comes on at this resistance [Ω]"""
    on_rpm: float
    """And settles at this speed [rpm]"""
    off_ohm: float
    """Turned back it holds up to this [Ω]"""
    off_rpm: float
    """Least speed it can be turned back to, within the knob's own travel [rpm]"""
    comes_on: bool
    """Whether the knob's own travel reaches a place at which it goes out at all"""

    @property
    def jump_rpm(self) -> float:
        """Speed just after coming on, less the least it can be turned back to [rpm]"""
        return max(0.0, self.on_rpm - self.off_rpm) if self.comes_on else 0.0


@remembered
def turning(fan: MachineFan, network: DiacNetwork) -> Turning | None:
    """Where a two-wire knob comes on and goes out; None where it never fires.

    Parameters
    ----------
    fan : MachineFan
        The fan [-]
    network : DiacNetwork
        The network [-]

    Returns
    -------
    Turning or None
        Resistances and speeds. It comes on where the network alone reaches the diac's volts, ωRC = √((V_p/V_BO)² − 1) [-]
    """
    supply = fan.supply
    orbits = running_orbits(fan.belief.motor, fan.belief.load, supply)
    if len(orbits.firing_rad) < 4:
        return None
    most = float(network.first_ohm(np.array([0.0]))[0])
    trial = np.geomspace(network.least_ohm, 20 * max(most, network.least_ohm), 400)
    going = orbits.fires_at(networks(network, trial))
    runs = np.isfinite(going)
    if not runs.any():
        return None
    off = float(trial[runs][-1])
    low, high = off, float(trial[min(int(np.flatnonzero(runs)[-1]) + 1, len(trial) - 1)])
    for _ in range(20):
        middle = 0.5 * (low + high)
        fires = bool(np.isfinite(orbits.fires_at(networks(network, np.array([middle]))))[0])
        low, high = (middle, high) if fires else (low, middle)
    on = _alone(network, supply, trial)
    held = min(low, most)
    speed = orbits.speed_at(orbits.fires_at(networks(network, np.array([min(on, low), held]))))
    return Turning(on, float(speed[0]), low, float(speed[1]), most > on)


def _alone(network: DiacNetwork, supply: Source, trial: FloatArray) -> float:
    """The most resistance at which the network reaches the diac's volts on the open triac's own mains [Ω]"""
    many = networks(network, trial)
    a, b = many.equations(2 * np.pi * supply.frequency_hz)
    crest = np.sqrt(2) * supply.voltage_v
    state = np.linalg.solve(1j * np.eye(a.shape[-1]) - a, crest * b[..., None])[..., 0]
    volts = np.abs(state[:, -1])
    reaches = volts >= network.breakover_v
    if not reaches.any():
        return 0.0
    k = int(np.flatnonzero(reaches)[-1])
    if k == len(trial) - 1:
        return float(trial[-1])
    share = (volts[k] - network.breakover_v) / (volts[k] - volts[k + 1])
    return float(trial[k] * (trial[k + 1] / trial[k]) ** share)
