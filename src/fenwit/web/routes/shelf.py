"""Shelf: the parts at hand; CSV in and out."""

from __future__ import annotations

from typing import Any

from fastapi import Request, Response

from fenwit.core import quantity as q
from fenwit.core.errors import InputError, check_range
from fenwit.core.size.capacitor import Capacitor
from fenwit.core.size.classes import CLASSES, ClassFacts, Duty, PartClass
from fenwit.report.csvfiles import Sheet, read_csv, with_unit, write_csv
from fenwit.store import history, jobs, shelf
from fenwit.store.database import Database
from fenwit.web import routing
from fenwit.web.fields import Db, RowId
from fenwit.web.heavy import HEAVY
from fenwit.web.models import ClassChoice, ImportPreview, ImportRow, PartEdit, PartShown, ShelfPage, Who
from fenwit.web.page import history_state
from fenwit.web.parts import class_of, part_words, show_nominal
from fenwit.web.uploads import CSV_BODY, body_of, download

router = routing.router("/api/shelf", "shelf")

_HEADINGS = ("class", "nominal", "measured", "tolerance (%)", "rating", "count", "place", "note")


@router.get("")
def list_parts(db: Db) -> ShelfPage:
    """The parts at hand."""
    return _page(db)


@router.get("/classes")
def list_classes() -> list[ClassChoice]:
    """The classes of parts Fenwit knows."""
    return [
        ClassChoice(
            key=key.value,
            name=facts.name,
            duty=facts.duty.value,
            rating_unit="W" if facts.duty is Duty.RESISTOR else "V",
            refused=facts.refused,
        )
        for key, facts in CLASSES.items()
    ]


@router.post("/parts", status_code=201)
def add_part(edit: PartEdit, db: Db) -> ShelfPage:
    """Put a part on the shelf."""
    with db.transaction():
        values = read_part(edit)
        part = shelf.add(db, values)
        history.record(db, None, part_words(part), [history.shelf_change(part.id, None, values)])
        return _page(db)


@router.put("/parts/{part_id}")
def edit_part(part_id: RowId, edit: PartEdit, db: Db) -> ShelfPage:
    """Change a part, or take it off the shelf."""
    with db.transaction():
        before = shelf.get(db, part_id)
        values = read_part(edit)
        if not edit.gone and values["count"] < before.reserved:
            raise InputError(
                "count", values["count"], f"at least {before.reserved}", "that many are put aside for jobs"
            )
        if edit.gone and before.reserved:
            raise InputError("gone", True, "a part that is free", f"{before.reserved} are put aside for jobs")
        shelf.save(db, part_id, edit.version, values)
        change = history.shelf_change(part_id, shelf.values_of(before), values)
        history.record(db, None, part_words(before), [change])
        return _page(db)


@router.post("/undo")
def undo(by: Who, db: Db) -> ShelfPage:
    """Take the last edit of the shelf back."""
    with db.transaction():
        history.step_back(db, None, by.who)
        return _page(db)


@router.post("/redo")
def redo(by: Who, db: Db) -> ShelfPage:
    """Do again what was undone last."""
    with db.transaction():
        history.step_forward(db, None, by.who)
        return _page(db)


@router.get("/parts.csv", response_class=Response)
def export(db: Db) -> Response:
    """The shelf as CSV."""
    rows = []
    for part in shelf.every(db):
        facts = CLASSES[PartClass(part.class_)]
        rows.append(
            (
                facts.name,
                _bench(part.nominal, facts),
                "" if part.measured is None else _bench(part.measured, facts, 4),
                f"{100 * part.tolerance:g}",
                f"{part.rating:g} {_rating_unit(facts)}",
                str(part.count),
                part.place,
                part.note,
            )
        )
    return download(write_csv(_HEADINGS, rows).encode(), "shelf.csv", "text/csv; charset=utf-8")


@router.post("/import", openapi_extra=CSV_BODY, dependencies=[HEAVY])
async def import_parts(request: Request, take: bool = False) -> ImportPreview:
    """What a CSV would put on the shelf; with ``take`` its good rows are put there."""
    from starlette.concurrency import run_in_threadpool

    data = await body_of(request, "text/csv")
    return await run_in_threadpool(_import, request.app.state.database, data, take)


def _import(db: Database, data: bytes, take: bool) -> ImportPreview:
    sheet = read_csv(data)
    names = [h.name for h in sheet.headings]
    for needed in ("class", "nominal"):
        if needed not in names:
            raise InputError(
                "file", ";".join(names)[:60], "; ".join(_HEADINGS), f"there is no column “{needed}”"
            )
    rows, good = [], []
    for i, row in enumerate(sheet.rows):
        line = sheet.first_line + i
        try:
            values = read_part(_row(sheet, row))
        except (InputError, ValueError) as error:
            reason = f"{error.field}: {error.reason}" if isinstance(error, InputError) else str(error)[:120]
            rows.append(ImportRow(line=line, text="; ".join(row)[:100], problem=reason))
            continue
        facts = CLASSES[PartClass(values["class_"])]
        text = f"{values['count']} × {facts.name}, {show_nominal(values['nominal'], facts)} {values['place']}"
        rows.append(ImportRow(line=line, text=text.strip(), problem=""))
        good.append(values)
    if take:
        if not good:
            raise InputError(
                "file", len(sheet.rows), "at least one good row", "no row of this file can be taken"
            )
        with db.transaction():
            changes = [history.shelf_change(shelf.add(db, v).id, None, v) for v in good]
            history.record(db, None, f"{len(good)} parts from a file", changes)
    return ImportPreview(rows=rows, good=len(good), bad=len(rows) - len(good), done=take)


