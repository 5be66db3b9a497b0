"""Computes the readings of the demo jobs and writes them into their job files; draws up a whole craft.

The wirings in those files are made up by hand. The readings are what a meter would really show on
them: the network is solved with its fault, and the simulated meter reads it. The fourth job is drawn
from its run lines, as a person would type them.
"""

import json
import math
import sys
import tempfile
import time
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from spare_margin.core.edit.drawing import drawn
from spare_margin.core.edit.new_craft import new_craft
from spare_margin.core.evidence.response.circuits import AS_DRAWN
from spare_margin.core.model.jobs import Complaint, Job, Revision
from spare_margin.core.model.limits import Limits
from spare_margin.core.model.meters import CLAMP_METER, WORKSHOP_METER, typed_step
from spare_margin.core.upgrade.bench import Bench
from spare_margin.core.upgrade.candidates import worked
from spare_margin.core.upgrade.offers import Offers
from spare_margin.data.tables import shipped_tables
from spare_margin.exchange.job_file.job_file import ReadJob, read_job
from spare_margin.exchange.job_file.writing import write_job
from spare_margin.exchange.run_line.reader import read_line
from spare_margin.web.app import create_app
from tests.simulated_meter import SimulatedMeter

DEMO = Path(__file__).parent.parent / "src" / "spare_margin" / "data" / "demo"
Span = tuple[str, str]


@dataclass(frozen=True)
class Pass:
    """One pass of readings: on which wiring and day, with which excess ohms, where in turn.

    `clamp` is the load whose current is read, and the two ends of a piece that carries it; `warm_min` the
    minutes that it had been on, and `who` read it, where somebody wrote that down.
    """

    revision: str
    scenario: str
    day: str
    excess_ohm: dict[str, float]
    seed: int
    clamp: tuple[str, Span]
    spans: list[Span]
    warm_min: float | None = None
    who: str = ""


LIFT_SPANS = [
    ("b+", "b-"), ("m+", "m-"), ("m-", "b-"), ("b+", "m+"), ("m-", "lug"), ("lug", "c1"),
    ("c1", "c2"), ("c2", "b-"),
]  # fmt: skip
PASSES = {
    "1-sloop-marram": [
        Pass(
            "as-found", "evening", "2026-05-06", {"tap-ring": 0.078}, 11, ("tap", ("tap-s", "tap+")),
            [
                ("bat+", "bat-"), ("tap+", "tap-"), ("tap-", "bat-"), ("bat+", "tap+"),
                ("tap-", "tap-r"), ("tap-r", "bus"), ("bus", "rtn"), ("rtn", "bat-"),
            ],
        )
    ],
    "2-tourer-linnet": [
        Pass(
            "as-found", "reading", "2026-05-12", {"fan-pin": 0.145}, 7, ("fan", ("fan-f", "fan-j")),
            [("lb+", "lb-"), ("fan+", "fan-"), ("fan-", "lb-"), ("lb+", "fan+"), ("lb+", "bar")],
        )
    ],
    "3-show-truck-dunlin": [
        Pass("as-found", "lifting", "2026-05-19", {"lug-j": 0.0046}, 3, ("lift", ("so", "m+")),
             LIFT_SPANS, 0.5, "Mads"),
        Pass("left-1", "lifting", "2026-05-20", {}, 5, ("lift", ("so", "m+")), LIFT_SPANS, 0.5, "Mads"),
    ],
}  # fmt: skip


