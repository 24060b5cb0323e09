"""Capacitor blocks: what they make, what a weak section does, who is to blame, what may stand in."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fenwit.core.calibrate.fit import Belief, Measured, believe
from fenwit.core.errors import InputError
from fenwit.core.size.block import (
    Block,
    BlockStep,
    Complaint,
    Section,
    SectionVerdict,
    check_section,
    connections,
    consequences,
    suspects,
    touched_by,
    values_of,
)
from tests.core.test_calibrate import READ
from tests.known.machines import MAINS

U = 1e-6
RUN = Section("run", "m", "x", 2.5 * U)
SHARED = Section("shared", "m", "s", 5.6 * U)
LOW = Section("low", "s", "1", 2.7 * U)
MEDIUM = Section("medium", "s", "2", 5.0 * U)
STEPS = (BlockStep("low", ("1",)), BlockStep("medium", ("2",)), BlockStep("high", ("s",)))
IN_SERIES = Block((RUN, SHARED, LOW, MEDIUM), "m", "x", STEPS)
PARALLEL = Block(
    (RUN, Section("A", "m", "1", 1.8 * U), Section("B", "m", "2", 2.7 * U)),
    "m",
    "x",
    (BlockStep("1", ("1",)), BlockStep("2", ("2",)), BlockStep("3", ("1", "2")), BlockStep("4", ("m",))),
)


@pytest.fixture(scope="module")
def belief() -> Belief:
    return believe(replace(READ, capacitor_voltage_v=Measured(415, 0.01)))


def test_series_and_parallel_by_hand() -> None:
    """1/(1/5.6 + 1/2.7) = 1.8217 µF; 1/(1/5.6 + 1/5) = 2.6415 µF; 1.8 ∥ 2.7 = 4.5 µF."""
    found = values_of(IN_SERIES)
    assert found.run_f == pytest.approx(2.5 * U)
    assert found.series_f == pytest.approx((1.82169 * U, 2.64151 * U, 5.6 * U), rel=1e-4)
    assert values_of(PARALLEL).series_f == pytest.approx((1.8 * U, 2.7 * U, 4.5 * U, float("inf")))


def test_a_lead_that_hangs_on_nothing_and_joined_leads() -> None:
    loose = Block((RUN, Section("A", "p", "q", 2 * U), LOW), "m", "x", (BlockStep("1", ("p",)),))
    assert values_of(loose).series_f == (None,)
    tied = replace(loose, steps=(BlockStep("1", ("p",), (("q", "m"),)),))
    assert values_of(tied).series_f == pytest.approx((2 * U,))


@settings(max_examples=40, deadline=None)
@given(a=st.floats(0.5, 20), b=st.floats(0.5, 20), c=st.floats(0.5, 20))
def test_a_bridge_of_sections_lies_between_its_bounds(a: float, b: float, c: float) -> None:
    """Series is below its smallest, parallel the sum; any section more never makes a step smaller."""
    block = Block(
        (Section("a", "m", "s", a * U), Section("b", "s", "1", b * U), Section("c", "m", "1", c * U)),
        "m",
        steps=(BlockStep("1", ("1",)),),
    )
    (found,) = values_of(block).series_f
    assert found == pytest.approx((c + 1 / (1 / a + 1 / b)) * U)
    assert c * U < (found or 0) < (c + min(a, b)) * U


def test_run_and_step_must_not_meet_elsewhere() -> None:
    tangled = Block((RUN, Section("A", "x", "1", 2 * U)), "m", "x", (BlockStep("1", ("1",)),))
    with pytest.raises(InputError):
        values_of(tangled)


@pytest.mark.parametrize(
    ("section", "verdict"),
    [
        (replace(RUN, measured_f=2.48 * U), SectionVerdict.GOOD),
        (replace(RUN, measured_f=2.41 * U), SectionVerdict.WATCH),
        (replace(RUN, measured_f=2.30 * U), SectionVerdict.OUT),
        (replace(RUN, measured_f=2.70 * U), SectionVerdict.OUT),
        (replace(RUN, measured_f=0.0), SectionVerdict.OPEN),
        (replace(RUN, shorted=True), SectionVerdict.SHORT),
        (RUN, SectionVerdict.UNREAD),
        # tan δ = 2π·50 · 2.5 µF · 20 Ω = 0.0157.
        (replace(RUN, measured_f=2.5 * U, esr_ohm=20.0), SectionVerdict.LOSSY),
        (replace(RUN, measured_f=2.5 * U, esr_ohm=2.0), SectionVerdict.GOOD),
        (replace(RUN, measured_f=2.30 * U, tolerance=0.10), SectionVerdict.WATCH),
    ],
)
def test_a_section_gets_its_verdict(section: Section, verdict: SectionVerdict) -> None:
    found = check_section(section, 50.0)
    assert found.verdict is verdict
    assert found.words


def test_what_each_section_touches() -> None:
    assert dict(touched_by(IN_SERIES)) == {
        "run": ("low", "medium", "high"),
        "shared": ("low", "medium", "high"),
        "low": ("low",),
        "medium": ("medium",),
    }
    assert dict(touched_by(PARALLEL))["A"] == ("1", "3")


def test_a_weak_shared_section_slows_every_step_and_a_weak_one_its_own(belief: Belief) -> None:
    weak = (RUN, replace(SHARED, measured_f=3.4 * U), LOW, MEDIUM)
    for s in consequences(belief, MAINS, replace(IN_SERIES, sections=weak)):
        assert s.rated.rpm is not None
        assert s.now.rpm is not None
        assert s.now.rpm < 0.9 * s.rated.rpm
        assert s.now_bands is not None
        assert s.now_bands.speed_rpm.holds(s.now.rpm)
    own = (RUN, SHARED, replace(LOW, measured_f=1.6 * U), MEDIUM)
    low, medium, high = consequences(belief, MAINS, replace(IN_SERIES, sections=own))
    assert low.now.rpm is not None
    assert low.rated.rpm is not None
    assert low.now.rpm < 0.9 * low.rated.rpm
    assert medium.now.rpm == pytest.approx(medium.rated.rpm)
    assert high.now.rpm == pytest.approx(high.rated.rpm)


def test_what_was_read_out_of_tolerance_heads_the_list(belief: Belief) -> None:
    """A run section at a sixth of its value: the reading on the screen comes first, whatever the complaint."""
    weak = replace(IN_SERIES, sections=(replace(RUN, measured_f=RUN.rated_f / 6), SHARED, LOW, MEDIUM))
    for complaint in Complaint:
        first, *rest = suspects(belief, MAINS, weak, complaint)
        assert (first.name, first.read) == ("run", True)
        assert "at 17 % as read" in first.words
        assert all(not s.read and s.name != "run" for s in rest)
    # The shared section alone makes every step slow: then that is said too.
    shared = replace(IN_SERIES, sections=(RUN, replace(SHARED, measured_f=SHARED.rated_f / 2), LOW, MEDIUM))
    first = suspects(belief, MAINS, shared, Complaint.ALL_SLOW)[0]
    assert (first.name, first.read, first.explains) == ("shared", True, True)


def test_the_blame_is_found_by_solving(belief: Belief) -> None:
    slow = suspects(belief, MAINS, IN_SERIES, Complaint.ALL_SLOW)
    assert slow[0].name == "shared"
    assert {"mains", "bearing"} <= {s.name for s in slow if not s.section}
    assert sum(s.likelihood for s in slow) == pytest.approx(1)
    for i, name in enumerate(("low", "medium")):
        assert suspects(belief, MAINS, IN_SERIES, Complaint.ONE_SLOW, i)[0].name == name
    assert suspects(belief, MAINS, IN_SERIES, Complaint.NO_START)[0].name in ("run", "shared")
    # A section that was read and found good is cleared of it.
    read = replace(IN_SERIES, sections=(RUN, replace(SHARED, measured_f=5.6 * U), LOW, MEDIUM))
    assert suspects(belief, MAINS, read, Complaint.ALL_SLOW)[0].name != "shared"
    with pytest.raises(InputError):
        suspects(belief, MAINS, IN_SERIES, Complaint.ONE_SLOW, 7)


def test_an_equal_spare_is_matched_lead_by_lead(belief: Belief) -> None:
    spare = (
        Section("K", "c", "b", 2.5 * U),
        Section("L", "c", "a", 5.6 * U),
        Section("M", "a", "e", 2.7 * U),
        Section("N", "a", "d", 5.0 * U),
    )
    ways = connections(belief, MAINS, IN_SERIES, spare)
    assert dict(ways[0].leads) == {"m": "c", "x": "b", "s": "a", "1": "e", "2": "d"}
    assert ways[0].worst_miss == pytest.approx(0, abs=1e-6)
    assert not ways[0].do_not
    assert "wire on m (motor) goes to c" in ways[0].moves
    assert [w.worst_miss for w in ways if not w.do_not] == sorted(w.worst_miss for w in ways if not w.do_not)
    wrong = [w for w in ways if w.do_not]
    assert all(ways.index(w) >= len(ways) - len(wrong) for w in wrong)


def test_a_run_section_far_off_is_not_to_be_connected(belief: Belief) -> None:
    spare = (Section("K", "a", "b", 5.0 * U), Section("L", "a", "c", 2.7 * U))
    block = Block((RUN, Section("A", "m", "1", 2.7 * U)), "m", "x", (BlockStep("1", ("1",)),))
    ways = connections(belief, MAINS, block, spare)
    straight = next(w for w in ways if dict(w.leads) == {"m": "a", "x": "b", "1": "c"})
    assert "too much current" in straight.do_not
    crossed = next(w for w in ways if dict(w.leads) == {"m": "a", "x": "c", "1": "b"})
    assert not crossed.do_not
    assert "feel the motor" not in crossed.remark or "2.7" in crossed.remark


def test_a_value_at_resonance_is_not_to_be_connected(belief: Belief) -> None:
    """An eightfold run capacitor draws so much that a series capacitor lifts the motor above the mains."""
    block = Block((Section("run", "m", "x", 8 * U), Section("A", "m", "1", 7 * U)), "m", "x", STEPS[:1])
    spare = (Section("K", "a", "b", 8 * U), Section("L", "a", "c", 16.0 * U))
    ways = connections(belief, MAINS, block, spare)
    straight = next(w for w in ways if dict(w.leads) == {"m": "a", "x": "b", "1": "c"})
    assert "motor volts past" in straight.do_not
    assert straight.speeds[0].now.rpm is None


def test_a_spare_with_a_lead_too_many_has_it_capped(belief: Belief) -> None:
    block = Block((RUN, Section("A", "m", "1", 2.7 * U)), "m", "x", (BlockStep("1", ("1",)),))
    spare = (Section("K", "a", "b", 2.5 * U), Section("L", "a", "c", 2.7 * U), Section("M", "a", "d", 4 * U))
    best = connections(belief, MAINS, block, spare)[0]
    assert any("cap each one singly" in m for m in best.moves)


@pytest.mark.parametrize(
    "bad",
    [
        lambda: Section("A", "m", "m", U),
        lambda: Section("A", "m", "", U),
        lambda: Section("A", "m", "x", 0.0),
        lambda: Section("A", "m", "x", U, measured_f=5 * U),
        lambda: Section("A", "m", "x", U, esr_ohm=-1.0),
        lambda: Block((), "m"),
        lambda: Block((RUN, RUN), "m"),
        lambda: Block((RUN,), "q"),
        lambda: Block((RUN,), "m", "m"),
        lambda: Block((RUN,), "m", "x", ()),
        lambda: Block((RUN,), "m", "x", (BlockStep("1", ("q",)),)),
        lambda: check_section(RUN, 0.0),
    ],
)
def test_nonsense_is_refused(bad: object) -> None:
    with pytest.raises(InputError):
        bad()  # type: ignore[operator]


@pytest.mark.parametrize("bad", [{"measured_f": 0.0}, {"shorted": True}])
def test_an_open_or_shorted_run_section_is_told_and_not_an_error(
    belief: Belief, bad: dict[str, float]
) -> None:
    for s in consequences(
        belief, MAINS, replace(IN_SERIES, sections=(replace(RUN, **bad), *IN_SERIES.sections[1:]))
    ):
        assert s.now.rpm is None
        assert s.now.note
