"""Fans as they are built: machines that break what the product's model assumes, in equations of their own.

Nothing here knows `fenwit.core`, so that an error there cannot hide in a truth computed with it. Each departure can be
switched off by itself. Machines are solved by fixed-point iteration over air-gap volts and warmth, speed by speed.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, fields, replace

import numpy as np
from numpy.typing import NDArray

FloatArray = NDArray[np.float64]
ComplexArray = NDArray[np.complex128]
COPPER = 0.00393


@dataclass(frozen=True)
class Departures:
    """What is not as the model has it; False: exactly as the textbook says."""

    iron: bool = True
    load: bool = True
    saturation: bool = True
    warmth: bool = True
    bars: bool = True
    harmonics: bool = True
    leakage: bool = True
    capacitor: bool = True
    supply: bool = True
    mains: bool = True
    meters: bool = True

    @classmethod
    def names(cls) -> tuple[str, ...]:
        """All of them."""
        return tuple(f.name for f in fields(cls))

    @classmethod
    def only(cls, names: Iterable[str]) -> Departures:
        """Just these."""
        return cls(**{name: name in set(names) for name in cls.names()})


@dataclass(frozen=True)
class Fan:
    """A true motor with its blades; resistances as they are at full speed, warm."""

    shaded: bool
    poles: int
    volts: float
    """Rated, and what the technician takes the mains for [V]"""
    hertz: float
    mains: float
    """The mains as they are, over what they are taken for [-]"""
    r_1: float
    x_1: float
    x_m: float
    r_2: float
    x_2: float
    a: float
    """Turns of auxiliary or ring over those of the main winding [-]"""
    r_a: float
    """Auxiliary winding, or ring [Ω]"""
    x_a: float
    c: float
    """Run capacitor as it is; 0 without [F]"""
    c_label: float
    gamma: float
    """Ring behind the main winding [rad]"""
    x_ms: float
    """Leakage that main winding and ring share [Ω]"""
    core: float
    """Resistance across the magnetising branch; infinite without iron loss [Ω]"""
    saturation: float
    knee: float
    rise: float
    """Windings over the room at full speed [K]"""
    room: float
    deep: float
    """How much the bars' resistance rises from synchronous speed to rest [-]"""
    third: float
    fifth: float
    distortion: float
    """Fifth harmonic of the supply [-]"""
    exponent: float
    friction: float
    viscous: float
    """Share of friction that goes with speed [-]"""
    break_away: float
    full_rpm: float = 0.0
    full_nm: float = 0.0
    full_e: float = 1.0
    full_loss: float = 1.0

    @property
    def n_s(self) -> float:
        """Speed of the field [rpm]"""
        return 120 * self.hertz / self.poles

    def load(self, rpm: FloatArray) -> FloatArray:
        """Torque the blades and bearings take [N·m]"""
        share = np.asarray(rpm) / self.full_rpm
        friction = self.friction * self.full_nm
        rubbing = friction * (1 - self.viscous) * (1 + (self.break_away - 1) * np.exp(-3 * share / 0.08))
        return np.asarray(
            rubbing + friction * self.viscous * share + (self.full_nm - friction) * share**self.exponent
        )


@dataclass(frozen=True)
class State:
    """What a machine does at some speeds."""

    torque: FloatArray
    amps: FloatArray
    watts: FloatArray
    motor_volts: FloatArray
    cap_volts: FloatArray
    gap: FloatArray
    """Air-gap volts of the main winding [V]"""
    heat: FloatArray
    """That stays in the motor [W]"""
    iron: FloatArray
    copper: FloatArray
    """Heat in the main winding [W]"""


def _par(*admittances: FloatArray | ComplexArray | float | complex) -> ComplexArray:
    return np.asarray(1 / sum(np.asarray(y, dtype=np.complex128) for y in admittances))


