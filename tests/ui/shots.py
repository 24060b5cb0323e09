"""Pictures of the main views, made from the demo data: python -m tests.ui.shots [FOLDER] [VIEW …]."""

from __future__ import annotations

import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from fenwit.store.cluster import Cluster
from tests.ui.server import CHROMIUM_ARGUMENTS, running

ROOT = Path(__file__).resolve().parents[2]


def _job(stage: str, job: int = 1, step: str = "2"):  # type: ignore[no-untyped-def]
    def go(page: Page, address: str) -> None:
        page.goto(f"{address}/jobs/{job}/{stage}")
        page.get_by_role("navigation", name="Stages").wait_for()
        page.keyboard.press(step)

    return go


def _choose(page: Page, address: str, job: int = 1) -> None:
    _job("size", job)(page, address)
    page.get_by_role("region", name="Banks").get_by_role("button", name="choose").first.click()
    page.get_by_role("button", name="capacitor A, read and edit").wait_for()
    page.mouse.move(10, 790)
    page.locator("h1").click()
    page.keyboard.press("2")


def _size(page: Page, address: str) -> None:
    _choose(page, address)
    page.get_by_role("button", name="capacitor B, read and edit").wait_for()


def _hand_over(page: Page, address: str) -> None:
    _job("hand-over", 2)(page, address)
    page.get_by_role("img", name="Schematic").wait_for()


def _shelf(page: Page, address: str) -> None:
    page.goto(f"{address}/shelf")
    page.get_by_text("drawer 4").first.wait_for()


def _bench(page: Page, address: str) -> None:
    page.goto(address)
    page.get_by_text("Reading room", exact=True).wait_for()


def _print(page: Page, address: str) -> None:
    page.goto(f"{address}/jobs/2/print")
    page.frame_locator("iframe").get_by_role("heading", name="Parts", exact=True).wait_for()


def _leads(page: Page, address: str) -> None:
    page.goto(f"{address}/jobs/4/identify?part=leads")
    for pair, ohms in {
        "A to E": "21.1", "B to C": "84.2", "B to D": "151.5", "B to E": "142.4", "C to D": "67.5", "C to E": "58.4",
    }.items():  # fmt: skip
        box = page.get_by_label(f"ohms {pair}", exact=True)
        box.fill(ohms)
        box.press("Enter")
        page.get_by_text("saved").first.wait_for()
    page.get_by_role("heading", name="Taps, before power is applied").wait_for()
    page.locator("h1").click()


def _phase(page: Page, address: str) -> None:
    page.goto(f"{address}/jobs/3/size")
    page.get_by_role("img", name="Speed over firing angle").wait_for()
    page.locator("h1").click()
    page.keyboard.press("2")
    page.get_by_role("img", name="Waveforms of step 2").wait_for()
    page.get_by_role("button", name="lay a capture over it").click()
    page.get_by_role("button", name="lay over", exact=True).click()
    page.keyboard.press("Escape")
    page.locator("h1").click()


def _choose_way(page: Page, address: str) -> None:
    page.goto(f"{address}/jobs/3/choose")
    page.get_by_text("solving…").wait_for(state="detached")
    page.get_by_role("button", name="Size it").wait_for()
    page.locator("h1").click()


def _inspect(part: str) -> Callable[[Page, str], None]:
    def at(page: Page, address: str) -> None:
        page.goto(f"{address}/jobs/1/inspect?part={part}")
        page.get_by_role("tablist", name="Parts of Inspect").wait_for()
        page.get_by_text("solving…").wait_for(state="detached")
        page.locator("h1").click()

    return at


def _desk(page: Page, address: str) -> None:
    asked = (
        "resistance_high_ohm=1k&resistance_low_ohm=1k&pot_ohm=100k+%C2%B110%25&travel=0.4&capacitance_f=330p"
    )
    page.goto(f"{address}/desk/timer-astable-diodes?{asked}")
    page.get_by_role("table", name="Answer").wait_for()


def _control(page: Page, address: str) -> None:
    page.goto(f"{address}/jobs/11/size")
    page.get_by_role("navigation", name="Stages").wait_for()
    page.locator("h1").click()
    page.keyboard.press("2")


def _held(job: int, region: str) -> Callable[[Page, str], None]:
    def at(page: Page, address: str) -> None:
        page.goto(f"{address}/jobs/{job}/hold")
        page.get_by_role("region", name=region).wait_for()
        page.locator("h1").click()

    return at


def _order(page: Page, address: str) -> None:
    page.goto(f"{address}/jobs/11/prove")
    for key, text in (
        ("look-free", "yes"),
        ("look-earth", "0.06"),
        ("dead-track", "16k1"),
        ("dead-wiper-slow", "4k"),
    ):
        box = page.locator(f"#plan-{key}")
        box.fill(text)
        box.press("Enter")
        page.get_by_text("saved").first.wait_for()
    page.get_by_text("Likeliest").wait_for()
    page.locator("h1").click()


def _wire(page: Page, address: str) -> None:
    page.goto(f"{address}/jobs/13/wire")
    page.get_by_role("table", name="Truth table").wait_for()
    page.get_by_role("row").last.hover()


def _dead(page: Page, address: str) -> None:
    page.goto(f"{address}/jobs/14/wire?part=dead")
    box = page.get_by_label("T.OUT to S.N, SW low")
    box.fill("11.6")
    box.press("Enter")
    page.get_by_role("status", name="What explains it").wait_for()
    page.locator("h1").click()


VIEWS = {
    "bench": _bench,
    "identify": _job("identify"),
    "leads": _leads,
    "measure": _job("measure"),
    "inspect": _inspect("does"),
    "aim": _job("aim"),
    "choose": _choose_way,
    "size": _size,
    "phase": _phase,
    "control": _control,
    "loop": _held(11, "The loop over time"),
    "wire": _wire,
    "dead-tests": _dead,
    "heat": _held(9, "Over the load"),
    "order": _order,
    "hand-over": _hand_over,
    "shelf": _shelf,
    "desk": _desk,
    "print": _print,
}


def main(folder: Path, names: list[str], size: tuple[int, int] = (1280, 800)) -> None:
    """Take the named pictures, or all."""
    folder.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(prefix="fenwit-shots-", ignore_cleanup_errors=True) as state:
        cluster = Cluster(Path(state) / "postgres", durable=False)
        url = cluster.start()
        try:
            with running(url, state) as server, sync_playwright() as playwright:
                browser = playwright.chromium.launch(
                    executable_path="/usr/bin/chromium", args=CHROMIUM_ARGUMENTS
                )
                for name in names or list(VIEWS):
                    page = browser.new_page(viewport={"width": size[0], "height": size[1]})
                    page.add_init_script("localStorage.setItem('fenwit-who', 'R. Fell')")
                    VIEWS[name](page, server.address)
                    page.wait_for_load_state("networkidle")
                    page.evaluate("document.fonts.ready")
                    page.screenshot(path=folder / f"{name}.png")
                    page.close()
                browser.close()
        finally:
            cluster.stop()


if __name__ == "__main__":
    target = Path(sys.argv[1]) if len(sys.argv) > 1 else ROOT / "docs" / "screenshots"
    main(target, sys.argv[2:])
