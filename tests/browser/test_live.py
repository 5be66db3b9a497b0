"""A meter that speaks, in the hand: a loop read without touching the screen; by keys; taken back."""

import re
from collections.abc import Iterator
from contextlib import closing
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from spare_margin.exchange.job_file.job_file import read_job
from spare_margin.instruments.stand_in.meter import StandInMeter, Switch
from spare_margin.instruments.stand_in.scpi_server import ScpiServer
from spare_margin.instruments.stand_in.worlds import MOMENT, world_of
from tests.browser.conftest import HAND, notices
from tests.browser.test_fit import SMALL
from tests.browser.test_story import AXE, both, hand
from tests.instruments.stand_ins import TABLES, served
from tests.instruments.test_lines import Sender

LOOP = (
    "ring > cable 1 m 6 mm2 > breaker > ring > cable 2 m 6 mm2 > ring > fuse > ring > cable 2 m 4 mm2 "
    '> plug > cable 1 m 4 mm2 > load "Heater" 9 A > cable 1 m 4 mm2 > plug > cable 0.6 m 4 mm2 > ring '
    "> ring > cable 0.6 m 6 mm2 > ring > ring > cable 1 m 6 mm2 > ring > ring > cable 1 m 6 mm2 > ring"
)


HEARD = """
  window.spoken = []; window.hummed = 0;
  Object.defineProperty(window, "speechSynthesis", {
    value: { cancel() {}, speak: (said) => window.spoken.push(said.text) } });
  const real = AudioParam.prototype.setTargetAtTime;
  AudioParam.prototype.setTargetAtTime = function (...all) {
    window.hummed += 1; return real.apply(this, all); };
"""
"""Notes what the page says aloud, and how often it changes the pitch of its tone."""


class Bench:
    """A new craft with one long loop, and a stand-in meter on it that the application reads."""

    def __init__(self, page: Page, site: str) -> None:
        self._page, self._site = page, f"{site}/api/v1"
        new = {
            "title": "Ketch Tarn, saloon heater", "craft": "boat", "nominal_v": 12, "polarity": "none",
            "battery": "agm", "capacity": "200",
        }  # fmt: skip
        self.job = self.ask("/jobs/new", new)["id"]
        drawn = {
            "text": LOOP, "stage": "as_found",
            "revision": self.ask(f"/jobs/{self.job}/craft")["revision"],
        }  # fmt: skip
        self.ask(f"/jobs/{self.job}/lines", drawn)
        answer = page.request.get(f"{self._site}/jobs/{self.job}/file")
        craft = read_job(answer.body()).revisions[0].craft
        self.run = craft.loads[0].id
        state = next(s.id for s in craft.scenarios if self.run in s.on)
        self.meter = StandInMeter(world_of(craft, TABLES, self.run, state, {}), MOMENT)

    def ask(self, path: str, body: Any = None) -> Any:
        url = self._site + path
        request = self._page.request
        answer = request.get(url) if body is None else request.post(url, data=body)
        assert answer.ok, answer.text()
        return answer.json() if answer.body() else None

    def connect(self, server: ScpiServer, name: str = "Blue meter") -> str:
        body = {"name": name, "address": f"127.0.0.1:{server.port}"}
        self.connected = str(self.ask("/meters", body)["id"])
        return self.connected

    def walk(self, stage: str = "as_left") -> Any:
        return self.ask(f"/jobs/{self.job}/walk?stage={stage}")

    def open(self, stage: str = "as_left") -> None:
        self._page.goto(f"/jobs/{self.job}/walk?stage={stage}")
        self._page.get_by_role("button", name="I have read these").click()
        expect(self._page.get_by_test_id("live")).to_be_visible()

    def begin_watch(self, red: str, black: str) -> None:
        body = {
            "id": "a-watch-begun", "kind": "watch", "stage": "as_found",
            "scenario": self.walk("as_found")["scenario"],
            "meters": [{"meter": self.connected, "red": red, "black": black}],
        }  # fmt: skip
        self.ask(f"/jobs/{self.job}/recordings", body)

    def leads(self, card: Any) -> None:
        """Both hands go where a card says."""
        if card["kind"] == "current":
            self.meter.clamp = self.run
        else:
            self.meter.lay(card["red"]["id"], card["black"]["id"])

    def air(self, page: Page, card: Any = None) -> None:
        """The leads are lifted and the switch turned, until the meter shows that."""
        self.meter.lay("", "")
        self.meter.clamp = ""
        wanted: Switch = "amperes" if card is not None and card["kind"] == "current" else "volts"
        if self.meter.switch != wanted:
            self.meter.turn(wanted)
        unit = "A" if wanted == "amperes" else "V"
        expect(page.get_by_label("Live meter")).to_have_text(re.compile(rf"\d {unit}ready"))


@pytest.fixture
def bench(page: Page, site: str) -> Iterator[Bench]:
    made = Bench(page, site)
    with served(made.meter) as server:
        made.connect(server)
        yield made


