"""A real browser against a live server on 127.0.0.1; every request it makes is watched."""

from __future__ import annotations

import shutil
from collections.abc import Callable, Iterator

import pytest
from playwright.sync_api import Browser, Page, expect, sync_playwright

from tests.browser.server import served

expect.set_options(timeout=10_000)
#: Debian's, without its windows.
CHROMIUM = shutil.which("chromium-headless-shell")

ARGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-background-networking",
    "--disable-component-update",
    "--no-first-run",
]


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as play:
        browser = play.chromium.launch(executable_path=CHROMIUM, args=ARGS)
        yield browser
        browser.close()


@pytest.fixture(scope="session")
def server() -> Iterator[str]:
    """The address of the program's own server on this worker's database."""
    with served() as address:
        yield address


def _once_loaded(page: Page) -> Callable[..., None]:
    """Pressing a key when the page has its scripts: a heading is there to be seen before they are, and a key pressed then is lost."""
    press = page.keyboard.press

    def pressed(key: str, **more: float) -> None:
        page.wait_for_load_state()
        press(key, **more)

    return pressed


@pytest.fixture
def page(browser: Browser, server, db) -> Iterator[Page]:
    """A page at arm's length; a script error, a refused script or a request elsewhere fails the test."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=server)
    page = context.new_page()
    wrong: list[str] = []
    page.on("pageerror", lambda error: wrong.append(f"script error: {error}"))
    page.on(
        "console",
        lambda m: (
            wrong.append(m.text)
            if m.type == "error" and "the server responded with a status of 4" not in m.text
            else None
        ),
    )
    page.on(
        "request",
        lambda r: wrong.append(f"request to {r.url}") if not r.url.startswith((server, "data:", "blob:")) else None,
    )
    page.set_default_timeout(10_000)
    page.keyboard.press = _once_loaded(page)
    yield page
    context.close()
    assert not wrong, wrong


@pytest.fixture
def phone(browser: Browser, server, db) -> Iterator[Page]:
    """A phone in one hand, whose network may go."""
    context = browser.new_context(
        viewport={"width": 390, "height": 844}, has_touch=True, is_mobile=True, base_url=server
    )
    page = context.new_page()
    page.set_default_timeout(10_000)
    yield page
    context.close()
