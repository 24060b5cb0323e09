"""A step of a machine fan as a circuit simulator takes it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from fenwit.core.circuit import Circuit
from fenwit.core.circuit.netted import Netted
from fenwit.core.job.machine import MachineFan, MachineStep
from fenwit.core.job.steps import Step
from fenwit.core.methods.seam import Built


def netted(
    fan: MachineFan, step: Step[Any], circuit: Circuit | None, position: str, **changes: Any
) -> Netted | None:
    """One step behind a circuit in one position; None where nothing is predicted at it.

    Parameters
    ----------
    fan : MachineFan
        The fan [-]
    step : Step
        Of a machine [-]
    circuit : Circuit or None
        What stands before the motor; None: nothing [-]
    position : str
        Name of its position [-]
    changes : Any
        Fields of `Netted` that are otherwise than usual [-]

    Returns
    -------
    Netted or None
        With what is expected of it [-]
    """
    point = step.shown_point if isinstance(step, MachineStep) else None
    if point is None:
        return None
    given: dict[str, Any] = {
        "title": f"step {step.number}, {step.joins}",
        "motor": fan.belief.motor,
        "speed_rpm": point.speed_rpm,
        "supply_v": fan.supply.voltage_v,
        "frequency_hz": fan.supply.frequency_hz,
        "motor_v": point.motor_voltage_v,
        "motor_a": point.line_current_a,
        "circuit": circuit,
        "position": position,
    }
    return Netted(**(given | changes))


def on_switch(built: Callable[[Any, Any], Built]) -> Callable[[Any, Any, Step[Any]], Netted | None]:
    """The same for a regulator whose positions are called by their step's number.

    Parameters
    ----------
    built : callable
        Of the method [-]

    Returns
    -------
    callable
        Fan, design and step to what a simulator takes [-]
    """

    def of(fan: Any, design: Any, step: Step[Any]) -> Netted | None:
        return netted(fan, step, built(fan, design).circuit, str(step.number))

    return of
