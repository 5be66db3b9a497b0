"""Prints what speed is felt, as ratios within one run on this machine; see docs/performance.md."""

import json
import tempfile
import time
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
from bench_bay import JOBS
from bench_bay import main as people_at_work
from bench_evidence import LIMITS, evidence
from bench_live import live
from bench_planning import planning
from bench_practice import main as practice
from bench_records import keeping
from bench_scale import scale
from bench_sizing import sizing
from bench_verdicts import verdicts
from crafts import generated, off_a_panel
from scipy.sparse import csc_array, eye_array
from scipy.sparse.linalg import splu
from served import Served
from timing import median

from spare_margin.core.circuit.network import solve
from spare_margin.core.circuit.resistances import closed_ohms
from spare_margin.core.circuit.runs import traced
from spare_margin.core.evidence.response.circuits import AS_DRAWN
from spare_margin.core.model.jobs import Job, Revision
from spare_margin.core.model.pieces import (
    Craft,
    FixedPiece,
)
from spare_margin.core.upgrade.bench import Bench
from spare_margin.core.upgrade.candidates import all_worked
from spare_margin.core.upgrade.offers import Offers
from spare_margin.data.tables import shipped_tables
from spare_margin.exchange.job_file.job_file import ReadJob
from spare_margin.exchange.job_file.writing import write_job

TABLES = shipped_tables()


def nodal_matrix(craft: Craft) -> csc_array:
    """The conductances between all points but the reference, in the order in which they were drawn."""
    points = [p.id for p in craft.points if p.id != craft.reference]
    index = {key: i for i, key in enumerate(points)} | {craft.reference: -1}
    ohms = closed_ohms(craft, TABLES)
    ends = np.array([(index[p.start], index[p.end]) for p in craft.pieces])
    g = 1 / np.array([ohms[p.id] for p in craft.pieces])
    start, end = ends.T
    rows, cols = np.concatenate([start, end, start, end]), np.concatenate([start, end, end, start])
    kept = (rows >= 0) & (cols >= 0)
    values = np.concatenate([g, g, -g, -g])[kept]
    shape = (len(points), len(points))
    # A source holds its live post; without it the craft would float.
    return csc_array((values, (rows[kept], cols[kept])), shape=shape) + 1e-6 * eye_array(
        len(points), format="csc"
    )


def solving() -> None:
    """Whole solves of crafts of many sizes, the large one against SciPy's factorisation alone."""
    print("Whole solve, from the drawing to every current and volt")
    for pieces in (10, 100, 1000, 5000, 10000):
        craft = generated(pieces)
        scenario = craft.scenario()
        took = median(lambda c=craft, s=scenario: solve(c, s, TABLES))  # type: ignore[misc]
        line = f"  {pieces:6d} pieces  {took * 1000:8.1f} ms  {took / pieces * 1e6:6.1f} us a piece"
        if pieces == 5000:
            matrix = nodal_matrix(craft)
            factored = median(lambda m=matrix: splu(m))  # type: ignore[misc]
            line += f"  {took / factored:5.1f} x SciPy's factorisation ({factored * 1000:.1f} ms)"
        print(line)


def forty_runs() -> dict[str, Any]:
    """Its job file."""
    craft = off_a_panel()
    first = Revision(
        id="as-found", stage="as_found", parent=None, summary="Drawn", craft=craft,
        made_at="2026-05-26T08:00:00Z",
    )  # fmt: skip
    return write_job(ReadJob(Job(id="", title="Forty runs"), (first,), ()))


def serving() -> None:
    """Cold start, and an edit in a craft of 40 runs against a bare answer of the same server."""
    with tempfile.TemporaryDirectory() as folder:
        start = time.perf_counter()
        served = Served(Path(folder) / "bench.sqlite3")
        try:
            served.wait()
            print(f"Cold start to the first page  {(time.perf_counter() - start) * 1000:.0f} ms")
            made = json.loads(served.ask("/api/v1/jobs", forty_runs()))["id"]
            job = f"/api/v1/jobs/{made}"
            sheet = json.loads(served.ask(f"{job}/sheet"))
            wire = next(c["id"] for c in sheet["run"]["columns"] if c["spec"].startswith("1.5"))
            lengths = iter(range(1, 1000))

            def edit(keep: bool) -> None:
                nonlocal sheet
                body = {
                    "stage": "as_found", "revision": sheet["revision"], "element": wire,
                    "edit": {"length": f"{3 + next(lengths) / 100} m"}, "keep": keep,
                    "view": {"run": sheet["run"]["load"]["id"]},
                }  # fmt: skip
                answer = served.ask(f"{job}/changes", body)
                if keep:
                    sheet = json.loads(answer)

            bare = median(lambda: served.ask("/api/v1/settings"), 21)
            print(
                f"One run edited in a craft of 40, over HTTP (a bare answer: {bare * 1000:.1f} ms)"
            )
            for name, act in (
                ("as typed, not kept", lambda: edit(False)),
                ("kept", lambda: edit(True)),
                ("the sheet read", lambda: served.ask(f"{job}/sheet")),
                ("the craft read", lambda: served.ask(f"{job}/craft")),
            ):
                took = median(act, 21)
                above = (took - bare) * 1000
                print(
                    f"  {name:20s}  {took * 1000:6.1f} ms  {took / bare:5.1f} x bare  +{above:.1f} ms"
                )
        finally:
            served.stop()


def offering() -> None:
    """Candidates for a run with three bad pieces in a craft of 40, against one solve of the craft."""
    craft = off_a_panel()
    load = craft.loads[5].id
    run = traced(craft, closed_ohms(craft, TABLES)).runs[load]
    fixed = [s.piece.id for s in run.steps() if isinstance(s.piece, FixedPiece)]
    point = replace(AS_DRAWN, more_ohm=dict(zip(fixed[-3:], (0.3, 0.2, 0.5), strict=True)))
    bare = median(lambda: solve(craft, craft.scenarios[0], TABLES), 11)
    start = time.perf_counter()
    bench = Bench(craft, load, point, {}, LIMITS, TABLES)
    each = all_worked(bench, Offers(bench).offered)
    next(each)
    first = time.perf_counter() - start
    more = sum(1 for _ in each)
    took = time.perf_counter() - start
    print(
        f"Candidates of a run in a craft of 40  first {first * 1000:.0f} ms, all {more + 1} "
        f"{took * 1000:.0f} ms ({took / bare / (more + 1):.0f} x a solve each)"
    )


if __name__ == "__main__":
    solving()
    serving()
    verdicts()
    offering()
    planning()
    live()
    sizing()
    keeping()
    scale()
    evidence()
    people_at_work(JOBS)
    practice()
