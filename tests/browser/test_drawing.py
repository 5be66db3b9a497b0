"""Drawing up on the page: a craft from nothing by keyboard alone, columns, limits, tables, units."""

import re
from pathlib import Path

import pytest
from playwright.sync_api import Locator, Page, expect

from tests.browser.conftest import HAND, from_bar, notices
from tests.browser.test_story import MARRAM, ORRIN, hand, verdict

PUMP = (
    "isolator > 16 mm2 3.4 m [Panel] > fuse 15 > panel switch > 2.5 mm2 4.8 m > pin > splice > "
    'motor "Bilge pump" 4.6 A x4 least 10.5 V critical > pin > 2.5 mm2 4.8 m > ring [Bus] > '
    "16 mm2 3.6 m"
)


def columns(page: Page) -> list[str]:
    return [str(head.get_attribute("data-piece")) for head in page.locator("[data-head]").all()]


def expect_columns(page: Page, ids: list[str]) -> None:
    heads = page.locator("[data-head]")
    expect(heads).to_have_count(len(ids))
    for i, each in enumerate(ids):
        expect(heads.nth(i)).to_have_attribute("data-piece", each)


def line(page: Page) -> Locator:
    return page.get_by_role("textbox", name=re.compile("as one line"))


def test_a_craft_from_nothing_by_keyboard_alone(page: Page) -> None:
    page.goto("/")
    page.get_by_role("button", name="New job", exact=True).focus()
    page.keyboard.press("Enter")
    page.keyboard.type("Yawl Teasel")
    for _ in range(5):
        page.keyboard.press("Tab")
    page.keyboard.type("110 Ah")
    page.keyboard.press("Enter")
    # The first line has the focus: twelve pieces take one paste and one Enter.
    expect(line(page)).to_be_focused()
    page.keyboard.insert_text(PUMP)
    expect(page.get_by_text("11 pieces. Enter draws it.")).to_be_visible()
    page.keyboard.press("Enter")
    expect(page.get_by_role("link", name="Bilge pump")).to_be_visible()
    expect(line(page)).to_have_value("")
    line(page).focus()
    page.keyboard.type("[Pa")
    expect(page.get_by_role("option", name=re.compile("Panel"))).to_be_visible()
    page.keyboard.press("Tab")
    expect(line(page)).to_have_value("[Panel]")
    page.keyboard.type(" > fuse 5 > 1.3 mm2 3 m > mot")
    expect(page.get_by_role("option", name=re.compile("starts at four times"))).to_be_visible()
    page.keyboard.press("Tab")
    page.keyboard.type("Cabin fan")
    page.keyboard.press("End")
    page.keyboard.type(" > 1.5 mm2 3 m [Bus]")
    expect(page.get_by_role("alert")).to_contain_text("there is no size 1.3 mm2")
    page.keyboard.press("Enter")
    expect(page.get_by_text("there is no size 1.3 mm2").first).to_be_visible()
    expect(line(page)).to_have_value(re.compile("1.3 mm2"))  # nothing typed is lost
    page.reload()
    expect(line(page)).to_have_value(re.compile("1.3 mm2"))  # nor by a reload
    line(page).fill(line(page).input_value().replace("1.3", "1.5"))
    page.keyboard.press("Enter")
    fan = page.get_by_role("link", name="Cabin fan")
    expect(fan).to_be_visible()
    expect(line(page)).to_have_value("")  # while something is typed, Ctrl Z is the box's own
    page.keyboard.press("Control+z")
    expect(fan).to_have_count(0)
    page.keyboard.press("Control+Shift+z")
    fan.focus()
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", level=1)).to_have_text("Cabin fan")
    expect(page.get_by_test_id("worst")).to_contain_text("worst scenario")


def test_columns_by_keyboard_and_mouse(page: Page) -> None:
    page.goto(f"{ORRIN}?run=radio")
    expect(page.get_by_role("heading", level=1)).to_have_text("Radio")
    before = columns(page)
    fuse = page.get_by_role("button", name=re.compile("^Fuse 10 A"))
    fuse.focus()
    page.keyboard.press("Alt+ArrowRight")
    expect(
        page.locator("[data-head]").nth(before.index(fuse_id(before, page)) + 1)
    ).to_contain_text("Fuse 10 A")
    page.keyboard.press("Control+z")
    expect(notices(page)).to_contain_text("Undone")
    expect_columns(page, before)
    fuse.focus()
    page.keyboard.press("+")
    page.keyboard.type("isolator")
    page.keyboard.press("Enter")
    expect(page.locator("[data-head]")).to_have_count(len(before) + 1)
    page.get_by_role("button", name="Take Switch out").click()
    expect(page.locator("[data-head]")).to_have_count(len(before))
    expect_columns(page, before)
    page.get_by_role("button", name="Edit as text").click()
    page.keyboard.press("End")
    text = line_of_run(page).input_value()
    line_of_run(page).fill(text.replace("fuse 10 A", "fuse 15 A"))
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name=re.compile("^Fuse 15 A"))).to_be_visible()
    expect_columns(page, before)
    page.get_by_role("button", name="Duplicate Radio").click()
    expect(page.get_by_role("heading", level=1)).to_have_text("Radio 2")
    page.get_by_role("button", name="Take Radio 2 out").click()
    expect(page.get_by_role("link", name="Radio 2")).to_have_count(0)


