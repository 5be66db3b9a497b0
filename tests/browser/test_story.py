"""The main job, done as a person does it: with the mouse, by keyboard alone, and in the hand."""

import json
import re
from pathlib import Path

import pytest
from playwright.sync_api import APIResponse, Locator, Page, Route, expect

from tests.browser.conftest import BENCH, HAND, button_heights, from_bar, notices
from tests.conftest import loop, piece

AXE = Path(__file__).parent.parent.parent / "frontend" / "node_modules" / "axe-core" / "axe.min.js"
COLOURS = ["color-contrast", "link-in-text-block"]
MARRAM = "/jobs/demo-1-sloop-marram"
ORRIN = "/jobs/demo-4-barge-orrin"
both = pytest.mark.parametrize("page", [BENCH, HAND], indirect=True, ids=["bench", "hand"])
hand = pytest.mark.parametrize("page", [HAND], indirect=True, ids=["hand"])


def verdict(page: Page) -> Locator:
    return page.get_by_test_id("verdict")


def read(page: Page, name: str, typed: str) -> None:
    cell = page.get_by_label(f"{name}, volts")
    cell.fill(typed)
    with page.expect_response(re.compile("/readings$")):
        cell.press("Enter")


def clamp(page: Page, stage: str, typed: str) -> None:
    cell = page.get_by_label(f"{stage}, current, amperes")
    cell.fill(typed)
    with page.expect_response(re.compile("/readings$")):
        cell.press("Enter")


def test_find_the_guilty_piece_change_it_and_see_it_pass(page: Page) -> None:
    page.goto("/")
    page.get_by_role("link", name="Sloop Marram: galley tap", exact=True).click()
    expect(verdict(page)).to_contain_text("over")
    expect(page.get_by_test_id("says")).to_contain_text(
        "The return is over its limit by 0.29 V or more. It is Ring at bus (0.43 V"
    )
    expect(page.get_by_role("table").first).to_contain_text("measured 79")
    page.get_by_role("button", name="Plan the repair of Ring at bus").click()
    page.get_by_role("button", name="remade").click()
    expect(page.get_by_role("radio", name="Planned")).to_be_checked()
    expect(page.get_by_text("Ring at bus: remade")).to_be_visible()
    page.get_by_role("button", name="Repair done").click()
    expect(page.get_by_role("radio", name="As left")).to_be_checked()
    read(page, "as left, whole feed", "0.24")
    read(page, "as left, across Tap pump", "12.26")
    read(page, "as left, whole return", "150m")
    expect(verdict(page)).to_contain_text("not measured")
    expect(page.get_by_test_id("says")).to_contain_text("no reading shows that current flowed")
    clamp(page, "as left", "5.4")
    expect(verdict(page)).to_contain_text("too close")
    read(page, "as left, Isolator", "1.4m")
    read(page, "as left, Post clamp", "1.1m")
    expect(verdict(page)).to_contain_text("within")
    expect(page.get_by_test_id("says")).to_contain_text("Feed and return are within")
    expect(page.get_by_role("contentinfo")).to_contain_text("worked out from the other readings")
    page.reload()
    expect(verdict(page)).to_contain_text("within")
    expect(page.get_by_label("as left, whole return, volts")).to_have_value("150m")
    page.go_back()


