"""Tables and settings through the API: own rows, CSV all or nothing, units everywhere."""

from typing import Any

import pytest
from flask.testing import FlaskClient

from spare_margin.data.table_rows import TABLES
from spare_margin.data.tables import shipped_rows
from spare_margin.exchange.tables.table_csv import read_rows, write_rows
from tests.conftest import Document
from tests.web.test_api import MARRAM, column, sheet, take
from tests.web.test_craft import craft
from tests.web.test_drawing import drawn, fresh

HEAD = "system,size,area_mm2,material,finish,ohm_per_km_20c,source\n"
OWN_SIZE = HEAD + "mm2,3.3,3.3,copper,plain,5.6,our drum\n"
OWN_SET = {
    "set": "ours", "name": "Ours", "why": "we sign it", "duty": "any", "critical": "any",
    "feed_v": "0.3", "return_v": "0,15", "round_trip_v": "", "note": "",
}  # fmt: skip


def csv(client: FlaskClient, table: str, text: str) -> Any:
    return client.post(f"/api/v1/tables/{table}/csv", data=text.encode())


def rows(client: FlaskClient, table: str, *typed: Document, gone: tuple[str, ...] = ()) -> Any:
    body = {"rows": list(typed), "gone": list(gone)}
    return client.post(f"/api/v1/tables/{table}/rows", json=body)


@pytest.mark.parametrize("table", list(TABLES))
def test_every_shelf_goes_out_and_in_again(client: FlaskClient, table: str) -> None:
    text = client.get(f"/api/v1/tables/{table}/csv").text
    assert text
    again = read_rows(text, TABLES[table])
    assert len(again) == len(shipped_rows(table))
    assert write_rows(
        read_rows(write_rows(again, TABLES[table]), TABLES[table]), TABLES[table]
    ) == (write_rows(again, TABLES[table]))


def test_a_size_of_ones_own(client: FlaskClient) -> None:
    job = fresh(client)
    refused = client.post(f"{job}/line/read", json={"text": "3.3 mm2 2 m"})
    assert "there is no size" in refused.json["errors"][0]["problem"]
    kept = csv(client, "conductors", OWN_SIZE).json
    assert kept["table"]["rows"][0]["cells"]["source"] == "our drum"
    drawn(client, job, "3.3 mm2 2 m > load Fan 2 A > 3.3 mm2 2 m")
    wire = sheet(client, job)["run"]["columns"][1]
    assert wire["resistance_ohm"] == pytest.approx(0.0112 * (1 + 0.00393 * 5))
    assert "our drum" in next(x["source"] for x in wire["working"] if x["about"] == "resistance")
    used = rows(client, "conductors", gone=("mm2|3.3|plain",))
    assert used.json["errors"][0]["problem"] == "it is used by Yawl Teasel"


def test_an_own_row_stands_in_for_a_shipped_one_and_can_be_undone(client: FlaskClient) -> None:
    text = "kind,style,name,good_low_milliohm,good_high_milliohm,aged_milliohm,source\n"
    kept = csv(
        client,
        "fixed_pieces",
        text + "joint;pin".replace(";", ",") + ",our pins,1,1,4,40 readings\n",
    )
    row = kept.json["table"]["rows"][0]
    assert (row["own"], row["instead"]) == (True, True)
    job = fresh(client)
    drawn(client, job, "pin > 1 mm2 1 m > load Fan 2 A > 1 mm2 1 m")
    assert sheet(client, job)["run"]["columns"][1]["resistance_ohm"] == pytest.approx(0.001)
    undone = rows(
        client, "fixed_pieces", *kept.json["undo"]["rows"], gone=tuple(kept.json["undo"]["gone"])
    )
    assert undone.status_code == 200
    assert not any(r["own"] for r in undone.json["table"]["rows"])
    assert sheet(client, job)["run"]["columns"][1]["resistance_ohm"] == pytest.approx(
        0.00316, rel=0.01
    )


@pytest.mark.parametrize(
    ("text", "field", "problem"),
    [
        ("", "line 1", "there is nothing"),
        ("size,colour\n1,red\n", "line 1", "there is no column colour"),
        ("system,size\nmm2,1\n", "line 1", "the column area_mm2 is missing"),
        (OWN_SIZE + "mm2,5,5\n", "line 3, system", "has 3 cells"),
        (OWN_SIZE + "mm2,5,nan,copper,plain,3,me\n", "line 3, area_mm2", "no such number"),
        (OWN_SIZE + "mm2,5,5,copper,plain,1e400,me\n", "line 3, ohm_per_km_20c", "no such number"),
        (OWN_SIZE + "inch,5,5,copper,plain,3,me\n", "line 3, system", "is unknown"),
        (OWN_SIZE + "mm2,3.3,5,copper,plain,3,me\n", "line 3, system", "the same row as line 2"),
        (OWN_SIZE + 'mm2,"5,5,copper,plain,3,me\n', "line 3", ""),
        (HEAD, "line 2", "there is no row"),
    ],
)
def test_a_bad_table_is_refused_whole(
    client: FlaskClient, text: str, field: str, problem: str
) -> None:
    answer = csv(client, "conductors", text)
    assert answer.status_code == 422
    assert answer.json["errors"][0]["field"] == field
    assert problem in answer.json["errors"][0]["problem"]
    table = client.get("/api/v1/tables").json["tables"][0]
    assert not any(r["own"] for r in table["rows"])


def test_a_table_too_large_or_not_text_is_refused(client: FlaskClient) -> None:
    large = csv(client, "conductors", "x" * 3_000_000)
    assert large.status_code == 413
    assert "up to 2 MB" in large.json["detail"]
    raw = client.post("/api/v1/tables/conductors/csv", data=b"\xff\xfe\x00")
    assert raw.json["errors"][0]["problem"] == "is not UTF-8 text"
    assert csv(client, "potatoes", "a\n1\n").status_code == 404


