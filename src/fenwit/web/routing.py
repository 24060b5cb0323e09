"""Routers whose saves are tried again when two of them got into each other's way."""

from __future__ import annotations

import functools
import inspect
import random
import time
from collections.abc import Callable
from typing import Any, ParamSpec, TypeVar

from fastapi import APIRouter
from fastapi.routing import APIRoute

from fenwit.store.errors import Busy, Conflict

P = ParamSpec("P")
T = TypeVar("T")
_TRIES = 8
_SECONDS = 0.02


def tried_again(save: Callable[P, T]) -> Callable[P, T]:
    """A save that begins anew when another one came in between; what it answers is of the try that held.

    Everything in it is undone with its transaction, so a second try starts from what the other one left. Raises Busy
    when it never gets through.
    """

    @functools.wraps(save)
    def tried(*args: P.args, **kwargs: P.kwargs) -> T:
        for attempt in range(_TRIES):
            try:
                return save(*args, **kwargs)
            except Conflict:
                # A little longer each time, and never in step with the other one.
                time.sleep(random.uniform(0.5, 1.5) * _SECONDS * 2 ** min(attempt, 4))
        raise Busy("others save this job all the time")

    return tried


class _Route(APIRoute):
    def __init__(self, path: str, endpoint: Callable[..., Any], **given: Any) -> None:
        saves = set(given.get("methods") or ()) - {"GET", "HEAD"}
        if saves and not inspect.iscoroutinefunction(endpoint):
            endpoint = tried_again(endpoint)
        super().__init__(path, endpoint, **given)


def router(prefix: str, tag: str) -> APIRouter:
    """A router of one stage."""
    return APIRouter(prefix=prefix, tags=[tag], route_class=_Route)