def test_the_same_by_keyboard_alone(page: Page) -> None:
    page.goto("/")
    page.get_by_role("link", name="Sloop Marram: galley tap", exact=True).focus()
    page.keyboard.press("Enter")
    expect(verdict(page)).to_contain_text("over")
    page.get_by_role("button", name="Plan the repair of Ring at bus").focus()
    page.keyboard.press("Enter")
    page.get_by_role("button", name="replaced").focus()
    page.keyboard.press("Space")
    expect(page.get_by_text("Ring at bus: replaced")).to_be_visible()
    page.keyboard.press("Control+z")
    expect(notices(page)).to_contain_text("Undone: Ring at bus: replaced")
    expect(page).to_have_url(re.compile("stage=as_found"))
    page.keyboard.press("Control+Shift+z")
    expect(page).to_have_url(re.compile("stage=planned"))
    expect(page.get_by_text("Ring at bus: replaced", exact=True)).to_be_visible()
    # Nobody waits for the first answer: the second step counts all the same, after the first.
    page.keyboard.press("Control+z")
    page.keyboard.press("Control+Shift+z")
    expect(notices(page).get_by_text("Redone: Ring at bus: replaced").last).to_be_visible()
    expect(page).to_have_url(re.compile("stage=planned"))
    expect(page.get_by_text("Ring at bus: replaced", exact=True)).to_be_visible()
    page.get_by_label("as found, whole feed, volts").focus()
    page.keyboard.press("ArrowDown")
    expect(page.get_by_label("as left, whole feed, volts")).to_be_focused()
    page.keyboard.type(",24")
    page.keyboard.press("ArrowRight")
    page.keyboard.type("12.26")
    page.keyboard.press("Enter")
    expect(page.get_by_label("as left, whole return, volts")).to_be_focused()
    page.keyboard.type(".15")
    page.keyboard.press("Enter")
    expect(verdict(page)).to_contain_text("not measured")
    page.get_by_label("as left, current, amperes").focus()
    page.keyboard.type("5.4")
    page.keyboard.press("Enter")
    page.get_by_label("as left, Isolator, volts").focus()
    page.keyboard.type("1.4m")
    page.keyboard.press("Enter")
    page.get_by_label("as left, Post clamp, volts").focus()
    page.keyboard.type("1.1m")
    page.keyboard.press("Enter")
    expect(verdict(page)).to_contain_text("within")
    page.get_by_role("heading", name="Tap pump").first.click()
    page.keyboard.press("Alt+F")
    expect(verdict(page)).to_contain_text("over")
    page.keyboard.press("Alt+ArrowDown")
    expect(page.get_by_role("heading", level=1)).to_have_text("Cold box")
    page.keyboard.press("?")
    expect(page.get_by_role("button", name="Close", exact=True)).to_be_focused()
    for _ in range(2):
        page.keyboard.press("Tab")
    page.keyboard.press("Enter")
    expect(page.get_by_role("dialog")).to_contain_text("paste a row or block")
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)


@hand
def test_the_same_in_the_hand(page: Page) -> None:
    page.goto(MARRAM)
    expect(verdict(page)).to_contain_text("over")
    page.get_by_role("button", name="Plan the repair of Ring at bus").click()
    page.get_by_role("dialog").get_by_role("button", name="remade").click()
    page.get_by_role("dialog").get_by_role("button", name="Close").click()
    page.get_by_role("button", name="Repair done").click()
    for name, typed in (("source, post to post", "12.65"), ("whole feed", "0.24"),
                        ("across Tap pump", "12.25"), ("whole return", "0.150"),
                        ("Isolator", "1.4m"), ("Post clamp", "1.1m")):  # fmt: skip
        read(page, f"as left, {name}", typed)
    clamp(page, "as left", "5.4")
    expect(verdict(page)).to_contain_text("within")
    expect(page.get_by_role("contentinfo")).to_contain_text("adds up within meter accuracy")
    assert min(button_heights(page)) >= 30
    wide = page.evaluate("document.documentElement.scrollWidth")
    assert wide <= HAND[0], "nothing may stick out sideways"


def test_nothing_moves_when_the_fault_likelihoods_come(page: Page) -> None:
    held: list[Route] = []
    page.route(re.compile(r"/walk\?"), lambda route: held.append(route))  # noqa: PLW0108
    with page.expect_request(re.compile(r"/walk\?")):
        page.goto("/jobs/demo-1-sloop-marram")
    plan = page.get_by_role("button", name="Plan the repair of Ring at bus")
    row = page.get_by_role("row", name=re.compile("fault likelihood"))
    expect(row).to_be_visible()
    page.evaluate("document.fonts.ready.then(() => true)")
    before = plan.bounding_box()
    held[0].continue_()
    expect(row).to_contain_text("100")
    assert plan.bounding_box() == before


def test_a_late_answer_to_undo_leads_to_its_stage_whatever_is_shown_meanwhile(page: Page) -> None:
    page.goto("/jobs/demo-1-sloop-marram")
    page.get_by_role("button", name="Plan the repair of Ring at bus").click()
    page.get_by_role("button", name="replaced").click()
    expect(page).to_have_url(re.compile("stage=planned"))
    expect(page.get_by_text("Ring at bus: replaced", exact=True)).to_be_visible()
    held: list[tuple[Route, APIResponse]] = []
    page.route(re.compile("/steps$"), lambda route: held.append((route, route.fetch())))
    # Undone already, but not answered: the page sees that the job has changed, and shows what is left.
    with page.expect_response(re.compile(r"/sheet\?.*stage=planned")):
        page.keyboard.press("Control+z")
    expect(page.get_by_role("radio", name="Planned")).to_have_count(0)
    route, answer = held[0]
    route.fulfill(response=answer)
    expect(page).to_have_url(re.compile("stage=as_found"))


