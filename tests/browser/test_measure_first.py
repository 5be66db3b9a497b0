"""Measuring first, in the hand: one load to its verdict, a bad ground by splitting, trials."""

import re

from playwright.sync_api import Locator, Page, Route, expect

from tests.browser.conftest import HAND, from_bar, notices
from tests.browser.test_story import AXE, hand


class Thumb:
    """One thumb: every tap is counted, and so are the keys; figures are typed on the phone's keys."""

    def __init__(self, page: Page) -> None:
        self.page, self.taps, self.keys = page, 0, 0

    def tap(self, target: Locator) -> None:
        self.taps += 1
        target.click()

    def type(self, text: str) -> None:
        self.keys += len(text)
        self.page.keyboard.type(text)

    def figure(self, title: str, text: str, stays: bool = False) -> None:
        """A figure for the card that is shown: the box has the focus since the card before.

        Then the next card is waited for, for a tap while it moves into place may miss; `stays`: none comes.
        """
        box = self.page.get_by_role("region", name=title, exact=True).get_by_label(
            re.compile(r", (volts|amperes)$")
        )
        expect(box).to_be_visible()
        if not box.evaluate("box => box === document.activeElement"):
            self.tap(box)
        self.type(text)
        with self.page.expect_response(re.compile("/readings$")):
            self.tap(self.page.get_by_role("button", name="Save").first)
        if not stays:
            expect(self.page.get_by_role("region", name=title, exact=True)).to_have_count(0)


def begun(page: Page, name: str = "Sump pump", what: str = "Pump") -> Thumb:
    thumb = Thumb(page)
    page.goto("/")
    thumb.tap(page.get_by_role("link", name="Check one load"))
    expect(page.get_by_label("what is it called?")).to_be_focused()
    thumb.type(name)
    thumb.tap(page.get_by_role("button", name=what, exact=True))
    thumb.tap(page.get_by_role("button", name="I have read these"))
    return thumb


@hand
def test_one_load_is_checked_to_its_verdict(page: Page) -> None:
    thumb = begun(page)
    card = page.get_by_role("region", name="The current of Sump pump", exact=True)
    expect(card).to_be_visible()
    assert thumb.taps <= 4, "before the first reading"
    assert thumb.keys == len("Sump pump")
    assert card.evaluate("c => c.getBoundingClientRect().bottom") <= HAND[1], "it fits the screen"
    thumb.figure("The current of Sump pump", "4.6")
    thumb.figure("The whole return", "0.10")
    thumb.figure("The whole feed", "0.21")
    expect(page.get_by_role("region", name="The walk has ended")).to_contain_text(
        "within their limits"
    )
    expect(page.get_by_test_id("sum-bar")).to_contain_text("within")
    assert thumb.taps <= 12
    assert page.evaluate("document.documentElement.scrollWidth") <= HAND[0]


@hand
def test_what_is_typed_lands_on_the_bar_before_it_is_kept(page: Page, site: str) -> None:
    thumb = begun(page)
    thumb.figure("The current of Sump pump", "4.6")
    page.get_by_label("The whole return, volts").fill("1.2")
    expect(page.get_by_test_id("means")).to_contain_text("over the limit for")
    page.get_by_label("The whole return, volts").fill("0.1")
    expect(page.get_by_test_id("means")).to_contain_text("Within")
    job = page.url.split("/jobs/")[1].split("/")[0]
    kept = page.request.get(f"{site}/api/v1/jobs/{job}/file").json()["readings"]
    assert len(kept) == 1


@hand
def test_what_is_typed_while_a_figure_is_on_its_way_stays(page: Page) -> None:
    thumb = begun(page)
    expect(page.get_by_label("The current of Sump pump, amperes")).to_be_visible()
    held: list[Route] = []
    holding = True

    def hold(route: Route) -> None:
        if holding:
            held.append(route)
        else:
            route.continue_()

    page.route(re.compile(r"/walk\?"), hold)
    thumb.figure("The current of Sump pump", "4.6", stays=True)
    expect(page.get_by_label("The current of Sump pump, amperes")).to_be_focused()
    page.keyboard.type("0.10")
    holding = False
    for route in held:
        route.continue_()
    expect(page.get_by_label("The whole return, volts")).to_have_value("0.10")


