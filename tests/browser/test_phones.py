"""Two phones on the workshop's network: paired by scanning and by passphrase, at work, thrown out."""

import re
import subprocess
import sys
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.browser.conftest import BENCH, HAND, PATIENCE_MS
from tests.browser.test_story import AXE

WITHOUT_TLS = "delete Crypto.prototype.randomUUID"
"""What a phone's browser has not on a page that came without TLS; one on the loopback would have it."""


def findings(page: Page) -> list[str]:
    page.evaluate(AXE.read_text(encoding="utf-8"))
    return [f["id"] for f in page.evaluate("axe.run(document).then(r => r.violations)")]


@dataclass
class Workshop:
    """The application as it is started for phones."""

    desk: str
    lan: str
    passphrase: str


@pytest.fixture
def workshop(demo_database: Path) -> Iterator[Workshop]:
    command = [sys.executable, "-m", "spare_margin", "serve"]
    more = ["--port", "0", "--lan", "--lan-port", "0", "--address", "127.0.0.2", "--no-browser"]
    served = subprocess.Popen(
        [*command, *more, "--database", str(demo_database)], stdout=subprocess.PIPE, text=True
    )
    assert served.stdout is not None
    said = [served.stdout.readline() for _ in range(3)]
    desk, lan = (re.findall(r"http://\S+", line)[0] for line in (said[0], said[2]))
    yield Workshop(desk, lan, said[1].partition("once: ")[2].strip())
    served.terminate()
    assert served.wait() == 0


def opened(browser: Browser, address: str, size: tuple[int, int], script: str = "") -> Page:
    context = browser.new_context(
        base_url=address, viewport={"width": size[0], "height": size[1]}, accept_downloads=True
    )
    context.set_default_timeout(PATIENCE_MS)
    page = context.new_page()
    page.on("pageerror", lambda error: pytest.fail(str(error)))
    if script:
        page.add_init_script(script)
    return page


def test_two_phones_are_paired_and_measure(browser: Browser, workshop: Workshop) -> None:
    desk = opened(browser, workshop.desk, BENCH)
    desk.goto("/settings")
    desk.get_by_role("link", name="Phones that read and write here").click()
    expect(
        desk.get_by_role("switch", name=re.compile("^Allow phones on the local network"))
    ).to_be_checked()
    desk.get_by_role("button", name="Pair a phone").click()
    scan = desk.get_by_role("img", name="A code to scan")
    url = (scan.get_attribute("alt") or "").split(": ")[1]
    assert url.startswith(workshop.lan)
    assert findings(desk) == []

    first = opened(browser, workshop.lan, HAND, WITHOUT_TLS)
    first.goto(url)
    expect(first.get_by_text("Scanned")).to_be_visible()
    assert findings(first) == []
    first.get_by_label("what this device is called").fill("the phone in the van")
    first.get_by_label("who measures with it").fill("Ida Brandt")
    first.get_by_role("button", name="Pair").click()
    expect(first.get_by_role("link", name="Marram").first).to_be_visible()
    expect(desk.get_by_role("status").filter(has_text="the phone in the van")).to_be_visible()

    second = opened(browser, workshop.lan, HAND, WITHOUT_TLS)
    second.goto("/jobs/demo-2-tourer-linnet/walk")
    second.get_by_label("the code on the workshop's screen, or its passphrase").fill("not that one")
    second.get_by_label("what this device is called").fill("tablet by the boat")
    second.get_by_label("who measures with it").fill("Olaf")
    second.get_by_role("button", name="Pair").click()
    expect(second.get_by_role("alert")).to_contain_text("Wrong or expired")
    box = second.get_by_label("the code on the workshop's screen, or its passphrase")
    box.fill(workshop.passphrase.upper())
    second.get_by_role("button", name="Pair").click()
    expect(second.get_by_role("main")).to_contain_text("Roof fan")

    # What one of them reads stands on the other, under the name it was paired by.
    first.goto("/check")
    first.get_by_label("what is it called?").fill("Sump pump")
    first.get_by_role("button", name="Pump", exact=True).click()
    first.get_by_role("button", name="I have read these").click()
    first.get_by_label("The current of Sump pump, amperes").fill("4.6")
    first.get_by_role("button", name="Save").first.click()
    expect(first.get_by_label("The whole return, volts")).to_be_visible()
    job = first.url.split("/jobs/")[1].split("/")[0]
    second.goto(f"/jobs/{job}/timeline")
    expect(second.get_by_role("main")).to_contain_text("Ida Brandt")

    # Thrown out in the middle of it: then the phone keeps nothing, not even what waits on it, and says so.
    first.route("**/readings", lambda r: r.abort())
    first.get_by_label("The whole return, volts").fill("0.1")
    first.get_by_role("button", name="Save").first.click()
    expect(first.get_by_role("region", name="Waiting on this device")).to_be_visible()
    left = desk.get_by_role("region", name="Paired devices").get_by_role("listitem")
    van = left.filter(has_text="the phone in the van")
    van.get_by_role("button", name="Remove").click()
    asked = desk.get_by_role("alertdialog")
    expect(asked.get_by_role("button", name="Cancel")).to_be_focused()
    asked.get_by_role("button", name="Remove").click()
    expect(left).to_have_count(1)
    # The list may still hold both for a moment, or the one that goes.
    expect(left.filter(has_text="the phone in the van")).to_have_count(0)
    expect(left.filter(has_text="tablet by the boat")).to_have_count(1)
    expect(first.get_by_text("1 entry that had not been sent went with it")).to_be_visible()
    expect(first.get_by_role("heading", name="Pair this phone")).to_be_visible()
    assert first.evaluate("Object.keys(localStorage)") == []
    assert first.evaluate("Object.keys(sessionStorage)") == ["spare-margin.removed"]
    expect(second.get_by_role("main")).to_contain_text("Ida Brandt")
    second.goto("/phones")
    second.get_by_role("button", name="Unpair this device").click()
    expect(second.get_by_role("heading", name="Pair this phone")).to_be_visible()


def test_the_door_is_opened_from_the_page(browser: Browser, workshop: Workshop) -> None:
    desk = opened(browser, workshop.desk, BENCH)
    desk.goto("/phones")
    turn = desk.get_by_role("switch", name=re.compile("^Allow phones on the local network"))
    turn.press("Space")
    expect(turn).not_to_be_checked()
    expect(desk.get_by_role("button", name="Pair a phone")).to_be_hidden()
    with pytest.raises(Exception, match="ECONNREFUSED"):
        desk.request.get(workshop.lan)
    turn.press("Space")
    expect(turn).to_be_checked()
    phone = opened(browser, workshop.lan, HAND)
    phone.goto("/")
    expect(phone.get_by_role("heading", name="Pair this phone")).to_be_visible()
    desk.get_by_role("button", name="Make up another").click()
    kept = desk.get_by_role("status").filter(has_text="Write it down").locator("b").inner_text()
    assert len(kept.split()) == 4
    assert kept != workshop.passphrase
    desk.get_by_label("or one of your own").fill("short")
    desk.get_by_role("button", name="Set it").click()
    expect(desk.get_by_role("alert")).to_contain_text("soon guessed")
