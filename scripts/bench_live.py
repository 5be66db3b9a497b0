"""How soon a page shows what a meter shows, and what more pages cost."""

import http.client
import json
import os
import statistics
import tempfile
import time
from contextlib import ExitStack
from pathlib import Path
from threading import Thread

from chromium import launched
from playwright.sync_api import sync_playwright
from served import Served

from spare_margin.cli.stand_in import demo_meter
from spare_margin.instruments.stand_in.scpi_server import ScpiServer
from spare_margin.service.workshop.demo import fill_with_demo

JOB = "/jobs/demo-1-sloop-marram"
WATCHED_S = 8.0
LATENCY = """
  window.late = []; window.takenAt = null;
  const Real = window.EventSource;
  window.EventSource = class extends Real {
    set onmessage(tell) {
      super.onmessage = (event) => {
        window.takenAt = Date.parse(JSON.parse(event.data).taken_at); tell(event);
      };
    }
  };
  addEventListener('DOMContentLoaded', () => new MutationObserver((all) => {
    const live = document.querySelector('[data-testid=live]');
    if (!all.some((m) => live?.contains(m.target))) return;
    const taken = window.takenAt;
    requestAnimationFrame(() => { if (taken) window.late.push(Date.now() - taken); });
  }).observe(document, { subtree: true, characterData: true, childList: true }));
"""
"""From when the meter's figure was read to the frame that shows it, both by this machine's clock (ms)."""


def live() -> None:
    """Prints how late figures are shown, and what ten pages that listen cost more than one."""
    with ExitStack() as ends:
        folder = Path(ends.enter_context(tempfile.TemporaryDirectory()))
        fill_with_demo(folder / "bench.sqlite3")
        stand_in = ScpiServer(demo_meter(), terminal=False)
        stand_in.start()
        ends.callback(stand_in.stop)
        served = Served(folder / "bench.sqlite3")
        ends.callback(served.stop)
        served.wait()
        body = {"name": "Bench", "address": f"127.0.0.1:{stand_in.port}"}
        served.ask("/api/v1/meters", body)
        print("Live meters")
        print(f"  {shown_late(served)}")
        one, ten = (cost_of(served, number) for number in (1, 10))
        print(
            f"  ten listeners: {ten[0] / one[0]:.2f} x the figures asked of the meter, "
            f"{ten[1] / one[1]:.2f} x the processor of one ({one[1] * 100:.1f} %)"
        )


def shown_late(served: Served) -> str:
    """How late a page shows what the meter showed."""
    with sync_playwright() as driver:
        browser = launched(driver)
        page = browser.new_page(viewport={"width": 390, "height": 844})
        page.add_init_script(LATENCY)
        page.goto(f"http://127.0.0.1:{served.port}{JOB}/walk?run=cold&stage=as_left")
        page.get_by_role("button", name="I have read these").click()
        page.get_by_test_id("live").wait_for()
        page.evaluate("window.late = []")
        page.wait_for_timeout(WATCHED_S * 1000)
        late = page.evaluate("window.late")
        browser.close()
    ends = statistics.quantiles(late, n=20)
    return (
        f"{len(late) / WATCHED_S:.1f} figures a second, shown after {statistics.median(late):.0f} ms"
        f" (p95 {ends[-1]:.0f} ms)"
    )


def cost_of(served: Served, listeners: int) -> tuple[float, float]:
    """Figures a second, and the share of one processor, while so many listen."""
    ways = []
    for _ in range(listeners):
        way = http.client.HTTPConnection("127.0.0.1", served.port, timeout=60)
        way.request("GET", "/api/v1/meters/stream")
        answer = way.getresponse()
        Thread(target=_drained, args=(answer,), daemon=True).start()
        ways.append(way)
    first, before = _number(served), _processor_s(served.process.pid)
    time.sleep(WATCHED_S)
    told, spent = _number(served) - first, _processor_s(served.process.pid) - before
    for way in ways:
        way.sock.close() if way.sock else None
    return told / WATCHED_S, spent / WATCHED_S


def _drained(answer: http.client.HTTPResponse) -> None:
    try:
        while answer.readline():
            pass
    except OSError:
        return


def _number(served: Served) -> int:
    shown = json.loads(served.ask("/api/v1/meters"))["shown"]
    return int(shown[0]["number"])


def _processor_s(process: int) -> float:
    """Seconds of the processor that a process and its threads had (proc(5))."""
    fields = Path(f"/proc/{process}/stat").read_text().rpartition(")")[2].split()
    return (int(fields[11]) + int(fields[12])) / os.sysconf("SC_CLK_TCK")


if __name__ == "__main__":
    live()
