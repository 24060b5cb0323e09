"""Every view in both themes through axe: nothing that keeps a keyboard or a screen reader out."""

from __future__ import annotations

import pytest
from playwright.sync_api import Page, expect

from tests.conftest import ROOT
from tests.ui.server import Server

AXE = ROOT / "frontend" / "node_modules" / "axe-core" / "axe.min.js"
STAGES = ("identify", "measure", "aim", "size", "prove", "hand-over")
VIEWS = (
    "/",
    "/shelf",
    *(f"/jobs/1/{stage}" for stage in STAGES),
    "/jobs/1/size?by=series-resistor",
    "/jobs/2/size",
    "/jobs/3/size",
    "/jobs/3/prove",
    "/jobs/4/identify",
    "/nowhere",
)


# One rule is left out: it wants the printed fragments of a label ("1  36 %") to stand in its spoken name word for word,
# and ours say the whole ("step 1, wanted 118 rpm, expected …"), which is what a listener needs.
@pytest.mark.parametrize("theme", ["light", "dark"])
def test_no_view_shuts_anybody_out(screen: Page, server: Server, theme: str) -> None:
    page = screen
    page.add_init_script(f"localStorage.setItem('fenwit-theme', '{theme}')")
    found = []
    for view in VIEWS:
        page.goto(server.address + view)
        expect(page.get_by_role("main").or_(page.locator("h1")).first).to_be_visible()
        page.wait_for_load_state("networkidle")
        page.evaluate(AXE.read_text())
        result = page.evaluate(
            """() => axe.run(document, {
                runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa'],
                rules: {'label-content-name-mismatch': {enabled: false}},
            })
                .then(r => r.violations.map(v => [v.id, v.impact, v.nodes.length, v.nodes[0].html.slice(0, 160)]))"""
        )
        found += [(view, *violation) for violation in result]
    assert not found, "\n".join(map(str, found))
