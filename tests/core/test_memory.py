"""What was computed is remembered while there is room, and the room is counted."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
import pytest

from fenwit.core import memory
from fenwit.core.errors import InputError
from fenwit.core.memory import Memory, remembered, size_of


@dataclass(frozen=True, eq=False)
class Thing:
    table: np.ndarray

    @cached_property
    def more(self) -> np.ndarray:
        return np.zeros(100_000)


def test_room_is_counted_with_everything_in_it_and_shared_things_once() -> None:
    table = np.zeros(10_000)
    thing = Thing(table)
    alone = size_of(thing)
    assert 80_000 < alone < 82_000
    assert size_of((thing, thing, table, table[5:10], [table], {"x": thing})) < alone + 2000
    assert len(thing.more) == 100_000
    assert size_of(thing) > alone + 800_000
    assert size_of([1.0] * 1000) < 100_000


def test_what_was_not_used_for_longest_goes() -> None:
    kept = Memory(1_000_000)
    for i in range(40):
        kept.put(i, np.zeros(10_000))
        kept.get(0)
    assert kept.size() < 1_100_000
    assert kept.get(0) is not kept  # used again and again
    assert kept.get(39) is not kept
    assert kept.get(5) is kept
    kept.forget()
    assert kept.size() < 1000


def test_what_grows_while_it_is_kept_is_counted_too() -> None:
    kept = Memory(4_000_000)
    things = [Thing(np.zeros(10)) for _ in range(30)]
    for i, thing in enumerate(things):
        kept.put(i, thing)
        assert len(thing.more) == 100_000  # eight hundred thousand bytes that were not there before
    for i in range(600):
        kept.put(("small", i), i)
    assert kept.size() < 4_000_000


def test_an_answer_and_a_refusal_are_computed_once(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(memory, "MEMORY", Memory(1_000_000))
    asked: list[int] = []

    @remembered
    def half(n: int) -> float:
        """Half of an even number."""
        asked.append(n)
        if n % 2:
            raise InputError("n", n, "an even number", "it is odd")
        return n / 2

    assert (half(4), half(4), half(6)) == (2.0, 2.0, 3.0)
    for _ in range(3):
        with pytest.raises(InputError, match="it is odd"):
            half(7)
    assert asked == [4, 6, 7]
    assert half.__doc__ == "Half of an even number."
