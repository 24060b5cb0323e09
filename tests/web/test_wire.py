"""Wire through the API: a circuit begun, changed, ticked, read, exchanged, exported; nonsense is answered."""

from __future__ import annotations

import json
import re
from typing import Any

import pytest
from fastapi.testclient import TestClient

from fenwit.core.circuit.wiring.edits import Deed, Edit, edited
from fenwit.core.circuit.wiring.templates import TEMPLATES, Facts, filled

Json = dict[str, Any]
HALL, WARM, GALLERY, READING_ROOM, RETURN_AIR = 4, 13, 14, 2, 7


def wire(client: TestClient, job: int) -> Json:
    answer = client.get(f"/api/jobs/{job}/wire")
    assert answer.status_code == 200, answer.text
    found: Json = answer.json()
    return found


def edit(client: TestClient, job: int, **change: Any) -> Any:
    version = client.get(f"/api/jobs/{job}").json()["job"]["version"]
    return client.patch(f"/api/jobs/{job}", json={"version": version, "wiring": change, "who": "R. Fell"})


def take(client: TestClient, job: int, read: Json, text: str) -> Any:
    return client.post(
        f"/api/jobs/{job}/wire/readings",
        json={"what": read["key"], "text": text, "supersedes": read["reading_id"], "who": "R. Fell"},
    )


def dead(page: Json, first: str, stand: str = "") -> Json:
    found: Json = next(d for d in page["dead"] if d["first"] == first and d["stand"] == stand)
    return found


def test_a_job_without_a_circuit_offers_what_to_begin_with(client: TestClient) -> None:
    page = wire(client, READING_ROOM)
    assert page["sheet"] is None
    assert {t["key"] for t in page["templates"]} == {t.key for t in TEMPLATES}
    assert edit(client, READING_ROOM, template="as-sized").status_code == 200
    begun = wire(client, READING_ROOM)
    cells = [row["cells"][0] for row in begun["rows"]]
    assert cells == ["Off", "1", "2", "3", "4"]
    assert begun["hazards"] == []
    assert begun["rows"][1]["runs"][0]["words"].startswith("RUN")


def test_every_template_is_filled_and_sound(client: TestClient) -> None:
    for t in TEMPLATES:
        assert edit(client, HALL, template=t.key).status_code == 200
        page = wire(client, HALL)
        assert page["hazards"] == []
        assert page["connections"]
        assert page["problems"] == []
    assert edit(client, HALL, template="nowhere").status_code == 422


def test_order_of_nets_outlives_saving_and_undoing(client: TestClient) -> None:
    first = wire(client, WARM)
    assert first["columns"] == ["DOOR", "LIM", "TH.heat", "TH.cool", "TH.fan"]
    assert edit(client, WARM, deed="rename-net", what="fed", to="fed 2").status_code == 200
    assert client.post(f"/api/jobs/{WARM}/undo", json={"who": "R. Fell"}).status_code == 200
    assert wire(client, WARM)["document"] == first["document"]
    assert list(wire(client, WARM)["document"]["nets"]) == list(first["document"]["nets"])


def test_a_swapped_wire_is_found_by_its_ohms(client: TestClient) -> None:
    page = wire(client, GALLERY)
    assert page["diagnosis"] is None
    assert take(client, GALLERY, dead(page, "T.OUT", "SW low")["read"], "11.6").status_code == 201
    page = wire(client, GALLERY)
    assert dead(page, "T.OUT", "SW low")["read"]["agreement"] == "contradicts"
    assert page["diagnosis"]["suspects"][0]["words"] in ("SW.1 and SW.2 swapped", "M.HI and M.LO swapped")
    assert page["diagnosis"]["next_words"] == "T.OUT to S.N, SW high"
    assert take(client, GALLERY, dead(page, "T.OUT", "SW high")["read"], "17.5").status_code == 201
    shares = [s["share"] for s in wire(client, GALLERY)["diagnosis"]["suspects"]]
    assert shares[:2] == ["50 %", "50 %"]
    # Taken back, it is gone; a number that is none is refused beside the field.
    read = dead(wire(client, GALLERY), "T.OUT", "SW low")["read"]
    assert take(client, GALLERY, read, "").status_code == 201
    assert dead(wire(client, GALLERY), "T.OUT", "SW low")["read"]["text"] == ""
    read = dead(wire(client, GALLERY), "T.OUT", "SW low")["read"]
    refused = take(client, GALLERY, read, "<b>soon</b>")
    assert refused.status_code == 422
    assert refused.json()["field"] == "text"


