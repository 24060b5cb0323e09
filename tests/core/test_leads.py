"""Which lead is which: the tree behind ohms between leads, roles, contradictions, the reading that decides."""

from __future__ import annotations

import math
from dataclasses import replace
from itertools import combinations, pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fenwit.core.calibrate.leads import (
    LeadFinding,
    LeadSheet,
    LeadTree,
    OhmReading,
    find_leads,
    parse_ohms,
    tap_sections,
)
from fenwit.core.calibrate.roles import most_likely_roles, tap_names
from fenwit.core.calibrate.trees import of_edges, sides_of, trees
from fenwit.core.errors import InputError

# *Independent*: a chain P–46–Q–21.5–R–3.8–S–4.6–T, its ten path lengths written out by hand.
NAMES = ("P", "Q", "R", "S", "T")
KNOWN = {
    ("P", "Q"): 46.0, ("P", "R"): 67.5, ("P", "S"): 71.3, ("P", "T"): 75.9, ("Q", "R"): 21.5, ("Q", "S"): 25.3,
    ("Q", "T"): 29.9, ("R", "S"): 3.8, ("R", "T"): 8.4, ("S", "T"): 4.6,
}  # fmt: skip
CHAIN = {frozenset("PQ"), frozenset("QR"), frozenset("RS"), frozenset("ST")}
ROLES = {"P": "capacitor", "Q": "common", "R": "high", "S": "medium", "T": "low"}
# Full sets of readings, then sets of nine, eight, seven and six: how many of them one tree alone fits exactly.
UNIQUE = {10: (1, 1), 9: (8, 10), 8: (26, 45), 7: (40, 120), 6: (24, 210)}


def sheet(read: dict[tuple[str, str], float], names: tuple[str, ...] = NAMES) -> LeadSheet:
    return LeadSheet(names, tuple(OhmReading(a, b, v) for (a, b), v in read.items()))


def edges(tree: LeadTree) -> set[frozenset[str]]:
    return {frozenset((s.start, s.end)) for s in tree.sections}


def ohms(sections: dict[tuple[str, str], float], leads: tuple[str, ...]) -> dict[tuple[str, str], float]:
    """Path lengths between all leads of a tree; its other nodes are buried."""
    near: dict[str, list[tuple[str, float]]] = {}
    for (a, b), value in sections.items():
        near.setdefault(a, []).append((b, value))
        near.setdefault(b, []).append((a, value))
    found = {}
    for start in leads:
        far, waiting = {start: 0.0}, [start]
        while waiting:
            here = waiting.pop()
            for other, value in near[here]:
                if other not in far:
                    far[other] = far[here] + value
                    waiting.append(other)
        found.update({(start, end): round(far[end], 1) for end in leads if end > start})
    return found


def found_roles(found: LeadFinding) -> dict[str, str]:
    assert found.best is not None
    return dict(found.best.roles)


def test_all_ten_readings_give_the_chain_and_every_role() -> None:
    found = find_leads(sheet(KNOWN))
    best = found.best
    assert best is not None
    assert edges(best) == CHAIN
    assert {frozenset((s.start, s.end)): s.ohm for s in best.sections} == pytest.approx(
        {frozenset("PQ"): 46.0, frozenset("QR"): 21.5, frozenset("RS"): 3.8, frozenset("ST"): 4.6}
    )
    assert found_roles(found) == ROLES
    assert best.likelihood * best.roles_likelihood > 0.9
    assert best.worst_residual_ohm < 0.15
    assert found.next is None
    assert found.contradictions == ()


@pytest.mark.parametrize("size", sorted(UNIQUE))
def test_how_many_sets_of_readings_one_tree_alone_fits(size: int) -> None:
    """Counted with the plain list of 125 trees and least squares, not with what ranks them."""
    every = trees(5)
    assert every.count == 125
    pair_ohm = np.array([KNOWN[p] for p in combinations(NAMES, 2)])
    alone = total = 0
    for chosen in combinations(range(10), size):
        rows = list(chosen)
        fitting = 0
        for paths in every.paths[:, rows].astype(float):
            section, *_ = np.linalg.lstsq(paths, pair_ohm[rows], rcond=None)
            fitting += bool(np.abs(paths @ section - pair_ohm[rows]).max() < 0.15 and section.min() > 0.6)
        alone += fitting == 1
        total += 1
    assert (alone, total) == UNIQUE[size]