def fuse_id(before: list[str], page: Page) -> str:
    held = page.get_by_role("button", name=re.compile("^Fuse 10 A")).get_attribute("data-piece")
    assert held in before
    return str(held)


def line_of_run(page: Page) -> Locator:
    return page.get_by_role("textbox", name=re.compile("^The run as text"))


def test_a_number_explains_itself_and_limits_stand_side_by_side(page: Page) -> None:
    page.goto(MARRAM)
    page.get_by_role("button", name="0.118", exact=True).click()
    why = page.get_by_role("dialog")
    expect(why).to_contain_text("Main feed: allowance")
    expect(why).to_contain_text("By duty")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="side by side").click()
    table = page.get_by_role("dialog")
    expect(table.get_by_role("row", name=re.compile("Percent of nominal"))).to_contain_text("0.81")
    table.get_by_role("row", name=re.compile("Flat half volt")).get_by_role(
        "button", name="Use"
    ).click()
    expect(table.get_by_role("row", name=re.compile("Flat half volt"))).to_contain_text("in use")
    # Escape is the dialog's, though a notice is newer; what can be undone stays in reach.
    undo = notices(page).get_by_role("button", name="Undo", exact=True)
    expect(undo).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)
    expect(page.get_by_text("limits: Flat half volt")).to_be_visible()
    undo.click()
    expect(page.get_by_text("limits: By duty")).to_be_visible()
    page.get_by_role("button", name="Pump feed").click()
    expect(page.get_by_role("table", name="What if")).to_contain_text("one size up")
    page.get_by_label("Fixed allowance").fill("50m")
    page.get_by_label("Fixed allowance").press("Enter")
    expect(page.get_by_text("set by hand").first).to_be_visible()


def test_a_scenario_is_made_and_a_start_is_seen(page: Page) -> None:
    page.goto(f"{ORRIN}/craft")
    page.get_by_role("button", name="New").click()
    form = page.get_by_role("dialog")
    form.get_by_label("name").fill("Frosty night")
    form.get_by_label("air temperature at the wires").fill("warm")
    form.get_by_role("button", name="Save").click()
    expect(form.get_by_role("alert")).to_contain_text("is not understood")
    form.get_by_label("air temperature at the wires").fill("14 °F")
    form.get_by_label("starting, \u00d74").first.check()
    form.get_by_role("button", name="Save").click()
    expect(page.get_by_role("button", name=re.compile("^Frosty night"))).to_contain_text(
        "1 starting"
    )
    expect(page.get_by_role("region", name="Current through the shared wiring")).to_contain_text(
        "Frosty night"
    )
    page.get_by_role("button", name="Take Frosty night out").click()
    expect(page.get_by_role("button", name=re.compile("^Frosty night"))).to_have_count(0)


def test_every_number_opens_its_working_by_keyboard_too(page: Page) -> None:
    working = page.get_by_role("dialog")
    page.goto(MARRAM)
    page.get_by_label("as found, Main feed, volts").focus()
    for key in ("ArrowUp", "ArrowUp", "ArrowRight", "Enter"):
        page.keyboard.press(key)
    expect(working).to_contain_text("Fuse: allowance")
    page.keyboard.press("Escape")
    expect(page.locator("td > [data-at]:focus")).to_have_count(1)
    for key in ("ArrowDown", "ArrowDown", "ArrowDown", "ArrowDown", "Enter"):
        page.keyboard.press(key)
    expect(working).to_contain_text("Fuse: spare")
    page.goto(f"{ORRIN}/craft")
    page.get_by_text("as a table", exact=True).click()
    for region, says in (
        ("Runs, lowest spare first", "predicted"), ("Current through the shared wiring", "Stern capstan"),
        ("What would help most", "the current taken to stay"), ("Copper by size", "g/(m·mm²)"),
        ("While motors start", "more lost on the way"),
    ):  # fmt: skip
        held = page.get_by_role("region", name=region)
        number = held.locator("button[aria-haspopup=dialog]").first
        number.press("Enter")
        expect(working).to_contain_text(says)
        page.keyboard.press("Escape")
        expect(number).to_be_focused()


