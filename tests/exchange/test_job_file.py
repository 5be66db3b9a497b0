"""Job files in and out: round trips, and every kind of bad input named in its place."""

import json
from typing import Any

import jsonschema
import pytest

from spare_margin.data.tables import demo_files, shipped_tables
from spare_margin.exchange.job_file.job_file import JobFileErrors, judge, read_job
from spare_margin.exchange.job_file.models import schema
from spare_margin.exchange.job_file.writing import write_job
from tests.conftest import EXAMPLES, Document, loop, piece

TABLES = shipped_tables()


def refused(raw: bytes | Document) -> str:
    text = raw if isinstance(raw, bytes) else json.dumps(raw).encode()
    with pytest.raises(JobFileErrors) as errors:
        read_job(text)
    return " | ".join(e.sentence() for e in errors.value.errors)


@pytest.mark.parametrize(
    "raw",
    [raw for _, raw in demo_files()] + [p.read_bytes() for p in sorted(EXAMPLES.glob("*.json"))],
)
def test_a_job_survives_the_way_out_and_in(raw: bytes) -> None:
    first = read_job(raw)
    document = write_job(first)
    jsonschema.Draft202012Validator(schema()).validate(document)
    again = read_job(json.dumps(document).encode())
    assert again.job == first.job
    assert again.readings == first.readings
    assert [r.craft for r in again.revisions] == [r.craft for r in first.revisions]
    assert judge(again, TABLES) == ([], [])
    assert write_job(again) == document


def test_defaults() -> None:
    document = loop()
    del document["reference"]
    craft = read_job(json.dumps(document).encode()).craft
    scenario = craft.scenario()
    assert craft.reference == "b-"
    assert (scenario.ambient_c, scenario.temperature_model) == (20, "ambient")
    assert craft.points[0].access == "open"


def test_a_null_says_nothing() -> None:
    document = loop(readings=[good_reading(scenario=None, revision=None, note=None)])
    document["elements"][1] |= {"name": None, "ohm_per_m": None, "cable": None}
    document["reference"] = None
    read = read_job(json.dumps(document).encode())
    assert read.craft.reference == "b-"
    assert (read.readings[0].scenario, read.readings[0].revision) == ("on", "as-found")
    assert read.craft.pieces[1].name == ""
    assert "title: is missing" in refused(document | {"title": None})


def changed(path: str, value: Any) -> Document:
    """The plain loop with one key set, as `elements.1.length_m`; a value of ... deletes it."""
    document = loop()
    *way, last = path.split(".")
    at: Any = document
    for part in way:
        at = at[int(part)] if part.isdigit() else at[part]
    if value is ...:
        del at[last]
    else:
        at[last] = value
    return document


