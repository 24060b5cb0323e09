"""Inspect: what a control does with a fan or a lamp, its faults and findings. Known answers, *independent*."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fenwit.core.errors import InputError
from fenwit.core.frame import frame
from fenwit.core.frame.inspect import fault_key, fault_of, inspect
from fenwit.core.inspect.circuits import board_circuit, positions_of
from fenwit.core.inspect.faults import shown, supposable
from fenwit.core.inspect.findings import (
    Key,
    Severity,
    _Check,
    findings,
    track_current_a,
    track_width_mm,
)
from fenwit.core.inspect.orbits import networks, running_orbits
from fenwit.core.inspect.places import Place, chopped, places, turning
from fenwit.core.inspect.reading import read_part
from fenwit.core.inspect.repair import repair
from fenwit.core.inspect.values import network_of, values_of
from fenwit.core.job.board import (
    TRACK,
    Board,
    BoardPart,
    Build,
    Condition,
    Fault,
    FaultKind,
    Limit,
    Role,
    Sense,
    Spindle,
    Topology,
)
from fenwit.core.job.machine import MachineFan
from fenwit.core.operating import solve
from fenwit.core.regulator.snubber import ringing
from fenwit.core.regulator.transformer import Winding
from fenwit.core.size.classes import PartClass
from tests.core.shapes import fan_of
from tests.core.test_frame import SWEEP
from tests.known.machines import MAINS, S16, S16_LOAD


def part(role: Role, value: float | None = None, number: int = 1, **more: object) -> BoardPart:
    return BoardPart(role, number, value=value, **more)  # type: ignore[arg-type]


def missing(role: Role, number: int = 1) -> BoardPart:
    return BoardPart(role, number, Condition.MISSING)


EXAMPLE = Board(
    Topology.TWO_WIRE,
    (
        part(Role.SWITCH),
        part(Role.TRIAC, 4.0, volts_v=600.0),
        part(Role.SNUBBER_RESISTOR, 120.0),
        part(Role.SNUBBER_CAPACITOR, 39e-9),
        part(Role.END_RESISTOR, 12e3),
        part(Role.KNOB, 330e3),
        part(Role.TIMING_CAPACITOR, 82e-9, volts_v=100.0),
        part(Role.DIAC, 30.0, drop_v=8.0),
    ),
)
"""The chapter's own example"""
BANK = Board(
    Topology.SECTIONS,
    (
        part(Role.FUSE, 0.8),
        part(Role.SWITCH, amps_a=6.0),
        *(
            part(Role.SECTION, c, n, part_class=PartClass.X2_FILM, volts_v=305.0, volts_ac=True)
            for n, c in enumerate((1.8e-6, 2.7e-6), start=1)
        ),
        *(part(Role.LIMITER, 22.0, n, watts_w=5.0) for n in (1, 2)),
        *(part(Role.BLEED, 470e3, n, watts_w=0.5) for n in (1, 2)),
    ),
)


@pytest.fixture(scope="module")
def fan() -> MachineFan:
    """S16 itself, with a belief beside it for the bands."""
    known = fan_of(SWEEP)
    belief = replace(known.belief, motor=S16, load=S16_LOAD)
    return MachineFan(belief, MAINS, solve(S16, S16_LOAD, [MAINS])[0], known.direct_bands)


def at(board: Board, fan: MachineFan | None, fault: Fault | None = None) -> tuple[Place, ...]:
    return places(board, MAINS, fan, fault, banded=False)


def rpm(place: Place) -> float:
    assert place.fan is not None
    return place.fan.speed_rpm


# ---------------------------------------------------------------- the example


