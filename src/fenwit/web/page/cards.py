"""What the Bench shows of every job: cards, stored so that ten thousand jobs need no solving."""

from __future__ import annotations

import contextlib

from fenwit.core import CORE_VERSION
from fenwit.core.errors import InputError
from fenwit.core.frame import Frame, frame
from fenwit.core.motor.kinds import KINDS, MotorKind
from fenwit.store import cards
from fenwit.store.database import Database
from fenwit.web.models import BenchPage, Card
from fenwit.web.page.loading import Loaded, load

_carded: set[str] = set()


def bench_page(database: Database, *, kind: str | None, find: str, after: int, limit: int = 60) -> bytes:
    """Some jobs in hand as JSON of a `BenchPage`: stored cards go out as they are; one of another core is made anew."""
    words = find.split()
    if database.url not in _carded:
        # Jobs of before cards were stored; every later job brings its own.
        while missing := cards.without(database):
            for job_id in missing:
                changed_card(database, job_id)
        _carded.add(database.url)
    with database.transaction():
        rows = cards.page(database, kind=kind, words=words, after=after, limit=limit)
        counted = cards.counts(database, words)
    bodies = [
        row.body if row.core_version == CORE_VERSION else changed_card(database, row.job_id).model_dump_json()
        for row in rows
    ]
    rest = BenchPage(
        cards=[],
        counts={c.waits_kind: c.count for c in counted},
        more_after=rows[-1].job_id if len(rows) == limit else None,
    ).model_dump_json()
    return rest.replace('"cards":[]', f'"cards":[{",".join(bodies)}]', 1).encode()


def changed_card(database: Database, job_id: int) -> Card:
    """Compute and store the card of a job."""
    with database.transaction():
        loaded = load(database, job_id)
        computed = None
        with contextlib.suppress(InputError):
            computed = frame(loaded.state)
        return store_card(database, loaded, computed)


def store_card(database: Database, loaded: Loaded, computed: Frame | None) -> Card:
    """Store what the Bench shows of a job."""
    card = _card(loaded, computed)
    fan = loaded.fan
    written = [fan.name, fan.place, fan.maker, fan.serial, loaded.job.wish, card.kind_name, card.waits_for]
    people = sorted({r.who for r in loaded.readings} | {h.who for h in loaded.handovers})
    cards.put(
        database,
        loaded.job.id,
        core_version=CORE_VERSION,
        waits_kind=card.waits_kind,
        search=" ".join([*written, *people]),
        body=card.model_dump(mode="json"),
    )
    return card


def _card(loaded: Loaded, computed: Frame | None) -> Card:
    job, fan = loaded.job, loaded.fan
    return Card(
        id=job.id,
        name=fan.name,
        place=fan.place,
        kind_name=KINDS[MotorKind(fan.motor_kind)].name if fan.motor_kind else "",
        wish=job.wish,
        waits_for=computed.waits_for if computed else "readings disagree",
        waits_kind=computed.waits_kind if computed else "reading",
        refused=bool(computed and computed.refused),
        full_rpm=computed.full.value if computed and computed.full else None,
        zones=computed.zones if computed else (),
        marks=computed.marks if computed else (),
    )
