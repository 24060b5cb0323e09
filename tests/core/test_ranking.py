"""What explains what was seen of a knob board, and where to look next. Known answers, *independent*."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fenwit.core.errors import InputError
from fenwit.core.inspect.ranking import CAUSES, LOOKS, Cause, explain
from fenwit.core.job.board import Look, Symptom

S, L = Symptom, Look
KNOWN = [
    ((S.NOTHING,), (), {"fuse": 0.17, "track": 0.15, "pot-open": 0.14, "switch": 0.14}, L.FUSE, 0.55),
    ((S.NOTHING,), ((L.FUSE, False),), {"track": 0.18}, L.SWITCH, None),
    ((S.NOTHING,), ((L.FUSE, False), (L.SWITCH, False)), {"track": 0.22, "pot-open": 0.20}, L.KNOB, None),
    (
        (S.NOTHING,),
        ((L.FUSE, False), (L.SWITCH, False), (L.GLASS, False), (L.KNOB, False)),
        {"triac-open": 0.28, "fan": 0.19, "diac-open": 0.18},
        L.TIMING,
        None,
    ),
    ((S.FULL,), (), {"triac-short": 0.56, "c-open": 0.19}, L.TRIAC, 0.81),
    ((S.FULL,), ((L.TRIAC, False),), {"c-open": 0.46, "diac-short": 0.20, "pot-short": 0.18}, L.DIAC, None),
    ((S.FULL,), ((L.TRIAC, True),), {"triac-short": 0.91}, None, None),
    ((S.HALF_WAVE,), (), {"triac-half": 0.57, "fan": 0.25}, None, None),
    ((S.HALF_WAVE, S.HOT), (), {"triac-half": 0.74}, None, None),
    ((S.JUMPS,), (), {"r-high": 0.31, "pot-open": 0.22}, L.KNOB, None),
    ((S.TOO_FAST,), (), {"c-low": 0.73}, None, None),
    ((S.SMELLS,), (), {"fan": 0.23, "pot-open": 0.17, "snub-short": 0.17}, None, None),
    ((S.FLICKERS,), (), {"joint": 0.34, "switch": 0.22, "track": 0.17}, L.SWITCH, None),
    ((S.FLICKERS,), ((L.GLASS, True),), {"joint": 0.60, "track": 0.32}, None, None),
]


@pytest.mark.parametrize(("seen", "looks", "shares", "following", "bits"), KNOWN)
def test_shares_and_the_next_look(
    seen: tuple[Symptom, ...], looks: tuple[tuple[Look, bool], ...], shares: dict[str, float],
    following: Look | None, bits: float | None,
) -> None:  # fmt: skip
    found = explain(seen, looks)
    share = {r.cause.value: r.share for r in found.causes}
    for name, value in shares.items():
        assert share[name] == pytest.approx(value, abs=0.02)
    assert found.next_look is not None
    if following is not None:
        assert found.next_look.look is following
    if bits is not None:
        assert found.next_look.bits == pytest.approx(bits, abs=0.01)


words = st.lists(st.sampled_from(list(Symptom)), unique=True, max_size=3)
taken = st.lists(st.sampled_from([k for k in Look if not LOOKS[k].live]), unique=True, max_size=5)


@given(words, taken)
def test_shares_are_shares(seen: list[Symptom], looked: list[Look]) -> None:
    found = explain(seen, [(k, False) for k in looked])
    assert sum(r.share for r in found.causes) == pytest.approx(1)
    assert [r.share for r in found.causes] == sorted((r.share for r in found.causes), reverse=True)
    assert all(n.bits >= -1e-12 for n in found.looks)


@given(words, taken)
def test_good_looks_at_the_board_raise_the_fans_share(seen: list[Symptom], looked: list[Look]) -> None:
    board = [k for k in looked if k is not Look.MOTOR]

    def fan(looks: list[Look]) -> float:
        found = explain(seen, [(k, False) for k in looks])
        return next(r.share for r in found.causes if r.cause is Cause.FAN)

    assert fan(board) >= fan([]) - 1e-12


def test_dead_looks_come_before_the_live_one_until_none_is_worth_it() -> None:
    dead = [k for k in Look if not LOOKS[k].live]
    first = explain([Symptom.NOTHING], [])
    assert first.next_look is not None
    assert not LOOKS[first.next_look.look].live
    last = explain([Symptom.NOTHING], [(k, False) for k in dead])
    assert last.next_look is not None
    assert LOOKS[last.next_look.look].live


def test_what_a_board_has_not_cannot_be_the_matter() -> None:
    found = explain([Symptom.NOTHING], [], (Cause.FUSE,))
    assert Cause.FUSE not in {r.cause for r in found.causes}
    assert len(found.causes) == len(CAUSES) - 1
    with pytest.raises(InputError, match="told twice"):
        explain([], [(Look.FUSE, True), (Look.FUSE, False)])
