"""How a control voltage is stored: there is no older form of it."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

FORM = 1
TOLD_BY: frozenset[str] = frozenset()
UPGRADES: Mapping[int, Callable[[dict[str, Any]], dict[str, Any]]] = {}
