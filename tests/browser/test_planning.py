"""A craft planned from loads and lengths: typed into a table or pasted, sized, listed; keys are counted."""

import re

from playwright.sync_api import Locator, Page, expect

from tests.browser.conftest import notices

LOADS = (
    ("Cold box", "5", "6"), ("Mast lamp", "1", "14"), ("Deck lamp", "2", "9"), ("Sump pump", "7", "4"),
    ("Shower", "4", "5"), ("Tap pump", "4.5", "3"), ("Cabin lamps", "2.5", "7"), ("Fan", "1.2", "5"),
    ("Chart table", "3", "2.5"), ("Radio", "6", "3"), ("Plotter", "2", "4"), ("Heater", "3.5", "5"),
    ("Sockets", "5", "6"), ("Stern lamp", "0.5", "8"),
)  # fmt: skip
PASTED = "Item\tAmps\tLength\tPanel\n" + "\n".join(f"{n}\t{a}\t{m}\tPanel" for n, a, m in LOADS)


class Hands:
    """Two hands: every click and every key is counted."""

    def __init__(self, page: Page) -> None:
        self.page, self.clicks, self.keys = page, 0, 0

    def click(self, target: Locator) -> None:
        self.clicks += 1
        target.click()

    def press(self, key: str, times: int = 1) -> None:
        for _ in range(times):
            self.keys += 1
            self.page.keyboard.press(key)

    def type(self, text: str) -> None:
        self.keys += len(text)
        self.page.keyboard.type(text)


def begun(page: Page) -> Hands:
    hands = Hands(page)
    page.goto("/")
    hands.click(page.get_by_role("button", name="New job", exact=True))
    hands.type("Yawl")
    hands.press("Enter")
    expect(page.get_by_role("heading", level=1)).to_have_text("Yawl")
    hands.click(page.get_by_role("radio", name="As a table"))
    expect(cell(page, "load", "next run")).to_be_focused()
    return hands


def cell(page: Page, column: str, run: str) -> Locator:
    return page.get_by_role("textbox", name=f"{column}, {run}", exact=True)


def planned(hands: Hands) -> None:
    """From the craft, its runs in the table, to its lists."""
    page = hands.page
    hands.click(page.get_by_role("link", name="Size the craft"))
    expect(page.get_by_role("status", name="Sizing")).to_contain_text("Proven")
    hands.click(page.get_by_role("button", name="Plan these sizes"))
    hands.click(page.get_by_role("link", name=re.compile("To the wire list")))
    wires = page.get_by_role("region", name="Wire list").get_by_role("row")
    # Two wires a run, the panel's two, and the head.
    expect(wires).to_have_count(2 * len(LOADS) + 3)
    expect(page.get_by_role("region", name="Wire list")).not_to_contain_text("to be sized")
    expect(page.get_by_role("region", name="Buying list")).to_contain_text("Twin cable 2 \u00d7")
    expect(page.get_by_role("link", name="Quote as PDF")).to_be_visible()


def test_fourteen_runs_typed_by_hand(page: Page) -> None:
    hands = begun(page)
    for n, (name, amps, metres) in enumerate(LOADS):
        hands.type(name)
        hands.press("Tab")
        hands.type(amps)
        hands.press("Tab")
        hands.type(metres)
        if n == 0:
            hands.press("Tab", 5)
            hands.type("Panel")
        hands.press("Enter")
        expect(cell(page, "load", "next run")).to_be_focused()
    far = page.get_by_label("Nothing feeds Panel yet")
    hands.click(far)
    hands.type("2")
    hands.press("Enter")
    expect(notices(page)).to_contain_text("14 runs added.")
    expect(cell(page, "panel", "Stern lamp")).to_have_value("Panel +")
    planned(hands)
    assert hands.keys <= 450, hands.keys
    assert hands.clicks <= 40, hands.clicks


