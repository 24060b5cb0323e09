"""What explains what was seen of a knob board, and where to look next: Bayes with editable shares, dead looks first.

Shares of faults and chances of words and looks are trade judgement, not counts (docs/inspect.md).
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from fenwit.core.errors import InputError
from fenwit.core.job.board import TRACK, Fault, FaultKind, Look, Role, Symptom


class Cause(StrEnum):
    """What may be the matter with a knob board and its fan."""

    TRIAC_SHORT = "triac-short"
    FAN = "fan"
    TRACK = "track"
    JOINT = "joint"
    KNOB_OPEN = "pot-open"
    SWITCH = "switch"
    FUSE = "fuse"
    C_LOW = "c-low"
    C_OPEN = "c-open"
    TRIAC_OPEN = "triac-open"
    TRIAC_HALF = "triac-half"
    NONE = "none"
    R_HIGH = "r-high"
    DIAC_OPEN = "diac-open"
    SNUBBER_SHORT = "snub-short"
    KNOB_SHORT = "pot-short"
    C_SHORT = "c-short"
    DIAC_SHORT = "diac-short"
    SNUBBER_OPEN = "snub-open"


@dataclass(frozen=True)
class CauseFacts:
    """Words, share, and the fault it is on a board."""

    words: str
    weight: float
    fault: Fault | None


_O, _S, _D = FaultKind.OPEN, FaultKind.SHORT, FaultKind.DRIFTED
CAUSES: Mapping[Cause, CauseFacts] = {
    Cause.TRIAC_SHORT: CauseFacts("triac shorted", 4, Fault(_S, Role.TRIAC.value)),
    Cause.FAN: CauseFacts("the fan itself, not the control", 4, None),
    Cause.TRACK: CauseFacts("a printed track cracked", 3, Fault(FaultKind.CRACKED, TRACK)),
    Cause.JOINT: CauseFacts("a dry joint", 3, Fault(FaultKind.WORN, TRACK)),
    Cause.KNOB_OPEN: CauseFacts("knob's track open", 3, Fault(FaultKind.CRACKED, Role.KNOB.value)),
    Cause.SWITCH: CauseFacts("switch worn", 3, Fault(FaultKind.WORN, Role.SWITCH.value)),
    Cause.FUSE: CauseFacts("fuse gone", 2.5, Fault(_O, Role.FUSE.value)),
    Cause.C_LOW: CauseFacts(
        "timing capacitor has lost capacitance", 2, Fault(_D, Role.TIMING_CAPACITOR.value, 0.5)
    ),
    Cause.C_OPEN: CauseFacts("timing capacitor open", 1.5, Fault(_O, Role.TIMING_CAPACITOR.value)),
    Cause.TRIAC_OPEN: CauseFacts("triac or gate open", 1.5, Fault(_O, Role.TRIAC.value)),
    Cause.TRIAC_HALF: CauseFacts(
        "triac fires in one half only", 1.5, Fault(FaultKind.HALF_WAVE, Role.TRIAC.value)
    ),
    Cause.NONE: CauseFacts("nothing: it is built so", 1, None),
    Cause.R_HIGH: CauseFacts("a resistor or the knob gone high", 1, Fault(_D, Role.KNOB.value, 2.0)),
    Cause.DIAC_OPEN: CauseFacts("diac open", 1, Fault(_O, Role.DIAC.value)),
    Cause.SNUBBER_SHORT: CauseFacts("snubber capacitor shorted", 1, Fault(_S, Role.SNUBBER_CAPACITOR.value)),
    Cause.KNOB_SHORT: CauseFacts("knob shorted", 0.7, Fault(_S, Role.KNOB.value)),
    Cause.C_SHORT: CauseFacts("timing capacitor shorted", 0.7, Fault(_S, Role.TIMING_CAPACITOR.value)),
    Cause.DIAC_SHORT: CauseFacts("diac shorted", 0.7, Fault(_S, Role.DIAC.value)),
    Cause.SNUBBER_OPEN: CauseFacts("snubber open", 0.7, Fault(_O, Role.SNUBBER_CAPACITOR.value)),
}
_ELSE = 0.01
_SILENT: Mapping[Cause, float] = {
    Cause.FUSE: 0.98, Cause.C_SHORT: 0.95, Cause.DIAC_OPEN: 0.95, Cause.TRIAC_OPEN: 0.95, Cause.TRACK: 0.75,
    Cause.KNOB_OPEN: 0.7, Cause.SWITCH: 0.7, Cause.JOINT: 0.5, Cause.FAN: 0.25, Cause.R_HIGH: 0.15,
}  # fmt: skip
WORDS: Mapping[Symptom, Mapping[Cause, float]] = {
    Symptom.NOTHING: _SILENT,
    Symptom.CLICKS: {**_SILENT, Cause.SWITCH: 0.3},
    Symptom.FULL: {
        Cause.TRIAC_SHORT: 0.95, Cause.C_OPEN: 0.85, Cause.DIAC_SHORT: 0.8, Cause.KNOB_SHORT: 0.7,
        Cause.SNUBBER_SHORT: 0.35, Cause.NONE: 0.02, Cause.TRACK: 0.02,
    },
    Symptom.HALF_WAVE: {
        Cause.TRIAC_HALF: 0.9, Cause.FAN: 0.15, Cause.DIAC_SHORT: 0.05, Cause.JOINT: 0.03, Cause.TRIAC_SHORT: 0.02,
    },
    Symptom.JUMPS: {
        Cause.R_HIGH: 0.85, Cause.KNOB_OPEN: 0.2, Cause.TRACK: 0.12, Cause.JOINT: 0.1, Cause.SNUBBER_OPEN: 0.1,
        Cause.FAN: 0.08, Cause.C_LOW: 0.02, Cause.NONE: 0.02,
    },
    Symptom.TOO_FAST: {Cause.C_LOW: 0.7, Cause.KNOB_SHORT: 0.2, Cause.SNUBBER_OPEN: 0.05, Cause.NONE: 0.02},
    Symptom.HOT: {
        Cause.TRIAC_HALF: 0.4, Cause.SNUBBER_SHORT: 0.4, Cause.FAN: 0.25, Cause.JOINT: 0.25, Cause.SWITCH: 0.2,
        Cause.TRACK: 0.1, Cause.TRIAC_SHORT: 0.05, Cause.NONE: 0.03,
    },
    Symptom.SMELLS: {
        Cause.SNUBBER_SHORT: 0.6, Cause.FAN: 0.2, Cause.KNOB_OPEN: 0.2, Cause.JOINT: 0.15, Cause.TRACK: 0.1,
        Cause.KNOB_SHORT: 0.1, Cause.C_SHORT: 0.1, Cause.TRIAC_HALF: 0.1, Cause.TRIAC_SHORT: 0.08,
    },
    Symptom.FLICKERS: {
        Cause.JOINT: 0.8, Cause.SWITCH: 0.5, Cause.TRACK: 0.4, Cause.KNOB_OPEN: 0.35, Cause.SNUBBER_OPEN: 0.25,
        Cause.C_LOW: 0.1, Cause.FAN: 0.05, Cause.NONE: 0.05, Cause.R_HIGH: 0.05,
    },
}  # fmt: skip
"""Chance of a word where a cause is at work; 0.01 where it is not named"""
SYMPTOM_WORDS: Mapping[Symptom, str] = {
    Symptom.NOTHING: "does nothing",
    Symptom.CLICKS: "clicks only",
    Symptom.FULL: "full only",
    Symptom.HALF_WAVE: "hums and crawls, as on half a wave",
    Symptom.JUMPS: "jumps on late",
    Symptom.TOO_FAST: "always too fast",
    Symptom.HOT: "gets hot",
    Symptom.SMELLS: "smells",
    Symptom.FLICKERS: "flickers or jumps about",
}


@dataclass(frozen=True)
class LookFacts:
    """A look: words, what it costs, and the chance of finding it bad."""

    words: str
    how: str
    effort: float
    hazard: float
    bad: Mapping[Cause, float]
    otherwise: float
    live: bool = False


LOOKS: Mapping[Look, LookFacts] = {
    Look.FUSE: LookFacts(
        "fuse on the ohmmeter", "dead, out of its holder: below an ohm is good", 1, 0.3,
        {Cause.FUSE: 0.99, Cause.TRIAC_SHORT: 0.15, Cause.SNUBBER_SHORT: 0.1}, 0.02,
    ),
    Look.SWITCH: LookFacts(
        "switch on the ohmmeter, worked ten times", "dead: below half an ohm every time is good", 1.5, 0.3,
        {Cause.SWITCH: 0.9}, 0.03,
    ),
    Look.GLASS: LookFacts(
        "board and joints under a glass", "dead: a ring in the solder, a hairline, browning; bend it gently", 1.5, 0.2,
        {Cause.TRACK: 0.75, Cause.JOINT: 0.7, Cause.SNUBBER_SHORT: 0.6, Cause.TRIAC_SHORT: 0.1, Cause.KNOB_OPEN: 0.1},
        0.05,
    ),
    Look.KNOB: LookFacts(
        "knob swept on the ohmmeter", "dead, one lug free: it must go smoothly from end to end", 2, 0.3,
        {Cause.KNOB_OPEN: 0.95, Cause.KNOB_SHORT: 0.9, Cause.R_HIGH: 0.85, Cause.TRACK: 0.6, Cause.JOINT: 0.15}, 0.03,
    ),
    Look.TRIAC: LookFacts(
        "triac, MT1 to MT2, on the ohmmeter", "dead: megohms both ways is good, ohms is a short", 2.5, 0.3,
        {Cause.TRIAC_SHORT: 0.98, Cause.SNUBBER_SHORT: 0.9, Cause.TRIAC_HALF: 0.15}, 0.02,
    ),
    Look.DIAC: LookFacts(
        "diac both ways on the ohmmeter", "dead: open both ways is how a good one reads; only a short shows", 2.5, 0.3,
        {Cause.DIAC_SHORT: 0.95}, 0.01,
    ),
    Look.TIMING: LookFacts(
        "timing capacitor on the meter", "dead, one end lifted: within its tolerance is good", 4, 0.7,
        {Cause.C_OPEN: 0.97, Cause.C_SHORT: 0.97, Cause.C_LOW: 0.9}, 0.03,
    ),
    Look.SNUBBER: LookFacts(
        "snubber capacitor on the meter", "dead, one end lifted: within its tolerance is good", 4, 0.7,
        {Cause.SNUBBER_SHORT: 0.97, Cause.SNUBBER_OPEN: 0.95}, 0.03,
    ),
    Look.MOTOR: LookFacts(
        "motor's ohms", "dead, at its leads: both windings as the others of its kind", 3, 0.4, {Cause.FAN: 0.45}, 0.02,
    ),
    Look.LAMP: LookFacts(
        "a lamp in the fan's place", "live: bad is where the lamp does not follow the knob", 4, 3,
        {Cause.FAN: 0.02, Cause.NONE: 0.02}, 0.97, live=True,
    ),
}  # fmt: skip
WORTH_BIT = 0.05
"""Below it a dead look is not worth its while; then the live one is asked for"""


@dataclass(frozen=True)
class Ranked:
    """A cause with its share."""

    cause: Cause
    share: float


@dataclass(frozen=True)
class NextLook:
    """A look with what it is worth."""

    look: Look
    bits: float
    rate: float
    """Bits over effort and hazard [-]"""


@dataclass(frozen=True)
class Explanation:
    """All causes, heaviest first, and looks that were not taken yet, best first."""

    causes: tuple[Ranked, ...]
    looks: tuple[NextLook, ...]

    @property
    def next_look(self) -> NextLook | None:
        """Where to look next."""
        return self.looks[0] if self.looks else None


def explain(
    seen: Sequence[Symptom], looks: Sequence[tuple[Look, bool]], absent: Collection[Cause] = ()
) -> Explanation:
    """What explains words and looks, by Bayes with every word and look taken by itself.

    Parameters
    ----------
    seen : sequence of Symptom
        What was noticed [-]
    looks : sequence of (Look, bool)
        What was looked at, and whether it was bad [-]
    absent : collection of Cause
        What cannot be, since this board has no such part [-]

    Returns
    -------
    Explanation
        Shares, and the next look: most bits for effort and hazard, among dead ones while one is worth 0.05 bit [-]

    Raises
    ------
    InputError
        A look that is told twice.
    """
    taken = [look for look, _ in looks]
    for look in taken:
        if taken.count(look) > 1:
            raise InputError("looks", look.value, "each look once", "told twice: keep the later one")
    causes = [c for c in CAUSES if c not in absent]
    weight = np.array([CAUSES[c].weight for c in causes], dtype=np.float64)
    for word in dict.fromkeys(seen):
        weight = weight * np.array([WORDS[word].get(c, _ELSE) for c in causes])
    for look, bad in looks:
        chance = _bad(look, causes)
        weight = weight * (chance if bad else 1 - chance)
    share = weight / weight.sum()
    order = np.argsort(-share, kind="stable")
    open_ = [_worth(look, causes, share) for look in Look if look not in taken]
    dead = [n for n in open_ if not LOOKS[n.look].live]
    live = [n for n in open_ if LOOKS[n.look].live]
    dead.sort(key=lambda n: -n.rate)
    looked = (*live, *dead) if dead and dead[0].bits < WORTH_BIT else (*dead, *live)
    return Explanation(tuple(Ranked(causes[i], float(share[i])) for i in order), looked)


def _bad(look: Look, causes: Sequence[Cause]) -> np.ndarray:
    facts = LOOKS[look]
    return np.array([facts.bad.get(c, facts.otherwise) for c in causes])


def _worth(look: Look, causes: Sequence[Cause], share: np.ndarray) -> NextLook:
    chance = _bad(look, causes)
    before = _entropy(share)
    bits = before
    for odds in (chance, 1 - chance):
        joint = share * odds
        total = float(joint.sum())
        if total > 0:
            bits -= total * _entropy(joint / total)
    facts = LOOKS[look]
    return NextLook(look, float(bits), float(bits) / (facts.effort + facts.hazard))


def _entropy(share: np.ndarray) -> float:
    some = share[share > 0]
    return float(-(some * np.log2(some)).sum())
