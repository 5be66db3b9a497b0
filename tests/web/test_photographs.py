"""Photographs over HTTP: added, shown, written under, deleted; out with the job as a zip, and in again."""

import io
import uuid
from pathlib import Path
from typing import Any
from zipfile import ZIP_DEFLATED, ZipFile

import pytest
from flask.testing import FlaskClient
from PIL import Image

from spare_margin.core.model.photographs import MOST_PHOTOGRAPHS
from spare_margin.service.records import photographs as service
from spare_margin.store.file.database import connect
from spare_margin.web.app import create_app
from spare_margin.web.common.context import connection, open_job
from tests.conftest import client_of
from tests.exchange.test_pictures import halves, saved
from tests.web.test_api import MARRAM

PHOTOGRAPHS = f"{MARRAM}/photographs"


def added(client: FlaskClient, of: dict[str, str], raw: bytes = b"", **more: Any) -> Any:
    query = {"id": uuid.uuid4().hex, **of, **more}
    data = raw or saved(halves(900, 600))
    return client.post(PHOTOGRAPHS, query_string=query, data=data, content_type="image/jpeg")


def held(client: FlaskClient, of: str = PHOTOGRAPHS) -> list[Any]:
    return list(client.get(of).json["photographs"])


def part(client: FlaskClient) -> str:
    """The id of the sloop's ring at the bus."""
    columns = client.get(f"{MARRAM}/sheet").json["run"]["columns"]
    return next(str(c["id"]) for c in columns if c["name"] == "Ring at bus")


def test_a_photograph_is_kept_with_what_it_is_of_and_shown_large_and_small(
    demo: FlaskClient,
) -> None:
    ring = part(demo)
    made = added(
        demo, {"subject": "part", "about": ring}, stage="as_left", note="new ring", who="Ada"
    )
    assert made.status_code == 201, made.json
    [shown] = held(demo)
    assert shown["photograph"] == made.json
    assert shown["shows"] == "Ring at bus"
    kept = shown["photograph"]
    assert (kept["stage"], kept["note"], kept["who"], kept["on_sheet"]) == (
        "as_left",
        "new ring",
        "Ada",
        False,
    )
    assert (kept["width_px"], kept["height_px"]) == (900, 600)
    for scale, size in (("large", (900, 600)), ("small", (320, 213))):
        answer = demo.get(f"{PHOTOGRAPHS}/{kept['id']}/{scale}")
        assert answer.content_type == "image/jpeg"
        assert Image.open(io.BytesIO(answer.data)).size == size


def test_each_subject_is_called_by_its_name(demo: FlaskClient) -> None:
    sheet = demo.get(f"{MARRAM}/sheet").json["run"]
    column = next(c for c in sheet["columns"] if c["name"] == "Ring at bus")
    reading = next(
        c["found"]["reading"] for c in sheet["columns"] if (c["found"] or {}).get("reading")
    )
    for of in (
        {"subject": "job"},
        {"subject": "point", "about": column["entry"]["id"]},
        {"subject": "part", "about": sheet["load"]["id"]},
        {"subject": "part", "about": sheet["source"]["id"]},
        {"subject": "reading", "about": reading},
        {"subject": "step", "about": f"order.clean.{column['id']}"},
        {"subject": "step", "about": "order.isolate"},
    ):
        assert added(demo, of).status_code == 201
    names = [each["shows"] for each in held(demo)]
    assert names[:4] == [
        "The job",
        column["entry"]["name"],
        sheet["load"]["name"],
        sheet["source"]["name"],
    ]
    assert " → " in names[4]
    assert names[5:] == ["Ring at bus", "Work order"]


