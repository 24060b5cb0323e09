"""Long walks through the real interface, as a technician would take them."""

from __future__ import annotations

import re
from pathlib import Path

from playwright.sync_api import Locator, Page, expect

from tests.ui.server import Server, running


def field(page: Page, label: str) -> Locator:
    return page.get_by_label(label, exact=True)


def path(page: Page) -> Locator:
    return page.get_by_role("region", name=re.compile("^Power path"))


def enter(page: Page, label: str, text: str) -> None:
    field(page, label).fill(text)
    page.keyboard.press("Enter")


def test_the_whole_bunk_room_job_by_keyboard_and_mouse(screen: Page) -> None:
    page = screen
    # A new job, by key.
    expect(page.get_by_role("link", name=re.compile("Bunk room 2"))).to_be_visible()
    page.keyboard.press("n")
    field(page, "fan").fill("Bunk room 3")
    field(page, "place").fill("lodge, upper floor")
    field(page, "what is wanted").fill("as quiet as number 2")
    page.keyboard.press("Enter")

    # Identify: the nameplate in bench notation, the kind from the list.
    expect(page.get_by_role("heading", name="Bunk room 3")).to_be_visible()
    expect(page.get_by_text("next: needs what kind of motor it is")).to_be_visible()
    page.get_by_role("combobox", name="motor kind").click()
    page.get_by_role("option", name="Permanent split capacitor", exact=True).click()
    expect(page.get_by_text("cool and free of hum")).to_be_visible()
    enter(page, "poles", "15")
    expect(page.get_by_text("poles come in pairs")).to_be_visible()
    expect(field(page, "poles")).to_have_value("15")  # nothing typed is lost
    enter(page, "poles", "16")
    enter(page, "rated volts", "230V")
    enter(page, "run capacitor", "2u5")
    expect(field(page, "run capacitor")).to_have_value("2.5 µF")
    expect(page.get_by_text("next: needs full-speed rpm")).to_be_visible()

    # Measure: dead readings wait for the cautions.
    page.get_by_role("link", name=re.compile("Measure")).click()
    expect(field(page, "main winding")).to_be_disabled()
    page.get_by_role("button", name="Done").click()
    field(page, "volts read afterwards").fill("85V")
    page.get_by_role("button", name="Discharged, volts read").click()
    expect(page.get_by_text("discharge it again")).to_be_visible()
    field(page, "volts read afterwards").fill("3V")
    page.keyboard.press("Enter")
    expect(field(page, "main winding")).to_be_enabled()
    dead = (
        field(page, "main winding"),
        field(page, "auxiliary winding"),
        field(page, "run capacitor"),
    )
    live = field(page, "supply volts"), field(page, "full speed")
    dead[0].focus()
    for box_, text in zip((*dead, *live), ("215", "240", "", "230V", "3300"), strict=True):
        expect(box_).to_be_focused()
        page.keyboard.type(text)
        page.keyboard.press("Enter")
    expect(page.get_by_text("are poles and rpm right?")).to_be_visible()
    enter(page, "full speed", "330")
    expect(field(page, "full speed")).to_have_value("330 rpm")
    enter(page, "line amps", "318m")
    enter(page, "input watts", "73W")
    expect(page.get_by_role("cell", name="73.1 W").first).to_be_visible()

    # Aim: typed as rpm and per cent, then a notch moved on the staff by keyboard.
    page.locator("h1").click()
    page.keyboard.press("]")
    page.get_by_label("new step: rpm, %").fill("36 %")
    page.keyboard.press("Enter")
    # What was meant stays in the field; the speed it comes to stands beneath.
    expect(field(page, "step 1, rpm, % or air")).to_have_value("36 %")
    expect(page.get_by_role("row").filter(has=field(page, "step 1, rpm, % or air"))).to_contain_text(
        "119 rpm"
    )
    for speed in ("200", "280 rpm", "100 %"):
        page.get_by_label("new step: rpm, %").fill(speed)
        page.keyboard.press("Enter")
        expect(page.get_by_label("new step: rpm, %")).to_have_value("")
    page.get_by_label("new step: rpm, %").fill("280")
    page.keyboard.press("Enter")
    expect(page.get_by_text("another step asks for the same speed")).to_be_visible()
    notch = page.get_by_role("slider", name="step 2, wanted speed")
    notch.focus()
    page.keyboard.press("ArrowDown")
    expect(field(page, "step 2, rpm, % or air")).to_have_value("199 rpm")
    expect(notch).to_have_attribute("aria-valuetext", "199 rpm, 60 per cent of full speed")

    # … and by mouse: the staff answers while it is dragged, and keeps it when let go.
    box = notch.bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + 30, box["y"])
    page.mouse.down()
    page.mouse.move(box["x"] + 30, box["y"] - 8, steps=4)
    with page.expect_response(lambda answer: answer.request.method in ("PUT", "PATCH") and answer.ok):
        page.mouse.up()
    expect(field(page, "step 2, rpm, % or air")).not_to_have_value("199 rpm")
    page.wait_for_load_state("networkidle")
    enter(page, "step 2, rpm, % or air", "200")
    expect(field(page, "step 2, rpm, % or air")).to_have_value("200 rpm")

    # Size: pointing tries a bank, a click keeps it.
    page.locator("h1").click()
    page.keyboard.press("]")
    expect(page.get_by_role("link", name=re.compile("Choose"))).to_have_attribute("aria-current", "page")
    page.keyboard.press("]")
    banks = page.get_by_role("region", name="Banks").get_by_role("button", name=re.compile("choose|chosen"))
    expect(banks).to_have_count(10)
    banks.nth(1).hover()
    expect(path(page)).to_have_accessible_name(re.compile(r"regulator [ABC].* = "))
    banks.first.click()
    page.get_by_role("button", name="capacitor A, read and edit").click()
    part = page.get_by_role("dialog")
    expect(part.get_by_text(re.compile(r"step \d, at rest, mains \+10 %")).first).to_be_visible()
    enter(page, "capacitor A, as printed", "1.8 V")
    expect(page.get_by_text("is in volts; this field takes microfarads").first).to_be_visible()
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="capacitor A, read and edit").click()
    enter(page, "capacitor A, as measured", "2u25")
    expect(part.get_by_text("film X2, 2.2 µF, measured 2.25 µF")).to_be_visible()
    part.get_by_role("button", name="Close").click()

    # Prove: the gate, then reading after reading with Enter.
    page.locator("h1").click()
    page.keyboard.press("]")
    expect(page.get_by_role("heading", name="What is to be wired?")).to_be_visible()
    page.keyboard.press("]")
    expect(page.get_by_label("step 1, speed, rpm")).to_be_disabled()
    page.get_by_role("button", name="Done").click()
    expect(page.get_by_label("step 1, speed, rpm")).to_be_focused()
    expected = page.get_by_role("row").filter(has=page.get_by_role("cell", name="speed", exact=True))
    speeds = [text.split(" ±")[0] for text in expected.locator("td:nth-child(3)").all_inner_texts()]
    for step, speed in enumerate(speeds, start=1):
        for quantity in ("speed, rpm", "motor volts, V", "line current, mA"):
            if quantity == "motor volts, V" and step == 4:
                continue
            box_ = page.get_by_label(f"step {step}, {quantity}")
            expect(box_).to_be_focused()
            if quantity == "speed, rpm":
                page.keyboard.type(speed)
            page.keyboard.press("Enter")
    expect(page.get_by_text("every step proved")).to_be_visible()
    expect(page.get_by_text("next: sign it")).to_be_visible()

    # A slow step is said in words, at once; the earlier reading stays in the book.
    enter(page, "step 1, speed, rpm", "0")
    expect(page.get_by_text("the fan stands")).to_be_visible()
    # Leaving the field by Enter took each reading once, not twice.
    first = speeds[0]
    expect(page.get_by_text(f"before: {first} rpm", exact=False).filter(visible=True)).to_have_count(1)
    expect(page.get_by_text(f"before: {first}", exact=False).filter(visible=True)).not_to_contain_text(
        f"{first} rpm, {first}"
    )
    enter(page, "step 1, speed, rpm", first)
    expect(page.get_by_text("every step proved")).to_be_visible()

    # On paper.
    page.get_by_role("link", name="print").click()
    paper = page.frame_locator("iframe")
    expect(paper.get_by_role("heading", name=re.compile("Regulator, revision"))).to_be_visible()
    expect(paper.get_by_role("cell", name="film X2, 2.2 µF, measured 2.25 µF")).to_be_visible()
    expect(paper.get_by_text("every step proved")).to_be_visible()
    page.goto("/".join(page.url.split("/")[:3]))
    expect(page.get_by_role("link", name=re.compile("Bunk room 3.*proved"))).to_be_visible()


