"""The real application on a real port, driven in headless Chromium."""

import multiprocessing
import os
import socket
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Locator, Page, expect, sync_playwright

from spare_margin.serving.doors import Door
from spare_margin.web.app import PAGES, create_app

CHROMIUM = "/usr/bin/chromium"
FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--no-first-run",
]
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
        chromium = driver.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        yield chromium
        chromium.close()


def run(database: Path, listening: socket.socket) -> None:
    Door(create_app(database), listening).serve()


@pytest.fixture
def site(demo_database: Path) -> Iterator[str]:
    """The address of the application over a fresh copy of the demo jobs.

    In a process of its own, as it runs in earnest: threads of a server closed in this one would
    go on to write to file numbers that belong to the next test.
    """
    with socket.create_server(("127.0.0.1", 0)) as listening:
        served = multiprocessing.get_context("fork").Process(
            target=run, args=(demo_database, listening)
        )
        served.start()
        yield f"http://127.0.0.1:{listening.getsockname()[1]}"
        served.terminate()
        served.join()


@pytest.fixture(params=[BENCH], ids=["bench"])
def page(request: pytest.FixtureRequest, browser: Browser, site: str) -> Iterator[Page]:
    """A fresh page; whatever it complains of in its console fails the test."""
    width, height = request.param
    context = browser.new_context(
        base_url=site,
        viewport={"width": width, "height": height},
        accept_downloads=True,
        # What a page asks through its worker is out of a test's hands; test_offline has one at work.
        service_workers="block",
    )
    opened = context.new_page()
    opened.set_default_timeout(PATIENCE_MS)
    if SLOWED > 1:
        context.new_cdp_session(opened).send("Emulation.setCPUThrottlingRate", {"rate": SLOWED})
    complaints: list[str] = []
    outside: list[str] = []
    opened.on("pageerror", lambda error: complaints.append(str(error)))
    # What the content policy stops is said in the console, and nowhere else.
    opened.on(
        "console",
        lambda said: (
            complaints.append(said.text) if "Content Security Policy" in said.text else None
        ),
    )
    opened.on(
        "request",
        lambda sent: (
            outside.append(sent.url) if not sent.url.startswith((site, "data:", "blob:")) else None
        ),
    )
    yield opened
    context.close()
    assert complaints == []
    assert outside == [], "nothing may be asked of the network"


def button_heights(page: Page) -> list[float]:
    """Heights of all buttons at one instant: a notice that goes away takes its button along."""
    heights: list[float] = page.get_by_role("button").evaluate_all(
        "all => all.map(b => b.getBoundingClientRect().height).filter(h => h > 0)"
    )
    return heights


def notices(page: Page) -> Locator:
    """What is said in passing."""
    return page.get_by_role("region", name="Notices", exact=True)
