"""Where the network does not reach: the page opens, the walk is there, what is typed waits and is sent."""

import re
import time
import uuid
from collections.abc import Iterator
from typing import Any

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.browser.conftest import HAND, PATIENCE_MS
from tests.browser.test_phones import findings
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
    box = phone.get_by_label("The current of Radio, amperes")
    expect(box).to_be_visible()
    phone.wait_for_load_state("networkidle")
    phone.context.set_offline(True)
    phone.reload()
    kept = phone.get_by_text("the copy saved on this device")
    expect(kept).to_be_visible()
    box.fill("2.61")
    phone.get_by_role("button", name="Save").first.click()
    expect(phone.get_by_text("1 entry waits on this device")).to_be_visible()
    phone.reload()
    expect(phone.get_by_text("1 entry waits on this device")).to_be_visible()
    phone.goto("/")
    expect(phone.get_by_text("Orrin").first).to_be_visible()
    phone.goto("/jobs/demo-1-sloop-marram")
    expect(phone.get_by_text("The program does not answer").first).to_be_visible()

    phone.context.set_offline(False)
    phone.goto(RADIO)
    expect(phone.get_by_label("The whole return, volts")).to_be_visible()
    expect(kept).to_be_hidden()
    file = phone.request.get(f"{site}/api/v1/jobs/demo-4-barge-orrin/file").json()
    assert [r["typed"] for r in file["readings"]].count("2.61") == 1


def waits(page: Page, *entries: dict[str, Any]) -> None:
    """Let these entries wait on the device, as of a page that was closed before."""
    page.goto("/")
    page.evaluate(
        "all => localStorage.setItem('spare-margin.waiting', JSON.stringify(all))", list(entries)
    )
    page.reload()


SENT = re.compile("/readings$")


def reading(job: str, typed: str, **body: Any) -> dict[str, Any]:
    key = uuid.uuid4().hex
    said = {
        "id": key, "stage": "as_found", "scenario": "evening", "quantity": "volts", "red": "bat+",
        "black": "bat-", "typed": typed, "view": None, **body,
    }  # fmt: skip
    now = int(time.time() * 1000)
    return {"job": job, "path": "readings", "body": said, "name": f"{typed} at the source",
            "id": key, "typedAt": body.pop("at", now), "refused": ""}  # fmt: skip


def test_what_the_device_holds_is_sent_from_every_page(page: Page, site: str) -> None:
    with page.expect_response(SENT):
        waits(page, reading("demo-1-sloop-marram", "12.71"))
    expect(page.get_by_label("Waiting on this device")).to_have_count(0)
    file = page.request.get(f"{site}/api/v1/jobs/demo-1-sloop-marram/file").json()
    assert [r["typed"] for r in file["readings"]].count("12.71") == 1


def test_what_was_refused_stays_where_people_see_it(page: Page, site: str) -> None:
    """As of a job that is not there, since an older copy was put back: until it is dealt with."""
    waits(
        page,
        reading("a-job-that-is-not-there", "12.41"),
        reading("demo-1-sloop-marram", "12.42", revision="not-known-here"),
    )
    held = page.get_by_label("Waiting on this device")
    expect(held).to_contain_text("2 entries were not taken")
    expect(held).to_contain_text("12.41 at the source")
    expect(held).to_contain_text("There is no such job")
    expect(held).to_contain_text("not known here")
    assert findings(page) == []
    page.goto("/settings")
    expect(held).to_contain_text("2 entries were not taken")
    second = held.get_by_role("listitem").filter(has_text="12.42")
    second.get_by_role("button", name="Send to the wiring as it is now").click()
    expect(held).to_contain_text("1 entry was not taken")
    first = held.get_by_role("listitem").filter(has_text="12.41")
    first.get_by_role("button", name="Move to another job").click()
    with page.expect_response(SENT):
        first.get_by_label("job").select_option("demo-1-sloop-marram")
    expect(held).to_have_count(0)
    file = page.request.get(f"{site}/api/v1/jobs/demo-1-sloop-marram/file").json()
    assert {"12.41", "12.42"} <= {r["typed"] for r in file["readings"]}


def test_one_job_that_cannot_be_worked_on_holds_up_no_other(page: Page, site: str) -> None:
    stuck = re.compile("demo-2-tourer-linnet/readings")
    page.route(stuck, lambda route: route.fulfill(status=503, json={"detail": "Too much at once."}))
    waits(
        page,
        reading("demo-2-tourer-linnet", "12.51"),
        reading("demo-1-sloop-marram", "12.52"),
    )
    held = page.get_by_label("Waiting on this device")
    expect(held).to_contain_text("1 entry waits")
    expect(held).to_contain_text("12.51")
    expect(held).to_contain_text("Too much at once.")
    file = page.request.get(f"{site}/api/v1/jobs/demo-1-sloop-marram/file").json()
    assert "12.52" in {r["typed"] for r in file["readings"]}
    page.unroute(stuck)


def test_a_clock_that_was_far_off_loses_no_reading(page: Page, site: str) -> None:
    """A phone that took it for 1970 when the reading was typed."""
    entry = reading("demo-1-sloop-marram", "12.61")
    entry["typedAt"] = 60_000
    with page.expect_response(SENT):
        waits(page, entry)
    file = page.request.get(f"{site}/api/v1/jobs/demo-1-sloop-marram/file").json()
    kept = next(r for r in file["readings"] if r["typed"] == "12.61")
    assert kept["taken_at"] > "2026"


FORBIDDEN = """
for (const store of ["localStorage", "sessionStorage"])
  Object.defineProperty(window, store, { get() { throw new DOMException("no", "SecurityError"); } });
"""
FULL = (
    'Storage.prototype.setItem = () => { throw new DOMException("full", "QuotaExceededError"); };'
)


@pytest.mark.parametrize("forbid", [FORBIDDEN, FULL], ids=["forbidden", "full"])
def test_a_device_that_stores_nothing(browser: Browser, site: str, forbid: str) -> None:
    context = browser.new_context(base_url=site, service_workers="block")
    context.set_default_timeout(PATIENCE_MS)
    context.add_init_script(forbid)
    page = context.new_page()
    page.goto("/jobs/demo-1-sloop-marram")
    cell = page.get_by_label("as found, Switch, volts")
    page.route("**/readings", lambda route: route.abort())
    cell.fill("0.063")
    cell.press("Enter")
    held = page.get_by_label("Waiting on this device")
    expect(held).to_contain_text("This device cannot store it")
    page.unroute("**/readings")
    expect(held).to_have_count(0)
    expect(cell).to_have_value("0.063")
    context.close()
