"""Practice in the browser: an exercise by touch and by keys, a lesson, a set; where the network ends."""

import re

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.browser.conftest import HAND, PATIENCE_MS
from tests.browser.test_story import AXE, both
from tests.browser.test_walk import RADIO, acknowledge
from tests.practice import made, shipped_with
from tests.web.test_practice import WEAK

WHO = "Ada Lind"


def named(page: Page) -> None:
    """Whoever practises has said who it is."""
    page.goto("/practise")
    page.get_by_label("Your name").fill(WHO)
    page.get_by_role("button", name="Go on").click()
    expect(page.get_by_role("heading", name="Seven levels")).to_be_visible()


def begun(page: Page, key: str) -> str:
    """An exercise begun; its id. The page is at its bay."""
    body = {"id": f"browser-attempt-{key}", "who": WHO, "exercise": key}
    answer = page.request.post("/api/v1/practice/attempts", data=body)
    assert answer.ok, answer.text()
    page.goto(f"/practise/bay/{body['id']}")
    return body["id"]


def axe(page: Page) -> list[str]:
    page.evaluate(AXE.read_text("utf-8"))
    found = page.evaluate(
        "() => axe.run(document, { resultTypes: ['violations'] }).then(r => r.violations)"
    )
    return [f"{v['id']}: {n['html'][:160]}" for v in found for n in v["nodes"]]


def measured(page: Page, red: str, black: str) -> None:
    """Two points chosen from their lists: what a keyboard and a screen reader have."""
    page.get_by_label("Red on").select_option(red)
    page.get_by_label("Black on").select_option(black)
    with page.expect_response(re.compile("/acts$")):
        page.get_by_role("button", name="Measure", exact=True).click()


@both
def test_an_exercise_from_its_complaint_to_its_debrief(page: Page) -> None:
    named(page)
    begun(page, WEAK)
    held = made(WEAK)[0]
    run, (bad,) = held.loop, held.hidden
    step = next(s for s in run.steps() if s.piece.id == bad.element)
    expect(page.get_by_text("Nothing here is a real job")).to_be_visible()
    page.get_by_role("button", name="I have read them").click()
    expect(page.get_by_role("region", name="Cautions")).to_have_count(0)
    page.get_by_role("radio", name="Clamp").click()
    page.get_by_role("button", name="Zero it").click()
    page.get_by_role("button", name="Measure", exact=True).click()
    shown = page.get_by_test_id("shown")
    expect(shown).to_have_text(re.compile(r"\d A"))
    page.get_by_role("radio", name="Volts").click()
    for side in ("return", "feed"):
        measured(page, *run.ends(side))  # type: ignore[arg-type]
    # The piece by touch: its two points on the picture.
    taps = page.get_by_test_id("loop").first.get_by_role("button")
    points = [*run.line["feed"], *run.line["return"]]
    taps.nth(points.index(step.entry)).click()
    expect(page.get_by_text("Now tap the point for black")).to_be_visible()
    taps.nth(points.index(step.exit)).click()
    expect(shown).to_have_text(re.compile(r"\d V"))
    expect(page.get_by_role("region", name="Done so far").get_by_role("listitem")).to_have_count(6)
    assert axe(page) == []
    page.get_by_role("button", name="Say what it is").click()
    assert axe(page) == []
    dialog = page.get_by_role("dialog")
    order = [s.piece.id for s in run.steps()]
    dialog.get_by_role("checkbox").nth(order.index(bad.element)).check()
    dialog.get_by_role("button", name="Repair it").click()
    page.get_by_role("radio", name="Clamp").click()
    page.get_by_role("button", name="Measure", exact=True).click()
    page.get_by_role("radio", name="Volts").click()
    for side in ("return", "feed"):
        measured(page, *run.ends(side))  # type: ignore[arg-type]
    page.get_by_role("button", name="Hand it over").click()
    expect(page.get_by_role("heading", name="Repaired, and proven.")).to_be_visible()
    expect(page.get_by_text("Your readings leave no other explanation.")).to_be_visible()
    assert axe(page) == []
    page.goto("/practise/progress")
    expect(page.get_by_text("One run: 1 of 1 right.")).to_be_visible()
    assert axe(page) == []


def test_the_list_is_of_whoever_says_the_name(page: Page) -> None:
    page.goto("/practise")
    page.get_by_label("Your name").fill("Ines Falk")
    page.get_by_role("button", name="Go on").click()
    level = page.locator("details").filter(has_text="A complaint, one load")
    expect(level.get_by_role("img", name="right", exact=True)).to_have_count(2)
    level.get_by_role("link", name="Debrief").first.click()
    expect(page.get_by_role("heading", name="Repaired, and proven.")).to_be_visible()


