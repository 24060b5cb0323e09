"""A step as a SPICE netlist with the cards that reproduce it (docs/spice.md).

At one speed the machine is linear, but its two axes hang together by speed volts of opposite sign: no network of R, L
and M equals it. Each axis is written as its own T circuit, the rotor fluxes as volts on capacitors of one farad, and the
speed volts as controlled sources.
"""

from __future__ import annotations

import math
import re
from collections.abc import Iterator

import numpy as np

from fenwit.core.circuit import Circuit, Part, PartKind
from fenwit.core.circuit.netted import Netted
from fenwit.core.errors import InputError
from fenwit.core.motor.machine import SingleWindingMotor, TwoWindingMotor, synchronous_speed_rpm
from fenwit.core.motor.ring import ShadedPoleMotor
from fenwit.core.motor.switched import axes_of
from fenwit.core.motor.taps import StartBranch, TapFedMotor

CLOSED_OHM, LEAK_OHM, GATE_S = 1e-3, 1e9, 2e-3
"""A closed contact, what gives a capacitor its DC point, and a gate pulse at its longest [Ω, Ω, s]"""
_SETTLE_S, _KNOB_SETTLE_S, _CYCLES = 3.0, 1.5, 10
"""What runs before volts are measured over so many cycles; a diac network is followed in finer steps [s, s, -]"""
_HOLD_A = 1e-3


def netlist(step: Netted) -> str:
    """Write one step.

    Parameters
    ----------
    step : Netted
        What stands before the motor, the motor, and what is expected [-]

    Returns
    -------
    str
        A netlist that ngspice runs as it is, in batch [-]

    Raises
    ------
    InputError
        A kind of motor that is not written here.
    """
    hertz = step.frequency_hz
    fired = step.firing_deg is not None or step.knob is not None
    fired = fired and step.circuit is not None and any(p.kind is PartKind.TRIAC for p in step.circuit.parts)
    lines = [
        f"* {_plain(step.title)}",
        f"* computed: {step.motor_v:.4g} V at the motor, {step.motor_a:.4g} A through it, at {step.speed_rpm:.2f} rpm",
        "* right at this speed alone: no change of speed, no inrush, nothing above the mains' 39th harmonic",
        f"vs s 0 DC 0 AC {step.supply_v:.8g} SIN(0 {math.sqrt(2) * step.supply_v:.8g} {hertz:g})",
        "vil s l 0",
    ]
    lines += _circuit(step, fired) if step.circuit is not None else ["rdirect l m 1e-3"]
    lines += ["vim m w 0", *_motor(step)]
    lines += _cards(step, fired)
    return "\n".join((*lines, ".end", ""))


def _plain(text: str) -> str:
    return re.sub(r"[^\x20-\x7e]", "?", text.replace("Ω", "ohm").replace("µ", "u").replace("°", " deg"))


def _cards(step: Netted, fired: bool) -> list[str]:
    hertz = step.frequency_hz
    cycle = 1 / hertz
    end = _KNOB_SETTLE_S if step.knob else _SETTLE_S
    begin = end - _CYCLES * cycle
    cards = [".control"]
    if not fired:
        cards += [
            f"ac lin 1 {hertz:g} {hertz:g}",
            "let motor_v_ac = mag(v(m))",
            "let motor_a_ac = mag(i(vim))",
            "let supply_w_ac = real(v(s)*conj(i(vil)))",
            "print motor_v_ac motor_a_ac supply_w_ac",
        ]
    step_s = 5e-6 if step.knob else 20e-6 if fired else 50e-6
    cards += [
        f"tran {step_s:g} {end:.6g} {begin:.6g} {step_s:g} uic",
        f"meas tran motor_v rms v(m) from={begin:.6g} to={end:.6g}",
        f"meas tran motor_a rms i(vim) from={begin:.6g} to={end:.6g}",
        "let supply_w = v(s)*i(vil)",
        f"meas tran watts avg supply_w from={begin:.6g} to={end:.6g}",
        "quit 0",
        ".endc",
    ]
    options = (
        [".options method=gear reltol=1e-4 abstol=1e-8 vntol=1e-5"] if fired else [".options reltol=1e-5"]
    )
    return [*options, *cards]


# ---------------------------------------------------------------- what stands before the motor


class _Nets:
    """Names a simulator takes, one for each net."""

    def __init__(self, circuit: Circuit) -> None:
        self.names = {circuit.line: "l", circuit.load: "m"}
        for neutral in (circuit.neutral, "neutral"):
            if neutral:
                self.names[neutral] = "0"

    def __getitem__(self, net: str) -> str:
        return self.names.setdefault(net, f"n{len(self.names)}")


