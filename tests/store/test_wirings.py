"""A wiring is one document of its revision; what older databases hold in rows becomes one, to the digit."""

import sqlite3
from contextlib import closing
from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st

from spare_margin.core.model.pieces import (
    Conductor,
    Craft,
    FixedPiece,
    Load,
    Scenario,
    Size,
    Source,
    SourceState,
    TestPoint,
)
from spare_margin.store import revisions
from spare_margin.store.file.backups import what_is_wrong
from spare_margin.store.file.database import connect
from spare_margin.store.file.migrating import migrate
from spare_margin.store.wirings import read, written
from spare_margin.store.workshop import jobs_with_size, jobs_with_style

THIRD = 1 / 3
"""No number of fifteen digits."""
CRAFT = Craft(
    kind="boat", nominal_v=12.0, polarity="none", reference="b",
    points=(
        TestPoint(id="p", name="Plug “aft”", access="trim"), TestPoint(id="a"), TestPoint(id="b"),
    ),
    sources=(
        Source(id="s", name="House", live="a", back="b", open_circuit_v=12.0 + THIRD,
               internal_ohm=0.01, battery="agm", capacity_ah=110.0),
        Source(id="c", name="Charger", live="a", back="b", open_circuit_v=14.0, internal_ohm=0.1),
    ),
    pieces=(
        FixedPiece(id="sw", start="a", end="p", side="feed", kind="switch", style="rotary",
                   open=True, repair="cleaned", pinned_v=0.1),
        Conductor(id="w", name="Red", start="p", end="q", side="feed", length_m=THIRD * 10,
                  size=Size("mm2", "2.5", "tinned"), insulation_c=90.0, engine_space=True, bundle=3,
                  unsupported=True, cable="loom", temperature_c=-4.5),
        Conductor(id="x", start="r", end="b", side="return", ohm_per_m=0.1 + 0.2),
        FixedPiece(id="u", start="q", end="r", side="return", kind="unknown", resistance_ohm=1e-7),
        FixedPiece(id="f", start="q", end="r", side="feed", kind="fuse", rating_a=7.5),
    ),
    loads=(
        Load(id="l", name="Pump", start="q", end="r", behaviour="constant_power", power_w=THIRD * 100,
             rated_v=12.0, start_multiple=4.0, least_v=9.5, duty="charging", critical=True),
        Load(id="m", name="Mystery", start="q", end="r"),
    ),
    scenarios=(
        Scenario(id="day", name="Day", on=frozenset({"l", "m"}), ambient_c=31.5, engine_c=70.0,
                 sources={"s": SourceState(12.0 + THIRD, None), "c": SourceState(None, 1e6)},
                 starting=frozenset({"l"}), contacts={"sw": "closed"},
                 temperature_model="self_heating"),
        Scenario(id="night", name="Night", on=frozenset()),
    ),
)  # fmt: skip
"""Every field of every record said once, and left unsaid once."""
ROWS = {
    "point": [("p", "Plug “aft”", "trim"), ("a", "", "open"), ("b", "", "open")],
    "source": [
        ("s", "House", "a", "b", 12.0 + THIRD, 0.01, "agm", 110.0),
        ("c", "Charger", "a", "b", 14.0, 0.1, "none", None),
    ],
    "piece": [
        ("sw", "switch", "", "a", "p", "feed", None, 1, "cleaned", None, None, None, None, None, None,
         None, "rotary", None, 0.1, 0, 1, 0, ""),
        ("w", "conductor", "Red", "p", "q", "feed", None, 0, None, THIRD * 10, "mm2", "2.5", "tinned",
         None, 90.0, -4.5, None, None, None, 1, 3, 1, "loom"),
        ("x", "conductor", "", "r", "b", "return", None, 0, None, 0.0, None, None, None, 0.1 + 0.2,
         None, None, None, None, None, 0, 1, 0, ""),
        ("u", "unknown", "", "q", "r", "return", 1e-7, 0, None, None, None, None, None, None, None,
         None, None, None, None, 0, 1, 0, ""),
        ("f", "fuse", "", "q", "r", "feed", None, 0, None, None, None, None, None, None, None, None,
         None, 7.5, None, 0, 1, 0, ""),
    ],
    "load": [
        ("l", "Pump", "q", "r", "constant_power", None, None, THIRD * 100, 12.0, 4.0, 9.5, "charging", 1),
        ("m", "Mystery", "q", "r", "", None, None, None, None, None, None, "ordinary", 0),
    ],
    "scenario": [
        ("day", "Day", 31.5, "self_heating", '["l", "m"]',
         '{"s": [12.333333333333334, null], "c": [null, 1000000.0]}', '["l"]', 70.0,
         '{"sw": "closed"}'),
        ("night", "Night", 20.0, "ambient", "[]", "{}", "[]", None, "{}"),
    ],
}  # fmt: skip
"""The same as it was kept in rows."""
COLUMNS = {
    "point": "id name access",
    "source": "id name live back open_circuit_v internal_ohm battery capacity_ah",
    "piece": "id kind name start end side resistance_ohm open repair length_m size_system size_value"
    " size_finish ohm_per_m insulation_c temperature_c style rating_a pinned_v engine_space bundle"
    " unsupported cable",
    "load": "id name start end behaviour current_a load_ohm power_w rated_v start_multiple least_v duty"
    " critical",
    "scenario": "id name ambient_c temperature_model on sources starting engine_c contacts",
}