def _at(
    f: Fan, slip: FloatArray, volts: float, z: complex, k: float, x_m: FloatArray, warm: FloatArray
) -> State:
    """One harmonic of the supply (k over the rated frequency), magnetising reactance and warmth given."""
    r_1, r_a = f.r_1 * warm, f.r_a * warm
    fields_: list[tuple[int, ComplexArray, ComplexArray, FloatArray, FloatArray]] = []
    for order, weight in ((1, 1.0), (3, f.third), (5, f.fifth)):
        if not weight:
            continue
        squared = weight**2
        pair = []
        for s in (1 - order * (1 - slip), 1 + order * (1 - slip)):
            depth = f.deep * np.minimum(np.abs(s), 2.0)
            rotor = s / (f.r_2 * warm * (1 + depth) + 1j * s * k * f.x_2 * (1 - 0.3 * depth))
            magnetising = 1 / (1j * k * x_m / order**2) + (1 / f.core if order == 1 else 0.0)
            impedance = 0.5 * squared * _par(magnetising, rotor)
            # Power through the gap per squared ampere-turn; the iron's part makes no torque.
            pair.append((impedance, np.abs(impedance) ** 2 * 2 / squared * rotor.real))
        fields_.append((order, pair[0][0], pair[1][0], pair[0][1], pair[1][1]))
    x_1, x_a = k * f.x_1, k * f.x_a
    cap = 1 / (1j * k * 2 * np.pi * f.hertz * f.c) if f.c else 0j
    z_11 = r_1 + 1j * x_1 + 0j
    z_22 = r_a + 1j * x_a + cap
    z_12 = np.full(slip.shape, 1j * k * f.x_ms)
    z_21 = np.full(slip.shape, 1j * k * f.x_ms)
    angle = f.gamma if f.shaded else np.pi / 2
    for order, z_f, z_b, _, _ in fields_:
        turn = np.exp(1j * order * angle)
        # A winding ahead by the angle: forward field early, backward field late.
        first, second = (turn, turn.conjugate()) if f.shaded else (turn.conjugate(), turn)
        z_11 = z_11 + z_f + z_b
        z_22 = z_22 + f.a**2 * (z_f + z_b)
        z_12 = z_12 + f.a * (z_f * first + z_b * second)
        z_21 = z_21 + f.a * (z_f * second + z_b * first)
    if f.shaded:
        z_11 = z_11 + z
        det = z_11 * z_22 - z_12 * z_21
        i_m, i_a = volts * z_22 / det, -volts * z_21 / det
        line = i_m
    else:
        z_11, z_22, z_12, z_21 = z_11 + z, z_22 + z, z_12 + z, z_21 + z
        det = z_11 * z_22 - z_12 * z_21
        i_m, i_a = volts * (z_22 - z_12) / det, volts * (z_11 - z_21) / det
        line = i_m + i_a
    torque = np.zeros(slip.shape)
    omega_s = 4 * np.pi * k * f.hertz / f.poles
    gap_power = np.zeros(slip.shape)
    for order, _, _, p_f, p_b in fields_:
        turn = np.exp(1j * order * angle)
        first, second = (turn, turn.conjugate()) if f.shaded else (turn.conjugate(), turn)
        ahead = np.abs(i_m + f.a * first * i_a) ** 2 * p_f
        back = np.abs(i_m + f.a * second * i_a) ** 2 * p_b
        torque += order * (ahead - back) / omega_s
        gap_power += ahead + back
    _, z_f, z_b, _, _ = fields_[0]
    turn = np.exp(1j * angle)
    first, second = (turn, turn.conjugate()) if f.shaded else (turn.conjugate(), turn)
    e_f, e_b = (i_m + f.a * first * i_a) * z_f, (i_m + f.a * second * i_a) * z_b
    gap = np.abs(e_f + e_b) if f.shaded else np.abs(e_f)
    watts = (volts * line.conjugate()).real
    motor = volts - z * line
    turned = torque * omega_s * (1 - slip)
    heat = watts - np.abs(line) ** 2 * z.real - turned
    return State(
        torque, np.abs(line), watts, np.abs(motor), np.abs(i_a * cap), gap, heat,
        2 * (np.abs(e_f) ** 2 + np.abs(e_b) ** 2) / f.core, np.abs(i_m) ** 2 * r_1,
    )  # fmt: skip


