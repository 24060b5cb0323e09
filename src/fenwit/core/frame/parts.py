"""The bank as shown: every part with its stress, the rules of the profile, how far steps stray, the candidates."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from functools import lru_cache

from fenwit.core import quantity as q
from fenwit.core.calibrate.fit import Datum
from fenwit.core.circuit import PartKind
from fenwit.core.frame.fan import Fan, Regulated, regulated
from fenwit.core.frame.proofs import step_words
from fenwit.core.frame.shown import (
    Banks,
    Candidate,
    CandidatePart,
    PartRow,
    RuleShown,
    Shown,
    SpreadShown,
    StressShown,
    WireRow,
)
from fenwit.core.frame.state import JobState
from fenwit.core.frame.steps import Step
from fenwit.core.operating import StepVerdict
from fenwit.core.size.bank import (
    BankCandidate,
    BankDesign,
    Capacitor,
    Choice,
    choices,
    search_banks,
    shelf_refusal,
)
from fenwit.core.size.classes import CLASSES, PartClass
from fenwit.core.size.profile import Profile, RuleKey, RuleResult, StepFacts, judge_profile
from fenwit.core.size.rating import MAINS, UNITS, Burden, Moment, RatedPart, Stress
from fenwit.core.size.switch import FED, HUB, MOTOR, NAMES, SWITCH_VOLTS
from fenwit.core.size.tolerance import Cause, Spread, spreads


def part_rows(regulator: Regulated, steps: Sequence[Step]) -> tuple[PartRow, ...]:
    """Every part of the bank, capacitors first."""
    design = regulator.rated.design
    rows = []
    for part in regulator.rated.parts:
        if part.name == "W":
            row = _row(part, "wire", "copper 0.75 mm², 300/500 V", "", "6 A")
        elif part.name == "S":
            row = _row(part, "switch", _switch_words(design), "", f"{design.switch.rated_voltage_v:g} V")
        elif part.name == "F":
            facts = CLASSES[PartClass.FUSE]
            row = _row(
                part,
                "fuse",
                f"{facts.name}, {q.show(part.value, q.CURRENT)}",
                q.bench(part.value, q.CURRENT),
                f"{facts.rated_v:g} V",
                f"at least {q.show(part.limit or 0, q.CURRENT)}: 1.6 × the worst running amps",
            )
        elif part.name in NAMES:
            row = _capacitor_row(part, design, steps)
        else:
            row = _resistor_row(part)
        rows.append(row)
    # Capacitors first, then what hangs on each of them, then what all share.
    order = {"D": 1, "R": 2, "F": 3, "S": 4, "W": 5}
    return tuple(sorted(rows, key=lambda r: 0 if r.capacitor else order[r.name[0]]))


def _row(
    part: RatedPart, role: str, text: str, bench: str, rating: str, limit: str = "", note: str = ""
) -> PartRow:
    worst = part.worst
    return PartRow(
        name=part.name,
        role=role,
        text=text,
        bench=bench,
        rating_text=rating,
        limit_text=limit,
        stresses=tuple(_stress(s) for s in part.stresses),
        worst=part.stresses.index(worst) if worst else 0,
        by_hand=part.by_hand,
        refusal=part.refusal,
        note=note,
        capacitor=False,
        nominal_bench="",
        measured_bench="",
        part_class=part.part_class.value if part.part_class else "",
        shelf_id=None,
    )


def _capacitor_row(part: RatedPart, design: BankDesign, steps: Sequence[Step]) -> PartRow:
    capacitor = design.capacitors[design.names.index(part.name)]
    barred = [s.number for s in steps if s.verdict is StepVerdict.BARRED]
    unused = part.stresses[0].value == 0
    note = f"not for {step_words(barred)}: barred" if barred else "not used" if unused else ""
    row = _row(
        part,
        f"capacitor {part.name}",
        capacitor_words(capacitor),
        q.bench(capacitor.value_f, q.CAPACITANCE),
        f"{capacitor.rated_v:g} V AC",
        note=note,
    )
    return PartRow(
        **{
            **vars(row),
            "capacitor": True,
            "nominal_bench": q.bench(capacitor.nominal_f, q.CAPACITANCE),
            "measured_bench": ""
            if capacitor.measured_f is None
            else q.bench(capacitor.measured_f, q.CAPACITANCE, 4),
            "shelf_id": capacitor.shelf_id,
        }
    )


def capacitor_words(capacitor: Capacitor) -> str:
    """What to ask for at the counter."""
    name = CLASSES[capacitor.part_class].name
    text = f"{name}, {q.show(capacitor.nominal_f, q.CAPACITANCE)}"
    if capacitor.measured_f is not None:
        return f"{text}, measured {q.show(capacitor.measured_f, q.CAPACITANCE, 4)}"
    return f"{text} ±{100 * capacitor.tolerance:.0f} %"


def _resistor_row(part: RatedPart) -> PartRow:
    assert part.part_class is not None
    bleed = part.name.startswith("D")
    value = q.show(part.value, q.RESISTANCE)
    each = " + ".join([value] * part.pieces)
    limit = (
        f"at most {q.show(part.limit or 0, q.RESISTANCE, 4)} in all"
        if bleed
        else f"at least {q.show(part.limit or 0, q.RESISTANCE)}"
    )
    return _row(
        part,
        f"{'bleed' if bleed else 'limiter'} of {part.name[1:]}",
        f"{CLASSES[part.part_class].name}, {each}, {part.rating:g} W",
        q.bench(part.value, q.RESISTANCE),
        f"{part.rating:g} W",
        limit,
    )


def _switch_words(design: BankDesign) -> str:
    s = design.switch
    contacts = "make before break" if s.make_before_break else "break before make"
    return (
        f"{s.positions} positions and Off, {'one pole' if s.poles == 1 else 'two poles'}, {contacts}, "
        f"{s.rated_current_a:g} A"
    )


def _stress(stress: Stress) -> StressShown:
    unit, scale = UNITS[stress.burden], 1.0
    if stress.burden is Burden.AMPS and stress.rating < 1.0:
        unit, scale = "mA", 1000.0
    value, rating = q.plain(stress.value * scale, 3), q.plain(stress.rating * scale, 3)
    return StressShown(
        burden=str(stress.burden.value),
        share=stress.share,
        text=f"{value} of {rating} {unit}",
        where=stress_place(stress),
        holds=stress.holds,
    )


def stress_place(stress: Stress) -> str:
    """Worst position, moment and mains in words."""
    if not stress.position:
        return "not used"
    mains = "" if stress.mains == 1.0 else f", mains {100 * (stress.mains - 1):+.0f} %".replace("-", "−")
    if stress.position == "any":
        return f"any step{mains}"
    if stress.moment is Moment.SWITCHING:
        return f"switching {_passage_words(stress.position)}{mains}"
    step = "Off" if stress.position == "Off" else f"step {stress.position}"
    return f"{step}, {stress.moment.value}{mains}" if step != "Off" else f"Off{mains}"


def _passage_words(name: str) -> str:
    return name if " to " in name else f"to step {name}"


def wire_rows(regulator: Regulated) -> tuple[WireRow, ...]:
    """Lug by lug: what is wired to the switch, the fuse and the motor."""
    design = regulator.rated.design
    wiring = design.wiring
    names = {FED: "fuse F", MOTOR: "motor", HUB: "joint of the capacitors"}
    for i, name in enumerate(design.names):
        if wiring.far[i] not in (HUB, MOTOR):
            names[wiring.far[i]] = f"limiter R{name}"
    rows = [WireRow("L", "supply to fuse F")]
    second = wiring.second_pole
    rows.append(WireRow("pole 1", f"common from {names[FED]}"))
    if second:
        rows.append(WireRow("pole 2", f"common from {names[second]}"))
    rows += [
        WireRow(part.name, f"to {names.get(part.net_b, part.net_b)}")
        for part in regulator.rated.circuit.parts
        if part.kind is PartKind.CONTACT
    ]
    for i, name in enumerate(design.names):
        start = "joint" if wiring.far[i] == HUB else f"lugs of {wiring.far[i].upper()}"
        end = names[wiring.near[i]] if wiring.near[i] in names else f"far end of {wiring.near[i].upper()}"
        rows.append(
            WireRow(name, f"{start}, limiter R{name}, capacitor {name} with bleed D{name} across it, {end}")
        )
    return tuple(rows)


# ---------------------------------------------------------------- acceptance


def rule_rows(
    state: JobState, fan: Fan, steps: Sequence[Step], regulator: Regulated
) -> tuple[RuleShown, ...]:
    """Every rule of the job's profile, met or missed and by how much."""
    low, high = MAINS.index(0.9), MAINS.index(1.1)
    facts = []
    for k, step in enumerate(steps):
        point = step.shown_point
        if point is None or step.solution is None or k >= len(regulator.rated.nominal):
            continue
        on_high = regulator.rated.solutions[high][k].running
        on_low = regulator.rated.solutions[low][k]
        facts.append(
            StepFacts(
                point.speed_rpm,
                step.bands.speed_rpm if step.bands else None,
                step.solution.start_margin,
                point.motor_voltage_v,
                on_high.motor_voltage_v if on_high else None,
                on_low.starts and on_low.running is not None,
                on_low.start_margin,
            )
        )
    results = judge_profile(state.profile, facts, fan.full.speed_rpm, fan.belief.motor.rated_voltage_v)
    return tuple(rule_shown(r, state.profile) for r in results)


