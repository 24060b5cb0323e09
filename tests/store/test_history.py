"""Undo and redo, the shelf, cards, and designs from before: on a real PostgreSQL."""

from __future__ import annotations

import json
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from datetime import timedelta
from typing import Any

import psycopg
import pytest

from fenwit.core.methods.series_capacitor.design import BankDesign
from fenwit.store import cards, codec, designs, history, jobs, readings, shelf
from fenwit.store.database import Database
from fenwit.store.errors import NotFound, Stale
from fenwit.store.jobs import Job
from fenwit.store.migrate import migrations

PART: dict[str, Any] = {
    "class_": "x2-film", "nominal": 2.7e-6, "measured": None, "tolerance": 0.1, "rating": 305.0, "count": 3,
    "place": "drawer 4", "note": "", "gone": False,
}  # fmt: skip
BANK = {"capacitors": [{"nominal_f": 1.8e-6}], "patterns": ["A", "direct"]}


@pytest.fixture
def job(database: Database) -> Job:
    return jobs.add(database, name="Bunk room 3", place="lodge", wish="quiet")


def edit_wish(database: Database, job_id: int, wish: str) -> None:
    before = jobs.get(database, job_id)
    after = jobs.save(database, job_id, before.version, wish=wish)
    history.record(database, job_id, "what is wanted", [history.job_change(before, after)], "R. Fell")


def read(database: Database, job: Job, value: float) -> readings.Reading:
    before = readings.newest(database, job.id, "speed_rpm", None, None)
    after = readings.add(
        database, fan_id=job.fan_id, job_id=job.id, quantity="speed_rpm", value=value, typed=f"{value:g}",
        who="R. Fell", supersedes=before.id if before else None,
    )  # fmt: skip
    history.record(database, job.id, "full speed", [history.reading_change(before, after)])
    return after


def choose(database: Database, job: Job, after: int, farads: float) -> designs.Design:
    before = designs.latest(database, [job.id]).get(job.id)
    made = designs.add(
        database, job.id, after_revision=after, regulator={**BANK, "capacitors": [{"nominal_f": farads}]},
        kept={"x": farads}, core_version="2", who="",
    )  # fmt: skip
    history.record(database, job.id, "the bank", [history.design_change(before, made)])
    return made


def test_edits_go_back_and_forth_in_their_order(database: Database, job: Job) -> None:
    for wish in ("one", "two", "three"):
        edit_wish(database, job.id, wish)
    wishes = []
    for _ in range(3):
        history.step_back(database, job.id, "")
        wishes.append(jobs.get(database, job.id).wish)
    assert wishes == ["two", "one", "quiet"]
    with pytest.raises(history.NothingToUndo):
        history.step_back(database, job.id, "")
    history.step_forward(database, job.id, "")
    history.step_forward(database, job.id, "")
    assert jobs.get(database, job.id).wish == "two"
    # A new edit takes the place of what was undone.
    edit_wish(database, job.id, "four")
    with pytest.raises(history.NothingToUndo):
        history.step_forward(database, job.id, "")
    history.step_back(database, job.id, "")
    assert jobs.get(database, job.id).wish == "two"


def test_undoing_a_fan_a_profile_and_speeds(database: Database, job: Job) -> None:
    fan = jobs.get_fan(database, job.fan_id)
    changed = jobs.save_fan(database, replace(fan, poles=16, motor_kind="psc"))
    history.record(database, job.id, "poles", [history.fan_change(fan, changed)])
    saved = jobs.save(database, job.id, job.version, wanted_rpm=[100.0, 330.0], profile={"evenness": 0.5})
    history.record(database, job.id, "speeds", [history.job_change(job, saved)])
    history.step_back(database, job.id, "")
    now = jobs.get(database, job.id)
    assert (now.wanted_rpm, now.profile) == ([], {})
    history.step_back(database, job.id, "")
    assert jobs.get_fan(database, job.fan_id).poles is None
    history.step_forward(database, job.id, "")
    history.step_forward(database, job.id, "")
    assert jobs.get_fan(database, job.fan_id).motor_kind == "psc"
    assert jobs.get(database, job.id).wanted_rpm == [100.0, 330.0]


