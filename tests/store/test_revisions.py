"""Every state of the wiring is kept; undo and redo walk among them."""

import sqlite3
from dataclasses import replace
from pathlib import Path

import pytest

from spare_margin.core.model.jobs import Revision, Stage
from spare_margin.core.model.pieces import Conductor
from spare_margin.service.workshop.demo import fill_with_demo
from spare_margin.store import jobs, records, revisions
from spare_margin.store.file.database import connect, transaction
from spare_margin.store.records import Asked
from spare_margin.wording.records.timeline import changed_words

JOB = "demo-1-sloop-marram"


@pytest.fixture
def connection(tmp_path: Path) -> sqlite3.Connection:
    fill_with_demo(tmp_path / "demo.sqlite3")
    return connect(tmp_path / "demo.sqlite3")


def longer(connection: sqlite3.Connection, name: str, stage: Stage, base: str) -> bool:
    """A change that makes every wire of `base` a metre longer."""
    craft = revisions.wiring(connection, JOB, base)
    pieces = tuple(
        replace(p, length_m=p.length_m + 1) if isinstance(p, Conductor) else p for p in craft.pieces
    )
    made = Revision(
        id=name, stage=stage, parent=base, made_at="2026-05-07T08:00:00Z",
        craft=replace(craft, pieces=pieces),
    )  # fmt: skip
    with transaction(connection):
        return revisions.change(connection, JOB, [made])


def head(connection: sqlite3.Connection, stage: Stage) -> str | None:
    return revisions.heads(connection, JOB).get(stage)


def test_a_wiring_survives_the_store(connection: sqlite3.Connection) -> None:
    before = revisions.wiring(connection, JOB, "as-found")
    longer(connection, "a", "as_found", "as-found")
    after = revisions.wiring(connection, JOB, "a")
    assert revisions.wiring(connection, JOB, "as-found") == before
    assert len(after.pieces) == len(before.pieces)
    assert after != before
    assert revisions.revision(connection, JOB, "none") is None


def test_what_is_kept_is_what_was_given(connection: sqlite3.Connection) -> None:
    """Things changed, exchanged, put in, taken out, one change upon the other."""
    craft = revisions.wiring(connection, JOB, "as-found")
    first, second, *rest = craft.pieces
    extra = replace(first, id="extra")
    lit = replace(craft.loads[0], name="Lit")
    warm = replace(craft.scenarios[0], ambient_c=41.0)
    steps = (
        {"pieces": (replace(first, name="Renamed"), second, *rest)},
        {"pieces": (second, first, *rest), "loads": (lit, *craft.loads[1:])},
        {"pieces": (extra, first, second, *rest)},
        {"pieces": (extra, second, *rest)},
        {"scenarios": (warm, *craft.scenarios[1:])},
        {},
    )
    parent = "as-found"
    for name, step in zip("abcdef", steps, strict=True):
        craft = replace(craft, **step)  # type: ignore[arg-type]
        made = Revision(
            id=name, stage="as_found", parent=parent, made_at="2026-05-07T08:00:00Z", craft=craft
        )
        with transaction(connection):
            assert revisions.change(connection, JOB, [made])
        assert revisions.wiring(connection, JOB, name) == craft
        parent = name


def test_undo_and_redo_walk_the_line(connection: sqlite3.Connection) -> None:
    longer(connection, "a", "as_found", "as-found")
    longer(connection, "b", "as_found", "a")
    assert revisions.can_step(connection, JOB, "as_found") == (True, False)
    assert revisions.step_back(connection, JOB, "as_found") == "b"
    assert revisions.step_back(connection, JOB, "as_found") == "a"
    assert revisions.step_back(connection, JOB, "as_found") is None
    assert head(connection, "as_found") == "as-found"
    assert revisions.can_step(connection, JOB, "as_found") == (False, True)
    assert revisions.step_forward(connection, JOB, "as_found") == "a"
    assert revisions.step_forward(connection, JOB, "as_found") == "b"
    assert revisions.step_forward(connection, JOB, "as_found") is None


def test_a_change_after_undo_starts_another_line(connection: sqlite3.Connection) -> None:
    longer(connection, "a", "as_found", "as-found")
    revisions.step_back(connection, JOB, "as_found")
    longer(connection, "b", "as_found", "as-found")
    assert revisions.step_forward(connection, JOB, "as_found") is None
    assert head(connection, "as_found") == "b"


def test_the_first_of_a_stage_can_be_undone_and_redone(connection: sqlite3.Connection) -> None:
    longer(connection, "p", "planned", "as-found")
    assert list(revisions.heads(connection, JOB)) == ["as_found", "planned"]
    assert revisions.step_back(connection, JOB, "planned") == "p"
    assert head(connection, "planned") is None
    assert revisions.can_step(connection, JOB, "as_found") == (False, True)
    assert revisions.step_forward(connection, JOB, "as_found") == "p"
    assert head(connection, "planned") == "p"


def test_a_measured_stage_is_not_undone_away(connection: sqlite3.Connection) -> None:
    job = "demo-3-show-truck-dunlin"
    assert revisions.can_step(connection, job, "as_left") == (False, False)
    assert revisions.step_back(connection, job, "as_left") is None
    assert "as_left" in revisions.heads(connection, job)


def test_a_change_on_a_stale_base_keeps_nothing(connection: sqlite3.Connection) -> None:
    assert longer(connection, "a", "as_found", "as-found")
    assert not longer(connection, "b", "as_found", "as-found")
    assert revisions.revision(connection, JOB, "b") is None


def test_old_steps_are_let_go_but_never_measured_ones(
    connection: sqlite3.Connection, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(revisions, "KEPT_STEPS", 3)
    base = "as-found"
    for i in range(8):
        longer(connection, f"s{i}", "as_found", base)
        base = f"s{i}"
    kept = {
        row["id"] for row in connection.execute("SELECT id FROM revision WHERE job_id = ?", (JOB,))
    }
    assert kept == {"as-found", "s4", "s5", "s6", "s7"}
    first = revisions.revision(connection, JOB, "s4")
    assert first is not None
    assert first.folded == 4, "what was let go is told with the next that stays"
    assert changed_words(first, None).startswith(
        "As found: 4 earlier changes and this one, together:"
    )
    for _ in range(4):
        assert revisions.step_back(connection, JOB, "as_found")
    assert head(connection, "as_found") == "as-found"


def test_put_away_and_taken_back(connection: sqlite3.Connection) -> None:
    jobs.put_away(connection, JOB, True)
    assert JOB not in [r.id for r in records.search(connection, Asked())[0]]
    assert [r.id for r in records.search(connection, Asked(away=True))[0]] == [JOB]
    jobs.put_away(connection, JOB, False)
    assert records.search(connection, Asked())[0][0].id == JOB
