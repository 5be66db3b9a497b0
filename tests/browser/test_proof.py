"""From the plan through the proof's walk to a signed proof and its sheet on paper."""

import json
import re
from pathlib import Path

import pypdfium2 as pdfium
from playwright.sync_api import Page, Route, expect

from tests.browser.conftest import notices
from tests.browser.test_upgrade import MARRAM, both, clean
from tests.browser.test_walk import acknowledge
from tests.web.test_logs import tap_log

TAP = f"/api/v1{MARRAM}"


def read_all(page: Page, site: str) -> None:
    """Type what each card expects until none is left."""
    for _ in range(20):
        card = page.request.get(f"{site}{TAP}/walk?run=tap&stage=as_left").json()["now"]
        if card is None:
            return
        rows = page.request.get(f"{site}{TAP}/proof?run=tap").json()["readings"]
        expected = {r["id"]: r["expected"]["si"] for r in rows}
        # What the answer asks for besides, as of shared wiring: what a sound piece shows.
        figure = expected.get(card["id"], 0.001)
        box = page.get_by_role("region", name=card["title"], exact=True).get_by_label(
            re.compile(r", (volts|amperes)$")
        )
        box.fill(f"{figure:.3f}")
        with page.expect_response(re.compile("/readings$")):
            box.press("Enter")
        expect(page.get_by_role("region", name="So far", exact=True)).to_contain_text(card["title"])
    raise AssertionError("the walk does not end")


@both
def test_from_the_plan_to_a_signed_proof_on_paper(page: Page, site: str) -> None:
    page.goto(f"{MARRAM}/upgrade")
    page.get_by_role("button", name=re.compile("^Plan this: Clean Ring at bus,")).click()
    page.get_by_role("link", name="Work order").click()
    page.get_by_role("link", name="Measure after the repair").click()
    acknowledge(page)
    read_all(page, site)
    page.get_by_role("button", name="To the proof").click()
    outcome = page.get_by_test_id("outcome")
    expect(outcome).to_contain_text("Not proved yet")
    clean(page)
    needs = page.get_by_role("region", name="Requirements")
    expect(needs.get_by_role("listitem").filter(has_text="Voltage-drop limits")).to_contain_text(
        "to spare"
    )
    for name in ("none is hot", "after the work"):
        with page.expect_response(re.compile("/walk/notes$")):
            needs.get_by_role("button", name=re.compile(name)).click()
    expect(outcome).to_contain_text("Proved")
    expect(outcome).not_to_contain_text("Not")
    ring = page.get_by_role("row").filter(has_text="Across Ring at bus")
    expect(ring).to_contain_text("over")
    expect(ring).to_contain_text("within")
    left = page.get_by_label("work left, and why")
    left.fill("The pump's own plug; the owner wants a new one first.")
    left.press("Tab")
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_role("button", name="Save")).to_have_count(0)
    signs(page)
    clean(page)
    page.reload()
    expect(page.get_by_role("img", name="Signature of Ingrid Solberg")).to_be_visible()
    expect(left).to_have_value(re.compile("owner wants a new one"))
    with page.expect_download() as saved:
        page.get_by_role("link", name="Hand-over sheet").click()
    document = pdfium.PdfDocument(saved.value.path().read_bytes())
    text = " ".join(" ".join(p.get_textpage().get_text_bounded() for p in document).split())
    assert "Tap pump: Proved" in text
    assert "Ingrid Solberg" in text
    assert "owner wants a new one" in text
    width = page.viewport_size["width"] if page.viewport_size else 0
    assert page.evaluate("document.documentElement.scrollWidth") <= width


def signs(page: Page) -> None:
    """The customer signs with a finger."""
    page.get_by_role("button", name="Sign as customer").click()
    expect(page.get_by_label("Name", exact=True)).to_have_value("Ingrid Solberg")
    pad = page.get_by_label(re.compile("^Sign here"))
    pad.scroll_into_view_if_needed()
    box = pad.bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + 20, box["y"] + 40)
    page.mouse.down()
    for step in range(1, 9):
        page.mouse.move(box["x"] + 20 + step * 18, box["y"] + 40 + 12 * (step % 2))
    page.mouse.up()
    page.get_by_role("button", name="Sign", exact=True).click()
    expect(page.get_by_role("img", name="Signature of Ingrid Solberg")).to_be_visible()


