"""Hollin Fell Observatory and its lodge; every value, name and serial number is invented."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import UTC, datetime
from typing import Any

from fenwit.core.calibrate.instruments import Instrument, MeterRange
from fenwit.core.job.air import AirSheet
from fenwit.core.job.analog import AnalogSheet
from fenwit.core.job.board import (
    TRACK,
    Board,
    BoardPart,
    Build,
    Condition,
    Fault,
    FaultKind,
    Look,
    Role,
    Sense,
    Spindle,
    Symptom,
    Topology,
)
from fenwit.core.job.commanded import CommandSheet
from fenwit.core.job.findings import Findings, Lead
from fenwit.core.job.hold import HeatSheet, Holds, HoldSheet, LoopSensor, LoopSheet, SinkSheet
from fenwit.core.job.state import Design, InLine, JobState, Nameplate, RunState, with_usual_method
from fenwit.core.methods.common.duty import DutySheet
from fenwit.core.methods.control_voltage.design import Cable, ControlDesign, Following, KnobParts, Source
from fenwit.core.methods.dc_voltage.design import VoltsDesign, Way
from fenwit.core.methods.phase_angle.design import FiredBy, PhaseDesign
from fenwit.core.methods.series_capacitor.design import BankDesign
from fenwit.core.methods.winding_tap.design import TapsDesign
from fenwit.core.motor.analog import VoltLine
from fenwit.core.motor.kinds import Method, MotorKind
from fenwit.core.motor.taps import StartBranch
from fenwit.core.regulator.control_lead import SWEEP_DUTY
from fenwit.core.regulator.diac import DiacNetwork
from fenwit.core.regulator.thermal import Curve, Profile, Sink
from fenwit.core.size.block import Block, BlockStep, Section
from fenwit.core.size.capacitor import Capacitor
from fenwit.core.size.classes import PartClass
from fenwit.core.size.sizing import Sizing
from fenwit.core.size.switch import Switch
from fenwit.demo.wirings import GALLERY, HALL, WARM_ROOM


@dataclass(frozen=True)
class DemoDesign:
    """A regulator with what was read at its steps."""

    regulator: Design
    name: str = ""
    proofs: tuple[tuple[int, str, float, str], ...] = ()
    """Step, quantity, value, as typed [-]"""
    captured: tuple[int, ...] = ()
    """Steps that were looked at with a scope [-]"""
    taken_out: bool = False
    """Whether it was taken out of the job since"""


@dataclass(frozen=True)
class DemoRun:
    """A run away from full speed."""

    what: InLine
    value: float
    typed: str
    readings: tuple[tuple[str, float, str], ...]
    """Quantity, value, as typed [-]"""
    frequency_hz: float | None = None
    """Of a sweep [Hz]"""


def _swept(speeds: dict[float, tuple[int, int, int]]) -> tuple[DemoRun, ...]:
    """A sweep of frequencies: speeds at 30, 50 and 70 % for each."""
    return tuple(
        DemoRun(
            InLine.DUTY,
            duty,
            f"{100 * duty:g} % at {hertz / 1e3:g} kHz",
            (("speed_rpm", float(n), str(n)),),
            hertz,
        )
        for hertz, read in speeds.items()
        for duty, n in zip(SWEEP_DUTY, read, strict=True)
    )


@dataclass(frozen=True)
class DemoJob:
    """One demo job."""

    name: str
    place: str
    wish: str
    who: str
    fan: Mapping[str, str | float]
    """Nameplate fields [-]"""
    readings: tuple[tuple[str, float, str], ...]
    """Quantity, value, as typed [-]"""
    confirmed: tuple[tuple[str, str], ...] = ()
    wanted_rpm: tuple[float, ...] = ()
    designs: tuple[DemoDesign, ...] = ()
    sizing: Sizing | None = None
    findings: Findings = field(default_factory=Findings)
    board: Board | None = None
    """The control that came in with it [-]"""
    air: AirSheet = field(default_factory=AirSheet)
    commanded: CommandSheet = field(default_factory=CommandSheet)
    hold: HoldSheet = field(default_factory=HoldSheet)
    wiring: Mapping[str, Any] | None = None
    """How it is wired, a document [-]"""
    supply_voltage_v: float = 230.0
    runs: tuple[DemoRun, ...] = ()
    """Away from full speed [-]"""
    earlier: tuple[tuple[str, str, float, str], ...] = ()
    """Day, quantity, value, as typed: what was read in years before [-]"""

    def state(self, regulator: Design | None = None) -> JobState:
        """The job before anything was read at its steps."""
        plate = {f: self.fan[f] for f in Nameplate.__dataclass_fields__ if f in self.fan}
        found = JobState(
            kind=MotorKind(str(self.fan["motor_kind"])),
            nameplate=Nameplate(**plate),  # type: ignore[arg-type]
            supply_voltage_v=self.supply_voltage_v,
            supply_frequency_hz=50.0,
            readings=tuple(sorted((name, value) for name, value, _ in self.readings)),
            wanted_rpm=self.wanted_rpm,
            design=regulator,
            sizing=self.sizing or Sizing(),
            findings=self.findings,
            board=self.board,
            air=self.air,
            commanded=self.commanded,
            hold=self.hold,
            runs=tuple(
                RunState(
                    key,
                    run.what,
                    run.value,
                    tuple((name, value) for name, value, _ in run.readings),
                    frequency_hz=run.frequency_hz,
                )
                for key, run in enumerate(self.runs, start=1)
            ),
        )
        return with_usual_method(found)


_DEAD = (("isolate", ""), ("stored-charge", "2 V"))


def _lead_ohms(at: Mapping[str, float]) -> tuple[tuple[str, float, str], ...]:
    """Ohms between all leads of a winding whose leads lie along one chain, as an ohmmeter reads them."""
    keys = list(at)
    return tuple(
        (f"lead_ohm:{a}:{b}", round(abs(at[b] - at[a]), 1), f"{abs(at[b] - at[a]):.1f}")
        for i, a in enumerate(keys)
        for b in keys[i + 1 :]
    )


OLD_CONTROL = Board(
    Topology.TWO_WIRE,
    (
        BoardPart(Role.FUSE, condition=Condition.MISSING),
        BoardPart(Role.SWITCH, amps_a=3.0),
        BoardPart(Role.CHOKE, condition=Condition.MISSING),
        BoardPart(Role.X_CAPACITOR, condition=Condition.MISSING),
        BoardPart(Role.TRIAC, value=4.0, printed="4 A", volts_v=600.0),
        BoardPart(Role.SNUBBER_RESISTOR, condition=Condition.MISSING),
        BoardPart(Role.SNUBBER_CAPACITOR, condition=Condition.MISSING),
        BoardPart(
            Role.END_RESISTOR, value=4.7e3, printed="yellow,violet,red,gold", tolerance=0.05, watts_w=0.25
        ),
        BoardPart(Role.KNOB, value=500e3, printed="500k lin", watts_w=0.2),
        BoardPart(Role.TIMING_CAPACITOR, value=100e-9, printed="104K 100V", tolerance=0.10, volts_v=100.0),
        BoardPart(Role.DIAC, condition=Condition.UNREADABLE),
    ),
    build=Build(
        spindle=Spindle.METAL,
        grub_screw=True,
        track_mm=0.4,
        tinned=False,
        knob_on_solder=True,
        sense=Sense.FAN,
        heat_sink=False,
    ),
    seen=(Symptom.NOTHING,),
    looks=((Look.SWITCH, False), (Look.GLASS, True)),
    found=Fault(FaultKind.CRACKED, TRACK),
)
"""Out of the wall box of bunk room 2; the crack runs where the knob's lugs pull at the board [-]"""

