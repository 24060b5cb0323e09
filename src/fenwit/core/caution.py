"""Hazards: what raises each, where it shows, what to do, and whether work goes on without it."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from fenwit.core.errors import check_range
from fenwit.core.motor.kinds import KINDS, MotorKind, SubjectKind


class Stage(StrEnum):
    """Parts of the job, in the order of the work."""

    IDENTIFY = "identify"
    MEASURE = "measure"
    INSPECT = "inspect"
    AIM = "aim"
    CHOOSE = "choose"
    SIZE = "size"
    HOLD = "hold"
    WIRE = "wire"
    PROVE = "prove"
    HAND_OVER = "hand-over"


class Confirm(StrEnum):
    """How a gating caution is met."""

    TICK = "tick"
    READING = "reading"


@dataclass(frozen=True)
class Discharge:
    """How a charged capacitor is emptied through a resistor."""

    capacitance_f: float
    peak_voltage_v: float
    energy_j: float
    resistance_ohm: float
    power_w: float
    """Watts at the first instant [W]"""
    time_s: float
    """Five time constants [s]"""


@dataclass(frozen=True)
class Caution:
    """One hazard of this job."""

    key: str
    stages: tuple[Stage, ...]
    text: str
    do: str
    brief: str = ""
    """What was done, in short, once it is confirmed [-]"""
    gates: tuple[str, ...] = ()
    """Quantities that may not be read before this is confirmed; not empty for ⛔ cautions"""
    confirm: Confirm = Confirm.TICK
    limit: float | None = None
    """Highest reading that confirms it, where a reading is asked for [V]"""


@dataclass(frozen=True)
class JobFacts:
    """What of a job raises cautions."""

    kind: MotorKind | None
    supply_voltage_v: float
    run_capacitance_f: float | None = None
    capacitor_voltage_v: float | None = None
    """Rms volts across the run capacitor at full speed, if known [V]"""
    regulator: tuple[Caution, ...] | None = None
    """Cautions that only its method has, where one has been chosen [-]"""
    slowest_share: float | None = None
    """Slowest wanted speed over full speed [-]"""
    leads: bool = False
    """Leads are to be read with the ohmmeter"""
    sections: tuple[tuple[str, float, float], ...] = ()
    """Capacitor sections to be read: name, farads, rms volts they work at [F, V]"""
    room_c: float | None = None
    """As it was read [°C]"""
    room_limit_c: float | None = None
    """As the label has it [°C]"""
    run_section: str = ""
    """The one of them that is the run capacitor; empty where none is or nobody knows [-]"""
    board: bool = False
    """A control came in and is looked at [-]"""


DEAD_READINGS = (
    "main_resistance_ohm",
    "auxiliary_resistance_ohm",
    "run_capacitance_f",
    "hot_resistance_ohm",
    "lead_ohm",
    "frame_ohm",
    "section_f",
    "section_esr",
)
"""Read with the power off and the capacitor empty; what stands behind a colon is left out"""
PROOF_READINGS = (
    "speed_rpm",
    "motor_voltage_v",
    "line_current_a",
    "firing_angle_deg",
    "extinction_angle_deg",
    "symmetry_deg",
    "frequency_hz",
    "control_v",
)
"""Read at the steps of a live regulator"""
SAFE_VOLTS = 34.0
ENERGY_LIMIT_J = 0.020


def discharge(capacitance_f: float, rms_voltage_v: float) -> Discharge:
    """Resistor, time and energy for emptying a capacitor that may hold the crest of its AC volts.

    The resistor keeps the first current below 50 mA; five time constants leave less than 1 %.

    Parameters
    ----------
    capacitance_f : float
        Capacitance [F]
    rms_voltage_v : float
        Rms volts it works at [V]

    Returns
    -------
    Discharge
        What to use and how long to wait [-]

    Raises
    ------
    InputError
        Values that cannot be real.
    """
    c = float(check_range("capacitance_f", capacitance_f, 1e-10, 1e-2, "F"))
    peak = float(np.sqrt(2)) * float(check_range("rms_voltage_v", rms_voltage_v, 0.1, 2000.0, "V"))
    resistance = float(np.ceil(peak / 0.05 / 1000) * 1000)
    return Discharge(c, peak, 0.5 * c * peak**2, resistance, peak**2 / resistance, 5 * resistance * c)


_OF_DC = (
    Caution(
        "supply-polarity",
        (Stage.MEASURE, Stage.PROVE),
        "A DC fan fed the wrong way round is dead at once.",
        "Read plus and minus with the meter before the plug goes in; colours of leads prove nothing.",
    ),
    Caution(
        "held-blades",
        (Stage.MEASURE, Stage.PROVE),
        "Blades held by hand: the fan takes its starting amps as long as they are held, and so does what feeds it.",
        "A guard on the blades; stop it by its supply.",
    ),
)
"""Of fans with electronics of their own on low DC volts"""


_NOT_AN_ISOLATOR = Caution(
    "not-an-isolator",
    (Stage.PROVE,),
    "A regulator is not an isolator, not even at Off.",
    "Maintenance needs a real disconnect.",
)


_OF_INPUT = (
    Caution(
        "whole-supply",
        (Stage.MEASURE, Stage.SIZE, Stage.PROVE),
        "Its electronics want the whole mains: nothing that lowers or chops it, no run capacitor, no regulator in line.",
        "Set the speed by the control input alone.",
    ),
    Caution(
        "link-charged",
        (Stage.MEASURE, Stage.PROVE),
        "Its DC link stays charged after switching off, and up to 3.5 mA leak to earth through its housing.",
        "Earth first and last. Wait the stated minutes, 5 where none are stated, and measure before touching.",
        brief="Earth read, cover on; link discharged before hands",
        gates=PROOF_READINGS,
    ),
    Caution(
        "control-terminals",
        (Stage.MEASURE, Stage.PROVE),
        "Control terminals are safe to touch only as far as the fan's data say; the alarm contact may carry mains.",
        "Keep their wires apart from mains cores, and read every one against earth first.",
    ),
)
"""Of fans with electronics on the mains, told their speed by a voltage"""


def _of_regulator(own: Sequence[Caution], mains: bool, in_line: bool) -> list[Caution]:
    """What a regulator brings by itself, and what every one on the mains does."""
    if not mains:
        return list(own)
    if not in_line:
        return [*own, _NOT_AN_ISOLATOR]
    return [
        Caution(
            "line-potential",
            (Stage.PROVE,),
            "Every part of a series regulator, its spindle and any metal on it are at line potential "
            "when powered, at any setting.",
            "Cover on, or hands off. Isolate, wait for the bleeds, and read the volts across every capacitor "
            "before touching anything inside.",
            brief="Cover on, or hands off",
            gates=PROOF_READINGS,
        ),
        *own,
        _NOT_AN_ISOLATOR,
    ]


_OF_WIRING = (
    Caution(
        "wired-dead", (Stage.WIRE,), "What looks dead may be fed from a second side; a relay or a timer is no isolator.",
        "Isolate, lock off and prove dead before a wire is touched and before ohms are read. Local code and licensed "
        "persons decide.",
        brief="Isolate, lock off, prove dead: also against the second feed",
    ),
    Caution(
        "wired-live", (Stage.WIRE,), "In the lamp test and the live test the circuit stands on the mains.",
        "Close everything up but the plate’s screws, clear the blades, one hand, and let one person switch.",
        brief="Lamp and live tests are on the mains",
    ),
)  # fmt: skip


def cautions(facts: JobFacts) -> tuple[Caution, ...]:
    """The cautions that concern a job, in the order in which they are met.

    Parameters
    ----------
    facts : JobFacts
        What is known of the job [-]

    Returns
    -------
    tuple of Caution
        In the order in which they are met [-]
    """
    found: list[Caution] = []
    mains = facts.supply_voltage_v > 50
    if mains and not (facts.kind is not None and KINDS[facts.kind].control_input):
        found.append(
            Caution(
                "isolate",
                (Stage.IDENTIFY, Stage.MEASURE),
                "Winding ohms and capacitance are dead readings; the rest are live.",
                "Isolate, lock off, prove dead; try the tester on a live point before and after.",
                brief="Isolate, lock off, prove dead",
                gates=DEAD_READINGS,
            )
        )
    run_f = facts.run_capacitance_f or next((f for n, f, _ in facts.sections if n == facts.run_section), None)
    called = f"run capacitor, section {facts.run_section}," if facts.run_section else "run capacitor"
    if run_f:
        store = discharge(run_f, facts.capacitor_voltage_v or 1.8 * facts.supply_voltage_v)
        if store.energy_j > ENERGY_LIMIT_J or store.peak_voltage_v > SAFE_VOLTS:
            found.append(
                Caution(
                    "stored-charge",
                    (Stage.IDENTIFY, Stage.MEASURE),
                    f"The {called} may hold {store.peak_voltage_v:.0f} V and {store.energy_j:.2g} J "
                    f"after switching off.",
                    f"Discharge it through {store.resistance_ohm / 1000:.0f} kΩ, 5 W wire-wound, "
                    f"at least {max(1.0, store.time_s):.1g} s, never with a blade; then read the volts across it.",
                    brief="Run capacitor discharged, volts read",
                    gates=DEAD_READINGS,
                    confirm=Confirm.READING,
                    limit=SAFE_VOLTS,
                )
            )
    elif facts.leads and facts.kind in _MAY_HOLD_CHARGE and mains:
        peak = float(np.sqrt(2)) * 1.8 * facts.supply_voltage_v
        found.append(
            Caution(
                "stored-charge",
                (Stage.IDENTIFY, Stage.MEASURE),
                f"If there is a run capacitor, it may hold {peak:.0f} V after switching off.",
                f"Take it off or discharge it through {np.ceil(peak / 50):.0f} kΩ, 5 W wire-wound, at least 3 s, never "
                "with a blade; then read the volts across it.",
                brief="Run capacitor discharged, volts read",
                gates=DEAD_READINGS,
                confirm=Confirm.READING,
                limit=SAFE_VOLTS,
            )
        )
    # The run section is the run capacitor, which was asked for above: one part is emptied once.
    found += [_section(*s) for s in facts.sections if mains and not (run_f and s[0] == facts.run_section)]
    told = facts.kind is not None and KINDS[facts.kind].control_input
    found += _of_regulator(facts.regulator, mains, not told) if facts.regulator is not None else []
    if told:
        found += _OF_INPUT
    if facts.kind is not None and KINDS[facts.kind].dc and KINDS[facts.kind].subject is SubjectKind.MAPPED:
        found += _OF_DC
    if mains:
        found += _OF_WIRING
        found.append(
            Caution(
                "bench-supply",
                (Stage.MEASURE, Stage.PROVE),
                "Live readings at the bench.",
                "Isolating transformer and current-limiting lamp; one hand, no rings, eye protection; no "
                "scope ground on a mains node.",
            )
        )
    found.append(
        Caution(
            "blades",
            (Stage.MEASURE, Stage.PROVE),
            "Blades start without warning, also after a thermal cut-out or when power returns.",
            "Guard them, or test with paper strips or a bare shaft.",
        )
    )
    if facts.room_c is not None and facts.room_limit_c is not None and facts.room_c > facts.room_limit_c:
        found.append(
            Caution(
                "hot-room",
                (Stage.MEASURE, Stage.AIM, Stage.SIZE),
                f"The room was read at {facts.room_c:.0f} °C; the label allows {facts.room_limit_c:.0f} °C.",
                "The winding gets that much hotter at every speed, and slow steps cool it least: cool the room, or take "
                "a motor made for it.",
            )
        )
    if facts.slowest_share is not None:
        found.append(
            Caution(
                "cooling",
                (Stage.AIM, Stage.SIZE),
                f"At {100 * facts.slowest_share:.0f} % of full speed the motor, and anything this fan cools, gets "
                f"only about {100 * facts.slowest_share:.0f} % of the air.",
                "Never slow a fan that makes a heater, a gas appliance, smoke extract or a battery room "
                "safe; ask a licensed person.",
            )
        )
    found.append(
        Caution(
            "codes",
            (Stage.IDENTIFY,),
            "Fixed wiring, gas appliances and safety ventilation belong to local codes and a licensed person.",
            "Fenwit computes and records; it certifies nothing. Combustion air, smoke extract, hazardous "
            "areas, medical: out of scope.",
        )
    )
    return (*found, *_BOARD) if facts.board else tuple(found)


_BOARD = (
    Caution(
        "board-dead",
        (Stage.INSPECT,),
        "A control's board stands at line potential wherever it is fed, and its capacitors hold their charge.",
        "Take it out, or isolate, lock off and prove dead; then empty every capacitor through a resistor, never with a "
        "blade, and read the volts across it before a finger or an ohmmeter comes near.",
    ),
    Caution(
        "board-live",
        (Stage.INSPECT,),
        "Looks under power come last: every part of it can be live, whatever the knob says.",
        "Isolating transformer and a lamp in line, cover on, one hand, probes clipped on while it is dead. Where local "
        "code asks for a licensed person, hand it over.",
    ),
)
_MAY_HOLD_CHARGE = (
    None,
    MotorKind.PSC,
    MotorKind.PSC_TAPPED,
    MotorKind.CAPACITOR_START,
    MotorKind.CAPACITOR_START_RUN,
)


def _section(name: str, capacitance_f: float, rms_voltage_v: float) -> Caution:
    """Empty one section of a block before it is read."""
    store = discharge(capacitance_f, rms_voltage_v)
    return Caution(
        f"stored-charge:{name}",
        (Stage.IDENTIFY,),
        f"Section {name} may hold {store.peak_voltage_v:.0f} V and {store.energy_j:.2g} J.",
        f"Discharge it through {store.resistance_ohm / 1000:.0f} kΩ, 5 W wire-wound ({store.power_w:.0f} W for an "
        f"instant), at least {max(1.0, store.time_s):.1g} s, never with a blade; then read the volts across it.",
        brief=f"Section {name} discharged, volts read",
        gates=(f"section_f:{name}", f"section_esr:{name}"),
        confirm=Confirm.READING,
        limit=SAFE_VOLTS,
    )


def blocking(
    found: Sequence[Caution], stage: Stage, quantity_name: str, confirmed: Collection[str]
) -> Caution | None:
    """The first caution that must be confirmed before a quantity may be read at a stage, or None."""
    for caution in found:
        gated = quantity_name in caution.gates or quantity_name.split(":")[0] in caution.gates
        if stage in caution.stages and gated and caution.key not in confirmed:
            return caution
    return None
