"""A whole walk in the hand, a simulated meter reading; typed without a server; two phones on one job."""

import re
from typing import Any

import pytest
from playwright.sync_api import Browser, Page, expect

from spare_margin.data.tables import demo_files, shipped_tables
from spare_margin.exchange.job_file.job_file import read_job
from tests.browser.conftest import HAND, button_heights
from tests.browser.test_story import ORRIN, hand, verdict
from tests.simulated_meter import SimulatedMeter

RADIO = f"{ORRIN}/walk?run=radio&scenario=rested"


def acknowledge(page: Page) -> None:
    expect(page.get_by_role("heading", name="Safety first")).to_be_visible()
    page.get_by_role("button", name="I have read these").click()
    expect(page.get_by_role("heading", name="Safety first")).to_have_count(0)


def now(page: Page, site: str) -> Any:
    answer = page.request.get(f"{site}/api/v1{RADIO}")
    return answer.json()["now"]


def entry(page: Page, title: str) -> Any:
    return page.get_by_role("region", name=title, exact=True).get_by_label(
        re.compile(r", (volts|amperes)$")
    )


def radio_meter() -> tuple[SimulatedMeter, str]:
    """The barge with 0.11 ohm too much in the pin behind the radio."""
    craft = read_job(dict(demo_files())["4-barge-orrin"]).craft
    radio = craft.load("radio")
    guilty = next(p.id for p in craft.pieces if p.start == radio.end)
    return SimulatedMeter(
        craft, craft.scenario("rested"), shipped_tables(), {guilty: 0.11}, 3
    ), guilty


@hand
def test_a_whole_walk_in_the_hand(page: Page, site: str) -> None:
    meter, _ = radio_meter()
    page.goto(RADIO)
    acknowledge(page)
    for number in range(1, 14):
        card = now(page, site)
        if card is None:
            break
        box = entry(page, card["title"])
        expect(page.get_by_test_id("step-number")).to_have_text(re.compile(rf"^{number}\."))
        typed = (
            meter.amperes("radio")
            if card["kind"] == "current"
            else meter.volts(card["red"]["id"], card["black"]["id"])
        )
        box.fill(str(typed))
        with page.expect_response(re.compile("/readings$")):
            box.press("Enter")
        expect(page.get_by_role("list").filter(has_text=card["title"]).last).to_be_visible()
    expect(page.get_by_role("heading", name="Found.", exact=True)).to_be_visible()
    expect(page.get_by_label("Found", exact=True).get_by_role("listitem")).to_contain_text("Pin")
    ended = page.get_by_role("region", name="The walk has ended")
    expect(ended).to_contain_text("The return is over its limit by")
    expect(verdict(page)).to_contain_text("over")
    assert page.evaluate("document.documentElement.scrollWidth") <= HAND[0]
    assert min(button_heights(page)) >= 40


@hand
def test_millivolts_are_typed_as_the_meter_shows_them(page: Page) -> None:
    page.goto(RADIO)
    acknowledge(page)
    box = entry(page, "The current of Radio")
    box.fill("2.8")
    box.press("Enter")
    box = entry(page, "The whole return")
    means = page.get_by_test_id("means")
    # More volts than there can be are millivolts; anything else is what the key says.
    box.fill("140")
    expect(page.get_by_role("button", name="Typed in mV: change to V")).to_be_visible()
    expect(means).to_contain_text("spare")
    box.fill("3.2")
    expect(means).to_contain_text("over the limit")
    page.get_by_role("button", name="Typed in V: change to mV").click()
    expect(means).to_contain_text("spare")
    expect(box).to_be_focused()
    box.press("Enter")
    expect(page.get_by_label("So far", exact=True)).to_contain_text("3.2 mV")
    # Taken back, the card is open again, and nothing of it counts.
    page.get_by_role("button", name="Read The whole return again").click()
    page.get_by_role("button", name="Take this reading back").click()
    expect(page.get_by_label("So far", exact=True)).not_to_contain_text("3.2 mV")
    box = entry(page, "The whole return")
    box.fill("3.2")
    box.press("Enter")
    # The next card of a low range stands as this one was left, after a reload too; the source's does not.
    expect(page.get_by_role("region", name="The whole feed")).to_be_visible()
    feed = entry(page, "The whole feed")
    feed.fill("0.31")
    expect(page.get_by_role("status").filter(has_text="That is 0.31 mV.")).to_be_visible()
    feed.fill("41")
    page.reload()
    expect(page.get_by_role("button", name="Typed in mV: change to V")).to_be_visible()
    expect(entry(page, "The whole feed")).to_have_value("41")


