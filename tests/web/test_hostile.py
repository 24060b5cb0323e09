"""What a hostile file can do: nothing. And what somebody else typed is text, wherever it comes out."""

from __future__ import annotations

import io
import json
import re
import zlib
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from fenwit.report.csvfiles import read_csv, write_csv
from fenwit.report.picture import Picture, picture_svg, read_svg
from fenwit.report.record import Sheet, page_html, pdf
from tests.report.test_files import RECORD
from tests.web.test_api import CSV, JSON, WHO, page, refused

SCRIPT = "<script>alert(1)</script>"
MARKUP = (
    "<svg xmlns='http://www.w3.org/2000/svg' viewBox='0 0 10 10' onload='alert(1)'>"
    "<script>alert(1)</script><style>@import url(file:///etc/passwd);</style>"
    "<image href='file:///etc/passwd'/><use href='file:///etc/passwd#x'/>"
    "<foreignObject><iframe src='file:///etc/passwd'></iframe></foreignObject>"
    "<a href='javascript:alert(1)'><text x='1' y='2' onclick='alert(1)'>step &lt;b&gt; 1</text></a>"
    "<link rel='attachment' href='file:///etc/passwd'/><path d='M0 0 L5 5' stroke='url(file:///etc/passwd)'/></svg>"
)


def signed_bundle(client: TestClient, job: int = 2) -> dict[str, Any]:
    assert client.post(f"/api/jobs/{job}/handovers", json={"who": WHO}).status_code == 201
    found: dict[str, Any] = client.get(f"/api/jobs/{job}/bundle.json").json()
    return found


def take_in(client: TestClient, bundle: dict[str, Any]) -> Any:
    return client.post("/api/jobs/import", content=json.dumps(bundle), headers=JSON)


def everything_shown(client: TestClient, job: int) -> dict[str, str]:
    """Everything that is made of a job for people, as text."""
    signed = client.get(f"/api/jobs/{job}").json()["handovers"]
    paths = [
        "report.html",
        "label.html",
        "schematic.svg",
        "waves.svg",
        "firing.h",
        "firing.csv",
        "readings.csv",
    ]
    paths += [f"report.html?signed={h['id']}" for h in signed]
    return {p: client.get(f"/api/jobs/{job}/{p}").text for p in paths}


def old_markup(bundle: dict[str, Any], markup: str) -> dict[str, Any]:
    """The bundle as the version before wrote it, with ready-made drawings."""
    spoilt: dict[str, Any] = json.loads(json.dumps(bundle))
    spoilt["format"] = "fenwit-job/1"
    for handover in spoilt["handovers"]:
        record = handover["record"]
        del record["more_readings"]
        record["schematic"] = markup
        record["annexes"] = [
            {"title": "Waveforms", "note": "", "drawing": markup, "true_size": True, "lines": ["kept"]}
        ]
    return spoilt


def test_a_record_that_comes_in_brings_no_markup_along(client: TestClient) -> None:
    answer = take_in(client, old_markup(signed_bundle(client), MARKUP))
    assert answer.status_code == 201, answer.text
    job = answer.json()["job"]["id"]
    for path, text in everything_shown(client, job).items():
        assert "script" not in text.replace("data-script", ""), path
        for word in (
            "javascript:",
            "onload",
            "onclick",
            "passwd",
            "<image",
            "<use",
            "<a ",
            "foreignObject",
            "@import",
        ):
            assert word not in text, (path, word)
    signed = client.get(f"/api/jobs/{job}").json()["handovers"][0]["id"]
    shown = client.get(f"/api/jobs/{job}/report.html?signed={signed}").text
    assert "step &lt;b&gt; 1" not in shown  # what stood in a link was no part of a drawing of ours
    assert "<path d=" in shown
    assert "kept" in shown
    # What goes on from here carries data only.
    again = client.get(f"/api/jobs/{job}/bundle.json").json()
    assert "<svg" not in json.dumps(again)


def test_the_pdf_reads_the_fonts_and_nothing_else(client: TestClient, tmp_path: Path) -> None:
    secret = tmp_path / "secret.txt"
    secret.write_text("the secret of this machine")
    lure = (
        f"<html><head><link rel=attachment href='file://{secret}'><link rel=stylesheet href='file://{secret}'></head>"
        f"<body><img src='file://{secret}'><a rel=attachment href='file://{secret}'>x</a>"
        f"<object data='file://{secret}'></object></body></html>"
    )
    data = pdf(lure, {})
    assert b"EmbeddedFile" not in data
    assert all(b"secret of this" not in inflated(s) for s in streams(data))
    # And typed text cannot even ask for it.
    spoilt = client.post(
        "/api/jobs", json={"name": f"<link rel=attachment href='file://{secret}'>", "wish": lure}
    )
    report = client.get(f"/api/jobs/{spoilt.json()['job']['id']}/report.pdf").content
    assert report.startswith(b"%PDF")
    assert b"EmbeddedFile" not in report