@hand
def test_a_loop_of_eleven_is_read_without_touching_the_screen(page: Page, bench: Bench) -> None:
    page.add_init_script(HEARD)
    bench.open()
    for name in ("Take by itself", "Voice", "Tone"):
        page.get_by_role("button", name=name).click()
    # From here on nothing is touched: hands hold the leads.
    for number in range(1, 12):
        card = bench.walk()["now"]
        expect(page.get_by_test_id("step-number")).to_have_text(f"{number}. ")
        bench.air(page, card)
        bench.leads(card)
        expect(
            page.get_by_role("region", name="So far", exact=True).get_by_role("listitem")
        ).to_have_count(number + 1)
    held = bench.ask(f"/jobs/{bench.job}/file")["readings"]
    assert len(held) == 11
    assert all(each["by_meter"]["name"] == "Blue meter" for each in held)
    spoken = [said for said in page.evaluate("window.spoken") if "Next: " in said]
    assert len(spoken) >= 10, "what was read, and where the leads go next"
    assert spoken[0].startswith("12.")
    assert page.evaluate("window.hummed") > 10
    assert len({(each["red"], each["black"], each["quantity"]) for each in held}) == 11


@both
def test_axe_finds_nothing_and_all_fits_while_a_meter_is_on_show(page: Page, bench: Bench) -> None:
    bench.open()
    red, black = (bench.walk()["loop"][side][0]["entry"] for side in ("feed", "back"))
    bench.begin_watch(red, black)
    for path in (None, "/meters", f"/jobs/{bench.job}/live?stage=as_left"):
        if path:
            page.goto(path)
        expect(page.get_by_text("Blue meter").first).to_be_visible()
        expect(page.locator("main:not([aria-busy=true])").first).to_be_visible()
        page.evaluate(AXE.read_text("utf-8"))
        found = page.evaluate("axe.run(document).then(r => r.violations)")
        assert [f"{v['id']}: {n['html'][:160]}" for v in found for n in v["nodes"]] == []
        assert page.evaluate("document.documentElement.scrollWidth") <= page.evaluate("innerWidth")
        if page.viewport_size == {"width": HAND[0], "height": HAND[1]}:
            assert page.evaluate(SMALL) == [], path


@hand
def test_keys_take_and_take_back(page: Page, bench: Bench) -> None:
    bench.open()
    card = bench.walk()["now"]
    bench.leads(card)
    live = page.get_by_label("Live meter")
    expect(live).to_contain_text("stands still")
    page.keyboard.press("Space")
    expect(page.get_by_test_id("step-number")).to_have_text("2. ")
    page.keyboard.press("PageUp")
    expect(page.get_by_test_id("step-number")).to_have_text("1. ")
    expect(live).to_contain_text("is taken back")
    # Nothing is taken by itself where nobody wished it, nor by a press where nothing stands still.
    bench.air(page)
    page.keyboard.press("Enter")
    expect(live).to_contain_text("Nothing stands still")
    assert [r["state"] for r in bench.ask(f"/jobs/{bench.job}/file")["readings"]] == [
        "value",
        "withdrawn",
    ]


@hand
def test_what_stood_for_one_card_is_not_taken_for_the_next(page: Page, bench: Bench) -> None:
    """Typed from the display of another meter, with the leads of this one still lying there."""
    bench.open()
    bench.air(page, bench.walk()["now"])
    bench.leads(bench.walk()["now"])
    expect(page.get_by_label("Live meter")).to_contain_text("stands still")
    page.get_by_label("The source, post to post, volts").fill("12.7")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("step-number")).to_have_text("2. ")
    page.get_by_role("button", name="Take by itself").click()
    card = bench.walk()["now"]
    bench.air(page, card)
    bench.leads(card)
    expect(page.get_by_test_id("step-number")).to_have_text("3. ")
    held = bench.ask(f"/jobs/{bench.job}/file")["readings"]
    assert [(r["quantity"], "by_meter" in r) for r in held] == [("volts", False), ("amperes", True)]


@hand
def test_what_is_wrong_with_the_meter_is_said_and_typing_goes_on(page: Page, bench: Bench) -> None:
    bench.open()
    live = page.get_by_label("Live meter")
    bench.meter.turn("volts_ac")
    expect(live).to_contain_text("Turn it to DC")
    expect(live.get_by_role("button", name="Take", exact=True)).to_be_disabled()
    bench.meter.turn("amperes")
    expect(live).to_contain_text("shows amperes")
    bench.meter.asleep = True
    expect(live).to_contain_text("asleep")
    page.get_by_label("The source, post to post, volts").fill("12.7")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("step-number")).to_have_text("2. ")
    bench.meter.asleep = False
    expect(page.get_by_test_id("live")).to_contain_text("A")


