"""Identify and Measure through the real interface."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.ui.server import Server
from tests.ui.test_walks import field

FOCUSED = """() => {
    const e = document.activeElement;
    return e ? (e.getAttribute('aria-label') || e.labels?.[0]?.textContent || e.textContent || '').trim() : '';
}"""
OHMS = {
    "A to E": "21.1", "B to C": "84.2", "B to D": "1515", "B to E": "142.4", "C to D": "67.5", "C to E": "58.4",
    "D to E": "9.3",
}  # fmt: skip


def tab_to(page: Page, name: str) -> None:
    """Press Tab until something of that name has the focus."""
    for _ in range(120):
        page.keyboard.press("Tab")
        if re.search(name, page.evaluate(FOCUSED)):
            return
    raise AssertionError(f"nothing named {name!r} is reached by Tab")


def test_the_air_handlers_leads_are_found_by_keyboard_alone(screen: Page) -> None:
    page = screen
    expect(page.get_by_role("link", name=re.compile("Visitor hall"))).to_be_visible()
    tab_to(page, "^Visitor hall")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Visitor hall")).to_be_visible()
    # It opens where it waits, in Aim's field for a new step; from there to the first stage.
    stages = page.get_by_role("navigation", name="Stages")
    expect(stages.get_by_role("link", name="Aim")).to_have_attribute("aria-current", "page")
    expect(page.locator("#aim-new")).to_be_focused()
    tab_to(page, r"^.{0,3}Identify.{0,8}$")
    page.keyboard.press("Enter")
    expect(stages.get_by_role("link", name="Identify")).to_have_attribute("aria-current", "page")
    tab_to(page, "^nameplate$")
    for tab in ("evidence", "leads"):
        page.keyboard.press("ArrowRight")
        expect(page.get_by_role("tab", name=tab)).to_have_attribute("aria-selected", "true")
        expect(page.get_by_role("tab", name=tab)).to_be_focused()
    expect(page.get_by_text("E is not joined to the rest")).to_be_visible()

    # Enter walks the sheet as a person would probe; one reading slips by a decimal point.
    tab_to(page, "^ohms A to E")
    for pair, text in OHMS.items():
        expect(field(page, f"ohms {pair}")).to_be_focused()
        page.keyboard.type(text)
        page.keyboard.press("Enter")
    alert = page.get_by_role("alert").filter(has_text="decimal point")
    expect(alert).to_contain_text("B")
    expect(page.get_by_text("read again", exact=True)).to_have_count(1)

    # Back to it with Shift+Tab and the arrows, and the true value in its place.
    while "D to E" not in page.evaluate(FOCUSED):
        page.keyboard.press("Shift+Tab")
    for key in ("ArrowUp", "ArrowUp", "ArrowLeft"):
        page.keyboard.press(key)
    expect(field(page, "ohms B to D")).to_be_focused()
    page.keyboard.press("ControlOrMeta+a")
    page.keyboard.type("151.5")
    page.keyboard.press("Enter")
    expect(alert).to_have_count(0)
    winding = page.get_by_role("img", name=re.compile("^Winding"))
    expect(winding).to_have_accessible_name(re.compile("A low, B capacitor, C common, D medium, E high"))
    expect(page.get_by_role("heading", name="Taps, before power is applied")).to_be_visible()
    for lead in ("E high", "D medium", "A low"):
        expect(page.get_by_role("cell", name=lead)).to_be_visible()
    staff = page.get_by_role("group", name=re.compile("^Speed staff"))
    expect(staff).to_have_accessible_name(re.compile("Tap D, medium"))


def test_evidence_turns_the_ranking_and_a_refusal_stands(screen: Page, server: Server) -> None:
    page = screen
    page.goto(f"{server.address}/jobs/5/identify?part=evidence")
    kinds = page.get_by_role("region", name="Which kind it is").get_by_role("listitem")
    expect(kinds.first).to_contain_text("Capacitor-start")
    expect(page.get_by_text("Refused: start switch")).to_be_visible()
    rows = page.get_by_role("region", name="What can be seen and heard")
    rows.get_by_label(re.compile("^a click while")).get_by_role("radio", name="no").click()
    rows.get_by_label(re.compile("^a capacitor in a hump")).get_by_role("radio", name="no").click()
    rows.get_by_label(re.compile("^a run capacitor that")).get_by_role("radio", name="yes").click()
    expect(kinds.first).to_contain_text("Permanent split capacitor")
    expect(page.get_by_text("Overruled: what was seen speaks for")).to_be_visible()


def test_a_weak_block_is_read_blamed_and_replaced(screen: Page, server: Server) -> None:
    page = screen
    page.goto(f"{server.address}/jobs/6/identify?part=capacitors")
    page.get_by_role("button", name="all steps slow").click()
    suspects = page.get_by_role("list", name="Suspects").get_by_role("listitem")
    expect(suspects.first).to_contain_text("shared")
    expect(page.get_by_text("wire on m (motor) goes to a")).to_be_visible()
    page.get_by_role("button", name=re.compile("history: 5 readings")).click()
    expect(page.get_by_text("leaves its tolerance about")).to_be_visible()
    page.keyboard.press("Escape")
    # A fresh reading: the section was exchanged.
    sections = page.get_by_role("region", name="Sections").get_by_role("listitem")
    shared = sections.filter(has_text="shared").first
    shared.get_by_label("read", exact=True).fill("5u55")
    page.keyboard.press("Enter")
    expect(shared).to_contain_text("−0.9 % of ±10 %")
    expect(suspects.first).not_to_contain_text("shared")


def test_a_run_narrows_the_bands_and_an_odd_reading_is_set_aside(screen: Page, server: Server) -> None:
    page = screen
    page.goto(f"{server.address}/jobs/1/measure")
    mark = page.get_by_role("button", name=re.compile("^step 2, wanted 196 rpm"))
    expect(mark).to_have_accessible_name(re.compile("196 ± 49 rpm"))
    runs = page.get_by_role("region", name="Readings")
    runs.get_by_label("as measured").fill("2u7")
    runs.get_by_role("button", name="Add the run").click()
    expect(page.get_by_text("2.7 µF in the line")).to_be_visible()
    box = page.get_by_role("group", name=re.compile("2.7 µF in the line")).get_by_label("rpm", exact=True)
    box.fill("199")
    page.keyboard.press("Enter")
    expect(mark).to_have_accessible_name(re.compile(r"196 ± \d rpm|196 ± 1\d rpm"))
    page.get_by_role("tab", name="how the band shrank").click()
    expect(page.get_by_role("img", name=re.compile("band", re.IGNORECASE))).to_be_visible()
    page.get_by_role("tab", name="torque over speed").click()
    expect(page.get_by_role("img", name=re.compile("torque", re.IGNORECASE))).to_be_visible()
    page.get_by_role("tab", name="predicted and read").click()
    field(page, "line amps").first.fill("636m")
    page.keyboard.press("Enter")
    expect(page.get_by_text("two turns through the clamp")).to_be_visible()
    page.get_by_role("button", name="set it aside").click()
    expect(page.get_by_text("two turns through the clamp")).to_have_count(0)