def streams(data: bytes) -> list[bytes]:
    return re.findall(rb"stream\r?\n(.*?)endstream", data, re.DOTALL)


def inflated(stream: bytes) -> bytes:
    try:
        return zlib.decompress(stream)
    except zlib.error:
        return stream


@pytest.mark.parametrize(
    "change",
    [
        lambda r: r.update(extra="x"),
        lambda r: r.update(schematic={"title": "x", "shapes": "<svg>"}),
        lambda r: r.update(schematic=7),
        lambda r: r["schematic"].update(onload="alert(1)"),
        lambda r: r["schematic"]["shapes"][0].update(ink="url(file:///etc/passwd)"),
        lambda r: r["schematic"]["shapes"][0].update(kind="script"),
        lambda r: r["schematic"]["shapes"].extend([r["schematic"]["shapes"][0]] * 5000),
        lambda r: r["schematic"].update(width=1e300),
        lambda r: r.update(name=["x"]),
        lambda r: r.update(name="x" * 3000),
        lambda r: r.update(steps=[{}]),
        lambda r: r.update(annexes=[{"title": SCRIPT}]),
        lambda r: r.pop("facts"),
        lambda r: r.update(signature={"who": "x"}),
    ],
)
def test_a_record_is_looked_at_field_by_field(
    client: TestClient, change: Callable[[dict[str, Any]], None]
) -> None:
    bundle = signed_bundle(client)
    before = client.get("/api/jobs").json()
    change(bundle["handovers"][0]["record"])
    refused(take_in(client, bundle), 422, "file")
    assert client.get("/api/jobs").json() == before


def test_only_what_was_signed_here_is_a_signature(client: TestClient) -> None:
    bundle = signed_bundle(client)
    mine = page(client, 2)
    assert [h["imported"] for h in mine["handovers"]] == [False]
    assert next(s for s in mine["stages"] if s["key"] == "hand-over")["state"] == "done"
    copy = take_in(client, bundle).json()
    assert [h["imported"] for h in copy["handovers"]] == [True]
    assert next(s for s in copy["stages"] if s["key"] == "hand-over")["state"] != "done"
    job, signed = copy["job"]["id"], copy["handovers"][0]["id"]
    for path in (f"report.html?signed={signed}", "report.html", "label.html"):
        text = client.get(f"/api/jobs/{job}/{path}").text
        assert "mported, not verified here" in text, path
        assert "Handed over by" not in text
    # Somebody signs it here: that one counts.
    now = client.post(f"/api/jobs/{job}/handovers", json={"who": "M. Orrin"}).json()
    assert [(h["who"], h["imported"]) for h in now["handovers"]] == [("M. Orrin", False), (WHO, True)]
    assert "Handed over by M. Orrin" in client.get(f"/api/jobs/{job}/report.html").text


def test_a_caution_that_was_confirmed_elsewhere_is_confirmed_here_again(client: TestClient) -> None:
    bundle = client.get("/api/jobs/2/bundle.json").json()
    assert bundle["confirmations"]
    copy = take_in(client, bundle).json()
    assert copy["confirmed"] == []
    assert copy["prove_gated_by"] is not None
    assert page(client, 2)["prove_gated_by"] is None
    job = copy["job"]["id"]
    step = {"quantity": "speed_rpm", "text": "120 rpm", "step": 1, "who": WHO}
    assert client.post(f"/api/jobs/{job}/readings", json=step).status_code == 403
    # It is not forgotten: it goes on with the job.
    assert client.get(f"/api/jobs/{job}/bundle.json").json()["confirmations"] == bundle["confirmations"]


HOSTILE = (
    SCRIPT,
    '"><img src=x onerror=alert(1)>',
    '=HYPERLINK("http://evil.example";"x")',
    " \u00a0=1+1",
    "＝1+1",
    "-1+cmd|' /C calc'!A0",
    "*/ int main(void); /*",
    "?\u003f/ \\",
    "'; } body { background: url(file:///etc/passwd) } ",
    "</style><script>alert(1)</script>",
    "]]><!ENTITY x SYSTEM 'file:///etc/passwd'>",
)


