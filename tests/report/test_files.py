"""Files out and in: nothing that comes in is trusted, and what goes out comes back."""

from __future__ import annotations

import json
from collections.abc import Callable
from typing import Any, TypeVar

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from fenwit.core.circuit.drawing import draw
from fenwit.core.errors import InputError
from fenwit.core.methods.series_capacitor.design import BankDesign, bank_circuit
from fenwit.core.size.capacitor import Capacitor
from fenwit.report.bundle import Bundle, bundle_schema, read_bundle, write_bundle
from fenwit.report.csvfiles import read_csv, with_unit, write_csv
from fenwit.report.picture import picture_svg
from fenwit.report.record import Fact, PartLine, Record, Sheet, page_html
from fenwit.report.schematic import schematic_picture
from tests.conftest import ROOT

T = TypeVar("T")
AT = "2026-11-25T10:00:00Z"
JOB: dict[str, Any] = {
    "format": "fenwit-job/1",
    "fan": {"name": "Bunk room 3", "motor_kind": "psc", "poles": 16, "rated_voltage_v": 230.0},
    "job": {
        "supply_voltage_v": 230.0, "supply_frequency_hz": 50.0, "wanted_rpm": [120.0, 330.0],
        "created_at": AT, "saved_at": AT,
    },
    "designs": [
        {
            "regulator": {"capacitors": [{"nominal_f": 1.8e-6}], "patterns": ["A", "direct"]},
            "core_version": "2", "made_at": AT,
        }
    ],
    "readings": [
        {"quantity": "speed_rpm", "value": 331.0, "typed": "331", "taken_at": AT},
        {"quantity": "speed_rpm", "value": 330.0, "typed": "330", "taken_at": AT, "supersedes": 1},
        {"quantity": "speed_rpm", "value": 121.0, "typed": "121", "taken_at": AT, "step": 1, "design": 1},
    ],
}  # fmt: skip


def encoded(**changes: Any) -> bytes:
    return json.dumps({**JOB, **changes}).encode()


def test_a_bundle_comes_back_as_it_went() -> None:
    bundle = read_bundle(encoded())
    data = write_bundle(bundle)
    assert read_bundle(data) == bundle
    assert write_bundle(read_bundle(data)) == data


def test_the_schema_in_the_docs_is_the_one_that_is_checked() -> None:
    written = json.loads((ROOT / "docs" / "fenwit-job-2.schema.json").read_text())
    assert written == bundle_schema()


@pytest.mark.parametrize(
    ("data", "reason"),
    [
        (b"", "no JSON|breaks off"),
        (encoded()[:-40], "breaks off"),
        (b"x" * 9_000_000, "too large"),
        (b"\xff\xfe\x00", "no text file"),
        (b"[1, 2]", "no job"),
        (b'{"format": "fenwit-job/3"}', "newer Fenwit"),
        (b'{"format": "fenwit-job/99999999999999"}', "newer Fenwit"),
        (b'{"format": "fenwit-case/1"}', "no job written by Fenwit"),
        (b'{"format": 1}', "no job written by Fenwit"),
        (b"[" * 100_000, "nested|no JSON|breaks off"),
        (b'{"format": "fenwit-job/1", "fan": NaN}', "no JSON"),
        (b'{"format": "fenwit-job/1", "x": 1e999}', "no JSON"),
        (encoded(fan={"name": "x\u0000y"}), "cannot be printed"),
        (encoded(fan={"name": "x", "poles": 15}), "multiple of 2"),
        (encoded(fan={"name": "x", "rated_power_w": -1.0}), "greater than 0"),
        (encoded(fan={"name": "x", "run_it": "rm"}), "not permitted"),
        (encoded(fan={"name": "x", "rated_power_w": True}), "valid number"),
        (encoded(fan={"name": "x" * 121}), "at most 120"),
        (encoded(job={**JOB["job"], "supply_voltage_v": 1e9}), "less than or equal to 1000"),
        (encoded(job={**JOB["job"], "profile": {"evenness": 99}}), "outside what can be real"),
        (encoded(job={**JOB["job"], "created_at": "2026-11-25T10:00:00"}), "timezone"),
        (encoded(designs=[{**JOB["designs"][0], "restores": 1}]), "restores a later"),
        (
            encoded(designs=[{**JOB["designs"][0], "regulator": {"capacitors": [], "patterns": ["A"]}}], readings=[]),
            "one to three capacitors",
        ),
        (
            encoded(
                designs=[
                    {
                        **JOB["designs"][0],
                        "regulator": {
                            "capacitors": [{"nominal_f": 4e-5, "part_class": "electrolytic"}], "patterns": ["A"],
                        },
                    }
                ]
            ),
            "bursts",
        ),
        (encoded(designs=[]), "no such design"),
        (encoded(readings=[{**JOB["readings"][0], "supersedes": 1}]), "no earlier reading"),
        (encoded(readings=JOB["readings"][:1] * 2), "second first reading"),
        (encoded(readings=[{**JOB["readings"][0], "step": 1}]), "belong together"),
        (encoded(readings=[JOB["readings"][0], JOB["readings"][1], JOB["readings"][1]]), "no earlier reading"),
        (encoded(handovers=[{"who": "x", "core_version": "1", "record": {}, "at": AT, "design": 5}]), "no design"),
    ],
)  # fmt: skip
def test_a_bundle_that_cannot_be_gets_a_reason(data: bytes, reason: str) -> None:
    with pytest.raises(InputError, match=reason):
        read_bundle(data)


