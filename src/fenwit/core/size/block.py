"""A block of capacitors with its leads: what each section is worth, what a weak one does, and what may stand in for it.

A block joins three things: the motor's live lead (``motor_lead``), the auxiliary winding (``auxiliary_lead``, with the
run section between the two), and the lead or leads that the switch feeds at each step. Every step is a circuit; its
series capacitance and the run capacitance are solved from the sections between the leads.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from itertools import permutations

import numpy as np
from numpy.typing import NDArray

from fenwit.core import quantity as q
from fenwit.core.calibrate.bands import StepBands, step_bands
from fenwit.core.calibrate.fit import Belief
from fenwit.core.errors import InputError, check_range
from fenwit.core.memory import remembered
from fenwit.core.motor.machine import TwoWindingMotor
from fenwit.core.operating import Source, scan, solve, tabulate, voltage_limit_v
from fenwit.core.size.classes import CLASSES, PartClass

FloatArray = NDArray[np.float64]

MOST_SECTIONS, MOST_LEADS, MOST_STEPS = 6, 7, 8
OPEN_SHARE = 0.02
"""Below this share of its rating a section counts as open [-]"""
LOSS_LIMIT = 0.01
"""tan δ above which a film section is bad, whatever its microfarads [-]"""
_OPEN_F, _SHORT_F = 1e-12, 1e-3
_LEAST_F, _MOST_F = 2e-9, 9e-4
"""What stands for open and short where a motor is solved [F]"""
_RUN_WARN, _RUN_BAR = 0.10, 0.25
_LOST = "is not joined to anything"


class SectionVerdict(StrEnum):
    """What a measured section is."""

    UNREAD = "unread"
    GOOD = "good"
    WATCH = "watch"
    OUT = "out"
    OPEN = "open"
    SHORT = "short"
    LOSSY = "lossy"


@dataclass(frozen=True)
class Section:
    """One capacitor of a block, between two leads."""

    name: str
    lead_a: str
    lead_b: str
    rated_f: float
    part_class: PartClass = PartClass.MOTOR_RUN
    tolerance: float | None = None
    """Half width as printed; the class's usual one when None [-]"""
    measured_f: float | None = None
    """0 where the meter shows nothing [F]"""
    shorted: bool = False
    esr_ohm: float | None = None

    def __post_init__(self) -> None:
        check_range(f"{self.name} rated", self.rated_f, 1e-9, 1e-3, "F")
        if self.measured_f is not None:
            check_range(f"{self.name} measured", self.measured_f, 0.0, 3 * self.rated_f, "F")
        if self.esr_ohm is not None:
            check_range(f"{self.name} ESR", self.esr_ohm, 0.0, 1e5, "Ω")
        if self.tolerance is not None:
            check_range(f"{self.name} tolerance", self.tolerance, 0.001, 0.5, "")
        if not self.lead_a or not self.lead_b:
            raise InputError(f"{self.name} leads", "", "two lead names", "a section lies between two leads")
        if self.lead_a == self.lead_b:
            raise InputError(
                f"{self.name} leads", self.lead_b, "two different leads", "both ends on one lead"
            )

    @property
    def usual_tolerance(self) -> float:
        """−10/+10 % for film, −6/+6 % for motor-run, unless it is printed [-]"""
        if self.tolerance is not None:
            return self.tolerance
        return 0.06 if self.part_class is PartClass.MOTOR_RUN else CLASSES[self.part_class].tolerance

    @property
    def now_f(self) -> float:
        """What it is now, as far as it was read [F]"""
        if self.shorted:
            return _SHORT_F
        return self.rated_f if self.measured_f is None else max(self.measured_f, _OPEN_F)

    def loss_factor(self, frequency_hz: float) -> float | None:
        """tan δ = ω C ESR at mains frequency; None where the ESR was not read [-]"""
        if self.esr_ohm is None:
            return None
        return 2 * np.pi * frequency_hz * (self.measured_f or self.rated_f) * self.esr_ohm


@dataclass(frozen=True)
class BlockStep:
    """One step: which leads the supply reaches, and which leads the switch joins besides."""

    name: str
    line: tuple[str, ...]
    """Empty: nothing stands in series, the motor lead is fed directly [-]"""
    joined: tuple[tuple[str, str], ...] = ()