def test_ticks_follow_their_wire(client: TestClient) -> None:
    page = wire(client, HALL)
    first = page["connections"][0]
    assert take(client, HALL, first["read"], "yes").status_code == 201
    assert edit(client, HALL, deed="add", what="lamp", to="H1").status_code == 200
    assert edit(client, HALL, deed="join", what="h1.1", to="high").status_code == 200
    assert edit(client, HALL, deed="join", what="H1.2", to="neutral").status_code == 200
    page = wire(client, HALL)
    same = next(c for c in page["connections"] if (c["start"], c["end"]) == (first["start"], first["end"]))
    assert same["read"]["text"] == "yes"
    assert "R. Fell" in same["read"]["told"]
    assert "back-fed" in {h["kind"] for h in page["hazards"]}
    stale = take(client, HALL, first["read"], "no")
    assert stale.status_code == 409


def test_an_edit_that_cannot_be_is_refused_and_nothing_is_lost(client: TestClient) -> None:
    before = wire(client, HALL)["document"]
    for change, field in (
        ({"deed": "join", "what": "K1.COM", "to": "M.XX"}, "to"),
        ({"deed": "join", "what": "nobody", "to": "M.HI"}, "what"),
        ({"deed": "free", "what": "M.CAP"}, "what"),
        ({"deed": "add", "what": "chopper"}, "what"),
        ({"deed": "add", "what": "lamp", "to": "a.b"}, "to"),
        ({"deed": "rename", "what": "K1", "to": "M"}, "to"),
        ({"deed": "set", "what": "K1", "key": "volts", "to": "24 A"}, "to"),
        ({"deed": "set", "what": "K1", "key": "colour", "to": "red"}, "key"),
        ({"deed": "put", "what": "K1", "body": {"kind": "relay"}}, "volts"),
        ({"document": {"format": "something/1"}}, "format"),
        ({"document": {"format": "fenwit-circuit/1", "parts": [{"id": "x" * 99, "kind": "box"}]}}, "id"),
    ):
        answer = edit(client, HALL, **change)
        assert answer.status_code == 422, change
        assert field in answer.json()["field"], change
    assert wire(client, HALL)["document"] == before


def test_renaming_takes_everything_along(client: TestClient) -> None:
    assert edit(client, WARM, deed="rename", what="TH", to="T9").status_code == 200
    assert edit(client, WARM, deed="rename", what="M", to="blower").status_code == 200
    page = wire(client, WARM)
    assert "T9.heat" in page["columns"]
    assert page["exchange"]["failures"] == []
    assert edit(client, WARM, deed="remove", what="T9").status_code == 200
    assert wire(client, WARM)["exchange"] is None


def test_a_failing_call_of_an_exchange_is_mended(client: TestClient) -> None:
    document = wire(client, WARM)["document"]
    document["parts"][9]["calls"] = {"heat": ["W"], "cool": ["G"], "fan": ["G"]}
    document["nets"]["y"].remove("TH.Y")
    assert edit(client, WARM, document=document).status_code == 200
    failing = wire(client, WARM)["exchange"]
    assert failing["failures"]
    document["parts"][9]["calls"]["cool"] = ["Y", "G"]
    document["nets"]["y"].append("TH.Y")
    assert edit(client, WARM, document=document).status_code == 200
    mended = wire(client, WARM)["exchange"]
    assert mended["failures"] == []
    assert edit(client, WARM, document=mended["document"]).status_code == 200
    taken = wire(client, WARM)
    assert taken["exchange"] is None
    assert taken["hazards"] == []
    assert any(r["part"] == "X" and "1100 rpm" in r["words"] for row in taken["rows"] for r in row["runs"])


def test_a_call_is_played_one_contact_at_a_time(client: TestClient) -> None:
    moments = client.get(f"/api/jobs/{HALL}/wire/way?start=0&end=1").json()
    assert len(moments) > 3
    assert "low" in moments[0]["alive"]
    assert "high" in moments[-1]["alive"]
    assert any("low" not in m["alive"] and "high" not in m["alive"] for m in moments)
    assert client.get(f"/api/jobs/{HALL}/wire/way?start=0&end=99").status_code == 422
    late = client.get(f"/api/jobs/{WARM}/wire/way?start=12&end=16").json()
    assert 30 in [m["for_s"] for m in late]


