"""Writes the demo jobs: made-up crafts, and what a meter would really show on each of them.

The readings are computed from the network with its fault, by the simulated meter.
"""

import json
import sys
from pathlib import Path
from typing import Any

from spare_margin.core.meters import CLAMP_METER, WORKSHOP_METER, typed_step
from spare_margin.core.pieces import Craft
from spare_margin.data.shelves import shipped_tables
from spare_margin.exchange.job_file import read_job
from spare_margin.instruments.simulated_meter import SimulatedMeter

DEMO = Path(__file__).parent.parent / "src" / "spare_margin" / "data" / "demo"
Document = dict[str, Any]


def node(id_: str, name: str, access: str = "open") -> Document:
    """A test point."""
    return {"id": id_, "name": name, "access": access}


def wire(
    id_: str,
    name: str,
    start: str,
    end: str,
    side: str,
    size: str,
    length: float,
    finish: str = "tinned",
    system: str = "mm2",
) -> Document:
    """A length of wire with 105 C insulation."""
    return {
        "id": id_,
        "kind": "conductor",
        "name": name,
        "from": start,
        "to": end,
        "side": side,
        "length_m": length,
        "size": {"system": system, "value": size, "finish": finish},
        "insulation_c": 105,
    }


def fixed(id_: str, kind: str, name: str, start: str, end: str, side: str, **more: Any) -> Document:
    """Any piece that does not come by the metre."""
    return {"id": id_, "kind": kind, "name": name, "from": start, "to": end, "side": side, **more}


def load(id_: str, name: str, start: str, end: str, behaviour: str, **more: Any) -> Document:
    """A load."""
    return {
        "id": id_,
        "kind": "load",
        "name": name,
        "from": start,
        "to": end,
        "behaviour": behaviour,
        **more,
    }


def boat() -> Document:
    """A sloop whose pressure pump slows down: the ring on its return bus has gone green."""
    return {
        "title": "Sloop Marram: galley tap",
        "craft": "boat",
        "nominal_v": 12,
        "chassis_polarity": "none",
        "reference": "bat-",
        "complaint": {
            "what": "Galley tap pump labours and pulses; fine on the hard, bad on board.",
            "when": "Evenings, cold box running, battery rested.",
        },
        "nodes": [
            node("bat+", "Service battery, live post"),
            node("bat-", "Service battery, return post"),
            node("iso", "Isolator, outlet stud"),
            node("panel", "Switch panel, feed bar", "trim"),
            node("tap-f", "Panel, tap pump fuse outlet", "trim"),
            node("tap-s", "Panel, tap pump switch outlet", "trim"),
            node("tap+", "Tap pump plug, feed pin", "backprobe"),
            node("tap-", "Tap pump plug, return pin", "backprobe"),
            node("tap-r", "Tap pump return, ring at the bus", "trim"),
            node("bus", "Return bus behind the panel", "trim"),
            node("cold-f", "Panel, cold box fuse outlet", "trim"),
            node("cold+", "Cold box, feed terminal", "backprobe"),
            node("cold-", "Cold box, return terminal", "backprobe"),
            node("cap-b", "Foredeck breaker, outlet stud"),
            node("cap+", "Capstan motor, feed stud", "trim"),
            node("cap-", "Capstan motor, return stud", "trim"),
            node("rtn", "Main return lug"),
        ],
        "sources": [
            {
                "id": "service",
                "name": "Service battery, 160 Ah",
                "live": "bat+",
                "return": "bat-",
                "open_circuit_v": 12.7,
                "internal_ohm": 0.0048,
            }
        ],
        "elements": [
            fixed("iso-sw", "switch", "Isolator", "bat+", "iso", "feed", style="isolator"),
            wire("main", "Main feed", "iso", "panel", "feed", "16", 3.4),
            fixed("tap-fuse", "fuse", "Fuse", "panel", "tap-f", "feed", style="blade", rating_a=10),
            fixed(
                "tap-sw",
                "switch",
                "Switch",
                "tap-f",
                "tap-s",
                "feed",
                style="panel switch",
                resistance_ohm=0.011,
            ),
            wire("tap-wire", "Pump feed", "tap-s", "tap+", "feed", "6", 5.1),
            load(
                "tap",
                "Tap pump",
                "tap+",
                "tap-",
                "constant_current",
                current_a=5.4,
                start_multiple=4,
                least_v=10.5,
            ),
            wire("tap-back", "Pump return", "tap-", "tap-r", "return", "6", 5.3),
            fixed(
                "tap-ring", "joint", "Ring at bus", "tap-r", "bus", "return", style="ring on stud"
            ),
            wire("main-back", "Main return", "bus", "rtn", "return", "16", 3.6),
            fixed("rtn-lug", "joint", "Post clamp", "rtn", "bat-", "return", style="post clamp"),
            fixed(
                "cold-fuse", "fuse", "Fuse", "panel", "cold-f", "feed", style="blade", rating_a=15
            ),
            wire("cold-wire", "Cold box feed", "cold-f", "cold+", "feed", "2.5", 3.0),
            load("cold", "Cold box", "cold+", "cold-", "constant_power", power_w=56, least_v=10.4),
            wire("cold-back", "Cold box return", "cold-", "bus", "return", "2.5", 3.2),
            fixed(
                "cap-brk",
                "breaker",
                "Breaker",
                "iso",
                "cap-b",
                "feed",
                rating_a=100,
                resistance_ohm=0.0011,
            ),
            wire("cap-wire", "Capstan feed", "cap-b", "cap+", "feed", "35", 8.2),
            load(
                "cap",
                "Anchor capstan",
                "cap+",
                "cap-",
                "constant_current",
                current_a=68,
                start_multiple=3,
                duty="short_time",
            ),
            wire("cap-back", "Capstan return", "cap-", "rtn", "return", "50", 8.4),
        ],
        "scenarios": [
            {"id": "evening", "name": "Evening at anchor", "on": ["tap", "cold"], "ambient_c": 22},
            {
                "id": "weighing",
                "name": "Weighing anchor",
                "on": ["tap", "cold", "cap"],
                "ambient_c": 34,
                "temperature_model": "self_heating",
                "sources": {"service": {"open_circuit_v": 12.4}},
            },
            {
                "id": "charging",
                "name": "Charging",
                "on": ["tap", "cold"],
                "ambient_c": 25,
                "sources": {"service": {"open_circuit_v": 14.2}},
            },
        ],
    }


