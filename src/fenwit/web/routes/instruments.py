"""The instrument register: meters with what their data sheets allow them to miss."""

from __future__ import annotations

from fenwit.store import instruments
from fenwit.store.database import Database
from fenwit.web import routing
from fenwit.web.edits import InstrumentEdit, InstrumentShown
from fenwit.web.fields import Db, RowId
from fenwit.web.findings import instrument_of, read_instrument, typed_range

router = routing.router("/api/instruments", "instruments")


@router.get("")
def list_instruments(db: Db) -> list[InstrumentShown]:
    """The meters at hand."""
    return _all(db)


@router.post("", status_code=201)
def add_instrument(edit: InstrumentEdit, db: Db) -> list[InstrumentShown]:
    """Enter a meter."""
    instruments.add(db, read_instrument(edit))
    return _all(db)


@router.put("/{instrument_id}")
def edit_instrument(instrument_id: RowId, edit: InstrumentEdit, db: Db) -> list[InstrumentShown]:
    """Change a meter, or put it away; readings keep the uncertainty they were taken with."""
    instruments.save(db, instrument_id, edit.version, read_instrument(edit))
    return _all(db)


def _all(db: Database) -> list[InstrumentShown]:
    found = []
    for row in instruments.every(db):
        meter = instrument_of(row.name, row.true_rms, row.ranges)
        functions = dict.fromkeys(r.quantity for r in meter.ranges)
        found.append(
            InstrumentShown(
                id=row.id,
                version=row.version,
                name=row.name,
                true_rms=row.true_rms,
                ranges=[typed_range(r) for r in meter.ranges],
                text=_words(list(functions), row.true_rms),
            )
        )
    return found


def _words(functions: list[str], true_rms: bool) -> str:
    listed = ", ".join(functions) or "no ranges yet"
    if not {"voltage", "current"} & set(functions):
        return listed
    return f"{listed}; {'true rms' if true_rms else 'average-responding'}"