def test_what_the_job_says_of_itself_is_undone(page: Page) -> None:
    page.goto(f"{ORRIN}/craft")
    heading, facts = page.get_by_role("heading", level=1), page.get_by_label("The job", exact=True)
    change = page.get_by_role("button", name="Change", exact=True)
    expect(change).to_be_visible()
    title = heading.inner_text()
    change.click()
    page.get_by_label("Job", exact=True).fill("Barge Sorrel")
    page.get_by_label("nominal voltage").select_option("24")
    page.get_by_role("button", name="Save").click()
    expect(heading).to_have_text("Barge Sorrel")
    expect(facts).to_contain_text(", 24 V,")
    page.get_by_role("button", name="Undo").last.click()
    expect(heading).to_have_text(title)
    expect(facts).to_contain_text(", 12 V,")


def test_the_source_is_checked_and_offered_to_the_model(page: Page) -> None:
    page.goto(f"{MARRAM}/source")
    page.get_by_label("resting volts").fill("12.31")
    page.get_by_label("volts on the posts").fill("12.02")
    page.get_by_label("current that flows").fill("24")
    page.get_by_label("volts between the clamps").fill("all")
    page.get_by_role("button", name="Save and check").click()
    expect(page.get_by_role("alert")).to_contain_text("is not understood")
    page.get_by_label("volts between the clamps").fill("11,85")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("source-state")).to_have_text("fair")
    expect(page.get_by_test_id("source-says")).to_contain_text("The clamp connection is a fault")
    page.get_by_role("button", name=re.compile("Use")).click()
    expect(page.get_by_role("button", name=re.compile("Use"))).to_have_count(0)
    page.reload()
    expect(page.get_by_test_id("source-state")).to_have_text("fair")


def test_tables_take_csv_whole_or_not_at_all(page: Page, tmp_path: Path) -> None:
    page.goto("/tables?table=conductors")
    head = "system,size,area_mm2,material,finish,ohm_per_km_20c,source\n"
    page.get_by_role("button", name="Import CSV").click()
    (tmp_path / "bad.csv").write_text(
        head + "mm2,3.3,3.3,copper,plain,5.6,drum\nmm2,3.4,x,copper,plain,5,drum\n"
    )
    page.get_by_label("CSV file").set_input_files(tmp_path / "bad.csv")
    page.get_by_role("button", name="Import all rows").click()
    expect(page.get_by_role("alert")).to_contain_text("line 3, area_mm2")
    page.get_by_label("or paste it here").fill(head + "mm2,3.3,3.3,copper,plain,5.6,drum\n")
    page.get_by_role("button", name="Import all rows").click()
    expect(page.get_by_role("button", name="Change mm2|3.3|plain")).to_be_visible()
    page.get_by_label("Search all tables").fill("drum")
    expect(page.get_by_role("row")).to_have_count(2)
    with page.expect_download() as download:
        page.get_by_role("link", name="Export CSV").click()
    assert "mm2,3.3" in download.value.path().read_text()
    page.get_by_role("button", name="Take mm2|3.3|plain off").click()
    expect(page.get_by_text("No matching rows.")).to_be_visible()
    page.get_by_role("button", name="Undo").last.click()
    expect(page.get_by_role("button", name="Change mm2|3.3|plain")).to_be_visible()
    page.goto("/tables?table=limit_sets")
    page.get_by_role("button", name="A copy of By duty to change").click()
    expect(page.get_by_role("row", name=re.compile("by-duty-own-1"))).to_have_count(4)
    page.get_by_role("button", name="Change by-duty-own-1|ordinary|any").click()
    page.get_by_label("feed V").fill("0,4")
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_role("row", name=re.compile("by-duty-own-1.*ordinary"))).to_contain_text(
        "0.4"
    )


def test_units_and_words_are_those_that_are_set(page: Page) -> None:
    page.goto("/settings")
    for label, choice in (
        ("lengths", "feet"),
        ("volts below 1 V", "as millivolts, 140"),
        ("decimal mark", "comma, 0,5"),
        ("word for the return side", "ground"),
    ):
        with page.expect_response("**/settings"):
            page.get_by_label(label).select_option(choice)
    page.get_by_label("workshop").fill("Teasel Works")
    with page.expect_response("**/settings"):
        page.keyboard.press("Enter")
    page.goto(f"{MARRAM}?scenario=evening")
    expect(page.get_by_role("heading", level=1)).to_have_text("Tap pump")
    expect(page.get_by_role("row", name=re.compile("^allowance mV"))).to_contain_text("118")
    expect(page.get_by_role("contentinfo")).to_contain_text("ground")
    expect(page.get_by_label("The run at a glance")).to_contain_text("11,84")
    page.get_by_role("button", name="Pump feed").click()
    expect(page.get_by_label("Length", exact=True)).to_have_value("16,73 ft")
    page.get_by_role("link", name="Jobs").click()
    expect(page.get_by_text("Teasel Works")).to_be_visible()


