"""The browser that the pages are driven in: Debian's Chromium, without a window."""

import shutil

from playwright.sync_api import Browser, Playwright

PROGRAMS = ("chromium-headless-shell", "chromium")
"""Debian's packages, the first that is there: the one without windows takes half the processor."""
FLAGS = (
    "--no-sandbox",
    "--disable-gpu",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--no-first-run",
)


def launched(driver: Playwright) -> Browser:
    """The browser, started. LookupError where there is none."""
    found = next(filter(None, map(shutil.which, PROGRAMS)), None)
    if found is None:
        raise LookupError(f"no browser is installed: {' or '.join(PROGRAMS)}")
    return driver.chromium.launch(executable_path=found, args=list(FLAGS))
