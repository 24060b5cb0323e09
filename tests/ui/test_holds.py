"""An exhaust commissioned against a fan that answers, and a thermal curve drawn by hand, through the real interface."""

from __future__ import annotations

import re
from pathlib import Path

from playwright.sync_api import Locator, Page, expect

from tests.ui.server import Server, running
from tests.ui.test_walks import field

EXHAUST, RACK = 11, 9
DEAD = (
    ("look-free", "yes"), ("look-earth", "0.06"), ("dead-track", "16k1"), ("dead-wiper-slow", "6k2"),
    ("dead-wiper-fast", "16k"), ("dead-enable-open", "open"), ("dead-enable-closed", "0.3"), ("supply-volts", "231"),
    ("full-click", "yes"),
)  # fmt: skip
REST = (
    ("full-ref", "10.02"), ("full-aux", "24.1"), ("alarm-well", "yes"), ("alarm-dead", "yes"), ("enable-stops", "yes"),
    ("enable-starts", "yes"), ("knob-v0", "3.69"),
)  # fmt: skip
LAST = (
    ("knob-v25", "5.1"), ("knob-n25", "1460"), ("knob-v50", "6.7"), ("knob-n50", "1930"), ("knob-v75", "8.3"),
    ("knob-n75", "2430"), ("knob-v100", "10"), ("knob-n100", "2789"), ("sensor-zero", "2.01"), ("sensor-same", "yes"),
    ("sensor-lost", "yes"), ("loop-held", "545"), ("loop-settle", "14"), ("loop-calm", "yes"), ("serial-back", "yes"),
    ("serial-lost", "0"),
)  # fmt: skip


def put(page: Page, key: str, text: str) -> None:
    """One line of the order, typed."""
    box = page.locator(f"#plan-{key}")
    box.fill(text)
    box.press("Enter")
    row = page.locator("div.row-line").filter(has=box)
    expect(row.get_by_text("holds", exact=True)).to_be_visible()


def answer_of(page: Page) -> Locator:
    """What the device in hand said last."""
    return page.get_by_role("region", name="Order of work").get_by_role("status").first


def read_until_kept(page: Page, what: str) -> None:
    """Ask again while the fan is on its way, as one does beside a soft start."""
    read = page.get_by_role("button", name=re.compile(f"^read {what} off"))
    for _ in range(60):
        read.click()
        expect(answer_of(page)).not_to_have_text("asking…")
        expect(answer_of(page)).not_to_be_empty()
        if ", kept" in answer_of(page).inner_text():
            return
    raise AssertionError(answer_of(page).inner_text())


def test_an_exhaust_is_commissioned_with_one_answer_lost(screen: Page, server: Server) -> None:
    page = screen
    page.goto(f"{server.address}/jobs/{EXHAUST}/prove")
    plan = page.get_by_role("region", name="Order of work")
    expect(plan.get_by_text("0 of 10 lines done")).to_be_visible()
    # A loose earth stops everything after it, and says what is likeliest.
    page.locator("#plan-look-free").fill("yes")
    page.keyboard.press("Enter")
    page.locator("#plan-look-earth").fill("2")
    page.keyboard.press("Enter")
    expect(plan.get_by_text("Likeliest: a loose or painted joint.")).to_be_visible()
    expect(page.locator("#plan-dead-track")).to_be_disabled()
    page.locator("#plan-look-earth").fill("soon")
    page.keyboard.press("Enter")
    expect(plan.get_by_role("alert").first).to_be_visible()
    expect(page.locator("#plan-look-earth")).to_have_value("soon")
    for key, text in DEAD:
        put(page, key, text)

    # The next reading is the fan's speed: a key asks it. One answer is lost, shown, and never taken.
    page.get_by_role("button", name="simulated bench").click()
    page.get_by_role("button", name="lose the next answer").click()
    page.keyboard.press("Escape")
    page.locator("h1").first.click()
    page.keyboard.press("r")
    expect(answer_of(page)).to_contain_text("not kept")
    expect(page.locator("#plan-full-rpm")).to_have_value("")
    read_until_kept(page, "full speed")
    expect(page.locator("#plan-full-rpm")).to_have_value(re.compile(r"27\d\d|28\d\d"))
    expect(plan.get_by_text("exhaust fan").last).to_be_visible()
    for key, text in REST:
        put(page, key, text)

    # The knob is turned down: while it slows nothing counts.
    page.get_by_role("button", name="simulated bench").click()
    field(page, "volts on analog 1").fill("3.69 V")
    page.keyboard.press("Enter")
    page.keyboard.press("Escape")
    page.get_by_role("button", name=re.compile("^read knob at slow end: speed off")).click()
    expect(answer_of(page)).to_contain_text("not kept")
    expect(page.locator("#plan-knob-n0")).to_have_value("")
    read_until_kept(page, "knob at slow end: speed")
    expect(page.locator("#plan-knob-n0")).to_have_value(re.compile(r"10\d\d"))
    for key, text in LAST:
        put(page, key, text)
    expect(plan.get_by_text("10 of 10 lines done")).to_be_visible()

    # The log of answers keeps the lost one, with the others; on paper the source stands beside its reading.
    page.get_by_role("button", name="all answers").click()
    expect(page.get_by_text("lost", exact=False).first).to_be_visible()
    paper = page.request.get(f"{server.address}/api/jobs/{EXHAUST}/report.html").text()
    assert "full-speed run, full speed" in paper
    assert "exhaust fan" in paper


def test_a_thermal_curve_is_drawn_by_hand_and_by_keys(
    screen: Page, demo_url: str, server: Server, tmp_path: Path
) -> None:
    page = screen
    page.goto(f"{server.address}/jobs/{RACK}/hold")
    start = page.get_by_role("slider", name="starts")
    before = float(start.get_attribute("aria-valuenow") or "nan")
    start.focus()
    page.keyboard.press("ArrowUp")
    expect(start).to_have_attribute("aria-valuenow", re.compile(f"^{before + 0.5:g}$"))
    # Dragged: the answer follows under way, the last place is kept.
    full = page.get_by_role("slider", name="full")
    box = full.bounding_box()
    assert box is not None
    was = float(full.get_attribute("aria-valuenow") or "nan")
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x, y - 20, steps=4)
    with page.expect_response(lambda r: r.request.method == "PATCH") as saved:
        page.mouse.up()
    assert saved.value.ok
    # Kept on the server, not only on the page: a server killed and started again shows it.
    page.reload()
    now = full.get_attribute("aria-valuenow") or ""
    assert float(now) > was
    server.kill()
    with running(demo_url, str(tmp_path), port=int(server.address.rpartition(":")[2])):
        page.reload()
        expect(page.get_by_role("slider", name="full")).to_have_attribute("aria-valuenow", now)
        expect(page.get_by_role("slider", name="starts")).to_have_attribute(
            "aria-valuenow", f"{before + 0.5:g}"
        )
