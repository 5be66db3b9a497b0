"""One workshop's lifetime in one file: how its answers grow, and eight people at once."""

import json
import random
import sqlite3
import subprocess
import sys
import tempfile
import threading
import time
import urllib.parse
import urllib.request
import uuid
from contextlib import closing
from pathlib import Path
from typing import Any

from served import Served
from timing import median

from spare_margin.service.workshop.demo import fill_with_demo
from spare_margin.store.file.database import connect, transaction
from spare_margin.web.app import create_app

JOBS, READINGS_EACH, PEOPLE = 10_000, 100, 8
SECONDS = 60.0
MODEL = "demo-1-sloop-marram"


def lifetime(database: Path, jobs: int) -> None:
    """The demo jobs, and so many more that are like one of them, each with a hundred readings."""
    fill_with_demo(database)
    client = create_app(database).test_client()
    while client.get("/api/v1/jobs").json["waiting"]:
        pass
    with closing(connect(database)) as connection, transaction(connection):
        _more_readings(connection)
    while client.get("/api/v1/jobs").json["waiting"]:
        pass
    with closing(connect(database)) as connection, transaction(connection):
        for table in _tables(connection):
            columns = [f'"{row[1]}"' for row in connection.execute(f"PRAGMA table_info({table})")]
            key = '"id"' if table == "job" else '"job_id"'
            others = [c for c in columns if c != key]
            shown = [
                "printf('2020-01-01T00:%02d:%02d.%03dZ', n / 3600 % 60, n / 60 % 60, n % 1000)"
                if table == "job" and c == '"made_at"'
                else "'craft number ' || n || ' slow pump'"
                if table == "job" and c == '"words"'
                else c
                for c in others
            ]
            connection.execute(
                f"WITH RECURSIVE many(n) AS (SELECT 1 UNION ALL SELECT n + 1 FROM many WHERE n < {jobs:d})"
                f" INSERT INTO {table} ({key}, {', '.join(others)})"
                f" SELECT 'many-' || n, {', '.join(shown)} FROM many, {table} WHERE {key} = ?",
                (MODEL,),
            )

        # What a job shows is forgotten by a trigger as its readings come in.
        connection.execute(
            "UPDATE job SET shown = (SELECT shown FROM job WHERE id = ?) WHERE id LIKE 'many-%'",
            (MODEL,),
        )


def _tables(connection: sqlite3.Connection) -> list[str]:
    """The job's own table first, then those that belong to a job, what others lean on before them."""
    names = [
        row[0] for row in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")
    ]
    of_a_job = [
        n
        for n in names
        if any(r[1] == "job_id" for r in connection.execute(f"PRAGMA table_info({n})"))
    ]
    first = ["revision", "moment", "meter_log", "reading"]
    order = [*(n for n in first if n in of_a_job), *(n for n in of_a_job if n not in first)]
    return ["job", *order]


def _more_readings(connection: sqlite3.Connection) -> None:
    columns = [row[1] for row in connection.execute("PRAGMA table_info(reading)")]
    others = ", ".join(f'"{c}"' for c in columns if c != "id")
    has = connection.execute("SELECT count(*) FROM reading WHERE job_id = ?", (MODEL,)).fetchone()[
        0
    ]
    one = connection.execute(
        "SELECT id FROM reading WHERE job_id = ? AND supersedes IS NULL", (MODEL,)
    ).fetchone()[0]
    for i in range(READINGS_EACH - has):
        connection.execute(
            f"INSERT INTO reading (id, {others}) SELECT 'more-{i}', {others} FROM reading"
            " WHERE job_id = ? AND id = ?",
            (MODEL, one),
        )


def memory_mb(process: subprocess.Popen[bytes]) -> tuple[float, float]:
    """What a process holds now, and the most it held (MB); nothing where the system does not say."""
    try:
        text = Path(f"/proc/{process.pid}/status").read_text(encoding="utf-8")
    except OSError:
        return float("nan"), float("nan")
    said = dict(line.split(":", 1) for line in text.splitlines())
    return float(said["VmRSS"].split()[0]) / 1000, float(said["VmHWM"].split()[0]) / 1000