@pytest.mark.parametrize(
    ("travel", "angle", "volts", "meter", "light", "fan_angle", "two_wire", "three_wire"),
    [
        (0.0, 15.8, 229.5, 225.7, 99, 8.9, 329.6, 329.2),
        (0.25, 45.6, 218.9, 195.4, 84, 39.5, 325.4, 323.4),
        (0.5, 68.2, 196.6, 157.6, 59, 62.0, 314.5, 309.0),
        (0.75, 88.6, 165.1, 117.7, 32, 81.8, 289.9, 274.9),
        (1.0, 109.5, 124.2, 76.6, 12, 103.8, 221.5, 194.5),
    ],
)
def test_the_example_knob(
    fan: MachineFan, travel: float, angle: float, volts: float, meter: float, light: float,
    fan_angle: float, two_wire: float, three_wire: float,
) -> None:  # fmt: skip
    # Quarters of the travel, by a knob that stops there.
    short = tuple(
        replace(p, value=330e3 * travel or 1.0) if p.role is Role.KNOB else p for p in EXAMPLE.parts
    )
    here = at(replace(EXAMPLE, parts=short), fan)[-1]
    assert here.lamp.angle_deg == pytest.approx(angle, abs=0.06)
    assert here.lamp.volts_v == pytest.approx(volts, abs=0.15)
    assert here.lamp.meter_v == pytest.approx(meter, abs=0.15)
    assert 100 * here.lamp.light == pytest.approx(light, abs=0.7)
    assert here.fan is not None
    assert here.fan.angle_deg == pytest.approx(fan_angle, abs=0.06)
    assert rpm(here) == pytest.approx(two_wire, abs=0.2)
    three = at(replace(EXAMPLE, parts=short, topology=Topology.THREE_WIRE), fan)[-1]
    assert rpm(three) == pytest.approx(three_wire, abs=0.2)


def test_a_longer_knob_comes_on_late_and_holds_further_than_it_comes_on(fan: MachineFan) -> None:
    longer = network_of(EXAMPLE, values_of(EXAMPLE).likely | {"knob": 600e3})
    turned = turning(fan, longer)
    assert turned is not None
    assert turned.comes_on
    assert turned.on_ohm == pytest.approx(419e3, rel=0.003)
    # ωRC = √((V_p/V_BO)² − 1)
    crest = np.sqrt(2) * 230
    want = np.sqrt((crest / 30) ** 2 - 1) / (2 * np.pi * 50 * 82e-9)
    assert turned.on_ohm == pytest.approx(want, rel=1e-3)
    assert turned.on_rpm == pytest.approx(84, abs=1)
    assert 432e3 < turned.off_ohm < 444e3
    orbits = running_orbits(S16, S16_LOAD, MAINS)
    held = orbits.speed_at(orbits.fires_at(networks(longer, np.array([432e3]))))
    assert held[0] == pytest.approx(53, abs=1)
    short = turning(fan, network_of(EXAMPLE, values_of(EXAMPLE).likely))
    assert short is not None
    assert short.jump_rpm == 0.0


FAULTS = [
    # Fault, place, lamp true volts, average meter, angle, fan rpm
    (Fault(FaultKind.CRACKED, "knob"), 0.5, 2.0, 2.0, None, 0.0),
    (Fault(FaultKind.CRACKED, TRACK), 0.5, 2.0, 2.0, None, 0.0),
    (Fault(FaultKind.CRACKED, "knob", strapped=True), 0.5, 124.2, 76.6, 109.5, 221.5),
    (Fault(FaultKind.SHORT, "knob"), 0.5, 229.5, 225.7, 15.8, 329.6),
    (Fault(FaultKind.OPEN, "timing-capacitor"), 0.5, 230.0, 229.4, 5.6, 329.6),
    (Fault(FaultKind.SHORT, "timing-capacitor"), 0.5, 2.0, 2.0, None, 0.0),
    (Fault(FaultKind.DRIFTED, "timing-capacitor", 0.5), 0.5, 220.1, 198.0, 43.8, 325.9),
    (Fault(FaultKind.DRIFTED, "timing-capacitor", 0.5), 1.0, 198.5, 160.5, 66.7, 315.6),
    (Fault(FaultKind.DRIFTED, "timing-capacitor", 1.5), 0.5, 162.4, 114.8, 90.1, 287.1),
    (Fault(FaultKind.OPEN, "diac"), 0.5, 2.0, 2.0, None, 0.0),
    (Fault(FaultKind.SHORT, "diac"), 0.5, 229.8, 227.5, 12.0, 329.6),
    (Fault(FaultKind.SHORT, "triac"), 0.5, 230.0, 230.0, None, 330.0),
    (Fault(FaultKind.HALF_WAVE, "triac"), 0.5, 139.0, 78.8, 68.2, 140.0),
    (Fault(FaultKind.SHORT, "snubber-capacitor"), 0.5, 196.6, 196.6, None, 314.4),
]