JOBS = (
    DemoJob(
        name="Bunk room 2",
        place="lodge, upper floor",
        wish="Sweep fan hums on its old electronic control. Wanted: even steps, quiet enough to sleep under.",
        who="R. Fell",
        fan={
            "motor_kind": MotorKind.PSC.value,
            "maker": "Corrie & Tarn",
            "serial": "CT-16-0442",
            "poles": 16,
            "rated_voltage_v": 230.0,
            "rated_frequency_hz": 50.0,
            "rated_power_w": 75.0,
            "run_capacitance_f": 2.5e-6,
        },
        confirmed=_DEAD,
        readings=(
            ("supply_voltage_v", 230.0, "230V"),
            ("speed_rpm", 330.0, "330"),
            ("line_current_a", 0.318, "318m"),
            ("input_power_w", 73.0, "73W"),
            ("capacitor_voltage_v", 415.0, "415V"),
            ("main_resistance_ohm", 215.0, "215"),
            ("auxiliary_resistance_ohm", 240.0, "240"),
        ),
        wanted_rpm=(118.0, 196.0, 277.0, 330.0),
        designs=(
            # As found: no suppression, no fuse, and a diac that breaks over earlier one way round than the other.
            DemoDesign(
                PhaseDesign(
                    (121.0, 104.0, 84.0, 40.0),
                    FiredBy.KNOB,
                    DiacNetwork(4.7e3, 500e3, 100e-9),
                    snubbed=False,
                    filtered=False,
                    fused=False,
                ),
                "old humming control, as found",
                (
                    (1, "speed_rpm", 139.0, "139"),
                    (1, "firing_angle_deg", 119.6, "119.6°"),
                    (1, "symmetry_deg", 7.4, "7.4°"),
                    (2, "speed_rpm", 221.0, "221"),
                    (2, "motor_voltage_v", 140.0, "140V"),
                    (2, "symmetry_deg", 6.8, "6.8°"),
                    (3, "speed_rpm", 287.0, "287"),
                    (4, "speed_rpm", 325.0, "325"),
                ),
                taken_out=True,
            ),
        ),
        board=OLD_CONTROL,
    ),
    DemoJob(
        name="Reading room",
        place="lodge, ground floor",
        wish="Sweep fan rebuilt with a capacitor regulator; the slowest step has become slower than it was.",
        who="R. Fell",
        fan={
            "motor_kind": MotorKind.PSC.value,
            "maker": "Corrie & Tarn",
            "serial": "CT-16-0397",
            "poles": 16,
            "rated_voltage_v": 230.0,
            "rated_frequency_hz": 50.0,
            "rated_power_w": 70.0,
            "run_capacitance_f": 2.2e-6,
        },
        confirmed=(*_DEAD, ("line-potential", "")),
        readings=(
            ("supply_voltage_v", 230.0, "230V"),
            ("speed_rpm", 322.0, "322"),
            ("line_current_a", 0.288, "288m"),
            ("input_power_w", 66.1, "66.1W"),
            ("capacitor_voltage_v", 402.0, "402V"),
            ("main_resistance_ohm", 282.0, "282"),
            ("auxiliary_resistance_ohm", 312.0, "312"),
        ),
        wanted_rpm=(134.0, 205.0, 278.0, 322.0),
        designs=(
            DemoDesign(
                BankDesign((Capacitor(1.8e-6), Capacitor(2.7e-6)), ("A", "B", "A∥B", "direct")),
                # Capacitor A of this regulator has sunk to 1.1 µF.
                proofs=(
                    (4, "speed_rpm", 322.0, "322"),
                    (4, "line_current_a", 0.288, "288m"),
                    (3, "speed_rpm", 265.0, "265"),
                    (3, "motor_voltage_v", 156.0, "156V"),
                    (2, "speed_rpm", 205.0, "205"),
                    (2, "motor_voltage_v", 119.0, "119V"),
                    (2, "line_current_a", 0.181, "181m"),
                    (1, "speed_rpm", 52.0, "52"),
                    (1, "motor_voltage_v", 49.0, "49V"),
                    (1, "line_current_a", 0.080, "80m"),
                ),
            ),
        ),
    ),
    DemoJob(
        name="Drying room",
        place="lodge, cellar",
        wish="Wall fan is too strong for wet coats. Wanted: two slower steps; somebody proposes a series capacitor.",
        who="R. Fell",
        fan={
            "motor_kind": MotorKind.SHADED_POLE.value,
            "maker": "Corrie & Tarn",
            "serial": "CT-4-1108",
            "poles": 4,
            "rated_voltage_v": 230.0,
            "rated_frequency_hz": 50.0,
            "rated_power_w": 50.0,
        },
        confirmed=(("isolate", ""), ("line-potential", "")),
        readings=(
            ("supply_voltage_v", 230.0, "230V"),
            ("speed_rpm", 1270.0, "1270"),
            ("line_current_a", 0.375, "375m"),
            ("input_power_w", 52.0, "52W"),
            ("main_resistance_ohm", 150.0, "150"),
        ),
        wanted_rpm=(520.0, 740.0, 1250.0),
        # What nears resonance also stands across the open contacts: with these no capacitor will do.
        sizing=Sizing(Switch(3)),
        designs=(
            DemoDesign(
                PhaseDesign((108.0, 99.2, 58.86), FiredBy.KNOB, DiacNetwork(68e3, 500e3, 47e-9)),
                proofs=((3, "speed_rpm", 1253.0, "1253"), (3, "line_current_a", 0.371, "371m")),
                captured=(2,),
            ),
        ),
        air=AirSheet(
            altitude_m=820.0,
            inlet_c=28.0,
            flows_m3_s=(0.0, 0.03, 0.06, 0.09, 0.12, 0.15, 0.18, 0.21),
            pressures_pa=(58.0, 49.0, 43.5, 46.0, 47.0, 42.0, 25.5, 0.0),
            system_flow_m3_s=0.16,
            system_pressure_pa=30.0,
            fixed_pressure_pa=4.0,
            full_level_db=47.0,
            level_at_m=2.0,
            blades=5,
            resonances_hz=(76.0,),
        ),
    ),
    DemoJob(
        name="Visitor hall",
        place="observatory, plant room",
        wish="Air handler with no diagram left; five leads hang loose. Wanted: which lead is which, and which tap "
        "for a quiet evening.",
        who="M. Orrin",
        fan={
            "motor_kind": MotorKind.PSC_TAPPED.value,
            "maker": "",
            "serial": "HF-AH-02",
            "poles": 4,
            "rated_voltage_v": 230.0,
            "rated_frequency_hz": 50.0,
            "rated_current_a": 1.05,
            "rated_power_w": 240.0,
            "run_capacitance_f": 6e-6,
        },
        confirmed=_DEAD,
        readings=(
            ("supply_voltage_v", 230.0, "230V"),
            ("speed_rpm", 1248.0, "1248"),
            ("line_current_a", 1.01, "1.01"),
            ("input_power_w", 231.0, "231W"),
            ("capacitor_voltage_v", 399.0, "399V"),
            ("frame_ohm:k1", 2e7, "open"),
            ("frame_ohm:k2", 2e7, "open"),
            ("frame_ohm:k3", 2e7, "open"),
            ("frame_ohm:k4", 2e7, "open"),
            ("frame_ohm:k5", 2e7, "open"),
            ("lead_ohm:k1:k2", 163.3, "163.3"),
            ("lead_ohm:k1:k3", 79.3, "79.3"),
            ("lead_ohm:k1:k4", 12.0, "12"),
        ),
        findings=Findings(
            observed={"run-capacitor": True, "many-leads": True, "cogging": False},
            leads=(
                Lead("k1", "A", "blue"),
                Lead("k2", "B", "orange"),
                Lead("k3", "C", "violet"),
                Lead("k4", "D", "grey"),
                Lead("k5", "E", "pink"),
            ),
            probe_ohm=0.2,
        ),
        wiring=HALL,
    ),
    DemoJob(
        name="Scullery hood",
        place="lodge, kitchen",
        wish="Hood roars over the washing-up; the cook wants it at half speed.",
        who="R. Fell",
        fan={
            "motor_kind": MotorKind.CAPACITOR_START.value,
            "maker": "",
            "serial": "HF-SH-01",
            "poles": 4,
            "rated_voltage_v": 230.0,
            "rated_frequency_hz": 50.0,
            "rated_speed_rpm": 1420.0,
            "rated_current_a": 2.3,
            "rated_power_w": 370.0,
        },
        confirmed=(("isolate", ""),),
        readings=(("main_resistance_ohm", 9.6, "9.6"), ("auxiliary_resistance_ohm", 17.2, "17.2")),
        findings=Findings(observed={"hump-capacitor": True, "click": True, "cogging": False}),
    ),
    DemoJob(
        name="Reading bay",
        place="lodge, reading room, north end",
        wish="Sweep fan with its old capacitor block: all steps have become slow. A spare block lies on shelf B.",
        who="M. Orrin",
        fan={
            "motor_kind": MotorKind.PSC.value,
            "maker": "Corrie & Tarn",
            "serial": "CT-16-0398",
            "poles": 16,
            "rated_voltage_v": 230.0,
            "rated_frequency_hz": 50.0,
            "rated_power_w": 70.0,
            "run_capacitance_f": 2.2e-6,
        },
        confirmed=(
            *_DEAD,
            ("stored-charge:run", "1V"),
            ("stored-charge:shared", "1V"),
            ("stored-charge:low", "0V"),
            ("stored-charge:medium", "1V"),
        ),
        readings=(
            ("supply_voltage_v", 230.0, "230V"),
            ("speed_rpm", 324.0, "324"),
            ("line_current_a", 0.287, "287m"),
            ("input_power_w", 65.8, "65.8W"),
            ("capacitor_voltage_v", 401.0, "401V"),
            ("main_resistance_ohm", 283.0, "283"),
            ("auxiliary_resistance_ohm", 314.0, "314"),
            ("section_f:run", 2.16e-6, "2u16"),
            ("section_f:low", 2.66e-6, "2u66"),
            ("section_f:medium", 4.93e-6, "4u93"),
        ),
        wanted_rpm=(130.0, 200.0, 300.0),
        findings=Findings(
            observed={"run-capacitor": True, "slow-sweep": True},
            block=Block(
                (
                    Section("run", "m", "x", 2.2e-6, tolerance=0.10),
                    Section("shared", "m", "s", 5.6e-6, tolerance=0.10),
                    Section("low", "s", "1", 2.7e-6, tolerance=0.10),
                    Section("medium", "s", "2", 5.0e-6, tolerance=0.10),
                ),
                "m",
                "x",
                (BlockStep("low", ("1",)), BlockStep("medium", ("2",)), BlockStep("high", ("s",))),
            ),
            spare=(
                Section("K", "a", "b", 2.2e-6, tolerance=0.05),
                Section("L", "a", "c", 5.6e-6, tolerance=0.05),
                Section("M", "c", "d", 2.5e-6, tolerance=0.05),
                Section("N", "c", "e", 4.7e-6, tolerance=0.05),
            ),
        ),
        earlier=(
            ("2022-10-04", "section_f:shared", 5.52e-6, "5u52"),
            ("2023-09-19", "section_f:shared", 5.31e-6, "5u31"),
            ("2024-10-02", "section_f:shared", 4.78e-6, "4u78"),
            ("2025-09-30", "section_f:shared", 4.16e-6, "4u16"),
            ("2026-10-06", "section_f:shared", 3.42e-6, "3u42"),
        ),
    ),
    DemoJob(
        name="Hall return air",
        place="observatory, plant room",
        wish=(
            "Twin of the visitor hall's air handler, its leads found. Wanted: the right tap for cooling, for heating, "
            "and for just stirring the air in the evening."
        ),
        who="M. Orrin",
        fan={
            "motor_kind": MotorKind.PSC_TAPPED.value,
            "maker": "",
            "serial": "HF-AH-03",
            "poles": 4,
            "rated_voltage_v": 230.0,
            "rated_frequency_hz": 50.0,
            "rated_power_w": 240.0,
            "run_capacitance_f": 6e-6,
        },
        confirmed=(*_DEAD, ("two-taps", ""), ("idle-leads", "")),
        readings=(
            ("supply_voltage_v", 230.0, "230V"),
            ("speed_rpm", 1252.0, "1252"),
            ("line_current_a", 1.02, "1.02"),
            ("input_power_w", 233.0, "233W"),
            ("capacitor_voltage_v", 401.0, "401V"),
            *((f"frame_ohm:k{i}", 2e7, "open") for i in range(1, 6)),
            *_lead_ohms({"k1": -84.0, "k2": 0.0, "k3": 58.4, "k4": 69.6, "k5": 83.4}),
        ),
        findings=Findings(
            observed={"run-capacitor": True, "many-leads": True, "cogging": False},
            leads=(
                Lead("k1", "1", "brown"),
                Lead("k2", "2", "white"),
                Lead("k3", "3", "black"),
                Lead("k4", "4", "blue"),
                Lead("k5", "5", "red"),
            ),
            start_branch=StartBranch.WHOLE_SUPPLY,
        ),
        wanted_rpm=(1135.0, 1200.0, 1252.0),
        sizing=Sizing(
            Switch(3, poles=1, series_pairs=False, rated_voltage_v=400.0), method=Method.WINDING_TAP
        ),
        designs=(
            DemoDesign(
                TapsDesign(
                    (("low",), ("medium",), ("high",)),
                    switch=Switch(3, poles=1, series_pairs=False, rated_voltage_v=400.0),
                    duty=DutySheet(8600.0, 19.0, 36.0, 2, 12.0, 25.0, 820.0),
                ),
                proofs=((3, "speed_rpm", 1251.0, "1251"),),
            ),
        ),
    ),
    DemoJob(
        name="Mirror-cell ring",
        place="observatory, dome",
        wish=(
            "Six fans behind the mirror, three on each of two supplies. Slow and free of whine while the shutter is "
            "open, faster to cool the glass at dusk; one half must do if a supply dies."
        ),
        who="A. Holm",
        fan={
            "motor_kind": MotorKind.DC_4_WIRE.value,
            "maker": "",
            "serial": "MC-6 ring",
            "rated_voltage_v": 12.0,
            "rated_speed_rpm": 2400.0,
            "rated_current_a": 0.15,
        },
        confirmed=(),
        readings=(
            ("supply_voltage_v", 12.1, "12.1V"),
            ("speed_rpm", 2412.0, "2412"),
            ("line_current_a", 0.148, "148m"),
        ),
        runs=(
            DemoRun(InLine.DUTY, 0.3, "30 %", (("speed_rpm", 862.0, "862"),)),
            DemoRun(InLine.DUTY, 0.5, "50 %", (("speed_rpm", 1381.0, "1381"),)),
            DemoRun(InLine.DUTY, 0.75, "75 %", (("speed_rpm", 1935.0, "1935"),)),
            DemoRun(InLine.DUTY, 1.0, "100 %", (("speed_rpm", 2409.0, "2409"),)),
        ),
        wanted_rpm=(900.0, 1400.0, 1900.0, 2400.0),
        commanded=CommandSheet(
            slowest_rpm=600.0,
            least_duty=0.2,
            inverted=False,
            pull_up_ohm=4.7e3,
            fans=6,
            groups=2,
            limit_a=1.0,
            lead_m=3.0,
            lead_mm2=0.5,
        ),
        air=AirSheet(
            altitude_m=820.0,
            inlet_c=8.0,
            flows_m3_s=(0.0, 0.003, 0.006, 0.009, 0.012, 0.015, 0.018, 0.021, 0.024),
            pressures_pa=(42.0, 36.0, 30.0, 26.0, 24.5, 22.0, 17.0, 10.0, 0.0),
            shafts_w=(1.05, 1.02, 1.0, 0.99, 1.0, 1.02, 1.03, 1.0, 0.92),
            curve_rpm=2400.0,
            system_flow_m3_s=0.09,
            system_pressure_pa=22.0,
            parallel=6,
            full_level_db=38.0,
            level_at_m=1.0,
            blades=7,
            resonances_hz=(84.0,),
        ),
        supply_voltage_v=12.0,
    ),
    DemoJob(
        name="Spectrograph rack",
        place="observatory, instrument room",
        wish="One 24 V fan on the rack's heat sink, measured at the bench. Three quiet speeds behind its control lead.",
        who="A. Holm",
        fan={
            "motor_kind": MotorKind.DC_4_WIRE.value,
            "maker": "",
            "serial": "SR-24",
            "rated_voltage_v": 24.0,
            "rated_speed_rpm": 3200.0,
            "rated_current_a": 0.4,
        },
        confirmed=(),
        readings=(
            ("supply_voltage_v", 24.0, "24V"),
            ("speed_rpm", 3180.0, "3180"),
            ("line_current_a", 0.392, "392m"),
        ),
        runs=(
            DemoRun(InLine.DUTY, 0.2, "20 %", (("speed_rpm", 690.0, "690"),)),
            DemoRun(InLine.DUTY, 0.4, "40 %", (("speed_rpm", 1240.0, "1240"),)),
            DemoRun(InLine.DUTY, 0.6, "60 %", (("speed_rpm", 2105.0, "2105"),)),
            DemoRun(InLine.DUTY, 0.8, "80 %", (("speed_rpm", 2790.0, "2790"),)),
            DemoRun(InLine.DUTY, 1.0, "100 %", (("speed_rpm", 3184.0, "3184"),)),
            *_swept(
                {
                    1e3: (1214, 2010, 2690),
                    2e3: (1098, 1842, 2560),
                    5e3: (978, 1696, 2472),
                    10e3: (945, 1668, 2455),
                    15e3: (938, 1661, 2449),
                    20e3: (936, 1663, 2451),
                    25e3: (935, 1659, 2447),
                    30e3: (931, 1655, 2440),
                }
            ),
        ),
        wanted_rpm=(900.0, 1600.0, 2400.0),
        commanded=CommandSheet(inverted=False, pull_up_ohm=10e3, limit_a=1.0),
        air=AirSheet(full_level_db=44.0, level_at_m=1.0),
        hold=HoldSheet(
            Holds.HEAT,
            heat=HeatSheet(
                curve=Curve(start_c=32.0, full_c=52.0, hysteresis_k=4.0, least=0.3, kick_s=1.0),
                sinks=(
                    SinkSheet(
                        Sink(2.5, 0.6, device_k_w=0.4, sensor_lag_s=12.0, sensor_offset_k=-2.0),
                        Profile((3.5, 38.0, 12.0), (1500.0, 900.0, 1200.0)),
                        "grating drive",
                        80.0,
                    ),
                ),
                ambient_c=20.0,
                warmest_c=24.0,
                total_s=7200.0,
            ),
        ),
        supply_voltage_v=24.0,
    ),
    DemoJob(
        name="Dew heater box",
        place="observatory, dome",
        wish=(
            "A 12 V fan with three leads behind a resistor. It runs on at the slow step when turned down, but stands "
            "after every power cut: find a way that starts."
        ),
        who="R. Fell",
        fan={
            "motor_kind": MotorKind.DC_3_WIRE.value,
            "maker": "",
            "serial": "DH-3",
            "rated_voltage_v": 12.0,
            "rated_speed_rpm": 2400.0,
            "rated_current_a": 0.25,
        },
        confirmed=(),
        readings=(
            ("supply_voltage_v", 12.0, "12V"),
            ("speed_rpm", 2390.0, "2390"),
            ("line_current_a", 0.246, "246m"),
        ),
        wanted_rpm=(1280.0, 1700.0, 2400.0),
        commanded=CommandSheet(start_v=6.0, hold_v=4.2),
        sizing=Sizing(method=Method.DC_VOLTAGE),
        designs=(DemoDesign(VoltsDesign(Way.RESISTOR, (47.0, 22.0, 0.0))),),
        supply_voltage_v=12.0,
    ),
    DemoJob(
        name="Battery room exhaust",
        place="observatory, cellar",
        wish=(
            "A new EC fan on 0–10 V, with a pressure sensor on its inlet cone. It must hold 540 m³/h while the filter "
            "loads up, and never give less than the batteries need."
        ),
        who="A. Holm",
        fan={
            "motor_kind": MotorKind.EC_CONTROL.value,
            "maker": "",
            "serial": "BX-250",
            "rated_voltage_v": 230.0,
            "rated_speed_rpm": 2800.0,
            "rated_current_a": 0.9,
            "rated_power_w": 122.0,
        },
        readings=(
            ("supply_voltage_v", 231.0, "231"),
            ("speed_rpm", 2790.0, "2790"),
            ("line_current_a", 0.87, "0.87"),
            ("input_power_w", 121.0, "121"),
        ),
        confirmed=(("link-charged", "earth 0.06 ohm, cover on"),),
        runs=(
            DemoRun(InLine.CONTROL, 1.3, "1.3 V", (("speed_rpm", 331.0, "331"),)),
            DemoRun(InLine.CONTROL, 3.2, "3.2 V", (("speed_rpm", 893.0, "893"),)),
            DemoRun(InLine.CONTROL, 5.0, "5 V", (("speed_rpm", 1428.0, "1428"),)),
            DemoRun(InLine.CONTROL, 7.0, "7 V", (("speed_rpm", 2021.0, "2021"),)),
            DemoRun(InLine.CONTROL, 9.0, "9 V", (("speed_rpm", 2611.0, "2611"),)),
            DemoRun(InLine.CONTROL, 10.0, "10 V", (("speed_rpm", 2789.0, "2789"),)),
        ),
        wanted_rpm=(1100.0, 1900.0, 2790.0),
        commanded=CommandSheet(
            slowest_rpm=300.0,
            analog=AnalogSheet(
                off_v=0.8, on_v=1.2, low_v=1.2, high_v=9.6, inverse=False, input_ohm=100e3, aux_a=0.05
            ),
        ),
        air=AirSheet(
            altitude_m=820.0,
            inlet_c=16.0,
            flows_m3_s=(0.0, 0.06, 0.12, 0.18, 0.24, 0.30, 0.34),
            pressures_pa=(430.0, 424.0, 396.0, 340.0, 250.0, 125.0, 0.0),
            shafts_w=(45.0, 70.0, 95.0, 113.0, 121.0, 122.0, 114.0),
            curve_rpm=2800.0,
            system_flow_m3_s=0.22,
            system_pressure_pa=285.0,
            full_level_db=58.0,
            level_at_m=1.0,
            least_flow_m3_s=0.075,
        ),
        hold=HoldSheet(
            Holds.LOOP,
            LoopSheet(
                set_point=0.15, gain_kp=1.2, integral_s=2.5, least=0.36, sensor=LoopSensor(cone_factor=60.0)
            ),
        ),
        sizing=Sizing(method=Method.CONTROL_VOLTAGE),
        designs=(
            DemoDesign(
                ControlDesign(
                    Source.KNOB, (3.89, 6.59, 10.0), KnobParts(10e3, 0.0, 6.2e3), cable=Cable(12.0, 0.5)
                )
            ),
        ),
    ),
    DemoJob(
        name="Corridor ventilators",
        place="lodge, attic",
        wish=(
            "Three EC fans in a row, an older make in the middle. One knob for all: the first leads, the others follow "
            "it; at the slowest step one of them stays off."
        ),
        who="R. Fell",
        fan={
            "motor_kind": MotorKind.EC_CONTROL.value,
            "maker": "",
            "serial": "CV-3",
            "rated_voltage_v": 230.0,
            "rated_speed_rpm": 1500.0,
            "rated_current_a": 0.42,
            "rated_power_w": 54.0,
        },
        readings=(("supply_voltage_v", 229.0, "229"), ("speed_rpm", 1494.0, "1494")),
        confirmed=(("link-charged", "earths read, covers on"),),
        wanted_rpm=(420.0, 800.0, 1200.0, 1494.0),
        commanded=CommandSheet(
            slowest_rpm=300.0,
            fans=3,
            analog=AnalogSheet(off_v=0.8, on_v=1.2, low_v=1.2, high_v=9.6, inverse=False),
        ),
        sizing=Sizing(method=Method.CONTROL_VOLTAGE),
        designs=(
            DemoDesign(
                ControlDesign(
                    Source.KNOB,
                    (2.05, 4.72, 7.53, 10.0),
                    KnobParts(4.7e3),
                    cable=Cable(18.0, 0.5),
                    following=Following.SPEED,
                    followers=(VoltLine(300.0, 1450.0, 1.0, 3.0, 3.0, 9.8), VoltLine(300.0, 1500.0)),
                )
            ),
        ),
    ),
    DemoJob(
        name="Warm room blower",
        place="observatory, instrument store",
        wish="The tapped blower motor has seized. An EC motor is to take its place behind the same board.",
        who="M. Orrin",
        fan={
            "motor_kind": MotorKind.PSC_TAPPED.value,
            "maker": "",
            "serial": "WR-370",
            "poles": 6,
            "rated_voltage_v": 230.0,
            "rated_frequency_hz": 50.0,
            "rated_current_a": 2.4,
            "shaft_power_w": 370.0,
        },
        readings=(),
        wiring=WARM_ROOM,
    ),
    DemoJob(
        name="Gallery fan",
        place="lodge, picture gallery",
        wish="A timer and a two-way switch were put in by somebody. Wanted: proved before power is on.",
        who="A. Holm",
        fan={
            "motor_kind": MotorKind.PSC_TAPPED.value,
            "maker": "",
            "serial": "GF-2",
            "poles": 6,
            "rated_voltage_v": 230.0,
            "rated_frequency_hz": 50.0,
            "rated_current_a": 1.4,
        },
        readings=(),
        wiring=GALLERY,
    ),
)


