"""From Choose to a chosen way, and from a control that came in broken to its repair, through the real interface."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.ui.server import Server
from tests.ui.test_walks import enter, path

FIRST_LOOK_MS = 20_000
"""A new fan is solved in every way at once, beside other tests [ms]"""


def test_from_choose_to_a_way_that_is_sized(screen: Page, server: Server) -> None:
    page = screen
    page.goto(f"{server.address}/jobs/1/choose")
    ways = page.get_by_role("radiogroup", name="Ways of regulating").get_by_role("radio")
    # Five ways: a transformer stands there both as an auto and with a winding of its own.
    expect(ways).to_have_count(5, timeout=FIRST_LOOK_MS)
    expect(page.get_by_role("status").filter(has_text="solving…")).to_have_count(0, timeout=FIRST_LOOK_MS)

    # Arrow keys flip through them; path and staff follow at once.
    ways.first.click()
    for k in range(5):
        expect(ways.nth(k)).to_be_checked()
        page.keyboard.press("ArrowDown")
    page.get_by_role("radio", name=re.compile("phase angle")).click()
    expect(path(page)).to_have_accessible_name(re.compile(r"\d+°"))
    expect(page.get_by_role("region", name="phase angle in detail")).to_contain_text("△ triac")

    # What matters is moved by key, and the order says why.
    wish = page.get_by_role("button", name=re.compile("^no interference|^cheap|^quiet")).first
    expect(wish).to_be_visible()
    page.get_by_label("add what matters").select_option("regulator")
    wishes = page.get_by_role("button", name=re.compile("arrow keys move it"))
    expect(wishes).to_have_count(4)
    wishes.last.focus()
    for place in (3, 2, 1):
        page.keyboard.press("ArrowLeft")
        expect(wishes.nth(place - 1)).to_have_accessible_name(re.compile("^cool"))
    expect(page.get_by_text(re.compile("regulator heat .* here")).first).to_be_visible()

    # No day has thirty hours.
    page.get_by_role("button", name="hours, bands and prices").click()
    enter(page, "h a day, step 1", "30")
    expect(page.get_by_role("alert").filter(has_text="24")).to_be_visible()
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")

    # The one that is taken carries the wanted speeds into Size.
    page.get_by_role("radio", name=re.compile("series resistor")).click()
    page.get_by_role("button", name="Size it").click()
    page.wait_for_url(re.compile("/size"))
    offers = page.get_by_role("region", name="Resistors").get_by_role("button", name=re.compile("worst miss"))
    expect(offers.first).to_be_visible()
    expect(page.get_by_role("tab", name="resistors in the line")).to_have_attribute("aria-selected", "true")


def test_a_broken_control_from_its_board_to_its_repair(screen: Page, server: Server) -> None:
    page = screen
    page.goto(f"{server.address}/jobs/2/inspect")
    page.get_by_role("button", name="knob with triac, two wires").click()
    expect(page.get_by_role("region", name="Parts of the board")).to_be_visible(timeout=FIRST_LOOK_MS)

    # Read off the board: bench notation, a printed code, colours; nonsense is refused and stays typed.
    enter(page, "knob's track, as printed", "a lot")
    expect(page.get_by_role("alert").first).to_be_visible()
    enter(page, "knob's track, as printed", "330k lin")
    enter(page, "end resistor, as printed", "brown,red,orange,gold")
    enter(page, "timing capacitor, as printed", "823K 100V")
    enter(page, "snubber capacitor, as printed", "470")
    readings = page.get_by_role("row").filter(has_text="snubber capacitor")
    expect(readings).to_contain_text("470 pF", timeout=FIRST_LOOK_MS)
    enter(page, "snubber capacitor, as printed", "39n")
    page.get_by_label("fuse: condition").select_option("missing")
    page.get_by_label("spindle").select_option("metal")
    expect(page.get_by_role("button", name="Schematic of the control, larger")).to_be_visible()

    # What it does with this fan, and its findings.
    page.get_by_role("tab", name="what it does").click()
    expect(page.get_by_role("table", name="What it does")).to_contain_text("rpm", timeout=FIRST_LOOK_MS)
    expect(page.get_by_role("img", name=re.compile("Speed over the travel"))).to_be_visible()
    page.get_by_role("tab", name=re.compile("findings")).click()
    danger = page.get_by_role("region", name="danger")
    expect(danger).to_contain_text("no fuse in the line")
    expect(danger).to_contain_text("a metal spindle that may be live")

    # What was seen, where to look: dead first.
    page.get_by_role("tab", name="what is the matter").click()
    page.get_by_label("full only").check()
    look = page.get_by_role("region", name="Where to look")
    expect(look.get_by_role("heading")).to_contain_text("triac, MT1 to MT2")
    look.get_by_role("button", name="triac, MT1 to MT2, on the ohmmeter: bad").click()
    explains = page.get_by_role("region", name="What explains it")
    expect(explains.get_by_role("listitem").first).to_contain_text("triac shorted")
    explains.get_by_role("button", name="shows").first.click()
    expect(page.get_by_role("table", name="What it would show")).to_contain_text("230 V")
    explains.get_by_role("button", name="it is this").first.click()

    # Its parts, and its proof under a lamp.
    mend = page.get_by_role("region", name="Mend it", exact=True)
    expect(mend).to_contain_text("triac T shorted", timeout=FIRST_LOOK_MS)
    expect(mend).to_contain_text("fuse:")
    for place, volts in (("0 %", "229"), ("50 %", "197"), ("100 %", "116")):
        enter(page, f"volts across the lamp at {place}", volts)
    expect(mend).to_contain_text("Proved under the lamp")
    enter(page, "volts across the lamp at 50 %", "60")
    expect(mend).to_contain_text("not so: look again")

    # Or a new design in one step, at the speeds that are wanted.
    page.get_by_role("button", name=re.compile("Design anew")).click()
    page.wait_for_url(re.compile("/choose"))
    expect(page.get_by_role("radiogroup", name="Ways of regulating")).to_be_visible(timeout=FIRST_LOOK_MS)


def test_the_cracked_track_of_the_bunk_room_beside_its_capacitors(screen: Page, server: Server) -> None:
    page = screen
    page.goto(f"{server.address}/jobs/1/inspect?part=mend")
    mend = page.get_by_role("region", name="Mend it", exact=True)
    expect(mend).to_contain_text("printed track cracked", timeout=FIRST_LOOK_MS)
    compared = page.get_by_role("region", name="Beside the design")
    expect(compared.get_by_role("row").filter(has_text="hum")).to_contain_text("dB", timeout=FIRST_LOOK_MS)
    page.get_by_role("tab", name="what is the matter").click()
    page.get_by_label("Suppose").select_option("half-wave:triac")
    expect(page.get_by_text("hums, crawls and gets hot")).to_be_visible(timeout=FIRST_LOOK_MS)
    # Undone like any edit.
    page.get_by_label("gets hot").check()
    expect(page.get_by_label("gets hot")).to_be_checked()
    page.locator("h1").click()
    page.keyboard.press("u")
    expect(page.get_by_label("gets hot")).not_to_be_checked()