@pytest.mark.parametrize(
    ("fault", "travel", "volts", "meter", "angle", "speed"), FAULTS, ids=lambda v: str(v)[:40]
)
def test_what_a_fault_shows(
    fan: MachineFan,
    fault: Fault,
    travel: float,
    volts: float,
    meter: float,
    angle: float | None,
    speed: float,
) -> None:
    here = next(p for p in shown(EXAMPLE, MAINS, fan, fault).places if p.at == pytest.approx(travel))
    assert here.lamp.volts_v == pytest.approx(volts, abs=0.15)
    assert here.lamp.meter_v == pytest.approx(meter, abs=0.15)
    assert here.lamp.angle_deg == (None if angle is None else pytest.approx(angle, abs=0.15))
    assert rpm(here) == pytest.approx(speed, abs=0.4)


@pytest.mark.parametrize(
    ("ohm", "rpm_", "amps"), [(82.5e3, 157.9, 0.202), (247.5e3, 106.5, 0.125), (330e3, 67.1, 0.082)]
)
def test_half_a_wave_brakes_and_heats(fan: MachineFan, ohm: float, rpm_: float, amps: float) -> None:
    parts = tuple(replace(p, value=ohm) if p.role is Role.KNOB else p for p in EXAMPLE.parts)
    here = at(replace(EXAMPLE, parts=parts), fan, Fault(FaultKind.HALF_WAVE, "triac"))[-1]
    assert here.fan is not None
    assert here.fan.speed_rpm == pytest.approx(rpm_, abs=0.6)
    assert here.fan.mean_a == pytest.approx(amps, abs=0.001)


def test_heat_that_a_fault_makes(fan: MachineFan) -> None:
    end = shown(EXAMPLE, MAINS, fan, Fault(FaultKind.SHORT, "timing-capacitor")).heats[0]
    assert end.watts == pytest.approx(4.4, abs=0.05)
    lamp, running = shown(EXAMPLE, MAINS, fan, Fault(FaultKind.SHORT, "snubber-capacitor")).heats
    assert lamp.watts == pytest.approx(9.3, abs=0.1)
    assert running.watts == pytest.approx(9.6, abs=0.1)
    half = at(EXAMPLE, fan, Fault(FaultKind.HALF_WAVE, "triac"))[5].fan
    assert half is not None
    assert half.input_power_w == pytest.approx(40, abs=0.5)


def test_every_fault_that_can_be_supposed_shows_something(fan: MachineFan) -> None:
    for board in (EXAMPLE, BANK):
        for one in supposable(board):
            found = shown(board, MAINS, fan, one.fault)
            assert found.words == one.words
            assert found.scope
            assert found.meter
            assert found.fan
            assert fault_of(fault_key(one.fault)) == one.fault
    with pytest.raises(InputError, match="cannot fail so"):
        shown(EXAMPLE, MAINS, fan, Fault(FaultKind.HALF_WAVE, "knob"))


@given(st.floats(0.0, 180.0), st.booleans())
def test_a_lamp_gets_no_more_than_the_mains_and_a_meter_never_reads_above_it(
    angle: float, half: bool
) -> None:
    seen = chopped(230.0, angle, half)
    assert 0 <= seen.meter_v <= seen.volts_v + 1e-9 <= 230 + 1e-6
    assert seen.light <= 1


# ---------------------------------------------------------------- bands, switches