@pytest.mark.parametrize(
    ("of", "raw", "field"),
    [
        ({"subject": "part", "about": "nowhere"}, b"", "about"),
        ({"subject": "point", "about": "nowhere"}, b"", "about"),
        ({"subject": "reading", "about": "nowhere"}, b"", "about"),
        ({"subject": "part"}, b"", "about"),
        ({"subject": "job", "about": "x"}, b"", "about"),
        ({"subject": "moon"}, b"", "subject"),
        ({"subject": "job"}, b"no picture", "picture"),
    ],
)
def test_what_does_not_fit_is_refused_by_its_field_and_nothing_is_kept(
    demo: FlaskClient, of: dict[str, str], raw: bytes, field: str
) -> None:
    answer = added(demo, of, raw)
    assert answer.status_code == 422
    assert answer.json["errors"][0]["field"].endswith(field)
    assert answer.json["errors"][0]["accepted"]
    assert held(demo) == []


def test_sent_twice_it_is_kept_once_and_another_under_its_id_is_refused(demo: FlaskClient) -> None:
    key = uuid.uuid4().hex
    job = {"subject": "job"}
    first = added(demo, job, id=key)
    assert added(demo, job, id=key).json == first.json
    assert added(demo, {"subject": "part", "about": part(demo)}, id=key).status_code == 409
    assert len(held(demo)) == 1


def test_it_is_written_under_ticked_deleted_and_taken_back(demo: FlaskClient) -> None:
    key = added(demo, {"subject": "job"}).json["id"]
    beat = demo.get(f"{MARRAM}/pulse").json
    said = demo.post(f"{PHOTOGRAPHS}/{key}", json={"note": "green", "on_sheet": True})
    assert (said.json["note"], said.json["on_sheet"]) == ("green", True)
    assert demo.get(f"{MARRAM}/pulse").json != beat, "other pages hear of it"
    assert demo.post(f"{PHOTOGRAPHS}/{key}/delete").status_code == 200
    assert held(demo) == []
    assert demo.post(f"{PHOTOGRAPHS}/{key}/delete").status_code == 404
    assert (
        demo.post(f"{PHOTOGRAPHS}/{key}", json={"note": "", "on_sheet": False}).status_code == 404
    )
    assert demo.post(f"{PHOTOGRAPHS}/{key}/take-back").json["note"] == "green"
    assert demo.post(f"{PHOTOGRAPHS}/{key}/take-back").json["note"] == "green"
    assert len(held(demo)) == 1
    assert demo.get(f"{PHOTOGRAPHS}/nothing/small").status_code == 404
    assert demo.get("/api/v1/jobs/nothing/photographs").status_code == 404