_RULES = {
    RuleKey.LOWEST: "lowest step, of full speed",
    RuleKey.START_MARGIN: "torque at rest at the lowest step, over break-away",
    RuleKey.EVENNESS: "least even difference, off the ideal one",
    RuleKey.BANDS_APART: "room between the bands of neighbours",
    RuleKey.MOTOR_VOLTS: "motor volts",
    RuleKey.MOTOR_VOLTS_HIGH: "motor volts on high mains",
    RuleKey.STARTS_LOW: "torque at rest on low mains, over break-away",
}


def rule_shown(result: RuleResult, profile: Profile) -> RuleShown:
    """A rule in words."""
    key = result.key

    def say(value: float) -> str:
        if key in (RuleKey.LOWEST, RuleKey.EVENNESS):
            return f"{100 * value:.0f} %"
        if key in (RuleKey.START_MARGIN, RuleKey.STARTS_LOW):
            return "no friction" if value == float("inf") else f"{q.plain(min(value, 99), 3)} ×"
        if key is RuleKey.BANDS_APART:
            return f"{q.plain(value, 2)} rpm".replace("-", "−")
        return f"{q.plain(value, 3)} V"

    highest = key in (RuleKey.LOWEST, RuleKey.EVENNESS, RuleKey.MOTOR_VOLTS, RuleKey.MOTOR_VOLTS_HIGH)
    text = _RULES[key]
    if key in (RuleKey.MOTOR_VOLTS_HIGH, RuleKey.STARTS_LOW):
        text += f" ({'+' if key is RuleKey.MOTOR_VOLTS_HIGH else '−'}{100 * profile.mains:.0f} %)"
    return RuleShown(
        key=key,
        text=text,
        met=result.met,
        value_text=say(result.value),
        limit_text=f"{'at most' if highest else 'above' if key is RuleKey.BANDS_APART else 'at least'} "
        f"{say(result.limit)}",
        by_text=f"{'met' if result.met else 'missed'} by {say(result.by)}"
        if result.by != float("inf")
        else "met",
        step=result.step,
    )