def caravan() -> Document:
    """A tourer whose fan is weak: half-way through its walk."""
    return {
        "title": "Tourer Linnet: rear lounge",
        "craft": "caravan",
        "nominal_v": 12,
        "chassis_polarity": "negative",
        "reference": "lb-",
        "complaint": {
            "what": "Roof fan turns slowly since the wardrobe was refitted.",
            "when": "Always; worse with the reading strip on.",
        },
        "nodes": [
            node("lb+", "Leisure battery, live post"),
            node("lb-", "Leisure battery, return post"),
            node("bar", "Fuse box, feed bar"),
            node("fan-f", "Fan fuse, outlet"),
            node("fan-j", "Wardrobe connector, battery side", "backprobe"),
            node("fan-k", "Wardrobe connector, fan side", "backprobe"),
            node("fan+", "Roof fan, feed", "trim"),
            node("fan-", "Roof fan, return", "trim"),
            node("strip-f", "Strip fuse, outlet"),
            node("strip+", "Reading strip, feed", "backprobe"),
            node("strip-", "Reading strip, return", "backprobe"),
            node("block", "Return block under the seat", "trim"),
            node("stud", "Chassis stud, rear"),
            node("tray", "Chassis stud, battery locker"),
        ],
        "sources": [
            {
                "id": "leisure",
                "name": "Leisure battery, 95 Ah",
                "live": "lb+",
                "return": "lb-",
                "open_circuit_v": 12.6,
                "internal_ohm": 0.008,
            }
        ],
        "elements": [
            wire("main", "Main feed", "lb+", "bar", "feed", "10", 2.3, "plain"),
            fixed("fan-fuse", "fuse", "Fuse", "bar", "fan-f", "feed", style="blade", rating_a=5),
            wire("fan-w1", "Fan feed", "fan-f", "fan-j", "feed", "16", 3.9, "plain", "awg"),
            fixed("fan-pin", "joint", "Wardrobe plug", "fan-j", "fan-k", "feed", style="pin"),
            wire("fan-w2", "Fan tail", "fan-k", "fan+", "feed", "16", 1.8, "plain", "awg"),
            load(
                "fan", "Roof fan", "fan+", "fan-", "constant_current", current_a=2.9, least_v=10.8
            ),
            wire("fan-back", "Fan return", "fan-", "block", "return", "16", 5.1, "plain", "awg"),
            wire("home", "Return home", "block", "lb-", "return", "10", 2.5, "plain"),
            wire("strap", "Strap", "block", "stud", "return", "6", 0.5, "plain"),
            fixed("body", "body_return", "Chassis", "stud", "tray", "return", style="steel"),
            fixed("tray-j", "joint", "Tray stud", "tray", "lb-", "return", style="ring on stud"),
            fixed(
                "strip-fuse", "fuse", "Fuse", "bar", "strip-f", "feed", style="blade", rating_a=3
            ),
            wire(
                "strip-wire",
                "Strip feed",
                "strip-f",
                "strip+",
                "feed",
                "1",
                7.2,
                "plain",
                "mm2-road",
            ),
            load("strip", "Reading strip", "strip+", "strip-", "filament", power_w=15, rated_v=12),
            wire(
                "strip-back",
                "Strip return",
                "strip-",
                "block",
                "return",
                "1",
                7.0,
                "plain",
                "mm2-road",
            ),
        ],
        "scenarios": [
            {"id": "reading", "name": "Fan and strip on", "on": ["fan", "strip"], "ambient_c": 20},
            {
                "id": "night",
                "name": "Fan alone, tired battery",
                "on": ["fan"],
                "ambient_c": 12,
                "sources": {"leisure": {"open_circuit_v": 12.0}},
            },
        ],
    }


