"""The Desk through the real interface: by keyboard alone, and a card's answer sent into a job."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.ui.server import Server
from tests.ui.test_walks import enter, field
from tests.web.test_lead_captures import trace


def test_a_card_is_found_worked_and_kept_by_keyboard_alone(screen: Page) -> None:
    page = screen
    expect(page.get_by_role("link", name=re.compile("Bunk room 2"))).to_be_visible()
    keys = page.keyboard
    keys.press("c")
    expect(page.get_by_role("heading", name="Desk")).to_be_visible()
    keys.press("/")
    keys.type("reactance inductor")
    keys.press("Enter")
    card = page.get_by_role("article", name="reactance of a capacitor or inductor")
    expect(card).to_be_visible()
    # From the list into the card with Tab; what is left blank is computed.
    volts = card.get_by_label(re.compile("^capacitance"))
    for _ in range(80):
        if volts.evaluate("e => e === document.activeElement"):
            break
        keys.press("Tab")
    expect(volts).to_be_focused()
    keys.press("Control+a")
    keys.type("a lot")
    expect(card.get_by_role("alert").first).to_be_visible()
    expect(volts).to_have_value("a lot")
    keys.press("Control+a")
    keys.type("2u7")
    keys.press("Enter")
    expect(card.get_by_role("table", name="Answer")).to_contain_text("1.179 kΩ")
    expect(card.get_by_role("region", name="Worked out before")).to_contain_text("1.179 kΩ")
    # The link restores it.
    page.reload()
    expect(card.get_by_role("table", name="Answer")).to_contain_text("1.179 kΩ")


def test_a_speed_worked_out_on_the_desk_becomes_a_step_of_a_job(screen: Page, server: Server) -> None:
    page = screen
    page.goto(f"{server.address}/desk/fan-laws?speed_1_rpm=330&flow_1_m3_s=2&flow_2_m3_s=4")
    page.get_by_role("button", name="send into a job").click()
    dialog = page.get_by_role("dialog", name="Send into a job")
    dialog.get_by_text("Bunk room 2").click()
    dialog.get_by_role("button", name="Send it").click()
    # No regulator makes a fan faster: refused in the words of Aim, nothing sent.
    expect(dialog.get_by_role("alert")).to_contain_text("a regulator only slows a fan down")
    page.keyboard.press("Escape")
    expect(dialog).to_have_count(0)
    page.get_by_role("textbox", name=re.compile("^flow 2")).fill("0.91")
    expect(page.get_by_role("table", name="Answer")).to_contain_text("150.2 rpm")
    page.get_by_role("button", name="send into a job").click()
    dialog.get_by_text("Bunk room 2").click()
    dialog.get_by_role("button", name="Send it").click()
    expect(dialog.get_by_role("status")).to_contain_text("Bunk room 2")
    dialog.get_by_role("link", name="Go there").click()
    expect(field(page, "step 2, rpm, % or air")).to_have_value("150 rpm")
    page.locator("h1").click()
    page.keyboard.press("Control+z")
    expect(field(page, "step 2, rpm, % or air")).to_have_value("196 rpm")


def test_a_four_wire_fan_from_its_label_to_a_c_header(screen: Page, server: Server) -> None:
    page = screen
    expect(page.get_by_role("link", name=re.compile("Bunk room 2"))).to_be_visible()
    page.keyboard.press("n")
    field(page, "fan").fill("Guide camera")
    field(page, "supply volts").fill("12V")
    field(page, "supply hertz, or DC").fill("DC")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Guide camera")).to_be_visible()
    page.get_by_role("combobox", name="motor kind").click()
    page.get_by_role("option", name=re.compile("4-wire")).click()
    enter(page, "rated volts", "12V")
    enter(page, "rated rpm", "2400")
    enter(page, "rated amps", "150m")
    page.get_by_role("link", name=re.compile("Measure")).click()
    enter(page, "slowest", "600 rpm")
    expect(field(page, "slowest")).to_have_value("600 rpm")
    enter(page, "at a duty of", "140 %")
    expect(page.get_by_role("alert").first).to_be_visible()
    enter(page, "at a duty of", "20 %")
    page.get_by_role("link", name=re.compile("Aim")).click()
    new = page.get_by_label("new step: rpm, %")
    for speed in ("40 %", "1600", "100 %"):
        new.fill(speed)
        page.keyboard.press("Enter")
        expect(new).to_have_value("")
    page.get_by_role("link", name=re.compile("Size")).click()
    page.get_by_role("button", name=re.compile("^Take ")).click()
    page.get_by_role("tab", name="Tests and files").click()
    expect(page.get_by_text("polarity").first).to_be_visible()
    with page.expect_download() as download:
        page.get_by_role("link", name="C header").click()
    text = download.value.path().read_text()
    assert "#define" in text
    assert text.count("#include") == 1


def test_what_a_file_a_sweep_and_a_scope_tell_of_a_fan(screen: Page, server: Server) -> None:
    page = screen
    page.goto(f"{server.address}/jobs/8/measure")
    # A map out of a file stands as it would be typed; a file of another kind is refused with the reason.
    pairs = page.get_by_role("region", name="Pairs off its data sheet")
    chosen = page.get_by_label("speed map file")
    chosen.set_input_files({"name": "wrong.csv", "mimeType": "text/csv", "buffer": b"time,volts\n0,1\n"})
    expect(pairs.get_by_role("alert")).to_contain_text("no table of speeds")
    chosen.set_input_files(
        {"name": "map.csv", "mimeType": "text/csv", "buffer": b"duty,rpm\n20,600\n100,2400\n"}
    )
    expect(pairs.get_by_role("textbox")).to_have_value("20 %  600\n100 %  2400")

    # A sweep: three speeds at two frequencies, told at once.
    sweep = page.get_by_role("region", name="Sweep of frequency")
    sweep.get_by_role("button", name="Begin a sweep").click()
    row = sweep.get_by_role("row", name=re.compile("25 kHz"))
    for hertz, speeds in (("25", ("862", "1381", "1830")), ("10", ("700", "1100", "1500"))):
        row = sweep.get_by_role("row", name=re.compile(f"^{hertz} kHz"))
        for k, rpm in enumerate(speeds):
            cell = row.get_by_role("textbox").nth(k)
            cell.fill(rpm)
            page.keyboard.press("Enter")
            expect(cell).to_have_value(f"{rpm} rpm")
        # Enter goes on to the place that follows.
    expect(sweep.get_by_role("status")).to_contain_text("6 of 24 read")
    expect(row).not_to_contain_text("right")
    twenty = sweep.get_by_role("row", name=re.compile("^20 kHz"))
    for k, rpm in enumerate(("862", "1381", "1830")):
        twenty.get_by_role("textbox").nth(k).fill(rpm)
        page.keyboard.press("Enter")
    expect(twenty).to_contain_text("right")
    expect(row).to_contain_text("misread")

    # Size takes the signal; a scope's file becomes readings of the step.
    page.get_by_role("link", name=re.compile("Size")).click()
    page.get_by_role("button", name=re.compile("^Take ")).click()
    expect(page.get_by_role("list", name="Parts")).to_be_visible()
    page.get_by_role("link", name=re.compile("Prove")).click()
    for box in page.get_by_role("checkbox").all():
        box.check()
    expected = page.get_by_role("row", name=re.compile("duty on the lead")).first
    expect(expected).to_contain_text("±")
    duty = float(re.findall(r"([\d.]+) ±", expected.inner_text())[0]) / 100
    page.get_by_role("button", name="capture of step 1").click()
    scope = page.get_by_role("dialog")
    scope.get_by_label("capture: choose a file").set_input_files(
        {"name": "lead.csv", "mimeType": "text/csv", "buffer": trace(duty)}
    )
    expect(scope.get_by_text("duty at half height")).to_be_visible()
    expect(scope.get_by_role("img", name=re.compile("the lead over"))).to_be_visible()
    scope.get_by_role("button", name="Keep as readings of step 1").click()
    expect(scope.get_by_role("status")).to_contain_text("5 readings kept")
    # What was kept can be looked at again.
    scope.get_by_role("button", name="what lead.csv showed").click()
    expect(scope.get_by_role("list", name="Kept captures").get_by_text("duty at half height")).to_be_visible()
    page.keyboard.press("Escape")
    expect(expected).to_contain_text("holds")