@dataclass(frozen=True)
class Block:
    """Sections, what their leads go to, and the steps."""

    sections: tuple[Section, ...]
    motor_lead: str
    auxiliary_lead: str = ""
    """Empty: the run capacitor is not in this block [-]"""
    steps: tuple[BlockStep, ...] = (BlockStep("full", ()),)

    def __post_init__(self) -> None:
        if not 1 <= len(self.sections) <= MOST_SECTIONS:
            raise InputError(
                "sections", len(self.sections), f"1 to {MOST_SECTIONS} sections", "a block has sections"
            )
        if not 1 <= len(self.steps) <= MOST_STEPS:
            raise InputError("steps", len(self.steps), f"1 to {MOST_STEPS} steps", "a fan has steps")
        names = [s.name for s in self.sections]
        if len(set(names)) != len(names):
            raise InputError("sections", names, "each name once", "two sections have one name")
        leads = self.leads
        if len(leads) > MOST_LEADS:
            raise InputError("leads", len(leads), f"up to {MOST_LEADS} leads", "too many leads")
        for lead in [self.motor_lead, *([self.auxiliary_lead] if self.auxiliary_lead else [])]:
            if lead not in leads:
                raise InputError("leads", lead, ", ".join(leads), "no section has this lead")
        if self.auxiliary_lead == self.motor_lead:
            raise InputError(
                "auxiliary_lead", self.auxiliary_lead, "another lead", "motor and auxiliary on one lead"
            )
        for step in self.steps:
            for lead in [*step.line, *(end for pair in step.joined for end in pair)]:
                if lead not in leads:
                    raise InputError(f"step {step.name}", lead, ", ".join(leads), "no section has this lead")

    @property
    def leads(self) -> tuple[str, ...]:
        """All leads, in the order in which sections name them."""
        return tuple(dict.fromkeys(lead for s in self.sections for lead in (s.lead_a, s.lead_b)))

    @property
    def run_section(self) -> str:
        """The section between motor and auxiliary lead, which is the run capacitor; empty where none is in the block."""
        ends = {self.motor_lead, self.auxiliary_lead}
        return next((s.name for s in self.sections if {s.lead_a, s.lead_b} == ends), "")

    def at_rating(self) -> Block:
        """The block as it was when new."""
        return replace(
            self, sections=tuple(replace(s, measured_f=None, shorted=False) for s in self.sections)
        )

    def with_section(self, name: str, farads: float) -> Block:
        """The block with one section at another value and the others at their rating."""
        return replace(
            self,
            sections=tuple(
                replace(s, measured_f=min(farads, 3 * s.rated_f), shorted=farads >= _SHORT_F) if s.name == name
                else replace(s, measured_f=None, shorted=False)
                for s in self.sections
            ),
        )  # fmt: skip


@dataclass(frozen=True)
class Values:
    """What a block makes: the run capacitor, and what stands in series at each step."""

    run_f: float | None
    """None: not in this block [F]"""
    series_f: tuple[float | None, ...]
    """Infinity where the step is direct, None where nothing connects it [F]"""


def values_of(block: Block) -> Values:
    """Solve run and series capacitance of a block as it is now.

    Parameters
    ----------
    block : Block
        The block [-]

    Returns
    -------
    Values
        Run and series capacitance of every step [F]

    Raises
    ------
    InputError
        The run section and a step meet elsewhere than at the motor's lead: then neither is what it seems.
    """
    net = _Net([(s.lead_a, s.lead_b, s.now_f) for s in block.sections])
    run = None
    if block.auxiliary_lead:
        for step in block.steps:
            if net.meets(step, block.auxiliary_lead, block.motor_lead):
                raise InputError(
                    "auxiliary_lead",
                    block.auxiliary_lead,
                    "a lead that shares only the motor's lead with the steps",
                    f"at step {step.name} the run section and the series sections hang together elsewhere than at the "
                    "motor's lead",
                )
        run = net.between(frozenset((block.auxiliary_lead,)), block.motor_lead, ())
        if run is None:
            raise InputError(
                "auxiliary_lead",
                block.auxiliary_lead,
                "a lead with sections to the motor's lead",
                "no section leads there",
            )
    series = tuple(
        float("inf") if not step.line or block.motor_lead in step.line
        else net.between(frozenset(step.line), block.motor_lead, step.joined)
        for step in block.steps
    )  # fmt: skip
    return Values(run, series)