def test_a_limit_set_of_ones_own(client: FlaskClient) -> None:
    job = fresh(client)
    drawn(client, job, "2.5 mm2 4 m > load Fan 5 A > 2.5 mm2 4 m")
    kept = rows(client, "limit_sets", {"cells": OWN_SET})
    assert kept.status_code == 200, kept.json
    rows(client, "single_limits", {"cells": {"set": "ours", "kind": "joint", "volts": "0.02"}})
    assert client.post(f"{job}/details", json={"limit_set": "ours"}).status_code == 200
    run = sheet(client, job)["run"]
    assert [s["ceiling_v"] for s in run["sides"]] == [0.3, 0.15]
    assert craft(client, job)["limit_set"]["name"] == "Ours"
    schools = client.get(f"{job}/limit-sets").json["sets"]
    assert [s["own"] for s in schools if s["in_use"]] == [True]
    used = rows(client, "limit_sets", gone=("ours|any|any",))
    assert used.json["errors"][0]["problem"] == "ours is used by Yawl Teasel"


@pytest.mark.parametrize(
    ("more", "field", "problem"),
    [
        ({"return_v": ""}, "round_trip_v", "nothing bounds"),
        ({"set": "by-duty"}, "set", "is a shipped set"),
        ({"duty": "charging"}, "duty", "says nothing of"),
        ({"critical": "yes"}, "duty", "says nothing of"),
        ({"feed_v": "-1"}, "feed_v", "no such number"),
        ({"feed_v": "0"}, "feed_v", "no such number"),
        ({"colour": "red"}, "colour", "is not a column"),
    ],
)
def test_a_limit_set_must_speak_of_every_load(
    client: FlaskClient, more: Document, field: str, problem: str
) -> None:
    answer = rows(client, "limit_sets", {"cells": {**OWN_SET, **more}})
    assert answer.status_code == 422
    assert answer.json["errors"][0]["field"] == field
    assert problem in answer.json["errors"][0]["problem"]


def test_loads_and_runs_on_the_shelf_are_lines_that_can_be_drawn(client: FlaskClient) -> None:
    job = fresh(client)
    for run in client.get("/api/v1/typical-runs").json["runs"]:
        drawn(client, job, run["line"])
    for row in shipped_rows("loads").values():
        drawn(client, job, f"2.5 mm2 2 m > {row['line']} > 2.5 mm2 2 m")
    for table, line, problem in (("loads", "fuse 5", "is no load"), ("loads", "lod", "not understood"),
                                 ("typical_runs", "fuse pink", "no fuse of style")):  # fmt: skip
        cells = {"name": "x", "line": line, "source": "me"}
        answer = rows(client, table, {"cells": cells})
        assert problem in answer.json["errors"][0]["problem"]


def test_rows_are_edited_in_place(client: FlaskClient) -> None:
    cells = {"name": "Fan", "line": "load Fan 2 A", "source": "me"}
    rows(client, "loads", {"cells": cells})
    kept = rows(client, "loads", {"was": "Fan", "cells": {**cells, "name": "Roof fan"}})
    assert [r["key"] for r in kept.json["table"]["rows"] if r["own"]] == ["Roof fan"]
    assert rows(client, "loads", gone=("Fan",)).status_code == 422


def test_settings_speak_everywhere(demo: FlaskClient) -> None:
    said = {"workshop": "Teasel Works", "length": "ft", "size": "awg", "temperature": "F",
            "volts": "mV", "comma": "yes", "back_word": "ground", "meter": "Bench multimeter"}  # fmt: skip
    assert demo.post("/api/v1/settings", json=said).status_code == 200
    shown = sheet(demo)
    ring = column(shown, "tap-ring")
    assert shown["meter"].startswith("Bench multimeter")
    assert "mV" in next(x["result"] for x in ring["working"] if x["about"] == "allowance")
    wire = next(c for c in shown["run"]["columns"] if c["kind"] == "conductor")
    assert wire["form"]["length"].endswith(" ft")
    assert "," in wire["spec"]
    assert "ground" in shown["run"]["verdict_says"] or "ground" in str(shown["run"]["working"])
    body = {
        "stage": "as_found",
        "revision": shown["revision"],
        "element": wire["id"],
        "correct": True,
    }
    longer = demo.post(f"{MARRAM}/changes", json={**body, "edit": {"length": "10"}}).json
    craft_wire = next(
        e for e in demo.get(f"{MARRAM}/file").json["elements"] if e["id"] == wire["id"]
    )
    assert craft_wire["length_m"] == pytest.approx(3.048)
    text = longer["run"]["text"]
    read = demo.post(f"{MARRAM}/lines", json={
        "stage": "as_found", "revision": longer["revision"], "text": text,
        "run": longer["run"]["load"]["id"],
    })  # fmt: skip
    assert read.status_code == 200
    assert sheet(demo)["revision"] == longer["revision"], "the same text changes nothing"
    assert (
        take(demo, "0,012", (ring["entry"]["id"], ring["exit"]["id"]))
        .json["understood"]
        .startswith("12 mV")
    )


@pytest.mark.parametrize(
    ("bad", "field"),
    [({"length": "yard"}, "length"), ({"meter": "none"}, "meter"), ({"colour": "x"}, "colour")],
)
def test_a_bad_setting_is_named(client: FlaskClient, bad: Document, field: str) -> None:
    answer = client.post("/api/v1/settings", json=bad)
    assert (answer.status_code, answer.json["errors"][0]["field"]) == (422, field)
    assert client.get("/api/v1/settings").json["length"] == "m"
