"""From the knob to the firing table."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.ui.server import Server


def test_from_the_knob_to_the_firing_table(screen: Page, server: Server) -> None:
    page = screen
    page.goto(f"{server.address}/jobs/1/size")
    page.get_by_role("tab", name="phase angle").click()
    knob = page.get_by_role("img", name=re.compile("^Speed over firing angle"))
    expect(knob).to_have_accessible_name(re.compile(r"Step 2: 10\d degrees, 196 ± \d+ rpm"))
    page.locator("h1").click()
    page.keyboard.press("2")
    wave = page.get_by_role("img", name=re.compile("^Waveforms of step 2"))
    expect(wave).to_have_accessible_name(re.compile(r"fires at 10\d degrees, current ends at 18\d"))
    # The cursor is moved by key; in the open time no current flows.
    cursor = page.get_by_role("slider", name="cursor, degrees")
    cursor.focus()
    before = page.get_by_text("line 0 mA")
    expect(before).to_be_visible()
    for _ in range(6):
        page.keyboard.press("PageUp")
    expect(before).to_have_count(0)
    # The knob: one part changed, answered at once; nonsense said beside it.
    page.get_by_role("tab", name="Knob and diac").click()
    turn = page.get_by_role("img", name=re.compile("^Speed over the knob"))
    expect(turn).to_have_accessible_name(re.compile("turned up it comes on at"))
    field = page.get_by_label("knob", exact=True)
    field.fill("blue")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("cannot be read")
    field.fill("220k")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_have_count(0)
    page.get_by_role("button", name="find usual values").click()
    values = page.get_by_role("list", name="Usual values")
    values.get_by_role("button", name="take").first.click()
    expect(field).not_to_have_value("220k")
    page.get_by_role("tab", name="Parts around the triac").click()
    expect(page.get_by_text("snubber", exact=False).first).to_be_visible()
    page.get_by_role("tab", name="Firing table").click()
    steps = page.get_by_role("textbox", name="steps")
    steps.fill("1")
    expect(page.get_by_role("alert")).to_contain_text("2 to 256 steps")
    steps.fill("12")
    with page.expect_download() as download:
        page.get_by_role("link", name="C header").click()
    text = download.value.path().read_text()
    assert "#define FAN_STEPS 12u" in text