class _Net:
    """Capacitors between leads."""

    def __init__(self, sections: Sequence[tuple[str, str, float]]) -> None:
        self.names = list(dict.fromkeys(n for a, b, _ in sections for n in (a, b)))
        self.at = {n: i for i, n in enumerate(self.names)}
        self.near = np.zeros((len(self.names), len(self.names)))
        for a, b, farads in sections:
            i, j = self.at[a], self.at[b]
            self.near[i, j] += farads
            self.near[j, i] += farads
        self._found: dict[tuple[frozenset[str], str, tuple[tuple[str, str], ...]], float | None] = {}

    def between(self, feed: frozenset[str], motor: str, joined: tuple[tuple[str, str], ...]) -> float | None:
        """Capacitance between the fed leads and the motor's, other leads left free; None where nothing connects them."""
        key = (feed, motor, joined)
        if key not in self._found:
            self._found[key] = self._solve(*key)
        return self._found[key]

    def _solve(self, feed: frozenset[str], motor: str, joined: tuple[tuple[str, str], ...]) -> float | None:
        group = {n: n for n in self.names}

        def merge(a: str, b: str) -> None:
            keep, gone = group[a], group[b]
            for n in self.names:
                if group[n] == gone:
                    group[n] = keep

        first = next(iter(sorted(feed)))
        for lead in feed:
            merge(first, lead)
        for a, b in joined:
            merge(a, b)
        if group[first] == group[motor]:
            return float("inf")
        heads = sorted(set(group.values()), key=self.names.index)
        place = {h: i for i, h in enumerate(heads)}
        matrix = np.zeros((len(heads), len(heads)))
        for a in self.names:
            for b in self.names:
                i, j = place[group[a]], place[group[b]]
                if i != j and self.near[self.at[a], self.at[b]]:
                    matrix[i, j] -= self.near[self.at[a], self.at[b]]
                    matrix[i, i] += self.near[self.at[a], self.at[b]]
        source, sink = place[group[first]], place[group[motor]]
        free = [i for i in range(len(heads)) if i not in (source, sink) and matrix[i, i] > 0]
        direct = -matrix[source, sink]
        if free:
            inner = matrix[np.ix_(free, free)]
            # Free leads that hang on neither end float; a trace keeps them from being singular.
            inner = inner + 1e-9 * np.diag(np.diag(inner))
            direct += matrix[source, free] @ np.linalg.solve(inner, matrix[free, sink])
        return float(direct) if direct > 1e-13 else None

    def meets(self, step: BlockStep, auxiliary: str, motor: str) -> bool:
        """Whether the auxiliary lead reaches a fed lead without passing the motor's."""
        if not step.line or motor in step.line:
            return auxiliary in step.line
        reached, waiting = {auxiliary}, [auxiliary]
        ties = {frozenset(pair) for pair in step.joined}
        while waiting:
            here = waiting.pop()
            for other in self.names:
                tied = self.near[self.at[here], self.at[other]] > 0 or frozenset((here, other)) in ties
                if tied and other != motor and other not in reached:
                    reached.add(other)
                    waiting.append(other)
        return any(lead in reached for lead in step.line)


@dataclass(frozen=True)
class SectionCheck:
    """The verdict on one section."""

    name: str
    verdict: SectionVerdict
    share: float | None
    """Measured over rated [-]"""
    low: float
    high: float
    """What it may have, over rated [-]"""
    loss_factor: float | None
    words: str