def _rms(a: FloatArray, b: FloatArray) -> FloatArray:
    return np.hypot(a, b)


def steady(f: Fan, rpm: FloatArray, volts: float, z: complex, cold: bool = False) -> State:
    """The machine at given speeds, iron and warmth settled.

    Parameters
    ----------
    f : Fan
        The true fan [-]
    rpm : array
        Speeds [rpm]
    volts : float
        Mains as they are [V]
    z : complex
        In the line, at the mains' frequency [Ω]
    cold : bool
        The motor has not run yet [-]

    Returns
    -------
    State
        Arrays of the shape of ``rpm`` [-]
    """
    rpm = np.asarray(rpm, dtype=np.float64)
    slip = 1 - rpm / f.n_s
    x_m = np.full(rpm.shape, f.x_m)
    cool = (f.room + 234.5) / (f.room + f.rise + 234.5)
    warm = np.full(rpm.shape, cool if cold else 1.0)
    found = _at(f, slip, volts, z, 1.0, x_m, warm)
    if f.saturation or f.rise:
        cooling = 0.35 + 0.65 * np.minimum(rpm / f.full_rpm if f.full_rpm else 1.0, 1.2) ** 0.7
        for _ in range(60):
            ratio = np.minimum(found.gap / f.full_e, 3.0)
            wanted = f.x_m * (1 + f.saturation) / (1 + f.saturation * ratio**f.knee)
            x_m = np.sqrt(x_m * wanted)
            if not cold and f.rise:
                heated = f.rise * np.minimum(found.heat / f.full_loss / cooling, 2.0)
                warm = 0.5 * warm + 0.5 * (234.5 + f.room + heated) / (234.5 + f.room + f.rise)
            after = _at(f, slip, volts, z, 1.0, x_m, warm)
            if np.allclose(after.gap, found.gap, rtol=1e-7) and np.allclose(
                after.heat, found.heat, rtol=1e-6
            ):
                found = after
                break
            found = after
    if f.distortion:
        z_5 = z.real + 1j * (z.imag / 5 if z.imag < 0 else 5 * z.imag)
        fifth = _at(f, 1 - (1 - slip) / 5, f.distortion * volts, z_5, 5.0, f.x_m + 0 * rpm, warm)
        found = State(
            found.torque + fifth.torque, _rms(found.amps, fifth.amps), found.watts + fifth.watts,
            _rms(found.motor_volts, fifth.motor_volts), _rms(found.cap_volts, fifth.cap_volts), found.gap,
            found.heat + fifth.heat, found.iron, found.copper + fifth.copper,
        )  # fmt: skip
    return found


def rest_nm(f: Fan, volts: float, z: complex) -> float:
    """Torque at rest of the cold motor [N·m]"""
    return float(steady(f, np.array([0.0]), volts, z, cold=True).torque[0])


def break_away_nm(f: Fan) -> float:
    """What gets the fan moving [N·m]"""
    return float(f.load(np.array([0.0]))[0])


def run(f: Fan, volts: float, z: complex = 0j) -> tuple[float, State] | None:
    """Where the fan settles from rest; None where it stands."""
    if rest_nm(f, volts, z) <= break_away_nm(f):
        return None
    low, high = 0.0, 0.9999 * f.n_s
    for count in (97, 25, 25, 25):
        speeds = np.linspace(low, high, count)
        net = steady(f, speeds, volts, z).torque - f.load(speeds)
        falls = np.flatnonzero((net[:-1] > 0) & (net[1:] <= 0))
        if not len(falls):
            return None
        low, high = speeds[falls[0]], speeds[falls[0] + 1]
    rpm = 0.5 * (low + high)
    return float(rpm), steady(f, np.array([rpm]), volts, z)


