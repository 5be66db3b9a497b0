import json
import shutil
from pathlib import Path
from typing import Any

import pytest
from flask import Flask
from flask.testing import FlaskClient
from hypothesis import HealthCheck, settings

from spare_margin.core.model.pieces import Craft
from spare_margin.core.model.tables import Tables
from spare_margin.data.tables import shipped_tables
from spare_margin.exchange.job_file.job_file import read_job
from spare_margin.service.workshop.demo import fill_with_demo
from spare_margin.store.file.migrating import migrate
from spare_margin.web.app import create_app, put_over

# How long an example takes says nothing: the machine may be busy. The same examples each time, so that a
# run that passed passes again; others are looked for with `pytest --hypothesis-profile=explore`.
UNHURRIED = [HealthCheck.too_slow]
settings.register_profile(
    "unhurried", deadline=None, derandomize=True, suppress_health_check=UNHURRIED
)
settings.register_profile("explore", deadline=None, suppress_health_check=UNHURRIED)
settings.register_profile(
    "quick", deadline=None, derandomize=True, suppress_health_check=UNHURRIED, max_examples=10
)
settings.load_profile("unhurried")
EXAMPLES = Path(__file__).parent / "examples"
Document = dict[str, Any]


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """The longest test first, so that nobody waits for it alone at the end."""
    items.sort(key=lambda item: "test_comes_back" not in item.nodeid)


@pytest.fixture(scope="session")
def tables() -> Tables:
    return shipped_tables()


def job_document(elements: list[Document], **more: Any) -> Document:
    """A job file document with these elements; its points are whatever they join."""
    ends = dict.fromkeys(e[key] for e in elements for key in ("from", "to"))
    loads = [e["id"] for e in elements if e["kind"] == "load"]
    return {
        "format": "spare-margin-job",
        "version": 1,
        "title": "Test craft",
        "craft": "boat",
        "nominal_v": 12,
        "chassis_polarity": "none",
        "reference": "b-",
        "nodes": [{"id": p} for p in dict.fromkeys(["b+", "b-", *ends])],
        "sources": [
            {
                "id": "s", "live": "b+", "return": "b-", "open_circuit_v": 12.6, "internal_ohm": 0.01,
            }
        ],
        "elements": elements,
        "scenarios": [{"id": "on", "on": loads}],
        **more,
    }  # fmt: skip


def piece(id_: str, start: str, end: str, side: str = "feed", **more: Any) -> Document:
    """A joint of 10 milliohm unless it is said otherwise."""
    made = {"id": id_, "kind": "joint", "from": start, "to": end, "side": side, **more}
    if made["kind"] == "joint" and "style" not in made:
        made.setdefault("resistance_ohm", 0.01)
    return made


def wire(id_: str, start: str, end: str, side: str = "feed", **more: Any) -> Document:
    """Five metres of 2.5 mm2 unless it is said otherwise."""
    size = {"system": "mm2", "value": more.pop("mm2", "2.5")}
    return piece(id_, start, end, side, kind="conductor", **{"length_m": 5.0, "size": size, **more})


def load(id_: str = "l", start: str = "l+", end: str = "l-", **more: Any) -> Document:
    """A load that holds 5 A unless it is said otherwise."""
    made = {"id": id_, "kind": "load", "from": start, "to": end, "name": f"Load {id_}", **more}
    if "behaviour" not in made:
        made |= {"behaviour": "constant_current", "current_a": 5.0}
    return made


def loop(**more: Any) -> Document:
    """One loop: fuse, wire and joint out; joint and wire back."""
    return job_document(
        [
            piece("f", "b+", "f1", kind="fuse", rating_a=10),
            wire("w", "f1", "w1"),
            piece("j", "w1", "l+", style="pin"),
            load(),
            piece("jr", "l-", "r1", "return", style="pin"),
            wire("wr", "r1", "b-", "return"),
        ],
        **more,
    )


def craft_of(document: Document) -> Craft:
    return read_job(json.dumps(document).encode()).craft


def in_si(answer: Any) -> Any:
    """An answer with the number in SI in place of each figure: most tests are about what was worked out."""
    if isinstance(answer, dict):
        if set(answer) == {"si", "text", "unit", "brief"}:
            return answer["si"]
        return {key: in_si(each) for key, each in answer.items()}
    return [in_si(each) for each in answer] if isinstance(answer, list) else answer


class _InSi:
    @property
    def json(self) -> Any:
        return in_si(super().json)  # type: ignore[misc]


def client_of(app: Flask) -> FlaskClient:
    """A client whose answers hold numbers in SI; `get_json` gives them as they came."""
    made = app.test_client()
    made.response_wrapper = type("InSi", (_InSi, made.response_wrapper), {})
    return made


@pytest.fixture(scope="session")
def templates(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A folder with databases to copy: `empty.sqlite3`, and `demo.sqlite3` with the demo jobs.

    The list of the demo jobs is worked out: it would be again in each test that opens it.
    """
    folder = tmp_path_factory.mktemp("templates")
    migrate(folder / "empty.sqlite3")
    fill_with_demo(folder / "demo.sqlite3")
    listing = create_app(folder / "demo.sqlite3").test_client()
    while listing.get("/api/v1/jobs").get_json()["waiting"]:
        pass
    return folder


@pytest.fixture(scope="session")
def shell(tmp_path_factory: pytest.TempPathFactory) -> Flask:
    """An application made once, put over one database after another."""
    return create_app(tmp_path_factory.mktemp("shell") / "none.sqlite3")


@pytest.fixture
def app(tmp_path: Path, templates: Path, shell: Flask) -> Flask:
    put_over(shell, Path(shutil.copy(templates / "empty.sqlite3", tmp_path / "jobs.sqlite3")))
    return shell


@pytest.fixture
def client(app: Flask) -> FlaskClient:
    return client_of(app)


@pytest.fixture
def demo_database(tmp_path: Path, templates: Path) -> Path:
    """A fresh copy of the demo jobs."""
    return Path(shutil.copy(templates / "demo.sqlite3", tmp_path / "demo.sqlite3"))


@pytest.fixture
def demo(demo_database: Path, shell: Flask) -> FlaskClient:
    """A client over the demo jobs."""
    put_over(shell, demo_database)
    return client_of(shell)