def van() -> Document:
    """A 24 V exhibition truck whose stage lift crawled: repaired, measured, passed."""
    return {
        "title": "Show truck Dunlin: stage lift",
        "craft": "vehicle",
        "nominal_v": 24,
        "chassis_polarity": "negative",
        "reference": "b-",
        "complaint": {
            "what": "Stage lift crawls for the last half metre.",
            "when": "Warm afternoons, after two or three lifts.",
        },
        "nodes": [
            node("b+", "Battery pair, live post"),
            node("b-", "Battery pair, return post"),
            node("mf", "Main fuse, outlet"),
            node("so", "Lift contactor, outlet", "backprobe"),
            node("m+", "Lift motor, feed stud", "trim"),
            node("m-", "Lift motor, return stud", "trim"),
            node("lug", "Rear return lug"),
            node("c1", "Chassis stud, rear"),
            node("c2", "Chassis stud, battery tray"),
            node("st-f", "Canopy strip fuse, outlet"),
            node("st+", "Canopy strip, feed", "backprobe"),
            node("st-", "Canopy strip, return", "backprobe"),
        ],
        "sources": [
            {
                "id": "pair",
                "name": "Two batteries in series",
                "live": "b+",
                "return": "b-",
                "open_circuit_v": 25.3,
                "internal_ohm": 0.006,
            }
        ],
        "elements": [
            fixed("mega", "fuse", "Main fuse", "b+", "mf", "feed", style="bolt-down", rating_a=200),
            fixed("con", "relay_contact", "Contactor", "mf", "so", "feed", resistance_ohm=0.0006),
            wire("lift-w", "Lift feed", "so", "m+", "feed", "70", 9.0, "plain"),
            load(
                "lift",
                "Stage lift",
                "m+",
                "m-",
                "constant_current",
                current_a=124,
                start_multiple=4,
                duty="short_time",
            ),
            wire("lift-b", "Lift return", "m-", "lug", "return", "70", 1.2, "plain"),
            fixed("lug-j", "joint", "Rear lug", "lug", "c1", "return", style="post clamp"),
            fixed(
                "frame",
                "body_return",
                "Chassis",
                "c1",
                "c2",
                "return",
                style="steel",
                resistance_ohm=0.0007,
            ),
            wire("tray", "Tray strap", "c2", "b-", "return", "70", 0.7, "plain"),
            fixed("st-fuse", "fuse", "Fuse", "b+", "st-f", "feed", style="blade", rating_a=5),
            wire("st-w", "Strip feed", "st-f", "st+", "feed", "1.5", 10.5, "plain"),
            load(
                "strip", "Canopy strip", "st+", "st-", "constant_resistance", power_w=40, rated_v=24
            ),
            wire("st-b", "Strip return", "st-", "c1", "return", "1.5", 1.4, "plain"),
        ],
        "scenarios": [
            {
                "id": "lifting",
                "name": "Lifting, strip on",
                "on": ["lift", "strip"],
                "ambient_c": 28,
            },
            {"id": "strip", "name": "Strip alone", "on": ["strip"], "ambient_c": 20},
        ],
    }