@pytest.mark.parametrize("text", HOSTILE)
def test_what_is_typed_is_text_everywhere(client: TestClient, text: str) -> None:
    bundle = signed_bundle(client, 3)
    typed: dict[str, Any] = json.loads(json.dumps(bundle))
    typed["fan"] |= {"name": text[:120], "place": text, "maker": text, "serial": text}
    typed["job"]["wish"] = text
    for reading in typed["readings"]:
        reading["who"] = text
    answer = take_in(client, typed)
    assert answer.status_code == 201, answer.text
    for path, shown in everything_shown(client, answer.json()["job"]["id"]).items():
        if path.endswith((".html", ".svg")):
            assert "<script" not in shown, path
            assert "<img" not in shown, path
        if path.endswith(".h"):
            code = re.sub(r"/\*.*?\*/", "", shown, flags=re.DOTALL)
            assert "main" not in code
            assert "\\" not in shown
            assert "??" not in shown
        if path.endswith(".html"):
            style = re.search(r"<style>(.*?)</style>", shown, re.DOTALL)
            assert style is not None
            assert "file:" not in style.group(1)
            assert style.group(1).count("url(") == style.group(1).count("@font-face")
        if path.endswith(".csv"):
            for cell in re.split(r"[;\r\n]", shown):
                assert not re.match(r"[\s\u00a0\"]*[=+@＝＋＠]", cell), cell
                assert not re.match(r"[\s\"]*-(?![\d.,]+$)", cell), cell
    if text in (SCRIPT, HOSTILE[7]):
        assert client.get(f"/api/jobs/{answer.json()['job']['id']}/report.pdf").status_code == 200


@settings(max_examples=200)
@given(
    st.lists(
        st.text(alphabet=st.characters(codec="utf-8", exclude_categories=["Cc", "Cs"])),
        min_size=1,
        max_size=4,
    )
)
def test_no_cell_of_a_table_is_a_formula_and_none_is_changed(cells: list[str]) -> None:
    text = write_csv([f"c{i}" for i in range(len(cells))] + ["end"], [[*cells, "x"]])
    back = read_csv(text.encode()).rows[0]
    assert [c.strip() for c in cells] == list(back[:-1]) or any(c != c.strip() for c in cells)
    for row in text.splitlines()[1:]:
        for cell in row.split(";"):
            bare = cell.strip().strip('"').lstrip()
            assert not bare.startswith(("=", "@")), cell


@settings(max_examples=150)
@given(st.text(max_size=300))
def test_no_drawing_lets_anything_but_strokes_and_words_through(text: str) -> None:
    for markup in (text, MARKUP.replace("step", text), f"<svg viewBox='0 0 9 9'><text>{text}</text></svg>"):
        found = read_svg(markup)
        if found is None:
            continue
        drawn = picture_svg(found)
        assert set(re.findall(r"<(/?[a-zA-Z!?]+)", drawn)) <= {
            "svg", "/svg", "title", "/title", "text", "/text", "path", "circle",
        }  # fmt: skip
        names = set(re.findall(r' ([a-zA-Z-]+)="', re.sub(r">[^<]*<", "><", drawn)))
        assert not any(name.startswith("on") for name in names), names


@pytest.mark.parametrize(
    "markup",
    [
        "",
        "<svg",
        "<p/>",
        '<!DOCTYPE svg [<!ENTITY a "b">]><svg viewBox="0 0 1 1"><text>&a;</text></svg>',
        '<svg viewBox="0 0 0 0"/>',
        '<svg viewBox="0 0 9 1e99"/>',
        '<svg viewBox="0 0 9 9"><path d="M 0 0 Q 1 1 2 2"/></svg>',
        '<svg viewBox="0 0 9 9"><path d="M 0"/></svg>',
        '<svg viewBox="0 0 9 9"><circle cx="nan" cy="0" r="1"/></svg>',
        '<svg viewBox="0 0 9 9"><circle cx="1e9" cy="0" r="1"/></svg>',
        "<svg viewBox='0 0 9 9'>" + "<g>" * 3000 + "</g>" * 3000 + "</svg>",
        "<svg viewBox='0 0 9 9'>" + "<circle cx='1' cy='1' r='1'/>" * 5000 + "</svg>",
    ],
)
def test_a_drawing_that_is_none_is_left_out(markup: str) -> None:
    found = read_svg(markup)
    assert found is None or found.shapes == ()
    spoilt = RECORD.__class__(**{**RECORD.__dict__, "schematic": found})
    assert "<html" in page_html(Sheet.REPORT, spoilt, {})


def test_a_drawing_comes_back_as_it_was_drawn(client: TestClient) -> None:
    for path in ("/api/jobs/2/schematic.svg", "/api/jobs/3/waves.svg"):
        drawn = client.get(path).text
        found = read_svg(drawn)
        assert isinstance(found, Picture)
        assert len(found.shapes) > 20
        assert picture_svg(found) == drawn


def mutated(value: Any, choose: Callable[[int], int], junk: Any) -> Any:
    """A document with one thing in it replaced, dropped or doubled."""
    if isinstance(value, dict) and value and choose(4):
        key = sorted(value)[choose(len(value))]
        if not choose(6):
            return {k: v for k, v in value.items() if k != key}
        return {**value, key: mutated(value[key], choose, junk)}
    if isinstance(value, list) and value and choose(4):
        place = choose(len(value))
        if not choose(6):
            return [*value, value[place]]
        return [*value[:place], mutated(value[place], choose, junk), *value[place + 1 :]]
    return junk


