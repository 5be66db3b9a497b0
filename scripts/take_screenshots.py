"""Re-makes docs/screenshots from the demo jobs: one current picture of each main view."""

import sys
import tempfile
import threading
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Page, sync_playwright
from waitress.server import create_server

from spare_margin.cli import fill_with_demo
from spare_margin.web.app import create_app

PICTURES = Path(__file__).parent.parent / "docs" / "screenshots"
FLAGS = ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--no-first-run"]
BENCH, HAND = (1280, 800), (390, 844)
MARRAM, LINNET, DUNLIN = (
    f"/jobs/demo-{name}" for name in ("1-sloop-marram", "2-tourer-linnet", "3-show-truck-dunlin")
)


def choose(piece: str) -> Callable[[Page], None]:
    """Press the button of this name."""
    return lambda page: page.get_by_role("button", name=piece).first.click()


def plan(page: Page) -> None:
    """Plan the repair of the guilty piece."""
    page.get_by_role("button", name="Plan the repair").click()
    page.get_by_role("button", name="remade").click()
    page.get_by_text("Ring at bus: remade").wait_for()
    page.get_by_label("Close this notice").click()


def bring_in(page: Page) -> None:
    """Show what a job file holds before it is kept."""
    demo = Path(__file__).parent.parent / "src" / "spare_margin" / "data" / "demo"
    page.get_by_role("button", name="Bring in a job file").click()
    page.get_by_label("Job file", exact=True).set_input_files(demo / "2-tourer-linnet.json")
    page.get_by_label("What the file holds").wait_for()


SHOTS: list[tuple[str, str, tuple[int, int], str, Callable[[Page], None] | None]] = [
    ("shelf", "/", BENCH, "light", None),
    ("bring-in", "/", BENCH, "light", bring_in),
    ("run-sheet", MARRAM, BENCH, "light", None),
    ("run-sheet-dark", DUNLIN, BENCH, "dark", choose("Rear lug")),
    ("run-sheet-half-way", LINNET, BENCH, "light", choose("Wardrobe plug")),
    ("hand", MARRAM, HAND, "light", None),
    ("hand-sun", DUNLIN, HAND, "sun", None),
    ("planned", MARRAM, BENCH, "light", plan),
]


def main() -> None:
    """Start the application over fresh demo jobs and photograph it."""
    only = set(sys.argv[1:])
    PICTURES.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as driver:
        database = Path(folder) / "demo.sqlite3"
        fill_with_demo(database)
        server = create_server(create_app(database), host="127.0.0.1", port=0)
        threading.Thread(target=server.run, daemon=True).start()
        chromium = driver.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        for name, path, (width, height), theme, act in SHOTS:
            if only and name not in only:
                continue
            page = chromium.new_page(
                base_url=f"http://127.0.0.1:{server.effective_port}",
                viewport={"width": width, "height": height},
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
        chromium.close()
        server.close()


if __name__ == "__main__":
    main()