def _circuit(step: Netted, fired: bool) -> Iterator[str]:
    circuit = step.circuit
    assert circuit is not None
    position = next((p for p in circuit.positions if p.name == step.position), None)
    if position is None:
        raise InputError(
            "position", step.position, ", ".join(p.name for p in circuit.positions), "no such position"
        )
    net = _Nets(circuit)
    for core in circuit.cores:
        name = _word(core.name)
        henry = core.magnetising_ohm / (2 * math.pi * core.frequency_hz)
        yield f"rcore_{name} core_{name} 0 {core.loss_ohm:.8g}"
        yield f"lcore_{name} core_{name} 0 {henry:.8g}"
    if step.left_out:
        yield "* snubber, filter and what feeds the gate stand here as remarks: the step was computed without them"
    for part in circuit.parts:
        a, b, name = net[part.net_a], net[part.net_b], _word(part.name)
        if part.name in step.left_out:
            if part.kind is PartKind.INDUCTOR:
                yield f"r{name} {a} {b} {CLOSED_OHM:g}"
            yield f"* {name} {a} {b} {part.value:.8g}"
        elif part.kind is PartKind.CONTACT:
            if part.name in position.closed:
                yield f"r{name} {a} {b} {CLOSED_OHM:g}"
            else:
                # Only so that no net hangs on nothing.
                yield f"r{name} {a} {b} {LEAK_OHM:g}"
        elif part.kind is PartKind.FUSE:
            yield f"r{name} {a} {b} {CLOSED_OHM:g}"
        elif part.kind is PartKind.RESISTOR:
            yield f"r{name} {a} {b} {part.value:.8g}"
        elif part.kind is PartKind.KNOB:
            yield f"r{name} {a} {b} {(step.knob.turn_ohm if step.knob else part.value):.8g}"
        elif part.kind is PartKind.CAPACITOR:
            yield from _capacitor(name, a, b, part, step.frequency_hz)
        elif part.kind is PartKind.INDUCTOR:
            yield f"l{name} {a} {b} {part.value:.8g}"
        elif part.kind is PartKind.WINDING:
            yield from _winding(name, a, b, part)
        elif part.kind is PartKind.TRIAC:
            yield from (_triac(step, a, b, net[part.net_gate]) if fired else ())
        elif part.kind is PartKind.DIAC:
            yield from (
                _diac(step, name, a, b, net[circuit.load]) if fired and step.knob else _loose(name, a, b)
            )
        else:
            # Opto-couplers, varistors and supplies carry nothing that counts here.
            yield from _loose(name, a, b)


def _word(name: str) -> str:
    """A part's name as a simulator takes it, apart from those of the motor."""
    return "_" + re.sub(r"[^a-z0-9]", "_", name.lower().replace("′", "p").replace("″", "q"))


def _loose(name: str, a: str, b: str) -> Iterator[str]:
    yield f"r{name} {a} {b} {LEAK_OHM:g}"


def _capacitor(name: str, a: str, b: str, part: Part, hertz: float) -> Iterator[str]:
    esr = part.loss_factor / (2 * math.pi * hertz * part.value)
    inner = a
    if esr > 0:
        inner = f"{name}_i"
        yield f"rs{name} {a} {inner} {esr:.8g}"
    yield f"c{name} {inner} {b} {part.value:.8g}"
    yield f"rl{name} {inner} {b} {LEAK_OHM:g}"


def _winding(name: str, a: str, b: str, part: Part) -> Iterator[str]:
    """A section of winding: its ohms and leakage, and the volts its core makes in its turns."""
    core = f"core_{_word(part.core)}" if part.core else "0"
    yield f"r{name} {a} {name}_1 {part.value:.8g}"
    at = f"{name}_1"
    if part.leakage_h > 0:
        yield f"l{name} {at} {name}_2 {part.leakage_h:.8g}"
        at = f"{name}_2"
    yield f"v{name} {at} {name}_3 0"
    yield f"e{name} {name}_3 {b} {core} 0 {part.turns:.8g}"
    yield f"f{name} 0 {core} v{name} {part.turns:.8g}"


