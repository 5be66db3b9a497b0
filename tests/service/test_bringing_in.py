"""Job files that come in: new, known, merged, refused; a whole workshop that leaves and arrives."""

import copy
import io
import json
import multiprocessing
import os
import random
import sqlite3
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from click.testing import CliRunner, Result

from spare_margin.cli import main
from spare_margin.data.table_rows import TABLES
from spare_margin.data.tables import demo_files
from spare_margin.exchange.job_file.container import opened
from spare_margin.exchange.job_file.job_file import JobFileErrors, read_job
from spare_margin.service.workshop import bringing_in
from spare_margin.service.workshop.bringing_in import bring_in, known
from spare_margin.service.workshop.demo import fill_with_demo
from spare_margin.service.workshop.own_rows import OwnRow, RowsChange, keep
from spare_margin.service.workshop.whole_workshop import bring_file, job_text
from spare_margin.service.workshop.workshop import workshop
from spare_margin.store import workshop as workshop_store
from spare_margin.store.file.database import connect
from spare_margin.store.file.migrating import migrate

Document = dict[str, Any]
LIFT = "demo-3-show-truck-dunlin"


@pytest.fixture
def here(tmp_path: Path) -> Iterator[sqlite3.Connection]:
    """A database with the demo jobs."""
    fill_with_demo(tmp_path / "here.sqlite3")
    connection = connect(tmp_path / "here.sqlite3")
    yield connection
    connection.close()


def empty(folder: Path, name: str = "there") -> sqlite3.Connection:
    migrate(folder / f"{name}.sqlite3")
    return connect(folder / f"{name}.sqlite3")


def document(connection: sqlite3.Connection, job: str = LIFT) -> Document:
    text = job_text(connection, job)
    assert text is not None
    return dict(json.loads(text))


def raw(said: Document) -> bytes:
    return json.dumps(said).encode()


def relation(connection: sqlite3.Connection, said: Document) -> tuple[str, dict[str, int]]:
    found = known(connection, read_job(raw(said)), {})
    assert found is not None
    return found.relation, found.adds


def more_readings(said: Document, count: int = 2) -> Document:
    later = copy.deepcopy(said)
    for i in range(count):
        later["readings"].append({**later["readings"][-1], "id": f"later-{i}", "value": 0.0251})
    return later


def test_a_job_that_is_not_here_keeps_its_id_and_goes_out_byte_for_byte(
    here: sqlite3.Connection, tmp_path: Path
) -> None:
    there = empty(tmp_path)
    for name, _ in demo_files():
        text = job_text(here, f"demo-{name}")
        assert text is not None
        assert bring_in(there, opened(text.encode()), {}) == f"demo-{name}"
        assert job_text(there, f"demo-{name}") == text
    there.close()


def test_how_a_file_stands_to_the_job_here_is_told(here: sqlite3.Connection) -> None:
    held = document(here)
    assert relation(here, held) == ("same", {})
    assert relation(here, more_readings(held)) == ("newer", {"readings": 2})
    older = copy.deepcopy(held)
    del older["readings"][-1]
    assert relation(here, older) == ("older", {})
    both = more_readings(older)
    assert relation(here, both) == ("different", {"readings": 2})
    otherwise = copy.deepcopy(held)
    otherwise["readings"][3]["value"] = 0.4
    assert relation(here, otherwise)[0] == "different"
    titled = {**held, "title": "Another title"}
    assert relation(here, titled)[0] == "different"
    assert known(here, read_job(raw({**held, "id": "nobody-has-this"})), {}) is None


def test_merged_a_job_takes_what_only_the_file_has(here: sqlite3.Connection) -> None:
    held = document(here)
    later = more_readings(held)
    left = later["revisions"][-1]
    later["revisions"].append({**left, "id": "left-2", "parent": left["id"],
                               "made_at": "2026-05-21T08:00:00Z"})  # fmt: skip
    later["heads"]["as_left"] = {"at": "left-2", "tip": "left-2"}
    later["walk_notes"].append({**later["walk_notes"][0], "id": "note-9"})
    assert bring_in(here, opened(raw(later)), {}, "merge") == LIFT
    now = document(here)
    assert [r["id"] for r in now["readings"]] == [r["id"] for r in later["readings"]]
    assert now["heads"]["as_left"]["at"] == "left-2"
    assert len(now["walk_notes"]) == len(held["walk_notes"]) + 1
    assert relation(here, later)[0] == "same"