def test_fourteen_runs_pasted(page: Page) -> None:
    hands = begun(page)
    hands.keys += 1
    page.evaluate(
        """text => {
          const data = new DataTransfer();
          data.setData("text/plain", text);
          const more = { clipboardData: data, bubbles: true, cancelable: true };
          document.activeElement.dispatchEvent(new ClipboardEvent("paste", more));
        }""",
        PASTED,
    )
    sheet = page.get_by_role("dialog", name="Runs from a spreadsheet")
    expect(sheet.get_by_label("Nothing feeds Panel yet")).to_be_focused()
    hands.type("2")
    hands.press("Enter")
    expect(sheet).to_have_count(0)
    expect(cell(page, "load", "Stern lamp")).to_have_value("Stern lamp")
    planned(hands)
    assert hands.keys + hands.clicks <= 15, (hands.keys, hands.clicks)


def test_one_run_beyond_its_limit_does_not_keep_the_others_without_sizes(page: Page) -> None:
    hands = begun(page)
    for name, amps, metres in (("Cold box", "5", "4"), ("Far lamp", "20", "90")):
        for text, then in ((name, "Tab"), (amps, "Tab"), (metres, "Enter")):
            hands.type(text)
            hands.press(then)
    expect(cell(page, "load", "Far lamp")).to_have_value("Far lamp")
    hands.click(page.get_by_role("link", name="Size the craft"))
    status = page.get_by_role("status", name="Sizing")
    expect(status).to_contain_text("No sizes meet every limit. Far lamp")
    hands.click(page.get_by_role("button", name="Size it all the same"))
    expect(status).to_contain_text("Over its limit with the thickest wire in stock: Far lamp")
    expect(page.get_by_role("row", name="With these sizes")).to_contain_text("1 of 2")
    hands.click(page.get_by_role("button", name="Plan these sizes"))
    expect(page.get_by_role("link", name=re.compile("To the wire list"))).to_be_visible()


def test_cells_are_changed_filled_and_taken_back(page: Page) -> None:
    hands = begun(page)
    for name, amps, metres in LOADS[:3]:
        for text, then in ((name, "Tab"), (amps, "Tab"), (metres, "Enter")):
            hands.type(text)
            hands.press(then)
    expect(cell(page, "load", "Deck lamp")).to_have_value("Deck lamp")
    expect(cell(page, "cable", "Deck lamp")).to_have_value("twin")
    # A size is typed, and filled down with the key; arrows move between cells.
    cell(page, "size", "Cold box").fill("2.5")
    hands.press("ArrowDown")
    expect(cell(page, "size", "Mast lamp")).to_be_focused()
    expect(cell(page, "size", "Cold box")).to_have_value("2.5 mm\u00b2")
    hands.press("Control+d")
    expect(cell(page, "size", "Mast lamp")).to_have_value("2.5 mm\u00b2")
    hands.press("Enter")
    expect(cell(page, "size", "Deck lamp")).to_be_focused()
    # What is wrong stays where it was typed, and says what is accepted.
    hands.type("thick")
    hands.press("ArrowUp")
    expect(page.get_by_role("alert")).to_contain_text("2.5 mm\u00b2 or 10 AWG")
    expect(cell(page, "size", "Deck lamp")).to_have_value("thick")
    cell(page, "size", "Deck lamp").press("Escape")
    expect(cell(page, "size", "Deck lamp")).to_have_value("")
    # Several rows at once, and back at once.
    for name in ("Cold box", "Deck lamp"):
        page.get_by_role("checkbox", name=f"Tick {name}").check()
    several = page.get_by_role("form", name="Ticked runs")
    several.get_by_label("To").fill("4")
    several.get_by_role("button", name="Set").click()
    for name in ("Cold box", "Deck lamp"):
        expect(cell(page, "size", name)).to_have_value("4 mm\u00b2")
    notices(page).get_by_role("listitem").filter(has_text="2 runs changed").get_by_role(
        "button", name="Undo"
    ).click()
    expect(cell(page, "size", "Deck lamp")).to_have_value("")
    expect(cell(page, "size", "Cold box")).to_have_value("2.5 mm\u00b2")
    # A limit of their own, refused in words, kept, and taken back.
    page.get_by_role("checkbox", name="Tick Deck lamp").check()
    several.get_by_role("combobox").select_option("limit")
    several.get_by_label("To").fill("3")
    several.get_by_role("button", name="Set").click()
    expect(notices(page)).to_contain_text("0.4 V or 5 %")
    several.get_by_label("To").fill("5 %")
    several.get_by_role("button", name="Set").click()
    expect(page.get_by_text("may lose 0.600 V")).to_have_count(1)
    notices(page).get_by_role("listitem").filter(has_text="held to").get_by_role(
        "button", name="Undo"
    ).click()
    expect(page.get_by_text("may lose")).to_have_count(0)


