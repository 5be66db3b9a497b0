"""What can be opened over any page: help about it, and what finds jobs, runs, pages and acts."""

import re

import pytest
from playwright.sync_api import Page, Route, expect

from tests.browser.conftest import HAND
from tests.browser.test_phones import findings

SHEET = "/jobs/demo-1-sloop-marram"
WORDS = "A job, a run, a page, something to do"


def test_anything_is_found_by_its_words_with_keys_alone(page: Page) -> None:
    page.goto(SHEET)
    expect(page.get_by_role("heading", level=1)).to_have_text("Tap pump")
    page.keyboard.press("Control+k")
    box = page.get_by_placeholder(WORDS)
    expect(box).to_be_focused()
    expect(page.get_by_role("option", name="Tap pump").first).to_be_visible()
    assert findings(page) == []
    box.fill("cold b")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", level=1)).to_have_text("Cold box")
    # Another job, by a word of its complaint: the program finds it, not the page.
    page.keyboard.press("/")
    box.fill("wardrobe")
    expect(page.get_by_role("option", name=re.compile("^Tourer Linnet"))).to_be_visible()
    page.keyboard.press("Enter")
    expect(page).to_have_url(re.compile("demo-2-tourer-linnet"))
    # A page of the job, then something to do.
    expect(page.get_by_role("heading", level=1)).to_be_visible()
    page.keyboard.press("Control+k")
    box.fill("work or")
    page.keyboard.press("Enter")
    expect(page).to_have_url(re.compile("/order$"))
    page.keyboard.press("Control+k")
    box.fill("new job")
    page.keyboard.press("Enter")
    dialog = page.get_by_role("dialog", name="New job")
    expect(dialog).to_be_visible()
    expect(page).to_have_url(re.compile("/$"))
    # A key that is typed into a field is a letter.
    dialog.get_by_role("textbox").first.fill("")
    page.keyboard.type("a/b?")
    expect(dialog.get_by_role("textbox").first).to_have_value("a/b?")
    expect(page.get_by_role("dialog")).to_have_count(1)


def test_nothing_found_says_so_and_escape_goes_back(page: Page) -> None:
    page.goto(SHEET)
    find = page.get_by_role("button", name="Find", exact=True)
    find.click()
    page.get_by_placeholder(WORDS).fill("zzzz qqqq")
    expect(page.get_by_text("Nothing found.")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)
    expect(find).to_be_focused()


def test_help_is_about_the_page_and_can_be_searched(page: Page) -> None:
    page.goto(f"{SHEET}/proof")
    expect(page.get_by_role("heading", level=1)).to_contain_text("Proof")
    page.keyboard.press("?")
    help_ = page.get_by_role("dialog", name="Help")
    expect(help_.get_by_role("article")).to_have_accessible_name("The proof")
    assert findings(page) == []
    help_.get_by_label("Search the guide").fill("millivolts")
    expect(help_.get_by_role("status")).to_contain_text("found")
    help_.get_by_label("Search the guide").fill("no zzzz")
    expect(help_.get_by_role("status")).to_have_text("Nothing in the guide has these words.")
    help_.get_by_label("Search the guide").fill("run line words")
    help_.get_by_role("button", name=re.compile("^Words")).click()
    expect(help_.get_by_role("article")).to_have_accessible_name("Words")
    expect(help_.get_by_role("cell", name="fuse, breaker", exact=True).first).to_be_visible()
    assert findings(page) == []
    page.keyboard.press("Escape")
    expect(help_).to_have_count(0)


@pytest.mark.parametrize("page", [HAND], ids=["hand"], indirect=True)
def test_both_are_a_touch_away_in_the_hand(page: Page) -> None:
    page.goto(f"{SHEET}/walk")
    page.get_by_role("button", name="Help").click()
    expect(page.get_by_role("article")).to_have_accessible_name("The walk")
    page.get_by_text("All parts").click()
    page.get_by_role("button", name="Photographs").click()
    expect(page.get_by_role("article")).to_have_accessible_name("Photographs")
    assert findings(page) == []
    page.get_by_role("button", name="Close").click()
    page.get_by_role("button", name="Find", exact=True).click()
    page.get_by_placeholder(WORDS).fill("source")
    heights = page.get_by_role("option").evaluate_all(
        "all => all.map(o => o.getBoundingClientRect().height).filter(h => h > 0)"
    )
    assert min(heights) >= 44
    assert page.evaluate("document.documentElement.scrollWidth") <= HAND[0]
    page.get_by_role("option", name="Source check").click()
    expect(page.get_by_role("heading", level=1)).to_have_text(re.compile("^Source check"))


def test_back_leads_away_from_what_lies_over_a_page_too(page: Page) -> None:
    page.goto(SHEET)
    page.get_by_role("link", name="Proof").click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("Proof")
    page.get_by_role("button", name="Help").click()
    expect(page.get_by_role("dialog")).to_be_visible()
    page.go_back()
    expect(page.get_by_role("heading", level=1)).to_have_text("Tap pump")
    expect(page.get_by_role("dialog")).to_have_count(0)


def test_a_page_of_an_older_program_comes_afresh_once_nothing_is_typed(page: Page) -> None:
    newer = False

    def answer(route: Route) -> None:
        came = route.fetch()
        route.fulfill(
            response=came, headers={**came.headers, "x-build": "newer"} if newer else None
        )

    page.route(re.compile("/api/v1/"), answer)
    page.goto("/check")
    name = page.get_by_label("what is it called?")
    name.fill("Sump pump")
    newer = True
    page.evaluate("window.mine = true")
    # What is asked next tells it; what is typed stays.
    page.get_by_role("button", name="Find", exact=True).click()
    expect(page.get_by_text("The program was updated.")).to_be_visible()
    page.keyboard.press("Escape")
    expect(name).to_have_value("Sump pump")
    assert page.evaluate("window.mine") is True
    # Left, the page comes afresh, once.
    with page.expect_event("load"):
        page.get_by_role("link", name="Back to jobs").click()
    expect(page.get_by_text("Orrin").first).to_be_visible()
    assert page.evaluate("window.mine") is None
    expect(page.get_by_text("The program was updated.")).to_be_visible()