BARGE = [
    "isolator [Isolator out] > 70 mm2 tinned 1.4 m 105 \u00b0C engine > clamp [Panel bar] > fuse "
    "7.5 > panel switch > 2.5 mm2 tinned 6.5 m > pin [Saloon plug | back-probe] > load "
    '"Saloon strip" 2.4 A least 10.8 V > pin > 2.5 mm2 tinned 6.5 m > ring [Return bar] > 70 '
    "mm2 tinned 1.5 m 105 \u00b0C engine",
    '[Panel bar] > fuse 10 > panel switch > 2.5 mm2 tinned 9 m > splice > motor "Bilge pump, '
    'aft" 4.8 A x4 least 10.5 V critical > splice > 2.5 mm2 tinned 9 m > ring [Return bar]',
    '[Panel bar] > fuse 10 > panel switch > 4 mm2 tinned 3.2 m > splice > motor "Bilge pump, '
    'engine" 4.8 A x4 least 10.5 V critical > splice > 4 mm2 tinned 3.4 m 105 \u00b0C engine > '
    "ring [Return bar]",
    "[Panel bar] > fuse 15 > panel switch > 6 mm2 tinned 7 m > pin [Cold box plug | trim] > "
    'converter "Cold box" 58 W least 10.4 V > pin > 6 mm2 tinned 7 m > ring [Return bar]',
    '[Panel bar] > fuse 15 > panel switch > 6 mm2 tinned 5.5 m > splice > motor "Shower pump"'
    " 6.2 A x4 least 10.5 V > splice > 6 mm2 tinned 5.5 m > ring [Return bar]",
    '[Battery + clamp] > fuse 5 > 1 mm2 tinned 8 m > pin > load "Tank sensors" 0.05 A least 9'
    " V control > pin > 1 mm2 tinned 8 m > ring [Battery \u2212 clamp]",
    '[Panel bar] > fuse 10 > 4 mm2 tinned 4 m > pin > converter "Radio" 55 W least 11 V '
    "critical > pin > 4 mm2 tinned 4 m > ring [Return bar]",
    "[Panel bar] > breaker 25 > 10 mm2 tinned 8 m [Wheelhouse bar] > fuse 5 > panel switch > "
    '1.5 mm2 tinned 1.5 m > pin > load "Chart strip" 0.7 A least 10.8 V > pin > 1.5 mm2 '
    "tinned 1.5 m [Wheelhouse return] > 10 mm2 tinned 8 m > ring [Return bar]",
    '[Wheelhouse bar] > fuse 10 > panel switch > 1.5 mm2 tinned 3.2 m > resistor 0.5 \u03a9 "Slow '
    'step" > pin > load "Wheelhouse fan" 2.6 A least 9 V > pin > 1.5 mm2 tinned 3.2 m > ring '
    "[Wheelhouse return]",
    '[Wheelhouse bar] > fuse 10 > 2.5 mm2 tinned 3 m > pin > motor "Wiper" 3.8 A x4 least 9.5'
    " V > pin > 2.5 mm2 tinned 3 m > panel switch > ring [Wheelhouse return]",
    "[Isolator out] > fuse bolt-down 100 > 50 mm2 tinned 7.5 m 105 \u00b0C > clamp > relay 0.5 m\u03a9 "
    '> clamp > motor "Stern capstan" 72 A x4 least 9.5 V short-time > clamp > 50 mm2 tinned '
    "7.8 m 105 \u00b0C > clamp [Return bar]",
]


def whole_craft() -> dict[str, Any]:
    """A barge of eleven runs, drawn from its lines."""
    tables = shipped_tables()
    craft = new_craft("boat", 12.0, "none", "agm", 220.0)
    for text in BARGE:
        read = read_line(text, craft, tables)
        if read.line is None:
            raise SystemExit(f"{text}: {read.errors}")
        craft, _ = drawn(craft, read.line)
    loads = {load.name: load.id for load in craft.loads}
    quiet = {loads["Stern capstan"], loads["Wiper"], loads["Shower pump"]}
    on = {
        "rested": frozenset(loads.values()) - quiet,
        "charging": frozenset(loads.values()) - {loads["Stern capstan"]},
        "tired": frozenset(loads.values()) - quiet,
        "start": frozenset({loads["Radio"], loads["Tank sensors"], loads["Chart strip"]}),
    }
    scenarios = [replace(s, on=on[s.id]) for s in craft.scenarios if s.id in on]
    # What pulls the battery down aboard this one is her thruster.
    scenarios = [
        replace(s, name="Bow thruster pulling") if s.id == "start" else s for s in scenarios
    ]
    mooring = replace(
        scenarios[1], id="mooring", name="Mooring, capstan on",
        on=on["charging"] | {loads["Stern capstan"]},
    )  # fmt: skip
    craft = replace(craft, scenarios=(*scenarios, mooring))
    first = Revision(
        id="as-found", stage="as_found", parent=None, summary="Drawn up", craft=craft,
        made_at="2026-05-26T08:00:00Z",
    )  # fmt: skip
    job = Job(
        id="",
        title="Barge Orrin: new wiring",
        complaint=Complaint(
            "Rewired before the season. Which runs will be short, and of what?",
            "All on while mooring.",
            "Engine space hot.",
        ),
    )
    return write_job(ReadJob(job, (first,), ()))


TRAILER = [
    "isolator [Battery box] > 16 mm2 0.2 m 105 \u00b0C > fuse large blade 60 [Front panel] > fuse 30 > "
    "panel switch > 2.5 mm2 9.5 m 105 \u00b0C > pin [Compressor plug | back-probe] > motor "
    '"Air compressor" 14 A x3 least 10.5 V > pin > 2.5 mm2 1.2 m 105 \u00b0C > ring [Frame stud] > body',
    '[Front panel] > fuse 5 > panel switch > 1 mm2 6 m > pin > load "Awning strip" 1.8 A least 10.8 V '
    "> pin > 1 mm2 1.5 m > ring [Frame stud]",
]


