"""Re-makes docs/screenshots from the demo jobs: one current picture of each main view."""

import io
import socket
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path
from urllib.request import urlopen

import numpy as np
import pypdfium2 as pdfium
from chromium import launched
from PIL import Image, ImageDraw, ImageFilter
from playwright.sync_api import Page, sync_playwright

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
    "quote": f"/api/v1{WHIMBREL}/lists/quote.pdf",
}


def choose(piece: str) -> Callable[[Page], None]:
    """Press the button of this name."""
    return lambda page: page.get_by_role("button", name=piece).first.click()


def made_up_log() -> str:
    """The sloop's source and the drop over its ring while the tap pump runs twice, as CSV."""
    rng = np.random.default_rng(1)
    seconds = np.arange(0, 60, 0.01)
    on = ((seconds >= 8) & (seconds < 34)) | ((seconds >= 44) & (seconds < 54))
    amps = np.where(on, 5.4, 0.0)
    for start in (8, 44):
        since = np.clip(seconds - start, 0, 5)
        amps += np.where((seconds >= start) & (since < 1), 9 * np.exp(-since / 0.15), 0)
    source = 12.66 - 0.02 * amps + rng.normal(0, 0.003, len(seconds))
    ring = 0.0787 * amps + rng.normal(0, 0.0006, len(seconds))
    rows = (f"{t:.2f},{a:.4f},{b:.4f}" for t, a, b in zip(seconds, source, ring, strict=True))
    return "Time [s],Source [V],Ring at bus [V]\n" + "\n".join(rows) + "\n"


def bring_log(page: Page) -> None:
    """A meter's log, brought in."""
    file = {"name": "tap pump.csv", "mimeType": "text/csv", "buffer": made_up_log().encode()}
    page.locator("input[type=file]").set_input_files(file)
    page.get_by_role("button", name="Import").click()
    page.get_by_role("button", name="steady 1").wait_for()


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


def type_a_run(page: Page) -> None:
    """A run half typed, with a size that there is not."""
    page.get_by_label("next run, as one line").fill(
        '[Panel bar] > fuse 5 > 1.5 mm2 3 m > pin > load "Dial" 0.5 A > 1.7 mm2 3 m > [Re'
    )
    page.get_by_label("next run, as one line").press("End")
    page.get_by_label("next run, as one line").press_sequentially("t")
    page.get_by_label("What could stand here").wait_for()


def name_a_load(page: Page) -> None:
    """One load to be checked, named."""
    page.get_by_label("what is it called?").fill("Sump pump")


def acknowledge(page: Page) -> None:
    """Take note of every caution."""
    page.get_by_role("button", name="I have read these").click()
    page.get_by_role("button", name="Save").first.wait_for()


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


SHOTS: list[tuple[str, str, tuple[int, int], str, Callable[[Page], None] | None]] = [
    ("shelf", "/", BENCH, "light", None),
    ("run-sheet", MARRAM, BENCH, "light", None),
    ("hand", MARRAM, HAND, "light", None),
    ("proof", f"{DUNLIN}/proof", (1280, 1000), "light", None),
    ("craft", f"{ORRIN}/craft", BENCH, "light", None),
    ("craft-hand", f"{ORRIN}/craft", HAND, "light", None),
    ("run-line", f"{ORRIN}/craft", BENCH, "light", type_a_run),
    ("check", "/check", HAND, "light", name_a_load),
    ("table", f"{WHIMBREL}/craft?stage=as_found&as=table", BENCH, "dark", None),
    ("lists", f"{WHIMBREL}/lists", (1280, 1000), "light", None),
    ("walk", f"{LINNET}/walk?run=fan", HAND, "light", acknowledge),
    ("log", f"{MARRAM}/logs", (1280, 1000), "light", bring_log),
    ("upgrade", f"{MARRAM}/upgrade", BENCH, "light", bench),
    ("order", f"{SISKIN}/order", HAND, "light", None),
    ("photographs", f"{MARRAM}/photographs", BENCH, "light", photograph),
    ("source-check", f"{LINNET}/source", BENCH, "light", judge),
    ("tables", "/tables?table=limit_sets", BENCH, "light", None),
]


def main() -> None:
    """Start the application over fresh demo jobs and photograph it."""
    only = set(sys.argv[1:])
    PICTURES.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as driver:
        database = Path(folder) / "demo.sqlite3"
        fill_with_demo(database)
        app = create_app(database)
        server = Door(app, socket.create_server(("127.0.0.1", 0)))
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
            page.wait_for_load_state("networkidle")
            if act:
                act(page)
                page.wait_for_load_state("networkidle")
            page.wait_for_timeout(300)
            page.screenshot(path=PICTURES / f"{name}.png")
            page.close()

        here = f"http://127.0.0.1:{server.port}"
        for each in SHOTS:
            shot(here, *each)
        for name, path in PAPERS.items():
            if not only or name in only:
                _paper(f"http://127.0.0.1:{server.port}{path}", name)
        chromium.close()
        server.close()


def _paper(address: str, name: str) -> None:
    """The first page of a paper."""
    with urlopen(address) as answer:
        page = pdfium.PdfDocument(answer.read())[0]
    page.render(scale=1.3).to_pil().save(PICTURES / f"{name}.png")


if __name__ == "__main__":
    main()