def person(served: Served, number: int, until: float, took: list[tuple[str, float]]) -> None:
    """Somebody at work: finds a job, opens it, reads every few seconds; what each request took."""
    chance = random.Random(number)
    time.sleep(chance.uniform(0.0, 8.0))  # nobody comes in at the very moment that another does

    def ask(name: str, path: str, body: object = None) -> Any:
        start = time.perf_counter()
        answer = served.ask(path, body)
        took.append((name, time.perf_counter() - start))
        return json.loads(answer)

    while time.monotonic() < until:
        ask("list", f"/api/v1/jobs?start={chance.randrange(0, 5000, 50)}")
        word = chance.randrange(1, JOBS)
        ask("search", "/api/v1/jobs?" + urllib.parse.urlencode({"words": f"number {word}"}))
        job = f"/api/v1/jobs/many-{word}"
        ask("sheet", f"{job}/sheet")
        walk = ask("walk", f"{job}/walk")
        for _ in range(3):
            reading = {
                "id": uuid.uuid4().hex, "stage": "as_found", "scenario": walk["scenario"],
                "red": walk["points"][0]["id"], "black": walk["points"][-1]["id"], "typed": "12.6",
                "view": None,
            }  # fmt: skip
            ask("reading", f"{job}/readings", reading)
            # Hands are slower than programs; a phone asks every two seconds whether something changed.
            for _ in range(chance.randint(2, 4)):
                time.sleep(chance.uniform(1.0, 2.0))
                ask("pulse", f"{job}/pulse")
            ask("walk", f"{job}/walk")


def scale() -> None:
    """Prints it."""
    with tempfile.TemporaryDirectory() as folder:
        figures: list[dict[str, float]] = []
        for jobs in (10, JOBS):
            database = Path(folder) / f"{jobs}.sqlite3"
            lifetime(database, jobs)
            start = time.perf_counter()
            served = Served(database)
            try:
                served.wait()
                found = {"start": time.perf_counter() - start}
                for name, path in (
                    ("the first page of the list", "/api/v1/jobs"),
                    ("the last page", f"/api/v1/jobs?start={max(0, jobs - 20)}"),
                    ("a search", f"/api/v1/jobs?words=number+{jobs - 3}"),
                    ("a job opened", "/api/v1/jobs/many-3/sheet"),
                ):
                    found[name] = median(lambda s=served, p=path: s.ask(p), 11)  # type: ignore[misc]
                figures.append(found)
                if jobs == JOBS:
                    took: list[tuple[str, float]] = []
                    until = time.monotonic() + SECONDS
                    people = [
                        threading.Thread(target=person, args=(served, i, until, took))
                        for i in range(PEOPLE)
                    ]
                    for each in people:
                        each.start()
                    for each in people:
                        each.join()
                    now, most = memory_mb(served.process)
            finally:
                served.stop()
        size = database.stat().st_size / 1e6
    print(f"{JOBS:,} jobs, {JOBS * READINGS_EACH:,} readings, {size:.0f} MB, against ten jobs")
    for name, value in figures[1].items():
        print(f"  {name:28s} {value * 1000:7.1f} ms  {value / figures[0][name]:5.1f} x")
    print(
        f"  {PEOPLE} people for {SECONDS:.0f} s: {len(took)} answers; memory {now:.0f} MB,"
        f" at most {most:.0f}"
    )
    for name in dict.fromkeys(name for name, _ in took):
        each = sorted(t for n, t in took if n == name)
        print(
            f"    {name:10s} median {each[len(each) // 2] * 1000:6.0f} ms, p99"
            f" {each[int(len(each) * 0.99)] * 1000:6.0f} ms, most {each[-1] * 1000:6.0f} ms"
        )
    every = sorted(t for _, t in took)
    print(f"    all        p99 {every[int(len(every) * 0.99)] * 1000:.0f} ms")


if __name__ == "__main__":
    scale()
    sys.exit(0)
