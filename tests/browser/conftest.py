"""The real application on a real port, driven in headless Chromium."""

import multiprocessing
import os
import socket
from collections.abc import Iterator
from pathlib import Path
from typing import Literal

import pytest
from flask import Flask
from playwright.sync_api import (
    Browser,
    ConsoleMessage,
    Error,
    Locator,
    Page,
    Request,
    expect,
    sync_playwright,
)

from scripts.chromium import launched
from spare_margin.cli.serving import learn
from spare_margin.serving.doors import Door
from spare_margin.web.app import PAGES, put_over

BENCH, HAND = (1280, 800), (390, 844)
PATIENCE_MS = 60_000
"""How long something may be awaited: it says only that it will never come, not that it is slow."""
SLOWED = int(os.environ.get("SLOWED", "1"))
"""How many times slower the pages' scripts are made to run: it brings races to light that a busy machine
shows one time in a hundred."""
expect.set_options(timeout=PATIENCE_MS)


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    assert (PAGES / "index.html").is_file(), "the pages are not built: run `make test`"
    with sync_playwright() as driver:
        chromium = launched(driver)
        yield chromium
        chromium.close()


def run(shell: Flask, database: Path, listening: socket.socket) -> None:
    put_over(shell, database)
    Door(shell, listening, room_of=lambda: shell.extensions["meters"]).serve()


@pytest.fixture(scope="session")
def listening() -> Iterator[socket.socket]:
    """Where every test's server listens, one after another: what a browser knows by address stays warm.

    What the program learns once it is open is learned before: each server would do it again.
    """
    learn()
    with socket.create_server(("127.0.0.1", 0)) as opened:
        yield opened


@pytest.fixture
def site(shell: Flask, demo_database: Path, listening: socket.socket) -> Iterator[str]:
    """The address of the application over a fresh copy of the demo jobs.

    In a process of its own, as it runs in earnest: threads of a server closed in this one would
    go on to write to file numbers that belong to the next test.
    """
    forked = multiprocessing.get_context("fork")
    served = forked.Process(target=run, args=(shell, demo_database, listening))
    served.start()
    yield f"http://127.0.0.1:{listening.getsockname()[1]}"
    served.terminate()
    served.join()


def window(browser: Browser, site: str, size: tuple[int, int]) -> Page:
    """A page of this size, in a context of its own."""
    context = browser.new_context(
        base_url=site,
        viewport={"width": size[0], "height": size[1]},
        accept_downloads=True,
        # What a page asks through its worker is out of a test's hands; test_offline has one at work.
        service_workers="block",
    )
    opened = context.new_page()
    opened.set_default_timeout(PATIENCE_MS)
    if SLOWED > 1:
        context.new_cdp_session(opened).send("Emulation.setCPUThrottlingRate", {"rate": SLOWED})
    return opened


def wipe(page: Page, size: tuple[int, int]) -> None:
    """Leave nothing of a test in its window: what it kept, what it held back, where the mouse is."""
    for other in page.context.pages:
        if other is not page:
            other.close()
    page.unroute_all()
    page.goto("/icon.svg")
    page.evaluate("() => { localStorage.clear(); sessionStorage.clear() }")
    page.goto("about:blank")
    page.context.clear_cookies()
    page.set_viewport_size({"width": size[0], "height": size[1]})
    page.mouse.move(0, 0)


@pytest.fixture(scope="session")
def windows() -> dict[tuple[int, int], Page]:
    """The windows that are free, by their size."""
    return {}


@pytest.fixture(params=[BENCH], ids=["bench"])
def page(
    request: pytest.FixtureRequest,
    browser: Browser,
    site: str,
    windows: dict[tuple[int, int], Page],
) -> Iterator[Page]:
    """A page with nothing of any other test in it; whatever it complains of in its console fails the test.

    A window of its own takes a second of the processor: they are wiped and used again. A test marked
    `own_window` does to it what cannot be wiped.
    """
    size = request.param
    own = request.node.get_closest_marker("own_window") is not None
    opened = None if own else windows.pop(size, None)
    opened = opened or window(browser, site, size)
    complaints: list[str] = []
    outside: list[str] = []

    def complained(error: Error) -> None:
        complaints.append(str(error))

    def told(said: ConsoleMessage) -> None:
        # What the content policy stops is said in the console, and nowhere else.
        if "Content Security Policy" in said.text:
            complaints.append(said.text)

    def asked(sent: Request) -> None:
        if not sent.url.startswith((site, "data:", "blob:", "about:")):
            outside.append(sent.url)

    opened.on("pageerror", complained)
    opened.on("console", told)
    opened.on("request", asked)
    yield opened
    opened.remove_listener("pageerror", complained)
    opened.remove_listener("console", told)
    opened.remove_listener("request", asked)
    if own:
        opened.context.close()
    else:
        wipe(opened, size)
        windows[size] = opened
    assert complaints == []
    assert outside == [], "nothing may be asked of the network"


def button_heights(page: Page) -> list[float]:
    """Heights of all buttons at one instant: a notice that goes away takes its button along."""
    heights: list[float] = page.get_by_role("button").evaluate_all(
        "all => all.filter(b => !b.classList.contains('sr-only'))"
        ".map(b => b.getBoundingClientRect().height).filter(h => h > 0)"
    )
    return heights


def from_bar(page: Page, name: str, role: Literal["link", "button"] = "link") -> Locator:
    """What a page's bar offers; in the hand it stands behind one button."""
    width = page.evaluate("innerWidth")
    if width <= HAND[0]:
        page.get_by_role("button", name="More", exact=True).click()
    return page.get_by_role(role, name=name, exact=role == "button")


def notices(page: Page) -> Locator:
    """What is said in passing."""
    return page.get_by_role("region", name="Notices", exact=True)