def day(iso: str) -> datetime:
    """Ten in the morning of a day."""
    return datetime.fromisoformat(f"{iso}T10:00").replace(tzinfo=UTC)


INSTRUMENTS = (
    Instrument(
        "bench multimeter",
        (
            MeterRange("voltage", 600.0, 0.8, 3, 0.1),
            MeterRange("current", 0.6, 1.0, 3, 1e-4),
            MeterRange("current", 6.0, 1.0, 3, 1e-3),
            MeterRange("resistance", 600.0, 0.6, 2, 0.1),
            MeterRange("resistance", 6e3, 0.6, 2, 1.0),
            MeterRange("capacitance", 6e-6, 1.5, 4, 1e-9),
            MeterRange("capacitance", 60e-6, 1.5, 4, 1e-8),
        ),
    ),
    Instrument(
        "plug-in watt meter",
        (MeterRange("power", 3000.0, 1.0, 3, 0.1), MeterRange("voltage", 260.0, 1.0, 2, 0.1)),
    ),
    Instrument("old clamp", (MeterRange("current", 20.0, 2.5, 5, 0.01),), true_rms=False),
    Instrument("light tachometer", (MeterRange("speed", 9999.0, 0.05, 1, 1.0),)),
)


@dataclass(frozen=True)
class DemoPart:
    """One shelf part."""

    part_class: PartClass
    nominal: float
    count: int
    place: str
    rating: float
    tolerance: float = 0.10
    measured: float | None = None
    note: str = ""


