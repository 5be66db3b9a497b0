"""Re-makes docs/screenshots from the demo jobs: one current picture of each main view."""

import io
import re
import socket
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Literal
from urllib.request import urlopen

import numpy as np
import pypdfium2 as pdfium
from chromium import launched
from PIL import Image, ImageDraw, ImageFilter
from playwright.sync_api import Page, sync_playwright

from spare_margin.data.tables import demo_files, shipped_tables
from spare_margin.exchange.job_file.job_file import read_job
from spare_margin.instruments.stand_in.meter import StandInMeter
from spare_margin.instruments.stand_in.served import StandIn
from spare_margin.instruments.stand_in.worlds import MOMENT, world_of
from spare_margin.service.workshop.demo import fill_with_demo
from spare_margin.serving.doors import Door
from spare_margin.web.app import create_app

PICTURES = Path(__file__).parent.parent / "docs" / "screenshots"
Act = Callable[[Page], None]
BENCH, HAND = (1280, 800), (390, 844)
MARRAM, LINNET, DUNLIN, ORRIN, SISKIN, WHIMBREL = (
    f"/jobs/demo-{name}"
    for name in (
        "1-sloop-marram",
        "2-tourer-linnet",
        "3-show-truck-dunlin",
        "4-barge-orrin",
        "5-trailer-siskin",
        "6-ketch-whimbrel",
    )
)


PAPERS = {
    "hand-over": f"/api/v1{DUNLIN}/hand-over.pdf",
}


def choose(piece: str) -> Callable[[Page], None]:
    """Press the button of this name."""
    return lambda page: page.get_by_role("button", name=piece).first.click()


def made_up_photograph(*, green: bool) -> bytes:
    """A ring on a stud, drawn: crusted green, or cleaned."""
    rng = np.random.default_rng(7)
    picture = Image.new("RGB", (1200, 900), (66, 62, 58))
    draw = ImageDraw.Draw(picture)
    draw.rectangle((0, 560, 1200, 680), fill=(122, 92, 58))
    draw.rectangle((560, 0, 640, 300), fill=(146, 40, 36))
    draw.rectangle((552, 240, 648, 420), fill=(176, 172, 164))
    draw.ellipse((430, 360, 770, 700), fill=(182, 148, 92) if not green else (112, 118, 84))
    if green:
        for x, y in rng.normal((600, 530), (120, 110), (900, 2)):
            size = rng.uniform(2, 11)
            tint = (70 + int(rng.integers(40)), 140 + int(rng.integers(40)), 120)
            draw.ellipse((x - size, y - size, x + size, y + size), fill=tint)
    draw.regular_polygon((600, 530, 92), 6, fill=(190, 188, 182), outline=(120, 118, 112))
    draw.ellipse((560, 490, 640, 570), fill=(150, 148, 142))
    grain = rng.normal(0, 7, (900, 1200, 1))
    blurred = np.asarray(picture.filter(ImageFilter.GaussianBlur(2.5)), dtype=float)
    out = io.BytesIO()
    Image.fromarray(np.clip(blurred + grain, 0, 255).astype("uint8")).save(out, "JPEG")
    return out.getvalue()


def photograph(page: Page) -> None:
    """A ring before and after, ticked for the hand-over sheet."""
    ring = page.get_by_role("region", name="Photographs of Ring at bus")
    for when, green in (("before", True), ("after", False)):
        page.goto(MARRAM)
        page.get_by_role("button", name="Ring at bus").first.click()
        file = {
            "name": "r.jpg",
            "mimeType": "image/jpeg",
            "buffer": made_up_photograph(green=green),
        }
        ring.get_by_label(f"Add photographs of Ring at bus, {when}").set_input_files(file)
        ring.get_by_role("button", name=f"Show large: Ring at bus, {when}").click()
        note = "green under the ring, half a turn loose" if green else "cleaned, greased, tight"
        page.get_by_label("What it shows").fill(note)
        page.get_by_role("button", name="Save").last.click()
        page.get_by_role("button", name="Save").last.is_disabled()
        page.get_by_role("dialog").get_by_label("On the hand-over sheet").check()
        page.wait_for_load_state("networkidle")
    page.goto(f"{MARRAM}/photographs")
    page.get_by_role("button", name="Show large").first.wait_for()


def name_a_load(page: Page) -> None:
    """One load to be checked, named."""
    page.get_by_label("what is it called?").fill("Sump pump")


def judge(page: Page) -> None:
    """A tired source with bad clamps."""
    for label, value in (
        ("Resting volts", "12.31"),
        ("Volts on the posts", "12.02"),
        ("Current that flows", "24"),
        ("Volts between the clamps", "11.85"),
    ):
        page.get_by_label(label, exact=True).fill(value)
    page.get_by_role("button", name="Save and check").click()
    page.get_by_text("The clamp connection is a fault").wait_for()


def bench(page: Page) -> None:
    """The upgrade bench with every candidate, the relay's opened."""
    page.get_by_test_id("recommended").wait_for()
    page.get_by_role("button", name="another option is better").click()


def tourers_meter() -> StandInMeter:
    """A meter on the tourer's roof fan, whose wardrobe plug is bad."""
    craft = read_job(dict(demo_files())["2-tourer-linnet"]).revisions[0].craft
    return StandInMeter(
        world_of(craft, shipped_tables(), "fan", "reading", {"fan-pin": 0.14}), MOMENT
    )


STAND_IN = StandIn(tourers_meter(), 0, 0)