def test_an_undone_reading_stays_in_the_book(database: Database, job: Job) -> None:
    read(database, job, 3300.0)
    read(database, job, 330.0)
    history.step_back(database, job.id, "M. Tarn")
    rows = readings.of_jobs(database, [job.id])
    assert [r.value for r in rows] == [3300.0, 330.0, 3300.0]
    assert [r.value for r in readings.standing(rows)] == [3300.0]
    history.step_back(database, job.id, "")
    assert readings.standing(readings.of_jobs(database, [job.id])) == []
    history.step_forward(database, job.id, "")
    history.step_forward(database, job.id, "")
    rows = readings.of_jobs(database, [job.id])
    assert [r.value for r in readings.standing(rows)] == [330.0]
    assert len(rows) == 6


def test_a_design_that_is_brought_back_brings_its_readings(database: Database, job: Job) -> None:
    first = choose(database, job, 0, 1.8e-6)
    second = choose(database, job, 1, 2.2e-6)
    assert second.root == second.id
    history.step_back(database, job.id, "")
    back = designs.latest(database, [job.id])[job.id]
    assert (back.revision, back.root, back.regulator, back.kept) == (3, first.id, first.regulator, first.kept)
    history.step_back(database, job.id, "")
    assert designs.latest(database, [job.id])[job.id].regulator is None
    history.step_forward(database, job.id, "")
    assert designs.latest(database, [job.id])[job.id].root == first.id


def test_an_undo_over_somebody_elses_change_is_stale(database: Database, job: Job) -> None:
    edit_wish(database, job.id, "mine")
    now = jobs.get(database, job.id)
    jobs.save(database, job.id, now.version, wish="not written down")
    with pytest.raises(Stale):
        history.step_back(database, job.id, "")
    assert jobs.get(database, job.id).wish == "not written down"
    with pytest.raises(NotFound):
        history.step_back(database, 99, "")


def test_two_undos_at_once_take_two_edits_back(database: Database, job: Job) -> None:
    for wish in ("one", "two", "three"):
        edit_wish(database, job.id, wish)
    with ThreadPoolExecutor(2) as hands:
        list(hands.map(lambda _: history.step_back(database, job.id, ""), range(2)))
    assert jobs.get(database, job.id).wish == "one"


def test_parts_are_counted_once(database: Database, job: Job) -> None:
    part = shelf.add(database, PART)
    other = jobs.add(database, name="other", place="", wish="")
    shelf.set_reservation(database, part.id, job.id, 2, 0)
    with pytest.raises(shelf.NotEnough) as few:
        shelf.set_reservation(database, part.id, other.id, 2, 0)
    assert (few.value.wanted, few.value.free) == (2, 1)
    shelf.set_reservation(database, part.id, job.id, 3, 0)
    assert shelf.get(database, part.id).free == 0
    shelf.set_reservation(database, part.id, job.id, 0, 0)
    assert shelf.get(database, part.id).free == 3


def test_of_two_jobs_at_once_one_gets_the_last_piece(database: Database, job: Job) -> None:
    part = shelf.add(database, {**PART, "count": 1})
    takers = [job.id, *(jobs.add(database, name=f"f{i}", place="", wish="").id for i in range(5))]

    def take(job_id: int) -> bool:
        try:
            with database.transaction():
                shelf.set_reservation(database, part.id, job_id, 1, 0)
        except shelf.NotEnough:
            return False
        return True

    with ThreadPoolExecutor(4) as hands:
        assert list(hands.map(take, takers)).count(True) == 1
    assert shelf.get(database, part.id).reserved == 1


