"""Phase angle in the browser: from the knob to the firing table, from choosing to handing over, a scope's capture."""

from __future__ import annotations

import re
from pathlib import Path

from playwright.sync_api import Page, expect

from tests.ui.server import Server
from tests.ui.test_walks import enter, field
from tests.web.test_control import trace_csv


def test_from_the_knob_to_the_firing_table(screen: Page, server: Server) -> None:
    page = screen
    page.goto(f"{server.address}/jobs/1/size")
    page.get_by_role("tab", name="phase angle").click()
    knob = page.get_by_role("img", name=re.compile("^Speed over firing angle"))
    # All angles and eighty motors are solved for the first time here.
    expect(knob).to_have_accessible_name(re.compile(r"Step 2: 11\d degrees, 196 ± \d+ rpm"), timeout=20_000)
    page.locator("h1").click()
    page.keyboard.press("2")
    wave = page.get_by_role("img", name=re.compile("^Waveforms of step 2"))
    expect(wave).to_have_accessible_name(re.compile(r"fires at 1[01]\d degrees, current ends at 19\d"))
    # The cursor is moved by key; in the open time no current flows.
    cursor = page.get_by_role("slider", name="cursor, degrees")
    cursor.focus()
    before = page.get_by_text("line 0 mA")
    expect(before).to_be_visible()
    for _ in range(6):
        page.keyboard.press("PageUp")
    expect(before).to_have_count(0)
    # The knob: one part changed, answered at once; nonsense said beside it, and nothing else lost.
    page.get_by_role("tab", name="Knob and diac").click()
    turn = page.get_by_role("img", name=re.compile("^Speed over the knob"))
    expect(turn).to_have_accessible_name(re.compile("turned up it comes on at"))
    resistance = field(page, "knob")
    resistance.fill("blue")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert").first).to_contain_text("cannot be read")
    expect(resistance).to_have_value("blue")
    resistance.fill("220k")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_have_count(0)
    page.get_by_role("button", name="find usual values").click()
    values = page.get_by_role("list", name="Usual values")
    values.get_by_role("button", name="take").first.click()
    expect(resistance).not_to_have_value("220k")
    page.get_by_role("tab", name="Parts").click()
    expect(page.get_by_role("list", name="Parts").get_by_text("snubber resistor")).to_be_visible()
    page.get_by_role("tab", name="Firing table").click()
    steps = page.get_by_role("textbox", name="steps")
    steps.fill("1")
    expect(page.get_by_role("alert")).to_contain_text("2 to 256 steps")
    steps.fill("12")
    table = page.get_by_role("table", name="Firing table")
    expect(table.get_by_role("row")).to_have_count(13)
    first = table.get_by_role("row").nth(1)
    delay = first.get_by_role("cell").nth(2).inner_text()
    page.get_by_label("from the zero pulse’s").select_option("rising")
    expect(first.get_by_role("cell").nth(2)).not_to_have_text(delay)
    with page.expect_download() as download:
        page.get_by_role("link", name="C header").click()
    text = download.value.path().read_text()
    assert "#define FAN_STEPS 12u" in text