def test_a_late_refusal_leaves_what_was_typed_meanwhile_alone(page: Page) -> None:
    page.goto("/jobs/demo-2-tourer-linnet")
    page.get_by_role("button", name="Fan feed").click()
    length = page.get_by_label("length")
    held: list[Route] = []

    def hold(route: Route) -> None:
        """What is to be kept waits; what is only tried goes on."""
        if route.request.post_data_json["keep"]:
            held.append(route)
        else:
            route.continue_()

    page.route(re.compile("/changes$"), hold)
    length.fill("-2")
    with page.expect_request(lambda r: r.url.endswith("/changes") and r.post_data_json["keep"]):
        length.press("Enter")
    length.fill("12 ft")
    expect(page.get_by_role("status", name="What if")).to_contain_text("Preview, not saved")
    # Refused, the sheet is asked for afresh before it is told.
    with page.expect_response(re.compile(r"/sheet\?")):
        held[0].continue_()
    page.evaluate("new Promise(then => requestAnimationFrame(() => requestAnimationFrame(then)))")
    expect(page.get_by_role("status", name="What if")).to_contain_text("Preview, not saved")
    expect(page.get_by_role("alert")).to_have_count(0)
    length.press("Escape")
    expect(length).to_have_value("3.9 m")


def test_an_edit_is_tried_while_typing_and_kept_on_enter(page: Page) -> None:
    page.goto("/jobs/demo-2-tourer-linnet")
    page.get_by_role("button", name="Fan feed").click()
    length = page.get_by_label("length")
    length.fill("9")
    expect(page.get_by_role("status", name="What if")).to_contain_text("Preview, not saved")
    length.press("Escape")
    expect(page.get_by_role("status", name="What if")).to_have_count(0)
    expect(length).to_have_value("3.9 m")
    length.fill("-2")
    length.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("too small. Allowed: above 0")
    expect(length).to_have_value("-2")
    page.get_by_label("The drawing was wrong: correct the as-found wiring").check()
    length.fill("12 ft")
    # Its what-if is answered before Enter: the correction must not become the repair it shows.
    expect(page.get_by_role("status", name="What if")).to_contain_text("Preview, not saved")
    length.press("Enter")
    expect(page.get_by_label("length")).to_have_value(re.compile(r"3\.65\d* m"))
    page.get_by_role("button", name="One size up").click()
    expect(page.get_by_label("Size", exact=True)).to_have_value("14 AWG")
    expect(page.get_by_role("radio", name="As found")).to_be_checked()


def test_a_number_pressed_while_typing_says_how_it_came_about_once_it_is_kept(page: Page) -> None:
    """What a longer wire in the trunk leaves to another one is worked out as it is pressed."""
    page.goto(ORRIN)
    page.locator("[data-head][data-piece=w4]").click()
    page.get_by_label("length").fill("20 m")
    allowances = page.get_by_role("row", name=re.compile("^allowance"))
    allowances.get_by_text("0.135", exact=True).click()
    expect(page.get_by_role("dialog", name=re.compile("allowance"))).to_contain_text("0.135 V")
    expect(page.get_by_role("status", name="What if")).to_have_count(0)


def test_what_is_typed_wrong_or_without_a_server_is_not_lost(page: Page) -> None:
    page.goto(MARRAM)
    cell = page.get_by_label("as found, Switch, volts")
    cell.fill("abc")
    cell.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("is not understood")
    expect(cell).to_have_value("abc")
    page.route("**/readings", lambda route: route.abort())
    cell.fill("0.061")
    cell.press("Enter")
    waiting = page.get_by_label("Waiting on this device")
    expect(waiting).to_contain_text("0.061 at Switch")
    page.reload()
    expect(cell).to_have_value("0.061")
    expect(cell).to_have_accessible_description("Waits on this device.")
    cell.fill("0.062")  # typed over while it still waits
    expect(page.get_by_role("button", name="read again")).to_be_visible()
    cell.press("Shift+Enter")
    expect(waiting).to_contain_text("2 entries wait")
    page.unroute("**/readings")
    expect(waiting).to_have_count(0)
    expect(cell).to_have_value("0.062")
    page.reload()
    expect(cell).to_have_value("0.062")
    kept = page.request.get(f"/api/v1{MARRAM}/file").json()["readings"]
    first, second = (next(r for r in kept if r["typed"] == t) for t in ("0.061", "0.062"))
    assert second["supersedes"] == first["id"]


