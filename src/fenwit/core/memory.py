"""What was computed once is kept as long as there is room: one memory for all functions, bounded in bytes.

What was used last stays. How much room things take is found by looking at them, arrays that several of them share
counted once; a refusal is remembered like an answer.
"""

from __future__ import annotations

import functools
import sys
import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Any, ParamSpec, TypeVar

import numpy as np

from fenwit.core.errors import InputError

P = ParamSpec("P")
T = TypeVar("T")
_SMALL = (str, bytes, int, float, complex, bool, type(None))
_NOTHING_IN_IT = (type, type(sys), type(functools.partial), type(len), type(lambda: None), threading.Event)


class Memory:
    """Answers by question, those used last at the end."""

    def __init__(self, most_bytes: int) -> None:
        self.most_bytes = most_bytes
        self._kept: OrderedDict[Hashable, Any] = OrderedDict()
        self._lock = threading.Lock()
        self._grown = 0
        self._added = 0

    def get(self, key: Hashable) -> Any:
        """The answer kept under a key, or ``self`` when there is none."""
        with self._lock:
            if key not in self._kept:
                return self
            self._kept.move_to_end(key)
            return self._kept[key]

    def put(self, key: Hashable, answer: Any) -> None:
        """Keep an answer; what was not used for longest goes when there is no room left."""
        size = size_of(answer)
        with self._lock:
            self._kept[key] = answer
            self._kept.move_to_end(key)
            self._grown += size
            self._added += 1
            # Kept things grow while they are used, so all of them are looked at again now and then.
            if self._grown > self.most_bytes / 8 or self._added > 500:
                self._make_room()

    def _make_room(self) -> None:
        seen: set[int] = set()
        total, keep = 0, 0
        for key, answer in reversed(self._kept.items()):
            total += size_of(key, seen) + size_of(answer, seen)
            if total > 0.75 * self.most_bytes:
                break
            keep += 1
        while len(self._kept) > keep:
            self._kept.popitem(last=False)
        self._grown = self._added = 0

    def size(self) -> int:
        """What is kept, arrays counted once [byte]"""
        with self._lock:
            return size_of(tuple(self._kept.items()))

    def forget(self) -> None:
        """Begin anew."""
        with self._lock:
            self._kept.clear()
            self._grown = self._added = 0


MEMORY = Memory(256_000_000)
"""Of this process"""


def remembered(compute: Callable[P, T]) -> Callable[P, T]:
    """Keep what a pure function answered, or that it refused with an InputError.

    Parameters
    ----------
    compute : callable
        A function of hashable arguments [-]

    Returns
    -------
    callable
        The same function, that computes each answer once while there is room [-]
    """

    @functools.wraps(compute)
    def asked(*args: P.args, **kwargs: P.kwargs) -> T:
        key = (compute, args, tuple(sorted(kwargs.items())))
        found = MEMORY.get(key)
        if found is MEMORY:
            try:
                found = compute(*args, **kwargs)
            except InputError as refusal:
                found = _Refused(refusal)
            MEMORY.put(key, found)
        if isinstance(found, _Refused):
            raise found.refusal.with_traceback(None)
        answer: T = found
        return answer

    return asked


class _Refused:
    def __init__(self, refusal: InputError) -> None:
        self.refusal = refusal


def size_of(thing: object, seen: set[int] | None = None) -> int:
    """Roughly how much room a thing takes with everything that belongs to it.

    Parameters
    ----------
    thing : object
        Anything [-]
    seen : set of int, optional
        What was counted already, and what is counted now [-]

    Returns
    -------
    int
        Size [byte]
    """
    seen = set() if seen is None else seen
    total, open_ = 0, [thing]
    while open_:
        one = open_.pop()
        if isinstance(one, _SMALL):
            total += 40
            continue
        if id(one) in seen or isinstance(one, _NOTHING_IN_IT) or callable(one):
            continue
        seen.add(id(one))
        if isinstance(one, np.ndarray):
            if one.base is not None:
                open_.append(one.base)
            else:
                total += one.nbytes + 100
        elif isinstance(one, dict):
            total += sys.getsizeof(one)
            open_ += one.keys()
            open_ += one.values()
        elif isinstance(one, list | tuple | set | frozenset):
            total += sys.getsizeof(one)
            open_ += one
        else:
            total += 60
            open_ += vars(one).values() if hasattr(one, "__dict__") else ()
            slots = getattr(type(one), "__slots__", ())
            open_ += [
                getattr(one, s) for s in ((slots,) if isinstance(slots, str) else slots) if hasattr(one, s)
            ]
    return total
