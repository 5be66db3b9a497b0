"""Where the network does not reach: the page opens, the walk is there, what is typed waits and is sent."""

from collections.abc import Iterator

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.browser.conftest import HAND, PATIENCE_MS
from tests.browser.test_walk import RADIO, acknowledge


@pytest.fixture
def phone(browser: Browser, site: str) -> Iterator[Page]:
    """A page whose worker is at work."""
    context = browser.new_context(base_url=site, viewport={"width": HAND[0], "height": HAND[1]})
    context.set_default_timeout(PATIENCE_MS)
    page = context.new_page()
    page.goto("/")
    page.evaluate("navigator.serviceWorker.ready.then(() => true)")
    page.wait_for_function("navigator.serviceWorker.controller !== null")
    # What was asked before the worker was there it has not kept.
    page.reload()
    expect(page.get_by_text("Orrin").first).to_be_visible()
    yield page
    context.close()


def test_a_walk_goes_on_out_of_reach(phone: Page, site: str) -> None:
    phone.goto(RADIO)
    acknowledge(phone)
    box = phone.get_by_label("The source, post to post, volts")
    expect(box).to_be_visible()
    phone.wait_for_load_state("networkidle")
    phone.context.set_offline(True)
    phone.reload()
    kept = phone.get_by_text("this is what this device kept of it")
    expect(kept).to_be_visible()
    box.fill("12.61")
    phone.get_by_role("button", name="Keep").first.click()
    expect(phone.get_by_text("1 entry waits on this device")).to_be_visible()
    phone.reload()
    expect(phone.get_by_text("1 entry waits on this device")).to_be_visible()
    phone.goto("/")
    expect(phone.get_by_text("Orrin").first).to_be_visible()
    phone.goto("/jobs/demo-1-sloop-marram")
    expect(phone.get_by_text("The program does not answer").first).to_be_visible()

    phone.context.set_offline(False)
    phone.goto(RADIO)
    expect(phone.get_by_label("The current of Radio, amperes")).to_be_visible()
    expect(kept).to_be_hidden()
    file = phone.request.get(f"{site}/api/v1/jobs/demo-4-barge-orrin/file").json()
    assert [r["typed"] for r in file["readings"]].count("12.61") == 1