def test_a_call_says_which_speed_and_air_its_tap_gives(client: TestClient) -> None:
    version = client.get(f"/api/jobs/{RETURN_AIR}").json()["job"]["version"]
    air = {"full_flow_m3_s": "900 m³/h", "heat_w": "6 kW"}
    assert client.patch(f"/api/jobs/{RETURN_AIR}", json={"version": version, "air": air}).status_code == 200
    assert edit(client, RETURN_AIR, template="relay-centre").status_code == 200
    low, high = (row["air"][0] for row in wire(client, RETURN_AIR)["rows"])
    assert low.startswith("M: about 11")
    assert high.startswith("M: about 12")
    assert "m³/h" in high
    assert " K" in high


def test_files_and_paper_tell_the_same(client: TestClient) -> None:
    page = wire(client, GALLERY)
    take(client, GALLERY, page["connections"][0]["read"], "yes")
    take(client, GALLERY, dead(page, "T.OUT", "SW low")["read"], "17k5")
    get = lambda name: client.get(f"/api/jobs/{GALLERY}/wire/{name}")  # noqa: E731
    assert json.loads(get("circuit.json").text) == page["document"]
    assert get("drawing.svg").text.count("<svg") == 1
    assert "B1.PE;M.PE" in get("connections.csv").text
    assert "R. Fell" in get("connections.csv").text
    assert "W2;wall box;attic;earth;joined" in get("cables.csv").text
    assert "17.5 kΩ" in get("dead-tests.csv").text
    assert get("truth-table.csv").text.splitlines()[3].startswith("run;low;LO")
    assert get("anything.pdf").status_code == 404
    paper = client.get(f"/api/jobs/{GALLERY}/report.html").text
    assert "Every call" in paper
    assert "B1.PE to M.PE" in paper
    bundle = client.get(f"/api/jobs/{GALLERY}/bundle.json").json()
    assert list(bundle["job"]["wiring"]["nets"]) == list(page["document"]["nets"])


def test_markup_in_names_is_text(client: TestClient) -> None:
    assert edit(client, HALL, deed="rename", what="K1", to="<b>K</b>").status_code == 422
    assert edit(client, HALL, deed="rename", what="K1", to="<i>").status_code == 200
    assert "<i>" not in client.get(f"/api/jobs/{HALL}/wire/drawing.svg").text
    assert "<i>.COM" not in client.get(f"/api/jobs/{HALL}/report.html").text


@pytest.mark.parametrize("key", [t.key for t in TEMPLATES])
def test_leads_that_were_found_take_the_place_of_the_usual_names(key: str) -> None:
    document = next(t.document for t in TEMPLATES if t.key == key)
    sections = (("wht", "blk", 9.0), ("blk", "blu", 3.0), ("blu", "red", 4.0))
    made = filled(document, Facts(120.0, 60.0, "wht", ("blk", "blu", "red"), "brn", sections, 300.0))
    motors = [p for p in made["parts"] if p["kind"] == "motor"]
    for motor in motors:
        assert motor["taps"] == ["blk", "blu", "red"]
        assert motor["volts"] == 120.0
        assert motor["sections"][0] == ["wht", "blk", 9.0]
        wired = {t for joined in made["nets"].values() for t in joined if t.startswith(f"{motor['id']}.")}
        assert {f"{motor['id']}.wht", f"{motor['id']}.blk"} <= wired
    assert all(p["volts"] == 120.0 for p in made["parts"] if p["kind"] == "supply")


def test_deeds_on_an_empty_circuit() -> None:
    made: Json = {}
    for deed in (
        Edit(Deed.ADD, "supply"), Edit(Deed.ADD, "lamp"), Edit(Deed.JOIN, "H1.1", "S1.L"),
        Edit(Deed.JOIN, "H1.2", "S1.N"), Edit(Deed.SET, "H1", "115", "volts"), Edit(Deed.MOVE, "H1", "up"),
    ):  # fmt: skip
        made = edited(made, deed)
    assert [p["id"] for p in made["parts"]] == ["H1", "S1"]
    assert made["parts"][0]["volts"] == 115.0
    assert made["nets"] == {"l": ["S1.L", "H1.1"], "n": ["S1.N", "H1.2"]}
    made = edited(made, Edit(Deed.FREE, "H1.1"))
    assert made["nets"] == {"n": ["S1.N", "H1.2"]}


