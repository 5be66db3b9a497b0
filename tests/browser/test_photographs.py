"""Photographs in the real interface: of a piece, of a step, out of reach, on the hand-over sheet."""

import re

import pytest
from playwright.sync_api import FilePayload, Page, expect

from tests.browser.conftest import HAND, notices
from tests.browser.test_offline import phone  # noqa: F401
from tests.browser.test_phones import findings
from tests.browser.test_walk import RADIO, acknowledge
from tests.exchange.test_pictures import halves, saved

JOB = "demo-1-sloop-marram"
SMALL = re.compile(r"/photographs/\w+/small$")


def photograph(name: str = "ring.jpg", width: int = 800) -> FilePayload:
    return {"name": name, "mimeType": "image/jpeg", "buffer": saved(halves(width, 600))}


def kept(page: Page, site: str, job: str = JOB) -> list[dict[str, object]]:
    answer = page.request.get(f"{site}/api/v1/jobs/{job}/photographs").json()
    return [each["photograph"] | {"shows": each["shows"]} for each in answer["photographs"]]


def test_a_piece_before_and_after_to_the_hand_over_sheet(page: Page, site: str) -> None:
    page.goto(f"/jobs/{JOB}")
    page.get_by_role("button", name="Ring at bus").first.click()
    own = page.get_by_role("region", name="Photographs of Ring at bus")
    with page.expect_response(SMALL):
        own.get_by_label("Add photographs of Ring at bus, before").set_input_files(
            [photograph(), photograph("second.jpg", 700)]
        )
    own.get_by_label("Add photographs of Ring at bus, after").set_input_files(photograph())
    expect(own.get_by_role("button", name="Show large")).to_have_count(3)
    own.get_by_role("button", name="Show large: Ring at bus, before").first.click()
    large = page.get_by_role("dialog")
    large.get_by_label("What it shows").fill("green, loose by half a turn")
    large.get_by_role("button", name="Save").click()
    expect(large.get_by_role("button", name="Save")).to_be_disabled()
    large.get_by_role("button", name="Next").click()
    expect(large.get_by_label("What it shows")).to_have_value("")
    assert findings(page) == []
    # What is typed and not saved is there again.
    large.get_by_label("What it shows").fill("from abo")
    large.get_by_role("button", name="Previous").click()
    expect(large.get_by_label("What it shows")).to_have_value("green, loose by half a turn")
    large.get_by_role("button", name="Next").click()
    expect(large.get_by_label("What it shows")).to_have_value("from abo")
    page.keyboard.press("Escape")
    expect(large).to_be_hidden()
    expect(own.get_by_role("button", name="green, loose by half a turn")).to_be_focused()

    page.goto(f"/jobs/{JOB}/proof")
    tick = page.get_by_label("green, loose by half a turn: on the sheet")
    with page.expect_response(re.compile(r"/photographs/\w+$")):
        tick.check()
    expect(tick).to_be_checked()
    assert [p["on_sheet"] for p in kept(page, site)] == [True, False, False]
    assert b"DCTDecode" in page.request.get(f"{site}/api/v1/jobs/{JOB}/hand-over.pdf").body()
    assert findings(page) == []


def test_deleting_can_be_undone_and_what_is_no_picture_says_so(page: Page, site: str) -> None:
    page.goto(f"/jobs/{JOB}/photographs")
    box = page.get_by_label("Add photographs of The job, before")
    box.set_input_files({"name": "note.jpg", "mimeType": "image/jpeg", "buffer": b"not a picture"})
    expect(notices(page)).to_contain_text("note.jpg: Cannot be read")
    expect(notices(page)).to_contain_text("a picture as JPEG, PNG or WebP")
    box.set_input_files(photograph())
    page.get_by_role("button", name="Show large").click()
    page.get_by_role("dialog").get_by_role("button", name="Delete").click()
    expect(page.get_by_role("button", name="Show large")).to_have_count(0)
    notices(page).get_by_role("button", name="Undo").click()
    expect(page.get_by_role("button", name="Show large")).to_have_count(1)
    assert len(kept(page, site)) == 1


@pytest.mark.parametrize("page", [HAND], ids=["hand"], indirect=True)
def test_a_step_of_the_order_has_its_own(page: Page, site: str) -> None:
    page.goto("/jobs/demo-3-show-truck-dunlin/order")
    page.get_by_role("button", name="Photographs of Look at Lift return").click()
    box = page.get_by_label("Add photographs of Look at Lift return., before")
    with page.expect_response(SMALL):
        box.set_input_files(photograph())
    expect(page.get_by_role("button", name="Show large")).to_be_visible()
    [made] = kept(page, site, "demo-3-show-truck-dunlin")
    assert (made["subject"], made["shows"]) == ("step", "Lift return")
    wide = page.evaluate("document.documentElement.scrollWidth")
    assert wide <= HAND[0], "nothing may stick out sideways"
    assert findings(page) == []


def test_out_of_reach_it_waits_on_the_phone_over_a_reload(phone: Page, site: str) -> None:  # noqa: F811
    phone.goto(RADIO)
    acknowledge(phone)
    phone.goto("/jobs/demo-4-barge-orrin/photographs")
    expect(phone.get_by_role("heading", name="The job")).to_be_visible()
    phone.wait_for_load_state("networkidle")
    phone.goto(RADIO)
    box = phone.get_by_label(re.compile("^Add photographs of"))
    expect(box).to_be_attached()
    phone.wait_for_load_state("networkidle")
    phone.context.set_offline(True)
    box.set_input_files([photograph(), photograph("more.jpg")])
    expect(phone.get_by_text("2 entries wait on this device")).to_be_visible()
    phone.reload()
    expect(phone.get_by_text("2 entries wait on this device")).to_be_visible()
    phone.goto("/jobs/demo-4-barge-orrin/photographs")
    expect(phone.get_by_text("waits on this device").first).to_be_visible()
    # Shown from what the device holds.
    picture = phone.get_by_role("button", name="Show large").first.locator("img")
    expect(picture).to_have_js_property("naturalWidth", 800)
    phone.context.set_offline(False)
    phone.reload()
    expect(phone.get_by_role("button", name="Show large")).to_have_count(2)
    expect(phone.get_by_text("waits on this device")).to_have_count(0)
    assert len(kept(phone, site, "demo-4-barge-orrin")) == 2


def test_photographs_of_no_job_are_said_to_be_none(page: Page) -> None:
    page.goto("/jobs/nonsense/photographs")
    expect(page.get_by_role("alert")).to_contain_text("There is no such job")
    expect(page.get_by_role("main")).not_to_contain_text("not responding")
    expect(page.get_by_role("main")).not_to_contain_text("up to")
