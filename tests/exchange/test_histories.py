"""What the parts of a job file must say of one another: histories, heads, moments, trials, readings."""

import json
from typing import Any

import pytest

from spare_margin.exchange.job_file.job_file import JobFileErrors, read_job
from tests.conftest import Document, loop

WIRING = ("nodes", "sources", "elements", "scenarios", "reference")


def later(id_: str, parent: str | None, stage: str = "planned", **more: Any) -> Document:
    plain = loop()
    return {
        "id": id_, "parent": parent, "stage": stage, "made_at": "2026-05-06T09:00:00Z",
        "wiring": {key: plain[key] for key in WIRING}, **more,
    }  # fmt: skip


def moment(**more: Any) -> Document:
    return {"id": "m1", "scenario": "on", **more}


def trial(**more: Any) -> Document:
    return {"id": "t1", "moment": "m1", "kind": "bridge", "from": "f1", "to": "w1", **more}


def reading(**more: Any) -> Document:
    return {
        "id": "r1", "red": "b+", "black": "f1", "value": 0.1, "accuracy": 0.001, "scenario": "on",
        "taken_at": "2026-05-06T09:00:00Z", **more,
    }  # fmt: skip


def errors(**parts: Any) -> list[str]:
    try:
        read_job(json.dumps(loop(**parts)).encode())
    except JobFileErrors as refused:
        return [e.sentence() for e in refused.errors]
    return []


@pytest.mark.parametrize(
    "parts",
    [
        {"revisions": [later("p1", "as-found"), later("p2", "p1"), later("l1", "p2", "as_left")]},
        {"revisions": [later("p2", "p1"), later("p1", "as-found")]},
        {"revisions": [later("p1", None)]},
        {"moments": [moment(loads={"l": "attempted"})], "trials": [trial(outcome="right")],
         "readings": [reading(moment="m1", trial="t1")]},
        {"readings": [reading(), reading(id="r2", supersedes="r1", value=0.2)]},
        {"readings": [reading(value=None, state="over_range")]},
        {"revisions": [later("p1", "as-found")], "heads": {"planned": {"at": "p1", "tip": "p1"}}},
        {"revisions": [later("p1", "as-found")], "heads": {"planned": {"at": None, "tip": "p1"}}},
    ],
)  # fmt: skip
def test_what_hangs_together_is_taken(parts: Document) -> None:
    assert errors(**parts) == []


@pytest.mark.parametrize(
    ("parts", "says"),
    [
        ({"revisions": [later("p1", "nobody")]}, "revisions[0].parent: there is no nobody"),
        ({"revisions": [later("p1", "p1")]}, "revisions[0].parent: leads round in a circle"),
        ({"revisions": [later("p1", "p2"), later("p2", "p1")]}, "leads round in a circle"),
        ({"revisions": [later("p1", "p2"), later("p2", "p3"), later("p3", "p2")]},
         "revisions[1].parent: leads round in a circle"),
        ({"revisions": [later("p1", "as-found"), later("p1", "as-found")]}, "an id stands twice"),
        ({"revisions": [later("as-found", None)]}, "an id stands twice"),
        ({"heads": {"planned": {"at": "p9", "tip": "p9"}}}, "heads.planned.at: p9 is no revision of it"),
        ({"revisions": [later("p1", "as-found")], "heads": {"as_left": {"at": "p1", "tip": "p1"}}},
         "heads.as_left.at: p1 is no revision of it"),
        ({"revisions": [later("x1", "as-found", "as_found")],
          "heads": {"as_found": {"at": "x1", "tip": "x1"}}}, "is not the file's own wiring"),
        ({"moments": [moment(), moment()]}, "moments[1].id: the id m1 stands twice"),
        ({"moments": [moment(scenario="night")]}, "moments[0].scenario: there is no night"),
        ({"moments": [moment(loads={"x": "off"})]}, "moments[0].loads.x: there is no load x"),
        ({"moments": [moment(loads={"l": "broken"})]}, "moments[0].loads.l"),
        ({"moments": [moment()], "trials": [trial(), trial()]}, "trials[1].id: the id t1 stands twice"),
        ({"trials": [trial()]}, "trials[0].moment: there is no m1"),
        ({"moments": [moment()], "trials": [trial(to="zz")]}, "trials[0].to: there is no zz"),
        ({"moments": [moment()], "trials": [trial(to="f1")]}, "joins f1 to itself"),
        ({"readings": [reading(moment="m9")]}, "readings[0].moment: there is no m9"),
        ({"readings": [reading(trial="t9")]}, "readings[0].trial: there is no t9"),
        ({"readings": [reading(value=None)]}, "readings[0].value: does not go with state value"),
        ({"readings": [reading(supersedes="r2"), reading(id="r2")]},
         "readings[0].supersedes: names no earlier reading"),
    ],
)  # fmt: skip
def test_what_contradicts_itself_is_refused_with_its_place(parts: Document, says: str) -> None:
    told = errors(**parts)
    assert any(says in each for each in told), told


def test_everything_wrong_is_told_at_once() -> None:
    told = errors(
        revisions=[later("p1", "nobody")],
        moments=[moment(scenario="night")],
        readings=[reading(red="zz"), reading(id="r2", black="yy")],
    )
    assert len(told) == 4


def test_a_long_history_is_walked_once() -> None:
    """A chain of revisions, the last named first: no recursion, no endless search."""
    chain = [later("p0", "as-found")]
    for i in range(1, 60):
        chain.append(later(f"p{i}", f"p{i - 1}"))
    assert errors(revisions=chain[::-1]) == []
    chain[0]["parent"] = "p59"
    told = errors(revisions=chain)
    assert told
    assert all("circle" in each for each in told)
