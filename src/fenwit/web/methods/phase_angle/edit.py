"""Phase-angle controls between what is typed and what the core takes."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated, Any, Literal

from pydantic import BaseModel, Field

from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.job.state import JobState
from fenwit.core.job.subject import Lacking, Refused
from fenwit.core.methods.phase_angle import PHASE_ANGLE
from fenwit.core.methods.phase_angle.angles import design_for
from fenwit.core.methods.phase_angle.design import Edge, FiredBy, PhaseDesign, Pulse, Unit
from fenwit.core.methods.phase_angle.triac import TriacPart
from fenwit.core.motor.kinds import Method
from fenwit.core.regulator.diac import DiacNetwork, Taper
from fenwit.core.regulator.firing import ZeroDetector
from fenwit.store.database import Database
from fenwit.web.fields import Typed


class NetworkEdit(BaseModel):
    """The diac network of a knob in bench notation; empty: not there."""

    least: Typed = "3k3"
    knob: Typed = "470k"
    capacitor: Typed = "100n"
    breakover: Typed = "32V"
    breakback: Typed = "10V"
    across: Typed = ""
    second_ohm: Typed = ""
    second_f: Typed = ""
    taper: Taper = Taper.LINEAR


class TriacEdit(BaseModel):
    """A triac's data sheet as typed; empty: a usual small triac."""

    rms: Typed = ""
    surge: Typed = ""
    off_state: Typed = ""
    gate: Typed = ""
    holding: Typed = ""
    latching: Typed = ""
    threshold: Typed = ""
    slope: Typed = ""
    case: Typed = ""
    junction: Typed = ""
    dvdt: Typed = ""


class UnitEdit(BaseModel):
    """What stands between mains and microcontroller as typed; empty: as usual."""

    detector: Typed = ""
    """Resistor of the zero detector"""
    detector_output: Typed = ""
    """Amps its output must sink"""
    ctr_low: Typed = ""
    ctr_high: Typed = ""
    edge: Edge = Edge.MIDDLE
    lag: Typed = ""
    """Microseconds"""
    pulse: Pulse = Pulse.SHORT
    opto: Typed = ""
    """Amps its output bears for a moment"""
    logic_v: Typed = ""
    logic_a: Typed = ""


class PhaseEdit(BaseModel):
    """A phase-angle control as typed."""

    method: Literal[Method.PHASE_ANGLE]

    fired_by: FiredBy = FiredBy.TABLE
    angles: Annotated[list[Typed], Field(max_length=8)] = []
    """One for each step; left out: those that the wanted speeds ask for"""
    network: NetworkEdit = NetworkEdit()
    """Only of a knob"""
    triac: TriacEdit = TriacEdit()
    unit: UnitEdit = UnitEdit()
    """Only of a microcontroller"""
    kick: bool = False
    snubbed: bool = True
    filtered: bool = True
    fused: bool = True


_TRIAC: tuple[tuple[str, str, q.Dimension], ...] = (
    ("rms", "rms_a", q.CURRENT),
    ("surge", "surge_a", replace(q.CURRENT, low=0.1, high=5000.0)),
    ("off_state", "off_state_v", replace(q.VOLTAGE, low=1.0, high=3000.0)),
    ("gate", "gate_a", q.CURRENT),
    ("holding", "holding_a", q.CURRENT),
    ("latching", "latching_a", q.CURRENT),
    ("threshold", "threshold_v", q.VOLTAGE),
    (
        "slope",
        "slope_ohm",
        replace(q.RESISTANCE, prefixes="m", low=0.0, high=5.0, example="like 0.1 or 0R05"),
    ),
    ("case", "case_kw", q.THERMAL),
    ("junction", "junction_c", q.TEMPERATURE),
    ("dvdt", "dvdt_v_us", q.STEEPNESS),
)
_USUAL_TRIAC, _USUAL_UNIT = TriacPart(), Unit()


def read_network(edit: NetworkEdit) -> DiacNetwork:
    """A typed network. Raises InputError beside the part."""

    def maybe(name: str, text: str, dimension: q.Dimension) -> float | None:
        return q.parse(name, text, dimension) if text else None

    return DiacNetwork(
        q.parse("least", edit.least, q.RESISTANCE),
        q.parse("knob", edit.knob, q.RESISTANCE),
        q.parse("capacitor", edit.capacitor, q.CAPACITANCE),
        q.parse("breakover", edit.breakover, q.VOLTAGE),
        q.parse("breakback", edit.breakback, q.VOLTAGE),
        maybe("across", edit.across, q.RESISTANCE),
        maybe("second_ohm", edit.second_ohm, q.RESISTANCE),
        maybe("second_f", edit.second_f, q.CAPACITANCE),
        edit.taper,
    )


def read_triac(edit: TriacEdit) -> TriacPart:
    """A typed data sheet. Raises InputError beside the value."""
    given: dict[str, Any] = {
        name: q.parse(f"triac.{field}", text, dimension)
        for field, name, dimension in _TRIAC
        if (text := getattr(edit, field))
    }
    return TriacPart(**given)