def test_merging_what_both_changed_leaves_the_job_where_it_stood(
    here: sqlite3.Connection,
) -> None:
    held = document(here)
    later = more_readings(held)
    del later["readings"][2]
    for revision in later["revisions"]:
        if revision["id"] == "plan-1":
            later["revisions"].append({**revision, "id": "plan-2", "parent": "plan-1"})
            break
    later["heads"] = {**later["heads"], "planned": {"at": "plan-2", "tip": "plan-2"}}
    bring_in(here, opened(raw(later)), {}, "merge")
    now = document(here)
    assert now["heads"] == held["heads"]
    assert len(now["readings"]) == len(held["readings"]) + 2
    assert {r["id"] for r in now["revisions"]} >= {"plan-1", "plan-2"}


def test_a_reading_that_says_something_else_is_no_merge(here: sqlite3.Connection) -> None:
    held = document(here)
    otherwise = more_readings(held)
    otherwise["readings"][3]["value"] = 0.4
    with pytest.raises(JobFileErrors) as refused:
        bring_in(here, opened(raw(otherwise)), {}, "merge")
    assert refused.value.errors[0].path == "readings[3].id"
    assert document(here) == held
    # As a job of its own it is taken.
    made = bring_in(here, opened(raw(otherwise)), {}, "copy")
    assert made != LIFT
    assert document(here, made)["readings"][3]["value"] == 0.4
    assert document(here) == held


# Nothing by halves


def _killed_half_way(path: Path, text: bytes, how: Any) -> None:
    def die(*_: Any) -> None:
        os._exit(9)

    bringing_in.job_store.add_notes = die  # type: ignore[attr-defined]
    bringing_in.note_store.add_notes = die
    bring_in(connect(path), opened(text), {}, how)


@pytest.mark.parametrize("how", ["copy", "merge"])
def test_killed_half_way_nothing_is_brought_in(
    here: sqlite3.Connection, tmp_path: Path, how: str
) -> None:
    before = {j: job_text(here, j) for j in _ids(here)}
    later = raw(more_readings(document(here)))
    process = multiprocessing.get_context("fork").Process(
        target=_killed_half_way, args=(tmp_path / "here.sqlite3", later, how)
    )
    process.start()
    process.join()
    assert process.exitcode == 9
    assert {j: job_text(here, j) for j in _ids(here)} == before
    assert here.execute("PRAGMA integrity_check").fetchone()[0] == "ok"


def _ids(connection: sqlite3.Connection) -> list[str]:
    return [row["id"] for row in connection.execute("SELECT id FROM job")]


def mutated(said: Document, rng: random.Random) -> Document:
    """The document with one to three things in it gone, doubled or turned into something else."""
    out = copy.deepcopy(said)
    for _ in range(rng.randint(1, 3)):
        holder: Any = out
        while True:
            keys = list(holder) if isinstance(holder, dict) else list(range(len(holder)))
            if not keys:
                break
            key = rng.choice(keys)
            if isinstance(holder[key], dict | list) and rng.random() < 0.8:
                holder = holder[key]
                continue
            _spoil(holder, key, rng)
            break
    return out


def _spoil(holder: Any, key: Any, rng: random.Random) -> None:
    match rng.randrange(4):
        case 0:
            del holder[key]
        case 1:
            holder[key] = rng.choice([None, -1, 1e308, "", "x" * 300, [], {}, True, "as_found", 0])
        case 2 if isinstance(holder, list):
            holder.append(holder[key])
        case _ if isinstance(holder, dict):
            holder[f"{key}?"] = holder[key]


def test_hundreds_of_spoilt_files_are_taken_whole_or_refused(here: sqlite3.Connection) -> None:
    rng = random.Random(7)
    files = [document(here, key) for key in _ids(here)]
    before = {j: job_text(here, j) for j in _ids(here)}
    outcomes: dict[str, int] = {}
    for i in range(300):
        spoilt = mutated(rng.choice(files), rng)
        how = rng.choice(["skip", "copy", "merge"])
        brought = bring_file(here, f"{i}.json", io.BytesIO(raw(spoilt)), how)  # type: ignore[arg-type]
        outcomes[brought.taken] = outcomes.get(brought.taken, 0) + 1
        if brought.taken == "wrong":
            assert brought.trouble
        if brought.taken == "merged":
            before[brought.job] = job_text(here, brought.job)
        elif brought.job and brought.taken in ("new", "copy"):
            here.execute("DELETE FROM job WHERE id = ?", (brought.job,))
    assert {j: job_text(here, j) for j in _ids(here)} == before
    assert outcomes["wrong"] > 100
    assert outcomes.get("copy", 0) > 0


