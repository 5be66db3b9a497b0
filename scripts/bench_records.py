"""How the list of jobs, meters' logs and the hand-over sheet grow, as ratios within one run."""

import io
import json
import tempfile
from pathlib import Path

import numpy as np
import pandas as pd
from timing import median

from spare_margin.core.measure.meter_logs import envelope, segments, watched
from spare_margin.exchange.meter_log_csv import LOOKED_AT, guess_layout, read_log
from spare_margin.service.workshop.demo import fill_with_demo
from spare_margin.store import records
from spare_margin.store.file.database import connect, transaction
from spare_margin.store.records import Record, folded
from spare_margin.web.app import create_app

JOBS = 10_000
ROWS = 1_000_000


def many_jobs() -> None:
    """A page of the list, and a search, among the demo jobs alone and among ten thousand."""
    with tempfile.TemporaryDirectory() as folder:
        database = Path(folder) / "bench.sqlite3"
        fill_with_demo(database)
        client = create_app(database).test_client()

        def look(asked: str) -> dict[str, object]:
            return dict(client.get(f"/api/v1/jobs?{asked}").json)

        while look("")["waiting"]:
            pass
        asked = ("", "words=number+7777", "fault=joint", "words=nothing+at+all")
        few = [median(lambda a=a: look(a)) for a in asked]  # type: ignore[misc]
        connection = connect(database)
        row = dict(connection.execute("SELECT * FROM job WHERE id LIKE '%dunlin'").fetchone())
        with transaction(connection):
            for i in range(JOBS):
                words = folded(f"Craft number {i}", "a complaint of a line or two, as people write")
                made = {
                    **row,
                    "id": f"many-{i}",
                    "made_at": f"2020-01-01T00:00:00.{i:05d}Z",
                    "words": words,
                }
                marks = ", ".join("?" * len(made))
                names = ", ".join(made)
                connection.execute(f"INSERT INTO job ({names}) VALUES ({marks})", [*made.values()])
                found = Record("left", "within", ("joint",), "joint", "Rear lug", "rear lug", "")
                records.keep(connection, f"many-{i}", json.loads(row["shown"]), found)
        connection.close()
        print(f"The list of jobs, with {JOBS:,} more")
        for name, before, a in zip(asked, few, asked, strict=True):
            took = median(lambda a=a: look(a))  # type: ignore[misc]
            print(
                f"  {name or 'the first page':24s} {took * 1000:6.1f} ms  {took / before:5.1f} x with five"
            )
        sheet = "/api/v1/jobs/demo-3-show-truck-dunlin"
        proof = median(lambda: client.get(f"{sheet}/proof"))
        paper = median(lambda: client.get(f"{sheet}/hand-over.pdf"))
        print(
            f"The hand-over sheet  {paper * 1000:.0f} ms  {paper / proof:.1f} x the proof on its page"
        )


def long_log() -> None:
    """A log of a million rows against a bare reading of the same numbers."""
    rng = np.random.default_rng(1)
    seconds = np.arange(ROWS) * 0.001
    on = (seconds > 100) & (seconds < 600)
    out = io.StringIO()
    out.write("Time [s];Source [V];Drop [V]\n")
    volts = 12.6 - 0.05 * on + rng.normal(0, 0.003, ROWS)
    table = np.column_stack([seconds, volts, 0.4 * on + rng.normal(0, 5e-4, ROWS)])
    np.savetxt(out, table, fmt="%.4f", delimiter=";")
    raw = out.getvalue().replace(".", ",").encode()
    layout = guess_layout(raw[:LOOKED_AT])
    bare = median(lambda: pd.read_csv(io.BytesIO(raw), sep=";", decimal=","), 3)
    read = median(lambda: read_log(io.BytesIO(raw), layout), 3)
    log = read_log(io.BytesIO(raw), layout)

    def found() -> None:
        channel = watched(log, 12.0)
        assert channel is not None
        segments(log, channel, 12.0)
        for i in range(len(log.channels)):
            envelope(log, i)

    steps = median(found, 3)
    print(f"A log of {ROWS:,} rows, {len(raw) / 1e6:.0f} MB")
    print(f"  read {read * 1000:.0f} ms, {read / bare:.1f} x the numbers alone")
    print(f"  steps and traces {steps * 1000:.0f} ms, {steps / read:.2f} x that")


def keeping() -> None:
    """Everything that is measured of records and logs."""
    many_jobs()
    long_log()


if __name__ == "__main__":
    keeping()