def check_section(section: Section, frequency_hz: float) -> SectionCheck:
    """Say what a measured section is worth: out of tolerance, half way there, lossy, open or short.

    Parameters
    ----------
    section : Section
        Rated and measured [-]
    frequency_hz : float
        Mains frequency, for tan δ [Hz]

    Returns
    -------
    SectionCheck
        Verdict with words [-]

    Raises
    ------
    InputError
        An unreal frequency.
    """
    check_range("frequency_hz", frequency_hz, 10.0, 500.0, "Hz")
    width = section.usual_tolerance
    low, high = 1 - width, 1 + width
    loss = section.loss_factor(frequency_hz)

    def found(verdict: SectionVerdict, share: float | None, words: str) -> SectionCheck:
        return SectionCheck(section.name, verdict, share, low, high, loss, words)

    if section.shorted:
        return found(
            SectionVerdict.SHORT, None, "short: replace it; it may have taken the switch or the winding along"
        )
    if section.measured_f is None:
        return found(SectionVerdict.UNREAD, None, "not read yet")
    share = section.measured_f / section.rated_f
    if share < OPEN_SHARE:
        return found(SectionVerdict.OPEN, share, "open: replace it")
    if loss is not None and loss > LOSS_LIMIT:
        return found(
            SectionVerdict.LOSSY,
            share,
            f"loses too much: tan δ {loss:.2g}, at most {LOSS_LIMIT:g}; it heats itself",
        )
    if not low <= share <= high:
        side = "below" if share < 1 else "above"
        return found(
            SectionVerdict.OUT,
            share,
            f"{q.signed(100 * (share - 1), 0)} %, {side} its ±{100 * width:.0f} %: replace it",
        )
    if abs(share - 1) > width / 2:
        return found(
            SectionVerdict.WATCH,
            share,
            f"{q.signed(100 * (share - 1), 1)} %, past half of its ±{100 * width:.0f} %: read it again soon",
        )
    return found(SectionVerdict.GOOD, share, f"{q.signed(100 * (share - 1), 1)} % of ±{100 * width:.0f} %")


@dataclass(frozen=True)
class AtStep:
    """What becomes of one step."""

    rpm: float | None
    """None where it does not run or is barred [rpm]"""
    note: str = ""
    barred: bool = False
    """The motor would get too many volts: it must not be tried"""

    @property
    def words(self) -> str:
        """The note as it is shown."""
        return f"do not: {self.note}" if self.barred else self.note


@dataclass(frozen=True)
class StepSpeed:
    """Speed of one step before and after."""

    name: str
    rated: AtStep
    """With every section at its rating"""
    now: AtStep
    now_bands: StepBands | None = None


def _sources(values: Values, supply: Source) -> list[Source | None]:
    omega = 2 * np.pi * supply.frequency_hz
    return [
        None if c is None
        else supply if np.isinf(c)
        else Source(supply.voltage_v, supply.frequency_hz, supply.impedance_ohm + 1 / (1j * omega * c))
        for c in values.series_f
    ]  # fmt: skip


def _with_run(belief: Belief, values: Values) -> TwoWindingMotor:
    motor = belief.motor
    if not isinstance(motor, TwoWindingMotor):
        raise InputError(
            "motor_kind",
            belief.datum.kind.value,
            "a motor with a run capacitor",
            "this motor has no run capacitor",
        )
    return (
        motor
        if values.run_f is None
        else motor.with_values(run_capacitance_f=float(np.clip(values.run_f, _LEAST_F, _MOST_F)))
    )


def speeds_of(belief: Belief, supply: Source, values: Values) -> list[AtStep]:
    """Speed at each step, or None with the reason.

    Parameters
    ----------
    belief : Belief
        The fan [-]
    supply : Source
        Supply [-]
    values : Values
        What the block makes [F]

    Returns
    -------
    list of AtStep
        One for each step [-]

    Raises
    ------
    InputError
        A motor without a run capacitor.
    """
    motor = _with_run(belief, values)
    sources = _sources(values, supply)
    solved = iter(solve(motor, belief.load, [s for s in sources if s is not None]))
    limit = voltage_limit_v(belief.datum, supply.frequency_hz)
    found: list[AtStep] = []
    for source in sources:
        if source is None:
            found.append(AtStep(None, _LOST))
            continue
        solution = next(solved)
        if any(p.stable and p.motor_voltage_v > limit for p in solution.points):
            found.append(AtStep(None, f"motor volts past {limit:.0f} V", barred=True))
        elif solution.running is None:
            found.append(AtStep(None, "does not start"))
        else:
            found.append(AtStep(solution.running.speed_rpm))
    return found


