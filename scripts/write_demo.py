"""Computes the readings of the demo jobs and writes them into their job files.

The wirings in those files are made up by hand. The readings are what a meter would really show on
them: the network is solved with its fault, and the simulated meter reads it.
"""

import json
import sys
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from spare_margin.core.meters import CLAMP_METER, WORKSHOP_METER, typed_step
from spare_margin.data.shelves import shipped_tables
from spare_margin.exchange.job_file import read_job
from spare_margin.instruments.simulated_meter import SimulatedMeter

DEMO = Path(__file__).parent.parent / "src" / "spare_margin" / "data" / "demo"
Span = tuple[str, str]


@dataclass(frozen=True)
class Pass:
    """One pass of readings: on which wiring and day, with which excess ohms, where in turn.

    `clamp` is the load whose current is read, and the two ends of a piece that carries it.
    """

    revision: str
    scenario: str
    day: str
    excess_ohm: dict[str, float]
    seed: int
    clamp: tuple[str, Span]
    spans: list[Span]


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
             LIFT_SPANS),
        Pass("left-1", "lifting", "2026-05-20", {}, 5, ("lift", ("so", "m+")), LIFT_SPANS),
    ],
}  # fmt: skip


def with_readings(name: str, document: dict[str, Any]) -> dict[str, Any]:
    """The document with its readings computed anew."""
    tables = shipped_tables()
    bare = {key: value for key, value in document.items() if key != "readings"}
    crafts = {r.id: r.craft for r in read_job(json.dumps(bare).encode(), tables).revisions}
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
                }
            )
    return {**bare, "readings": readings}


if __name__ == "__main__":
    for demo_name in PASSES:
        path = DEMO / f"{demo_name}.json"
        made = with_readings(demo_name, json.loads(path.read_text("utf-8")))
        path.write_text(json.dumps(made, indent=1) + "\n", encoding="utf-8")
    sys.stdout.write("wrote the readings of the demo jobs\n")