def test_aimed_chosen_proved_and_handed_over(screen: Page, server: Server) -> None:
    page = screen
    page.goto(f"{server.address}/jobs/1/aim")
    page.get_by_role("radio", name="phase angle").click()
    expect(page.get_by_role("columnheader", name="fires at")).to_be_visible()
    first = page.get_by_role("row").nth(1)
    expect(first).to_contain_text("126°")
    # A notch moved by key asks for another angle.
    notch = page.get_by_role("slider").first
    notch.focus()
    for _ in range(4):
        page.keyboard.press("ArrowUp")
    expect(first).not_to_contain_text("126°")
    page.get_by_role("link", name=re.compile("Size")).click()
    # The method goes along.
    expect(page.get_by_role("tab", name="phase angle")).to_have_attribute("aria-selected", "true")
    page.get_by_role("radio", name="knob with diac").click()
    regulator = page.get_by_role("img", name=re.compile("^Speed over firing angle"))
    expect(regulator).to_be_visible(timeout=20_000)
    page.get_by_role("button", name="Use phase angle").click()
    expect(page.get_by_text("● chosen, revision 3")).to_be_visible()
    expect(page.get_by_text("next: step 1 to be read")).to_be_visible()
    # Another part tried is not kept before it is said so.
    page.get_by_role("tab", name="Parts").click()
    enter(page, "rms amps", "8A")
    expect(page.get_by_role("list", name="Parts").get_by_text("8 A, 800 V")).to_be_visible()
    page.get_by_role("button", name="drop changes").click()
    expect(page.get_by_role("list", name="Parts").get_by_text("4 A, 800 V")).to_be_visible()
    page.get_by_role("button", name=re.compile(r"of 800 V")).first.click()
    expect(page.get_by_role("dialog")).to_contain_text("room for transients")
    page.keyboard.press("Escape")

    page.get_by_role("link", name=re.compile("Prove")).click()
    page.get_by_role("button", name="Done").click()
    enter(page, "step 1, speed, rpm", "121")
    expect(page.get_by_text("1 of 4 steps read")).to_be_visible()
    expect(field(page, "step 1, firing angle, °")).to_be_visible()
    enter(page, "step 1, halves apart, °", "7")
    expect(page.get_by_text(re.compile("one half fires later than the other"))).to_be_visible()

    page.get_by_role("link", name=re.compile("Hand over")).click()
    expect(page.get_by_role("img", name=re.compile("Schematic of the regulator: .*diac"))).to_be_visible()
    expect(page.get_by_role("link", name="scale of the knob, SVG")).to_be_visible()
    expect(page.get_by_text("far side of triac T to motor, gate apart")).to_be_visible()
    page.get_by_role("button", name="Hand over").click()
    expect(page.get_by_text(re.compile("● R. Fell"))).to_be_visible()

    # The old control is still there, and stands again with its readings.
    page.get_by_role("link", name=re.compile("Size")).click()
    page.get_by_role("button", name="2 designs of this job").click()
    page.get_by_role("button", name="bring back revision 1").click()
    expect(page.get_by_text(re.compile("● old humming control, as found, revision 4"))).to_be_visible()
    expect(page.get_by_text(re.compile("next: step 1 fails"))).to_be_visible()


def test_a_capture_is_laid_over_and_kept(screen: Page, server: Server, tmp_path: Path) -> None:
    page = screen
    sheet, broken = tmp_path / "step1.csv", tmp_path / "broken.csv"
    sheet.write_bytes(trace_csv(1))
    broken.write_text("what;is;this\n1;2;3\n")
    page.goto(f"{server.address}/jobs/3/size")
    page.get_by_role("button", name="lay a capture over it").click()
    dialog = page.get_by_role("dialog")
    choose = dialog.get_by_label("capture: choose a file")
    choose.set_input_files(str(broken))
    expect(dialog.get_by_role("alert")).to_contain_text("holds no capture")
    choose.set_input_files(str(sheet))
    expect(dialog).to_contain_text("channel 1 is the motor, 2 the supply")
    expect(dialog.get_by_text(re.compile(r"^10[89]\.\d° ±"))).to_be_visible()
    dialog.get_by_role("button", name="Keep as readings of step 1").click()
    expect(dialog.get_by_role("status")).to_contain_text("5 readings kept at step 1")
    expect(dialog.get_by_role("list", name="Kept captures")).to_contain_text("step1.csv")
    page.keyboard.press("Escape")
    expect(page.get_by_text(re.compile("captured"))).to_be_visible()
    page.get_by_role("link", name=re.compile("Prove")).click()
    expect(field(page, "step 1, firing angle, °")).to_have_value(re.compile(r"^10[89]\.\d°$"))
    page.keyboard.press("Escape")
    page.keyboard.press("u")
    expect(field(page, "step 1, firing angle, °")).to_have_value("")