def test_a_proof_not_begun_says_what_to_read(page: Page) -> None:
    page.goto(f"{MARRAM}/proof?run=tap")
    expect(page.get_by_test_id("outcome")).to_contain_text("Not proved yet")
    expect(page.get_by_text("No change to the wiring yet.")).to_be_visible()
    expect(page.get_by_text("Nothing to sign yet")).to_be_visible()
    clean(page)
    page.get_by_role("link", name="Start measuring").click()
    expect(page).to_have_url(re.compile("stage=as_left"))
    page.goto(f"{MARRAM}/proof?run=nobody")
    expect(page.get_by_role("alert")).to_contain_text("here is no run nobody")


def test_a_file_of_a_job_that_is_here_is_added_to_it(page: Page, site: str, tmp_path: Path) -> None:
    said = page.request.get(f"{site}{TAP}/file").json()
    same = tmp_path / "same.json"
    same.write_text(json.dumps(said), encoding="utf-8")
    said["readings"].append({**said["readings"][-1], "id": "from-the-other-laptop"})
    newer = tmp_path / "newer.json"
    newer.write_text(json.dumps(said), encoding="utf-8")
    page.goto("/")
    page.get_by_role("button", name="Import a job file").click()
    file = page.get_by_label("Job file", exact=True)
    file.set_input_files(same)
    told = page.get_by_role("dialog").get_by_role("status")
    expect(told).to_contain_text("is already here and the file is identical.")
    expect(page.get_by_role("button", name="Merge into the job here")).to_have_count(0)
    file.set_input_files(newer)
    expect(told).to_contain_text("The file is newer: it adds 1 reading.")
    clean(page)
    page.get_by_role("button", name="Merge into the job here").click()
    expect(page).to_have_url(re.compile(f"{MARRAM}$"))
    ids = [r["id"] for r in page.request.get(f"{site}{TAP}/file").json()["readings"]]
    assert ids[-1] == "from-the-other-laptop"


@both
def test_a_meters_log_becomes_readings(page: Page, site: str, tmp_path: Path) -> None:
    file = tmp_path / "tap.csv"
    file.write_text(tap_log(3000), encoding="utf-8")
    page.goto(f"{MARRAM}/logs")
    page.get_by_label(re.compile("^CSV from a logging meter")).set_input_files(file)
    layout = page.get_by_role("region", name="How tap.csv is laid out")
    expect(layout.get_by_label("decimal mark")).to_have_value(",")
    clean(page)
    # While it is looked at anew nothing goes out of sight, so that no tap misses.
    held: list[Route] = []
    page.route(re.compile("/logs/layout$"), lambda route: held.append(route))  # noqa: PLW0108
    with page.expect_request(re.compile("/logs/layout$")):
        layout.get_by_label("name of column 3").fill("Ring drop")
    expect(layout.get_by_role("cell", name="12,6187")).to_be_visible()
    held[-1].continue_()
    page.unroute_all()
    layout.get_by_role("button", name="Import").click()
    expect(page.get_by_role("heading", name="tap", exact=True)).to_be_visible()
    steady = page.get_by_role("button", name="steady 1")
    expect(steady).to_have_attribute("aria-pressed", "true")
    figures = page.get_by_role("region", name="Figures of the window")
    expect(figures.get_by_role("row").filter(has_text="Ring drop")).to_contain_text("0.400 V")
    clean(page)
    ring = figures.get_by_role("listitem").filter(has_text="Ring drop")
    take = ring.get_by_role("button", name="Take the mean of Ring drop as a reading")
    expect(take).to_be_disabled()
    with page.expect_response(re.compile("/points$")):
        ring.get_by_label("red lead on").select_option("tap-r")
    with page.expect_response(re.compile("/points$")):
        ring.get_by_label("black lead on").select_option("bus")
    take.click()
    expect(notices(page)).to_contain_text("Taken as a reading: 0.4")
    expect(page.get_by_text("Taken from this log")).to_contain_text("Ring drop mean")
    page.get_by_label("from, s").fill("9,8")
    page.get_by_label("to, s").fill("10.5")
    page.get_by_role("button", name="Pick", exact=True).click()
    expect(figures.get_by_role("row").filter(has_text="Ring drop")).to_contain_text("1.199 V")
    kept = page.request.get(f"{site}{TAP}/file").json()["readings"][-1]
    assert kept["window"]["figure"] == "mean"
    width = page.viewport_size["width"] if page.viewport_size else 0
    assert page.evaluate("document.documentElement.scrollWidth") <= width
