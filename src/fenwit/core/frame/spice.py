"""A step of a job, or a place of the control that came in, as a circuit simulator takes it."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from fenwit.core.circuit.netted import Knob, Netted
from fenwit.core.errors import InputError
from fenwit.core.frame.asked import must_know
from fenwit.core.frame.inspect import spots_of
from fenwit.core.inspect.circuits import board_circuit, ref_of
from fenwit.core.inspect.orbits import ON_STATE_V
from fenwit.core.inspect.values import network_of, values_of
from fenwit.core.job.board import FIRED, NAMES, ROLES, Board, Role, Topology
from fenwit.core.job.machine import MachineFan, machine_of
from fenwit.core.job.state import JobState
from fenwit.core.operating import Source
from fenwit.core.regulator.firing_points import PhasePoint


def step_netted(state: JobState, step: int) -> Netted:
    """A step of the design of a job.

    Parameters
    ----------
    state : JobState
        The job [-]
    step : int
        Number of the step [-]

    Returns
    -------
    Netted
        What stands before the motor, the motor, and what is expected [-]

    Raises
    ------
    InputError
        Nothing is chosen, there is no such step, or nothing is predicted at it.
    """
    if state.design is None:
        raise InputError("design", None, "a regulator chosen in Size", "there is nothing to write yet")
    asked = must_know(state)
    steps = asked.steps()
    found = next((s for s in steps if s.number == step), None)
    if found is None:
        raise InputError("step", step, f"1 to {len(steps)}", "no such step")
    netted = asked.regulation.netted(asked.subject, asked.design, found)
    if netted is None:
        reason = (
            "nothing is predicted at this step: it cannot be reproduced"
            if found.shown is None
            else "this fan is known by its speeds, not by its windings: there is no circuit to write"
        )
        raise InputError("step", step, "a step that runs, of a fan whose windings are known", reason)
    return netted


def place_netted(state: JobState, at: float) -> Netted:
    """A place of the control that came in.

    Parameters
    ----------
    state : JobState
        The job [-]
    at : float
        Travel, firing angle or number of the position [-]

    Returns
    -------
    Netted
        As `step_netted`; a two-wire knob with its diac network, other triacs as timed switches [-]

    Raises
    ------
    InputError
        No control, no fan, no such place, or one at which the fan stands.
    """
    board = state.board
    if board is None:
        raise InputError("board", None, "a control that was told of", "no control came in with this job")
    fan = machine_of(state)
    if not isinstance(fan, MachineFan):
        raise InputError("board", None, "a fan that is known", "the motor behind it is not known yet")
    supply = Source(state.supply_voltage_v, state.supply_frequency_hz)
    spots = spots_of(board, supply, fan)
    spot = min(spots, key=lambda s: abs(s.at - at))
    seen = spot.fan
    if seen is None or seen.point is None:
        raise InputError(
            "at", at, "a place at which the fan runs", "the fan stands there: nothing to reproduce"
        )
    values = values_of(board).likely
    fired = board.topology in FIRED
    knob, firing = None, None
    if board.topology is Topology.TWO_WIRE:
        network = network_of(board, values)
        # The turned part of the track alone; what stands across it is in the circuit.
        bare = replace(network, across_ohm=None).first_ohm(np.array([1 - spot.at]))
        ohm = max(float(bare[0]) - network.least_ohm, 1e-3)
        knob = Knob(network.breakover_v, network.breakback_v, ohm)
    elif fired:
        firing = seen.angle_deg
    conduction = seen.point.conduction_angle_deg if isinstance(seen.point, PhasePoint) else 0.0
    return Netted(
        f"{NAMES[board.topology]}, {spot.name}, {spot.setting}", fan.belief.motor, seen.speed_rpm, supply.voltage_v,
        supply.frequency_hz, seen.motor_v, seen.line_current_a, board_circuit(board, values),
        "On" if fired else str(int(spot.at)), firing, knob, ON_STATE_V if fired else 0.0,
        _beside(board, knob is not None) if fired else frozenset(), conduction,
    )  # fmt: skip


_LINE = (Role.SWITCH, Role.FUSE, Role.TRIAC)
_NETWORK = (
    Role.END_RESISTOR, Role.KNOB, Role.ACROSS_KNOB, Role.TIMING_CAPACITOR, Role.SECOND_RESISTOR, Role.SECOND_CAPACITOR,
    Role.DIAC,
)  # fmt: skip


def _beside(board: Board, with_network: bool) -> frozenset[str]:
    """What the computed place knows nothing of: snubber, filter, and what fires the triac where it is a timed switch."""
    kept = {ROLES[r].ref for r in (*_LINE, *(_NETWORK if with_network else ()))}
    every = {ref_of(key) for key in board.keys} | {"U1", "PS"}
    return frozenset(every - kept)