def test_doubtful_parts_widen_the_bands_and_the_worst_of_them_is_named() -> None:
    read = replace(SWEEP, board=EXAMPLE)
    vague = replace(
        read,
        board=replace(
            EXAMPLE,
            parts=tuple(
                BoardPart(p.role, 1, Condition.UNREADABLE) if p.role is Role.TIMING_CAPACITOR else p
                for p in EXAMPLE.parts
            ),
        ),
    )
    known, unknown = inspect(read), inspect(vague)
    assert unknown.narrows == "timing capacitor"
    assert known.narrows == ""

    def width(spot: object) -> float:
        speed = spot.speed  # type: ignore[attr-defined]
        return speed.high - speed.low if speed else 0.0

    assert width(unknown.spots[5]) > 3 * width(known.spots[5])


def test_a_bank_steps_as_its_sections_do(fan: MachineFan) -> None:
    found = at(BANK, fan)
    assert positions_of(BANK) == ((1,), (2,), (1, 2))
    assert [p.name for p in found] == ["position 1", "position 2", "position 3"]
    ideal = solve(S16, S16_LOAD, [replace(MAINS, impedance_ohm=22 - 1j / (2 * np.pi * 50 * 2.7e-6))])[
        0
    ].running
    assert ideal is not None
    # Bleed and tan δ are in it too.
    assert rpm(found[1]) == pytest.approx(ideal.speed_rpm, rel=0.003)
    assert rpm(found[0]) < rpm(found[1]) < rpm(found[2])
    gone = at(BANK, fan, Fault(FaultKind.OPEN, "section-2"))
    assert rpm(gone[1]) < 0.2 * rpm(found[1])
    assert rpm(gone[2]) == pytest.approx(rpm(found[0]), rel=0.05)
    live = inspect(replace(SWEEP, board=BANK)).live
    assert live is not None
    assert [m.predicted is not None for m in live.marks] == [True] * 3
    assert all(p.runs for p in live.paths)
    short = at(BANK, fan, Fault(FaultKind.SHORT, "section-1"))[0].fan
    assert short is not None
    assert short.speed_rpm > 320


def test_a_chain_and_a_stepped_transformer(fan: MachineFan) -> None:
    chain = Board(
        Topology.CHAIN, tuple(part(Role.RESISTOR, r, n) for n, r in enumerate((470.0, 300.0, 270.0), start=1))
    )
    found = at(chain, fan)
    assert [rpm(p) for p in found[:3]] == pytest.approx([146.7, 224.6, 288.9], abs=0.2)
    assert found[3].setting == "direct"
    assert rpm(found[3]) == pytest.approx(330, abs=0.5)
    auto = Board(
        Topology.STEPPED,
        (part(Role.TRANSFORMER, 25.0, volts_v=230.0),),
        taps=((85.0, None), (122.0, None), (167.0, None)),
    )
    # The transformer's known answers.
    assert [rpm(p) for p in at(auto, fan)] == pytest.approx([147.9, 224.0, 288.7], abs=0.2)
    separate = replace(
        auto, winding=Winding.SEPARATE, parts=(part(Role.TRANSFORMER, 63.0, volts_v=230.0),),
        taps=((86.0, None), (125.0, None), (180.0, None)),
    )  # fmt: skip
    assert [rpm(p) for p in at(separate, fan)] == pytest.approx([150.2, 225.4, 291.9], abs=0.2)


def test_a_controller_is_told_over_its_angles(fan: MachineFan) -> None:
    opto = Board(Topology.OPTO, (part(Role.TRIAC, 4.0), part(Role.GATE_RESISTOR, 330.0), part(Role.OPTO)))
    found = at(opto, fan)
    speeds = [rpm(p) for p in found]
    assert speeds == sorted(speeds, reverse=True)
    assert speeds[0] > 325
    assert {f.key for f in findings(opto, MAINS, fan, found)} == {Key.GATE_RESISTOR}
    right = replace(opto, parts=(opto.parts[0], part(Role.GATE_RESISTOR, 390.0), opto.parts[2]))
    assert not findings(right, MAINS, fan, at(right, fan))