def _triac(step: Netted, a: str, b: str, gate: str) -> Iterator[str]:
    """Two timed switches, each with an ideal diode: closed by the gate, and by their own current until it ends."""
    hertz = step.frequency_hz
    fire = "v(gate_on)>0.5"
    if step.knob is None and (not step.firing_deg or step.conduction_deg >= 179.9):
        # Held on: it never stops conducting.
        yield "vgate gate_on 0 DC 1"
        yield f"rgate {gate} {b} {LEAK_OHM:g}"
    elif step.firing_deg is not None and step.knob is None:
        late = step.firing_deg / (360 * hertz)
        # The pulse ends before the current does, else it would fire the other half.
        width = (
            min(GATE_S, max(20e-6, 0.5 * step.conduction_deg / (360 * hertz)))
            if step.conduction_deg
            else GATE_S
        )
        yield f"vgate gate_on 0 PULSE(0 1 {max(late - 5e-6, 0):.9g} 10u 10u {width:.6g} {0.5 / hertz:.9g})"
        yield f"rgate {gate} {b} {LEAK_OHM:g}"
    else:
        # Whatever the diac gives the gate, either way round.
        yield f"rgate {gate} {b} 200"
        yield f"bgate gate_on 0 V = abs(v({gate})-v({b})) > 1 ? 1 : 0"
    for half, (x, y) in enumerate(((a, b), (b, a)), start=1):
        control = f"tb{half}" if step.knob else f"tc{half}"
        yield f"btr{half} {control} 0 V = ({fire}) || (i(vtr{half})>{_HOLD_A:g}) ? 1 : 0"
        if step.knob:
            yield from _lag(control, f"tc{half}")
        yield f"str{half} {x} t{half}a tc{half} 0 triac"
        yield f"dtr{half} t{half}a t{half}b ideal"
        yield f"vtr{half} t{half}b {y} {step.on_state_v:g}"
    yield ".model triac sw(vt=0.5 vh=0.2 ron=10m roff=20meg)"
    yield ".model ideal d(n=0.02)"


def _lag(from_: str, to: str) -> Iterator[str]:
    """A microsecond between what decides and what switches."""
    yield f"rlag_{to} {from_} {to} 1k"
    yield f"clag_{to} {to} 0 1n"


def _diac(step: Netted, name: str, a: str, gate: str, far: str) -> Iterator[str]:
    """A switch with hysteresis: it takes the break-back volts out of the capacitor, over several steps, and opens."""
    knob = step.knob
    assert knob is not None
    high, low = knob.breakover_v, knob.breakover_v - knob.breakback_v
    middle, half = 0.5 * (high + low), 0.5 * (high - low)
    # A microsecond's lag, so that the step of the firing triac does not open it while it is being solved.
    yield f"bdc{name} {name}_v 0 V = abs(v({a})-v({far}))"
    yield from _lag(f"{name}_v", f"{name}_c")
    yield f"s{name} {a} {gate} {name}_c 0 diac_{name}"
    yield f".model diac_{name} sw(vt={middle:.6g} vh={half:.6g} ron=2k roff=1g)"


# ---------------------------------------------------------------- the motor at its speed


def _motor(step: Netted) -> list[str]:
    motor, hertz = step.motor, step.frequency_hz
    slip = 1 - step.speed_rpm / synchronous_speed_rpm(motor.poles, hertz)
    if isinstance(motor, SingleWindingMotor):
        return _single(motor, slip, hertz)
    if isinstance(motor, TapFedMotor):
        return _tapped(motor, slip, hertz)
    if isinstance(motor, TwoWindingMotor | ShadedPoleMotor):
        return _two_axis(motor.settled(np.array([slip]), hertz), slip, hertz)
    raise InputError(
        "motor", type(motor).__name__, "an induction machine", "no netlist of such a motor is written"
    )


def _single(motor: SingleWindingMotor, slip: float, hertz: float) -> list[str]:
    omega = 2 * math.pi * motor.rated_frequency_hz
    lines = [
        "* one winding, seen from its terminals, at this slip",
        f"rw1 w w1 {float(motor.stator_resistance_ohm):.8g}",
        f"lw1 w1 g {float(motor.stator_leakage_reactance_ohm) / omega:.8g}",
        f"lmag g 0 {float(motor.magnetising_reactance_ohm) / omega:.8g}",
        f"rrot g g2 {float(motor.rotor_resistance_ohm) / max(slip, 1e-6):.8g}",
        f"lrot g2 0 {float(motor.rotor_leakage_reactance_ohm) / omega:.8g}",
    ]
    if motor.core_loss_resistance_ohm is not None:
        lines.append(f"riron g 0 {float(motor.core_loss_resistance_ohm):.8g}")
    return lines