# ---------------------------------------------------------------- parts, offers, lists, words on the drawing


def picks(client: TestClient, job: int) -> Json:
    answer = client.get(f"/api/jobs/{job}/wire/parts")
    assert answer.status_code == 200, answer.text
    found: Json = answer.json()
    return found


def test_the_pick_list_by_drawer_is_put_aside_at_once(client: TestClient) -> None:
    assert edit(client, READING_ROOM, template="as-sized").status_code == 200
    before = picks(client, READING_ROOM)
    drawers = {line["names"]: line["place"] for line in before["lines"]}
    assert (drawers["F"], drawers["A"], drawers["DA1 DA2"], drawers["RA RB"]) == (
        "drawer 1", "drawer 4", "drawer 7", "drawer 8",
    )  # fmt: skip
    # The fan's own capacitor is not taken out of a drawer unasked, and the regulator's parts are listed once.
    names = " ".join(line["names"] for line in before["lines"]).split()
    assert drawers["CR"] == ""
    assert len(names) == len(set(names))
    assert "SW" not in names
    wanted = before["to_take"]
    assert wanted > 0
    page = client.put(f"/api/jobs/{READING_ROOM}/wire/parts/aside", json={"who": "R. Fell"})
    assert page.status_code == 200
    assert sum(a["reserved"] for a in page.json()["aside"]) == wanted
    after = picks(client, READING_ROOM)
    assert after["to_take"] == 0
    assert {line["names"]: line["aside"] for line in after["lines"]}["DA1 DA2"] == 2
    again = client.put(f"/api/jobs/{READING_ROOM}/wire/parts/aside", json={"who": "R. Fell"})
    assert again.status_code == 422
    # One step back, and all of it lies in the drawers again.
    assert client.post(f"/api/jobs/{READING_ROOM}/undo", json={"who": "R. Fell"}).status_code == 200
    assert picks(client, READING_ROOM)["to_take"] == wanted
    missing = next(line for line in after["lines"] if line["to_buy"])
    assert take(client, READING_ROOM, missing["read"], "yes").status_code == 201
    assert picks(client, READING_ROOM)["to_buy"] == after["to_buy"] - missing["to_buy"]
    csv = client.get(f"/api/jobs/{READING_ROOM}/wire/parts.csv").text
    assert "drawer 7" in csv


def test_what_lies_in_a_drawer_is_not_promised_twice(client: TestClient) -> None:
    part = client.post(
        "/api/shelf/parts",
        json={"part_class": "fuse", "nominal": "3 A", "rating": "250", "count": "1", "place": "tray"},
    )
    assert part.status_code == 201, part.text
    doc = {
        "format": "fenwit-circuit/1", "title": "", "nets": {"a": ["S.L", "F1.1", "F2.1"]},
        "parts": [
            {"id": "S", "kind": "supply", "volts": 230}, {"id": "F1", "kind": "fuse", "amps": 3},
            {"id": "F2", "kind": "fuse", "amps": 3},
        ],
    }  # fmt: skip
    assert edit(client, GALLERY, document=doc).status_code == 200
    (line,) = picks(client, GALLERY)["lines"]
    assert (line["names"], line["place"], line["to_take"], line["to_buy"]) == ("F1 F2", "tray", 1, 1)


def test_points_are_offered_added_and_read(client: TestClient) -> None:
    found = client.get(f"/api/jobs/{GALLERY}/wire/offers").json()
    before = len(wire(client, GALLERY)["dead"])
    pairs = [[o["first"], o["second"]] for o in found["offers"][:2]]
    assert len(pairs) == 2
    assert edit(client, GALLERY, points=pairs).status_code == 200
    page = wire(client, GALLERY)
    stands = {d["stand"] for d in page["dead"]}
    assert len(page["dead"]) == before + 2 * len(stands)
    after = client.get(f"/api/jobs/{GALLERY}/wire/offers").json()
    assert after["shown"] >= found["shown"] + sum(len(o["shows"]) for o in found["offers"][:2])
    for wrong in ([["S.L", "nowhere"]], [["S.L"]], []):
        answer = edit(client, GALLERY, points=wrong)
        assert answer.status_code == 422
        assert answer.json()["field"].endswith("points")