def read_unit(edit: UnitEdit) -> Unit:
    """A typed mains side of a microcontroller. Raises InputError beside the value."""
    usual = _USUAL_UNIT

    def or_usual(field: str, dimension: q.Dimension, value: float) -> float:
        text = getattr(edit, field)
        return q.parse(f"unit.{field}", text, dimension) if text else value

    d = usual.detector
    return Unit(
        ZeroDetector(
            or_usual("detector", q.RESISTANCE, d.resistor_ohm),
            or_usual("detector_output", q.CURRENT, d.output_current_a),
            or_usual("ctr_low", q.TRANSFER, d.ctr_low),
            or_usual("ctr_high", q.TRANSFER, d.ctr_high),
        ),
        edit.edge,
        or_usual("lag", q.MICROSECONDS, usual.lag_us),
        edit.pulse,
        or_usual("opto", q.CURRENT, usual.opto_current_a),
        or_usual("logic_v", q.VOLTAGE, usual.logic_v),
        or_usual("logic_a", q.CURRENT, usual.logic_a),
    )


def read(database: Database, state: JobState, edit: PhaseEdit) -> PhaseDesign:
    """A typed control; angles that are not given are set for the wanted speeds. Raises InputError beside the field."""
    knob = edit.fired_by is FiredBy.KNOB
    angles = tuple(q.parse(f"angles[{i}]", text, q.ANGLE) for i, text in enumerate(edit.angles))
    design = PhaseDesign(
        angles or (0.0,),
        edit.fired_by,
        read_network(edit.network) if knob else None,
        _USUAL_UNIT if knob else read_unit(edit.unit),
        edit.kick,
        read_triac(edit.triac),
        edit.snubbed,
        edit.filtered,
        edit.fused,
    )
    if angles:
        return design
    fan = PHASE_ANGLE.subject(state)
    if isinstance(fan, Refused):
        raise InputError("method", edit.method.value, "a fan that phase angle suits", fan.reason)
    if isinstance(fan, Lacking):
        raise InputError("angles", "", "a fan that is computed", "nothing is known of this fan's speed yet")
    if not state.wanted_rpm:
        raise InputError("angles", "", "speeds set in Aim", "first say in Aim which speeds are wanted")
    return design_for(fan, state.wanted_rpm, design)


def typed_network(network: DiacNetwork) -> NetworkEdit:
    """A network as it would be typed."""

    def maybe(value: float | None, dimension: q.Dimension) -> str:
        return "" if value is None else q.bench(value, dimension, 4)

    return NetworkEdit(
        least=q.bench(network.least_ohm, q.RESISTANCE, 4),
        knob=q.bench(network.knob_ohm, q.RESISTANCE, 4),
        capacitor=q.bench(network.capacitance_f, q.CAPACITANCE, 4),
        breakover=f"{network.breakover_v:g}V",
        breakback=f"{network.breakback_v:g}V",
        across=maybe(network.across_ohm, q.RESISTANCE),
        second_ohm=maybe(network.second_ohm, q.RESISTANCE),
        second_f=maybe(network.second_f, q.CAPACITANCE),
        taper=network.taper,
    )


def typed(design: PhaseDesign) -> PhaseEdit:
    """A control as it would be typed; what is as usual stays empty."""
    unit, usual = design.unit, _USUAL_UNIT

    def unless(value: float, usually: float, text: str) -> str:
        return "" if value == usually else text

    d, u = unit.detector, usual.detector
    return PhaseEdit(
        method=Method.PHASE_ANGLE,
        fired_by=design.fired_by,
        angles=[f"{a:g}" for a in design.firing_deg],
        network=typed_network(design.network) if design.network else NetworkEdit(),
        triac=TriacEdit(
            **{
                field: unless(
                    getattr(design.triac, name),
                    getattr(_USUAL_TRIAC, name),
                    f"{getattr(design.triac, name):g}",
                )
                for field, name, _ in _TRIAC
            }
        ),
        unit=UnitEdit(
            detector=unless(d.resistor_ohm, u.resistor_ohm, q.bench(d.resistor_ohm, q.RESISTANCE, 4)),
            detector_output=unless(
                d.output_current_a, u.output_current_a, q.bench(d.output_current_a, q.CURRENT, 4)
            ),
            ctr_low=unless(d.ctr_low, u.ctr_low, f"{d.ctr_low:g}"),
            ctr_high=unless(d.ctr_high, u.ctr_high, f"{d.ctr_high:g}"),
            edge=unit.edge,
            lag=unless(unit.lag_us, usual.lag_us, f"{unit.lag_us:g}"),
            pulse=unit.pulse,
            opto=unless(unit.opto_current_a, usual.opto_current_a, f"{unit.opto_current_a:g}A"),
            logic_v=unless(unit.logic_v, usual.logic_v, f"{unit.logic_v:g}V"),
            logic_a=unless(unit.logic_a, usual.logic_a, q.bench(unit.logic_a, q.CURRENT, 4)),
        ),
        kick=design.kick,
        snubbed=design.snubbed,
        filtered=design.filtered,
        fused=design.fused,
    )
