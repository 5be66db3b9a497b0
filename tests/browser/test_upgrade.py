"""From the guilty piece to the accepted plan, a relay, and a ticked work order."""

import json
import re

import pytest
from playwright.sync_api import Page, Route, expect

from tests.browser.conftest import BENCH, HAND, from_bar, notices
from tests.browser.test_story import AXE

MARRAM = "/jobs/demo-1-sloop-marram"
both = pytest.mark.parametrize("page", [BENCH, HAND], indirect=True, ids=["bench", "hand"])


def clean(page: Page) -> None:
    """Nothing that the accessibility rules complain of."""
    page.evaluate(AXE.read_text("utf-8"))
    found = page.evaluate("() => axe.run(document, {resultTypes: ['violations']})")
    told = [f"{v['id']}: {n['html'][:160]}" for v in found["violations"] for n in v["nodes"]]
    assert told == []


@both
def test_from_the_guilty_piece_to_a_ticked_work_order(page: Page) -> None:
    page.goto(MARRAM)
    page.get_by_role("link", name="Repairs and upgrades").click()
    expect(page.get_by_test_id("recommended")).to_contain_text("Clean Ring at bus: enough")
    clean(page)
    expect(page.get_by_test_id("candidate mend-tap-ring")).to_contain_text("recommended")
    expect(page.get_by_test_id("candidate mend-tap-sw")).to_contain_text(
        "It leaves Ring at bus as it is"
    )
    page.get_by_role("button", name=re.compile("another option is better")).click()
    relay = page.get_by_test_id("candidate mend-relay")
    relay.get_by_role("button", name="Clean Ring at bus + relay").first.click()
    expect(page.get_by_role("region", name="Relay")).to_contain_text("hot, it pulls in at")
    clean(page)
    relay.get_by_role("button", name=re.compile("^Plan this")).click()
    expect(notices(page)).to_contain_text("Planned: Clean Ring at bus + relay at the load.")
    expect(relay).to_contain_text("planned")
    page.get_by_role("link", name="Work order").click()
    expect(page.get_by_role("heading", name="Work order: Tap pump")).to_be_visible()
    done = page.get_by_test_id("ticked")
    expect(page.get_by_text("Read the cautions first.")).to_be_visible()
    steps = page.get_by_role("region", name="Steps")
    for caution in steps.get_by_role("checkbox", name=re.compile("^I have read")).all():
        caution.check()
    first = steps.get_by_role("checkbox", name=re.compile("^Switch off"))
    first.check()
    clean(page)
    before = done.inner_text()
    page.reload()
    expect(done).to_have_text(before)
    expect(first).to_be_checked()
    first.uncheck()
    expect(done).not_to_have_text(before)
    expect(page.get_by_role("region", name="Readings afterwards")).to_contain_text("Relay coil")


def test_candidates_are_sorted_by_any_figure_and_a_plan_is_taken_back(page: Page) -> None:
    page.goto(f"{MARRAM}/upgrade")
    expect(page.get_by_test_id("recommended")).to_be_visible()
    rows = page.get_by_test_id(re.compile("^candidate "))
    page.get_by_role("button", name="spare V").click()
    expect(rows.first).to_contain_text("Extra return in parallel with the old one")
    page.get_by_role("button", name="spare V").click()
    expect(rows.first).to_contain_text("Relay at the load")
    page.get_by_role("button", name=re.compile("^Plan this: Clean Ring at bus,")).click()
    expect(page.get_by_test_id("candidate mend-tap-ring")).to_contain_text("planned")
    notices(page).get_by_role("button", name="Undo").click()
    expect(
        page.get_by_role("button", name=re.compile("^Plan this: Clean Ring at bus,"))
    ).to_be_visible()
    expect(page.get_by_role("link", name="Work order")).to_have_count(0)


def test_what_a_minute_costs_is_checked_and_kept_in_the_address(page: Page) -> None:
    page.goto(f"{MARRAM}/upgrade")
    expect(page.get_by_test_id("recommended")).to_be_visible()
    minute = page.get_by_label("labour per minute")
    minute.fill("free")
    expect(page.get_by_role("alert")).to_contain_text("A number from 0 to 1000")
    minute.fill("2,5")
    minute.press("Enter")
    expect(page).to_have_url(re.compile("minute=2.5"))
    expect(page.get_by_test_id("recommended")).to_contain_text("Clean Ring at bus")


def test_without_a_plan_the_order_leads_to_the_bench(page: Page) -> None:
    page.goto(f"{MARRAM}/order")
    expect(page.get_by_role("alert")).to_contain_text("othing is planned")
    page.get_by_role("link", name="To the upgrade bench").click()
    expect(page.get_by_test_id("recommended")).to_be_visible()


@both
def test_a_whole_craft_is_sized_and_taken(page: Page) -> None:
    page.goto("/jobs/demo-5-trailer-siskin/craft")
    from_bar(page, "Sizes").click()
    page.get_by_role("button", name="Size the craft").click()
    status = page.get_by_role("status", name="Sizing")
    expect(status).to_contain_text("Proven: no other sizes")
    expect(status).to_contain_text("Second best")
    clean(page)
    page.get_by_role("button", name="Plan these sizes").click()
    expect(notices(page)).to_contain_text("Planned: the sizes that were found.")
    notices(page).get_by_role("button", name="Undo").click()
    expect(notices(page)).to_contain_text("Undone")
    for box in page.get_by_role("checkbox", name=re.compile("^keep ")).all():
        box.check()
    page.get_by_role("button", name="Size the craft").click()
    expect(status).to_contain_text("No sizes meet every limit")
    expect(status).to_contain_text("Air compressor")


@both
def test_a_craft_is_put_right_run_by_run(page: Page) -> None:
    page.goto("/jobs/demo-1-sloop-marram/craft")
    from_bar(page, "Sizes").click()
    part = page.get_by_role("region", name="Run by run")
    part.get_by_role("button", name="Work out the repairs").click()
    expect(part.get_by_role("status")).to_contain_text("2 repairs")
    expect(part.get_by_role("listitem").first).to_contain_text("Clean Ring at bus")
    clean(page)
    part.get_by_role("button", name="Plan all of these").click()
    expect(notices(page)).to_contain_text("Planned: the repairs, run by run.")
    notices(page).get_by_role("button", name="Undo").click()
    expect(notices(page)).to_contain_text("Undone")


@both
def test_a_tick_stays_while_an_older_order_is_read(page: Page) -> None:
    """What was asked before the tick was kept may come after it: the box must not go back and forth."""
    path = "/jobs/demo-5-trailer-siskin/order"
    older = page.request.get(f"/api/v1{path}").text()
    page.goto(path)
    steps = page.get_by_role("region", name="Steps").get_by_role("checkbox")
    expect(steps.last).to_be_disabled()
    asked: list[str] = []

    def stale(route: Route) -> None:
        asked.append(route.request.url)
        route.fulfill(body=older, content_type="application/json")

    page.route(f"**/api/v1{path}*", stale)
    guards = [s for s in json.loads(older)["steps"] if s["guard"]]
    for number in range(len(guards)):
        with page.expect_response(re.compile(f"/api/v1{path}")):
            steps.nth(number).click()
    expect(steps.last).to_be_enabled()
    assert asked
    for number in range(len(guards)):
        expect(steps.nth(number)).to_be_checked()
    page.unroute_all()
    page.reload()
    for number in range(len(guards)):
        expect(steps.nth(number)).to_be_checked()