def _note(number: int, step: str) -> dict[str, Any]:
    return {
        "id": f"dunlin-note-{number}", "stage": "as_left", "run": "lift", "step": step,
        "state": "acknowledged", "who": "Mads", "made_at": f"2026-05-20T09:{40 + number}:00Z",
    }  # fmt: skip


def _wave(left: float, right: float, times: int) -> list[list[float]]:
    """A made-up scrawl: a wave that runs across the box."""
    dots = 12 * times
    return [
        [
            round(left + (right - left) * i / dots, 3),
            round(0.2 - 0.09 * math.sin(i * math.pi / 6) * (1 - 0.6 * i / dots), 3),
        ]
        for i in range(dots + 1)
    ]


SAID = {
    "3-show-truck-dunlin": {
        "walk_notes": [
            _note(1, "caution high_current"), _note(2, "caution battery"), _note(3, "proof.cool"),
            _note(4, "caution after_work"),
        ],
        "sign_offs": [
            {
                "id": "dunlin-signed-1", "run": "lift", "revision": "left-1", "role": "fitter",
                "name": "Mads Ottesen", "strokes": [_wave(0.12, 0.8, 5), [[0.1, 0.27], [0.7, 0.25]]],
                "outcome": "passed", "made_at": "2026-05-20T09:50:00Z",
            }
        ],
    }
}  # fmt: skip
"""What was said and signed besides the readings, by demo job."""


def trailer() -> dict[str, Any]:
    """A trailer whose compressor is short as found; planned is a relay near it, as the bench sizes it."""
    tables = shipped_tables()
    craft = new_craft("other", 12.0, "negative", "agm", 100.0)
    for text in TRAILER:
        read = read_line(text, craft, tables)
        if read.line is None:
            raise SystemExit(f"{text}: {read.errors}")
        craft, _ = drawn(craft, read.line)
    craft = replace(
        craft, scenarios=tuple(s for s in craft.scenarios if s.id in ("rested", "tired"))
    )
    limits = Limits(tables.limit_sets["by-duty"], {})
    bench = Bench(craft, "air-compressor", AS_DRAWN, {}, limits, tables)
    planned = worked(bench, next(o for o in Offers(bench).offered if o.id == "relay-return"))
    if not planned.holds:
        raise SystemExit("the relay planned for the trailer does not hold")
    found = Revision(
        id="as-found", stage="as_found", parent=None, craft=craft, made_at="2026-06-02T08:00:00Z",
        action="drawn",
    )  # fmt: skip
    plan = Revision(
        id="planned-1", stage="planned", parent="as-found", craft=planned.craft,
        made_at="2026-06-02T08:20:00Z",
    )  # fmt: skip
    job = Job(
        id="",
        title="Trailer Siskin: air compressor",
        craft_name="Trailer Siskin",
        complaint=Complaint(
            "The compressor starts slowly.", "With the battery low.", "Long stand-by."
        ),
    )
    return write_job(ReadJob(job, (found, plan), ()))


def with_readings(name: str, document: dict[str, Any]) -> dict[str, Any]:
    """The document with its readings computed anew."""
    tables = shipped_tables()
    made = ("readings", *SAID.get(name, {}))
    bare = {key: value for key, value in document.items() if key not in made}
    crafts = {r.id: r.craft for r in read_job(json.dumps(bare).encode()).revisions}
    readings: list[dict[str, Any]] = []
    for taken in PASSES[name]:
        craft = crafts[taken.revision]
        scenario = craft.scenario(taken.scenario)
        meter = SimulatedMeter(craft, scenario, tables, taken.excess_ohm, taken.seed)
        shown = [("amperes", taken.clamp[1], meter.amperes(taken.clamp[0]))]
        shown += [("volts", span, meter.volts(*span) or "") for span in taken.spans]
        for quantity, (red, black), typed in shown:
            spec = CLAMP_METER if quantity == "amperes" else WORKSHOP_METER
            minute = 2 * len(readings)
            readings.append(
                {
                    "id": f"{name.rsplit('-', maxsplit=1)[-1]}-{len(readings) + 1:02d}",
                    "revision": taken.revision,
                    "quantity": quantity,
                    "red": red,
                    "black": black,
                    "value": float(typed),
                    "state": "value",
                    "typed": typed,
                    "accuracy": round(spec.accuracy(float(typed), typed_step(typed)), 6),
                    "scenario": taken.scenario,
                    "taken_at": f"{taken.day}T{9 + minute // 60:02d}:{minute % 60:02d}:00Z",
                    **({"warm_min": taken.warm_min} if taken.warm_min is not None else {}),
                    **({"who": taken.who, "meter": spec.name} if taken.who else {}),
                }
            )
    return {**bare, "readings": readings, **SAID.get(name, {})}