def test_digits_and_arrows_select_a_step_everywhere(screen: Page) -> None:
    page = screen
    page.get_by_role("link", name=re.compile("Reading room")).click()
    page.get_by_role("link", name=re.compile("Size")).click()
    page.keyboard.press("3")
    expect(page.get_by_role("button", name=re.compile("^step 3, A∥B"))).to_have_attribute(
        "aria-pressed", "true"
    )
    expect(path(page)).to_have_accessible_name(re.compile("regulator A∥B = 4.5 µF"))
    page.keyboard.press("ArrowDown")
    expect(path(page)).to_have_accessible_name(re.compile("regulator B = 2.7 µF"))
    page.keyboard.press("?")
    expect(page.get_by_role("dialog")).to_contain_text("select a step")
    page.keyboard.press("Escape")
    page.keyboard.press("b")
    expect(page.get_by_role("heading", name="Bench")).to_be_visible()


def test_two_windows_on_one_job_offer_both_texts(screen: Page, server: Server) -> None:
    mine = screen
    theirs = screen.context.new_page()
    for page in (mine, theirs):
        page.goto(f"{server.address}/jobs/1/identify")
        expect(field(page, "maker")).to_have_value("Corrie & Tarn")
    enter(theirs, "maker", "Beck & Ghyll")
    expect(theirs.get_by_text("saved")).to_be_visible()
    theirs.wait_for_load_state("networkidle")
    mine.evaluate("window.stop()")
    enter(mine, "maker", "Tarn Motors")
    dialog = mine.get_by_role("alertdialog")
    expect(dialog).to_contain_text("Tarn Motors")
    expect(dialog).to_contain_text("Beck & Ghyll")
    dialog.get_by_role("button", name="Keep mine").click()
    expect(field(mine, "maker")).to_have_value("Tarn Motors")
    enter(theirs, "maker", "Ghyll")
    theirs.get_by_role("alertdialog").get_by_role("button", name="Take the other").click()
    expect(field(theirs, "maker")).to_have_value("Tarn Motors")