# ---------------------------------------------------------------- findings


def keys(board: Board, fan: MachineFan | None) -> dict[Key, str]:
    return {f.key: f.figures for f in findings(board, MAINS, fan, at(board, fan))}


def test_findings_of_the_example(fan: MachineFan) -> None:
    found = keys(EXAMPLE, fan)
    assert "52 %" in found[Key.DEAD_TRAVEL]
    assert "67 %" in found[Key.NARROW]
    assert "221 V and 0.15 W" in found[Key.POT_END]
    assert "0.385 W in R1 and 220 V on C1" in found[Key.FAILS_SECOND]
    assert Key.JUMP not in found
    assert Key.DVDT not in found
    assert Key.TRIAC_HOT not in found
    # What nobody looked at is no finding.
    assert Key.NO_FUSE not in found
    assert Key.NO_SUPPRESSION not in found


def test_dv_dt_of_the_example_and_of_a_bare_triac(fan: MachineFan) -> None:
    slope, peak = (float(v[0, 0]) for v in ringing(125.0, 0.54, np.array([[120.0]]), np.array([[39e-9]])))
    assert (slope, peak) == (pytest.approx(0.84, abs=0.01), pytest.approx(244, abs=1))
    bare, _ = ringing(125.0, 0.54, np.array([[1.0]]), np.array([[100e-12]]))
    assert float(bare[0, 0]) == pytest.approx(17, abs=0.2)
    check = _Check(EXAMPLE, MAINS, fan, at(EXAMPLE, fan))
    step = check._step_v()
    ring = check._ring(120.0, 39e-9)
    assert step is not None
    assert ring is not None
    assert ring[0] / step == pytest.approx(slope / 125, rel=0.01)


def test_a_track_and_its_amps() -> None:
    assert track_current_a(0.3, 35, 20) == pytest.approx(1.36, abs=0.01)
    assert track_width_mm(2.0, 35, 20) == pytest.approx(0.51, abs=0.01)


@given(st.floats(0.05, 20), st.floats(5, 200), st.floats(5, 60))
def test_width_and_amps_of_a_track_undo_each_other(width: float, copper: float, rise: float) -> None:
    assert track_width_mm(track_current_a(width, copper, rise), copper, rise) == pytest.approx(
        width, rel=1e-9
    )


