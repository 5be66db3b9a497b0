"""A job takes its workshop's own rows along to another workshop."""

import json
from pathlib import Path
from typing import Any

import pytest
from flask.testing import FlaskClient

from spare_margin.web.app import create_app
from tests.conftest import client_of
from tests.test_cli import run
from tests.web.test_api import sheet
from tests.web.test_drawing import drawn, fresh
from tests.web.test_tables import OWN_SET, rows

WIRE = {
    "system": "mm2", "size": "3.3", "area_mm2": "3.3", "material": "copper", "finish": "plain",
    "ohm_per_km_20c": "5.6", "source": "the drum",
}  # fmt: skip
JOINT = {
    "kind": "joint", "style": "clip", "name": "clip", "good_low_milliohm": "1",
    "good_high_milliohm": "2", "aged_milliohm": "6", "source": "measured",
}  # fmt: skip
LINE = '3.3 mm2 4 m > joint clip > load "Fan" 5 A > 3.3 mm2 4 m'


@pytest.fixture
def other(tmp_path: Path) -> FlaskClient:
    """Another workshop, with tables of its own."""
    return client_of(create_app(tmp_path / "other.sqlite3"))


@pytest.fixture
def taken_out(client: FlaskClient) -> dict[str, Any]:
    """A job drawn with own rows, as its file."""
    rows(
        client, "conductors", {"cells": WIRE}, {"cells": {**WIRE, "size": "7.7", "area_mm2": "7.7"}}
    )
    rows(client, "fixed_pieces", {"cells": JOINT})
    rows(client, "limit_sets", {"cells": OWN_SET})
    rows(client, "single_limits", {"cells": {"set": "ours", "kind": "joint", "volts": "0.02"}})
    job = fresh(client)
    client.post(f"{job}/details", json={"limit_set": "ours"})
    drawn(client, job, LINE)
    document: dict[str, Any] = client.get(f"{job}/file").json
    return document


def bring(client: FlaskClient, document: dict[str, Any]) -> Any:
    return client.post("/api/v1/jobs", data=json.dumps(document))


def test_only_the_rows_that_the_job_rests_on_travel(taken_out: dict[str, Any]) -> None:
    tables = taken_out["tables"]
    assert {table: len(held) for table, held in tables.items()} == {
        "conductors": 1, "fixed_pieces": 1, "limit_sets": 1, "single_limits": 1,
    }  # fmt: skip
    assert tables["conductors"][0]["ohm_per_km_20c"] == 5.6


def test_another_workshop_reads_the_same_figures(
    client: FlaskClient, other: FlaskClient, taken_out: dict[str, Any]
) -> None:
    seen = other.post("/api/v1/jobs/preview", data=json.dumps(taken_out)).json
    assert seen["errors"] == []
    assert "Brings for the tables here, wire: mm2 3.3 plain." in seen["notices"]
    assert "Brings for the tables here, limit sets: ours." in seen["notices"]
    assert not any(r["own"] for s in other.get("/api/v1/tables").json["tables"] for r in s["rows"])
    job = f"/api/v1/jobs/{bring(other, taken_out).json['id']}"
    at_home = next(j["id"] for j in client.get("/api/v1/jobs").json["jobs"])
    here, there = sheet(other, job)["run"], sheet(client, f"/api/v1/jobs/{at_home}")["run"]
    assert (here["spare_v"], here["columns"]) == (there["spare_v"], there["columns"])
    assert other.get(f"{job}/file").json == taken_out
    # A second time there is nothing new to bring.
    assert bring(other, taken_out).status_code == 201
    again = other.post("/api/v1/jobs/preview", data=json.dumps(taken_out)).json
    assert not [n for n in again["notices"] if n.startswith("Brings")]


def test_a_row_that_stands_otherwise_here_is_not_overwritten(
    other: FlaskClient, taken_out: dict[str, Any]
) -> None:
    rows(other, "conductors", {"cells": {**WIRE, "ohm_per_km_20c": "5.2"}})
    for answer in (
        bring(other, taken_out),
        other.post("/api/v1/jobs/preview", data=json.dumps(taken_out)),
    ):
        wrong = answer.json["errors"][0]
        assert wrong["field"] == "tables.conductors[0]"
        assert wrong["problem"] == "mm2 3.3 plain stands otherwise in the tables here"
    assert other.get("/api/v1/jobs").json["jobs"] == []
    shipped = {**WIRE, "size": "2.5", "area_mm2": "2.5"}
    taken_out["tables"]["conductors"].append(shipped)
    assert bring(other, taken_out).json["errors"][0]["field"] == "tables.conductors[0]"


def test_a_limit_set_of_a_taken_name_is_renamed(
    other: FlaskClient, taken_out: dict[str, Any]
) -> None:
    rows(other, "limit_sets", {"cells": {**OWN_SET, "feed_v": "0.9"}})
    job = f"/api/v1/jobs/{bring(other, taken_out).json['id']}"
    seen = sheet(other, job)
    assert seen["limit_set_id"] == "ours-2"
    assert [s["ceiling_v"] for s in seen["run"]["sides"]] == [0.3, 0.15]


@pytest.mark.parametrize(
    ("tables", "field", "problem"),
    [
        ({"potatoes": []}, "tables.potatoes", "is unknown"),
        ({"conductors": [{**WIRE, "ohm_per_km_20c": -1}]}, "tables.conductors[0].ohm_per", "no such"),
        ({"conductors": [{**WIRE, "area_mm2": True}]}, "tables.conductors[0].area_mm2", "is neither"),
        ({"conductors": [{**WIRE, "area_mm2": 10**400}]}, "tables.conductors[0].area_mm2", "too large"),
        ({"conductors": [WIRE, WIRE]}, "tables.conductors[1]", "stands twice"),
        ({"conductors": [{"system": "mm2"}]}, "tables.conductors[0].size", "is empty"),
        ({"limit_sets": [{**OWN_SET, "set": "by-duty"}]}, "tables.limit_sets", "is a shipped set"),
        ({"limit_sets": [{**OWN_SET, "duty": "charging"}]}, "tables.limit_sets", "says nothing of"),
        ({"single_limits": [{"set": "x", "kind": "joint", "volts": 1}]}, "tables.single_limits", "no set"),
    ],
)  # fmt: skip
def test_bad_rows_in_a_file_are_named(
    other: FlaskClient, taken_out: dict[str, Any], tables: Any, field: str, problem: str
) -> None:
    wrong = bring(other, {**taken_out, "tables": tables}).json["errors"][0]
    assert wrong["field"].startswith(field)
    assert problem in wrong["problem"]


def test_the_command_line_reads_with_them(taken_out: dict[str, Any], tmp_path: Path) -> None:
    (tmp_path / "job.json").write_text(json.dumps(taken_out))
    answer = run("solve", tmp_path / "job.json")
    assert answer.exit_code == 0
    wires = [e for e in json.loads(answer.stdout)["elements"].values() if e["resistance_ohm"]]
    assert any(e["resistance_ohm"] == pytest.approx(0.0224, rel=0.05) for e in wires)
