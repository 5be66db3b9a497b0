"""It fits: forty loads, a run of two dozen pieces, long names, at the bench and in the hand."""

import json
import re
from functools import cache

import pytest
from playwright.sync_api import Page, Response, Route, expect

from spare_margin.core.model.jobs import Job, Revision
from spare_margin.exchange.job_file.job_file import ReadJob
from spare_margin.exchange.job_file.writing import write_job
from tests.browser.conftest import BENCH, HAND
from tests.rough import craft_by

LONG = "Forward bilge pump under the forepeak berth, port side"
RUN = (
    "isolator > 25 mm2 1.5 m > pin > fuse 60 > 16 mm2 4 m > ring [Panel] > fuse 15 > panel switch > "
    f'2.5 mm2 3 m > pin > splice > 2.5 mm2 2 m > motor "{LONG}" 4.6 A > pin > 2.5 mm2 2 m > splice > '
    "2.5 mm2 3 m [Bus] > ring > 16 mm2 4 m > ring > 25 mm2 1.5 m > ring"
)
LAMPS = 39


@cache
def forty_loads() -> bytes:
    """A job file of forty loads behind one trunk, drawn once."""
    lamps = [
        f'[Panel] > fuse 5 > 1.5 mm2 {2 + i % 5} m > load "Reading lamp number {i} in the saloon" 0.5 A > '
        f"1.5 mm2 {2 + i % 5} m > [Bus]"
        for i in range(LAMPS)
    ]
    craft = craft_by(RUN, *lamps, kind="boat")
    drawn = Revision(
        id="as-found", stage="as_found", parent=None, made_at="2026-05-06T09:00:00Z", craft=craft
    )
    return json.dumps(write_job(ReadJob(Job(id="j", title="Yawl Teasel"), (drawn,), ()))).encode()


@pytest.fixture
def job(page: Page) -> str:
    """Such a job, brought in; its id."""
    answer = page.request.post("/api/v1/jobs", data=forty_loads())
    assert answer.ok, answer.text()
    return str(answer.json()["id"])


def wide(page: Page) -> int:
    return int(page.evaluate("document.documentElement.scrollWidth"))


def test_what_others_share_folds_where_there_is_no_room(page: Page, job: str) -> None:
    page.goto(f"/jobs/{job}")
    expect(page.get_by_role("heading", level=1)).to_have_text(LONG)
    trunks = page.get_by_role("button", name=re.compile("^Shared .* show its pieces$"))
    expect(trunks).to_have_count(2)
    sheet = page.get_by_role("region", name="Run sheet")
    inside = "e => e.scrollWidth <= e.clientWidth + 8"
    assert sheet.evaluate(inside), "the whole return is in sight"
    assert wide(page) <= BENCH[0]
    # A reading across the trunk is a reading like any other; it is then shown, and folds nothing.
    cell = page.get_by_label("as found, Shared, volts").first
    cell.fill("0.21")
    with page.expect_response(re.compile("/readings$")):
        cell.press("Enter")
    expect(page.get_by_label("as found, Shared, volts").first).to_have_value("0.21")
    trunks.first.click()
    expect(trunks).to_have_count(0)
    heads = page.locator("[data-head]")
    expect(heads.filter(has_text="Switch").first).to_be_visible()
    page.get_by_role("button", name="Collapse to fit").click()
    expect(trunks).to_have_count(2)


OWN = " > ".join(['pin "Connector behind the saloon panel"', "1.5 mm2 0.4 m"] * 6)
ALONE = f'fuse 10 > {OWN} > load "Chart lamp" 2 A > {OWN} > ring'