@settings(max_examples=40, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.data())
def test_a_spoilt_bundle_is_taken_whole_or_refused_with_a_reason(
    client: TestClient, data: st.DataObject
) -> None:
    if not hasattr(client, "bundle"):
        client.bundle = signed_bundle(client, 3)  # type: ignore[attr-defined]
    junk = data.draw(
        st.one_of(
            st.none(), st.booleans(), st.integers(-(2**70), 2**70), st.floats(allow_nan=False), st.text(max_size=9),
            st.sampled_from([[], {}, "", "a\u0000b", "😀" * 50, -1, 0, 1e308, SCRIPT, "2026-13-40", [[[[]]]]]),
        )
    )  # fmt: skip
    spoilt = client.bundle  # type: ignore[attr-defined]
    for _ in range(data.draw(st.integers(1, 3))):
        spoilt = mutated(spoilt, lambda n: data.draw(st.integers(0, n - 1)), junk)
    before = len(client.get("/api/jobs").json()["cards"])
    answer = client.post("/api/jobs/import", content=json.dumps(spoilt), headers=JSON)
    if answer.status_code == 201:
        job = answer.json()["job"]["id"]
        for path in (
            "",
            "/identify",
            "/capacitors",
            "/report.html",
            "/bundle.json",
            "/readings.csv",
            "/tables",
        ):
            assert client.get(f"/api/jobs/{job}{path}").status_code < 500, path
    else:
        assert answer.status_code == 422, answer.text
        assert answer.json()["field"] == "file"
        assert len(answer.json()["detail"]) > 10
        assert len(client.get("/api/jobs").json()["cards"]) == before


@pytest.mark.parametrize(
    ("method", "path", "body", "status"),
    [
        (
            "POST",
            "/api/jobs/1/readings",
            {"quantity": "speed_rpm", "text": "330", "supersedes": 9_999_999},
            422,
        ),
        ("POST", "/api/jobs/1/readings", {"quantity": "speed_rpm", "text": "330", "supersedes": -1}, 422),
        ("POST", "/api/jobs/1/readings", {"quantity": "speed_rpm", "text": "330", "run": 9_999_999}, 422),
        (
            "POST",
            "/api/jobs/1/readings",
            {"quantity": "speed_rpm", "text": "330", "instrument": 9_999_999},
            404,
        ),
        ("POST", "/api/jobs/1/readings", {"quantity": "speed_rpm", "text": "330", "supersedes": 2**60}, 422),
        ("POST", "/api/jobs/1/designs/999999/again", {"after_revision": 0}, 404),
        ("PUT", "/api/jobs/1/reservations", {"part_id": 999_999, "count": 1}, 404),
        ("DELETE", "/api/jobs/1/runs/999999", None, 404),
        ("PUT", "/api/instruments/999999", {"name": "x", "ranges": []}, 404),
        ("GET", "/api/jobs/1/report.html?signed=999999", None, 404),
        ("GET", "/api/jobs/99999999999999999999", None, 422),
    ],
)
def test_an_unknown_number_is_answered_in_words(
    client: TestClient, method: str, path: str, body: Any, status: int
) -> None:
    answer = client.request(method, path, json=body) if body is not None else client.request(method, path)
    assert answer.status_code == status, answer.text
    assert answer.json()["detail"]


def test_a_reading_corrects_only_the_same_thing(client: TestClient) -> None:
    rows = {w["quantity"]: w["reading_id"] for w in page(client, 1)["wanted_readings"]}
    theirs = {w["quantity"]: w["reading_id"] for w in page(client, 2)["wanted_readings"]}
    step = next(r for r in page(client, 2)["readings"] if r["step"] is not None)
    for job, quantity, wrong in (
        (1, "speed_rpm", rows["line_current_a"]),
        (1, "speed_rpm", theirs["speed_rpm"]),
        (2, "speed_rpm", step["id"]),
    ):
        body = {"quantity": quantity, "text": "330 rpm", "who": WHO, "supersedes": wrong}
        problem = refused(client.post(f"/api/jobs/{job}/readings", json=body), 422, "supersedes")
        assert "corrects no reading" in problem["detail"]
    good = {"quantity": "speed_rpm", "text": "331 rpm", "who": WHO, "supersedes": rows["speed_rpm"]}
    assert client.post("/api/jobs/1/readings", json=good).status_code == 201


def test_a_table_of_readings_is_opened_by_no_formula(client: TestClient) -> None:
    rows = io.StringIO("step;line amps (A);who\n;0.318;=cmd()\n")
    client.post("/api/jobs/1/readings/import?take=true", content=rows.read(), headers=CSV)
    assert ";'=cmd();" in client.get("/api/jobs/1/readings.csv").text