@hand
def test_a_run_is_typed_in_the_hand(page: Page) -> None:
    page.goto("/")
    from_bar(page, "New job", "button").click()
    page.get_by_label("Job", exact=True).fill("Pedlar van")
    page.get_by_role("button", name="Create job").click()
    page.get_by_label("or start from").select_option("Cabin fan off a panel")
    page.get_by_role("button", name="Add run").click()
    expect(page.get_by_role("link", name="Cabin fan")).to_be_visible()
    assert page.evaluate("document.documentElement.scrollWidth") <= HAND[0]
    page.get_by_role("link", name="Cabin fan").click()
    expect(verdict(page)).to_contain_text("within")


@pytest.mark.parametrize("path", [f"{ORRIN}/craft", f"{MARRAM}/source", "/tables", "/settings"])
def test_a_page_without_a_server_says_so(page: Page, path: str) -> None:
    page.route("**/api/v1/**", lambda route: route.abort())
    page.goto(path)
    expect(page.get_by_role("alert").first).to_contain_text("does not answer")


def test_another_jobs_page_begins_afresh(page: Page) -> None:
    """Where only the job in the address changes, nothing typed on the page of the one before stays."""
    page.goto("/jobs/demo-1-sloop-marram/craft")
    line(page).fill("fuse 5 > 1.5 mm2 2 m")
    go = "to => { history.pushState({}, '', to); dispatchEvent(new PopStateEvent('popstate')) }"
    page.evaluate(go, "/jobs/demo-4-barge-orrin/craft")
    job = page.get_by_role("region", name="The job", exact=True)
    expect(job).to_contain_text("Rewired before the season")
    expect(line(page)).to_have_value("")
    page.go_back()
    expect(job).to_contain_text("Galley tap pump")
    expect(line(page)).to_have_value("fuse 5 > 1.5 mm2 2 m")


def test_a_job_begun_is_there_again_and_a_boat_is_two_wire(page: Page) -> None:
    page.goto("/settings")
    page.goto("/")
    page.get_by_role("button", name="New job", exact=True).click()
    expect(page.get_by_label("Polarity")).to_have_value("none")
    page.get_by_label("Job", exact=True).fill("Lugger Plover")
    page.get_by_label("Craft", exact=True).select_option("vehicle")
    expect(page.get_by_label("Polarity")).to_have_value("negative")
    page.get_by_label("Polarity").select_option("positive")
    page.go_back()
    expect(page.get_by_role("heading", level=1)).to_have_text("Settings")
    page.go_forward()
    page.reload()
    page.get_by_role("button", name="New job", exact=True).click()
    expect(page.get_by_label("Job", exact=True)).to_have_value("Lugger Plover")
    expect(page.get_by_label("Polarity")).to_have_value("positive")
    page.get_by_role("button", name="Create job").click()
    expect(page.get_by_role("heading", level=1)).to_have_text("Lugger Plover")
    page.goto("/")
    page.get_by_role("button", name="New job", exact=True).click()
    expect(page.get_by_label("Job", exact=True)).to_have_value("")


def test_where_no_job_is_open_three_doors_lead_into_work(page: Page) -> None:
    listed = page.request.get("/api/v1/jobs").json()["jobs"]
    for job in listed:
        assert page.request.post(f"/api/v1/jobs/{job['id']}/put-away").ok
    page.goto("/")
    doors = page.get_by_role("region", name="Where to begin")
    expect(doors).to_contain_text("Every job is archived.")
    doors.get_by_role("button", name="Plan a craft").click()
    expect(page.get_by_role("dialog", name="New job")).to_be_visible()
    page.keyboard.press("Escape")
    doors.get_by_role("button", name="Look round a sample job").click()
    expect(page.get_by_role("heading", level=1)).to_have_text("Tap pump")
    page.goto("/")
    expect(page.get_by_role("list", name="Jobs").get_by_role("listitem")).to_have_count(1)
    expect(doors).to_have_count(0)
    # There is one sample, however often it is asked for.
    again = page.request.post("/api/v1/jobs/sample", data={})
    assert (again.status, again.json()) == (201, {"id": "sample"})