@pytest.mark.parametrize("size", [4, 5, 6, 7, 8, 9])
def test_with_readings_missing_the_true_tree_is_first_or_second_and_the_next_reading_decides(
    size: int,
) -> None:
    open_cases = 0
    for chosen in combinations(KNOWN, size):
        start = sheet({p: KNOWN[p] for p in chosen})
        found = find_leads(start)
        if found.unread:
            assert found.next is not None  # it goes on to a lead that nothing reaches yet
            continue
        ranked = [edges(t) for t in found.trees]
        assert CHAIN in ranked[:2], chosen
        # Asked for and given, reading after reading, it comes to the chain without being misled.
        for _ in range(10 - size):
            if found.next is None:
                break
            open_cases += 1
            a, b = sorted((found.next.lead_a, found.next.lead_b))
            before = found.best.likelihood if found.best else 0.0
            start = replace(start, readings=(*start.readings, OhmReading(a, b, KNOWN[a, b])))
            found = find_leads(start)
            assert found.best is not None
            assert edges(found.best) == CHAIN
            assert found.best.likelihood >= before - 0.02
        assert found.best is not None
        assert edges(found.best) == CHAIN
        assert found_roles(found) == ROLES
    assert open_cases > 0 or size == 9


def test_leaving_out_one_reading_names_that_very_reading() -> None:
    found = find_leads(sheet({p: v for p, v in KNOWN.items() if p != ("S", "T")}))
    assert len(found.trees) > 1
    assert found.next is not None
    assert {found.next.lead_a, found.next.lead_b} == {"S", "T"}
    assert "4.6" in found.next.why
    assert "8.4" not in found.next.why


@settings(max_examples=40, deadline=None)
@given(st.data())
def test_noise_of_a_meter_does_not_hide_a_chain(data: st.DataObject) -> None:
    main = data.draw(st.floats(15, 200))
    parts = [
        main * data.draw(st.floats(1.1, 2.5)),
        main,
        *(main * data.draw(st.floats(0.08, 0.4)) for _ in "ab"),
    ]
    order = data.draw(st.permutations(NAMES))
    true = dict(zip(pairwise(order), parts, strict=True))
    exact = ohms(true, tuple(sorted(order)))
    random = np.random.default_rng(data.draw(st.integers(0, 10_000)))
    noisy = {
        p: round(v * (1 + 0.003 * random.standard_normal()) + 0.03 * random.standard_normal(), 1)
        for p, v in exact.items()
    }
    found = find_leads(sheet(noisy))
    assert found.best is not None
    assert edges(found.best) == {frozenset(p) for p in true}
    assert found.contradictions == ()
    for s in found.best.sections:
        want = true.get((s.start, s.end)) or true[s.end, s.start]
        assert s.ohm == pytest.approx(want, rel=0.03, abs=0.3)


def test_repeat_readings_are_averaged_and_the_probes_taken_off() -> None:
    twice = LeadSheet(("A", "B"), (OhmReading("A", "B", 10.1), OhmReading("B", "A", 10.5)), probe_ohm=0.3)
    best = find_leads(twice).best
    assert best is not None
    assert best.sections[0].ohm == pytest.approx(10.0)
    assert parse_ohms("x", "10.1 10.5") == (10.1, 10.5)
    assert parse_ohms("x", "46,5") == (46.5,)
    assert parse_ohms("x", "1k2") == (1200.0,)
    assert math.isinf(parse_ohms("x", "OPEN")[0])
    assert math.isinf(parse_ohms("x", "20M")[0])
    assert parse_ohms("x", "0") == (0.0,)
    for nonsense in ("", "open 4", "4V", "-3", "twelve", "🙂"):
        with pytest.raises(InputError):
            parse_ohms("x", nonsense)