def test_read_again_stands_beside_and_typed_wrong_goes_out(page: Page) -> None:
    page.goto(MARRAM)
    cell = page.get_by_label("as found, Ring at bus, volts")
    first = cell.input_value()
    cell.fill("0.031")
    cell.press("Enter")
    expect(page.get_by_text("Both count.").last).to_be_visible()
    wrong = page.get_by_role("group", name="Readings that may have been typed wrong")
    page.evaluate(AXE.read_text("utf-8"))
    assert page.evaluate("() => axe.run(document).then(r => r.violations)") == []
    wrong.get_by_role("button", name="0.031 V at Ring at bus").click()
    expect(wrong).to_have_count(0)
    expect(cell).to_have_value(first)
    cell.fill("0.39")
    page.get_by_role("button", name="I typed it wrong").click()
    expect(cell).to_have_value("0.39")
    expect(wrong).to_have_count(0)


@hand
def test_what_waited_and_is_refused_says_so_where_it_stands(page: Page) -> None:
    page.goto(MARRAM)
    page.route("**/readings", lambda route: route.abort())
    cell, waiting = (
        page.get_by_label("as found, Switch, volts"),
        page.get_by_label("Waiting on this"),
    )
    cell.fill("lots")
    cell.press("Enter")
    expect(waiting).to_contain_text("1 entry waits")
    expect(cell).to_have_attribute("aria-invalid", "false")
    page.unroute("**/readings")
    expect(waiting).to_contain_text("1 entry was not taken")
    expect(cell).to_have_attribute("aria-invalid", "true")
    expect(cell).to_have_value("lots")
    cell.fill("0.067")
    cell.press("Enter")
    expect(waiting).to_have_count(0)
    expect(cell).to_have_value("0.067")
    expect(cell).to_have_attribute("aria-invalid", "false")


def test_states_and_a_pasted_block(page: Page) -> None:
    page.goto("/jobs/demo-2-tourer-linnet")
    read(page, "as found, Chassis", "OL")
    expect(page.get_by_text("Over range. Take a higher range")).to_be_visible()
    read(page, "as found, Fan feed", "-0.1502")
    expect(page.get_by_text("sign reversed")).to_be_visible()
    page.get_by_label("as found, Fuse, volts").focus()
    page.evaluate(
        """() => {
            const data = new DataTransfer();
            data.setData("text", "0.052\\t0.151\\t0.43\\n");
            const event = new ClipboardEvent("paste", {clipboardData: data, bubbles: true});
            document.activeElement.dispatchEvent(event);
        }"""
    )
    expect(page.get_by_test_id("says")).to_contain_text("It is Wardrobe plug")
    expect(page.get_by_label("as found, Wardrobe plug, volts")).to_have_value("0.43")


def test_scenarios_toggles_and_the_address(page: Page) -> None:
    page.goto(MARRAM)
    page.get_by_role("radio", name="Weighing anchor").click()
    expect(page).to_have_url(re.compile("scenario=weighing"))
    # The runs stand least spare first: they change places when the scenario's sheet arrives.
    expect(page.get_by_role("radio", name="Weighing anchor")).to_be_checked()
    expect(page.get_by_text("Readings taken with: Evening at anchor")).to_be_visible()
    page.get_by_role("button", name=re.compile("^Anchor capstan")).click()
    expect(page.get_by_role("heading", level=1)).to_have_text("Anchor capstan")
    expect(page.get_by_text("High current.")).to_be_visible()
    page.get_by_role("switch", name="Tap pump").click()
    expect(page.get_by_role("switch", name="Tap pump")).to_have_attribute("aria-checked", "false")
    page.reload()
    expect(page.get_by_role("switch", name="Tap pump")).to_have_attribute("aria-checked", "false")
    page.get_by_role("button", name="Reset to scenario").click()
    expect(page.get_by_role("switch", name="Tap pump")).to_have_attribute("aria-checked", "true")


