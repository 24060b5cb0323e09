"""What motor it is, from what can be seen, heard and counted: each observation weighs for and against every kind.

Weights are natural logarithms of how much likelier an observation is on one kind than on the run of motors; they add
up (naive Bayes), so each one can be shown with what it says.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from fenwit.core.errors import InputError
from fenwit.core.motor.kinds import KINDS, MotorKind

K = MotorKind
_STARTED = (K.SPLIT_PHASE, K.CAPACITOR_START, K.CAPACITOR_START_RUN)
_PSC = (K.PSC, K.PSC_TAPPED)
_EC = (K.EC_CONTROL, K.EC_REPLACEMENT)
_DC_BRUSHLESS = (K.DC_2_WIRE, K.DC_3_WIRE, K.DC_4_WIRE)
_DC = (*_DC_BRUSHLESS, K.DC_BRUSHED)
_CAGE = (K.SHADED_POLE, *_PSC, *_STARTED, K.THREE_PHASE)
_STRONG, _CLEAR, _SOME, _WEAK = 3.0, 2.0, 1.0, 0.4

_COMMON_AMONG_FANS = {
    K.SHADED_POLE: 0.16, K.PSC: 0.26, K.PSC_TAPPED: 0.16, K.SPLIT_PHASE: 0.03, K.CAPACITOR_START: 0.03,
    K.CAPACITOR_START_RUN: 0.02, K.UNIVERSAL: 0.03, K.THREE_PHASE: 0.04, K.EC_CONTROL: 0.06, K.EC_REPLACEMENT: 0.03,
    K.DC_2_WIRE: 0.05, K.DC_3_WIRE: 0.05, K.DC_4_WIRE: 0.05, K.DC_BRUSHED: 0.03,
}  # fmt: skip
"""How often each is met among fans, an estimate from what shops see [-]"""


@dataclass(frozen=True)
class Observation:
    """Something one can look at, listen to or count on a motor."""

    key: str
    text: str
    """What is asked, as something that is so or not so [-]"""
    where: str
    """How to look for it [-]"""
    seen: Mapping[MotorKind, float]
    """Weight for each kind when it is so; kinds left out get ``seen_else`` [-]"""
    seen_else: float
    absent: Mapping[MotorKind, float] = field(default_factory=dict)
    """Weight for each kind when it is not so [-]"""
    weak: str = ""
    """Why it is weak evidence, where it is [-]"""

    def weight(self, kind: MotorKind, so: bool) -> float:
        """How far it speaks for a kind when it is so, or not so."""
        return self.seen.get(kind, self.seen_else) if so else self.absent.get(kind, 0.0)


def _all(kinds: Sequence[MotorKind], weight: float) -> dict[MotorKind, float]:
    return dict.fromkeys(kinds, weight)


OBSERVATIONS: tuple[Observation, ...] = (
    Observation(
        "supply-dc", "fed with DC", "label, or the meter on its supply",
        _all(_DC, _CLEAR) | {K.UNIVERSAL: 0.0}, -4.0, _all(_DC, -4.0),
    ),
    Observation(
        "three-phase-supply", "three line leads, or 3~ on the label", "label and terminal block",
        {K.THREE_PHASE: _STRONG, K.EC_CONTROL: 0.0}, -3.0, {K.THREE_PHASE: -3.0},
    ),
    Observation(
        "run-capacitor", "a run capacitor that is always in circuit", "oval or round can wired straight to a lead",
        _all(_PSC, _CLEAR) | {K.CAPACITOR_START_RUN: _CLEAR}, -3.0,
        _all(_PSC, -2.5) | {K.CAPACITOR_START_RUN: -2.5},
    ),
    Observation(
        "hump-capacitor", "a capacitor in a hump on the housing, with a switch or relay", "on top of the shell",
        {K.CAPACITOR_START: _STRONG, K.CAPACITOR_START_RUN: _STRONG}, -3.0,
        {K.CAPACITOR_START: -1.5, K.CAPACITOR_START_RUN: -1.5},
    ),
    Observation(
        "click", "a click while it runs down", "switch it off and listen at about three quarters of its speed",
        _all(_STARTED, _STRONG), -3.0, _all(_STARTED, -1.5),
    ),
    Observation(
        "copper-rings", "copper rings let into the pole faces", "look past the rotor at the iron",
        {K.SHADED_POLE: _STRONG}, -4.0, {K.SHADED_POLE: -3.0},
    ),
    Observation(
        "brushes", "brushes and a commutator", "brush caps, sparks, carbon dust",
        {K.UNIVERSAL: _STRONG, K.DC_BRUSHED: _STRONG}, -5.0, {K.UNIVERSAL: -3.5, K.DC_BRUSHED: -3.5},
    ),
    Observation(
        "cogging", "it cogs when turned by hand, unpowered", "turn it slowly: does it rest in places?",
        _all((*_EC, *_DC_BRUSHLESS), _SOME + 0.5) | {K.DC_BRUSHED: 0.5}, -2.0,
        _all((*_EC, *_DC_BRUSHLESS), -1.2),
    ),
    Observation(
        "cage-rotor", "a rotor with cast bars and no connection", "smooth iron with slanted lines",
        _all(_CAGE, _SOME), -3.0, _all(_CAGE, -1.5),
    ),
    Observation(
        "electronics", "electronics on or in the motor", "a board under the lid, a heat sink, a fuse",
        _all((*_EC, *_DC_BRUSHLESS), _CLEAR), -3.0, _all((*_EC, *_DC_BRUSHLESS), -1.8),
    ),
    Observation("plug-2", "a two-way plug", "count the pins", {K.DC_2_WIRE: _CLEAR, K.DC_BRUSHED: _SOME}, -0.7),
    Observation("plug-3", "a three-way plug", "count the pins", {K.DC_3_WIRE: _CLEAR}, -1.0),
    Observation("plug-4", "a four-way plug", "count the pins", {K.DC_4_WIRE: _CLEAR, K.EC_CONTROL: 0.3}, -1.0),
    Observation(
        "control-terminals", "terminals marked 0–10 V, PWM, tach, alarm, enable or serial", "terminal strip, label",
        {K.EC_CONTROL: _STRONG, K.DC_4_WIRE: 0.5, K.EC_REPLACEMENT: 0.2}, -3.0, {K.EC_CONTROL: -1.5},
    ),
    Observation(
        "speed-inputs", "one line-voltage lead for each speed beside a constant feed", "label of a replacement motor",
        {K.EC_REPLACEMENT: _STRONG, K.PSC_TAPPED: 0.4}, -2.5, {K.EC_REPLACEMENT: -2.0},
    ),
    Observation(
        "many-leads", "four or more leads from the winding", "count them, earth left out",
        {K.PSC_TAPPED: _CLEAR, K.EC_REPLACEMENT: _SOME, K.SHADED_POLE: -0.8, K.THREE_PHASE: -0.3}, -1.2,
        {K.PSC_TAPPED: -2.5},
    ),
    Observation(
        "two-leads", "only two leads, earth left out", "count them",
        {K.SHADED_POLE: _SOME, K.DC_2_WIRE: 0.5, K.DC_BRUSHED: 0.7, K.UNIVERSAL: 0.7, K.PSC: -0.5, K.SPLIT_PHASE: -0.3},
        -1.2, {K.SHADED_POLE: -0.8},
    ),
    Observation(
        "equal-thirds", "three leads with equal ohms between each two", "ohmmeter, power off",
        {K.THREE_PHASE: _CLEAR, K.PSC: -0.2}, -2.0, {K.THREE_PHASE: -2.0},
    ),
    Observation(
        "tapped-ohms", "ohms that form one chain of a long, a middle and short sections", "the lead sheet",
        {K.PSC_TAPPED: _CLEAR}, -1.5, {K.PSC_TAPPED: -1.0},
    ),
    Observation(
        "main-and-start-ohms", "a winding of low ohms and another of clearly more", "ohmmeter, power off",
        _all((*_PSC, *_STARTED), _SOME), -1.5,
    ),
    Observation(
        "impedance-protected", "“impedance protected” on the label", "label",
        {K.SHADED_POLE: _SOME + 0.5, K.PSC: 0.0, K.DC_2_WIRE: 0.2}, -1.2,
    ),
    Observation(
        "runs-on-both", "the label allows AC and DC", "label", {K.UNIVERSAL: _STRONG, K.EC_CONTROL: -0.5}, -3.0,
        {K.UNIVERSAL: -0.3},
    ),
    Observation(
        "fast", "turns faster than 3600 rpm on 50 or 60 Hz", "tachometer or label",
        {K.UNIVERSAL: _CLEAR, K.EC_CONTROL: 0.5} | _all(_DC, 0.3), -5.0, {K.UNIVERSAL: -1.0},
    ),
    Observation(
        "slow-sweep", "a ceiling sweep fan, 150 to 400 rpm", "look up",
        {K.PSC: _CLEAR, K.SHADED_POLE: -0.5, K.EC_CONTROL: 0.3, K.DC_BRUSHED: -1.0, K.PSC_TAPPED: 0.0}, -2.0,
    ),
    Observation(
        "brown-lead", "two brown leads, or one brown to a capacitor", "lead colours",
        _all(_PSC, _WEAK), -0.2, weak="colours vary from maker to maker",
    ),
    Observation(
        "black-blue-red", "black, blue and red leads beside a common one", "lead colours",
        {K.PSC_TAPPED: _WEAK, K.SHADED_POLE: 0.1}, -0.2, weak="colours vary from maker to maker",
    ),
)  # fmt: skip
_BY_KEY = {o.key: o for o in OBSERVATIONS}


@dataclass(frozen=True)
class Duty:
    """What the motor drives, where that alone forbids lowering its speed."""

    key: str
    text: str
    refer: str


DUTIES: tuple[Duty, ...] = (
    Duty("compressor", "a hermetic compressor", "the appliance maker's service"),
    Duty("pump", "a pump", "the pump maker's data, or a drive made for it"),
    Duty("medical", "a medical device", "its maker; nobody else may change it"),
    Duty("smoke-extract", "smoke extract", "the fire-safety engineer and local code"),
    Duty("explosion", "air that may explode", "a certified person for hazardous areas"),
    Duty(
        "combustion",
        "combustion air or flue gas",
        "the appliance maker's data, local code and a licensed person",
    ),
)
"""Speed reduction is refused outright [-]"""


@dataclass(frozen=True)
class Word:
    """What one observation says of one kind."""

    observation: str
    text: str
    so: bool
    weight: float
    weak: str


@dataclass(frozen=True)
class KindRank:
    """How likely one kind is."""

    kind: MotorKind
    likelihood: float
    speaks_for: tuple[Word, ...]
    speaks_against: tuple[Word, ...]


@dataclass(frozen=True)
class Separating:
    """The observation that would best tell the first two kinds apart."""

    key: str
    text: str
    where: str
    if_so: MotorKind
    if_not: MotorKind


@dataclass(frozen=True)
class KindEvidence:
    """Kinds ranked by what was observed."""

    ranks: tuple[KindRank, ...]
    separating: Separating | None
    observed: int


def weigh(observed: Mapping[str, bool]) -> KindEvidence:
    """Rank the kinds of motor by what was observed.

    Parameters
    ----------
    observed : mapping
        Observation key and whether it is so; what was not looked at is left out [-]

    Returns
    -------
    KindEvidence
        All kinds, likeliest first, each with what speaks for and against it [-]

    Raises
    ------
    InputError
        An observation nobody knows.
    """
    for key in observed:
        if key not in _BY_KEY:
            raise InputError("observation", key, ", ".join(_BY_KEY), "no such observation")
    score = {k: math.log(p) for k, p in _COMMON_AMONG_FANS.items()}
    for key, so in observed.items():
        for kind in score:
            score[kind] += _BY_KEY[key].weight(kind, so)
    top = max(score.values())
    total = sum(math.exp(s - top) for s in score.values())
    ranks = []
    for kind in sorted(score, key=lambda k: -score[k]):
        words = [
            Word(key, _BY_KEY[key].text, so, _BY_KEY[key].weight(kind, so), _BY_KEY[key].weak)
            for key, so in observed.items()
        ]
        ranks.append(
            KindRank(
                kind,
                math.exp(score[kind] - top) / total,
                tuple(sorted((w for w in words if w.weight > 0), key=lambda w: -w.weight)),
                tuple(sorted((w for w in words if w.weight < 0), key=lambda w: w.weight)),
            )
        )
    return KindEvidence(tuple(ranks), _separating(ranks[0].kind, ranks[1], observed), len(observed))


_SETTLED = 0.01


def _separating(first: MotorKind, second: KindRank, observed: Mapping[str, bool]) -> Separating | None:
    """The unobserved one whose two outcomes move the first two kinds furthest apart."""
    if second.likelihood < _SETTLED:
        return None
    best: tuple[float, Observation] | None = None
    for o in OBSERVATIONS:
        if o.key in observed or o.weak:
            continue
        if_so = o.weight(first, True) - o.weight(second.kind, True)
        if_not = o.weight(first, False) - o.weight(second.kind, False)
        # Only what speaks for one when seen and for the other when not can decide; half of that counts for little.
        apart = abs(if_so) + abs(if_not) if if_so * if_not < 0 else 0.3 * abs(if_so)
        if best is None or apart > best[0]:
            best = (apart, o)
    if best is None or best[0] < 0.3:
        return None
    o = best[1]
    forward = o.weight(first, True) >= o.weight(second.kind, True)
    return Separating(o.key, o.text, o.where, *((first, second.kind) if forward else (second.kind, first)))


def speaks(key: str) -> tuple[tuple[MotorKind, ...], tuple[MotorKind, ...]]:
    """Which kinds an observation speaks for and against when it is so, the strongest first.

    Parameters
    ----------
    key : str
        Observation [-]

    Returns
    -------
    tuple of tuple
        Kinds it speaks for, and kinds it speaks clearly against [-]

    Raises
    ------
    InputError
        An observation nobody knows.
    """
    if key not in _BY_KEY:
        raise InputError("observation", key, ", ".join(_BY_KEY), "no such observation")
    o = _BY_KEY[key]
    weights = sorted(((o.weight(k, True), k) for k in KINDS), key=lambda w: -w[0])
    return (
        tuple(k for w, k in weights if w > 0.25),
        tuple(k for w, k in reversed(weights) if w <= -1.5),
    )