def test_a_slip_is_named_with_the_reading_to_repeat() -> None:
    for pair, value in {("P", "S"): 17.3, ("Q", "T"): 299.0, ("R", "T"): 4.8}.items():
        found = find_leads(sheet({**KNOWN, pair: value}))
        assert len(found.contradictions) == 1, pair
        named = found.contradictions[0]
        assert {named.lead_a, named.lead_b} == set(pair)
        assert found.best is not None
        assert edges(found.best) == CHAIN
    tenth = find_leads(sheet({**KNOWN, ("Q", "T"): 299.0}))
    assert "decimal point" in tenth.contradictions[0].text


def test_a_junction_without_a_lead_is_found() -> None:
    true = {("A", "x"): 30.0, ("x", "B"): 18.0, ("x", "C"): 55.0, ("B", "D"): 4.2}
    found = find_leads(sheet(ohms(true, tuple("ABCD")), tuple("ABCD")))
    assert found.best is not None
    buried = [s for s in found.best.sections if "junction" in s.start + s.end]
    assert sorted(round(s.ohm, 1) for s in buried) == [18.0, 30.0, 55.0]


def test_two_leads_on_one_node_are_joined() -> None:
    read = ohms({("A", "B"): 20.0, ("B", "C"): 30.0, ("B", "D"): 0.1}, tuple("ABCD"))
    found = find_leads(sheet(read, tuple("ABCD")))
    assert found.joined == (("B", "D"),)
    assert sorted(found_roles(found).values()) == ["capacitor", "common", "high", "joined"]


@pytest.mark.parametrize(
    ("true", "roles", "from_high"),
    [
        # One speed: start over main lies in its usual range, so the lower ohms are the main winding.
        ({("A", "B"): 40.0, ("B", "C"): 68.0}, {"A": "high", "B": "common", "C": "capacitor"}, False),
        # Two taps.
        (
            {("C", "A"): 80.0, ("A", "D"): 46.0, ("D", "B"): 8.0},
            {"A": "common", "B": "low", "C": "capacitor", "D": "high"},
            False,
        ),
        # Four taps.
        (
            {("F", "A"): 70.0, ("A", "B"): 40.0, ("B", "C"): 6.0, ("C", "D"): 5.0, ("D", "E"): 7.0},
            {"A": "common", "B": "high", "C": "tap-2", "D": "tap-3", "E": "low", "F": "capacitor"},
            False,
        ),
        # The start winding hangs on the high-speed lead.
        (
            {("A", "B"): 40.0, ("B", "F"): 75.0, ("B", "C"): 6.0, ("C", "D"): 5.0},
            {"A": "common", "B": "high", "C": "medium", "D": "low", "F": "capacitor"},
            True,
        ),
    ],
)
def test_single_and_multi_tap_motors(
    true: dict[tuple[str, str], float], roles: dict[str, str], from_high: bool
) -> None:
    leads = tuple(sorted(roles))
    found = find_leads(sheet(ohms(true, leads), leads))
    assert found.best is not None
    assert edges(found.best) == {frozenset(p) for p in true}
    assert found_roles(found) == roles
    assert found.best.from_high is from_high
    sections = tap_sections(found.best)
    assert sections is not None
    assert sections.from_high is from_high
    assert [role for role, _, _ in sections.taps] == list(tap_names(len(roles) - 2))
    assert [extra for _, _, extra in sections.taps] == sorted(extra for _, _, extra in sections.taps)


def test_seven_and_eight_leads_are_found_too() -> None:
    true = {
        ("A", "B"): 84.0, ("B", "C"): 52.0, ("C", "D"): 6.0, ("D", "E"): 5.0, ("E", "F"): 7.5, ("F", "G"): 6.5,
        ("G", "H"): 8.0,
    }  # fmt: skip
    for leads in (tuple("ABCDEFG"), tuple("ABCDEFGH")):
        kept = {p: v for p, v in true.items() if set(p) <= set(leads)}
        found = find_leads(sheet(ohms(kept, leads), leads))
        assert found.best is not None
        assert edges(found.best) == {frozenset(p) for p in kept}
        assert found_roles(found)["B"] == "common"