def test_a_wiring_is_read_as_it_was_written() -> None:
    assert read(written(CRAFT)) == CRAFT


@given(st.floats(min_value=0, max_value=1e6), st.text(max_size=20))
def test_any_figure_and_any_name_come_back(ohm: float, name: str) -> None:
    one = FixedPiece(
        id="j", name=name, start="a", end="b", side="feed", kind="joint", resistance_ohm=ohm
    )
    craft = Craft(
        kind="other", nominal_v=24.0, polarity="negative", reference="a", points=(), sources=(),
        pieces=(one,), loads=(), scenarios=(),
    )  # fmt: skip
    assert read(written(craft)) == craft


def in_rows(path: Path) -> None:
    """A database as it was while a wiring was kept in rows."""
    migrate(path, up_to=15)
    with closing(sqlite3.connect(path)) as connection:
        connection.execute(
            "INSERT INTO job (id, title, complaint_what, complaint_when, limit_set, stock, made_at)"
            " VALUES ('j', 'Aft plug', '', '', 'by-duty', '[]', '2026-05-01T08:00:00Z')"
        )
        for revision in ("one", "two"):
            connection.execute(
                "INSERT INTO revision (job_id, id, stage, summary, made_at, kind, nominal_v, polarity,"
                " reference) VALUES ('j', ?, 'as_found', '', '2026-05-01T08:00:00Z', 'boat', 12.0,"
                " 'none', 'b')",
                (revision,),
            )
        for table, rows in ROWS.items():
            names = ", ".join(f'"{c}"' for c in COLUMNS[table].split())
            marks = ", ".join("?" * (len(rows[0]) + 3))
            for place, row in reversed(list(enumerate(rows))):
                connection.execute(
                    f"INSERT INTO {table} (job_id, revision_id, place, {names}) VALUES ({marks})",
                    ("j", "one", place, *row),
                )
        connection.execute(
            "INSERT INTO point (job_id, revision_id, place, id, name, access)"
            " VALUES ('j', 'two', 0, 'z', 'Another', 'open')"
        )
        connection.commit()


def test_rows_become_a_document_and_a_copy_is_made_first(tmp_path: Path) -> None:
    path = tmp_path / "jobs.sqlite3"
    in_rows(path)
    before = migrate(path)
    assert before is not None
    assert what_is_wrong(path) == ""
    with closing(connect(path)) as connection:
        assert revisions.wiring(connection, "j", "one") == CRAFT
        assert [p.id for p in revisions.wiring(connection, "j", "two").points] == ["z"]
    with closing(sqlite3.connect(before)) as held:
        assert held.execute("SELECT count(*) FROM piece").fetchone()[0] == len(CRAFT.pieces)


def test_who_has_a_size_or_a_style_is_asked_of_the_documents(tmp_path: Path) -> None:
    path = tmp_path / "jobs.sqlite3"
    in_rows(path)
    migrate(path)
    with closing(connect(path)) as connection:
        assert jobs_with_size(connection, "mm2", "2.5", "tinned") == ["Aft plug"]
        assert jobs_with_size(connection, "mm2", "2.5", None) == ["Aft plug"]
        assert jobs_with_size(connection, "mm2", "2.5", "plain") == []
        assert jobs_with_size(connection, "awg", "2.5", None) == []
        assert jobs_with_style(connection, "switch", "rotary") == ["Aft plug"]
        assert jobs_with_style(connection, "fuse", "rotary") == []
