"""Whatever the interface can make of a job goes out as a job file and comes back identical."""

import re
import shutil
import tempfile
import uuid
from functools import cache
from pathlib import Path
from typing import Any

from flask import Flask
from flask.testing import FlaskClient
from hypothesis import Phase, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, precondition, rule

from spare_margin.store.file.migrating import migrate
from spare_margin.web.app import create_app, put_over
from tests.conftest import Document
from tests.web.test_drawing import FAN, PUMP, asked

STAGES = st.sampled_from(["as_found", "planned", "as_left"])
LINES = st.sampled_from(
    [
        PUMP,
        FAN,
        '[Panel] > breaker 10 > ? > lamp "Cockpit lamp" 8 W at 12 V > ? > [Bus]',
        '16 mm2 2 m [Panel] > fuse 20 > relay > 4 mm2 6 m > heater "Bunk heater" 4 Ω > 4 mm2 6 m > ring',
        'fuse 30 > 6 mm2 3 m > converter "Navigator" 40 W > 6 mm2 3 m > ring',
    ]
)  # fmt: skip
TYPED = st.sampled_from(
    ["0.15", "150m", "-0.02", "OL", "~", "0.2-0.3", "12.61 V", "11000", "1,25", "skipped", "0", "nonsense"]
)  # fmt: skip
TITLES = st.text(
    st.characters(
        exclude_categories=("Cs", "Cc"), exclude_characters="\u202a\u202b\u202c\u202d\u202e"
        "\u2066\u2067\u2068\u2069",
    ),
    max_size=30,
)  # fmt: skip
"""What a job may be called: nothing that cannot be seen."""
WORDS = st.text(max_size=30) | st.sampled_from(["Süd-Ø 船", "2,5 return", "=1+1", " "])
PICK = st.integers(0, 50)
EDITS = st.sampled_from(
    [
        {"length": "4.2 m"}, {"size": "4 mm2"}, {"size": "14 AWG"}, {"resistance": "35 mΩ"},
        {"name": "Ring by the pump"}, {"repair": "remade"}, {"repair": "none"}, {"open": True},
        {"pinned": "0.05"}, {"insulation": "105"}, {"engine_space": True}, {"rating": "20"},
        {"style": "ring"}, {"kind": "switch"}, {"current": "3.1"}, {"least": "10.5"}, {"critical": True},
        {"duty": "control_supply"}, {"behaviour": "filament", "power": "21", "rated": "12"},
        {"open_circuit": "13.1"}, {"internal": "9 mΩ"}, {"length": "-1"},
    ]
)  # fmt: skip


@cache
def application(name: str) -> Flask:
    """Two programs do for all of it: what one is over is changed."""
    with tempfile.TemporaryDirectory() as folder:
        return create_app(Path(folder) / f"{name}.sqlite3")