@hand
def test_what_is_refused_comes_back_into_its_box(page: Page) -> None:
    thumb = begun(page)
    thumb.figure("The current of Sump pump", "lots", stays=True)
    expect(page.get_by_role("alert")).to_contain_text("not understood")
    expect(page.get_by_label("The current of Sump pump, amperes")).to_have_value("lots")


@hand
def test_a_bad_ground_is_found_by_splitting(page: Page) -> None:
    thumb = begun(page)
    thumb.figure("The current of Sump pump", "4.6")
    thumb.figure("The whole return", "0.92")
    ask = page.get_by_role("region", name="Where can you get a probe on it in between?")
    expect(ask).to_contain_text("between Sump pump \u2212 and Battery \u2212 post")
    # The picture measures there too, and leads back.
    thumb.tap(ask.get_by_role("button", name="Measure at Battery + post"))
    expect(ask).to_contain_text("Red on Battery + post. Now tap the point for black.")
    thumb.tap(ask.get_by_role("button", name="Measure at Battery \u2212 post"))
    expect(page.get_by_role("region", name="The source, post to post")).to_be_visible()
    thumb.tap(page.get_by_role("button", name="Back to the walk"))
    thumb.tap(ask.get_by_role("button", name="Ground stud"))
    # Two points tapped on the picture are measured.
    thumb.tap(page.get_by_role("button", name="Measure at Stud, wire"))
    thumb.tap(page.get_by_role("button", name="Measure at Stud, far side"))
    thumb.figure("Across Ring on stud", "0.85")
    expect(page.get_by_label("Found", exact=True)).to_contain_text("Ring on stud")
    expect(page.get_by_role("region", name="The walk has ended")).to_contain_text(
        "It is Ring on stud"
    )
    expect(page.get_by_role("note")).to_contain_text("Hot joint")


@hand
def test_a_temporary_return_proves_itself(page: Page) -> None:
    thumb = begun(page)
    thumb.figure("The current of Sump pump", "4.6")
    for start, end, title, volts in (
        ("Battery + post", "Battery \u2212 post", "The source, post to post", "12.62"),
        ("Sump pump +", "Sump pump \u2212", "The whole loop, across Sump pump", "11.60"),
    ):
        thumb.tap(page.get_by_role("button", name=f"Measure at {start}"))
        thumb.tap(page.get_by_role("button", name=f"Measure at {end}"))
        thumb.figure(title, volts)
    thumb.tap(page.get_by_text("Try something out"))
    thumb.tap(page.get_by_role("radio", name="Temporary return"))
    page.get_by_label("voltage at the load during the test, if read").fill("12.41")
    with page.expect_response(re.compile("/walk/trials$")):
        thumb.tap(page.get_by_role("button", name="Works normally"))
    expect(page.get_by_text(re.compile("^Temporary return from .* works normally"))).to_be_visible()
    first = page.get_by_label("Likely faults, likeliest first").get_by_role("listitem").first
    expect(first).to_contain_text("Sump pump \u2212 to Battery \u2212 post")


@hand
def test_a_tripped_breaker_is_found_at_rest_and_cautioned(page: Page) -> None:
    thumb = begun(page, "Cabin heater", "Heater or cooler")
    thumb.figure("The current of Cabin heater", "0")
    thumb.figure("The source, post to post", "12.62")
    thumb.figure("The whole loop, across Cabin heater", "0.0")
    thumb.figure("Cabin heater \u2212 to Battery \u2212 post", "0.0")
    with page.expect_response(re.compile("/walk/splits$")):
        thumb.tap(page.get_by_role("button", name="Breaker", exact=True))
    thumb.tap(page.get_by_text("Find an open, load off"))
    for point, volts in (("Breaker, in", "12.6"), ("Breaker, out", "0.0")):
        box = page.get_by_label(f"{point} at rest, volts")
        box.fill(volts)
        with page.expect_response(re.compile("/readings$")):
            box.press("Enter")
    at_rest = page.get_by_role("group").filter(has_text="Find an open, load off")
    expect(at_rest.get_by_text("Breaker is open.")).to_be_visible()
    expect(page.get_by_role("note")).to_contain_text("Find why before it is replaced or reset")


