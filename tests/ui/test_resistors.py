"""A job by resistors through the real interface: aimed, chosen, edited, proved, handed over."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.ui.server import Server
from tests.ui.test_walks import enter, field, path


def test_resistors_from_aim_to_hand_over(screen: Page, server: Server) -> None:
    page = screen
    page.goto(f"{server.address}/jobs/1/aim")
    page.get_by_role("radio", name="a series resistor").click()
    first = page.get_by_role("row").nth(1)
    expect(first).to_contain_text("kΩ")
    page.get_by_role("slider").first.focus()
    for _ in range(4):
        page.keyboard.press("ArrowUp")
    expect(path(page)).to_have_accessible_name(re.compile(r"regulator [\d.]+ kΩ"))

    # Size: both ways to wire them; pointing tries, a click keeps.
    page.get_by_role("link", name=re.compile("Size")).click()
    expect(page.get_by_role("tab", name="resistors in the line")).to_have_attribute("aria-selected", "true")
    offers = page.get_by_role("region", name="Resistors").get_by_role("button", name=re.compile("worst miss"))
    expect(offers).to_have_count(2)
    chain = offers.filter(has_text="tapped chain")
    page.wait_for_load_state("networkidle")
    chain.hover()
    expect(path(page)).to_have_accessible_name(re.compile("regulator R1–R3"))
    chain.click()
    expect(chain).to_have_attribute("aria-pressed", "true")
    page.mouse.move(10, 790)
    parts = page.get_by_role("list", name="Parts")
    expect(parts.get_by_text(re.compile(r"about \d+ °C at worst: guard it"))).to_have_count(3)

    # Too small a resistor is refused beside its field, with the reason; another room asks for another size.
    page.get_by_role("button", name="resistor R1, read and edit").click()
    enter(page, "rated watts; empty: Fenwit chooses", "5")
    expect(page.get_by_role("dialog").get_by_role("alert")).to_contain_text("too small")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="resistor R1, read and edit").click()
    enter(page, "resistor R1, as measured cold", "900 V")
    expect(page.get_by_role("dialog").get_by_role("alert")).to_contain_text("this field takes ohms")
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    enter(page, "room at its warmest", "hot")
    expect(page.get_by_role("region", name="Resistors").get_by_role("alert")).to_contain_text("°C")
    enter(page, "room at its warmest", "35")
    expect(field(page, "room at its warmest")).to_have_value("35 °C")

    # What it costs beside the capacitors that give the same speeds.
    page.get_by_role("tab", name="Heat and energy").click()
    expect(
        page.get_by_text(re.compile(r"\d+ kWh in 300 days a year; with capacitors .* \d+ kWh"))
    ).to_be_visible()
    enter(page, "hours a day at step 1", "23")
    expect(page.get_by_role("table").get_by_role("alert")).to_contain_text("a day has 24 hours")
    enter(page, "hours a day at step 1", "10")
    expect(field(page, "hours a day at step 1")).to_have_value("10")
    page.get_by_role("tab", name="Acceptance").click()
    expect(page.get_by_text(re.compile("^(met|missed) by")).first).to_be_visible()

    # Prove: every step as it is expected.
    page.get_by_role("link", name=re.compile("Prove")).click()
    page.get_by_role("button", name="Done").click()
    expected = page.get_by_role("row").filter(has=page.get_by_role("cell", name="speed", exact=True))
    expect(expected).to_have_count(4)
    speeds = [t.split(" ±")[0] for t in expected.locator("td:nth-child(3)").all_inner_texts()]
    for step, speed in enumerate(speeds, start=1):
        enter(page, f"step {step}, speed, rpm", speed)
        expect(
            page.get_by_text(f"{step} of 4 steps read" if step < 4 else "every step proved")
        ).to_be_visible()
    enter(page, "step 2, speed, rpm", "0")
    expect(page.get_by_text(re.compile("burnt open"))).to_be_visible()
    enter(page, "step 2, speed, rpm", speeds[1])
    expect(page.get_by_text("every step proved")).to_be_visible()

    # Hand over: the record has the heat, the distances and the energy.
    page.get_by_role("link", name=re.compile("Hand over")).click()
    expect(page.get_by_role("img", name=re.compile("Schematic of the regulator"))).to_be_visible()
    page.get_by_role("button", name="Hand over").click()
    expect(page.get_by_text(re.compile("● R. Fell"))).to_be_visible()
    page.get_by_role("link", name="print", exact=True).click()
    paper = page.frame_locator("iframe")
    expect(paper.get_by_text("Heat and energy")).to_be_visible()
    expect(paper.get_by_text(re.compile("a year of 300 days: .* with capacitors"))).to_be_visible()
    expect(paper.get_by_text(re.compile("wire-wound on a ceramic tube")).first).to_be_visible()