def test_a_server_killed_in_mid_job_loses_nothing_typed_or_saved(
    page: Page, demo_url: str, tmp_path: Path
) -> None:
    page.set_default_timeout(10_000)
    with running(demo_url, str(tmp_path)) as first:
        port = int(first.address.rsplit(":", 1)[1])
        page.goto(f"{first.address}/jobs/1/measure")
        enter(page, "input watts", "72.5W")
        expect(field(page, "input watts")).to_have_value("72.5 W")
        first.kill()
        enter(page, "line amps", "317m")
        expect(page.get_by_text("Kept on this device; sent when Fenwit is back.")).to_be_visible()
        enter(page, "volts across run capacitor", "412V")
        expect(page.get_by_text("offline: 2 edits kept here")).to_be_visible()
        expect(field(page, "line amps")).to_have_value("317m")
    with running(demo_url, str(tmp_path), port=port):
        # Nobody does anything: what was kept is sent, in its order, and said to be saved.
        expect(field(page, "line amps")).to_have_value("317 mA")
        expect(field(page, "volts across run capacitor")).to_have_value("412 V")
        expect(page.get_by_text("edits kept here")).to_have_count(0)
        page.reload()
        expect(field(page, "input watts")).to_have_value("72.5 W")
        expect(field(page, "line amps")).to_have_value("317 mA")


def test_a_start_switch_motor_is_refused_in_plain_sight(screen: Page, server: Server) -> None:
    page = screen
    page.goto(f"{server.address}/jobs/1/identify")
    page.get_by_role("combobox", name="motor kind").click()
    page.get_by_role("option", name="Capacitor-start", exact=True).click()
    expect(page.get_by_text("refused, no exception:").first).to_be_visible()
    expect(path(page)).to_contain_text("it closes again")
    expect(page.get_by_role("link", name=re.compile("Size"))).to_have_count(0)


def test_markup_in_a_name_is_text(screen: Page) -> None:
    page = screen
    page.get_by_role("button", name=re.compile("New job")).click()
    page.get_by_role("button", name="Take it in hand").click()
    expect(page.get_by_role("alert")).to_contain_text("a name is wanted here")
    field(page, "fan").fill("<img src=x onerror=alert(1)> 🌀")
    field(page, "supply volts").fill("230 Hz")
    page.get_by_role("button", name="Take it in hand").click()
    expect(page.get_by_role("alert")).to_contain_text("is in hertz")
    expect(field(page, "fan")).to_have_value("<img src=x onerror=alert(1)> 🌀")
    field(page, "supply volts").fill("240V")
    page.get_by_role("button", name="Take it in hand").click()
    expect(page.get_by_role("heading", name="<img src=x onerror=alert(1)> 🌀")).to_be_visible()


def test_the_bench_is_searched_and_filtered(screen: Page) -> None:
    page = screen
    expect(page.get_by_role("link", name=re.compile("room"))).to_have_count(9)
    page.keyboard.press("/")
    page.keyboard.type("regulator slower")
    expect(page.get_by_role("link", name=re.compile("room"))).to_have_count(1)
    page.get_by_role("textbox", name="find").fill("")
    page.get_by_role("button", name=re.compile("to be sized")).click()
    expect(page.get_by_role("link", name=re.compile("Reading room"))).to_have_count(0)
    expect(page.get_by_role("link", name=re.compile("Bunk room 2"))).to_be_visible()


def test_an_address_that_leads_nowhere_says_so(screen: Page, server: Server) -> None:
    for place in ("/jobs/99", "/jobs/x", "/nothing/here"):
        screen.goto(server.address + place)
        expect(screen.get_by_role("link", name="To the Bench")).to_be_visible()