def consequences(belief: Belief, supply: Source, block: Block) -> tuple[StepSpeed, ...]:
    """Speed of every step with the sections as they are, against their rating.

    Parameters
    ----------
    belief : Belief
        The fan [-]
    supply : Source
        Supply [-]
    block : Block
        The block with what was measured [-]

    Returns
    -------
    tuple of StepSpeed
        One for each step [-]

    Raises
    ------
    InputError
        A block that cannot be solved, or a motor without a run capacitor.
    """
    rated, now = values_of(block.at_rating()), values_of(block)
    before, after = speeds_of(belief, supply, rated), speeds_of(belief, supply, now)
    shifted = _shifted(belief, now)
    bands: list[StepBands | None] = []
    for source in _sources(now, supply):
        bands.append(None if source is None else step_bands(shifted, supply, [source.impedance_ohm])[0])
    return tuple(
        StepSpeed(step.name, b, a, band if a.rpm is not None else None)
        for step, b, a, band in zip(block.steps, before, after, bands, strict=True)
    )


def _shifted(belief: Belief, values: Values) -> Belief:
    """The belief with every draw's run capacitor moved along."""
    motor = _with_run(belief, values)
    assert isinstance(belief.motor, TwoWindingMotor)
    ratio = float(motor.run_capacitance_f) / float(belief.motor.run_capacitance_f)
    if abs(ratio - 1) < 1e-9:
        return belief
    theta = belief.theta.copy()
    run = belief.model.names.index("run_capacitance")
    theta[run] = np.clip(theta[run] + np.log(ratio), np.log(_LEAST_F), np.log(_MOST_F))
    draws = belief.model.table(belief.theta, theta)
    return replace(belief, motor=motor, draws=draws, theta=theta)


class Complaint(StrEnum):
    """What is wrong with the fan."""

    ALL_SLOW = "all-slow"
    ONE_SLOW = "one-slow"
    NO_START = "no-start"


@dataclass(frozen=True)
class Suspect:
    """One thing that may be behind a complaint."""

    name: str
    likelihood: float
    """Of the ways to explain the complaint with what was read as it is [-]"""
    words: str
    section: bool
    read: bool = False
    """It was read so: a fact, whatever else is wrong"""
    explains: bool = False
    """What was read makes the complaint by itself"""


_SEVERITIES = (0.90, 0.80, 0.65, 0.45, 0.25, 0.0)