SHELF = (
    DemoPart(PartClass.X2_FILM, 0.47e-6, 4, "drawer 2", 305.0),
    DemoPart(PartClass.X2_FILM, 1.0e-6, 3, "drawer 2", 305.0),
    DemoPart(PartClass.X2_FILM, 1.5e-6, 2, "drawer 3", 305.0),
    DemoPart(PartClass.X2_FILM, 1.8e-6, 1, "drawer 4", 305.0, measured=1.77e-6),
    DemoPart(PartClass.X2_FILM, 2.2e-6, 4, "drawer 4", 305.0),
    DemoPart(PartClass.X2_FILM, 2.7e-6, 3, "drawer 4", 305.0),
    DemoPart(PartClass.X2_FILM, 3.9e-6, 1, "drawer 5", 305.0, measured=3.81e-6),
    DemoPart(PartClass.MOTOR_RUN, 4.0e-6, 2, "shelf B", 450.0, 0.05),
    DemoPart(PartClass.DC_FILM, 2.2e-6, 6, "drawer 9", 630.0, note="from an old supply"),
    DemoPart(PartClass.ELECTROLYTIC, 40e-6, 1, "shelf B", 250.0, 0.20, note="start capacitor, hood"),
    DemoPart(PartClass.METAL_FILM, 75e3, 20, "drawer 7", 0.5, 0.01),
    DemoPart(PartClass.METAL_FILM, 110e3, 12, "drawer 7", 0.5, 0.01),
    DemoPart(PartClass.WIREWOUND, 10.0, 8, "drawer 8", 2.0, 0.05),
    DemoPart(PartClass.FUSE, 0.63, 10, "drawer 1", 250.0, 0.0),
    DemoPart(PartClass.SWITCH, 4.0, 2, "shelf A", 250.0, 0.0),
)
