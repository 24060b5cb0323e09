"""Maps of speed over a command: monotone, through their pairs, turned round both ways, and silent beyond them."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.interpolate import PchipInterpolator

from fenwit.core.errors import InputError
from fenwit.core.job.mapped import MappedFan
from fenwit.core.job.steps import PlaceKind
from fenwit.core.job.subject import Subject
from fenwit.core.motor.maps import SpeedMap, map_through, usual_map

PAIRS = ((0.2, 600.0), (0.4, 1050.0), (0.6, 1500.0), (0.8, 1900.0), (1.0, 2200.0))


def test_it_goes_through_its_pairs_and_between_them_as_the_textbook_cubic_does() -> None:
    found = map_through(PAIRS, 10.0)
    for command, speed in PAIRS:
        assert found.speed_at(command) == pytest.approx(speed)
    reference = PchipInterpolator([c for c, _ in PAIRS], [n for _, n in PAIRS])
    at = np.linspace(0.2, 1.0, 33)
    assert np.allclose(found.speed_at(at), reference(at), rtol=1e-12)
    assert found.moved == ()
    assert found.rising


def test_pairs_out_of_order_are_pooled_and_told() -> None:
    """*By hand*: 1100 and 1000 rpm in the wrong order become their mean, 50 rpm off; 20 rpm a reading: worth a look."""
    found = map_through([(0.2, 600), (0.4, 1100), (0.5, 1000), (0.8, 1900)], 10.0)
    assert found.speed_rpm == pytest.approx((600, 1050, 1050, 1900))
    assert [m.command for m in found.moved] == [0.4, 0.5]
    assert found.half_width_rpm[1] > found.half_width_rpm[0] + 49
    assert map_through([(0.2, 600), (0.4, 1010), (0.5, 1000), (0.8, 1900)], 10.0).moved == ()
    # On the flat piece any command does; its middle is taken and the whole of it shown.
    held = found.command_for(1050.0)
    assert (held.low, held.high) == (0.4, 0.5)
    assert held.command == pytest.approx(0.45)


def test_one_command_read_twice_counts_as_its_mean_and_is_known_better() -> None:
    found = map_through([(0.2, 600), (0.2, 620), (1.0, 2000)], 10.0)
    assert found.speed_rpm == pytest.approx((610, 2000))
    assert found.half_width_rpm[0] == pytest.approx(found.half_width_rpm[1] / np.sqrt(2))


def test_an_inverted_input_falls() -> None:
    found = map_through([(1 - c, n) for c, n in PAIRS], 10.0)
    assert not found.rising
    assert found.command_for(1500.0).command == pytest.approx(0.4)
    assert found.command_for(1234.0).command == pytest.approx(
        1 - map_through(PAIRS, 10.0).command_for(1234.0).command
    )
    assert map_through([(0.2, 610), (0.5, 600), (0.8, 620)], 5.0, falling=True).speed_rpm[0] >= 610


@given(
    st.lists(
        st.tuples(st.floats(0, 10).map(lambda v: round(v, 2)), st.floats(0, 5000).map(lambda v: round(v, 3))),
        min_size=2,
        max_size=12,
    ).filter(lambda p: len({c for c, _ in p}) >= 2)
)
def test_any_pairs_make_a_monotone_map_that_turns_round(pairs: list[tuple[float, float]]) -> None:
    found = map_through(pairs, 20.0)
    at = np.linspace(found.command[0], found.command[-1], 101)
    steps = np.diff(np.asarray(found.speed_at(at)))
    assert (steps >= -1e-6).all() if found.rising else (steps <= 1e-6).all()
    for speed in np.linspace(found.slowest_rpm, found.fastest_rpm, 7):
        held = found.command_for(float(speed))
        assert held.low <= held.command <= held.high
        assert found.speed_at(held.command) == pytest.approx(speed, abs=1e-3)
    low, high = found.band_at(float(at[50]))
    assert low <= float(found.speed_at(float(at[50]))) <= high


def test_beyond_its_pairs_it_says_nothing() -> None:
    found = map_through(PAIRS, 10.0)
    for refused in (
        lambda: found.speed_at(0.1),
        lambda: found.speed_at(np.array([0.5, 1.01])),
        lambda: found.command_for(599.0),
        lambda: found.command_for(2201.0),
        lambda: found.band_at(2.0),
    ):
        with pytest.raises(InputError, match="nothing is known beyond"):
            refused()


@pytest.mark.parametrize(
    "bad",
    [
        lambda: map_through([(0.2, 600.0)], 10.0),
        lambda: map_through([(0.2, 600.0), (0.2, 700.0)], 10.0),
        lambda: map_through([(0.2, -1.0), (0.4, 700.0)], 10.0),
        lambda: map_through([(0.2, float("nan")), (0.4, 700.0)], 10.0),
        lambda: map_through(PAIRS, -1.0),
        lambda: SpeedMap((0.0, 1.0), (1.0,), (0.0, 0.0)),
        lambda: SpeedMap((1.0, 0.0), (1.0, 2.0), (0.0, 0.0)),
        lambda: SpeedMap((0.0, 1.0, 2.0), (1.0, 2.0, 1.0), (0.0,) * 3),
        lambda: usual_map(500, 2000, 0.3, 0.3),
    ],
)
def test_what_is_no_map_is_refused(bad) -> None:  # type: ignore[no-untyped-def]
    with pytest.raises(InputError):
        bad()


def test_a_usual_map_is_a_line_with_doubt() -> None:
    found = usual_map(500, 2000, 0.2, 1.0)
    assert found.speed_at(0.6) == pytest.approx(1250)
    assert found.band_at(0.6) == pytest.approx((1050, 1450))
    assert not usual_map(500, 2000, 0.8, 0.0).rising


def test_a_mapped_fan_is_a_subject_like_any_other() -> None:
    fan = MappedFan(map_through(PAIRS, 10.0), 12.0, 12.0, 3.6, ("five readings",))
    subject: Subject = fan
    assert subject.full.speed_rpm == pytest.approx(2200)
    assert subject.full.input_power_w == 3.6
    assert subject.full_band is not None
    assert subject.full_band.holds(2200)
    assert subject.assumptions == ("five readings",)
    assert fan.is_full(2199)
    assert not fan.is_full(2000)
    # The path leaves out what nobody knows: no motor's inside, no regulator.
    slow = fan.running(0.4)
    assert [p.kind for p in slow.places] == [PlaceKind.SUPPLY, PlaceKind.BLADES, PlaceKind.AIR]
    assert "1050" in slow.places[1].values[0].text
    assert "% of flow" in slow.places[2].values[0].text
    flows = [fan.running(c).places[2].values[0].text for c in (0.2, 0.6, 1.0)]
    assert [int(t.split(" ")[0]) for t in flows] == sorted(int(t.split(" ")[0]) for t in flows)
    assert all(a.speed_rpm < b.speed_rpm for a, b in pairwise(fan.running(c) for c in (0.2, 0.5, 0.9)))
    doubtful = MappedFan(
        map_through([(0.2, 600), (0.4, 1100), (0.5, 1000), (0.8, 1900)], 10.0), 12, 12, None, ("four",)
    )
    assert "read it again" in doubtful.assumptions[-1]
    with pytest.raises(InputError, match="never turns"):
        MappedFan(SpeedMap((0.0, 1.0), (0.0, 0.0), (0.0, 0.0)), 12, 12, None, ())
