"""The first day of somebody new: what is advised is pressed, what is typed stays, and nothing is cut off."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.ui.server import Server
from tests.ui.test_walks import enter, field


def focused(page: Page) -> str:
    return str(page.evaluate("document.activeElement?.id ?? ''"))


def test_what_is_advised_is_pressed_and_lands_in_the_field(screen: Page) -> None:
    page = screen
    # From the Bench straight to the reading that fails.
    page.get_by_role("link", name=re.compile("Reading room")).click()
    expect(page.locator("#proof-1-speed_rpm")).to_be_focused()
    expect(page.get_by_text("Measure what makes A")).to_be_visible()
    page.get_by_role("link", name=re.compile("Identify")).click()
    page.get_by_role("button", name="next: step 1 is slow: find out why").click()
    expect(page.locator("#proof-1-speed_rpm")).to_be_focused()

    # The reading worth most opens its run; what is typed there does not run into what follows.
    page.get_by_role("navigation", name="Rooms").get_by_role("link", name="Bench").click()
    page.get_by_role("link", name=re.compile("Bunk room 2")).click()
    page.get_by_role("link", name=re.compile("Measure")).click()
    page.get_by_role("button", name=re.compile("Put 2.2 µF in the line and read rpm")).click()
    run = page.get_by_role("group", name=re.compile("run: 2.2 µF"))
    expect(run.get_by_label("rpm")).to_be_focused()
    page.keyboard.type("185")
    page.keyboard.press("Enter")
    expect(run.get_by_label("rpm")).to_have_value("185 rpm")
    expect(run.get_by_label("line amps")).to_be_focused()
    page.keyboard.type("150m")
    page.keyboard.press("Enter")
    expect(run.get_by_label("line amps")).to_have_value("150 mA")
    expect(run.get_by_label("motor volts")).to_be_focused()

    # The look that would decide.
    page.get_by_role("link", name=re.compile("Identify")).click()
    page.get_by_role("tab", name="evidence").click()
    page.get_by_role("button", name="answer it").click()
    expect(page.locator("#stage li.border-l-copper button").first).to_be_focused()

    # A fan whose readings narrow nothing more offers the next stage in the same place.
    page.get_by_role("button", name="next: bank to be sized").click()
    expect(page.get_by_text("Banks, best first")).to_be_visible()


def test_a_new_fan_is_led_from_field_to_field(screen: Page) -> None:
    page = screen
    expect(page.get_by_role("link", name=re.compile("Bunk room 2"))).to_be_visible()
    page.keyboard.press("n")
    field(page, "fan").fill("Loft")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="next: needs what kind of motor it is").click()
    expect(page.get_by_role("combobox", name="motor kind")).to_be_focused()
    page.keyboard.press("Enter")
    page.get_by_role("option", name="Permanent split capacitor", exact=True).click()
    page.get_by_role("button", name="next: needs number of poles").click()
    expect(field(page, "poles")).to_be_focused()
    for text in ("16", "220–240 V", "50Hz"):
        page.keyboard.type(text)
        page.keyboard.press("Enter")
    expect(field(page, "rated volts")).to_have_value("220–240 V")
    expect(page.get_by_text("230 V, the middle, is taken")).to_be_visible()
    expect(field(page, "rated rpm")).to_be_focused()
    enter(page, "run capacitor", "2u5")
    page.get_by_role("button", name="next: needs full-speed rpm").click()
    expect(field(page, "full speed")).to_be_focused()
    # An error goes when its cause does: the poles were wrong, not the speed.
    page.keyboard.type("1430")
    page.keyboard.press("Enter")
    expect(page.get_by_text("are poles and rpm right?")).to_be_visible()
    page.get_by_role("link", name=re.compile("Identify")).click()
    enter(page, "poles", "4")
    expect(field(page, "poles")).to_have_value("4")
    page.get_by_role("link", name=re.compile("Measure")).click()
    # What was typed and refused is still there.
    expect(field(page, "full speed")).to_have_value("1430")
    field(page, "full speed").focus()
    page.keyboard.press("Enter")
    expect(field(page, "full speed")).to_have_value("1430 rpm")
    # A meter that shows milliamps: what was meant is offered, and put right at a press.
    field(page, "line amps").fill("520")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="520 mA?").click()
    expect(field(page, "line amps")).to_have_value("520 mA")


def test_five_steps_from_the_label_to_the_signed_page_by_next_alone(screen: Page) -> None:
    """Nothing is looked for: what is to be done next is pressed, typed or chosen where it leads."""
    page = screen
    on = page.get_by_role("button", name=re.compile("^next: "))
    expect(page.get_by_role("link", name=re.compile("Bunk room 2"))).to_be_visible()
    page.keyboard.press("n")
    field(page, "fan").fill("Loft")
    page.keyboard.press("Enter")
    expect(on).to_have_text("next: needs what kind of motor it is")
    on.click()
    page.keyboard.press("Enter")
    page.get_by_role("option", name="Permanent split capacitor", exact=True).click()
    for waits, text in (
        ("number of poles", "16"),
        ("rated volts", "230 V~"),
        ("microfarads of the run capacitor", "2u5"),
        ("full-speed rpm", "330"),
    ):
        expect(on).to_have_text(f"next: needs {waits}")
        on.click()
        expect(page.locator("#stage input:focus")).to_be_visible()
        page.keyboard.type(text)
        page.keyboard.press("Enter")
    expect(field(page, "line amps")).to_be_focused()
    for text in ("318m", "73W"):
        page.keyboard.type(text)
        page.keyboard.press("Enter")
    expect(field(page, "input watts")).to_have_value("73 W")
    expect(on).to_have_text("next: speeds to be set")
    on.click()
    page.get_by_label("how many even steps").select_option("5")
    page.get_by_role("button", name="even steps").click()
    expect(on).to_have_text("next: bank to be sized")
    on.click()
    page.get_by_role("region", name="Banks").get_by_role("button", name=re.compile("choose")).first.click()
    expect(on).to_have_text("next: step 1 to be read")
    on.click()
    # A caution stands before it: the focus is there, and goes on to the reading once it is met.
    expect(page.get_by_role("button", name="Done")).to_be_focused()
    page.keyboard.press("Enter")
    expect(page.locator("#proof-1-speed_rpm")).to_be_focused()
    rows = page.get_by_role("row").filter(has=page.get_by_role("cell", name="speed", exact=True))
    for step, text in enumerate(rows.locator("td:nth-child(3)").all_inner_texts(), start=1):
        page.locator(f"#proof-{step}-speed_rpm").focus()
        rpm = f"{float(text.split(' ±')[0]):.0f}"
        page.keyboard.type(rpm)
        page.keyboard.press("Enter")
        expect(page.locator(f"#proof-{step}-speed_rpm")).to_have_value(f"{rpm} rpm")
    expect(on).to_have_text("next: sign it")
    on.click()
    expect(page.locator("#sign")).to_be_focused()
    page.keyboard.press("Enter")
    expect(page.get_by_text(re.compile(r"^signed \d"))).to_be_visible()
    expect(page.get_by_role("link", name="as signed")).to_be_visible()


def test_a_section_says_what_it_waits_for_and_is_asked_for_once(screen: Page) -> None:
    page = screen
    page.get_by_role("link", name=re.compile("Visitor hall")).click()
    page.get_by_role("link", name=re.compile("Identify")).click()
    page.get_by_role("tab", name="capacitors").click()
    page.get_by_label("printed microfarads, section 1").fill("10u")
    page.get_by_role("button", name="one more section").click()
    for label, text in (
        ("first lead, section 2", "m"),
        ("second lead, section 2", "1"),
        ("printed microfarads, section 2", "4u7"),
    ):
        page.get_by_label(label).fill(text)
    page.get_by_label("fed").fill("1")
    page.get_by_role("button", name="Keep the block").click()
    row = page.get_by_role("listitem").filter(has_text="m–1")
    expect(row.get_by_label("read")).to_be_disabled()
    expect(row).to_contain_text("waits: Section B discharged, volts read")
    expect(page.get_by_text("Section run may hold")).to_have_count(0)
    row.get_by_label("volts left on section B").fill("1")
    page.keyboard.press("Enter")
    expect(row.get_by_label("read")).to_be_focused()
    page.keyboard.type("4u6")
    page.keyboard.press("Enter")
    expect(row.get_by_label("read")).to_have_value("4.6 µF")


def test_nothing_typed_is_lost_by_reload_back_or_a_closed_window(screen: Page, server: Server) -> None:
    page = screen
    page.goto(f"{server.address}/jobs/1/measure")
    field(page, "supply volts").fill("231")
    page.reload()
    expect(field(page, "supply volts")).to_have_value("231")
    expect(page.get_by_text("typed before, not saved")).to_be_visible()
    page.goto(f"{server.address}/jobs/1/hand-over")
    field(page, "remark").fill("blades cleaned")
    page.go_back()
    expect(field(page, "supply volts")).to_have_value("231")
    field(page, "supply volts").focus()
    page.keyboard.press("Enter")
    expect(field(page, "supply volts")).to_have_value("231 V")
    # Another window, after the first was closed.
    later = page.context.new_page()
    page.close()
    later.goto(f"{server.address}/jobs/1/hand-over")
    expect(later.get_by_label("remark")).to_have_value("blades cleaned")
    later.goto(server.address)
    expect(later.get_by_role("link", name=re.compile("Bunk room 2"))).to_be_visible()
    later.keyboard.press("n")
    later.get_by_label("fan", exact=True).fill("half a na")
    later.reload()
    expect(later.get_by_role("link", name=re.compile("Bunk room 2"))).to_be_visible()
    later.keyboard.press("n")
    expect(later.get_by_label("fan", exact=True)).to_have_value("half a na")


VIEWS = (
    "/", "/shelf", "/jobs/1/identify", "/jobs/6/identify?part=capacitors", "/jobs/4/identify?part=leads",
    "/jobs/1/identify?part=evidence", "/jobs/1/measure", "/jobs/1/aim", "/jobs/2/size", "/jobs/3/size", "/jobs/2/prove",
    "/jobs/2/hand-over", "/jobs/2/print", "/jobs/5/identify",
)  # fmt: skip
_CUT = """() => {
  const wide = document.documentElement.clientWidth;
  const seen = (e) => { const b = e.getBoundingClientRect(); return b.width > 0 && b.height > 0; };
  const scrolls = (e) => { for (let p = e.parentElement; p; p = p.parentElement)
    if (['auto', 'scroll', 'hidden'].includes(getComputedStyle(p).overflowX)) return true; return false; };
  const out = [...document.querySelectorAll('button, a, input, select, h1, h2, th, td, label')]
    .filter((e) => seen(e) && !e.closest('.sr-only') && !e.matches('.sr-only'))
    .filter((e) => { const b = e.getBoundingClientRect(); return (b.right > wide + 1 || b.left < -1) && !scrolls(e); })
    .map((e) => e.textContent || e.getAttribute('aria-label') || e.id);
  const narrow = [...document.querySelectorAll('td')].filter(seen)
    .filter((e) => e.textContent.trim().split(' ').length > 3 && e.getBoundingClientRect().width < 48)
    .map((e) => 'one word wide: ' + e.textContent.trim());
  const stage = document.getElementById('stage');
  const high = stage ? stage.getBoundingClientRect().height : 999;
  const short = high < 180 ? ['a stage of ' + high] : [];
  return [...out, ...narrow, ...short, ...(document.documentElement.scrollWidth > wide + 1 ? ['scrolls sideways'] : [])];
}"""


SIZES = ((1280, 800), (1024, 768), (800, 1180), (640, 400))
"""The last one is the first at 200 % zoom"""


def test_every_view_stays_whole_at_every_size(screen: Page, server: Server) -> None:
    """With a fan whose name is as long as names may be."""
    page = screen
    page.goto(f"{server.address}/jobs/2/identify")
    long = "Sweepfanoverthelongestreadingtable" * 3
    enter(page, "fan", long)
    expect(page.get_by_role("heading", level=1)).to_have_text(long)
    for view in VIEWS:
        page.set_viewport_size({"width": 1280, "height": 800})
        page.goto(server.address + view)
        page.wait_for_load_state("networkidle")
        expect(page.get_by_text(re.compile("Fetching"))).to_have_count(0)
        for width, height in SIZES:
            page.set_viewport_size({"width": width, "height": height})
            page.evaluate("() => new Promise((r) => requestAnimationFrame(() => requestAnimationFrame(r)))")
            assert page.evaluate(_CUT) == [], (view, width)