@pytest.mark.parametrize(
    ("change", "key"),
    [
        ({"parts": (*EXAMPLE.parts, missing(Role.FUSE))}, Key.NO_FUSE),
        ({"parts": (*EXAMPLE.parts, part(Role.FUSE, 2.0))}, Key.FUSE_WRONG),
        ({"parts": (*EXAMPLE.parts, part(Role.FUSE, 0.63, volts_v=32.0))}, Key.FUSE_WRONG),
        ({"parts": (*EXAMPLE.parts, missing(Role.CHOKE))}, Key.NO_SUPPRESSION),
        (
            {"parts": (*EXAMPLE.parts, part(Role.X_CAPACITOR, 100e-9, volts_v=250.0, volts_ac=False))},
            Key.NOT_MAINS_CLASS,
        ),
        (
            {"parts": (*EXAMPLE.parts, part(Role.X_CAPACITOR, 100e-9, volts_v=230.0, volts_ac=True))},
            Key.NOT_MAINS_CLASS,
        ),
        (
            {"parts": tuple(missing(p.role) if "snubber" in p.key else p for p in EXAMPLE.parts)},
            Key.NO_SNUBBER,
        ),
        (
            {
                "parts": tuple(
                    replace(p, value=1e-9) if p.role is Role.SNUBBER_CAPACITOR else p for p in EXAMPLE.parts
                )
            },
            Key.DVDT,
        ),
        (
            {"parts": tuple(replace(p, volts_v=250.0) if p.role is Role.TRIAC else p for p in EXAMPLE.parts)},
            Key.PART_VOLTS,
        ),
        (
            {
                "parts": tuple(
                    replace(p, watts_w=0.01) if p.role is Role.SNUBBER_RESISTOR else p for p in EXAMPLE.parts
                )
            },
            Key.BURNS,
        ),
        ({"build": Build(spindle=Spindle.METAL)}, Key.SPINDLE_LIVE),
        ({"build": Build(grub_screw=True)}, Key.SPINDLE_LIVE),
        ({"build": Build(track_mm=0.05, copper_um=18.0)}, Key.TRACK_THIN),
        ({"build": Build(track_mm=0.8, tinned=False)}, Key.TRACK_THIN),
        ({"build": Build(knob_on_solder=True)}, Key.POT_JOINT),
        ({"build": Build(wires_over_edge=True)}, Key.LUG_JOINT),
        ({"build": Build(sense=Sense.DIMMER)}, Key.STARTS_DARK),
        ({"build": Build(sense=Sense.FAN)}, Key.FAN_SENSE),
        (
            {"parts": tuple(replace(p, value=1e6) if p.role is Role.KNOB else p for p in EXAMPLE.parts)},
            Key.JUMP,
        ),
    ],
    ids=lambda v: v.value if isinstance(v, Key) else "",
)
def test_a_finding_comes_with_its_reason_and_not_without(
    fan: MachineFan, change: dict[str, object], key: Key
) -> None:
    board = replace(EXAMPLE, **change)  # type: ignore[arg-type]
    assert key in keys(board, fan) or (key is Key.JUMP and _jumps(board, fan))
    assert key not in keys(EXAMPLE, fan)
    found = next(f for f in findings(board, MAINS, fan, at(board, fan)) if f.key is key)
    assert found.figures
    assert found.rule.why
    assert found.rule.look


def _jumps(board: Board, fan: MachineFan) -> bool:
    turned = turning(fan, network_of(board, values_of(board).likely))
    return turned is not None and turned.jump_rpm > 33


def test_findings_of_a_bank(fan: MachineFan) -> None:
    assert not keys(BANK, fan)

    def with_(role: Role, **change: object) -> Board:
        return replace(BANK, parts=tuple(replace(p, **change) if p.role is role else p for p in BANK.parts))  # type: ignore[arg-type]

    bare = replace(
        BANK,
        parts=tuple(
            missing(p.role, p.number) if p.role in (Role.BLEED, Role.LIMITER) else p for p in BANK.parts
        ),
    )
    assert {Key.NO_BLEED, Key.LIMITER_SMALL} <= set(keys(bare, fan))
    assert "358 V crests" not in str(keys(BANK, fan))
    dc = with_(Role.SECTION, part_class=None, volts_v=250.0, volts_ac=False)
    assert Key.NOT_MAINS_CLASS in keys(dc, fan)
    assert Key.NOT_MAINS_CLASS in keys(with_(Role.SECTION, part_class=PartClass.ELECTROLYTIC), fan)
    assert Key.BLEED_WEAK in keys(with_(Role.BLEED, value=100e6), fan)
    assert Key.BLEED_WEAK in keys(replace(BANK, build=Build(plugged=True)), fan)
    assert Key.BURNS in keys(with_(Role.LIMITER, value=100.0, watts_w=0.25), fan)


def test_thresholds_can_be_set(fan: MachineFan) -> None:
    lax = replace(
        EXAMPLE, limits=((Limit.NARROW, 80.0), (Limit.KNOB_VOLTS, 250.0), (Limit.DEAD_TRAVEL, 60.0))
    )
    assert not {Key.NARROW, Key.POT_END, Key.DEAD_TRAVEL} & set(keys(lax, fan))
    with pytest.raises(InputError, match=r"limits\.narrow"):
        replace(EXAMPLE, limits=((Limit.NARROW, 200.0),))