def _two_axis(motor: TwoWindingMotor | ShadedPoleMotor, slip: float, hertz: float) -> list[str]:
    m = axes_of(motor, 1, hertz)
    omega = 2 * math.pi * hertz
    lines = ["* windings: resistance, leakage, and what the field of each axis makes in its turns"]
    second = "0" if m.fed[1] == 0 else "w"
    leak = m.leakage[0] / omega
    for i, top in enumerate(("w", second)):
        bottom = "0" if i == 0 or m.x_c is None else "crun_t"
        lines += _coil(
            f"w{i + 1}", top, bottom, float(m.resistance[0, i]), float(leak[i, i]),
            {"e_d": float(m.turns[0, i, 0]), "e_q": float(m.turns[0, i, 1])},
        )  # fmt: skip
    if leak[0, 1] > 0 and leak[0, 0] > 0 and leak[1, 1] > 0:
        lines.append(f"kleak lw1 lw2 {leak[0, 1] / math.sqrt(leak[0, 0] * leak[1, 1]):.8g}")
    if m.x_c is not None:
        lines += _run_capacitor(1 / (omega * float(m.x_c[0])))
    iron = None if m.r_c is None else float(m.r_c[0])
    return lines + _rotor(
        float(m.x_m[0]) / omega,
        float(m.x_2[0]) / omega,
        float(m.r_2[0]),
        iron,
        (1 - slip) * omega,
    )


def _tapped(motor: TapFedMotor, slip: float, hertz: float) -> list[str]:
    """A motor fed through extra turns: they share axis and leakage with the main winding."""
    base = motor.base.settled(np.array([slip]), hertz)
    m = axes_of(base, 1, hertz)
    omega = 2 * math.pi * hertz
    warm = float(m.resistance[0, 0]) / float(motor.base.main_resistance_ohm)
    t, extra = float(motor.turns), float(motor.extra_ohm) * warm
    main, aux = float(m.resistance[0, 0]), float(m.resistance[0, 1])
    lines = [
        "* main winding, extra turns and start branch; the main axis' leakage is common to main and extra turns"
    ]
    lines.append(f"laxis e_m e_d {float(m.leakage[0, 0, 0]) / omega:.8g}")
    top = "w"
    if motor.connection is StartBranch.MAIN_SECTION:
        lines += _coil("wx", "w", "w_in", extra, 0.0, {"e_m": t - 1})
        top = "w_in"
        lines += _coil("w1", top, "0", main, 0.0, {"e_m": 1.0})
    else:
        lines += _coil("w1", top, "0", main + extra, 0.0, {"e_m": t})
    lines += _coil(
        "w2", top, "crun_t", aux, float(m.leakage[0, 1, 1]) / omega, {"e_q": float(m.turns[0, 1, 1])}
    )
    assert m.x_c is not None
    lines += _run_capacitor(1 / (omega * float(m.x_c[0])))
    iron = None if m.r_c is None else float(m.r_c[0])
    return lines + _rotor(
        float(m.x_m[0]) / omega,
        float(m.x_2[0]) / omega,
        float(m.r_2[0]),
        iron,
        (1 - slip) * omega,
    )


def _run_capacitor(farads: float) -> list[str]:
    return [f"crun crun_t 0 {farads:.8g}", f"rcrun crun_t 0 {LEAK_OHM:g}"]


def _coil(name: str, top: str, bottom: str, ohm: float, henry: float, turns: dict[str, float]) -> list[str]:
    lines, at = [f"r{name} {top} {name}_0 {max(ohm, 1e-6):.8g}"], f"{name}_0"
    if henry > 0:
        lines.append(f"l{name} {at} {name}_l {henry:.8g}")
        at = f"{name}_l"
    for axis, count in turns.items():
        if count:
            lines.append(f"e{name}{axis} {at} {name}{axis} {axis} 0 {count:.8g}")
            lines.append(f"f{name}{axis} 0 {axis} v{name} {count:.8g}")
            at = f"{name}{axis}"
    return [*lines, f"v{name} {at} {bottom} 0"]


def _rotor(mutual: float, leakage: float, ohm: float, iron: float | None, speed: float) -> list[str]:
    """Both axes behind the windings: magnetising, iron, and a rotor whose speed volts cross over."""
    lines = ["* rotor: v(f_d), v(f_q) are its fluxes in V s, on capacitors of one farad"]
    for axis, other, sign in (("d", "q", 1.0), ("q", "d", -1.0)):
        lines.append(f"lm{axis} e_{axis} 0 {mutual:.8g}")
        if iron is not None:
            lines.append(f"ri{axis} e_{axis} 0 {iron:.8g}")
        at = f"e_{axis}"
        if leakage > 0:
            lines.append(f"l2{axis} {at} r_{axis} {leakage:.8g}")
            at = f"r_{axis}"
        lines += [
            f"r2{axis} {at} s_{axis} {ohm:.8g}",
            f"es{axis} s_{axis} 0 f_{other} 0 {sign * speed:.8g}",
            f"g{axis} 0 f_{axis} {at} 0 1",
            f"cf{axis} f_{axis} 0 1",
            f"rf{axis} f_{axis} 0 {LEAK_OHM:g}",
        ]
    return lines
