"""The designs of a job as its page shows them, what of the kept one is no longer so, and the parts put aside for it."""

from __future__ import annotations

import json
from collections import Counter
from typing import Any

from fenwit.core import CORE_VERSION
from fenwit.core.errors import InputError
from fenwit.core.frame import Frame
from fenwit.core.frame.tables import Change, changes
from fenwit.core.methods import of
from fenwit.store import codec, designs, readings, shelf
from fenwit.store.database import Database
from fenwit.store.errors import NotFound
from fenwit.web.methods import door_of
from fenwit.web.models import Aside, DesignInfo, DesignLine
from fenwit.web.page.loading import Loaded
from fenwit.web.parts import part_words


def design_info(loaded: Loaded) -> DesignInfo | None:
    if loaded.design is None or loaded.design.regulator is None:
        return None
    told = _told(loaded.design)
    return DesignInfo(**told) if told else None


def _told(design: designs.Design) -> dict[str, Any] | None:
    """A design as it would be typed, and in a few words; None where this version cannot read it."""
    assert design.regulator is not None
    try:
        regulator = codec.load_design(design.regulator)
    except (ValueError, InputError):
        return None
    regulation = of(regulator.method)
    return {
        "id": design.id,
        "revision": design.revision,
        "core_version": design.core_version,
        "who": design.who,
        "made_at": design.made_at,
        "name": design.name,
        "method": regulator.method,
        "method_name": regulation.name,
        "text": regulation.said(regulator),
        "design": door_of(regulator.method).typed(regulator),
    }


_MOST_DESIGNS = 40


def design_lines(loaded: Loaded) -> list[DesignLine]:
    """The designs of a job that can stand again, newest first; one chosen twice counts once, unless it has readings."""
    standing = loaded.design.root if loaded.design and loaded.design.regulator is not None else None
    read = Counter(
        r.design_id
        for r in readings.standing(loaded.readings)
        if r.design_id is not None and r.value is not None
    )
    lines: list[DesignLine] = []
    seen: set[str] = set()
    for d in reversed(loaded.revisions):
        if d.regulator is None or d.restores is not None:
            continue
        key = json.dumps(d.regulator, sort_keys=True)
        wanted = d.id == standing or read[d.id] > 0
        if not wanted and (key in seen or len(lines) >= _MOST_DESIGNS):
            continue
        seen.add(key)
        told = _told(d)
        if told is not None:
            lines.append(DesignLine(**told, stands=d.id == standing, proofs=read[d.id]))
    return lines


def changes_of(loaded: Loaded, computed: Frame | None) -> list[Change]:
    """Only of a design in use: one that was handed over, or computed by another core."""
    design = loaded.design
    if computed is None or design is None or design.regulator is None or design.kept is None:
        return []
    signed = any(h.design_id in (design.id, design.root) for h in loaded.handovers)
    if not signed and design.core_version == CORE_VERSION:
        return []
    return list(changes(design.kept, computed))


def aside_of(database: Database, loaded: Loaded, computed: Frame | None) -> list[Aside]:
    """Shelf parts put aside for the job, and those its regulator is made from."""
    mine = {r.part_id: r for r in loaded.aside}
    wanted = [p.shelf_id for p in computed.parts if p.shelf_id is not None] if computed else []
    found = []
    for part_id in dict.fromkeys([*wanted, *mine]):
        try:
            part = shelf.get(database, part_id)
        except NotFound:
            continue
        held = mine.get(part_id)
        found.append(
            Aside(
                part_id=part_id,
                text=part_words(part),
                place=part.place,
                reserved=held.reserved if held else 0,
                used=held.used if held else 0,
                free=part.free,
            )
        )
    return found