def test_a_meter_is_added_left_on_the_source_and_taken_out(
    page: Page, bench: Bench, site: str
) -> None:
    page.goto("/meters")
    expect(page.get_by_role("list", name="Meters")).to_contain_text("Blue meter")
    with served() as other:
        page.get_by_label("Address or port").fill(f"127.0.0.1:{other.port}")
        page.get_by_role("button", name="Test").click()
        expect(page.get_by_text("It answered")).to_contain_text("Stand-in meter")
        page.get_by_label("Its name here").fill("blue meter")
        page.get_by_role("button", name="Add", exact=True).click()
        expect(page.get_by_role("alert")).to_contain_text("is there already")
        page.get_by_label("Its name here").fill("Red meter")
        page.get_by_role("button", name="Add", exact=True).click()
        expect(notices(page)).to_contain_text("Red meter is added")
        line = (
            page.get_by_role("list", name="Meters")
            .get_by_role("listitem")
            .filter(has_text="Red meter")
        )
        expect(line).to_contain_text(" V")
        line.get_by_label("stays on the source").click()
        expect(line.get_by_label("stays on the source")).to_be_checked()
        other.meter.lay(other.meter.world.run.source.live, other.meter.world.run.source.back)
        page.goto(f"/jobs/{bench.job}/walk?stage=as_left")
        page.get_by_role("button", name="I have read these").click()
        expect(page.get_by_label("Live meter")).to_contain_text("source 12.")
        page.goto("/meters")
        line.get_by_role("button", name="Take out").click()
        page.get_by_role("button", name="Take it out").click()
        expect(line).to_have_count(0)


@hand
def test_a_loom_is_watched_while_it_is_shaken_and_a_start_is_caught(
    page: Page, bench: Bench
) -> None:
    walk = bench.walk("as_found")
    red, black = walk["loop"]["back"][0]["entry"], walk["loop"]["back"][-1]["exit"]
    bench.meter.lay(red, black)
    page.goto(f"/jobs/{bench.job}/live?red={red}&black={black}")
    page.get_by_role("button", name="I have read these").click()
    expect(page.get_by_role("img", name="Trace of Blue meter")).to_be_visible()
    page.goto(f"/jobs/{bench.job}/live")
    page.get_by_role("button", name="Catch a start").click()
    expect(page.get_by_role("alert")).to_contain_text("Blue meter has no test points yet")
    page.goto(f"/jobs/{bench.job}/live?red={red}&black={black}")
    page.get_by_label("Watch for changes above").fill("much")
    page.get_by_role("button", name="Watch", exact=True).click()
    expect(page.get_by_role("alert")).to_contain_text("not understood")
    page.get_by_label("Watch for changes above").fill("100 mV")
    page.get_by_role("button", name="Watch", exact=True).click()
    recordings = page.get_by_role("region", name="Recordings")
    expect(recordings).to_contain_text("nothing changed")
    expect(recordings).to_contain_text("for 3 s")
    shaken = walk["loop"]["back"][0]
    # So long a loop is drawn with several pieces as one: the list has each by itself.
    page.get_by_label("What is moved").select_option(shaken["id"])
    expect(recordings).to_contain_text("counts against it")
    bench.meter.fault(shaken["id"], 0.2)
    expect(recordings).to_contain_text("Changing now")
    bench.meter.fault(shaken["id"], 0)
    expect(recordings).to_contain_text("kept as readings")
    recordings.get_by_role("button", name="Stop").click()
    expect(recordings).to_contain_text("1 change.")
    held = bench.ask(f"/jobs/{bench.job}/file")["readings"]
    assert [(r["hold"], r["moved"]) for r in held] == [
        ("least", shaken["id"]),
        ("most", shaken["id"]),
    ]
    bench.meter.command(bench.run, "off")
    page.get_by_role("button", name="Catch a start").click()
    expect(recordings).to_contain_text("Armed. Switch the load on.")
    bench.meter.command(bench.run, "running")
    expect(recordings).to_contain_text("Caught")
    page.get_by_role("link", name="Start at").click()
    expect(page.get_by_role("button", name="start 1")).to_be_visible()
    expect(page.get_by_text("Taken from this log")).to_be_visible()


def test_a_meter_that_sends_lines_is_understood_by_an_example(page: Page, site: str) -> None:
    """Its last figure is the reading, in millivolts that it does not name: picked out of a line."""
    with closing(Sender()) as sender:
        sender.text = b"07 12:04, 0412\r\n"
        page.goto("/meters")
        page.get_by_role("radio", name="sends lines of text").click()
        page.get_by_label("Port").fill(sender.port)
        page.get_by_label("Unit, if it sends none").select_option("MV")
        page.get_by_role("button", name="Test").click()
        expect(page.get_by_text("It answered")).to_contain_text("07 12:04, 0412")
        page.get_by_role("radio", name="0412").check()
        page.get_by_label("Its name here").fill("Serial meter")
        page.get_by_role("button", name="Add", exact=True).click()
        line = page.get_by_role("list", name="Meters").get_by_role("listitem")
        expect(line).to_contain_text("0.412 V")
        sender.text = b""
        expect(line).to_contain_text("says nothing")
        line.get_by_role("button", name="Take out").click()
        page.get_by_role("button", name="Take it out").click()
        expect(line).to_have_count(0)
