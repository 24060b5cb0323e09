"""One circuit through the real interface: by keyboard from template to live test, a swapped wire, a motor exchanged."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.ui.server import Server

READING_ROOM, HALL, WARM, GALLERY = 2, 4, 13, 14


def tabbed_to(page: Page, name: str | re.Pattern[str], role: str = "button") -> None:
    """Tab until a thing has the focus; nothing is reached by the mouse."""
    wanted = page.locator(":focus").and_(page.get_by_role(role, name=name))  # type: ignore[arg-type]
    for _ in range(90):
        if wanted.count():
            return
        page.keyboard.press("Tab")
    raise AssertionError(f"{name} is not reached by Tab")


def test_a_relay_centre_from_template_to_live_test_by_keyboard_alone(screen: Page, server: Server) -> None:
    page = screen
    page.goto(server.address)
    expect(page.get_by_role("link", name=re.compile("Bunk room"))).to_be_visible()
    page.keyboard.press("n")
    expect(page.get_by_label("fan", exact=True)).to_be_focused()
    page.keyboard.type("Cellar air")
    tabbed_to(page, re.compile("only to be wired"), "checkbox")
    page.keyboard.press("Space")
    tabbed_to(page, "Take it in hand")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="What is to be wired?")).to_be_visible()
    job = page.url.rpartition("/")[0]
    tabbed_to(page, "relay fan centre")
    page.keyboard.press("Enter")
    table = page.get_by_role("table", name="Truth table")
    expect(table).to_contain_text("rest")

    # Down the table: the row in hand lives in the drawing.
    tabbed_to(page, re.compile("LO"), "row")
    page.keyboard.press("ArrowDown")
    expect(page.get_by_role("img", name="Circuit, TH.fan")).to_be_visible()
    expect(page.get_by_role("row", selected=True)).to_contain_text("pulled")

    # A lamp is added by terminals: it would be fed by the idle tap, and that is said.
    page.keyboard.press("Shift+Tab")
    tabbed_to(page, "what it does", "tab")
    page.keyboard.press("ArrowRight")
    tabbed_to(page, "terminal", "combobox")
    page.keyboard.type("m.cap")
    page.keyboard.press("Tab")
    page.keyboard.type("k1.xx")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert").first).to_contain_text("no such terminal")
    page.keyboard.press("Control+a")
    page.keyboard.type("k1.no")
    page.keyboard.press("Enter")
    expect(page.get_by_label("terminal", exact=True)).to_have_value("")
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    page.keyboard.press("u")
    expect(page.get_by_role("status").filter(has_text="saved")).to_be_visible()

    # Wires are ticked, ohms typed, lamps and rows seen.
    page.goto(f"{job}/wire?part=connections")
    tabbed_to(page, re.compile("^wire 1,"), "checkbox")
    page.keyboard.press("Space")
    expect(page.get_by_role("checkbox", name=re.compile("^wire 1,"))).to_be_checked()
    page.goto(f"{job}/wire?part=dead")
    tabbed_to(page, "S.L to S.N", "textbox")
    page.keyboard.type("18.1")
    page.keyboard.press("Enter")
    row = page.get_by_role("listitem").filter(has=page.get_by_label("S.L to S.N", exact=True))
    expect(row.get_by_text("holds")).to_be_visible()
    tabbed_to(page, re.compile("no jumper"), "checkbox")
    page.keyboard.press("Space")
    tabbed_to(page, re.compile("^TH.fan: M HI"), "checkbox")
    page.keyboard.press("Space")
    expect(page.get_by_role("checkbox", name=re.compile("^TH.fan: M HI"))).to_be_checked()


def test_two_swapped_wires_are_found_by_their_ohms(screen: Page, server: Server) -> None:
    page = screen
    page.goto(f"{server.address}/jobs/{GALLERY}/wire?part=dead")
    box = page.get_by_label("T.OUT to S.N, SW low")
    box.fill("soon")
    box.press("Enter")
    expect(page.get_by_role("alert").first).to_be_visible()
    expect(box).to_have_value("soon")
    box.fill("11.6")
    box.press("Enter")
    why = page.get_by_role("status", name="What explains it")
    expect(why).to_contain_text("SW.1 and SW.2 swapped")
    # The test worth most is pressed, and takes the answer.
    why.get_by_role("button", name="T.OUT to S.N, SW high").click()
    expect(page.get_by_label("T.OUT to S.N, SW high")).to_be_focused()
    page.keyboard.type("17.5")
    page.keyboard.press("Enter")
    expect(why.get_by_text("50 %")).to_have_count(2)
    expect(page.get_by_role("tab", name=re.compile("dead tests"))).to_contain_text("2")
    # Mended: both agree, and nothing is left to explain.
    for stand, ohms in (("low", "17.5"), ("high", "11.6")):
        again = page.get_by_label(f"T.OUT to S.N, SW {stand}")
        again.fill(ohms)
        again.press("Enter")
    expect(why).to_have_count(0)


def test_an_ec_motor_is_planned_and_a_failing_call_mended(screen: Page, server: Server) -> None:
    page = screen
    page.goto(f"{server.address}/jobs/{WARM}/wire?part=exchange")
    plan = page.get_by_role("region", name="How it is joined")
    expect(plan).to_contain_text("Every call does what is wanted.")
    # The thermostat's heat output comes off: heat has no speed any more.
    page.get_by_role("tab", name="circuit").click()
    page.get_by_label("part", exact=True).select_option("TH")
    page.get_by_role("button", name="free TH.W").click()
    page.get_by_role("tab", name="exchange").click()
    expect(plan).to_contain_text("What fails")
    expect(
        page.get_by_role("region", name="Every call after the exchange").get_by_text("△").first
    ).to_be_visible()
    page.get_by_role("tab", name="circuit").click()
    page.get_by_label("terminal", exact=True).fill("TH.W")
    page.get_by_label("goes to: terminal or net").fill("w")
    page.get_by_role("button", name="Wire it").click()
    page.get_by_role("tab", name="exchange").click()
    expect(plan).to_contain_text("Every call does what is wanted.")
    plan.get_by_role("button", name="Take this circuit").click()
    expect(page.get_by_role("tab", name="exchange")).to_have_count(0)
    page.get_by_role("tab", name="what it does").click()
    expect(page.get_by_role("table", name="Truth table")).to_contain_text("S4 1100 rpm")
    expect(page.get_by_text("No hazard found in any row")).to_be_visible()


def test_parts_from_their_drawers_points_added_and_cables_typed(screen: Page, server: Server) -> None:
    page = screen
    page.goto(f"{server.address}/jobs/{READING_ROOM}/wire")
    page.get_by_role("button", name="the regulator, as sized").click()
    page.get_by_role("tab", name="parts").click()
    picks = page.get_by_role("region", name="Pick list")
    expect(picks.get_by_role("heading", name="drawer 7")).to_be_visible()
    page.get_by_role("button", name="Put all aside").click()
    expect(page.get_by_text("Nothing more of it lies in a drawer.")).to_be_visible()
    expect(picks.get_by_text("2 put aside").first).to_be_visible()
    missing = picks.get_by_role("checkbox").first
    missing.click()
    expect(missing).to_be_checked()
    expect(picks.get_by_text("at hand, R. Fell").first).to_be_visible()

    # Points that show more are added one by one.
    page.get_by_role("tab", name=re.compile("dead tests")).click()
    tests = page.get_by_role("region", name="Dead tests").get_by_role("textbox")
    expect(tests.first).to_be_visible()
    before = tests.count()
    page.get_by_text("which faults do these points not show?").click()
    page.get_by_role("list", name="Points to add").get_by_role("button").first.click()
    expect(tests).not_to_have_count(before)

    # Places and a cable, with one line wrong at first.
    page.get_by_role("tab", name="circuit").click()
    page.get_by_text("places and cables, calls, what is expected").click()
    page.get_by_label("places, with commas").fill("box, fan")
    cables = page.get_by_label("cables: places; cores; earth; length; area")
    cables.fill("W1: box to moon; brown, blue; earth")
    page.get_by_role("button", name="Keep these").click()
    expect(page.get_by_role("alert").filter(has_text="no such place")).to_be_visible()
    expect(cables).to_have_value("W1: box to moon; brown, blue; earth")
    cables.fill("W1: box to fan; brown, blue; earth; 6 m; 1.5 mm²")
    page.get_by_role("button", name="Keep these").click()
    expect(cables).to_have_value("W1: box – fan; brown, blue; earth; 6 m; 1.5 mm²")
    page.get_by_role("tab", name="parts").click()
    expect(picks).to_contain_text("cable, 2 cores and earth, 1.5 mm², 6 m")

    # Hand over counts the same lists.
    page.goto(f"{server.address}/jobs/{READING_ROOM}/hand-over")
    wiring = page.get_by_role("region", name="The wiring")
    expect(wiring).to_contain_text(re.compile(r"0 of \d+ wires laid"))
    wiring.get_by_role("link", name=re.compile("wires laid")).click()
    expect(page.get_by_role("region", name="Connections")).to_be_visible()


def test_a_hazard_is_said_on_the_drawing_of_its_row(screen: Page, server: Server) -> None:
    page = screen
    page.goto(f"{server.address}/jobs/{HALL}/wire?part=circuit")
    page.get_by_label("terminal", exact=True).fill("TR.S1")
    page.get_by_label("goes to: terminal or net").fill("K1.COM")
    page.get_by_role("button", name="Wire it").click()
    expect(page.get_by_label("terminal", exact=True)).to_have_value("")
    page.get_by_role("tab", name="what it does").click()
    drawing = page.get_by_role("img", name=re.compile("Circuit, nothing called"))
    expect(drawing).to_contain_text("mains from S.L on the")
    page.get_by_role("button", name="undo").click()
    expect(page.get_by_text("No hazard found in any row")).to_be_visible()