def test_switches_plugs_and_a_guess(page: Page) -> None:
    named(page)
    begun(page, shipped_with(3, lambda e: e.symptom == "weak"))
    switches = page.get_by_role("region", name="Switches")
    loads = switches.get_by_role("radiogroup").or_(switches.get_by_role("group"))
    loads.first.get_by_role("radio", name="Unplugged").click()
    expect(page.get_by_text("is unplugged").first).to_be_visible()
    loads.first.get_by_role("radio", name="On", exact=True).click()
    page.get_by_role("button", name="Start the engine").click()
    expect(page.get_by_role("button", name="Stop the engine")).to_be_visible()
    page.get_by_role("radio", name="Ohms").click()
    expect(page.get_by_text("Disconnect the battery first")).to_be_visible()
    page.get_by_role("button", name="Say what it is").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_role("button", name="All is well").click()
    expect(page.get_by_role("heading", name="You said all is well. It was not.")).to_be_visible()
    page.get_by_role("button", name="Another like this").click()
    expect(page.get_by_role("button", name="Say what it is")).to_be_visible()


@both
def test_a_lesson_is_pulled_answered_and_leads_on(page: Page) -> None:
    named(page)
    page.get_by_role("link", name="All of the source").click()
    knob = page.get_by_role("slider")
    knob.focus()
    knob.press("End")
    expect(page.get_by_text("95%")).to_be_visible()
    page.get_by_role("button", name="All of it").click()
    expect(page.get_by_role("status")).to_contain_text("Not so.")
    page.get_by_role("button", name="Half of it").click()
    expect(page.get_by_role("status")).to_contain_text("Right.")
    page.get_by_role("button", name="Show it").click()
    expect(page.get_by_text("50%")).to_be_visible()
    assert axe(page) == []
    page.get_by_role("link", name="Next: No current").click()
    expect(page.get_by_role("heading", name="No current, no voltage drop")).to_be_visible()


def test_exercises_are_set_for_a_group_and_made_of_a_job(page: Page) -> None:
    named(page)
    page.get_by_role("button", name="Choose a job").click()
    page.get_by_role("button", name="Make an exercise").first.click()
    expect(page.get_by_text("From your own jobs: ").first).to_be_visible()
    page.get_by_role("button", name="Set exercises for a group").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Name of the set").fill("Monday")
    dialog.get_by_label("People, one a line").fill(f"{WHO}\nBo Rask")
    dialog.get_by_role("button", name="Set them").click()
    expect(dialog.get_by_role("alert")).to_be_visible()
    dialog.get_by_role("checkbox").first.check()
    dialog.get_by_role("button", name="Set them").click()
    expect(page.get_by_role("heading", name="Monday")).to_be_visible()
    expect(page.get_by_role("region", name="Bo Rask")).to_contain_text("Not begun.")
    assert axe(page) == []
    page.goto("/practise")
    expect(page.get_by_role("heading", name="Set for you: Monday")).to_be_visible()
    assert axe(page) == []


def test_the_coach_speaks_on_wish(page: Page) -> None:
    page.goto(RADIO)
    acknowledge(page)
    page.get_by_text("Why this reading, and how").click()
    page.get_by_label("Coach me on every card").check()
    lesson = page.get_by_role("link", name="The lesson")
    expect(lesson).to_be_visible()
    page.reload()
    expect(lesson).to_be_visible()


@pytest.mark.parametrize("width", [HAND[0]])
def test_readings_go_on_where_the_network_ends(browser: Browser, site: str, width: int) -> None:
    context = browser.new_context(base_url=site, viewport={"width": width, "height": HAND[1]})
    context.set_default_timeout(PATIENCE_MS)
    page = context.new_page()
    page.goto("/")
    page.evaluate("navigator.serviceWorker.ready.then(() => true)")
    page.wait_for_function("navigator.serviceWorker.controller !== null")
    page.reload()
    named(page)
    attempt = begun(page, WEAK)
    run = made(WEAK)[0].loop
    with page.expect_response(re.compile("/ahead")):
        page.get_by_role("button", name="I have read them").click()
    page.wait_for_load_state("networkidle")
    context.set_offline(True)
    page.get_by_label("Red on").select_option(run.ends("feed")[0])
    page.get_by_label("Black on").select_option(run.ends("feed")[1])
    page.get_by_role("button", name="Measure", exact=True).click()
    expect(page.get_by_text("1 reading waits")).to_be_visible()
    away = page.get_by_test_id("shown").inner_text()
    assert re.search(r"\d V", away)
    # What needs the program says so, and is not done.
    page.get_by_role("button", name="Start the engine").click()
    expect(page.get_by_text("Only plain volts and the clamp")).to_be_visible()
    page.reload()
    expect(page.get_by_text("1 reading waits")).to_be_visible()
    expect(page.get_by_test_id("shown")).to_have_text(away)
    page.get_by_label("Red on").select_option(run.ends("return")[0])
    page.get_by_label("Black on").select_option(run.ends("return")[1])
    page.get_by_role("button", name="Measure", exact=True).click()
    expect(page.get_by_text("2 readings wait")).to_be_visible()
    away = page.get_by_test_id("shown").inner_text()
    context.set_offline(False)
    page.reload()
    expect(page.get_by_text(re.compile("readings? wait"))).to_have_count(0)
    expect(page.get_by_test_id("shown")).to_have_text(away)
    held = page.request.get(f"/api/v1/practice/attempts/{attempt}?who={WHO}").json()
    assert [a["kind"] for a in held["acts"]] == ["noted", "volts", "volts"]
    context.close()