class AnyJob(RuleBasedStateMachine):
    """A job, changed through the API in every way there is."""

    def __init__(self) -> None:
        super().__init__()
        self.folder = tempfile.TemporaryDirectory()
        self.empty = Path(self.folder.name) / "empty.sqlite3"
        migrate(self.empty)
        self.client = self.program("here")
        self.job = ""

    def program(self, name: str) -> FlaskClient:
        """The program here or there, over a new database; what it was over before is gone."""
        database = self.empty.with_name(f"{uuid.uuid4().hex}.sqlite3")
        shutil.copy(self.empty, database)
        app = application(name)
        put_over(app, database)
        return app.test_client()

    def post(self, path: str, body: Any) -> Document | None:
        answer = self.client.post(f"{self.job}{path}", json=body)
        assert answer.status_code < 500, (path, body, answer.text[:400])
        return answer.json if answer.status_code < 300 else None

    def get(self, path: str, **query: Any) -> Document | None:
        answer = self.client.get(f"{self.job}{path}", query_string=query)
        assert answer.status_code < 500, (path, query, answer.text[:400])
        return answer.json if answer.status_code < 300 else None

    def where(self, stage: str) -> Document:
        seen = self.get("/craft", stage=stage) or self.get("/craft")
        assert seen is not None
        return {"stage": seen["stage"], "revision": seen["revision"], "craft": seen}

    def change(self, what: str, stage: str, **body: Any) -> Document | None:
        where = self.where(stage)
        where.pop("craft")
        return self.post(f"/{what}", {**where, **body})

    # Ways to make and change a job

    @initialize(title=TITLES, battery=st.sampled_from(["flooded", "lithium", "none"]), clamps=st.booleans(),
                polarity=st.sampled_from(["negative", "positive", "none"]))  # fmt: skip
    def start(self, title: str, battery: str, clamps: bool, polarity: str) -> None:
        body = asked(title=title or "x", battery=battery, clamps=clamps, polarity=polarity)
        made = self.client.post("/api/v1/jobs/new", json=body)
        if made.status_code != 201:
            made = self.client.post("/api/v1/jobs/new", json=asked())
        self.job = f"/api/v1/jobs/{made.json['id']}"
        self.change("lines", "as_found", text=PUMP)

    @rule(stage=STAGES, text=LINES, correct=st.booleans())
    def draw(self, stage: str, text: str, correct: bool) -> None:
        self.change("lines", stage, text=text, correct=correct)

    @rule(stage=STAGES, edit=EDITS, pick=PICK, correct=st.booleans())
    def edit(self, stage: str, edit: Document, pick: int, correct: bool) -> None:
        shown = self.get("/sheet", stage=stage) or self.get("/sheet")
        if shown is None:
            return
        run = shown["run"]
        ids = [*(c["id"] for c in run["columns"]), run["load"]["id"], run["source"]["id"]]
        self.post("/changes", {
            "stage": shown["stage"], "revision": shown["revision"], "element": ids[pick % len(ids)],
            "edit": edit, "correct": correct,
        })  # fmt: skip

    @rule(stage=STAGES, action=st.sampled_from(["earlier", "later", "remove", "insert"]), pick=PICK)
    def move(self, stage: str, action: str, pick: int) -> None:
        shown = self.get("/sheet", stage=stage) or self.get("/sheet")
        if shown is not None and shown["run"]["columns"]:
            columns = shown["run"]["columns"]
            self.post("/columns", {
                "stage": shown["stage"], "revision": shown["revision"], "action": action,
                "run": shown["run"]["load"]["id"], "piece": columns[pick % len(columns)]["id"],
                "text": "pin" if action == "insert" else "",
            })  # fmt: skip

    @rule(stage=STAGES, action=st.sampled_from(["copy", "remove"]), correct=st.booleans())
    def whole_run(self, stage: str, action: str, correct: bool) -> None:
        runs = self.where(stage)["craft"]["runs"]
        if runs:
            self.change("runs", stage, run=runs[-1]["id"], action=action, correct=correct)

    @rule(stage=STAGES, direction=st.sampled_from(["undo", "undo", "redo"]))
    def step(self, stage: str, direction: str) -> None:
        self.post("/steps", {"stage": stage, "direction": direction})

    @rule()
    def finish(self) -> None:
        self.post("/as-left", {})

    @rule(name=WORDS, ambient=st.sampled_from(["20", "-5", "45"]), engine=st.sampled_from(["", "90"]),
          start=st.booleans())  # fmt: skip
    def scenario(self, name: str, ambient: str, engine: str, start: bool) -> None:
        loads = [x["id"] for x in self.where("as_found")["craft"]["loads"]]
        self.change("scenarios", "as_found", action="keep", form={
            "name": name or "Night", "on": loads[:2], "starting": loads[:1] if start else [],
            "ambient": ambient, "engine": engine, "temperature_model": "self_heating",
        })  # fmt: skip

    @rule(action=st.sampled_from(["copy", "remove"]))
    def scenario_again(self, action: str) -> None:
        shown = self.where("as_found")["craft"]["scenarios"]
        self.change("scenarios", "as_found", action=action, id=shown[-1]["id"])

    @rule(title=TITLES, when=WORDS, limit_set=st.sampled_from(["by-duty", "half-volt", "nothing"]))
    def details(self, title: str, when: str, limit_set: str) -> None:
        self.post("/details", {"title": title, "when": when, "limit_set": limit_set})

    @rule(
        stage=st.sampled_from(["as_found", "as_left"]),
        pick=PICK,
        other=PICK,
        typed=TYPED,
        note=WORDS,
        who=WORDS,
        hold=st.sampled_from(["", "", "least", "most"]),
        charging=st.sampled_from([None, True]),
        warm=st.sampled_from(["", "12"]),
        source=st.sampled_from(["", "12.4"]),
        quantity=st.sampled_from(["volts", "volts", "amperes", "ohms", "kelvin", "lamp"]),
    )
    def read(self, stage: str, pick: int, other: int, **said: Any) -> None:
        file = self.get("/file")
        assert file is not None
        points = [p["id"] for p in file["nodes"]]
        red, black = points[pick % len(points)], points[other % len(points)]
        states = {e["id"]: "running" for e in file["elements"] if e["kind"] == "load"}
        self.post("/readings", {
            "id": uuid.uuid4().hex, "stage": stage, "scenario": file["scenarios"][0]["id"], "red": red,
            "black": black, "states": states, "view": None, **said,
        })  # fmt: skip

    @rule(pick=PICK, typed=TYPED)
    def read_again(self, pick: int, typed: str) -> None:
        read = (self.get("/file") or {}).get("readings", [])
        if read:
            was = read[pick % len(read)]
            self.post("/readings", {
                "id": uuid.uuid4().hex, "stage": "as_found", "scenario": was["scenario"],
                "red": was["red"], "black": was["black"], "typed": typed, "supersedes": was["id"],
                "view": None,
            })  # fmt: skip

    @rule(state=st.sampled_from(["acknowledged", "skipped", "back"]), reason=WORDS)
    def note(self, state: str, reason: str) -> None:
        shown = self.get("/walk")
        if shown is not None and shown["now"] is not None:
            self.post("/walk/notes", {
                "id": uuid.uuid4().hex, "stage": "as_found", "run": shown["run"], "state": state,
                "step": shown["now"]["id"], "reason": reason,
            })  # fmt: skip

    @rule(resting=st.sampled_from(["12.65", "", "x"]), loaded=st.sampled_from(["12.3", ""]))
    def check_source(self, resting: str, loaded: str) -> None:
        seen = self.get("/source-check")
        if seen is not None:
            form = {**seen["form"], "resting": resting, "loaded": loaded, "current": "18 A"}
            self.post(
                "/source-check",
                {"source": seen["source"], "battery": seen["battery"], "form": form},
            )
            self.post("/source-model", {"source": seen["source"], "internal": "21 mΩ"})

    @rule(role=st.sampled_from(["fitter", "customer"]), name=WORDS, drawn=st.booleans())
    def sign(self, role: str, name: str, drawn: bool) -> None:
        proof = self.get("/proof")
        if proof is not None:
            strokes = [[[0.1, 0.123], [0.5, 1 / 3]], [[0.2, 0.2]]] if drawn else []
            self.post("/sign", {
                "id": uuid.uuid4().hex, "run": proof["run"], "revision": proof["revision"],
                "role": role, "name": name, "strokes": strokes,
            })  # fmt: skip
            assert self.client.get(f"{self.job}/hand-over.pdf").status_code == 200

    # What must hold

    def file(self, client: FlaskClient, job: str) -> str:
        answer = client.get(f"{job}/file")
        assert answer.status_code == 200, answer.text[:400]
        return str(answer.text)

    def brought_into_another(self) -> tuple[FlaskClient, str]:
        other = self.program("there")
        made = other.post("/api/v1/jobs", data=self.file(self.client, self.job).encode())
        assert made.status_code == 201, made.text[:600]
        return other, f"/api/v1/jobs/{made.json['id']}"

    @precondition(lambda self: self.job)
    @rule()
    def comes_back_identical(self) -> None:
        self.same_in_another()

    def same_in_another(self) -> tuple[FlaskClient, str]:
        other, there = self.brought_into_another()
        assert self.file(other, there) == self.file(self.client, self.job)
        return other, there

    def teardown(self) -> None:
        if self.job:
            other, there = self.same_in_another()
            step = {"stage": "as_found", "direction": "undo"}
            here = self.client.post(f"{self.job}/steps", json=step)
            away = other.post(f"{there}/steps", json=step)
            assert here.status_code == away.status_code, (
                "what can be undone here can be undone there"
            )
            assert nameless(self.file(other, there)) == nameless(self.file(self.client, self.job))
        self.folder.cleanup()


def nameless(file: str) -> str:
    """A job file with its ids by the order they come in, and without times: undo may make new ones."""
    order: dict[str, str] = {}
    plain = re.sub(r"[0-9a-f]{32}", lambda m: order.setdefault(m.group(), f"#{len(order)}"), file)
    return re.sub(r'"\d{4}-\d\d-\d\dT[^"]*"', '""', plain)


AnyJob.TestCase.settings = settings(
    max_examples=12,
    stateful_step_count=25,
    derandomize=True,
    deadline=None,
    database=None,
    phases=(Phase.explicit, Phase.generate),
)
TestAnyJob = AnyJob.TestCase