@hand
def test_what_is_typed_without_a_server_waits_and_is_sent_once(page: Page, site: str) -> None:
    page.goto("/settings")
    page.get_by_label("measured by (this device)").fill("Ines")
    page.goto(RADIO)
    acknowledge(page)
    page.route("**/api/v1/**", lambda route: route.abort())
    box = entry(page, "The current of Radio")
    box.fill("2.81")
    box.press("Enter")
    waiting = page.get_by_label("Waiting on this device")
    expect(waiting).to_contain_text("2.81 at The current of Radio")
    # Reloaded while no reading gets through: it still waits. It may be sent at any moment between.
    page.route("**/readings", lambda route: route.abort())
    page.unroute("**/api/v1/**")
    page.reload()
    expect(page.get_by_label("Waiting on this device")).to_contain_text("2.81")
    page.unroute("**/readings")
    expect(page.get_by_label("Waiting on this device")).to_have_count(0, timeout=8000)
    expect(page.get_by_role("region", name="The whole return")).to_be_visible()
    kept = page.request.get(f"{site}/api/v1{ORRIN}/file").json()["readings"]
    assert [(r["typed"], r["who"]) for r in kept] == [("2.81", "Ines")]


@hand
@pytest.mark.own_window
def test_two_phones_see_each_other_within_two_seconds(
    page: Page, browser: Browser, site: str
) -> None:
    with browser.new_context(base_url=site, viewport={"width": HAND[0], "height": HAND[1]}) as held:
        other = held.new_page()
        other.goto(RADIO)
        acknowledge(other)
        # The first phone's own two seconds, whatever this machine's load makes of them.
        page.clock.install()
        page.goto(RADIO)
        expect(entry(page, "The current of Radio")).to_be_visible()
        page.clock.pause_at(page.evaluate("Date.now() + 5000"))
        box = entry(other, "The current of Radio")
        box.fill("2.79")
        box.press("Enter")
        expect(other.get_by_label("So far", exact=True)).to_contain_text("2.79 A")
    with page.expect_response(re.compile("/pulse$")):
        page.clock.run_for(2000)
    page.clock.resume()
    expect(page.get_by_label("So far", exact=True)).to_contain_text("2.79 A")


@hand
def test_steps_are_skipped_refused_and_read_again(page: Page, site: str) -> None:
    page.goto(RADIO)
    acknowledge(page)
    page.get_by_text("why this reading, and how").click()
    expectation = page.get_by_role("button", name=re.compile("^expect about"))
    expectation.click()
    expect(page.get_by_role("dialog")).to_be_visible()
    page.keyboard.press("Escape")
    expect(expectation).to_be_focused()
    box = entry(page, "The current of Radio")
    box.fill("lots")
    box.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("is not understood")
    expect(box).to_have_value("lots")
    box.fill("2.8")
    box.press("Enter")
    expect(page.get_by_role("region", name="The whole return")).to_be_visible()
    page.get_by_role("button", name="Cannot reach").click()
    expect(page.get_by_label("So far", exact=True)).to_contain_text("cannot reach")
    page.get_by_role("button", name="Skip …").click()
    page.get_by_label("why it is skipped").fill("fan noise")
    page.get_by_role("button", name="Skip it").click()
    expect(page.get_by_label("So far", exact=True)).to_contain_text("fan noise")
    page.get_by_role("button", name="do it now").first.click()
    expect(page.get_by_role("region", name=re.compile("^The whole"))).to_be_visible()
    page.get_by_text("Measure anything else").click()
    page.get_by_role("radio", name="Test lamp").click()
    page.get_by_role("button", name="dim").click()
    expect(page.get_by_text("Test lamp dim,")).to_be_visible()
    page.get_by_role("button", name="take back").click()
    expect(page.get_by_text("Test lamp dim,")).to_have_count(0)
    page.get_by_role("radio", name="Volts").click()
    page.get_by_role("radio", name="Volts").click()
    page.get_by_label("BLACK lead on").select_option(index=1)
    free = page.get_by_label("Any two points")
    free.fill("3m")
    free.press("Enter")
    expect(page.get_by_label("So far", exact=True)).to_contain_text("3 mV")
    page.get_by_text("Use a test load").click()
    stand_in = page.get_by_test_id("stand-in")
    expect(stand_in).to_contain_text("A smaller one can show a fault but can't clear the run")
    for label, value in (
        ("what it draws, A", "0.1"), ("On the battery: source voltage", "12.6"),
        ("On the battery: voltage across it", "12.5"), ("Voltage across it (0 counts)", "12.1"),
    ):  # fmt: skip
        page.get_by_label(label).fill(value)
    page.get_by_role("button", name="Save it").click()
    expect(stand_in.get_by_role("listitem")).to_contain_text("in the connector: 12.1")
    expect(stand_in).to_contain_text("Next move its return lead")
    assert site