@pytest.mark.parametrize(
    ("path", "value", "says"),
    [
        ("version", 2, "version: 2 is newer"),
        ("format", "other", "format: this is not a job file"),
        ("surprise", 1, "surprise: is not a key that belongs here"),
        ("title", ..., "title: is missing"),
        ("nominal_v", 13, "nominal_v: 13 is unknown; accepted: 12, 24 or 48"),
        ("craft", "plane", "craft: plane is unknown"),
        ("nodes.0.colour", "red", "nodes[0].colour: is not a key"),
        ("elements.1.length_m", 0, "elements[1].length_m: 0 is too small; accepted: above 0"),
        ("elements.1.length_m", -2, "elements[1].length_m: -2 is too small"),
        ("elements.1.length_m", 5000, "elements[1].length_m: 5000 is too large"),
        ("elements.1.length_m", "5", "elements[1].length_m: 5 is not a number"),
        ("elements.1.length_m", True, "elements[1].length_m: true is not a number"),
        ("elements.1.size.value", "7", "elements[1].size: no row for mm2 7 plain"),
        ("elements.1.size.value", "auto", "elements[1].size: no row for mm2 auto"),
        ("elements.1.size.system", "swg", "accepted: system mm2, mm2-road, awg"),
        ("elements.1.kind", "pipe", "elements[1]: the kind pipe is unknown"),
        ("elements.1.from", "nowhere", "elements[1].from: there is no nowhere"),
        ("elements.1.to", "f1", "elements[1].to: joins f1 to itself"),
        ("elements.1.id", "a b", "elements[1].id: a b does not fit"),
        ("elements.1.id", "f", "the id f stands 2 times"),
        ("elements.2.style", "glue", "elements[2].resistance_ohm"),
        ("elements.3.current_a", ..., "elements[3].current_a: is missing"),
        ("elements.3.behaviour", "magic", "elements[3].behaviour: magic is unknown"),
        ("sources.0.live", "x", "sources[0].live: there is no x"),
        ("sources.0.internal_ohm", -1, "sources[0].internal_ohm: -1 is too small"),
        ("sources", [], "sources: has 0 entries; accepted: at least 1"),
        ("scenarios.0.on", ["x"], "scenarios[0].on: there is no x"),
        ("reference", "x", "reference: there is no x"),
        ("limits", {"set": "none"}, "limits.set: there is no none; accepted: by-duty"),
        ("limits", {"loads": {"x": {}}}, "limits.loads.x: there is no load x"),
        ("readings", [{}], "readings[0].id: is missing"),
    ],
)
def test_bad_files_are_refused_with_their_place(path: str, value: Any, says: str) -> None:
    if path == "elements.2.style":
        document = loop()
        document["elements"][2] = piece("j", "w1", "l+", style="glue")
        says = "elements[2]: no joint of style glue; accepted: post clamp"
    else:
        document = changed(path, value)
    assert says in refused(document)


@pytest.mark.parametrize(
    ("raw", "says"),
    [
        (b"", "this is not JSON"),
        (b"[1]", "not an object"),
        (b"\xff\xfe\x00", "not UTF-8"),
        (b'{"a": NaN}', "holds NaN"),
        (b'{"a": -Infinity}', "holds -Infinity"),
        (b'{"a": 1e400}', "holds 1e400"),
        (b"[" * 200_000 + b"]" * 200_000, "lists within lists"),
        (b" " * 50_000_000, "the file is 50 MB; accepted: up to 16 MB"),
        (b'{"a": ' + b"9" * 6000 + b"}", "a number is too long"),
        (rb'{"nodes": [{"name": "\ud83d Plug"}]}', "name: holds half a character"),
    ],
)
def test_what_is_no_json_document(raw: bytes, says: str) -> None:
    assert says in refused(raw)


def good_reading(**more: Any) -> Document:
    return {
        "id": "r1", "revision": "as-found", "red": "b+", "black": "f1", "value": 0.1,
        "accuracy": 0.001, "scenario": "on", "taken_at": "2026-05-06T09:00:00Z", **more,
    }  # fmt: skip


@pytest.mark.parametrize(
    ("more", "says"),
    [
        ({"red": "x"}, "readings[0].red: there is no x"),
        ({"revision": "x"}, "readings[0].revision: there is no x"),
        ({"scenario": "x"}, "readings[0].scenario: there is no x"),
        ({"supersedes": "x"}, "readings[0].supersedes: names no earlier reading"),
        ({"state": "wandering"}, "readings[0].value: does not go with state wandering"),
        ({"taken_at": "yesterday"}, "readings[0].taken_at: yesterday does not fit; accepted: UTC"),
    ],
)
def test_bad_readings(more: Document, says: str) -> None:
    assert says in refused(loop(readings=[good_reading(**more)]))
    assert "stands twice" in refused(loop(readings=[good_reading(), good_reading()]))


def test_the_network_is_judged_apart() -> None:
    document = loop()
    document["nodes"].append({"id": "alone"})
    errors, remarks = judge(read_job(json.dumps(document).encode()), TABLES)
    assert (errors, [e.path for e in remarks]) == ([], ["nodes[7]"])