@hand
def test_axe_finds_nothing_while_measuring_first(page: Page) -> None:
    thumb = begun(page)
    thumb.figure("The current of Sump pump", "4.6")
    for words in ("Measure anything else", "Try something out", "Find an open, load off",
                  "Seen or heard", "Use a test load", "why this reading, and how"):  # fmt: skip
        page.get_by_text(words, exact=False).first.click()
    expect(page.get_by_label("Battery + post at rest, volts")).to_be_visible()
    expect(page.get_by_test_id("stand-in")).to_be_visible()
    page.evaluate(AXE.read_text("utf-8"))
    found = page.evaluate("axe.run(document).then(r => r.violations)")
    assert [f"{v['id']}: {n['html'][:160]}" for v in found for n in v["nodes"]] == []


@hand
def test_what_lies_between_is_filled_in_on_the_card(page: Page, site: str) -> None:
    thumb = begun(page)
    thumb.figure("The current of Sump pump", "4.6")
    expect(page.get_by_role("region", name="The whole return", exact=True)).to_be_visible()
    thumb.tap(page.get_by_role("button", name="Measure at Battery + post"))
    thumb.tap(page.get_by_role("button", name="Measure at Sump pump +"))
    expect(page.get_by_role("region", name="The whole feed", exact=True)).to_be_visible()
    thumb.tap(page.get_by_text("why this reading, and how"))
    page.get_by_label("what is between the leads").select_option("conductor")
    page.get_by_label("Size", exact=True).fill("2.5")
    page.get_by_label("Length", exact=True).fill("lots")
    page.get_by_role("button", name="Fill it in").click()
    expect(page.get_by_role("alert")).to_contain_text("not understood")
    page.get_by_label("Length", exact=True).fill("4.2")
    with page.expect_response(re.compile("/changes$")):
        page.get_by_role("button", name="Fill it in").click()
    job = page.url.split("/jobs/")[1].split("/")[0]
    expect(page.get_by_label("what is between the leads")).to_have_count(0)
    notice = notices(page).get_by_role("button", name="Undo")
    expect(notice).to_be_visible()
    wire = page.request.get(f"{site}/api/v1/jobs/{job}/file").json()["elements"][0]
    assert (wire["kind"], wire["length_m"], wire["size"]["value"]) == ("conductor", 4.2, "2.5")
    with page.expect_response(re.compile("/steps$")):
        notice.click()
    expect(page.get_by_label("what is between the leads")).to_be_visible()


@hand
def test_a_run_is_built_by_tapping_its_pieces(page: Page) -> None:
    page.goto("/")
    from_bar(page, "New job", "button").click()
    page.get_by_label("Job", exact=True).fill("Skiff Sedge")
    page.keyboard.press("Enter")
    page.get_by_text("Tap its pieces in order, or type them below").click()
    for name in ("Fuse", "15", "Wire", "2.5"):
        page.get_by_role("button", name=name, exact=True).click()
    page.get_by_label("its length in metres, if known").fill("3.5")
    page.get_by_role("button", name="Plug pin").click()
    page.get_by_label("what the load is called").fill("Deck wash")
    page.get_by_role("button", name="The load").click()
    for name in ("Plug pin", "Not known", "Take the last one off", "Wire"):
        page.get_by_role("button", name=name, exact=True).click()
    expect(page.get_by_label("the first run, as one line")).to_have_value(
        'fuse 15 > 2.5 mm² 3.5 m > pin > load "Deck wash" ? > pin > wire'
    )
    page.get_by_role("button", name="Add run", exact=True).click()
    expect(from_bar(page, "Run sheet")).to_be_visible()
    expect(page.get_by_label("next run, as one line")).to_have_value("")