def test_places_cables_and_expectations_are_typed_in_lines(client: TestClient) -> None:
    lists = wire(client, WARM)["lists"]
    assert lists["cables"].startswith("W1: unit – room; red, white, yellow, green, blue")
    longer = lists["cables"].replace(
        "W2: unit – outdoor; yellow, blue", "W2: unit – outdoor; yellow, blue; 18 m; 0,5 mm²"
    )
    changed = lists | {
        "cables": longer,
        "expect": "TH.cool, no TH.heat, DOOR shut: M HI",
        "points": "M.COM – M.HI",
    }
    assert edit(client, WARM, lists=changed).status_code == 200
    page = wire(client, WARM)
    assert page["lists"]["expect"] == "TH.cool, no TH.heat, DOOR shut: M HI"
    size = next(c["size"] for c in page["cables"] if c["id"] == "W2")
    assert size.startswith("0.5 mm², 18 m")
    assert {(d["first"], d["second"]) for d in page["dead"]} == {("M.COM", "M.HI")}
    for field, text in (
        ("cables", "W1 unit room"), ("cables", "W1: unit – moon; red"), ("cables", "W1: unit – room; red; far"),
        ("places", "unit"), ("exclusive", "TH.heat, TH.snow"), ("expect", "TH.snow: M HI"), ("expect", "TH.cool"),
        ("points", "M.COM"), ("points", "M.COM – M.XX"),
    ):  # fmt: skip
        # Without its cables, which would be named first, the parts are asked for their places.
        cables = {"cables": ""} if field == "places" else {}
        answer = edit(client, WARM, lists=changed | cables | {field: text})
        assert answer.status_code == 422, (field, text)
        assert answer.json()["field"].rpartition(".")[2] == field, answer.json()
    assert wire(client, WARM)["lists"] == page["lists"]


def test_a_kit_out_of_a_file(client: TestClient) -> None:
    plan = wire(client, WARM)["document"]["replace"]
    kit = plan["kit"]
    for given in (kit, {"kit": kit}, {"replace": plan}, {"format": "fenwit-circuit/1", "replace": plan}):
        assert edit(client, WARM, kit_file=given).status_code == 200, given
        assert wire(client, WARM)["document"]["replace"] == plan
    slower = kit | {"speeds": kit["speeds"][:1]}
    assert edit(client, WARM, kit_file=slower).status_code == 200
    assert wire(client, WARM)["document"]["replace"]["wanted"] == plan["wanted"]
    for wrong in ({"a": 1}, {"kit": []}, {"classes": 3}, kit | {"run": []}, {"kit": kit | {"colour": 1}}):
        answer = edit(client, WARM, kit_file=wrong)
        assert answer.status_code == 422, wrong
    assert edit(client, GALLERY, kit_file=kit).status_code == 200
    assert edit(client, GALLERY, kit_file=kit).json()["job"]["wiring"]


def test_hazards_are_said_on_the_drawing_on_screen_and_on_paper(client: TestClient) -> None:
    assert edit(client, HALL, deed="join", what="TR.S1", to="K1.COM").status_code == 200
    page = wire(client, HALL)
    said = [h for h in page["hazards"] if h["flag"]]
    assert said
    assert all(h["flag"] for h in page["hazards"] if not h["passing"])
    words = " ".join(said[0]["flag"]["lines"])
    assert words.startswith("mains from S.L on the low-voltage side")
    drawn = client.get(f"/api/jobs/{HALL}/wire/drawing.svg").text
    assert said[0]["flag"]["lines"][0] in drawn
    report = client.get(f"/api/jobs/{HALL}/report.html").text
    assert said[0]["flag"]["lines"][0] in report


def test_a_printed_circuit_keeps_letters_that_can_be_read(client: TestClient) -> None:
    for t in TEMPLATES:
        assert edit(client, HALL, template=t.key).status_code == 200
        report = client.get(f"/api/jobs/{HALL}/report.html").text
        svg = re.search(r'<svg[^>]*width="([\d.]+)mm" height="([\d.]+)mm".*?</svg>', report, re.DOTALL)
        assert svg is not None
        assert float(svg[1]) <= 180
        assert float(svg[2]) <= 240
        sizes = [float(size) for size in re.findall(r'font-size="([\d.]+)"', svg[0])]
        assert min(sizes) >= 2.5


