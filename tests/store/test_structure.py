"""Schema steps never change once they were used; a database that went through one that did is put right."""

import hashlib
import re
import sqlite3
from contextlib import closing
from pathlib import Path

import pytest
from click.testing import CliRunner

from spare_margin.cli import main
from spare_margin.service.workshop.demo import fill_with_demo
from spare_margin.service.workshop.whole_workshop import write_all
from spare_margin.store.file.backups import what_is_wrong
from spare_margin.store.file.database import DatabaseError, connect, migrations
from spare_margin.store.file.migrating import migrate
from spare_margin.store.file.steps import apply_step
from spare_margin.store.file.structure import differences

FROZEN = {
    1: "1e92f13ccda28f1d",
    2: "486f1811e2d1dba9",
    3: "46af450ec8a2f378",
    4: "0ebb6800d415cf70",
    5: "8372d4067ad5156a",
    6: "7eb65227e2c12a8e",
    7: "2faf37a837931c0a",
    8: "d02dfa27a9effb66",
    9: "6116f972e5ee3062",
    10: "66525b51cf2a8979",
    11: "a0a8a03ce0e39e9d",
    12: "f03f9c258c3643f9",
    13: "76bbaec16f79fac5",
    14: "5aa2b63a25f45c5a",
    15: "cc6d69536fbab1cd",
    16: "18bf9762bbc999da",
    17: "3eb4886b37cb9d7f",
    18: "f0b81989cccc216c",
    19: "4f1c40f27559a853",
    20: "1b5f1ebbd6085613",
    21: "7af978cf5a660261",
}
"""The SHA-256 of each step, shortened. A new step is added here; one that is here never changes again."""


def test_steps_stay_as_they_were_used() -> None:
    now = {number: hashlib.sha256(sql.encode()).hexdigest()[:16] for number, sql in migrations()}
    assert now == FROZEN, "a database may have been through it: write another step"


OLD_TRIALS = re.compile(
    r"ALTER TABLE moment ADD COLUMN stand_in.*?(?=CREATE TRIGGER job_shown_trial)", re.S
)
VARIANTS = {
    "as first written": "",
    "things moved": "ALTER TABLE reading ADD COLUMN moved TEXT NOT NULL DEFAULT '';\n",
    "stand-in loads": "ALTER TABLE moment ADD COLUMN stand_in TEXT;\n"
    "ALTER TABLE reading ADD COLUMN moved TEXT NOT NULL DEFAULT '';\n",
}
"""What stood in step 11 in place of what stands there now, by when."""


@pytest.mark.parametrize("variant", VARIANTS)
@pytest.mark.parametrize("up_to", [11, 12])
def test_what_went_through_an_earlier_step_is_put_right(
    tmp_path: Path, variant: str, up_to: int
) -> None:
    path = tmp_path / "jobs.sqlite3"
    with closing(sqlite3.connect(path, isolation_level=None)) as connection:
        for number, sql in migrations():
            if number <= up_to:
                step = OLD_TRIALS.sub(VARIANTS[variant], sql) if number == 11 else sql
                apply_step(connection, number, step)
        assert differences(connection)
        connection.execute("INSERT INTO setting VALUES ('workshop', 'Ida and Per')")
    before = migrate(path)
    assert before is not None
    assert what_is_wrong(path) == ""
    with closing(connect(path)) as connection:
        assert differences(connection) == []
        assert connection.execute("SELECT value FROM setting").fetchone()[0] == "Ida and Per"
        columns = {r["name"] for r in connection.execute("PRAGMA table_info(reading)")}
        assert "moved" in columns
    again = CliRunner().invoke(
        main, ["export", "--all", "--out", str(tmp_path / "out"), "--database", str(path)]
    )
    assert again.exit_code == 0, again.output
    assert migrate(path) is None, "put right once"


def test_rows_stay_when_their_table_is_made_anew(tmp_path: Path) -> None:
    """A whole workshop goes through it: every job comes out as it went in."""
    path = tmp_path / "jobs.sqlite3"
    fill_with_demo(path)
    with closing(connect(path)) as connection:
        was = {p.name: p.read_bytes() for p in write_all(connection, tmp_path / "was")}
    with closing(sqlite3.connect(path, isolation_level=None)) as connection:
        connection.execute("PRAGMA foreign_keys = OFF")
        connection.execute("ALTER TABLE reading DROP COLUMN moved")
        connection.execute("ALTER TABLE moment DROP COLUMN stand_in")
        connection.execute("DROP TRIGGER reading_stays")
        assert len(differences(connection)) == 3
    assert migrate(path) is not None
    assert what_is_wrong(path) == ""
    with closing(connect(path)) as connection:
        assert {p.name: p.read_bytes() for p in write_all(connection, tmp_path / "is")} == was
        with pytest.raises(sqlite3.IntegrityError, match="never changed"):
            connection.execute("UPDATE reading SET value = 1")


@pytest.mark.parametrize("schema", [0, 5])
def test_somebody_elses_database_is_left_alone(tmp_path: Path, schema: int) -> None:
    path = tmp_path / "theirs.sqlite3"
    with closing(sqlite3.connect(path)) as connection:
        connection.execute("CREATE TABLE job (id TEXT)")
        connection.execute(f"PRAGMA user_version = {schema}")
    raw = path.read_bytes()
    with pytest.raises(DatabaseError, match="no database of Spare Margin"):
        migrate(path)
    with closing(sqlite3.connect(path)) as connection:
        assert connection.execute("SELECT sql FROM sqlite_master").fetchall() == [
            ("CREATE TABLE job (id TEXT)",)
        ]
    assert len(path.read_bytes()) == len(raw)
    assert what_is_wrong(path) == "it is no Spare Margin database"
