"""Templates: a craft saved without its customer, jobs that begin from it, taken along and taken out."""

from contextlib import closing
from pathlib import Path

import pytest
from flask.testing import FlaskClient

from spare_margin.service.workshop.whole_workshop import bring_all, write_all
from spare_margin.store.file.database import connect
from spare_margin.store.file.migrating import migrate
from spare_margin.store.templates import templates

JOB = "/api/v1/jobs/demo-1-sloop-marram"
ASKED = {"title": "Sister sloop", "customer": "Ane Lund", "craft": "vehicle", "nominal_v": 24,
         "polarity": "negative", "battery": "none"}  # fmt: skip


def saved(client: FlaskClient, name: str = "Sloop, 28 feet", stage: str = "as_found") -> str:
    answer = client.post(f"{JOB}/template", json={"name": name, "stage": stage})
    assert answer.status_code == 201, answer.json
    return str(answer.json["id"])


def test_a_job_begins_from_a_saved_craft_and_nothing_of_the_customer(demo: FlaskClient) -> None:
    before = demo.get("/api/v1/jobs").json["total"]  # type: ignore[index]
    made = saved(demo)
    assert demo.get("/api/v1/jobs").json["total"] == before, "it is no job"  # type: ignore[index]
    began = demo.post("/api/v1/jobs/new", json={**ASKED, "template": made})
    assert began.status_code == 201, began.json
    job = f"/api/v1/jobs/{began.json['id']}"  # type: ignore[index]
    craft, first = demo.get(f"{job}/craft").json, demo.get(f"{JOB}/craft").json
    assert (craft["title"], craft["customer"]) == ("Sister sloop", "Ane Lund")
    assert (craft["craft"], craft["nominal_v"]) == (first["craft"], first["nominal_v"])
    assert {r["name"] for r in craft["runs"]} == {r["name"] for r in first["runs"]}
    assert craft["limit_set"] == first["limit_set"]
    assert not craft["measured"]
    text = demo.get(f"{job}/file").get_data(as_text=True)
    assert "Ingrid Solberg" not in text
    assert "Ring at bus" in text


def test_a_template_of_the_same_name_gives_way_and_one_is_taken_out(demo: FlaskClient) -> None:
    first = saved(demo)
    second = saved(demo)
    held = demo.get("/api/v1/jobs/templates").json["templates"]  # type: ignore[index]
    assert [t["id"] for t in held] == [second]
    assert demo.post("/api/v1/jobs/new", json={**ASKED, "template": first}).status_code == 404
    assert demo.delete(f"/api/v1/jobs/templates/{second}").json == {"templates": []}
    assert demo.delete(f"/api/v1/jobs/templates/{second}").status_code == 404


@pytest.mark.parametrize(("body", "status"), [
    ({"name": " ", "stage": "as_found"}, 422), ({"name": "x", "stage": "planned"}, 422),
    ({"name": "x" * 300, "stage": "as_found"}, 422),
])  # fmt: skip
def test_what_cannot_be_saved(demo: FlaskClient, body: dict[str, str], status: int) -> None:
    assert demo.post(f"{JOB}/template", json=body).status_code == status
    assert demo.get("/api/v1/jobs/templates").json == {"templates": []}


def test_templates_leave_with_the_workshop(demo: FlaskClient, tmp_path: Path) -> None:
    saved(demo)
    with closing(connect(demo.application.config["DATABASE"])) as here:
        list(write_all(here, tmp_path / "out"))
        (known,) = templates(here)
    there = tmp_path / "there.sqlite3"
    migrate(there)
    with closing(connect(there)) as other:
        brought = [
            b
            for b in bring_all(other, tmp_path / "out", "skip")
            if Path(b.file).parent.name == "templates"
        ]
        assert [(b.taken, b.title) for b in brought] == [("new", "Sloop, 28 feet")]
        (made,) = templates(other)
    assert (made.name, made.document) == (known.name, known.document)
