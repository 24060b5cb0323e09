"""Hollin Fell Observatory and its lodge; every value, name and serial number is invented."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from fenwit.core.frame import BankDesign, Frame, JobState, Nameplate, frame
from fenwit.core.motor.kinds import MotorKind
from fenwit.core.size.bank import Capacitor, Sizing
from fenwit.core.size.classes import PartClass
from fenwit.core.size.switch import Switch


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
    bank: BankDesign | None = None
    sizing: Sizing | None = None
    proofs: tuple[tuple[int, str, float, str], ...] = ()
    """Step, quantity, value, as typed [-]"""

    def computed(self) -> Frame:
        """What the core makes of the job before its proofs."""
        plate = {f: self.fan[f] for f in Nameplate.__dataclass_fields__ if f in self.fan}
        state = JobState(
            kind=MotorKind(str(self.fan["motor_kind"])),
            nameplate=Nameplate(**plate),  # type: ignore[arg-type]
            supply_voltage_v=230.0,
            supply_frequency_hz=50.0,
            readings=tuple(sorted((name, value) for name, value, _ in self.readings)),
            wanted_rpm=self.wanted_rpm,
            design=self.bank,
        )
        return frame(state)


_DEAD = (("isolate", ""), ("stored-charge", "2V"))

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
            ("main_resistance_ohm", 260.0, "260"),
            ("auxiliary_resistance_ohm", 290.0, "290"),
        ),
        wanted_rpm=(118.0, 196.0, 277.0, 330.0),
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
        bank=BankDesign((Capacitor(1.8e-6), Capacitor(2.7e-6)), ("A", "B", "A∥B", "direct")),
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
        confirmed=(("isolate", ""),),
        readings=(
            ("supply_voltage_v", 230.0, "230V"),
            ("speed_rpm", 1270.0, "1270"),
            ("line_current_a", 0.375, "375m"),
            ("input_power_w", 52.0, "52W"),
            ("main_resistance_ohm", 150.0, "150"),
        ),
        wanted_rpm=(520.0, 740.0, 1270.0),
        # What resonates also stands across the open contacts.
        sizing=Sizing(Switch(3, rated_voltage_v=400.0)),
    ),
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