class Passes:
    """Collects readings of one job."""

    def __init__(self, craft: Craft, scenario: str, prefix: str) -> None:
        self.craft, self.scenario, self.prefix = craft, scenario, prefix
        self.readings: list[Document] = []

    def take(
        self,
        revision: str,
        day: str,
        excess: dict[str, float],
        seed: int,
        clamp: tuple[str, str, str] | None,
        spans: list[tuple[str, str]],
        craft: Craft | None = None,
    ) -> None:
        """Read the clamp (element, from, to) and these spans, two minutes apart."""
        tables, craft = shipped_tables(), craft or self.craft
        meter = SimulatedMeter(craft, craft.scenario(self.scenario), tables, excess, seed)
        if clamp:
            self._add(revision, day, "amperes", clamp[1], clamp[2], meter.amperes(clamp[0]))
        for red, black in spans:
            shown = meter.volts(red, black)
            assert shown is not None
            self._add(revision, day, "volts", red, black, shown)

    def _add(
        self, revision: str, day: str, quantity: str, red: str, black: str, typed: str
    ) -> None:
        meter = CLAMP_METER if quantity == "amperes" else WORKSHOP_METER
        value = float(typed)
        minute = 2 * len(self.readings)
        self.readings.append(
            {
                "id": f"{self.prefix}-{len(self.readings) + 1:02d}",
                "revision": revision,
                "quantity": quantity,
                "red": red,
                "black": black,
                "value": value,
                "state": "value",
                "typed": typed,
                "accuracy": round(meter.accuracy(value, typed_step(typed)), 6),
                "scenario": self.scenario,
                "taken_at": f"{day}T{9 + minute // 60:02d}:{minute % 60:02d}:00Z",
            }
        )


def craft_of(document: Document) -> Craft:
    """The craft of a document under construction."""
    return read_job(json.dumps(document).encode(), shipped_tables()).craft


def finished(document: Document) -> Document:
    """A document with the head that every job file has."""
    return {"format": "spare-margin-job", "version": 1, **document}


def demo_jobs() -> dict[str, Document]:
    """Every demo job by file name."""
    first = finished(boat())
    passes = Passes(craft_of(first), "evening", "marram")
    passes.take(
        "as-found",
        "2026-05-06",
        {"tap-ring": 0.078},
        11,
        ("tap", "tap-s", "tap+"),
        [
            ("bat+", "bat-"),
            ("tap+", "tap-"),
            ("tap-", "bat-"),
            ("bat+", "tap+"),
            ("tap-", "tap-r"),
            ("tap-r", "bus"),
            ("bus", "rtn"),
            ("rtn", "bat-"),
        ],
    )
    first["readings"] = passes.readings

    second = finished(caravan())
    passes = Passes(craft_of(second), "reading", "linnet")
    passes.take(
        "as-found",
        "2026-05-12",
        {"fan-pin": 0.145},
        7,
        ("fan", "fan-f", "fan-j"),
        [("lb+", "lb-"), ("fan+", "fan-"), ("fan-", "lb-"), ("lb+", "fan+"), ("lb+", "bar")],
    )
    second["readings"] = passes.readings

    third = finished(van())
    found = craft_of(third)
    repaired = van()
    for element in repaired["elements"]:
        if element["id"] == "lug-j":
            element["repair"] = "remade"
        if element["id"] == "lift-b":
            element["size"]["value"] = "95"
            element["repair"] = "replaced"
    wiring = {k: repaired[k] for k in ("reference", "nodes", "sources", "elements", "scenarios")}
    third["revisions"] = [
        {
            "id": "plan-1",
            "stage": "planned",
            "parent": "as-found",
            "made_at": "2026-05-19T11:00:00Z",
            "summary": "Rear lug remade; lift return replaced",
            "wiring": wiring,
        },
        {
            "id": "left-1",
            "stage": "as_left",
            "parent": "plan-1",
            "made_at": "2026-05-19T14:00:00Z",
            "summary": "Repair done",
            "wiring": wiring,
        },
    ]
    passes = Passes(found, "lifting", "dunlin")
    spans = [
        ("b+", "b-"),
        ("m+", "m-"),
        ("m-", "b-"),
        ("b+", "m+"),
        ("m-", "lug"),
        ("lug", "c1"),
        ("c1", "c2"),
        ("c2", "b-"),
    ]
    clamp = ("lift", "so", "m+")
    passes.take("as-found", "2026-05-19", {"lug-j": 0.0046}, 3, clamp, spans)
    left = craft_of({**third, **wiring, "revisions": []})
    passes.take("left-1", "2026-05-20", {}, 5, clamp, spans, left)
    third["readings"] = passes.readings
    return {"1-sloop-marram": first, "2-tourer-linnet": second, "3-show-truck-dunlin": third}


if __name__ == "__main__":
    for name, document in demo_jobs().items():
        (DEMO / f"{name}.json").write_text(json.dumps(document, indent=1) + "\n", encoding="utf-8")
    sys.stdout.write(f"wrote the demo jobs to {DEMO}\n")
