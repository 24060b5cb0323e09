"""Reference motors and what two of them do, *independent*: worked out apart from this code, printed to the digits shown.

Motor S16 is a 16-pole sweep-fan PSC motor, P4 a 4-pole shaded-pole motor seen from its terminals, R4 one with its ring.
"""

from __future__ import annotations

from typing import NamedTuple

from fenwit.core.load import FanLoad
from fenwit.core.motor.machine import SingleWindingMotor, TwoWindingMotor
from fenwit.core.motor.ring import ShadedPoleMotor
from fenwit.core.motor.service import Service
from fenwit.core.operating import Source, load_at_datum
from fenwit.core.regulator.series import SettingKind, source_with

S16 = TwoWindingMotor(
    rated_voltage_v=230,
    rated_frequency_hz=50,
    poles=16,
    main_resistance_ohm=260,
    main_leakage_reactance_ohm=180,
    magnetising_reactance_ohm=700,
    rotor_resistance_ohm=330,
    rotor_leakage_reactance_ohm=180,
    turns_ratio=1.05,
    auxiliary_resistance_ohm=290,
    auxiliary_leakage_reactance_ohm=200,
    run_capacitance_f=2.5e-6,
)
S16_LOAD = FanLoad(full_speed_rpm=330, full_speed_torque_nm=0.632, friction_share=0.03)
P4 = SingleWindingMotor(
    rated_voltage_v=230,
    rated_frequency_hz=50,
    poles=4,
    stator_resistance_ohm=150,
    stator_leakage_reactance_ohm=170,
    magnetising_reactance_ohm=420,
    rotor_resistance_ohm=330,
    rotor_leakage_reactance_ohm=120,
    core_loss_resistance_ohm=None,
    torque_factor=0.55,
)
P4_LOAD = FanLoad(full_speed_rpm=1270, full_speed_torque_nm=0.037862, friction_share=0.0)
R4 = ShadedPoleMotor(
    rated_voltage_v=230,
    rated_frequency_hz=50,
    poles=4,
    main_resistance_ohm=95,
    main_leakage_reactance_ohm=115,
    magnetising_reactance_ohm=560,
    rotor_resistance_ohm=128,
    rotor_leakage_reactance_ohm=105,
    ring_turns_ratio=0.5,
    ring_angle_rad=0.87,
    ring_resistance_ohm=166,
    ring_leakage_reactance_ohm=12,
    shared_reactance_ohm=7.6,
)
"""A shaded-pole motor with its ring: power factor 0.65, efficiency 0.25, torque at rest 0.31 of full-load torque."""
R4_LOAD = load_at_datum(R4, 1270, 230, 50)
S16_AT_WORK = S16.with_values(
    core_loss_resistance_ohm=9000.0,
    service=Service(330, 0.03, 2.0, saturation=0.3, rise_k=53.0, deep_bars=0.15),
)
"""S16 as a real one would be: the same at full speed, with iron that saturates and windings that cool when slowed."""
AT_WORK_LOAD = load_at_datum(S16_AT_WORK, 330, 230, 50)
MAINS = Source(230, 50)


def with_capacitor(microfarads: float) -> Source:
    """The mains behind a capacitor."""
    return source_with(MAINS, SettingKind.CAPACITANCE, microfarads * 1e-6)


class S16Row(NamedTuple):
    """One line of the table; None: does not start."""

    source: Source
    speed_rpm: float | None
    motor_v: float | None
    amps: float | None
    watts: float | None
    power_factor: float | None
    net_torque_nm: float


S16_ROWS = {
    "direct": S16Row(MAINS, 330.0, 230.0, 0.318, 73.0, 0.999, 0.864),
    "5.6 µF": S16Row(with_capacitor(5.6), 303.6, 180.0, 0.265, 47.7, 0.782, 0.476),
    "3.9 µF": S16Row(with_capacitor(3.9), 268.1, 145.3, 0.229, 33.1, 0.631, 0.299),
    "2.7 µF": S16Row(with_capacitor(2.7), 201.9, 106.8, 0.181, 19.2, 0.463, 0.159),
    "1.8 µF": S16Row(with_capacitor(1.8), 125.8, 72.6, 0.128, 9.2, 0.314, 0.067),
    "1.0 µF": S16Row(with_capacitor(1.0), 43.5, 40.5, 0.073, 2.9, 0.175, 0.008),
    "0.68 µF": S16Row(with_capacitor(0.68), None, None, None, None, None, -0.006),
    "600 Ω": S16Row(source_with(MAINS, SettingKind.RESISTANCE, 600), 218.3, 115.0, 0.192, 44.1, 0.999, 0.186),
    "120 V": S16Row(Source(120, 50), 227.8, 120.0, 0.198, 23.8, 0.998, 0.221),
}

P4_ROWS = {
    "direct": (MAINS, 1270.0, 230.0, 0.375),
    "140 V": (Source(140, 50), 1040.1, 140.0, None),
    "1.5 µF": (with_capacitor(1.5), 662.7, 72.8, 0.135),
    "2.7 µF": (with_capacitor(2.7), 1244.7, 215.0, 0.351),
    "3.9 µF": (with_capacitor(3.9), 1439.9, 495.0, 0.807),
    "4.7 µF": (with_capacitor(4.7), 1474.5, 773.8, 1.267),
}
