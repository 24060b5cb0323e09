"""A number explains itself: the equation with the numbers in it comes out at the number shown."""

from __future__ import annotations

import re
from dataclasses import replace

import pytest

from fenwit.core import quantity as q
from fenwit.core.errors import InputError
from fenwit.core.frame import frame, why
from fenwit.core.frame.tables import changes, snapshot, tables
from fenwit.core.job.steps import PlaceKind
from tests.core.shapes import place
from tests.core.test_frame import BANK, SWEEP, WALL

CHOSEN = replace(SWEEP, design=BANK)
STEP = (
    "speed", "motor-volts", "amps", "watts", "motor-heat", "regulator-heat", "rise", "flow", "noise", "needed", "start",
    "slip", "power-factor", "torque", "regulator-volts",
)  # fmt: skip


@pytest.mark.parametrize("what", STEP)
def test_every_number_of_a_step_is_explained(what: str) -> None:
    found = why(CHOSEN, f"step:2:{what}")
    assert found.equation
    assert found.numbers
    assert found.validity
    assert found.source
    assert any(ch.isdigit() for ch in found.value)


def test_every_burden_every_rule_and_every_band_is_explained() -> None:
    shown = frame(CHOSEN)
    for part in shown.parts:
        for stress in part.stresses:
            found = why(CHOSEN, f"part:{part.name}:{stress.burden}")
            assert found.value.split(" of ")[0].split()[0].replace(".", "").isdigit()
            assert found.numbers[-1].startswith("worst at: ")
        if part.limit_text:
            assert "=" in why(CHOSEN, f"part:{part.name}:value").numbers[0]
    for rule in shown.rules:
        assert rule.value_text in why(CHOSEN, f"rule:{rule.key}").value
    for spread in shown.spreads:
        assert why(CHOSEN, f"spread:{spread.step}").value == spread.together.text
    assert why(CHOSEN, "full").value.startswith("330")


def test_what_the_model_says_of_a_reading_is_explained() -> None:
    shown = frame(CHOSEN)
    assert shown.checks
    for check in shown.checks:
        found = why(CHOSEN, f"check:{check.quantity}")
        assert found.value == check.expected
        assert found.numbers[0].endswith(f" = {check.expected}")
        assert found.numbers[1].startswith(f"read {check.read}: ")
    # The equation of the amps, worked again from the numbers it is given with.
    volts, admittance = re.findall(
        r"([\d.]+) V × ([\d.]+) mS", why(CHOSEN, "check:line_current_a").numbers[0]
    )[0]
    amps = next(c.expected for c in shown.checks if c.quantity == "line_current_a")
    # To the last digit that is shown, so that nobody who works it again is led astray.
    assert q.show(float(volts) * float(admittance) / 1000, q.CURRENT) == amps
    assert why(CHOSEN, "synchronous").value == f"{shown.synchronous_rpm:.0f} rpm"


def test_the_worst_miss_is_explained_from_every_step() -> None:
    found = why(CHOSEN, "miss")
    assert found.value.startswith(f"{frame(CHOSEN).miss_text} of full speed")
    for line, wanted, mark in zip(found.numbers, CHOSEN.wanted_rpm, frame(CHOSEN).marks, strict=True):
        assert mark.predicted
        share = 100 * abs(mark.predicted.value - wanted) / 330
        assert float(line.rsplit("= ")[1].removesuffix(" %")) == pytest.approx(share, abs=0.11)
    with pytest.raises(InputError, match="no bank is chosen"):
        why(SWEEP, "miss")


def test_the_explanation_gives_the_value_on_the_page() -> None:
    shown = frame(CHOSEN)
    assert why(CHOSEN, "step:1:speed").value == f"{shown.marks[0].predicted.text}"  # type: ignore[union-attr]
    assert why(CHOSEN, "step:1:motor-volts").value == place(shown.paths[0], PlaceKind.MOTOR).values[0].text
    assert why(CHOSEN, "step:1:watts").value == place(shown.paths[0], PlaceKind.SUPPLY).values[1].text
    for step in (1, 4):  # through a capacitor, and with nothing in the line
        left, _, right = why(CHOSEN, f"step:{step}:amps").numbers[0].partition(" at slip ")
        millisiemens, volts = (float(part.split()[0]) for part in left.split(" × "))
        assert q.show(millisiemens * volts / 1000, q.CURRENT) == right.split("= ")[1]
        assert "j-" not in why(CHOSEN, f"step:{step}:speed").numbers[0]
    # The power balance is written out, and its two sides agree.
    balance = why(CHOSEN, "step:3:watts").numbers[0]
    terms, total = balance.removesuffix(" W").split(" = ")
    assert sum(float(t) for t in terms.split(" + ")) == pytest.approx(float(total), rel=0.01)


@pytest.mark.parametrize(
    "key",
    [
        "",
        "step",
        "step:9:speed",
        "step:1:colour",
        "part:Z:volts",
        "part:A:surge",
        "rule:x",
        "spread:9",
        "part:S:value",
    ],
)
def test_what_is_not_shown_has_no_explanation(key: str) -> None:
    with pytest.raises(InputError):
        why(CHOSEN, key)


def test_a_barred_step_gives_no_number_away() -> None:
    state = replace(WALL, wanted_rpm=(700.0, 1400.0 / 1.15))
    found = frame(state)
    for mark in found.marks:
        if mark.predicted is None:
            with pytest.raises(InputError, match="no number is given"):
                why(state, f"step:{mark.step}:speed")


def test_nothing_is_explained_before_anything_is_known() -> None:
    with pytest.raises(InputError, match="nothing is computed"):
        why(replace(SWEEP, readings=()), "full")


def test_the_tables_hold_what_the_pictures_show() -> None:
    shown = frame(CHOSEN)
    steps, curve, parts = tables(CHOSEN)
    assert [row[2] for row in steps.rows] == [m.predicted.number for m in shown.marks if m.predicted]
    for table in (steps, curve, parts):
        assert all(len(row) == len(table.columns) for row in table.rows)
    assert {c.name for c in steps.columns} >= {"speed", "regulator heat", "motor volts", "motor heat"}
    assert len(curve.rows) == 160
    barred = [row for row in tables(WALL)[1].rows if row[3] == "barred"]
    assert all(row[1] == "" for row in barred)
    assert tables(replace(SWEEP, readings=())) == ()


def test_what_was_kept_is_compared_with_today() -> None:
    kept = snapshot(frame(CHOSEN))
    assert changes(kept, frame(CHOSEN)) == ()
    moved = {**kept, "step 2 speed, rpm": kept["step 2 speed, rpm"] * 1.1, "step 9 speed, rpm": 5.0}
    found = {c.name: c for c in changes(moved, frame(CHOSEN))}
    assert set(found) == {"step 2 speed, rpm", "step 9 speed, rpm"}
    assert found["step 9 speed, rpm"].now == "no longer given"