def test_a_run_of_two_dozen_pieces_of_its_own_folds_until_all_of_it_is_in_sight(page: Page) -> None:
    """Feed, load and return; nothing that was read or is suspect is hidden in a fold."""
    drawn = Revision(
        id="as-found", stage="as_found", parent=None, made_at="2026-05-06T09:00:00Z",
        craft=craft_by(ALONE, kind="boat"),
    )  # fmt: skip
    file = json.dumps(write_job(ReadJob(Job(id="j", title="Yawl Teasel"), (drawn,), ()))).encode()
    made = page.request.post("/api/v1/jobs", data=file).json()["id"]
    page.goto(f"/jobs/{made}")
    folds = page.get_by_role("button", name=re.compile("^[34] pieces .* show its pieces$"))
    expect(folds).to_have_count(6)
    sheet = page.get_by_role("region", name="Run sheet")
    assert sheet.evaluate("e => e.scrollWidth <= e.clientWidth + 8")
    cell = page.get_by_label(re.compile("^as found, [34] pieces, volts")).nth(1)
    cell.fill("0.013")
    with page.expect_response(re.compile("/readings$")):
        cell.press("Enter")
    expect(page.get_by_label(re.compile("^as found, [34] pieces, volts")).nth(1)).to_have_value(
        "0.013"
    )
    folds.nth(1).click()
    expect(folds).to_have_count(0)
    page.get_by_role("button", name="Collapse to fit").click()
    expect(folds).to_have_count(6)


def test_a_run_among_forty_is_found_by_its_name(page: Page, job: str) -> None:
    page.goto(f"/jobs/{job}")
    page.get_by_label("Find a run").fill("number 17")
    runs = page.get_by_role("navigation", name="Runs, lowest spare first").get_by_role("button")
    expect(runs).to_have_count(1)
    runs.click()
    expect(page.get_by_role("heading", level=1)).to_have_text(
        "Reading lamp number 17 in the saloon"
    )
    page.get_by_role("button", name=f"{LAMPS + 1} of {LAMPS + 1} on").click()
    page.get_by_label("Find a load").fill("number 17")
    page.get_by_role("switch", name=re.compile("number 17")).click()
    expect(page.get_by_role("button", name=f"{LAMPS} of {LAMPS + 1} on")).to_be_visible()


@pytest.mark.parametrize("page", [HAND], indirect=True, ids=["hand"])
def test_the_craft_in_the_hand_shows_the_first_dozen(page: Page, job: str) -> None:
    page.goto(f"/jobs/{job}/craft")
    runs = page.get_by_role("region", name="Runs, lowest spare first").get_by_role("listitem")
    expect(runs).to_have_count(12)
    assert wide(page) <= HAND[0]
    page.get_by_label("Find a run").fill("number 31")
    expect(runs).to_have_count(1)
    page.get_by_label("Find a run").fill("")
    page.get_by_role("button", name=f"All {LAMPS + 1} runs").click()
    expect(runs).to_have_count(LAMPS + 1)


def test_the_first_page_asks_for_little_script(page: Page) -> None:
    """At most 120 kB as it is sent; of the other pages nothing yet."""
    scripts: list[Response] = []
    page.on("response", lambda r: scripts.append(r) if r.url.endswith(".js") else None)
    page.goto("/")
    expect(page.get_by_role("link", name="Sloop Marram").first).to_be_visible()
    sent = [int(each.header_value("content-length") or 0) for each in scripts]
    assert {each.header_value("content-encoding") for each in scripts} == {"br"}
    assert 0 < sum(sent) <= 120_000, dict(zip([each.url for each in scripts], sent, strict=True))


@pytest.mark.parametrize("page", [HAND], indirect=True, ids=["hand"])
def test_in_the_hand_a_bar_is_one_row_and_the_runs_come_first(page: Page, job: str) -> None:
    page.goto(f"/jobs/{job}/craft")
    first = page.get_by_role("region", name="Runs, lowest spare first").get_by_role("link").first
    expect(first).to_be_visible()
    at = first.bounding_box()
    assert at is not None
    assert at["y"] < 200
    bar = page.get_by_role("banner")
    for part in ("craft", "proof", "timeline"):
        page.goto(f"/jobs/{job}/{part}")
        expect(page.get_by_role("heading", level=1)).to_be_visible()
        box = bar.bounding_box()
        assert box is not None
        assert box["height"] <= 64
        assert wide(page) <= HAND[0]