def test_dangers_come_first(fan: MachineFan) -> None:
    board = replace(EXAMPLE, parts=(*EXAMPLE.parts, missing(Role.FUSE), missing(Role.CHOKE)))
    order = [list(Severity).index(f.rule.severity) for f in findings(board, MAINS, fan, at(board, fan))]
    assert order == sorted(order)
    assert order[0] == 0


def test_without_a_fan_a_lamp_still_tells() -> None:
    found = at(EXAMPLE, None)
    assert all(p.fan is None for p in found)
    assert found[5].lamp.volts_v == pytest.approx(196.6, abs=0.1)
    assert Key.POT_END in keys(EXAMPLE, None)


# ---------------------------------------------------------------- refusals, readings, repair


@pytest.mark.parametrize(
    ("board", "field"),
    [
        (
            replace(
                EXAMPLE, parts=tuple(missing(p.role) if p.role is Role.DIAC else p for p in EXAMPLE.parts)
            ),
            "diac.condition",
        ),
        (
            replace(
                EXAMPLE, parts=tuple(missing(p.role) if p.role is Role.TRIAC else p for p in EXAMPLE.parts)
            ),
            "triac.condition",
        ),
        (replace(EXAMPLE, parts=(*EXAMPLE.parts, part(Role.SECOND_RESISTOR, 15e3))), "second-resistor.value"),
        (
            replace(
                EXAMPLE,
                parts=tuple(replace(p, drop_v=31.0) if p.role is Role.DIAC else p for p in EXAMPLE.parts),
            ),
            "diac.drop_v",
        ),
        (Board(Topology.OPTO, (part(Role.TRIAC, 4.0), missing(Role.OPTO))), "opto.condition"),
        (Board(Topology.SECTIONS, (missing(Role.SECTION),)), "section-1.value"),
        (replace(BANK, positions=((1,), (3,))), "positions"),
        (
            Board(
                Topology.CHAIN, tuple(part(Role.RESISTOR, 100.0, n) for n in (1, 2, 3)), positions=((1, 3),)
            ),
            "positions",
        ),
        (Board(Topology.STEPPED, (part(Role.TRANSFORMER, 25.0),)), "taps"),
        (
            Board(Topology.STEPPED, (part(Role.TRANSFORMER, 25.0),), taps=((120.0, None), (90.0, None))),
            "taps",
        ),
        (
            Board(Topology.STEPPED, (part(Role.TRANSFORMER, 25.0),), taps=((90.0, None), (250.0, None))),
            "taps",
        ),
        (
            Board(Topology.STEPPED, (part(Role.TRANSFORMER, 25.0),), taps=((90.0, 60.0), (150.0, 40.0))),
            "ohms",
        ),
    ],
)
def test_a_board_that_cannot_be_is_refused_where_it_is_wrong(board: Board, field: str) -> None:
    with pytest.raises(InputError) as refused:
        at(board, None)
    assert refused.value.field == field


@pytest.mark.parametrize(
    ("make", "field"),
    [
        (lambda: part(Role.TIMING_CAPACITOR, 1e-14), "timing-capacitor.value"),
        (lambda: part(Role.SECTION, 1.0), "section-1.value"),
        (lambda: part(Role.BLEED, 1e10), "bleed-1.value"),
        (lambda: part(Role.KNOB), "knob.value"),
        (lambda: Board(Topology.CHAIN, (part(Role.DIAC, 32.0),)), "diac"),
        (lambda: replace(EXAMPLE, lamp_w=1.0), "lamp_w"),
        (lambda: replace(EXAMPLE, found=Fault(FaultKind.OPEN, "transformer")), "found.part"),
    ],
)
def test_absurd_parts_are_refused(make: object, field: str) -> None:
    with pytest.raises(InputError) as refused:
        make()  # type: ignore[operator]
    assert refused.value.field == field