# ---------------------------------------------------------------- tolerance


@lru_cache(maxsize=128)
def _spreads(datum: Datum, fan: Fan, regulator: Regulated, mains: float) -> tuple[Spread, ...]:
    return spreads(
        fan.belief,
        fan.supply,
        [complex(p.impedance_ohm) for p in regulator.rated.positions],
        regulator.sampled_ohm,
        mains,
    )


_CAUSE_WORDS = {
    Cause.PARTS: "the parts: measure them and type what they read",
    Cause.MAINS: "the mains",
    Cause.MOTOR: "what is not known of the motor: one more reading narrows it",
}


def spread_rows(state: JobState, datum: Datum, fan: Fan, steps: Sequence[Step]) -> tuple[SpreadShown, ...]:
    """How far each usable step may stray, and what lets it."""
    assert state.bank is not None
    regulator = regulated(datum, fan.supply, state.bank)
    rows = []
    for step, spread in zip(steps, _spreads(datum, fan, regulator, state.profile.mains), strict=False):
        point = step.shown_point
        if point is None:
            continue
        band = spread.together
        text = q.with_uncertainty(point.speed_rpm, band.half_width, "")
        alone = {cause: f"± {q.plain(b.half_width, 2)} rpm" for cause, b in spread.alone.items()}
        words = f"widest by {_CAUSE_WORDS[spread.widest]}"
        if spread.stops > 0.005:
            words += f"; in {max(1, round(100 * spread.stops))} of 100 cases it does not start"
        if spread.exceeds > 0.005:
            words += f"; in {max(1, round(100 * spread.exceeds))} of 100 the motor gets too many volts"
        rows.append(
            SpreadShown(
                step.number,
                step.label,
                Shown(point.speed_rpm, text, "rpm", band.low, band.high),
                alone[Cause.PARTS],
                alone[Cause.MAINS],
                alone[Cause.MOTOR],
                spread.widest,
                words,
            )
        )
    return tuple(rows)