def test_the_focus_goes_where_the_eye_goes(page: Page, job: str) -> None:
    page.goto(f"/jobs/{job}/craft")
    heading = page.get_by_role("heading", level=1)
    expect(heading).to_be_visible()
    expect(heading).not_to_be_focused()
    page.get_by_role("link", name="Source check").click()
    expect(heading).to_have_text(re.compile("^Source check"))
    expect(heading).to_be_focused()
    page.goto(f"/jobs/{job}/craft")
    expect(heading).to_be_visible()
    page.keyboard.press("Tab")
    skip = page.get_by_role("button", name="Skip to the content")
    expect(skip).to_be_focused()
    page.keyboard.press("Enter")
    expect(page.get_by_role("main")).to_be_focused()


def test_who_skips_to_a_page_that_is_still_opening_is_there_when_it_is(
    page: Page, job: str
) -> None:
    held: list[Route] = []
    page.route(re.compile(r"/api/v1/jobs/[^/]+/craft"), lambda route: held.append(route))  # noqa: PLW0108
    with page.expect_request(re.compile(r"/api/v1/jobs/[^/]+/craft")):
        page.goto(f"/jobs/{job}/craft")
    expect(page.get_by_role("heading", name="Opening the craft")).to_be_visible()
    page.keyboard.press("Tab")
    page.keyboard.press("Enter")
    expect(page.get_by_role("main")).to_be_focused()
    held[0].continue_()
    expect(page.get_by_role("heading", name="Scenarios")).to_be_visible()
    expect(page.get_by_role("main")).to_be_focused()


def test_no_page_sticks_out_of_a_narrow_phone(page: Page) -> None:
    """320 CSS pixels: a small phone, or a page enlarged four times at the desk."""
    page.set_viewport_size({"width": 320, "height": 700})
    job = "/jobs/demo-1-sloop-marram"
    ways = (
        "",
        "/craft",
        "/walk",
        "/source",
        "/upgrade",
        "/sizing",
        "/proof",
        "/photographs",
        "/logs",
        "/live",
        "/lists",
    )
    for path in (
        "/",
        "/check",
        "/tables",
        "/settings",
        "/phones",
        "/meters",
        *(job + way for way in ways),
    ):
        page.goto(path)
        expect(page.get_by_role("heading", level=1)).to_be_visible()
        expect(page.locator("main:not([aria-busy=true])")).to_be_visible()
        page.wait_for_load_state("networkidle")
        assert wide(page) <= 320, path


SMALL = """() => [...document.querySelectorAll(
  "button, a[href], input, select, textarea, summary")]
  .filter((e) => e.checkVisibility() && getComputedStyle(e).display !== "inline")
  .map((e) => {
    const tall = Math.max(...[e, e.closest("label")].filter(Boolean)
      .map((each) => each.getBoundingClientRect().height));
    return [Math.round(tall), e.getAttribute("aria-label") || e.innerText || e.type];
  })
  .filter(([tall]) => tall > 1 && tall < 44)"""
"""What can be pressed and is lower than a thumb, links in the middle of a text aside."""


@pytest.mark.parametrize("page", [HAND], indirect=True, ids=["hand"])
def test_what_can_be_pressed_is_as_high_as_a_thumb(page: Page) -> None:
    job = "/jobs/demo-1-sloop-marram"
    ways = ("", "/craft", "/walk", "/source", "/upgrade", "/sizing", "/lists", "/photographs")
    others = ("/", "/check", "/settings", "/meters", "/jobs/demo-5-trailer-siskin/order",
              "/jobs/demo-3-show-truck-dunlin/proof", "/jobs/demo-6-ketch-whimbrel/craft")  # fmt: skip
    for path in (*others, *(job + way for way in ways)):
        page.goto(path)
        expect(page.locator("main:not([aria-busy=true])").first).to_be_visible()
        page.wait_for_load_state("networkidle")
        assert page.evaluate(SMALL) == [], path
