"""What the Bench shows of every job: cards, stored so that ten thousand jobs need no solving."""

from __future__ import annotations

import logging
from collections.abc import Callable

from fenwit.core import CORE_VERSION
from fenwit.core.errors import InputError
from fenwit.core.frame import Frame, frame
from fenwit.core.frame.shown import Waits
from fenwit.core.motor.kinds import KINDS, MotorKind
from fenwit.store import cards
from fenwit.store.database import Database
from fenwit.web.models import BenchPage, Card
from fenwit.web.page.loading import UNREADABLE, Loaded, load

_RENEWING = 7_236_117
log = logging.getLogger("fenwit")


def bench_page(database: Database, *, kind: str | None, find: str, after: int, limit: int = 60) -> bytes:
    """Some jobs in hand as JSON of a `BenchPage`: stored cards go out as they are.

    Those of another core are told apart; `renew` makes them anew meanwhile.
    """
    words = find.split()
    with database.transaction():
        rows = cards.page(database, kind=kind, words=words, after=after, limit=limit)
        counted = cards.counts(database, words, CORE_VERSION)
        missing = cards.missing(database)
    left = missing + sum(c.older for c in counted)
    rest = BenchPage(
        cards=[],
        counts={c.waits_kind: c.count for c in counted},
        more_after=rows[-1].job_id if len(rows) == limit else None,
        older=[row.job_id for row in rows if row.core_version != CORE_VERSION],
        renewing=left,
    ).model_dump_json()
    return rest.replace('"cards":[]', f'"cards":[{",".join(row.body for row in rows)}]', 1).encode()


def renew(database: Database, stop: Callable[[], bool] = lambda: False, *, since_s: float = 0.0) -> int:
    """Make every card anew that is missing, of another core or of an earlier save, in the order of the jobs.

    Jobs saved less than ``since_s`` ago are left to who saved them.

    Returns how many were made; none while another process is at it.
    """
    made = 0
    with database.alone(_RENEWING) as mine:
        while mine and not stop():
            behind = cards.behind(database, CORE_VERSION, since_s=since_s)
            if not behind:
                break
            for job_id in behind:
                if stop():
                    break
                changed_card(database, job_id)
                made += 1
    return made


def changed_card(database: Database, job_id: int) -> Card:
    """Compute and store the card of a job; one that cannot be read gets a card that says so."""
    loaded = load(database, job_id)
    computed, unread = None, ""
    try:
        computed = frame(loaded.state)
    except InputError as error:
        unread = error.reason if error.field == UNREADABLE else ""
    except Exception as error:  # whatever is wrong with one job, the others are shown
        log.exception("the card of job %s cannot be made", job_id)
        unread = f"cannot be computed ({type(error).__name__})"
    return store_card(database, loaded, computed, unread)


def store_card(database: Database, loaded: Loaded, computed: Frame | None, unread: str = "") -> Card:
    """Store what the Bench shows of a job."""
    card = _card(loaded, computed, unread)
    fan = loaded.fan
    written = [fan.name, fan.place, fan.maker, fan.serial, loaded.job.wish, card.kind_name, card.waits_for]
    people = sorted({r.who for r in loaded.readings} | {h.who for h in loaded.handovers})
    cards.put(
        database,
        loaded.job.id,
        core_version=CORE_VERSION,
        saved_at=loaded.job.saved_at,
        waits_kind=card.waits_kind,
        search=" ".join([*written, *people]),
        body=card.model_dump(mode="json"),
    )
    return card


def _card(loaded: Loaded, computed: Frame | None, unread: str) -> Card:
    job, fan = loaded.job, loaded.fan
    return Card(
        id=job.id,
        name=fan.name,
        place=fan.place,
        kind_name=KINDS[MotorKind(fan.motor_kind)].name if fan.motor_kind else "",
        wish=job.wish,
        waits_for=unread or (computed.waits_for if computed else "readings disagree"),
        waits_kind=computed.waits_kind if computed else Waits.READING,
        spot=computed.next.spot if computed and computed.next else None,
        refused=bool(computed and computed.refused),
        full_rpm=computed.full.value if computed and computed.full else None,
        zones=computed.zones if computed else (),
        marks=computed.marks if computed else (),
    )