def test_low_insulation_stops_everything() -> None:
    bare = sheet(KNOWN)
    wet = LeadSheet(bare.leads, bare.readings, to_frame=(("P", math.inf), ("Q", 4e5)))
    found = find_leads(wet)
    assert "not to be powered" in found.insulation_stop
    assert "Q" in found.insulation_stop
    assert found.frame_unread == ("R", "S", "T")
    dry = find_leads(LeadSheet(bare.leads, bare.readings, to_frame=tuple((n, 2e7) for n in NAMES)))
    assert dry.insulation_stop == ""
    assert dry.frame_unread == ()


def test_an_open_lead_is_not_forced_into_the_tree() -> None:
    read = {p: v for p, v in KNOWN.items() if "T" not in p} | {(n, "T"): math.inf for n in "PQRS"}
    found = find_leads(sheet(read))
    assert found.best is not None
    assert all("T" not in {s.start, s.end} for s in found.best.sections)
    assert found.unread == ("T",)


def test_open_between_leads_that_others_join_is_a_contradiction() -> None:
    found = find_leads(sheet({**KNOWN, ("P", "R"): math.inf}))
    assert [c for c in found.contradictions if {c.lead_a, c.lead_b} == {"P", "R"}]


def test_without_readings_nothing_is_claimed() -> None:
    found = find_leads(LeadSheet(NAMES))
    assert found.trees == ()
    assert found.next is not None
    assert find_leads(LeadSheet(())).trees == ()


@pytest.mark.parametrize(
    "bad",
    [
        lambda: LeadSheet(("A", "A")),
        lambda: LeadSheet(("A", " ")),
        lambda: LeadSheet(tuple("ABCDEFGHI")),
        lambda: LeadSheet(("A", "B"), (OhmReading("A", "A", 3.0),)),
        lambda: LeadSheet(("A", "B"), (OhmReading("A", "Z", 3.0),)),
        lambda: LeadSheet(("A", "B"), (OhmReading("A", "B", -3.0),)),
        lambda: LeadSheet(("A", "B"), (OhmReading("A", "B", math.nan),)),
        lambda: LeadSheet(("A", "B"), (OhmReading("A", "B", 3e5),)),
        lambda: LeadSheet(("A", "B"), to_frame=(("Q", 3e7),)),
        lambda: LeadSheet(("A", "B"), probe_ohm=-1.0),
    ],
)
def test_nonsense_is_refused(bad: object) -> None:
    with pytest.raises(InputError):
        bad()  # type: ignore[operator]


def test_colours_tip_the_scales_only_a_little() -> None:
    even = {("A", "B"): 40.0, ("B", "C"): 44.0}
    plain = find_leads(sheet(ohms(even, tuple("ABC")), tuple("ABC")))
    assert plain.best is not None
    assert plain.best.other_roles  # nothing tells main from start here
    assert "capacitor is wired" in plain.observation
    coloured = LeadSheet(
        tuple("ABC"),
        sheet(ohms(even, tuple("ABC")), tuple("ABC")).readings,
        colours=(("A", "brown"), ("C", "black")),
    )
    best = find_leads(coloured).best
    assert best is not None
    assert best.role_of["A"] == "capacitor"
    assert best.roles_likelihood < 0.9


@pytest.mark.parametrize(
    ("leads", "buried", "count"),
    [(2, 0, 1), (3, 0, 3), (4, 0, 16), (6, 0, 1296), (3, 1, 1), (4, 1, 13), (4, 2, 3)],
)
def test_the_list_of_trees_is_complete(leads: int, buried: int, count: int) -> None:
    """Without junctions n^(n−2) by Cayley; with them counted by hand."""
    found = trees(leads, buried)
    assert found.count == count
    assert found.buried == buried
    # A tree is known by how each of its sections parts the leads.
    assert len({frozenset(map(tuple, paths.T.tolist())) for paths in found.paths}) == count


def test_paths_are_those_of_the_edges() -> None:
    chain = np.array([[[0, 1], [1, 2], [2, 3]]])
    found = of_edges(4, chain, sides_of(4, chain))
    assert found.paths[0].sum(axis=1).tolist() == [1, 2, 3, 1, 2, 1]


def test_a_tree_that_is_no_winding_has_no_roles() -> None:
    assert most_likely_roles(1, [], []) == ()
    assert tap_names(0) == ()
