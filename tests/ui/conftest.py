"""The real interface in headless Chromium against the real application."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.ui.server import CHROMIUM_ARGUMENTS, Server, running

# A condition is waited for as long as a busy machine may need; where it holds, nobody waits.
expect.set_options(timeout=20_000)


@pytest.fixture(scope="session")
def browser_type_launch_args() -> dict[str, object]:
    """Debian's Chromium, quiet."""
    return {"executable_path": "/usr/bin/chromium", "args": CHROMIUM_ARGUMENTS}


@pytest.fixture(scope="session")
def browser_context_args() -> dict[str, object]:
    """The size the screens are made for."""
    return {"viewport": {"width": 1280, "height": 800}}


@pytest.fixture
def server(demo_url: str, tmp_path: Path) -> Iterator[Server]:
    """The application with the demo jobs."""
    with running(demo_url, str(tmp_path)) as found:
        yield found


@pytest.fixture
def screen(page: Page, server: Server) -> Iterator[Page]:
    """A page of the application; the test fails on any error it throws, and on what the policy of its pages stops."""
    errors: list[str] = []
    page.on("pageerror", lambda error: errors.append(str(error)))
    page.on(
        "console", lambda said: errors.append(said.text) if "Content Security Policy" in said.text else None
    )
    page.set_default_timeout(30_000)
    page.add_init_script(
        "localStorage.getItem('fenwit-who') ?? localStorage.setItem('fenwit-who', 'R. Fell')"
    )
    page.goto(server.address)
    yield page
    assert errors == []