def test_labels_for_box_cables_and_wires(client: TestClient) -> None:
    page = client.get(f"/api/jobs/{GALLERY}/wire/labels.html").text
    lines = wire(client, GALLERY)
    for cable in lines["cables"]:
        assert page.count(f"<b>{cable['id']}</b>") == 2
    loose = [c for c in lines["connections"] if not c["cable"]]
    assert page.count('class="tag wire"') == 2 * len(loose)
    assert client.get(f"/api/jobs/{GALLERY}/wire/labels.pdf").content.startswith(b"%PDF")
    bad = {
        "format": "fenwit-circuit/1",
        "title": "<b>&\"'",
        "parts": [{"id": "<i>", "kind": "box"}],
        "nets": {},
    }
    assert edit(client, GALLERY, document=bad).status_code == 200
    assert "<i>" not in client.get(f"/api/jobs/{GALLERY}/wire/labels.html").text


def test_a_row_says_whether_the_appliance_bears_the_rise(client: TestClient) -> None:
    """Only where the air is warmed: the blower's rows without heat say nothing of a rise."""
    version = client.get(f"/api/jobs/{RETURN_AIR}").json()["job"]["version"]
    air = {"heat_w": "6 kW", "full_flow_m3_s": "900 m³/h", "rise_low_k": "15", "rise_high_k": "25"}
    answer = client.patch(f"/api/jobs/{RETURN_AIR}", json={"version": version, "air": air, "who": "R. Fell"})
    assert answer.status_code == 200, answer.text
    assert edit(client, RETURN_AIR, template="relay-centre").status_code == 200
    warm = wire(client, RETURN_AIR)["rows"][1]["air"]
    assert "K" in warm[0]
    assert "the appliance’s 15 to 25 K" in warm[0]
    assert edit(client, RETURN_AIR, template="thermostat-board").status_code == 200
    rows = wire(client, RETURN_AIR)["rows"]
    told = {
        bool([r for r in row["runs"] if r["part"] == "V" and r["on"]]): row["air"]
        for row in rows
        if row["air"]
    }
    assert any("appliance" in line for line in told[True])
    assert not any("appliance" in line for line in told[False])
    backwards = client.patch(
        f"/api/jobs/{RETURN_AIR}",
        json={
            "version": client.get(f"/api/jobs/{RETURN_AIR}").json()["job"]["version"],
            "air": {"rise_high_k": "5"},
        },
    )
    assert backwards.status_code == 422


def test_a_part_that_bears_too_little_is_not_picked(client: TestClient) -> None:
    """110 kΩ of half a watt lie in drawer 7; once only quarter-watt ones lie there they are to get."""
    assert edit(client, READING_ROOM, template="as-sized").status_code == 200
    shelf = client.get("/api/shelf").json()["parts"]
    bleed = next(p for p in shelf if p["nominal"].startswith("110"))
    weak = {
        "version": bleed["version"], "part_class": bleed["part_class"], "nominal": "110k", "rating": "0.25",
        "tolerance": bleed["tolerance"], "count": str(bleed["count"]), "place": "drawer 7",
    }  # fmt: skip
    assert client.put(f"/api/shelf/parts/{bleed['id']}", json=weak).status_code == 200
    line = next(x for x in picks(client, READING_ROOM)["lines"] if x["names"] == "DA1 DA2")
    assert (line["place"], line["to_take"], line["to_buy"]) == ("", 0, 2)
    # What a bare circuit asks for has no rating: nothing is taken for granted.
    doc = {
        "format": "fenwit-circuit/1", "title": "", "nets": {"a": ["S.L", "C.1", "R.1"]},
        "parts": [
            {"id": "S", "kind": "supply", "volts": 230}, {"id": "C", "kind": "capacitor", "farads": 2.2e-6},
            {"id": "R", "kind": "resistor", "ohms": 75000},
        ],
    }  # fmt: skip
    assert edit(client, GALLERY, document=doc).status_code == 200
    assert {x["place"] for x in picks(client, GALLERY)["lines"]} == {""}