def test_bring_in_a_job_file_look_first_then_all_or_nothing(page: Page, tmp_path: Path) -> None:
    bad = loop(title="Bad loop")
    bad["elements"][1]["length_m"] = -3
    bad["elements"].append(piece("stub", "f1", "nowhere"))
    (tmp_path / "bad.json").write_text(json.dumps(bad))
    (tmp_path / "good.json").write_text(json.dumps(loop(title="Locker fan")))
    page.goto("/")
    page.get_by_role("button", name="Import a job file").click()
    page.get_by_label("Job file", exact=True).set_input_files(tmp_path / "bad.json")
    expect(page.get_by_role("alert")).to_contain_text("elements[1].length_m")
    expect(page.get_by_role("button", name="Import it")).to_be_disabled()
    page.get_by_label("Job file", exact=True).set_input_files(tmp_path / "good.json")
    expect(page.get_by_label("What the file holds")).to_contain_text("Load l")
    page.get_by_role("button", name="Import it").click()
    expect(page.get_by_role("heading", level=1)).to_have_text("Load l")
    with page.expect_download() as download:
        page.get_by_label("Download job file").click()
    assert json.loads(download.value.path().read_text())["title"] == "Locker fan"
    page.get_by_role("link", name="Jobs").click()
    page.get_by_role("button", name="Archive Locker fan").click()
    expect(page.get_by_role("link", name="Locker fan", exact=True)).to_have_count(0)
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("link", name="Locker fan", exact=True)).to_be_visible()


def test_the_rail_stays_in_sight_beside_a_long_sheet(page: Page) -> None:
    page.goto(MARRAM)
    page.get_by_text("Limits and ampacities").scroll_into_view_if_needed()
    expect(page.get_by_label("Download job file")).to_be_in_viewport()
    expect(page.get_by_role("link", name="Jobs")).to_be_in_viewport()


def test_addresses_that_lead_nowhere(page: Page) -> None:
    page.goto("/jobs/none")
    expect(page.get_by_role("heading", name="No such job")).to_be_visible()
    page.goto(f"{MARRAM}?run=ghost")
    expect(page.get_by_role("heading", level=1)).to_have_text("Tap pump")
    page.goto("/somewhere/else")
    expect(page.get_by_role("heading", name="There is nothing here")).to_be_visible()


@both
def test_axe_finds_nothing(page: Page) -> None:
    """Every rule on every page; what another theme can change is its colours.

    In the hand only the sheet and the walk put other things in colour than at the bench.
    """
    bench = page.viewport_size == {"width": BENCH[0], "height": BENCH[1]}
    for path, act in (
        ("/", None), (MARRAM, None), ("/jobs/demo-2-tourer-linnet", None),
        ("/jobs/demo-3-show-truck-dunlin", "Rear lug"), ("/", "Import a job file"), ("/", "New job"),
        (f"{ORRIN}/craft", None), (f"{ORRIN}/craft", "Change Rested"),
        ("/jobs/demo-2-tourer-linnet/walk", None), (f"{MARRAM}/source", None),
        ("/tables?table=limit_sets", None), ("/settings", None), (f"{MARRAM}/lists", None),
        *((f"{MARRAM}/craft?as=table", act) for act in (None, "Paste a table") if bench),
    ):  # fmt: skip
        page.goto(path)
        expect(page.locator("main:not([aria-busy=true])")).to_be_visible()
        if act:
            behind = not bench and path == "/"
            button = (
                from_bar(page, act, "button") if behind else page.get_by_role("button", name=act)
            )
            button.first.click()
        page.evaluate(AXE.read_text("utf-8"))
        # Every rule last: by then whatever the page asks for besides is there.
        themes = ("dark", "sun") if bench or path == MARRAM or path.endswith("walk") else ()
        for theme, rules in (*((each, COLOURS) for each in themes), ("light", None)):
            page.evaluate("t => { document.documentElement.dataset.theme = t }", theme)
            options = {"resultTypes": ["violations"], **({"runOnly": rules} if rules else {})}
            found = page.evaluate("o => axe.run(document, o).then(r => r.violations)", options)
            told = [
                f"{v['id']}: {n['html'][:160]} {n['failureSummary'][:200]}"
                for v in found
                for n in v["nodes"]
            ]
            assert told == [], f"{path} {theme}"


def test_a_key_leads_to_what_to_do_and_one_to_the_chosen_piece(page: Page) -> None:
    page.goto("/jobs/demo-1-sloop-marram")
    plan = page.get_by_role("button", name="Plan the repair of Ring at bus")
    expect(plan).to_be_visible()
    page.keyboard.press("Alt+R")
    expect(plan).to_be_focused()
    page.keyboard.press("Enter")
    ring = page.get_by_role("region", name="Ring at bus: figures")
    expect(ring.locator(":focus")).to_have_count(1)
    page.get_by_role("button", name="Pump feed").press("Enter")
    expect(page.get_by_role("region", name="Pump feed: figures")).to_be_visible()
    page.keyboard.press("Alt+I")
    expect(page.get_by_role("region", name="Pump feed: figures").locator(":focus")).to_have_count(1)