def suspects(
    belief: Belief, supply: Source, block: Block, complaint: Complaint, step: int = 0
) -> tuple[Suspect, ...]:
    """Rank what would explain a complaint: first what was read out of its tolerance, which is so in any case, then each
    unread section weak, low mains or a stiff bearing, solved with what was read as it is.

    Parameters
    ----------
    belief : Belief
        The fan [-]
    supply : Source
        Supply [-]
    block : Block
        The block [-]
    complaint : Complaint
        What is wrong [-]
    step : int
        Index of the step that is wrong, where it is one [-]

    Returns
    -------
    tuple of Suspect
        What was read, worst first; then likeliest first [-]

    Raises
    ------
    InputError
        No such step, a block that cannot be solved, or a motor without a run capacitor.
    """
    check_range("step", step, 0, len(block.steps) - 1, "")
    rated, now = values_of(block.at_rating()), values_of(block)
    bad = sorted(
        (s for s in block.sections if check_section(s, supply.frequency_hz).verdict in _BROKEN),
        key=lambda s: -abs(np.log(max(s.now_f / s.rated_f, 1e-3))),
    )
    alone = [values_of(block.at_rating().with_section(s.name, max(s.now_f, _OPEN_F))) for s in bad]
    cases: list[tuple[str, str, bool, Values, float, float]] = []
    for s in block.sections:
        if s.measured_f is None and not s.shorted:
            for share in _SEVERITIES:
                values = values_of(block.with_section(s.name, max(share * s.rated_f, _OPEN_F)))
                cases.append((s.name, _sunk(share), True, values, 1.0, 1.0))
    for share in (0.95, 0.90, 0.85):
        cases.append(("mains", f"{100 * share:.0f} % of the stated volts", False, now, share, 1.0))
    for factor in (2.0, 4.0, 8.0):
        cases.append(("bearing", f"{factor:g} times the usual friction", False, now, 1.0, factor))
    table = _speed_table(
        belief,
        supply,
        [rated, now, *alone, *(c[3] for c in cases)],
        [1.0, 1.0, *(1.0 for _ in alone), *(c[4] for c in cases)],
        [1.0, 1.0, *(1.0 for _ in alone), *(c[5] for c in cases)],
    )
    usual, as_read = table[:, 0], table[:, 1]
    first = 2 + len(alone)
    enough = _match(usual, as_read, complaint, step) if bad else 0.0
    best: dict[str, tuple[float, str, bool]] = {}
    for i, (name, words, section, *_) in enumerate(cases):
        score = _match(usual, table[:, first + i], complaint, step)
        # Mains and bearings are slower to fail than capacitors in these fans.
        score *= 1.0 if section else 0.35
        if name not in best or score > best[name][0]:
            best[name] = (score, f"{words}: {_changes(block, usual, table[:, first + i])}", section)
    total = enough + sum(b[0] for b in best.values())
    facts = [
        Suspect(
            s.name,
            enough / total if total > 0 else 0.0,
            f"{_as_read(s)}: {_changes(block, usual, table[:, 2 + k])}",
            True,
            True,
            _match(usual, table[:, 2 + k], complaint, step) > _EXPLAINS,
        )
        for k, s in enumerate(bad)
    ]
    if total <= 0:
        return tuple(facts)
    found = [Suspect(n, score / total, words, section) for n, (score, words, section) in best.items()]
    return (*facts, *sorted(found, key=lambda s: -s.likelihood))


_BROKEN = (SectionVerdict.OUT, SectionVerdict.OPEN, SectionVerdict.SHORT, SectionVerdict.LOSSY)
_EXPLAINS = 0.5
"""From this match on a pattern of speeds is what was complained of [-]"""


def _as_read(section: Section) -> str:
    if section.shorted:
        return "short as read"
    share = section.now_f / section.rated_f
    return "open as read" if share < OPEN_SHARE else f"at {100 * share:.0f} % as read"


def _sunk(share: float) -> str:
    return "were it open" if share < OPEN_SHARE else f"were it at {100 * share:.0f} %"


def _speed_table(
    belief: Belief, supply: Source, cases: Sequence[Values], volts: Sequence[float], friction: Sequence[float]
) -> FloatArray:
    """Speed of every step in every case, 0 where it does not run: shape (steps, cases)."""
    motor = _with_run(belief, Values(None, ()))
    own = float(motor.run_capacitance_f)
    run = np.array([own if c.run_f is None else np.clip(c.run_f, _LEAST_F, _MOST_F) for c in cases])[:, None]
    shape = np.ones_like(run)
    share = np.clip(float(belief.load.friction_share) * np.array(friction)[:, None], 0.0, 0.9)
    # More friction adds to the load; the air's part stays.
    torque = float(belief.load.full_speed_torque_nm)
    air = torque * (1 - float(belief.load.friction_share))
    grown = air / (1 - share) * shape
    load = replace(belief.load, full_speed_torque_nm=grown, friction_share=share)
    table = tabulate(motor.with_values(run_capacitance_f=run), load, supply.frequency_hz)
    omega = 2 * np.pi * supply.frequency_hz
    c = np.array([[s if s is not None else _OPEN_F for s in case.series_f] for case in cases]).T
    # Written with a real reactance, so that an infinite capacitor is nothing in the line.
    z = np.asarray(supply.impedance_ohm - 1j * (1 / (omega * c)), dtype=np.complex128)
    found = scan(table, supply.voltage_v * np.broadcast_to(np.array(volts), z.shape), z)
    return np.where(found.runs, found.speed_rpm, 0.0)