def _row(sheet: Sheet, row: tuple[str, ...]) -> PartEdit:
    cells = {h.name: with_unit(text, h.unit) for h, text in zip(sheet.headings, row, strict=True)}
    key = next(
        (k.value for k, f in CLASSES.items() if cells.get("class", "").lower() in (f.name.lower(), k.value)),
        cells.get("class", ""),
    )
    return PartEdit(
        part_class=key,
        nominal=cells.get("nominal", ""),
        measured=cells.get("measured", ""),
        tolerance=cells.get("tolerance", ""),
        rating=cells.get("rating", ""),
        count=cells.get("count", "") or "1",
        place=cells.get("place", ""),
        note=cells.get("note", ""),
    )


# ---------------------------------------------------------------- between typed and stored


def read_part(edit: PartEdit) -> dict[str, Any]:
    """A typed part as it is stored. Raises InputError beside the field."""
    part_class = class_of("part_class", edit.part_class)
    facts = CLASSES[part_class]
    nominal = _nominal(edit.nominal, facts)
    measured = None
    if edit.measured:
        if facts.duty not in (Duty.CAPACITOR, Duty.RESISTOR):
            raise InputError(
                "measured", edit.measured, "nothing", f"a {facts.duty.value} has no measured value"
            )
        measured = q.parse("measured", edit.measured, facts.dimension)
    tolerance = q.parse("tolerance", edit.tolerance, q.RATIO) / 100 if edit.tolerance else facts.tolerance
    check_range("tolerance", tolerance, 0.0, 0.9, "")
    rating = _rating(edit.rating, facts)
    if facts.duty is Duty.CAPACITOR:
        Capacitor(nominal, part_class, rating, tolerance, measured)
    count = _count(edit.count)
    return {
        "class_": part_class.value,
        "nominal": nominal,
        "measured": measured,
        "tolerance": tolerance,
        "rating": rating,
        "count": count,
        "place": edit.place,
        "note": edit.note,
        "gone": edit.gone,
    }


def _nominal(text: str, facts: ClassFacts) -> float:
    if facts.duty is not Duty.SWITCH:
        return q.parse("nominal", text, facts.dimension)
    digits = text.removesuffix("positions").strip()
    if not digits.isdecimal() or not 2 <= int(digits[:3]) <= 12:
        raise InputError("nominal", text, "2 to 12 positions", "a number of positions is wanted here")
    return float(digits)


def _rating(text: str, facts: ClassFacts) -> float:
    if facts.duty is Duty.RESISTOR:
        if not text:
            raise InputError("rating", text, "watts, such as 1/2 W", "a resistor's watts are wanted here")
        return q.parse("rating", text, q.POWER)
    if not text:
        return facts.rated_v
    value = q.parse("rating", text, q.VOLTAGE)
    if value <= 0:
        raise InputError("rating", text, "above zero", "must be above zero")
    return value


def _count(text: str) -> int:
    if not text.isdecimal() or len(text) > 6 or int(text) > 100_000:
        raise InputError("count", text, "0 to 100000", "a whole number of pieces is wanted here")
    return int(text)


def _bench(value: float, facts: ClassFacts, digits: int = 3) -> str:
    return f"{value:g}" if facts.duty is Duty.SWITCH else q.bench(value, facts.dimension, digits)


def _rating_unit(facts: ClassFacts) -> str:
    return "W" if facts.duty is Duty.RESISTOR else "V"


def _page(db: Database) -> ShelfPage:
    names: dict[int, str] = {}
    aside: dict[int, list[str]] = {}
    for held in shelf.everything_aside(db):
        if held.job_id not in names:
            names[held.job_id] = jobs.get_fan(db, jobs.get(db, held.job_id).fan_id).name
        aside.setdefault(held.part_id, []).append(f"{held.reserved} for {names[held.job_id]}")
    return ShelfPage(
        parts=[_shown(part, aside.get(part.id, [])) for part in shelf.every(db)],
        history=history_state(history.stacks(db, None)),
    )


def _shown(part: shelf.ShelfPart, aside: list[str]) -> PartShown:
    facts = CLASSES[PartClass(part.class_)]
    return PartShown(
        id=part.id,
        version=part.version,
        part_class=part.class_,
        class_name=facts.name,
        duty=facts.duty.value,
        nominal=_bench(part.nominal, facts, 4),
        measured="" if part.measured is None else _bench(part.measured, facts, 4),
        tolerance=f"{100 * part.tolerance:g} %" if facts.duty in (Duty.CAPACITOR, Duty.RESISTOR) else "",
        rating=f"{part.rating:g} {_rating_unit(facts)}",
        count=part.count,
        reserved=part.reserved,
        free=part.free,
        place=part.place,
        note=part.note,
        refused=facts.refused,
        aside_for=aside,
    )