def lay_leads(page: Page) -> None:
    """The roof fan's fuse on the stand-in meter."""
    address = f"127.0.0.1:{STAND_IN.server.port}"
    body = {"name": "Blue meter", "address": address, "spec": "Workshop multimeter"}
    page.request.post("/api/v1/meters", data=body)
    page.reload()
    page.get_by_role("button", name="I have read these").click()
    STAND_IN.server.meter.lay("bar", "fan-f")
    page.get_by_text("stands still").wait_for()
    page.get_by_role("button", name="Take by itself").click()


def watch(page: Page) -> None:
    """A watch while the plug is moved, twice."""
    STAND_IN.server.meter.lay("fan-f", "fan+")
    page.get_by_role("button", name="Watch", exact=True).click()
    page.get_by_text("for 4 s: nothing changed").wait_for()
    page.get_by_role("button", name="Moving Wardrobe plug").click()
    page.get_by_text("counts against it").wait_for()
    for number, ohm in enumerate((0.31, 0.25), 1):
        STAND_IN.server.meter.fault("fan-pin", ohm)
        page.get_by_text("Changing now").wait_for()
        STAND_IN.server.meter.fault("fan-pin", 0.14)
        page.get_by_text("kept as readings").nth(number - 1).wait_for()


def practise(page: Page) -> None:
    """An exercise half played, in the hand."""
    name_learner(page)
    exercise = page.get_by_role("listitem").filter(has_text="Soup caravan").first
    exercise.get_by_role("button", name=re.compile("Begin|Again")).click()
    page.get_by_role("button", name="I have read them").click()
    for first, second in ((0, 5), (3, 5)):
        taps = page.get_by_test_id("loop").get_by_role("button")
        taps.nth(first).click()
        page.get_by_text("Now tap the point for black").wait_for()
        taps.nth(second).click()
        page.get_by_text("Now tap the point for black").wait_for(state="detached")
        page.wait_for_load_state("networkidle")


def see_debrief(page: Page) -> None:
    """What is said of an exercise of the week."""
    name_learner(page)
    level = page.locator("details").filter(has_text="A long feed and a long return")
    level.locator("summary").click()
    level.get_by_role("link", name="Debrief").first.click()
    page.get_by_role("heading", name="What you did").wait_for()


def name_learner(page: Page) -> None:
    """Who practises: the careful one of the demo."""
    page.get_by_label("Your name").fill("Ines Falk")
    page.get_by_role("button", name="Go on").click()
    page.get_by_role("heading", name="Seven levels").wait_for()


SHOTS: list[tuple[str, str, tuple[int, int], str, Callable[[Page], None] | None]] = [
    ("shelf", "/", BENCH, "light", None),
    ("run-sheet", MARRAM, BENCH, "light", None),
    ("hand", MARRAM, HAND, "light", None),
    ("proof", f"{DUNLIN}/proof", (1280, 1000), "light", None),
    ("craft", f"{ORRIN}/craft", BENCH, "light", None),
    ("check", "/check", HAND, "light", name_a_load),
    ("table", f"{WHIMBREL}/craft?stage=as_found&as=table", BENCH, "dark", None),
    ("lists", f"{WHIMBREL}/lists", (1280, 1000), "light", None),
    ("upgrade", f"{MARRAM}/upgrade", BENCH, "light", bench),
    ("order", f"{SISKIN}/order", HAND, "light", None),
    ("photographs", f"{MARRAM}/photographs", BENCH, "light", photograph),
    ("source-check", f"{LINNET}/source", BENCH, "light", judge),
    ("tables", "/tables?table=limit_sets", BENCH, "light", None),
    ("walk", f"{LINNET}/walk?run=fan", HAND, "light", lay_leads),
    ("bay", "/practise", HAND, "light", practise),
    ("debrief", "/practise", (1280, 1000), "light", see_debrief),
    ("meters", "/meters", BENCH, "light", None),
    ("live", f"{LINNET}/live?run=fan&red=fan-f&black=fan%2B", BENCH, "light", watch),
]
METERED = ("walk", "meters", "live")
"""Taken with the stand-in meter connected: what such a page listens to never falls silent."""


def main() -> None:
    """Start the application over fresh demo jobs and photograph it."""
    only = set(sys.argv[1:])
    PICTURES.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as driver:
        database = Path(folder) / "demo.sqlite3"
        fill_with_demo(database)
        app = create_app(database)
        server = Door(
            app, socket.create_server(("127.0.0.1", 0)), room_of=lambda: app.extensions["meters"]
        )
        server.open()
        chromium = launched(driver)

        def shot(
            site: str, name: str, path: str, size: tuple[int, int], theme: str, act: Act | None
        ) -> None:
            if only and name not in only:
                return
            page = chromium.new_page(
                base_url=site,
                viewport={"width": size[0], "height": size[1]},
                service_workers="block",
            )
            page.add_init_script(f"localStorage.setItem('spare-margin.theme', '{theme}')")
            page.goto(path)
            settled: Literal["load", "networkidle"] = "load" if name in METERED else "networkidle"
            page.wait_for_load_state(settled)
            if act:
                act(page)
                page.wait_for_load_state(settled)
            page.wait_for_timeout(1500 if name in METERED else 300)
            page.screenshot(path=PICTURES / f"{name}.png")
            page.close()

        here = f"http://127.0.0.1:{server.port}"
        for each in SHOTS:
            shot(here, *each)
        for name, path in PAPERS.items():
            if not only or name in only:
                _paper(f"http://127.0.0.1:{server.port}{path}", name)
        chromium.close()
        app.extensions["recorder"].close()
        app.extensions["meters"].close()
        server.close()
        STAND_IN.close()


def _paper(address: str, name: str) -> None:
    """The first page of a paper."""
    with urlopen(address) as answer:
        page = pdfium.PdfDocument(answer.read())[0]
    page.render(scale=1.3).to_pil().save(PICTURES / f"{name}.png")


if __name__ == "__main__":
    main()