@hand
def test_from_a_new_faulty_load_to_a_signed_sheet_one_button_leads_to_the_next(page: Page) -> None:
    """Nothing drawn or known: 35 taps, no key but for the load's name, figures and one's own name."""
    thumb = begun(page)
    thumb.figure("The current of Sump pump", "4.6")
    thumb.figure("The whole return", "0.92")
    thumb.tap(page.get_by_role("button", name="Ground stud"))
    thumb.figure("Across Ring on stud", "0.85")
    ended = page.get_by_role("region", name="The walk has ended")
    thumb.tap(ended.get_by_role("button", name="Plan the repair"))
    thumb.tap(page.get_by_role("button", name="Plan this: Clean Ring on stud"))
    thumb.tap(page.get_by_role("link", name="Open the work order"))
    steps = page.get_by_role("region", name="Steps").get_by_role("checkbox")
    for number in range(6):
        thumb.tap(steps.nth(number))
        expect(steps.nth(number)).to_be_checked()
    expect(page.get_by_test_id("ticked")).to_have_text("6 of 6 done")
    thumb.tap(page.get_by_role("link", name="Measure after the repair"))
    thumb.tap(page.get_by_role("button", name="I have read these"))
    for title, figure in (
        ("The source, post to post", "12.6"),
        ("The current of Sump pump", "4.6"),
        ("The whole loop, across Sump pump", "12.3"),
        ("The whole return", "0.06"),
        ("The whole feed", "0.2"),
        ("Across Ring on stud", "0.004"),
    ):
        thumb.figure(title, figure)
    thumb.tap(ended.get_by_role("button", name="Proof"))
    thumb.tap(page.get_by_role("button", name="I checked each joint: none is hot"))
    thumb.tap(page.get_by_role("button", name="I have read: after the work"))
    thumb.tap(page.get_by_role("button", name="Sign as installer"))
    thumb.type("Ida Brandt")
    thumb.tap(page.get_by_role("button", name="Sign", exact=True))
    with page.expect_download() as saved:
        thumb.tap(page.get_by_role("link", name="Save the hand-over sheet"))
    assert saved.value.path().read_bytes().startswith(b"%PDF")
    assert thumb.taps <= 35
    typed = (
        "Sump pump" + "4.6" + "0.92" + "0.85" + "12.6" + "4.6" + "12.3" + "0.06" + "0.2" + "0.004"
    )
    assert thumb.keys == len(typed + "Ida Brandt")


LISTENING = """() => {
  window.said = [];
  const told = (node) => {
    const from = node.nodeType === Node.TEXT_NODE ? node.parentElement : node;
    const region = from && from.closest("[aria-live=polite], [role=status], [role=alert]");
    const text = region && region.checkVisibility() ? region.innerText.trim() : "";
    if (text && text !== window.said.at(-1)) window.said.push(text);
  };
  new MutationObserver((all) => {
    for (const m of all) {
      told(m.target);
      for (const n of m.addedNodes) told(n);
    }
  }).observe(document.body, { childList: true, subtree: true, characterData: true });
}"""
"""What a screen reader would be told: the text of each live region on show whenever it changes."""


@hand
def test_what_a_reading_means_and_the_verdict_are_announced_once(page: Page) -> None:
    thumb = begun(page)
    thumb.figure("The current of Sump pump", "4.6")
    thumb.figure("The whole return", "0.10")
    box = page.get_by_label("The whole feed, volts")
    expect(box).to_be_visible()
    page.evaluate(LISTENING)
    box.fill("0.21")
    expect(page.get_by_test_id("means")).to_contain_text("Within limits")
    meaning = page.get_by_test_id("means").inner_text()
    page.get_by_role("button", name="Save").first.click()
    expect(page.get_by_test_id("sum-bar")).to_contain_text("within")
    said = page.evaluate("said")
    assert said.count(meaning) == 1, said
    assert sum("within limits" in text for text in said) == 1, said


@hand
def test_cautions_noted_are_taken_back(page: Page) -> None:
    begun(page)
    page.get_by_role("button", name="Show the cautions again").click()
    expect(page.get_by_role("region", name="Safety first")).to_be_visible()
    page.get_by_role("button", name="I have read these").click()
    expect(page.get_by_label("The current of Sump pump, amperes")).to_be_visible()
