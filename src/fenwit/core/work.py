"""Long computations look up now and then: whoever asked may have gone, and then there is nothing to go on for."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar

_look_up: ContextVar[Callable[[], None] | None] = ContextVar("look_up", default=None)


class Abandoned(Exception):
    """Nobody waits for the answer any more."""


@contextmanager
def looking_up(look: Callable[[], None]) -> Iterator[None]:
    """Call ``look`` at every pause of what is computed inside; it raises Abandoned to end it.

    Parameters
    ----------
    look : callable
        Called without arguments [-]

    Returns
    -------
    iterator
        A context [-]
    """
    token = _look_up.set(look)
    try:
        yield
    finally:
        _look_up.reset(token)


def pause() -> None:
    """A place where a long computation may end. Raises Abandoned when nobody waits for it."""
    look = _look_up.get()
    if look is not None:
        look()