def test_a_pasted_table_with_something_wrong_is_shown_before_it_is_kept(page: Page) -> None:
    begun(page)
    page.get_by_role("button", name="Paste a table or open a CSV").click()
    sheet = page.get_by_role("dialog", name="Runs from a spreadsheet")
    sheet.get_by_label("The table").fill("Load;A;Length;Colour\nFan;2;3;red\nLamp;lots;4;blue")
    expect(sheet.get_by_role("table")).to_contain_text("lots")
    expect(sheet.get_by_text("draws (A): ")).to_contain_text("Allowed: amperes as 2.5")
    expect(sheet.get_by_text("Not used: Colour.")).to_be_visible()
    expect(sheet.get_by_text("1 with something wrong is left out")).to_be_visible()
    sheet.get_by_role("button", name="Close").click()
    expect(cell(page, "load", "Fan")).to_have_count(0)


def test_what_is_on_where_is_ticked_with_the_keys(page: Page) -> None:
    job = "/jobs/demo-4-barge-orrin"
    page.goto(f"{job}/craft")
    before = page.request.get(f"/api/v1{job}/craft").json()
    page.get_by_role("button", name="What is on where").click()
    sheet = page.get_by_role("dialog", name="What is on where")
    first, second = before["loads"][:2]
    scenario = before["scenarios"][0]
    box = sheet.get_by_role("checkbox", name=f"{first['name']} on in {scenario['name']}")
    box.focus()
    was = box.is_checked()
    page.keyboard.press("Space")
    page.keyboard.press("ArrowDown")
    beneath = sheet.get_by_role("checkbox", name=f"{second['name']} on in {scenario['name']}")
    expect(beneath).to_be_focused()
    page.keyboard.press("Enter")
    expect(sheet).to_have_count(0)
    expect(notices(page)).to_contain_text("1 scenario changed.")
    now = page.request.get(f"/api/v1{job}/craft").json()["scenarios"][0]
    assert (first["id"] in now["on"]) == (not was)
    assert {**now, "on": 0} == {**scenario, "on": 0}, "nothing else of it"
    notices(page).get_by_role("button", name="Undo").click()
    expect(page.get_by_role("button", name="Redo")).to_be_enabled()
    assert page.request.get(f"/api/v1{job}/craft").json()["scenarios"] == before["scenarios"]


def test_a_craft_is_saved_and_a_job_begins_from_it(page: Page) -> None:
    page.goto("/jobs/demo-6-ketch-whimbrel/craft")
    page.get_by_role("button", name="Save as a template").click()
    sheet = page.get_by_role("dialog", name="Save as a template")
    sheet.get_by_label("Name").fill("Ketch, 11 m")
    page.keyboard.press("Enter")
    expect(notices(page)).to_contain_text("A new job can begin from Ketch, 11 m.")
    page.goto("/")
    page.get_by_role("button", name="New job", exact=True).click()
    begin = page.get_by_role("dialog", name="New job")
    begin.get_by_label("Job", exact=True).fill("Ketch Dotterel")
    begin.get_by_label("Begin from").select_option("Ketch, 11 m")
    expect(begin.get_by_label("Battery")).to_have_count(0)
    begin.get_by_role("button", name="Create job").click()
    expect(page.get_by_role("heading", level=1)).to_have_text("Ketch Dotterel")
    expect(page.get_by_role("link", name="Anchor winch", exact=True)).to_be_visible()