# ---------------------------------------------------------------- candidates


def banks_of(state: JobState, fan: Fan, shelf: Sequence[Choice]) -> Banks:
    """The ten best banks for the wanted speeds, shelf first."""
    left_out = tuple(
        f"{q.show(c.capacitor.nominal_f, q.CAPACITANCE)}: {reason}"
        for c in shelf
        if (reason := shelf_refusal(c.capacitor, state.supply_voltage_v))
    )
    if not state.wanted_rpm:
        return Banks((), "First say in Aim which speeds are wanted.", left_out)
    most = state.sizing.switch.positions
    if len(state.wanted_rpm) > most:
        return Banks(
            (),
            f"{len(state.wanted_rpm)} speeds are wanted and the switch has {most} positions: "
            "take a larger switch, or take speeds away in Aim.",
            left_out,
        )
    pool = choices(state.sizing, shelf, state.supply_voltage_v)
    found = search_banks(
        fan.curve, fan.direct_speed_rpm, state.wanted_rpm, fan.full.speed_rpm, state.sizing, pool
    )
    note = "" if found else "No bank of these parts makes steps that start and stay within motor volts."
    switch = state.sizing.switch
    if not found and switch.rated_voltage_v < SWITCH_VOLTS[-1]:
        better = replace(state.sizing, switch=replace(switch, rated_voltage_v=SWITCH_VOLTS[-1]))
        if search_banks(
            fan.curve, fan.direct_speed_rpm, state.wanted_rpm, fan.full.speed_rpm, better, pool, best=1
        ):
            note = (
                f"Every bank that gives these speeds puts more than {switch.rated_voltage_v:g} V across an open "
                f"contact, resonance included: take a switch rated {SWITCH_VOLTS[-1]:g} V."
            )
    return Banks(tuple(_candidate(state, c) for c in found), note, left_out)


def _candidate(state: JobState, c: BankCandidate) -> Candidate:
    design = state.bank
    chosen = (
        design is not None
        and len(design.capacitors) == len(c.capacitors)
        and all(
            abs(p.value_f / o.value_f - 1) < 1e-6
            for p, o in zip(design.capacitors, c.capacitors, strict=True)
        )
        and design.patterns == c.patterns
    )
    values = [q.show(p.value_f, q.CAPACITANCE).removesuffix(" µF") for p in c.capacitors]
    at_hand = len(c.capacitors) - c.to_buy
    return Candidate(
        text=f"{' + '.join(values)} µF",
        capacitors=tuple(
            CandidatePart(
                q.bench(p.nominal_f, q.CAPACITANCE),
                "" if p.measured_f is None else q.bench(p.measured_f, q.CAPACITANCE, 4),
                p.part_class.value,
                p.rated_v,
                p.tolerance,
                p.shelf_id,
            )
            for p in c.capacitors
        ),
        patterns=c.patterns,
        speed_rpm=c.speed_rpm,
        miss_text=miss_text(c.worst_miss),
        evenness_text=f"uneven by {100 * c.unevenness:.0f} %" if len(c.speed_rpm) > 2 else "",
        shelf_text="all on the shelf"
        if c.to_buy == 0
        else f"{at_hand} on the shelf"
        if at_hand
        else "to buy",
        chosen=chosen,
    )


def miss_text(share: float) -> str:
    """A worst miss as it is shown, never finer than a per cent."""
    return f"±{max(1, round(100 * share))} %"
