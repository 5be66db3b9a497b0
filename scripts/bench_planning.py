"""Planning a craft of 40 runs: the table, a cell changed in it, sizing with fuses, the craft page."""

import statistics
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from flask.testing import FlaskClient

from spare_margin.web.app import create_app

RUNS, TIMES = 40, 7
OWN = {"Origin": "http://localhost"}


def planning() -> None:
    """Print what each act takes, beside an answer that does nothing."""
    with tempfile.TemporaryDirectory() as folder:
        client = create_app(Path(folder) / "bench.sqlite3").test_client()
        job = _boat(client)
        bare = _median(lambda: client.get("/api/v1/settings"))
        table = client.get(f"{job}/run-table").json
        first = table["rows"][0]["run"]
        lengths = iter(f"{5 + n / 10:.1f}" for n in range(1000))

        def cell(stage: str = "as_found") -> None:
            now = client.get(f"{job}/run-table?stage={stage}").json
            row = {"run": first, "cells": {"length": next(lengths)}}
            body = {"stage": stage, "revision": now["revision"], "rows": [row]}
            assert client.post(f"{job}/run-table", json=body, headers=OWN).status_code == 200

        edit = _median(cell)
        read = _median(lambda: client.get(f"{job}/run-table"))
        print(f"a craft of {RUNS} runs to be sized, a bare answer {bare * 1000:.1f} ms")
        print(
            f"  table read and a cell changed {edit * 1000:.0f} ms, the table alone {read * 1000:.0f} ms"
        )
        for least in ("price", "copper"):
            spent, made = _sized(client, job, least)
            print(f"  sized with its fuses for least {least} in {spent:.1f} s: {made['says']}")
        taken = {"revision": made["revision"]}
        assert client.post(f"{job}/sizing/take", json=taken, headers=OWN).status_code == 200
        edit = _median(lambda: cell("planned"))

        def page() -> None:
            cell("planned")
            client.get(f"{job}/craft?stage=planned")

        craft = _median(page) - edit
        print(f"  sized, the craft page after an edit {craft * 1000:.0f} ms, "
              f"{(craft - bare) * 1000:.0f} above bare")  # fmt: skip


def _boat(client: FlaskClient) -> str:
    asked = {"title": "Forty", "craft": "boat", "nominal_v": 12, "polarity": "none", "battery": "agm",
             "capacity": "400"}  # fmt: skip
    job = f"/api/v1/jobs/{client.post('/api/v1/jobs/new', json=asked, headers=OWN).json['id']}"
    rows = [
        {"cells": {"load": f"Load {n}", "draws": f"{0.5 + n % 7}", "length": f"{2 + n % 9}",
                   "panel": f"Panel {n % 3}", "critical": "yes" if n % 5 == 0 else ""}}
        for n in range(RUNS)
    ]  # fmt: skip
    now = client.get(f"{job}/run-table").json
    body = {"stage": "as_found", "revision": now["revision"], "rows": rows,
            "panels": {f"Panel {n}": f"{2 + n}" for n in range(3)}}  # fmt: skip
    answer = client.post(f"{job}/run-table", json=body, headers=OWN)
    assert answer.status_code == 200, answer.json
    return job


def _sized(client: FlaskClient, job: str, least: str) -> tuple[float, dict[str, Any]]:
    revision = client.get(f"{job}/sizing").json["revision"]
    began = time.perf_counter()
    body = {"revision": revision, "free_only": True, "objective": least}
    made = client.post(f"{job}/sizing", json=body, headers=OWN).json
    while made["state"] == "running" and not made["after"]:
        time.sleep(0.02)
        made = client.get(f"{job}/sizing").json
    spent = time.perf_counter() - began
    while made["state"] == "running":
        time.sleep(0.05)
        made = client.get(f"{job}/sizing").json
    return spent, made


def _median(act: Callable[[], object]) -> float:
    spent = []
    for _ in range(TIMES):
        began = time.perf_counter()
        act()
        spent.append(time.perf_counter() - began)
    return statistics.median(spent)


if __name__ == "__main__":
    planning()
