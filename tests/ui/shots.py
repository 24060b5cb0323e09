"""Pictures of the main views, made from the demo data: python -m tests.ui.shots [FOLDER] [VIEW …]."""

from __future__ import annotations

import sys
import tempfile
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


def _size_chosen(page: Page, address: str) -> None:
    _job("size")(page, address)
    page.get_by_role("region", name="Banks").get_by_role("button").first.click()
    page.get_by_label("capacitor A, film X2 ±10 %").wait_for()
    page.mouse.move(10, 790)
    page.locator("h1").click()
    page.keyboard.press("2")


def _bench(page: Page, address: str) -> None:
    page.goto(address)
    page.get_by_text("Reading room").wait_for()


def _prove(page: Page, address: str) -> None:
    _job("prove", job=2, step="Escape")(page, address)
    page.get_by_role("button", name="step 1,").click()


def _print(page: Page, address: str) -> None:
    page.goto(f"{address}/jobs/2/print")
    page.get_by_role("heading", name="Proving").wait_for()


VIEWS = {
    "bench": _bench,
    "identify": _job("identify"),
    "measure": _job("measure"),
    "aim": _job("aim"),
    "size": _size_chosen,
    "prove": _prove,
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
                    page.screenshot(path=folder / f"{name}.png", full_page=name == "print")
                    page.close()
                browser.close()
        finally:
            cluster.stop()


if __name__ == "__main__":
    target = Path(sys.argv[1]) if len(sys.argv) > 1 else ROOT / "docs" / "screenshots"
    main(target, sys.argv[2:])