json_like = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats() | st.text(max_size=20),
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(st.text(max_size=12), inner, max_size=4),
    max_leaves=12,
)


@settings(max_examples=150, deadline=None)
@given(st.sampled_from(sorted(JOB)), json_like)
def test_no_bundle_is_half_taken_for_good(part: str, value: Any) -> None:
    """Whatever stands in one of its places: a job that holds together, or a reason."""
    bundle = reads(read_bundle, json.dumps({**JOB, part: value}).encode())
    if bundle is not None:
        assert read_bundle(write_bundle(bundle)) == bundle


def reads(read: Callable[[bytes], T], data: bytes) -> T | None:
    """What was read, or None for a refusal with a reason; anything else goes up."""
    try:
        return read(data)
    except InputError as error:
        return None if error.reason else pytest.fail("a refusal without a reason")


@settings(max_examples=150, deadline=None)
@given(st.binary(max_size=400))
def test_no_bytes_bring_the_readers_down(data: bytes) -> None:
    assert reads(read_bundle, data) is None
    sheet = reads(read_csv, data)
    assert sheet is None or all(len(row) == len(sheet.headings) for row in sheet.rows)


@settings(max_examples=100, deadline=None)
@given(
    st.lists(
        st.lists(
            st.text(st.characters(blacklist_categories=("Cs", "Cc")), max_size=12).map(str.strip),
            min_size=3,
            max_size=3,
        ).filter(lambda row: any(row) and not any(c.startswith("'") for c in row)),
        min_size=1,
        max_size=6,
    )
)
def test_a_table_comes_back_as_it_went(rows: list[list[str]]) -> None:
    sheet = read_csv(write_csv(("step", "speed (rpm)", "who"), rows).encode())
    assert [list(r) for r in sheet.rows] == rows
    assert (sheet.headings[1].name, sheet.headings[1].unit) == ("speed", "rpm")


@pytest.mark.parametrize(
    "text",
    [
        "step;speed (rpm)\r\n1;120,5\r\n",
        'step,speed (rpm)\n1,"120,5"\n',
        "step\tspeed (rpm)\n1\t120,5\n",
        "\ufeffStep;Speed (rpm)\n\n1;120,5\n",
    ],
)
def test_commas_semicolons_and_tabs_are_told_apart(text: str) -> None:
    sheet = read_csv(text.encode())
    assert sheet.rows == (("1", "120,5"),)
    assert sheet.headings[1].unit == "rpm"


@pytest.mark.parametrize(
    ("data", "reason"),
    [
        (b"", "empty"),
        (b"only one column\n1\n", "only one column"),
        (b"a;b\n", "nothing under it"),
        (b",", "nothing in the file but separators"),
        (b";;\n;;\n", "nothing in the file but separators"),
        (b"\x1c", "only one column"),
        (b'a;b\n"never closed;1\n', "breaks off"),
        (b"PK\x03\x04\x00\x00", "no text file"),
        (b"a;b\n" + b"1;2\n" * 6000, "too many rows"),
        (b"a;b\n" + b"1;" + b"2" * 3_000_000, "too large"),
    ],
)
def test_a_table_that_cannot_be_read_says_why(data: bytes, reason: str) -> None:
    with pytest.raises(InputError, match=reason):
        read_csv(data)


def test_a_cell_that_a_spreadsheet_would_run_is_made_inert() -> None:
    text = write_csv(("place",), [["=2+5"], ["@x"], ["-12"], ["-x"]])
    assert text.splitlines()[1:] == ["'=2+5", "'@x", "-12", "'-x"]


def test_a_unit_goes_only_with_a_bare_number() -> None:
    assert with_unit("230", "V") == "230 V"
    assert with_unit("2.5e-06", "F") == "2.5e-06 F"
    assert with_unit("120,5", "rpm") == "120,5 rpm"
    assert with_unit("318m", "mA") == "318m"
    assert with_unit("x", "V") == "x"


EVIL = "<script>alert(1)</script> & “x” 🌀"
RECORD = Record(
    job_id=7, name=EVIL, place=EVIL, wish=EVIL, status=EVIL, facts=(Fact(EVIL, EVIL),), design_title="", steps=(),
    parts=(PartLine("F", "fuse", EVIL, EVIL, EVIL, EVIL, EVIL),), wiring=(), schematic=None, rules=(), spreads=(),
    readings=(), cautions=(), assumptions=(EVIL,), core_version="2", made_at="now",
)  # fmt: skip


@pytest.mark.parametrize("sheet", list(Sheet))
def test_what_was_typed_is_text_on_paper(sheet: Sheet) -> None:
    page = page_html(sheet, RECORD, {})
    assert "<script" not in page
    assert "&lt;script&gt;" in page


def test_labels_on_the_schematic_are_text() -> None:
    circuit = bank_circuit(BankDesign((Capacitor(1e-6),), ("A", "direct")))
    svg = picture_svg(schematic_picture(draw(circuit), {"A": EVIL, "F": "$x^2$"}, EVIL, EVIL))
    assert "<script" not in svg
    assert 'role="img"' in svg
    assert svg.count("<title>") == 1


def test_a_bundle_names_its_format_first() -> None:
    assert write_bundle(Bundle.model_validate(JOB)).decode().splitlines()[1] == ' "format": "fenwit-job/1",'