def _match(usual: FloatArray, now: FloatArray, complaint: Complaint, step: int) -> float:
    """How well a pattern of speeds answers to a complaint, 0 to 1."""
    change = now / np.where(usual > 0, usual, 1.0) - 1

    def slow(x: float) -> float:
        return float(1 / (1 + np.exp(-(-x - 0.06) / 0.015))) * (0.3 if x < -0.99 else 1.0)

    def same(x: float) -> float:
        return float(np.exp(-0.5 * (x / 0.03) ** 2))

    if complaint is Complaint.ALL_SLOW:
        return float(np.prod([slow(float(x)) for x in change]))
    if complaint is Complaint.NO_START:
        return float(np.mean(now <= 0))
    parts = [slow(float(x)) if i == step else same(float(x)) for i, x in enumerate(change)]
    return float(np.prod(parts))


def _changes(block: Block, usual: FloatArray, now: FloatArray) -> str:
    words = []
    for step, before, after in zip(block.steps, usual, now, strict=True):
        if before <= 0:
            continue
        words.append(
            f"{step.name} {'stands' if after <= 0 else f'{q.signed(100 * (after / before - 1), 0)} %'}"
        )
    return ", ".join(words)


@dataclass(frozen=True)
class Connection:
    """One way to connect a replacement block."""

    leads: tuple[tuple[str, str | None], ...]
    """Lead of the old block and lead of the new one that takes its place [-]"""
    run_f: float | None
    speeds: tuple[StepSpeed, ...]
    """Rated: the old block when new; now: with the replacement [-]"""
    worst_miss: float
    """Largest difference to the old block when new, of full speed [-]"""
    do_not: str
    """Why it must not be connected so; empty when it may [-]"""
    remark: str
    moves: tuple[str, ...]


def connections(
    belief: Belief, supply: Source, block: Block, spare: Sequence[Section], most: int = 8
) -> tuple[Connection, ...]:
    """Every assignment of a spare block's leads to the needed ones, those that come closest first.

    Assignments that make the same circuit are shown once. What would give the motor too many volts, leave a step
    dead or strain the auxiliary winding is kept at the end with its "do not".

    Parameters
    ----------
    belief : Belief
        The fan [-]
    supply : Source
        Supply [-]
    block : Block
        The block to be replaced; its ratings are what is needed [-]
    spare : sequence of Section
        Sections of the spare block between its own leads [-]
    most : int
        How many are told [-]

    Returns
    -------
    tuple of Connection
        Best first [-]

    Raises
    ------
    InputError
        A spare without sections, with too many leads, or a motor without a run capacitor.
    """
    if not 1 <= len(spare) <= MOST_SECTIONS:
        raise InputError(
            "spare", len(spare), f"1 to {MOST_SECTIONS} sections", "describe the sections of the spare block"
        )
    net = _Net([(s.lead_a, s.lead_b, s.now_f) for s in spare])
    if len(net.names) > MOST_LEADS:
        raise InputError("spare", len(net.names), f"up to {MOST_LEADS} leads", "too many leads")
    needed = list(dict.fromkeys(
        [block.motor_lead, *([block.auxiliary_lead] if block.auxiliary_lead else []),
         *(lead for step in block.steps for lead in (*step.line, *(e for p in step.joined for e in p)))]
    ))  # fmt: skip
    wanted = values_of(block.at_rating())
    before = speeds_of(belief, supply, wanted)
    full = float(belief.load.full_speed_rpm)
    circuits: dict[tuple[float | None, tuple[float | None, ...]], tuple[str | None, ...]] = {}
    short = max(0, len(needed) - len(net.names))
    pool: list[str | None] = [*net.names, *([None] * short)]
    for way in permutations(pool, len(needed)):
        taken = dict(zip(needed, way, strict=True))
        found = _mapped(block, net, taken)
        if found is not None:
            key = (_rounded(found.run_f), tuple(_rounded(c) for c in found.series_f))
            circuits.setdefault(key, way)
    rows = [
        _judge(belief, supply, block, net, wanted, before, full, needed, way) for way in circuits.values()
    ]
    rows.sort(key=lambda m: (bool(m.do_not), round(m.worst_miss, 3), bool(m.remark)))
    return tuple(rows[:most])


def _rounded(farads: float | None) -> float | None:
    return None if farads is None else float(f"{farads:.4g}")