def _log_uniform(random: np.random.Generator, low: float, high: float) -> float:
    return float(np.exp(random.uniform(np.log(low), np.log(high))))


_RANGES = {
    # x_1, x_m, r_2, x_2, a, r_a: over the main winding's warm ohms
    "sweep": ((0.5, 1.0), (2.0, 3.6), (0.9, 1.8), (0.5, 1.0), (0.9, 1.22), (0.9, 1.4), (0.08, 0.20)),
    "blower": ((0.7, 1.4), (3.2, 6.2), (0.85, 1.65), (0.65, 1.25), (0.95, 1.5), (1.05, 1.9), (0.08, 0.27)),
    "shaded": ((0.8, 1.7), (4.2, 7.5), (1.1, 2.0), (0.8, 1.5), (0.35, 0.7), (1.0, 12.0), (0.10, 0.26)),
}
_POLES = {"sweep": (12, 14, 16, 18), "blower": (4, 6, 8), "shaded": (2, 4)}


def invent(kind: str, off: Departures, random: np.random.Generator) -> Fan:
    """A fan such as a maker would sell, of kind sweep, blower or shaded."""
    while True:
        fan = _try(kind, off, random)
        if fan is not None:
            return fan


def _try(kind: str, off: Departures, random: np.random.Generator) -> Fan | None:
    ratio = [_log_uniform(random, *r) for r in _RANGES[kind]]
    shaded = kind == "shaded"
    poles = int(random.choice(_POLES[kind]))
    hertz = float(random.choice([50.0, 60.0]))
    volts = 230.0 if hertz == 50 else 120.0
    r_1 = _log_uniform(random, 40, 400) * (volts / 230) ** 2
    x_1, x_m, r_2, x_2 = (r_1 * v for v in ratio[:4])
    a, slip = ratio[4], ratio[6]
    leak = float(np.exp(0.15 * random.standard_normal())) if off.leakage else 1.0
    iron = _log_uniform(random, 0.04, 0.14)
    fan = Fan(
        shaded=shaded,
        poles=poles,
        volts=volts,
        hertz=hertz,
        mains=1 + float(random.uniform(-0.025, 0.025)) if off.mains else 1.0,
        r_1=r_1,
        x_1=x_1,
        x_m=x_m,
        r_2=r_2,
        x_2=x_2,
        a=a,
        r_a=ratio[5] * r_1 * (a * a if shaded else 1.0),
        x_a=_log_uniform(random, 0.2, 1.4) * r_1 * a * a if shaded else a * a * x_1 * leak,
        c=0.0,
        c_label=0.0,
        gamma=float(np.radians(random.uniform(35, 65))),
        x_ms=float(random.uniform(0.05, 0.3)) * r_1 * a if shaded else 0.0,
        core=np.inf,
        saturation=float(random.uniform(0.1, 0.6)) if off.saturation else 0.0,
        knee=float(random.uniform(4, 8)),
        rise=float(random.uniform(35, 75)) if off.warmth else 0.0,
        room=float(random.uniform(15, 28)) if off.warmth else 20.0,
        deep=float(random.uniform(0.0, 0.3)) if off.bars else 0.0,
        third=float(random.uniform(0.05, 0.25)) if off.harmonics else 0.0,
        fifth=float(random.uniform(0.03, 0.12)) if off.harmonics else 0.0,
        distortion=float(random.uniform(0.03, 0.05)) if off.supply else 0.0,
        exponent=float(random.uniform(1.7, 2.2)) if off.load else 2.0,
        friction=_log_uniform(random, 0.015, 0.08) if off.load else 0.03,
        viscous=float(random.uniform(0.0, 0.7)) if off.load else 0.0,
        break_away=float(random.uniform(1.2, 2.2)) if off.load else 1.5,
    )
    n = np.array([fan.n_s * (1 - slip)])
    one = np.ones(1)
    s = 1 - n / fan.n_s
    if not shaded:
        # The maker's choice: the capacitor that leaves least backward field, then the next one on the shelf.
        tries = np.geomspace(1.5, 12, 40) * r_1
        back = []
        for x_c in tries:
            c = 1 / (2 * np.pi * hertz * x_c)
            with_c = replace(fan, c=c)
            back.append(_backward(with_c, s, volts))
        x_c = float(tries[int(np.argmin(back))]) * float(np.exp(0.2 * random.standard_normal() - 0.1))
        c = 1 / (2 * np.pi * hertz * x_c)
        aged = 1 - float(random.uniform(0.0, 0.10)) if off.capacitor else 1.0
        spread = 1 + 0.02 * float(random.standard_normal()) if off.capacitor else 1.0
        fan = replace(fan, c=c, c_label=c / (aged * spread))
    if off.iron:
        for _ in range(4):
            at = _at(fan, s, volts, 0j, 1.0, fan.x_m * one, one)
            worth = at.gap**2 / (iron * at.watts)
            fan = replace(fan, core=float(worth[0]))
        at = _at(fan, s, volts, 0j, 1.0, fan.x_m * one, one)
        fan = replace(fan, core=fan.core * float(at.iron[0] / (iron * at.watts[0])))
    at = _at(fan, s, volts, 0j, 1.0, fan.x_m * one, one)
    if at.torque[0] <= 0:
        return None
    fan = replace(
        fan,
        full_rpm=float(n[0]),
        full_nm=float(at.torque[0]),
        full_e=float(at.gap[0]),
        full_loss=float(at.heat[0]),
    )
    shaft = fan.full_nm * fan.full_rpm * 2 * np.pi / 60
    efficiency, factor = shaft / at.watts[0], at.watts[0] / (volts * at.amps[0])
    start = rest_nm(fan, volts, 0j) / fan.full_nm
    low = {"sweep": 0.10, "blower": 0.18, "shaded": 0.12}[kind]
    high = {"sweep": 0.50, "blower": 0.65, "shaded": 0.32}[kind]
    if not low < efficiency < high:
        return None
    if shaded:
        copper = at.copper[0] / at.watts[0]
        if not (0.5 < factor < 0.75 and 0.15 < start < 0.8 and 0.22 < copper < 0.50):
            return None
    elif not (factor > 0.7 and start > 0.25):
        return None
    found = run(fan, fan.mains * volts)
    if found is None or not 0.9 < found[0] / fan.full_rpm < 1.06:
        return None
    return fan


def _backward(f: Fan, slip: FloatArray, volts: float) -> float:
    """Share of the backward field in the gap."""
    plain = replace(f, third=0.0, fifth=0.0)
    x_m = np.full(slip.shape, plain.x_m)
    rotor_f = slip / (plain.r_2 + 1j * slip * plain.x_2)
    rotor_b = (2 - slip) / (plain.r_2 + 1j * (2 - slip) * plain.x_2)
    z_f, z_b = 0.5 * _par(1 / (1j * x_m), rotor_f), 0.5 * _par(1 / (1j * x_m), rotor_b)
    cap = 1 / (2j * np.pi * f.hertz * f.c)
    z_m = plain.r_1 + 1j * plain.x_1 + z_f + z_b
    z_a = plain.r_a + 1j * plain.x_a + cap + f.a**2 * (z_f + z_b)
    across = 1j * f.a * (z_f - z_b)
    det = z_m * z_a + across * across
    i_m, i_a = volts * (z_a + across) / det, volts * (z_m - across) / det
    return float(np.abs(i_m + 1j * f.a * i_a)[0] / np.abs(i_m - 1j * f.a * i_a)[0])