def test_a_stale_part_gets_the_stored_one_and_a_taken_one_can_come_back(database: Database) -> None:
    part = shelf.add(database, PART)
    history.record(database, None, "film X2", [history.shelf_change(part.id, None, PART)])
    saved = shelf.save(database, part.id, part.version, {**PART, "count": 2})
    with pytest.raises(Stale) as stale:
        shelf.save(database, part.id, part.version, {**PART, "count": 1})
    assert stale.value.current == saved
    history.record(database, None, "film X2", [history.shelf_change(part.id, PART, {**PART, "count": 2})])
    history.step_back(database, None, "")
    history.step_back(database, None, "")
    assert shelf.every(database) == []
    history.step_forward(database, None, "")
    assert [p.count for p in shelf.every(database)] == [3]


@pytest.mark.parametrize(
    "change", [{"nominal": 0}, {"count": -1}, {"rating": 0}, {"tolerance": 2}, {"place": "x" * 121}]
)
def test_the_shelf_refuses_nonsense(database: Database, change: dict[str, Any]) -> None:
    with pytest.raises(psycopg.errors.CheckViolation):
        shelf.add(database, {**PART, **change})


def test_cards_are_found_by_any_word_and_counted_by_what_they_wait_for(database: Database) -> None:
    for i, (kind, words) in enumerate(
        (("size", "Bunk room sweep"), ("prove", "Bunk bed 100% fan"), ("size", "Cellar _ fan"))
    ):
        job = jobs.add(database, name=f"f{i}", place="", wish="")
        given = {"waits_kind": kind, "search": words, "body": {"n": i}}
        cards.put(database, job.id, core_version="2", saved_at=job.saved_at, **given)

    def ask(**given: Any) -> list[int]:
        asked = {"kind": None, "words": [], "after": 0, "limit": 9, **given}
        return [json.loads(c.body)["n"] for c in cards.page(database, **asked)]

    assert ask() == [0, 1, 2]
    assert ask(words=["BUNK"]) == [0, 1]
    assert ask(words=["bunk", "sweep"]) == [0]
    assert ask(words=["0%"]) == [1]
    assert ask(words=["_"]) == [2]
    assert ask(kind="size", limit=1) == [0]
    assert {c.waits_kind: c.count for c in cards.counts(database, ["fan"], "2")} == {"prove": 1, "size": 1}
    assert [c.older for c in cards.counts(database, ["fan"], "3")] == [1, 1]
    assert cards.behind(database, "2") == []
    assert cards.behind(database, "3", 2) == [1, 2]
    # A save that is not on its card yet, and a card of an earlier save that comes late.
    jobs.touch(database, 2)
    assert cards.behind(database, "2") == [2]
    late = jobs.get(database, 2).saved_at - timedelta(seconds=60)
    cards.put(database, 2, core_version="2", saved_at=late, waits_kind="size", search="", body={"n": 9})
    assert ask(words=["bed"]) == [1]


def test_a_bank_of_before_becomes_a_regulator(cluster_url: str) -> None:
    """The migration of designs that had two capacitors in columns."""
    with psycopg.connect(cluster_url, autocommit=True) as connection:
        connection.execute("CREATE DATABASE of_before")
    url = cluster_url.rsplit("/", 1)[0] + "/of_before"
    first, second = (text for _, text in migrations()[:2])
    with psycopg.connect(url) as connection:
        connection.execute(first.encode())
        connection.execute("INSERT INTO fan (name) VALUES ('x')")
        connection.execute("INSERT INTO job (fan_id) VALUES (1)")
        connection.execute(
            "INSERT INTO design (job_id, revision, a_f, b_f, patterns, tolerance, core_version)"
            " VALUES (1, 1, 1.8e-6, 2.7e-6, '{A,B,A∥B,direct}', 0.1, '1')"
        )
        connection.execute(second.encode())
        row = connection.execute("SELECT regulator FROM design").fetchone()
    assert row is not None
    bank = codec.load(BankDesign, row[0])
    assert [c.value_f for c in bank.capacitors] == [1.8e-6, 2.7e-6]
    assert bank.patterns == ("A", "B", "A∥B", "direct")
    assert bank.switch.positions == 4