@pytest.mark.parametrize(
    ("role", "text", "value", "condition"),
    [
        (Role.TIMING_CAPACITOR, "823K 100V", 82e-9, Condition.READ),
        (Role.TIMING_CAPACITOR, "82 nF", 82e-9, Condition.READ),
        (Role.TIMING_CAPACITOR, "470", 47e-12, Condition.DOUBTFUL),
        (Role.END_RESISTOR, "brown,red,orange,gold", 12e3, Condition.READ),
        (Role.END_RESISTOR, "12k", 12e3, Condition.READ),
        (Role.KNOB, "500k lin", 500e3, Condition.READ),
        (Role.FUSE, "2A", 2.0, Condition.READ),
        (Role.CHOKE, "3m3", 3.3e-3, Condition.READ),
    ],
)
def test_a_part_is_read_as_it_is_printed(role: Role, text: str, value: float, condition: Condition) -> None:
    found = read_part("text", role, text)
    assert found.value == pytest.approx(value, rel=1e-6)
    assert found.condition is condition
    assert (len(found.readings) > 1) or condition is Condition.READ


def test_a_print_says_more_than_the_value() -> None:
    found = read_part("text", Role.X_CAPACITOR, "0.47uF X2 275~")
    assert (found.volts_v, found.volts_ac, found.part_class) == (275.0, True, PartClass.X2_FILM)
    with pytest.raises(InputError) as refused:
        read_part("board.knob.text", Role.KNOB, "hello")
    assert refused.value.field == "board.knob.text"


def test_a_repair_names_its_parts_and_is_proved_under_a_lamp(fan: MachineFan) -> None:
    crack = Fault(FaultKind.CRACKED, TRACK)
    board = replace(EXAMPLE, parts=(*EXAMPLE.parts, missing(Role.FUSE)), found=crack)
    whole = at(board, fan)
    found = findings(board, MAINS, fan, whole)
    mended = repair(board, crack, found, whole, 0.318)
    assert "bridge the crack" in mended.parts[0].what
    assert any(p.part == "fuse" and "0.63 A" in p.what for p in mended.parts)
    assert [p.at for p in mended.lamp] == [0.0, 0.5, 1.0]
    assert not mended.proved
    read = tuple((p.at, 0.5 * (p.low_v + p.high_v)) for p in mended.lamp)
    assert repair(replace(board, lamp=read), crack, found, whole, 0.318).proved
    wrong = repair(replace(board, lamp=((0.0, 2.0), *read[1:])), crack, found, whole, 0.318)
    assert wrong.lamp[0].holds is False
    assert not wrong.proved


@settings(max_examples=12, deadline=None)
@given(st.floats(0.5, 2.0), st.floats(24.0, 40.0))
def test_more_resistance_never_fires_earlier(scale: float, breakover: float) -> None:
    orbits = running_orbits(S16, S16_LOAD, MAINS)
    network = replace(
        network_of(EXAMPLE, values_of(EXAMPLE).likely), capacitance_f=82e-9 * scale, breakover_v=breakover
    )
    angle = orbits.fires_at(networks(network, np.geomspace(5e3, 600e3, 40)))
    speed = orbits.speed_at(angle)
    assert (np.diff(angle[np.isfinite(angle)]) >= -1e-9).all()
    assert (np.diff(speed) <= 1e-6).all()


def test_the_circuit_of_a_board_has_every_part_that_is_there() -> None:
    named = {p.name for p in board_circuit(EXAMPLE, values_of(EXAMPLE).likely).parts}
    assert named == {"S", "T", "RS", "CS", "R1", "P", "C1", "D"}


def test_a_knob_that_goes_out_says_where() -> None:
    long = replace(
        EXAMPLE, parts=tuple(replace(p, value=600e3) if p.role is Role.KNOB else p for p in EXAMPLE.parts)
    )
    assert "comes on at 419 k" in inspect(replace(SWEEP, board=long)).turns
    assert inspect(replace(SWEEP, board=EXAMPLE)).turns == ""


def test_a_board_brings_its_cautions() -> None:
    keys_ = {c.key for c in frame(replace(SWEEP, board=EXAMPLE)).cautions} - {
        c.key for c in frame(SWEEP).cautions
    }
    assert keys_ == {"board-dead", "board-live"}