# A whole workshop


def run(*words: str | Path) -> Result:
    return CliRunner().invoke(main, [str(w) for w in words])


def tree(folder: Path) -> dict[str, str]:
    return {
        str(path.relative_to(folder)): path.read_text("utf-8")
        for path in sorted(folder.rglob("*"))
        if path.is_file()
    }


def test_a_workshop_leaves_with_its_data_and_arrives_whole(
    here: sqlite3.Connection, tmp_path: Path
) -> None:
    workshop_store.keep_settings(here, {"workshop": "Quayside", "length": "ft", "paper": "letter"})
    row = {
        "kind": "joint", "style": "own clamp", "name": "Our clamp", "good_low_milliohm": "0.2",
        "good_high_milliohm": "0.4", "aged_milliohm": "1.5", "source": "read here",
    }  # fmt: skip
    keep(here, workshop(here), TABLES["fixed_pieces"], RowsChange((OwnRow(row),)))
    here.execute("UPDATE job SET put_away = 1 WHERE id = ?", (LIFT,))
    first, second = tmp_path / "out", tmp_path / "again"
    assert (
        run("export", "--all", "--out", first, "--database", tmp_path / "here.sqlite3").exit_code
        == 0
    )
    there = tmp_path / "there.sqlite3"
    answer = run("import", first, "--database", there)
    assert answer.exit_code == 0, answer.output
    assert run("export", "--all", "--out", second, "--database", there).exit_code == 0
    assert tree(first) == tree(second)
    assert len(tree(first)) == 8
    assert "own clamp" in tree(first)["tables/fixed_pieces.csv"]
    # Brought in again, every job is left as it is.
    again = run("import", first, "--database", there)
    assert again.stdout.count("skipped (the file is same)") == 6


def test_one_job_on_the_command_line(here: sqlite3.Connection, tmp_path: Path) -> None:
    database = tmp_path / "here.sqlite3"
    listed = run("export", "--database", database).stdout
    assert f"{LIFT}\tShow truck Dunlin: stage lift" in listed
    text = run("export", LIFT, "--database", database).stdout
    assert text == job_text(here, LIFT)
    missing = run("export", "nobody", "--database", database)
    assert (missing.exit_code, missing.stdout) == (2, "")
    assert "there is no job nobody" in missing.stderr
    assert run("export", "--all", "--database", database).exit_code == 2
    file = tmp_path / "job.json"
    file.write_text(text, encoding="utf-8")
    copied = run("import", file, "--how", "copy", "--database", database)
    assert copied.exit_code == 0
    assert "copy (the file is same)" in copied.stdout
    file.write_text(text.replace('"version": 1', '"version": 2'), encoding="utf-8")
    refused = run("import", file, "--database", database)
    assert refused.exit_code == 2
    assert "not taken: version: 2 is newer" in refused.stderr


def test_settings_and_tables_that_are_wrong_are_said_and_the_jobs_still_come(
    here: sqlite3.Connection, tmp_path: Path
) -> None:
    folder = tmp_path / "out"
    run("export", "--all", "--out", folder, "--database", tmp_path / "here.sqlite3")
    (folder / "settings.json").write_text('{"length": "furlong"}', encoding="utf-8")
    (folder / "tables").mkdir(exist_ok=True)
    (folder / "tables" / "nonsense.csv").write_text("a,b\n1,2\n", encoding="utf-8")
    answer = run("import", folder, "--database", tmp_path / "there.sqlite3")
    assert answer.exit_code == 2
    assert "there is no furlong" in answer.stderr
    assert "there is no table nonsense" in answer.stderr
    assert answer.stdout.count("\tnew\t") == 6


def test_the_schema_is_printed() -> None:
    answer = run("schema")
    assert answer.exit_code == 0
    assert "sign_offs" in json.loads(answer.stdout)["properties"]