KETCH = """Load\tA\tLength\tPanel\tMust not fail
Steaming lamp\t1.5\t13\tMain panel\tyes
Sailing lamps\t1.2\t9.5\tMain panel\tyes
Chart plotter\t2.4\t3.5\tMain panel\tyes
Radio\t6\t3\tMain panel\tyes
Bilge pump\t4.6 x4\t5.5\tMain panel\tyes
Wheel pilot\t7\t4\tMain panel\tyes
Cold box\t45 W\t6\tMain panel\t
Galley pump\t5 x3\t4.5\tMain panel\t
Cabin lamps\t2.5\t7\tMain panel\t
Reading lamps\t1.6\t8\tMain panel\t
Heater\t3.8\t5\tMain panel\t
Phone sockets\t5\t4\tMain panel\t
Foredeck lamp\t2\t10\tMain panel\t
Anchor winch\t70 x3\t8\t\t
"""
"""What the planner of the ketch brings: loads, amperes and lengths."""


def planned_boat() -> dict[str, Any]:
    """A ketch planned from a list of lengths: its runs from the table, sized as one press does it."""
    with tempfile.TemporaryDirectory() as folder:
        client = create_app(Path(folder) / "demo.sqlite3").test_client()
        headers = {"Origin": "http://localhost"}

        def asked(path: str, body: dict[str, Any] | None = None) -> dict[str, Any]:
            at = f"/api/v1/jobs/{path}"
            got = client.get(at) if body is None else client.post(at, json=body, headers=headers)
            if got.status_code not in (200, 201):
                raise SystemExit(f"{path}: {got.json}")
            return got.json or {}

        made_as = asked("new", {
            "title": "Ketch Whimbrel: wired anew", "craft_name": "Ketch Whimbrel", "craft": "boat",
            "nominal_v": 12, "polarity": "none", "battery": "agm", "capacity": "220",
            "complaint": "All wiring out, fourteen runs to be planned from the list of lengths.",
        })["id"]  # fmt: skip
        read = asked(f"{made_as}/run-table/read", {"text": KETCH})
        rows = [{"cells": {c: v["text"] for c, v in row["cells"].items()}} for row in read["rows"]]
        asked(f"{made_as}/run-table", {
            "stage": "as_found", "revision": asked(f"{made_as}/run-table")["revision"], "rows": rows,
            "panels": {"Main panel": "1.8"},
        })  # fmt: skip
        made = asked(
            f"{made_as}/sizing",
            {"revision": asked(f"{made_as}/sizing")["revision"], "free_only": True},
        )
        while made["state"] == "running":
            time.sleep(0.05)
            made = asked(f"{made_as}/sizing")
        if made["state"] != "done":
            raise SystemExit(made["says"])
        asked(f"{made_as}/sizing/take", {"revision": made["revision"]})
        document = asked(f"{made_as}/file")
    read_back = read_job(json.dumps(document).encode())
    by_id = {r.id: r.craft for r in read_back.revisions}
    crafts = {stage: by_id[tip] for stage, (_, tip) in read_back.heads.items()}
    found = Revision(
        id="as-found", stage="as_found", parent=None, craft=crafts["as_found"],
        made_at="2026-06-09T08:00:00Z", action="drawn",
    )  # fmt: skip
    plan = Revision(
        id="planned-1", stage="planned", parent="as-found", craft=crafts["planned"],
        made_at="2026-06-09T08:20:00Z",
    )  # fmt: skip
    job = replace(read_back.job, id="", made_at="")
    return write_job(ReadJob(job, (found, plan), ()))


if __name__ == "__main__":
    for demo_name in PASSES:
        path = DEMO / f"{demo_name}.json"
        made = with_readings(demo_name, json.loads(path.read_text("utf-8")))
        path.write_text(json.dumps(made, indent=1) + "\n", encoding="utf-8")
    path = DEMO / "4-barge-orrin.json"
    path.write_text(json.dumps(whole_craft(), indent=1) + "\n", encoding="utf-8")
    path = DEMO / "5-trailer-siskin.json"
    path.write_text(json.dumps(trailer(), indent=1) + "\n", encoding="utf-8")
    path = DEMO / "6-ketch-whimbrel.json"
    path.write_text(json.dumps(planned_boat(), indent=1) + "\n", encoding="utf-8")
    sys.stdout.write("wrote the readings of the demo jobs\n")