def test_what_was_deleted_is_gone_for_good_a_day_later(
    demo: FlaskClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    key = added(demo, {"subject": "job"}).json["id"]
    demo.post(f"{PHOTOGRAPHS}/{key}/delete")
    monkeypatch.setattr(service, "TAKEN_BACK_S", -1.0)
    added(demo, {"subject": "job"})
    assert demo.post(f"{PHOTOGRAPHS}/{key}/take-back").status_code == 404
    assert demo.get(f"{PHOTOGRAPHS}/{key}/large").status_code == 404


def test_a_job_has_a_bounded_number_of_them(
    demo: FlaskClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(service, "MOST_PHOTOGRAPHS", 1)
    added(demo, {"subject": "job"})
    answer = added(demo, {"subject": "job"})
    assert answer.json["errors"][0]["problem"] == "the job has 1 already"
    # Nor by taking one back: the file would be refused elsewhere.
    [shown] = held(demo)
    first = f"{PHOTOGRAPHS}/{shown['photograph']['id']}"
    demo.post(f"{first}/delete")
    assert added(demo, {"subject": "job"}).status_code == 201
    assert demo.post(f"{first}/take-back").status_code == 422
    assert len(held(demo)) == 1
    assert MOST_PHOTOGRAPHS == 200


# Out and in


@pytest.fixture
def elsewhere(tmp_path: Path) -> FlaskClient:
    """A client over another workshop, which has no job yet."""
    return client_of(create_app(tmp_path / "elsewhere.sqlite3"))


def taken_out(client: FlaskClient) -> bytes:
    answer = client.get(f"{MARRAM}/file")
    assert answer.headers["Content-Disposition"].endswith(".zip")
    assert answer.content_type == "application/zip"
    return bytes(answer.data)


def test_a_job_leaves_with_its_photographs_and_comes_back_the_same(
    demo: FlaskClient, elsewhere: FlaskClient
) -> None:
    assert demo.get(f"{MARRAM}/file").content_type == "application/json", "none: plain JSON"
    key = added(demo, {"subject": "part", "about": part(demo)}, note="green").json["id"]
    gone = added(demo, {"subject": "job"}).json["id"]
    demo.post(f"{PHOTOGRAPHS}/{gone}/delete")
    out = taken_out(demo)
    with ZipFile(io.BytesIO(out)) as file:
        assert file.namelist() == ["job.json", f"photographs/{key}.jpg"]
        assert all(i.date_time == (1980, 1, 1, 0, 0, 0) for i in file.infolist())
        assert file.read(f"photographs/{key}.jpg") == demo.get(f"{PHOTOGRAPHS}/{key}/large").data
    # Into another workshop, where it is the very same.
    seen = elsewhere.post("/api/v1/jobs/preview", data=out).json
    assert seen["errors"] == []
    assert elsewhere.post("/api/v1/jobs", data=out).status_code == 201
    assert taken_out(elsewhere) == out
    # Into the one it came from: known, identical.
    assert "identical" in demo.post("/api/v1/jobs/preview", data=out).json["known"]["says"]


def test_what_only_the_file_has_is_added_and_one_deleted_here_comes_back(
    demo: FlaskClient, elsewhere: FlaskClient
) -> None:
    key = added(demo, {"subject": "job"}).json["id"]
    older = taken_out(demo)
    added(demo, {"subject": "job"})
    newer = taken_out(demo)
    assert elsewhere.post("/api/v1/jobs", data=older).status_code == 201
    elsewhere.post(f"{PHOTOGRAPHS}/{key}", json={"note": "written here", "on_sheet": True})
    says = elsewhere.post("/api/v1/jobs/preview", data=newer).json["known"]["says"]
    assert "it adds 1 photograph" in says
    assert elsewhere.post("/api/v1/jobs?how=merge", data=newer).status_code == 201
    assert [p["photograph"]["note"] for p in held(elsewhere)] == ["written here", ""]
    elsewhere.post(f"{PHOTOGRAPHS}/{key}/delete")
    assert elsewhere.post("/api/v1/jobs?how=merge", data=newer).status_code == 201
    assert len(held(elsewhere)) == 2
    assert elsewhere.post("/api/v1/jobs?how=copy", data=newer).status_code == 201


def zipped(**files: bytes) -> bytes:
    out = io.BytesIO()
    with ZipFile(out, "w", ZIP_DEFLATED) as file:
        for name, content in files.items():
            file.writestr(name, content)
    return out.getvalue()


def test_a_file_that_is_spoilt_is_refused_whole_and_says_why(
    demo: FlaskClient, elsewhere: FlaskClient
) -> None:
    key = added(demo, {"subject": "job"}).json["id"]
    out = taken_out(demo)
    with ZipFile(io.BytesIO(out)) as file:
        text, picture = file.read("job.json"), file.read(f"photographs/{key}.jpg")
    name = f"photographs/{key}.jpg"
    for raw, says in (
        (text, f"{name} is not in the file"),
        (zipped(**{"job.json": text}), f"{name} is not in the file"),
        (zipped(**{"job.json": text, name: picture, "more.txt": b"x"}), "holds more.txt"),
        (zipped(**{"job.json": text, name: b"no picture"}), "cannot be read"),
        (zipped(**{"job.json": text, name: bytes(30_000_001)}), "above 30 MB"),
        (zipped(**{"job.json": bytes(16_000_001)}), "above 16 MB"),
        (zipped(**{name: picture}), "has no job.json"),
        (zipped(**{"job.json": text, **{f"{i:0200}": b"" for i in range(600)}}), "too many files"),
        (out[:-30], "cannot be read"),
        (out[:4] + out[40:], "cannot be read"),
        (text.replace(f'"{key}"'.encode(), b'"other id"'), "id"),
    ):
        answer = elsewhere.post("/api/v1/jobs", data=raw)
        assert answer.status_code == 422, says
        assert says in answer.json["detail"] + str(answer.json["errors"]), answer.json
    assert elsewhere.get("/api/v1/jobs").json["total"] == 0
    for i in range(0, len(out), len(out) // 50):
        spoilt = out[:i] + bytes([out[i] ^ 0x3C]) + out[i + 1 :]
        assert elsewhere.post("/api/v1/jobs/preview", data=spoilt).status_code in (200, 422)
        assert elsewhere.post("/api/v1/jobs?how=copy", data=spoilt).status_code in (201, 422)


def test_pictures_are_not_read_with_the_job(demo: FlaskClient, demo_database: Any) -> None:
    """What makes a page asks for what is said of photographs, never for the pictures."""
    for _ in range(3):
        added(demo, {"subject": "job"})
    own = connect(demo_database)
    asked: list[str] = []
    own.set_trace_callback(asked.append)
    from spare_margin.store.photographs import photographs  # noqa: PLC0415

    assert len(photographs(own, "demo-1-sloop-marram")) == 3
    assert not any("photograph_picture" in each for each in asked)
    own.close()


def test_what_is_ticked_stands_on_the_hand_over_sheet_before_beside_after(
    demo: FlaskClient,
) -> None:
    """Of its own run and of the job; a photograph at a step stands beside those of the piece."""
    plain = demo.get(f"{MARRAM}/hand-over.pdf").data
    assert b"/DCTDecode" not in plain
    ring = part(demo)
    for of, stage, height in (
        ({"subject": "part", "about": ring}, "as_found", 2000),
        ({"subject": "step", "about": f"order.clean.{ring}"}, "as_left", 2200),
        ({"subject": "job"}, "as_found", 4000),
    ):
        key = added(demo, of, saved(halves(3000, height)), stage=stage).json["id"]
        demo.post(f"{PHOTOGRAPHS}/{key}", json={"note": "x", "on_sheet": True})
    added(demo, {"subject": "job"})
    made = demo.get(f"{MARRAM}/hand-over.pdf").data
    assert made.count(b"/DCTDecode") == 3
    assert b"/Width 1000" in made
    assert len(made) < len(plain) + 200_000


def test_the_timeline_tells_of_them(demo: FlaskClient) -> None:
    for stage in ("as_found", "as_found", "as_left"):
        added(demo, {"subject": "job"}, stage=stage)
    events = demo.get(f"{MARRAM}/timeline").json["events"]
    said = [e["says"] for e in events if e["code"] == "photographed"]
    assert said == ["As found: 2 photographs added.", "As left: 1 photograph added."]


def test_two_pieces_of_one_name_stand_apart_on_the_sheet(
    demo_database: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A pin before does not stand beside another pin after."""
    monkeypatch.setattr(service, "subject_words", lambda *_: "Pin")
    app = create_app(demo_database)
    client = client_of(app)
    run = client.get(f"{MARRAM}/sheet").json["run"]
    one, other = (c["id"] for c in run["columns"][:2])
    for about, stage in ((one, "as_found"), (other, "as_left"), (f"order.clean.{one}", "as_left")):
        subject = "step" if about.startswith("order") else "part"
        key = added(client, {"subject": subject, "about": about}, stage=stage).json["id"]
        client.post(f"{PHOTOGRAPHS}/{key}", json={"note": about, "on_sheet": True})
    with app.test_request_context():
        session = open_job("demo-1-sloop-marram")
        sheet = service.for_sheet(connection(), session, run["load"]["id"])
    assert {e.shows for e in sheet} == {"Pin"}
    found = [([x.note for x in e.before], [x.note for x in e.after]) for e in sheet]
    assert found == [([one], [f"order.clean.{one}"]), ([], [other])]


def test_a_step_on_a_piece_with_a_long_id_has_photographs_too(demo: FlaskClient) -> None:
    assert (
        added(demo, {"subject": "step", "about": f"order.replace_wire.{'w' * 64}"}).status_code
        == 201
    )
    assert added(demo, {"subject": "step", "about": "x" * 129}).status_code == 422