def _mapped(block: Block, net: _Net, taken: Mapping[str, str | None]) -> Values | None:
    """What the spare makes when connected so; None where motor or auxiliary lead hang on nothing."""
    motor = taken[block.motor_lead]
    auxiliary = taken[block.auxiliary_lead] if block.auxiliary_lead else ""
    if motor is None or auxiliary is None:
        return None
    run = None
    if auxiliary:
        run = net.between(frozenset((auxiliary,)), motor, ())
        if run is None:
            return None
    series: list[float | None] = []
    for step in block.steps:
        if not step.line or block.motor_lead in step.line:
            series.append(float("inf"))
            continue
        line = [taken[lead] for lead in step.line]
        joined = [(taken[a], taken[b]) for a, b in step.joined]
        there = [lead for lead in line if lead is not None]
        if not there:
            series.append(None)
            continue
        ties = tuple((a, b) for a, b in joined if a is not None and b is not None)
        placed = BlockStep(step.name, tuple(there), ties)
        if auxiliary and net.meets(placed, auxiliary, motor):
            return None
        series.append(net.between(frozenset(there), motor, ties))
    return Values(run, tuple(series))


def _judge(
    belief: Belief, supply: Source, block: Block, net: _Net, wanted: Values,
    before: Sequence[AtStep], full: float, needed: Sequence[str], way: Sequence[str | None],
) -> Connection:  # fmt: skip
    taken = dict(zip(needed, way, strict=True))
    values = _mapped(block, net, taken)
    assert values is not None
    after = speeds_of(belief, supply, values)
    speeds = tuple(StepSpeed(step.name, b, a) for step, b, a in zip(block.steps, before, after, strict=True))
    miss = max((abs((s.now.rpm or 0.0) - (s.rated.rpm or 0.0)) / full for s in speeds), default=0.0)
    do_not, remark = "", ""
    for s in speeds:
        if s.now.barred:
            do_not = do_not or f"step {s.name}: {s.now.note}"
        elif s.rated.rpm is not None and s.now.rpm is None:
            do_not = do_not or f"step {s.name} {s.now.note}"
    if values.run_f is not None and wanted.run_f is not None:
        off = values.run_f / wanted.run_f - 1
        text = f"run section {q.show(values.run_f, q.CAPACITANCE)} for {q.show(wanted.run_f, q.CAPACITANCE)}"
        if abs(off) > _RUN_BAR:
            do_not = (
                do_not
                or f"{text}: the auxiliary winding would get {'too much' if off > 0 else 'too little'} current"
            )
        elif abs(off) > _RUN_WARN:
            remark = f"{text}: feel the motor after an hour"
    roles = {block.motor_lead: "motor", block.auxiliary_lead: "auxiliary winding"}
    for step in block.steps:
        for lead in step.line:
            roles.setdefault(lead, f"switch, step {step.name}")
    moves = tuple(
        f"wire on {old} ({roles.get(old, 'switch')}) "
        + ("stays without a lead" if new is None else f"goes to {new}")
        for old, new in taken.items()
    )
    unused = [n for n in net.names if n not in way]
    if unused:
        moves = (
            *moves,
            f"{'lead' if len(unused) == 1 else 'leads'} {', '.join(unused)} of the spare: cap each one singly",
        )
    return Connection(tuple(taken.items()), values.run_f, speeds, miss, do_not, remark, moves)


@remembered
def touched_by(block: Block) -> tuple[tuple[str, tuple[str, ...]], ...]:
    """Which steps each section touches, by changing it and looking at what moves.

    Parameters
    ----------
    block : Block
        The block [-]

    Returns
    -------
    tuple of tuple
        Section and the names of the steps; the run section touches all [-]
    """
    rated = values_of(block.at_rating())
    found = []
    for s in block.sections:
        now = values_of(block.with_section(s.name, 0.9 * s.rated_f))
        run = rated.run_f is not None and now.run_f is not None and abs(now.run_f / rated.run_f - 1) > 1e-6
        steps = tuple(
            step.name
            for step, a, b in zip(block.steps, rated.series_f, now.series_f, strict=True)
            if run or (a is not None and b is not None and np.isfinite(a) and abs(b / a - 1) > 1e-6)
        )
        found.append((s.name, steps))
    return tuple(found)
