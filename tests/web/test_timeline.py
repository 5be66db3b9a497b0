"""The timeline of a job: everything that was done, by whom and when; nothing of it goes away."""

import csv
import io
import json

from flask.testing import FlaskClient

from spare_margin.core.model.jobs import Reading, Revision
from spare_margin.data.tables import demo_files
from spare_margin.exchange.job_file.job_file import ReadJob, read_job
from spare_margin.service.records.timeline import timeline
from tests.web.test_api import MARRAM, change, sheet, take

DUNLIN = "/api/v1/jobs/demo-3-show-truck-dunlin"


def says(client: FlaskClient, job: str) -> list[tuple[str, str]]:
    answer = client.get(f"{job}/timeline")
    assert answer.status_code == 200
    return [(e["who"], e["says"]) for e in answer.json["events"]]


def test_a_job_from_taking_in_to_the_signature(demo: FlaskClient) -> None:
    told = says(demo, DUNLIN)
    assert ("Mads", "Read as found: 1 current, 8 readings of volts.") in told
    assert ("Mads", "Read as left: 1 current, 8 readings of volts.") in told
    assert any(what == "Planned: Rear lug remade; lift return replaced." for _, what in told)
    noted = next(what for who, what in told if "taken note of" in what)
    assert "no joint is hot" in noted
    assert "at the battery" in noted
    assert told[-1][1] == "Put on the shelf here."  # from its file, after all that
    assert told[-2] == ("Mads Ottesen", "Stage lift: signed as installer; proved.")


def test_undone_changes_and_withdrawn_readings_stay_in_it(demo: FlaskClient) -> None:
    before = says(demo, MARRAM)
    change(demo, sheet(demo), "tap-ring", repair="remade")
    demo.post(f"{MARRAM}/steps", json={"stage": "planned", "direction": "undo"})
    take(demo, "0.40", ("tap-r", "bus"), id="first-reading-1", who="Ada")
    take(demo, "", ("tap-r", "bus"), supersedes="first-reading-1", who="Ada")
    after = says(demo, MARRAM)
    assert [e for e in after if e in before] == before
    new = [e for e in after if e not in before]
    assert ("", "Planned: Ring at bus: remade.") in new
    assert ("Ada", "Read as found: 1 reading of volts, 1 taken back.") in new


def test_who_changed_the_wiring_is_told_and_travels(demo: FlaskClient) -> None:
    body = {"stage": "as_found", "revision": sheet(demo)["revision"], "element": "tap-ring",
            "edit": {"repair": "remade"}, "view": {"run": "tap", "scenario": "evening"}}  # fmt: skip
    who = {"X-Who": "%C3%85se%0A  Lund"}
    assert demo.post(f"{MARRAM}/changes", json=body, headers=who).status_code == 200
    assert ("Åse Lund", "Planned: Ring at bus: remade.") in says(demo, MARRAM)
    file = json.loads(demo.get(f"{MARRAM}/file").data)
    assert file["revisions"][-1]["who"] == "Åse Lund"
    made = demo.post("/api/v1/jobs/new", headers=who, json={
        "title": "New", "craft": "boat", "nominal_v": 12, "polarity": "none", "battery": "agm",
    }).json["id"]  # fmt: skip
    assert ("Åse Lund", "As found: drawn up.") in says(demo, f"/api/v1/jobs/{made}")


def test_readings_go_out_as_csv(demo: FlaskClient) -> None:
    take(demo, "0.40", ("tap-r", "bus"), who="Ada", note="=1+1")
    text = demo.get(f"{MARRAM}/readings.csv").get_data(as_text=True)
    rows = list(csv.DictReader(io.StringIO(text)))
    assert len(rows) == 10
    last = rows[-1]
    assert (last["who"], last["typed"], last["note"]) == ("Ada", "0.40", "'=1+1")
    assert last["red"] == "Tap pump return, ring at the bus"
    assert float(last["value"]) == 0.4


def test_readings_of_one_sitting_are_one_line() -> None:
    read = read_job(dict(demo_files())["1-sloop-marram"])
    first = read.readings[0]

    def at(minute: int, who: str = "Ada") -> Reading:
        clock = f"2026-05-06T{9 + minute // 60:02d}:{minute % 60:02d}:00Z"
        return Reading(**{**_fields(first), "id": f"r{minute}{who}", "taken_at": clock, "who": who})

    own: Revision = read.revisions[0]
    some = (at(0), at(30), at(60), at(200), at(61, "Bo"), at(210))
    told = timeline(ReadJob(read.job, (own,), some))
    sittings = [(e.who, len(e.readings)) for e in told if e.code == "read"]
    assert sittings == [("Ada", 3), ("Bo", 1), ("Ada", 2)]
    times = [e.at for e in told]
    assert times == sorted(times)


def _fields(reading: Reading) -> dict[str, object]:
    return {name: getattr(reading, name) for name in Reading.__slots__}
